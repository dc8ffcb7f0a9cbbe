"""The running sessions: one an athlete, up to eight; steps, clock, confirmed sets, the end."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace
from typing import TYPE_CHECKING, Any

from PySide6.QtCore import QObject, Qt, QTimer, Signal

from zesty_lever import clock
from zesty_lever.cases.model import Athlete
from zesty_lever.frozen import dataclass
from zesty_lever.log import running
from zesty_lever.log.asked import Advice
from zesty_lever.log.entry import DoneSet, Entry, Pain
from zesty_lever.log.running import Run
from zesty_lever.records.documents import SessionRow
from zesty_lever.ui.session import Session
from zesty_lever.wording.messages import told

if TYPE_CHECKING:
    from zesty_lever.records.advising import History

MOST_RUNNING = 8
# Ramp sets are numbered from here on, apart from the working sets.
RAMP_FROM = 100


@dataclass(frozen=True)
class Running:
    """A run with whose it is, the row of its session, the sets of last time by lift, and the advice by item."""

    run: Run
    row: SessionRow
    name: str
    body: Athlete
    last: Mapping[str, Sequence[Entry]]
    advised: Mapping[str, Advice]
    begun: bool = False


class Runs(QObject):
    """``changed``: a step, a draft or the choice; ``ticked``: the number on the clock; ``rang``: a rest is over."""

    changed = Signal()
    ticked = Signal()
    rang = Signal()
    refused = Signal(str)

    def __init__(self, session: Session, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.session, self.register = session, session.register
        self.all: list[Running] = []
        self.at = 0
        self.clock: Callable[[], float] = clock.steady_s
        self._rung = False
        self._timer = QTimer(self, singleShot=True)
        self._timer.setTimerType(Qt.TimerType.PreciseTimer)
        self._timer.timeout.connect(self._tick)

    @property
    def now(self) -> Running | None:
        """The session in front."""
        return self.all[self.at] if self.at < len(self.all) else None

    @property
    def run(self) -> Run | None:
        """Its run."""
        return None if self.now is None else self.now.run

    # --- opening -----------------------------------------------------------------------------

    def question(self, wanted: int | None) -> Callable[[Callable[[float], None]], Any]:
        """What opens a session (in the worker): its row set running, its log, last time, advice."""
        person_id, today, settings = (
            self.register.person_id,
            self.register.today(),
            self.register.settings(),
        )
        by, now_ms, now_s = self.session.bench.initials, self.register.now_ms(), self.clock()
        already = {one.row.id for one in self.all}

        def work(store: Any, _tell: Any) -> Any:
            return _opened(
                store,
                wanted,
                self.register.person_id or person_id,
                today,
                settings,
                by,
                now_ms,
                now_s,
                already,
                self.register.journal,
            )

        return self.register.question(work)

    def take(self, found: Running | None) -> bool:
        """Put an opened session in front; whether there is one."""
        if found is None:
            return False
        known = [one.row.id for one in self.all]
        if found.row.id in known:
            self.at = known.index(found.row.id)
        elif len(self.all) >= MOST_RUNNING:
            self.refused.emit(f"{MOST_RUNNING} sessions run already: finish one first")
            return False
        else:
            self.all.append(found)
            self.at = len(self.all) - 1
        self._rung = True
        self._arm()
        self.changed.emit()
        return True

    def turn(self) -> None:
        """To the next running session."""
        if len(self.all) > 1:
            self.at = (self.at + 1) % len(self.all)
            self._rung = True
            self._arm()
            self.changed.emit()

    # --- the clock ---------------------------------------------------------------------------

    def _arm(self) -> None:
        """Wake up when the number on the screen changes next."""
        run = self.run
        self._timer.stop()
        if run is None or run.countdown is None:
            return
        wait = run.countdown.next_change_s(self.clock())
        self._timer.start(max(int(1e3 * wait) + 1, 1))

    def _tick(self) -> None:
        now, clock = self.now, self.clock()
        if now is None:
            return
        moved = running.tick(now.run, clock)
        if moved is not now.run:
            self._show(replace(now, run=moved))
            self.rang.emit()
            return
        count = now.run.countdown
        if count is not None and count.left_s(clock) <= 0.0 and not self._rung:
            self._rung = True
            self.rang.emit()
        self._arm()
        self.ticked.emit()

    # --- steps -------------------------------------------------------------------------------

    def _show(self, one: Running) -> None:
        self.all[self.at] = one
        count = one.run.countdown
        self._rung = count is None or count.left_s(self.clock()) <= 0.0
        self._arm()
        self.changed.emit()

    def begin(self) -> None:
        """The first step begins."""
        now = self.now
        if now is not None and not now.begun:
            fresh = running.forward(replace(now.run, at=now.run.at - 1), self.clock())
            self._mark(fresh)
            self._show(replace(now, run=fresh, begun=True))

    def _mark(self, run: Run) -> None:
        """Note when a block of paired minutes began, so that a crash does not lose its minutes."""
        step = run.step
        if step is not None and step.kind == "minute" and step.at_s == 0.0:
            try:
                self.register.journal.mark(
                    run.session_id, f"block-{step.block}", self.register.now_ms()
                )
            except OSError:
                # The minutes then go on from the last confirmed set.
                return

    def next(self) -> None:
        """Space: begin, start a hold, confirm the set, end the rest, pass the minute."""
        now = self.now
        if now is None or now.run.over:
            return
        if not now.begun:
            self.begin()
            return
        run, step = now.run, now.run.step
        assert step is not None
        holding = step.kind == "work" and step.seconds is not None
        if holding and run.countdown is None:
            self._show(replace(now, run=running.hold_begun(run, self.clock())))
            return
        if step.logs:
            self.confirm()
            return
        after = running.forward(run, self.clock())
        self._mark(after)
        self._show(replace(now, run=after))

    def confirm(self) -> None:
        """Keep the set as it stands: journal first, then the store; then the next step is due."""
        now = self.now
        if now is None or now.run.draft is None or now.run.step is None or not now.run.step.logs:
            return
        from zesty_lever.records.entries import entry_of

        run, draft = now.run, now.run.draft
        earlier = running.of_step(now.run.step, run.done)
        entry = entry_of(
            draft,
            run.athlete_id,
            run.session_id,
            now.row.day,
            self.register.coach_id,
            replaces=earlier[-1].id if earlier else None,
        )
        try:
            self.register.confirm(entry)
        except OSError as error:
            self.refused.emit(f"Not confirmed: the journal can't be written ({error.strerror})")
            return
        kept = replace(run, done=tuple(e for e in run.done if e not in earlier))
        after = running.confirmed(kept, entry, self.clock())
        self._mark(after)
        self._show(replace(now, run=after))
        if any(p.score > 0 or p.numb for p in draft.pains):
            self.ask_again()

    def back(self) -> None:
        """To the set before: confirming it again corrects it."""
        now = self.now
        if now is None:
            return
        before = running.back(now.run, self.clock())
        step = before.step
        if step is not None and before.draft is not None:
            found = running.of_step(step, now.run.done)
            if found:
                before = replace(before, draft=found[-1].done)
        self._show(replace(now, run=before, begun=True))

    def rest_more(self) -> None:
        """Fifteen seconds more rest."""
        now = self.now
        if now is not None:
            self._show(replace(now, run=running.rested_more(now.run)))

    def change(self, change: Callable[[DoneSet], DoneSet]) -> None:
        """Change the set that stands to be confirmed."""
        now = self.now
        if now is not None and now.run.draft is not None:
            self.all[self.at] = replace(now, run=running.changed(now.run, change))
            self.changed.emit()

    def loads_kg(self) -> tuple[float, ...]:
        """Loads that the gym makes for the lift in front."""
        from zesty_lever.coaching.gym import loads_at_hand_kg
        from zesty_lever.exercises.catalogue import catalogue

        run = self.run
        known = None if run is None or run.draft is None else catalogue().get(run.draft.name)
        if known is None:
            return ()
        most = known.load_range_kg()[1]
        made = loads_at_hand_kg(known.id, known.equipment, most, self.session.bench.gym)
        unloaded = known.load is not None and known.load.works_unloaded
        return (0.0, *made) if unloaded else made

    def step_load(self, up: bool) -> None:  # noqa: FBT001 (a direction)
        """The next load that the gym makes, heavier or lighter."""
        run = self.run
        if run is None or run.draft is None:
            return
        load, made = run.draft.load_kg, self.loads_kg()
        fits = (
            [kg for kg in made if kg > load + 1e-9]
            if up
            else [kg for kg in made if kg < load - 1e-9]
        )
        if fits:
            kg = fits[0] if up else fits[-1]
            self.change(lambda draft: draft.changed(load_kg=kg))

    # --- the end -----------------------------------------------------------------------------

    def tell_pain(self, pain: Pain) -> None:
        """Keep a pain that was there before the session or came in it, and ask the advice of what is left again."""
        now = self.now
        if now is None:
            return
        row, asked = now.row, self._asking_again(now)

        def work(store: Any, _tell: Any) -> Any:
            from zesty_lever.records.entries import add_pain

            add_pain(store, row.athlete, row.id, row.day, pain)
            return asked(store)

        self.register.write(work, self._take_advice)

    def ask_again(self) -> None:
        """Ask the advice of what is left again, with what was done and felt today."""
        now = self.now
        if now is not None:
            asked = self._asking_again(now)
            self.register.write(lambda store, _tell: asked(store), self._take_advice)

    def _asking_again(self, now: Running) -> Callable[[Any], Any]:
        today, settings, run = self.register.today(), self.register.settings(), now.run

        def ask(store: Any) -> tuple[int, Mapping[str, Advice]]:
            from zesty_lever.records.advising import advices

            history = _history(store, now.row.athlete, today, settings, run.done)
            return now.row.id, advices(now.row.session, history, today)

        return ask

    def _take_advice(self, answer: Any) -> None:
        """What hurts today stops what it must there and then: the loads of stopped lifts are taken away."""
        session_id, advised = answer
        for at, one in enumerate(self.all):
            if one.row.id != session_id:
                continue
            loads = dict(one.run.loads)
            stopped = []
            for key, advice in advised.items():
                was = loads.get(key)
                if advice.action == "stop":
                    loads[key] = 0.0 if was else was
                    stopped.append(key)
                elif advice.load_kg is not None and was and advice.load_kg < was:
                    loads[key] = advice.load_kg
            memory = {
                key: done
                for key, done in one.run.memory.items()
                if key not in stopped and (loads.get(key) or 0.0) >= done.load_kg
            }
            run = replace(one.run, loads=loads, memory=memory)
            step = run.step
            if step is not None and run.draft is not None and step.item.key in advised:
                planned = run.planned(step)
                if planned.load_kg < run.draft.load_kg:
                    run = replace(run, draft=run.draft.changed(load_kg=planned.load_kg))
            self.all[at] = replace(one, run=run, advised=advised)
        self.changed.emit()

    def keep_ramp(self) -> None:
        """Keep the ramp sets of the lift in front: they count in exposure, never in progress."""
        from zesty_lever.records.entries import entry_of

        now = self.now
        if now is None or now.run.draft is None or now.run.step is None:
            return
        run, step = now.run, now.run.step
        advice = now.advised.get(step.item.key)
        if advice is None or not advice.ramp or any(e.item == step.item.key for e in run.done):
            return
        made = []
        for number, (load, reps) in enumerate(advice.ramp, start=1):
            done = run.planned(step).changed(
                style="ramp", load_kg=load, load_up_kg=None, reps=reps, number=RAMP_FROM + number
            )
            made.append(
                entry_of(done, run.athlete_id, run.session_id, now.row.day, self.register.coach_id)
            )
        try:
            for entry in made:
                self.register.confirm(entry)
        except OSError as error:
            self.refused.emit(f"Not confirmed: the journal can't be written ({error.strerror})")
            return
        self._show(replace(now, run=replace(run, done=(*run.done, *made))))

    def finish(self, rating: int | None) -> None:
        """End the session in front, with how hard it felt; the others run on."""
        now = self.now
        if now is None:
            return
        words = {key: " ".join(told(advice)) for key, advice in now.advised.items()}
        row, by, ended = now.row, self.session.bench.initials, self.register.now_ms()
        del self.all[self.at]
        self.at = min(self.at, max(len(self.all) - 1, 0))

        def work(store: Any, _tell: Any) -> Any:
            from zesty_lever.records.deciding import keep_decisions
            from zesty_lever.records.documents import save_session, session_row

            fresh = session_row(store, row.id) or row
            more = {
                "state": "done",
                "ended_ms": max(ended, fresh.started_ms or 0),
                "rating": rating,
            }
            save_session(store, fresh, by, **more)
            keep_decisions(store, now.advised, now.run.done, by, words)
            self.register.journal.acknowledged([], ended=[row.id])

        self.register.write(work)
        self._arm()
        self.changed.emit()


def _history(store: Any, athlete: int, today: int, settings: Any, done: Sequence[Entry]) -> History:
    """All that advice rests on, with the sets of a session that runs, written already or not."""
    from zesty_lever.records.advising import HISTORY_DAYS, History
    from zesty_lever.records.documents import sessions_of
    from zesty_lever.records.entries import log_of, pains_of
    from zesty_lever.records.people import person

    days = (today - HISTORY_DAYS, today)
    written = log_of(store, athlete, days=days)
    known = {entry.id for entry in written}
    replaced = {entry.replaces for entry in done if entry.replaces is not None}
    fresh = [entry for entry in done if entry.id not in known]
    entries = [entry for entry in written if entry.id not in replaced] + fresh
    return History.of(
        person(store, athlete),
        entries,
        pains_of(store, athlete),
        settings.rules,
        settings.typical,
        sessions_of(store, athlete, days),
    )


def _opened(
    store: Any,
    wanted: int | None,
    person_id: int,
    today: int,
    settings: Any,
    by: str,
    now_ms: int,
    now_s: float,
    already: set[int],
    journal: Any,
) -> Running | None:
    """The session to run (in the worker); None where nothing is planned."""
    from zesty_lever.log.trends import lift_days
    from zesty_lever.plan.loads import working_load
    from zesty_lever.problems import CaseError
    from zesty_lever.records.advising import HISTORY_DAYS, advices, with_advice
    from zesty_lever.records.documents import save_session, session_row, sessions_of
    from zesty_lever.records.entries import log_of
    from zesty_lever.records.people import person

    row = session_row(store, wanted) if wanted is not None else None
    if wanted is None:
        found = sessions_of(store, person_id, (today - 1, today + 7), ("running", "planned"))
        due = [r for r in found if r.id not in already and (r.state == "running" or r.day >= today)]
        if not due:
            return None
        row = due[0]
    if row is None:
        return None
    who = person(store, row.athlete)
    entries = log_of(store, row.athlete, days=(today - HISTORY_DAYS, today + 7))
    own = [e for e in entries if e.session == row.id]
    before = [e for e in entries if e.session != row.id]
    history = _history(store, row.athlete, today, settings, own)
    advised = advices(row.session, history, today)
    if row.state == "planned":
        ready = with_advice(row.session, advised)
        row = save_session(
            store, row, by, state="running", started_ms=now_ms, session=ready, day=today
        )
    loads: dict[str, float | None] = {}
    for _, item in row.session.listed():
        try:
            loads[item.key] = working_load(item, who.body, settings.typical)[0]
        except CaseError:
            loads[item.key] = item.load_kg
    run = running.begin(
        row.id, row.athlete, row.session, loads, own, now_s, now_ms, journal.marks(row.id)
    )
    names = {item.name for _, item in row.session.listed() if item.setup is not None}
    last = {}
    for name in names:
        days = lift_days(before, name)
        if days:
            last[name] = days[-1].sets
    return Running(run, row, who.name, who.body, last, advised, begun=bool(own))
