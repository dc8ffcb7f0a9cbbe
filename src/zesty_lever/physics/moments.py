"""Net joint moments from the free body on one side of every cut.

Forces and their moments about the origin are summed over the pieces that the cuts leave, then over
the part that each cut takes away, and carried to the joint.
"""

from __future__ import annotations

from dataclasses import fields

import numpy as np

from zesty_lever.frozen import dataclass, later
from zesty_lever.joints import JOINTS, ROW
from zesty_lever.physics.body import landmark
from zesty_lever.physics.forces import Wrench
from zesty_lever.physics.pose import Pose
from zesty_lever.physics.vectors import Array, cross, dot, in_rows, unit

EXTENDS_ALONG_Z = {"ankle": -1.0, "knee": 1.0, "hip": -1.0, "lumbosacral": 1.0}
EXTENDS = np.array([EXTENDS_ALONG_Z[joint.split("_", maxsplit=1)[0]] for joint in JOINTS])
# Joints with a long axis, one after the other in the order of `JOINTS`, and which way is outward there.
LONG = tuple(joint for joint in JOINTS if joint.startswith(("knee", "hip")))
LONG_ROWS = slice(ROW[LONG[0]], ROW[LONG[-1]] + 1)
OUTWARD = np.array([1.0 if joint.endswith("right") else -1.0 for joint in LONG])


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

    def between(self, other: JointMoments, share: Array) -> JointMoments:
        """Moments that far (0-1) from these to others: all but the closure are linear in the forces."""
        mixed = {
            f.name: getattr(self, f.name) + share * (getattr(other, f.name) - getattr(self, f.name))
            for f in fields(self)
            if f.name != "closure"
        }
        return JointMoments(**mixed, closure=np.maximum(self.closure, other.closure))


def balancing(joints: Array, cuts: Wrench) -> Array:
    """Net moments ``(3, joints, ...)`` that balance what acts beyond each cut, N m.

    ``joints`` are the joint centres as `Pose.joints` has them.
    """
    turned = cross(joints, cuts.force)
    turned -= cuts.moment
    return turned


def joint_moments(pose: Pose, cuts: Wrench, whole: Wrench) -> JointMoments:
    """Net moments at all joints for what acts beyond each cut and on the whole body.

    Statics and dynamics are this one pass: inertia is part of the loads. Both sides of a cut agree
    when the whole body is in equilibrium, so the closure at a joint is the whole's moment about it.
    Source: free-body mechanics; joint coordinate systems after Grood & Suntay 1983 (knee) and Wu et
    al. 2002 (hip). Their axes are not orthogonal: components do not add up.
    """
    joints = pose.joints
    moment = balancing(joints, cuts)
    everything = Wrench(whole.both[:, :, None])
    left = balancing(joints, everything)
    closure = np.maximum.reduce(np.abs(left, out=left), axis=(0, 1))
    axes, extends = _flexion_axes(pose, moment), _like(EXTENDS, moment)
    other: list[Array] = []

    def resolved(name: str) -> Array:
        """Abduction or rotation: both are worked out when one is first asked for."""
        if not other:
            other.extend(_beside_extension(pose, moment, axes))
        return other[("abduction", "rotation").index(name)]

    return later(
        JointMoments,
        resolved,
        vector=moment,
        force=cuts.force,
        extension=extends * dot(moment, axes),
        side_view=extends * moment[2],
        closure=closure,
    )


def extension_of(pose: Pose, cuts: Wrench) -> Array:
    """Extension moments of all joints alone, ``(joints, ...)`` N m, see `joint_moments`."""
    moment = balancing(pose.joints, cuts)
    extension: Array = _like(EXTENDS, moment) * dot(moment, _flexion_axes(pose, moment))
    return extension


def _flexion_axes(pose: Pose, vector: Array) -> Array:
    return in_rows([pose.proximal_axes[joint] for joint in JOINTS], vector[:, 0].shape)


def out_of_sagittal(pose: Pose, moments: JointMoments, side: str) -> tuple[Array, Array]:
    """What a hip does beside extension, N m: its ``work`` moment, and its moment about forward.

    At deep flexion the joint's own abduction axis lies nearly vertical, so a wide stance's work
    hides from extension and abduction both. The first is |M - (M.t) t| with t the thigh's long axis;
    the second M about the forward axis, + where adductors work.
    """
    hip = moments.vector[:, ROW[f"hip_{side}"]]
    long_axis = unit(pose.long_axes[f"hip_{side}"])
    across = hip - dot(hip, long_axis) * long_axis
    outward = 1.0 if side == "right" else -1.0
    return np.sqrt(dot(across, across)), outward * hip[0]


def _beside_extension(pose: Pose, vector: Array, axes: Array) -> tuple[Array, Array]:
    """Abduction and rotation of all joints, ``(joints, ...)`` N m; ``axes`` are their flexion axes."""
    abduction, rotation = np.zeros(vector[0].shape), np.zeros(vector[0].shape)
    long_axes = unit(in_rows([pose.long_axes[joint] for joint in LONG], vector[:, 0].shape))
    own = vector[:, LONG_ROWS]
    outward = _like(OUTWARD, vector)
    abduction[LONG_ROWS] = -outward * dot(own, unit(cross(long_axes, axes[:, LONG_ROWS])))
    rotation[LONG_ROWS] = outward * dot(own, long_axes)
    return abduction, rotation


def _like(signs: Array, vector: Array) -> Array:
    """One number a joint, for arrays ``(joints, ...)`` that go with ``(3, joints, ...)``."""
    return signs.reshape(-1, *([1] * (vector.ndim - 2)))


@dataclass(frozen=True)
class Disc:
    """Forces on the L5/S1 disc, N: ``compression_N``, and ``shear_N`` + where the upper body slides forward."""

    compression_N: Array
    shear_N: Array


def disc_forces(
    pose: Pose,
    moments: JointMoments,
    slope_off_deg: Array | float = 0.0,
    arm_off_m: Array | float = 0.0,
) -> Disc:
    """Compression and shear on the L5/S1 disc, N, with a single extensor equivalent.

    ``slope_off_deg`` and ``arm_off_m``: how far a body is off the assumed slope and arm.

    The disc plane follows the pelvis and slopes forward-down. The muscle force is moment over a
    fixed lever arm and acts at right angles to the disc, so it adds compression and no shear.
    Source: single-equivalent models of spine loading; arm and slope are assumptions
    (``landmarks.toml``).
    """
    row = ROW["lumbosacral"]
    slope = pose.pelvis_rad + np.radians(landmark("disc_slope_standing_deg") + slope_off_deg)
    across, along = np.sin(slope), np.cos(slope)
    pressing = moments.force[:, row]
    muscle = np.abs(moments.extension[row]) / (landmark("extensor_arm_m") + arm_off_m)
    # Disc normal (up): (sin, cos); disc plane pointing forward-down: (cos, -sin).
    compression = muscle - (pressing[0] * across + pressing[1] * along)
    shear = pressing[0] * along - pressing[1] * across
    return Disc(compression, shear)
