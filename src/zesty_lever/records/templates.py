"""Templates of plans in the records."""

from __future__ import annotations

import json

import sqlalchemy as sa

from zesty_lever import clock
from zesty_lever.frozen import dataclass
from zesty_lever.plan.document import Plan, plan_json, read_plan
from zesty_lever.records import tables as t
from zesty_lever.records.ids import new_id
from zesty_lever.records.store import Store
from zesty_lever.records.versioned import beaten, document_text, write_over


@dataclass(frozen=True)
class TemplateRow:
    """A template as it was read."""

    id: int
    plan: Plan
    owner: str = ""
    changed_ms: int = 0
    changed_by: str = ""
    version: int = 1


def save_template(
    store: Store, plan: Plan, by: str = "", was: TemplateRow | None = None
) -> TemplateRow:
    """Write a template, new or changed. Raises `ChangedMeanwhileError`."""
    made = TemplateRow(
        new_id() if was is None else was.id,
        plan,
        by if was is None else was.owner,
        clock.now_ms(),
        by,
        1 if was is None else was.version + 1,
    )
    values = {
        "id": made.id,
        "name": plan.name,
        "owner": made.owner,
        "document": document_text(plan_json(plan)),
        "changed_ms": made.changed_ms,
        "changed_by": by,
        "version": made.version,
    }
    with store.writing() as connection:
        if was is None:
            connection.execute(sa.insert(t.template).values(values))
            return made
        written = write_over(connection, t.template, was, values)
    if not written:
        raise beaten(plan.name, next((row for row in templates(store) if row.id == was.id), None))
    return made


def templates(store: Store) -> list[TemplateRow]:
    """Every template by name."""
    with store.reading() as connection:
        rows = connection.execute(sa.select(t.template).order_by(t.template.c.name)).all()
    return [
        TemplateRow(
            r.id, read_plan(json.loads(r.document)), r.owner, r.changed_ms, r.changed_by, r.version
        )
        for r in rows
    ]


def delete_template(store: Store, template: int) -> None:
    """Take a template away; plans made of it stay."""
    with store.writing() as connection:
        connection.execute(sa.delete(t.template).where(t.template.c.id == template))
