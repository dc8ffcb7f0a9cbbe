"""Bands, cables and pushes: forces along lines that pull on the body without weighing anything."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from zesty_lever.body import Body
from zesty_lever.mechanics.inverse import External
from zesty_lever.motion.pose import Pose
from zesty_lever.vectors import Array, norm, sagittal, unit, vector

HIP_CREASE_AHEAD = 0.062
ATTACHMENTS = (
    "hand_left", "hand_right", "hip_crease", "shoulders", "above_knee_left", "above_knee_right",
    "shank_left", "shank_right", "foot_left", "foot_right",
)  # fmt: skip


@dataclass(frozen=True)
class Line:
    """One band, cable or push.

    ``start`` and ``end`` are names of `ATTACHMENTS` or anchors (x, y, z) m in space. A band pulls its
    ends together with ``stiffness_N_m`` per metre beyond ``slack_m``; a cable with ``force_N`` whatever
    its length; a push (``end`` None) acts on ``start`` with ``push_N``. Numbers are arrays over cases.
    """

    name: str
    start: str
    end: str | tuple[float, float, float] | None
    stiffness_N_m: Array | None = None
    slack_m: Array | None = None
    force_N: Array | None = None
    push_N: tuple[float, float, float] | None = None


def attachment(body: Body, pose: Pose, name: str) -> tuple[str, Array]:
    """Segment and point ``(3, ...)`` m of a named attachment."""
    if name == "hip_crease":
        ahead = HIP_CREASE_AHEAD * body.height_m
        return "pelvis", pose.points["hip_mid"] + sagittal(pose.pelvis_rad, ahead, 0.0)
    if name == "shoulders":
        return "trunk", pose.points["shoulder_mid"]
    kind, _, side = name.rpartition("_")
    if kind == "hand":
        return name, pose.points[f"hand_{side}"]
    knee = pose.points[f"knee_{side}"]
    if kind == "above_knee":
        return f"thigh_{side}", knee + 0.12 * (pose.points[f"hip_{side}"] - knee)
    if kind == "shank":
        return f"shank_{side}", knee + 0.20 * (pose.points[f"ankle_{side}"] - knee)
    under = pose.points[f"ankle_{side}"]
    return f"foot_{side}", vector(under[0], 0.0 * under[1], under[2])


def line_forces(body: Body, pose: Pose, lines: Sequence[Line]) -> tuple[tuple[str, ...], External]:
    """Names and forces (N) of all ends that pull on the body."""
    names: list[str] = []
    segments: list[str] = []
    points: list[Array] = []
    forces: list[Array] = []
    like = pose.points["hip_mid"]

    def add(name: str, segment: str, point: Array, force: Array) -> None:
        names.append(name)
        segments.append(segment)
        points.append(np.broadcast_to(point, like.shape))
        forces.append(np.broadcast_to(force, like.shape))

    for line in lines:
        segment, start = attachment(body, pose, line.start)
        if line.end is None:
            assert line.push_N is not None
            add(line.name, segment, start, vector(*line.push_N).reshape(3, *([1] * (like.ndim - 1))))
            continue
        other = None
        if isinstance(line.end, str):
            other, end = attachment(body, pose, line.end)
        else:
            end = vector(*line.end).reshape(3, *([1] * (like.ndim - 1))) + 0.0 * start
        pull = _tension(line, norm(end - start)) * unit(end - start)
        add(line.name, segment, start, pull)
        if other is not None:
            add(line.name, other, end, -pull)
    if not names:
        empty = np.zeros((3, 0, *like.shape[1:]))
        return (), External((), empty, empty)
    return tuple(names), External(tuple(segments), np.stack(points, 1), np.stack(forces, 1))


def _tension(line: Line, length: Array) -> Array:
    if line.force_N is not None:
        return line.force_N + 0.0 * length
    assert line.stiffness_N_m is not None
    assert line.slack_m is not None
    pull: Array = line.stiffness_N_m * np.maximum(length - line.slack_m, 0.0)
    return pull
