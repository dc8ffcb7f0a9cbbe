"""Builds reps on one front foot: split stances, steps and one-leg work.

The right leg is the front one and follows shin and thigh; the other leg reaches its own foot (toe
or instep, on the floor or on a bench) or hangs free. The pelvis shifts sideways until the mass
centre lies over the line between the two pressure points (one leg alone: over its foot).
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np

from zesty_lever.exercises.builder import (
    SLACK,
    Failure,
    Flags,
    Poses,
    Rig,
    failures_of,
    leans_nowhere,
)
from zesty_lever.physics.body import landmark
from zesty_lever.physics.contacts import Place, Support
from zesty_lever.physics.iterate import broyden_pair, secant_root
from zesty_lever.physics.legs import (
    Foot,
    Leg,
    hang_leg,
    mirror,
    place_leg,
    reach_leg,
    rear_foot,
)
from zesty_lever.physics.pose import Pose, assemble, foot_centre
from zesty_lever.physics.vectors import Array, vector

# Where the searches start: moment of the whole per metre of shift as a share of its mass, and per
# radian of shin as a share of its mass times stature.
SWAY_LEVERAGE, SHIN_LEVERAGE = 0.85, 0.5
LONGEST_SHIN_STEP_RAD, LONGEST_SWAY_STEP_M = 0.4, 0.3
# Trunk lean at the top as a share of the deepest: two feet, one foot.
TOP_TRUNK_SHARE = (0.25, 0.05)
UPRIGHT_SHIN_RAD = 0.12
# A free leg that swings with the trunk starts with its foot just off the floor, deg.
FREE_LEG_AT_TOP = {"free_thigh_deg": 10.0, "free_knee_deg": 60.0}
FLOOR_CLEARANCE_M = 0.02


@dataclass(frozen=True)
class _Stance:
    """Front leg, other leg and the pelvis's sideways shift of one set of poses.

    ``forward`` and ``aside`` are the first moments of both legs ahead and to the right, kg m.
    """

    front: Leg
    other: Leg
    sway: Array
    forward: Array
    aside: Array


@dataclass(frozen=True)
class _Split(Rig):
    """A batch of one-front-foot stances."""

    @property
    def rear(self) -> str:
        """How the other foot stands: ``toe``, ``instep``, ``flat`` or ``none``."""
        return self.options.rear or "none"

    def front_foot(self) -> Foot:
        foot = self.foot(np.zeros_like(self.toe_out), 0.5 * self.given["stance_m"])
        lift = vector(0.0, self.given["front_height_m"], 0.0)
        return Foot(
            foot.heel + lift,
            foot.ball + lift,
            foot.toe + lift,
            foot.ankle + lift,
            foot.direction,
            foot.pitch_rad,
        )

    def rear_contact(self) -> Array:
        """Where the other foot is held up, in that leg's outward-positive frame."""
        given = self.given
        return vector(-given["step_m"], given["rear_height_m"], 0.5 * given["stance_m"])

    def pressure(self, foot: Foot) -> Array:
        """Pressure point under the front foot."""
        point = foot.pressure_point(self.given["pressure_fraction"])
        return vector(point[0], self.given["front_height_m"], point[2])

    def target(self, foot: Foot, share: Array) -> Array:
        """Point of the line between both pressure points that has this front share."""
        front = self.pressure(foot)
        if self.rear == "none":
            return front
        goal: Array = share * front + (1.0 - share) * mirror(self.rear_contact())
        return goal

    def legs(
        self,
        foot: Foot,
        shin: Array,
        thigh: Array,
        track: Array,
        sway: Array,
        outward_m: Array | None = None,
    ) -> _Stance:
        half = 0.5 * self.body.lengths["hip_width"]
        front = place_leg(
            self.body,
            foot,
            shin,
            thigh,
            self.toe_out,
            track,
            half + sway,
            outward_m,
            searching=outward_m is not None,
        )
        hip = vector(front.hip[0], front.hip[1], half - sway)
        if self.rear == "none":
            lean = np.radians(self.given["free_thigh_deg"]) + np.zeros_like(hip[0])
            other = hang_leg(self.body, hip, lean, np.radians(self.given["free_knee_deg"]))
        else:
            held, turned = self.rear_foot
            other = reach_leg(self.body, held, hip, turned, np.zeros_like(turned))
        one, two = self.leg_moment(front), self.leg_moment(other)
        return _Stance(front, other, sway, one[0] + two[0], one[2] - two[2])

    @cached_property
    def rear_foot(self) -> tuple[Foot, Array]:
        """The other foot in its own outward-positive frame, and its toe-out (rad)."""
        contact, given = self.rear_contact(), self.given
        if self.rear == "flat":
            turned = np.radians(given["rear_toe_out_deg"])
            way = vector(np.cos(turned), 0.0, np.sin(turned))
            ahead = landmark("ball_from_heel") - given["pressure_fraction"]
            ball = contact + ahead * self.body.lengths["foot"] * way
            return rear_foot(self.body, ball, 0.0 * turned, turned, laces_down=False), turned
        pitch = np.radians(given["rear_pitch_deg"])
        straight = np.zeros_like(pitch)
        held = rear_foot(self.body, contact, pitch, straight, laces_down=self.rear == "instep")
        return held, straight

    @cached_property
    def leg_weights(self) -> tuple[Array, Array, Array]:
        """What a leg's ankle, knee and hip weigh, kg: shank and thigh shared out to their ends."""
        mass, centre = self.body.mass, self.body.centre
        knee: Array = mass["shank"] * (1.0 - centre["shank"]) + mass["thigh"] * centre["thigh"]
        hip: Array = mass["thigh"] * (1.0 - centre["thigh"])
        return mass["shank"] * centre["shank"], knee, hip

    def leg_moment(self, leg: Leg) -> Array:
        """First moment ``(3, ...)`` of one leg in its own outward-positive frame, kg m."""
        ankle, knee, hip = self.leg_weights
        moment: Array = self.body.mass["foot"] * foot_centre(self.body, leg.foot) + (
            ankle * leg.foot.ankle + knee * leg.knee + hip * leg.hip
        )
        return moment

    def leans(self, stance: _Stance, goal_z: Array) -> Array:
        """How far the whole lies left of ``goal_z``, kg m."""
        aside = stance.aside + self.stack.mass_kg * stance.sway + self.rolled_kgm
        missing: Array = self.mass_kg * goal_z - aside
        return missing

    def settle(
        self, foot: Foot, shin: Array, thigh: Array, track: Array, goal_z: Array
    ) -> tuple[Array, Flags]:
        """Shift of the pelvis that brings the mass centre sideways over ``goal_z``, m, and where it settled."""

        def right_of(sway: Array) -> Array:
            return -self.leans(self.legs(foot, shin, thigh, track, sway), goal_z)

        start = np.zeros(np.broadcast_shapes(shin.shape, thigh.shape, goal_z.shape))
        slope = SWAY_LEVERAGE * self.mass_kg
        return secant_root(right_of, start, slope, longest_step=LONGEST_SWAY_STEP_M)

    def stack_moment_for(self, stance: _Stance, x: Array) -> Array:
        """First moment of the stack about the hips that puts the whole over ``x``, kg m."""
        moment: Array = self.mass_kg * x - stance.forward - self.stack.mass_kg * stance.front.hip[0]
        return moment - self.turned_kgm

    def pelvis_most(self, shin: Array, thigh: Array) -> Array:
        return self.limits.pelvis_most_rad(shin + 0.5 * np.pi - thigh, thigh)

    def moment_of(self, shin: Array, thigh: Array, line: Array) -> Array:
        """First moment of the stack about the hips at a trunk line, kg m."""
        pelvis, trunk = self.stack.split_line(line, self.pelvis_most(shin, thigh))
        return self.stack.moment_about_hips(pelvis, trunk)


def build_poses(rig: Rig, free: str | None, progress: Array) -> Poses:
    """Solve the deepest pose, then every frame up to the top; see `level.build_poses`.

    ``free`` is one of ``trunk_deg``, ``shin_deg``, ``front_share`` or None (share and pressure are
    then what the angles give).
    """
    split = _Split(**vars(rig))
    with np.errstate(invalid="ignore", divide="ignore"):
        return _follow_path(split, free, progress)


@dataclass(frozen=True)
class _Bottom:
    """The deepest pose, ``(cases, 1)``: shin, thigh, trunk line (rad), front share, pressure, shift (m)."""

    shin: Array
    thigh: Array
    line: Array
    share: Array
    fraction: Array
    sway: Array
    settled: Flags


def _solve_bottom(split: _Split, foot: Foot, free: str | None) -> _Bottom:
    given = split.given
    shin, thigh, line = (np.radians(given[k]) for k in ("shin_deg", "thigh_deg", "trunk_deg"))
    two_feet = split.rear != "none"
    share = given["front_share"] if two_feet else np.ones_like(thigh)
    track, fraction = given["knee_track_m"], given["pressure_fraction"]
    if free == "shin_deg":
        start = np.full_like(thigh, 0.4)
        shin, sway, settled = _balance_shin(
            split, foot, start, share, track, lambda _: (thigh, line), np.zeros_like(start)
        )
    elif free != "trunk_deg" and two_feet:
        share, sway, settled = _balance_share(split, foot, (shin, thigh, line), track)
    else:
        goal = split.target(foot, share)
        sway, settled = split.settle(foot, shin, thigh, track, goal[2])
    goal = split.target(foot, share)
    stance = split.legs(foot, shin, thigh, track, sway)
    moment = split.stack_moment_for(stance, goal[0])
    if free == "trunk_deg":
        line = split.stack.line_of(*split.stack.lean_for(moment, split.pelvis_most(shin, thigh)))
    elif not two_feet:
        reach = (split.moment_of(shin, thigh, line) - moment) / split.mass_kg
        fraction = fraction + reach / (split.body.lengths["foot"] * np.cos(split.toe_out))
    return _Bottom(shin, thigh, line, share, fraction, sway, settled)


def _balance_share(
    split: _Split, foot: Foot, angles: tuple[Array, Array, Array], track: Array
) -> tuple[Array, Array, Flags]:
    """Front share that given angles (shin, thigh, line) deliver, the pelvis's shift (m), where settled."""
    shin, thigh, line = angles

    def gaps(share: Array, sway: Array) -> tuple[Array, Array]:
        goal = split.target(foot, share)
        stance = split.legs(foot, shin, thigh, track, sway)
        ahead = split.moment_of(shin, thigh, line) - split.stack_moment_for(stance, goal[0])
        return ahead, -split.leans(stance, goal[2])

    start = np.full(np.broadcast_shapes(shin.shape, thigh.shape, line.shape), 0.8)
    apart = split.pressure(foot)[0] + split.given["step_m"]
    return broyden_pair(
        gaps,
        (start, np.zeros_like(start)),
        (-split.mass_kg * apart, SWAY_LEVERAGE * split.mass_kg),
        longest_steps=(2.0, LONGEST_SWAY_STEP_M),
    )


def _balance_shin(
    split: _Split,
    foot: Foot,
    start: Array,
    share: Array,
    track: Array,
    angles: Callable[[Array], tuple[Array, Array]],
    start_sway: Array,
) -> tuple[Array, Array, Flags]:
    """Shin (rad) that balances over ``share``, the pelvis's shift (m), and where both settled.

    ``angles`` gives thigh and trunk line for a shin.
    """
    goal = split.target(foot, share)
    outward: Array | None = None

    def gaps(shin: Array, sway: Array) -> tuple[Array, Array]:
        nonlocal outward
        thigh, line = angles(shin)
        stance = split.legs(foot, shin, thigh, track, sway, outward)
        # The last guess's sideways term is a good first guess for the next.
        outward = np.asarray(stance.front.outward_m)
        ahead = split.moment_of(shin, thigh, line) - split.stack_moment_for(stance, goal[0])
        return ahead, -split.leans(stance, goal[2])

    return broyden_pair(
        gaps,
        (start, start_sway),
        (SHIN_LEVERAGE * split.mass_kg * split.body.height_m, SWAY_LEVERAGE * split.mass_kg),
        longest_steps=(LONGEST_SHIN_STEP_RAD, LONGEST_SWAY_STEP_M),
    )


def _follow_path(split: _Split, free: str | None, progress: Array) -> Poses:
    p = progress
    foot = split.front_foot()
    bottom = _solve_bottom(split.at(int(np.argmax(p))), foot, free)
    shin_b, thigh_b, line_b, fraction = bottom.shin, bottom.thigh, bottom.line, bottom.fraction
    if split.options.free_follows_trunk:
        moving = {
            key: start + p * (split.given[key] - start) for key, start in FREE_LEG_AT_TOP.items()
        }
        split = replace(split, given={**split.given, **moving})
    given = split.given
    knee_b = shin_b + 0.5 * np.pi - thigh_b
    knee_t = np.minimum(np.radians(given["top_knee_deg"]), knee_b)
    midway = 4.0 * p * (1.0 - p)
    early = np.radians(given["hips_rise_deg"]) * split.up_share
    lag = given["hips_lead"] * (knee_b - knee_t)
    knee = knee_t + p * (knee_b - knee_t) - midway * (early + lag)
    upright = TOP_TRUNK_SHARE[split.rear == "none"]
    line_want = line_b * (upright + (1.0 - upright) * p)
    track = p * given["knee_track_m"]
    share = bottom.share + (1.0 - p) * (top_share(split, bottom.share) - bottom.share)
    start = split.guess("shin", p * shin_b + (1.0 - p) * UPRIGHT_SHIN_RAD)
    shin, sway, settled = _balance_shin(
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
    deepest = p >= 1.0
    shin, sway = np.where(deepest, shin_b, shin), np.where(deepest, bottom.sway, sway)
    settled = np.where(deepest, bottom.settled, settled)
    thigh = shin + 0.5 * np.pi - knee
    goal = split.target(foot, share)
    length = split.body.lengths["foot"] * np.cos(split.toe_out)
    over_x = goal[0] + p * (fraction - given["pressure_fraction"]) * length
    stance = split.legs(foot, shin, thigh, track, sway)
    most = split.pelvis_most(shin, thigh)
    pelvis, trunk = split.stack.lean_for(split.stack_moment_for(stance, over_x), most)
    pose = assemble(
        split.body,
        {"right": stance.front, "left": stance.other},
        split.stack,
        pelvis,
        trunk,
        stance.sway,
    )
    row = int(np.argmax(p))
    ends = {
        "shin_deg": np.degrees(shin_b[:, 0]),
        "thigh_deg": np.degrees(thigh_b[:, 0]),
        "trunk_deg": np.degrees(pose.line_rad[:, row]),
        "front_share": bottom.share[:, 0],
    }
    failures, drawable = _failures(split, pose, stance, bottom, free, settled)
    fraction = np.broadcast_to(fraction, drawable.shape)
    return Poses(pose, _support(split, foot), fraction, ends, drawable, failures, roots)


def top_share(split: _Split, share: Array) -> Array:
    """Front share at the top: the setting, or all of it where there is no rear contact."""
    return share if split.rear == "none" else split.given["top_share"]


def _support(split: _Split, foot: Foot) -> Support:
    front = Place(("foot_right",), ("foot_right",), (split.pressure(foot),))
    if split.rear == "none":
        return Support("foot", (front,))
    name = "foot_left" if split.rear == "flat" else f"{split.rear}_left"
    rear = Place((name,), ("foot_left",), (mirror(split.rear_contact()),))
    return Support("places", (front, rear))


def _failures(
    split: _Split, pose: Pose, stance: _Stance, bottom: _Bottom, free: str | None, settled: Flags
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
