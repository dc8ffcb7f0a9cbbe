"""A session as timed steps: work, rest, mini-rest, minute marks; pure, without a clock."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Literal

from zesty_lever.cases.model import Setup
from zesty_lever.frozen import dataclass
from zesty_lever.plan.document import Block, Item, Session

Kind = Literal["work", "rest", "mini-rest", "minute"]
TURN_S, USUAL_MINI_REST_S, DRILL_REP_S = 15.0, 10.0, 3.0
MINUTE_S = 60.0


@dataclass(frozen=True)
class Step:
    """One step: ``seconds`` is how long a rest, a hold or a minute lasts (None: until it is done).

    ``number`` counts sets of the item from 1 of ``of``; ``mini`` mini-sets of ``minis``. ``logs``: doing it is one
    entry of the log. ``at_s``: when a minute begins, from the block's start. ``drill``: what is done instead of the
    item (the odd minutes).
    """

    kind: Kind
    block: int
    item: Item
    number: int = 1
    of: int = 1
    side: str = "both"
    seconds: float | None = None
    mini: int = 1
    minis: int = 1
    logs: bool = False
    at_s: float | None = None
    drill: str = ""
    add_kg: float = 0.0

    @property
    def key(self) -> tuple[str, int, str]:
        """What an entry of the log has in common with it: item, number, side."""
        return self.item.key, self.number, self.side


def steps_of(session: Session) -> list[Step]:
    """Every step of a session in order; the rest behind the very last set is left out."""
    found: list[Step] = []
    for at, block in enumerate(session.blocks):
        found += _block(at, block)
    while found and found[-1].kind in ("rest", "mini-rest"):
        found.pop()
    return found


def _block(at: int, block: Block) -> Iterator[Step]:
    if block.style == "paired-minutes":
        for item in block.items:
            yield from _minutes(at, item)
        return
    for turn in range(block.rounds):
        for item in block.items:
            for number in range(turn * item.sets + 1, (turn + 1) * item.sets + 1):
                yield from _set(at, block, item, number, item.sets * block.rounds)


def _set(at: int, block: Block, item: Item, number: int, of: int) -> Iterator[Step]:
    sides = item.sides
    for place, side in enumerate(sides):
        yield from _work(at, block, item, number, of, side)
        if place + 1 < len(sides):
            yield Step("rest", at, item, number, of, side, min(TURN_S, item.rest_s))
    if item.rest_s > 0.0:
        yield Step("rest", at, item, number, of, sides[-1], item.rest_s)


def _work(at: int, block: Block, item: Item, number: int, of: int, side: str) -> Iterator[Step]:
    minis = (item.minis or 1) if block.style == "clusters" else 1
    held = item.seconds if block.style == "holds" or item.setup is None else None
    for mini in range(1, minis + 1):
        last = mini == minis
        yield Step("work", at, item, number, of, side, held, mini, minis, logs=last)
        if not last:
            rest = item.mini_rest_s or USUAL_MINI_REST_S
            yield Step("mini-rest", at, item, number, of, side, rest, mini, minis)


def _minutes(at: int, item: Item) -> Iterator[Step]:
    """On the minute: odd the drill, even the lift, its load rising."""
    minutes = item.minutes or 10
    lifts = minutes // 2
    for minute in range(1, minutes + 1):
        odd = minute % 2 == 1
        turn = (minute + 1) // 2
        yield Step(
            "minute",
            at,
            item,
            turn,
            lifts,
            item.sides[0],
            MINUTE_S,
            logs=not odd,
            at_s=MINUTE_S * (minute - 1),
            drill=item.odd_drill if odd else "",
            add_kg=0.0 if odd else (turn - 1) * (item.step_kg or 0.0),
        )


def rep_s(item: Item) -> float:
    """How long one repetition takes, s, by the item's tempo."""
    if item.setup is None:
        return DRILL_REP_S
    tempo = item.tempo_s or item.setup.tempo_s
    return sum(tempo) + (item.pause_s or 0.0)


def minutes_of(session: Session) -> float:
    """About how long a session takes, min: repetitions at their tempo, rests, minutes."""
    total = 0.0
    for step in steps_of(session):
        if step.seconds is not None:
            total += step.seconds
        else:
            item = step.item
            reps = item.mini_reps or item.reps[1] if step.minis > 1 else item.reps[1]
            total += reps * rep_s(item)
    return total / 60.0


def planned_sets(session: Session) -> int:
    """How many entries of the log a session makes."""
    return sum(step.logs for step in steps_of(session))


def tempo_words(setup: Setup, item: Item) -> str:
    """The tempo as one says it to an athlete."""
    down, deep, up, top = item.tempo_s or setup.tempo_s
    words = [f"{down:g} s down"]
    if deep:
        words.append(f"{deep:g} s pause")
    words.append(f"{up:g} s up")
    if top:
        words.append(f"{top:g} s at the top")
    return ", ".join(words)
