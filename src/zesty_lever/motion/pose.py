"""A whole-body pose: every named point, every segment's mass centre, the axes of the joints."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from zesty_lever.body import SEGMENTS, SIDES, Body, landmark
from zesty_lever.motion.legs import Foot, Leg, mirror
from zesty_lever.motion.upper_body import Stack, arm_centres
from zesty_lever.vectors import Array, sagittal, vector

LEG_JOINTS = ("ankle", "knee", "hip")
JOINTS = (*(f"{joint}_{side}" for joint in LEG_JOINTS for side in SIDES), "lumbosacral")


@dataclass(frozen=True)
class Pose:
    """Positions in ISB axes, m. Every array ends in the pose axes.

    ``points`` maps names (``ankle_left``, ``lumbosacral``, ``bar`` ...) to ``(3, ...)``;
    ``centres`` is ``(3, 15, ...)`` in the order of ``SEGMENTS``; ``masses`` ``(15, ...)`` kg;
    load arrays are ``(3, loads, ...)`` and ``(loads, ...)``. ``proximal_axes`` holds each joint's
    right-pointing flexion axis, ``long_axes`` the distal segment's long axis (distal to proximal).
    """

    points: Mapping[str, Array]
    centres: Array
    masses: Array
    load_names: tuple[str, ...]
    load_segments: tuple[str, ...]
    load_points: Array
    load_masses: Array
    proximal_axes: Mapping[str, Array]
    long_axes: Mapping[str, Array]
    pelvis_rad: Array
    trunk_rad: Array
    knee_flexion_rad: Array
    dorsiflexion_rad: Array
    hip_opening_rad: Array

    @property
    def line_rad(self) -> Array:
        """Lean of the hip-shoulder line, the trunk angle that a coach reads."""
        return self.side_view_rad("hip_mid", "shoulder_mid")

    def side_view_rad(self, lower: str, upper: str) -> Array:
        """Side-view angle of the line between two points against plumb, + leaning forward, rad."""
        line = self.points[upper] - self.points[lower]
        angle: Array = np.arctan2(line[0], line[1])
        return angle

    @property
    def lumbar_flexion_rad(self) -> Array:
        """How far the trunk part leans beyond the pelvis: 0 neutral, + flexed."""
        flexion: Array = self.trunk_rad - self.pelvis_rad
        return flexion

    def system_mass_kg(self) -> Array:
        """Athlete and loads together, kg."""
        total: Array = self.masses.sum(axis=0) + self.load_masses.sum(axis=0)
        return total

    def system_centre(self) -> Array:
        """Mass centre of athlete and loads, ``(3, ...)`` m."""
        moment = (self.centres * self.masses).sum(axis=1)
        moment = moment + (self.load_points * self.load_masses).sum(axis=1)
        centre: Array = moment / self.system_mass_kg()
        return centre


def leg_first_moment(body: Body, leg: Leg) -> Array:
    """First moment of one leg along X, kg m."""
    ankle, knee, hip = leg.foot.ankle[0], leg.knee[0], leg.hip[0]
    moment: Array = (
        body.mass["foot"] * foot_centre(body, leg.foot)[0]
        + body.mass["shank"] * (knee + body.centre["shank"] * (ankle - knee))
        + body.mass["thigh"] * (hip + body.centre["thigh"] * (knee - hip))
    )
    return moment


def leg_centres(body: Body, leg: Leg) -> dict[str, Array]:
    """Mass centres of the right leg's segments, m."""
    foot = leg.foot
    return {
        "foot": foot_centre(body, foot),
        "shank": leg.knee + body.centre["shank"] * (foot.ankle - leg.knee),
        "thigh": leg.hip + body.centre["thigh"] * (leg.knee - leg.hip),
    }


def foot_centre(body: Body, foot: Foot) -> Array:
    """Mass centre of the right foot, m: on the heel-toe line, raised by half the ankle height."""
    centre: Array = foot.heel + body.centre["foot"] * (foot.toe - foot.heel)
    centre[1] += landmark("foot_centre_height") * body.lengths["ankle_height"]
    return centre


def assemble(body: Body, leg: Leg, stack: Stack, pelvis_rad: Array, trunk_rad: Array) -> Pose:
    """Put legs (mirrored) and upper body together."""
    mid_hip = vector(leg.hip[0], leg.hip[1], 0.0)
    upper = stack.place(mid_hip, pelvis_rad, trunk_rad)
    shape = np.broadcast_shapes(mid_hip.shape, upper["shoulder"].shape)
    right = {
        "heel": leg.foot.heel, "ball": leg.foot.ball, "toe": leg.foot.toe,
        "ankle": leg.foot.ankle, "knee": leg.knee, "hip": leg.hip,
        **{name: upper[name] for name in ("shoulder", "elbow", "wrist", "hand")},
    }  # fmt: skip
    points = {"hip_mid": np.broadcast_to(mid_hip, shape)}
    for name, point in right.items():
        whole = np.broadcast_to(point, shape)
        points[f"{name}_right"], points[f"{name}_left"] = whole, mirror(whole)
    for name in ("lumbosacral", "shoulder_mid", "head_top"):
        points[name] = np.broadcast_to(upper[name], shape)
    centres = _segment_centres(body, leg, stack, upper, trunk_rad)
    loads = _place_loads(stack, upper)
    names, segments, load_points, load_masses = loads
    axes, longs = _joint_axes(leg, points)
    return Pose(
        points=points,
        centres=_stack_points([centres[name] for name in SEGMENTS], shape),
        masses=_stack_values([body.mass[_kind(name)] for name in SEGMENTS], shape[1:]),
        load_names=names,
        load_segments=segments,
        load_points=_stack_points(load_points, shape),
        load_masses=_stack_values(load_masses, shape[1:]),
        proximal_axes=axes,
        long_axes=longs,
        pelvis_rad=np.broadcast_to(pelvis_rad, shape[1:]),
        trunk_rad=np.broadcast_to(trunk_rad, shape[1:]),
        knee_flexion_rad=np.broadcast_to(leg.knee_flexion_rad, shape[1:]),
        dorsiflexion_rad=np.broadcast_to(leg.dorsiflexion_rad, shape[1:]),
        hip_opening_rad=np.broadcast_to(leg.hip_opening_rad, shape[1:]),
    )


def _kind(segment: str) -> str:
    return segment.removesuffix("_left").removesuffix("_right")


def _stack_points(points: list[Array], shape: tuple[int, ...]) -> Array:
    stacked = np.empty((3, len(points), *shape[1:]))
    for index, point in enumerate(points):
        stacked[:, index] = point
    return stacked


def _stack_values(values: list[Array], shape: tuple[int, ...]) -> Array:
    stacked = np.empty((len(values), *shape))
    for index, value in enumerate(values):
        stacked[index] = value
    return stacked


def _segment_centres(
    body: Body, leg: Leg, stack: Stack, upper: dict[str, Array], trunk_rad: Array
) -> dict[str, Array]:
    centres = {part: upper[f"centre_{part}"] for part in ("pelvis", "trunk", "head")}
    lean = trunk_rad if stack.arm.rigid else np.zeros_like(trunk_rad)
    sided = leg_centres(body, leg)
    for part, offset in arm_centres(body, stack.arm).items():
        turned = sagittal(lean, offset[0], offset[1])
        sided[part] = upper["shoulder"] + turned + vector(0.0, 0.0, offset[2])
    for part, centre in sided.items():
        centres[f"{part}_right"], centres[f"{part}_left"] = centre, mirror(centre)
    return centres


def _place_loads(
    stack: Stack, upper: dict[str, Array]
) -> tuple[tuple[str, ...], tuple[str, ...], list[Array], list[Array]]:
    """Split each load over those who carry it: one entry a carrier."""
    names: list[str] = []
    segments: list[str] = []
    points: list[Array] = []
    masses: list[Array] = []
    for index, load in enumerate(stack.loads):
        for carrier in load.carried_by:
            both = len(load.carried_by) > 1
            names.append(f"{load.name} ({carrier.rsplit('_', 1)[-1]} hand)" if both else load.name)
            segments.append(carrier)
            point = upper[f"load_{index}"]
            points.append(mirror(point) if carrier.endswith("_left") else point)
            masses.append(load.mass_kg / len(load.carried_by))
    return tuple(names), tuple(segments), points, masses


def _joint_axes(
    leg: Leg, points: dict[str, Array]
) -> tuple[dict[str, Array], dict[str, Array]]:
    """Flexion axes of the proximal segments and long axes of the distal ones, both sides.

    The pelvis points straight ahead, so its right-pointing axis is Z. The left knee's axis is the
    mirrored right one turned round, so that it points right again.
    """
    right_pointing = vector(0.0, 0.0, 1.0).reshape(3, *([1] * (leg.hip.ndim - 1)))
    axes = {"lumbosacral": right_pointing}
    longs: dict[str, Array] = {}
    for side in SIDES:
        axis = leg.knee_axis if side == "right" else -mirror(leg.knee_axis)
        axes[f"hip_{side}"] = right_pointing
        axes[f"knee_{side}"] = axes[f"ankle_{side}"] = axis
        longs[f"hip_{side}"] = points[f"hip_{side}"] - points[f"knee_{side}"]
        longs[f"knee_{side}"] = points[f"knee_{side}"] - points[f"ankle_{side}"]
    return axes, longs
