"""From cases to what the body carries and what pulls on it: stacks, bands, cables, supports."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from functools import lru_cache
from typing import Any

import numpy as np

from zesty_lever.cases.loads import AnyLoad, BandLoad, CableLoad, MassLoad, PushLoad
from zesty_lever.cases.model import Athlete, ResolvedCase
from zesty_lever.exercises.catalogue import OwnLine, Variation, variation
from zesty_lever.frozen import dataclass
from zesty_lever.physics.body import LENGTHS, Body, build_body
from zesty_lever.physics.forces import GRAVITY_M_S2
from zesty_lever.physics.lines import Line, Measured, Push, Spring, Steady, anchored
from zesty_lever.physics.upper_body import Carried, Stack, build_arm, build_stack
from zesty_lever.physics.vectors import Array
from zesty_lever.tables import toml_values

# Sideways place of the right hand from its shoulder as a share of half the shoulders' width: outside
# it on a bar, else inside.
GRIP_SHARES = {"bar-on-back": 0.55, "front-rack": 0.10, "at-chest": -0.75}
HANDS = ("hand_left", "hand_right")


@dataclass(frozen=True)
class Carrying:
    """The variation's own load, ``(cases, 1)``.

    Mass on the way down and up, kg, and how far (m) it sits from its usual place.
    """

    down_kg: Array
    up_kg: Array
    forward_m: Array
    above_m: Array

    @classmethod
    def at_usual_place(cls, down_kg: Array, up_kg: Array) -> Carrying:
        """A load where it usually sits."""
        return cls(down_kg, up_kg, 0.0 * down_kg, 0.0 * down_kg)


def column(values: Iterable[Any]) -> Array:
    """Numbers of several cases as an array with a frame axis of 1."""
    return np.array([float(v) for v in values])[:, None]


def bodies_of(athletes: Sequence[Athlete]) -> Body:
    """Bodies of athletes, ``(cases, 1)``; one alone is kept, since drags and searches ask for it again and again."""
    if len(athletes) == 1:
        return _body(*_build(athletes[0]))
    return _bodies(athletes)


def _build(one: Athlete) -> tuple[float, float, str, tuple[tuple[str, float], ...]]:
    """What makes an athlete's body."""
    return one.height_m, one.mass_kg, one.sex, tuple(sorted(one.lengths_m.items()))


@lru_cache(maxsize=64)
def _body(
    height_m: float, mass_kg: float, sex: str, lengths_m: tuple[tuple[str, float], ...]
) -> Body:
    given = {name: column([length]) for name, length in lengths_m}
    return build_body(np.array([[sex]]), column([height_m]), column([mass_kg]), given)


def _bodies(athletes: Sequence[Athlete]) -> Body:
    lengths = {
        name: column(a.lengths_m.get(name, np.nan) for a in athletes)
        for name in LENGTHS
        if any(name in a.lengths_m for a in athletes)
    }
    sexes = np.array([a.sex for a in athletes])[:, None]
    heights = column(a.height_m for a in athletes)
    return build_body(sexes, heights, column(a.mass_kg for a in athletes), lengths)


def kin(chosen: Variation) -> tuple[Any, ...]:
    """What variations must have in common to be worked out together: they differ in places of the load only."""
    load = chosen.load
    carried = None if load is None else (load.name, load.carried_by, load.forward is None)
    return (
        chosen.builder,
        chosen.rep_order,
        chosen.options,
        chosen.hold,
        carried,
        chosen.lines,
        tuple(chosen.settings),
    )


def _of_each(
    cases: Sequence[ResolvedCase], number: Callable[[Variation], float | None]
) -> Array | float:
    """A number of each case's variation, ``(cases, 1)``; just the number where all have the same."""
    names = dict.fromkeys(case.variation for case in cases)
    found = {name: number(variation(name)) or 0.0 for name in names}
    if len(set(found.values())) == 1:
        return next(iter(found.values()))
    return column(found[case.variation] for case in cases)


def stack_of(
    cases: Sequence[ResolvedCase],
    chosen: Variation,
    body: Body,
    settings: Mapping[str, Array],
    carried: Carrying,
    hands_ahead: Array | None,
    up_share: Array | None,
) -> Stack:
    """All above the hips, at a share of the load on the way up (None: none of it).

    ``hands_ahead`` is how far (m) hanging hands are ahead of the shoulders (None: as set).
    """
    loads: list[Carried] = []
    nothing = np.zeros_like(body.height_m)
    up = 0.0 if up_share is None else up_share
    if hands_ahead is None:
        hands_ahead = settings.get("hands_ahead_m", nothing)
    outward = _of_each(cases, lambda v: v.grip_outward)
    grip = (hands_ahead, nothing, nothing + outward * body.height_m)
    own = chosen.load
    if own is not None and own.carried_by:
        mass = carried.down_kg + up * (carried.up_kg - carried.down_kg)
        offset = None
        if own.forward is not None:
            forward = _of_each(cases, lambda v: v.load.forward if v.load else 0.0)
            above = _of_each(cases, lambda v: v.load.above if v.load else 0.0)
            offset = (
                forward * body.height_m + carried.forward_m,
                above * body.height_m + carried.above_m,
            )
            half = 0.5 * body.lengths["shoulder_width"]
            grip = (*offset, GRIP_SHARES.get(chosen.hold, 0.0) * half)
        loads.append(Carried(own.name, own.carried_by, mass, offset))
    for same in zip(*(case.loads for case in cases), strict=True):
        masses = [load for load in same if isinstance(load, MassLoad)]
        if masses:
            loads.append(_placed(masses, up, body))
    reach = np.radians(settings.get("reach_deg", nothing))
    return build_stack(body, build_arm(body, chosen.hold, grip, reach), tuple(loads))


def usual_stack(
    cases: Sequence[ResolvedCase],
    chosen: Variation,
    body: Body,
    settings: Mapping[str, Array],
    carried: Carrying,
) -> Stack:
    """`stack_of` with the load where it usually sits and hands as set; that of one case alone is kept, as its body is."""
    if len(cases) > 1:
        return stack_of(cases, chosen, body, settings, carried, None, None)
    case = cases[0]
    hands = tuple(case.settings.get(key) for key in ("hands_ahead_m", "reach_deg"))
    key = (chosen.id, _build(case.athlete), case.load_kg, case.up_kg, case.loads, hands)
    found = _STACKS.get(key)
    if found is None:
        found = stack_of(cases, chosen, body, settings, carried, None, None)
        if len(_STACKS) >= STACKS_KEPT:
            _STACKS.clear()
        _STACKS[key] = found
    return found


STACKS_KEPT = 64
_STACKS: dict[tuple[Any, ...], Stack] = {}


def _placed(same: Sequence[MassLoad], up: Array | float, body: Body) -> Carried:
    """A second mass where it sits: a place's own offsets (by stature) and the load's."""
    first = same[0]
    counts = {"both": 1.0, "down": 1.0 - up, "up": up}[first.when]
    mass = column(load.mass_kg for load in same) * counts
    if first.place == "hands":
        return Carried(first.name, HANDS, mass, None)
    named = {"trunk": {"carried_by": ["trunk"]}, "pelvis": {"carried_by": ["pelvis"]}}
    known = {**toml_values("placements"), **named}[first.place]
    ahead = column(e.forward_m for e in same) + known.get("forward", 0.0) * body.height_m
    above = column(e.above_m for e in same) + known.get("above", 0.0) * body.height_m
    return Carried(first.name, tuple(known["carried_by"]), mass, (ahead, above))


def lines_of(
    cases: Sequence[ResolvedCase],
    chosen: Variation,
    body: Body,
    settings: Mapping[str, Array],
    carried: Carrying,
) -> tuple[Line, ...]:
    """The variation's own bands, cables and supports, and the lines of the cases."""
    lines: list[Line] = []
    for own in chosen.lines:
        lines += _own_lines(own, body, settings, carried)
    nothing = np.zeros_like(carried.down_kg)
    for same in zip(*(case.loads for case in cases), strict=True):
        line = _given_line(same, nothing)
        if line is not None:
            lines.append(line)
    return tuple(lines)


def _own_lines(
    own: OwnLine, body: Body, settings: Mapping[str, Array], carried: Carrying
) -> list[Line]:
    nothing = np.zeros_like(carried.down_kg)
    if own.kind == "hold":
        slope = np.radians(settings.get("hold_slope_deg", nothing))
        one = 0.5 * settings["hold_N"]
        each = Push((one * np.cos(slope), one * np.sin(slope), nothing))
        return [Line(hand, hand, each, aid="hold") for hand in HANDS]
    if own.kind == "seat":
        weight = (body.mass_kg + carried.down_kg) * GRAVITY_M_S2
        up = Push((nothing, settings["seat_share"] * weight, nothing))
        return [Line(own.name, own.start, up, aid="seat")]
    end = own.end if isinstance(own.end, str) else anchored(own.end or (0.0, 0.0, 0.0), settings)
    if own.kind == "band":
        band = Spring(settings["band_N_m"], settings["band_slack_m"])
        return [Line(own.name, own.start, band, end)]
    return [Line(own.name, own.start, Steady(carried.down_kg * own.share * GRAVITY_M_S2), end)]


def _given_line(same: tuple[AnyLoad, ...], nothing: Array) -> Line | None:
    """One extra line of all cases; None for a mass."""
    first = same[0]
    if isinstance(first, BandLoad):
        if first.table:
            return Line(first.name, first.start, Measured(first.table), first.end, first.when)
        bands = [load.force_line for load in same if isinstance(load, BandLoad)]
        stiffness, slack = (column(values) for values in zip(*bands, strict=True))
        return Line(first.name, first.start, Spring(stiffness, slack), first.end, first.when)
    if isinstance(first, CableLoad):
        force = column(load.force_N for load in same if isinstance(load, CableLoad))
        return Line(first.name, first.start, Steady(force), first.end, first.when)
    if isinstance(first, PushLoad):
        x, y, z = (nothing + part for part in first.push_N)
        return Line(first.name, first.start, Push((x, y, z)), when=first.when)
    return None
