"""Ranking by use, curves of one's own, the best worth testing, joints that are shown and never limit."""

from functools import partial

import numpy as np
import pytest

from builders import solve
from zesty_lever.analysis import analyse
from zesty_lever.cases.model import Case, StrengthPoint
from zesty_lever.cases.parse import athlete_from
from zesty_lever.cases.resolve import resolve
from zesty_lever.choosing.also import also_uses
from zesty_lever.choosing.bests import (
    effort_of,
    expected_best,
    most_telling,
    person_of,
    strength_of,
    use_curve,
)
from zesty_lever.choosing.by_use import use_features
from zesty_lever.choosing.effort import demand_at, uses
from zesty_lever.choosing.shortlist import Option, shortlist
from zesty_lever.choosing.wishes import Wish
from zesty_lever.io.strength_curves import read_curves
from zesty_lever.problems import CaseError

# The ranking alone: its intervals are most of the work.
listed = partial(shortlist, spans=False)

SQUAT, PULL = "back-squat-high-bar", "conventional-deadlift"
MAN = athlete_from({"height_m": 1.78, "mass_kg": 82, "sex": "male", "best_loads_kg": {SQUAT: 130}})


def first(want, count=8):
    options = [o for o in listed(MAN, Wish(want)) if isinstance(o, Option)]
    return [o.variation for o in options[:count]]


@pytest.mark.parametrize("name", [SQUAT, PULL, "hip-thrust", "split-squat", "step-up"])
def test_use_at_the_load_is_that_of_the_loads_around_it(name):
    """The solved rep's own use is what straight lines between four loads give, to 5 %: two ways, one answer."""
    case = resolve(Case(athlete=MAN, variation=name, load_kg=40.0 if name[0] != "s" else 30.0))
    strength = strength_of(MAN)
    own = np.median(
        uses(demand_at(analyse(case)), person_of(strength))[:, :, 0].max(axis=-1), axis=1
    )
    told = effort_of(case, strength)
    for value, joint in zip(own, ("hip", "knee", "back"), strict=True):
        assert value == pytest.approx(told.uses[joint][0], rel=0.05, abs=0.01)


def test_long_is_led_by_loaded_hinges_not_by_bare_squats():
    """Romanian, one-leg and stiff-leg hinges first (common practice, no source)."""
    names = first({"long": 1}, 5)
    assert names[0] == "romanian-deadlift"
    assert {"single-leg-hinge", "stiff-leg-deadlift"} <= set(names)


def test_lockout_is_led_by_loaded_thrusts():
    """Thrusts, then the floor bridge; no squat or step-up among the first four (common practice, no source)."""
    names = first({"lockout": 1}, 4)
    assert set(names) == {
        "single-leg-hip-thrust", "banded-hip-thrust", "hip-thrust", "barbell-floor-bridge",
    }  # fmt: skip


def test_hip_with_the_back_spared_is_thrusts_and_one_leg():
    """No floor pull among the first eight (T17, T24; common practice, no source)."""
    names = first({"hip": 1, "back": -0.5})
    assert names[0].endswith("hip-thrust")
    assert not any("deadlift" in name for name in names)


def test_a_thrust_is_harder_towards_lockout_while_its_moment_falls():
    """The hip's use at lockout is its largest although its moment is not (T24)."""
    result = solve("hip-thrust", 120)
    demand = demand_at(result)
    use = np.median(uses(demand, person_of(strength_of(MAN)))[0, :, 0], axis=0)
    assert demand.hip_Nm[0, -1] < demand.hip_Nm[0].max() - 10.0
    assert use[-1] == pytest.approx(use.max(), rel=0.02)
    assert (
        use_features(result.case.variation, demand_at(result), person_of(strength_of(MAN)))[
            "lockout"
        ]
        > 0.6
    )


def test_the_use_curve_peaks_where_top_use_is_told():
    """Its largest median is the top use, its band holds the median, and the squat's is at the bottom."""
    case = resolve(Case(athlete=MAN, variation=SQUAT, load_kg=90.0))
    strength = strength_of(MAN)
    curve = use_curve(case, strength)
    assert float(curve.median.max()) == pytest.approx(effort_of(case, strength).top, abs=0.02)
    assert (curve.low <= curve.median).all() and (curve.median <= curve.high).all()
    assert curve.progress[int(curve.median.argmax())] > 0.9
    assert curve.joint[0] == "knee"


def test_a_pull_is_worth_testing_when_only_a_squat_is_known():
    """Then something else; knowing it really narrows what is expected of a thrust."""
    telling = most_telling(strength_of(MAN))
    assert telling.variation == PULL
    assert 0.05 < telling.share < 0.5
    both = MAN.changed(best_loads_kg={SQUAT: 130, PULL: 160})
    assert most_telling(strength_of(both)).variation != PULL

    def width(athlete):
        best = expected_best(strength_of(athlete), "sumo-deadlift")
        return (best.high_kg - best.low_kg) / best.median_kg

    assert width(both) < 0.8 * width(MAN)


def test_a_measured_curve_replaces_level_and_shape_with_its_own_error():
    """At its angles the capacity is what was measured, give or take its error; beyond them the table's shape goes on."""
    points = (
        StrengthPoint(angle_deg=60, moment_Nm=300, sd_Nm=15),
        StrengthPoint(angle_deg=90, moment_Nm=270, sd_Nm=13.5),
    )
    athlete = MAN.changed(best_loads_kg={}, strength_curves={"knee": points})
    person = person_of(strength_of(athlete))
    at = person.capacity_Nm("knee", np.array([[60.0, 75.0, 90.0, 120.0]]))[:, 0]
    assert np.median(at, axis=0)[:3] == pytest.approx([300, 285, 270], rel=0.02)
    assert np.std(np.log(at[:, 1])) == pytest.approx(0.05, abs=0.01)
    assert np.median(at[:, 3]) == pytest.approx(270 * 0.73 / 0.95, rel=0.03)
    strong, weak = (
        MAN.changed(
            strength_curves={
                "knee": tuple(
                    p.__class__(angle_deg=p.angle_deg, moment_Nm=k * p.moment_Nm) for p in points
                )
            }
        )
        for k in (1.3, 0.9)
    )
    case = Case(athlete=MAN, variation=SQUAT, load_kg=90.0)
    told = [
        effort_of(
            resolve(case.changed(athlete=a.changed(best_loads_kg={}))),
            strength_of(a.changed(best_loads_kg={})),
        )
        for a in (strong, weak)
    ]
    assert told[0].uses["knee"][0] < 0.8 * told[1].uses["knee"][0]


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("", "the columns are joint"),
        ("joint,angle,moment_Nm\nknee,60,200\n", "not known: angle"),
        (
            "joint,angle_deg,moment_Nm\nelbow,60,200\n",
            "line 2: joint is elbow; known are: hip, knee, back",
        ),
        (
            "joint,angle_deg,moment_Nm\nknee,60,much\n",
            "line 2: moment_Nm is much; allowed is a number",
        ),
        (
            "joint,angle_deg,moment_Nm\nknee,600,200\n",
            "angle_deg is 600 deg; allowed is -40 to 160 deg",
        ),
        (
            "joint,angle_deg,moment_Nm\nknee,60,nan\n",
            "moment_Nm is nan; allowed is a number from 5 to 2000 N m",
        ),
        ("joint,angle_deg,moment_Nm\nknee,60,\n", "line 2: moment_Nm is missing"),
        ("joint,angle_deg,moment_Nm\n", "holds no row"),
    ],
)
def test_a_spoilt_table_is_refused_with_line_column_and_range(tmp_path, text, words):
    path = tmp_path / "s.csv"
    path.write_text(text)
    with pytest.raises(CaseError) as caught:
        read_curves(path)
    assert words in caught.value.text


def test_a_gauge_at_a_lever_is_force_times_lever(tmp_path):
    """40 kg at 0.35 m: 40 x 9.80665 x 0.35 = 137.3 N m."""
    path = tmp_path / "s.csv"
    path.write_text("joint,angle_deg,load_kg,lever_m\nknee,60,40,0.35\n")
    (point,) = read_curves(path)["knee"]
    assert point.moment_Nm == pytest.approx(137.29, abs=0.01)


def test_ankle_knee_flexors_and_abductors_are_shown_and_never_limit():
    """A squat asks the ankle, a one-leg hinge the abductors, a Romanian hardly the knee flexors' all; sizes by hand.

    The ankle of a 90 kg squat: its peak over 2.6 N m/kg x 82 kg x the table's share at its angle.
    """
    squat = solve(SQUAT, 90)
    told = also_uses(squat)
    solved = squat.solved
    angle = np.degrees(solved.pose.dorsiflexion_rad["right"])
    share = np.interp(angle, [-30, -15, 0, 15, 30, 40], [0.40, 0.60, 0.82, 0.97, 1.0, 0.97])
    by_hand = (solved.extension("ankle_right") / (2.6 * squat.case.athlete.mass_kg * share)).max()
    assert told["ankle"] == pytest.approx(float(by_hand), rel=0.02)
    assert also_uses(solve("single-leg-hinge", 20))["hip_abductors"] > told["hip_abductors"]
    assert set(told) == {"ankle", "knee_flexors", "hip_abductors"}
