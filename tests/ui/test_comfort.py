"""At ease: the wheel, numbers as people type them, messages where one is, undo, saving, export, search."""

import json
import os
import time

import pytest
from hands import settle
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QWheelEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QLabel, QMessageBox

from zesty_lever.bench import edits
from zesty_lever.bench.files import backups_of, keep_backup, read_bench, write_bench, write_lineup
from zesty_lever.bench.model import first_bench
from zesty_lever.cases.loads import MassLoad
from zesty_lever.exercises.catalogue import catalogue
from zesty_lever.exercises.search import fits
from zesty_lever.ui.app import lock_for, open_own_bench
from zesty_lever.ui.kit.theme import LIGHT
from zesty_lever.ui.memory import WindowMemory
from zesty_lever.ui.session import Session
from zesty_lever.ui.window import Window
from zesty_lever.wording.sentences import file_name


def roll(widget):
    """One notch of the wheel over a widget."""
    at = QPointF(widget.rect().center())
    event = QWheelEvent(
        at,
        QPointF(widget.mapToGlobal(at.toPoint())),
        QPoint(),
        QPoint(0, -120),
        Qt.MouseButton.NoButton,
        Qt.KeyboardModifier.NoModifier,
        Qt.ScrollPhase.NoScrollPhase,
        False,
    )
    QApplication.sendEvent(widget, event)
    return event


def typed(spin, text):
    spin.setFocus()
    spin.selectAll()
    QTest.keyClicks(spin, text)
    QTest.keyClick(spin, Qt.Key.Key_Return)
    QApplication.processEvents()


def test_the_wheel_changes_nothing_that_one_is_not_in(window):
    """Load, athlete and variation stay; the event goes on to the panel. A control that is focused turns."""
    panel, before = window.bench.panel, window.session.bench
    for control in (
        panel.load_row.spin,
        panel.athletes,
        panel.variations,
        panel.rows["shin_deg"].spin,
    ):
        control.clearFocus()
        assert not roll(control).isAccepted()
        assert not control.hasFocus()
    assert window.session.bench == before
    panel.load_row.spin.setFocus()
    roll(panel.load_row.spin)
    assert window.session.bench != before


@pytest.mark.parametrize(
    ("text", "metres"),
    [("1.68", 1.68), ("1,68", 1.68), ("168", 1.68), ("5'6\"", 1.6764), ("5 ft 6", 1.6764)],
)
def test_a_height_as_people_say_it(window, text, metres):
    typed(window.bench.panel.height_row.spin, text)
    assert window.session.bench.athlete.height_m == pytest.approx(metres, abs=1e-3)


def test_what_is_out_of_range_is_not_clamped_but_told(window):
    """The field goes back to what it was and says what it takes."""
    spin, told = window.bench.panel.height_row.spin, []
    spin.refused.connect(told.append)
    before = window.session.bench.athlete.height_m
    typed(spin, "999")
    assert window.session.bench.athlete.height_m == before
    assert told
    assert "120.0 cm to 230.0 cm" in told[0]


def test_refusals_are_said_where_one_is_and_go_when_they_are_no_longer_true(window):
    session = window.session
    session.do(edits.remove_athlete)
    session.do(edits.remove_athlete)
    assert "last athlete stays" in window.bench.figure.message
    session.do(edits.set_setting, "thigh_deg", 8.0)
    assert window.bench.figure.message == ""
    window.show_screen("Athlete")
    session.do(edits.remove_athlete)
    assert "last athlete stays" in window.message.text()
    assert window.message.isVisible()


def test_a_held_key_is_one_step_and_undo_says_what_it_undid(window):
    session, start = window.session, window.session.bench
    for shin in (31.0, 30.0, 29.0, 28.0):
        session.do(edits.set_setting, "shin_deg", shin)
    assert session.history.count() == 1
    QTest.keyClick(window, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert session.bench == start
    assert window.message.text() == "Undone: Set shin."
    session.do(edits.set_setting, "shin_deg", 31.0)
    session.do(edits.set_setting, "thigh_deg", 5.0)
    assert session.history.count() == 2


def test_to_the_bench_is_b_and_says_so(window):
    session, before = window.session, window.session.bench.setups[0]
    screen = window.screen_named("Shortlist")
    settle(window, lambda: screen.options)
    screen.to_bench()
    assert session.bench.setups[0] == before
    assert session.editing == 1
    assert window.message.text().startswith("B  ")
    assert window.message.text().endswith("is on the bench.")


def test_edits_without_a_rest_are_saved_within_two_seconds(kept, tmp_path):
    session = kept(Session(first_bench(), tmp_path / "bench.json"))
    start = time.monotonic()
    value = 0.0
    while not (tmp_path / "bench.json").exists():
        value = 5.0 - value
        session.do(edits.set_setting, "thigh_deg", value)
        QTest.qWait(100)
        assert time.monotonic() - start < 4.0


def test_a_bench_that_someone_else_changed_is_kept(kept, tmp_path):
    path = tmp_path / "bench.json"
    session = kept(Session(first_bench(), path))
    session.save()
    write_bench(edits.set_reps(first_bench(), 3), path)
    os.utime(path, (1, 1))
    told = []
    session.refused.connect(told.append)
    session.do(edits.set_reps, 5)
    session.save()
    assert read_bench(path).reps_a_set == 5
    assert read_bench(tmp_path / "bench.other1.json").reps_a_set == 3
    assert "changed by someone else" in told[0]


def test_a_save_that_fails_is_seen_on_every_screen_until_it_works(kept, tmp_path, monkeypatch):
    folder = tmp_path / "gone"
    session = kept(Session(first_bench(), folder / "bench.json"))
    window = kept(Window(session, WindowMemory(None), "Zesty Lever"))
    window.show()
    folder.write_text("a file where the folder should be")
    session.do(edits.set_reps, 5)
    session.save()
    for name in ("Bench", "Athlete", "Set-up card"):
        window.show_screen(name)
        window._fade()
        assert window.message.isVisible()
        assert window.message.text().startswith("Not saved:")
    answers = iter((QMessageBox.StandardButton.Cancel, QMessageBox.StandardButton.Discard))
    monkeypatch.setattr(QMessageBox, "question", lambda *_: next(answers))
    assert not window.close()
    folder.unlink()
    session.save()
    assert session.save_problem == ""
    window._fade()
    assert not window.message.isVisible()
    assert window.close()


def test_backups_survive_a_clock_that_jumps(tmp_path):
    """Turned back by ten years or forward: still a backup when it is time, and the five newest stay."""
    path, now = tmp_path / "bench.json", time.time()
    for number, at in enumerate(
        (now, now + 3e8, now - 3e8, now, now + 700, now + 1400, now + 2100)
    ):
        write_bench(edits.set_reps(first_bench(), number + 1), path)
        keep_backup(path, at)
    kept = [read_bench(file).reps_a_set for file in backups_of(path)]
    assert kept == [7, 6, 5, 4, 3]


@pytest.mark.parametrize(
    "text",
    [
        "[" * 100_000,
        "{",
        '{"format": "zesty-lever-bench/1", "current": ' + "9" * 5000 + "}",
        "\ud800",
    ],
)
def test_every_broken_bench_still_opens_a_window(tmp_path, text):
    path = tmp_path / "bench.json"
    path.write_bytes(text.encode("utf-8", "surrogatepass"))
    bench, complaint, read_only = open_own_bench(path)
    assert bench == first_bench()
    assert read_only == ""
    assert "could not be read" in complaint
    assert (tmp_path / "bench.unread.json").read_bytes() == text.encode("utf-8", "surrogatepass")


def test_a_home_that_can_t_be_written_opens_read_only(tmp_path):
    (tmp_path / "home").write_text("no folder")
    path = tmp_path / "home" / "deep" / "bench.json"
    lock, why = lock_for(path)
    assert lock is None
    assert "can't be made" in why
    bench, _, _ = open_own_bench(path)
    assert bench == first_bench()


def test_text_from_files_is_plain_text(window):
    """A load's name that would be markup is shown as it is written."""
    nasty = "<img src=x>" + "<b>" * 10
    load = MassLoad(name=nasty, mass_kg=5.0)
    window.session.do(edits.change_setup, "Nasty", loads=(load,))
    labels = [w for w in window.bench.panel.findChildren(QLabel) if nasty in w.text()]
    assert labels
    assert all(w.textFormat() == Qt.TextFormat.PlainText for w in labels)
    tips = [w.toolTip() for w in window.bench.panel.findChildren(QLabel) if "img" in w.toolTip()]
    assert all("<img" not in tip for tip in tips)


def test_exports_are_on_paper_colours_with_title_and_caution(window, tmp_path):
    """From a dark window: a light page, larger than the figure by its title and caution."""
    window.switch_theme()
    window.papers.save_picture(tmp_path / "dark.png")
    assert window.theme.name == "dark"
    window.papers.copy_picture()
    image = QApplication.clipboard().pixmap().toImage()
    assert image.pixelColor(2, 2).name() == LIGHT.paper
    figure = window.bench.figure
    assert image.height() >= 2 * figure.height() + 80
    assert file_name("Oda/../Fenwick · <A>  squat", "png") == "Oda-Fenwick-A-squat.png"


def test_a_line_up_opens_like_any_other_file(window, tmp_path):
    write_lineup(edits.line_up(window.session.bench, 0), tmp_path / "l.json")
    window.papers.open_file(tmp_path / "l.json")
    assert len(window.session.bench.lineup) == 1
    assert window.screens.currentWidget() is window._made["Line-up"]
    (tmp_path / "big.json").write_bytes(b" " * 5_000_000)
    window.papers.open_file(tmp_path / "big.json")
    assert "is at most that" in window.message.text()


@pytest.mark.parametrize(
    ("said", "name"),
    [
        ("RFESS", "rear-foot-elevated-split-squat"),
        ("rdl", "romanian-deadlift"),
        ("trap bar", "hex-bar-deadlift"),
        ("pistol", "single-leg-squat-to-box"),
        ("kb hinge", "kettlebell-behind-back-hinge"),
        ("bulgarian", "barbell-rear-foot-elevated-split-squat"),
        ("goblet", "goblet-squat"),
    ],
)
def test_search_knows_what_coaches_say(said, name):
    found = [v.id for v in catalogue().values() if fits(v, said, "", "", "")]
    assert name in found
    assert len(found) < 15


def test_the_memory_of_the_window_may_hold_anything(kept, tmp_path):
    for text in (
        "[" * 50_000,
        json.dumps({"moment": 10**300, "screen": 5, "geometry": 7, "theme": []}),
    ):
        path = tmp_path / "window.json"
        path.write_text(text)
        session = kept(Session(first_bench()))
        kept(Window(session, WindowMemory(path), "Zesty Lever")).close()
