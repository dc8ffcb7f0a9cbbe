"""What joints got, summed by week in the database; repetitions not known yet are worked out first."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from typing import Any

import numpy as np
import sqlalchemy as sa

from zesty_lever.cases.model import Case
from zesty_lever.exercises.catalogue import catalogue
from zesty_lever.frozen import dataclass
from zesty_lever.log.exposure import (
    MODEL,
    NEAR,
    NOTHING,
    Exposure,
    Reference,
    RepLoad,
    case_of,
    direction_of,
    hash_of,
    rep_loads,
)
from zesty_lever.physics.vectors import Array
from zesty_lever.plan.document import STYLES
from zesty_lever.problems import CaseError
from zesty_lever.records import tables as t
from zesty_lever.records.entries import COUNTED_FROM, COUNTS, entry_from, insert_into
from zesty_lever.records.people import Bodies
from zesty_lever.records.store import Store

BATCH = 128
SIDES = ("both", "left", "right")
OTHER_SIDE = {
    "hip_left": "hip_right",
    "hip_right": "hip_left",
    "knee_left": "knee_right",
    "knee_right": "knee_left",
    "back": "back",
}


def _known() -> sa.FromClause:
    return COUNTED_FROM.outerjoin(
        t.exposure,
        sa.and_(t.exposure.c.case_hash == t.entry.c.case_hash, t.exposure.c.model == MODEL),
    ).outerjoin(t.setup, t.setup.c.id == t.entry.c.setup)


def missing(
    store: Store, athlete: int | None = None, days: tuple[int, int] | None = None
) -> list[Any]:
    """One entry for every case that has no row for this model yet, the newest first."""
    newest = (
        sa.select(sa.func.max(t.entry.c.id).label("id"))
        .select_from(_known())
        .where(COUNTS, t.entry.c.case_hash != "", t.exposure.c.case_hash.is_(None))
        .group_by(t.entry.c.case_hash)
    )
    if athlete is not None:
        newest = newest.where(t.entry.c.athlete == athlete)
    if days is not None:
        newest = newest.where(t.entry.c.day.between(*days))
    wanted = newest.subquery()
    query = (
        sa.select(t.entry, t.setup.c.document.label("setup_document"))
        .join(wanted, wanted.c.id == t.entry.c.id)
        .outerjoin(t.setup, t.setup.c.id == t.entry.c.setup)
        .order_by(t.entry.c.day.desc())
    )
    with store.reading() as connection:
        return list(connection.execute(query).all())


def work_out(
    store: Store,
    athlete: int | None = None,
    tell: Callable[[float], None] | None = None,
    days: tuple[int, int] | None = None,
) -> int:
    """Work out every repetition that is not known yet and keep it; how many were. Can be given up in between."""
    _try_again(store, athlete)
    rows = missing(store, athlete, days)
    bodies: dict[int, Bodies] = {}
    for start in range(0, len(rows), BATCH):
        part = rows[start : start + BATCH]
        with store.reading() as connection:
            for row in part:
                if row.athlete not in bodies:
                    bodies[row.athlete] = Bodies.of(connection, row.athlete)
        cases: list[Case] = []
        hashes: list[str] = []
        setups: dict[str, Any] = {}
        for row in part:
            entry = entry_from(row, setups, (), ())
            hashes.append(row.case_hash)
            cases.append(case_of(entry, bodies[row.athlete].on(row.day)))
        keep(store, dict(zip(hashes, rep_loads(cases), strict=True)))
        if tell is not None:
            tell((start + len(part)) / len(rows))
    return len(rows)


def _try_again(store: Store, athlete: int | None) -> None:
    """Give sets that could not be read as cases another try: a later catalogue may know them."""
    query = (
        sa.select(t.entry, t.setup.c.document.label("setup_document"))
        .join(t.setup, t.setup.c.id == t.entry.c.setup)
        .where(t.entry.c.uncounted != "", t.entry.c.case_hash == "")
    )
    if athlete is not None:
        query = query.where(t.entry.c.athlete == athlete)
    found: dict[int, str] = {}
    with store.reading() as connection:
        for row in connection.execute(query).all():
            entry = entry_from(row, {}, (), ())
            try:
                body = Bodies.of(connection, row.athlete).on(row.day)
                if entry.style in STYLES and entry.side in SIDES:
                    found[row.id] = hash_of(case_of(entry, body))
            except CaseError:
                continue
    if found and not store.read_only:
        with store.writing() as connection:
            for own, name in found.items():
                connection.execute(
                    sa.update(t.entry)
                    .where(t.entry.c.id == own)
                    .values(case_hash=name, uncounted="")
                )


def keep(store: Store, found: Mapping[str, RepLoad]) -> None:
    """Keep repetitions by the names of their cases; a store that can't be written keeps none."""
    if not found or store.read_only:
        return
    rows = []
    for name, rep in found.items():
        row: dict[str, Any] = {
            "case_hash": name,
            "model": MODEL,
            "seconds": rep.seconds,
            "problem": rep.problem,
        }
        for joint, *values in zip(
            t.JOINT_COLUMNS, rep.extensor_Nms, rep.flexor_Nms, rep.peak_Nm, strict=True
        ):
            for kind, value in zip(("extensor", "flexor", "peak"), values, strict=True):
                row[f"{joint}_{kind}"] = float(value)
        rows.append(row)
    with store.writing() as connection:
        connection.execute(
            insert_into(connection, t.exposure).on_conflict_do_nothing(
                index_elements=["case_hash", "model"]
            ),
            rows,
        )


@dataclass(frozen=True)
class Sum:
    """What one variation (or drill) gave one athlete in one week."""

    athlete: int
    week: int
    name: str
    direction: str
    exposure: Exposure


def week_of(day: int) -> int:
    """The number of a day's week; weeks start on Monday."""
    return (day - 1) // 7


def _repetitions() -> Any:
    e = t.entry.c
    held = sa.or_(e.style == "holds", sa.and_(e.seconds.is_not(None), e.reps == 0))
    return held, sa.case((held, 1.0), else_=e.reps + 0.25 * e.quarters)


def sums(
    store: Store,
    athlete: int | Sequence[int] | None = None,
    days: tuple[int, int] | None = None,
    reference: Reference | None = None,
) -> list[Sum]:
    """Sums by athlete, week and variation. Cases that are not worked out yet are named as uncounted."""
    held, reps = _repetitions()
    x, e = t.exposure.c, t.entry.c
    left = e.side == "left"
    named = sa.case((e.drill != "", e.drill), else_=t.setup.c.variation)
    # Whole weeks: SQLAlchemy's "/" would divide truly.
    week = (e.day - 1) // 7
    why = sa.case(
        (e.uncounted != "", e.uncounted),
        (e.case_hash == "", ""),
        (x.case_hash.is_(None), "not worked out yet"),
        else_=x.problem,
    )
    columns: list[Any] = [
        e.athlete,
        week.label("week"),
        named.label("name"),
        why.label("why"),
        sa.func.count().label("sets"),
        sa.func.sum(reps * x.seconds).label("seconds"),
        sa.func.sum(
            sa.case(
                (held, 0.0),
                else_=reps * 0.5 * (e.load_kg + sa.func.coalesce(e.load_up_kg, e.load_kg)),
            )
        ).label("kg"),
        sa.func.max(sa.case((e.drill != "", 1), else_=0)).label("drill"),
        sa.func.max(sa.case((e.case_hash != "", 1), else_=0)).label("measured"),
    ]
    lines = None if reference is None else reference.line_Nm()
    for index, joint in enumerate(t.JOINT_COLUMNS):
        other = OTHER_SIDE[joint]
        for kind in ("extensor", "flexor"):
            value = sa.case((left, x[f"{other}_{kind}"]), else_=x[f"{joint}_{kind}"])
            columns.append(sa.func.sum(reps * value).label(f"{joint}_{kind}"))
        if lines is not None:
            peak = sa.case((left, x[f"{other}_peak"]), else_=x[f"{joint}_peak"])
            line = float(lines[index])
            sure, near = (1.0 + NEAR) * line, (1.0 - NEAR) * line
            columns += [
                sa.func.sum(sa.case((peak >= sure, reps), else_=0.0)).label(f"{joint}_hard"),
                sa.func.sum(sa.case((sa.and_(peak >= near, peak < sure), reps), else_=0.0)).label(
                    f"{joint}_near"
                ),
            ]
    query = (
        sa.select(*columns)
        .select_from(_known())
        .where(COUNTS)
        .group_by(e.athlete, week, named, why)
        .order_by(e.athlete, week, named)
    )
    if isinstance(athlete, int):
        query = query.where(e.athlete == athlete)
    elif athlete is not None:
        # By name, so that the index by athlete and day serves.
        query = query.where(e.athlete.in_(athlete))
    if days is not None:
        query = query.where(e.day.between(*days))
    with store.reading() as connection:
        rows = connection.execute(query).all()
    return [_sum(row, hard=lines is not None) for row in rows]


def _sum(row: Any, *, hard: bool) -> Sum:
    name = str(row.name)
    if row.why:
        found = Exposure(sets=int(row.sets), uncounted={f"{name}: {row.why}": int(row.sets)})
    elif not row.measured:
        found = Exposure(drills=int(row.sets))
    else:
        found = Exposure(
            _joints(row, "extensor"),
            _joints(row, "flexor"),
            _joints(row, "hard") if hard else NOTHING,
            _joints(row, "near") if hard else NOTHING,
            0.0 if _moves_nothing(name) else float(row.kg or 0.0),
            float(row.seconds or 0.0),
            sets=0 if row.drill else int(row.sets),
            drills=int(row.sets) if row.drill else 0,
        )
    return Sum(row.athlete, int(row.week), name, direction_of(name), found)


def _joints(row: Any, kind: str) -> Array:
    return np.array([float(getattr(row, f"{joint}_{kind}") or 0.0) for joint in t.JOINT_COLUMNS])


def _moves_nothing(name: str) -> bool:
    entry = catalogue().get(name)
    return entry is None or any(own.kind == "band" for own in entry.lines)


def first_days(store: Store) -> dict[int, int]:
    """The day of each athlete's first set."""
    first = (
        sa.select(sa.func.min(t.entry.c.day))
        .where(t.entry.c.athlete == t.athlete.c.id)
        .scalar_subquery()
    )
    with store.reading() as connection:
        rows = connection.execute(sa.select(t.athlete.c.id, first)).all()
    return {row[0]: row[1] for row in rows if row[1] is not None}


def empty_cache(store: Store) -> None:
    """Forget every repetition worked out: they are worked out anew when next shown."""
    with store.writing() as connection:
        connection.execute(sa.delete(t.exposure))


def reps_of(store: Store, hashes: list[str]) -> dict[str, RepLoad]:
    """Repetitions known by the names of their cases."""
    found: dict[str, RepLoad] = {}
    with store.reading() as connection:
        for start in range(0, len(hashes), 400):
            query = sa.select(t.exposure).where(
                t.exposure.c.model == MODEL,
                t.exposure.c.case_hash.in_(hashes[start : start + 400]),
            )
            for row in connection.execute(query):
                found[row.case_hash] = RepLoad(
                    _joints(row, "extensor"),
                    _joints(row, "flexor"),
                    _joints(row, "peak"),
                    row.seconds,
                    row.problem,
                )
    return found
