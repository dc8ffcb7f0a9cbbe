"""The journal while several write it: a set confirmed at any moment is in the store or waits, never neither."""

from __future__ import annotations

import os
import subprocess
import sys
import threading
from pathlib import Path

import pytest
from filled import FLAWED, MONDAY, with_sets

from zesty_lever.records import entries
from zesty_lever.records import journal as journals
from zesty_lever.records.journal import Journal
from zesty_lever.records.store import open_store

CONFIRMING = """
import sys
from pathlib import Path
sys.path.insert(0, {here!r})
from filled import MONDAY, FLAWED
from zesty_lever.records.entries import entry_of
from zesty_lever.records.journal import Journal
for _ in range(40):
    made = entry_of(FLAWED, {athlete}, {session}, MONDAY)
    Journal(Path({journal!r})).add(made)
    print(made.id)
"""


@pytest.fixture
def filled(tmp_path):
    store = open_store(tmp_path / "records.db")
    person, sessions, own = with_sets(store)
    yield store, person.id, sessions[0].id, {e.id for e in own}
    store.close()


def replay_until(path, store, over):
    while not over():
        Journal(path).replay(store)
    Journal(path).replay(store)


def test_sets_confirmed_while_the_journal_is_emptied_are_all_kept(tmp_path, filled):
    store, person, session, own = filled
    path = tmp_path / "running.jsonl"
    made = [entries.entry_of(FLAWED, person, session, MONDAY) for _ in range(60)]
    confirming = threading.Thread(target=lambda: [Journal(path).add(one) for one in made])
    confirming.start()
    replay_until(path, store, lambda: not confirming.is_alive())
    confirming.join()
    assert {e.id for e in entries.log_of(store, person)} == own | {e.id for e in made}
    assert not Journal(path).waiting() and not path.with_suffix(".unread").exists()


def test_a_set_confirmed_between_reading_and_writing_anew_waits_for_it(
    tmp_path, filled, monkeypatch
):
    """The moment itself: the other thread confirms when the file has been read and is about to be replaced."""
    store, person, session, _ = filled
    path = tmp_path / "running.jsonl"
    first, second = (entries.entry_of(FLAWED, person, session, MONDAY) for _ in range(2))
    Journal(path).add(first)
    late = threading.Thread(target=lambda: Journal(path).add(second))
    replace = Journal._replace

    def slow(self, lines):
        late.start()
        late.join(0.2)
        replace(self, lines)

    monkeypatch.setattr(Journal, "_replace", slow)
    Journal(path).replay(store)
    late.join()
    assert [e.id for e in Journal(path).waiting()] == [second.id]


def test_sets_confirmed_by_another_process_meanwhile_are_all_kept(tmp_path, filled):
    store, person, session, own = filled
    path = tmp_path / "running.jsonl"
    code = CONFIRMING.format(
        here=str(Path(__file__).parent), athlete=person, session=session, journal=str(path)
    )
    with subprocess.Popen([sys.executable, "-c", code], stdout=subprocess.PIPE, text=True) as other:
        replay_until(path, store, lambda: other.poll() is not None)
        confirmed = {int(line) for line in other.stdout}
    assert len(confirmed) == 40
    assert {e.id for e in entries.log_of(store, person)} == own | confirmed


def test_a_line_cut_short_does_not_take_the_next_set_with_it(tmp_path, filled):
    store, person, session, own = filled
    path = tmp_path / "running.jsonl"
    path.write_bytes(b'{"set": {"id": 12, "ath')
    made = entries.entry_of(FLAWED, person, session, MONDAY)
    Journal(path).add(made)
    Journal(path).replay(store)
    assert {e.id for e in entries.log_of(store, person)} == own | {made.id}
    assert path.with_suffix(".unread").read_text().startswith('{"set"')


def test_a_set_written_in_part_is_not_confirmed(tmp_path, filled, monkeypatch):
    """A disk that fills up takes the first bytes only: that is an error, as no room at all is."""
    _, person, session, _ = filled
    journal = Journal(tmp_path / "running.jsonl")
    made = entries.entry_of(FLAWED, person, session, MONDAY)
    write = os.write
    monkeypatch.setattr(journals.os, "write", lambda handle, data: write(handle, data[:20]))
    with pytest.raises(OSError, match="No space left"):
        journal.add(made)
    monkeypatch.undo()
    journal.add(made)
    assert journal.waiting() == [made]
