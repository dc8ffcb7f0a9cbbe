"""Where the world is on the screen, and the contours that make a figure of it."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QPainterPath, QPolygonF

from zesty_lever.frozen import dataclass
from zesty_lever.physics.vectors import Array


@dataclass(frozen=True)
class View:
    """Side view: metres to pixels, x to the right, y up from the floor line."""

    scale: float
    origin_x: float
    floor_y: float

    @classmethod
    def fit(cls, area: QRectF, top_m: float, stature_m: float, ends_m: tuple[float, float]) -> View:
        """Scale that shows the floor, everything up to ``top_m`` and between the ``ends_m``.

        Labels keep a margin at both sides.
        """
        below = 0.06 * stature_m
        wide = max(ends_m[1] - ends_m[0] + 0.25 * stature_m, 0.92 * stature_m)
        scale = min(area.height() / (top_m + below), area.width() / wide)
        middle = 0.5 * (ends_m[0] + ends_m[1]) if wide > 0.93 * stature_m else 0.0
        return cls(scale, area.center().x() - middle * scale, area.bottom() - below * scale)

    def at(self, x: float, y: float) -> QPointF:
        """Screen position of a side-view position, m."""
        return QPointF(self.origin_x + self.scale * x, self.floor_y - self.scale * y)

    def point(self, position: Array) -> QPointF:
        """Screen position of a ``(3,)`` point, m."""
        return self.at(float(position[0]), float(position[1]))

    def world(self, point: QPointF) -> tuple[float, float]:
        """Side-view position of a screen point, m."""
        return (point.x() - self.origin_x) / self.scale, (self.floor_y - point.y()) / self.scale


def limb(start: Array, end: Array, front: Array, back: Array) -> Array:
    """Outline ``(2, n)`` m of a limb along a straight line; see `sleeve`."""
    share = np.linspace(0.0, 1.0, len(front))
    line = start[:2, None] + share * (end - start)[:2, None]
    return sleeve(line, front, back)


def sleeve(line: Array, front: Array, back: Array) -> Array:
    """Outline ``(2, m)`` m around a centre line ``(2, n)``.

    ``front`` and ``back`` are the half widths (m) on the side that faces right when the line runs
    up, and on the other side; the ends are rounded.
    """
    along = np.gradient(line, axis=1)
    along = along / np.hypot(*along)
    right = np.stack([along[1], -along[0]])
    front_edge, back_edge = line + front * right, line - back * right
    start = _cap(-along[:, 0], back_edge[:, 0], front_edge[:, 0])
    end = _cap(along[:, -1], front_edge[:, -1], back_edge[:, -1])
    return np.concatenate([front_edge, end, back_edge[:, ::-1], start], axis=1)


def _cap(outward: Array, first: Array, last: Array) -> Array:
    """Half an ellipse from ``first`` round to ``last``."""
    turn = np.linspace(0.0, np.pi, 9)[1:-1]
    middle, half = 0.5 * (first + last), 0.5 * (first - last)
    bulge = np.hypot(*half)
    arc: Array = np.cos(turn) * half[:, None] + np.sin(turn) * bulge * outward[:, None]
    return middle[:, None] + arc


def bent_line(start: Array, control: Array, end: Array, count: int) -> Array:
    """Quadratic curve ``(2, count)`` from start to end, drawn toward ``control``."""
    t = np.linspace(0.0, 1.0, count)
    weights = ((1 - t) ** 2, 2 * t * (1 - t), t**2)
    points = (start[:2], control[:2], end[:2])
    line: Array = sum(
        (w * p[:, None] for w, p in zip(weights, points, strict=True)), np.zeros((2, count))
    )
    return line


def path_of(outline: Array, view: View, up: float = -1.0) -> QPainterPath:
    """Closed screen path of an outline ``(2, n)`` m; ``up``: which way up is (on the screen minus)."""
    x = view.origin_x + view.scale * outline[0]
    y = view.floor_y + up * view.scale * outline[1]
    polygon = QPolygonF([QPointF(a, b) for a, b in zip(x.tolist(), y.tolist(), strict=True)])
    path = QPainterPath()
    path.addPolygon(polygon)
    path.closeSubpath()
    return path
