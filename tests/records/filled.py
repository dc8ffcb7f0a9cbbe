"""Invented people, plans and sets for the tests of the records."""

from __future__ import annotations

import datetime as dt

from zesty_lever.cases.model import Athlete, Setup
from zesty_lever.log.entry import DoneSet, Fault, Pain
from zesty_lever.plan.document import Block, Item, Plan, Session, Week
from zesty_lever.records.documents import add_session
from zesty_lever.records.entries import append, entry_of
from zesty_lever.records.people import add_person

MONDAY = dt.date(2026, 9, 7).toordinal()
WOMAN = Athlete(
    name="Runa",
    height_m=1.69,
    mass_kg=64,
    sex="female",
    lengths_m={"thigh": 0.43},
    best_loads_kg={"back-squat-high-bar": 85},
)


def squat(**more):
    values = {"setup": Setup(variation="back-squat-high-bar"), "load_kg": 60, "reps": 5} | more
    return DoneSet(**values)


FLAWED = squat(
    number=2,
    reps=4,
    effort_left=0,
    note="hips shot up",
    faults=(Fault(code="hips-rise-first", severity="flag"),),
    pains=(Pain(place="knee", side="left", score=2),),
)


def one_week():
    item = Item(setup=Setup(variation="back-squat-high-bar"), sets=4, reps=(3, 5), load_kg=60)
    hold = Item(setup=Setup(variation="straight-leg-heel-elevated-hold"), sets=2, seconds=20)
    drill = Item(drill="side-lying-clam", sets=1, reps=(12, 15), side="each")
    session = Session(
        name="Day one",
        blocks=(
            Block(kind="warm-up", items=(drill,)),
            Block(items=(item,)),
            Block(kind="finisher", style="holds", items=(hold,)),
        ),
    )
    return Plan(name="Base", weeks=(Week(sessions=(session, session.changed(weekday=3))),) * 2)


def with_sets(store, sets=None, name="Runa", days=(MONDAY,)):
    """A person with a session a day and its sets; returns person, sessions, entries."""
    person = add_person(store, WOMAN.changed(name=name), MONDAY)
    sessions, entries = [], []
    for day in days:
        row = add_session(store, person.id, day, Session(name="Typed in"), "done")
        noon = 1_000 * (day - 719_163) * 86_400 + 43_200_000
        own = [
            entry_of(s, person.id, row.id, day, at_ms=noon + at)
            for at, s in enumerate(sets or (squat(), FLAWED))
        ]
        append(store, own)
        sessions.append(row)
        entries += own
    return person, sessions, entries
