"""Loads that a coach would give: by bests, by body mass without any, within what hands hold and gyms have."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from builders import case_of
from zesty_lever.choosing.loading import NO_LOAD, typical_load_kg
from zesty_lever.coaching.gym import at_hand_kg, usual_gym
from zesty_lever.exercises.catalogue import catalogue, variation

GIRL = {"height_m": 1.45, "mass_kg": 35, "sex": "female"}
STRONG = {"height_m": 1.90, "mass_kg": 110, "best_loads_kg": {"back-squat-high-bar": 230}}


@pytest.mark.parametrize("name", list(catalogue()))
def test_without_a_best_the_load_is_light(name):
    """Common practice, no source: a 35 kg girl without bests and of unknown age is taken for young: a tenth of her mass
    in the hands at most (once 80 kg in a deadlift, 90 kg in a hex bar), or no load at all, and is told why."""
    load, rule = typical_load_kg(case_of(name, None, GIRL))
    entry = variation(name)
    assert load <= max(0.1 * GIRL["mass_kg"] + 0.1, entry.load_range_kg()[0])
    assert rule in ("a light first load", "unloaded first", "no load", NO_LOAD)


@pytest.mark.parametrize("name", [v.id for v in catalogue().values() if v.load_range_kg()[1] > 0])
def test_a_strong_athlete_is_not_told_a_toy(name):
    """Every loaded variation has its usual share: none falls back on a default (once 12 kg for a 230 kg squat)."""
    load, rule = typical_load_kg(case_of(name, None, STRONG))
    assert "default" not in rule
    assert load >= 20.0
    cap = variation(name).load.most_per_body_mass
    if cap is not None:
        assert load <= 0.7 * cap * STRONG["mass_kg"] + 1e-9


@settings(max_examples=60, deadline=None)
@given(
    st.sampled_from(list(catalogue())),
    st.floats(30, 200),
    st.none() | st.floats(20, 350),
    st.sampled_from(["male", "female"]),
)
def test_every_load_is_one_that_the_gym_makes(name, mass_kg, squat_kg, sex):
    """Within the variation's range; bars are what the discs at hand make, bells whole kilograms."""
    best = {} if squat_kg is None else {"back-squat-high-bar": squat_kg}
    athlete = {"mass_kg": mass_kg, "sex": sex, "best_loads_kg": best}
    load, _ = typical_load_kg(case_of(name, None, athlete))
    entry = variation(name)
    low, high = entry.load_range_kg()
    assert low <= load <= high
    if {"bar", "hex bar"} & set(entry.equipment) and low < load < high:
        made = usual_gym().loading(name, load)
        assert made is not None
        assert made.off_kg == pytest.approx(0.0, abs=1e-9)
    elif low < load < high:
        assert load == pytest.approx(round(2.0 * load) / 2.0)


@pytest.mark.parametrize(
    ("equipment", "wanted", "made"),
    [
        (("bar", "discs"), 63.0, 62.5),
        (("bar", "discs"), 62.5, 62.5),
        (("bar", "discs"), 4.0, 10.0),
        (("two dumbbells",), 39.0, 36.0),
        (("two dumbbells",), 1.0, 4.0),
        (("kettlebell or dumbbell",), 23.9, 22.0),
        (("kettlebell",), 23.9, 20.0),
        (("two kettlebells",), 57.0, 56.0),
        (("cable",), 31.0, 30.0),
        (("bar", "discs"), 0.0, 0.0),
    ],
)
def test_the_gym_s_next_lighter_load(equipment, wanted, made):
    """Hand figures: the next lighter one, but never lighter than the lightest there is."""
    assert at_hand_kg("lift", equipment, wanted) == pytest.approx(made)


def test_a_heavier_best_never_gives_a_lighter_load():
    """From 20 to 300 kg of back squat the working load of each lift only rises."""
    for name in catalogue():
        loads = [
            typical_load_kg(
                case_of(name, None, {"best_loads_kg": {"back-squat-high-bar": float(best)}})
            )[0]
            for best in range(20, 301, 20)
        ]
        assert (np.diff(loads) >= -1e-9).all(), name
