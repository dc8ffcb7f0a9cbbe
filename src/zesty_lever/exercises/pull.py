"""Builds pulls from the floor: the bar's height closes the chain at the bottom.

Bar in front of the shins: it lies over a point of the foot, the shin touches it, straight arms and
the shoulders' lead over it place the shoulders, and the hips go where thigh and trunk meet. The
pressure point is then reported, not imposed. Handles at the sides: the shin is chosen, and thigh and
trunk follow from the handles' height and balance.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

import numpy as np

from zesty_lever.exercises.builder import Poses, Rig
from zesty_lever.exercises.level import Bottom, follow_path
from zesty_lever.exercises.level_stance import LevelStance
from zesty_lever.frozen import dataclass
from zesty_lever.physics.iterate import broyden_pair, root_by_looks
from zesty_lever.physics.vectors import Array, norm
from zesty_lever.tables import full_disc_radius_m

BAR_RADIUS_M = 0.014
SHIN_FRONT_M = 0.025
# A last step below this ends the search for thigh and line, rad and m.
CHAIN_TOLERANCE = 1e-11


@dataclass(frozen=True)
class _Pull(LevelStance):
    """A batch of floor pulls."""

    def arm_drop(self, lead_m: Array) -> Array:
        """Height of the shoulder over the hand for straight arms, m."""
        hand = self.stack.arm.hand
        drop: Array = np.sqrt(norm(hand) ** 2 - hand[2] ** 2 - lead_m**2)
        return drop


def build_poses(rig: Rig, free: str | None, progress: Array) -> Poses:
    """Bottom on the floor, then up to standing; ``free`` is None. See `level.build_poses`."""
    flat = {"heel_lift_deg": np.zeros_like(rig.toe_out)}
    whole = _Pull.of(rig, given={**rig.given, **flat})
    _ = whole.flat_foot  # the same at every moment
    pull = whole.at(int(np.argmax(progress)))
    with np.errstate(invalid="ignore"):
        if pull.options.handles:
            at_bottom, hands = _handles(pull), np.zeros_like(pull.toe_out)
        else:
            at_bottom, hands = _bar_on_shins(pull), -pull.given["shoulder_lead_m"]
        given: Mapping[str, Array] = {**pull.given, "hands_ahead_m": hands}
        return follow_path(replace(whole, given=given), at_bottom, free, progress)


def _bar_on_shins(pull: _Pull) -> Bottom:
    """The bottom with the bar against the shins."""
    given, body = pull.given, pull.body
    foot = pull.flat_foot
    bar_x, bar_y = foot.pressure_point(given["bar_fraction"])[0], given["bar_height_m"]
    touching = bar_x - BAR_RADIUS_M - body.scaled_m(SHIN_FRONT_M)
    # Below a full disc's height the shin keeps the lean it has there and the bar lies clear of it.
    shin = np.arctan2(
        touching - foot.ankle[0], np.maximum(bar_y, full_disc_radius_m()) - foot.ankle[1]
    )
    lead = given["shoulder_lead_m"]
    shoulder = (bar_x + lead, bar_y + pull.arm_drop(lead))

    def lean(thigh: Array, line_m: Array) -> tuple[Array, Array]:
        """Thigh and hip-shoulder line (rad) where hips and shoulders are so far apart."""
        leg = pull.leg(foot, shin, thigh, given["knee_track_m"])
        flat = np.sqrt(np.maximum(body.lengths["thigh"] ** 2 - (leg.hip[2] - leg.knee[2]) ** 2, 0))
        hip = _meet((leg.knee[0], leg.knee[1]), flat, shoulder, line_m)
        line = np.arctan2(shoulder[0] - hip[0], shoulder[1] - hip[1])
        return np.arctan2(hip[1] - leg.knee[1], leg.knee[0] - hip[0]), line

    def missed(thigh: Array, line_m: Array) -> tuple[Array, Array]:
        # The side-view thigh depends on how far out the knee is, which depends on the thigh; and
        # a rounding back brings hips and shoulders a little closer.
        found, line = lean(thigh, line_m)
        leans = pull.stack.split_line(line, pull.pelvis_most(shin, found))
        return found - thigh, pull.stack.line_length(*leans) - line_m

    start = (np.full_like(shin, 0.3), body.lengths["hip_to_shoulder"] + 0.0 * shin)
    fully = (-1.0 + 0.0 * shin, -1.0 + 0.0 * shin)
    thigh, line_m, _ = broyden_pair(
        missed, start, fully, longest_steps=(np.inf, np.inf), tolerance=CHAIN_TOLERANCE
    )
    _, line = lean(thigh, line_m)
    hands = replace(pull, stack=pull.restack(-lead, pull.up_share))
    return Bottom(shin, thigh, hands.falls_at(foot, shin, thigh, line), line)


def _meet(
    knee: tuple[Array, Array], thigh_m: Array, shoulder: tuple[Array, Array], line_m: Array
) -> tuple[Array, Array]:
    """The hip: where the circles about knee and shoulder meet, behind the line between them."""
    dx, dy = shoulder[0] - knee[0], shoulder[1] - knee[1]
    distance = np.hypot(dx, dy)
    along = (thigh_m**2 - line_m**2 + distance**2) / (2.0 * distance)
    aside = np.sqrt(thigh_m**2 - along**2)
    return (
        knee[0] + (along * dx - aside * dy) / distance,
        knee[1] + (along * dy + aside * dx) / distance,
    )


def _handles(pull: _Pull) -> Bottom:
    """The bottom with handles at the sides."""
    given = pull.given
    foot = pull.flat_foot
    shin, fraction = np.radians(given["shin_deg"]), given["pressure_fraction"]
    at_x = foot.pressure_point(fraction)[0]
    track = given["knee_track_m"]
    reach = pull.arm_drop(np.zeros_like(shin)) + given["bar_height_m"]

    def lean(thigh: Array) -> tuple[Array, Array, Array]:
        leg = pull.leg(foot, shin, thigh, track)
        most = pull.pelvis_most(shin, thigh)
        pelvis, trunk = pull.lean_over(leg, at_x, most)
        return pelvis, trunk, leg.hip[1]

    def too_high(thigh: Array) -> Array:
        pelvis, trunk, hip_y = lean(thigh)
        return hip_y + pull.stack.shoulder_height(pelvis, trunk) - reach

    ends = (np.full_like(shin, np.radians(-15.0)), np.full_like(shin, np.radians(80.0)))
    thigh = root_by_looks(too_high, *ends, tolerance=1e-11)
    pelvis, trunk, _ = lean(thigh)
    return Bottom(shin, thigh, fraction + 0.0 * shin, pull.stack.line_of(pelvis, trunk))
