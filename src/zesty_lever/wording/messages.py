"""Messages as sentences: an id and typed values rendered once, in the units in use (``data/words``)."""

from __future__ import annotations

import datetime as dt
import tomllib
from collections.abc import Callable, Mapping, Sequence
from functools import cache
from typing import Any

from zesty_lever.exercises.catalogue import catalogue
from zesty_lever.log.asked import Advice
from zesty_lever.messages import (
    Day,
    Fault,
    Held,
    Kg,
    KgSpan,
    Lift,
    Measured,
    Message,
    Place,
    Range,
    Share,
    Style,
)
from zesty_lever.tables import data_path
from zesty_lever.wording.units import UNITS

STYLES = {
    "straight": "",
    "paired-minutes": "paired minutes",
    "clusters": "clusters",
    "rest-pause": "rest-pause",
    "constant-tension": "constant tension",
    "paused": "paused sets",
    "one-and-a-quarter": "one-and-a-quarter repetitions",
    "holds": "holds",
    "two-load": "two loads",
}


@cache
def _templates() -> Mapping[str, Mapping[str, str]]:
    return tomllib.loads(data_path("words", "advice.toml").read_text(encoding="utf-8"))


def said(one: Message) -> str:
    """A message as a sentence. Raises `KeyError` for an id that has no words."""
    group, _, name = one.id.partition(".")
    words = _templates()[group][name].format_map(_Values(one))
    return words[:1].upper() + words[1:] if group in ("advice", "pain", "who", "week") else words


def told(advice: Advice) -> list[str]:
    """Why of an advice, sentence by sentence."""
    return [said(one) for one in advice.says]


class _Values(dict[str, str]):
    """Values of a message as words, made when a template asks for them."""

    def __init__(self, one: Message) -> None:
        super().__init__()
        self._one = one

    def __missing__(self, name: str) -> str:
        value = self._one.values[name]
        if self._one.id == "advice.converted":
            if name == "style":
                return f" in {STYLES[value.id]}" if STYLES[value.id] else ""
            if name == "left":
                return f" with {value:g} left" if value else ""
        if name == "numbers" and self._one.id == "list.sore":
            return measured_words(value[0])
        if name == "numbers" and self._one.values.get("place") is not None:
            return numbers_words(self._one.values["place"], value)
        return words_of(value)


def numbers_words(place: Place, numbers: Sequence[Measured]) -> str:
    """What was compared of a place: knee 61 against 143 N·m, bent 70° against 110°."""
    if not numbers:
        return f"the {words_of(place)} is hardly loaded"
    return f"{place.place} " + ", ".join(measured_words(one) for one in numbers)


def measured_words(one: Measured) -> str:
    """One number beside another."""
    own, other = (f"{value:.0f}" for value in (one.own, one.other))
    return _templates()["measure"][one.what].format(own=own, other=other)


def words_of(value: Any) -> str:
    """A typed value in words."""
    kind = type(value)
    if kind in _WORDS:
        return _WORDS[kind](value)
    return f"{value:g}" if isinstance(value, float) else str(value)


def kg_words(kg: float) -> str:
    """A load in the units in use, without a decimal that says nothing."""
    return UNITS.text(kg, "kg").replace(".0 ", " ")


def held_words(kg: float) -> str:
    """A load in two hands as it is picked up: 2 × 14 kg (28)."""
    each, _, unit = kg_words(0.5 * kg).partition(" ")
    whole = kg_words(kg).partition(" ")[0]
    return f"2 \N{MULTIPLICATION SIGN} {each} {unit} ({whole})"


def in_two_hands(name: str) -> bool:
    """Whether a lift's load is two of a kind, one in each hand."""
    known = catalogue().get(name)
    if known is None:
        return False
    return bool({"two dumbbells", "two kettlebells"} & set(known.equipment))


def load_words(name: str, load_kg: float | None) -> str:
    """A lift's load as it is picked up: 2 × 14 kg (28), 60 kg; none: no load."""
    if load_kg is None:
        return ""
    if load_kg <= 0.0:
        return "no load"
    return held_words(load_kg) if in_two_hands(name) else kg_words(load_kg)


def _whole(kg: float) -> str:
    return UNITS.text(kg, "kg", 0).partition(" ")[0]


def _day(value: Day) -> str:
    date = dt.date.fromordinal(value.day)
    return f"{date.day} {date:%B}"


def _lift(value: Lift) -> str:
    known = catalogue().get(value.id)
    return value.id if known is None else known.name.lower()


def _place(value: Place) -> str:
    return value.place if value.side == "both" else f"{value.side} {value.place}"


_WORDS: Mapping[type, Callable[[Any], str]] = {
    Kg: lambda value: kg_words(value.kg),
    KgSpan: lambda value: f"{_whole(value.low)} to {_whole(value.high)}",
    Range: lambda value: (
        str(value.low) if value.low == value.high else f"{value.low} to {value.high}"
    ),
    Held: lambda value: held_words(value.kg),
    Lift: _lift,
    Day: _day,
    Share: lambda value: f"{100.0 * value.share:.0f} %",
    Place: _place,
    Fault: lambda value: value.code.replace("-", " ").capitalize(),
    Style: lambda value: STYLES.get(value.id, value.id) or "straight sets",
    Measured: measured_words,
}
