"""Who was erased here: a random number and a hash, no name."""

from __future__ import annotations

import hashlib

import sqlalchemy as sa

from zesty_lever.records import tables as t
from zesty_lever.records.store import Store


def mark_of(salt: str, athlete: int) -> str:
    """The mark that stays of an athlete's id."""
    return hashlib.sha256(f"{salt}{athlete}".encode()).hexdigest()


def is_erased(store: Store, athlete: int) -> bool:
    """Whether an athlete of that id was erased here."""
    with store.reading() as connection:
        rows = connection.execute(sa.select(t.erased.c.salt, t.erased.c.mark)).all()
    return any(mark_of(row.salt, athlete) == row.mark for row in rows)
