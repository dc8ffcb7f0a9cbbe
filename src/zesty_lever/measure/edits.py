"""Edits of a coach's marks: pure functions from one file of marks to the next."""

from __future__ import annotations

from collections.abc import Sequence

from zesty_lever.cases.model import Athlete
from zesty_lever.frozen import dataclass
from zesty_lever.measure.marks import (
    FRONT_MARKS,
    SIDE_MARKS,
    Calibration,
    CameraTape,
    Disc,
    MarksFile,
    Place,
)
from zesty_lever.measure.marks import Length as TapedLength
from zesty_lever.models import read

# What is to be marked in each view, first things first; the others help.
SIDE_NEEDED = ("ankle", "knee", "hip")
FRONT_NEEDED = (
    "ankle_right",
    "ankle_left",
    "knee_right",
    "knee_left",
    "toe_right",
    "toe_left",
    "hip_right",
    "hip_left",
)
# A clip is marked at so many moments: start, deepest, end.
MOMENTS = 3
WORDS = {
    "ankle": "outer ankle bone (malleolus)",
    "knee": "outer gap of the knee",
    "hip": "bony point at the side of the hip (greater trochanter)",
    "shoulder": "edge of the shoulder's roof (acromion)",
    "bar": "middle of the near disc's outer face (hub)",
    "heel": "back of the heel, at the sole",
    "ball": "ball of the foot, at the sole",
    "toe": "tip of the shoe",
}


def words_of(name: str) -> str:
    """Where a mark sits, in words."""
    joint, _, side = name.partition("_")
    if not side:
        return WORDS[joint]
    front = {
        "knee": "middle of the kneecap",
        "ankle": "middle of the ankle",
        "hip": "front of the hip, over the joint",
    }
    return f"{side} {front.get(joint, WORDS[joint])}"


def names_of(marks: MarksFile) -> tuple[str, ...]:
    """All marks of the view."""
    return SIDE_MARKS if marks.view == "side" else FRONT_MARKS


def place(marks: MarksFile, name: str, frame: int, at: Place) -> MarksFile:
    """Set a mark by hand."""
    rounded = (round(at[0], 2), round(at[1], 2))
    own = {**marks.marks.get(name, {}), frame: rounded}
    return marks.changed(marks={**marks.marks, name: dict(sorted(own.items()))})


def moved(marks: MarksFile, name: str, frame: int, by: Place) -> MarksFile:
    """Move a mark by so many pixels."""
    x, y = marks.marks[name][frame]
    return place(marks, name, frame, (x + by[0], y + by[1]))


def removed(marks: MarksFile, name: str, frame: int) -> MarksFile:
    """Take a mark away."""
    own = {f: p for f, p in marks.marks.get(name, {}).items() if f != frame}
    others = {n: p for n, p in marks.marks.items() if n != name}
    return marks.changed(marks={**others, name: own} if own else others)


def hidden(marks: MarksFile, name: str, start: int, end: int) -> MarksFile:
    """Say that a mark can't be seen from one frame to another, both included; spans that touch become one."""
    first, last = sorted((start, end))
    kept = []
    for low, high in marks.hidden.get(name, ()):
        if high < first - 1 or low > last + 1:
            kept.append((low, high))
        else:
            first, last = min(first, low), max(last, high)
    spans = tuple(sorted([*kept, (first, last)]))
    return marks.changed(hidden={**marks.hidden, name: spans})


def seen_again(marks: MarksFile, name: str, frame: int) -> MarksFile:
    """Take away the hidden span that holds a frame."""
    spans = tuple(
        (low, high) for low, high in marks.hidden.get(name, ()) if not low <= frame <= high
    )
    others = {n: s for n, s in marks.hidden.items() if n != name}
    return marks.changed(hidden={**others, name: spans} if spans else others)


def is_hidden(marks: MarksFile, name: str, frame: int) -> bool:
    """Whether a mark is said to be hidden."""
    return any(low <= frame <= high for low, high in marks.hidden.get(name, ()))


def with_disc(
    marks: MarksFile, frame: int, centre: Place, half_axes: tuple[float, float]
) -> MarksFile:
    """Set the near disc's outline; its size and face stay."""
    old = marks.calibration.disc or Disc(centre_px=centre, half_axes_px=half_axes)
    disc = old.changed(frame=frame, centre_px=centre, half_axes_px=half_axes)
    return marks.changed(calibration=Calibration(disc=disc))


def with_length(
    marks: MarksFile, frame: int, ends: tuple[Place, Place], length_m: float, z_m: float
) -> MarksFile:
    """Set a taped length."""
    line = TapedLength(frame=frame, from_px=ends[0], to_px=ends[1], length_m=length_m, z_m=z_m)
    return marks.changed(calibration=Calibration(length=line))


def with_tape(marks: MarksFile, **values: float | None) -> MarksFile:
    """Change what was taped of the camera. Raises `CaseError` where a number is outside its range."""
    data = {**marks.camera.as_dict(), **values}
    return marks.changed(camera=read(CameraTape, data, "camera"))


def for_view(marks: MarksFile, view: str) -> MarksFile:
    """Another view: its own marks; what was marked for the other one goes."""
    if view == marks.view:
        return marks
    return marks.changed(view=view, marks={}, hidden={}, sleeve=None, calibration=Calibration())


def for_athlete(marks: MarksFile, athlete: Athlete) -> MarksFile:
    """The same marks on another body."""
    return marks.changed(athlete=athlete)


@dataclass(frozen=True)
class Next:
    """What to do next: a mark to set (``name``) or nothing (empty), and where in the clip; ``words`` say it."""

    name: str
    words: str


def next_step(marks: MarksFile, frame: int, frames: int, *, bar: bool) -> Next:
    """The guide: which mark is next at this frame, or where to go, or what is still missing."""
    wanted = list(FRONT_NEEDED if marks.view == "front" else SIDE_NEEDED)
    if bar and marks.view == "side":
        wanted.append("bar")
    elif marks.view == "side":
        wanted.append("shoulder")
    lacking = [
        n for n in wanted if frame not in marks.marks.get(n, {}) and not is_hidden(marks, n, frame)
    ]
    done = marked_frames(marks, wanted)
    if lacking and (len(lacking) < len(wanted) or len(done) < (1 if frames == 1 else MOMENTS)):
        moment = "" if frames == 1 else _moment(len(done))
        return Next(lacking[0], f"{moment}Mark the {words_of(lacking[0])}.")
    if frames > 1 and len(done) < MOMENTS:
        return Next("", f"{_moment(len(done))}Go there, then mark the same places again.")
    if marks.calibration.disc is None and marks.calibration.length is None:
        return Next("", "Now something of known size: the near disc, or a taped length (Scale).")
    if frames > 1:
        return Next(
            "", "Follow the marks; then look where the two ways disagree, and mark once more there."
        )
    return Next("", "Everything needed is marked.")


def _moment(done: int) -> str:
    return ("Start of the set: ", "Deepest moment: ", "End of the set: ")[min(done, MOMENTS - 1)]


def marked_frames(marks: MarksFile, names: Sequence[str]) -> list[int]:
    """Frames in which every one of some marks is set by hand."""
    frames: set[int] | None = None
    for name in names:
        own = set(marks.marks.get(name, {}))
        frames = own if frames is None else frames & own
    return sorted(frames or ())


def hand_frames(marks: MarksFile) -> list[int]:
    """Frames with any mark set by hand."""
    return sorted({frame for places in marks.marks.values() for frame in places})
