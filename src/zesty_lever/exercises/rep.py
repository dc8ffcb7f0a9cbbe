"""What every pose builder takes and gives: one batch of athletes and settings, one rep of poses."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from typing import Self

import numpy as np
from numpy.typing import NDArray

from zesty_lever.body import Body, landmark
from zesty_lever.mechanics.contacts import Support
from zesty_lever.motion.legs import Foot, place_foot
from zesty_lever.motion.pose import Pose
from zesty_lever.motion.upper_body import Stack
from zesty_lever.vectors import Array

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
        """Pelvis lean at which the hips run out and the low back starts to flex.

        ``thigh_rad`` is the thigh's angle against level (knee to hip), 90 deg when standing.
        """
        limit = np.minimum(self.hip_flexion, self.straight_leg + 0.5 * knee_flexion_rad)
        most: Array = limit - 0.5 * np.pi + thigh_rad
        return most


@dataclass(frozen=True)
class Rep:
    """Poses ``(cases, frames)`` of a rep, what holds them up, and what is impossible.

    ``pressure_fraction`` is where along the (front) foot the pressure sits; ``bottom_deg`` the angles
    and shares at the deepest point, solved or given, per case; ``solved`` the frames that can be
    drawn; ``failures`` lists (code, settings key, flags per case) in the order in which they matter.
    """

    pose: Pose
    support: Support
    pressure_fraction: Array
    bottom_deg: Mapping[str, Array]
    solved: Flags
    failures: tuple[tuple[str, str, Flags], ...]


@dataclass(frozen=True)
class Rig:
    """One batch: bodies, stacks, limits and settings as arrays with a trailing frame axis of 1.

    ``options`` are words of the variation's data file (how the rear foot stands, for instance);
    ``restack`` makes the stack anew with the hands hanging so far (m) ahead of the shoulders (None:
    where they are) and a share of the load on the way up. ``turned_kgm`` is what bands, cables and
    pushes turn forward about the pressure point, as a first moment of mass, ``rolled_kgm`` what
    they roll to the right about the line between the contacts, by frame. ``up_share`` is the
    timeline's.
    """

    body: Body
    stack: Stack
    limits: Limits
    given: Mapping[str, Array]
    options: Mapping[str, object]
    restack: Callable[[Array | None, Array], Stack]
    turned_kgm: Array
    rolled_kgm: Array
    up_share: Array

    def at(self, frame: int) -> Self:
        """One frame of the rep, with a frame axis of 1."""
        one = self.up_share[frame : frame + 1]
        return replace(
            self,
            stack=self.restack(None, one),
            up_share=one,
            turned_kgm=_frame_of(self.turned_kgm, frame),
            rolled_kgm=_frame_of(self.rolled_kgm, frame),
        )

    @property
    def toe_out(self) -> Array:
        """Toe-out of the (front) feet, rad."""
        turned: Array = np.radians(self.given["toe_out_deg"])
        return turned

    @property
    def mass_kg(self) -> Array:
        """Athlete with all loads above the hips, kg."""
        legs = 2.0 * sum(self.body.mass[part] for part in ("foot", "shank", "thigh"))
        total: Array = self.stack.mass_kg + legs
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


def any_frame(flags: Flags, shape: tuple[int, ...]) -> Flags:
    """Whether a flag is raised anywhere in the rep, by case."""
    raised: Flags = np.logical_or.reduce(np.broadcast_to(flags, shape), axis=1)
    return raised


def leans_nowhere(line_rad: Array) -> Flags:
    """Frames in which no believable trunk lean was found."""
    nowhere: Flags = (
        np.isnan(line_rad) | (line_rad > UPPERMOST_TRUNK_RAD) | (line_rad < LOWERMOST_TRUNK_RAD)
    )
    return nowhere


def column_or(settings: Mapping[str, Array], key: str, other: float, like: Array) -> Array:
    """A setting's column, or a constant where the variation has no such setting."""
    return settings[key] if key in settings else np.full_like(like, other)
