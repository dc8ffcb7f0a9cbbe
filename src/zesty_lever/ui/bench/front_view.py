"""Front view and foot plan: stance, toe-out, knee track and side shift, to be dragged."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import (
    QColor,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
)
from PySide6.QtWidgets import QSizePolicy

from zesty_lever.analysis import Result
from zesty_lever.bench import edits
from zesty_lever.cases.anchors import anchors
from zesty_lever.frozen import dataclass
from zesty_lever.physics.vectors import Array
from zesty_lever.ui.kit.screen import Themed
from zesty_lever.ui.kit.theme import Theme, font
from zesty_lever.ui.paint.feet import paint_foot
from zesty_lever.ui.paint.front_body import paint_front_body
from zesty_lever.ui.paint.front_load import paint_front_load, paint_front_surfaces
from zesty_lever.ui.paint.levers import paint_joint_dot
from zesty_lever.ui.paint.lines import paint_lines
from zesty_lever.ui.session import Session
from zesty_lever.wording.units import UNITS, minus

if TYPE_CHECKING:
    from zesty_lever.choosing.reach import Furthest, Room

PLAN_SHARE = 0.34
GRIP_PX = 17.0


@dataclass(frozen=True)
class Grip:
    """Something to take hold of: what it sets, where it is, and how it is called."""

    key: str
    name: str
    at: QPointF
    step: float


class FrontView(Themed):
    """Seen from the front (the athlete's right is on the viewer's left), feet seen from above."""

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__(theme)
        self.session = session
        self.grabbed: Grip | None = None
        self._scales_at_grab: tuple[float, float] | None = None
        self.widest_m: float | None = None
        self.toes_out: Furthest | None = None
        self.chosen = 0
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.setMinimumSize(220, 300)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setAccessibleName("Front view and foot plan")
        self.setAccessibleDescription(
            "Enter takes the next grip: foot, toes, knee; arrows move it."
        )
        self.setToolTip(
            "Drag a heel for the stance, a toe for the toe-out, a knee for the knee track. "
            "Keys: Enter takes the next grip, arrows move it."
        )
        session.changed.connect(self.update)
        session.posed.connect(self.update)
        session.moment_changed.connect(self.update)

    def sizeHint(self) -> QSize:
        return QSize(420, 520)

    def show_room(self, left: Room | None) -> None:
        """Mark the widest stance that can be reached (None: not known)."""
        self.widest_m = None if left is None or left.widest is None else left.widest.value
        self.toes_out = (
            None
            if left is None or "toe_out_deg" not in left.reach
            else left.reach["toe_out_deg"][1]
        )
        self.update()

    @property
    def _result(self) -> Result:
        return self.session.drawable[self.session.editing]

    @property
    def _frame(self) -> int:
        return self.session.frame_of(self.session.editing)

    def scales(self) -> tuple[float, float]:
        """Pixels per metre from the front and of the feet from above; the feet never larger than the figure's."""
        if self._scales_at_grab is not None:
            return self._scales_at_grab
        drawn = self.session.drawn
        wide, tall, long = 0.9, 1.9, 0.6
        if drawn is not None:
            pose = drawn.pose
            points = [p[:, self._frame] for p in pose.points.values()]
            tall = max(float(p[1]) for p in points) + 0.12
            points += [
                np.array(a.place)
                for a in anchors(self.session.result.case)
                if abs(a.place[2]) > 0.1
            ]
            wide = 2.0 * max(abs(float(p[2])) for p in points) + 0.35
            feet = [
                pose.points[f"{n}_{s}"][0, self._frame]
                for n in ("heel", "toe")
                for s in ("left", "right")
            ]
            long = float(max(feet) - min(feet)) + 0.16
        front = min(
            (self.canvas().height() * (1 - PLAN_SHARE) - 34) / tall,
            (self.canvas().width() - 24) / wide,
        )
        return front, min((self.canvas().height() * PLAN_SHARE - 58) / long, front)

    def scale(self) -> float:
        """Pixels per metre from the front."""
        return self.scales()[0]

    def front(self, point: Array) -> QPointF:
        """Screen place of a point (m) seen from the front."""
        floor = self.canvas().height() * (1 - PLAN_SHARE) - 8
        return QPointF(
            self.canvas().width() / 2 - self.scale() * float(point[2]),
            floor - self.scale() * float(point[1]),
        )

    def above(self, point: Array) -> QPointF:
        """Screen place of a point (m) of the feet seen from above, toes down the screen."""
        drawn = self.session.drawn
        back = 0.0
        if drawn is not None:
            ends = [
                float(drawn.pose.points[f"{n}_{s}"][0, self._frame])
                for n in ("heel", "toe")
                for s in ("left", "right")
            ]
            back = 0.5 * (min(ends) + max(ends))
        middle, scale = self.canvas().height() * (1 - 0.5 * PLAN_SHARE) - 4, self.scales()[1]
        return QPointF(
            self.canvas().width() / 2 - scale * float(point[2]),
            middle + scale * (float(point[0]) - back),
        )

    def grips(self) -> list[Grip]:
        """What can be dragged in this variation, as placed now."""
        drawn, settings = self.session.drawn, self.session.result.case.settings
        if drawn is None:
            return []
        pose, at, found = drawn.pose, self._frame, []
        for key, name, point, place, step in (
            ("stance_m", "Heel: stance", "heel_right", self.above, 0.01),
            ("toe_out_deg", "Toe: toe-out", "toe_right", self.above, 1.0),
            ("knee_track_m", "Knee: track", "knee_right", self.front, 0.005),
        ):
            if key in settings:
                found.append(Grip(key, name, place(pose.points[point][:, at]), step))
        aside = [a for a in anchors(self.session.result.case) if "anchor_aside_m" in a.keys]
        return found + [
            Grip("anchor_aside_m", "Anchor: how far aside", self.front(np.array(a.place)), 0.05)
            for a in aside
        ]

    def value_at(self, grip: Grip, point: QPointF) -> float:
        """The setting that a grip dragged to a screen point asks for."""
        pose = self._result.shown.pose
        now = self.session.result.case.settings[grip.key] or 0.0
        out = (grip.at.x() - point.x()) / self.scales()[1 if grip.key == "stance_m" else 0]
        if grip.key == "stance_m":
            return float(now + 2.0 * out)
        if grip.key == "anchor_aside_m":
            return float(now - out)
        if grip.key == "knee_track_m":
            return float(now + out)
        heel = self.above(pose.points["heel_right"][:, self._frame])
        return float(np.degrees(np.arctan2(heel.x() - point.x(), point.y() - heel.y())))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() != Qt.MouseButton.LeftButton:
            return
        near = [(self._away(g, self.pointed(event)), g) for g in self.grips()]
        if near and min(near, key=lambda n: n[0])[0] < GRIP_PX * 1.5:
            self._scales_at_grab = self.scales()
            # A whole rep's deepest moment is what is set.
            self.session.begin_drag()
            self.grabbed = min(
                ((self._away(g, self.pointed(event)), g) for g in self.grips()), key=lambda n: n[0]
            )[1]

    def _away(self, grip: Grip, point: QPointF) -> float:
        gap = grip.at - point
        return float(np.hypot(gap.x(), gap.y()))

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self.grabbed is None:
            over = any(self._away(g, self.pointed(event)) < GRIP_PX * 1.5 for g in self.grips())
            self.setCursor(Qt.CursorShape.OpenHandCursor if over else Qt.CursorShape.ArrowCursor)
            return
        fresh = next((g for g in self.grips() if g.key == self.grabbed.key), None)
        if fresh is not None:
            self.session.preview(
                edits.drag_setting, fresh.key, round(self.value_at(fresh, self.pointed(event)), 5)
            )

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self.grabbed is not None:
            name, self.grabbed, self._scales_at_grab = self.grabbed.name, None, None
            self.session.finish_drag(f"Drag {name.lower()}")
            self.update()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        grips = self.grips()
        ways = {Qt.Key.Key_Left: 1, Qt.Key.Key_Up: 1, Qt.Key.Key_Right: -1, Qt.Key.Key_Down: -1}
        if event.key() == Qt.Key.Key_Escape and self.grabbed is not None:
            self.grabbed, self._scales_at_grab = None, None
            self.session.cancel_drag()
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and grips:
            self.chosen = (self.chosen + 1) % len(grips)
            self.update()
        elif grips and (way := ways.get(Qt.Key(event.key()))):
            grip = grips[self.chosen % len(grips)]
            coarse = 5 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 1
            now = self.session.result.case.settings[grip.key] or 0.0
            self.session.do(edits.set_setting, grip.key, round(now + way * coarse * grip.step, 5))
        else:
            super().keyPressEvent(event)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = self.painter()
        painter.fillRect(self.canvas(), QColor(self.theme.paper))
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        result, theme = self._result, self.theme
        painter.setFont(font(12))
        painter.setPen(QColor(theme.faint))
        painter.drawText(QPointF(10, 18), "front view · athlete's right on your left")
        if not result.frames:
            return
        floor = self.front(np.zeros(3)).y()
        painter.setPen(QPen(QColor(theme.ink), 2))
        painter.drawLine(QPointF(0, floor), QPointF(self.canvas().width(), floor))
        impossible = self.session.result.error is not None
        if not impossible:
            paint_front_surfaces(painter, self.front, theme, result, self._frame)
            paint_lines(painter, self.front, theme, result, self._frame)
            paint_front_load(painter, self.front, theme, result, self._frame, before=True)
        ink = QColor(theme.warn if impossible else theme.ink)
        paint_front_body(painter, self.front, self.scale(), theme, result, self._frame, ink)
        if not impossible:
            paint_front_load(painter, self.front, theme, result, self._frame, before=False)
        self._paint_plan(painter, result)
        self._paint_words(painter, result)
        if self.hasFocus():
            painter.setPen(QPen(QColor(theme.ink), 2))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(self.canvas().adjusted(1, 1, -1, -1))

    def _paint_plan(self, painter: QPainter, result: Result) -> None:
        pose, at, size = result.shown.pose, self._frame, result.case.athlete.height_m
        for side in ("left", "right"):
            heel, ball, toe = (pose.points[f"{n}_{side}"][:, at] for n in ("heel", "ball", "toe"))
            paint_foot(painter, self.theme, self.above, size, (heel, ball, toe))
            # The knee over the foot: where it tracks.
            painter.setPen(QPen(self.theme.joint("knee"), 1.4, Qt.PenStyle.DashLine))
            knee = pose.points[f"knee_{side}"][:, at]
            painter.drawLine(self.above(heel), self.above(heel + 1.25 * (toe - heel)))
            paint_joint_dot(painter, self.theme, f"knee_{side}", self.above(knee), 4.0)
        self._paint_widest(painter, pose.points["ankle_right"][:, at])
        self._paint_toes_out(
            painter, pose.points["heel_right"][:, at], pose.points["toe_right"][:, at]
        )
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(self.theme.ink))
        for point in result.shown.contacts.points[:, :, at].T:
            painter.drawEllipse(self.above(point), 3.5, 3.5)
        centre = self.above(pose.system_centre()[:, at])
        painter.setPen(QPen(QColor(self.theme.ink), 1.4))
        painter.drawLine(centre - QPointF(7, 0), centre + QPointF(7, 0))
        painter.drawLine(centre - QPointF(0, 7), centre + QPointF(0, 7))
        for number, grip in enumerate(self.grips()):
            chosen = self.hasFocus() and number == self.chosen % len(self.grips())
            pen = QPen(QColor(self.theme.ink), 2.4 if chosen else 1.0)
            if not chosen:
                pen.setDashPattern([2, 3])
            painter.setPen(pen)
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawEllipse(grip.at, GRIP_PX, GRIP_PX)

    def _paint_widest(self, painter: QPainter, ankle: Array) -> None:
        """Dashed marks where the ankles stand in the widest stance, as room that is left."""
        if self.widest_m is None:
            return
        pen = QPen(QColor(self.theme.ink), 1.4)
        pen.setDashPattern([2, 4])
        painter.setPen(pen)
        for side in (1.0, -1.0):
            at = self.above(np.array([ankle[0], 0.0, side * 0.5 * self.widest_m]))
            painter.drawLine(at - QPointF(0, 26), at + QPointF(0, 26))
        painter.setFont(font(12))
        painter.drawText(at + QPointF(8, 5), f"room to {UNITS.text(self.widest_m, 'm', 0)}")

    def _paint_toes_out(self, painter: QPainter, heel: Array, toe: Array) -> None:
        """How far the right foot could still turn out, while its toe is held."""
        grips = self.grips()
        grip = self.grabbed or (
            grips[self.chosen % len(grips)] if self.hasFocus() and grips else None
        )
        if self.toes_out is None or grip is None or grip.key != "toe_out_deg":
            return
        angle, length = np.radians(self.toes_out.value), float(np.hypot(*(toe - heel)[[0, 2]]))
        end = self.above(heel + 1.5 * length * np.array([np.cos(angle), 0.0, np.sin(angle)]))
        pen = QPen(QColor(self.theme.ink), 1.4)
        pen.setDashPattern([2, 4])
        painter.setPen(pen)
        painter.drawLine(self.above(heel), end)
        stop = f", {self.toes_out.stop} stops" if self.toes_out.stop else ""
        painter.drawText(
            QRectF(4, end.y() - 9, end.x() - 12, 18),
            Qt.AlignmentFlag.AlignRight,
            f"to {self.toes_out.value:.0f}°{stop}",
        )

    def _paint_words(self, painter: QPainter, result: Result) -> None:
        settings, pose = self.session.result.case.settings, result.shown.pose
        words = []
        if settings.get("stance_m") is not None:
            words.append(f"stance {UNITS.text(settings['stance_m'] or 0.0, 'm', 0)}")
        if settings.get("toe_out_deg") is not None:
            words.append(f"toes out {settings['toe_out_deg']:.0f}°")
        if settings.get("knee_track_m") is not None:
            track = UNITS.text(abs(settings["knee_track_m"] or 0.0), "m")
            words.append(
                f"knees {track} {'in' if (settings['knee_track_m'] or 0.0) < 0 else 'out'}"
                if settings["knee_track_m"]
                else "knees over the toes"
            )
        shift = float(pose.points["hip_mid"][2, self._frame])
        if abs(shift) > 0.003:
            words.append(
                f"hips {UNITS.text(abs(shift), 'm', 0)} to the {'right' if shift > 0 else 'left'}"
            )
        painter.setFont(font(12))
        painter.setPen(QColor(self.theme.faint))
        painter.drawText(
            QRectF(10, self.canvas().height() - 22, self.canvas().width() - 20, 18),
            Qt.AlignmentFlag.AlignLeft,
            minus("feet from above · " + " · ".join(words)),
        )
