"""The body against its published tables."""

import csv
from pathlib import Path

import numpy as np
import pytest

from zesty_lever.cases.model import Athlete
from zesty_lever.cases.parse import athlete_from
from zesty_lever.physics.body import PAIRED, SEGMENTS, build_body, segment_table
from zesty_lever.problems import CaseError

PUBLISHED = Path(__file__).parents[1] / "reference" / "published_values.csv"


def rows():
    lines = [line for line in PUBLISHED.read_text().splitlines() if not line.startswith("#")]
    return list(csv.DictReader(lines))


@pytest.mark.parametrize("sex", ["male", "female"])
@pytest.mark.parametrize("row", rows(), ids=lambda r: f"{r['kind']}-{r['name']}")
def test_table_values(row, sex):
    """Every listed length and mass; the female masses are scaled from 99.99 to 100 %."""
    body = build_body(sex, 2.0, 100.0)
    if row["kind"] == "length":
        assert body.lengths[row["name"]] == pytest.approx(2.0 * float(row[sex]))
        return
    mass = {**body.mass, "whole_trunk": body.mass["trunk"] + body.mass["pelvis"]}[row["name"]]
    assert mass == pytest.approx(float(row[sex]), rel=2e-4)


def test_hip_height_follows_from_the_parts():
    """Ankle height + shank + thigh = 0.530 of stature (Drillis & Contini 1966, from memory)."""
    body = build_body("male", 1.0, 70.0)
    parts = sum(body.lengths[n] for n in ("ankle_height", "shank", "thigh"))
    assert parts == pytest.approx(0.530)


@pytest.mark.parametrize("sex", ["male", "female"])
def test_fifteen_segments_make_the_whole_mass(sex):
    """Nothing is counted twice and nothing is lost."""
    assert len(SEGMENTS) == 15
    body = build_body(sex, 1.7, 71.3)
    total = sum(m * (2 if name in PAIRED else 1) for name, m in body.mass.items())
    assert total == pytest.approx(71.3, rel=1e-12)


def test_merged_trunk_agrees_with_the_source_s_whole_trunk():
    """Mass centre of the whole trunk from the shoulders: 43.10 % (male), 37.82 % (female).

    Source: de Leva 1996, alternative end points, value from memory. The pelvis part and the
    merged upper parts must give it back.
    """
    for sex, expected in (("male", 0.4310), ("female", 0.3782)):
        table = segment_table(sex)
        pelvis, trunk = table["pelvis"], table["trunk"]
        joint = (pelvis.mass * pelvis.centre + trunk.mass * trunk.centre) / (
            pelvis.mass + trunk.mass
        )
        assert 1.0 - joint == pytest.approx(expected, abs=0.007)


def test_a_measured_length_keeps_mass_and_scales_the_rest():
    """Thigh 10 % longer: same mass, same fractions, longer by 10 %."""
    plain = build_body("female", 1.7, 60.0)
    long = build_body("female", 1.7, 60.0, {"thigh": 1.1 * plain.lengths["thigh"]})
    assert long.lengths["thigh"] == pytest.approx(1.1 * plain.lengths["thigh"])
    assert long.mass["thigh"] == plain.mass["thigh"]
    assert long.lengths["shank"] == plain.lengths["shank"]


def test_batched_bodies_equal_single_ones():
    """Arrays of athletes give what each alone gives; NaN keeps the estimate."""
    sexes = np.array(["male", "female"])
    both = build_body(
        sexes, np.array([1.8, 1.6]), np.array([80.0, 55.0]), {"thigh": np.array([0.46, np.nan])}
    )
    one, two = build_body("male", 1.8, 80.0, {"thigh": 0.46}), build_body("female", 1.6, 55.0)
    for index, alone in enumerate((one, two)):
        for name, length in both.lengths.items():
            assert length[index] == pytest.approx(alone.lengths[name])
        for name, mass in both.mass.items():
            assert mass[index] == pytest.approx(alone.mass[name])


def test_limits_take_the_stiffer_side():
    """Both feet stand on the floor, so the stiffer ankle decides."""
    athlete = Athlete(
        height_m=1.8,
        mass_kg=80.0,
        sex="male",
        limits_deg={"ankle_dorsiflexion_left": 30.0, "ankle_dorsiflexion": 40.0},
    )
    assert athlete.limit_deg("ankle_dorsiflexion") == 30.0
    assert athlete.limit_deg("hip_flexion") == 125.0


@pytest.mark.parametrize("length", [0.7, 2.0, 0.05])
def test_an_unlikely_length_is_refused_with_its_range(length):
    """Nothing is silently clipped."""
    with pytest.raises(CaseError) as caught:
        athlete_from(
            {"height_m": 1.8, "mass_kg": 80, "sex": "male", "lengths_m": {"thigh": length}}
        )
    assert caught.value.key == "athlete.lengths_m.thigh"
    assert caught.value.problem.unit == "m"
    assert caught.value.problem.allowed == [0.2867, 0.5954]
