"""A grip over a joint or a thing: mouse and arrow keys, with what it moves."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QPoint, QPointF, QRectF, Qt, Signal
from PySide6.QtGui import (
    QEnterEvent,
    QFocusEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
)
from PySide6.QtWidgets import QWidget

from zesty_lever.exercises.catalogue import Setting
from zesty_lever.frozen import dataclass
from zesty_lever.ui.kit.spoken import SpeakingSlider
from zesty_lever.ui.kit.zoom import ZOOM
from zesty_lever.wording.units import spoken

HANDLE_PX = 38


@dataclass(frozen=True)
class HandleKind:
    """What a handle moves: its joint, the angle it sets and the joint that angle turns about."""

    joint: str
    key: str
    pivot: str
    name: str
    gym: str


class Handle(SpeakingSlider):
    """A grip over one joint: mouse drags it, arrows move its angle by 1 degree, Shift by 5.

    To a screen reader it is a slider that says its value.
    """

    grabbed = Signal()
    moved = Signal(QPointF)
    dropped = Signal()
    nudged = Signal(float)
    escaped = Signal()

    def __init__(self, kind: HandleKind, parent: QWidget) -> None:
        super().__init__(parent)
        self.kind = kind
        self.resize(HANDLE_PX, HANDLE_PX)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(Qt.CursorShape.OpenHandCursor)
        self.setAccessibleName(f"{kind.name} handle")
        self.wanted.connect(self._step_to)
        self._told = 0
        self.setAccessibleDescription(f"Sets the {kind.gym}. Arrow keys one step, with Shift five.")
        self.setToolTip(f"{kind.name}: drag to set the {kind.gym}. Arrows one step, Shift five.")
        self.dragging = False
        self._sought = False

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() == Qt.MouseButton.LeftButton:
            self.dragging = True
            self.setCursor(Qt.CursorShape.ClosedHandCursor)
            self.grabbed.emit()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self.dragging:
            at = QPointF(self.mapToParent(event.position().toPoint()))
            self.moved.emit(at / ZOOM.factor)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self.dragging:
            self.dragging = False
            self.setCursor(Qt.CursorShape.OpenHandCursor)
            self.dropped.emit()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        ways = {
            Qt.Key.Key_Right: 1.0,
            Qt.Key.Key_Up: 1.0,
            Qt.Key.Key_Left: -1.0,
            Qt.Key.Key_Down: -1.0,
        }
        way = ways.get(Qt.Key(event.key()))
        self._sought = True
        if way is not None:
            coarse = event.modifiers() & Qt.KeyboardModifier.ShiftModifier
            self.nudged.emit(way * (5.0 if coarse else 1.0))
        elif event.key() == Qt.Key.Key_Escape and self.dragging:
            self.dragging = False
            self.escaped.emit()
        else:
            event.ignore()

    def tell_setting(self, setting: Setting, value: float) -> None:
        """Say the value that the grip stands for."""
        low, high, self._told = (
            round(number / setting.step) for number in (setting.low, setting.high, value)
        )
        self.tell(f"{self.kind.name} {spoken(value, setting.unit)}", self._told, low, high)

    def _step_to(self, value: int) -> None:
        self.nudged.emit(float(value - self._told))

    def put(self, at: QPointF) -> None:
        """Centre the grip over a point of its view's canvas."""
        size = ZOOM.px(HANDLE_PX)
        if self.width() != size:
            self.resize(size, size)
        self.move((at * ZOOM.factor).toPoint() - QPoint(size // 2, size // 2))

    @property
    def noticed(self) -> bool:
        """Whether the pointer is over it, or someone has gone to it with the keyboard."""
        return self.isVisible() and (
            self.underMouse() or (self.hasFocus() and self._sought) or self.dragging
        )

    def focusInEvent(self, event: QFocusEvent) -> None:
        super().focusInEvent(event)
        # Where the keyboard happens to be when the window opens, nobody has asked for anything.
        self._sought = self._sought or event.reason() in (
            Qt.FocusReason.TabFocusReason,
            Qt.FocusReason.BacktabFocusReason,
        )
        self._repaint_view()

    def focusOutEvent(self, event: QFocusEvent) -> None:
        super().focusOutEvent(event)
        if event.reason() != Qt.FocusReason.ActiveWindowFocusReason:
            self._sought = False
        self._repaint_view()

    def enterEvent(self, event: QEnterEvent) -> None:
        super().enterEvent(event)
        self._repaint_view()

    def leaveEvent(self, event: QEvent) -> None:
        super().leaveEvent(event)
        self._repaint_view()

    def _repaint_view(self) -> None:
        """What is drawn around a grip that is noticed is its view's own."""
        self.update()
        view = self.parentWidget()
        if view is not None:
            view.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.scale(ZOOM.factor, ZOOM.factor)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        ink = self.palette().windowText().color()
        pen = QPen(ink, 2.4 if self.hasFocus() else 1.0)
        if not self.hasFocus():
            pen.setDashPattern([2, 3])
        painter.setPen(pen)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawEllipse(QRectF(3, 3, HANDLE_PX - 6, HANDLE_PX - 6))
