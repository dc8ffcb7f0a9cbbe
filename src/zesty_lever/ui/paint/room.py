"""The room that is left, drawn: how deep, and both ends of what a held grip sets, with what stops there."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF
from PySide6.QtGui import QColor, QPainter, QPen

from zesty_lever.analysis import Result
from zesty_lever.choosing.reach import Furthest, Room
from zesty_lever.frozen import dataclass
from zesty_lever.physics.vectors import Array
from zesty_lever.ui.kit.handle import HandleKind
from zesty_lever.ui.kit.theme import Theme
from zesty_lever.ui.paint.view import View
from zesty_lever.wording.units import UNITS, minus

# Angles: where the ray starts, where the limb ends, and which way it points at an angle of 0 and 90 degrees.
RAYS = {
    "shin_deg": ("ankle_right", "knee_right", (0.0, 1.0), (1.0, 0.0)),
    "thigh_deg": ("knee_right", "hip_right", (-1.0, 0.0), (0.0, 1.0)),
    "trunk_deg": ("hip_mid", "shoulder_mid", (0.0, 1.0), (1.0, 0.0)),
}
# Lengths: which way a larger value moves the grip.
WAYS = {
    "step_m": (-1.0, 0.0),
    "hands_ahead_m": (1.0, 0.0),
    "rear_height_m": (0.0, 1.0),
    "front_height_m": (0.0, 1.0),
    "bench_height_m": (0.0, 1.0),
    "feet_height_m": (0.0, 1.0),
    "bar_height_m": (0.0, 1.0),
}
TICK_M = 0.10


@dataclass(frozen=True)
class Mark:
    """Words to be put near a mark that has been drawn."""

    words: str
    at: QPointF


def paint_depth_room(
    painter: QPainter, view: View, theme: Theme, result: Result, left: Room
) -> list[Mark]:
    """From the knee, where the thigh could still go without rounding, with what stops there."""
    furthest = left.depth_unrounded
    if furthest is None or furthest.key != "thigh_deg" or not result.frames:
        return []
    return [Mark(_words(furthest, "room to "), _ray(painter, view, theme, result, furthest))]


def paint_reach(
    painter: QPainter,
    view: View,
    theme: Theme,
    result: Result,
    left: Room,
    kind: HandleKind,
    place: Array,
) -> list[Mark]:
    """Both ends of what a grip sets; ``place`` (m) is where the grip is."""
    marks: list[Mark] = []
    if kind.key not in left.reach or not result.frames:
        return marks
    for furthest, word in zip(left.reach[kind.key], ("from ", "to "), strict=True):
        if kind.key in RAYS:
            marks.append(Mark(_words(furthest, word), _ray(painter, view, theme, result, furthest)))
        elif kind.key in WAYS:
            now = result.case.settings[kind.key] or 0.0
            marks.append(
                Mark(_words(furthest, word), _tick(painter, view, theme, place, furthest, now))
            )
    return marks


def _pen(theme: Theme) -> QPen:
    pen = QPen(QColor(theme.ink), 1.4)
    pen.setDashPattern([2, 4])
    return pen


def _ray(
    painter: QPainter, view: View, theme: Theme, result: Result, furthest: Furthest
) -> QPointF:
    start, tip, at_0, at_90 = RAYS[furthest.key]
    begin, end = (result.shown.pose.points[n][:2, result.timeline.bottom] for n in (start, tip))
    angle = np.radians(furthest.value)
    way = np.cos(angle) * np.array(at_0) + np.sin(angle) * np.array(at_90)
    x, y = begin + float(np.hypot(*(end - begin))) * way
    painter.setPen(_pen(theme))
    painter.drawLine(view.at(float(begin[0]), float(begin[1])), view.at(float(x), float(y)))
    return view.at(float(x), float(y))


def _tick(
    painter: QPainter, view: View, theme: Theme, place: Array, furthest: Furthest, now_m: float
) -> QPointF:
    way = np.array(WAYS[furthest.key])
    middle = place[:2] + (furthest.value - now_m) * way
    across = TICK_M * np.array([way[1], way[0]])
    one, two = (view.at(*(middle + side * across).tolist()) for side in (-1.0, 1.0))
    painter.setPen(_pen(theme))
    painter.drawLine(one, two)
    return two if way[1] else one


def _words(furthest: Furthest, word: str) -> str:
    """What the end is and what stops there."""
    stop = f", stopped by {furthest.stop}" if furthest.stop else ", end of its range"
    number = (
        f"{furthest.value:.0f}°"
        if furthest.unit == "deg"
        else UNITS.text(furthest.value, furthest.unit, 0)
    )
    return minus(f"{word}{number}{stop}")
