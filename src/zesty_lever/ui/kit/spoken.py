"""What is painted, for screen readers: sliders that speak, and announcements."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QObject, Qt, Signal
from PySide6.QtGui import (
    QAccessible,
    QAccessibleAnnouncementEvent,
    QFocusEvent,
    QKeyEvent,
    QPaintEvent,
    QWheelEvent,
)
from PySide6.QtWidgets import QAbstractSlider, QWidget


class SpeakingSlider(QAbstractSlider):
    """A slider whose name says its value with its unit; ``wanted``: someone else than us has set it.

    It never takes the wheel, and what its keys do is its owner's.
    """

    wanted = Signal(int)

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self._telling = False
        self.valueChanged.connect(self._pass_on)

    def tell(self, words: str, value: int, low: int, high: int) -> None:
        """Say where it stands: ``words`` with the value and its unit, the value in steps between its ends."""
        self._telling = True
        try:
            self.setRange(min(low, value), max(high, value))
            self.setAccessibleName(words)
            self.setValue(value)
        finally:
            self._telling = False

    def _pass_on(self, value: int) -> None:
        if not self._telling:
            self.wanted.emit(value)

    def wheelEvent(self, event: QWheelEvent) -> None:
        event.ignore()


class Spoken(SpeakingSlider):
    """Lies unseen over a painted widget and has its keyboard focus: a plot that is a slider to a screen reader."""

    def __init__(self, over: QWidget) -> None:
        super().__init__(over)
        self._over = over
        self.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        self.setFocusPolicy(over.focusPolicy())
        self.setToolTip(over.toolTip())
        self.setAccessibleName(over.accessibleName())
        over.setFocusProxy(self)
        over.installEventFilter(self)
        self.resize(over.size())

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if watched is self._over and event.type() == QEvent.Type.Resize:
            self.resize(self._over.size())
        return super().eventFilter(watched, event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        self._over.keyPressEvent(event)

    def focusInEvent(self, event: QFocusEvent) -> None:
        super().focusInEvent(event)
        self._over.update()

    def focusOutEvent(self, event: QFocusEvent) -> None:
        super().focusOutEvent(event)
        self._over.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        """Nothing: what lies below is painted."""


def announce(widget: QWidget, text: str) -> None:
    """Have a screen reader say something that happened without being asked for."""
    QAccessible.updateAccessibility(QAccessibleAnnouncementEvent(widget, text))
