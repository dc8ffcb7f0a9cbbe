"""What advice rests on, and what it says: what was done and felt, what is planned, the question, the answer."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import field
from typing import Literal

from zesty_lever.cases.model import Athlete, Setup, Stage
from zesty_lever.choosing.loading import USUAL, TypicalRules
from zesty_lever.coaching.numbers import Rules, usual_rules
from zesty_lever.coaching.who import Hurt, Who
from zesty_lever.frozen import dataclass
from zesty_lever.log.entry import DoneSet, Moment
from zesty_lever.messages import Measured, Message
from zesty_lever.plan.document import Item, Style

Action = Literal["stop", "lighter", "hold", "up", "start", "choose"]
MOST_INSTEAD = 3


@dataclass(frozen=True)
class Dose:
    """What was wanted of a lift: sets, repetitions, seconds, what should be left, in which style.

    ``sets`` None: as many as were done. ``top_set``: one heavy set of a visit that has lighter ones after it (None: not told).
    ``planned_reps``: the range of the plan, where the day's target differs from it.
    """

    reps: tuple[int, int] = (5, 8)
    seconds: float | None = None
    effort_left: float | None = None
    style: Style = "straight"
    mini_reps: int = 3
    minis: int = 4
    step_kg: float | None = None
    sets: int | None = None
    top_set: bool | None = None
    planned_reps: tuple[int, int] | None = None

    @classmethod
    def of(cls, item: Item, style: Style, rounds: int = 1) -> Dose:
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
            item.sets * rounds * len(item.sides),
            item.top_set,
            item.planned_reps,
        )

    @property
    def range(self) -> tuple[int, int]:
        """The range by which work is the same."""
        return self.planned_reps or self.reps

    @property
    def held(self) -> bool:
        """Whether seconds count."""
        return self.style == "holds" or self.seconds is not None

    @property
    def least_reps(self) -> int:
        """The fewest repetitions that a set should have."""
        return self.mini_reps * self.minis if self.style == "clusters" else self.reps[0]


@dataclass(frozen=True)
class Felt:
    """A pain that was told: where, which side, 0 to 10, when. ``cleared``: a clinician's word let the athlete go on.

    ``place`` may be any words. ``numb``: numb, tingling or giving way.
    """

    place: str
    side: str = "both"
    score: int = 0
    moment: Moment = "during"
    numb: bool = False
    cleared: bool = False


@dataclass(frozen=True)
class SetDone:
    """One set of the past: what was done, what was asked of it that day (None: nothing is kept), what was felt.

    ``key`` names it for whoever asked: an entry's id, or its number.
    """

    key: int
    done: DoneSet
    asked: Dose | None = None
    felt: tuple[Felt, ...] = ()


@dataclass(frozen=True)
class PastSession:
    """One session of the past in the order in which its sets were done; ``felt``: pains of no one set.

    ``rating``: how hard it felt, 0 to 10. ``deload``: it was planned lighter, so nothing is judged by it.
    """

    key: int
    day: int
    sets: tuple[SetDone, ...] = ()
    felt: tuple[Felt, ...] = ()
    rating: int | None = None
    deload: bool = False


@dataclass(frozen=True)
class Cleared:
    """A clinician's word on a place, entered by a coach on a day."""

    place: str
    side: str
    day: int
    by: str = ""


@dataclass(frozen=True)
class Planned:
    """What is planned: a set-up (its load is what is asked for) and a dose; ``start``: the load of a first time, where the plan says one."""

    setup: Setup
    dose: Dose
    worked: str = "both"
    start: tuple[float, str] | None = None


@dataclass(frozen=True)
class Question:
    """All that advice rests on: who, what is planned, what was done, on which day (proleptic ordinal)."""

    athlete: Athlete
    planned: Planned
    sessions: Sequence[PastSession]
    today: int
    stage: Stage = "usual"
    cleared: Sequence[Cleared] = ()
    typical: TypicalRules = USUAL
    rules: Rules = field(default_factory=usual_rules)
    ceiling_kg: float | None = None


@dataclass(frozen=True)
class Visit:
    """One session's sets of one track, judged by the dose of their day.

    ``pains``: what was felt in them or after the session at a place that the lift loads. ``whole``: every set of
    the track in it had this load.
    """

    session: int
    day: int
    sets: tuple[SetDone, ...]
    pains: tuple[Felt, ...] = ()
    whole: bool = True

    @property
    def load_kg(self) -> float:
        """The load of the visit: the heaviest of sets that belong together."""
        return max(one.done.load_kg for one in self.sets)

    @property
    def dose(self) -> Dose | None:
        """What was asked of it that day; None where nothing is kept."""
        return self.sets[0].asked

    @property
    def keys(self) -> tuple[int, ...]:
        """Keys of its sets."""
        return tuple(one.key for one in self.sets)


@dataclass(frozen=True)
class Asked:
    """What the rules of one track ask. ``loads_kg``: what the gym makes for this lift, lightest first (empty: no load).

    ``away_days``: since anything of this pattern was done. ``watched``: why no more load is given at all.
    """

    dose: Dose
    visits: Sequence[Visit]
    today: int
    who: Who
    loads_kg: Sequence[float] = ()
    away_days: int = 0
    came_back: int | None = None
    watched: tuple[Message, ...] = ()
    cleared_pains: tuple[Message, ...] = ()
    rules: Rules = field(default_factory=usual_rules)

    @property
    def last(self) -> Visit:
        """The newest visit."""
        return self.visits[-1]


@dataclass(frozen=True)
class Instead:
    """Another way: a lift, its load (None: none to give), why."""

    variation: str
    load_kg: float | None
    why: Message


@dataclass(frozen=True)
class LighterWeek:
    """A lighter week that is proposed: sets and load times so much, and why."""

    sets: float
    load: float
    why: Message


@dataclass(frozen=True)
class Advice:
    """What to do next: ``load_kg`` None where there is none to give. ``reps``, ``seconds``, ``minis``: the next target.

    ``says``: why. ``entries``: keys of the sets it rests on. ``computed``: what of a sore place was compared, with the
    place. ``places``: what hurts, where a stop stands. ``lighter_variation``: nothing lighter can be made.
    ``ramp``: loads and repetitions before the first working set.
    """

    action: Action
    load_kg: float | None
    says: tuple[Message, ...]
    entries: tuple[int, ...] = ()
    reps: tuple[int, int] | None = None
    seconds: float | None = None
    minis: int | None = None
    load_up_kg: float | None = None
    side_first: str = ""
    lighter_variation: bool = False
    places: tuple[str, ...] = ()
    sets: int | None = None
    ramp: tuple[tuple[float, int], ...] = ()
    see_clinician: bool = False
    computed: tuple[tuple[Hurt, Measured], ...] = ()
    instead: tuple[Instead, ...] = ()
    lighter_week: LighterWeek | None = None


@dataclass(frozen=True)
class Decision:
    """What was done instead of what was advised; ``advised_kg`` None: a stop, or nothing to give."""

    day: int
    advised_kg: float | None
    taken_kg: float
    by: str


def made_below(loads_kg: Sequence[float], most: float) -> float | None:
    """The heaviest load that the gym makes and that is no heavier; None where there is none."""
    return max((kg for kg in loads_kg if kg <= most + 1e-9), default=None)


def reps_wanted(dose: Dose) -> tuple[int, int] | None:
    """The range that the dose asks for; None where it counts seconds."""
    return None if dose.held else dose.reps


def for_dose(
    action: Action,
    load_kg: float | None,
    says: Sequence[Message],
    dose: Dose,
    entries: Sequence[int] = (),
) -> Advice:
    """Advice with the target of a dose."""
    return Advice(
        action,
        load_kg,
        tuple(says),
        tuple(entries),
        reps_wanted(dose),
        dose.seconds,
        dose.minis if dose.style == "clusters" else None,
        sets=dose.sets,
    )


def once(says: Sequence[Message]) -> list[Message]:
    """Each message once, in their order."""
    return list({repr(said): said for said in says}.values())
