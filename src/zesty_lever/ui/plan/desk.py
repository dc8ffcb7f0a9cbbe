"""The plan on the desk: its document with history, written to the records beside the window, conflicts told."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PySide6.QtCore import QObject, QTimer, Signal

from zesty_lever.plan import edits
from zesty_lever.plan.document import Plan, Session, keyed
from zesty_lever.problems import CaseError
from zesty_lever.records.documents import PlanRow, SessionRow
from zesty_lever.records.views import PlanView, plan_view
from zesty_lever.ui.kit.waiting import Waiting
from zesty_lever.ui.session import Session as Bench
from zesty_lever.ui.steps import HeldStep

SAVE_AFTER_MS = 250
EMPTY = Plan(name="")


class _PlanStep(HeldStep[Plan]):
    """One step of a plan's history."""

    kind = 7

    def __init__(
        self, desk: PlanDesk, label: str, before: Plan, after: Plan, *, merges: bool
    ) -> None:
        super().__init__(label, before, after, merges=merges)
        self._desk, self._of = desk, desk.row.id if desk.row else 0

    def show(self, state: Plan) -> None:
        # A step of another plan than the one on the desk leaves this one alone.
        if self._desk.row is not None and self._desk.row.id == self._of:
            self._desk.show(state)
        else:
            self._desk.session.announced.emit(
                "That step is of another plan: open it to undo there."
            )


class PlanDesk(QObject):
    """``changed``: the plan, the choice or what is known is new. ``conflicted``: someone else was quicker."""

    changed = Signal()
    conflicted = Signal(object)

    def __init__(self, session: Bench, waiting: Waiting) -> None:
        super().__init__(waiting)
        self.session, self.register, self.waiting = session, session.register, waiting
        self.view: PlanView | None = None
        self.row: PlanRow | None = None
        self.plan = EMPTY
        self.key = ""
        # Why the plan on the desk differs from the records: someone else's version.
        self.beaten: Any = None
        self._saving = False
        self._save_soon = QTimer(self, singleShot=True, interval=SAVE_AFTER_MS)
        self._save_soon.timeout.connect(self.save)
        waiting.answered.connect(self._take)
        self.register.conflicted.connect(self._conflict)

    # --- reading -----------------------------------------------------------------------------

    def ask(self) -> None:
        """Read the plans of the athlete on the bench anew."""
        today, settings = self.register.today(), self.register.settings()

        def question(store: Any, tell: Callable[[float], None]) -> Any:
            from zesty_lever.records.people import person

            return plan_view(store, person(store, self.register.person_id), today, settings, tell)

        self.waiting.ask(self.register.question(question))

    def _take(self, answer: Any) -> None:
        view: PlanView = answer
        same = self.view is not None and self.view.person.id == view.person.id
        self.view = view
        kept = next((p for p in view.plans if self.row and same and p.id == self.row.id), None)
        if kept is None:
            self.open(view.plans[0] if view.plans else None)
            return
        if not self.writing and kept.version != (self.row.version if self.row else 0):
            self.row, self.plan = kept, kept.plan
        self.changed.emit()

    @property
    def writing(self) -> bool:
        """Whether a change is still on its way to the records."""
        return self._saving or self._save_soon.isActive()

    def open(self, row: PlanRow | None) -> None:
        """Put a plan on the desk; the session that is next is chosen."""
        if self._save_soon.isActive():
            self.save()
        self.row, self.beaten = row, None
        self.plan = EMPTY if row is None else row.plan
        self.key = ""
        if row is not None:
            today = self.register.today()
            days = [(row.day_of(week, s), s.key) for week, s in row.plan.sessions()]
            ahead = [pair for pair in days if pair[0] >= today] or days[-1:]
            self.key = min(ahead)[1] if ahead else ""
        self.changed.emit()

    # --- what is chosen ------------------------------------------------------------------------

    @property
    def chosen(self) -> Session | None:
        """The session that is edited."""
        return next((s for _, s in self.plan.sessions() if s.key == self.key), None)

    @property
    def week(self) -> int:
        """The week of the session that is edited; 0 where none is."""
        return next((w for w, s in self.plan.sessions() if s.key == self.key), 0)

    def choose(self, key: str) -> None:
        """Look at another session."""
        if key != self.key:
            self.key = key
            self.changed.emit()

    def state_of(self, key: str) -> SessionRow | None:
        """The session of the records that belongs to a key of this plan."""
        if self.view is None or self.row is None:
            return None
        own = self.row.id
        rows = self.view.log.sessions
        return next((r for r in rows if r.plan == own and r.slot == key), None)

    @property
    def locked(self) -> bool:
        """Whether the chosen session has begun: it is then the log's."""
        row = self.state_of(self.key)
        return row is not None and row.state != "planned"

    # --- editing -----------------------------------------------------------------------------

    def do(self, label: str, change: Callable[[Plan], Plan], *, merges: bool = False) -> None:
        """Make a change one step of history; what can't be done is said."""
        if self.row is None:
            self.session.announced.emit("Begin a plan first: New plan, Build, or a template.")
            return
        try:
            after = keyed(change(self.plan))
        except CaseError as error:
            self.session.announced.emit(error.text[0].upper() + error.text[1:])
            self.changed.emit()
            return
        if after != self.plan:
            self.session.history.push(_PlanStep(self, label, self.plan, after, merges=merges))

    def do_session(
        self, label: str, change: Callable[[Session], Session], *, merges: bool = False
    ) -> None:
        """The same for the chosen session; one that has begun is left alone."""
        chosen = self.chosen
        if chosen is None:
            return
        if self.locked:
            self.session.announced.emit(
                "This session has begun: what was done is changed in the Log."
            )
            self.changed.emit()
            return
        self.do(label, lambda plan: edits.with_session(plan, change(chosen)), merges=merges)

    def show(self, plan: Plan) -> None:
        """Show a state of history and write it before long."""
        self.plan = plan
        if self.key not in {s.key for _, s in plan.sessions()}:
            self.key = next((s.key for _, s in plan.sessions()), "")
        self._save_soon.start()
        self.changed.emit()

    def save(self) -> None:
        """Write the plan where it differs from the records."""
        self._save_soon.stop()
        row, plan, by = self.row, self.plan, self.session.bench.initials
        today = self.register.today()
        if row is None or self._saving or plan == row.plan or self.beaten is not None:
            return
        self._saving = True

        def work(store: Any, _tell: Any) -> Any:
            from zesty_lever.records.documents import save_plan

            return save_plan(store, row, plan, by, since=today)

        self.register.write(work, self._saved)

    def _saved(self, row: Any) -> None:
        self._saving = False
        if self.row is not None and row.id == self.row.id:
            self.row = row
            if self.plan != row.plan:
                self._save_soon.start()
        self.ask()

    def _conflict(self, beaten: Any) -> None:
        if not self._saving:
            return
        self._saving = False
        self.beaten = beaten
        self.conflicted.emit(beaten)
        self.changed.emit()

    def settle(self, how: str) -> None:
        """End a conflict: ``mine`` overwrites knowingly, ``theirs`` drops mine, ``copy`` keeps mine as another plan."""
        beaten, self.beaten = self.beaten, None
        theirs, mine = getattr(beaten, "theirs", None), self.plan
        if how == "copy" or (how == "mine" and theirs is None):
            self.add(mine.changed(name=f"{mine.name}, mine"[:80]))
        elif how == "mine" and isinstance(theirs, PlanRow):
            self.row = theirs
            self.save()
        if how in ("theirs", "copy"):
            self.open(theirs if isinstance(theirs, PlanRow) else None)
        self.changed.emit()

    # --- plans and templates -------------------------------------------------------------------

    def add(self, plan: Plan, first_day: int | None = None, template: int | None = None) -> None:
        """A new plan of the athlete on the bench, beginning this week unless told."""
        person, by = self.register.person_id, self.session.bench.initials
        today = self.register.today()
        day = today if first_day is None else first_day

        def work(store: Any, _tell: Any) -> Any:
            from zesty_lever.records.documents import add_plan

            return add_plan(store, person, day, plan, by, template, since=max(day, today))

        self.register.write(work, self._added)

    def _added(self, row: Any) -> None:
        self.open(row)
        self.ask()

    def keep_template(self, name: str) -> None:
        """Keep this plan as a template: no athlete, no kilograms, no day."""
        plan, by = edits.as_template(self.plan, name), self.session.bench.initials

        def work(store: Any, _tell: Any) -> Any:
            from zesty_lever.records.templates import save_template, templates

            was = next((row for row in templates(store) if row.plan.name == name), None)
            return save_template(store, plan, by, was)

        self.register.write(
            work, lambda row: self.session.announced.emit(f"Kept as the template {row.plan.name}.")
        )

    def start_template(self, template: int) -> None:
        """Begin a plan from a template, by copy."""
        if self.view is None:
            return
        row = next((t for t in self.view.templates if t.id == template), None)
        if row is not None:
            self.add(edits.started(row.plan, row.version), None, row.id)

    def remove(self) -> None:
        """Take the plan away; what was done of it stays in the log."""
        row = self.row
        if row is None:
            return

        def work(store: Any, _tell: Any) -> Any:
            from zesty_lever.records.documents import delete_plan

            delete_plan(store, row.id)

        self._save_soon.stop()
        self.row = None
        self.register.write(work, lambda _none: self.ask())
