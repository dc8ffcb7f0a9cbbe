"""The timing of a rep: phases, times and progress along the path, and moments picked from it."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace
from functools import cache, cached_property
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from zesty_lever.frozen import dataclass
from zesty_lever.physics.vectors import Array, smoothstep

FRAMES_A_PHASE = 31
QUARTER = 0.25
# A load that differs between down and up changes over this share of the travel after the turn.
CHANGES_OVER = 0.1
Phase = Literal["down", "pause-bottom", "up", "pause-top"]
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
    phase: tuple[Phase, ...]
    moves: tuple[tuple[int, int], ...]
    up_share: Array

    @property
    def bottom(self) -> int:
        """Index of the first frame at the deepest point (bridges: lockout)."""
        return int(np.argmax(self.progress))

    @property
    def top(self) -> int:
        """Index of the first frame at the top (bridges: hips down)."""
        return int(np.argmin(self.progress))

    def instants(self, *, moving: bool) -> Instants:
        """Every frame; ``moving`` says whether inertia is wanted."""
        runs = tuple(Run(a, b, float(self.time_s[a + 1] - self.time_s[a])) for a, b in self.moves)
        return _with_full_travel(
            Instants(
                self.progress, self.up_share, slice(0, len(self.progress)), runs if moving else ()
            )
        )

    @cached_property
    def once(self) -> tuple[Instants, NDArray[np.intp]]:
        """Every place of the rep once, at rest, and at which of them each frame is.

        For reps that look the same on both ways.
        """
        first: dict[float, int] = {}
        at = [first.setdefault(place, len(first)) for place in self.progress.tolist()]
        frames = [at.index(row) for row in range(len(first))]
        return self.instants_at(frames, moving=False), np.array(at)

    def instants_at(self, frames: Iterable[int], *, moving: bool) -> Instants:
        """Some frames, in their order in time, and what they need.

        That is the top and the bottom, and for inertia their neighbours in time.
        """
        kept = sorted(set(frames))
        needed = sorted({*kept, self.bottom, self.top})
        if not moving:
            every = len(needed) == len(kept)
            rows: slice | NDArray[np.intp]
            rows = slice(0, len(kept)) if every else np.array([needed.index(f) for f in kept])
            return _with_full_travel(
                Instants(self.progress[needed], self.up_share[needed], rows, ())
            )
        picked: list[int] = []
        runs: list[Run] = []
        found: list[int] = []
        for frame in needed:
            around, step = self._neighbours(frame)
            first = len(picked)
            picked += around
            if frame in kept:
                found.append(first + around.index(frame))
            if len(around) > 1:
                runs.append(Run(first, first + len(around) - 1, step))
        return _with_full_travel(
            Instants(self.progress[picked], self.up_share[picked], np.array(found), tuple(runs))
        )

    def _neighbours(self, frame: int) -> tuple[list[int], float]:
        """Frames that a frame's second derivative needs, itself among them, and their spacing, s."""
        for start, last in self.moves:
            if start < frame < last:
                reach = 2 if start + 1 < frame < last - 1 else 1
                step = float(self.time_s[start + 1] - self.time_s[start])
                return list(range(frame - reach, frame + reach + 1)), step
        return [frame], 0.0


@dataclass(frozen=True)
class Run:
    """Evenly spaced frames ``start`` to ``last``, ``step_s`` apart, along which a path can be differentiated."""

    start: int
    last: int
    step_s: float


@dataclass(frozen=True)
class Instants:
    """Moments of a rep that are worked out together.

    ``progress`` and ``up_share`` ``(frames,)`` as in `Timeline`; ``kept`` picks those that were asked
    for (the others are there for them: the ends of the path, neighbours in time); ``runs`` are the
    stretches along which inertia is found, none at rest.
    """

    progress: Array
    up_share: Array
    kept: slice | NDArray[np.intp]
    runs: tuple[Run, ...]

    @property
    def moving(self) -> bool:
        """Whether inertia counts."""
        return bool(self.runs)


def on_the_way_down(progress: Array) -> Instants:
    """Moments of the way down at rest; the last of ``progress`` should be the deepest."""
    return _with_full_travel(
        Instants(progress, np.zeros_like(progress), slice(0, len(progress)), ())
    )


def _with_full_travel(instants: Instants) -> Instants:
    """With the top and the deepest point of the full travel, from which every path is built; the deepest asks for no path."""
    if not instants.moving and instants.progress.min() >= 1.0:
        return instants
    missing = [
        end
        for end, there in ((0.0, instants.progress.min()), (1.0, instants.progress.max()))
        if there != end
    ]
    if not missing:
        return instants
    return replace(
        instants,
        progress=np.append(instants.progress, missing),
        up_share=np.append(instants.up_share, np.zeros(len(missing))),
    )


def minimum_jerk(fraction: Array) -> Array:
    """Position (0-1) at a fraction (0-1) of the duration of a minimum-jerk movement."""
    course: Array = fraction**3 * (10.0 - 15.0 * fraction + 6.0 * fraction**2)
    return course


Move = tuple[Phase, float, float, Literal["", "pause-bottom", "pause-top"]]
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
    back: Phase = "down" if order == "bridge" else "up"
    forth: Phase = "up" if order == "bridge" else "down"
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
    phase: list[Phase] = []
    moves: list[tuple[int, int]] = []
    shares: list[Array] = []
    for (name, start, end, hold), part in _moves(order, style):
        count = FRAMES_A_PHASE if part == 1.0 else FRAMES_A_PHASE // 2 + 1
        skip = 0 if not moves else 1
        fraction = np.linspace(0.0, 1.0, count)[skip:]
        # The way back passes through the same places, to the last bit.
        course = minimum_jerk(fraction)
        back = minimum_jerk(np.linspace(0.0, 1.0, count))[::-1][skip:]
        time_s.append(at + part * length[name] * fraction)
        done = start + (end - start) * course if end > start else end + (start - end) * back
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
