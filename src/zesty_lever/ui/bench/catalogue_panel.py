"""The catalogue as a panel over the bench: search, family, direction, equipment; Enter picks."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QObject, Qt, Signal
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import (
    QComboBox,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QVBoxLayout,
    QWidget,
)

from zesty_lever.exercises.catalogue import catalogue
from zesty_lever.exercises.search import DIRECTIONS, SKILLS, fits, kinds_of_equipment
from zesty_lever.ui.kit.popover import Popover
from zesty_lever.ui.kit.theme import font

WIDTH, MARGIN = 520, 16


class CataloguePanel(Popover):
    """All variations; ``picked`` carries the id, ``picked_other`` one for the set-up that is not edited."""

    picked = Signal(str)
    picked_other = Signal(str)

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent, "floating")
        layout = QVBoxLayout(self)
        layout.setContentsMargins(14, 12, 14, 12)
        head = QLabel("Find a variation")
        head.setFont(font(15, bold=True))
        self.search = QLineEdit(placeholderText="name, gym word or equipment")
        self.search.setAccessibleName("Search the catalogue")
        self.search.setFont(font(14))
        self.search.textChanged.connect(self.refresh)
        self.search.installEventFilter(self)
        filters = QHBoxLayout()
        families = list(dict.fromkeys(v.family for v in catalogue().values()))
        self.family = self._filter("Family", families)
        self.direction = self._filter("Direction", list(DIRECTIONS))
        self.equipment = self._filter("Equipment", ["none", *kinds_of_equipment()])
        for box in (self.family, self.direction, self.equipment):
            filters.addWidget(box, 1)
        self.found = QListWidget()
        self.found.setAccessibleName("Variations found")
        self.found.setFont(font(13))
        self.found.setWordWrap(True)
        self.found.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.found.itemActivated.connect(self._pick)
        self.found.itemClicked.connect(self._pick)
        self.count = QLabel()
        self.count.setObjectName("faint")
        self.count.setFont(font(12))
        layout.addWidget(head)
        layout.addWidget(self.search)
        layout.addLayout(filters)
        layout.addWidget(self.found, 1)
        layout.addWidget(self.count)
        self.hide()

    def _filter(self, name: str, values: list[str]) -> QComboBox:
        box = QComboBox()
        box.setFont(font(12))
        box.setAccessibleName(name)
        box.setToolTip(f"Only this {name.lower()}.")
        box.addItem(f"{name}: any", "")
        for value in values:
            box.addItem(value.capitalize(), value)
        box.currentIndexChanged.connect(self.refresh)
        return box

    def open(self) -> None:
        """Show over the bench with the search ready to type into."""
        self.search.clear()
        self.settle()
        self.refresh()
        self.show()
        self.raise_()
        self.search.setFocus()

    def settle(self) -> None:
        """Along the left edge."""
        area = self.over.rect()
        self.setGeometry(
            MARGIN, MARGIN, min(WIDTH, area.width() - 2 * MARGIN), area.height() - 2 * MARGIN
        )

    def refresh(self) -> None:
        """List what fits the words and filters."""
        chosen = (
            self.search.text(),
            self.family.currentData(),
            self.direction.currentData(),
            self.equipment.currentData(),
        )
        self.found.clear()
        for entry in catalogue().values():
            if fits(entry, *chosen):
                needs = ", ".join(entry.equipment) or "nothing"
                item = QListWidgetItem(
                    f"{entry.name}  ·  {entry.gym}\n{needs}  ·  {entry.direction}  ·  "
                    f"{SKILLS[entry.skill]}"
                )
                item.setData(Qt.ItemDataRole.UserRole, entry.id)
                item.setToolTip(f"Load limited by {entry.limited_by}.")
                self.found.addItem(item)
        self.found.setCurrentRow(0)
        count = self.found.count()
        self.count.setText(
            f"{count} of {len(catalogue())} · Enter picks, Shift+Enter for the other set-up, Esc closes"
            if count
            else "Nothing has all of that: take a word or a filter away"
        )

    def _pick(self, item: QListWidgetItem, *, other: bool = False) -> None:
        self.hide()
        chosen = self.picked_other if other else self.picked
        chosen.emit(str(item.data(Qt.ItemDataRole.UserRole)))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape:
            self.hide()
            self.over.setFocus()
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self.found.currentItem():
            other = event.modifiers() & Qt.KeyboardModifier.ShiftModifier
            self._pick(self.found.currentItem(), other=bool(other))
        else:
            super().keyPressEvent(event)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if (
            watched is self.search
            and isinstance(event, QKeyEvent)
            and event.type() == QEvent.Type.KeyPress
            and event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down)
        ):
            step = 1 if event.key() == Qt.Key.Key_Down else -1
            row = self.found.currentRow() + step
            self.found.setCurrentRow(max(0, min(row, self.found.count() - 1)))
            return True
        return super().eventFilter(watched, event)
