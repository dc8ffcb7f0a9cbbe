"""Steps of history that a held key makes one of."""

from __future__ import annotations

import time
from typing import Generic, TypeVar

from PySide6.QtGui import QUndoCommand

State = TypeVar("State")
# Steps of one kind that come this quickly are one held key.
HELD_KEY_S = 0.35


class HeldStep(QUndoCommand, Generic[State]):
    """One step: a state before and after; ``kind`` tells histories of different things apart.

    Subclasses show a state in `show`.
    """

    kind = 1

    def __init__(self, label: str, before: State, after: State, *, merges: bool = False) -> None:
        super().__init__(label)
        self._before, self.after = before, after
        self._merges, self.at_s = merges, time.monotonic()

    def show(self, state: State) -> None:
        """Make a state the current one."""

    def id(self) -> int:
        return self.kind if self._merges else -1

    def mergeWith(self, other: QUndoCommand) -> bool:
        """Take over the next step of the same kind where it comes as quickly as from a held key."""
        if not isinstance(other, type(self)) or other.text() != self.text():
            return False
        if other.at_s - self.at_s > HELD_KEY_S:
            return False
        self.after, self.at_s = other.after, other.at_s
        return True

    def undo(self) -> None:
        self.show(self._before)

    def redo(self) -> None:
        self.show(self.after)
