"""What was measured as curves: angles over time with their errors, every rep over every other, the bar's path."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen, QPolygonF

from zesty_lever.measure.motion import Motion
from zesty_lever.measure.smooth import runs
from zesty_lever.physics.vectors import Array
from zesty_lever.ui.kit.plot import Axes, Axis, Plot
from zesty_lever.ui.kit.theme import Theme, font, text_width
from zesty_lever.ui.measure.desk import Desk
from zesty_lever.wording.units import minus

KINDS = {
    "side": ("Angles", "Reps over each other", "Bar path"),
    "front": ("Left over right", "Hip shift"),
}
NAMES = {"shin": "knee", "thigh": "hip", "trunk": "back", "heel_lift": "ankle"}
# Curves of one plot differ by their strokes too.
STROKES = {"shin": [], "thigh": [7.0, 3.0], "trunk": [2.0, 2.5], "heel_lift": [9.0, 2.0, 2.0, 2.0]}
REP_STROKES: tuple[list[float], ...] = ([], [7.0, 3.0], [2.0, 2.5], [9.0, 2.0, 2.0, 2.0])


class Curves(Plot):
    """One of the pictures of what was measured; pressing goes to the moment."""

    margins = (60, 26, 14, 40)
    empty = "Nothing measured yet."

    def __init__(self, desk: Desk, theme: Theme) -> None:
        super().__init__(
            "Measured curves", "Bands are one standard error. Press to go to a moment.", theme
        )
        self.desk = desk
        self.kind = "Angles"
        self.setMinimumHeight(200)
        desk.changed.connect(self.refresh)
        desk.framed.connect(self.update)

    def show_kind(self, kind: str) -> None:
        """Show another picture."""
        self.kind = kind
        self.refresh()

    def refresh(self) -> None:
        """Say what is shown, and show it."""
        kinds = KINDS[self.desk.marks.view]
        if self.kind not in kinds:
            self.kind = kinds[0]
        self.setAccessibleName(f"{self.kind}: {self._spoken()}")
        self.update()

    def _spoken(self) -> str:
        motion = self.desk.motion
        if motion is None:
            return "nothing measured yet"
        parts = [
            f"{name.replace('_', ' ')} {np.nanmin(curve):.0f} to {np.nanmax(curve):.0f} degrees"
            for name, curve in motion.angles.items()
            if not np.isnan(curve).all()
        ]
        return ", ".join([f"{len(motion.reps)} reps", *parts])

    # --- axes --------------------------------------------------------------------------------

    def _series(self, motion: Motion) -> dict[str, tuple[Array, Array]]:
        """Curves and standard errors by name, in the unit shown."""
        if motion.marks.view == "side":
            return {n: (motion.angles[n], motion.sd[n]) for n in motion.angles}
        if self.kind == "Hip shift":
            shift = motion.tracks_m.get("hip_shift")
            return {} if shift is None else {"hip shift": (100.0 * shift, np.full_like(shift, 0.8))}
        sd = 100.0 * motion.distances_sd_m.get("knee_track_left", 0.015)
        return {
            side: (100.0 * motion.tracks_m[f"knee_track_{side}"], np.full(motion.frames, sd))
            for side in ("left", "right")
            if f"knee_track_{side}" in motion.tracks_m
        }

    def axes(self) -> Axes | None:
        motion = self.desk.motion
        if motion is None or motion.frames < 2:
            return None
        if self.kind == "Bar path":
            return self._path_axes(motion)
        series = self._series(motion)
        values = [v for v, _ in series.values() if not np.isnan(v).all()]
        if not values:
            return None
        low, high = (
            min(float(np.nanmin(v)) for v in values),
            max(float(np.nanmax(v)) for v in values),
        )
        pad = max(0.08 * (high - low), 2.0 if motion.marks.view == "side" else 1.0)
        across = Axis(float(motion.times_s[0]), float(motion.times_s[-1]))
        if self.kind == "Reps over each other":
            across = Axis(0.0, max((r.end_s - r.start_s for r in motion.reps), default=1.0))
        return Axes(self.plot, across, Axis(low - pad, high + pad))

    def _path_axes(self, motion: Motion) -> Axes | None:
        if motion.bar_m is None or np.isnan(motion.bar_m).all():
            return None
        x, y = 100.0 * motion.bar_m[:, 0], 100.0 * motion.bar_m[:, 1]
        low, high = float(np.nanmin(y)) - 4.0, float(np.nanmax(y)) + 4.0
        # One scale for both ways: a path that looks crooked is crooked.
        area = self.plot
        half = 0.5 * (high - low) * area.width() / max(area.height(), 1.0)
        middle = 0.5 * float(np.nanmin(x) + np.nanmax(x))
        return Axes(area, Axis(middle - half, middle + half), Axis(low, high))

    # --- painting ----------------------------------------------------------------------------

    def paint_marks(self, painter: QPainter, axes: Axes) -> None:
        motion = self.desk.motion
        assert motion is not None
        if self.kind == "Bar path":
            self._paint_path(painter, axes, motion)
            return
        unit = "°" if motion.marks.view == "side" else " cm"
        axes.paint_ticks(
            painter, self.theme, across=lambda v: f"{v:g} s", up=lambda v: f"{v:.0f}{unit}"
        )
        if self.kind == "Reps over each other":
            self._paint_reps(painter, axes, motion)
            return
        for rep in motion.reps:
            box = QRectF(axes.at(rep.start_s, axes.up.high), axes.at(rep.end_s, axes.up.low))
            painter.fillRect(box, QColor(self.theme.well))
        legend = []
        for number, (name, (values, sd)) in enumerate(self._series(motion).items()):
            colour, stroke = self._style(name, number)
            self._paint_band(painter, axes, motion.times_s, values, sd, colour)
            self._paint_curve(painter, axes, motion.times_s, values, colour, stroke)
            legend.append((self._legend(name, values, sd), colour, stroke))
        at = self.desk.at
        if at is not None:
            x = axes.at(float(motion.times_s[at]), 0.0).x()
            painter.setPen(QPen(QColor(self.theme.ink), 1.4))
            painter.drawLine(QPointF(x, axes.area.top()), QPointF(x, axes.area.bottom()))
        self._paint_legend(painter, axes, legend)

    def _style(self, name: str, number: int) -> tuple[QColor, list[float]]:
        if name in NAMES:
            return QColor(getattr(self.theme, NAMES[name])), STROKES[name]
        return QColor((self.theme.hip, self.theme.knee)[number % 2]), REP_STROKES[number % 4]

    def _legend(self, name: str, values: Array, sd: Array) -> str:
        """A curve's name with its value at the moment shown."""
        at, words = self.desk.at, name.replace("_", " ")
        if at is None or not np.isfinite([values[at], sd[at]]).all():
            return words
        unit = "°" if self.desk.marks.view == "side" else " cm"
        return minus(f"{words} {values[at]:.0f} ± {sd[at]:.0f}{unit}")

    def _paint_band(
        self,
        painter: QPainter,
        axes: Axes,
        times_s: Array,
        values: Array,
        sd: Array,
        colour: QColor,
    ) -> None:
        veil = QColor(colour)
        veil.setAlpha(46)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(veil)
        for start, end in runs(~np.isnan(values)):
            part = slice(start, end)
            upper = axes.curve(times_s[part], values[part] + sd[part])
            lower = axes.curve(times_s[part][::-1], (values[part] - sd[part])[::-1])
            painter.drawPolygon(QPolygonF(upper.toList() + lower.toList()))

    def _paint_curve(
        self,
        painter: QPainter,
        axes: Axes,
        times_s: Array,
        values: Array,
        colour: QColor,
        stroke: list[float],
        width: float = 2.0,
    ) -> None:
        pen = QPen(colour, width)
        if stroke:
            pen.setDashPattern(stroke)
        painter.setPen(pen)
        for start, end in runs(~np.isnan(values)):
            painter.drawPolyline(axes.curve(times_s[start:end], values[start:end]))

    def _paint_legend(
        self, painter: QPainter, axes: Axes, entries: list[tuple[str, QColor, list[float]]]
    ) -> None:
        painter.setFont(font(12, bold=True))
        x = axes.area.left()
        for words, colour, stroke in entries:
            pen = QPen(colour, 2.4)
            if stroke:
                pen.setDashPattern(stroke)
            painter.setPen(pen)
            painter.drawLine(
                QPointF(x, axes.area.top() - 12), QPointF(x + 22, axes.area.top() - 12)
            )
            painter.setPen(QColor(self.theme.ink))
            wide = text_width(words, 12, bold=True)
            painter.drawText(QRectF(x + 27, axes.area.top() - 20, wide + 6, 16), words)
            x += wide + 44

    def _paint_reps(self, painter: QPainter, axes: Axes, motion: Motion) -> None:
        """Every rep from its own start: what differs between them is seen."""
        legend = []
        for number, rep in enumerate(motion.reps):
            inside = (motion.times_s >= rep.start_s) & (motion.times_s <= rep.end_s)
            stroke = REP_STROKES[number % 4]
            for name, curve in motion.angles.items():
                colour = QColor(getattr(self.theme, NAMES.get(name, "ankle")))
                self._paint_curve(
                    painter,
                    axes,
                    motion.times_s[inside] - rep.start_s,
                    curve[inside],
                    colour,
                    stroke,
                    1.6,
                )
            legend.append((f"rep {number + 1}", QColor(self.theme.ink), stroke))
        self._paint_legend(painter, axes, legend[:6])
        painter.setFont(font(12, bold=True))
        x = axes.area.left()
        for name in motion.angles:
            words = name.replace("_", " ")
            wide = text_width(words, 12, bold=True)
            painter.setPen(QColor(getattr(self.theme, NAMES.get(name, "ankle"))))
            painter.drawText(QRectF(x, axes.area.bottom() + 20, wide + 4, 16), words)
            x += wide + 16

    def _paint_path(self, painter: QPainter, axes: Axes, motion: Motion) -> None:
        """The bar over mid-foot, seen from the side."""
        theme = self.theme
        assert motion.bar_m is not None
        axes.paint_ticks(painter, theme, across=lambda v: f"{v:.0f} cm", up=lambda v: f"{v:.0f} cm")
        pen = QPen(QColor(theme.faint), 1.4)
        pen.setDashPattern([4, 3])
        painter.setPen(pen)
        if axes.across.low < 0.0 < axes.across.high:
            painter.drawLine(axes.at(0.0, axes.up.low), axes.at(0.0, axes.up.high))
            painter.setFont(font(11))
            painter.drawText(
                QRectF(axes.at(0.0, axes.up.high).x() + 4, axes.area.top(), 70, 14), "mid-foot"
            )
        legend = []
        for number, rep in enumerate(motion.reps):
            inside = (motion.times_s >= rep.start_s) & (motion.times_s <= rep.end_s)
            stroke = REP_STROKES[number % 4]
            path = 100.0 * motion.bar_m[inside]
            known = ~np.isnan(path[:, 0])
            pen = QPen(QColor(theme.ink), 1.8)
            if stroke:
                pen.setDashPattern(stroke)
            painter.setPen(pen)
            painter.drawPolyline(axes.curve(path[known, 0], path[known, 1]))
            legend.append((f"rep {number + 1}", QColor(theme.ink), stroke))
        at = self.desk.at
        if at is not None and np.isfinite(motion.bar_m[at]).all():
            painter.setBrush(QColor(theme.panel))
            painter.setPen(QPen(QColor(theme.ink), 2))
            painter.drawEllipse(axes.at(*(100.0 * motion.bar_m[at])), 4, 4)
        self._paint_legend(painter, axes, legend[:4])

    # --- hand --------------------------------------------------------------------------------

    def _timed(self) -> bool:
        return self.kind not in ("Bar path", "Reps over each other")

    def pressed(self, axes: Axes, at: QPointF) -> bool:
        return self._timed()

    def dragged(self, across: float, up: float) -> None:
        clip = self.desk.clip
        if clip is not None:
            self.desk.show_frame(clip.nearest(across))

    def stepped(self, across: int, up: int) -> bool:
        self.desk.show_frame(self.desk.frame + across)
        return True
