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
from zesty_lever.bench.model import MOST_NOTE, Bench
from zesty_lever.cases.model import Athlete
from zesty_lever.choosing.compare import Compared, Failed, Judged, Row
from zesty_lever.choosing.uncertainty import OTHERS, nominal_of
from zesty_lever.exercises.catalogue import variation
from zesty_lever.joints import COACH_JOINTS
from zesty_lever.ui.kit.theme import font
from zesty_lever.ui.lineup.figures import NAMES_WIDE
from zesty_lever.wording.sentences import judgement_words
from zesty_lever.wording.units import UNITS, minus

MOMENTS = {group.shown: f"{group.word.capitalize()}, N·m" for group in COACH_JOINTS}
TIPS = {
    **dict.fromkeys(
        MOMENTS.values(),
        "Peak with its 90 % interval; then the difference to the first set-up, judged: as set up, then as done.",
    ),
    "Compression, kN": "Largest push along the spine at the lowest disc, 90 % interval; then against the first set-up.",
    "Shear, kN": "Largest push across the spine at the lowest disc, 90 % interval; then against the first set-up.",
    "Knee : hip": "Ratio of the two peaks.",
    "Hip hardest at": "Where in the range the hip's peak falls: 0 % is the start, 100 % the turn.",
    "Lockout : peak": "Share of the hip's peak that is left at lockout.",
    "Hip impulse, N·m·s": "Moment times time at the tempo chosen: a repetition, and a set of as many as chosen.",
    "Hip frontal, N·m": "Largest sideways (frontal) moment at the hip.",
    "Front share": "Share of the weight on the front foot at the turn.",
}

Others = Mapping[tuple[str, str], Judged]
# Row, what is drawn, how many of the unit shown make one of the core's, decimals.
DRAWN = (
    ("Compression, kN", "compression_N", 1e-3, 1),
    ("Shear, kN", "shear_N", 1e-3, 1),
    ("Knee : hip", "knee_to_hip", 1.0, 2),
    ("Hip frontal, N·m", "frontal_Nm", 1.0, 0),
)
ORDER = ("Load", *TIPS, "Athlete", "Note")


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
        rows: Sequence[Row],
        others: Others,
        bench: Bench,
    ) -> None:
        """Show a comparison; the chosen set-up stays chosen."""
        chosen = self.chosen()
        columns = [
            self._column(number, compared, rows, others, bench) for number in range(len(compared))
        ]
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

    def _column(
        self,
        number: int,
        compared: Sequence[Compared | Failed],
        rows: Sequence[Row],
        others: Others,
        bench: Bench,
    ) -> Mapping[str, str]:
        item, entry = compared[number], bench.lineup[number]
        athlete: Athlete = item.case.athlete
        ends = {"Athlete": athlete.name or "Athlete", "Note": entry.note}
        takes_load = bool(variation(item.case.variation).load)
        load = UNITS.text(item.case.load_kg or 0.0, "kg") if takes_load else "none"
        top = {"Load": f"{load}, pinned" if entry.pinned else load}
        if isinstance(item, Failed):
            return {**top, **dict.fromkeys(MOMENTS.values(), "not possible"), **ends}
        own = {r.joint: r for r in rows if r.case == item.name}
        moments = {name: _moment(own[joint], first=number == 0) for joint, name in MOMENTS.items()}
        drawn = {key: others.get((item.name, key)) for key in OTHERS}
        return {
            **top,
            **moments,
            **_others(item.result, drawn, bench.reps_a_set, first=number == 0),
            **ends,
        }


def _moment(row: Row, *, first: bool) -> str:
    """Peak with interval, and the judged difference, as set up and as done."""
    text = f"{row.peak_Nm:.0f}"
    judged = row.judged
    if judged is not None:
        text += f" ({_span(judged.peak.low, judged.peak.high)})"
    if first:
        return minus(f"{text}\nbaseline")
    if judged is None:
        return minus(f"{text}\n{row.difference_Nm:+.0f}")
    verdict = judged.verdict
    words = judgement_words(verdict.judgement, verdict.because)
    set_up, done = (_span(i.low, i.high) for i in (verdict.set_up, verdict.done))
    return minus(f"{text}\n{words} {row.difference_Nm:+.0f} ({set_up})\nas done {done}")


def _span(low: float, high: float) -> str:
    """Two ends that stay on one line."""
    return f"{low:.0f} to {high:.0f}".replace(" ", "\N{NO-BREAK SPACE}")


def _beside(
    result: Result, key: str, factor: float, decimals: int, judged: Judged | None, *, first: bool
) -> str:
    """An estimate with its interval, and the judged difference to the first."""
    text = f"{factor * nominal_of(result, key):.{decimals}f}"
    if judged is None:
        return minus(text)
    low, high = (f"{factor * end:.{decimals}f}" for end in (judged.peak.low, judged.peak.high))
    text += f" ({low} to {high})".replace(" to ", "\N{NO-BREAK SPACE}to\N{NO-BREAK SPACE}")
    if not first:
        words = judgement_words(judged.judgement)
        text += f"\n{words} {factor * judged.verdict.set_up.nominal:+.{decimals}f}"
    return minus(text)


def _others(
    result: Result, drawn: Mapping[str, Judged | None], reps: int, *, first: bool
) -> dict[str, str]:
    """Discs, ratio and sideways part with their intervals; where, impulse and front share without."""
    summary = result.summary
    hip = summary["hip_right"]
    found = {
        name: _beside(result, key, factor, decimals, drawn[key], first=first)
        for name, key, factor, decimals in DRAWN
    }
    if not np.isfinite(nominal_of(result, "knee_to_hip")):
        found["Knee : hip"] = "hip near 0"
    found["Hip hardest at"] = f"{100.0 * hip.at_progress:.0f} %"
    found["Lockout : peak"] = minus(f"{hip.lockout_to_peak:.2f}")
    found["Hip impulse, N·m·s"] = minus(
        f"{hip.impulse_Nms:.0f} a rep, {reps * hip.impulse_Nms:.0f} a set"
    )
    if result.variation.has_front_leg:
        share = float(result.solved.ground.share[result.timeline.bottom])
        found["Front share"] = f"{100.0 * share:.0f} %"
    return found
