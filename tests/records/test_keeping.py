"""Nothing confirmed is lost: kills, full disks, damaged files, backups, migrations; and the journal."""

from __future__ import annotations

import json
import os
import random
import shutil
import signal
import sqlite3
import subprocess
import sys
import time
from contextlib import closing
from pathlib import Path

import pytest
import sqlalchemy as sa
from filled import FLAWED, MONDAY, squat, with_sets

from zesty_lever.log.entry import Pain
from zesty_lever.problems import CaseError
from zesty_lever.records import entries, keeping
from zesty_lever.records import tables as t
from zesty_lever.records.engine import address_of, engine_for
from zesty_lever.records.journal import Journal
from zesty_lever.records.migrate import migrate, scripts
from zesty_lever.records.store import NEWEST, open_store

HERE = Path(__file__).parent
WRITER = """
import sys
from pathlib import Path
sys.path.insert(0, {here!r})
from filled import MONDAY, FLAWED
from zesty_lever.records.entries import append, entry_of
from zesty_lever.records.store import open_store
from zesty_lever.records.journal import Journal
store = open_store({address!r})
journal = Journal(Path({journal!r}))
print("ready", flush=True)
while True:
    made = entry_of(FLAWED, {athlete}, {session}, MONDAY)
    journal.add(made)
    print("acknowledged", made.id, flush=True)
    append(store, [made])
    journal.acknowledged([made.id])
"""


def killed_at_random(tmp_path, times, seed):
    """Start a writer, kill it at a random moment, so often; returns acknowledged ids and the store.

    Up to five sets are let through first, so that a busy machine writes as many as an idle one.
    """
    path = tmp_path / "records.db"
    store = open_store(path)
    person, sessions, own = with_sets(store)
    store.close()
    journal = tmp_path / "running.jsonl"
    code = WRITER.format(
        here=str(HERE),
        address=str(path),
        journal=str(journal),
        athlete=person.id,
        session=sessions[0].id,
    )
    dice = random.Random(seed)
    acknowledged = [e.id for e in own]
    for _ in range(times):
        writer = subprocess.Popen(
            [sys.executable, "-c", code], stdout=subprocess.PIPE, text=True, bufsize=1
        )
        assert writer.stdout.readline() == "ready\n"
        said = "".join(writer.stdout.readline() for _ in range(dice.randrange(6)))
        time.sleep(dice.uniform(0.0, 0.02))
        writer.send_signal(signal.SIGKILL)
        said += writer.stdout.read()
        writer.stdout.close()
        writer.wait()
        whole = [line for line in said.splitlines(keepends=True) if line.endswith("\n")]
        acknowledged += [int(line.split()[1]) for line in whole]
    return acknowledged, open_store(path), Journal(journal), person


def check_nothing_lost(acknowledged, store, journal, person):
    journal.replay(store)
    assert not journal.waiting()
    found = {e.id: e for e in entries.log_of(store, person.id)}
    lost = [one for one in acknowledged if one not in found]
    assert not lost
    # None half: each with its fault and its pain.
    for one in acknowledged[2:]:
        assert found[one].faults == FLAWED.faults and found[one].pains == FLAWED.pains
    assert keeping.sound(store.path)
    store.close()


@pytest.mark.slow
def test_killed_ten_times_nothing_acknowledged_is_lost(tmp_path):
    acknowledged, store, journal, person = killed_at_random(tmp_path, 10, seed=1)
    assert len(acknowledged) > 15
    check_nothing_lost(acknowledged, store, journal, person)


@pytest.mark.slow
def test_killed_two_hundred_times_nothing_acknowledged_is_lost(tmp_path):
    acknowledged, store, journal, person = killed_at_random(tmp_path, 200, seed=2)
    assert len(acknowledged) > 400
    check_nothing_lost(acknowledged, store, journal, person)


# --- migrations ------------------------------------------------------------------------------


def old_store(path, revision="0001", sets=40):
    """A store as an older version wrote it, with rows in every table."""
    newest = path.with_name("newest.db")
    store = open_store(newest)
    person, sessions, own = with_sets(store, [squat(), FLAWED] * (sets // 2))
    entries.attach(store, own[0].id, "picture", b"\x89PNG")
    entries.correct(store, own[2], squat(reps=9))
    entries.add_pain(store, person.id, sessions[0].id, MONDAY, Pain(place="hip", score=1))
    store.close()
    engine = engine_for(address_of(path))
    migrate(engine, revision)
    engine.dispose()
    with closing(sqlite3.connect(path)) as old, old:
        old.execute("ATTACH DATABASE ? AS newest", (str(newest),))
        names = [r[0] for r in old.execute("SELECT name FROM sqlite_master WHERE type='table'")]
        for name in names:
            if name == "alembic_version":
                continue
            columns = ", ".join(f'"{r[1]}"' for r in old.execute(f"PRAGMA table_info({name})"))
            old.execute(f"INSERT INTO {name} ({columns}) SELECT {columns} FROM newest.{name}")
    old.close()
    from zesty_lever.records.engine import APPLICATION_ID

    with closing(sqlite3.connect(path)) as old, old:
        old.execute(f"PRAGMA application_id={APPLICATION_ID}")
    old.close()
    return person


def counts(path):
    with closing(sqlite3.connect(path)) as database, database:
        names = [
            r[0]
            for r in database.execute(
                "SELECT name FROM sqlite_master WHERE type='table' AND name != 'decision'"
            )
        ]
        found = {n: database.execute(f"SELECT count(*) FROM {n}").fetchone()[0] for n in names}
    database.close()
    return found


RELEASED = [s.revision for s in scripts().walk_revisions()][::-1]


@pytest.mark.parametrize("revision", RELEASED)
def test_every_released_schema_comes_up_to_date_with_all_its_rows(tmp_path, revision):
    path = tmp_path / "records.db"
    person = old_store(path, revision)
    before = counts(path)
    assert before["fault"] == 20 and before["attachment"] == 1 and before["pain"] == 21
    store = open_store(path)
    assert store.revision() == NEWEST
    assert counts(path) == before
    assert len(entries.log_of(store, person.id)) == 40
    if revision != NEWEST:
        assert any("before-migration" in b.name for b in keeping.backups_of(path))
    store.close()


def test_a_new_database_is_what_all_migrations_make(address):
    from alembic.autogenerate import compare_metadata
    from alembic.migration import MigrationContext

    engine = engine_for(address_of(address))
    if "sqlite" in str(engine.url):
        Path(address).parent.mkdir(exist_ok=True)
    migrate(engine)
    with engine.connect() as connection:
        context = MigrationContext.configure(connection, opts={"compare_type": True})
        assert compare_metadata(context, t.META) == []
    engine.dispose()


REBUILD = '''
"""Rebuilds the log's table."""
from alembic import op
import sqlalchemy as sa
revision = "9001"
down_revision = "0002"
def upgrade():
    with op.batch_alter_table("entry", recreate="always") as batch:
        batch.add_column(sa.Column("mood", sa.Text(), nullable=True))
'''


def with_rebuild(tmp_path):
    from zesty_lever.records.migrate import HERE as SHIPPED

    folder = tmp_path / "migrations"
    shutil.copytree(SHIPPED, folder)
    (folder / "versions" / "v9001_rebuild.py").write_text(REBUILD)
    return folder


def test_rebuilding_the_log_empties_no_table_that_points_to_it(tmp_path):
    """Trap: with foreign keys on, dropping the old table took every fault with it by cascade."""
    path = tmp_path / "records.db"
    old_store(path, "0002")
    before = counts(path)
    folder = with_rebuild(tmp_path)
    engine = engine_for(address_of(path))
    migrate(engine, folder=folder)
    engine.dispose()
    assert counts(path) == before
    with closing(sqlite3.connect(path)) as database, database:
        assert database.execute("PRAGMA foreign_key_check").fetchall() == []
        assert "mood" in [r[1] for r in database.execute("PRAGMA table_info(entry)")]
        keys = database.execute("PRAGMA foreign_key_list(fault)").fetchall()
        assert keys[0][2] == "entry"
    database.close()


MIGRATOR = """
from pathlib import Path
from zesty_lever.records.engine import address_of, engine_for
from zesty_lever.records.migrate import migrate
engine = engine_for(address_of({path!r}))
print("ready", flush=True)
migrate(engine, folder=Path({folder!r}))
"""


def killed_in_mid_migration(tmp_path, times, seed):
    source = tmp_path / "source.db"
    old_store(source, "0002", sets=2000)
    before = counts(source)
    folder = with_rebuild(tmp_path)
    path = tmp_path / "records.db"
    dice = random.Random(seed)
    seen = set()
    for _ in range(times):
        for ending in ("", "-wal", "-shm"):
            path.with_name(path.name + ending).unlink(missing_ok=True)
        shutil.copy(source, path)
        code = MIGRATOR.format(path=str(path), folder=str(folder))
        run = subprocess.Popen([sys.executable, "-c", code], stdout=subprocess.PIPE, text=True)
        run.stdout.readline()
        time.sleep(dice.uniform(0.0, 0.25))
        run.send_signal(signal.SIGKILL)
        run.wait()
        run.stdout.close()
        with closing(sqlite3.connect(path)) as database, database:
            revision = database.execute("SELECT version_num FROM alembic_version").fetchone()[0]
            columns = [r[1] for r in database.execute("PRAGMA table_info(entry)")]
            assert ("mood" in columns) == (revision == "9001")
            assert database.execute("PRAGMA integrity_check").fetchone()[0] == "ok"
            tables = [r[0] for r in database.execute("SELECT name FROM sqlite_master")]
            assert "_alembic_tmp_entry" not in tables
        database.close()
        assert counts(path) == before
        seen.add(revision)
    return seen


def test_killed_in_mid_migration_the_schema_is_the_old_or_the_new_one(tmp_path):
    assert killed_in_mid_migration(tmp_path, 4, seed=3) <= {"0002", "9001"}


@pytest.mark.slow
def test_killed_forty_times_in_mid_migration(tmp_path):
    assert killed_in_mid_migration(tmp_path, 40, seed=4) == {"0002", "9001"}


# --- the journal, full disks, backups --------------------------------------------------------


def test_sets_wait_in_the_journal_and_a_replay_adds_none_twice(tmp_path):
    store = open_store(tmp_path / "records.db")
    person, sessions, _ = with_sets(store)
    journal = Journal(tmp_path / "running.jsonl")
    made = [entries.entry_of(FLAWED, person.id, sessions[0].id, MONDAY) for _ in range(3)]
    for one in made:
        journal.add(one)
    entries.append(store, made[:1])
    with journal.path.open("ab") as file:
        file.write(b'{"set": {"id": 12, "ath')
    assert [e.id for e in journal.waiting()] == [e.id for e in made]
    assert journal.replay(store) == 3
    assert journal.replay(store) == 0
    assert len(entries.log_of(store, person.id)) == 5
    assert journal.path.with_suffix(".unread").read_text().startswith('{"set"')
    journal.mark(sessions[0].id, "block-1", 123)
    assert journal.marks(sessions[0].id) == {"block-1": 123}
    journal.acknowledged([], ended=[sessions[0].id])
    store.close()
    assert not journal.path.exists()


def test_a_full_disk_is_said_and_the_set_waits(tmp_path):
    path = tmp_path / "records.db"
    store = open_store(path)
    person, sessions, _ = with_sets(store)
    journal = Journal(tmp_path / "running.jsonl")
    acknowledged = []
    with store.engine.connect() as connection:
        pages = connection.exec_driver_sql("PRAGMA page_count").scalar()

    def no_more(connection, _record, _proxy=None):
        connection.execute(f"PRAGMA max_page_count={pages + 4}")

    sa.event.listen(store.engine, "checkout", no_more)
    store.engine.dispose()
    with pytest.raises(CaseError, match="disk full") as full:
        for _ in range(500):
            made = entries.entry_of(FLAWED, person.id, sessions[0].id, MONDAY)
            journal.add(made)
            entries.append(store, [made])
            acknowledged.append(made.id)
            journal.acknowledged([made.id])
    assert full.value.code == "records-full"
    assert len(journal.waiting()) == 1
    there = {e.id for e in entries.log_of(store, person.id)}
    assert set(acknowledged) <= there and journal.waiting()[0].id not in there
    store.close()
    roomy = open_store(path)
    assert journal.replay(roomy) == 1
    assert len(entries.log_of(roomy, person.id)) == len(acknowledged) + 3
    roomy.close()


def test_a_lock_held_too_long_is_said(tmp_path, monkeypatch):
    monkeypatch.setattr("zesty_lever.records.engine.BUSY_S", 0.2)
    store = open_store(tmp_path / "records.db")
    person, sessions, _ = with_sets(store)
    holder = sqlite3.connect(tmp_path / "records.db", isolation_level=None)
    holder.execute("BEGIN IMMEDIATE")
    with pytest.raises(CaseError, match="someone else holds") as busy:
        entries.append(store, [entries.entry_of(squat(), person.id, sessions[0].id, MONDAY)])
    assert busy.value.code == "records-busy"
    holder.execute("ROLLBACK")
    holder.close()
    entries.append(store, [entries.entry_of(squat(), person.id, sessions[0].id, MONDAY)])
    store.close()


def test_a_damaged_file_is_kept_and_the_backup_takes_its_place(tmp_path):
    path = tmp_path / "records.db"
    store = open_store(path)
    person, _, _ = with_sets(store, [squat()] * 200)
    keeping.backup(path)
    store.close()
    data = bytearray(path.read_bytes())
    for at in range(8192, len(data) - 4096, 4096):
        data[at : at + 512] = os.urandom(512)
    path.write_bytes(bytes(data))
    again = open_store(path)
    assert "kept as records.damaged1.db" in again.said and "has taken its place" in again.said
    assert len(entries.log_of(again, person.id)) == 200
    assert (tmp_path / "records.damaged1.db").exists()
    again.close()


def test_backups_are_sound_thinned_out_and_taken_back(tmp_path):
    path = tmp_path / "records.db"
    day = 86_400.0
    start = 1_790_000_000.0
    for number in range(60):
        store = open_store(path, now=lambda n=number: start + n * day)
        if number == 0:
            person, sessions, _ = with_sets(store)
        store.close()
    kept = keeping.backups_of(path)
    assert 7 + 2 <= len(kept) <= 7 + 4
    assert all(keeping.sound(one) for one in kept)
    store = open_store(path, now=lambda: start + 60 * day)
    entries.append(store, [entries.entry_of(squat(), person.id, sessions[0].id, MONDAY)])
    store.close()
    keeping.restore(path, kept[0])
    store = open_store(path, now=lambda: start + 60 * day)
    assert len(entries.log_of(store, person.id)) == 2
    store.close()
    with pytest.raises(CaseError, match="not sound"):
        keeping.restore(path, Path(__file__))


def test_a_file_without_rights_is_opened_for_reading_only(tmp_path, monkeypatch):
    path = tmp_path / "records.db"
    store = open_store(path)
    person, sessions, _ = with_sets(store)
    with store.engine.connect() as connection:
        connection.exec_driver_sql("PRAGMA wal_checkpoint(TRUNCATE)")
    store.close()
    real = os.access
    monkeypatch.setattr(os, "access", lambda p, mode: False if Path(p) == path else real(p, mode))
    shut = open_store(path)
    assert "reading only" in shut.read_only
    assert len(entries.log_of(shut, person.id)) == 2
    with pytest.raises(CaseError, match="reading only"):
        entries.append(shut, [entries.entry_of(squat(), person.id, sessions[0].id, MONDAY)])
    shut.close()


def test_what_waits_in_the_journal_is_plain_json(tmp_path):
    journal = Journal(tmp_path / "running.jsonl")
    made = entries.entry_of(squat(), 1, 2, MONDAY)
    journal.add(made)
    assert json.loads(journal.path.read_text())["set"]["id"] == made.id
    assert journal.waiting() == [made]
    journal.forget(1)
    assert not journal.waiting()


@pytest.mark.postgres
def test_a_server_stopped_hard_loses_nothing(tmp_path, cluster):
    address = cluster.fresh()
    store = open_store(address)
    person, sessions, _ = with_sets(store)
    journal = Journal(tmp_path / "running.jsonl")
    made = [entries.entry_of(FLAWED, person.id, sessions[0].id, MONDAY) for _ in range(3)]
    cluster.stop()
    try:
        for one in made:
            journal.add(one)
            with pytest.raises(CaseError) as gone:
                entries.append(store, [one])
            assert gone.value.code == "records-gone"
        with pytest.raises(CaseError):
            journal.replay(store)
    finally:
        cluster.start()
    assert journal.replay(store) == 3
    assert len(entries.log_of(store, person.id)) == 5
    store.close()
