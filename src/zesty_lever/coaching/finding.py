"""What findings are made of: the finding itself, and what the rules read off a solved rep."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from zesty_lever.analysis import Result
from zesty_lever.cases.model import ResolvedCase
from zesty_lever.cases.resolve import technique_of
from zesty_lever.exercises.catalogue import Variation
from zesty_lever.physics.pose import Pose
from zesty_lever.physics.solve import Solved


@dataclass(frozen=True)
class Found:
    """One finding: ``settings`` is what following the cue would set (empty: nothing to set here).

    ``severity`` is ``note`` (worth knowing) or ``flag`` (the school would stop it).
    """

    code: str
    size: float
    unit: str
    severity: str
    text: str
    cue: str
    drill: str
    settings: Mapping[str, float | None]


@dataclass(frozen=True)
class ReadRep:
    """What the rules read: the result of a rep that can be done, and a few shorthands."""

    result: Result
    school: str

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
