"""Bests that are expected in lifts never tested, with intervals, and the loads to try that follow from them."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cache

import numpy as np

from zesty_lever.cases.model import Athlete, Case, ResolvedCase, School
from zesty_lever.cases.resolve import resolve
from zesty_lever.choosing.calibrate import SEED, SHAPE_WIDTH, Known, Strength, calibrated
from zesty_lever.choosing.effort import (
    Demand,
    at_load,
    demand_of,
    hard_zone,
    joint_shares,
    load_for,
    top_use,
)
from zesty_lever.choosing.strength import People, people
from zesty_lever.exercises.catalogue import variation
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
class Effort:
    """How hard one case is: top use with its middle 90 %, the joint that limits (empty: none is named), where.

    ``share_of_draws`` is how often the leading joint leads; ``other`` what else comes first at a best.
    """

    top: float
    low: float
    high: float
    joint: str
    share_of_draws: float
    other: str
    hard_zone: tuple[float, float]
    uses: Mapping[str, float]
    best: Expected | None
    basis: str


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


@cache
def _demand(text: str) -> Demand:
    import json

    from zesty_lever.cases.parse import case_from

    return demand_of(resolve(case_from(json.loads(text))))


def demand_for(case: Case) -> Demand:
    """The demand of a case's lift, kept by build, school and settings. Raises `CaseError`."""
    import json

    bare = case.athlete.changed(best_loads_kg={}, name="", sore=())
    plain = Case(
        athlete=bare,
        variation=case.variation,
        school=case.school,
        settings=case.settings,
        frames="none",
    )
    return _demand(json.dumps(plain.as_json(), sort_keys=True))


def strength_of(athlete: Athlete, school: School = "even") -> Strength:
    """Strength by the athlete's recorded bests; what can't stand is left out."""
    known = []
    for name, load in athlete.best_loads_kg.items():
        try:
            demand = demand_for(Case(athlete=athlete, variation=name, school=school))
        except CaseError:
            continue
        lift = lift_use(name)
        known.append(Known(name, demand, load, lift.use, lift.sd))
    return calibrated(athlete, known)


def person_of(strength: Strength, *, full: bool = False) -> People:
    """The draws as people; ``full``: with all that the literature leaves open of the shapes."""
    width = 1.0 if full else SHAPE_WIDTH
    return people(strength.athlete, strength.normals, known=strength.calibrated, width=width)


def expected_best(strength: Strength, name: str, school: School = "even") -> Expected | None:
    """The best that is expected in a lift; tested ones as tested; None where nothing is known or can be said.

    Raises `CaseError` where the lift can't stand.
    """
    athlete, entry = strength.athlete, variation(name)
    if name in athlete.best_loads_kg:
        load = athlete.best_loads_kg[name]
        return Expected(load, load, load, tested=True, rough=False)
    if not strength.calibrated or entry.load is None:
        return None
    demand = demand_for(Case(athlete=athlete, variation=name, school=school))
    lift = lift_use(name)
    tops = top_use(demand, person_of(strength))
    off = np.random.default_rng([SEED, *name.encode()]).standard_normal((2, len(tops)))
    loads = load_for(demand, tops, lift.use * np.exp(lift.sd * off[0]))
    cap = entry.load.most_per_body_mass
    if cap is not None:
        spread = BIG_BELLS_SD if cap >= 0.9 else CAP_SD
        loads = np.minimum(loads, cap * athlete.mass_kg * np.exp(spread * off[1]))
    low, high = entry.load_range_kg()
    loads = np.clip(loads, low, high)
    median, least, most = np.quantile(loads, [0.5, 0.5 * (1.0 - LEVEL), 0.5 * (1.0 + LEVEL)])
    return Expected(float(median), float(least), float(most), tested=False, rough=lift.rough)


def effort_of(case: ResolvedCase, strength: Strength) -> Effort:
    """How hard a case is for an athlete. Raises `CaseError` where effort would mislead (moving, impossible)."""
    if case.mode == "dynamic":
        raise CaseError(
            "effort-at-rest",
            "effort is told at rest only: switch inertia off",
            key="mode",
            value="dynamic",
        )
    demand = demand_for(case)
    person = person_of(strength)
    tops = at_load(demand, top_use(demand, person), case.load_kg)
    median, low, high = np.quantile(tops, [0.5, 0.5 * (1.0 - LEVEL), 0.5 * (1.0 + LEVEL)])
    joint, share = _limit(demand, person_of(strength, full=True), case.load_kg)
    lift = lift_use(case.variation)
    best = expected_best(strength, case.variation, case.school)
    shares = joint_shares(demand, person, case.load_kg)
    return Effort(
        float(median),
        float(low),
        float(high),
        joint,
        share,
        lift.other if lift.use < OTHER_FIRST else "",
        hard_zone(demand, person, case.load_kg),
        {key: float(np.median(values)) for key, values in shares.items()},
        best,
        _basis(strength),
    )


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
