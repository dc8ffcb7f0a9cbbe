"""Reps and tempo: where a set turns, and how long each part takes.

A rep is a way down and up again of bar or hips by more than `LEAST_WAY_M` and 45 % of the whole range.
Its times come from the joint that moves most: a minimum-jerk move (Flash & Hogan 1985, from memory) through
the moments at which 10 and 90 % of its way are done.
"""

from __future__ import annotations

from typing import Any

import numpy as np

from zesty_lever.frozen import dataclass
from zesty_lever.measure.smooth import SPEED_HZ, runs, smoothed
from zesty_lever.physics.vectors import Array

LEAST_WAY_M, LEAST_SHARE = 0.12, 0.45
# The share of a minimum-jerk move's time at which 10 % of its way is done.
TENTH_AT = 0.24662
# Standard error of a phase's length, s. Trials with known truth.
TEMPO_SD_S = 0.2
# The lowest frame of a flat bottom is this good, s.
FLAT_S = 0.25
# Slower than this share of a phase's fastest is at rest.
AT_REST = 0.06


@dataclass(frozen=True)
class Rep:
    """One rep's times, s: start, deepest moment, end; ``tempo_s`` down, pause, up, pause after it."""

    start_s: float
    bottom_s: float
    end_s: float
    tempo_s: tuple[float, float, float, float]

    def as_dict(self) -> dict[str, Any]:
        """The object of a motion file; tempo to 0.1 s."""
        return {
            "start_s": round(self.start_s, 3),
            "bottom_s": round(self.bottom_s, 3),
            "end_s": round(self.end_s, 3),
            "tempo_s": [round(t, 1) for t in self.tempo_s],
            "sd_s": TEMPO_SD_S,
        }


def reps_of(times_s: Array, height_m: Array, bend: Array) -> tuple[Rep, ...]:
    """Reps from the height (m) of bar or hips and a joint's bending (deg), ``(frames,)``; gaps part them."""
    calm = smoothed(times_s, height_m, SPEED_HZ)
    angle = smoothed(times_s, bend, SPEED_HZ)
    found: list[tuple[int, int, int]] = []
    for start, end in runs(~np.isnan(calm)):
        if end - start > 4:
            found += [
                (a + start, b + start, c + start) for a, b, c in _turns(calm[start:end], calm)
            ]
    marked = [_timed(times_s, calm, angle, turns) for turns in found]
    return tuple(_with_pauses(marked))


def _turns(calm: Array, whole: Array) -> list[tuple[int, int, int]]:
    """Top, bottom and top of every rep, by hysteresis."""
    needed = max(LEAST_WAY_M, LEAST_SHARE * float(np.nanmax(whole) - np.nanmin(whole)))
    turns: list[tuple[int, int, int]] = []
    top, bottom, down = 0, 0, False
    for at, value in enumerate(calm.tolist()):
        if not down:
            if value >= calm[top]:
                top = at
            elif calm[top] - value > needed:
                down, bottom = True, at
        elif value <= calm[bottom]:
            bottom = at
        elif value - calm[bottom] > needed:
            down = False
            turns.append((top, bottom, at))
            top = at
    # A rep ends at the highest place before the next one begins, the last one at the highest that follows.
    ends = []
    for number, (_, bottom, _) in enumerate(turns):
        limit = turns[number + 1][1] if number + 1 < len(turns) else len(calm)
        ends.append(bottom + int(np.argmax(calm[bottom:limit])))
    return [(first, low, end) for (first, low, _), end in zip(turns, ends, strict=True)]


def _timed(
    times_s: Array, calm: Array, angle: Array, turns: tuple[int, int, int]
) -> tuple[float, ...]:
    """Start and end of the way down and of the way up, and the deepest moment, s."""
    top, bottom, end = turns
    curve = (
        calm
        if np.isnan(angle[top : end + 1]).any() or np.ptp(angle[top : end + 1]) < 15.0
        else angle
    )
    top, end = _edge(times_s, calm, bottom, top, -1), _edge(times_s, calm, bottom, end, 1)
    down = _move(times_s, curve, top, bottom)
    up = _move(times_s, curve, bottom, end)
    # The bottom is flat: between the two moves it is told better than by the lowest frame alone.
    lowest, between = float(times_s[bottom]), 0.5 * (down[1] + up[0])
    held = max(up[0] - down[1], 0.0)
    deepest = between if abs(between - lowest) < FLAT_S + 0.5 * held else lowest
    return (
        min(down[0], deepest),
        min(down[1], deepest),
        max(up[0], deepest),
        max(up[1], deepest),
        deepest,
    )


def _edge(times_s: Array, calm: Array, bottom: int, far: int, way: int) -> int:
    """Where a phase that goes from the bottom outwards comes to rest."""
    pace = np.abs(np.gradient(calm, times_s))
    low, high = sorted((bottom, far))
    fastest = low + int(np.argmax(pace[low : high + 1]))
    at = fastest
    while at != far and pace[at] > AT_REST * pace[fastest]:
        at += way
    return at


def _move(times_s: Array, curve: Array, start: int, end: int) -> tuple[float, float]:
    """Start and end of a minimum-jerk move through its 10 and 90 % crossings, s."""
    if end <= start:
        return float(times_s[start]), float(times_s[start])
    part = (curve[start : end + 1] - curve[start]) / (curve[end] - curve[start] or 1.0)
    at = times_s[start : end + 1]
    tenth, most = (_crossing(at, part, share) for share in (0.1, 0.9))
    whole = (most - tenth) / (1.0 - 2.0 * TENTH_AT)
    return tenth - TENTH_AT * whole, most + TENTH_AT * whole


def _crossing(times_s: Array, part: Array, share: float) -> float:
    """When a curve from 0 to 1 last comes by a share."""
    below = np.flatnonzero(part < share)
    at = min(int(below[-1]) if len(below) else 0, len(part) - 2)
    rise = part[at + 1] - part[at]
    within = 0.0 if rise <= 0.0 else (share - part[at]) / rise
    return float(times_s[at] + np.clip(within, 0.0, 1.0) * (times_s[at + 1] - times_s[at]))


def _with_pauses(marked: list[tuple[float, ...]]) -> list[Rep]:
    found = []
    for number, (start, low, rise, end, deepest) in enumerate(marked):
        after = marked[number + 1][0] - end if number + 1 < len(marked) else 0.0
        pause = rise - low
        # What a fit of two moves leaves between them is a pause only where it is longer than its own error.
        rests = pause >= TEMPO_SD_S
        turn, lifts = (low, rise) if rests else (deepest, deepest)
        tempo = (turn - start, pause if rests else 0.0, end - lifts, max(after, 0.0))
        found.append(Rep(start, deepest, end, tempo))
    return found
