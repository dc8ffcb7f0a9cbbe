"""Builds bridge and thrust reps: upper back on a bench or the floor, feet on floor or bench.

The body lies in the same axes as it stands, leaning back: head towards -X, face up. The trunk turns
about where the upper back rests; the feet stay where the lockout put them; the knees follow.
Progress is 0 with the hips down and 1 at lockout.
"""

from __future__ import annotations

import numpy as np

from zesty_lever.exercises.builder import SLACK, Flags, Poses, Rig, failures_of
from zesty_lever.frozen import dataclass
from zesty_lever.physics.contacts import Place, Support
from zesty_lever.physics.legs import Foot, Leg, hang_leg, place_foot, reach_leg
from zesty_lever.physics.pose import Pose, assemble
from zesty_lever.physics.upper_body import lumbosacral_offset
from zesty_lever.physics.vectors import Array, mirrored, sagittal, vector

LYING_RAD = np.radians(-90.0)
# Where along the hip-shoulder line the upper back rests: on a bench, on the floor (assumptions).
BACK_AT_LINE_SHARE = 0.80
FLOOR_AT_LINE_SHARE = 0.93
BACK_DEPTH_M = 0.10
BUTTOCK_DEPTH_M = 0.105


@dataclass(frozen=True)
class _Bridge(Rig):
    """A batch of bridges."""

    @property
    def single(self) -> bool:
        """One foot down, the other leg free."""
        return self.options.rear == "none"

    @property
    def heels(self) -> bool:
        """Heels only (on a bench), toes up."""
        return self.options.heels

    def back_offset(self) -> tuple[Array, Array]:
        """Where the upper back rests, from mid-hip in the trunk's frame: (behind -, above)."""
        line = self.body.lengths["hip_to_shoulder"]
        on_floor = self.given["bench_height_m"] == 0.0
        share = np.where(on_floor, FLOOR_AT_LINE_SHARE, BACK_AT_LINE_SHARE)
        return -self.body.scaled_m(BACK_DEPTH_M), share * line

    def hips_at(self, pelvis: Array, trunk: Array) -> Array:
        """Mid-hip for two leans, the upper back resting at x = 0 on the bench's height."""
        back, up = self.back_offset()
        low, behind = lumbosacral_offset(self.body)
        resting = vector(0.0, self.given["bench_height_m"], 0.0)
        below = sagittal(pelvis, -behind, low)
        hips: Array = resting - below - sagittal(trunk, behind + back, up - low)
        return hips

    def lowest_lean(self) -> Array:
        """Trunk lean with the hips down: at the start height of the variation."""
        back, up = self.back_offset()
        low = self.given["start_height_m"]
        drop = self.given["bench_height_m"] - low
        # hips_y = bench - (up cos - back sin) = low
        size = np.hypot(up, back)
        lean: Array = -np.arccos(np.clip(drop / size, -1.0, 1.0)) - np.arctan2(back, up)
        return lean

    def sole(self, ankle_x: Array, half_stance: Array) -> Foot:
        """A foot flat (or on its heel) on its surface with the ankle at ``ankle_x``."""
        height = self.given["feet_height_m"]
        pitch = np.zeros_like(ankle_x)
        foot = place_foot(self.body, half_stance, self.toe_out, pitch)
        return foot.moved(vector(ankle_x - foot.ankle[0], height, 0.0))

    def ankle_for(self, hips: Array, shin: Array) -> Array:
        """Ankle x that gives the lockout's shin angle in the side view (legs near side-on)."""
        shank, thigh = self.body.lengths["shank"], self.body.lengths["thigh"]
        ankle_y = self.given["feet_height_m"] + self.body.lengths["ankle_height"]
        knee_y = ankle_y + shank * np.cos(shin)
        reach = np.sqrt(thigh**2 - (knee_y - hips[1]) ** 2)  # NaN where the thigh is too short
        ankle_x: Array = hips[0] + reach - shank * np.sin(shin)
        return ankle_x


def build_poses(rig: Rig, _: str | None, progress: Array) -> Poses:
    """Hips down to lockout; a bridge has no angle left to balance."""
    bridge = _Bridge.of(rig)
    with np.errstate(invalid="ignore"):
        return _build(bridge, progress)


def _build(bridge: _Bridge, progress: Array) -> Poses:
    given, p = bridge.given, progress
    top = LYING_RAD - np.radians(given["lockout_trunk_deg"])
    low = bridge.lowest_lean()
    lean = low + p * (top - low)
    arch = p * np.radians(given["arch_deg"])
    hips_top = bridge.hips_at(top + np.radians(given["arch_deg"]), top)
    if bridge.heels:
        ankle_x = hips_top[0] + _straight_reach(bridge, hips_top)
    else:
        ankle_x = bridge.ankle_for(hips_top, np.radians(given["shin_deg"]))
    hips = bridge.hips_at(lean + arch, lean)
    half_hips = 0.5 * bridge.body.lengths["hip_width"]
    foot = bridge.sole(ankle_x, 0.5 * given["stance_m"])
    leg = reach_leg(
        bridge.body,
        foot,
        vector(hips[0], hips[1], half_hips),
        bridge.toe_out,
        p * given["knee_track_m"],
    )
    other = leg
    if bridge.single:
        hip = vector(hips[0], hips[1], half_hips)
        other = hang_leg(
            bridge.body,
            hip,
            np.radians(given["free_thigh_deg"]) + 0.0 * lean,
            np.radians(given["free_knee_deg"]),
        )
    pose = assemble(bridge.body, {"right": leg, "left": other}, bridge.stack, lean + arch, lean)
    return _finish(bridge, pose, leg, foot, p)


def _straight_reach(bridge: _Bridge, hips: Array) -> Array:
    """How far ahead of the hips the ankle is with the knees all but straight."""
    full = 0.995 * (bridge.body.lengths["shank"] + bridge.body.lengths["thigh"])
    drop = hips[1] - bridge.given["feet_height_m"] - bridge.body.lengths["ankle_height"]
    reach: Array = np.sqrt(np.maximum(full**2 - drop**2, 0.0))
    return reach


def _finish(bridge: _Bridge, pose: Pose, leg: Leg, foot: Foot, p: Array) -> Poses:
    shape = pose.line_rad.shape
    given = bridge.given
    resting = np.broadcast_to(
        vector(0.0, given["bench_height_m"], 0.0), pose.points["hip_mid"].shape
    )
    fraction = given["pressure_fraction"]
    height = given["feet_height_m"]
    under = foot.pressure_point(fraction)
    right = np.broadcast_to(vector(under[0], height, under[2]), resting.shape)
    kind = "heel" if bridge.heels else "foot"
    back = Place(("upper_back",), ("trunk",), (resting,))
    if bridge.single:
        feet = Place(("foot_right",), ("foot_right",), (right,))
    else:
        names = (f"{kind}_left", f"{kind}_right")
        feet = Place(names, ("foot_left", "foot_right"), (mirrored(right), right))
    support = Support("places", (feet, back))
    deepest = int(np.argmax(p))
    shin = pose.side_view_rad("ankle_right", "knee_right")
    ends = {
        "shin_deg": np.degrees(shin[:, deepest]),
        "thigh_deg": 90.0 + np.degrees(pose.side_view_rad("knee_right", "hip_right")[:, deepest]),
        "trunk_deg": np.degrees(pose.line_rad[:, deepest]),
    }
    short = np.broadcast_to((leg.reach_short_m > SLACK) | np.isnan(foot.ankle[0]), shape)
    ankle = pose.dorsiflexion_rad["right"] > bridge.limits.ankle_dorsiflexion + SLACK
    if bridge.heels:
        ankle = np.zeros(shape, dtype=bool)
    buried = pose.points["hip_mid"][1] < 0.5 * BUTTOCK_DEPTH_M
    broken = np.isnan(pose.line_rad)
    failures = failures_of(
        shape,
        ("out-of-reach", "shin_deg", short),
        ("hips-under-floor", "start_height_m", buried),
        ("ankle-limit", "shin_deg", ankle),
        ("cannot-balance", "shin_deg", broken),
    )
    drawable: Flags = ~(short | broken)
    return Poses(pose, support, np.broadcast_to(fraction, shape), ends, drawable, failures)
