"""Records in and out: JSON lines, CSV, folders, conflicts, erasing, the calendar, the commands."""

from __future__ import annotations

import csv
import gzip
import io
import json
import os
import sqlite3
import subprocess
import sys
from pathlib import Path

import icalendar
import pytest
from filled import FLAWED, MONDAY, WOMAN, one_week, squat, with_sets

from zesty_lever.__main__ import main
from zesty_lever.bench.erasing import erase_everywhere
from zesty_lever.bench.files import read_bench, write_bench
from zesty_lever.bench.model import Bench
from zesty_lever.cases.model import Setup
from zesty_lever.log.entry import DoneSet, Pain
from zesty_lever.plan.calendar import Appointment, calendar_text
from zesty_lever.problems import CaseError
from zesty_lever.records import documents, entries, keeping, people, sums
from zesty_lever.records.erased import is_erased
from zesty_lever.records.erasing import erase
from zesty_lever.records.exporting import export_csv, export_lines, export_person
from zesty_lever.records.importing import import_lines
from zesty_lever.records.journal import Journal
from zesty_lever.records.store import open_store
from zesty_lever.records.templates import save_template


def filled(store):
    person, sessions, own = with_sets(store, days=(MONDAY, MONDAY + 7))
    entries.correct(store, own[0], squat(reps=6, note='=HYPERLINK("x")'))
    entries.withdraw(store, own[3])
    entries.add_pain(store, person.id, sessions[0].id, MONDAY, Pain(place="hip", score=1))
    entries.attach(store, own[1].id, "picture", b"\x89PNG\r\n")
    documents.add_plan(store, person.id, MONDAY, one_week(), by="KB")
    save_template(store, one_week().changed(name="Base"), "KB")
    people.coach_named(store, "Kari Bakken")
    return person, own


def lines_of(store, athlete=None):
    out = io.StringIO()
    export_lines(store, out, athlete)
    return out.getvalue()


def taken(store, text, **more):
    return import_lines(store, io.BytesIO(text.encode()), **more)


def test_out_and_in_again_is_the_same(store, tmp_path):
    filled(store)
    text = lines_of(store)
    other = open_store(tmp_path / "other.db")
    dry = taken(other, text, dry_run=True)
    assert not people.people(other) and dry.added["athlete"] == 1
    report = taken(other, text)
    assert not report.refused and not report.conflicts
    again = lines_of(other)
    assert sorted(text.splitlines()[1:]) == sorted(again.splitlines()[1:])
    twice = taken(other, text)
    assert not twice.added and twice.same == len(text.splitlines()) - 1
    for who in people.people(other):
        assert len(entries.log_of(other, who.id)) == 3
    other.close()


def test_what_differs_is_a_conflict_and_nothing_is_overwritten(store):
    person, own = filled(store)
    lines = [json.loads(x) for x in lines_of(store).splitlines()]
    for line in lines:
        if line.get("kind") == "athlete":
            line["note"] = "theirs"
        if line.get("kind") == "entry" and line["id"] == str(own[1].id):
            line["reps"] = 99
    report = taken(store, "\n".join(map(json.dumps, lines)))
    assert len(report.conflicts) == 2 and "nothing was overwritten" in report.words
    assert people.person(store, person.id).note == ""
    assert 99 not in [e.reps for e in entries.log_of(store, replaced=True)]


def test_a_second_correction_of_one_set_is_a_conflict(store, tmp_path):
    filled(store)
    text = lines_of(store)
    other = open_store(tmp_path / "other.db")
    corrected = [x for x in text.splitlines() if '"replaces"' in x]
    base = "\n".join(x for x in text.splitlines() if '"replaces"' not in x)
    taken(other, base)
    first = json.loads(corrected[0])
    mine = next(e for e in entries.log_of(other) if str(e.id) == first["replaces"])
    entries.correct(other, mine, squat(reps=2))
    report = taken(other, text)
    assert any("corrected otherwise already" in words for words in report.conflicts)
    other.close()


def test_unknown_words_are_kept_as_text_and_not_counted(store):
    person, _ = filled(store)
    header, *rest = lines_of(store).splitlines()
    line = next(json.loads(x) for x in rest if '"kind":"entry"' in x and "replaces" not in x)
    line |= {"id": "123456789", "style": "pyramid", "number": 9}
    report = taken(store, header + "\n" + json.dumps(line))
    assert report.added == {"sets": 1}
    kept = next(e for e in entries.log_of(store, person.id) if e.number == 9)
    assert kept.style == "pyramid" and "not known to this version" in kept.uncounted
    sums.work_out(store, person.id)
    named = {w for s in sums.sums(store, person.id) for w in s.exposure.uncounted}
    assert any("pyramid" in words for words in named)
    assert '"style":"pyramid"' in lines_of(store)


@pytest.mark.parametrize(
    ("line", "words"),
    [
        ("{broken", "can't be read"),
        ('{"kind": "poem"}', "known are: athlete"),
        ('{"kind": "entry", "id": "x"}', "allowed is an id"),
        ('{"kind": "entry", "id": "5", "athlete": "7", "session": "8"}', "missing"),
        ('{"kind": "athlete", "id": "9", "shoe": 3}', "no key of a line"),
        ('{"kind": "athlete", "id": "9", "name": "x"}', "is missing"),
        ("[1, 2]", "known are"),
    ],
)
def test_a_bad_line_is_named_and_the_rest_goes_on(tmp_path, line, words):
    store = open_store(tmp_path / "records.db")
    filled(store)
    header, *rest = lines_of(store).splitlines()
    other = open_store(tmp_path / "other.db")
    report = taken(other, "\n".join([header, line, *rest]))
    assert len(report.refused) == 1
    assert report.refused[0].startswith("line 2: ") and words in report.refused[0]
    assert len(people.people(other)) == 1
    store.close()
    other.close()


def test_what_is_no_log_is_refused_whole(tmp_path):
    store = open_store(tmp_path / "records.db")
    with pytest.raises(CaseError, match="no log"):
        taken(store, '{"format": "something"}\n')
    with pytest.raises(CaseError, match="newer version") as refused:
        taken(store, '{"format": "zesty-lever-log/2"}\n')
    assert refused.value.code == "newer-version"
    with pytest.raises(CaseError, match="no log"):
        taken(store, "\x00\x01\n")
    store.close()


def test_a_table_s_cells_are_never_run_by_a_spreadsheet(store):
    filled(store)
    out = io.StringIO()
    count = export_csv(store, out)
    rows = list(csv.DictReader(io.StringIO(out.getvalue())))
    assert len(rows) == count == 6
    note = next(r["note"] for r in rows if "HYPERLINK" in r["note"])
    assert not note.startswith("=")
    assert {r["corrected"] for r in rows} == {"", "replaced", "withdrawn"}
    assert "hips-rise-first (flag)" in {r["faults"] for r in rows}


def test_a_person_s_folder_holds_all_that_is_theirs(store, tmp_path):
    person, _ = filled(store)
    with_sets(store, name="Somebody else")
    made = export_person(store, person.id, tmp_path / "out")
    assert [p.suffix for p in made] == [".jsonl", ".csv", ".png"]
    assert made[2].read_bytes() == b"\x89PNG\r\n"
    assert "Somebody else" not in made[0].read_text() + made[1].read_text()


def test_an_erased_person_does_not_come_back_with_an_old_import(store):
    person, _ = filled(store)
    text = lines_of(store)
    erase(store, person.id, MONDAY + 30)
    assert not people.people(store) and is_erased(store, person.id)
    report = taken(store, text)
    assert report.refused and all(
        "erased on request" in w or "neither" in w for w in report.refused
    )
    assert not people.people(store) and not entries.log_of(store)


def test_after_erasing_no_file_of_ours_holds_a_byte_of_the_name(tmp_path):
    name = "Zyxwvut Qponml"
    folder = tmp_path / "data"
    folder.mkdir()
    store = open_store(folder / "records.db")
    marked = [s.changed(note=f"{name} said so") for s in (squat(), FLAWED)] * 40
    person, _, own = with_sets(store, marked, name=name)
    keeping.backup(store.path)
    bench = Bench(
        athletes=(WOMAN, WOMAN.changed(name=name)),
        current=1,
        setups=(Setup(variation="front-squat"),) * 2,
        athlete_ids=("", str(person.id)),
    )
    write_bench(bench, folder / "bench.json")
    (folder / "backups" / "bench-n000001-20260901-120000.json").write_text(
        (folder / "bench.json").read_text()
    )
    measured = folder / "measurements" / "20260901-squat"
    measured.mkdir(parents=True)
    (measured / "marks.json").write_text(json.dumps({"athlete": {"name": name}}))
    Journal(folder / "running.jsonl").add(own[0])
    memory = folder / "window.json"
    memory.write_text(json.dumps({"recent": [f"/x/{name.lower()} squat.json", "/x/other.json"]}))

    def holding():
        return [
            str(path.relative_to(folder))
            for path in folder.rglob("*")
            if path.is_file() and name.encode().lower() in path.read_bytes().lower()
        ]

    assert len(holding()) >= 6
    reader = sqlite3.connect(store.path)
    reader.execute("BEGIN")
    reader.execute("SELECT count(*) FROM entry").fetchone()
    with pytest.raises(CaseError, match="close it and erase again"):
        erase_everywhere(store, person, MONDAY, folder, memory, tried_for_s=0.3)
    reader.rollback()
    reader.close()
    beyond = erase_everywhere(store, person, MONDAY, folder, memory)
    assert any("handed out" in words for words in beyond)
    assert holding() == []
    assert [a.name for a in read_bench(folder / "bench.json").athletes] == ["Runa"]
    assert json.loads(memory.read_text())["recent"] == ["/x/other.json"]
    store.close()
    assert holding() == []


# --- the calendar ----------------------------------------------------------------------------


def test_the_calendar_is_read_by_an_independent_reader_without_errors():
    odd = "Squat; heavy, \\ back\nnext line ÆØÅ " + "long " * 30
    one = Appointment(12345, MONDAY, odd, 75, "planned", ("Hip thrust", "Split, squat"), 3, 10**12)
    gone = Appointment(12346, MONDAY + 2, "Missed", 60, "missed", (), 1, 10**12)
    text = calendar_text([one, gone], "Training Runa")
    assert all(len(line.encode()) <= 75 for line in text.split("\r\n"))
    assert "\n" not in text.replace("\r\n", "")
    read = icalendar.Calendar.from_ical(text)
    assert not read.errors
    first, second = read.walk("VEVENT")
    assert not first.errors and str(first["SUMMARY"]) == odd.replace("\r", "")
    assert str(first["DESCRIPTION"]) == "Hip thrust\nSplit, squat"
    assert first["UID"] == "session-12345@zesty-lever" and int(first["SEQUENCE"]) == 2
    begins = first["DTSTART"].dt
    assert begins.tzinfo is None and (begins.hour, begins.toordinal()) == (17, MONDAY)
    assert str(second["STATUS"]) == "CANCELLED"


# --- the commands ----------------------------------------------------------------------------


@pytest.fixture
def own(tmp_path, monkeypatch):
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path / "share"))
    monkeypatch.setenv("XDG_CONFIG_HOME", str(tmp_path / "config"))
    path = tmp_path / "share" / "zesty-lever" / "records.db"
    store = open_store(path)
    person, _ = filled(store)
    store.close()
    return path, person


def test_the_log_s_commands_from_export_to_erase(own, tmp_path, capsys):
    path, person = own
    out = tmp_path / "log.jsonl.gz"
    assert main(["log", "export", "--out", str(out)]) == 0
    with gzip.open(out, "rt") as lines:
        assert lines.readline().startswith('{"format":"zesty-lever-log/1"')
    table = tmp_path / "log.csv"
    week = ["--from", "2026-09-07", "--to", "2026-09-13"]
    assert (
        main(["log", "export", "--athlete", "Runa", *week, "--kind", "csv", "--out", str(table)])
        == 0
    )
    assert len(table.read_text().splitlines()) == 4
    other = ["--store", str(tmp_path / "other.db")]
    assert main(["log", "import", str(out), "--dry-run", *other]) == 0
    assert "would be added: 1 athlete" in capsys.readouterr().out
    assert main(["log", "import", str(out), *other]) == 0
    assert main(["log", "check", *other]) == 0
    assert "schema 0002" in capsys.readouterr().out
    assert main(["log", "backup"]) == 0
    made = Path(capsys.readouterr().out.strip())
    assert made.exists()
    assert main(["log", "restore"]) == 0 and made.name in capsys.readouterr().out
    assert main(["log", "restore", made.name]) == 0
    assert main(["log", "erase", "Runa"]) == 2
    assert main(["log", "erase", str(person.id), "--yes"]) == 0
    assert "Out of reach" in capsys.readouterr().out
    assert main(["log", "export", "--athlete", "Runa", "--out", str(table)]) == 1
    assert main(["log", "import", str(out)]) == 1
    assert "erased on request" in capsys.readouterr().err
    assert path.exists()


@pytest.mark.parametrize(
    ("given", "status", "words"),
    [
        (
            ["log", "export", "--out", "x", "--from", "2026-09-13", "--to", "2026-09-07"],
            1,
            "before",
        ),
        (["log", "export", "--out", "x", "--from", "soon"], 1, "allowed is a day"),
        (["log", "export", "--out", "x", "--athlete", "Nobody"], 1, "known are: Runa"),
        (["log", "export", "--kind", "folder", "--out", "x"], 2, "needs --athlete"),
        (["log", "check", "--store", "mysql://x"], 2, "neither a path nor"),
        (["log", "check", "--store", "/proc/nothing/records.db"], 2, ""),
        (["exposure", "--weeks", "0"], 2, "1 to 520"),
        (["log", "restore", "nothing.db"], 2, "no backup nothing.db"),
    ],
)
def test_bad_use_of_the_log_is_named(own, capsys, monkeypatch, tmp_path, given, status, words):
    monkeypatch.chdir(tmp_path)
    assert main(given) == status
    assert words in capsys.readouterr().err


def test_exposure_is_told_by_joint_direction_and_side(own, capsys, monkeypatch, tmp_path):
    monkeypatch.setattr("zesty_lever.clock.today", lambda: MONDAY + 9)
    table = tmp_path / "e.csv"
    for by, rows in (("joint", 3), ("direction", 3), ("side", 5)):
        assert main(["exposure", "--athlete", "Runa", "--by", by, "--csv", str(table)]) == 0
        told = capsys.readouterr().out.splitlines()
        assert len(told) == 1 + 2 * rows
        assert table.read_text().splitlines()[0].startswith("athlete,week of,of,extensors_Nms")
    assert "lower back" in told[-1] and "2026-09-14" in told[-1]


def test_a_week_is_built_and_a_calendar_written_from_the_command_line(own, capsys, tmp_path):
    wish = tmp_path / "wish.json"
    days = [{"weekday": 0}, {"weekday": 3}]
    who = {"height_m": 1.7, "mass_kg": 70, "sex": "female"}
    kit = ["two dumbbells", "mat", "bench", "kettlebell", "dumbbell"]
    data = {"format": "zesty-lever-wish/1", "athlete": who, "days": days, "equipment": kit}
    wish.write_text(json.dumps(data))
    out = tmp_path / "plan.json"
    assert main(["plan", "build", str(wish), "--out", str(out)]) == 0
    told = capsys.readouterr().out
    assert "Monday: " in told and "not met: a bar on the back" in told
    assert json.loads(out.read_text())["format"] == "zesty-lever-plan/1"
    wish.write_text(json.dumps(data | {"days": []}))
    assert main(["plan", "build", str(wish), "--out", str(out)]) == 1
    calendar = tmp_path / "plan.ics"
    assert main(["plan", "calendar", "--athlete", "Runa", "--out", str(calendar)]) == 0
    events = icalendar.Calendar.from_ical(calendar.read_bytes()).walk("VEVENT")
    assert len(events) == 6
    text = calendar.read_text()
    assert not any(word in text for word in ("kg", "pain", "hips-rise", "knee"))


def test_schemas_of_plan_and_log_are_printed(capsys):
    for which in ("plan", "log"):
        assert main(["schema", which]) == 0
        assert json.loads(capsys.readouterr().out)["$defs"]


def test_a_machine_without_the_extra_says_what_to_install(tmp_path):
    code = (
        "import sys; sys.modules['psycopg'] = None; from zesty_lever.__main__ import main;"
        "sys.exit(main(['log', 'check', '--store', 'postgresql://x/y']))"
    )
    run = subprocess.run(
        [sys.executable, "-c", code], capture_output=True, text=True, env=os.environ, check=False
    )
    assert run.returncode == 2 and "zesty-lever[staff]" in run.stderr


def test_drills_are_counted_in_the_table(store):
    person, _, _ = with_sets(store, [DoneSet(drill="side-lying-clam", reps=12), squat()])
    sums.work_out(store, person.id)
    found = sum((s.exposure for s in sums.sums(store, person.id)), start=sums.Exposure())
    assert (found.drills, found.sets) == (1, 1)
