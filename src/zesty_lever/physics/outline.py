"""A pose that is only being tried: as much of it as bands, cables and hands hold on to."""

from __future__ import annotations

from collections.abc import Mapping

from zesty_lever.frozen import dataclass, lazy
from zesty_lever.physics.body import Body
from zesty_lever.physics.legs import Leg
from zesty_lever.physics.upper_body import Stack
from zesty_lever.physics.vectors import Array, mirrored, sagittal, vector


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
    """Both legs, each in its own outward-positive frame, pelvis and trunk at some leans (rad).

    ``sway_m`` is how far the pelvis has shifted to the right.
    """

    body: Body
    stack: Stack
    legs: Mapping[str, Leg]
    pelvis_rad: Array
    trunk_rad: Array
    sway_m: Array | float = 0.0

    @lazy
    def points(self) -> Places:
        """Points by their names in a `Pose`, as far as something can be fixed there."""
        return Places(self)

    def place(self, name: str) -> Array:
        """One point, ``(3, ...)`` m. Raises `KeyError` for one where nothing can be fixed."""
        if name == "hip_mid":
            hip = self.legs["right"].hip
            return vector(hip[0], hip[1], self.sway_m + 0.0 * self.trunk_rad)
        if name == "shoulder_mid":
            return self.points["hip_mid"] + self.stack.to_shoulder(self.pelvis_rad, self.trunk_rad)
        kind, _, side = name.rpartition("_")
        if kind == "hand":
            return self._hand if side == "right" else mirrored(self._hand, self.sway_m)
        leg = self.legs[side]
        own = {"hip": leg.hip, "knee": leg.knee, "ankle": leg.foot.ankle}[kind]
        return own if side == "right" else mirrored(own)

    @lazy
    def _hand(self) -> Array:
        arm, half = self.stack.arm, 0.5 * self.body.lengths["shoulder_width"]
        x, y, z = arm.hand
        if arm.rigid:
            x, y, _ = sagittal(self.trunk_rad, x, y)
        return self.points["shoulder_mid"] + vector(x, y, half + z)
