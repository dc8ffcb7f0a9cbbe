"""The process that works rows out: asked and answering over its own pipes, until they close.

It has one thread and the arithmetic of one instruction set (see `solver`), so that its numbers are the same
on every machine of its kind. A case that kills it takes nothing else with it.
"""

from __future__ import annotations

import os
import signal
import sys
import time
from collections.abc import Sequence
from typing import Any

import numpy as np

from zesty_lever.cases.model import Case
from zesty_lever.memory import keep_freed_memory
from zesty_lever.pipes import receive, send
from zesty_lever.problems import CaseError, one_line
from zesty_lever.study import solving
from zesty_lever.study.columns import RESULTS
from zesty_lever.study.design import Reader
from zesty_lever.study.document import study_from
from zesty_lever.study.solving import Row
from zesty_lever.study.wire import Outcomes

LONGEST_NOTE = 200


def outcomes_of(cases: Sequence[Case | CaseError]) -> Outcomes:
    """What comes of cases, in their order; one that raises is found by halving and stands alone as crashed."""
    sound = [index for index, case in enumerate(cases) if not isinstance(case, CaseError)]
    rows = dict(zip(sound, _halved([c for c in cases if isinstance(c, Case)]), strict=True))
    results = np.full((len(cases), len(RESULTS)), np.nan)
    problems, notes = [""] * len(cases), [""] * len(cases)
    for index, case in enumerate(cases):
        row = case if isinstance(case, CaseError) else rows[index]
        if isinstance(row, Row):
            results[index], problems[index], notes[index] = row.values, row.problem_code, row.note
        elif isinstance(row, CaseError):
            problems[index], notes[index] = row.code, row.text
        else:
            problems[index], notes[index] = "crashed", row
    return Outcomes(results, problems, notes)


def _halved(cases: Sequence[Case]) -> list[Row | CaseError | str]:
    """Rows of cases; the words of its error for a case that raises."""
    if not cases:
        return []
    try:
        return [*solving.rows_of(cases)]
    except Exception as error:  # noqa: BLE001 (whatever it is, the other cases are worked out)
        if len(cases) == 1:
            return [one_line(f"{type(error).__name__}: {error}", LONGEST_NOTE)]
    middle = len(cases) // 2
    return [*_halved(cases[:middle]), *_halved(cases[middle:])]


def _answer(message: dict[str, Any]) -> dict[str, Any]:
    began = time.perf_counter()
    reader = Reader(study_from(message["study"]), tuple(message["keys"]))
    found = outcomes_of(reader.cases(message["values"], message["count"]))
    return {**found.as_dict(), "seconds": time.perf_counter() - began}


def main() -> None:
    """Answer until the pipe is closed."""
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    answers = os.fdopen(os.dup(1), "wb")
    # Whatever prints must not write into the answers.
    os.dup2(2, 1)
    keep_freed_memory()
    send(answers, {"ready": True})
    while (message := receive(sys.stdin.buffer)) is not None:
        send(answers, _answer(message))


if __name__ == "__main__":
    main()
