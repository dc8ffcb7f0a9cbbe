"""What every screen is: a widget over the session, dressed in a theme, with a sheet that can leave the window."""

from __future__ import annotations

from collections.abc import Iterable

from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QPainter, QSinglePointEvent
from PySide6.QtWidgets import QWidget

from zesty_lever.ui.kit.theme import Theme
from zesty_lever.ui.kit.zoom import ZOOM
from zesty_lever.ui.session import Session


class Themed(QWidget):
    """A widget that paints itself in a theme, on a canvas whose lengths do not depend on the zoom."""

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self.theme = theme

    def set_theme(self, theme: Theme) -> None:
        """Repaint in another theme."""
        self.theme = theme
        self.update()

    def canvas(self) -> QRectF:
        """What is painted on: the widget in lengths of the drawing."""
        return QRectF(0.0, 0.0, self.width() / ZOOM.factor, self.height() / ZOOM.factor)

    def painter(self) -> QPainter:
        """A painter of the widget in lengths of the drawing."""
        painter = QPainter(self)
        painter.scale(ZOOM.factor, ZOOM.factor)
        return painter

    @staticmethod
    def pointed(event: QSinglePointEvent) -> QPointF:
        """Where the pointer is on the canvas."""
        return event.position() / ZOOM.factor


class Screen(QWidget):
    """One screen of the window, made when it is first looked at.

    A screen follows the session by its signals and sends edits back; it overrides what it has of the
    interface below.
    """

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__()
        self.setObjectName("screen")
        self.session, self.theme = session, theme

    def themed(self) -> Iterable[Themed]:
        """The parts that paint themselves."""
        return ()

    def set_theme(self, theme: Theme) -> None:
        """Repaint in another theme."""
        self.theme = theme
        for part in self.themed():
            part.set_theme(theme)

    def show_units(self) -> None:
        """Take over the units in use."""
        self.update()

    def sheet(self) -> QWidget:
        """What is copied, saved and printed of it."""
        return self
