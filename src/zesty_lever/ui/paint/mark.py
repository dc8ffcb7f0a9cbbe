"""The product's mark."""

from __future__ import annotations

from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QColor, QIcon, QPainter, QPen, QPixmap, QPolygonF

from zesty_lever.ui.kit.theme import LIGHT


def mark_pixmap(size: int) -> QPixmap:
    """The product's mark: a beam from a joint to its line of force, and the tile it spans."""
    pixmap = QPixmap(size * 2, size * 2)
    pixmap.setDevicePixelRatio(2)
    pixmap.fill(Qt.GlobalColor.transparent)
    painter = QPainter(pixmap)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    rust, ink = QColor(LIGHT.hip), QColor("#8a7f6a")
    veil = QColor(rust)
    veil.setAlpha(70)
    unit = size / 26
    painter.fillRect(int(5 * unit), int(5 * unit), int(15 * unit), int(13 * unit), veil)
    painter.setPen(QPen(ink, 2.2 * unit))
    painter.drawLine(QPointF(20 * unit, 3 * unit), QPointF(20 * unit, 24 * unit))
    painter.setPen(QPen(rust, 4 * unit))
    painter.drawLine(QPointF(5 * unit, 18 * unit), QPointF(20 * unit, 18 * unit))
    painter.setBrush(rust)
    painter.drawPolygon(
        QPolygonF(
            [
                QPointF(20 * unit, 1 * unit),
                QPointF(16.5 * unit, 7 * unit),
                QPointF(23.5 * unit, 7 * unit),
            ]
        )
    )
    painter.end()
    return pixmap


def mark_icon() -> QIcon:
    """The window's icon."""
    return QIcon(mark_pixmap(64))
