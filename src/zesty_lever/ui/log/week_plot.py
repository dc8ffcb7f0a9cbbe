"""Weeks of exposure: for each joint a bar a week, beside the mean of the four before."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QPen

from zesty_lever.joints import COACH_JOINTS
from zesty_lever.records.sums import week_of
from zesty_lever.records.views import LogView
from zesty_lever.ui.kit.screen import Themed
from zesty_lever.ui.kit.theme import Theme, font
from zesty_lever.wording.records import day_short, impulse_words

WEEKS = 9
# A week's column as wide as this has its Monday named, px.
NAME_WIDE = 52.0


class WeekBars(Themed):
    """Impulse by week, extensors up and flexors down, each joint on a row of its own with this week's words."""

    def __init__(self, theme: Theme) -> None:
        super().__init__(theme)
        self.view: LogView | None = None
        self.setMinimumHeight(230)
        self.setAccessibleName("Weeks of exposure")
        self.setToolTip(
            "Impulse of each joint by week: extensors up, flexors down; the line is the mean of the four before."
        )

    def show_view(self, view: LogView | None) -> None:
        """Show an athlete's weeks."""
        self.view = view
        self.setAccessibleDescription(self.spoken())
        self.update()

    def spoken(self) -> str:
        """The week that runs, in words."""
        if self.view is None:
            return "Nothing yet."
        view = self.view
        parts = [f"{g.word}: {view.against(g.key).words}" for g in COACH_JOINTS]
        return f"This week so far: {'; '.join(parts)}."

    def paintEvent(self, event: QPaintEvent) -> None:
        painter, theme, area = self.painter(), self.theme, self.canvas()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(QPen(QColor(theme.line), 1))
        painter.setBrush(QColor(theme.panel))
        painter.drawRoundedRect(area.adjusted(1, 1, -1, -1), 4, 4)
        if self.view is None:
            return
        tall = (area.height() - 30.0) / len(COACH_JOINTS)
        for number, group in enumerate(COACH_JOINTS):
            self._paint_joint(
                painter, group.key, QRectF(12, 6 + number * tall, area.width() - 24, tall)
            )
        self._paint_weeks(painter, area)

    def _places(self, area: QRectF) -> tuple[float, float, list[int]]:
        """Left end and width of a week's column, and the weeks."""
        assert self.view is not None
        this = week_of(self.view.today)
        left, right = 150.0, area.right() - 14.0
        return left, (right - left) / WEEKS, list(range(this - WEEKS + 1, this + 1))

    def _paint_weeks(self, painter: QPainter, area: QRectF) -> None:
        left, wide, weeks = self._places(area)
        painter.setFont(font(11))
        painter.setPen(QColor(self.theme.faint))
        for number, week in enumerate(weeks):
            if (len(weeks) - 1 - number) % (1 if wide > NAME_WIDE else 3):
                continue
            middle = left + (number + 0.5) * wide
            box = QRectF(middle - 40, area.bottom() - 22, 80, 16)
            words = "this week" if week == weeks[-1] else day_short(7 * week + 1)[4:]
            painter.drawText(box, Qt.AlignmentFlag.AlignHCenter, words)

    def _paint_joint(self, painter: QPainter, key: str, area: QRectF) -> None:
        assert self.view is not None
        theme, view = self.theme, self.view
        group = next(g for g in COACH_JOINTS if g.key == key)
        left, wide, weeks = self._places(self.canvas())
        totals = [view.week_total(week) for week in weeks]
        up = max((e.of(key) for e in totals), default=0.0) or 1.0
        down = max((e.of(key, flexors=True) for e in totals), default=0.0)
        zero = area.bottom() - 8.0 - (area.height() - 18.0) * down / (up + down)
        scale = (area.height() - 18.0) / (up + down)
        hue = theme.joint(group.shown)
        for number, total in enumerate(totals):
            x = left + number * wide + 0.16 * wide
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(hue)
            bar = scale * total.of(key)
            painter.drawRect(QRectF(x, zero - bar, 0.68 * wide, bar))
            painter.setBrush(QColor(theme.panel))
            painter.setPen(QPen(hue, 1.5))
            flexors = scale * total.of(key, flexors=True)
            if flexors > 1.0:
                painter.drawRect(QRectF(x + 0.5, zero, 0.68 * wide - 1.0, flexors))
        painter.setPen(QPen(QColor(theme.faint), 1))
        painter.drawLine(QPointF(left, zero), QPointF(left + WEEKS * wide, zero))
        self._paint_words(painter, key, area, zero, scale)

    def _paint_words(
        self, painter: QPainter, key: str, area: QRectF, zero: float, scale: float
    ) -> None:
        assert self.view is not None
        theme, against = self.theme, self.view.against(key)
        group = next(g for g in COACH_JOINTS if g.key == key)
        left, wide, weeks = self._places(self.canvas())
        if against.ratio is not None:
            y = zero - scale * against.mean
            painter.setPen(QPen(QColor(theme.ink), 1.5))
            painter.drawLine(QPointF(left + (WEEKS - 5) * wide, y), QPointF(left + WEEKS * wide, y))
        total = self.view.week_total(weeks[-1])
        sure, most = total.hard_of(key)
        hard = f"{sure:g}" if sure == most else f"{sure:g} to {most:g}"
        painter.setPen(theme.joint(group.shown))
        painter.setFont(font(13, bold=True))
        painter.drawText(QRectF(14, area.top() + 6, 130, 18), 0, group.word)
        painter.setPen(QColor(theme.ink))
        painter.setFont(font(12))
        lines = f"{against.words}\n{hard} hard reps\n{impulse_words(total.of(key))}"
        box = QRectF(14, area.top() + 26, 132, area.height() - 26)
        painter.drawText(box, Qt.TextFlag.TextWordWrap, lines)
