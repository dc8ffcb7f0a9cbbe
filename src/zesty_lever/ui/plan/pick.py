"""A lift or drill to add: typed, found by name or gym word, taken with Enter."""

from __future__ import annotations

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QComboBox, QCompleter

from zesty_lever.exercises.catalogue import catalogue
from zesty_lever.plan.drills import drills
from zesty_lever.ui.kit.theme import font


class ExercisePick(QComboBox):
    """``picked`` (id): this one is to be added."""

    picked = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self.setFont(font(12))
        self.setEditable(True)
        self.setInsertPolicy(QComboBox.InsertPolicy.NoInsert)
        self.setAccessibleName("Add a lift or a drill")
        self.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        self.setMinimumContentsLength(10)
        self.setToolTip("Type part of a name; Enter adds it to the session.")
        self.names: dict[str, str] = {}
        for entry in catalogue().values():
            self.names[f"{entry.name} ({entry.gym})"] = entry.id
        for one in drills().values():
            self.names[f"{one.name} (drill)"] = one.id
        self.addItems(list(self.names))
        completer = QCompleter(list(self.names), self)
        completer.setFilterMode(Qt.MatchFlag.MatchContains)
        completer.setCaseSensitivity(Qt.CaseSensitivity.CaseInsensitive)
        self.setCompleter(completer)
        self.setCurrentIndex(-1)
        line = self.lineEdit()
        if line is not None:
            line.setPlaceholderText("add a lift or a drill …")
            line.returnPressed.connect(self._take)
        self.activated.connect(lambda _at: self._take())

    def _take(self) -> None:
        typed = self.currentText().strip()
        found = self.names.get(typed) or self._only(typed)
        if found is not None:
            self.picked.emit(found)
            self.setCurrentIndex(-1)
            self.clearEditText()

    def _only(self, typed: str) -> str | None:
        """What is meant where just one name holds what was typed, or one is it."""
        low = typed.lower()
        if not low:
            return None
        fits = [own for words, own in self.names.items() if low in words.lower()]
        begins = [own for words, own in self.names.items() if words.lower().startswith(low)]
        return fits[0] if len(fits) == 1 else begins[0] if begins else None
