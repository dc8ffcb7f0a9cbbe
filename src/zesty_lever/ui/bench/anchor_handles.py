"""Grips over the anchors of bands and cables in the side view: dragged along and up, arrows a step."""

from __future__ import annotations

from PySide6.QtCore import QObject, QPointF, Qt, Signal
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QWidget

from zesty_lever.bench import edits
from zesty_lever.cases.anchors import Anchor, anchors
from zesty_lever.ui.kit.handle import Handle, HandleKind
from zesty_lever.ui.paint.view import View
from zesty_lever.ui.session import Session

STEP_M = 0.01


class AnchorHandle(Handle):
    """A grip that moves both ways. ``pushed`` (ahead, up): arrow keys, in steps."""

    pushed = Signal(float, float)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        ways = {
            Qt.Key.Key_Right: (1.0, 0.0),
            Qt.Key.Key_Left: (-1.0, 0.0),
            Qt.Key.Key_Up: (0.0, 1.0),
            Qt.Key.Key_Down: (0.0, -1.0),
        }
        way = ways.get(Qt.Key(event.key()))
        if way is None:
            super().keyPressEvent(event)
            return
        coarse = 5.0 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 1.0
        self.pushed.emit(coarse * way[0], coarse * way[1])


class AnchorHandles(QObject):
    """Keeps one grip on every anchor of the set-up being edited.

    ``grabbed`` when a drag begins, ``dropped`` (label, or empty when given up) when it ends.
    """

    grabbed = Signal()
    dropped = Signal(str)

    def __init__(self, session: Session, over: QWidget) -> None:
        super().__init__(over)
        self.session, self._over = session, over
        self.handles: list[AnchorHandle] = []

    def known(self) -> list[Anchor]:
        """The anchors that can be held now."""
        return (
            anchors(self.session.result.case)
            if self.session.drawable[self.session.editing].frames
            else []
        )

    def show_on(self, view: View) -> None:
        """Put the grips where the anchors are."""
        known = self.known()
        while len(self.handles) < len(known):
            self._make(len(self.handles))
        for index, handle in enumerate(self.handles):
            handle.setVisible(index < len(known))
            if index < len(known):
                x, y, _ = known[index].place
                handle.put(view.at(x, y))

    def _make(self, index: int) -> None:
        kind = HandleKind("", "anchor", "", "Anchor", "place where the band or cable is fixed")
        handle = AnchorHandle(kind, self._over)
        handle.grabbed.connect(self.grabbed)
        handle.moved.connect(lambda point: self._drag(index, point))
        handle.dropped.connect(lambda: self.dropped.emit("Drag anchor"))
        handle.escaped.connect(lambda: self.dropped.emit(""))
        handle.pushed.connect(lambda ahead, up: self._push(index, ahead, up))
        self.handles.append(handle)

    def _drag(self, index: int, point: QPointF) -> None:
        known = self.known()
        if index < len(known):
            x, y = self._over.view.world(point)  # type: ignore[attr-defined]
            self.session.preview(
                edits.move_anchor, known[index], round(x, 3), round(max(y, 0.0), 3)
            )

    def _push(self, index: int, ahead: float, up: float) -> None:
        known = self.known()
        if index < len(known):
            x, y, _ = known[index].place
            self.session.do(
                edits.move_anchor,
                known[index],
                round(x + ahead * STEP_M, 4),
                round(max(y + up * STEP_M, 0.0), 4),
            )
