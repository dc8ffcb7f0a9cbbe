"""Choosing: the catalogue ranked for an athlete and a wish, and substitutes for a lift."""

from __future__ import annotations

import json
from collections.abc import Callable, Mapping, Sequence
from dataclasses import field, replace
from typing import Any

import numpy as np

from zesty_lever.analysis import Result, analyse
from zesty_lever.cases.model import Athlete, Case, ResolvedCase, School
from zesty_lever.cases.resolve import resolve
from zesty_lever.choosing.bests import person_of, strength_of
from zesty_lever.choosing.by_use import RANKED_BY_USE, use_features
from zesty_lever.choosing.loading import (
    USUAL,
    TypicalRules,
    at_loads,
    typical_load_kg,
    with_load,
)
from zesty_lever.choosing.reach import deeper_way, deepest_unrounded
from zesty_lever.choosing.second_core import SecondCore
from zesty_lever.choosing.uncertainty import draw
from zesty_lever.choosing.wishes import IN_NEWTON_METRES, Ceiling, Wish, features_of
from zesty_lever.coaching.gym import Gym, at_hand_kg
from zesty_lever.exercises.builder import Flags
from zesty_lever.exercises.catalogue import Variation, catalogue, variation
from zesty_lever.feasibility import advised
from zesty_lever.frozen import dataclass
from zesty_lever.joints import BY_KEY, COACH_JOINTS, HIP, KNEE, LOWER_BACK
from zesty_lever.physics.body import landmark
from zesty_lever.physics.solve import Solved
from zesty_lever.physics.vectors import Array
from zesty_lever.problems import CaseError, Problem

LOADS_TRIED, SUBSTITUTE_LOADS_TRIED = 9, 25
SPAN_DRAWS = 200
SUBSTITUTES_WITH_SPANS = 12
# A lift that demands less than this altogether is like any other that does, N m.
LEAST_DEMAND_NM = 20.0
# Flexors that do less than this go unsaid, N m.
TOLD_NM = 15.0
# How much of the work the ranking is; the intervals are the rest.
RANKING_SHARE = 0.4
# Draws of strength that uses are the medians of.
RANKING_DRAWS = 100


@dataclass(frozen=True)
class Option:
    """One variation for this athlete: load, peaks (N m), how well it fits, and why.

    ``flexors`` are the largest flexor moments (N m, at least 0). ``spans`` are 90 % intervals of the peaks (N m), empty where too few draws can stand. ``settings`` are
    those that differ from the default technique: a depth that the hips allow, a setting without which
    the load can't be held. ``depth_stops``: what stops it going deeper than that.
    """

    variation: str
    case: ResolvedCase
    load_rule: str
    peaks: Mapping[str, float]
    features: Mapping[str, float]
    score: float
    reason: str
    flexors: Mapping[str, float] = field(default_factory=dict)
    spans: Mapping[str, tuple[float, float]] = field(default_factory=dict)
    settings: Mapping[str, float] = field(default_factory=dict)
    depth_stops: str = ""

    @property
    def load_kg(self) -> float:
        """Load that it is compared at, kg."""
        return self.case.load_kg


@dataclass(frozen=True)
class RuledOut:
    """One variation that can't be done today, and why."""

    variation: str
    why: str


@dataclass(frozen=True)
class _Ready:
    """A variation at the load that it will be ranked at."""

    result: Result
    load_rule: str
    settings: Mapping[str, float]
    depth_stops: str = ""


# Lifts at their working loads, by all that they depend on: two athletes' catalogues.
READY_KEPT = 128
_SECOND_CORE = SecondCore()
_READY: dict[tuple[Any, ...], _Ready | str] = {}


def shortlist(
    athlete: Athlete,
    wish: Wish,
    school: School = "even",
    tell: Callable[[float], None] | None = None,
    rules: TypicalRules = USUAL,
    *,
    spans: bool = True,
    ranked_first: Callable[[list[Option | RuledOut]], None] | None = None,
) -> list[Option | RuledOut]:
    """The whole catalogue, best first, then what is ruled out. ``spans``: with the intervals of the peaks.

    ``ranked_first`` gets the ranking before the intervals are worked out, which is most of the work.
    """
    if spans:
        _SECOND_CORE.start()
    limits = {c.joint: ceiling_Nm(athlete, c, school, rules) for c in wish.ceilings}
    entries = list(catalogue().values())
    out: list[Option | RuledOut] = []
    ready: list[_Ready] = []
    for number, entry in enumerate(entries):
        why = wish.why_not(entry)
        found = why or _loaded(
            entry,
            athlete,
            school,
            limits,
            rules,
            keep_shape=wish.keep_shape,
            unloaded=wish.unloaded(entry),
        )
        if isinstance(found, str):
            out.append(RuledOut(entry.id, found))
        else:
            ready.append(found)
        if tell is not None:
            tell((RANKING_SHARE if spans else 1.0) * (number + 1) / len(entries))
    ranked = _ranked(ready, wish, athlete, school)
    if not spans:
        return [*ranked, *out]
    if ranked_first is not None:
        ranked_first([*ranked, *out])
    results = {item.result.case.variation: item.result for item in ready}
    return [*_all_with_spans(ranked, results, tell), *out]


def _all_with_spans(
    ranked: Sequence[Option], results: Mapping[str, Result], tell: Callable[[float], None] | None
) -> list[Option]:
    """Options with their intervals: those that are not kept are worked out, on a second core too where there is one."""
    texts = [_text_of(results[option.variation]) for option in ranked]
    fresh = [i for i, text in enumerate(texts) if text not in _SPANS]
    found = {text: _SPANS[text] for text in texts if text in _SPANS}

    def here(at: int) -> dict[str, tuple[float, float]]:
        return spans_of(results[ranked[fresh[at]].variation])

    def done(at: int, spans: dict[str, tuple[float, float]]) -> None:
        text = texts[fresh[at]]
        found[text] = spans
        if len(_SPANS) >= MOST_KEPT:
            _SPANS.clear()
        _SPANS[text] = spans
        beat()

    def beat() -> None:
        if tell is not None:
            tell(RANKING_SHARE + (1.0 - RANKING_SHARE) * len(found) / len(ranked))

    _SECOND_CORE.each([results[ranked[i].variation].case for i in fresh], here, done, beat)
    return [replace(o, spans=found[text]) for o, text in zip(ranked, texts, strict=True)]


def _text_of(result: Result) -> str:
    return json.dumps(result.case.as_json(), sort_keys=True)


def _ranked(ready: Sequence[_Ready], wish: Wish, athlete: Athlete, school: School) -> list[Option]:
    """Options, best first: by use where strength is known by angle, else by newton metres; each against its most."""
    strength = strength_of(athlete, school)
    person = person_of(strength, draws=RANKING_DRAWS)
    does = [features_of(item.result) | item.result.peaks for item in ready]
    used = [use_features(item.result, person) for item in ready]
    keys = (*IN_NEWTON_METRES, *(g.key for g in COACH_JOINTS))
    most = {key: max((own[key] for own in does), default=1.0) or 1.0 for key in keys}
    most_used = {k: max((u[k] for u in used), default=1.0) or 1.0 for k in RANKED_BY_USE}
    options = []
    for item, raw, use in zip(ready, does, used, strict=True):
        peaks, flexors = item.result.peaks, item.result.flexors
        own = raw | {key: raw[key] / most[key] for key in most}
        own |= {key: use[key] / most_used[key] for key in most_used}
        score = sum(weight * own[key] for key, weight in wish.want.items())
        if wish.goal is not None:
            score -= _away(peaks, wish.goal, most)
        case = item.result.case
        told = use if strength.calibrated else {}
        reason = _reason(wish, own, raw, flexors, told)
        options.append(
            Option(
                case.variation,
                case,
                item.load_rule,
                peaks,
                own,
                score,
                reason,
                flexors=flexors,
                settings=item.settings,
                depth_stops=item.depth_stops,
            )
        )
    return sorted(options, key=lambda o: -o.score)


# Intervals worked out already, by the text of their case: another wish ranks the same cases.
_SPANS: dict[str, dict[str, tuple[float, float]]] = {}
MOST_KEPT = 2000


def _with_spans(option: Option, result: Result) -> Option:
    """The option with its intervals; without where too few draws can stand."""
    text = _text_of(result)
    if text not in _SPANS:
        if len(_SPANS) >= MOST_KEPT:
            _SPANS.clear()
        _SPANS[text] = spans_of(result)
    return replace(option, spans=_SPANS[text])


def spans_of(result: Result) -> dict[str, tuple[float, float]]:
    """90 % intervals of the peaks (N m); empty where too few draws can stand."""
    solved = result.solved
    joints = {
        g.key: max(g.joints, key=lambda j: float(solved.extension(j).max())) for g in COACH_JOINTS
    }
    drawn = draw(result, draws=SPAN_DRAWS, joints=list(joints.values()), compared=False)
    try:
        intervals = {key: drawn.interval(joint) for key, joint in joints.items()}
    except CaseError:
        return {}
    return {key: (i.low, i.high) for key, i in intervals.items()}


def _away(
    peaks: Mapping[str, float], goal: tuple[float, float], most: Mapping[str, float]
) -> float:
    knee, hip = (
        (peaks[g.key] - wanted) / most[g.key] for g, wanted in zip((KNEE, HIP), goal, strict=True)
    )
    return float(np.hypot(knee, hip))


def ceiling_Nm(
    athlete: Athlete, ceiling: Ceiling, school: School = "even", rules: TypicalRules = USUAL
) -> float:
    """A ceiling in N m, for extensors and flexors alike: the share of what the known lift asks at the athlete's best load (else its typical)."""
    case = _plain_case(athlete, ceiling.lift, school)
    best = athlete.best_loads_kg.get(ceiling.lift)
    case = with_load(case, best if best is not None else typical_load_kg(case, rules)[0])
    return ceiling.share * analyse(case).sizes[ceiling.joint]


def _plain_case(athlete: Athlete, name: str, school: School) -> ResolvedCase:
    return resolve(Case(athlete=athlete, variation=name, school=school, frames="none"))


def _loaded(
    entry: Variation,
    athlete: Athlete,
    school: School,
    limits: Mapping[str, float],
    rules: TypicalRules,
    *,
    keep_shape: bool,
    unloaded: bool,
) -> _Ready | str:
    """The variation at its working load, lowered until every ceiling holds; or why that can't be.

    With ``keep_shape`` it goes no deeper than the lower back keeps its shape.
    """
    # Kept without the ceilings: a wish that changes ranks the same lifts anew.
    text = json.dumps(athlete.as_json(), sort_keys=True)
    key = (entry.id, text, school, repr(rules), keep_shape, unloaded)
    ready = _READY.get(key)
    if ready is None:
        ready = _at_working_load(
            entry, athlete, school, rules, keep_shape=keep_shape, unloaded=unloaded
        )
        if len(_READY) >= READY_KEPT:
            _READY.clear()
        _READY[key] = ready
    if isinstance(ready, str):
        return ready
    over = [j for j, most in limits.items() if ready.result.sizes[j] > most + 0.5]
    if not over:
        return ready
    lowered = _lowered(ready.result.case, limits, over[0], dict(ready.settings), rules.gym)
    if isinstance(lowered, str):
        return lowered
    return replace(lowered, depth_stops=ready.depth_stops)


def _at_working_load(
    entry: Variation,
    athlete: Athlete,
    school: School,
    rules: TypicalRules,
    *,
    keep_shape: bool,
    unloaded: bool,
) -> _Ready | str:
    """The variation at its working load, whatever the ceilings; or why it can't be done."""
    plain = Case(athlete=athlete, variation=entry.id, school=school, frames="none")
    usual = resolve(plain)
    load, rule = typical_load_kg(usual, rules)
    if unloaded:
        load, rule = 0.0, "no weights at hand: unloaded"
    # Defaults that this athlete can't do at this load are eased, and named with the option.
    result = analyse(plain.changed(load_kg=load))
    settings = {
        key: value for key, value in result.case.given.items() if value != usual.settings[key]
    }
    case = result.case
    stops = "no lean balances" if entry.depth in settings else ""
    if keep_shape and rounds(result.shown):
        shallower = _shallower(entry, result.case)
        if shallower is None:
            return "rounds the lower back at any depth"
        settings |= {entry.depth: shallower}
        stops = "the lower back rounds"
        result = analyse(result.case.changed(settings={**case.settings, **settings}))
    if result.error:
        helped = _helped(entry, result.case, result.error, keep_shape=keep_shape)
        if isinstance(helped, str):
            return helped
        result, changed = helped
        settings |= changed
    return _Ready(result, rule, settings, stops)


def _shallower(entry: Variation, case: ResolvedCase) -> float | None:
    """The depth at which the lower back still keeps its shape; None where there is none."""
    furthest = deepest_unrounded(case)
    if furthest is None:
        return None
    # A little short of the edge: what is lighter leans more.
    back = 0.02 if furthest.unit == "m" else 2.0
    deep = furthest.value - back * deeper_way(entry.depth)
    return round(entry.settings[entry.depth].clamped(deep), 3)


def _lowered(
    case: ResolvedCase,
    limits: Mapping[str, float],
    joint: str,
    settings: Mapping[str, float],
    gym: Gym | None,
) -> _Ready | str:
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
    return _Ready(result, f"lowered for the {word}", settings)


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


def peaks_at_loads(case: ResolvedCase, loads_kg: Array) -> tuple[dict[str, Array], Flags]:
    """Peaks (N m, at least 0) of hip, knee and back at loads ``(samples,)`` kg, and which can be done."""
    solved = at_loads(case, loads_kg)
    peaks = {g.key: np.maximum(np.nan_to_num(solved.peak(g)), 0.0) for g in COACH_JOINTS}
    return peaks, solved.feasible


def _reason(
    wish: Wish,
    own: Mapping[str, float],
    does: Mapping[str, float],
    flexors: Mapping[str, float],
    used: Mapping[str, float],
) -> str:
    """One sentence: what speaks for it most, in numbers.

    ``own`` are shares of the most, ``does`` N m, ``used`` shares of what the joints can hold (empty: not known).
    """

    def bent(key: str) -> str:
        """What the flexors do, where they do more than the extensors."""
        return f" (flexors {flexors[key]:.0f})" if flexors[key] > max(does[key], TOLD_NM) else ""

    def others(but: str = "") -> str:
        parts = (
            f"{g.word} {does[g.key]:.0f}{bent(g.key)}"
            for g in (HIP, KNEE, LOWER_BACK)
            if g.key != but
        )
        return ", ".join(parts) + " N·m"

    if not wish.want:
        return others()
    key = max(
        wish.want,
        key=lambda k: wish.want[k] * own[k] if wish.want[k] > 0 else wish.want[k] * (own[k] - 1.0),
    )
    if key in BY_KEY:
        share = f"{100.0 * own[key]:.0f} % of the hardest lift in the list"
        if key in used:
            share = f"about {100.0 * used[key]:.0f} % of what it can hold"
        word = BY_KEY[key].word.capitalize()
        return f"{word}: {share}, {does[key]:.0f} N·m{bent(key)}; {others(key)}"
    aside = "adductors" if does["adducts"] else "abductors"
    holds = f", about {100.0 * used[key]:.0f} % of what it can hold" if key in used else ""
    words = {
        "lockout": f"The hip still carries {does['lockout']:.0f} N·m at lockout{holds}",
        "long": f"The hip carries {does['long']:.0f} N·m bent deep",
        "one-leg": "One leg does the work" if own[key] else "Both legs share the work",
        "sideways": f"The hip's {aside} hold {does['sideways']:.0f} N·m sideways",
    }[key]
    return f"{words}; {others()}"


def substitutes(
    athlete: Athlete,
    wanted: Result,
    wish: Wish,
    school: School = "even",
    tell: Callable[[float], None] | None = None,
    rules: TypicalRules = USUAL,
) -> list[Option]:
    """Variations nearest in demand to a solved lift, each at the load that comes nearest, under limits."""
    goal = wanted.peaks
    # Gaps are weighed by the size of the demand: 20 N m matter little beside a lower back's 485.
    whole = max(float(np.hypot.reduce(list(goal.values()))), LEAST_DEMAND_NM)
    options = []
    for option in shortlist(athlete, replace(wish, goal=None), school, tell, rules, spans=False):
        if isinstance(option, RuledOut) or option.variation == wanted.case.variation:
            continue
        entry = variation(option.variation)
        low, high = entry.load_range_kg()
        most = option.load_kg
        if athlete.best_loads_kg and not wish.ceilings:
            # As heavy as this athlete's best is expected to be, and no heavier.
            most = min(high, option.load_kg / rules.working)
        tried = np.linspace(low, max(most, low), SUBSTITUTE_LOADS_TRIED)
        made = {at_hand_kg(entry.id, entry.equipment, float(kg), rules.gym) for kg in tried}
        loads = np.array(sorted(load for load in made | {low} if low <= load <= max(most, low)))
        peaks, able = peaks_at_loads(option.case, loads)
        gap = np.sqrt(sum((peaks[j] - goal[j]) ** 2 for j in goal)) / whole
        gap = np.where(able, gap, np.inf)
        best = int(np.argmin(gap))
        if not np.isfinite(gap[best]):
            continue
        found = {j: float(peaks[j][best]) for j in goal}
        words = ", ".join(
            f"{BY_KEY[j].word} {round(found[j] - goal[j]):+d}".replace("-", "\N{MINUS SIGN}")
            for j in goal
        )
        options.append(
            replace(
                option,
                load_rule="nearest in demand",
                peaks=found,
                score=-float(gap[best]),
                reason=f"against the {variation(wanted.case.variation).name.lower()}: {words} N·m",
                case=with_load(option.case, float(loads[best])),
            )
        )
    options.sort(key=lambda o: -o.score)
    # Intervals of the loads that were found; of the nearest ones, which are those that are looked at.
    near = [_with_spans(o, analyse(o.case)) for o in options[:SUBSTITUTES_WITH_SPANS]]
    return [*near, *options[SUBSTITUTES_WITH_SPANS:]]
