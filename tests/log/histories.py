"""Histories for advice, built short: sets, sessions, questions."""

from __future__ import annotations

import itertools
from typing import Any

from zesty_lever.cases.model import Athlete, Setup
from zesty_lever.coaching.numbers import rules_with
from zesty_lever.log.advice import advise
from zesty_lever.log.asked import Dose, Felt, PastSession, Planned, Question, SetDone
from zesty_lever.log.entry import DoneSet, Fault
from zesty_lever.wording.messages import told

TODAY = 739_900
SQUAT = "back-squat-high-bar"
FLAG = (Fault(code="hips-rise-first", severity="flag"),)
MAN = Athlete(height_m=1.78, mass_kg=82.0, sex="male", best_loads_kg={SQUAT: 130.0})
DOSE = Dose((3, 5), sets=4)
KEYS = itertools.count(1)


def one(reps=5, load=60.0, name=SQUAT, asked=DOSE, felt=(), settings=None, **more) -> SetDone:
    """One set."""
    setup = Setup(variation=name, settings=settings or {})
    done = DoneSet(setup=setup, load_kg=load, reps=reps, **more)
    return SetDone(next(KEYS), done, asked, tuple(felt))


def session(ago, *sets, felt=(), rating=None, deload=False) -> PastSession:
    """One session so many days ago."""
    return PastSession(next(KEYS), TODAY - ago, tuple(sets), tuple(felt), rating, deload)


def good(ago, *reps, load=60.0, felt=(), **more) -> PastSession:
    """A session of four sets of five, or of the repetitions given."""
    return session(ago, *(one(r, load, **more) for r in reps or (5, 5, 5, 5)), felt=felt)


def pained(ago, score, place="knee", side="left", before=None, **more) -> PastSession:
    """A session with a pain in its last set."""
    numb = more.pop("numb", False)
    moment = more.pop("moment", "during")
    sets = [one(**more) for _ in range(3)]
    sets.append(one(felt=[Felt(place, side, score, moment, numb)], **more))
    told_before = [] if before is None else [Felt(place, side, before, "before")]
    return session(ago, *sets, felt=told_before)


def question(*sessions, name=SQUAT, dose=DOSE, athlete=MAN, settings=None, **more: Any) -> Question:
    """A question about a planned lift."""
    rules = rules_with(more.pop("changed", {}))
    setup = Setup(variation=name, settings=settings or {})
    planned = Planned(setup, dose, more.pop("worked", "both"), more.pop("start", None))
    today = more.pop("today", TODAY)
    return Question(athlete, planned, sessions, today, rules=rules, **more)


def ask(*sessions, **more):
    """Advice for a planned lift."""
    return advise(question(*sessions, **more))


def words(found) -> str:
    """Why, in one line."""
    return " ".join(told(found))
