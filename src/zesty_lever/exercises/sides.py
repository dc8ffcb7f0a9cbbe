"""Left and right set apart on a level stance: a sideways shift, one knee caving, one foot ahead.

The hips stay where the even pose has them in the side view (or come down as far as the longer reach
asks); each leg then reaches its own hip. The mass centre lies over the line between both pressure
points, so the trunk balances over the point of that line that the sideways shift picks.
"""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from zesty_lever.exercises.builder import Rig, column_or
from zesty_lever.frozen import dataclass
from zesty_lever.physics.legs import Foot, Leg, reach_leg
from zesty_lever.physics.pose import leg_centres
from zesty_lever.physics.vectors import Array, mirrored, vector

# A leg straighter than this share of its length has no room to reach further.
STRAIGHTEST = 1.0 - 1e-9


@dataclass(frozen=True)
class Apart:
    """Both legs, the left foot's pressure point, the pelvis's shift (m, + right)."""

    legs: Mapping[str, Leg]
    on_left: Array
    shift: Array
    reach_short_m: Array


def set_apart(rig: Rig, even: Leg, foot: Foot, pressure: Array, p: Array) -> tuple[Apart, Array]:
    """Take an even pose apart, and the stack's first moment about the hips that balances it, kg m.

    ``pressure`` is the right foot's point; ``p`` the progress.
    """
    body, given = rig.body, rig.given
    like = even.hip[0] + 0.0 * p
    shift = p * column_or(given, "hip_shift_m", 0.0, like)
    ahead = column_or(given, "left_ahead_m", 0.0, like)
    track = p * given["knee_track_m"] + 0.0 * like
    half = 0.5 * body.lengths["hip_width"]
    moved = vector(ahead, 0.0 * ahead, 0.0 * ahead)
    other_foot = foot.moved(moved)
    most = STRAIGHTEST * (body.lengths["shank"] + body.lengths["thigh"])
    height = even.hip[1] + 0.0 * like
    for standing, out in ((foot, half + shift), (other_foot, half - shift)):
        flat = (even.hip[0] - standing.ankle[0]) ** 2 + (out - standing.ankle[2]) ** 2
        height = np.minimum(height, standing.ankle[1] + np.sqrt(np.maximum(most**2 - flat, 0.0)))
    right = reach_leg(
        body, foot, vector(even.hip[0], height, half + shift), rig.toe_out + 0.0 * like, track
    )
    left_track = track + p * column_or(given, "left_track_m", 0.0, like)
    left = reach_leg(
        body,
        other_foot,
        vector(even.hip[0], height, half - shift),
        rig.toe_out + 0.0 * like,
        left_track,
    )
    along, aside = 0.0 * like, rig.stack.mass_kg * shift
    for leg, side in ((right, 1.0), (left, -1.0)):
        for part, centre in leg_centres(body, leg).items():
            along = along + body.mass[part] * centre[0]
            aside = aside + body.mass[part] * side * centre[2]
    on_left = mirrored(pressure + 0.0 * moved) + moved
    right_share = (aside / rig.mass_kg - on_left[2]) / (pressure[2] - on_left[2])
    over_x = right_share * pressure[0] + (1.0 - right_share) * on_left[0]
    moment = rig.mass_kg * over_x - along - rig.stack.mass_kg * even.hip[0] - rig.turned_kgm
    short = np.maximum(right.reach_short_m, left.reach_short_m)
    return Apart({"left": left, "right": right}, on_left, shift, short), moment
