"""How a database of records is opened and what its errors mean in words."""

from __future__ import annotations

import errno
import sqlite3
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import sqlalchemy as sa
from sqlalchemy.engine import URL, make_url
from sqlalchemy.pool import QueuePool

from zesty_lever.problems import CaseError

BUSY_S = 5.0
SQLITE, POSTGRES = "sqlite", "postgresql"
# Marks our SQLite files, so that a foreign one is told apart ("ZLrc").
APPLICATION_ID = 0x5A4C7263
NETWORK_KINDS = ("nfs", "cifs", "smb", "sshfs", "fuse.sshfs", "9p", "afs")
# What a connection is begun for; set as an option of the connection.
WRITES = "writes"


def address_of(text: str | Path) -> URL:
    """A store's address: a path is an SQLite file, ``postgresql://...`` a server. Raises `CaseError`."""
    if isinstance(text, str) and "://" in text:
        try:
            url = make_url(text)
        except sa.exc.ArgumentError:
            url = URL.create("unreadable")
        if url.get_backend_name() not in (SQLITE, POSTGRES):
            raise CaseError(
                "wrong-value",
                "the address of the records is neither a path nor postgresql://…",
                key="store",
                allowed=["a path", "postgresql://…"],
            )
        return (
            url.set(drivername="postgresql+psycopg") if url.get_backend_name() == POSTGRES else url
        )
    return URL.create(SQLITE, database=str(text))


def engine_for(url: URL) -> sa.Engine:
    """An engine with our pragmas and transactions. Raises `CaseError` where the extra is missing."""
    if url.get_backend_name() == POSTGRES:
        return _postgres(url)
    engine = sa.create_engine(
        url,
        hide_parameters=True,
        poolclass=QueuePool,
        pool_size=4,
        connect_args={"timeout": BUSY_S, "check_same_thread": False},
    )
    sa.event.listen(engine, "connect", _prepare_sqlite)
    sa.event.listen(engine, "begin", _begin_sqlite)
    return engine


def _postgres(url: URL) -> sa.Engine:
    try:
        import psycopg  # noqa: F401
    except ImportError:
        raise CaseError(
            "needs-extra",
            "records on a server need the optional part 'staff': pip install zesty-lever[staff]",
            key="store",
        ) from None
    return sa.create_engine(
        url,
        hide_parameters=True,
        pool_pre_ping=True,
        connect_args={
            "connect_timeout": int(BUSY_S),
            "options": f"-c lock_timeout={int(BUSY_S * 1e3)}",
        },
    )


def _prepare_sqlite(connection: Any, _record: Any) -> None:
    # Python's own transactions off: BEGIN is said by us, so that a migration is one transaction too.
    connection.isolation_level = None
    for pragma in (
        "journal_mode=WAL",
        "synchronous=FULL",
        "foreign_keys=ON",
        "secure_delete=ON",
        f"busy_timeout={int(BUSY_S * 1e3)}",
    ):
        connection.execute(f"PRAGMA {pragma}")


def _begin_sqlite(connection: sa.Connection) -> None:
    # A read must not hold up writers; a write inside a deferred read would fail at once.
    writes = connection.get_execution_options().get(WRITES, False)
    connection.exec_driver_sql("BEGIN IMMEDIATE" if writes else "BEGIN")


@contextmanager
def in_words(where: str) -> Iterator[None]:
    """Database errors as `CaseError` with a sentence; values are never quoted."""
    try:
        yield
    except sa.exc.DBAPIError as error:
        raise problem_of(error, where) from error
    except sqlite3.Error as error:
        raise problem_of(error, where) from error


def problem_of(error: Exception, where: str) -> CaseError:
    """What a database error means: full, busy, damaged, gone, read-only; else the error's own first line."""
    original = getattr(error, "orig", None) or error
    text = str(original).splitlines()[0] if str(original) else type(original).__name__
    low = text.lower()
    code, words = "records-gone", f"the records at {where} can't be reached: {text}"
    if isinstance(error, sa.exc.IntegrityError):
        words = "what this belongs to was changed or deleted by someone else meanwhile"
        return CaseError("changed-meanwhile", words, key="store", value=where)
    if "disk is full" in low or "no space" in low or getattr(original, "errno", 0) == errno.ENOSPC:
        code, words = "records-full", f"disk full: {where} takes nothing more"
    elif "locked" in low or "lock timeout" in low:
        code, words = (
            "records-busy",
            f"someone else holds the records at {where} for over {BUSY_S:g} s",
        )
    elif "malformed" in low or "corrupt" in low or "disk i/o" in low:
        code, words = "records-damaged", f"the records at {where} are damaged ({text})"
    elif "not a database" in low or "encrypted" in low:
        code, words = "not-records", f"{where} is no database of records"
    elif "readonly" in low or "read-only" in low or "permission denied" in low:
        code, words = "records-read-only", f"the records at {where} can't be written"
    elif "unable to open" in low:
        code, words = (
            "records-gone",
            f"the records at {where} can't be opened (no rights, or no such folder)",
        )
    return CaseError(code, words, key="store", value=where)


def shown(url: URL) -> str:
    """An address without its password."""
    if url.get_backend_name() == SQLITE:
        return str(url.database)
    return url.set(password=None).render_as_string(hide_password=True)


def mount_kind(path: Path, table: str | None = None) -> str:
    """The kind of file system that a path lies on, as the system's table of mounts names it; empty: unknown."""
    try:
        text = Path("/proc/mounts").read_text(encoding="utf-8") if table is None else table
        real = path.resolve()
    except OSError:
        return ""
    best, kind = "", ""
    for line in text.splitlines():
        parts = line.split()
        if len(parts) < 3:
            continue
        mounted = parts[1].replace("\\040", " ")
        if (real == Path(mounted) or Path(mounted) in real.parents) and len(mounted) >= len(best):
            best, kind = mounted, parts[2]
    return kind


def refuse_share(path: Path, table: str | None = None) -> None:
    """Refuse a network share, where a write-ahead log loses data. Raises `CaseError` that names the other way."""
    kind = mount_kind(path, table)
    if kind.startswith(NETWORK_KINDS):
        raise CaseError(
            "records-on-a-share",
            f"{path} lies on a network share ({kind}): records on a share get lost. Keep them on this machine, "
            "or use a PostgreSQL server for a staff",
            key="store",
            value=str(path),
        )
