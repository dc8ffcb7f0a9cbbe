"""What is said to people, as data: an id and typed values; rendered once at the edge (`wording.messages`).

Values are numbers, texts that come from people, or one of the kinds below, which say what a number or id is, so that
a rendering can give it its unit, its name or its plural.
"""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, NamedTuple


class Kg(NamedTuple):
    """A load, kg."""

    kg: float


class KgSpan(NamedTuple):
    """From one load to another, kg: told without a unit, beside one that has it."""

    low: float
    high: float


class Range(NamedTuple):
    """A range of repetitions."""

    low: int
    high: int


class Held(NamedTuple):
    """A load in two hands, kg altogether: told as it is picked up."""

    kg: float


class Lift(NamedTuple):
    """A variation by its id."""

    id: str


class Day(NamedTuple):
    """A local day, proleptic ordinal."""

    day: int


class Share(NamedTuple):
    """A share, told in per cent."""

    share: float


class Place(NamedTuple):
    """A place of the body and its side (``both``: not of one side)."""

    place: str
    side: str = "both"


class Fault(NamedTuple):
    """A fault by its code."""

    code: str


class Style(NamedTuple):
    """A style of sets by its id."""

    id: str


class Measured(NamedTuple):
    """One number beside another of the same kind: ``what`` is measured (an id), in which unit."""

    what: str
    own: float
    other: float
    unit: str


class Message(NamedTuple):
    """One thing said: what (an id) and its values by name."""

    id: str
    values: Mapping[str, Any]


def message(name: str, /, **values: Any) -> Message:
    """One thing said."""
    return Message(name, values)
