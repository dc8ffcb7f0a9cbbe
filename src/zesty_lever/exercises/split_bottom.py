"""The deepest pose of a split stance: its angles, the pelvis's sway and the legs' shares, by balance."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from zesty_lever.exercises.builder import (
    Flags,
)
from zesty_lever.exercises.split_balance import Balance
from zesty_lever.exercises.split_stance import (
    LONGEST_SHIN_STEP_RAD,
    LONGEST_SWAY_STEP_M,
    SWAY_LEVERAGE,
    SplitStance,
)
from zesty_lever.frozen import dataclass
from zesty_lever.physics.iterate import broyden_pair, secant_root
from zesty_lever.physics.legs import (
    Foot,
)
from zesty_lever.physics.vectors import Array

# A last step below this ends the search along the path, rad and m: in motion its rest is felt 10^5 times.
PATH_TOLERANCE = 1e-11


@dataclass(frozen=True)
class Bottom:
    """The deepest pose, ``(cases, 1)``: shin, thigh, trunk line (rad), front share, pressure, shift (m)."""

    shin: Array
    thigh: Array
    line: Array
    share: Array
    fraction: Array
    sway: Array
    settled: Flags


def solve_bottom(split: SplitStance, foot: Foot, free: str | None) -> Bottom:
    """The deepest pose on the front foot, with the angle that is left to balance."""
    given = split.given
    shin, thigh, line = (np.radians(given[k]) for k in ("shin_deg", "thigh_deg", "trunk_deg"))
    two_feet = split.rear != "none"
    share = given["front_share"] if two_feet else np.ones_like(thigh)
    track, fraction = given["knee_track_m"], given["pressure_fraction"]
    if free == "shin_deg":
        start = np.full_like(thigh, 0.4)
        shin, sway, settled = balance_shin(
            split, foot, start, share, track, lambda _: (thigh, line), np.zeros_like(start)
        )
    elif free != "trunk_deg" and two_feet:
        share, sway, settled = _balance_share(split, foot, (shin, thigh, line), track)
    else:
        goal = split.target(foot, share)
        if free == "trunk_deg":
            # What lines turn depends on the trunk, which is not known yet.
            line = _upright_line(split, foot, (shin, thigh), track, goal)
        sway, settled = _settle(split, foot, (shin, thigh, line), track, goal[2])
        if free == "trunk_deg" and split.lines:
            line, sway, settled = _balance_trunk(
                split, foot, (shin, thigh, line), track, sway, goal
            )
    goal = split.target(foot, share)
    stance = split.legs(foot, shin, thigh, track, sway)
    turned, _ = split.lines_turn(foot, stance, (shin, thigh, line))
    moment = split.stack_moment_for(stance, goal[0], turned)
    if free == "trunk_deg" and not split.lines:
        line = split.stack.line_of(*split.stack.lean_for(moment, split.pelvis_most(shin, thigh)))
    elif free != "trunk_deg" and not two_feet:
        reach = (split.moment_of(shin, thigh, line) - moment) / split.mass_kg
        fraction = fraction + reach / (split.body.lengths["foot"] * np.cos(split.toe_out))
    return Bottom(shin, thigh, line, share, fraction, sway, settled)


def _settle(
    split: SplitStance,
    foot: Foot,
    angles: tuple[Array, Array, Array],
    track: Array,
    goal_z: Array,
) -> tuple[Array, Flags]:
    """Shift of the pelvis that brings the mass centre sideways over ``goal_z``, m, and where it settled.

    ``angles`` are shin, thigh and trunk line (rad).
    """
    shin, thigh, _ = angles
    balance = Balance(split, foot, track)
    start = np.zeros(np.broadcast_shapes(shin.shape, thigh.shape, goal_z.shape))
    return secant_root(
        lambda sway: balance.right(angles, sway, goal_z),
        start,
        SWAY_LEVERAGE * split.mass_kg,
        longest_step=LONGEST_SWAY_STEP_M,
    )


def _balance_share(
    split: SplitStance, foot: Foot, angles: tuple[Array, Array, Array], track: Array
) -> tuple[Array, Array, Flags]:
    """Front share that given angles (shin, thigh, line) deliver, the pelvis's shift (m), where settled."""
    shin, thigh, line = angles

    balance = Balance(split, foot, track)

    def gaps(share: Array, sway: Array) -> tuple[Array, Array]:
        return balance.gaps(angles, sway, split.target(foot, share))

    start = np.full(np.broadcast_shapes(shin.shape, thigh.shape, line.shape), 0.8)
    apart = split.pressure(foot)[0] + split.given["step_m"]
    return broyden_pair(
        gaps,
        (start, np.zeros_like(start)),
        (-split.mass_kg * apart, SWAY_LEVERAGE * split.mass_kg),
        longest_steps=(2.0, LONGEST_SWAY_STEP_M),
    )


def _upright_line(
    split: SplitStance, foot: Foot, legs: tuple[Array, Array], track: Array, goal: Array
) -> Array:
    """Where a search for the trunk's line starts (rad): balanced with lines as they were told, the pelvis in the middle."""
    shin, thigh = legs
    if not split.lines:
        return np.zeros_like(thigh)
    stance = split.legs(foot, shin, thigh, track, np.zeros_like(thigh))
    moment = split.stack_moment_for(stance, goal[0], split.turned_kgm + 0.0 * thigh)
    leans = split.stack.lean_for(moment, split.pelvis_most(shin, thigh))
    return split.stack.line_of(*leans)


def _balance_trunk(
    split: SplitStance,
    foot: Foot,
    start: tuple[Array, Array, Array],
    track: Array,
    start_sway: Array,
    goal: Array,
) -> tuple[Array, Array, Flags]:
    """Trunk line (rad) and the pelvis's shift (m) that balance with what lines do at them, and where settled."""
    shin, thigh, line = start

    balance = Balance(split, foot, track)

    def gaps(line: Array, sway: Array) -> tuple[Array, Array]:
        return balance.gaps((shin, thigh, line), sway, goal)

    leverage = split.stack.height_moment(line, line)
    return broyden_pair(
        gaps,
        (line, start_sway),
        (leverage, SWAY_LEVERAGE * split.mass_kg),
        longest_steps=(LONGEST_SHIN_STEP_RAD, LONGEST_SWAY_STEP_M),
    )


def balance_shin(
    split: SplitStance,
    foot: Foot,
    start: Array,
    share: Array,
    track: Array,
    angles: Callable[[Array], tuple[Array, Array]],
    start_sway: Array,
) -> tuple[Array, Array, Flags]:
    """Shin (rad) that balances over ``share``, the pelvis's shift (m), and where both settled.

    ``angles`` gives thigh and trunk line for a shin.
    """
    goal = split.target(foot, share)
    balance = Balance(split, foot, track)

    def gaps(shin: Array, sway: Array) -> tuple[Array, Array]:
        return balance.gaps((shin, *angles(shin)), sway, goal)

    return broyden_pair(
        gaps,
        (start, start_sway),
        (split.shin_leverage(start, angles(start)[0]), SWAY_LEVERAGE * split.mass_kg),
        longest_steps=(LONGEST_SHIN_STEP_RAD, LONGEST_SWAY_STEP_M),
        tolerance=PATH_TOLERANCE,
    )
