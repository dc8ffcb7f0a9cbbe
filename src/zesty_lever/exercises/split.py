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

from zesty_lever.body import landmark
from zesty_lever.exercises.rep import SLACK, Flags, Rep, Rig, any_frame, leans_nowhere
from zesty_lever.mechanics.contacts import Support
from zesty_lever.motion.legs import (
    TRACK_STEPS,
    Foot,
    Leg,
    hang_leg,
    mirror,
    place_leg,
    reach_leg,
    rear_foot,
)
from zesty_lever.motion.pose import Pose, assemble, foot_centre
from zesty_lever.vectors import Array, vector

# Corrections of the pelvis's sideways shift: from nothing, and from where a search has left it.
SWAY_STEPS, LAST_SWAY_STEPS = 5, 2
SECANT_STEPS = 7
SEARCH_TRACK_STEPS = 3
# Moment of the whole per metre of shift, as a share of its mass: where the correction starts.
SWAY_LEVERAGE = 0.85
LEAST_SHIFT_M = 1e-7
# Trunk lean at the top as a share of the deepest: two feet, one foot.
TOP_TRUNK_SHARE = (0.25, 0.05)
UPRIGHT_SHIN_RAD = 0.12
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
        return str(self.options.get("rear", "none"))

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
        steps: int = TRACK_STEPS,
    ) -> _Stance:
        half = 0.5 * self.body.lengths["hip_width"]
        front = place_leg(self.body, foot, shin, thigh, self.toe_out, track, half + sway, steps)
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
        self,
        foot: Foot,
        shin: Array,
        thigh: Array,
        track: Array,
        goal_z: Array,
        sway: Array,
        steps: int,
    ) -> _Stance:
        """Shift the pelvis until the mass centre is sideways over ``goal_z``."""
        leverage = SWAY_LEVERAGE * self.mass_kg
        stance = self.legs(foot, shin, thigh, track, sway)
        missing = self.leans(stance, goal_z)
        for _ in range(steps):
            shift = missing / leverage
            stance = self.legs(foot, shin, thigh, track, stance.sway + shift)
            before, missing = missing, self.leans(stance, goal_z)
            leverage = self.learnt(leverage, before - missing, shift)
        return stance

    def learnt(self, leverage: Array, gained: Array, shift: Array) -> Array:
        """Leverage of a shift from what the last one has gained; as it was where that was too little."""
        found = gained / np.where(np.abs(shift) < LEAST_SHIFT_M, 1.0, shift)
        fair = (
            (np.abs(shift) >= LEAST_SHIFT_M)
            & (found > 0.4 * self.mass_kg)
            & (found < 1.2 * self.mass_kg)
        )
        better: Array = np.where(fair, found, leverage)
        return better

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


def build_rep(rig: Rig, free: str | None, progress: Array) -> Rep:
    """Solve the deepest pose, then every frame up to the top; see `rep.Rig` and `squat.build_rep`.

    ``free`` is one of ``trunk_deg``, ``shin_deg``, ``front_share`` or None (share and pressure are
    then what the angles give).
    """
    split = _Split(**vars(rig))
    with np.errstate(invalid="ignore"):
        return _follow_path(split, free, progress)


def _solve_bottom(
    split: _Split, foot: Foot, free: str | None
) -> tuple[Array, Array, Array, Array, Array]:
    """Shin, thigh, trunk line (rad), front share and pressure fraction, ``(cases, 1)``."""
    given = split.given
    shin, thigh, line = (np.radians(given[k]) for k in ("shin_deg", "thigh_deg", "trunk_deg"))
    share = given["front_share"] if split.rear != "none" else np.ones_like(thigh)
    track, fraction = given["knee_track_m"], given["pressure_fraction"]
    sway = np.zeros_like(thigh)
    if free == "shin_deg":
        start = np.full_like(thigh, 0.4)
        shin, sway = _secant_shin(
            split, foot, start, share, track, lambda _: (thigh, line), TRACK_STEPS
        )
    if free == "front_share":
        share = np.full_like(thigh, 0.8)
    goal = split.target(foot, share)
    stance = split.settle(foot, shin, thigh, track, goal[2], sway, SWAY_STEPS)
    if free == "trunk_deg":
        most = split.pelvis_most(shin, thigh)
        line = split.stack.line_of(
            *split.stack.lean_for(split.stack_moment_for(stance, goal[0]), most)
        )
    elif free in {"front_share", None}:
        ahead = split.moment_of(shin, thigh, line) - split.stack_moment_for(stance, goal[0])
        reach = ahead / split.mass_kg
        if split.rear == "none":
            length = split.body.lengths["foot"] * np.cos(split.toe_out)
            fraction = fraction + reach / length
        else:
            share = share + reach / (split.pressure(foot)[0] + given["step_m"])
    return shin, thigh, line, share, fraction


def _secant_shin(
    split: _Split,
    foot: Foot,
    start: Array,
    share: Array,
    track: Array,
    angles: Callable[[Array], tuple[Array, Array]],
    steps: int = SEARCH_TRACK_STEPS,
) -> tuple[Array, Array]:
    """Shin (rad) that balances over ``share``, and the pelvis's shift (m) near enough to go on from.

    ``angles`` gives thigh and trunk line for a shin. Each step corrects shin and shift together.
    """
    goal = split.target(foot, share)
    leverage = SWAY_LEVERAGE * split.mass_kg

    def ahead(shin: Array, sway: Array) -> tuple[Array, Array]:
        thigh, line = angles(shin)
        stance = split.legs(foot, shin, thigh, track, sway, steps)
        gap = split.moment_of(shin, thigh, line) - split.stack_moment_for(stance, goal[0])
        return gap, stance.sway + split.leans(stance, goal[2]) / leverage

    before, sway = ahead(start, np.zeros_like(start))
    old = start
    shin = start - before / (0.5 * split.mass_kg * split.body.height_m)
    for _ in range(SECANT_STEPS):
        now, sway = ahead(shin, sway)
        rise = now - before
        step = now * (shin - old) / np.where(rise == 0.0, 1.0, rise)
        before, old = now, shin
        shin = shin - np.clip(step, -0.4, 0.4)
    return shin, sway


def _follow_path(split: _Split, free: str | None, progress: Array) -> Rep:
    p = progress
    foot = split.front_foot()
    lowest = split.at(int(np.argmax(p)))
    shin_b, thigh_b, line_b, share, fraction = _solve_bottom(lowest, foot, free)
    if split.options.get("free_follows_trunk"):
        moving = {k: p * split.given[k] for k in ("free_thigh_deg", "free_knee_deg")}
        split = replace(split, given={**split.given, **moving})
    given = split.given
    knee_b = shin_b + 0.5 * np.pi - thigh_b
    knee_t = np.minimum(np.radians(given["top_knee_deg"]), knee_b)
    midway = 4.0 * p * (1.0 - p)
    early = np.radians(given["hips_rise_deg"]) * split.up_share
    knee = (
        knee_t + p * (knee_b - knee_t) - midway * (early + given["hips_lead"] * (knee_b - knee_t))
    )
    upright = TOP_TRUNK_SHARE[split.rear == "none"]
    line_want = line_b * (upright + (1.0 - upright) * p)
    track = p * given["knee_track_m"]
    share_b, share = share, share + (1.0 - p) * (top_share(split, share) - share)
    start = p * shin_b + (1.0 - p) * UPRIGHT_SHIN_RAD
    shin, sway = _secant_shin(
        split, foot, start, share, track, lambda angle: (angle + 0.5 * np.pi - knee, line_want)
    )
    # The deepest pose is the one asked for, balanced or not.
    shin = np.where(p >= 1.0, shin_b, shin)
    thigh = shin + 0.5 * np.pi - knee
    goal = split.target(foot, share)
    balanced = fraction - given["pressure_fraction"]
    length = split.body.lengths["foot"] * np.cos(split.toe_out)
    over_x = goal[0] + p * balanced * length
    stance = split.settle(foot, shin, thigh, track, goal[2], sway, LAST_SWAY_STEPS)
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
    deepest = int(np.argmax(p))
    ends = {
        "shin_deg": np.degrees(shin_b[:, 0]),
        "thigh_deg": np.degrees(thigh_b[:, 0]),
        "trunk_deg": np.degrees(pose.line_rad[:, deepest]),
        "front_share": share_b[:, 0],
    }
    failures, solved = _failures(split, pose, stance, fraction, share_b, free)
    return Rep(
        pose, _support(split, foot), np.broadcast_to(fraction, solved.shape), ends, solved, failures
    )


def top_share(split: _Split, share: Array) -> Array:
    """Front share at the top: the setting, or all of it where there is no rear contact."""
    return share if split.rear == "none" else split.given["top_share"]


def _support(split: _Split, foot: Foot) -> Support:
    front = split.pressure(foot)
    if split.rear == "none":
        return Support((("foot_right",),), (("foot_right",),), ((front,),))
    rear = mirror(split.rear_contact())
    name = "foot_left" if split.rear == "flat" else f"{split.rear}_left"
    return Support(
        (("foot_right",), (name,)),
        (("foot_right",), ("foot_left",)),
        ((front,), (rear,)),
        slides=True,
    )


def _failures(
    split: _Split, pose: Pose, stance: _Stance, fraction: Array, share: Array, free: str | None
) -> tuple[tuple[tuple[str, str, Flags], ...], Flags]:
    limits, shape = split.limits, pose.line_rad.shape
    nowhere = leans_nowhere(pose.line_rad)
    unsolved = np.zeros(shape, dtype=bool)
    short = stance.front.reach_short_m > SLACK
    stretched = stance.other.reach_short_m > SLACK
    knee = pose.points["knee_left"][1]
    grounded = knee < FLOOR_CLEARANCE_M if split.rear != "none" else unsolved
    tips = (fraction < -SLACK) | (fraction > landmark("ball_from_heel") + SLACK)
    tips = tips | (share < -SLACK) | (share > 1.0 + SLACK)
    # The front heel of a split stance may be anywhere; only its own ankle limits it.
    ankle = pose.dorsiflexion_rad["right"] > limits.ankle_dorsiflexion + SLACK
    if split.rear == "flat":
        ankle = ankle | (pose.dorsiflexion_rad["left"] > limits.ankle_dorsiflexion + SLACK)
    bent = np.maximum(*(pose.knee_flexion_rad[side] for side in ("left", "right")))
    opens = np.abs(pose.hip_opening_rad["right"]) > limits.hip_opening + SLACK
    checks: tuple[tuple[str, str, Flags], ...] = (
        ("would-tip", "trunk_deg", tips),
        ("out-of-reach", "stance_m", short),
        ("out-of-reach", "step_m" if "step_m" in split.given else "stance_m", stretched),
        ("hip-opening", "stance_m", opens),
        ("ankle-limit", "shin_deg", ankle),
        ("knee-limit", "thigh_deg", bent > limits.knee_flexion + SLACK),
        ("knee-on-floor", "thigh_deg", grounded),
        ("cannot-balance", "trunk_deg" if free == "shin_deg" else "shin_deg", nowhere),
    )
    flagged = tuple((code, key, any_frame(flags, shape)) for code, key, flags in checks)
    drawable: Flags = ~(np.broadcast_to(short | stretched, shape) | nowhere)
    return flagged, drawable
