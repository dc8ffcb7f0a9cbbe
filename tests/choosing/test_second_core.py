"""Intervals on a second core: the same numbers, whatever becomes of the other process."""

from __future__ import annotations

import os
import signal
import threading

import pytest

from zesty_lever.analysis import analyse
from zesty_lever.cases.model import Athlete, Case
from zesty_lever.choosing import second_core
from zesty_lever.choosing.second_core import SecondCore, Task
from zesty_lever.choosing.shortlist import spans_of

MAN = Athlete(height_m=1.78, mass_kg=82.0, sex="male")
NAMES = ("back-squat-high-bar", "goblet-squat", "hip-thrust", "romanian-deadlift", "front-squat")


@pytest.fixture(scope="module")
def alone():
    cases = [analyse(Case(athlete=MAN, variation=name, frames="none")).case for name in NAMES]
    return cases, [spans_of(analyse(case)) for case in cases]


@pytest.fixture
def core():
    made = SecondCore()
    made._given_up = False
    yield made
    made.close()


def worked_out(core, cases, alone, stop_at=None):
    """Spans by place, and which were worked out here."""
    here, found = [], {}

    def by_us(at):
        here.append(at)
        return alone[at]

    def done(at, spans):
        if at == stop_at:
            raise KeyError(at)
        found[at] = spans

    core.each([Task("spans", (case,)) for case in cases], by_us, done)
    return found, here


def check_same(found, expected):
    """To 1e-9: this process' NumPy may use another instruction set than a fresh one (the program's own does not)."""
    assert sorted(found) == list(range(len(expected)))
    for at, spans in enumerate(expected):
        for joint, ends in spans.items():
            assert found[at][joint] == pytest.approx(ends, rel=1e-9)


def test_both_cores_give_the_numbers_of_one(core, alone):
    cases, expected = alone
    for _ in range(2):
        found, here = worked_out(core, cases, expected)
        check_same(found, expected)
        assert 0 in here
    # The last one was asked of the other process.
    assert len(cases) - 1 not in here


def test_without_a_second_core_all_is_done_here(alone):
    cases, expected = alone
    core = SecondCore()
    core._given_up = True
    found, here = worked_out(core, cases, expected)
    assert sorted(here) == list(range(len(cases))) and len(found) == len(cases)


def test_a_killed_process_costs_nothing_but_its_part(core, alone):
    cases, expected = alone
    worked_out(core, cases, expected)
    os.kill(core._process.pid, signal.SIGKILL)
    found, _ = worked_out(core, cases, expected)
    check_same(found, expected)


def test_what_was_given_up_in_the_middle_does_not_come_back_as_another_answer(core, alone):
    cases, expected = alone
    with pytest.raises(KeyError):
        worked_out(core, cases, expected, stop_at=1)
    reverse = list(reversed(cases))
    found, _ = worked_out(core, reverse, list(reversed(expected)))
    check_same(found, list(reversed(expected)))


def test_a_stale_answer_and_the_next_one_may_come_together(core, alone):
    """Both lie in the pipe when the next question is looked at: neither is lost behind the other."""
    cases, expected = alone
    for _ in range(3):
        with pytest.raises(KeyError):
            worked_out(core, cases, expected, stop_at=0)
        found, _ = worked_out(core, cases, expected)
        check_same(found, expected)


def test_a_process_that_hangs_is_given_up(core, alone, monkeypatch):
    cases, expected = alone
    worked_out(core, cases, expected)
    monkeypatch.setattr(second_core, "MOST_WAITS", 3)
    os.kill(core._process.pid, signal.SIGSTOP)
    found, here = worked_out(core, cases, expected)
    check_same(found, expected)
    assert sorted(here) == list(range(len(cases))) and core._given_up


def test_two_threads_never_take_each_other_s_answers(core, alone):
    """Whoever comes second works all out alone."""
    cases, expected = alone
    inside, go_on, first = threading.Event(), threading.Event(), {}
    tasks = [Task("spans", (case,)) for case in cases]

    def slow(at):
        inside.set()
        go_on.wait(30.0)
        return expected[at]

    thread = threading.Thread(target=lambda: core.each(tasks, slow, first.__setitem__))
    thread.start()
    assert inside.wait(30.0)
    found, here = worked_out(core, list(reversed(cases)), list(reversed(expected)))
    assert here == list(range(len(cases)))
    check_same(found, list(reversed(expected)))
    go_on.set()
    thread.join(60.0)
    check_same(first, expected)
