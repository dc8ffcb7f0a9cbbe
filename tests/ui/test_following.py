"""What follows a hand at once, what follows a little later, and what waits until the hand rests."""

import time

import numpy as np
import pytest
from hands import drag, handle, settle
from PySide6.QtCore import QPointF, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QPushButton

from zesty_lever.bench import edits
from zesty_lever.cases.loads import BandLoad
from zesty_lever.exercises.catalogue import variation
from zesty_lever.ui.paint.lines import paint_lines


def test_the_figure_follows_every_step_and_the_numbers_now_and_then(window, monkeypatch):
    """Twenty quick steps (a slow machine counts as quick here): each poses the figure, numbers are told by the timer
    only, and at the end all agree."""
    session = window.session
    session._emit_changed()
    monkeypatch.setattr("zesty_lever.ui.session.TURN_EVERY_MS", 60_000)
    posed, told = [], []
    session.posed.connect(lambda: posed.append(session.result.shown.bottom_deg["shin_deg"]))
    session.changed.connect(lambda: told.append(session.result.shown.bottom_deg["shin_deg"]))
    knob = handle(window, "knee_right")
    start = QPointF(knob.geometry().center())
    knob.grabbed.emit()
    assert session.dragging
    for step in range(20):
        knob.moved.emit(start - QPointF(1.0 * step, 0))
        QApplication.processEvents()
    assert len(posed) >= 19
    # A hand that rests sees the last of it, however slow the machine is.
    settle(window, lambda: told and told[-1] == session.result.shown.bottom_deg["shin_deg"], 5.0)
    knob.dropped.emit()
    assert not session.dragging
    row = window.bench.panel.rows["shin_deg"]
    assert row.spin.value() == pytest.approx(session.result.shown.bottom_deg["shin_deg"], abs=0.06)
    count = len(told)
    session.history.undo()
    assert len(told) == count + 1  # outside of a drag everything is told at once


def test_what_takes_long_to_draw_follows_a_drag_by_turns(window, monkeypatch):
    """Every step moves the figure; numbers, curves and tiles follow one a step, each in its turn."""
    session, seen = window.session, []
    monkeypatch.setattr("zesty_lever.ui.session.TURN_EVERY_MS", 0)
    for name in ("changed", "posed", "curves_due", "tiles_due"):
        getattr(session, name).connect(lambda name=name: seen.append(name))
    session.begin_drag()
    for step in range(6):
        session.preview(edits.drag_setting, "shin_deg", 20.0 + step)
    parts = [name for name in seen if name != "posed"]
    first = parts.index("changed")
    assert len(parts) == 6 and parts[first : first + 3] == ["changed", "curves_due", "tiles_due"]
    assert seen.count("posed") == 4  # the figure follows `changed` too
    session.finish_drag("Drag shin")
    assert set(seen[-3:]) == {"changed", "curves_due", "tiles_due"}


def test_a_drag_that_no_partner_angle_balances_is_refused_in_words(window):
    """A long straddle with the solved trunk dragged back: the shin would have to leave its range, so the pose stays
    where it could last be set up; typed, the same."""
    session = window.session
    session.do(edits.set_variation, "straddle-squat")
    session.do(
        edits.change_setup,
        "long",
        settings={"step_m": 1.08, "stance_m": 0.354, "pressure_fraction": 0.212},
    )
    words = []
    session.refused.connect(words.append)
    before = session.setup
    session.begin_drag()
    session.preview(edits.drag_setting, "trunk_deg", -6.578)
    session.finish_drag("Drag")
    assert session.setup == before
    session.do(edits.set_setting, "trunk_deg", -6.578)
    assert session.setup == before
    assert len(words) == 2
    assert all("balances that" in w for w in words)


def test_what_would_help_is_looked_for_when_the_hand_lets_go(window):
    """An impossible pose says what is wrong at once; when the hand has let go it also says what works."""
    session = window.session
    session.begin_drag()
    session.preview(edits.drag_setting, "stance_m", 1.1)
    error = session.result.error
    assert error is not None and "works from" not in error.text
    session.finish_drag("Drag stance")
    settle(window, lambda: "works from" in session.result.error.text)
    assert session.result.error.code == error.code
    assert session.result.error.text.startswith(error.text[:-1])
    assert session.drawn is not None
    session.history.undo()
    assert session.result.error is None


def test_the_room_waits_for_the_hand_and_for_the_bench_to_be_seen(window):
    """In a drag nothing is asked; after it the room is of the new pose; on another screen it is not worked out."""
    session, keeper = window.session, window.bench.room
    settle(window, lambda: keeper.room is not None)
    before = keeper.room.margins_deg["ankle_dorsiflexion"]
    drag(handle(window, "knee_right"), -20, 0)
    assert keeper.room is None
    settle(window, lambda: keeper.room is not None)
    assert keeper.room.margins_deg["ankle_dorsiflexion"] > before + 2.0
    window.screen_named("Athlete")
    session.do(edits.set_setting, "shin_deg", 25.0)
    QTest.qWait(700)
    assert keeper.room is None
    window.screen_named("Bench")
    settle(window, lambda: keeper.room is not None)


def test_looking_for_a_load_can_be_stopped(window, monkeypatch):
    """A search that takes a second: Stop appears, and pressed it leaves B as it was."""
    session, panel = window.session, window.bench.demand
    before = session.bench.setups[1]

    def slow(case, *_):
        time.sleep(1.0)
        return case.changed(load_kg=33.0)

    monkeypatch.setattr("zesty_lever.ui.bench.demand_panel.matched", slow)
    panel.match_load("equal:knee")
    settle(window, panel.waiting.stop_button.isVisible)
    stop = next(b for b in panel.findChildren(QPushButton) if b.text() == "Stop")
    QTest.mouseClick(stop, Qt.MouseButton.LeftButton)
    assert not panel.waiting.busy
    QTest.qWait(1300)
    assert session.bench.setups[1] == before
    assert "Looking for" not in panel.said.text()
    panel.match_load("equal:knee")
    settle(window, lambda: session.bench.setups[1].load_kg == 33.0)
    assert not panel.waiting.busy


class Pen:
    """Stands in for a painter: keeps the lines that are drawn and with what."""

    def __init__(self):
        self.lines, self.words, self.pen = [], [], None

    def setPen(self, pen):
        self.pen = pen

    def drawLine(self, one, two):
        self.lines.append((one, two, self.pen.widthF(), bool(self.pen.dashPattern())))

    def drawText(self, _at, words):
        self.words.append(words)

    def __getattr__(self, _name):
        return lambda *_args: None


def lines_of(window, result, frame):
    pen = Pen()
    paint_lines(pen, window.bench.figure.view.point, window.bench.figure.theme, result, frame)
    return pen


def test_bands_are_drawn_between_what_they_hold(window):
    """From the hip crease to the anchor while it pulls, with its pull in newtons; dotted when slack; a band round
    the knees from knee to knee; a push has no line."""
    session = window.session
    session.do(edits.set_variation, "band-hinge")
    result, at = session.result, session.result.timeline.bottom
    pen = lines_of(window, result, at)
    carried = len(result.shown.pose.load_names)
    start = window.bench.figure.view.point(result.shown.carried.points[:, carried, at])
    end = window.bench.figure.view.at(-1.8, 0.03)
    assert {
        (round(a.x()), round(a.y()), round(b.x()), round(b.y())) for a, b, *_ in pen.lines[:1]
    } == {(round(start.x()), round(start.y()), round(end.x()), round(end.y()))}
    pull = float(np.linalg.norm(result.shown.carried.forces[:, carried, at]))
    assert pen.words == [f"{pull:.0f} N"]
    session.do(edits.set_setting, "band_slack_m", 2.9)
    slack = lines_of(window, session.result, at)
    assert slack.words == ["0 N"]
    assert [dashed for *_, dashed in slack.lines] == [True]
    knees = BandLoad(
        name="knees",
        start="above_knee_left",
        end="above_knee_right",
        slack_m=0.1,
        stiffness_N_m=300.0,
    )
    push = session.setup.loads
    session.do(edits.change_setup, "band", loads=(*push, knees))
    both = lines_of(window, session.result, at)
    assert len(both.lines) == 3  # the slack one, and the other's edge and its middle
    assert "band" in variation("band-hinge").equipment


@pytest.mark.parametrize(
    "name",
    [
        "back-squat-high-bar",
        "front-squat",
        "goblet-squat",
        "split-squat",
        "step-up",
        "hip-thrust",
        "belt-squat",
        "conventional-deadlift",
    ],
)
def test_the_load_is_seen_from_the_front(window, name):
    """With its load the front view shows more than without; the bar lies at its own height over the floor."""
    session, front = window.session, window.bench.front
    session.do(edits.set_variation, name)
    window.bench.show_side(1)
    QApplication.processEvents()
    loaded = front.grab().toImage()
    if variation(name).load.name == "bar":
        at = front.front(
            session.result.shown.pose.load_points[:, 0, front._frame] * (1.0, 1.0, 0.0)
        )
        # Between the hands and the discs there is nothing but the bar.
        end = QPointF(at.x() - 0.60 * front.scale(), at.y()) * loaded.devicePixelRatio()
        assert loaded.pixelColor(end.toPoint()).name() == front.theme.iron
    low, _ = variation(name).load_range_kg()
    if low == 0.0:
        session.do(edits.change_setup, "bare", load_kg=0.0)
        assert front.grab().toImage() != loaded
