"""The store: both databases, transactions, versions, the log, sums, traps that were met."""

from __future__ import annotations

import datetime as dt
import sqlite3
import subprocess
import sys
import threading
import time
from contextlib import closing

import numpy as np
import pytest
import sqlalchemy as sa
from filled import FLAWED, MONDAY, WOMAN, one_week, squat, with_sets

from zesty_lever.cases.model import Setup
from zesty_lever.log.asked import Advice
from zesty_lever.log.entry import DoneSet, Pain
from zesty_lever.log.exposure import case_of, exposure_of, reference_of, rep_loads
from zesty_lever.problems import CaseError
from zesty_lever.records import documents, entries, ids, people, sums
from zesty_lever.records import tables as t
from zesty_lever.records.deciding import decisions_of, keep_decisions
from zesty_lever.records.erasing import erase
from zesty_lever.records.store import NEWEST, open_store
from zesty_lever.records.versioned import ChangedMeanwhileError
from zesty_lever.wording.records import decision_words


def test_what_was_written_is_read_back(store):
    person, sessions, own = with_sets(store)
    read = entries.log_of(store, person.id)
    assert [e.id for e in read] == [e.id for e in own]
    assert read[1].faults == FLAWED.faults and read[1].pains == FLAWED.pains
    assert read[1].done == FLAWED
    assert read[0].case_hash == read[1].case_hash != ""
    assert entries.log_of(store, session=sessions[0].id) == read
    assert people.people(store)[0].body.lengths_m == {"thigh": 0.43}


def test_every_style_tempo_and_side_comes_back(store):
    sets = [
        squat(style="two-load", load_up_kg=50.0, tempo_s=(3, 1.5, 1, 0), rest_s=90, side="left"),
        squat(style="paused", pause_s=2.5, quarters=3, effort_left=1.5),
        DoneSet(drill="side-lying-clam", reps=12, side="right"),
        DoneSet(
            setup=Setup(variation="straight-leg-heel-elevated-hold"), style="holds", seconds=25
        ),
    ]
    person, _, _ = with_sets(store, sets)
    assert [e.done for e in entries.log_of(store, person.id)] == sets


def test_a_correction_replaces_and_the_old_one_stays_visible(store):
    person, _, own = with_sets(store)
    better = entries.correct(store, own[0], squat(reps=6))
    # It stands where the set stood that it corrects.
    assert [e.reps for e in entries.log_of(store, person.id)] == [6, 4]
    every = entries.log_of(store, person.id, replaced=True)
    assert {e.id for e in every} == {own[0].id, own[1].id, better.id}
    entries.withdraw(store, better)
    assert [e.reps for e in entries.log_of(store, person.id)] == [4]


def test_two_corrections_of_one_entry_the_second_is_refused_and_told(store):
    person, _, own = with_sets(store)
    entries.correct(store, own[0], squat(reps=6))
    with pytest.raises(CaseError) as refused:
        entries.correct(store, own[0], squat(reps=7))
    assert refused.value.code == "already-corrected"
    assert sorted(e.reps for e in entries.log_of(store, person.id)) == [4, 6]


def test_the_second_writer_of_a_document_is_told_and_overwrites_nothing(store):
    person = people.add_person(store, WOMAN, MONDAY)
    row = documents.add_plan(store, person.id, MONDAY, one_week(), by="KB")
    documents.save_plan(store, row, row.plan.changed(name="Theirs"), by="IS")
    with pytest.raises(ChangedMeanwhileError, match="by IS") as beaten:
        documents.save_plan(store, row, row.plan.changed(name="Mine"), by="KB")
    assert beaten.value.theirs.plan.name == "Theirs"
    assert documents.plan_row(store, row.id).plan.name == "Theirs"
    documents.delete_plan(store, row.id)
    with pytest.raises(ChangedMeanwhileError, match="was deleted"):
        documents.save_plan(store, beaten.value.theirs, row.plan)


def test_a_plan_makes_its_sessions_and_moves_only_those_not_begun(store):
    person = people.add_person(store, WOMAN, MONDAY)
    row = documents.add_plan(store, person.id, MONDAY + 2, one_week())
    days = [s.day - MONDAY for s in documents.sessions_of(store, person.id)]
    assert days == [0, 3, 7, 10]
    first = documents.sessions_of(store, person.id)[0]
    documents.save_session(store, first, state="done")
    weeks = tuple(
        w.changed(sessions=tuple(s.changed(weekday=5) for s in w.sessions[:1]))
        for w in row.plan.weeks
    )
    documents.save_plan(store, row, row.plan.changed(weeks=weeks))
    found = documents.sessions_of(store, person.id)
    assert [(s.day - MONDAY, s.state) for s in found] == [(0, "done"), (12, "planned")]


def test_times_out_of_order_are_refused(store):
    _, sessions, _ = with_sets(store)
    with pytest.raises(CaseError) as refused:
        documents.save_session(store, sessions[0], started_ms=2000, ended_ms=1000)
    assert refused.value.code == "days-out-of-order"


def test_old_sets_keep_the_body_of_their_day(store):
    person, _, _own = with_sets(store)
    heavier = WOMAN.changed(mass_kg=70)
    assert people.set_body(store, person.id, heavier, MONDAY + 7)
    row = documents.add_session(store, person.id, MONDAY + 7, one_week().weeks[0].sessions[0])
    entries.append(store, [entries.entry_of(squat(), person.id, row.id, MONDAY + 7)])
    hashes = [e.case_hash for e in entries.log_of(store, person.id)]
    assert hashes[0] != hashes[2]
    stronger = heavier.changed(best_loads_kg={"back-squat-high-bar": 95})
    people.set_body(store, person.id, stronger, MONDAY + 9)
    with store.reading() as connection:
        assert connection.execute(sa.select(sa.func.count()).select_from(t.body)).scalar() == 2


def test_sums_of_the_database_are_those_of_the_sets(store):
    sets = [squat(), FLAWED, squat(side="left", reps=3, quarters=2), squat(style="paused")]
    sets += [
        DoneSet(
            setup=Setup(variation="straight-leg-heel-elevated-hold"), style="holds", seconds=30
        ),
        DoneSet(setup=Setup(variation="split-squat"), load_kg=24, reps=8, side="left"),
        DoneSet(setup=Setup(variation="band-hinge"), reps=10),
        DoneSet(drill="side-lying-clam", reps=12),
    ]
    person, _, _ = with_sets(store, sets, days=(MONDAY, MONDAY + 8))
    reference = reference_of(WOMAN)
    assert sums.work_out(store, person.id) == 5
    assert sums.work_out(store, person.id) == 0
    found = sums.sums(store, person.id, reference=reference)
    assert {s.week for s in found} == {sums.week_of(MONDAY), sums.week_of(MONDAY) + 1}
    total = sum((s.exposure for s in found if s.week == found[0].week), start=sums.Exposure())
    wanted = sums.Exposure()
    for done in sets:
        rep = None if done.setup is None else rep_loads([case_of(done, WOMAN)])[0]
        wanted += exposure_of(done, rep, reference)
    for name in ("extensor_Nms", "flexor_Nms", "hard", "near"):
        assert np.allclose(getattr(total, name), getattr(wanted, name), rtol=1e-12), name
    assert total.kg == pytest.approx(wanted.kg) and total.seconds == pytest.approx(wanted.seconds)
    assert (total.sets, total.drills) == (wanted.sets, wanted.drills) == (7, 1)


def test_sets_that_cannot_be_computed_are_named_never_zero(store):
    strange = squat().changed(setup=Setup(variation="moon-squat"))
    deep = squat().changed(setup=Setup(variation="back-squat-high-bar", settings={"shin_deg": 5}))
    person, _, _ = with_sets(store, [squat(), strange, deep])
    sums.work_out(store, person.id)
    named = {}
    for found in sums.sums(store, person.id):
        named |= found.exposure.uncounted
    assert named["moon-squat: variation unknown"] == 1
    assert len(named) == 2 and all(": " in words for words in named)
    assert entries.log_of(store, person.id)[1].setup.variation == "moon-squat"


def test_the_cache_may_be_emptied_at_any_time(store):
    person, _, _ = with_sets(store)
    sums.work_out(store, person.id)
    before = sums.sums(store, person.id)
    sums.empty_cache(store)
    assert "not worked out yet" in next(iter(sums.sums(store, person.id)[0].exposure.uncounted))
    sums.work_out(store, person.id)
    again = sums.sums(store, person.id)
    assert np.array_equal(again[0].exposure.extensor_Nms, before[0].exposure.extensor_Nms)


def test_weeks_begin_on_monday_and_there_are_as_many_as_there_are(store):
    """Trap: SQLAlchemy's true division gave 49 groups instead of 13."""
    person, _, _ = with_sets(store, [squat()], days=range(MONDAY, MONDAY + 91, 3))
    weeks = {s.week for s in sums.sums(store, person.id)}
    assert len(weeks) == 13
    for day in range(MONDAY, MONDAY + 7):
        assert sums.week_of(day) == sums.week_of(MONDAY)
        assert documents.monday_of(day) == MONDAY
    assert dt.date.fromordinal(MONDAY).weekday() == 0


def test_bench_athletes_are_taken_over_once(store):
    bench = [WOMAN, WOMAN.changed(name="Aud", height_m=1.80)]
    first = people.take_over(store, bench, [], MONDAY)
    assert people.take_over(store, bench, first, MONDAY) == first
    assert people.take_over(store, bench, [], MONDAY) == first
    assert len(people.people(store)) == 2
    changed = [bench[0].changed(mass_kg=70), bench[1]]
    assert people.differing(store, changed, first) == [0]


def test_a_bench_that_still_has_an_erased_athlete_does_not_enter_them_again(store):
    bench = [WOMAN, WOMAN.changed(name="Aud", height_m=1.80)]
    known = people.take_over(store, bench, [], MONDAY)
    erase(store, known[1], MONDAY)
    assert people.take_over(store, bench, known, MONDAY + 1) == known
    assert [p.name for p in people.people(store)] == ["Runa"]
    with pytest.raises(CaseError, match="was erased from the records"):
        people.person(store, known[1])
    # An id of other records, which nobody was erased under, is entered.
    other = people.take_over(store, bench, [known[0], 17], MONDAY + 1)
    assert other[0] == known[0] and people.person(store, other[1]).name == "Aud"


def test_names_are_found_and_who_is_not_there_is_said(store):
    with_sets(store)
    assert people.find_person(store, "Runa").name == "Runa"
    with pytest.raises(CaseError, match="known are: Runa"):
        people.find_person(store, "Nobody")


def test_pain_stays_until_a_coach_clears_it_with_initials(store):
    person, sessions, _ = with_sets(store, [squat(pains=(Pain(place="knee", score=5),))])
    entries.add_pain(
        store, person.id, sessions[0].id, MONDAY + 1, Pain(place="knee", score=4, moment="next-day")
    )
    assert [p.score for *_, p in entries.pains_of(store, person.id)] == [5, 4]
    with pytest.raises(CaseError, match="initials"):
        entries.clear_pains(store, person.id, "knee", " ", MONDAY + 5)
    assert entries.clear_pains(store, person.id, "knee", "KB", MONDAY + 5) == 2
    assert all(p.cleared_by == "KB" for *_, p in entries.pains_of(store, person.id))


def test_reads_hold_up_no_writer_and_writes_wait_for_each_other(store):
    """Trap: BEGIN IMMEDIATE for all made a forgotten read block every writer for 5 s."""
    person, sessions, _ = with_sets(store)
    with store.reading() as connection:
        connection.execute(sa.select(t.entry.c.id)).all()
        began = time.monotonic()
        entries.append(store, [entries.entry_of(squat(), person.id, sessions[0].id, MONDAY)])
        assert time.monotonic() - began < 1.0
    failed = []

    def write():
        for _ in range(30):
            try:
                made = entries.entry_of(squat(), person.id, sessions[0].id, MONDAY)
                entries.append(store, [made])
            except CaseError as error:
                failed.append(error.text)

    threads = [threading.Thread(target=write) for _ in range(2)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert not failed
    assert len(entries.log_of(store, person.id)) == 63


def test_errors_never_quote_what_was_to_be_written(store):
    """Trap: SQLAlchemy echoes bound values, which are health data."""
    _, _, own = with_sets(store)
    lost = own[0].changed(id=ids.new_id(), session=12345, note="secret knee history")
    with pytest.raises(CaseError) as refused:
        entries.append(store, [lost])
    texts = [str(refused.value), str(refused.value.__cause__)]
    assert not any("secret" in text for text in texts)
    assert store.engine.hide_parameters


def test_ids_are_unique_and_fit_63_bits():
    made = {ids.new_id() for _ in range(20_000)}
    assert len(made) == 20_000 and max(made) < 2**63 and min(made) > 0
    assert ids.new_id(0) > 0


def test_another_process_is_noticed(store, address):
    before = store.mark()
    other = open_store(address)
    people.add_person(other, WOMAN, MONDAY)
    other.close()
    assert store.mark() != before


def test_a_store_that_is_shut_off_says_so_in_words(tmp_path):
    foreign = tmp_path / "foreign.db"
    with closing(sqlite3.connect(foreign)) as other, other:
        other.execute("CREATE TABLE songs (name TEXT)")
    before = foreign.read_bytes()
    with pytest.raises(CaseError, match="something else") as refused:
        open_store(foreign)
    assert refused.value.code == "not-records" and foreign.read_bytes() == before
    text = tmp_path / "text.db"
    text.write_text("no database at all, but long enough to be looked at " * 40)
    with pytest.raises(CaseError) as refused:
        open_store(text)
    assert refused.value.code == "not-records" and text.exists()
    with pytest.raises(CaseError, match="neither a path nor postgresql"):
        open_store("mysql://somewhere/x")


def test_a_newer_schema_is_opened_for_reading_only(address):
    store = open_store(address)
    person, sessions, _ = with_sets(store)
    with store.writing() as connection:
        connection.exec_driver_sql("UPDATE alembic_version SET version_num = '0999'")
    store.close()
    newer = open_store(address)
    assert "newer version (schema 0999)" in newer.read_only
    assert len(entries.log_of(newer, person.id)) == 2
    with pytest.raises(CaseError, match="reading only") as refused:
        entries.append(newer, [entries.entry_of(squat(), person.id, sessions[0].id, MONDAY)])
    assert refused.value.code == "records-read-only"
    newer.close()


def test_no_server_is_said_within_the_time(tmp_path):
    with pytest.raises(CaseError) as refused:
        open_store(f"postgresql://zesty@/records?host={tmp_path}")
    assert refused.value.code == "records-gone"
    assert "password" not in refused.value.text


@pytest.mark.parametrize("kind", ["nfs", "nfs4", "cifs", "smb3", "fuse.sshfs"])
def test_network_shares_are_refused_by_name(kind, tmp_path):
    from zesty_lever.records.engine import refuse_share

    table = f"/dev/sda1 / ext4 rw 0 0\nserver:/share {tmp_path} {kind} rw 0 0\n"
    with pytest.raises(CaseError, match="PostgreSQL") as refused:
        refuse_share(tmp_path / "deep" / "records.db", table)
    assert refused.value.code == "records-on-a-share" and kind in refused.value.text
    refuse_share(tmp_path / "records.db", "/dev/sda1 / ext4 rw 0 0\n")


def test_neither_the_window_nor_the_command_line_starts_the_database():
    code = (
        "import sys; import zesty_lever.ui.window, zesty_lever.cli.main, zesty_lever.ui.app;"
        "heavy = {'sqlalchemy', 'alembic', 'psycopg', 'icalendar', 'scipy'};"
        "found = heavy & set(sys.modules); assert not found, found"
    )
    subprocess.run([sys.executable, "-c", code], check=True, timeout=60)


def test_the_newest_revision_is_the_last_of_the_folder():
    from zesty_lever.records.migrate import scripts

    assert scripts().get_current_head() == NEWEST


def test_a_decision_against_the_advice_is_kept_and_said(store):
    """Kept where the first set's load differs or a stop was overruled; the last one of a lift is read."""
    person, _, done = with_sets(store, [squat(item="k"), squat(item="k", number=2, load_kg=70)])
    same, other = Advice("hold", 60, ()), Advice("up", 62.5, ())
    assert keep_decisions(store, {"k": same}, done, "KB", {}) == 0
    assert keep_decisions(store, {"k": other, "j": other}, done, "KB", {"k": "two good"}) == 1
    decided = decisions_of(store, person.id)["back-squat-high-bar"]
    assert (decided.advised_kg, decided.taken_kg, decided.by) == (62.5, 60, "KB")
    assert "62.5" in decision_words(decided, MONDAY) and "60" in decision_words(decided, MONDAY)
    assert keep_decisions(store, {"k": Advice("stop", None, ())}, done, "IS", {"k": "knee 5"}) == 1
    decided = decisions_of(store, person.id)["back-squat-high-bar"]
    assert decided.advised_kg is None and "stop was advised" in decision_words(decided, MONDAY)
