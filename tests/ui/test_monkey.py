"""A monkey at the window: thousands of keys, clicks and drags with fixed seeds, and nothing may break.

What opens a dialog or a menu of its own loop is left to other tests. Slow: `make test-slow`.
"""

import random

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import (
    QAbstractButton,
    QAbstractSpinBox,
    QApplication,
    QComboBox,
    QFileDialog,
    QLineEdit,
    QSlider,
    QToolButton,
    QWidget,
)

from zesty_lever.bench.files import read_bench, write_bench
from zesty_lever.ui.kit.handle import Handle
from zesty_lever.ui.kit.screen import Themed
from zesty_lever.ui.kit.zoom import ZOOM

EVENTS, SEEDS = 5000, 4
# They open a file dialog, a sheet or a printer.
LEFT_ALONE = (
    "Open a clip",
    "Import",
    "Export",
    "Handout",
    "Understood",
    "Save",
    "Print",
    "Close",
    "Play",
)
KEYS = [
    Qt.Key.Key_Left,
    Qt.Key.Key_Right,
    Qt.Key.Key_Up,
    Qt.Key.Key_Down,
    Qt.Key.Key_Tab,
    Qt.Key.Key_Backtab,
    Qt.Key.Key_Home,
    Qt.Key.Key_End,
    Qt.Key.Key_Return,
    Qt.Key.Key_Escape,
    Qt.Key.Key_Delete,
    *(getattr(Qt.Key, f"Key_{digit}") for digit in range(10)),
    Qt.Key.Key_Minus,
    Qt.Key.Key_Period,
    Qt.Key.Key_Comma,
    *(getattr(Qt.Key, f"Key_{letter}") for letter in "NCHJF"),
    Qt.Key.Key_PageUp,
    Qt.Key.Key_PageDown,
]
SHORTCUTS = ["Z", "Y", *"123456789", "T", "U", "D", "Plus", "Minus", "N"]


class Monkey:
    """Acts on whatever the window shows; ``done`` counts its events."""

    def __init__(self, window, seed):
        self.window, self.random, self.done = window, random.Random(seed), 0

    def some(self, *kinds):
        """A visible, enabled widget of some kinds; None where there is none."""
        found = [
            widget
            for kind in kinds
            for widget in self.window.findChildren(kind)
            if widget.isVisible() and widget.isEnabled() and widget.width() > 4
        ]
        return self.random.choice(found) if found else None

    def spot(self, widget):
        return QPoint(
            self.random.randrange(widget.width()), self.random.randrange(max(widget.height(), 1))
        )

    def key(self):
        target = QApplication.focusWidget() or self.window
        held = self.random.choice(
            [Qt.KeyboardModifier.NoModifier] * 4 + [Qt.KeyboardModifier.ShiftModifier]
        )
        QTest.keyClick(target, self.random.choice(KEYS), held)
        self.done += 2

    def shortcut(self):
        name = self.random.choice(SHORTCUTS)
        QTest.keyClick(
            self.window, getattr(Qt.Key, f"Key_{name}"), Qt.KeyboardModifier.ControlModifier
        )
        self.done += 2

    def press(self):
        button = self.some(QAbstractButton)
        if button is None or button.text().startswith(LEFT_ALONE):
            return
        if isinstance(button, QToolButton) and (
            button.menu() or button.text().startswith(("Keys", "About"))
        ):
            return
        QTest.mouseClick(button, Qt.MouseButton.LeftButton)
        self.done += 2

    def drag(self):
        widget = self.some(Handle, Themed)
        if widget is None:
            return
        at = self.spot(widget)
        QTest.mousePress(widget, Qt.MouseButton.LeftButton, pos=at)
        for _ in range(self.random.randrange(1, 12)):
            at += QPoint(self.random.randrange(-40, 41), self.random.randrange(-40, 41))
            QTest.mouseMove(widget, at)
            self.done += 1
        if self.random.random() < 0.1:
            QTest.keyClick(widget, Qt.Key.Key_Escape)
        QTest.mouseRelease(widget, Qt.MouseButton.LeftButton, pos=at)
        self.done += 2

    def type(self):
        field = self.some(QAbstractSpinBox, QLineEdit)
        if field is None:
            return
        field.setFocus()
        field.selectAll()
        text = self.random.choice(["", "0", "-5", "12,5", "1e9", "99999", "abc", "1.68", "5'6\""])
        QTest.keyClicks(field, text)
        QTest.keyClick(field, Qt.Key.Key_Return)
        self.done += 2 * len(text) + 2

    def choose(self):
        box = self.some(QComboBox, QSlider)
        if box is not None:
            QTest.keyClick(
                box, self.random.choice([Qt.Key.Key_Down, Qt.Key.Key_Up, Qt.Key.Key_End])
            )
            self.done += 2

    def act(self):
        ways = (self.key, self.shortcut, self.press, self.drag, self.type, self.choose)
        self.random.choices(ways, (6, 1, 2, 3, 2, 2))[0]()
        QApplication.processEvents()
        popup = QApplication.activePopupWidget()
        if popup is not None:
            popup.close()
        for sheet in QApplication.topLevelWidgets():
            if (
                sheet is not self.window
                and sheet.isVisible()
                and isinstance(sheet, QWidget)
                and sheet.isModal()
            ):
                sheet.close()


@pytest.mark.slow
@pytest.mark.parametrize("seed", range(SEEDS))
def test_a_monkey_breaks_nothing(window, tmp_path, seed, monkeypatch):
    """No exception in 20,000 events over four seeds; undo all and redo all come back exactly; the bench that
    is left can be written and read, and the window still says what it shows."""
    for name, given_up in (
        ("getOpenFileName", ("", "")),
        ("getSaveFileName", ("", "")),
        ("getExistingDirectory", ""),
    ):
        # Dialogs of files have a loop of their own: each is given up at once.
        monkeypatch.setattr(QFileDialog, name, lambda *_a, _g=given_up, **_k: _g)
    session, start = window.session, window.session.bench
    monkey = Monkey(window, seed)
    try:
        while monkey.done < EVENTS:
            monkey.act()
        history = session.history
        # The monkey may have stopped in the middle of undoing.
        while history.canRedo():
            history.redo()
        last = session.bench
        while history.canUndo():
            history.undo()
        # Up to a hundred steps are kept; with fewer the very first bench is back.
        if not history.undoLimit() or history.count() < history.undoLimit():
            # Which athletes of the records these are is known for good, not a step of history.
            assert session.bench.changed(athlete_ids=()) == start
        while history.canRedo():
            history.redo()
        assert session.bench == last
        write_bench(session.bench, tmp_path / "left.json")
        assert read_bench(tmp_path / "left.json") == session.bench
        assert window.bench.figure.accessibleDescription()
    finally:
        ZOOM.set(1.0)
