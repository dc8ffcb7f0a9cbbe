"""Draws line of force, levers and angles on the figure.

A lever runs from the joint to the line of the resultant on the cut-off part. `lever_ends` is what
is painted, so a test can hold it against the result.
"""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen, QPolygonF

from zesty_lever.analysis import Result
from zesty_lever.exercises.catalogue import variation
from zesty_lever.frozen import dataclass
from zesty_lever.joints import JOINTS
from zesty_lever.physics.forces import GRAVITY_M_S2
from zesty_lever.physics.vectors import Array
from zesty_lever.ui.kit.theme import Theme, font, text_width
from zesty_lever.ui.paint.view import View
from zesty_lever.wording.units import UNITS, minus

SHOWN = ("lumbosacral", "hip_right", "knee_right", "ankle_right")
CHIP_HEIGHT = 24.0
LEADER = 170.0


@dataclass(frozen=True)
class LeverMark:
    """One lever as painted: screen ends, and the numbers written beside it."""

    joint: str
    start: QPointF
    end: QPointF
    force_N: float
    arm_m: float
    along: QPointF

    @property
    def moment_Nm(self) -> float:
        """Side-view moment, extensor positive."""
        return self.force_N * self.arm_m

    @property
    def text(self) -> str:
        """The product as it is written on the figure."""
        product = (
            f"{self.force_N:.0f} N × {UNITS.text(self.arm_m, 'm', 1)} = {self.moment_Nm:.0f} N·m"
        )
        return minus(product)


def _direction(force: Array) -> QPointF:
    """Unit vector of a side-view force on the screen (y down)."""
    size = float(np.hypot(force[0], force[1])) or 1.0
    return QPointF(float(force[0]) / size, -float(force[1]) / size)


def lever_marks(result: Result, frame: int, view: View) -> list[LeverMark]:
    """Levers of the shown joints at one frame."""
    pose, moments = result.shown.pose, result.shown.moments
    force, arm = moments.lever_force_N(), moments.lever_arm_m()
    offset = moments.lever_offset_m()
    marks = []
    for joint in SHOWN:
        row = JOINTS.index(joint)
        x, y = pose.points[joint][:2, frame]
        dx, dy = offset[:, row, frame]
        marks.append(
            LeverMark(
                joint,
                view.at(float(x), float(y)),
                view.at(float(x + dx), float(y + dy)),
                float(force[row, frame]),
                float(arm[row, frame]),
                _direction(moments.force[:, row, frame]),
            )
        )
    return marks


def paint_gravity_line(
    painter: QPainter, view: View, theme: Theme, result: Result, frame: int
) -> None:
    """Plumb line through the mass centre of athlete and load, down to the pressure point."""
    centre = result.shown.pose.system_centre()[:, frame]
    head = float(result.shown.pose.points["head_top"][1, frame])
    top = view.at(float(centre[0]), max(head, float(centre[1])) + 0.03)
    pen = QPen(QColor(theme.ink), 1.2)
    pen.setDashPattern([7, 4])
    painter.setPen(pen)
    painter.drawLine(top, view.at(float(centre[0]), 0.0))
    painter.setPen(QPen(QColor(theme.ink), 1.2))
    painter.setBrush(QColor(theme.paper))
    painter.drawEllipse(view.point(centre), 5, 5)
    painter.drawLine(view.point(centre) - QPointF(5, 0), view.point(centre) + QPointF(5, 0))
    painter.setBrush(QColor(theme.ink))
    for x, y in {
        (round(float(q[0]), 3), round(float(q[1]), 3))
        for q in result.shown.contacts.points[:, :, frame].T
    }:
        mark = view.at(x, y)
        painter.drawPolygon(QPolygonF([mark, mark + QPointF(-6, 11), mark + QPointF(6, 11)]))
    words = "line of gravity"
    wide = text_width(words, 12)
    words_on_paper(
        painter, theme, QRectF(top.x() - wide / 2 - 5, top.y() - 18, wide + 10, 17), words
    )


def paint_ground_forces(
    painter: QPainter, view: View, theme: Theme, result: Result, frame: int
) -> None:
    """Arrows of the contact forces, their length by size (1 m on the figure is a body weight)."""
    contacts = result.shown.contacts
    weight = GRAVITY_M_S2 * result.case.athlete.mass_kg
    painter.setPen(QPen(QColor(theme.ink), 2))
    painter.setBrush(QColor(theme.ink))
    for point, force in zip(
        contacts.points[:, :, frame].T, contacts.forces[:, :, frame].T, strict=True
    ):
        size = float(np.hypot(force[0], force[1]))
        if size < 0.01 * weight:
            continue
        start = view.at(float(point[0]), float(point[1]))
        along = _direction(force)
        end = start + along * (size / weight * 0.6 * view.scale)
        across = QPointF(-along.y(), along.x())
        painter.drawLine(start, end)
        painter.drawPolygon(
            QPolygonF([end + along * 7, end - along * 3 + across * 4, end - along * 3 - across * 4])
        )


def words_on_paper(painter: QPainter, theme: Theme, label: QRectF, words: str) -> None:
    """Quiet words on a patch of paper, so that no line runs through them."""
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(QColor(theme.paper))
    painter.drawRect(label)
    painter.setFont(font(12))
    painter.setPen(QColor(theme.faint))
    painter.drawText(label, Qt.AlignmentFlag.AlignCenter, words)


def paint_lever(painter: QPainter, theme: Theme, mark: LeverMark) -> None:
    """One lever: a beam with a foot at the line of force, and a short piece of that line."""
    colour = theme.joint(mark.joint)
    along, across = mark.along, QPointF(-mark.along.y(), mark.along.x())
    painter.setPen(QPen(colour, 2))
    painter.drawLine(mark.end - along * 13, mark.end + along * 13)
    tip = mark.end + along * 20
    painter.setBrush(colour)
    painter.drawPolygon(
        QPolygonF([tip, tip - along * 9 + across * 5, tip - along * 9 - across * 5])
    )
    painter.setPen(QPen(QColor(theme.paper), 8, c=Qt.PenCapStyle.FlatCap))
    painter.drawLine(mark.start, mark.end)
    painter.setPen(QPen(colour, 5, c=Qt.PenCapStyle.FlatCap))
    painter.drawLine(mark.start, mark.end)


def paint_joint_dot(
    painter: QPainter, theme: Theme, joint: str, at: QPointF, size: float = 8.0
) -> None:
    """A joint's dot: hip round, knee square, lower back diamond, ankle triangle."""
    painter.setPen(QPen(theme.joint(joint), 3))
    painter.setBrush(QColor(theme.paper))
    kind = joint.split("_", maxsplit=1)[0]
    if kind == "hip":
        painter.drawEllipse(at, size, size)
    elif kind == "knee":
        painter.drawRect(QRectF(at.x() - size, at.y() - size, 2 * size, 2 * size))
    elif kind == "ankle":
        points = [QPointF(0, -size), QPointF(size, size * 0.8), QPointF(-size, size * 0.8)]
        painter.drawPolygon(QPolygonF([at + p for p in points]))
    else:
        points = [
            QPointF(0, -size * 1.2),
            QPointF(size * 1.2, 0),
            QPointF(0, size * 1.2),
            QPointF(-size * 1.2, 0),
        ]
        painter.drawPolygon(QPolygonF([at + p for p in points]))


# How far labels stay apart, px.
APART = 2.0


class Chips:
    """Places small labels so that none covers another."""

    def __init__(self, painter: QPainter, theme: Theme, area: QRectF) -> None:
        self._painter, self._theme, self._area = painter, theme, area
        self.taken: list[QRectF] = []

    def put(
        self,
        text: str,
        anchor: QPointF,
        *,
        right: bool,
        colour: QColor,
        tag: str = "",
        leader: bool = True,
        margin: bool = False,
    ) -> QRectF:
        """Write ``text`` beside ``anchor`` (or in the margin of that side) with a leader line."""
        painter, theme = self._painter, self._theme
        bold, plain = font(13, bold=True), font(11)
        width = text_width(text, 13, bold=True) + 18
        if tag:
            width += text_width(tag, 11) + 8
        if margin:
            near, far = anchor.x() + LEADER, anchor.x() - LEADER - width
            x = (
                min(self._area.right() - width - 6, near)
                if right
                else max(self._area.left() + 6, far)
            )
        else:
            x = anchor.x() + 14 if right else anchor.x() - width - 14
        x = min(max(x, self._area.left() + 4), self._area.right() - width - 4)
        box = self._free_place(QRectF(x, anchor.y() - CHIP_HEIGHT / 2, width, CHIP_HEIGHT))
        if leader:
            edge = QPointF(box.left() if right else box.right(), box.center().y())
            painter.setPen(QPen(colour, 1))
            painter.drawLine(anchor, edge)
        painter.setPen(QPen(colour, 1.2))
        painter.setBrush(QColor(theme.panel))
        painter.drawRoundedRect(box, 4, 4)
        painter.setFont(bold)
        painter.setPen(colour)
        inside = box.adjusted(9, 0, -9, 0)
        painter.drawText(inside, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft, text)
        if tag:
            painter.setFont(plain)
            painter.setPen(QColor(theme.faint))
            painter.drawText(
                inside, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, tag
            )
        return box

    def quiet(self, words: str, anchor: QPointF, *, right: bool) -> None:
        """Plain words on a patch of paper near a mark, with a thin leader."""
        painter, wide = self._painter, text_width(words, 12) + 10
        x = anchor.x() + 10 if right else anchor.x() - 10 - wide
        x = min(max(x, self._area.left() + 4), self._area.right() - wide - 4)
        box = self._free_place(QRectF(x, anchor.y() - 9, wide, 18))
        painter.setPen(QPen(QColor(self._theme.faint), 1))
        painter.drawLine(anchor, QPointF(box.left() if right else box.right(), box.center().y()))
        words_on_paper(painter, self._theme, box, words)

    def _free_place(self, box: QRectF) -> QRectF:
        """The nearest place up or down where the box touches no other."""
        top, low = box.top(), box.bottom()
        # Only what stands in the same columns can be in the way: from where to where it goes.
        left, right = box.left() - APART, box.right() + APART
        columns = [
            (t.top() - APART, t.bottom() + APART)
            for t in self.taken
            if t.left() < right and t.right() > left
        ]
        for step in range(40):
            for by in (7.0 * step, -7.0 * step) if step else (0.0,):
                if top + by < self._area.top() or low + by > self._area.bottom():
                    continue
                if all(low + by <= start or top + by >= end for start, end in columns):
                    moved = box.translated(0, by)
                    self.taken.append(moved)
                    return moved
        self.taken.append(box)
        return box


def paint_angles(
    view: View,
    theme: Theme,
    result: Result,
    frame: int,
    free: str,
    chips: Chips,
) -> None:
    """Angle chips of trunk, thigh and shin; the solved one says so and wears a thicker edge."""
    pose = result.shown.pose
    lying = variation(result.case.variation).lies
    places = (
        ("trunk_deg", "trunk", "hip_mid", "shoulder_mid", 0.0, 0.72, False),
        ("thigh_deg", "thigh", "knee_right", "hip_right", 90.0, 0.55, False),
        ("shin_deg", "shin", "ankle_right", "knee_right", 0.0, 0.45, True),
    )
    for key, name, lower, upper, base, share, right in places:
        angle = base + float(np.degrees(pose.side_view_rad(lower, upper)[frame]))
        if key == "trunk_deg" and lying:
            angle = -90.0 - angle  # against level, plus with the hips higher
        start, end = pose.points[lower][:, frame], pose.points[upper][:, frame]
        anchor = view.point(start + share * (end - start))
        if key == "thigh_deg":
            anchor += QPointF(0, 0.085 * result.case.athlete.height_m * view.scale)
        aside = 0.07 * result.case.athlete.height_m * view.scale * (1 if right else -1)
        if key != "thigh_deg":
            anchor += QPointF(aside, 0)
        solved = key == free
        tag = "solved" if solved else ""
        chips.put(
            minus(f"{name} {angle:.0f}°"),
            anchor,
            right=right,
            colour=QColor(theme.ink),
            tag=tag,
            leader=False,
        )
