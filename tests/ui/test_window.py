"""A coach's session in the real window, with real mouse and key events."""

import gc
from itertools import pairwise

import pytest
from hands import drag, handle, near, painted, settle
from PySide6.QtCore import QEvent, QPoint, QPointF, Qt
from PySide6.QtGui import QColor, QFocusEvent, QPageLayout
from PySide6.QtPrintSupport import QPrintPreviewDialog, QPrintPreviewWidget
from PySide6.QtTest import QTest
from PySide6.QtWidgets import (
    QApplication,
    QPushButton,
)

from zesty_lever.analysis import analyse
from zesty_lever.bench import edits
from zesty_lever.exercises.catalogue import catalogue
from zesty_lever.joints import JOINTS
from zesty_lever.ui.kit.controls import NumberRow
from zesty_lever.ui.paint.levers import lever_marks
from zesty_lever.wording.sentences import FRONT_LOAD, THEOREM


def test_drag_the_knee(window):
    """The shin follows the pointer, the trunk stays solved; the figure follows every step, numbers and curves on
    the way and at the end."""
    session, figure = window.session, window.bench.figure
    before = session.results[0]
    seen = []
    told = []
    for signal in (session.changed, session.posed):
        signal.connect(
            lambda: seen.append(
                (
                    session.result.shown.bottom_deg["shin_deg"],
                    window.bench.strip.curve(session.result, "knee_right"),
                )
            )
        )
    session.changed.connect(lambda: told.append(window.bench.demand.board.spoken()))
    knob = handle(window, "knee_right")
    drag(knob, -22, 0)
    after = session.results[0]
    assert after.shown.bottom_deg["shin_deg"] < before.shown.bottom_deg["shin_deg"] - 4
    assert after.shown.bottom_deg["thigh_deg"] == before.shown.bottom_deg["thigh_deg"]
    assert after.case.settings["trunk_deg"] is None
    assert len(seen) >= 5  # it followed on the way, not only at the end
    assert len(told) >= 2
    assert told[-1] == window.bench.demand.board.spoken() != told[0]
    assert seen[0][1] != seen[-1][1]
    at = after.timeline.bottom
    centre = after.shown.pose.system_centre()[0, at]
    assert centre == pytest.approx(after.shown.contacts.points[0, 0, at], abs=1e-9)
    knee = figure.view.point(after.shown.pose.points["knee_right"][:, at])
    assert (QPointF(knob.geometry().center()) - knee).manhattanLength() < 4
    assert session.history.count() == 1
    session.history.undo()
    assert session.results[0].shown.bottom_deg == before.shown.bottom_deg
    session.history.redo()
    assert session.results[0].shown.bottom_deg == after.shown.bottom_deg


def test_drag_the_hip(window):
    """Lifting the hip raises the thigh; the shin, left to its default, goes along as on the athlete's own way down."""
    before = window.session.results[0].shown.bottom_deg
    drag(handle(window, "hip_mid"), 0, -40)
    after = window.session.results[0].shown.bottom_deg
    assert after["thigh_deg"] > before["thigh_deg"] + 8
    assert before["shin_deg"] - 4.0 < after["shin_deg"] < before["shin_deg"]


def test_drag_the_shoulder_moves_the_shin_that_balances_it(window):
    """The trunk is the solved one: asking for another lean finds the shin that makes it so."""
    before = window.session.results[0].shown.bottom_deg
    drag(handle(window, "shoulder_mid"), 30, 12)
    session = window.session
    after = session.results[0]
    assert after.shown.bottom_deg["trunk_deg"] > before["trunk_deg"] + 4
    assert after.shown.bottom_deg["shin_deg"] < before["shin_deg"] - 1
    assert after.case.settings["trunk_deg"] is None
    assert session.free == "trunk_deg"


def test_escape_gives_a_drag_up(window):
    """Half-way through, Esc: all is as before and nothing is in the history."""
    before = window.session.bench
    knob = handle(window, "knee_right")
    QTest.mousePress(knob, Qt.MouseButton.LeftButton, pos=knob.rect().center())
    QTest.mouseMove(knob, knob.rect().center() + QPoint(-30, 0))
    assert window.session.bench != before
    QTest.keyClick(knob, Qt.Key.Key_Escape)
    assert window.session.bench == before
    assert window.session.history.count() == 0


@pytest.mark.parametrize(
    ("joint", "key"),
    [("knee_right", "shin_deg"), ("hip_mid", "thigh_deg"), ("shoulder_mid", "trunk_deg")],
)
def test_arrows_move_a_handle_by_degrees(window, joint, key):
    """1 degree, with Shift 5; undo by the window's own shortcut."""
    session, knob = window.session, handle(window, joint)
    start = session.results[0].shown.bottom_deg[key]
    knob.setFocus()
    QTest.keyClick(knob, Qt.Key.Key_Right)
    assert session.results[0].shown.bottom_deg[key] == pytest.approx(start + 1, abs=0.02)
    QTest.keyClick(knob, Qt.Key.Key_Down, Qt.KeyboardModifier.ShiftModifier)
    assert session.results[0].shown.bottom_deg[key] == pytest.approx(start - 4, abs=0.03)
    QTest.keyClick(knob, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    QTest.keyClick(knob, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert session.results[0].shown.bottom_deg[key] == pytest.approx(start, abs=1e-6)


@pytest.mark.parametrize("frame", [30, 18, 10])
def test_painted_levers_match_the_resolved_result(window, frame):
    """Ends and product of every lever against the case solved anew; and the beam is really there.

    On screen to a tenth of a pixel; the beam's colour is looked up in the picture itself.
    """
    session, figure = window.session, window.bench.figure
    drag(handle(window, "knee_right"), -10, 0)
    session.set_moment(frame)
    QApplication.processEvents()
    anew, view = analyse(session.bench.case(0)), figure.view
    image = painted(window)
    for mark in lever_marks(session.result, figure.frame, view):
        row = JOINTS.index(mark.joint)
        joint = anew.shown.pose.points[mark.joint][:2, frame]
        vector, force = (
            anew.shown.moments.vector[:, row, frame],
            anew.shown.moments.force[:, row, frame],
        )
        # The line of a vertical resultant: its moment about the joint is what the joint balances.
        line_x = joint[0] - vector[2] / force[1]
        assert abs(mark.start.x() - view.at(*joint).x()) < 0.1
        assert abs(mark.start.y() - view.at(*joint).y()) < 0.1
        assert abs(mark.end.x() - view.at(line_x, joint[1]).x()) < 0.1
        assert abs(mark.end.y() - mark.start.y()) < 0.1
        assert abs(mark.moment_Nm) == pytest.approx(abs(vector[2]), abs=1e-9)
        assert f"{abs(vector[2]):.0f} N·m" in mark.text
        if abs(mark.end.x() - mark.start.x()) > 50:
            place = mark.start + 0.35 * (mark.end - mark.start)
            seen = QColor(image.pixel(place.toPoint()))
            assert near(seen, window.theme.joint(mark.joint)) < 40, mark.joint


def test_tiles_show_the_side_view_product(window):
    """The board's products are force x arm of the result at the moment shown."""
    from zesty_lever.ui.paint.tiles import Scale, product_at

    result = window.session.results[0]
    product = product_at(result, "knee_right", 30)
    row = JOINTS.index("knee_right")
    assert product.moment_Nm == pytest.approx(result.shown.moments.vector[2, row, 30])
    scale = Scale.fit([product], 200, 100)
    tile = scale.tile(product, QPointF(0, 100))
    area = tile.width() * tile.height() / (scale.px_per_m * scale.px_per_N)
    assert area == pytest.approx(abs(product.moment_Nm))
    assert "side view" in window.bench.demand.board.accessibleName()


def test_measured_thigh_is_marked_and_can_go_back(window):
    """The demo athlete's thigh is measured; pressing the mark returns to the estimate."""
    panel, session = window.bench.panel, window.session
    assert panel.thigh_source.text() == "measured"
    knee_before = session.results[0].summary["knee_left"].peak_Nm
    QTest.mouseClick(panel.thigh_source, Qt.MouseButton.LeftButton)
    assert panel.thigh_source.text() == "estimated"
    assert "thigh" not in session.bench.athlete.lengths_m
    assert session.results[0].summary["knee_left"].peak_Nm != knee_before
    session.history.undo()
    assert session.bench.athlete.lengths_m == {"thigh": 0.43}


def test_the_solved_angle_can_be_switched(window):
    """Press *solve* at the shin: the trunk keeps its number, the shin says solved, no pose change."""
    session, rows = window.session, window.bench.panel.rows
    before = dict(session.results[0].shown.bottom_deg)
    QTest.mouseClick(rows["shin_deg"].switch, Qt.MouseButton.LeftButton)
    assert session.free == "shin_deg"
    assert rows["shin_deg"].switch.text() == "solved"
    assert rows["shin_deg"].spin.isReadOnly()
    assert rows["trunk_deg"].switch.text() == "solve"
    for key, value in session.results[0].shown.bottom_deg.items():
        assert value == pytest.approx(before[key], abs=0.01)
    QTest.mouseClick(
        rows["shin_deg"].switch, Qt.MouseButton.LeftButton
    )  # pressing again: no change
    assert rows["shin_deg"].switch.isChecked()
    assert session.free == "shin_deg"


def test_a_pose_that_can_t_even_be_drawn_breaks_nothing(window, monkeypatch):
    """Nothing can be drawn near it: no handle is left to hold, the one in the hand does nothing, it comes back."""
    monkeypatch.setattr("zesty_lever.ui.session.nearest_drawable", lambda _case: None)
    session, knee = window.session, handle(window, "knee_right")
    start = session.bench
    QTest.mousePress(knee, Qt.MouseButton.LeftButton, pos=knee.rect().center())
    # Hips far over the knees and shins leant back: no trunk brings the load over the feet.
    session.preview(edits.drag_setting, "thigh_deg", -20.0)
    session.preview(edits.drag_setting, "shin_deg", -10.0)
    assert session.drawn is None
    assert not session.result.frames
    for step in (4, 9, 15):
        QTest.mouseMove(knee, knee.rect().center() + QPoint(step, -step))
    assert not painted(window).isNull()
    assert not knee.isVisible()
    assert not window.bench.front.grips()
    QTest.mouseRelease(knee, Qt.MouseButton.LeftButton, pos=knee.rect().center())
    while session.history.canUndo():
        session.history.undo()
    assert session.bench == start
    assert knee.isVisible()
    assert session.drawn is not None


def test_impossible_poses_say_why_and_show_no_numbers(window):
    """A stance of 105 cm: the reason in words, *not possible* on the board, an outline drawn."""
    session, rows = window.session, window.bench.panel.rows
    rows["stance_m"].spin.setValue(105)
    result = session.results[0]
    assert result.error is not None
    assert "legs are too short" in result.error.text or "opens" in result.error.text
    settle(window, lambda: "works from" in session.results[0].error.text)
    assert "not possible" in window.bench.demand.board.spoken()
    assert "nothing to compare" in window.bench.demand.said.text()
    assert window.bench.strip.curve(result, "hip_right").size() == 0
    assert session.drawable[0].frames
    image = painted(window)
    warn = QColor(window.theme.warn)
    reds = sum(
        near(QColor(image.pixel(x, y)), warn) < 60
        for x in range(0, image.width(), 2)
        for y in range(80, image.height(), 2)
    )
    assert reds > 30
    session.history.undo()
    assert session.results[0].feasible


def test_a_refused_change_leaves_everything(window):
    """A trunk that no shin balances: said in words, nothing changed, nothing in the history."""
    session = window.session
    before = session.bench
    session.do(edits.set_setting, "trunk_deg", -20.0)
    assert session.bench == before
    assert "No shin angle balances that" in window.bench.figure.message


def test_balance_theorem_is_told_where_it_applies(window):
    """B gets A's legs and load: hip and knee tiles agree and the sentence stands; undo takes it away."""
    assert window.bench.demand.said.text() != THEOREM
    QTest.mouseClick(window.bench.demand.legs, Qt.MouseButton.LeftButton)
    assert window.bench.demand.said.text() == THEOREM
    a, b = window.session.results
    at = a.timeline.bottom
    for joint in ("hip_left", "knee_left", "ankle_left"):
        row = JOINTS.index(joint)
        assert a.shown.moments.extension[row, at] == pytest.approx(
            b.shown.moments.extension[row, at], abs=0.05
        )
    window.session.history.undo()
    assert window.bench.demand.said.text() != THEOREM


def test_match_load_by_equal_knee(window):
    """B's load is looked for beside the window so that the knee's peak equals A's; an impossible A is told."""
    session, panel = window.session, window.bench.demand
    before = session.bench.setups[1].load_kg
    next(a for a in panel.match.menu().actions() if "knee" in a.text()).trigger()
    settle(window, lambda: session.bench.setups[1].load_kg != before)
    a, b = (r.summary["knee_left"].peak_Nm for r in session.results)
    assert b == pytest.approx(a, abs=0.2)
    session.do(edits.set_setting, "stance_m", 1.0)
    panel.match_load("equal:hip")
    settle(
        window,
        lambda: (
            "legs are too short" in window.bench.figure.message
            or "opens" in window.bench.figure.message
        ),
    )


def test_scrub_through_the_rep(window):
    """Mouse and keys on the strip move the figure; Home is the top, End the bottom."""
    strip, session = window.bench.strip, window.session
    plot = strip.plot
    QTest.mouseClick(
        strip, Qt.MouseButton.LeftButton, pos=QPoint(int(plot.left()) + 2, int(plot.center().y()))
    )
    assert session.moment <= 3
    top = handle(window, "hip_mid").y()
    strip.setFocus()
    QTest.keyClick(strip, Qt.Key.Key_End)
    assert session.moment == session.result.timeline.bottom
    assert handle(window, "hip_mid").y() != top
    QTest.keyClick(strip, Qt.Key.Key_Left)
    assert session.moment == session.result.timeline.bottom - 1
    QTest.keyClick(strip, Qt.Key.Key_Home)
    assert session.moment == 0
    QTest.keyClick(handle(window, "knee_right"), Qt.Key.Key_Right)  # handles work at the bottom
    assert session.moment == session.result.timeline.bottom


def test_every_variation_and_school_can_be_picked(window):
    """Through the pickers, with the keyboard; each shows a figure with numbers."""
    panel, session = window.bench.panel, window.session
    panel.variations.setFocus()
    QTest.keyClick(panel.variations, Qt.Key.Key_Home)
    seen = []
    for _ in catalogue():
        panel.variations.activated.emit(panel.variations.currentIndex())
        QApplication.processEvents()
        seen.append(session.setup.variation)
        assert session.result.feasible, session.result.error
        assert session.result.timeline.progress[session.moment] > 0.999
        assert set(panel.rows) == set(catalogue()[session.setup.variation].settings)
        assert "nan" not in window.bench.demand.board.spoken()
        QTest.keyClick(panel.variations, Qt.Key.Key_Down)
    assert seen == list(catalogue())
    for index in range(panel.schools.count()):
        panel.schools.activated.emit(index)
        assert session.result.feasible


def test_what_is_half_typed_is_not_taken_for_the_next_variation(window):
    """A number typed but not entered, and another variation comes: nothing is set, and no old row stays."""
    session, panel = window.session, window.bench.panel
    for first, second, key, focused in (
        ("goblet-squat", "front-squat", "stance_m", True),
        ("hip-thrust", "back-squat-low-bar", "feet_height_m", True),
        ("hip-thrust", "back-squat-low-bar", "feet_height_m", False),
        ("split-squat", "goblet-squat", "trunk_deg", True),
        ("band-hinge", "romanian-deadlift", "band_N_m", True),
    ):
        session.do(edits.set_variation, first)
        spin = panel.rows[key].spin
        (spin if focused else panel.reset).setFocus()
        spin.selectAll()
        QTest.keyClicks(spin, "33")
        session.do(edits.set_variation, second)
        QApplication.processEvents()
        if key not in panel.rows:
            # Whatever still reaches the old row.
            QTest.keyClicks(spin, "4")
            QApplication.sendEvent(spin, QFocusEvent(QEvent.Type.FocusOut))
        assert session.setup.settings == {}
        assert session.history.undoText() == f"Change to {catalogue()[second].name}"
        shown = {r for r in panel.findChildren(NumberRow) if r.isVisible() and r.setting.key == key}
        assert shown == ({panel.rows[key]} if key in panel.rows else set())
        for own in panel.rows.values():
            assert own.spin.value() == pytest.approx(own.spin.valueFromText(own.spin.text()))


def test_the_tab_key_goes_down_the_column(window):
    """From the load through every setting to the default technique, whatever stood there before."""
    session, panel = window.session, window.bench.panel
    window.activateWindow()
    for name in ("hip-thrust", "goblet-squat", "split-squat", "back-squat-high-bar"):
        session.do(edits.set_variation, name)
        QApplication.processEvents()
        panel.loads.up_row.spin.setFocus()
        order, at = [], panel.loads.up_row.spin
        while at is not panel.reset and len(order) < 200:
            at = at.nextInFocusChain()
            if at.isVisible() and at.focusPolicy() & Qt.FocusPolicy.TabFocus:
                order.append(at)
        rows = [field for row in panel.rows.values() for field in row.fields]
        assert [at for at in order if at in rows] == rows
        assert order[-1] is panel.reset
        tops = [field.mapTo(panel, QPoint()).y() for field in order]
        # Beside each other, a switch stands a few pixels higher than its number.
        assert max(a - b for a, b in pairwise(tops)) < 12


def test_swap_and_edit_b(window):
    """Alt+2 edits B; Swap exchanges the two; both can be undone."""
    session = window.session
    names = [s.variation for s in session.bench.setups]
    QTest.keyClick(window, Qt.Key.Key_2, Qt.KeyboardModifier.AltModifier)
    assert session.editing == 1
    assert window.bench.panel.setup_heading.text() == "Set-up B"
    swap = next(b for b in window.findChildren(QPushButton) if b.text() == "Swap")
    QTest.mouseClick(swap, Qt.MouseButton.LeftButton)
    assert [s.variation for s in session.bench.setups] == names[::-1]
    session.history.undo()
    session.history.undo()
    assert session.editing == 0
    assert [s.variation for s in session.bench.setups] == names


def test_athletes_can_be_added_renamed_and_switched(window):
    """New, a name typed on the Athlete screen, back to the first; all of it undoable. The bench only switches."""
    session, panel = window.session, window.bench.panel
    QTest.mouseClick(panel.new, Qt.MouseButton.LeftButton)
    assert len(session.bench.athletes) == 3
    assert not panel.athletes.isEditable()
    typed = window.screen_named("Athlete").who.name
    typed.setFocus()
    typed.selectAll()
    QTest.keyClicks(typed, "Jorun Aske")
    QTest.keyClick(typed, Qt.Key.Key_Return)
    window.show_screen("Bench")
    assert session.bench.athlete.name == "Jorun Aske"
    panel.athletes.activated.emit(0)
    assert session.bench.athlete.name == "Oda Fenwick"
    while session.history.canUndo():
        session.history.undo()
    assert len(session.bench.athletes) == 2


def test_standing_with_a_front_load_is_explained(window):
    """Where the model differs from *nothing to do when standing*, the bench says why."""
    session, said = window.session, window.bench.demand.said
    session.set_moment(0)
    assert said.text() != FRONT_LOAD
    session.do(edits.set_variation, "front-squat")
    session.set_moment(0)
    assert said.text() == FRONT_LOAD
    assert 0.125 <= session.result.summary["lumbosacral"].lockout_to_peak <= 0.25
    session.set_moment(session.result.timeline.bottom)
    assert said.text() != FRONT_LOAD


def test_the_print_preview_opens_and_prints(window):
    """Ctrl+P: the dialog lives on its own printer and draws a page; garbage collection between."""
    QTest.keyClick(window, Qt.Key.Key_P, Qt.KeyboardModifier.ControlModifier)
    gc.collect()
    QApplication.processEvents()
    dialog = next(w for w in QApplication.topLevelWidgets() if isinstance(w, QPrintPreviewDialog))
    assert dialog.isVisible()
    assert dialog.printer().pageLayout().orientation() == QPageLayout.Orientation.Landscape
    shown = dialog.findChild(QPrintPreviewWidget)
    shown.updatePreview()
    assert shown.pageCount() == 1
    dialog.close()
