"""A lifted heel takes the shin along, and a support may pull upwards. Common practice, no source."""

import pytest

from builders import case_of, solve
from zesty_lever.analysis import analyse
from zesty_lever.cases.resolve import resolve
from zesty_lever.coaching.findings import findings

# Knee peaks at a lift of so many degrees, 60 kg on the back, N m: docs/model.md, tried before it was built.
KNEE_AT_LIFT = {0: 121, 5: 106, 8: 119, 10: 128, 15: 148}


@pytest.mark.parametrize("lift", KNEE_AT_LIFT)
def test_shin_and_heel_rise_together(lift):
    """A default shin leans as many degrees further as the heel comes up; small lifts unload the knee."""
    limits = {"limits_deg": {"ankle_dorsiflexion": 38}}
    result = solve("back-squat-high-bar", 60, limits, settings={"heel_lift_deg": lift})
    assert result.case.settings["shin_deg"] == 32 + lift
    assert result.peaks["knee"] == pytest.approx(KNEE_AT_LIFT[lift], abs=1.5)
    asked = resolve(case_of(settings={"heel_lift_deg": lift, "shin_deg": 30}))
    assert asked.settings["shin_deg"] == 30


def test_the_pressure_is_at_the_ball_before_the_heel_leaves():
    """On the way down: wherever the heel is off the floor the pressure sits at the ball."""
    result = solve("back-squat-high-bar", 60, settings={"heel_lift_deg": 10})
    heel, at = result.solved.pose.points["heel_right"][1], result.solved.pressure_fraction
    down = slice(0, result.timeline.bottom + 1)
    lifted = heel[down] > heel[0] + 1e-6
    assert lifted.any()
    assert not lifted.all()
    assert at[down][lifted] == pytest.approx(0.73, abs=1e-3)


@pytest.mark.parametrize(("lift", "small"), [(4, True), (12, False)])
def test_a_small_lift_is_explained(lift, small):
    """Below about 8 degrees the finding says why the knee works less (T6)."""
    result = solve("back-squat-high-bar", 60, settings={"heel_lift_deg": lift})
    (found,) = (f for f in findings(result) if f.code == "heel-lift")
    assert ("takes load off the knee" in found.text) is small


def test_a_hold_that_slopes_up_helps():
    """Straps from overhead: the steeper, the less hip and lower back work; the assumption names the slope."""
    level, sloped = (
        solve("assisted-squat", None, settings={"hold_slope_deg": slope}) for slope in (0, 25)
    )
    for joint in ("hip", "back"):
        assert sloped.peaks[joint] < 0.7 * level.peaks[joint]
    assert sum(sloped.peaks.values()) < 0.8 * sum(level.peaks.values())
    assert any("25 deg above level" in line for line in sloped.assumptions)
    lifted = sum(f[1].min() for f in sloped.solved.supports.forces.transpose(1, 0, 2))
    assert lifted >= 0.0
    assert analyse(case_of("assisted-squat", None, settings={"hold_slope_deg": 30})).feasible
