"""One set as it was done: the unit of the log, never changed, only replaced."""

from __future__ import annotations

from typing import Annotated, Literal

from msgspec import Meta

from zesty_lever.cases.model import Load, Setup, Stage
from zesty_lever.models import Model, at_most, quantity
from zesty_lever.plan.document import Held, Left, Rest, Style, Tempo
from zesty_lever.problems import CaseError

__all__ = ("DoneSet", "Entry", "Fault", "Pain", "Stage")
Side = Literal["both", "left", "right"]
Moment = Literal["before", "during", "after", "next-day", "at-rest", "at-night"]
# Ramp sets come before the first working set: they count in exposure, never in progress.
DoneStyle = Literal[Style, "ramp"]
SessionState = Literal["planned", "running", "done", "missed", "called-off"]
# Days are whole numbers: the proleptic ordinal of the local day. Weeks start on Monday.
Day = Annotated[int, Meta(ge=693_596, le=767_010, extra={"unit": "day"})]
Id = Annotated[int, Meta(ge=1, le=2**63 - 1)]
Score = Annotated[int, Meta(ge=0, le=10, extra={"unit": "of 10"})]
OTHER_FAULT = "other"


class Fault(Model, frozen=True, kw_only=True):
    """A fault that was seen in a set: a finding's code or ``other``."""

    code: Annotated[str, at_most(60)]
    severity: Literal["note", "flag"] = "note"


class Pain(Model, frozen=True, kw_only=True):
    """Pain by place, 0 to 10, when it was felt; ``numb``: numb, tingling or giving way. Of a set or of a session.

    ``cleared_by`` and ``cleared_day``: a coach has let the athlete go on after a clinician's word.
    """

    place: Annotated[str, Meta(min_length=1, max_length=20)]
    side: Literal["left", "right", "both"] = "both"
    score: Score
    moment: Moment = "during"
    numb: bool = False
    cleared_by: Annotated[str, at_most(40)] = ""
    cleared_day: Day | None = None


class DoneSet(Model, frozen=True, kw_only=True):
    """What was done in one set: a set-up with its load, or a drill; repetitions or seconds; one side or both.

    ``quarters``: how far an unfinished last repetition went, in quarters. ``number`` counts sets of an item
    from 1. Raises `CaseError` where neither repetitions nor seconds are told, or neither set-up nor drill.
    """

    setup: Setup | None = None
    drill: Annotated[str, at_most(60)] = ""
    item: Annotated[str, at_most(24)] = ""
    number: Annotated[int, Meta(ge=1, le=200)] = 1
    style: DoneStyle = "straight"
    side: Side = "both"
    load_kg: Load = 0.0
    load_up_kg: Load | None = None
    reps: Annotated[int, Meta(ge=0, le=200, extra={"unit": "repetitions"})] = 0
    quarters: Annotated[int, Meta(ge=0, le=3, extra={"unit": "quarters"})] = 0
    seconds: Held | None = None
    tempo_s: Tempo | None = None
    pause_s: Annotated[float, quantity("s", 0.5, 20.0)] | None = None
    rest_s: Rest | None = None
    effort_left: Left | None = None
    note: Annotated[str, at_most(500)] = ""
    faults: Annotated[tuple[Fault, ...], at_most(20)] = ()
    pains: Annotated[tuple[Pain, ...], at_most(10)] = ()

    def __post_init__(self) -> None:
        """Refuse what was no set."""
        if (self.setup is None) == (not self.drill):
            raise CaseError(
                "wrong-value", "a set has either a setup or a drill", key="setup", allowed=None
            )

    @property
    def name(self) -> str:
        """Id of the variation or the drill."""
        return self.drill if self.setup is None else self.setup.variation

    @property
    def held(self) -> bool:
        """Whether it was a hold, counted in seconds."""
        return self.style == "holds" or (self.seconds is not None and not self.reps)

    @property
    def flagged(self) -> tuple[str, ...]:
        """Codes of faults that the school would stop."""
        return tuple(f.code for f in self.faults if f.severity == "flag")


class Entry(DoneSet, frozen=True, kw_only=True):
    """One row of the log: a set, whose, when, by whom; ``replaces`` the entry that it corrects.

    ``withdrawn``: the correction takes the set back. ``at_ms`` is UTC in ms since 1970; ``day`` local.
    """

    id: Id
    athlete: Id
    session: Id
    coach: Id | None = None
    replaces: Id | None = None
    withdrawn: bool = False
    at_ms: Annotated[int, Meta(ge=0, le=2**53)]
    day: Day
    case_hash: Annotated[str, at_most(24)] = ""
    # Whether the body was known, so that joints can be counted.
    uncounted: Annotated[str, at_most(300)] = ""

    @property
    def done(self) -> DoneSet:
        """The set alone."""
        return DoneSet(**{name: getattr(self, name) for name in DONE_FIELDS})


DONE_FIELDS = DoneSet.__struct_fields__
