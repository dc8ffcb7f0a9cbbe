"""The roster: the team with who needs attention first, and what can be done for the one that is chosen."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from typing import Any

from PySide6.QtCore import Qt
from PySide6.QtGui import QKeySequence, QShortcut, QShowEvent
from PySide6.QtWidgets import QCheckBox, QFileDialog, QHBoxLayout, QLabel, QLineEdit, QVBoxLayout

from zesty_lever.bench import edits
from zesty_lever.records.views import WEEKS_SHOWN, RosterRow, roster
from zesty_lever.ui.kit.controls import Wrapped, heading, push_button
from zesty_lever.ui.kit.screen import Screen
from zesty_lever.ui.kit.theme import Theme, font
from zesty_lever.ui.kit.waiting import Waiting
from zesty_lever.ui.roster.person import PersonPanel
from zesty_lever.ui.roster.table import RosterTable
from zesty_lever.ui.session import Session


class RosterScreen(Screen):
    """Asked anew whenever the records change."""

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__(session, theme)
        self.register = session.register
        self.rows: list[RosterRow] = []
        self.differing: frozenset[int] = frozenset()
        row = QHBoxLayout(self)
        row.setContentsMargins(14, 8, 12, 10)
        row.setSpacing(12)
        left = QVBoxLayout()
        left.addLayout(self._top())
        self.said = Wrapped(wordWrap=True)
        self.said.setTextFormat(Qt.TextFormat.PlainText)
        self.said.setObjectName("faint")
        self.said.setFont(font(12))
        left.addWidget(self.said)
        self.table = RosterTable(theme)
        left.addWidget(self.table, 1)
        left.addWidget(self.working)
        row.addLayout(left, 1)
        self.person = PersonPanel()
        row.addWidget(self.person)
        self.table.chosen.connect(self._show_person)
        self.table.entered.connect(lambda _id: self._asked("plan"))
        self.person.changed.connect(self._change)
        self.person.cleared.connect(self._clear)
        self.person.asked.connect(self._asked)
        self.waiting.answered.connect(self._take)
        self.waiting.failed.connect(self._fail)
        self.working.answered.connect(self._worked)
        self.register.changed.connect(self.ask)
        self.register.failed.connect(self._fail)
        self.register.waiting.connect(self._say)
        start = QShortcut(QKeySequence("Ctrl+G"), self)
        start.setContext(Qt.ShortcutContext.WidgetWithChildrenShortcut)
        start.activated.connect(lambda: self._asked("start"))

    def _top(self) -> QHBoxLayout:
        row = QHBoxLayout()
        row.addWidget(heading("Team"))
        self.search = QLineEdit()
        self.search.setFont(font(13))
        self.search.setAccessibleName("Find an athlete")
        self.search.setPlaceholderText("Find an athlete")
        self.search.setToolTip("Part of a name.")
        self.search.setMaximumWidth(220)
        self.search.textChanged.connect(lambda _text: self._fill())
        row.addWidget(self.search)
        self.away = QCheckBox("Away ones too")
        self.away.setFont(font(12))
        self.away.setToolTip("Show those who are away, at the end.")
        self.away.clicked.connect(lambda _on: self._fill())
        row.addWidget(self.away)
        self.waiting = Waiting(self.session.jobs, "records-roster", long=False)
        row.addWidget(self.waiting, 1)
        # What joints got these weeks is worked out once the team is there.
        self.working = Waiting(self.session.jobs, "records-weeks")
        self.working.setFixedWidth(130)
        label = QLabel("Coach")
        label.setFont(font(12))
        self.coach = QLineEdit(self.session.bench.coach)
        self.coach.setFont(font(12))
        self.coach.setMaximumWidth(150)
        self.coach.setAccessibleName("Coach, who writes in the records")
        self.coach.setToolTip("Your name: its initials stand beside what you change.")
        self.coach.editingFinished.connect(
            lambda: self.session.do(edits.set_coach, self.coach.text())
        )
        label.setBuddy(self.coach)
        row.addWidget(label)
        row.addWidget(self.coach)
        add = push_button("New athlete (Ctrl+N)", "Add an athlete on the bench and to the records.")
        add.clicked.connect(self._add)
        row.addWidget(add)
        return row

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self.ask()

    def ask(self) -> None:
        """Read the team anew; "opening the records" is said while nothing is there."""
        if not self.isVisible():
            return
        if self.register.store is None:
            self._say("Opening the records …")
        today, settings = self.register.today(), self.register.settings()
        bench = self.session.bench

        def question(store: Any, _tell: Callable[[float], None]) -> Any:
            from zesty_lever.records.people import differing

            ids = self.register.ids
            places = differing(store, bench.athletes, ids)
            rows = roster(store, today, settings, weeks=False)
            return rows, frozenset(ids[place] for place in places)

        self.waiting.ask(self.register.question(question))

    def _take(self, answer: Any) -> None:
        rows, self.differing = answer
        # Until the weeks are counted anew the bars stay as they were.
        before = {row.person.id: row.against for row in self.rows}
        self.rows = [replace(row, against=before.get(row.person.id, row.against)) for row in rows]
        store = self.register.store
        self._say("" if store is None else store.said or store.read_only)
        self._fill()
        self._work_out()

    def _work_out(self) -> None:
        """Work out what joints got in the last five weeks; the bars follow."""
        today, settings = self.register.today(), self.register.settings()

        def question(store: Any, tell: Callable[[float], None]) -> Any:
            from zesty_lever.records.sums import work_out

            work_out(store, None, tell, (today - 7 * WEEKS_SHOWN, today))
            return roster(store, today, settings)

        self.working.ask(self.register.question(question))

    def _worked(self, rows: Any) -> None:
        self.rows = rows
        self._fill()

    def _fail(self, why: str) -> None:
        self._say(why[0].upper() + why[1:])
        self.session.announced.emit(self.said.text())

    def _say(self, words: str) -> None:
        self.said.setText(words)
        self.said.setVisible(bool(words))

    def _fill(self) -> None:
        wanted = self.search.text().strip().lower()
        kept = [
            row
            for row in self.rows
            if wanted in row.person.name.lower() and (self.away.isChecked() or not row.person.away)
        ]
        chosen = self.person.row.person.id if self.person.row else self.register.person_id
        self.table.fill(kept, self.register.today(), chosen)

    def _show_person(self, _id: object) -> None:
        row = self.table.picked
        differs = row is not None and row.person.id in self.differing
        self.person.show_row(row, self.register.today(), differs=differs)

    # --- what is asked for ---------------------------------------------------------------------

    def _change(self, what: str, value: object) -> None:
        row, by = self.person.row, self.session.bench.initials
        if row is None:
            return

        def work(store: Any, _tell: Any) -> Any:
            from zesty_lever.records.people import change_person

            return change_person(store, row.person, by, **{what: value})

        self.register.write(work)

    def _clear(self, place: str, side: str, initials: str) -> None:
        row, today = self.person.row, self.register.today()
        if row is None:
            return

        def work(store: Any, _tell: Any) -> Any:
            from zesty_lever.records.entries import clear_pains

            return clear_pains(store, row.person.id, place, initials, today, side)

        self.register.write(
            work, lambda _n: self.session.announced.emit(f"The stop at the {place} is cleared.")
        )

    def _add(self) -> None:
        self.session.do(edits.add_athlete)
        self.session.screen_asked.emit("Athlete")

    def _asked(self, what: str) -> None:
        row = self.person.row
        if row is None:
            return
        if what in ("plan", "log", "bench", "start"):
            self.to_bench(row)
        screens = {"plan": "Plan", "log": "Log", "bench": "Bench"}
        if what in screens:
            self.session.screen_asked.emit(screens[what])
        elif what == "start":
            self._start(row)
        elif what == "export":
            folder = QFileDialog.getExistingDirectory(self, "A folder for the export")
            if folder:
                self.export(Path(folder))
        elif what == "erase":
            self.erase()
        else:
            self._settle(row, what)

    def to_bench(self, row: RosterRow) -> None:
        """The athlete on the bench, entered there where the records alone know them."""
        ids = self.register.ids
        if row.person.id in ids:
            at = ids.index(row.person.id)
            if at != self.session.bench.current:
                self.session.do(edits.switch_athlete, at)
            return
        self.session.do(edits.take_athlete, row.person.body)
        known = list(self.session.bench.record_ids)
        known[-1] = row.person.id
        self.register.ids = tuple(known)
        self.session.show_bench(
            self.session.bench.changed(athlete_ids=tuple(str(own) if own else "" for own in known))
        )

    def _start(self, row: RosterRow) -> None:
        ready = row.next if row.next is not None and row.next.day <= self.register.today() else None
        self.register.wanted_session = None if ready is None else ready.id
        self.session.screen_asked.emit("Run")

    def _settle(self, row: RosterRow, what: str) -> None:
        at = self.register.ids.index(row.person.id)
        if what == "take-records":
            self.session.do(edits.settle_athlete, at, row.person.body)
            self.ask()
            return
        body, today = self.session.bench.athletes[at], self.register.today()
        by = self.session.bench.initials

        def work(store: Any, _tell: Any) -> Any:
            from zesty_lever.records.people import change_person, set_body

            if body.name and body.name != row.person.name:
                change_person(store, row.person, by, name=body.name)
            return set_body(store, row.person.id, body, today)

        self.register.write(work)

    def export(self, folder: Path) -> None:
        """Everything of the chosen person into a folder of their own."""
        row = self.person.row
        if row is None:
            return

        def work(store: Any, _tell: Any) -> Any:
            from zesty_lever.problems import CaseError
            from zesty_lever.records.exporting import export_person

            try:
                return export_person(store, row.person.id, folder / f"person-{row.person.id}")
            except OSError as error:
                raise CaseError(
                    "records-read-only", f"{folder} can't be written: {error.strerror}"
                ) from error

        self.register.write(
            work,
            lambda made: self.session.announced.emit(f"{len(made)} files in {made[0].parent}."),
        )

    def erase(self) -> None:
        """Erase the chosen person, whose name was typed; the bench goes on without them."""
        row, today, session = self.person.row, self.register.today(), self.session
        if row is None or self.person.typed.text() != row.person.name:
            return
        session.save()

        def work(store: Any, _tell: Any) -> Any:
            from zesty_lever.bench.erasing import erase_everywhere

            return erase_everywhere(store, row.person, today, self.register.folder)

        def then(beyond: Any) -> None:
            from zesty_lever.bench.erasing import forget_in_benches

            if self.register.folder is not None:
                # What the window wrote of its bench meanwhile names them again.
                forget_in_benches(self.register.folder, row.person)
            session.take_over_file()
            self._forget_recent(row.person.name)
            self.register.ids = session.bench.record_ids
            session.announced.emit(f"Erased. Out of reach: {'; '.join(beyond)}.")

        self.register.write(work, then)

    def _forget_recent(self, name: str) -> None:
        """Recent files whose name holds the person's are forgotten too."""
        memory = getattr(self.window(), "memory", None)
        recent = None if memory is None else memory.values.get("recent")
        if memory is not None and isinstance(recent, list):
            memory.keep(recent=[t for t in recent if name.lower() not in str(t).lower()])

    def themed(self) -> list[Any]:
        return [self.table]
