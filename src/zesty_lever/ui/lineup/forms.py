"""What a line-up's numbers rest on, each behind a button: errors of measuring, typical loads."""

from __future__ import annotations

from PySide6.QtCore import QSignalBlocker
from PySide6.QtWidgets import QDoubleSpinBox, QFormLayout, QSpinBox

from zesty_lever.bench import edits
from zesty_lever.choosing.loading import USUAL
from zesty_lever.choosing.scatter import LARGEST_ERRORS
from zesty_lever.exercises.catalogue import variation
from zesty_lever.ui.kit.form_button import FormButton
from zesty_lever.ui.kit.theme import font
from zesty_lever.ui.session import Session
from zesty_lever.wording.units import UNITS

# Name, unit of the file, and what follows the number instead of that unit's own label.
ERROR_ROWS = {
    "angle_deg": ("Angles", "deg", ""),
    "offset_m": ("Tape and load place", "m", ""),
    "length": ("Segment lengths", "", ""),
    "mass": ("Segment masses", "", ""),
    "pressure": ("Pressure point", "", " % of the foot"),
}


def _shown(key: str) -> tuple[float, str]:
    """How many of the unit shown make one of the core's, and what follows the number."""
    label, factor, _ = UNITS.shown(ERROR_ROWS[key][1])
    return factor, ERROR_ROWS[key][2] or f" {label}"


class ErrorsButton(FormButton):
    """How well things are measured."""

    def __init__(self, session: Session) -> None:
        super().__init__(
            "Errors", "How well things are measured: what the intervals rest on.", session
        )
        self.sizes: dict[str, QDoubleSpinBox] = {}
        for key, (name, _, _) in ERROR_ROWS.items():
            factor, suffix = _shown(key)
            box = self.number(f"Error of {name}", 0.0, factor * LARGEST_ERRORS[key], suffix, 1)
            box.valueChanged.connect(self._take)
            self.form.addRow(name, box)
            self.sizes[key] = box
        words = "±3°, ±2 cm, ±3 %, ±10 %, ±4 % of the foot (common practice)."
        usual = self.press("Back to the usual", UNITS.in_words(words))
        usual.clicked.connect(self._usual)
        self.form.addRow(usual)
        self.show_values()

    def show_values(self) -> None:
        for key, box in self.sizes.items():
            factor, suffix = _shown(key)
            with QSignalBlocker(box):
                box.setSuffix(suffix)
                box.setRange(0.0, factor * LARGEST_ERRORS[key])
                box.setValue(getattr(self.session.bench.sizes, key) * factor)

    def _take(self) -> None:
        self.session.do(
            edits.set_errors,
            {k: round(b.value() / _shown(k)[0], 6) for k, b in self.sizes.items()},
        )

    def _usual(self) -> None:
        self.session.do(edits.set_errors, {})
        self.show_values()


class TypicalButton(FormButton):
    """Rules of thumb for typical loads, for the set-ups in the line-up; repetitions a set."""

    def __init__(self, session: Session) -> None:
        super().__init__(
            "Rules", "How typical loads are found, and how many repetitions make a set.", session
        )
        self.working = self.number("Working share of the best, per cent", 30.0, 100.0, " %")
        self.working.valueChanged.connect(self._take)
        self.reps = QSpinBox(minimum=1, maximum=50, suffix=" reps")
        self.reps.setKeyboardTracking(False)
        self.reps.setFont(font(12))
        self.reps.setAccessibleName("Repetitions a set")
        self.reps.valueChanged.connect(lambda reps: session.do(edits.set_reps, reps))
        self.form.addRow("A set has", self.reps)
        self.form.addRow("Typical load", self.working)
        self.form.addRow(
            self.words(
                "of the best in the variation itself where it is known; else of the best that is\n"
                "expected of the others. A share of the best high-bar back squat that you change\n"
                "here counts instead (common practice, no source):"
            )
        )
        self.shares: dict[str, QDoubleSpinBox] = {}
        self._own = QFormLayout()
        self.form.addRow(self._own)
        usual = self.press("Back to the usual", "The working share and all shares as they ship.")
        usual.clicked.connect(self._usual)
        self.form.addRow(usual)
        self.show_values()

    def show_values(self) -> None:
        bench = self.session.bench
        with QSignalBlocker(self.working), QSignalBlocker(self.reps):
            self.working.setValue(100.0 * bench.working_share)
            self.reps.setValue(bench.reps_a_set)
        while self._own.rowCount():
            self._own.removeRow(0)
        self.shares = {}
        for name in dict.fromkeys(e.variation for e in bench.lineup):
            share = bench.rules.share_of(name)
            if share is None:
                self._own.addRow(
                    variation(name).name, self.words("no rule: the catalogue's default")
                )
                continue
            box = self.number(
                f"{variation(name).name}: share of the best high-bar back squat", 5.0, 300.0, " %"
            )
            box.setValue(100.0 * share)
            box.valueChanged.connect(self._take)
            self._own.addRow(variation(name).name, box)
            self.shares[name] = box

    def _take(self) -> None:
        bench = self.session.bench
        shares = {
            **bench.lift_shares,
            **{n: round(b.value() / 100.0, 4) for n, b in self.shares.items()},
        }
        kept = {n: v for n, v in shares.items() if v != USUAL.share_of(n)}
        self.session.do(edits.set_typical_rules, round(self.working.value() / 100.0, 4), kept)

    def _usual(self) -> None:
        self.session.do(edits.set_typical_rules, USUAL.working, {})
        self.show_values()
