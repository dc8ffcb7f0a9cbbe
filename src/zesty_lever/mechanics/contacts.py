"""What the ground pushes back with: equilibrium of the whole body over its contacts.

Point contacts without free moments balance a given wrench except for one scalar: equal and
opposite forces along the line that joins two pressure points. A named rule settles it.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from zesty_lever.body import landmark
from zesty_lever.mechanics.inverse import External, Wrench, joints_of, net_moments
from zesty_lever.motion.pose import JOINTS, Pose
from zesty_lever.vectors import Array, cross, dot, norm, vector, widened

OTHER_RULE = {"vertical": "least-effort", "least-effort": "vertical"}
LEG_ROWS = [row for row, joint in enumerate(JOINTS) if joint != "lumbosacral"]


@dataclass(frozen=True)
class Support:
    """Where the body is held up: one or two places, each one point or a left-right pair.

    ``places`` holds, for each place, the contact names, the segments that they carry and the points
    ``(3, ...)`` m. Two names in a place share its force equally; one place of two names is the two
    feet of a level stance. With ``slides`` the last place's point may move sideways to where the
    weight wants it (a back on a bench). ``slips_along`` ``(3, ...)`` is the only direction in which
    the last place can push (a smooth roll); a ``hooked`` first place may pull.
    """

    names: tuple[tuple[str, ...], ...]
    segments: tuple[tuple[str, ...], ...]
    points: tuple[tuple[Array, ...], ...]
    slides: bool = False
    slips_along: Array | None = None
    hooked: bool = False


@dataclass(frozen=True)
class Contacts:
    """Contact forces: ``points`` and ``forces`` are ``(3, contacts, ...)``, m and N.

    ``pair_N`` is the body's own push along the line between the two places (for a level stance
    between the feet, + apart); ``share`` is the first place's part of the upward force.
    """

    names: tuple[str, ...]
    segments: tuple[str, ...]
    points: Array
    forces: Array
    pair_N: Array
    share: Array

    def external(self) -> External:
        """The same forces as a set of external forces."""
        return External(self.segments, self.points, self.forces)

    def with_supports(self, names: tuple[str, ...], held: External) -> Contacts:
        """These contacts and further ones whose force is a setting: hands on a support, a seat."""
        if not names:
            return self
        return replace(
            self,
            names=(*self.names, *names),
            segments=(*self.segments, *held.segments),
            points=np.concatenate([self.points, held.points], axis=1),
            forces=np.concatenate([self.forces, held.forces], axis=1),
        )


def solve_contacts(
    pose: Pose, wrench: Wrench, loads: External, support: Support, rule: str
) -> Contacts:
    """Contact forces (N) that balance ``wrench``, with the pair settled by ``rule``.

    ``vertical`` leaves the pair without horizontal part; ``least-effort`` takes the pair that
    minimises the sum of squared ankle, knee and hip moments of both legs, inside the friction cone
    of every contact (closed form: moments are linear in the pair). ``loads`` are all other forces.
    """
    names = tuple(n for place in support.names for n in place)
    segments = tuple(s for place in support.segments for s in place)
    points, forces, direction = _equilibrium(wrench, support)
    pair = np.zeros_like(forces[0, 0])
    if rule == "least-effort" and direction is not None and support.slips_along is None:
        pair = _least_effort(pose, loads, segments, points, forces, direction)
        forces = forces + pair * direction
    upward = np.where(np.abs(wrench.force[1]) > 1e-9, -wrench.force[1], 1.0)
    share = forces[1, : len(support.names[0])].sum(axis=0) / upward
    if len(support.names) == 1 and len(names) == 2:
        share = forces[1, 1] / upward
    return Contacts(names, segments, points, forces, -pair, share)


def _equilibrium(wrench: Wrench, support: Support) -> tuple[Array, Array, Array | None]:
    """Points, forces at zero pair, and force a newton of pair, each ``(3, contacts, ...)``."""
    if sum(len(place) for place in support.names) == 1:
        point = _under(wrench, _shape_like(support.points[0][0], wrench.force)[1])
        return point[:, None], -wrench.force[:, None], None
    if len(support.names) == 1:
        # A level stance carries the pressure where the wrench puts it along the feet.
        at = _under(wrench, _shape_like(support.points[0][0], wrench.force)[1])
        places = [[vector(at[0], p[1], p[2])] for p in support.points[0]]
    else:
        places = [list(place) for place in support.points]
    centres = [_shape_like(np.mean(p, axis=0), wrench.force) for p in places]
    if support.slides:
        centres[1] = _slide(wrench, centres)
        places[1] = [centres[1]]
    line = centres[1] - centres[0]
    turning = wrench.moment - cross(centres[0], wrench.force)
    on_second = cross(-turning, line) / dot(line, line)
    if support.slips_along is not None:
        # Only one direction can push back: its size follows from turning about the first place.
        push = support.slips_along
        turns = cross(line, push)[2]
        on_second = -turning[2] / np.where(np.abs(turns) > 1e-12, turns, np.inf) * push
        return _shared(wrench, places, on_second, line / norm(line))
    # Without horizontal pair: cancel the part along the line that has a horizontal component.
    flat = np.hypot(line[0], line[2])
    along = vector(line[0], 0.0, line[2]) / flat
    wanted = -0.5 * dot(wrench.force, along)
    excess = (dot(on_second, along) - wanted) / flat
    on_second = on_second - excess * line
    return _shared(wrench, places, on_second, line / norm(line))


def _shared(
    wrench: Wrench, places: list[list[Array]], on_second: Array, direction: Array
) -> tuple[Array, Array, Array]:
    """Points, forces and unit pushes of every contact; those of one place share alike."""
    on_first = -wrench.force - on_second
    points, forces, pushes = [], [], []
    for where, force, sign in ((0, on_first, -1.0), (1, on_second, 1.0)):
        count = len(places[where])
        for point in places[where]:
            points.append(_shape_like(point, wrench.force))
            forces.append(force / count)
            pushes.append(sign * direction / count)
    return np.stack(points, axis=1), np.stack(forces, axis=1), np.stack(pushes, axis=1)


def _shape_like(point: Array, like: Array) -> Array:
    return widened(point, like.shape)


def _under(wrench: Wrench, height: Array) -> Array:
    """Point at a height about which the wrench has no moment but about its own line."""
    force, moment = wrench.force, wrench.moment
    x = (moment[2] + height * force[0]) / force[1]
    z = (height * force[2] - moment[0]) / force[1]
    return vector(x, height, z)


def _slide(wrench: Wrench, centres: list[Array]) -> Array:
    """Move the second place sideways until the line between the places meets the wrench."""
    first, second = centres
    turning = wrench.moment - cross(first, wrench.force)
    line = second - first
    # turning . (line + z e) = 0 for the sideways shift z.
    shift = -dot(turning, line) / np.where(np.abs(turning[2]) > 1e-12, turning[2], np.inf)
    return second + vector(0.0, 0.0, shift)


def _least_effort(
    pose: Pose,
    loads: External,
    segments: tuple[str, ...],
    points: Array,
    forces: Array,
    direction: Array,
) -> Array:
    """Pair (N along ``direction``) with the least summed squared leg moments, inside friction."""
    joints = joints_of(pose)
    at_zero = net_moments(joints, loads, External(segments, points, forces))[:, LEG_ROWS]
    a_newton = net_moments(joints, External(segments, points, direction))[:, LEG_ROWS]
    against = (at_zero * a_newton).sum(axis=(0, 1))
    along = (a_newton**2).sum(axis=(0, 1))
    best = -against / np.where(along > 0.0, along, 1.0)
    low, high = _inside_friction(forces, direction)
    held: Array = np.clip(best, np.minimum(low, 0.0), np.maximum(high, 0.0))
    return held


def _inside_friction(forces: Array, direction: Array) -> tuple[Array, Array]:
    """Range of the pair in which every contact's sideways force stays inside its friction cone."""
    grip = landmark("friction_coefficient") ** 2
    a = direction[0] ** 2 + direction[2] ** 2 - grip * direction[1] ** 2
    b = forces[0] * direction[0] + forces[2] * direction[2] - grip * forces[1] * direction[1]
    c = forces[0] ** 2 + forces[2] ** 2 - grip * forces[1] ** 2
    root = np.sqrt(np.maximum(b * b - a * c, 0.0))
    safe = np.where(np.abs(a) > 1e-12, a, np.inf)
    ends = np.stack([(-b - root) / safe, (-b + root) / safe])
    low = np.where(a > 0.0, ends.min(axis=0), -np.inf).max(axis=0)
    high = np.where(a > 0.0, ends.max(axis=0), np.inf).min(axis=0)
    return low, high
