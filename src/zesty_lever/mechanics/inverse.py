"""Net joint moments from the free body on one side of every cut.

With joint positions given, statics is linear: forces and their moments about the origin are
summed over the part that a cut takes away (one small matrix product), then carried to the joint.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cache

import numpy as np

from zesty_lever.body import SEGMENTS, SIDES, landmark
from zesty_lever.motion.pose import JOINTS, Pose
from zesty_lever.vectors import Array, cross, dot, unit

GRAVITY_M_S2 = 9.80665
BEYOND = {
    **{f"ankle_{s}": (f"foot_{s}",) for s in SIDES},
    **{f"knee_{s}": (f"foot_{s}", f"shank_{s}") for s in SIDES},
    **{f"hip_{s}": (f"foot_{s}", f"shank_{s}", f"thigh_{s}") for s in SIDES},
    "lumbosacral": (
        "trunk",
        "head",
        *(f"{part}_{s}" for part in ("upper_arm", "forearm", "hand") for s in SIDES),
    ),
}
EXTENDS_ALONG_Z = {"ankle": -1.0, "knee": 1.0, "hip": -1.0, "lumbosacral": 1.0}


@dataclass(frozen=True)
class External:
    """Forces on the body: ``points`` and ``forces`` ``(3, n, ...)``, and the segment each acts on.

    ``couples`` (same shape, N m) are moments without force: the rotational inertia of segments.
    ``upright`` says that all forces are plumb (weights), which needs a third of the arithmetic.
    """

    segments: tuple[str, ...]
    points: Array
    forces: Array
    couples: Array | None = None
    upright: bool = False

    def joined(self, other: External) -> External:
        """These forces and others, in this order."""
        return External(
            (*self.segments, *other.segments),
            np.concatenate([self.points, other.points], axis=1),
            np.concatenate([self.forces, other.forces], axis=1),
            self.couples,
        )


@dataclass(frozen=True)
class Wrench:
    """Resultant force (N) and moment about the origin (N m), each ``(3, ...)``."""

    force: Array
    moment: Array


@dataclass(frozen=True)
class JointMoments:
    """Net moments of every joint in the order of ``JOINTS``.

    ``vector`` and ``force`` are ``(3, joints, ...)``: what the pelvis side exerts on the part beyond
    the cut (N m about the joint centre), and the resultant of gravity, loads and contacts on that
    part (N). ``extension``, ``abduction`` and ``rotation`` are components in the joint coordinate
    systems (extensor, abductor and internal rotator positive), N m; abduction and rotation are
    zero where the joint has none. ``side_view`` is the extensor-positive moment about Z.
    ``closure`` is the worst disagreement between the two sides of a cut, N m.
    """

    vector: Array
    force: Array
    extension: Array
    abduction: Array
    rotation: Array
    side_view: Array
    closure: Array

    def lever_force_N(self) -> Array:
        """Size of the side-view resultant on each cut-off part, ``(joints, ...)`` N."""
        size: Array = np.hypot(self.force[0], self.force[1])
        return size

    def lever_arm_m(self) -> Array:
        """Signed lever arm, so that force x arm is the side-view moment (extensor positive), m."""
        force = self.lever_force_N()
        arm: Array = np.where(
            force > 1e-9, self.side_view / np.where(force > 1e-9, force, 1.0), 0.0
        )
        return arm

    def lever_offset_m(self) -> Array:
        """From each joint to the nearest point of the force's line in the side view, ``(2, joints, ...)``."""
        size_squared = np.maximum(self.lever_force_N() ** 2, 1e-12)
        # The resultant's own moment about the joint is what the joint moment balances.
        scale = -self.vector[2] / size_squared
        return np.stack([scale * self.force[1], -scale * self.force[0]])


def gravity_on(pose: Pose) -> External:
    """Weights of all segments and loads."""
    points = np.concatenate([pose.centres, pose.load_points], axis=1)
    forces = np.zeros_like(points)
    forces[1] = -GRAVITY_M_S2 * np.concatenate([pose.masses, pose.load_masses])
    return External((*SEGMENTS, *pose.load_segments), points, forces, upright=True)


def wrench_of(forces: External) -> Wrench:
    """Resultant of a set of forces."""
    moment = cross(forces.points, forces.forces).sum(axis=1)
    if forces.couples is not None:
        moment = moment + forces.couples.sum(axis=1)
    return Wrench(forces.forces.sum(axis=1), moment)


def joints_of(pose: Pose) -> Array:
    """Centres of all joints, ``(3, joints, ...)`` m."""
    return np.stack([pose.points[name] for name in JOINTS], axis=1)


def net_moments(joints: Array, *parts: External) -> Array:
    """Net moments ``(3, joints, ...)`` that balance all given forces beyond each cut, N m.

    ``joints`` are the joint centres as `joints_of` gives them.
    """
    return _about(joints, *_beyond_cuts(joints.shape, parts, 1.0))


def joint_moments(pose: Pose, loads: External, contacts: External) -> JointMoments:
    """Net moments at all joints under loads (weights, inertia, bands) and contact forces.

    Statics and dynamics are this one pass: inertia is part of ``loads``. Source: free-body
    mechanics; joint coordinate systems after Grood & Suntay 1983 (knee) and Wu et al. 2002 (hip).
    Their axes are not orthogonal: components do not add up.
    """
    joints = joints_of(pose)
    cut_force, moment = _beyond_cuts(joints.shape, (loads, contacts), 1.0)
    vector = _about(joints, cut_force, moment)
    other_force, other_moment = _beyond_cuts(joints.shape, (loads, contacts), 0.0)
    other_side = _about(joints, other_force, other_moment)
    closure = np.abs(other_side + vector).max(axis=(0, 1))
    extension, abduction, rotation = _resolve(pose, vector)
    along_z = np.array([EXTENDS_ALONG_Z[name.split("_", maxsplit=1)[0]] for name in JOINTS])
    side_view = vector[2] * along_z.reshape(-1, *([1] * (vector.ndim - 2)))
    return JointMoments(vector, cut_force, extension, abduction, rotation, side_view, closure)


@cache
def _membership(segments: tuple[str, ...]) -> Array:
    """1 where a force (column) acts on the part beyond a joint (row)."""
    return np.array([[float(s in BEYOND[joint]) for s in segments] for joint in JOINTS])


def _beyond_cuts(
    shape: tuple[int, ...], parts: Sequence[External], side: float
) -> tuple[Array, Array]:
    """Resultant force and moment about the origin of what acts beyond each cut, ``(3, joints, ...)``.

    ``side`` 1 takes the part that the cut takes away, 0 all the rest.
    """
    force, moment = np.empty(shape), np.empty(shape)
    flat = (3, shape[1], -1)
    total_force, total_moment = force.reshape(flat), moment.reshape(flat)
    fresh = True
    for given in parts:
        count = len(given.segments)
        if not count:
            continue
        belongs = _membership(given.segments)
        belongs = belongs if side else 1.0 - belongs
        x, y, z = given.points.reshape(3, count, -1)
        fx, fy, fz = given.forces.reshape(3, count, -1)
        if given.upright and fresh:
            # Plumb forces: (x, y, z) x (0, f, 0) = (-z f, 0, x f).
            total_force[0] = total_force[2] = total_moment[1] = 0.0
            np.matmul(belongs, fy, out=total_force[1])
            np.matmul(-belongs, z * fy, out=total_moment[0])
            np.matmul(belongs, x * fy, out=total_moment[2])
            fresh = False
            continue
        turning = (y * fz - z * fy, z * fx - x * fz, x * fy - y * fx)
        couples = given.couples
        for axis, (push, turn) in enumerate(zip((fx, fy, fz), turning, strict=True)):
            if couples is not None:
                turn[: couples.shape[1]] += couples[axis].reshape(couples.shape[1], -1)
            if fresh:
                np.matmul(belongs, push, out=total_force[axis])
                np.matmul(belongs, turn, out=total_moment[axis])
            else:
                total_force[axis] += belongs @ push
                total_moment[axis] += belongs @ turn
        fresh = False
    if fresh:
        force[...] = moment[...] = 0.0
    return force, moment


def _about(joints: Array, force: Array, moment: Array) -> Array:
    """Joint x force - moment: what balances a force and its moment about the origin at the joints."""
    x, y, z = joints
    fx, fy, fz = force
    balance = np.empty_like(force)
    for axis, (a, fb, b, fa) in enumerate(((y, fz, z, fy), (z, fx, x, fz), (x, fy, y, fx))):
        np.multiply(a, fb, out=balance[axis])
        balance[axis] -= b * fa
        balance[axis] -= moment[axis]
    return balance


def _resolve(pose: Pose, vector: Array) -> tuple[Array, Array, Array]:
    extension, abduction, rotation = (np.zeros_like(vector[0]) for _ in range(3))
    for index, joint in enumerate(JOINTS):
        name, _, side = joint.partition("_")
        moment, axis = vector[:, index], pose.proximal_axes[joint]
        extension[index] = EXTENDS_ALONG_Z[name] * dot(moment, axis)
        if joint in pose.long_axes:
            long_axis = unit(pose.long_axes[joint])
            floating = unit(cross(long_axis, axis))
            outward = 1.0 if side == "right" else -1.0
            abduction[index] = -outward * dot(moment, floating)
            rotation[index] = outward * dot(moment, long_axis)
    return extension, abduction, rotation


def disc_forces(pose: Pose, moments: JointMoments) -> Mapping[str, Array]:
    """Compression and shear on the L5/S1 disc, N, with a single extensor equivalent.

    The disc plane follows the pelvis and slopes forward-down. The muscle force is moment over a
    fixed lever arm and acts at right angles to the disc, so it adds compression and no shear.
    ``shear_N`` is + when the upper body would slide forward. Source: single-equivalent models of
    spine loading; arm and slope are assumptions (``landmarks.toml``).
    """
    index = JOINTS.index("lumbosacral")
    slope = pose.pelvis_rad + np.radians(landmark("disc_slope_standing_deg"))
    across, along = np.sin(slope), np.cos(slope)
    pressing = moments.force[:, index]
    muscle = np.abs(moments.extension[index]) / landmark("extensor_arm_m")
    # Disc normal (up): (sin, cos); disc plane pointing forward-down: (cos, -sin).
    compression = muscle - (pressing[0] * across + pressing[1] * along)
    shear = pressing[0] * along - pressing[1] * across
    return {"compression_N": compression, "shear_N": shear}
