"""Iterations over many samples at once, each sample stopping by itself.

A sample (one case at one moment) is done when its last step is below a tolerance; it is then held
still while the others go on. So its result is the same alone and among others, bit for bit: no step
ever looks at another sample. What has not come to rest after the allowed steps is said so.
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numpy.typing import ArrayLike, NDArray

from zesty_lever.physics.vectors import Array, widened

Flags = NDArray[np.bool_]
# A last step below this ends an iteration: rad, m, or a share of the whole for forces.
TOLERANCE = 1e-9
MOST_STEPS = 40
# A step that is foreseen must be this much below the tolerance to be left out, and the one before it must
# have come down by as much as this: far from a root nothing is foreseen.
FORESEEN, COMES_DOWN = 1e-4, 1e-3
# Places that a search looks at in one call before it starts.
LOOKS = 17


def secant_root(
    residual: Callable[[Array], Array],
    start: Array,
    slope: Array | float,
    *,
    longest_step: float = np.inf,
    tolerance: float = TOLERANCE,
    most_steps: int = MOST_STEPS,
) -> tuple[Array, Flags]:
    """Root of a residual by the secant method, and which samples have come to rest.

    ``slope`` is a guess of how the residual rises at ``start``; a step is never longer than
    ``longest_step``. A sample whose residual is not a number stays so. The error of a secant step is the
    product of the last two times a number that hardly changes: where that foresees a next step far below the
    tolerance, it is not taken.
    """
    before = residual(start)
    old = widened(start, before.shape)
    new = old - np.minimum(np.maximum(before / slope, -longest_step), longest_step)
    active = np.ones(new.shape, dtype=bool)
    last = last_but_one = np.zeros(new.shape)
    for _ in range(most_steps):
        now = residual(new)
        rise = now - before
        step = now * (new - old) / (rise + (rise == 0.0))
        step = np.minimum(np.maximum(step, -longest_step), longest_step)
        old, before = new, now
        new = np.where(active, new - step, new)
        size = np.abs(step)
        foreseen = size * size < (FORESEEN * tolerance) * last_but_one
        foreseen &= size < COMES_DOWN * last
        # A step that is not a number ends its sample too.
        active &= (size >= tolerance) & ~foreseen
        if not active.any():
            break
        last, last_but_one = size, last
    return new, ~(active | np.isnan(new))


def broyden_pair(
    residuals: Callable[[Array, Array], tuple[Array, Array]],
    start: tuple[Array, Array],
    slopes: tuple[Array, Array],
    *,
    longest_steps: tuple[float, float],
    tolerance: float = TOLERANCE,
    most_steps: int = MOST_STEPS,
) -> tuple[Array, Array, Flags]:
    """Two unknowns of two residuals, and which samples have come to rest.

    ``slopes`` are guesses of how each residual rises with its own unknown. Broyden's first method
    learns the rest step by step. Source: Broyden 1965, value from memory.
    """
    at = _pair(*np.broadcast_arrays(*start))
    missed = _pair(*residuals(*at))
    most = np.reshape(longest_steps, (2, *([1] * (at.ndim - 1))))
    # What each unknown is to be changed by for a metre (a radian) of each residual.
    inverse = np.zeros((2, *at.shape))
    inverse[0, 0], inverse[1, 1] = 1.0 / slopes[0], 1.0 / slopes[1]
    active = np.ones(at.shape[1:], dtype=bool)
    for _ in range(most_steps):
        step = -(inverse[:, 0] * missed[0] + inverse[:, 1] * missed[1])
        step = np.minimum(np.maximum(step, -most), most)
        at = np.where(active, at + step, at)
        size = np.abs(step)
        # A step that is not a number ends its sample too.
        active &= np.maximum(size[0], size[1]) >= tolerance
        if not active.any():
            break
        now = _pair(*residuals(*at))
        rise, missed = now - missed, now
        found = inverse[:, 0] * rise[0] + inverse[:, 1] * rise[1]
        bend = step[0] * found[0] + step[1] * found[1]
        bend = np.where(np.abs(bend) > 1e-300, bend, np.inf)
        row = step[0] * inverse[0] + step[1] * inverse[1]
        inverse += ((step - found) / bend)[:, None] * row
    return at[0], at[1], ~(active | np.isnan(at[0]) | np.isnan(at[1]))


def _pair(one: Array, two: Array) -> Array:
    """Two arrays as one."""
    both = np.empty((2, *one.shape))
    both[0], both[1] = one, two
    return both


def find_increasing_root(
    function: Callable[[Array], Array],
    low: ArrayLike,
    high: ArrayLike,
    *,
    tolerance: float = TOLERANCE,
    most_steps: int = 120,
) -> Array:
    """Solve ``function(x) = 0`` for many independent samples at once.

    ``function`` must change sign from minus to plus between ``low`` and ``high`` (arrays of one
    shape). Regula falsi with the Illinois correction, and a bisection whenever the bracket
    failed to halve in three steps; a sample whose bracket is below ``tolerance`` (in the units of x)
    is done. Samples with no such sign change give NaN, which the caller turns into a problem.

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
        active = bracketed & (width > tolerance)
        if not active.any():
            break
        gap = fb - fa
        x = np.where(gap == 0.0, a, b - fb * width / np.where(gap == 0.0, 1.0, gap))
        slow = (step % 3 == 2) & (width > 0.5 * width_before)
        x = np.clip(np.where(slow, 0.5 * (a + b), x), a, b)
        fx = function(x)
        width_before = np.where(step % 3 == 2, width, width_before)
        up = fx >= 0.0
        new_fa = np.where(up, np.where(side > 0, 0.5 * fa, fa), fx)
        new_fb = np.where(up, fx, np.where(side < 0, 0.5 * fb, fb))
        new_a, new_b = np.where(up, a, x), np.where(up, x, b)
        exact = np.abs(fx) <= 1e-14
        new_a, new_b = np.where(exact, x, new_a), np.where(exact, x, new_b)
        a, b = np.where(active, new_a, a), np.where(active, new_b, b)
        fa, fb = np.where(active, new_fa, fa), np.where(active, new_fb, fb)
        side = np.where(up, 1.0, -1.0)
    return np.where(bracketed, 0.5 * (a + b), np.nan)


def root_by_looks(
    function: Callable[[Array], Array],
    low: Array,
    high: Array,
    *,
    tolerance: float = TOLERANCE,
    looks: int = LOOKS,
) -> Array:
    """Root of ``function`` between ``low`` and ``high``, ``(cases, 1)``, for few cases at little cost.

    One call looks at ``looks`` places at once; the cubic through the four around the change of sign says
    where a secant search starts. Where that leaves the two places, `find_increasing_root` goes the safe way.
    The function must be smooth but for a few bends. NaN where its sign does not change from minus to plus.
    """
    places = low + (high - low) * np.linspace(0.0, 1.0, looks)
    values = function(places)
    rises = (values[:, :-1] <= 0.0) & (values[:, 1:] >= 0.0)
    bracketed = (values[:, :1] <= 0.0) & (values[:, -1:] >= 0.0)
    at = np.argmax(rises, axis=-1)[:, None]
    four = np.clip(at - 1, 0, looks - 4) + np.arange(4)
    x, f = np.take_along_axis(places, four, -1), np.take_along_axis(values, four, -1)
    x_low, x_high = (np.take_along_axis(places, at + i, -1) for i in (0, 1))
    f_low, f_high = (np.take_along_axis(values, at + i, -1) for i in (0, 1))
    with np.errstate(invalid="ignore", divide="ignore"):
        slope = (f_high - f_low) / (x_high - x_low)
        start = _inverse_cubic(x, f)
        chord = x_low - f_low / slope
        start = np.where((start >= x_low) & (start <= x_high), start, chord)
        root, settled = secant_root(function, start, slope, tolerance=tolerance, most_steps=8)
        kept = settled & (root >= x_low - tolerance) & (root <= x_high + tolerance)
    lost = bracketed & ~(kept & rises.any(axis=-1, keepdims=True))
    if lost.any():
        safe = find_increasing_root(function, low, high, tolerance=tolerance)
        root = np.where(lost, safe, root)
    return np.where(bracketed, root, np.nan)


def _inverse_cubic(x: Array, f: Array) -> Array:
    """Where the cubic x(f) through four points ``(cases, 4)`` has f = 0, ``(cases, 1)``."""
    found = np.zeros((len(x), 1))
    for i in range(4):
        weight = x[:, i : i + 1]
        for j in range(4):
            if j != i:
                weight = weight * f[:, j : j + 1] / (f[:, j : j + 1] - f[:, i : i + 1])
        found = found + weight
    return found


def secant_guess(now: tuple[Array, Array], last: tuple[Array, Array]) -> Array:
    """Next guess of a fixed point from a guess and its residual, and those before it, element by element.

    Where the secant is no help (the first round, an element that has settled) it goes on by the residual.
    """
    step, bend = now[0] - last[0], now[1] - last[1]
    bends = np.abs(bend) > 1e-12
    secant = -step / np.where(bends, bend, 1.0)
    guess: Array = now[0] + np.where(bends & (np.abs(secant - 1.0) < 0.9), secant, 1.0) * now[1]
    return guess
