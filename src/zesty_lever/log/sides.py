"""Left against right: the weak side leads, its load and repetitions for both."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from zesty_lever.log.asked import Advice, Asked
from zesty_lever.log.entry import DoneSet
from zesty_lever.messages import Share, message


def side_gap(sets: Sequence[DoneSet]) -> tuple[float, str] | None:
    """How far the weaker side is behind, as a share, and which it is: by kilograms times repetitions.

    None where not both sides were worked.
    """
    work = {
        side: sum((e.load_kg or 1.0) * (e.reps or e.seconds or 0.0) for e in sets if e.side == side)
        for side in ("left", "right")
    }
    if not all(work.values()):
        return None
    weak = min(work, key=lambda side: work[side])
    strong = max(work.values())
    return 1.0 - work[weak] / strong, weak


def by_sides(asked: Asked, found: Advice) -> Advice:
    """Advice with the weak side first where it was behind so often."""
    count = int(asked.rules.side_sessions)
    visits = list(asked.visits)[-count:]
    gaps = [side_gap([one.done for one in visit.sets]) for visit in visits]
    known = [gap for gap in gaps if gap is not None and gap[0] > asked.rules.side_gap]
    if len(known) < count or len({weak for _, weak in known}) != 1:
        return found
    weak = known[-1][1]
    strong = "right" if weak == "left" else "left"
    own = [one.done for one in asked.last.sets if one.done.side == weak]
    said = message("advice.sides", weak=weak, strong=strong, gap=Share(known[-1][0]))
    load = min(max(e.load_kg for e in own), found.load_kg or 0.0)
    reps = min(e.reps for e in own)
    return replace(
        found,
        action="hold",
        says=(said, *(s for s in found.says if found.action == "hold")),
        load_kg=load,
        reps=(reps, max(reps, asked.dose.reps[1])) if reps else found.reps,
        entries=tuple(key for visit in visits for key in visit.keys),
        side_first=weak,
    )
