"""Strength of hip, knee and lower back as bars against a trained person of this mass and sex, with intervals."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QPen

from zesty_lever.joints import BY_KEY
from zesty_lever.ui.kit.screen import Themed
from zesty_lever.ui.kit.theme import Theme, font

MOST = 2.0
ROW_PX, LEFT_PX, RIGHT_PX = 26.0, 88.0, 52.0


class StrengthBars(Themed):
    """Three bars; the line at 100 % is the reference, the whisker holds nine in ten draws."""

    def __init__(self, theme: Theme) -> None:
        super().__init__(theme)
        self.rows: dict[str, tuple[float, float, float]] = {}
        self.setFixedHeight(round(3 * ROW_PX + 24))
        self.setAccessibleName("Estimated strength: no best known yet")
        self.setToolTip(
            "In per cent of a trained person's of this mass and sex; the line through each bar's end holds nine in "
            "ten of what the bests leave open."
        )

    def show_rows(self, rows: dict[str, tuple[float, float, float]]) -> None:
        """Median and middle 90 % by joint, 1 is the reference."""
        self.rows = rows
        told = (
            f"{BY_KEY[joint].word} {100 * middle:.0f} per cent, {100 * low:.0f} to {100 * high:.0f}"
            for joint, (middle, low, high) in rows.items()
        )
        self.setAccessibleName(f"Estimated strength: {', '.join(told) or 'no best known yet'}")
        self.setVisible(bool(rows))
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = self.painter()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme, canvas = self.theme, self.canvas()
        wide = canvas.width() - LEFT_PX - RIGHT_PX

        def x(share: float) -> float:
            return LEFT_PX + wide * min(share, MOST) / MOST

        bottom = 3 * ROW_PX
        painter.setFont(font(12))
        painter.setPen(QPen(QColor(theme.edge), 1.4))
        painter.drawLine(QPointF(x(1.0), 2), QPointF(x(1.0), bottom + 4))
        painter.setPen(QColor(theme.faint))
        painter.drawText(
            QRectF(x(1.0) - 90, bottom + 4, 180, 16),
            Qt.AlignmentFlag.AlignHCenter,
            "a trained person, 100 %",
        )
        for row, (joint, (middle, low, high)) in enumerate(self.rows.items()):
            y = (row + 0.5) * ROW_PX
            hue = theme.joint(BY_KEY[joint].shown)
            painter.setPen(QColor(theme.ink))
            painter.drawText(
                QRectF(0, y - 9, LEFT_PX - 8, 18),
                Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter,
                BY_KEY[joint].word,
            )
            veil = QColor(hue)
            veil.setAlpha(110)
            painter.fillRect(QRectF(LEFT_PX, y - 6, x(middle) - LEFT_PX, 12), veil)
            painter.setPen(QPen(hue, 2))
            painter.drawLine(QPointF(x(low), y), QPointF(x(high), y))
            for end in (low, high):
                painter.drawLine(QPointF(x(end), y - 4), QPointF(x(end), y + 4))
            painter.setPen(QColor(theme.ink))
            painter.drawText(
                QRectF(canvas.width() - RIGHT_PX + 6, y - 9, RIGHT_PX - 6, 18),
                Qt.AlignmentFlag.AlignVCenter,
                f"{100 * middle:.0f} %",
            )
