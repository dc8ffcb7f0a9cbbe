"""Films invented athletes: clips with known truth, for the demo and for the tests of measuring.

The body is the program's own pose, seen by a pinhole camera: textured limbs and clothes that slide over
the joints, a bar with its disc, a wall; with blur, noise, shake and compression. What is filmed is
invented; what is known exactly is where every joint is. ``python tools/film.py`` writes the demo's clips.
"""

from __future__ import annotations

import io
import json
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from fractions import Fraction
from functools import cached_property
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from zesty_lever.analysis import analyse
from zesty_lever.cases.model import Athlete, Case
from zesty_lever.models import read

Array = NDArray[np.float64]
ROOT = Path(__file__).resolve().parent.parent
DEMO = ROOT / "src/zesty_lever/data/demo"
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


# --- painting --------------------------------------------------------------------------------


def cloth(rng: np.random.Generator, size: int = 512, fine: float = 1.0) -> Array:
    """A texture ``(size, size)`` about 0: weave, creases and blotches, periodic."""
    spectrum = np.fft.fft2(rng.standard_normal((size, size)))
    freq = np.hypot(*np.meshgrid(np.fft.fftfreq(size), np.fft.fftfreq(size)))
    shaped = spectrum / (freq + 0.004 / fine) ** 1.1 * np.exp(-((freq / (0.16 * fine)) ** 2))
    shaped[0, 0] = 0.0
    image = np.real(np.fft.ifft2(shaped))
    texture: Array = (image / image.std()).astype(np.float32)
    return texture


@dataclass
class Canvas:
    """A picture ``(height, width)`` of luma that limbs are painted on."""

    luma: NDArray[np.float32]

    def _box(self, low: Array, high: Array) -> tuple[slice, slice, Array, Array] | None:
        tall, wide = self.luma.shape
        x0, y0 = max(int(low[0]), 0), max(int(low[1]), 0)
        x1, y1 = min(int(high[0]) + 2, wide), min(int(high[1]) + 2, tall)
        if x0 >= x1 or y0 >= y1:
            return None
        ys, xs = np.mgrid[y0:y1, x0:x1].astype(np.float32)
        return slice(y0, y1), slice(x0, x1), xs, ys

    def limb(
        self,
        a: Array,
        b: Array,
        wide_a: float,
        wide_b: float,
        tone: float,
        texture: Array,
        grain: float,
        scale: float,
        slide: float = 0.0,
    ) -> None:
        """A tapered limb from a to b (px), half-widths (px); texture moves with it, slid along by metres."""
        most = max(wide_a, wide_b) + 1.0
        box = self._box(np.minimum(a, b) - most, np.maximum(a, b) + most)
        if box is None:
            return
        rows, columns, xs, ys = box
        along = b - a
        length = max(float(np.hypot(*along)), 1e-6)
        ux, uy = along / length
        u = (xs - a[0]) * ux + (ys - a[1]) * uy
        v = -(xs - a[0]) * uy + (ys - a[1]) * ux
        share = np.clip(u / length, 0.0, 1.0)
        half = wide_a + (wide_b - wide_a) * share
        beyond = u - share * length
        gap = half - np.hypot(v, beyond)
        cover = np.clip(gap + 0.5, 0.0, 1.0)
        metre = 1.0 / scale
        fu, fv = (u * metre + slide) * 900.0, v * metre * 900.0
        size = texture.shape[0]
        iu, iv = np.floor(fu), np.floor(fv)
        du, dv = fu - iu, fv - iv
        i0, j0 = iu.astype(np.int32) % size, iv.astype(np.int32) % size
        i1, j1 = (i0 + 1) % size, (j0 + 1) % size
        pattern = (texture[i0, j0] * (1 - du) + texture[i1, j0] * du) * (1 - dv) + (
            texture[i0, j1] * (1 - du) + texture[i1, j1] * du
        ) * dv
        round_ = np.sqrt(np.clip(1.0 - (v / np.maximum(half, 1e-6)) ** 2, 0.05, 1.0))
        value = tone * (0.55 + 0.45 * round_) + grain * pattern
        part = self.luma[rows, columns]
        part += cover * (value - part)

    def disc(
        self, at: Array, radius: float, tone: float, rim: float = 0.0, squash: float = 1.0
    ) -> None:
        """A round thing seen from its side, with a rim of another tone."""
        box = self._box(at - radius - 1.0, at + radius + 1.0)
        if box is None:
            return
        rows, columns, xs, ys = box
        gap = radius - np.hypot((xs - at[0]) / squash, ys - at[1])
        cover = np.clip(gap + 0.5, 0.0, 1.0)
        value = np.where(gap < 0.12 * radius, tone + rim, tone)
        part = self.luma[rows, columns]
        part += cover * (value - part)


def post_px(camera: Camera) -> Array:
    """Foot and top of an upright post at the wall, ``(2, 2)`` px."""
    away = 0.38 * camera.width * (camera.distance_m + 2.0) / camera.focal_px
    ends = np.array([[-away, 0.0, -2.0], [-away, 2.6, -2.0]])
    return camera.px(ends[:, [2, 1, 0]] if camera.front else ends)


def wall(take: Take, rng: np.random.Generator, margin: int) -> NDArray[np.float32]:
    """The room behind: a wall with boards, an upright post, the floor's edge; larger by a margin."""
    camera = take.camera
    tall, wide = camera.height + 2 * margin, camera.width + 2 * margin
    base = np.full((tall, wide), 150.0)
    base += np.tile(6.0 * cloth(rng, 512, 0.5), (tall // 512 + 1, wide // 512 + 1))[:tall, :wide]
    ys, xs = np.mgrid[0:tall, 0:wide]
    place = camera.px(
        np.array([0.0, 0.0, -2.0]) if not camera.front else np.array([-2.0, 0.0, 0.0])
    )
    floor = place[1] + margin
    base[ys > floor] = 96.0 + 0.06 * (ys[ys > floor] - floor)
    base += 5.0 * (((xs // 97) % 2) - 0.5) * (ys < floor)
    low, high = post_px(camera) + margin
    across = (xs - low[0]) - (ys - low[1]) * (high[0] - low[0]) / (high[1] - low[1])
    base[(np.abs(across) < 9.0) & (ys < low[1])] = 60.0
    return np.clip(base, 0, 255).astype(np.float32)


@dataclass
class Film:
    """The frames of a take and all that is known about them."""

    take: Take
    shifts: Array = field(init=False)

    def __post_init__(self) -> None:
        """Draw what is left to chance."""
        rng = np.random.default_rng(self.take.seed)
        self._textures = [cloth(rng, fine=f) for f in (1.0, 0.8, 1.2, 0.7)]
        self._margin = 12
        self._wall = wall(self.take, rng, self._margin)
        count = len(self.take.times_s)
        walk = np.cumsum(rng.standard_normal((count + 20, 2)), axis=0)
        kernel = np.ones(9) / 9.0
        smooth = np.stack([np.convolve(c, kernel, "same") for c in walk.T], axis=1)[10 : count + 10]
        smooth = smooth - smooth.mean(axis=0)
        spread = max(float(smooth.std()), 1e-9)
        self.shifts = np.clip(smooth / spread * self.take.shake_px, -8.0, 8.0)
        self._rng = np.random.default_rng([self.take.seed, 3])
        # How the clothes slide: a part goes with the bending, a part comes and goes.
        self._slides = (
            np.random.default_rng([self.take.seed, 4]).uniform(0.4, 1.0, 3) * self.take.slide_m
        )

    def _still(self, time_s: float, shift: Array) -> NDArray[np.float32]:
        take, camera = self.take, self.take.camera
        whole = np.floor(shift).astype(int)
        part = shift - whole
        m = self._margin
        y0, x0 = m - whole[1], m - whole[0]
        tall, wide = camera.height, camera.width
        back = self._wall
        here = back[y0 : y0 + tall, x0 : x0 + wide]
        left = back[y0 : y0 + tall, x0 - 1 : x0 - 1 + wide]
        up = back[y0 - 1 : y0 - 1 + tall, x0 : x0 + wide]
        canvas = Canvas(
            (here * (1 - part[0] - part[1]) + left * part[0] + up * part[1]).astype(np.float32)
        )
        points = take.motion.at(time_s)
        if camera.front:
            self._front(canvas, points, shift)
        else:
            self._side(canvas, points, shift)
        if take.hides_s and take.hides_s[0] <= time_s <= take.hides_s[1]:
            at = camera.px(skin(points, "right", take.thick)["hip"])
            canvas.limb(at + [-6, -260], at + [0, 260], 40, 40, 45.0, self._textures[0], 2.0, 300.0)
        return canvas.luma

    def _leg(
        self, canvas: Canvas, points: Mapping[str, Array], side: str, shift: Array, tone: float
    ) -> None:
        camera, textures = self.take.camera, self._textures
        spots = skin(points, side, self.take.thick) if side == "right" or camera.front else None
        raw = {n: points[f"{n}_{side}"] for n in ("ankle", "knee", "hip", "heel", "toe", "ball")}
        place = {
            **raw,
            **(
                {k: spots[k] for k in ("ankle", "knee", "hip")}
                if spots and not camera.front
                else {}
            ),
        }
        at = {name: camera.px(value) + shift for name, value in place.items()}
        s = float(camera.scale(place["knee"]))
        bend = float(np.arctan2(*(place["hip"] - place["knee"])[[1, 0]]))
        slip = self._slides * np.cos(bend)
        bare = 0.0 if self.take.stickers else 1.0
        canvas.limb(at["heel"], at["toe"], 0.045 * s, 0.028 * s, tone - 45, textures[3], 7.0, s)
        canvas.limb(at["ankle"], at["heel"], 0.04 * s, 0.04 * s, tone - 40, textures[3], 7.0, s)
        canvas.limb(
            at["knee"],
            at["ankle"],
            0.062 * s,
            0.042 * s,
            tone + 26,
            textures[1],
            11.0,
            s,
            slip[0] * 0.3 * bare,
        )
        canvas.limb(
            at["hip"], at["knee"], 0.105 * s, 0.064 * s, tone, textures[0], 13.0, s, slip[1] * bare
        )

    def _side(self, canvas: Canvas, points: Mapping[str, Array], shift: Array) -> None:
        camera, textures, take = self.take.camera, self._textures, self.take
        self._leg(canvas, points, "left", shift, 62.0)
        spots = skin(points, "right", take.thick)
        s = float(camera.scale(points["hip_mid"]))
        centre = {n: camera.px(points[n]) + shift for n in ("hip_mid", "shoulder_mid", "head_top")}
        neck = 0.7 * centre["shoulder_mid"] + 0.3 * centre["head_top"]
        canvas.limb(
            centre["hip_mid"],
            centre["shoulder_mid"],
            0.125 * s,
            0.135 * s,
            118.0,
            textures[2],
            14.0,
            s,
        )
        canvas.limb(
            neck,
            0.25 * neck + 0.75 * centre["head_top"],
            0.07 * s,
            0.085 * s,
            168.0,
            textures[1],
            8.0,
            s,
        )
        self._leg(canvas, points, "right", shift, 88.0)
        arm = {n: camera.px(points[f"{n}_right"]) + shift for n in ("shoulder", "elbow", "wrist")}
        canvas.limb(arm["shoulder"], arm["elbow"], 0.05 * s, 0.042 * s, 112.0, textures[2], 12.0, s)
        canvas.limb(arm["elbow"], arm["wrist"], 0.04 * s, 0.03 * s, 165.0, textures[1], 10.0, s)
        if take.bar and "bar" in spots:
            face = camera.px(spots["bar"]) + shift
            ds = float(camera.scale(spots["bar"]))
            squash = float(np.cos(np.radians(camera.yaw_deg)))
            canvas.disc(face, DISC_RADIUS_M * ds, 52.0, 30.0, squash)
            canvas.disc(face + [0.1 * ds, -0.08 * ds], 0.035 * ds, 96.0)
            canvas.disc(face + [-0.12 * ds, 0.02 * ds], 0.03 * ds, 88.0)
            canvas.disc(face, 0.032 * ds, 165.0, -90.0, squash)
            end = camera.px(spots["sleeve"]) + shift
            canvas.limb(face, end, 0.010 * ds, 0.012 * ds, 175.0, textures[1], 3.0, ds)
            canvas.disc(end, 0.012 * ds, 230.0)
        if take.stickers:
            for name in ("ankle", "knee", "hip"):
                spot = camera.px(spots[name]) + shift
                canvas.disc(spot, 0.018 * s, 245.0)
                canvas.disc(spot, 0.008 * s, 20.0)

    def _front(self, canvas: Canvas, points: Mapping[str, Array], shift: Array) -> None:
        camera, textures, take = self.take.camera, self._textures, self.take
        s = float(camera.scale(points["hip_mid"]))
        centre = {n: camera.px(points[n]) + shift for n in ("hip_mid", "shoulder_mid", "head_top")}
        neck = 0.7 * centre["shoulder_mid"] + 0.3 * centre["head_top"]
        if take.bar and "bar" in points:
            ends = [points["bar"] * [1, 1, 0] + [0, 0, z] for z in (-1.05, 1.05)]
            a, b = (camera.px(e) + shift for e in ends)
            canvas.limb(a, b, 0.014 * s, 0.014 * s, 190.0, textures[1], 3.0, s)
            for z in (-FACE_Z_M, FACE_Z_M):
                at = camera.px(points["bar"] * [1, 1, 0] + [0, 0, z]) + shift
                canvas.limb(
                    at + [0, -DISC_RADIUS_M * s],
                    at + [0, DISC_RADIUS_M * s],
                    0.02 * s,
                    0.02 * s,
                    52.0,
                    textures[3],
                    4.0,
                    s,
                )
        canvas.limb(
            centre["hip_mid"],
            centre["shoulder_mid"],
            0.15 * s,
            0.17 * s,
            118.0,
            textures[2],
            14.0,
            s,
        )
        canvas.limb(
            neck,
            0.25 * neck + 0.75 * centre["head_top"],
            0.07 * s,
            0.085 * s,
            168.0,
            textures[1],
            8.0,
            s,
        )
        for side in ("left", "right"):
            self._leg(canvas, points, side, shift, 80.0 if side == "left" else 92.0)
            arm = {
                n: camera.px(points[f"{n}_{side}"]) + shift for n in ("shoulder", "elbow", "wrist")
            }
            canvas.limb(
                arm["shoulder"], arm["elbow"], 0.05 * s, 0.042 * s, 112.0, textures[2], 12.0, s
            )
            canvas.limb(arm["elbow"], arm["wrist"], 0.04 * s, 0.03 * s, 165.0, textures[1], 10.0, s)
            for name in ("knee", "ankle", "hip", "toe"):
                spot = camera.px(points[f"{name}_{side}"]) + shift
                canvas.disc(spot, 0.02 * s, 226.0)
                canvas.disc(spot, 0.009 * s, 30.0)

    def frame(self, index: int) -> NDArray[np.uint8]:
        """One frame's luma, with blur and noise."""
        take = self.take
        offsets = (np.arange(take.blur_steps) + 0.5) / take.blur_steps - 0.5
        time_s = take.times_s[index]
        stills = [
            self._still(max(time_s + o * take.exposure_s, 0.0), self.shifts[index]) for o in offsets
        ]
        image = np.mean(stills, axis=0)
        image += take.noise * self._rng.standard_normal(image.shape).astype(np.float32)
        return np.clip(image + 0.5, 0, 255).astype(np.uint8)

    def write(self, path: Path, rotate: int = 0) -> None:
        """Encode the film; ``rotate``: turned by so many degrees in the file, upright again by its matrix."""
        import av

        take = self.take
        options = {"crf": str(take.crf), "preset": "veryfast"}
        if take.codec == "libx265":
            options["x265-params"] = "log-level=error"
        buffer = io.BytesIO()
        with av.open(buffer, "w", format="mp4") as out:
            first = np.rot90(self.frame(0), rotate // 90)
            stream: Any = out.add_stream(
                take.codec, rate=Fraction(take.rate).limit_denominator(1000)
            )
            stream.height, stream.width = first.shape
            stream.pix_fmt = "yuv420p"
            stream.options = options
            stream.time_base = stream.codec_context.time_base = Fraction(1, 90_000)
            stream.codec_context.gop_size = int(take.rate)
            for index, time_s in enumerate(take.times_s):
                luma = first if index == 0 else np.rot90(self.frame(index), rotate // 90)
                picture = av.VideoFrame.from_ndarray(_tinted(luma), format="yuv420p")
                picture.pts, picture.time_base = round(time_s * 90_000), Fraction(1, 90_000)
                out.mux(stream.encode(picture))
            out.mux(stream.encode(None))
        path.write_bytes(_turned(buffer.getvalue(), rotate))

    def clicks(
        self, frames: Sequence[int], names: Sequence[str], *, exact: bool = False
    ) -> dict[str, dict[int, list[float]]]:
        """Hand marks as a coach would set them: off by the finger on the body, and by a pixel."""
        take, camera = self.take, self.take.camera
        found: dict[str, dict[int, list[float]]] = {}
        for name in names:
            rng = np.random.default_rng([take.seed, 5, *name.encode()])
            joint, _, side = name.partition("_")
            size = (STICKER_OFF_M if take.stickers else OFF_M).get(joint, 0.003) / np.sqrt(2.0)
            own = rng.normal(0.0, size, 2)
            found[name] = {}
            for frame in frames:
                points = take.motion.at(float(take.times_s[frame]))
                spot = (
                    points[f"{joint}_{side}"] if side else skin(points, "right", take.thick)[joint]
                )
                s = float(camera.scale(spot))
                # The finger's error sits on the limb and turns with it.
                off = own * s + rng.normal(0.0, 0.6, 2)
                at = camera.px(spot) + self.shifts[frame] + (0.0 if exact else off)
                found[name][frame] = [round(float(v), 2) for v in at]
        return found


def _tinted(luma: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """A luma picture as warm-toned YUV 4:2:0, ``(3/2 height, width)``."""
    tall, wide = luma.shape
    warm = np.concatenate(
        [np.full(tall * wide // 4, 122, np.uint8), np.full(tall * wide // 4, 134, np.uint8)]
    )
    return np.concatenate([np.ascontiguousarray(luma), warm.reshape(tall // 2, wide)])


def _turned(data: bytes, rotate: int) -> bytes:
    """The file with the matrix of its track header turned by quarter turns."""
    if not rotate:
        return data
    at = data.index(b"tkhd") + 4 + 4 + 20 + 8 + 8
    one = 0x10000
    turns = {90: (0, one, -one, 0), 180: (-one, 0, 0, -one), 270: (0, -one, one, 0)}
    a, b, c, d = turns[rotate]
    matrix = b"".join(
        v.to_bytes(4, "big", signed=True) for v in (a, b, 0, c, d, 0, 0, 0, 0x40000000)
    )
    return data[:at] + matrix + data[at + 36 :]


# --- what a coach sets by hand ----------------------------------------------------------------


def key_frames(take: Take) -> list[int]:
    """The frames that are marked: the start, the deepest moment of each rep, the end."""
    deepest = [int(np.argmin(np.abs(take.times_s - rep[1]))) for rep in take.motion.reps]
    return [0, *deepest, len(take.times_s) - 1]


def marks_of(
    film: Film,
    frames: Sequence[int] | None = None,
    names: Sequence[str] = ("ankle", "knee", "hip", "bar"),
    *,
    sleeve: bool = False,
    yaw: bool = True,
    tape: bool = True,
    **more: Any,
) -> dict[str, Any]:
    """A marks file's data as a coach would set it for a film of the side: off by what tape and finger are off by."""
    take = film.take
    camera, case = take.camera, take.cases[0]
    rng = np.random.default_rng([take.seed, 6])
    at = list(key_frames(take) if frames is None else frames)
    points = take.motion.at(float(take.times_s[0]))
    spots = skin(points, "right", take.thick)
    shift = film.shifts[0]
    known: dict[str, Any] = {}
    if take.bar and "bar" in spots:
        face = camera.px(spots["bar"]) + shift
        radius = DISC_RADIUS_M * float(camera.scale(spots["bar"]))
        squash = float(np.cos(np.radians(camera.yaw_deg)))
        known["calibration"] = {
            "disc": {
                "frame": 0,
                "centre_px": [round(float(v + rng.normal(0, 0.7)), 2) for v in face],
                "half_axes_px": [
                    round(radius + rng.normal(0, 0.7), 2),
                    round(radius * squash + rng.normal(0, 0.7), 2),
                ],
                "diameter_m": 0.45,
                "face_z_m": round(FACE_Z_M + rng.normal(0, 0.02), 3),
            }
        }
        if sleeve:
            end = camera.px(spots["sleeve"]) + shift
            known["sleeve"] = {
                "frame": 0,
                "hub_px": [round(float(v + rng.normal(0, 0.6)), 2) for v in face],
                "end_px": [round(float(v + rng.normal(0, 0.6)), 2) for v in end],
                "length_m": SLEEVE_M,
            }
    low, high = post_px(camera)
    ends = [low + share * (high - low) for share in (0.1, 0.7)]
    known["plumb_px"] = [[round(float(v + rng.normal(0, 0.7)), 2) for v in end] for end in ends]
    if tape:
        known["camera"] = {
            "distance_m": round(camera.distance_m + rng.normal(0, 0.2), 2),
            "height_m": round(camera.height_m + rng.normal(0, 0.02), 2),
        }
        if yaw:
            known["camera"] |= {
                "yaw_deg": round(camera.yaw_deg + rng.normal(0, 1.5), 1),
                "yaw_sd_deg": 1.5,
            }
    # A tape on the floor and a look at the feet are off as well.
    off = {"stance_m": rng.normal(0, 0.03), "toe_out_deg": rng.normal(0, 3.0)}
    settings = {
        k: round(max(case.settings[k] + v, 0.1), 3)
        for k, v in off.items()
        if case.settings.get(k) is not None
    }
    return {
        "format": "zesty-lever-marks/1",
        "view": "side",
        "near_side": "right",
        "athlete": case.athlete.as_json(),
        "variation": case.variation,
        "load_kg": case.load_kg,
        "settings": settings,
        "stickers": take.stickers,
        "marks": {n: {str(f): p for f, p in v.items()} for n, v in film.clicks(at, names).items()},
        **known,
        **more,
    }


def some_take(seed: int, **more: Any) -> Take:
    """A take drawn by chance: a build, a technique, a load, a camera as coaches set it up."""
    rng = np.random.default_rng([seed, 1])
    sex = ("male", "female")[int(rng.integers(2))]
    height = round(float(rng.uniform(1.55, 1.95)), 2)
    athlete = Athlete(name="Invented", height_m=height, mass_kg=round(24.0 * height**2, 1), sex=sex)
    variation = ("back-squat-high-bar", "back-squat-low-bar", "back-squat-high-bar")[
        int(rng.integers(3))
    ]
    school = ("even", "hips-first", "knees-travel")[int(rng.integers(3))]
    case = Case(
        athlete=athlete,
        variation=variation,
        school=school,
        load_kg=float(rng.choice([40, 60, 80])),
        tempo_s=(
            round(float(rng.uniform(1.2, 2.2)), 1),
            0.0,
            round(float(rng.uniform(0.8, 1.4)), 1),
            0.0,
        ),
    )
    case = analyse(case).case
    yaw = float(more.pop("yaw_deg", rng.uniform(-2.0, 2.0)))
    camera = Camera(
        distance_m=float(rng.uniform(3.6, 4.6)),
        height_m=float(rng.uniform(0.75, 1.0)),
        yaw_deg=yaw,
        pitch_deg=float(rng.normal(0.0, 0.5)),
        roll_deg=float(rng.normal(0.0, 0.6)),
        centre_off_px=(float(rng.normal(0, 10)), float(rng.normal(0, 10))),
    )
    camera = replace(camera, focal_px=310.0 * camera.distance_m)
    return Take((case,), camera=camera, seed=seed, **more)


# --- the demo ---------------------------------------------------------------------------------


def front_marks_of(film: Film, frames: Sequence[int], **more: Any) -> dict[str, Any]:
    """A marks file's data for a film of the front: both legs' joints, a taped length on the floor between the ankles."""
    take = film.take
    names = [f"{n}_{s}" for n in ("ankle", "knee", "hip", "toe") for s in ("left", "right")]
    case = take.cases[0]
    low = np.array([0.0, 0.0, 0.6]), np.array([0.0, 0.0, -0.6])
    ends = [take.camera.px(p) + film.shifts[0] for p in low]
    return {
        "format": "zesty-lever-marks/1",
        "view": "front",
        "athlete": case.athlete.as_json(),
        "variation": case.variation,
        "load_kg": case.load_kg,
        "calibration": {
            "length": {
                "frame": 0,
                "from_px": [round(float(v), 2) for v in ends[0]],
                "to_px": [round(float(v), 2) for v in ends[1]],
                "length_m": 1.2,
                "z_m": 0.0,
            }
        },
        "camera": {
            "distance_m": take.camera.distance_m,
            "height_m": take.camera.height_m,
            "yaw_deg": 0.0,
        },
        "marks": {
            n: {str(f): p for f, p in v.items()} for n, v in film.clicks(frames, names).items()
        },
        **more,
    }


def demo_takes() -> dict[str, Take]:
    """The three pieces of film that ship with the application."""
    bench = json.loads((DEMO / "bench.json").read_text(encoding="utf-8"))
    oda = read(Athlete, bench["athletes"][0], "athlete")
    tempo = (1.6, 0.0, 1.0, 0.0)
    squat = Case(athlete=oda, variation="back-squat-high-bar", load_kg=55, tempo_s=tempo)
    shoots = squat.changed(settings={"hips_rise_deg": 20.0})
    caves = squat.changed(settings={"knee_track_m": -0.035})
    light = {"noise": 1.5, "crf": 28, "stand_s": 0.4, "blur_steps": 3}
    side = Camera(
        distance_m=4.1, height_m=0.85, yaw_deg=1.5, pitch_deg=0.4, roll_deg=0.4, focal_px=1330.0
    )
    front = Camera(distance_m=4.3, height_m=0.9, focal_px=1330.0, front=True)
    split = Case(athlete=oda, variation="goblet-split-squat", load_kg=14)
    return {
        "squat-side": Take((squat, shoots, squat), camera=side, seed=21, **light),
        "squat-front": Take((squat, squat, caves), camera=front, seed=22, **light),
        "split-squat": Take(
            (split,), camera=replace(side, yaw_deg=0.0), seed=23, bar=False, **light
        ),
    }


def make_demo(folder: Path) -> None:
    """Write the demo's clips, photo and their marks."""
    folder.mkdir(parents=True, exist_ok=True)
    takes = demo_takes()
    for name in ("squat-side", "squat-front"):
        film = Film(takes[name])
        film.write(folder / f"{name}.mp4")
        frames = key_frames(film.take)
        if name == "squat-side":
            data = marks_of(film, frames, sleeve=True, yaw=False)
        else:
            data = front_marks_of(film, frames)
        data["clip"] = f"{name}.mp4"
        (folder / f"{name}.marks.json").write_text(
            json.dumps(data, indent=1) + "\n", encoding="utf-8"
        )
    film = Film(takes["split-squat"])
    from PySide6.QtGui import QImage

    luma = film.frame(key_frames(film.take)[1])
    tint = np.stack([luma, luma * 0.96, luma * 0.9], axis=-1).astype(np.uint8)
    picture = QImage(
        tint.tobytes(), tint.shape[1], tint.shape[0], 3 * tint.shape[1], QImage.Format.Format_RGB888
    )
    picture.save(str(folder / "split-squat.jpg"), "JPG", 85)
    case = film.take.cases[0]
    marks = {
        "format": "zesty-lever-marks/1",
        "clip": "split-squat.jpg",
        "athlete": case.athlete.as_json(),
        "variation": case.variation,
        "load_kg": case.load_kg,
    }
    (folder / "split-squat.marks.json").write_text(
        json.dumps(marks, indent=1) + "\n", encoding="utf-8"
    )


if __name__ == "__main__":
    make_demo(DEMO / "clips")
