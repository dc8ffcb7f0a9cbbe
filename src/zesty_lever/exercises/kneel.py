"""Builds hinges on both knees: shanks flat on the floor, hips travelling back over them.

The knees stay where they are. Trunk lean is the depth; the thighs are solved so that the mass centre
stays over a chosen point between knees and insteps.
"""

from __future__ import annotations

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
from zesty_lever.frozen import dataclass
from zesty_lever.physics.contacts import Place, Support
from zesty_lever.physics.iterate import secant_root
from zesty_lever.physics.legs import Leg, rear_foot
from zesty_lever.physics.pose import Pose, assemble, leg_first_moment
from zesty_lever.physics.vectors import Array, mirrored, vector

# Height of the knee's centre over the floor when kneeling, at a stature of 1.75 m (assumption).
KNEE_HEIGHT_M = 0.05
LONGEST_STEP_RAD = 0.4
LEAST_THIGH_RAD = np.radians(15.0)


@dataclass(frozen=True)
class _Kneel(Rig):
    """A batch of stances on both knees; knees at x = 0, feet behind."""

    @property
    def half_stance(self) -> Array:
        half: Array = 0.5 * self.given["stance_m"]
        return half

    def shank_end(self) -> Array:
        """Instep contact behind the right knee, on the floor."""
        flat = rear_foot(
            self.body,
            vector(0.0 * self.half_stance, 0.0, self.half_stance),
            0.0 * self.half_stance,
            0.0 * self.half_stance,
            laces_down=True,
        )
        rise = flat.ankle[1] - self.body.scaled_m(KNEE_HEIGHT_M)
        reach = np.sqrt(self.body.lengths["shank"] ** 2 - rise**2)
        return vector(-reach - flat.ankle[0], 0.0 * reach, self.half_stance)

    def leg(self, thigh: Array) -> Leg:
        """Right leg with the thigh at an angle against level (90 deg upright, less: hips back)."""
        contact = self.shank_end() + 0.0 * thigh
        nothing = 0.0 * thigh
        foot = rear_foot(self.body, contact, nothing, nothing, laces_down=True)
        knee = vector(nothing, nothing + self.body.scaled_m(KNEE_HEIGHT_M), self.half_stance)
        length, aside = self.body.lengths["thigh"], 0.5 * self.body.lengths["hip_width"] - knee[2]
        flat = np.sqrt(length**2 - aside**2)
        hip = knee + vector(-flat * np.cos(thigh), flat * np.sin(thigh), aside)
        return Leg(foot, knee, hip, np.ones_like(nothing), nothing)

    def knee_share_x(self, share: Array) -> Array:
        """Where the mass centre lies when the knees carry this share, m."""
        back: Array = (1.0 - share) * self.shank_end()[0]
        return back

    def pelvis_most(self, thigh: Array) -> Array:
        """Pelvis lean at which the hips run out; the knees are bent by the thigh's own angle."""
        return self.limits.pelvis_most_rad(np.pi - thigh, thigh)

    def balanced_thigh(self, start: Array, line: Array, at_x: Array) -> tuple[Array, Flags]:
        """Thigh angle (rad) that puts the whole over ``at_x`` for a trunk line, and where it settled."""

        def ahead(thigh: Array) -> Array:
            leg = self.leg(thigh)
            pelvis, trunk = self.stack.split_line(line, self.pelvis_most(thigh))
            above = self.stack.moment_about_hips(pelvis, trunk) + self.stack.mass_kg * leg.hip[0]
            legs = 2.0 * leg_first_moment(self.body, leg)
            # The knees are at 0: lines turn about them.
            turned = self.turned_by_lines(leg, (pelvis, trunk), 0.0 * thigh)
            gap: Array = above + legs + turned - self.mass_kg * at_x
            return gap

        slope = self.stack.mass_kg * self.body.lengths["thigh"]
        return secant_root(ahead, start, slope, longest_step=LONGEST_STEP_RAD)


def build_poses(rig: Rig, free: str | None, progress: Array) -> Poses:
    """Upright on the knees, hips back and down, up again; ``free`` is ``thigh_deg`` or None."""
    kneel = _Kneel.of(rig)
    with np.errstate(invalid="ignore"):
        return _build(kneel, free, progress)


def _build(kneel: _Kneel, free: str | None, p: Array) -> Poses:
    given = kneel.given
    line = p * np.radians(given["trunk_deg"])
    upright = np.full_like(line, 0.5 * np.pi)
    share = given["knee_share"] + 0.0 * line
    guess = kneel.guess("thigh", upright)
    thigh, settled = kneel.balanced_thigh(guess, line, kneel.knee_share_x(share))
    roots = {"thigh": thigh}
    if free is None:
        deep = np.radians(given["thigh_deg"])
        thigh = np.where(p >= 1.0, deep, thigh + p * (deep - thigh[:, int(np.argmax(p))][:, None]))
    leg = kneel.leg(thigh)
    pelvis, trunk = kneel.stack.split_line(line, kneel.pelvis_most(thigh))
    pose = assemble(kneel.body, {"left": leg, "right": leg}, kneel.stack, pelvis, trunk)
    shank = -kneel.shank_end()[0]
    turned = kneel.turned_by_lines(leg, (pelvis, trunk), 0.0 * thigh)
    fraction = (pose.system_centre()[0] + turned / kneel.mass_kg) / shank + 1.0
    knee = vector(0.0 * shank, 0.0, kneel.half_stance)
    knee, instep = (np.broadcast_to(at, leg.hip.shape) for at in (knee, kneel.shank_end()))
    support = Support(
        "places",
        (
            Place(
                ("knee_left", "knee_right"), ("shank_left", "shank_right"), (mirrored(knee), knee)
            ),
            Place(
                ("instep_left", "instep_right"),
                ("foot_left", "foot_right"),
                (mirrored(instep), instep),
            ),
        ),
    )
    deepest = int(np.argmax(p))
    ends = {
        "thigh_deg": np.degrees(thigh[:, deepest]),
        "shin_deg": np.full(len(thigh), 90.0),
        "trunk_deg": np.degrees(pose.line_rad[:, deepest]),
    }
    failures, drawable = _failures(pose, thigh, fraction, settled)
    fraction = np.broadcast_to(fraction, drawable.shape)
    return Poses(pose, support, fraction, ends, drawable, failures, roots)


def _failures(
    pose: Pose, thigh: Array, fraction: Array, settled: Flags
) -> tuple[tuple[Failure, ...], Flags]:
    shape = pose.line_rad.shape
    nowhere = leans_nowhere(pose.line_rad) | np.isnan(thigh) | (thigh < LEAST_THIGH_RAD)
    nowhere = nowhere | (thigh > np.radians(110.0))
    failures = failures_of(
        shape,
        ("cannot-balance", "trunk_deg", nowhere),
        ("would-tip", "thigh_deg", (fraction < -SLACK) | (fraction > 1.0 + SLACK)),
        ("did-not-settle", "trunk_deg", ~settled),
    )
    drawable: Flags = ~np.broadcast_to(np.isnan(pose.line_rad) | np.isnan(thigh), shape)
    return failures, drawable
