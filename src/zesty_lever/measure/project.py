"""From tracked pixels to joints and angles, with their errors: a side view.

Each mark's ray is cast onto its own plane: the ankle at half the stance, the knee over the toe line, the hip at
half the hips' width, the bar at its disc's face; from skin to joint centre inward along the leg's own normal.
A few rounds suffice, because each plane depends a little on the angles.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

import numpy as np

from zesty_lever.cases.model import Athlete
from zesty_lever.cases.resolve import technique_of
from zesty_lever.exercises.catalogue import Variation
from zesty_lever.frozen import dataclass
from zesty_lever.measure.camera import Camera, Known, calibrate
from zesty_lever.measure.marks import MarksFile
from zesty_lever.measure.track import Tracks
from zesty_lever.physics.vectors import Array, cross, norm, smoothstep

# From joint centre to the skin at its outer side, m at a stature of 1.75 m. Common practice, no source.
SKIN_M = {"ankle": 0.035, "knee": 0.054, "hip": 0.085, "shoulder": 0.06}
# How far off the joint's place a finger or a sticker is, 2-D standard error, m. Assumption of the trials.
LANDMARK_M = {"hip": 0.015, "knee": 0.007, "ankle": 0.004, "shoulder": 0.008, "bar": 0.004}
STICKER_M = {"hip": 0.008, "knee": 0.005, "ankle": 0.003, "shoulder": 0.006, "bar": 0.004}
# How much clothes may slide over a joint between hand marks, m.
SLIDE_M = {"hip": 0.003, "knee": 0.002, "ankle": 0.001, "shoulder": 0.003, "bar": 0.0}
BAR_PLACE_M, USUAL_FACE_M = 0.015, 0.75
# Standard errors of the planes' depths, m.
DEPTH_SD_M = {"ankle": 0.02, "knee": 0.025, "hip": 0.025, "shoulder": 0.03, "bar": 0.02}
# How well feet are read, deg, and how far a body's cover differs from the usual, as a share.
TOE_SD_DEG, THICK_SD = 3.0, 0.15
CLICK_PX = 0.7
# The error of two ways faded into each other, as a share of how far they are apart. Trials with known truth.
TRACK_SHARE = 0.06
# A leg whose sine of bending is below this has no plane of its own.
BENT = 0.33
ROUNDS = 4
ANGLES = ("shin", "thigh", "trunk")


@dataclass(frozen=True)
class Build:
    """What of the athlete and the set-up the planes' depths rest on, m and rad."""

    athlete: Athlete
    half_stance_m: float
    toe_out_rad: float
    bar_offset: tuple[float, float] | None
    face_z_m: float = USUAL_FACE_M
    thick: float = 1.0

    @property
    def size(self) -> float:
        """Stature against 1.75 m."""
        return self.athlete.height_m / 1.75

    @property
    def half_hips_m(self) -> float:
        """Half the distance between the hip joints."""
        return 0.5 * self.athlete.length_m("hip_width")

    def skin_m(self, name: str) -> float:
        """From joint centre to skin."""
        return SKIN_M[name] * self.size * self.thick


def build_of(marks: MarksFile, entry: Variation | None) -> Build:
    """The build for a file of marks: its settings, else the variation's defaults for this athlete."""
    athlete = marks.athlete
    usual: Mapping[str, float | None] = {}
    offset = None
    if entry is not None:
        usual = technique_of(entry, athlete, marks.school or athlete.school or "even")
        load = entry.load
        if load is not None and load.carried_by == ("trunk",) and load.forward is not None:
            offset = (load.forward * athlete.height_m, load.above * athlete.height_m)
    values = {**usual, **{k: v for k, v in marks.settings.items() if v is not None}}
    stance = values.get("stance_m")
    toe_out = values.get("toe_out_deg") or 0.0
    return Build(
        athlete,
        0.5 * (stance if stance is not None else 0.23 * athlete.height_m),
        float(np.radians(toe_out)),
        offset,
        marks.calibration.disc.face_z_m if marks.calibration.disc else USUAL_FACE_M,
    )


@dataclass(frozen=True)
class Seen:
    """Joint centres over the frames, ``(frames, 2)`` m: ahead of the ankle's middle place, above the floor; NaN unknown.

    ``base`` is that origin from the lens (forward, upward, m). ``lengths`` are the segments' in space, ``(frames,)``.
    """

    ankle: Array
    knee: Array
    hip: Array
    shoulder: Array | None
    bar: Array | None
    heel: Array | None
    ball: Array | None
    toe: Array | None
    base: Array
    lengths: Mapping[str, Array]

    def angles_deg(self, build: Build) -> dict[str, Array]:
        """Side-view angles ``(frames,)``: shin, thigh, and trunk where shoulder or bar are marked."""
        shin, thigh = self.knee - self.ankle, self.hip - self.knee
        found = {
            "shin": np.degrees(np.arctan2(shin[:, 0], shin[:, 1])),
            "thigh": np.degrees(np.arctan2(thigh[:, 1], -thigh[:, 0])),
        }
        if self.shoulder is not None:
            found["trunk"] = _lean_deg(self.shoulder - self.hip)
        elif self.bar is not None and build.bar_offset is not None:
            forward, above = build.bar_offset
            rise = build.athlete.length_m("hip_to_shoulder") + above
            found["trunk"] = _lean_deg(self.bar - self.hip) - float(
                np.degrees(np.arctan2(forward, rise))
            )
        if self.heel is not None and self.ball is not None:
            foot = self.ball - self.heel
            pitch = np.degrees(np.arctan2(-foot[:, 1], foot[:, 0]))
            found["heel_lift"] = pitch - standing(pitch, self.hip[:, 1])
        return found


def _lean_deg(line: Array) -> Array:
    lean: Array = np.degrees(np.arctan2(line[:, 0], line[:, 1]))
    return lean


def standing(values: Array, height: Array) -> float:
    """The middle of a value over the tenth of the frames at which the hips are highest."""
    known = ~np.isnan(values) & ~np.isnan(height)
    if not known.any():
        return float("nan")
    high = height[known] >= np.quantile(height[known], 0.9)
    return float(np.median(values[known][high]))


def middle(places: Array) -> tuple[float, float]:
    """Median place ``(frames, 2)``."""
    x, y = np.nanmedian(places, axis=0).tolist()
    return x, y


def known_of(build: Build, px: Mapping[str, Array], size_px: tuple[int, int]) -> Known:
    """What the camera rests on beside what is marked for it."""
    ankle, knee = px.get("ankle"), px.get("knee")
    ankle_px, shank_px = None, None
    if ankle is not None and not np.isnan(ankle).all():
        ankle_px = middle(ankle)
        if knee is not None:
            seen = np.hypot(*(knee - ankle).T)
            shank_px = float(np.nanquantile(seen, 0.9)) if not np.isnan(seen).all() else None
    return Known(
        size_px,
        ankle_px,
        build.half_stance_m + build.skin_m("ankle") * float(np.cos(build.toe_out_rad)),
        build.athlete.length_m("ankle_height"),
        shank_px,
        build.athlete.length_m("shank"),
    )


def seen(
    camera: Camera, build: Build, px: Mapping[str, Array], deeper: Mapping[str, float] | None = None
) -> Seen:
    """Joint centres from pixels ``(frames, 2)`` by name.

    ``deeper`` moves planes towards the camera, m by name, so that errors can be told.
    """
    extra = {name: (deeper or {}).get(name, 0.0) for name in DEPTH_SD_M}
    # Planes depend on all three joints: where one is not seen its place is taken between those that are.
    unseen = {name: np.isnan(px[name][:, 0]) for name in ("ankle", "knee", "hip")}
    px = {**px, **{name: _between(px[name]) for name in unseen}}
    frames = len(px["ankle"])
    tau = build.toe_out_rad
    foot_way = np.array([-np.sin(tau), 0.0, np.cos(tau)])[:, None] * np.ones(frames)
    leg_way = foot_way
    depth: dict[str, Array | float] = {
        "ankle": build.half_stance_m,
        "knee": np.full(frames, build.half_stance_m),
        "hip": build.half_hips_m,
    }
    joints: dict[str, Array] = {}
    for _ in range(ROUNDS):
        ways = {"ankle": foot_way, "knee": leg_way, "hip": leg_way}
        for name, way in ways.items():
            radius = build.skin_m(name)
            z = depth[name] + radius * way[2] + extra[name]
            joints[name] = camera.cast(px[name], z) - radius * way[:2].T
        depth["knee"] = _knee_depth_m(joints, build)
        leg_way = _leg_normal(joints, depth, foot_way)
    for name, gone in unseen.items():
        joints[name][gone] = np.nan
    shank_x = np.nanmedian(joints["ankle"][:, 0]) if not np.isnan(joints["ankle"]).all() else 0.0
    base = np.array(
        [shank_x, np.nanmedian(joints["ankle"][:, 1]) - build.athlete.length_m("ankle_height")]
    )
    face = build.face_z_m + extra["bar"]
    shoulder_z = (
        0.5 * build.athlete.length_m("shoulder_width")
        + build.skin_m("shoulder")
        + extra["shoulder"]
    )
    near = build.half_stance_m + 0.045
    planes = {
        "shoulder": shoulder_z,
        "bar": face,
        "heel": near,
        "ball": near + 0.1 * np.tan(tau),
        "toe": near + 0.15 * np.tan(tau),
    }
    flat = {name: camera.cast(px[name], z) - base for name, z in planes.items() if name in px}
    return Seen(
        ankle=joints["ankle"] - base,
        knee=joints["knee"] - base,
        hip=joints["hip"] - base,
        shoulder=flat.get("shoulder"),
        bar=flat.get("bar"),
        heel=flat.get("heel"),
        ball=flat.get("ball"),
        toe=flat.get("toe"),
        base=base,
        lengths={
            name: np.hypot(
                np.hypot(*(joints[b] - joints[a]).T), np.asarray(depth[b]) - np.asarray(depth[a])
            )
            for name, a, b in (("shank", "ankle", "knee"), ("thigh", "knee", "hip"))
        },
    )


def _between(places: Array) -> Array:
    """Places ``(frames, 2)`` with gaps filled between what is known; unchanged where nothing is."""
    known = ~np.isnan(places[:, 0])
    if known.all() or not known.any():
        return places
    at = np.arange(len(places))
    return np.stack([np.interp(at, at[known], places[known, way]) for way in (0, 1)], axis=1)


def _knee_depth_m(joints: Mapping[str, Array], build: Build) -> Array:
    """How far the knee is from the middle plane: over the toe line when bent, in line with the leg when straight.

    The rule of the model's own pose (docs/model.md, section 3).
    """
    ankle, knee, hip = (joints[name] for name in ("ankle", "knee", "hip"))
    shank, thigh = knee - ankle, hip - knee
    flexion = np.arctan2(shank[:, 0], shank[:, 1]) - np.arctan2(thigh[:, 0], thigh[:, 1])
    straight = 1.0 - smoothstep(flexion / np.radians(60.0))
    turn = np.tan(build.toe_out_rad)
    share = build.athlete.length_m("shank") / (
        build.athlete.length_m("shank") + build.athlete.length_m("thigh")
    )
    off = build.half_hips_m - build.half_stance_m - turn * (hip[:, 0] - ankle[:, 0])
    depth: Array = build.half_stance_m + turn * shank[:, 0] + straight * share * off
    return depth


def _leg_normal(
    joints: Mapping[str, Array], depth: Mapping[str, Array | float], foot_way: Array
) -> Array:
    """Unit normal ``(3, frames)`` of the leg's plane, outwards; a straight leg takes its foot's."""
    at = {
        n: np.stack([*joints[n].T, np.broadcast_to(depth[n], len(joints[n]))])
        for n in ("ankle", "knee", "hip")
    }
    shank, thigh = at["knee"] - at["ankle"], at["hip"] - at["knee"]
    normal = cross(shank, thigh)
    size = norm(normal)
    bent = np.clip(size / (norm(shank) * norm(thigh)) / BENT, 0.0, 1.0)
    whole = normal / np.maximum(size, 1e-9)
    whole = np.where((whole * foot_way).sum(axis=0) < 0.0, -whole, whole)
    mixed = foot_way * (1.0 - bent) + bent * whole
    return np.asarray(mixed / np.maximum(norm(mixed), 1e-9))


@dataclass(frozen=True)
class Errors:
    """Parts of the angles' standard errors by source, deg: name of the angle -> ``(frames,)``."""

    parts: Mapping[str, Mapping[str, Array]]
    # How much one standard error of each thing that the geometry rests on turns the angles, RMS deg.
    geometry: Mapping[str, float]

    @property
    def whole(self) -> dict[str, Array]:
        """Standard error of every angle, deg."""
        return {
            name: np.sqrt(np.sum([np.square(part) for part in parts.values()], axis=0))
            for name, parts in self.parts.items()
        }


def place_errors_m(
    marks: MarksFile, tracks: Tracks, build: Build, scale_px_m: float
) -> dict[str, dict[str, Array]]:
    """Standard errors of every mark's place square to a line, m: of the landmark, and of clicking and tracking."""
    landmark = STICKER_M if marks.stickers else LANDMARK_M
    found = {}
    for row, name in enumerate(tracks.names):
        apart, steps = tracks.apart_px[row], tracks.steps[row]
        one_way = np.where(np.isnan(apart), 0.35 * np.sqrt(np.nan_to_num(steps)), 0.0)
        track = (
            np.sqrt(CLICK_PX**2 + (TRACK_SHARE * np.nan_to_num(apart)) ** 2 + one_way**2)
            / scale_px_m
        )
        slide = 0.0 if marks.stickers else SLIDE_M.get(name, 0.003) * build.size
        between = np.minimum(np.nan_to_num(steps) / 20.0, 1.0)
        own = landmark.get(name, 0.005) * build.size / np.sqrt(2.0)
        found[name] = {
            "landmark": np.full(len(track), own),
            "track": np.hypot(track, slide * between),
        }
    return found


def angle_errors(
    marks: MarksFile,
    known: Known,
    build: Build,
    px: Mapping[str, Array],
    tracks: Tracks,
    camera: Camera,
) -> Errors:
    """Standard errors of the angles by source: landmarks, tracking, and geometry (camera and depths)."""
    base = seen(camera, build, px)
    angles = base.angles_deg(build)
    scale = camera.focal_px / (camera.distance_m - build.half_hips_m)
    places = place_errors_m(marks, tracks, build, scale)
    lines = {
        "shin": ("ankle", "knee"),
        "thigh": ("knee", "hip"),
        "trunk": ("hip", "shoulder"),
        "heel_lift": ("heel", "ball"),
    }
    if base.shoulder is None:
        lines["trunk"] = ("hip", "bar")
    parts: dict[str, dict[str, Array]] = {name: {} for name in angles}
    for name in angles:
        a, b = lines[name]
        one, other = getattr(base, a), getattr(base, b)
        length = np.maximum(np.hypot(*(other - one).T), 0.05)
        for source in ("landmark", "track"):
            parts[name][source] = np.degrees(
                np.hypot(places[a][source], places[b][source]) / length
            )
        if (a, b) == ("hip", "bar"):
            parts[name]["placement"] = np.degrees(BAR_PLACE_M / length)
    geometry = {name: np.zeros_like(value) for name, value in angles.items()}
    sources: dict[str, float] = {}
    for nudged, deeper, bent in _nudges(camera, build):
        other = seen(calibrate(marks, known, nudged), bent, px, deeper).angles_deg(build)
        off = {name: np.square(other[name] - angles[name]) for name in angles}
        for name in angles:
            geometry[name] = geometry[name] + off[name]
        source = next(iter(nudged or deeper))
        known_off = np.concatenate([off[name] for name in angles if name in ANGLES])
        if not np.isnan(known_off).all():
            key = source if nudged else "depth"
            sources[key] = float(np.hypot(sources.get(key, 0.0), np.sqrt(np.nanmean(known_off))))
    for name in angles:
        parts[name]["geometry"] = np.sqrt(geometry[name])
    return Errors(parts, sources)


Nudge = tuple[dict[str, float], dict[str, float], Build]


def _nudges(camera: Camera, build: Build) -> list[Nudge]:
    """One standard error of everything that the geometry rests on, one at a time: camera, depths, feet, skin."""
    nudges: list[Nudge] = [({name: sd}, {}, build) for name, sd in camera.sd.items()]
    nudges += [({}, {name: sd}, build) for name, sd in DEPTH_SD_M.items()]
    turned = replace(build, toe_out_rad=build.toe_out_rad + np.radians(TOE_SD_DEG))
    return [
        *nudges,
        ({}, {"toes": 0.0}, turned),
        ({}, {"skin": 0.0}, replace(build, thick=1.0 + THICK_SD)),
    ]
