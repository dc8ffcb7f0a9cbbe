"""What measures read (a solved rep and a few shorthands) and what they give."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import field
from typing import Any

import numpy as np

from zesty_lever.analysis import Result
from zesty_lever.cases.model import ResolvedCase, School
from zesty_lever.cases.resolve import technique_of
from zesty_lever.exercises.catalogue import Variation
from zesty_lever.frozen import dataclass
from zesty_lever.physics.pose import Pose
from zesty_lever.physics.solved import Solved


@dataclass(frozen=True)
class Sized:
    """A finding's size in its rule's unit, and what the cue sets (empty: nothing to set here).

    ``reading`` names the rule's reading, ``places`` are words that its texts have places for. ``own_limit``:
    it is a joint's own limit, and counts whatever the default has.
    """

    size: float
    settings: Mapping[str, float | None]
    reading: str = ""
    places: Mapping[str, Any] = field(default_factory=dict)
    own_limit: bool = False


@dataclass(frozen=True)
class ReadRep:
    """The result of a rep that can be done, read by a school."""

    result: Result
    school: School

    @property
    def case(self) -> ResolvedCase:
        """The filled case."""
        return self.result.case

    @property
    def solved(self) -> Solved:
        """The solved rep."""
        return self.result.solved

    @property
    def pose(self) -> Pose:
        """Poses of the rep."""
        return self.solved.pose

    @property
    def at(self) -> int:
        """Frame of the deepest point."""
        return self.result.timeline.bottom

    @property
    def entry(self) -> Variation:
        """The catalogue entry."""
        return self.result.variation

    @property
    def foot_m(self) -> float:
        """Length of the foot, m."""
        return self.case.athlete.length_m("foot")

    def has(self, *settings: str) -> bool:
        """Whether the variation has all these settings."""
        return all(key in self.case.settings for key in settings)

    def usual(self, key: str) -> float | None:
        """A setting as this school does it by default."""
        return technique_of(self.entry, self.case.athlete, self.school)[key]

    def setting(self, key: str) -> float:
        """A setting as given or solved; 0 where there is none."""
        value = self.case.settings.get(key)
        if value is None:
            value = self.solved.bottom_deg.get(key)
        return float(value or 0.0)

    def x_of(self, point: str) -> float:
        """How far ahead (m) a point is at the deepest point."""
        return float(self.pose.points[point][0, self.at])

    def trunk(self) -> float:
        """Trunk lean at the deepest point, deg."""
        return float(np.degrees(self.pose.line_rad[self.at]))


Measure = Callable[[ReadRep], Sized | None]
MEASURES: dict[str, Measure] = {}


def measure(code: str) -> Callable[[Measure], Measure]:
    """Enter a measure under its finding's code."""

    def enter(function: Measure) -> Measure:
        MEASURES[code] = function
        return function

    return enter
