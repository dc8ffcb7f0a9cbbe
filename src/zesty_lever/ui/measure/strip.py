"""The clip as a strip: how high bar or hips are, the reps, the marked frames, and where following is unsure."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen

from zesty_lever.measure import edits
from zesty_lever.ui.kit.plot import Axes, Axis, Plot
from zesty_lever.ui.kit.theme import Theme, font
from zesty_lever.ui.measure.desk import Desk

# A disagreement of so many pixels fills its lane.
WORST_PX = 12.0
LANE = 14.0


class Strip(Plot):
    """Press or drag to go to a moment; left and right step through the frames."""

    margins = (12, 8, 12, 34)
    empty = "The strip of the clip is here, once one is open."

    def __init__(self, desk: Desk, theme: Theme) -> None:
        super().__init__(
            "Strip of the clip",
            "Press or drag to go to a moment. Squares: frames marked by hand. The lane below the curve is the taller and "
            "the redder, the further the two ways of following are apart.",
            theme,
        )
        self.desk = desk
        self.setFixedHeight(96)
        desk.changed.connect(self.update)
        desk.framed.connect(self._speak)

    def _speak(self) -> None:
        clip = self.desk.clip
        if clip is not None:
            now, last = clip.times_s[self.desk.frame], clip.times_s[-1]
            self.setAccessibleName(
                f"Strip of the clip: {now:.2f} of {last:.2f} s, frame {self.desk.frame + 1}"
            )
        self.update()

    def axes(self) -> Axes | None:
        clip = self.desk.clip
        if clip is None or clip.is_still:
            return None
        return Axes(self.plot, Axis(0.0, max(float(clip.times_s[-1]), 1e-3)), Axis(0.0, 1.0))

    def paint_marks(self, painter: QPainter, axes: Axes) -> None:
        desk, theme, area = self.desk, self.theme, axes.area
        clip, motion = desk.clip, desk.motion
        assert clip is not None
        axes.paint_ticks(painter, theme, across=lambda v: f"{v:g} s", up=None)
        if motion is not None:
            self._paint_reps(painter, axes)
            self._paint_height(painter, axes)
            self._paint_apart(painter, axes)
        hand = edits.hand_frames(desk.marks)
        painter.setPen(QPen(QColor(theme.ink), 1.2))
        painter.setBrush(QColor(theme.panel))
        for frame in hand:
            if frame < clip.frames:
                x = axes.at(float(clip.times_s[frame]), 0.0).x()
                painter.drawRect(QRectF(x - 3.5, area.top() - 1, 7, 7))
        painter.setPen(QPen(QColor(theme.warn), 3))
        for start, end in desk.marks.hidden.get(desk.name, ()):
            ends = [
                axes.at(float(clip.times_s[min(f, clip.frames - 1)]), 0.0).x() for f in (start, end)
            ]
            painter.drawLine(QPointF(ends[0], area.top() + 12), QPointF(ends[1], area.top() + 12))
        x = axes.at(float(clip.times_s[desk.frame]), 0.0).x()
        painter.setPen(QPen(QColor(theme.ink), 2))
        painter.drawLine(QPointF(x, area.top()), QPointF(x, area.bottom() + 4))

    def _paint_reps(self, painter: QPainter, axes: Axes) -> None:
        motion, theme, area = self.desk.motion, self.theme, axes.area
        assert motion is not None
        painter.setFont(font(11, bold=True))
        for number, rep in enumerate(motion.reps, 1):
            left, right = axes.at(rep.start_s, 0.0).x(), axes.at(rep.end_s, 0.0).x()
            painter.fillRect(
                QRectF(left, area.top(), right - left, area.height()), QColor(theme.well)
            )
            words = f"rep {number}" + (" ✓" if number == motion.rep else "")
            painter.setPen(QColor(theme.ink))
            painter.drawText(QRectF(left + 4, area.bottom() - LANE - 15, right - left, 14), words)

    def _paint_height(self, painter: QPainter, axes: Axes) -> None:
        motion, theme = self.desk.motion, self.theme
        assert motion is not None
        height = motion.height_m
        if height is None or np.isnan(height).all():
            return
        low, high = float(np.nanmin(height)), float(np.nanmax(height))
        share = 0.28 + 0.66 * (height - low) / max(high - low, 0.05)
        known = ~np.isnan(share)
        painter.setPen(QPen(QColor(theme.ink), 1.6))
        painter.drawPolyline(axes.curve(motion.times_s[known], share[known]))

    def _paint_apart(self, painter: QPainter, axes: Axes) -> None:
        """How far the two ways are apart, worst mark of each frame: height and redness alike."""
        motion, theme, area = self.desk.motion, self.theme, axes.area
        assert motion is not None
        parts = [a for a in motion.apart_px.values() if not np.isnan(a).all()]
        if not parts:
            return
        worst = np.nanmax(np.nan_to_num(np.array(parts)), axis=0)
        step = axes.area.width() / max(motion.frames, 1)
        painter.setPen(Qt.PenStyle.NoPen)
        good, bad = QColor(theme.edge), QColor(theme.warn)
        for at, size in enumerate(worst.tolist()):
            share = min(size / WORST_PX, 1.0)
            colour = QColor.fromRgbF(
                good.redF() + share * (bad.redF() - good.redF()),
                good.greenF() + share * (bad.greenF() - good.greenF()),
                good.blueF() + share * (bad.blueF() - good.blueF()),
            )
            x = axes.at(float(motion.times_s[at]), 0.0).x()
            painter.fillRect(
                QRectF(x - 0.5 * step, area.bottom() - LANE * share, max(step, 1.0), LANE * share),
                colour,
            )

    def pressed(self, axes: Axes, at: QPointF) -> bool:
        return True

    def dragged(self, across: float, up: float) -> None:
        clip = self.desk.clip
        if clip is not None:
            self.desk.show_frame(clip.nearest(across))

    def stepped(self, across: int, up: int) -> bool:
        self.desk.show_frame(self.desk.frame + across)
        return True
