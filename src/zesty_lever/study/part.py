"""One part of a study: a pure function of the study and the part's number."""

from __future__ import annotations

import statistics
import threading

from zesty_lever.study.design import Design
from zesty_lever.study.inputs import Values
from zesty_lever.study.solver import Solver
from zesty_lever.study.tables import parquet_bytes, table_of

# A part may take so many times what others took, but always so many seconds, before it is cut up.
TIMES_THE_MEDIAN, LEAST_LIMIT_S = 100.0, 600.0
# Parts whose times are remembered.
REMEMBERED = 200


class Pace:
    """How long parts take, and so how long one may take at most."""

    def __init__(self, least_limit_s: float = LEAST_LIMIT_S) -> None:
        self.least_limit_s = least_limit_s
        self._seconds: list[float] = []
        self._lock = threading.Lock()

    def note(self, seconds: float) -> None:
        """Note the time of a part."""
        with self._lock:
            self._seconds = [*self._seconds[1 - REMEMBERED :], seconds]

    @property
    def limit_s(self) -> float:
        """Longest time of a part, s."""
        with self._lock:
            usual = statistics.median(self._seconds) if self._seconds else 0.0
        return max(TIMES_THE_MEDIAN * usual, self.least_limit_s)


def part_bytes(
    design: Design, number: int, solver: Solver, limit_s: float, values: Values | None = None
) -> bytes:
    """The Parquet file of one part. Raises `ChildCantStartError`.

    ``values`` are its inputs where they are known already.
    """
    rows = design.rows_of(number)
    given = design.inputs.values(rows) if values is None else values
    outcomes = solver.outcomes(given, len(rows), limit_s)
    return parquet_bytes(table_of(design, rows, given, outcomes))
