"""What goes between a study and the processes that work it out: rows in, results out, as framed messages."""

from __future__ import annotations

from typing import Any

import numpy as np

from zesty_lever.frozen import dataclass
from zesty_lever.physics.vectors import Array
from zesty_lever.study.columns import RESULTS
from zesty_lever.study.inputs import Values


@dataclass(frozen=True)
class Outcomes:
    """Results ``(rows, RESULTS)`` (not a number where there are none), code of the problem and note of each row."""

    results: Array
    problems: list[str]
    notes: list[str]

    @classmethod
    def of_nothing(cls, count: int, problem: str, note: str) -> Outcomes:
        """Rows that all have the same problem."""
        return cls(np.full((count, len(RESULTS)), np.nan), [problem] * count, [note] * count)

    @classmethod
    def joined(cls, parts: list[Outcomes]) -> Outcomes:
        """Outcomes one after the other."""
        return cls(
            np.concatenate([part.results for part in parts]),
            [problem for part in parts for problem in part.problems],
            [note for part in parts for note in part.notes],
        )

    def as_dict(self) -> dict[str, Any]:
        """For a message."""
        return {
            "results": self.results.astype("<f8").tobytes(),
            "problems": self.problems,
            "notes": self.notes,
        }

    @classmethod
    def from_dict(cls, data: dict[str, Any]) -> Outcomes:
        """From a message."""
        results = np.frombuffer(data["results"], "<f8").reshape(-1, len(RESULTS))
        return cls(results, data["problems"], data["notes"])


def values_of(values: Values, rows: slice) -> Values:
    """Some rows of values."""
    return {key: column[rows] for key, column in values.items()}
