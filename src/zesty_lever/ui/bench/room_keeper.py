"""Keeps the room that is left for the set-up being edited, worked out once the hand rests."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, QTimer, Signal
from PySide6.QtWidgets import QWidget

from zesty_lever.analysis import Result
from zesty_lever.ui.session import Session

if TYPE_CHECKING:
    from zesty_lever.choosing.reach import Room

WAIT_MS = 350


class RoomKeeper(QObject):
    """Asks for the room whenever the result changes while its parent is on the screen.

    ``known`` carries the room, or None while it is out of date.
    """

    known = Signal(object)

    def __init__(self, session: Session, parent: QWidget) -> None:
        super().__init__(parent)
        self.session, self._parent = session, parent
        self.room: Room | None = None
        self._shown_for: Result | None = None
        self._soon = QTimer(self, singleShot=True, interval=WAIT_MS)
        self._soon.timeout.connect(self._ask)
        session.changed.connect(self.refresh)
        session.jobs.answered.connect(self._answer)

    def refresh(self) -> None:
        """Forget what is out of date and ask anew soon."""
        result = self.session.result
        if result is self._shown_for:
            return
        self._shown_for, self.room = result, None
        self.known.emit(None)
        self._soon.start()

    def _ask(self) -> None:
        from zesty_lever.choosing.reach import room

        if not self._parent.isVisible():
            self._shown_for = None
            return
        case = self.session.result.case
        result = self.session.result
        self.session.jobs.ask("room", lambda _tell: (result, room(case)))

    def _answer(self, kind: str, number: int, answer: object) -> None:
        if kind != "room" or not self.session.jobs.is_newest(kind, number):
            return
        assert isinstance(answer, tuple)
        result, found = answer
        if result is self.session.result:
            self.room = found
            self.known.emit(found)
