"""What the floor pushes back with: equilibrium of the whole body over two feet.

Two point contacts with no free moment balance a given load except for one scalar: equal and
opposite forces along the line that joins the pressure points. A named rule settles it.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from zesty_lever.body import SEGMENTS, landmark
from zesty_lever.mechanics.inverse import GRAVITY_M_S2
from zesty_lever.motion.pose import Pose
from zesty_lever.vectors import Array, cross, dot, norm

CONTACT_RULES = ("least-effort", "vertical")


@dataclass(frozen=True)
class Contacts:
    """Contact forces: ``points`` and ``forces`` are ``(3, contacts, ...)``, m and N."""

    names: tuple[str, ...]
    segments: tuple[str, ...]
    points: Array
    forces: Array
    pair_N: Array


def foot_contacts(pose: Pose, pressure: Array, rule: str) -> Contacts:
    """Forces under both feet at the mirrored ``pressure`` points (right one given), N.

    ``vertical`` leaves the pair out; ``least-effort`` takes the pair that minimises the sum of
    squared ankle, knee and hip moments of both legs, held inside the friction cone. ``pair_N`` is
    the force along the line from the left to the right pressure point, + pushing the feet apart.
    """
    weight = pose.system_mass_kg() * GRAVITY_M_S2
    load_centre = pose.system_centre()
    right = np.broadcast_to(pressure, load_centre.shape)
    left = right * np.array([1.0, 1.0, -1.0]).reshape(3, *([1] * (right.ndim - 1)))
    line = right - left
    # Moments about the left point: line x F_right + (centre - left) x weight = 0.
    gravity = np.zeros_like(load_centre)
    gravity[1] = -weight
    turning = cross(load_centre - left, gravity)
    on_right = cross(-turning, line) / dot(line, line)
    on_left = -gravity - on_right
    pair = np.zeros_like(weight)
    if rule == "least-effort":
        direction = line / norm(line)
        pair = _least_effort_pair(pose, (left, right), (on_left, on_right), direction)
        on_left, on_right = on_left - pair * direction, on_right + pair * direction
    return Contacts(
        names=("foot_left", "foot_right"),
        segments=("foot_left", "foot_right"),
        points=np.stack([left, right], axis=1),
        forces=np.stack([on_left, on_right], axis=1),
        # The floor pushes the right foot along +line when the feet push together; report
        # the athlete's own push, which is the opposite.
        pair_N=-pair,
    )


def _least_effort_pair(
    pose: Pose, points: tuple[Array, Array], forces: tuple[Array, Array], direction: Array
) -> Array:
    """Pair force (N, along the line on the right foot) with the least summed squared moments."""
    against: Array = np.zeros_like(forces[0][0])
    along: Array = np.zeros_like(against)
    for side, point, force, sign in (
        ("left", points[0], forces[0], -1.0),
        ("right", points[1], forces[1], 1.0),
    ):
        mass: Array = np.zeros_like(against)
        first_moment: Array = np.zeros_like(force)
        for joint, segment in (("ankle", "foot"), ("knee", "shank"), ("hip", "thigh")):
            index = SEGMENTS.index(f"{segment}_{side}")
            mass = mass + pose.masses[index]
            first_moment = first_moment + pose.masses[index] * pose.centres[:, index]
            centre = pose.points[f"{joint}_{side}"]
            arm = point - centre
            weight_moment = (first_moment - mass * centre) * -GRAVITY_M_S2
            # (r x (0, f, 0)) = (-z f, 0, x f)
            at_zero = cross(arm, force)
            at_zero[0] -= weight_moment[2]
            at_zero[2] += weight_moment[0]
            per_newton = sign * cross(arm, direction)
            against = against + dot(at_zero, per_newton)
            along = along + dot(per_newton, per_newton)
    best = -against / along
    grip = landmark("friction_coefficient") * np.minimum(forces[0][1], forces[1][1])
    held: Array = np.clip(best, -grip, grip)
    return held
