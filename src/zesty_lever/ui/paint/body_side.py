"""The body's parts from the side: outlines in metres, paths on the screen."""

from __future__ import annotations

from functools import lru_cache
from math import hypot

import numpy as np
from PySide6.QtGui import QPainterPath, QTransform

from zesty_lever.analysis import Result
from zesty_lever.physics.vectors import Array
from zesty_lever.ui.paint.view import View, bent_line, limb, path_of, sleeve

# Half widths along each part, fractions of stature: (front, back), from the first point named.
THIGH = (
    [0.033, 0.037, 0.043, 0.048, 0.052, 0.053, 0.052, 0.050],
    [0.029, 0.031, 0.035, 0.039, 0.043, 0.047, 0.052, 0.054],
)
SHANK = (
    [0.019, 0.020, 0.022, 0.025, 0.027, 0.028, 0.030, 0.031],
    [0.021, 0.022, 0.026, 0.033, 0.039, 0.040, 0.036, 0.030],
)
TRUNK = (
    [0.046, 0.052, 0.055, 0.056, 0.058, 0.063, 0.067, 0.064, 0.052, 0.034],
    [0.060, 0.062, 0.054, 0.046, 0.045, 0.050, 0.056, 0.058, 0.052, 0.036],
)
UPPER_ARM = ([0.027, 0.029, 0.028, 0.026, 0.023], [0.027, 0.027, 0.026, 0.023, 0.021])
FOREARM = ([0.022, 0.023, 0.021, 0.018, 0.015], [0.021, 0.022, 0.020, 0.017, 0.014])
NECK = ([0.029, 0.027, 0.028], [0.031, 0.029, 0.030])


# Parts along a straight line: their profile, from one point to another.
LIMBS = {
    "upper_arm": (UPPER_ARM, "shoulder_right", "elbow_right"),
    "forearm": (FOREARM, "elbow_right", "wrist_right"),
    "shank_left": (SHANK, "ankle_left", "knee_left"),
    "thigh_left": (THIGH, "knee_left", "hip_left"),
    "shank_right": (SHANK, "ankle_right", "knee_right"),
    "thigh_right": (THIGH, "knee_right", "hip_right"),
}
# How much of the way from the shoulders to the top of the head is neck.
NECK_SHARE = 0.42
# Lengths of limbs that are drawn alike, m.
SAME_LENGTH_M = 5e-4


def _sides_seen(result: Result) -> tuple[str, ...]:
    """Whose legs are drawn, in drawing order."""
    return ("left", "right") if legs_differ(result) else ("right",)


def _trunk(result: Result, frame: int) -> Array:
    """Outline ``(2, n)`` m of the trunk, bent where the lower back is."""
    pose, size = result.shown.pose, result.case.athlete.height_m
    shoulder, hips = pose.points["shoulder_mid"][:, frame], pose.points["hip_mid"][:, frame]
    pelvis, line = float(pose.pelvis_rad[frame]), shoulder - hips
    reach = 0.45 * float(np.hypot(line[0], line[1]))
    control = hips + reach * np.array([np.sin(pelvis), np.cos(pelvis), 0.0])
    spine = bent_line(hips, control, shoulder, len(TRUNK[0]))
    return sleeve(spine, *(size * np.array(side) for side in TRUNK))


def _neck_ends(result: Result, frame: int) -> tuple[Array, Array]:
    shoulder, top = (result.shown.pose.points[n][:, frame] for n in ("shoulder_mid", "head_top"))
    return shoulder, shoulder + NECK_SHARE * (top - shoulder)


def body_parts(result: Result, frame: int) -> dict[str, Array]:
    """Outlines ``(2, n)`` m of the body's parts in the side view, in drawing order."""
    points, size = result.shown.pose.points, result.case.athlete.height_m

    def straight(name: str) -> Array:
        profile, start, end = LIMBS[name]
        widths = (size * np.array(side) for side in profile)
        return limb(points[start][:, frame], points[end][:, frame], *widths)

    parts = {
        "neck": limb(*_neck_ends(result, frame), *(size * np.array(side) for side in NECK)),
        "trunk": _trunk(result, frame),
        "upper_arm": straight("upper_arm"),
        "forearm": straight("forearm"),
    }
    for side in _sides_seen(result):
        parts |= {
            f"foot_{side}": _foot(result, frame, size, side),
            f"shank_{side}": straight(f"shank_{side}"),
            f"thigh_{side}": straight(f"thigh_{side}"),
        }
    return parts


def paths_of(result: Result, frame: int, view: View) -> dict[str, QPainterPath]:
    """The same on screen. Straight parts are drawn once for each length, then turned and moved into their place."""
    points, size = result.shown.pose.points, result.case.athlete.height_m
    paths = {
        "neck": _limb_path(NECK, size, view, *_neck_ends(result, frame)),
        "trunk": path_of(_trunk(result, frame), view),
    }
    sides = _sides_seen(result)
    for name, (profile, start, end) in LIMBS.items():
        if not name.endswith("left") or "left" in sides:
            ends = points[start][:, frame], points[end][:, frame]
            paths[name] = _limb_path(profile, size, view, *ends)
    for side in sides:
        paths[f"foot_{side}"] = path_of(_foot(result, frame, size, side), view)
    return paths


def _limb_path(
    profile: tuple[list[float], list[float]], size: float, view: View, start: Array, end: Array
) -> QPainterPath:
    x, y = float(start[0]), float(start[1])
    along, up = float(end[0]) - x, float(end[1]) - y
    length = max(hypot(along, up), SAME_LENGTH_M)
    upright = _upright_limb(
        tuple(profile[0]), tuple(profile[1]), size, round(length / SAME_LENGTH_M)
    )
    # A metre along the limb runs from its start to its end, a metre across to the right of that way.
    s, ahead, above = view.scale, along / length, up / length
    place = QTransform(s * above, s * ahead, s * ahead, -s * above, 0.0, 0.0)
    at = view.at(x, y)
    moved = place.map(upright)
    moved.translate(at)
    return moved


@lru_cache(maxsize=256)
def _upright_limb(
    front: tuple[float, ...], back: tuple[float, ...], size: float, length: int
) -> QPainterPath:
    """A limb that runs straight up from the origin, in metres; ``length`` in `SAME_LENGTH_M`."""
    top = np.array([0.0, length * SAME_LENGTH_M])
    outline = limb(np.zeros(2), top, size * np.array(front), size * np.array(back))
    return path_of(outline, View(1.0, 0.0, 0.0), up=1.0)


def legs_differ(result: Result) -> bool:
    """Whether the two legs are seen apart from the side."""
    apart = result.shown.pose.points["knee_left"][:2] - result.shown.pose.points["knee_right"][:2]
    return bool(np.abs(apart).max() > 0.01)


def _foot(result: Result, frame: int, size: float, side: str) -> Array:
    points = result.shown.pose.points
    heel, ball, toe, ankle = (
        points[f"{n}_{side}"][:2, frame] for n in ("heel", "ball", "toe", "ankle")
    )
    along = (ball - heel) / np.hypot(*(ball - heel))
    # The sole's normal points to the ankle: a foot laid on its instep is upside down.
    up = np.array([-along[1], along[0]])
    if up @ (ankle - heel) < 0.0:
        up = -up
    shape = [
        heel - 0.006 * size * along,
        heel - 0.012 * size * along + 0.018 * size * up,
        ankle - 0.024 * size * along + 0.006 * size * up,
        ankle + 0.022 * size * along + 0.008 * size * up,
        ball + 0.026 * size * up,
        toe - 0.004 * size * along + 0.016 * size * up,
        toe + 0.004 * size * along + 0.007 * size * up,
        toe,
        ball,
    ]
    return np.stack(shape, axis=1)
