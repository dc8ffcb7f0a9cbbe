"""A week beside the mean of the four before: one bar a joint with its number; no zone, no warning colour."""

from __future__ import annotations

from collections.abc import Mapping

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen

from zesty_lever.joints import COACH_JOINTS
from zesty_lever.log.weeks import Against
from zesty_lever.ui.kit.theme import Theme, font

# A bar as long as the mean of the four weeks takes this part of the room.
MEAN_AT = 0.5


def paint_ratios(
    painter: QPainter,
    theme: Theme,
    area: QRectF,
    against: Mapping[str, Against],
    *,
    named: bool = False,
) -> None:
    """Three bars, one under the other; the upright line is the mean of the last four weeks."""
    tall = area.height() / len(COACH_JOINTS)
    left = area.left() + (78.0 if named else 0.0)
    wide = area.right() - left - 46.0
    painter.setFont(font(12))
    for number, group in enumerate(COACH_JOINTS):
        top = area.top() + number * tall
        one = against.get(group.key)
        ratio = None if one is None else one.ratio
        box = QRectF(left, top + 0.18 * tall, wide, 0.64 * tall)
        if named:
            painter.setPen(QColor(theme.ink))
            place = QRectF(area.left(), top, 76.0, tall)
            painter.drawText(place, Qt.AlignmentFlag.AlignVCenter, group.word)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(theme.well))
        painter.drawRect(box)
        if ratio is not None:
            painter.setBrush(theme.joint(group.shown))
            painter.drawRect(
                QRectF(box.left(), box.top(), wide * min(MEAN_AT * ratio, 1.0), box.height())
            )
        painter.setPen(QPen(QColor(theme.ink), 1))
        x = box.left() + MEAN_AT * wide
        painter.drawLine(QPointF(x, box.top() - 1), QPointF(x, box.bottom() + 1))
        painter.setPen(QColor(theme.ink if ratio is not None else theme.faint))
        text = "\N{EN DASH}" if ratio is None else f"{ratio:.1f}"
        place = QRectF(area.right() - 42.0, top, 42.0, tall)
        painter.drawText(place, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, text)
