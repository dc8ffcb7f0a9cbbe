"""Pain by place and side: what stops, what may be done beside it, when to see a clinician. Common practice, no source."""

from __future__ import annotations

import pytest
from histories import MAN, SQUAT, TODAY, ask, good, one, pained, session, words

from zesty_lever.cases.model import SORE_PLACES, Setup, Sore
from zesty_lever.choosing.places import (
    ANGLES,
    case_at,
    known_places,
    loads_on,
    looked_at_instead,
    place_loaded,
    same_place,
    spares,
)
from zesty_lever.coaching.numbers import usual_rules
from zesty_lever.exercises.catalogue import catalogue
from zesty_lever.log.asked import Cleared, Dose, Felt
from zesty_lever.log.pains import level_of

RULES = usual_rules()
SPLIT = {"name": "split-squat", "dose": Dose((6, 8), sets=3)}


def test_what_a_pain_is():
    assert level_of(Felt("hip", numb=True), None, RULES) == "clinician"
    assert [level_of(Felt("hip", score=s), None, RULES) for s in (0, 1, 3, 4, 6, 7, 10)] == [
        "", "sore", "sore", "stop", "stop", "clinician", "clinician",
    ]  # fmt: skip
    for moment in ("at-rest", "at-night"):
        assert level_of(Felt("hip", score=1, moment=moment), None, RULES) == "clinician"
        assert level_of(Felt("hip", score=0, moment=moment), None, RULES) == ""
    assert level_of(Felt("hip", score=3), 1, RULES) == "rise"
    assert level_of(Felt("hip", score=3), 2, RULES) == "sore"


def test_left_and_right_are_two_places_and_the_back_is_one():
    assert not same_place(("knee", "left"), ("knee", "right"))
    assert same_place(("knee", "both"), ("knee", "right"))
    assert same_place(("lower back", "left"), ("lower back", "right"))
    both = pained(7, 2, side="left"), pained(3, 2, side="right")
    assert ask(*both).action == "hold"
    assert ask(pained(7, 2, side="left"), pained(3, 2, side="left")).action == "lighter"
    assert ask(pained(7, 2, side="both"), pained(3, 2, side="left")).action == "lighter"


def test_a_knee_at_ten_of_ten_gets_no_split_squat_and_nothing_instead():
    stopped = ask(good(7), pained(3, 10), **SPLIT)
    assert stopped.action == "stop" and stopped.see_clinician and not stopped.instead
    assert "clinician" in words(stopped) and "less" not in words(stopped)
    for score in (7, 8, 10):
        assert ask(pained(3, score), name="hip-thrust").action == "stop"


def test_elsewhere_only_far_below_all_that_hurt_at_half_of_the_usual_load():
    hurt = pained(3, 5, load=100.0)
    split = ask(hurt, **SPLIT)
    assert split.action == "stop" and "against" in words(split) and "bent" in words(split)
    romanian = ask(hurt, name="romanian-deadlift")
    usual = ask(name="romanian-deadlift").load_kg
    assert romanian.load_kg <= 0.5 * usual and "far below" in words(romanian)
    for hurt_place, told in romanian.computed:
        assert hurt_place.place == "knee"
        assert told.own <= (told.other if told.what in ANGLES else 0.5 * told.other)
    # It goes on from half once that was done without pain, and stays far below.
    after = [session(ago, *(one(5, 40.0, "romanian-deadlift") for _ in range(4))) for ago in (2, 1)]
    later = ask(hurt, *after, name="romanian-deadlift")
    assert (later.action, later.load_kg) == ("up", 40.0) and "far below" in words(later)


def test_what_is_offered_instead_is_far_below_and_asked_like_any_other():
    stopped = ask(good(7), pained(3, 5, load=100.0))
    assert stopped.action == "stop" and stopped.instead
    asked = loads_on(case_at(MAN, Setup(variation=SQUAT), 100.0), "knee", "left", 5.0)
    for way in stopped.instead:
        own = loads_on(
            case_at(MAN, Setup(variation=way.variation), way.load_kg or 0.0), "knee", "left", 5.0
        )
        assert not place_loaded(own, MAN.mass_kg, RULES) or spares(own, asked, RULES)


@pytest.mark.parametrize("place", known_places())
def test_every_place_stops_its_lift_and_clears_by_its_name(place):
    hurt = good(7), pained(3, 5, place=place, side="left")
    assert ask(*hurt).action == "stop"
    assert ask(*hurt, cleared=[Cleared(place, "both", TODAY, "KB")]).action == "lighter"


@pytest.mark.parametrize(
    ("place", "goes", "stops"),
    [
        ("shoulder", "belt-squat", "back-squat-low-bar"),
        ("wrist", "belt-squat", "front-squat"),
        ("elbow", "belt-squat", "back-squat-low-bar"),
        ("ankle", "hip-thrust", "front-squat"),
        ("groin", "split-squat", "sumo-deadlift"),
        ("hamstring", "goblet-squat", "stiff-leg-deadlift"),
        ("knee", "band-hinge", "front-squat"),
        ("hip", "glute-bridge", "sumo-deadlift"),
        ("lower back", "glute-bridge", "conventional-deadlift"),
    ],
)
def test_each_place_is_compared_by_what_loads_it(place, goes, stops):
    source = "romanian-deadlift" if place == "hamstring" else SQUAT
    if place == "groin":
        source = "wide-squat"
    hurt = pained(3, 5, place=place, load=110.0, name=source)
    assert ask(hurt, name=goes).action != "stop"
    assert ask(hurt, name=stops).action == "stop"


def test_a_bar_on_a_sore_neck_weighs_at_most_half():
    hurt = pained(3, 5, place="neck", load=110.0)
    usual = ask(name="good-morning").load_kg
    beside = ask(hurt, name="good-morning")
    assert beside.load_kg <= 0.5 * usual and "carries" in words(beside)
    known = good(9, name="good-morning", load=100.0), good(6, name="good-morning", load=100.0)
    assert ask(*known, hurt, name="good-morning").load_kg <= 50.0


def test_where_nothing_is_computed_nothing_is_claimed_and_every_lift_stops():
    for place in ("jaw", "foot", "left calf, behind"):
        hurt = pained(3, 5, place=place)
        for name in (SQUAT, "glute-bridge", "belt-squat"):
            found = ask(hurt, name=name)
            assert found.action == "stop" and not found.computed
            assert "below" not in words(found) and not found.instead
    assert ask(pained(3, 2, place="jaw")).action == "hold"


def test_a_low_bar_with_a_sore_shoulder_is_stopped_not_promised():
    found = ask(pained(3, 7, place="shoulder"), name="back-squat-low-bar")
    assert found.action == "stop" and found.see_clinician


def test_one_leg_at_a_time_counts_its_own_side():
    name = "single-leg-glute-bridge"
    case = case_at(MAN, Setup(variation="split-squat"), 24.0)
    right, left = (loads_on(case, "knee", side, 1.0, "right") for side in ("right", "left"))
    assert right["extension"] > left["extension"] > 0.0
    swapped = loads_on(case, "knee", "left", 1.0, "left")
    assert swapped == right
    assert loads_on(case, "knee", "left")["extension"] == right["extension"]
    assert name in catalogue()


def test_three_sessions_with_pain_in_six_weeks_stop_every_rise_until_one_without():
    sore = [pained(a, 1, name="front-squat") for a in (30, 20, 9)]
    own = good(8), good(5)
    # The last session that loads the knee was without pain: it may go up.
    assert ask(*sore, *own).action == "up"
    again = [
        *own,
        pained(3, 1, name="front-squat"),
    ]
    watched = ask(*sore, *again)
    assert watched.action == "hold" and "4 sessions of the last six weeks" in words(watched)
    assert "looked at" in words(watched)
    two = [pained(20, 1, name="front-squat"), *own, pained(3, 1, name="front-squat")]
    assert ask(*two).action == "up"
    between = [good(a, name="front-squat") for a in (40, 30, 20, 14)]
    old = [*(pained(a, 1, name="front-squat") for a in (60, 50)), *between]
    assert ask(*old, *again).action == "up"
    edge = [pained(a, 1, name="front-squat") for a in (42, 20)]
    assert ask(*edge, *again).action == "hold"
    past = [pained(43, 1, name="front-squat"), *between[:2], pained(20, 1, name="front-squat")]
    assert ask(*past, *again).action == "up"


def test_next_day_pain_counts_for_the_session_before_and_stops_what_loaded_the_place():
    later = good(3, felt=[Felt("knee", "left", 5, "next-day")])
    assert ask(good(7), later).action == "stop"
    assert ask(good(7), good(3, felt=[Felt("knee", "left", 2, "next-day")])).action == "hold"
    wrist = good(3, felt=[Felt("wrist", "left", 5, "next-day")])
    assert ask(wrist, name="belt-squat").action != "stop"


def test_a_sore_place_counts_as_a_pain_of_three_in_lifts_that_load_it():
    sore = MAN.changed(sore=(Sore(place="knee", side="left"),))
    own = good(7), good(3)
    assert ask(*own).action == "up"
    held = ask(*own, athlete=sore)
    assert held.action == "hold" and held.load_kg == 60.0 and "left knee" in words(held)
    hinge = [good(a, name="band-hinge", load=0.0) for a in (7, 3)]
    assert "Sore" not in words(
        ask(*hinge, name="band-hinge", athlete=MAN.changed(sore=(Sore(place="wrist"),)))
    )


def test_pain_of_the_day_counts_in_the_middle_of_a_session():
    now = session(0, one(5, 60.0), one(5, 60.0, felt=[Felt("neck", "both", 5)]))
    assert ask(good(7), good(3), now).action == "stop"
    front = ask(good(7, name="front-squat"), good(3, name="front-squat"), now, name="front-squat")
    assert front.action == "stop" or front.load_kg <= 30.0


def test_the_tables_know_every_place_and_offer_only_known_lifts():
    assert set(SORE_PLACES) - {"foot"} == set(known_places())
    for place in known_places():
        assert set(looked_at_instead(place)) <= set(catalogue())


def test_pain_that_goes_on_for_weeks_is_lighter_and_says_to_have_it_looked_at():
    """Back pain 3 of 10 five sessions running: not just a tenth off again."""
    own = [pained(ago, 3, place="lower back", side="both") for ago in (17, 14, 11, 8, 5)]
    found = ask(*own)
    assert found.action == "lighter" and found.see_clinician
    assert "5 sessions of the last six weeks" in words(found) and "looked at" in words(found)
    assert not ask(*own[:1]).see_clinician
