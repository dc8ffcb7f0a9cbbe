"""The difference table of a line-up: a column for each set-up, under its figure; a row for each quantity."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QModelIndex, QPersistentModelIndex, QSignalBlocker, Qt, Signal
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import (
    QAbstractItemView,
    QHeaderView,
    QLineEdit,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QTableWidget,
    QTableWidgetItem,
    QWidget,
)

from zesty_lever.bench.model import MOST_NOTE, Bench
from zesty_lever.choosing.compare import Compared, Failed, Table
from zesty_lever.ui.kit.controls import plain_tip
from zesty_lever.ui.kit.theme import font
from zesty_lever.ui.lineup.figures import NAMES_WIDE
from zesty_lever.wording.lineup_table import TIPS, quantities, table_columns
from zesty_lever.wording.sentences import lined_up_name


class _NoteEditor(QStyledItemDelegate):
    """Stops typing at the longest note that is kept."""

    def createEditor(
        self,
        parent: QWidget,
        option: QStyleOptionViewItem,
        index: QModelIndex | QPersistentModelIndex,
    ) -> QWidget:
        editor = QLineEdit(parent)
        editor.setMaxLength(MOST_NOTE)
        return editor


class DifferenceTable(QTableWidget):
    """Peaks with intervals and differences to the first. ``noted`` (index, text): a note was typed."""

    noted = Signal(int, str)

    def __init__(self) -> None:
        super().__init__()
        self.setFont(font(12))
        self.setWordWrap(True)
        self.setAccessibleName("Differences to the first set-up, with 90 % intervals")
        self.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectColumns)
        self.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setVerticalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.horizontalHeader().hide()
        self.horizontalHeader().setSectionResizeMode(QHeaderView.ResizeMode.Stretch)
        self.verticalHeader().setFixedWidth(NAMES_WIDE)
        self.verticalHeader().setDefaultAlignment(
            Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
        )
        self.setItemDelegate(_NoteEditor(self))
        # Tab leaves the table; the arrows move in it.
        self.setTabKeyNavigation(False)
        self.cellChanged.connect(self._changed)

    @property
    def quantities(self) -> list[str]:
        """Names of the rows."""
        return [
            item.text()
            for r in range(self.rowCount())
            if (item := self.verticalHeaderItem(r)) is not None
        ]

    def cell(self, quantity: str, number: int) -> str:
        """Text of a quantity at a set-up."""
        item = self.item(self.quantities.index(quantity), number)
        return "" if item is None else item.text()

    def _lines_in(self, line: int) -> int:
        """Most lines of words in a row."""
        items = (self.item(line, number) for number in range(self.columnCount()))
        return max((item.text().count("\n") + 1 for item in items if item is not None), default=1)

    def chosen(self) -> int:
        """The chosen set-up (0: the first)."""
        return max(self.currentColumn(), 0)

    def fill(
        self,
        compared: Sequence[Compared | Failed],
        found: Table,
        bench: Bench,
    ) -> None:
        """Show a comparison; the chosen set-up stays chosen."""
        chosen = self.chosen()
        columns = table_columns(compared, found, bench)
        names = quantities(columns)
        with QSignalBlocker(self):
            self.setRowCount(len(names))
            self.setColumnCount(len(compared))
            beside = [item.case for item in compared]
            self.setHorizontalHeaderLabels([lined_up_name(case, beside) for case in beside])
            for line, name in enumerate(names):
                head = QTableWidgetItem(name)
                head.setToolTip(TIPS.get(name, ""))
                self.setVerticalHeaderItem(line, head)
                for number, column in enumerate(columns):
                    text = column.get(name, "")
                    cell = QTableWidgetItem(text)
                    cell.setTextAlignment(Qt.AlignmentFlag.AlignCenter)
                    cell.setToolTip(plain_tip(text) if text else "")
                    if name != "Note":
                        cell.setFlags(cell.flags() & ~Qt.ItemFlag.ItemIsEditable)
                    self.setItem(line, number, cell)
            if columns:
                self.setCurrentCell(0, min(chosen, len(columns) - 1))
        self._fit()

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        if event.size().width() != event.oldSize().width():
            self._fit()

    def _fit(self) -> None:
        """Rows as tall as their words, the table no taller than its rows: the figures get what is left."""
        self.resizeRowsToContents()
        for line in range(self.rowCount()):
            self.setRowHeight(line, self.rowHeight(line) + (5 if self._lines_in(line) > 1 else 0))
        self.setMaximumHeight(
            self.verticalHeader().length() + 2 * self.frameWidth() if self.rowCount() else 16777215
        )

    def as_text(self) -> str:
        """The table with tabs between cells and lines between rows, names first."""
        heads = [
            variation_name.text()
            for c in range(self.columnCount())
            if (variation_name := self.horizontalHeaderItem(c)) is not None
        ]
        lines = ["\t".join(["", *heads])]
        for name in self.quantities:
            cells = (
                self.cell(name, number).replace("\n", "; ").replace("\N{NO-BREAK SPACE}", " ")
                for number in range(self.columnCount())
            )
            lines.append("\t".join([name, *cells]))
        return "\n".join(lines)

    def _changed(self, line: int, number: int) -> None:
        item = self.item(line, number)
        if item is not None and self.quantities[line] == "Note":
            self.noted.emit(number, item.text())
