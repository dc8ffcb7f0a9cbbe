"""What of the line-up leaves the screen, and the words below it."""

from __future__ import annotations

from PySide6.QtCore import QPoint
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import (
    QWidget,
)

NOTE = (
    "Intervals: 90 % of what could be true. As set up: both done exactly as entered, body and tape off as Errors says. As done: "
    "angles and pressure off too, each set-up done and read apart. Open because of the floor: it may push in more than one way. "
    "Estimates for comparing, not a diagnosis and no safety limit. Stop at pain."
)


class Sheet(QWidget):
    """What leaves the screen: the figures over their table, the curves beside them, no controls."""

    def __init__(self, parts: tuple[QWidget, QWidget, QWidget]) -> None:
        super().__init__()
        self._parts = parts

    def laid_out(self) -> QWidget:
        """Itself, as large as its parts are now."""
        figures, table, curves = self._parts
        self.resize(figures.width() + curves.width() + 12, figures.height() + table.height() + 6)
        return self

    def paintEvent(self, event: QPaintEvent) -> None:
        figures, table, curves = self._parts
        painter = QPainter(self)
        painter.fillRect(self.rect(), self.palette().window())
        figures.render(painter, QPoint(0, 0))
        table.render(painter, QPoint(0, figures.height() + 4))
        curves.render(painter, QPoint(figures.width() + 10, 2))
