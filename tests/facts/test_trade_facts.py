"""Trade facts T1-T6, T9, T10 over the spread of builds. All: common practice, no source.

Each checks a direction and a least size. Where the model says something else than the gym does,
the check holds the model to what it does say, and the reason is written beside it.
"""

import numpy as np
import pytest

from builders import MALE, builds, case_of, extension, solve, vector
from zesty_lever.analysis import analyse
from zesty_lever.choosing.compare import theorem_applies
from zesty_lever.joints import JOINTS

BACK_LOADED = (
    ("bodyweight-squat", None),
    ("back-squat-high-bar", 60),
    ("back-squat-low-bar", 70),
    ("dumbbell-squat", 40),
)
FRONT_LOADED = (("front-squat", 45), ("goblet-squat", 20))
ROOM = {"hip_flexion": 140, "ankle_dorsiflexion": 45}


def side_view(result, joint):
    return result.shown.moments.side_view[JOINTS.index(joint), result.timeline.bottom]


def knee_to_hip(result):
    return extension(result, "knee_right") / np.linalg.norm(vector(result, "hip_right"))


def sized(build, stance, **settings):
    return {"stance_m": stance * build["height_m"], **settings}


@pytest.mark.parametrize(("name", "load"), BACK_LOADED + FRONT_LOADED)
def test_t1_the_deeper_the_harder(build, name, load):
    """T1: hip, knee and lower back grow on the way down; the hip has nothing to do when standing.

    The straight knee keeps a small flexor moment (the line of gravity runs ahead of it).
    """
    result = solve(name, load, build)
    down = slice(0, result.timeline.bottom + 1)
    for joint in ("hip_right", "knee_right", "lumbosacral"):
        curve = result.shown.moments.extension[JOINTS.index(joint), down]
        assert result.summary[joint].at_progress > 0.9
        assert (np.diff(curve) > -0.03 * curve.max()).all()  # no sizeable dip on the way down
    assert abs(result.summary["hip_right"].lockout_to_peak) <= 0.15
    assert -0.30 <= result.summary["knee_right"].lockout_to_peak <= 0.30


@pytest.mark.parametrize(("name", "load"), BACK_LOADED)
def test_t1_lower_back_is_nearly_idle_when_standing(build, name, load):
    """T1: at most 0.15 of the peak with the load on the back or at the sides.

    Arms held level in front are themselves a load in front: there up to 0.17.
    """
    limit = 0.17 if name == "bodyweight-squat" else 0.15
    assert 0.0 < solve(name, load, build).summary["lumbosacral"].lockout_to_peak <= limit


@pytest.mark.parametrize(("name", "load"), FRONT_LOADED)
def test_t1_a_load_in_front_keeps_the_lower_back_busy(build, name, load):
    """What the model says of front loads, against T1's 0.15: between 0.13 and 0.25 of the peak.

    Standing, the mass above the hips is plumb over them. With the load in front the trunk leans
    back to get there, and L5/S1, which lies behind the hip-shoulder line, moves back from under
    the load. The lower back therefore keeps a moment although the hips have none.
    """
    assert 0.13 <= solve(name, load, build).summary["lumbosacral"].lockout_to_peak <= 0.25


def narrow_and_wide(build):
    """The same depth, each at its own technique: the wide one with more upright shins."""
    limits = {"limits_deg": {**ROOM, "hip_opening": 50}}
    narrow = solve(
        athlete={**build, **limits}, settings=sized(build, 0.16, toe_out_deg=5, shin_deg=34)
    )
    wide = solve(
        athlete={**build, **limits}, settings=sized(build, 0.30, toe_out_deg=30, shin_deg=20)
    )
    return narrow, wide


def test_t2_wide_stance_moves_work_from_knee_to_hip(build):
    """T2: the knee-to-hip ratio (hip as 3-D magnitude) falls by at least a fifth, and the hip's
    moment about the forward axis (adductors, abductors) grows by at least a half."""
    narrow, wide = narrow_and_wide(build)
    assert knee_to_hip(wide) <= 0.80 * knee_to_hip(narrow)
    assert vector(wide, "hip_right")[0] >= 1.5 * max(vector(narrow, "hip_right")[0], 1.0)


def test_t2_not_by_width_alone(build):
    """At one side-view shin the side-view ratio does not fall: the opened thigh is shorter seen
    from the side, so the hip's lever shrinks. The gym's fact needs the wide stance's own shin."""
    limits = {"limits_deg": {**ROOM, "hip_opening": 55}}
    ratios = [
        side_view(r, "knee_right") / side_view(r, "hip_right")
        for r in (
            solve(
                athlete={**build, **limits},
                settings=sized(build, stance, toe_out_deg=15, shin_deg=28),
            )
            for stance in (0.18, 0.30)
        )
    ]
    assert ratios[1] >= ratios[0]


@pytest.mark.parametrize("front", ["front-squat", "goblet-squat"])
def test_t3_a_load_in_front_keeps_the_trunk_upright(build, front):
    """T3: same legs, same 40 kg: at least 8 degrees more upright than on the back."""
    same = sized(build, 0.23, shin_deg=34)
    on_back = solve("back-squat-high-bar", 40, build, settings=same)
    in_front = solve(front, 40, build, settings=same)
    assert on_back.shown.bottom_deg["trunk_deg"] - in_front.shown.bottom_deg["trunk_deg"] >= 8.0


def test_t4_a_bar_on_the_back_makes_the_trunk_lean(build):
    """T4: at parallel the trunk leans at least 15 degrees at every school's default shin, and the
    more the shin stays back the more it leans; a trunk held at 3 degrees can't be balanced."""
    leans = []
    for shin in (36, 32, 28):
        settings = {"shin_deg": shin}
        leans.append(solve(athlete=build, settings=settings).shown.bottom_deg["trunk_deg"])
    assert leans[0] >= 15.0
    assert leans[0] + 3 < leans[1] < leans[2] - 3
    upright = analyse(case_of(athlete=build, settings={"trunk_deg": 3, "shin_deg": None}))
    assert upright.error is not None


def test_t5_back_and_shin_are_about_parallel():
    """T5: even technique, average build, parallel: trunk and shin within 10 degrees."""
    for sex, height, mass in (("male", 1.77, 80), ("female", 1.64, 63)):
        athlete = {"height_m": height, "mass_kg": mass, "sex": sex}
        result = solve(athlete=athlete, load=0.75 * mass)
        assert (
            abs(result.shown.bottom_deg["trunk_deg"] - result.shown.bottom_deg["shin_deg"]) < 10.0
        )


def test_t6_a_lifting_heel_first_unloads_then_loads_the_knee(build):
    """T6, as the model has it: the pressure goes to the ball, which brings the line of force
    closer to the knee, so a small lift lowers the knee's moment; each degree of lift lets the shin
    go a degree further, and beyond about 10 degrees the knee carries more than with the heel down.
    """
    athlete = {**build, "limits_deg": {"ankle_dorsiflexion": 38}}
    # A stance and toes straight enough that 34 degrees of shin is inside the ankle's range.
    flat = solve(athlete=athlete, settings={"shin_deg": 34})
    knees = {
        lift: solve(athlete=athlete, settings={"shin_deg": 34 + lift, "heel_lift_deg": lift})
        for lift in (3, 14)
    }
    assert extension(knees[3], "knee_right") < 0.9 * extension(flat, "knee_right")
    assert extension(knees[14], "knee_right") > extension(flat, "knee_right")


def test_t6_knees_past_the_toes_load_the_knee(build):
    """T6's other half: shin further forward with the heel down, knee up by at least a tenth."""
    back, forward = (solve(athlete=build, settings={"shin_deg": s}) for s in (28, 36))
    toe, knee = (forward.shown.pose.points[n][0, 30] for n in ("toe_right", "knee_right"))
    assert knee > toe
    assert extension(forward, "knee_right") >= 1.1 * extension(back, "knee_right")


def test_t9_going_deeper_ends_in_the_lower_back(build):
    """T9: for hips that end at 120 degrees, the lower back flexes more the deeper the squat, and
    past parallel it rounds beyond the ordinary 15 degrees sooner or later."""
    athlete = {**build, "limits_deg": {"hip_flexion": 120}}
    flexion = []
    for thigh in (25, 0, -15):
        result = solve(athlete=athlete, settings={"thigh_deg": thigh})
        flexion.append(np.degrees(result.shown.pose.lumbar_flexion_rad[result.timeline.bottom]))
    assert flexion[0] <= flexion[1] + 1e-9
    assert flexion[2] >= flexion[1] + 4.0
    assert flexion[2] > 10.0


def drift_cm(result):
    bar = result.shown.pose.load_points[0, 0]
    return 100.0 * (bar.max() - bar.min())


@pytest.mark.parametrize("height", [1.50, 1.62, 1.75, 1.88])
@pytest.mark.parametrize("sex", ["female", "male"])
def test_t10_a_heavy_bar_travels_almost_straight(height, sex):
    """T10: at most 4 cm once the bar is more than 1.2 body masses (average proportions)."""
    athlete = {"height_m": height, "mass_kg": round(23.5 * height**2, 1), "sex": sex}
    heavy = solve(athlete=athlete, load=1.25 * athlete["mass_kg"])
    assert drift_cm(heavy) <= 4.0


def test_t10_light_bars_wander_more(build):
    """T10, as the model has it: with a light bar the body is most of what balances, so the bar
    wanders; twice body mass always keeps within 4 cm. Very tall athletes with long thighs pass
    4 cm at 1.25 body masses (up to 5.1 cm at 2.00 m): the whole picture scales with the body."""
    drifts = [drift_cm(solve(athlete=build, load=f * build["mass_kg"])) for f in (0.25, 0.75, 2.0)]
    assert drifts[0] > 1.5 * drifts[1] > 1.5 * drifts[2]
    assert drifts[2] <= 4.0


def test_t10_bar_drift_figures():
    """About 9, 5 and 3.5 cm at 20, 60 and 100 kg for a man of 1.78 m and 82 kg (docs/model.md's own
    trial calculation): within 1 cm."""
    for load, drift in ((20, 9.0), (60, 5.0), (100, 3.5)):
        assert drift_cm(solve(load=load)) == pytest.approx(drift, abs=1.0)


def test_balance_theorem(build):
    """Same legs, same weight, same pressure point: where the load sits cannot change hip, knee or
    ankle, whatever the trunk does. The lower back does change."""
    same = {
        **sized(build, 0.22, toe_out_deg=15, shin_deg=34, thigh_deg=5),
        "pressure_fraction": 0.5,
    }
    results = [
        solve(name, 30, build, settings=same)
        for name in (
            "back-squat-high-bar",
            "back-squat-low-bar",
            "front-squat",
            "goblet-squat",
            "dumbbell-squat",
        )
    ]
    legs = [i for i, joint in enumerate(JOINTS) if joint != "lumbosacral"]
    at = results[0].timeline.bottom
    for other in results[1:]:
        assert other.shown.moments.vector[:, legs, at] == pytest.approx(
            results[0].shown.moments.vector[:, legs, at], abs=1e-7
        )
        assert theorem_applies(results[0], other)
    backs = [extension(r, "lumbosacral") for r in results]
    leans = [r.shown.bottom_deg["trunk_deg"] for r in results]
    assert max(leans) - min(leans) > 8.0
    assert max(backs) - min(backs) > 3.0


def test_the_more_upright_load_has_slightly_more_lower_back_moment_and_less_shear():
    """docs/model.md, its own trial: 60 kg, shin 32, parallel."""
    same = {"stance_m": 0.40, "toe_out_deg": 15, "shin_deg": 32, "thigh_deg": 0}
    back, front = (solve(n, 60, settings=same) for n in ("back-squat-high-bar", "front-squat"))
    at = back.timeline.bottom
    assert 1.0 < extension(front, "lumbosacral") / extension(back, "lumbosacral") < 1.1
    assert front.shown.disc.shear_N[at] < back.shown.disc.shear_N[at]


def test_the_theorem_is_not_claimed_where_it_does_not_hold():
    """Another weight, another shin, another athlete: no theorem."""
    one = solve()
    for other in (
        solve("front-squat", 61),
        solve("front-squat", 60, settings={"shin_deg": 33}),
        solve("front-squat", 60, {"mass_kg": MALE["mass_kg"] + 1}),
        one,
    ):
        assert not theorem_applies(one, other)


def test_every_default_exists_for_every_build():
    """All variations and schools at their defaults, over the spread: a pose exists."""
    from zesty_lever.analysis import analyse_many
    from zesty_lever.cases.model import SCHOOLS
    from zesty_lever.exercises.catalogue import catalogue

    cases = [
        case_of(name, None, build, school=school)
        for name in catalogue()
        for school in SCHOOLS
        for build in builds()
    ]
    failed = [
        (r.case.variation, r.case.school, r.error.text) for r in analyse_many(cases) if r.error
    ]
    assert failed == []


def test_variations_differ_in_their_results():
    """Every two variations differ at their defaults by more than 1 % of their peaks: in hip, knee or
    lower back at the deepest point or at the start of the rep, or in what the hip abductors do."""
    from itertools import combinations

    from zesty_lever.exercises.catalogue import catalogue

    peaks = {}
    for name in catalogue():
        result = solve(name, None)
        rows = [JOINTS.index(j) for j in ("hip_right", "knee_right", "lumbosacral")]
        at = result.timeline.bottom
        peaks[name] = np.concatenate(
            [
                result.shown.moments.extension[rows, at],
                result.shown.moments.extension[rows, 10],
                result.shown.moments.abduction[rows[:1], at],
            ]
        )
    for one, two in combinations(peaks, 2):
        apart = np.abs(peaks[one] - peaks[two]).max() / np.abs(peaks[one]).max()
        assert apart > 0.01, (one, two)
