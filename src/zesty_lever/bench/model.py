"""The bench: athletes, the two set-ups on it, the line-up and what the gym has. Immutable."""

from collections.abc import Mapping
from dataclasses import replace
from types import MappingProxyType
from typing import Annotated, Any, Literal, Self

import msgspec
from msgspec import Meta

from zesty_lever.cases.model import Athlete, Case, Setup
from zesty_lever.choosing.loading import USUAL, TypicalRules, typical_load_kg
from zesty_lever.choosing.scatter import Errors
from zesty_lever.coaching.gym import USUAL_BELLS, Bells, Gym, usual_gym
from zesty_lever.models import Model, at_most, quantity

BENCH_FORMAT = "zesty-lever-bench/1"
MOST_IN_LINEUP, MOST_NOTE, MOST_ATHLETES, MOST_KINDS = 6, 120, 500, 60
# The two places for set-ups.
SLOT_NAMES = ("A", "B")
ErrorName = Literal["angle_deg", "offset_m", "length", "mass", "pressure"]
Index = Annotated[int, Meta(ge=0, le=MOST_ATHLETES)]


class Entry(Setup, frozen=True, kw_only=True):
    """A set-up in the line-up: of which athlete (None: whoever is on the bench), with a note."""

    athlete: Index | None = None
    note: Annotated[str, at_most(MOST_NOTE)] = ""
    pinned: bool = False

    @property
    def setup(self) -> Setup:
        """The set-up alone."""
        return Setup(**{name: getattr(self, name) for name in Setup.__struct_fields__})


class Bench(Model, frozen=True, kw_only=True):
    """Everything that stands on the bench: every change makes a new one."""

    format: Literal["zesty-lever-bench/1"] = "zesty-lever-bench/1"
    athletes: Annotated[tuple[Athlete, ...], Meta(min_length=1, max_length=MOST_ATHLETES)]
    current: Index = 0
    setups: tuple[Setup, Setup]
    editing: Annotated[int, Meta(ge=0, le=1)] = 0
    lineup: Annotated[tuple[Entry, ...], at_most(MOST_IN_LINEUP)] = ()
    lineup_match: str | None = None
    errors: dict[ErrorName, float] = msgspec.field(default_factory=dict)
    # Typical loads by rule of thumb, where they differ from the usual; repetitions a set.
    working_share: Annotated[float, quantity("", 0.3, 1.0)] = USUAL.working
    lift_shares: dict[str, float] = msgspec.field(default_factory=dict)
    reps_a_set: Annotated[int, Meta(ge=1, le=50)] = 8
    # What the gym has, where it differs from a small one: bars by name, pairs of discs by mass (kg),
    # the bar in use, bells.
    gym_bars: tuple[str, ...] | None = None
    gym_pairs: dict[float, int] | None = None
    gym_bar: str = ""
    gym_bells: Bells | None = None
    # Kinds of equipment that the gym lacks.
    gym_missing: Annotated[tuple[str, ...], at_most(MOST_KINDS)] = ()
    # Which athletes of the records these are, in the order of ``athletes`` (texts: beyond 2^53; empty: none).
    athlete_ids: Annotated[tuple[Annotated[str, at_most(19)], ...], at_most(MOST_ATHLETES)] = ()
    # Who writes in the records; rules of advice and of counting where they differ from the usual.
    coach: Annotated[str, at_most(80)] = ""
    advice_rules: dict[str, float] = msgspec.field(default_factory=dict)
    hard_share: Annotated[float, quantity("", 0.3, 1.0)] = 0.7
    reference_lift: str = "back-squat-high-bar"

    @property
    def record_ids(self) -> tuple[int, ...]:
        """Ids in the records of the athletes here, 0 where there is none; as many as there are athletes."""
        known = [int(own) if own.isdigit() else 0 for own in self.athlete_ids]
        return tuple((known + [0] * len(self.athletes))[: len(self.athletes)])

    def with_ids_of(self, other: Self, past: Mapping[bytes, int] = MappingProxyType({})) -> Self:
        """The bench with the ids that another one knows of athletes of the same name; its own stay.

        ``past``: ids of the very same athletes at other times, by `body_key`. No two get the same.
        """
        if all(self.record_ids):
            return self
        known = {
            a.name: own for a, own in zip(other.athletes, other.record_ids, strict=True) if own
        }
        taken = set(self.record_ids)
        ids = []
        for athlete, own in zip(self.athletes, self.record_ids, strict=True):
            found = own or known.get(athlete.name, 0) or past.get(body_key(athlete), 0)
            ids.append(own or (0 if found in taken else found))
            taken.add(ids[-1])
        kept = tuple(str(own) if own else "" for own in ids)
        return self if not any(ids) else self.changed(athlete_ids=kept)

    @property
    def ids_by_body(self) -> dict[bytes, int]:
        """Ids in the records by `body_key`."""
        known = zip(self.athletes, self.record_ids, strict=True)
        return {body_key(athlete): own for athlete, own in known if own}

    @property
    def initials(self) -> str:
        """Initials of who writes."""
        return "".join(word[0] for word in self.coach.split()[:3]).upper()

    @property
    def rules(self) -> TypicalRules:
        """Rules of thumb for typical loads."""
        return TypicalRules(self.working_share, self.lift_shares, self.gym)

    @property
    def gym(self) -> Gym:
        """What bars and discs are at hand."""
        usual = usual_gym()
        return Gym(
            usual.bars if self.gym_bars is None else self.gym_bars,
            usual.pairs if self.gym_pairs is None else self.gym_pairs,
            self.gym_bar,
            self.gym_bells or USUAL_BELLS,
        )

    @property
    def sizes(self) -> Errors:
        """Errors of measuring that intervals rest on."""
        known: dict[str, Any] = {str(k): v for k, v in self.errors.items()}
        return replace(Errors(), **known)

    @property
    def athlete(self) -> Athlete:
        """The athlete on the bench."""
        return self.athletes[self.current]

    @property
    def setup(self) -> Setup:
        """The set-up that is edited."""
        return self.setups[self.editing]

    def case(self, slot: int) -> Case:
        """The case of one of the two set-ups."""
        return self.setups[slot].case_for(self.athlete)

    def entry_case(self, entry: Entry) -> Case:
        """The case of one entry of the line-up."""
        whose = self.athlete if entry.athlete is None else self.athletes[entry.athlete]
        return entry.setup.case_for(whose)

    def with_athlete(self, athlete: Athlete) -> Self:
        """Replace the current athlete."""
        athletes = list(self.athletes)
        athletes[self.current] = athlete
        return self.changed(athletes=tuple(athletes))

    def with_setup(self, slot: int, setup: Setup) -> Self:
        """Replace one set-up."""
        setups = (setup, self.setups[1]) if slot == 0 else (self.setups[0], setup)
        return self.changed(setups=setups)


def body_key(athlete: Athlete) -> bytes:
    """Name and body of an athlete, to know the very same one by."""
    return msgspec.json.encode(athlete)


def first_bench() -> Bench:
    """What a new user sees: an athlete to be filled in and a comparison already laid out, both light."""
    someone = Athlete(name="New athlete", height_m=1.75, mass_kg=75.0, sex="male")
    setups = []
    for name in ("back-squat-high-bar", "front-squat"):
        light = typical_load_kg(Case(athlete=someone, variation=name))[0]
        setups.append(Setup(variation=name, load_kg=light))
    return Bench(athletes=(someone,), setups=(setups[0], setups[1]))
