"""The difference table of a line-up: a column for each set-up, under its figure; a row for each quantity."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np
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

from zesty_lever.analysis import Result
from zesty_lever.case import Athlete
from zesty_lever.compare import Compared, Row
from zesty_lever.exercises.catalogue import variation
from zesty_lever.motion.pose import JOINTS
from zesty_lever.records.bench import MOST_NOTE, Bench
from zesty_lever.ui.number import UNITS
from zesty_lever.ui.painters.levers import minus
from zesty_lever.ui.painters.lineup import NAMES_WIDE, TOLD
from zesty_lever.ui.theme import font

# The floor's part of an interval is told where measuring alone leaves clearly less.
TOLD_APART = 0.85
MOMENTS = {joint: f"{word.capitalize()}, N·m" for word, joint in TOLD}
TIPS = {
    **dict.fromkeys(MOMENTS.values(), "Peak with its 90 % interval; then the difference to the first set-up, judged, with its own interval."),
    "Compression, kN": "Largest push along the spine at the lowest disc; in brackets against the first set-up.",
    "Shear, kN": "Largest push across the spine at the lowest disc; in brackets against the first set-up.",
    "Knee : hip": "Ratio of the two peaks.",
    "Hip hardest at": "Where in the range the hip's peak falls: 0 % is the start, 100 % the turn.",
    "Lockout : peak": "Share of the hip's peak that is left at lockout.",
    "Hip impulse, N·m·s": "Moment times time at the tempo chosen: a repetition, and a set of as many as chosen.",
    "Hip frontal, N·m": "Largest sideways (frontal) moment at the hip.",
    "Front share": "Share of the weight on the front foot at the turn.",
}  # fmt: skip

ORDER = ("Load", *TIPS, "Athlete", "Note")


class _NoteEditor(QStyledItemDelegate):
    """Stops typing at the longest note that is kept."""

    def createEditor(
        self, parent: QWidget, option: QStyleOptionViewItem, index: QModelIndex | QPersistentModelIndex
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
        self.verticalHeader().setDefaultAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
        self.setItemDelegate(_NoteEditor(self))
        self.cellChanged.connect(self._changed)

    @property
    def quantities(self) -> list[str]:
        """Names of the rows."""
        return [item.text() for r in range(self.rowCount()) if (item := self.verticalHeaderItem(r)) is not None]

    def cell(self, quantity: str, number: int) -> str:
        """Text of a quantity at a set-up."""
        item = self.item(self.quantities.index(quantity), number)
        return "" if item is None else item.text()

    def cell_text(self, line: int) -> str:
        """Text of a row's first set-up."""
        item = self.item(line, 0)
        return "" if item is None else item.text()

    def chosen(self) -> int:
        """The chosen set-up (0: the first)."""
        return max(self.currentColumn(), 0)

    def fill(self, compared: Sequence[Compared], rows: Sequence[Row], bench: Bench) -> None:
        """Show a comparison; the chosen set-up stays chosen."""
        chosen = self.chosen()
        columns = [self._column(number, compared, rows, bench) for number in range(len(compared))]
        names = [name for name in ORDER if any(name in column for column in columns)]
        with QSignalBlocker(self):
            self.setRowCount(len(names))
            self.setColumnCount(len(compared))
            self.setHorizontalHeaderLabels([variation(c.case.variation).name for c in compared])
            for line, name in enumerate(names):
                head = QTableWidgetItem(name)
                head.setToolTip(TIPS.get(name, ""))
                self.setVerticalHeaderItem(line, head)
                for number, column in enumerate(columns):
                    text = column.get(name, "")
                    cell = QTableWidgetItem(text)
                    cell.setTextAlignment(Qt.AlignmentFlag.AlignCenter)
                    cell.setToolTip(text)
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
            self.setRowHeight(line, self.rowHeight(line) + (5 if "\n" in self.cell_text(line) else 0))
        self.setMaximumHeight(self.verticalHeader().length() + 2 * self.frameWidth() if self.rowCount() else 16777215)

    def as_text(self) -> str:
        """The table with tabs between cells and lines between rows, names first."""
        heads = [variation_name.text() for c in range(self.columnCount())
                 if (variation_name := self.horizontalHeaderItem(c)) is not None]  # fmt: skip
        lines = ["\t".join(["", *heads])]
        for name in self.quantities:
            cells = (self.cell(name, number).replace("\n", "; ").replace("\N{NO-BREAK SPACE}", " ") for number in range(self.columnCount()))
            lines.append("\t".join([name, *cells]))
        return "\n".join(lines)

    def _changed(self, line: int, number: int) -> None:
        item = self.item(line, number)
        if item is not None and self.quantities[line] == "Note":
            self.noted.emit(number, item.text())

    def _column(
        self, number: int, compared: Sequence[Compared], rows: Sequence[Row], bench: Bench
    ) -> Mapping[str, str]:
        item, entry = compared[number], bench.lineup[number]
        athlete: Athlete = item.case.athlete
        ends = {"Athlete": athlete.name or "Athlete", "Note": entry.note}
        takes_load = bool(variation(item.case.variation).load)
        load = UNITS.text(item.case.load_kg or 0.0, "kg") if takes_load else "none"
        top = {"Load": f"{load}, pinned" if entry.pinned else load}
        if item.result is None or item.error is not None:
            return {**top, **dict.fromkeys(MOMENTS.values(), "not possible"), **ends}
        own = {r.joint: r for r in rows if r.case == item.name}
        moments = {name: _moment(own[joint], first=number == 0) for joint, name in MOMENTS.items()}
        base = compared[0].result
        assert base is not None
        return {**top, **moments, **_others(item.result, base, bench.reps_a_set, first=number == 0), **ends}


def _moment(row: Row, *, first: bool) -> str:
    """Peak with interval, what measuring alone leaves, and the judged difference."""
    text = f"{row.peak_Nm:.0f}"
    if row.peak_low_Nm is not None and row.peak_high_Nm is not None:
        text += f" ({_span(row.peak_low_Nm, row.peak_high_Nm)})"
        assert row.held_low_Nm is not None and row.held_high_Nm is not None
        if row.held_high_Nm - row.held_low_Nm < TOLD_APART * (row.peak_high_Nm - row.peak_low_Nm):
            text += f"\nmeasuring {_span(row.held_low_Nm, row.held_high_Nm)}"
    if first:
        return minus(f"{text}\nbaseline")
    known = row.difference_low_Nm is not None and row.difference_high_Nm is not None
    gap = f" ({_span(row.difference_low_Nm or 0.0, row.difference_high_Nm or 0.0)})" if known else ""
    words = f"{row.judgement} " if row.judgement else ""
    return minus(f"{text}\n{words}{row.difference_Nm:+.0f}{gap}")


def _span(low: float, high: float) -> str:
    """Two ends that stay on one line."""
    return f"{low:.0f} to {high:.0f}".replace(" ", "\N{NO-BREAK SPACE}")


def _others(result: Result, base: Result, reps: int, *, first: bool) -> dict[str, str]:
    """What has no interval: discs, ratios, where, impulse, sideways part, front share."""
    summary, moments = result.summary, result.moments
    assert summary is not None and moments is not None and result.disc is not None and base.disc is not None
    found = {}
    for name, key in (("Compression, kN", "compression_N"), ("Shear, kN", "shear_N")):
        own, other = (float(r.disc[key].max()) / 1000.0 for r in (result, base) if r.disc is not None)
        found[name] = minus(f"{own:.1f}" if first else f"{own:.1f} ({own - other:+.1f})")
    hip, knee = summary["hip_right"], summary["knee_right"]
    found["Knee : hip"] = minus(f"{knee.peak_Nm / hip.peak_Nm:.2f}") if abs(hip.peak_Nm) > 5.0 else "hip near 0"
    found["Hip hardest at"] = f"{100.0 * hip.at_progress:.0f} %"
    found["Lockout : peak"] = minus(f"{hip.lockout_to_peak:.2f}")
    found["Hip impulse, N·m·s"] = minus(f"{hip.impulse_Nms:.0f} a rep, {reps * hip.impulse_Nms:.0f} a set")
    found["Hip frontal, N·m"] = f"{float(np.abs(moments.abduction[JOINTS.index('hip_right')]).max()):.0f}"
    if result.contacts is not None and variation(result.case.variation).builder == "split":
        found["Front share"] = f"{100.0 * float(result.contacts.share[result.timeline.bottom]):.0f} %"
    return found
