"""The log: sessions and their sets, corrections, weeks, trends, and what comes next."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from typing import Any

from PySide6.QtCore import QSignalBlocker, Qt
from PySide6.QtGui import QKeySequence, QShortcut, QShowEvent
from PySide6.QtWidgets import (
    QComboBox,
    QHBoxLayout,
    QLabel,
    QListWidget,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from zesty_lever.cases.model import Setup
from zesty_lever.exercises.catalogue import catalogue
from zesty_lever.log.asked import Advice
from zesty_lever.log.entry import DoneSet, Entry
from zesty_lever.log.exposure import setup_done
from zesty_lever.plan.document import Item
from zesty_lever.plan.document import Session as Planned
from zesty_lever.plan.drills import drills
from zesty_lever.records.documents import SessionRow
from zesty_lever.records.views import LogView, log_view
from zesty_lever.ui.kit.controls import Wrapped, heading, push_button
from zesty_lever.ui.kit.pain_popover import PainPopover
from zesty_lever.ui.kit.screen import Screen, Themed
from zesty_lever.ui.kit.set_form import SetForm
from zesty_lever.ui.kit.tabs import Tabs
from zesty_lever.ui.kit.theme import Theme, font
from zesty_lever.ui.kit.waiting import Waiting
from zesty_lever.ui.log.measured_button import Measured, MeasuredButton
from zesty_lever.ui.log.next_panel import NextPanel
from zesty_lever.ui.log.rules_button import RulesButton
from zesty_lever.ui.log.sets_table import SetsTable
from zesty_lever.ui.log.trends_panel import TrendsPanel
from zesty_lever.ui.log.week_plot import WeekBars
from zesty_lever.ui.session import Session
from zesty_lever.wording.records import (
    IMPULSE_WORDS,
    STATE_WORDS,
    day_short,
    direction_words,
    exercise_words,
    exposure_words,
)

SESSIONS_WIDE = 196
FACES = {
    "Next": ("Advice for the session ahead", "Alt+7"),
    "Weeks": ("What each joint got, week by week", "Alt+8"),
    "Trends": ("Best set, load, impulse, hard repetitions, pain, sides", "Alt+9"),
}


class LogScreen(Screen):
    """Follows the athlete on the bench; asked anew whenever the records change."""

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__(session, theme)
        self.register = session.register
        self.view: LogView | None = None
        self.rows: list[SessionRow] = []
        self.adding = False
        row = QHBoxLayout(self)
        row.setContentsMargins(14, 8, 12, 10)
        row.setSpacing(12)
        row.addLayout(self._sessions())
        row.addLayout(self._sets(), 5)
        row.addLayout(self._faces(theme), 4)
        self.waiting.answered.connect(self._take)
        self.waiting.failed.connect(self._say)
        self.register.changed.connect(self.ask)
        self.register.failed.connect(self._say)
        self.register.waiting.connect(self._say)
        session.changed.connect(self._follow)
        self.rules.changed.connect(self.ask)
        new = QShortcut(QKeySequence("Ctrl+Shift+N"), self)
        new.setContext(Qt.ShortcutContext.WidgetWithChildrenShortcut)
        new.activated.connect(self.new_session)

    def _sessions(self) -> QVBoxLayout:
        column = QVBoxLayout()
        self.who = heading("")
        self.who.setTextFormat(Qt.TextFormat.PlainText)
        column.addWidget(self.who)
        self.list = QListWidget()
        self.list.setFixedWidth(SESSIONS_WIDE)
        self.list.setFont(font(12))
        self.list.setAccessibleName("Sessions, the newest first")
        self.list.setToolTip("Sessions, the newest first.")
        self.list.currentRowChanged.connect(lambda _at: self._show_session())
        column.addWidget(self.list, 1)
        new = push_button(
            "Type in a session", "A session that was done already, for any day (Ctrl+Shift+N)."
        )
        new.clicked.connect(self.new_session)
        column.addWidget(new)
        return column

    def _sets(self) -> QVBoxLayout:
        column = QVBoxLayout()
        top = QHBoxLayout()
        self.title = heading("")
        self.title.setTextFormat(Qt.TextFormat.PlainText)
        top.addWidget(self.title)
        self.waiting = Waiting(self.session.jobs, "records-log")
        top.addWidget(self.waiting, 1)
        column.addLayout(top)
        self.said = Wrapped(wordWrap=True)
        self.said.setTextFormat(Qt.TextFormat.PlainText)
        self.said.setFont(font(12))
        self.said.setObjectName("faint")
        self.said.hide()
        column.addWidget(self.said)
        self.table = SetsTable()
        self.table.chosen.connect(self._show_set)
        column.addWidget(self.table, 1)
        self.summary = Wrapped(wordWrap=True)
        self.summary.setTextFormat(Qt.TextFormat.PlainText)
        self.summary.setFont(font(12))
        column.addWidget(self.summary)
        self._add_buttons(column)
        self.form_title = QLabel()
        self.form_title.setFont(font(12))
        self.form_title.setTextFormat(Qt.TextFormat.PlainText)
        column.addWidget(self.form_title)
        self.form = SetForm()
        self.form.given.connect(self._keep)
        self.form.refused.connect(self._say)
        column.addWidget(self.form)
        return column

    def _add_buttons(self, column: QVBoxLayout) -> None:
        """What can be done with a set and a session."""
        row = QHBoxLayout()
        self.what = QComboBox()
        self.what.setFont(font(12))
        self.what.setAccessibleName("Exercise of the set to add")
        self.what.setSizeAdjustPolicy(
            QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon
        )
        self.what.setMinimumContentsLength(8)
        self.what.setToolTip("Exercise of the set to add.")
        for name in (*catalogue(), *drills()):
            self.what.addItem(exercise_words(name), name)
        row.addWidget(self.what, 1)
        self.add = push_button("Add a set", "A set more in this session, typed in below.")
        self.add.clicked.connect(self.begin_set)
        row.addWidget(self.add)
        self.back = push_button(
            "Take back", "The chosen set counts no more; it stays visible in exports."
        )
        self.back.clicked.connect(self._withdraw)
        row.addWidget(self.back)
        column.addLayout(row)
        more = QHBoxLayout()
        self.hurt = push_button("Pain since …", "Pain after this session or on the next day.")
        self.hurt.clicked.connect(self._ask_pain)
        more.addWidget(self.hurt)
        self.measured = MeasuredButton(self.session)
        self.measured.given.connect(self._attach)
        self.measured.refused.connect(self._say)
        more.addWidget(self.measured)
        self.rules = RulesButton(self.session)
        more.addWidget(self.rules)
        more.addStretch(1)
        column.addLayout(more)
        self.pain = PainPopover(self, ("after", "next-day"))
        self.pain.keep.clicked.connect(self._take_pain)

    def _faces(self, theme: Theme) -> QVBoxLayout:
        column = QVBoxLayout()
        self.tabs = Tabs("What follows from it", FACES, 12)
        column.addWidget(self.tabs)
        self.next = NextPanel()
        self.next.substitutes_asked.connect(self._ask_instead)
        self.weeks = WeekBars(theme)
        self.trends = TrendsPanel(theme)
        week = QWidget()
        inner = QVBoxLayout(week)
        inner.setContentsMargins(0, 0, 0, 0)
        inner.addWidget(self.weeks, 1)
        self.week_words = Wrapped(wordWrap=True)
        self.week_words.setTextFormat(Qt.TextFormat.PlainText)
        self.week_words.setFont(font(12))
        inner.addWidget(self.week_words)
        self.faces = QStackedWidget()
        for face in (self.next, week, self.trends):
            self.faces.addWidget(face)
        self.tabs.chosen.connect(lambda name: self.faces.setCurrentIndex(list(FACES).index(name)))
        column.addWidget(self.faces, 1)
        return column

    def _ask_instead(self, item: Item, advice: Advice) -> None:
        """On the Shortlist: what stands in for a lift as it was done last, sparing the places that hurt."""
        entries = () if self.view is None else self.view.entries
        done = [e.done for e in entries if e.name == item.name and e.setup is not None]
        setup = setup_done(done[-1]) if done else item.setup
        self.session.instead_asked.emit(setup, advice.places)

    # --- showing -----------------------------------------------------------------------------

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self.ask()

    def _follow(self) -> None:
        who = None if self.view is None else self.view.person.name
        if self.isVisible() and who != (self.session.bench.athlete.name or "Athlete"):
            self.ask()

    def ask(self) -> None:
        """Read this athlete's log anew."""
        if not self.isVisible():
            return
        if self.register.store is None:
            self._say("Opening the records …")
        today, settings = self.register.today(), self.register.settings()

        def question(store: Any, tell: Callable[[float], None]) -> Any:
            from zesty_lever.records.advising import advices
            from zesty_lever.records.people import person

            view = log_view(
                store, person(store, self.register.person_id), today, settings, tell=tell
            )
            ahead = [r for r in view.sessions if r.state == "planned" and r.day >= today]
            advised = advices(ahead[0].session, view.history, today) if ahead else {}
            return view, ahead[0] if ahead else None, advised

        self.waiting.ask(self.register.question(question))

    def _say(self, words: str) -> None:
        self.said.setText(words[:1].upper() + words[1:])
        self.said.setVisible(bool(words))

    def _take(self, answer: Any) -> None:
        self.view, ahead, advised = answer
        view, store = answer[0], self.register.store
        self._say("" if store is None else store.read_only)
        self.who.setText(view.person.name)
        chosen = self._session_id()
        kept = {e.session for e in view.entries}
        self.rows = [
            r
            for r in reversed(view.sessions)
            if r.id in kept or r.state in ("running", "done", "missed", "called-off")
        ]
        with QSignalBlocker(self.list):
            self.list.clear()
            self.list.addItems([self._row_words(row) for row in self.rows])
            ids = [row.id for row in self.rows]
            if ids:
                self.list.setCurrentRow(ids.index(chosen) if chosen in ids else 0)
        self._show_session()
        self.next.show_next(ahead, advised, view.today, view.decisions)
        self.weeks.show_view(view)
        self.trends.show_view(view)
        self._show_week()

    def _row_words(self, row: SessionRow) -> str:
        assert self.view is not None
        sets = sum(e.session == row.id for e in self.view.entries)
        state = "" if row.state == "done" else f", {STATE_WORDS[row.state]}"
        felt = "" if row.rating is None else f", felt {row.rating} of 10"
        name = row.session.name or "Session"
        return f"{day_short(row.day, self.view.today)}  {name}\n{sets} sets{felt}{state}"

    def _show_week(self) -> None:
        assert self.view is not None
        week = max(self.view.weeks, default=None)
        if week is None:
            self.week_words.setText("No sets yet.")
            return
        total = self.view.week_total(week)
        words = f"{exposure_words(total)} By direction: {direction_words(self.view.weeks[week])}. {IMPULSE_WORDS}"
        reference = self.view.reference
        if reference is not None:
            lift = exercise_words(reference.variation).lower()
            words += (
                f" Hard: from {100 * reference.share:.0f} % of the {lift} at {reference.load_kg:.0f} kg "
                f"({reference.rule})."
            )
        self.week_words.setText(words)

    def _session_id(self) -> int | None:
        at = self.list.currentRow()
        return self.rows[at].id if 0 <= at < len(self.rows) else None

    @property
    def row(self) -> SessionRow | None:
        """The session that is looked at."""
        at = self.list.currentRow()
        return self.rows[at] if 0 <= at < len(self.rows) else None

    def _show_session(self) -> None:
        row, view = self.row, self.view
        self.adding = False
        if row is None or view is None:
            self.title.setText("Nothing is logged yet")
            self.table.fill(None, None)
            self.form.show_set(None)
            self.summary.setText("")
            return
        self.title.setText(f"{day_short(row.day)}: {row.session.name or 'Session'}")
        self.table.fill(view, row.id)
        pains = [p for d, p in view.pains if d == row.day and p.moment in ("before", "next-day")]
        words = [row.note] if row.note else []
        words += [f"{p.moment.replace('-', ' ')}: {p.place} {p.score} of 10" for p in pains]
        self.summary.setText("; ".join(words))
        self.summary.setVisible(bool(words))

    def _show_set(self, entry: Entry | None) -> None:
        if self.adding and entry is None:
            return
        self.adding = False
        self.form.show_set(None if entry is None else entry.done)
        self.back.setEnabled(entry is not None)
        if entry is not None:
            name = exercise_words(entry.name)
            self.form_title.setText(
                f"Correct set {entry.number} of {name}: the old one stays visible"
            )
            at = self.what.findData(entry.name)
            if at >= 0:
                self.what.setCurrentIndex(at)
        else:
            self.form_title.setText("")

    # --- writing -----------------------------------------------------------------------------

    def begin_set(self) -> None:
        """Type a set more in, of the exercise that is chosen."""
        name, row = self.what.currentData(), self.row
        if row is None or self.view is None:
            self._say("choose a session first, or type in a new one")
            return
        own = [e for e in self.view.entries if e.session == row.id and e.name == name]
        last = (
            own[-1]
            if own
            else next((e for e in reversed(self.view.entries) if e.name == name), None)
        )
        if last is not None:
            base = last.done.changed(number=len(own) + 1, faults=(), pains=(), note="")
        elif name in catalogue():
            base = DoneSet(setup=Setup(variation=name), reps=5, number=1)
        else:
            base = DoneSet(drill=name, reps=10, number=1)
        self.table.clearSelection()
        self.adding = True
        self.form.show_set(base)
        self.form_title.setText(f"Set {base.number} of {exercise_words(name)}, typed in")
        self.form.reps.setFocus()

    def _keep(self, done: DoneSet) -> None:
        row, was, coach = self.row, self.table.picked, self.register.coach_id
        if row is None:
            return

        def work(store: Any, _tell: Any) -> Any:
            from zesty_lever.records.entries import append, correct, entry_of

            if was is not None and not self.adding:
                return correct(store, was, done, coach)
            made = entry_of(done, row.athlete, row.id, row.day, coach)
            append(store, [made])
            return made

        self.register.write(work)

    def _withdraw(self) -> None:
        was, coach = self.table.picked, self.register.coach_id
        if was is None:
            return

        def work(store: Any, _tell: Any) -> Any:
            from zesty_lever.records.entries import withdraw

            return withdraw(store, was, coach)

        self.register.write(work)

    def _ask_pain(self) -> None:
        if self.row is not None:
            self.pain.settle()
            self.pain.show()
            self.pain.raise_()
            self.pain.place.setFocus()

    def _take_pain(self) -> None:
        row, pain = self.row, self.pain.pain()
        self.pain.hide()
        if row is None:
            return
        day = row.day + (1 if pain.moment == "next-day" else 0)

        def work(store: Any, _tell: Any) -> Any:
            from zesty_lever.records.entries import add_pain

            add_pain(store, row.athlete, row.id, day, pain)

        self.register.write(work)

    def _attach(self, measured: Measured) -> None:
        """The chosen set as it was measured: its settings count, and the case stays with it."""
        was, coach = self.table.picked, self.register.coach_id
        if was is None or was.setup is None:
            self._say("choose the set that was measured first")
            return
        if was.setup.variation != measured.case.variation:
            name = exercise_words(measured.case.variation).lower()
            self._say(f"the measurement is of the {name}, not of this lift")
            return
        setup = was.setup.changed(settings=measured.case.settings, school=measured.case.school)
        done = was.done.changed(setup=setup, faults=measured.faults or was.faults)

        def work(store: Any, _tell: Any) -> Any:
            from zesty_lever.records.entries import attach, correct

            made = correct(store, was, done, coach)
            attach(store, made.id, "measured-case", measured.data)
            return made

        self.register.write(work)

    def new_session(self, day: int | None = None) -> None:
        """A session that was done already: today's unless another day is told."""
        person, today, by = (
            self.register.person_id,
            self.register.today(),
            self.session.bench.initials,
        )
        when = today if day is None or isinstance(day, bool) else day

        def work(store: Any, _tell: Any) -> Any:
            from zesty_lever.records.documents import add_session

            return add_session(store, person, when, Planned(name="Typed in"), "done", by)

        self.register.write(work)

    def themed(self) -> Iterable[Themed]:
        return (self.weeks, self.trends.plot)
