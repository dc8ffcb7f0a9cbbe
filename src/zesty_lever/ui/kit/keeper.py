"""What is found beside the window whenever the result changes."""

from __future__ import annotations

from PySide6.QtCore import QObject, QTimer, Signal
from PySide6.QtWidgets import QWidget

from zesty_lever.analysis import Result
from zesty_lever.ui.session import Session

WAIT_MS = 350
# What a keeper answers where there is nothing to tell; None says that it is still being worked out.
NOTHING_TO_SAY = ""


class Keeper(QObject):
    """Asks whenever the result changes while its parent is on the screen; subclasses say what, beside the window.

    ``known`` carries what was found, or None while it is out of date.
    """

    known = Signal(object)
    kind = ""

    def __init__(self, session: Session, parent: QWidget) -> None:
        super().__init__(parent)
        self.session, self._parent = session, parent
        self.found: object = None
        self._shown_for: Result | None = None
        self._soon = QTimer(self, singleShot=True, interval=WAIT_MS)
        self._soon.timeout.connect(self._ask)
        session.changed.connect(self.refresh)
        session.jobs.answered.connect(self._answer)

    def work(self, result: Result) -> object:
        """What is kept of a result."""
        raise NotImplementedError

    def refresh(self) -> None:
        """Forget what is out of date and ask anew soon."""
        result = self.session.result
        if result is self._shown_for:
            return
        known, self._shown_for, self.found = self.found is not None, result, None
        if known:
            self.known.emit(None)
        self._soon.start()

    def _ask(self) -> None:
        if not self._parent.isVisible():
            self._shown_for = None
            return
        result = self.session.result
        self.session.jobs.ask(self.kind, lambda _tell: (result, self.work(result)))

    def _answer(self, kind: str, number: int, answer: object) -> None:
        if kind != self.kind or not self.session.jobs.is_newest(kind, number):
            return
        assert isinstance(answer, tuple)
        result, found = answer
        if result is self.session.result:
            self.found = found
            self.known.emit(found)
