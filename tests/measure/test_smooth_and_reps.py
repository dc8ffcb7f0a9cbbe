"""Smoothing in real time, and reps with their tempo, on curves whose truth is known."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from zesty_lever.measure.reps import TENTH_AT, reps_of
from zesty_lever.measure.smooth import smoothed, speed


def uneven(count, seed=0):
    steps = np.random.default_rng(seed).uniform(0.02, 0.05, count)
    return np.cumsum(steps)


def test_a_parabola_passes_and_a_gap_stays():
    """Third differences of a parabola are nothing (closed form); what is unknown stays unknown."""
    times = uneven(80)
    values = 3.0 + 2.0 * times - 0.7 * times**2
    values[30:35] = np.nan
    calm = smoothed(times, values, 6.0)
    assert np.nanmax(np.abs(calm - values)) < 1e-9
    assert np.isnan(calm[30:35]).all()
    assert not np.isnan(calm[:30]).any()


def test_half_of_a_wave_at_the_cut_off_is_left():
    """Gain 1 / (1 + (f / fc)^6): closed form of the third-order penalty."""
    times = np.arange(0.0, 8.0, 0.005)
    for share, gain in ((0.5, 1 / (1 + 0.5**6)), (1.0, 0.5), (2.0, 1 / (1 + 2.0**6))):
        wave = np.sin(2 * np.pi * 4.0 * share * times)
        calm = smoothed(times, wave, 4.0)[400:-400]
        assert np.abs(calm).max() == pytest.approx(gain, abs=0.01)


def test_it_solves_what_a_general_solver_solves():
    """The banded solution is that of the dense normal equations (general-purpose reference: numpy.linalg)."""
    times = uneven(25, 3)
    values = np.random.default_rng(1).standard_normal(25)
    weights = np.gradient(times)
    third = np.zeros((22, 25))
    for row in range(22):
        nodes = times[row : row + 4]
        for k in range(4):
            third[row, row + k] = 6.0 / np.prod([nodes[k] - nodes[m] for m in range(4) if m != k])
    spans = (times[3:] - times[:-3]) / 3.0
    normal = np.diag(weights) + third.T @ (spans[:, None] * third) / (2 * np.pi * 6.0) ** 6
    assert smoothed(times, values, 6.0) == pytest.approx(np.linalg.solve(normal, weights * values))


def test_a_steady_pace_is_its_speed():
    """A ramp of 0.4 m/s."""
    times = uneven(60)
    assert speed(times, 0.4 * times) == pytest.approx(np.full(60, 0.4))


def test_the_tenth_of_a_minimum_jerk_move():
    """10 t^3 - 15 t^4 + 6 t^5 is 0.1 at `TENTH_AT` (Flash & Hogan 1985, from memory)."""
    t = TENTH_AT
    assert 10 * t**3 - 15 * t**4 + 6 * t**5 == pytest.approx(0.1, abs=1e-4)


def move(t):
    t = np.clip(t, 0.0, 1.0)
    return 10 * t**3 - 15 * t**4 + 6 * t**5


def a_set(times, reps, high=1.4, deep=0.55):
    """Height of a bar in m and a knee's bending in deg, for reps (start, down, pause, up)."""
    sunk = np.zeros_like(times)
    for start, down, pause, up in reps:
        sunk += move((times - start) / down) - move((times - start - down - pause) / up)
    return high - deep * sunk, 110.0 * sunk


@given(
    st.lists(
        st.tuples(
            st.floats(0.8, 3.0),
            st.sampled_from([0.0, 0.6, 2.0]),
            st.floats(0.6, 2.0),
            st.floats(0.4, 1.5),
        ),
        min_size=1,
        max_size=4,
    ),
    st.integers(0, 30),
)
def test_every_rep_is_found_none_that_is_not_and_its_tempo(phases, seed):
    """Deepest within 0.1 s, tempo within 0.35 s, at uneven times with noise of 3 mm and a degree."""
    reps, at = [], 0.8
    for down, pause, up, rest in phases:
        reps.append((at, down, pause, up))
        at += down + pause + up + rest
    rng = np.random.default_rng(seed)
    times = np.cumsum(rng.choice([0.033, 0.033, 0.066], int((at + 0.5) / 0.036)))
    times = times[times < at + 0.5]
    height, bend = a_set(times, reps)
    found = reps_of(
        times,
        height + 0.003 * rng.standard_normal(len(times)),
        bend + rng.standard_normal(len(times)),
    )
    assert len(found) == len(reps)
    for rep, (start, down, pause, up) in zip(found, reps, strict=True):
        low, end = start + down - 0.1, start + down + pause + 0.1
        assert low <= rep.bottom_s <= end
        assert rep.tempo_s[0] == pytest.approx(down, abs=0.35)
        assert rep.tempo_s[1] == pytest.approx(pause, abs=0.35)
        assert rep.tempo_s[2] == pytest.approx(up, abs=0.35)


def test_walking_out_a_false_start_and_racking_are_no_reps():
    """A dip of 9 cm, two steps that bob by 3 cm, and the bar let down by 8 cm at the end."""
    times = np.arange(0.0, 12.0, 1 / 30)
    height, bend = a_set(times, [(5.0, 1.6, 0.0, 1.1)])
    height -= 0.03 * np.sin(2 * np.pi * 1.5 * times) * (times < 2.0)
    height -= 0.09 * (move((times - 3.0) / 0.5) - move((times - 3.6) / 0.5))
    height -= 0.08 * move((times - 10.0) / 0.7)
    found = reps_of(times, height, bend)
    assert len(found) == 1
    assert found[0].bottom_s == pytest.approx(6.6, abs=0.1)


def test_nothing_moves_no_rep():
    """A still athlete, and a curve that is not known at all."""
    times = np.arange(0.0, 3.0, 1 / 30)
    assert reps_of(times, np.full_like(times, 1.4), np.zeros_like(times)) == ()
    assert reps_of(times, np.full_like(times, np.nan), np.zeros_like(times)) == ()
