"""Measures of depth, shins, knees, feet and the step."""

from __future__ import annotations

import numpy as np

from zesty_lever.coaching.measures.reading import ReadRep, Sized, measure
from zesty_lever.coaching.schools import schools
from zesty_lever.physics.body import landmark
from zesty_lever.tables import toml_values

# A trunk and a shin further apart than this do not lean together, deg.
PARALLEL_DEG = 10.0
# A heel that rises less than this takes load off the knee, statics says (T6), deg.
SMALL_LIFT_DEG = 8.0
# A thigh that is shorter than this seen from above points nowhere, m.
NO_DIRECTION_M = 0.10


@measure("depth")
def depth(rep: ReadRep) -> Sized | None:
    """How far above parallel a squat stops."""
    if not rep.entry.is_squat:
        return None
    above = rep.setting("thigh_deg")
    return Sized(above, {"thigh_deg": 0.0}, places={"above": above})


@measure("knee-past-toe")
def knee_past_toe(rep: ReadRep) -> Sized | None:
    """How far the knee is past the toes; the even school minds it only where something else is off.

    On a step the knee has to come forward over the foot that pushes.
    """
    if not rep.entry.stands_on_feet or not rep.has("shin_deg") or rep.entry.steps_up:
        return None
    past = 100.0 * (rep.x_of("knee_right") - rep.x_of("toe_right"))
    lifts = rep.setting("heel_lift_deg") > 0.0
    crooked = abs(rep.trunk() - rep.setting("shin_deg")) > PARALLEL_DEG
    if rep.school == "even" and not (lifts or crooked):
        return None
    shank = rep.case.athlete.length_m("shank")
    shin = np.radians(rep.setting("shin_deg"))
    held = float(np.degrees(np.arcsin(np.clip(np.sin(shin) - past / 100.0 / shank, -0.17, 1.0))))
    settings = {"shin_deg": round(held, 1), "trunk_deg": None, "heel_lift_deg": 0.0}
    return Sized(past, settings, places={"past": past})


@measure("heel-lift")
def heel_lift(rep: ReadRep) -> Sized:
    """How far the heel comes up."""
    ankle = rep.case.athlete.limit_deg("ankle_dorsiflexion")
    shin = min(rep.setting("shin_deg"), 0.9 * ankle)
    settings = {"heel_lift_deg": 0.0, "pressure_fraction": 0.5, "shin_deg": shin}
    lift = rep.setting("heel_lift_deg")
    return Sized(lift, settings, "small" if lift < SMALL_LIFT_DEG else "")


@measure("knee-track")
def knee_track(rep: ReadRep) -> Sized:
    """How far the knees cave inside the toes."""
    return Sized(-100.0 * rep.setting("knee_track_m"), {"knee_track_m": 0.0})


@measure("trunk-against-shin")
def trunk_against_shin(rep: ReadRep) -> Sized | None:
    """How far trunk and shin of a squat are from leaning alike."""
    if not rep.entry.is_squat:
        return None
    apart = rep.trunk() - rep.setting("shin_deg")
    better = min(rep.setting("shin_deg") + 0.25 * apart, 48.0)
    settings = {"shin_deg": round(better, 1), "trunk_deg": None}
    return Sized(abs(apart), settings, "leans" if apart > 0 else "upright")


@measure("pressure-point")
def pressure_point(rep: ReadRep) -> Sized | None:
    """How far the weight sits outside what the school wants."""
    stands = rep.entry.stands_level or rep.entry.has_front_leg
    if not stands or rep.setting("heel_lift_deg") > 0.0:
        return None
    low, high = schools().schools[rep.school].pressure
    fraction = float(rep.solved.pressure_fraction[rep.at])
    off = max(low - fraction, fraction - high)
    if off <= 0.01:
        return None
    way = "heel" if fraction < low else "toes"
    reading = f"whole-foot-{way}" if rep.school == "even" else way
    wanted = round(min(max(fraction, low + 0.01), high - 0.01), 3)
    return Sized(100.0 * off * rep.foot_m, {"pressure_fraction": wanted}, reading)


@measure("rear-leg-works")
def rear_leg_works(rep: ReadRep) -> Sized | None:
    """How much the front leg carries less than it should."""
    if not rep.has("front_share") or rep.entry.family != "lunge":
        return None
    share = float(rep.solved.ground.share[rep.at])
    usual = rep.usual("front_share")
    wanted = min(0.75, (usual or 0.75) - 0.01)
    return Sized(100.0 * (wanted - share), {"front_share": 0.80}, places={"share": 100 * share})


def _rear_knee_behind_cm(rep: ReadRep) -> float | None:
    """How far the rear knee ends behind its hip; None where there is no step."""
    if not rep.has("step_m") or rep.entry.family != "lunge":
        return None
    return 100.0 * (rep.x_of("hip_left") - rep.x_of("knee_left"))


@measure("stance-too-long")
def stance_too_long(rep: ReadRep) -> Sized | None:
    """How much too far behind the hip the rear knee ends."""
    behind = _rear_knee_behind_cm(rep)
    if behind is None:
        return None
    step = rep.setting("step_m") - 0.8 * (behind - 20.0) / 100.0
    return Sized(behind - 20.0, {"step_m": round(step, 3)}, places={"behind": behind})


@measure("stance-too-short")
def stance_too_short(rep: ReadRep) -> Sized | None:
    """How much too far ahead of the hip the rear knee ends."""
    behind = _rear_knee_behind_cm(rep)
    if behind is None:
        return None
    step = rep.setting("step_m") + 0.8 * (-5.0 - behind) / 100.0
    return Sized(-5.0 - behind, {"step_m": round(step, 3)}, places={"ahead": -behind})


@measure("shin-not-vertical")
def shin_not_vertical(rep: ReadRep) -> Sized | None:
    """How far the shins of a bridge lean at lockout."""
    off = rep.setting("shin_deg")
    if rep.entry.family != "bridge" or not rep.has("shin_deg"):
        return None
    if rep.school == "knees-travel" and off > 0:
        return None
    return Sized(abs(off), {"shin_deg": 0.0}, "forward" if off > 0 else "back")


@measure("ankle-at-its-end")
def ankle_at_its_end(rep: ReadRep) -> Sized | None:
    """How much of the last two degrees of the ankle is used."""
    stands = rep.entry.stands_level or rep.entry.has_front_leg
    if not stands or not rep.has("shin_deg") or rep.setting("heel_lift_deg") > 0.0:
        return None
    limit = rep.case.athlete.limit_deg("ankle_dorsiflexion")
    left = limit - float(np.degrees(rep.pose.dorsiflexion_rad["right"][rep.at]))
    settings = {"shin_deg": round(rep.setting("shin_deg") - 4.0, 1), "trunk_deg": None}
    stiff = limit < landmark("ankle_dorsiflexion_limit_deg")
    return Sized(2.0 - left, settings, places={"left": max(left, 0.0)}, own_limit=stiff)


@measure("knees-off-feet")
def knees_off_feet(rep: ReadRep) -> Sized | None:
    """How far the (right) thigh points off its foot's line, seen from above."""
    if not rep.entry.stands_on_feet or not rep.has("stance_m", "toe_out_deg"):
        return None
    foot, thigh = (
        rep.pose.points[f"{end}_right"][:, rep.at] - rep.pose.points[f"{start}_right"][:, rep.at]
        for start, end in (("heel", "toe"), ("hip", "knee"))
    )
    if float(np.hypot(thigh[0], thigh[2])) < NO_DIRECTION_M:
        return None
    off = float(np.degrees(np.arctan2(thigh[2], thigh[0]) - np.arctan2(foot[2], foot[0])))
    usual = rep.usual("stance_m")
    settings = {"toe_out_deg": rep.usual("toe_out_deg"), "stance_m": usual, "knee_track_m": 0.0}
    return Sized(abs(off), settings, "outside" if off > 0 else "inside")


@measure("toe-out")
def toe_out(rep: ReadRep) -> Sized | None:
    """How far beyond what the school coaches the toes turn out, or are straight."""
    usual = rep.usual("toe_out_deg") if rep.has("toe_out_deg") else None
    if usual is None or not rep.entry.stands_on_feet:
        return None
    apart = rep.setting("toe_out_deg") - usual
    size = abs(apart) - float(toml_values("coached")["toe_out_deg"])
    places = {"toes": rep.setting("toe_out_deg")}
    return Sized(size, {"toe_out_deg": usual}, "out" if apart > 0 else "straight", places)
