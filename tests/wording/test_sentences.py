"""Sentences for coaches, read off plain results."""

import pytest

from builders import case_of, solve
from zesty_lever.analysis import analyse
from zesty_lever.bench import edits
from zesty_lever.bench.model import first_bench
from zesty_lever.choosing.reach import room
from zesty_lever.choosing.shortlist import Option, RuledOut
from zesty_lever.choosing.uncertainty import CONTACT
from zesty_lever.coaching.card import card_of
from zesty_lever.coaching.findings import effect, findings
from zesty_lever.coaching.gym import usual_gym
from zesty_lever.wording.sentences import (
    FRONT_LOAD,
    THEOREM,
    card_value,
    comparison_sentence,
    disc_sentence,
    discs_words,
    effect_sentence,
    judgement_words,
    option_lines,
    rep_sentences,
    room_sentences,
    setup_title,
    stands_with_front_load,
    worth_measuring,
)


def test_a_pair_in_a_sentence():
    """Per cent where there is something to compare with; the theorem where it holds; what can't be done is said."""
    bench = edits.same_legs(first_bench())
    one, two = (analyse(bench.case(slot)) for slot in (0, 1))
    assert comparison_sentence(one, two) == THEOREM
    other = solve("hip-thrust", 10)
    words = comparison_sentence(one, other)
    assert words.startswith("Peak over the rep, B against A:")
    assert "% less at the lower back" in words
    broken = analyse(case_of(settings={"stance_m": 1.1}))
    assert comparison_sentence(one, broken).startswith("B can't be done")
    assert stands_with_front_load(solve("front-squat", 60), 0)
    assert not stands_with_front_load(one, 0)
    assert comparison_sentence(one, two, front_load=True) == FRONT_LOAD


def test_the_disc_in_a_sentence_says_what_the_line_is_not():
    one, two = solve(), solve("split-squat", 40)
    frames = [r.timeline.bottom for r in (one, two)]
    words = disc_sentence([one, two], frames, 0, None)
    assert "3.4 kN" in words
    assert "no pass mark" in words
    floor = disc_sentence([one, two], frames, 1, {"hip_right": 999.0, "knee_right": 1.0})
    assert "depends on how the feet push" in floor
    assert "front hip's peak would be 999" in floor


def test_room_rep_and_effect():
    result = solve()
    assert "Deepest without rounding: thigh" in room_sentences(room(result.case))
    assert room_sentences(None) == ""
    words = rep_sentences(result)
    assert words.count("hardest") == 3
    assert rep_sentences(analyse(case_of(settings={"stance_m": 1.1}))) == ""
    caved = solve(settings={"knee_track_m": -0.05})
    found = next(f for f in findings(caved) if f.code == "knee-track")
    assert effect_sentence(effect(caved, found)).startswith("Following it: hip")
    assert "can't be solved" in effect_sentence(None)


def test_a_shortlisted_variation_in_lines():
    case = solve("goblet-squat", 20).case
    option = Option(
        "goblet-squat",
        case,
        "a rule",
        {},
        {},
        0.0,
        "the knee works",
        spans={"knee": (80.0, 120.0)},
        settings={"thigh_deg": 10.0},
        depth_stops="the lower back rounds",
    )
    lines = option_lines(3, option).split("\n")
    assert (
        lines[0]
        == "3  Goblet squat, 20 kg (a rule), only to thigh 10°: deeper the lower back rounds"
    )
    assert lines[2].strip() == "90 %: knee 80 to 120 N·m"
    assert option_lines(1, RuledOut("goblet-squat", "no bell")).endswith("ruled out, no bell")


def test_small_words():
    assert setup_title(case_of(load=60), 1) == "B  High-bar back squat, 60 kg"
    assert setup_title(case_of("glute-bridge", None), 0).endswith("no load")
    assert judgement_words("open", "floor") == "open (how the feet push)"
    assert worth_measuring({"angles": 12.0, CONTACT: 30.0}).endswith("which no tape narrows.")
    assert worth_measuring({"angles": 0.2}) == ""
    assert discs_words("goblet-squat", 20.0, usual_gym()) == ""
    assert "a side" in discs_words("back-squat-high-bar", 62.0, usual_gym())
    card = card_of(solve(), usual_gym())
    assert all(card_value(line)[0].isdigit() for line in card.lines)


@pytest.mark.parametrize("name", ["split-squat", "hip-thrust", "conventional-deadlift"])
def test_no_sentence_has_a_hyphen_for_a_minus(name):
    """Numbers below nought carry a real minus sign in every sentence."""
    import re

    result = solve(name, 40)
    for words in (rep_sentences(result), room_sentences(room(result.case))):
        assert not re.search(r"(?<!\w)-\d", words)
