"""Follows marks from frame to frame, from both sides, and says where the two ways disagree.

Inverse-compositional Gauss-Newton for translation with gain and bias on three pyramid levels, with a
31 px Gaussian-weighted patch taken anew from the last frame (Baker & Matthews 2004, from memory). All marks
are one array call.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence

import numpy as np
from numpy.typing import NDArray

from zesty_lever.frozen import dataclass
from zesty_lever.measure.clip import Clip, Luma
from zesty_lever.physics.vectors import Array, smoothstep

HALF_PX, LEVELS, ROUNDS, SMALL_PX = 15, 3, 12, 0.01
# Half of the square that is cut out round a mark: the patch on the coarsest level and what it may move.
CUT_PX = 128
# A patch that matches less well than this is lost.
LEAST_MATCH = 0.25
# Frames that are held at once on the way back.
HELD = 128
Tell = Callable[[float], None]


def _weights() -> NDArray[np.float32]:
    one = np.exp(-0.5 * (np.arange(-HALF_PX, HALF_PX + 1) / (0.5 * HALF_PX)) ** 2)
    both = np.outer(one, one)
    weights: NDArray[np.float32] = (both / both.sum()).astype(np.float32)
    return weights


WEIGHTS = _weights()


def _cut(luma: Luma, centres: NDArray[np.int64]) -> list[NDArray[np.float32]]:
    """Squares round whole-pixel centres ``(marks, 2)`` on every level, ``(marks, side, side)``; edges repeat."""
    tall, wide = luma.shape
    span = np.arange(-CUT_PX, CUT_PX)
    squares = np.empty((len(centres), 2 * CUT_PX, 2 * CUT_PX), np.float32)
    for square, (x, y) in zip(squares, centres.tolist(), strict=True):
        if CUT_PX <= x <= wide - CUT_PX and CUT_PX <= y <= tall - CUT_PX:
            square[:] = luma[y - CUT_PX : y + CUT_PX, x - CUT_PX : x + CUT_PX]
        else:
            square[:] = luma[np.ix_(np.clip(y + span, 0, tall - 1), np.clip(x + span, 0, wide - 1))]
    levels = [squares]
    for _ in range(LEVELS - 1):
        last = levels[-1]
        rows = last[:, 0::2] + last[:, 1::2]
        half = np.float32(0.25) * (rows[:, :, 0::2] + rows[:, :, 1::2])
        levels.append(half.astype(np.float32, copy=False))
    return levels


def _sample(squares: NDArray[np.float32], at: Array, half: int) -> NDArray[np.float32]:
    """Patches ``(marks, 2 half + 1, 2 half + 1)`` about places ``(marks, 2)``, bilinear."""
    side = squares.shape[-1]
    held = np.clip(at, half, side - 2 - half - 1e-3)
    whole = np.floor(held).astype(np.int64)
    fx, fy = ((held - whole).astype(np.float32)[:, k, None, None] for k in (0, 1))
    count = len(at)
    size = 2 * half + 2
    flat = squares.reshape(count, -1)
    corner = (whole[:, 1] - half) * side + whole[:, 0] - half
    offsets = (np.arange(size) * side)[:, None] + np.arange(size)
    wide = np.take_along_axis(flat, (corner[:, None] + offsets.reshape(1, -1)), axis=1)
    block = wide.reshape(count, size, size)
    rows = block[:, :-1] + fy * (block[:, 1:] - block[:, :-1])
    patch: NDArray[np.float32] = rows[:, :, :-1] + fx * (rows[:, :, 1:] - rows[:, :, :-1])
    return patch


def step(before: Luma, after: Luma, places: Array, guess: Array) -> tuple[Array, Array]:
    """Where marks went from one frame to the next.

    ``places`` and ``guess`` (what they are expected to move) ``(marks, 2)`` px. Returns new places and how
    well each patch matches, -1 to 1.
    """
    origin = np.rint(places).astype(np.int64)
    old = _cut(before, origin)
    new = _cut(after, origin)
    moved = np.asarray(guess, dtype=float).copy()
    match = np.zeros(len(places))
    for level in reversed(range(LEVELS)):
        scale = 2.0**level
        # The centre of a level's pixel lies between those it was made of.
        at = (places - origin + CUT_PX + 0.5) / scale - 0.5
        wide = _sample(old[level], at, HALF_PX + 1)
        template = wide[:, 1:-1, 1:-1]
        slope_x = 0.5 * (wide[:, 1:-1, 2:] - wide[:, 1:-1, :-2])
        slope_y = 0.5 * (wide[:, 2:, 1:-1] - wide[:, :-2, 1:-1])
        count = len(places)
        jacobian = np.stack([slope_x, slope_y, template, np.ones_like(template)], axis=1).reshape(
            count, 4, -1
        )
        weighted = jacobian * WEIGHTS.reshape(-1)
        hessian = (weighted @ jacobian.transpose(0, 2, 1)).astype(float)
        # A patch without texture keeps its place.
        solve = np.linalg.pinv(hessian + 1e-3 * np.eye(4), hermitian=True)
        shift = moved / scale
        for _ in range(ROUNDS):
            patch = _sample(new[level], at + shift, HALF_PX)
            error = (patch - template).reshape(count, -1, 1)
            change = (solve @ (weighted @ error))[:, :2, 0]
            change = np.clip(change, -3.0, 3.0)
            shift = shift - change
            if float(np.abs(change).max()) < SMALL_PX:
                break
        moved = shift * scale
        if level == 0:
            match = _match(template, _sample(new[0], at + shift, HALF_PX))
    limit = CUT_PX - HALF_PX - 2.0
    match = np.where(np.abs(moved).max(axis=1) > limit, -1.0, match)
    return places + moved, match


def _match(one: NDArray[np.float32], other: NDArray[np.float32]) -> Array:
    """Weighted correlation of patches, -1 to 1."""
    a, b = (p - (WEIGHTS * p).sum(axis=(1, 2), keepdims=True) for p in (one, other))
    top = (WEIGHTS * a * b).sum(axis=(1, 2))
    below = np.sqrt((WEIGHTS * a * a).sum(axis=(1, 2)) * (WEIGHTS * b * b).sum(axis=(1, 2)))
    found: Array = (top / np.maximum(below, 1e-6)).astype(float)
    return found


@dataclass(frozen=True)
class Tracks:
    """Where marks are, from frame ``first`` on: ``(marks, frames, 2)`` px, NaN where unknown.

    ``apart_px`` ``(marks, frames)`` is how far the two ways disagree (NaN where only one came by);
    ``steps`` how many frames the nearest hand mark is away.
    """

    names: tuple[str, ...]
    first: int
    places_px: Array
    apart_px: Array
    steps: Array

    def of(self, name: str) -> Array:
        """One mark's places ``(frames, 2)``."""
        found: Array = self.places_px[self.names.index(name)]
        return found


Marks = Mapping[str, Mapping[int, Sequence[float]]]
Hidden = Mapping[str, Sequence[tuple[int, int]]]


def track(
    clip: Clip, marks: Marks, hidden: Hidden | None = None, tell: Tell | None = None
) -> Tracks:
    """Follow hand marks through a clip, from both sides.

    Frames run from the first to the last hand mark of any. Where a mark is hidden it has no place. ``tell``
    hears the share that is done and may raise to stop. Raises `CaseError` where a frame can't be read.
    """
    names = tuple(name for name in marks if marks[name])
    frames = [frame for name in names for frame in marks[name]]
    first, last = min(frames), max(frames)
    count = last - first + 1
    given = np.full((len(names), count, 2), np.nan)
    seen = np.ones((len(names), count), dtype=bool)
    for row, name in enumerate(names):
        for frame, place in marks[name].items():
            given[row, frame - first] = place
        for start, end in (hidden or {}).get(name, ()):
            seen[row, max(start - first, 0) : max(end - first + 1, 0)] = False
    given[~seen] = np.nan
    both = 2 * max(count - 1, 1)

    def share(done: float, way: int) -> None:
        if tell is not None:
            tell((done + way * (count - 1)) / both)

    ahead = _one_way(clip, first, given, seen, 1, lambda done: share(done, 0))
    back = _one_way(clip, first, given, seen, -1, lambda done: share(done, 1))
    return _cross_faded(names, first, given, ahead, back)


def _one_way(
    clip: Clip, first: int, given: Array, seen: NDArray[np.bool_], way: int, tell: Tell
) -> Array:
    """Places ``(marks, frames, 2)`` followed one way from hand mark to hand mark."""
    count = given.shape[1]
    places = np.full_like(given, np.nan)
    order = range(count) if way > 0 else range(count - 1, -1, -1)
    now, speed = given[:, order[0]].copy(), np.zeros((len(given), 2))
    places[:, order[0]] = now
    source = _lumas(clip, first, count, way)
    before = next(source)
    for done, at in enumerate(order[1:], 1):
        after = next(source)
        live = np.flatnonzero(~np.isnan(now[:, 0]))
        if len(live):
            moved, match = step(before, after, now[live], speed[live])
            lost = (match < LEAST_MATCH) | _outside(moved, after)
            speed[live] = np.where(lost[:, None], 0.0, moved - now[live])
            now[live] = np.where(lost[:, None], np.nan, moved)
        now[~seen[:, at]] = np.nan
        # The place that a hand gives holds; what came by before it is seen from the other side.
        fresh = ~np.isnan(given[:, at, 0])
        now[fresh] = given[fresh, at]
        places[:, at] = now
        before = after
        if done % 4 == 0 or done == count - 1:
            tell(float(done))
    return places


def _outside(places: Array, luma: Luma) -> NDArray[np.bool_]:
    tall, wide = luma.shape
    x, y = places[:, 0], places[:, 1]
    outside: NDArray[np.bool_] = (x < 0) | (y < 0) | (x > wide - 1) | (y > tall - 1)
    return outside


def _lumas(clip: Clip, first: int, count: int, way: int) -> Iterator[Luma]:
    """The frames' brightness in order, or backwards group by group."""
    if way > 0:
        return (clip.luma(first + i) for i in range(count))
    return _backwards(clip, first, first + count - 1)


def _backwards(clip: Clip, first: int, last: int) -> Iterator[Luma]:
    end = last
    while end >= first:
        start = max(clip.group_start(end), end - HELD + 1, first)
        held = [clip.luma(i) for i in range(start, end + 1)]
        yield from reversed(held)
        end = start - 1


def _cross_faded(
    names: tuple[str, ...], first: int, given: Array, ahead: Array, back: Array
) -> Tracks:
    """Both ways as one: near a hand mark the way that comes from it counts."""
    marks, count = given.shape[:2]
    numbers = np.arange(count)
    hand = ~np.isnan(given[:, :, 0])
    since, until = np.full((marks, count), np.inf), np.full((marks, count), np.inf)
    for row in range(marks):
        at = np.flatnonzero(hand[row])
        if len(at):
            place = np.searchsorted(at, numbers, side="right")
            since[row] = np.where(place > 0, numbers - at[np.maximum(place - 1, 0)], np.inf)
            place = np.searchsorted(at, numbers, side="left")
            until[row] = np.where(
                place < len(at), at[np.minimum(place, len(at) - 1)] - numbers, np.inf
            )
    has = [~np.isnan(way[:, :, 0]) for way in (ahead, back)]
    with np.errstate(invalid="ignore"):
        share = np.where(
            np.isinf(until),
            0.0,
            np.where(np.isinf(since), 1.0, since / np.maximum(since + until, 1)),
        )
    share = smoothstep(share)
    share = np.where(has[0] & has[1], share, np.where(has[1], 1.0, 0.0))[..., None]
    places = (
        np.where(has[0][..., None], ahead, 0.0) * (1.0 - share)
        + np.where(has[1][..., None], back, 0.0) * share
    )
    places[~(has[0] | has[1])] = np.nan
    apart = np.where(has[0] & has[1], np.hypot(*np.moveaxis(ahead - back, -1, 0)), np.nan)
    apart[hand] = 0.0
    from_ahead, from_back = np.where(has[0], since, np.inf), np.where(has[1], until, np.inf)
    steps = np.minimum(from_ahead, from_back)
    return Tracks(names, first, places, apart, np.where(np.isinf(steps), np.nan, steps))
