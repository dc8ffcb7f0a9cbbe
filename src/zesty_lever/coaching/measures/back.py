"""Measures of the back and the bar: how far the load is, and what shape the back keeps."""

from __future__ import annotations

import numpy as np

from zesty_lever.coaching.measures.reading import ReadRep, Sized, measure
from zesty_lever.physics.body import landmark

# A heavy pull starts with the weight further forward than this share of the foot.
LIGHT_FRACTION = 0.33


@measure("bar-away")
def bar_away(rep: ReadRep) -> Sized | None:
    """How far ahead of the legs the hands of a hinge are, where they are further than usual."""
    if not rep.has("hands_ahead_m") or rep.entry.family != "hinge":
        return None
    hand, hip, knee, ankle = (
        rep.pose.points[f"{n}_right"][:2, rep.at] for n in ("hand", "hip", "knee", "ankle")
    )
    low, high = (ankle, knee) if hand[1] < knee[1] else (knee, hip)
    share = np.clip((hand[1] - low[1]) / max(high[1] - low[1], 1e-6), 0.0, 1.0)
    front = low[0] + share * (high[0] - low[0]) + 0.04 * rep.case.athlete.height_m
    away = 100.0 * float(hand[0] - front)
    if rep.setting("hands_ahead_m") < (rep.usual("hands_ahead_m") or 0.0) + 0.03:
        return None
    least = rep.entry.settings["hands_ahead_m"].low
    held = max(rep.setting("hands_ahead_m") - 0.6 * away / 100.0, least)
    return Sized(away, {"hands_ahead_m": round(held, 3)})


@measure("bar-off-mid-foot")
def bar_off_mid_foot(rep: ReadRep) -> Sized | None:
    """How far from where the school wants it the bar of a floor pull starts."""
    if not rep.has("bar_fraction"):
        return None
    usual = rep.usual("bar_fraction") or 0.5
    off = 100.0 * abs(rep.setting("bar_fraction") - usual) * rep.foot_m
    return Sized(off, {"bar_fraction": usual})


@measure("rounding")
def rounding(rep: ReadRep) -> Sized:
    """How far the lower back flexes past what is ordinary."""
    ordinary = landmark("ordinary_lumbar_flexion_deg")
    beyond = float(np.degrees(rep.pose.lumbar_flexion_rad.max())) - ordinary
    settings = _still_flat(rep, ordinary) if beyond > 0.0 else {}
    return Sized(beyond, settings, places={"ordinary": ordinary})


def _still_flat(rep: ReadRep, ordinary_deg: float) -> dict[str, float | None]:
    """The depth at which this very rep still keeps its back: read off its own way down.

    It costs nothing; the exact edge, with the pose re-balanced, is what `room` finds.
    """
    pose, times = rep.pose, rep.result.timeline
    depth = rep.entry.depth
    flat = np.degrees(pose.lumbar_flexion_rad) <= ordinary_deg
    if not depth or not flat.any():
        return {}
    # The deepest moment that is still flat.
    at = int(np.argmax(np.where(flat, times.progress, -1.0)))
    if depth == "bar_height_m":
        value = float(pose.load_points[1, 0, at])
    elif depth == "trunk_deg":
        value = float(np.degrees(pose.line_rad[at]))
    else:
        value = 90.0 + float(np.degrees(pose.side_view_rad("knee_right", "hip_right")[at]))
    setting = rep.entry.settings[depth]
    return {depth: round(setting.clamped(value), 3)}


@measure("arching")
def arching(rep: ReadRep) -> Sized:
    """How much of lockout comes from the lower back instead of the hips."""
    return Sized(rep.setting("arch_deg"), {"arch_deg": 0.0})


@measure("hips-rise-first")
def hips_rise_first(rep: ReadRep) -> Sized:
    """How early the knees straighten, before the bar rises."""
    return Sized(rep.setting("hips_rise_deg"), {"hips_rise_deg": 0.0})


@measure("shoulders-behind-bar")
def shoulders_behind_bar(rep: ReadRep) -> Sized | None:
    """How far behind the bar the shoulders of a floor pull start."""
    if not rep.has("shoulder_lead_m") or not rep.pose.load_points.shape[1]:
        return None
    bar = float(rep.pose.load_points[0, 0, rep.at])
    behind = 100.0 * (bar - rep.x_of("shoulder_mid"))
    return Sized(behind, {"shoulder_lead_m": rep.usual("shoulder_lead_m")})


@measure("light-pull-on-heels")
def light_pull_on_heels(rep: ReadRep) -> Sized | None:
    """How far behind a third of the foot the weight of a floor pull sits at the start."""
    if not rep.has("bar_fraction"):
        return None
    fraction = float(rep.solved.pressure_fraction[rep.at])
    ahead = min(rep.setting("bar_fraction") + LIGHT_FRACTION - fraction, 0.70)
    size = 100.0 * (LIGHT_FRACTION - fraction) * rep.foot_m
    return Sized(size, {"bar_fraction": round(ahead, 3)})
