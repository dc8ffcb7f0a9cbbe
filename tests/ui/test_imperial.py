"""In inches and pounds nothing on any screen is left in centimetres or kilograms."""

import re

import pytest
from hands import settle
from PySide6.QtWidgets import (
    QAbstractButton,
    QAbstractSpinBox,
    QApplication,
    QComboBox,
    QLabel,
    QLineEdit,
    QListWidget,
    QTableWidget,
    QWidget,
)

from zesty_lever.bench import edits
from zesty_lever.bench.model import Setup
from zesty_lever.ui.window import SCREENS
from zesty_lever.wording.units import UNITS

METRIC = re.compile(r"\d\s?(cm|kg|m)\b(?!\w)")


@pytest.fixture
def imperial(window):
    window.switch_units()
    yield window
    UNITS.imperial = False


def words_of(widget: QWidget) -> list[str]:
    """Everything that a widget shows, says or explains."""
    found = [widget.toolTip(), widget.accessibleName(), widget.accessibleDescription()]
    if isinstance(widget, QLabel | QAbstractButton | QLineEdit):
        found.append(widget.text())
    if isinstance(widget, QAbstractSpinBox):
        found.append(widget.text())
    if isinstance(widget, QComboBox):
        found += [widget.itemText(i) for i in range(widget.count())]
    if isinstance(widget, QListWidget):
        found += [widget.item(i).text() for i in range(widget.count())]
    if isinstance(widget, QTableWidget):
        cells = [
            widget.item(r, c) for r in range(widget.rowCount()) for c in range(widget.columnCount())
        ]
        found += [cell.text() for cell in cells if cell is not None]
    text = getattr(widget, "text", None)
    return [*found, text() if callable(text) else ""]


def left_in_metric(window) -> set[str]:
    QApplication.processEvents()
    found = set()
    for widget in window.findChildren(QWidget):
        for text in words_of(widget):
            if isinstance(text, str) and METRIC.search(text.replace("N·m", "")):
                found.add(f"{type(widget).__name__}: {text}")
    return found


def test_no_screen_is_left_in_centimetres_or_kilograms(imperial):
    """Every screen with its panels, sensitivities, errors, lists and tool tips."""
    window, session = imperial, imperial.session
    session.do(edits.line_up, 0, Setup(variation="split-squat"))
    session.do(edits.line_up, 0, Setup(variation="hip-thrust"))
    for name in SCREENS:
        screen = window.screen_named(name)
        if name == "Line-up":
            settle(window, lambda s=screen: s.table.columnCount() == 2 and bool(s.found.shapes))
        if name == "Shortlist":
            settle(window, lambda s=screen: bool(s.options))
        if name == "Technique":
            screen.ask()
            settle(window, lambda s=screen: s.frontier is not None)
        assert not left_in_metric(window), name


def test_findings_sensitivities_and_refusals_are_turned_too(imperial):
    """What a fault's finding says, what matters, and what is refused."""
    window, session = imperial, imperial.session
    window.show_screen("Bench")
    session.do(edits.set_setting, "knee_track_m", -0.04)
    bench = window.bench
    bench.show_face(1)
    settle(window, lambda: bench.findings.room is not None and bool(bench.findings.effects))
    assert not left_in_metric(window)
    bench.show_face(2)
    settle(window, lambda: bench.levers.view.map is not None)
    assert not left_in_metric(window)
    assert any(slope.per == "per in" for slope in bench.levers.board.slopes)
    session.do(edits.set_setting, "stance_m", 1.4)
    QApplication.processEvents()
    assert not METRIC.search(bench.figure.message)
    session.refused.emit("move the feet 6 cm closer")
    assert not METRIC.search(bench.figure.message)


def test_words_of_the_core_are_turned():
    """Numbers, ranges and signs; moments stay."""
    UNITS.imperial = True
    try:
        said = {
            "move 6 cm closer": "move 2.4 in closer",
            "it has to be 0.1 to 0.9 m": "it has to be 3.9 to 35 in",
            "70 % of the 34 kg that hands hold": "70 % of the 75 lb that hands hold",
            "121 N·m, 2.1 N·m/kg": "121 N·m, 2.1 N·m/kg",
            "±2 cm": "±0.8 in",
        }
        assert {text: UNITS.in_words(text) for text in said} == said
    finally:
        UNITS.imperial = False
    assert UNITS.in_words("6 cm") == "6 cm"
