"""The question file of advice and its answer: ``zesty-lever-question/1``, plain data in, plain data out.

The same function that the window asks (`advise`), from what a file says.
"""

from __future__ import annotations

import datetime as dt
from collections.abc import Callable
from typing import Annotated, Any, Literal

from msgspec import Meta, field

from zesty_lever.cases.model import Athlete, Load, School, SettingValue, Setup, Stage
from zesty_lever.choosing.loading import TypicalRules
from zesty_lever.coaching.gym import BellMass, Bells, Gym, usual_gym
from zesty_lever.exercises.catalogue import variation
from zesty_lever.log.asked import (
    Advice,
    Cleared,
    Dose,
    Felt,
    PastSession,
    Planned,
    Question,
    SetDone,
)
from zesty_lever.log.entry import DoneSet, DoneStyle, Fault, Moment, Score, Side
from zesty_lever.messages import Message
from zesty_lever.models import Model, at_most, read
from zesty_lever.plan.document import Held, Left, Reps, Rest, Style
from zesty_lever.problems import CaseError

QUESTION_FORMAT = "zesty-lever-question/1"
ANSWER_FORMAT = "zesty-lever-answer/1"
FIRST_DAY, LAST_DAY = "1900-01-01", "2100-01-01"
DayText = Annotated[str, at_most(10)]
PlaceText = Annotated[str, Meta(min_length=1, max_length=60)]
SideText = Literal["left", "right", "both"]


class PainTold(Model, frozen=True, kw_only=True):
    """A pain of a set or of a session. ``place`` may be any words; ``numb``: numb, tingling or giving way."""

    place: PlaceText
    side: SideText = "both"
    score: Score = 0
    moment: Moment = "during"
    numb: bool = False


class BeforeTold(Model, frozen=True, kw_only=True):
    """A score before a session."""

    place: PlaceText
    side: SideText = "both"
    score: Score


class AskedTold(Model, frozen=True, kw_only=True):
    """What was asked of a set on its day."""

    sets: Annotated[int, Meta(ge=1, le=40)] | None = None
    reps: tuple[Reps, Reps] | None = None
    seconds: Held | None = None
    style: Style = "straight"
    effort_left: Left | None = None
    top_set: bool | None = None


class SetTold(Model, frozen=True, kw_only=True):
    """One set as it was done."""

    variation: Annotated[str, at_most(80)]
    settings: dict[str, SettingValue] = field(default_factory=dict)
    load_kg: Load = 0.0
    load_up_kg: Load | None = None
    reps: Annotated[int, Meta(ge=0, le=200)] = 0
    seconds: Held | None = None
    side: Side = "both"
    style: DoneStyle = "straight"
    effort_left: Left | None = None
    rest_s: Rest | None = None
    faults: Annotated[tuple[Fault, ...], at_most(20)] = ()
    pains: Annotated[tuple[PainTold, ...], at_most(20)] = ()
    asked: AskedTold | None = None


class SessionTold(Model, frozen=True, kw_only=True):
    """One session of the past."""

    day: DayText
    rating: Score | None = None
    before: Annotated[tuple[BeforeTold, ...], at_most(20)] = ()
    pains: Annotated[tuple[PainTold, ...], at_most(20)] = ()
    deload: bool = False
    sets: Annotated[tuple[SetTold, ...], at_most(200)] = ()


class ClearedTold(Model, frozen=True, kw_only=True):
    """A clinician's word on a place, entered by whom (initials) on a day."""

    place: PlaceText
    side: SideText = "both"
    day: DayText
    by: Annotated[str, Meta(min_length=1, max_length=40)]


class PlannedTold(Model, frozen=True, kw_only=True):
    """What is planned: ``reps`` a range, or ``seconds``."""

    variation: Annotated[str, at_most(80)]
    settings: dict[str, SettingValue] = field(default_factory=dict)
    school: School = "even"
    sets: Annotated[int, Meta(ge=1, le=40)] = 3
    reps: tuple[Reps, Reps] | None = None
    seconds: Held | None = None
    style: Style = "straight"
    effort_left: Left | None = None
    top_set: bool = False
    side: Side = "both"
    mini_reps: Annotated[int, Meta(ge=1, le=20)] = 3
    minis: Annotated[int, Meta(ge=1, le=20)] = 4


class GymTold(Model, frozen=True, kw_only=True):
    """What the gym has; what is left out is a small gym's."""

    bars: Annotated[tuple[str, ...], at_most(20)] | None = None
    pairs: dict[str, Annotated[int, Meta(ge=0, le=20)]] | None = None
    dumbbells_kg: Annotated[tuple[BellMass, ...], at_most(80)] | None = None
    kettlebells_kg: Annotated[tuple[BellMass, ...], at_most(80)] | None = None

    def gym(self) -> Gym:
        """The gym. Raises `CaseError` for bars and discs that are not known."""
        usual = usual_gym()
        bells = Bells(
            **{
                key: value
                for key, value in (
                    ("dumbbells_kg", self.dumbbells_kg),
                    ("kettlebells_kg", self.kettlebells_kg),
                )
                if value is not None
            }
        )
        try:
            pairs = (
                usual.pairs if self.pairs is None else {float(k): n for k, n in self.pairs.items()}
            )
        except ValueError as error:
            raise CaseError(
                "wrong-type", "gym.pairs: every key is a disc's mass in kg", key="gym.pairs"
            ) from error
        return Gym(usual.bars if self.bars is None else self.bars, pairs, bells=bells)


class QuestionFile(Model, frozen=True, kw_only=True):
    """A question file. Raises `CaseError` with key, value and range for what can't be asked."""

    format: Literal["zesty-lever-question/1"]
    today: DayText
    athlete: Athlete
    stage: Stage = "usual"
    gym: GymTold | None = None
    planned: PlannedTold
    sessions: Annotated[tuple[SessionTold, ...], at_most(2000)] = ()
    cleared: Annotated[tuple[ClearedTold, ...], at_most(200)] = ()
    ceiling_kg: Load | None = None


def day_number(text: str, key: str) -> int:
    """A day as its proleptic ordinal. Raises `CaseError`."""
    try:
        if FIRST_DAY <= text <= LAST_DAY:
            return dt.date.fromisoformat(text).toordinal()
    except ValueError:
        pass
    raise CaseError(
        "out-of-range",
        f"{key} is {text}; allowed is a day from {FIRST_DAY} to {LAST_DAY}, as 2026-12-02",
        key=key,
        value=text,
        unit="day",
        allowed=[FIRST_DAY, LAST_DAY],
    )


def read_question(data: Any) -> tuple[Question, dict[int, dict[str, int]]]:
    """Read plain data as a question; also session and set numbers, from 1, by the keys of its sets. Raises `CaseError`."""
    told = read(QuestionFile, data)
    today = day_number(told.today, "today")
    numbers: dict[int, dict[str, int]] = {}
    # In the order of their days; of one day in the file's order.
    days = [day_number(s.day, f"sessions.{i}.day") for i, s in enumerate(told.sessions)]
    order = sorted(range(len(days)), key=lambda i: days[i])
    sessions = [_session(told.sessions[i], days[i], i, numbers) for i in order]
    cleared = [
        Cleared(c.place, c.side, day_number(c.day, f"cleared.{i}.day"), c.by)
        for i, c in enumerate(told.cleared)
    ]
    gym = None if told.gym is None else told.gym.gym()
    return (
        Question(
            told.athlete,
            _planned(told.planned),
            sessions,
            today,
            told.stage,
            cleared,
            TypicalRules(gym=gym),
            ceiling_kg=told.ceiling_kg,
        ),
        numbers,
    )


def _planned(told: PlannedTold) -> Planned:
    variation(told.variation)
    if (told.reps is None) == (told.seconds is None):
        raise CaseError(
            "wrong-value", "planned has either reps or seconds", key="planned.reps", allowed=None
        )
    reps = _range(told.reps or (1, 1), "planned.reps")
    dose = Dose(
        reps,
        told.seconds,
        told.effort_left,
        told.style,
        told.mini_reps,
        told.minis,
        sets=told.sets,
        top_set=told.top_set,
    )
    setup = Setup(variation=told.variation, settings=told.settings, school=told.school)
    return Planned(setup, dose, told.side)


def _range(reps: tuple[int, int], key: str) -> tuple[int, int]:
    if reps[0] > reps[1]:
        raise CaseError(
            "out-of-range",
            f"{key} are {reps[0]} to {reps[1]}; the second can't be the smaller one",
            key=key,
            value=reps[1],
            allowed=[reps[0], 100],
        )
    return reps


def _session(
    told: SessionTold, day: int, index: int, numbers: dict[int, dict[str, int]]
) -> PastSession:
    sets = []
    for number, one in enumerate(told.sets, start=1):
        key = len(numbers) + 1
        numbers[key] = {"session": index + 1, "set": number}
        sets.append(_set(one, key, f"sessions.{index}.sets.{number - 1}"))
    before = [Felt(b.place, b.side, b.score, "before") for b in told.before]
    felt = [Felt(p.place, p.side, p.score, p.moment, p.numb) for p in told.pains]
    return PastSession(index + 1, day, tuple(sets), (*before, *felt), told.rating, told.deload)


def _set(told: SetTold, key: int, where: str) -> SetDone:
    done = DoneSet(
        setup=Setup(variation=told.variation, settings=told.settings),
        load_kg=told.load_kg,
        load_up_kg=told.load_up_kg,
        reps=told.reps,
        seconds=told.seconds,
        side=told.side,
        style=told.style,
        effort_left=told.effort_left,
        rest_s=told.rest_s,
        faults=told.faults,
    )
    felt = tuple(Felt(p.place, p.side, p.score, p.moment, p.numb) for p in told.pains)
    return SetDone(key, done, _asked(told, where), felt)


def _asked(told: SetTold, where: str) -> Dose | None:
    asked = told.asked
    if asked is None:
        return None
    reps = asked.reps or (max(told.reps, 1), max(told.reps, 1))
    return Dose(
        _range(reps, f"{where}.asked.reps"),
        asked.seconds,
        asked.effort_left,
        asked.style,
        sets=asked.sets,
        top_set=asked.top_set,
    )


def answer_json(
    found: Advice,
    numbers: dict[int, dict[str, int]],
    say: Callable[[Message], str],
    load: Callable[[str, float | None], str],
    name: str,
) -> dict[str, Any]:
    """An answer as plain data; ``say`` renders messages, ``load`` a lift's load."""
    return {
        "format": ANSWER_FORMAT,
        "action": found.action,
        "load_kg": found.load_kg,
        "load_up_kg": found.load_up_kg,
        "load_words": load(name, found.load_kg),
        "reps": None if found.reps is None else list(found.reps),
        "sets": found.sets,
        "seconds": found.seconds,
        "minis": found.minis,
        "ramp": [{"load_kg": kg, "reps": reps} for kg, reps in found.ramp],
        "words": [say(one) for one in found.says],
        "rests_on": [numbers[key] for key in found.entries if key in numbers],
        "see_clinician": found.see_clinician,
        "places": list(found.places),
        "side_first": found.side_first,
        "computed": _computed(found),
        "instead": [
            {
                "variation": one.variation,
                "load_kg": one.load_kg,
                "load_words": load(one.variation, one.load_kg),
                "why": say(one.why),
            }
            for one in found.instead
        ],
        "lighter_week": None
        if found.lighter_week is None
        else {
            "sets": found.lighter_week.sets,
            "load": found.lighter_week.load,
            "why": say(found.lighter_week.why),
        },
    }


def _computed(found: Advice) -> list[dict[str, Any]]:
    return [
        {
            "place": hurt.place,
            "side": hurt.side,
            "lift": hurt.lift,
            "measure": one.what,
            "own": round(one.own, 1),
            "other": round(one.other, 1),
            "unit": one.unit,
        }
        for hurt, one in found.computed
    ]
