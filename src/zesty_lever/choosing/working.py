"""Lifts at the loads that they are ranked at: working loads that an athlete can do, lowered under ceilings."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

import numpy as np

from zesty_lever.analysis import Result, analyse, analyse_many
from zesty_lever.cases.model import Athlete, Case, ResolvedCase, School
from zesty_lever.cases.resolve import resolve
from zesty_lever.cases.rigging import kin
from zesty_lever.choosing.bests import demands_for
from zesty_lever.choosing.effort import Demand, demand_at
from zesty_lever.choosing.loading import NO_LOAD, TypicalRules, at_loads, proposed_load, with_load
from zesty_lever.choosing.reach import deeper_way, deepest_unrounded
from zesty_lever.choosing.wishes import features_of
from zesty_lever.coaching.gym import Gym, at_hand_kg
from zesty_lever.exercises.catalogue import Variation, variation
from zesty_lever.feasibility import advised
from zesty_lever.frozen import dataclass
from zesty_lever.joints import BY_KEY, COACH_JOINTS, HIP, KNEE
from zesty_lever.physics.body import landmark
from zesty_lever.physics.solved import Solved
from zesty_lever.physics.vectors import Array
from zesty_lever.problems import CaseError, Problem

LOADS_TRIED = 9


@dataclass(frozen=True)
class Ready:
    """A variation at the load that it will be ranked at, and what it does there.

    ``peaks``, ``flexors`` and ``sizes`` by coach joint, N m; ``does``: see `features_of`; ``demand`` on its way up.
    """

    case: ResolvedCase
    load_rule: str
    settings: Mapping[str, float]
    depth_stops: str
    peaks: Mapping[str, float]
    flexors: Mapping[str, float]
    sizes: Mapping[str, float]
    does: Mapping[str, float]
    demand: Demand


@dataclass(frozen=True)
class Asked:
    """Whose lifts at which loads: all that `at_working_loads` depends on, beside the variations.

    ``keep_shape``: nothing goes deeper than the lower back keeps its shape.
    """

    athlete: Athlete
    school: School
    rules: TypicalRules
    keep_shape: bool


def _ready(
    result: Result, load_rule: str, settings: Mapping[str, float], depth_stops: str = ""
) -> Ready:
    return Ready(
        result.case,
        load_rule,
        settings,
        depth_stops,
        result.peaks,
        result.flexors,
        result.sizes,
        features_of(result),
        demand_at(result),
    )


def in_kin(names: Sequence[str]) -> list[list[str]]:
    """Variations in groups that are worked out together, in their order."""
    groups: dict[Any, list[str]] = {}
    for name in names:
        groups.setdefault(kin(variation(name)), []).append(name)
    return list(groups.values())


def at_working_loads(
    asked: Asked,
    names: Sequence[str],
    unloaded: frozenset[str] = frozenset(),
    results: dict[str, Result] | None = None,
) -> list[Ready | str]:
    """Variations at their working loads, whatever the ceilings; or why one can't be done.

    Those in ``unloaded`` have no weights at hand. ``results`` gets the whole results by variation.
    """
    usual = [plain_case(asked.athlete, name, asked.school) for name in names]
    if asked.athlete.known_bests:
        # What is expected of each rests on its demand: all of them at once.
        loaded = [name for name in names if variation(name).load is not None]
        demands_for([_unresolved(asked, name) for name in loaded])
    loads = [
        (0.0, "no weights at hand: unloaded") if name in unloaded else _proposed(case, asked.rules)
        for name, case in zip(names, usual, strict=True)
    ]
    # Defaults that this athlete can't do at this load are eased, and named with the option.
    cases = [
        _unresolved(asked, name).changed(load_kg=load)
        for name, (load, _) in zip(names, loads, strict=True)
    ]
    found: list[Ready | str] = []
    for case, (_, rule), result in zip(usual, loads, analyse_many(cases), strict=True):
        if rule == NO_LOAD:
            found.append(NO_LOAD)
            continue
        if isinstance(result, CaseError):
            raise result
        ready = _as_asked(asked, case, rule, result)
        if isinstance(ready, str):
            found.append(ready)
            continue
        found.append(_ready(*ready))
        if results is not None:
            results[case.variation] = ready[0]
    return found


def _proposed(case: ResolvedCase, rules: TypicalRules) -> tuple[float, str]:
    """The load that may be proposed and its rule; the rule says where none may."""
    found = proposed_load(case, rules)
    low = variation(case.variation).load_range_kg()[0]
    return (low, NO_LOAD) if found.load_kg is None else (found.load_kg, found.rule)


def _as_asked(
    asked: Asked, usual: ResolvedCase, rule: str, result: Result
) -> tuple[Result, str, dict[str, float], str] | str:
    """A solved lift as it can be asked for: as deep as the back keeps its shape, with what helps it."""
    entry = variation(usual.variation)
    settings = {
        key: value for key, value in result.case.given.items() if value != usual.settings[key]
    }
    case = result.case
    stops = "no lean balances" if entry.depth in settings else ""
    if asked.keep_shape and rounds(result.shown):
        shallower = _shallower(entry, result.case)
        if shallower is None:
            return "rounds the lower back at any depth"
        settings |= {entry.depth: shallower}
        stops = "the lower back rounds"
        result = analyse(result.case.changed(settings={**case.settings, **settings}))
    if result.error:
        helped = _helped(entry, result.case, result.error, keep_shape=asked.keep_shape)
        if isinstance(helped, str):
            return helped
        result, changed = helped
        settings |= changed
    return result, rule, settings, stops


def _unresolved(asked: Asked, name: str) -> Case:
    return Case(athlete=asked.athlete, variation=name, school=asked.school, frames="none")


def plain_case(athlete: Athlete, name: str, school: School) -> ResolvedCase:
    """An athlete doing a variation as it is usually done."""
    return resolve(Case(athlete=athlete, variation=name, school=school, frames="none"))


def _shallower(entry: Variation, case: ResolvedCase) -> float | None:
    """The depth at which the lower back still keeps its shape; None where there is none."""
    furthest = deepest_unrounded(case)
    if furthest is None:
        return None
    # A little short of the edge: what is lighter leans more.
    back = 0.02 if furthest.unit == "m" else 2.0
    deep = furthest.value - back * deeper_way(entry.depth)
    return round(entry.settings[entry.depth].clamped(deep), 3)


def lowered(
    case: ResolvedCase,
    limits: Mapping[str, float],
    joint: str,
    settings: Mapping[str, float],
    gym: Gym | None,
) -> Ready | str:
    """The case with the most load that keeps every ceiling; or why none does."""
    low = variation(case.variation).load_range_kg()[0]
    loads = np.linspace(low, case.load_kg, LOADS_TRIED)
    solved = at_loads(case, loads)
    able = solved.feasible
    sizes = {g.key: np.nan_to_num(solved.size(g)) for g in COACH_JOINTS}
    fits = able & np.all([sizes[j] <= limits[j] + 1e-9 for j in limits], axis=0)
    word = BY_KEY[joint].word
    if joint in (HIP.key, KNEE.key) and solved.flexor_peak(BY_KEY[joint])[-1] >= sizes[joint][-1]:
        word = f"{word}'s flexors"
    if not fits.any():
        if not able.any():
            return f"too much for the {word}"
        least = float(sizes[joint][able].min())
        return f"too much for the {word}: {least:.0f} against {limits[joint]:.0f} N·m even at its lightest"
    best = int(np.flatnonzero(fits)[-1])
    # Between the last load that fits and the next, the peaks are as good as straight.
    made = _made_below(case, _edge(loads, sizes, limits, best), gym)
    if made is None:
        return f"too much for the {word} with the lightest load that a gym makes"
    result = analyse(with_load(case, made))
    if result.error:
        result = analyse(with_load(case, float(loads[best])))
    return _ready(result, f"lowered for the {word}", settings)


def _made_below(case: ResolvedCase, most: float, gym: Gym | None) -> float | None:
    """The heaviest load (kg) that a gym can make and that is no heavier; None where the lightest is."""
    entry = variation(case.variation)
    made = at_hand_kg(entry.id, entry.equipment, most, gym)
    if made <= most:
        return made
    return 0.0 if entry.load is not None and entry.load.works_unloaded else None


def _helped(
    entry: Variation, case: ResolvedCase, problem: Problem, *, keep_shape: bool
) -> tuple[Result, dict[str, float]] | str:
    """A default that this athlete can't do at this load, with the setting that advice says would help."""
    better = advised(case, problem)
    key = better.key
    if (
        key not in entry.settings
        or key == entry.depth
        or not better.allowed
        or better.value is None
    ):
        return better.text
    low, high = (float(end) for end in better.allowed)
    inside = 0.25 * (high - low)
    value = round(min(max(float(better.value), low + inside), high - inside), 3)
    result = analyse(case.changed(settings={**case.settings, key: value}))
    if result.error or (keep_shape and rounds(result.shown)):
        return better.text
    return result, {key: value}


def rounds(solved: Solved) -> bool:
    """Whether the lower back flexes more than is ordinary."""
    most = solved.pose.lumbar_flexion_rad
    ordinary = landmark("ordinary_lumbar_flexion_deg")
    return bool(most.size) and float(np.degrees(most.max())) > ordinary + 1e-6


def _edge(
    loads: Array, sizes: Mapping[str, Array], limits: Mapping[str, float], best: int
) -> float:
    if best + 1 >= len(loads):
        return float(loads[best])
    edges = [float(loads[best + 1])]
    for joint, most in limits.items():
        low, high = sizes[joint][best], sizes[joint][best + 1]
        if high > most and high > low:
            step = (loads[best + 1] - loads[best]) * (most - low) / (high - low)
            edges.append(float(loads[best] + step))
    return float(np.floor(10.0 * min(edges))) / 10.0
