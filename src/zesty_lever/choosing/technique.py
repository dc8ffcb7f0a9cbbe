"""The best technique within one variation, inside the athlete's range, and the frontier around it."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from zesty_lever.cases.batch import Batch, make_batch
from zesty_lever.cases.model import Case
from zesty_lever.cases.resolve import resolve
from zesty_lever.choosing.loading import group_named
from zesty_lever.exercises.builder import Flags
from zesty_lever.exercises.catalogue import Variation
from zesty_lever.joints import COACH_JOINTS
from zesty_lever.physics.body import landmark
from zesty_lever.physics.vectors import Array
from zesty_lever.problems import CaseError


@dataclass(frozen=True)
class Point:
    """One technique: settings and its peaks (N m)."""

    settings: Mapping[str, float]
    peaks: Mapping[str, float]


@dataclass(frozen=True)
class Search:
    """The best technique found, the frontier of hip, knee and back, and how many were tried."""

    best: Point
    start: Point
    frontier: tuple[Point, ...]
    tried: int


@dataclass(frozen=True)
class _Tried:
    """Samples of the searched settings ``(samples, settings)``, their peaks, and which can be done."""

    samples: Array
    peaks: Mapping[str, Array]
    able: Flags


SEARCHED = (
    "stance_m",
    "toe_out_deg",
    "shin_deg",
    "thigh_deg",
    "trunk_deg",
    "step_m",
    "hands_ahead_m",
    "front_share",
    "lockout_trunk_deg",
)
FIRST, ROUNDS, EACH = 4000, 6, 1500
NARROWER = 0.55
CHECKED = 64
MOST_ON_FRONTIER = 60


def search(
    case: Case,
    joint: str,
    *,
    most: bool = False,
    ceilings: Mapping[str, float] | None = None,
    keys: Sequence[str] | None = None,
    keep_depth: bool = True,
    seed: int = 7,
    tell: Callable[[float], None] | None = None,
) -> Search:
    """Settings within this athlete's range that lower (or raise) a joint's peak under ceilings (N m).

    Seeded sampling of the whole range, then rounds of narrower sampling about the best so far, all as
    arrays; what is answered is worked out over the whole rep. Depth stays as it is unless ``keep_depth``
    is off. Raises `CaseError` where nothing fits.
    """
    group_named(joint)
    ceilings = ceilings or {}
    for other in ceilings:
        group_named(other)
    resolved = resolve(case)
    batch = make_batch([resolved])
    chosen = batch.variation
    axes = [
        k
        for k in (keys or SEARCHED)
        if k in resolved.given and not (keep_depth and k == chosen.depth)
    ]
    at = np.array([resolved.given[k] for k in axes])

    def pick(known: Sequence[_Tried]) -> Array | None:
        return _best_of(known, joint, most=most, ceilings=ceilings)

    every = _sampled(batch, axes, at, pick, seed, tell)
    fits = every.able & _under(every.peaks, ceilings)
    wanted = -every.peaks[joint] if most else every.peaks[joint]
    ranked = np.argsort(np.where(fits, wanted, np.inf))[: int(fits.sum())]
    row = next(iter(_whole_rows(batch, axes, every.samples, ranked, 1)), None)
    if row is None:
        raise CaseError("nothing-fits", "no technique in this athlete's range keeps those ceilings")
    frontier = _whole_rows(batch, axes, every.samples, _frontier(every), MOST_ON_FRONTIER)
    best_point, start, *points = _points(batch, axes, every.samples, [row, 0, *frontier])
    return Search(best_point, start, tuple(points), len(every.samples))


def _sampled(
    batch: Batch,
    axes: Sequence[str],
    at: Array,
    pick: Callable[[Sequence[_Tried]], Array | None],
    seed: int,
    tell: Callable[[float], None] | None,
) -> _Tried:
    """All samples: ``at`` first, the believable range about it, then rounds about what ``pick`` likes best."""
    random, chosen = np.random.default_rng(seed), batch.variation
    low, high = (
        np.array([getattr(chosen.settings[k], end) for k in axes]) for end in ("low", "high")
    )
    reach = _believable(chosen, axes, low, high)
    samples = np.clip(at + random.uniform(-1.0, 1.0, (FIRST, len(axes))) * reach, low, high)
    samples[0] = at
    allowed = max(_rounding_of(batch), np.radians(landmark("ordinary_lumbar_flexion_deg")))
    known: list[_Tried] = []
    best, width = at, reach
    for number in range(ROUNDS + 1):
        known.append(_try(batch, axes, samples, allowed))
        found = pick(known)
        best = best if found is None else found
        width = width * NARROWER
        samples = np.clip(best + random.normal(0.0, 0.5, (EACH, len(axes))) * width, low, high)
        if tell is not None:
            tell((number + 1) / (ROUNDS + 1))
    return _joined(known)


def _varied(batch: Batch, axes: Sequence[str], samples: Array) -> Batch:
    return batch.varied(settings={k: samples[:, i : i + 1] for i, k in enumerate(axes)})


def _whole_rows(
    batch: Batch, axes: Sequence[str], every: Array, ranked: NDArray[np.intp], most: int
) -> list[int]:
    """The first rows whose whole rep can be done, not only the moments that the search looked at."""
    found: list[int] = []
    for start in range(0, len(ranked), CHECKED):
        rows = ranked[start : start + CHECKED]
        varied = _varied(batch, axes, every[rows])
        able = varied.solve(varied.whole).feasible
        found += [int(row) for row, fits in zip(rows, able, strict=True) if fits]
        if len(found) >= most:
            break
    return found[:most]


def _points(batch: Batch, axes: Sequence[str], every: Array, rows: Sequence[int]) -> list[Point]:
    """Techniques with their peaks over the whole rep."""
    varied = _varied(batch, axes, every[rows])
    solved = varied.solve(varied.whole)
    peaks = {g.key: np.maximum(np.nan_to_num(solved.peak(g)), 0.0) for g in COACH_JOINTS}
    return [
        Point(
            {k: float(every[row, i]) for i, k in enumerate(axes)},
            {key: float(values[number]) for key, values in peaks.items()},
        )
        for number, row in enumerate(rows)
    ]


def _believable(chosen: Variation, axes: Sequence[str], low: Array, high: Array) -> Array:
    """How far from the technique at hand a coach would still look."""
    reach = {"deg": 20.0, "m": 0.22, "": 0.2}
    return np.array(
        [min(reach.get(chosen.settings[k].unit, 1e9), high[i] - low[i]) for i, k in enumerate(axes)]
    )


def _rounding_of(batch: Batch) -> float:
    """What the technique at hand rounds (rad), which is then not forbidden."""
    lumbar = batch.solve(batch.whole).pose.lumbar_flexion_rad
    return float(np.nan_to_num(lumbar).max()) + 1e-9


def _try(batch: Batch, axes: Sequence[str], samples: Array, allowed_rad: float) -> _Tried:
    varied = _varied(batch, axes, samples)
    times = varied.timeline
    moves = times.moves if varied.both_ways_differ else times.moves[:1]
    frames = {times.top, times.bottom, *(start + (last - start) * 7 // 10 for start, last in moves)}
    parts = list(varied.in_parts(times.instants_at(frames, moving=varied.moving)))
    peaks = {
        g.key: np.maximum(np.nan_to_num(np.concatenate([p.peak(g) for p in parts])), 0.0)
        for g in COACH_JOINTS
    }
    lumbar = np.concatenate(
        [np.nan_to_num(p.pose.lumbar_flexion_rad, nan=9.0).max(axis=1) for p in parts]
    )
    able = np.concatenate([p.feasible for p in parts]) & (lumbar <= allowed_rad)
    return _Tried(samples, peaks, able)


def _joined(known: Sequence[_Tried]) -> _Tried:
    return _Tried(
        np.concatenate([t.samples for t in known]),
        {g.key: np.concatenate([t.peaks[g.key] for t in known]) for g in COACH_JOINTS},
        np.concatenate([t.able for t in known]),
    )


def _under(peaks: Mapping[str, Array], ceilings: Mapping[str, float]) -> Flags:
    """Which samples keep every ceiling."""
    fits = np.ones(len(next(iter(peaks.values()))), dtype=bool)
    for joint, ceiling in ceilings.items():
        fits &= peaks[joint] <= ceiling
    return fits


def _best_of(
    known: Sequence[_Tried], joint: str, *, most: bool, ceilings: Mapping[str, float]
) -> Array | None:
    best, value = None, np.inf
    for tried in known:
        fits = tried.able & _under(tried.peaks, ceilings)
        wanted = np.where(fits, -tried.peaks[joint] if most else tried.peaks[joint], np.inf)
        row = int(np.argmin(wanted))
        if wanted[row] < value:
            best, value = tried.samples[row], float(wanted[row])
    return best


def _frontier(every: _Tried) -> NDArray[np.intp]:
    """Rows that no other beats at hip, knee and back together (less is better), spread along the knee."""
    rows = np.flatnonzero(every.able)
    values = np.stack([every.peaks[g.key][rows] for g in COACH_JOINTS], axis=1)
    order = np.lexsort((values[:, 2], values[:, 1], values[:, 0]))
    kept: list[int] = []
    for row in order:
        if not kept or not (values[kept] <= values[row]).all(axis=1).any():
            kept.append(int(row))
        if len(kept) > 4000:
            break
    kept.sort(key=lambda r: values[r, 1])
    if len(kept) > MOST_ON_FRONTIER:
        kept = [kept[i] for i in np.linspace(0, len(kept) - 1, MOST_ON_FRONTIER).astype(int)]
    return rows[kept]
