"""The session without a window: edits, previews, undo, refusals; one thread for all questions."""

import time

import pytest
from hands import settle
from PySide6.QtCore import QObject

from zesty_lever.bench import edits
from zesty_lever.bench.files import read_bench
from zesty_lever.bench.model import first_bench
from zesty_lever.choosing.second_core import SECOND_CORE
from zesty_lever.problems import CaseError
from zesty_lever.ui import app as application
from zesty_lever.ui.jobs import Jobs
from zesty_lever.ui.session import Session


@pytest.fixture
def session(kept, tmp_path):
    return kept(Session(first_bench(), tmp_path / "bench.json"))


def heard(signal):
    """What a signal carries, as a list that grows."""
    found = []
    signal.connect(lambda *args: found.append(args))
    return found


class Ear(QObject):
    """Hears jobs on the window's thread: a bare function would run on theirs."""

    def __init__(self, jobs):
        super().__init__()
        self.answers, self.failures = [], []
        jobs.answered.connect(self.answered)
        jobs.failed.connect(self.failed)

    def answered(self, kind, number, answer):
        self.answers.append((kind, number, answer))

    def failed(self, kind, number, why):
        self.failures.append((kind, number, why))


def test_an_edit_is_one_step_and_undo_is_exact(session):
    before, peaks = session.bench, session.result.peaks
    changed = heard(session.changed)
    session.do(edits.set_setting, "thigh_deg", 20.0)
    assert session.history.undoText() == "Set thigh"
    assert len(changed) == 1
    assert session.result.peaks != peaks
    session.history.undo()
    assert session.bench == before
    assert session.result.peaks == pytest.approx(peaks)
    session.do(edits.edit_slot, session.editing)
    assert session.history.count() == 1


def test_what_the_bench_does_not_take_is_refused_in_words(session):
    refused = heard(session.refused)
    session.do(edits.remove_athlete)
    session.do(edits.set_setting, "stance_m", 9.0)
    session.do(edits.change_athlete, "Set height", height_m=9.0)
    assert refused[0][0].startswith("The last athlete stays")
    assert "0.08 to 1.1" in refused[1][0]
    assert "height_m" in refused[2][0]
    assert session.history.count() == 0
    with pytest.raises(CaseError):
        session.commit("Bad", edits.set_setting(session.bench, "stance_m", 9.0))


def test_a_drag_previews_and_becomes_one_step(session):
    start = session.bench
    session.begin_drag()
    for value in (10.0, 15.0, 20.0):
        session.preview(edits.drag_setting, "thigh_deg", value)
    assert session.result.case.settings["thigh_deg"] == 20.0
    assert session.history.count() == 0
    session.finish_drag("Drag hip")
    assert session.history.count() == 1
    session.history.undo()
    assert session.bench == start
    session.begin_drag()
    session.preview(edits.drag_setting, "thigh_deg", 20.0)
    session.cancel_drag()
    assert session.bench == start
    assert session.history.count() == 1


def test_an_impossible_pose_is_drawn_and_advised(session):
    session.do(edits.set_setting, "stance_m", 1.1)
    assert session.result.error is not None
    assert session.drawable[0].frames
    settle(None, lambda: "works from" in session.result.error.text)


def test_what_is_done_is_saved(session, tmp_path):
    session.do(edits.set_reps, 5)
    session.save()
    assert read_bench(tmp_path / "bench.json").reps_a_set == 5


def test_quick_questions_do_not_wait_for_long_ones(kept):
    """A long question that tells how far it is lets a quick one through; a newer one of its kind ends it."""
    jobs = kept(Jobs())
    ear = kept(Ear(jobs))
    answers = ear.answers

    def slow(tell):
        for step in range(200):
            time.sleep(0.01)
            tell(step / 200)
        return "slow"

    jobs.ask("list", slow, long=True)
    time.sleep(0.05)
    jobs.ask("room", lambda _tell: "quick")
    settle(None, lambda: bool(answers), 5.0)
    assert answers[0][0] == "room"
    newest = jobs.ask("list", lambda _tell: "newer", long=True)
    settle(None, lambda: len(answers) > 1, 5.0)
    assert answers[1] == ("list", newest, "newer")


def test_a_question_that_fails_says_why_and_the_next_is_answered(kept):
    jobs = kept(Jobs())
    ear = kept(Ear(jobs))
    answers, failures = ear.answers, ear.failures

    def fails(_tell):
        raise CaseError("no-such-load", "no load does it", key="load_kg")

    jobs.ask("match", fails)
    jobs.ask("room", lambda _tell: 1)
    settle(None, lambda: bool(answers) and bool(failures), 5.0)
    assert failures[0][2] == "no load does it"


def test_an_athlete_brought_back_is_the_same_in_the_records(session):
    """Who was taken off by undoing and comes back by redoing keeps the id; a new one of that name does not."""
    session.do(edits.add_athlete)
    told = session.bench.changed(athlete_ids=tuple(str(7 + i) for i in range(2)))
    assert len(told.athletes) == 2
    session.bench = told
    session.history.undo()
    session.history.redo()
    assert session.bench.record_ids == (7, 8)
    session.do(edits.remove_athlete)
    assert session.bench.record_ids == (7,)
    name = told.athletes[1].name
    other = told.athletes[1].changed(height_m=1.5)
    session.do(edits.take_athlete, other)
    assert session.bench.athlete.name == name
    assert session.bench.record_ids == (7, 0)


def test_what_long_lists_need_is_there_before_they_are_asked_for(session, qtbot):
    """Some seconds after the start, beside the window: the other process, and two lifts worked out in this one."""
    jobs, failed = session.jobs, []
    jobs.failed.connect(lambda *why: failed.append(why))
    with qtbot.waitSignal(
        jobs.answered, timeout=20_000, check_params_cb=lambda kind, *_: kind == "warm-up"
    ):
        application._start_second_core(session)
    SECOND_CORE.close()
    assert not failed
