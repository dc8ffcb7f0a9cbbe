"""The working state of the window: the only source of change signals.

The session holds the bench, has it analysed and emits. Screens render what it holds and send edits
(see `bench.edits`) back. Drags preview without history; finishing one makes a single undo step.
"""

from __future__ import annotations

import time
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING, ParamSpec

import numpy as np
from PySide6.QtCore import QObject, QTimer, Signal
from PySide6.QtGui import QUndoStack

from zesty_lever.analysis import Impossible, Result, analyse, analysed, other_peaks
from zesty_lever.bench.edit import Edit, Refused
from zesty_lever.bench.files import OnDisk, keep_backup, put_aside, read_bench, write_bench
from zesty_lever.bench.model import Bench
from zesty_lever.cases.model import Setup
from zesty_lever.cases.resolve import resolve
from zesty_lever.exercises.catalogue import variation
from zesty_lever.feasibility import advised, nearest_drawable
from zesty_lever.problems import CaseError
from zesty_lever.ui.jobs import Jobs
from zesty_lever.ui.steps import HeldStep

if TYPE_CHECKING:
    from zesty_lever.choosing.loading import TypicalRules
    from zesty_lever.physics.solved import Solved
    from zesty_lever.ui.register import Register

P = ParamSpec("P")
AUTOSAVE_AFTER_MS, LONGEST_UNSAVED_MS, RETRY_SAVE_MS = 400, 2000, 5000
ADVISE_AFTER_MS = 120
# While something is dragged the figure follows every step; of the rest one part follows at most this often, by
# turns, and all of it when the hand rests for so long.
TURN_EVERY_MS, RESTS_MS = 33, 80


def _drawable(result: Result) -> Result:
    """The result itself, or one near it that has frames, so that the impossible can be shown."""
    if result.frames:
        return result
    near = nearest_drawable(result.case)
    return result if near is None else analyse(near)


def _advised(result: Result) -> Result:
    """An impossible result whose first problem also says what would help."""
    if not isinstance(result.outcome, Impossible):
        return result
    first, *others = result.outcome.problems
    problems = (advised(result.case, first), *others)
    return replace(result, outcome=replace(result.outcome, problems=problems))


class _Step(HeldStep[Bench]):
    """One step of history: the bench before and after."""

    def __init__(
        self, session: Session, label: str, before: Bench, after: Bench, *, merges: bool = False
    ) -> None:
        super().__init__(label, before, after, merges=merges)
        self._session = session

    def show(self, state: Bench) -> None:
        self._session.show_bench(state)


class Session(QObject):
    """State, history and results of the window.

    ``changed``: the bench or its results are new. ``posed``: a step of a drag, for what has to follow at
    once. ``curves_due``, ``tiles_due``: the same as ``changed`` for what takes long to draw. ``moment_changed``: another moment of the rep is shown. ``refused``: something could not be
    done, with the reason in words. ``saved``: saving has begun to fail (why), or works again (empty). ``announced``: what has been done, where it is not seen at
    once.
    """

    changed = Signal()
    posed = Signal()
    curves_due = Signal()
    tiles_due = Signal()
    moment_changed = Signal()
    refused = Signal(str)
    saved = Signal(str)
    announced = Signal(str)
    # A screen of the window is asked for by name.
    screen_asked = Signal(str)
    # What to do instead of a lift (a `Setup`, or None for a drill) while places hurt: their names.
    instead_asked = Signal(object, object)

    def __init__(self, bench: Bench, autosave: Path | None = None, read_only: str = "") -> None:
        super().__init__()
        self.bench = bench
        # Why nothing is saved, or empty.
        self.read_only = read_only
        # Whether this is the demonstration, whose records begin with its invented log.
        self.demo = False
        self.history = QUndoStack(self)
        self.jobs = Jobs(self)
        self.jobs.answered.connect(self._take_advice)
        self.results: list[Result] = [analyse(bench.case(slot)) for slot in (0, 1)]
        # What can be drawn of them: themselves, or the nearest pose that can stand.
        self.drawable: list[Result] = [_drawable(result) for result in self.results]
        self._timeline = self.result.timeline
        self.moment = self._timeline.bottom
        self._ends: dict[int, tuple[Result | None, dict[str, float] | None]] = {}
        # What would help an impossible pose takes long: it is looked for beside the window.
        self._advised: list[Result | None] = [None, None]
        self._advise_soon = self._timer(ADVISE_AFTER_MS, self._ask_advice)
        self._advise_soon.start()
        self._autosave = autosave
        self._on_disk = None if autosave is None else OnDisk.of(autosave)
        # Why the last save did not work, or empty.
        self.save_problem = ""
        self._unsaved_since_s: float | None = None
        self._save_soon = self._timer(AUTOSAVE_AFTER_MS, self.save)
        self._drag_from: Bench | None = None
        self._emitted_s = 0.0
        self._turn = 0
        self._emit_soon = self._timer(RESTS_MS, self._emit_changed)
        self._register: Register | None = None
        # Ids in the records, those of athletes that a step back has taken off the bench too.
        self._ids_past: dict[bytes, int] = {}

    @property
    def register(self) -> Register:
        """The records; made when they are first asked for."""
        if self._register is None:
            from zesty_lever.ui.register import Register

            self._register = Register(self.jobs, self.folder, lambda: self.bench, self)
            self._register.demo = self.demo
            self._register.opened.connect(self._know_athletes)
            self._register.stood.connect(self._emit_soon.start)
        return self._register

    @property
    def rules(self) -> TypicalRules:
        """Rules of thumb for loads, with how the athlete stands today as far as the records were asked."""
        rules = self.bench.rules
        if self._register is None:
            return rules
        standing = self._register.standings.get(self._register.person_id)
        return rules if standing is None else replace(rules, standing=standing)

    def ask_how_they_stand(self) -> None:
        """Open the records beside the window where they know the athlete, so that lists go by what hurts."""
        known = self.bench.record_ids
        if self.bench.current < len(known) and known[self.bench.current]:
            self.register.ask_standing()

    def close_register(self) -> None:
        """Let go of the records, where they were opened."""
        if self._register is not None:
            self._register.close()

    def _know_athletes(self) -> None:
        """Note which athletes of the records stand on the bench: no step of history."""
        ids = tuple(str(own) if own else "" for own in self.register.ids)
        if ids != self.bench.athlete_ids and len(ids) == len(self.bench.athletes):
            self.bench = self.bench.changed(athlete_ids=ids)
            self._save_before_long()

    def _timer(self, after_ms: int, call: Callable[[], object]) -> QTimer:
        timer = QTimer(self, singleShot=True, interval=after_ms)
        timer.timeout.connect(call)
        return timer

    # --- state -------------------------------------------------------------------------------

    @property
    def folder(self) -> Path | None:
        """The user's data folder, where the bench is kept; None where nothing is kept."""
        return None if self._autosave is None else self._autosave.parent

    @property
    def editing(self) -> int:
        """Which set-up the controls and the handles change, 0 or 1."""
        return self.bench.editing

    @property
    def setup(self) -> Setup:
        """The set-up being edited."""
        return self.bench.setup

    @property
    def result(self) -> Result:
        """Result of the set-up being edited."""
        return self.results[self.editing]

    @property
    def free(self) -> str:
        """The angle that balance solves in the set-up being edited ('' when all are given)."""
        return self.result.case.free or ""

    @property
    def one_sided(self) -> bool:
        """Whether the set-up being edited stands on one front leg."""
        return bool(variation(self.setup.variation).options.rear)

    @property
    def dragging(self) -> bool:
        """Whether something is being dragged."""
        return self._drag_from is not None

    def other_end(self, slot: int) -> dict[str, float] | None:
        """Peaks (N m) under the other contact rule where they differ; None in a drag."""
        if self.dragging or self.results[slot].error:
            return None
        result = self.results[slot]
        if self._ends.get(slot, (None, None))[0] is not result:
            self._ends[slot] = (result, other_peaks(result))
        return self._ends[slot][1]

    @property
    def drawn(self) -> Solved | None:
        """What is drawn of the set-up being edited: its frames, or None where there are none."""
        shown = self.drawable[self.editing].shown
        return shown if shown.frames else None

    def frame_of(self, slot: int) -> int:
        """Frame of a set-up at the moment shown; where two reps run differently, by progress."""
        drawable = self.drawable[slot]
        last = max(drawable.frames - 1, 0)
        now = self.result.timeline
        if slot == self.editing or drawable.timeline is now:
            return min(self.moment, last)
        gap = np.abs(drawable.timeline.progress - now.progress[self.moment])
        return min(int(np.argmin(gap)), last)

    def set_moment(self, frame: int) -> None:
        """Show another moment of the rep."""
        last = len(self.result.timeline.time_s) - 1
        frame = min(max(frame, 0), last)
        if frame != self.moment:
            self.moment = frame
            self.moment_changed.emit()

    # --- edits -------------------------------------------------------------------------------

    def do(self, edit: Edit[P], *args: P.args, **kwargs: P.kwargs) -> None:
        """Make an edit one step of history; what the bench does not take is refused in words."""
        self._try(
            lambda: self.commit(
                edit.name(self.bench, *args, **kwargs),
                edit(self.bench, *args, **kwargs),
                merges=edit.merges,
            )
        )

    def commit(self, label: str, bench: Bench, *, merges: bool = False) -> None:
        """Make another bench one step of history. Raises `CaseError` where a set-up is invalid."""
        if bench == self.bench:
            return
        for slot in (0, 1):
            resolve(bench.case(slot))
        self.history.push(_Step(self, label, self.bench, bench, merges=merges))

    def _try(self, action: Callable[[], None]) -> None:
        try:
            action()
        except (CaseError, Refused) as error:
            self.refused.emit(error.text if isinstance(error, CaseError) else str(error))
            if not self.dragging:
                self.changed.emit()

    def begin_drag(self) -> None:
        """Start a drag: edits preview until `finish_drag`."""
        self._drag_from = self.bench
        self.set_moment(self.result.timeline.bottom)

    def preview(self, edit: Edit[P], *args: P.args, **kwargs: P.kwargs) -> None:
        """Show a step of a drag; one that can't be set up is refused and the last one stays."""

        def show() -> None:
            bench = edit(self.bench, *args, **kwargs)
            if bench != self.bench:
                self.show_bench(bench)

        self._try(show)

    def finish_drag(self, label: str) -> None:
        """End a drag: one undo step from where it began."""
        start, self._drag_from = self._drag_from, None
        if start is not None and start != self.bench:
            self.history.push(_Step(self, label, start, self.bench))

    def cancel_drag(self) -> None:
        """Give up a drag: back to where it began."""
        start, self._drag_from = self._drag_from, None
        if start is not None:
            self.show_bench(start)

    # --- showing -----------------------------------------------------------------------------

    def show_bench(self, bench: Bench) -> None:
        """Make a bench the current one and analyse what differs. Emits ``changed``."""
        self._ids_past |= self.bench.ids_by_body
        bench = bench.with_ids_of(self.bench, self._ids_past)
        before, fresh, drawable = self.bench, list(self.results), list(self.drawable)
        for slot in (0, 1):
            if bench.athlete != before.athlete or bench.setups[slot] != before.setups[slot]:
                fresh[slot] = analysed(bench.case(slot))
                drawable[slot] = _drawable(fresh[slot])
        self.bench, self.results, self.drawable = bench, fresh, drawable
        timeline, was = self.result.timeline, self._timeline
        if timeline is not was:
            # Another kind of rep: stay at the moment of the same progress.
            gap = np.abs(timeline.progress - was.progress[min(self.moment, len(was.progress) - 1)])
            self.moment, self._timeline = int(np.argmin(gap)), timeline
        self._save_before_long()
        self._advise_soon.start()
        if not self.dragging:
            self._emit_changed()
            return
        self._emit_in_turn()
        self._emit_soon.start()

    def _emit_changed(self) -> None:
        self._emit_soon.stop()
        for signal in (self.changed, self.curves_due, self.tiles_due):
            signal.emit()

    def _emit_in_turn(self) -> None:
        """A step of a drag: what has to follow at once, and of the rest one part where it is due."""
        now_s = time.monotonic()
        due = now_s - self._emitted_s > 1e-3 * TURN_EVERY_MS
        if due:
            self._emitted_s, self._turn = now_s, (self._turn + 1) % 3
        if due and self._turn == 0:
            self.changed.emit()
            return
        self.posed.emit()
        if due:
            (self.curves_due if self._turn == 1 else self.tiles_due).emit()

    def _ask_advice(self) -> None:
        if self.dragging:
            self._advise_soon.start()
            return
        asked = [
            (slot, r)
            for slot, r in enumerate(self.results)
            if not r.feasible and r is not self._advised[slot]
        ]
        if asked:
            self.jobs.ask("advice", lambda _tell: [(slot, r, _advised(r)) for slot, r in asked])

    def _take_advice(self, kind: str, number: int, answer: object) -> None:
        if kind != "advice" or not self.jobs.is_newest(kind, number):
            return
        assert isinstance(answer, list)
        for slot, result, better in answer:
            if self.results[slot] is result:
                if self.drawable[slot] is result:
                    self.drawable[slot] = better
                self.results[slot] = better
                self._advised[slot] = better
        self._emit_changed()

    # --- keeping -----------------------------------------------------------------------------

    def _save_before_long(self) -> None:
        """Save once the hand rests, and while it does not at the latest after two seconds."""
        now = time.monotonic()
        if self._unsaved_since_s is None:
            self._unsaved_since_s = now
        left_ms = max(LONGEST_UNSAVED_MS - int(1e3 * (now - self._unsaved_since_s)), 0)
        self._save_soon.start(min(AUTOSAVE_AFTER_MS, left_ms))

    def take_over_file(self) -> None:
        """Go on with the bench as it is on disk, without a history: somebody was erased from it."""
        if self._autosave is None:
            return
        bench = read_bench(self._autosave)
        self.history.clear()
        self._on_disk = OnDisk.of(self._autosave)
        self.bench = self.bench.changed(athlete_ids=())
        self._ids_past.clear()
        self.show_bench(bench)

    def save(self) -> None:
        """Write the autosave file now; emits ``saved`` where it did not work, or works again.

        What someone else has written there meanwhile is put aside first, and that is said.
        """
        self._save_soon.stop()
        self._unsaved_since_s = None
        if self._autosave is None or self.read_only:
            return
        before = self.save_problem
        try:
            self._autosave.parent.mkdir(parents=True, exist_ok=True)
            found = OnDisk.of(self._autosave)
            if found is not None and found != self._on_disk:
                aside = put_aside(self._autosave, "other")
                self.refused.emit(
                    f"{self._autosave.name} was changed by someone else meanwhile: theirs is kept as {aside.name}"
                )
            keep_backup(self._autosave)
            write_bench(self.bench, self._autosave)
            self._on_disk = OnDisk.of(self._autosave)
            self.save_problem = ""
        except OSError as error:
            self.save_problem = f"Not saved: {self._autosave} can't be written ({error.strerror})"
            self._save_soon.start(RETRY_SAVE_MS)
        if self.save_problem != before:
            self.saved.emit(self.save_problem)
