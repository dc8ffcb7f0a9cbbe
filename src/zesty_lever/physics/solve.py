"""The only pipeline: poses at some moments, and all that acts on them, become moments and problems.

Weights and inertia, lines, contacts, net moments, disc: one pass for one rep, for the ten thousand
samples of an interval, at rest and in motion. What is impossible about a pose is found here too, once,
and everybody reads the same flags.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import TypeVar

import numpy as np

from zesty_lever.frozen import dataclass
from zesty_lever.physics.body import Body
from zesty_lever.physics.contacts import Contacts, solve_contacts
from zesty_lever.physics.failing import contact_failures, line_failures, under_foot, with_closure
from zesty_lever.physics.forces import External, Pieces, gravity_on, on_pieces
from zesty_lever.physics.inertia import loads_along
from zesty_lever.physics.lines import Line, line_forces
from zesty_lever.physics.moments import joint_moments
from zesty_lever.physics.solved import Poses, Solved
from zesty_lever.physics.tempo import Instants
from zesty_lever.physics.vectors import Array, each_array, widened

Some = TypeVar("Some")
NOTHING = np.zeros(())


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
    moments = joint_moments(pose, *loaded.answered(contacts.external()))
    standing = poses.support.kind != "hooked" and "foot_right" in contacts.names
    fraction = under_foot(pose, contacts, "right") if standing else poses.pressure_fraction
    failures = (
        *poses.failures,
        *line_failures(body, pose, acted.pulling),
        *contact_failures(pose, poses.support, contacts, fraction, moving=instants.moving),
    )
    failures = with_closure(poses, moments, failures)
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
