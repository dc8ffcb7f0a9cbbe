"""Slopes with their step and side, techniques no closer than the pelvis, words for what is usual and for lockout."""

from __future__ import annotations

import numpy as np
import pytest

from builders import case_of
from zesty_lever.analysis import analyse
from zesty_lever.cases.batch import make_batch
from zesty_lever.choosing.explain import explain
from zesty_lever.choosing.sensitivity import slopes
from zesty_lever.choosing.technique import coached_range
from zesty_lever.physics.body import landmark
from zesty_lever.wording.sentences import lean_sentences, rep_sentences


def slope_of(case, key):
    return next(s for s in slopes(case) if s.key == key)


def moment(case, joint="hip_right"):
    result = analyse(case)
    return float(result.solved.extension(joint)[result.timeline.bottom])


@pytest.mark.parametrize(
    ("key", "at", "step", "side"),
    [
        ("shin_deg", 30.0, 1.0, "both"),
        ("stance_m", 0.45, 0.01, "both"),
    ],
)
def test_a_slope_says_its_step_and_side_and_is_that_of_a_whole_step(key, at, step, side):
    case = case_of("bodyweight-squat", None, settings={key: at})
    found = slope_of(case, key)
    assert (found.step, found.side) == (pytest.approx(step), side)
    ways = {"up": (step, 0.0), "both": (0.5 * step, -0.5 * step)}[side]
    ends = [
        moment(analyse(case).case.changed(settings={**analyse(case).case.settings, key: at + way}))
        for way in ways
    ]
    assert found.change_Nm["hip"] == pytest.approx(ends[0] - ends[1], abs=1e-6)


def test_at_the_lightest_load_the_slope_goes_up_by_a_whole_kilogram():
    case = analyse(case_of(load=0)).case
    found = slope_of(case, "load_kg")
    assert (found.side, found.step) == ("up", 1.0)
    wanted = moment(case.changed(load_kg=1.0)) - moment(case)
    assert found.change_Nm["hip"] == pytest.approx(wanted, abs=1e-6)


def test_at_the_end_of_a_range_it_is_not_halved():
    """The heel can only come up: a whole degree of it, from the ball, as far as a coach would see it move."""
    case = analyse(case_of("bodyweight-squat", None)).case
    found = slope_of(case, "heel_lift_deg")
    assert (found.side, found.step) == ("up", 1.0)
    batch = make_batch([case, case])
    ball = landmark("ball_from_heel")
    settings = {
        "heel_lift_deg": np.array([[0.0], [1.0]]),
        "pressure_fraction": np.array([[0.5], [ball]]),
    }
    lifted = batch.varied(settings=settings).solve(batch.probe)
    rows = lifted.extension("hip_right")[:, batch.probe_bottom]
    assert found.change_Nm["hip"] == pytest.approx(float(rows[1] - rows[0]), abs=1e-9)
    assert abs(found.change_Nm["hip"]) > 5.0, "once told as half of half a newton metre"


def test_no_technique_has_the_ankles_closer_than_half_the_pelvis():
    for height in (1.55, 1.78, 1.95):
        case = analyse(case_of("conventional-deadlift", 80, {"height_m": height})).case
        low, high = coached_range(case, ["stance_m"])
        assert low[0] >= 0.5 * landmark("hip_width") * height - 1e-9 and np.all(high > low)


def test_the_average_build_is_told_that_nothing_of_it_adds_to_the_lean():
    words = lean_sentences(explain(case_of()))
    assert "as usual" in words and "leans" in words
    long = explain(case_of(athlete={"lengths_m": {"thigh": 0.48}}))
    assert "as usual" not in lean_sentences(long) and "Thigh" in lean_sentences(long)


def test_what_is_left_at_the_top_is_said_without_a_minus():
    for name in ("back-squat-high-bar", "romanian-deadlift", "hip-thrust", "split-squat"):
        words = rep_sentences(analyse(case_of(name, 40)))
        assert "\N{MINUS SIGN}" not in words and "% of it" in words
