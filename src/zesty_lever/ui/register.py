"""The records as the window knows them: opened beside it when first needed, asked and written in the worker."""

from __future__ import annotations

import os
import tempfile
import threading
from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING, Any

from PySide6.QtCore import QObject, QTimer, Signal

from zesty_lever import clock
from zesty_lever.bench.model import Bench
from zesty_lever.problems import CaseError
from zesty_lever.ui.jobs import CancelledError, Jobs

if TYPE_CHECKING:
    from zesty_lever.coaching.who import Standing
    from zesty_lever.log.entry import Entry
    from zesty_lever.records.journal import Journal
    from zesty_lever.records.store import Store
    from zesty_lever.records.views import Settings

    Work = Callable[[Store, Callable[[float], None]], Any]

VARIABLE = "ZESTY_LEVER_RECORDS"
LOOK_EVERY_MS = 3000
RETRY_S = (2, 4, 8, 16, 32, 60)
# So long the window's end waits for what is still to be written, s.
LAST_WRITES_S = 5.0
# What keeps a set waiting in the journal, in contrast to what refuses it.
WAITS_FOR = ("records-full", "records-busy", "records-gone", "records-read-only")


class Register(QObject):
    """One store for the window.

    ``opened``: it is open. ``changed``: something in it is new, written here or by others. ``failed``: why
    something could not be done. ``conflicted``: someone else was quicker (a `ChangedMeanwhileError`).
    ``waiting``: why confirmed sets wait in the journal, or empty. ``stood``: what is known of how athletes stand
    today (stage, what hurts, what was done) is new.
    """

    opened = Signal()
    changed = Signal()
    failed = Signal(str)
    conflicted = Signal(object)
    waiting = Signal(str)
    stood = Signal()

    def __init__(
        self,
        jobs: Jobs,
        folder: Path | None,
        bench: Callable[[], Bench],
        parent: QObject | None = None,
    ) -> None:
        super().__init__(parent)
        self.jobs, self._bench = jobs, bench
        self._scratch = (
            None if folder else tempfile.TemporaryDirectory(prefix="zesty-lever-records-")
        )
        self.folder = folder or Path(self._scratch.name if self._scratch else ".")
        # A demonstration begins with its invented log.
        self.demo = False
        self.store: Store | None = None
        self.ids: tuple[int, ...] = ()
        self.coach_id: int | None = None
        # Sessions that are running, and the one in front.
        self.running: list[int] = []
        # The session that a screen shall show next (from the roster, from the plan).
        self.wanted_session: int | None = None
        # How athletes stand today, by their id: every load that is chosen outside a plan goes by it.
        self.standings: dict[int, Standing] = {}
        self._asked, self._tries = 0, 0
        self._calls: dict[str, Callable[[Any], None]] = {}
        self._mark: object = None
        # Whether it has been told that they are open.
        self._told = False
        # How many writes are on their way, how much is being asked, and whether the records are no more wanted.
        self._writing, self._asking, self._gone = 0, 0, False
        self._written = threading.Condition()
        self._look = QTimer(self, interval=LOOK_EVERY_MS)
        self._look.timeout.connect(self._look_for_others)
        self._retry = QTimer(self, singleShot=True)
        self._retry.timeout.connect(self.replay)
        jobs.answered.connect(self._take)
        jobs.failed.connect(self._take_failure)
        self.opened.connect(self.ask_standing)
        self.changed.connect(self.ask_standing)

    # --- opening -----------------------------------------------------------------------------

    @property
    def address(self) -> str | Path:
        """Where the records are."""
        return os.environ.get(VARIABLE) or self.folder / "records.db"

    @property
    def journal(self) -> Journal:
        """Confirmed sets on their way."""
        from zesty_lever.records.journal import Journal

        return Journal(self.folder / "running.jsonl")

    def _open(self) -> Store:
        """Open the store (in the worker): the demonstration's log, the bench's athletes, what waits."""
        if self.store is not None:
            return self.store
        from zesty_lever.records import people
        from zesty_lever.records.store import open_store

        store = open_store(self.address, daily=False)
        if self.demo and not people.people(store):
            from zesty_lever.records.demo import load_demo

            load_demo(store, self.today())
        if not store.read_only:
            self.journal.replay(store)
        self.store = store
        return store

    def _known(self, store: Store) -> Any:
        """The bench's athletes taken over, and the coach entered (in the worker)."""
        from zesty_lever.records import people

        bench = self._bench()
        ids: list[int] = list(bench.record_ids)
        if not store.read_only:
            ids = people.take_over(store, bench.athletes, bench.record_ids, self.today())
            if bench.coach:
                self.coach_id = people.coach_named(store, bench.coach, bench.initials).id
        return tuple(ids)

    def settings(self) -> Settings:
        """What the coach has set, for advice and counting."""
        from zesty_lever.coaching.numbers import rules_with
        from zesty_lever.records.views import Settings

        bench = self._bench()
        return Settings(
            rules_with(bench.advice_rules), bench.rules, bench.hard_share, bench.reference_lift
        )

    # --- asking and writing ------------------------------------------------------------------

    def question(self, work: Work) -> Callable[[Callable[[float], None]], Any]:
        """A question for the worker that opens the records first where they are not open yet."""

        def known(store: Store, tell: Callable[[float], None]) -> Any:
            ids = self._known(store)
            if ids != self.ids or not self._told:
                self.ids, self._told = ids, True
                # Told on the window's thread: the signal crosses over.
                self.jobs.answered.emit("records-opened", 0, ids)
            return work(store, tell)

        return self._while_there(known)

    def _while_there(self, work: Work) -> Callable[[Callable[[float], None]], Any]:
        """The same for the worker, with the records open, as long as they have not been let go of."""

        def ask(tell: Callable[[float], None]) -> Any:
            with self._written:
                if self._gone:
                    raise CancelledError
                self._asking += 1
            try:
                return work(self._open(), tell)
            finally:
                with self._written:
                    self._asking -= 1
                    self._let_go()

        return ask

    def write(self, work: Work, then: Callable[[Any], None] | None = None) -> None:
        """Write something; ``then`` gets what the work returns, on the window's thread."""
        self._asked += 1
        with self._written:
            self._writing += 1
        kind = f"records-write-{self._asked}"
        if then is not None:
            self._calls[kind] = then

        def guarded(tell: Callable[[float], None]) -> Any:
            from zesty_lever.records.versioned import ChangedMeanwhileError

            try:
                return self.question(work)(tell)
            except ChangedMeanwhileError as beaten:
                return beaten
            finally:
                with self._written:
                    self._writing -= 1
                    self._written.notify_all()

        self.jobs.ask(kind, guarded)

    def _take(self, kind: str, _number: int, answer: object) -> None:
        if kind == "records-opened":
            self._look.start()
            self._back_up()
            self.opened.emit()
            return
        if kind == "records-mark":
            if self._mark is not None and answer != self._mark:
                self.changed.emit()
            self._mark = answer
            return
        if kind == "records-standing":
            if answer is not None:
                known: Any = answer
                person, standing = known
                if self.standings.get(person) != standing:
                    self.standings[person] = standing
                    self.stood.emit()
            return
        if not kind.startswith("records-write-"):
            return
        then = self._calls.pop(kind, None)
        from zesty_lever.records.versioned import ChangedMeanwhileError

        if isinstance(answer, ChangedMeanwhileError):
            self.conflicted.emit(answer)
        elif then is not None:
            then(answer)
        self.changed.emit()

    def _take_failure(self, kind: str, _number: int, why: str) -> None:
        if kind.startswith("records-write-") or kind == "records-backup":
            self._calls.pop(kind, None)
            self.failed.emit(why)

    def _back_up(self) -> None:
        """The day's backup, once the screen is there."""
        store = self.store
        if store is None or store.path is None or store.read_only:
            return
        path = store.path

        def work(_tell: Callable[[float], None]) -> Any:
            from zesty_lever.records.keeping import daily_backup

            try:
                daily_backup(path)
            except OSError as error:
                raise CaseError("records-full", f"no backup today: {error.strerror}") from error

        self.jobs.ask("records-backup", work, long=True)

    def ask_standing(self) -> None:
        """Ask how the athlete on the bench stands today: stage, open stops, what was done."""
        today, settings = self.today(), self.settings()

        def work(store: Store, _tell: Callable[[float], None]) -> Any:
            from zesty_lever.records.advising import standing_on

            person = self.person_id
            if not person:
                return None
            return person, standing_on(store, person, today, settings.rules, settings.typical)

        self.jobs.ask("records-standing", self.question(work))

    def _look_for_others(self) -> None:
        if self.store is not None:
            self.jobs.ask("records-mark", self._while_there(lambda store, _tell: store.mark()))

    # --- confirmed sets ----------------------------------------------------------------------

    def confirm(self, entry: Entry) -> None:
        """Keep a confirmed set: in the journal now, in the store as soon as it takes it.

        Raises `OSError` where not even the journal can be written: then nothing is confirmed.
        """
        self.journal.add(entry)
        self.replay()

    def replay(self) -> None:
        """Bring what waits in the journal into the store; try again later where that can't be done."""

        def work(store: Store, _tell: Callable[[float], None]) -> str:
            try:
                self.journal.replay(store)
            except CaseError as error:
                if error.code in WAITS_FOR:
                    return error.text
                raise
            return ""

        self.write(work, self._replayed)

    def _replayed(self, why: Any) -> None:
        if why:
            self._retry.start(1000 * RETRY_S[min(self._tries, len(RETRY_S) - 1)])
            self._tries += 1
            self.waiting.emit(f"Confirmed sets wait in the journal: {why}")
            return
        self._tries = 0
        self.waiting.emit("")

    # --- who ---------------------------------------------------------------------------------

    @property
    def person_id(self) -> int:
        """The record of the athlete on the bench; 0 before it is known."""
        current = self._bench().current
        return self.ids[current] if current < len(self.ids) else 0

    def today(self) -> int:
        """The coach's own day."""
        return clock.today()

    def now_ms(self) -> int:
        """The wall clock, ms since 1970; only ever noted, never used to measure."""
        return clock.now_ms()

    def close(self) -> None:
        """Let go of the store, once what was asked to be written is written: after this the program ends."""
        self._look.stop()
        self._retry.stop()
        with self._written:
            self._written.wait_for(lambda: not self._writing, LAST_WRITES_S)
            self._gone = True
            self._let_go()

    def _let_go(self) -> None:
        """Close the store where it is no more wanted and nobody is asking: who asks last closes it."""
        if self._gone and not self._asking and self.store is not None:
            self.store.close()
            self.store = None
