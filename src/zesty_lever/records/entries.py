"""The log: sets appended, corrected, withdrawn and read; never changed."""

from __future__ import annotations

import hashlib
import json
from collections import defaultdict
from collections.abc import Iterable, Sequence
from functools import lru_cache
from importlib import import_module
from typing import Any

import msgspec
import sqlalchemy as sa

from zesty_lever import clock
from zesty_lever.cases.model import Setup
from zesty_lever.log.entry import DONE_FIELDS, DoneSet, Entry, Fault, Pain
from zesty_lever.log.exposure import case_of, hash_of, setup_document
from zesty_lever.models import read
from zesty_lever.plan.document import Tempo
from zesty_lever.problems import CaseError
from zesty_lever.records import tables as t
from zesty_lever.records.ids import new_id
from zesty_lever.records.people import Bodies
from zesty_lever.records.store import Store

later = sa.alias(t.entry, "later")
# Entries that count: nothing replaces them, and they take nothing back.
COUNTS = sa.and_(later.c.id.is_(None), sa.not_(t.entry.c.withdrawn))
# What of a set makes its case.
MAKES_A_CASE = (
    "setup",
    "drill",
    "style",
    "load_kg",
    "load_up_kg",
    "seconds",
    "reps",
    "tempo_s",
    "pause_s",
    "uncounted",
)
COUNTED_FROM = t.entry.outerjoin(later, later.c.replaces == t.entry.c.id)


def entry_of(
    done: DoneSet, athlete: int, session: int, day: int, coach: int | None = None, **more: Any
) -> Entry:
    """A set as a new entry of the log, not written yet."""
    at_ms = more.pop("at_ms", clock.now_ms())
    kept = {name: getattr(done, name) for name in DONE_FIELDS}
    return Entry(
        **kept,
        id=new_id(at_ms),
        athlete=athlete,
        session=session,
        day=day,
        coach=coach,
        at_ms=at_ms,
        **more,
    )


def append(store: Store, entries: Sequence[Entry]) -> None:
    """Write entries with their faults and pains, whole or not at all; one that is there already is passed over.

    Raises `CaseError`: ``already-corrected`` where someone else has replaced the same entry.
    """
    try:
        with store.writing() as connection:
            append_in(connection, entries)
    except CaseError as error:
        cause = error.__cause__
        if isinstance(cause, sa.exc.IntegrityError) and "replaces" in str(cause.orig):
            raise CaseError(
                "already-corrected",
                "someone else has corrected this set already; theirs is shown and can be corrected in turn",
                key="replaces",
            ) from error
        raise


def append_in(connection: sa.Connection, entries: Sequence[Entry]) -> None:
    """Write entries inside a transaction."""
    if not entries:
        return
    bodies: dict[int, Bodies] = {}
    setups: dict[str, int] = {}
    hashes: dict[bytes, tuple[str, str]] = {}
    rows, faults, pains = [], [], []
    fresh = _not_there(connection, entries)
    for entry in fresh:
        if entry.athlete not in bodies:
            bodies[entry.athlete] = Bodies.of(connection, entry.athlete)
        # Equal sets of one body have one case: it is named once.
        own = msgspec.json.encode(
            [entry.athlete, entry.day, *(getattr(entry, name) for name in MAKES_A_CASE)]
        )
        if own not in hashes:
            hashes[own] = _hashed(entry, bodies[entry.athlete])
        case_hash, why = hashes[own]
        setup = None if entry.setup is None else _setup_id(connection, entry.setup, setups)
        rows.append(_row(entry, setup, case_hash, why))
        faults += [
            {"entry": entry.id, "code": f.code, "severity": f.severity} for f in entry.faults
        ]
        pains += [
            _pain_row(p, entry.athlete, entry.session, entry.day, entry.id) for p in entry.pains
        ]
    if rows:
        connection.execute(
            insert_into(connection, t.entry).on_conflict_do_nothing(index_elements=["id"]), rows
        )
    if faults:
        connection.execute(sa.insert(t.fault), faults)
    if pains:
        connection.execute(sa.insert(t.pain), pains)


def insert_into(connection: sa.Connection, table: sa.Table) -> Any:
    """An insert that can pass over what is there, in the dialect of a connection."""
    # Only the one in use: the server's costs 40 ms to import.
    return import_module(f"sqlalchemy.dialects.{connection.dialect.name}").insert(table)


def _not_there(connection: sa.Connection, entries: Sequence[Entry]) -> list[Entry]:
    ids = [entry.id for entry in entries]
    there: set[int] = set()
    for start in range(0, len(ids), 500):
        query = sa.select(t.entry.c.id).where(t.entry.c.id.in_(ids[start : start + 500]))
        there |= set(connection.execute(query).scalars())
    return [entry for entry in entries if entry.id not in there]


def _hashed(entry: Entry, bodies: Bodies) -> tuple[str, str]:
    """The case's name, and why there is none where the set can't be computed."""
    if entry.uncounted:
        return "", entry.uncounted
    try:
        return hash_of(case_of(entry, bodies.on(entry.day))), ""
    except CaseError as error:
        if entry.setup is None:
            return "", ""
        what = "variation unknown" if error.code == "unknown-variation" else error.text
        return "", what


def _setup_id(connection: sa.Connection, setup: Setup, known: dict[str, int]) -> int:
    text = setup_document(setup)
    name = hashlib.blake2b(text.encode(), digest_size=12).hexdigest()
    if name not in known:
        made = {"id": new_id(), "hash": name, "variation": setup.variation, "document": text}
        connection.execute(
            insert_into(connection, t.setup).on_conflict_do_nothing(index_elements=["hash"]), made
        )
        known[name] = connection.execute(
            sa.select(t.setup.c.id).where(t.setup.c.hash == name)
        ).scalar_one()
    return known[name]


def _row(entry: Entry, setup: int | None, case_hash: str, why: str) -> dict[str, Any]:
    return {
        "id": entry.id,
        "athlete": entry.athlete,
        "session": entry.session,
        "coach": entry.coach,
        "replaces": entry.replaces,
        "withdrawn": entry.withdrawn,
        "at_ms": entry.at_ms,
        "day": entry.day,
        "item": entry.item,
        "number": entry.number,
        "setup": setup,
        "drill": entry.drill,
        "case_hash": case_hash,
        "uncounted": why,
        "style": entry.style,
        "side": entry.side,
        "load_kg": entry.load_kg,
        "load_up_kg": entry.load_up_kg,
        "reps": entry.reps,
        "quarters": entry.quarters,
        "seconds": entry.seconds,
        "tempo": "" if entry.tempo_s is None else " ".join(f"{v:g}" for v in entry.tempo_s),
        "pause_s": entry.pause_s,
        "rest_s": entry.rest_s,
        "effort_left": entry.effort_left,
        "note": entry.note,
    }


def _pain_row(
    pain: Pain, athlete: int, session: int, day: int, entry: int | None
) -> dict[str, Any]:
    return {
        "id": new_id(),
        "athlete": athlete,
        "session": session,
        "entry": entry,
        "day": day,
        "moment": pain.moment,
        "place": pain.place,
        "side": pain.side,
        "score": pain.score,
        "numb": pain.numb,
        "cleared_by": pain.cleared_by,
        "cleared_day": pain.cleared_day,
    }


def correct(store: Store, was: Entry, done: DoneSet, coach: int | None = None) -> Entry:
    """Replace an entry by another; the old one stays visible. Raises `CaseError` ``already-corrected``."""
    made = entry_of(done, was.athlete, was.session, was.day, coach, replaces=was.id)
    append(store, [made])
    return made


def withdraw(store: Store, was: Entry, coach: int | None = None) -> Entry:
    """Take an entry back: a correction that counts nothing."""
    made = entry_of(
        was.done.changed(faults=(), pains=()),
        was.athlete,
        was.session,
        was.day,
        coach,
        replaces=was.id,
        withdrawn=True,
    )
    append(store, [made])
    return made


def add_pain(store: Store, athlete: int, session: int, day: int, pain: Pain) -> None:
    """Keep a pain of a session (before, after, the next day)."""
    with store.writing() as connection:
        connection.execute(sa.insert(t.pain).values(_pain_row(pain, athlete, session, day, None)))


def clear_pains(
    store: Store, athlete: int, place: str, by: str, day: int, side: str = "both"
) -> int:
    """Let an athlete go on after a clinician's word on a place; how many entries of pain were cleared.

    ``side`` left or right clears that side alone: what was told of both stays open.

    Raises `CaseError` without initials: a clearing has to say who.
    """
    if not by.strip():
        raise CaseError(
            "wrong-value", "clearing a stop needs the coach's initials", key="cleared_by"
        )
    with store.writing() as connection:
        done = connection.execute(
            sa.update(t.pain)
            .where(
                t.pain.c.athlete == athlete,
                t.pain.c.place == place,
                t.pain.c.cleared_day.is_(None),
                t.pain.c.day <= day,
                *([] if side == "both" else [t.pain.c.side == side]),
            )
            .values(cleared_by=by.strip()[:40], cleared_day=day)
        )
    return int(done.rowcount)


def log_of(
    store: Store,
    athlete: int | None = None,
    *,
    days: tuple[int, int] | None = None,
    session: int | None = None,
    replaced: bool = False,
) -> list[Entry]:
    """Entries in the order in which they were done; ``replaced``: with those that were corrected or withdrawn."""
    query = sa.select(t.entry, t.setup.c.document.label("setup_document")).select_from(
        (t.entry if replaced else COUNTED_FROM).outerjoin(t.setup, t.setup.c.id == t.entry.c.setup)
    )
    if not replaced:
        query = query.where(COUNTS)
    if athlete is not None:
        query = query.where(t.entry.c.athlete == athlete)
    if days is not None:
        query = query.where(t.entry.c.day.between(*days))
    if session is not None:
        query = query.where(t.entry.c.session == session)
    query = query.order_by(t.entry.c.day, t.entry.c.at_ms, t.entry.c.number, t.entry.c.id)
    with store.reading() as connection:
        rows = connection.execute(query).all()
        if not rows:
            return []
        found = entries_from(connection, rows, athlete=athlete, days=days, session=session)
        return in_place(connection, found)


def in_place(connection: sa.Connection, found: Sequence[Entry]) -> list[Entry]:
    """Entries in the order in which their sets were done: a correction stands where the corrected set stood."""
    if all(entry.replaces is None for entry in found):
        return list(found)
    sessions = {entry.session for entry in found if entry.replaces is not None}
    query = sa.select(t.entry.c.id, t.entry.c.replaces, t.entry.c.at_ms)
    rows = connection.execute(query.where(t.entry.c.session.in_(sessions))).all()
    known = {row.id: row for row in rows}

    def done_ms(entry: Entry) -> int:
        before, at_ms = entry.replaces, entry.at_ms
        while before is not None and before in known:
            at_ms, before = known[before].at_ms, known[before].replaces
        return at_ms

    return sorted(found, key=lambda e: (e.day, done_ms(e), e.number, e.id))


def entries_from(
    connection: sa.Connection,
    rows: Sequence[Any],
    *,
    athlete: int | None,
    days: tuple[int, int] | None,
    session: int | None,
) -> list[Entry]:
    """Rows as entries, with their faults and pains."""
    faults: dict[int, list[Fault]] = defaultdict(list)
    pains: dict[int, list[Pain]] = defaultdict(list)
    wanted = sa.select(t.entry.c.id)
    if athlete is not None:
        wanted = wanted.where(t.entry.c.athlete == athlete)
    if days is not None:
        wanted = wanted.where(t.entry.c.day.between(*days))
    if session is not None:
        wanted = wanted.where(t.entry.c.session == session)
    for row in connection.execute(sa.select(t.fault).where(t.fault.c.entry.in_(wanted))):
        faults[row.entry].append(Fault(code=row.code, severity=row.severity))
    for row in connection.execute(sa.select(t.pain).where(t.pain.c.entry.in_(wanted))):
        pains[row.entry].append(pain_from(row))
    setups: dict[str, Setup] = {}
    return [
        entry_from(row, setups, tuple(faults.get(row.id, ())), tuple(pains.get(row.id, ())))
        for row in rows
    ]


def pain_from(row: Any) -> Pain:
    """A row as a pain."""
    return Pain(
        place=row.place,
        side=row.side,
        score=row.score,
        moment=row.moment,
        numb=bool(row.numb),
        cleared_by=row.cleared_by,
        cleared_day=row.cleared_day,
    )


def entry_from(
    row: Any, setups: dict[str, Setup], faults: tuple[Fault, ...], pains: tuple[Pain, ...]
) -> Entry:
    """A row with its set-up's document as an entry; ``setups`` keeps those read already.

    The row has the table's columns, which are the entry's fields but for the tempo's text, and ``setup_document``.
    """
    own = dict(zip(row._fields, row, strict=True))
    text, tempo = own.pop("setup_document"), own.pop("tempo")
    if text is not None and text not in setups:
        setups[text] = read(Setup, json.loads(text))
    own["setup"] = None if text is None else setups[text]
    own["tempo_s"] = _tempo(tempo) if tempo else None
    own["withdrawn"] = bool(own["withdrawn"])
    return Entry(**own, faults=faults, pains=pains)


@lru_cache(maxsize=256)
def _tempo(text: str) -> Tempo:
    down, deep, up, top = (float(value) for value in text.split())
    return down, deep, up, top


def pains_of(
    store: Store, athlete: int | None = None, days: tuple[int, int] | None = None
) -> list[tuple[int, int, int, int | None, Pain]]:
    """Pains as (athlete, day, session, entry, pain) by day; those of entries that no longer count are left out."""
    query = sa.select(t.pain).select_from(
        t.pain.outerjoin(later, later.c.replaces == t.pain.c.entry)
    )
    query = query.where(later.c.id.is_(None)).order_by(t.pain.c.day, t.pain.c.id)
    if athlete is not None:
        query = query.where(t.pain.c.athlete == athlete)
    if days is not None:
        query = query.where(t.pain.c.day.between(*days))
    with store.reading() as connection:
        return [
            (row.athlete, row.day, row.session, row.entry, pain_from(row))
            for row in connection.execute(query)
        ]


def attach(store: Store, entry: int, kind: str, data: bytes) -> str:
    """Keep a measured case, a motion or a picture with an entry; returns its SHA-256."""
    digest = hashlib.sha256(data).hexdigest()
    with store.writing() as connection:
        connection.execute(
            sa.insert(t.attachment).values(
                id=new_id(), entry=entry, kind=kind, sha256=digest, data=data
            )
        )
    return digest


def attachments_of(store: Store, entries: Iterable[int]) -> list[tuple[int, str, bytes]]:
    """Attachments as (entry, kind, data)."""
    query = sa.select(t.attachment).where(t.attachment.c.entry.in_(list(entries)))
    with store.reading() as connection:
        return [(row.entry, row.kind, row.data) for row in connection.execute(query)]
