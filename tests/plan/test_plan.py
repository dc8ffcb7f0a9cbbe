"""Plans: the document, its edits, steps and times, rules in words, drills, loads."""

from __future__ import annotations

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from zesty_lever.cases.model import Athlete, Setup
from zesty_lever.choosing.loading import TypicalRules
from zesty_lever.coaching.gym import Bells, Gym, usual_gym
from zesty_lever.exercises.catalogue import catalogue
from zesty_lever.log.exposure import Exposure, reference_of
from zesty_lever.log.predicted import Prediction, sets_planned
from zesty_lever.plan import edits
from zesty_lever.plan.checks import check_session, check_week
from zesty_lever.plan.document import (
    STYLES,
    Block,
    Item,
    Plan,
    Session,
    Week,
    bare,
    keyed,
    plan_json,
    read_plan,
    read_plan_file,
)
from zesty_lever.plan.doses import dose_of
from zesty_lever.plan.drills import drill, drills
from zesty_lever.plan.loads import load_not_made, working_load
from zesty_lever.plan.steps import minutes_of, planned_sets, steps_of
from zesty_lever.problems import CaseError

WOMAN = Athlete(height_m=1.69, mass_kg=64, sex="female", best_loads_kg={"back-squat-high-bar": 85})


def lift(name="back-squat-high-bar", **more):
    return Item(**({"setup": Setup(variation=name), "load_rule": "kg", "load_kg": 60} | more))


def session(*items, style="straight", kind="main", **more):
    return (
        keyed(
            Plan(
                weeks=(
                    Week(
                        sessions=(
                            Session(blocks=(Block(kind=kind, style=style, items=items),), **more),
                        )
                    ),
                )
            )
        )
        .weeks[0]
        .sessions[0]
    )


def plan(weeks=2):
    days = (session(lift()), session(lift("hip-thrust"), weekday=3))
    return keyed(
        Plan(name="Base", weeks=(Week(sessions=tuple(d.changed(key="") for d in days)),) * weeks)
    )


def test_a_plan_is_read_back_as_it_was_written():
    own = plan()
    again = read_plan(plan_json(own))
    assert again == own
    assert "sets" not in plan_json(own)["weeks"][0]["sessions"][0]["blocks"][0]["items"][0]
    keys = [s.key for _, s in own.sessions()]
    assert len(set(keys)) == 4


def test_what_is_wrong_with_a_plan_is_named(tmp_path):
    newer = {"format": "zesty-lever-plan/2", "weeks": []}
    with pytest.raises(CaseError) as refused:
        read_plan(newer, "plan.json")
    assert refused.value.code == "newer-version" and "plan/2" in refused.value.text
    file = tmp_path / "plan.json"
    file.write_text('{"format": "zesty-lever-plan/1", "weeks": [{"sessions": [{"weekday": 9}]}]}')
    with pytest.raises(CaseError, match="weekday is 9"):
        read_plan_file(file)
    for wrong, words in (
        ({"setup": None}, "either a setup or a drill"),
        ({"reps": (8, 5)}, "smaller"),
        ({"effort_left": 1.3}, "half steps"),
    ):
        with pytest.raises(CaseError, match=words):
            lift(**wrong)


def test_edits_move_copy_and_take_away():
    own = plan()
    key = own.weeks[0].sessions[0].key
    moved = edits.move_session(own, key, 1, 6)
    assert edits.find(moved, key)[:2] == (1, 2)
    assert len(moved.weeks[0].sessions) == 1
    more = edits.add_week(own, 0)
    assert len(more.weeks) == 3 and len({s.key for _, s in more.sessions()}) == 6
    assert len(edits.remove_week(more, 2).weeks) == 2
    with pytest.raises(CaseError, match="no session"):
        edits.find(own, "nothing")
    with pytest.raises(CaseError, match="no such day"):
        edits.move_session(own, key, 5, 1)
    skipped = edits.skip_weeks(own, 1, 2)
    assert [len(w.sessions) for w in skipped.weeks] == [2, 0, 0, 2]


def test_items_go_where_they_belong_and_move():
    own = edits.add_drill(session(lift()), "side-lying-clam")
    own = edits.add_lift(own, Setup(variation="hip-thrust", load_kg=80))
    own = edits.add_lift(own, Setup(variation="straight-leg-heel-elevated-hold"))
    assert [b.kind for b in own.blocks] == ["warm-up", "main", "assistance", "assistance"]
    last = list(own.listed())[-1][1].key
    up = edits.move_item(own, last, -1)
    assert [i.name for _, i in up.listed()][-2:] == [
        "hip-thrust",
        "straight-leg-heel-elevated-hold",
    ]
    assert len(up.blocks) == 3
    assert len(list(edits.remove_item(own, last).listed())) == 3
    styled = edits.set_style(own, list(own.listed())[1][1].key, "clusters")
    block, item = styled.item(list(own.listed())[1][1].key)
    assert block.style == "clusters" and (item.mini_reps, item.minis) == (3, 4)


@pytest.mark.parametrize("style", STYLES)
def test_every_style_has_steps_sets_and_a_predicted_exposure(style):
    own = session(lift(sets=2))
    key = own.blocks[0].items[0].key
    own = edits.set_style(own, key, style)
    steps = steps_of(own)
    assert steps and steps[-1].kind in ("work", "minute") and minutes_of(own) > 0
    assert planned_sets(own) == len([s for s in steps if s.logs]) > 0
    found = Prediction(WOMAN).of_session(own, reference_of(WOMAN))
    total = sum(found.values(), start=Exposure())
    assert total.sets == planned_sets(own) and not total.uncounted
    assert total.of("hip") > 0


def test_clusters_pairs_and_rounds_are_timed_as_they_are_done():
    cluster = edits.set_style(session(lift(sets=2)), "i1", "clusters")
    kinds = [s.kind for s in steps_of(cluster)]
    assert kinds[:7] == ["work", "mini-rest"] * 3 + ["work"] and kinds.count("rest") == 1
    pairs = edits.set_style(session(lift()), "i1", "paired-minutes")
    steps = steps_of(pairs)
    assert [s.at_s for s in steps] == [60.0 * n for n in range(10)]
    assert [bool(s.drill) for s in steps] == [True, False] * 5
    loads = [d.load_kg for d in sets_planned(pairs, WOMAN)]
    assert loads == [60.0, 65.0, 70.0, 75.0, 80.0]
    two = session(lift(sets=1), lift("hip-thrust", sets=1))
    rounds = two.changed(blocks=(two.blocks[0].changed(rounds=3),))
    names = [s.item.name for s in steps_of(rounds) if s.kind == "work"]
    assert names == ["back-squat-high-bar", "hip-thrust"] * 3
    each = session(lift("split-squat", load_kg=24, side="each", sets=2))
    sides = [(s.number, s.side) for s in steps_of(each) if s.logs]
    assert sides == [(1, "left"), (1, "right"), (2, "left"), (2, "right")]


def test_a_good_session_breaks_no_rule_and_a_bad_one_is_told_why():
    warm = Block(kind="warm-up", items=(Item(drill="hip-circles", reps=(5, 8)),))
    good = session(
        lift(sets=4, reps=(4, 6)),
        lift("split-squat", load_kg=24, side="each", reps=(6, 8)),
        lift("hip-thrust", load_kg=80, reps=(8, 10)),
    )
    good = good.changed(blocks=(warm, *good.blocks))
    assert [c.words for c in check_session(good) if not c.holds] == []
    bad = session(
        lift("hip-thrust", load_kg=80.3),
        lift(sets=6, reps=(1, 2)),
        lift("wide-squat"),
        lift("split-squat", load_kg=24),
        lift("moon-squat"),
        minutes=20,
    )
    broken = " | ".join(c.words for c in check_session(bad, "beginner") if not c.holds)
    for words in (
        "not first",
        "2 lifts with a bar on the back",
        "6 sets of 1 to 2",
        "of 20 min",
        "one side only",
        "No warm-up",
        "can't make 80.3 kg for the hip thrust: 80 or 82.5 kg",
        "moon-squat is not in the catalogue",
    ):
        assert words in broken, words


def test_rules_of_styles_sore_places_and_weeks():
    own = edits.set_style(session(lift()), "i1", "clusters")
    told = [c.words for c in check_session(own, "back-from-injury") if not c.holds]
    assert any(words.startswith("Clusters: beginners") for words in told)
    knee = edits.add_drill(session(lift()), "split-squat-hold")
    assert any("sore knee" in c.words for c in check_session(knee, sore=("knee",)))
    days = [session(lift()).changed(weekday=d, key=f"d{d}") for d in (0, 1, 3)]
    broken = " | ".join(c.words for c in check_week(Week(sessions=tuple(days))) if not c.holds)
    for words in (
        "Monday and Tuesday",
        "once or twice",
        "3 times; twice",
        "Horizontal load 0 times",
    ):
        assert words in broken


def test_loads_follow_their_rules_and_the_gym():
    rules = TypicalRules(gym=usual_gym())
    assert working_load(lift(), WOMAN, rules) == (60, "as planned")
    share = lift(load_rule="share-of-best", share=0.8, load_kg=None)
    assert working_load(share, WOMAN, rules) == (67.5, "80 % of the best")
    advised = lift(load_rule="advised", load_kg=None)
    assert working_load(advised, WOMAN, rules, 62.5) == (62.5, "as advised")
    assert working_load(advised, WOMAN, rules)[0] == 57.5
    front = lift("front-squat", load_rule="share-of-best", share=0.7, load_kg=None)
    assert "expected" in working_load(front, WOMAN, rules)[1]
    assert working_load(Item(drill="front-plank"), WOMAN) == (None, "")
    few = Gym(usual_gym().bars, usual_gym().pairs, bells=Bells(kettlebells_kg=(16, 24)))
    odd = lift("goblet-squat-cradled", load_kg=20)
    assert "16 or 24 kg" in load_not_made(odd, 20, TypicalRules(gym=few))
    assert load_not_made(lift(), 60.0) == ""


def test_deload_templates_and_what_a_template_has_otherwise():
    own = plan(3)
    lighter = edits.deload_week(own, 2)
    item = lighter.weeks[2].sessions[0].blocks[0].items[0]
    assert lighter.weeks[2].deload and (item.sets, item.load_kg) == (2, 52.5)
    assert lighter.weeks[2].sessions[0].deload
    with pytest.raises(CaseError, match="already"):
        edits.deload_week(lighter, 2)
    template = edits.as_template(own, "Base three")
    text = str(plan_json(template))
    assert "load_kg" not in text and template.origin is None
    made = edits.started(template, 4)
    assert made.origin.version == 4 and edits.differences(made, template) == []
    changed = edits.remove_session(edits.remove_week(made, 2), made.weeks[0].sessions[0].key)
    assert "2 here" in edits.differences(changed, template)[0]
    assert "with back-squat-high-bar" in edits.differences(template, changed)[1]


def test_there_are_thirty_two_drills_and_all_make_sense():
    kinds = [d.kind for d in drills().values()]
    assert len(kinds) == 32
    assert [kinds.count(k) for k in ("activation", "mobility", "pattern")] == [14, 12, 6]
    for one in drills().values():
        assert one.reps or one.seconds, one.id
        assert one.cue.endswith(".")
        assert not one.counts_as or one.counts_as in catalogue(), one.id
    with pytest.raises(CaseError, match="known are: side-lying-clam"):
        drill("moonwalk")


@pytest.mark.parametrize("stage", ["beginner", "usual", "advanced", "back-from-injury"])
def test_every_lift_has_a_dose_that_breaks_no_rule_of_its_own(stage):
    for name in catalogue():
        item = dose_of(name, stage, 20.0)
        checked = check_session(session(item), stage)
        broken = [c.words for c in checked if not c.holds and "direction" not in c.words]
        assert all("warm-up" in w.lower() or "can't make" in w for w in broken), (name, broken)


ITEMS = st.builds(
    lift,
    st.sampled_from(list(catalogue())),
    sets=st.integers(1, 6),
    side=st.sampled_from(["both", "left", "right", "each"]),
    reps=st.tuples(st.integers(1, 8), st.integers(8, 20)),
    rest_s=st.floats(0, 900),
    load_kg=st.sampled_from([None, 10.0, 43.21]),
    load_rule=st.sampled_from(["kg", "typical", "advised", "by-feel"]),
)


@settings(max_examples=60, deadline=None)
@given(st.lists(ITEMS, max_size=5), st.sampled_from(STYLES), st.integers(1, 3))
def test_any_session_survives_its_file_and_has_whole_steps(items, style, rounds):
    whole = session(*items)
    for key in [i.key for _, i in whole.listed()]:
        whole = edits.set_style(whole, key, style)
    whole = whole.changed(blocks=tuple(b.changed(rounds=rounds) for b in whole.blocks))
    again = read_plan({"format": "zesty-lever-plan/1", "weeks": [{"sessions": [bare(whole)]}]})
    assert again.weeks[0].sessions[0] == whole.changed(key=again.weeks[0].sessions[0].key)
    keys = [s.key for s in steps_of(whole) if s.logs]
    assert len(set(keys)) == len(keys)
    for name in {(item, side) for item, _, side in keys}:
        numbers = [number for item, number, side in keys if (item, side) == name]
        assert numbers == list(range(1, len(numbers) + 1))
