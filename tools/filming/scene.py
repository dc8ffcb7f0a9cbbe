"""What is filmed: a camera, poses over time, and where the skin is over each joint."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from zesty_lever.analysis import analyse
from zesty_lever.cases.model import Case

Array = NDArray[np.float64]
# From joint centre to the skin at its side, m: what a finger or a sticker sits on.
SKIN_M = {"ankle": 0.035, "knee": 0.055, "hip": 0.085, "shoulder": 0.06}
FACE_Z_M, SLEEVE_M, DISC_RADIUS_M = 0.75, 0.35, 0.225
# How far off a finger is from the joint's place, 2-D standard error, m (clothes; stickers sit better).
OFF_M = {"hip": 0.015, "knee": 0.007, "ankle": 0.004, "shoulder": 0.008, "bar": 0.002}
STICKER_OFF_M = {"hip": 0.008, "knee": 0.005, "ankle": 0.003, "shoulder": 0.006, "bar": 0.002}


@dataclass(frozen=True)
class Camera:
    """A pinhole camera: straight distance to the athlete's middle and height (m), turns (deg), focal length (px).

    ``yaw_deg`` + stands ahead of the athlete, ``pitch_deg`` + looks up, ``roll_deg`` + turns clockwise.
    """

    distance_m: float = 4.0
    height_m: float = 0.95
    yaw_deg: float = 0.0
    pitch_deg: float = 0.0
    roll_deg: float = 0.0
    focal_px: float = 1400.0
    width: int = 1280
    height: int = 720
    centre_off_px: tuple[float, float] = (0.0, 0.0)
    front: bool = False

    @cached_property
    def axes(self) -> tuple[Array, Array, Array, Array]:
        """Place, right, up and forward of the camera in ISB axes; seen from the right side or the front."""
        yaw, pitch, roll = np.radians([self.yaw_deg, self.pitch_deg, self.roll_deg])
        towards = np.array([np.sin(yaw), 0.0, np.cos(yaw)])
        if self.front:
            towards = np.array([np.cos(yaw), 0.0, np.sin(yaw)])
        place = self.distance_m * towards + np.array([0.0, self.height_m, 0.0])
        up = np.array([0.0, 1.0, 0.0])
        ahead = -towards
        right = np.cross(ahead, up)
        ahead, up = (
            ahead * np.cos(pitch) + up * np.sin(pitch),
            up * np.cos(pitch) - ahead * np.sin(pitch),
        )
        turned = right * np.cos(roll) - up * np.sin(roll), up * np.cos(roll) + right * np.sin(roll)
        return place, turned[0], turned[1], ahead

    def px(self, points: Array) -> Array:
        """Pixels ``(..., 2)`` of points ``(..., 3)`` m: x right, y down, centres at whole numbers."""
        place, right, up, ahead = self.axes
        rel = points - place
        depth = rel @ ahead
        x = self.focal_px * (rel @ right) / depth + 0.5 * (self.width - 1) + self.centre_off_px[0]
        y = -self.focal_px * (rel @ up) / depth + 0.5 * (self.height - 1) + self.centre_off_px[1]
        return np.stack([x, y], axis=-1)

    def scale(self, points: Array) -> Array:
        """Pixels a metre at points ``(..., 3)``."""
        place, _, _, ahead = self.axes
        return self.focal_px / ((points - place) @ ahead)


@dataclass(frozen=True)
class Take:
    """What is filmed: reps one after another, how the film is made, and by what chance."""

    cases: tuple[Case, ...]
    camera: Camera = Camera()
    rate: float = 30.0
    stand_s: float = 0.5
    stickers: bool = False
    seed: int = 0
    slide_m: float = 0.012
    shake_px: float = 0.6
    noise: float = 2.5
    crf: int = 23
    codec: str = "libx264"
    exposure_s: float = 1.0 / 90.0
    blur_steps: int = 2
    uneven: bool = False
    # From when to when (s) a post stands before the hip and knee.
    hides_s: tuple[float, float] | None = None
    bar: bool = True

    @cached_property
    def thick(self) -> float:
        """How much more than usual is between joint and skin: nobody is average."""
        return float(np.clip(np.random.default_rng([self.seed, 7]).normal(1.0, 0.15), 0.6, 1.4))

    def spots(self, time_s: Array | float) -> dict[str, Array]:
        """Where the near side's skin is over each joint, ``(3, ...)`` m."""
        return skin(self.motion.at(time_s), "right", self.thick)

    @cached_property
    def motion(self) -> Motion:
        """Where every point is, at any time."""
        return Motion(self)

    @cached_property
    def times_s(self) -> Array:
        """Times of the frames."""
        count = int(self.motion.whole_s * self.rate)
        times = np.arange(count) / self.rate
        if self.uneven:
            rng = np.random.default_rng([self.seed, 9])
            steps = np.diff(times, prepend=0.0) * rng.choice([0.6, 1.0, 1.0, 1.9], count)
            times = np.round(np.cumsum(steps) * 1000.0) / 1000.0
        return times


def _placed_off(take: Take) -> Array:
    """A bar lies a little off its usual place, m."""
    off = np.random.default_rng([take.seed, 8]).normal(0.0, 0.012, 2)
    return np.array([off[0], off[1], 0.0])[:, None]


class Motion:
    """The poses of a take over time: named points ``(3, n)`` at given times."""

    def __init__(self, take: Take) -> None:
        at = 0.0
        self.reps: list[tuple[float, float, float]] = []
        times: list[Array] = []
        tracks: dict[str, list[Array]] = {}
        for case in take.cases:
            result = analyse(case)
            solved, line = result.solved, result.timeline
            at += take.stand_s
            own = line.time_s + at
            times += [np.array([own[0] - take.stand_s + 1e-6]), own]
            named = dict(solved.pose.points)
            for row, name in enumerate(solved.pose.load_names):
                if name == "bar":
                    named["bar"] = solved.pose.load_points[:, row] + _placed_off(take)
            for name, value in named.items():
                whole = np.broadcast_to(value, (3, len(own)))
                tracks.setdefault(name, []).extend([whole[:, :1], whole])
            bottom = line.bottom
            self.reps.append((own[0], float(own[bottom]), float(own[-1])))
            at = float(own[-1])
        self.whole_s = at + take.stand_s
        times.append(np.array([self.whole_s]))
        self.times = np.concatenate(times)
        self.tracks = {
            name: np.concatenate([*parts, parts[-1][:, -1:]], axis=1)
            for name, parts in tracks.items()
        }

    def at(self, time_s: Array | float) -> dict[str, Array]:
        """Points by name ``(3, ...)``."""
        return {
            name: np.stack([np.interp(time_s, self.times, row) for row in track])
            for name, track in self.tracks.items()
        }

    def angles_deg(self, time_s: Array, side: str = "right") -> dict[str, Array]:
        """True side-view angles: shin, thigh, trunk."""
        p = self.at(time_s)
        ankle, knee, hip = (p[f"{name}_{side}"] for name in ("ankle", "knee", "hip"))
        line = p["shoulder_mid"] - p["hip_mid"]
        return {
            "shin": np.degrees(np.arctan2(knee[0] - ankle[0], knee[1] - ankle[1])),
            "thigh": np.degrees(np.arctan2(hip[1] - knee[1], knee[0] - hip[0])),
            "trunk": np.degrees(np.arctan2(line[0], line[1])),
        }


def outward(points: Mapping[str, Array], side: str) -> dict[str, Array]:
    """Unit vectors ``(3, ...)`` from each leg joint to the skin at its outer side."""
    sign = 1.0 if side == "right" else -1.0
    ankle, knee, hip, heel, toe = (
        points[f"{n}_{side}"] for n in ("ankle", "knee", "hip", "heel", "toe")
    )
    foot = toe - heel
    flat = np.stack([-foot[2] * 1.0, np.zeros_like(foot[0]), foot[0]]) * sign
    flat = flat / np.linalg.norm(flat, axis=0)
    plane = np.cross(knee - ankle, hip - knee, axis=0) * sign
    size = np.linalg.norm(plane, axis=0)
    bend = np.clip(size / 0.06, 0.0, 1.0)
    normal = flat * (1.0 - bend) + bend * plane / np.maximum(size, 1e-9)
    normal = np.where((normal * flat).sum(axis=0) < 0.0, -normal, normal)
    # The plane's normal points outwards and a little ahead or behind; a thigh has its own.
    normal = normal / np.linalg.norm(normal, axis=0)
    return {"ankle": flat, "knee": normal, "hip": normal}


def skin(points: Mapping[str, Array], side: str, thick: float = 1.0) -> dict[str, Array]:
    """Where a finger or a sticker sits over each joint, ``(3, ...)`` m; ``thick``: of a leaner or heavier body."""
    ways = outward(points, side)
    spots = {
        n: points[f"{n}_{side}"] + thick * SKIN_M[n] * ways[n] for n in ("ankle", "knee", "hip")
    }
    sign = 1.0 if side == "right" else -1.0
    spots["shoulder"] = points[f"shoulder_{side}"] + np.array(
        [0.0, 0.0, sign * SKIN_M["shoulder"]]
    ).reshape((3,) + (1,) * (points["hip_mid"].ndim - 1))
    spots |= {n: points[f"{n}_{side}"] for n in ("heel", "ball", "toe")}
    if "bar" in points:
        bar = points["bar"].copy()
        bar[2] = sign * FACE_Z_M
        spots["bar"] = bar
        spots["sleeve"] = bar + np.array([0.0, 0.0, sign * SLEEVE_M]).reshape(
            (3,) + (1,) * (bar.ndim - 1)
        )
    return spots
