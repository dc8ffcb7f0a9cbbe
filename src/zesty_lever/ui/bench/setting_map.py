"""The map of two settings that can be dragged in: peak by colour, contours, the set-up as a point."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import (
    QWidget,
)

from zesty_lever.choosing.sensitivity import Map
from zesty_lever.exercises.catalogue import variation
from zesty_lever.ui.kit.theme import Theme, font
from zesty_lever.ui.session import Session
from zesty_lever.wording.units import UNITS, minus

BANDS = 8


class MapView(QWidget):
    """Two settings against each other: shaded by a joint's moment, contours, the point at hand."""

    dragged = Signal(float, float)
    dropped = Signal()
    nudged = Signal(int, int)

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__()
        self.session, self.theme = session, theme
        self.map: Map | None = None
        self._held = False
        self.setMinimumHeight(230)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Map of two settings")
        self.setToolTip(
            "Drag the ring: both settings follow. Arrow keys move it a step. Hatched: can't be done."
        )

    def sizeHint(self) -> QSize:
        return QSize(320, 270)

    @property
    def plot(self) -> QRectF:
        """Area of the map."""
        return QRectF(self.rect()).adjusted(44, 8, -10, -34)

    def to_screen(self, across: float, up: float) -> QPointF:
        """Screen place of two values."""
        assert self.map is not None
        area, m = self.plot, self.map
        x = (across - m.across[0]) / (m.across[-1] - m.across[0])
        y = (up - m.up[0]) / (m.up[-1] - m.up[0])
        return QPointF(area.left() + x * area.width(), area.bottom() - y * area.height())

    def from_screen(self, at: QPointF) -> tuple[float, float]:
        """Two values of a screen place, held inside the map."""
        assert self.map is not None
        area, m = self.plot, self.map
        x = min(max((at.x() - area.left()) / area.width(), 0.0), 1.0)
        y = min(max((area.bottom() - at.y()) / area.height(), 0.0), 1.0)
        return float(m.across[0] + x * (m.across[-1] - m.across[0])), float(
            m.up[0] + y * (m.up[-1] - m.up[0])
        )

    def point(self) -> QPointF | None:
        """Where the set-up at hand is."""
        if self.map is None:
            return None
        settings = self.session.result.case.settings
        across, up = settings.get(self.map.across_key), settings.get(self.map.up_key)
        return None if across is None or up is None else self.to_screen(across, up)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if self.map is not None and event.button() == Qt.MouseButton.LeftButton:
            self._held = True
            self.session.begin_drag()
            self.dragged.emit(*self.from_screen(event.position()))

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._held:
            self.dragged.emit(*self.from_screen(event.position()))

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._held:
            self._held = False
            self.dropped.emit()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        ways = {
            Qt.Key.Key_Right: (1, 0),
            Qt.Key.Key_Left: (-1, 0),
            Qt.Key.Key_Up: (0, 1),
            Qt.Key.Key_Down: (0, -1),
        }
        way = ways.get(Qt.Key(event.key()))
        if way is None or self.map is None:
            super().keyPressEvent(event)
        else:
            self.nudged.emit(*way)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        m, area, theme = self.map, self.plot, self.theme
        painter.setPen(
            QPen(QColor(theme.ink if self.hasFocus() else theme.line), 2 if self.hasFocus() else 1)
        )
        painter.setBrush(QColor(theme.well))
        painter.drawRect(area)
        if m is None or not m.feasible.any():
            painter.setPen(QColor(theme.faint))
            painter.drawText(
                area,
                Qt.AlignmentFlag.AlignCenter,
                "working it out" if m is None else "nothing here can be done",
            )
            return
        low, high = float(np.nanmin(m.values_Nm)), float(np.nanmax(m.values_Nm))
        self._paint_cells(painter, m, low, high)
        self._paint_contours(painter, m, low, high)
        self._paint_axes(painter, m)
        at = self.point()
        if at is not None:
            painter.setPen(QPen(QColor(theme.ink), 2.5))
            painter.setBrush(QColor(theme.paper))
            painter.drawEllipse(at, 8, 8)

    def _paint_cells(self, painter: QPainter, m: Map, low: float, high: float) -> None:
        area = self.plot
        wide, tall = area.width() / (len(m.across) - 1), area.height() / (len(m.up) - 1)
        colour = self.theme.joint(m.joint)
        painter.save()
        painter.setClipRect(area)
        painter.setPen(Qt.PenStyle.NoPen)
        for row, up in enumerate(m.up):
            for column, across in enumerate(m.across):
                cell = QRectF(-wide / 2, -tall / 2, wide + 0.6, tall + 0.6).translated(
                    self.to_screen(across, up)
                )
                if not m.feasible[row, column]:
                    painter.fillRect(cell, QColor(self.theme.well))
                    continue
                share = (m.values_Nm[row, column] - low) / max(high - low, 1e-9)
                shade = QColor(colour)
                shade.setAlpha(20 + int(150 * (int(share * BANDS) / BANDS)))
                painter.fillRect(cell, QColor(self.theme.panel))
                painter.fillRect(cell, shade)
        painter.restore()

    def _paint_contours(self, painter: QPainter, m: Map, low: float, high: float) -> None:
        painter.setPen(QPen(self.theme.joint(m.joint), 1.2))
        painter.setFont(font(11, bold=True))
        step = nice_step((high - low) / 5.0)
        level = np.ceil(low / step) * step
        while level < high:
            ends = contour(m, float(level))
            for one, two in ends:
                painter.drawLine(self.to_screen(*one), self.to_screen(*two))
            if ends:
                painter.drawText(
                    self.to_screen(*ends[len(ends) // 2][0]) + QPointF(3, -3), minus(f"{level:.0f}")
                )
            level += step

    def _paint_axes(self, painter: QPainter, m: Map) -> None:
        area, known = self.plot, variation(self.session.setup.variation).settings
        painter.setFont(font(11))
        painter.setPen(QColor(self.theme.faint))
        for value, edge in ((m.across[0], area.left()), (m.across[-1], area.right())):
            painter.drawText(
                QRectF(edge - 40, area.bottom() + 3, 80, 14),
                Qt.AlignmentFlag.AlignHCenter,
                minus(UNITS.text(float(value), known[m.across_key].unit, 0)),
            )
        for value, edge in ((m.up[0], area.bottom()), (m.up[-1], area.top() + 8)):
            painter.drawText(
                QRectF(0, edge - 8, 40, 14),
                Qt.AlignmentFlag.AlignRight,
                minus(UNITS.text(float(value), known[m.up_key].unit, 0)),
            )
        painter.drawText(
            QRectF(area.left(), area.bottom() + 17, area.width(), 14),
            Qt.AlignmentFlag.AlignHCenter,
            f"{known[m.across_key].name} across, {known[m.up_key].name.lower()} up; N·m, at the deepest point",
        )


def nice_step(about: float) -> float:
    """A round step near a size: 1, 2, 5 times a power of ten."""
    power = 10.0 ** np.floor(np.log10(max(about, 1e-6)))
    return float(next(f for f in (1.0, 2.0, 5.0, 10.0) if f * power >= about) * power)


def contour(m: Map, level: float) -> list[tuple[tuple[float, float], tuple[float, float]]]:
    """Pieces of the line where the map's value is ``level``, between feasible corners only."""
    pieces = []
    v = m.values_Nm
    for row in range(len(m.up) - 1):
        for column in range(len(m.across) - 1):
            corners = [(row, column), (row, column + 1), (row + 1, column + 1), (row + 1, column)]
            if not all(m.feasible[c] for c in corners):
                continue
            crossed = []
            for one, two in zip(corners, corners[1:] + corners[:1], strict=True):
                a, b = v[one] - level, v[two] - level
                if (a < 0) != (b < 0):
                    t = a / (a - b)
                    crossed.append(
                        (
                            float(m.across[one[1]] + t * (m.across[two[1]] - m.across[one[1]])),
                            float(m.up[one[0]] + t * (m.up[two[0]] - m.up[one[0]])),
                        )
                    )
            pieces += [(crossed[i], crossed[i + 1]) for i in range(0, len(crossed) - 1, 2)]
    return pieces
