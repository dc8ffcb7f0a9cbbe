"""Builds the poses of a whole squat rep, both feet level on the floor.

The bottom pose is solved for whichever of trunk, shin or thigh is left to balance; the top pose
has shin and thigh in one line and no moment at the hip. In between, hips and knees travel
together and balance is re-solved from the ankles so that the mass centre stays over the pressure
point.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

import numpy as np

from zesty_lever.exercises.builder import (
    SLACK,
    Failure,
    Flags,
    Poses,
    Rig,
    column_or,
    failures_of,
    leads,
    leans_nowhere,
)
from zesty_lever.exercises.level_stance import LevelStance
from zesty_lever.exercises.sides import Apart, set_apart
from zesty_lever.frozen import dataclass, lazy
from zesty_lever.physics.body import landmark
from zesty_lever.physics.contacts import Place, Support
from zesty_lever.physics.iterate import broyden_pair, root_by_looks, secant_root
from zesty_lever.physics.legs import (
    Foot,
    Leg,
    straight_leg_side_length,
)
from zesty_lever.physics.pose import Pose, assemble
from zesty_lever.physics.upper_body import Stack
from zesty_lever.physics.vectors import Array, mirrored, smoothstep, vector

HANDS_AHEAD_STANDING = 0.05
THIGH_SOLVABLE_ABOVE_DEG = 15.0
LONGEST_STEP_RAD = 0.4


def build_poses(rig: Rig, free: str | None, progress: Array) -> Poses:
    """Solve bottom and top, then every frame in between.

    The rig's settings are arrays ``(cases, 1)`` in the catalogue's units, NaN where ``free`` (one of
    ``trunk_deg``, ``shin_deg``, ``thigh_deg`` or None) is left to balance; ``progress`` is
    ``(frames,)``. Nothing raises: impossible cases are flagged in ``failures``.
    """
    squat = LevelStance.of(rig)
    _ = squat.flat_foot  # the same at every moment
    with np.errstate(invalid="ignore"):
        deepest = squat.at(int(np.argmax(progress)))
        return follow_path(squat, _solve_bottom(deepest, free), free, progress)


def _with_hands(squat: LevelStance, p: Array) -> LevelStance:
    """The batch with its hands where they hang at progress ``p``.

    Hands that hang ahead of or behind the shoulders at the bottom come to rest in front of the
    thighs at the top; with the option ``hands_stay`` they stay as far as they are.
    """
    if "hands_ahead_m" not in squat.given or squat.options.hands_stay:
        return squat
    deep = squat.given["hands_ahead_m"]
    top = HANDS_AHEAD_STANDING * squat.body.height_m
    return replace(squat, stack=squat.restack(top + p * (deep - top), squat.up_share))


@dataclass(frozen=True)
class Bottom:
    """Shin, thigh (rad) and pressure fraction at the bottom, ``(cases, 1)``, and the hip-shoulder line's lean.

    That is ``told``, or what pelvis and trunk ``leans`` (rad) of a stack give. The ``leg`` where it was placed for them.
    """

    shin: Array
    thigh: Array
    fraction: Array
    told: Array | None = None
    leg: Leg | None = None
    leans: tuple[Array, Array] | None = None
    stack: Stack | None = None

    @lazy
    def line(self) -> Array:
        """Lean of the hip-shoulder line, rad. Raises `ValueError` where nothing tells it."""
        if self.told is not None:
            return self.told
        if self.stack is None or self.leans is None:
            raise ValueError("neither a line nor leans")
        return self.stack.line_of(*self.leans)


def _solve_bottom(squat: LevelStance, free: str | None) -> Bottom:
    given = squat.given
    shin, thigh, line = (np.radians(given[k]) for k in ("shin_deg", "thigh_deg", "trunk_deg"))
    fraction = given["pressure_fraction"]
    foot, track = squat.bottom_foot(), given["knee_track_m"]
    if free is None:
        return Bottom(shin, thigh, squat.falls_at(foot, shin, thigh, line), line)
    at_x = foot.pressure_point(fraction)[0]
    if free == "trunk_deg":
        leg = squat.leg(foot, shin, thigh, track)
        leans = squat.lean_over(leg, at_x, squat.pelvis_most(shin, thigh))
        return Bottom(shin, thigh, fraction, leg=leg, leans=leans, stack=squat.stack)
    low, ahead = np.zeros_like(at_x), squat.balance_on(foot, track, at_x)
    if free == "shin_deg":
        ends = (low + np.radians(-10.0), low + np.radians(50.0))
        shin = root_by_looks(lambda x: ahead(x, thigh, line), *ends, tolerance=1e-11)
    elif free == "thigh_deg":
        ends = (low + np.radians(THIGH_SOLVABLE_ABOVE_DEG), low + np.radians(100.0))
        thigh = root_by_looks(lambda x: ahead(shin, x, line), *ends, tolerance=1e-11)
    return Bottom(shin, thigh, fraction, line)


def _stand(squat: LevelStance, foot: Foot, at_x: Array) -> tuple[Array, Array]:
    """Lean of the straight legs and of the trunk at the top, rad.

    No hip moment: the stack's mass centre is plumb over the hips, but for what hangs from a belt,
    which pulls on hips that stand as they would without it. The whole then leans a little from the
    ankles until the mass centre is over ``at_x``; both are closed forms.
    """
    free_hip = np.full_like(at_x, np.pi)
    hung = squat.stack.hung_kgm + np.zeros_like(at_x)
    _, trunk = squat.stack.lean_for(hung, free_hip)
    body = squat.body
    length = straight_leg_side_length(body, 0.5 * squat.given["stance_m"])
    share = body.lengths["shank"] / (body.lengths["shank"] + body.lengths["thigh"])
    shank_at = share * (1.0 - body.centre["shank"])
    thigh_at = 1.0 - body.centre["thigh"] * (1.0 - share)
    feet = 2.0 * body.mass["foot"] * foot.centre[0]
    carried = 2.0 * (body.mass["shank"] * shank_at + body.mass["thigh"] * thigh_at)
    at_ankle = 2.0 * (body.mass["shank"] + body.mass["thigh"]) + squat.stack.mass_kg
    need = squat.mass_kg * at_x - feet - at_ankle * foot.ankle[0] - hung

    def lean(turned: Array) -> Array:
        angle: Array = np.arcsin((need - turned) / (length * (carried + squat.stack.mass_kg)))
        return angle

    if not squat.lines:
        return lean(squat.turned_kgm), trunk

    def missed(beside: Array, turned: Array) -> tuple[Array, Array]:
        """Of the path's first pose: how far the mass lies ahead, and what lines turn beyond the guess, kg m.

        Its shin stands ``beside`` the lean, by next to nothing.
        """
        shin = lean(turned) + beside
        thigh = shin + 0.5 * np.pi
        leg = squat.leg(foot, shin, thigh, np.zeros_like(at_x))
        leans = squat.stack.split_line(trunk + beside, squat.pelvis_most(shin, thigh))
        above = squat.stack.moment_about_hips(*leans)
        ahead = above - squat.stack_moment_for(leg, at_x, turned)
        return ahead, squat.turned_by_lines(leg, leans, at_x) - turned

    start = squat.turned_kgm + 0.0 * at_x
    _, turned, _ = broyden_pair(
        missed,
        (0.0 * start, start),
        (length * (carried + squat.stack.mass_kg), -1.0 + 0.0 * at_x),
        longest_steps=(LONGEST_STEP_RAD, np.inf),
    )
    return lean(turned), trunk


def _knee_along(squat: LevelStance, knee_b: Array, p: Array) -> Array:
    """Knee flexion along the path, rad: knees lag where the hips lead, and straighten early where they rise first."""
    knee: Array = p * knee_b
    if not leads(squat.given):
        return knee
    midway = 4.0 * p * (1.0 - p)
    early = np.radians(column_or(squat.given, "hips_rise_deg", 0.0, knee_b)) * squat.up_share
    lag = column_or(squat.given, "hips_lead", 0.0, knee_b) * knee_b
    return knee - midway * (early + lag)


def _lean_from_ankles(
    squat: LevelStance,
    foot: Foot,
    at_x: Array,
    top: tuple[Array, Array, Array],
    bottom: Bottom,
    p: Array,
) -> tuple[Array, Array, Array, Flags]:
    """Shin, thigh and hip-shoulder line along the path, rad: hips and knees travel together, ankles balance.

    ``top`` is (shin, thigh, hip-shoulder line). Hip and knee flexion both follow
    ``p``, but for who leads; the shin is then the one that keeps the whole over ``at_x``: a secant
    search, last comes which frames it has settled.
    """
    (shin_t, thigh_t, line_t), shin_b, thigh_b = top, bottom.shin, bottom.thigh
    knee = _knee_along(squat, shin_b + 0.5 * np.pi - thigh_b, p)
    hip_t, hip_b = line_t - thigh_t, bottom.line - thigh_b
    hip = hip_t + p * (hip_b - hip_t)
    balance = squat.balance_on(foot, p * squat.given["knee_track_m"], at_x)
    # Knee and hip are bent as far as they are: all the rest follows the shin.
    upright, most = 0.5 * np.pi - knee, squat.limits.pelvis_most_rad(knee, np.zeros(()))

    def ahead(shin: Array) -> Array:
        thigh = shin + upright
        return balance(shin, thigh, hip + thigh, most + thigh)

    def leverage(shin: Array) -> Array:
        """Mass moved ahead per radian when the whole turns about the ankles: its height over them, kg m."""
        thigh = shin + upright
        pelvis, trunk = squat.stack.split_line(hip + thigh, most + thigh)
        shank_m, thigh_m = squat.body.lengths["shank"], squat.body.lengths["thigh"]
        hips = shank_m * np.cos(shin) + thigh_m * np.sin(thigh)
        legs = 2.0 * (squat.body.mass["shank"] + squat.body.mass["thigh"])
        above: Array = squat.stack.height_moment(pelvis, trunk) + squat.stack.mass_kg * hips
        return above + 0.5 * legs * hips

    guess = squat.guess("shin", shin_t + p * (shin_b - shin_t))
    shin, settled = secant_root(ahead, guess, leverage(guess), longest_step=LONGEST_STEP_RAD)
    # The deepest pose is the one asked for, to the last digit.
    deepest = p >= 1.0
    shin = np.where(deepest, bottom.shin, shin)
    thigh = shin + upright
    return shin, thigh, hip + thigh, settled | deepest


def _along(
    squat: LevelStance, topmost: LevelStance, bottom: Bottom, p: Array
) -> tuple[Foot, Array, tuple[Array, Array, Array], Flags]:
    """Between top and bottom: the foot, the pressure fraction, shin, thigh and line (rad), and where they settled."""
    given, foot, shift = squat.given, squat.flat_foot, p
    standing = _with_hands(topmost, np.zeros_like(bottom.shin))
    lifted = given["heel_lift_deg"] > 0.0
    fraction_top = given["pressure_fraction"]
    if lifted.any():
        # A lifting heel: the weight goes to the ball first, then the heel comes up.
        fraction_top = np.where(lifted, 0.5, fraction_top)
        shift = np.where(lifted, smoothstep(2.0 * p), p)
        foot = squat.stand_on(smoothstep(2.0 * p - 1.0) * given["heel_lift_deg"])
    flat = squat.flat_foot
    lean, trunk = _stand(standing, flat, flat.pressure_point(fraction_top)[0])
    fraction = fraction_top + shift * (bottom.fraction - fraction_top)
    at_x = foot.pressure_point(fraction)[0]
    top = (lean, 0.5 * np.pi + lean, trunk)
    *angles, settled = _lean_from_ankles(squat, foot, at_x, top, bottom, p)
    return foot, fraction, (angles[0], angles[1], angles[2]), settled


def _leans(
    squat: LevelStance, leg: Leg, at_x: Array, line: Array, pelvis_most: Array
) -> tuple[Array, Array]:
    """Pelvis and trunk lean (rad) over ``at_x``: hips and shoulders lie where the path has them."""
    places = squat.stack.split_line(line, pelvis_most) if squat.lines else (line, line)
    turned = squat.turned_by_lines(leg, places, at_x)
    return squat.stack.lean_for(squat.stack_moment_for(leg, at_x, turned), pelvis_most)


def follow_path(squat: LevelStance, bottom: Bottom, free: str | None, progress: Array) -> Poses:
    """Every frame between the top and a solved bottom."""
    given, p = squat.given, progress
    topmost = squat.at(int(np.argmin(p)))
    squat = _with_hands(squat, p)
    along = p.min() < 1.0
    if along:
        foot, fraction, (shin, thigh, line), settled = _along(squat, topmost, bottom, p)
    else:
        foot, fraction = squat.bottom_foot(), bottom.fraction
        shin, thigh = bottom.shin, bottom.thigh
        settled = np.ones(shin.shape, dtype=bool)
    pressure = foot.pressure_point(fraction)
    # From the start: where a search's trials ended depends on how long others went on.
    leg = None if along else bottom.leg
    if leg is None:
        leg = squat.leg(foot, shin, thigh, p * given["knee_track_m"])
    right = vector(pressure[0], np.zeros_like(pressure[0]), pressure[2])
    pelvis_most = squat.pelvis_most(shin, thigh)
    if squat.sided:
        stance, moment = set_apart(squat, leg, foot, right, p)
        leans = squat.stack.lean_for(moment, pelvis_most)
    else:
        both = {"left": leg, "right": leg}
        stance = Apart(both, mirrored(right), np.zeros((1, 1)), leg.reach_short_m)
        known = None if along or squat.lines else bottom.leans
        leans = known or _leans(
            squat, leg, pressure[0], line if along else bottom.line, pelvis_most
        )
    pose = assemble(squat.body, stance.legs, squat.stack, *leans, stance.shift)
    deepest = int(np.argmax(p))
    ends = {
        "shin_deg": np.degrees(bottom.shin[:, 0]),
        "thigh_deg": np.degrees(bottom.thigh[:, 0]),
        "trunk_deg": np.degrees(pose.line_rad[:, deepest]),
    }
    failures, drawable = _failures(squat, pose, stance.reach_short_m, fraction, free, ends, settled)
    fraction = np.broadcast_to(fraction, drawable.shape)
    support = _both_feet(stance.on_left, right)
    return Poses(pose, support, fraction, ends, drawable, failures, {"shin": shin})


def _both_feet(on_left: Array, on_right: Array) -> Support:
    return Support(
        "feet",
        tuple(
            Place((f"foot_{side}",), (f"foot_{side}",), (point,))
            for side, point in (("left", on_left), ("right", on_right))
        ),
    )


def _failures(
    squat: LevelStance,
    pose: Pose,
    short_m: Array,
    fraction: Array,
    free: str | None,
    ends: Mapping[str, Array],
    settled: Flags,
) -> tuple[tuple[Failure, ...], Flags]:
    """What is impossible, and which frames can be drawn at all, ``(cases, frames)``."""
    limits, slack, shape = squat.limits, SLACK, pose.line_rad.shape
    unsolved = np.zeros(shape, dtype=bool)
    if free in {"shin_deg", "thigh_deg"}:
        unsolved |= np.isnan(ends[free])[:, None]
    nowhere = leans_nowhere(pose.line_rad)
    out_of_reach = np.broadcast_to(short_m > slack, shape) | np.isnan(
        straight_leg_side_length(squat.body, 0.5 * squat.given["stance_m"])
    )
    tips = (fraction < -slack) | (fraction > landmark("ball_from_heel") + slack)
    opens, bends, flexes = (
        both["right"] if pose.alike else np.maximum(both["left"], both["right"])
        for both in (
            {side: np.abs(angle) for side, angle in pose.hip_opening_rad.items()},
            pose.dorsiflexion_rad,
            pose.knee_flexion_rad,
        )
    )
    failures = failures_of(
        shape,
        ("out-of-reach", "stance_m", out_of_reach),
        ("hip-opening", "stance_m", opens > limits.hip_opening + slack),
        ("ankle-limit", "shin_deg", bends > limits.ankle_dorsiflexion + slack),
        ("knee-limit", "thigh_deg", flexes > limits.knee_flexion + slack),
        ("cannot-balance", "trunk_deg", unsolved),
        ("would-tip", "trunk_deg", tips),
        ("cannot-balance", "shin_deg", nowhere),
        ("did-not-settle", "shin_deg", ~settled),
    )
    return failures, ~(out_of_reach | nowhere)
