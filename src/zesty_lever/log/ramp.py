"""Ramp sets: what stands before the first heavy set of a place, made from the working load and what the gym makes."""

from __future__ import annotations

from zesty_lever.coaching.gym import Gym, loads_at_hand_kg
from zesty_lever.exercises.catalogue import Variation
from zesty_lever.log.asked import made_below

# Share of the working load and repetitions of the steps after the empty bar or the lightest bell.
STEPS = ((0.40, 5), (0.60, 3), (0.75, 2), (0.88, 1))
FIRST_REPS = 8
# Bells below this need no ramp; a step that is no more than this share of the working load is left out.
HEAVY_BELLS_KG, LEAST_STEP = 40.0, 0.08
# Fewer steps where the working load is below so many times the first one.
SHORT_BELOW, SHORT_STEPS = 2.0, ((0.75, 3),)


def ramp_for(
    entry: Variation, working_kg: float, gym: Gym | None = None
) -> tuple[tuple[float, int], ...]:
    """Loads (kg) and repetitions before the first working set, lightest first.

    None where the lift is light, or where nothing lighter is made.
    """
    bar = bool({"bar", "hex bar"} & set(entry.equipment))
    if not bar and working_kg < HEAVY_BELLS_KG:
        return ()
    made = loads_at_hand_kg(entry.id, entry.equipment, working_kg, gym)
    low = entry.load_range_kg()[0]
    lighter = [kg for kg in made if low - 1e-9 <= kg < working_kg - 1e-9]
    if not lighter:
        return ()
    first = _first_kg(entry, lighter, gym)
    found = [(first, FIRST_REPS)]
    steps = STEPS if working_kg >= SHORT_BELOW * first else SHORT_STEPS
    for share, reps in steps:
        load = made_below(lighter, share * working_kg)
        if load is not None and load >= found[-1][0] + LEAST_STEP * working_kg - 1e-9:
            found.append((load, reps))
    return tuple(found)


def _first_kg(entry: Variation, lighter: list[float], gym: Gym | None) -> float:
    """The empty bar that the working load is made with, else the lightest bell."""
    if not {"bar", "hex bar"} & set(entry.equipment):
        return lighter[0]
    from zesty_lever.coaching.gym import usual_gym

    bar = (gym or usual_gym()).bar_for(entry.id, lighter[-1])
    empty = None if bar is None else bar.mass_kg
    return empty if empty is not None and empty <= lighter[-1] else lighter[0]
