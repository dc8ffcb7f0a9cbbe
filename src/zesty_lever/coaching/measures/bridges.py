"""Measures of thrusts and bridges: how level lockout is, and what the back lies on."""

from __future__ import annotations

import numpy as np

from zesty_lever.analysis import lockout_frame
from zesty_lever.coaching.measures.reading import ReadRep, Sized, measure


@measure("thrust-not-level")
def thrust_not_level(rep: ReadRep) -> Sized | None:
    """How far from one line shoulders, hips and knees are at lockout."""
    if rep.entry.family != "bridge" or not rep.has("lockout_trunk_deg"):
        return None
    at = lockout_frame(rep.result)
    shoulder, hip, knee = (
        rep.pose.points[name][:2, at] for name in ("shoulder_mid", "hip_mid", "knee_right")
    )
    up, along = shoulder - hip, knee - hip
    bent = np.arctan2(up[0] * along[1] - up[1] * along[0], up @ along)
    short = 180.0 - float(np.degrees(abs(bent)))
    # Hips above the line from shoulder to knee are past straight, not short of it.
    line = shoulder[1] + (knee[1] - shoulder[1]) * (hip[0] - shoulder[0]) / (knee[0] - shoulder[0])
    below = 1.0 if hip[1] < line else -1.0
    return Sized(below * short, {"lockout_trunk_deg": rep.usual("lockout_trunk_deg")})


@measure("bench-too-high")
def bench_too_high(rep: ReadRep) -> Sized | None:
    """How much higher than for this build the bench under the upper back is."""
    usual = rep.usual("bench_height_m") if rep.has("bench_height_m") else None
    if not usual:
        return None
    return Sized(100.0 * (rep.setting("bench_height_m") - usual), {"bench_height_m": usual})
