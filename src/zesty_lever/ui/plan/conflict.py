"""Someone else was quicker: what they changed beside mine, and three ways to go on."""

from __future__ import annotations

from functools import partial
from typing import Any

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFrame, QHBoxLayout, QVBoxLayout

from zesty_lever.plan.edits import differences
from zesty_lever.records.documents import PlanRow
from zesty_lever.ui.kit.controls import Wrapped, push_button
from zesty_lever.ui.kit.theme import font
from zesty_lever.ui.plan.desk import PlanDesk
from zesty_lever.wording.records import clock_words


class ConflictBar(QFrame):
    """Stays until it is settled."""

    def __init__(self, desk: PlanDesk) -> None:
        super().__init__()
        self.desk = desk
        self.setObjectName("flagged")
        self.setAccessibleName("Someone else changed this plan")
        column = QVBoxLayout(self)
        column.setContentsMargins(10, 6, 10, 6)
        self.told = Wrapped(wordWrap=True)
        self.told.setTextFormat(Qt.TextFormat.PlainText)
        self.told.setFont(font(12))
        column.addWidget(self.told)
        row = QHBoxLayout()
        self.buttons = {}
        for how, words, tip in (
            ("mine", "Keep mine", "Overwrite theirs, knowingly."),
            ("theirs", "Take theirs", "Drop what I changed since."),
            ("copy", "Keep mine as a copy", "Both stay: theirs here, mine as a plan of its own."),
        ):
            self.buttons[how] = push_button(words, tip)
            self.buttons[how].clicked.connect(partial(desk.settle, how))
            row.addWidget(self.buttons[how])
        row.addStretch(1)
        column.addLayout(row)
        desk.conflicted.connect(self._show)
        desk.changed.connect(lambda: self.setVisible(self.desk.beaten is not None))
        self.hide()

    def _show(self, beaten: Any) -> None:
        theirs = beaten.theirs
        if not isinstance(theirs, PlanRow):
            self.told.setText(
                "Someone else deleted this plan. Mine can be kept as a plan of its own."
            )
            return
        who = theirs.changed_by or "Someone else"
        words = f"{who} changed this at {clock_words(theirs.changed_ms)}. Nothing of theirs or mine is overwritten."
        found = differences(theirs.plan, self.desk.plan)
        if found:
            words += f" Mine against theirs: {'; '.join(found[:4])}."
        self.told.setText(words)
        self.buttons["mine"].setFocus()
