"""Typed models of everything that is read from outside, and errors that name what is wrong with it.

A model is a frozen structure whose fields carry unit, range and length. `read` checks plain data
against it field by field, so that an error names key, value, unit and range from the model itself.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from functools import lru_cache
from typing import Any, Self, TypeVar

import msgspec
from msgspec import Meta, inspect

from zesty_lever.problems import CaseError, one_line, out_of_range, printable, unknown_key

Some = TypeVar("Some")
MOST_ITEMS = 100_000


class Model(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """Base of all models: immutable, fields by name, no unknown keys."""

    def changed(self, **changes: Any) -> Self:
        """Return the same with other values for some fields."""
        return msgspec.structs.replace(self, **changes)

    def as_dict(self) -> dict[str, Any]:
        """Fields by name, not deeply converted."""
        return msgspec.structs.asdict(self)


def quantity(unit: str, low: float, high: float) -> Meta:
    """Annotation of a number with a unit and a closed range, for reading and for the schema."""
    return Meta(ge=low, le=high, extra={"unit": unit}, extra_json_schema={"unit": unit})


def none_as(word: str) -> Meta:
    """Annotation of a number that may be None, written as null or as a word."""
    kinds = [{"type": "number"}, {"type": "null"}, {"const": word}]
    return Meta(extra={"none_as": word}, extra_json_schema={"anyOf": kinds})


def at_most(length: int) -> Meta:
    """Annotation of a text, list or table that has a greatest length."""
    return Meta(max_length=length)


def field_names(model: type[Model]) -> tuple[str, ...]:
    """Names of a model's fields."""
    return model.__struct_fields__


def read(kind: type[Some], data: Any, key: str = "") -> Some:
    """Read plain data as a model. Raises `CaseError` naming key, value, unit and range."""
    found: Some = _value(_info(kind), data, key, "")
    return found


def _info(kind: Any) -> inspect.Type:
    if kind not in _INFOS:
        _INFOS[kind] = inspect.type_info(kind)
    return _INFOS[kind]


_INFOS: dict[Any, inspect.Type] = {}


def _value(info: inspect.Type, data: Any, key: str, unit: str) -> Any:
    if isinstance(info, inspect.Metadata):
        extra = info.extra or {}
        if "none_as" in extra and isinstance(data, float):
            # A setting's own range, which the catalogue knows, says more than "not a number".
            return data
        data = None if data is not None and data == extra.get("none_as") else data
        return _value(info.type, data, key, str(extra.get("unit", unit)))
    return _READERS[type(info)](info, data, key, unit)


def _struct(info: inspect.StructType, data: Any, key: str, _: str) -> Any:
    if not isinstance(data, dict):
        raise _wrong_type(key or "this", data, "an object")
    known = [field.encode_name for field in info.fields]
    tag = info.tag_field
    for name in data:
        if name not in known and name != tag:
            raise unknown_key(_under(key, name), (*((tag,) if tag else ()), *known))
    values = {}
    for field in info.fields:
        name = field.encode_name
        if name in data:
            values[field.name] = _value(field.type, data[name], _under(key, name), "")
        elif field.required:
            raise CaseError("missing-key", f"{_under(key, name)} is missing", key=_under(key, name))
    return info.cls(**values)


@lru_cache(maxsize=2048)
def _under(key: str, name: Any) -> str:
    name = one_line(str(name), 60)
    return f"{key}.{name}" if key else name


def _float(info: inspect.FloatType, data: Any, key: str, unit: str) -> float:
    bounds = None if info.ge is None or info.le is None else (float(info.ge), float(info.le))
    if isinstance(data, bool) or not isinstance(data, int | float):
        raise _wrong_number(key, data, unit, bounds)
    if isinstance(data, int) and abs(data) > 10**18:
        raise out_of_range(key, data, unit, bounds or (-1e18, 1e18))
    number = float(data)
    if not math.isfinite(number):
        raise _wrong_number(key, number, unit, bounds, "not-a-number")
    if bounds is not None and not bounds[0] <= number <= bounds[1]:
        raise out_of_range(key, number, unit, bounds)
    return number


def _int(info: inspect.IntType, data: Any, key: str, unit: str) -> int:
    low, high = info.ge or 0, 10**9 if info.le is None else info.le
    if isinstance(data, bool) or not isinstance(data, int):
        raise _wrong_number(key, data, unit, (low, high))
    if not low <= data <= high:
        raise out_of_range(key, data, unit, (low, high))
    return data


def _text(info: inspect.StrType, data: Any, key: str, _: str) -> str:
    if not isinstance(data, str):
        raise _wrong_type(key, data, "text")
    _check_length(info.min_length or 0, info.max_length, data, key, "characters")
    if not data.isprintable() and any("\ud800" <= c <= "\udfff" for c in data):
        raise CaseError("not-text", f"{key} holds half a character", key=key, value=data)
    return data


def _check_length(least: int, most: int | None, data: Any, key: str, what: str) -> None:
    most = MOST_ITEMS if most is None else most
    if not least <= len(data) <= most:
        raise CaseError(
            "out-of-range",
            f"{key} has {len(data)} {what}; allowed are {least} to {most}",
            key=key,
            value=len(data),
            unit=what,
            allowed=[least, most],
        )


def _bool(_: inspect.BoolType, data: Any, key: str, __: str) -> bool:
    if not isinstance(data, bool):
        raise _wrong_type(key, data, "true or false")
    return data


def _nothing(_: inspect.NoneType, data: Any, key: str, __: str) -> None:
    if data is not None:
        raise _wrong_type(key, data, "null")


def _literal(info: inspect.LiteralType, data: Any, key: str, _: str) -> Any:
    if isinstance(data, str | int) and data in info.values:
        return data
    known = ", ".join(str(value) for value in info.values)
    raise CaseError(
        "wrong-value",
        f"{key} is {_shown(data)}; known are: {known}",
        key=key,
        value=data,
        allowed=list(info.values),
    )


def _items(info: inspect.VarTupleType | inspect.ListType, data: Any, key: str, unit: str) -> Any:
    if not isinstance(data, list | tuple):
        raise _wrong_type(key, data, "a list")
    _check_length(info.min_length or 0, info.max_length, data, key, "items")
    read_all = [_value(info.item_type, item, f"{key}.{i}", unit) for i, item in enumerate(data)]
    return tuple(read_all) if isinstance(info, inspect.VarTupleType) else read_all


def _tuple(info: inspect.TupleType, data: Any, key: str, unit: str) -> tuple[Any, ...]:
    count = len(info.item_types)
    if not isinstance(data, list | tuple):
        raise _wrong_type(key, data, f"a list of {count}")
    _check_length(count, count, data, key, "items")
    return tuple(
        _value(kind, item, f"{key}.{i}", unit)
        for i, (kind, item) in enumerate(zip(info.item_types, data, strict=True))
    )


def _dict(info: inspect.DictType, data: Any, key: str, unit: str) -> dict[Any, Any]:
    if not isinstance(data, dict):
        raise _wrong_type(key, data, "an object")
    _check_length(0, info.max_length, data, key, "items")
    found = {}
    for name, item in data.items():
        below = _under(key, name)
        found[_key(info.key_type, name, below)] = _value(info.value_type, item, below, unit)
    return found


def _key(info: inspect.Type, name: Any, key: str) -> Any:
    """A key of an object: JSON has texts only, a table may be by number."""
    bare = info.type if isinstance(info, inspect.Metadata) else info
    if isinstance(bare, inspect.FloatType) and isinstance(name, str):
        try:
            name = float(name)
        except ValueError:
            raise _wrong_type(key, name, "a number") from None
    if isinstance(bare, inspect.IntType) and isinstance(name, str):
        if not name.isascii() or not name.isdigit() or len(name) > 9:
            raise _wrong_type(key, name, "a whole number")
        name = int(name)
    if isinstance(bare, inspect.LiteralType) and name not in bare.values:
        raise unknown_key(key, [str(v) for v in bare.values])
    return _value(info, name, key, "")


def _union(info: inspect.UnionType, data: Any, key: str, unit: str) -> Any:
    bare = [
        (kind.type if isinstance(kind, inspect.Metadata) else kind, kind) for kind in info.types
    ]
    structs = [kind for kind, _ in bare if isinstance(kind, inspect.StructType)]
    if structs and isinstance(data, dict):
        if len(structs) == 1 and structs[0].tag_field is None:
            return _value(structs[0], data, key, unit)
        return _tagged(structs, data, key, unit)
    for kind, whole in bare:
        if isinstance(data, _PYTHON_KINDS.get(type(kind), ())) and not isinstance(data, bool):
            return _value(whole, data, key, unit)
    first = next(
        (whole for kind, whole in bare if not isinstance(kind, inspect.NoneType)), bare[0][1]
    )
    return _value(first, data, key, unit)


def _tagged(structs: list[inspect.StructType], data: dict[str, Any], key: str, unit: str) -> Any:
    """The structure that an object's tag names."""
    field = structs[0].tag_field or ""
    tags = {struct.tag: struct for struct in structs}
    if field not in data:
        raise CaseError("missing-key", f"{_under(key, field)} is missing", key=_under(key, field))
    tag = data[field]
    if not isinstance(tag, str) or tag not in tags:
        known = [str(t) for t in tags]
        raise CaseError(
            "wrong-value",
            f"{_under(key, field)} is {_shown(tag)}; known are: {', '.join(known)}",
            key=_under(key, field),
            value=tag,
            allowed=known,
        )
    return _value(tags[tag], data, key, unit)


def _shown(data: Any) -> str:
    if isinstance(data, bool | int | float | str):
        return str(printable(data))
    return _kind(data)


def _kind(data: Any) -> str:
    names = {dict: "an object", list: "a list", tuple: "a list", str: "text", bool: "true or false"}
    if data is None:
        return "null"
    return names.get(type(data), "a number" if isinstance(data, int | float) else "unreadable")


def _wrong_type(key: str, data: Any, wanted: str) -> CaseError:
    text = f"{key} is {_shown(data)}; allowed is {wanted}"
    return CaseError("wrong-type", text, key=key, value=data)


def _wrong_number(
    key: str,
    data: Any,
    unit: str,
    bounds: tuple[float, float] | None,
    code: str = "wrong-type",
) -> CaseError:
    within = "" if bounds is None else f" from {bounds[0]:g} to {bounds[1]:g} {unit}".rstrip()
    return CaseError(
        code,
        f"{key} is {_shown(data)}; allowed is a number{within}",
        key=key,
        value=data,
        unit=unit,
        allowed=None if bounds is None else list(bounds),
    )


def _anything(_: inspect.Type, data: Any, __: str, ___: str) -> Any:
    return data


_READERS: dict[type[inspect.Type], Callable[[Any, Any, str, str], Any]] = {
    inspect.StructType: _struct,
    inspect.FloatType: _float,
    inspect.IntType: _int,
    inspect.StrType: _text,
    inspect.BoolType: _bool,
    inspect.NoneType: _nothing,
    inspect.LiteralType: _literal,
    inspect.VarTupleType: _items,
    inspect.ListType: _items,
    inspect.TupleType: _tuple,
    inspect.DictType: _dict,
    inspect.UnionType: _union,
    inspect.AnyType: _anything,
}
_PYTHON_KINDS: dict[type[inspect.Type], tuple[type, ...]] = {
    inspect.FloatType: (int, float),
    inspect.IntType: (int,),
    inspect.StrType: (str,),
    inspect.LiteralType: (str,),
    inspect.NoneType: (type(None),),
    inspect.VarTupleType: (list, tuple),
    inspect.TupleType: (list, tuple),
    inspect.DictType: (dict,),
}
