"""Intervals of what a whole rep says, held against every frame of the same draws and against the estimate."""

import numpy as np
import pytest

from builders import solve
from zesty_lever.choosing import rep_shape
from zesty_lever.choosing.rep_shape import FRONT_SHARE, OF_JOINTS, rep_intervals
from zesty_lever.choosing.scatter import Errors
from zesty_lever.joints import JOINTS

NONE = Errors(0.0, 0.0, 0.0, 0.0, 0.0, pair=False)
DRAWS = 100


@pytest.mark.parametrize(
    ("name", "mode"),
    [
        ("back-squat-high-bar", "static"),
        ("hip-thrust", "static"),
        ("split-squat", "static"),
        ("conventional-deadlift", "dynamic"),
    ],
)
def test_the_estimate_lies_inside_and_nothing_off_gives_the_estimate(name, mode):
    """Every joint and quantity; with no error at all the interval is the estimate, to what every second
    frame can tell."""
    result = solve(name, None, mode=mode)
    found = rep_intervals(result, draws=DRAWS)
    exact = rep_intervals(result, NONE, draws=DRAWS)
    for joint in JOINTS:
        for key in OF_JOINTS:
            if (joint, key) not in found:
                assert key == "lockout_to_peak"
                continue
            interval, own = found[joint, key], exact[joint, key]
            assert interval.low <= interval.nominal <= interval.high
            assert interval.nominal == getattr(result.summary[joint], key)
            # A frame in mid-range is 0.06 of the travel away from the next.
            apart = {"at_progress": 0.06, "lockout_to_peak": 0.02}.get(
                key, 0.01 * abs(own.nominal) + 1.0
            )
            assert own.high - own.low <= apart, (joint, key)


def test_every_second_frame_tells_what_every_frame_does(monkeypatch):
    """The same draws at every frame move no end by more than a few per cent of what is told."""
    result = solve("front-squat", 60)
    coarse = rep_intervals(result, draws=DRAWS)
    monkeypatch.setattr(rep_shape, "KNOT_EVERY", 1)
    fine = rep_intervals(result, draws=DRAWS)
    for key, interval in fine.items():
        size = max(abs(interval.low), abs(interval.high))
        for end in ("low", "high"):
            assert getattr(coarse[key], end) == pytest.approx(
                getattr(interval, end), abs=0.03 * size + 0.02
            ), key


def test_a_load_further_off_widens_impulse_and_lockout():
    """Twice the error of every angle: wider impulse at the hip; a bridge's lockout is never told to a digit."""
    result = solve("hip-thrust", 100)
    narrow, wide = (rep_intervals(result, Errors(angle_deg=size), draws=200) for size in (1.5, 6.0))
    key = ("hip_right", "impulse_Nms")
    assert wide[key].half_width > narrow[key].half_width
    left = narrow["hip_right", "lockout_to_peak"]
    assert left.high - left.low > 0.02


def test_the_front_leg_s_share_has_an_interval_only_on_two_feet():
    """Where the feet stand at unequal heights the rule decides how much the front foot carries."""
    elevated = rep_intervals(solve("rear-foot-elevated-split-squat", 20), draws=DRAWS)
    share = elevated["", FRONT_SHARE]
    assert share.low < share.nominal == pytest.approx(0.79, abs=1e-3)
    assert share.high <= 0.85
    for name in ("back-squat-high-bar", "step-up"):
        assert ("", FRONT_SHARE) not in rep_intervals(solve(name, None), draws=DRAWS)


def test_impulses_of_draws_add_up_over_time():
    """By hand: a hold's moment times its seconds; the tempo doubled doubles the impulse and its ends."""
    slow, fast = (
        rep_intervals(solve("back-squat-high-bar", 60, tempo_s=[t, 0, t, 0]), draws=DRAWS)[
            "hip_right", "impulse_Nms"
        ]
        for t in (4, 2)
    )
    assert np.allclose(
        [slow.low, slow.nominal, slow.high], [2 * fast.low, 2 * fast.nominal, 2 * fast.high]
    )
