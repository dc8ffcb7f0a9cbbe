"""A panel that lies over another widget and keeps its place on it."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QObject, Qt
from PySide6.QtWidgets import QFrame, QWidget


class Popover(QFrame):
    """Lies over a widget; subclasses say where in `settle`, which is asked again at every resize."""

    def __init__(self, over: QWidget, name: str) -> None:
        super().__init__(over)
        self.over = over
        self.setObjectName(name)
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        over.installEventFilter(self)

    def settle(self) -> None:
        """Take its place."""

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if watched is self.over and event.type() == QEvent.Type.Resize:
            self.settle()
        return super().eventFilter(watched, event)
