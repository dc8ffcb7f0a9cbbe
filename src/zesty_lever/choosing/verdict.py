"""What can be said of a difference between two set-ups: more, less, the same or open, and what would undo it."""

from __future__ import annotations

from itertools import pairwise
from typing import Literal

import numpy as np

from zesty_lever.analysis import Result
from zesty_lever.cases.batch import make_batch
from zesty_lever.choosing.scatter import READ_ANGLES
from zesty_lever.choosing.uncertainty import (
    Drawn,
    Interval,
    extreme,
    frames_of,
    nominal_of,
    shortest,
)
from zesty_lever.frozen import dataclass
from zesty_lever.physics.vectors import Array

# A difference inside this share of the larger peak is none that a coach could use.
SAME_WITHIN = 0.05


# How far (deg) a change of one angle is looked for that undoes a difference, and in how many steps.
UNDO_REACH_DEG, UNDO_STEPS = 15.0, 61


Judgement = Literal["more", "less", "more-as-set-up", "less-as-set-up", "same", "open"]


@dataclass(frozen=True)
class Verdict:
    """A difference to a baseline in both readings and what can be said of it.

    ``because`` tells what leaves it open: the ``floor`` (the contact pair) or ``measuring``.
    """

    set_up: Interval
    done: Interval
    judgement: Judgement
    because: Literal["", "floor", "measuring"]


def judge(one: Drawn, base: Drawn, key: str) -> Verdict:
    """Judge one case against a baseline at a joint or by one of `OTHERS`, draw by draw.

    *Same*: as set up the difference lies within 5 % of the larger peak. *More* or *less*: as done it
    lies on one side of nothing. *More* or *less as set up*: only as set up it does. *Open*: all else.
    Raises `CaseError` where too few draws can stand.
    """
    own, reference = nominal_of(one.result, key), nominal_of(base.result, key)
    gap = own - reference
    set_up = shortest(gap, one.set_up.values[key] - base.set_up.values[key])
    done = shortest(gap, one.done.values[key] - base.done.values[key])
    # More is what goes the baseline's way: a flexor moment that grows is more, too.
    more = gap > 0.0 if reference >= 0.0 else gap < 0.0
    larger = max(abs(own), abs(reference))
    if max(abs(set_up.low), abs(set_up.high)) <= SAME_WITHIN * larger:
        return Verdict(set_up, done, "same", "")
    if done.excludes_none:
        return Verdict(set_up, done, "more" if more else "less", "")
    if set_up.excludes_none:
        return Verdict(set_up, done, "more-as-set-up" if more else "less-as-set-up", "")
    at_rule = shortest(gap, one.set_up.at_rule[key] - base.set_up.at_rule[key])
    return Verdict(set_up, done, "open", "floor" if at_rule.excludes_none else "measuring")


def undone_by(one: Result, base: Result, joint: str) -> tuple[str, float] | None:
    """The change of one angle (settings key, deg) of a set-up that takes its difference to a baseline away.

    Solved, not guessed: the smallest one; None where none within `UNDO_REACH_DEG` can be done.
    """
    target = nominal_of(base, joint)
    way = 1.0 if nominal_of(one, joint) >= 0.0 else -1.0
    batch = make_batch([one.case])
    frames = frames_of(one, [joint])
    found: list[tuple[str, float]] = []
    for key in READ_ANGLES:
        if key not in one.case.given:
            continue
        setting, at = batch.variation.settings[key], one.case.given[key]
        low, high = setting.clamped(at - UNDO_REACH_DEG), setting.clamped(at + UNDO_REACH_DEG)
        steps = np.unique(np.append(np.linspace(low, high, UNDO_STEPS), at))
        tried = batch.varied(settings={key: steps[:, None]})
        solved = tried.solve(one.timeline.instants_at(frames, moving=tried.moving))
        gaps = extreme(solved.extension(joint), way) - target
        crossing = _nearest_crossing(steps - at, np.where(solved.feasible, gaps, np.nan))
        if crossing is not None:
            found.append((key, crossing))
    return min(found, key=lambda pair: abs(pair[1]), default=None)


def _nearest_crossing(changes: Array, gaps: Array) -> float | None:
    """The change nearest to none at which a gap crosses nothing."""
    crossings = []
    for (a, gap_a), (b, gap_b) in pairwise(zip(changes, gaps, strict=True)):
        if gap_a * gap_b <= 0.0 and gap_a != gap_b:
            crossings.append(float(a - gap_a * (b - a) / (gap_b - gap_a)))
    return min(crossings, key=abs, default=None)
