"""Array maths on batches of 3-D vectors.

A vector array has its component axis *first*: shape ``(3, ...)``, the remaining axes being
samples. Components are then contiguous rows, which keeps the arithmetic fast and lets any batch
shape broadcast. ``rows`` hands out the ``(..., 3)`` view that people expect.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import fields, is_dataclass
from math import prod
from typing import Any, TypeVar

import numpy as np
from numpy.typing import ArrayLike, NDArray

Array = NDArray[np.float64]
Some = TypeVar("Some", bound=np.generic)
FEW = 4096


def vector(x: ArrayLike, y: ArrayLike, z: ArrayLike) -> Array:
    """Stack three broadcastable component arrays into one array of shape ``(3, ...)``."""
    stacked = np.empty((3, *np.broadcast(x, y, z).shape))
    stacked[0], stacked[1], stacked[2] = x, y, z
    return stacked


def widened(a: NDArray[Some], shape: tuple[int, ...]) -> NDArray[Some]:
    """An array broadcast to a shape; as it is where it has that shape. Not to be written to."""
    if a.shape == shape:
        return a
    if prod(shape) > FEW:
        return np.broadcast_to(a, shape)
    # Of few numbers a copy is quicker made than a view.
    wide = np.empty(shape, a.dtype)
    wide[...] = a
    return wide


def cross(a: Array, b: Array) -> Array:
    """Cross product of two ``(3, ...)`` arrays (broadcast over the trailing axes)."""
    ax, ay, az = a
    bx, by, bz = b
    found = np.empty((3, *np.broadcast(ax, bx).shape))
    if found.size <= FEW:
        np.subtract(ay * bz, az * by, out=found[0, ...])
        np.subtract(az * bx, ax * bz, out=found[1, ...])
        np.subtract(ax * by, ay * bx, out=found[2, ...])
        return found
    # Of many numbers the same again with two arrays at work, which stay near the processor.
    less = np.empty(found.shape[1:])
    rows = ((ay, bz, az, by), (az, bx, ax, bz), (ax, by, ay, bx))
    for row, (one, two, three, four) in zip(found, rows, strict=True):
        np.multiply(one, two, out=row)
        np.subtract(row, np.multiply(three, four, out=less), out=row)
    return found


def dot(a: Array, b: Array) -> Array:
    """Scalar product of two ``(3, ...)`` arrays; the component axis is summed away."""
    if a.ndim == b.ndim:
        x, y, z = a * b
    else:
        x, y, z = a[0] * b[0], a[1] * b[1], a[2] * b[2]
    product: Array = x + y
    product += z
    return product


def norm(a: Array) -> Array:
    """Length of each vector of a ``(3, ...)`` array."""
    length: Array = np.sqrt(dot(a, a))
    return length


def unit(a: Array) -> Array:
    """Each vector of ``a`` divided by its length; a zero vector stays zero."""
    length = norm(a)
    scaled: Array = a / (length + (length == 0.0))
    return scaled


def sagittal(angle_rad: ArrayLike, forward: Array | float, up: Array | float) -> Array:
    """Turn a side-view offset by a forward lean.

    ``forward`` and ``up`` are the X and Y components (m) in a part's own upright frame;
    ``angle_rad`` is how far the part leans forward. Returns a ``(3, ...)`` array with z = 0.
    """
    return Lean(angle_rad).turned(forward, up)


class Lean:
    """How far a part leans forward (rad), its cosine and sine kept: it turns many places of the part."""

    __slots__ = ("_cos", "_sin")

    def __init__(self, angle_rad: ArrayLike) -> None:
        self._cos, self._sin = np.cos(angle_rad), np.sin(angle_rad)

    def turned(self, forward: Array | float, up: Array | float) -> Array:
        """A side-view offset (m) as `sagittal` has it."""
        c, s = self._cos, self._sin
        ahead: Array = up * s + forward * c
        found = np.empty((3, *ahead.shape))
        found[0] = ahead
        found[1] = up * c - forward * s
        found[2] = 0.0
        return found


def mirrored(point: Array, middle_m: Array | float = 0.0) -> Array:
    """A point's twin on the other side of the plane ``middle_m`` to the right of the middle, m."""
    across = 2.0 * middle_m - point[2]
    if across.shape != point.shape[1:]:
        return vector(point[0], point[1], across)
    twin = point.copy()
    twin[2] = across
    return twin


def in_rows(parts: Sequence[Array], shape: tuple[int, ...] | None = None) -> Array:
    """Vectors ``(3, ...)`` side by side, ``(3, parts, ...)``; ``shape`` is that of the widest (default: the first's)."""
    wide = parts[0].shape if shape is None else shape
    stacked = np.empty((3, len(parts), *wide[1:]))
    for index, part in enumerate(parts):
        stacked[:, index] = part
    return stacked


def one_over(parts: Sequence[Array], shape: tuple[int, ...] | None = None) -> Array:
    """Arrays one over the other, ``(parts, ...)``; ``shape`` is that of the widest (default: the first's)."""
    stacked = np.empty((len(parts), *(parts[0].shape if shape is None else shape)))
    for index, part in enumerate(parts):
        stacked[index] = part
    return stacked


def rows(a: Array) -> Array:
    """Move the component axis of ``(3, ...)`` to the end: a ``(..., 3)`` view."""
    return np.moveaxis(a, 0, -1)


def smoothstep(x: ArrayLike) -> Array:
    """Cubic ease from 0 (x <= 0) to 1 (x >= 1) with level ends."""
    t = np.minimum(np.maximum(np.asarray(x, dtype=float), 0.0), 1.0)
    eased: Array = t * t * (3.0 - 2.0 * t)
    return eased


def summed(parts: Iterable[Array]) -> Array:
    """Sum of arrays in their order, whatever their shape or place in memory.

    NumPy's own sums take another order for one column than for many, and with it other last bits;
    a case would then differ alone and among others.
    """
    first, *rest = parts
    total: Array = np.array(first, dtype=float)
    for part in rest:
        total += part
    return total


class Named(Mapping[str, Array]):
    """Arrays by name, each made when it is first asked for: few who look at a pose look at all of it."""

    def __init__(self, names: Iterable[str], make: Callable[[str], Array]) -> None:
        self._names = dict.fromkeys(names)
        self._make = make
        self._made: dict[str, Array] = {}

    def __getitem__(self, name: str) -> Array:
        """One of the arrays. Raises `KeyError`."""
        made = self._made.get(name)
        if made is None:
            if name not in self._names:
                raise KeyError(name)
            made = self._made[name] = self._make(name)
        return made

    def __iter__(self) -> Iterator[str]:
        """Their names, in order."""
        return iter(self._names)

    def __len__(self) -> int:
        """How many there are."""
        return len(self._names)


def each_array(value: Any, change: Any) -> Any:
    """A value with every array in it changed: arrays, mappings (when they are asked), tuples, dataclasses."""
    kind = type(value)
    if kind is np.ndarray:
        return change(value) if value.ndim > 1 else value
    if kind in _WITHOUT or (kind is tuple and (not value or type(value[0]) in _WITHOUT)):
        return value
    if kind is tuple:
        return tuple([each_array(item, change) for item in value])
    names = _FIELDS.get(kind)
    if names is None:
        names = tuple(f.name for f in fields(value)) if is_dataclass(value) else ()
        _FIELDS[kind] = names
    if names:
        return kind(*[each_array(getattr(value, name), change) for name in names])
    return _each_named(value, change) if isinstance(value, Mapping) else value


def _each_named(value: Mapping[Any, Any], change: Any) -> Mapping[Any, Any]:
    if all_arrays(value):
        return Named(value, lambda name: each_array(value[name], change))
    return {key: each_array(item, change) for key, item in value.items()}


def all_arrays(value: Mapping[Any, Any]) -> bool:
    """Whether a mapping is known to hold arrays by name."""
    if isinstance(value, Named):
        return True
    return bool(value) and all(isinstance(item, np.ndarray) for item in value.values())


# What holds no arrays; a tuple that begins with one of these is all of that kind.
_WITHOUT = (str, float, int, bool, type(None))
# Names of every dataclass's fields; none for other types.
_FIELDS: dict[type, tuple[str, ...]] = {}
