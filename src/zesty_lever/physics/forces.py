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
PIECES = (*(f"{part}_{side}" for side in SIDES for part in LEG_PARTS), "above", "pelvis")
PIECE_OF = {
    **{segment: PIECES.index("above") for segment in SEGMENTS},
    **{piece: row for row, piece in enumerate(PIECES)},
}


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
    """Resultant force (N) and moment about the origin (N m), each ``(3, ...)``."""

    force: Array
    moment: Array

    def with_other(self, other: Wrench) -> Wrench:
        """Both together."""
        return Wrench(self.force + other.force, self.moment + other.moment)


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
    force, moment = np.zeros((3, len(PIECES), *shape)), np.zeros((3, len(PIECES), *shape))
    rows = [PIECE_OF[segment] for segment in given.segments]
    if given.upright:
        # Plumb forces: (x, y, z) x (0, f, 0) = (-z f, 0, x f).
        up = given.forces[1]
        about_x, about_z = given.points[2] * up, given.points[0] * up
        for entry, row in enumerate(rows):
            force[1, row] += up[entry]
            moment[0, row] -= about_x[entry]
            moment[2, row] += about_z[entry]
        return Wrench(force, moment)
    turning = given.moments()
    for entry, row in enumerate(rows):
        force[:, row] += given.forces[:, entry]
        moment[:, row] += turning[:, entry]
    return Wrench(force, moment)


def beyond_cuts(pieces: Wrench) -> Wrench:
    """What acts beyond the cut at each joint, ``(3, 7, ...)``, about the origin."""
    found = []
    for parts in (pieces.force, pieces.moment):
        cuts = np.empty((3, len(JOINTS), *parts.shape[2:]))
        # Feet, then with the shanks, then with the thighs, both sides at once.
        reached = parts[:, [0, 3]]
        cuts[:, 0:2] = reached
        for level in (1, 2):
            reached += parts[:, [level, 3 + level]]
            cuts[:, 2 * level : 2 * level + 2] = reached
        cuts[:, -1] = parts[:, PIECES.index("above")]
        found.append(cuts)
    return Wrench(*found)


def on_whole(pieces: Wrench) -> Wrench:
    """What acts on the whole body, ``(3, ...)``, about the origin."""
    rows = range(len(PIECES))
    return Wrench(
        summed(pieces.force[:, row] for row in rows),
        summed(pieces.moment[:, row] for row in rows),
    )
