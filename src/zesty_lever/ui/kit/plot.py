"""One plot for all screens: axes with round ticks, values to pixels and back, marks, pressing and dragging."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF

from zesty_lever.frozen import dataclass
from zesty_lever.ui.kit.screen import Themed
from zesty_lever.ui.kit.theme import Theme, font
from zesty_lever.wording.units import minus

# Ticks along an axis stand at least so far apart, px; and an axis has at most so many steps.
APART_PX, APART_UP_PX, MOST_STEPS = 66.0, 30.0, 10.0
ARROWS = {
    Qt.Key.Key_Right: (1, 0),
    Qt.Key.Key_Left: (-1, 0),
    Qt.Key.Key_Up: (0, 1),
    Qt.Key.Key_Down: (0, -1),
}
Words = Callable[[float], str]


def whole(value: float) -> str:
    """A number as a whole one."""
    return f"{value:.0f}"


def nice_step(about: float) -> float:
    """A round step of at least a size: 1, 2 or 5 times a power of ten."""
    power = 10.0 ** np.floor(np.log10(max(about, 1e-6)))
    return float(
        next(f for f in (1.0, 2.0, 5.0, 10.0) if f * power >= about * (1.0 - 1e-9)) * power
    )


@dataclass(frozen=True)
class Axis:
    """Least and most value along one side of a plot."""

    low: float
    high: float

    def share(self, value: float) -> float:
        """Where a value lies, 0 to 1."""
        return (value - self.low) / (self.high - self.low)

    def value(self, share: float) -> float:
        """The value at a share, held inside the axis."""
        return self.low + min(max(share, 0.0), 1.0) * (self.high - self.low)

    def ticks(self, most: float) -> list[float]:
        """Round values inside the axis, at most so many steps apart from end to end."""
        step = nice_step((self.high - self.low) / max(most, 1.0))
        count = np.arange(np.ceil(self.low / step - 1e-9), np.floor(self.high / step + 1e-9) + 1.0)
        return [float(v) + 0.0 for v in count * step]


@dataclass(frozen=True)
class Axes:
    """Two axes over an area of the screen."""

    area: QRectF
    across: Axis
    up: Axis

    def at(self, x: float, y: float) -> QPointF:
        """Screen place of two values."""
        area = self.area
        return QPointF(
            area.left() + area.width() * self.across.share(x),
            area.bottom() - area.height() * self.up.share(y),
        )

    def values(self, at: QPointF) -> tuple[float, float]:
        """Two values of a screen place, held inside the axes."""
        area = self.area
        across = self.across.value((at.x() - area.left()) / area.width())
        return across, self.up.value((area.bottom() - at.y()) / area.height())

    def curve(self, x: NDArray[np.float64], y: NDArray[np.float64]) -> QPolygonF:
        """Screen points of a curve, values ``(n,)`` each."""
        area = self.area
        right = area.left() + area.width() * (x - self.across.low) / (
            self.across.high - self.across.low
        )
        down = area.bottom() - area.height() * (y - self.up.low) / (self.up.high - self.up.low)
        return QPolygonF([QPointF(*p) for p in zip(right.tolist(), down.tolist(), strict=True)])

    def paint_ticks(
        self,
        painter: QPainter,
        theme: Theme,
        across: Words | None = whole,
        up: Words | None = whole,
    ) -> None:
        """Lines at round values with their numbers below and left of the area (None: no such axis)."""
        area = self.area
        painter.setFont(font(12))
        if across is not None:
            for value in self.across.ticks(min(area.width() / APART_PX, MOST_STEPS)):
                x = self.at(value, self.up.low).x()
                painter.setPen(QPen(QColor(theme.line), 1))
                painter.drawLine(QPointF(x, area.top()), QPointF(x, area.bottom()))
                painter.setPen(QColor(theme.faint))
                box = QRectF(x - 40, area.bottom() + 3, 80, 15)
                painter.drawText(box, Qt.AlignmentFlag.AlignHCenter, minus(across(value)))
        if up is not None:
            for value in self.up.ticks(min(area.height() / APART_UP_PX, MOST_STEPS)):
                y = self.at(self.across.low, value).y()
                painter.setPen(QPen(QColor(theme.line), 1))
                painter.drawLine(QPointF(area.left(), y), QPointF(area.right(), y))
                painter.setPen(QColor(theme.faint))
                box = QRectF(area.left() - 58, y - 8, 52, 16)
                painter.drawText(box, Qt.AlignmentFlag.AlignRight, minus(up(value)))


def nearest(spots: Iterable[QPointF], at: QPointF, within_px: float) -> int | None:
    """Index of the spot nearest to a place, None where none is within so many pixels."""
    gaps = [float(np.hypot(spot.x() - at.x(), spot.y() - at.y())) for spot in spots]
    if not gaps or min(gaps) > within_px:
        return None
    return int(np.argmin(gaps))


class Plot(Themed):
    """A plot with the keyboard's focus, to press, drag and step through; subclasses give axes and marks.

    ``margins`` are left, top, right, bottom (px) about the plot's area.
    """

    margins: Sequence[float] = (56, 18, 24, 46)
    # What is said in place of the plot while there is nothing to show.
    empty = ""

    def __init__(self, name: str, tip: str, theme: Theme) -> None:
        super().__init__(theme)
        self.dragging = False
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(name)
        self.setToolTip(tip)

    @property
    def plot(self) -> QRectF:
        """The plot's area."""
        left, top, right, bottom = self.margins
        return self.canvas().adjusted(left, top, -right, -bottom)

    def axes(self) -> Axes | None:
        """The axes as they are now; None while there is nothing to show."""
        return None

    def paint_marks(self, painter: QPainter, axes: Axes) -> None:
        """Everything on the plot."""

    def pressed(self, axes: Axes, at: QPointF) -> bool:
        """The plot is pressed at a place; whether a drag begins."""
        del axes, at
        return False

    def dragged(self, across: float, up: float) -> None:
        """A drag has come to two values."""

    def dropped(self) -> None:
        """A drag ends."""

    def stepped(self, across: int, up: int) -> bool:
        """An arrow key asks for a step; whether it means anything here."""
        del across, up
        return False

    def mousePressEvent(self, event: QMouseEvent) -> None:
        axes = self.axes()
        if axes is not None and event.button() == Qt.MouseButton.LeftButton:
            self.dragging = self.pressed(axes, self.pointed(event))
            if self.dragging:
                self.dragged(*axes.values(self.pointed(event)))

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        axes = self.axes()
        if self.dragging and axes is not None:
            self.dragged(*axes.values(self.pointed(event)))

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self.dragging:
            self.dragging = False
            self.dropped()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        way = ARROWS.get(Qt.Key(event.key()))
        if way is None or not self.stepped(*way):
            super().keyPressEvent(event)

    def paint_frame(self, painter: QPainter, area: QRectF) -> None:
        """Ground and border, bolder while the keyboard is here."""
        theme, focused = self.theme, self.hasFocus()
        painter.setPen(QPen(QColor(theme.ink if focused else theme.line), 2 if focused else 1))
        painter.setBrush(QColor(theme.panel))
        painter.drawRoundedRect(area.adjusted(1, 1, -1, -1), 4, 4)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = self.painter()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self.paint_frame(painter, self.canvas())
        axes = self.axes()
        if axes is not None:
            self.paint_marks(painter, axes)
        elif self.empty:
            painter.setFont(font(12))
            painter.setPen(QColor(self.theme.faint))
            flags = Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap
            painter.drawText(self.canvas().adjusted(8, 8, -8, -8), flags, self.empty)
