"""Advice for the next load: the table of worked cases, and properties over many histories.

Rules are common practice, no source; loads are those of the usual discs.
"""

from __future__ import annotations

import itertools

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from zesty_lever.cases.model import SORE_PLACES, Setup
from zesty_lever.coaching.gym import Bells, Gym, loads_at_hand_kg, usual_gym
from zesty_lever.exercises.catalogue import variation
from zesty_lever.log.advice import advise
from zesty_lever.log.asked import Asked, Dose, OpenStop, Visit
from zesty_lever.log.entry import Entry, Fault, Pain
from zesty_lever.log.rules import rules_with, usual_rules
from zesty_lever.log.stopping import is_stop
from zesty_lever.plan.document import STYLES
from zesty_lever.problems import CaseError

TODAY = 739_900
FLAG = (Fault(code="hips-rise-first", severity="flag"),)
NUMBER = itertools.count(1)


def bar_loads(name="back-squat-high-bar", gym=None):
    return loads_at_hand_kg(name, variation(name).equipment, 200.0, gym)


def entry(reps=5, load=60.0, day=TODAY, **more):
    name = more.pop("name", "back-squat-high-bar")
    return Entry(
        id=next(NUMBER),
        athlete=1,
        session=day,
        at_ms=day,
        day=day,
        setup=Setup(variation=name),
        load_kg=load,
        reps=reps,
        **more,
    )


def visit(*reps, load=60.0, ago=3, before=None, **more):
    sets = tuple(entry(r, load, TODAY - ago, **more) for r in reps)
    return Visit(TODAY - ago, sets, before or {})


def ask(*visits, reps=(3, 5), **more):
    style = more.pop("style", "straight")
    dose = more.pop("dose", None) or Dose(reps, style=style)
    values = {"loads_kg": bar_loads()} | more
    return advise(Asked(dose, visits, TODAY, **values))


GOOD = visit(5, 5, 5, 5, ago=7), visit(5, 5, 5, 5, ago=3)
KNEE = {"place": "knee", "side": "left"}


def pained(score, ago=3, before=None, **more):
    return visit(5, 5, 5, 5, ago=ago, before=before, pains=(Pain(score=score, **KNEE, **more),))


# The table of the design: four sets of 3 to 5 with 60 kg.
TABLE = {
    "two good": (GOOD, {}, "up", 62.5),
    "one good": (GOOD[1:], {}, "hold", 60.0),
    "range 5 to 8": (GOOD, {"reps": (5, 8)}, "up", 60.0),
    "hips first": ((GOOD[0], visit(5, 5, 5, 5, faults=FLAG)), {}, "lighter", 52.5),
    "5-3-1-1": ((GOOD[0], visit(5, 3, 1, 1)), {}, "lighter", 52.5),
    "nothing left": ((GOOD[0], visit(5, 5, 5, 5, effort_left=0.0)), {}, "hold", 60.0),
    "pain 4": ((GOOD[0], pained(4)), {}, "stop", None),
    "pain 3 from 0": ((GOOD[0], pained(3, before={"knee": 0})), {}, "stop", None),
    "pain 2 twice": ((pained(2, 7), pained(2)), {}, "lighter", 52.5),
    "pain 2 once": ((GOOD[0], pained(2)), {}, "hold", 60.0),
    "numb": ((GOOD[0], pained(0, numb=True)), {}, "stop", None),
    "30 days away and hips first": (
        (visit(5, 5, 5, 5, ago=30, faults=FLAG),),
        {},
        "lighter",
        47.5,
    ),
    "ceiling 55": (GOOD, {"ceiling_kg": 55.0}, "up", 55.0),
    "beginner, two good": (GOOD, {"stage": "beginner"}, "hold", 60.0),
}


@pytest.mark.parametrize("case", TABLE)
def test_the_worked_table(case):
    visits, more, action, load = TABLE[case]
    advice = ask(*visits, **more)
    assert (advice.action, advice.load_kg) == (action, load)
    assert advice.words and advice.entries


def test_words_say_both_reasons_and_how_many_good_ones():
    both = ask(visit(5, 5, 5, 5, ago=30, faults=FLAG))
    assert "30 days" in " ".join(both.words) and "Hips rise first" in " ".join(both.words)
    assert "1 of 2" in ask(*GOOD[1:]).words[0]
    assert ask(*GOOD, reps=(5, 8)).reps == (6, 8)
    assert "clinician" in ask(GOOD[0], pained(4)).words[0]


def test_a_step_over_five_percent_waits_for_two_more_repetitions():
    light = [visit(5, 5, 5, 5, load=40.0, ago=a) for a in (7, 3)]
    waiting = ask(*light)
    assert (waiting.action, waiting.load_kg, waiting.reps) == ("up", 40.0, (6, 7))
    assert "42.5 kg, is 6 %" in waiting.words[0]
    above = [visit(7, 7, 7, 7, load=40.0, ago=a) for a in (7, 3)]
    taken = ask(*above)
    assert (taken.load_kg, taken.reps) == (42.5, (3, 5))
    bells = loads_at_hand_kg("goblet-squat", ["kettlebell or dumbbell"], 60.0)
    few = Gym(usual_gym().bars, usual_gym().pairs, bells=Bells(dumbbells_kg=(12, 16, 18, 20)))
    assert 16.0 in bells and 18.0 in bells
    held = [visit(8, 8, 8, load=16.0, ago=a, name="goblet-squat") for a in (7, 3)]
    loads = loads_at_hand_kg("goblet-squat", ["kettlebell or dumbbell"], 60.0, few)
    same = ask(*held, reps=(5, 8), loads_kg=loads)
    assert (same.load_kg, same.reps) == (16.0, (9, 10)) and "12 %" in same.words[0]


def test_a_stop_stays_until_a_coach_clears_it_and_then_begins_lighter():
    open_ = [pained(5, ago=20), visit(5, 5, 5, 5, ago=10), visit(5, 5, 5, 5)]
    assert ask(*open_).action == "stop"
    cleared = pained(5, ago=3, cleared_by="KB", cleared_day=TODAY - 1)
    again = ask(GOOD[0], cleared)
    assert (again.action, again.load_kg) == ("lighter", 52.5)
    assert "cleared" in again.words[0]


def test_a_stop_in_another_lift_counts_where_this_one_loads_the_place_as_much():
    here = OpenStop("knee", "Front squat", TODAY - 2, here=True)
    assert ask(*GOOD, stops=[here]).action == "stop"
    whole = ask(*GOOD, stops=[OpenStop("knee", "", TODAY - 2, here=True)])
    assert whole.action == "stop" and "not of one lift" in whole.words[0]
    less = ask(*GOOD, stops=[OpenStop("knee", "Front squat", TODAY - 2, here=False)])
    assert less.action == "up" and "asks less of it" in less.words[-1]


def test_after_a_break_one_counts_as_a_beginner_for_two_weeks():
    back = [visit(5, 5, 5, 5, ago=40), visit(5, 5, 5, 5, load=50.0, ago=7)]
    again = [*back, visit(5, 5, 5, 5, load=50.0, ago=3)]
    assert ask(*again).action == "hold" and "2 of 3" in ask(*again).words[0]
    third = [*again, visit(5, 5, 5, 5, load=50.0, ago=1)]
    assert (ask(*third).action, ask(*third).load_kg) == ("up", 52.5)


def test_the_empty_bar_has_nothing_lighter():
    advice = ask(visit(5, 5, load=10.0, faults=FLAG), loads_kg=(10.0, 12.5))
    assert advice.lighter_variation and "lighter variation" in " ".join(advice.words)


def test_clusters_grow_by_mini_sets_then_by_load():
    dose = Dose((3, 3), style="clusters", mini_reps=3, minis=4)
    four = [visit(12, 12, ago=a, style="clusters", rest_s=12) for a in (7, 3)]
    assert ask(*four, dose=dose).minis == 5
    six = [visit(18, 18, ago=a, style="clusters", rest_s=12) for a in (7, 3)]
    more = ask(*six, dose=dose)
    assert (more.load_kg, more.minis) == (62.5, 4)
    slow = [visit(12, 12, ago=a, style="clusters", rest_s=25) for a in (7, 3)]
    assert ask(*slow, dose=dose).action == "hold"


def test_holds_grow_to_a_minute_then_by_load_and_back():
    dose = Dose(seconds=20.0, style="holds")
    hold = "straight-leg-heel-elevated-hold"

    def held(seconds, ago):
        sets = tuple(
            entry(0, 0.0, TODAY - ago, name=hold, style="holds", seconds=seconds) for _ in range(2)
        )
        return Visit(TODAY - ago, sets)

    assert ask(held(25, 7), held(25, 3), dose=dose, loads_kg=()).seconds == 30.0
    full = ask(held(60, 7), held(60, 3), dose=dose, loads_kg=())
    assert full.seconds == 20.0 and "higher heels" in full.words[0]
    assert ask(held(10, 7), held(10, 3), dose=dose, loads_kg=()).action == "hold"


def test_the_other_styles_have_their_own_rules():
    broke = ask(GOOD[0], visit(5, 5, 2, style="rest-pause"), style="rest-pause")
    assert (broke.action, broke.load_kg) == ("lighter", 52.5) and "five of 2" in broke.words[0]
    tense = [visit(20, 20, ago=a, style="constant-tension") for a in (7, 3)]
    assert ask(*tense, style="constant-tension").load_kg == 62.5
    low = [visit(20, 11, ago=a, style="constant-tension") for a in (7, 3)]
    assert ask(*low, style="constant-tension").action == "lighter"
    dose = Dose((3, 5), style="paired-minutes", step_kg=5.0)
    kept = Visit(TODAY - 3, tuple(entry(5, 40 + 5 * n, TODAY - 3) for n in range(5)))
    assert (ask(kept, dose=dose).action, ask(kept, dose=dose).load_kg) == ("up", 45.0)
    lost = Visit(TODAY - 3, (*kept.sets[:4], entry(1, 60, TODAY - 3)))
    assert (
        ask(lost, dose=dose).action == "lighter"
        and "one step lower" in ask(lost, dose=dose).words[0]
    )
    two = [visit(5, 5, ago=a, style="two-load", load_up_kg=50.0) for a in (7, 3)]
    first = ask(*two, style="two-load")
    assert (first.load_kg, first.load_up_kg) == (62.5, 52.5)
    risen = [
        *two,
        *(visit(5, 5, load=62.5, ago=a, style="two-load", load_up_kg=52.5) for a in (2, 1)),
    ]
    extra = ask(*risen, style="two-load")
    assert (extra.load_kg, extra.load_up_kg) == (62.5, 50.0)


def test_a_weak_side_comes_first_with_its_own_load_for_both():
    def sides(ago):
        day = TODAY - ago
        left = [entry(6, 20, day, side="left", name="split-squat") for _ in range(3)]
        right = [entry(8, 24, day, side="right", name="split-squat") for _ in range(3)]
        return Visit(day, (*left, *right))

    advice = ask(sides(7), sides(3), reps=(6, 8), loads_kg=(16.0, 20.0, 24.0, 28.0))
    assert advice.side_first == "left" and advice.load_kg == 20.0
    assert advice.action == "hold" and "The left was 38 % behind" in advice.words[0]


def test_a_coach_changes_the_numbers_within_their_ranges():
    rules = rules_with({"good_sessions": 1})
    assert ask(*GOOD[1:], rules=rules).action == "up"
    with pytest.raises(CaseError, match="stop_pain is 11"):
        rules_with({"stop_pain": 11})
    with pytest.raises(CaseError, match="no rule"):
        rules_with({"magic": 1})


def test_a_start_is_a_load_that_the_gym_makes():
    advice = ask(start_kg=58.9, start_rule="70 % of the best")
    assert (advice.action, advice.load_kg) == ("start", 57.5) and "70 %" in advice.words[0]


PAINS = st.builds(
    Pain,
    place=st.sampled_from(SORE_PLACES),
    score=st.integers(0, 10),
    numb=st.sampled_from([False] * 9 + [True]),
)
SETS = st.builds(
    entry,
    reps=st.integers(0, 20),
    load=st.sampled_from([20.0, 40.0, 47.5, 60.0, 61.3, 100.0]),
    day=st.integers(TODAY - 80, TODAY - 1),
    effort_left=st.sampled_from([None, 0.0, 1.5, 3.0]),
    seconds=st.sampled_from([None, 5.0, 30.0, 60.0]),
    side=st.sampled_from(["both", "left", "right"]),
    rest_s=st.sampled_from([None, 12.0, 60.0]),
    load_up_kg=st.sampled_from([None, 30.0, 65.0]),
    faults=st.sampled_from([(), (), FLAG, (Fault(code="other"),)]),
    pains=st.lists(PAINS, max_size=1).map(tuple),
)


@st.composite
def questions(draw):
    sets = draw(st.lists(SETS, max_size=16))
    days = sorted({e.day for e in sets})
    visits = [
        Visit(day, tuple(e for e in sets if e.day == day), draw(st.sampled_from([{}, {"knee": 0}])))
        for day in days
    ]
    low = draw(st.integers(1, 8))
    dose = Dose(
        (low, low + draw(st.integers(0, 5))),
        draw(st.sampled_from([None, 20.0])),
        style=draw(st.sampled_from(STYLES)),
    )
    return Asked(
        dose,
        visits,
        TODAY,
        bar_loads(),
        draw(st.sampled_from(["beginner", "usual", "advanced", "back-from-injury"])),
        ceiling_kg=draw(st.sampled_from([None, 30.0, 55.0])),
        start_kg=50.0,
        start_rule="a rule",
    )


@settings(max_examples=400, deadline=None)
@given(questions())
def test_advice_keeps_its_promises_over_many_histories(asked):
    advice = advise(asked)
    assert advice.words and all(text.strip() for text in advice.words)
    if advice.load_kg is not None:
        assert advice.load_kg in asked.loads_kg
        if asked.ceiling_kg is not None:
            assert advice.load_kg <= asked.ceiling_kg
    if not asked.visits:
        assert advice.action == "start"
        return
    last = asked.visits[-1]
    pains = [p for v in asked.visits for _, p in v.pains]
    if any(p.score >= usual_rules().stop_pain or p.numb for p in pains):
        assert advice.action == "stop" and advice.load_kg is None
    if any(p.score > 0 for _, p in last.pains) or any(e.flagged for e in last.sets):
        assert advice.action != "up"
    if advice.action == "lighter" and advice.load_kg is not None:
        assert advice.load_kg <= last.load_kg
    if advice.action != "start":
        assert advice.entries
    known = {e.id for v in asked.visits for e in v.sets}
    assert set(advice.entries) <= known


def test_numbness_always_stops():
    assert is_stop(Pain(place="hip", score=0, numb=True), None, usual_rules()) == "numb"
