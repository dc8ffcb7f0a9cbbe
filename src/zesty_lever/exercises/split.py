"""Builds reps on one front foot: split stances, steps and one-leg work.

The right leg is the front one and follows shin and thigh; the other leg reaches its own foot (toe
or instep, on the floor or on a bench) or hangs free. The pelvis shifts sideways until the mass
centre lies over the line between the two pressure points (one leg alone: over its foot).
"""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from zesty_lever.exercises.builder import (
    SLACK,
    Failure,
    Flags,
    Poses,
    Rig,
    failures_of,
    leads,
    leans_nowhere,
)
from zesty_lever.exercises.split_bottom import Bottom, balance_shin, solve_bottom
from zesty_lever.exercises.split_stance import Legs, SplitStance
from zesty_lever.physics.body import landmark
from zesty_lever.physics.contacts import Place, Support
from zesty_lever.physics.legs import (
    Foot,
)
from zesty_lever.physics.pose import Pose, assemble
from zesty_lever.physics.vectors import Array, mirrored

# Trunk lean at the top as a share of the deepest: two feet, one foot.
TOP_TRUNK_SHARE = (0.25, 0.05)
UPRIGHT_SHIN_RAD = 0.12
# A free leg that swings with the trunk starts with its foot just off the floor, deg.
FREE_LEG_AT_TOP = {"free_thigh_deg": 10.0, "free_knee_deg": 60.0}
FLOOR_CLEARANCE_M = 0.02


def build_poses(rig: Rig, free: str | None, progress: Array) -> Poses:
    """Solve the deepest pose, then every frame up to the top; see `level.build_poses`.

    ``free`` is one of ``trunk_deg``, ``shin_deg``, ``front_share`` or None (share and pressure are
    then what the angles give).
    """
    split = SplitStance.of(rig)
    with np.errstate(invalid="ignore", divide="ignore"):
        return _follow_path(split, free, progress)


def _free_leg_along(split: SplitStance, p: Array) -> SplitStance:
    """The free leg from hanging at the top to where it is asked for, where it follows the trunk."""
    if not split.options.free_follows_trunk:
        return split
    moving = {key: start + p * (split.given[key] - start) for key, start in FREE_LEG_AT_TOP.items()}
    return replace(split, given={**split.given, **moving})


def _knee_along(split: SplitStance, knee_b: Array, p: Array) -> Array:
    """The front knee's flexion along the path, rad, with who leads."""
    given = split.given
    knee_t = np.minimum(np.radians(given["top_knee_deg"]), knee_b)
    knee: Array = knee_t + p * (knee_b - knee_t)
    if not leads(given):
        return knee
    midway = 4.0 * p * (1.0 - p)
    early = np.radians(given["hips_rise_deg"]) * split.up_share
    lag = given["hips_lead"] * (knee_b - knee_t)
    return knee - midway * (early + lag)


def _follow_path(split: SplitStance, free: str | None, progress: Array) -> Poses:
    p = progress
    foot = split.front_foot()
    bottom = solve_bottom(split.at(int(np.argmax(p))), foot, free)
    shin_b, thigh_b, line_b, fraction = bottom.shin, bottom.thigh, bottom.line, bottom.fraction
    split = _free_leg_along(split, p)
    given = split.given
    knee = _knee_along(split, shin_b + 0.5 * np.pi - thigh_b, p)
    upright = TOP_TRUNK_SHARE[split.rear == "none"]
    line_want = line_b * (upright + (1.0 - upright) * p)
    track = p * given["knee_track_m"]
    share = bottom.share + (1.0 - p) * (top_share(split, bottom.share) - bottom.share)
    shin, sway, settled = shin_b, bottom.sway, bottom.settled
    roots: dict[str, Array] = {}
    deepest = p >= 1.0
    if not deepest.all():
        start = split.guess("shin", p * shin_b + (1.0 - p) * UPRIGHT_SHIN_RAD)
        shin, sway, settled = balance_shin(
            split,
            foot,
            start,
            share,
            track,
            lambda angle: (angle + 0.5 * np.pi - knee, line_want),
            split.guess("sway", np.zeros_like(start)),
        )
        roots = {"shin": shin, "sway": sway}
        # The deepest pose is the one asked for, balanced or not.
        shin, sway = np.where(deepest, shin_b, shin), np.where(deepest, bottom.sway, sway)
        settled = np.where(deepest, bottom.settled, settled)
    thigh = shin + 0.5 * np.pi - knee
    goal = split.target(foot, share)
    length = split.body.lengths["foot"] * np.cos(split.toe_out)
    over_x = goal[0] + p * (fraction - given["pressure_fraction"]) * length
    stance = split.legs(foot, shin, thigh, track, sway)
    most = split.pelvis_most(shin, thigh)
    turned, _ = split.lines_turn(foot, stance, (shin, thigh, line_want))
    pelvis, trunk = split.stack.lean_for(split.stack_moment_for(stance, over_x, turned), most)
    pose = assemble(
        split.body,
        {"right": stance.front, "left": stance.other},
        split.stack,
        pelvis,
        trunk,
        stance.sway,
    )
    ends = _bottom_deg(bottom, pose, int(np.argmax(p)))
    failures, drawable = _failures(split, pose, stance, bottom, free, settled)
    fraction = np.broadcast_to(fraction, drawable.shape)
    return Poses(pose, _support(split, foot), fraction, ends, drawable, failures, roots)


def _bottom_deg(bottom: Bottom, pose: Pose, row: int) -> dict[str, Array]:
    """Angles (deg) and front share of the deepest point, per case."""
    return {
        "shin_deg": np.degrees(bottom.shin[:, 0]),
        "thigh_deg": np.degrees(bottom.thigh[:, 0]),
        "trunk_deg": np.degrees(pose.line_rad[:, row]),
        "front_share": bottom.share[:, 0],
    }


def top_share(split: SplitStance, share: Array) -> Array:
    """Front share at the top: the setting, or all of it where there is no rear contact."""
    return share if split.rear == "none" else split.given["top_share"]


def _support(split: SplitStance, foot: Foot) -> Support:
    front = Place(("foot_right",), ("foot_right",), (split.pressure(foot),))
    if split.rear == "none":
        return Support("foot", (front,))
    name = "foot_left" if split.rear == "flat" else f"{split.rear}_left"
    rear = Place((name,), ("foot_left",), (mirrored(split.rear_contact()),))
    return Support("places", (front, rear))


def _failures(
    split: SplitStance, pose: Pose, stance: Legs, bottom: Bottom, free: str | None, settled: Flags
) -> tuple[tuple[Failure, ...], Flags]:
    limits, shape = split.limits, pose.line_rad.shape
    nowhere = leans_nowhere(pose.line_rad)
    short = stance.front.reach_short_m > SLACK
    stretched = stance.other.reach_short_m > SLACK
    knee = pose.points["knee_left"][1]
    grounded = (knee < FLOOR_CLEARANCE_M) & (split.rear != "none")
    fraction, share = bottom.fraction, bottom.share
    tips = (fraction < -SLACK) | (fraction > landmark("ball_from_heel") + SLACK)
    tips = tips | (share < -SLACK) | (share > 1.0 + SLACK)
    # The front heel of a split stance may be anywhere; only its own ankle limits it.
    ankle = pose.dorsiflexion_rad["right"] > limits.ankle_dorsiflexion + SLACK
    if split.rear == "flat":
        ankle = ankle | (pose.dorsiflexion_rad["left"] > limits.ankle_dorsiflexion + SLACK)
    bent = np.maximum(*(pose.knee_flexion_rad[side] for side in ("left", "right")))
    opens = np.abs(pose.hip_opening_rad["right"]) > limits.hip_opening + SLACK
    lean = "trunk_deg" if free == "shin_deg" else "shin_deg"
    failures = failures_of(
        shape,
        ("would-tip", "trunk_deg", tips),
        ("out-of-reach", "stance_m", short),
        ("out-of-reach", "step_m" if "step_m" in split.given else "stance_m", stretched),
        ("hip-opening", "stance_m", opens),
        ("ankle-limit", "shin_deg", ankle),
        ("knee-limit", "thigh_deg", bent > limits.knee_flexion + SLACK),
        ("knee-on-floor", "thigh_deg", grounded),
        ("cannot-balance", lean, nowhere),
        ("did-not-settle", lean, ~settled),
    )
    drawable: Flags = ~(np.broadcast_to(short | stretched, shape) | nowhere)
    return failures, drawable
