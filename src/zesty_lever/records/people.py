"""Athletes and their bodies in the records, and the coaches who write."""

from __future__ import annotations

import json
from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Any

import sqlalchemy as sa

from zesty_lever import clock
from zesty_lever.cases.model import WHO_THEY_ARE, Athlete
from zesty_lever.cases.parse import athlete_from
from zesty_lever.frozen import dataclass
from zesty_lever.log.entry import Stage
from zesty_lever.problems import CaseError
from zesty_lever.records import tables as t
from zesty_lever.records.erased import is_erased
from zesty_lever.records.ids import new_id
from zesty_lever.records.store import Store
from zesty_lever.records.versioned import beaten, write_over

# What of an athlete is a measure: when one of these changes, old sets keep the body of their day.
STRENGTH_ONLY = (
    "name",
    "bests",
    "best_loads_kg",
    "strength_curves",
    "sore",
    "school",
    "measurements",
    *WHO_THEY_ARE,
)


@dataclass(frozen=True)
class Coach:
    """Who writes: name and initials."""

    id: int
    name: str
    initials: str


@dataclass(frozen=True)
class Person:
    """An athlete of the records with the body that holds now; ``version`` as it was read."""

    id: int
    name: str
    stage: Stage
    body: Athlete
    note: str = ""
    away: bool = False
    changed_ms: int = 0
    changed_by: str = ""
    version: int = 1


def coach_named(store: Store, name: str, initials: str = "") -> Coach:
    """The coach of that name, entered where there is none yet."""
    short = initials or "".join(word[0] for word in name.split()[:3]).upper() or "?"
    with store.reading() as connection:
        found = connection.execute(sa.select(t.coach).where(t.coach.c.name == name)).first()
    if found is not None:
        return Coach(found.id, found.name, found.initials)
    made = Coach(new_id(), name, short[:8])
    with store.writing() as connection:
        connection.execute(sa.insert(t.coach).values(vars(made)))
    return made


def add_person(
    store: Store, body: Athlete, day: int, stage: Stage = "usual", own_id: int | None = None
) -> Person:
    """Enter an athlete with the body of a day."""
    made = Person(
        own_id or new_id(), body.name or "Athlete", stage, body, changed_ms=clock.now_ms()
    )
    with store.writing() as connection:
        insert_person(connection, made, day)
    return made


def insert_person(connection: sa.Connection, made: Person, day: int) -> None:
    """Write a new athlete's rows inside a transaction."""
    connection.execute(
        sa.insert(t.athlete).values(
            id=made.id,
            name=made.name,
            stage=made.stage,
            note=made.note,
            away=made.away,
            changed_ms=made.changed_ms or clock.now_ms(),
            changed_by=made.changed_by,
            version=made.version,
        )
    )
    _write_body(connection, made.id, made.body, day)


def _write_body(connection: sa.Connection, athlete: int, body: Athlete, day: int) -> None:
    text = body_text(body)
    connection.execute(
        sa.insert(t.body).values(id=new_id(), athlete=athlete, day=day, document=text)
    )


def body_text(body: Athlete) -> str:
    """A body as kept: numbers of measurements and the name stand elsewhere."""
    # Read back once, so that 64 and 64.0 are one text.
    plain = athlete_from(body.changed(name=None, measurements=()).as_json()).as_json()
    return json.dumps(plain, sort_keys=True, separators=(",", ":"))


def people(store: Store) -> list[Person]:
    """Every athlete by name, each with the newest body."""
    newest = sa.select(t.body.c.athlete, sa.func.max(t.body.c.day).label("day")).group_by(
        t.body.c.athlete
    )
    last = newest.subquery()
    with store.reading() as connection:
        rows = connection.execute(sa.select(t.athlete).order_by(t.athlete.c.name)).all()
        bodies = connection.execute(
            sa.select(t.body.c.athlete, t.body.c.document, t.body.c.id)
            .join(
                last,
                sa.and_(t.body.c.athlete == last.c.athlete, t.body.c.day == last.c.day),
            )
            .order_by(t.body.c.id)
        ).all()
    documents = {row.athlete: row.document for row in bodies}
    return [person_from(row, documents[row.id]) for row in rows if row.id in documents]


def person_from(row: Any, document: str) -> Person:
    """An athlete's row and body text as a person."""
    body = athlete_from(json.loads(document)).changed(name=row.name)
    return Person(
        row.id,
        row.name,
        row.stage,
        body,
        row.note,
        row.away,
        row.changed_ms,
        row.changed_by,
        row.version,
    )


def person(store: Store, athlete: int) -> Person:
    """One athlete. Raises `CaseError` where there is none of that id."""
    with store.reading() as connection:
        row = connection.execute(sa.select(t.athlete).where(t.athlete.c.id == athlete)).first()
        document = connection.execute(
            sa.select(t.body.c.document)
            .where(t.body.c.athlete == athlete)
            .order_by(t.body.c.day.desc(), t.body.c.id.desc())
            .limit(1)
        ).scalar()
    if row is None or document is None:
        words = f"the records have no athlete {athlete}"
        if is_erased(store, athlete):
            words = "this athlete was erased from the records; a new athlete begins anew"
        raise CaseError("unknown-athlete", words, key="athlete")
    return person_from(row, document)


def find_person(store: Store, wanted: str) -> Person:
    """An athlete by name or id. Raises `CaseError` listing who there is."""
    known = people(store)
    found = [p for p in known if p.name == wanted or str(p.id) == wanted]
    if len(found) == 1:
        return found[0]
    names = ", ".join(p.name for p in known[:20]) or "nobody yet"
    why = (
        f"{wanted} is there {len(found)} times: name it by its id"
        if found
        else f"the records have no {wanted}"
    )
    raise CaseError("unknown-athlete", f"{why}; known are: {names}", key="athlete", value=wanted)


def change_person(store: Store, was: Person, by: str = "", **changes: Any) -> Person:
    """Write a changed athlete. Raises `ChangedMeanwhileError` where somebody else was quicker."""
    changed = replace(
        was, **changes, changed_ms=clock.now_ms(), changed_by=by, version=was.version + 1
    )
    with store.writing() as connection:
        written = write_over(
            connection,
            t.athlete,
            was,
            {
                "name": changed.name,
                "stage": changed.stage,
                "note": changed.note,
                "away": changed.away,
                "changed_ms": changed.changed_ms,
                "changed_by": by,
                "version": changed.version,
            },
        )
    if not written:
        raise beaten(was.name, _if_there(store, was.id))
    return replace(changed, body=changed.body.changed(name=changed.name))


def _if_there(store: Store, athlete: int) -> Person | None:
    try:
        return person(store, athlete)
    except CaseError:
        return None


def set_body(store: Store, athlete: int, body: Athlete, day: int) -> bool:
    """Keep a body from a day on; True where a row was written (something of it differs)."""
    with store.writing() as connection:
        last = connection.execute(
            sa.select(t.body)
            .where(t.body.c.athlete == athlete)
            .order_by(t.body.c.day.desc(), t.body.c.id.desc())
            .limit(1)
        ).first()
        if last is not None and last.document == body_text(body):
            return False
        same_measures = last is not None and _measures(json.loads(last.document)) == _measures(
            json.loads(body_text(body))
        )
        if last is not None and (same_measures or last.day == day):
            # Bests and notes move on without a new body: what a joint gets does not rest on them.
            connection.execute(
                sa.update(t.body).where(t.body.c.id == last.id).values(document=body_text(body))
            )
        else:
            _write_body(connection, athlete, body, day)
    return True


def _measures(document: Mapping[str, Any]) -> dict[str, Any]:
    return {k: v for k, v in document.items() if k not in STRENGTH_ONLY}


class Bodies:
    """The bodies of one athlete by day, for cases of old sets."""

    def __init__(self, rows: Sequence[tuple[int, str]]) -> None:
        self._rows = sorted(rows, key=lambda row: row[0])
        self._read: dict[str, Athlete] = {}

    @classmethod
    def of(cls, connection: sa.Connection, athlete: int) -> Bodies:
        """Read them."""
        query = (
            sa.select(t.body.c.day, t.body.c.document)
            .where(t.body.c.athlete == athlete)
            .order_by(t.body.c.day, t.body.c.id)
        )
        return cls([(row.day, row.document) for row in connection.execute(query)])

    def on(self, day: int) -> Athlete:
        """The body of a day: the last one kept by then, else the first. Raises `CaseError` where there is none."""
        if not self._rows:
            raise CaseError("unknown-athlete", "no body is known of this athlete", key="athlete")
        fitting = [text for since, text in self._rows if since <= day]
        text = fitting[-1] if fitting else self._rows[0][1]
        if text not in self._read:
            self._read[text] = athlete_from(json.loads(text))
        return self._read[text]


def take_over(store: Store, athletes: Sequence[Athlete], ids: Sequence[int], day: int) -> list[int]:
    """Enter the bench's athletes that the records do not have yet; their ids, in the bench's order.

    ``ids`` are those that the bench knows already (0 or missing: none). Running it twice adds nothing. Who was
    erased here is not entered again because a bench still has them: they keep an id that nothing belongs to.
    """
    known = {p.id: p for p in people(store)}
    by_name = {p.name: p.id for p in known.values()}
    taken = set(ids)
    found: list[int] = []
    for index, body in enumerate(athletes):
        own = ids[index] if index < len(ids) else 0
        if own in known or (own and is_erased(store, own)):
            found.append(own)
            continue
        named = by_name.get(body.name or "", 0)
        if named and named not in taken and body_text(known[named].body) == body_text(body):
            found.append(named)
            taken.add(named)
            continue
        made = add_person(store, body, day)
        taken.add(made.id)
        found.append(made.id)
    return found


def differing(store: Store, athletes: Sequence[Athlete], ids: Sequence[int]) -> list[int]:
    """Places on the bench whose athlete differs from the records."""
    known = {p.id: p for p in people(store)}
    places = []
    for index, (body, own) in enumerate(zip(athletes, ids, strict=False)):
        kept = known.get(own)
        if kept is not None and (
            body_text(kept.body) != body_text(body) or kept.name != (body.name or "Athlete")
        ):
            places.append(index)
    return places
