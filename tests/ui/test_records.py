"""Roster, plan, run, log and handout: a coach's week by real mouse and keys, on the demonstration's log."""

from __future__ import annotations

import json
import subprocess
import sys
import threading
import time

import pytest
from hands import click, settle
from PySide6.QtCore import QPointF, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QLineEdit, QPushButton

from zesty_lever.bench import edits as bench_edits
from zesty_lever.bench.files import read_bench
from zesty_lever.choosing.shortlist import RuledOut
from zesty_lever.log.entry import Pain
from zesty_lever.plan.document import read_plan_file
from zesty_lever.records import documents, entries, people
from zesty_lever.records.journal import Journal
from zesty_lever.records.store import open_store
from zesty_lever.tables import data_path
from zesty_lever.ui import app as application
from zesty_lever.ui.memory import WindowMemory
from zesty_lever.ui.session import Session
from zesty_lever.ui.window import Window

Key, NONE, CTRL, ALT = (
    Qt.Key,
    Qt.KeyboardModifier.NoModifier,
    Qt.KeyboardModifier.ControlModifier,
    Qt.KeyboardModifier.AltModifier,
)


def window_on(qtbot, folder, *, demo):
    application.application()
    own = folder / "bench.json"
    if not own.exists():
        own.write_bytes(data_path("demo", "bench.json").read_bytes())
    memory = WindowMemory(folder / "window.json")
    memory.keep(cautions_seen=True)
    session = Session(read_bench(own), own)
    session.demo = demo
    made = Window(session, memory, "Zesty Lever")
    qtbot.addWidget(made)
    made.resize(1280, 800)
    made.show()
    qtbot.waitExposed(made)
    return made


@pytest.fixture
def team(qtbot, tmp_path):
    made = window_on(qtbot, tmp_path, demo=True)
    yield made
    made.session.close_register()


def roster_of(window):
    window.show_screen("Roster")
    screen = window.screen_named("Roster")
    settle(window, lambda: bool(screen.rows) and not screen.waiting.busy)
    return screen


def plan_of(window):
    window.show_screen("Plan")
    screen = window.screen_named("Plan")
    settle(window, lambda: screen.desk.view is not None and not screen.waiting.busy)
    return screen


def log_of(window):
    window.show_screen("Log")
    screen = window.screen_named("Log")
    settle(window, lambda: screen.view is not None and not screen.waiting.busy)
    return screen


def keys(widget, *pressed, modifier=NONE):
    for key in pressed:
        QTest.keyClick(widget, key, modifier)
    QApplication.processEvents()


def test_a_coach_s_week_from_building_it_to_next_week_s_advice(team, tmp_path):
    """Build, look, move, start, confirm by keys, finish, correct, read the advice."""
    plan = plan_of(team)
    click(plan, "Build a week …")
    form = plan.build_form
    assert form.isVisible()
    form.weeks.setValue(2)
    for day, check in enumerate(form.days):
        check.setChecked(day == team.session.register.today() % 7 - 1 or day in (0, 2))
    today = (team.session.register.today() - 1) % 7
    form.days[today].setChecked(True)
    click(form, "Build it")
    settle(team, lambda: plan.desk.plan.name == "Built week" and not plan.waiting.busy)
    assert len(plan.desk.plan.weeks) == 2
    chosen = plan.desk.chosen
    assert chosen is not None and any(i.why for _, i in chosen.listed())
    settle(team, lambda: plan.side.predicted.week.sets > 0)
    assert "\N{CHECK MARK}" in plan.side.rules.text()
    change_and_undo(team, plan, chosen)
    today_s = next(s.key for w, s in plan.desk.plan.sessions() if w == 0 and s.weekday == today)
    run, count = run_through(team, plan, today_s)
    keys(run.face, Key.Key_7, Key.Key_Return)
    log = team.screen_named("Log")
    settle(
        team,
        lambda: (
            log.view is not None
            and any(r.rating == 7 and r.day == log.view.today for r in log.rows)
        ),
    )
    settle(team, lambda: log.table.rowCount() == count)
    assert log.row.state == "done"
    correct_one(team, log)
    # Next week's advice rests on it.
    settle(team, lambda: bool(log.next.advised))
    assert all(a.says for a in log.next.advised.values())
    assert not Journal(tmp_path / "running.jsonl").waiting()


def change_and_undo(team, plan, chosen):
    """A dose changed by keys, and undone."""
    lift = next(i for _, i in chosen.listed() if i.setup is not None)
    row = next(
        at
        for at in range(plan.items.count())
        if plan.items.item(at).data(Qt.ItemDataRole.UserRole) == lift.key
    )
    plan.items.setCurrentRow(row)
    sets = plan.form.sets.value()
    plan.form.sets.setFocus()
    keys(plan.form.sets, Key.Key_Up)
    assert plan.desk.chosen.item(lift.key)[1].sets == sets + 1
    keys(team, Key.Key_Z, modifier=CTRL)
    assert plan.desk.chosen.item(lift.key)[1].sets == sets


def run_through(team, plan, day_key):
    """Start the session of today and confirm every set with one key."""
    plan.desk.choose(day_key)
    settle(team, lambda: plan.desk.state_of(day_key) is not None)
    click(plan, "Start (Ctrl+G)")
    run = team.screen_named("Run")
    settle(team, lambda: run.runs.now is not None)
    keys(run.face, Key.Key_Space)
    for _ in range(200):
        if run.runs.run is None or run.runs.run.over:
            break
        keys(run.face, Key.Key_Space)
    assert run.runs.run.over
    return run, len(run.runs.run.done)


def correct_one(team, log):
    """One set was really one repetition less: corrected, the old one visible."""
    at = next(i for i, e in enumerate(log.table.entries) if e.setup is not None and e.reps > 4)
    log.table.selectRow(at)
    was = log.table.picked
    log.form.reps.setValue(was.reps - 1)
    click(log.form, "Keep")

    def seen():
        cells = [log.table.item(row, 4) for row in range(log.table.rowCount())]
        return any(f"was {was.reps}" in cell.text() for cell in cells if cell is not None)

    settle(team, seen)


def test_the_roster_says_who_needs_attention_first_and_clears_a_stop(team):
    roster = roster_of(team)
    first = roster.rows[0]
    assert first.person.name == "Torvald Brekk" and first.attention[0].startswith("Stop: knee")
    settle(team, lambda: roster.rows[0].against["hip"].ratio is not None)
    roster.table.selectRow(0)
    QApplication.processEvents()
    initials = next(
        e for e in roster.person.findChildren(QLineEdit) if "Initials" in e.accessibleName()
    )
    click(roster.person, "Cleared")
    settle(team, lambda: "initials" in roster.said.text())
    initials = next(
        e
        for e in roster.person.findChildren(QLineEdit)
        if "Initials" in e.accessibleName() and e.isVisible()
    )
    QTest.keyClicks(initials, "KB")
    keys(initials, Key.Key_Return)
    settle(team, lambda: not roster.rows[0].stops)
    assert all(not row.stops for row in roster.rows)


def test_search_away_stage_and_note(team):
    roster = roster_of(team)
    QTest.keyClicks(roster.search, "liv")
    assert [r.person.name for r in roster.table.rows] == ["Liv Hestad"]
    roster.person.away.click()
    settle(team, lambda: any(r.person.away for r in roster.rows))
    roster.search.clear()
    assert "Liv Hestad" not in [r.person.name for r in roster.table.rows]
    roster.away.click()
    assert roster.table.rows[-1].person.name == "Liv Hestad"
    # On the bench, though only the records knew her.
    roster.table.selectRow(len(roster.table.rows) - 1)
    click(roster.person, "On the bench")
    assert team.session.bench.athlete.name == "Liv Hestad"
    assert team.session.bench.record_ids[-1] == roster.table.rows[-1].person.id


def test_a_difference_between_bench_and_records_is_settled_by_one_press(team):
    roster = roster_of(team)
    team.session.do(bench_edits.change_athlete, "Set body mass", mass_kg=66.0)
    roster.ask()
    oda = team.session.register.person_id
    settle(team, lambda: oda in roster.differing)
    at = next(i for i, r in enumerate(roster.table.rows) if r.person.id == oda)
    roster.table.clearSelection()
    roster.table.selectRow(at)
    click(roster.person, "Take the bench's")
    settle(team, lambda: oda not in roster.differing)
    assert next(r for r in roster.rows if r.person.id == oda).person.body.mass_kg == 66.0


def test_erasing_needs_the_typed_name_and_takes_the_person_off_the_bench(team, tmp_path):
    roster = roster_of(team)
    at = next(i for i, r in enumerate(roster.table.rows) if r.person.name == "Torvald Brekk")
    roster.table.selectRow(at)
    assert not roster.person.erase.isEnabled()
    QTest.keyClicks(roster.person.typed, "Torvald Brekk")
    click(roster.person, "Erase for good")
    settle(team, lambda: all(r.person.name != "Torvald Brekk" for r in roster.rows))
    assert [a.name for a in team.session.bench.athletes] == ["Oda Fenwick"]
    settle(team, lambda: "Out of reach" in team.message.text())
    team.session.close_register()
    held = [p.name for p in tmp_path.rglob("*") if p.is_file() and b"Torvald" in p.read_bytes()]
    assert held == []


def test_who_was_erased_is_not_entered_again_by_a_question_that_still_knows_the_old_bench(team):
    roster = roster_of(team)
    at = next(i for i, r in enumerate(roster.table.rows) if r.person.name == "Torvald Brekk")
    roster.table.selectRow(at)
    erased = roster.person.row.person.id
    begin = threading.Event()
    team.session.jobs.ask("held", lambda _tell: begin.wait())
    QTest.keyClicks(roster.person.typed, "Torvald Brekk")
    click(roster.person, "Erase for good")
    # Asked before the window hears that he is gone, and an autosave of the bench with him in between.
    asked = []
    question = team.session.register.question(lambda store, _tell: asked.append(store))
    team.session.jobs.ask("records-other", question)
    begin.set()
    end = time.monotonic() + 30
    while not asked and time.monotonic() < end:
        time.sleep(0.01)  # no events: the window is still the old one
    team.session.save()
    assert "Torvald Brekk" not in [p.name for p in people.people(asked[0])]
    settle(team, lambda: [a.name for a in team.session.bench.athletes] == ["Oda Fenwick"])
    settle(team, lambda: len(roster.rows) > 1 and all(r.person.id != erased for r in roster.rows))
    assert "Torvald Brekk" not in [r.person.name for r in roster.rows]


def test_sessions_move_on_the_board_by_mouse_and_by_keys(team):
    plan = plan_of(team)
    key = plan.desk.key
    week, day = plan.desk.week, plan.desk.chosen.weekday
    plan.board.setFocus()
    keys(plan.board, Key.Key_Right, modifier=ALT)
    assert plan.desk.chosen.weekday == day + 1
    place = next(r for k, r, *_ in plan.board.slips() if k == key)
    start = place.center().toPoint()
    target = plan.board._cell(week, 5).center().toPoint()
    QTest.mousePress(plan.board, Qt.MouseButton.LeftButton, pos=start)
    for share in (0.3, 0.7, 1.0):
        QTest.mouseMove(plan.board, (QPointF(start) + share * QPointF(target - start)).toPoint())
    QTest.mouseRelease(plan.board, Qt.MouseButton.LeftButton, pos=target)
    assert plan.desk.chosen.weekday == 5
    settle(team, lambda: plan.desk.row.plan == plan.desk.plan)
    keys(team, Key.Key_Z, modifier=CTRL)
    assert plan.desk.chosen.weekday == day + 1


def test_lifts_and_drills_are_added_by_typing_and_taken_away(team):
    plan = plan_of(team)
    before = len(list(plan.desk.chosen.listed()))
    line = plan.pick.lineEdit()
    line.setFocus()
    QTest.keyClicks(line, "belt squat")
    keys(line, Key.Key_Return)
    QTest.keyClicks(line, "front plank")
    keys(line, Key.Key_Return)
    names = [i.name for _, i in plan.desk.chosen.listed()]
    assert len(names) == before + 2 and {"belt-squat", "front-plank"} <= set(names)
    row = next(
        at
        for at in range(plan.items.count())
        if plan.items.item(at).text().startswith("Belt squat")
    )
    plan.items.setCurrentRow(row)
    keys(plan.items, Key.Key_Delete)
    assert "belt-squat" not in [i.name for _, i in plan.desk.chosen.listed()]


def test_templates_files_and_the_calendar(team, tmp_path):
    plan = plan_of(team)
    plan.papers.save(tmp_path / "plan.json")
    assert read_plan_file(tmp_path / "plan.json").weeks
    plan.papers.save_calendar(tmp_path / "plan.ics")
    settle(team, (tmp_path / "plan.ics").exists)
    (tmp_path / "newer.json").write_text('{"format": "zesty-lever-plan/7", "weeks": []}')
    plan.papers.import_plan(tmp_path / "newer.json")
    assert "newer version" in team.message.text()
    template = next(t for t in plan.desk.view.templates if t.plan.name == "First winter")
    plan.desk.start_template(template.id)
    settle(team, lambda: plan.desk.plan.name == "First winter")
    assert plan.desk.plan.origin.template == "First winter"
    plan.papers.import_plan(tmp_path / "plan.json")
    settle(team, lambda: plan.desk.plan.name == "Winter strength")


def test_two_windows_on_one_store_the_loser_sees_the_choice(team, tmp_path):
    plan = plan_of(team)
    theirs = plan.desk.row
    code = (
        "import sys; from zesty_lever.records.store import open_store;"
        "from zesty_lever.records.documents import plan_row, save_plan;"
        "store = open_store(sys.argv[1]); row = plan_row(store, int(sys.argv[2]));"
        "save_plan(store, row, row.plan.changed(name='Theirs'), by='IS')"
    )
    # Another process writes first.
    given = [sys.executable, "-c", code, str(tmp_path / "records.db"), str(theirs.id)]
    subprocess.run(given, check=True, timeout=60)
    other = open_store(tmp_path / "records.db")
    plan.desk.do("Rename plan", lambda p: p.changed(name="Mine"))
    settle(team, plan.conflict.isVisible)
    assert "IS changed this at" in plan.conflict.told.text()
    assert documents.plan_row(other, theirs.id).plan.name == "Theirs"
    click(plan.conflict, "Keep mine as a copy")
    settle(
        team,
        lambda: any(p.plan.name == "Mine, mine" for p in documents.plans_of(other, theirs.athlete)),
    )
    assert documents.plan_row(other, theirs.id).plan.name == "Theirs"
    # Others' changes are noticed while the window is looked at.
    person = people.person(other, theirs.athlete)
    people.change_person(other, person, "IS", note="seen from elsewhere")
    roster = roster_of(team)
    settle(team, lambda: any(r.person.note == "seen from elsewhere" for r in roster.rows))
    other.close()


def run_of(window):
    plan = plan_of(window)
    click(plan, "Start (Ctrl+G)")
    run = window.screen_named("Run")
    settle(window, lambda: run.runs.now is not None)
    return run


def to_a_lift(run):
    keys(run.face, Key.Key_Space)
    for _ in range(60):
        step = run.runs.run.step
        if step.kind == "work" and step.item.setup is not None:
            return step
        keys(run.face, Key.Key_Space)
    raise AssertionError("no lift in this session")


def test_the_runner_s_keys_do_what_the_sheet_says(team, tmp_path):
    run = run_of(team)
    to_a_lift(run)
    draft = run.runs.run.draft
    keys(run.face, Key.Key_Up, Key.Key_Right, Key.Key_3, Key.Key_S)
    now = run.runs.run.draft
    assert (now.reps, now.effort_left, now.side) == (draft.reps + 1, 3.0, "left")
    assert now.load_kg in run.runs.loads_kg() and now.load_kg > draft.load_kg
    keys(run.face, Key.Key_F)
    assert run.more.isVisible() and run.more.form.fault.hasFocus()
    run.more.form.fault.setCurrentIndex(run.more.form.fault.findText("hips rise first"))
    run.more.form.flag.setChecked(True)
    run.more.form.tempo.setText("3 1 1 0")
    keys(run.more.form.note, Key.Key_Return)
    assert not run.more.isVisible()
    assert run.runs.run.draft.flagged == ("hips-rise-first",)
    assert run.runs.run.draft.tempo_s == (3.0, 1.0, 1.0, 0.0)
    keys(run.face, Key.Key_Return)
    assert run.runs.run.step.kind == "rest"
    shown = run.runs.run.countdown.length_s
    keys(run.face, Key.Key_R)
    assert run.runs.run.countdown.length_s == shown + 15.0
    keys(run.face, Key.Key_B, Key.Key_Down, Key.Key_Return)
    done = [e for e in run.runs.run.done if e.item == now.item]
    assert len(done) == 1 and done[0].reps == now.reps - 1 and done[0].replaces is not None
    keys(run.face, Key.Key_Escape)
    assert team.screens.currentWidget() is team.screen_named("Plan")
    store = team.session.register.store
    settle(
        team,
        lambda: (
            [
                e.reps
                for e in entries.log_of(store, session=run.runs.now.row.id)
                if e.item == now.item
            ]
            == [now.reps - 1]
        ),
    )


def test_a_confirmed_set_survives_a_store_that_takes_nothing(team, tmp_path):
    run = run_of(team)
    to_a_lift(run)
    settle(team, lambda: not Journal(tmp_path / "running.jsonl").waiting())
    store = team.session.register.store
    store.read_only = "the records can't be written"
    keys(run.face, Key.Key_Return)
    settle(team, lambda: "wait in the journal" in run.said.text())
    waiting = Journal(tmp_path / "running.jsonl").waiting()
    assert len(waiting) == 1
    store.read_only = ""
    team.session.register.replay()
    settle(team, lambda: not Journal(tmp_path / "running.jsonl").waiting())
    settle(team, lambda: not run.said.isVisible())
    assert waiting[0].id in {e.id for e in entries.log_of(store, session=run.runs.now.row.id)}


def test_a_session_goes_on_where_it_stopped_in_another_window(qtbot, tmp_path):
    first = window_on(qtbot, tmp_path, demo=True)
    run = run_of(first)
    step = to_a_lift(run)
    keys(run.face, Key.Key_Return)
    settle(first, lambda: not Journal(tmp_path / "running.jsonl").waiting())
    session_id = run.runs.now.row.id
    first.session.close_register()
    first.hide()
    second = window_on(qtbot, tmp_path, demo=True)
    second.session.register.wanted_session = session_id
    again = second.screen_named("Run")
    settle(second, lambda: again.runs.now is not None)
    assert again.runs.run.step.kind == "rest" and again.runs.run.step.item.key == step.item.key
    assert (
        0 < again.runs.run.countdown.left_s(again.runs.clock()) <= again.runs.run.countdown.length_s
    )
    second.session.close_register()


def test_pain_in_the_middle_of_a_session_stops_the_lift_there_and_then(team):
    run = run_of(team)
    to_a_lift(run)
    keys(run.face, Key.Key_Return)
    keys(run.face, Key.Key_N)
    assert run.pain.isVisible()
    run.pain.place.setCurrentText("knee")
    run.pain.score.setCurrentIndex(6)
    click(run.pain, "Keep")
    settle(team, lambda: any(a.action == "stop" for a in run.runs.now.advised.values()))
    log = log_of(team)
    told = Pain(place="knee", score=6, moment="during")
    settle(team, lambda: any(pain == told for _, pain in log.view.pains))


def test_two_athletes_run_at_once_and_one_key_changes_between_them(team):
    run = run_of(team)
    first = run.runs.now.name
    team.session.do(bench_edits.switch_athlete, 1)
    run.register.wanted_session = None
    run.waiting.ask(run.runs.question(None))
    settle(team, lambda: len(run.runs.all) == 2)
    assert run.runs.now.name != first and "(2 of 2, W)" in run.who.text()
    team.show_screen("Run")
    keys(run.face, Key.Key_W)
    assert run.runs.now.name == first


def test_a_finished_session_is_typed_in_afterwards(team):
    log = log_of(team)
    log.setFocus()
    click(log, "Type in a session")
    settle(team, lambda: log.rows[0].session.name == "Typed in" and not log.waiting.busy)
    log.list.setCurrentRow(0)
    log.what.setCurrentIndex(log.what.findData("hip-thrust"))
    click(log, "Add a set")
    log.form.reps.setValue(8)
    log.form.part.setFocus()
    keys(log.form.part, Key.Key_Down, Key.Key_Down)
    click(log.form, "Keep")
    settle(team, lambda: log.table.rowCount() == 1)
    assert log.table.item(0, 0).text() == "Hip thrust"
    assert log.table.entries[0].quarters == 2
    assert log.table.item(0, 2).text().startswith("8 and 1/2")
    log.table.selectRow(0)
    click(log, "Take back")
    settle(team, lambda: log.table.rowCount() == 0)


def test_pain_since_a_session_stops_the_lift_until_it_is_cleared(team):
    log = log_of(team)
    click(log, "Pain since …")
    log.pain.moment.setCurrentIndex(1)
    log.pain.place.setCurrentText("knee")
    log.pain.score.setCurrentIndex(5)
    click(log.pain, "Keep")
    settle(
        team,
        lambda: any(p == Pain(place="knee", score=5, moment="next-day") for _, p in log.view.pains),
    )
    settle(team, lambda: any(a.action == "stop" for a in log.next.advised.values()))
    assert all(a.places == ("knee",) for a in log.next.advised.values() if a.action == "stop")
    click(log.next, "What instead?")
    assert team.rail.name == "Shortlist"
    spared = team.screen_named("Shortlist")
    assert spared.mode.currentText() == "Substitutes for A"
    stopped = team.session.bench.setups[0].variation
    assert spared.lift.currentData() == stopped
    assert 0 < spared.ceilings["knee"].value() <= 60 and spared.ceilings["hip"].value() == 0
    settle(team, lambda: spared.options and not spared.waiting.busy)
    asked = team.session.results[0].sizes["knee"]
    loads = [o.peaks["knee"] for o in spared.options if not isinstance(o, RuledOut)]
    assert loads and max(loads) < asked
    assert all(o.variation != stopped for o in spared.options)


def test_a_measured_rep_counts_for_its_set_and_stays_with_it(team, tmp_path):
    log = log_of(team)
    squat_day = (r.state == "done" and r.session.name == "Squat day" for r in log.rows)
    log.list.setCurrentRow(list(squat_day).index(True))
    at = next(i for i, e in enumerate(log.table.entries) if e.name == "back-squat-high-bar")
    log.table.selectRow(at)
    was = log.table.picked
    case = {
        "format": "zesty-lever-case/1",
        "athlete": {"height_m": 1.69, "mass_kg": 64, "sex": "female"},
        "variation": "back-squat-high-bar",
        "settings": {"shin_deg": 27.5},
    }
    folder = tmp_path / "measurements" / "20261120-squat"
    folder.mkdir(parents=True)
    faults = [{"code": "hips-rise-first", "severity": "flag"}, {"code": "unknown"}]
    (folder / "motion.json").write_text(json.dumps({"measured_case": case, "findings": faults}))
    log.measured.take("20261120-squat")

    def seen():
        own = [e for e in log.table.entries if (e.item, e.number) == (was.item, was.number)]
        return own and own[0].setup.settings.get("shin_deg") == 27.5

    settle(team, seen)
    now = next(e for e in log.table.entries if e.setup and e.setup.settings.get("shin_deg") == 27.5)
    assert now.flagged == ("hips-rise-first",) and now.case_hash != was.case_hash
    store = team.session.register.store
    settle(team, lambda: entries.attachments_of(store, [now.id]))
    assert entries.attachments_of(store, [now.id])[0][1] == "measured-case"
    (folder / "motion.json").write_text("{}")
    log.measured.take("20261120-squat")
    assert "gives no case" in log.said.text()


def test_every_trend_has_a_plot_a_table_and_a_sentence(team):
    log = log_of(team)
    log.tabs.setCurrentIndex(2)
    for which in range(log.trends.which.count()):
        log.trends.which.setCurrentIndex(which)
        log.trends._fill_subjects()
        trend = log.trends.trend
        if trend is None:
            assert log.trends.which.currentText() == "Pain"
            continue
        assert log.trends.told.text() == trend.spoken
        assert log.trends.table.rowCount() == len(trend.points)
        log.trends.plot.grab()
    log.trends.which.setCurrentIndex(0)
    log.trends._fill_subjects()
    last = log.trends.plot.at
    keys(log.trends.plot, Key.Key_Left)
    assert log.trends.plot.at == last - 1 and "kg" in log.trends.plot.accessibleDescription()
    assert "mean of the last four" in log.weeks.spoken()


def test_rules_and_bells_are_changed_and_go_back_to_the_usual(team):
    log = log_of(team)
    log.rules.show_values()
    log.rules.boxes["good_sessions"].setValue(1)
    assert team.session.bench.advice_rules == {"good_sessions": 1.0}
    log.rules._back()
    assert team.session.bench.advice_rules == {}
    discs = team.bench.setup_panel.load.discs if hasattr(team.bench, "setup_panel") else None
    from zesty_lever.ui.bench.discs_button import DiscsButton

    discs = discs or team.findChild(DiscsButton)
    discs.show_values()
    discs.bells["Kettlebells"].setText("8 12 16,5")
    discs.bells["Kettlebells"].editingFinished.emit()
    assert team.session.bench.gym.bells.kettlebells_kg == (8.0, 12.0, 16.5)


def test_the_handout_is_vectors_with_our_fonts_and_holds_no_health_data(team, tmp_path, qapp):
    from zesty_lever.ui import handout

    plan = plan_of(team)
    plan.papers.save_handout(tmp_path / "handout.pdf")
    data = (tmp_path / "handout.pdf").read_bytes()
    assert data.startswith(b"%PDF") and b"B612" in data and b"/Subtype /Image" not in data
    assert len(data) < 300_000
    sheet = handout.Handout(plan.desk.view.person.body, plan.desk.chosen, 739_950)
    pages = handout.pages_of(sheet, handout.page_tall())
    assert len(pages) == 1
    many = plan.desk.chosen.changed(blocks=plan.desk.chosen.blocks * 4)
    long = handout.Handout(plan.desk.view.person.body, many, 739_950)
    several = handout.pages_of(long, handout.page_tall())
    assert len(several) > 1
    assert sum(len(p) for p in several) == 4 * sum(len(p) for p in pages)
    assert all(sum(part.tall for part in page) < handout.page_tall() for page in several)


def test_the_handout_command_writes_a_session_and_a_plan_file(team, tmp_path, monkeypatch, capsys):
    from zesty_lever.__main__ import main

    plan = plan_of(team)
    row = plan.desk.state_of(plan.desk.key)
    plan.papers.save(tmp_path / "plan.json")
    store = str(tmp_path / "records.db")
    out = tmp_path / "one.pdf"
    assert main(["plan", "handout", str(row.id), "--out", str(out), "--store", store]) == 0
    assert out.read_bytes().startswith(b"%PDF")
    two = tmp_path / "two.pdf"
    given = ["plan", "handout", str(tmp_path / "plan.json"), "--athlete", "Oda Fenwick"]
    assert main([*given, "--out", str(two), "--store", store]) == 0
    assert (tmp_path / "two-2.pdf").exists()
    assert main(["plan", "handout", "123", "--out", str(out), "--store", store]) == 1
    assert main([*given[:3], "--out", str(out), "--store", store]) == 1
    assert main([*given, "--out", str(tmp_path / "no" / "x.pdf"), "--store", store]) == 2
    capsys.readouterr()


@pytest.mark.parametrize("size", [(900, 700), (1280, 800)])
def test_every_new_screen_fits_and_is_worked_by_keys_alone(team, size):
    team.resize(*size)
    team.switch_theme()
    for keys_of, name in ((Key.Key_T, "Roster"), (Key.Key_8, "Plan"), (Key.Key_9, "Log")):
        QTest.keyClick(team, keys_of, CTRL)
        assert team.rail.name == name
        screen = team.screen_named(name)
        settle(team, lambda s=screen: not s.waiting.busy)
        assert screen.minimumSizeHint().width() <= 1000, name
        for button in screen.findChildren(QPushButton):
            assert button.text() and button.toolTip(), button
    team.switch_theme()


def test_a_fresh_window_never_starts_the_database(tmp_path):
    code = (
        "import os, sys; os.environ['QT_QPA_PLATFORM'] = 'offscreen';"
        "from pathlib import Path; from zesty_lever.ui import app;"
        "a = app.application(); w = app.make_window(Path(sys.argv[1]), demo=True); w.show();"
        "a.processEvents(); assert 'sqlalchemy' not in sys.modules; w.session.save()"
    )
    subprocess.run([sys.executable, "-c", code, str(tmp_path)], check=True, timeout=120)
