"""Findings of the chosen school: size, cue, what following it would change, one click to try it."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import numpy as np
from PySide6.QtCore import Qt, QTimer
from PySide6.QtGui import QResizeEvent
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
from zesty_lever.bench.edits import read_by
from zesty_lever.cases.model import SCHOOLS, School
from zesty_lever.choosing.reach import Furthest, Room
from zesty_lever.coaching.finding import Found
from zesty_lever.coaching.findings import Effect, effect, findings, followed
from zesty_lever.coaching.schools import DISPUTED, disputed_about
from zesty_lever.joints import COACH_JOINTS
from zesty_lever.ui.number import UNITS
from zesty_lever.ui.painters.levers import minus
from zesty_lever.ui.room_keeper import RoomKeeper
from zesty_lever.ui.session import Session
from zesty_lever.ui.setup_panel import SCHOOL_NAMES
from zesty_lever.ui.theme import font
from zesty_lever.ui.worker import Worker

WAIT_MS = 250
MARGIN_WORDS = {
    "ankle_dorsiflexion": "ankle",
    "hip_flexion": "hip",
    "hip_opening": "hip opening",
    "knee_flexion": "knee",
}


TOLD_ALREADY = ("thigh_deg", "stance_m")
REACH_WORDS = {
    "shin_deg": "Shin",
    "trunk_deg": "Trunk",
    "toe_out_deg": "Toes out",
    "step_m": "Step length",
    "rear_height_m": "Rear bench",
    "front_height_m": "Step",
    "bench_height_m": "Bench",
    "feet_height_m": "Under the feet",
    "bar_height_m": "Bar at the start",
    "hands_ahead_m": "Hands ahead",
}


class FindingsPanel(QFrame):
    """Right-hand column, second face."""

    def __init__(self, session: Session, worker: Worker, keeper: RoomKeeper) -> None:
        super().__init__()
        self.setObjectName("card")
        self.session, self.worker, self.keeper = session, worker, keeper
        self.found: list[Found] = []
        self.effects: dict[str, Effect | None] = {}
        outer = QVBoxLayout(self)
        outer.setContentsMargins(14, 10, 6, 10)
        head = QLabel("What this school would say")
        head.setFont(font(15, bold=True))
        outer.addWidget(head)
        outer.addLayout(self._schools())
        area = QScrollArea(widgetResizable=True)
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
        self.room_words, self.rep_words = _text(13), _text(13)
        for title, words in (("Room that is left", self.room_words), ("The rep", self.rep_words)):
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
            "<br><br>".join(f"<b>{q}.</b> {views} <i>{model}</i>" for q, views, model in DISPUTED)
        )
        self.sides.hide()
        self.disputed.toggled.connect(self.sides.setVisible)
        self._column.addWidget(self.disputed)
        self._column.addWidget(self.sides)
        self._column.addStretch(1)
        self._soon = QTimer(self, singleShot=True, interval=WAIT_MS)
        self._soon.timeout.connect(self._ask)
        worker.answered.connect(self._answer)
        keeper.known.connect(self._show_room)
        session.changed.connect(self.refresh)
        self._shown_for: object = None

    def _schools(self) -> QHBoxLayout:
        """Whose eyes: one click, the pose stays as it is."""
        row = QHBoxLayout()
        row.setContentsMargins(0, 0, 8, 0)
        self.schools: dict[str, QPushButton] = {}
        for school in SCHOOLS:
            button = QPushButton(SCHOOL_NAMES[school])
            button.setCheckable(True)
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
        self.session.commit(
            f"Read by: {SCHOOL_NAMES[school].lower()}", read_by(self.session.bench, school)
        )
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
        self.rep_words.setText(rep_words(result))
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

        self.worker.ask("findings", work)

    def _answer(self, kind: str, number: int, answer: object) -> None:
        if kind != "findings" or not self.worker.is_newest(kind, number):
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
            effect_words(self.effects.get(found.code)) if found.code in self.effects else ""
        )
        row = QHBoxLayout()
        attempt = QPushButton("Try the cue")
        attempt.setFont(font(12))
        attempt.setToolTip("Change the set-up as the cue asks; undo goes back.")
        case = followed(self.session.result.case, found)
        attempt.setEnabled(case is not None)
        attempt.clicked.connect(lambda _=False, f=found: self.follow(f))
        row.addWidget(does, 1)
        row.addWidget(attempt, 0, Qt.AlignmentFlag.AlignBottom)
        for widget in (words, cue):
            column.addWidget(widget)
        about = disputed_about(found.code)
        if about is not None:
            both = _text(12)
            both.setText(f"<i>Coaches differ: {about[0]} {about[1]}</i>")
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
        self.session.edit_setup(f"Cue: {found.cue}", settings=given)


class _Wrapped(QLabel):
    """Words that are never squeezed: as tall as they need to be at the width there is."""

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._fit()

    def setText(self, text: str) -> None:
        super().setText(text)
        self._fit()

    def _fit(self) -> None:
        self.setMinimumHeight(max(self.heightForWidth(self.width()), 0))


def _text(pixels: int) -> QLabel:
    label = _Wrapped(wordWrap=True)
    label.setFont(font(pixels))
    return label


def effect_words(told: Effect | None) -> str:
    """What following a cue does to hip, knee and lower back."""
    if told is None:
        return "What it would change can't be solved: the new pose can't be done as it is."
    parts = [f"{word} {told.after[word] - told.before[word]:+.0f}" for word in told.before]
    return minus("Following it: " + ", ".join(parts) + " N·m at the peak.")


def room_sentences(left: Room | None) -> str:
    """Room to move in words."""
    if left is None:
        return ""
    parts = []
    for name, furthest in (
        ("Deepest without rounding", left.depth_unrounded),
        ("Deepest at all", left.depth),
        ("Widest stance", left.widest),
    ):
        if furthest is not None:
            parts.append(f"{name}: {_value(furthest)}{stop_words(furthest)}.")
    if left.depth_best_shin is not None and left.best_shin_deg is not None:
        parts.append(
            f"With the best shin ({left.best_shin_deg:.0f}°): {_value(left.depth_best_shin)}."
        )
    for key, (low, high) in left.reach.items():
        if key not in TOLD_ALREADY:
            ends = " to ".join(UNITS.text(end.value, end.unit, 0) for end in (low, high))
            stops = " and ".join(dict.fromkeys(end.stop for end in (low, high) if end.stop))
            parts.append(f"{REACH_WORDS[key]}: {ends}{f' ({stops})' if stops else ''}.")
    margins = [
        f"{MARGIN_WORDS[k]} {v:.0f}°" for k, v in left.margins_deg.items() if k in MARGIN_WORDS
    ]
    if margins:
        parts.append("Left at the bottom: " + ", ".join(margins) + ".")
    if left.to_heel_cm is not None and left.to_ball_cm is not None:
        parts.append(
            f"Pressure point: {left.to_heel_cm:.0f} cm to the heel, {left.to_ball_cm:.0f} cm to the ball."
        )
    return minus("<br>".join(parts))


def stop_words(furthest: Furthest) -> str:
    """What stops, or that nothing does."""
    return f" ({furthest.stop} stops)" if furthest.stop else " (end of the lever)"


def _value(furthest: Furthest) -> str:
    names = {
        "thigh_deg": "thigh ",
        "trunk_deg": "trunk ",
        "bar_height_m": "bar at ",
        "stance_m": "",
    }
    return names.get(furthest.key, "") + UNITS.text(furthest.value, furthest.unit, 0)


def rep_words(result: Result) -> str:
    """Where in the range each joint is hardest, where it is idle, and what lockout keeps."""
    if not result.feasible:
        return ""
    way = "of the way to lockout" if result.variation.lies else "of the way down"
    parts = []
    for group in COACH_JOINTS:
        joint, name = group.shown, group.word.capitalize()
        row = result.summary[joint]
        values = result.solved.extension(joint)
        idle = np.abs(values) < 0.15 * abs(row.peak_Nm)
        easy = (
            f", all but idle for {100 * idle.mean():.0f} % of the rep" if idle.mean() > 0.05 else ""
        )
        kind = "" if row.peak_Nm >= 0 else " (as a flexor)"
        parts.append(
            f"{name}: hardest {100 * row.at_progress:.0f} % {way}, {abs(row.peak_Nm):.0f} N·m{kind}; "
            f"at {'lockout' if result.variation.lies else 'the top'} {100 * row.lockout_to_peak:.0f} % of it{easy}."
        )
    return minus("<br>".join(parts))
