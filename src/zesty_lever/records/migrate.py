"""Brings an older schema up to date: one transaction, foreign keys off before it begins, checked before it ends."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import sqlalchemy as sa
from alembic.config import Config
from alembic.runtime.environment import EnvironmentContext
from alembic.script import ScriptDirectory

from zesty_lever.problems import CaseError
from zesty_lever.records.engine import SQLITE, WRITES
from zesty_lever.records.tables import META

HERE = Path(__file__).parent / "migrations"


def scripts(folder: Path = HERE) -> ScriptDirectory:
    """The revisions of a folder."""
    config = Config()
    config.set_main_option("script_location", str(folder).replace("%", "%%"))
    return ScriptDirectory.from_config(config)


def migrate(engine: sa.Engine, to: str = "head", folder: Path = HERE) -> None:
    """Run every revision up to ``to`` in one transaction.

    On SQLite a table is rebuilt by copying; with foreign keys on, dropping the old one would empty every
    table that points to it by cascade, and the pragma is ignored inside a transaction: so it is switched off
    before, and `foreign_key_check` must find nothing before the commit. Raises `CaseError` if it does.
    """
    directory = scripts(folder)
    own = engine.dialect.name == SQLITE
    with engine.connect().execution_options(**{WRITES: True}) as connection:
        if own:
            # The raw connection: SQLAlchemy's would begin a transaction first.
            _raw(connection).execute("PRAGMA foreign_keys=OFF")
        try:
            with connection.begin():
                _run(directory, connection, to)
                if own:
                    broken = connection.exec_driver_sql("PRAGMA foreign_key_check").fetchall()
                    if broken:
                        raise CaseError(
                            "records-damaged",
                            f"the new schema would leave {len(broken)} rows without what they point to; "
                            "nothing was changed",
                            key="store",
                        )
        finally:
            if own:
                _raw(connection).execute("PRAGMA foreign_keys=ON")


def _raw(connection: sa.Connection) -> Any:
    return connection.connection.dbapi_connection


def _run(directory: ScriptDirectory, connection: sa.Connection, to: str) -> None:
    def steps(revision: Any, _context: Any) -> Any:
        return directory._upgrade_revs(to, revision)  # noqa: SLF001 (what alembic's own command calls)

    with EnvironmentContext(directory_config(directory), directory, fn=steps) as environment:
        environment.configure(
            connection=connection,
            target_metadata=META,
            render_as_batch=True,
            transactional_ddl=True,
            transaction_per_migration=False,
        )
        environment.run_migrations()


def directory_config(directory: ScriptDirectory) -> Config:
    """A configuration that names the folder of a script directory."""
    config = Config()
    config.set_main_option("script_location", str(directory.dir).replace("%", "%%"))
    return config
