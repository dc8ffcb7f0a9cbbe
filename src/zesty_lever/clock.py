"""The one clock: every module asks here what day and what time it is, and tests set it.

``ZESTY_LEVER_CLOCK`` (a local time, ``2026-12-02T09:00``) starts the program at that moment; time goes on from there.
The steady clock, which measures rests, is never moved.
"""

from __future__ import annotations

import datetime as dt
import os
import time
from collections.abc import Iterator
from contextlib import contextmanager

VARIABLE = "ZESTY_LEVER_CLOCK"


class _Shift:
    """By how many seconds the clock is moved against the machine's."""

    def __init__(self) -> None:
        text = os.environ.get(VARIABLE, "")
        self.by_s = _since_1970(text) - time.time() if text else 0.0


def _since_1970(moment: str | dt.datetime) -> float:
    """A local time as seconds since 1970. Raises `ValueError` for a text that is none."""
    read = dt.datetime.fromisoformat(moment) if isinstance(moment, str) else moment
    return read.timestamp()


_SHIFT = _Shift()


def now_s() -> float:
    """Wall clock, s since 1970 (UTC): only ever noted, never used to measure."""
    return time.time() + _SHIFT.by_s


def now_ms() -> int:
    """The same in ms."""
    return int(now_s() * 1e3)


def today() -> int:
    """The local day as its proleptic ordinal: the coach's own day, whatever the hour in UTC."""
    return day_of(now_s())


def day_of(at_s: float) -> int:
    """The local day of a moment (s since 1970), as its proleptic ordinal."""
    return dt.date.fromtimestamp(at_s).toordinal()  # noqa: DTZ012 (the coach's own day)


def local(form: str, at_s: float | None = None) -> str:
    """A moment (s since 1970; None: now) in local time by a form of ``strftime``."""
    return time.strftime(form, time.localtime(now_s() if at_s is None else at_s))


def steady_s() -> float:
    """Seconds of a clock that nobody sets: the one that counts sleep where there is one, else the monotonic one."""
    boot = getattr(time, "CLOCK_BOOTTIME", None)
    return time.monotonic() if boot is None else time.clock_gettime(boot)


@contextmanager
def at(moment: str | dt.datetime) -> Iterator[None]:
    """Inside the block it is this local time (and it goes on from there)."""
    was = _SHIFT.by_s
    _SHIFT.by_s = _since_1970(moment) - time.time()
    try:
        yield
    finally:
        _SHIFT.by_s = was
