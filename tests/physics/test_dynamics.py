"""Dynamics: the same pass with inertia, against Pinocchio at random speeds and accelerations."""

import numpy as np
import pinocchio as pin
import pytest
from engine_chain import bare_chain
from engine_motion import our_moments

from builders import case_of, extension, solve
from zesty_lever.analysis import analyse
from zesty_lever.exercises.catalogue import catalogue
from zesty_lever.joints import JOINTS
from zesty_lever.physics.inertia import second_derivative
from zesty_lever.physics.tempo import timeline


@pytest.mark.parametrize("name", list(catalogue()))
def test_moving_loads_agree_with_pinocchio(name):
    """Random speeds (rad/s) and accelerations (rad/s^2) of every joint: net moments to 1e-6 relative.

    The engine's model comes from the raw tables and the angles alone (`engine_chain`), its trunk in
    three published parts; its own kinematics give each segment's acceleration.
    """
    random = np.random.default_rng(5)
    result = analyse(case_of(name, None))
    for frame in (3, result.timeline.bottom):
        chain, place = bare_chain(result, frame)
        model, q = chain.model, np.concatenate([place, *chain.q])
        v, a = random.normal(0, 2.0, model.nv), random.normal(0, 8.0, model.nv)
        ours = our_moments(result, frame, chain, place, v, a)
        tau = pin.rnea(model, model.createData(), q, v, a)
        size = np.abs(tau).max()
        for row, joint in enumerate(JOINTS):
            index = model.getJointId(joint)
            first = model.idx_vs[index]
            theirs = chain.turned[index] @ tau[first : first + 3]
            assert ours[:, row, 0] == pytest.approx(theirs, abs=1e-6 * size), (name, joint)


def test_second_derivative_of_a_minimum_jerk_course():
    """Against the closed form 60 t - 180 t^2 + 120 t^3 (over the duration squared), to 1 % of its peak
    (fourth-order differences on 31 frames); zero in pauses and at the ends."""
    times = timeline((2.0, 1.0, 1.0, 0.5))
    found = second_derivative(times.progress, times.instants(moving=True).runs)
    down = np.array([p == "down" for p in times.phase])
    t = times.time_s[down] / 2.0
    exact = (60 * t - 180 * t**2 + 120 * t**3) / 4.0
    assert found[down] == pytest.approx(exact, abs=0.01 * np.abs(exact).max())
    for name in ("pause-bottom", "pause-top"):
        assert found[np.array([p == name for p in times.phase])] == pytest.approx(0.0)


@pytest.mark.parametrize("name", list(catalogue()))
def test_slow_reps_tend_to_statics(name):
    """At twelve seconds a phase inertia is next to nothing: peaks within 1 % of the largest one."""
    slow = [12.0, 0.0, 12.0, 0.0]
    still, moving = (solve(name, None, tempo_s=slow, mode=mode) for mode in ("static", "dynamic"))
    most = np.abs(still.shown.moments.extension).max()
    assert moving.shown.moments.extension == pytest.approx(
        still.shown.moments.extension, abs=0.01 * most
    )


@pytest.mark.parametrize("name", list(catalogue()))
def test_the_whole_is_balanced_while_moving(name):
    """Closure to rounding in motion too, and the contacts carry weight and inertia together.

    One foot takes the small twist about the vertical by friction: the free moment that is told.
    Settling onto a box takes time: the trunk stops leaning as the box takes its share.
    """
    tempo = [5.0, 0.5, 5.0, 0.0] if name == "box-squat" else [2.5, 0.5, 2.0, 0.0]
    result = solve(name, None, tempo_s=tempo, mode="dynamic")
    assert result.solved.moments.closure.max() < 1e-9 * 82 * 9.80665 * 1.78
    twist = np.abs(result.solved.ground.free_moment_Nm).max()
    assert (twist > 0.1) == (len(result.solved.ground.names) == 1)
    held = result.shown.contacts.forces[1].sum(axis=0)
    masses = np.concatenate([result.shown.pose.masses, result.shown.pose.load_masses])
    pulled = result.solved.lines.forces[1].sum(axis=0)
    # Over a rep that starts and ends at rest, inertia averages to next to nothing.
    assert held.mean() == pytest.approx(9.80665 * masses[:, 0].sum() - pulled.mean(), rel=0.03)


def test_faster_is_harder_and_too_fast_is_refused():
    """A quicker turn at the bottom costs more; half a second down and up takes the feet off the floor."""
    peaks = [
        extension(solve(tempo_s=[t, 0, t, 0], mode="dynamic"), "hip_right", 30)
        for t in (3.0, 1.5, 0.9)
    ]
    static = extension(solve(tempo_s=[3, 0, 3, 0]), "hip_right", 30)
    assert peaks[0] == pytest.approx(static, rel=0.01)  # at rest in the turn itself
    whole = [
        np.abs(solve(tempo_s=[t, 0, t, 0], mode="dynamic").shown.moments.extension).max()
        for t in (3.0, 1.5, 0.9)
    ]
    assert whole[0] < whole[1] < whole[2]
    error = analyse(case_of(tempo_s=[0.5, 0, 0.5, 0], mode="dynamic")).error
    assert error.code == "tempo"
    assert error.key == "tempo_s"
