"""A rep worked out, and what it was worked out from: poses, forces, moments, what is impossible about them."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import field
from typing import Any, TypeVar

import numpy as np
from numpy.typing import NDArray

from zesty_lever.frozen import dataclass, later, lazy
from zesty_lever.joints import ROW, JointGroup
from zesty_lever.physics.body import SEGMENTS
from zesty_lever.physics.contacts import OTHER_RULE, Contacts, Support, solve_contacts
from zesty_lever.physics.forces import External, Pieces, on_pieces
from zesty_lever.physics.moments import Disc, JointMoments, disc_forces, extension_of, joint_moments
from zesty_lever.physics.pose import Pose
from zesty_lever.physics.vectors import Array, each_array

Flags = NDArray[np.bool_]
Some = TypeVar("Some")


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
        answer = self.other_ground.external()
        return joint_moments(self.pose, *self._loaded.answered(answer))

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
