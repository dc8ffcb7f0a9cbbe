"""Two cues to a lift: what its family is told most, in the words of the findings (common practice, no source)."""

from __future__ import annotations

from zesty_lever.coaching.rules import rules
from zesty_lever.exercises.catalogue import Variation

CUES_OF = {
    "squat": ("heel-lift", "hips-rise-first"),
    "lunge": ("rear-leg-works", "knee-track"),
    "hinge": ("bar-away", "rounding"),
    "bridge": ("arching", "thrust-not-level"),
}
NOT_A_BAR = "Weight close to the legs the whole way."
LATERAL = "Knees over the toes, push the floor apart."


def cues_of(entry: Variation) -> tuple[str, ...]:
    """Two short cues."""
    found = [rules()[code].cue for code in CUES_OF[entry.family]]
    if entry.family == "hinge" and (entry.load is None or entry.load.name != "bar"):
        found[0] = NOT_A_BAR if entry.load is not None else rules()["trunk-against-shin"].cue
    if entry.direction == "lateral":
        found[1] = LATERAL
    return tuple(cue for cue in found if cue and "{" not in cue)
