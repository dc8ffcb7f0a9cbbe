"""Trends and comparisons with last time, and what the log's lines say."""

from __future__ import annotations

import pytest

from zesty_lever.cases.model import Setup
from zesty_lever.coaching.gym import rep_max_kg
from zesty_lever.log.entry import DoneSet, Entry, Fault, Pain
from zesty_lever.log.lines import entry_from_line, with_text_ids
from zesty_lever.log.trends import (
    against_last,
    best_sets,
    gaps,
    lift_days,
    lifts_of,
    loads,
    pains,
    seconds_held,
    weekly,
)
from zesty_lever.plan.document import bare
from zesty_lever.problems import CaseError

DAY = 739_900


def entry(own, day, reps=5, load=60.0, name="back-squat-high-bar", **more):
    setup = more.pop("setup", Setup(variation=name))
    return Entry(
        id=own,
        athlete=1,
        session=day,
        at_ms=day,
        day=day,
        setup=setup,
        reps=reps,
        load_kg=load,
        **more,
    )


def test_the_best_set_is_a_band_of_both_formulas():
    visits = lift_days(
        [entry(1, DAY, 5), entry(2, DAY, 3, 65.0), entry(3, DAY + 7, 1, 72.0)],
        "back-squat-high-bar",
    )
    trend = best_sets(visits)
    low, high = sorted(rep_max_kg(65.0, 3))
    assert (trend.points[0].low, trend.points[0].high) == (low, high)
    assert trend.points[1].low == trend.points[1].high == 72.0
    assert "to 72 kg over 2 points" in trend.spoken
    assert loads(visits).points[0].low == 60.0


def test_sides_pain_holds_and_weeks():
    left = [entry(1, DAY, 6, 20.0, "split-squat", side="left")]
    right = [entry(2, DAY, 8, 24.0, "split-squat", side="right")]
    gap = gaps(lift_days(left + right, "split-squat")).points[0].value
    assert gap == pytest.approx(37.5)
    found = pains(
        [
            (DAY, Pain(place="knee", score=2)),
            (DAY, Pain(place="knee", score=5)),
            (DAY, Pain(place="hip", score=9)),
        ],
        "knee",
    )
    assert [p.value for p in found.points] == [5]
    hold = entry(3, DAY, 0, 0.0, "straight-leg-heel-elevated-hold", style="holds", seconds=25.0)
    assert seconds_held(lift_days([hold], hold.name)).points[0].value == 25.0
    assert weekly("kg", "kg", {3: 100.0}).points[0].day == 22
    assert best_sets([]).spoken.endswith("nothing yet.")
    assert lifts_of([*left, *right, hold])[0] == "split-squat"


def test_against_last_time_says_what_differs():
    then = entry(1, DAY, 5, 60.0, effort_left=2.0, faults=(Fault(code="bar-away"),))
    now = entry(2, DAY + 7, 4, 62.5, effort_left=1.0, pains=(Pain(place="knee", score=2),))
    words = against_last([then, now], DAY + 7)[0].words
    assert words == "+2.5 kg, -1 rep, -1 left, no longer bar-away, pain 0 to 2"
    assert against_last([then], DAY)[0].words == "first time"
    assert (
        against_last([then, then.changed(id=3, session=DAY + 7, day=DAY + 7)], DAY + 7)[0].words
        == "as last time"
    )


def test_a_line_of_the_log_keeps_ids_beyond_the_numbers_of_json():
    own = entry(2**62 + 1, DAY, 5, faults=(Fault(code="other"),))
    line = with_text_ids(bare(own))
    assert line["id"] == str(2**62 + 1) and "side" not in line
    assert entry_from_line(line) == own
    with pytest.raises(CaseError, match="allowed is an id"):
        entry_from_line(line | {"id": "12x"})
    with pytest.raises(CaseError, match="score is 11"):
        entry_from_line(line | {"pains": [{"place": "knee", "score": 11}]})


def test_a_set_is_either_a_lift_or_a_drill():
    with pytest.raises(CaseError, match="either a setup or a drill"):
        DoneSet(reps=5)
    with pytest.raises(CaseError, match="either a setup or a drill"):
        DoneSet(setup=Setup(variation="front-squat"), drill="front-plank")
