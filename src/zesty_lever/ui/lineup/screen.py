"""Line-up: two to six set-ups side by side on one scale, their curves, and differences with intervals."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from functools import partial
from pathlib import Path
from typing import Any

from PySide6.QtCore import Qt, QTimer
from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import (
    QComboBox,
    QFileDialog,
    QHBoxLayout,
    QMenu,
    QPushButton,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from zesty_lever.bench import edits
from zesty_lever.bench.files import read_lineup, write_lineup
from zesty_lever.choosing.compare import (
    Compared,
    Failed,
    Table,
    compare,
    efforts_of,
    shapes_of,
    table,
    theorem_applies,
)
from zesty_lever.choosing.loading import typical_load_kg
from zesty_lever.choosing.uncertainty import DRAWS, what_matters
from zesty_lever.exercises.catalogue import variation
from zesty_lever.io.tables import csv_text
from zesty_lever.joints import COACH_JOINTS, KNEE
from zesty_lever.problems import CaseError
from zesty_lever.ui.kit.controls import Wrapped, menu_button, push_button, side_column
from zesty_lever.ui.kit.screen import Screen, Themed
from zesty_lever.ui.kit.theme import Theme, font
from zesty_lever.ui.kit.waiting import Waiting
from zesty_lever.ui.lineup.curves import Curves
from zesty_lever.ui.lineup.figures import Figures
from zesty_lever.ui.lineup.forms import ErrorsButton, TypicalButton
from zesty_lever.ui.lineup.sheet import NOTE, Sheet
from zesty_lever.ui.lineup.table import DifferenceTable
from zesty_lever.ui.session import Session
from zesty_lever.wording.sentences import THEOREM, file_name, worth_measuring

MATCHES = (
    ("Loads as they are", None),
    ("Same load", "same-load"),
    ("Typical loads", "typical-load"),
    ("Same athlete and load together", "same-system"),
    ("Equal peak at the hip", "equal:hip"),
    ("Equal peak at the knee", "equal:knee"),
    ("Equal peak at the lower back", "equal:lower-back"),
    ("Equal effort", "equal-effort"),
)
WAIT_MS = 200
# What is asked after the table stands: intervals over whole reps.
SHAPES = "lineup-shapes"
SIDE_WIDE = 316


class LineupScreen(Screen):
    """Compare and choose, with intervals."""

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__(session, theme)
        self.picture, self.curves = Figures(theme), Curves(theme)
        self.found = Table((), ())
        self.widths: dict[str, float] = {}
        self.waiting = Waiting(session.jobs, "lineup")
        self.table = DifferenceTable()
        self.said = Wrapped(wordWrap=True)
        self.said.setTextFormat(Qt.TextFormat.PlainText)
        self.said.setFont(font(13))
        column = QVBoxLayout(self)
        column.setContentsMargins(14, 10, 14, 10)
        column.addLayout(self._bar())
        parts = QHBoxLayout()
        parts.setSpacing(10)
        left = QVBoxLayout()
        left.setSpacing(4)
        left.addWidget(self.picture, 1)
        left.addWidget(self.table, 2)
        parts.addLayout(left, 1)
        parts.addWidget(self._side())
        column.addLayout(parts, 1)
        self._sheet = Sheet((self.picture, self.table, self.curves))
        self._soon = QTimer(self, singleShot=True, interval=WAIT_MS)
        self._soon.timeout.connect(self._ask)
        self.waiting.answered.connect(self._answer)
        self.waiting.failed.connect(self._fail)
        self.waiting.stopped.connect(self._stopped)
        session.jobs.answered.connect(self._add_shapes)
        self.table.noted.connect(self._noted)
        self.table.currentCellChanged.connect(self._choose)
        self.picture.picked.connect(
            lambda index: self.table.setCurrentCell(max(self.table.currentRow(), 0), index)
        )
        session.changed.connect(self.refresh)
        self._shown_for: object = None

    def sheet(self) -> QWidget:
        """What is copied, saved and printed."""
        return self._sheet.laid_out()

    def _bar(self) -> QHBoxLayout:
        row = QHBoxLayout()
        for name, tip, call in (
            ("Add A", "Add set-up A of the bench.", lambda: self.session.do(edits.line_up, 0)),
            ("Add B", "Add set-up B of the bench.", lambda: self.session.do(edits.line_up, 1)),
            ("Take off", "Take the chosen set-up off; undo brings it back.", self._take_off),
            (
                "Clear",
                "Take all off that are not pinned; undo brings them back.",
                partial(self.session.do, edits.clear_lineup),
            ),
            (
                "Pin",
                "Pin the chosen set-up to the left, where it stays when the line-up is cleared; again lets it go.",
                self._pin,
            ),
            (
                "Move left",
                "Move the chosen set-up towards the baseline; the first is the baseline.",
                self._move_left,
            ),
            ("To the bench", "Put the chosen set-up in the bench's edited place.", self._to_bench),
        ):
            self._add_button(row, name, tip, call)
        self.others = self._menu_button(
            "For …", "Add the chosen set-up for another athlete: two athletes in one line-up."
        )
        self.others.menu().aboutToShow.connect(self._fill_others)
        row.addWidget(self.others)
        self.match = QComboBox()
        self.match.setFont(font(12))
        self.match.setAccessibleName("How loads are matched to the first set-up")
        self.match.setToolTip("How loads are matched to the first set-up.")
        for name, match in MATCHES:
            self.match.addItem(name, match)
        self.match.activated.connect(
            lambda: self.session.do(edits.set_lineup_match, self.match.currentData())
        )
        row.addWidget(self.match)
        self.typical, self.errors = TypicalButton(self.session), ErrorsButton(self.session)
        row.addWidget(self.typical)
        row.addWidget(self.errors)
        row.addStretch(1)
        row.addWidget(self._files_button())
        return row

    def _files_button(self) -> QToolButton:
        files = self._menu_button(
            "File and table", "Open and save line-ups, copy or save the table."
        )
        for name, tip, call in (
            ("Open a line-up", "Open a line-up from a file.", self._ask_open),
            ("Save the line-up", "Save the line-up as a file.", self._ask_save),
            ("Copy the table", "Copy the table for a spreadsheet or a letter.", self.copy_table),
            ("Save as CSV", "One row a set-up and joint, with units in the header.", self._ask_csv),
        ):
            files.menu().addAction(name, call).setToolTip(tip)
        return files

    def _side(self) -> QWidget:
        """Curves, what to measure better, and what the intervals are."""
        side, column = side_column(SIDE_WIDE)
        row = QHBoxLayout()
        self.joint = QComboBox()
        self.joint.setFont(font(12))
        self.joint.setAccessibleName("Joint of the curves")
        self.joint.setToolTip("Joint of the curves.")
        for group in COACH_JOINTS:
            self.joint.addItem(f"Curves: {group.word}", group.shown)
        self.joint.activated.connect(self._show_joint)
        row.addWidget(self.joint, 1)
        self.over = QPushButton("Over time")
        self.over.setCheckable(True)
        self.over.setFont(font(12))
        self.over.setToolTip("Curves over time instead of over the range.")
        self.over.toggled.connect(self._show_joint)
        row.addWidget(self.over)
        column.addLayout(row)
        column.addWidget(self.curves, 1)
        column.addWidget(self.waiting)
        column.addWidget(self.said)
        note = Wrapped(NOTE, wordWrap=True)
        note.setObjectName("faint")
        note.setFont(font(12))
        column.addWidget(note)
        return side

    @staticmethod
    def _add_button(row: QHBoxLayout, name: str, tip: str, call: Callable[[], None]) -> None:
        button = push_button(name, tip)
        button.clicked.connect(lambda _=False: call())
        row.addWidget(button)

    @staticmethod
    def _menu_button(name: str, tip: str) -> QToolButton:
        button = menu_button(f"{name} ▾", tip)
        button.setMenu(QMenu(button))
        return button

    def _fill_others(self) -> None:
        menu = self.others.menu()
        menu.clear()
        for index, athlete in enumerate(self.session.bench.athletes):
            menu.addAction(
                athlete.name or "Athlete",
                partial(self._line_up_for, index),
            )

    def _line_up_for(self, athlete: int) -> None:
        self.session.do(edits.line_up_for, self.table.chosen(), athlete)

    def _ask_open(self) -> None:
        path, _ = QFileDialog.getOpenFileName(self, "Open a line-up", "", "Line-ups (*.json)")
        if path:
            self.open_file(Path(path))

    def open_file(self, path: Path) -> None:
        """Take in a line-up file; what is wrong with it is said and nothing changes."""
        try:
            self.session.commit("Open line-up", read_lineup(self.session.bench, path))
        except (CaseError, OSError, UnicodeDecodeError) as error:
            self.said.setText(f"{path.name} was not opened: {error}")

    def _ask_save(self) -> None:
        path, _ = QFileDialog.getSaveFileName(
            self,
            "Save the line-up",
            file_name(f"line-up {self.session.bench.athlete.name or ''}", "json"),
            "Line-ups (*.json)",
        )
        if path:
            self.save_file(Path(path))

    def save_file(self, path: Path) -> None:
        """Write the line-up as a file."""
        self._saving(path, lambda: write_lineup(self.session.bench, path))

    def _saving(self, path: Path, write: Callable[[], None]) -> None:
        try:
            write()
            self.said.setText(f"Saved as {path.name}.")
        except OSError as error:
            self.said.setText(f"Could not save {path.name}: {error.strerror}")

    def showEvent(self, event: Any) -> None:
        super().showEvent(event)
        self.refresh()

    def _show_joint(self) -> None:
        self.curves.joint = str(self.joint.currentData())
        self.curves.over_time = self.over.isChecked()
        self.curves.describe()
        self.curves.update()

    def _choose(self, _line: int, number: int) -> None:
        self.picture.chosen = max(number, 0)
        self.picture.update()

    def _take_off(self) -> None:
        self.session.do(edits.take_off_lineup, self.table.chosen())

    def _pin(self) -> None:
        self.session.do(edits.pin_in_lineup, self.table.chosen())

    def _move_left(self) -> None:
        self.session.do(edits.move_in_lineup, self.table.chosen())

    def _to_bench(self) -> None:
        lineup = self.session.bench.lineup
        if lineup:
            self.session.do(edits.put_setup, lineup[min(self.table.chosen(), len(lineup) - 1)])

    def refresh(self) -> None:
        """Follow the bench; the work is done beside the window."""
        if not self.isVisible():
            return
        bench = self.session.bench
        self.match.setCurrentIndex(max(self.match.findData(bench.lineup_match), 0))
        mark = (
            bench.lineup,
            bench.lineup_match,
            bench.athletes,
            bench.current,
            tuple(bench.errors.items()),
            bench.working_share,
            tuple(bench.lift_shares.items()),
            bench.reps_a_set,
        )
        if mark != self._shown_for:
            self._shown_for = mark
            self._soon.start()

    def _ask(self) -> None:
        bench = self.session.bench
        cases = [(f"{i + 1}", bench.entry_case(e)) for i, e in enumerate(bench.lineup)]
        errors, match, rules = bench.sizes, bench.lineup_match, self.session.rules
        if not cases:
            self._show([], Table((), ()), {})
            self.said.setText(
                "Set something up on the bench, then add it here. The first one is the baseline."
            )
            return

        def work(
            tell: Callable[[float], None],
        ) -> tuple[list[Compared | Failed], Table, dict[str, float]]:
            compared = compare(cases, match, rules)
            tell(0.2)
            found = table(
                compared,
                DRAWS,
                errors,
                [group.shown for group in COACH_JOINTS],
                lambda share: tell(0.2 + 0.6 * share),
                others=True,
            )
            return compared, found, what_matters(compared[0].case, KNEE.shown, errors, 300)

        self.waiting.ask(work)

    def _fail(self, why: str) -> None:
        self._show([], Table((), ()), {})
        self.said.setText(f"The baseline can't serve: {why}")

    def _stopped(self) -> None:
        self.said.setText(
            "Stopped: what is shown is from before. Change or choose something to work it out."
        )

    def _answer(self, answer: Any) -> None:
        self._show(*answer)
        self.said.setText(self._sentence())
        compared, found, errors = self.picture.compared, self.found, self.session.bench.sizes

        def over_the_rep(tell: Callable[[float], None]) -> tuple[Table, Table]:
            return found, found.with_shapes(shapes_of(compared, errors, tell), efforts_of(compared))

        self.session.jobs.ask(SHAPES, over_the_rep, long=True)

    def _add_shapes(self, kind: str, number: int, answer: object) -> None:
        """Fill in what the whole reps say, once it is known."""
        if kind != SHAPES or not self.session.jobs.is_newest(kind, number):
            return
        assert isinstance(answer, tuple)
        before, after = answer
        if before is self.found:
            self.found = after
            self._fill_table()

    def _show(
        self, compared: list[Compared | Failed], found: Table, widths: dict[str, float]
    ) -> None:
        self.found, self.widths = found, widths
        for picture in (self.picture, self.curves):
            picture.compared = compared
            picture.update()
        self.curves.describe()
        self.picture.describe()
        self._fill_table()

    def _fill_table(self) -> None:
        # While a change is being worked out the line-up may be ahead of what is shown.
        if len(self.picture.compared) in (0, len(self.session.bench.lineup)):
            self.table.fill(self.picture.compared, self.found, self.session.bench)
            self._choose(0, self.table.chosen())

    def _sentence(self) -> str:
        results, bench = self.picture.results(), self.session.bench
        for other in results[1:]:
            if results[0] is not None and other is not None and theorem_applies(results[0], other):
                return THEOREM
        if bench.lineup_match == "typical-load":
            rules = [
                f"{variation(c.case.variation).name} {typical_load_kg(c.case, self.session.rules)[1]}"
                for c in self.picture.compared
            ]
            return "Loads: " + "; ".join(rules) + ". Common practice; change them under Rules."
        return worth_measuring(self.widths)

    def _noted(self, number: int, text: str) -> None:
        if number < len(self.session.bench.lineup):
            self.session.do(edits.note_in_lineup, number, text)

    def copy_table(self) -> None:
        """Put the table on the clipboard, cells parted by tabs."""
        QGuiApplication.clipboard().setText(self.table.as_text())

    def _ask_csv(self) -> None:
        path, _ = QFileDialog.getSaveFileName(
            self,
            "Save the comparison",
            file_name(f"line-up {self.session.bench.athlete.name or ''}", "csv"),
            "CSV (*.csv)",
        )
        if path:
            self.save_csv(Path(path))

    def save_csv(self, path: Path) -> None:
        """One row a set-up and joint."""
        from zesty_lever.io.json_files import replacing

        def write() -> None:
            with replacing(path) as file:
                file.write(csv_text(self.found))

        self._saving(path, write)

    def show_units(self) -> None:
        """Take over the units in use."""
        self.errors.show_values()
        self._fill_table()
        self.picture.update()

    def themed(self) -> Iterable[Themed]:
        return (self.picture, self.curves)
