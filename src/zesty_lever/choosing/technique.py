"""The best technique within one variation, inside the athlete's range, and the frontier around it."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence

import numpy as np
from numpy.typing import NDArray

from zesty_lever.analysis import Result, analyse, analyse_many
from zesty_lever.cases.batch import Batch, make_batch
from zesty_lever.cases.model import Case, ResolvedCase
from zesty_lever.cases.resolve import resolve, technique_of
from zesty_lever.choosing.loading import group_named
from zesty_lever.coaching.findings import findings
from zesty_lever.exercises.builder import Flags
from zesty_lever.exercises.catalogue import variation
from zesty_lever.frozen import dataclass
from zesty_lever.joints import COACH_JOINTS
from zesty_lever.physics.body import landmark
from zesty_lever.physics.pose import Pose
from zesty_lever.physics.vectors import Array
from zesty_lever.problems import CaseError, out_of_range
from zesty_lever.tables import toml_values


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
    sizes: Mapping[str, Array]
    able: Flags


# The highest ceiling that can be asked for, N m.
MOST_CEILING_NM = 10_000.0
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
# Shares of the coached range that the last rounds spread over.
CLOSER = (0.5, 0.25, 0.12)
# How many of the ranked samples are worked out whole at a time.
CHECKED = 64
# Candidates for the frontier, and how many points are offered.
FRONTIER_CANDIDATES, MOST_ON_FRONTIER = 320, 60


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
    """Settings inside what is coached that lower (or raise) a joint's peak under ceilings (N m).

    Seeded sampling of the coached ranges (about the school's default, ``coached.toml``), then rounds of
    narrower sampling about the best so far, all as arrays. What is answered is worked out over the whole
    rep, keeps the knees over the feet and raises no flag that the set-up at hand does not raise. Depth
    stays as it is unless ``keep_depth`` is off. Raises `CaseError` where nothing fits.
    """
    group_named(joint)
    ceilings = ceilings or {}
    for other, most_Nm in ceilings.items():
        group_named(other)
        if not 0.0 < most_Nm <= MOST_CEILING_NM:
            raise out_of_range(f"ceilings.{other}", most_Nm, "N m", (0.0, MOST_CEILING_NM))
    resolved = resolve(case)
    batch = make_batch([resolved])
    depth = batch.variation.depth
    axes = [
        k for k in (keys or SEARCHED) if k in resolved.given and not (keep_depth and k == depth)
    ]
    at = np.array([resolved.given[k] for k in axes])

    def pick(known: Sequence[_Tried]) -> Array | None:
        return _best_of(known, joint, most=most, ceilings=ceilings)

    every = _sampled(batch, axes, at, pick, seed, tell)
    allowed = flags_of(analyse(resolved))
    row = _Clean(batch, axes, every.samples, allowed).best(
        _ranked(every, joint, ceilings, most=most)
    )
    # The rounds so far ran after what may be flagged; these run about the best that can be offered.
    for narrower in CLOSER if row is not None else ():
        more = _about(batch, axes, every.samples[row], narrower, seed)
        ranked = _ranked(more, joint, ceilings, most=most)
        gain = (more.peaks[joint][ranked] - every.peaks[joint][row]) * (1.0 if most else -1.0)
        better = _Clean(batch, axes, more.samples, allowed).best(ranked[gain > 0.0])
        row = row if better is None else len(every.samples) + better
        every = _joined([every, more])
    if row is None:
        raise CaseError("nothing-fits", "no technique in this athlete's range keeps those ceilings")
    clean = _Clean(batch, axes, every.samples, allowed)
    frontier = clean.rows(_frontier(every), FRONTIER_CANDIDATES)
    knees = every.peaks["knee"][frontier]
    frontier = [frontier[i] for i in _spread(knees, MOST_ON_FRONTIER)]
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
    """All samples: ``at`` first, the coached range, then rounds about what ``pick`` likes best."""
    random = np.random.default_rng(seed)
    low, high = coached_range(batch.cases[0], axes)
    reach = high - low
    samples = random.uniform(low, high, (FIRST, len(axes)))
    samples[0] = at
    allowed, keep_knees = _kept(batch)
    known: list[_Tried] = []
    best, width = at, reach
    for number in range(ROUNDS + 1):
        known.append(_try(batch, axes, samples, allowed, keep_knees=keep_knees))
        found = pick(known)
        best = best if found is None else found
        width = width * NARROWER
        samples = np.clip(best + random.normal(0.0, 0.5, (EACH, len(axes))) * width, low, high)
        if tell is not None:
            tell((number + 1) / (ROUNDS + 1))
    return _joined(known)


def _ranked(
    tried: _Tried, joint: str, ceilings: Mapping[str, float], *, most: bool
) -> NDArray[np.intp]:
    """The samples under every ceiling, the best first."""
    fits = tried.able & _under(tried.sizes, ceilings)
    wanted = -tried.peaks[joint] if most else tried.peaks[joint]
    return np.argsort(np.where(fits, wanted, np.inf))[: int(fits.sum())]


def _about(batch: Batch, axes: Sequence[str], best: Array, narrower: float, seed: int) -> _Tried:
    """Samples about one, inside the coached range, over a share of it."""
    low, high = coached_range(batch.cases[0], axes)
    random = np.random.default_rng([seed, round(1000 * narrower)])
    spread = random.normal(0.0, 0.5, (EACH, len(axes))) * (high - low) * narrower
    allowed, keep_knees = _kept(batch)
    return _try(batch, axes, np.clip(best + spread, low, high), allowed, keep_knees=keep_knees)


def _kept(batch: Batch) -> tuple[float, bool]:
    """Most rounding of the back (rad) that samples may have, and whether knees have to stay over the feet."""
    allowed = max(_rounding_of(batch), np.radians(landmark("ordinary_lumbar_flexion_deg")))
    whole = batch.solve(batch.whole)
    over = knees_over_feet(whole.pose, batch.timeline.bottom).all()
    return allowed, batch.variation.stands_on_feet and bool(over)


def _varied(batch: Batch, axes: Sequence[str], samples: Array) -> Batch:
    return batch.varied(settings={k: samples[:, i : i + 1] for i, k in enumerate(axes)})


def flags_of(result: Result) -> frozenset[str]:
    """Codes of the findings that the case's school flags."""
    return frozenset(f.code for f in findings(result) if f.severity == "flag")


@dataclass(frozen=True)
class _Clean:
    """Samples that can be offered: the whole rep can be done and nothing is flagged beyond ``allowed``."""

    batch: Batch
    axes: Sequence[str]
    every: Array
    allowed: frozenset[str]

    def rows(self, ranked: NDArray[np.intp], most: int) -> list[int]:
        """The first of the ranked rows that can be offered."""
        found: list[int] = []
        for start in range(0, len(ranked), CHECKED):
            rows = ranked[start : start + CHECKED]
            found += [int(r) for r, fits in zip(rows, self._fits(rows), strict=True) if fits]
            if len(found) >= most:
                break
        return found[:most]

    def best(self, ranked: NDArray[np.intp]) -> int | None:
        """About the first of the ranked rows that can be offered; None where none can.

        Looks at every row, then every second, fourth ... the further down, and then again closely
        before the first one found.
        """
        start, stride = 0, 1
        while start < len(ranked):
            rows = ranked[start : start + CHECKED * stride : stride]
            fits = self._fits(rows)
            if any(fits):
                last = start + stride * fits.index(True)
                return self.rows(ranked[max(last - stride + 1, 0) : last + 1], 1)[0]
            start, stride = start + CHECKED * stride, 2 * stride
        return None

    def _fits(self, rows: NDArray[np.intp]) -> list[bool]:
        case = self.batch.cases[0]
        cases = [case.changed(settings={**case.settings, **self._settings(row)}) for row in rows]
        return [
            isinstance(result, Result) and result.feasible and flags_of(result) <= self.allowed
            for result in analyse_many(cases)
        ]

    def _settings(self, row: int) -> dict[str, float]:
        return {key: float(self.every[row, i]) for i, key in enumerate(self.axes)}


def coached_range(case: ResolvedCase, axes: Sequence[str]) -> tuple[Array, Array]:
    """Smallest and largest value of some settings that are still coached, each ``(settings,)``.

    About the school's default; a setting left to balance there, about what it is in this case.
    """
    chosen, widths = variation(case.variation), toml_values("coached")
    usual = technique_of(chosen, case.athlete, case.school)
    middle = [case.given[k] if usual[k] is None else usual[k] for k in axes]
    scale = [case.athlete.height_m if chosen.settings[k].unit == "m" else 1.0 for k in axes]
    width = np.array([widths[k] * s for k, s in zip(axes, scale, strict=True)])
    low, high = (
        np.array([getattr(chosen.settings[k], end) for k in axes]) for end in ("low", "high")
    )
    # Feet closer than half the pelvis are nobody's technique; a stance that is closer already stays.
    closest = 0.5 * landmark("hip_width") * case.athlete.height_m
    for at, key in enumerate(axes):
        if key == "stance_m":
            low[at] = max(low[at], min(closest, case.given.get(key, closest)))
    middles = np.array(middle, dtype=float)
    return np.clip(middles - width, low, high), np.clip(middles + width, low, high)


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


def knees_over_feet(pose: Pose, frame: int) -> Flags:
    """Whether the (front) knee is over its foot in a frame, the deepest one, ``(cases,)``."""
    limits = toml_values("coached")
    points = {name: point[..., frame] for name, point in pose.points.items()}
    way = points["toe_right"] - points["heel_right"]
    knee = points["knee_right"] - points["ankle_right"]
    along = (knee[0] * way[0] + knee[2] * way[2]) / np.hypot(way[0], way[2])
    aside = np.abs(knee[0] * way[2] - knee[2] * way[0]) / np.hypot(way[0], way[2])
    room = np.tan(np.radians(limits["knee_over_foot_deg"])) * np.maximum(along, 0.0)
    over: Flags = aside <= np.maximum(room, limits["knee_over_foot_m"])
    return over


def _rounding_of(batch: Batch) -> float:
    """What the technique at hand rounds (rad), which is then not forbidden."""
    lumbar = batch.solve(batch.whole).pose.lumbar_flexion_rad
    return float(np.nan_to_num(lumbar).max()) + 1e-9


def _try(
    batch: Batch, axes: Sequence[str], samples: Array, allowed_rad: float, *, keep_knees: bool
) -> _Tried:
    varied = _varied(batch, axes, samples)
    times = varied.timeline
    moves = times.moves if varied.both_ways_differ else times.moves[:1]
    frames = {times.top, times.bottom, *(start + (last - start) * 7 // 10 for start, last in moves)}
    parts = list(varied.in_parts(times.instants_at(frames, moving=varied.moving)))
    peaks = {
        g.key: np.maximum(np.nan_to_num(np.concatenate([p.peak(g) for p in parts])), 0.0)
        for g in COACH_JOINTS
    }
    sizes = {g.key: np.nan_to_num(np.concatenate([p.size(g) for p in parts])) for g in COACH_JOINTS}
    lumbar = np.concatenate(
        [np.nan_to_num(p.pose.lumbar_flexion_rad, nan=9.0).max(axis=1) for p in parts]
    )
    able = np.concatenate([p.feasible for p in parts]) & (lumbar <= allowed_rad)
    deepest = sorted(frames).index(times.bottom)
    over = np.concatenate([knees_over_feet(p.pose, deepest) for p in parts])
    if keep_knees:
        able &= over
    return _Tried(samples, peaks, sizes, able)


def _joined(known: Sequence[_Tried]) -> _Tried:
    return _Tried(
        np.concatenate([t.samples for t in known]),
        {g.key: np.concatenate([t.peaks[g.key] for t in known]) for g in COACH_JOINTS},
        {g.key: np.concatenate([t.sizes[g.key] for t in known]) for g in COACH_JOINTS},
        np.concatenate([t.able for t in known]),
    )


def _under(sizes: Mapping[str, Array], ceilings: Mapping[str, float]) -> Flags:
    """Which samples keep every ceiling."""
    fits = np.ones(len(next(iter(sizes.values()))), dtype=bool)
    for joint, ceiling in ceilings.items():
        fits &= sizes[joint] <= ceiling
    return fits


def _best_of(
    known: Sequence[_Tried], joint: str, *, most: bool, ceilings: Mapping[str, float]
) -> Array | None:
    best, value = None, np.inf
    for tried in known:
        fits = tried.able & _under(tried.sizes, ceilings)
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
    return rows[[kept[i] for i in _spread(values[kept, 1], FRONTIER_CANDIDATES)]]


def _spread(values: Array, most: int) -> list[int]:
    """Places of rising values: all of them, or at most ``most`` spread evenly by value, both ends among them."""
    if len(values) <= most:
        return list(range(len(values)))
    wanted = np.linspace(values[0], values[-1], most)
    return sorted({int(np.argmin(np.abs(values - value))) for value in wanted})
