"""A small figure that shows where the mark that is worked with lies."""

from __future__ import annotations

from functools import lru_cache

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QPen

from zesty_lever.analysis import Result, analyse
from zesty_lever.cases.model import Athlete, Case
from zesty_lever.physics.vectors import Array
from zesty_lever.ui.kit.screen import Themed
from zesty_lever.ui.kit.theme import Theme
from zesty_lever.ui.measure.desk import Desk
from zesty_lever.ui.paint.figure import paint_figure, paint_floor
from zesty_lever.ui.paint.front_body import paint_front_body
from zesty_lever.ui.paint.view import View

HALF_WAY = 0.62


@lru_cache(maxsize=1)
def _example() -> Result:
    """Somebody half-way down in a squat: every place can be seen."""
    someone = Athlete(height_m=1.75, mass_kg=75.0, sex="female")
    return analyse(Case(athlete=someone, variation="back-squat-high-bar", load_kg=40.0))


class Guide(Themed):
    """Where to click: a figure with a ring."""

    def __init__(self, desk: Desk, theme: Theme) -> None:
        super().__init__(theme)
        self.desk = desk
        self.setFixedSize(118, 132)
        self.setAccessibleName("Where the mark lies")
        desk.chosen.connect(self.update)
        desk.changed.connect(self.update)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = self.painter()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        area, theme, result = self.canvas(), self.theme, _example()
        painter.setPen(QPen(QColor(theme.line), 1))
        painter.setBrush(QColor(theme.panel))
        painter.drawRoundedRect(area.adjusted(1, 1, -1, -1), 4, 4)
        frame = int(
            np.argmin(np.abs(result.timeline.progress[: result.timeline.bottom + 1] - HALF_WAY))
        )
        joint, _, side = self.desk.name.partition("_")
        if self.desk.marks.view == "front":
            spot = self._paint_front(painter, area, frame, joint, side)
        else:
            spot = self._paint_side(painter, area, frame, joint)
        for width, colour in ((6.0, theme.panel), (2.6, theme.warn)):
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(QPen(QColor(colour), width))
            painter.drawEllipse(spot, 8, 8)

    def _paint_side(self, painter: QPainter, area: QRectF, frame: int, joint: str) -> QPointF:
        result = _example()
        view = View.fit(area.adjusted(2, 6, -2, -2), 1.72, 1.75, (-0.45, 0.45))
        paint_floor(painter, view, self.theme, area.width())
        paint_figure(painter, view, self.theme, result, frame)
        return view.point(_place(result, frame, joint, "right"))

    def _paint_front(
        self, painter: QPainter, area: QRectF, frame: int, joint: str, side: str
    ) -> QPointF:
        result = _example()
        scale = (area.height() - 16.0) / 1.72

        def at(place: Array) -> QPointF:
            # From the front the athlete's right is left in the picture.
            x, y = (
                area.center().x() - scale * float(place[2]),
                area.bottom() - 8 - scale * float(place[1]),
            )
            return QPointF(x, y)

        paint_front_body(painter, at, scale, self.theme, result, frame, QColor(self.theme.ink))
        return at(_place(result, frame, joint, side or "right"))


def _place(result: Result, frame: int, joint: str, side: str) -> Array:
    """Where a mark lies on the example, ``(3,)`` m: the bar too, whichever view it was named in."""
    pose = result.shown.pose
    if joint == "bar":
        bar: Array = pose.load_points[:, 0, frame]
        return bar
    return pose.points[f"{joint}_{side}"][:, frame]
