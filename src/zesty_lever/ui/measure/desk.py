"""What lies on the desk of Measure: the clip, its marks, what was measured; the only truth of the screen."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import numpy as np
from PySide6.QtCore import QObject, QTimer, Signal
from PySide6.QtGui import QImage

from zesty_lever.bench import edits as bench_edits
from zesty_lever.bench.edit import Refused
from zesty_lever.measure import edits
from zesty_lever.measure.clip import Clip
from zesty_lever.measure.marks import MarksFile, Place
from zesty_lever.measure.measuring import measure
from zesty_lever.measure.motion import Motion
from zesty_lever.measure.store import Measurements
from zesty_lever.measure.track import Tracks, track
from zesty_lever.problems import CaseError
from zesty_lever.ui.kit.waiting import Waiting
from zesty_lever.ui.measure.reel import Reel
from zesty_lever.ui.session import Session
from zesty_lever.ui.steps import HeldStep

# What the session's jobs call working angles out.
MEASURED = "measured"
SAVE_AFTER_MS, MEASURE_AFTER_MS = 500, 60


class _MarkStep(HeldStep[MarksFile]):
    """One step of history: the marks before and after."""

    kind = 2

    def __init__(
        self, desk: Desk, label: str, before: MarksFile, after: MarksFile, *, merges: bool
    ) -> None:
        super().__init__(label, before, after, merges=merges)
        self._desk, self._clip = desk, desk.clip

    def show(self, state: MarksFile) -> None:
        # Marks of a clip that is no longer on the desk stay with it.
        if self._desk.clip is self._clip:
            self._desk.show_marks(state)


class Desk(QObject):
    """State of the screen Measure.

    ``changed``: marks, clip or what was measured are new. ``framed``: another frame is shown. ``chosen``: another
    mark is worked with. ``told``: a line for the coach.
    """

    changed = Signal()
    framed = Signal()
    chosen = Signal()
    told = Signal(str)

    def __init__(self, session: Session, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.session = session
        self.clip: Clip | None = None
        self.marks = MarksFile(athlete=session.bench.athlete)
        self.frame = 0
        self.image = QImage()
        self.name = "ankle"
        self.tracks: Tracks | None = None
        self.motion: Motion | None = None
        # Why nothing is measured although marks are set, or empty.
        self.problem = ""
        self.hiding: tuple[str, int] | None = None
        self.number = ""
        self._touched = False
        # The clip's hash, empty until it is known.
        self._hash = ""
        self._opening: MarksFile | None = None
        self._opening_number = ""
        self._tracked: tuple[object, object] | None = None
        self.reel = Reel(self)
        self.reel.opened.connect(self._take_clip)
        self.reel.shown.connect(self._take_frame)
        self.reel.hashed.connect(self._take_hash)
        self.reel.failed.connect(self.told)
        self.waiting = Waiting(session.jobs, "measure")
        self.waiting.answered.connect(self._take_tracks)
        self.waiting.failed.connect(self._fail)
        session.jobs.answered.connect(self._take_motion)
        folder = session.folder
        self.store = None if folder is None else Measurements(folder / "measurements")
        self._save_soon = QTimer(self, singleShot=True, interval=SAVE_AFTER_MS)
        self._save_soon.timeout.connect(self.save)
        self._measure_soon = QTimer(self, singleShot=True, interval=MEASURE_AFTER_MS)
        self._measure_soon.timeout.connect(self._measure)
        session.changed.connect(self._follow_athlete)

    # --- clip and frames ---------------------------------------------------------------------

    def open(self, path: Path, marks: MarksFile | None = None, number: str = "") -> None:
        """Open a clip or picture, with the marks that were kept with it."""
        self._opening, self._opening_number = marks, number
        self.reel.open(path)

    def reopen(self, number: str) -> None:
        """Open a measurement that was kept, with its clip where it lay."""
        assert self.store is not None
        try:
            marks = self.store.marks(number)
        except (CaseError, OSError) as error:
            self.told.emit(f"The measurement can't be read: {error}")
            return
        path = Path(marks.path or marks.clip)
        if not path.is_file():
            self.told.emit(
                f"{marks.clip} is no longer at {path.parent}: put it back, or drop it here to measure it anew."
            )
            return
        self.open(path, marks, number)

    def _take_clip(self, clip: Clip, image: QImage) -> None:
        self.save()
        if self.clip is not None:
            self.clip.close()
        marks = self._opening
        path = str(clip.path.absolute())
        if marks is None:
            setup = self.session.setup
            self.number = ""
            marks = MarksFile(
                clip=clip.path.name,
                path=path,
                athlete=self.session.bench.athlete,
                variation=setup.variation,
                school=setup.school,
                load_kg=self.session.result.case.load_kg,
            )
        else:
            self.number = self._opening_number
            marks = marks.changed(clip=clip.path.name, path=path)
        self.clip, self.image, self.frame = clip, image, 0
        self._touched, self._hash = False, ""
        self.tracks = self.motion = self._tracked = None
        self.problem, self.hiding = "", None
        self.marks = marks
        self.name = edits.names_of(marks)[0]
        self._guide_on()
        self.changed.emit()
        self.framed.emit()
        if marks.placed and self._ready():
            self.follow()

    def _take_hash(self, clip: Clip, sha256: str) -> None:
        """The clip's hash, worked out beside the window: whether it is the one that was marked."""
        if clip is not self.clip:
            return
        if self.marks.sha256 is not None and self.marks.sha256 != sha256:
            self.told.emit(
                f"{clip.path.name} has changed since it was marked: its marks may no longer fit."
            )
        self._hash = sha256

    def show_frame(self, frame: int) -> None:
        """Show another frame; it is decoded beside the window."""
        if self.clip is None:
            return
        frame = min(max(frame, 0), self.clip.frames - 1)
        if frame != self.frame:
            self.frame = frame
            self.reel.show(self.clip, frame)
            self.framed.emit()

    def _take_frame(self, frame: int, image: QImage) -> None:
        if frame == self.frame:
            self.image = image
            self.framed.emit()

    @property
    def frames(self) -> int:
        """How many frames the clip has."""
        return 0 if self.clip is None else self.clip.frames

    @property
    def at(self) -> int | None:
        """Where the frame shown lies in what was measured; None outside."""
        motion = self.motion
        if motion is None or not 0 <= self.frame - motion.first < motion.frames:
            return None
        return self.frame - motion.first

    # --- marks -------------------------------------------------------------------------------

    def do(self, label: str, marks: MarksFile, *, merges: bool = False) -> None:
        """Make other marks one step of history."""
        if marks == self.marks:
            return
        session, step = self.session, _MarkStep(self, label, self.marks, marks, merges=merges)
        if not self._wants_link(marks):
            session.history.push(step)
            return
        # That it is kept is one step with its first mark: undoing the mark undoes both.
        assert self.store is not None
        self.number = self.number or self.store.new_number(marks.clip)
        session.history.beginMacro(label)
        session.history.push(step)
        session.do(bench_edits.link_measurement, self.number)
        session.history.endMacro()

    def _wants_link(self, marks: MarksFile) -> bool:
        """Whether the athlete does not know yet that this is going to be kept."""
        if self.store is None or self.session.read_only or not marks.placed:
            return False
        return self.number not in self.session.bench.athlete.measurements

    def attempt(self, label: str, change: Callable[[], MarksFile]) -> None:
        """Make an edit; what is not taken is said."""
        try:
            self.do(label, change())
        except (CaseError, Refused) as error:
            self.told.emit(str(error))
            self.changed.emit()

    def show_marks(self, marks: MarksFile) -> None:
        """Make other marks the current ones."""
        if marks.view != self.marks.view:
            self.name = edits.names_of(marks)[0]
        self.marks = marks
        self._touched = True
        self._measure_soon.start()
        self._save_soon.start()
        self.changed.emit()

    def choose(self, name: str) -> None:
        """Work with another mark."""
        if name != self.name:
            self.name = name
            self.chosen.emit()

    def place(self, at: Place) -> None:
        """Set the mark that is worked with, in the frame shown, and go on to the next one."""
        if self.clip is None:
            return
        wide, tall = self.clip.width, self.clip.height
        held = (min(max(at[0], 0.0), wide - 1.0), min(max(at[1], 0.0), tall - 1.0))
        self.do(
            f"Mark {self.name.replace('_', ' ')}",
            edits.place(self.marks, self.name, self.frame, held),
        )
        self._guide_on()

    def _guide_on(self) -> None:
        """Go on to the mark that the guide names."""
        step = self.next_step
        if step.name:
            self.choose(step.name)

    @property
    def next_step(self) -> edits.Next:
        """What the guide says."""
        carried = (
            self.marks.variation is not None and "bar" in self.marks.variation + self._load_name()
        )
        return edits.next_step(self.marks, self.frame, self.frames, bar=carried)

    def _load_name(self) -> str:
        from zesty_lever.exercises.catalogue import variation

        load = variation(self.marks.variation).load if self.marks.variation else None
        return load.name if load is not None else ""

    def place_now(self) -> Place | None:
        """Where the mark that is worked with is in the frame shown: by hand, else as followed."""
        return self.place_of(self.name)

    def place_of(self, name: str) -> Place | None:
        """Where a mark is in the frame shown: by hand, else as followed; None unknown."""
        own = self.marks.marks.get(name, {}).get(self.frame)
        if own is not None:
            return own
        at = self.at
        motion = self.motion
        if at is None or motion is None or name not in motion.px:
            return None
        x, y = motion.px[name][at]
        return (float(x), float(y)) if np.isfinite([x, y]).all() else None

    def nudge(self, by: Place) -> None:
        """Move the mark that is worked with; one that was followed becomes one set by hand."""
        at = self.place_now()
        if at is not None and self.clip is not None:
            held = (
                min(max(at[0] + by[0], 0.0), self.clip.width - 1.0),
                min(max(at[1] + by[1], 0.0), self.clip.height - 1.0),
            )
            label = f"Move {self.name.replace('_', ' ')}"
            self.do(label, edits.place(self.marks, self.name, self.frame, held), merges=True)

    def copy_forward(self) -> None:
        """Take the mark's place over to the next frame, and go there."""
        at = self.place_now()
        if at is not None and self.frame + 1 < self.frames:
            self.do("Copy the mark forward", edits.place(self.marks, self.name, self.frame + 1, at))
            self.show_frame(self.frame + 1)

    def toggle_hidden(self) -> None:
        """Say that a mark is hidden: first press where it begins, second where it ends; inside a span: seen again."""
        if edits.is_hidden(self.marks, self.name, self.frame):
            self.hiding = None
            self.do("Mark seen again", edits.seen_again(self.marks, self.name, self.frame))
        elif self.hiding is not None and self.hiding[0] == self.name:
            start, self.hiding = self.hiding[1], None
            self.do("Mark hidden", edits.hidden(self.marks, self.name, start, self.frame))
        else:
            self.hiding = (self.name, self.frame)
            self.told.emit(
                f"{self.name} is hidden from here: go to the last frame of it and press H again."
            )
            self.changed.emit()

    def remove(self) -> None:
        """Take the mark in the frame shown away."""
        if self.frame in self.marks.marks.get(self.name, {}):
            self.do("Remove the mark", edits.removed(self.marks, self.name, self.frame))

    def next_name(self, way: int = 1) -> None:
        """The next mark of the view."""
        names = edits.names_of(self.marks)
        self.choose(names[(names.index(self.name) + way) % len(names)])

    def next_hand_frame(self, way: int) -> None:
        """The next frame with a mark set by hand."""
        others = [f for f in edits.hand_frames(self.marks) if (f - self.frame) * way > 0]
        if others:
            self.show_frame(min(others) if way > 0 else max(others))

    def to_disagreement(self) -> None:
        """The moment at which the two ways of following disagree most."""
        if self.motion is None:
            return
        worst = [
            (float(np.nanmax(a)), n, int(np.nanargmax(a)))
            for n, a in self.motion.apart_px.items()
            if not np.isnan(a).all()
        ]
        if worst:
            _, name, at = max(worst)
            self.choose(name)
            self.show_frame(self.motion.first + at)

    # --- measuring ---------------------------------------------------------------------------

    def _ready(self) -> bool:
        """Whether enough is marked for angles."""
        needed = edits.SIDE_NEEDED if self.marks.view == "side" else edits.FRONT_NEEDED[:4]
        return all(self.marks.marks.get(name) for name in needed)

    def follow(self) -> None:
        """Follow the marks through the clip, beside the window."""
        clip, marks = self.clip, self.marks
        if clip is None or not marks.placed:
            self.told.emit("Nothing is marked yet.")
            return
        try:
            marks.check_against(clip)
        except CaseError as error:
            self.told.emit(error.text)
            return
        path = clip.path

        def work(tell: Callable[[float], None]) -> tuple[object, Tracks]:
            own = Clip(path)
            try:
                return (marks.marks, marks.hidden), track(own, marks.marks, marks.hidden, tell)
            finally:
                own.close()

        self.waiting.ask(work)

    def _take_tracks(self, answer: tuple[tuple[object, object], Tracks]) -> None:
        self._tracked, self.tracks = answer
        self._measure()

    def _fail(self, why: str) -> None:
        self.told.emit(why)

    @property
    def stale(self) -> bool:
        """Whether marks have changed since they were followed."""
        if self.tracks is None or self.clip is None or self.clip.is_still:
            return False
        return self._tracked != (self.marks.marks, self.marks.hidden)

    def _measure(self) -> None:
        """Work angles out of what was followed, beside the window; a picture needs no following."""
        self._measure_soon.stop()
        clip, marks = self.clip, self.marks.changed(sha256=None)
        if clip is None:
            return
        tracks = None if clip.is_still else self.tracks
        still = clip.is_still and self._ready()
        if tracks is None and not still:
            self.session.jobs.cancel(MEASURED)
            self._show_motion(None, "")
            return

        def work(_tell: Callable[[float], None]) -> tuple[Clip, Tracks | None, Motion | None, str]:
            own = track(clip, marks.marks, marks.hidden) if still else tracks
            try:
                return clip, own, measure(clip, marks, tracks=own), ""
            except CaseError as error:
                return clip, own, None, error.text

        self.session.jobs.ask(MEASURED, work)

    def _take_motion(self, kind: str, number: int, answer: object) -> None:
        if kind != MEASURED or not self.session.jobs.is_newest(kind, number):
            return
        assert isinstance(answer, tuple)
        clip, tracks, motion, problem = answer
        if clip is self.clip:
            self.tracks = tracks
            self._show_motion(motion, problem)

    def _show_motion(self, motion: Motion | None, problem: str) -> None:
        self.motion, self.problem = motion, problem
        self._save_soon.start()
        self.changed.emit()
        self.framed.emit()

    def _follow_athlete(self) -> None:
        """Whoever is on the bench is who is measured: another build changes the angles a little."""
        athlete = self.session.bench.athlete
        if self.clip is None or self.session.dragging or athlete == self.marks.athlete:
            return
        if athlete.name == self.marks.athlete.name:
            self.marks = edits.for_athlete(self.marks, athlete)
            self._measure_soon.start()

    # --- keeping and handing over -------------------------------------------------------------

    def save(self) -> None:
        """Keep marks and result, once there is a mark."""
        self._save_soon.stop()
        store, clip = self.store, self.clip
        if store is None or clip is None or self.session.read_only:
            return
        # What was only looked at is not kept anew.
        if not self.marks.placed or not self._touched:
            return
        try:
            self.number = self.number or store.new_number(self.marks.clip)
            if self._hash:
                self.marks = self.marks.changed(sha256=self._hash)
            store.save(self.number, self.marks, self.motion)
        except OSError as error:
            self.told.emit(f"The measurement could not be kept ({error.strerror}).")
            return

    def hand_over(self, slot: int) -> None:
        """Make the measured rep a set-up on the bench."""
        if self.motion is None or self.motion.case is None:
            self.told.emit("Nothing to hand over yet: name the variation, mark and follow.")
            return
        self.session.do(bench_edits.put_measured, slot, self.motion.case.setup)
        self.told.emit(
            f"The measured rep is set-up {'AB'[slot]} on the bench, with its own errors."
        )

    def lengths_to_athlete(self) -> None:
        """Give the measured lengths to the athlete."""
        if self.motion is not None and self.motion.lengths_m:
            lengths = {name: round(value, 3) for name, (value, _) in self.motion.lengths_m.items()}
            self.session.do(bench_edits.measured_lengths, lengths)
