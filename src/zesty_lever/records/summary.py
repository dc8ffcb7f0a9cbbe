"""Short accounts of the records: counts, exposure by week as a table, appointments for the calendar."""

from __future__ import annotations

from collections.abc import Sequence

import sqlalchemy as sa

from zesty_lever.cases.model import Athlete
from zesty_lever.exercises.catalogue import catalogue
from zesty_lever.joints import COACH_JOINTS, SIDES
from zesty_lever.log.exposure import COUNTED, DIRECTIONS, Exposure, Reference, reference_of
from zesty_lever.plan.calendar import Appointment
from zesty_lever.plan.drills import drills
from zesty_lever.problems import CaseError
from zesty_lever.records import sums
from zesty_lever.records import tables as t
from zesty_lever.records.documents import sessions_of
from zesty_lever.records.exporting import day_text
from zesty_lever.records.people import people
from zesty_lever.records.store import Store

HEADS = (
    "athlete",
    "week of",
    "of",
    "extensors_Nms",
    "flexors_Nms",
    "hard_reps",
    "hard_reps_most",
    "kg",
    "minutes",
    "sets",
    "not counted",
)


def counts(store: Store) -> dict[str, int]:
    """How many rows each table has."""
    with store.reading() as connection:
        return {
            table.name: connection.execute(
                sa.select(sa.func.count()).select_from(table)
            ).scalar_one()
            for table in t.META.sorted_tables
            if table.name != "exposure"
        }


def exposure_rows(
    store: Store, athlete: int | None, today: int, weeks: int, by: str
) -> list[list[str]]:
    """Exposure of the last weeks as rows of texts, a head first: by joint, direction or side."""
    sums.work_out(store, athlete)
    this = sums.week_of(today)
    days = (7 * (this - weeks + 1) + 1, 7 * this + 7)
    rows = [list(HEADS)]
    for person in people(store):
        if athlete is not None and person.id != athlete:
            continue
        reference = reference_or_none(person.body)
        found = sums.sums(store, person.id, days, reference)
        for week in range(this - weeks + 1, this + 1):
            own = [s for s in found if s.week == week]
            if own:
                rows += _rows(person.name, week, own, by)
    return rows


def reference_or_none(body: Athlete) -> Reference | None:
    """The usual reference of a body; None where its lift can't be done."""
    try:
        return reference_of(body)
    except CaseError:
        return None


def _rows(name: str, week: int, own: Sequence[sums.Sum], by: str) -> list[list[str]]:
    total = sum((s.exposure for s in own), start=Exposure())
    monday = day_text(7 * week + 1)
    uncounted = "; ".join(f"{why} ({n})" for why, n in total.uncounted.items())
    tail = [f"{total.kg:.0f}", f"{total.seconds / 60:.1f}", str(total.sets), uncounted]
    if by == "direction":
        rows = []
        for direction in DIRECTIONS:
            part = sum((s.exposure for s in own if s.direction == direction), start=Exposure())
            hard = [part.hard_of(g.key) for g in COACH_JOINTS]
            rows.append(
                [
                    name,
                    monday,
                    direction,
                    f"{part.extensor_Nms.sum():.0f}",
                    f"{part.flexor_Nms.sum():.0f}",
                    f"{max(h[0] for h in hard):g}",
                    f"{max(h[1] for h in hard):g}",
                    f"{part.kg:.0f}",
                    f"{part.seconds / 60:.1f}",
                    str(part.sets),
                    uncounted if direction == DIRECTIONS[0] else "",
                ]
            )
        return rows
    return [
        [
            name,
            monday,
            words,
            f"{total.extensor_Nms[at].mean():.0f}",
            f"{total.flexor_Nms[at].mean():.0f}",
            f"{total.hard[at].max():g}",
            f"{(total.hard + total.near)[at].max():g}",
            *(tail if number == 0 else [""] * 4),
        ]
        for number, (words, at) in enumerate(_groups(by))
    ]


def _groups(by: str) -> list[tuple[str, list[int]]]:
    """What a row is about, and which places of `COUNTED` it takes: each joint, or each joint and side."""
    found = []
    for group in COACH_JOINTS:
        places = [COUNTED.index(joint) for joint in group.joints]
        if by == "side" and len(places) > 1:
            found += [(f"{group.word} {s}", [p]) for s, p in zip(SIDES, places, strict=True)]
        else:
            found.append((group.word, places))
    return found


def exercise_name(name: str) -> str:
    """A variation's or a drill's name as a coach reads it; an unknown one as it is written."""
    known = catalogue().get(name)
    if known is not None:
        return known.name
    drill = drills().get(name)
    return name if drill is None else drill.name


def appointments(
    store: Store, athlete: int, days: tuple[int, int] | None = None
) -> list[Appointment]:
    """Sessions of an athlete for the calendar: no loads, no faults, no pain."""
    return [
        Appointment(
            row.id,
            row.day,
            row.session.name or "Session",
            row.session.minutes,
            row.state,
            tuple(
                exercise_name(item.name)
                for _, item in row.session.listed()
                if item.setup is not None
            ),
            row.version,
            row.changed_ms,
        )
        for row in sessions_of(store, athlete, days)
    ]
