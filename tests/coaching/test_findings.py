"""Findings: each appears where its fault is, and following its cue makes it smaller. Common practice."""

import json

import pytest

from builders import builds, case_of, solve
from zesty_lever.analysis import analyse, analyse_many
from zesty_lever.cases.model import SCHOOLS
from zesty_lever.choosing.loading import typical_load_kg
from zesty_lever.coaching.findings import effect, findings, followed
from zesty_lever.coaching.measures.reading import MEASURES
from zesty_lever.coaching.rules import rules
from zesty_lever.coaching.schools import schools
from zesty_lever.exercises.catalogue import catalogue

STIFF = {"limits_deg": {"hip_flexion": 108}}
FAULTS = {
    "depth": ("back-squat-high-bar", {"thigh_deg": 20}, "even", {}),
    "knee-past-toe": ("back-squat-high-bar", {"shin_deg": 34}, "hips-first", {}),
    "heel-lift": ("back-squat-high-bar", {"heel_lift_deg": 10, "shin_deg": 38}, "even", {}),
    "knee-track": ("back-squat-high-bar", {"knee_track_m": -0.05}, "even", {}),
    "trunk-against-shin": ("back-squat-low-bar", {"shin_deg": 24}, "even", {}),
    "pressure-point": ("back-squat-high-bar", {"pressure_fraction": 0.65}, "hips-first", {}),
    "bar-away": ("romanian-deadlift", {"hands_ahead_m": ("stature", 0.085)}, "even", {}),
    "bar-off-mid-foot": ("conventional-deadlift", {"bar_fraction": 0.5}, "even", {}),
    "rounding": ("back-squat-high-bar", {"thigh_deg": -5}, "even", STIFF),
    "arching": ("hip-thrust", {"arch_deg": 14}, "even", {}),
    "hips-rise-first": ("back-squat-high-bar", {"hips_rise_deg": 14}, "even", {}),
    "rear-leg-works": ("split-squat", {"front_share": 0.6, "thigh_deg": 18}, "even", {}),
    "stance-too-long": ("split-squat", {"step_m": ("stature", 0.54), "thigh_deg": 20}, "even", {}),
    "stance-too-short": ("split-squat", {"step_m": ("stature", 0.27), "thigh_deg": 25}, "even", {}),
    "shin-not-vertical": ("hip-thrust", {"shin_deg": 14}, "even", {}),
    "ankle-at-its-end": (
        "back-squat-high-bar",
        {"shin_deg": 35},
        "even",
        {"limits_deg": {"ankle_dorsiflexion": 36.5}},
    ),
    "side-shift": ("back-squat-high-bar", {"hip_shift_m": 0.03}, "even", {}),
    "one-knee-caves": ("back-squat-high-bar", {"left_track_m": -0.04}, "even", {}),
    "knees-off-feet": (
        "back-squat-high-bar",
        {"stance_m": ("stature", 0.40), "toe_out_deg": 2},
        "even",
        {},
    ),
    "toe-out": ("back-squat-high-bar", {"toe_out_deg": 38, "shin_deg": 26}, "even", {}),
    "thrust-not-level": ("hip-thrust", {"lockout_trunk_deg": -16}, "even", {}),
    "bench-too-high": ("hip-thrust", {"bench_height_m": ("stature", 0.275)}, "even", {}),
    "shoulders-behind-bar": (
        "conventional-deadlift",
        {"shoulder_lead_m": ("stature", -0.03)},
        "even",
        {},
    ),
    "light-pull-on-heels": ("sumo-deadlift", {"bar_fraction": 0.5}, "even", {}),
    "uneven-stance": ("back-squat-high-bar", {"left_ahead_m": 0.05}, "even", {}),
}


def faulty(code, build):
    name, settings, school, more = FAULTS[code]
    settings = {
        k: v[1] * build["height_m"] if isinstance(v, tuple) else v for k, v in settings.items()
    }
    return analyse(case_of(name, None, {**build, **more}, settings=settings, school=school))


@pytest.mark.parametrize("code", FAULTS)
def test_every_finding_appears_and_shrinks_when_its_cue_is_followed(build, code):
    """Over the spread of builds: the fault is found with a size, and after the cue it is at most 0.75 of
    it. Where a build can't do the faulty pose at all it has no such fault."""
    result = faulty(code, build)
    if result.error:
        assert code in {
            "knee-past-toe",
            "heel-lift",
            "trunk-against-shin",
            "rear-leg-works",
            "stance-too-long",
            "stance-too-short",
            "pressure-point",
            "ankle-at-its-end",
            "rounding",
            "bar-away",
        }
        return
    found = next((f for f in findings(result) if f.code == code), None)
    if found is None:
        # Long thighs on a short foot or the other way round: some faults are not there for every build.
        assert code in {
            "rounding",
            "trunk-against-shin",
            "stance-too-long",
            "stance-too-short",
            "knee-past-toe",
            "ankle-at-its-end",
        }
        return
    assert found.size > 0.0
    assert found.cue.endswith(".")
    assert found.drill.endswith(".")
    told = effect(result, found)
    assert told is not None
    assert told.size_after <= 0.75 * found.size


@pytest.mark.slow
def test_most_builds_show_every_fault():
    """The check above would be empty if faults rarely appeared: each does in at least a third of builds."""
    from builders import builds

    for code in FAULTS:
        shown = sum(any(f.code == code for f in findings(faulty(code, b))) for b in builds())
        assert shown >= 10, (code, shown)


def test_every_rule_is_tried():
    """One fault at least for every rule that there is; a stiffer ankle is no fault of the set-up (checked by
    itself)."""
    assert set(FAULTS) | {"stiffer-ankle"} == set(MEASURES)
    stiff = solve(
        "back-squat-high-bar",
        60,
        {"limits_deg": {"ankle_dorsiflexion_left": 33, "ankle_dorsiflexion_right": 39}},
        settings={"shin_deg": 28},
    )
    found = next(f for f in findings(stiff) if f.code == "stiffer-ankle")
    assert found.size == pytest.approx(6.0)
    assert "left ankle" in found.text


def test_a_pose_that_would_tip_is_a_finding_too(build):
    """Bent far over a bar on the back: how far the load falls outside, and balance takes it away."""
    tipping = analyse(case_of("back-squat-high-bar", 60, build, settings={"trunk_deg": 68}))
    assert tipping.error.code == "would-tip"
    found = findings(tipping)
    assert [f.code for f in found] == ["tipping"]
    assert found[0].size > 1.0
    again = analyse(followed(tipping.case, found[0]))
    assert again.error is None
    assert "tipping" not in {f.code for f in findings(again)}


def test_every_rule_has_a_measure_and_words():
    """Data and functions go together; each text has a cue and a drill in all its readings; each disputed question
    exists, with both sides and what the model says."""
    known = rules()
    assert set(known) - {"tipping"} == set(MEASURES)
    for code, rule in known.items():
        for reading in rule.readings or {"": None}:
            other = rule.readings.get(reading)
            for part in ("text", "cue", "drill"):
                assert getattr(rule, part) or getattr(other, part), (code, reading, part)
        if rule.disputed:
            question = schools().question(rule.disputed)
            assert question.views.endswith(".")
            assert question.model.endswith(".")
    assert known["depth"].disputed == ""


def test_schools_flag_different_things():
    """The same squat with the knee past the toes: hips first flags it, knees travel wants it."""
    codes = {
        school: {
            f.code
            for f in findings(
                solve("back-squat-high-bar", 60, settings={"shin_deg": 35}, school=school)
            )
        }
        for school in SCHOOLS
    }
    assert "knee-past-toe" in codes["hips-first"]
    assert "knee-past-toe" not in codes["knees-travel"]


# A third of the builds is quick; all thirty are looked at in the slow tests.
BUILDS = [pytest.param(n, marks=[pytest.mark.slow] if n % 3 else []) for n in range(30)]


@pytest.mark.parametrize("number", BUILDS)
def test_a_school_s_own_default_raises_none_of_its_findings(number):
    """Every build, each by one school in turn, every variation at its working load: nothing to remark on."""
    build, school = list(builds())[number], SCHOOLS[number // 3 % 3]
    best = {"best_loads_kg": {"back-squat-high-bar": round(1.3 * build["mass_kg"], 1)}}
    cases = []
    for name in catalogue():
        case = case_of(name, None, {**build, **best}, school=school, frames="none")
        cases.append(case.changed(load_kg=typical_load_kg(case)[0]))
    for result in analyse_many(cases):
        assert findings(result) == [], (result.case.variation, school)


@pytest.mark.slow
@pytest.mark.parametrize(
    ("limits", "own"),
    [
        ({"ankle_dorsiflexion": 28}, {"ankle-at-its-end", "rounding"}),
        ({"hip_flexion": 105}, {"rounding"}),
    ],
)
def test_a_stiff_joint_raises_only_its_own_limit_s_finding(limits, own):
    """An ankle of 28 degrees, hips of 105: the end of the ankle, and rounding (a stiff ankle leans the trunk)."""
    for school in SCHOOLS:
        cases = [
            case_of(name, None, {"limits_deg": limits}, school=school, frames="none")
            for name in catalogue()
        ]
        for result in analyse_many(cases):
            assert {f.code for f in findings(result)} <= own, (result.case.variation, school)


def test_following_a_cue_solves_again():
    """What the cue costs elsewhere is the difference of two solved reps."""
    result = solve("back-squat-high-bar", 60, settings={"hips_rise_deg": 14})
    found = next(f for f in findings(result) if f.code == "hips-rise-first")
    told = effect(result, found)
    again = analyse(followed(result.case, found))
    assert told.after["knee"] == pytest.approx(again.summary["knee_right"].peak_Nm)
    assert told.before["lower back"] == pytest.approx(result.summary["lumbosacral"].peak_Nm)


def test_findings_are_on_the_command_line(tmp_path, capsys):
    """`solve` writes them into the result file, with size, unit, cue and what following it would set."""
    from zesty_lever.__main__ import main

    case = case_of("hip-thrust", 60, settings={"arch_deg": 14}, frames="none")
    (tmp_path / "c.json").write_text(json.dumps(case.as_json()))
    assert main(["solve", str(tmp_path / "c.json")]) == 0
    found = json.loads(capsys.readouterr().out)["findings"]
    assert found[0]["code"] == "arching"
    assert found[0]["size"] == pytest.approx(14.0)
    assert found[0]["follow"] == {"arch_deg": 0.0}
