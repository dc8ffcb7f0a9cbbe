"""Feet seen from above."""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np
from PySide6.QtCore import QPointF
from PySide6.QtGui import QColor, QPainter, QPen, QPolygonF

from zesty_lever.physics.vectors import Array
from zesty_lever.ui.kit.theme import Theme

# Where the sole's edge is: at which of heel, ball and toe, and how far outward, fractions of stature.
SOLE = ((0, 0.020), (1, 0.029), (2, 0.012), (2, -0.012), (1, -0.027), (0, -0.020))


def paint_foot(
    painter: QPainter,
    theme: Theme,
    spot: Callable[[Array], QPointF],
    stature_m: float,
    points: Sequence[Array],
) -> None:
    """One sole about its heel, ball and toe (``(3,)`` m); ``spot`` puts a point on the screen."""
    heel, _, toe = points
    way = toe - heel
    length = max(float(np.hypot(way[0], way[2])), 1e-9)
    across = np.array([-way[2], 0.0, way[0]]) / length * stature_m
    painter.setPen(QPen(QColor(theme.ink), 1.2))
    painter.setBrush(QColor(theme.well))
    painter.drawPolygon(QPolygonF([spot(points[at] + out * across) for at, out in SOLE]))
