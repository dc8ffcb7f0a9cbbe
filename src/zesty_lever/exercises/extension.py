"""Builds back extensions on an inclined bench: thighs on a pad, ankles under a hook.

The legs stay straight at the bench's slope; the trunk folds over the pad and comes back up in line with
them. Pad and hook hold the body whatever it does, so there is no balance to solve. The pad pushes
at right angles to the thighs (a smooth roll); the hook and the foot plate carry the rest.
"""

from __future__ import annotations

import numpy as np

from zesty_lever.exercises.builder import Flags, Poses, Rig, failures_of
from zesty_lever.frozen import dataclass
from zesty_lever.physics.contacts import Place, Support
from zesty_lever.physics.legs import Leg, hang_leg
from zesty_lever.physics.pose import assemble
from zesty_lever.physics.vectors import Array, mirrored, vector

PLATE_HEIGHT_M = 0.25
THIGH_DEPTH_M = 0.075
STRAIGHT_KNEE_RAD = np.radians(2.0)


@dataclass(frozen=True)
class _Bench(Rig):
    """A batch of bodies on an inclined bench; ankles at x = 0."""

    def leg(self) -> Leg:
        """Right leg along the bench's slope."""
        lean = np.radians(90.0 - self.given["bench_slope_deg"])
        length = self.body.lengths["thigh"] + self.body.lengths["shank"]
        hip = vector(
            length * np.sin(lean),
            PLATE_HEIGHT_M + length * np.cos(lean),
            0.5 * self.body.lengths["hip_width"] + 0.0 * lean,
        )
        return hang_leg(self.body, hip, -lean, STRAIGHT_KNEE_RAD + 0.0 * lean)


def build_poses(rig: Rig, _: str | None, progress: Array) -> Poses:
    """In line with the legs, folded over the pad, and up again; nothing is left to balance."""
    bench = _Bench.of(rig)
    with np.errstate(invalid="ignore"):
        return _build(bench, progress)


def _build(bench: _Bench, p: Array) -> Poses:
    given = bench.given
    leg = bench.leg()
    # The angle of the thigh (knee to hip) against level, past upright because the hip is ahead.
    thigh = 0.5 * np.pi + np.radians(90.0 - given["bench_slope_deg"])
    top = np.radians(given["lockout_trunk_deg"])
    line = top + p * (np.radians(given["trunk_deg"]) - top)
    most = bench.limits.pelvis_most_rad(np.zeros_like(thigh) + STRAIGHT_KNEE_RAD, thigh)
    arch = (1.0 - p) * np.radians(given["arch_deg"])
    pelvis, trunk = bench.stack.split_line(line, most)
    pose = assemble(bench.body, {"left": leg, "right": leg}, bench.stack, pelvis + arch, trunk)
    shape = pose.line_rad.shape
    hip, knee = pose.points["hip_right"], pose.points["knee_right"]
    lean = 0.5 * np.pi - np.radians(given["bench_slope_deg"])
    outward = vector(np.cos(lean), -np.sin(lean), 0.0 * lean)
    pad = hip + given["pad_share"] * (knee - hip) + bench.body.scaled_m(THIGH_DEPTH_M) * outward
    hook = np.broadcast_to(pose.points["ankle_right"], pad.shape)
    support = Support(
        "hooked",
        (
            Place(("foot_left", "foot_right"), ("foot_left", "foot_right"), (mirrored(hook), hook)),
            Place(
                ("thigh_left", "thigh_right"), ("thigh_left", "thigh_right"), (mirrored(pad), pad)
            ),
        ),
        push_along=np.broadcast_to(-outward + 0.0 * pad, pad.shape),
    )
    deepest = int(np.argmax(p))
    ends = {
        "trunk_deg": np.degrees(pose.line_rad[:, deepest]),
        "thigh_deg": np.degrees(thigh[:, 0]) + np.zeros(shape[0]),
        "shin_deg": np.degrees(pose.side_view_rad("ankle_right", "knee_right")[:, deepest]),
    }
    failures = failures_of(shape, ("head-on-floor", "trunk_deg", pose.points["head_top"][1] < 0.0))
    drawable: Flags = ~np.isnan(pose.line_rad)
    return Poses(pose, support, np.full(shape, 0.25), ends, drawable, failures)
