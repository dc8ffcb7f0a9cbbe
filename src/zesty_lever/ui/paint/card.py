"""Sketches of the set-up card: both ends of the rep and the feet from above, with tapes between their marks."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen

from zesty_lever.analysis import Result
from zesty_lever.cases.anchors import anchors
from zesty_lever.coaching.card import Card
from zesty_lever.coaching.tapes import Line
from zesty_lever.physics.vectors import Array
from zesty_lever.ui.kit.theme import Theme, font, text_width
from zesty_lever.ui.paint.feet import paint_foot
from zesty_lever.ui.paint.figure import paint_figure, paint_floor, paint_surfaces
from zesty_lever.ui.paint.lines import paint_lines
from zesty_lever.ui.paint.view import View
from zesty_lever.wording.sentences import card_value

# A sketch wider than this (m) shows the deepest moment only, where nothing is measured at the start.
ONE_PICTURE_M = 2.4
LEVEL_PX, END_PX = 21.0, 6.0
FOOT = ("heel", "ball", "toe", "ankle")


LYING_WORDS = {"start": "hips down", "deep": "lockout"}
STANDING_WORDS = {"start": "start", "deep": "deepest"}


def _extent(
    result: Result, measured: Sequence[Line], frames: tuple[int, ...]
) -> tuple[tuple[float, float], float]:
    """How far back and forward, and how high, a sketch of some frames and tapes goes, m."""
    points = result.shown.pose.points
    ends = [end for line in measured for end in line.ends or ()]
    along = [float(points[name][0, frame]) for name in SKETCHED for frame in frames]
    along += [end[0] for end in ends] + [a.place[0] for a in anchors(result.case)]
    high = [float(points["head_top"][1, frame]) for frame in frames] + [end[1] for end in ends]
    return (min(along), max(along)), max(high) + 0.15


SKETCHED = ("head_top", "toe_right", "toe_left", "heel_left", "hip_mid", "hand_right")


def paint_sketch(painter: QPainter, theme: Theme, result: Result, card: Card, area: QRectF) -> None:
    """Standing (or hips down) and deepest, beside or over each other, with every height and distance."""
    frames = {
        "start": int(np.argmin(result.timeline.progress)),
        "deep": min(result.timeline.bottom, result.frames - 1),
    }
    measured = [line for line in card.lines if line.mark in ("height", "length")]
    (back, front), tall = _extent(result, measured, tuple(frames.values()))
    wide = front - back + 0.75
    lying = tall < 1.0
    if wide > ONE_PICTURE_M and not lying and not any(line.when == "start" for line in measured):
        frames = {"deep": frames["deep"]}
    rows, columns = (len(frames), 1) if lying else (1, len(frames))
    below = {
        w: LEVEL_PX * sum(line.mark == "length" and line.when == w for line in measured) + 30.0
        for w in frames
    }
    under = sum(below.values()) if lying else max(below.values())
    scale = min((area.height() - under) / rows / (tall + 0.12), area.width() / (columns * wide))
    words = LYING_WORDS if lying else STANDING_WORDS
    floor = area.bottom() - under
    if lying:
        floor = (
            area.bottom() - below["deep"]
            if len(frames) == 1
            else area.bottom() - under - scale * (tall + 0.12)
        )
    for index, (when, frame) in enumerate(frames.items()):
        share = 0.5 if columns == 1 else 0.27 + 0.5 * index
        middle = area.left() + area.width() * share - scale * (0.5 * (front + back) - 0.12)
        if lying and index:
            floor = area.bottom() - below[when]
        view = View(scale, middle, floor)
        if index == 0 or lying:
            paint_floor(painter, view, theme, area.right())
        paint_surfaces(painter, view, theme, result)
        paint_lines(painter, view.point, theme, result, frame)
        paint_figure(painter, view, theme, result, frame)
        own = [line for line in measured if line.when == when or len(frames) == 1]
        left = max(area.left(), view.at(back, 0.0).x() - 30.0)
        bottom = _tapes(painter, theme, view, own, (left, area.right()))
        painter.setFont(font(12))
        painter.setPen(QColor(theme.faint))
        painter.drawText(
            QPointF(view.at(0.5 * (front + back), 0.0).x() - 20, bottom + 18),
            words[when],
        )


def _tapes(
    painter: QPainter, theme: Theme, view: View, lines: Sequence[Line], sides: tuple[float, float]
) -> float:
    """Heights as standing tapes, distances under the floor, each on its own level. Returns the lowest y."""
    y, aside = view.floor_y + 6.0, 0
    said: list[QRectF] = []
    for line in lines:
        words = f"{line.name}: {card_value(line)}"
        if line.mark == "height":
            if line.ends is None:
                x = sides[0] - 26.0 * aside
                aside += 1
            else:
                x = view.at(line.ends[1][0], 0.0).x()
            top = view.at(0.0, line.rounded)
            _tape(painter, theme, QPointF(x, view.floor_y), QPointF(x, top.y()))
            box = QRectF(x - 34.0, top.y() - 22.0, text_width(words, 12, bold=True) + 8.0, 17.0)
            while any(box.intersects(other) for other in said):
                box.translate(0.0, -18.0)
            said.append(box)
            _words(painter, theme, box.bottomLeft() + QPointF(4.0, -4.0), words)
        elif line.ends is not None and max(abs(end[1]) for end in line.ends) < 0.02:
            y += LEVEL_PX
            one, two = (QPointF(view.at(end[0], 0.0).x(), y - 8.0) for end in line.ends)
            painter.setPen(QPen(QColor(theme.line), 1))
            for end in (one, two):
                painter.drawLine(QPointF(end.x(), view.floor_y + 2.0), end)
            _tape(painter, theme, one, two)
            right, long = max(one.x(), two.x()) + 10.0, text_width(words, 12, bold=True)
            x = right if right + long < sides[1] else max(min(one.x(), two.x()) - 10.0 - long, 4.0)
            _words(painter, theme, QPointF(x, y - 4.0), words)
        elif line.ends is not None:
            one, two = (view.at(end[0], end[1]) for end in line.ends)
            _tape(painter, theme, one, two)
            _words(painter, theme, (one + two) * 0.5 + QPointF(12.0, 4.0), words)
    return y


def _tape(painter: QPainter, theme: Theme, one: QPointF, two: QPointF) -> None:
    """A line with a bar across both ends."""
    way = two - one
    long = max(float(np.hypot(way.x(), way.y())), 1e-6)
    across = QPointF(-way.y(), way.x()) * (END_PX / long)
    painter.setPen(QPen(theme.joint("knee"), 2))
    for start, end in ((one, two), (one - across, one + across), (two - across, two + across)):
        painter.drawLine(start, end)


def _words(painter: QPainter, theme: Theme, at: QPointF, words: str) -> None:
    wide = text_width(words, 12, bold=True)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(QColor(theme.panel))
    painter.drawRect(QRectF(at.x() - 2.0, at.y() - 12.0, wide + 4.0, 16.0))
    painter.setFont(font(12, bold=True))
    painter.setPen(theme.joint("knee"))
    painter.drawText(at, words)


def paint_plan(painter: QPainter, theme: Theme, result: Result, card: Card, area: QRectF) -> None:
    """The feet from above with the stance and the toes, the bar with the hands, a band's side."""
    pose = result.shown.pose
    if area.height() < 90.0:
        return
    feet = {s: [pose.points[f"{n}_{s}"][:, 0] for n in FOOT] for s in ("left", "right")}
    lines = {
        line.key: line for line in card.lines if line.mark == "width" or line.key == "toe_out_deg"
    }
    every = [p for points in feet.values() for p in points]
    every += [
        np.array(end)
        for line in lines.values()
        for end in line.ends or ()
        if line.key != "grip_width_m"
    ]
    places = np.array(every)
    bar = lines.get("grip_width_m")
    hands = 1.1 * bar.value if bar is not None else 0.0
    long = float(np.ptp(places[:, 0])) + 0.2
    wide = max(float(np.ptp(places[:, 2])) + 0.2, hands)
    top = 52.0 if bar is not None else 14.0
    scale = min((area.height() - top - 40.0) / long, area.width() * 0.7 / wide)
    mid_x, mid_z = (0.5 * float(places[:, axis].max() + places[:, axis].min()) for axis in (0, 2))
    centre = QPointF(area.center().x(), area.top() + top + 0.5 * scale * long)

    def spot(point: Array) -> QPointF:
        return centre + QPointF(float(point[2]) - mid_z, mid_x - float(point[0])) * scale

    for heel, ball, toe, _ in feet.values():
        paint_foot(painter, theme, spot, result.case.athlete.height_m, (heel, ball, toe))
    _plan_tapes(painter, theme, spot, feet, lines)
    if bar is not None:
        _bar(
            painter,
            theme,
            QPointF(spot(np.array([0.0, 0.0, 0.0])).x(), area.top() + 36.0),
            0.5 * scale * bar.rounded,
            bar,
        )


def _plan_tapes(
    painter: QPainter,
    theme: Theme,
    spot: Callable[[Array], QPointF],
    feet: Mapping[str, Sequence[Array]],
    lines: Mapping[str, Line],
) -> None:
    """Tapes below the feet, one a row, and how far the toes point out."""
    low = max(spot(p).y() for points in feet.values() for p in points) + 18.0
    for key, line in lines.items():
        if key == "toe_out_deg":
            _toe_arc(painter, theme, spot, feet["right"], line)
        elif line.ends is not None and key != "grip_width_m":
            one, two = (QPointF(spot(np.array(end)).x(), low) for end in line.ends)
            _tape(painter, theme, one, two)
            _words(
                painter,
                theme,
                QPointF(
                    0.5 * (one.x() + two.x()) - 0.5 * text_width(card_value(line), 12, bold=True),
                    low + 18.0,
                ),
                card_value(line),
            )
            low += 30.0


def _toe_arc(
    painter: QPainter,
    theme: Theme,
    spot: Callable[[Array], QPointF],
    foot: Sequence[Array],
    line: Line,
) -> None:
    """From straight ahead to the foot's own line, at the right heel."""
    heel, _, toe, _ = foot
    length = 1.25 * float(np.hypot(*(toe - heel)[[0, 2]]))
    angle = np.radians(line.rounded)
    start = spot(heel)
    pen = QPen(theme.joint("knee"), 1.4)
    pen.setDashPattern([4, 3])
    painter.setPen(pen)
    ends = [spot(heel + length * np.array([np.cos(a), 0.0, np.sin(a)])) for a in (0.0, angle)]
    for end in ends:
        painter.drawLine(start, end)
    _words(painter, theme, ends[1] + QPointF(8.0, 8.0), card_value(line))


def _bar(painter: QPainter, theme: Theme, middle: QPointF, half: float, line: Line) -> None:
    """The bar from above with both hands on it."""
    painter.setPen(QPen(QColor(theme.iron), 4))
    painter.drawLine(middle - QPointF(1.25 * half, 0.0), middle + QPointF(1.25 * half, 0.0))
    painter.setPen(QPen(QColor(theme.ink), 1.2))
    painter.setBrush(QColor(theme.flesh_deep))
    for side in (-1.0, 1.0):
        painter.drawRoundedRect(
            QRectF(middle.x() + side * half - 8.0, middle.y() - 6.0, 16.0, 12.0), 4, 4
        )
    _tape(painter, theme, middle - QPointF(half, 18.0), middle + QPointF(half, -18.0))
    words = f"grip {card_value(line)}"
    _words(painter, theme, middle - QPointF(0.5 * text_width(words, 12, bold=True), 22.0), words)
