"""Knee against hip demand of many variations, lower back as size, with a goal to drag."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QKeyEvent, QPainter, QPen

from zesty_lever.choosing.shortlist import Option, RuledOut
from zesty_lever.exercises.catalogue import variation
from zesty_lever.joints import COACH_JOINTS
from zesty_lever.ui.kit.plot import Axes, Axis, Plot, nearest
from zesty_lever.ui.kit.spoken import Spoken
from zesty_lever.ui.kit.theme import Theme, font

# A dot is picked from so far, px; an arrow key moves the goal by so much, N m.
PICK_PX, STEP_NM = 12.0, 5.0
LEAST_NM = 100.0


class DemandMap(Plot):
    """Knee against hip, lower back as size; the goal can be dragged, a dot picked.

    ``goal_moved``: knee and hip (N m) of another goal, or None. ``picked``: a variation.
    """

    goal_moved = Signal(object)
    picked = Signal(str)
    margins = (64, 12, 14, 38)

    def __init__(self, theme: Theme) -> None:
        super().__init__(
            "Knee against hip demand, lower back as size",
            "Click a dot to choose it. Drag the cross to a goal; arrows move it by 5 N·m; Delete takes it away.",
            theme,
        )
        self.options: list[Option | RuledOut] = []
        self.chosen = ""
        self.goal: tuple[float, float] | None = None
        self.limits: dict[str, float] = {}
        self.setMinimumHeight(260)
        self.spoken = Spoken(self)
        self.spoken.wanted.connect(lambda at: self.picked.emit(self.able[at].variation))

    def sizeHint(self) -> QSize:
        return QSize(700, 330)

    @property
    def able(self) -> list[Option]:
        """Those that can be done."""
        return [option for option in self.options if isinstance(option, Option)]

    def choose(self, name: str) -> None:
        """Mark a variation (empty: none), and say what it demands."""
        self.chosen = name
        names = [option.variation for option in self.able]
        if name in names:
            at = names.index(name)
            peaks = self.able[at].peaks
            told = ", ".join(f"{g.word} {peaks[g.key]:.0f}" for g in COACH_JOINTS)
            words = f"{at + 1} of {len(names)}, {variation(name).name}: {told} newton metres"
            self.spoken.tell(words, at, 0, len(names) - 1)
        self.update()

    def axes(self) -> Axes:
        """As far as the largest knee and hip, and a little to the knee's flexors."""
        peaks = [option.peaks for option in self.able]
        knee, hip = (1.08 * max([p[j] for p in peaks] + [LEAST_NM]) for j in ("knee", "hip"))
        return Axes(self.plot, Axis(-0.25 * knee, knee), Axis(0.0, hip))

    def pressed(self, axes: Axes, at: QPointF) -> bool:
        able = self.able
        spots = [axes.at(o.peaks["knee"], o.peaks["hip"]) for o in able]
        index = nearest(spots, at, PICK_PX)
        if index is not None:
            self.picked.emit(able[index].variation)
        return index is None and bool(self.options)

    def dragged(self, across: float, up: float) -> None:
        self.goal = (across, up)
        self.update()

    def dropped(self) -> None:
        self.goal_moved.emit(self.goal)

    def stepped(self, across: int, up: int) -> bool:
        if not self.options:
            return False
        axes = self.axes()
        knee, hip = self.goal or (0.5 * axes.across.high, 0.5 * axes.up.high)
        self.goal = (knee + STEP_NM * across, hip + STEP_NM * up)
        self.goal_moved.emit(self.goal)
        self.update()
        return True

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Delete:
            self.goal = None
            self.goal_moved.emit(None)
            self.update()
        else:
            super().keyPressEvent(event)

    def paint_marks(self, painter: QPainter, axes: Axes) -> None:
        theme, area = self.theme, axes.area
        self._paint_limits(painter, axes)
        axes.paint_ticks(painter, theme)
        painter.setPen(QColor(theme.faint))
        painter.drawText(
            QPointF(area.left(), area.bottom() + 32),
            "knee peak, N·m, across; hip peak, N·m, up; size: lower back",
        )
        able = self.able
        largest = max([o.peaks["back"] for o in able] + [1.0])
        for rank, option in reversed(list(enumerate(able))):
            at = axes.at(option.peaks["knee"], option.peaks["hip"])
            radius = 3.0 + 11.0 * max(option.peaks["back"], 0.0) / largest
            fill = QColor(theme.back)
            fill.setAlpha(150 if rank < 5 else 40)
            painter.setBrush(fill)
            painter.setPen(QPen(QColor(theme.ink), 2.4 if option.variation == self.chosen else 0.8))
            painter.drawEllipse(at, radius, radius)
        self._paint_names(painter, axes, able)
        if self.goal is not None:
            at = axes.at(*self.goal)
            painter.setPen(QPen(QColor(theme.warn), 2.4))
            painter.drawLine(at - QPointF(9, 0), at + QPointF(9, 0))
            painter.drawLine(at - QPointF(0, 9), at + QPointF(0, 9))

    def _paint_limits(self, painter: QPainter, axes: Axes) -> None:
        """What the ceilings leave, shaded lighter than what they rule out."""
        if not set(self.limits) & {"knee", "hip"}:
            return
        area = axes.area
        corner = axes.at(
            min(self.limits.get("knee", axes.across.high), axes.across.high),
            min(self.limits.get("hip", axes.up.high), axes.up.high),
        )
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(self.theme.well))
        painter.drawRect(QRectF(corner.x(), area.top(), area.right() - corner.x(), area.height()))
        painter.drawRect(
            QRectF(area.left(), area.top(), corner.x() - area.left(), corner.y() - area.top())
        )

    def _paint_names(self, painter: QPainter, axes: Axes, able: list[Option]) -> None:
        """Names of the first five and of the chosen one, none over another."""
        named = [*able[:5], *(o for o in able[5:] if o.variation == self.chosen)]
        spots = [axes.at(o.peaks["knee"], o.peaks["hip"]) for o in named]
        taken = [QRectF(at.x() - 8, at.y() - 8, 16, 16) for at in spots]
        painter.setFont(font(12, bold=True))
        for option, at in zip(named, spots, strict=True):
            name = variation(option.variation).name
            wide = painter.fontMetrics().horizontalAdvance(name) + 2.0
            places = [
                QRectF(at.x() + 12 if side > 0 else at.x() - 12 - wide, at.y() - 8 + down, wide, 16)
                for down in (0, -16, 16, -32, 32, 48, 64)
                for side in (1, -1)
            ]
            inside = [
                p
                for p in places
                if p.left() > self.plot.left()
                and p.right() < self.plot.right()
                and p.bottom() < self.plot.bottom()
            ]
            box = next((p for p in inside if not any(p.intersects(t) for t in taken)), places[0])
            taken.append(box)
            if abs(box.center().y() - at.y()) > 10:
                painter.setPen(QPen(QColor(self.theme.faint), 1))
                edge = box.left() if box.left() > at.x() else box.right()
                painter.drawLine(at, QPointF(edge, box.center().y()))
            painter.setPen(QColor(self.theme.ink))
            painter.drawText(box, Qt.AlignmentFlag.AlignLeft, name)
