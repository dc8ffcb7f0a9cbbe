"""What an athlete's joints can hold, by angle: tables, levels, and draws of what is not known of a person.

A person is fifteen standard normals: three levels (correlated), ends of the shapes, and the terms of the
model. Source of every table: ``data/tables/strength.toml``, from memory.
"""

from __future__ import annotations

from collections.abc import Collection, Mapping
from dataclasses import field
from functools import cache
from typing import Any

import numpy as np

from zesty_lever.cases.model import Athlete
from zesty_lever.frozen import dataclass
from zesty_lever.physics.vectors import Array
from zesty_lever.tables import toml_values

STRONG = ("hip", "knee", "back")
# Relative standard error of a measured peak moment: where none is told, and at least. Common practice, no source.
USUAL_ERROR, LEAST_ERROR = 0.10, 0.03
# What of a person is drawn, in the order of the columns.
LEVELS = tuple(f"level_{joint}" for joint in STRONG)
UNKNOWNS = (
    *LEVELS,
    "hip_short",
    "hip_long",
    "knee_short",
    "knee_long",
    "back_short",
    "knee_bend_loss",
    "co_contraction",
    "one_leg",
    "bounce",
)


@dataclass(frozen=True)
class Shape:
    """One joint's share of its best moment over its angle (deg), with one SD of what is open."""

    level_Nm_kg: float
    angle_deg: Array
    share: Array
    sd: Array
    best_deg: float

    def at(self, angle_deg: Array, short: Array, long: Array) -> Array:
        """Share at angles, with so many SDs at the short and the long end; never below a tenth."""
        usual = np.interp(angle_deg, self.angle_deg, self.share)
        open_ = np.interp(angle_deg, self.angle_deg, self.sd)
        moved: Array = usual + open_ * np.where(angle_deg < self.best_deg, short, long)
        return np.maximum(moved, 0.1)


@cache
def shapes() -> Mapping[str, Shape]:
    """Tables of hip, knee and back."""
    found = {}
    for joint in STRONG:
        raw = toml_values("strength")[joint]
        angle, share, sd = (np.array(raw[key], dtype=float) for key in ("angle_deg", "share", "sd"))
        found[joint] = Shape(float(raw["level"]), angle, share, sd, float(raw["best_deg"]))
    return found


def terms() -> Mapping[str, Any]:
    """The other terms of the model."""
    known: Mapping[str, Any] = toml_values("strength")["terms"]
    return known


@dataclass(frozen=True)
class People:
    """Draws of one person: standard normals ``(draws, unknowns)``; how wide shape and terms are (0-1)."""

    normals: Array
    mass_kg: float
    woman: bool
    spread: float
    width: float = 1.0
    # Curves of their own by joint: angles (deg), moments (N m), and the relative standard error of all of one.
    curves: Mapping[str, tuple[Array, Array, float]] = field(default_factory=dict)

    def _z(self, name: str) -> Array:
        """One unknown as a column that broadcasts over (loads, frames)."""
        return self.normals[:, UNKNOWNS.index(name)][:, None, None]

    def level_Nm(self, joint: str) -> Array:
        """Best moment of a joint, ``(draws, 1, 1)`` N m."""
        level: Array = self.usual_Nm(joint) * self.against_usual(joint)
        return level

    def usual_Nm(self, joint: str) -> float:
        """Best moment of a joint of a trained person of this mass and sex, N m."""
        usual = shapes()[joint].level_Nm_kg * self.mass_kg
        return float(usual * (terms()["woman"] if self.woman else 1.0))

    def against_usual(self, joint: str) -> Array:
        """A joint's level over that of a trained person of this mass and sex, ``(draws, 1, 1)``."""
        own = self.curves.get(joint)
        if own is not None:
            off = np.exp(own[2] * self._z(f"level_{joint}"))
            measured: Array = own[1].max() / self.usual_Nm(joint) * off
            return measured
        times: Array = np.exp(self.spread * self._z(f"level_{joint}"))
        return times

    def capacity_Nm(self, joint: str, angle_deg: Array) -> Array:
        """What a joint can hold at angles ``(loads, frames)``, ``(draws, loads, frames)`` N m.

        A curve that was measured replaces level and shape, and is off as a whole by its own error; beyond its ends
        the table's shape goes on from there.
        """
        own = self.curves.get(joint)
        if own is None:
            table: Array = self.level_Nm(joint) * self.share(joint, angle_deg)
            return table
        angles, moments, error = own
        off = np.exp(error * self._z(f"level_{joint}"))
        inside = np.clip(angle_deg, angles[0], angles[-1])
        beyond = self.share(joint, angle_deg) / self.share(joint, inside)
        measured: Array = np.interp(inside, angles, moments)[None] * beyond * off
        return measured

    def term(self, name: str) -> Array:
        """A term of the model, ``(draws, 1, 1)``; factors are log-normal."""
        raw = terms()[name]
        off = self.width * raw["sd"] * self._z(name)
        found: Array = raw["value"] * np.exp(off) if name == "one_leg" else raw["value"] + off
        return found

    def share(self, joint: str, angle_deg: Array) -> Array:
        """A joint's shape at angles ``(loads, frames)``, ``(draws, loads, frames)``."""
        long = f"{joint}_long"
        nothing = np.zeros_like(self._z(f"level_{joint}"))
        ends = (self._z(f"{joint}_short"), self._z(long) if long in UNKNOWNS else nothing)
        return shapes()[joint].at(angle_deg[None], *(self.width * end for end in ends))


def correlated(independent: Array, apart: Collection[str] = ()) -> Array:
    """Standard normals whose levels go together as people's do; those ``apart`` are errors of measuring."""
    found = independent.copy()
    count = len(LEVELS)
    together = float(terms()["together"])
    matrix = np.full((count, count), together) + (1.0 - together) * np.eye(count)
    for row, joint in enumerate(STRONG):
        if joint in apart:
            matrix[row], matrix[:, row] = 0.0, 0.0
            matrix[row, row] = 1.0
    found[..., :count] = independent[..., :count] @ np.linalg.cholesky(matrix).T
    return found


def people(athlete: Athlete, normals: Array, *, known: bool, width: float = 1.0) -> People:
    """Draws of an athlete from independent normals ``(draws, unknowns)``; ``known``: some best is known."""
    spread = terms()["spread" if known else "spread_unknown"]
    woman = athlete.sex == "female"
    curves = own_curves(athlete)
    return People(correlated(normals, curves), athlete.mass_kg, woman, spread, width, curves)


def own_curves(athlete: Athlete) -> dict[str, tuple[Array, Array, float]]:
    """The athlete's measured curves: angles, moments, relative error (the usual one where none is told)."""
    found = {}
    for joint, points in athlete.strength_curves.items():
        ordered = sorted(points, key=lambda point: point.angle_deg)
        angles = np.array([point.angle_deg for point in ordered])
        moments = np.array([point.moment_Nm for point in ordered])
        told = [p.sd_Nm / p.moment_Nm for p in ordered if p.sd_Nm is not None]
        error = float(np.sqrt(np.mean(np.square(told)))) if told else USUAL_ERROR
        found[str(joint)] = (angles, moments, max(error, LEAST_ERROR))
    return found


def repetition_share(reps: float) -> tuple[float, float]:
    """Use at so many repetitions over use at one, and its log SD."""
    raw = toml_values("strength")["repetitions"]
    share, sd = (float(np.interp(reps, raw["count"], raw[key])) for key in ("share", "sd"))
    return share, sd
