"""Left and right apart: engine, closure, and what the gym sees. Trade facts: common practice, no source."""

import numpy as np
import pytest
from engine_chain import build_chain

from builders import extension, solve
from zesty_lever.joints import JOINTS

SIDED = {"hip_shift_m": 0.03, "left_track_m": -0.03, "left_ahead_m": 0.04}


@pytest.mark.parametrize(
    "name", ["back-squat-high-bar", "goblet-squat", "bodyweight-squat", "dumbbell-squat"]
)
@pytest.mark.parametrize(
    "settings", [SIDED, {"hip_shift_m": -0.04}, {"left_ahead_m": -0.08}, {"left_track_m": 0.03}]
)
def test_moments_agree_with_pinocchio_when_the_sides_differ(name, settings):
    """Every joint of both legs to 1e-6 of the largest moment, and the engine's root force vanishes.

    Not at the very top, where one leg is stretched to the last digit and the check's own root solver
    has nothing to hold on to.
    """
    result = solve(
        name, None, {"limits_deg": {"ankle_dorsiflexion": 48, "hip_opening": 60}}, settings=settings
    )
    for frame in (8, 15, result.timeline.bottom, 44):
        chain, place = build_chain(result, frame)
        theirs, root = chain.torques(place)
        size = max(np.linalg.norm(m) for m in theirs.values())
        for joint, moment in theirs.items():
            ours = result.shown.moments.vector[:, JOINTS.index(joint), frame]
            assert ours == pytest.approx(moment, abs=1e-6 * size), joint
        assert np.abs(root).max() < 1e-6 * size
    assert result.shown.moments.closure.max() < 1e-6


def test_nothing_apart_is_the_even_pose():
    """A shift of a hundredth of a millimetre gives the even pose's moments to 0.1 N m where the knees are
    straight or fully bent; in between the knee's place is read off the flexion in space instead of in the
    side view, which moves it by millimetres."""
    even, nearly = solve(), solve(settings={"hip_shift_m": 1e-5})
    for frame in (0, even.timeline.bottom):
        assert nearly.shown.moments.extension[:, frame] == pytest.approx(
            even.shown.moments.extension[:, frame], abs=0.1
        )


def test_the_side_shifted_to_works_harder(build):
    """Hips 3 cm to the right: the right foot carries more and the right knee works harder than the left one;
    mirrored, the other way round. T17: what a light lift shows, the heavy one shows too: the shares of twice
    the load are the same within a tenth."""
    right, left = (
        solve("back-squat-high-bar", 60, build, settings={"hip_shift_m": s}) for s in (0.03, -0.03)
    )
    assert extension(right, "knee_right") > 1.05 * extension(right, "knee_left")
    assert extension(left, "knee_left") == pytest.approx(extension(right, "knee_right"), rel=0.01)
    feet = right.shown.contacts.forces[1, :, right.timeline.bottom]
    assert feet[1] > 1.08 * feet[0]
    heavy = solve("back-squat-high-bar", 120, build, settings={"hip_shift_m": 0.03})
    shares = [
        f[1] / f.sum() for f in (feet, heavy.shown.contacts.forces[1, :, heavy.timeline.bottom])
    ]
    assert shares[1] == pytest.approx(shares[0], rel=0.1)


def test_one_knee_caving_asks_that_hip_s_rotators(build):
    """Left knee 4 cm in, the hips where they were: it is the left hip's outward rotators that hold it, by at
    least 4 N m more than the right ones (with both knees in, the abductors show it too)."""
    result = solve("back-squat-high-bar", 60, build, settings={"left_track_m": -0.04})
    at = result.timeline.bottom
    left, right = (
        float(result.shown.moments.rotation[JOINTS.index(f"hip_{s}"), at])
        for s in ("left", "right")
    )
    assert left <= right - 4.0


def test_an_uneven_stance_can_stand():
    """A foot 8 cm ahead: hips come down a little at the top, nothing is out of reach, ankles differ."""
    even, uneven = solve(), solve(settings={"left_ahead_m": 0.08})
    assert uneven.shown.pose.points["hip_mid"][1, 0] < even.shown.pose.points["hip_mid"][1, 0]
    at = uneven.timeline.bottom
    bent = [np.degrees(uneven.shown.pose.dorsiflexion_rad[s][at]) for s in ("left", "right")]
    assert bent[1] > bent[0] + 3.0
