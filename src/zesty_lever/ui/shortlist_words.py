"""A shortlisted variation in words: its intervals, and what is set otherwise than usual."""

from __future__ import annotations

from zesty_lever.choosing.shortlist import (
    Option,
)
from zesty_lever.exercises.catalogue import variation
from zesty_lever.joints import BY_KEY
from zesty_lever.ui.number import UNITS


def spans_in_words(option: Option) -> str:
    """The intervals on a line of their own."""
    parts = [
        f"{BY_KEY[key].word} {low:.0f} to {high:.0f}" for key, (low, high) in option.spans.items()
    ]
    return f"\n     90 %: {', '.join(parts)} N·m" if parts else ""


def set_in_words(option: Option) -> str:
    """What is set otherwise than usual: how deep at most, where the hips decide it, and what balance needs."""
    entry = variation(option.variation)
    words = ""
    for key, value in option.settings.items():
        setting = (
            f"{entry.settings[key].name.lower()} {UNITS.text(value, entry.settings[key].unit, 0)}"
        )
        words += (
            f", only to {setting}: deeper the low back rounds"
            if key == entry.depth
            else f", with {setting}"
        )
    return words
