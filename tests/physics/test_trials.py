"""What searches try in short form is what is built in full."""

import numpy as np
import pytest

from builders import MALE, case_of, solve
from zesty_lever.cases.batch import make_batch
from zesty_lever.cases.resolve import resolve
from zesty_lever.choosing.effort import demand_of, demands_of
from zesty_lever.exercises.catalogue import catalogue
from zesty_lever.physics.iterate import secant_root
from zesty_lever.physics.leg_trials import LegTrial, ReachTrial
from zesty_lever.physics.legs import place_foot, place_leg, reach_leg
from zesty_lever.physics.solve import ground_under

BODY = make_batch([resolve(case_of())]).body
TOES = np.full((1, 1), 0.3)
FOOT = place_foot(BODY, np.full((1, 1), 0.2), TOES, np.zeros((1, 1)))


def test_a_tried_leg_comes_to_rest_at_the_placed_one():
    """Asked again at the same angles it tells knee and hip of `place_leg`, nearly straight legs too."""
    shin = np.linspace(-0.1, 0.7, 40)[None]
    thigh = np.linspace(1.5, 0.0, 40)[None]
    track, out = np.full((1, 1), 0.01), 0.5 * BODY.lengths["hip_width"]
    leg = place_leg(BODY, FOOT, shin, thigh, TOES, track)
    trial = LegTrial(BODY, FOOT, TOES, track)
    for _ in range(4):
        knee, hip = trial.ahead(shin, thigh)
    ankle = FOOT.ankle[0]
    assert np.abs(knee + ankle - leg.knee[0]).max() < 1e-12
    assert np.abs(hip + ankle - leg.hip[0]).max() < 1e-12
    (x, y, z), (hip_x, hip_y) = trial.places(shin, thigh, out)
    assert max(np.abs(a - b).max() for a, b in zip((x, y, z), leg.knee, strict=True)) < 1e-12
    assert np.abs(hip_x - leg.hip[0]).max() < 1e-12
    assert np.abs(hip_y - leg.hip[1]).max() < 1e-12


def test_a_tried_reach_is_the_reached_leg():
    """Hips anywhere about the ankle: near, too far, behind, inward."""
    chance = np.random.default_rng(5)
    low, high = [-0.6, 0.1, -0.2], [0.6, 1.1, 0.4]
    hip = chance.uniform(low, high, (1, 4000, 3)).transpose(2, 0, 1)
    leg = reach_leg(BODY, FOOT, hip, TOES, np.zeros((1, 1)))
    knee, end = ReachTrial(BODY, FOOT, TOES).knee_and_hip(*hip)
    for found, point in ((knee, leg.knee), (end, leg.hip)):
        assert np.abs(found[0] - point[0]).max() < 1e-12
        assert np.abs(found[1] - point[2]).max() < 1e-12


@pytest.mark.parametrize(
    ("function", "root"),
    [
        (lambda x: np.cos(x) - x, 0.7390851332151607),
        (lambda x: np.exp(x) - 5.0, np.log(5.0)),
        (lambda x: x**3 - 2.0, 2.0 ** (1.0 / 3.0)),
    ],
)
def test_a_step_that_is_left_out_was_not_needed(function, root):
    """Foreseen ends are as exact as taken ones: from 200 starts and slopes (roots: closed form, value from memory)."""
    start = np.linspace(root - 0.3, root + 0.4, 200)[None]
    slope = (function(start + 1e-3) - function(start)) / 1e-3
    found, settled = secant_root(function, start, slope)
    assert settled.all()
    assert np.abs(found - root).max() < 1e-12


@pytest.mark.parametrize("name", ["back-squat-high-bar", "split-squat", "hip-thrust", "band-hinge"])
def test_the_ground_alone_is_the_ground_of_the_whole(name):
    """`ground_under` has what `solve` has, to the last bit."""
    batch = make_batch([resolve(case_of(name, None))])
    instants = batch.whole
    whole = batch.solve(instants)
    placed, _ = batch.with_share_delivered()
    alone = ground_under(placed.poses(instants), batch.body, batch.lines, instants, batch.rule)
    assert (alone.forces == whole.ground.forces).all()
    assert (alone.points == whole.ground.points).all()


def test_demands_of_many_are_those_of_each():
    """All lifts with a load in one call, kin in one batch: the numbers of one by one, to the last bit."""
    names = [entry.id for entry in catalogue().values() if entry.load is not None]
    cases = [resolve(case_of(name, None)) for name in names]
    for case, found in list(zip(cases, demands_of(cases), strict=True))[::3]:
        alone = demand_of(case)
        for key in ("loads_kg", "hip_Nm", "knee_Nm", "back_Nm", "lumbar_deg", "since_turn"):
            assert (getattr(alone, key) == getattr(found, key)).all(), (case.variation, key)


def test_kin_worked_out_together_are_what_they_are_alone():
    """Squats with bars in different places, of one athlete and of another, in one batch."""
    names = ("back-squat-high-bar", "back-squat-low-bar", "wide-squat", "narrow-squat")
    cases = [
        resolve(case_of(name, 70, MALE | {"height_m": 1.6 + 0.1 * i}, settings={"shin_deg": 31.0}))
        for i, name in enumerate(names)
    ]
    solved = make_batch(cases).solve_places()[0]
    for index, (name, case) in enumerate(zip(names, cases, strict=True)):
        alone = solve(name, 70, MALE | {"height_m": 1.6 + 0.1 * index}, settings={"shin_deg": 31.0})
        assert alone.case == case
        taken = solved.case(index)
        assert (taken.pose.load_points[:, 0, 0] == alone.solved.pose.load_points[:, 0, 0]).all()
