"""Comparisons: matched loads verified by solving again, and the words of impossible poses."""

import pytest

from builders import case_of, solve
from zesty_lever.analysis import analyse
from zesty_lever.cases.model import CaseError
from zesty_lever.choosing.compare import (
    TypicalRules,
    compare,
    equal_demand_load_kg,
    peak,
    table,
    typical_load_kg,
)
from zesty_lever.exercises.catalogue import catalogue, fill
from zesty_lever.io.documents import result_document


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
@pytest.mark.parametrize(
    "joints", [("hip_left", "hip_right"), ("knee_left", "knee_right"), ("lumbosacral",)]
)
def test_equal_demand_is_verified_by_solving_again(other, joints):
    """The found load gives the baseline's peak to a tenth of a newton metre, or the error says why not."""
    base = solve("back-squat-high-bar", 90)
    target = peak(base, joints)
    case = fill(case_of(other, None))
    try:
        load = equal_demand_load_kg(case, joints, target)
    except CaseError as error:
        assert error.code in {"no-load-needed", "not-enough-load"}
        assert "kg" in error.text
        assert f"{target:.0f} N·m" in error.text
        return
    again = analyse(case.model_copy(update={"load_kg": load}))
    assert peak(again, joints) == pytest.approx(target, abs=0.1)


def test_typical_loads_follow_the_stated_rules():
    """Seven tenths of the own best, else of the usual share of the back squat, else the default."""
    best = {"best_loads_kg": {"back-squat-high-bar": 100, "front-squat": 90}}
    assert typical_load_kg(case_of("front-squat", None, best))[0] == pytest.approx(63)
    load, rule = typical_load_kg(case_of("romanian-deadlift", None, best))
    assert load == pytest.approx(0.7 * 0.8 * 100)
    assert "80 %" in rule
    assert typical_load_kg(case_of("goblet-squat", None))[0] == 20
    light = {"best_loads_kg": {"back-squat-high-bar": 400}}
    assert typical_load_kg(case_of("goblet-squat", None, light))[0] == 80  # the bell's own ceiling


def test_rules_of_thumb_can_be_changed():
    """Another working share and another share of the back squat; what they leave alone stays; in words too."""
    best = {"best_loads_kg": {"back-squat-high-bar": 100, "front-squat": 90}}
    rules = TypicalRules(0.6, {"romanian-deadlift": 1.1})
    assert typical_load_kg(case_of("front-squat", None, best), rules)[0] == pytest.approx(54)
    load, rule = typical_load_kg(case_of("romanian-deadlift", None, best), rules)
    assert load == pytest.approx(0.6 * 1.1 * 100)
    assert rule == "60 % of 110 % of the best high-bar back squat"
    assert rules.share_of("hip-thrust") == TypicalRules().share_of("hip-thrust")
    named = [("a", case_of(load=60, athlete=best)), ("b", case_of("romanian-deadlift", 20, best))]
    assert [c.case.load_kg for c in compare(named, "typical-load", rules)] == pytest.approx(
        [60, 66]
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
    rows = table(compare([("a", case_of(load=60)), ("b", case_of(load=90))]))
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
    error = analyse(case_of(name, None, settings=settings)).error
    assert error.code == code, error.text
    assert words in error.text
    assert error.key in catalogue()[name].settings
    assert "nan" not in error.text.lower()
    assert error.infeasible


@pytest.mark.parametrize("name", list(catalogue()))
def test_documents_of_every_variation(name):
    """The result document of each variation writes and reads back, without a NaN and with its share."""
    result = solve(name, None)
    document = result_document(result)
    data = document.as_json()
    again = type(document).model_validate(data)
    assert again.summary == document.summary
    assert len(data["frames"]) >= 61
    masses = [s["mass_kg"] for s in data["frames"][0]["segments"]]
    assert sum(masses) == pytest.approx(82)
    two_feet = (
        catalogue()[name].options.get("rear") in ("toe", "instep", "flat") and "bridge" not in name
    )
    assert (data["front_leg_share"] is not None) == two_feet
    if two_feet:
        assert 0.499 <= data["front_leg_share"] <= 1.0
