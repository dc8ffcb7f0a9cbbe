"""Bands, cables and pushes: forces along lines that pull on the body without weighing anything."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

import numpy as np

from zesty_lever.frozen import dataclass
from zesty_lever.physics.body import Body
from zesty_lever.physics.forces import GRAVITY_M_S2, External
from zesty_lever.physics.outline import Outline
from zesty_lever.physics.pose import Pose
from zesty_lever.physics.vectors import (
    Array,
    cross,
    in_rows,
    norm,
    sagittal,
    smoothstep,
    summed,
    vector,
    widened,
)

HIP_CREASE_AHEAD = 0.062
# Sitting bones from mid-hip in the pelvis's frame, fractions of stature (assumption).
SEAT = (-0.020, -0.050)
# A box takes its share of the weight over this last part of the way down.
SITS_OVER = 0.3


Number = float | Array
# Settings that move the place where a variation's own line is fixed: axis and sign.
ANCHOR_KEYS = {
    "anchor_behind_m": (0, -1.0),
    "anchor_height_m": (1, 1.0),
    "anchor_aside_m": (2, -1.0),
}


def anchored(usual: Sequence[float], settings: Mapping[str, Any]) -> tuple[Number, Number, Number]:
    """Where a variation's line is fixed (m): its usual place, moved by the settings that it has."""
    place: list[Number] = list(usual)
    for key, (axis, sign) in ANCHOR_KEYS.items():
        if settings.get(key) is not None:
            place[axis] = sign * settings[key]
    x, y, z = place
    return x, y, z


@dataclass(frozen=True)
class Spring:
    """A band by its force line: ``stiffness_N_m`` per metre beyond ``slack_m``, arrays over cases."""

    stiffness_N_m: Array
    slack_m: Array

    def tension_N(self, length_m: Array) -> Array:
        """Pull at a length, N."""
        pull: Array = self.stiffness_N_m * np.maximum(length_m - self.slack_m, 0.0)
        return pull


@dataclass(frozen=True)
class Measured:
    """A band by its measured ``rows`` of (length m, force N)."""

    rows: tuple[tuple[float, float], ...]

    def tension_N(self, length_m: Array) -> Array:
        """Pull at a length, N; beyond the last row (where the case is refused) on at its slope."""
        at, force = np.array(self.rows).T
        slope = (force[-1] - force[-2]) / (at[-1] - at[-2])
        beyond = slope * np.maximum(length_m - at[-1], 0.0)
        pull: Array = np.interp(length_m, at, force) + beyond
        return pull


@dataclass(frozen=True)
class Steady:
    """A cable: one ``force_N`` whatever its length, array over cases."""

    force_N: Array

    def tension_N(self, length_m: Array) -> Array:
        """Pull at a length, N."""
        return self.force_N + 0.0 * length_m


@dataclass(frozen=True)
class Push:
    """A force (x, y, z) N in space, arrays over cases."""

    push_N: tuple[Array, Array, Array]


@dataclass(frozen=True)
class Line:
    """One band, cable, push or support.

    ``start`` and ``end`` are names of attachments or anchors (x, y, z) m in space; a push acts on
    ``start`` and has no end. ``when`` says on which way it acts. ``aid`` marks what holds the body up
    rather than loads it: a ``hold`` by the hands grows with the depth, a ``seat`` takes its share over
    the last part of the way down.
    """

    name: str
    start: str
    pull: Spring | Measured | Steady | Push
    end: str | tuple[Number, Number, Number] = ""
    when: str = "both"
    aid: str = ""

    def share(self, progress: Array, up_share: Array) -> Array:
        """How much of the line acts, 0-1, by frame."""
        if self.aid == "hold":
            return progress
        if self.aid == "seat":
            return smoothstep((progress - 1.0 + SITS_OVER) / SITS_OVER)
        shares = {"down": 1.0 - up_share, "up": up_share}
        return shares.get(self.when, np.ones_like(progress))


def attachment(body: Body, pose: Pose | Outline, name: str) -> tuple[str, Array]:
    """Segment and point ``(3, ...)`` m of a named attachment."""
    height, hips = body.height_m, pose.points["hip_mid"]
    if name in ("hip_crease", "seat"):
        ahead, above = {"hip_crease": (HIP_CREASE_AHEAD, 0.0), "seat": SEAT}[name]
        return "pelvis", hips + sagittal(pose.pelvis_rad, ahead * height, above * height)
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


def line_forces(
    body: Body, pose: Pose | Outline, lines: Sequence[Line], progress: Array, up_share: Array
) -> External:
    """Forces (N) of all ends that pull on the body, by frame, each with its line's name."""
    names: list[str] = []
    segments: list[str] = []
    points: list[Array] = []
    forces: list[Array] = []
    like = pose.points["hip_mid"]

    def add(name: str, segment: str, point: Array, force: Array) -> None:
        names.append(name)
        segments.append(segment)
        points.append(widened(point, like.shape))
        forces.append(widened(force, like.shape))

    for line in lines:
        acting = line.share(progress, up_share)
        segment, start = attachment(body, pose, line.start)
        if isinstance(line.pull, Push):
            add(line.name, segment, start, acting * vector(*line.pull.push_N))
            continue
        other, end = _other_end(body, pose, line)
        way = end - start
        length = norm(way)
        pull = acting * line.pull.tension_N(length) * (way / (length + (length == 0.0)))
        add(line.name, segment, start, pull)
        if other is not None:
            add(line.name, other, end, -pull)
    if not names:
        empty = np.zeros((3, 0, *like.shape[1:]))
        return External((), empty, empty)
    return External(tuple(segments), in_rows(points), in_rows(forces), names=tuple(names))


def turning_about(about: Array, pulls: External) -> Array:
    """Moment of forces about a point ``(3, ...)`` m as a first moment of mass, ``(3, ...)`` kg m."""
    turning = cross(pulls.points - about[:, None], pulls.forces)
    rows = range(len(pulls.segments))
    return np.stack([summed(axis[row] for row in rows) for axis in turning]) / GRAVITY_M_S2


def turning_forward(at_x: Array, pulls: External) -> Array:
    """What forces turn forward about a point of the floor ``at_x`` m ahead, kg m: of `turning_about` the part about Z."""
    (x, y, _), (push, lift, _) = pulls.points, pulls.forces
    turning = (x - at_x) * lift - y * push
    forward: Array = -(summed(turning) / GRAVITY_M_S2)
    return forward


def _other_end(body: Body, pose: Pose | Outline, line: Line) -> tuple[str | None, Array]:
    if isinstance(line.end, str):
        return attachment(body, pose, line.end)
    still = 0.0 * pose.points["hip_mid"][0]
    return None, vector(*(part + still for part in line.end))


def lengths_m(body: Body, pose: Pose, line: Line) -> Array:
    """Length of a line at every moment, m."""
    _, start = attachment(body, pose, line.start)
    _, end = _other_end(body, pose, line)
    return norm(end - start)
