"""The chosen technique drawn over the one at hand."""

from __future__ import annotations

import numpy as np
from PySide6.QtGui import QColor, QPainter, QPaintEvent

from zesty_lever.analysis import Result
from zesty_lever.ui.kit.screen import Themed
from zesty_lever.ui.kit.theme import Theme
from zesty_lever.ui.paint.figure import paint_figure, paint_floor, paint_ghost, paint_surfaces
from zesty_lever.ui.paint.levers import lever_marks, paint_joint_dot, paint_lever
from zesty_lever.ui.paint.view import View


class Preview(Themed):
    """The chosen technique at its decisive moment, the one at hand dashed behind it."""

    def __init__(self, theme: Theme) -> None:
        super().__init__(theme)
        self.result: Result | None = None
        self.own: Result | None = None
        self.setMinimumHeight(260)
        self.setAccessibleName("The chosen technique, the one at hand dashed")

    def show_results(self, chosen: Result | None, own: Result | None) -> None:
        """Draw a technique over the one at hand; None: nothing is chosen."""
        self.result, self.own = chosen, own
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        shown, own = self.result, self.own
        if shown is None or not shown.frames or own is None or not own.frames:
            return
        painter = self.painter()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        frames = [min(r.timeline.bottom, r.frames - 1) for r in (shown, own)]
        points = [
            p[:, f]
            for r, f in zip((shown, own), frames, strict=True)
            for p in r.shown.pose.points.values()
        ]
        places = np.array(points)
        view = View.fit(
            self.canvas().adjusted(4, 4, -4, -4),
            float(places[:, 1].max()) + 0.15,
            own.case.athlete.height_m,
            (float(places[:, 0].min()), float(places[:, 0].max())),
        )
        paint_floor(painter, view, self.theme, self.canvas().width())
        paint_ghost(painter, view, own, frames[1], QColor(self.theme.faint))
        paint_surfaces(painter, view, self.theme, shown)
        paint_figure(painter, view, self.theme, shown, frames[0])
        for mark in lever_marks(shown, frames[0], view):
            if not mark.joint.startswith("ankle"):
                paint_lever(painter, self.theme, mark)
                paint_joint_dot(painter, self.theme, mark.joint, mark.start, 6.0)
