"""Intervals worked out on a second core: a process of our own that answers case by case.

It is started when it is first wanted, ends with the one that wanted it, and is done without where there is one core or
it can't be started. Its numbers are those of this process.
"""

from __future__ import annotations

import os
import select
import subprocess
import sys
from collections.abc import Callable, Sequence
from typing import Any

from zesty_lever.cases.model import Case
from zesty_lever.pipes import receive, send

# How long one look at the pipe waits, and after how many without an answer the other process is given up.
WAIT_S, MOST_WAITS = 0.1, 200

Spans = dict[str, tuple[float, float]]


class SecondCore:
    """One process, asked one case at a time."""

    def __init__(self) -> None:
        self._process: subprocess.Popen[bytes] | None = None
        self._given_up = len(os.sched_getaffinity(0)) < 2
        # Answers to questions that nobody waits for any more.
        self._stale = 0
        self._asked = False

    def start(self) -> None:
        """Let the process load its program, so that it is there when it is asked."""
        if self._process is not None or self._given_up:
            return
        try:
            self._process = subprocess.Popen(
                [sys.executable, "-m", "zesty_lever.choosing.second_core"],
                stdin=subprocess.PIPE,
                stdout=subprocess.PIPE,
                # Without a buffer: what is asked of the pipe is then all that there is to read.
                bufsize=0,
            )
        except OSError:
            self._given_up = True

    def each(
        self,
        cases: Sequence[Case],
        here: Callable[[int], Spans],
        done: Callable[[int, Spans], None],
        beat: Callable[[], None] = lambda: None,
    ) -> None:
        """Work cases out: from the front ``here``, from the back over there; ``done`` gets each with its place.

        What ``here``, ``done`` or ``beat`` (called while the last answer is waited for) raises is raised; the answer
        that is then on its way is passed over later.
        """
        front, back = 0, len(cases) - 1
        waited = 0
        over_there: int | None = None
        while front <= back or over_there is not None:
            if over_there is None and front < back and self._ask(cases[back]):
                over_there, back = back, back - 1
            if front <= back:
                done(front, here(front))
                front += 1
            elif over_there is not None:
                self._wait()
                beat()
                waited += 1
                if waited > MOST_WAITS:
                    self.close()
                    self._given_up = True
            answer = self._answer() if over_there is not None else None
            if over_there is not None and (answer is not None or not self._asked):
                # Where the other process has died its case is worked out here.
                done(over_there, here(over_there) if answer is None else answer)
                over_there = None

    def close(self) -> None:
        """End the process."""
        process, self._process = self._process, None
        self._asked, self._stale = False, 0
        if process is not None:
            process.kill()
            process.wait()
            for pipe in (process.stdin, process.stdout):
                if pipe is not None:
                    pipe.close()

    def _ask(self, case: Case) -> bool:
        if self._given_up:
            return False
        if self._asked:
            # Given up in the middle before: that answer is still to come.
            self._stale, self._asked = self._stale + 1, False
        try:
            self.start()
            if self._process is None or self._process.stdin is None:
                return False
            send(self._process.stdin, {"case": case.as_json()})
        except OSError:
            self.close()
            self._given_up = True
            return False
        self._asked = True
        return True

    def _wait(self) -> None:
        process = self._process
        if process is not None and process.stdout is not None:
            select.select([process.stdout], [], [], WAIT_S)

    def _answer(self) -> Spans | None:
        """The answer, if it is there."""
        process = self._process
        while process is not None and process.stdout is not None:
            ready, _, _ = select.select([process.stdout], [], [], 0)
            if not ready:
                return None
            answer = receive(process.stdout)
            if answer is None:
                self.close()
                self._given_up = True
                return None
            if self._stale:
                self._stale -= 1
                continue
            self._asked = False
            return {key: (low, high) for key, (low, high) in answer["spans"].items()}
        return None


def main() -> None:
    """Answer until the pipe is closed."""
    from zesty_lever.analysis import analyse
    from zesty_lever.cases.parse import case_from
    from zesty_lever.choosing.shortlist import spans_of
    from zesty_lever.memory import keep_freed_memory

    keep_freed_memory()
    answers = os.fdopen(os.dup(1), "wb")
    os.dup2(2, 1)
    os.nice(5)
    while (message := receive(sys.stdin.buffer)) is not None:
        spans: Any = spans_of(analyse(case_from(message["case"])))
        send(answers, {"spans": spans})


if __name__ == "__main__":
    main()
