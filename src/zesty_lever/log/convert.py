"""From one track to another: never copied, always by equal effort, with an interval.

Through use, since repetitions hold shares of use and not of load: the single is the load whose use is use(load) over
the share at so many repetitions and what was left; the target has the use of that single times the share wanted.
"""

from __future__ import annotations

from functools import lru_cache
from statistics import NormalDist

import numpy as np

from zesty_lever.cases.model import Athlete, Case, School, Setup
from zesty_lever.choosing.bests import (
    WORKING,
    demand_for,
    lift_use,
    person_of,
    strength_of,
    work_set_kg,
)
from zesty_lever.choosing.calibrate import SEED
from zesty_lever.choosing.effort import at_load, load_for, top_use
from zesty_lever.choosing.strength import repetition_share
from zesty_lever.exercises.catalogue import variation
from zesty_lever.frozen import dataclass
from zesty_lever.log.asked import Dose
from zesty_lever.log.entry import DoneSet
from zesty_lever.physics.vectors import Array

# Where nothing is wanted to be left: one; where nothing was told of what was left: none.
WANTED_LEFT, TOLD_LEFT = 1.0, 0.0
ENDS = (0.05, 0.25, 0.5, 0.95)


@dataclass(frozen=True)
class Effort:
    """A set-up at a load for so many repetitions to the limit (those done and those left)."""

    setup: Setup
    load_kg: float
    reps: float


@dataclass(frozen=True)
class Converted:
    """A load by equal effort, kg: its middle 90 %, its lower quarter, its median; the single it goes through."""

    low_kg: float
    quarter_kg: float
    median_kg: float
    high_kg: float
    single_kg: float

    def times(self, share: float) -> Converted:
        """The same at a share of every load."""
        loads = (self.low_kg, self.quarter_kg, self.median_kg, self.high_kg, self.single_kg)
        return Converted(*(share * kg for kg in loads))


def effort_done(done: DoneSet, minis: int = 1) -> Effort:
    """A set as the repetitions that it was to the limit; a cluster counts as one of its small sets and one more."""
    assert done.setup is not None
    reps = float(done.reps)
    if done.style == "clusters":
        reps = done.reps / max(minis, 1) + 1.0
    left = TOLD_LEFT if done.effort_left is None else done.effort_left
    return Effort(done.setup, done.load_kg, max(reps, 1.0) + left)


def reps_to_limit(dose: Dose) -> float:
    """Repetitions to the limit that a dose means: the fewest asked and what should be left."""
    reps = dose.mini_reps + 1 if dose.style == "clusters" else dose.reps[0]
    return reps + (WANTED_LEFT if dose.effort_left is None else dose.effort_left)


def share_at(reps: float) -> tuple[float, float]:
    """Use at so many repetitions over use at one, and its log SD; half repetitions lie between."""
    return repetition_share(reps)


@lru_cache(maxsize=8)
def _bell(count: int, number: int) -> Array:
    """Evenly spread draws of a standard normal in a shuffled order."""
    inverse = NormalDist().inv_cdf
    even = np.array([inverse((i + 0.5) / count) for i in range(count)])
    found: Array = np.random.default_rng([SEED, number]).permutation(even)
    return found


def converted(
    athlete: Athlete, source: Effort, setup: Setup, reps: float, school: School = "even"
) -> Converted | None:
    """The load of a set-up for so many repetitions to the limit, from another effort of the same person.

    None where one of the two carries nothing or the target is out of the lift's range. Raises `CaseError` where
    one can't stand.
    """
    entry = variation(setup.variation)
    if entry.load is None or variation(source.setup.variation).load is None:
        return None
    strength = strength_of(athlete, school)
    person = person_of(strength)
    demands = [
        demand_for(
            Case(athlete=athlete, variation=one.variation, school=school, settings=one.settings)
        )
        for one in (source.setup, setup)
    ]
    tops = [top_use(demand, person) for demand in demands]
    count = len(tops[0])
    (share, off), (wanted, wanted_off) = share_at(source.reps), share_at(reps)
    single = at_load(demands[0], tops[0], source.load_kg) / share
    spread = off**2 + wanted_off**2
    if source.setup.variation != setup.variation:
        theirs, own = lift_use(source.setup.variation), lift_use(setup.variation)
        single = single * (own.use / theirs.use)
        spread += theirs.sd**2 + own.sd**2
    use = single * wanted * np.exp(np.sqrt(spread) * _bell(count, 1))
    low, high = entry.load_range_kg()
    cap = entry.load.most_per_body_mass
    if cap is not None:
        # No more than hands hold in work sets.
        high = min(high, WORKING * cap * athlete.mass_kg)
    loads = np.clip(load_for(demands[1], tops[1], use), low, max(high, low))
    least, quarter, middle, most = (float(kg) for kg in np.quantile(loads, ENDS))
    whole = float(np.median(load_for(demands[1], tops[1], single)))
    return Converted(least, quarter, middle, most, whole)


def share_of_best_kg(
    athlete: Athlete, setup: Setup, reps: float, school: School = "even"
) -> tuple[float, bool] | None:
    """The load that so many repetitions to the limit are of a measured best, else of the expected median; whether measured.

    None where no best is known. Raises `CaseError` where the lift can't stand.
    """
    own = [
        b
        for b in athlete.known_bests
        if b.variation == setup.variation and not b.settings and not b.at_least
    ]
    singles = [_single_of(athlete, setup, b.load_kg, b.reps, school) for b in own]
    if not singles:
        found = work_set_kg(athlete, setup.variation, reps, school)
        return None if found is None else (found, False)
    strength, best = strength_of(athlete, school), max(singles)
    demand = demand_for(Case(athlete=athlete, variation=setup.variation, school=school))
    tops = top_use(demand, person_of(strength))
    loads = load_for(demand, tops, at_load(demand, tops, best) * share_at(reps)[0])
    return float(np.median(loads)), True


def _single_of(athlete: Athlete, setup: Setup, load_kg: float, reps: int, school: School) -> float:
    if reps == 1:
        return load_kg
    plain = Setup(variation=setup.variation)
    found = converted(athlete, Effort(plain, load_kg, float(reps)), plain, 1.0, school)
    return load_kg if found is None else found.median_kg
