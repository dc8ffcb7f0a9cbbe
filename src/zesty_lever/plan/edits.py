"""Edits of a plan: pure functions from plan to plan; what can't be done is refused in words."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from zesty_lever.cases.model import Setup
from zesty_lever.coaching.gym import Gym, at_hand_kg
from zesty_lever.exercises.catalogue import catalogue, variation
from zesty_lever.plan.document import (
    MOST_ITEMS,
    MOST_SESSIONS,
    MOST_WEEKS,
    Block,
    BlockKind,
    Item,
    Origin,
    Plan,
    Session,
    Style,
    Week,
    keyed,
    keyed_session,
)
from zesty_lever.plan.doses import dose_of, drill_item
from zesty_lever.plan.drills import drill
from zesty_lever.problems import CaseError

DELOAD_SETS, DELOAD_LOAD = 0.6, 0.9


def _refused(text: str) -> CaseError:
    return CaseError("wrong-value", text, key="plan")


def find(plan: Plan, key: str) -> tuple[int, int, Session]:
    """Week, place and session of a key. Raises `CaseError`."""
    for week, whole in enumerate(plan.weeks):
        for at, session in enumerate(whole.sessions):
            if session.key == key:
                return week, at, session
    raise CaseError("unknown-session", f"the plan has no session {key}", key="session", value=key)


def with_session(plan: Plan, session: Session) -> Plan:
    """The plan with a session of the same key replaced."""
    week, at, _ = find(plan, session.key)
    sessions = list(plan.weeks[week].sessions)
    sessions[at] = keyed_session(session)
    return _with_week(plan, week, plan.weeks[week].changed(sessions=tuple(sessions)))


def _with_week(plan: Plan, number: int, week: Week) -> Plan:
    weeks = list(plan.weeks)
    weeks[number] = week
    return plan.changed(weeks=tuple(weeks))


def add_week(plan: Plan, copied: int | None = None) -> Plan:
    """A week more at the end: a copy of another one, or empty."""
    if len(plan.weeks) >= MOST_WEEKS:
        raise _refused(f"a plan has at most {MOST_WEEKS} weeks")
    made = Week() if copied is None else _unkeyed(plan.weeks[copied])
    return keyed(plan.changed(weeks=(*plan.weeks, made)))


def _unkeyed(week: Week) -> Week:
    return week.changed(sessions=tuple(s.changed(key="") for s in week.sessions))


def remove_week(plan: Plan, number: int) -> Plan:
    """One week less; those behind it move up."""
    return plan.changed(weeks=tuple(w for i, w in enumerate(plan.weeks) if i != number))


def add_session(plan: Plan, week: int, weekday: int, session: Session | None = None) -> Plan:
    """A session more in a week, empty or a copy."""
    whole = plan.weeks[week]
    if len(whole.sessions) >= MOST_SESSIONS:
        raise _refused(f"a week has at most {MOST_SESSIONS} sessions")
    made = (session or Session(name="Session")).changed(key="", weekday=weekday)
    sessions = sorted((*whole.sessions, made), key=lambda s: s.weekday)
    return keyed(_with_week(plan, week, whole.changed(sessions=tuple(sessions))))


def remove_session(plan: Plan, key: str) -> Plan:
    """One session less."""
    week, _, _ = find(plan, key)
    kept = tuple(s for s in plan.weeks[week].sessions if s.key != key)
    return _with_week(plan, week, plan.weeks[week].changed(sessions=kept))


def move_session(plan: Plan, key: str, week: int, weekday: int) -> Plan:
    """The session on another day; it keeps its key, so that what is logged of it still belongs to it."""
    _, _, session = find(plan, key)
    if not 0 <= week < len(plan.weeks) or not 0 <= weekday <= 6:
        raise _refused("there is no such day in this plan")
    away = remove_session(plan, key)
    whole = away.weeks[week]
    moved = sorted((*whole.sessions, session.changed(weekday=weekday)), key=lambda s: s.weekday)
    return _with_week(away, week, whole.changed(sessions=tuple(moved)))


def add_item(
    session: Session, item: Item, kind: BlockKind = "assistance", style: Style = "straight"
) -> Session:
    """An item more, in the last block of its kind and style, else in a new one at its kind's place."""
    if sum(len(b.items) for b in session.blocks) >= MOST_ITEMS:
        raise _refused(f"a session has at most {MOST_ITEMS} items")
    blocks = list(session.blocks)
    for at in range(len(blocks) - 1, -1, -1):
        if (blocks[at].kind, blocks[at].style) == (kind, style):
            blocks[at] = blocks[at].changed(items=(*blocks[at].items, item))
            return keyed_session(session.changed(blocks=tuple(blocks)))
    order = ("warm-up", "main", "assistance", "finisher", "cool-down")
    place = sum(order.index(b.kind) <= order.index(kind) for b in blocks)
    blocks.insert(place, Block(kind=kind, style=style, items=(item,)))
    return keyed_session(session.changed(blocks=tuple(blocks)))


def add_lift(session: Session, setup: Setup, stage: str = "usual") -> Session:
    """A lift more with its usual dose, the set-up as it stands (its load and tempo too)."""
    made = dose_of(setup.variation, "beginner" if stage == "beginner" else "usual", setup.load_kg)
    item = made.changed(setup=setup.changed(load_kg=None, load_up_kg=None), load_kg=setup.load_kg)
    first = not any(b.kind == "main" for b in session.blocks)
    kind: BlockKind = "main" if first else "assistance"
    return add_item(session, item, kind, "holds" if made.seconds else "straight")


def add_drill(session: Session, name: str) -> Session:
    """A drill more, in the warm-up."""
    return add_item(session, drill_item(drill(name)), "warm-up")


def change_item(session: Session, key: str, item: Item) -> Session:
    """An item replaced; it keeps its key."""
    return _each_block(
        session, lambda b: tuple(item.changed(key=key) if i.key == key else i for i in b.items)
    )


def remove_item(session: Session, key: str) -> Session:
    """One item less; a block without items goes too."""
    found = _each_block(session, lambda b: tuple(i for i in b.items if i.key != key))
    return found.changed(blocks=tuple(b for b in found.blocks if b.items))


def move_item(session: Session, key: str, by: int) -> Session:
    """An item a place up (-1) or down (+1) among all; at a block's end it goes into the next block."""
    for number, block in enumerate(session.blocks):
        names = [i.key for i in block.items]
        if key not in names:
            continue
        at = names.index(key)
        item, to = block.items[at], at + by
        rest = tuple(i for i in block.items if i.key != key)
        blocks = list(session.blocks)
        if 0 <= to <= len(rest):
            blocks[number] = block.changed(items=(*rest[:to], item, *rest[to:]))
        elif 0 <= number + by < len(blocks):
            other = blocks[number + by]
            blocks[number] = block.changed(items=rest)
            joined = (*other.items, item) if by < 0 else (item, *other.items)
            blocks[number + by] = other.changed(items=joined)
        return session.changed(blocks=tuple(b for b in blocks if b.items))
    return session


def set_style(session: Session, key: str, style: Style) -> Session:
    """An item done in another style: in a block of its own where its block has others."""
    found = session.item(key)
    if found is None or found[0].style == style:
        return session
    block, item = found
    at = session.blocks.index(block)
    names = [i.key for i in block.items]
    place = names.index(key)
    before, after = block.items[:place], block.items[place + 1 :]
    parts = [
        block.changed(items=before),
        block.changed(style=style, items=(fitted(item, style),), rounds=1),
        block.changed(items=after),
    ]
    blocks = (*session.blocks[:at], *(p for p in parts if p.items), *session.blocks[at + 1 :])
    return session.changed(blocks=blocks)


def fitted(item: Item, style: Style) -> Item:
    """An item with the keys that a style needs, at their usual values (common practice, no source)."""
    lies = item.setup is not None and variation(item.setup.variation).lies
    changes: dict[Style, dict[str, Any]] = {
        "clusters": {"mini_reps": 3, "minis": 4, "mini_rest_s": 10.0, "sets": min(item.sets, 3)},
        "rest-pause": {"reps": (3, 5), "mini_rest_s": 15.0, "rest_s": 15.0},
        "constant-tension": {"reps": (12, 20)},
        "paused": {"pause_s": 3.0, "reps": (6, 8)} if lies else {"pause_s": 2.0},
        "holds": {"seconds": 15.0, "reps": (1, 1)},
        "paired-minutes": {
            "minutes": 10,
            "odd_drill": "banded-side-steps",
            "step_kg": 5.0,
            "reps": (3, 5),
        },
        "two-load": {} if item.load_kg is None else {"load_up_kg": round(0.8 * item.load_kg, 1)},
    }
    plain = item if item.setup is None else item.changed(seconds=None)
    return plain.changed(**changes.get(style, {}))


def _each_block(session: Session, items: Callable[[Block], tuple[Item, ...]]) -> Session:
    return session.changed(
        blocks=tuple(block.changed(items=items(block)) for block in session.blocks)
    )


def deloaded(
    week: Week, sets: float = DELOAD_SETS, load: float = DELOAD_LOAD, gym: Gym | None = None
) -> Week:
    """A lighter week: sets times 0.6 (at least one), loads times 0.9, those that the gym makes."""
    sessions = tuple(
        _each_block(s, lambda b: tuple(_lighter(i, sets, load, gym) for i in b.items)).changed(
            deload=True
        )
        for s in week.sessions
    )
    return week.changed(deload=True, sessions=sessions)


def _lighter(item: Item, sets: float, load: float, gym: Gym | None) -> Item:
    if item.setup is None:
        return item
    entry = catalogue().get(item.setup.variation)

    def made(load_kg: float | None) -> float | None:
        if load_kg is None or entry is None:
            return load_kg
        return at_hand_kg(entry.id, entry.equipment, load * load_kg, gym)

    return item.changed(
        sets=max(round(item.sets * sets), 1),
        load_kg=made(item.load_kg),
        load_up_kg=made(item.load_up_kg),
    )


def deload_week(
    plan: Plan,
    number: int,
    sets: float = DELOAD_SETS,
    load: float = DELOAD_LOAD,
    gym: Gym | None = None,
) -> Plan:
    """One week of a plan made lighter; refused for one that is already."""
    if plan.weeks[number].deload:
        raise _refused("this week is a lighter one already")
    return _with_week(plan, number, deloaded(plan.weeks[number], sets, load, gym))


def as_template(plan: Plan, name: str) -> Plan:
    """The plan without athlete, kilograms, days or reasons: loads by rule only."""

    def plain(item: Item) -> Item:
        rule = "advised" if item.load_rule == "kg" else item.load_rule
        return item.changed(load_kg=None, load_up_kg=None, why=(), load_rule=rule, locked=False)

    weeks = tuple(
        week.changed(
            sessions=tuple(
                _each_block(s, lambda b: tuple(plain(i) for i in b.items)) for s in week.sessions
            )
        )
        for week in plan.weeks
    )
    return plan.changed(name=name, weeks=weeks, origin=None, unmet=())


def started(template: Plan, version: int) -> Plan:
    """An instance of a template by copy, with where it came from."""
    return keyed(template.changed(origin=Origin(template=template.name, version=version)))


def skip_weeks(plan: Plan, at: int, count: int = 1) -> Plan:
    """A missed fortnight or week: the plan goes on where it stopped, so many weeks later."""
    if len(plan.weeks) + count > MOST_WEEKS:
        raise _refused(f"a plan has at most {MOST_WEEKS} weeks")
    empty = (Week(note="missed"),) * count
    return plan.changed(weeks=(*plan.weeks[:at], *empty, *plan.weeks[at:]))


def differences(plan: Plan, template: Plan) -> list[str]:
    """What a template has otherwise than an instance of it, in words; never forced."""
    found = []
    if len(plan.weeks) != len(template.weeks):
        found.append(f"{len(template.weeks)} weeks in the template, {len(plan.weeks)} here")
    for number, (mine, theirs) in enumerate(zip(plan.weeks, template.weeks, strict=False), start=1):
        own, other = ([_names(s) for s in week.sessions] for week in (mine, theirs))
        if own != other:
            gone = {n for names in other for n in names} - {n for names in own for n in names}
            more = {n for names in own for n in names} - {n for names in other for n in names}
            parts = [f"without {', '.join(sorted(gone))}"] if gone else []
            parts += [f"with {', '.join(sorted(more))}"] if more else []
            found.append(f"week {number}: {'; '.join(parts) or 'other order or days'}")
    return found


def _names(session: Session) -> list[str]:
    return [item.name for _, item in session.listed()]
