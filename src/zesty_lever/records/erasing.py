"""A person taken out of the records: rows, cache, write-ahead file, backups, journal; a mark stays, no name."""

from __future__ import annotations

import secrets
import sqlite3
import time
from pathlib import Path

import sqlalchemy as sa

from zesty_lever.problems import CaseError
from zesty_lever.records import tables as t
from zesty_lever.records.erased import mark_of
from zesty_lever.records.journal import Journal
from zesty_lever.records.keeping import backups_of
from zesty_lever.records.store import Store

TRIED_FOR_S, AGAIN_AFTER_S = 10.0, 0.1


def erase(
    store: Store,
    athlete: int,
    day: int,
    journal: Journal | None = None,
    tried_for_s: float = TRIED_FOR_S,
) -> list[str]:
    """Take everything of a person out of the store and its backups; what lies out of reach, in words.

    Only a mark stays (a random number and a hash), so that an old import does not bring the person back. Raises
    `CaseError` where a reader keeps the write-ahead file open too long: what was deleted may then still stand in
    it, and erasing has to be done again.
    """
    with store.writing() as connection:
        salt = secrets.token_hex(16)
        connection.execute(
            sa.insert(t.erased).values(mark=mark_of(salt, athlete), salt=salt, day=day)
        )
        _delete(connection, athlete)
    if journal is not None:
        journal.forget(athlete)
        journal.path.with_suffix(".unread").unlink(missing_ok=True)
    if store.path is None:
        return [
            "the database server's own backups and logs",
            "what was exported or handed out before",
        ]
    _checkpoint(store, tried_for_s)
    for one in backups_of(store.path):
        _erase_from_backup(one, athlete)
    # What was damaged can't be searched: it goes.
    for damaged in store.path.parent.glob(f"{store.path.stem}.damaged*"):
        damaged.unlink()
    return [
        "what was exported or handed out before",
        "backups that other programs made of this computer",
    ]


def _delete(connection: sa.Connection, athlete: int) -> None:
    """Rows of a person, set-ups and cache rows that nothing uses any more."""
    own = sa.select(t.entry.c.case_hash).where(t.entry.c.athlete == athlete)
    others = sa.select(t.entry.c.case_hash).where(t.entry.c.athlete != athlete)
    connection.execute(
        sa.delete(t.exposure).where(
            t.exposure.c.case_hash.in_(own), t.exposure.c.case_hash.not_in(others)
        )
    )
    connection.execute(sa.delete(t.athlete).where(t.athlete.c.id == athlete))
    used = sa.select(t.entry.c.setup).where(t.entry.c.setup.is_not(None))
    connection.execute(sa.delete(t.setup).where(t.setup.c.id.not_in(used)))


def _checkpoint(store: Store, tried_for_s: float) -> None:
    """Empty the write-ahead file, tried again until no reader stops it."""
    ends = time.monotonic() + tried_for_s
    while True:
        with store.engine.connect() as connection:
            raw = connection.connection.dbapi_connection
            assert raw is not None
            busy = raw.cursor().execute("PRAGMA wal_checkpoint(TRUNCATE)").fetchone()[0]
        if not busy:
            return
        if time.monotonic() > ends:
            raise CaseError(
                "records-busy",
                "the person's rows are deleted, but another program reads the records and keeps them in the "
                "write-ahead file: close it and erase again",
                key="store",
            )
        time.sleep(AGAIN_AFTER_S)


def _erase_from_backup(backup: Path, athlete: int) -> None:
    connection = sqlite3.connect(backup, isolation_level=None)
    try:
        connection.execute("PRAGMA secure_delete=ON")
        connection.execute("PRAGMA foreign_keys=ON")
        connection.execute("DELETE FROM athlete WHERE id = ?", (athlete,))
        connection.execute(
            "DELETE FROM setup WHERE id NOT IN (SELECT setup FROM entry WHERE setup IS NOT NULL)"
        )
        connection.execute("VACUUM")
    finally:
        connection.close()
