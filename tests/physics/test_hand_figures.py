"""Figures that can be worked out by hand: the first checks of the statics."""

from dataclasses import replace

import numpy as np
import pytest

from builders import solve
from zesty_lever.joints import JOINTS
from zesty_lever.physics.forces import (
    GRAVITY_M_S2,
    External,
    gravity_on,
    on_pieces,
)
from zesty_lever.physics.iterate import find_increasing_root
from zesty_lever.physics.moments import joint_moments
from zesty_lever.physics.vectors import cross, vector


def test_cross_product_and_levers_of_one_force():
    """A 100 N upward push 0.3 m ahead of a joint turns it with 30 N m about Z."""
    moment = cross(vector(0.3, -0.4, 0.0), vector(0.0, 100.0, 0.0))
    assert moment == pytest.approx([0.0, 0.0, 30.0])


def test_standing_weight_is_shared_by_the_feet():
    """Each foot carries half of athlete and bar: (82 + 60) x g / 2."""
    result = solve()
    half = 0.5 * 142.0 * GRAVITY_M_S2
    assert result.shown.contacts.forces[1] == pytest.approx(half)


def moments_of(pose, contacts):
    """Net moments of a pose under its weights and some contact forces."""
    shape = pose.pelvis_rad.shape
    return joint_moments(pose, *on_pieces(gravity_on(pose), shape).answered(contacts))


def test_ankle_moment_is_force_times_distance():
    """Cut below the ankle: ground force at its pressure point against the foot's own weight."""
    result = solve()
    pose, at = result.shown.pose, result.timeline.bottom
    ankle = pose.points["ankle_right"][0, at]
    ground = 0.5 * 142.0 * GRAVITY_M_S2
    pressure = result.shown.contacts.points[0, 1, at]
    foot_mass = 0.0137 * 82.0  # de Leva 1996, male foot
    foot = ankle - 0.25 * 0.152 * 1.78 * np.cos(np.radians(15))  # heel, from the ankle
    foot += 0.4415 * 0.152 * 1.78 * np.cos(np.radians(15))
    expected = ground * (pressure - ankle) - foot_mass * GRAVITY_M_S2 * (foot - ankle)
    row = JOINTS.index("ankle_right")
    assert result.shown.moments.side_view[row, at] == pytest.approx(expected, rel=1e-9)


def test_bar_adds_its_weight_times_its_distance_to_the_lower_back():
    """At one frozen pose, 10 kg more on the bar adds 10 g times the bar's distance from L5/S1."""
    result = solve(load=60)
    pose, at = result.shown.pose, result.timeline.bottom
    arm = pose.load_points[0, 0, at] - pose.points["lumbosacral"][0, at]
    contacts = result.solved.ground.external()
    before = moments_of(pose, contacts)
    weighing = np.concatenate([pose.masses, pose.load_masses + 10.0])
    heavier = replace(pose, weighing=weighing)
    after = moments_of(heavier, contacts)
    row = JOINTS.index("lumbosacral")
    gained = after.extension[row, at] - before.extension[row, at]
    assert gained == pytest.approx(10.0 * GRAVITY_M_S2 * arm, rel=1e-9)


def test_least_effort_is_the_least():
    """No other sideways pair gives a smaller sum of squared ankle, knee and hip moments."""
    result = solve()
    legs = [i for i, joint in enumerate(JOINTS) if joint != "lumbosacral"]
    c = result.shown.contacts

    def effort(extra):
        forces = c.forces.copy()
        forces[2, 0] -= extra
        forces[2, 1] += extra
        moments = moments_of(result.solved.pose, External(c.segments, c.points, forces))
        return (moments.vector[:, legs] ** 2).sum(axis=(0, 1))

    best = effort(0.0)
    for extra in (-20.0, -1.0, 1.0, 20.0):
        assert (effort(extra) > best).all()


def test_vertical_rule_has_no_sideways_force():
    """The rule *vertical* leaves the pair out; the side view is the same under both rules."""
    plain = solve(contact_rule="vertical")
    eased = solve(contact_rule="least-effort")
    assert plain.shown.contacts.forces[[0, 2]] == pytest.approx(0.0, abs=1e-9)
    assert plain.shown.moments.side_view == pytest.approx(eased.shown.moments.side_view, abs=1e-8)
    assert (eased.shown.contacts.pair_N[30] > 5.0).all()  # the feet push apart at the bottom


def test_root_finder_agrees_with_scipy():
    """Against scipy.optimize.brentq on a family of curves."""
    from scipy.optimize import brentq

    shift = np.linspace(-0.9, 2.0, 25)
    ours = find_increasing_root(
        lambda x: x**3 + np.sinh(x) - shift, np.full(25, -2.0), np.full(25, 2.0)
    )
    theirs = [brentq(lambda x, s=s: x**3 + np.sinh(x) - s, -2.0, 2.0, xtol=1e-13) for s in shift]
    assert ours == pytest.approx(theirs, abs=1e-10)


def test_root_finder_gives_nan_where_there_is_no_crossing():
    """A curve that never crosses zero has no root; the caller turns that into an error."""
    found = find_increasing_root(
        lambda x: x**2 + np.array([1.0, -1.0]), np.array([0.0, 0.0]), np.array([3.0, 3.0])
    )
    assert np.isnan(found[0])
    assert found[1] == pytest.approx(1.0)
