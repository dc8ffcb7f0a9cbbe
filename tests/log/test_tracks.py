"""What counts as the same work, and loads converted from other work. Common practice, no source."""

from __future__ import annotations

import pytest
from histories import MAN, SQUAT, TODAY, ask, good, one, pained, session, words

from zesty_lever.cases.model import Athlete, Best, Setup
from zesty_lever.coaching.numbers import usual_rules
from zesty_lever.log.asked import Dose
from zesty_lever.log.convert import Effort, converted, reps_to_limit, share_of_best_kg
from zesty_lever.log.tracks import helped, of_track, same_setup

RULES = usual_rules()
QUARTER = {"thigh_deg": 45.0}


def setup(name=SQUAT, **settings):
    return Setup(variation=name, settings=settings)


@pytest.mark.parametrize(
    ("name", "key", "default", "within", "beyond"),
    [
        (SQUAT, "thigh_deg", 0.0, 5.0, 5.5),
        (SQUAT, "thigh_deg", 0.0, -5.0, -5.5),
        (SQUAT, "shin_deg", 32.0, 37.0, 37.5),
        (SQUAT, "stance_m", 0.41, 0.51, 0.52),
        (SQUAT, "heel_height_m", 0.0, 0.02, 0.021),
        ("step-up", "front_height_m", None, 0.02, 0.021),
        ("hip-thrust", "bench_height_m", None, 0.02, 0.021),
        (SQUAT, "left_ahead_m", 0.0, 0.05, 0.051),
    ],
)
def test_settings_within_tolerance_are_the_same_work(name, key, default, within, beyond):
    base = default
    if base is None:
        from zesty_lever.exercises.catalogue import variation

        base = variation(name).default_technique(1.75, 0.0, "even")[key]
        within, beyond = base + within, base + beyond
    first = setup(name, **{key: base})
    assert same_setup(first, setup(name, **{key: within}), RULES)
    assert same_setup(setup(name, **{key: within}), first, RULES)
    assert not same_setup(first, setup(name, **{key: beyond}), RULES)


def test_school_and_what_does_not_change_demand_are_set_aside():
    assert same_setup(setup(), Setup(variation=SQUAT, school="knees-travel"), RULES)
    assert same_setup(setup(), setup(toe_out_deg=30.0), RULES)
    assert not same_setup(setup(), Setup(variation=SQUAT, travel=(0.0, 0.5)), RULES)
    assert not same_setup(setup(), Setup(variation=SQUAT, style="one-and-a-quarter"), RULES)
    assert not same_setup(setup(), setup("front-squat"), RULES)


@pytest.mark.parametrize(
    ("asked", "planned", "same"),
    [
        ((3, 5), (5, 8), True),
        ((3, 5), (6, 8), False),
        ((8, 8), (5, 8), True),
        ((9, 9), (5, 8), False),
    ],
)
def test_ranges_that_share_a_repetition_are_one_track(asked, planned, same):
    done = one(asked[0], asked=Dose(asked))
    assert of_track(done, setup(), Dose(planned), RULES) is same
    typed = one(asked[0], asked=None)
    # Typed in: two above the range still belong to it, as before a large step.
    fits = planned[0] <= asked[0] <= planned[1] + 2
    assert of_track(typed, setup(), Dose(planned), RULES) is fits
    beyond = one(planned[1] + 3, asked=None)
    assert not of_track(beyond, setup(), Dose(planned), RULES)
    assert not of_track(
        one(5, style="clusters", asked=Dose(style="clusters")), setup(), Dose(), RULES
    )


def test_shallower_shortened_and_helped_lifts_are_told_from_deeper_ones():
    assert helped(setup(thigh_deg=20.0), setup(), RULES)
    assert not helped(setup(), setup(thigh_deg=20.0), RULES)
    assert not helped(setup(thigh_deg=4.0), setup(), RULES)
    assert helped(Setup(variation=SQUAT, travel=(0.0, 0.5)), setup(), RULES)
    assert helped(
        setup("conventional-deadlift", bar_height_m=0.35), setup("conventional-deadlift"), RULES
    )
    # A hinge goes deeper the further the trunk leans.
    assert helped(
        setup("romanian-deadlift", trunk_deg=30.0),
        setup("romanian-deadlift", trunk_deg=70.0),
        RULES,
    )


def test_the_tried_conversions():
    """Tried by hand through the table of repetitions: triples at 115 with 2 left are a single of 132, ten with 2 left 94."""
    found = converted(MAN, Effort(setup(), 115.0, 5.0), setup(), 12.0)
    assert found.single_kg == pytest.approx(132.0, abs=1.0)
    assert found.median_kg == pytest.approx(94.0, abs=1.0)
    assert found.low_kg == pytest.approx(79.0, abs=2.5) and found.high_kg == pytest.approx(
        112.0, abs=2.5
    )
    told = ask(
        session(5, *(one(3, 115.0, asked=None, effort_left=2.0) for _ in range(3))),
        dose=Dose((10, 12), effort_left=2.0, sets=3),
    )
    assert (told.action, told.load_kg) == ("start", 87.5)
    assert "From 3 \N{MULTIPLICATION SIGN} 115 kg with 2 left" in words(told)
    assert "10 to 12 is about 87.5 kg (78 to 113)" in words(told)
    # The same work converted to itself is itself.
    same = converted(MAN, Effort(setup(), 100.0, 5.0), setup(), 5.0)
    assert same.median_kg == pytest.approx(100.0, abs=0.5)


def test_left_unsaid_counts_as_none_and_nothing_wanted_as_one():
    assert reps_to_limit(Dose((5, 8))) == 6.0
    assert reps_to_limit(Dose((5, 8), effort_left=3.0)) == 8.0
    assert reps_to_limit(Dose((3, 3), style="clusters", mini_reps=3)) == 5.0
    dose = Dose((10, 12), sets=3)
    unsaid, said = (
        ask(session(5, one(3, 100.0, asked=None, effort_left=left)), dose=dose).load_kg
        for left in (None, 2.0)
    )
    assert unsaid < said


def test_quarter_squats_never_raise_the_full_squat():
    dose = Dose((4, 6), sets=3)
    plain = ask(dose=dose).load_kg
    for load in (80.0, 160.0, 250.0):
        quarter = session(5, *(one(5, load, settings=QUARTER, asked=None) for _ in range(3)))
        found = ask(quarter, dose=dose)
        assert found.action == "start" and found.load_kg <= plain
    tried = converted(MAN, Effort(setup(**QUARTER), 160.0, 7.0), setup(), 6.0)
    assert 81.0 <= tried.median_kg <= 105.0
    # Beside a known track they change nothing at all.
    own = good(9), good(6)
    quarter = session(2, *(one(5, 200.0, settings=QUARTER) for _ in range(4)))
    assert ask(*own, quarter).load_kg == ask(*own).load_kg == 62.5


def test_clusters_count_as_one_small_set_and_one_more():
    dose = Dose((3, 3), style="clusters", mini_reps=3, minis=4, sets=2)
    done = session(5, *(one(12, 115.0, style="clusters", asked=dose) for _ in range(2)))
    found = ask(done, dose=Dose((8, 8), sets=3))
    assert found.action == "start" and 90.0 <= found.load_kg <= 97.5
    assert "in clusters" in words(found)


def test_no_more_than_one_step_above_what_was_done_in_the_track():
    found = ask(good(7, 9, 9, 9, 9), good(3, 9, 9, 9, 9), dose=Dose((3, 9), sets=4))
    assert found.load_kg <= 62.5
    # The heavier double was no set of at least three.
    double = session(9, one(2, 80.0))
    assert ask(double, good(7), good(3)).load_kg == 62.5


def test_an_unknown_track_is_capped_at_the_doses_share_of_the_measured_best():
    share, measured = share_of_best_kg(MAN, setup(), 6.0)
    assert measured and share == pytest.approx(0.85 * 130.0, abs=3.0)
    heavy = session(5, *(one(20, 125.0, asked=None) for _ in range(3)))
    found = ask(heavy, dose=Dose((5, 6), sets=3))
    assert found.load_kg <= share + 0.01 and "of the best" in words(found)
    front, measured = share_of_best_kg(MAN, setup("front-squat"), 6.0)
    assert not measured and front < share
    fives = Athlete(
        height_m=1.78,
        mass_kg=82.0,
        sex="male",
        bests=(Best(variation=SQUAT, load_kg=113.0, reps=5),),
    )
    assert share_of_best_kg(fives, setup(), 6.0)[0] == pytest.approx(share, rel=0.03)
    assert share_of_best_kg(MAN.changed(best_loads_kg={}), setup(), 6.0) is None


@pytest.mark.parametrize(("ago", "told"), [(42, True), (43, False)])
def test_other_work_counts_for_six_weeks_and_then_only_holds_back(ago, told):
    light = session(ago, *(one(3, 50.0, asked=None) for _ in range(3)))
    found = ask(light, dose=Dose((10, 12), sets=3))
    assert found.load_kg <= 40.0
    assert ask(session(ago, one(3, 200.0, asked=None)), dose=Dose((10, 12), sets=3)).load_kg == (
        95.0 if told else 90.0
    )


def test_the_nearest_work_is_converted_and_pain_or_a_flag_takes_off_a_tenth():
    dose = Dose((10, 12), sets=3)
    own, other = (
        session(5, one(3, 80.0, asked=None)),
        session(4, one(3, 120.0, name="front-squat", asked=None)),
    )
    assert ask(own, other, dose=dose).load_kg == ask(own, dose=dose).load_kg
    hurting = pained(5, 2, load=80.0, asked=None, reps=3)
    assert ask(hurting, dose=dose).load_kg < ask(own, dose=dose).load_kg


def test_a_pull_from_blocks_is_another_track_than_from_the_floor():
    blocks = good(5, name="conventional-deadlift", load=150.0, settings={"bar_height_m": 0.40})
    found = ask(blocks, name="conventional-deadlift")
    assert found.action == "start" and "does not raise" in words(found)
    assert TODAY
