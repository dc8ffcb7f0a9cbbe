"""Forces on the body: weights, what lines pull with, what the ground answers; and their resultants."""

from __future__ import annotations

import numpy as np

from zesty_lever.frozen import dataclass, later, lazy
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
# Rows of the cuts that a piece lies beyond: a foot of its leg's ankle, knee and hip; the pelvis of none.
CUTS_OF = {
    **{
        f"{part}_{side}": slice(2 * row + column, 6, 2)
        for row, part in enumerate(LEG_PARTS)
        for column, side in enumerate(SIDES)
    },
    "above": slice(6, 7),
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
    that one foot can take. ``plumb`` ``(n, ...)`` are the forces up where all are plumb (weights), which needs a
    third of the arithmetic.
    """

    segments: tuple[str, ...]
    points: Array
    forces: Array
    couples: Array | None = None
    plumb: Array | None = None
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


@dataclass(frozen=True)
class Pieces(Wrench):
    """What acts on every piece, ``both`` is ``(2, 3, 8, ...)``."""

    @lazy
    def beyond_cuts(self) -> Wrench:
        """What acts beyond the cut at each joint, ``(3, 7, ...)``, about the origin."""
        # Feet, then with the shanks, then with the thighs, both sides at once; at last what is above.
        cuts = self.both[:, :, : len(JOINTS)].copy()
        cuts[:, :, 2:4] += cuts[:, :, 0:2]
        cuts[:, :, 4:6] += cuts[:, :, 2:4]
        return Wrench(cuts)

    @lazy
    def whole(self) -> Wrench:
        """What acts on the whole body, ``(3, ...)``, about the origin."""
        return Wrench(summed(self.both[:, :, row] for row in BY_SIDE))

    def answered(self, given: External) -> tuple[Wrench, Wrench]:
        """`beyond_cuts` and `whole` with what the ground answers."""
        whole, acting = self.whole.both, _acting(given)
        for entry in range(acting.shape[2]):
            whole = whole + acting[:, :, entry]
        return _with_acting(self.beyond_cuts.both.copy(), acting, given.segments), Wrench(whole)


def beyond_cuts_alone(given: External, shape: tuple[int, ...]) -> Wrench:
    """What a few forces do beyond the cuts, nothing else acting; ``shape`` is that of the pose axes."""
    return _with_acting(np.zeros((2, 3, len(JOINTS), *shape)), _acting(given), given.segments)


def _with_acting(cuts: Array, acting: Array, segments: tuple[str, ...]) -> Wrench:
    """Add what acts on segments to every cut that they lie beyond."""
    for entry, segment in enumerate(segments):
        rows = CUTS_OF.get(PIECES[PIECE_OF[segment]])
        if rows is not None:
            cuts[:, :, rows] += acting[:, :, entry : entry + 1]
    return Wrench(cuts)


def _acting(given: External) -> Array:
    """Every force and its moment about the origin, ``(2, 3, n, ...)``."""
    turning = given.moments()
    acting = np.empty((2, *turning.shape))
    acting[0], acting[1] = given.forces, turning
    return acting


def gravity_on(pose: Pose) -> External:
    """Weights of all segments and loads."""
    plumb = -GRAVITY_M_S2 * pose.weighing

    def forces(_: str) -> Array:
        found = np.zeros_like(pose.weighed)
        found[1] = plumb
        return found

    return later(
        External,
        forces,
        segments=(*SEGMENTS, *pose.load_segments),
        points=pose.weighed,
        couples=None,
        plumb=plumb,
        names=(*SEGMENTS, *pose.load_names),
    )


def on_pieces(given: External, shape: tuple[int, ...]) -> Pieces:
    """Resultant and moment about the origin on every piece, ``(3, 8, ...)``, added in a fixed order.

    ``shape`` is that of the pose axes.
    """
    both = np.zeros((2, 3, len(PIECES), *shape))
    sums = both.reshape(6, len(PIECES), *shape)
    if given.plumb is not None:
        # Plumb forces: (x, y, z) x (0, f, 0) = (-z f, 0, x f): of the six only the force up and two moments.
        up = given.plumb
        acting = np.empty((3, *up.shape))
        acting[0] = up
        np.negative(np.multiply(given.points[2], up, out=acting[1]), out=acting[1])
        np.multiply(given.points[0], up, out=acting[2])
        _add_up(sums[1::2], acting, given.segments)
    else:
        acting = _acting(given)
        _add_up(sums, acting.reshape(6, *acting.shape[2:]), given.segments)
    return Pieces(both)


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
