"""One trend over days: a line with its band, every point told; the same as a table and as a sentence."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QPainter, QPen, QPolygonF

from zesty_lever.log.trends import Trend
from zesty_lever.ui.kit.plot import Axes, Axis, Plot
from zesty_lever.ui.kit.theme import Theme, font
from zesty_lever.wording.records import day_short

LEAST_SPAN_DAYS = 6.0


class TrendPlot(Plot):
    """Arrows go from point to point; ``stood`` (index): another point is looked at."""

    margins = (58, 26, 18, 34)
    stood = Signal(int)

    def __init__(self, theme: Theme) -> None:
        super().__init__(
            "Trend", "One point a session or a week; arrows go from point to point.", theme
        )
        self.trend: Trend | None = None
        self.at = 0
        self.empty = "Nothing to show yet."
        self.setMinimumHeight(170)

    def show_trend(self, trend: Trend | None) -> None:
        """Show another trend; its last point is looked at."""
        self.trend = trend
        points = () if trend is None else trend.points
        self.at = max(len(points) - 1, 0)
        self.setAccessibleDescription("" if trend is None else trend.spoken)
        self.update()

    def axes(self) -> Axes | None:
        if self.trend is None or not self.trend.points:
            return None
        points = self.trend.points
        low, high = min(p.low for p in points), max(p.high for p in points)
        room = 0.08 * (high - low) or 0.08 * abs(high) or 1.0
        floor = low - room if low < 0 or low > 0.5 * high else min(low, 0.0)
        days = [p.day for p in points]
        middle, half = 0.5 * (days[0] + days[-1]), 0.5 * max(days[-1] - days[0], LEAST_SPAN_DAYS)
        return Axes(self.plot, Axis(middle - half, middle + half), Axis(floor, high + room))

    def paint_marks(self, painter: QPainter, axes: Axes) -> None:
        assert self.trend is not None
        theme, points = self.theme, self.trend.points
        axes.paint_ticks(painter, theme, across=None, up=lambda v: f"{v:g}")
        painter.setFont(font(12))
        painter.setPen(QColor(theme.faint))
        title = QRectF(self.plot.left(), 4, self.plot.width(), 18)
        painter.drawText(title, 0, f"{self.trend.name}, {self.trend.unit}")
        for day in _named_days(axes):
            middle = axes.at(day, axes.up.low).x()
            box = QRectF(middle - 45, self.plot.bottom() + 5, 90, 16)
            painter.drawText(box, Qt.AlignmentFlag.AlignHCenter, day_short(day)[4:])
        x = np.array([float(p.day) for p in points])
        lows, highs = (np.array([getattr(p, key) for p in points]) for key in ("low", "high"))
        if np.any(highs > lows):
            band = QPolygonF(axes.curve(x, highs))
            for spot in reversed(axes.curve(x, lows).toList()):
                band.append(spot)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(QColor(theme.well))
            painter.drawPolygon(band)
        line = axes.curve(x, np.array([p.value for p in points]))
        painter.setPen(QPen(QColor(theme.ink), 2))
        painter.drawPolyline(line)
        painter.setBrush(QColor(theme.ink))
        for spot in line.toList():
            painter.drawEllipse(spot, 3.0, 3.0)
        self._paint_point(painter, axes)

    def _paint_point(self, painter: QPainter, axes: Axes) -> None:
        assert self.trend is not None
        theme, point = self.theme, self.trend.points[self.at]
        spot = axes.at(point.day, point.value)
        painter.setBrush(QColor(theme.panel))
        painter.setPen(QPen(QColor(theme.ink), 2))
        painter.drawEllipse(spot, 5.0, 5.0)
        words = self.words()
        wide = painter.fontMetrics().horizontalAdvance(words) + 8.0
        left = min(max(spot.x() - 0.5 * wide, self.plot.left()), self.plot.right() - wide)
        above = spot.y() - 26.0 if spot.y() - 26.0 > self.plot.top() else spot.y() + 10.0
        box = QRectF(left, above, wide, 18)
        painter.fillRect(box, QColor(theme.panel))
        painter.setPen(QColor(theme.ink))
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, words)

    def words(self) -> str:
        """The point that is looked at, with its day."""
        assert self.trend is not None
        point = self.trend.points[self.at]
        value = f"{point.value:.3g}"
        if point.high - point.low > 1e-9:
            value = f"{point.low:.3g}\N{EN DASH}{point.high:.3g}"
        return f"{day_short(point.day)}: {value} {self.trend.unit}"

    def stepped(self, across: int, up: int) -> bool:
        if self.trend is None or not self.trend.points or not across:
            return False
        self.stand_at(self.at + across)
        return True

    def stand_at(self, at: int) -> None:
        """Look at another point."""
        points = () if self.trend is None else self.trend.points
        self.at = min(max(at, 0), max(len(points) - 1, 0))
        self.setAccessibleDescription(self.words() if points else "")
        self.stood.emit(self.at)
        self.update()

    def pressed(self, axes: Axes, at: QPointF) -> bool:
        assert self.trend is not None
        gaps = [abs(axes.at(p.day, p.value).x() - at.x()) for p in self.trend.points]
        self.stand_at(int(np.argmin(gaps)))
        return False


def _named_days(axes: Axes) -> list[int]:
    """Mondays that are named below, at most one in 70 px."""
    first, last = int(np.ceil(axes.across.low)), int(axes.across.high)
    mondays = [day for day in range(first, last + 1) if (day - 1) % 7 == 0]
    if not mondays:
        return [int(0.5 * (first + last))]
    step = int(np.ceil(len(mondays) / max(axes.area.width() / 74.0, 1.0)))
    return mondays[:: max(step, 1)]
