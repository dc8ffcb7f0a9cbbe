"""Running a study: what is missing is worked out and written, by one engine or another."""

from __future__ import annotations

import errno
import threading
import time
from collections.abc import Callable, Iterable
from pathlib import Path
from typing import Protocol

from zesty_lever.frozen import dataclass
from zesty_lever.problems import CaseError
from zesty_lever.study.design import Design
from zesty_lever.study.folder import StudyFolder
from zesty_lever.study.part import LEAST_LIMIT_S, Pace

FULL = (errno.ENOSPC, errno.EDQUOT)
# Told to whoever watches: parts done and failed now, those to do, seconds.
Tell = Callable[[int, int, int, float], None]


class StoppedError(Exception):
    """The run ended early; the same command goes on later."""


class Engine(Protocol):
    """What works parts out."""

    def run(self, parts: Iterable[int], report: Report) -> None:
        """Work parts out, telling each."""


@dataclass(frozen=True)
class Ended:
    """How a run ended: parts of its own that are there, missing and failed, and why it stopped early, if it did."""

    own: int
    there: int
    failed: dict[int, str]
    stopped: str = ""

    @property
    def missing(self) -> int:
        """Parts of its own that are not there."""
        return self.own - self.there


class Report:
    """Takes what engines make: writes parts, notes failures, tells how far it is."""

    def __init__(self, folder: StudyFolder, count: int, tell: Tell | None) -> None:
        self._folder, self._count, self._tell = folder, count, tell
        self._lock = threading.Lock()
        self._began = time.monotonic()
        self._done = 0
        self.failures: dict[int, str] = {}

    def done(self, number: int, data: bytes | None) -> None:
        """A part is worked out; None where it is written already. Raises `StoppedError` where the disk is full."""
        if data is not None:
            try:
                self._folder.write(number, data)
            except OSError as error:
                if error.errno in FULL:
                    raise StoppedError(
                        f"the disk is full: part {number} could not be written; "
                        "make room and run the same command again"
                    ) from error
                raise
        with self._lock:
            self._done += 1
        self._say()

    def failed(self, number: int, why: str) -> None:
        """A part could not be worked out."""
        with self._lock:
            self.failures[number] = why
        self._folder.note_failed(number, why)
        self._say()

    def _say(self) -> None:
        if self._tell is not None:
            seconds = time.monotonic() - self._began
            self._tell(self._done, len(self.failures), self._count, seconds)


def run_study(
    design: Design,
    out: Path,
    engine_of: Callable[[Design, Pace], Engine],
    *,
    shard: tuple[int, int] = (1, 1),
    limit: int | None = None,
    tell: Tell | None = None,
    least_limit_s: float = LEAST_LIMIT_S,
) -> Ended:
    """Work out what is missing of a study (of a shard of it: its every N-th part), at most ``limit`` parts.

    Raises `CaseError` where the folder is another study's or busy, `OSError` where it can't be written.
    """
    folder = StudyFolder(out)
    number, shards = shard
    own = range(number - 1, design.parts, shards)
    folder.open_for(design)
    stopped = ""
    with folder.held(shared=shards > 1):
        folder.clear_left_overs(lambda part: part in own)
        done = folder.done()
        missing = [part for part in own if part not in done]
        wanted = missing if limit is None else missing[:limit]
        report = Report(folder, len(wanted), tell)
        if wanted:
            try:
                engine_of(design, Pace(least_limit_s)).run(wanted, report)
            except StoppedError as error:
                stopped = str(error)
            except KeyboardInterrupt:
                stopped = "interrupted; whole parts stay, the same command goes on"
        there = folder.done()
        ended = sum(part in there for part in own)
        failed = {part: why for part, why in report.failures.items() if part not in there}
    if not stopped and limit is not None and len(wanted) < len(missing):
        stopped = f"stopped after {len(wanted)} parts, as asked"
    return Ended(len(own), ended, failed, stopped)


def shard_from(text: str) -> tuple[int, int]:
    """``I/N`` as numbers. Raises `CaseError`."""
    first, _, count = text.partition("/")
    if first.isdecimal() and count.isdecimal() and 1 <= int(first) <= int(count) <= 10**6:
        return int(first), int(count)
    raise CaseError(
        "bad-option", f"--shard is {text}; expected I/N with I from 1 to N", key="--shard"
    )
