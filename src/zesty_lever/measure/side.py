"""A side view from marks to motion: tracks, camera, angles, reps, faults, and the case of the deepest moment."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from zesty_lever.cases.model import School
from zesty_lever.exercises.catalogue import Variation, variation
from zesty_lever.measure.camera import Camera, calibrate
from zesty_lever.measure.clip import Clip
from zesty_lever.measure.faults import Fault, SideRep, rep_frames, side_sizes, told
from zesty_lever.measure.hand_over import side_case
from zesty_lever.measure.marks import MarksFile
from zesty_lever.measure.motion import Motion
from zesty_lever.measure.project import (
    LANDMARK_M,
    STICKER_M,
    Build,
    Seen,
    angle_errors,
    build_of,
    known_of,
    seen,
)
from zesty_lever.measure.reps import Rep, reps_of
from zesty_lever.measure.smooth import ANGLE_HZ, smoothed
from zesty_lever.measure.track import Tracks
from zesty_lever.measure.warn import side_warnings
from zesty_lever.physics.vectors import Array
from zesty_lever.problems import CaseError

NEEDED = ("ankle", "knee", "hip")
PLANTED = ("ankle", "heel", "ball", "toe")


def school_of(marks: MarksFile) -> School:
    """The school whose findings are told."""
    return marks.school or marks.athlete.school or "even"


def entry_of(marks: MarksFile) -> Variation | None:
    """The catalogue entry, where a variation is named."""
    return None if marks.variation is None else variation(marks.variation)


def carried(
    tracks: Tracks, names: tuple[str, ...]
) -> tuple[dict[str, Array], dict[str, NDArray[np.bool_]]]:
    """Places by mark; a planted foot's gaps are carried between what was seen, and said to be."""
    px = {name: tracks.of(name).copy() for name in tracks.names}
    inferred = {}
    for name in names:
        if name not in px:
            continue
        known = ~np.isnan(px[name][:, 0])
        if known.any() and not known.all():
            at = np.arange(len(known))
            for way in (0, 1):
                px[name][:, way] = np.interp(at, at[known], px[name][known, way])
            inferred[name] = ~known
    return px, inferred


def check_needed(tracks: Tracks, needed: tuple[str, ...], why: str) -> None:
    """Refuse a view without the marks that it needs. Raises `CaseError`."""
    lacking = [name for name in needed if name not in tracks.names]
    if lacking:
        raise CaseError(
            "needs-marks",
            f"marks of {', '.join(lacking)} are missing; {why}",
            key="marks",
            allowed=list(needed),
        )


def measure_side(clip: Clip, marks: MarksFile, tracks: Tracks) -> Motion:
    """Measure a side view. Raises `CaseError` where too few marks are set."""
    check_needed(tracks, NEEDED, "a side view needs ankle, knee and hip")
    entry, size = entry_of(marks), (clip.width, clip.height)
    build = build_of(marks, entry)
    px, inferred = carried(tracks, PLANTED)
    known = known_of(build, px, size)
    camera = calibrate(marks, known)
    times = clip.times_s[tracks.first : tracks.first + len(px["hip"])]
    raw = seen(camera, build, px)
    angles = {
        name: smoothed(times, value, ANGLE_HZ) for name, value in raw.angles_deg(build).items()
    }
    errors = angle_errors(marks, known, build, px, tracks, camera)
    sd = {
        name: np.where(np.isnan(angles[name]), np.nan, value)
        for name, value in errors.whole.items()
    }
    height = _height(raw, entry)
    reps = _in_order(reps_of(times, height, _bend(angles, entry)), entry)
    low, rep = _deepest(times, raw, reps, marks)
    views = _views(times, raw, angles, sd, errors.parts, reps, low)
    school = school_of(marks)
    faults: list[Fault] = []
    for number, view in views:
        faults += told(side_sizes(view, build, entry), number, school)
    case, more = side_case(marks, entry, angles, sd, low, reps[rep - 1] if rep else None)
    return Motion(
        marks=marks,
        first=tracks.first,
        times_s=times,
        px=px,
        apart_px={name: tracks.apart_px[row] for row, name in enumerate(tracks.names)},
        inferred=inferred,
        angles=angles,
        sd=sd,
        sd_parts=errors.parts,
        bar_m=None if raw.bar is None else raw.bar - [_mid_foot_m(build), 0.0],
        joints_m={
            n: getattr(raw, n)
            for n in ("ankle", "knee", "hip", "shoulder", "bar")
            if getattr(raw, n) is not None
        },
        height_m=height,
        reps=reps,
        faults=tuple(sorted(faults, key=lambda f: (f.open, f.severity != "flag", f.rep))),
        warnings=(*side_warnings(marks, camera, build, raw, tracks, times), *more),
        case=case,
        rep=rep,
        low=low,
        assumptions=_assumptions(marks, camera, build, entry),
        lengths_m=_lengths(raw, camera, marks),
        geometry_deg=errors.geometry,
        camera=camera,
        base_m=raw.base,
    )


def _lengths(raw: Seen, camera: Camera, marks: MarksFile) -> dict[str, tuple[float, float]]:
    """Shank and thigh as seen, with their standard errors, m."""
    landmark = STICKER_M if marks.stickers else LANDMARK_M
    ends = {"shank": ("ankle", "knee"), "thigh": ("knee", "hip")}
    found = {}
    for name, seen_m in raw.lengths.items():
        if not np.isnan(seen_m).all():
            middle_m = float(np.nanmedian(seen_m))
            share = float(np.hypot(camera.sd["scale"], 0.01))
            off = [landmark[end] / np.sqrt(2.0) for end in ends[name]]
            found[name] = (
                middle_m,
                float(np.sqrt((share * middle_m) ** 2 + off[0] ** 2 + off[1] ** 2)),
            )
    return found


def _mid_foot_m(build: Build) -> float:
    """Mid-foot ahead of the ankle."""
    return 0.25 * build.athlete.length_m("foot") * float(np.cos(build.toe_out_rad))


def _height(raw: Seen, entry: Variation | None) -> Array:
    """The height whose falling and rising are reps; bridges and floor pulls begin at the bottom."""
    height = raw.hip[:, 1] if raw.bar is None or np.isnan(raw.bar).all() else raw.bar[:, 1]
    if raw.bar is None and raw.shoulder is not None and _range(raw.shoulder[:, 1]) > _range(height):
        # In hinges without a bar the shoulders move, the hips hardly.
        height = raw.shoulder[:, 1]
    return -height if _starts_low(entry) else height


def _starts_low(entry: Variation | None) -> bool:
    """Whether a rep goes up first: bridges and floor pulls."""
    return entry is not None and (entry.lies or entry.from_floor)


def _range(values: Array) -> float:
    """From the lowest to the highest; 0 where nothing is known."""
    return 0.0 if np.isnan(values).all() else float(np.nanmax(values) - np.nanmin(values))


def _in_order(reps: tuple[Rep, ...], entry: Variation | None) -> tuple[Rep, ...]:
    """Tempo as down, pause, up, pause also where the first move is up."""
    if not _starts_low(entry):
        return reps
    return tuple(
        replace(rep, tempo_s=(rep.tempo_s[2], rep.tempo_s[3], rep.tempo_s[0], rep.tempo_s[1]))
        for rep in reps
    )


def _bend(angles: Mapping[str, Array], entry: Variation | None) -> Array:
    """The joint that bends most over the clip, deg: knee or hip."""
    knee = angles["shin"] + 90.0 - angles["thigh"]
    bends = [knee]
    if "trunk" in angles:
        bends.append(angles["trunk"] + 90.0 - angles["thigh"])
    widths = [_range(bend) for bend in bends]
    # The knee is seen best: another joint has to move clearly more.
    best = 1 if len(bends) > 1 and widths[1] > 1.5 * widths[0] else 0
    return -bends[best] if _starts_low(entry) else bends[best]


def _deepest(times: Array, raw: Seen, reps: tuple[Rep, ...], marks: MarksFile) -> tuple[int, int]:
    """Frame and rep (from 1) of the deepest moment of the chosen rep; rep 0 where there is none."""
    height = np.where(np.isnan(raw.hip[:, 1]), np.inf, raw.hip[:, 1])
    if not reps:
        return int(np.argmin(height)), 0
    if marks.rep is not None and marks.rep > len(reps):
        raise CaseError(
            "out-of-range",
            f"rep is {marks.rep}; the clip has {len(reps)}",
            key="rep",
            value=marks.rep,
            allowed=[1, len(reps)],
        )
    lows = [rep_frames(times, rep)[1] for rep in reps]
    chosen = marks.rep or 1 + int(np.argmin([height[low] for low in lows]))
    return lows[chosen - 1], chosen


def _views(
    times: Array,
    raw: Seen,
    angles: Mapping[str, Array],
    sd: Mapping[str, Array],
    parts: Mapping[str, Mapping[str, Array]],
    reps: tuple[Rep, ...],
    low: int,
) -> list[tuple[int, SideRep]]:
    """Each rep, or the one moment of a still, for the measures of faults."""
    # Within a rep only tracking and half of what turns with the body count.
    apart = {
        name: np.sqrt(
            np.square(own["track"])
            + np.square(0.35 * own["landmark"])
            + np.square(0.3 * own["geometry"])
        )
        for name, own in parts.items()
    }
    if not reps:
        return [(0, SideRep(times, low, low, low, raw, angles, sd, apart))]
    return [
        (n, SideRep(times, *rep_frames(times, rep), raw, angles, sd, apart))
        for n, rep in enumerate(reps, 1)
    ]


def _assumptions(
    marks: MarksFile, camera: Camera, build: Build, entry: Variation | None
) -> tuple[str, ...]:
    """What the measurement rests on, in words."""
    sources = {
        "disc": "the near disc's size",
        "length": "a taped length",
        "shank": "the shank's length, as nothing of known size is marked",
        "tape": "tape",
        "sleeve": "the bar's sleeve",
        "height": "the camera's height and the ankle",
        "plumb": "an upright in the picture",
        "typed": "what was typed",
        "nothing": "nothing: taken as square, level, or 4 m away",
    }
    told = camera.told
    lines = [
        f"scale from {sources[told['scale']]}; distance {camera.distance_m:.2f} m from {sources[told['distance']]}",
        f"yaw {camera.yaw_deg:.1f} deg from {sources[told['yaw']]}; pitch {camera.pitch_deg:.1f} deg from "
        f"{sources[told['pitch']]}; roll {camera.roll_deg:.1f} deg from {sources[told['roll']]}",
        f"ankles {200 * build.half_stance_m:.0f} cm apart, toes {np.degrees(build.toe_out_rad):.0f} deg out, "
        f"hips {200 * build.half_hips_m:.0f} cm apart; from skin to joint {100 * build.skin_m('hip'):.0f}, "
        f"{100 * build.skin_m('knee'):.0f} and {100 * build.skin_m('ankle'):.0f} cm at hip, knee and ankle",
        "landmarks are off by 15, 7 and 4 mm at hip, knee and ankle under clothes, 8, 5 and 3 mm with stickers (assumption)",
        "what is measured is the near leg; the far one is taken to do the same",
    ]
    if "shoulder" not in marks.marks and "bar" in marks.marks and build.bar_offset is not None:
        lines.append(
            "trunk from hip and bar: the bar lies where this variation carries it, give or take 1.5 cm"
        )
    if entry is not None and entry.has_front_leg:
        lines.append("the near leg is the front leg")
    return tuple(lines)
