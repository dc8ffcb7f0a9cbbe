"""Parts on this machine: a thread and a computing process for each worker."""

from __future__ import annotations

import threading
from collections.abc import Iterable, Iterator

from zesty_lever.study.design import Design
from zesty_lever.study.part import Pace, part_bytes
from zesty_lever.study.run import Report
from zesty_lever.study.solver import ChildCantStartError, Solver

LOOK_S = 0.2


class LocalEngine:
    """Works parts out with so many processes; ``run`` returns when all are done or it is stopped."""

    def __init__(self, design: Design, workers: int, pace: Pace) -> None:
        self._design, self._workers, self._pace = design, workers, pace
        self._stop = threading.Event()
        self._lock = threading.Lock()
        self.solvers = [Solver(design.reader) for _ in range(workers)]

    def run(self, parts: Iterable[int], report: Report) -> None:
        """Work parts out. Raises what ``report`` raises (`OSError`: the disk), and `KeyboardInterrupt`."""
        waiting = iter(parts)
        failures: list[BaseException] = []
        threads = [
            threading.Thread(
                target=self._work, args=(solver, waiting, report, failures), daemon=True
            )
            for solver in self.solvers
        ]
        for thread in threads:
            thread.start()
        try:
            while any(thread.is_alive() for thread in threads) and not failures:
                threads[0].join(LOOK_S)
                for thread in threads:
                    thread.join(0.001)
        finally:
            self._stop.set()
            for solver in self.solvers:
                # An answer that is being waited for then ends at once.
                solver.stop()
            for thread in threads:
                thread.join(5.0)
            for solver in self.solvers:
                solver.close()
        if failures:
            raise failures[0]

    def _next(self, waiting: Iterator[int]) -> int | None:
        with self._lock:
            return None if self._stop.is_set() else next(waiting, None)

    def _work(
        self,
        solver: Solver,
        waiting: Iterator[int],
        report: Report,
        failures: list[BaseException],
    ) -> None:
        while (number := self._next(waiting)) is not None:
            try:
                data = part_bytes(self._design, number, solver, self._pace.limit_s)
                if self._stop.is_set():
                    return
                self._pace.note(solver.seconds)
                report.done(number, data)
            except ChildCantStartError as error:
                if not self._stop.is_set():
                    report.failed(number, str(error))
            except BaseException as error:  # noqa: BLE001 (told by the thread that waits)
                failures.append(error)
                return
