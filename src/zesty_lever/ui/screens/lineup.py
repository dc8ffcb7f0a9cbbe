"""Line-up: two to six set-ups side by side on one scale, their curves, and differences with intervals."""

from __future__ import annotations

import csv
import io
from collections.abc import Callable
from dataclasses import astuple, fields, replace
from pathlib import Path
from typing import Any

import numpy as np
from PySide6.QtCore import QSignalBlocker, Qt, QTimer
from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import (
    QAbstractItemView,
    QComboBox,
    QDoubleSpinBox,
    QFileDialog,
    QFormLayout,
    QHBoxLayout,
    QHeaderView,
    QLabel,
    QMenu,
    QProgressBar,
    QPushButton,
    QTableWidget,
    QTableWidgetItem,
    QToolButton,
    QVBoxLayout,
    QWidget,
    QWidgetAction,
)

from zesty_lever.case import CaseError
from zesty_lever.compare import Compared, Row, compare, table, theorem_applies, typical_load_kg
from zesty_lever.exercises.catalogue import variation
from zesty_lever.motion.pose import JOINTS
from zesty_lever.records.bench import read_lineup, write_lineup
from zesty_lever.ui.demand_panel import THEOREM
from zesty_lever.ui.number import UNITS
from zesty_lever.ui.painters.levers import minus
from zesty_lever.ui.painters.lineup import TOLD, Figures
from zesty_lever.ui.session import Session
from zesty_lever.ui.theme import Theme, font
from zesty_lever.ui.worker import Worker
from zesty_lever.uncertainty import DRAWS, Errors, what_matters

MATCHES = (
    ("Loads as they are", None), ("Same load", "same-load"), ("Typical loads", "typical-load"),
    ("Same athlete and load together", "same-system"), ("Equal peak at the hip", "equal:hip"),
    ("Equal peak at the knee", "equal:knee"), ("Equal peak at the lower back", "equal:lower-back"),
)  # fmt: skip
WAIT_MS = 200
# Name, how many of the unit shown make one of the core's, unit, largest.
ERROR_ROWS = {
    "angle_deg": ("Angles", 1.0, " °", 15.0), "offset_m": ("Tape and load place", 100.0, " cm", 10.0),
    "length": ("Segment lengths", 100.0, " %", 15.0), "mass": ("Segment masses", 100.0, " %", 30.0),
    "pressure": ("Pressure point", 100.0, " % of the foot", 20.0),
}  # fmt: skip


class LineupScreen(QWidget):
    """Compare and choose, with intervals."""

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__(objectName="bench")
        self.session = session
        self.worker = Worker(self)
        self.picture = Figures(theme)
        self.rows: list[Row] = []
        self.header: list[str] = []
        self.widths: dict[str, float] = {}
        column = QVBoxLayout(self)
        column.setContentsMargins(14, 10, 14, 10)
        column.addLayout(self._bar())
        self.progress = QProgressBar(maximum=100, textVisible=False)
        self.progress.setFixedHeight(4)
        column.addWidget(self.progress)
        column.addWidget(self.picture, 3)
        self.said = QLabel(wordWrap=True)
        self.said.setFont(font(13))
        column.addWidget(self.said)
        self.table = QTableWidget()
        self.table.setFont(font(12))
        self.table.cellChanged.connect(self._noted)
        self.table.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.table.setAccessibleName("Differences to the first set-up, with 90 % intervals")
        column.addWidget(self.table, 2)
        note = QLabel("Intervals: 90 % of what could be true with things measured as well as Errors says (angles ±3°, offsets ±2 cm, lengths ±3 %, masses ±10 % to begin with). "
                      "Estimates for comparing, not a diagnosis and no safety limit. Stop at pain.", objectName="faint", wordWrap=True)
        note.setFont(font(12))
        column.addWidget(note)
        self._soon = QTimer(self, singleShot=True, interval=WAIT_MS)
        self._soon.timeout.connect(self._ask)
        self.worker.answered.connect(self._answer)
        self.worker.failed.connect(self._fail)
        self.worker.progressed.connect(self._progress)
        session.changed.connect(self.refresh)
        self._shown_for: object = None

    def _bar(self) -> QHBoxLayout:
        row = QHBoxLayout()
        for name, tip, call in (
            ("Add A", "Add set-up A of the bench.", lambda: self.session.line_up(0)),
            ("Add B", "Add set-up B of the bench.", lambda: self.session.line_up(1)),
            ("Take off", "Take the chosen row's set-up off; undo brings it back.", self._take_off),
            ("Move left", "Move the chosen set-up towards the baseline; the first is the baseline.", self._move_left),
            ("To the bench", "Put the chosen set-up in the bench's edited place.", self._to_bench),
        ):
            button = QPushButton(name)
            button.setFont(font(12))
            button.setToolTip(tip)
            button.clicked.connect(lambda _=False, c=call: c())
            row.addWidget(button)
        self.others = QToolButton(text="For … ▾")
        self.others.setFont(font(12))
        self.others.setToolTip("Add the chosen set-up for another athlete: two athletes in one line-up.")
        self.others.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        self.others.setMenu(QMenu(self.others))
        self.others.menu().aboutToShow.connect(self._fill_others)
        row.addWidget(self.others)
        self.match = QComboBox()
        self.match.setFont(font(12))
        self.match.setAccessibleName("How loads are matched to the first set-up")
        self.match.setToolTip("How loads are matched to the first set-up. Typical: 70 % of the best in the variation, else of "
                              "its usual share of the best high-bar squat.")  # fmt: skip
        for name, match in MATCHES:
            self.match.addItem(name, match)
        self.match.activated.connect(lambda: self.session.set_lineup_match(self.match.currentData()))
        row.addWidget(self.match)
        self.joint = QComboBox()
        self.joint.setFont(font(12))
        self.joint.setAccessibleName("Joint of the curves")
        self.joint.setToolTip("Joint of the curves.")
        for word, joint in TOLD:
            self.joint.addItem(f"Curves: {word}", joint)
        self.joint.activated.connect(self._show_joint)
        row.addWidget(self.joint)
        self.over = QPushButton("Over time", checkable=True)
        self.over.setFont(font(12))
        self.over.setToolTip("Curves over time instead of over the range.")
        self.over.toggled.connect(self._show_joint)
        row.addWidget(self.over)
        row.addStretch(1)
        self.errors = QToolButton(text="Errors ▾")
        self.errors.setFont(font(12))
        self.errors.setToolTip("How well things are measured: what the intervals rest on.")
        self.errors.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        self.errors.setMenu(self._errors_menu())
        row.addWidget(self.errors)
        for name, tip, call in (
            ("Open", "Open a line-up from a file.", self._ask_open),
            ("Save", "Save the line-up as a file.", self._ask_save),
            ("Copy table", "Copy the table for a spreadsheet or a letter.", self.copy_table),
            ("Save CSV", "One row a set-up and joint, with units in the header.", self._ask_csv),
        ):
            button = QPushButton(name)
            button.setFont(font(12))
            button.setToolTip(tip)
            button.clicked.connect(lambda _=False, c=call: c())
            row.addWidget(button)
        return row

    def _errors_menu(self) -> QMenu:
        menu = QMenu(self)
        body = QWidget()
        form = QFormLayout(body)
        self.sizes: dict[str, QDoubleSpinBox] = {}
        for key, (name, factor, suffix, most) in ERROR_ROWS.items():
            box = QDoubleSpinBox(decimals=1, minimum=0.0, maximum=most, singleStep=0.5, suffix=suffix, keyboardTracking=False)
            box.setFont(font(12))
            box.setAccessibleName(f"Error of {name}")
            box.setValue(getattr(Errors(), key) * factor)
            box.valueChanged.connect(self._set_errors)
            form.addRow(name, box)
            self.sizes[key] = box
        action = QWidgetAction(menu)
        action.setDefaultWidget(body)
        menu.addAction(action)
        return menu

    def _set_errors(self) -> None:
        self.session.set_errors({k: round(b.value() / ERROR_ROWS[k][1], 6) for k, b in self.sizes.items()})

    def _fill_others(self) -> None:
        menu = self.others.menu()
        menu.clear()
        for index, athlete in enumerate(self.session.bench.athletes):
            menu.addAction(athlete.name or "Athlete", lambda i=index: self.session.line_up_for(self._chosen(), i))

    def _ask_open(self) -> None:
        path, _ = QFileDialog.getOpenFileName(self, "Open a line-up", "", "Line-ups (*.json)")
        if path:
            self.open_file(Path(path))

    def open_file(self, path: Path) -> None:
        """Take in a line-up file; what is wrong with it is said and nothing changes."""
        try:
            self.session.commit("Open line-up", read_lineup(self.session.bench, path))
        except (CaseError, OSError, UnicodeDecodeError, AttributeError) as error:
            self.said.setText(f"{path.name} was not opened: {error}")

    def _ask_save(self) -> None:
        path, _ = QFileDialog.getSaveFileName(self, "Save the line-up", "line-up.json", "Line-ups (*.json)")
        if path:
            self.save_file(Path(path))

    def save_file(self, path: Path) -> None:
        """Write the line-up as a file."""
        try:
            write_lineup(self.session.bench, path)
            self.said.setText(f"Saved as {path.name}.")
        except OSError as error:
            self.said.setText(f"Could not save {path.name}: {error.strerror}")

    def showEvent(self, event: Any) -> None:
        super().showEvent(event)
        self.refresh()

    def _show_joint(self) -> None:
        self.picture.joint = str(self.joint.currentData())
        self.picture.over_time = self.over.isChecked()
        self.picture.update()

    def _chosen(self) -> int:
        return max(self.table.currentRow(), 0)

    def _take_off(self) -> None:
        self.session.take_off_lineup(self._chosen())

    def _move_left(self) -> None:
        self.session.move_in_lineup(self._chosen())

    def _to_bench(self) -> None:
        lineup = self.session.bench.lineup
        if lineup:
            self.session.setup_to_bench(lineup[min(self._chosen(), len(lineup) - 1)])

    def refresh(self) -> None:
        """Follow the bench; the work is done beside the window."""
        if not self.isVisible():
            return
        self.match.setCurrentIndex(max(self.match.findData(self.session.bench.lineup_match), 0))
        mark = (self.session.bench.lineup, self.session.bench.lineup_match, self.session.bench.athletes,
                self.session.bench.current, tuple(self.session.bench.errors.items()))  # fmt: skip
        if mark != self._shown_for:
            self._shown_for = mark
            self._soon.start()

    def _ask(self) -> None:
        bench = self.session.bench
        cases = [(f"{i + 1}", bench.entry_case(e)) for i, e in enumerate(bench.lineup)]
        sizes: dict[str, Any] = {str(k): v for k, v in bench.errors.items()}
        errors = replace(Errors(), **sizes)
        match = self.session.bench.lineup_match
        if not cases:
            self.picture.compared = []
            self.picture.update()
            self.table.setRowCount(0)
            self.said.setText("Set something up on the bench, then add it here. The first one is the baseline.")
            return

        def work(tell: Callable[[float], None]) -> tuple[list[Compared], list[Row], dict[str, float]]:
            compared = compare(cases, match)
            tell(0.3)
            rows = table(compared, DRAWS, errors, [joint for _, joint in TOLD])
            tell(0.8)
            first = compared[0].case
            return compared, rows, what_matters(first, "knee_right", errors, 300)

        self.worker.ask("lineup", work)

    def _fail(self, kind: str, number: int, why: str) -> None:
        if self.worker.is_newest(kind, number):
            self.said.setText(f"The baseline can't serve: {why}")
            self.progress.setValue(0)

    def _progress(self, _kind: str, _number: int, share: float) -> None:
        self.progress.setValue(int(100 * share))

    def _answer(self, kind: str, number: int, answer: object) -> None:
        if not self.worker.is_newest(kind, number):
            return
        assert isinstance(answer, tuple)
        self.picture.compared, self.rows, self.widths = answer
        self.progress.setValue(0)
        self.picture.update()
        self._fill_table()
        self.said.setText(self._sentence())

    def _sentence(self) -> str:
        results = self.picture.results()
        for other in results[1:]:
            if results[0] is not None and other is not None and theorem_applies(results[0], other):
                return THEOREM
        if self.session.bench.lineup_match == "typical-load":
            rules = {typical_load_kg(c.case)[1] for c in self.picture.compared}
            return "Loads: " + "; ".join(sorted(rules)) + " (common practice, editable by setting the loads yourself)."
        (name, width), *_ = self.widths.items() or (("", 0.0),)
        return f"What to measure better first: {name}. Alone it leaves ±{width:.0f} N·m at the first set-up's knee." if width > 1 else ""

    def _fill_table(self) -> None:
        with QSignalBlocker(self.table):
            self._write_table()

    def _write_table(self) -> None:
        header = ["Set-up", "Load"]
        for word, _ in TOLD:
            header += [f"{word.capitalize()}, N·m (90 %)", "against the first"]
        header += ["Knee : hip", "Compression, kN", "Shear, kN", "Hip hardest at", "Lockout : peak",
                   "Hip impulse a rep, N·m·s", "Hip frontal, N·m", "Front share", "Athlete", "Note"]  # fmt: skip
        self.header = header
        self.table.setColumnCount(len(header))
        self.table.setHorizontalHeaderLabels(header)
        self.table.setRowCount(len(self.picture.compared))
        for number, item in enumerate(self.picture.compared):
            cells = self._cells(number, item)
            for column, text in enumerate(cells):
                cell = QTableWidgetItem(text)
                cell.setToolTip(text)
                if column != len(header) - 1:
                    cell.setFlags(cell.flags() & ~Qt.ItemFlag.ItemIsEditable)
                self.table.setItem(number, column, cell)
        self.table.horizontalHeader().setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
        self.table.verticalHeader().hide()

    def _cells(self, number: int, item: Compared) -> list[str]:
        name = variation(item.case.variation).name
        load = UNITS.text(item.case.load_kg or 0.0, "kg")
        result = item.result if item.error is None else None
        if result is None or result.summary is None or result.moments is None or result.disc is None:
            return [name, load, item.error.text if item.error else "not possible"]
        cells = [name, load]
        rows = {r.joint: r for r in self.rows if r.case == item.name}
        for _, joint in TOLD:
            row = rows[joint]
            span = "" if row.peak_low_Nm is None else f" ({row.peak_low_Nm:.0f} to {row.peak_high_Nm:.0f})"
            cells.append(minus(f"{row.peak_Nm:.0f}{span}"))
            gap = "" if row.difference_low_Nm is None else f" ({row.difference_low_Nm:.0f} to {row.difference_high_Nm:.0f})"
            cells.append("baseline" if number == 0 else minus(f"{row.judgement or ''} {row.difference_Nm:+.0f}{gap}".strip()))
        hip, knee = (result.summary[j].peak_Nm for j in ("hip_right", "knee_right"))
        frontal = float(np.abs(result.moments.abduction[JOINTS.index("hip_right")]).max())
        share = ""
        if result.contacts is not None and "front_share" in result.case.settings:
            share = f"{100 * float(result.contacts.share[result.timeline.bottom]):.0f} %"
        cells += [
            minus(f"{knee / hip:.2f}") if abs(hip) > 5 else "", f"{float(result.disc['compression_N'].max()) / 1000:.1f}",
            minus(f"{float(result.disc['shear_N'].max()) / 1000:.1f}"),
            f"{100 * result.summary['hip_right'].at_progress:.0f} %",
            minus(f"{result.summary['hip_right'].lockout_to_peak:.2f}"),
            f"{result.summary['hip_right'].impulse_Nms:.0f}", f"{frontal:.0f}", share,
            item.case.athlete.name or "Athlete", self.session.bench.lineup[number].note,
        ]  # fmt: skip
        return cells

    def _noted(self, row: int, column: int) -> None:
        """A note typed into the last column."""
        cell = self.table.item(row, column)
        if column == self.table.columnCount() - 1 and cell is not None and row < len(self.session.bench.lineup):
            self.session.note_in_lineup(row, cell.text())

    def copy_table(self) -> None:
        """Put the table on the clipboard, cells parted by tabs."""
        lines = ["\t".join(self.header)]
        for r in range(self.table.rowCount()):
            cells = (self.table.item(r, c) for c in range(self.table.columnCount()))
            lines.append("\t".join(cell.text() if cell is not None else "" for cell in cells))
        QGuiApplication.clipboard().setText("\n".join(lines))

    def _ask_csv(self) -> None:
        path, _ = QFileDialog.getSaveFileName(self, "Save the comparison", "line-up.csv", "CSV (*.csv)")
        if path:
            self.save_csv(Path(path))

    def save_csv(self, path: Path) -> None:
        """One row a set-up and joint."""
        from zesty_lever.records.files import replacing

        text = io.StringIO()
        writer = csv.writer(text)
        writer.writerow([f.name for f in fields(Row)])
        writer.writerows([["" if v is None else f"{v:.6g}" if isinstance(v, float) else v for v in astuple(r)] for r in self.rows])
        try:
            with replacing(path) as file:
                file.write(text.getvalue())
            self.said.setText(f"Saved as {path.name}.")
        except OSError as error:
            self.said.setText(f"Could not save {path.name}: {error.strerror}")

    def show_units(self) -> None:
        """Take over the units in use."""
        self._fill_table()
        self.picture.update()

    def set_theme(self, theme: Theme) -> None:
        """Repaint in another theme."""
        self.picture.theme = theme
        self.picture.update()

