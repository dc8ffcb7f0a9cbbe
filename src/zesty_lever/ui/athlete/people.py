"""The list of athletes: switch, add, copy, remove, import, export; name and school."""

from __future__ import annotations

from functools import partial
from pathlib import Path

from PySide6.QtCore import QSignalBlocker, Qt
from PySide6.QtWidgets import (
    QFileDialog,
    QGridLayout,
    QLineEdit,
    QListWidget,
    QVBoxLayout,
    QWidget,
)

from zesty_lever.bench import edits
from zesty_lever.bench.files import read_any, write_athlete
from zesty_lever.cases.model import SCHOOLS, Athlete
from zesty_lever.coaching.schools import schools
from zesty_lever.problems import CaseError
from zesty_lever.ui.kit.controls import Wrapped, heading, note, picker, push_button
from zesty_lever.ui.kit.theme import font
from zesty_lever.ui.session import Session
from zesty_lever.wording.sentences import file_name


class People(QWidget):
    """Who stands on the bench."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setFixedWidth(250)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(heading("Athletes"))
        self.people = QListWidget()
        self.people.setFont(font(14))
        self.people.setAccessibleName("Athletes")
        self.people.setToolTip("Who stands on the bench.")
        self.people.currentRowChanged.connect(self._switch)
        column.addWidget(self.people, 1)
        column.addLayout(self._buttons())
        self.name = QLineEdit(maxLength=80)
        self.name.setFont(font(14))
        self.name.setAccessibleName("Name")
        self.name.setToolTip("Name.")
        self.name.editingFinished.connect(self._rename)
        column.addWidget(self.name)
        self.school = picker(
            "School", ["no school of their own", *(schools().name(s) for s in SCHOOLS)]
        )
        self.school.setToolTip(
            "The school that new set-ups of this athlete start with. It never changes the mechanics."
        )
        self.school.activated.connect(
            lambda i: session.do(
                edits.change_athlete, "Set school", school=None if i == 0 else SCHOOLS[i - 1]
            )
        )
        column.addWidget(self.school)
        self.said = Wrapped(wordWrap=True)
        self.said.setTextFormat(Qt.TextFormat.PlainText)
        self.said.setObjectName("faint")
        self.said.setFont(font(12))
        column.addWidget(self.said)
        self.measured = note("")
        column.addWidget(self.measured)
        session.changed.connect(self.refresh)
        self.refresh()

    def _buttons(self) -> QGridLayout:
        session = self.session
        grid = QGridLayout()
        for index, (name, tip, call) in enumerate(
            (
                ("New", "Add an athlete of average build.", partial(session.do, edits.add_athlete)),
                ("Copy", "Add a copy of this athlete.", self._copy),
                (
                    "Remove",
                    "Take this athlete off the list; undo brings them back.",
                    partial(session.do, edits.remove_athlete),
                ),
                ("Import", "Open an athlete or a case from a file.", self._import),
                ("Export", "Save this athlete as a file.", self._export),
            )
        ):
            button = push_button(name, tip)
            button.clicked.connect(lambda _=False, c=call: c())
            grid.addWidget(button, index // 2, index % 2)
        return grid

    def _switch(self, index: int) -> None:
        if index >= 0:
            self.session.do(edits.switch_athlete, index)

    def _copy(self) -> None:
        athlete = self.session.bench.athlete
        self.session.do(
            edits.take_athlete, athlete.changed(name=f"{athlete.name}, copy"[:80]), "Copy athlete"
        )

    def _rename(self) -> None:
        name = self.name.text().strip() or "Athlete"
        if name != self.session.bench.athlete.name:
            self.session.do(edits.change_athlete, "Rename", name=name)

    def _import(self) -> None:
        path, _ = QFileDialog.getOpenFileName(
            self, "Open an athlete or a case", "", "JSON (*.json)"
        )
        if path:
            self.open_file(Path(path))

    def open_file(self, path: Path) -> None:
        """Take in an athlete or case file; what is wrong with it is said."""
        try:
            found = read_any(path)
        except (CaseError, OSError, UnicodeDecodeError) as error:
            self.said.setText(f"{path.name} was not taken in: {error}")
            return
        if isinstance(found, Athlete):
            self.session.do(edits.take_athlete, found)
        else:
            self.session.do(edits.take_case, found)
        self.said.setText(f"{path.name} was taken in.")

    def _export(self) -> None:
        athlete = self.session.bench.athlete
        path, _ = QFileDialog.getSaveFileName(
            self, "Save the athlete", file_name(athlete.name or "athlete", "json"), "JSON (*.json)"
        )
        if path:
            self.save_file(Path(path))

    def save_file(self, path: Path) -> None:
        """Write the athlete as a file."""
        try:
            write_athlete(self.session.bench.athlete, path)
            self.said.setText(f"Saved as {path.name}.")
        except OSError as error:
            self.said.setText(f"Could not save {path.name}: {error.strerror}")

    def refresh(self) -> None:
        """Show what the session holds."""
        bench, athlete = self.session.bench, self.session.bench.athlete
        with QSignalBlocker(self.people):
            names = [a.name or "Athlete" for a in bench.athletes]
            if names != [self.people.item(i).text() for i in range(self.people.count())]:
                self.people.clear()
                self.people.addItems(names)
            self.people.setCurrentRow(bench.current)
        if not self.name.hasFocus():
            self.name.setText(athlete.name or "")
        self.school.setCurrentIndex(
            0 if athlete.school is None else SCHOOLS.index(athlete.school) + 1
        )
        count = len(athlete.measurements)
        clips = f"{count} measurement{'s' if count > 1 else ''} kept: under Earlier on Measure."
        self.measured.setText(clips if count else "")
        self.measured.setVisible(bool(count))
