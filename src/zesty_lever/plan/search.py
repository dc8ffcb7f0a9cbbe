"""The week builder's search: which lift on which day. Arrays over options, no solver, can be given up.

The score is linear in what is chosen: the worth of each item, less for every need that is not met, for sessions
with one direction only, for an uneven lower back, for repeats and for two of a family on one day. Hard rules hold in every step.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from zesty_lever.physics.vectors import Array

# What a missing need costs against an item's worth of some 20 to 40; the other weights are shown with the plan.
UNMET, ONE_DIRECTION, UNEVEN, REPEAT, SAME_FAMILY = 200.0, 12.0, 15.0, 8.0, 6.0
ROUNDS, SEED = 30, 20260927
# So many days lie between two days of heavy work of one pattern, at least.
DAYS_BETWEEN = 2
MOST_A_WEEK, MOST_OF_A_FAMILY, MOST_ON_BACK = 2, 2, 2
Flags = NDArray[np.bool_]


@dataclass(frozen=True)
class Problem:
    """Options as arrays and the days to fill.

    ``worth`` ``(options,)``; ``does`` ``(options, needs)``; ``required`` ``(needs,)`` how often a week;
    ``family`` and ``direction`` ``(options,)`` as numbers; ``on_back`` ``(options,)``; ``back`` ``(options,)``
    what the lower back gets, as a share of the most. ``slots`` how many lifts each day, ``weekdays`` which days;
    ``locked`` pairs (day, option) that stay.
    """

    worth: Array
    does: Flags
    required: NDArray[np.intp]
    family: NDArray[np.intp]
    direction: NDArray[np.intp]
    on_back: Flags
    back: Array
    slots: Sequence[int]
    weekdays: Sequence[int]
    locked: Sequence[tuple[int, int]] = ()
    # Which pattern's heavy work an option is, -1: none; how often a week each pattern may be done heavily.
    heavy: NDArray[np.intp] | None = None
    most_heavy: Sequence[int] = ()

    @property
    def days(self) -> int:
        """How many days."""
        return len(self.slots)

    def neighbours(self, day: int) -> list[int]:
        """Days whose weekday is beside this one's (Sunday beside Monday too)."""
        return [
            other
            for other in range(self.days)
            if other != day and (self.weekdays[other] - self.weekdays[day]) % 7 in (0, 1, 6)
        ]


@dataclass
class Choice:
    """Which options stand on which day, and what of the score follows from that."""

    problem: Problem
    days: list[list[int]] = field(default_factory=list)

    def __post_init__(self) -> None:
        """Begin with what is locked."""
        if not self.days:
            self.days = [[] for _ in range(self.problem.days)]
            for day, option in self.problem.locked:
                self.days[day].append(option)

    def copy(self) -> Choice:
        """The same, to be changed."""
        return Choice(self.problem, [list(day) for day in self.days])

    @property
    def chosen(self) -> list[int]:
        """Every option in it, day by day."""
        return [option for day in self.days for option in day]

    def space(self, day: int) -> bool:
        """Whether a day takes another lift."""
        return len(self.days[day]) < self.problem.slots[day]

    def short(self) -> NDArray[np.intp]:
        """How often each need is still missing, ``(needs,)``."""
        done = self.problem.does[self.chosen].sum(axis=0)
        missing: NDArray[np.intp] = np.maximum(self.problem.required - done, 0)
        return missing

    def score(self) -> float:
        """The whole score."""
        p, chosen = self.problem, self.chosen
        worth = float(p.worth[chosen].sum()) if chosen else 0.0
        single = sum(len({int(p.direction[o]) for o in day}) < 2 for day in self.days)
        backs = [float(p.back[day].sum()) if day else 0.0 for day in self.days]
        uneven = max(backs) - min(backs) if backs else 0.0
        repeats = len(chosen) - len(set(chosen))
        return (
            worth
            - UNMET * float(self.short().sum())
            - ONE_DIRECTION * single
            - UNEVEN * uneven
            - REPEAT * repeats
            - SAME_FAMILY
            * sum(len(day) - len({int(p.family[o]) for o in day}) for day in self.days)
        )

    def allowed(self, day: int) -> Flags:
        """Which options the hard rules let onto a day, ``(options,)``."""
        p, own = self.problem, self.days[day]
        counts = np.bincount(self.chosen, minlength=len(p.worth))
        fits = counts < MOST_A_WEEK
        fits[own] = False
        families = [int(p.family[o]) for o in own]
        full = {f for f in families if families.count(f) >= MOST_OF_A_FAMILY}
        if full:
            fits &= ~np.isin(p.family, list(full))
        carried = [any(p.on_back[o] for o in other) for other in self.days]
        near = any(carried[other] for other in p.neighbours(day))
        if carried[day] or near or sum(carried) >= MOST_ON_BACK:
            fits &= ~p.on_back
        if p.heavy is not None:
            for pattern, most in enumerate(p.most_heavy):
                if not self._may_be_heavy(day, pattern, most, p.heavy):
                    fits &= p.heavy != pattern
        return fits

    def _may_be_heavy(self, day: int, pattern: int, most: int, heavy: NDArray[np.intp]) -> bool:
        """Whether a pattern may be done heavily on a day: so often at most, and two days between."""
        at = [d for d, own in enumerate(self.days) if any(heavy[o] == pattern for o in own)]
        weekdays = self.problem.weekdays
        between = [(weekdays[d] - weekdays[day]) % 7 for d in at]
        return len(at) < most and all(DAYS_BETWEEN < gap < 7 - DAYS_BETWEEN for gap in between)

    def gains(self, day: int) -> Array:
        """What the score gains by each option on a day, ``(options,)``; minus infinity where a rule forbids it."""
        p = self.problem
        lacking = self.short() > 0
        gain: Array = p.worth + UNMET * (p.does @ lacking.astype(float))
        directions = {int(p.direction[o]) for o in self.days[day]}
        if len(directions) == 1:
            gain = gain + ONE_DIRECTION * (p.direction != next(iter(directions)))
        backs = [float(p.back[d].sum()) if d else 0.0 for d in self.days]
        others = [b for other, b in enumerate(backs) if other != day]
        if others:
            own = backs[day] + p.back
            before = max(backs) - min(backs)
            after = np.maximum(max(others), own) - np.minimum(min(others), own)
            gain = gain - UNEVEN * (after - before)
        counts = np.bincount(self.chosen, minlength=len(p.worth))
        gain = gain - REPEAT * (counts > 0)
        gain = gain - SAME_FAMILY * np.isin(p.family, p.family[self.days[day]])
        return np.where(self.allowed(day), gain, -np.inf)

    def free(self) -> list[tuple[int, int]]:
        """Places (day, position) that are not locked."""
        locked = set(self.problem.locked)
        return [
            (day, at)
            for day, own in enumerate(self.days)
            for at, option in enumerate(own)
            if (day, option) not in locked
        ]


def search(
    problem: Problem, rounds: int = ROUNDS, tell: Callable[[float], None] | None = None
) -> Choice:
    """The best choice found: filled greedily, then taken out, refilled and swapped in seeded rounds.

    Every second round is forced to put in something that does what is lacking.
    """
    dice = np.random.default_rng(SEED)
    best = Choice(problem)
    _fill(best)
    _swap(best)
    most = best.score()
    for number in range(rounds):
        tried = best.copy()
        _take_out(tried, dice)
        if number % 2:
            _put_in_what_lacks(tried, dice)
        _fill(tried)
        _swap(tried)
        score = tried.score()
        if score >= most:
            best, most = tried, score
        if tell is not None:
            tell((number + 1) / rounds)
    return best


def _fill(choice: Choice) -> None:
    """Fill every day with what gains most, anywhere."""
    while True:
        found: tuple[float, int, int] | None = None
        for day in range(choice.problem.days):
            if not choice.space(day):
                continue
            gains = choice.gains(day)
            option = int(np.argmax(gains))
            if np.isfinite(gains[option]) and (found is None or gains[option] > found[0]):
                found = (float(gains[option]), day, option)
        if found is None:
            return
        choice.days[found[1]].append(found[2])


def _swap(choice: Choice) -> None:
    """Replace one item by a better one until nothing gains any more."""
    better = True
    while better:
        better = False
        for day, at in choice.free():
            own = choice.days[day].pop(at)
            gains = choice.gains(day)
            option = int(np.argmax(gains))
            if gains[option] > gains[own] + 1e-9:
                better = True
            else:
                option = own
            choice.days[day].insert(at, option)


def _take_out(choice: Choice, dice: np.random.Generator) -> None:
    free = choice.free()
    count = min(int(dice.integers(2, 5)), len(free))
    for day, at in sorted((free[i] for i in dice.permutation(len(free))[:count]), reverse=True):
        del choice.days[day][at]


def _put_in_what_lacks(choice: Choice, dice: np.random.Generator) -> None:
    p = choice.problem
    for need in dice.permutation(np.flatnonzero(choice.short())):
        days = [day for day in range(p.days) if choice.space(day)]
        for day in dice.permutation(days):
            gains = np.where(p.does[:, need], choice.gains(int(day)), -np.inf)
            able = np.flatnonzero(np.isfinite(gains))
            if able.size:
                option = int(dice.choice(able))
                choice.days[int(day)].append(option)
                return
