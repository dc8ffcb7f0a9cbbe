"""The timing of a rep: phases, times and progress along the path."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cache

import numpy as np

from zesty_lever.vectors import Array, smoothstep

FRAMES_A_PHASE = 31
QUARTER = 0.25
# A load that differs between down and up changes over this share of the travel after the turn.
CHANGES_OVER = 0.1
STYLES = ("full", "one-and-a-quarter")


@dataclass(frozen=True)
class Timeline:
    """Frames of one rep: ``time_s`` and ``progress`` of shape ``(frames,)``, phase of each frame.

    Progress is 0 at the top and 1 at the bottom (bridges: 0 with the hips down, 1 at lockout) and
    follows a minimum-jerk course inside each move (Flash & Hogan 1985, from memory). ``moves`` holds
    the first and last frame of every move; ``up_share`` is how far what belongs to the way up has
    taken over from what belongs to the way down, 0-1, ``(frames,)``.
    """

    time_s: Array
    progress: Array
    phase: tuple[str, ...]
    moves: tuple[tuple[int, int], ...]
    up_share: Array

    @property
    def bottom(self) -> int:
        """Index of the first frame at the deepest point (bridges: lockout)."""
        return int(np.argmax(self.progress))


def minimum_jerk(fraction: Array) -> Array:
    """Position (0-1) at a fraction (0-1) of the duration of a minimum-jerk movement."""
    course: Array = fraction**3 * (10.0 - 15.0 * fraction + 6.0 * fraction**2)
    return course


Move = tuple[str, float, float, str]
ORDERS: dict[str, tuple[Move, Move]] = {
    # Both moving phases with progress at their start and end, and the pause after each.
    "top-first": (("down", 0.0, 1.0, "pause-bottom"), ("up", 1.0, 0.0, "pause-top")),
    "floor-first": (("up", 1.0, 0.0, "pause-top"), ("down", 0.0, 1.0, "pause-bottom")),
    "bridge": (("up", 0.0, 1.0, "pause-top"), ("down", 1.0, 0.0, "pause-bottom")),
}


def _moves(order: str, style: str) -> list[tuple[Move, float]]:
    """Moves of a rep, each with the share of its phase's time that it takes.

    One and a quarter: a quarter of the travel back and forth where progress is 1, in half the
    time, which leaves the accelerations as they are in the full phase.
    """
    first, second = ORDERS[order]
    if style == "full":
        return [(first, 1.0), (second, 1.0)]
    back, forth = ("down", "up") if order == "bridge" else ("up", "down")
    extra: list[tuple[Move, float]] = [
        ((back, 1.0, 1.0 - QUARTER, ""), 0.5),
        ((forth, 1.0 - QUARTER, 1.0, ""), 0.5),
    ]
    if order == "floor-first":
        return [*extra, (first, 1.0), (second, 1.0)]
    return [(first, 1.0), *extra, (second, 1.0)]


@cache
def timeline(
    tempo_s: tuple[float, float, float, float],
    order: str = "top-first",
    travel: tuple[float, float] = (0.0, 1.0),
    style: str = "full",
) -> Timeline:
    """Frames for a tempo (down, pause at the bottom, up, pause at the top), s.

    ``order`` is where the rep begins: at the top, on the floor (pulls), or hips down (bridges).
    ``travel`` is the part of the full progress that is done. Pauses of zero length add no frame.
    """
    length = dict(zip(("down", "pause-bottom", "up", "pause-top"), tempo_s, strict=True))
    low, high = travel
    at, time_s, progress = 0.0, [], []  # type: float, list[Array], list[Array]
    phase: list[str] = []
    moves: list[tuple[int, int]] = []
    shares: list[Array] = []
    for (name, start, end, hold), part in _moves(order, style):
        count = FRAMES_A_PHASE if part == 1.0 else FRAMES_A_PHASE // 2 + 1
        skip = 0 if not moves else 1
        fraction = np.linspace(0.0, 1.0, count)[skip:]
        course = minimum_jerk(fraction)
        time_s.append(at + part * length[name] * fraction)
        done = start + (end - start) * course
        progress.append(low + (high - low) * done)
        moved = np.abs(end - start) * course
        turned = smoothstep(moved / CHANGES_OVER) if moves else np.ones_like(course)
        shares.append(turned if name == "up" else 1.0 - turned)
        moves.append((len(phase) - skip, len(phase) + count - skip - 1))
        phase += [name] * (count - skip)
        at += part * length[name]
        if hold and length[hold] > 0:
            at += length[hold]
            time_s.append(np.array([at]))
            progress.append(progress[-1][-1:])
            shares.append(shares[-1][-1:])
            phase.append(hold)
    return Timeline(
        np.concatenate(time_s),
        np.concatenate(progress),
        tuple(phase),
        tuple(moves),
        np.concatenate(shares),
    )


# A few moments of the way down, densest where the hips are furthest back: for quick looks at
# whether a rep exists at all. The last one is the deepest point.
PROBE_PROGRESS = np.array([0.0, 0.5, 0.65, 0.75, 0.82, 0.88, 0.94, 1.0])
