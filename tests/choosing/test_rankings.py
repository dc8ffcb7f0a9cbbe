"""A dozen questions that coaches ask, and answers that a coach would accept (common practice, no source)."""

from functools import partial
from itertools import pairwise

import pytest

from builders import solve
from zesty_lever.cases.parse import athlete_from
from zesty_lever.choosing.bests import expected_best, strength_of
from zesty_lever.choosing.shortlist import Option, RuledOut, shortlist, substitutes
from zesty_lever.choosing.week import NEEDS, cover_week, reason_in_words
from zesty_lever.choosing.wishes import Wish
from zesty_lever.exercises.catalogue import variation
from zesty_lever.joints import BY_KEY

# The ranking alone: its intervals are most of the work.
listed = partial(shortlist, spans=False)

MAN = athlete_from(
    {"height_m": 1.78, "mass_kg": 82, "sex": "male", "best_loads_kg": {"back-squat-high-bar": 130}}
)
HOME = frozenset({"mat", "bench", "box", "mini-band", "kettlebell"})


def ranked(want, **more):
    found = listed(MAN, Wish(want, **more))
    return [option for option in found if isinstance(option, Option)]


def place(name, options):
    return [option.variation for option in options].index(name) + 1


def test_hard_at_lockout_are_loaded_thrusts():
    """A 117 kg thrust before any bodyweight hold; newton metres, not shares of a small peak."""
    options = ranked({"lockout": 1})
    assert {o.variation for o in options[:4]} >= {"hip-thrust", "single-leg-hip-thrust"}
    assert place("hip-thrust", options) < place("straight-leg-heel-elevated-hold", options)
    assert place("hip-thrust", options) < place("single-leg-glute-bridge", options)


def test_hard_in_the_stretch_are_loaded_hinges_and_split_squats():
    """No bodyweight squat among the first twenty (once it led with 100 %)."""
    first = [o.variation for o in ranked({"long": 1})[:20]]
    assert "romanian-deadlift" in first
    assert not any(name.startswith("bodyweight") for name in first)


def test_sideways_are_wide_stances_and_one_leg():
    """Newton metres about the forward axis: sumo and the wide squat lead, no banded bridge does."""
    first = [o.variation for o in ranked({"sideways": 1})[:6]]
    assert {"sumo-deadlift", "wide-squat"} <= set(first)
    assert "banded-glute-bridge" not in first


def test_more_hip_and_less_back_are_one_leg_and_thrust():
    """None of the first six is a floor pull or a good morning."""
    first = [o.variation for o in ranked({"hip": 1, "back": -1})[:6]]
    assert not any(variation(name).family == "hinge" for name in first)


def test_more_knee_are_squats_step_ups_and_lunges():
    """The first eight, the hex bar with its knees forward allowed; a high-bar squat is among them."""
    first = [o.variation for o in ranked({"knee": 1})[:8]]
    kneeless = {name for name in first if variation(name).family not in ("squat", "lunge")}
    assert kneeless <= {"hex-bar-deadlift"}
    assert "back-squat-high-bar" in first


def test_instead_of_a_deadlift_are_pulls_and_hinges():
    """Substitutes of a 110 kg deadlift: the first five are hinges, the Romanian deadlift is one of them (once
    44th), nothing unloaded is near, and no load is above what this athlete could lift."""
    wanted = solve("conventional-deadlift", 110)
    found = substitutes(MAN, wanted, Wish())
    first = [o.variation for o in found[:6]]
    assert "romanian-deadlift" in first
    assert all(variation(name).family == "hinge" for name in first[:4])
    assert place("assisted-squat", found) > 25
    for option in found:
        if variation(option.variation).load is not None:
            best = expected_best(strength_of(MAN), option.variation)
            assert option.load_kg <= best.median_kg + 5.0, option.variation


def test_instead_of_a_back_squat_are_squats():
    """The first three are squats."""
    found = substitutes(MAN, solve("back-squat-high-bar", 90), Wish())
    assert all(variation(o.variation).family == "squat" for o in found[:3])


def test_at_home_without_dumbbells_lunges_are_done_unloaded():
    """A lunge without weights is still a lunge: not ruled out, at no load, and said so."""
    found = listed(MAN, Wish({"hip": 1}, equipment=HOME))
    by = {o.variation: o for o in found}
    for name in ("reverse-lunge", "split-squat", "step-up", "rear-foot-elevated-split-squat"):
        assert isinstance(by[name], Option), by[name]
        assert by[name].load_kg == 0.0
        assert "unloaded" in by[name].load_rule
    assert isinstance(by["dumbbell-squat"], RuledOut)
    assert isinstance(by["back-squat-high-bar"], RuledOut)
    assert by["single-leg-hinge"].load_kg > 0.0


@pytest.mark.parametrize("want", [{}, {"hip": 1}, {"knee": 1, "back": -1}])
def test_a_week_has_a_pull_a_squat_one_leg_a_thrust_and_sideways(want):
    """Everything is covered in a full gym, loaded, and each choice says what it is for."""
    chosen, missing = cover_week(listed(MAN, Wish(want)))
    assert missing == []
    assert len(chosen) <= len(NEEDS)
    for option in map(reason_in_words, chosen):
        assert any(option.reason.startswith(words) for words in NEEDS.values())
    if not want:
        assert all(option.load_kg > 0.0 for option in chosen)


def test_a_week_at_home_says_what_it_can_t_cover():
    """Without a bar there is no pull from the floor with one."""
    _, missing = cover_week(listed(MAN, Wish({"hip": 1}, equipment=HOME)))
    assert missing == ["floor pull"]


def test_reasons_are_in_newton_metres_and_name_the_joint():
    """What the sentence says is what the option's peaks are."""
    for key, weight in (("knee", 1), ("back", -1)):
        best = ranked({key: weight})[0]
        # A best is known here, so the share is of what the joint can hold, not of the list's hardest.
        start, _, rest = best.reason.partition(" % of what it can hold, ")
        assert start.startswith(f"{BY_KEY[key].word.capitalize()}: ")
        assert rest.startswith(f"{best.peaks[key]:.0f} N·m")


def test_floor_pulls_start_with_the_pressure_under_the_arch():
    """From 0.7 body masses on at 0.40-0.50 of the foot (docs/model.md; common practice, no source)."""
    for load in (58, 82, 123, 164):
        result = solve("conventional-deadlift", load)
        fraction = float(result.solved.pressure_fraction[result.timeline.bottom])
        assert 0.40 <= fraction <= 0.505, (load, fraction)


def test_a_lower_bar_is_harder_on_the_back():
    """Bar heights 45 < 22.5 < 12 cm: the lower back's peak rises, with at most 4 % fall in between."""
    peaks = [
        solve("conventional-deadlift", 100, settings={"bar_height_m": height}).peaks["back"]
        for height in (0.45, 0.36, 0.28, 0.225, 0.17, 0.12)
    ]
    assert peaks[0] < peaks[3] < peaks[5]
    assert all(later > 0.96 * earlier for earlier, later in pairwise(peaks))


def test_intervals_are_those_of_the_load_that_is_told():
    """Substitutes come at the load nearest in demand, and their intervals with them."""
    wanted = solve("front-squat", load_kg=40)
    for option in substitutes(MAN, wanted, Wish())[:6]:
        assert option.spans
        for key, (low, high) in option.spans.items():
            assert low - 0.6 <= option.peaks[key] <= high + 0.6, (option.variation, key)
