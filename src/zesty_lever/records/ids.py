"""Ids that are unique across coaches and machines: 41 bits of milliseconds since 2024 and 22 random bits."""

from __future__ import annotations

import secrets
import threading

from zesty_lever import clock

EPOCH_MS = 1_704_067_200_000
RANDOM_BITS = 22


class _Issued:
    """The ids of the newest millisecond, so that this process never gives one twice."""

    def __init__(self) -> None:
        self.lock = threading.Lock()
        self.stamp = 0
        self.parts: set[int] = set()

    def part(self, stamp: int) -> int:
        with self.lock:
            if stamp != self.stamp:
                self.stamp, self.parts = stamp, set()
            while (part := secrets.randbits(RANDOM_BITS)) in self.parts:
                pass
            self.parts.add(part)
            return part


_ISSUED = _Issued()


def new_id(now_ms: int | None = None) -> int:
    """A fresh id, below 2^63. Never used for order: the times and numbers in the rows are."""
    now = clock.now_ms() if now_ms is None else now_ms
    stamp = min(max(now - EPOCH_MS, 1), 2**41 - 1)
    return (stamp << RANDOM_BITS) | _ISSUED.part(stamp)
