"""What every pose builder takes and gives: one batch of athletes and settings, one rep of poses."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import field, replace
from typing import Any, Self

import numpy as np
from numpy.typing import NDArray

from zesty_lever.exercises.catalogue import Options
from zesty_lever.frozen import dataclass, lazy
from zesty_lever.physics.body import Body, landmark
from zesty_lever.physics.legs import Foot, Leg, place_foot
from zesty_lever.physics.lines import Line, line_forces, turning_forward
from zesty_lever.physics.outline import Outline
from zesty_lever.physics.solved import Failure, Poses
from zesty_lever.physics.upper_body import Stack
from zesty_lever.physics.vectors import Array, summed, widened

__all__ = (
    "SLACK",
    "Failure",
    "Flags",
    "Limits",
    "Poses",
    "Rig",
    "column_or",
    "failures_of",
    "leans_nowhere",
)

Flags = NDArray[np.bool_]
UPPERMOST_TRUNK_RAD = np.radians(95.0)
LOWERMOST_TRUNK_RAD = np.radians(-25.0)
SLACK = 1e-7


@dataclass(frozen=True)
class Limits:
    """Reach limits of the athletes, rad, broadcasting over the pose axes."""

    ankle_dorsiflexion: Array
    hip_flexion: Array
    straight_leg: Array
    hip_opening: Array
    knee_flexion: Array

    def pelvis_most_rad(self, knee_flexion_rad: Array, thigh_rad: Array) -> Array:
        """Pelvis lean at which the hips run out and the lower back starts to flex.

        ``thigh_rad`` is the thigh's angle against level (knee to hip), 90 deg when standing.
        """
        limit = np.minimum(self.hip_flexion, self.straight_leg + 0.5 * knee_flexion_rad)
        most: Array = limit - 0.5 * np.pi + thigh_rad
        return most


# What a rig works out that is the same at every moment.
STEADY = ("toe_out", "flat_foot", "rear_foot", "leg_weights")


@dataclass(frozen=True)
class Rig:
    """One batch: bodies, stacks, limits and settings as arrays with a trailing frame axis of 1.

    ``options`` are words of the variation's data file (how the rear foot stands, for instance);
    ``restack`` makes the stack anew with the hands hanging so far (m) ahead of the shoulders (None:
    where they are) and a share of the load on the way up. ``turned_kgm`` is what bands, cables and
    pushes turn forward about the pressure point, as a first moment of mass, ``rolled_kgm`` what
    they roll to the right about the line between the contacts, by frame. ``up_share`` is the
    timeline's; ``roots`` are first guesses for searches along the path, by name (empty: none known).
    ``lines`` are bands, cables and supports that the builder itself balances with, at each moment of
    ``progress``; ``turned_kgm`` is then only where its search for them starts.
    """

    body: Body
    stack: Stack
    limits: Limits
    given: Mapping[str, Array]
    options: Options
    restack: Callable[[Array | None, Array], Stack]
    turned_kgm: Array
    rolled_kgm: Array
    up_share: Array
    roots: Mapping[str, Array] = field(default_factory=dict)
    lines: tuple[Line, ...] = ()
    progress: Array = field(default_factory=lambda: np.zeros(1))

    @classmethod
    def of(cls, rig: Rig, **changed: Any) -> Self:
        """A rig of this kind with what another one has, but for what is changed."""
        return cls(**{name: getattr(rig, name) for name in rig.__dataclass_fields__} | changed)

    def at(self, frame: int) -> Self:
        """One frame of the rep, with a frame axis of 1."""
        one = self.up_share[frame : frame + 1]
        if len(one) == len(self.up_share):
            return self
        same = replace(
            self,
            stack=self.restack(None, one),
            up_share=one,
            progress=self.progress[frame : frame + 1],
            turned_kgm=_frame_of(self.turned_kgm, frame),
            rolled_kgm=_frame_of(self.rolled_kgm, frame),
        )
        held = vars(self)
        vars(same).update({name: held[name] for name in STEADY if name in held})
        return same

    def guess(self, name: str, usual: Array) -> Array:
        """First guess of a search: the root it found before, where there is one, else the usual guess."""
        root = self.roots.get(name)
        return usual if root is None else np.where(np.isnan(root), usual, root)

    def turned_by_lines(self, leg: Leg, leans: tuple[Array, Array], at_x: Array) -> Array:
        """What lines turn forward about a point of the floor ``at_x`` m ahead, kg m.

        With both legs alike, pelvis and trunk at some leans (rad); what was told where no lines are balanced here.
        """
        if not self.lines:
            return self.turned_kgm
        outline = Outline(self.body, self.stack, {"left": leg, "right": leg}, *leans)
        pulls = line_forces(self.body, outline, self.lines, self.progress, self.up_share)
        return turning_forward(at_x, pulls)

    @lazy
    def toe_out(self) -> Array:
        """Toe-out of the (front) feet, rad."""
        turned: Array = np.radians(self.given["toe_out_deg"])
        return turned

    @lazy
    def mass_kg(self) -> Array:
        """Athlete with all loads above the hips, kg."""
        leg = summed(self.body.mass[part] for part in ("foot", "shank", "thigh"))
        total: Array = self.stack.mass_kg + 2.0 * leg
        return total

    def shoe_rad(self) -> Array:
        """Pitch of the foot by a shoe's heel or a wedge, rad."""
        sole = landmark("ball_from_heel") * self.body.lengths["foot"]
        pitch: Array = np.arcsin(np.clip(self.given["heel_height_m"] / sole, 0.0, 0.6))
        return pitch

    def foot(self, lift_deg: Array, half_stance_m: Array) -> Foot:
        """A foot on the floor, outward at half the stance."""
        pitch = self.shoe_rad() + np.radians(lift_deg)
        return place_foot(self.body, half_stance_m, self.toe_out, pitch)


def _frame_of(values: Array, frame: int) -> Array:
    return values if values.shape[-1] == 1 else values[:, frame : frame + 1]


def failures_of(
    shape: tuple[int, ...], *checks: tuple[str, str, Flags | NDArray[np.float64]]
) -> tuple[Failure, ...]:
    """Checks (code, settings key, flags) as failures whose flags have the shape (cases, frames)."""
    return tuple(
        Failure(code, key, widened(np.asarray(flags, dtype=bool), shape))
        for code, key, flags in checks
    )


def leans_nowhere(line_rad: Array) -> Flags:
    """Frames in which no believable trunk lean was found."""
    nowhere: Flags = (
        np.isnan(line_rad) | (line_rad > UPPERMOST_TRUNK_RAD) | (line_rad < LOWERMOST_TRUNK_RAD)
    )
    return nowhere


def leads(given: Mapping[str, Array]) -> bool:
    """Whether hips or knees go first anywhere, on the way down or up."""
    return any(key in given and given[key].any() for key in ("hips_lead", "hips_rise_deg"))


def column_or(settings: Mapping[str, Array], key: str, other: float, like: Array) -> Array:
    """A setting's column, or a constant where the variation has no such setting."""
    return settings[key] if key in settings else np.full_like(like, other)
