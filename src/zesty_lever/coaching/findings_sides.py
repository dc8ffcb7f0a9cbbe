"""Findings about left against right: a shift, one knee, an uneven stance, one stiffer ankle."""

from __future__ import annotations

from zesty_lever.coaching.finding import Found, ReadRep
from zesty_lever.physics.body import landmark


def _side_shift(rep: ReadRep) -> Found | None:
    shift = 100.0 * rep.setting("hip_shift_m")
    if abs(shift) <= 0.5 or "hip_shift_m" not in rep.case.settings:
        return None
    side, other = ("right", "left") if shift > 0 else ("left", "right")
    return Found(
        "side-shift",
        abs(shift),
        "cm",
        "flag",
        f"The hips slide {abs(shift):.0f} cm to the {side}: {_against(rep, side, other)}; with more weight the same share "
        "is more newton metres.",
        "Both feet press alike; slow down to the sticking point.",
        "Split squats and one-leg work on the weaker side; less weight.",
        {"hip_shift_m": 0.0},
    )


def _against(rep: ReadRep, side: str, other: str) -> str:
    summary = rep.result.summary
    more, less = (summary[f"hip_{s}"].peak_Nm for s in (side, other))
    return f"{side} hip {more:.0f}, {other} hip {less:.0f} N·m"


def _one_knee(rep: ReadRep) -> Found | None:
    apart = 100.0 * rep.setting("left_track_m")
    if abs(apart) <= 1.0 or "left_track_m" not in rep.case.settings:
        return None
    side = "left" if apart < 0 else "right"
    return Found(
        "one-knee-caves",
        abs(apart),
        "cm",
        "flag",
        f"The {side} knee tracks {abs(apart):.0f} cm further inside than the other: what shows lightly here shows in the heavy lift.",
        f"{side.capitalize()} knee over the second toe.",
        "A band round the knees; lunges with a mirror.",
        {"left_track_m": 0.0},
    )


def _uneven(rep: ReadRep) -> Found | None:
    ahead = 100.0 * rep.setting("left_ahead_m")
    if abs(ahead) <= 1.0 or "left_ahead_m" not in rep.case.settings:
        return None
    return Found(
        "uneven-stance",
        abs(ahead),
        "cm",
        "note",
        f"The {'left' if ahead > 0 else 'right'} foot stands {abs(ahead):.0f} cm ahead: its knee and the other hip do more.",
        "Feet level with each other.",
        "A line on the floor for both heels.",
        {"left_ahead_m": 0.0},
    )


def _stiffer_ankle(rep: ReadRep) -> Found | None:
    limits = rep.case.athlete.limits_deg
    given = limits.get("ankle_dorsiflexion", landmark("ankle_dorsiflexion_limit_deg"))
    left, right = (limits.get(f"ankle_dorsiflexion_{s}", given) for s in ("left", "right"))
    if abs(left - right) < 4.0 or not rep.entry.stands_level:
        return None
    side = "left" if left < right else "right"
    return Found(
        "stiffer-ankle",
        abs(left - right),
        "deg",
        "note",
        f"The {side} ankle ends {abs(left - right):.0f}° sooner: it decides the depth, and the hips may slide to the other side.",
        "Depth for the stiffer side.",
        "Ankle work on that side; a wedge under both heels.",
        {},
    )


SIDE_RULES = (_side_shift, _one_knee, _uneven, _stiffer_ankle)
