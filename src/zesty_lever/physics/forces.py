"""Forces on the body: weights, what lines pull with, what the ground answers; and their resultants."""

from __future__ import annotations

import numpy as np

from zesty_lever.frozen import dataclass
from zesty_lever.joints import JOINTS, SIDES
from zesty_lever.physics.body import SEGMENTS
from zesty_lever.physics.pose import Pose
from zesty_lever.physics.vectors import Array, cross, summed

GRAVITY_M_S2 = 9.80665
LEG_PARTS = ("foot", "shank", "thigh")
# Pieces that the cuts leave: every cut takes away one of them or a few in a row.
PIECES = (*(f"{part}_{side}" for part in LEG_PARTS for side in SIDES), "above", "pelvis")
ABOVE = PIECES.index("above")
PIECE_OF = {
    **dict.fromkeys(SEGMENTS, ABOVE),
    **{piece: row for row, piece in enumerate(PIECES)},
}
# The order in which pieces are added up to the whole.
BY_SIDE = tuple(
    PIECES.index(piece)
    for piece in (*(f"{part}_{side}" for side in SIDES for part in LEG_PARTS), "above", "pelvis")
)


@dataclass(frozen=True)
class External:
    """Forces on the body: ``points`` and ``forces`` ``(3, n, ...)``, and the segment each acts on.

    ``names`` say what they are (empty: not told). ``couples`` ``(3, k, ...)`` (N m) are moments
    without force that go with the first ``k`` of them: the rotational inertia of segments, the twist
    that one foot can take. ``upright`` says that all forces are plumb (weights), which needs a third
    of the arithmetic.
    """

    segments: tuple[str, ...]
    points: Array
    forces: Array
    couples: Array | None = None
    upright: bool = False
    names: tuple[str, ...] = ()

    def joined(self, other: External) -> External:
        """These forces and others, in this order; only these may have couples."""
        return External(
            (*self.segments, *other.segments),
            np.concatenate([self.points, other.points], axis=1),
            np.concatenate([self.forces, other.forces], axis=1),
            self.couples,
            names=(*self.names, *other.names),
        )

    def moments(self) -> Array:
        """Moment of every force about the origin with the couples, ``(3, n, ...)`` N m."""
        turning = cross(self.points, self.forces)
        if self.couples is not None:
            turning[:, : self.couples.shape[1]] += self.couples
        return turning


@dataclass(frozen=True)
class Wrench:
    """Resultant force (N) and moment about the origin (N m), each ``(3, ...)``: ``both``, ``(2, 3, ...)``."""

    both: Array

    @property
    def force(self) -> Array:
        """The force, ``(3, ...)`` N."""
        part: Array = self.both[0]
        return part

    @property
    def moment(self) -> Array:
        """The moment, ``(3, ...)`` N m."""
        part: Array = self.both[1]
        return part

    def with_other(self, other: Wrench) -> Wrench:
        """Both together."""
        return Wrench(self.both + other.both)


def gravity_on(pose: Pose) -> External:
    """Weights of all segments and loads."""
    points = np.concatenate([pose.centres, pose.load_points], axis=1)
    forces = np.zeros_like(points)
    forces[1] = -GRAVITY_M_S2 * np.concatenate([pose.masses, pose.load_masses])
    return External(
        (*SEGMENTS, *pose.load_segments),
        points,
        forces,
        upright=True,
        names=(*SEGMENTS, *pose.load_names),
    )


def on_pieces(given: External, shape: tuple[int, ...]) -> Wrench:
    """Resultant and moment about the origin on every piece, ``(3, 8, ...)``, added in a fixed order.

    ``shape`` is that of the pose axes.
    """
    both = np.zeros((2, 3, len(PIECES), *shape))
    if given.upright:
        # Plumb forces: (x, y, z) x (0, f, 0) = (-z f, 0, x f).
        up = given.forces[1]
        acting = np.empty((3, *up.shape))
        acting[0] = up
        acting[1] = -(given.points[2] * up)
        acting[2] = given.points[0] * up
        sums = np.zeros((3, len(PIECES), *shape))
        _add_up(sums, acting, given.segments)
        both[0, 1], both[1, 0], both[1, 2] = sums
        return Wrench(both)
    turning = given.moments()
    acting = np.empty((6, *turning.shape[1:]))
    acting[:3], acting[3:] = given.forces, turning
    _add_up(both.reshape(6, len(PIECES), *shape), acting, given.segments)
    return Wrench(both)


def _add_up(sums: Array, acting: Array, segments: tuple[str, ...]) -> None:
    """Add what acts on segments, ``(kinds, entries, ...)``, to its pieces' sums of nothing, entry by entry."""
    begun: set[int] = set()
    for entry, segment in enumerate(segments):
        row = PIECE_OF[segment]
        if row in begun:
            sums[:, row] += acting[:, entry]
        else:
            sums[:, row] = acting[:, entry]
            begun.add(row)


def beyond_cuts(pieces: Wrench) -> Wrench:
    """What acts beyond the cut at each joint, ``(3, 7, ...)``, about the origin."""
    # Feet, then with the shanks, then with the thighs, both sides at once; at last what is above.
    cuts = pieces.both[:, :, : len(JOINTS)].copy()
    cuts[:, :, 2:4] += cuts[:, :, 0:2]
    cuts[:, :, 4:6] += cuts[:, :, 2:4]
    return Wrench(cuts)


def on_whole(pieces: Wrench) -> Wrench:
    """What acts on the whole body, ``(3, ...)``, about the origin."""
    return Wrench(summed(pieces.both[:, :, row] for row in BY_SIDE))
