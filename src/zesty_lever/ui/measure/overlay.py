"""What lies over the picture: lines, marks, what gives the scale, the loupe, and what was meant."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPainterPath, QPen

from zesty_lever.measure import edits
from zesty_lever.ui.kit.theme import Theme, font, text_width
from zesty_lever.ui.measure.tools import TOOL_WORDS, Tool

if TYPE_CHECKING:
    from PySide6.QtCore import QPointF

    from zesty_lever.ui.measure.picture import Picture

LOUPE_PX, LOUPE_TIMES = 168.0, 5.0
LINES = {
    "side": (
        ("ankle", "knee"),
        ("knee", "hip"),
        ("hip", "shoulder"),
        ("hip", "bar"),
        ("heel", "ball"),
    ),
    "front": (
        ("ankle_left", "knee_left"),
        ("knee_left", "hip_left"),
        ("ankle_right", "knee_right"),
        ("knee_right", "hip_right"),
        ("hip_left", "hip_right"),
        ("ankle_left", "toe_left"),
        ("ankle_right", "toe_right"),
    ),
}


def halo(
    painter: QPainter,
    path: QPainterPath,
    colour: QColor,
    width: float,
    *,
    dashed: bool = False,
) -> None:
    """A line that shows on light and dark alike."""
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(QPen(QColor(0, 0, 0, 150), width + 2.4))
    painter.drawPath(path)
    pen = QPen(colour, width)
    if dashed:
        pen.setDashPattern([5, 4])
    painter.setPen(pen)
    painter.drawPath(path)


def paint_lines(painter: QPainter, picture: Picture) -> None:
    """Lines between joints that are marked or followed."""
    desk = picture.desk
    for one, other in LINES[desk.marks.view]:
        ends = desk.place_of(one), desk.place_of(other)
        if (
            ends[0] is None
            or ends[1] is None
            or (other == "bar" and desk.place_of("shoulder") is not None)
        ):
            continue
        path = QPainterPath(picture.to_screen(ends[0]))
        path.lineTo(picture.to_screen(ends[1]))
        halo(painter, path, QColor("#fcf9f2"), 1.6, dashed=other == "bar")


def paint_marks(painter: QPainter, picture: Picture) -> None:
    """Marks: squares set by hand, rounds followed, dashed where carried."""
    desk, motion, at = picture.desk, picture.desk.motion, picture.desk.at
    for name in edits.names_of(desk.marks):
        place = desk.place_of(name)
        if place is None:
            continue
        by_hand = desk.frame in desk.marks.marks.get(name, {})
        inferred = (
            not by_hand
            and motion is not None
            and at is not None
            and name in motion.inferred
            and bool(motion.inferred[name][at])
        )
        spot, chosen = picture.to_screen(place), name == desk.name
        path = QPainterPath()
        size = 9.0 if chosen else 7.0
        if by_hand:
            path.addRect(QRectF(spot.x() - size, spot.y() - size, 2 * size, 2 * size))
        else:
            path.addEllipse(spot, size, size)
        path.moveTo(spot.x() - 3, spot.y())
        path.lineTo(spot.x() + 3, spot.y())
        path.moveTo(spot.x(), spot.y() - 3)
        path.lineTo(spot.x(), spot.y() + 3)
        hue = {"hip": "#f08a5a", "knee": "#5cc3d0", "ankle": "#b9c56a"}.get(
            name.split("_", maxsplit=1)[0], "#fcf9f2"
        )
        halo(painter, path, QColor(hue), 2.4 if chosen else 1.6, dashed=inferred)
        if chosen:
            _paint_word(
                painter,
                picture.theme,
                spot,
                name.replace("_", " ") + (" (carried)" if inferred else ""),
            )


def _paint_word(painter: QPainter, theme: Theme, spot: QPointF, words: str) -> None:
    painter.setFont(font(12, bold=True))
    box = QRectF(spot.x() + 14, spot.y() - 9, text_width(words, 12, bold=True) + 10, 18)
    painter.fillRect(box, QColor(theme.panel))
    painter.setPen(QColor(theme.ink))
    painter.drawText(box, Qt.AlignmentFlag.AlignCenter, words)


def paint_calibration(painter: QPainter, picture: Picture) -> None:
    """Disc, taped length, upright and sleeve, and the line that is being set."""
    marks, frame = picture.desk.marks, picture.desk.frame
    colour = QColor("#e9d36b")
    disc, length, sleeve = marks.calibration.disc, marks.calibration.length, marks.sleeve
    if disc is not None and disc.frame == frame:
        path = QPainterPath()
        path.addEllipse(
            picture.to_screen(disc.centre_px),
            disc.half_axes_px[0] * picture.scale,
            disc.half_axes_px[1] * picture.scale,
        )
        halo(painter, path, colour, 1.6)
    pairs = []
    if length is not None and length.frame == frame:
        pairs.append((length.from_px, length.to_px))
    if sleeve is not None and sleeve.frame == frame:
        pairs.append((sleeve.hub_px, sleeve.end_px))
    if marks.plumb_px is not None:
        pairs.append(marks.plumb_px)
    if picture.first is not None and picture.pointer is not None:
        pairs.append((picture.first, picture.to_picture(picture.pointer)))
    for one, other in pairs:
        path = QPainterPath(picture.to_screen(one))
        path.lineTo(picture.to_screen(other))
        for end in (one, other):
            path.addEllipse(picture.to_screen(end), 3, 3)
        halo(painter, path, colour, 1.6)


def paint_loupe(painter: QPainter, picture: Picture, area: QRectF) -> None:
    """The pixels about the pointer, or about the mark that keys move, five times as large."""
    desk = picture.desk
    about = (
        desk.place_now()
        if picture.by_keys
        else None
        if picture.pointer is None
        else picture.to_picture(picture.pointer)
    )
    if about is None or desk.image.isNull():
        return
    spot = picture.to_screen(about)
    if not area.contains(spot):
        return
    right = spot.x() < area.center().x()
    box = QRectF(
        area.right() - LOUPE_PX - 10 if right else area.left() + 10,
        area.top() + 10,
        LOUPE_PX,
        LOUPE_PX,
    )
    times = LOUPE_TIMES * max(picture.scale, 1.0)
    half = 0.5 * LOUPE_PX / times
    source = QRectF(about[0] + 0.5 - half, about[1] + 0.5 - half, 2 * half, 2 * half)
    painter.fillRect(box, QColor(picture.theme.well))
    painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform, on=False)
    painter.drawImage(box, desk.image, source)
    painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform, on=True)
    cross = QPainterPath()
    middle = box.center()
    for dx, dy in ((1, 0), (-1, 0), (0, 1), (0, -1)):
        cross.moveTo(middle.x() + 5 * dx, middle.y() + 5 * dy)
        cross.lineTo(middle.x() + 30 * dx, middle.y() + 30 * dy)
    halo(painter, cross, QColor("#fcf9f2"), 1.2)
    painter.setPen(QPen(QColor(picture.theme.ink), 1.4))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawRect(box)
    words = (
        TOOL_WORDS[picture.tool][0 if picture.first is None else 1]
        if picture.tool is not Tool.MARK
        else desk.name.replace("_", " ")
    )
    strip = QRectF(box.left(), box.bottom(), box.width(), 18)
    painter.fillRect(strip, QColor(picture.theme.panel))
    painter.setFont(font(11))
    painter.setPen(QColor(picture.theme.ink))
    painter.drawText(strip, Qt.AlignmentFlag.AlignCenter, words)


def paint_meant(painter: QPainter, picture: Picture) -> None:
    """The set-up's figure at the deepest moment, from the same ankle, through the same camera."""
    motion, meant = picture.desk.motion, picture.meant
    if motion is None or motion.camera is None or motion.base_m is None or meant is None:
        return
    pose, at = meant.shown.pose, min(meant.timeline.bottom, meant.frames - 1)
    names = (
        "toe_right",
        "heel_right",
        "ankle_right",
        "knee_right",
        "hip_right",
        "shoulder_right",
        "head_top",
    )
    start = pose.points["ankle_right"][:, at]
    places = np.array([pose.points[n][:, at] for n in names])
    places[:, 0] += motion.base_m[0] - start[0]
    places[:, 1] += motion.base_m[1]
    px = motion.camera.px(places)
    points = [picture.to_screen((float(x), float(y))) for x, y in px]
    foot = QPainterPath(points[0])
    foot.lineTo(points[1])
    body = QPainterPath(points[2])
    for point in points[3:]:
        body.lineTo(point)
    for path in (foot, body):
        halo(painter, path, QColor("#e7a6ff"), 3.0, dashed=True)
