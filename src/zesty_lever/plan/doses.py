"""Usual doses by what a lift is and who does it (common practice, no source)."""

from __future__ import annotations

from collections.abc import Sequence

from zesty_lever.cases.model import Setup, Stage
from zesty_lever.exercises.catalogue import Variation, variation
from zesty_lever.plan.document import Block, BlockKind, Item, Style
from zesty_lever.plan.drills import Drill, drills

HOLD = "straight-leg-heel-elevated-hold"
DRILLS_A_SESSION = 3
# Places of lifts in a session, in their order.
ON_BACK, TWO_LEGS, ONE_LEG, BRIDGE, LATERAL, FINISHER = range(6)
# Sets, repetitions, rest (s) by place.
BY_ROLE = {
    TWO_LEGS: (3, (6, 8), 120.0),
    ONE_LEG: (3, (6, 10), 90.0),
    BRIDGE: (3, (8, 12), 90.0),
    LATERAL: (2, (8, 12), 90.0),
}


def each_side(entry: Variation) -> bool:
    """Whether left and right are worked one after the other."""
    return bool(entry.options.rear)


def on_back(entry: Variation) -> bool:
    """Whether a bar lies on the back."""
    return entry.hold == "bar-on-back"


def role_of(entry: Variation) -> int:
    """Its place in a session: bar on the back, two-leg, one-leg, bridges, lateral, finisher."""
    if entry.id == HOLD:
        return FINISHER
    if entry.direction == "lateral":
        return LATERAL
    if on_back(entry):
        return ON_BACK
    if entry.lies:
        return BRIDGE
    return ONE_LEG if each_side(entry) else TWO_LEGS


def dose_of(
    name: str,
    stage: Stage,
    load_kg: float | None = None,
    settings: dict[str, float | None] | None = None,
) -> Item:
    """A lift with its usual dose for a stage."""
    entry = variation(name)
    easy = stage in ("beginner", "back-from-injury")
    setup = Setup(variation=name, settings=dict(settings or {}))
    loaded = entry.load_range_kg()[1] > 0.0
    common = Item(
        setup=setup,
        side="each" if each_side(entry) else "both",
        load_rule="advised" if loaded else "by-feel",
        load_kg=load_kg if loaded else None,
        effort_left=3.0 if easy else 2.0,
        rest_s=90.0,
    )
    role = role_of(entry)
    if role == FINISHER:
        return common.changed(sets=2, seconds=15.0, effort_left=None, reps=(1, 1))
    if role == ON_BACK or entry.from_floor:
        reps, sets = ((6, 8), 3) if easy else ((3, 5), 4) if stage == "advanced" else ((4, 6), 4)
        return common.changed(sets=sets, reps=reps, rest_s=150.0)
    sets, reps, rest_s = BY_ROLE[role] if loaded else (3, (8, 15), 90.0)
    if easy and role == TWO_LEGS:
        reps = (8, 10)
    return common.changed(sets=sets, reps=reps, rest_s=rest_s)


def style_of(name: str) -> Style:
    """The style that a lift is done in where nothing else is said."""
    return "holds" if name == HOLD else "straight"


def kind_of(name: str, *, first: bool) -> BlockKind:
    """Which block a lift belongs to."""
    if role_of(variation(name)) == FINISHER:
        return "finisher"
    return "main" if first else "assistance"


def warm_up(
    lifts: Sequence[str], sore: Sequence[str], equipment: Sequence[str] | None, turn: int = 0
) -> Block:
    """Drills for the joints of the day: a mobility, an activation and a pattern drill, other ones on other days."""
    wanted = {"hip", "ankle"} if any(variation(n).is_squat for n in lifts) else {"hip", "back"}
    found: list[Drill] = []
    for kind in ("mobility", "activation", "pattern"):
        able = [
            d
            for d in drills().values()
            if d.kind == kind
            and not set(d.not_with) & set(sore)
            and wanted & set(d.joints)
            and (equipment is None or set(d.equipment) <= set(equipment))
        ]
        if able:
            found.append(able[(2 * turn) % len(able)])
    return Block(kind="warm-up", items=tuple(drill_item(d) for d in found[:DRILLS_A_SESSION]))


def drill_item(drill: Drill) -> Item:
    """A drill with its usual dose as an item."""
    return Item(
        drill=drill.id,
        sets=drill.sets,
        reps=drill.reps or (1, 1),
        seconds=None if drill.seconds is None else drill.seconds[0],
        side="each" if drill.each else "both",
        load_rule="by-feel",
        rest_s=15.0,
    )
