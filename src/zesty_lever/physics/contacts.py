"""What the ground pushes back with: equilibrium of the whole body over its contacts.

Two point contacts without free moments balance a given wrench but for two things. The moment about
the line that joins them must vanish: so a pressure point moves (under the feet of a level stance both
move alike along X, elsewhere the last place moves sideways). And equal and opposite forces along that
line change nothing outside: a named rule settles this pair. One foot alone carries a free moment
about the vertical instead. An inclined bench's hook and pads share a one-sided load unequally.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from typing import Literal

import numpy as np

from zesty_lever.frozen import dataclass
from zesty_lever.physics.body import landmark
from zesty_lever.physics.forces import External, Pieces, Wrench, beyond_cuts_alone
from zesty_lever.physics.moments import balancing
from zesty_lever.physics.pose import Pose
from zesty_lever.physics.vectors import Array, cross, dot, in_rows, norm, summed, vector, widened

OTHER_RULE = {"vertical": "least-effort", "least-effort": "vertical"}
LEG_ROWS = slice(0, 6)
BOTH_FEET = ("foot_left", "foot_right")
ALONG_X = vector(1.0, 0.0, 0.0)
# How far the last place's pressure may slide sideways under a one-sided load, m (assumption).
MOST_SLIDE_M = 0.10
# Radius about which a foot's friction resists twisting, m (assumption).
TWIST_RADIUS_M = 0.07


@dataclass(frozen=True)
class Place:
    """One place where the body is held up: contact names, segments they carry, points ``(3, ...)`` m.

    Two names share its force equally.
    """

    names: tuple[str, ...]
    segments: tuple[str, ...]
    points: tuple[Array, ...]


@dataclass(frozen=True)
class Support:
    """Where the body is held up.

    ``kind``: ``foot`` (one place, one point), ``feet`` (left and right of a level stance, pressure
    moving along X as the wrench wants it), ``places`` (two of them; the last one's pressure moves
    sideways), ``hooked`` (ankles held by a hook that may pull, thighs on a smooth pad that pushes along
    ``push_along`` ``(3, ...)`` only).
    """

    kind: Literal["foot", "feet", "places", "hooked"]
    places: tuple[Place, ...]
    push_along: Array | None = None

    @property
    def names(self) -> tuple[str, ...]:
        """Every contact's name."""
        return tuple(name for place in self.places for name in place.names)

    @property
    def segments(self) -> tuple[str, ...]:
        """The segment that each contact carries."""
        return tuple(segment for place in self.places for segment in place.segments)


@dataclass(frozen=True)
class Contacts:
    """Contact forces: ``points`` and ``forces`` are ``(3, contacts, ...)``, m and N.

    ``pair_N`` is the body's own push along the line between the two places (for a level stance
    between the feet, + apart); ``share`` is the first place's part of the upward force;
    ``free_moment_Nm`` the twist about the vertical that one foot alone takes (else 0);
    ``moved_m`` how far the pressure has moved from where the pose put it.
    """

    names: tuple[str, ...]
    segments: tuple[str, ...]
    points: Array
    forces: Array
    pair_N: Array
    share: Array
    free_moment_Nm: Array
    moved_m: Array

    def external(self) -> External:
        """The same forces as a set of external forces."""
        couples = None
        if len(self.names) == 1:
            nothing = np.zeros_like(self.free_moment_Nm)
            couples = np.stack([nothing, self.free_moment_Nm, nothing])[:, None]
        return External(self.segments, self.points, self.forces, couples, names=self.names)

    def with_supports(self, supports: External) -> Contacts:
        """These contacts and further ones whose force is a setting: hands on a support, a seat."""
        if not supports.names:
            return self
        return replace(
            self,
            names=(*self.names, *supports.names),
            segments=(*self.segments, *supports.segments),
            points=np.concatenate([self.points, supports.points], axis=1),
            forces=np.concatenate([self.forces, supports.forces], axis=1),
        )


def solve_contacts(
    pose: Pose, loaded: Pieces, support: Support, rule: str, least_pair_N: Array | None = None
) -> Contacts:
    """Contact forces (N) that balance what is ``loaded`` on the pieces, the pair settled by ``rule``.

    ``vertical`` leaves the pair without horizontal part; ``least-effort`` takes the pair that
    minimises the sum of squared ankle, knee and hip moments of both legs, inside the friction cone
    of every contact (closed form: moments are linear in the pair). ``least_pair_N`` is that pair where it
    is known already (N, + apart): who caves pushes the floor no harder than who does not.
    """
    whole = loaded.whole
    if support.kind == "foot":
        return _one_foot(whole, support)
    if support.kind == "hooked":
        return _hooked(whole, support)
    centres, places, moved = _moved(whole, support)
    line = centres[1] - centres[0]
    turning = whole.moment - cross(centres[0], whole.force)
    on_second = cross(-turning, line) / dot(line, line)
    # Without horizontal pair: cancel the part along the line that has a horizontal component.
    flat = np.hypot(line[0], line[2])
    along = vector(line[0], 0.0, line[2]) / flat
    excess = (dot(on_second, along) + 0.5 * dot(whole.force, along)) / flat
    on_second = on_second - excess * line
    points, forces, pushes = _shared(whole, places, on_second, line / norm(line))
    pair = np.zeros_like(flat)
    if rule == "least-effort":
        own = _least_effort(pose, loaded, support.segments, points, forces, pushes)
        pair = own if least_pair_N is None else _held(least_pair_N, own, forces, pushes)
        forces = forces + pair * pushes
    first = summed(forces[1, row] for row in range(len(support.places[0].names)))
    return Contacts(
        support.names,
        support.segments,
        points,
        forces,
        -pair,
        first / _upward(whole),
        np.zeros_like(flat),
        moved,
    )


def _upward(whole: Wrench) -> Array:
    """The upward force that is needed, N; never nothing."""
    up: Array = np.where(np.abs(whole.force[1]) > 1e-9, -whole.force[1], 1.0)
    return up


def _one_foot(whole: Wrench, support: Support) -> Contacts:
    """One point under the wrench, and the twist about the vertical that is left over."""
    (place,) = support.places
    force = whole.force
    height = widened(place.points[0], force.shape)[1]
    x = (whole.moment[2] + height * force[0]) / force[1]
    z = (height * force[2] - whole.moment[0]) / force[1]
    point = vector(x, height, z)
    twist = -(whole.moment[1] - (z * force[0] - x * force[2]))
    nothing = np.zeros_like(height)
    moved = x - widened(place.points[0], force.shape)[0]
    return Contacts(
        place.names,
        place.segments,
        point[:, None],
        -force[:, None],
        nothing,
        nothing + 1.0,
        twist,
        moved,
    )


def _moved(whole: Wrench, support: Support) -> tuple[list[Array], list[list[Array]], Array]:
    """Centres and points of both places where no moment is left about their line, and how far they moved."""
    shape = whole.force.shape
    places = [[widened(p, shape) for p in place.points] for place in support.places]
    centres = [_middle(points) for points in places]
    line = centres[1] - centres[0]
    turning = whole.moment - cross(centres[0], whole.force)
    if support.kind == "feet":
        # Both along X by s: T . l - s (X x F) . l = 0.
        ahead = dot(turning, line) / dot(cross(_like(ALONG_X, shape), whole.force), line)
        shift = vector(ahead, 0.0, 0.0)
        return [c + shift for c in centres], [[p + shift for p in ps] for ps in places], ahead
    # The last place sideways by z: T . (l + z e) = 0.
    aside = -dot(turning, line) / np.where(np.abs(turning[2]) > 1e-12, turning[2], np.inf)
    shift = vector(0.0, 0.0, aside)
    centres[1] = centres[1] + shift
    places[1] = [p + shift for p in places[1]]
    return centres, places, aside


def _like(fixed: Array, shape: tuple[int, ...]) -> Array:
    return fixed.reshape(3, *([1] * (len(shape) - 1)))


def _middle(points: Sequence[Array]) -> Array:
    return points[0] if len(points) == 1 else 0.5 * (points[0] + points[1])


def _shared(
    whole: Wrench, places: list[list[Array]], on_second: Array, direction: Array
) -> tuple[Array, Array, Array]:
    """Points, forces and unit pushes of every contact; those of one place share alike."""
    on_first = -whole.force - on_second
    points, forces, pushes = [], [], []
    for where, force, sign in ((0, on_first, -1.0), (1, on_second, 1.0)):
        count = len(places[where])
        for point in places[where]:
            points.append(point)
            forces.append(force / count)
            pushes.append(sign * direction / count)
    return in_rows(points), in_rows(forces), in_rows(pushes)


def _hooked(whole: Wrench, support: Support) -> Contacts:
    """Hook and smooth pads; left and right share a one-sided load unequally.

    The pads' size follows from turning about the hook. What a one-sided load turns sideways about
    the pads' own axis is a pair between the pads; the rest a pair between the hooked ankles.
    """
    shape = whole.force.shape
    hook, pads = ([widened(p, shape) for p in place.points] for place in support.places)
    push = widened(support.push_along, shape) if support.push_along is not None else hook[0]
    centre = _middle(hook)
    line = _middle(pads) - centre
    turning = whole.moment - cross(centre, whole.force)
    turns = cross(line, push)[2]
    size = -turning[2] / np.where(np.abs(turns) > 1e-12, turns, np.inf)
    aside = vector(-push[1], push[0], 0.0)
    sideways = vector(turning[0], turning[1], 0.0)
    between_pads = -dot(sideways, aside) / (pads[1][2] - pads[0][2])
    between_hooks = dot(sideways, push) / (hook[1][2] - hook[0][2]) * aside
    on_hook = -0.5 * (whole.force + size * push)
    forces = [
        on_hook - between_hooks,
        on_hook + between_hooks,
        (0.5 * size - between_pads) * push,
        (0.5 * size + between_pads) * push,
    ]
    stacked = in_rows(forces)
    nothing = np.zeros_like(size)
    return Contacts(
        support.names,
        support.segments,
        in_rows([*hook, *pads]),
        stacked,
        nothing,
        (stacked[1, 0] + stacked[1, 1]) / _upward(whole),
        nothing,
        nothing,
    )


def _least_effort(
    pose: Pose,
    loaded: Pieces,
    segments: tuple[str, ...],
    points: Array,
    forces: Array,
    pushes: Array,
) -> Array:
    """Pair (N along ``pushes``) with the least summed squared leg moments, inside friction."""
    joints, shape = pose.joints, pose.pelvis_rad.shape
    if segments == BOTH_FEET:
        # A foot's force is beyond every cut of its own leg: ankle, knee and hip by turns of the sides.
        legs = joints[:, LEG_ROWS]
        at_zero = balancing(legs, Wrench(loaded.beyond_cuts.both[:, :, LEG_ROWS]))
        by_turns = (3, 3, 2, *shape)
        arms = legs.reshape(by_turns) - points[:, None]
        at_zero += cross(arms, forces[:, None]).reshape(at_zero.shape)
        a_newton = cross(arms, pushes[:, None]).reshape(at_zero.shape)
    else:
        cuts, _ = loaded.answered(External(segments, points, forces))
        at_zero = balancing(joints, cuts)[:, LEG_ROWS]
        pushed = beyond_cuts_alone(External(segments, points, pushes), shape)
        a_newton = balancing(joints, pushed)[:, LEG_ROWS]
    against = summed(dot(at_zero, a_newton))
    along = summed(dot(a_newton, a_newton))
    best = -against / np.where(along > 0.0, along, 1.0)
    low, high = _inside_friction(forces, pushes)
    inside: Array = np.minimum(np.maximum(best, np.minimum(low, 0.0)), np.maximum(high, 0.0))
    return inside


def _held(pair_N: Array, own: Array, forces: Array, pushes: Array) -> Array:
    """A pair that is known (N, + apart) along ``pushes``, inside friction; ``own`` where it is not a number."""
    low, high = _inside_friction(forces, pushes)
    inside = np.minimum(np.maximum(-pair_N, np.minimum(low, 0.0)), np.maximum(high, 0.0))
    held: Array = np.where(np.isfinite(inside), inside, own)
    return held


def _inside_friction(forces: Array, direction: Array) -> tuple[Array, Array]:
    """Range of the pair in which every contact's sideways force stays inside its friction cone."""
    grip = landmark("friction_coefficient") ** 2
    a = direction[0] ** 2 + direction[2] ** 2 - grip * direction[1] ** 2
    b = forces[0] * direction[0] + forces[2] * direction[2] - grip * forces[1] * direction[1]
    c = forces[0] ** 2 + forces[2] ** 2 - grip * forces[1] ** 2
    root = np.sqrt(np.maximum(b * b - a * c, 0.0))
    # What can't slip at any size of the pair (a <= 0) sets no end.
    slips = a > 0.0
    safe = np.where(np.abs(a) > 1e-12, a, np.inf)
    low = np.maximum.reduce(np.where(slips, (-b - root) / safe, -np.inf), axis=0)
    high = np.minimum.reduce(np.where(slips, (-b + root) / safe, np.inf), axis=0)
    return low, high
