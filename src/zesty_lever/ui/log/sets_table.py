"""The sets of one session: as done, corrected ones visible, each beside last time."""

from __future__ import annotations

from PySide6.QtCore import QSignalBlocker, Signal
from PySide6.QtWidgets import QHeaderView, QTableWidgetItem

from zesty_lever.log.entry import Entry
from zesty_lever.log.trends import against_last
from zesty_lever.records.views import LogView
from zesty_lever.ui.kit.controls import plain_tip
from zesty_lever.ui.kit.row_table import RowTable
from zesty_lever.wording.records import corrected_words, exercise_words, seen_words, set_words
from zesty_lever.wording.units import minus

COLUMNS = ("Exercise", "Set", "Done", "Left", "Seen", "Against last time")
STRETCHED = (0, 4, 5)


class SetsTable(RowTable):
    """``chosen`` (entry or None): another set is looked at."""

    chosen = Signal(object)

    def __init__(self) -> None:
        super().__init__("Sets of this session", COLUMNS, 12)
        self.entries: list[Entry] = []
        head = self.horizontalHeader()
        for column in range(len(COLUMNS)):
            mode = QHeaderView.ResizeMode
            head.setSectionResizeMode(
                column, mode.Stretch if column in STRETCHED else mode.ResizeToContents
            )
        self.itemSelectionChanged.connect(lambda: self.chosen.emit(self.picked))

    @property
    def picked(self) -> Entry | None:
        """The set that is chosen."""
        found = self.selectedIndexes()
        row = found[0].row() if found else -1
        return self.entries[row] if 0 <= row < len(self.entries) else None

    def fill(self, view: LogView | None, session: int | None) -> None:
        """Show the sets of a session; the set chosen (or what replaced it) stays chosen."""
        before = self.picked
        with QSignalBlocker(self):
            self.entries = []
            if view is None or session is None:
                self.setRowCount(0)
                return
            compared = against_last(view.entries, session)
            self.entries = [one.now for one in compared]
            self.setRowCount(len(compared))
            replaced = {e.replaces: e for e in view.every if e.replaces is not None}
            was = {by.id: e for e in view.every if (by := replaced.get(e.id)) is not None}
            for line, one in enumerate(compared):
                texts = self._texts(view, one.now, was.get(one.now.id), one.words)
                for column, words in enumerate(texts):
                    item = QTableWidgetItem(words)
                    item.setToolTip(plain_tip(words) if words else "")
                    self.setItem(line, column, item)
            self.resizeRowsToContents()
            self._choose_again(before)
        self.chosen.emit(self.picked)

    @staticmethod
    def _texts(view: LogView, entry: Entry, was: Entry | None, against: str) -> tuple[str, ...]:
        seen = seen_words(entry)
        if was is not None:
            told = corrected_words(was, entry, view.coaches)
            seen = f"{seen}; {told}" if seen else told
        left = "" if entry.effort_left is None else f"{entry.effort_left:g}"
        return (
            exercise_words(entry.name),
            str(entry.number),
            set_words(entry),
            left,
            seen,
            minus(against) if entry.setup is not None else "",
        )

    def _choose_again(self, before: Entry | None) -> None:
        keys = [(e.item, e.number, e.side, e.name) for e in self.entries]
        if before is not None:
            key = (before.item, before.number, before.side, before.name)
            if key in keys:
                self.selectRow(keys.index(key))
