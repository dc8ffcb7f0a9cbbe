"""Bests that are expected in lifts never tested, with intervals, and the loads to try that follow from them."""

from __future__ import annotations

import json
from collections.abc import Mapping, Sequence
from dataclasses import field, replace
from functools import lru_cache

import numpy as np

from zesty_lever.analysis import Result
from zesty_lever.cases.easing import eased
from zesty_lever.cases.model import Athlete, Best, Case, ResolvedCase, School
from zesty_lever.cases.parse import athlete_from, case_from
from zesty_lever.cases.resolve import resolve
from zesty_lever.choosing.calibrate import (
    ODD_BEST,
    SEED,
    SHAPE_WIDTH,
    Known,
    Strength,
    calibrated,
    odd_words,
)
from zesty_lever.choosing.effort import (
    Demand,
    at_load,
    demands_of,
    hard_zone,
    joint_shares,
    load_for,
    top_use,
    uses,
)
from zesty_lever.choosing.mobility import own_settings, stiff, with_usual_range
from zesty_lever.choosing.strength import STRONG, UNKNOWNS, People, people, repetition_share
from zesty_lever.coaching.who import tells_bests
from zesty_lever.exercises.catalogue import catalogue, variation
from zesty_lever.frozen import dataclass
from zesty_lever.physics.vectors import Array
from zesty_lever.problems import CaseError
from zesty_lever.tables import toml_values

LEVEL = 0.90
# A lift without a row of its own: how much of the joints a best uses, and its log SD; held in the hands; on one leg.
ROUGH, HELD, HELD_ON_ONE_LEG = (0.72, 0.12), (0.95, 0.09), (0.72, 0.09)
CAP_SD, BIG_BELLS_SD = 0.15, 0.20
# The joint that limits is named where its use is so much more than the next and leads in so many draws.
LEADS_BY, LEADS_IN = 1.2, 0.80
# Below this use at a best something else comes first.
OTHER_FIRST = 0.85
WORKING = 0.70
# A pull from the floor whose back rounds more than this tells no effort, deg: the model has nothing to say there.
MOST_ROUNDING_DEG = 15.0
# Bests whose use is known this closely (log SD) are worth asking for.
TESTED_CLOSELY = 0.06


@dataclass(frozen=True)
class LiftUse:
    """What a best of a lift takes of the joints: use, its log SD, what else limits; ``rough``: no row of its own."""

    use: float
    sd: float
    other: str
    rough: bool


@dataclass(frozen=True)
class Expected:
    """A best with its middle 90 %: kg; ``tested``: lifted, not predicted."""

    median_kg: float
    low_kg: float
    high_kg: float
    tested: bool
    rough: bool


@dataclass(frozen=True)
class UseCurve:
    """Top use over the way up at one load: arrays ``(frames,)``, median with its middle 90 %, and which joint."""

    progress: Array
    median: Array
    low: Array
    high: Array
    joint: tuple[str, ...]


@dataclass(frozen=True)
class Effort:
    """How hard one case is: top use with its middle 90 %, the joint that limits (empty: none is named), where.

    ``uses`` are each joint's largest use with its middle 90 %; ``share_of_draws`` is how often the leading joint leads; ``other`` what else comes first at a best.
    """

    top: float
    low: float
    high: float
    joint: str
    share_of_draws: float
    other: str
    hard_zone: tuple[float, float]
    uses: Mapping[str, tuple[float, float, float]]
    best: Expected | None
    basis: str
    curve: UseCurve
    # Ankle, knee flexors, hip abductors: shown, never limiting; empty where nobody asked.
    also: Mapping[str, float] = field(default_factory=dict)


def lift_use(name: str) -> LiftUse:
    """The row of a lift in ``data/tables/effort.toml``, else what its hold suggests."""
    rows = toml_values("effort")
    if name in rows:
        row = rows[name]
        return LiftUse(row["use"], row["sd"], row.get("other", ""), rough=False)
    entry = variation(name)
    if entry.load is not None and entry.load.most_per_body_mass is not None:
        use, sd = HELD_ON_ONE_LEG if entry.has_front_leg else HELD
        return LiftUse(use, sd, "what hands hold", rough=False)
    return LiftUse(*ROUGH, "", rough=True)


def told_share(name: str) -> float:
    """What a lift's uses are told times: a best can't take more than all there is.

    Where the table says that a usual best takes more than 1 (the hex bar's knees), the model asks too much there.
    """
    return 1.0 / max(lift_use(name).use, 1.0)


_DEMANDS: dict[str, Demand | CaseError] = {}
DEMANDS_KEPT = 512


def demand_for(case: Case) -> Demand:
    """The demand of a case's lift, kept by build, school and settings. Raises `CaseError`."""
    found = demands_for([case])[0]
    if isinstance(found, CaseError):
        raise found
    return found


def demands_for(cases: Sequence[Case]) -> list[Demand | CaseError]:
    """The same of several cases; those that are not kept are worked out together."""
    bare = {_bare_text(case): case for case in cases}
    fresh = [text for text in bare if text not in _DEMANDS]
    made = demands_of([resolve(case_from(json.loads(text))) for text in fresh])
    found = {text: _DEMANDS[text] for text in bare if text in _DEMANDS}
    found |= dict(zip(fresh, made, strict=True))
    if len(_DEMANDS) + len(fresh) > DEMANDS_KEPT:
        _DEMANDS.clear()
    _DEMANDS.update(found)
    return [found[_bare_text(case)] for case in cases]


def forget_demands() -> None:
    """Keep none: for measuring a cold start."""
    _DEMANDS.clear()


def _bare_text(case: Case) -> str:
    """A case by which its demand is known: without load, bests and all else that does not count."""
    bare = case.athlete.changed(
        # Whole numbers given in code are the same build.
        height_m=float(case.athlete.height_m),
        mass_kg=float(case.athlete.mass_kg),
        best_loads_kg={},
        bests=(),
        name="",
        sore=(),
        strength_curves={},
        measurements=(),
        born=None,
        age_years=None,
        training_years=None,
    )
    plain = Case(
        athlete=bare,
        variation=case.variation,
        school=case.school,
        settings=case.settings,
        frames="none",
    )
    return json.dumps(plain.as_json(), sort_keys=True)


def strength_of(athlete: Athlete, school: School = "even") -> Strength:
    """Strength by the athlete's bests; what can't stand is left out and said, of two of a lift the better counts."""
    plain = athlete.changed(
        name="", sore=(), measurements=(), born=None, age_years=None, training_years=None
    )
    return _strength(json.dumps(plain.as_json(), sort_keys=True), school)


@lru_cache(maxsize=64)
def _strength(text: str, school: School) -> Strength:
    athlete = athlete_from(json.loads(text))
    found: dict[str, tuple[float, Known]] = {}
    left_out = []
    anybody = people(athlete, np.zeros((1, len(UNKNOWNS))), known=True)
    for best in athlete.known_bests:
        done = dict(own_settings(athlete, best, school))
        # As it was done, where that is known; else with usual range: a forced pose is a guess, no weak joint.
        whose = athlete if done else with_usual_range(athlete)
        case = Case(athlete=whose, variation=best.variation, school=school, settings=done)
        try:
            demand = demand_for(case)
        except CaseError as error:
            name = variation(best.variation).name
            left_out.append(f"{name}, {best.load_kg:g} kg, is left out: {error.text}")
            continue
        lift = lift_use(best.variation)
        known = Known(
            best.variation, demand, best.load_kg, lift.use, lift.sd, best.reps, best.at_least
        )
        tops = top_use(demand, anybody)
        worth = float(at_load(demand, tops, best.load_kg)[0]) / repetition_share(best.reps)[0]
        if best.variation not in found or worth > found[best.variation][0]:
            found[best.variation] = (worth, known)
    known_ones = [known for _, known in found.values()]
    strength = calibrated(athlete, known_ones)
    odd = strength.odd
    if len(known_ones) == 2 and not odd:
        odd = _far_from_the_other(athlete, known_ones)
    return replace(strength, odd=odd, left_out=tuple(left_out))


def _far_from_the_other(athlete: Athlete, both: Sequence[Known]) -> tuple[str, ...]:
    """Of two bests, those that lie far from what the other leads one to expect, as questions.

    Joints of their own may fit any two bests; that one of two kin is far off is still worth asking.
    """
    notes = []
    for best, other in (both, both[::-1]):
        if best.at_least or other.at_least:
            continue
        aim, sd = best.aim
        person = person_of(calibrated(athlete, [other]))
        loads = load_for(best.demand, top_use(best.demand, person), float(np.exp(aim)))
        logs = np.log(np.maximum(loads, 1e-3))
        apart = float(np.log(best.load_kg) - np.median(logs)) if best.load_kg > 0.0 else 0.0
        if abs(apart) > ODD_BEST * float(np.hypot(np.std(logs), sd)):
            notes.append(odd_words(best, less=apart < 0.0))
    return tuple(notes[:1])


def person_of(strength: Strength, *, full: bool = False, draws: int | None = None) -> People:
    """The draws (or the first so many) as people; ``full``: with all that the literature leaves open of the shapes."""
    width = 1.0 if full else SHAPE_WIDTH
    normals = strength.normals[:draws]
    return people(strength.athlete, normals, known=strength.calibrated, width=width)


def expected_best(strength: Strength, name: str, school: School = "even") -> Expected | None:
    """The best that is expected in a lift; tested ones as tested; None where nothing is known or can be said.

    Of a floor pull that rounds this athlete's back the model has nothing to say.

    Raises `CaseError` where the lift can't stand.
    """
    kept, key = strength.expected, (name, school)
    if key not in kept:
        kept[key] = _expected_best(strength, name, school)
    found: Expected | None = kept[key]
    return found


def _expected_best(strength: Strength, name: str, school: School) -> Expected | None:
    athlete, entry = strength.athlete, variation(name)
    tested = [b.load_kg for b in athlete.known_bests if _is_tested(b, name)]
    if tested:
        load = max(tested)
        return Expected(load, load, load, tested=True, rough=False)
    if not strength.calibrated or entry.load is None:
        return None
    demand = demand_for(Case(athlete=athlete, variation=name, school=school))
    if entry.from_floor and float(demand.lumbar_deg.max()) > MOST_ROUNDING_DEG:
        return None
    lift, person = lift_use(name), person_of(strength)
    count = len(strength.normals)
    off = np.random.default_rng([SEED, *name.encode()]).standard_normal((2, count))
    low, high = entry.load_range_kg()

    def loads_by(demand: Demand) -> Array:
        loads = load_for(demand, top_use(demand, person), lift.use * np.exp(lift.sd * off[0]))
        cap = entry.load.most_per_body_mass if entry.load is not None else None
        if cap is not None:
            spread = BIG_BELLS_SD if cap >= 0.9 else CAP_SD
            loads = np.minimum(loads, cap * athlete.mass_kg * np.exp(spread * off[1]))
        clipped: Array = np.clip(loads, low, high)
        return clipped

    found = _middle(loads_by(demand))
    if not stiff(athlete):
        return Expected(*found, tested=False, rough=lift.rough)
    # In a set-up that range forces: the smaller of what its own demand and that of usual range give, the
    # interval wider downwards by the difference.
    try:
        usual = demand_for(Case(athlete=with_usual_range(athlete), variation=name, school=school))
    except CaseError:
        return Expected(*found, tested=False, rough=lift.rough)
    other = _middle(loads_by(usual))
    apart = abs(found[0] - other[0])
    median, least, most = min(found, other)
    return Expected(median, max(least - apart, low), most, tested=False, rough=lift.rough)


def _is_tested(best: Best, name: str) -> bool:
    """Whether a best is one repetition of a lift, done as usual, and all there was."""
    return best.variation == name and best.reps == 1 and not best.at_least and not best.settings


def equal_effort_kg(base: Case, other: Case) -> float | None:
    """Load (kg) of another case at the same fraction of what a best takes of the joints, in both by the best expected.

    ``base`` has its load; each athlete's own bests count. None where nothing is carried or no best is known.
    Raises `CaseError` where one of them can't stand.
    """
    entry = variation(other.variation)
    fractions: list[Array] = []
    aims: list[tuple[Demand, Array, float]] = []
    for case in (base, other):
        strength = strength_of(case.athlete, case.school)
        best = expected_best(strength, case.variation, case.school)
        if best is None:
            return None
        demand = demand_for(case)
        tops = top_use(demand, person_of(strength))
        aims.append((demand, tops, best.median_kg))
        if case is base:
            at_best = at_load(demand, tops, best.median_kg)
            fractions.append(at_load(demand, tops, base.load_kg or 0.0) / at_best)
    demand, tops, best_kg = aims[1]
    loads = load_for(demand, tops, fractions[0] * at_load(demand, tops, best_kg))
    low, high = entry.load_range_kg()
    return float(np.clip(np.median(loads), low, high))


def work_set_kg(athlete: Athlete, name: str, reps: float, school: School = "even") -> float | None:
    """The load that so many repetitions to the limit are of a best, measured or expected, kg; None where none is known.

    Raises `CaseError` where the lift can't stand.
    """
    strength = strength_of(athlete, school)
    best = expected_best(strength, name, school)
    if best is None:
        return None
    demand = demand_for(Case(athlete=athlete, variation=name, school=school))
    tops = top_use(demand, person_of(strength))
    share = repetition_share(reps)[0]
    loads = load_for(demand, tops, at_load(demand, tops, best.median_kg) * share)
    return float(np.median(loads))


def effort_of(case: ResolvedCase, strength: Strength) -> Effort:
    """How hard a case is for an athlete. Raises `CaseError` where effort would mislead (moving, impossible)."""
    if case.mode == "dynamic":
        raise CaseError(
            "effort-at-rest",
            "effort is told at rest only: switch inertia off",
            key="mode",
            value="dynamic",
        )
    demand = told_demand(case)
    person = person_of(strength)
    times = told_share(case.variation)
    tops = at_load(demand, top_use(demand, person), case.load_kg)
    median, low, high = _middle(times * tops)
    joint, share = _limit(demand, person_of(strength, full=True), case.load_kg)
    lift = lift_use(case.variation)
    told = tells_bests(case.athlete)
    best = expected_best(strength, case.variation, case.school) if told else None
    shares = joint_shares(demand, person, case.load_kg)
    return Effort(
        median,
        low,
        high,
        joint,
        share,
        lift.other if lift.use < OTHER_FIRST else "",
        hard_zone(demand, person, case.load_kg),
        {key: _middle(times * values) for key, values in shares.items()},
        best,
        _basis(strength),
        use_curve(case, strength),
    )


def told_demand(case: ResolvedCase) -> Demand:
    """The demand that a case's use is told by: of a tested lift set up as its athlete's range forces it, with usual range.

    Raises `CaseError` where it can't stand.
    """
    athlete = case.athlete
    tested = any(
        b.variation == case.variation and not own_settings(athlete, b, case.school)
        for b in athlete.known_bests
    )
    if not tested or not stiff(athlete):
        return demand_for(case)
    plain = Case(athlete=athlete, variation=case.variation, school=case.school)
    as_usual = all(
        value is None or case.settings.get(key) in (None, value)
        for key, value in (analysed_settings(plain.changed(load_kg=case.load_kg)) or {}).items()
    )
    if not as_usual:
        return demand_for(case)
    return demand_for(plain.changed(athlete=with_usual_range(athlete)))


def analysed_settings(case: Case) -> Mapping[str, float | None] | None:
    """The settings that a case comes out with once its defaults were eased; None where it can't be resolved."""
    try:
        return (eased(case) or resolve(case)).settings
    except CaseError:
        return None


def against_usual(strength: Strength) -> dict[str, tuple[float, float, float]]:
    """Each joint's strength over a trained person's of this mass and sex: median and middle 90 % of the draws."""
    person = person_of(strength)
    return {joint: _middle(person.against_usual(joint)) for joint in STRONG}


@dataclass(frozen=True)
class Narrowing:
    """A best that is not known yet: the lift, and by what share knowing it would narrow the other expected bests."""

    variation: str
    share: float


def most_telling(strength: Strength, school: School = "even") -> Narrowing | None:
    """The untested best that would narrow the expected bests of all other lifts most.

    Lifts that the joints limit and that are tested closely are asked for. By the draws: what is left of a lift's
    log spread once another is known to its own spread (as if both were normal). None where all are known.
    """
    known = {b.variation for b in strength.athlete.known_bests if not b.at_least}
    rows = {name: lift_use(name) for name in toml_values("effort") if name in catalogue()}
    logs = _expected_logs(strength, school, rows)
    found: list[Narrowing] = []
    for name, log in logs.items():
        lift = rows[name]
        if lift.sd > TESTED_CLOSELY or lift.other or name in known:
            continue
        others = {o: values for o, values in logs.items() if o not in known and o != name}
        left = [_left(log, lift.sd, values, rows[o].sd) for o, values in others.items()]
        if left:
            found.append(Narrowing(name, 1.0 - float(np.mean(left))))
    return max(found, key=lambda one: one.share) if found else None


def _expected_logs(
    strength: Strength, school: School, rows: Mapping[str, LiftUse]
) -> dict[str, Array]:
    """Logs of the expected bests of lifts, draw by draw; those that can't stand are left out."""
    logs = {}
    for name, lift in rows.items():
        try:
            demand = demand_for(Case(athlete=strength.athlete, variation=name, school=school))
        except CaseError:
            continue
        loads = load_for(demand, top_use(demand, person_of(strength)), lift.use)
        if float(loads.min()) > 0.0:
            logs[name] = np.log(loads)
    return logs


def _left(seen: Array, seen_sd: float, other: Array, other_sd: float) -> float:
    """What is left of a lift's log spread, as a share, once another one's best is known."""
    shared = float(np.mean((other - other.mean()) * (seen - seen.mean())))
    own = float(np.var(other))
    after = max(own - shared**2 / (float(np.var(seen)) + seen_sd**2), 0.0)
    return float(np.sqrt((after + other_sd**2) / (own + other_sd**2)))


def use_curve(case: ResolvedCase, strength: Strength) -> UseCurve:
    """Top use of hip, knee and back over the way up. Raises `CaseError` where the lift can't stand."""
    demand = told_demand(case)
    every = uses(demand, person_of(strength))
    loads, load = demand.loads_kg, case.load_kg
    row = int(np.clip(np.searchsorted(loads, load) - 1, 0, len(loads) - 2))
    share = (load - loads[row]) / (loads[row + 1] - loads[row])
    at = every[:, :, row] + share * (every[:, :, row + 1] - every[:, :, row])
    at = told_share(case.variation) * at
    ends = 0.5 * (1.0 - LEVEL)
    median, low, high = np.quantile(at.max(axis=0), [0.5, ends, 1.0 - ends], axis=0)
    leading = np.median(at, axis=1).argmax(axis=0)
    return UseCurve(demand.progress, median, low, high, tuple(STRONG[i] for i in leading))


def _middle(values: Array) -> tuple[float, float, float]:
    """Median and middle 90 % of draws."""
    median, low, high = np.quantile(values, [0.5, 0.5 * (1.0 - LEVEL), 0.5 * (1.0 + LEVEL)])
    return float(median), float(low), float(high)


def use_over_the_rep(case: ResolvedCase, strength: Strength) -> list[dict[str, object]]:
    """Median use of hip and knee (of the leg that works more) and back, frame by frame on the way up."""
    demand = told_demand(case)
    middle = told_share(case.variation) * np.median(uses(demand, person_of(strength)), axis=1)
    found: list[dict[str, object]] = []
    for frame, progress in enumerate(demand.progress):
        at = [float(np.interp(case.load_kg, demand.loads_kg, row[:, frame])) for row in middle]
        named = dict(zip(("hip", "knee", "lumbosacral"), (round(u, 3) for u in at), strict=True))
        found.append({"progress": round(float(progress), 4), "use": named})
    return found


def misleads(result: Result) -> bool:
    """Whether effort would mislead: moving, impossible, or a floor pull with a rounded back."""
    if result.case.mode == "dynamic" or not result.feasible:
        return True
    rounding = float(np.degrees(result.solved.pose.lumbar_flexion_rad.max()))
    return result.variation.from_floor and rounding > MOST_ROUNDING_DEG


def _limit(demand: Demand, person: People, load_kg: float) -> tuple[str, float]:
    """The joint that limits where one clearly does, and in what share of the draws the leading one leads."""
    shares = joint_shares(demand, person, load_kg)
    names = list(shares)
    values: Array = np.stack([shares[name] for name in names])
    middle = np.median(values, axis=1)
    order = np.argsort(-middle)
    first, second = order[0], order[1]
    leads = float((values.argmax(axis=0) == first).mean())
    clear = middle[first] >= LEADS_BY * middle[second] and leads >= LEADS_IN
    return (names[first] if clear else ""), leads


def _basis(strength: Strength) -> str:
    """What the strength rests on, in words."""
    if not strength.calibrated:
        return "no best known: a trained person of this mass and sex"
    count = len(strength.known)
    return f"from {count} best{'s' if count > 1 else ''}"
