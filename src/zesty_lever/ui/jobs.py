"""What takes long is worked out beside the window: the newest question of a kind wins, all can be given up."""

from __future__ import annotations

import threading
from collections import deque
from collections.abc import Callable
from typing import Any

from PySide6.QtCore import QObject, Signal
from shiboken6 import isValid

from zesty_lever.frozen import dataclass
from zesty_lever.problems import CaseError

Ask = Callable[[Callable[[float], None]], Any]


class CancelledError(Exception):
    """A newer question has been asked, or the coach has cancelled."""


@dataclass(frozen=True)
class _Question:
    kind: str
    number: int
    ask: Ask


class Jobs(QObject):
    """One thread for all questions of a session, started with the first.

    ``answered`` (kind, number, answer), ``failed`` (kind, number, why) and ``progressed`` (kind, number,
    share) arrive on the window's thread. Answers to questions that are no longer the newest may still
    arrive: ask `is_newest`. Connect methods of widgets, never bare functions, which would run on the
    thread of the jobs. A quick question does not wait for a long one: it is answered in between, where
    the long one tells how far it is. The thread is a daemon: it never keeps the application alive.
    """

    answered = Signal(str, int, object)
    failed = Signal(str, int, str)
    progressed = Signal(str, int, float)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._newest: dict[str, int] = {}
        self._changed = threading.Condition()
        self._quick: deque[_Question] = deque()
        self._long: deque[_Question] = deque()
        self._thread: threading.Thread | None = None

    def ask(self, kind: str, question: Ask, *, long: bool = False) -> int:
        """Ask a question; earlier ones of the same kind are given up. Returns its number."""
        with self._changed:
            number = self._newest.get(kind, 0) + 1
            self._newest[kind] = number
            (self._long if long else self._quick).append(_Question(kind, number, question))
            self._changed.notify()
        if self._thread is None:
            self._thread = threading.Thread(target=self._work, name="jobs", daemon=True)
            self._thread.start()
        return number

    def cancel(self, kind: str) -> None:
        """Give up what is being worked out."""
        with self._changed:
            self._newest[kind] = self._newest.get(kind, 0) + 1

    def is_newest(self, kind: str, number: int) -> bool:
        """Whether an answer is still wanted."""
        with self._changed:
            return self._newest.get(kind) == number

    def _work(self) -> None:
        while True:
            with self._changed:
                self._changed.wait_for(lambda: self._quick or self._long)
                waiting = self._quick or self._long
                question, long = waiting.popleft(), waiting is self._long
            try:
                self._answer(question, long=long)
            except RuntimeError:
                if isValid(self):
                    raise
                return  # the window is gone: nobody waits for answers any more

    def _answer_quick_ones(self) -> None:
        while True:
            with self._changed:
                if not self._quick:
                    return
                question = self._quick.popleft()
            self._answer(question, long=False)

    def _answer(self, question: _Question, *, long: bool) -> None:
        kind, number = question.kind, question.number

        def tell(share: float) -> None:
            if not self.is_newest(kind, number):
                raise CancelledError
            if long:
                self._answer_quick_ones()
            self.progressed.emit(kind, number, share)

        try:
            tell(0.0)
            answer = question.ask(tell)
        except CancelledError:
            return
        except CaseError as error:
            self.failed.emit(kind, number, error.text)
            return
        self.answered.emit(kind, number, answer)
