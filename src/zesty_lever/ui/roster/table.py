"""The team as a table: who, what needs attention, what was and what is next, this week beside the last four."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QModelIndex, QPersistentModelIndex, QRectF, QSignalBlocker, Qt, Signal
from PySide6.QtGui import QColor, QKeyEvent, QPainter
from PySide6.QtWidgets import (
    QHeaderView,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QTableWidgetItem,
)

from zesty_lever.joints import COACH_JOINTS
from zesty_lever.records.views import RosterRow
from zesty_lever.ui.kit.controls import plain_tip
from zesty_lever.ui.kit.row_table import RowTable
from zesty_lever.ui.kit.theme import Theme
from zesty_lever.ui.kit.zoom import ZOOM
from zesty_lever.ui.paint.week_bars import paint_ratios
from zesty_lever.wording.records import STAGE_WORDS, against_words, day_short

COLUMNS = ("Athlete", "Needs attention", "Next", "Last", "This week, against the last four")
ROW_PX, BARS = 64, len(COLUMNS) - 1


class _Bars(QStyledItemDelegate):
    """Paints the last column: three joints beside the mean of the last four weeks."""

    def __init__(self, table: RosterTable) -> None:
        super().__init__(table)
        self.table = table

    def paint(
        self,
        painter: QPainter,
        option: QStyleOptionViewItem,
        index: QModelIndex | QPersistentModelIndex,
    ) -> None:
        area: QRectF = QRectF(option.rect)
        if index.row() in {i.row() for i in self.table.selectedIndexes()}:
            painter.fillRect(area, QColor(self.table.theme.well))
        painter.save()
        painter.scale(ZOOM.factor, ZOOM.factor)
        inner = QRectF(
            area.left() / ZOOM.factor,
            area.top() / ZOOM.factor,
            area.width() / ZOOM.factor,
            area.height() / ZOOM.factor,
        )
        row = self.table.rows[index.row()]
        paint_ratios(
            painter, self.table.theme, inner.adjusted(8, 6, -8, -6), row.against, named=True
        )
        painter.restore()


class RosterTable(RowTable):
    """``chosen`` (id): another athlete is looked at; ``entered`` (id): Enter or a double click."""

    chosen = Signal(object)
    entered = Signal(object)

    def __init__(self, theme: Theme) -> None:
        super().__init__("The team, who needs attention first", COLUMNS, 13)
        self.theme = theme
        self.rows: Sequence[RosterRow] = ()
        head = self.horizontalHeader()
        head.setSectionResizeMode(QHeaderView.ResizeMode.Stretch)
        head.setSectionResizeMode(BARS, QHeaderView.ResizeMode.Fixed)
        self.setColumnWidth(BARS, ZOOM.px(230))
        self.setItemDelegateForColumn(BARS, _Bars(self))
        self.itemSelectionChanged.connect(self._tell)
        self.cellDoubleClicked.connect(
            lambda row, _column: self.entered.emit(self.rows[row].person.id)
        )

    def fill(self, rows: Sequence[RosterRow], today: int, wanted: int | None) -> None:
        """Show rows; the athlete wanted (else the first) is chosen."""
        with QSignalBlocker(self):
            self.rows = rows
            self.setRowCount(len(rows))
            for line, row in enumerate(rows):
                self.setRowHeight(line, ZOOM.px(ROW_PX))
                for column, words in enumerate(_cells(row, today)):
                    item = QTableWidgetItem(words)
                    item.setToolTip(plain_tip(words) if words else "")
                    if column == 1 and row.stops:
                        item.setForeground(QColor(self.theme.warn))
                    self.setItem(line, column, item)
            ids = [row.person.id for row in rows]
            if rows:
                self.selectRow(ids.index(wanted) if wanted in ids else 0)
        self._tell()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self.picked is not None:
            self.entered.emit(self.picked.person.id)
            return
        super().keyPressEvent(event)

    @property
    def picked(self) -> RosterRow | None:
        """The athlete that is chosen."""
        found = self.selectedIndexes()
        return self.rows[found[0].row()] if found and found[0].row() < len(self.rows) else None

    def _tell(self) -> None:
        self.chosen.emit(None if self.picked is None else self.picked.person.id)

    def set_theme(self, theme: Theme) -> None:
        """Repaint in another theme."""
        self.theme = theme
        for line, row in enumerate(self.rows):
            item = self.item(line, 1)
            if item is not None and row.stops:
                item.setForeground(QColor(theme.warn))
        self.viewport().update()


def _cells(row: RosterRow, today: int) -> tuple[str, ...]:
    """Texts of a row; the bars' column is spoken."""
    person = row.person
    stage = STAGE_WORDS[person.stage] + (", away" if person.away else "")
    after = "nothing planned"
    if row.next is not None:
        after = f"{day_short(row.next.day, today)}\n{row.next.session.name or 'Session'}"
    before = "nothing yet"
    if row.last is not None:
        before = f"{day_short(row.last.day, today)}\n{row.last.session.name or 'Session'}"
    spoken = "; ".join(
        against_words(g, row.against[g.key]) for g in COACH_JOINTS if g.key in row.against
    )
    return f"{person.name}\n{stage}", "\n".join(row.attention), after, before, spoken
