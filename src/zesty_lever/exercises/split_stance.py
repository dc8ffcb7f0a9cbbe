"""A split stance at given angles: both legs, their first moments, the stack above, what can fail."""

from __future__ import annotations

import numpy as np

from zesty_lever.exercises.builder import (
    Rig,
)
from zesty_lever.frozen import dataclass, lazy
from zesty_lever.physics.body import landmark
from zesty_lever.physics.legs import (
    Foot,
    Leg,
    hang_leg,
    place_leg,
    reach_leg,
    rear_foot,
)
from zesty_lever.physics.lines import line_forces, turning_about
from zesty_lever.physics.outline import Outline
from zesty_lever.physics.vectors import Array, dot, mirrored, vector

# Where the searches start: moment of the whole per metre of shift as a share of its mass.
SWAY_LEVERAGE = 0.85
LONGEST_SHIN_STEP_RAD, LONGEST_SWAY_STEP_M = 0.4, 0.3


@dataclass(frozen=True)
class Legs:
    """Front leg, other leg and the pelvis's sideways shift of one set of poses.

    ``forward`` and ``aside`` are the first moments of both legs ahead and to the right, kg m.
    """

    front: Leg
    other: Leg
    sway: Array
    forward: Array
    aside: Array


@dataclass(frozen=True)
class SplitStance(Rig):
    """A batch of one-front-foot stances."""

    @property
    def rear(self) -> str:
        """How the other foot stands: ``toe``, ``instep``, ``flat`` or ``none``."""
        return self.options.rear or "none"

    def front_foot(self) -> Foot:
        """The front foot, on its step where there is one."""
        foot = self.foot(np.zeros_like(self.toe_out), 0.5 * self.given["stance_m"])
        return foot.moved(vector(0.0, self.given["front_height_m"], 0.0))

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
        goal: Array = share * front + (1.0 - share) * mirrored(self.rear_contact())
        return goal

    def legs(
        self,
        foot: Foot,
        shin: Array,
        thigh: Array,
        track: Array,
        sway: Array,
        outward_m: Array | None = None,
    ) -> Legs:
        """Both legs at the front leg's side-view angles (rad), the pelvis shifted by ``sway`` (m)."""
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
        return Legs(front, other, sway, one[0] + two[0], one[2] - two[2])

    @lazy
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

    @lazy
    def leg_weights(self) -> tuple[Array, Array, Array]:
        """What a leg's ankle, knee and hip weigh, kg: shank and thigh shared out to their ends."""
        mass, centre = self.body.mass, self.body.centre
        knee: Array = mass["shank"] * (1.0 - centre["shank"]) + mass["thigh"] * centre["thigh"]
        hip: Array = mass["thigh"] * (1.0 - centre["thigh"])
        return mass["shank"] * centre["shank"], knee, hip

    def leg_moment(self, leg: Leg) -> Array:
        """First moment ``(3, ...)`` of one leg in its own outward-positive frame, kg m."""
        ankle, knee, hip = self.leg_weights
        moment: Array = self.body.mass["foot"] * leg.foot.centre + (
            ankle * leg.foot.ankle + knee * leg.knee + hip * leg.hip
        )
        return moment

    def lines_turn(
        self, foot: Foot, stance: Legs, angles: tuple[Array, Array, Array]
    ) -> tuple[Array, Array]:
        """What lines turn forward about the front pressure point, and roll about the line between the feet, kg m.

        ``angles`` are shin, thigh and trunk line (rad). What was told where no lines are balanced here.
        """
        if not self.lines:
            return self.turned_kgm, self.rolled_kgm
        shin, thigh, line = angles
        leans = self.stack.split_line(line, self.pelvis_most(shin, thigh))
        legs = {"right": stance.front, "left": stance.other}
        outline = Outline(self.body, self.stack, legs, *leans, stance.sway)
        pulls = line_forces(self.body, outline, self.lines, self.progress, self.up_share)
        about = self.pressure(foot)
        moment = turning_about(about, pulls)
        if self.rear == "none":
            return -moment[2], moment[0]
        along = about - mirrored(self.rear_contact())
        along = along / np.where(np.abs(along[0]) > 1e-9, along[0], 1.0)
        return -moment[2], dot(along + 0.0 * moment, moment)

    def shin_leverage(self, shin: Array, thigh: Array) -> Array:
        """About how far the mass moves ahead per radian of the front shin, its knee and the trunk kept, kg m."""
        lengths, mass = self.body.lengths, self.body.mass
        hips: Array = lengths["shank"] * np.cos(shin) + lengths["thigh"] * np.sin(thigh)
        legs = mass["shank"] + mass["thigh"]
        return hips * (self.stack.mass_kg + legs)

    def stack_moment_for(self, stance: Legs, x: Array, turned_kgm: Array) -> Array:
        """First moment of the stack about the hips that puts the whole over ``x``, kg m."""
        moment: Array = self.mass_kg * x - stance.forward - self.stack.mass_kg * stance.front.hip[0]
        return moment - turned_kgm

    def pelvis_most(self, shin: Array, thigh: Array) -> Array:
        """Pelvis lean (rad) at which the front hip runs out."""
        return self.limits.pelvis_most_rad(shin + 0.5 * np.pi - thigh, thigh)

    def moment_of(self, shin: Array, thigh: Array, line: Array) -> Array:
        """First moment of the stack about the hips at a trunk line, kg m."""
        pelvis, trunk = self.stack.split_line(line, self.pelvis_most(shin, thigh))
        return self.stack.moment_about_hips(pelvis, trunk)
