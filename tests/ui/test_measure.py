"""Measure in the real window: from opening a clip to the bench, by mouse and by keys."""

import json

import numpy as np
import pytest
from film import key_frames
from hands import click, settle
from measured import CLIPS, film, marked, take
from PySide6.QtCore import QMimeData, QPoint, QPointF, Qt, QUrl
from PySide6.QtGui import QDropEvent, QGuiApplication, QImage
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from zesty_lever.ui.measure.tools import Tool

SIDE = CLIPS / "squat-side.mp4"


@pytest.fixture
def screen(window):
    made = window.screen_named("Measure")
    QApplication.processEvents()
    return made


def open_clip(window, screen, path=SIDE):
    screen.open(path)
    settle(window, lambda: screen.desk.clip is not None and screen.desk.clip.path == path)


def press(screen, place, button=Qt.MouseButton.LeftButton):
    """Click a pixel of the clip."""
    at = screen.picture.to_screen(place).toPoint()
    QTest.mouseMove(screen.picture, at)
    QTest.mouseClick(screen.picture, button, pos=at)
    QApplication.processEvents()


def key(screen, code, held=Qt.KeyboardModifier.NoModifier):
    QTest.keyClick(screen.picture, code, held)
    QApplication.processEvents()


def test_from_opening_to_the_bench_by_mouse_and_keys(window, screen):
    """Open, mark start, deepest and end as the guide says, disc, upright, sleeve, tape; follow; hand over as B."""
    desk = screen.desk
    open_clip(window, screen)
    assert "Mark the outer ankle bone" in screen.marks.words.text()
    known, times = marked("squat-side"), key_frames(take("squat-side"))
    names = ("ankle", "knee", "hip", "bar")
    clicks = film("squat-side").clicks(times, names)
    for frame in (times[0], times[1], times[-1]):
        desk.show_frame(frame)
        settle(window, lambda: not desk.image.isNull())
        screen.marks._pick("ankle")
        for name in names:
            assert desk.name == name
            press(screen, clicks[name][frame])
    assert desk.marks.placed == 12
    desk.show_frame(0)
    screen.tabs.setCurrentIndex(1)
    disc = known.calibration.disc
    rim = (disc.centre_px[0] + disc.half_axes_px[0], disc.centre_px[1])
    for tool, ends in (
        (Tool.DISC, (disc.centre_px, rim)),
        (Tool.PLUMB, known.plumb_px),
        (Tool.SLEEVE, (known.sleeve.hub_px, known.sleeve.end_px)),
    ):
        QTest.mouseClick(screen.camera.tools[tool], Qt.MouseButton.LeftButton)
        for end in ends:
            press(screen, end)
    assert desk.marks.sleeve is not None
    for name, value in (("distance_m", 410.0), ("height_m", 85.0)):
        tick, box = screen.camera.fields[name]
        tick.click()
        box.setValue(value)
    assert desk.marks.camera.distance_m == pytest.approx(4.1)
    key(screen, Qt.Key.Key_F)
    settle(window, lambda: desk.motion is not None)
    assert len(desk.motion.reps) == 3
    screen.tabs.setCurrentIndex(2)
    settle(window, lambda: screen.result.found is not None)
    assert "out of the hole the hips come up first" in screen.result.words.text()
    assert "at the same load" in screen.result.compared.text()
    true = take("squat-side").motion.angles_deg(desk.motion.times_s)
    for name in ("shin", "thigh", "trunk"):
        rms = np.sqrt(np.mean((desk.motion.angles[name] - true[name]) ** 2))
        assert rms < 2.0 * np.mean(desk.motion.sd[name])
    click(screen, "To the bench as B")
    setup = window.session.bench.setups[1]
    assert setup.settings["shin_deg"] == pytest.approx(
        float(desk.motion.angles["shin"][desk.motion.low]), abs=0.06
    )
    assert setup.errors.shin_deg > 0.0
    window.session.history.undo()
    assert window.session.bench.setups[1].errors is None
    window.session.history.redo()
    window.show_screen("Bench")
    assert window.session.results[1].feasible


def test_a_mark_is_moved_by_keys_and_every_step_can_be_undone(window, screen):
    """Arrows 1 px, with Ctrl 0.1, with Shift 10; Delete; N; Enter; undo brings each back."""
    desk = screen.desk
    open_clip(window, screen)
    press(screen, (600.0, 500.0))
    start = desk.marks.marks["ankle"][0]
    assert start == pytest.approx((600.0, 500.0), abs=1.0)
    screen.marks._pick("ankle")
    key(screen, Qt.Key.Key_Right)
    key(screen, Qt.Key.Key_Down, Qt.KeyboardModifier.ControlModifier)
    key(screen, Qt.Key.Key_Left, Qt.KeyboardModifier.ShiftModifier)
    moved = desk.marks.marks["ankle"][0]
    assert moved == pytest.approx((start[0] - 9.0, start[1] + 0.1), abs=0.011)
    window.session.history.undo()
    assert desk.marks.marks["ankle"][0] == start
    key(screen, Qt.Key.Key_Delete)
    assert desk.marks.marks == {}
    window.session.history.undo()
    window.session.history.undo()
    assert desk.marks.marks == {}
    key(screen, Qt.Key.Key_N)
    assert desk.name == "knee"
    key(screen, Qt.Key.Key_Return)
    assert list(desk.marks.marks) == ["knee"]


def test_frames_marked_frames_and_hidden_spans_by_keys(window, screen):
    """Comma and point step, PageDown and PageUp find marked frames, C copies on, H begins and ends hiding."""
    desk = screen.desk
    open_clip(window, screen)
    key(screen, Qt.Key.Key_Period)
    key(screen, Qt.Key.Key_Period)
    assert desk.frame == 2
    settle(window, lambda: True)
    press(screen, (600.0, 500.0))
    screen.marks._pick("ankle")
    key(screen, Qt.Key.Key_C)
    assert desk.frame == 3
    assert desk.marks.marks["ankle"][3] == desk.marks.marks["ankle"][2]
    key(screen, Qt.Key.Key_End)
    assert desk.frame == desk.frames - 1
    key(screen, Qt.Key.Key_PageUp)
    assert desk.frame == 3
    key(screen, Qt.Key.Key_PageUp)
    assert desk.frame == 2
    desk.show_frame(10)
    key(screen, Qt.Key.Key_H)
    assert "press H at its last hidden frame" in screen.marks.state.text()
    desk.show_frame(14)
    key(screen, Qt.Key.Key_H)
    assert desk.marks.hidden["ankle"] == ((10, 14),)
    key(screen, Qt.Key.Key_H)
    assert desk.marks.hidden == {}


def test_a_mark_is_dragged_under_the_loupe(window, screen):
    """Press on it, move, let go: it is where the pointer was, one step of history; the loupe is painted meanwhile."""
    desk, picture = screen.desk, screen.picture
    open_clip(window, screen)
    press(screen, (600.0, 500.0))
    before = window.session.history.count()
    at = picture.to_screen((600.0, 500.0)).toPoint()
    QTest.mousePress(picture, Qt.MouseButton.LeftButton, pos=at)
    QTest.mouseMove(picture, at + QPoint(20, 0))
    shown = picture.grab().toImage()
    QTest.mouseMove(picture, at + QPoint(40, 10))
    assert picture.grab().toImage() != shown
    QTest.mouseRelease(picture, Qt.MouseButton.LeftButton, pos=at + QPoint(40, 10))
    moved = desk.marks.marks["ankle"][0]
    assert moved == pytest.approx(picture.to_picture(QPointF(at + QPoint(40, 10))), abs=0.6)
    assert window.session.history.count() == before + 1


def test_a_clip_is_dropped_a_photo_pasted_and_what_is_none_is_said(window, screen, tmp_path):
    """A drop opens; a pasted picture is kept and opened; a text file is refused in words, the clip stays."""
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(SIDE))])
    event = QDropEvent(
        QPointF(50, 50),
        Qt.DropAction.CopyAction,
        data,
        Qt.MouseButton.LeftButton,
        Qt.KeyboardModifier.NoModifier,
    )
    screen.dropEvent(event)
    settle(window, lambda: screen.desk.clip is not None)
    bad = tmp_path / "notes.mp4"
    bad.write_text("no clip")
    screen.open(bad)
    settle(window, lambda: "can't be read as a clip" in window.message.text())
    assert screen.desk.clip.path == SIDE
    image = QImage(str(CLIPS / "split-squat.jpg"))
    QGuiApplication.clipboard().setImage(image)
    screen.picture.setFocus()
    QTest.keyClick(screen.picture, Qt.Key.Key_V, Qt.KeyboardModifier.ControlModifier)
    settle(window, lambda: screen.desk.clip.path.name == "pasted-1.png")
    assert screen.desk.clip.is_still
    assert screen.desk.frames == 1


def test_measurements_are_kept_linked_and_opened_again(window, screen, tmp_path):
    """Once something is marked it is kept beside the bench, linked from the athlete; opened again it is as it was."""
    desk = screen.desk
    open_clip(window, screen)
    press(screen, (600.0, 500.0))
    (number,) = window.session.bench.athlete.measurements
    folder = tmp_path / "measurements" / number
    settle(window, (folder / "marks.json").exists)
    settle(window, lambda: bool(desk._hash))
    desk.save()
    kept = json.loads((folder / "marks.json").read_text())
    assert kept["marks"]["ankle"]["0"] == list(desk.marks.marks["ankle"][0])
    assert kept["sha256"]
    screen.open(CLIPS / "split-squat.jpg")
    settle(window, lambda: desk.clip.is_still)
    assert desk.marks.marks == {}
    screen.earlier.menu().aboutToShow.emit()
    entry = next(a for a in screen.earlier.menu().actions() if "squat-side.mp4" in a.text())
    entry.trigger()
    settle(window, lambda: not desk.clip.is_still)
    assert desk.number == number
    assert list(desk.marks.marks) == ["ankle"]
    window.session.history.undo()
    assert list(desk.marks.marks) == ["ankle"]
    # The mark and that it is kept are one step.
    assert window.session.bench.athlete.measurements == ()


@pytest.mark.slow
def test_an_example_from_the_front_is_measured_and_the_meant_figure_is_drawn_over_the_side(
    window, screen
):
    """Caving knees in rep 3; then the side clip with the set-up drawn over it, which changes the picture."""
    desk = screen.desk
    screen.open_example("Squat, from the front (marked)")
    settle(window, lambda: desk.motion is not None)
    assert "Rep 3: the left knee caves" in screen.result.words.text()
    assert screen.result.curves.kind == "Left over right"
    screen.open_example("Squat, from the side (marked)")
    settle(window, lambda: desk.motion is not None and desk.marks.view == "side")
    settle(window, lambda: screen.result.found is not None)
    plain = screen.picture.grab().toImage()
    screen.result.overlay.click()
    settle(window, lambda: screen.picture.meant is not None)
    assert screen.picture.grab().toImage() != plain
    assert desk.frame == desk.motion.first + desk.motion.low
    screen.result.rep.setCurrentIndex(1)
    screen.result.rep.activated.emit(1)
    settle(window, lambda: desk.motion.rep == 2)
    for kind in ("Reps over each other", "Bar path"):
        screen.result.kind.setCurrentText(kind)
        assert not screen.result.curves.grab().toImage().isNull()
    click(screen, "Lengths to the athlete")
    assert window.session.bench.athlete.lengths_m["shank"] == pytest.approx(0.415, abs=0.02)


def test_a_result_is_saved_as_json_and_csv(window, screen, tmp_path):
    """By the file's ending; a folder that is not there is said."""
    screen.open_example("Squat, from the side (marked)")
    settle(window, lambda: screen.desk.motion is not None)
    screen.result.save(tmp_path / "m.json")
    screen.result.save(tmp_path / "m.csv")
    assert json.loads((tmp_path / "m.json").read_text())["format"] == "zesty-lever-motion/1"
    assert (tmp_path / "m.csv").read_text().startswith("frame,time_s,shin_deg")
    screen.result.save(tmp_path / "nowhere" / "m.json")
    assert "Could not save" in window.message.text()
    window.papers.save_picture(tmp_path / "m.pdf")
    window.papers.save_picture(tmp_path / "m.png")
    assert (tmp_path / "m.pdf").stat().st_size > 10_000


def test_following_can_be_stopped(window, screen):
    """Stop gives it up: nothing is measured, and following again works."""
    desk = screen.desk
    screen.open_example("Squat, from the side (marked)")
    settle(window, lambda: desk.clip is not None and desk.waiting.busy)
    desk.waiting.stop()
    for _ in range(20):
        QApplication.processEvents()
    assert desk.motion is None
    desk.follow()
    settle(window, lambda: desk.motion is not None)


def test_the_strip_scrubs_and_the_worst_place_is_found(window, screen):
    """Press on the strip: that moment is shown; J goes to the largest disagreement, which the strip paints."""
    desk = screen.desk
    screen.open_example("Squat, from the side (marked)")
    settle(window, lambda: desk.motion is not None)
    middle = screen.strip.rect().center()
    QTest.mouseClick(screen.strip, Qt.MouseButton.LeftButton, pos=middle)
    assert desk.frame == pytest.approx(desk.frames / 2, abs=4)
    screen.picture.setFocus()
    key(screen, Qt.Key.Key_J)
    worst = max(
        (float(np.nanmax(a)), name, int(np.nanargmax(a)))
        for name, a in desk.motion.apart_px.items()
    )
    assert desk.frame == worst[2]
    assert desk.name == worst[1]
    assert "frame" in screen.strip.accessibleName()


def test_a_clip_that_has_changed_since_is_said(window, screen, tmp_path):
    """Its hash is kept with the marks; another content at the same place is told, the marks stay."""
    own = tmp_path / "own.mp4"
    own.write_bytes(SIDE.read_bytes())
    desk = screen.desk
    open_clip(window, screen, own)
    press(screen, (600.0, 500.0))
    settle(window, lambda: bool(desk._hash))
    desk.save()
    (number,) = window.session.bench.athlete.measurements
    own.write_bytes(SIDE.read_bytes() + b"more")
    desk.reopen(number)
    settle(window, lambda: "has changed since it was marked" in window.message.text())
    assert list(desk.marks.marks) == ["ankle"]
