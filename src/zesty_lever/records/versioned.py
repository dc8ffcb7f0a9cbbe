"""Documents with a version: the second writer is told, and nothing of the first is lost."""

from __future__ import annotations

import json
from collections.abc import Mapping
from typing import Any, Protocol

import sqlalchemy as sa

from zesty_lever.problems import CaseError


class ChangedMeanwhileError(CaseError):
    """A document was changed (``theirs``, ``by``, ``at_ms``) or deleted (``theirs`` None) since it was read."""

    def __init__(self, what: str, theirs: Any = None, by: str = "", at_ms: int = 0) -> None:
        gone = "was deleted" if theirs is None else "was changed"
        who = f" by {by}" if by else ""
        super().__init__("changed-meanwhile", f"{what} {gone}{who} since it was opened", key=what)
        self.theirs, self.by, self.at_ms = theirs, by, at_ms


class Versioned(Protocol):
    """What a row of every versioned table tells of itself."""

    @property
    def id(self) -> int:
        """Its id in its table."""
        ...

    @property
    def version(self) -> int:
        """Counts up with every change."""
        ...

    @property
    def changed_ms(self) -> int:
        """When it was changed, in ms since 1970."""
        ...

    @property
    def changed_by(self) -> str:
        """Initials of who changed it."""
        ...


def write_over(
    connection: sa.Connection, table: sa.Table, was: Versioned, values: Mapping[str, Any]
) -> bool:
    """Write values over a row unless its version is another than the one read; whether it was written."""
    done = connection.execute(
        sa.update(table)
        .where(table.c.id == was.id, table.c.version == was.version)
        .values(dict(values))
    )
    return bool(done.rowcount)


def beaten(what: str, theirs: Versioned | None) -> ChangedMeanwhileError:
    """The error for the second writer of a document, with the other's version where it still stands."""
    if theirs is None:
        return ChangedMeanwhileError(what)
    return ChangedMeanwhileError(what, theirs, theirs.changed_by, theirs.changed_ms)


def document_text(document: Any) -> str:
    """A document as it is kept: JSON without spaces."""
    return json.dumps(document, separators=(",", ":"), ensure_ascii=False)
