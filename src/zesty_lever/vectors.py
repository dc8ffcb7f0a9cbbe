"""Array maths on batches of 3-D vectors.

A vector array has its component axis *first*: shape ``(3, ...)``, the remaining axes being
samples. Components are then contiguous rows, which keeps the arithmetic fast and lets any batch
shape broadcast. ``rows`` hands out the ``(..., 3)`` view that people expect.
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numpy.typing import ArrayLike, NDArray

Array = NDArray[np.float64]


def vector(x: ArrayLike, y: ArrayLike, z: ArrayLike) -> Array:
    """Stack three broadcastable component arrays into one array of shape ``(3, ...)``."""
    stacked = np.empty((3, *np.broadcast(x, y, z).shape))
    stacked[0], stacked[1], stacked[2] = x, y, z
    return stacked


def widened(a: Array, shape: tuple[int, ...]) -> Array:
    """An array broadcast to a shape; as it is where it has that shape."""
    return a if a.shape == shape else np.broadcast_to(a, shape)


def cross(a: Array, b: Array) -> Array:
    """Cross product of two ``(3, ...)`` arrays (broadcast over the trailing axes)."""
    ax, ay, az = a
    bx, by, bz = b
    return vector(ay * bz - az * by, az * bx - ax * bz, ax * by - ay * bx)


def dot(a: Array, b: Array) -> Array:
    """Scalar product of two ``(3, ...)`` arrays; the component axis is summed away."""
    product: Array = a[0] * b[0] + a[1] * b[1] + a[2] * b[2]
    return product


def norm(a: Array) -> Array:
    """Length of each vector of a ``(3, ...)`` array."""
    length: Array = np.sqrt(dot(a, a))
    return length


def unit(a: Array) -> Array:
    """Each vector of ``a`` divided by its length; a zero vector stays zero."""
    length = norm(a)
    scaled: Array = a / np.where(length == 0.0, 1.0, length)
    return scaled


def sagittal(angle_rad: ArrayLike, forward: ArrayLike, up: ArrayLike) -> Array:
    """Turn a side-view offset by a forward lean.

    ``forward`` and ``up`` are the X and Y components (m) in a part's own upright frame;
    ``angle_rad`` is how far the part leans forward. Returns a ``(3, ...)`` array with z = 0.
    """
    c, s = np.cos(angle_rad), np.sin(angle_rad)
    ahead, above = np.asarray(forward, dtype=float), np.asarray(up, dtype=float)
    return vector(above * s + ahead * c, above * c - ahead * s, 0.0)


def rows(a: Array) -> Array:
    """Move the component axis of ``(3, ...)`` to the end: a ``(..., 3)`` view."""
    return np.moveaxis(a, 0, -1)


def smoothstep(x: ArrayLike) -> Array:
    """Cubic ease from 0 (x <= 0) to 1 (x >= 1) with level ends."""
    t = np.minimum(np.maximum(np.asarray(x, dtype=float), 0.0), 1.0)
    eased: Array = t * t * (3.0 - 2.0 * t)
    return eased


def find_increasing_root(
    function: Callable[[Array], Array],
    low: ArrayLike,
    high: ArrayLike,
    *,
    tolerance: float = 1e-12,
    most_steps: int = 80,
) -> Array:
    """Solve ``function(x) = 0`` for many independent samples at once.

    ``function`` must change sign from minus to plus between ``low`` and ``high`` (arrays of one
    shape). Regula falsi with the Illinois correction, and a bisection whenever the bracket
    failed to halve in two steps. Samples with no such sign change give NaN, which the caller
    turns into an error. ``tolerance`` is in the units of x.

    Source: Dowell & Jarratt 1971 (the Illinois correction), value from memory.
    """
    a, b = (np.array(v, dtype=float) for v in np.broadcast_arrays(low, high))
    fa, fb = function(a), function(b)
    bracketed = (fa <= 0.0) & (fb >= 0.0)
    a, b = np.where(bracketed, a, 0.0), np.where(bracketed, b, 0.0)
    side = np.zeros(a.shape)
    width_before = np.full(a.shape, np.inf)
    for step in range(most_steps):
        width = b - a
        if not np.any(bracketed & (width > tolerance)):
            break
        gap = fb - fa
        x = np.where(gap == 0.0, a, b - fb * width / np.where(gap == 0.0, 1.0, gap))
        slow = (step % 3 == 2) & (width > 0.5 * width_before)
        x = np.clip(np.where(slow, 0.5 * (a + b), x), a, b)
        fx = function(x)
        width_before = np.where(step % 3 == 2, width, width_before)
        up = fx >= 0.0
        fa = np.where(up, np.where(side > 0, 0.5 * fa, fa), fx)
        fb = np.where(up, fx, np.where(side < 0, 0.5 * fb, fb))
        a, b = np.where(up, a, x), np.where(up, x, b)
        exact = np.abs(fx) <= 1e-14
        a, b = np.where(exact, x, a), np.where(exact, x, b)
        side = np.where(up, 1.0, -1.0)
    return np.where(bracketed, 0.5 * (a + b), np.nan)


def secant_guess(now: tuple[Array, Array], last: tuple[Array, Array]) -> Array:
    """Next guess of a fixed point from a guess and what it missed by, and those before it, element by element.

    Where the secant is no help (the first round, an element that has settled) it goes on by what it missed.
    """
    step, bend = now[0] - last[0], now[1] - last[1]
    bends = np.abs(bend) > 1e-9
    secant = -step / np.where(bends, bend, 1.0)
    guess: Array = now[0] + np.where(bends & (np.abs(secant - 1.0) < 0.9), secant, 1.0) * now[1]
    return guess
