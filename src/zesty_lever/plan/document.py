"""The plan document: weeks, sessions, blocks, items; typed, with unit and range at every number.

A template holds no athlete, no kilograms and no day; starting it makes an instance by copy.
"""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from typing import Annotated, Any, Literal, get_args

import msgspec
from msgspec import Meta

from zesty_lever.cases.model import Load, Moving, Setup, Waiting
from zesty_lever.models import Model, at_most, quantity, read
from zesty_lever.problems import CaseError

PLAN_FORMAT = "zesty-lever-plan/1"
NEWEST_VERSION = 1
Style = Literal[
    "straight",
    "paired-minutes",
    "clusters",
    "rest-pause",
    "constant-tension",
    "paused",
    "one-and-a-quarter",
    "holds",
    "two-load",
]
STYLES: tuple[Style, ...] = get_args(Style)
BlockKind = Literal["warm-up", "main", "assistance", "finisher", "cool-down"]
BLOCK_KINDS: tuple[BlockKind, ...] = get_args(BlockKind)
LoadRule = Literal["kg", "share-of-best", "typical", "advised", "by-feel"]
LOAD_RULES: tuple[LoadRule, ...] = get_args(LoadRule)
DoseSide = Literal["both", "left", "right", "each"]
Reps = Annotated[int, Meta(ge=1, le=100, extra={"unit": "repetitions"})]
# Repetitions in reserve, half steps: 0 nothing left, 5 five or more.
Left = Annotated[float, quantity("repetitions in reserve", 0.0, 5.0)]
Rest = Annotated[float, quantity("s", 0.0, 900.0)]
Held = Annotated[float, quantity("s", 1.0, 600.0)]
Percent = Annotated[float, quantity("", 0.2, 1.1)]
Tempo = tuple[Moving, Waiting, Moving, Waiting]
MOST_WEEKS, MOST_SESSIONS, MOST_BLOCKS, MOST_ITEMS = 60, 14, 12, 30
WEEKDAYS = ("Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday")


class Item(Model, frozen=True, kw_only=True):
    """One exercise with its dose: a set-up (its load stands here, not there) or a drill of the list.

    ``key`` names it within its session, so that the log can point to it. ``reps`` is a range. ``seconds`` is
    how long a hold or a timed drill lasts. ``effort_left`` is what should be left in reserve. ``why`` are the
    week builder's reasons. Of the styles: ``mini_reps``, ``minis`` and ``mini_rest_s`` (clusters,
    rest-pause), ``minutes``, ``odd_drill`` and ``step_kg`` (paired minutes), ``load_up_kg`` (two loads),
    ``pause_s`` (paused). Raises `CaseError` where there is neither set-up nor drill, or a range runs backwards.
    """

    key: Annotated[str, at_most(24)] = ""
    setup: Setup | None = None
    drill: Annotated[str, at_most(60)] = ""
    sets: Annotated[int, Meta(ge=1, le=20, extra={"unit": "sets"})] = 3
    reps: tuple[Reps, Reps] = (5, 8)
    seconds: Held | None = None
    load_rule: LoadRule = "advised"
    load_kg: Load | None = None
    share: Percent | None = None
    load_up_kg: Load | None = None
    tempo_s: Tempo | None = None
    pause_s: Annotated[float, quantity("s", 0.5, 20.0)] | None = None
    rest_s: Rest = 120.0
    side: DoseSide = "both"
    effort_left: Left | None = None
    note: Annotated[str, at_most(300)] = ""
    locked: bool = False
    # One heavy set before lighter ones of the same lift: it goes its own way.
    top_set: bool = False
    # The range as it was planned, where a day's target differs from it: what is the same work goes by this.
    planned_reps: tuple[Reps, Reps] | None = None
    why: Annotated[tuple[Annotated[str, at_most(300)], ...], at_most(12)] = ()
    mini_reps: Annotated[int, Meta(ge=1, le=20, extra={"unit": "repetitions"})] | None = None
    minis: Annotated[int, Meta(ge=1, le=20, extra={"unit": "mini-sets"})] | None = None
    mini_rest_s: Annotated[float, quantity("s", 1.0, 120.0)] | None = None
    minutes: Annotated[int, Meta(ge=2, le=60, extra={"unit": "min"})] | None = None
    odd_drill: Annotated[str, at_most(60)] = ""
    step_kg: Annotated[float, quantity("kg", 0.0, 50.0)] | None = None

    def __post_init__(self) -> None:
        """Refuse what can't be done."""
        if (self.setup is None) == (not self.drill):
            raise CaseError(
                "wrong-value",
                "an item has either a setup or a drill",
                key="setup",
                allowed=["setup", "drill"],
            )
        if self.reps[0] > self.reps[1]:
            raise CaseError(
                "out-of-range",
                f"reps are {self.reps[0]} to {self.reps[1]}; the second can't be the smaller one",
                key="reps",
                value=self.reps[1],
                allowed=[self.reps[0], 100],
            )
        if self.effort_left is not None and (2.0 * self.effort_left) % 1.0:
            raise CaseError(
                "out-of-range",
                f"effort_left is {self.effort_left:g}; allowed is 0 to 5 in half steps",
                key="effort_left",
                value=self.effort_left,
                unit="repetitions in reserve",
                allowed=[0, 5],
            )

    @property
    def name(self) -> str:
        """Id of the variation or the drill."""
        return self.drill if self.setup is None else self.setup.variation

    @property
    def sides(self) -> tuple[str, ...]:
        """The sides that are worked one after the other."""
        return ("left", "right") if self.side == "each" else (self.side,)


class Block(Model, frozen=True, kw_only=True):
    """Items that belong together, done in one style, so many rounds.

    More than one round: the items take turns, each with its sets in every round.
    """

    kind: BlockKind = "main"
    style: Style = "straight"
    rounds: Annotated[int, Meta(ge=1, le=10, extra={"unit": "rounds"})] = 1
    items: Annotated[tuple[Item, ...], at_most(MOST_ITEMS)] = ()


class Session(Model, frozen=True, kw_only=True):
    """One day's work: ``weekday`` 0 is Monday; ``key`` names it within its plan."""

    key: Annotated[str, at_most(24)] = ""
    name: Annotated[str, at_most(80)] = ""
    weekday: Annotated[int, Meta(ge=0, le=6, extra={"unit": "day of the week from 0"})] = 0
    minutes: Annotated[int, Meta(ge=10, le=240, extra={"unit": "min"})] = 60
    # Planned lighter: what is advised is taken times 0.9.
    deload: bool = False
    blocks: Annotated[tuple[Block, ...], at_most(MOST_BLOCKS)] = ()
    note: Annotated[str, at_most(500)] = ""

    def listed(self) -> Iterator[tuple[Block, Item]]:
        """Every item with its block, in order."""
        for block in self.blocks:
            for item in block.items:
                yield block, item

    def item(self, key: str) -> tuple[Block, Item] | None:
        """An item by its key."""
        return next(((b, i) for b, i in self.listed() if i.key == key), None)


class Week(Model, frozen=True, kw_only=True):
    """One week; ``deload``: planned lighter."""

    deload: bool = False
    note: Annotated[str, at_most(300)] = ""
    sessions: Annotated[tuple[Session, ...], at_most(MOST_SESSIONS)] = ()


class Origin(Model, frozen=True, kw_only=True):
    """The template that an instance was copied from, and its version then."""

    template: Annotated[str, at_most(80)]
    version: Annotated[int, Meta(ge=1, le=1_000_000)]


class Plan(Model, frozen=True, kw_only=True):
    """A whole plan. ``origin``: what it was copied from; ``unmet``: what the builder could not give, and why."""

    format: Literal["zesty-lever-plan/1"] = "zesty-lever-plan/1"
    name: Annotated[str, at_most(80)] = ""
    note: Annotated[str, at_most(1000)] = ""
    weeks: Annotated[tuple[Week, ...], at_most(MOST_WEEKS)] = ()
    origin: Origin | None = None
    unmet: Annotated[tuple[Annotated[str, at_most(300)], ...], at_most(40)] = ()

    def sessions(self) -> Iterator[tuple[int, Session]]:
        """Every session with its week's number, from 0."""
        for number, week in enumerate(self.weeks):
            for session in week.sessions:
                yield number, session


def read_plan(data: Any, where: str = "plan") -> Plan:
    """Read plain data as a plan. Raises `CaseError`; for a newer version with the code ``newer-version``."""
    written = str(data.get("format")) if isinstance(data, dict) else ""
    name, _, version = written.rpartition("/")
    ours = name == PLAN_FORMAT.rpartition("/")[0] and version.isdigit() and len(version) < 9
    if ours and int(version) > NEWEST_VERSION:
        raise CaseError(
            "newer-version",
            f"{where} was written by a newer version ({written}); this one reads {PLAN_FORMAT}",
            key="format",
            value=written,
            allowed=[PLAN_FORMAT],
        )
    return keyed(read(Plan, data))


def plan_json(plan: Plan) -> dict[str, Any]:
    """A plan as plain data, without what stands at its default."""
    return {"format": PLAN_FORMAT, **bare(plan)}


def bare(model: Model) -> dict[str, Any]:
    """A model as plain data, without what stands at its default (optional keys only)."""
    data: dict[str, Any] = {}
    for field in msgspec.structs.fields(type(model)):
        value = getattr(model, field.name)
        if not field.required and value == _default_of(field):
            continue
        data[field.encode_name] = _bare(value)
    return data


def _default_of(field: Any) -> Any:
    made = field.default_factory
    return field.default if made is msgspec.NODEFAULT else made()


def _bare(value: Any) -> Any:
    if isinstance(value, Model):
        return bare(value)
    if isinstance(value, list | tuple):
        return [_bare(item) for item in value]
    return msgspec.to_builtins(value)


def read_plan_file(path: Path) -> Plan:
    """Read a plan file. Raises `CaseError`, `OSError`."""
    from zesty_lever.cases.parse import parse_json
    from zesty_lever.io.json_files import read_bounded

    return read_plan(parse_json(read_bounded(path, "a plan", 20_000_000), path.name), path.name)


def keyed(plan: Plan) -> Plan:
    """The plan with a key of its own for every session, and for every item within its session."""
    taken = {s.key for _, s in plan.sessions() if s.key}
    weeks, seen = [], set[str]()
    for week in plan.weeks:
        sessions = []
        for session in week.sessions:
            key = session.key
            if not key or key in seen:
                key = _fresh("s", taken | seen)
            seen.add(key)
            sessions.append(keyed_session(session.changed(key=key)))
        weeks.append(week.changed(sessions=tuple(sessions)))
    return plan.changed(weeks=tuple(weeks))


def keyed_session(session: Session) -> Session:
    """The session with a key of its own for every item."""
    taken = {item.key for _, item in session.listed() if item.key}
    seen: set[str] = set()
    blocks = []
    for block in session.blocks:
        items = []
        for item in block.items:
            key = item.key
            if not key or key in seen:
                key = _fresh("i", taken | seen)
            seen.add(key)
            items.append(item if item.key == key else item.changed(key=key))
        blocks.append(block.changed(items=tuple(items)))
    return session.changed(blocks=tuple(blocks))


def _fresh(letter: str, taken: set[str]) -> str:
    number = 1
    while f"{letter}{number}" in taken:
        number += 1
    return f"{letter}{number}"
