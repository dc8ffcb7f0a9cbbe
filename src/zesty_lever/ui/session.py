"""The working state of the window: the only source of change signals.

The session holds the bench, has it analysed and emits. Screens render what it holds and send
intentions back. Drags preview without history; finishing one makes a single undo step.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from functools import cached_property
from pathlib import Path
from typing import Any

import numpy as np
from PySide6.QtCore import QTimer, Signal
from PySide6.QtGui import QUndoCommand, QUndoStack

from zesty_lever.analysis import Impossible, Result, analyse, other_peaks
from zesty_lever.bench.edits import with_anchor
from zesty_lever.bench.files import keep_backup, write_bench
from zesty_lever.bench.model import Bench, Entry
from zesty_lever.cases.anchors import Anchor
from zesty_lever.cases.model import Athlete, Case, Setup
from zesty_lever.cases.parse import athlete_from
from zesty_lever.cases.resolve import resolve
from zesty_lever.choosing.loading import EQUAL, equal_demand_load_kg, typical_load_kg
from zesty_lever.exercises.catalogue import variation
from zesty_lever.feasibility import advised, nearest_drawable
from zesty_lever.problems import CaseError
from zesty_lever.ui.drag_edits import DragEdits
from zesty_lever.ui.worker import Worker

LEG_SETTINGS = (
    "stance_m",
    "toe_out_deg",
    "thigh_deg",
    "shin_deg",
    "knee_track_m",
    "heel_lift_deg",
    "heel_height_m",
    "pressure_fraction",
)
SLOT_NAMES = ("A", "B")
AUTOSAVE_AFTER_MS = 400
ADVISE_AFTER_MS = 120


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
    told = (advised(result.case, first), *others)
    return replace(result, outcome=replace(result.outcome, problems=told))


class _Step(QUndoCommand):
    """One step of history: the bench before and after."""

    def __init__(self, session: Session, label: str, before: Bench, after: Bench) -> None:
        super().__init__(label)
        self._session, self._before, self._after = session, before, after

    def undo(self) -> None:
        self._session.show_bench(self._before)

    def redo(self) -> None:
        self._session.show_bench(self._after)


class Session(DragEdits):
    """State, history and results of the window.

    ``moment_changed``: another moment of the rep is shown.
    """

    moment_changed = Signal()

    def __init__(self, bench: Bench, autosave: Path | None = None, read_only: str = "") -> None:
        super().__init__()
        self.bench = bench
        # Why nothing is saved, or empty.
        self.read_only = read_only
        self.history = QUndoStack(self)
        self.results: list[Result] = [analyse(bench.case(slot)) for slot in (0, 1)]
        self.drawn: list[Result] = [_drawable(result) for result in self.results]
        self._shown = self.results[bench.editing].timeline
        self.moment = self._shown.bottom
        self._ends: dict[int, tuple[Result | None, dict[str, float] | None]] = {}
        # What would help an impossible pose takes long: it is looked for beside the window.
        self._advised: list[Result | None] = [None, None]
        self._advise_soon = QTimer(self, singleShot=True, interval=ADVISE_AFTER_MS)
        self._advise_soon.timeout.connect(self._ask_advice)
        self._advise_soon.start()
        self._autosave = autosave
        self._save_soon = QTimer(self, singleShot=True, interval=AUTOSAVE_AFTER_MS)
        self._save_soon.timeout.connect(self.save)

    @property
    def one_sided(self) -> bool:
        """Whether the set-up being edited stands on one front leg."""
        return bool(variation(self.setup.variation).options.rear)

    def other_end(self, slot: int) -> dict[str, float] | None:
        """Peaks (N m) under the other contact rule where they differ; None in a drag."""
        if self.dragging or self.results[slot].error:
            return None
        result = self.results[slot]
        if self._ends.get(slot, (None, None))[0] is not result:
            self._ends[slot] = (result, other_peaks(result))
        return self._ends[slot][1]

    def frame_of(self, slot: int) -> int:
        """Frame of a set-up at the moment shown; where two reps run differently, by progress."""
        drawn = self.drawn[slot]
        last = max(drawn.frames - 1, 0)
        now = self.results[self.editing].timeline
        if slot == self.editing or drawn.timeline is now:
            return min(self.moment, last)
        gap = np.abs(drawn.timeline.progress - now.progress[self.moment])
        return min(int(np.argmin(gap)), last)

    def show_bench(self, bench: Bench) -> None:
        """Make a bench the current one and analyse what differs. Emits ``changed``."""
        before, fresh, drawn = self.bench, list(self.results), list(self.drawn)
        for slot in (0, 1):
            if bench.athlete != before.athlete or bench.setups[slot] != before.setups[slot]:
                fresh[slot] = analyse(bench.case(slot))
                drawn[slot] = _drawable(fresh[slot])
        self.bench, self.results, self.drawn = bench, fresh, drawn
        timeline, was = fresh[bench.editing].timeline, self._shown
        if timeline is not was:
            # Another kind of rep: stay at the moment of the same progress.
            gap = np.abs(timeline.progress - was.progress[min(self.moment, len(was.progress) - 1)])
            self.moment, self._shown = int(np.argmin(gap)), timeline
        self._save_soon.start()
        self._advise_soon.start()
        self.tell()

    @cached_property
    def _worker(self) -> Worker:
        """Made for the first impossible pose."""
        made = Worker(self)
        made.answered.connect(self._take_advice)
        return made

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
            self._worker.ask("advice", lambda _tell: [(slot, r, _advised(r)) for slot, r in asked])

    def _take_advice(self, kind: str, number: int, answer: object) -> None:
        if not self._worker.is_newest(kind, number):
            return
        assert isinstance(answer, list)
        for slot, result, better in answer:
            if self.results[slot] is result:
                self.drawn[slot] = better if self.drawn[slot] is result else self.drawn[slot]
                self.results[slot] = better
                self._advised[slot] = better
        self.changed.emit()

    def commit(self, label: str, bench: Bench) -> None:
        """Make a change that can be undone. Invalid ones are refused and nothing changes."""
        if bench == self.bench:
            return
        try:
            for slot in (0, 1):
                resolve(bench.case(slot))
        except CaseError as error:
            self.refused.emit(error.text)
            self.changed.emit()
            return
        self.history.push(_Step(self, label, self.bench, bench))

    def push_step(self, label: str, before: Bench) -> None:
        """Make what has been previewed since ``before`` one step of history."""
        self.history.push(_Step(self, label, before, self.bench))

    def edit_setup(self, label: str, **changes: Any) -> None:
        """Change fields of the set-up being edited."""
        setup = self.setup.changed(**changes)
        self.commit(label, self.bench.with_setup(self.editing, setup))

    def set_setting(self, key: str, value: float) -> None:
        """Give one setting a value, keeping the solved angle solved."""
        bench = self.with_value(key, value)
        if bench is not None:
            self.commit(f"Set {key}", bench)

    def solve_for(self, key: str) -> None:
        """Let balance solve another angle; the one solved so far keeps its value."""
        if key == self.free or not self.result.feasible:
            self.changed.emit()
            return
        settings = dict(self.setup.settings)
        if self.free:
            settings[self.free] = round(self.result.solved.bottom_deg[self.free], 3)
        settings[key] = None
        name = variation(self.setup.variation).settings[key].name.lower()
        self.commit(f"Solve {name} by balance", self.with_settings(settings))

    def move_anchor(self, anchor: Anchor, ahead_m: float, up_m: float) -> None:
        """Put an anchor of a band or cable elsewhere."""
        self.commit("Move anchor", with_anchor(self.bench, self.editing, anchor, ahead_m, up_m))

    def setup_to_bench(self, setup: Setup) -> None:
        """Put a set-up in the place that is edited."""
        setup = setup.setup if isinstance(setup, Entry | Case) else setup
        self._try(lambda: self.commit("To the bench", self.bench.with_setup(self.editing, setup)))

    def copy_to_other(self) -> None:
        """Give the other set-up everything of this one, to change a single thing there."""
        other = 1 - self.editing
        self.commit(f"Copy to {SLOT_NAMES[other]}", self.bench.with_setup(other, self.setup))

    def set_moment(self, frame: int) -> None:
        """Show another moment of the rep."""
        last = len(self.result.timeline.time_s) - 1
        frame = min(max(frame, 0), last)
        if frame != self.moment:
            self.moment = frame
            self.moment_changed.emit()

    def edit_slot(self, slot: int) -> None:
        """Choose which set-up is edited."""
        if slot != self.editing:
            self.commit(f"Edit {SLOT_NAMES[slot]}", self.bench.changed(editing=slot))

    def set_variation(self, name: str) -> None:
        """Change the variation being edited: default settings, a working load for this athlete."""
        if name != self.setup.variation:
            bare = Case(athlete=self.bench.athlete, variation=name)
            load: float | None = typical_load_kg(bare, self.bench.rules)[0]
            if not analyse(bare.changed(load_kg=load)).feasible:
                load = None
            self.edit_setup(
                f"Change to {variation(name).name}",
                variation=name,
                settings={},
                load_kg=load,
                load_up_kg=None,
                loads=(),
                contact_rule=None,
                school=self.bench.athlete.school or self.setup.school,
            )

    def set_athlete(self, label: str, **changes: Any) -> None:
        """Change the athlete's data; out-of-range values are refused with the range."""
        data = self.bench.athlete.as_json() | changes
        self._try(lambda: self.commit(label, self.bench.with_athlete(athlete_from(data))))

    def switch_athlete(self, index: int) -> None:
        """Put another athlete on the bench."""
        bench = self.bench.changed(current=index)
        if bench.athlete.school is not None:
            setups = tuple(s.changed(school=bench.athlete.school) for s in bench.setups)
            bench = bench.changed(setups=setups)
        self.commit(f"Switch to {bench.athlete.name}", bench)

    def add_athlete(self) -> None:
        """Add an athlete of average build and put them on the bench."""
        names = {a.name for a in self.bench.athletes}
        number = next(n for n in range(1, 1000) if f"Athlete {n}" not in names)
        athlete = Athlete(name=f"Athlete {number}", height_m=1.75, mass_kg=75.0, sex="male")
        athletes = (*self.bench.athletes, athlete)
        bench = self.bench.changed(athletes=athletes, current=len(athletes) - 1)
        self.commit("New athlete", bench)

    def take_athlete(self, athlete: Athlete, label: str = "Import athlete") -> None:
        """Add an athlete from elsewhere and put them on the bench."""
        athletes = (*self.bench.athletes, athlete)
        update = {"athletes": athletes, "current": len(athletes) - 1}
        self._try(lambda: self.commit(label, self.bench.changed(**update)))

    def remove_athlete(self) -> None:
        """Take the current athlete off the list; the last one stays."""
        if len(self.bench.athletes) == 1:
            self.refused.emit("The last athlete stays: change their data or add another first")
            return
        gone = self.bench.current
        athletes = tuple(a for i, a in enumerate(self.bench.athletes) if i != gone)
        lineup = tuple(
            e.changed(athlete=None if e.athlete is None else e.athlete - (e.athlete > gone))
            for e in self.bench.lineup
            if e.athlete != gone
        )
        update = {"athletes": athletes, "current": max(gone - 1, 0), "lineup": lineup}
        self.commit(f"Remove {self.bench.athlete.name}", self.bench.changed(**update))

    def take_case(self, case: Case) -> None:
        """Put a case on the bench: its athlete (added if not there yet) and its set-up."""
        known = [i for i, a in enumerate(self.bench.athletes) if a == case.athlete]
        athletes = self.bench.athletes if known else (*self.bench.athletes, case.athlete)
        current = known[0] if known else len(athletes) - 1
        bench = self.bench.changed(athletes=athletes, current=current)
        self._try(lambda: self.commit("Open case", bench.with_setup(self.editing, case.setup)))

    def same_legs(self) -> None:
        """Give B the legs, pressure point and load of A, so that only the load's place differs."""
        one, two = (variation(setup.variation) for setup in self.bench.setups)
        if not (one.stands_level and two.stands_level) or one.family != two.family:
            self.refused.emit("Legs can be shared between two squats, or two hinges, on level feet")
            return
        first = resolve(self.bench.case(0))
        other = variation(self.bench.setups[1].variation)
        shared = {k: v for k in LEG_SETTINGS if (v := first.settings.get(k)) is not None}
        for key, value in self.results[0].shown.bottom_deg.items():
            if key in LEG_SETTINGS and key != other.free:
                shared[key] = round(value, 3)
        low, high = other.load_range_kg()
        load = min(max(first.load_kg or 0.0, low), high)
        setup = self.bench.setups[1].changed(settings=shared, load_kg=load)
        self.commit("Same legs and load", self.bench.with_setup(1, setup))

    def swap(self) -> None:
        """Exchange A and B."""
        first, second = self.bench.setups
        self.commit("Swap A and B", self.bench.changed(setups=(second, first)))

    def matching(self, match: str) -> Callable[[], float]:
        """What gives B's load (kg) by ``same-load`` or ``equal:...`` against A.

        It can take long and reads nothing but what it was made with: run it beside the window. It raises
        `CaseError` where there is no such load.
        """
        bench, first = self.bench, self.results[0]

        def matched() -> float:
            if match == "same-load":
                return first.case.load_kg or 0.0
            return equal_demand_load_kg(bench.case(1), EQUAL[match], first.peak(EQUAL[match]))

        return matched

    def set_load_of(self, slot: int, load_kg: float) -> None:
        """Give one of the two set-ups a load."""
        setup = self.bench.setups[slot].changed(load_kg=round(load_kg, 1))
        self.commit(f"Match {SLOT_NAMES[slot]}'s load", self.bench.with_setup(slot, setup))

    def save(self) -> None:
        """Write the autosave file now."""
        self._save_soon.stop()
        if self._autosave is not None and not self.read_only:
            try:
                self._autosave.parent.mkdir(parents=True, exist_ok=True)
                keep_backup(self._autosave)
                write_bench(self.bench, self._autosave)
            except OSError as error:
                self.refused.emit(f"Could not save to {self._autosave}: {error.strerror}")
