"""What comes next: the session ahead with the advice for each lift, its reasons, and what the coach decides."""

from __future__ import annotations

from collections.abc import Mapping
from functools import partial

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QHBoxLayout, QLabel, QVBoxLayout, QWidget

from zesty_lever.log.asked import Advice, Decision
from zesty_lever.plan.document import Item
from zesty_lever.records.documents import SessionRow
from zesty_lever.ui.kit.controls import Wrapped, note, push_button, scrolled_column
from zesty_lever.ui.kit.theme import font
from zesty_lever.wording.messages import said
from zesty_lever.wording.messages import told as sentences
from zesty_lever.wording.records import (
    advice_words,
    day_short,
    decision_words,
    exercise_words,
    ways_words,
)


class NextPanel(QWidget):
    """``substitutes_asked`` (item, advice): something lighter, or another lift, is wanted."""

    substitutes_asked = Signal(object, object)

    def __init__(self) -> None:
        super().__init__()
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        self.area, self.column = scrolled_column(100)
        self.area.setMinimumWidth(100)
        self.area.setMaximumWidth(16777215)
        outer.addWidget(self.area)
        self.advised: dict[str, Advice] = {}

    def show_next(
        self,
        row: SessionRow | None,
        advised: Mapping[str, Advice],
        today: int,
        decisions: Mapping[str, Decision],
    ) -> None:
        """Show the session ahead and its advice, beside what a coach decided last time."""
        self.advised = dict(advised)
        while self.column.count():
            old = self.column.takeAt(0)
            widget = old.widget() if old is not None else None
            if widget is not None:
                widget.hide()
                widget.deleteLater()
        if row is None:
            self.column.addWidget(note("Nothing is planned. Plan builds a week."))
            self.column.addStretch(1)
            return
        title = QLabel(f"{day_short(row.day, today)}: {row.session.name or 'Session'}")
        title.setTextFormat(Qt.TextFormat.PlainText)
        title.setFont(font(13, bold=True))
        self.column.addWidget(title)
        for key, advice in advised.items():
            found = row.session.item(key)
            if found is not None:
                item = found[1]
                decided = decisions.get(item.name)
                words = "" if decided is None else decision_words(decided, today)
                self.column.addWidget(self._advice(item, advice, words))
        self.column.addWidget(
            note("It proposes; the coach decides. Pain goes to a licensed clinician.")
        )
        self.column.addStretch(1)

    def _advice(self, item: Item, advice: Advice, decided: str) -> QWidget:
        box = QWidget()
        box.setObjectName("flagged" if advice.action == "stop" else "finding")
        box.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        column = QVBoxLayout(box)
        column.setContentsMargins(8, 6, 8, 6)
        row = QHBoxLayout()
        name = QLabel(exercise_words(item.name))
        name.setFont(font(13, bold=True))
        row.addWidget(name, 1)
        told = QLabel(advice_words(advice, item.name))
        told.setFont(font(13, bold=True))
        row.addWidget(told)
        column.addLayout(row)
        why = Wrapped(" ".join([*sentences(advice), decided]).strip(), wordWrap=True)
        why.setTextFormat(Qt.TextFormat.PlainText)
        why.setFont(font(12))
        column.addWidget(why)
        more = ways_words(advice)
        if advice.lighter_week is not None:
            more.append(f"{said(advice.lighter_week.why)} Plan, Week: make this week lighter.")
        if more:
            ways = Wrapped("\n".join(more), wordWrap=True)
            ways.setTextFormat(Qt.TextFormat.PlainText)
            ways.setFont(font(12))
            column.addWidget(ways)
        if advice.action == "stop" or advice.lighter_variation:
            ask = push_button(
                "What instead?", "Lifts that load the sore place less, on the Shortlist."
            )
            ask.clicked.connect(partial(self._ask_instead, item, advice))
            column.addWidget(ask, 0, Qt.AlignmentFlag.AlignLeft)
        return box

    def _ask_instead(self, item: Item, advice: Advice) -> None:
        self.substitutes_asked.emit(item, advice)
