"""What is impossible about a pose and its forces: what the ground can't give, what lies below it, what does not balance."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from zesty_lever.joints import SIDES
from zesty_lever.physics.body import Body, landmark
from zesty_lever.physics.contacts import MOST_SLIDE_M, TWIST_RADIUS_M, Contacts, Support
from zesty_lever.physics.lines import Line, Measured, lengths_m
from zesty_lever.physics.moments import JointMoments
from zesty_lever.physics.pose import Pose
from zesty_lever.physics.solved import Failure, Flags, Poses
from zesty_lever.physics.vectors import Array, dot, one_over, widened

# A residual moment above this is no equilibrium, N m: a hundred times what rounding leaves.
MOST_CLOSURE_NM = 0.01
# Forces below this are rounding, N; lengths, m; shares of the foot.
LEAST_N, LEAST_M, LEAST_SHARE = 1e-6, 1e-6, 1e-6
# Contacts that stand on the floor, a box or a bench by friction.
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


def line_failures(body: Body, pose: Pose, lines: Sequence[Line]) -> list[Failure]:
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


def contact_failures(
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


def with_closure(
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
