"""Knee against hip demand of many variations, lower back as size, with a goal to drag."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from zesty_lever.choosing.shortlist import Option, RuledOut
from zesty_lever.exercises.catalogue import variation
from zesty_lever.ui.kit.theme import Theme, font


class DemandMap(QWidget):
    """Knee against hip, lower back as size; the goal can be dragged, a dot picked."""

    goal_moved = Signal(float, float)
    picked = Signal(str)

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self.theme = theme
        self.options: list[Option | RuledOut] = []
        self.chosen = ""
        self.goal: tuple[float, float] | None = None
        self.limits: dict[str, float] = {}
        self._held = False
        self.setMinimumHeight(260)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Knee against hip demand, lower back as size")
        self.setToolTip(
            "Click a dot to choose it. Drag the cross to a goal; arrows move it by 5 N·m; Delete takes it away."
        )

    def sizeHint(self) -> QSize:
        return QSize(700, 330)

    @property
    def able(self) -> list[Option]:
        """Those that can be done."""
        return [option for option in self.options if isinstance(option, Option)]

    @property
    def plot(self) -> QRectF:
        """Area of the map."""
        return QRectF(self.rect()).adjusted(56, 12, -14, -38)

    def _most(self) -> tuple[float, float]:
        able = [o.peaks for o in self.able]
        knee = max([p["knee"] for p in able] + [100.0])
        hip = max([p["hip"] for p in able] + [100.0])
        return 1.08 * knee, 1.08 * hip

    def to_screen(self, knee: float, hip: float) -> QPointF:
        """Screen place of a demand, N m."""
        most, area = self._most(), self.plot
        low = -0.25 * most[0]
        return QPointF(
            area.left() + area.width() * (knee - low) / (most[0] - low),
            area.bottom() - area.height() * hip / most[1],
        )

    def from_screen(self, at: QPointF) -> tuple[float, float]:
        """Demand at a screen place, N m."""
        most, area = self._most(), self.plot
        low = -0.25 * most[0]
        x, y = (at.x() - area.left()) / area.width(), (area.bottom() - at.y()) / area.height()
        return low + min(max(x, 0.0), 1.0) * (most[0] - low), min(max(y, 0.0), 1.0) * most[1]

    def _near(self, at: QPointF) -> str:
        gaps = [
            (
                float(np.hypot(*(self.to_screen(o.peaks["knee"], o.peaks["hip"]) - at).toTuple())),
                o.variation,
            )
            for o in self.able
        ]
        return min(gaps)[1] if gaps and min(gaps)[0] < 12 else ""

    def mousePressEvent(self, event: QMouseEvent) -> None:
        name = self._near(event.position())
        if name:
            self.picked.emit(name)
        elif self.options:
            self._held = True
            self.goal = self.from_screen(event.position())
            self.update()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._held:
            self.goal = self.from_screen(event.position())
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._held and self.goal is not None:
            self._held = False
            self.goal_moved.emit(*self.goal)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        ways = {
            Qt.Key.Key_Right: (5, 0),
            Qt.Key.Key_Left: (-5, 0),
            Qt.Key.Key_Up: (0, 5),
            Qt.Key.Key_Down: (0, -5),
        }
        way = ways.get(Qt.Key(event.key()))
        if event.key() == Qt.Key.Key_Delete:
            self.goal = None
            self.goal_moved.emit(float("nan"), float("nan"))
        elif way is not None and self.options:
            knee, hip = self.goal or (0.5 * self._most()[0], 0.5 * self._most()[1])
            self.goal = (knee + way[0], hip + way[1])
            self.goal_moved.emit(*self.goal)
        else:
            super().keyPressEvent(event)
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme, area = self.theme, self.plot
        painter.setPen(
            QPen(QColor(theme.ink if self.hasFocus() else theme.line), 2 if self.hasFocus() else 1)
        )
        painter.setBrush(QColor(theme.panel))
        painter.drawRect(area)
        painter.setFont(font(12))
        painter.setPen(QColor(theme.faint))
        most = self._most()
        for value in range(0, int(most[0]), 50):
            x = self.to_screen(value, 0).x()
            painter.drawText(
                QRectF(x - 20, area.bottom() + 3, 40, 14), Qt.AlignmentFlag.AlignHCenter, f"{value}"
            )
        for value in range(0, int(most[1]), 50):
            y = self.to_screen(0, value).y()
            painter.drawText(QRectF(0, y - 8, 50, 16), Qt.AlignmentFlag.AlignRight, f"{value}")
        painter.drawText(
            QPointF(area.left(), area.bottom() + 32),
            "knee peak, N·m, across; hip peak, N·m, up; size: lower back",
        )
        self._paint_limits(painter)
        able = self.able
        largest = max([o.peaks["back"] for o in able] + [1.0])
        for rank, option in reversed(list(enumerate(able))):
            at = self.to_screen(option.peaks["knee"], option.peaks["hip"])
            radius = 3.0 + 11.0 * max(option.peaks["back"], 0.0) / largest
            fill = QColor(theme.back)
            fill.setAlpha(150 if rank < 5 else 40)
            painter.setBrush(fill)
            painter.setPen(QPen(QColor(theme.ink), 2.4 if option.variation == self.chosen else 0.8))
            painter.drawEllipse(at, radius, radius)
        self._paint_names(painter, able)
        if self.goal is not None:
            at = self.to_screen(*self.goal)
            painter.setPen(QPen(QColor(theme.warn), 2.4))
            painter.drawLine(at - QPointF(9, 0), at + QPointF(9, 0))
            painter.drawLine(at - QPointF(0, 9), at + QPointF(0, 9))

    def _paint_limits(self, painter: QPainter) -> None:
        """What the ceilings leave, shaded lighter than what they rule out."""
        if not set(self.limits) & {"knee", "hip"}:
            return
        area, most = self.plot, self._most()
        corner = self.to_screen(
            min(self.limits.get("knee", most[0]), most[0]),
            min(self.limits.get("hip", most[1]), most[1]),
        )
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(self.theme.well))
        painter.drawRect(QRectF(corner.x(), area.top(), area.right() - corner.x(), area.height()))
        painter.drawRect(
            QRectF(area.left(), area.top(), corner.x() - area.left(), corner.y() - area.top())
        )

    def _paint_names(self, painter: QPainter, able: list[Option]) -> None:
        """Names of the first five and of the chosen one, none over another."""
        named = [*able[:5], *(o for o in able[5:] if o.variation == self.chosen)]
        spots = [
            self.to_screen(o.peaks["knee"], o.peaks["hip"]) for o in named if o.peaks is not None
        ]
        taken = [QRectF(at.x() - 8, at.y() - 8, 16, 16) for at in spots]
        painter.setFont(font(12, bold=True))
        for option, at in zip(named, spots, strict=True):
            name = variation(option.variation).name
            wide = painter.fontMetrics().horizontalAdvance(name) + 2.0
            places = [
                QRectF(at.x() + 12 if side > 0 else at.x() - 12 - wide, at.y() - 8 + down, wide, 16)
                for down in (0, -16, 16, -32, 32, 48, 64)
                for side in (1, -1)
            ]
            inside = [
                p
                for p in places
                if p.left() > self.plot.left()
                and p.right() < self.plot.right()
                and p.bottom() < self.plot.bottom()
            ]
            box = next((p for p in inside if not any(p.intersects(t) for t in taken)), places[0])
            taken.append(box)
            if abs(box.center().y() - at.y()) > 10:
                painter.setPen(QPen(QColor(self.theme.faint), 1))
                edge = box.left() if box.left() > at.x() else box.right()
                painter.drawLine(at, QPointF(edge, box.center().y()))
            painter.setPen(QColor(self.theme.ink))
            painter.drawText(box, Qt.AlignmentFlag.AlignLeft, name)
