"""What a coach wishes for a week: who, which days, what for; a file of its own."""

from __future__ import annotations

from typing import Annotated, Any, Literal

import msgspec
from msgspec import Meta

from zesty_lever.cases.model import Athlete, School, Stage
from zesty_lever.choosing.wishes import Ceiling, Wish
from zesty_lever.coaching.who import Standing, who_is
from zesty_lever.models import Model, at_most, quantity, read
from zesty_lever.plan.document import Item
from zesty_lever.problems import CaseError

WISH_FORMAT = "zesty-lever-wish/1"


class Day(Model, frozen=True, kw_only=True):
    """One day that can be trained on: ``weekday`` 0 is Monday."""

    weekday: Annotated[int, Meta(ge=0, le=6, extra={"unit": "day of the week from 0"})]
    minutes: Annotated[int, Meta(ge=20, le=240, extra={"unit": "min"})] = 60


class DayCeiling(Model, frozen=True, kw_only=True):
    """A joint may get at most this share of what a known lift asks at its best load."""

    joint: Literal["hip", "knee", "back"]
    share: Annotated[float, quantity("", 0.05, 2.0)]
    lift: Annotated[str, at_most(80)] = "back-squat-high-bar"


class Locked(Model, frozen=True, kw_only=True):
    """An item that stays on its day whatever the builder does."""

    weekday: Annotated[int, Meta(ge=0, le=6)]
    item: Item


class WeekWish(Model, frozen=True, kw_only=True):
    """All that the builder asks: ``equipment`` None: everything is there. Raises `CaseError` for a day named twice."""

    format: Literal["zesty-lever-wish/1"] = "zesty-lever-wish/1"
    athlete: Athlete
    days: Annotated[tuple[Day, ...], Meta(min_length=1, max_length=7)]
    stage: Stage = "usual"
    school: School | None = None
    want: dict[str, float] = msgspec.field(default_factory=dict)
    ceilings: Annotated[tuple[DayCeiling, ...], at_most(3)] = ()
    equipment: Annotated[tuple[str, ...], at_most(60)] | None = None
    skill: Annotated[int, Meta(ge=1, le=3)] = 3
    spotter: bool = True
    locked: Annotated[tuple[Locked, ...], at_most(20)] = ()
    weeks: Annotated[int, Meta(ge=1, le=12, extra={"unit": "weeks"})] = 1
    # The week (from 0) before an event, which is a lighter one.
    event_week: Annotated[int, Meta(ge=0, le=11)] | None = None
    deload_last: bool = False

    def __post_init__(self) -> None:
        """Refuse a week that contradicts itself."""
        named = [day.weekday for day in self.days]
        if len(set(named)) < len(named):
            raise CaseError(
                "wrong-value", "days names one weekday twice", key="days", value=str(named)
            )
        for lock in self.locked:
            if lock.weekday not in named:
                raise CaseError(
                    "wrong-value",
                    f"a locked item stands on weekday {lock.weekday}, which is no training day",
                    key="locked",
                    value=lock.weekday,
                    allowed=named,
                )

    @property
    def used_skill(self) -> int:
        """How demanding a lift may be: beginners and those who come back stay below the hardest."""
        who = who_is(self.athlete, Standing(self.stage))
        return min(self.skill, 2) if who.careful else self.skill

    def wish(self) -> Wish:
        """The same for the shortlist. Raises `CaseError` for what can't be wished."""
        return Wish(
            want=self.want,
            ceilings=tuple(Ceiling(c.joint, c.share, c.lift) for c in self.ceilings),
            equipment=None if self.equipment is None else frozenset(self.equipment),
            skill=self.used_skill,
            spotter=self.spotter,
        )


def read_wish(data: Any) -> WeekWish:
    """Read plain data as a wish. Raises `CaseError`."""
    if not isinstance(data, dict) or data.get("format") != WISH_FORMAT:
        raise CaseError(
            "wrong-format", f"this is no wish; its format should be {WISH_FORMAT}", key="format"
        )
    return read(WeekWish, data)
