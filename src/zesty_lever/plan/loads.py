"""Which load a planned item means: kilograms, a share of a best, the usual one, what is advised, by feel."""

from __future__ import annotations

from zesty_lever.cases.model import Athlete, Case
from zesty_lever.choosing.loading import USUAL, TypicalRules, typical_load_kg
from zesty_lever.coaching.gym import at_hand_kg, loads_at_hand_kg
from zesty_lever.coaching.who import tells_bests
from zesty_lever.exercises.catalogue import variation
from zesty_lever.plan.document import Item
from zesty_lever.problems import CaseError


def working_load(
    item: Item, athlete: Athlete, rules: TypicalRules = USUAL, advised_kg: float | None = None
) -> tuple[float | None, str]:
    """The load (kg) of an item for an athlete, and the rule behind it; None where nothing is loaded.

    Loads by rule are what the gym can make; kilograms given by the coach stay as given (`load_not_made` says
    where the gym can't make them). Raises `CaseError` for an unknown variation.
    """
    if item.setup is None:
        return None, ""
    entry = variation(item.setup.variation)
    if entry.load_range_kg()[1] <= 0.0:
        return None, "no load"
    shared = _share_of_best(item, athlete, rules)
    if shared is not None:
        return shared
    if item.load_rule == "advised" and advised_kg is not None:
        return advised_kg, "as advised"
    if item.load_kg is not None and item.load_rule != "typical":
        return item.load_kg, "as planned"
    case = Case(athlete=athlete, variation=entry.id, school=item.setup.school)
    return typical_load_kg(case, rules)


def _share_of_best(item: Item, athlete: Athlete, rules: TypicalRules) -> tuple[float, str] | None:
    """A share of a best, made by the gym; None where the rule is another one or no best is known."""
    if item.setup is None or item.load_rule != "share-of-best" or item.share is None:
        return None
    best, told = _best_kg(item, athlete)
    if best is None:
        return None
    entry = variation(item.setup.variation)
    low, high = entry.load_range_kg()
    made = at_hand_kg(entry.id, entry.equipment, item.share * best, rules.gym)
    return min(max(made, low), high), f"{100 * item.share:.0f} % of {told}"


def _best_kg(item: Item, athlete: Athlete) -> tuple[float | None, str]:
    assert item.setup is not None
    name = item.setup.variation
    if not tells_bests(athlete):
        return None, ""
    if name in athlete.best_loads_kg:
        return athlete.best_loads_kg[name], "the best"
    from zesty_lever.choosing.bests import expected_best, strength_of

    try:
        found = expected_best(strength_of(athlete, item.setup.school), name, item.setup.school)
    except CaseError:
        found = None
    if found is None:
        return None, ""
    return found.median_kg, f"the {found.median_kg:.0f} kg expected"


def load_not_made(item: Item, load_kg: float | None, rules: TypicalRules = USUAL) -> str:
    """Why a gym can't make a load, with the nearest ones that it can; empty where it can."""
    if item.setup is None or not load_kg:
        return ""
    entry = variation(item.setup.variation)
    made = loads_at_hand_kg(entry.id, entry.equipment, entry.load_range_kg()[1], rules.gym)
    if any(abs(kg - load_kg) < 1e-6 for kg in made):
        return ""
    below = max((kg for kg in made if kg < load_kg), default=None)
    above = min((kg for kg in made if kg > load_kg), default=None)
    near = " or ".join(f"{kg:g}" for kg in (below, above) if kg is not None)
    name = entry.name.lower()
    return f"this gym can't make {load_kg:g} kg for the {name}: {near or 'no load'} kg"
