"""Draws the athlete and what is carried, from the side. Positions come from the result."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import lru_cache
from math import ceil, floor

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSizeF, Qt
from PySide6.QtGui import (
    QBrush,
    QColor,
    QPainter,
    QPainterPath,
    QPdfWriter,
    QPen,
    QPixmap,
)

from zesty_lever.analysis import Result
from zesty_lever.tables import full_disc_radius_m
from zesty_lever.ui.kit.theme import Theme
from zesty_lever.ui.paint.body_side import body_parts, paths_of
from zesty_lever.ui.paint.view import View, path_of

DISC_RADIUS_M = full_disc_radius_m()


def paint_floor(painter: QPainter, view: View, theme: Theme, width: float) -> None:
    """Floor line with a tape of decimetres measured from under the ankles."""
    painter.setPen(QPen(QColor(theme.ink), 2))
    painter.drawLine(QPointF(0, view.floor_y), QPointF(width, view.floor_y))
    painter.setPen(QPen(QColor(theme.faint), 1))
    first, last = (10.0 * (end - view.origin_x) / view.scale for end in (0.0, width))
    for step in range(ceil(first), floor(last) + 1):
        x = view.at(step / 10, 0.0).x()
        length = 9 if step % 5 == 0 else 5
        painter.drawLine(QPointF(x, view.floor_y + 2), QPointF(x, view.floor_y + 2 + length))


def paint_surfaces(painter: QPainter, view: View, theme: Theme, result: Result) -> None:
    """Bench, box or step under whatever stands on one."""
    settings, pose = result.case.settings, result.shown.pose
    blocks = []
    for key, point, before, behind in (
        ("bench_height_m", "upper_back", 0.20, 0.14),
        ("rear_height_m", "ball_left", 0.16, 0.14),
        ("front_height_m", "ball_right", 0.16, 0.30),
        ("feet_height_m", "ball_right", 0.20, 0.30),
    ):
        height = settings.get(key) or 0.0
        if height > 0.0:
            x = 0.0 if point == "upper_back" else float(pose.points[point][0, 0])
            blocks.append((x - behind, x + before, height))
    contacts, last = result.shown.contacts, min(result.timeline.bottom, result.frames - 1)
    if contacts is not None and "seat" in contacts.names:
        x, height, _ = contacts.points[:, contacts.names.index("seat"), last].tolist()
        blocks.append((x - 0.22, x + 0.10, height))
    if "knee_share" in settings:
        blocks.append((float(pose.points["toe_right"][0, 0]) - 0.05, 0.14, 0.012))
    painter.setPen(QPen(QColor(theme.faint), 1.2))
    painter.setBrush(QColor(theme.well))
    for left, right, height in blocks:
        painter.drawRect(QRectF(view.at(left, height), view.at(right, 0.0)))
    if "bench_slope_deg" in settings:
        _paint_slope(painter, view, theme, result)


def _paint_slope(painter: QPainter, view: View, theme: Theme, result: Result) -> None:
    """The inclined bench: a post, a rail under the legs, the pad and the roll over the ankles."""
    pose, contacts = result.shown.pose, result.shown.contacts
    pad, ankle = contacts.points[:, -1, 0], pose.points["ankle_right"][:, 0]
    slope = np.radians(result.case.settings["bench_slope_deg"] or 45.0)
    under = np.array([np.sin(slope), -np.cos(slope), 0.0])
    foot = ankle + 0.10 * under
    painter.setPen(QPen(QColor(theme.faint), 6, c=Qt.PenCapStyle.RoundCap))
    painter.drawLine(view.point(foot), view.point(pad + 0.05 * under))
    middle = 0.5 * (foot + pad)
    painter.drawLine(view.point(middle), view.at(float(middle[0]), 0.0))
    painter.setPen(QPen(QColor(theme.ink), 1.2))
    painter.setBrush(QColor(theme.well))
    radius = 0.045 * view.scale
    painter.drawEllipse(view.point(pad + 0.03 * under), radius, radius)
    painter.drawEllipse(view.point(ankle - 0.085 * under), 0.7 * radius, 0.7 * radius)


def paint_figure(painter: QPainter, view: View, theme: Theme, result: Result, frame: int) -> None:
    """The solid figure with its load."""
    flesh, deep = QColor(theme.flesh), QColor(theme.flesh_deep)
    outline = QPen(QColor(theme.ink), 1.3, j=Qt.PenJoinStyle.RoundJoin)
    paths = paths_of(result, frame, view)
    paint_load(painter, view, theme, result, frame, behind=True)
    _paint_head(painter, view, result, frame, QBrush(flesh), outline)
    painter.setPen(outline)
    painter.setBrush(deep)
    if "thigh_left" in paths:
        painter.drawPath(_united([paths[f"{n}_left"] for n in ("foot", "shank", "thigh")]))
    painter.setBrush(flesh)
    near = ("neck", "trunk", "foot_right", "shank_right", "thigh_right")
    painter.drawPath(_united([paths[n] for n in near]))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(QPen(_veil(outline.color(), 70), 1))
    painter.drawPath(paths["thigh_right"])
    hand = QPainterPath()
    radius = 0.023 * result.case.athlete.height_m * view.scale
    hand.addEllipse(view.point(result.shown.pose.points["hand_right"][:, frame]), radius, radius)
    painter.setPen(outline)
    painter.setBrush(deep)
    painter.drawPath(_united([paths["upper_arm"], paths["forearm"], hand]))
    paint_load(painter, view, theme, result, frame, behind=False)


def _united(parts: list[QPainterPath]) -> QPainterPath:
    """One silhouette of overlapping parts."""
    whole = QPainterPath()
    for part in parts:
        whole = whole.united(part)
    return whole


@lru_cache(maxsize=12)
def _silhouette(frame: int, view: View, result: _ByIdentity) -> QPainterPath:
    """One outline of the whole body. Kept, since the other set-up stands still in a drag."""
    return _united([path_of(part, view) for part in body_parts(result.result, frame).values()])


@dataclass(frozen=True, eq=False)
class _ByIdentity:
    """Keeps a result alive while its silhouette is kept, without comparing its arrays."""

    result: Result

    def __eq__(self, other: object) -> bool:
        return isinstance(other, _ByIdentity) and self.result is other.result

    def __hash__(self) -> int:
        return id(self.result)


class GhostPicture:
    """A dashed outline kept as a picture: it stands still while the other set-up is dragged."""

    def __init__(self) -> None:
        self._of: tuple[object, ...] = ()
        # Held, so that what the picture is of can't be taken for another that has come to lie in its place.
        self._result: Result | None = None
        self._picture = QPixmap()

    def paint(
        self,
        painter: QPainter,
        view: View,
        result: Result,
        frame: int,
        colour: QColor,
        area: QRectF,
    ) -> None:
        """Paint `paint_ghost` over an area, from the picture where it is still the same."""
        ratio = painter.device().devicePixelRatio()
        scale = painter.transform().m11()
        of = (view, frame, colour.name(), area.width(), area.height(), ratio, scale)
        if result is not self._result or of != self._of:
            sharp = ratio * scale
            made = QPixmap((QSizeF(area.width(), area.height()) * sharp).toSize())
            made.setDevicePixelRatio(sharp)
            made.fill(Qt.GlobalColor.transparent)
            inner = QPainter(made)
            inner.setRenderHint(QPainter.RenderHint.Antialiasing)
            inner.translate(-area.topLeft())
            paint_ghost(inner, view, result, frame, colour)
            inner.end()
            self._of, self._result, self._picture = of, result, made
        painter.drawPixmap(area.topLeft(), self._picture)


def paint_ghost(painter: QPainter, view: View, result: Result, frame: int, colour: QColor) -> None:
    """A set-up as a dashed outline: the other one, or a pose that can't be done."""
    whole = _silhouette(frame, view, _ByIdentity(result))
    pen = QPen(colour, 1.4)
    pen.setDashPattern([4, 3])
    painter.setPen(pen)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawPath(whole)
    _paint_head(painter, view, result, frame, QBrush(Qt.BrushStyle.NoBrush), pen)
    for index in range(result.shown.pose.load_points.shape[1]):
        centre = view.point(result.shown.pose.load_points[:, index, frame])
        painter.drawEllipse(centre, 7, 7)


def paint_steps(painter: QPainter, view: View, theme: Theme, result: Result) -> None:
    """Faint outlines of the way down (bridges: up), four steps of equal time."""
    last = min(result.timeline.moves[0][1], result.frames - 1)
    painter.setPen(QPen(_veil(QColor(theme.ink), 70), 1))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    for step in range(5):
        frame = round(step * last / 4)
        painter.drawPath(_silhouette(frame, view, _ByIdentity(result)))


def _paint_head(
    painter: QPainter, view: View, result: Result, frame: int, fill: QBrush, pen: QPen
) -> None:
    size = result.case.athlete.height_m
    shoulder, top = (result.shown.pose.points[n][:, frame] for n in ("shoulder_mid", "head_top"))
    centre = view.point(shoulder + 0.66 * (top - shoulder))
    lean = np.degrees(np.arctan2(top[0] - shoulder[0], top[1] - shoulder[1]))
    painter.save()
    painter.translate(centre)
    painter.rotate(float(lean))
    half = 0.062 * size * view.scale
    wide = 0.047 * size * view.scale
    painter.setPen(pen)
    painter.setBrush(fill)
    head = QPainterPath(QPointF(-0.2 * wide, -half))
    head.cubicTo(0.9 * wide, -1.02 * half, 1.12 * wide, -0.5 * half, 1.04 * wide, -0.1 * half)
    head.lineTo(1.22 * wide, 0.22 * half)
    head.lineTo(1.02 * wide, 0.3 * half)
    head.cubicTo(1.05 * wide, 0.8 * half, 0.8 * wide, 0.98 * half, 0.3 * wide, 0.9 * half)
    head.cubicTo(-0.2 * wide, 0.8 * half, -0.9 * wide, 0.7 * half, -1.02 * wide, 0.0)
    head.cubicTo(-1.1 * wide, -0.7 * half, -0.7 * wide, -half, -0.2 * wide, -half)
    painter.drawPath(head)
    painter.restore()


def paint_load(
    painter: QPainter, view: View, theme: Theme, result: Result, frame: int, *, behind: bool
) -> None:
    """What is carried: bar with discs, bell, or dumbbells, each at its solved place."""
    pose, load = result.shown.pose, result.variation.load
    if load is None or not pose.load_points.shape[1] or result.case.load_kg <= 0.0:
        return
    centre = view.point(pose.load_points[:, -1 if load.name == "dumbbell" else 0, frame])
    iron = QColor(theme.iron)
    draw: Callable[..., None] = {
        "bar": _paint_bar,
        "kettlebell": _paint_bell,
        "dumbbell": _paint_dumbbell,
        "plate": _paint_bar,
    }.get(load.name, _paint_bell)
    draw(painter, view, iron, centre, behind=behind)


def _veil(colour: QColor, alpha: int) -> QColor:
    veiled = QColor(colour)
    veiled.setAlpha(alpha)
    return veiled


def _paint_bar(
    painter: QPainter, view: View, iron: QColor, centre: QPointF, *, behind: bool
) -> None:
    radius = DISC_RADIUS_M * view.scale
    if behind and isinstance(painter.device(), QPdfWriter):
        _draw_disc(painter, centre, radius, iron)
        return
    if behind:
        picture = _disc(radius, iron.name())
        half = 0.5 * picture.deviceIndependentSize().width()
        painter.drawPixmap(centre - QPointF(half, half), picture)
        return
    painter.setPen(QPen(iron, 1.2))
    painter.setBrush(_veil(iron, 90))
    painter.drawEllipse(centre, 0.025 * view.scale * 1.6, 0.025 * view.scale * 1.6)
    painter.setBrush(iron)
    painter.drawEllipse(centre, 0.014 * view.scale * 1.3, 0.014 * view.scale * 1.3)


@lru_cache(maxsize=8)
def _disc(radius: float, colour: str) -> QPixmap:
    """A see-through disc, painted once for each size."""
    side = int(2 * radius) + 6
    picture = QPixmap(2 * side, 2 * side)
    picture.setDevicePixelRatio(2.0)
    picture.fill(Qt.GlobalColor.transparent)
    painter = QPainter(picture)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    _draw_disc(painter, QPointF(0.5 * side, 0.5 * side), radius, QColor(colour))
    painter.end()
    return picture


def _draw_disc(painter: QPainter, centre: QPointF, radius: float, colour: QColor) -> None:
    painter.setPen(QPen(_veil(colour, 120), 1.2))
    painter.setBrush(_veil(colour, 26))
    painter.drawEllipse(centre, radius, radius)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawEllipse(centre, 0.86 * radius, 0.86 * radius)


def _paint_bell(
    painter: QPainter, view: View, iron: QColor, centre: QPointF, *, behind: bool
) -> None:
    if not behind:
        return
    radius = 0.10 * view.scale
    painter.setPen(QPen(iron, 5))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawArc(
        QRectF(centre.x() - 0.6 * radius, centre.y() - 1.75 * radius, 1.2 * radius, 1.3 * radius),
        0,
        180 * 16,
    )
    painter.setPen(QPen(iron, 1.2))
    painter.setBrush(_veil(iron, 150))
    painter.drawEllipse(centre, radius, radius)


def _paint_dumbbell(
    painter: QPainter, view: View, iron: QColor, centre: QPointF, *, behind: bool
) -> None:
    half, tall = 0.16 * view.scale, 0.075 * view.scale
    painter.setPen(QPen(iron, 1.2))
    if not behind:
        return
    painter.setBrush(_veil(iron, 150))
    for side in (-1, 1):
        painter.drawRoundedRect(
            QRectF(
                centre.x() + side * 0.72 * half - 0.28 * half,
                centre.y() - tall,
                0.56 * half,
                2 * tall,
            ),
            4,
            4,
        )
    painter.drawRect(QRectF(centre.x() - half, centre.y() - 3, 2 * half, 6))
