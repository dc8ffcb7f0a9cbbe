"""Pelvis, trunk, head, arms and what they carry: one rigid stack above the hips.

The trunk has two parts, joined at L5/S1. Side-view first moments of mass are kept apart by what
they turn with (pelvis, trunk, or nothing), so that balance over a point is a closed form.
Angles in radians, + leaning forward; offsets are (forward, above) in a part's upright frame, m.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray

from zesty_lever.frozen import dataclass, lazy
from zesty_lever.physics.body import Body, landmark
from zesty_lever.physics.vectors import (
    Array,
    Lean,
    Named,
    dot,
    each_array,
    norm,
    sagittal,
    unit,
    vector,
    widened,
)

ELBOW_HINTS = {
    "bar-on-back": (-0.1, -1.0, 0.3),
    "front-rack": (1.0, -0.15, 0.1),
    "at-chest": (0.25, -1.0, 0.3),
    "hands-on-chest": (0.25, -1.0, 0.3),
}

ARM_POINTS = ("elbow", "wrist", "hand")
ARM_PARTS = ("upper_arm", "forearm", "hand")


@dataclass(frozen=True)
class Carried:
    """A point mass above the hips: where it sits and who carries it.

    ``offset`` is (forward, above) from mid-shoulder in the trunk's frame for loads on the trunk or
    held against it, from mid-hip in the pelvis's frame for loads carried by the pelvis; None for
    loads that hang from the hands.
    """

    name: str
    carried_by: tuple[str, ...]
    mass_kg: Array
    offset_m: tuple[Array, Array] | None

    @property
    def on_pelvis(self) -> bool:
        """Whether the pelvis carries it (belt, bar on the hip crease)."""
        return self.carried_by == ("pelvis",)


@dataclass(frozen=True)
class Arm:
    """One right arm relative to the shoulder: the trunk frame if rigid, else the world frame.

    ``centres`` are the mass centres of its segments, m.
    """

    rigid: bool
    elbow: Array
    wrist: Array
    hand: Array
    centres: Mapping[str, Array]

    @classmethod
    def of(cls, body: Body, elbow: Array, wrist: Array, hand: Array, *, rigid: bool) -> Arm:
        """The arm of a body by its places."""
        centres = {
            "upper_arm": body.centre["upper_arm"] * elbow,
            "forearm": elbow + body.centre["forearm"] * (wrist - elbow),
            "hand": hand,
        }
        return cls(rigid, elbow, wrist, hand, centres)


@dataclass(frozen=True)
class Stack:
    """Everything above the hips, ready for balance: masses and first moments (kg m).

    ``with_pelvis`` turns with the pelvis, ``with_trunk`` with the trunk, each (forward, above);
    ``fixed`` is a forward first moment that does not turn (arms that hang or reach).
    """

    body: Body
    arm: Arm
    loads: tuple[Carried, ...]
    mass_kg: Array
    mass_above_lumbosacral_kg: Array
    with_pelvis: tuple[Array, Array]
    with_trunk: tuple[Array, Array]
    fixed: Array

    def taken(self, part: slice | NDArray[np.intp], body: Body) -> Stack:
        """That of some of the cases, whose bodies are ``body``."""

        def some(value: Any) -> Any:
            return each_array(value, lambda a: a[..., part, :] if a.shape[-2] > 1 else a)

        own = {
            name: some(getattr(self, name)) for name in self.__dataclass_fields__ if name != "body"
        }
        return Stack(body=body, **own)

    @property
    def hung_kgm(self) -> Array:
        """First moment ahead of the hips of what hangs from the upright pelvis, kg m."""
        hung = np.zeros_like(self.mass_kg)
        for load in self.loads:
            if load.on_pelvis and load.offset_m is not None:
                hung = hung + load.mass_kg * load.offset_m[0]
        return hung

    def moment_about_hips(self, pelvis_rad: Array, trunk_rad: Array) -> Array:
        """First moment of the stack about the hips along X, kg m."""
        (low, low_rad), (high, high_rad) = self._apart
        moment: Array = (
            low * np.sin(pelvis_rad + low_rad) + high * np.sin(trunk_rad + high_rad) + self.fixed
        )
        return moment

    def height_moment(self, pelvis_rad: Array, trunk_rad: Array) -> Array:
        """First moment of the stack above the hips along Y, kg m, without what does not turn."""
        (low, low_rad), (high, high_rad) = self._apart
        moment: Array = low * np.cos(pelvis_rad + low_rad) + high * np.cos(trunk_rad + high_rad)
        return moment

    def lean_for(self, moment_kgm: Array, pelvis_most_rad: Array) -> tuple[Array, Array]:
        """Pelvis and trunk lean that put the stack's first moment about the hips at a value.

        Pelvis and trunk lean together up to ``pelvis_most_rad``; beyond it the lower back flexes.
        Both branches are A sin + B cos = k; the root taken is the one where leaning moves the
        mass forward. NaN where no lean does it.
        """
        turning = moment_kgm - self.fixed
        together = _lean_root(self._together, turning)
        upright = together <= pelvis_most_rad
        if upright.all():
            together = widened(together, upright.shape)
            return together, together
        (low, low_rad), of_trunk = self._apart
        by_pelvis = low * np.sin(pelvis_most_rad + low_rad)
        apart = _lean_root(of_trunk, turning - by_pelvis)
        rounds = together > pelvis_most_rad
        # Where the whole stack has no root, the trunk alone may still have one.
        rounds |= np.isnan(together) & (apart > pelvis_most_rad)
        pelvis: Array = np.where(rounds, pelvis_most_rad, together)
        trunk: Array = np.where(rounds, apart, together)
        return np.where(np.isnan(trunk), np.nan, pelvis), trunk

    @lazy
    def _together(self) -> tuple[Array, Array]:
        """Size (kg m) and angle (rad) of the whole stack's first moment, leaning as one."""
        return _size_and_angle(
            self.with_pelvis[0] + self.with_trunk[0], self.with_pelvis[1] + self.with_trunk[1]
        )

    @lazy
    def _apart(self) -> tuple[tuple[Array, Array], tuple[Array, Array]]:
        """The same of the pelvis and of the trunk, each with what turns with it."""
        return _size_and_angle(*self.with_pelvis), _size_and_angle(*self.with_trunk)

    def line_of(self, pelvis_rad: Array, trunk_rad: Array) -> Array:
        """Lean of the hip-shoulder line for given pelvis and trunk leans, rad."""
        whole = self.to_shoulder(pelvis_rad, trunk_rad)
        angle: Array = np.arctan2(whole[0], whole[1])
        return angle

    def line_length(self, pelvis_rad: Array, trunk_rad: Array) -> Array:
        """Distance from mid-hip to mid-shoulder, m: shorter when the lower back flexes."""
        whole = self.to_shoulder(pelvis_rad, trunk_rad)
        length: Array = np.hypot(whole[0], whole[1])
        return length

    def to_shoulder(self, pelvis_rad: Array, trunk_rad: Array) -> Array:
        """From mid-hip to mid-shoulder, ``(3, ...)`` m."""
        up, out = lumbosacral_offset(self.body)
        lower = sagittal(pelvis_rad, -out, up)
        return lower + sagittal(trunk_rad, out, self.body.lengths["hip_to_shoulder"] - up)

    def shoulder_height(self, pelvis_rad: Array, trunk_rad: Array) -> Array:
        """Height of mid-shoulder over mid-hip, m."""
        height: Array = self.to_shoulder(pelvis_rad, trunk_rad)[1]
        return height

    def split_line(self, line_rad: Array, pelvis_most_rad: Array) -> tuple[Array, Array]:
        """Pelvis and trunk lean for a given lean of the hip-shoulder line."""
        up, out, out_2_up_2, radius_2, bent = self._at_lumbosacral
        excess = line_rad - pelvis_most_rad
        rounds = excess > 0.0
        if not rounds.any():
            pelvis = widened(line_rad, excess.shape)
            return pelvis, pelvis
        # Law of cosines: L5/S1 at (-out, up) from the hips, the shoulder on a circle about it.
        c, s = np.cos(excess), np.sin(excess)
        along = c * up - s * out
        distance = along + np.sqrt(np.maximum(along * along - out_2_up_2 + radius_2, 0.0))
        flexion = np.arctan2(distance * s + out, distance * c - up) - bent
        pelvis = np.where(rounds, pelvis_most_rad, line_rad)
        trunk: Array = np.where(rounds, pelvis_most_rad + flexion, line_rad)
        return pelvis, trunk

    @lazy
    def _at_lumbosacral(self) -> tuple[Array, Array, Array, Array, Array]:
        """L5/S1 above the hips and behind the line to the shoulders (m), squares (m2) and angle (rad) that `split_line` needs."""
        up, out = lumbosacral_offset(self.body)
        to_shoulder = self.body.lengths["hip_to_shoulder"] - up
        square = out * out
        return (
            up,
            out,
            up * up + square,
            square + to_shoulder * to_shoulder,
            np.arctan2(out, to_shoulder),
        )

    def place(self, hips: Array, pelvis_rad: Array, trunk_rad: Array) -> Named:
        """Points ``(3, ...)`` m of the stack for mid-hip position and leans, each made when it is asked for.

        Keys: ``lumbosacral``, ``shoulder_mid``, ``head_top``, right-hand ``shoulder``, ``elbow``,
        ``wrist``, ``hand``, mass centres ``centre_pelvis``/``_trunk``/``_head``, and one
        of the arm too (``centre_upper_arm`` ...), and one ``load_<i>`` for each carried load (on the mid-plane,
        or at the right hand).
        """
        body, line = self.body, self.body.lengths["hip_to_shoulder"]
        up, out, *_ = self._at_lumbosacral
        pelvis = Lean(pelvis_rad)
        trunk = pelvis if trunk_rad is pelvis_rad else Lean(trunk_rad)
        head = trunk
        # Head and neck go on in the trunk's line, but never hang below the shoulders when lying.
        if trunk_rad.min() < -0.5 * np.pi:
            head = Lean(np.maximum(trunk_rad, -0.5 * np.pi))
        neck = body.lengths["head_and_neck"]
        at_mid: dict[str, Callable[[], Array]] = {
            "lumbosacral": lambda: hips + pelvis.turned(-out, up),
            "shoulder_mid": lambda: points["lumbosacral"] + trunk.turned(out, line - up),
            "centre_pelvis": lambda: hips + pelvis.turned(0.0, body.centre["pelvis"] * line),
            "centre_trunk": lambda: (
                points["lumbosacral"] + trunk.turned(out, body.centre["trunk"] * line - up)
            ),
            "head_top": lambda: points["shoulder_mid"] + head.turned(0.0, neck),
            "centre_head": lambda: (
                points["shoulder_mid"] + head.turned(0.0, body.centre["head"] * neck)
            ),
            "shoulder": lambda: (
                points["shoulder_mid"] + vector(0.0, 0.0, 0.5 * body.lengths["shoulder_width"])
            ),
        }

        def make(name: str) -> Array:
            if name in at_mid:
                return at_mid[name]()
            if name.startswith("load_"):
                return self._at_load(int(name[5:]), points, hips, (pelvis, trunk))
            part = name.removeprefix("centre_")
            offset: Array = getattr(self.arm, part) if part == name else self.arm.centres[part]
            if not self.arm.rigid:
                return points["shoulder"] + offset
            placed = points["shoulder"] + trunk.turned(offset[0], offset[1])
            placed[2] += offset[2]
            return placed

        loads = [f"load_{index}" for index in range(len(self.loads))]
        points = Named((*at_mid, *ARM_POINTS, *(f"centre_{p}" for p in ARM_PARTS), *loads), make)
        return points

    def _at_load(
        self, index: int, points: Mapping[str, Array], hips: Array, leans: tuple[Lean, Lean]
    ) -> Array:
        """Where a load is, m."""
        load = self.loads[index]
        if load.offset_m is None:
            return points["hand"]
        if load.on_pelvis:
            return hips + leans[0].turned(*load.offset_m)
        return points["shoulder_mid"] + leans[1].turned(*load.offset_m)


def lumbosacral_offset(body: Body) -> tuple[Array, Array]:
    """L5/S1 above the hips along the hip-shoulder line, and behind that line, m."""
    up = landmark("lumbosacral_above_hips") * body.lengths["hip_to_shoulder"]
    return up, body.scaled_m(landmark("lumbosacral_behind_line_m"))


def _size_and_angle(forward: Array, above: Array) -> tuple[Array, Array]:
    """A first moment (forward, above) as its size and how far it lies ahead of plumb, rad."""
    return np.hypot(above, forward), np.arctan2(forward, above)


def _lean_root(turns: tuple[Array, Array], moment: Array) -> Array:
    """Angle a with above sin a + forward cos a = moment, on the branch that rises with a; NaN where there is none.

    ``turns`` is what turns, as `_size_and_angle` has it.
    """
    size, angle = turns
    # Outside -1 to 1 there is no root: NaN.
    root: Array = np.arcsin(moment / size) - angle
    return root


def build_arm(body: Body, hold: str, grip: Sequence[Array], reach_rad: Array) -> Arm:
    """Right arm for a hold. ``grip`` is the hand's (forward, above, outward) from the shoulder.

    ``reach_rad`` is how far reaching arms are raised from hanging (90 deg = level). Hanging arms
    are straight; of their grip only forward and outward count. For holds on the trunk the elbow
    follows from the two arm lengths; a grip nearer or farther than they allow is met at the
    nearest possible elbow angle by moving the wrist along the line to the grip.
    """
    upper, fore = body.lengths["upper_arm"], body.lengths["forearm"]
    hand_length = body.hand_m * body.centre["hand"]
    if hold in ("hanging", "reaching"):
        length = upper + fore + hand_length
        if hold == "reaching":
            along = vector(np.sin(reach_rad), -np.cos(reach_rad), 0.0)
        else:
            ahead, aside = (np.clip(grip[i] / length, -0.7, 0.7) for i in (0, 2))
            along = vector(ahead, -np.sqrt(1.0 - ahead**2 - aside**2), aside)
        return Arm.of(body, upper * along, (upper + fore) * along, length * along, rigid=False)
    if hold == "along-trunk":
        length = upper + fore + hand_length
        down = unit(vector(0.10 + np.zeros_like(upper), -0.97, 0.22))
        return Arm.of(body, upper * down, (upper + fore) * down, length * down, rigid=True)
    if hold == "hands-on-chest":
        grip = (body.scaled_m(0.12), body.scaled_m(-0.06), -0.35 * body.lengths["shoulder_width"])
    target = vector(*grip)
    distance = norm(target)
    reachable = np.clip(distance, 1.02 * np.abs(upper - fore), 0.999 * (upper + fore))
    toward = target / distance
    wrist = reachable * toward
    along_line = (reachable**2 + upper**2 - fore**2) / (2.0 * reachable)
    off_line = np.sqrt(np.maximum(upper**2 - along_line**2, 0.0))
    hint = np.array(ELBOW_HINTS[hold]).reshape(3, *([1] * (toward.ndim - 1)))
    aside = unit(hint - dot(hint + 0.0 * toward, toward) * toward)
    elbow = along_line * toward + off_line * aside
    return Arm.of(body, elbow, wrist, target, rigid=True)


def build_stack(body: Body, arm: Arm, loads: tuple[Carried, ...]) -> Stack:
    """Gather masses and first moments of all that is above the hips."""
    line = body.lengths["hip_to_shoulder"]
    up, out = lumbosacral_offset(body)
    masses: list[Array] = [body.mass["trunk"], body.mass["head"]]
    forward: list[Array] = [body.mass["trunk"] * out, body.mass["head"] * out]
    head_above = line - up + body.centre["head"] * body.lengths["head_and_neck"]
    above: list[Array] = [
        body.mass["trunk"] * (body.centre["trunk"] * line - up),
        body.mass["head"] * head_above,
    ]
    nothing = np.zeros(line.shape)
    fixed = nothing
    pieces = [(2.0 * body.mass[part], offset) for part, offset in arm.centres.items()]
    pieces += [(load.mass_kg, arm.hand) for load in loads if load.offset_m is None]
    for mass, offset in pieces:
        masses.append(mass)
        if arm.rigid:
            forward.append(mass * (out + offset[0]))
            above.append(mass * (line - up + offset[1]))
        else:
            forward.append(mass * out)
            above.append(mass * (line - up))
            fixed = fixed + mass * offset[0]
    low = (nothing, nothing, nothing)
    for load in loads:
        if load.offset_m is not None and load.on_pelvis:
            ahead, over = load.offset_m
            mass = load.mass_kg
            low = (low[0] + mass, low[1] + mass * ahead, low[2] + mass * over)
        elif load.offset_m is not None:
            masses.append(load.mass_kg)
            forward.append(load.mass_kg * (out + load.offset_m[0]))
            above.append(load.mass_kg * (line - up + load.offset_m[1]))
    mass_above = sum(masses[1:], masses[0])
    pelvis = body.mass["pelvis"]
    return Stack(
        body=body,
        arm=arm,
        loads=loads,
        mass_kg=mass_above + pelvis + low[0],
        mass_above_lumbosacral_kg=mass_above,
        with_pelvis=(
            low[1] - mass_above * out,
            low[2] + mass_above * up + pelvis * body.centre["pelvis"] * line,
        ),
        with_trunk=(sum(forward[1:], forward[0]), sum(above[1:], above[0])),
        fixed=fixed,
    )
