"""Faults that a clip shows: how big, how sure, and in whose words (data/coaching/seen.toml).

A fault is told only where its size is larger than its limit by more than the error leaves open; what might
be one is kept apart as open.
"""

from __future__ import annotations

import tomllib
from collections.abc import Mapping
from functools import cache
from typing import Any

import numpy as np

from zesty_lever.cases.model import School
from zesty_lever.coaching.rules import Rule
from zesty_lever.exercises.catalogue import Variation
from zesty_lever.frozen import dataclass
from zesty_lever.measure.project import Build, Seen, standing
from zesty_lever.measure.reps import Rep
from zesty_lever.models import read
from zesty_lever.physics.vectors import Array
from zesty_lever.tables import data_path

# Nine in ten truths of a one-sided error lie below so many standard errors.
SURE = 1.2816
# On the way up only this part of the way is looked at for hips that come first.
HOLE = 0.6
TOE_SD_CM, BAR_SD_CM = 1.5, 1.0


@dataclass(frozen=True)
class Fault:
    """A fault of one rep (from 1; 0: a still): size and standard error in ``unit``; ``open``: the error leaves it open."""

    code: str
    size: float
    sd: float
    unit: str
    rep: int
    at_s: float
    severity: str
    text: str
    cue: str
    open: bool

    def as_dict(self) -> dict[str, Any]:
        """The object of a motion file."""
        return {
            "code": self.code,
            "size": round(self.size, 2),
            "sd": round(self.sd, 2),
            "unit": self.unit,
            "rep": self.rep,
            "at_s": round(self.at_s, 3),
            "severity": self.severity,
            "open": self.open,
            "text": self.text,
            "cue": self.cue,
        }


@dataclass(frozen=True)
class Size:
    """What one fault measures in one rep: size and standard error in its unit, when, and words for its text."""

    code: str
    size: float
    sd: float
    at_s: float
    words: Mapping[str, str]


@cache
def seen_rules() -> dict[str, Rule]:
    """The rules for measured reps; raises `CaseError` for a bad file."""
    file = data_path("coaching", "seen.toml")
    tables = tomllib.loads(file.read_text(encoding="utf-8"))
    return {code: read(Rule, table, f"{file.name}.{code}") for code, table in tables.items()}


def told(sizes: list[Size], rep: int, school: School) -> list[Fault]:
    """Faults in words, flags first; those that the error leaves open are marked."""
    found = []
    for size in sizes:
        rule = seen_rules()[size.code]
        severity = rule.severity_for(school)
        if severity is None or not np.isfinite([size.size, size.sd]).all():
            continue
        if size.size + SURE * size.sd <= rule.over or size.size <= 0.0:
            continue
        sure = size.size - SURE * size.sd > rule.over
        if not sure and size.size <= rule.over:
            continue
        text, cue, _ = rule.words(
            "", {"size": size.size, "sd": max(size.sd, 0.5), "rep": rep, **size.words}
        )
        if not rep:
            text = text.removeprefix("Rep 0: ").capitalize() if text.startswith("Rep 0: ") else text
        found.append(
            Fault(
                size.code,
                size.size,
                size.sd,
                rule.unit,
                rep,
                size.at_s,
                severity,
                text,
                cue[:1].upper() + cue[1:],
                not sure,
            )
        )
    return sorted(found, key=lambda f: (f.open, f.severity != "flag"))


@dataclass(frozen=True)
class SideRep:
    """One rep of a side view: frames ``first`` to ``last``, deepest at ``low``."""

    times_s: Array
    first: int
    low: int
    last: int
    seen: Seen
    angles: Mapping[str, Array]
    sd: Mapping[str, Array]
    # Standard error of a difference between two moments of one rep, deg: what does not turn with the body.
    apart_sd: Mapping[str, Array]


def side_sizes(rep: SideRep, build: Build, entry: Variation | None) -> list[Size]:
    """Sizes of everything that a side view of a rep shows."""
    squat = entry is not None and entry.is_squat
    at_s, low = float(rep.times_s[rep.low]), rep.low
    found = [*_heel(rep), *_past_toe(rep, build)]
    if entry is None or entry.stands_level or entry.has_front_leg:
        found += _hips_first(rep)
    shin, thigh, trunk = (rep.angles.get(name) for name in ("shin", "thigh", "trunk"))
    if squat and shin is not None and trunk is not None:
        gap = float(trunk[low] - shin[low])
        sd = float(np.hypot(rep.sd["trunk"][low], rep.sd["shin"][low]))
        found.append(Size("trunk-against-shin", abs(gap), sd, at_s, {}))
    if squat and thigh is not None:
        found.append(Size("depth", float(thigh[low]), float(rep.sd["thigh"][low]), at_s, {}))
    if rep.seen.bar is not None and rep.last > rep.first and not (entry is not None and entry.lies):
        found += _bar_drift(rep)
    return found


def _heel(rep: SideRep) -> list[Size]:
    lift = rep.angles.get("heel_lift")
    if lift is None or np.isnan(lift[rep.first : rep.last + 1]).all():
        return []
    at = rep.first + int(np.nanargmax(lift[rep.first : rep.last + 1]))
    return [
        Size(
            "heel-lift",
            float(lift[at]),
            float(rep.apart_sd["heel_lift"][at]),
            float(rep.times_s[at]),
            {},
        )
    ]


def _past_toe(rep: SideRep, build: Build) -> list[Size]:
    """Knee past the toes: by the toe's mark, else by the foot's length from the ankle."""
    part = slice(rep.first, rep.last + 1)
    knee = rep.seen.knee[part, 0]
    if np.isnan(knee).all():
        return []
    if rep.seen.toe is not None and not np.isnan(rep.seen.toe[part, 0]).all():
        toe, sd = rep.seen.toe[part, 0], 1.0
    else:
        toe = rep.seen.ankle[part, 0] + 0.75 * build.athlete.length_m("foot") * np.cos(
            build.toe_out_rad
        )
        sd = TOE_SD_CM
    past = 100.0 * (knee - toe)
    at = int(np.nanargmax(past))
    return [
        Size(
            "knee-past-toe",
            float(past[at]),
            float(np.hypot(sd, 0.7)),
            float(rep.times_s[rep.first + at]),
            {},
        )
    ]


def _hips_first(rep: SideRep) -> list[Size]:
    """How much further the trunk leans on the way up than at the same hip height on the way down."""
    trunk, hip = rep.angles.get("trunk"), rep.seen.hip[:, 1]
    if trunk is None or rep.last - rep.low < 3 or rep.low - rep.first < 3:
        return []
    down, up = slice(rep.first, rep.low + 1), slice(rep.low, rep.last + 1)
    if np.isnan(np.concatenate([hip[down], hip[up], trunk[down], trunk[up]])).any():
        return []
    order = np.argsort(hip[down])
    usual = np.interp(hip[up], hip[down][order], trunk[down][order])
    rise = (hip[up] - hip[rep.low]) / max(float(hip[up].max() - hip[rep.low]), 1e-6)
    more = np.where(rise <= HOLE, trunk[up] - usual, -np.inf)
    at = rep.low + int(np.argmax(more))
    sd = float(np.sqrt(2.0) * rep.apart_sd["trunk"][at])
    return [Size("hips-rise-first", float(more.max()), sd, float(rep.times_s[at]), {})]


def _bar_drift(rep: SideRep) -> list[Size]:
    bar = rep.seen.bar
    assert bar is not None
    part = bar[rep.first : rep.last + 1, 0]
    if np.isnan(part).all():
        return []
    start = standing(bar[:, 0], rep.seen.hip[:, 1])
    off = np.abs(part - (start if np.isfinite(start) else part[0]))
    at = int(np.nanargmax(off))
    return [
        Size("bar-drift", 100.0 * float(off[at]), BAR_SD_CM, float(rep.times_s[rep.first + at]), {})
    ]


def rep_frames(times_s: Array, rep: Rep) -> tuple[int, int, int]:
    """Frames of a rep's start, deepest moment and end."""
    first, low, last = (
        int(np.argmin(np.abs(times_s - t))) for t in (rep.start_s, rep.bottom_s, rep.end_s)
    )
    return min(first, low), low, max(last, low)
