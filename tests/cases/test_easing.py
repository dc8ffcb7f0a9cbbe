"""Every default can be done at every load of its range, whoever the athlete is, through the whole rep."""

import random

import pytest

from builders import builds, case_of
from zesty_lever.analysis import Result, analyse, analyse_many
from zesty_lever.cases.easing import eased
from zesty_lever.cases.model import SCHOOLS
from zesty_lever.cases.resolve import resolve
from zesty_lever.exercises.catalogue import catalogue
from zesty_lever.physics.body import landmark

JOINTS = (
    {},
    {"ankle_dorsiflexion": 28.0},
    {"ankle_dorsiflexion": 45.0, "hip_flexion": 140.0},
    {"hip_flexion": 105.0},
    {"ankle_dorsiflexion": 28.0, "hip_flexion": 105.0},
)
SHARES = (0.0, 0.1, 0.35, 0.7, 1.0)
CASES_EACH = 60
LONG = {"lengths_m": {"thigh": 0.4707}, "limits_deg": {"ankle_dorsiflexion": 28.0}}


def loads_of(entry, mass_kg):
    """Loads of the declared range that this body can hold, kg."""
    low, high = entry.load_range_kg()
    most = entry.load.most_per_body_mass if entry.load else None
    high = min(high, 3.0 * mass_kg, *([most * mass_kg] if most else []))
    return [round(low + share * max(high - low, 0.0), 1) for share in SHARES]


@pytest.mark.parametrize("name", list(catalogue()))
def test_every_default_can_be_done(name):
    """Loads x builds x joints x schools, drawn: nothing is impossible, nothing but defaults was changed."""
    draw, entry, people = random.Random(name), catalogue()[name], list(builds())
    cases = []
    for _ in range(CASES_EACH):
        build = draw.choice(people)
        load = draw.choice(loads_of(entry, build["mass_kg"]))
        athlete = {**build, "limits_deg": draw.choice(JOINTS)}
        more = {"school": draw.choice(SCHOOLS), "frames": "none"}
        cases.append(case_of(name, load, athlete, **more))
    for case, result in zip(cases, analyse_many(cases), strict=True):
        assert result.feasible, (case.athlete, case.load_kg, case.school, result.error)
        assert result.case.load_kg == case.load_kg


def test_what_is_eased_is_told_and_solved_again_the_same():
    """Long thighs on stiff ankles: a squat without a load stops higher, and says so; its document gives it back."""
    case = case_of("goblet-squat", 0.0, LONG)
    result = analyse(case)
    usual = resolve(case).settings
    assert result.feasible
    assert result.case.settings["thigh_deg"] > usual["thigh_deg"]
    assert any(line.startswith("default eased") for line in result.assumptions)
    again = analyse(result.case)
    assert again.peaks == result.peaks
    assert eased(result.case) is None


def test_what_was_asked_for_stays_as_it_was_asked():
    """A given depth that can't be done is refused, not eased away; another setting keeps the eased depth."""
    asked = analyse(case_of("goblet-squat", 0.0, LONG, settings={"thigh_deg": 0.0}))
    assert asked.error is not None
    turned = analyse(case_of("goblet-squat", 0.0, LONG, settings={"toe_out_deg": 18.0}))
    assert turned.feasible
    assert turned.case.settings["toe_out_deg"] == 18.0
    ordinary = case_of("goblet-squat", 20.0, settings={"stance_m": 1.1})
    assert eased(ordinary) is None


def test_a_case_is_eased_alone_as_among_others():
    cases = [case_of("goblet-squat", kg, LONG) for kg in (0.0, 8.0, 24.0)]
    together = analyse_many(cases)
    for case, among in zip(cases, together, strict=True):
        assert analyse(case).peaks == among.peaks


@pytest.mark.parametrize(
    "name", [n for n, e in catalogue().items() if "heel_lift_deg" in e.settings]
)
def test_with_the_heel_up_no_easing_moves_the_weight_off_the_ball(name):
    """Whatever else is asked for: every case is answered, none raises; the pressure stays where the heel leaves it."""
    draw, entry, people = random.Random(name), catalogue()[name], list(builds())
    asked = [key for key in entry.settings if key not in ("heel_lift_deg", "pressure_fraction")]
    cases = []
    for _ in range(CASES_EACH // 3):
        athlete = {**draw.choice(people), "limits_deg": draw.choice(JOINTS)}
        settings = {"heel_lift_deg": draw.choice((5.0, 12.0, 30.0))}
        for key in draw.sample(asked, draw.randint(0, 2)):
            settings[key] = round(draw.uniform(*entry.settings[key].range), 2)
        load = {"load_kg": draw.choice(loads_of(entry, athlete["mass_kg"]))} if entry.load else {}
        cases.append(case_of(name, athlete=athlete, settings=settings, **load))
    answers = analyse_many(cases)
    assert len(answers) == len(cases)
    for answer in answers:
        if isinstance(answer, Result) and answer.case.settings.get("pressure_fraction") is not None:
            assert answer.case.settings["pressure_fraction"] == landmark("ball_from_heel")
