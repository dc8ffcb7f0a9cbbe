"""Who lifts: age, training years and stage of an athlete, and what they change of loads, doses and lists.

Common practice, no source; every number stands in ``data/plan/rules.toml``. The cautious answer is the default: where
the age is not known and the build is a child's, the athlete is taken for young.
"""

from __future__ import annotations

from dataclasses import field
from typing import Literal

from zesty_lever import clock
from zesty_lever.cases.model import Athlete, Stage
from zesty_lever.coaching.numbers import Rules, usual_rules
from zesty_lever.exercises.catalogue import Variation
from zesty_lever.frozen import dataclass
from zesty_lever.messages import Message, Share, message

# What beginners and those who come back do; what the young don't.
SIMPLE_STYLES = ("straight", "holds", "paired-minutes")
NOT_FOR_THE_YOUNG = ("paused", "clusters", "rest-pause")
DEMANDING = 3
# Lifts that need a jump of balance.
BALANCE = frozenset({"step-up-high", "single-leg-squat-to-box", "curtsy-lunge"})


Level = Literal["clinician", "stop", "sore"]


@dataclass(frozen=True)
class Hurt:
    """A place that hurts and what stands of it: since when, in which lift, what that lift asked of the place.

    ``level``: ``clinician`` (no loaded work for the place), ``stop`` (this lift; others only far below), ``sore``
    (no more load). ``asked`` is what the stopped lift asked of the place by measure; None: not computed.
    """

    place: str
    side: str
    level: Level
    score: int
    day: int
    lift: str = ""
    asked: tuple[tuple[str, float], ...] | None = None


@dataclass(frozen=True)
class Standing:
    """How an athlete stands on a day: stage, what hurts, how often each lift was logged; ``today`` None: the clock's.

    ``done`` are variations with the number of sessions that had them, ``own`` with their last loads, kg.
    """

    stage: Stage = "usual"
    hurts: tuple[Hurt, ...] = ()
    done: tuple[tuple[str, int], ...] = ()
    own: tuple[tuple[str, float], ...] = ()
    today: int | None = None
    rules: Rules = field(default_factory=usual_rules)

    @property
    def day(self) -> int:
        """The day, proleptic ordinal."""
        return clock.today() if self.today is None else self.today

    def last_kg(self, name: str) -> float | None:
        """The last load of a lift, kg; None where none is known."""
        return dict(self.own).get(name)

    def times(self, name: str) -> int:
        """In how many sessions a lift was done."""
        return dict(self.done).get(name, 0)


@dataclass(frozen=True)
class Who:
    """What age, training and stage make of an athlete.

    ``young``: under 16, or a child's build of unknown age. ``late``: over 60 with little training.
    """

    young: bool
    beginner: bool
    returning: bool
    late: bool
    age_known: bool
    rules: Rules

    @property
    def careful(self) -> bool:
        """Whether anything of it changes loads."""
        return self.young or self.beginner or self.returning or self.late

    @property
    def first_share(self) -> float:
        """Share of what the rule gives that a first load is: the smallest of those that hold."""
        found = [
            share
            for holds, share in (
                (self.beginner, self.rules.beginner_share),
                (self.returning, self.rules.return_share),
                (self.late, self.rules.older_share),
            )
            if holds
        ]
        return min(found, default=1.0)

    @property
    def good_sessions(self) -> int:
        """How many good sessions running before more."""
        slow = self.careful
        return int(self.rules.good_sessions_beginner if slow else self.rules.good_sessions)

    def left(self, wanted: float | None) -> float | None:
        """Repetitions that should be left: at least three for the young and for late beginners."""
        if not (self.young or self.late):
            return wanted
        return max(wanted or 0.0, self.rules.careful_left)

    def reps(self, wanted: tuple[int, int]) -> tuple[int, int]:
        """A range of repetitions: the young never below eight."""
        least = int(self.rules.young_reps)
        if not self.young or wanted[0] >= least:
            return wanted
        return least, max(wanted[1], least + 2)

    def may_style(self, style: str) -> bool:
        """Whether a style of sets is for them."""
        if self.young and style in NOT_FOR_THE_YOUNG:
            return False
        return not (self.beginner or self.returning) or style in SIMPLE_STYLES

    def most_in_hands_kg(self, mass_kg: float) -> float | None:
        """The most that a first load may be, kg; None: no such limit."""
        return self.rules.young_in_hands * mass_kg if self.young else None

    def why_not(self, entry: Variation, standing: Standing) -> Message | None:
        """Why a lift is not for them yet; None where it is."""
        if not self.young or entry.skill < DEMANDING:
            return None
        sessions = max(
            (standing.times(name) for name in simpler_kin(entry)),
            default=0,
        )
        if sessions >= self.rules.young_sessions:
            return None
        return message("who.young_skill", count=int(self.rules.young_sessions), done=sessions)

    @property
    def slowly(self) -> tuple[Message, ...]:
        """The same for a lift that is known: it goes on more slowly."""
        kinds = {
            "young": self.young,
            "beginner": self.beginner,
            "returning": self.returning,
            "late": self.late,
        }
        return tuple(message(f"who.slow_{kind}") for kind, holds in kinds.items() if holds)

    @property
    def says(self) -> tuple[Message, ...]:
        """One sentence for each thing that holds, for a list, a week or an answer that it changed."""
        found = []
        if self.young:
            unknown = "" if self.age_known else "_unknown"
            found.append(message(f"who.young{unknown}", share=Share(self.rules.young_in_hands)))
        if self.beginner:
            found.append(message("who.beginner", share=Share(self.rules.beginner_share)))
        if self.returning:
            found.append(message("who.returning", share=Share(self.rules.return_share)))
        if self.late:
            found.append(message("who.late", share=Share(self.rules.older_share)))
        return tuple(found)


def simpler_kin(entry: Variation) -> list[str]:
    """Lifts of the same pattern that ask for less skill."""
    from zesty_lever.exercises.catalogue import catalogue

    own = pattern_of(entry)
    return [
        other.id
        for other in catalogue().values()
        if pattern_of(other) == own and other.skill < entry.skill
    ]


def pattern_of(entry: Variation) -> str:
    """What a coach calls the movement: squat, one-leg, floor-pull, hinge, bridge."""
    if entry.from_floor:
        return "floor-pull"
    if entry.lies:
        return "bridge"
    return {"squat": "squat", "lunge": "one-leg", "hinge": "hinge"}[entry.family]


def tells_bests(athlete: Athlete) -> bool:
    """Whether an expected best, or a share of one, may be told of an athlete: never of the young."""
    return not who_is(athlete, Standing()).young


def who_is(athlete: Athlete, standing: Standing) -> Who:
    """What age, training years and stage say of an athlete on a day."""
    rules = standing.rules
    age, training = athlete.age_on(standing.day), athlete.training_years
    small = athlete.height_m < rules.small_height and athlete.mass_kg < rules.small_mass
    young = small and not athlete.known_bests if age is None else age < rules.young_years
    new = training is not None and training < rules.new_years
    late = age is not None and age > rules.older_years
    # Of unknown training: little, unless the coach calls them advanced.
    little = standing.stage != "advanced" if training is None else training < rules.older_training
    return Who(
        young,
        standing.stage == "beginner" or new,
        standing.stage == "back-from-injury",
        late and little,
        age is not None,
        rules,
    )
