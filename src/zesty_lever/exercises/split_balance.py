"""How far a split stance is off balance at angles and a sway that a search tries."""

from __future__ import annotations

import numpy as np

from zesty_lever.exercises.split_stance import Legs, SplitStance
from zesty_lever.physics.leg_trials import LegTrial, ReachTrial
from zesty_lever.physics.legs import Foot, hang_leg
from zesty_lever.physics.vectors import Array, vector


class Balance:
    """Off balance ahead and to the right, kg m, for a search that asks again and again.

    Where no lines are balanced here it works on moments alone, without points in space.
    """

    def __init__(self, split: SplitStance, foot: Foot, track: Array) -> None:
        self._split, self._foot, self._track = split, foot, track
        self._outward_m: Array | None = None
        if split.lines:
            return
        body = split.body
        self._half = 0.5 * body.lengths["hip_width"]
        self._front = LegTrial(body, foot, split.toe_out, track)
        ankle, self._knee, self._hip = split.leg_weights
        foot_kg = body.mass["foot"]
        feet = foot_kg * foot.centre + ankle * foot.ankle
        self._feet_x, self._feet_z = feet[0], feet[2]
        if split.rear == "none":
            given, nowhere = split.given, vector(0.0 * self._half, 0.0, 0.0)
            lean, bend = (np.radians(given[k]) for k in ("free_thigh_deg", "free_knee_deg"))
            # It hangs from the hip: what it weighs moves with it.
            hanging = split.leg_moment(hang_leg(body, nowhere, lean, bend))
            self._feet_x, self._feet_z = self._feet_x + hanging[0], self._feet_z - hanging[2]
            self._leg_kg = foot_kg + ankle + self._knee + self._hip
        else:
            held, turned = split.rear_foot
            self._reach = ReachTrial(body, held, turned)
            rear = foot_kg * held.centre + ankle * held.ankle
            self._feet_x, self._feet_z = self._feet_x + rear[0], self._feet_z - rear[2]

    def gaps(
        self, angles: tuple[Array, Array, Array], sway: Array, goal: Array
    ) -> tuple[Array, Array]:
        """How far the mass lies ahead of a point and to the right of it; ``angles`` are shin, thigh, trunk line (rad)."""
        split = self._split
        shin, thigh, line = angles
        if split.lines:
            stance = self._stance(shin, thigh, sway)
            turned, rolled = split.lines_turn(self._foot, stance, angles)
            forward, aside, hip_x = stance.forward, stance.aside, stance.front.hip[0]
        else:
            turned, rolled = split.turned_kgm, split.rolled_kgm
            forward, aside, hip_x = self._legs(shin, thigh, sway)
        needed = split.mass_kg * goal[0] - forward - split.stack.mass_kg * hip_x - turned
        right: Array = aside + split.stack.mass_kg * sway + rolled - split.mass_kg * goal[2]
        return split.moment_of(shin, thigh, line) - needed, right

    def right(self, angles: tuple[Array, Array, Array], sway: Array, goal_z: Array) -> Array:
        """How far the mass lies to the right of a place."""
        split = self._split
        shin, thigh, _ = angles
        if split.lines:
            stance = self._stance(shin, thigh, sway)
            aside, rolled = stance.aside, split.lines_turn(self._foot, stance, angles)[1]
        else:
            aside, rolled = self._legs(shin, thigh, sway)[1], split.rolled_kgm
        off: Array = aside + split.stack.mass_kg * sway + rolled - split.mass_kg * goal_z
        return off

    def _stance(self, shin: Array, thigh: Array, sway: Array) -> Legs:
        stance = self._split.legs(self._foot, shin, thigh, self._track, sway, self._outward_m)
        # The last guess's sideways term is a good first guess for the next.
        self._outward_m = np.asarray(stance.front.outward_m)
        return stance

    def _legs(self, shin: Array, thigh: Array, sway: Array) -> tuple[Array, Array, Array]:
        """First moments of both legs ahead and to the right (kg m), and the hips ahead (m)."""
        out, other_out = self._half + sway, self._half - sway
        knee, hip = self._front.places(shin, thigh, out)
        if self._split.rear == "none":
            ahead = self._knee * knee[0] + (self._hip + self._leg_kg) * hip[0]
            aside = self._knee * knee[2] + self._hip * out - self._leg_kg * other_out
        else:
            (knee_x, knee_z), (hip_x, hip_z) = self._reach.knee_and_hip(*hip, other_out)
            ahead = self._knee * (knee[0] + knee_x) + self._hip * (hip[0] + hip_x)
            aside = self._knee * (knee[2] - knee_z) + self._hip * (out - hip_z)
        return ahead + self._feet_x, aside + self._feet_z, hip[0]
