"""The frontier of a technique search: knee across, hip up, lower back as shade; start and best marked."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QSize, Signal
from PySide6.QtGui import QColor, QPainter, QPen

from zesty_lever.bench.frontier import Frontier
from zesty_lever.choosing.technique import Point
from zesty_lever.joints import COACH_JOINTS
from zesty_lever.ui.kit.plot import Axes, Axis, Plot, nearest
from zesty_lever.ui.kit.spoken import Spoken
from zesty_lever.ui.kit.theme import Theme, font
from zesty_lever.wording.units import minus

# A dot is picked from so far, px; room about the outermost dots as a share of the plot.
PICK_PX, ROOM = 16.0, 0.04


class FrontierView(Plot):
    """Techniques that no other beats. ``picked``: one has been chosen."""

    picked = Signal(int)
    margins = (64, 18, 24, 46)
    empty = "Choose what to lower or raise, then search."

    def __init__(self, theme: Theme) -> None:
        super().__init__(
            "Frontier of knee, hip and lower back",
            "Click a dot, or move with left and right; then open it on the bench.",
            theme,
        )
        self.frontier: Frontier | None = None
        self.setMinimumSize(360, 320)
        self.spoken = Spoken(self)
        self.spoken.wanted.connect(self.picked)

    def sizeHint(self) -> QSize:
        return QSize(700, 560)

    def show_frontier(self, frontier: Frontier | None) -> None:
        """Show another answer, or another choice in it."""
        self.frontier = frontier
        if frontier is not None:
            peaks = frontier.point.peaks
            told = ", ".join(f"{g.word} {peaks[g.key]:.0f}" for g in COACH_JOINTS)
            count = len(frontier.points)
            words = f"Technique {frontier.chosen + 1} of {count}: {told} newton metres"
            self.spoken.tell(words, frontier.chosen, 0, count - 1)
        self.update()

    def axes(self) -> Axes | None:
        if self.frontier is None:
            return None
        ends = []
        for joint in ("knee", "hip"):
            values = [point.peaks[joint] for point in self.frontier.points]
            room = ROOM * max(max(values) - min(values), 1.0)
            ends.append(Axis(min(values) - room, max(values) + room))
        return Axes(self.plot, *ends)

    def _spots(self, axes: Axes) -> list[QPointF]:
        points = [] if self.frontier is None else self.frontier.points
        return [axes.at(point.peaks["knee"], point.peaks["hip"]) for point in points]

    def pressed(self, axes: Axes, at: QPointF) -> bool:
        index = nearest(self._spots(axes), at, PICK_PX)
        if index is not None:
            self.picked.emit(index)
        return False

    def stepped(self, across: int, up: int) -> bool:
        if self.frontier is None or not across:
            return False
        self.picked.emit(self.frontier.choose(self.frontier.chosen + across).chosen)
        return True

    def paint_marks(self, painter: QPainter, axes: Axes) -> None:
        if self.frontier is None:
            return
        axes.paint_ticks(painter, self.theme)
        points = self.frontier.points
        backs = [p.peaks["back"] for p in points]
        for index, (point, at) in enumerate(zip(points, self._spots(axes), strict=True)):
            self._paint_dot(painter, point, at, backs, chosen=index == self.frontier.chosen)
        ends = self._spots(axes)[-2:]
        painter.setFont(font(13, bold=True))
        painter.setPen(QColor(self.theme.ink))
        for words, at in zip(("best", "as set up"), ends, strict=True):
            left = at.x() > self.canvas().width() - 110
            painter.drawText(at + QPointF(-70 if left else 13, 5), words)
        painter.setFont(font(12))
        painter.setPen(QColor(self.theme.faint))
        painter.drawText(
            QPointF(self.margins[0], self.canvas().height() - 10),
            minus(
                "knee peak, N·m, across; hip peak, N·m, up; darker: more lower back "
                f"({min(backs):.0f} to {max(backs):.0f} N·m)"
            ),
        )

    def _paint_dot(
        self, painter: QPainter, point: Point, at: QPointF, backs: list[float], *, chosen: bool
    ) -> None:
        theme = self.theme
        share = (point.peaks["back"] - min(backs)) / max(max(backs) - min(backs), 1e-9)
        fill = QColor(theme.back)
        fill.setAlpha(40 + int(190 * share))
        painter.setBrush(fill)
        painter.setPen(QPen(QColor(theme.ink), 3 if chosen else 0.8))
        named = self.frontier is not None and point in self.frontier.points[-2:]
        size = 9 if named else 6
        painter.drawEllipse(at, size, size)
