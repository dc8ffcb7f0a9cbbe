"""Findings of the chosen school: size, cue, what following it would change, one click to try it."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PySide6.QtCore import Qt, QTimer
from PySide6.QtWidgets import (
    QFrame,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QScrollArea,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from zesty_lever.analysis import Result
from zesty_lever.bench import edits
from zesty_lever.cases.model import SCHOOLS, Case, School
from zesty_lever.choosing.explain import explain
from zesty_lever.choosing.reach import Room
from zesty_lever.coaching.findings import Effect, Found, effect, findings, followed
from zesty_lever.coaching.schools import schools
from zesty_lever.problems import CaseError
from zesty_lever.ui.bench.keepers import RoomKeeper
from zesty_lever.ui.kit.controls import Wrapped, push_button
from zesty_lever.ui.kit.theme import font
from zesty_lever.ui.session import Session
from zesty_lever.wording.sentences import (
    effect_sentence,
    lean_sentences,
    rep_sentences,
    room_sentences,
)
from zesty_lever.wording.units import minus

WAIT_MS = 250


class FindingsPanel(QFrame):
    """Right-hand column, second face."""

    def __init__(self, session: Session, keeper: RoomKeeper) -> None:
        super().__init__()
        self.setObjectName("card")
        self.session, self.keeper = session, keeper
        self.found: list[Found] = []
        self.effects: dict[str, Effect | None] = {}
        outer = QVBoxLayout(self)
        outer.setContentsMargins(14, 10, 6, 10)
        head = QLabel("What this school would say")
        head.setFont(font(15, bold=True))
        outer.addWidget(head)
        outer.addLayout(self._schools())
        area = QScrollArea(widgetResizable=True)
        area.setAccessibleName("Findings, scrolled with the arrow keys")
        area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        body = QWidget()
        area.setWidget(body)
        outer.addWidget(area, 1)
        self._column = QVBoxLayout(body)
        self._column.setContentsMargins(0, 0, 8, 0)
        self._column.setSpacing(8)
        self.cards = QVBoxLayout()
        self.cards.setSpacing(8)
        self._column.addLayout(self.cards)
        self.room_words, self.rep_words, self.lean_words = _text(13), _text(13), _text(13)
        for title, words in (
            ("Room that is left", self.room_words),
            ("Why this lean", self.lean_words),
            ("The rep", self.rep_words),
        ):
            label = QLabel(title)
            label.setFont(font(14, bold=True))
            self._column.addWidget(label)
            self._column.addWidget(words)
        self.disputed = QToolButton()
        self.disputed.setText("Where coaches disagree ▾")
        self.disputed.setCheckable(True)
        self.disputed.setFont(font(12))
        self.disputed.setToolTip("Each side in a sentence, and what the model can and can't say.")
        self.sides = _text(12)
        self.sides.setText(
            "<br><br>".join(
                f"<b>{d.question}.</b> {d.views} <i>{d.model}</i>" for d in schools().disputed
            )
        )
        self.sides.hide()
        self.disputed.toggled.connect(self.sides.setVisible)
        self._column.addWidget(self.disputed)
        self._column.addWidget(self.sides)
        self._column.addStretch(1)
        self._soon = QTimer(self, singleShot=True, interval=WAIT_MS)
        self._soon.timeout.connect(self._ask)
        session.jobs.answered.connect(self._answer)
        keeper.known.connect(self._show_room)
        session.changed.connect(self.refresh)
        self._shown_for: object = None

    def _schools(self) -> QHBoxLayout:
        """Whose eyes: one click, the pose stays as it is."""
        row = QHBoxLayout()
        row.setContentsMargins(0, 0, 8, 0)
        self.schools: dict[str, QPushButton] = {}
        for school in SCHOOLS:
            button = QPushButton(schools().name(school))
            button.setCheckable(True)
            button.setAutoExclusive(True)
            button.setFont(font(12))
            button.setToolTip(
                "Read both set-ups by this school; they stay exactly as they are. The set-up's own choice of a "
                "school starts from its default technique instead."
            )
            button.clicked.connect(lambda _=False, s=school: self._read_by(s))
            row.addWidget(button, 1)
            self.schools[school] = button
        return row

    def _read_by(self, school: School) -> None:
        self.session.do(edits.read_by, school)
        self._show_school()

    def _show_school(self) -> None:
        for school, button in self.schools.items():
            button.setChecked(school == self.session.setup.school)

    @property
    def room(self) -> Room | None:
        """The room that is left, once it is known."""
        return self.keeper.room

    def _show_room(self, left: Room | None) -> None:
        self.room_words.setText(room_sentences(left) if left is not None else "…")

    def showEvent(self, event: Any) -> None:
        super().showEvent(event)
        self.refresh()

    def refresh(self) -> None:
        """Read the findings off the result; their effects follow when the hand rests."""
        result = self.session.result
        if not self.isVisible() or self._shown_for is result:
            return
        self._shown_for, self.effects = result, {}
        self._show_school()
        self.found = findings(result)
        self._build()
        self.rep_words.setText(rep_sentences(result))
        self.lean_words.setText("…" if result.feasible else "")
        self._show_room(self.room)
        self._soon.start()

    def _ask(self) -> None:
        result, found = self.session.result, self.found

        def work(tell: Callable[[float], None]) -> tuple[Result, dict[str, Effect | None]]:
            effects = {}
            for number, item in enumerate(found):
                tell(number / len(found))
                effects[item.code] = effect(result, item)
            return result, effects

        self.session.jobs.ask("findings", work)
        if result.feasible:
            case = self.session.bench.case(self.session.editing)
            self.session.jobs.ask("lean", lambda _tell: (result, _lean_words(case)))

    def _answer(self, kind: str, number: int, answer: object) -> None:
        if kind == "lean" and self.session.jobs.is_newest(kind, number):
            assert isinstance(answer, tuple)
            if answer[0] is self._shown_for:
                self.lean_words.setText(answer[1])
        if kind != "findings" or not self.session.jobs.is_newest(kind, number):
            return
        assert isinstance(answer, tuple)
        result, self.effects = answer
        if result is self._shown_for:
            self._build()

    def _build(self) -> None:
        while (item := self.cards.takeAt(0)) is not None:
            widget = item.widget()
            if widget is not None:
                widget.hide()
                widget.deleteLater()
        for found in self.found:
            self.cards.addWidget(self._card(found))
        if not self.found:
            words = _text(13)
            error = self.session.result.error
            words.setText(
                "Nothing can be said while the pose can't be done."
                if error
                else "Nothing stands out for this school."
            )
            self.cards.addWidget(words)

    def _card(self, found: Found) -> QFrame:
        card = QFrame()
        card.setObjectName("finding" if found.severity == "note" else "flagged")
        column = QVBoxLayout(card)
        column.setContentsMargins(10, 6, 8, 8)
        column.setSpacing(3)
        words, cue, does = _text(13), _text(13), _text(12)
        mark = "▲ " if found.severity == "flag" else "• "
        words.setText(mark + minus(found.text))
        cue.setText(f"<b>Say:</b> {found.cue} <b>Set:</b> {found.drill}")
        does.setText(
            effect_sentence(self.effects.get(found.code)) if found.code in self.effects else ""
        )
        row = QHBoxLayout()
        attempt = push_button("Try the cue", "Change the set-up as the cue asks; undo goes back.")
        case = followed(self.session.result.case, found)
        attempt.setEnabled(case is not None)
        attempt.clicked.connect(lambda _=False, f=found: self.follow(f))
        row.addWidget(does, 1)
        row.addWidget(attempt, 0, Qt.AlignmentFlag.AlignBottom)
        for widget in (words, cue):
            column.addWidget(widget)
        about = found.disputed
        if about is not None:
            both = _text(12)
            both.setText(f"<i>Coaches differ: {about.views} {about.model}</i>")
            column.addWidget(both)
        column.addLayout(row)
        return card

    def follow(self, found: Found) -> None:
        """Try a cue: one undo step."""
        case = followed(self.session.result.case, found)
        if case is None:
            return
        given = dict(self.session.setup.settings)
        for key, value in found.settings.items():
            if key in case.settings:
                given[key] = (
                    case.settings[key] if key in self.session.result.case.settings else value
                )
        self.session.do(edits.change_setup, f"Cue: {found.cue}", settings=given)


def _lean_words(case: Case) -> str:
    """Why the trunk leans; or that this variation has no lean of its own."""
    try:
        return lean_sentences(explain(case))
    except CaseError as error:
        return f"{error.text}."


def _text(pixels: int) -> QLabel:
    label = Wrapped(wordWrap=True)
    label.setFont(font(pixels))
    return label
