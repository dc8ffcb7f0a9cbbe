"""Trade facts of lunges, hinges and bridges, over the spread of builds. All: common practice, no source.

Where the model says something else than the gym does, the check holds the model to what it says.
"""

import numpy as np
import pytest

from builders import MALE, case_of, extension, solve
from zesty_lever.analysis import analyse
from zesty_lever.cases.resolve import resolve
from zesty_lever.choosing.loading import equal_demand_load_kg
from zesty_lever.joints import HIP, JOINTS
from zesty_lever.problems import CaseError


def roomy(build):
    return {**build, "limits_deg": {"hip_flexion": 140, "ankle_dorsiflexion": 42}}


@pytest.mark.parametrize(
    "name",
    [
        "romanian-deadlift",
        "good-morning",
        "conventional-deadlift",
        "stiff-leg-deadlift",
        "hex-bar-deadlift",
    ],
)
def test_t1_hinges_are_idle_when_standing(build, name):
    """T1: hip and lower back at most 0.15 of their peak at the top."""
    summary = solve(name, None, build).summary
    for joint in ("hip_left", "lumbosacral"):
        assert abs(summary[joint].lockout_to_peak) <= 0.15


@pytest.mark.parametrize("name", ["split-squat", "rear-foot-elevated-split-squat"])
def test_t1_split_stances_stay_busy(build, name):
    """T1, as the model has it: standing split, both hips are bent or stretched and the feet push
    apart, so the front hip keeps a tenth to six tenths of its peak; deepest is still hardest."""
    summary = solve(name, None, build).summary
    assert 0.08 <= summary["hip_right"].lockout_to_peak <= 0.6
    assert summary["hip_right"].at_progress > 0.85


def test_t13_the_front_leg_carries_most(build):
    """T13: at least three quarters; drifting back (less asked of it) hands the load to the rear leg."""
    front, back = (
        solve("split-squat", 24, roomy(build), settings={"front_share": share, "thigh_deg": 15})
        for share in (0.8, 0.6)
    )
    at = front.timeline.bottom
    assert front.shown.contacts.share[at] >= 0.75
    assert extension(back, "knee_left") > 1.3 * extension(front, "knee_left")
    assert extension(back, "hip_right") < extension(front, "hip_right")


def test_t14_hip_back_or_knee_forward(build):
    """T14: from a shin near upright to a shin forward, front knee up by a third, front hip down."""
    hip_biased, knee_biased = (
        solve("split-squat", 24, roomy(build), settings={"shin_deg": shin, "thigh_deg": 22})
        for shin in (5, 30)
    )
    assert extension(knee_biased, "knee_right") >= 4 / 3 * extension(hip_biased, "knee_right")
    assert extension(knee_biased, "hip_right") < extension(hip_biased, "hip_right")


def test_t17_one_leg_needs_far_less_load():
    """T17: at the load that equals the front hip's peak, the split squat needs less than half of the
    two-leg load once that is body mass; with a light bar bodyweight alone already does it."""
    split = resolve(case_of("rear-foot-elevated-split-squat", 10, settings={"shin_deg": 27}))
    for two_leg in (MALE["mass_kg"], 1.5 * MALE["mass_kg"]):
        heavy = solve("back-squat-high-bar", two_leg)
        load = equal_demand_load_kg(split, HIP, heavy.peak(HIP))
        assert load < 0.45 * two_leg
        again = solve("rear-foot-elevated-split-squat", load, settings={"shin_deg": 27})
        assert again.peak(HIP) == pytest.approx(heavy.peak(HIP), rel=1e-5)
    light = solve("back-squat-high-bar", 30)
    with pytest.raises(CaseError, match="no load"):
        equal_demand_load_kg(split, HIP, light.peak(HIP))


def test_t18_the_upright_step_up_cannot_be_lowered_slowly(build):
    """T18: thigh level, trunk and shin within 10 degrees of upright: no balance over the foot; the
    app says so and gives the push needed."""
    result = analyse(
        case_of(
            "step-up-high",
            0,
            roomy(build),
            settings={"thigh_deg": 0, "shin_deg": 8, "trunk_deg": 8},
        )
    )
    assert result.error.code == "would-tip"
    assert "back" in result.error.text
    assert "N at shoulder height" in result.error.text


def test_t19_the_hinge_spares_the_knee(build):
    """T19: upright shins: the knee's moment is a flexor one, at most 0.30 of the hip's. Bending
    forward with the hips left in place puts the pressure past the ball of the foot."""
    hinge = solve("romanian-deadlift", None, build, settings={"shin_deg": 0})
    assert -0.30 * extension(hinge, "hip_right") <= extension(hinge, "knee_right") < 0.0
    bowed = analyse(
        case_of(
            "romanian-deadlift",
            None,
            build,
            settings={"shin_deg": 0, "thigh_deg": 88, "trunk_deg": 65},
        )
    )
    assert bowed.error.code == "would-tip"
    assert "forward" in bowed.error.text


def test_t20_every_centimetre_away_costs_the_back(build):
    """T20: hands 10 cm (at 1.75 m) further out, load three quarters of body mass. Same legs, trunk
    re-solved: lower back up 3-7 %, the trunk has to come up. Trunk held, hips re-balanced: at least
    15 %."""
    load = 0.75 * build["mass_kg"]
    near = solve("romanian-deadlift", load, build)
    out = {"hands_ahead_m": near.case.settings["hands_ahead_m"] + 0.10 * build["height_m"] / 1.75}
    legs = {k: near.shown.bottom_deg[k] for k in ("thigh_deg", "shin_deg")}
    eased = solve("romanian-deadlift", load, build, settings={**out, **legs, "trunk_deg": None})
    held = solve("romanian-deadlift", load, build, settings=out)
    before = extension(near, "lumbosacral")
    assert 0.03 <= extension(eased, "lumbosacral") / before - 1.0 <= 0.07
    assert eased.shown.bottom_deg["trunk_deg"] < near.shown.bottom_deg["trunk_deg"] - 5.0
    assert extension(held, "lumbosacral") / before - 1.0 >= 0.15


def test_t23_handles_at_the_sides_allow_a_more_upright_pull(build):
    """T23: hex bar against conventional, same load: trunk at least 8 degrees more upright, more knee."""
    hex_bar, bar = (solve(n, 80, build) for n in ("hex-bar-deadlift", "conventional-deadlift"))
    assert bar.shown.bottom_deg["trunk_deg"] - hex_bar.shown.bottom_deg["trunk_deg"] >= 8.0
    assert extension(hex_bar, "knee_right") > 1.15 * extension(bar, "knee_right")


def test_t22_start_positions_follow_the_build(build):
    """T22: bar at 22.5 cm over the laces (between the foot's middle and its ball), shoulders ahead of it; hips below shoulders, above knees."""
    result = solve("conventional-deadlift", 80, build)
    points, at = result.shown.pose.points, result.timeline.bottom
    assert at == 0
    bar = result.shown.pose.load_points[:, 0, at]
    assert bar[1] == pytest.approx(
        0.225, abs=1e-5
    )  # the chain closes to a hundredth of a millimetre
    middle = 0.5 * (points["heel_right"] + points["toe_right"])[0, at]
    assert middle < bar[0] < points["ball_right"][0, at]
    assert points["shoulder_mid"][0, at] > bar[0]
    assert points["knee_right"][1, at] < points["hip_mid"][1, at] < points["shoulder_mid"][1, at]


def test_t24_bridges_stay_hard_at_lockout(build):
    """T24: at lockout the hip keeps most of its peak in the thrust (0.75 and more), nothing in squat
    and hinge. With the hips down the thrust's hip is a little harder: the feet carry more there."""
    thrust = solve("hip-thrust", None, build).summary["hip_left"].lockout_to_peak
    assert thrust >= 0.75
    for other in ("back-squat-high-bar", "romanian-deadlift"):
        assert abs(solve(other, None, build).summary["hip_left"].lockout_to_peak) < 0.05


def test_t26_feet_near_or_far(build):
    """T26: feet close to the hips need knee extensors, feet far need hamstrings; shins upright with
    the pressure under the ankle need neither."""
    near, even, far = (
        extension(solve("hip-thrust", 80, build, settings={"shin_deg": s}), "knee_left")
        for s in (14, 0, -14)
    )
    assert near > 10.0
    assert far < -10.0
    assert abs(even) < 0.25 * min(near, -far)


def test_bridge_is_a_beam_on_two_supports():
    """The thrust's skeleton by hand: a load W between feet and back on a span D, M = W x (D - x) / D.

    The whole body is that beam: the back's and the feet's forces follow from the mass centre alone.
    """
    result = solve("hip-thrust", 100)
    at = result.timeline.bottom
    feet, back = result.shown.contacts.points[0, 0, at], result.shown.contacts.points[0, -1, at]
    centre, weight = result.shown.pose.system_centre()[0, at], 182 * 9.80665
    on_back = weight * (feet - centre) / (feet - back)
    assert result.shown.contacts.forces[1, -1, at] == pytest.approx(on_back, rel=1e-9)


def test_a_contact_that_would_pull_is_refused():
    """A partner lifting the hips by more than they weigh would need contacts that pull: no numbers."""
    lifted = [{"kind": "push", "start": "hip_crease", "push_N": [0.0, 900.0, 0.0]}]
    error = analyse(case_of("glute-bridge", None, loads=lifted)).error
    assert error.code == "would-pull"
    assert "would have to pull" in error.text
    helped = [{"kind": "push", "start": "hip_crease", "push_N": [0.0, 150.0, 0.0]}]
    plain, eased = solve("glute-bridge", None), solve("glute-bridge", None, loads=helped)
    assert extension(eased, "hip_left") < extension(plain, "hip_left")


def test_the_rear_leg_s_contact_rule_matters():
    """The rule is named in the result and changes front hip and knee in a hip-biased split squat:
    the horizontal pair between the feet moves moment from the hip to the knee."""
    plain, eased = (
        solve("split-squat", 60, settings={"shin_deg": 8, "thigh_deg": 20}, contact_rule=rule)
        for rule in ("vertical", "least-effort")
    )
    assert "contact rule: vertical" in plain.assumptions[0]
    assert extension(eased, "knee_right") > extension(plain, "knee_right") + 20
    assert extension(eased, "hip_right") < extension(plain, "hip_right") - 20
    legs = [i for i, joint in enumerate(JOINTS) if joint != "lumbosacral"]
    at = plain.timeline.bottom
    effort = [(r.shown.moments.vector[:, legs, at] ** 2).sum() for r in (plain, eased)]
    assert effort[1] < effort[0]


def test_t12_bands_add_most_near_lockout(build):
    """T12: a band under the feet pulls nothing or little at the bottom and most when standing; the
    banded squat is therefore harder at the top than the plain one, and the same at the bottom."""
    plain, banded = (solve(n, 20, build) for n in ("goblet-squat", "banded-goblet-squat"))
    pulls = np.abs(banded.shown.carried.forces[1, -1])
    assert pulls[0] > 20.0
    assert pulls[banded.timeline.bottom] < 0.25 * pulls[0]
    assert extension(banded, "lumbosacral", 0) > 1.2 * extension(plain, "lumbosacral", 0)
    assert extension(banded, "hip_left") == pytest.approx(extension(plain, "hip_left"), rel=0.05)


def test_t27_a_band_round_the_knees_asks_for_abduction(build):
    """T27: the abduction moment at the hip grows by its pull times its distance from the hip; the hip's
    extension in the thrust stays within a twentieth."""
    plain, banded = (solve(n, 60, build) for n in ("hip-thrust", "banded-hip-thrust"))
    row, at = JOINTS.index("hip_left"), plain.timeline.bottom
    gained = banded.shown.moments.abduction[row, at] - plain.shown.moments.abduction[row, at]
    pull = np.linalg.norm(banded.shown.carried.forces[:, -1, at])
    assert gained == pytest.approx(0.88 * build["lengths_m"]["thigh"] * pull, rel=0.1)
    assert extension(banded, "hip_left") == pytest.approx(extension(plain, "hip_left"), rel=0.05)


def test_a_line_is_listed_at_every_end_that_pulls():
    """A partner's push, a cable and a band as extra loads: mass 0 entries, and the pose leans to them."""
    loads = [
        {"kind": "push", "start": "hip_crease", "push_N": [60.0, 0.0, 0.0]},
        {
            "kind": "band",
            "start": "above_knee_left",
            "end": "above_knee_right",
            "slack_m": 0.2,
            "stiffness_N_m": 300,
        },
        {"kind": "cable", "start": "shoulders", "end": [2.0, 1.0, 0.0], "force_N": 80},
    ]
    plain, pulled = solve(), solve(loads=loads)
    assert pulled.solved.carried.names[1:] == ("push", "band", "band", "cable")
    assert pulled.shown.bottom_deg["trunk_deg"] < plain.shown.bottom_deg["trunk_deg"] - 5.0
    assert pulled.shown.moments.closure.max() < 1e-6
    at = pulled.timeline.bottom
    assert pulled.shown.contacts.forces[0, :, at].sum() == pytest.approx(
        -pulled.solved.lines.forces[0, :, at].sum(), abs=1e-9
    )
    fraction = pulled.shown.contacts.points[0, 1, at]
    assert fraction == pytest.approx(plain.shown.contacts.points[0, 1, at], abs=2e-4)


def test_t7_hips_first_out_of_the_hole_load_the_back(build):
    """T7: hips rising first by 15 degrees of trunk: on the way up the lower back carries at least 15 %
    more than with hips and chest rising together, the knee less, and the trunk leans that much more."""
    even, early = (solve(athlete=roomy(build), settings={"hips_rise_deg": d}) for d in (0, 16))
    back, knee = (JOINTS.index(j) for j in ("lumbosacral", "knee_right"))
    up = [i for i, name in enumerate(even.timeline.phase) if name == "up"]
    lean = np.degrees(early.shown.pose.line_rad - even.shown.pose.line_rad)[up]
    half = up[int(np.argmax(lean))]
    assert lean.max() >= 6.0
    gain = (
        early.shown.moments.extension[back, half] / even.shown.moments.extension[back, half] - 1.0
    )
    assert gain >= 0.15
    assert early.shown.moments.extension[knee, half] < even.shown.moments.extension[knee, half]
    down = slice(0, even.timeline.bottom + 1)
    assert early.shown.moments.extension[:, down] == pytest.approx(
        even.shown.moments.extension[:, down]
    )


def test_who_leads_shifts_the_work_in_between(build):
    """Hips first: half-way down the hip carries more and the knee less; the ends do not change."""
    ahead, behind = (solve(athlete=roomy(build), settings={"hips_lead": d}) for d in (0.08, -0.08))
    hip, knee = (JOINTS.index(j) for j in ("hip_right", "knee_right"))
    assert ahead.shown.moments.extension[hip, 15] > 1.05 * behind.shown.moments.extension[hip, 15]
    assert ahead.shown.moments.extension[knee, 15] < behind.shown.moments.extension[knee, 15]
    for frame in (0, 30):
        assert ahead.shown.moments.extension[:, frame] == pytest.approx(
            behind.shown.moments.extension[:, frame], abs=1e-6
        )
