"""A whole-body pose: every named point, every segment's mass centre, the axes of the joints."""

from __future__ import annotations

from collections.abc import Mapping
from functools import cached_property

import numpy as np

from zesty_lever.frozen import dataclass
from zesty_lever.joints import SIDES
from zesty_lever.physics.body import SEGMENTS, Body, landmark
from zesty_lever.physics.legs import Foot, Leg, mirror
from zesty_lever.physics.upper_body import Stack, arm_centres
from zesty_lever.physics.vectors import Array, Named, sagittal, summed, vector, widened


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
    knee_flexion_rad: Mapping[str, Array]
    dorsiflexion_rad: Mapping[str, Array]
    hip_opening_rad: Mapping[str, Array]

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
        total: Array = summed([*self.masses, *self.load_masses])
        return total

    def system_centre(self) -> Array:
        """Mass centre of athlete and loads, ``(3, ...)`` m."""
        return self._centre

    @cached_property
    def _centre(self) -> Array:
        parts = (self.centres * self.masses, self.load_points * self.load_masses)
        moment = summed(part[:, row] for part in parts for row in range(part.shape[1]))
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


MIDDLE = ("lumbosacral", "shoulder_mid", "head_top")
ARM = ("shoulder", "elbow", "wrist", "hand")
FOOT = ("heel", "ball", "toe", "ankle")
NAMES = (
    "hip_mid",
    *MIDDLE,
    *(f"{name}_{side}" for name in ARM for side in SIDES),
    *(f"{name}_{side}" for side in SIDES for name in (*FOOT, "knee", "hip")),
)


def _named_points(
    legs: Mapping[str, Leg],
    upper: Mapping[str, Array],
    mid_hip: Array,
    sway_m: Array | float,
    shape: tuple[int, ...],
) -> Named:
    """Every landmark of the body by its name, m, each made when it is asked for."""

    def make(name: str) -> Array:
        if name == "hip_mid":
            return widened(mid_hip, shape)
        if name in MIDDLE:
            return widened(upper[name], shape)
        part, _, side = name.rpartition("_")
        if part in ARM:
            return widened(_sided(upper[part], side, sway_m), shape)
        leg = legs[side]
        point: Array = getattr(leg.foot if part in FOOT else leg, part)
        return widened(_sided(point, side), shape)

    return Named(NAMES, make)


def assemble(
    body: Body,
    legs: Mapping[str, Leg],
    stack: Stack,
    pelvis_rad: Array,
    trunk_rad: Array,
    sway_m: Array | float = 0.0,
) -> Pose:
    """Put both legs and the upper body together.

    ``legs`` holds each side's leg in its own outward-positive frame (a symmetrical pose uses one
    leg twice); ``sway_m`` is how far the pelvis has shifted to the right.
    """
    one = legs["right"]
    mid_hip = vector(one.hip[0], one.hip[1], sway_m)
    upper = stack.place(mid_hip, pelvis_rad, trunk_rad)
    shape = np.broadcast_shapes(
        upper["shoulder"].shape,
        *(leg.hip.shape for leg in legs.values()),
        *(leg.foot.ankle.shape for leg in legs.values()),
    )
    points = _named_points(legs, upper, mid_hip, sway_m, shape)
    centres = _segment_centres(body, legs, stack, upper, trunk_rad, sway_m)
    names, segments, load_points, load_masses = _place_loads(stack, upper, sway_m)
    axes, longs = _joint_axes(legs, points)
    wide = shape[1:]
    return Pose(
        points=points,
        centres=_stack_points([centres[name] for name in SEGMENTS], shape),
        masses=_stack_values([body.mass[_kind(name)] for name in SEGMENTS], wide),
        load_names=names,
        load_segments=segments,
        load_points=_stack_points(load_points, shape),
        load_masses=_stack_values(load_masses, wide),
        proximal_axes=axes,
        long_axes=longs,
        pelvis_rad=widened(pelvis_rad, wide),
        trunk_rad=widened(trunk_rad, wide),
        knee_flexion_rad={s: widened(g.knee_flexion_rad, wide) for s, g in legs.items()},
        dorsiflexion_rad={s: widened(g.dorsiflexion_rad, wide) for s, g in legs.items()},
        hip_opening_rad={s: widened(g.hip_opening_rad, wide) for s, g in legs.items()},
    )


def _sided(point: Array, side: str, middle_m: Array | float = 0.0) -> Array:
    """A right-hand point for its side: mirrored about the mid-plane for the left."""
    return point if side == "right" else vector(point[0], point[1], 2.0 * middle_m - point[2])


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
    body: Body,
    legs: Mapping[str, Leg],
    stack: Stack,
    upper: Mapping[str, Array],
    trunk_rad: Array,
    sway_m: Array | float,
) -> dict[str, Array]:
    centres = {part: upper[f"centre_{part}"] for part in ("pelvis", "trunk", "head")}
    lean = trunk_rad if stack.arm.rigid else np.zeros_like(trunk_rad)
    for part, offset in arm_centres(body, stack.arm).items():
        turned = sagittal(lean, offset[0], offset[1])
        centre = upper["shoulder"] + turned + vector(0.0, 0.0, offset[2])
        for side in SIDES:
            centres[f"{part}_{side}"] = _sided(centre, side, sway_m)
    for side, leg in legs.items():
        for part, centre in leg_centres(body, leg).items():
            centres[f"{part}_{side}"] = _sided(centre, side)
    return centres


def _place_loads(
    stack: Stack, upper: Mapping[str, Array], sway_m: Array | float
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
            points.append(_sided(point, "left", sway_m) if carrier.endswith("_left") else point)
            masses.append(load.mass_kg / len(load.carried_by))
    return tuple(names), tuple(segments), points, masses


def _joint_axes(
    legs: Mapping[str, Leg], points: Mapping[str, Array]
) -> tuple[dict[str, Array], dict[str, Array]]:
    """Flexion axes of the proximal segments and long axes of the distal ones, both sides.

    The pelvis points straight ahead, so its right-pointing axis is Z. The left knee's axis is the
    mirrored right one turned round, so that it points right again.
    """
    hip = legs["right"].hip
    right_pointing = vector(0.0, 0.0, 1.0).reshape(3, *([1] * (hip.ndim - 1)))
    axes = {"lumbosacral": right_pointing}
    longs: dict[str, Array] = {}
    for side, leg in legs.items():
        axis = leg.knee_axis if side == "right" else -mirror(leg.knee_axis)
        axes[f"hip_{side}"] = right_pointing
        axes[f"knee_{side}"] = axes[f"ankle_{side}"] = axis
        longs[f"hip_{side}"] = points[f"hip_{side}"] - points[f"knee_{side}"]
        longs[f"knee_{side}"] = points[f"knee_{side}"] - points[f"ankle_{side}"]
    return axes, longs
