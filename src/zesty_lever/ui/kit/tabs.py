"""A row of tabs that look like the other buttons and are tabs to a screen reader."""

from __future__ import annotations

from collections.abc import Mapping

from PySide6.QtCore import QSignalBlocker, Qt, Signal
from PySide6.QtGui import QKeySequence, QShortcut
from PySide6.QtWidgets import QTabBar

from zesty_lever.ui.kit.theme import font


class Tabs(QTabBar):
    """Names with a tool tip and a shortcut each; ``chosen`` carries the name that was picked."""

    chosen = Signal(str)

    def __init__(
        self, name: str, entries: Mapping[str, tuple[str, str]], pixels: int, *, bold: bool = False
    ) -> None:
        super().__init__()
        self.setFont(font(pixels, bold=bold))
        self.setAccessibleName(name)
        self.setDrawBase(False)
        self.setExpanding(False)
        self.setUsesScrollButtons(False)
        self.setElideMode(Qt.TextElideMode.ElideNone)
        for number, (entry, (tip, keys)) in enumerate(entries.items()):
            self.addTab(entry)
            self.setTabToolTip(number, f"{tip} ({keys}).")
            shortcut = QShortcut(QKeySequence(keys), self)
            shortcut.activated.connect(lambda at=number: self.setCurrentIndex(at))
        self.currentChanged.connect(lambda at: self.chosen.emit(self.tabText(at)))

    def show_name(self, name: str) -> None:
        """Mark another tab without choosing it."""
        with QSignalBlocker(self):
            self.setCurrentIndex([self.tabText(i) for i in range(self.count())].index(name))

    @property
    def name(self) -> str:
        """The name of the tab in front."""
        return self.tabText(self.currentIndex())
