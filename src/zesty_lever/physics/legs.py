"""The closed-form leg: from stance, toe-out, shin, thigh and knee track to joint positions.

Legs are worked out on the right side, where outward is +Z, and mirrored for the left. All angles
are radians, all lengths metres, all arrays broadcast over the pose axes.
"""

from __future__ import annotations

import numpy as np

from zesty_lever.frozen import dataclass, lazy
from zesty_lever.physics.body import Body, landmark
from zesty_lever.physics.iterate import TOLERANCE
from zesty_lever.physics.vectors import Array, cross, dot, norm, smoothstep, unit, vector

STRAIGHTENS_BELOW_RAD = np.radians(60.0)
MOST_TRACK_STEPS = 30
LEAST_M = 1e-9
# How far from fully folded, and how nearly straight, a leg is at most taken to be.
NEARLY_FOLDED_M, NEARLY_STRAIGHT, LEAST_RADIUS_M = 1e-6, 1.0 - 1e-12, 1e-12


@dataclass(frozen=True)
class Foot:
    """Landmarks of one right foot of a body, each ``(3, ...)`` m, with the way the toes point."""

    body: Body
    heel: Array
    ball: Array
    toe: Array
    ankle: Array
    direction: Array
    pitch_rad: Array

    def pressure_point(self, fraction: Array) -> Array:
        """Point on the floor under the flat foot, ``fraction`` from heel (0) to toe tip (1)."""
        behind_ball = (landmark("ball_from_heel") - fraction) * self.body.lengths["foot"]
        point: Array = self.ball - behind_ball * self.direction
        return point

    @lazy
    def centre(self) -> Array:
        """Mass centre, m: on the heel-toe line, raised by half the ankle height."""
        centre: Array = self.heel + self.body.centre["foot"] * (self.toe - self.heel)
        centre[1] += landmark("foot_centre_height") * self.body.lengths["ankle_height"]
        return centre

    def moved(self, by: Array) -> Foot:
        """The foot as it is, somewhere else."""
        return Foot(
            self.body,
            self.heel + by,
            self.ball + by,
            self.toe + by,
            self.ankle + by,
            self.direction,
            self.pitch_rad,
        )


@dataclass(frozen=True)
class Leg:
    """One right leg: joint centres ``(3, ...)`` m.

    ``bent`` is the share (0 straight - 1 bent) by which the knee sits over the toe line;
    ``reach_short_m`` is by how much the leg fails to reach sideways (0 where it does);
    ``outward_m`` is the sideways term of the knee's place that `place_leg` found.
    """

    foot: Foot
    knee: Array
    hip: Array
    bent: Array
    reach_short_m: Array
    outward_m: Array | float = 0.0

    @lazy
    def shank(self) -> Array:
        """From ankle to knee, m."""
        way: Array = self.knee - self.foot.ankle
        return way

    @lazy
    def thigh(self) -> Array:
        """From knee to hip, m."""
        way: Array = self.hip - self.knee
        return way

    @lazy
    def _across(self) -> Array:
        """At right angles to shank and thigh, as long as the sine of their angle times both, m2."""
        return cross(self.shank, self.thigh)

    @lazy
    def knee_axis(self) -> Array:
        """Flexion axis (points right): the leg plane's normal, or the toe line's when straight."""
        toe_normal = vector(-self.foot.direction[2], 0.0, self.foot.direction[0])
        return unit(self.bent * unit(self._across) + (1.0 - self.bent) * toe_normal)

    @lazy
    def dorsiflexion_rad(self) -> Array:
        """Ankle dorsiflexion: the shank's lean along the toe line, less the foot's pitch."""
        ahead = dot(self.shank, self.foot.direction)
        lean: Array = np.arctan2(ahead, self.shank[1]) - self.foot.pitch_rad
        return lean

    @lazy
    def knee_flexion_rad(self) -> Array:
        """Angle between shank and thigh in space, 0 = straight."""
        angle: Array = np.arctan2(norm(self._across), dot(self.shank, self.thigh))
        return angle

    @lazy
    def hip_opening_rad(self) -> Array:
        """How far the thigh points outward from the side-view plane."""
        outward = -self.thigh[2] / norm(self.thigh)
        angle: Array = np.arcsin(np.minimum(np.maximum(outward, -1.0), 1.0))
        return angle


def place_foot(body: Body, half_stance_m: Array, toe_out_rad: Array, pitch_rad: Array) -> Foot:
    """Right foot on the floor, its flat ankle over x = 0, pitched up about the ball.

    Heel lift and a heeled shoe are the same pitch; the ball and toes stay where they were.
    """
    length, ankle_height = body.lengths["foot"], body.lengths["ankle_height"]
    to_ball = (landmark("ball_from_heel") - landmark("ankle_from_heel")) * length
    whole = landmark("ball_from_heel") * length
    c, s = np.cos(pitch_rad), np.sin(pitch_rad)
    direction = vector(np.cos(toe_out_rad), 0.0, np.sin(toe_out_rad))
    ball = to_ball * direction + vector(0.0, 0.0, half_stance_m)
    toe = ball + (1.0 - landmark("ball_from_heel")) * length * direction
    heel = ball - whole * c * direction + vector(0.0, whole * s, 0.0)
    back = to_ball * c - ankle_height * s
    ankle = ball - back * direction + vector(0.0, to_ball * s + ankle_height * c, 0.0)
    return Foot(body, heel, ball, toe, ankle, direction, np.asarray(pitch_rad, dtype=float))


@dataclass(frozen=True)
class ThighPlace:
    """Where knee and hip come to lie for one sideways term.

    The knee's height over the ankle (m), the root of its equation, and the thigh's sideways and side-view
    length (m).
    """

    up: Array
    root: Array
    sideways: Array
    side_view: Array


@dataclass(frozen=True)
class Sideways:
    """The equation of a leg's sideways term c, m; names as in `place_leg`."""

    shank: Array
    thigh: Array
    lean: Array
    turn: Array
    along: Array
    straight: Array
    offset: Array
    to_hip_out: Array

    @lazy
    def over_toes(self) -> Array:
        """T t: how far the knee goes sideways along the toe line per metre of height."""
        return self.lean * self.turn

    @lazy
    def a(self) -> Array:
        """Square term of the height's equation: L^2 (1 + T^2 + T^2 t^2) + 2 T t c L + c^2 = s^2."""
        square: Array = 1.0 + self.lean * self.lean + self.over_toes * self.over_toes
        return square

    @lazy
    def squares(self) -> tuple[Array, Array, Array]:
        """Of the height's equation a s^2 (m2) and 1 + T^2, and the thigh's squared length, m2."""
        of_height = self.a * (self.shank * self.shank)
        return of_height, 1.0 + self.lean * self.lean, self.thigh * self.thigh

    @lazy
    def asks(self) -> tuple[Array, Array]:
        """The sideways term that a hip over the ankle asks for (m), and how much less per metre ahead."""
        return self.offset + self.straight * self.to_hip_out, self.straight * self.turn

    def wanted(self, hip_ahead: Array) -> Array:
        """The sideways term that a hip so far ahead of the ankle asks for, m."""
        over_ankle, less = self.asks
        term: Array = over_ankle - less * hip_ahead
        return term

    def first(self, shin_rad: Array) -> Array:
        """A first guess of the sideways term, m: that of a leg in the side-view plane."""
        return self.wanted(self.shank * np.sin(shin_rad) - self.thigh * self.along)

    def at(self, outward: Array) -> ThighPlace:
        """Knee and hip for a sideways term."""
        of_height, across, thigh_2 = self.squares
        half_b = self.over_toes * outward
        inside = of_height - across * (outward * outward)
        root = np.sqrt(np.maximum(inside, 0.0))
        up = (root - half_b) / self.a
        sideways = self.to_hip_out - up * self.over_toes - outward
        side_view = np.sqrt(np.maximum(thigh_2 - sideways * sideways, 0.0))
        return ThighPlace(up, root, sideways, side_view)

    @lazy
    def rises(self) -> tuple[Array, Array]:
        """What the height's slope is made of, see `slopes`."""
        over, a = self.over_toes, self.a
        return (over * over - a) / a, over / a

    def slopes(self, outward: Array, at: ThighPlace) -> tuple[Array, Array]:
        """How the knee's height and the thigh's side-view length rise with the sideways term, m a metre."""
        by_root, always = self.rises
        rise = by_root * outward / np.maximum(at.root, LEAST_M) - always
        side_view = at.sideways * (rise * self.over_toes + 1.0) / np.maximum(at.side_view, LEAST_M)
        return rise, side_view

    def step(self, outward: Array, at: ThighPlace, slopes: tuple[Array, Array]) -> Array:
        """Newton's next step of the sideways term, m."""
        gap = self.wanted(at.up * self.lean - at.side_view * self.along) - outward
        rise, side_view = slopes
        ahead = rise * self.lean - side_view * self.along
        found: Array = gap / (self.asks[1] * ahead + 1.0)
        return found

    def settle(self, outward: Array) -> tuple[Array, ThighPlace]:
        """The sideways term to 1e-9 m, sample by sample, and what it gives."""
        active = np.ones(np.shape(outward), dtype=bool)
        at = self.at(outward)
        for _ in range(MOST_TRACK_STEPS):
            step = self.step(outward, at, self.slopes(outward, at))
            outward = np.where(active, outward + step, outward)
            at = self.at(outward)
            active = active & (np.abs(step) >= TOLERANCE)
            if not active.any():
                break
        return outward, at

    def stepped(self, outward: Array) -> tuple[Array, ThighPlace]:
        """One step of the sideways term from a guess: the term, and what it gives."""
        at = self.at(outward)
        outward = outward + self.step(outward, at, self.slopes(outward, at))
        return outward, self.at(outward)


def place_leg(
    body: Body,
    foot: Foot,
    shin_rad: Array,
    thigh_rad: Array,
    toe_out_rad: Array,
    track_m: Array,
    hip_out_m: Array | None = None,
    start_outward_m: Array | None = None,
    *,
    searching: bool = False,
) -> Leg:
    """Right leg from side-view shin and thigh angles.

    The knee sits over the toe line when bent and on the hip-ankle line when straight:
    knee - ankle = L (T, 1, T t + c / L), T = tan(shin), t = tan(toe-out), c the sideways term, which
    depends on where the hip ends: found by Newton's method, sample by sample, until its last step is
    below 1e-9 m. The hip then lies on the knee's sphere at the pelvis's half width, so the thigh's
    side-view length is sqrt(thigh^2 - dz^2).
    Where the stance is too wide for the thigh, ``reach_short_m`` is positive and the positions
    are those of the fully turned-out thigh; callers report it. ``hip_out_m`` is where the hip is
    sideways (default: half the pelvis's width; another where the pelvis has shifted);
    ``start_outward_m`` is a first guess of c, m; ``searching`` takes one step from it only, for a search
    that asks again and again and carries c along.
    """
    thigh = body.lengths["thigh"]
    half_hips = 0.5 * body.lengths["hip_width"] if hip_out_m is None else hip_out_m
    bent = smoothstep((shin_rad + 0.5 * np.pi - thigh_rad) / STRAIGHTENS_BELOW_RAD)
    angles = (shin_rad, thigh_rad, np.tan(toe_out_rad))
    offset, to_hip_out = track_m / np.cos(toe_out_rad), half_hips - foot.ankle[2]
    track = sideways_of(body, angles, bent, offset, to_hip_out)
    outward = start_outward_m
    if outward is None:
        outward = track.first(angles[0])
    if searching:
        outward, at = track.stepped(outward)
    else:
        outward, at = track.settle(outward)
    hip_ahead = at.up * track.lean - at.side_view * track.along
    knee = foot.ankle + vector(at.up * track.lean, at.up, at.up * track.over_toes + outward)
    short = np.maximum(np.abs(at.sideways) - thigh, 0.0)
    hip = vector(foot.ankle[0] + hip_ahead, knee[1] + at.side_view * np.sin(thigh_rad), half_hips)
    return Leg(foot, knee, hip, bent, short, outward)


def sideways_of(
    body: Body,
    angles: tuple[Array, Array, Array],
    bent: Array,
    offset: Array,
    to_hip_out: Array,
) -> Sideways:
    """The equation of a leg's sideways term; ``angles``: shin, thigh (rad), tan of toe-out."""
    shank, thigh = body.lengths["shank"], body.lengths["thigh"]
    shin_rad, thigh_rad, turn = angles
    straight = (1.0 - bent) * (shank / (shank + thigh))
    lean, along = np.tan(shin_rad), np.cos(thigh_rad)
    return Sideways(shank, thigh, lean, turn, along, straight, offset, to_hip_out)


def reach_leg(body: Body, foot: Foot, hip: Array, toe_out_rad: Array, track_m: Array) -> Leg:
    """Leg between a given ankle and a given hip, knee ahead of the line between them.

    The same sideways rule as `place_leg`: the knee lies where the circle of both segments' lengths
    meets the plane over the toe line (bent) or through the hip-ankle line (straight); closed form.
    ``reach_short_m`` is by how much the leg is too short.
    """
    shank, thigh = body.lengths["shank"], body.lengths["thigh"]
    line = hip - foot.ankle
    full = norm(line)
    short = np.maximum(full - (shank + thigh), 0.0)
    distance = np.clip(
        full, np.abs(shank - thigh) + NEARLY_FOLDED_M, (shank + thigh) * NEARLY_STRAIGHT
    )
    toward = line / full
    along = (shank**2 - thigh**2 + distance**2) / (2.0 * distance)
    radius = np.sqrt(np.maximum(shank**2 - along**2, 0.0))
    flexion = np.arccos(
        np.clip((distance**2 - shank**2 - thigh**2) / (2.0 * shank * thigh), -1.0, 1.0)
    )
    bent = smoothstep(flexion / STRAIGHTENS_BELOW_RAD)
    ahead = unit(vector(toward[1], -toward[0], 0.0))
    aside = cross(toward, ahead)
    turn = np.tan(toe_out_rad)
    share = shank / (shank + thigh)
    offset = track_m / np.cos(toe_out_rad) + (1.0 - bent) * share * (line[2] - turn * line[0])
    on_ahead, on_aside = ahead[2] - turn * ahead[0], aside[2] - turn * aside[0]
    level = offset - along * (toward[2] - turn * toward[0])
    size = radius * np.hypot(on_ahead, on_aside)
    swing = np.arccos(np.clip(level / np.where(size > LEAST_RADIUS_M, size, 1.0), -1.0, 1.0))
    middle = np.arctan2(on_aside, on_ahead)
    one, two = middle + swing, middle - swing
    angle = np.where(np.cos(one) >= np.cos(two), one, two)
    knee = foot.ankle + along * toward + radius * (np.cos(angle) * ahead + np.sin(angle) * aside)
    return Leg(foot, knee, foot.ankle + distance * toward, bent, short)


def hang_leg(body: Body, hip: Array, thigh_lean_rad: Array, knee_flexion_rad: Array) -> Leg:
    """A leg that carries nothing, its foot at a right angle to the shank.

    The thigh leans by ``thigh_lean_rad`` (+ knee ahead) from plumb below the hip; the shank is bent
    back from it by ``knee_flexion_rad``.
    """
    knee = hip + body.lengths["thigh"] * vector(
        np.sin(thigh_lean_rad), -np.cos(thigh_lean_rad), 0.0
    )
    lean = thigh_lean_rad - knee_flexion_rad
    ankle = knee + body.lengths["shank"] * vector(np.sin(lean), -np.cos(lean), 0.0)
    forward, down = (
        vector(np.cos(lean), np.sin(lean), 0.0),
        vector(np.sin(lean), -np.cos(lean), 0.0),
    )
    length, height = body.lengths["foot"], body.lengths["ankle_height"]
    sole = ankle + height * down
    heel = sole - landmark("ankle_from_heel") * length * forward
    ball = heel + landmark("ball_from_heel") * length * forward
    toe = heel + length * forward
    # The foot is square to the shank whichever way both point: no dorsiflexion.
    turned_over = np.where(np.cos(lean) < 0.0, np.pi, 0.0)
    foot = Foot(body, heel, ball, toe, ankle, forward, turned_over)
    return Leg(
        foot, knee, hip, smoothstep(knee_flexion_rad / STRAIGHTENS_BELOW_RAD), np.zeros_like(hip[0])
    )


def rear_foot(
    body: Body, contact: Array, pitch_rad: Array, toe_out_rad: Array, *, laces_down: bool
) -> Foot:
    """Rear foot of a split stance standing on ``contact`` (ball tucked, or instep laces down).

    Tucked: the foot is pitched up about the ball. Laces down: the foot points back, the instep
    rests on the surface with the ankle just above it.
    """
    length, height = body.lengths["foot"], body.lengths["ankle_height"]
    to_ball = (landmark("ball_from_heel") - landmark("ankle_from_heel")) * length
    direction = vector(np.cos(toe_out_rad), 0.0, np.sin(toe_out_rad))
    if laces_down:
        back = -direction
        ankle = contact + vector(0.0, 0.7 * height, 0.0) - 0.5 * to_ball * back
        ball = contact + 0.5 * to_ball * back + vector(0.0, 0.3 * height, 0.0)
        toe = contact + (0.5 * to_ball + (1 - landmark("ball_from_heel")) * length) * back
        heel = ankle + vector(0.0, height, 0.0) - 0.1 * length * back
        turned_back = np.full_like(pitch_rad, np.pi * 5 / 6)
        return Foot(body, heel, ball, toe, ankle, direction, turned_back)
    c, s = np.cos(pitch_rad), np.sin(pitch_rad)
    ball = contact
    toe = ball + (1.0 - landmark("ball_from_heel")) * length * direction
    whole = landmark("ball_from_heel") * length
    heel = ball - whole * c * direction + vector(0.0, whole * s, 0.0)
    ankle = (
        ball - (to_ball * c - height * s) * direction + vector(0.0, to_ball * s + height * c, 0.0)
    )
    return Foot(body, heel, ball, toe, ankle, direction, pitch_rad)


def straight_leg_side_length(body: Body, half_stance_m: Array) -> Array:
    """Side-view length of a straight leg from ankle to hip at this stance, m (NaN: too wide)."""
    sideways = 0.5 * body.lengths["hip_width"] - half_stance_m
    squared = (body.lengths["shank"] + body.lengths["thigh"]) ** 2 - sideways**2
    length: Array = np.sqrt(np.where(squared > 0.0, squared, np.nan))
    return length
