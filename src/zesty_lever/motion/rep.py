"""The timing of a rep: phases, times and progress along the path."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cache

import numpy as np

from zesty_lever.vectors import Array

FRAMES_A_PHASE = 31


@dataclass(frozen=True)
class Timeline:
    """Frames of one rep: ``time_s`` and ``progress`` of shape ``(frames,)``, phase of each frame.

    Progress is 0 at the top and 1 at the bottom and follows a minimum-jerk course inside each
    moving phase (Flash & Hogan 1985, from memory).
    """

    time_s: Array
    progress: Array
    phase: tuple[str, ...]

    @property
    def rising(self) -> Array:
        """1 in frames on the way up, else 0, ``(frames,)``."""
        return np.array([float(name == "up") for name in self.phase])

    @property
    def bottom(self) -> int:
        """Index of the first frame at the deepest point (bridges: lockout)."""
        return int(np.argmax(self.progress))


def minimum_jerk(fraction: Array) -> Array:
    """Position (0-1) at a fraction (0-1) of the duration of a minimum-jerk movement."""
    course: Array = fraction**3 * (10.0 - 15.0 * fraction + 6.0 * fraction**2)
    return course


ORDERS = {
    # First and second moving phase and the pauses after them, with progress at their start and end.
    "top-first": (("down", 0.0, 1.0), "pause-bottom", ("up", 1.0, 0.0), "pause-top"),
    "floor-first": (("up", 1.0, 0.0), "pause-top", ("down", 0.0, 1.0), "pause-bottom"),
    "bridge": (("up", 0.0, 1.0), "pause-top", ("down", 1.0, 0.0), "pause-bottom"),
}


@cache
def timeline(tempo_s: tuple[float, float, float, float], order: str = "top-first") -> Timeline:
    """Frames for a tempo (down, pause at the bottom, up, pause at the top), s.

    ``order`` is where the rep begins: at the top, on the floor (pulls), or hips down (bridges, whose
    progress is 0 with the hips down and 1 at lockout). Pauses of zero length add no frame.
    """
    length = dict(zip(("down", "pause-bottom", "up", "pause-top"), tempo_s, strict=True))
    first, hold_first, second, hold_second = ORDERS[order]
    fraction = np.linspace(0.0, 1.0, FRAMES_A_PHASE)
    course = minimum_jerk(fraction)
    at, times, progress, phase = 0.0, [], [], []  # type: float, list[Array], list[Array], list[str]
    for (name, start, end), hold, skip in ((first, hold_first, 0), (second, hold_second, 1)):
        times.append(at + length[name] * fraction[skip:])
        progress.append(start + (end - start) * course[skip:])
        phase += [name] * (FRAMES_A_PHASE - skip)
        at += length[name]
        if length[hold] > 0:
            at += length[hold]
            times.append(np.array([at]))
            progress.append(np.array([end]))
            phase.append(hold)
    return Timeline(np.concatenate(times), np.concatenate(progress), tuple(phase))


# A few moments of the way down, densest where the hips are furthest back: for quick looks at
# whether a rep exists at all. The last one is the deepest point.
PROBE_PROGRESS = np.array([0.0, 0.5, 0.65, 0.75, 0.82, 0.88, 0.94, 1.0])
