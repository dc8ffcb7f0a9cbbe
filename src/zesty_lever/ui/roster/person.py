"""Beside the team: the athlete that is chosen; stage, away, note, stops to clear, what to open, export, erase."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import QSignalBlocker, Qt, Signal
from PySide6.QtWidgets import (
    QCheckBox,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QPlainTextEdit,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from zesty_lever.records.views import RosterRow
from zesty_lever.ui.kit.controls import Wrapped, heading, note, picker, push_button, scrolled_column
from zesty_lever.ui.kit.theme import font
from zesty_lever.wording.records import STAGE_WORDS, day_short, exercise_words, pain_words

WIDE = 310


class PersonPanel(QWidget):
    """``changed`` (what, value); ``cleared`` (place, initials); ``asked`` (what): start, plan, log, bench, export, erase."""

    changed = Signal(str, object)
    cleared = Signal(str, str, str)
    asked = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        area, column = scrolled_column(WIDE)
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        outer.addWidget(area)
        self.row: RosterRow | None = None
        self.buttons: dict[str, QPushButton] = {}
        self.settle: dict[str, QPushButton] = {}
        self.name = heading("")
        self.name.setTextFormat(Qt.TextFormat.PlainText)
        column.addWidget(self.name)
        self._add_openers(column)
        column.addSpacing(6)
        self.stops = QVBoxLayout()
        column.addLayout(self.stops)
        self._add_facts(column)
        self._add_difference(column)
        column.addStretch(1)
        self._add_leaving(column)
        self.show_row(None, 0, differs=False)

    def _add_openers(self, column: QVBoxLayout) -> None:
        """What is opened for the athlete."""
        for what, words, tip in (
            ("start", "Start today's session (Ctrl+G)", "Run the session step by step, by keys."),
            ("plan", "Plan", "Weeks and sessions of this athlete."),
            ("log", "Log", "What was done, trends, advice."),
            ("bench", "On the bench", "Put this athlete on the bench."),
        ):
            self.buttons[what] = push_button(words, tip, pixels=13)
            self.buttons[what].clicked.connect(partial(self.asked.emit, what))
            column.addWidget(self.buttons[what])

    def _add_facts(self, column: QVBoxLayout) -> None:
        """Stage, away, note."""
        self.stage = picker("Stage", list(STAGE_WORDS.values()))
        self.stage.activated.connect(lambda at: self.changed.emit("stage", list(STAGE_WORDS)[at]))
        label = QLabel("Stage")
        label.setFont(font(12))
        label.setBuddy(self.stage)
        column.addWidget(label)
        column.addWidget(self.stage)
        self.away = QCheckBox("Away for now")
        self.away.setFont(font(12))
        self.away.setToolTip("Folded to the end of the team.")
        self.away.clicked.connect(lambda on: self.changed.emit("away", bool(on)))
        column.addWidget(self.away)
        self.note = QPlainTextEdit()
        self.note.setFont(font(12))
        self.note.setAccessibleName("Note about this athlete")
        self.note.setPlaceholderText("A note about this athlete")
        self.note.setToolTip("A note about this athlete.")
        self.note.setFixedHeight(72)
        self.note.setTabChangesFocus(True)
        column.addWidget(self.note)
        save = push_button("Keep the note", "Write the note to the records.")
        save.clicked.connect(lambda: self.changed.emit("note", self.note.toPlainText()[:2000]))
        column.addWidget(save)

    def _add_difference(self, column: QVBoxLayout) -> None:
        """Where bench and records differ."""
        self.differs = Wrapped(wordWrap=True)
        self.differs.setFont(font(12))
        column.addWidget(self.differs)
        row = QHBoxLayout()
        for what, words in (
            ("take-records", "Take the records'"),
            ("take-bench", "Take the bench's"),
        ):
            tip = "Settle the difference; undo brings the bench back."
            self.settle[what] = push_button(words, tip)
            self.settle[what].clicked.connect(partial(self.asked.emit, what))
            row.addWidget(self.settle[what])
        column.addLayout(row)

    def _add_leaving(self, column: QVBoxLayout) -> None:
        """Export and erase."""
        words = "Export gives everything that is kept of this person. Erasing can't be undone."
        column.addWidget(note(words))
        export = push_button(
            "Export this person …", "A folder with JSON lines, CSV and attachments."
        )
        export.clicked.connect(partial(self.asked.emit, "export"))
        column.addWidget(export)
        self.typed = QLineEdit()
        self.typed.setFont(font(12))
        self.typed.setAccessibleName("Name, typed, to erase this person")
        self.typed.setPlaceholderText("type the name to erase")
        self.typed.setToolTip("The whole name, as a safeguard.")
        self.typed.textChanged.connect(self._may_erase)
        column.addWidget(self.typed)
        self.erase = push_button(
            "Erase for good",
            "Takes this person out of the records, their backups, the bench and the measurements.",
        )
        self.erase.clicked.connect(partial(self.asked.emit, "erase"))
        column.addWidget(self.erase)

    def _may_erase(self) -> None:
        self.erase.setEnabled(self.row is not None and self.typed.text() == self.row.person.name)

    def show_row(self, row: RosterRow | None, today: int, *, differs: bool) -> None:
        """Show an athlete; None: nobody is there."""
        same = row is not None and self.row is not None and row.person.id == self.row.person.id
        self.row = row
        self.setEnabled(row is not None)
        self.name.setText("Nobody yet" if row is None else row.person.name)
        self._show_stops(row, today)
        if not same:
            self.typed.clear()
        self._may_erase()
        self.differs.setVisible(differs)
        self.differs.setText("On the bench this athlete differs from the records.")
        for button in self.settle.values():
            button.setVisible(differs)
        if row is None:
            return
        ready = row.next is not None and row.next.day == today
        self.buttons["start"].setText(
            "Start today's session (Ctrl+G)" if ready else "Start a session (Ctrl+G)"
        )
        with QSignalBlocker(self.stage), QSignalBlocker(self.away):
            self.stage.setCurrentIndex(list(STAGE_WORDS).index(row.person.stage))
            self.away.setChecked(row.person.away)
        if not same or not self.note.hasFocus():
            self.note.setPlainText(row.person.note)

    def _show_stops(self, row: RosterRow | None, today: int) -> None:
        while self.stops.count():
            old = self.stops.takeAt(0)
            widget = old.widget() if old is not None else None
            if widget is not None:
                widget.hide()
                widget.deleteLater()
        if row is None:
            return
        # Left and right are two places: each is cleared by itself.
        newest = {(stop.pain.place, stop.pain.side): stop for stop in row.stops}
        for (place, side), stop in newest.items():
            self.stops.addWidget(
                self._stop(place, side, pain_words(stop.pain), stop.day, stop.lift, today)
            )

    def _stop(self, place: str, side: str, words: str, day: int, lift: str, today: int) -> QWidget:
        box = QWidget()
        box.setObjectName("flagged")
        box.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        column = QVBoxLayout(box)
        column.setContentsMargins(8, 6, 8, 6)
        where = f" in the {exercise_words(lift).lower()}" if lift else ""
        told = note(
            f"Stop: {words}{where}, {day_short(day, today)}. See a licensed clinician. "
            "Cleared by a coach with initials and today's date."
        )
        told.setTextFormat(Qt.TextFormat.PlainText)
        column.addWidget(told)
        row = QHBoxLayout()
        initials = QLineEdit()
        initials.setMaxLength(8)
        initials.setFont(font(12))
        initials.setAccessibleName(f"Initials to clear the stop at the {place}")
        initials.setPlaceholderText("initials")
        initials.setToolTip("Who clears it.")
        clear = push_button("Cleared", "Advice gives loads again, lighter at first.")
        clear.clicked.connect(lambda: self.cleared.emit(place, side, initials.text()))
        initials.returnPressed.connect(clear.click)
        row.addWidget(initials)
        row.addWidget(clear)
        column.addLayout(row)
        return box
