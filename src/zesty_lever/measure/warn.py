"""Warnings about camera and marks: what makes a measurement worse than it has to be, and what helps."""

from __future__ import annotations

import numpy as np

from zesty_lever.measure.camera import Camera
from zesty_lever.measure.marks import MarksFile
from zesty_lever.measure.motion import Motion, Warned
from zesty_lever.measure.project import Build, Seen
from zesty_lever.measure.track import Tracks
from zesty_lever.physics.vectors import Array

MOST_YAW_DEG, MOST_HEIGHT_M, LEAST_DISTANCE_M = 3.0, 1.3, 3.0
# Seen longer than this many times its length a segment can't be, measured or estimated from the height.
LONGER_MEASURED, LONGER_ESTIMATED = 1.05, 1.15
APART_PX = 10.0


def side_warnings(
    marks: MarksFile, camera: Camera, build: Build, raw: Seen, tracks: Tracks, times_s: Array
) -> list[Warned]:
    """Everything that a coach should hear before trusting a side view."""
    return [*_camera(marks, camera), *_segments(build, raw), *track_warnings(tracks, times_s)]


HELPS = {
    "distance": "the camera's distance: tape it",
    "yaw": "how square the camera stands: mark hub and sleeve end, or enter the angle",
    "pitch": "whether the camera looks up or down: enter its height, or mark the sleeve",
    "roll": "whether the picture is level: mark something upright",
    "centre_x": "the lens: nothing to do",
    "centre_y": "the lens: nothing to do",
    "scale": "the disc's outline: set it with the loupe",
    "depth": "how far ankle, knee and hip are from the camera: enter stance and toe-out, or measure the front",
}


def largest_error(motion: Motion) -> str:
    """What the angles' errors come from most, and what helps, in one line; empty where nothing is told."""
    if not motion.sd_parts:
        return ""
    sizes = {
        source: float(
            np.sqrt(
                np.nanmean(
                    [
                        np.square(parts[source])
                        for parts in motion.sd_parts.values()
                        if source in parts
                    ]
                )
            )
        )
        for source in ("landmark", "track", "placement")
        if any(source in parts for parts in motion.sd_parts.values())
    }
    words = {
        "landmark": "where the joints are under the clothes: stickers help",
        "track": "following the marks: one more mark where the two ways disagree",
        "placement": "where the bar lies on the back: mark the shoulder if it is seen",
        **HELPS,
    }
    sizes |= motion.geometry_deg
    name = max(sizes, key=lambda key: sizes[key])
    return f"The largest part of the error, {sizes[name]:.1f}°, is {words[name]}."


def _camera(marks: MarksFile, camera: Camera) -> list[Warned]:
    found, told = [], camera.told
    yaw = camera.yaw_deg
    if told["yaw"] == "sleeve" and abs(yaw) > MOST_YAW_DEG:
        way = "ahead of" if yaw > 0 else "behind"
        found.append(
            Warned(
                "yaw",
                yaw,
                "deg",
                f"The camera stands {abs(yaw):.0f}° out of square, {way} the athlete: the bar's sleeve shows it. It is "
                "corrected here; set the camera square, or enter the angle.",
            )
        )
    if told["yaw"] == "nothing":
        found.append(
            Warned(
                "yaw-unknown",
                camera.sd["yaw"],
                "deg",
                "Nothing tells whether the camera stands square. Mark the bar's hub and sleeve end, or enter the angle.",
            )
        )
    height = camera.height_m
    if height is not None and height > MOST_HEIGHT_M:
        found.append(
            Warned(
                "camera-high",
                height,
                "m",
                f"The camera stands {height:.1f} m high; up to {MOST_HEIGHT_M:g} m is good: hip height is best.",
            )
        )
    distance = marks.camera.distance_m
    if distance is None:
        found.append(
            Warned(
                "distance-unknown",
                camera.distance_m,
                "m",
                f"The camera's distance was not taped: {camera.distance_m:.1f} m is taken, give or take 0.6 m.",
            )
        )
    elif distance < LEAST_DISTANCE_M:
        found.append(
            Warned(
                "camera-near",
                distance,
                "m",
                f"The camera stands {distance:.1f} m away; {LEAST_DISTANCE_M:g} m and more is good: near depth counts double.",
            )
        )
    if told["scale"] == "shank":
        found.append(
            Warned(
                "no-scale",
                100.0 * camera.sd["scale"],
                "%",
                "Nothing of known size is marked: the shank's length gives the scale. Mark the near disc or a taped length.",
            )
        )
    return found


def _segments(build: Build, raw: Seen) -> list[Warned]:
    """A segment can't be seen longer than it is: depth, scale or yaw are off."""
    found = []
    for name, line in (("shank", raw.knee - raw.ankle), ("thigh", raw.hip - raw.knee)):
        seen_m = np.hypot(*line.T)
        if np.isnan(seen_m).all():
            continue
        longest, own = float(np.nanquantile(seen_m, 0.9)), build.athlete.length_m(name)
        measured = name in build.athlete.lengths_m
        if longest > own * (LONGER_MEASURED if measured else LONGER_ESTIMATED):
            what = "measured" if measured else "estimated from the height"
            found.append(
                Warned(
                    "segment-long",
                    100.0 * (longest - own),
                    "cm",
                    f"The {name} is seen {100 * longest:.0f} cm long; it is {what} as {100 * own:.0f} cm: check scale, "
                    "distance and the marks.",
                )
            )
    return found


def track_warnings(tracks: Tracks, times_s: Array) -> list[Warned]:
    """Where tracking is unsure or lost."""
    found = []
    for row, name in enumerate(tracks.names):
        apart = tracks.apart_px[row]
        lost = int(np.isnan(tracks.places_px[row, :, 0]).sum())
        if lost:
            found.append(
                Warned(
                    "mark-lost",
                    float(lost),
                    "frames",
                    f"The {name} is not seen in {lost} of {len(times_s)} frames.",
                )
            )
        if not np.isnan(apart).all() and float(np.nanmax(apart)) > APART_PX:
            at = int(np.nanargmax(apart))
            found.append(
                Warned(
                    "tracks-apart",
                    float(apart[at]),
                    "px",
                    f"The {name} followed from both sides disagrees by {apart[at]:.0f} px at {times_s[at]:.2f} s: a mark "
                    "there helps.",
                )
            )
    return found
