"""Bands and cables: from where they hold the body to where they are fixed, with their pull."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen

from zesty_lever.analysis import Result
from zesty_lever.cases.anchors import anchors
from zesty_lever.cases.loads import BandLoad
from zesty_lever.physics.vectors import Array
from zesty_lever.ui.kit.theme import Theme, font, text_width

BAND_PX, CABLE_PX, POST_PX = 5.0, 2.0, 7.0
# Below this pull a band hangs slack, N.
SLACK_N = 0.5


def paint_lines(
    painter: QPainter, place: Callable[[Array], QPointF], theme: Theme, result: Result, frame: int
) -> None:
    """All bands and cables at a frame; slack ones thin and dotted. ``place`` puts metres on the screen."""
    if not result.frames:
        return
    lines = result.shown.lines
    points, forces, names = lines.points, lines.forces, lines.names
    bands = {line.name for line in result.variation.lines if line.kind == "band"}
    bands |= {load.name for load in result.case.loads if isinstance(load, BandLoad)}
    ends = {
        name: np.array(anchor.place) for anchor in anchors(result.case) for name in anchor.names
    }
    for name in dict.fromkeys(names):
        rows = [i for i, other in enumerate(names) if other == name]
        start = points[:, rows[0], frame]
        if name in ends:
            end = ends[name]
        elif len(rows) == 2:
            end = points[:, rows[1], frame]
        else:
            continue
        pull = float(np.linalg.norm(forces[:, rows[0], frame]))
        _paint_line(
            painter, theme, place(start), place(end), band=name in bands, slack=pull < SLACK_N
        )
    for anchor in anchors(result.case):
        total = sum(
            float(np.linalg.norm(forces[:, names.index(n), frame]))
            for n in anchor.names
            if n in names
        )
        _paint_anchor(painter, theme, place(np.array(anchor.place)), f"{total:.0f} N")


def _paint_line(
    painter: QPainter, theme: Theme, start: QPointF, end: QPointF, *, band: bool, slack: bool
) -> None:
    wide = BAND_PX if band else CABLE_PX
    if slack:
        pen = QPen(QColor(theme.faint), 1.6)
        pen.setDashPattern([2, 3])
        painter.setPen(pen)
        painter.drawLine(start, end)
        return
    for colour, width in ((theme.ink, wide + 1.6), (theme.iron, wide - 0.4)):
        painter.setPen(QPen(QColor(colour), width, c=Qt.PenCapStyle.FlatCap))
        painter.drawLine(start, end)


def _paint_anchor(painter: QPainter, theme: Theme, at: QPointF, words: str) -> None:
    painter.setPen(QPen(QColor(theme.ink), 1.4))
    painter.setBrush(QColor(theme.well))
    painter.drawRect(QRectF(at.x() - POST_PX, at.y() - POST_PX, 2 * POST_PX, 2 * POST_PX))
    painter.setBrush(QColor(theme.ink))
    painter.drawEllipse(at, 2.6, 2.6)
    painter.setFont(font(12))
    painter.setPen(QColor(theme.ink))
    painter.drawText(
        QPointF(at.x() - 0.5 * text_width(words, 12), at.y() - 2.0 * POST_PX - 6.0), words
    )
