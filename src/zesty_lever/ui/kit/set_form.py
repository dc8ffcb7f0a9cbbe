"""A set to type in or to correct: load, repetitions, seconds, side, what was left, fault, pain, note."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QSignalBlocker, Signal
from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QDoubleSpinBox,
    QGridLayout,
    QLabel,
    QLineEdit,
    QSpinBox,
    QWidget,
)

from zesty_lever.cases.model import SORE_PLACES as PLACES
from zesty_lever.coaching.rules import rules
from zesty_lever.exercises.catalogue import catalogue
from zesty_lever.log.entry import DoneSet, Fault, Pain
from zesty_lever.models import read
from zesty_lever.plan.document import Tempo
from zesty_lever.problems import CaseError
from zesty_lever.ui.kit.controls import Quantity, picker, push_button
from zesty_lever.ui.kit.pain_popover import ELSEWHERE
from zesty_lever.ui.kit.theme import font
from zesty_lever.wording.records import exercise_words, fault_words

NO_FAULT, NO_PAIN = "no fault", "no pain"
SIDES = ("both", "left", "right")
SORE_PLACES = (*PLACES, ELSEWHERE)
# How far one more repetition went that was not finished, by its quarters.
PARTS = ("none", "1/4", "1/2", "3/4")


def fault_codes() -> list[str]:
    """Faults that can be named: the findings' codes and "other"."""
    return [*rules(), "other"]


class SetForm(QWidget):
    """``given`` (DoneSet): what was typed is to be kept. ``refused`` (why)."""

    given = Signal(object)
    refused = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self.base: DoneSet | None = None
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 4, 0, 0)
        grid.setHorizontalSpacing(8)
        self.load = Quantity("kg", 0.0, 500.0, 2.5)
        self.load.setAccessibleName("Load")
        self.load.setToolTip("Load.")
        self.reps = self._count("Repetitions", 200)
        self.seconds = QDoubleSpinBox(decimals=0, maximum=600.0, suffix=" s")
        self.seconds.setSpecialValueText("\N{EN DASH}")
        self.seconds.setFont(font(12))
        self.seconds.setAccessibleName("Seconds held")
        self.seconds.setToolTip("Seconds held.")
        self.left = QDoubleSpinBox(decimals=1, minimum=-0.5, maximum=5.0, singleStep=0.5)
        self.left.setSpecialValueText("not told")
        self.left.setValue(-0.5)
        self.left.setFont(font(12))
        self.left.setAccessibleName("Repetitions left in reserve")
        self.left.setToolTip("Repetitions that would still have gone, in half steps.")
        self.side = picker("Side", list(SIDES))
        self.fault = picker("Fault", [NO_FAULT, *(fault_words(c) for c in fault_codes())])
        self.flag = QCheckBox("flag")
        self.flag.setFont(font(12))
        self.flag.setToolTip("A flagged fault makes the next load lighter.")
        self.part = picker("How far one more repetition went", list(PARTS))
        self.part.setToolTip("How far one more repetition went that was not finished.")
        for box in (self.fault, self.side, self.part):
            box.setSizeAdjustPolicy(
                QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon
            )
            box.setMinimumContentsLength(6)
        self._make_pain()
        self.note = QLineEdit()
        self.note.setFont(font(12))
        self.note.setMaxLength(500)
        self.note.setAccessibleName("Note")
        self.note.setToolTip("A note on this set.")
        self.note.setPlaceholderText("note")
        self.tempo = QLineEdit()
        self.tempo.setFont(font(12))
        self.tempo.setMaxLength(24)
        self.tempo.setAccessibleName("Tempo: down, pause, up, pause, s")
        self.tempo.setToolTip("Down, pause, up, pause in seconds: 3 1 1 0; empty: as planned.")
        self.tempo.setPlaceholderText("2 0 1 0")
        self.keep = push_button("Keep", "Write this to the log (Enter).", pixels=13)
        self.keep.clicked.connect(self.give)
        self.note.returnPressed.connect(self.give)
        self._lay_out(grid)

    def _make_pain(self) -> None:
        """Fields of a pain: where, which side, how much."""
        self.place = picker("Pain at", [NO_PAIN, *SORE_PLACES])
        self.pain_side = picker("Side of the pain", list(SIDES))
        self.pain_side.setToolTip("Left and right are two places.")
        self.score = self._count("Pain, 0 to 10", 10)
        self.numb = QCheckBox("numb, gives way")
        self.numb.setFont(font(12))
        self.numb.setToolTip(
            "Numb, tingling or giving way: no loaded work for the place until a clinician has cleared it."
        )

    def _lay_out(self, grid: QGridLayout) -> None:
        """Labels and fields, three rows and the note."""
        rows: tuple[tuple[tuple[str, QWidget | None], ...], ...] = (
            (("Load", self.load), ("Reps", self.reps), ("Held", self.seconds)),
            (("Left", self.left), ("Side", self.side), ("Tempo", self.tempo)),
            (("Fault", self.fault), ("", self.flag), ("Part", self.part)),
            (("Pain", self.place), ("of 10", self.score), ("At side", self.pain_side)),
        )
        for line, row in enumerate(rows):
            for column, (words, widget) in enumerate(row):
                if words:
                    label = QLabel(words)
                    label.setFont(font(12))
                    if widget is not None:
                        label.setBuddy(widget)
                    grid.addWidget(label, line, 2 * column)
                if widget is not None:
                    grid.addWidget(widget, line, 2 * column + 1)
        grid.addWidget(self.numb, 5, 0, 1, 4)
        grid.addWidget(self.note, 4, 0, 1, 4)
        grid.addWidget(self.keep, 4, 4, 1, 2)
        for column in (1, 3, 5):
            grid.setColumnStretch(column, 1)

    @staticmethod
    def _count(name: str, most: int) -> QSpinBox:
        box = QSpinBox(maximum=most)
        box.setFont(font(12))
        box.setKeyboardTracking(False)
        box.setAccessibleName(name)
        box.setToolTip(f"{name}.")
        return box

    def show_set(self, done: DoneSet | None) -> None:
        """Begin from a set: the one to be corrected, or the one that was planned."""
        self.base = done
        self._shown: dict[str, object] = {}
        self.setEnabled(done is not None)
        if done is None:
            return
        boxes = (self.load, self.reps, self.seconds, self.left)
        lists = (self.side, self.fault, self.place, self.part, self.pain_side)
        blockers = [QSignalBlocker(widget) for widget in (*boxes, *lists)]
        known = catalogue().get(done.name)
        high = 0.0 if known is None else known.load_range_kg()[1]
        self.load.setEnabled(high > 0.0)
        self.load.set_bounds(0.0, max(high, done.load_kg))
        self.load.setValue(done.load_kg * self.load.factor)
        self.reps.setValue(done.reps)
        self.part.setCurrentIndex(done.quarters)
        self.seconds.setValue(done.seconds or 0.0)
        self.left.setValue(-0.5 if done.effort_left is None else done.effort_left)
        self.side.setCurrentIndex(SIDES.index(done.side) if done.side in SIDES else 0)
        code = done.faults[0].code if done.faults else ""
        self.fault.setCurrentIndex(fault_codes().index(code) + 1 if code in fault_codes() else 0)
        self.flag.setChecked(bool(done.flagged))
        pain = done.pains[0] if done.pains else None
        known_place = pain is not None and pain.place in SORE_PLACES
        self.place.setCurrentIndex(
            SORE_PLACES.index(pain.place) + 1 if pain is not None and known_place else 0
        )
        self.pain_side.setCurrentIndex(0 if pain is None else SIDES.index(pain.side))
        self.score.setValue(0 if pain is None else pain.score)
        self.numb.setChecked(pain is not None and pain.numb)
        self.note.setText(done.note)
        self.tempo.setText("" if done.tempo_s is None else " ".join(f"{v:g}" for v in done.tempo_s))
        self.keep.setToolTip(f"Write this set of {exercise_words(done.name)} to the log (Enter).")
        self._shown = self._state()
        del blockers

    def _state(self) -> dict[str, object]:
        """What every field shows."""
        return {
            "load_kg": self.load.value(),
            "reps": self.reps.value(),
            "quarters": self.part.currentIndex(),
            "seconds": self.seconds.value(),
            "effort_left": self.left.value(),
            "side": self.side.currentIndex(),
            "faults": (self.fault.currentIndex(), self.flag.isChecked()),
            "pains": (
                self.place.currentIndex(),
                self.pain_side.currentIndex(),
                self.score.value(),
                self.numb.isChecked(),
            ),
            "note": self.note.text(),
            "tempo_s": self.tempo.text(),
        }

    def typed(self) -> DoneSet:
        """The set as it is typed: what was not touched stays as it was, also what a field can't show. Raises `CaseError`."""
        assert self.base is not None
        base, now = self.base, self._state()
        left, load = self.left.value(), self.load.value() / self.load.factor
        values: dict[str, Callable[[], object]] = {
            "load_kg": lambda: round(load, 3) if self.load.isEnabled() else 0.0,
            "reps": self.reps.value,
            "quarters": self.part.currentIndex,
            "seconds": lambda: self.seconds.value() or None,
            "effort_left": lambda: None if left < 0.0 else left,
            "side": self.side.currentText,
            "faults": lambda: self._faults(base),
            "pains": lambda: self._pains(base),
            "note": lambda: self.note.text().strip(),
            "tempo_s": self._tempo,
        }
        touched = {key: make() for key, make in values.items() if now[key] != self._shown.get(key)}
        made = base.changed(**touched)
        if not made.reps and made.seconds is None and not made.quarters:
            raise CaseError("wrong-value", "a set has repetitions or seconds", key="reps")
        return made

    def _faults(self, base: DoneSet) -> tuple[Fault, ...]:
        at = self.fault.currentIndex()
        if at <= 0:
            return base.faults[1:]
        severity = "flag" if self.flag.isChecked() else "note"
        own = read(Fault, {"code": fault_codes()[at - 1], "severity": severity})
        return (own, *base.faults[1:])

    def _pains(self, base: DoneSet) -> tuple[Pain, ...]:
        """The first pain as it is typed: when it was felt stays, and that it was cleared where it is no more than it was."""
        if self.place.currentIndex() <= 0:
            return base.pains[1:]
        place = SORE_PLACES[self.place.currentIndex() - 1]
        felt = {
            "place": place,
            "side": self.pain_side.currentText(),
            "score": self.score.value(),
            "numb": self.numb.isChecked(),
        }
        was = base.pains[0] if base.pains else None
        if was is None or was.place != place:
            return (read(Pain, felt), *base.pains[1:])
        more = self.score.value() > was.score or (self.numb.isChecked() and not was.numb)
        cleared = {"cleared_by": "", "cleared_day": None} if more else {}
        return (was.changed(**felt, **cleared), *base.pains[1:])

    def _tempo(self) -> Tempo | None:
        """The tempo as typed. Raises `CaseError`."""
        words = self.tempo.text().replace(",", ".").replace("-", " ").split()
        if not words:
            return None
        try:
            numbers = [float(word) for word in words]
        except ValueError:
            numbers = []
        if len(numbers) != 4:
            raise CaseError(
                "wrong-value",
                "a tempo is four numbers in seconds: down, pause, up, pause",
                key="tempo_s",
            )
        return read(DoneSet, {"drill": "tempo", "tempo_s": numbers}).tempo_s

    def give(self) -> None:
        """Hand on what is typed."""
        if self.base is None:
            return
        try:
            self.given.emit(self.typed())
        except CaseError as error:
            self.refused.emit(error.text)
