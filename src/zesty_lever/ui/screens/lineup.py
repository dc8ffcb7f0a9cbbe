"""Line-up: two to six set-ups side by side on one scale, their curves, and differences with intervals."""

from __future__ import annotations

import csv
import io
from collections.abc import Callable
from dataclasses import astuple, fields
from pathlib import Path
from typing import Any

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt, QTimer
from PySide6.QtGui import QColor, QGuiApplication, QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import (
    QAbstractItemView,
    QComboBox,
    QFileDialog,
    QHBoxLayout,
    QHeaderView,
    QLabel,
    QProgressBar,
    QPushButton,
    QSizePolicy,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from zesty_lever.analysis import Result
from zesty_lever.compare import Compared, Row, compare, table, theorem_applies, typical_load_kg
from zesty_lever.exercises.catalogue import variation
from zesty_lever.motion.pose import JOINTS
from zesty_lever.ui.demand_panel import THEOREM
from zesty_lever.ui.number import UNITS
from zesty_lever.ui.painters.figure import paint_figure, paint_floor, paint_surfaces
from zesty_lever.ui.painters.levers import lever_marks, minus, paint_joint_dot, paint_lever
from zesty_lever.ui.painters.view import View
from zesty_lever.ui.session import Session
from zesty_lever.ui.theme import Theme, font
from zesty_lever.ui.worker import Worker
from zesty_lever.uncertainty import DRAWS

MATCHES = (
    ("Loads as they are", None), ("Same load", "same-load"), ("Typical loads", "typical-load"),
    ("Same athlete and load together", "same-system"), ("Equal peak at the hip", "equal:hip"),
    ("Equal peak at the knee", "equal:knee"), ("Equal peak at the lower back", "equal:lower-back"),
)  # fmt: skip
TOLD = (("hip", "hip_right"), ("knee", "knee_right"), ("lower back", "lumbosacral"))
DASHES: tuple[list[float], ...] = ([], [7, 3], [2, 2], [9, 3, 2, 3], [4, 4], [1, 3])
WAIT_MS = 200


class Figures(QWidget):
    """All set-ups at their decisive moment, on one ground line and one scale; curves below."""

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self.theme = theme
        self.compared: list[Compared] = []
        self.joint, self.over_time = "hip_right", False
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumHeight(330)
        self.setAccessibleName("Line-up: figures on one scale and their curves")

    def sizeHint(self) -> QSize:
        return QSize(1200, 400)

    def results(self) -> list[Result | None]:
        """Solved ones, None for the others."""
        return [c.result if c.result is not None and c.error is None else None for c in self.compared]

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), QColor(self.theme.paper))
        results = self.results()
        if not results:
            painter.setPen(QColor(self.theme.faint))
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, "Add two to six set-ups from the bench.")
            return
        curves = QRectF(self.width() - 350, 8, 342, self.height() - 16)
        area = QRectF(8, 8, self.width() - 366, self.height() - 52)
        wide = area.width() / len(results)
        spans = [self._span(r) for r in results if r is not None] or [(1.0, 1.8)]
        scale = min(wide / (max(s[0] for s in spans) + 0.35), area.height() / (max(s[1] for s in spans) + 0.1))
        floor = area.bottom()
        paint_floor(painter, View(scale, area.left() + 20, floor), self.theme, area.right())
        for index, (item, result) in enumerate(zip(self.compared, results, strict=True)):
            middle = area.left() + (index + 0.5) * wide
            self._paint_one(painter, item, result, scale, middle, floor, wide)
        self._paint_curves(painter, curves)

    @staticmethod
    def _span(result: Result) -> tuple[float, float]:
        pose, at = result.pose, min(result.timeline.bottom, result.frames - 1)
        assert pose is not None
        x = [float(p[0, at]) for p in pose.points.values()]
        y = [float(p[1, at]) for p in pose.points.values()]
        return max(x) - min(x), max(y) + 0.15

    def _paint_one(
        self, painter: QPainter, item: Compared, result: Result | None, scale: float, middle: float,
        floor: float, wide: float,
    ) -> None:  # fmt: skip
        name = variation(item.case.variation).name
        load = UNITS.text(item.case.load_kg or 0.0, "kg") if variation(item.case.variation).load else "no load"
        painter.setFont(font(12, bold=True))
        painter.setPen(QColor(self.theme.ink))
        box = QRectF(middle - wide / 2 + 4, floor + 12, wide - 8, 32)
        painter.drawText(box, Qt.AlignmentFlag.AlignHCenter | Qt.TextFlag.TextWordWrap, f"{name}, {load}")
        if result is None:
            painter.setFont(font(12))
            painter.setPen(QColor(self.theme.warn))
            words = item.error.text if item.error else "not possible"
            painter.drawText(QRectF(middle - wide / 2 + 8, floor - 150, wide - 16, 140),
                             Qt.AlignmentFlag.AlignHCenter | Qt.TextFlag.TextWordWrap, words)  # fmt: skip
            return
        assert result.pose is not None
        at = result.timeline.bottom
        x = [float(p[0, at]) for p in result.pose.points.values()]
        view = View(scale, middle - scale * 0.5 * (min(x) + max(x)), floor)
        paint_surfaces(painter, view, self.theme, result)
        paint_figure(painter, view, self.theme, result, at)
        for mark in lever_marks(result, at, view):
            if mark.joint != "ankle_right":
                paint_lever(painter, self.theme, mark)
                paint_joint_dot(painter, self.theme, mark.joint, mark.start, 5.0)

    def _paint_curves(self, painter: QPainter, area: QRectF) -> None:
        theme, row = self.theme, JOINTS.index(self.joint)
        painter.setPen(QPen(QColor(theme.line), 1))
        painter.setBrush(QColor(theme.panel))
        painter.drawRoundedRect(area, 4, 4)
        plot = area.adjusted(44, 30, -12, -14 - 15 * len(self.compared))
        curves = [(i, r) for i, r in enumerate(self.results()) if r is not None and r.moments is not None]
        values = [r.moments.extension[row] for _, r in curves if r.moments is not None]
        if not values:
            return
        top = max([float(v.max()) for v in values] + [10.0])
        low = min([float(v.min()) for v in values] + [0.0])
        painter.setFont(font(12))
        painter.setPen(QColor(theme.faint))
        words = next(w for w, j in TOLD if j == self.joint)
        across = "time, s" if self.over_time else "range: start to turn"
        painter.drawText(QPointF(area.left() + 10, area.top() + 18), f"{words}, N·m, over {across}")
        for level in (low, 0.0, top):
            y = plot.bottom() - plot.height() * (level - low) / (top - low)
            painter.setPen(QPen(QColor(theme.line), 1))
            painter.drawLine(QPointF(plot.left(), y), QPointF(plot.right(), y))
            painter.setPen(QColor(theme.faint))
            painter.drawText(QRectF(area.left() + 2, y - 8, 38, 16), Qt.AlignmentFlag.AlignRight, minus(f"{level:.0f}"))
        longest = max(float(r.timeline.time_s[-1]) for _, r in curves)
        for number, (index, result) in enumerate(curves):
            first, last = result.timeline.moves[0]
            span = slice(0, None) if self.over_time else slice(first, last + 1)
            x = result.timeline.time_s[span] / longest if self.over_time else np.abs(
                result.timeline.progress[span] - result.timeline.progress[first])  # fmt: skip
            y = (values[number][span] - low) / (top - low)
            line = QPolygonF([QPointF(plot.left() + plot.width() * a, plot.bottom() - plot.height() * b)
                              for a, b in zip(x.tolist(), y.tolist(), strict=True)])  # fmt: skip
            pen = QPen(theme.joint(self.joint), 2.0)
            if DASHES[index % len(DASHES)]:
                pen.setDashPattern(DASHES[index % len(DASHES)])
            painter.setPen(pen)
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawPolyline(line)
            key = plot.bottom() + 18 + 15 * index
            painter.drawLine(QPointF(plot.left(), key), QPointF(plot.left() + 34, key))
            painter.setPen(QColor(theme.ink))
            painter.drawText(QPointF(plot.left() + 42, key + 4), variation(result.case.variation).name)


class LineupScreen(QWidget):
    """Compare and choose, with intervals."""

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__(objectName="bench")
        self.session = session
        self.worker = Worker(self)
        self.picture = Figures(theme)
        self.rows: list[Row] = []
        self.header: list[str] = []
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
        self.table.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.table.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.table.setAccessibleName("Differences to the first set-up, with 90 % intervals")
        column.addWidget(self.table, 2)
        note = QLabel("Intervals: 90 % of what could be true with angles good to ±3°, offsets ±2 cm, lengths ±3 %, masses ±10 %. "
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
            ("To the bench", "Put the chosen set-up on the bench as A.", self._to_bench),
        ):
            button = QPushButton(name)
            button.setFont(font(12))
            button.setToolTip(tip)
            button.clicked.connect(lambda _=False, c=call: c())
            row.addWidget(button)
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
        for name, tip, call in (
            ("Copy table", "Copy the table for a spreadsheet or a letter.", self.copy_table),
            ("Save CSV", "One row a set-up and joint, with units in the header.", self._ask_csv),
        ):
            button = QPushButton(name)
            button.setFont(font(12))
            button.setToolTip(tip)
            button.clicked.connect(lambda _=False, c=call: c())
            row.addWidget(button)
        return row

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
                self.session.bench.current)  # fmt: skip
        if mark != self._shown_for:
            self._shown_for = mark
            self._soon.start()

    def _ask(self) -> None:
        cases = [(f"{i + 1}", s.case_for(self.session.bench.athlete))
                 for i, s in enumerate(self.session.bench.lineup)]  # fmt: skip
        match = self.session.bench.lineup_match
        if not cases:
            self.picture.compared = []
            self.picture.update()
            self.table.setRowCount(0)
            self.said.setText("Set something up on the bench, then add it here. The first one is the baseline.")
            return

        def work(tell: Callable[[float], None]) -> tuple[list[Compared], list[Row]]:
            compared = compare(cases, match)
            tell(0.3)
            return compared, table(compared, DRAWS)

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
        self.picture.compared, self.rows = answer
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
        return ""

    def _fill_table(self) -> None:
        header = ["Set-up", "Load"]
        for word, _ in TOLD:
            header += [f"{word.capitalize()}, N·m (90 %)", "against the first"]
        header += ["Knee : hip", "Compression, kN", "Shear, kN", "Hip hardest at", "Lockout : peak",
                   "Hip impulse a rep, N·m·s", "Hip frontal, N·m", "Front share"]  # fmt: skip
        self.header = header
        self.table.setColumnCount(len(header))
        self.table.setHorizontalHeaderLabels(header)
        self.table.setRowCount(len(self.picture.compared))
        for number, item in enumerate(self.picture.compared):
            cells = self._cells(number, item)
            for column, text in enumerate(cells):
                cell = QTableWidgetItem(text)
                cell.setToolTip(text)
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
        ]  # fmt: skip
        return cells

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

