"""A pose that is only being tried: as much of it as bands, cables and hands hold on to."""

from __future__ import annotations

from functools import cached_property

import numpy as np

from zesty_lever.frozen import dataclass
from zesty_lever.physics.body import Body
from zesty_lever.physics.legs import Leg, mirror
from zesty_lever.physics.upper_body import Stack
from zesty_lever.physics.vectors import Array, sagittal, vector


class Places(dict[str, Array]):
    """Points by name, ``(3, ...)`` m, worked out when they are asked for."""

    def __init__(self, outline: Outline) -> None:
        super().__init__()
        self._outline = outline

    def __missing__(self, name: str) -> Array:
        self[name] = found = self._outline.place(name)
        return found


@dataclass(frozen=True)
class Outline:
    """Both legs alike, pelvis and trunk at some leans (rad)."""

    body: Body
    stack: Stack
    leg: Leg
    pelvis_rad: Array
    trunk_rad: Array

    @cached_property
    def points(self) -> Places:
        """Points by their names in a `Pose`, as far as something can be fixed there."""
        return Places(self)

    def place(self, name: str) -> Array:
        """One point, ``(3, ...)`` m. Raises `KeyError` for one where nothing can be fixed."""
        if name == "hip_mid":
            hip = self.leg.hip
            return vector(hip[0], hip[1], 0.0 * self.trunk_rad)
        if name == "shoulder_mid":
            return self.points["hip_mid"] + self.stack.to_shoulder(self.pelvis_rad, self.trunk_rad)
        kind, _, side = name.rpartition("_")
        right = self._hand() if kind == "hand" else self._of_leg(kind)
        return right if side == "right" else mirror(right)

    def _of_leg(self, kind: str) -> Array:
        leg = self.leg
        return {"hip": leg.hip, "knee": leg.knee, "ankle": leg.foot.ankle}[kind]

    def _hand(self) -> Array:
        arm, half = self.stack.arm, 0.5 * self.body.lengths["shoulder_width"]
        lean = self.trunk_rad if arm.rigid else np.zeros_like(self.trunk_rad)
        turned = sagittal(lean, arm.hand[0], arm.hand[1])
        return self.points["shoulder_mid"] + turned + vector(0.0, 0.0, half + arm.hand[2])
