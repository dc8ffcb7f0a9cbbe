"""Weeks beside each other: one week against the mean of the four before, without a word about injury."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np

from zesty_lever.frozen import dataclass

WEEKS_BEFORE, LEAST_WITH_SETS = 4, 3


@dataclass(frozen=True)
class Against:
    """A week's value beside the mean of the four before; ``ratio`` None with ``why`` where there are too few weeks."""

    value: float
    mean: float
    ratio: float | None
    why: str = ""

    @property
    def words(self) -> str:
        """As a coach reads it."""
        if self.ratio is None:
            return self.why
        return f"{self.ratio:.1f} of the mean of the last four"


def against_last_four(
    by_week: Mapping[int, float], week: int, first_week: int | None, with_sets: Sequence[int]
) -> Against:
    """A week against the mean of the four before it; weeks without sets count as 0.

    Only with sets in at least three of the four, and the first set at least four weeks back.
    """
    before = [by_week.get(week - back, 0.0) for back in range(1, WEEKS_BEFORE + 1)]
    value, mean = by_week.get(week, 0.0), float(np.mean(before))
    kept = sum(week - back in with_sets for back in range(1, WEEKS_BEFORE + 1))
    early = first_week is None or week - first_week < WEEKS_BEFORE
    if early or kept < LEAST_WITH_SETS:
        return Against(value, mean, None, "too few weeks")
    if mean <= 0.0:
        return Against(value, mean, None, "nothing in the last four")
    return Against(value, mean, value / mean)
