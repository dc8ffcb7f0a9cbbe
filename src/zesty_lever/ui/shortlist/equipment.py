"""What of the catalogue's equipment this gym has: a checklist kept with the bench."""

from __future__ import annotations

from PySide6.QtCore import QSignalBlocker
from PySide6.QtWidgets import QCheckBox, QGridLayout, QWidget

from zesty_lever.bench import edits
from zesty_lever.exercises.search import kinds_of_equipment
from zesty_lever.ui.kit.form_button import FormButton
from zesty_lever.ui.kit.theme import font
from zesty_lever.ui.session import Session

COLUMNS = 3


class EquipmentButton(FormButton):
    """Ticked is at hand; the button says how much is missing."""

    def __init__(self, session: Session) -> None:
        super().__init__(
            "Equipment", "Tick what this gym has; what needs something else is ruled out.", session
        )
        self.kinds: dict[str, QCheckBox] = {}
        session.changed.connect(self._name)
        self._name()

    def _make(self) -> None:
        within = QWidget()
        grid = QGridLayout(within)
        grid.setContentsMargins(0, 0, 0, 0)
        for number, kind in enumerate(sorted(kinds_of_equipment())):
            check = QCheckBox(kind)
            check.setFont(font(12))
            check.toggled.connect(self._take)
            grid.addWidget(check, number // COLUMNS, number % COLUMNS)
            self.kinds[kind] = check
        self.form.addRow(within)
        everything = self.press("Everything is there", "Tick all.")
        everything.clicked.connect(lambda: self.session.do(edits.set_equipment, ()))
        everything.clicked.connect(self.show_values)
        self.form.addRow(everything)

    def show_values(self) -> None:
        """Take over what the bench says."""
        if not self.kinds:
            self._make()
        gone = self.session.bench.gym_missing
        for kind, check in self.kinds.items():
            with QSignalBlocker(check):
                check.setChecked(kind not in gone)

    def _take(self) -> None:
        gone = tuple(kind for kind, check in self.kinds.items() if not check.isChecked())
        self.session.do(edits.set_equipment, gone)

    def _name(self) -> None:
        gone = self.session.bench.gym_missing
        words = f"without {', '.join(gone)}" if len(gone) in (1, 2) else f"{len(gone)} missing"
        self.setText(f"Equipment: {words if gone else 'all there'} ▾")
