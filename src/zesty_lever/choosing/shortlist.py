"""Choosing: the catalogue ranked for an athlete and a wish, and substitutes for a lift."""

from __future__ import annotations

import json
from collections.abc import Callable, Mapping, Sequence
from dataclasses import field, replace

import numpy as np

from zesty_lever.analysis import Result, analyse
from zesty_lever.cases.model import Athlete, ResolvedCase, School
from zesty_lever.choosing.bests import (
    equal_effort_kg,
    lift_use,
    person_of,
    strength_of,
    work_set_kg,
)
from zesty_lever.choosing.by_use import RANKED_BY_USE, use_features
from zesty_lever.choosing.loading import (
    NO_LOAD,
    USUAL,
    TypicalRules,
    at_loads,
    equal_demand_load_kg,
    proposed_load,
    typical_load_kg,
    with_load,
)
from zesty_lever.choosing.second_core import SECOND_CORE, Spans, Task
from zesty_lever.choosing.uncertainty import draw
from zesty_lever.choosing.wishes import IN_NEWTON_METRES, Ceiling, Wish
from zesty_lever.choosing.working import (
    Asked,
    Ready,
    at_working_loads,
    in_kin,
    lowered,
    plain_case,
)
from zesty_lever.coaching.gym import at_hand_kg, usual_gym
from zesty_lever.coaching.who import BALANCE, DEMANDING, Standing, Who, who_is
from zesty_lever.exercises.builder import Flags
from zesty_lever.exercises.catalogue import catalogue, variation
from zesty_lever.frozen import dataclass
from zesty_lever.joints import BY_KEY, COACH_JOINTS, HIP, KNEE, LOWER_BACK
from zesty_lever.messages import Kg, Measured, Message, Place, message
from zesty_lever.physics.vectors import Array
from zesty_lever.problems import CaseError

LOADS_TRIED, SUBSTITUTE_LOADS_TRIED = 9, 25
SPAN_DRAWS = 200
# A work set of a list: so many repetitions to the limit (five, one left).
LIST_REPS = 6.0
# How much nearer, as a share of the whole demand, a lift of the same family counts.
KIN_FIRST = 0.1
REFERENCE_LIFT = "back-squat-high-bar"
# A standard disc holds the bar so high, m (weightlifting rules, 450 mm, value from memory).
BAR_ON_DISCS_M = 0.225
SUBSTITUTES_WITH_SPANS = 12
# A lift that demands less than this altogether is like any other that does, N m.
LEAST_DEMAND_NM = 20.0
# Flexors that do less than this go unsaid, N m.
TOLD_NM = 15.0
# How much of the work the ranking is; the intervals are the rest.
RANKING_SHARE = 0.4
# Draws of strength that uses are the medians of.
RANKING_DRAWS = 100
# Scores that differ beyond this digit only are the same.
SAME_SCORE_DIGITS = 6


@dataclass(frozen=True)
class Option:
    """One variation for this athlete: load, peaks (N m), how well it fits, and why.

    ``flexors`` are the largest flexor moments (N m, at least 0). ``spans`` are 90 % intervals of the peaks (N m), empty where too few draws can stand. ``settings`` are
    those that differ from the default technique: a depth that the hips allow, a setting without which
    the load can't be held. ``depth_stops``: what stops it going deeper than that. ``notes``: what
    else was changed, is rough, or puts it behind others; ``behind``: for how many reasons.
    """

    variation: str
    case: ResolvedCase
    load_rule: str
    peaks: Mapping[str, float]
    features: Mapping[str, float]
    score: float
    reason: str
    flexors: Mapping[str, float] = field(default_factory=dict)
    notes: tuple[Message, ...] = ()
    behind: int = 0
    spans: Mapping[str, tuple[float, float]] = field(default_factory=dict)
    settings: Mapping[str, float] = field(default_factory=dict)
    depth_stops: str = ""

    @property
    def load_kg(self) -> float:
        """Load that it is compared at, kg."""
        return self.case.load_kg


@dataclass(frozen=True)
class RuledOut:
    """One variation that can't be done today, and why; ``says``: the same where a rule for who lifts or a pain says it."""

    variation: str
    why: str
    says: Message | None = None


# Lifts at their working loads, by all that they depend on: two athletes' catalogues.
READY_KEPT = 128
_READY: dict[tuple[str, bool, str], Ready | str] = {}


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
    SECOND_CORE.start()
    limits = {c.joint: ceiling_Nm(athlete, c, school, rules) for c in wish.ceilings}
    whys = {entry.id: wish.why_not(entry) for entry in catalogue().values()}
    able = [name for name, why in whys.items() if not why]
    bare = frozenset(name for name in able if wish.unloaded(variation(name)))
    asked = Asked(athlete, school, rules, wish.keep_shape)
    ranking = RANKING_SHARE if spans else 1.0
    results: dict[str, Result] = {}
    loaded = _all_loaded(asked, able, bare, results, lambda done: tell and tell(ranking * done))
    out: list[Option | RuledOut] = []
    ready: list[Ready] = []
    for name, why in whys.items():
        found = why or _under(loaded[name], limits, rules)
        if isinstance(found, str):
            out.append(RuledOut(name, found, _said_of(found, athlete, name, school, rules)))
        else:
            ready.append(found)
    ranked = _ranked(ready, wish, athlete, school, rules)
    if not spans:
        return [*ranked, *out]
    if ranked_first is not None:
        ranked_first([*ranked, *out])
    return [*_all_with_spans(ranked, results, tell), *out]


def _all_loaded(
    asked: Asked,
    names: Sequence[str],
    bare: frozenset[str],
    results: dict[str, Result],
    tell: Callable[[float], object],
) -> dict[str, Ready | str]:
    """Variations at their working loads: those that are not kept are worked out, on a second core too where there is one.

    ``results`` gets what was worked out here.
    """
    # Kept without the ceilings: a wish that changes ranks the same lifts anew.
    text = json.dumps([asked.athlete.as_json(), asked.school, asked.keep_shape, repr(asked.rules)])
    found = {n: _READY[key] for n in names if (key := (n, n in bare, text)) in _READY}
    groups = in_kin([name for name in names if name not in found])
    tasks = [Task("loads", (asked, tuple(group), bare)) for group in groups]

    def here(at: int) -> list[Ready | str]:
        return at_working_loads(asked, groups[at], bare, results)

    def done(at: int, ready: list[Ready | str]) -> None:
        if len(_READY) + len(ready) > READY_KEPT:
            _READY.clear()
        for name, one in zip(groups[at], ready, strict=True):
            found[name] = _READY[name, name in bare, text] = one
        beat()

    def beat() -> None:
        tell(len(found) / len(names))

    SECOND_CORE.each(tasks, here, done, beat)
    tell(1.0)
    return found


def _under(ready: Ready | str, limits: Mapping[str, float], rules: TypicalRules) -> Ready | str:
    """A lift lowered until every ceiling holds; or why that can't be."""
    if isinstance(ready, str):
        return ready
    over = [j for j, most in limits.items() if ready.sizes[j] > most + 0.5]
    if not over:
        return ready
    found = lowered(ready.case, limits, over[0], dict(ready.settings), rules.gym)
    return found if isinstance(found, str) else replace(found, depth_stops=ready.depth_stops)


def _all_with_spans(
    ranked: Sequence[Option], results: Mapping[str, Result], tell: Callable[[float], None] | None
) -> list[Option]:
    """Options with their intervals: those that are not kept are worked out, on a second core too where there is one."""
    texts = [_text_of(option.case) for option in ranked]
    fresh = [i for i, text in enumerate(texts) if text not in _SPANS]
    # First what was ranked here, last what was ranked over there: each side has those results still.
    fresh.sort(key=lambda i: ranked[i].case.variation not in results)
    found = {text: _SPANS[text] for text in texts if text in _SPANS}

    def here(at: int) -> Spans:
        return spans_of_case(ranked[fresh[at]].case, results)

    def done(at: int, spans: Spans) -> None:
        text = texts[fresh[at]]
        found[text] = spans
        if len(_SPANS) >= MOST_KEPT:
            _SPANS.clear()
        _SPANS[text] = spans
        beat()

    def beat() -> None:
        if tell is not None:
            tell(RANKING_SHARE + (1.0 - RANKING_SHARE) * len(found) / len(ranked))

    SECOND_CORE.each([Task("spans", (ranked[i].case,)) for i in fresh], here, done, beat)
    return [replace(o, spans=found[text]) for o, text in zip(ranked, texts, strict=True)]


def _text_of(case: ResolvedCase) -> str:
    return json.dumps(case.as_json(), sort_keys=True)


def _said_of(
    why: str, athlete: Athlete, name: str, school: School, rules: TypicalRules
) -> Message | None:
    """Why no load may be proposed, where that is what rules a lift out."""
    if why != NO_LOAD:
        return None
    says = proposed_load(plain_case(athlete, name, school), rules).says
    return says[0] if says else None


def _sore_most(athlete: Athlete, school: School, rules: TypicalRules) -> dict[str, float]:
    """Half of what the usual reference lift asks of the athlete's sore joints, N m; empty where none is sore."""
    sore = {g.key for g in COACH_JOINTS if any(s.place == g.word for s in athlete.sore)}
    if not sore:
        return {}
    share = rules.standing.rules.spare_share
    case = plain_case(athlete, REFERENCE_LIFT, school)
    # Of what a healthy athlete would work with: the soreness itself must not lower the line.
    load = typical_load_kg(case, replace(rules, standing=Standing()))[0]
    result = analyse(with_load(case, load))
    if result.error:
        return {}
    return {key: share * result.sizes[key] for key in sore}


def _notes(item: Ready, who: Who, most: Mapping[str, float]) -> tuple[int, tuple[Message, ...]]:
    """How far behind the others a lift stands for who lifts and what is sore, and what is to be said of it."""
    name, notes = item.case.variation, []
    behind = 0
    entry = variation(name)
    if who.late and name in BALANCE:
        behind += 1
        notes.append(message("who.balance"))
    elif (who.beginner or who.returning or who.late) and entry.skill >= DEMANDING:
        behind += 1
        notes.append(message("who.demanding"))
    for key, line in most.items():
        if item.sizes[key] > line + 0.5:
            behind += 1
            sizes = Measured("extension", item.sizes[key], 2.0 * line, "N m")
            notes.append(message("list.sore", place=Place(BY_KEY[key].word), numbers=(sizes,)))
    if entry.from_floor and item.case.load_kg > 0.0 and _on_small_discs(item):
        notes.append(message("who.from_blocks"))
    if entry.load is not None and lift_use(name).rough:
        notes.append(message("list.rough"))
    return behind, tuple(notes)


def _on_small_discs(item: Ready) -> bool:
    """Whether a floor pull's load stands lower than a standard disc holds the bar."""
    entry = variation(item.case.variation)
    if not {"bar", "hex bar"} & set(entry.equipment):
        return False
    made = usual_gym().loading(entry.id, item.case.load_kg)
    return made is not None and made.bar_height_m < BAR_ON_DISCS_M - 0.005


def _ranked(
    ready: Sequence[Ready], wish: Wish, athlete: Athlete, school: School, rules: TypicalRules
) -> list[Option]:
    """Options, best first: by use where strength is known by angle, else by newton metres; each against its most."""
    strength = strength_of(athlete, school)
    person = person_of(strength, draws=RANKING_DRAWS)
    does = [{**item.does, **item.peaks} for item in ready]
    used = [use_features(item.case.variation, item.demand, person) for item in ready]
    keys = (*IN_NEWTON_METRES, *(g.key for g in COACH_JOINTS))
    most = {key: max((own[key] for own in does), default=1.0) or 1.0 for key in keys}
    most_used = {k: max((u[k] for u in used), default=1.0) or 1.0 for k in RANKED_BY_USE}
    who, sore = who_is(athlete, rules.standing), _sore_most(athlete, school, rules)
    options = []
    for item, raw, use in zip(ready, does, used, strict=True):
        peaks, flexors = item.peaks, item.flexors
        own = raw | {key: raw[key] / most[key] for key in most}
        own |= {key: use[key] / most_used[key] for key in most_used}
        score = sum(weight * own[key] for key, weight in wish.want.items())
        if wish.goal is not None:
            score -= _away(peaks, wish.goal, most)
        case = item.case
        told = use if strength.calibrated else {}
        reason = _reason(wish, own, raw, flexors, told)
        behind, notes = _notes(item, who, sore)
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
                notes=notes,
                behind=behind,
                settings=item.settings,
                depth_stops=item.depth_stops,
            )
        )
    # As good as the same: in the catalogue's order, whatever the last digits are.
    return sorted(options, key=lambda o: (o.behind, -round(o.score, SAME_SCORE_DIGITS)))


# Intervals worked out already, by the text of their case: another wish ranks the same cases.
_SPANS: dict[str, Spans] = {}
MOST_KEPT = 2000


def _with_spans(option: Option, result: Result) -> Option:
    """The option with its intervals; without where too few draws can stand."""
    text = _text_of(result.case)
    if text not in _SPANS:
        if len(_SPANS) >= MOST_KEPT:
            _SPANS.clear()
        _SPANS[text] = spans_of(result)
    return replace(option, spans=_SPANS[text])


def spans_of_case(case: ResolvedCase, results: Mapping[str, Result]) -> Spans:
    """The same of a case, from its result where that is at hand (by variation)."""
    known = results.get(case.variation)
    return spans_of(known if known is not None and known.case == case else analyse(case))


def spans_of(result: Result) -> Spans:
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
    case = plain_case(athlete, ceiling.lift, school)
    best = athlete.best_loads_kg.get(ceiling.lift)
    case = with_load(case, best if best is not None else typical_load_kg(case, rules)[0])
    return ceiling.share * analyse(case).sizes[ceiling.joint]


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


def _offered_kg(
    option: Option, wanted: Result, wish: Wish, rules: TypicalRules
) -> tuple[float, Message | None]:
    """The most that a substitute is offered at, kg, and what its load at equal peak would be.

    Equal use of what is wanted, where a best is known; never above the share of the best that a work set of
    `LIST_REPS` to the limit is, nor above what may be proposed to who is careful or under today's limits.
    """
    case, athlete = option.case, option.case.athlete
    careful = who_is(athlete, rules.standing).careful or bool(rules.standing.hurts)
    bare = variation(option.variation).load is None
    if bare or careful or wish.ceilings or not athlete.known_bests:
        return option.load_kg, None
    try:
        equal = equal_effort_kg(wanted.case, case)
        cap = work_set_kg(athlete, case.variation, LIST_REPS, case.school)
    except CaseError:
        equal = cap = None
    if equal is None or cap is None:
        return option.load_kg, None
    most = min(equal, cap)
    peak = _equal_peak_kg(case, wanted)
    if peak is None:
        return most, message("list.equal_effort")
    name = "list.equal_peak" if peak <= most + 0.5 else "list.equal_peak_above"
    return most, message(name, load=Kg(round(peak)), joint=_largest(wanted))


def _largest(wanted: Result) -> str:
    """The joint that a lift asks most of, in words."""
    key = max(wanted.peaks, key=lambda k: wanted.peaks[k])
    return BY_KEY[key].word


def _equal_peak_kg(case: ResolvedCase, wanted: Result) -> float | None:
    """The load at which the joint that is asked most has the same peak, kg; None where there is none."""
    key = max(wanted.peaks, key=lambda k: wanted.peaks[k])
    try:
        return equal_demand_load_kg(case, BY_KEY[key], wanted.peaks[key])
    except CaseError:
        return None


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
        low = entry.load_range_kg()[0]
        most, note = _offered_kg(option, wanted, wish, rules)
        tried = np.linspace(low, max(most, low), SUBSTITUTE_LOADS_TRIED)
        made = {at_hand_kg(entry.id, entry.equipment, float(kg), rules.gym) for kg in tried}
        loads = np.array(sorted(load for load in made | {low} if low <= load <= max(most, low)))
        peaks, able = peaks_at_loads(option.case, loads)
        gap = np.sqrt(sum((peaks[j] - goal[j]) ** 2 for j in goal)) / whole
        gap = np.where(able, gap, np.inf)
        best = int(np.flatnonzero(able)[-1]) if able.any() else 0
        if note is None:
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
                load_rule="nearest in demand" if note is None else "equal effort",
                notes=option.notes if note is None else (*option.notes, note),
                peaks=found,
                score=-float(gap[best]) + KIN_FIRST * (entry.family == wanted.variation.family),
                reason=f"against the {variation(wanted.case.variation).name.lower()}: {words} N·m",
                case=with_load(option.case, float(loads[best])),
            )
        )
    options.sort(key=lambda o: (o.behind, -o.score))
    # Intervals of the loads that were found; of the nearest ones, which are those that are looked at.
    near = [_with_spans(o, analyse(o.case)) for o in options[:SUBSTITUTES_WITH_SPANS]]
    return [*near, *options[SUBSTITUTES_WITH_SPANS:]]
