"""The figure under its load, with handles to drag: knee, hip, shoulder."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import (
    QColor,
    QPainter,
    QPaintEvent,
    QPen,
    QResizeEvent,
)
from PySide6.QtWidgets import QSizePolicy

from zesty_lever.bench import edits
from zesty_lever.bench.model import SLOT_NAMES
from zesty_lever.cases.anchors import anchors
from zesty_lever.exercises.catalogue import variation
from zesty_lever.physics.pose import Pose
from zesty_lever.physics.vectors import Array
from zesty_lever.ui.bench.anchor_handles import AnchorHandles
from zesty_lever.ui.kit.handle import Handle, HandleKind
from zesty_lever.ui.kit.screen import Themed
from zesty_lever.ui.kit.spoken import announce
from zesty_lever.ui.kit.theme import Theme, font
from zesty_lever.ui.paint.figure import (
    DISC_RADIUS_M,
    GhostPicture,
    paint_figure,
    paint_floor,
    paint_ghost,
    paint_steps,
    paint_surfaces,
)
from zesty_lever.ui.paint.levers import (
    Chips,
    lever_marks,
    paint_angles,
    paint_gravity_line,
    paint_ground_forces,
    paint_joint_dot,
    paint_lever,
)
from zesty_lever.ui.paint.lines import paint_lines
from zesty_lever.ui.paint.view import View
from zesty_lever.ui.session import Session
from zesty_lever.wording.sentences import figure_sentence
from zesty_lever.wording.units import minus

if TYPE_CHECKING:
    from zesty_lever.choosing.reach import Room
    from zesty_lever.physics.solved import Solved
    from zesty_lever.ui.paint.room import Mark

# The box under the hips: no point of the body, but a place that carries it.
SEAT = "seat"
HANDLES = (
    HandleKind("knee_right", "shin_deg", "ankle_right", "Knee", "shin angle, knee travel"),
    HandleKind("hip_mid", "thigh_deg", "knee_right", "Hip", "thigh angle, depth"),
    HandleKind("shoulder_mid", "trunk_deg", "hip_mid", "Shoulder", "trunk angle, forward lean"),
    HandleKind("heel_left", "step_m", "ankle_right", "Rear foot", "step length"),
    HandleKind("toe_left", "rear_height_m", "ankle_right", "Rear bench", "height behind"),
    HandleKind("toe_right", "front_height_m", "ankle_right", "Step", "height of the step in front"),
    HandleKind(
        "toe_right", "feet_height_m", "ankle_right", "Feet", "height of what the feet stand on"
    ),
    HandleKind("heel_right", "heel_lift_deg", "ball_right", "Heel", "heel lift off the floor"),
    HandleKind(SEAT, "thigh_deg", "knee_right", "Box", "height of the box, and with it the depth"),
    HandleKind(
        "shoulder_mid", "bench_height_m", "ankle_right", "Bench", "height under the upper back"
    ),
    HandleKind("hand_right", "bar_height_m", "ankle_right", "Bar", "bar height at the start"),
    HandleKind(
        "hand_right", "hands_ahead_m", "shoulder_mid", "Hands", "hands ahead of the shoulders"
    ),
)
# Handles of heights and lengths appear where there is something to hold: the setting is above zero.
IF_THERE = ("rear_height_m", "front_height_m", "bench_height_m", "feet_height_m")


def dragged_angle_deg(kind: HandleKind, pivot: Array, x: float, y: float) -> float:
    """The angle (deg) that a handle dragged to (x, y) m asks for."""
    dx, dy = x - float(pivot[0]), y - float(pivot[1])
    if kind.key in ("thigh_deg", "heel_lift_deg"):
        return float(np.degrees(np.arctan2(dy, -dx)))
    return float(np.degrees(np.arctan2(dx, dy)))


def dragged_length_m(kind: HandleKind, now_m: float, grip: Array, x: float, y: float) -> float:
    """The height or length (m) that a handle at ``grip`` dragged to (x, y) m asks for."""
    if kind.key == "step_m":
        return now_m - (x - float(grip[0]))
    if kind.key == "hands_ahead_m":
        return now_m + (x - float(grip[0]))
    return now_m + (y - float(grip[1]))


class FigureView(Themed):
    """Side view of both set-ups: the edited one solid, the other as a dashed outline."""

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__(theme)
        self._ghost = GhostPicture()
        self.session = session
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.message = ""
        # A refusal is no longer true once the bench is another one.
        self._message_for = session.bench
        self._impossible = ""
        self.layers = {"levers", "angles", "gravity", "other", "room"}
        self.room: Room | None = None
        self._view_at_grab: View | None = None
        self.setMinimumSize(420, 330)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setAccessibleName("Figure from the side with its levers")
        self.handles = [Handle(kind, self) for kind in HANDLES]
        for handle in self.handles:
            self._connect(handle)
        self.anchors = AnchorHandles(session, self)
        self.anchors.grabbed.connect(self._grab)
        self.anchors.dropped.connect(self._let_go)
        session.changed.connect(self._refresh)
        session.posed.connect(self._refresh)
        session.moment_changed.connect(self._refresh)
        session.refused.connect(self._show_message)

    layers_known = (
        ("levers", "Levers and their products"),
        ("angles", "Angles"),
        ("gravity", "Line of gravity"),
        ("other", "The other set-up, dashed"),
        ("steps", "The rep in steps, as faint outlines"),
        ("forces", "Forces from the ground"),
        ("room", "Room that is left: of the grip at hand, else of the depth"),
    )

    def show_layer(self, key: str, *, on: bool) -> None:
        """Switch one part of the drawing on or off."""
        self.layers = self.layers | {key} if on else self.layers - {key}
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(640, 560)

    def _connect(self, handle: Handle) -> None:
        kind = handle.kind
        handle.grabbed.connect(self._grab)
        handle.moved.connect(lambda p: self._drag(kind, p))
        handle.dropped.connect(lambda: self._let_go(f"Drag {kind.name.lower()}"))
        handle.escaped.connect(lambda: self._let_go(""))
        handle.nudged.connect(lambda step: self._nudge(kind, step))

    @property
    def view(self) -> View:
        """World to screen, the same for both set-ups; it stands still while a handle is held."""
        if self._view_at_grab is not None:
            return self._view_at_grab
        stature = self.session.bench.athlete.height_m
        tops, ends = [0.5 * stature], [0.0]
        for slot, result in enumerate(self.session.drawable):
            if result.frames:
                frame = self.session.frame_of(slot)
                points = result.shown.pose.points
                tops += [float(points[n][1, frame]) for n in ("head_top", "knee_right", "hip_mid")]
                ends += [float(points[n][0, frame]) for n in ("head_top", "toe_right", "toe_left")]
                loads = result.shown.pose.load_points[1, :, frame]
                tops += [height + DISC_RADIUS_M for height in loads.tolist()]
                places = [anchor.place for anchor in anchors(self.session.results[slot].case)]
                tops += [place[1] for place in places]
                ends += [place[0] for place in places]
        area = self.canvas().adjusted(0, 74, 0, -6)
        return View.fit(area, max(tops) + 0.09, stature, (min(ends), max(ends)))

    @property
    def frame(self) -> int:
        """The frame shown: the session's moment, or the last one that can be drawn."""
        return self.session.frame_of(self.session.editing)

    def _grab(self) -> None:
        self.session.begin_drag()
        self._view_at_grab = self.view

    def _let_go(self, label: str) -> None:
        """End a drag as one step of history, or give it up where there is no label."""
        self._view_at_grab = None
        if label:
            self.session.finish_drag(label)
        else:
            self.session.cancel_drag()
        self._refresh()

    def _drag(self, kind: HandleKind, point: QPointF) -> None:
        drawn = self.session.drawn
        if drawn is None:
            return
        self.message, pose = "", drawn.pose
        x, y = self.view.world(point)
        if kind.key.endswith("_deg"):
            pivot = pose.points[kind.pivot][:, self.frame]
            if kind.joint == SEAT:
                # The hips rise and sink with the box, on the thigh's circle about the knee.
                hips = pose.points["hip_mid"][:, self.frame]
                y += float(hips[1] - self._place_of(kind, pose)[1])
                reach = float(np.hypot(*(hips - pivot)[:2]))
                x = float(pivot[0]) - np.sqrt(max(reach**2 - (y - float(pivot[1])) ** 2, 1e-6))
            value = dragged_angle_deg(kind, pivot, x, y)
            if kind.key == "heel_lift_deg":
                # The shoe's own pitch stays: only what the heel is lifted by counts.
                heel = pose.points["heel_right"][:, self.frame]
                value += (self.session.result.case.settings[kind.key] or 0.0) - dragged_angle_deg(
                    kind, pivot, *heel[:2]
                )
        else:
            now = self.session.result.case.settings[kind.key] or 0.0
            value = dragged_length_m(kind, now, self._place_of(kind, pose), x, y)
        self.session.preview(edits.drag_setting, kind.key, round(value, 4))

    def _place_of(self, kind: HandleKind, pose: Pose) -> Array:
        """Where a handle sits, m."""
        if kind.key == "bench_height_m":
            return np.array([-0.10, self.session.result.case.settings[kind.key] or 0.0, 0.0])
        if kind.joint == SEAT:
            contacts = self.session.drawable[self.session.editing].shown.contacts
            seat: Array = contacts.points[:, contacts.names.index(SEAT), self.frame] - np.array(
                [0.14, 0.12, 0.0]
            )
            return seat
        place: Array = pose.points[kind.joint][:, self.frame]
        return place

    def _nudge(self, kind: HandleKind, step: float) -> None:
        result = self.session.result
        self.session.set_moment(self.session.result.timeline.bottom)
        if result.feasible:
            bottom = result.solved.bottom_deg
            self.message = ""
            setting = variation(self.session.setup.variation).settings[kind.key]
            now = bottom.get(kind.key, self.session.result.case.settings[kind.key] or 0.0)
            self.session.do(edits.set_setting, kind.key, round(now + step * setting.step, 3))

    def _show_message(self, text: str) -> None:
        self.message, self._message_for = minus(text), self.session.bench
        self.update()

    def show_room(self, left: Room | None) -> None:
        """Draw how far things could still go (None: nothing is known)."""
        self.room = left
        self.update()

    def _speak(self, handle: Handle) -> None:
        """Have a handle say its value, as set or as balance has it."""
        result, key = self.session.result, handle.kind.key
        ends = result.solved.bottom_deg if result.feasible else {}
        value = ends.get(key, result.case.settings.get(key))
        if value is not None:
            handle.tell_setting(variation(result.case.variation).settings[key], float(value))

    def _refresh(self) -> None:
        if self.session.bench is not self._message_for:
            self.message = ""
        error = self.session.result.error
        said = minus(error.text) if error else ""
        if said and said != self._impossible:
            announce(self, f"Not possible: {said}")
        self._impossible = said
        self.setAccessibleDescription(figure_sentence(self.session.result, self.session.editing))
        self._place_handles()
        self.update()

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._place_handles()

    def _place_handles(self) -> None:
        drawn = self.session.drawn
        for handle in self.handles:
            settings = self.session.result.case.settings
            key = handle.kind.key
            usable = key in settings and (key not in IF_THERE or (settings[key] or 0.0) > 0.0)
            if drawn is None or not usable or not _is_there(handle.kind, drawn):
                handle.setVisible(False)
                continue
            handle.setVisible(True)
            handle.put(self.view.point(self._place_of(handle.kind, drawn.pose)))
            self._speak(handle)
        self.anchors.show_on(self.view)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = self.painter()
        painter.fillRect(self.canvas(), QColor(self.theme.paper))
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        view, theme, session = self.view, self.theme, self.session
        paint_floor(painter, view, theme, self.canvas().width())
        other = session.drawable[1 - session.editing]
        if other.frames:
            paint_surfaces(painter, view, theme, other)
            shown = session.frame_of(1 - session.editing)
            if "other" in self.layers:
                still = QColor(theme.faint)
                self._ghost.paint(painter, view, other, shown, still, QRectF(self.canvas()))
        result, frame = session.result, self.frame
        near = session.drawable[session.editing]
        if near.frames:
            paint_surfaces(painter, view, theme, near)
        if result.error and near.frames:
            paint_ghost(painter, view, near, frame, QColor(theme.warn))
        elif result.frames:
            if "steps" in self.layers:
                paint_steps(painter, view, theme, result)
            paint_lines(painter, view.point, theme, result, frame)
            paint_figure(painter, view, theme, result, frame)
            self._paint_marks(painter, view)
        self._paint_words(painter)

    def _paint_marks(self, painter: QPainter, view: View) -> None:
        theme, result, frame = self.theme, self.session.result, self.frame
        if "gravity" in self.layers:
            paint_gravity_line(painter, view, theme, result, frame)
        if "forces" in self.layers:
            paint_ground_forces(painter, view, theme, result, frame)
        rooms: list[Mark] = []
        if "room" in self.layers and self.room is not None and frame == result.timeline.bottom:
            rooms = self._paint_room(painter, view, self.room)
        marks = lever_marks(result, frame, view) if "levers" in self.layers else []
        for mark in marks:
            paint_lever(painter, theme, mark)
        for mark in marks:
            paint_joint_dot(painter, theme, mark.joint, mark.start)
        area = self.canvas().adjusted(0, 74, 0, -22)
        chips = Chips(painter, theme, area)
        chips.taken = [QRectF(m.start.x() - 11, m.start.y() - 11, 22, 22) for m in marks]
        for mark in marks:
            right = mark.joint.startswith(("knee", "ankle"))
            chips.put(
                mark.text, mark.start, right=right, colour=theme.joint(mark.joint), margin=True
            )
        if "angles" in self.layers:
            paint_angles(view, theme, result, frame, self.session.free, chips)
        for room in rooms:
            chips.quiet(room.words, room.at, right=room.at.x() > view.origin_x)

    def _paint_room(self, painter: QPainter, view: View, left: Room) -> list[Mark]:
        """Both ends of what a noticed grip sets; else how deep it could go."""
        # Asked for only once there is some: its module is not needed for the first picture.
        from zesty_lever.ui.paint.room import paint_depth_room, paint_reach

        result = self.session.result
        noticed = next((h for h in self.handles if h.underMouse() or h.dragging), None)
        noticed = noticed or next((h for h in self.handles if h.noticed), None)
        if noticed is not None and result.frames and noticed.kind.key in left.reach:
            place = self._place_of(noticed.kind, result.shown.pose)
            return paint_reach(painter, view, self.theme, result, left, noticed.kind, place)
        return paint_depth_room(painter, view, self.theme, result, left)

    def _paint_words(self, painter: QPainter) -> None:
        """What is shown, and, where a pose is impossible, why."""
        theme, session = self.theme, self.session
        result = session.result
        painter.setFont(font(12))
        painter.setPen(QColor(theme.faint))
        other = SLOT_NAMES[1 - session.editing]
        phase = moment_words(session)
        legs = "the front leg" if session.one_sided else "each leg"
        line = f"{SLOT_NAMES[session.editing]} drawn solid, {other} dashed · {phase} · side view, {legs}"
        painter.drawText(
            QRectF(12, 6, self.canvas().width() - 24, 20), Qt.AlignmentFlag.AlignLeft, line
        )
        text = minus(result.error.text) if result.error else self.message
        if not text:
            return
        head = "This pose can't be done. " if result.error else ""
        box = QRectF(12, 28, self.canvas().width() - 24, 46)
        painter.setPen(QPen(QColor(theme.warn), 1.6))
        painter.setBrush(QColor(theme.panel))
        painter.drawRoundedRect(box, 4, 4)
        painter.setFont(font(12, bold=True))
        painter.setPen(QColor(theme.warn))
        flags = Qt.AlignmentFlag.AlignVCenter | Qt.TextFlag.TextWordWrap
        painter.drawText(box.adjusted(10, 2, -10, -2), flags, head + text)


def _is_there(kind: HandleKind, drawn: Solved) -> bool:
    """Whether what a handle sits on is part of the drawing: a box is not always sat on."""
    return kind.joint != SEAT or SEAT in drawn.contacts.names


def moment_words(session: Session) -> str:
    """Which moment of the rep is shown, in words."""
    timeline, moment = session.result.timeline, session.moment
    lying = variation(session.setup.variation).lies
    progress = timeline.progress[moment]
    if progress > 0.999:
        return "at lockout" if lying else "at the bottom"
    if progress < 0.001:
        return "hips down" if lying else "standing at the top"
    return {"down": "on the way down", "up": "on the way up"}.get(timeline.phase[moment], "pause")
