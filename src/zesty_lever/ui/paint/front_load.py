"""Seen from the front: what is carried, and the boxes and benches that carry."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QColor, QPainter, QPen

from zesty_lever.analysis import Result
from zesty_lever.exercises.catalogue import variation
from zesty_lever.physics.vectors import Array
from zesty_lever.ui.kit.theme import Theme
from zesty_lever.ui.paint.figure import DISC_RADIUS_M

# Half a bar, where its sleeves begin, how thick a disc and a dumbbell's heads are, m.
HALF_BAR_M, SLEEVE_M, DISC_THICK_M, HEAD_M = 1.10, 0.66, 0.05, 0.07


# Settings of heights, what stands on them and half their width, m.
UNDER = (
    ("rear_height_m", ("toe_left",), 0.30),
    ("front_height_m", ("toe_right",), 0.22),
    ("feet_height_m", ("toe_left", "toe_right"), 0.30),
    ("bench_height_m", ("shoulder_mid",), 0.55),
)


def paint_front_surfaces(
    painter: QPainter, place: Callable[[Array], QPointF], theme: Theme, result: Result, frame: int
) -> None:
    """Steps and benches, from under what stands or lies on them down to the floor."""
    pose = result.shown.pose
    painter.setPen(QPen(QColor(theme.faint), 1.2))
    painter.setBrush(QColor(theme.well))
    for key, names, half in UNDER:
        height = result.case.settings.get(key) or 0.0
        if height > 0.0:
            sides = [float(pose.points[name][2, frame]) for name in names]
            corners = (
                place(np.array([0.0, h, z]))
                for h, z in ((height, max(sides) + half), (0.0, min(sides) - half))
            )
            painter.drawRect(QRectF(*corners))


def paint_front_load(
    painter: QPainter,
    place: Callable[[Array], QPointF],
    theme: Theme,
    result: Result,
    frame: int,
    *,
    before: bool,
) -> None:
    """The load behind the body (``before`` it is painted) or in front of it. ``place`` puts metres on the screen."""
    load, pose = variation(result.case.variation).load, result.shown.pose
    if load is None or not pose.load_points.shape[1] or not (result.case.load_kg or 0.0) > 0.0:
        return
    points = pose.load_points[
        :, : 1 if load.name in ("bar", "plate") else len(load.carried_by), frame
    ]
    behind = float(points[0].mean()) < float(pose.points["shoulder_mid"][0, frame]) - 0.02
    if behind != before or not points.shape[1]:
        return
    scale = abs(place(np.array([0.0, 1.0, 0.0])).y() - place(np.zeros(3)).y())
    iron, pale = QColor(theme.iron), QColor(theme.iron)
    pale.setAlpha(120)
    painter.setPen(QPen(iron, 1.2))
    painter.setBrush(pale)
    if load.name == "bar":
        centre = points[:, 0] * (1.0, 1.0, 0.0)
        one, two = (place(centre + np.array([0.0, 0.0, side * HALF_BAR_M])) for side in (-1.0, 1.0))
        painter.setPen(QPen(iron, 4))
        painter.drawLine(one, two)
        painter.setPen(QPen(iron, 1.2))
        for side in (-1.0, 1.0):
            at = place(centre + np.array([0.0, 0.0, side * (SLEEVE_M + 0.5 * DISC_THICK_M)]))
            _block(painter, at, DISC_THICK_M * scale, 2.0 * DISC_RADIUS_M * scale)
        return
    for point in points.T:
        at = place(point)
        if load.name == "dumbbell":
            # Hanging at the sides they are seen end on.
            painter.drawEllipse(at, HEAD_M * scale, HEAD_M * scale)
            painter.drawEllipse(at, 0.3 * HEAD_M * scale, 0.3 * HEAD_M * scale)
        else:
            painter.drawEllipse(at, 0.095 * scale, 0.10 * scale)


def _block(painter: QPainter, at: QPointF, wide: float, tall: float) -> None:
    painter.drawRoundedRect(QRectF(at.x() - 0.5 * wide, at.y() - 0.5 * tall, wide, tall), 2, 2)
