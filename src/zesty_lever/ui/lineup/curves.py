"""The curves of a line-up: one joint, all set-ups, over the range or over time."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QColor, QPainter, QPen

from zesty_lever.analysis import Result
from zesty_lever.choosing.compare import Compared, Failed
from zesty_lever.joints import COACH_JOINTS
from zesty_lever.ui.kit.plot import Axes, Axis, Plot
from zesty_lever.ui.kit.theme import Theme, font
from zesty_lever.wording.sentences import curves_sentence, lined_up_name

DASHES: tuple[list[float], ...] = ([], [7, 3], [2, 2], [9, 3, 2, 3], [4, 4], [1, 3])
KEY_PX, LEAST_TOP_NM = 15.0, 10.0


class Curves(Plot):
    """One joint's moment of all set-ups, each with its own dashes and its line in the key."""

    empty = "Curves stand here once there is something in the line-up."

    def __init__(self, theme: Theme) -> None:
        super().__init__(
            "Curves of the set-ups", "The joint's net moment; the key is below.", theme
        )
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.compared: list[Compared | Failed] = []
        self.joint, self.over_time = "hip_right", False
        self.setMinimumHeight(250)

    @property
    def margins(self) -> tuple[float, float, float, float]:  # type: ignore[override]
        """The key below takes a line for each set-up."""
        return (50.0, 30.0, 14.0, 30.0 + KEY_PX * len(self.compared))

    def _solved(self) -> list[tuple[int, Result]]:
        return [(i, c.result) for i, c in enumerate(self.compared) if isinstance(c, Compared)]

    def describe(self) -> None:
        """Say what the curves show."""
        cases = [item.case for item in self.compared]
        named = [(lined_up_name(result.case, cases), result) for _, result in self._solved()]
        word = next(g.word for g in COACH_JOINTS if g.shown == self.joint)
        self.setAccessibleDescription(curves_sentence(named, self.joint, word))

    def axes(self) -> Axes | None:
        curves = self._solved()
        if not curves:
            return None
        values = [result.solved.extension(self.joint) for _, result in curves]
        up = Axis(
            min([float(v.min()) for v in values] + [0.0]),
            max([float(v.max()) for v in values] + [LEAST_TOP_NM]),
        )
        longest = max(float(result.timeline.time_s[-1]) for _, result in curves)
        return Axes(self.plot, Axis(0.0, longest if self.over_time else 100.0), up)

    def paint_marks(self, painter: QPainter, axes: Axes) -> None:
        axes.paint_ticks(painter, self.theme)
        painter.setFont(font(12))
        painter.setPen(QColor(self.theme.faint))
        words = next(g.word for g in COACH_JOINTS if g.shown == self.joint)
        across = "time, s" if self.over_time else "range, %: start to turn"
        painter.drawText(QPointF(10, 19), f"{words}, N·m, over {across}")
        for index, result in self._solved():
            self._paint_curve(painter, axes, index, result)

    def _paint_curve(self, painter: QPainter, axes: Axes, index: int, result: Result) -> None:
        times, values = result.timeline, result.solved.extension(self.joint)
        x = times.time_s
        if not self.over_time:
            first, last = times.moves[0]
            values = values[first : last + 1]
            x = 100.0 * np.abs(times.progress[first : last + 1] - times.progress[first])
        pen = QPen(self.theme.joint(self.joint), 2.0)
        if DASHES[index % len(DASHES)]:
            pen.setDashPattern(DASHES[index % len(DASHES)])
        painter.setPen(pen)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPolyline(axes.curve(x, values))
        left, key = axes.area.left(), axes.area.bottom() + 32.0 + KEY_PX * index
        painter.drawLine(QPointF(left, key), QPointF(left + 34, key))
        painter.setPen(QColor(self.theme.ink))
        name = lined_up_name(result.case, [item.case for item in self.compared])
        painter.drawText(QPointF(left + 42, key + 4), name)
