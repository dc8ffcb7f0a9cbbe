"""The athlete from the front: limbs, torso, arms, head, joints."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from PySide6.QtCore import QPointF
from PySide6.QtGui import QColor, QPainter, QPainterPath, QPen, QPolygonF

from zesty_lever.analysis import Result
from zesty_lever.joints import SIDES
from zesty_lever.physics.vectors import Array
from zesty_lever.ui.kit.theme import Theme
from zesty_lever.ui.paint.levers import paint_joint_dot

HALF_WIDTHS = {
    "thigh": (0.046, 0.030),
    "shank": (0.031, 0.019),
    "upper_arm": (0.024, 0.019),
    "forearm": (0.020, 0.014),
}


def _limb(one: QPointF, two: QPointF, kind: str, unit: float) -> QPainterPath:
    """A tapered limb between two joints; ``unit`` is the athlete's height in pixels."""
    way = two - one
    length = max(float(np.hypot(way.x(), way.y())), 1e-6)
    across = QPointF(-way.y(), way.x()) / length
    wide, narrow = (w * unit for w in HALF_WIDTHS[kind])
    path = QPainterPath()
    path.addPolygon(
        QPolygonF(
            [
                one + across * wide,
                two + across * narrow,
                two - across * narrow,
                one - across * wide,
            ]
        )
    )
    path.closeSubpath()
    for at, radius in ((one, wide), (two, narrow)):
        cap = QPainterPath()
        cap.addEllipse(at, radius, radius)
        path = path.united(cap)
    return path


def paint_front_body(
    painter: QPainter,
    project: Callable[[Array], QPointF],
    scale: float,
    theme: Theme,
    result: Result,
    frame: int,
    ink: QColor,
) -> None:
    """The athlete from the front; ``project`` puts a point (3,) m on the screen at ``scale`` pixels a metre."""
    points, unit = result.shown.pose.points, result.case.athlete.height_m * scale

    def spot(name: str) -> QPointF:
        return project(points[name][:, frame])

    def limb(start: str, end: str, kind: str) -> QPainterPath:
        return _limb(spot(start), spot(end), kind, unit)

    body = QPainterPath()
    for side in SIDES:
        body = body.united(limb(f"hip_{side}", f"knee_{side}", "thigh"))
        body = body.united(limb(f"knee_{side}", f"ankle_{side}", "shank"))
        body = body.united(_foot(spot(f"ankle_{side}"), spot(f"toe_{side}"), unit))
    hips, shoulders = ([spot(f"{n}_{s}") for s in ("right", "left")] for n in ("hip", "shoulder"))
    painter.setPen(QPen(ink, 1.3))
    painter.setBrush(QColor(theme.flesh))
    painter.drawPath(body.united(_torso(hips, shoulders, unit)))
    painter.setBrush(QColor(theme.flesh_deep))
    for side in SIDES:
        arm = limb(f"shoulder_{side}", f"elbow_{side}", "upper_arm")
        painter.drawPath(arm.united(limb(f"elbow_{side}", f"wrist_{side}", "forearm")))
    chin, crown = points["shoulder_mid"][:, frame], points["head_top"][:, frame]
    painter.setBrush(QColor(theme.flesh))
    painter.drawEllipse(project(chin + 0.66 * (crown - chin)), 0.045 * unit, 0.060 * unit)
    for joint in ("hip", "knee"):
        for side in SIDES:
            paint_joint_dot(painter, theme, f"{joint}_{side}", spot(f"{joint}_{side}"), 6.0)


def _foot(ankle: QPointF, toe: QPointF, unit: float) -> QPainterPath:
    shape = QPainterPath()
    instep = [ankle + QPointF(x * unit, -0.010 * unit) for x in (-0.016, 0.016)]
    shape.addPolygon(QPolygonF([*instep, *(toe + QPointF(x * unit, 0) for x in (0.026, -0.026))]))
    shape.closeSubpath()
    return shape


def _torso(hips: list[QPointF], shoulders: list[QPointF], unit: float) -> QPainterPath:
    """Pelvis, waist and chest between hips and shoulders (right, left)."""
    out = QPointF(unit, 0)
    waist = [h + (s - h) * 0.42 for h, s in zip(hips, shoulders, strict=True)]
    waist = [waist[0] + out * 0.008, waist[1] - out * 0.008]
    chest = [h + (s - h) * 0.82 for h, s in zip(hips, shoulders, strict=True)]
    path = QPainterPath(hips[0] - out * 0.036)
    path.quadTo(waist[0] - out * 0.022, waist[0] - out * 0.012)
    path.quadTo(chest[0] - out * 0.002, shoulders[0] + out * 0.004)
    middle = (shoulders[0] + shoulders[1]) * 0.5 - QPointF(0, 0.022 * unit)
    path.quadTo((shoulders[0] + middle) * 0.5 - QPointF(0, 0.012 * unit), middle - out * 0.022)
    path.lineTo(middle + out * 0.022)
    path.quadTo(
        (shoulders[1] + middle) * 0.5 - QPointF(0, 0.012 * unit), shoulders[1] - out * 0.004
    )
    path.quadTo(chest[1] + out * 0.002, waist[1] + out * 0.012)
    path.quadTo(waist[1] + out * 0.022, hips[1] + out * 0.036)
    path.closeSubpath()
    return path
