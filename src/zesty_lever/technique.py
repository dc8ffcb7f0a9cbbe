"""The best technique within one variation, inside the athlete's range, and the frontier around it."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from zesty_lever.batch import make_batch
from zesty_lever.case import Case, CaseError
from zesty_lever.choose import JOINT_OF, highest
from zesty_lever.exercises.catalogue import Variation, fill, variation
from zesty_lever.exercises.rep import Flags
from zesty_lever.motion.pose import JOINTS
from zesty_lever.motion.rep import FRAMES_A_PHASE, minimum_jerk
from zesty_lever.sweep import sweep
from zesty_lever.vectors import Array


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


_Tried = tuple[Array, dict[str, Array], Flags]
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
    arrays. Depth stays as it is unless ``keep_depth`` is off. Raises `CaseError` where nothing fits.
    """
    if joint not in JOINT_OF:
        raise CaseError(
            "unknown-joint",
            f"{joint} can't be searched for; known are: {', '.join(JOINT_OF)}",
            key="joint",
            allowed=list(JOINT_OF),
        )
    case = fill(case)
    chosen = variation(case.variation)
    depth = chosen.depth
    axes = [
        k
        for k in (keys or SEARCHED)
        if k in chosen.settings and case.settings[k] is not None and not (keep_depth and k == depth)
    ]
    random = np.random.default_rng(seed)
    low, high = (
        np.array([getattr(chosen.settings[k], end) for k in axes]) for end in ("low", "high")
    )
    at = np.array([float(case.settings[k] or 0.0) for k in axes])
    reach = _believable(chosen, axes, low, high)
    samples = np.clip(at + random.uniform(-1.0, 1.0, (FIRST, len(axes))) * reach, low, high)
    samples[0] = at
    known: list[_Tried] = []
    best, width = at, reach
    for number in range(ROUNDS + 1):
        peaks, able = _peaks_for(case, axes, samples)
        known.append((samples, peaks, able))
        found = _best_of(known, joint, most=most, ceilings=ceilings or {})
        if found is not None:
            best = found
        width = width * NARROWER
        samples = np.clip(best + random.normal(0.0, 0.5, (EACH, len(axes))) * width, low, high)
        if tell is not None:
            tell((number + 1) / (ROUNDS + 1))
    every = np.concatenate([s for s, _, _ in known])
    peaks = {j: np.concatenate([p[j] for _, p, _ in known]) for j in JOINT_OF}
    able = np.concatenate([a for _, _, a in known])
    fits = able & np.all([peaks[j] <= c for j, c in (ceilings or {}).items()] or [able], axis=0)
    ranked = np.argsort(np.where(fits, -peaks[joint] if most else peaks[joint], np.inf))[
        : int(fits.sum())
    ]
    row = _first_whole(case, axes, every, ranked)
    if row is None:
        raise CaseError("nothing-fits", "no technique in this athlete's range keeps those ceilings")
    return Search(
        _point(axes, every, peaks, row),
        _point(axes, every, peaks, 0),
        tuple(_point(axes, every, peaks, i) for i in _frontier(peaks, able)),
        len(every),
    )


def _first_whole(
    case: Case, axes: Sequence[str], every: Array, ranked: NDArray[np.intp]
) -> int | None:
    """The best row whose whole rep can be done, not only the moments that the search looked at."""
    rule = case.contact_rule or variation(case.variation).contact_rule
    for start in range(0, len(ranked), CHECKED):
        rows = ranked[start : start + CHECKED]
        batch = make_batch([case]).varied(
            settings={k: every[rows, i : i + 1] for i, k in enumerate(axes)}
        )
        whole = sweep(batch, minimum_jerk(np.linspace(0.0, 1.0, FRAMES_A_PHASE)), rule).feasible
        if whole.any():
            return int(rows[int(np.argmax(whole))])
    return None


def _believable(chosen: Variation, axes: Sequence[str], low: Array, high: Array) -> Array:
    """How far from the technique at hand a coach would still look."""
    reach = {"deg": 20.0, "m": 0.22, "": 0.2}
    return np.array(
        [min(reach.get(chosen.settings[k].unit, 1e9), high[i] - low[i]) for i, k in enumerate(axes)]
    )


def _peaks_for(case: Case, axes: Sequence[str], samples: Array) -> tuple[dict[str, Array], Flags]:
    batch = make_batch([case]).varied(
        settings={k: samples[:, i : i + 1] for i, k in enumerate(axes)}
    )
    rule = case.contact_rule or variation(case.variation).contact_rule
    found = sweep(batch, np.array([0.0, 0.8, 1.0]), rule)
    peaks = {
        word: np.max([highest(found.extension[JOINTS.index(j)]) for j in joints], axis=0)
        for word, joints in JOINT_OF.items()
    }
    ordinary = np.radians(15.0)
    unrounded = np.nan_to_num(found.lumbar, nan=9.0).max(axis=1) <= max(
        ordinary, _rounds_already(found.lumbar)
    )
    return peaks, found.feasible & unrounded


def _rounds_already(lumbar: Array) -> float:
    """What the technique at hand rounds (first sample), which is then not forbidden."""
    return float(np.nan_to_num(lumbar[0]).max()) + 1e-9 if len(lumbar) else 0.0


def _best_of(
    known: Sequence[_Tried],
    joint: str,
    *,
    most: bool,
    ceilings: Mapping[str, float],
) -> Array | None:
    best, value = None, np.inf
    for samples, peaks, able in known:
        fits = able.copy()
        for other, ceiling in ceilings.items():
            fits = fits & (peaks[other] <= ceiling)
        wanted = np.where(fits, -peaks[joint] if most else peaks[joint], np.inf)
        row = int(np.argmin(wanted))
        if wanted[row] < value:
            best, value = samples[row], float(wanted[row])
    return best


def _point(axes: Sequence[str], every: Array, peaks: Mapping[str, Array], row: int) -> Point:
    return Point(
        {k: float(every[row, i]) for i, k in enumerate(axes)},
        {j: float(peaks[j][row]) for j in peaks},
    )


def _frontier(peaks: Mapping[str, Array], able: Flags, most: int = 60) -> list[int]:
    """Rows that no other beats at hip, knee and back together (less is better), spread along the knee."""
    rows = np.flatnonzero(able)
    values = np.stack([peaks[j][rows] for j in ("hip", "knee", "back")], axis=1)
    order = np.lexsort((values[:, 2], values[:, 1], values[:, 0]))
    kept: list[int] = []
    for row in order:
        if not kept or not (values[kept] <= values[row]).all(axis=1).any():
            kept.append(int(row))
        if len(kept) > 4000:
            break
    kept.sort(key=lambda r: values[r, 1])
    picked = (
        kept
        if len(kept) <= most
        else [kept[i] for i in np.linspace(0, len(kept) - 1, most).astype(int)]
    )
    return [int(rows[r]) for r in picked]
