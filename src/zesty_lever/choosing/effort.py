"""Demand against strength: what share of what a joint can hold at its angle a lift uses, over the way up.

Use is the net moment over what that joint of this athlete can hold there; 1 is all there is. The hip's demand
is its moment across the thigh (a wide stance hides from extension), the knee's also pays for the hamstrings'
share of hip extension. Statics only: one-repetition bests are slow.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from zesty_lever.analysis import Result
from zesty_lever.cases.batch import group_key
from zesty_lever.cases.model import ResolvedCase
from zesty_lever.choosing.loading import each_at_loads
from zesty_lever.choosing.strength import STRONG, People, terms
from zesty_lever.exercises.catalogue import Variation, variation
from zesty_lever.frozen import dataclass
from zesty_lever.joints import SIDES
from zesty_lever.physics.moments import out_of_sagittal
from zesty_lever.physics.solved import Solved
from zesty_lever.physics.vectors import Array
from zesty_lever.problems import CaseError

LOADS, TRIED, FRAME_STEP = 4, 7, 2
# Loads are looked at up to so many times what the usual share of a best squat gives, kg a kg of body mass.
BEST_SQUAT_PER_MASS, BEYOND = 1.6, 1.8
# A power that stands for the maximum where a smooth one is needed.
SOFT = 20.0
# Frames within a tenth of the top use are the hard zone.
HARD_SHARE = 0.9
# One leg does the work: the other hangs or only steadies.
FULL_KNEE_BEND_DEG = 100.0


# What of a demand differs from load to load.
BY_LOAD = (
    "hip_Nm",
    "hip_extends_Nm",
    "knee_Nm",
    "back_Nm",
    "hip_deg",
    "knee_deg",
    "lumbar_deg",
)


@dataclass(frozen=True)
class Demand:
    """What a lift asks at some loads on its way up: arrays ``(loads, frames)``, N m and deg.

    ``hip_Nm`` across the thigh, ``hip_extends_Nm`` along the hip's axis; of both legs the one that works
    more. ``since_turn`` ``(frames,)`` is the share of the travel done since the deepest point.
    """

    loads_kg: Array
    progress: Array
    since_turn: Array
    hip_Nm: Array
    hip_extends_Nm: Array
    knee_Nm: Array
    back_Nm: Array
    hip_deg: Array
    knee_deg: Array
    lumbar_deg: Array
    one_leg: bool
    bounces: bool


def demand_of(case: ResolvedCase, most_kg: float | None = None) -> Demand:
    """The demand of a case's lift at four loads that can be done, from the lightest to ``most_kg``.

    Raises `CaseError` where fewer than two loads can stand.
    """
    found = demands_of([case], most_kg)[0]
    if isinstance(found, CaseError):
        raise found
    return found


def demands_of(
    cases: Sequence[ResolvedCase], most_kg: float | None = None
) -> list[Demand | CaseError]:
    """The same of several cases; those that go together (`group_key`) are worked out in one batch."""
    found: dict[int, Demand | CaseError] = {}
    groups: dict[Any, list[int]] = {}
    for index, case in enumerate(cases):
        groups.setdefault(group_key(case), []).append(index)
    for rows in groups.values():
        tried = [_tried(cases[row], most_kg) for row in rows]
        solved = each_at_loads([cases[row] for row in rows], tried)
        loads = np.concatenate(tried)
        for place, row in enumerate(rows):
            own = np.arange(place * TRIED, (place + 1) * TRIED)
            found[row] = _of_able(cases[row], solved, loads, own)
    return [found[index] for index in range(len(cases))]


def _tried(case: ResolvedCase, most_kg: float | None) -> Array:
    """The loads that a lift is tried at, kg."""
    chosen = variation(case.variation)
    low, high = chosen.load_range_kg()
    high = min(high, _heaviest(chosen, case) if most_kg is None else most_kg)
    return np.linspace(low, max(high, low + 1.0), TRIED)


def _of_able(
    case: ResolvedCase, solved: Solved, loads: Array, rows: NDArray[np.intp]
) -> Demand | CaseError:
    """The demand of a case from its rows of a solution, at the loads that can be done."""
    chosen = variation(case.variation)
    able = rows[solved.feasible[rows]]
    if len(able) < 2:
        low, high = loads[rows[0]], loads[rows[-1]]
        return CaseError(
            "cannot-be-loaded",
            f"{chosen.name} can be done at {len(able)} of {TRIED} loads from {low:g} to {high:.0f} kg: "
            "too few to tell its effort",
            key="load_kg",
            value=len(able),
            unit="loads",
            allowed=[2, TRIED],
        )
    spread = able[np.unique(np.linspace(0, len(able) - 1, LOADS).round().astype(int))]
    return _read(case, chosen, solved, loads, spread)


def _heaviest(chosen: Variation, case: ResolvedCase) -> float:
    mass = case.athlete.mass_kg
    load = chosen.load
    share = load.share_of_back_squat if load is not None else None
    cap = load.most_per_body_mass if load is not None else None
    most = BEYOND * BEST_SQUAT_PER_MASS * mass * (share or 1.0)
    return most if cap is None else min(most, BEYOND * cap * mass)


def _read(
    case: ResolvedCase, chosen: Variation, solved: Solved, loads: Array, rows: Array
) -> Demand:
    """Take what effort needs from the way down, which at rest is the way up run backwards."""
    times = np.arange(solved.frames)[::-1] if not chosen.from_floor and not chosen.lies else None
    frames = np.arange(solved.frames) if times is None else times
    frames = frames[::FRAME_STEP]
    picked = np.ix_(rows, frames)
    shape = solved.drawable.shape
    progress = _progress(case, chosen)[frames]
    return _demand(
        case, chosen, solved, loads[rows], progress, lambda v: np.broadcast_to(v, shape)[picked]
    )


def demand_at(result: Result) -> Demand:
    """The demand of a solved rep at its own load and settings, on its way up. Raises `CaseError` if impossible."""
    solved, case = result.solved, result.case
    frames = np.array([at for at, phase in enumerate(result.timeline.phase) if phase == "up"])
    frames = frames[::FRAME_STEP]
    count = solved.frames
    return _demand(
        case,
        variation(case.variation),
        solved,
        np.array([case.load_kg]),
        result.timeline.progress[frames],
        lambda v: np.broadcast_to(v, (count,))[None, frames],
    )


def _demand(
    case: ResolvedCase,
    chosen: Variation,
    solved: Solved,
    loads: Array,
    progress: Array,
    at: Callable[[Array], Array],
) -> Demand:
    """A demand from a solution; ``at`` picks loads and frames out of its arrays."""
    pose = solved.pose
    working = max(
        SIDES,
        key=lambda s: float(
            np.nanmax(at(solved.extension(f"hip_{s}")))
            + np.nanmax(at(solved.extension(f"knee_{s}")))
        ),
    )
    thigh = pose.side_view_rad(f"knee_{working}", f"hip_{working}")
    hip_deg = np.degrees(pose.pelvis_rad - thigh)
    return Demand(
        loads,
        progress,
        np.abs(progress - progress[0]),
        at(out_of_sagittal(pose, solved.moments, working)[0]),
        at(solved.extension(f"hip_{working}")),
        at(solved.extension(f"knee_{working}")),
        at(solved.extension("lumbosacral")),
        at(hip_deg),
        at(np.degrees(pose.knee_flexion_rad[working])),
        at(np.degrees(pose.lumbar_flexion_rad)),
        chosen.has_front_leg,
        not (chosen.from_floor or chosen.lies or chosen.steps_up) and case.tempo_s[1] == 0.0,
    )


def _progress(case: ResolvedCase, chosen: Variation) -> Array:
    """Progress of the frames that `at_loads` works out: one way, or all of them."""
    from zesty_lever.cases.batch import make_batch

    batch = make_batch([case])
    instants = batch.whole
    found: Array = instants.progress[instants.kept]
    del chosen
    return found


def uses(demand: Demand, person: People) -> Array:
    """Use of hip, knee and back, ``(joints, draws, loads, frames)``."""
    bend = np.minimum(demand.knee_deg, FULL_KNEE_BEND_DEG) / FULL_KNEE_BEND_DEG
    hip = person.capacity_Nm("hip", demand.hip_deg)
    hip = hip * (1.0 - person.term("knee_bend_loss") * bend)
    knee = person.capacity_Nm("knee", demand.knee_deg)
    back = person.capacity_Nm("back", demand.lumbar_deg)
    if demand.one_leg:
        deficit = person.term("one_leg")
        hip, knee = hip * deficit, knee * deficit
    if demand.bounces:
        over = terms()["bounce"]["over"]
        stretch = 1.0 + person.term("bounce") * np.exp(-demand.since_turn / over)
        hip, knee, back = hip * stretch, knee * stretch, back * stretch
    braced = person.term("co_contraction") * np.maximum(demand.hip_extends_Nm, 0.0)
    asked = (
        np.where(demand.hip_extends_Nm > 0.0, demand.hip_Nm, 0.0) / hip,
        np.where(demand.knee_Nm > 0.0, demand.knee_Nm + braced, 0.0) / knee,
        np.maximum(demand.back_Nm, 0.0) / back,
    )
    found: Array = np.stack(np.broadcast_arrays(*asked))
    return found


def top_use(demand: Demand, person: People, *, soft: bool = False) -> Array:
    """Largest use of any joint over the way up, ``(draws, loads)``; ``soft``: a smooth stand-in for it."""
    every = uses(demand, person)
    if soft:
        smooth: Array = np.mean(every**SOFT, axis=(0, 3)) ** (1.0 / SOFT)
        return smooth
    most: Array = every.max(axis=(0, 3))
    return most


def at_load(demand: Demand, tops: Array, load_kg: Array | float) -> Array:
    """Top use at a load (scalar, or one a draw): straight between the loads, straight on beyond them."""
    loads = demand.loads_kg
    wanted = np.broadcast_to(np.asarray(load_kg, dtype=float), tops.shape[:1])
    row = np.clip(np.searchsorted(loads, wanted) - 1, 0, len(loads) - 2)
    here = np.arange(len(tops))
    start, end = tops[here, row], tops[here, row + 1]
    share = (wanted - loads[row]) / (loads[row + 1] - loads[row])
    found: Array = start + share * (end - start)
    return found


def about(demand: Demand, load_kg: float) -> Demand:
    """The demand at the two loads that `at_load` goes between for a load: half the work of all four."""
    loads = demand.loads_kg
    row = int(np.clip(np.searchsorted(loads, load_kg) - 1, 0, len(loads) - 2))
    rows = slice(row, row + 2)
    return replace(
        demand,
        loads_kg=loads[rows],
        **{name: getattr(demand, name)[rows] for name in BY_LOAD},
    )


def at_frames(demand: Demand, kept: Array) -> Demand:
    """The demand at some of its frames, booleans ``(frames,)``."""
    return replace(
        demand,
        progress=demand.progress[kept],
        since_turn=demand.since_turn[kept],
        **{name: getattr(demand, name)[:, kept] for name in BY_LOAD},
    )


def load_for(demand: Demand, tops: Array, use: Array | float) -> Array:
    """Load (kg) at which the top use is so much, ``(draws,)``; 0 at least, beyond the loads straight on."""
    loads = demand.loads_kg
    wanted = np.broadcast_to(np.asarray(use, dtype=float), tops.shape[:1])
    row = np.clip((tops < wanted[:, None]).sum(axis=1) - 1, 0, len(loads) - 2)
    here = np.arange(len(tops))
    start, end = tops[here, row], tops[here, row + 1]
    rise = np.maximum(end - start, 1e-9)
    found: Array = loads[row] + (wanted - start) / rise * (loads[row + 1] - loads[row])
    return np.maximum(found, 0.0)


def hard_zone(demand: Demand, person: People, load_kg: float) -> tuple[float, float]:
    """Progress from and to of the frames within a tenth of the top use, by the median person of the draws."""
    every = uses(demand, person).max(axis=0)
    middle = np.median(every, axis=0)
    curve = np.array([np.interp(load_kg, demand.loads_kg, column) for column in middle.T])
    hard = demand.progress[curve >= HARD_SHARE * curve.max()]
    return float(hard.min()), float(hard.max())


def joint_shares(demand: Demand, person: People, load_kg: float) -> dict[str, Array]:
    """Each joint's largest use at a load, ``(draws,)``."""
    peaks = uses(demand, person).max(axis=3)
    return {joint: at_load(demand, peaks[row], load_kg) for row, joint in enumerate(STRONG)}
