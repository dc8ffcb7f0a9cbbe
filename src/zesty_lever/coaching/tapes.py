"""What a tape measures for a set-up: surfaces, marks on the floor, anchors, each with its ends and its reason.

Rounded to whole centimetres; clearances: common practice, no source.
"""

from __future__ import annotations

import math

import numpy as np

from zesty_lever.analysis import Result
from zesty_lever.cases.anchors import Anchor, anchors
from zesty_lever.frozen import dataclass
from zesty_lever.physics.vectors import Array, norm

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


def whole_cm(
    key: str,
    name: str,
    value_m: float,
    why: str,
    mark: str = "",
    ends: tuple[Place, Place] | None = None,
    when: str = "deep",
) -> Line:
    """A line that is rounded to whole centimetres; lengths in m."""
    return Line(key, name, value_m, round(value_m, 2), "m", why, mark, ends, when)


def up_from_floor(x: float, height_m: float, z: float = 0.0) -> tuple[Place, Place]:
    """A tape that stands on the floor."""
    return (x, 0.0, z), (x, height_m, z)


def place_of(point: Array) -> Place:
    """A point ``(3,)`` m as a place on the card."""
    x, y, z = (float(part) for part in point)
    return x, y, z


# What stands there: key, name, why, the landmark it is drawn beside, and how far ahead of it (m).
SURFACES = (
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
)


def surface_lines(result: Result) -> list[Line]:
    """Benches, steps, boxes and pads, where the set-up has them."""
    settings, pose = result.case.settings, result.solved.pose
    at = result.timeline.bottom
    lines = []
    for key, name, why, point, aside in SURFACES:
        height = settings.get(key) or 0.0
        if height > 0.0:
            x = float(pose.points[point][0, at]) + aside
            lines.append(whole_cm(key, name, height, why, "height", up_from_floor(x, height)))
    return [*lines, *_ankle_pad(result), *_box(result), *_seat_pad(result)]


def _ankle_pad(result: Result) -> list[Line]:
    if "bench_slope_deg" not in result.case.settings:
        return []
    at = result.timeline.bottom
    ankle = result.solved.pose.points["ankle_right"][:, at]
    pad = result.solved.contacts.points[:, -1, at]
    gap = pad - ankle
    return [
        whole_cm(
            "pad_distance_m",
            "Pad from the ankle roll",
            float(np.hypot(gap[0], gap[1])),
            "just below the hip crease, so that the hips can fold",
            "length",
            (place_of(ankle), place_of(pad)),
        )
    ]


def _box(result: Result) -> list[Line]:
    """The box that is sat on, or touched."""
    contacts, at = result.solved.contacts, result.timeline.bottom
    if "seat" in contacts.names:
        height = float(contacts.points[1, contacts.names.index("seat"), at])
        why = "the sitting bones touch it at this depth"
    elif result.case.variation == "single-leg-squat-to-box":
        height, why = _under_seat(result, at), "touched at this depth"
    else:
        return []
    return [whole_cm("box_height_m", "Box", height, why, "height")]


def _seat_pad(result: Result) -> list[Line]:
    """Pads under the seat, in whole pads, so that the back does not slip off the bench."""
    settings = result.case.settings
    bench = settings.get("bench_height_m") or 0.0
    if result.variation.family != "bridge" or bench <= 0.0:
        return []
    low = settings.get("start_height_m") or 0.0
    need = max(bench - low - 0.26 * result.case.athlete.height_m / 1.75, 0.0)
    pads = math.ceil(need / PAD_DEPTH_M - 1e-9)
    why = "so that the back does not slip off the bench with the hips down"
    line = Line("pad_m", "Pad under the seat", need, pads * PAD_DEPTH_M, "m", why, "height")
    return [line] if pads else []


def _under_seat(result: Result, at: int) -> float:
    pose = result.solved.pose
    return float(pose.points["hip_mid"][1, at]) - 0.05 * result.case.athlete.height_m


def floor_lines(result: Result) -> list[Line]:
    """Marks on the floor: stance, toes, step, heels."""
    settings = result.case.settings
    lines = []
    stance = abs(settings.get("stance_m") or 0.0)
    if stance:
        ends = ((0.0, 0.0, -0.5 * stance), (0.0, 0.0, 0.5 * stance))
        why = "marks for the middle of the heels"
        lines.append(whole_cm("stance_m", "Stance, ankle to ankle", stance, why, "width", ends))
    if settings.get("toe_out_deg") is not None:
        turned = settings["toe_out_deg"] or 0.0
        rounded = 5.0 * round(turned / 5.0)
        lines.append(Line("toe_out_deg", "Toes out", turned, rounded, "deg", "each foot"))
    if settings.get("step_m") is not None:
        step, why = settings["step_m"] or 0.0, "along the floor, to where the rear foot presses"
        name, ends = "Front ankle to rear foot", _step_ends(result)
        lines.append(whole_cm("step_m", name, step, why, "length", ends))
    return [*lines, *_heels_from_hips(result), *_wall_behind(result)]


def _heels_from_hips(result: Result) -> list[Line]:
    if result.variation.family != "bridge":
        return []
    points, times = result.solved.pose.points, result.timeline
    heel = float(points["heel_right"][0, times.bottom])
    seat = float(points["hip_mid"][0, times.top])
    return [
        whole_cm(
            "heel_distance_m",
            "Heels from the hips, hips down",
            heel - seat,
            "gives the shins their angle at lockout",
            "length",
            ((seat, 0.0, 0.0), (heel, 0.0, 0.0)),
            "start",
        )
    ]


def _wall_behind(result: Result) -> list[Line]:
    if result.variation.family != "hinge" or not result.variation.stands_level:
        return []
    wall = _wall_distance(result)
    back = float(result.solved.pose.points["heel_right"][0, result.timeline.bottom])
    line = whole_cm(
        "wall_distance_m",
        "Heels to the wall behind",
        wall,
        "the hips touch it at full depth; about one foot length",
        "length",
        ((back - wall, 0.0, 0.0), (back, 0.0, 0.0)),
    )
    return [line] if wall > WALL_FROM_M else []


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


def band_lines(result: Result) -> list[Line]:
    """Where each band is anchored, and what it pulls at both ends of the rep."""
    placed = [line for anchor in anchors(result.case) for line in _anchor_lines(result, anchor)]
    return [*placed, *_band_pulls(result)]


def _anchor_lines(result: Result, anchor: Anchor) -> list[Line]:
    """Height, distance from the heels and, where it is off the middle, to which side."""
    x, y, z = anchor.place
    heel = float(result.solved.pose.points["heel_right"][0, 0])
    key, which = "", "Anchor"
    if anchor.load is not None:
        key, which = _slug(anchor.names[0]), f"{anchor.names[0]}, anchor"
    way = "behind" if x < heel else "ahead of"
    lines = [
        whole_cm(
            f"{key}anchor_height_m",
            f"{which}, height",
            y,
            "above the floor",
            "height",
            up_from_floor(x, y, z),
        ),
        whole_cm(
            f"{key}anchor_distance_m",
            f"{which} {way} the heels",
            abs(heel - x),
            "along the floor",
            "length",
            ((x, 0.0, 0.0), (heel, 0.0, 0.0)),
        ),
    ]
    if abs(z) > 0.005:
        to = "left" if z < 0.0 else "right"
        lines.append(
            whole_cm(
                f"{key}anchor_aside_m",
                f"{which} to the {to}",
                abs(z),
                "from the middle of the stance",
                "width",
                ((x, 0.0, 0.0), (x, 0.0, z)),
            )
        )
    return lines


def _band_pulls(result: Result) -> list[Line]:
    """What every band pulls at both ends of the rep, N."""
    bands, times = result.solved.lines, result.timeline
    pulls = dict(zip(reversed(bands.names), reversed(norm(bands.forces)), strict=True))
    return [
        Line(
            f"{_slug(name)}{key}_N",
            f"{name}, at the {key}",
            float(pulls[name][frame]),
            round(float(pulls[name][frame]) / 5.0) * 5.0,
            "N",
            "check with a luggage scale",
        )
        for name in dict.fromkeys(bands.names)
        if "band" in name
        for key, frame in (("top", times.top), ("bottom", times.bottom))
    ]


def _slug(name: str) -> str:
    return name.replace(" ", "_") + "_"
