"""Room to move: how deep, how wide and how far from each limit this athlete is in this set-up."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from zesty_lever.cases.batch import Batch, make_batch
from zesty_lever.cases.model import Case
from zesty_lever.cases.resolve import resolve
from zesty_lever.exercises.builder import Flags
from zesty_lever.frozen import dataclass
from zesty_lever.physics.body import landmark
from zesty_lever.physics.pose import Pose
from zesty_lever.physics.vectors import Array
from zesty_lever.problems import ORDER

DEPTH_STEPS = 61
REACH_STEPS = 25
SHIN_STEPS = 9
# Settings whose both ends are worked out: what can be held on the figure.
REACH_KEYS = (
    "shin_deg",
    "thigh_deg",
    "trunk_deg",
    "stance_m",
    "toe_out_deg",
    "step_m",
    "rear_height_m",
    "front_height_m",
    "bench_height_m",
    "feet_height_m",
    "bar_height_m",
    "hands_ahead_m",
)
# Which joint or thing stops, by the code of what goes wrong.
STOPS = {
    "ankle-limit": "ankle",
    "hip-opening": "hip opening",
    "out-of-reach": "leg length",
    "cannot-balance": "balance",
    "would-tip": "balance",
    "knee-limit": "knee",
    "knee-on-floor": "the rear knee on the floor",
    "rounding": "hip flexion",
    "hips-under-floor": "the floor",
    "head-on-floor": "the floor",
    "below-floor": "the floor",
    "would-pull": "a contact that would have to pull",
    "would-slip": "grip",
    "would-roll": "a one-sided load",
    "tempo": "tempo",
    "band-too-long": "the band's table",
    "did-not-settle": "balance",
    "does-not-close": "balance",
}


@dataclass(frozen=True)
class Furthest:
    """How far one setting can go: its value (the setting's unit) and what stops it there.

    ``stop`` is empty where the end of the setting's own range is reached.
    """

    key: str
    value: float
    unit: str
    stop: str


@dataclass(frozen=True)
class Room:
    """What is left for one athlete in one set-up.

    ``depth``: the deepest rep with the shin as it is; ``depth_unrounded``: without rounding the low
    back; ``depth_best_shin``: unrounded with the best shin the ankle allows, and ``best_shin_deg``;
    ``widest``: the widest stance. ``margins_deg``: degrees left at the deepest point to each limit
    (minus: past it); ``to_heel_cm``, ``to_ball_cm``: from the pressure point to the ends of the foot.
    None where a variation has no such thing. ``reach``: lowest and highest that each setting can be
    with the others held, rounding allowed; none for what balance solves or while the pose can't be done.
    """

    depth: Furthest | None
    depth_unrounded: Furthest | None
    depth_best_shin: Furthest | None
    best_shin_deg: float | None
    widest: Furthest | None
    margins_deg: Mapping[str, float]
    to_heel_cm: float | None
    to_ball_cm: float | None
    reach: Mapping[str, tuple[Furthest, Furthest]]


def room(case: Case) -> Room:
    """Room to move of a case; impossible set-ups still have some. Raises `CaseError` if invalid."""
    case = resolve(case)
    batch = make_batch([case])
    chosen = batch.variation
    depth = chosen.depth
    plain = unrounded = best = None
    best_shin = None
    if depth:
        plain = _furthest(batch, depth, deeper_way(depth), rounds=True)
        unrounded = _furthest(batch, depth, deeper_way(depth), rounds=False)
        best, best_shin = _with_best_shin(batch, depth)
    widest = (
        _furthest(batch, "stance_m", 1.0, rounds=True) if "stance_m" in batch.settings else None
    )
    solved, at = batch.solve(batch.probe).case(0), batch.probe_bottom
    margins = {k: round(v, 3) for k, v in _margins(case, solved.pose, at).items() if np.isfinite(v)}
    heel = ball = None
    fraction = float(solved.pressure_fraction[at])
    if chosen.stands_on_feet and np.isfinite(fraction):
        foot_cm = 100.0 * float(batch.body.lengths["foot"][0, 0])
        heel, ball = fraction * foot_cm, (landmark("ball_from_heel") - fraction) * foot_cm
    return Room(plain, unrounded, best, best_shin, widest, margins, heel, ball, _reach(batch))


def deepest_unrounded(case: Case) -> Furthest | None:
    """The deepest that a case goes without rounding the lower back, None where it can't or has no depth."""
    batch = make_batch([resolve(case)])
    depth = batch.variation.depth
    return _furthest(batch, depth, deeper_way(depth), rounds=False) if depth else None


def _reach(batch: Batch) -> dict[str, tuple[Furthest, Furthest]]:
    """Both ends of each setting, all in one sweep."""
    keys = [k for k in REACH_KEYS if k in batch.settings and not np.isnan(batch.settings[k][0, 0])]
    tried = {k: _values(batch, k, REACH_STEPS) for k in keys}
    if not keys:
        return {}
    starts = np.cumsum([0, *(len(v) for v in tried.values())])
    columns = {k: np.full((int(starts[-1]), 1), float(batch.settings[k][0, 0])) for k in keys}
    for key, start in zip(keys, starts[:-1], strict=True):
        columns[key][start : start + len(tried[key]), 0] = tried[key]
    fits, wrong = _tried(batch, columns, rounds=True)
    found = {}
    for key, start in zip(keys, starts[:-1], strict=True):
        part = slice(int(start), int(start) + len(tried[key]))
        at = int(np.argmax(tried[key] == float(batch.settings[key][0, 0])))
        if fits[part][at]:
            ends = [
                _end(
                    batch,
                    key,
                    tried[key][::way],
                    fits[part][::way],
                    wrong[part][::way],
                    at=at if way > 0 else -1 - at,
                )
                for way in (-1, 1)
            ]
            found[key] = (ends[0], ends[1])
    return found


def _values(batch: Batch, key: str, steps: int) -> Array:
    """A setting's range in steps, with the value at hand among them, upward."""
    setting = batch.variation.settings[key]
    values: Array = np.unique(
        np.append(np.linspace(setting.low, setting.high, steps), float(batch.settings[key][0, 0]))
    )
    return values


def _end(
    batch: Batch,
    key: str,
    values: Array,
    fits: Flags,
    wrong: list[str],
    *,
    at: int,
    rounds: bool = True,
) -> Furthest:
    """Onward from the value at ``at`` to the last one before something stops."""
    last = at % len(values)
    while last + 1 < len(values) and fits[last + 1]:
        last += 1
    unit = batch.variation.settings[key].unit
    if last + 1 == len(values):
        return Furthest(key, float(values[last]), unit, "")
    edge = _refined(batch, key, float(values[last]), float(values[last + 1]), rounds=rounds)
    return Furthest(key, edge, unit, str(wrong[last + 1]))


def deeper_way(key: str) -> float:
    """Which way (+1 or -1) a setting goes to make the rep deeper."""
    return -1.0 if key in ("thigh_deg", "bar_height_m") else 1.0


def _margins(case: Case, pose: Pose, at: int) -> dict[str, float]:
    """Degrees from one frame of a pose to each of the athlete's limits."""
    athlete = case.athlete
    thigh = 0.5 * np.pi + pose.side_view_rad("knee_right", "hip_right")
    knee = pose.knee_flexion_rad["right"]
    limit = np.minimum(
        np.radians(athlete.limit_deg("hip_flexion")),
        np.radians(athlete.limit_deg("straight_leg")) + 0.5 * knee,
    )
    hip_used = pose.trunk_rad + 0.5 * np.pi - thigh
    used = {
        "ankle_dorsiflexion": pose.dorsiflexion_rad["right"],
        "hip_opening": np.abs(pose.hip_opening_rad["right"]),
        "knee_flexion": knee,
    }
    left = {
        key: athlete.limit_deg(key) - float(np.degrees(value[at])) for key, value in used.items()
    }
    left["hip_flexion"] = float(np.degrees((limit - hip_used)[at]))
    return left


def _tried(
    batch: Batch, settings: Mapping[str, Array], *, rounds: bool, whole: bool = False
) -> tuple[Flags, list[str]]:
    """Which samples can be done, and the first thing wrong with each of the others.

    A few moments of the rep are looked at, or with ``whole`` every one.
    """
    varied = batch.varied(settings=settings)
    solved = varied.solve(varied.whole if whole else varied.probe)
    wrong = np.full(varied.samples, "", dtype=object)
    for failure in sorted(solved.failures, key=lambda f: ORDER[f.code]):
        failed = failure.flags.any(axis=1)
        wrong = np.where((wrong == "") & failed, STOPS.get(failure.code, failure.code), wrong)
    if not rounds:
        ordinary = np.radians(landmark("ordinary_lumbar_flexion_deg"))
        rounded = (np.nan_to_num(solved.pose.lumbar_flexion_rad) > ordinary + 1e-9).any(axis=1)
        wrong = np.where((wrong == "") & rounded, STOPS["rounding"], wrong)
    fits: Flags = wrong == ""
    return fits, list(wrong)


def _furthest(batch: Batch, key: str, way: float, *, rounds: bool) -> Furthest | None:
    """The furthest value of one setting, the others held; None where no value can be done."""
    given = float(batch.settings[key][0, 0])
    if np.isnan(given):
        return None
    values = _values(batch, key, DEPTH_STEPS)[:: int(way)]
    fits, wrong = _tried(batch, {key: values[:, None]}, rounds=rounds)
    if not fits.any():
        return None
    # From the value at hand, or the first that fits.
    start = int(np.argmax(values == given)) if fits[values == given].any() else int(np.argmax(fits))
    return _end(batch, key, values, fits, wrong, at=start, rounds=rounds)


def _refined(batch: Batch, key: str, fits: float, fails: float, *, rounds: bool) -> float:
    """The last value that fits between one that does and one that does not."""
    between = np.linspace(fits, fails, 21)
    able, _ = _tried(batch, {key: between[:, None]}, rounds=rounds, whole=True)
    return float(between[max(int(np.argmin(able)) - 1, 0)])


def _with_best_shin(batch: Batch, depth: str) -> tuple[Furthest | None, float | None]:
    """Deepest without rounding when the shin may go anywhere the ankle lets it."""
    shin = batch.settings.get("shin_deg")
    if shin is None or depth == "shin_deg" or np.isnan(shin[0, 0]):
        return None, None
    setting = batch.variation.settings[depth]
    most = batch.variation.settings["shin_deg"].high
    shins = np.linspace(0.0, most, SHIN_STEPS * 2)
    depths = np.linspace(setting.low, setting.high, DEPTH_STEPS)[:: int(deeper_way(depth))]
    tried_shin, tried_depth = (a.reshape(-1, 1) for a in np.meshgrid(shins, depths, indexing="ij"))
    fits, _ = _tried(batch, {"shin_deg": tried_shin, depth: tried_depth}, rounds=False)
    grid = fits.reshape(len(shins), len(depths))
    reach = np.where(grid.any(axis=1), grid.shape[1] - 1 - np.argmax(grid[:, ::-1], axis=1), -1)
    best = int(np.argmax(reach))
    if reach[best] < 0:
        return None, None
    return Furthest(depth, float(depths[reach[best]]), setting.unit, ""), float(shins[best])
