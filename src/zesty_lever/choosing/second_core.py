"""Lifts and intervals worked out on a second core: a process of our own that answers task by task.

It is started when it is first wanted, ends with the one that wanted it, and is done without where there is one core or
it can't be started. Its numbers are those of this process.
"""

from __future__ import annotations

import atexit
import os
import pickle
import select
import subprocess
import sys
import threading
from collections import deque
from collections.abc import Callable, Sequence
from functools import partial
from typing import Any, TypeVar

from zesty_lever.frozen import dataclass
from zesty_lever.pipes import receive, send

# How long one look at the pipe waits, and after how many without an answer the other process is given up.
WAIT_S, MOST_WAITS = 0.1, 200
# So many tasks lie over there at once: the other process never waits for a long one here.
AHEAD = 3

Spans = dict[str, tuple[float, float]]
Answer = TypeVar("Answer")


@dataclass(frozen=True)
class Task:
    """What the other process is asked: one of its answers by name, and what it is asked about."""

    name: str
    about: tuple[Any, ...]


class SecondCore:
    """One process that is asked task by task. Both ends are this program: what goes between them is pickled."""

    def __init__(self) -> None:
        self._process: subprocess.Popen[bytes] | None = None
        self._given_up = len(os.sched_getaffinity(0)) < 2
        # Answers that are still to come: to questions that nobody waits for any more, then to ours.
        self._stale, self._asked = 0, 0
        self._free = threading.Lock()

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
            return
        atexit.register(self.close)

    def each(
        self,
        tasks: Sequence[Task],
        here: Callable[[int], Answer],
        done: Callable[[int, Answer], None],
        beat: Callable[[], None] = lambda: None,
    ) -> None:
        """Work tasks out: from the front ``here``, from the back over there; ``done`` gets each with its place.

        What ``here``, ``done`` or ``beat`` (called while the last answer is waited for) raises is raised; the answer
        that is then on its way is passed over later. Where another thread has the other process, all is done here.
        """
        if not self._free.acquire(blocking=False):
            for at in range(len(tasks)):
                done(at, here(at))
            return
        try:
            self._each(tasks, here, done, beat)
        finally:
            self._free.release()

    def _each(
        self,
        tasks: Sequence[Task],
        here: Callable[[int], Answer],
        done: Callable[[int, Answer], None],
        beat: Callable[[], None],
    ) -> None:
        front, back, waited = 0, len(tasks) - 1, 0
        self._stale, self._asked = self._stale + self._asked, 0
        # Places of the tasks that are over there, in the order in which they will be answered.
        over_there: deque[int] = deque()
        while front <= back or over_there:
            # Never more than are left here: both sides come to the end together.
            while len(over_there) < min(AHEAD, back - front) and self._ask(tasks[back]):
                over_there.append(back)
                back -= 1
            if front <= back:
                done(front, here(front))
                front += 1
            elif over_there:
                self._wait()
                beat()
                waited += 1
                if waited > MOST_WAITS:
                    self.close()
                    self._given_up = True
            while over_there:
                answer = self._answer()
                if answer is None and self._asked:
                    break
                # Where the other process has died its tasks are worked out here.
                at = over_there.popleft()
                done(at, here(at) if answer is None else answer)

    def close(self) -> None:
        """End the process."""
        process, self._process = self._process, None
        self._asked, self._stale = 0, 0
        if process is not None:
            process.kill()
            process.wait()
            for pipe in (process.stdin, process.stdout):
                if pipe is not None:
                    pipe.close()

    def _ask(self, task: Task) -> bool:
        if self._given_up:
            return False
        try:
            self.start()
            if self._process is None or self._process.stdin is None:
                return False
            send(self._process.stdin, {"asked": pickle.dumps((task.name, task.about))})
        except OSError:
            self.close()
            self._given_up = True
            return False
        self._asked += 1
        return True

    def _wait(self) -> None:
        process = self._process
        if process is not None and process.stdout is not None:
            select.select([process.stdout], [], [], WAIT_S)

    def _answer(self) -> Any:
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
            self._asked -= 1
            return pickle.loads(answer["found"])  # noqa: S301 (it comes from the process that this one has started)
        return None


# The one of this program.
SECOND_CORE = SecondCore()


# Lifts that between them read and use what every lift of a list does.
FIRST_LIFTS = ("back-squat-high-bar", "split-squat")


def warm_up() -> None:
    """Work out two lifts of anybody before anything is asked: what is read, imported and compiled at the first is then there."""
    from zesty_lever.cases.parse import athlete_from
    from zesty_lever.choosing.loading import TypicalRules
    from zesty_lever.choosing.working import Asked, at_working_loads

    best = {"height_m": 1.75, "mass_kg": 75, "sex": "male", "best_loads_kg": {FIRST_LIFTS[0]: 100}}
    asked = Asked(athlete_from(best), "even", TypicalRules(), keep_shape=False)
    for name in FIRST_LIFTS:
        at_working_loads(asked, [name])


def main() -> None:
    """Answer until the pipe is closed."""
    from zesty_lever.analysis import Result
    from zesty_lever.choosing.shortlist import spans_of_case
    from zesty_lever.choosing.working import at_working_loads
    from zesty_lever.memory import keep_freed_memory

    keep_freed_memory()
    results: dict[str, Result] = {}
    answer_to: dict[str, Callable[..., Any]] = {
        "loads": partial(at_working_loads, results=results),
        "spans": partial(spans_of_case, results=results),
    }
    answers = os.fdopen(os.dup(1), "wb")
    os.dup2(2, 1)
    os.nice(5)
    warm_up()
    while (message := receive(sys.stdin.buffer)) is not None:
        name, about = pickle.loads(message["asked"])  # noqa: S301 (it comes from the process that has started this one)
        send(answers, {"found": pickle.dumps(answer_to[name](*about))})


if __name__ == "__main__":
    main()
