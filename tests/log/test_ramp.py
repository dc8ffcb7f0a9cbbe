"""Ramp sets: from the working load and what the gym makes. Common practice, no source."""

from __future__ import annotations

import pytest
from histories import SQUAT, ask, good, one, session

from zesty_lever.cases.model import Setup
from zesty_lever.coaching.gym import Gym
from zesty_lever.exercises.catalogue import variation
from zesty_lever.log.entry import DoneSet
from zesty_lever.log.exposure import exposure_of, rep_loads, reps_counted
from zesty_lever.log.ramp import ramp_for
from zesty_lever.log.trends import lift_days
from zesty_lever.wording.messages import load_words
from zesty_lever.wording.records import load_short, ramp_words, set_words


@pytest.mark.parametrize(
    ("working", "ramp"),
    [
        (100.0, ((20.0, 8), (40.0, 5), (60.0, 3), (75.0, 2), (87.5, 1))),
        (60.0, ((20.0, 8), (35.0, 3), (45.0, 2), (52.5, 1))),
        (40.0, ((20.0, 8), (30.0, 2), (35.0, 1))),
        (37.5, ((20.0, 8), (27.5, 3))),
        (20.0, ()),
    ],
)
def test_the_bar_then_about_forty_sixty_seventy_five_and_eighty_eight_per_cent(working, ramp):
    found = ramp_for(variation(SQUAT), working)
    assert found == ramp or working == 20.0
    assert all(kg < working for kg, _ in found)


def test_bells_and_few_discs_make_fewer_steps():
    assert ramp_for(variation("split-squat"), 24.0) == ()
    heavy = ramp_for(variation("split-squat"), 60.0)
    assert heavy[0] == (4.0, 8) and all(kg % 4.0 == 0.0 for kg, _ in heavy)
    few = Gym(("20 kg bar",), {25.0: 1})
    assert ramp_for(variation(SQUAT), 70.0, few) == ((20.0, 8),)


def test_ramp_sets_count_in_exposure_and_nowhere_in_progress():
    done = DoneSet(setup=Setup(variation=SQUAT), load_kg=40.0, reps=5, style="ramp")
    from zesty_lever.log.exposure import case_of

    body = ask.__globals__["MAN"]
    rep = rep_loads([case_of(done, body)])[0]
    assert exposure_of(done, rep, None).sets == 1 and reps_counted(done) == 5
    assert lift_days([], SQUAT) == []
    own = [session(a, one(8, 20.0, style="ramp"), *(one() for _ in range(4))) for a in (7, 3)]
    assert ask(*own).load_kg == ask(good(7), good(3)).load_kg == 62.5


def test_two_in_the_hands_are_told_as_they_are_picked_up():
    times = "\N{MULTIPLICATION SIGN}"
    assert load_words("split-squat", 28.0) == f"2 {times} 14 kg (28)"
    assert load_words("two-kettlebell-rack-squat", 32.0) == f"2 {times} 16 kg (32)"
    assert load_words(SQUAT, 60.0) == "60 kg" and load_words(SQUAT, 0.0) == "no load"
    assert load_short(28.0, None, "split-squat") == f"2 {times} 14 kg (28)"
    done = DoneSet(setup=Setup(variation="split-squat"), load_kg=28.0, reps=8)
    assert f"2 {times} 14 kg (28)" in set_words(done)
    assert ramp_words(SQUAT, ((20.0, 8), (40.0, 5))) == f"20 kg {times} 8, 40 kg {times} 5"


def test_pounds_are_told_in_pounds():
    from zesty_lever.wording.units import UNITS

    UNITS.imperial = True
    try:
        assert load_words("split-squat", 28.0).endswith("lb (61.7)")
    finally:
        UNITS.imperial = False
