"""The set-up card: heights, distances, stance marks, grip and discs for one athlete and variation.

Computed from the solved body, then rounded as a gym rounds (holes of a rack, discs at hand, whole
centimetres), with what the rounding does. Clearances and hole spacing: common practice, no source.
"""

from __future__ import annotations

import math

from zesty_lever.analysis import Result
from zesty_lever.coaching.gym import Gym, Loading, usual_gym
from zesty_lever.coaching.tapes import (
    Line,
    band_lines,
    floor_lines,
    place_of,
    surface_lines,
    whole_cm,
)
from zesty_lever.frozen import dataclass

HOLE_SPACING_M = 0.05
RACK_BELOW_SHOULDER_M = 0.07
SAFETY_BELOW_BAR_M = 0.05


@dataclass(frozen=True)
class Card:
    """All lines, and the bar's loading where there is one."""

    lines: tuple[Line, ...]
    loading: Loading | None

    def line(self, key: str) -> Line:
        """One line by its key. Raises `KeyError`."""
        return next(line for line in self.lines if line.key == key)


def round_down_to_hole(height_m: float) -> float:
    """The rack hole at or below a height (holes every 5 cm)."""
    return math.floor(height_m / HOLE_SPACING_M + 1e-9) * HOLE_SPACING_M


def nearest_hole(height_m: float) -> float:
    """The rack hole nearest to a height."""
    return round(height_m / HOLE_SPACING_M) * HOLE_SPACING_M


def card_of(result: Result, gym: Gym | None = None) -> Card:
    """The card of a solved rep, its bar loaded from what a gym has (default: a small one).

    Raises `CaseError` where the set-up can't be done.
    """
    _ = result.solved
    chosen = result.variation
    lines = [
        *_bar_lines(result),
        *surface_lines(result),
        *floor_lines(result),
        *band_lines(result),
    ]
    loading = None
    if chosen.load is not None and chosen.load.name == "bar" and result.case.load_kg > 0.0:
        loading = (gym or usual_gym()).loading(chosen.id, result.case.load_kg)
    return Card(tuple(lines), loading)


def _bar_lines(result: Result) -> list[Line]:
    """Rack and safeties for bars that are carried on the trunk, standing."""
    chosen, pose = result.variation, result.solved.pose
    if "rack" not in chosen.equipment or chosen.load is None:
        return []
    standing = result.timeline.top
    heights = pose.load_points[1, 0]
    shoulder = float(pose.points["shoulder_mid"][1, standing])
    # Slightly below the shoulder, so that a small knee bend unracks it; in front and behind alike.
    rack = min(float(heights[standing]), shoulder) - RACK_BELOW_SHOULDER_M
    lowest = float(heights.min()) - SAFETY_BELOW_BAR_M
    left, right = (place_of(pose.points[f"hand_{side}"][:, standing]) for side in ("left", "right"))
    return [
        Line(
            "rack_height_m",
            "Rack hooks",
            rack,
            nearest_hole(rack),
            "m",
            "slightly below the top of the shoulder: a small knee bend unracks the bar",
            "height",
            when="start",
        ),
        Line(
            "safety_height_m",
            "Safety bars",
            lowest,
            round_down_to_hole(lowest),
            "m",
            "below the bar at full depth, so that it clears them and can be left on them",
            "height",
        ),
        whole_cm(
            "grip_width_m",
            "Grip, hand to hand",
            abs(right[2] - left[2]),
            "from the middle of one hand to the other",
            "width",
            (left, right),
            "start",
        ),
    ]


def clears_safeties(result: Result, card: Card) -> float:
    """How far (m) the bar stays above the safeties at its lowest, after rounding."""
    return (
        float(result.solved.pose.load_points[1, 0].min())
        - card.line("safety_height_m").rounded
        - _shaft_m(card)
    )


def _shaft_m(card: Card) -> float:
    return 0.5 * card.loading.bar.shaft_m if card.loading else 0.014


CSV_COLUMNS = ("key", "name", "value", "rounded", "unit", "why")
