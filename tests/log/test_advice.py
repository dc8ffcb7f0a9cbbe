"""Advice for the next load of one lift: the table of worked cases, styles, sides, every number at its boundary.

Rules are common practice, no source; loads are those of the usual discs.
"""

from __future__ import annotations

import pytest
from histories import DOSE, FLAG, KEYS, MAN, SQUAT, TODAY, ask, good, one, pained, session, words

from zesty_lever.cases.model import Setup
from zesty_lever.choosing.loading import TypicalRules
from zesty_lever.coaching.gym import Bells, Gym, usual_gym
from zesty_lever.coaching.numbers import rule_names, rules_with, usual_rules
from zesty_lever.log.asked import Cleared, Dose, Felt, SetDone
from zesty_lever.log.entry import DoneSet
from zesty_lever.problems import CaseError

TWO_GOOD = good(7), good(3)

# The table of the design: four sets of 3 to 5 with 60 kg.
TABLE = {
    "two good": (TWO_GOOD, {}, "up", 62.5),
    "one good": (TWO_GOOD[1:], {}, "hold", 60.0),
    "range 5 to 8": (
        [good(a, asked=Dose((5, 8), sets=4)) for a in (7, 3)],
        {"dose": Dose((5, 8), sets=4)},
        "up",
        60.0,
    ),
    "hips first": ((TWO_GOOD[0], good(3, faults=FLAG)), {}, "lighter", 52.5),
    "5-3-1-1": ((TWO_GOOD[0], good(3, 5, 3, 1, 1)), {}, "lighter", 52.5),
    "nothing left": ((TWO_GOOD[0], good(3, effort_left=0.0)), {}, "hold", 60.0),
    "pain 4": ((TWO_GOOD[0], pained(3, 4)), {}, "stop", None),
    "pain 3 from 0": ((TWO_GOOD[0], pained(3, 3, before=0)), {}, "stop", None),
    "pain 2 twice": ((pained(7, 2), pained(3, 2)), {}, "lighter", 52.5),
    "pain 2 once": ((TWO_GOOD[0], pained(3, 2)), {}, "hold", 60.0),
    "numb": ((TWO_GOOD[0], pained(3, 0, numb=True)), {}, "stop", None),
    "30 days away and hips first": ((good(30, faults=FLAG),), {}, "lighter", 47.5),
    "ceiling 55": (TWO_GOOD, {"ceiling_kg": 55.0}, "up", 55.0),
    "beginner, two good": (TWO_GOOD, {"stage": "beginner"}, "hold", 60.0),
    "three sets of four": ((TWO_GOOD[0], good(3, 5, 5, 5)), {}, "hold", 60.0),
    "one set of four": ((good(7, 5), good(3, 5)), {}, "hold", 60.0),
}


@pytest.mark.parametrize("case", TABLE)
def test_the_worked_table(case):
    sessions, more, action, load = TABLE[case]
    advice = ask(*sessions, **more)
    assert (advice.action, advice.load_kg) == (action, load)
    assert advice.says and advice.entries


def test_words_say_both_reasons_and_how_many_good_ones():
    both = words(ask(good(30, faults=FLAG)))
    assert "30 days" in both and "Hips rise first" in both and "20 % lighter" in both
    assert "1 of 2" in words(ask(TWO_GOOD[1]))
    assert "3 of 4 sets" in words(ask(TWO_GOOD[0], good(3, 5, 5, 5)))
    assert "clinician" in words(ask(TWO_GOOD[0], pained(3, 4)))


def test_a_step_over_five_percent_waits_for_two_more_repetitions():
    waiting = ask(good(7, load=40.0), good(3, load=40.0))
    assert (waiting.action, waiting.load_kg, waiting.reps) == ("up", 40.0, (6, 7))
    assert "42.5 kg, is 6 %" in words(waiting)
    taken = ask(good(7, 7, 7, 7, 7, load=40.0), good(3, 7, 7, 7, 7, load=40.0))
    assert (taken.load_kg, taken.reps) == (42.5, (3, 5))
    few = Gym(usual_gym().bars, usual_gym().pairs, bells=Bells(dumbbells_kg=(12, 16, 18, 20)))
    dose = Dose((5, 8), sets=3)
    held = [good(a, 8, 8, 8, load=16.0, name="goblet-squat", asked=dose) for a in (7, 3)]
    same = ask(*held, name="goblet-squat", dose=dose, typical=TypicalRules(gym=few))
    assert (same.load_kg, same.reps) == (16.0, (9, 10)) and "12 %" in words(same)


def test_a_stop_stays_until_it_is_cleared_and_then_begins_lighter():
    open_ = [pained(20, 5), good(10), good(3)]
    assert ask(*open_).action == "stop"
    word = Cleared("knee", "left", TODAY - 1, "KB")
    again = ask(good(7), pained(3, 5), cleared=[word])
    assert (again.action, again.load_kg) == ("lighter", 52.5) and "cleared" in words(again)
    # A word of the day before the pain clears nothing, nor one without initials, nor of the other side.
    for bad in (
        Cleared("knee", "left", TODAY - 4, "KB"),
        Cleared("knee", "left", TODAY - 1, " "),
        Cleared("knee", "right", TODAY - 1, "KB"),
        Cleared("hip", "left", TODAY - 1, "KB"),
    ):
        assert ask(good(7), pained(3, 5), cleared=[bad]).action == "stop"
    assert (
        ask(good(7), pained(3, 5), cleared=[Cleared("knee", "both", TODAY - 3, "KB")]).action
        == "lighter"
    )


def test_after_a_break_one_counts_as_a_beginner_for_two_weeks():
    back = [good(40), good(7, load=50.0), good(3, load=50.0)]
    assert ask(*back).action == "hold" and "2 of 3" in words(ask(*back))
    third = ask(*back, good(1, load=50.0))
    assert (third.action, third.load_kg) == ("up", 52.5)
    # Two sessions that began fourteen days after the break are enough; waiting alone earns nothing.
    later = [good(60), good(34, load=50.0), good(20, load=50.0), good(10, load=50.0)]
    assert ask(*later).action == "up"
    assert ask(*back, today=TODAY + 9).load_kg <= 50.0


def test_the_lightest_load_and_no_load_have_nothing_lighter():
    gym = TypicalRules(gym=Gym(("10 kg bar",), {1.25: 1}))
    advice = ask(good(3, load=10.0, faults=FLAG), typical=gym)
    assert advice.lighter_variation and "lighter variation" in words(advice)
    bare = Dose((8, 12), sets=3)
    unloaded = good(3, 10, 10, 10, load=0.0, name="bodyweight-squat", asked=bare, faults=FLAG)
    found = ask(unloaded, name="bodyweight-squat", dose=bare)
    assert found.action == "lighter" and "%" not in words(found) and "easier" in words(found)


def test_clusters_grow_by_mini_sets_then_by_load():
    dose = Dose((3, 3), style="clusters", mini_reps=3, minis=4, sets=2)
    made = {"style": "clusters", "asked": dose}
    four = [good(a, 12, 12, rest_s=12.0, **made) for a in (7, 3)]
    assert ask(*four, dose=dose).minis == 5
    six = [good(a, 18, 18, rest_s=12.0, **made) for a in (7, 3)]
    more = ask(*six, dose=dose)
    assert (more.load_kg, more.minis) == (62.5, 4)
    for rest, action in ((15.0, "up"), (15.5, "hold")):
        assert (
            ask(*[good(a, 12, 12, rest_s=rest, **made) for a in (7, 3)], dose=dose).action == action
        )


def test_holds_grow_to_a_minute_then_by_load_and_back():
    hold = "straight-leg-heel-elevated-hold"
    dose = Dose((1, 1), seconds=20.0, style="holds", sets=2)

    def held(seconds, ago):
        sets = [one(0, 0.0, hold, dose, style="holds", seconds=seconds) for _ in range(2)]
        return session(ago, *sets)

    assert ask(held(25.0, 7), held(25.0, 3), name=hold, dose=dose).seconds == 30.0
    full = ask(held(60.0, 7), held(60.0, 3), name=hold, dose=dose)
    assert full.seconds == 20.0 and "higher heels" in words(full)
    assert ask(held(10.0, 7), held(10.0, 3), name=hold, dose=dose).action == "hold"


def test_the_other_styles_have_their_own_rules():
    def by(style, *reps, **more):
        dose = more.pop("dose", Dose((3, 5), style=style, sets=len(reps)))
        own = [good(a, *reps, style=style, asked=dose, **more) for a in (7, 3)]
        return ask(*own, dose=dose)

    broke = by("rest-pause", 5, 5, 2)
    assert (broke.action, broke.load_kg) == ("lighter", 52.5) and "five of 2" in words(broke)
    assert by("rest-pause", 5, 5, 3).action != "lighter"
    assert by("constant-tension", 20, 20).load_kg == 62.5
    assert by("constant-tension", 20, 19).action == "hold"
    assert by("constant-tension", 20, 12).action == "hold"
    assert by("constant-tension", 20, 11).action == "lighter"
    first = by("two-load", 5, 5, load_up_kg=50.0)
    assert (first.load_kg, first.load_up_kg) == (62.5, 52.5)


def test_the_extra_goes_up_after_the_base():
    dose = Dose((3, 5), style="two-load", sets=2)
    made = {"style": "two-load", "asked": dose}
    two = [good(a, 5, 5, load_up_kg=50.0, **made) for a in (9, 7)]
    risen = [good(a, 5, 5, load=62.5, load_up_kg=52.5, **made) for a in (2, 1)]
    extra = ask(*two, *risen, dose=dose)
    assert (extra.load_kg, extra.load_up_kg) == (62.5, 50.0)


MINUTES = Dose((3, 5), style="paired-minutes", step_kg=5.0)
TOP, BACK = Dose((1, 1), sets=1, top_set=True), Dose((5, 5), sets=3)


def minutes(*reps, ago=3, dose=MINUTES):
    sets = [one(r, 40.0 + 5.0 * n, asked=dose, style="paired-minutes") for n, r in enumerate(reps)]
    return session(ago, *sets), dose


def test_paired_minutes_start_higher_when_the_last_one_held():
    kept, dose = minutes(5, 5, 5, 5, 5)
    assert (ask(kept, dose=dose).action, ask(kept, dose=dose).load_kg) == ("up", 45.0)
    lost, _ = minutes(5, 5, 5, 5, 1)
    assert ask(lost, dose=dose).action == "lighter"
    assert "one step lower" in words(ask(lost, dose=dose))


def test_a_weak_side_comes_first_with_its_own_load_for_both():
    name, dose = "split-squat", Dose((6, 8), sets=6)

    def sides(ago, weak=20.0):
        left = [one(6, weak, name, dose, side="left") for _ in range(3)]
        right = [one(8, 24.0, name, dose, side="right") for _ in range(3)]
        return session(ago, *left, *right)

    advice = ask(sides(7), sides(3), name=name, dose=dose)
    assert advice.side_first == "left" and advice.load_kg == 20.0
    assert advice.action == "hold" and "The left was 38 % behind" in words(advice)
    assert not ask(sides(3), name=name, dose=dose).side_first
    # Of 24 x 8: 10 % behind is no gap yet.
    assert not ask(sides(7, 28.9), sides(3, 28.9), name=name, dose=dose).side_first


def test_a_coach_changes_the_numbers_within_their_ranges():
    assert ask(good(3), changed={"good_sessions": 1}).action == "up"
    with pytest.raises(CaseError, match="stop_pain is 11"):
        rules_with({"stop_pain": 11})
    with pytest.raises(CaseError, match="no rule"):
        rules_with({"magic": 1})
    assert set(rule_names()) == set(usual_rules().as_dict())


def test_a_start_is_a_load_that_the_gym_makes():
    advice = ask(start=(58.9, "the plan"))
    assert (advice.action, advice.load_kg) == ("start", 57.5) and "the plan" in words(advice)


# --- every number at, just below and just above its boundary -----------------------------------


@pytest.mark.parametrize(
    ("score", "before", "action"),
    [
        (3, None, "hold"),
        (4, None, "stop"),
        (2, 1, "hold"),
        (2, 0, "stop"),
        (3, 2, "hold"),
        (3, 1, "stop"),
        (6, 5, "stop"),
    ],
)
def test_pain_stops_from_four_and_two_above_before(score, before, action):
    assert ask(good(7), pained(3, score, before=before)).action == action


@pytest.mark.parametrize(("short", "action"), [(1, "hold"), (2, "lighter")])
def test_two_repetitions_short_in_half_of_the_sets(short, action):
    assert ask(good(7), good(3, 3, 3, 3 - short, 3 - short)).action == action
    assert ask(good(7), good(3, 3, 3, 3, 3 - short)).action == "hold"


@pytest.mark.parametrize(
    ("days", "load"),
    [(13, 60.0), (14, 52.5), (27, 52.5), (28, 47.5), (55, 47.5), (56, 35.0), (400, 35.0)],
)
def test_days_away_by_their_steps(days, load):
    assert ask(good(days + 4), good(days)).load_kg <= load + 2.5
    assert ask(good(days)).load_kg == load


def test_a_squat_done_keeps_another_squat_from_counting_as_away():
    front = [good(30, name="front-squat"), good(27, name="front-squat")]
    away = ask(*front, name="front-squat")
    assert away.action == "lighter" and "days since" in words(away)
    kept = ask(*front, *(good(a) for a in (20, 14, 8, 2)), name="front-squat")
    assert (kept.action, kept.load_kg) == ("up", 62.5)
    assert ask(*front, good(2, name="hip-thrust"), name="front-squat").action == "lighter"


def test_never_below_half_however_much_speaks_for_less():
    assert ask(good(60), changed={"away_share_3": 0.8}).load_kg == 30.0


@pytest.mark.parametrize(("left", "action"), [(1.0, "up"), (0.5, "hold"), (None, "up")])
def test_effort_left_as_wanted_that_day(left, action):
    assert ask(good(7, effort_left=left), good(3, effort_left=left)).action == action
    wanted = Dose((3, 5), sets=4, effort_left=2.0)
    own = [good(a, asked=wanted, effort_left=1.5) for a in (7, 3)]
    assert ask(*own, dose=Dose((3, 5), sets=4, effort_left=1.0)).action == "hold"


def test_a_session_is_judged_by_the_dose_of_its_day():
    """Four sets that fell short of today's range were all that was asked then."""
    asked = Dose((3, 3), sets=4)
    then = [good(a, 3, 3, 3, 3, asked=asked) for a in (7, 3)]
    found = ask(*then, dose=Dose((3, 6), sets=4))
    assert found.action == "up" and "short" not in words(found)
    # Typed in, nothing kept of what was asked: by itself, so never short.
    typed = [good(a, 4, 4, 4, asked=None) for a in (7, 3)]
    assert ask(*typed).action == "up"


def test_top_set_and_back_off_go_their_own_ways():
    def visit(ago):
        top = one(1, 120.0, asked=TOP)
        return session(ago, top, *(one(5, 100.0, asked=BACK) for _ in range(3)))

    back = ask(visit(7), visit(3), dose=Dose((5, 5), sets=3))
    assert (back.action, back.load_kg) == ("up", 102.5)
    top = ask(visit(7), visit(3), dose=Dose((1, 1), sets=1, top_set=True))
    assert (top.action, top.load_kg) == ("up", 122.5)
    # Of the same repetitions too, and where nobody kept what was asked.
    fives = Dose((5, 5), sets=3)

    def fives_done(ago):
        return session(
            ago, one(5, 120.0, asked=None), *(one(5, 100.0, asked=None) for _ in range(3))
        )

    assert ask(fives_done(7), fives_done(3), dose=fives).load_kg == 102.5
    assert (
        ask(fives_done(7), fives_done(3), dose=Dose((5, 5), sets=1, top_set=True)).load_kg == 122.5
    )


@pytest.mark.parametrize(("second", "same"), [(98.0, True), (97.5, False)])
def test_sets_within_two_per_cent_belong_together(second, same):
    dose = Dose((5, 5), sets=2)
    gym = TypicalRules(gym=Gym(("20 kg bar",), {20.0: 2, 0.5: 2, 5.0: 1, 1.25: 1}))
    own = [session(a, one(5, 100.0, asked=dose), one(5, second, asked=dose)) for a in (7, 3)]
    assert (ask(*own, dose=dose, typical=gym).action == "up") is same


def test_a_weeks_planned_lighter_is_not_judged_and_the_last_good_load_comes_back():
    light = session(3, *(one(5, 52.5) for _ in range(2)), deload=True)
    after = ask(good(14), good(10), light)
    assert (after.action, after.load_kg) == ("up", 62.5)


def test_ramp_sets_count_in_no_progress():
    ramp = [one(8, 20.0, style="ramp"), one(3, 45.0, style="ramp")]
    own = [session(a, *ramp, *(one() for _ in range(4))) for a in (7, 3)]
    assert ask(*own).load_kg == 62.5


def test_three_sessions_without_a_good_one_are_a_choice_with_reasons():
    bad = [good(a, 5, 5, 5, 2) for a in (9, 6, 3)]
    assert ask(*bad[:2]).action == "hold"
    found = ask(*bad)
    assert found.action == "choose" and found.load_kg is None
    ways = [(i.variation, i.load_kg) for i in found.instead]
    assert (SQUAT, 52.5) in ways and (SQUAT, 60.0) in ways
    assert any(name != SQUAT for name, _ in ways)
    assert "So the same again" not in words(found)


def test_a_lighter_week_is_proposed_after_three_lightenings_within_eight_weeks():
    def run(*loads, last_ago=2, every=4):
        days = [last_ago + every * n for n in range(len(loads))][::-1]
        return [good(ago, load=load) for ago, load in zip(days, loads, strict=True)]

    thrice = run(80.0, 70.0, 80.0, 70.0, 80.0, 70.0)
    week = ask(*thrice).lighter_week
    assert week is not None and (week.sets, week.load) == (0.6, 0.9)
    assert ask(*run(80.0, 70.0, 80.0, 70.0)).lighter_week is None
    assert ask(*run(80.0, 70.0, 80.0, 70.0, 80.0, 70.0, every=14)).lighter_week is None
    just_had = [*thrice, session(1, one(5, 60.0), deload=True)]
    assert ask(*just_had).lighter_week is None


@pytest.mark.parametrize(
    ("ratings", "proposed"),
    [((9, 9, 9), True), ((9, 8, 9), False), ((9, 9), False), ((5, 9, 9, 10), True)],
)
def test_three_sessions_rated_nine_and_more_propose_a_lighter_week(ratings, proposed):
    rated = [
        session(20 - 2 * n, *(one() for _ in range(4)), rating=r) for n, r in enumerate(ratings)
    ]
    assert (ask(*rated).lighter_week is not None) is proposed


def test_pain_or_faults_rising_in_two_lifts_propose_a_lighter_week():
    def trouble(name, early, late):
        return [
            session(20, one(name=name, felt=[Felt("knee", "left", early)])),
            session(4, one(name=name, felt=[Felt("knee", "left", late)])),
        ]

    both = [*trouble(SQUAT, 1, 2), *trouble("front-squat", 1, 3)]
    assert ask(*both, name="hip-thrust").lighter_week is not None
    assert ask(*both[:2], name="hip-thrust").lighter_week is None
    assert (
        ask(*trouble(SQUAT, 2, 2), *trouble("front-squat", 1, 3), name="hip-thrust").lighter_week
        is None
    )


def test_the_ceiling_below_the_lightest_load_asks_for_a_lighter_variation():
    found = ask(*TWO_GOOD, ceiling_kg=0.5)
    assert found.load_kg is None and found.lighter_variation


def test_a_set_of_an_unknown_variation_is_listed_and_judges_nothing():
    odd = SetDone(next(KEYS), DoneSet(setup=Setup(variation="moon-squat"), reps=5), DOSE)
    assert ask(*TWO_GOOD, session(1, odd)).load_kg == 62.5
    assert MAN.best_loads_kg[SQUAT] == 130.0
