"""Set-ups side by side on one ground line and one scale, with their levers; their curves overlaid."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QSizePolicy, QWidget

from zesty_lever.analysis import Result
from zesty_lever.choosing.compare import Compared, Failed
from zesty_lever.exercises.catalogue import variation
from zesty_lever.joints import COACH_JOINTS
from zesty_lever.physics.vectors import Array
from zesty_lever.ui.kit.theme import Theme, font
from zesty_lever.ui.paint.figure import paint_figure, paint_floor, paint_surfaces
from zesty_lever.ui.paint.levers import lever_marks, paint_joint_dot, paint_lever
from zesty_lever.ui.paint.lines import paint_lines
from zesty_lever.ui.paint.view import View
from zesty_lever.wording.units import UNITS, minus

# The names of the table's rows stand left of the figures' columns.
NAMES_WIDE = 132
DASHES: tuple[list[float], ...] = ([], [7, 3], [2, 2], [9, 3, 2, 3], [4, 4], [1, 3])


class Figures(QWidget):
    """All set-ups at their decisive moment, on one ground line and one scale, each over its column.

    ``picked``: a figure was pressed.
    """

    picked = Signal(int)

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self.theme = theme
        self.compared: list[Compared | Failed] = []
        self.chosen = 0
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumHeight(230)
        self.setAccessibleName("Line-up: figures on one scale")

    def sizeHint(self) -> QSize:
        return QSize(800, 280)

    def results(self) -> list[Result | None]:
        """Solved ones, None for the others."""
        return [c.result if isinstance(c, Compared) else None for c in self.compared]

    def mousePressEvent(self, event: QMouseEvent) -> None:
        count = len(self.compared)
        index = int(
            (event.position().x() - NAMES_WIDE)
            // max((self.width() - NAMES_WIDE) / max(count, 1), 1.0)
        )
        if 0 <= index < count:
            self.picked.emit(index)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), QColor(self.theme.paper))
        results = self.results()
        if not results:
            painter.setPen(QColor(self.theme.faint))
            painter.drawText(
                self.rect(), Qt.AlignmentFlag.AlignCenter, "Add two to six set-ups from the bench."
            )
            return
        area = QRectF(NAMES_WIDE, 8, self.width() - NAMES_WIDE, self.height() - 52)
        wide = area.width() / len(results)
        spans = [self._span(r) for r in results if r is not None] or [(1.0, 1.8)]
        scale = min(
            wide / (max(s[0] for s in spans) + 0.15),
            area.height() / (max(s[1] for s in spans) + 0.05),
        )
        floor = area.bottom()
        painter.fillRect(
            QRectF(area.left() + self.chosen * wide, 0, wide, self.height()),
            QColor(self.theme.panel),
        )
        paint_floor(painter, View(scale, area.left() + 20, floor), self.theme, area.right())
        for index, (item, result) in enumerate(zip(self.compared, results, strict=True)):
            middle = area.left() + (index + 0.5) * wide
            self._paint_one(painter, item, result, scale, middle, floor, wide)

    @staticmethod
    def _span(result: Result) -> tuple[float, float]:
        pose, at = result.shown.pose, min(result.timeline.bottom, result.frames - 1)
        x = [float(p[0, at]) for p in pose.points.values()]
        y = [float(p[1, at]) for p in pose.points.values()]
        return max(x) - min(x), max(y) + 0.15

    def _paint_one(
        self,
        painter: QPainter,
        item: Compared | Failed,
        result: Result | None,
        scale: float,
        middle: float,
        floor: float,
        wide: float,
    ) -> None:
        name = variation(item.case.variation).name
        load = (
            UNITS.text(item.case.load_kg or 0.0, "kg")
            if variation(item.case.variation).load
            else "no load"
        )
        load = load.replace(" ", "\N{NO-BREAK SPACE}")
        painter.setFont(font(12, bold=True))
        painter.setPen(QColor(self.theme.ink))
        box = QRectF(middle - wide / 2 + 4, floor + 12, wide - 8, 32)
        painter.drawText(
            box, Qt.AlignmentFlag.AlignHCenter | Qt.TextFlag.TextWordWrap, f"{name}, {load}"
        )
        if result is None:
            painter.setFont(font(12))
            painter.setPen(QColor(self.theme.warn))
            words = item.problem.text if isinstance(item, Failed) else "not possible"
            painter.drawText(
                QRectF(middle - wide / 2 + 8, floor - 150, wide - 16, 140),
                Qt.AlignmentFlag.AlignHCenter | Qt.TextFlag.TextWordWrap,
                words,
            )
            return
        at = result.timeline.bottom
        x = [float(p[0, at]) for p in result.shown.pose.points.values()]
        view = View(scale, middle - scale * 0.5 * (min(x) + max(x)), floor)
        paint_surfaces(painter, view, self.theme, result)
        painter.save()
        painter.setClipRect(QRectF(middle - wide / 2, 0, wide, self.height()))
        paint_lines(painter, view.point, self.theme, result, at)
        painter.restore()
        paint_figure(painter, view, self.theme, result, at)
        for mark in lever_marks(result, at, view):
            if mark.joint != "ankle_right":
                paint_lever(painter, self.theme, mark)
                paint_joint_dot(painter, self.theme, mark.joint, mark.start, 5.0)


class Curves(QWidget):
    """One joint's moment of all set-ups, over the range or over time."""

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self.theme = theme
        self.compared: list[Compared | Failed] = []
        self.joint, self.over_time = "hip_right", False
        self.setMinimumHeight(250)
        self.setAccessibleName("Curves of the set-ups")

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self._paint_curves(painter, QRectF(self.rect()).adjusted(1, 1, -1, -1))

    def _paint_curves(self, painter: QPainter, area: QRectF) -> None:
        theme = self.theme
        painter.setPen(QPen(QColor(theme.line), 1))
        painter.setBrush(QColor(theme.panel))
        painter.drawRoundedRect(area, 4, 4)
        plot = area.adjusted(44, 30, -12, -14 - 15 * len(self.compared))
        curves = [(i, c.result) for i, c in enumerate(self.compared) if isinstance(c, Compared)]
        values = [r.solved.extension(self.joint) for _, r in curves]
        if not values:
            return
        top = max([float(v.max()) for v in values] + [10.0])
        low = min([float(v.min()) for v in values] + [0.0])
        self._paint_scale(painter, area, plot, (low, top))
        longest = max(float(r.timeline.time_s[-1]) for _, r in curves)
        for number, (index, result) in enumerate(curves):
            height = (values[number] - low) / (top - low)
            self._paint_curve(painter, plot, index, result, height, longest)

    def _paint_scale(
        self, painter: QPainter, area: QRectF, plot: QRectF, ends: tuple[float, float]
    ) -> None:
        theme, (low, top) = self.theme, ends
        painter.setFont(font(12))
        painter.setPen(QColor(theme.faint))
        words = next(g.word for g in COACH_JOINTS if g.shown == self.joint)
        across = "time, s" if self.over_time else "range: start to turn"
        painter.drawText(QPointF(area.left() + 10, area.top() + 18), f"{words}, N·m, over {across}")
        for level in (low, 0.0, top):
            at = plot.bottom() - plot.height() * (level - low) / (top - low)
            painter.setPen(QPen(QColor(theme.line), 1))
            painter.drawLine(QPointF(plot.left(), at), QPointF(plot.right(), at))
            painter.setPen(QColor(theme.faint))
            painter.drawText(
                QRectF(area.left() + 2, at - 8, 38, 16),
                Qt.AlignmentFlag.AlignRight,
                minus(f"{level:.0f}"),
            )

    def _paint_curve(
        self,
        painter: QPainter,
        plot: QRectF,
        index: int,
        result: Result,
        height: Array,
        longest: float,
    ) -> None:
        """One set-up's curve (``height`` is 0 to 1 of the plot) and its line in the key."""
        theme = self.theme
        first, last = result.timeline.moves[0]
        span = slice(0, None) if self.over_time else slice(first, last + 1)
        x = (
            result.timeline.time_s[span] / longest
            if self.over_time
            else np.abs(result.timeline.progress[span] - result.timeline.progress[first])
        )
        y = height[span]
        line = QPolygonF(
            [
                QPointF(plot.left() + plot.width() * a, plot.bottom() - plot.height() * b)
                for a, b in zip(x.tolist(), y.tolist(), strict=True)
            ]
        )
        pen = QPen(theme.joint(self.joint), 2.0)
        if DASHES[index % len(DASHES)]:
            pen.setDashPattern(DASHES[index % len(DASHES)])
        painter.setPen(pen)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPolyline(line)
        key = plot.bottom() + 18 + 15 * index
        painter.drawLine(QPointF(plot.left(), key), QPointF(plot.left() + 34, key))
        painter.setPen(QColor(theme.ink))
        painter.drawText(QPointF(plot.left() + 42, key + 4), variation(result.case.variation).name)
