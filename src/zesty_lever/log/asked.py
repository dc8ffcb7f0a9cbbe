"""What advice rests on, and what it says: doses, visits, the question, the answer."""

from __future__ import annotations

import datetime as dt
from collections.abc import Mapping, Sequence
from dataclasses import field
from typing import Literal

from zesty_lever.frozen import dataclass
from zesty_lever.log.entry import Entry, Pain, Stage
from zesty_lever.log.rules import Rules, usual_rules
from zesty_lever.plan.document import Item, Style

Action = Literal["stop", "lighter", "hold", "up", "start"]


@dataclass(frozen=True)
class Dose:
    """What was wanted of a lift: repetitions, seconds, what should be left, in which style."""

    reps: tuple[int, int] = (5, 8)
    seconds: float | None = None
    effort_left: float | None = None
    style: Style = "straight"
    mini_reps: int = 3
    minis: int = 4
    step_kg: float | None = None

    @classmethod
    def of(cls, item: Item, style: Style) -> Dose:
        """The dose of a planned item."""
        usual = cls()
        return cls(
            item.reps,
            item.seconds,
            item.effort_left,
            style,
            item.mini_reps or usual.mini_reps,
            item.minis or usual.minis,
            item.step_kg,
        )


@dataclass(frozen=True)
class Visit:
    """One session's sets of this lift, in order; ``before``: pain by place before the session, where it was asked."""

    day: int
    sets: tuple[Entry, ...]
    before: Mapping[str, int] = field(default_factory=dict)

    @property
    def load_kg(self) -> float:
        """The load of the session: the heaviest."""
        return max(entry.load_kg for entry in self.sets)

    @property
    def pains(self) -> list[tuple[Entry, Pain]]:
        """Pains in its sets that no coach has cleared."""
        return [(e, p) for e in self.sets for p in e.pains if p.cleared_day is None]


@dataclass(frozen=True)
class OpenStop:
    """A stop in another lift (empty: of a whole session): where, when; ``here`` whether it stops this lift too."""

    place: str
    lift: str
    day: int
    here: bool


@dataclass(frozen=True)
class Asked:
    """All that advice rests on. ``loads_kg``: what the gym makes for this lift, lightest first (empty: no load)."""

    dose: Dose
    visits: Sequence[Visit]
    today: int
    loads_kg: Sequence[float] = ()
    stage: Stage = "usual"
    stops: Sequence[OpenStop] = ()
    ceiling_kg: float | None = None
    start_kg: float | None = None
    start_rule: str = ""
    rules: Rules = field(default_factory=usual_rules)


@dataclass(frozen=True)
class Advice:
    """What to do next: ``load_kg`` None where there is none to give. ``reps``, ``seconds``, ``minis``: the next target.

    ``entries`` are the ids it rests on; ``lighter_variation``: nothing lighter can be made;
    ``places``: what hurt, where a stop stands.
    """

    action: Action
    load_kg: float | None
    words: tuple[str, ...]
    entries: tuple[int, ...] = ()
    reps: tuple[int, int] | None = None
    seconds: float | None = None
    minis: int | None = None
    load_up_kg: float | None = None
    side_first: str = ""
    lighter_variation: bool = False
    places: tuple[str, ...] = ()


@dataclass(frozen=True)
class Decision:
    """What was done instead of what was advised; ``advised_kg`` None: a stop, or nothing to give."""

    day: int
    advised_kg: float | None
    taken_kg: float
    by: str


def visits_of(
    entries: Sequence[Entry], name: str, before: Mapping[int, Mapping[str, int]] | None = None
) -> list[Visit]:
    """An athlete's entries of one lift by session, oldest first; ``before``: pain before each session."""
    by_session: dict[int, list[Entry]] = {}
    for entry in entries:
        if entry.name == name and not entry.withdrawn:
            by_session.setdefault(entry.session, []).append(entry)
    visits = [
        Visit(own[0].day, tuple(own), (before or {}).get(session, {}))
        for session, own in by_session.items()
    ]
    return sorted(visits, key=lambda visit: visit.day)


def made_below(loads_kg: Sequence[float], most: float) -> float | None:
    """The heaviest load that the gym makes and that is no heavier; None where there is none."""
    return max((kg for kg in loads_kg if kg <= most + 1e-9), default=None)


def reps_wanted(asked: Asked) -> tuple[int, int] | None:
    """The range that the dose asks for; None where it counts seconds."""
    dose = asked.dose
    return None if dose.style == "holds" or dose.seconds is not None else dose.reps


def wanted_reps(asked: Asked) -> int:
    """The fewest repetitions that a set should have."""
    if asked.dose.style == "clusters":
        return asked.dose.mini_reps * asked.dose.minis
    return asked.dose.reps[0]


def day_words(day: int) -> str:
    """A day as a coach reads it."""
    date = dt.date.fromordinal(day)
    return f"{date.day} {date:%B}"
