"""Free-body closure and balance for random athletes and random legal settings."""

import numpy as np
import pytest
from hypothesis import HealthCheck, assume, given, settings
from hypothesis import strategies as st

from builders import case_of, solve
from zesty_lever.analysis import analyse, analyse_many
from zesty_lever.cases.parse import case_from
from zesty_lever.cases.resolve import technique_of
from zesty_lever.exercises.catalogue import catalogue
from zesty_lever.feasibility import advised
from zesty_lever.physics.failing import ABOVE_FLOOR
from zesty_lever.physics.forces import GRAVITY_M_S2
from zesty_lever.physics.vectors import cross

numbers = st.floats(allow_nan=False, allow_infinity=False)


@st.composite
def cases(draw, variation=None):
    level = [v.id for v in catalogue().values() if v.is_squat]
    name = variation or draw(st.sampled_from(level))
    entry = catalogue()[name]
    height = draw(st.floats(1.5, 2.0))

    def within(low, high):
        return draw(st.floats(low, high))

    chosen = {
        "stance_m": within(0.12, 0.36) * height,
        "toe_out_deg": within(0, 35),
        "thigh_deg": within(-10, 60),
        "shin_deg": within(20, 37),
        "knee_track_m": within(-0.05, 0.05),
        "pressure_fraction": within(0.2, 0.7),
    }
    if draw(st.booleans()):
        chosen |= {"heel_lift_deg": within(1, 15)}
        del chosen["pressure_fraction"]
    elif draw(st.booleans()):
        chosen["heel_height_m"] = within(0, 0.04)
    low, high = entry.load_range_kg()
    return case_from(
        {
            "format": "zesty-lever-case/1",
            "athlete": {
                "height_m": height,
                "mass_kg": within(20, 30) * height**2,
                "sex": draw(st.sampled_from(["male", "female"])),
                "lengths_m": {
                    "thigh": 0.245 * height * within(0.9, 1.1),
                    "shank": 0.246 * height * within(0.92, 1.08),
                },
                "limits_deg": {"ankle_dorsiflexion": 45, "hip_opening": 60},
            },
            "variation": name,
            "settings": chosen,
            "load_kg": within(low, min(high, 200)),
            "contact_rule": draw(st.sampled_from(["least-effort", "vertical"])),
        }
    )


@settings(max_examples=150, deadline=None, suppress_health_check=[HealthCheck.filter_too_much])
@given(cases())
def test_closure_and_balance(case):
    """Both sides of every cut agree to 1e-9 of body weight x height, and the whole is balanced.

    The tolerance is rounding: forces of a few kN at distances of a metre, in double precision.
    """
    result = analyse(case)
    assume(result.error is None)
    hold_together(result)


def hold_together(result):
    """Both sides of every cut agree, the whole is balanced, no contact pulls or slips."""
    athlete = result.case.athlete
    points = result.solved.pose.points
    assert min(points[name][1].min() for name in ABOVE_FLOOR) > -1e-6
    tolerance = 1e-9 * athlete.mass_kg * GRAVITY_M_S2 * athlete.height_m
    assert result.shown.moments.closure.max() < tolerance
    solved = result.solved
    acting = (solved.loads, solved.contacts)
    force = sum(part.forces.sum(axis=1) for part in acting)
    turning = sum(cross(part.points, part.forces).sum(axis=1) for part in acting)
    if solved.loads.couples is not None:
        turning += solved.loads.couples.sum(axis=1)
    turning[1] += solved.ground.free_moment_Nm
    assert np.abs(force).max() < tolerance
    assert np.abs(turning).max() < tolerance
    if result.case.variation == "back-extension":
        # A hook may pull and a roll pushes along its own line only.
        assert (solved.ground.forces[1, 2:] > 0.0).all()
        return
    push = solved.ground.forces
    assert (push[1] > -1e-9).all()
    assert (np.hypot(push[0], push[2]) <= 0.6 * push[1] + 1e-6).all()


@st.composite
def nearby_cases(draw, name):
    """A variation at its defaults, every setting moved by up to a tenth of its range, any load.

    Half of them move (with a tempo), half stand unevenly: what is even or off by default is moved too.
    """
    entry = catalogue()[name]
    uneven = draw(st.booleans())
    height = draw(st.floats(1.5, 2.0))
    athlete = {
        "height_m": height,
        "mass_kg": draw(st.floats(20, 30)) * height**2,
        "sex": draw(st.sampled_from(["male", "female"])),
        "limits_deg": {"ankle_dorsiflexion": 45, "hip_opening": 60},
    }
    bare = case_from({"format": "zesty-lever-case/1", "athlete": athlete, "variation": name})
    chosen = {}
    for key, value in technique_of(entry, bare.athlete, "even").items():
        if value is not None:
            setting = entry.settings[key]
            reach = 0.1 * (setting.high - setting.low) if value or uneven else 0.0
            moved = value + draw(st.floats(-reach, reach))
            chosen[key] = min(max(moved, setting.low), setting.high)
    if chosen.get("heel_lift_deg", 0.0) > 0.0:
        # On a lifted heel the pressure can only sit at the ball.
        del chosen["pressure_fraction"]
    low, high = entry.load_range_kg()
    moving = {}
    if draw(st.booleans()):
        down_s, up_s = draw(st.floats(1.5, 4.0)), draw(st.floats(1.0, 3.0))
        moving = {"mode": "dynamic", "tempo_s": [down_s, 0.5, up_s, 0.5]}
    return case_from(
        {
            "format": "zesty-lever-case/1",
            "athlete": athlete,
            "variation": name,
            "settings": chosen,
            "load_kg": draw(st.floats(low, min(high, 200))),
            "contact_rule": draw(st.sampled_from(["least-effort", "vertical"])),
            **moving,
        }
    )


@pytest.mark.parametrize("name", list(catalogue()))
def test_closure_and_balance_of_every_variation(name):
    """As above for each variation, at rest and moving, even and uneven: nothing under the floor either.

    At least a quarter of the drawn cases must exist, or the check would say nothing.
    """
    drawn, solved = [], []

    @settings(max_examples=24, deadline=None, suppress_health_check=list(HealthCheck))
    @given(nearby_cases(name))
    def check(case):
        drawn.append(case)
        result = analyse(case)
        if result.error is None:
            solved.append(case)
            hold_together(result)

    check()
    assert 4 * len(solved) >= len(drawn)


@settings(max_examples=60, deadline=None, suppress_health_check=[HealthCheck.filter_too_much])
@given(cases())
def test_limbs_keep_their_lengths_and_angles(case):
    """Distances between joints are the athlete's lengths; side-view angles are those asked for."""
    result = analyse(case)
    assume(result.error is None)
    points, at = result.shown.pose.points, result.timeline.bottom
    lengths = case.athlete.lengths_m
    for side in ("left", "right"):
        thigh = points[f"hip_{side}"] - points[f"knee_{side}"]
        shank = points[f"knee_{side}"] - points[f"ankle_{side}"]
        assert np.linalg.norm(thigh, axis=0) == pytest.approx(lengths["thigh"], abs=1e-9)
        assert np.linalg.norm(shank, axis=0) == pytest.approx(lengths["shank"], abs=1e-9)
        shin = np.degrees(np.arctan2(shank[0, at], shank[1, at]))
        assert shin == pytest.approx(case.settings["shin_deg"], abs=1e-7)
        level = np.degrees(np.arctan2(thigh[1, at], -thigh[0, at]))
        assert level == pytest.approx(case.settings["thigh_deg"], abs=1e-7)


@settings(max_examples=25, deadline=None, suppress_health_check=[HealthCheck.filter_too_much])
@given(cases(variation="back-squat-high-bar"), st.sampled_from(["shin_deg", "thigh_deg"]))
def test_any_angle_can_be_the_solved_one(case, key):
    """Give the solved trunk and let shin or thigh be solved instead: the same pose comes back."""
    first = analyse(case)
    assume(first.error is None)
    # Near parallel the thigh has no leverage: it may be free only above 15 degrees.
    assume(key != "thigh_deg" or case.settings["thigh_deg"] > 18)
    again = {**case.settings, "trunk_deg": first.shown.bottom_deg["trunk_deg"], key: None}
    second = analyse(case.changed(settings=again))
    assume(second.error is None)
    assert second.shown.bottom_deg["trunk_deg"] == pytest.approx(
        first.shown.bottom_deg["trunk_deg"], abs=1e-5
    )
    assert second.shown.bottom_deg[key] == pytest.approx(case.settings[key], abs=1e-5)


def test_all_given_reports_the_pressure_point_and_tipping():
    """Solved trunk given back as a number: pressure at mid-foot; 25 degrees more: tips forward."""
    solved = analyse(case_of())
    trunk = solved.shown.bottom_deg["trunk_deg"]
    given_back = analyse(case_of(settings={"trunk_deg": trunk}))
    assert given_back.shown.pressure_fraction[given_back.timeline.bottom] == pytest.approx(
        0.5, abs=1e-9
    )
    tipping = analyse(case_of(settings={"trunk_deg": trunk + 25}))
    assert tipping.error.code == "would-tip"
    assert "forward" in tipping.error.text
    back = analyse(case_of(settings={"trunk_deg": trunk - 30}))
    assert back.error.code == "would-tip"
    assert "back" in back.error.text


def test_allowed_range_of_an_infeasible_setting_really_works():
    """Both ends of the range that the error names can be done; a step outside can't."""
    result = analyse(case_of(settings={"stance_m": 1.0}))
    low, high = advised(result.case, result.error).allowed
    assert analyse(case_of(settings={"stance_m": round(high - 0.001, 3)})).error is None
    assert analyse(case_of(settings={"stance_m": high + 0.02})).error is not None
    assert low == pytest.approx(0.08)


def test_a_batch_gives_what_single_cases_give():
    """Cases of one group are solved together; each must come out as if alone."""
    several = [
        case_of(load=load, athlete={"height_m": h})
        for load, h in ((20, 1.6), (60, 1.78), (120, 1.9))
    ]
    several.append(case_of("goblet-squat", 24))
    for together, case in zip(analyse_many(several), several, strict=True):
        alone = analyse(case)
        assert together.case == alone.case
        assert together.shown.moments.vector == pytest.approx(alone.shown.moments.vector, abs=1e-9)


def test_lumbar_flexion_begins_where_the_hips_run_out():
    """Pelvis and trunk lean together until the hip limit, then only the trunk goes on."""
    free = solve(athlete={"limits_deg": {"hip_flexion": 150, "straight_leg": 150}})
    stiff = solve(athlete={"limits_deg": {"hip_flexion": 110}})
    at = free.timeline.bottom
    assert free.shown.pose.lumbar_flexion_rad[at] == pytest.approx(0.0, abs=1e-12)
    pelvis_to_thigh = np.degrees(stiff.shown.pose.pelvis_rad[at]) + 90.0 - 0.0
    assert pelvis_to_thigh == pytest.approx(110.0, abs=1e-9)
    assert stiff.shown.pose.lumbar_flexion_rad[at] > np.radians(5)
