"""Plans and sessions in the records: documents with a version; the second writer is told."""

from __future__ import annotations

import json
from collections.abc import Iterable
from dataclasses import replace
from typing import Any

import sqlalchemy as sa

from zesty_lever import clock
from zesty_lever.frozen import dataclass
from zesty_lever.log.entry import SessionState
from zesty_lever.models import read
from zesty_lever.plan.document import (
    Plan,
    Session,
    bare,
    keyed,
    keyed_session,
    plan_json,
    read_plan,
)
from zesty_lever.problems import CaseError
from zesty_lever.records import tables as t
from zesty_lever.records.ids import new_id
from zesty_lever.records.store import Store
from zesty_lever.records.versioned import beaten, document_text, write_over


@dataclass(frozen=True)
class PlanRow:
    """A plan of an athlete as it was read; ``first_day`` is the Monday of its first week."""

    id: int
    athlete: int
    first_day: int
    plan: Plan
    state: str = "active"
    template: int | None = None
    changed_ms: int = 0
    changed_by: str = ""
    version: int = 1

    def day_of(self, week: int, session: Session) -> int:
        """The day of a session of a week."""
        return self.first_day + 7 * week + session.weekday


@dataclass(frozen=True)
class SessionRow:
    """A session of an athlete: when, in what state, and what was planned in it."""

    id: int
    athlete: int
    day: int
    session: Session
    state: SessionState = "planned"
    plan: int | None = None
    slot: str = ""
    order: int = 0
    started_ms: int | None = None
    ended_ms: int | None = None
    rating: int | None = None
    note: str = ""
    changed_ms: int = 0
    changed_by: str = ""
    version: int = 1


def monday_of(day: int) -> int:
    """The Monday of a day's week."""
    return day - (day - 1) % 7


# --- plans -----------------------------------------------------------------------------------


def add_plan(
    store: Store,
    athlete: int,
    first_day: int,
    plan: Plan,
    by: str = "",
    template: int | None = None,
    since: int | None = None,
) -> PlanRow:
    """Enter a plan that begins in the week of a day, with a planned session for each of its sessions.

    ``since``: no session is planned for a day before that: nothing is missed before it was planned.
    """
    made = PlanRow(
        new_id(),
        athlete,
        monday_of(first_day),
        keyed(plan),
        template=template,
        changed_ms=clock.now_ms(),
        changed_by=by,
    )
    with store.writing() as connection:
        connection.execute(sa.insert(t.plan).values(_plan_values(made)))
        _sync(connection, made, since)
    return made


def _plan_values(row: PlanRow) -> dict[str, Any]:
    return {
        "id": row.id,
        "athlete": row.athlete,
        "template": row.template,
        "name": row.plan.name,
        "first_day": row.first_day,
        "state": row.state,
        "document": document_text(plan_json(row.plan)),
        "changed_ms": row.changed_ms,
        "changed_by": row.changed_by,
        "version": row.version,
    }


def save_plan(
    store: Store,
    was: PlanRow,
    plan: Plan,
    by: str = "",
    state: str = "",
    since: int | None = None,
) -> PlanRow:
    """Write a changed plan and its planned sessions; sessions that have begun stay as they are.

    ``since``: as with `add_plan`.

    Raises `ChangedMeanwhileError` with the other version where somebody else was quicker.
    """
    row = replace(
        was,
        plan=keyed(plan),
        state=state or was.state,
        changed_ms=clock.now_ms(),
        changed_by=by,
        version=was.version + 1,
    )
    with store.writing() as connection:
        written = write_over(connection, t.plan, was, _plan_values(row))
        if written:
            _sync(connection, row, since)
    if not written:
        raise beaten(was.plan.name or "the plan", plan_row(store, was.id))
    return row


def _sync(connection: sa.Connection, row: PlanRow, since: int | None = None) -> None:
    """Make the planned sessions of a plan what the plan says."""
    query = sa.select(t.session.c.id, t.session.c.slot, t.session.c.state).where(
        t.session.c.plan == row.id
    )
    there = {found.slot: found for found in connection.execute(query)}
    wanted = set()
    for order, (week, session) in enumerate(row.plan.sessions()):
        wanted.add(session.key)
        found = there.get(session.key)
        if found is not None and found.state != "planned":
            continue
        day = row.day_of(week, session)
        values: dict[str, Any] = {
            "day": day,
            "order": order,
            "document": document_text(bare(session)),
            "changed_ms": row.changed_ms,
            "changed_by": row.changed_by,
        }
        if found is None and since is not None and day < since:
            continue
        if found is None:
            fresh = SessionRow(new_id(), row.athlete, day, session, plan=row.id)
            connection.execute(
                sa.insert(t.session).values(
                    {**session_values(fresh), **values, "slot": session.key}
                )
            )
        else:
            connection.execute(
                sa.update(t.session)
                .where(t.session.c.id == found.id)
                .values(**values, version=t.session.c.version + 1)
            )
    gone = [f.id for slot, f in there.items() if slot not in wanted and f.state == "planned"]
    if gone:
        connection.execute(sa.delete(t.session).where(t.session.c.id.in_(gone)))


def plan_row(store: Store, plan: int) -> PlanRow | None:
    """One plan, None where there is none."""
    with store.reading() as connection:
        found = connection.execute(sa.select(t.plan).where(t.plan.c.id == plan)).first()
    return None if found is None else _plan_from(found)


def plans_of(store: Store, athlete: int) -> list[PlanRow]:
    """Plans of an athlete, the newest first."""
    query = (
        sa.select(t.plan)
        .where(t.plan.c.athlete == athlete)
        .order_by(t.plan.c.first_day.desc(), t.plan.c.id.desc())
    )
    with store.reading() as connection:
        return [_plan_from(row) for row in connection.execute(query)]


def _plan_from(row: Any) -> PlanRow:
    return PlanRow(
        row.id,
        row.athlete,
        row.first_day,
        read_plan(json.loads(row.document)),
        row.state,
        row.template,
        row.changed_ms,
        row.changed_by,
        row.version,
    )


def delete_plan(store: Store, plan: int) -> None:
    """Take a plan away with its planned sessions; what was done stays."""
    with store.writing() as connection:
        connection.execute(
            sa.delete(t.session).where(t.session.c.plan == plan, t.session.c.state == "planned")
        )
        connection.execute(sa.delete(t.plan).where(t.plan.c.id == plan))


# --- sessions --------------------------------------------------------------------------------


def session_values(row: SessionRow) -> dict[str, Any]:
    """A session as a row of its table."""
    return {
        "id": row.id,
        "athlete": row.athlete,
        "plan": row.plan,
        "slot": row.slot,
        "day": row.day,
        "order": row.order,
        "state": row.state,
        "started_ms": row.started_ms,
        "ended_ms": row.ended_ms,
        "rating": row.rating,
        "note": row.note,
        "document": document_text(bare(row.session)),
        "changed_ms": row.changed_ms or clock.now_ms(),
        "changed_by": row.changed_by,
        "version": row.version,
    }


def add_session(
    store: Store,
    athlete: int,
    day: int,
    session: Session,
    state: SessionState = "planned",
    by: str = "",
) -> SessionRow:
    """Enter a session outside any plan."""
    made = SessionRow(new_id(), athlete, day, keyed_session(session), state, changed_by=by)
    with store.writing() as connection:
        connection.execute(sa.insert(t.session).values(session_values(made)))
    return made


def save_session(store: Store, was: SessionRow, by: str = "", **changes: Any) -> SessionRow:
    """Write a changed session. Raises `ChangedMeanwhileError`, and `CaseError` for times out of order."""
    row = replace(was, **changes, changed_ms=clock.now_ms(), changed_by=by, version=was.version + 1)
    if row.started_ms is not None and row.ended_ms is not None and row.ended_ms < row.started_ms:
        raise CaseError(
            "days-out-of-order",
            "the session would end before it began",
            key="ended_ms",
            value=row.ended_ms,
            allowed=[row.started_ms, 2**53],
        )
    with store.writing() as connection:
        written = write_over(connection, t.session, was, session_values(row))
    if not written:
        raise beaten(was.session.name or "the session", session_row(store, was.id))
    return row


def session_row(store: Store, session: int) -> SessionRow | None:
    """One session, None where there is none."""
    with store.reading() as connection:
        found = connection.execute(sa.select(t.session).where(t.session.c.id == session)).first()
    return None if found is None else session_from(found)


def sessions_of(
    store: Store,
    athlete: int | None = None,
    days: tuple[int, int] | None = None,
    states: Iterable[SessionState] = (),
) -> list[SessionRow]:
    """Sessions by day and order: of one athlete or all, of some days, in some states."""
    query = sa.select(t.session).order_by(t.session.c.day, t.session.c.order, t.session.c.id)
    if athlete is not None:
        query = query.where(t.session.c.athlete == athlete)
    if days is not None:
        query = query.where(t.session.c.day.between(*days))
    wanted = list(states)
    if wanted:
        query = query.where(t.session.c.state.in_(wanted))
    with store.reading() as connection:
        return [session_from(row) for row in connection.execute(query)]


def session_from(row: Any) -> SessionRow:
    """A row as a session."""
    return SessionRow(
        row.id,
        row.athlete,
        row.day,
        read(Session, json.loads(row.document)),
        row.state,
        row.plan,
        row.slot,
        row.order,
        row.started_ms,
        row.ended_ms,
        row.rating,
        row.note,
        row.changed_ms,
        row.changed_by,
        row.version,
    )
