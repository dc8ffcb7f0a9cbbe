"""Depth is a point on the athlete's own way down: a shallower squat is easier for the knee.

Published squats find the knee's moment at half depth at about three quarters of parallel's (Bryanton et al.
2012, Cotter et al. 2013; values from memory).
"""

import pytest

from builders import case_of, extension
from zesty_lever.analysis import analyse, analyse_many
from zesty_lever.exercises.catalogue import catalogue

SQUATS = [n for n, v in catalogue().items() if v.is_squat and not v.sits and n != "assisted-squat"]


@pytest.mark.parametrize("name", SQUATS)
def test_half_a_squat_is_easier_for_the_knee(name):
    """Knee at 45 degrees above parallel over parallel: 0.65-0.90 (0.70-0.90 in the sources; a narrow stance and a
    belt, which travel furthest, come out a little lower)."""
    depths = [case_of(name, None, settings={"thigh_deg": float(d)}) for d in (0, 15, 30, 45)]
    peaks = [r.peaks["knee"] for r in analyse_many(depths)]
    assert peaks == sorted(peaks, reverse=True)
    assert 0.65 <= peaks[-1] / peaks[0] <= 0.90


def test_it_is_the_default_rep_stopped_earlier():
    """At 30 degrees above parallel the bottom is the moment that the default rep passes there."""
    whole, half = (analyse(case_of(settings=s)) for s in ({}, {"thigh_deg": 30.0}))
    pose, moves = whole.solved.pose, whole.timeline.moves[0]
    thigh = 90.0 + 57.29578 * pose.side_view_rad("knee_right", "hip_right")
    at = min(range(*moves), key=lambda f: abs(thigh[f] - 30.0))
    for joint in ("hip_right", "knee_right", "lumbosacral"):
        assert extension(half, joint) == pytest.approx(
            extension(whole, joint, at), rel=0.03, abs=3.0
        )


def test_a_given_shin_stays_as_given_and_deeper_keeps_the_default():
    given = analyse(case_of(settings={"thigh_deg": 30.0, "shin_deg": 32.0}))
    assert given.case.settings["shin_deg"] == 32.0
    deep = analyse(case_of(settings={"thigh_deg": -5.0}))
    assert deep.case.settings["shin_deg"] == 32.0
    seated = analyse(case_of("box-squat", settings={"thigh_deg": 30.0}))
    usual = analyse(case_of("box-squat"))
    assert seated.case.settings["shin_deg"] == usual.case.settings["shin_deg"]
    hinge = analyse(case_of("romanian-deadlift", settings={"thigh_deg": 80.0, "trunk_deg": None}))
    assert hinge.case.settings["shin_deg"] == 4.0
