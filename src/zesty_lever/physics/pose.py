"""A whole-body pose: every named point, every segment's mass centre, the axes of the joints."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from zesty_lever.frozen import dataclass, lazy
from zesty_lever.joints import JOINTS, SIDES
from zesty_lever.physics.body import SEGMENTS, Body
from zesty_lever.physics.legs import Leg
from zesty_lever.physics.upper_body import ARM_PARTS, Stack
from zesty_lever.physics.vectors import (
    Array,
    Named,
    in_rows,
    mirrored,
    one_over,
    summed,
    vector,
    widened,
)


@dataclass(frozen=True)
class Pose:
    """Positions in ISB axes, m. Every array ends in the pose axes.

    ``points`` maps names (``ankle_left``, ``lumbosacral``, ``bar`` ...) to ``(3, ...)``;
    ``weighed`` is where mass is, ``(3, 15 + loads, ...)``: segments in the order of ``SEGMENTS``, then loads;
    ``weighing`` how much, ``(15 + loads, ...)`` kg. ``proximal_axes`` holds each joint's
    right-pointing flexion axis, ``long_axes`` the distal segment's long axis (distal to proximal).
    """

    points: Mapping[str, Array]
    weighed: Array
    weighing: Array
    load_names: tuple[str, ...]
    load_segments: tuple[str, ...]
    proximal_axes: Mapping[str, Array]
    long_axes: Mapping[str, Array]
    pelvis_rad: Array
    trunk_rad: Array
    knee_flexion_rad: Mapping[str, Array]
    dorsiflexion_rad: Mapping[str, Array]
    hip_opening_rad: Mapping[str, Array]
    # Whether the left leg is the right one's twin.
    alike: bool = False

    @property
    def centres(self) -> Array:
        """Mass centres of the segments in the order of ``SEGMENTS``, ``(3, 15, ...)`` m."""
        rows: Array = self.weighed[:, : len(SEGMENTS)]
        return rows

    @property
    def masses(self) -> Array:
        """Masses of the segments, ``(15, ...)`` kg."""
        rows: Array = self.weighing[: len(SEGMENTS)]
        return rows

    @property
    def load_points(self) -> Array:
        """Where the loads are, ``(3, loads, ...)`` m."""
        rows: Array = self.weighed[:, len(SEGMENTS) :]
        return rows

    @property
    def load_masses(self) -> Array:
        """Masses of the loads, ``(loads, ...)`` kg."""
        rows: Array = self.weighing[len(SEGMENTS) :]
        return rows

    @lazy
    def joints(self) -> Array:
        """Centres of all joints in the order of ``JOINTS``, ``(3, joints, ...)`` m."""
        return in_rows([self.points[name] for name in JOINTS])

    @lazy
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
        total: Array = summed(self.weighing)
        return total

    def system_centre(self) -> Array:
        """Mass centre of athlete and loads, ``(3, ...)`` m."""
        return self._centre

    @lazy
    def _centre(self) -> Array:
        parts = self.weighed * self.weighing
        moment = summed(parts[:, row] for row in range(parts.shape[1]))
        centre: Array = moment / self.system_mass_kg()
        return centre


def leg_first_moment(body: Body, leg: Leg) -> Array:
    """First moment of one leg along X, kg m."""
    ankle, knee, hip = leg.foot.ankle[0], leg.knee[0], leg.hip[0]
    moment: Array = (
        body.mass["foot"] * leg.foot.centre[0]
        + body.mass["shank"] * (knee + body.centre["shank"] * (ankle - knee))
        + body.mass["thigh"] * (hip + body.centre["thigh"] * (knee - hip))
    )
    return moment


def leg_centres(body: Body, leg: Leg) -> dict[str, Array]:
    """Mass centres of the right leg's segments, m."""
    foot = leg.foot
    return {
        "foot": foot.centre,
        "shank": leg.knee - body.centre["shank"] * leg.shank,
        "thigh": leg.hip - body.centre["thigh"] * leg.thigh,
    }


RIGHT = np.array([0.0, 0.0, 1.0])
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
    shapes = {upper["shoulder"].shape}
    for leg in legs.values():
        shapes |= {leg.hip.shape, leg.foot.ankle.shape}
    shape = np.broadcast_shapes(*shapes) if len(shapes) > 1 else shapes.pop()
    points = _named_points(legs, upper, mid_hip, sway_m, shape)
    centres = _segment_centres(body, legs, upper, sway_m)
    names, segments, load_points, load_masses = _place_loads(stack, upper, sway_m)
    axes, longs = _joint_axes(legs)
    wide = shape[1:]
    return Pose(
        points=points,
        weighed=in_rows([*(centres[name] for name in SEGMENTS), *load_points], shape),
        weighing=one_over([*(body.mass[_kind(name)] for name in SEGMENTS), *load_masses], wide),
        load_names=names,
        load_segments=segments,
        proximal_axes=axes,
        long_axes=longs,
        pelvis_rad=widened(pelvis_rad, wide),
        trunk_rad=widened(trunk_rad, wide),
        knee_flexion_rad={s: widened(g.knee_flexion_rad, wide) for s, g in legs.items()},
        dorsiflexion_rad={s: widened(g.dorsiflexion_rad, wide) for s, g in legs.items()},
        hip_opening_rad={s: widened(g.hip_opening_rad, wide) for s, g in legs.items()},
        alike=legs["left"] is legs["right"],
    )


def _sided(point: Array, side: str, middle_m: Array | float = 0.0) -> Array:
    """A right-hand point for its side: mirrored about the mid-plane for the left."""
    return point if side == "right" else mirrored(point, middle_m)


def _kind(segment: str) -> str:
    return segment.removesuffix("_left").removesuffix("_right")


def _segment_centres(
    body: Body,
    legs: Mapping[str, Leg],
    upper: Mapping[str, Array],
    sway_m: Array | float,
) -> dict[str, Array]:
    centres = {part: upper[f"centre_{part}"] for part in ("pelvis", "trunk", "head")}
    for part in ARM_PARTS:
        centre = upper[f"centre_{part}"]
        for side in SIDES:
            centres[f"{part}_{side}"] = _sided(centre, side, sway_m)
    of_right = leg_centres(body, legs["right"])
    of_left = of_right if legs["left"] is legs["right"] else leg_centres(body, legs["left"])
    for side, own in (("left", of_left), ("right", of_right)):
        for part, centre in own.items():
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


def _joint_axes(legs: Mapping[str, Leg]) -> tuple[dict[str, Array], dict[str, Array]]:
    """Flexion axes of the proximal segments and long axes of the distal ones, both sides.

    The pelvis points straight ahead, so its right-pointing axis is Z. The left knee's axis is the
    mirrored right one turned round, so that it points right again.
    """
    hip = legs["right"].hip
    right_pointing = RIGHT.reshape(3, *([1] * (hip.ndim - 1)))
    axes = {"lumbosacral": right_pointing}
    longs: dict[str, Array] = {}
    for side, leg in legs.items():
        axis = leg.knee_axis if side == "right" else -mirrored(leg.knee_axis)
        axes[f"hip_{side}"] = right_pointing
        axes[f"knee_{side}"] = axes[f"ankle_{side}"] = axis
        longs[f"hip_{side}"] = _sided(leg.thigh, side)
        longs[f"knee_{side}"] = _sided(leg.shank, side)
    return axes, longs
