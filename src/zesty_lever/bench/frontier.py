"""The frontier of a technique search as the screen holds it: what was found, and which one is chosen."""

from __future__ import annotations

from dataclasses import replace
from typing import Self

from zesty_lever.analysis import Result, analyse
from zesty_lever.cases.model import Setup
from zesty_lever.choosing.technique import Point, Search
from zesty_lever.frozen import dataclass


@dataclass(frozen=True)
class Frontier:
    """Techniques found about a set-up: the frontier, then the best, then the one at hand."""

    about: Result
    found: Search
    chosen: int

    @classmethod
    def of(cls, about: Result, found: Search) -> Self:
        """A fresh answer, its best technique chosen."""
        return cls(about, found, len(found.frontier))

    @property
    def points(self) -> list[Point]:
        """Every technique that can be chosen."""
        return [*self.found.frontier, self.found.best, self.found.start]

    @property
    def point(self) -> Point:
        """The chosen technique."""
        return self.points[self.chosen]

    def choose(self, index: int) -> Self:
        """Choose another; past either end it goes on at the other."""
        return replace(self, chosen=index % len(self.points))

    def settings(self) -> dict[str, float]:
        """Settings of the chosen technique that the variation has."""
        known = self.about.case.settings
        return {k: round(v, 4) for k, v in self.point.settings.items() if k in known}

    def result(self) -> Result:
        """The chosen technique solved, the rest as it was searched about."""
        case = self.about.case
        return analyse(case.changed(settings={**case.settings, **self.settings()}))

    def setup_on(self, setup: Setup) -> Setup:
        """The chosen technique on the set-up at hand, or on the searched one where that is another variation."""
        own = self.about.case.setup
        base = setup if setup.variation == own.variation else own
        return base.changed(settings={**base.settings, **self.settings()})
