"""From what is known in the picture to a camera: scale, distance, and how it is turned.

Axes are the athlete's (ISB: X forward, Y up, Z to the camera's side), as if seen from the right; a left side
is mirrored first. A pixel is a ray; on a plane of known depth it is a place. Angles in degrees: yaw + stands
ahead of the athlete, pitch + looks up, roll + is turned clockwise.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import field, replace

import numpy as np

from zesty_lever.frozen import dataclass
from zesty_lever.measure.marks import MarksFile
from zesty_lever.physics.vectors import Array

USUAL_DISTANCE_M, USUAL_PITCH_DEG = 4.0, 0.0
# Standard errors where nothing better is told. Common practice and trials with known truth, no source.
TAPED_SD_M, UNTAPED_SD_M = 0.2, 0.6
YAW_SD_DEG, UNKNOWN_YAW_SD_DEG = 1.5, 3.0
PITCH_SD_DEG, UNKNOWN_PITCH_SD_DEG = 0.5, 1.0
PLUMB_SD_DEG, TYPED_ROLL_SD_DEG, UNKNOWN_ROLL_SD_DEG = 0.3, 0.5, 1.0
CENTRE_SD_SHARE = 20.0 / 1280.0
PIXEL_SD = 1.0
ROUNDS, STEP_DEG = 8, 0.5
# A camera that seems pitched by less than this is more likely level, with its lens' middle off.
LEVEL_DEG = 2.5


@dataclass(frozen=True)
class Known:
    """What the camera is worked out from beside the marks: the near ankle's usual place and a leg's length."""

    size_px: tuple[int, int]
    ankle_px: tuple[float, float] | None
    ankle_z_m: float
    ankle_height_m: float
    # The longest that the shank is seen, px, and what it measures, m: a scale where there is no other.
    shank_px: float | None
    shank_m: float


@dataclass(frozen=True)
class Camera:
    """A camera that looks at the athlete. ``distance_m`` is square to the middle plane.

    ``height_m`` is None where nothing tells it. ``told`` says what each turn comes from; ``sd`` are standard
    errors by name (distance m, yaw, pitch, roll deg, centre_x, centre_y px, scale as a share).
    """

    focal_px: float
    centre_px: tuple[float, float]
    distance_m: float
    yaw_deg: float = 0.0
    pitch_deg: float = 0.0
    roll_deg: float = 0.0
    height_m: float | None = None
    told: Mapping[str, str] = field(default_factory=dict)
    sd: Mapping[str, float] = field(default_factory=dict)
    mirrored_width: int | None = None

    @property
    def axes(self) -> tuple[Array, Array, Array]:
        """Right, up and ahead of the lens in the athlete's axes."""
        yaw, pitch, roll = np.radians([self.yaw_deg, self.pitch_deg, self.roll_deg])
        ahead = np.array([-np.sin(yaw), 0.0, -np.cos(yaw)])
        up = np.array([0.0, 1.0, 0.0])
        right = np.array([np.cos(yaw), 0.0, -np.sin(yaw)])
        ahead, up = (
            ahead * np.cos(pitch) + up * np.sin(pitch),
            up * np.cos(pitch) - ahead * np.sin(pitch),
        )
        right, up = (
            right * np.cos(roll) - up * np.sin(roll),
            up * np.cos(roll) + right * np.sin(roll),
        )
        return right, up, ahead

    def rays(self, px: Array) -> Array:
        """Directions ``(..., 3)`` in the athlete's axes of pixels ``(..., 2)``; one metre along the lens each."""
        right, up, ahead = self.axes
        px = np.asarray(px, dtype=float)
        x = px[..., 0] if self.mirrored_width is None else self.mirrored_width - 1.0 - px[..., 0]
        a = (x - self.centre_px[0]) / self.focal_px
        b = -(px[..., 1] - self.centre_px[1]) / self.focal_px
        directions: Array = ahead + a[..., None] * right + b[..., None] * up
        return directions

    def cast(self, px: Array, z_m: Array | float) -> Array:
        """Forward and upward place ``(..., 2)`` m of pixels on planes of depth ``z_m``, from the lens."""
        ray = self.rays(px)
        along = (z_m - self.distance_m) / ray[..., 2]
        places: Array = ray[..., :2] * np.asarray(along)[..., None]
        return places

    def px(self, places: Array) -> Array:
        """Pixels ``(..., 2)`` of places ``(..., 3)`` m: forward and upward from the lens, depth from the middle plane."""
        right, up, ahead = self.axes
        rel = places - np.array([0.0, 0.0, self.distance_m])
        depth = rel @ ahead
        x = self.centre_px[0] + self.focal_px * (rel @ right) / depth
        y = self.centre_px[1] - self.focal_px * (rel @ up) / depth
        if self.mirrored_width is not None:
            x = self.mirrored_width - 1.0 - x
        return np.stack([x, y], axis=-1)

    def scale(self, px: Array, z_m: float) -> Array:
        """Pixels a metre at a pixel on a plane."""
        scale: Array = self.focal_px / ((z_m - self.distance_m) / self.rays(px)[..., 2])
        return scale


def calibrate(marks: MarksFile, known: Known, nudged: Mapping[str, float] | None = None) -> Camera:
    """The camera of a side view from disc or length, plumb, sleeve and tape.

    ``nudged`` adds to what it rests on by name (`Camera.sd`'s names), so that errors can be told.
    """
    nudge = dict(nudged or {})
    tape, size = marks.camera, known.size_px
    straight = (tape.distance_m or USUAL_DISTANCE_M) + nudge.get("distance", 0.0)
    camera = Camera(
        focal_px=1.1 * max(size),
        centre_px=(
            0.5 * (size[0] - 1) + nudge.get("centre_x", 0.0),
            0.5 * (size[1] - 1) + nudge.get("centre_y", 0.0),
        ),
        distance_m=straight,
        yaw_deg=tape.yaw_deg or 0.0,
        height_m=tape.height_m,
        told=_told(marks, known),
        mirrored_width=size[0] if marks.near_side == "left" else None,
    )
    middle_y = camera.centre_px[1]
    for _ in range(ROUNDS):
        camera = replace(
            camera, focal_px=_focal_px(camera, marks, known) * (1.0 + nudge.get("scale", 0.0))
        )
        yaw, pitch = _turned(camera, marks, known, nudge)
        camera = replace(_tilted(camera, pitch, middle_y, nudge.get("pitch", 0.0)), yaw_deg=yaw)
        # What is taped is the straight line to the athlete; depth is counted square to the middle plane.
        camera = replace(camera, distance_m=straight * float(np.cos(np.radians(camera.yaw_deg))))
        camera = replace(camera, roll_deg=_roll_deg(camera, marks) + nudge.get("roll", 0.0))
    if camera.height_m is None and known.ankle_px is not None and camera.told["pitch"] == "sleeve":
        below = camera.cast(np.array(known.ankle_px), known.ankle_z_m)[1]
        camera = replace(camera, height_m=known.ankle_height_m - float(below))
    return replace(camera, sd=_errors(camera, marks, known))


def _told(marks: MarksFile, known: Known) -> dict[str, str]:
    """What scale, distance and turns come from."""
    calibration, tape = marks.calibration, marks.camera
    sleeve = "sleeve" if marks.sleeve else "nothing"
    by_height = tape.height_m is not None and known.ankle_px is not None
    return {
        "scale": "disc" if calibration.disc else "length" if calibration.length else "shank",
        "distance": "tape" if tape.distance_m is not None else "nothing",
        "yaw": "tape" if tape.yaw_deg is not None else sleeve,
        "pitch": "height" if by_height else sleeve,
        "roll": "plumb" if marks.plumb_px else "typed" if marks.roll_deg is not None else "nothing",
    }


def _focal_px(camera: Camera, marks: MarksFile, known: Known) -> float:
    """Focal length at which what is known has its size."""
    disc, length = marks.calibration.disc, marks.calibration.length
    if disc is not None:
        scale = 2.0 * max(disc.half_axes_px) / disc.diameter_m
        ray = camera.rays(np.array(disc.centre_px))
        return float(scale * (disc.face_z_m - camera.distance_m) / ray[2])
    if length is not None:
        ends = camera.cast(np.array([length.from_px, length.to_px]), length.z_m)
        return camera.focal_px * float(np.hypot(*(ends[1] - ends[0]))) / length.length_m
    if known.shank_px is None:
        return camera.focal_px
    return known.shank_px / known.shank_m * (camera.distance_m - known.ankle_z_m)


def _turned(
    camera: Camera, marks: MarksFile, known: Known, nudge: Mapping[str, float]
) -> tuple[float, float]:
    """Yaw and pitch (deg): from the sleeve, which lies square to the middle plane, the tape, and the ankle's height."""
    more_yaw, more_pitch = nudge.get("yaw", 0.0), nudge.get("pitch", 0.0)
    base = replace(
        camera, yaw_deg=camera.yaw_deg - more_yaw, pitch_deg=camera.pitch_deg - more_pitch
    )
    told, yaw, pitch = camera.told, marks.camera.yaw_deg or 0.0, USUAL_PITCH_DEG
    if marks.sleeve is not None and "sleeve" in (told["yaw"], told["pitch"]):
        by_sleeve = _by_sleeve(base, marks)
        yaw = by_sleeve[0] if told["yaw"] == "sleeve" else yaw
        pitch = by_sleeve[1] if told["pitch"] == "sleeve" else pitch
    if told["pitch"] == "height":
        pitch = _by_height(base, marks, known)
    return yaw + more_yaw, pitch + more_pitch


def _tilted(camera: Camera, pitch_deg: float, middle_y: float, nudge_deg: float) -> Camera:
    """The camera with a pitch that was found, part of it given to the picture's middle.

    A lens whose middle is 20 px off looks as if it were pitched by a degree, without the converging uprights of
    one that is: what is small is the middle's, what is large is pitch.
    """
    if camera.told["pitch"] == "nothing":
        return replace(camera, pitch_deg=pitch_deg)
    shifted = np.degrees(np.arctan((camera.centre_px[1] - middle_y) / camera.focal_px))
    whole = float(pitch_deg - nudge_deg + shifted)
    tilt = whole / (1.0 + (LEVEL_DEG / max(abs(whole), 1e-9)) ** 4)
    middle = middle_y + camera.focal_px * float(np.tan(np.radians(whole - tilt)))
    return replace(camera, pitch_deg=tilt + nudge_deg, centre_px=(camera.centre_px[0], middle))


def _by_sleeve(base: Camera, marks: MarksFile) -> tuple[float, float]:
    """One step towards the yaw and pitch at which hub and sleeve end lie square to the middle plane, deg."""
    off = _sleeve_off(base, marks)
    slopes = [
        (_sleeve_off(other, marks) - off) / STEP_DEG
        for other in (
            replace(base, yaw_deg=base.yaw_deg + STEP_DEG),
            replace(base, pitch_deg=base.pitch_deg + STEP_DEG),
        )
    ]
    change = np.linalg.solve(np.stack(slopes, axis=1), -off)
    return (
        float(np.clip(base.yaw_deg + change[0], -60.0, 60.0)),
        float(np.clip(base.pitch_deg + change[1], -45.0, 45.0)),
    )


def _by_height(base: Camera, marks: MarksFile, known: Known) -> float:
    """One step towards the pitch at which the ankle has its height, deg."""
    assert known.ankle_px is not None
    assert marks.camera.height_m is not None
    at = [
        float(
            replace(base, pitch_deg=base.pitch_deg + more).cast(
                np.array(known.ankle_px), known.ankle_z_m
            )[1]
        )
        for more in (0.0, STEP_DEG)
    ]
    wanted = known.ankle_height_m - marks.camera.height_m
    step = (wanted - at[0]) / max((at[1] - at[0]) / STEP_DEG, 1e-9)
    return float(np.clip(base.pitch_deg + step, -45.0, 45.0))


def _sleeve_off(camera: Camera, marks: MarksFile) -> Array:
    """How far hub and sleeve end are apart forward and upward, m: nothing where the camera is right."""
    assert marks.sleeve is not None
    face = marks.calibration.disc.face_z_m if marks.calibration.disc else 0.75
    hub = camera.cast(np.array(marks.sleeve.hub_px), face)
    end = camera.cast(np.array(marks.sleeve.end_px), face + marks.sleeve.length_m)
    return end - hub


def _roll_deg(camera: Camera, marks: MarksFile) -> float:
    """Roll from an upright: the plane through it and the lens holds the vertical."""
    if marks.plumb_px is None:
        return marks.roll_deg or 0.0
    ends = np.array(marks.plumb_px, dtype=float)
    x = ends[:, 0] if camera.mirrored_width is None else camera.mirrored_width - 1.0 - ends[:, 0]
    a, b = (
        (x - camera.centre_px[0]) / camera.focal_px,
        -(ends[:, 1] - camera.centre_px[1]) / camera.focal_px,
    )
    across, upward, ahead = np.cross([a[0], b[0], 1.0], [a[1], b[1], 1.0])
    tilt = np.tan(np.radians(camera.pitch_deg))
    roll = 0.0
    for _ in range(4):
        roll = float(np.arcsin(np.clip((upward * np.cos(roll) + ahead * tilt) / across, -0.7, 0.7)))
    return float(np.degrees(roll))


def _errors(camera: Camera, marks: MarksFile, known: Known) -> dict[str, float]:
    """Standard errors of what the camera rests on."""
    tape, told = marks.camera, camera.told
    distance = tape.distance_sd_m if tape.distance_sd_m is not None else TAPED_SD_M
    sleeve = PIXEL_SD
    if marks.sleeve is not None:
        metres = camera.focal_px * marks.sleeve.length_m / max(camera.distance_m - 0.9, 0.5)
        sleeve = float(np.degrees(np.sqrt(2.0) * 0.7 * PIXEL_SD / metres)) + 0.2
    yaw = {"tape": tape.yaw_sd_deg if tape.yaw_sd_deg is not None else YAW_SD_DEG, "sleeve": sleeve}
    pitch = {"height": PITCH_SD_DEG, "sleeve": sleeve}
    roll = {"plumb": PLUMB_SD_DEG, "typed": TYPED_ROLL_SD_DEG}
    disc, length = marks.calibration.disc, marks.calibration.length
    scale = 0.05
    if disc is not None:
        scale = PIXEL_SD / max(disc.half_axes_px)
    elif length is not None:
        ends = np.subtract(length.to_px, length.from_px)
        scale = float(np.sqrt(2.0) * PIXEL_SD / max(np.hypot(*ends), 1.0))
    centre = CENTRE_SD_SHARE * max(known.size_px)
    return {
        "distance": distance if told["distance"] == "tape" else UNTAPED_SD_M,
        "yaw": yaw.get(told["yaw"], UNKNOWN_YAW_SD_DEG),
        "pitch": pitch.get(told["pitch"], UNKNOWN_PITCH_SD_DEG),
        "roll": roll.get(told["roll"], UNKNOWN_ROLL_SD_DEG),
        "centre_x": centre,
        "centre_y": centre,
        "scale": scale,
    }
