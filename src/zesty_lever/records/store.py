"""One store of records: opened, brought up to date, read and written in transactions of its own."""

from __future__ import annotations

import os
import sqlite3
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path

import sqlalchemy as sa
from sqlalchemy.engine import URL

from zesty_lever.problems import CaseError
from zesty_lever.records import keeping
from zesty_lever.records.engine import (
    APPLICATION_ID,
    SQLITE,
    WRITES,
    address_of,
    engine_for,
    in_words,
    refuse_share,
    shown,
)
from zesty_lever.records.tables import META

# The newest revision under migrations/versions; a test compares them.
NEWEST = "0002"
KNOWN = ("0001", "0002")
CHECKED_BYTES = 20_000_000


class Store:
    """Records at one address. ``read_only``: why nothing can be written, or empty; ``said``: what opening did.

    Safe to use from more than one thread: every transaction takes a connection of its own.
    """

    def __init__(self, url: URL, engine: sa.Engine, read_only: str = "", said: str = "") -> None:
        self.url, self.engine = url, engine
        self.read_only, self.said = read_only, said

    @property
    def where(self) -> str:
        """The address without its password."""
        return shown(self.url)

    @property
    def path(self) -> Path | None:
        """The file of a store on this machine; None for a server."""
        own = self.url.get_backend_name() == SQLITE
        return Path(str(self.url.database)) if own else None

    @contextmanager
    def reading(self) -> Iterator[sa.Connection]:
        """A transaction that only reads. Raises `CaseError` with a sentence for what the database says."""
        with in_words(self.where), self.engine.connect() as connection, connection.begin():
            yield connection

    @contextmanager
    def writing(self) -> Iterator[sa.Connection]:
        """A transaction that writes, whole or not at all. Raises `CaseError`."""
        if self.read_only:
            raise CaseError("records-read-only", self.read_only, key="store", value=self.where)
        with (
            in_words(self.where),
            self.engine.connect().execution_options(**{WRITES: True}) as connection,
            connection.begin(),
        ):
            yield connection

    def revision(self) -> str:
        """The schema's version in the database; empty where there is none yet."""
        return _revision(self.engine)

    def close(self) -> None:
        """Let go of every connection."""
        self.engine.dispose()

    def mark(self) -> object:
        """Something that differs once another process has written (a few microseconds on SQLite)."""
        with in_words(self.where), self.engine.connect() as connection:
            if self.path is not None:
                return connection.exec_driver_sql("PRAGMA data_version").scalar()
            found = connection.execute(
                sa.text(
                    "SELECT (SELECT max(id) FROM entry), (SELECT max(changed_ms) FROM session), "
                    "(SELECT max(changed_ms) FROM plan), (SELECT max(changed_ms) FROM athlete)"
                )
            ).one()
            return tuple(found)


def open_store(
    address: str | Path, now: Callable[[], float] | None = None, *, daily: bool = True
) -> Store:
    """Open (or make) a store and bring its schema up to date, after a backup where one is needed.

    ``daily``: also make the day's backup now (the window makes it once its screen is there).

    A newer schema is opened for reading only; a damaged file is put aside and the newest sound backup taken.
    Raises `CaseError` with a sentence where it can't be opened at all.
    """
    url = address_of(address)
    if url.get_backend_name() != SQLITE:
        return _open_server(url)
    path = Path(str(url.database))
    refuse_share(path)
    said = ""
    if path.exists():
        try:
            _refuse_foreign(path, now)
        except CaseError as error:
            if error.code != "records-damaged":
                raise
            said = keeping.put_damaged_aside(path)
    elif not os.access(path.parent, os.W_OK) and path.parent.exists():
        raise CaseError(
            "records-read-only", f"the folder {path.parent} can't be written", key="store"
        )
    path.parent.mkdir(parents=True, exist_ok=True)
    if path.exists() and not os.access(path, os.W_OK):
        return _open_read_only(url, path)
    engine = engine_for(url)
    with in_words(str(path)):
        return _brought_up(Store(url, engine, said=said), now, daily=daily)


def _brought_up(store: Store, now: Callable[[], float] | None, *, daily: bool) -> Store:
    """The store with the newest schema, or read-only where the schema is newer still."""
    found = store.revision()
    if not found:
        _make(store)
    elif found not in KNOWN:
        store.read_only = (
            f"the records at {store.where} were written by a newer version (schema {found}); "
            "they are open for reading only"
        )
    elif found != NEWEST:
        from zesty_lever.records.migrate import migrate

        if store.path is not None:
            keeping.backup(store.path, "before-migration", now)
        migrate(store.engine)
    if daily and store.path is not None and not store.read_only:
        keeping.daily_backup(store.path, now)
    return store


def _open_server(url: URL) -> Store:
    engine = engine_for(url)
    with in_words(shown(url)):
        return _brought_up(Store(url, engine), None, daily=False)


def _open_read_only(url: URL, path: Path) -> Store:
    ro = url.set(database=f"file:{path}", query={"mode": "ro", "immutable": "1", "uri": "true"})
    engine = sa.create_engine(ro, hide_parameters=True)
    why = f"{path} can't be written: the records are open for reading only"
    return Store(url, engine, read_only=why)


def _make(store: Store) -> None:
    """All tables of the newest schema, with its version; one transaction."""
    with store.writing() as connection:
        META.create_all(connection)
        connection.exec_driver_sql(
            "CREATE TABLE IF NOT EXISTS alembic_version (version_num VARCHAR(32) NOT NULL, "
            "CONSTRAINT alembic_version_pkc PRIMARY KEY (version_num))"
        )
        # Two that open a new store at once: the second finds the version there.
        if connection.exec_driver_sql("SELECT count(*) FROM alembic_version").scalar() == 0:
            version = sa.table("alembic_version", sa.column("version_num"))
            connection.execute(sa.insert(version).values(version_num=NEWEST))
        if store.path is not None:
            connection.exec_driver_sql(f"PRAGMA application_id={APPLICATION_ID}")


def _revision(engine: sa.Engine) -> str:
    with engine.connect() as connection:
        if not sa.inspect(connection).has_table("alembic_version"):
            return ""
        found = connection.exec_driver_sql("SELECT version_num FROM alembic_version").scalar()
        return str(found or "")


def _refuse_foreign(path: Path, now: Callable[[], float] | None) -> None:
    """Refuse a file that is no store of ours. Raises `CaseError`: foreign, damaged, or can't be read.

    A large file is looked through once a day only, since that takes most of a second.
    """
    if path.stat().st_size == 0:
        return
    with in_words(str(path)):
        connection = sqlite3.connect(f"file:{path}?mode=ro", uri=True)
        try:
            number = connection.execute("PRAGMA application_id").fetchone()[0]
            tables = {row[0] for row in connection.execute("SELECT name FROM sqlite_master")}
            if tables and number != APPLICATION_ID:
                raise CaseError(
                    "not-records",
                    f"{path} is a database of something else; it is left as it is",
                    key="store",
                    value=str(path),
                )
            checked = "ok"
            if path.stat().st_size < CHECKED_BYTES or not keeping.backed_up_today(path, now):
                checked = connection.execute("PRAGMA quick_check(1)").fetchone()[0]
        finally:
            connection.close()
    if checked != "ok":
        raise CaseError("records-damaged", f"the records at {path} are damaged", key="store")
