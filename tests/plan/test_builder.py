"""The week builder against a proven optimum (SciPy's milp, HiGHS), and its hard rules over many wishes."""

from __future__ import annotations

import pytest
from proven import proven_best

from zesty_lever.cases.model import Athlete, Setup, Sore
from zesty_lever.choosing.shortlist import shortlist
from zesty_lever.exercises.catalogue import variation
from zesty_lever.plan.builder import NEEDS, build_week, items_of, problem_of
from zesty_lever.plan.checks import check_session, check_week
from zesty_lever.plan.document import Item
from zesty_lever.plan.search import search
from zesty_lever.plan.wish import Day, DayCeiling, Locked, WeekWish, read_wish
from zesty_lever.problems import CaseError

WOMAN = Athlete(height_m=1.69, mass_kg=64, sex="female", best_loads_kg={"back-squat-high-bar": 85})
HOME = ("two dumbbells", "kettlebell", "dumbbell", "bench", "mat", "box", "mini-band")


def days(*weekdays, minutes=60):
    return tuple(Day(weekday=day, minutes=minutes) for day in weekdays)


WISHES = {
    "three days": {"days": days(0, 2, 4)},
    "four days, knee": {"days": days(0, 1, 3, 5), "want": {"knee": 1.0}},
    "neighbours": {"days": days(0, 1, 2)},
    "short days": {"days": days(0, 2, 4, minutes=40)},
    "at home": {"days": days(0, 2, 4), "equipment": HOME},
    "at home, hip": {"days": days(1, 3, 5), "equipment": HOME, "want": {"hip": 1.0, "knee": -1.0}},
    "beginner": {"days": days(0, 3), "stage": "beginner"},
    "back spared": {
        "days": days(0, 2, 5),
        "ceilings": (DayCeiling(joint="back", share=0.5),),
    },
}
RANKED = {}


def wish_of(name):
    return WeekWish(athlete=WOMAN, **WISHES[name])


def ranked(name):
    if name not in RANKED:
        wish = wish_of(name)
        RANKED[name] = shortlist(wish.athlete, wish.wish(), "even", spans=False)
    return RANKED[name]


@pytest.mark.parametrize("name", WISHES)
def test_as_good_as_the_proven_best(name):
    wish = wish_of(name)
    options = [o for o in ranked(name) if hasattr(o, "score")]
    problem = problem_of(options, wish)
    best, found = proven_best(problem), search(problem)
    assert int(found.short().sum()) <= int(best.short().sum())
    assert found.score() >= best.score() - 0.10 * abs(best.score())


@pytest.mark.parametrize("name", WISHES)
def test_hard_rules_always_hold_and_every_item_has_reasons(name):
    built = build_week(wish_of(name), ranked=ranked(name))
    for _, session in built.plan.sessions():
        broken = [c.words for c in check_session(session, wish_of(name).stage) if not c.holds]
        assert all("direction" in w for w in broken), broken
        lifts = [i for _, i in session.listed() if i.setup is not None]
        assert 1 <= len(lifts) <= 4
        assert all(item.why for item in lifts)
    broken = [c.words for c in check_week(built.plan.weeks[0]) if not c.holds]
    assert all("load" in w for w in broken), broken
    assert len(built.unmet) == int((built.choice.short() > 0).sum())


def test_the_same_wish_gives_the_same_week():
    one, two = (build_week(wish_of("three days"), ranked=ranked("three days")) for _ in range(2))
    assert one.plan == two.plan


def test_what_is_unmet_is_said_with_what_stops_it():
    built = build_week(wish_of("at home"), ranked=ranked("at home"))
    told = " | ".join(built.unmet)
    assert "a bar on the back: 0 of 1" in told and "needs" in told


def test_locked_items_stay_on_their_day_and_one_that_cannot_be_done_is_named():
    lock = Locked(weekday=2, item=Item(setup=Setup(variation="belt-squat"), sets=5, reps=(10, 12)))
    wish = wish_of("three days").changed(locked=(lock,))
    built = build_week(wish, ranked=ranked("three days"))
    day = built.plan.weeks[0].sessions[1]
    item = next(i for _, i in day.listed() if i.name == "belt-squat")
    assert item.locked and (item.sets, item.reps) == (5, (10, 12))
    assert "locked by the coach" in item.why
    home = wish.changed(equipment=HOME)
    with pytest.raises(CaseError, match="belt-squat is locked on Wednesday, but needs"):
        build_week(home, ranked=ranked("at home"))


def test_sore_places_move_work_elsewhere():
    plain = build_week(wish_of("three days"), ranked=ranked("three days"))
    sore = wish_of("three days").changed(athlete=WOMAN.changed(sore=(Sore(place="knee"),)))
    spared = build_week(sore, ranked=ranked("three days"))

    def knee(built):
        return sum(built.options[o].features["knee"] for o in built.choice.chosen)

    assert knee(spared) < knee(plain)


def test_weeks_repeat_and_the_last_is_lighter():
    wish = wish_of("three days").changed(weeks=4, deload_last=True)
    built = build_week(wish, ranked=ranked("three days"))
    assert [w.deload for w in built.plan.weeks] == [False] * 3 + [True]
    assert len({s.key for _, s in built.plan.sessions()}) == 12
    assert len(items_of(built)) == 12


def test_a_wish_that_contradicts_itself_is_refused():
    with pytest.raises(CaseError, match="one weekday twice"):
        WeekWish(athlete=WOMAN, days=days(0, 0))
    with pytest.raises(CaseError, match="no training day"):
        lock = Locked(weekday=3, item=Item(drill="front-plank"))
        WeekWish(athlete=WOMAN, days=days(0), locked=(lock,))
    with pytest.raises(CaseError, match="zesty-lever-wish/1"):
        read_wish({"format": "else"})
    with pytest.raises(CaseError, match="can't be wished"):
        WeekWish(athlete=WOMAN, days=days(0), want={"beauty": 1}).wish()
    with pytest.raises(CaseError, match="no lift can be done"):
        build_week(WeekWish(athlete=WOMAN, days=days(0)), ranked=[])


def test_needs_are_told_in_the_catalogue_s_words():
    assert set(NEEDS) >= {"hip", "knee", "back", "lockout", "long", "one-leg"}
    assert variation("hip-thrust").direction == "horizontal"
