"""Rules of advice and of counting: every number, its range, and back to the usual."""

from __future__ import annotations

from PySide6.QtCore import QSignalBlocker, Signal
from PySide6.QtWidgets import QComboBox, QDoubleSpinBox, QGridLayout, QWidget

from zesty_lever.bench import edits
from zesty_lever.coaching.numbers import rule_names, rule_range, rules_with, usual_rules
from zesty_lever.exercises.catalogue import catalogue
from zesty_lever.log.exposure import HARD_SHARE, REFERENCE
from zesty_lever.ui.kit.form_button import FormButton
from zesty_lever.ui.kit.theme import font
from zesty_lever.ui.session import Session

COLUMNS = 3


class RulesButton(FormButton):
    """``changed``: advice has to be asked anew."""

    changed = Signal()

    def __init__(self, session: Session) -> None:
        super().__init__("Rules", "Numbers of the advice, and what counts as hard.", session)
        self.boxes: dict[str, QDoubleSpinBox] = {}
        self.lift = QComboBox()

    def _make(self) -> None:
        within = QWidget()
        grid = QGridLayout(within)
        grid.setContentsMargins(0, 0, 0, 0)
        for number, (key, name) in enumerate(rule_names().items()):
            low, high = rule_range(key)
            box = self.number(
                name.strip(),
                low,
                high,
                "",
                0 if high > 5 and float(getattr(usual_rules(), key)).is_integer() else 2,
            )
            box.setSingleStep(1.0 if high > 5 else 0.05)
            box.valueChanged.connect(self._take)
            line, column = number // COLUMNS, 2 * (number % COLUMNS)
            grid.addWidget(self.words(name), line, column)
            grid.addWidget(box, line, column + 1)
            self.boxes[key] = box
        self.form.addRow(within)
        self.share = self.number("Hard from this share of the reference lift", 30, 100, " %")
        self.share.valueChanged.connect(self._take_hard)
        self.form.addRow("Hard repetitions from", self.share)
        self.lift.setFont(font(12))
        self.lift.setAccessibleName("Reference lift of hard repetitions")
        for entry in catalogue().values():
            if entry.load_range_kg()[1] > 0.0:
                self.lift.addItem(entry.name, entry.id)
        self.lift.activated.connect(self._take_hard)
        self.form.addRow("of", self.lift)
        usual = self.press("Back to the usual", "Every number as it ships.")
        usual.clicked.connect(self._back)
        self.form.addRow(usual)

    def show_values(self) -> None:
        """Take over what the bench holds."""
        if not self.boxes:
            self._make()
        bench = self.session.bench
        rules = rules_with(bench.advice_rules)
        for key, box in self.boxes.items():
            with QSignalBlocker(box):
                box.setValue(float(getattr(rules, key)))
        with QSignalBlocker(self.share):
            self.share.setValue(100.0 * bench.hard_share)
        self.lift.setCurrentIndex(max(self.lift.findData(bench.reference_lift), 0))

    def _take(self) -> None:
        values = {key: round(box.value(), 4) for key, box in self.boxes.items()}
        self.session.do(edits.set_advice_rules, values)
        self.changed.emit()

    def _take_hard(self) -> None:
        lift = str(self.lift.currentData() or REFERENCE)
        self.session.do(edits.set_hard, round(self.share.value() / 100.0, 4), lift)
        self.changed.emit()

    def _back(self) -> None:
        self.session.do(edits.set_advice_rules, {})
        self.session.do(edits.set_hard, HARD_SHARE, REFERENCE)
        self.show_values()
        self.changed.emit()
