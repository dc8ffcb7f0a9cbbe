"""Where an athlete's legs are, from raw lengths, settings and angles alone, by a root solver.

Nothing here uses the product's positions but what is solved like an angle: the pelvis's sideways shift.
"""

import numpy as np
import pinocchio as pin
from scipy.optimize import root

from zesty_lever.exercises.catalogue import catalogue

# A free leg that swings back with the trunk starts here, its foot just off the floor (docs/model.md).
FREE_AT_TOP = {"free_thigh_deg": 10.0, "free_knee_deg": 60.0}


def lean(angle):
    """Rotation that leans an upright part forward."""
    return pin.exp3(np.array([0.0, 0.0, -angle]))


def leg_points(lengths, settings, shin, thigh, track, pitch, sway=0.0, lift=0.0):
    """Joints and foot of the right leg (m) from the definition of the pose, by a root solver."""
    turn, half_hips = np.radians(settings["toe_out_deg"]), 0.5 * lengths["hip_width"] + sway
    direction = np.array([np.cos(turn), 0.0, np.sin(turn)])
    ball = (0.73 - 0.25) * lengths["foot"] * direction + [0.0, lift, 0.5 * settings["stance_m"]]
    foot = foot_points(lengths, ball, direction, pitch)
    ankle = foot["ankle"]
    shank_m, thigh_m = lengths["shank"], lengths["thigh"]

    def equations(v):
        knee, hip = v[:3], np.array([v[3], v[4], half_hips])
        return [
            (knee[0] - ankle[0]) - np.tan(shin) * (knee[1] - ankle[1]),
            knee_out(lengths, ankle, knee, hip, turn, track, shin + np.pi / 2 - thigh),
            (knee - ankle) @ (knee - ankle) - shank_m**2,
            (hip - knee) @ (hip - knee) - thigh_m**2,
            (hip[0] - knee[0]) * np.sin(thigh) + (hip[1] - knee[1]) * np.cos(thigh),
        ]

    start = ankle + shank_m * np.array([np.sin(shin), np.cos(shin), 0.0])
    guess = [*start, start[0] - thigh_m * np.cos(thigh), start[1] + thigh_m * np.sin(thigh)]
    found = root(equations, guess, tol=1e-14)
    assert np.abs(found.fun).max() < 1e-11
    return {**foot, "knee": found.x[:3], "hip": np.array([found.x[3], found.x[4], half_hips])}


def knee_out(lengths, ankle, knee, hip, turn, track, flexion):
    """How far a knee is outside where the rule puts it: over the toe line when bent, on the
    hip-ankle line when straight."""
    t = np.clip(flexion / np.radians(60), 0, 1)
    bent = t * t * (3 - 2 * t)
    share = lengths["shank"] / (lengths["shank"] + lengths["thigh"])
    out = hip[2] - ankle[2] - np.tan(turn) * (hip[0] - ankle[0])
    aside = track / np.cos(turn) + (1 - bent) * share * out
    return (knee[2] - ankle[2]) - np.tan(turn) * (knee[0] - ankle[0]) - aside


def foot_points(lengths, ball, direction, pitch):
    """Heel, toe and ankle of a foot pitched up about its ball (m)."""
    foot, height = lengths["foot"], lengths["ankle_height"]
    aside = np.cross(direction, [0.0, 1.0, 0.0])
    lifted = pin.exp3(-pitch * aside)
    return {
        "ankle": ball + lifted @ (-(0.73 - 0.25) * foot * direction + [0.0, height, 0.0]),
        "heel": ball - lifted @ (0.73 * foot * direction),
        "toe": ball + 0.27 * foot * direction,
    }


def laces_down(lengths, contact):
    """Foot pointing back, the instep on a surface (m)."""
    height, half = lengths["ankle_height"], 0.5 * (0.73 - 0.25) * lengths["foot"]
    ankle = contact + np.array([half, 0.7 * height, 0.0])
    return {
        "ankle": ankle,
        "heel": ankle + np.array([0.1 * lengths["foot"], height, 0.0]),
        "toe": contact - [half + 0.27 * lengths["foot"], 0.0, 0.0],
    }


def reach_points(lengths, foot, hip, turn, track=0.0):
    """Foot, knee and hip of a leg between ankle and hip (m), by a root solver; knee ahead."""
    ankle = foot["ankle"]
    distance = np.linalg.norm(hip - ankle)
    shank, thigh = lengths["shank"], lengths["thigh"]
    flexion = np.arccos(np.clip((distance**2 - shank**2 - thigh**2) / (2 * shank * thigh), -1, 1))

    def equations(knee):
        return [
            (knee - ankle) @ (knee - ankle) - shank**2,
            (hip - knee) @ (hip - knee) - thigh**2,
            knee_out(lengths, ankle, knee, hip, turn, track, flexion),
        ]

    line = (hip - ankle) / distance
    ahead = np.array([line[1], -line[0], 0.0])
    middle = ankle + line * (shank**2 - thigh**2 + distance**2) / (2 * distance)
    found = root(
        equations, middle + 0.6 * shank * np.sin(flexion / 2) * ahead + [0, 0, 1e-3], tol=1e-14
    )
    assert np.abs(found.fun).max() < 1e-9
    return {**foot, "knee": found.x, "hip": hip}


def hang_points(lengths, hip, thigh_lean, flexion):
    """A leg that hangs from the hip by two angles, the foot square to the shank (m)."""
    shin = thigh_lean - flexion
    knee = hip + lengths["thigh"] * np.array([np.sin(thigh_lean), -np.cos(thigh_lean), 0.0])
    down = np.array([np.sin(shin), -np.cos(shin), 0.0])
    ankle = knee + lengths["shank"] * down
    forward = np.array([np.cos(shin), np.sin(shin), 0.0])
    heel = ankle + lengths["ankle_height"] * down - 0.25 * lengths["foot"] * forward
    return {
        "hip": hip,
        "knee": knee,
        "ankle": ankle,
        "heel": heel,
        "toe": heel + lengths["foot"] * forward,
    }


def limbs(result, frame, lengths):
    """Both legs' points (m), each in its own outward-positive frame, from raw lengths and angles."""
    builder = catalogue()[result.case.variation].builder
    makers = {
        "split": split_limbs,
        "bridge": bridge_limbs,
        "kneel": kneel_limbs,
        "extension": bench_limbs,
    }
    return makers.get(builder, level_limbs)(result, frame, lengths)


def side_angles(pose, frame):
    shin = pose.side_view_rad("ankle_right", "knee_right")[frame]
    return shin, np.pi / 2 + pose.side_view_rad("knee_right", "hip_right")[frame]


def level_limbs(result, frame, lengths):
    settings, progress = result.case.settings, result.timeline.progress[frame]
    x = np.clip(2 * progress - 1, 0, 1)
    shoe = np.arcsin(settings["heel_height_m"] / (0.73 * lengths["foot"]))
    pitch = shoe + np.radians(settings.get("heel_lift_deg", 0.0)) * x * x * (3 - 2 * x)
    leg = leg_points(
        lengths,
        settings,
        *side_angles(result.shown.pose, frame),
        progress * settings["knee_track_m"],
        pitch,
    )
    if not any(settings.get(k) for k in ("hip_shift_m", "left_track_m", "left_ahead_m")):
        return {"right": leg, "left": leg}
    return apart_limbs(result, frame, lengths, pitch)


def apart_limbs(result, frame, lengths, pitch):
    """Left and right apart: where the hips are is the solved pose's; each knee follows from its own foot."""
    settings, progress = result.case.settings, result.timeline.progress[frame]
    turn = np.radians(settings["toe_out_deg"])
    way = np.array([np.cos(turn), 0.0, np.sin(turn)])
    mid, half = result.shown.pose.points["hip_mid"][:, frame], 0.5 * lengths["hip_width"]
    shift = progress * settings["hip_shift_m"]
    assert abs(mid[2] - shift) < 1e-12
    legs = {}
    for side, out, ahead, more in (
        ("right", half + shift, 0.0, 0.0),
        ("left", half - shift, settings["left_ahead_m"], settings["left_track_m"]),
    ):
        ball = (0.73 - 0.25) * lengths["foot"] * way + [ahead, 0.0, 0.5 * settings["stance_m"]]
        foot = foot_points(lengths, ball, way, pitch)
        track = progress * (settings["knee_track_m"] + more)
        legs[side] = reach_points(lengths, foot, np.array([mid[0], mid[1], out]), turn, track)
    return legs


def split_limbs(result, frame, lengths):
    """Front leg from its angles; the other one reaches its own foot or hangs. The pelvis's sideways
    shift is a solved quantity like the angles."""
    settings, progress = result.case.settings, result.timeline.progress[frame]
    sway = result.shown.pose.points["hip_mid"][2, frame]
    shoe = np.arcsin(settings["heel_height_m"] / (0.73 * lengths["foot"]))
    front = leg_points(
        lengths,
        settings,
        *side_angles(result.shown.pose, frame),
        progress * settings["knee_track_m"],
        shoe,
        sway,
        settings["front_height_m"],
    )
    hip = np.array([front["hip"][0], front["hip"][1], 0.5 * lengths["hip_width"] - sway])
    options = catalogue()[result.case.variation].options
    if options.rear == "none":
        free = {key: settings[key] for key in FREE_AT_TOP}
        if options.free_follows_trunk:
            free = {k: v + progress * (free[k] - v) for k, v in FREE_AT_TOP.items()}
        return {
            "right": front,
            "left": hang_points(
                lengths,
                hip,
                np.radians(free["free_thigh_deg"]),
                np.radians(free["free_knee_deg"]),
            ),
        }
    contact = np.array([-settings["step_m"], settings["rear_height_m"], 0.5 * settings["stance_m"]])
    turn = np.radians(settings.get("rear_toe_out_deg", 0.0))
    way = np.array([np.cos(turn), 0.0, np.sin(turn)])
    if options.rear == "instep":
        foot = laces_down(lengths, contact)
    elif options.rear == "flat":
        ahead = (0.73 - settings["pressure_fraction"]) * lengths["foot"]
        foot = foot_points(lengths, contact + ahead * way, way, 0.0)
    else:
        foot = foot_points(lengths, contact, way, np.radians(settings["rear_pitch_deg"]))
    return {"right": front, "left": reach_points(lengths, foot, hip, turn)}


def resting_hips(result, frame, lengths):
    """Mid-hip (m) of a body whose upper back rests at x = 0 on the bench: from its two leans."""
    settings, height = result.case.settings, result.case.athlete.height_m
    line, scale = lengths["hip_to_shoulder"], height / 1.75
    share = 0.93 if settings["bench_height_m"] == 0 else 0.80
    to_disc = lean(result.shown.pose.pelvis_rad[frame]) @ [-0.025 * scale, 0.195 * line, 0]
    on = lean(result.shown.pose.trunk_rad[frame]) @ [
        (0.025 - 0.10) * scale,
        (share - 0.195) * line,
        0,
    ]
    return np.array([0.0, settings["bench_height_m"], 0.0]) - to_disc - on


def bridge_limbs(result, frame, lengths):
    """Feet stay where the lockout put them; the knees follow the hips."""
    settings, progress = result.case.settings, result.timeline.progress
    options = catalogue()[result.case.variation].options
    mid, top = (resting_hips(result, i, lengths) for i in (frame, int(np.argmax(progress))))
    hip = mid + np.array([0, 0, 0.5 * lengths["hip_width"]])
    floor = settings["feet_height_m"] + lengths["ankle_height"]
    if options.heels:
        full = 0.995 * (lengths["shank"] + lengths["thigh"])
        ankle_x = top[0] + np.sqrt(full**2 - (top[1] - floor) ** 2)
    else:
        shin = np.radians(settings["shin_deg"])
        knee_y = floor + lengths["shank"] * np.cos(shin)
        ankle_x = (
            top[0]
            + np.sqrt(lengths["thigh"] ** 2 - (knee_y - top[1]) ** 2)
            - lengths["shank"] * np.sin(shin)
        )
    turn = np.radians(settings["toe_out_deg"])
    way = np.array([np.cos(turn), 0.0, np.sin(turn)])
    ball = np.array([ankle_x, settings["feet_height_m"], 0.5 * settings["stance_m"]])
    foot = foot_points(lengths, ball + (0.73 - 0.25) * lengths["foot"] * way, way, 0.0)
    leg = reach_points(lengths, foot, hip, turn, progress[frame] * settings["knee_track_m"])
    if options.rear != "none":
        return {"right": leg, "left": leg}
    free = (np.radians(settings[k]) for k in ("free_thigh_deg", "free_knee_deg"))
    return {"right": leg, "left": hang_points(lengths, hip, *free)}


def kneel_limbs(result, frame, lengths):
    """Shank along the floor behind a knee at x = 0, thigh at its angle."""
    settings, scale = result.case.settings, result.case.athlete.height_m / 1.75
    thigh = np.pi / 2 + result.shown.pose.side_view_rad("knee_right", "hip_right")[frame]
    knee = np.array([0.0, 0.05 * scale, 0.5 * settings["stance_m"]])
    foot = laces_down(lengths, np.array([0.0, 0.0, knee[2]]))
    drop = foot["ankle"][1] - knee[1]
    back = -np.sqrt(lengths["shank"] ** 2 - drop**2) - foot["ankle"][0]
    foot = {name: at + np.array([back, 0, 0]) for name, at in foot.items()}
    aside = 0.5 * lengths["hip_width"] - knee[2]
    flat = np.sqrt(lengths["thigh"] ** 2 - aside**2)
    leg = {
        **foot,
        "knee": knee,
        "hip": knee + np.array([-flat * np.cos(thigh), flat * np.sin(thigh), aside]),
    }
    return {"right": leg, "left": leg}


def bench_limbs(result, frame, lengths):
    """Legs nearly straight along a slope, ankles low, the foot square to the shank."""
    slope = np.radians(90 - result.case.settings["bench_slope_deg"])
    whole = lengths["thigh"] + lengths["shank"]
    hip = np.array(
        [whole * np.sin(slope), 0.25 + whole * np.cos(slope), 0.5 * lengths["hip_width"]]
    )
    leg = hang_points(lengths, hip, -slope, np.radians(2.0))
    return {"right": leg, "left": leg}
