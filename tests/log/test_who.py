"""Who lifts: age, training years, stage; each number at its boundary. Common practice, no source."""

from __future__ import annotations

import datetime as dt

import pytest
from histories import MAN, SQUAT, TODAY, ask, good, one, session, words

from zesty_lever import clock
from zesty_lever.cases.model import Athlete, Case, Sore
from zesty_lever.cases.parse import athlete_from
from zesty_lever.choosing.loading import TypicalRules, proposed_load, typical_load_kg
from zesty_lever.coaching.gym import Bells, Gym, usual_gym
from zesty_lever.coaching.numbers import usual_rules
from zesty_lever.coaching.who import BALANCE, Standing, pattern_of, simpler_kin, who_is
from zesty_lever.exercises.catalogue import catalogue, variation
from zesty_lever.log.asked import Cleared, Dose, Felt
from zesty_lever.problems import CaseError

GIRL = Athlete(height_m=1.45, mass_kg=38.0, sex="female", age_years=12.0, training_years=0.0)
WOMAN = Athlete(height_m=1.62, mass_kg=70.0, sex="female", age_years=68.0, training_years=0.5)
BARE = Athlete(height_m=1.80, mass_kg=130.0, sex="male", age_years=35.0, training_years=2.0)
TENS = Dose((8, 10), sets=3)


def who(athlete, stage="usual"):
    return who_is(athlete, Standing(stage, today=TODAY))


@pytest.mark.parametrize(("age", "young"), [(15.99, True), (16.0, False), (12.0, True)])
def test_below_sixteen_is_young(age, young):
    assert who(MAN.changed(age_years=age)).young is young
    born = dt.date.fromordinal(TODAY - int(age * 365.2425 + 0.5)).isoformat()
    assert who(MAN.changed(born=born)).young is young


@pytest.mark.parametrize(
    ("height", "mass", "bests", "young"),
    [
        (1.49, 44.9, {}, True),
        (1.50, 44.9, {}, False),
        (1.49, 45.0, {}, False),
        (1.49, 44.0, {SQUAT: 40.0}, False),
    ],
)
def test_of_unknown_age_a_child_s_build_without_a_best_is_taken_for_young(
    height, mass, bests, young
):
    small = Athlete(height_m=height, mass_kg=mass, sex="female", best_loads_kg=bests)
    assert who(small).young is young and not who(small).age_known
    if young:
        assert "Age unknown" in words(ask(athlete=small, name="goblet-squat", dose=TENS))


@pytest.mark.parametrize(("years", "new"), [(0.0, True), (0.49, True), (0.5, False), (None, False)])
def test_under_half_a_year_is_a_beginner(years, new):
    assert who(MAN.changed(training_years=years)).beginner is new
    assert who(MAN, "beginner").beginner


@pytest.mark.parametrize(
    ("age", "years", "stage", "late"),
    [
        (60.0, 0.5, "usual", False),
        (60.1, 0.5, "usual", True),
        (60.1, 2.0, "usual", False),
        (60.1, 1.9, "usual", True),
        (60.1, None, "usual", True),
        (60.1, None, "advanced", False),
    ],
)
def test_over_sixty_with_little_training(age, years, stage, late):
    assert who(WOMAN.changed(age_years=age, training_years=years), stage).late is late


def test_a_girl_of_twelve_gets_no_bar_and_no_best_is_told():
    hex_bar = ask(athlete=GIRL, name="hex-bar-deadlift", dose=TENS)
    assert hex_bar.action == "choose" and hex_bar.load_kg is None and hex_bar.instead
    for way in hex_bar.instead:
        assert (way.load_kg or 0.0) <= 3.8
    for entry in catalogue().values():
        found = ask(athlete=GIRL, name=entry.id, dose=TENS)
        assert found.load_kg is None or found.load_kg <= 3.8 + 0.1
        told = words(found)
        assert "expected" not in told and "of the best" not in told and "% of 3" not in told
    best = GIRL.changed(best_loads_kg={SQUAT: 30.0})
    case = Case(athlete=best, variation=SQUAT)
    assert typical_load_kg(case)[0] <= 3.8 and "best" not in typical_load_kg(case)[1]


def test_the_young_do_eight_and_more_with_three_left_and_no_hard_styles():
    found = ask(athlete=GIRL, name="goblet-squat", dose=Dose((3, 5), sets=3))
    assert found.reps == (8, 10)
    assert who(GIRL).left(1.0) == 3.0 and who(GIRL).left(4.0) == 4.0 and who(MAN).left(1.0) == 1.0
    for style in ("paused", "clusters", "rest-pause"):
        assert not who(GIRL).may_style(style)
        told = ask(athlete=GIRL, name="goblet-squat", dose=Dose((8, 10), style=style, sets=3))
        assert "under sixteen: straight sets" in words(told)
    assert who(GIRL.changed(training_years=3.0)).may_style("one-and-a-quarter")


@pytest.mark.parametrize(("count", "able"), [(7, False), (8, True)])
def test_a_demanding_lift_after_eight_sessions_of_simpler_kin(count, able):
    trained = GIRL.changed(training_years=3.0)
    done = [session(40 - 2 * n, one(10, 2.0, "goblet-squat", TENS)) for n in range(count)]
    found = ask(*done, athlete=trained, name="front-squat", dose=TENS)
    assert (found.action != "choose") is able
    if not able:
        assert "8 logged sessions" in words(found)
        assert all(variation(way.variation).skill < 3 for way in found.instead)
    assert "goblet-squat" in simpler_kin(variation("front-squat"))


def test_the_young_go_on_by_the_smallest_step_after_three_good_sessions():
    own = [session(a, *(one(10, 4.0, "goblet-squat", TENS) for _ in range(3))) for a in (9, 6, 3)]
    young = GIRL.changed(training_years=1.0)
    assert ask(*own[1:], athlete=young, name="goblet-squat", dose=TENS).action == "hold"
    more = ask(*own, athlete=young, name="goblet-squat", dose=TENS)
    assert more.action == "up" and (more.load_kg, more.reps) in {(4.0, (11, 12)), (6.0, (8, 10))}


def test_a_beginner_starts_at_half_and_with_the_empty_bar_where_no_best_is_known():
    usual = ask(dose=TENS).load_kg
    new = ask(dose=TENS, stage="beginner")
    assert new.load_kg <= 0.5 * usual + 1.25 and "Beginner" in words(new)
    bare = ask(athlete=BARE, dose=TENS, stage="beginner")
    assert bare.load_kg <= 20.0
    assert ask(athlete=BARE, dose=TENS).load_kg > bare.load_kg


def test_back_from_injury_starts_at_half_of_the_last_own_load():
    before = good(60), good(56)
    back = ask(*before, stage="back-from-injury")
    assert (back.action, back.load_kg) == ("start", 30.0) and "First time back" in words(back)
    # A lift that was done since goes its way, with three good sessions before more.
    since = [good(8, load=30.0), good(5, load=30.0)]
    on = ask(*before, *since, stage="back-from-injury")
    assert (on.action, on.load_kg) == ("hold", 30.0) and "2 of 3" in words(on)
    unknown = ask(stage="back-from-injury")
    assert unknown.load_kg <= 0.5 * ask().load_kg + 1.25


def test_what_was_hurt_gets_half_of_its_usual_use_in_the_first_two_weeks():
    hurt = session(
        30, *(one(5, 100.0) for _ in range(3)), one(5, 100.0, felt=[Felt("lower back", "both", 5)])
    )
    since = [good(8, load=70.0), good(5, load=70.0), good(2, load=70.0)]
    lately = [Cleared("lower back", "both", TODAY - 13, "KB")]
    spared = ask(hurt, *since, stage="back-from-injury", cleared=lately)
    assert "first two weeks back" in words(spared).lower()
    assert spared.load_kg is None or spared.load_kg < 60.0
    longer_ago = [Cleared("lower back", "both", TODAY - 14, "KB")]
    assert (
        "weeks back"
        not in words(ask(hurt, *since, stage="back-from-injury", cleared=longer_ago)).lower()
    )
    sore = MAN.changed(sore=(Sore(place="lower back"),))
    assert ask(*since, stage="back-from-injury", athlete=sore).load_kg < 60.0


def test_over_sixty_begins_at_sixty_per_cent_with_three_left():
    best = WOMAN.changed(best_loads_kg={SQUAT: 50.0}, training_years=1.0)
    found = ask(athlete=best, name="back-squat-high-bar", dose=TENS)
    assert found.load_kg <= 0.6 * 0.7 * 50.0 + 0.1 and "three left" in words(found)
    own = [session(a, *(one(10, 20.0, asked=TENS) for _ in range(3))) for a in (6, 3)]
    assert ask(*own, athlete=best, dose=TENS).action == "hold"


def test_where_the_lightest_load_is_above_the_cap_it_is_a_choice():
    few = TypicalRules(
        gym=Gym(
            ("20 kg bar",), usual_gym().pairs, bells=Bells(dumbbells_kg=(10.0,), kettlebells_kg=())
        )
    )
    found = ask(athlete=GIRL, name="goblet-squat", dose=TENS, typical=few)
    assert found.action == "choose" and found.load_kg is None and "lightest" in words(found)
    assert {way.load_kg for way in found.instead} <= {0.0, 1.0}


def test_every_screen_s_load_goes_through_one_answer():
    """The bench's and the lists' typical load is the proposed one, for the young too."""
    for name in ("conventional-deadlift", "goblet-squat", SQUAT):
        case = Case(athlete=GIRL, variation=name)
        found = proposed_load(case)
        load = typical_load_kg(case)[0]
        assert load == (
            found.load_kg if found.load_kg is not None else variation(name).load_range_kg()[0]
        )


def test_birth_and_age_are_read_with_clear_errors():
    base = {"height_m": 1.7, "mass_kg": 70, "sex": "male"}
    assert athlete_from({**base, "born": "2014-05-31"}).age_on(TODAY) == pytest.approx(
        12.4, abs=0.5
    )
    assert athlete_from({**base, "training_years": 0.0}).as_json()["training_years"] == 0.0
    assert "age_years" not in athlete_from(base).as_json()
    for bad, why in (
        ({"born": "2014-13-31"}, "athlete.born is 2014-13-31"),
        ({"born": "31.5.2014"}, "athlete.born"),
        ({"born": "2014-05-31", "age_years": 12}, "one of them"),
        ({"age_years": 4}, "age_years is 4"),
        ({"training_years": 91}, "training_years is 91"),
    ):
        with pytest.raises(CaseError, match=why):
            athlete_from({**base, **bad})
    young = athlete_from({**base, "born": "2012-01-01"})
    with clock.at("2027-12-31T12:00"):
        assert who_is(young, Standing()).young
    with clock.at("2028-01-02T12:00"):
        assert not who_is(young, Standing()).young


def test_patterns_and_lifts_of_balance():
    assert {pattern_of(entry) for entry in catalogue().values()} == {
        "squat", "one-leg", "floor-pull", "hinge", "bridge",
    }  # fmt: skip
    assert set(catalogue()) >= BALANCE
    assert usual_rules().young_years == 16
