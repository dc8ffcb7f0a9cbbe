"""The picture: a frame with its marks, a loupe where the hand works, and what was meant drawn over it."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import (
    QColor,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QWheelEvent,
)

from zesty_lever.analysis import Result
from zesty_lever.measure import edits
from zesty_lever.measure.marks import Place
from zesty_lever.ui.kit.screen import Themed
from zesty_lever.ui.kit.theme import Theme, font
from zesty_lever.ui.measure import overlay
from zesty_lever.ui.measure.desk import Desk
from zesty_lever.ui.measure.tools import Tool

NEAR_PX = 14.0
MOST_ZOOM = 12.0
STEPS = {
    Qt.Key.Key_Left: (-1.0, 0.0),
    Qt.Key.Key_Right: (1.0, 0.0),
    Qt.Key.Key_Up: (0.0, -1.0),
    Qt.Key.Key_Down: (0.0, 1.0),
}


class Picture(Themed):
    """The frame shown, at any zoom, to mark in.

    ``lined``: two places were set with a tool (tool, one, other).
    """

    lined = Signal(object, tuple, tuple)
    tool_changed = Signal()

    def __init__(self, desk: Desk, theme: Theme) -> None:
        super().__init__(theme)
        self.desk = desk
        self.tool = Tool.MARK
        self.first: Place | None = None
        self.meant: Result | None = None
        self._zoom, self._middle = 1.0, (0.5, 0.5)
        self.pointer: QPointF | None = None
        self._dragged = ""
        self._panned: QPointF | None = None
        self.by_keys = False
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setMinimumSize(420, 320)
        self.setAccessibleName("Picture to mark in")
        self.setToolTip(
            "Click to mark; drag a mark; wheel with Ctrl: closer; middle button: move. Keys: arrows 1 px (Ctrl 0.1, Shift 10), "
            "Enter sets, N next mark, C copy forward, H hidden, , and . frames, PageUp and PageDown marked frames, J worst place."
        )
        desk.changed.connect(self._speak)
        desk.framed.connect(self._speak)
        desk.chosen.connect(self._speak)

    def _speak(self) -> None:
        """Say to a screen reader what is worked with and where it is."""
        desk = self.desk
        at = desk.place_now()
        where = "not marked here" if at is None else f"at {at[0]:.1f}, {at[1]:.1f} px"
        name = desk.name.replace("_", " ")
        self.setAccessibleName(
            f"Picture to mark in: frame {desk.frame + 1} of {max(desk.frames, 1)}, {name} {where}"
        )
        self.update()

    def use(self, tool: Tool) -> None:
        """Take another tool in hand."""
        self.tool, self.first = tool, None
        self.tool_changed.emit()
        self.update()

    def show_meant(self, meant: Result | None) -> None:
        """Draw a set-up's figure over the picture, or nothing."""
        self.meant = meant
        self.update()

    # --- places ------------------------------------------------------------------------------

    @property
    def scale(self) -> float:
        """Screen pixels a picture pixel."""
        image, area = self.desk.image, self.canvas()
        if image.isNull():
            return 1.0
        return min(area.width() / image.width(), area.height() / image.height()) * self._zoom

    def to_screen(self, at: Place) -> QPointF:
        """Where a picture pixel's centre is on the canvas."""
        image, area, s = self.desk.image, self.canvas(), self.scale
        x = area.center().x() + s * (at[0] + 0.5 - self._middle[0] * image.width())
        y = area.center().y() + s * (at[1] + 0.5 - self._middle[1] * image.height())
        return QPointF(x, y)

    def to_picture(self, at: QPointF) -> Place:
        """The picture's pixel under a place of the canvas."""
        image, area, s = self.desk.image, self.canvas(), self.scale
        return (
            (at.x() - area.center().x()) / s + self._middle[0] * image.width() - 0.5,
            (at.y() - area.center().y()) / s + self._middle[1] * image.height() - 0.5,
        )

    def zoom_by(self, times: float, about: QPointF | None = None) -> None:
        """Closer or further, about a place that stays where it is."""
        if self.desk.image.isNull():
            return
        about = self.canvas().center() if about is None else about
        fixed = self.to_picture(about)
        self._zoom = min(max(self._zoom * times, 1.0), MOST_ZOOM)
        moved = self.to_picture(about)
        self._move_middle(fixed[0] - moved[0], fixed[1] - moved[1])

    def _move_middle(self, x: float, y: float) -> None:
        image = self.desk.image
        reach = 0.5 * (1.0 - 1.0 / self._zoom)
        self._middle = (
            min(max(self._middle[0] + x / image.width(), 0.5 - reach), 0.5 + reach),
            min(max(self._middle[1] + y / image.height(), 0.5 - reach), 0.5 + reach),
        )
        self.update()

    # --- hand --------------------------------------------------------------------------------

    def _near(self, at: QPointF) -> str:
        """The mark under the pointer, or empty."""
        best, name = NEAR_PX, ""
        for other in edits.names_of(self.desk.marks):
            place = self.desk.place_of(other)
            if place is not None:
                gap = self.to_screen(place) - at
                size = float(np.hypot(gap.x(), gap.y()))
                if size < best:
                    best, name = size, other
        return name

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.setFocus()
        at = self.pointed(event)
        if event.button() == Qt.MouseButton.MiddleButton:
            self._panned = at
            return
        if event.button() != Qt.MouseButton.LeftButton or self.desk.clip is None:
            return
        self.by_keys = False
        if self.tool is not Tool.MARK:
            self._tool_click(self.to_picture(at))
            return
        near = self._near(at)
        if near and self.desk.frame in self.desk.marks.marks.get(near, {}):
            self.desk.choose(near)
            self._dragged = near
            self.pointer = at
            self.update()
        else:
            self.desk.place(self.to_picture(at))

    def _tool_click(self, at: Place) -> None:
        if self.first is None:
            self.first = at
            self.tool_changed.emit()
            self.update()
            return
        one, tool = self.first, self.tool
        self.use(Tool.MARK)
        self.lined.emit(tool, one, at)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        at = self.pointed(event)
        if self._panned is not None:
            s = self.scale
            gap = at - self._panned
            self._panned = at
            self._move_middle(-gap.x() / s, -gap.y() / s)
            return
        self.pointer, self.by_keys = at, False
        self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if event.button() == Qt.MouseButton.MiddleButton:
            self._panned = None
        elif self._dragged:
            name, self._dragged = self._dragged, ""
            at = self.to_picture(self.pointed(event))
            old = self.desk.marks.marks[name][self.desk.frame]
            if max(abs(at[0] - old[0]), abs(at[1] - old[1])) * self.scale > 1.5:
                moved = edits.place(self.desk.marks, name, self.desk.frame, at)
                self.desk.do(f"Move {name.replace('_', ' ')}", moved)
        self.update()

    def leaveEvent(self, event: object) -> None:
        self.pointer = None
        self.update()

    def wheelEvent(self, event: QWheelEvent) -> None:
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.zoom_by(1.2 ** (event.angleDelta().y() / 120.0), event.position())
            event.accept()
        else:
            event.ignore()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        desk, key, held = self.desk, Qt.Key(event.key()), event.modifiers()
        if key in STEPS:
            size = (
                0.1
                if held & Qt.KeyboardModifier.ControlModifier
                else 10.0
                if held & Qt.KeyboardModifier.ShiftModifier
                else 1.0
            )
            self.by_keys = True
            if desk.place_now() is None:
                desk.place(self._centre())
            else:
                desk.nudge((STEPS[key][0] * size, STEPS[key][1] * size))
            return
        plain: dict[Qt.Key, Callable[[], object]] = {
            Qt.Key.Key_Return: lambda: desk.place(desk.place_now() or self._centre()),
            Qt.Key.Key_Enter: lambda: desk.place(desk.place_now() or self._centre()),
            Qt.Key.Key_N: lambda: desk.next_name(
                -1 if held & Qt.KeyboardModifier.ShiftModifier else 1
            ),
            Qt.Key.Key_C: desk.copy_forward,
            Qt.Key.Key_H: desk.toggle_hidden,
            Qt.Key.Key_J: desk.to_disagreement,
            Qt.Key.Key_Delete: desk.remove,
            Qt.Key.Key_Comma: lambda: desk.show_frame(desk.frame - 1),
            Qt.Key.Key_Period: lambda: desk.show_frame(desk.frame + 1),
            Qt.Key.Key_Semicolon: lambda: desk.show_frame(desk.frame - 10),
            Qt.Key.Key_Colon: lambda: desk.show_frame(desk.frame + 10),
            Qt.Key.Key_PageUp: lambda: desk.next_hand_frame(-1),
            Qt.Key.Key_PageDown: lambda: desk.next_hand_frame(1),
            Qt.Key.Key_Home: lambda: desk.show_frame(0),
            Qt.Key.Key_End: lambda: desk.show_frame(desk.frames - 1),
            Qt.Key.Key_Plus: lambda: self.zoom_by(1.25),
            Qt.Key.Key_Minus: lambda: self.zoom_by(0.8),
            Qt.Key.Key_Escape: lambda: self.use(Tool.MARK),
        }
        call = None if held & Qt.KeyboardModifier.ControlModifier else plain.get(key)
        if call is not None and desk.clip is not None:
            self.by_keys = True
            call()
            self.update()
        else:
            super().keyPressEvent(event)

    def _centre(self) -> Place:
        """Where a mark that has no place begins: under the pointer, else in the middle."""
        return self.to_picture(self.pointer or self.canvas().center())

    # --- painting ----------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = self.painter()
        painter.setRenderHints(
            QPainter.RenderHint.Antialiasing | QPainter.RenderHint.SmoothPixmapTransform
        )
        area, theme, desk = self.canvas(), self.theme, self.desk
        painter.fillRect(area, QColor(theme.well))
        if desk.image.isNull():
            self._paint_empty(painter, area)
            return
        painter.save()
        painter.setClipRect(area)
        image, s = desk.image, self.scale
        corner = self.to_screen((-0.5, -0.5))
        target = QRectF(corner.x(), corner.y(), s * image.width(), s * image.height())
        painter.drawImage(target, image)
        if self.meant is not None:
            overlay.paint_meant(painter, self)
        overlay.paint_calibration(painter, self)
        overlay.paint_lines(painter, self)
        overlay.paint_marks(painter, self)
        overlay.paint_loupe(painter, self, area)
        painter.restore()
        painter.setPen(
            QPen(QColor(theme.ink if self.hasFocus() else theme.line), 2 if self.hasFocus() else 1)
        )
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(area.adjusted(1, 1, -1, -1))

    def _paint_empty(self, painter: QPainter, area: QRectF) -> None:
        painter.setFont(font(15))
        painter.setPen(QColor(self.theme.faint))
        words = (
            "Open a clip or a photo of the athlete, drop it here, or paste it.\n\n"
            "From the side: camera at hip height, square to the athlete, 3 m away or more,\n"
            "the near disc and something upright in the picture. From the front: both feet in it."
        )
        painter.drawText(area, Qt.AlignmentFlag.AlignCenter, words)
