"""The only pipeline: poses at some moments, and all that acts on them, become moments and problems.

Weights and inertia, lines, contacts, net moments, disc: one pass for one rep, for the ten thousand
samples of an interval, at rest and in motion. What is impossible about a pose is found here too, once,
and everybody reads the same flags.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import field
from typing import Any, TypeVar

import numpy as np
from numpy.typing import NDArray

from zesty_lever.frozen import dataclass, later, lazy, replace
from zesty_lever.joints import ROW, SIDES, JointGroup
from zesty_lever.physics.body import SEGMENTS, Body, landmark
from zesty_lever.physics.contacts import (
    MOST_SLIDE_M,
    OTHER_RULE,
    TWIST_RADIUS_M,
    Contacts,
    Support,
    solve_contacts,
)
from zesty_lever.physics.forces import (
    External,
    Pieces,
    gravity_on,
    on_pieces,
)
from zesty_lever.physics.inertia import loads_along
from zesty_lever.physics.lines import Line, Measured, lengths_m, line_forces
from zesty_lever.physics.moments import Disc, JointMoments, disc_forces, extension_of, joint_moments
from zesty_lever.physics.pose import Pose
from zesty_lever.physics.tempo import Instants
from zesty_lever.physics.vectors import Array, dot, each_array, one_over, widened

Flags = NDArray[np.bool_]
Some = TypeVar("Some")
# A residual moment above this is no equilibrium, N m: a hundred times what rounding leaves.
MOST_CLOSURE_NM = 0.01
# Forces below this are rounding, N; lengths, m; shares of the foot.
LEAST_N, LEAST_M, LEAST_SHARE = 1e-6, 1e-6, 1e-6
# Contacts that stand on the floor, a box or a bench by friction.
NOTHING = np.zeros(())
BY_FRICTION = ("foot", "toe", "heel", "instep", "knee")
ABOVE_FLOOR = (
    "lumbosacral",
    *(
        f"{name}_{side}"
        for name in ("ankle", "knee", "hip", "shoulder", "elbow", "wrist", "heel", "ball", "toe")
        for side in SIDES
    ),
)

ABOVE_FLOOR_RIGHT = tuple(name for name in ABOVE_FLOOR if not name.endswith("_left"))


@dataclass(frozen=True)
class Failure:
    """One kind of impossibility: code (see `problems.CODES`), settings key, and where it holds.

    ``flags`` are ``(cases, frames)``, of one case ``(frames,)``. For lines ``size`` is how long one is,
    m, ``what`` its name and ``allowed`` the lengths that it is known for.
    """

    code: str
    key: str
    flags: Flags
    size: Array | None = None
    what: str = ""
    allowed: tuple[float, float] | None = None


@dataclass(frozen=True)
class Poses:
    """Poses ``(cases, frames)`` of a rep, what holds them up, and what is impossible about them.

    ``pressure_fraction`` is where along the (front) foot the pressure is meant to sit; ``bottom_deg``
    the angles and shares at the deepest point, solved or given, per case; ``solved`` the frames that
    can be drawn; ``roots`` what searches along the path have found, to start the next ones from.
    """

    pose: Pose
    support: Support
    pressure_fraction: Array
    bottom_deg: Mapping[str, Array]
    solved: Flags
    failures: tuple[Failure, ...]
    roots: Mapping[str, Array] = field(default_factory=dict)


# What of a solved rep is itself taken part by part.
PARTLY: Mapping[str, type[Any]] = {"pose": Pose, "moments": JointMoments}


@dataclass(frozen=True)
class Solved:
    """Moments of a rep and all that they rest on. Arrays end in (cases, frames); of one case in (frames,).

    ``loads`` are weights (with inertia) and lines; ``supports`` what hands on a support and a seat push
    with; ``contacts`` all that holds the body up. ``acceleration_m_s2`` of the segments is zero at rest.
    ``pressure_fraction`` is where along the (front) foot the pressure sits. ``bottom_deg`` has the
    angles of the deepest point by settings key. ``drawable`` says which frames exist at all. ``least_pair_N``
    is the least-effort pair of the same pose without its fault, None where there is no fault.
    """

    pose: Pose
    support: Support
    rule: str
    loads: External
    supports: External
    ground: Contacts
    moments: JointMoments
    acceleration_m_s2: Array
    pressure_fraction: Array
    bottom_deg: Mapping[str, Any]
    drawable: Flags
    failures: tuple[Failure, ...]
    least_pair_N: Array | None = None

    @property
    def contacts(self) -> Contacts:
        """All that holds the body up: the ground, then hands on a support or a seat."""
        return self.ground.with_supports(self.supports)

    @property
    def carried(self) -> External:
        """What is carried, then every end of a line: the loads without the segments' own weights."""
        rows = slice(len(SEGMENTS), None)
        return External(
            self.loads.segments[rows],
            self.loads.points[:, rows],
            self.loads.forces[:, rows],
            names=self.loads.names[rows],
        )

    @property
    def lines(self) -> External:
        """Every end of a band, cable or push that pulls on the body."""
        rows, carried = slice(len(self.pose.load_names), None), self.carried
        return External(
            carried.segments[rows],
            carried.points[:, rows],
            carried.forces[:, rows],
            names=carried.names[rows],
        )

    @lazy
    def disc(self) -> Disc:
        """Forces on the L5/S1 disc, N."""
        return disc_forces(self.pose, self.moments)

    @lazy
    def other_ground(self) -> Contacts:
        """The ground under the other contact rule; the same where there is no pair to settle."""
        if self.support.kind in ("foot", "hooked"):
            return self.ground
        other = OTHER_RULE[self.rule]
        return solve_contacts(self.pose, self._loaded, self.support, other, self.least_pair_N)

    @lazy
    def other_end(self) -> JointMoments:
        """Moments under the other contact rule; the same ones where there is no pair to settle."""
        if self.support.kind in ("foot", "hooked"):
            return self.moments
        return _moments(self.pose, self._loaded, self.other_ground)

    @lazy
    def other_extension(self) -> Array:
        """Extension moments under the other contact rule, ``(joints, ...)`` N m."""
        if "other_end" in vars(self) or self.support.kind in ("foot", "hooked"):
            return self.other_end.extension
        cuts, _ = self._loaded.answered(self.other_ground.external())
        return extension_of(self.pose, cuts)

    @lazy
    def _loaded(self) -> Pieces:
        """All that acts on the pieces but the ground."""
        carried = self.loads.joined(self.supports) if self.supports.names else self.loads
        return on_pieces(carried, self.pose.pelvis_rad.shape)

    @lazy
    def feasible(self) -> Flags:
        """Whether the whole rep exists, by case."""
        failed = np.zeros(self.drawable.shape, dtype=bool)
        for failure in self.failures:
            failed |= failure.flags
        able: Flags = ~np.logical_or.reduce(failed, axis=-1)
        return able

    @property
    def frames(self) -> int:
        """How many frames there are."""
        return int(self.pose.pelvis_rad.shape[-1])

    def extension(self, joint: str) -> Array:
        """Extension moment of a joint over the frames, N m."""
        row: Array = self.moments.extension[ROW[joint]]
        return row

    def peak(self, group: JointGroup) -> Array:
        """Largest extensor moment of a joint group over frames and sides, N m (by case)."""
        most: Array = np.max([self.extension(j).max(axis=-1) for j in group.joints], axis=0)
        return most

    def flexor_peak(self, group: JointGroup) -> Array:
        """Largest flexor moment of a joint group over frames and sides, N m (by case), at least 0."""
        least = np.min([self.extension(joint).min(axis=-1) for joint in group.joints], axis=0)
        flexor: Array = np.maximum(-least, 0.0)
        return flexor

    def size(self, group: JointGroup) -> Array:
        """Largest moment of a joint group either way, N m (by case), at least 0: what a ceiling holds."""
        most: Array = np.maximum(np.maximum(self.peak(group), 0.0), self.flexor_peak(group))
        return most

    def case(self, index: int, rows: NDArray[np.intp] | None = None) -> Solved:
        """One case of a batch, all its frames or ``rows`` of them as they come; only failures that hold for it.

        A lone case takes its parts when they are asked for; one of many takes them at once, or it would keep them all.
        """
        last = slice(0, self.frames) if rows is None else rows
        failing: tuple[Failure, ...] = ()
        if not self.feasible[index]:
            failing = tuple(f for f in self.failures if f.flags[index].any())
        shape = self.drawable.shape
        bottom = {k: float(v[index]) for k, v in self.bottom_deg.items()}
        known = {"bottom_deg": bottom, "failures": _taken(failing, shape, index, last)}

        def take(name: str) -> Any:
            value = getattr(self, name)
            kind = PARTLY.get(name) if alone else None
            if kind is None:
                return _taken(value, shape, index, last)
            return later(kind, lambda part: _taken(getattr(value, part), shape, index, last))

        alone = shape[0] == 1
        one = later(Solved, take, **known)
        if not alone:
            one = Solved(**{name: getattr(one, name) for name in self.__dataclass_fields__})
        if "other_end" in vars(self):
            # Worked out for the whole batch already: the case takes its own part along.
            vars(one)["other_end"] = _taken(self.other_end, shape, index, last)
        return one


def solve(
    poses: Poses,
    body: Body,
    lines: Sequence[Line],
    instants: Instants,
    rule: str,
    least_pair_N: Array | None = None,
) -> Solved:
    """Work out everything about some poses at the instants that are kept.

    ``rule`` settles the pair of contact forces, ``least_pair_N`` is its least-effort one where that is
    known (see `contacts`). Nothing raises: what is impossible is flagged in ``failures``.
    """
    with np.errstate(invalid="ignore", divide="ignore", over="ignore"):
        return _solve(poses, body, lines, instants, rule, least_pair_N)


def ground_under(
    poses: Poses, body: Body, lines: Sequence[Line], instants: Instants, rule: str
) -> Contacts:
    """What the ground answers, as `solve` has it, and nothing else."""
    with np.errstate(invalid="ignore", divide="ignore", over="ignore"):
        acted = _acted_on(poses, body, lines, instants)
        return solve_contacts(acted.poses.pose, acted.loaded, acted.poses.support, rule, None)


@dataclass(frozen=True)
class _Acted:
    """The poses at the instants that are kept, and all that acts on them but the ground."""

    poses: Poses
    loads: External
    supports: External
    loaded: Pieces
    acceleration: Array
    pulling: tuple[Line, ...]


def _acted_on(poses: Poses, body: Body, lines: Sequence[Line], instants: Instants) -> _Acted:
    if instants.moving:
        loads, acceleration = loads_along(body, poses.pose, instants.runs)
        loads, acceleration = _kept(loads, instants), _kept(acceleration, instants)
        poses = _kept_poses(poses, instants)
    else:
        poses = _kept_poses(poses, instants)
        loads = gravity_on(poses.pose)
        acceleration = np.broadcast_to(NOTHING, poses.pose.centres.shape)
    pose, progress, up = (
        poses.pose,
        instants.progress[instants.kept],
        instants.up_share[instants.kept],
    )
    pulling = tuple(line for line in lines if not line.aid)
    if pulling:
        loads = loads.joined(line_forces(body, pose, pulling, progress, up))
    supports = line_forces(body, pose, tuple(line for line in lines if line.aid), progress, up)
    carried = loads.joined(supports) if supports.names else loads
    loaded = on_pieces(carried, pose.pelvis_rad.shape)
    return _Acted(poses, loads, supports, loaded, acceleration, pulling)


def _solve(
    poses: Poses,
    body: Body,
    lines: Sequence[Line],
    instants: Instants,
    rule: str,
    least_pair_N: Array | None,
) -> Solved:
    acted = _acted_on(poses, body, lines, instants)
    poses, loaded, pose = acted.poses, acted.loaded, acted.poses.pose
    contacts = solve_contacts(pose, loaded, poses.support, rule, least_pair_N)
    moments = _moments(pose, loaded, contacts)
    standing = poses.support.kind != "hooked" and "foot_right" in contacts.names
    fraction = under_foot(pose, contacts, "right") if standing else poses.pressure_fraction
    failures = (
        *poses.failures,
        *_line_failures(body, pose, acted.pulling),
        *_contact_failures(pose, poses.support, contacts, fraction, moving=instants.moving),
    )
    failures = _with_closure(poses, moments, failures)
    return Solved(
        pose,
        poses.support,
        rule,
        acted.loads,
        acted.supports,
        contacts,
        moments,
        acted.acceleration,
        widened(fraction, pose.pelvis_rad.shape),
        poses.bottom_deg,
        poses.solved & np.isfinite(moments.closure),
        failures,
        least_pair_N,
    )


def _moments(pose: Pose, loaded: Pieces, contacts: Contacts) -> JointMoments:
    return joint_moments(pose, *loaded.answered(contacts.external()))


def under_foot(pose: Pose, contacts: Contacts, side: str) -> Array:
    """Where along a foot the pressure sits, from its contact point: 0 heel, 1 toe tip."""
    row = contacts.names.index(f"foot_{side}")
    toe, ball = pose.points[f"toe_{side}"], pose.points[f"ball_{side}"]
    way = toe - ball
    share = landmark("ball_from_heel")
    ahead = contacts.points[:, row] - ball
    along = (ahead[0] * way[0] + ahead[2] * way[2]) / (way[0] ** 2 + way[2] ** 2)
    fraction: Array = share + (1.0 - share) * along
    return fraction


def _line_failures(body: Body, pose: Pose, lines: Sequence[Line]) -> list[Failure]:
    """Bands stretched beyond the last row of their measured tables."""
    found = []
    for line in lines:
        if isinstance(line.pull, Measured):
            length, rows = lengths_m(body, pose, line), line.pull.rows
            known = (rows[0][0], rows[-1][0])
            too_long = length > known[1] + LEAST_M
            found.append(
                Failure("band-too-long", "loads.table", too_long, length, line.name, known)
            )
    return found


def _contact_failures(
    pose: Pose, support: Support, contacts: Contacts, on_right: Array, *, moving: bool
) -> list[Failure]:
    """What the ground can't give: a pull, a grip, a pressure point off the foot or the support.

    ``on_right`` is where along the right foot the pressure sits.
    """
    shape = pose.pelvis_rad.shape
    forces = contacts.forces
    tempo = ("tempo", "tempo_s")
    found = [_below_floor(pose, shape)]
    if support.kind == "hooked":
        push = support.push_along if support.push_along is not None else forces[:, 0]
        pads = np.minimum(*(dot(forces[:, row], push) for row in (2, 3))) < -LEAST_N
        return [*found, Failure("would-pull", "contacts", widened(pads, shape))]
    lifted = np.logical_or.reduce(forces[1] < -LEAST_N, axis=0)
    found.append(Failure(*(tempo if moving else ("would-pull", "contacts")), lifted))
    sideways, up = on_the_floor(contacts)
    beyond = sideways - landmark("friction_coefficient") * up > LEAST_N
    slips = np.logical_or.reduce(beyond, axis=0)
    found.append(Failure("would-slip", "contacts", widened(slips, shape)))
    if support.kind == "places":
        found.append(Failure("would-roll", "contacts", np.abs(contacts.moved_m) > MOST_SLIDE_M))
        return found
    off = _off_the_foot(on_right)
    if support.kind == "feet" and not pose.alike:
        off = off | _off_the_foot(under_foot(pose, contacts, "left"))
    found.append(Failure(*(tempo if moving else ("would-tip", "trunk_deg")), off))
    return found


def _off_the_foot(fraction: Array) -> Flags:
    """Whether the pressure sits behind the heel or ahead of the ball."""
    off: Flags = (fraction < -LEAST_SHARE) | (fraction > landmark("ball_from_heel") + LEAST_SHARE)
    return off


def floor_rows(contacts: Contacts) -> list[int]:
    """Rows of the contacts that stand on the ground by friction."""
    return [i for i, name in enumerate(contacts.names) if name.rpartition("_")[0] in BY_FRICTION]


def on_the_floor(contacts: Contacts) -> tuple[Array, Array]:
    """Sideways and upward force of every contact on the ground, ``(contacts, ...)`` N.

    A lone foot's twist counts as sideways force at a radius of 7 cm: it slips where
    (H / mu N)^2 + (M / mu N r)^2 > 1.
    """
    forces = contacts.forces[:, floor_rows(contacts)]
    twist = contacts.free_moment_Nm / TWIST_RADIUS_M
    return np.sqrt(forces[0] ** 2 + forces[2] ** 2 + twist**2), forces[1]


def _below_floor(pose: Pose, shape: tuple[int, ...]) -> Failure:
    # Of twins one is enough: both are as high.
    names = ABOVE_FLOOR_RIGHT if pose.alike else ABOVE_FLOOR
    heights = one_over([pose.points[name][1] for name in names], shape)
    low = np.logical_or.reduce(heights < -LEAST_M, axis=0)
    return Failure("below-floor", "thigh_deg", low)


def _with_closure(
    poses: Poses, moments: JointMoments, failures: Sequence[Failure]
) -> tuple[Failure, ...]:
    """The failures with what does not balance, and without searches that could not succeed.

    A search that did not come to rest is told only where nothing else says why.
    """
    known = [f for f in failures if f.code != "did-not-settle"]
    restless = [f for f in failures if f.code == "did-not-settle"]
    if any(f.flags.any() for f in restless):
        failed = np.zeros(poses.solved.shape, dtype=bool)
        for failure in known:
            failed |= failure.flags
        whole = ~np.logical_or.reduce(failed, axis=-1, keepdims=True)
        restless = [replace(f, flags=f.flags & whole) for f in restless]
    everywhere = np.logical_and.reduce(poses.solved, axis=-1, keepdims=True)
    open_moment = (moments.closure > MOST_CLOSURE_NM) | (np.isnan(moments.closure) & everywhere)
    return (*known, *restless, Failure("does-not-close", "contacts", open_moment))


def _kept(value: Some, instants: Instants) -> Some:
    """The frames of a value (array or dataclass) that the instants keep."""
    count = len(instants.progress)
    kept = instants.kept
    if isinstance(kept, slice) and kept.stop == count:
        return value
    some: Some = each_array(value, lambda a: a[..., kept] if a.shape[-1] == count else a)
    return some


def _kept_poses(poses: Poses, instants: Instants) -> Poses:
    if isinstance(instants.kept, slice) and instants.kept.stop == len(instants.progress):
        return poses
    return Poses(
        _kept(poses.pose, instants),
        _kept(poses.support, instants),
        _kept(poses.pressure_fraction, instants),
        poses.bottom_deg,
        _kept(poses.solved, instants),
        _kept(poses.failures, instants),
    )


def _taken(value: Some, shape: tuple[int, ...], index: int, rows: slice | NDArray[np.intp]) -> Some:
    """Some frames of one case of a value whose arrays end in (cases, frames) or broadcast to it."""

    def one(array: Array) -> Array:
        own = array[..., index if array.shape[-2] > 1 else 0, :]
        if own.shape[-1] != shape[-1]:
            own = np.broadcast_to(own, (*own.shape[:-1], shape[-1]))
        found: Array = own[..., rows] if isinstance(rows, slice) else own.take(rows, axis=-1)
        return found

    found: Some = each_array(value, one)
    return found
