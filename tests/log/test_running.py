"""A running session against a fake clock: rests, sleep, jumps of the wall clock, crashes, paired minutes."""

from __future__ import annotations

import pytest

from zesty_lever import clock
from zesty_lever.cases.model import Setup
from zesty_lever.log.entry import DoneSet, Entry
from zesty_lever.log.running import (
    Countdown,
    back,
    begin,
    changed,
    confirmed,
    forward,
    hold_begun,
    rested_more,
    tick,
)
from zesty_lever.plan import edits
from zesty_lever.plan.document import Block, Item, Plan, Session, Week, keyed

NOON_MS = 1_790_000_000_000


def session(*items, style="straight"):
    made = Session(blocks=(Block(style=style, items=items),))
    return keyed(Plan(weeks=(Week(sessions=(made,)),))).weeks[0].sessions[0]


def squat(**more):
    values = {"setup": Setup(variation="back-squat-high-bar"), "sets": 3, "reps": (5, 5)}
    return Item(**(values | {"rest_s": 120.0, "load_kg": 60.0, "load_rule": "kg"} | more))


def entry_of(done, at_ms=NOON_MS, own=1):
    kept = {name: getattr(done, name) for name in DoneSet.__struct_fields__}
    return Entry(**kept, id=own, athlete=1, session=2, at_ms=at_ms, day=739_900)


def begun(whole, done=(), now=0.0, wall=NOON_MS):
    return begin(2, 1, whole, {"i1": 60.0, "i2": 80.0}, done, now, wall)


def test_sets_and_rests_take_turns_to_the_end():
    run = begun(session(squat(sets=2)))
    assert run.step.kind == "work" and run.draft.load_kg == 60.0 and run.draft.reps == 5
    run = confirmed(run, entry_of(run.draft), now_s=10.0)
    assert run.step.kind == "rest" and run.countdown.shown(10.0) == 120
    run = forward(run, 130.0)
    run = confirmed(run, entry_of(run.draft, own=2), 140.0)
    assert run.over and run.draft is None and len(run.done) == 2


def test_the_number_is_whole_seconds_and_changes_on_time():
    count = Countdown(100.0, 60.0)
    assert [count.shown(t) for t in (40.0, 40.5, 99.2, 100.0, 130.0)] == [60, 60, 1, 0, 0]
    now, seen = 40.0, []
    while now < 100.0:
        seen.append(count.shown(now))
        now += count.next_change_s(now)
    assert seen == list(range(60, 0, -1))
    assert now == pytest.approx(100.0)


def test_after_a_sleep_it_says_how_long_ago_the_rest_was_over():
    count = Countdown(100.0, 60.0)
    assert count.over_words(102.0) == ""
    assert count.over_words(130.0) == "rest over, 30 s ago"
    assert count.over_words(100.0 + 240.0) == "rest over, 4 min ago"
    run = begun(session(squat()))
    run = confirmed(run, entry_of(run.draft), 0.0)
    slept = tick(run, 3600.0)
    assert slept is run, "no burst of steps"


def test_the_clock_counts_and_never_goes_back():
    first = clock.steady_s()
    assert clock.steady_s() >= first


@pytest.mark.parametrize("jump_h", [-5, 0, 1, 24])
def test_the_wall_clock_s_jumps_do_not_matter_while_it_runs(jump_h):
    """Summer time, midnight, a clock set right: only the clock that counts measures."""
    run = begun(session(squat()), now=50.0, wall=NOON_MS + jump_h * 3_600_000)
    run = confirmed(run, entry_of(run.draft), 60.0)
    assert run.countdown.shown(100.0) == 80


def test_after_a_crash_it_opens_at_the_next_step_with_the_rest_worked_out():
    whole = session(squat())
    first = begun(whole)
    done = entry_of(first.draft.changed(load_kg=62.5), at_ms=NOON_MS)
    again = begun(whole, [done], now=5.0, wall=NOON_MS + 50_000)
    assert again.step.kind == "rest" and again.countdown.shown(5.0) == 70
    later = begun(whole, [done], now=5.0, wall=NOON_MS + 3_600_000)
    assert later.countdown.shown(5.0) == 0 and "58 min ago" in later.countdown.over_words(5.0)
    assert forward(later, 6.0).draft.load_kg == 62.5, "the load that was changed stays"
    assert begun(whole, [done], now=5.0, wall=NOON_MS - 9_000).countdown.shown(5.0) == 120


def test_a_changed_set_is_kept_for_the_next_ones_and_back_goes_back():
    run = begun(session(squat()))
    run = changed(run, lambda d: d.changed(load_kg=55.0, reps=4, effort_left=0.0))
    run = forward(confirmed(run, entry_of(run.draft), 0.0), 10.0)
    assert (run.draft.load_kg, run.draft.reps, run.draft.effort_left) == (55.0, 5, None)
    assert back(run, 20.0).step.number == 1
    assert back(back(run, 20.0), 20.0).step.number == 1


def test_more_rest_is_fifteen_seconds_and_only_in_rests():
    run = begun(session(squat()))
    assert rested_more(run) is run
    run = confirmed(run, entry_of(run.draft), 0.0)
    assert rested_more(run).countdown.shown(0.0) == 135


def test_holds_have_their_own_clock():
    hold = Item(setup=Setup(variation="straight-leg-heel-elevated-hold"), sets=1, seconds=20.0)
    run = begun(session(hold, style="holds"))
    assert run.countdown is None and run.draft.seconds == 20.0
    run = hold_begun(run, 7.0)
    assert run.countdown.shown(7.0) == 20 and run.step.kind == "work"


def test_paired_minutes_count_from_the_block_s_start_not_from_the_last_press():
    whole = edits.set_style(session(squat()), "i1", "paired-minutes")
    run = begun(whole, now=100.0)
    assert run.step.drill and run.countdown.shown(100.0) == 60
    run = tick(run, 161.0)
    assert not run.step.drill and run.countdown.shown(161.0) == 59 and run.draft.load_kg == 60.0
    run = confirmed(run, entry_of(run.draft), 190.0)
    assert run.step.drill and run.countdown.left_s(190.0) == pytest.approx(90.0)
    run = tick(run, 280.5)
    assert run.draft.load_kg == 65.0 and run.countdown.shown(280.5) == 60
    assert tick(run, 2000.0) is run, "a lift that was not confirmed waits for the coach"
    assert [s.kind for s in run.steps] == ["minute"] * 10


def test_a_crash_in_paired_minutes_goes_on_in_the_minute_that_is_due():
    whole = edits.set_style(session(squat()), "i1", "paired-minutes")
    first = tick(begun(whole, now=0.0), 61.0)
    done = entry_of(first.draft, at_ms=NOON_MS + 70_000)
    again = begin(2, 1, whole, {"i1": 60.0}, [done], 500.0, NOON_MS + 130_000, {"block-0": NOON_MS})
    assert again.step.drill and again.countdown.left_s(500.0) == pytest.approx(50.0)


def test_a_session_of_each_side_logs_left_and_right_apart():
    whole = session(squat(setup=Setup(variation="split-squat"), side="each", sets=1, load_kg=24.0))
    run = begun(whole)
    left = run.draft
    run = forward(confirmed(run, entry_of(left), 0.0), 1.0)
    assert (left.side, run.draft.side) == ("left", "right")
