"""Words for coaches that several screens, tables and files share."""

from __future__ import annotations

# What a judged difference is called (see `choosing.uncertainty.judge`).
JUDGEMENTS = {
    "more": "more, however done",
    "less": "less, however done",
    "more-as-set-up": "more as set up",
    "less-as-set-up": "less as set up",
    "same": "about the same",
    "open": "open",
}
BECAUSE = {"": "", "floor": " (how the feet push)", "measuring": " (measuring)"}


def judgement_words(judgement: str, because: str = "") -> str:
    """A judgement as a coach reads it, with what leaves it open."""
    return f"{JUDGEMENTS[judgement]}{BECAUSE[because]}"
