"""Loads that change along the rep, bands by table, second masses, partial and quarter reps."""

import numpy as np
import pytest

from builders import case_of, extension, solve
from zesty_lever.analysis import analyse, other_peaks
from zesty_lever.physics.tempo import CHANGES_OVER, timeline
from zesty_lever.problems import CaseError


def test_a_heavier_way_down_is_the_heavier_rep_down_and_the_lighter_one_up():
    """100 kg down, 60 kg up: frames down equal the 100 kg rep, frames well on the way up the 60 kg rep."""
    heavy, light = solve(load=100), solve(load=60)
    both = solve(load=100, load_up_kg=60)
    down = slice(0, both.timeline.bottom + 1)
    assert both.shown.moments.extension[:, down] == pytest.approx(
        heavy.shown.moments.extension[:, down]
    )
    up = [
        i
        for i, p in enumerate(both.timeline.progress)
        if i > both.timeline.bottom and p < 1.0 - CHANGES_OVER
    ]
    weight = [-r.shown.carried.forces[1, 0, up] for r in (both, light)]
    assert weight[0] == pytest.approx(weight[1])
    assert (
        np.abs(both.shown.moments.extension[:, up] - light.shown.moments.extension[:, up]).max()
        < 12.0
    )
    assert any("way back" in line for line in both.assumptions)


@pytest.mark.parametrize(
    "name", ["romanian-deadlift", "conventional-deadlift", "split-squat", "hip-thrust"]
)
def test_loads_that_differ_work_in_every_family(name):
    """Partner pushing down on the way down only: closure to rounding, and the push is gone going up."""
    push = [{"kind": "push", "start": "shoulders", "push_N": [0.0, -80.0, 0.0], "when": "down"}]
    result = solve(name, 40, loads=push, load_up_kg=50)
    pulls = -result.shown.carried.forces[1, -1]
    down = result.timeline.up_share == 0.0
    up = result.timeline.up_share == 1.0
    assert pulls[down] == pytest.approx(80.0)
    assert pulls[up] == pytest.approx(0.0)
    assert result.shown.moments.closure.max() < 1e-7


def test_a_band_by_table_is_the_band_by_line():
    """A table of a straight line gives what slack and stiffness give; an end beyond it is refused."""
    ends = {"kind": "band", "start": "hand_left", "end": "foot_left"}
    line = solve("goblet-squat", 16, loads=[{**ends, "slack_m": 0.5, "stiffness_N_m": 200}])
    rows = [[0.5, 0.0], [1.0, 100.0], [2.0, 300.0]]
    table = solve("goblet-squat", 16, loads=[{**ends, "table": rows}])
    assert table.shown.moments.extension == pytest.approx(line.shown.moments.extension, abs=1e-6)
    short = analyse(
        case_of("goblet-squat", 16, loads=[{**ends, "table": [[0.5, 0.0], [0.8, 60.0]]}])
    )
    assert short.error.code == "band-too-long"
    assert short.error.allowed == [0.5, 0.8]


@pytest.mark.parametrize(
    "band",
    [
        {},
        {"slack_m": 0.5},
        {"table": [[0.5, 0.0]]},
        {"table": [[0.5, 5.0], [1.0, 9.0]]},
        {"table": [[0.5, 0.0], [0.4, 9.0]]},
        {"table": [[0.5, 0.0], [1.0, 9.0]], "slack_m": 0.1},
    ],
)
def test_a_band_needs_one_whole_description(band):
    """Neither half a line nor a table that falls, starts pulling or comes on top of a line."""
    with pytest.raises(CaseError, match="band"):
        case_of(
            "goblet-squat",
            16,
            loads=[{"kind": "band", "start": "hand_left", "end": "foot_left", **band}],
        )


def test_masses_sit_where_they_are_put():
    """A bar added at a named place equals the variation that carries it there."""
    own = solve("back-squat-high-bar", 60)
    added = solve(
        "back-squat-high-bar", 0, loads=[{"kind": "mass", "mass_kg": 60, "place": "bar-high"}]
    )
    assert added.shown.moments.extension == pytest.approx(own.solved.moments.extension, abs=1e-9)
    belt = solve("bodyweight-squat", None, loads=[{"kind": "mass", "mass_kg": 10, "place": "belt"}])
    assert belt.solved.carried.segments == ("pelvis",)
    hands = solve(
        "romanian-deadlift", 40, loads=[{"kind": "mass", "mass_kg": 20, "place": "hands"}]
    )
    heavier = solve("romanian-deadlift", 60)
    assert hands.shown.moments.extension == pytest.approx(heavier.shown.moments.extension, abs=1e-9)


def test_partial_range_is_a_part_of_the_full_rep():
    """The upper half ends half-way: its deepest frame is the full rep's frame of that progress."""
    full, half = solve(), solve(travel=[0.0, 0.5])
    at = half.timeline.bottom
    assert half.timeline.progress.max() == pytest.approx(0.5)
    same = int(np.argmin(np.abs(full.timeline.progress[:31] - 0.5)))
    assert full.timeline.progress[same] == pytest.approx(0.5)
    assert extension(half, "knee_right", at) == pytest.approx(
        extension(full, "knee_right", same), abs=0.05
    )
    assert half.summary["hip_right"].peak_Nm < 0.8 * full.summary["hip_right"].peak_Nm
    assert half.shown.bottom_deg == pytest.approx(full.shown.bottom_deg)
    with pytest.raises(CaseError, match="travel"):
        case_of(travel=[0.5, 0.6])


def test_one_and_a_quarter():
    """A quarter of the travel back and forth at the bottom (bridges: at lockout); time under load grows,
    peaks do not, and inertia is no larger than in the full phases."""
    times = timeline((2.0, 0.0, 1.0, 0.0), style="one-and-a-quarter")
    turning = np.flatnonzero(np.diff(np.sign(np.diff(times.progress))) != 0)
    assert times.progress[turning + 1] == pytest.approx([1.0, 0.75, 1.0], abs=1e-9)
    assert times.time_s[-1] == pytest.approx(4.5)
    plain, quarter = solve(), solve(style="one-and-a-quarter")
    peaks = [r.summary["hip_right"].peak_Nm for r in (plain, quarter)]
    assert peaks[1] == pytest.approx(
        peaks[0], abs=0.05
    )  # the frames fall on other moments near the peak
    assert quarter.summary["hip_right"].impulse_Nms > 1.4 * plain.summary["hip_right"].impulse_Nms
    thrust = solve("hip-thrust", 60, style="one-and-a-quarter", tempo_s=[1, 1, 1, 0])
    assert thrust.summary["hip_left"].lockout_to_peak > 0.7
    slow = [4.0, 0.0, 4.0, 0.0]
    moving = [solve(style=s, mode="dynamic", tempo_s=slow) for s in ("full", "one-and-a-quarter")]
    most = [np.abs(r.shown.acceleration_m_s2).max() for r in moving]
    assert most[1] == pytest.approx(most[0], rel=0.1)


def test_both_ends_of_the_contact_rule_are_told_where_they_differ():
    """Split squat: far apart; back extension: one answer, nothing to tell; level squat: the pair is
    sideways and small in the side view."""
    split = analyse(case_of("split-squat", 40))
    peaks = other_peaks(split)
    plain = solve("split-squat", 40, contact_rule="vertical")
    assert peaks["knee_right"] == pytest.approx(plain.summary["knee_right"].peak_Nm)
    assert other_peaks(analyse(case_of("back-extension", None))) is None


def test_feet_that_would_slip_are_refused():
    """A sideways cable of 500 N at the hips needs more grip than the floor gives."""
    pull = [{"kind": "cable", "start": "hip_crease", "end": [3.0, 0.9, 0.0], "force_N": 700}]
    error = analyse(
        case_of("bodyweight-squat", None, loads=pull, settings={"trunk_deg": None})
    ).error
    assert error.code in {"would-slip", "cannot-balance"}
    kneeling = analyse(case_of("tall-kneeling-band-hinge", None, settings={"band_N_m": 1800}))
    assert kneeling.error is not None


def test_the_back_extension_s_pad_by_hand():
    """Body from the hips up about the pad: hook x distance along the legs = weights' moment about the
    pad. The pad's force then follows from the forces across the legs."""
    result = solve("back-extension", 10)
    at = result.timeline.bottom
    slope = np.radians(45.0)
    along = np.array([np.cos(slope), np.sin(slope)])
    across = np.array([-np.sin(slope), np.cos(slope)])
    hook, pad = (result.shown.contacts.points[:2, i, at] for i in (0, 2))
    centre, weight = result.shown.pose.system_centre()[:2, at], 92 * 9.80665
    lever = (centre - hook)[0] * weight
    on_pad = lever / ((pad - hook) @ along)
    force = result.shown.contacts.forces[:2, 2:, at].sum(axis=1)
    assert force @ across == pytest.approx(on_pad, rel=1e-9)
    assert force @ along == pytest.approx(0.0, abs=1e-9)
