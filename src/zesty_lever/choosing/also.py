"""Use of joints that are shown and never limit: ankle, knee flexors, hip abductors.

In a thrust the knee flexors' moment depends on the contact rule, and near a straight knee the capsule carries it:
with them in, bridges and one-leg hinges were limited by what is not there. Tables: ``data/tables/strength.toml``.
"""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from zesty_lever.analysis import Result
from zesty_lever.choosing.strength import terms
from zesty_lever.joints import SIDES
from zesty_lever.physics.moments import out_of_sagittal
from zesty_lever.physics.vectors import Array
from zesty_lever.tables import toml_values

ALSO = ("ankle", "knee_flexors", "hip_abductors")
# What the capsule of a nearly straight knee carries: so much at 0 degrees, none from these degrees on.
CAPSULE_NM, CAPSULE_DEG = 80.0, 25.0


def also_uses(result: Result) -> Mapping[str, float]:
    """Largest use over the rep, of the side that uses most; levels of a trained person of this mass and sex.

    Raises `CaseError` if the case is impossible.
    """
    solved, athlete = result.solved, result.case.athlete
    pose = solved.pose
    mass = athlete.mass_kg * (terms()["woman"] if athlete.sex == "female" else 1.0)
    found = dict.fromkeys(ALSO, 0.0)
    for side in SIDES:
        knee_deg = np.degrees(pose.knee_flexion_rad[side])
        capsule: Array = CAPSULE_NM * np.maximum(1.0 - knee_deg / CAPSULE_DEG, 0.0)
        asked: dict[str, tuple[Array, Array, Array | float]] = {
            "ankle": (
                solved.extension(f"ankle_{side}"),
                np.degrees(pose.dorsiflexion_rad[side]),
                0.0,
            ),
            "knee_flexors": (-solved.extension(f"knee_{side}"), knee_deg, capsule),
            "hip_abductors": (
                -out_of_sagittal(pose, solved.moments, side)[1],
                np.degrees(pose.hip_opening_rad[side]),
                0.0,
            ),
        }
        for name, (moment, angle, more) in asked.items():
            use = np.maximum(moment, 0.0) / (mass * _holds(name, angle) + more)
            found[name] = max(found[name], float(use.max()))
    return found


def _holds(name: str, angle_deg: Array) -> Array:
    """What a joint can hold at angles, N m per kg body mass."""
    table = toml_values("strength")[name]
    shape = np.interp(angle_deg, table["angle_deg"], table["share"])
    holds: Array = float(table["level"]) * shape
    return holds
