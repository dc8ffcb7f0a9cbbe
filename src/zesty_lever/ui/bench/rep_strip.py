"""Demand of hip, knee and lower back over the rep, and the moment that the screen shows."""

from __future__ import annotations

import re
from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QKeyEvent, QPainter, QPaintEvent, QPen, QPixmap, QPolygonF
from PySide6.QtWidgets import QSizePolicy

from zesty_lever.analysis import Result
from zesty_lever.exercises.catalogue import variation
from zesty_lever.joints import HIP, JOINTS, KNEE, LOWER_BACK
from zesty_lever.ui.bench.use_curve import paint_use
from zesty_lever.ui.kit.plot import Axes, Axis, Plot
from zesty_lever.ui.kit.spoken import Spoken
from zesty_lever.ui.kit.theme import Theme, font
from zesty_lever.ui.kit.zoom import ZOOM
from zesty_lever.ui.paint.levers import paint_joint_dot
from zesty_lever.ui.session import Session
from zesty_lever.wording.sentences import rep_sentences
from zesty_lever.wording.units import minus

if TYPE_CHECKING:
    from zesty_lever.choosing.bests import Effort

# Where a rep starts and ends, and where it turns.
END_WORDS = {
    "top-first": ("top", "bottom"),
    "floor-first": ("floor", "standing"),
    "bridge": ("hips down", "lockout"),
}
CURVES = tuple((group.shown, group.word) for group in (LOWER_BACK, HIP, KNEE))
ROWS = [JOINTS.index(joint) for joint, _ in CURVES]
STEP_NM = 50.0


class RepStrip(Plot):
    """Curves of the net moments against time; drag or arrow keys move through the rep."""

    margins = (58, 32, 92, 24)

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__(
            "Rep position",
            "Drag to move through the rep. Left and right: one frame; Home: top; End: bottom.",
            theme,
        )
        self.session = session
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self._ground_key: tuple[object, ...] = ()
        self._ground_of: Result | None = None
        self._ground_picture = QPixmap()
        # How hard the set-up is for this athlete, once it is known.
        self.told: Effort | None = None
        self.setMinimumHeight(150)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.spoken = Spoken(self)
        self.spoken.wanted.connect(session.set_moment)
        for signal in (session.curves_due, session.moment_changed):
            signal.connect(self.update)
            signal.connect(self._speak)
        self._speak()

    def show_effort(self, told: Effort | str | None) -> None:
        """Draw how much is used over the way up, or nothing where it is not known or would mislead."""
        self.told = None if isinstance(told, str) else told
        self.update()
        self._speak()

    def _speak(self) -> None:
        """Have the strip say where in the rep it stands, and what the joints carry there."""
        session = self.session
        times, now = session.result.timeline, session.moment
        words = f"Moment of the rep: {float(times.time_s[now]):.1f} seconds, {times.phase[now]}"
        if session.result.feasible:
            values = session.result.shown.moments.extension[ROWS, now].tolist()
            carried = (f"{word} {v:.0f}" for (_, word), v in zip(CURVES, values, strict=True))
            words += f"; {', '.join(carried)} newton metres"
        if self.told is not None and not session.dragging:
            low, high = (100.0 * end for end in self.told.hard_zone)
            words += f"; hard zone from {low:.0f} to {high:.0f} per cent of the depth"
        self.spoken.tell(minus(words), now, 0, len(times.progress) - 1)
        self.setAccessibleDescription(re.sub("<br>", " ", rep_sentences(session.result)))

    def sizeHint(self) -> QSize:
        return QSize(600, 154)

    def axes(self) -> Axes:
        """Time across; up to the largest curve of both set-ups, down at least a fifth below zero."""
        most, least = STEP_NM, 0.0
        for result in self.session.results:
            if result.feasible:
                curves = result.shown.moments.extension[ROWS]
                most, least = max(most, float(curves.max())), min(least, float(curves.min()))
        top = STEP_NM * float(np.ceil(most / STEP_NM))
        end_s = float(self.session.result.timeline.time_s[-1])
        return Axes(self.plot, Axis(0.0, end_s), Axis(min(-0.2 * top, 1.1 * least), top))

    def curve(self, result: Result, joint: str, axes: Axes | None = None) -> QPolygonF:
        """Screen points of one curve, its own rep as long as the axis."""
        axes = axes or self.axes()
        if not result.feasible:
            return QPolygonF()
        times = result.timeline.time_s
        x = times[: result.frames] * (axes.across.high / float(times[-1]))
        return axes.curve(x, result.shown.moments.extension[JOINTS.index(joint)])

    def paintEvent(self, event: QPaintEvent) -> None:
        axes, painter = self.axes(), self.painter()
        painter.drawPixmap(0, 0, self._ground(axes))
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if self.told is not None and self.session.result.feasible and not self.session.dragging:
            paint_use(painter, axes, self.theme, self.session.result, self.told)
        self._paint_curves(painter, axes, self.session.editing)
        self._paint_cursor(painter, axes)

    def _ground(self, axes: Axes) -> QPixmap:
        """What stays the same while the edited set-up is dragged: frame, scale, the other curves."""
        other = self.session.results[1 - self.session.editing]
        key = (
            id(other),
            axes.up,
            self.size().toTuple(),
            self.theme.name,
            self.hasFocus(),
            id(self.session.result.timeline),
            self.session.editing,
        )
        if self._ground_key != key:
            self._ground_key, self._ground_of = key, other
            self._ground_picture = self._paint_ground(axes)
        return self._ground_picture

    def _paint_ground(self, axes: Axes) -> QPixmap:
        ratio = self.devicePixelRatioF()
        picture = QPixmap(self.size() * ratio)
        picture.setDevicePixelRatio(ratio * ZOOM.factor)
        picture.fill(QColor(self.theme.paper))
        painter = QPainter(picture)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self.paint_frame(painter, self.canvas())
        self._paint_scale(painter, axes)
        self._paint_curves(painter, axes, 1 - self.session.editing)
        painter.end()
        return picture

    def _paint_curves(self, painter: QPainter, axes: Axes, slot: int) -> None:
        """One set-up's curves: the edited one solid and named, the other dashed."""
        ends: list[tuple[float, str, str]] = []
        result = self.session.results[slot]
        for joint, name in CURVES:
            line = self.curve(result, joint, axes)
            pen = QPen(self.theme.joint(joint), 2.0)
            if slot != self.session.editing:
                pen = QPen(self.theme.joint(joint), 1.3)
                pen.setDashPattern([4, 3])
            elif line.size():
                at = min(result.timeline.bottom, line.size() - 1)
                ends.append((line.at(at).y(), joint, name))
            painter.setPen(pen)
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawPolyline(line)
            if slot == self.session.editing and line.size():
                self._mark_peak(painter, result, joint, line)
        self._paint_names(painter, ends)

    def _mark_peak(self, painter: QPainter, result: Result, joint: str, line: QPolygonF) -> None:
        """A tick over the curve where the joint's moment is largest."""
        at = int(np.argmax(np.abs(result.shown.moments.extension[JOINTS.index(joint)])))
        top = line.at(at)
        painter.setPen(QPen(self.theme.joint(joint), 2))
        painter.drawLine(top + QPointF(0, -7), top + QPointF(0, 7))

    def _paint_scale(self, painter: QPainter, axes: Axes) -> None:
        area, timeline = axes.area, self.session.result.timeline
        axes.paint_ticks(painter, self.theme, across=None)
        legs = "front leg" if self.session.one_sided else "each leg"
        painter.setPen(QColor(self.theme.faint))
        painter.drawText(
            QPointF(10, 17),
            f"Demand over the rep, N·m (hip and knee: {legs}; "
            "extensor positive, about the joint's own axis)",
        )
        start, turn = END_WORDS[variation(self.session.setup.variation).rep_order]
        turning = int(np.argmin(timeline.progress) if start == "floor" else timeline.bottom)
        for x, word in (
            (area.left(), f"{start}, 0 s"),
            (axes.at(float(timeline.time_s[turning]), 0.0).x(), turn),
            (area.right(), f"{start}, {axes.across.high:.0f} s"),
        ):
            painter.drawText(
                QRectF(x - 60, area.bottom() + 4, 120, 16), Qt.AlignmentFlag.AlignHCenter, word
            )

    def _paint_names(self, painter: QPainter, ends: list[tuple[float, str, str]]) -> None:
        """Names at the right, in the order of the curves at the bottom of the rep."""
        painter.setFont(font(12, bold=True))
        y = self.plot.top() + 6
        last = self.plot.bottom() - 18 * (len(ends) - 1)
        for height, joint, name in sorted(ends):
            y = max(y, min(height, last))
            last += 18
            at = QPointF(self.plot.right() + 14, y)
            paint_joint_dot(painter, self.theme, joint, at, 4.0)
            painter.setPen(self.theme.joint(joint))
            painter.drawText(at + QPointF(10, 4), name)
            y += 18

    def _paint_cursor(self, painter: QPainter, axes: Axes) -> None:
        theme, area, session = self.theme, axes.area, self.session
        now = float(session.result.timeline.time_s[session.moment])
        x = axes.at(now, 0.0).x()
        painter.setPen(QPen(QColor(theme.ink), 2))
        painter.drawLine(QPointF(x, area.top() - 4), QPointF(x, area.bottom()))
        painter.setBrush(QColor(theme.ink))
        painter.drawRoundedRect(QRectF(x - 8, area.bottom() - 8, 16, 16), 3, 3)
        if session.result.feasible:
            values = session.result.shown.moments.extension[ROWS, session.moment]
            for (joint, _), value in zip(CURVES, values.tolist(), strict=True):
                paint_joint_dot(painter, theme, joint, axes.at(now, value), 4.5)

    def pressed(self, axes: Axes, at: QPointF) -> bool:
        return True

    def dragged(self, across: float, up: float) -> None:
        times = self.session.result.timeline.time_s
        self.session.set_moment(int(np.argmin(np.abs(times - across))))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        timeline, now = self.session.result.timeline, self.session.moment
        coarse = event.modifiers() & Qt.KeyboardModifier.ShiftModifier
        step = 5 if coarse else 1
        places = {
            Qt.Key.Key_Left: now - step,
            Qt.Key.Key_Right: now + step,
            Qt.Key.Key_Home: 0,
            Qt.Key.Key_End: timeline.bottom,
        }
        place = places.get(Qt.Key(event.key()))
        if place is None:
            super().keyPressEvent(event)
        else:
            self.session.set_moment(place)
