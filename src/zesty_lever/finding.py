"""What findings are made of: the finding itself, and what the rules read off a solved rep."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from zesty_lever.analysis import Result
from zesty_lever.case import Case
from zesty_lever.exercises.catalogue import variation


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
    """What the rules read: the result and a few shorthands."""

    result: Result
    school: str

    @property
    def case(self) -> Case:
        """The filled case."""
        return self.result.case

    @property
    def at(self) -> int:
        """Frame of the deepest point."""
        return self.result.timeline.bottom

    @property
    def builder(self) -> str:
        """How the pose is built."""
        return variation(self.case.variation).builder

    @property
    def family(self) -> str:
        """The variation's family."""
        return variation(self.case.variation).family

    def setting(self, key: str) -> float:
        """A setting as given or solved; 0 where there is none."""
        value = self.case.settings.get(key)
        if value is None:
            value = (self.result.bottom_deg or {}).get(key)
        return float(value or 0.0)

    def x_of(self, point: str) -> float:
        """How far ahead (m) a point is at the deepest point."""
        assert self.result.pose is not None
        return float(self.result.pose.points[point][0, self.at])

    def trunk(self) -> float:
        """Trunk lean at the deepest point, deg."""
        assert self.result.pose is not None
        return float(np.degrees(self.result.pose.line_rad[self.at]))
