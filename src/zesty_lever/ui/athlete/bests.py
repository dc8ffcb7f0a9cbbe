"""The athlete's best lifts as they were done, what they say of strength, and curves that were measured."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Any

from PySide6.QtCore import Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QFileDialog,
    QHBoxLayout,
    QListWidget,
    QSpinBox,
    QVBoxLayout,
    QWidget,
)

from zesty_lever.analysis import Result
from zesty_lever.bench import edits
from zesty_lever.coaching.who import tells_bests
from zesty_lever.exercises.catalogue import catalogue
from zesty_lever.problems import CaseError
from zesty_lever.ui.athlete.strength_bars import StrengthBars
from zesty_lever.ui.kit.controls import NumberRow, Wrapped, described, heading, push_button
from zesty_lever.ui.kit.keeper import Keeper
from zesty_lever.ui.kit.theme import Theme, font
from zesty_lever.ui.session import Session
from zesty_lever.wording.sentences import best_words, curve_words, strength_sentences

if TYPE_CHECKING:
    from zesty_lever.choosing.bests import Narrowing
    from zesty_lever.choosing.calibrate import Strength


class StrengthKeeper(Keeper):
    """What the kept bests say of the athlete's strength, what of them is asked about, and what to test next."""

    kind = "strength"

    def work(self, result: Result) -> object:
        from zesty_lever.choosing.bests import most_telling, strength_of

        case = result.case
        strength = strength_of(case.athlete, case.school)
        next_one = (
            most_telling(strength, case.school)
            if strength.calibrated and tells_bests(case.athlete)
            else None
        )
        return strength, next_one


class _BestList(QListWidget):
    """Bests; Delete or Enter takes one off."""

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Delete and self.currentRow() >= 0:
            self.itemActivated.emit(self.currentItem())
        else:
            super().keyPressEvent(event)


class BestsPanel(QWidget):
    """Load, repetitions, whether more would have gone; the list; bars; the next best worth testing."""

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__()
        self.session = session
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        column.addWidget(heading("Best loads"))
        self.done = NumberRow(
            described("done", "Done", "set to the limit", "kg", 0, 500, 2.5, "Load of the set."),
            lambda _: None,
        )
        column.addWidget(self.done)
        column.addLayout(self._how())
        self.list = _BestList()
        self.list.setFont(font(12))
        self.list.setMaximumHeight(84)
        self.list.setAccessibleName("Best loads")
        self.list.setToolTip("Delete, Enter or a double click takes one off.")
        self.list.itemActivated.connect(lambda _: self._drop(self.list.currentRow()))
        column.addWidget(self.list)
        self.bars = StrengthBars(theme)
        self.bars.hide()
        column.addWidget(self.bars)
        self.said = Wrapped(wordWrap=True)
        self.said.setObjectName("faint")
        self.said.setFont(font(12))
        column.addWidget(self.said)
        column.addLayout(self._measured())
        self.keeper = StrengthKeeper(session, self)
        self.keeper.known.connect(self.say)
        self.refresh()

    def _how(self) -> QHBoxLayout:
        """Which lift, how often, whether more would have gone."""
        row = QHBoxLayout()
        self.lift = QComboBox()
        self.lift.setFont(font(12))
        self.lift.setSizeAdjustPolicy(
            QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon
        )
        self.lift.setMinimumContentsLength(8)
        self.lift.setAccessibleName("Lift")
        self.lift.setToolTip("The lift that the load was done in.")
        for entry in catalogue().values():
            if entry.load and entry.load_range_kg()[1] > 0:
                self.lift.addItem(entry.name, entry.id)
        self.lift.setCurrentIndex(self.lift.findData("back-squat-high-bar"))
        self.reps = QSpinBox(minimum=1, maximum=20, value=1, prefix="× ")
        self.reps.setFont(font(12))
        self.reps.setAccessibleName("Repetitions")
        self.reps.setToolTip("Repetitions done; 1 is a single.")
        self.more = QCheckBox("more left")
        self.more.setFont(font(12))
        self.more.setAccessibleName("More would have gone")
        self.more.setToolTip("Ticked: at least this; more would have gone.")
        keep = push_button("Keep", "Keep the set as it was done; with 0 the lift's single goes.")
        keep.clicked.connect(self._keep)
        row.addWidget(self.lift, 1)
        for widget in (self.reps, self.more, keep):
            row.addWidget(widget)
        return row

    def _measured(self) -> QHBoxLayout:
        row = QHBoxLayout()
        self.curves = Wrapped(wordWrap=True)
        self.curves.setFont(font(12))
        row.addWidget(self.curves, 1)
        self.importer = push_button(
            "Measured strength …",
            "Peak moments by angle from a CSV file: joint (hip, knee, back), angle_deg, moment_Nm, or load_kg with "
            "lever_m; sd_Nm where known. They replace the table for that joint.",
        )
        self.importer.clicked.connect(self._ask_curves)
        self.forget = push_button("Forget", "Go back to the tables.")
        self.forget.clicked.connect(
            lambda: self.session.do(
                edits.change_athlete, "Forget measured strength", strength_curves={}
            )
        )
        row.addWidget(self.importer)
        row.addWidget(self.forget)
        return row

    # --- edits -------------------------------------------------------------------------------

    def _keep(self) -> None:
        """Keep a set as it was done: a single as the lift's best, else with its repetitions."""
        athlete = self.session.bench.athlete
        load = round(self.done.spin.value() / self.done.spin.factor, 2)
        name = str(self.lift.currentData())
        reps, more = self.reps.value(), self.more.isChecked()
        if reps == 1 and not more:
            loads = dict(athlete.best_loads_kg)
            if load > 0.0:
                loads[name] = load
            else:
                loads.pop(name, None)
            self.session.do(edits.change_athlete, "Best load", best_loads_kg=loads)
            return
        best = {"variation": name, "load_kg": load, "reps": reps, "at_least": more}
        others = [
            b.as_dict()
            for b in athlete.bests
            if (b.variation, b.reps, b.at_least) != (name, reps, more)
        ]
        kept = [*others, best] if load > 0.0 else others
        self.session.do(edits.change_athlete, "Best set", bests=kept)

    def _drop(self, row: int) -> None:
        athlete = self.session.bench.athlete
        singles = list(athlete.best_loads_kg)
        if 0 <= row < len(singles):
            loads = {k: v for k, v in athlete.best_loads_kg.items() if k != singles[row]}
            self.session.do(edits.change_athlete, "Remove a best", best_loads_kg=loads)
        elif row >= 0:
            kept = [b.as_dict() for i, b in enumerate(athlete.bests) if i != row - len(singles)]
            self.session.do(edits.change_athlete, "Remove a best", bests=kept)

    def _ask_curves(self) -> None:
        path, _ = QFileDialog.getOpenFileName(self, "Measured strength", "", "Tables (*.csv)")
        if path:
            self.take_curves(Path(path))

    def take_curves(self, path: Path) -> None:
        """Take measured curves in; what is wrong with the file is said."""
        from zesty_lever.io.strength_curves import read_curves

        try:
            found = read_curves(path)
        except (CaseError, OSError) as error:
            self.session.announced.emit(f"{path.name} was not taken in: {error}")
            return
        own = self.session.bench.athlete.strength_curves
        curves: dict[str, Any] = {str(joint): points for joint, points in own.items()}
        curves |= found
        known = {joint: [p.as_dict() for p in points] for joint, points in curves.items()}
        self.session.do(edits.change_athlete, "Measured strength", strength_curves=known)

    # --- showing -----------------------------------------------------------------------------

    def refresh(self) -> None:
        """Show what is kept."""
        athlete = self.session.bench.athlete
        words = [best_words(best) for best in athlete.known_bests]
        if words != [self.list.item(i).text() for i in range(self.list.count())]:
            self.list.clear()
            self.list.addItems(words)
        self.list.setVisible(bool(words))
        self.curves.setText(curve_words(athlete))
        self.forget.setVisible(bool(athlete.strength_curves))
        if not words and not athlete.strength_curves:
            self.bars.show_rows({})
            self.said.setText("None kept yet: loads start light, by body mass.")

    def show_units(self) -> None:
        """Take over the units in use."""
        self.done.show_units()
        self.refresh()
        self.say(self.keeper.found)

    def say(self, found: object) -> None:
        """Bars and words of what the bests say; an ellipsis while it is worked out."""
        if not isinstance(found, tuple):
            self.said.setText("…")
            return
        strength: Strength = found[0]
        next_one: Narrowing | None = found[1]
        rows: dict[str, tuple[float, float, float]] = {}
        if strength.calibrated or strength.athlete.strength_curves:
            from zesty_lever.choosing.bests import against_usual

            rows = against_usual(strength)
        self.bars.show_rows(rows)
        words = strength_sentences(strength, next_one)
        self.said.setText(words or "None kept yet: loads start light, by body mass.")
