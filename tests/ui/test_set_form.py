"""The form of a set hands back only what was touched: correcting an entry changes nothing else."""

from __future__ import annotations

import itertools

import pytest

from zesty_lever.cases.model import Setup
from zesty_lever.log.entry import DoneSet, Fault, Pain
from zesty_lever.ui.kit.set_form import SetForm

ODD = DoneSet(
    setup=Setup(variation="split-squat"),
    load_kg=24.05,
    reps=7,
    quarters=2,
    seconds=12.5,
    side="left",
    effort_left=1.25,
    tempo_s=(3.0, 1.0, 1.0, 0.0),
    note="as it was",
    faults=(Fault(code="a-fault-of-tomorrow", severity="flag"), Fault(code="other")),
    pains=(
        Pain(
            place="knee",
            side="right",
            score=5,
            moment="after",
            cleared_by="KB",
            cleared_day=739_900,
        ),
        Pain(place="hip", side="left", score=1),
    ),
)


@pytest.fixture
def form(kept, qapp):
    made = kept(SetForm())
    made.show_set(ODD)
    return made


def test_what_is_not_touched_stays_to_the_last_digit(form):
    assert form.typed() == ODD


CHANGES = {
    "note": (lambda f: f.note.setText("spoke with her"), {"note": "spoke with her"}),
    "reps": (lambda f: f.reps.setValue(8), {"reps": 8}),
    "left": (lambda f: f.left.setValue(2.0), {"effort_left": 2.0}),
    "side": (lambda f: f.side.setCurrentText("right"), {"side": "right"}),
    "tempo": (lambda f: f.tempo.setText("2 0 1 0"), {"tempo_s": (2.0, 0.0, 1.0, 0.0)}),
}


@pytest.mark.parametrize(
    "names", [c for n in (1, 2, 3) for c in itertools.combinations(CHANGES, n)]
)
def test_each_touched_field_changes_itself_alone(form, names):
    wanted = ODD
    for name in names:
        touch, change = CHANGES[name]
        touch(form)
        wanted = wanted.changed(**change)
    assert form.typed() == wanted


def test_a_pain_that_is_touched_keeps_when_it_was_felt_and_opens_again_only_when_it_is_more(form):
    form.score.setValue(4)
    less = form.typed().pains[0]
    assert (less.score, less.moment, less.side, less.cleared_by) == (4, "after", "right", "KB")
    form.score.setValue(6)
    more = form.typed().pains[0]
    assert more.score == 6 and more.cleared_day is None and more.moment == "after"
    form.pain_side.setCurrentText("left")
    assert form.typed().pains[0].side == "left" and form.typed().pains[1] == ODD.pains[1]
    assert form.typed().side == "left", "the set's own side is another thing"
    form.place.setCurrentIndex(0)
    assert form.typed().pains == ODD.pains[1:]


def test_a_place_that_nothing_is_computed_for_can_be_told(form):
    form.place.setCurrentText("elsewhere")
    form.score.setValue(3)
    assert form.typed().pains[0].place == "elsewhere"
