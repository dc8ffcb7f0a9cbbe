"""Legs that are only being tried: as much of them as a search asks for, again and again."""

from __future__ import annotations

import numpy as np

from zesty_lever.physics.body import Body
from zesty_lever.physics.legs import (
    LEAST_RADIUS_M,
    NEARLY_FOLDED_M,
    NEARLY_STRAIGHT,
    STRAIGHTENS_BELOW_RAD,
    Foot,
    Sideways,
    ThighPlace,
    sideways_of,
)
from zesty_lever.physics.vectors import Array, smoothstep


class LegTrial:
    """Where knee and hip of a right leg lie, for a search that asks again and again.

    The numbers of `place_leg`, without points in space; each call takes one step of the sideways term from
    where the last one left it, so what it tells is exact once the search has come to rest.
    """

    def __init__(self, body: Body, foot: Foot, toe_out_rad: Array, track_m: Array) -> None:
        self._body, self._foot = body, foot
        self._turn = np.tan(toe_out_rad)
        self._offset = track_m / np.cos(toe_out_rad)
        self._half_hips = 0.5 * body.lengths["hip_width"]
        self._outward_m: Array | None = None

    def ahead(self, shin_rad: Array, thigh_rad: Array) -> tuple[Array, Array]:
        """Knee and hip ahead of the ankle, m."""
        track, at = self._asked(shin_rad, thigh_rad, self._half_hips)
        knee = at.up * track.lean
        return knee, knee - at.side_view * track.along

    def places(
        self, shin_rad: Array, thigh_rad: Array, hip_out_m: Array
    ) -> tuple[tuple[Array, Array, Array], tuple[Array, Array]]:
        """Knee (ahead, up, outward) and hip (ahead, up) of a leg whose hip lies so far outward, m."""
        track, at = self._asked(shin_rad, thigh_rad, hip_out_m)
        x, y, z = self._foot.ankle
        knee_x, knee_y = x + at.up * track.lean, y + at.up
        knee_z = z + at.up * track.over_toes + self._outward_m
        hip_y = knee_y + at.side_view * np.sin(thigh_rad)
        return (knee_x, knee_y, knee_z), (knee_x - at.side_view * track.along, hip_y)

    def _asked(
        self, shin_rad: Array, thigh_rad: Array, hip_out_m: Array
    ) -> tuple[Sideways, ThighPlace]:
        """The leg's equation, and what its sideways term gives."""
        bent = smoothstep((shin_rad + 0.5 * np.pi - thigh_rad) / STRAIGHTENS_BELOW_RAD)
        to_hip_out = hip_out_m - self._foot.ankle[2]
        angles = (shin_rad, thigh_rad, self._turn)
        track = sideways_of(self._body, angles, bent, self._offset, to_hip_out)
        start = self._outward_m
        if start is None or start.shape != bent.shape:
            start = track.first(shin_rad)
        self._outward_m, at = track.stepped(start)
        return track, at


class ReachTrial:
    """Where the knee of a leg between a given ankle and a hip lies, for a search that asks again and again.

    The numbers of `reach_leg` for a knee that tracks over the toes, without points in space.
    """

    def __init__(self, body: Body, foot: Foot, toe_out_rad: Array) -> None:
        shank, thigh = body.lengths["shank"], body.lengths["thigh"]
        self._foot, self._turn = foot, np.tan(toe_out_rad)
        self._shank_2, self._both_2 = shank * shank, 2.0 * shank * thigh
        self._apart_2 = self._shank_2 - thigh * thigh
        self._sum_2 = self._shank_2 + thigh * thigh
        self._share = shank / (shank + thigh)
        self._least = np.abs(shank - thigh) + NEARLY_FOLDED_M
        self._most = (shank + thigh) * NEARLY_STRAIGHT

    def knee_and_hip(
        self, hip_x: Array, hip_y: Array, hip_z: Array
    ) -> tuple[tuple[Array, Array], tuple[Array, Array]]:
        """Knee and hip (ahead, outward) of a leg to a hip, m: the hip comes nearer where the leg is too short."""
        ankle_x, ankle_y, ankle_z = self._foot.ankle
        line_x, line_y, line_z = hip_x - ankle_x, hip_y - ankle_y, hip_z - ankle_z
        full = np.sqrt(line_x * line_x + line_y * line_y + line_z * line_z)
        distance = np.minimum(np.maximum(full, self._least), self._most)
        x, y, z = line_x / full, line_y / full, line_z / full
        distance_2 = distance * distance
        along = (self._apart_2 + distance_2) / (2.0 * distance)
        radius = np.sqrt(np.maximum(self._shank_2 - along * along, 0.0))
        bend = np.minimum(np.maximum((distance_2 - self._sum_2) / self._both_2, -1.0), 1.0)
        bent = smoothstep(np.arccos(bend) / STRAIGHTENS_BELOW_RAD)
        # Two ways off the line from ankle to hip: ahead (y, -x, 0) and aside, which has only -level sideways.
        level = np.sqrt(x * x + y * y)
        on_ahead = -self._turn * y / level
        on_aside = -level - self._turn * z * x / level
        wanted = ((1.0 - bent) * self._share * full - along) * (z - self._turn * x)
        size = np.sqrt(on_ahead * on_ahead + on_aside * on_aside)
        reach = radius * size
        c = wanted / np.where(reach > LEAST_RADIUS_M, reach, 1.0)
        c = np.minimum(np.maximum(c, -1.0), 1.0)
        # Of both ways round the one that keeps the knee ahead.
        s = np.copysign(np.sqrt(1.0 - c * c), -on_aside)
        out = radius / size
        ahead = out * (on_ahead * c - on_aside * s)
        aside = out * (on_aside * c + on_ahead * s)
        knee_x = ankle_x + along * x + (ahead * y + aside * z * x) / level
        knee_z = ankle_z + along * z - aside * level
        return (knee_x, knee_z), (ankle_x + distance * x, ankle_z + distance * z)
