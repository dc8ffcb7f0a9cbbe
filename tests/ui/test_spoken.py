"""The window as a screen reader has it: names, roles, values with units, what changes and what can't be."""

import pytest
from hands import settle
from PySide6.QtCore import Qt
from PySide6.QtGui import QAccessible
from PySide6.QtTest import QTest
from PySide6.QtWidgets import (
    QAbstractSpinBox,
    QApplication,
    QLabel,
    QWidget,
)

from zesty_lever.bench import edits
from zesty_lever.bench.model import Setup
from zesty_lever.ui.bench import figure_view
from zesty_lever.ui.kit.screen import Themed
from zesty_lever.ui.window import SCREENS

ROLE = QAccessible.Role


def heard(widget):
    """What a screen reader gets: role, name, value."""
    interface = QAccessible.queryAccessibleInterface(widget)
    value = interface.valueInterface()
    return (
        interface.role(),
        interface.text(QAccessible.Text.Name),
        value.currentValue() if value is not None else None,
    )


def handle_of(window, key):
    return next(h for h in window.bench.figure.handles if h.kind.key == key and h.isVisible())


def test_handles_are_sliders_that_say_their_value(window):
    """Role, name with value and unit, range; the name follows a change, and a value that a screen reader
    sets becomes the setting."""
    session = window.session
    session.do(edits.set_setting, "shin_deg", 33.0)
    QApplication.processEvents()
    knee = handle_of(window, "shin_deg")
    role, name, value = heard(knee)
    assert role == ROLE.Slider
    assert name == f"{knee.kind.name} 33 degrees"
    assert value == 33
    interface = QAccessible.queryAccessibleInterface(knee).valueInterface()
    interface.setCurrentValue(30)
    QApplication.processEvents()
    assert session.result.case.settings["shin_deg"] == pytest.approx(30.0)
    assert heard(knee)[1] == f"{knee.kind.name} 30 degrees"


def test_the_rep_strip_is_a_slider_over_the_rep(window):
    """It says second, phase and moments; arrows move it, a screen reader's value too."""
    strip, session = window.bench.strip, window.session
    strip.setFocus()
    assert strip.spoken.hasFocus()
    QTest.keyClick(strip.spoken, Qt.Key.Key_Home)
    role, name, value = heard(strip.spoken)
    assert role == ROLE.Slider
    assert value == session.moment == 0
    assert name.startswith("Moment of the rep: 0.0 seconds, down; lower back ")
    assert name.endswith("newton metres")
    QAccessible.queryAccessibleInterface(strip.spoken).valueInterface().setCurrentValue(12)
    assert session.moment == 12
    assert "hardest" in strip.accessibleDescription()


def test_the_map_says_where_the_set_up_stands(window):
    """Both settings with their units; a step by the keys is heard."""
    bench = window.bench
    bench.show_face(2)
    settle(window, lambda: bench.levers.view.map is not None)
    spoken = bench.levers.view.spoken
    before = heard(spoken)
    assert before[0] == ROLE.Slider
    assert before[1].startswith("Map: ")
    assert "degrees" in before[1]
    QTest.keyClick(spoken, Qt.Key.Key_Right)
    QApplication.processEvents()
    assert heard(spoken)[1] != before[1]


def test_screens_and_faces_are_tabs_and_choices_are_radio_buttons(window):
    """Tabs for screens and faces; one of two or three for A and B, sex, school and side."""
    for bar in (window.rail, window.bench.face_tabs):
        interface = QAccessible.queryAccessibleInterface(bar)
        assert interface.role() == ROLE.PageTabList
        assert interface.child(0).role() == ROLE.PageTab
    window.bench.show_face(1)
    radios = [*window.bench.panel.sexes.values(), *window.bench.sides]
    radios += list(window.bench.findings.schools.values())
    assert {heard(button)[0] for button in radios} == {ROLE.RadioButton}
    QTest.keyClick(window.rail, Qt.Key.Key_Right)
    assert window.rail.name == "Line-up"
    assert window.screens.currentWidget() is window.screen_named("Line-up")


def test_everything_that_takes_the_keyboard_has_a_name(window):
    """On every screen; and every label before a field is its buddy or says nothing of its own."""
    session = window.session
    session.do(edits.line_up, 0, Setup(variation="split-squat"))
    nameless = []
    for name in SCREENS:
        window.show_screen(name)
        QApplication.processEvents()
        for widget in window.findChildren(QWidget):
            if widget.focusPolicy() == Qt.FocusPolicy.NoFocus or not widget.isVisible():
                continue
            if widget.focusProxy() is not None or isinstance(
                widget.parentWidget(), QAbstractSpinBox
            ):
                continue
            if not heard(widget)[1]:
                nameless.append((name, type(widget).__name__, type(widget.parentWidget()).__name__))
    assert nameless == []


def test_number_fields_are_named_by_their_labels(window):
    """The label of every setting is its field's buddy."""
    buddies = {label.buddy() for label in window.findChildren(QLabel) if label.buddy()}
    fields = [row.spin for row in window.bench.panel.rows.values()]
    assert fields
    assert set(fields) <= buddies


def test_figures_and_curves_have_a_sentence(window):
    """What is painted is told in one sentence, and follows the set-up."""
    figure, session = window.bench.figure, window.session
    session.do(edits.set_setting, "shin_deg", 31.0)
    QApplication.processEvents()
    said = figure.accessibleDescription()
    assert "shin 31 degrees" in said
    assert said.endswith("newton metres.")
    for variation in ("split-squat", "hip-thrust"):
        session.do(edits.line_up, 0, Setup(variation=variation))
    lineup = window.screen_named("Line-up")
    settle(window, lambda: lineup.table.columnCount() == 2)
    assert lineup.curves.accessibleDescription().startswith("Hip, peak and where it falls: Split")
    assert "Hip thrust" in lineup.picture.accessibleDescription()
    for name in SCREENS:
        screen = window.screen_named(name)
        QApplication.processEvents()
        for part in screen.findChildren(Themed):
            assert part.accessibleName(), (name, type(part).__name__)


def test_an_impossible_pose_is_announced_once(window, monkeypatch):
    """With its reason, and again only when it is another one."""
    said = []
    monkeypatch.setattr(figure_view, "announce", lambda _widget, text: said.append(text))
    session = window.session
    session.do(edits.set_setting, "stance_m", 0.95)
    QApplication.processEvents()
    assert len(said) == 1
    assert said[0].startswith("Not possible: ")
    assert "not possible" in window.bench.figure.accessibleDescription()
    session.history.undo()
    QApplication.processEvents()
    assert len(said) == 1


def test_the_maps_of_shortlist_and_frontier_are_sliders_too(window):
    """They say which variation or technique is chosen, and a value set by a screen reader chooses another."""
    shortlist = window.screen_named("Shortlist")
    settle(window, lambda: bool(shortlist.options))
    role, name, value = heard(shortlist.picture.spoken)
    assert (role, value) == (ROLE.Slider, 0)
    assert name.startswith("1 of ")
    QAccessible.queryAccessibleInterface(shortlist.picture.spoken).valueInterface().setCurrentValue(
        2
    )
    assert shortlist.chosen().variation == shortlist.options[2].variation
    assert heard(shortlist.picture.spoken)[1].startswith("3 of ")
    technique = window.screen_named("Technique")
    technique.ask()
    settle(window, lambda: technique.frontier is not None)
    role, name, _ = heard(technique.picture.spoken)
    assert role == ROLE.Slider
    assert name.startswith("Technique ")
    assert name.endswith("newton metres")
