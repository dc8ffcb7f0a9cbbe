"""What a coach decided where it differs from the advice: kept, never argued with."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import sqlalchemy as sa

from zesty_lever.log.asked import Advice, Decision
from zesty_lever.log.entry import Entry
from zesty_lever.records import tables as t
from zesty_lever.records.ids import new_id
from zesty_lever.records.store import Store

SAME_KG = 1e-6


def keep_decisions(
    store: Store,
    advised: Mapping[str, Advice],
    done: Sequence[Entry],
    by: str,
    words: Mapping[str, str],
) -> int:
    """Keep a row for every item whose first working set was done with another load than advised; how many.

    ``words``: what was advised, by item, as it was read.
    """
    first: dict[str, Entry] = {}
    for entry in done:
        if entry.setup is not None and entry.style != "ramp":
            first.setdefault(entry.item, entry)
    rows = []
    for item, entry in first.items():
        advice = advised.get(item)
        if advice is None:
            continue
        differs = advice.action in ("stop", "choose") or (
            advice.load_kg is not None and abs(advice.load_kg - entry.load_kg) > SAME_KG
        )
        if differs:
            rows.append(
                {
                    "id": new_id(),
                    "athlete": entry.athlete,
                    "session": entry.session,
                    "day": entry.day,
                    "item": item,
                    "variation": entry.name,
                    "advised_kg": advice.load_kg,
                    "taken_kg": entry.load_kg,
                    "words": words.get(item, ""),
                    "by": by[:8],
                }
            )
    if rows:
        with store.writing() as connection:
            connection.execute(sa.insert(t.decision), rows)
    return len(rows)


def decisions_of(store: Store, athlete: int) -> dict[str, Decision]:
    """The last decision of each lift that differs from its advice, by the lift's name."""
    query = (
        sa.select(t.decision)
        .where(t.decision.c.athlete == athlete)
        .order_by(t.decision.c.day, t.decision.c.id)
    )
    with store.reading() as connection:
        return {
            row.variation: Decision(row.day, row.advised_kg, row.taken_kg, row.by)
            for row in connection.execute(query)
        }
