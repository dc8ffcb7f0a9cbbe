"""What can't be done is said in words and can be drawn, however far off: nothing asked of a case raises."""

import random

import pytest

from builders import case_of
from zesty_lever.analysis import analyse, analyse_many
from zesty_lever.cases.resolve import resolve
from zesty_lever.exercises.catalogue import catalogue
from zesty_lever.feasibility import advised, nearest_drawable
from zesty_lever.problems import CaseError

# Found by trying at random: nothing near them was drawn, or nothing was there to blame.
FOUND = {
    "a band stronger than its athlete": case_of(
        "band-hinge",
        0,
        {"height_m": 1.423, "mass_kg": 30},
        settings={"thigh_deg": -20.0, "shin_deg": 25.0, "hips_lead": -0.25, "band_N_m": 2050.0},
    ),
    "a band stronger than a tall one": case_of(
        "band-hinge",
        0,
        {"height_m": 2.3, "mass_kg": 30},
        settings={"thigh_deg": 50.0, "shin_deg": -3.0, "trunk_deg": -24.0, "band_N_m": 2500.0},
        mode="dynamic",
    ),
    "a head under a flat bench": case_of(
        "back-extension",
        20,
        {"height_m": 2.3, "mass_kg": 30, "sex": "female"},
        settings={"bench_slope_deg": 15.0, "arch_deg": 20.7},
    ),
}


@pytest.mark.parametrize("name", FOUND)
def test_what_was_found(name):
    """Each is impossible, says why, names a setting it has, and something near it can be drawn."""
    result = analyse(FOUND[name])
    assert result.error is not None
    for problem in result.outcome.problems:
        assert problem.text
        assert problem.key in (*result.case.settings, "contacts", "loads.table", "tempo_s")
    assert result.frames or analyse(nearest_drawable(result.case)).frames


def _anything(chance, name):
    """A case of a variation anywhere in what it allows, its corners more often than not."""
    known = catalogue()[name].settings
    settings = {
        key: chance.choice([own.low, own.high, round(chance.uniform(own.low, own.high), 4)])
        for key, own in known.items()
        if chance.random() < 0.5
    }
    athlete = {
        "height_m": chance.choice([1.2, 2.3, round(chance.uniform(1.2, 2.3), 3)]),
        "mass_kg": chance.choice([30, 250, round(chance.uniform(30, 250), 1)]),
        "sex": chance.choice(["male", "female"]),
    }
    return case_of(
        name,
        chance.choice([0, 20, 60, 150, 400]),
        athlete,
        settings=settings,
        mode=chance.choice(["static", "dynamic"]),
    )


def _allowed(case):
    try:
        resolve(case)
    except CaseError:
        return False
    return True


@pytest.mark.slow
@pytest.mark.parametrize("name", catalogue())
def test_anything_that_is_allowed(name):
    """Forty cases of every variation: each is solved, or said to be impossible and drawn."""
    chance = random.Random(name)
    tried = (_anything(chance, name) for _ in range(400))
    cases = [case for case in tried if _allowed(case)][:40]
    assert len(cases) == 40
    for result in analyse_many(cases):
        near = result if result.frames else analyse(nearest_drawable(result.case))
        assert near.frames
        assert result.feasible or result.error.text


def test_what_else_to_change_is_never_the_setting_itself():
    """Where one setting alone does not help, the others are named, the band too."""
    case = analyse(case_of("band-hinge", 0, {"mass_kg": 60}, settings={"band_N_m": 2500.0})).case
    result = analyse(case)
    told = advised(case, result.error).text
    assert "No trunk alone helps" in told
    assert told.endswith("change shin or the band.")
