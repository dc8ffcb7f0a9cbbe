"""Frozen dataclasses that cost next to nothing to define.

The standard library writes and compiles six methods for every class: 0.5-1.2 ms each, a sixth of the start.
Here they are shared, and a class's own ``__init__`` is written when a few instances have been made. Instances are
dataclasses to everybody else: `dataclasses.fields`, `replace` and `asdict` take them.
"""

from __future__ import annotations

import dataclasses
import inspect
from collections.abc import Callable
from typing import TYPE_CHECKING, Any, Generic, Self, TypeVar, cast, overload

__all__ = ("dataclass", "later", "lazy")

# So many instances of a class are made before its own ``__init__`` is written: many have no more.
UNWRITTEN = 4

if TYPE_CHECKING:
    from dataclasses import dataclass
else:

    def dataclass(*, frozen: bool) -> Any:
        """Make a class a frozen dataclass."""
        assert frozen

        def made(kind: type) -> type:
            return _frozen(kind)

        return made


Owner = TypeVar("Owner")
Value = TypeVar("Value")


class lazy(Generic[Owner, Value]):  # noqa: N801 (a decorator, as `property` is)
    """A property that is worked out when it is first asked for, and kept.

    As `functools.cached_property`, without the lock that it takes before Python 3.12: two threads may both work
    it out, to the same value.
    """

    def __init__(self, work: Callable[[Owner], Value]) -> None:
        self._work, self._name = work, work.__name__
        self.__doc__ = work.__doc__

    @overload
    def __get__(self, one: None, kind: Any = None) -> Self: ...

    @overload
    def __get__(self, one: Owner, kind: Any = None) -> Value: ...

    def __get__(self, one: Any, kind: Any = None) -> Any:
        """The value, from now on an attribute of its own."""
        if one is None:
            return self
        value = one.__dict__[self._name] = self._work(one)
        return value


def later(kind: type[Owner], make: Callable[[str], Any], **known: Any) -> Owner:
    """An instance of a class whose fields ``make`` works out by name when they are first asked for, but for the ``known``.

    What it is made from lives as long as it does. No ``__post_init__`` is run.
    """
    whole = _LATER.get(kind)
    if whole is None:
        fields = cast("Any", kind).__dataclass_fields__
        left = {name: _Left(name) for name in fields}
        whole = _LATER[kind] = type(kind.__name__, (kind,), {"__slots__": ("_make_",), **left})
    one: Any = object.__new__(whole)
    one.__dict__.update(known)
    object.__setattr__(one, "_make_", make)
    return cast("Owner", one)


class _Left:
    """A field that `later` has left to be worked out."""

    def __init__(self, name: str) -> None:
        self._name = name

    def __get__(self, one: Any, kind: Any = None) -> Any:
        if one is None:
            return self
        value = one.__dict__[self._name] = one._make_(self._name)
        return value


_LATER: dict[type, type] = {}


# What the standard library marks a plain field with.
_ONE: Any = dataclasses.make_dataclass("_One", ["one"], frozen=True)
_PLAIN = _ONE.__dataclass_fields__["one"]._field_type  # noqa: SLF001


def _frozen(kind: type) -> type:
    own = cast("Any", kind)
    found: dict[str, Any] = {}
    for base in reversed(kind.__mro__[1:]):
        found |= getattr(base, "__dataclass_fields__", {})
    for name, annotation in inspect.get_annotations(kind).items():
        if str(annotation).startswith(("ClassVar", "typing.ClassVar")):
            continue
        given = kind.__dict__.get(name, dataclasses.MISSING)
        field: Any = (
            given if isinstance(given, dataclasses.Field) else dataclasses.field(default=given)
        )
        field.name, field.type, field._field_type = name, annotation, _PLAIN  # noqa: SLF001
        field.kw_only = False
        if field.default is not dataclasses.MISSING:
            setattr(kind, name, field.default)
        elif isinstance(given, dataclasses.Field):
            delattr(kind, name)
        found[name] = field
    own.__dataclass_fields__ = found
    own.__dataclass_params__ = _PARAMS
    own.__init__ = _first_init(kind)
    own.__setattr__, own.__delattr__ = _refuse, _refuse
    for name, method in (("__eq__", _equal), ("__hash__", _hash), ("__repr__", _repr)):
        if kind.__dict__.get(name) is None:
            setattr(kind, name, method)
    return kind


_PARAMS = _ONE.__dataclass_params__


def _first_init(kind: Any) -> Any:
    """An ``__init__`` for the first few, then it writes the real one, puts it in its own place and goes on with it."""
    made_so_far = 0

    def __init__(self: Any, *given: Any, **named: Any) -> None:  # noqa: N807
        nonlocal made_so_far
        made_so_far += 1
        if made_so_far <= UNWRITTEN and _placed(kind, self, given, named):
            return
        made: Any = _written(kind)
        kind.__init__ = made
        made(self, *given, **named)

    return __init__


def _placed(kind: Any, one: Any, given: tuple[Any, ...], named: dict[str, Any]) -> bool:
    """Give an instance its fields without a written ``__init__``; whether all of them fitted."""
    fields = kind.__dataclass_fields__
    if len(given) > len(fields) or not named.keys() <= fields.keys():
        return False
    names = list(fields)
    held = dict(zip(names, given, strict=False))
    if not held.keys().isdisjoint(named):
        return False
    for name in names[len(given) :]:
        field = fields[name]
        if name in named:
            held[name] = named[name]
        elif field.default is not dataclasses.MISSING:
            held[name] = field.default
        elif field.default_factory is not dataclasses.MISSING:
            held[name] = field.default_factory()
        else:
            return False
    one.__dict__.update(held)
    if hasattr(kind, "__post_init__"):
        one.__post_init__()
    return True


def _written(kind: Any) -> Any:
    """The ``__init__`` of a class, compiled from its fields."""
    fields = dataclasses.fields(kind)
    scope: dict[str, Any] = {"MISSING": dataclasses.MISSING}
    given, body = [], ["_held_ = self.__dict__"]
    for field in fields:
        name = field.name
        value = name
        if field.default is not dataclasses.MISSING:
            scope[f"default_{name}"] = field.default
            given.append(f"{name}=default_{name}")
        elif field.default_factory is not dataclasses.MISSING:
            scope[f"make_{name}"] = field.default_factory
            given.append(f"{name}=MISSING")
            value = f"make_{name}() if {name} is MISSING else {name}"
        else:
            given.append(name)
        body.append(f"_held_[{name!r}] = {value}")
    if hasattr(kind, "__post_init__"):
        body.append("self.__post_init__()")
    text = f"def __init__(self, {', '.join(given)}):\n  " + "\n  ".join(body)
    exec(text, scope)  # noqa: S102 (names of our own fields, as the standard library does)
    made = scope["__init__"]
    made.__qualname__ = f"{kind.__qualname__}.__init__"
    return made


def _values(one: Any) -> tuple[Any, ...]:
    return tuple([getattr(one, name) for name in one.__dataclass_fields__])


def _equal(self: Any, other: object) -> Any:
    if other.__class__ is not self.__class__:
        return NotImplemented
    return _values(self) == _values(other)


def _hash(self: Any) -> int:
    return hash(_values(self))


def _repr(self: Any) -> str:
    shown = ", ".join(f"{name}={getattr(self, name)!r}" for name in self.__dataclass_fields__)
    return f"{self.__class__.__qualname__}({shown})"


def _refuse(self: Any, name: str, *_: Any) -> None:
    raise dataclasses.FrozenInstanceError(f"{name} of a {type(self).__name__} can't be changed")
