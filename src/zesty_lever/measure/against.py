"""Meant against done: how a measured rep differs from the set-up, in degrees, and what that changes in N m."""

from __future__ import annotations

import numpy as np

from zesty_lever.analysis import Result, analyse
from zesty_lever.cases.model import Case
from zesty_lever.choosing.scatter import Errors
from zesty_lever.choosing.uncertainty import Interval, draw, shortest
from zesty_lever.frozen import dataclass
from zesty_lever.joints import COACH_JOINTS
from zesty_lever.measure.motion import Motion
from zesty_lever.problems import CaseError

DRAWS, LEVEL = 400, 0.90
ANGLES = ("thigh", "shin", "trunk")


@dataclass(frozen=True)
class Off:
    """One angle: what was meant, what was done and its standard error, deg."""

    name: str
    meant_deg: float
    done_deg: float
    sd_deg: float

    @property
    def by_deg(self) -> float:
        """How much more was done."""
        return self.done_deg - self.meant_deg


@dataclass(frozen=True)
class Change:
    """One joint's largest moment, N m: as meant, as done, and the difference with its interval."""

    joint: str
    word: str
    meant_Nm: float
    done_Nm: float
    difference: Interval


@dataclass(frozen=True)
class Against:
    """A measured rep beside what was meant; ``problem`` is why moments can't be told (or empty)."""

    meant: Result
    done: Result | None
    angles: tuple[Off, ...]
    changes: tuple[Change, ...]
    problem: str


def against(meant: Case, motion: Motion, errors: Errors | None = None) -> Against:
    """Lay a measured rep against a set-up of the same variation, load and athlete.

    The set-up counts as exactly done; the measured rep is off by its own errors; both share the body.
    Raises `CaseError` where the set-up itself can't be done or nothing was measured.
    """
    if motion.case is None:
        raise CaseError(
            "needs-marks", "no set-up was measured: name the variation", key="variation"
        )
    result = analyse(meant)
    _ = result.solved
    done_case = motion.case.changed(load_kg=result.case.load_kg, load_up_kg=None, loads=meant.loads)
    angles = _angles(result, motion)
    done = analyse(done_case)
    if done.error is not None:
        return Against(result, None, angles, (), done.error.text)
    joints = [group.shown for group in COACH_JOINTS]
    exact, own = (draw(r, errors, DRAWS, joints=joints) for r in (result, done))
    changes, problem = [], ""
    for group in COACH_JOINTS:
        peaks = [r.summary[group.shown].peak_Nm for r in (result, done)]
        apart = own.done.values[group.shown] - exact.set_up.values[group.shown]
        try:
            interval = shortest(peaks[1] - peaks[0], apart, LEVEL)
        except CaseError as error:
            problem = error.text
            continue
        changes.append(Change(group.key, group.word, peaks[0], peaks[1], interval))
    return Against(result, done, angles, tuple(changes), problem)


def _angles(meant: Result, motion: Motion) -> tuple[Off, ...]:
    """Angles at the deepest moment, as meant and as done."""
    pose, at = meant.solved.pose, meant.timeline.bottom
    thigh = pose.points["hip_right"][:, at] - pose.points["knee_right"][:, at]
    own = {
        "thigh": float(np.degrees(np.arctan2(thigh[1], -thigh[0]))),
        "shin": float(np.degrees(pose.side_view_rad("ankle_right", "knee_right")[at])),
        "trunk": float(np.degrees(pose.line_rad[at])),
    }
    found = []
    for name in ANGLES:
        if name in motion.angles and np.isfinite(motion.angles[name][motion.low]):
            done, sd = float(motion.angles[name][motion.low]), float(motion.sd[name][motion.low])
            found.append(Off(name, own[name], done, sd))
    return tuple(found)


def against_sentences(found: Against) -> list[str]:
    """What was done otherwise and what it changes, in words."""
    ways = {
        "thigh": ("shallower", "deeper"),
        "shin": ("further forward", "more upright"),
        "trunk": ("further forward", "more upright"),
    }
    parts = []
    for off in found.angles:
        more, less = ways[off.name]
        sure = abs(off.by_deg) > 1.6449 * off.sd_deg
        size = f"{abs(off.by_deg):.0f} ± {off.sd_deg:.0f}°"
        parts.append(
            f"{off.name} {size} {more if off.by_deg > 0 else less}"
            if sure
            else f"{off.name} as meant, give or take {off.sd_deg:.0f}°"
        )
    lines = [f"Done at the deepest point: {'; '.join(parts)}."] if parts else []
    if found.problem:
        lines.append(f"What that changes can't be told: {found.problem}")
    told = []
    for change in found.changes:
        low, high = change.difference.low, change.difference.high
        open_ = "" if change.difference.excludes_none else ", which its error leaves open"
        told.append(
            f"{change.word} {change.difference.nominal:+.0f} N·m ({low:+.0f} to {high:+.0f}{open_})"
        )
    if told:
        lines.append(f"Against what was meant, at the same load: {'; '.join(told)}.")
    return lines
