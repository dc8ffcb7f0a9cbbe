"""Lists that tell what they changed and for whom; substitutes at equal use, capped. Common practice, no source."""

from __future__ import annotations

import pytest

from builders import case_of, solve
from zesty_lever.cases.model import Athlete, Sore
from zesty_lever.choosing.bests import equal_effort_kg, expected_best, strength_of, work_set_kg
from zesty_lever.choosing.loading import TypicalRules, proposed_load
from zesty_lever.choosing.shortlist import LIST_REPS, Option, RuledOut, shortlist, substitutes
from zesty_lever.choosing.wishes import Wish
from zesty_lever.coaching.who import BALANCE, Hurt, Standing
from zesty_lever.exercises.catalogue import variation
from zesty_lever.wording.messages import said
from zesty_lever.wording.sentences import option_lines

SQUAT = "back-squat-high-bar"
MAN = Athlete(height_m=1.78, mass_kg=82.0, sex="male", best_loads_kg={SQUAT: 130.0})
GIRL = Athlete(height_m=1.45, mass_kg=38.0, sex="female", age_years=12.0, training_years=0.0)
WOMAN = Athlete(
    height_m=1.62, mass_kg=70.0, sex="female", age_years=68.0, training_years=0.5,
    best_loads_kg={SQUAT: 50.0}, sore=(Sore(place="knee", side="left"),),
)  # fmt: skip


def ranked(athlete, want=None, rules=None):
    found = shortlist(
        athlete, Wish(want=want or {"knee": 1.0}), rules=rules or TypicalRules(), spans=False
    )
    return [o for o in found if isinstance(o, Option)], [
        o for o in found if isinstance(o, RuledOut)
    ]


def test_substitutes_are_at_equal_use_and_never_above_the_cap():
    wanted = solve("conventional-deadlift", 110, {"best_loads_kg": {SQUAT: 130}})
    found = substitutes(MAN, wanted, Wish())
    assert found
    for option in found:
        if variation(option.variation).load is None:
            continue
        cap = work_set_kg(MAN, option.variation, LIST_REPS)
        assert option.load_kg <= cap + 0.01, option.variation
        if any(n.id.startswith("list.equal") for n in option.notes):
            assert option.load_kg <= equal_effort_kg(wanted.case, option.case) + 0.01
    squat = next(o for o in found if o.variation == SQUAT)
    assert squat.load_kg <= 100.0, "was 127.5 of a best of 130"
    assert any("not offered" in said(note) for note in squat.notes)


def test_a_girl_s_list_holds_nothing_heavy_and_says_why_below():
    able, out = ranked(GIRL)
    assert able and all(o.load_kg <= 3.8 + 0.1 for o in able)
    told = {o.variation: o.says for o in out}
    assert "hex-bar-deadlift" in told and "lightest" in said(told["hex-bar-deadlift"])
    assert "front-squat" in told and "demanding" in said(told["front-squat"])
    assert all("expected" not in o.load_rule and "best" not in o.load_rule for o in able)


def test_a_sore_knee_s_list_begins_with_what_spares_it():
    able, _ = ranked(WOMAN)
    first = next(i for i, o in enumerate(able) if any(n.id == "list.sore" for n in o.notes))
    assert first > 3 and all(o.behind == 0 for o in able[:first] if o.variation not in BALANCE)
    late = [i for i, o in enumerate(able) if o.variation in BALANCE]
    assert late and min(late) >= first and "balance" in said(able[late[0]].notes[0])
    asks = [o.peaks["knee"] for o in able[:first]]
    assert max(asks) < max(o.peaks["knee"] for o in able)


def test_each_line_says_what_was_changed_and_how_it_is_picked_up():
    able, _ = ranked(MAN, {"one-leg": 1.0, "hip": 1.0})
    lines = {o.variation: option_lines(1, o) for o in able}
    two = next(o for o in able if "two dumbbells" in variation(o.variation).equipment and o.load_kg)
    assert (
        f"2 \N{MULTIPLICATION SIGN} {two.load_kg / 2:g} kg ({two.load_kg:g})"
        in lines[two.variation]
    )
    rough = [o for o in able if any(n.id == "list.rough" for n in o.notes)]
    assert all("rough: no row of its own" in lines[o.variation] for o in rough)


def test_an_open_stop_reaches_every_place_where_a_load_is_chosen():
    asked = (("extension", 143.0), ("flexion", 20.0), ("impulse", 1200.0), ("bend", 120.0))
    hurt = Hurt("knee", "left", "stop", 5, 739_900, SQUAT, asked)
    rules = TypicalRules(standing=Standing(hurts=(hurt,)))
    assert proposed_load(case_of(SQUAT, None), rules).load_kg is None
    assert proposed_load(case_of("split-squat", None), rules).load_kg is None
    usual = proposed_load(case_of("romanian-deadlift", None)).load_kg
    spared = proposed_load(case_of("romanian-deadlift", None), rules)
    assert spared.load_kg <= 0.5 * usual and "far below" in said(spared.says[-1])
    able, out = ranked(MAN, rules=rules)
    names = {o.variation for o in out}
    assert {SQUAT, "front-squat", "split-squat"} <= names
    assert all(o.variation not in (SQUAT, "front-squat") for o in able)
    clinician = Hurt("knee", "left", "clinician", 8, 739_900, SQUAT, asked)
    able, _ = ranked(MAN, rules=TypicalRules(standing=Standing(hurts=(clinician,))))
    assert "romanian-deadlift" not in {o.variation for o in able}


def test_a_sore_place_takes_a_tenth_off_what_loads_it():
    back = MAN.changed(sore=(Sore(place="lower back"),))
    case = case_of("conventional-deadlift", None, {"best_loads_kg": {SQUAT: 130}})
    usual = proposed_load(case)
    sore = proposed_load(case.changed(athlete=back))
    assert sore.load_kg <= 0.9 * usual.load_kg + 0.01 and "Sore: lower back" in said(sore.says[-1])


@pytest.mark.parametrize("name", ["goblet-squat", "hip-thrust"])
def test_equal_effort_needs_a_best(name):
    bare = MAN.changed(best_loads_kg={})
    assert work_set_kg(bare, name, LIST_REPS) is None
    assert expected_best(strength_of(bare), name) is None


def test_no_best_is_told_of_the_young(tmp_path, capsys):
    import json

    from zesty_lever.__main__ import main
    from zesty_lever.analysis import analyse
    from zesty_lever.choosing.bests import effort_of
    from zesty_lever.plan.document import Item
    from zesty_lever.plan.loads import working_load

    girl = GIRL.changed(best_loads_kg={SQUAT: 30.0})
    case = case_of("front-squat", 10, {**girl.as_json()})
    assert effort_of(analyse(case).case, strength_of(girl)).best is None
    item = Item(setup=case.setup, load_rule="share-of-best", share=0.8)
    assert "best" not in working_load(item, girl)[1]
    path = tmp_path / "girl.json"
    path.write_text(json.dumps(case.as_json()))
    main(["effort", str(path), "--all"])
    rows = [line.split() for line in capsys.readouterr().out.splitlines()[1:]]
    told = [row for row in rows if len(row) > 3 and row[1].replace(".", "").isdigit()]
    assert all(float(row[1]) <= 3.9 for row in told)
