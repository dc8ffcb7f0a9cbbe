"""Cases as rows of numbers: summaries of whole batches at once, without a result for each case."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from zesty_lever.analysis import impulses, worked_out
from zesty_lever.cases.batch import Batch
from zesty_lever.cases.model import Case, ResolvedCase
from zesty_lever.frozen import dataclass
from zesty_lever.joints import JOINTS
from zesty_lever.physics.solved import Solved
from zesty_lever.physics.vectors import Array
from zesty_lever.problems import ORDER, CaseError
from zesty_lever.study.columns import QUANTITIES, RESULTS

# Batches of this size cost least a case.
TOGETHER = 128
NOTHING = np.full(len(RESULTS), np.nan)


@dataclass(frozen=True)
class Row:
    """What comes of one case: results in the order of `RESULTS`, or the code of why there are none."""

    case: ResolvedCase
    problem_code: str
    values: Array
    lumbar_flexion_rad: Array
    note: str = ""

    def eased_from(self, words: str) -> Row:
        """The same, saying what was eased."""
        return replace(self, note=words)


def rows_of(cases: Sequence[Case]) -> list[Row | CaseError]:
    """What comes of many cases, in their order; an invalid one is its `CaseError`.

    Numbers are those of `analysis.analyse`, alone and among others, bit for bit.
    """
    return worked_out(cases, rows_of_batch, TOGETHER)


def rows_of_batch(batch: Batch) -> list[Row]:
    """One row a case of a batch."""
    solved, frames = batch.solve_places()
    able = solved.feasible
    codes = first_codes(solved)
    values = _values(solved, frames, batch)
    lumbar = np.broadcast_to(solved.pose.lumbar_flexion_rad, solved.drawable.shape)
    return [
        Row(case, "" if able[i] else codes[i], values[i] if able[i] else NOTHING, lumbar[i])
        for i, case in enumerate(batch.cases)
    ]


def _values(solved: Solved, frames: NDArray[np.intp], batch: Batch) -> Array:
    """Results of every case, ``(cases, results)``; not a number where a case is impossible."""
    times = batch.timeline
    found = np.empty((batch.samples, len(RESULTS)))
    for row in range(len(JOINTS)):
        curve = solved.moments.extension[row][:, frames]
        at = np.argmax(np.abs(curve), axis=-1)
        column = row * len(QUANTITIES)
        found[:, column] = np.maximum(curve.max(axis=-1), 0.0)
        found[:, column + 1] = np.maximum(-curve.min(axis=-1), 0.0)
        found[:, column + 2] = times.progress[at]
        found[:, column + 3] = impulses(np.maximum(curve, 0.0), times)
        found[:, column + 4] = impulses(np.maximum(-curve, 0.0), times)
    disc = solved.disc
    pressed, sheared = (
        np.broadcast_to(part, solved.drawable.shape) for part in (disc.compression_N, disc.shear_N)
    )
    found[:, -2] = pressed.max(axis=-1)
    largest = np.argmax(np.abs(sheared), axis=-1)
    found[:, -1] = np.take_along_axis(sheared, largest[:, None], axis=-1)[:, 0]
    return found


def first_codes(solved: Solved) -> list[str]:
    """Code of the first thing that fails in each case by time, then by the order of the codes; or empty."""
    first = np.full(len(solved.drawable), np.inf)
    codes = [""] * len(first)
    for failure in solved.failures:
        failing = failure.flags.any(axis=-1)
        rank = np.argmax(failure.flags, axis=-1) * len(ORDER) + ORDER[failure.code]
        for index in np.flatnonzero(failing & (rank < first)):
            first[index], codes[index] = rank[index], failure.code
    return codes
