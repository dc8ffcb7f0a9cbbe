"""Comparisons: matched loads verified by solving again, and the words of impossible poses."""

import pytest

from builders import MALE, case_of, solve
from zesty_lever.analysis import analyse
from zesty_lever.cases.parse import athlete_from
from zesty_lever.cases.resolve import resolve
from zesty_lever.choosing.bests import expected_best, strength_of
from zesty_lever.choosing.compare import compare, table
from zesty_lever.choosing.loading import TypicalRules, equal_demand_load_kg, typical_load_kg
from zesty_lever.exercises.catalogue import catalogue
from zesty_lever.feasibility import advised
from zesty_lever.io.documents import result_document
from zesty_lever.joints import COACH_JOINTS
from zesty_lever.models import read
from zesty_lever.problems import CaseError

# What no load can equal, and why.
OUT_OF_REACH = {
    ("goblet-squat", "hip"): "not-enough-load",
    ("goblet-squat", "knee"): "not-enough-load",
    ("romanian-deadlift", "knee"): "not-enough-load",
    ("hip-thrust", "knee"): "not-enough-load",
}


@pytest.mark.parametrize(
    "other",
    [
        "front-squat",
        "goblet-squat",
        "hex-bar-deadlift",
        "split-squat",
        "romanian-deadlift",
        "hip-thrust",
    ],
)
@pytest.mark.parametrize("group", COACH_JOINTS, ids=lambda g: g.key)
def test_equal_demand_is_verified_by_solving_again(other, group):
    """The found load gives the baseline's peak to a tenth of a newton metre."""
    base = solve("back-squat-high-bar", 90)
    if (other, group.key) in OUT_OF_REACH:
        with pytest.raises(CaseError, match=f"{base.peak(group):.0f} N·m") as caught:
            equal_demand_load_kg(case_of(other, None), group, base.peak(group))
        assert caught.value.code == OUT_OF_REACH[other, group.key]
        assert "kg" in caught.value.text
        return
    case = resolve(case_of(other, None))
    load = equal_demand_load_kg(case, group, base.peak(group))
    again = analyse(case.changed(load_kg=load))
    assert again.peak(group) == pytest.approx(base.peak(group), abs=0.1)


def test_typical_loads_follow_the_stated_rules():
    """Seven tenths of the own best, else of the best expected of the others, as the gym makes them."""
    best = {"best_loads_kg": {"back-squat-high-bar": 100, "front-squat": 90}}
    assert typical_load_kg(case_of("front-squat", None, best))[0] == pytest.approx(62.5)
    load, rule = typical_load_kg(case_of("romanian-deadlift", None, best))
    expected = expected_best(strength_of(athlete_from({**MALE, **best})), "romanian-deadlift")
    assert 0.70 * expected.median_kg - 2.5 < load <= 0.70 * expected.median_kg
    assert load % 2.5 == 0.0
    assert rule == (
        f"70 % of the {expected.median_kg:.0f} kg expected, {expected.low_kg:.0f} to {expected.high_kg:.0f}"
    )


def test_rules_of_thumb_can_be_changed():
    """Another working share and another share of the back squat; what they leave alone stays; in words too."""
    best = {"best_loads_kg": {"back-squat-high-bar": 100, "front-squat": 90}}
    rules = TypicalRules(0.6, {"romanian-deadlift": 1.1})
    assert typical_load_kg(case_of("front-squat", None, best), rules)[0] == pytest.approx(52.5)
    load, rule = typical_load_kg(case_of("romanian-deadlift", None, best), rules)
    assert load == pytest.approx(65)
    assert rule == "60 % of 110 % of the best high-bar back squat"
    assert rules.share_of("hip-thrust") == TypicalRules().share_of("hip-thrust")
    named = [("a", case_of(load=60, athlete=best)), ("b", case_of("romanian-deadlift", 20, best))]
    assert [c.case.load_kg for c in compare(named, "typical-load", rules)] == pytest.approx(
        [60, 65]
    )
    with pytest.raises(CaseError, match=r"0\.3 to 1"):
        TypicalRules(float("nan"))
    with pytest.raises(CaseError, match="not in the catalogue"):
        TypicalRules(shares={"moon-squat": 0.5})


def test_same_system_mass_counts_the_athlete_and_extra_masses():
    """A lighter athlete takes more on the bar; a vest takes its part."""
    vest = [{"kind": "mass", "mass_kg": 10}]
    named = [
        ("a", case_of(load=60)),
        ("b", case_of(load=0, athlete={"mass_kg": 72})),
        ("c", case_of(load=0, loads=vest)),
    ]
    loads = [item.case.load_kg for item in compare(named, "same-system")]
    assert loads == pytest.approx([60, 70, 50])


def test_differences_are_to_the_baseline():
    """Own minus baseline, per cent of the baseline's size."""
    rows = table(compare([("a", case_of(load=60)), ("b", case_of(load=90))])).rows
    hip = {r.case: r for r in rows if r.joint == "hip_left"}
    assert hip["a"].difference_Nm == 0.0
    assert hip["b"].difference_Nm == pytest.approx(hip["b"].peak_Nm - hip["a"].peak_Nm)
    assert hip["b"].difference_percent == pytest.approx(
        100 * hip["b"].difference_Nm / hip["a"].peak_Nm
    )


def test_an_impossible_baseline_is_an_error():
    """Nothing can be compared with a pose that does not exist."""
    with pytest.raises(CaseError) as caught:
        compare([("a", case_of(settings={"stance_m": 1.05})), ("b", case_of())])
    assert caught.value.key == "stance_m"


IMPOSSIBLE = {
    "out-of-reach": ("split-squat", {"step_m": 1.3}, "cm"),
    "hip-opening": ("wide-squat", {"stance_m": 0.75}, "opens"),
    "ankle-limit": ("back-squat-high-bar", {"shin_deg": 48}, "ankle bends"),
    "would-tip": ("back-squat-high-bar", {"trunk_deg": 75}, "N at shoulder height"),
    "cannot-balance": ("back-squat-high-bar", {"shin_deg": -5}, "No trunk lean"),
    "knee-on-floor": ("split-squat", {"thigh_deg": -15, "shin_deg": 30}, "rear knee"),
}


@pytest.mark.parametrize("code", IMPOSSIBLE)
def test_impossible_poses_say_why_in_plain_words(code):
    """Each has its code, a sentence without jargon, the setting and, where one works, its range."""
    name, settings, words = IMPOSSIBLE[code]
    result = analyse(case_of(name, None, settings=settings))
    error = advised(result.case, result.error)
    assert error.code == code, error.text
    assert words in error.text
    assert error.key in catalogue()[name].settings
    assert "nan" not in error.text.lower()
    assert result.outcome.problems[0] == result.error


@pytest.mark.parametrize("name", list(catalogue()))
def test_documents_of_every_variation(name):
    """The result document of each variation writes and reads back, without a NaN and with its share."""
    result = solve(name, None)
    document = result_document(result)
    data = document.as_json()
    again = read(type(document), data)
    assert again.summary == document.summary
    assert len(data["frames"]) >= 61
    masses = [s["mass_kg"] for s in data["frames"][0]["segments"]]
    assert sum(masses) == pytest.approx(82)
    two_feet = catalogue()[name].options.rear in ("toe", "instep", "flat")
    assert (data["front_leg_share"] is not None) == two_feet
    if two_feet:
        assert 0.499 <= data["front_leg_share"] <= 1.0
