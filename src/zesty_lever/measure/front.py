"""A front view from marks to motion: stance, toe-out, knee track, hip shift, left against right.

Depth is what a front view can't see: how far knees and hips are from the ankles' plane is taken from the side
view's angles where they are known, else from the variation's default; then distances are good to 1.5 cm.
"""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from zesty_lever.cases.model import Case, ReadErrors
from zesty_lever.cases.resolve import technique_of
from zesty_lever.exercises.catalogue import Variation
from zesty_lever.frozen import dataclass
from zesty_lever.joints import SIDES
from zesty_lever.measure.camera import Camera, Known, calibrate
from zesty_lever.measure.clip import Clip
from zesty_lever.measure.faults import Fault, Size, rep_frames, told
from zesty_lever.measure.marks import MarksFile
from zesty_lever.measure.motion import Motion, Warned
from zesty_lever.measure.project import middle, standing
from zesty_lever.measure.reps import Rep, reps_of
from zesty_lever.measure.side import carried, check_needed, entry_of, school_of
from zesty_lever.measure.smooth import ANGLE_HZ, smoothed
from zesty_lever.measure.track import Tracks
from zesty_lever.measure.warn import track_warnings
from zesty_lever.physics.vectors import Array, smoothstep

NEEDED = tuple(f"{name}_{side}" for name in ("ankle", "knee") for side in SIDES)
PLANTED = tuple(f"{name}_{side}" for name in ("ankle", "toe", "heel") for side in SIDES)
# Standard errors of distances, m: with depths from a side view, and without.
SD_WITH_SIDE_M, SD_ALONE_M = 0.008, 0.015
# Between two moments of one clip only tracking and the depth's change are off.
SD_CHANGE_M = 0.008
TOE_SD_DEG = 4.0
TOE_AHEAD = 0.75  # of the foot's length, from ankle to toe tip
SURE = 1.6449


@dataclass(frozen=True)
class Depths:
    """How far ahead of the ankles knees and hips are, m ``(frames,)``; ``known``: from a side view.

    ``straight`` is 1 for a straight knee and 0 from 60 degrees of bending on, ``share`` the shank's part of the leg.
    """

    knee: Array
    hip: Array
    toe: float
    known: bool
    straight: Array
    share: float


@dataclass(frozen=True)
class Sides:
    """What the front shows over the frames, m: + outwards for knee tracks, + to the athlete's right for hips."""

    track: Mapping[str, Array]
    shift: Array | None
    height: Array


def measure_front(clip: Clip, marks: MarksFile, tracks: Tracks) -> Motion:
    """Measure a front view. Raises `CaseError` where too few marks are set."""
    check_needed(tracks, NEEDED, "a front view needs both ankles and both knees")
    entry = entry_of(marks)
    px, inferred = carried(tracks, PLANTED)
    times = clip.times_s[tracks.first : tracks.first + len(px["ankle_left"])]
    camera = calibrate(marks, _known(marks, px, (clip.width, clip.height)))
    sunk = _sunk(px)
    depths = _depths(marks, entry, sunk)
    places = _places(camera, px, depths)
    toe_out = _toe_out_deg(places, marks)
    sides = _sides(places, depths, toe_out, times, 0.5 * marks.athlete.length_m("hip_width"))
    reps = reps_of(times, sides.height, np.full_like(times, np.nan))
    low, rep = _deepest(times, sides, reps, marks)
    sd = SD_WITH_SIDE_M if depths.known else SD_ALONE_M
    distances = _distances(places, sides, toe_out, low)
    spread = {k: SD_CHANGE_M if k == "hip_shift" else sd for k in distances}
    case, warned = _case(marks, entry, distances, spread, toe_out)
    return Motion(
        marks=marks,
        first=tracks.first,
        times_s=times,
        px=px,
        apart_px={name: tracks.apart_px[row] for row, name in enumerate(tracks.names)},
        inferred=inferred,
        angles={f"toe_out_{side}": np.full_like(times, v) for side, v in toe_out.items()},
        sd={f"toe_out_{side}": np.full_like(times, TOE_SD_DEG) for side in toe_out},
        joints_m=places,
        height_m=sides.height,
        distances_m=distances,
        distances_sd_m=spread,
        tracks_m=_over_time(sides),
        reps=reps,
        faults=_faults(times, sides, reps, low, sd, marks),
        warnings=(*_warnings(marks, camera, depths), *warned, *track_warnings(tracks, times)),
        case=case,
        rep=rep,
        low=low,
        assumptions=_assumptions(camera, depths),
    )


def _known(marks: MarksFile, px: Mapping[str, Array], size: tuple[int, int]) -> Known:
    """What the camera rests on: an ankle's height, and a standing shank where nothing of known size is marked."""
    ankle, knee = px["ankle_right"], px["knee_right"]
    long = np.hypot(*(knee - ankle).T)
    athlete = marks.athlete
    at = None if np.isnan(ankle).all() else middle(ankle)
    longest = None if np.isnan(long).all() else float(np.nanquantile(long, 0.95))
    return Known(
        size, at, 0.0, athlete.length_m("ankle_height"), longest, athlete.length_m("shank")
    )


def _sunk(px: Mapping[str, Array]) -> Array:
    """How deep the athlete is at each frame, 0 standing to 1 deepest, by hips or knees in the picture."""
    names = [n for n in ("hip_left", "hip_right") if n in px] or ["knee_left", "knee_right"]
    down = np.nanmean([px[n][:, 1] for n in names], axis=0)
    if np.isnan(down).all() or np.nanmax(down) - np.nanmin(down) < 1.0:
        return np.ones_like(down)
    share: Array = (down - np.nanmin(down)) / (np.nanmax(down) - np.nanmin(down))
    return share


def _depths(marks: MarksFile, entry: Variation | None, sunk: Array) -> Depths:
    """Depths from the side view's angles, else from the variation's default."""
    athlete = marks.athlete
    usual = {} if entry is None else technique_of(entry, athlete, school_of(marks))
    given = {k: v for k, v in marks.settings.items() if v is not None}
    shin, thigh = (
        given.get(key, usual.get(key) if usual.get(key) is not None else default)
        for key, default in (("shin_deg", 30.0), ("thigh_deg", 0.0))
    )
    shank_m, thigh_m = athlete.length_m("shank"), athlete.length_m("thigh")
    # How high the hips are says how far the thigh is from upright: what is left of the way is not in proportion.
    lean = np.radians(float(shin or 0.0)) * np.sqrt(sunk)
    lowest = np.sin(np.radians(float(thigh or 0.0)))
    lift = np.arcsin(np.clip(1.0 - (1.0 - lowest) * sunk, -1.0, 1.0))
    knee = shank_m * np.sin(lean)
    hip = knee - thigh_m * np.cos(lift)
    known = "shin_deg" in given and "thigh_deg" in given
    straight = 1.0 - smoothstep((lean + 0.5 * np.pi - lift) / np.radians(60.0))
    share = shank_m / (shank_m + thigh_m)
    return Depths(knee, hip, TOE_AHEAD * athlete.length_m("foot"), known, straight, share)


def _places(camera: Camera, px: Mapping[str, Array], depths: Depths) -> dict[str, Array]:
    """Places ``(frames, 2)`` m by mark: to the athlete's right, and up from the ankles."""
    planes: dict[str, Array | float] = {
        "ankle": 0.0,
        "knee": depths.knee,
        "hip": depths.hip,
        "toe": depths.toe,
        "heel": -0.06,
    }
    raw = {name: camera.cast(at, planes[name.partition("_")[0]]) for name, at in px.items()}
    feet = np.stack([raw["ankle_left"], raw["ankle_right"]])
    base = np.nanmedian(feet.reshape(-1, 2), axis=0) if not np.isnan(feet).all() else np.zeros(2)
    # Seen from the front the athlete's right is left in the picture.
    return {name: (place - base) * [-1.0, 1.0] for name, place in raw.items()}


def _outward(side: str) -> float:
    return 1.0 if side == "right" else -1.0


def _toe_out_deg(places: Mapping[str, Array], marks: MarksFile) -> dict[str, float]:
    """Toe-out of each foot with a toe mark, deg: how far the toe is outside the ankle, over the foot's length."""
    reach = TOE_AHEAD * marks.athlete.length_m("foot")
    found = {}
    for side in SIDES:
        if f"toe_{side}" in places:
            off = _outward(side) * (places[f"toe_{side}"][:, 0] - places[f"ankle_{side}"][:, 0])
            if not np.isnan(off).all():
                found[side] = float(
                    np.degrees(np.arcsin(np.clip(np.nanmedian(off) / reach, -0.9, 0.9)))
                )
    return found


def _knee_track(
    places: Mapping[str, Array], depths: Depths, side: str, toe_out_deg: float, half_hips_m: float
) -> Array:
    """How far a knee is outside the line over its toes, m; a straight leg's knee belongs on the leg's own line.

    The rule of the model's pose (docs/model.md, section 3), read backwards.
    """
    turn = float(np.tan(np.radians(toe_out_deg)))
    ankle = _outward(side) * places[f"ankle_{side}"][:, 0]
    off = _outward(side) * places[f"knee_{side}"][:, 0] - ankle - turn * depths.knee
    hip = _outward(side) * places[f"hip_{side}"][:, 0] if f"hip_{side}" in places else half_hips_m
    own = depths.straight * depths.share * (hip - ankle - turn * depths.hip)
    track: Array = float(np.cos(np.radians(toe_out_deg))) * (off - own)
    return track


def _sides(
    places: Mapping[str, Array],
    depths: Depths,
    toe_out: Mapping[str, float],
    times_s: Array,
    half_hips_m: float,
) -> Sides:
    track = {}
    for side in SIDES:
        own = _knee_track(places, depths, side, toe_out.get(side, 15.0), half_hips_m)
        track[side] = smoothed(times_s, own, ANGLE_HZ)
    shift = None
    hips = [places[f"hip_{side}"] for side in SIDES if f"hip_{side}" in places]
    middle = 0.5 * (places["ankle_left"][:, 0] + places["ankle_right"][:, 0])
    if len(hips) == 2:
        shift = smoothed(times_s, 0.5 * (hips[0] + hips[1])[:, 0] - middle, ANGLE_HZ)
    height = (
        np.nanmean([h[:, 1] for h in hips], axis=0)
        if hips
        else 0.5 * (places["knee_left"] + places["knee_right"])[:, 1]
    )
    return Sides(track, shift, height)


def _deepest(
    times_s: Array, sides: Sides, reps: tuple[Rep, ...], marks: MarksFile
) -> tuple[int, int]:
    if not reps:
        return int(np.argmin(np.where(np.isnan(sides.height), np.inf, sides.height))), 0
    lows = [rep_frames(times_s, rep)[1] for rep in reps]
    chosen = min(marks.rep or 1 + int(np.argmin([sides.height[low] for low in lows])), len(reps))
    return lows[chosen - 1], chosen


def _distances(
    places: Mapping[str, Array], sides: Sides, toe_out: Mapping[str, float], low: int
) -> dict[str, float]:
    """Stance, hip shift and knee tracks at the deepest moment, m."""
    found = {
        "stance": float(np.nanmedian(places["ankle_right"][:, 0] - places["ankle_left"][:, 0]))
    }
    if sides.shift is not None:
        found["hip_shift"] = float(sides.shift[low]) - standing(sides.shift, sides.height)
    if toe_out:
        found |= {
            f"knee_track_{side}": float(track[low])
            for side, track in sides.track.items()
            if side in toe_out
        }
    return {k: v for k, v in found.items() if np.isfinite(v)}


def _over_time(sides: Sides) -> dict[str, Array]:
    """Knee tracks and hip shift over the frames, m."""
    found = {f"knee_track_{side}": track for side, track in sides.track.items()}
    if sides.shift is not None:
        rest = standing(sides.shift, sides.height)
        found["hip_shift"] = sides.shift - (rest if np.isfinite(rest) else 0.0)
    return found


def _faults(
    times_s: Array, sides: Sides, reps: tuple[Rep, ...], low: int, sd_m: float, marks: MarksFile
) -> tuple[Fault, ...]:
    """Knees that cave, one that caves more, hips that slide, in each rep."""
    views = [(n, *rep_frames(times_s, rep)) for n, rep in enumerate(reps, 1)] or [
        (0, low, low, low)
    ]
    rest = 0.0 if sides.shift is None else standing(sides.shift, sides.height)
    found: list[Fault] = []
    for number, first, _, last in views:
        part = slice(first, last + 1)
        sizes, worst = [], {}
        for side, track in sides.track.items():
            if np.isnan(track[part]).all():
                continue
            at = first + int(np.nanargmin(track[part]))
            worst[side] = 100.0 * float(track[at])
            sizes.append(
                Size("knee-track", -worst[side], 100.0 * sd_m, float(times_s[at]), {"side": side})
            )
        if len(worst) == 2:
            side = min(worst, key=lambda s: worst[s])
            gap = abs(worst["left"] - worst["right"])
            sizes.append(
                Size(
                    "one-knee-caves",
                    gap,
                    140.0 * SD_CHANGE_M,
                    float(times_s[first]),
                    {"side": side},
                )
            )
        if sides.shift is not None and not np.isnan(sides.shift[part]).all():
            off = 100.0 * (sides.shift[part] - rest)
            at = int(np.nanargmax(np.abs(off)))
            words = {"side": "right" if off[at] > 0 else "left"}
            sizes.append(
                Size(
                    "side-shift",
                    abs(float(off[at])),
                    100.0 * SD_CHANGE_M,
                    float(times_s[first + at]),
                    words,
                )
            )
        found += told(sizes, number, school_of(marks))
    return tuple(sorted(found, key=lambda f: (f.open, f.severity != "flag", f.rep)))


def _case(
    marks: MarksFile,
    entry: Variation | None,
    distances: Mapping[str, float],
    sd: Mapping[str, float],
    toe_out: Mapping[str, float],
) -> tuple[Case | None, list[Warned]]:
    """The marks' set-up with what the front saw; a shift or a cave only where it is sure."""
    if entry is None:
        return None, []
    values = {"stance_m": distances["stance"]}
    if len(toe_out) == 2:
        values["toe_out_deg"] = 0.5 * (toe_out["left"] + toe_out["right"])
    tracks = {side: distances.get(f"knee_track_{side}", 0.0) for side in SIDES}
    sure = {
        s: v if abs(v) > SURE * sd.get(f"knee_track_{s}", SD_ALONE_M) else 0.0
        for s, v in tracks.items()
    }
    values["knee_track_m"] = sure["right"]
    values["left_track_m"] = sure["left"] - sure["right"]
    shift = distances.get("hip_shift", 0.0)
    values["hip_shift_m"] = shift if abs(shift) > SURE * SD_CHANGE_M else 0.0
    settings, warned = dict(marks.settings), []
    for key, value in values.items():
        if key not in entry.settings:
            continue
        low, high = entry.settings[key].range
        if low <= value <= high:
            settings[key] = round(value, 3 if key.endswith("_m") else 1)
        else:
            name = entry.settings[key].name.lower()
            unit = entry.settings[key].unit
            text = f"The {name} measures {value:.3g} {unit}; {entry.name} takes {low:g} to {high:g} {unit}, so it is left out."
            warned.append(Warned("not-settable", value, unit, text))
    case = Case(
        athlete=marks.athlete,
        variation=entry.id,
        school=school_of(marks),
        settings=settings,
        load_kg=marks.load_kg,
        errors=ReadErrors(offset_m=SD_ALONE_M),
    )
    return case, warned


def _warnings(marks: MarksFile, camera: Camera, depths: Depths) -> list[Warned]:
    found = []
    if not depths.known:
        found.append(
            Warned(
                "depth-unknown",
                100.0 * SD_ALONE_M,
                "cm",
                "No side view tells how far knees and hips are from the camera: distances are good to 1.5 cm.",
            )
        )
    if camera.told["scale"] == "shank":
        found.append(
            Warned(
                "no-scale",
                100.0 * camera.sd["scale"],
                "%",
                "Nothing of known size is marked: the shank gives the scale.",
            )
        )
    if marks.camera.distance_m is None:
        found.append(
            Warned(
                "distance-unknown",
                camera.distance_m,
                "m",
                "The camera's distance was not taped: 4 m is taken, give or take 0.6 m.",
            )
        )
    return found


def _assumptions(camera: Camera, depths: Depths) -> tuple[str, ...]:
    source = "the side view" if depths.known else "the variation's default technique"
    return (
        f"depths of knees and hips from {source}; camera {camera.distance_m:.2f} m away, {camera.yaw_deg:.1f} deg out of square",
        "hip shift is counted from standing tall; knee track at the deepest moment",
    )
