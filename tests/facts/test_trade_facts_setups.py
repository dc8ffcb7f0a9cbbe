"""T8, T11, T15, T16, T21, T25 over the spread of builds. All: common practice, no source.

Where the model says something else than the gym does, the check holds the model to what it says.
"""

import numpy as np
import pytest

from builders import case_of, extension, solve
from zesty_lever.analysis import analyse
from zesty_lever.joints import JOINTS


def roomy(build):
    return {**build, "limits_deg": {"hip_flexion": 140, "ankle_dorsiflexion": 50}}


def at_bottom(result, joint, part):
    return float(getattr(result.shown.moments, part)[JOINTS.index(joint), result.timeline.bottom])


def hips_behind_m(result):
    """How far the hips are behind the ankles at the bottom, m."""
    at = result.timeline.bottom
    return float(
        result.shown.pose.points["ankle_right"][0, at] - result.shown.pose.points["hip_mid"][0, at]
    )


def angle(result, lower, upper):
    return float(np.degrees(result.shown.pose.side_view_rad(lower, upper)[result.timeline.bottom]))


def test_t8_arms_forward_let_the_hips_sit_back(build):
    """Same trunk and depth: with the arms forward the shin that balances is 3 degrees more upright,
    and the hips are further back."""
    forward, crossed = (
        solve(name, None, roomy(build), settings={"trunk_deg": 32, "shin_deg": None})
        for name in ("bodyweight-squat", "bodyweight-squat-arms-crossed")
    )
    assert forward.shown.bottom_deg["shin_deg"] <= crossed.shown.bottom_deg["shin_deg"] - 3.0
    assert hips_behind_m(forward) >= hips_behind_m(crossed) + 0.01


def test_t8_a_support_lets_the_hips_sit_back(build):
    """Shin all but upright and the chest up tips over backwards; holding on with 60 to 350 N (the
    answer is solved, not asked for) makes it possible."""
    same = {"shin_deg": 5, "trunk_deg": 25}
    alone = analyse(case_of("bodyweight-squat", None, roomy(build), settings=same))
    held = solve("assisted-squat", None, roomy(build), settings=same)
    assert alone.error.code == "would-tip"
    assert "back" in alone.error.text
    assert 60.0 < held.shown.bottom_deg["hold_N"] < 350.0
    hands = [i for i, name in enumerate(held.shown.contacts.names) if name.startswith("hand_")]
    pull = held.shown.contacts.forces[0, hands, held.timeline.bottom].sum()
    assert pull == pytest.approx(held.shown.bottom_deg["hold_N"])
    assert held.shown.contacts.forces[0, :, held.timeline.bottom].sum() == pytest.approx(
        0.0, abs=1e-8
    )


def test_t8_a_box_lets_the_hips_sit_back(build):
    """The same with a box: it has to carry a quarter to a half of the weight, by a solved share that
    one moment balance about the feet confirms."""
    same = {"shin_deg": 5, "trunk_deg": 35, "thigh_deg": 5}
    alone = analyse(case_of("back-squat-low-bar", 60, roomy(build), settings=same))
    sat = solve("box-squat", 60, roomy(build), settings={**same, "seat_share": None})
    assert alone.error.code == "would-tip"
    at = sat.timeline.bottom
    seat = sat.shown.contacts.names.index("seat")
    feet, box = sat.shown.contacts.points[0, 0, at], sat.shown.contacts.points[0, seat, at]
    centre = sat.shown.pose.system_centre()[0, at]
    by_hand = (feet - centre) / (feet - box)
    assert sat.shown.bottom_deg["seat_share"] == pytest.approx(by_hand, abs=1e-6)
    assert 0.25 < by_hand < 0.55


def test_t11_knees_caving_in_turn_the_knee_inward(build):
    """T11: 5 cm of cave bend the knee inward about its own floating axis by at least 8 N m more; the feet
    push apart as hard as uncaved (who caves does not push harder), half the load takes at least a tenth
    off (body weight stays), and knees over the toes take at least half of it away."""
    straight, caved, lighter = (
        solve("back-squat-high-bar", kg, roomy(build), settings={"knee_track_m": track})
        for kg, track in ((60, 0.0), (60, -0.05), (30, -0.05))
    )
    inward = [-at_bottom(r, "knee_right", "abduction") for r in (straight, caved, lighter)]
    assert inward[1] >= inward[0] + 8.0
    assert abs(inward[0]) <= 0.5 * inward[1]
    assert inward[2] <= 0.9 * inward[1]
    pushes = [r.solved.ground.pair_N for r in (straight, caved)]
    assert np.allclose(*pushes, atol=1e-9)


def test_t11_a_band_round_the_knees_gives_something_to_push_against(build):
    """T11's cure: the band asks for hip abduction at least 3 N m beyond the plain squat's."""
    plain, banded = (solve(n, 20, build) for n in ("goblet-squat", "banded-knees-squat"))
    gain = at_bottom(banded, "hip_right", "abduction") - at_bottom(plain, "hip_right", "abduction")
    assert gain >= 3.0


def split(build, laces, **settings):
    """A split squat with the rear foot laces down or on its toes, otherwise alike (no band)."""
    name = "side-banded-split-squat" if laces else "split-squat"
    chosen = {"step_m": 0.43 * build["height_m"], "thigh_deg": 16, **settings}
    if laces:
        chosen["band_N_m"] = 0
    return solve(name, 24, roomy(build), settings=chosen)


def test_t15_laces_down_takes_the_rear_ankle_out(build):
    """T15: on tucked toes the rear calf can push off; laces down it can't. At one and the same front
    share the rear knee's moment is not smaller for it (the instep lies further back): what laces down
    takes away is the push of the ankle, and with it the invitation."""
    tucked, laces = split(build, laces=False), split(build, laces=True)
    assert extension(tucked, "ankle_left") > 5.0
    assert extension(laces, "ankle_left") < 0.0
    assert extension(laces, "knee_left") > extension(tucked, "knee_left")


def test_t15_how_long_a_stance(build):
    """T15: at the default step the rear knee is below to 15 cm behind the hip; a step a tenth of
    stature longer stretches the rear hip by at least 10 degrees and loads its flexors more; a short
    one needs at least 4 degrees more of the front ankle."""
    usual, long = (
        split(build, laces=False),
        split(build, laces=False, step_m=0.49 * build["height_m"]),
    )
    at = usual.timeline.bottom
    behind = (
        usual.shown.pose.points["hip_left"][0, at] - usual.shown.pose.points["knee_left"][0, at]
    )
    assert -0.02 <= behind <= 0.18
    assert angle(long, "knee_left", "hip_left") >= angle(usual, "knee_left", "hip_left") + 10.0
    assert extension(long, "hip_left") < extension(usual, "hip_left") < 5.0
    shins = [
        split(
            build, laces=False, step_m=share * build["height_m"], trunk_deg=15, shin_deg=None
        ).shown.bottom_deg["shin_deg"]
        for share in (0.29, 0.43)
    ]
    assert shins[0] >= shins[1] + 4.0


def test_t16_stiff_hips_are_spared_by_the_rear_foot_elevated_squat(build):
    """T16: hips that end at 105 degrees: at parallel the bar squat flexes the lower back at least 12
    degrees more than the knee-biased rear-foot-elevated one with half the load, whose front hip works
    harder all the same. It takes the upright trunk: leaning forward fills the front hip too."""
    stiff = {**build, "limits_deg": {"hip_flexion": 105}}
    squat = solve("back-squat-high-bar", 60, stiff)
    elevated = solve("rear-foot-elevated-split-squat-knees", 30, stiff)
    rounding = [np.degrees(r.shown.pose.lumbar_flexion_rad.max()) for r in (squat, elevated)]
    assert rounding[0] >= rounding[1] + 12.0
    assert extension(elevated, "hip_right") > extension(squat, "hip_right")


def test_t21_beyond_the_hamstrings_the_lower_back_bends(build):
    """T21: hamstrings that end at 75 degrees: from 60 to 80 degrees of trunk the hips add less than a
    third of it, the lower back the rest."""
    stiff = {**build, "limits_deg": {"straight_leg": 75}}
    reps = [
        solve("romanian-deadlift", 60, stiff, settings={"trunk_deg": lean}) for lean in (60, 80)
    ]
    at = reps[0].timeline.bottom
    bent = [np.degrees(r.shown.pose.lumbar_flexion_rad[at]) for r in reps]
    assert bent[1] - bent[0] >= 13.0
    assert bent[1] > 15.0


def test_t25_the_top_of_the_thrust(build):
    """T25: shins upright, knees 90 degrees, trunk level by default; raising the bar by arching leaves
    the hips at least 5 degrees short of straight although the bar is higher."""
    flat = solve("hip-thrust", 80, build)
    at = flat.timeline.bottom
    assert abs(angle(flat, "ankle_right", "knee_right")) < 1.0
    assert np.degrees(flat.shown.pose.knee_flexion_rad["right"][at]) == pytest.approx(90.0, abs=3.0)
    assert np.degrees(flat.shown.pose.line_rad[at]) == pytest.approx(-90.0, abs=0.5)
    arched = solve("hip-thrust", 80, build, settings={"arch_deg": 15, "lockout_trunk_deg": 6})
    assert arched.shown.pose.load_points[1, 0, at] > flat.shown.pose.load_points[1, 0, at]
    bent = [
        np.degrees(r.shown.pose.pelvis_rad[at]) - angle(r, "knee_right", "hip_right")
        for r in (flat, arched)
    ]
    assert bent[1] >= bent[0] + 5.0
    assert np.degrees(arched.shown.pose.lumbar_flexion_rad[at]) == pytest.approx(-15.0)
