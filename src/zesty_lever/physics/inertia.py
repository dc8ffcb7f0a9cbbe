"""What moving adds: inertia of segments and loads along a solved rep.

Every segment is a slender rigid body about its long axis: its inertia about any line across the axis
is m r^2 (r the radius of gyration about the sideways axis), about the axis itself nothing; the
neglected long-axis part is at most a few newton metres. Statics is the same sum at zero acceleration.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from zesty_lever.physics.body import SEGMENTS, Body
from zesty_lever.physics.forces import GRAVITY_M_S2, External
from zesty_lever.physics.pose import Pose
from zesty_lever.physics.tempo import Run
from zesty_lever.physics.vectors import Array, cross, norm, sagittal, unit

ALONG = {
    "foot": ("heel", "toe"),
    "shank": ("ankle", "knee"),
    "thigh": ("knee", "hip"),
    "upper_arm": ("elbow", "shoulder"),
    "forearm": ("wrist", "elbow"),
    "hand": ("hand", "wrist"),
}
LENGTH_OF = {"pelvis": "hip_to_shoulder", "trunk": "hip_to_shoulder", "head": "head_and_neck"}


def long_axes(pose: Pose) -> Array:
    """Unit vectors ``(3, 15, ...)`` along every segment, upward when standing."""
    axes = np.empty_like(pose.centres)
    for index, name in enumerate(SEGMENTS):
        kind, _, side = name.rpartition("_")
        if name in ("pelvis", "trunk"):
            lean = pose.pelvis_rad if name == "pelvis" else pose.trunk_rad
            axes[:, index] = sagittal(lean, 0.0, 1.0)
        elif name == "head":
            axes[:, index] = unit(pose.points["head_top"] - pose.points["shoulder_mid"])
        else:
            lower, upper = ALONG[kind]
            line = pose.points[f"{upper}_{side}"] - pose.points[f"{lower}_{side}"]
            if kind == "hand":
                # A hand round a bar has no length of its own: it turns with the forearm.
                forearm = pose.points[f"elbow_{side}"] - pose.points[f"wrist_{side}"]
                line = np.where(norm(line) > 1e-9, line, forearm)
            axes[:, index] = unit(line)
    return axes


def transverse_inertia(body: Body, pose: Pose) -> Array:
    """M r^2 of every segment about a line across its long axis, ``(15, ...)`` kg m^2."""
    found = np.empty_like(pose.masses)
    for index, name in enumerate(SEGMENTS):
        kind = name.removesuffix("_left").removesuffix("_right")
        length = body.hand_m if kind == "hand" else body.lengths[LENGTH_OF.get(kind, kind)]
        radius = body.gyration[kind][..., 1] * length
        found[index] = pose.masses[index] * radius**2
    return found


def second_derivative(values: Array, runs: Sequence[Run]) -> Array:
    """Second time derivative along the last axis, frame by frame, 1/s^2 of the values' unit.

    Frames are evenly spaced inside each run. A whole move starts and ends at rest (minimum-jerk):
    there, and outside the runs, it is zero. Inside, fourth-order central differences, second-order
    next to the ends.
    """
    found = np.zeros_like(values)
    for run in runs:
        path = values[..., run.start : run.last + 1]
        bend = np.zeros_like(path)
        bend[..., 1:-1] = path[..., 2:] - 2.0 * path[..., 1:-1] + path[..., :-2]
        bend[..., 2:-2] = (
            -path[..., 4:]
            + 16.0 * path[..., 3:-1]
            - 30.0 * path[..., 2:-2]
            + 16.0 * path[..., 1:-3]
            - path[..., :-4]
        ) / 12.0
        found[..., run.start : run.last + 1] = bend / run.step_s**2
    return found


def moving_loads(
    pose: Pose,
    inertia: Array,
    acceleration: Array,
    load_acceleration: Array,
    axes: Array,
    axis_acceleration: Array,
) -> External:
    """Weights and inertia of all segments and loads: forces m (g - a) and couples -m r^2 u x u''.

    ``acceleration`` ``(3, 15, ...)`` and ``load_acceleration`` ``(3, loads, ...)`` of the mass centres,
    m/s^2; ``axes`` unit vectors u of the segments and ``axis_acceleration`` their second derivatives.
    """
    forces = np.concatenate([acceleration, load_acceleration], axis=1)
    forces[1] += GRAVITY_M_S2
    forces *= -pose.weighing
    couples = cross(axis_acceleration, axes)
    couples *= inertia
    names = (*SEGMENTS, *pose.load_names)
    return External((*SEGMENTS, *pose.load_segments), pose.weighed, forces, couples, names=names)


def loads_along(body: Body, pose: Pose, runs: Sequence[Run]) -> tuple[External, Array]:
    """All loads of a rep run at its tempo, and the segments' accelerations ``(3, 15, ...)`` m/s^2."""
    axes = long_axes(pose)
    acceleration = second_derivative(pose.centres, runs)
    loads = moving_loads(
        pose,
        transverse_inertia(body, pose),
        acceleration,
        second_derivative(pose.load_points, runs),
        axes,
        second_derivative(axes, runs),
    )
    return loads, acceleration
