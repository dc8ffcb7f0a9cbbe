"""The frames of a take, written as a clip, and all that is known about them."""

from __future__ import annotations

import io
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from fractions import Fraction
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from filming.canvas import Canvas, cloth, wall
from filming.scene import (
    DISC_RADIUS_M,
    FACE_Z_M,
    OFF_M,
    STICKER_OFF_M,
    Array,
    Take,
    skin,
)


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
        self, frames: Sequence[int], names: Sequence[str], *, finger: float = 1.0
    ) -> dict[str, dict[int, list[float]]]:
        """Hand marks as a coach would set them: off by the finger on the body, and by a pixel.

        ``finger`` 0: on the very spot over the joint, to a pixel.
        """
        take, camera = self.take, self.take.camera
        found: dict[str, dict[int, list[float]]] = {}
        for name in names:
            rng = np.random.default_rng([take.seed, 5, *name.encode()])
            joint, _, side = name.partition("_")
            size = (STICKER_OFF_M if take.stickers else OFF_M).get(joint, 0.003) / np.sqrt(2.0)
            own = finger * rng.normal(0.0, size, 2)
            found[name] = {}
            for frame in frames:
                points = take.motion.at(float(take.times_s[frame]))
                spot = (
                    points[f"{joint}_{side}"] if side else skin(points, "right", take.thick)[joint]
                )
                s = float(camera.scale(spot))
                # The finger's error sits on the limb and turns with it.
                at = camera.px(spot) + self.shifts[frame] + own * s + rng.normal(0.0, 0.7, 2)
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
