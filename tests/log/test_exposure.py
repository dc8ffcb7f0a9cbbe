"""Exposure: closed forms, the worked example, and the constant that is raised by hand."""

from __future__ import annotations

import csv
from pathlib import Path

import numpy as np
import pytest

from zesty_lever.analysis import analyse
from zesty_lever.cases.model import Athlete, Setup
from zesty_lever.joints import COACH_JOINTS
from zesty_lever.log.entry import DoneSet
from zesty_lever.log.exposure import (
    COUNTED,
    DIRECTIONS,
    MODEL,
    Exposure,
    case_of,
    direction_of,
    exposure_of,
    hash_of,
    lifted_kg,
    of_side,
    reference_of,
    rep_loads,
    setup_document,
)
from zesty_lever.log.weeks import against_last_four

WOMAN = Athlete(
    height_m=1.69,
    mass_kg=64,
    sex="female",
    lengths_m={"thigh": 0.43},
    best_loads_kg={"back-squat-high-bar": 85},
)


def lift(name, **more):
    return DoneSet(setup=Setup(variation=name), **more)


WEEK = {
    "high-bar squat 4 x 5": (lift("back-squat-high-bar", load_kg=60, reps=5), 4, ("both",)),
    "hip thrust 3 x 8, 2 s top": (
        lift("hip-thrust", load_kg=80, reps=8, style="paused", pause_s=2),
        3,
        ("both",),
    ),
    "split squat 3 x 8 each": (lift("split-squat", load_kg=24, reps=8), 3, ("left", "right")),
    "Romanian 3 x 10, 3-2-1": (
        lift("romanian-deadlift", load_kg=50, reps=10, tempo_s=(3, 2, 1, 0)),
        3,
        ("both",),
    ),
    "goblet one and a quarter 3 x 8": (
        lift("goblet-squat", load_kg=20, reps=8, style="one-and-a-quarter"),
        3,
        ("both",),
    ),
    "straight-leg hold 2 x 30 s": (
        lift("straight-leg-heel-elevated-hold", seconds=30, style="holds"),
        2,
        ("both",),
    ),
}
FROZEN = Path(__file__).parents[1] / "reference" / "exposure_worked.csv"


def of_row(name):
    done, sets, sides = WEEK[name]
    rep = rep_loads([case_of(done, WOMAN)])[0]
    total = Exposure()
    for side in sides:
        for _ in range(sets):
            total += exposure_of(done.changed(side=side), rep, reference_of(WOMAN))
    return total


def rows():
    lines = [x for x in FROZEN.read_text().splitlines() if not x.startswith("#")]
    return {row["set"]: row for row in csv.DictReader(lines)}


@pytest.mark.parametrize("name", WEEK)
def test_the_worked_example_is_frozen(name):
    """The model's constant is raised by hand when these move: the cache of sums rests on it."""
    row, found = rows()[name], of_row(name)
    assert int(row["model"]) == MODEL
    for key in ("hip", "knee", "back"):
        assert found.of(key) == pytest.approx(float(row[key]), abs=0.5), key
    assert found.of("knee", flexors=True) == pytest.approx(float(row["knee_flexors"]), abs=0.5)
    assert found.kg == float(row["kg"]) and found.seconds == float(row["seconds"])
    for key in ("hip", "knee", "back"):
        sure, most = found.hard_of(key)
        assert f"{sure:g}-{most:g}" == row[f"hard_{key}"], key


def test_the_week_adds_up():
    total = sum((of_row(name) for name in WEEK), start=Exposure())
    assert total.kg == 6252.0 and total.sets == 21
    assert total.of("hip") == pytest.approx(sum(float(r["hip"]) for r in rows().values()), abs=3)
    by = {d: Exposure() for d in DIRECTIONS}
    for name, (done, _, _) in WEEK.items():
        by[direction_of(done.name)] += of_row(name)
    assert by["horizontal"].kg == 1920.0 and by["lateral"].sets == 0
    assert np.allclose(sum(e.extensor_Nms for e in by.values()), total.extensor_Nms)


def test_the_squat_by_hand():
    """Twenty repetitions of a symmetric squat: both legs the same, and the area under its curve."""
    done = lift("back-squat-high-bar", load_kg=60, reps=5)
    result = analyse(case_of(done, WOMAN))
    area = np.trapezoid(
        np.maximum(result.solved.extension("hip_right"), 0.0), result.timeline.time_s
    )
    found = of_row("high-bar squat 4 x 5")
    assert found.of("hip") == pytest.approx(20 * area, rel=1e-12)
    assert found.extensor_Nms[0] == pytest.approx(found.extensor_Nms[1], rel=1e-9)


@pytest.mark.parametrize("name", ["split-squat", "romanian-deadlift", "hip-thrust", "step-up"])
def test_extensors_less_flexors_are_the_signed_impulse(name):
    done = lift(name, reps=1)
    result = analyse(case_of(done, WOMAN))
    rep = rep_loads([case_of(done, WOMAN)])[0]
    signed = [result.summary[joint].impulse_Nms for joint in COUNTED]
    assert rep.extensor_Nms - rep.flexor_Nms == pytest.approx(signed, abs=1e-9)


def test_a_hold_is_its_moment_times_its_seconds():
    hold = "straight-leg-heel-elevated-hold"
    short, long = (
        rep_loads([case_of(lift(hold, seconds=s, style="holds"), WOMAN)])[0] for s in (20, 50)
    )
    result = analyse(case_of(lift(hold, seconds=20, style="holds"), WOMAN))
    held_Nm = result.solved.extension("hip_right")[result.timeline.bottom]
    assert long.extensor_Nms[1] - short.extensor_Nms[1] == pytest.approx(30 * held_Nm, rel=1e-9)
    assert long.seconds == 52.0


def test_each_side_is_left_plus_right_and_the_back_gets_both():
    rep = rep_loads([case_of(lift("split-squat", load_kg=24, reps=8), WOMAN)])[0]
    both = of_side(rep.extensor_Nms, "left") + of_side(rep.extensor_Nms, "right")
    assert both[0] == both[1] == pytest.approx(rep.extensor_Nms[0] + rep.extensor_Nms[1])
    assert both[4] == 2 * rep.extensor_Nms[4]
    done = lift("split-squat", load_kg=24, reps=8)
    twice = exposure_of(done.changed(reps=16), rep, None)
    once = exposure_of(done, rep, None)
    assert np.allclose(twice.extensor_Nms, 2 * once.extensor_Nms) and twice.kg == 2 * once.kg


def test_slowness_is_what_impulse_rewards():
    """60 kg: the peak stays, the impulse grows with the tempo; the screen says so."""
    tempos = [(2, 0, 1, 0), (4, 0, 1, 0), (2, 3, 1, 0)]
    found = [
        rep_loads([case_of(lift("back-squat-high-bar", load_kg=60, reps=1, tempo_s=t), WOMAN)])[0]
        for t in tempos
    ]
    impulses = [rep.extensor_Nms[1] for rep in found]
    assert impulses[0] < impulses[1] < impulses[2] and impulses[1] / impulses[0] > 1.6
    assert all(rep.peak_Nm[1] == pytest.approx(found[0].peak_Nm[1]) for rep in found)


def test_kilograms():
    assert lifted_kg(lift("back-squat-high-bar", load_kg=60, reps=5)) == 300.0
    two = lift("hip-thrust", load_kg=60, load_up_kg=40, reps=4, style="two-load")
    assert lifted_kg(two) == 200.0
    assert lifted_kg(lift("band-hinge", reps=10)) == 0.0
    assert lifted_kg(DoneSet(drill="side-lying-clam", reps=12)) == 0.0
    assert lifted_kg(lift("goblet-squat", load_kg=20, reps=4, quarters=2)) == 90.0


def test_the_reference_without_a_best_is_the_usual_load():
    plain = WOMAN.changed(best_loads_kg={})
    found = reference_of(plain)
    assert found.rule == "the usual load over the share worked with"
    assert 0 < found.load_kg < 60
    best = reference_of(WOMAN)
    assert best.load_kg == 85 and best.rule == "the best load"
    assert list(best.line_Nm()) == [
        0.7 * best.peaks_Nm[g.key] for g in COACH_JOINTS for _ in g.joints
    ]


def test_a_case_keeps_its_name_whatever_the_person_is_called():
    done = lift("back-squat-high-bar", load_kg=60, reps=5)
    one = hash_of(case_of(done, WOMAN))
    renamed = WOMAN.changed(name="Somebody", school="even", best_loads_kg={"front-squat": 60})
    assert hash_of(case_of(done, renamed)) == one and len(one) == 24
    assert hash_of(case_of(done.changed(load_kg=62.5), WOMAN)) != one
    assert hash_of(case_of(done, WOMAN.changed(mass_kg=65))) != one
    spelled = Setup(variation="back-squat-high-bar", load_kg=40)
    assert setup_document(spelled) == setup_document(Setup(variation="back-squat-high-bar"))


def test_a_week_against_the_four_before():
    weeks = {10: 100.0, 11: 100.0, 12: 0.0, 13: 200.0, 14: 130.0}
    kept = [10, 11, 13, 14]
    found = against_last_four(weeks, 14, 8, kept)
    assert (found.mean, found.ratio) == (100.0, 1.3) and "1.3 of the mean" in found.words
    assert against_last_four(weeks, 14, 12, kept).words == "too few weeks"
    assert against_last_four(weeks, 14, 8, [10, 14]).ratio is None
    assert against_last_four({14: 5.0}, 14, 8, [10, 11, 12]).words == "nothing in the last four"
