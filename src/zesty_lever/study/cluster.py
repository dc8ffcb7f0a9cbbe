"""Parts on a running Dask scheduler. The worker's process only keeps a computing process of its own going."""

from __future__ import annotations

import ipaddress
import logging
import threading
import time
from collections.abc import Iterable, Iterator
from contextlib import suppress
from pathlib import Path
from typing import Any

from zesty_lever.problems import CaseError
from zesty_lever.study.design import Design
from zesty_lever.study.document import study_as_dict, study_from
from zesty_lever.study.folder import StudyFolder
from zesty_lever.study.inputs import DesignInputs, ShippedInputs
from zesty_lever.study.part import Pace, part_bytes
from zesty_lever.study.run import Report, StoppedError
from zesty_lever.study.solver import ChildCantStartError, Solver
from zesty_lever.version import VERSION

CONNECT_S, FETCH_S, GONE_S, POLL_S = 10.0, 1.5, 3.0, 0.05
TRIES = 3
# Parts handed out for each thread of the workers: while one is worked out the next is there.
AHEAD = 2
COUNT_S = 2.0

_HERE = threading.local()


def check_address(address: str, *, insecure: bool) -> None:
    """Refuse a scheduler elsewhere without encryption: it runs any code it is sent. Raises `CaseError`."""
    scheme, _, rest = address.rpartition("://")
    host = rest.rpartition(":")[0].strip("[]") or rest
    if scheme == "tls" or insecure or _is_loopback(host):
        return
    raise CaseError(
        "not-allowed",
        f"--scheduler {address} is neither on this machine nor tls://; a scheduler runs any code it is sent. "
        "Use tls://, or --insecure on a network that you trust",
        key="--scheduler",
        value=address,
    )


def _is_loopback(host: str) -> bool:
    if host == "localhost":
        return True
    try:
        return ipaddress.ip_address(host).is_loopback
    except ValueError:
        return False


def worker_version() -> str:
    """Version of the program on a worker."""
    return VERSION


def work_part(job: dict[str, Any]) -> dict[str, Any]:
    """Work one part out on a worker: its bytes, or (in a shared folder) written by itself."""
    if job["version"] != VERSION:
        raise CaseError(
            "newer-version", f"a worker has version {VERSION}, the study is of {job['version']}"
        )
    design = _design_of(job)
    solver = _solver_of(design)
    data = part_bytes(design, job["number"], solver, job["limit_s"], job["values"])
    answer: dict[str, Any] = {"seconds": solver.seconds}
    if job["folder"]:
        StudyFolder(Path(job["folder"])).write(job["number"], data)
        return {**answer, "bytes": len(data)}
    return {**answer, "data": data}


def _design_of(job: dict[str, Any]) -> Design:
    """The design of a job, kept by the thread for the next part."""
    known: tuple[str, Design] | None = getattr(_HERE, "design", None)
    if known is None or known[0] != job["id"]:
        study = study_from(job["study"])
        shipped = ShippedInputs(job["rows"], tuple(job["keys"]))
        known = (job["id"], Design(study, shipped if study.cases else DesignInputs(study)))
        _HERE.design = known
    return known[1]


def _solver_of(design: Design) -> Solver:
    """The computing process of this thread; a study's own."""
    known: tuple[Design, Solver] | None = getattr(_HERE, "solver", None)
    if known is None or known[0] is not design:
        if known is not None:
            known[1].close()
        known = (design, Solver(design.reader))
        _HERE.solver = known
    return known[1]


class DaskEngine:
    """Hands parts to a scheduler and collects them."""

    def __init__(
        self, design: Design, address: str, pace: Pace, shared_folder: Path | None = None
    ) -> None:
        try:
            from distributed import Client
        except ImportError:
            raise CaseError(
                "needs-extra",
                "--scheduler needs Dask: install zesty-lever[cluster]",
                key="--scheduler",
            ) from None
        for name in ("distributed", "tornado"):
            logging.getLogger(name).setLevel(logging.CRITICAL)
        self._design, self._pace, self._folder = design, pace, shared_folder
        self._flying: dict[int, Any] = {}
        self._tries: dict[int, int] = {}
        self._last_seen = 0.0
        # How many parts are handed out at a time.
        self._most = AHEAD
        self._closed = threading.Event()
        try:
            client: Any = Client
            self._client: Any = client(
                address, timeout=CONNECT_S, heartbeat_interval=1000, set_as_default=False
            )
        except OSError as error:
            raise StoppedError(f"no scheduler answers at {address}") from error
        self._check_versions()
        threading.Thread(target=self._count_threads, daemon=True).start()

    def _check_versions(self) -> None:
        """Every worker runs the version that this study is of. Raises `CaseError` naming one that does not."""
        try:
            found = self._client.run(worker_version, on_error="return")
        except (OSError, ValueError) as error:
            raise StoppedError(f"the scheduler can't ask its workers: {error}") from error
        self._most = AHEAD * max(len(found), 1)
        for worker, version in found.items():
            if version != VERSION:
                told = version if isinstance(version, str) else "none that can be imported"
                self.close()
                raise CaseError(
                    "newer-version",
                    f"worker {worker} has version {told} of zesty-lever; this study needs {VERSION}",
                    key="--scheduler",
                )

    def close(self) -> None:
        """Let go of the scheduler, whether it is there or not."""
        self._closed.set()
        closing = threading.Thread(target=self._client.close, args=(2,), daemon=True)
        closing.start()
        closing.join(1.5)

    def run(self, parts: Iterable[int], report: Report) -> None:
        """Work parts out. Raises `StoppedError` where the scheduler is gone or the disk full, `OSError` else."""
        waiting = iter(parts)
        self._last_seen = time.monotonic()
        try:
            while self._hand_out(waiting) or self._flying:
                self._look()
                for number, future in [(n, f) for n, f in self._flying.items() if f.done()]:
                    if not self._collected(number, future, report):
                        break
                time.sleep(POLL_S)
        finally:
            self.close()

    def _hand_out(self, waiting: Iterator[int]) -> bool:
        """Hand parts out as far as there is room; whether there may be more."""
        while len(self._flying) < self._most:
            number = next(waiting, None)
            if number is None:
                return False
            self._flying[number] = self._submit(number, 0)
        return True

    def _look(self) -> None:
        """Whether the scheduler is still there. Raises `StoppedError`."""
        if self._client.status == "running":
            self._last_seen = time.monotonic()
        elif time.monotonic() - self._last_seen > GONE_S:
            raise StoppedError("the scheduler is gone; run the same command again to go on")

    def _collected(self, number: int, future: Any, report: Report) -> bool:
        """Take what a part came to; False where it can't be had now."""
        if future.status == "finished":
            answer = self._fetched(future)
            if answer is None:
                # Lost with its worker (the scheduler has it worked out again) or with the scheduler.
                return False
            del self._flying[number]
            self._pace.note(answer["seconds"])
            report.done(number, answer.get("data"))
        elif self._client.status == "running":
            self._tries[number] = self._tries.get(number, 0) + 1
            if self._tries[number] < TRIES:
                self._flying[number] = self._submit(number, self._tries[number])
            else:
                del self._flying[number]
                report.failed(number, _why(future))
        return True

    def _count_threads(self) -> None:
        """Ask now and then how many threads the workers have: beside the run, since a dead scheduler answers late."""
        while not self._closed.wait(COUNT_S):
            with suppress(Exception):
                self._most = AHEAD * max(int(sum(self._client.nthreads().values())), 1)

    def _submit(self, number: int, attempt: int) -> Any:
        design = self._design
        shipped = bool(design.study.cases)
        job = {
            "id": design.id,
            "version": VERSION,
            "study": study_as_dict(design.study),
            "keys": list(design.keys),
            "rows": design.rows,
            "number": number,
            "values": design.inputs.values(design.rows_of(number)) if shipped else None,
            "limit_s": self._pace.limit_s,
            "folder": "" if self._folder is None else str(self._folder.resolve()),
        }
        key = f"zesty-lever-{design.id}-{number}-{attempt}"
        return self._client.submit(work_part, job, key=key, pure=False)

    def _fetched(self, future: Any) -> dict[str, Any] | None:
        """What a part came to; None where it can't be had now."""
        try:
            answer: dict[str, Any] = future.result(timeout=FETCH_S)
        except (OSError, TimeoutError):
            return None
        return answer


def _why(future: Any) -> str:
    error = future.exception(timeout=CONNECT_S)
    if isinstance(error, ChildCantStartError | CaseError):
        return str(error)
    return f"{type(error).__name__}: {error}"
