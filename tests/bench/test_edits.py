"""Edits of the bench without a window: from one bench to the next, with their names and refusals."""

import dataclasses

import pytest

from zesty_lever.analysis import analyse
from zesty_lever.bench import edits
from zesty_lever.bench.edit import Edit, Refused
from zesty_lever.bench.model import MOST_IN_LINEUP, MOST_NOTE, first_bench
from zesty_lever.cases.anchors import anchors
from zesty_lever.cases.model import Athlete, Setup
from zesty_lever.problems import CaseError

BENCH = first_bench()


def test_every_edit_has_a_name_and_a_line_of_what_it_does():
    """So that the history can say what is undone, and a newcomer what there is."""
    known = {n: e for n, e in vars(edits).items() if isinstance(e, Edit)}
    assert len(known) > 25
    for name, edit in known.items():
        assert edit.make.__doc__, name
        assert callable(edit.label) or edit.label[0].isupper(), name
    assert edits.pin_in_lineup.name(BENCH, 0) == "Pin"
    assert edits.set_setting.name(BENCH, "thigh_deg", 5.0) == "Set thigh"


def test_an_edit_leaves_the_bench_before_as_it_was():
    before = BENCH.as_dict()
    after = edits.set_variation(edits.edit_slot(BENCH, 1), "goblet-squat")
    assert after.setups[1].variation == "goblet-squat"
    assert BENCH.as_dict() == before


def test_the_solved_angle_moves_by_its_partner():
    """Setting the trunk, which balance solves, finds the shin that brings it there; the trunk stays solved."""
    lean = analyse(BENCH.case(0)).solved.bottom_deg["trunk_deg"]
    after = edits.set_setting(BENCH, "trunk_deg", lean - 3.0)
    assert "trunk_deg" not in after.setup.settings
    again = analyse(after.case(0))
    assert again.case.free == "trunk_deg"
    assert again.solved.bottom_deg["trunk_deg"] == pytest.approx(lean - 3.0, abs=0.1)
    with pytest.raises(Refused, match="No shin angle balances that; the trunk stays solved"):
        edits.set_setting(BENCH, "trunk_deg", 1.0)


def test_dragging_stops_at_the_end_of_the_lever_and_typing_is_told():
    assert edits.drag_setting(BENCH, "stance_m", 9.0).setup.settings["stance_m"] == 1.10
    typed = edits.set_setting(BENCH, "stance_m", 9.0)
    with pytest.raises(CaseError, match="stance_m"):
        analyse(typed.case(0))
    both = edits.drag_pair(BENCH, "shin_deg", 20.0, "thigh_deg", 999.0).setup.settings
    assert both == {"shin_deg": 20.0, "thigh_deg": 100.0}


def test_balance_can_be_given_to_another_angle_and_back():
    solved = edits.solve_for(BENCH, "shin_deg")
    assert solved.setup.settings["shin_deg"] is None
    one, two = analyse(BENCH.case(0)), analyse(solved.case(0))
    assert two.peaks == pytest.approx(one.peaks, rel=2e-3)
    assert edits.solve_for(solved, "shin_deg") is solved
    stuck = edits.set_setting(BENCH, "stance_m", 1.1)
    assert edits.solve_for(stuck, "shin_deg") is stuck


def test_a_variation_starts_with_its_defaults_and_a_load_that_can_be_done():
    heavy = edits.change_athlete(BENCH, "Best", best_loads_kg={"back-squat-high-bar": 200.0})
    for name in ("belt-squat", "hex-bar-deadlift", "goblet-squat"):
        after = edits.set_variation(heavy, name)
        assert after.setup.settings == {}
        assert analyse(after.case(0)).feasible, name
    assert edits.set_variation(heavy, heavy.setup.variation) is heavy


def test_same_legs_only_where_legs_can_be_the_same():
    after = edits.same_legs(BENCH)
    one, two = (analyse(after.case(slot)) for slot in (0, 1))
    assert two.peaks["knee"] == pytest.approx(one.peaks["knee"], rel=0.02)
    with pytest.raises(Refused, match="two squats, or two hinges"):
        edits.same_legs(edits.set_variation(BENCH, "split-squat"))
    swapped = edits.swap(BENCH)
    assert swapped.setups == BENCH.setups[::-1]
    assert edits.copy_to_other(BENCH).setups[1] == BENCH.setups[0]
    assert edits.set_load_of(BENCH, 1, 42.04).setups[1].load_kg == 42.0


def test_athletes_come_and_go_with_their_entries():
    bench = edits.add_athlete(edits.line_up(BENCH, 0))
    assert [a.name for a in bench.athletes] == ["New athlete", "Athlete 1"]
    bench = edits.line_up_for(bench, 0, 0)
    assert [e.athlete for e in bench.lineup] == [1, 0]
    left = edits.remove_athlete(bench)
    assert [e.athlete for e in left.lineup] == [0]
    with pytest.raises(Refused, match="last athlete stays"):
        edits.remove_athlete(left)
    schooled = Athlete(name="Rika", height_m=1.7, mass_kg=66.0, sex="female", school="hips-first")
    there = edits.switch_athlete(edits.take_athlete(BENCH, schooled), 1)
    assert {s.school for s in there.setups} == {"hips-first"}
    case = there.case(0)
    assert edits.take_case(there, case).athletes == there.athletes
    assert len(edits.take_case(BENCH, case).athletes) == 2


def test_the_line_up_takes_six_and_keeps_what_is_pinned():
    bench = BENCH
    for _ in range(MOST_IN_LINEUP):
        bench = edits.line_up(bench, 0)
    with pytest.raises(Refused, match="takes 6"):
        edits.line_up(bench, 0)
    bench = edits.pin_in_lineup(edits.note_in_lineup(bench, 3, "felt easy"), 3)
    assert bench.lineup[0].note == "felt easy"
    with pytest.raises(Refused, match="pinned"):
        edits.take_off_lineup(bench, 0)
    with pytest.raises(Refused, match="to its left is pinned"):
        edits.move_in_lineup(bench, 1)
    with pytest.raises(Refused, match=str(MOST_NOTE)):
        edits.note_in_lineup(bench, 1, "x" * (MOST_NOTE + 1))
    assert len(edits.clear_lineup(bench).lineup) == 1
    assert edits.pin_in_lineup(bench, 99) is bench
    assert edits.move_in_lineup(bench, 0) is bench


def test_anchors_stay_where_they_can_be():
    bench = edits.set_variation(BENCH, "band-hinge")
    anchor = anchors(bench.case(0))[0]
    known = bench.setup.settings
    after = edits.move_anchor(bench, anchor, -1.0, 0.5)
    assert after.setup.settings != known
    far = edits.move_anchor(bench, anchor, -99.0, 99.0)
    assert analyse(far.case(0)).case.settings["anchor_height_m"] < 4.0


def test_read_by_another_school_changes_no_angle():
    one = analyse(BENCH.case(0))
    after = edits.read_by(BENCH, "knees-travel")
    two = analyse(after.case(0))
    assert two.case.school == "knees-travel"
    assert two.peaks == pytest.approx(one.peaks)
    assert edits.read_by.name(BENCH, "knees-travel") == "Read by: knees travel"


def test_what_numbers_rest_on_is_kept():
    bench = edits.set_typical_rules(BENCH, 0.8, {"front-squat": 0.7})
    assert bench.rules.working == 0.8
    bench = edits.set_errors(edits.set_reps(bench, 5), {"angle_deg": 2.0})
    assert (bench.reps_a_set, bench.sizes.angle_deg) == (5, 2.0)
    bench = edits.set_gym(bench, ("20 kg bar",), {20.0: 1}, "")
    assert bench.gym.bars == ("20 kg bar",)
    assert edits.set_lineup_match(bench, "same-load").lineup_match == "same-load"
    put = edits.put_setup(bench, Setup(variation="front-squat"))
    assert put.setup.variation == "front-squat"
    assert dataclasses.is_dataclass(edits.swap)
