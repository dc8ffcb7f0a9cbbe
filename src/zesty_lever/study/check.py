"""What a study will cost, from a sample of it worked out."""

from __future__ import annotations

import numpy as np

from zesty_lever.frozen import dataclass
from zesty_lever.study.design import Design
from zesty_lever.study.part import LEAST_LIMIT_S
from zesty_lever.study.solver import Solver
from zesty_lever.study.tables import parquet_bytes, table_of

RUNS, RUN_ROWS = 16, 32
ERRORS_TOLD = 5


@dataclass(frozen=True)
class Check:
    """Rows, parts, about how many bytes and core-hours; cases a second of one core; the first problems of the sample."""

    rows: int
    parts: int
    bytes_about: float
    core_hours: float
    rate: float
    sampled: int
    feasible: int
    first: tuple[tuple[int, str, str], ...]


def check_study(design: Design) -> Check:
    """Work 512 rows out, in runs spread over the study. Raises `ChildCantStartError`."""
    rows = sample_rows(design.rows)
    values = design.inputs.values(rows)
    solver = Solver(design.reader)
    try:
        # The first answer has the start of the program in it.
        solver.outcomes({k: v[:1] for k, v in values.items()}, 1, LEAST_LIMIT_S)
        outcomes = solver.outcomes(values, len(rows), LEAST_LIMIT_S)
        seconds = solver.seconds
    finally:
        solver.close()
    table = table_of(design, rows, values, outcomes)
    size = len(parquet_bytes(table)) - len(parquet_bytes(table.slice(0, 0)))
    told = [
        (int(row), problem, note)
        for row, problem, note in zip(rows, outcomes.problems, outcomes.notes, strict=True)
        if problem
    ]
    rate = len(rows) / seconds
    return Check(
        design.rows,
        design.parts,
        size / len(rows) * design.rows,
        design.rows / rate / 3600.0,
        rate,
        len(rows),
        len(rows) - len(told),
        tuple(told[:ERRORS_TOLD]),
    )


def sample_rows(count: int) -> np.ndarray[tuple[int], np.dtype[np.int64]]:
    """Rows of a sample: all where they are few, else runs spread evenly."""
    if count <= RUNS * RUN_ROWS:
        return np.arange(count, dtype=np.int64)
    starts = np.linspace(0, count - RUN_ROWS, RUNS).astype(np.int64)
    return np.unique((starts[:, None] + np.arange(RUN_ROWS)).ravel())
