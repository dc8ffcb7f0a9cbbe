"""The technique search in the real window."""

import pytest
from hands import click, settle
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from zesty_lever.bench import edits
from zesty_lever.wording.units import UNITS


@pytest.fixture(autouse=True)
def metric():
    UNITS.imperial = False
    yield


def test_a_technique_is_searched_and_opened(window):
    """Lower the lower back under a knee ceiling: better than as set up; opened on the bench it holds; one
    undo goes back."""
    screen = window.screen_named("Technique")
    start = window.session.result.peaks
    screen.ceilings["knee"].setValue(round(start["knee"] * 1.1))
    click(screen, "Search")
    settle(window, lambda: screen.frontier is not None)
    found = screen.frontier.found
    assert found.best.peaks["back"] < start["back"] - 20
    # The figure drawn beside the frontier is solved anew and has the peaks that are told.
    drawn = screen.preview.result.peaks
    assert drawn == pytest.approx(found.best.peaks, rel=0.04, abs=1.0)
    assert "solved" in screen.words.text()
    click(screen, "Open on the bench")
    again = window.session.result.peaks
    assert window.session.result.feasible
    assert again["back"] == pytest.approx(found.best.peaks["back"], rel=0.04)
    assert again["knee"] <= 1.1 * start["knee"] + 3.0
    window.session.history.undo()
    assert window.session.result.peaks["back"] == pytest.approx(start["back"])
    screen.picture.setFocus()
    QTest.keyClick(screen.picture, Qt.Key.Key_Left)
    assert "N·m" in screen.words.text()
    shown = screen.preview.grab().toImage()
    screen.picture.picked.emit(0)
    assert screen.preview.grab().toImage() != shown
    screen.ceilings["knee"].setValue(1)
    click(screen, "Search")
    settle(window, lambda: "keeps those ceilings" in screen.words.text())
    assert screen.preview.result is None


def test_a_technique_found_for_another_variation_opens_as_that(window):
    """The bench goes on while it is searched: the answer is drawn and opened as what was searched about."""
    session = window.session
    screen = window.screen_named("Technique")
    name = session.setup.variation
    click(screen, "Search")
    session.do(edits.set_variation, "hip-thrust")
    settle(window, lambda: screen.frontier is not None)
    assert screen.preview.result.case.variation == name
    screen.picture.picked.emit(0)
    click(screen, "Open on the bench")
    assert session.setup.variation == name
    assert session.result.feasible
    session.history.undo()
    assert session.setup.variation == "hip-thrust"
