"""A picture of luma that limbs, discs and a room are painted on."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from filming.scene import Array, Camera, Take


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
