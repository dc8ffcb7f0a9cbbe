"""A level stance at given angles: its feet and legs, and how far it is off balance for a search."""

from __future__ import annotations

import numpy as np

from zesty_lever.exercises.builder import Rig
from zesty_lever.frozen import dataclass, lazy
from zesty_lever.physics.iterate import secant_root
from zesty_lever.physics.leg_trials import LegTrial
from zesty_lever.physics.legs import Foot, Leg, place_leg
from zesty_lever.physics.pose import leg_first_moment
from zesty_lever.physics.vectors import Array

SIDED = ("hip_shift_m", "left_track_m", "left_ahead_m")


@dataclass(frozen=True)
class LevelStance(Rig):
    """A batch of level stances."""

    @property
    def sided(self) -> bool:
        """Whether any case sets left and right apart."""
        return any(np.any(self.given[k] != 0.0) for k in SIDED if k in self.given)

    def stand_on(self, lift_deg: Array) -> Foot:
        """The right foot at half the stance, its heel lifted so far."""
        return self.foot(lift_deg, 0.5 * self.given["stance_m"])

    @lazy
    def flat_foot(self) -> Foot:
        """The right foot with its heel down."""
        return self.stand_on(np.zeros_like(self.toe_out))

    def bottom_foot(self) -> Foot:
        """The right foot at the bottom."""
        lift = self.given["heel_lift_deg"]
        return self.stand_on(lift) if lift.any() else self.flat_foot

    def leg(
        self, foot: Foot, shin: Array, thigh: Array, track_m: Array, outward_m: Array | None = None
    ) -> Leg:
        """The right leg on a foot at side-view angles (rad); with a guess for a search, see `place_leg`."""
        return place_leg(
            self.body,
            foot,
            shin,
            thigh,
            self.toe_out,
            track_m,
            start_outward_m=outward_m,
            searching=outward_m is not None,
        )

    def stack_moment_for(self, leg: Leg, pressure_x: Array, turned_kgm: Array) -> Array:
        """First moment of the stack about the hips that puts the whole over ``pressure_x``, kg m.

        ``turned_kgm`` is what lines turn forward about that point.
        """
        legs = 2.0 * leg_first_moment(self.body, leg)
        moment: Array = self.mass_kg * pressure_x - legs - self.stack.mass_kg * leg.hip[0]
        return moment - turned_kgm

    def lean_over(self, leg: Leg, pressure_x: Array, most: Array) -> tuple[Array, Array]:
        """Pelvis and trunk lean (rad) that put the whole over ``pressure_x`` on a given leg."""

        def leans(turned: Array) -> tuple[Array, Array]:
            return self.stack.lean_for(self.stack_moment_for(leg, pressure_x, turned), most)

        if not self.lines:
            return leans(self.turned_kgm)

        def missed(turned: Array) -> Array:
            gap: Array = self.turned_by_lines(leg, leans(turned), pressure_x) - turned
            return gap

        return leans(secant_root(missed, self.turned_kgm + 0.0 * pressure_x, -1.0)[0])

    def pelvis_most(self, shin: Array, thigh: Array) -> Array:
        """Pelvis lean (rad) at which the hips run out."""
        return self.limits.pelvis_most_rad(shin + 0.5 * np.pi - thigh, thigh)

    def overshoot(self, leg: Leg, shin: Array, thigh: Array, line: Array, at_x: Array) -> Array:
        """How far the mass lies ahead of ``at_x``, kg m, for a leg at given angles."""
        pelvis, trunk = self.stack.split_line(line, self.pelvis_most(shin, thigh))
        turned = self.turned_by_lines(leg, (pelvis, trunk), at_x)
        needed = self.stack_moment_for(leg, at_x, turned)
        ahead: Array = self.stack.moment_about_hips(pelvis, trunk) - needed
        return ahead

    def balance_on(self, foot: Foot, track: Array, at_x: Array) -> Balance:
        """How far the mass lies ahead of ``at_x`` at angles that a search tries."""
        return Balance(self, foot, track, at_x)

    def falls_at(self, foot: Foot, shin: Array, thigh: Array, line: Array) -> Array:
        """Where along the foot the pressure falls for given angles."""
        leg = self.leg(foot, shin, thigh, self.given["knee_track_m"])
        length = self.body.lengths["foot"] * np.cos(self.toe_out)

        def ahead(fraction: Array) -> Array:
            at_x = foot.pressure_point(fraction)[0]
            return self.overshoot(leg, shin, thigh, line, at_x) / self.mass_kg

        start = self.given["pressure_fraction"]
        if not self.lines:
            return start + ahead(start) / length
        # What lines turn depends on where the pressure falls.
        return secant_root(ahead, start, -length)[0]


class Balance:
    """How far the mass lies ahead of a point, kg m, by shin, thigh and hip-shoulder line (rad), for a search."""

    def __init__(self, squat: LevelStance, foot: Foot, track: Array, at_x: Array) -> None:
        self._squat, self._foot, self._track, self._at_x = squat, foot, track, at_x
        self._outward_m: Array | None = None
        if squat.lines:
            return
        mass, centre = squat.body.mass, squat.body.centre
        self._trial = LegTrial(squat.body, foot, squat.toe_out, track)
        self._at_knee = 2.0 * (
            mass["shank"] * (1.0 - centre["shank"]) + mass["thigh"] * centre["thigh"]
        )
        self._at_hip = 2.0 * mass["thigh"] * (1.0 - centre["thigh"]) + squat.stack.mass_kg
        ankle_x = foot.ankle[0]
        below = 2.0 * (mass["foot"] * foot.centre[0] + mass["shank"] * ankle_x)
        still = below + (2.0 * mass["thigh"] + squat.stack.mass_kg) * ankle_x
        self._still = still + squat.turned_kgm - squat.mass_kg * at_x

    def __call__(
        self, shin: Array, thigh: Array, line: Array, pelvis_most: Array | None = None
    ) -> Array:
        """The mass ahead, kg m; ``pelvis_most`` (rad) where it is known already."""
        squat = self._squat
        if squat.lines:
            return self._with_lines(shin, thigh, line)
        knee, hip = self._trial.ahead(shin, thigh)
        most = squat.pelvis_most(shin, thigh) if pelvis_most is None else pelvis_most
        above = squat.stack.moment_about_hips(*squat.stack.split_line(line, most))
        gap: Array = above + self._still + self._at_knee * knee + self._at_hip * hip
        return gap

    def _with_lines(self, shin: Array, thigh: Array, line: Array) -> Array:
        shape = np.broadcast_shapes(shin.shape, thigh.shape)
        # The last guess's sideways term is a good first guess for this one.
        start = self._outward_m
        if start is not None and start.shape != shape:
            start = None
        leg = self._squat.leg(self._foot, shin, thigh, self._track, start)
        self._outward_m = np.asarray(leg.outward_m)
        return self._squat.overshoot(leg, shin, thigh, line, self._at_x)
