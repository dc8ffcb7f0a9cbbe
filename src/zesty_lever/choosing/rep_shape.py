"""Intervals of what a whole rep says: where a joint is hardest, what is left at lockout, impulse, front share.

Every draw's rep is worked out at every second frame, as done: see `uncertainty`.
"""

from __future__ import annotations

from collections.abc import Mapping
from contextlib import suppress

import numpy as np

from zesty_lever.analysis import Result, lockout_frame
from zesty_lever.cases.batch import Batch
from zesty_lever.choosing.scatter import SEED, Errors, pair_share, scattered
from zesty_lever.choosing.uncertainty import Interval, shortest
from zesty_lever.frozen import dataclass
from zesty_lever.joints import JOINTS
from zesty_lever.physics.solved import Solved
from zesty_lever.physics.tempo import Timeline
from zesty_lever.physics.vectors import Array
from zesty_lever.problems import CaseError

SHAPE_DRAWS, KNOT_EVERY = 150, 2
OF_JOINTS = ("at_progress", "lockout_to_peak", "impulse_Nms")
FRONT_SHARE = "front_share"
# Intervals by joint ("" for the whole body) and quantity.
Shapes = dict[tuple[str, str], Interval]
# A lockout is told as a share of a peak that is at least this, N m.
LEAST_PEAK_NM = 5.0


def rep_intervals(
    result: Result, errors: Errors | None = None, draws: int = SHAPE_DRAWS, seed: int = SEED
) -> Shapes:
    """90 % intervals by joint and quantity, and of the front leg's share under ``("", "front_share")``.

    ``at_progress`` and ``lockout_to_peak`` are those of the peak in the estimate's direction;
    ``impulse_Nms`` is signed. What too few draws can stand for is left out. Raises the case's
    `CaseError` if it is impossible.
    """
    _ = result.solved
    errors = errors or Errors()
    batch = scattered(result.case, errors, draws, seed, apart=True)
    grid = _grid(batch, result.timeline)
    share = pair_share(draws, seed) if errors.pair else np.zeros((draws, 1))
    found: list[Mapping[str, Array]] = []
    done = 0
    for part in batch.in_parts(result.timeline.instants_at(grid.knots, moving=batch.moving)):
        count = len(part.feasible)
        found.append(_shapes(result, part, share[done : done + count], grid))
        done += count
    values = {key: np.concatenate([part[key] for part in found]) for key in found[0]}
    return _intervals(result, values)


@dataclass(frozen=True)
class _Grid:
    """Frames at which draws are worked out, and how the rep's frames lie between them.

    ``weights`` ``(frames, knots)`` carry values at the knots over to every frame, straight between them.
    """

    knots: list[int]
    weights: Array


def _grid(batch: Batch, times: Timeline) -> _Grid:
    """Every second frame, of one way only where both are the same."""
    count = len(times.progress)
    start, last = (0, count - 1) if batch.both_ways_differ else times.moves[0]
    knots = sorted({*range(start, last + 1, KNOT_EVERY), last, times.top, times.bottom})
    own = np.arange(start, last + 1)
    if batch.both_ways_differ:
        like = own
    else:
        like = own[np.argmin(np.abs(times.progress[own][:, None] - times.progress), axis=0)]
    hats = [np.interp(like, knots, one) for one in np.eye(len(knots))]
    return _Grid(knots, np.stack(hats, axis=1))


def _shapes(result: Result, part: Solved, pair: Array, grid: _Grid) -> dict[str, Array]:
    """Values of one part's draws, ``(draws, joints)`` by quantity, NaN where a draw can't stand."""
    times, carried, at_knots = result.timeline, part.ground.share, part.moments.extension
    if part.support.kind in ("feet", "places"):
        at_knots = at_knots + pair * (part.other_extension - at_knots)
        carried = carried + pair * (part.other_ground.share - carried)
    ways = np.array([1.0 if result.summary[j].peak_Nm >= 0.0 else -1.0 for j in JOINTS])
    along = ways[:, None, None] * at_knots
    peaks = along.max(axis=-1) * ways[:, None]
    curves = at_knots @ grid.weights.T
    lockout = curves[..., lockout_frame(result)]
    left = np.full_like(peaks, np.nan)
    np.divide(lockout, peaks, out=left, where=np.abs(peaks) > LEAST_PEAK_NM)
    areas = 0.5 * (curves[..., 1:] + curves[..., :-1]) * np.diff(times.time_s)
    values = {
        "at_progress": np.interp(
            _turning(along, grid.knots), range(len(times.progress)), times.progress
        ),
        "lockout_to_peak": left,
        "impulse_Nms": areas.sum(axis=-1),
        FRONT_SHARE: carried[..., grid.knots.index(times.bottom)][None],
    }
    return {key: np.where(part.feasible, value, np.nan).T for key, value in values.items()}


def _turning(along: Array, knots: list[int]) -> Array:
    """Frame (with its fraction) at which curves over the knots (last axis) are largest: a parabola's top."""
    at = np.argmax(along, axis=-1)
    middle = np.clip(at, 1, len(knots) - 2)
    before, there, after = (
        np.take_along_axis(along, (middle + step)[..., None], axis=-1)[..., 0]
        for step in (-1, 0, 1)
    )
    bend = before - 2.0 * there + after
    off = 0.5 * (before - after) / np.where(bend < 0.0, bend, -np.inf)
    off = np.where((at == middle) & (bend < 0.0), off, at - middle)
    found: Array = np.interp(middle + off, range(len(knots)), knots)
    return found


def _intervals(result: Result, values: Mapping[str, Array]) -> Shapes:
    found: Shapes = {}
    for row, joint in enumerate(JOINTS):
        for key in OF_JOINTS:
            with suppress(CaseError):
                nominal = getattr(result.summary[joint], key)
                found[joint, key] = shortest(nominal, values[key][:, row])
    if result.solved.support.kind == "places" and result.variation.has_front_leg:
        with suppress(CaseError):
            nominal = float(result.solved.ground.share[result.timeline.bottom])
            found["", FRONT_SHARE] = shortest(nominal, values[FRONT_SHARE][:, 0])
    return found
