"""The set-up card: heights, distances, stance marks, grip and discs for one athlete and variation.

Computed from the solved body, then rounded as a gym rounds (holes of a rack, discs at hand, whole
centimetres), with what the rounding does. Clearances and hole spacing: common practice, no source.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from zesty_lever.analysis import Result
from zesty_lever.cases.anchors import anchors
from zesty_lever.coaching.gym import Gym, Loading, usual_gym
from zesty_lever.physics.vectors import Array, norm

HOLE_SPACING_M = 0.05
RACK_BELOW_SHOULDER_M = 0.07
SAFETY_BELOW_BAR_M = 0.05
PAD_DEPTH_M = 0.04
# Hips that stay nearer to the heels than this have no wall to reach for.
WALL_FROM_M = 0.02


Place = tuple[float, float, float]


@dataclass(frozen=True)
class Line:
    """One line of the card.

    ``value`` and ``rounded`` in ``unit`` (m, deg, N, kg); ``mark`` tells a sketch what to measure:
    ``height`` from the floor, ``length`` along it, ``width`` sideways, or nothing. ``ends`` are the two
    places (x, y, z) m that the tape lies between, at the ``start`` of the rep or at its ``deep`` end.
    """

    key: str
    name: str
    value: float
    rounded: float
    unit: str
    why: str
    mark: str = ""
    ends: tuple[Place, Place] | None = None
    when: str = "deep"

    @property
    def off(self) -> float:
        """What rounding changed, in the unit."""
        return self.rounded - self.value


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
        *_surface_lines(result),
        *_floor_lines(result),
        *_band_lines(result),
    ]
    loading = None
    if chosen.load is not None and chosen.load.name == "bar" and result.case.load_kg > 0.0:
        loading = (gym or usual_gym()).loading(chosen.id, result.case.load_kg)
    return Card(tuple(lines), loading)


def _whole_cm(
    key: str,
    name: str,
    value_m: float,
    why: str,
    mark: str = "",
    ends: tuple[Place, Place] | None = None,
    when: str = "deep",
) -> Line:
    return Line(key, name, value_m, round(value_m, 2), "m", why, mark, ends, when)


def _up(x: float, height_m: float, z: float = 0.0) -> tuple[Place, Place]:
    """A tape that stands on the floor."""
    return (x, 0.0, z), (x, height_m, z)


def _place(point: Array) -> Place:
    x, y, z = (float(part) for part in point)
    return x, y, z


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
    left, right = (_place(pose.points[f"hand_{side}"][:, standing]) for side in ("left", "right"))
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
        _whole_cm(
            "grip_width_m",
            "Grip, hand to hand",
            abs(right[2] - left[2]),
            "from the middle of one hand to the other",
            "width",
            (left, right),
            "start",
        ),
    ]


def _surface_lines(result: Result) -> list[Line]:
    settings, pose, contacts = result.case.settings, result.solved.pose, result.solved.contacts
    at = result.timeline.bottom
    lines = []
    for key, name, why, point, aside in (
        (
            "bench_height_m",
            "Bench",
            "the upper back rests between lower and middle shoulder blade",
            "shoulder_mid",
            -0.3,
        ),
        ("rear_height_m", "Bench behind", "the rear instep lies on it", "toe_left", -0.2),
        ("front_height_m", "Step", "the front foot stands on it", "toe_right", 0.2),
        ("feet_height_m", "Feet up", "the heels rest on it", "toe_right", 0.2),
    ):
        height = settings.get(key) or 0.0
        if height > 0.0:
            x = float(pose.points[point][0, at]) + aside
            lines.append(_whole_cm(key, name, height, why, "height", _up(x, height)))
    if "bench_slope_deg" in settings:
        gap = contacts.points[:, -1, at] - pose.points["ankle_right"][:, at]
        lines.append(
            _whole_cm(
                "pad_distance_m",
                "Pad from the ankle roll",
                float(np.hypot(gap[0], gap[1])),
                "just below the hip crease, so that the hips can fold",
                "length",
                (_place(pose.points["ankle_right"][:, at]), _place(contacts.points[:, -1, at])),
            )
        )
    if "seat" in contacts.names:
        height = float(contacts.points[1, contacts.names.index("seat"), at])
        lines.append(
            _whole_cm(
                "box_height_m", "Box", height, "the sitting bones touch it at this depth", "height"
            )
        )
    elif result.case.variation == "single-leg-squat-to-box":
        lines.append(
            _whole_cm(
                "box_height_m", "Box", _under_seat(result, at), "touched at this depth", "height"
            )
        )
    if result.variation.family == "bridge" and (settings.get("bench_height_m") or 0.0) > 0.0:
        low = settings.get("start_height_m") or 0.0
        need = max(
            (settings["bench_height_m"] or 0.0) - low - 0.26 * result.case.athlete.height_m / 1.75,
            0.0,
        )
        pads = math.ceil(need / PAD_DEPTH_M - 1e-9)
        if pads:
            lines.append(
                Line(
                    "pad_m",
                    "Pad under the seat",
                    need,
                    pads * PAD_DEPTH_M,
                    "m",
                    "so that the back does not slip off the bench with the hips down",
                    "height",
                )
            )
    return lines


def _under_seat(result: Result, at: int) -> float:
    pose = result.solved.pose
    return float(pose.points["hip_mid"][1, at]) - 0.05 * result.case.athlete.height_m


def _floor_lines(result: Result) -> list[Line]:
    settings, pose = result.case.settings, result.solved.pose
    lines = []
    stance = settings.get("stance_m")
    if stance:
        lines.append(
            _whole_cm(
                "stance_m",
                "Stance, ankle to ankle",
                abs(stance),
                "marks for the middle of the heels",
                "width",
                ((0.0, 0.0, -0.5 * abs(stance)), (0.0, 0.0, 0.5 * abs(stance))),
            )
        )
    if settings.get("toe_out_deg") is not None:
        turned = settings["toe_out_deg"] or 0.0
        lines.append(
            Line("toe_out_deg", "Toes out", turned, 5.0 * round(turned / 5.0), "deg", "each foot")
        )
    if settings.get("step_m") is not None:
        lines.append(
            _whole_cm(
                "step_m",
                "Front ankle to rear foot",
                settings["step_m"] or 0.0,
                "along the floor, to where the rear foot presses",
                "length",
                _step_ends(result),
            )
        )
    family = result.variation.family
    if family == "bridge":
        top = result.timeline.bottom
        down = result.timeline.top
        heel = float(pose.points["heel_right"][0, top])
        seat = float(pose.points["hip_mid"][0, down])
        lines.append(
            _whole_cm(
                "heel_distance_m",
                "Heels from the hips, hips down",
                heel - seat,
                "gives the shins their angle at lockout",
                "length",
                ((seat, 0.0, 0.0), (heel, 0.0, 0.0)),
                "start",
            )
        )
    if family == "hinge" and result.variation.stands_level:
        wall, back = (
            _wall_distance(result),
            float(pose.points["heel_right"][0, result.timeline.bottom]),
        )
        if wall > WALL_FROM_M:
            lines.append(
                _whole_cm(
                    "wall_distance_m",
                    "Heels to the wall behind",
                    wall,
                    "the hips touch it at full depth; about one foot length",
                    "length",
                    ((back - wall, 0.0, 0.0), (back, 0.0, 0.0)),
                )
            )
    return lines


def _step_ends(result: Result) -> tuple[Place, Place]:
    """From under the front ankle back by the step."""
    front = float(result.solved.pose.points["ankle_right"][0, result.timeline.bottom])
    return (front - float(result.case.settings["step_m"] or 0.0), 0.0, 0.0), (front, 0.0, 0.0)


def _wall_distance(result: Result) -> float:
    """From the heels back to where the buttocks are at full depth, m."""
    pose = result.solved.pose
    at = result.timeline.bottom
    behind = 0.06 * result.case.athlete.height_m
    back = float(pose.points["hip_mid"][0, at]) - behind
    return float(pose.points["heel_right"][0, at]) - back


def _band_lines(result: Result) -> list[Line]:
    """Where each band is anchored, and what it pulls at both ends of the rep."""
    pose, bands = result.solved.pose, result.solved.lines
    lines = []
    forces = norm(bands.forces)
    top, bottom = result.timeline.top, result.timeline.bottom
    seen: set[str] = set()
    heel = float(pose.points["heel_right"][0, 0])
    for anchor in anchors(result.case):
        x, y, z = anchor.place
        slug, which = (
            ("", "Anchor")
            if anchor.load is None
            else (_slug(anchor.names[0]), f"{anchor.names[0]}, anchor")
        )
        lines.append(
            _whole_cm(
                f"{slug}anchor_height_m",
                f"{which}, height",
                y,
                "above the floor",
                "height",
                _up(x, y, z),
            )
        )
        way, metres = ("behind" if x < heel else "ahead of", abs(heel - x))
        lines.append(
            _whole_cm(
                f"{slug}anchor_distance_m",
                f"{which} {way} the heels",
                metres,
                "along the floor",
                "length",
                ((x, 0.0, 0.0), (heel, 0.0, 0.0)),
            )
        )
        if abs(z) > 0.005:
            to = "left" if z < 0.0 else "right"
            lines.append(
                _whole_cm(
                    f"{slug}anchor_aside_m",
                    f"{which} to the {to}",
                    abs(z),
                    "from the middle of the stance",
                    "width",
                    ((x, 0.0, 0.0), (x, 0.0, z)),
                )
            )
    for name, pull in zip(bands.names, forces, strict=True):
        if name in seen or "band" not in name:
            continue
        seen.add(name)
        for key, word, frame in (("top", "at the top", top), ("bottom", "at the bottom", bottom)):
            value = float(pull[frame])
            lines.append(
                Line(
                    f"{_slug(name)}{key}_N",
                    f"{name}, {word}",
                    value,
                    round(value / 5.0) * 5.0,
                    "N",
                    "check with a luggage scale",
                )
            )
    return lines


def _slug(name: str) -> str:
    return name.replace(" ", "_") + "_"


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
