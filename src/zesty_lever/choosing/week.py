"""A small set of variations that together covers what a week needs."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from zesty_lever.choosing.shortlist import Option, RuledOut
from zesty_lever.exercises.catalogue import variation
from zesty_lever.joints import BY_KEY

# What a coach wants in a week, in words (common practice, no source).
NEEDS = {
    "floor pull": "a pull from the floor",
    "squat": "a squat",
    "one-leg": "work on one leg",
    "thrust": "a thrust or bridge",
    "sideways": "sideways at the hip",
}
# A share of the most on the list from which the hip's sideways work counts.
ENOUGH_SIDEWAYS = 0.85


def covers(option: Option) -> frozenset[str]:
    """What of a week's needs one option does."""
    entry, does = variation(option.variation), set()
    if entry.from_floor:
        does.add("floor pull")
    if entry.is_squat:
        does.add("squat")
    if option.features["one-leg"]:
        does.add("one-leg")
    if entry.lies:
        does.add("thrust")
    if entry.direction == "lateral" or option.features["sideways"] >= ENOUGH_SIDEWAYS:
        does.add("sideways")
    return frozenset(does)


def cover_week(
    options: Sequence[Option | RuledOut], needs: Sequence[str] = tuple(NEEDS)
) -> tuple[list[Option], list[str]]:
    """A small set that together does what is needed, and what none of them does.

    Need by need, the best ranked that covers it, unless one chosen before does.
    """
    chosen: list[Option] = []
    able = [option for option in options if isinstance(option, Option)]
    missing = []
    for need in needs:
        if any(need in covers(option) for option in chosen):
            continue
        fitting = [option for option in able if need in covers(option)]
        best = max(fitting, key=lambda option: _rank(option, need), default=None)
        if best is None:
            missing.append(need)
        else:
            chosen.append(best)
    return chosen, missing


def _rank(option: Option, need: str) -> tuple[int, float, bool, float]:
    """The wish first; between equals what is made for it (no second heavy pull), then what demands most."""
    made_for = need == "sideways" and variation(option.variation).direction == "lateral"
    return -option.behind, option.score, made_for, sum(option.features[key] for key in BY_KEY)


def reason_in_words(option: Option) -> Option:
    """The option with what it covers in front of its reason."""
    does = covers(option)
    words = ", ".join(text for need, text in NEEDS.items() if need in does)
    return replace(option, reason=f"{words}; {option.reason}")
