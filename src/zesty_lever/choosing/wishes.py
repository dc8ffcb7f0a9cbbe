"""What a coach may wish for, the limits of the day, and what a variation does for each wish."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import field

import numpy as np

from zesty_lever.analysis import Result, lockout_frame
from zesty_lever.exercises.catalogue import Variation, variation
from zesty_lever.frozen import dataclass
from zesty_lever.joints import BY_KEY, SIDES
from zesty_lever.physics.moments import out_of_sagittal
from zesty_lever.problems import CaseError

# What can be wished for, in words; see `features_of` and the joints' peaks.
WISHES = {
    "hip": "more hip",
    "knee": "more knee",
    "back": "more lower back",
    "lockout": "hard at lockout",
    "long": "hard when long",
    "one-leg": "one leg",
    "sideways": "sideways",
}
MOST_WEIGHT = 100.0
# Weights in the hands that some variations work without.
WEIGHTS = frozenset({"two dumbbells", "dumbbell", "dumbbells", "kettlebell", "two kettlebells"})
# Features in N m, ranked by how they compare with the most on the list; the others are 0 or 1.
IN_NEWTON_METRES = ("lockout", "long", "sideways")


@dataclass(frozen=True)
class Ceiling:
    """A joint that may take at most ``share`` of what a known lift asks of it at its best load.

    Raises `CaseError` for an unknown joint or a share that is none.
    """

    joint: str
    share: float
    lift: str

    def __post_init__(self) -> None:
        """Refuse what can't be a ceiling."""
        if self.joint not in BY_KEY or not 0.0 < self.share <= 2.0:
            raise CaseError(
                "bad-ceiling",
                f"{self.joint} {self.share:g}: a ceiling is for {', '.join(BY_KEY)}, "
                "above 0 and at most 2 of the known lift",
                key="ceilings",
                value=self.share,
                allowed=[0, 2],
            )


@dataclass(frozen=True)
class Wish:
    """What the coach wants today. ``want`` maps `WISHES` to weights (minus: less of it).

    ``keep_shape``: nothing goes deeper than the lower back keeps its shape.
    ``equipment`` None: everything is there. ``goal`` is an optional (knee, hip) point, N m, that the
    list should come close to. ``directions`` empty: any. Raises `CaseError` for an unknown wish or weight.
    """

    want: Mapping[str, float] = field(default_factory=dict)
    ceilings: tuple[Ceiling, ...] = ()
    equipment: frozenset[str] | None = None
    skill: int = 3
    spotter: bool = True
    directions: frozenset[str] = frozenset()
    goal: tuple[float, float] | None = None
    keep_shape: bool = True

    def __post_init__(self) -> None:
        """Refuse what can't be wished for."""
        for key, weight in self.want.items():
            if key not in WISHES:
                raise CaseError(
                    "unknown-wish",
                    f"{key} can't be wished for; known are: {', '.join(WISHES)}",
                    key=key,
                    allowed=list(WISHES),
                )
            if not -MOST_WEIGHT <= weight <= MOST_WEIGHT:
                raise CaseError(
                    "bad-wish",
                    f"{key}: a weight of {weight:g} is outside {-MOST_WEIGHT:g} to {MOST_WEIGHT:g}",
                    key=key,
                    value=weight,
                    allowed=[-MOST_WEIGHT, MOST_WEIGHT],
                )

    def missing_for(self, entry: Variation) -> list[str]:
        """What a variation needs and today lacks, weights that it works without left aside."""
        have = self.equipment
        if have is None:
            return []
        needed = kinds_needed(entry)
        if entry.load is not None and entry.load.works_unloaded:
            needed = [kinds for kinds in needed if not kinds <= WEIGHTS]
        return [" or ".join(sorted(kinds)) for kinds in needed if not kinds & have]

    def unloaded(self, entry: Variation) -> bool:
        """Whether the weights of a variation that works without them are missing today."""
        if self.equipment is None or entry.load is None or not entry.load.works_unloaded:
            return False
        return any(k <= WEIGHTS and not k & self.equipment for k in kinds_needed(entry))

    def why_not(self, entry: Variation) -> str:
        """Why a variation can't be done today whatever its load; empty if it can."""
        missing = self.missing_for(entry)
        if missing:
            return f"needs {', '.join(missing)}"
        if entry.skill > self.skill:
            return "more demanding than today allows"
        if not self.spotter and "safety bars" in entry.equipment and entry.skill > 2:
            return "wants a spotter"
        if self.directions and entry.direction not in self.directions:
            return f"loads {entry.direction}ly"
        return ""


def kinds_needed(entry: Variation) -> list[frozenset[str]]:
    """Equipment of a variation, each item with its alternatives."""
    return [frozenset(item.split(" or ")) for item in entry.equipment]


def features_of(result: Result) -> dict[str, float]:
    """What a variation does besides its peaks.

    ``lockout``: the hip's extensor moment at the top, N m; ``long``: the same with the hip bent deep (the
    less bent, the less counts), N m; ``sideways``: the hip's moment about forward, N m, ``adducts`` 1 where the
    adductors hold it, 0 the abductors; ``one-leg``: 1 or 0.
    """
    solved, times = result.solved, result.timeline
    entry = variation(result.case.variation)
    side = max(SIDES, key=lambda s: float(solved.extension(f"hip_{s}").max()))
    hip = solved.extension(f"hip_{side}")
    top = lockout_frame(result)
    deep = times.top if entry.lies else times.bottom
    # Deepest hip flexion counts as long only if the hip is really bent there.
    thigh = solved.pose.side_view_rad(f"knee_{side}", f"hip_{side}")
    bent = float(solved.pose.pelvis_rad[deep] - thigh[deep])
    frontal = out_of_sagittal(solved.pose, solved.moments, side)[1]
    aside = float(frontal[int(np.argmax(np.abs(frontal)))])
    return {
        "lockout": max(float(hip[top]), 0.0),
        "long": max(float(hip[deep]), 0.0) * float(np.clip(bent / np.radians(90.0), 0.0, 1.0)),
        "one-leg": float(entry.options.rear not in {"", "flat"}),
        "sideways": abs(aside),
        "adducts": float(aside >= 0.0),
    }
