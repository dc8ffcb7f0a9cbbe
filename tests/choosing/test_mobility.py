"""Strength apart from mobility, the low bar's own shin, and what the disc's interval holds."""

from __future__ import annotations

import numpy as np
import pytest

from builders import case_of
from zesty_lever.analysis import analyse, analyse_many
from zesty_lever.cases.model import Athlete, Best, Case
from zesty_lever.choosing.bests import effort_of, expected_best, strength_of
from zesty_lever.choosing.mobility import own_settings, stiff, with_usual_range
from zesty_lever.choosing.uncertainty import DISC_SLOPE_SD_DEG, EXTENSOR_ARM_SD_M, disc_off, draw
from zesty_lever.exercises.catalogue import catalogue
from zesty_lever.physics.body import landmark
from zesty_lever.physics.moments import disc_forces

SQUAT, LOW = "back-squat-high-bar", "back-squat-low-bar"


def man(ankle=None, **more):
    limits = {} if ankle is None else {"ankle_dorsiflexion": float(ankle)}
    given = {"best_loads_kg": {SQUAT: 130.0}, **more}
    return Athlete(height_m=1.78, mass_kg=82.0, sex="male", limits_deg=limits, **given)


def expected(athlete, name):
    return expected_best(strength_of(athlete), name)


# Tried by hand before the rule was written: ankle 38 degrees, a squat of 130 kg.
TRIED = {
    "conventional-deadlift": 154,
    "front-squat": 108,
    "split-squat": 55,
    "reverse-lunge": 51,
    "rear-foot-elevated-split-squat": 54,
}


@pytest.mark.parametrize("name", TRIED)
def test_stiff_ankles_make_no_deadlift_weak(name):
    stiffer, usual = expected(man(25), name), expected(man(38), name)
    assert stiffer.median_kg == pytest.approx(TRIED[name], abs=2.5)
    assert stiffer.median_kg == pytest.approx(usual.median_kg, rel=0.02)


def test_range_moves_only_what_it_forces_and_every_interval_holds_the_value_with_more_range():
    forced = {"straddle-squat", LOW}
    for name in catalogue():
        stiffer, usual = expected(man(25), name), expected(man(38), name)
        if stiffer is None or usual is None:
            continue
        assert stiffer.median_kg <= usual.median_kg * 1.001, name
        assert stiffer.low_kg <= usual.median_kg <= stiffer.high_kg, name
        if name not in forced:
            assert abs(stiffer.median_kg / usual.median_kg - 1.0) <= 0.12, name
        assert stiffer.low_kg <= usual.low_kg + 1e-6, name
    assert (
        expected(man(25), "straddle-squat").median_kg
        < 0.8 * expected(man(38), "straddle-squat").median_kg
    )


def test_the_tested_lift_uses_all_there_is_whatever_the_range():
    for ankle in (25, 38):
        athlete = man(ankle)
        case = analyse(Case(athlete=athlete, variation=SQUAT, load_kg=130.0)).case
        assert effort_of(case, strength_of(athlete)).top == pytest.approx(1.0, abs=0.03)


def test_settings_that_were_typed_count_but_not_at_the_end_of_the_range():
    usual = with_usual_range(man(25))
    assert usual.limits_deg == {} and stiff(man(25)) and not stiff(man(38)) and not stiff(man(45))
    typed = Best(variation=SQUAT, load_kg=130.0, settings={"shin_deg": 15.0})
    assert own_settings(man(25), typed, "even") == {"shin_deg": 15.0}
    at_the_end = Best(variation=SQUAT, load_kg=130.0, settings={"shin_deg": 23.0})
    assert own_settings(man(25), at_the_end, "even") == {}
    assert own_settings(man(38), at_the_end, "even") == {"shin_deg": 23.0}
    by_own = man(25, best_loads_kg={}, bests=(typed,))
    assert expected(by_own, "front-squat").median_kg != pytest.approx(
        expected(man(25), "front-squat").median_kg, rel=0.05
    )


@pytest.mark.parametrize("school", ["even", "knees-travel"])
def test_low_bar_takes_from_the_knee_and_gives_to_the_hip(school):
    """Tried on 60 builds: at one load and the same thigh knee 12 to 27 % less, hip 8 to 40 % more (T-free: own model)."""
    cases = [
        Case(
            athlete=Athlete(
                height_m=h, mass_kg=m, sex=sex, limits_deg={"ankle_dorsiflexion": 38.0}
            ),
            variation=name,
            school=school,
            load_kg=float(load),
            frames="none",
        )
        for h in (1.60, 1.78, 1.92)
        for m in (60.0, 82.0, 105.0)
        for sex in ("male", "female")
        for load in (60, 100, 140)
        for name in (SQUAT, LOW)
    ]
    results = analyse_many(cases)
    for high, low in zip(results[::2], results[1::2], strict=True):
        assert high.case.settings["thigh_deg"] == low.case.settings["thigh_deg"]
        usual = {"even": 25.0, "knees-travel": 28.0}[school]
        if low.case.settings["shin_deg"] > usual:
            # A light bar that balances only with a little more shin.
            assert (
                low.peaks["knee"] < high.peaks["knee"]
                and low.peaks["hip"] > 0.99 * high.peaks["hip"]
            )
            continue
        assert 0.73 <= low.peaks["knee"] / high.peaks["knee"] <= 0.88
        assert 1.08 <= low.peaks["hip"] / high.peaks["hip"] <= 1.40


def test_a_stiff_ankle_s_low_bar_never_asks_more_of_the_knee_at_its_usual_shin():
    for ankle in (30, 34, 38):
        athlete = {"limits_deg": {"ankle_dorsiflexion": ankle}}
        high, low = (analyse(case_of(name, 100, athlete)).case for name in (SQUAT, LOW))
        eased = low.settings["shin_deg"] > high.settings["shin_deg"] - 6.0
        assert low.settings["shin_deg"] <= high.settings["shin_deg"]
        assert not eased or low.settings["shin_deg"] <= 28.0


def test_the_disc_s_interval_holds_its_slope_and_the_muscles_arm():
    slope, arm = disc_off(4000, 1)
    assert np.std(slope) == pytest.approx(DISC_SLOPE_SD_DEG, rel=0.05) and DISC_SLOPE_SD_DEG == 6.0
    assert np.std(arm) == pytest.approx(EXTENSOR_ARM_SD_M, rel=0.05) and EXTENSOR_ARM_SD_M == 0.006
    result = analyse(case_of())
    drawn = draw(result, draws=400, others=True)
    pressing = drawn.interval("compression_N")
    # The arm alone, SD 0.6 of about 5.5 cm, leaves about 18 % each way of the muscle's part.
    assert pressing.half_width / pressing.nominal > 0.12
    pose, moments = result.solved.pose, result.solved.moments
    usual = disc_forces(pose, moments)
    steeper = disc_forces(pose, moments, 6.0)
    assert np.abs(steeper.shear_N).max() != pytest.approx(np.abs(usual.shear_N).max(), rel=0.01)
    longer = disc_forces(pose, moments, 0.0, landmark("extensor_arm_m"))
    muscle = np.abs(moments.extension[-1]) / landmark("extensor_arm_m")
    assert usual.compression_N - longer.compression_N == pytest.approx(0.5 * muscle)
