"""The one door of measuring: a clip and its marks go in, a motion comes out."""

from __future__ import annotations

from zesty_lever.cases.resolve import check_athlete
from zesty_lever.measure.clip import Clip
from zesty_lever.measure.front import measure_front
from zesty_lever.measure.marks import MarksFile
from zesty_lever.measure.motion import Motion
from zesty_lever.measure.side import measure_side
from zesty_lever.measure.track import Tell, Tracks, track
from zesty_lever.problems import CaseError


def check(clip: Clip, marks: MarksFile) -> None:
    """Whether marks and clip go together. Raises `CaseError`."""
    if marks.sha256 is not None and marks.sha256.lower() != clip.sha256():
        raise CaseError(
            "clip-changed",
            f"{clip.path.name} is not the clip that was marked: its content has changed since",
            key="sha256",
            value=marks.sha256,
        )
    check_athlete(marks.athlete)
    marks.check_against(clip)
    if not marks.placed:
        raise CaseError(
            "needs-marks", "no mark is set; a side view needs ankle, knee and hip", key="marks"
        )


def measure(
    clip: Clip, marks: MarksFile, tell: Tell | None = None, tracks: Tracks | None = None
) -> Motion:
    """Measure a clip or picture by its marks; ``tell`` hears the share that is done.

    ``tracks`` are those of the same marks, where they are known already. Raises `CaseError`.
    """
    check(clip, marks)
    found = track(clip, marks.marks, marks.hidden, tell) if tracks is None else tracks
    return (measure_side if marks.view == "side" else measure_front)(clip, marks, found)
