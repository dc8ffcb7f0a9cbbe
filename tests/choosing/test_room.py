"""Room to move and sweeps: the numbers must be what solving again says."""

import numpy as np
import pytest

from builders import case_of, solve
from zesty_lever.analysis import analyse
from zesty_lever.cases.batch import make_batch
from zesty_lever.cases.resolve import resolve
from zesty_lever.choosing.reach import room
from zesty_lever.exercises.catalogue import catalogue, variation
from zesty_lever.joints import JOINTS


def rounding_deg(result):
    return float(np.degrees(result.shown.pose.lumbar_flexion_rad.max()))


@pytest.mark.parametrize(
    "name", ["back-squat-high-bar", "romanian-deadlift", "conventional-deadlift"]
)
def test_the_deepest_unrounded_rep_is_at_the_edge(name):
    """Solved again there the lower back flexes 15 degrees at most; one step (1 degree, 2 cm) deeper it
    rounds."""
    athlete = {"limits_deg": {"hip_flexion": 115, "straight_leg": 82}}
    found = room(case_of(name, 60, athlete)).depth_unrounded
    assert found.stop == "hip flexion"
    onward = {"thigh_deg": -1.0, "trunk_deg": 1.0, "bar_height_m": -0.02}[found.key]
    at_edge = solve(name, 60, athlete, settings={found.key: found.value})
    past = analyse(case_of(name, 60, athlete, settings={found.key: found.value + onward}))
    assert rounding_deg(at_edge) <= 15.0 + 1e-6
    assert past.error is not None or rounding_deg(past) > 15.0


def test_stiffer_joints_leave_less_room(build):
    """Hips that end 15 degrees sooner cost depth; an ankle 10 degrees stiffer does too, when the shin
    may go where it likes; both are named."""
    loose, hips, ankle = (
        room(case_of(athlete={**build, "limits_deg": limits}, settings={"shin_deg": 20}))
        for limits in (
            {"hip_flexion": 118, "ankle_dorsiflexion": 38},
            {"hip_flexion": 103, "ankle_dorsiflexion": 38},
            {"hip_flexion": 118, "ankle_dorsiflexion": 24},
        )
    )
    best = [r.depth_best_shin.value for r in (loose, hips, ankle)]
    assert best[1] > best[0] + 4.0
    assert best[2] > best[0] + 2.0
    assert loose.best_shin_deg > ankle.best_shin_deg


def test_the_widest_stance_is_at_the_edge():
    """The widest stance can be done and 2 cm more can't; what stops is the joint that the error names."""
    found = room(case_of()).widest
    assert analyse(case_of(settings={"stance_m": found.value})).error is None
    error = analyse(case_of(settings={"stance_m": found.value + 0.02})).error
    assert (error.code, found.stop) == ("hip-opening", "hip opening")


def test_margins_are_what_is_left_to_each_limit():
    """Ankle, knee and hip: limit less the angle at the bottom; pressure point between heel and ball."""
    result, found = solve(), room(case_of())
    at = result.timeline.bottom
    bent = np.degrees(result.shown.pose.dorsiflexion_rad["right"][at])
    assert found.margins_deg["ankle_dorsiflexion"] == pytest.approx(38.0 - bent, abs=1e-3)
    knee = np.degrees(result.shown.pose.knee_flexion_rad["right"][at])
    assert found.margins_deg["knee_flexion"] == pytest.approx(150.0 - knee, abs=1e-3)
    assert found.to_heel_cm + found.to_ball_cm == pytest.approx(100 * 0.73 * 0.152 * 1.78)


@pytest.mark.parametrize(
    "name",
    [
        "back-squat-high-bar",
        "split-squat",
        "romanian-deadlift",
        "conventional-deadlift",
        "hip-thrust",
    ],
)
def test_both_ends_of_every_setting_are_edges(name):
    """At each end the pose can be done; one step beyond it can't, or the setting's own range ends there."""
    case = resolve(case_of(name, 40))
    found = room(case).reach
    assert found
    known = variation(name).settings

    def error_at(key, value):
        # The other settings stay as they are: defaults could go along with the one that is moved.
        settings = {**case.settings, key: min(max(value, known[key].low), known[key].high)}
        return analyse(case.changed(settings=settings)).error

    for key, ends in found.items():
        for way, end in zip((-1.0, 1.0), ends, strict=True):
            assert error_at(key, end.value) is None, (key, end)
            step = {"deg": 1.5, "m": 0.02}[end.unit]
            if end.stop:
                assert error_at(key, end.value + way * step) is not None, (key, end)
            else:
                assert end.value == pytest.approx(known[key].low if way < 0 else known[key].high)


@pytest.mark.parametrize("name", list(catalogue()))
def test_every_variation_has_room_without_a_nan(name):
    """All numbers finite, units and stops named."""
    found = room(case_of(name, None))
    ends = [end for both in found.reach.values() for end in both]
    for part in (found.depth, found.depth_unrounded, found.widest, found.depth_best_shin, *ends):
        assert part is None or (np.isfinite(part.value) and part.unit in {"deg", "m"})
    assert all(np.isfinite(v) for v in found.margins_deg.values())


@pytest.mark.parametrize("name", ["back-squat-high-bar", "split-squat", "hip-thrust", "box-squat"])
def test_varied_samples_give_what_single_cases_give(name):
    """Varied settings in one batch: each sample as if analysed alone; impossible ones are told apart."""
    batch = make_batch([resolve(case_of(name, 40, contact_rule="least-effort"))])
    key = {"hip-thrust": "shin_deg"}.get(name, "thigh_deg")
    low = {"hip-thrust": -10.0}.get(name, 0.0)
    values = np.linspace(low, low + 12.0, 5)[:, None]
    varied = batch.varied(settings={key: values})
    found = varied.solve(varied.probe)
    for row, value in enumerate(values[:, 0]):
        whole = batch.cases[0]
        alone = analyse(whole.changed(settings={**whole.settings, key: float(value)}))
        at = alone.timeline.bottom
        assert found.feasible[row]
        for joint in JOINTS:
            ours = found.extension(joint)[row, varied.probe_bottom]
            assert ours == alone.solved.extension(joint)[at]
    if name == "back-squat-high-bar":
        wide = batch.varied(settings={"stance_m": np.array([[0.4], [1.1]])})
        assert wide.solve(wide.probe).feasible.tolist() == [True, False]
