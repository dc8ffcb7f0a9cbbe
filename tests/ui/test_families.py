"""Every family in the real window: handles, numbers and pictures follow."""

import numpy as np
import pytest
from hands import drag, handle, painted
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from zesty_lever.bench import edits
from zesty_lever.ui.bench.load_editor import ADDED
from zesty_lever.ui.paint.body_side import body_parts
from zesty_lever.ui.paint.levers import lever_marks


@pytest.mark.parametrize(
    ("name", "joint", "key", "move"),
    [
        ("split-squat", "knee_right", "shin_deg", (14, 0)),
        ("romanian-deadlift", "shoulder_mid", "trunk_deg", (-12, -16)),
        ("single-leg-hinge", "shoulder_mid", "trunk_deg", (-8, -14)),
        ("hip-thrust", "knee_right", "shin_deg", (10, 0)),
    ],
)
def test_handles_of_every_family(window, name, joint, key, move):
    """A drag changes its angle, keeps the solved one solved, and can be taken back."""
    session = window.session
    session.do(edits.set_variation, name)
    QApplication.processEvents()
    free, before = session.free, session.results[0].shown.bottom_deg[key]
    drag(handle(window, joint), *move)
    after = session.results[0]
    assert after.feasible, after.error
    assert abs(after.shown.bottom_deg[key] - before) > 1.0
    assert session.free == free
    session.history.undo()
    assert session.results[0].shown.bottom_deg[key] == pytest.approx(before)


def shown(window):
    return {h.kind.key for h in window.bench.figure.handles if h.isVisible()}


def test_handles_show_only_where_they_do_something(window):
    """A squat has its three angles; a pull the bar's height; a raised rear foot its bench."""
    assert shown(window) == {"shin_deg", "thigh_deg", "trunk_deg", "heel_lift_deg"}
    for name, more in (
        ("conventional-deadlift", {"bar_height_m"}),
        ("rear-foot-elevated-split-squat", {"step_m", "rear_height_m", "shin_deg"}),
        ("step-up", {"front_height_m"}),
        ("hip-thrust", {"bench_height_m", "shin_deg"}),
        ("romanian-deadlift", {"hands_ahead_m", "trunk_deg"}),
    ):
        window.session.do(edits.set_variation, name)
        QApplication.processEvents()
        assert more <= shown(window), name
    assert "step_m" not in shown(window)


@pytest.mark.parametrize(
    ("name", "key", "move", "more"),
    [
        ("rear-foot-elevated-split-squat", "step_m", (-12, 0), True),
        ("rear-foot-elevated-split-squat", "rear_height_m", (0, 14), False),
        ("step-up", "front_height_m", (0, -8), True),
        ("hip-thrust", "bench_height_m", (0, 8), False),
        ("conventional-deadlift", "bar_height_m", (0, -12), True),
        ("romanian-deadlift", "hands_ahead_m", (10, 0), True),
    ],
)
def test_bench_box_bar_and_foot_are_dragged(window, name, key, move, more):
    """Lengths and heights are set where they are seen; one undo step each."""
    session = window.session
    session.do(edits.set_variation, name)
    QApplication.processEvents()
    before, steps = session.result.case.settings[key], session.history.index()
    grip = next(h for h in window.bench.figure.handles if h.kind.key == key and h.isVisible())
    grip.raise_()
    drag(grip, *move)
    after = session.result.case.settings[key]
    assert abs(after - before) > 0.01
    assert (after > before) == more
    assert session.history.index() == steps + 1


@pytest.mark.parametrize(
    "name",
    [
        "split-squat",
        "rear-foot-elevated-split-squat",
        "glute-bridge",
        "conventional-deadlift",
        "step-up",
        "pull-through",
    ],
)
def test_figures_stay_inside_the_view(window, name):
    """Every joint of every moment is on the canvas, and both legs are drawn where they differ."""
    session, figure = window.session, window.bench.figure
    session.do(edits.set_variation, name)
    for frame in range(0, session.result.frames, 6):
        session.set_moment(frame)
        QApplication.processEvents()
        for mark in lever_marks(session.result, figure.frame, figure.view):
            assert figure.rect().contains(mark.start.toPoint()), (mark.joint, frame)
    parts = body_parts(session.result, 0)
    assert ("thigh_left" in parts) == (
        name in ("split-squat", "rear-foot-elevated-split-squat", "step-up")
    )
    assert not painted(window).isNull()


def test_two_kinds_of_rep_are_compared_at_their_decisive_moments(window):
    """A squat's bottom stands beside a thrust's lockout, whatever the timing of each."""
    session = window.session
    session.do(edits.set_variation, "hip-thrust")
    assert session.results[0].timeline.progress[session.frame_of(0)] > 0.999
    assert session.results[1].timeline.progress[session.frame_of(1)] > 0.999
    assert "at lockout" in painted_words(window)


def painted_words(window):
    from zesty_lever.ui.bench.figure_view import moment_words

    return moment_words(window.session)


def test_legs_are_not_shared_across_families(window):
    """Same legs in B: refused in words between a squat and a thrust; nothing changes."""
    session = window.session
    session.do(edits.set_variation, "hip-thrust")
    before = session.bench
    QTest.mouseClick(window.bench.demand.legs, Qt.MouseButton.LeftButton)
    assert session.bench == before
    assert "two squats, or two hinges" in window.bench.figure.message


def test_a_box_is_raised_and_a_heel_lifted(window):
    """The box takes the hips with it: as much higher as it is dragged, less depth. The heel: about the ball."""
    session, figure = window.session, window.bench.figure
    session.do(edits.set_variation, "box-squat")
    QApplication.processEvents()
    grip = next(h for h in figure.handles if h.kind.name == "Box" and h.isVisible())
    frame, before = figure.frame, session.results[0]
    scale = figure.view.scale
    drag(grip, 0, -12)
    after = session.results[0]
    assert after.feasible, after.error
    rise = (
        after.shown.pose.points["hip_mid"][1, frame] - before.shown.pose.points["hip_mid"][1, frame]
    )
    assert rise == pytest.approx(12 / scale, abs=0.012)
    assert after.shown.bottom_deg["thigh_deg"] > before.shown.bottom_deg["thigh_deg"] + 1.0
    session.do(edits.set_variation, "back-squat-high-bar")
    QApplication.processEvents()
    heel = next(h for h in figure.handles if h.kind.key == "heel_lift_deg" and h.isVisible())
    drag(heel, 0, -10)
    lifted = session.results[0].case.settings["heel_lift_deg"]
    foot = session.results[0].case.athlete.height_m * 0.152
    assert lifted == pytest.approx(
        np.degrees(np.arcsin(10 / figure.view.scale / (0.74 * foot))), abs=4.0
    )
    assert session.results[0].feasible
    session.do(edits.set_variation, "feet-elevated-bridge")
    QApplication.processEvents()
    assert "feet_height_m" in shown(window)
    QTest.keyClick(next(h for h in figure.handles if h.kind.key == "feet_height_m"), Qt.Key.Key_Up)
    assert session.history.canUndo()


def test_band_anchors_are_drawn_and_dragged(window):
    """The variation's own band: its anchor is dragged, pushed with keys, and the pull follows; Escape and undo."""
    session, figure = window.session, window.bench.figure
    session.do(edits.set_variation, "band-hinge")
    QApplication.processEvents()
    (grip,) = (h for h in figure.anchors.handles if h.isVisible())
    before = session.results[0]
    drag(grip, -20, -40)
    after = session.results[0]
    moved = after.case.settings
    assert moved["anchor_behind_m"] > 1.82 and moved["anchor_height_m"] > 0.1
    assert (pulls(after) != pulls(before)).any()
    session.history.undo()
    assert session.results[0].case.settings["anchor_behind_m"] == pytest.approx(1.8)
    QTest.keyClick(grip, Qt.Key.Key_Left, Qt.KeyboardModifier.ShiftModifier)
    QTest.keyClick(grip, Qt.Key.Key_Up)
    found = session.results[0].case.settings
    assert (found["anchor_behind_m"], found["anchor_height_m"]) == (
        pytest.approx(1.85),
        pytest.approx(0.04),
    )
    count = session.history.count()
    QTest.mousePress(grip, Qt.MouseButton.LeftButton)
    QTest.mouseMove(grip, grip.rect().center() + QPoint(-30, 0))
    QTest.keyClick(grip, Qt.Key.Key_Escape)
    assert session.results[0].case.settings["anchor_behind_m"] == pytest.approx(1.85)
    assert session.history.count() == count
    # The band is painted from the hip crease to the anchor.
    result, frame = session.results[0], figure.frame
    rows = len(result.shown.pose.load_names)
    start = figure.view.point(result.shown.carried.points[:, rows, frame])
    end = figure.view.at(-1.85, 0.04)
    middle = (0.35 * start + 0.65 * end).toPoint()
    assert painted(window).pixelColor(middle).name() == figure.theme.iron


def pulls(result):
    return result.shown.carried.forces[:, len(result.shown.pose.load_names) :]


def test_an_added_band_s_anchor_is_dragged_typed_and_pushed(window):
    """A band of the case: the same grip; its rows show the place; nothing else of it changes."""
    session, figure = window.session, window.bench.figure
    editor = window.bench.panel.loads
    name, data = next((n, d) for n, d in ADDED if n == "Band from behind to the hips")
    editor._add(name, data)
    QApplication.processEvents()
    (grip,) = (h for h in figure.anchors.handles if h.isVisible())
    drag(grip, 0, -50)
    (band,) = session.setup.loads
    assert band.end[1] > 0.1 and band.end[0] == pytest.approx(-1.8, abs=0.03)
    assert band.stiffness_N_m == 100.0
    rows = {key: row for _, key, row in editor.rows}
    assert rows["end_up"].spin.value() == pytest.approx(100 * band.end[1], abs=0.06)
    rows["end_ahead"].spin.setValue(-150.0)
    assert session.setup.loads[0].end[0] == pytest.approx(-1.5)
    QTest.keyClick(grip, Qt.Key.Key_Down)
    assert session.setup.loads[0].end[1] == pytest.approx(band.end[1] - 0.01)


def test_a_side_band_s_anchor_is_dragged_in_the_front_view(window):
    """Further to the side, more pull: the band is longer."""
    session = window.session
    session.do(edits.set_variation, "side-banded-split-squat")
    window.bench.show_side(1)
    QApplication.processEvents()
    front = window.bench.front
    grip = next(g for g in front.grips() if g.key == "anchor_aside_m")
    before = np.linalg.norm(pulls(session.results[0])[:, 0], axis=0)
    drag(front, 24, 0, at=grip.at)
    assert session.results[0].case.settings["anchor_aside_m"] > 1.21
    assert (np.linalg.norm(pulls(session.results[0])[:, 0], axis=0) > before + 1.0).all()
