"""Set-up card and sensitivity over the spread of builds. Clearances: common practice, no source."""

import numpy as np
import pytest

from builders import builds, case_of, solve
from zesty_lever.analysis import analyse, analyse_many
from zesty_lever.choosing.sensitivity import setting_map, slopes
from zesty_lever.coaching.card import HOLE_SPACING_M, card_of, clears_safeties
from zesty_lever.exercises.catalogue import catalogue
from zesty_lever.joints import COACH_JOINTS, JOINTS
from zesty_lever.problems import CaseError


def test_rack_and_safeties(build):
    """The hooks are 5 to 14 cm below the bar on the standing shoulder (so that it can be unracked by a
    small knee bend), on a hole; at full depth the bar clears the safeties by 3 to 12 cm."""
    result = solve("back-squat-high-bar", 60, build)
    card = card_of(result)
    rack = card.line("rack_height_m")
    bar = float(result.shown.pose.load_points[1, 0, 0])
    assert 0.05 <= bar - rack.rounded <= 0.15
    assert rack.rounded / HOLE_SPACING_M == pytest.approx(round(rack.rounded / HOLE_SPACING_M))
    assert 0.03 <= clears_safeties(result, card) <= 0.12
    assert abs(rack.off) < HOLE_SPACING_M


def test_a_taller_athlete_s_rack_is_higher():
    """Sorted by height at equal proportions, rack and box heights rise."""
    for key, name in (("rack_height_m", "back-squat-high-bar"), ("box_height_m", "box-squat")):
        heights = [
            card_of(solve(name, 60, {"height_m": h, "mass_kg": 23.5 * h * h})).line(key).value
            for h in (1.5, 1.62, 1.75, 1.88, 2.0)
        ]
        assert (np.diff(heights) > 0.02).all()


def test_the_box_gives_a_parallel_thigh(build):
    """Sat to parallel: a box of the card's height touches the sitting bones when the thigh is level."""
    result = solve("box-squat", 60, build, settings={"thigh_deg": 0})
    box = card_of(result).line("box_height_m")
    at = result.timeline.bottom
    thigh = result.shown.pose.points["hip_right"] - result.shown.pose.points["knee_right"]
    assert abs(np.degrees(np.arctan2(thigh[1, at], -thigh[0, at]))) < 1e-6
    assert 0.15 * build["height_m"] < box.value < 0.30 * build["height_m"]


def test_discs_and_bands():
    """100 kg: 40 a side; the standing band hinge's anchor is low and behind, its pull as solved."""
    card = card_of(solve("back-squat-high-bar", 100))
    assert sum(card.loading.side) == 40
    hinge = solve("band-hinge", None)
    lines = card_of(hinge)
    assert lines.line("anchor_height_m").value == pytest.approx(0.03)
    assert 1.4 < lines.line("anchor_distance_m").value < 1.9
    bottom = np.linalg.norm(hinge.shown.carried.forces[:, -1, hinge.timeline.bottom])
    assert lines.line("band_at_the_hips_bottom_N").value == pytest.approx(bottom)
    wall = card_of(solve("romanian-deadlift", 60)).line("wall_distance_m").value
    assert 0.5 * 0.152 * 1.78 < wall < 2.0 * 0.152 * 1.78  # about one foot length


@pytest.mark.parametrize("name", list(catalogue()))
def test_every_variation_has_a_card(name):
    """Finite, rounded values with a reason each; an impossible set-up has none."""
    for build in list(builds())[::11]:
        card = card_of(solve(name, None, build))
        assert card.lines
        for line in card.lines:
            assert np.isfinite(line.value)
            assert line.why
            assert line.unit in {"m", "deg", "N"}
    with pytest.raises(CaseError):
        card_of(analyse(case_of("back-squat-high-bar", settings={"stance_m": 1.05})))


@pytest.mark.parametrize(
    "name", ["back-squat-high-bar", "split-squat", "romanian-deadlift", "hip-thrust"]
)
def test_slopes_are_what_solving_twice_says(name):
    """Each setting's slope against the difference of two solved poses half a step either side."""
    steps = {"deg": 0.5, "m": 0.005, "": 0.025, "N/m": 5.0}
    compared = 0
    for slope in slopes(case_of(name, 60))[:6]:
        if slope.change_Nm is None or slope.key == "load_kg":
            continue
        setting = catalogue()[name].settings[slope.key]
        whole = solve(name, 60).case
        now = whole.settings[slope.key]
        half = steps[setting.unit]
        if not setting.low + half <= now <= setting.high - half:
            continue
        two = [
            analyse(whole.changed(settings={**whole.settings, slope.key: now + way * half}))
            for way in (1, -1)
        ]
        if any(r.error for r in two):
            continue
        for group in COACH_JOINTS:
            word = group.word
            values = [r.solved.extension(group.shown)[r.timeline.bottom] for r in two]
            assert slope.change_Nm[word] == pytest.approx(values[0] - values[1], abs=0.02), (
                slope.key,
                word,
            )
        compared += 1
    assert compared >= 2


def test_a_kilogram_more_is_felt_everywhere():
    """The slope of the load is positive at hip, knee and lower back, and about the load's share."""
    change = {s.key: s.change_Nm for s in slopes(case_of())}["load_kg"]
    assert all(value > 0 for value in change.values())
    heavier, lighter = solve(load=61), solve(load=59)
    at = heavier.timeline.bottom
    row = JOINTS.index("lumbosacral")
    assert change["lower back"] == pytest.approx(
        0.5 * (heavier.shown.moments.extension[row, at] - lighter.shown.moments.extension[row, at]),
        abs=0.01,
    )


def test_the_map_agrees_with_solving_its_corners():
    """Feasible cells hold the solved moment; the others are not feasible when solved; none is shown."""
    found = setting_map(case_of(), "shin_deg", "thigh_deg", "knee_right", steps=7)
    assert found.values_Nm.shape == (7, 7)
    assert 0 < found.feasible.sum() < 49
    for row, column in ((0, 3), (3, 3), (6, 6), (3, 0), (2, 5)):
        alone = analyse(
            case_of(
                settings={
                    "shin_deg": float(found.across[column]),
                    "thigh_deg": float(found.up[row]),
                }
            )
        )
        assert (alone.error is None) == bool(found.feasible[row, column])
        if alone.error is None:
            at = alone.timeline.bottom
            knee = alone.shown.moments.extension[JOINTS.index("knee_right"), at]
            assert found.values_Nm[row, column] == pytest.approx(knee, abs=5e-3)
    with pytest.raises(CaseError, match="trunk_deg"):
        setting_map(case_of(), "trunk_deg", "shin_deg", "knee_right")


@pytest.mark.parametrize("name", list(catalogue()))
def test_every_tape_of_the_sketch_measures_its_line(name):
    """The places that a sketch draws a tape between are as far apart as the line says, over the spread of builds."""
    results = analyse_many([case_of(name, None, build) for build in builds()])
    able = [result for result in results if result.feasible]
    assert 2 * len(able) >= len(results)
    for result in able:
        lines = card_of(result).lines
        assert all(line.ends or line.mark == "height" for line in lines if line.mark)
        for line in lines:
            if line.ends is None:
                continue
            gap = np.abs(np.subtract(*line.ends))
            along = {"height": gap[1], "width": gap[2], "length": float(np.hypot(gap[0], gap[1]))}[
                line.mark
            ]
            assert along == pytest.approx(line.value, abs=1e-6), line.key
