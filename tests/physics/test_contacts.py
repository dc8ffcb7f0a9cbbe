"""What the ground answers: hand figures for each kind of support."""

import numpy as np
import pytest

from builders import case_of, solve
from zesty_lever.analysis import analyse
from zesty_lever.physics.contacts import Place, Support, solve_contacts
from zesty_lever.physics.forces import PIECES, Pieces
from zesty_lever.physics.vectors import cross, vector

FRAMES = (1, 1)


def pushed(force, moment):
    """A wrench about the origin on the trunk alone."""
    pieces = Pieces(np.zeros((2, 3, len(PIECES), *FRAMES)))
    pieces.force[:, 6] = np.reshape(force, (3, 1, 1))
    pieces.moment[:, 6] = np.reshape(moment, (3, 1, 1))
    return pieces


def at(x, y, z):
    return vector(*(np.full(FRAMES, v) for v in (x, y, z)))


def feet(ahead=0.0):
    """Two feet 40 cm apart, the left one further ahead."""
    return Support(
        "feet",
        (
            Place(("foot_left",), ("foot_left",), (at(0.1 + ahead, 0, -0.2),)),
            Place(("foot_right",), ("foot_right",), (at(0.1, 0, 0.2),)),
        ),
    )


def balanced(contacts, force, moment):
    """Nothing is left of a wrench and its answer, N and N m."""
    total = np.reshape(force, (3, 1, 1)) + contacts.forces.sum(axis=1)
    turning = np.reshape(moment, (3, 1, 1)) + cross(contacts.points, contacts.forces).sum(axis=1)
    turning[1] += contacts.free_moment_Nm
    return max(np.abs(total).max(), np.abs(turning).max())


def test_both_feet_move_under_a_load_ahead():
    """1000 N down at x = 0.14: the pressure under both feet moves 4 cm forward, half of it on each."""
    contacts = solve_contacts(None, pushed((0, -1000, 0), (0, 0, -140)), feet(), "vertical")
    assert contacts.moved_m.item() == pytest.approx(0.04, abs=1e-12)
    assert contacts.forces[1, :, 0, 0] == pytest.approx([500.0, 500.0])
    assert balanced(contacts, (0, -1000, 0), (0, 0, -140)) < 1e-9


def test_an_uneven_pair_of_feet_still_closes():
    """Feet 6 cm apart along X, an inertial sideways and forward part: closed by the shift alone."""
    force, moment = (30.0, -900.0, 20.0), (-60.0, 12.0, -95.0)
    contacts = solve_contacts(None, pushed(force, moment), feet(ahead=0.06), "vertical")
    assert balanced(contacts, force, moment) < 1e-9


def test_one_foot_takes_the_twist_as_a_free_moment():
    """800 N down at (0.1, 0.05) with 9 N m about the vertical: the point is there, the twist is 9."""
    foot = Support("foot", (Place(("foot_right",), ("foot_right",), (at(0.1, 0, 0.05),)),))
    force, moment = (0, -800, 0), (0.05 * 800, 9.0, -0.1 * 800)
    contacts = solve_contacts(None, pushed(force, moment), foot, "vertical")
    assert contacts.points[:, 0, 0, 0] == pytest.approx([0.1, 0.0, 0.05])
    assert contacts.free_moment_Nm.item() == pytest.approx(-9.0)
    assert balanced(contacts, force, moment) < 1e-9


def test_two_places_let_the_last_one_roll_sideways():
    """A one-sided load on two places along X: the far pressure moves sideways until all is closed."""
    places = Support(
        "places",
        (
            Place(("foot_right",), ("foot_right",), (at(0.6, 0, 0.1),)),
            Place(("back",), ("trunk",), (at(0.0, 0.4, 0.0),)),
        ),
    )
    force, moment = (0.0, -700.0, 0.0), (35.0, 0.0, -140.0)
    contacts = solve_contacts(None, pushed(force, moment), places, "vertical")
    assert abs(contacts.moved_m.item()) > 0.005
    assert balanced(contacts, force, moment) < 1e-9


def test_hooked_pads_share_a_one_sided_load_unequally():
    """A hand-held weight on one side of a back extension: the pads differ, and the free body closes."""
    even = solve("back-extension", 10, mode="static")
    pads = even.solved.ground.forces[:, 2:]
    assert pads[:, 0] == pytest.approx(pads[:, 1], abs=1e-9)
    assert even.solved.moments.closure.max() < 1e-9


@pytest.mark.parametrize("name", ["glute-bridge", "hip-thrust"])
def test_what_rolls_off_its_support_is_refused(name):
    """A cable in one hand: a light one closes with the pressure moved aside, a heavy one rolls the body."""

    def one_handed(force_N):
        line = {"kind": "cable", "start": "hand_right", "end": [0.0, 1.5, 1.0], "force_N": force_N}
        return analyse(case_of(name, None, loads=[line]))

    light = one_handed(30.0)
    assert light.feasible
    assert np.abs(light.solved.ground.moved_m).max() > 0.001
    assert light.solved.moments.closure.max() < 1e-9
    heavy = one_handed(400.0)
    assert "would-roll" in [p.code for p in heavy.outcome.problems]


@pytest.mark.parametrize(
    "uneven", [{"left_ahead_m": 0.05}, {"hip_shift_m": 0.03}, {"left_track_m": -0.03}]
)
def test_uneven_and_moving_closes_to_rounding(uneven):
    """High-bar squat 60 kg at 1.5-0-1-0, uneven: once left 13 to 18 N m open."""
    result = solve(mode="dynamic", tempo_s=[1.5, 0, 1.0, 0], settings=uneven)
    assert result.solved.moments.closure.max() < 1e-9


@pytest.mark.parametrize(
    "fault", [{"knee_track_m": -0.04}, {"hip_shift_m": 0.03}, {"left_track_m": -0.03}]
)
@pytest.mark.parametrize("mode", ["static", "dynamic"])
def test_a_fault_pushes_the_floor_no_harder(fault, mode):
    """Frame by frame and under both rules the pair is that of the same pose without the fault."""
    for rule in ("least-effort", "vertical"):
        plain, faulty = (
            solve("back-squat-high-bar", 100, settings=s, contact_rule=rule, mode=mode).solved
            for s in ({}, fault)
        )
        assert np.allclose(plain.ground.pair_N, faulty.ground.pair_N, atol=1e-9)
        assert np.allclose(plain.other_ground.pair_N, faulty.other_ground.pair_N, atol=1e-9)
        assert float(faulty.moments.closure.max()) < 1e-6


def test_knees_pushed_out_are_a_choice_with_a_pair_of_its_own():
    """Knees outside the toes are no fault: the pair is again the one of least effort for that pose."""
    plain, out = (
        solve("back-squat-high-bar", 100, settings={"knee_track_m": track}).solved
        for track in (0.0, 0.04)
    )
    assert not np.allclose(plain.ground.pair_N, out.ground.pair_N, atol=1.0)
