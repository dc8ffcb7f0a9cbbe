"""Which load to compare at: typical loads by rule of thumb, the same load, equal demand."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import field
from typing import TYPE_CHECKING, TypeVar

import numpy as np

from zesty_lever.analysis import Result
from zesty_lever.cases.batch import make_batch
from zesty_lever.cases.loads import MassLoad
from zesty_lever.cases.model import Case, ResolvedCase
from zesty_lever.cases.resolve import resolve
from zesty_lever.cases.rigging import Carrying
from zesty_lever.choosing.places import (
    allowed_beside,
    case_at,
    hurt_sides,
    loads_on,
    place_loaded,
)
from zesty_lever.coaching.gym import Gym, at_hand_kg, bars, loads_at_hand_kg, usual_gym
from zesty_lever.coaching.numbers import Rules
from zesty_lever.coaching.who import Hurt, Standing, Who, who_is
from zesty_lever.exercises.catalogue import Variation, variation
from zesty_lever.feasibility import advised, problems_of
from zesty_lever.frozen import dataclass
from zesty_lever.joints import BY_KEY, HIP, KNEE, LOWER_BACK, JointGroup
from zesty_lever.messages import Kg, Lift, Message, Place, Share, message
from zesty_lever.physics.iterate import find_increasing_root
from zesty_lever.physics.solved import Solved
from zesty_lever.physics.vectors import Array
from zesty_lever.problems import CaseError

if TYPE_CHECKING:
    from zesty_lever.choosing.bests import Expected

AnyCase = TypeVar("AnyCase", bound=Case)
EQUAL = {"equal:hip": HIP, "equal:knee": KNEE, "equal:lower-back": LOWER_BACK}
# Where none may be proposed.
NO_LOAD = "no load may be proposed"
# A load so little above a cap is at the cap, kg.
NEAR_KG = 0.1
# Repetitions of a usual set, for what a set asks of a place that hurts.
USUAL_REPS = 8.0
EQUAL_EFFORT = "equal-effort"
MATCHES = ("same-load", "typical-load", "same-system", *EQUAL, EQUAL_EFFORT)
LOAD_TOLERANCE_KG = 1e-4
LOADS_TRIED = 26
# Without any best: the back squat starts at this share of body mass, other lifts at their usual share of
# that, and nothing in the hands above this part of what they hold (common practice, no source).
START_PER_BODY_MASS, START_OF_CAP = 0.30, 0.5


@dataclass(frozen=True)
class TypicalRules:
    """Rules of thumb for a working load (common practice, no source); a coach may change them.

    ``working`` is the share of a best lift that is worked with; ``shares`` gives a variation's best as
    a share of the best high-bar back squat, where it differs from the catalogue's. ``gym``: what makes the
    load (None: a small one). ``standing``: stage, what hurts and what was done. Raises `CaseError` for a share outside its range or an unknown variation.
    """

    working: float = 0.7
    shares: Mapping[str, float] = field(default_factory=dict)
    gym: Gym | None = None
    standing: Standing = field(default_factory=Standing)

    def __post_init__(self) -> None:
        """Refuse shares that make no working load."""
        ranges = {"working share": (self.working, 0.3, 1.0)}
        ranges |= {f"share of {name}": (share, 0.05, 3.0) for name, share in self.shares.items()}
        for what, (value, low, high) in ranges.items():
            if not low <= value <= high:
                raise CaseError(
                    "out-of-range",
                    f"the {what} is {value:g}; it has to be {low:g} to {high:g}",
                    key=what,
                    value=value,
                    allowed=[low, high],
                )
        for name in self.shares:
            variation(name)

    def share_of(self, name: str) -> float | None:
        """Share of the best high-bar back squat, None where the catalogue knows none."""
        load = variation(name).load
        return self.shares.get(name, load.share_of_back_squat if load else None)


USUAL = TypicalRules()


@dataclass(frozen=True)
class Proposed:
    """A load that may be proposed (kg; None: none may) and the rule behind it.

    ``says``: what age, training, stage or pain changed, or why nothing may be proposed.
    """

    load_kg: float | None
    rule: str
    says: tuple[Message, ...] = ()


def proposed_load(case: Case, rules: TypicalRules = USUAL) -> Proposed:
    """The one answer to what load may be proposed: of a lift at its first time, in a list, on the bench.

    The working share of the athlete's best in this variation; else of the best that is expected of their other
    bests (where the coach has a share of the best high-bar back squat of their own, of that); else, with no best
    known, a light load by body mass. Capped by what hands hold; the gym's next lighter load, in the range. Less, or
    none, for who is young, begins, comes back or begins late (`who_is`), and beside what hurts.
    """
    chosen, who = variation(case.variation), who_is(case.athlete, rules.standing)
    why = who.why_not(chosen, rules.standing)
    if why is not None:
        return Proposed(None, NO_LOAD, (why,))
    found = _first_load(case, chosen, who, rules) if who.careful else _plain(case, chosen, rules)
    hurts = [hurt for hurt in rules.standing.hurts if hurt.level != "sore"]
    if case.athlete.sore and found.load_kg:
        found = _with_sore(case, chosen, found, rules)
    return _beside_hurts(case, chosen, found, hurts, rules) if hurts else found


def _with_sore(case: Case, chosen: Variation, found: Proposed, rules: TypicalRules) -> Proposed:
    """A tenth less in a lift that loads a sore place, and said: it counts as a pain that goes on."""
    numbers, load = rules.standing.rules, found.load_kg or 0.0
    at = case_at(case.athlete, case.setup, load)
    hurts = [
        Hurt(sore.place, sore.side, "sore", int(numbers.sore_score), rules.standing.day)
        for sore in case.athlete.sore
    ]
    sore = [hurt for hurt in hurts if touches(at, hurt, numbers)]
    if not sore:
        return found
    low = chosen.load_range_kg()[0]
    less = (1.0 - numbers.lighter_share) * load
    made = at_hand_kg(chosen.id, chosen.equipment, less, rules.gym)
    lighter = max(min(made, load), low)
    says = tuple(message("pain.sore", place=Place(h.place, h.side)) for h in sore)
    return Proposed(lighter, f"{found.rule}; less for what is sore", (*found.says, *says))


def _plain(case: Case, chosen: Variation, rules: TypicalRules) -> Proposed:
    """The load by the rule, made by the gym, for anybody."""
    low, high = chosen.load_range_kg()
    load, rule = _wanted_load_kg(case, chosen, rules)
    made = at_hand_kg(chosen.id, chosen.equipment, load, rules.gym)
    if made > load + 1e-9:
        rule = f"{rule}; the lightest there is"
    return Proposed(min(max(made, low), high), rule)


def _first_load(case: Case, chosen: Variation, who: Who, rules: TypicalRules) -> Proposed:
    """A careful first load: never the gym's lightest where that is above the cap."""
    low, high = chosen.load_range_kg()
    if high <= 0.0:
        return Proposed(0.0, "no load", who.says)
    wanted, rule = _wanted_load_kg(case, chosen, rules)
    bar_known = rules.standing.last_kg(chosen.id) is not None or bool(case.athlete.known_bests)
    most = wanted * who.first_share
    own = rules.standing.last_kg(chosen.id)
    if who.returning and own is not None:
        most = min(most, own * who.rules.return_share)
    if who.beginner and not bar_known:
        most = min(most, empty_bar_kg(chosen, rules))
    in_hands = who.most_in_hands_kg(case.athlete.mass_kg)
    if in_hands is not None:
        # Of the young no best and no share of one is told.
        most, rule = min(most, in_hands), "a light first load"
    elif who.first_share < 1.0:
        rule = f"{rule}; of that {100 * who.first_share:.0f} %"
    fits = [
        kg
        for kg in loads_at_hand_kg(chosen.id, chosen.equipment, high, rules.gym, stick=True)
        if low - 1e-9 <= kg <= most + NEAR_KG
    ]
    if fits:
        return Proposed(fits[-1], rule, who.says)
    if chosen.load is not None and chosen.load.works_unloaded:
        return Proposed(0.0, "unloaded first", who.says)
    lightest = at_hand_kg(chosen.id, chosen.equipment, max(low, 0.5), rules.gym)
    said = message("who.too_heavy", least=Kg(max(lightest, low)), most=Kg(round(most, 1)))
    return Proposed(None, NO_LOAD, (said, *who.says))


def empty_bar_kg(chosen: Variation, rules: TypicalRules) -> float:
    """The empty bar that a lift is begun with, kg; what no bar carries has no such limit."""
    if "bar" not in chosen.equipment:
        return float("inf")
    gym = rules.gym or usual_gym()
    straight = [bars()[name].mass_kg for name in gym.bars if name != "hex bar"]
    return max(straight, default=20.0)


def _beside_hurts(
    case: Case,
    chosen: Variation,
    found: Proposed,
    hurts: Sequence[Hurt],
    rules: TypicalRules,
) -> Proposed:
    """Half the usual load where that stays far below all that the stopped lift asked of the place; else none."""
    if found.load_kg is None:
        return found
    numbers = rules.standing.rules
    here = next((h for h in hurts if h.lift == chosen.id and h.level == "stop"), None)
    if here is not None:
        said = message("pain.stopped", place=Place(here.place, here.side), lift=Lift(here.lift))
        return Proposed(None, NO_LOAD, (said,))
    setup = case.setup
    full = case_at(case.athlete, setup, found.load_kg)
    touching = [h for h in hurts if touches(full, h, numbers)]
    if not touching:
        return found
    low = chosen.load_range_kg()[0]
    half = numbers.spare_start * found.load_kg
    made = at_hand_kg(chosen.id, chosen.equipment, half, rules.gym) if half > 0.0 else 0.0
    if made > half + 1e-9:
        made = 0.0 if chosen.load is not None and chosen.load.works_unloaded else made
    lighter = case_at(case.athlete, setup, max(made, low))
    forbids, told = allowed_beside(lighter, touching, numbers, USUAL_REPS)
    if made > half + 1e-9 and forbids is None:
        said = message("who.too_heavy", least=Kg(made), most=Kg(round(half, 1)))
        return Proposed(None, NO_LOAD, (said,))
    worst = forbids or touching[0]
    place = Place(worst.place, worst.side)
    numbers_told = tuple(m for h, m in told if h is worst)[:2]
    if forbids is not None:
        kind = "clinician" if worst.level == "clinician" else "loads" if numbers_told else "unknown"
        said = message(f"pain.{kind}", place=place, numbers=numbers_told)
        return Proposed(None, NO_LOAD, (said,))
    said = message(
        "pain.spared", place=place, numbers=numbers_told, share=Share(numbers.spare_start)
    )
    return Proposed(max(made, low), found.rule, (*found.says, said))


def touches(case: Case, hurt: Hurt, numbers: Rules) -> bool:
    """Whether a case loads a place that hurts; what can't be worked out counts as yes."""
    for side in hurt_sides(hurt):
        try:
            own = loads_on(case, hurt.place, side)
        except CaseError:
            return True
        if place_loaded(own, case.athlete.mass_kg, numbers):
            return True
    return False


def typical_load_kg(case: Case, rules: TypicalRules = USUAL) -> tuple[float, str]:
    """The load that may be proposed, 0 or the lightest where none may, and the rule behind it (`proposed_load`)."""
    found = proposed_load(case, rules)
    return (
        variation(case.variation).load_range_kg()[0] if found.load_kg is None else found.load_kg
    ), found.rule


def _wanted_load_kg(case: Case, chosen: Variation, rules: TypicalRules) -> tuple[float, str]:
    """The working load before the gym and the range have their say."""
    best, mass = case.athlete.best_loads_kg, case.athlete.mass_kg
    share, working = rules.share_of(chosen.id), f"{100 * rules.working:.0f} %"
    if chosen.id in best:
        return rules.working * best[chosen.id], f"{working} of the best in this variation"
    if chosen.load is None or share is None:
        return chosen.default_load_kg(), "the catalogue's default"
    cap = chosen.load.most_per_body_mass
    most = np.inf if cap is None else cap * mass
    found = None if chosen.id in rules.shares else _expected(case, chosen)
    # Where what a best takes of the joints is only roughly known, the usual share says more.
    if found is not None and not found.rough:
        median, low, high = (f"{kg:.0f}" for kg in (found.median_kg, found.low_kg, found.high_kg))
        return (
            rules.working * found.median_kg,
            f"{working} of the {median} kg expected, {low} to {high}",
        )
    if "back-squat-high-bar" in best:
        expected = share * best["back-squat-high-bar"]
        if expected > most:
            return rules.working * most, f"{working} of the {most:.0f} kg that hands hold here"
        rule = f"{working} of {100 * share:.0f} % of the best high-bar back squat"
        return rules.working * expected, rule
    return min(
        START_PER_BODY_MASS * share * mass, START_OF_CAP * most
    ), "no best known: start light"


def _expected(case: Case, chosen: Variation) -> Expected | None:
    """The best that is expected of this athlete in a lift; None where no best is known or the lift can't stand."""
    if not case.athlete.known_bests:
        return None
    from zesty_lever.choosing.bests import expected_best, strength_of

    try:
        return expected_best(strength_of(case.athlete, case.school), chosen.id, case.school)
    except CaseError:
        return None


def with_load(case: AnyCase, load_kg: float) -> AnyCase:
    """The case with another load; one that differs on the way up keeps its difference."""
    up, down = case.load_up_kg, case.load_kg or 0.0
    lifted = None if up is None else max(up + load_kg - down, 0.0)
    return case.changed(load_kg=load_kg, load_up_kg=lifted)


def matched(case: Case, base: Result, match: str | None, rules: TypicalRules) -> Case:
    """The case with its load matched to a baseline. Raises `CaseError` where no load does it."""
    if match is None:
        return case
    load = _matched_load_kg(resolve(case), base, match, rules)
    low, high = variation(case.variation).load_range_kg()
    if not low <= load <= high:
        raise CaseError(
            "no-such-load",
            f"load_kg would have to be {load:.1f} kg; {case.variation} takes {low:g} to {high:g} kg",
            key="load_kg",
            value=load,
            unit="kg",
            allowed=[low, high],
        )
    return with_load(case, float(load))


def _matched_load_kg(case: ResolvedCase, base: Result, match: str, rules: TypicalRules) -> float:
    if match in EQUAL:
        return equal_demand_load_kg(case, EQUAL[match], base.peak(EQUAL[match]))
    if match == "typical-load":
        return typical_load_kg(case, rules)[0]
    if match == "same-load":
        return base.case.load_kg
    if match == EQUAL_EFFORT:
        return _equal_effort_kg(case, base)
    system = base.case.athlete.mass_kg + base.case.load_kg
    return system + _extra_kg(base.case) - _extra_kg(case) - case.athlete.mass_kg


def _equal_effort_kg(case: ResolvedCase, base: Result) -> float:
    """The load of equal effort. Raises `CaseError` where no best is known."""
    from zesty_lever.choosing.bests import equal_effort_kg

    load = equal_effort_kg(base.case, case)
    if load is None:
        raise CaseError(
            "no-best-known",
            "equal effort needs a best of both athletes, of any lift: note one with the athlete",
            key="athlete.best_loads_kg",
        )
    return load


def _extra_kg(case: Case) -> float:
    return sum(e.mass_kg for e in case.loads if isinstance(e, MassLoad))


def at_loads(case: ResolvedCase, loads_kg: Array) -> Solved:
    """The case at many loads ``(samples,)`` kg; what differs on the way up keeps its difference."""
    batch = make_batch([case])
    down = loads_kg[:, None]
    varied = batch.varied(
        carried=Carrying.at_usual_place(down, np.maximum(down + case.up_kg - case.load_kg, 0.0))
    )
    return varied.solve(varied.whole)


def each_at_loads(cases: Sequence[ResolvedCase], loads_kg: Sequence[Array]) -> Solved:
    """Cases that go together, each at loads ``(loads,)`` kg of its own: one row a load, case after case."""
    if len(cases) == 1:
        return at_loads(cases[0], loads_kg[0])
    rows = [case for case, loads in zip(cases, loads_kg, strict=True) for _ in loads]
    more = np.array([case.up_kg - case.load_kg for case in rows])[:, None]
    down = np.concatenate(loads_kg)[:, None]
    batch = make_batch(rows).varied(
        carried=Carrying.at_usual_place(down, np.maximum(down + more, 0.0))
    )
    return batch.solve(batch.whole)


def _check_between(
    group: JointGroup, target_Nm: float, kilograms: Array, peaks: Array, allowed: list[float]
) -> None:
    """Refuse a target that the lightest possible load exceeds or the heaviest does not reach."""
    if peaks[0] > target_Nm:
        lightest = kilograms[0] == allowed[0]
        answer = "the answer is no load" if lightest else "no lighter load balances"
        raise CaseError(
            "no-load-needed",
            f"at {kilograms[0]:g} kg the {group.word} peak is already {peaks[0]:.0f} N·m, above "
            f"the baseline's {target_Nm:.0f} N·m: {answer}",
            key="load_kg",
            value=float(kilograms[0]),
            unit="kg",
            allowed=allowed,
        )
    if peaks[-1] < target_Nm:
        raise CaseError(
            "not-enough-load",
            f"at its heaviest possible load of {kilograms[-1]:g} kg the {group.word} peak is "
            f"{peaks[-1]:.0f} N·m, below the baseline's {target_Nm:.0f} N·m",
            key="load_kg",
            value=float(kilograms[-1]),
            unit="kg",
            allowed=allowed,
        )


def equal_demand_load_kg(case: Case, group: JointGroup, target_Nm: float) -> float:
    """Load at which the peak of a joint group reaches ``target_Nm``, re-solved at every trial.

    Raises `CaseError` where even no load is more, or the heaviest load is less, or no load in
    between can be balanced.
    """
    resolved = resolve(case)
    low, high = variation(resolved.variation).load_range_kg()

    def excess(loads: Array) -> Array:
        solved = at_loads(resolved, loads)
        if not solved.feasible.all():
            index = int(np.argmin(solved.feasible))
            trial = with_load(resolved, float(loads[index]))
            raise CaseError.of(problems_of(trial, solved.case(index))[0])
        gap: Array = solved.peak(group) - target_Nm
        return gap

    loads = np.linspace(low, high, LOADS_TRIED) if high > low else np.array([low])
    tried = at_loads(resolved, loads)
    # Some poses need a load to balance at all: only what can be done counts.
    able = np.flatnonzero(tried.feasible)
    if not len(able):
        lightest = with_load(resolved, float(loads[0]))
        raise CaseError.of(advised(lightest, problems_of(lightest, tried.case(0))[0]))
    peaks = tried.peak(group)[able]
    kilograms = loads[able]
    _check_between(group, target_Nm, kilograms, peaks, [low, high])
    above = int(np.argmax(peaks >= target_Nm))
    ends = [kilograms[[i]] for i in (max(above - 1, 0), above)]
    return float(find_increasing_root(excess, *ends, tolerance=LOAD_TOLERANCE_KG)[0])


def group_named(name: str) -> JointGroup:
    """A joint group by its key. Raises `CaseError` listing the known ones."""
    if name not in BY_KEY:
        raise CaseError(
            "unknown-joint",
            f"{name} is no joint that can be asked about; known are: {', '.join(BY_KEY)}",
            key="joint",
            value=name,
            allowed=list(BY_KEY),
        )
    return BY_KEY[name]
