"""How much of what the joints can hold is used, over the way up, on the rep strip; the hard zone shaded."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen

from zesty_lever.analysis import Result
from zesty_lever.joints import BY_KEY
from zesty_lever.physics.vectors import Array
from zesty_lever.ui.kit.plot import Axes
from zesty_lever.ui.kit.theme import Theme, font

if TYPE_CHECKING:
    from zesty_lever.choosing.bests import Effort

# All that a joint can hold is at this share of the strip's height above zero.
WHOLE_AT = 0.92


def up_times_s(result: Result) -> tuple[Array, Array]:
    """Times and progress of the frames on the way up."""
    rows = np.array([at for at, phase in enumerate(result.timeline.phase) if phase == "up"])
    return result.timeline.time_s[rows], result.timeline.progress[rows]


def paint_use(painter: QPainter, axes: Axes, theme: Theme, result: Result, told: Effort) -> None:
    """Top use coloured by the joint that leads, its band, the line of all there is, and the hard zone."""
    times, progress = up_times_s(result)
    curve = told.curve
    order = np.argsort(curve.progress)

    def at(values: Array) -> Array:
        found: Array = np.interp(progress, curve.progress[order], values[order])
        return found

    def y(use: float) -> float:
        return axes.at(0.0, min(use, 1.0 / WHOLE_AT) * WHOLE_AT * axes.up.high).y()

    low, high = told.hard_zone
    hard = times[(progress >= low - 1e-6) & (progress <= high + 1e-6)]
    if len(hard):
        left, right = (axes.at(float(t), 0.0).x() for t in (hard[0], hard[-1]))
        veil = QColor(theme.warn)
        veil.setAlpha(34)
        painter.fillRect(
            QRectF(left, axes.area.top(), max(right - left, 2.0), axes.area.height()), veil
        )
    pen = QPen(QColor(theme.faint), 1)
    pen.setDashPattern([2, 3])
    painter.setPen(pen)
    ends = [axes.at(float(t), 0.0).x() for t in (times[0], times[-1])]
    painter.drawLine(QPointF(ends[0], y(1.0)), QPointF(ends[1], y(1.0)))
    median, under, over = at(curve.median), at(curve.low), at(curve.high)
    nearest = [int(np.argmin(np.abs(curve.progress - p))) for p in progress]
    x = [axes.at(float(t), 0.0).x() for t in times]
    for row in range(len(x) - 1):
        hue = theme.joint(BY_KEY[curve.joint[nearest[row]]].shown)
        band = QColor(hue)
        band.setAlpha(40)
        box = QRectF(
            QPointF(x[row], y(float(over[row]))), QPointF(x[row + 1], y(float(under[row])))
        )
        painter.fillRect(box, band)
        pen = QPen(hue, 2.2)
        pen.setStyle(Qt.PenStyle.DotLine)
        painter.setPen(pen)
        painter.drawLine(
            QPointF(x[row], y(float(median[row]))), QPointF(x[row + 1], y(float(median[row + 1])))
        )
    painter.setFont(font(11))
    painter.setPen(QColor(theme.faint))
    painter.drawText(
        QRectF(ends[1] - 80, y(1.0) - 15, 78, 14),
        Qt.AlignmentFlag.AlignRight,
        "use 100 %",
    )
