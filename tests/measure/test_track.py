"""Following marks: known shifts of a texture, light that changes, hidden marks, both ways."""

import numpy as np
import pytest
from film import cloth

from zesty_lever.measure.track import step, track

TEXTURE = np.kron(cloth(np.random.default_rng(2), 256), np.ones((2, 2)))


def shifted(dx, dy, gain=1.0, bias=0.0):
    """A textured picture moved by so many pixels, exactly (its spectrum is turned)."""
    tall, wide = TEXTURE.shape
    fy, fx = np.meshgrid(np.fft.fftfreq(tall), np.fft.fftfreq(wide), indexing="ij")
    low = np.exp(-((np.hypot(fx, fy) / 0.12) ** 2))
    moved = np.real(
        np.fft.ifft2(np.fft.fft2(TEXTURE) * low * np.exp(-2j * np.pi * (fx * dx + fy * dy)))
    )
    moved = 128.0 + 28.0 * gain * moved / moved.std() + bias
    return np.clip(moved, 0, 255).astype(np.uint8)


class Reel:
    """Frames in memory that look like a clip."""

    def __init__(self, shifts):
        self.images = [shifted(*s) for s in shifts]
        self.times_s = np.arange(len(shifts)) / 30.0

    def luma(self, index):
        return self.images[index]

    def group_start(self, index):
        return index - index % 8


@pytest.mark.parametrize(("dx", "dy"), [(0.3, -0.4), (3.7, 2.2), (-18.5, 9.25), (27.0, -24.0)])
def test_a_shift_is_found_to_a_twentieth_of_a_pixel(dx, dy):
    """Small and large moves, from no guess at all, on three marks at once."""
    places = np.array([[200.0, 210.0], [256.5, 300.25], [310.0, 180.0]])
    found, match = step(shifted(0, 0), shifted(dx, dy), places, np.zeros((3, 2)))
    assert np.abs(found - places - [dx, dy]).max() < 0.05
    assert match.min() > 0.9


def test_light_that_changes_does_not_move_a_mark():
    """A fifth brighter and 12 grey levels up: gain and bias take it."""
    places = np.array([[256.0, 256.0]])
    found, _ = step(
        shifted(0, 0), shifted(2.5, 1.5, gain=1.2, bias=-12.0), places, np.zeros((1, 2))
    )
    assert found[0] - places[0] == pytest.approx([2.5, 1.5], abs=0.08)


def path(count):
    t = np.arange(count)
    return [(6.0 * np.sin(t / 6.0), 0.9 * t) for t in t]


def test_both_ways_meet_and_a_hidden_span_is_cut_out():
    """Marks at both ends: the whole path is followed; while hidden there is no place, never a guess."""
    shifts = path(30)
    reel = Reel(shifts)
    start = np.array([250.0, 230.0])
    marks = {"hip": {0: tuple(start), 29: tuple(start + shifts[29])}}
    found = track(reel, marks)
    assert np.abs(found.of("hip") - start - shifts).max() < 0.25
    assert np.nanmax(found.apart_px) < 0.5
    hidden = track(reel, marks, {"hip": [(10, 14)]})
    places = hidden.of("hip")
    assert np.isnan(places[10:15]).all()
    assert not np.isnan(places[:10]).any()
    assert not np.isnan(places[15:]).any()
    # One way only came by on each side of the gap, so nothing can disagree there.
    assert np.isnan(hidden.apart_px[0, 1:10]).all()
    assert np.abs(places[:10] - start - shifts[:10]).max() < 0.25


def test_a_wrong_hand_mark_shows_as_disagreement():
    """A mark set 9 px off at the end: near it the two ways are 9 px apart."""
    shifts = path(20)
    start = np.array([250.0, 230.0])
    marks = {"knee": {0: tuple(start), 19: tuple(start + shifts[19] + [9.0, 0.0])}}
    found = track(Reel(shifts), marks)
    assert np.nanmax(found.apart_px) == pytest.approx(9.0, abs=1.0)


def test_progress_is_told_and_may_stop_it():
    """Shares rise to 1; what the caller raises ends it."""
    told = []
    track(Reel(path(12)), {"hip": {0: (250.0, 230.0), 11: (250.0, 240.0)}}, None, told.append)
    assert told == sorted(told)
    assert told[-1] == pytest.approx(1.0)

    class StopError(Exception):
        pass

    def stop(_share):
        raise StopError

    with pytest.raises(StopError):
        track(
            Reel(path(12)), {"hip": {0: (250.0, 230.0)}, "knee": {11: (250.0, 240.0)}}, None, stop
        )


def test_a_mark_that_leaves_the_picture_is_lost_not_dragged_along():
    """Off the edge there is no place."""
    shifts = [(-14.0 * t, 0.0) for t in range(20)]
    found = track(Reel(shifts), {"hip": {0: (120.0, 250.0)}, "knee": {19: (400.0, 250.0)}})
    assert np.isnan(found.of("hip")[-1]).all()
