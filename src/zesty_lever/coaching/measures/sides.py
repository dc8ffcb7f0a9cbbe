"""Measures of left against right: a shift, one knee, an uneven stance, one stiffer ankle."""

from __future__ import annotations

from zesty_lever.coaching.measures.reading import ReadRep, Sized, measure
from zesty_lever.physics.body import landmark


@measure("side-shift")
def side_shift(rep: ReadRep) -> Sized:
    """How far the hips slide to one side."""
    shift = 100.0 * rep.setting("hip_shift_m")
    side, other = ("right", "left") if shift > 0 else ("left", "right")
    more, less = (rep.result.summary[f"hip_{s}"].peak_Nm for s in (side, other))
    places = {"side": side, "other": other, "more": more, "less": less}
    return Sized(abs(shift), {"hip_shift_m": 0.0}, places=places)


@measure("one-knee-caves")
def one_knee_caves(rep: ReadRep) -> Sized:
    """How much further inside one knee tracks."""
    apart = 100.0 * rep.setting("left_track_m")
    side = "left" if apart < 0 else "right"
    places = {"side": side, "Side": side.capitalize()}
    return Sized(abs(apart), {"left_track_m": 0.0}, places=places)


@measure("uneven-stance")
def uneven_stance(rep: ReadRep) -> Sized:
    """How far one foot stands ahead."""
    ahead = 100.0 * rep.setting("left_ahead_m")
    places = {"side": "left" if ahead > 0 else "right"}
    return Sized(abs(ahead), {"left_ahead_m": 0.0}, places=places)


@measure("stiffer-ankle")
def stiffer_ankle(rep: ReadRep) -> Sized | None:
    """How much sooner one ankle ends."""
    if not rep.entry.stands_level:
        return None
    limits = rep.case.athlete.limits_deg
    given = limits.get("ankle_dorsiflexion", landmark("ankle_dorsiflexion_limit_deg"))
    left, right = (limits.get(f"ankle_dorsiflexion_{s}", given) for s in ("left", "right"))
    return Sized(abs(left - right), {}, places={"side": "left" if left < right else "right"})
