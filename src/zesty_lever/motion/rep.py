"""The timing of a rep: phases, times and progress along the path."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cache

import numpy as np

from zesty_lever.vectors import Array

FRAMES_A_PHASE = 31
PHASES = ("down", "pause-bottom", "up", "pause-top")


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
    def bottom(self) -> int:
        """Index of the first frame at the deepest point."""
        return int(np.argmax(self.progress))


def minimum_jerk(fraction: Array) -> Array:
    """Position (0-1) at a fraction (0-1) of the duration of a minimum-jerk movement."""
    course: Array = fraction**3 * (10.0 - 15.0 * fraction + 6.0 * fraction**2)
    return course


@cache
def timeline(tempo_s: tuple[float, float, float, float]) -> Timeline:
    """Frames for a tempo (down, pause, up, pause), s; pauses of zero length add no frame."""
    down, hold_bottom, up, hold_top = tempo_s
    fraction = np.linspace(0.0, 1.0, FRAMES_A_PHASE)
    course = minimum_jerk(fraction)
    times, progress = [down * fraction], [course]
    phase = ["down"] * FRAMES_A_PHASE
    at = down
    if hold_bottom > 0:
        at += hold_bottom
        times.append(np.array([at]))
        progress.append(np.array([1.0]))
        phase.append("pause-bottom")
    times.append(at + up * fraction[1:])
    progress.append(1.0 - course[1:])
    phase += ["up"] * (FRAMES_A_PHASE - 1)
    if hold_top > 0:
        times.append(np.array([at + up + hold_top]))
        progress.append(np.array([0.0]))
        phase.append("pause-top")
    return Timeline(np.concatenate(times), np.concatenate(progress), tuple(phase))


# A few moments of the way down, densest where the hips are furthest back: for quick looks at
# whether a rep exists at all. The last one is the deepest point.
PROBE_PROGRESS = np.array([0.0, 0.5, 0.65, 0.75, 0.82, 0.88, 0.94, 1.0])
