"""A small set of variations that together covers what a week needs."""

from __future__ import annotations

from collections.abc import Sequence

from zesty_lever.choosing.shortlist import Option, RuledOut
from zesty_lever.exercises.catalogue import variation
from zesty_lever.joints import BY_KEY

NEEDS = (
    "hip",
    "knee",
    "back",
    "vertical",
    "horizontal",
    "lateral",
    "lockout",
    "long",
    "one-leg",
)


def covers(option: Option) -> frozenset[str]:
    """What of a week's needs one option does well."""
    does = {key for key in BY_KEY if option.features[key] >= 0.6}
    does |= {k for k in ("lockout", "long", "one-leg") if option.features[k] >= 0.7}
    return frozenset(does | {variation(option.variation).direction})


def cover_week(
    options: Sequence[Option | RuledOut], needs: Sequence[str] = NEEDS
) -> tuple[list[Option], list[str]]:
    """A small set that together does what is needed, and what none of them does.

    Greedy: the one that adds most first, the better ranked of two as good.
    """
    left, chosen = set(needs), []
    able = [option for option in options if isinstance(option, Option)]
    while left:
        best = max(able, key=lambda o: len(covers(o) & left), default=None)
        if best is None or not covers(best) & left:
            break
        chosen.append(best)
        left -= covers(best)
    return chosen, sorted(left)
