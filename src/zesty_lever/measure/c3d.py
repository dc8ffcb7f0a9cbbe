"""Joints and bar as C3D, the exchange format of motion laboratories, by the optional package ezc3d."""

from __future__ import annotations

from pathlib import Path

import numpy as np

from zesty_lever.measure.motion import Motion
from zesty_lever.problems import CaseError


def write_c3d(motion: Motion, path: Path) -> None:
    """Write joint centres and bar of the athlete's plane, mm: X forward, Y up, Z to the right (0: one view tells none).

    C3D knows one rate only: places are taken at even times. What is not seen is marked as such (residual -1).
    Raises `CaseError` where the package is missing.
    """
    try:
        import ezc3d
    except ImportError:
        raise CaseError(
            "needs-extra",
            "C3D needs the optional part 'c3d' of Zesty Lever (package ezc3d)",
            key="--c3d",
        ) from None
    names = list(motion.joints_m)
    times = motion.times_s
    count = motion.frames
    rate = (count - 1) / float(times[-1] - times[0]) if count > 1 else 1.0
    even = times[0] + np.arange(count) / rate
    points = np.full((4, len(names), count), np.nan)
    for row, name in enumerate(names):
        for axis in (0, 1):
            points[axis, row] = 1000.0 * np.interp(even, times, motion.joints_m[name][:, axis])
        known = ~np.isnan(points[0, row])
        points[2, row, known] = 0.0
    points[3] = 1.0
    file = ezc3d.c3d()
    file["parameters"]["POINT"]["RATE"]["value"] = [rate]
    file["parameters"]["POINT"]["LABELS"]["value"] = names
    file["parameters"]["POINT"]["UNITS"]["value"] = ["mm"]
    file["data"]["points"] = points
    file["data"]["meta_points"]["residuals"] = np.where(np.isnan(points[0]), -1.0, 0.0)[None]
    file.write(str(path))
