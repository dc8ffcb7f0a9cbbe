"""A child process that works rows out, started again when it dies, and stopped when it takes too long."""

from __future__ import annotations

import importlib
import os
import select
import subprocess
import sys
import time
from typing import Any

import msgspec

from zesty_lever.pipes import LENGTH, send
from zesty_lever.study.design import Reader
from zesty_lever.study.document import study_as_dict
from zesty_lever.study.inputs import Values
from zesty_lever.study.wire import Outcomes, values_of

TRIES = 3
# A part that kills its process so often, or takes too long, is cut into pieces of this size first.
PIECE = 256
START_S = 120.0
LEAST_PIECE_S = 30.0


class ChildDiedError(Exception):
    """The process ended without an answer."""


class ChildTooSlowError(Exception):
    """The process did not answer in time and was stopped."""


class ChildCantStartError(Exception):
    """The process does not even start: nothing can be worked out here."""


def dispatched() -> list[str]:
    """Instruction sets that this NumPy would choose among by the machine it finds itself on."""
    umath = importlib.import_module("numpy._core._multiarray_umath")
    return list(umath.__cpu_dispatch__)


def pinned_environment() -> dict[str, str]:
    """The environment of a child: one thread, and the arithmetic of NumPy that every machine of its kind has."""
    return {
        **os.environ,
        "NPY_DISABLE_CPU_FEATURES": " ".join(dispatched()),
        "OPENBLAS_NUM_THREADS": "1",
        "OMP_NUM_THREADS": "1",
    }


class Solver:
    """Works rows of one study out in a child process. Used by one thread at a time."""

    def __init__(self, reader: Reader) -> None:
        self._told = {"study": study_as_dict(reader.study), "keys": list(reader.keys)}
        self._child: subprocess.Popen[bytes] | None = None
        self._stopped = False
        # Seconds of computing of the last answer.
        self.seconds = 0.0

    @property
    def pid(self) -> int | None:
        """The child's process, None where there is none."""
        return None if self._child is None else self._child.pid

    def stop(self) -> None:
        """From another thread: end what is being waited for, and answer nothing any more."""
        self._stopped = True
        child = self._child
        if child is not None:
            child.kill()

    def close(self) -> None:
        """Stop the child."""
        child, self._child = self._child, None
        if child is not None:
            child.kill()
            child.wait()
            for pipe in (child.stdin, child.stdout):
                if pipe is not None:
                    pipe.close()

    def outcomes(self, values: Values, count: int, limit_s: float) -> Outcomes:
        """What comes of rows, whatever one of them does to the process. Raises `ChildCantStartError`."""
        for _ in range(TRIES):
            try:
                return self.ask(values, count, limit_s)
            except ChildDiedError:
                continue
            except ChildTooSlowError:
                break
        pieces = []
        for start in range(0, count, PIECE):
            size = min(PIECE, count - start)
            share = max(4.0 * limit_s * size / count, LEAST_PIECE_S)
            limit = min(limit_s, share)
            pieces.append(self._hunted(values_of(values, slice(start, start + size)), size, limit))
        return Outcomes.joined(pieces)

    def _hunted(self, values: Values, count: int, limit_s: float) -> Outcomes:
        """Rows of which one may kill the process or take for ever: halved until it stands alone."""
        problem, note = "crashed", "the process ended without an answer"
        for _ in range(1 if count > 1 else TRIES):
            try:
                return self.ask(values, count, limit_s)
            except ChildDiedError:
                continue
            except ChildTooSlowError:
                problem, note = "timed-out", f"no answer in {limit_s:.0f} s"
                break
        if count == 1:
            return Outcomes.of_nothing(1, problem, note)
        middle = count // 2
        return Outcomes.joined(
            [
                self._hunted(values_of(values, slice(0, middle)), middle, limit_s),
                self._hunted(values_of(values, slice(middle, count)), count - middle, limit_s),
            ]
        )

    def ask(self, values: Values, count: int, limit_s: float) -> Outcomes:
        """Ask once. Raises `ChildDiedError`, `ChildTooSlowError`, `ChildCantStartError`."""
        child = self._started()
        assert child.stdin is not None
        try:
            send(child.stdin, {**self._told, "values": values, "count": count})
        except OSError:
            self.close()
            raise ChildDiedError from None
        answer = self._answer(child, limit_s)
        self.seconds = float(answer["seconds"])
        return Outcomes.from_dict(answer)

    def _started(self) -> subprocess.Popen[bytes]:
        if self._stopped:
            raise ChildCantStartError("stopped")
        if self._child is not None and self._child.poll() is None:
            return self._child
        self.close()
        child = subprocess.Popen(
            [sys.executable, "-m", "zesty_lever.study.child"],
            stdin=subprocess.PIPE,
            stdout=subprocess.PIPE,
            env=pinned_environment(),
        )
        self._child = child
        try:
            self._answer(child, START_S)
        except (ChildDiedError, ChildTooSlowError):
            code = child.returncode
            raise ChildCantStartError(f"the computing process did not start ({code})") from None
        return child

    def _answer(self, child: subprocess.Popen[bytes], limit_s: float) -> dict[str, Any]:
        end = time.monotonic() + limit_s
        (length,) = LENGTH.unpack(self._read(child, LENGTH.size, end))
        found: dict[str, Any] = msgspec.msgpack.decode(self._read(child, length, end))
        return found

    def _read(self, child: subprocess.Popen[bytes], count: int, end: float) -> bytes:
        assert child.stdout is not None
        handle = child.stdout.fileno()
        found = bytearray()
        while len(found) < count:
            ready, _, _ = select.select([handle], [], [], max(end - time.monotonic(), 0.0))
            if not ready:
                self.close()
                raise ChildTooSlowError
            block = os.read(handle, min(count - len(found), 2**20))
            if not block:
                self.close()
                raise ChildDiedError
            found += block
        return bytes(found)
