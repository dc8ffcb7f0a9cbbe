"""Findings about the back and the bar: how far the load is, and what shape the back keeps."""

from __future__ import annotations

import numpy as np

from zesty_lever.cases.resolve import technique_of
from zesty_lever.coaching.finding import Found, ReadRep
from zesty_lever.physics.body import landmark


def bar_away(rep: ReadRep) -> Found | None:
    """The hands are further ahead than a hinge needs."""
    pose = rep.pose
    if "hands_ahead_m" not in rep.case.settings or rep.entry.family != "hinge":
        return None
    hand, hip, knee, ankle = (
        pose.points[f"{n}_right"][:2, rep.at] for n in ("hand", "hip", "knee", "ankle")
    )
    low, high = (ankle, knee) if hand[1] < knee[1] else (knee, hip)
    share = np.clip((hand[1] - low[1]) / max(high[1] - low[1], 1e-6), 0.0, 1.0)
    front = low[0] + share * (high[0] - low[0]) + 0.04 * rep.case.athlete.height_m
    away = 100.0 * float(hand[0] - front)
    usual = rep.usual("hands_ahead_m")
    if away <= 4.0 or rep.setting("hands_ahead_m") < (usual or 0.0) + 0.03:
        return None
    held = rep.setting("hands_ahead_m") - 0.6 * away / 100.0
    low_limit = rep.entry.settings["hands_ahead_m"].low
    return Found(
        "bar-away",
        away,
        "cm",
        "flag",
        f"The bar hangs {away:.0f} cm in front of the legs; every centimetre is paid by the lower back.",
        "Shave the legs with the bar.",
        "Squeeze a towel under the arms.",
        {"hands_ahead_m": round(max(held, low_limit), 3)},
    )


def bar_off_mid_foot(rep: ReadRep) -> Found | None:
    """A floor pull starts away from where the school wants the bar."""
    if "bar_fraction" not in rep.case.settings:
        return None
    usual = technique_of(rep.entry, rep.case.athlete, rep.case.school)["bar_fraction"] or 0.5
    off = 100.0 * abs(rep.setting("bar_fraction") - usual) * rep.foot_m
    if off <= 1.0:
        return None
    return Found(
        "bar-off-mid-foot",
        off,
        "cm",
        "note",
        f"The bar starts {off:.0f} cm off its place over the laces, so it has to swing before it rises.",
        "Bar over the laces, then grip.",
        "Chalk mark on the laces' line.",
        {"bar_fraction": usual},
    )


def rounding(rep: ReadRep) -> Found | None:
    """The low back flexes past what is ordinary."""
    ordinary = landmark("ordinary_lumbar_flexion_deg")
    beyond = float(np.degrees(rep.pose.lumbar_flexion_rad.max())) - ordinary
    if beyond <= 0.5:
        return None
    settings = _still_flat(rep, ordinary)
    return Found(
        "rounding",
        beyond,
        "deg",
        "flag",
        f"The hips run out and the low back rounds {beyond:.0f}° beyond its ordinary {ordinary:.0f}°.",
        "Stop where the back still keeps its shape.",
        "A box, blocks under the bar, or a rear-foot-elevated split squat instead.",
        settings,
    )


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
    return {depth: round(min(max(value, setting.low), setting.high), 3)}


def arching(rep: ReadRep) -> Found | None:
    """The back arches at lockout instead of the hips finishing."""
    arch = rep.setting("arch_deg")
    if arch <= 3.0:
        return None
    return Found(
        "arching",
        arch,
        "deg",
        "flag",
        f"At lockout {arch:.0f}° come from the low back, not the hip.",
        "Ribs down, chin tucked, eyes forward.",
        "A lighter bar and a pause at the top.",
        {"arch_deg": 0.0},
    )


def hips_rise(rep: ReadRep) -> Found | None:
    """The hips rise before the bar does."""
    rise = rep.setting("hips_rise_deg")
    if rise <= 2.0:
        return None
    return Found(
        "hips-rise-first",
        rise,
        "deg",
        "flag",
        f"Out of the hole the hips come up first; the knees straighten {rise:.0f}° early and the back takes over.",
        "Hips and chest up at the same rate.",
        "Pause at the bottom; less weight.",
        {"hips_rise_deg": 0.0},
    )
