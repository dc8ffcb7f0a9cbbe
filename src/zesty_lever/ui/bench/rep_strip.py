"""Demand of hip, knee and lower back over the rep, and the moment that the screen shows."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import (
    QColor,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QPixmap,
    QPolygonF,
)
from PySide6.QtWidgets import QSizePolicy, QWidget

from zesty_lever.analysis import Result
from zesty_lever.exercises.catalogue import variation
from zesty_lever.joints import JOINTS
from zesty_lever.ui.kit.theme import Theme, font
from zesty_lever.ui.paint.levers import paint_joint_dot
from zesty_lever.ui.session import Session

# Where a rep starts and ends, and where it turns.
END_WORDS = {
    "top-first": ("top", "bottom"),
    "floor-first": ("floor", "standing"),
    "bridge": ("hips down", "lockout"),
}
CURVES = (("lumbosacral", "lower back"), ("hip_right", "hip"), ("knee_right", "knee"))


class RepStrip(QWidget):
    """Curves of the net moments against time; drag or arrow keys move through the rep."""

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__()
        self.session, self.theme = session, theme
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self._ground_key: tuple[object, ...] = ()
        self._ground_of: Result | None = None
        self._ground_picture = QPixmap()
        self.setMinimumHeight(150)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Rep position")
        self.setAccessibleDescription("Left and right move through the rep, Home top, End bottom.")
        self.setToolTip(
            "Drag to move through the rep. Left and right: one frame; Home: top; End: bottom."
        )
        session.changed.connect(self.update)
        session.moment_changed.connect(self.update)

    def sizeHint(self) -> QSize:
        return QSize(600, 154)

    def set_theme(self, theme: Theme) -> None:
        """Repaint in another theme."""
        self.theme = theme
        self.update()

    @property
    def plot(self) -> QRectF:
        """The area of the curves."""
        return QRectF(self.rect()).adjusted(58, 32, -92, -24)

    def _top_moment(self) -> float:
        """Top of the scale, N m: the largest curve of both set-ups, rounded up to 50."""
        most = 50.0
        for result in self.session.results:
            if result.feasible:
                rows = [JOINTS.index(joint) for joint, _ in CURVES]
                most = max(most, float(result.shown.moments.extension[rows].max()))
        return 50.0 * float(np.ceil(most / 50.0))

    def _low_moment(self, top: float) -> float:
        """Bottom of the scale, N m: a fifth below zero, or lower where a curve is."""
        low = -0.2 * top
        for result in self.session.results:
            if result.feasible:
                rows = [JOINTS.index(joint) for joint, _ in CURVES]
                low = min(low, 1.1 * float(result.shown.moments.extension[rows].min()))
        return low

    def _screen(self, time_s: float, moment: float, end_s: float, top: float) -> QPointF:
        area, low = self.plot, self._low_moment(top)
        x = area.left() + area.width() * time_s / end_s
        return QPointF(x, area.bottom() - area.height() * (moment - low) / (top - low))

    def curve(self, result: Result, joint: str) -> QPolygonF:
        """Screen points of one curve."""
        if not result.feasible:
            return QPolygonF()
        times, top, area = result.timeline.time_s, self._top_moment(), self.plot
        values = result.shown.moments.extension[JOINTS.index(joint)]
        x = area.left() + area.width() * times[: result.frames] / float(times[-1])
        low = self._low_moment(top)
        y = area.bottom() - area.height() * (values - low) / (top - low)
        return QPolygonF([QPointF(*point) for point in zip(x.tolist(), y.tolist(), strict=True)])

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.drawPixmap(0, 0, self._ground())
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self._paint_curves(painter, self.session.editing)
        self._paint_cursor(painter)

    def _ground(self) -> QPixmap:
        """What stays the same while the edited set-up is dragged: frame, scale, the other curves."""
        other = self.session.results[1 - self.session.editing]
        key = (
            id(other),
            self._top_moment(),
            self._low_moment(self._top_moment()),
            self.size().toTuple(),
            self.theme.name,
            self.hasFocus(),
            id(self.session.result.timeline),
            self.session.editing,
        )
        if self._ground_key != key:
            self._ground_key, self._ground_of = key, other
            self._ground_picture = self._paint_ground()
        return self._ground_picture

    def _paint_ground(self) -> QPixmap:
        ratio = self.devicePixelRatioF()
        picture = QPixmap(self.size() * ratio)
        picture.setDevicePixelRatio(ratio)
        theme = self.theme
        picture.fill(QColor(theme.paper))
        painter = QPainter(picture)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(
            QPen(QColor(theme.ink if self.hasFocus() else theme.line), 2 if self.hasFocus() else 1)
        )
        painter.setBrush(QColor(theme.panel))
        painter.drawRoundedRect(QRectF(self.rect()).adjusted(1, 1, -1, -1), 4, 4)
        self._paint_scale(painter)
        self._paint_curves(painter, 1 - self.session.editing)
        painter.end()
        return picture

    def _paint_curves(self, painter: QPainter, slot: int) -> None:
        """One set-up's curves: the edited one solid and named, the other dashed."""
        ends: list[tuple[float, str, str]] = []
        result = self.session.results[slot]
        for joint, name in CURVES:
            line = self.curve(result, joint)
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

    def _paint_scale(self, painter: QPainter) -> None:
        theme, area, top = self.theme, self.plot, self._top_moment()
        timeline = self.session.result.timeline
        end = float(timeline.time_s[-1])
        painter.setFont(font(12))
        step = 50.0 if top <= 200 else 100.0
        for level in np.arange(0.0, top + 1.0, step).tolist():
            left = self._screen(0.0, level, end, top)
            painter.setPen(QPen(QColor(theme.line), 1))
            painter.drawLine(left, QPointF(area.right(), left.y()))
            painter.setPen(QColor(theme.faint))
            painter.drawText(
                QRectF(area.left() - 50, left.y() - 8, 44, 16),
                Qt.AlignmentFlag.AlignRight,
                f"{level:.0f}",
            )
        legs = "front leg" if self.session.one_sided else "each leg"
        painter.drawText(
            QPointF(10, 17),
            f"Demand over the rep, N·m (hip and knee: {legs}; "
            "extensor positive, about the joint's own axis)",
        )
        start, turn = END_WORDS[variation(self.session.setup.variation).rep_order]
        turning = int(np.argmin(timeline.progress) if start == "floor" else timeline.bottom)
        bottom_x = self._screen(float(timeline.time_s[turning]), 0.0, end, top).x()
        for x, word in (
            (area.left(), f"{start}, 0 s"),
            (bottom_x, turn),
            (area.right(), f"{start}, {end:.0f} s"),
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

    def _paint_cursor(self, painter: QPainter) -> None:
        theme, area = self.theme, self.plot
        timeline = self.session.result.timeline
        end, top = float(timeline.time_s[-1]), self._top_moment()
        now = float(timeline.time_s[self.session.moment])
        x = self._screen(now, 0.0, end, top).x()
        painter.setPen(QPen(QColor(theme.ink), 2))
        painter.drawLine(QPointF(x, area.top() - 4), QPointF(x, area.bottom()))
        painter.setBrush(QColor(theme.ink))
        painter.drawRoundedRect(QRectF(x - 8, area.bottom() - 8, 16, 16), 3, 3)
        result = self.session.result
        if result.feasible:
            for joint, _ in CURVES:
                value = float(
                    result.shown.moments.extension[JOINTS.index(joint), self.session.moment]
                )
                paint_joint_dot(painter, theme, joint, self._screen(now, value, end, top), 4.5)

    def _scrub(self, x: float) -> None:
        times = self.session.result.timeline.time_s
        wanted = (x - self.plot.left()) / self.plot.width() * float(times[-1])
        self.session.set_moment(int(np.argmin(np.abs(times - wanted))))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._scrub(event.position().x())

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if event.buttons() & Qt.MouseButton.LeftButton:
            self._scrub(event.position().x())

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
