"""Runs slow questions beside the window: the newest question of a kind wins, and it can be cancelled."""

from __future__ import annotations

import queue
import threading
from collections.abc import Callable
from typing import Any

from PySide6.QtCore import QObject, Signal
from shiboken6 import isValid

from zesty_lever.problems import CaseError

Ask = Callable[[Callable[[float], None]], Any]


class CancelledError(Exception):
    """A newer question has been asked, or the coach has cancelled."""


class Worker(QObject):
    """One thread for a window, started with the first question.

    ``answered`` (kind, number, answer), ``failed`` (kind, number, why) and ``progressed`` (kind, number,
    share) arrive on the window's thread. Answers to questions that are no longer the newest may still
    arrive: ask `is_newest`. Connect methods of widgets, never bare functions, which would run on the
    worker's thread. The thread is a daemon: it never keeps the application alive.
    """

    answered = Signal(str, int, object)
    failed = Signal(str, int, str)
    progressed = Signal(str, int, float)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._newest: dict[str, int] = {}
        self._lock = threading.Lock()
        self._waiting: queue.SimpleQueue[tuple[str, int, Ask]] = queue.SimpleQueue()
        self._thread: threading.Thread | None = None

    def ask(self, kind: str, question: Ask) -> int:
        """Ask a question; earlier ones of the same kind are given up. Returns its number."""
        with self._lock:
            number = self._newest.get(kind, 0) + 1
            self._newest[kind] = number
        self._waiting.put((kind, number, question))
        if self._thread is None:
            self._thread = threading.Thread(target=self._work, name="questions", daemon=True)
            self._thread.start()
        return number

    def cancel(self, kind: str) -> None:
        """Give up what is being worked out."""
        with self._lock:
            self._newest[kind] = self._newest.get(kind, 0) + 1

    def is_newest(self, kind: str, number: int) -> bool:
        """Whether an answer is still wanted."""
        with self._lock:
            return self._newest.get(kind) == number

    def _work(self) -> None:
        while True:
            kind, number, question = self._waiting.get()
            try:
                self._answer(kind, number, question)
            except RuntimeError:
                if isValid(self):
                    raise
                return  # the window is gone: nobody waits for answers any more

    def _answer(self, kind: str, number: int, question: Ask) -> None:
        def tell(share: float) -> None:
            if not self.is_newest(kind, number):
                raise CancelledError
            self.progressed.emit(kind, number, share)

        try:
            tell(0.0)
            answer = question(tell)
        except CancelledError:
            return
        except CaseError as error:
            self.failed.emit(kind, number, error.text)
            return
        self.answered.emit(kind, number, answer)
