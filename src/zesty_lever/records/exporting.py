"""Records out in open formats: JSON lines, CSV, a person's folder."""

from __future__ import annotations

import base64
import csv
import gzip
import io
import json
from collections.abc import Callable, Iterable, Iterator
from contextlib import contextmanager
from datetime import date
from pathlib import Path
from typing import IO, Any

import sqlalchemy as sa

from zesty_lever import clock
from zesty_lever.io.json_files import replacing
from zesty_lever.io.tables import text_of
from zesty_lever.log.entry import Entry
from zesty_lever.log.exposure import MODEL
from zesty_lever.log.lines import LOG_FORMAT, line_text, with_text_ids
from zesty_lever.records import tables as t
from zesty_lever.records.entries import log_of
from zesty_lever.records.entry_lines import entry_texts
from zesty_lever.records.people import people
from zesty_lever.records.store import Store

CSV_COLUMNS = (
    "day",
    "athlete",
    "session",
    "item",
    "number",
    "exercise",
    "style",
    "side",
    "load_kg",
    "load_up_kg",
    "reps",
    "quarters",
    "seconds",
    "rest_s",
    "effort_left",
    "faults",
    "pain",
    "note",
    "corrected",
)
# Tables copied as they are, parents first: name, columns that are texts of JSON.
DOCUMENTS: dict[str, sa.Table] = {
    "athlete": t.athlete,
    "body": t.body,
    "coach": t.coach,
    "template": t.template,
    "plan": t.plan,
    "session": t.session,
    "decision": t.decision,
}


@contextmanager
def written(path: Path) -> Iterator[IO[str]]:
    """A text file that takes its place only when whole; gzipped where its name ends in .gz."""
    if path.suffix != ".gz":
        with replacing(path) as file:
            yield file
        return
    part = path.with_name(path.name + ".part")
    try:
        with gzip.open(part, "wt", encoding="utf-8", compresslevel=5) as file:
            yield file
        part.replace(path)
    finally:
        part.unlink(missing_ok=True)


def export_lines(
    store: Store,
    file: IO[str],
    athlete: int | None = None,
    days: tuple[int, int] | None = None,
    tell: Callable[[float], None] | None = None,
) -> int:
    """Write everything (or one person's, or some days') as JSON lines; how many."""
    header = {"format": LOG_FORMAT, "written_ms": clock.now_ms(), "model": MODEL}
    file.write(line_text(header))
    count = 1
    for text in _lines(store, athlete, days, tell):
        file.write(text)
        count += 1
    return count


def _lines(
    store: Store,
    athlete: int | None,
    days: tuple[int, int] | None,
    tell: Callable[[float], None] | None,
) -> Iterator[str]:
    for kind, table in DOCUMENTS.items():
        yield from map(line_text, _documents(store, kind, table, athlete, days))
    own = [athlete] if athlete is not None else [p.id for p in people(store)]
    for number, who in enumerate(own, start=1):
        yield from entry_texts(store, who, days)
        yield from map(line_text, _session_pains(store, who, days))
        yield from map(line_text, _attachments(store, who, days))
        if tell is not None:
            tell(number / len(own))


def _documents(
    store: Store,
    kind: str,
    table: sa.Table,
    athlete: int | None,
    days: tuple[int, int] | None,
) -> Iterator[dict[str, Any]]:
    query = sa.select(table).order_by(table.c.id)
    if athlete is not None:
        if kind == "template":
            return
        if "athlete" in table.c:
            query = query.where(table.c.athlete == athlete)
        elif kind == "athlete":
            query = query.where(table.c.id == athlete)
    if days is not None and kind in ("session", "decision"):
        query = query.where(table.c.day.between(*days))
    with store.reading() as connection:
        for row in connection.execute(query).mappings():
            data = dict(row)
            if "document" in data:
                data["document"] = json.loads(data["document"])
            yield {"kind": kind, **with_text_ids(data)}


def _session_pains(
    store: Store, athlete: int, days: tuple[int, int] | None
) -> Iterator[dict[str, Any]]:
    query = sa.select(t.pain).where(t.pain.c.athlete == athlete, t.pain.c.entry.is_(None))
    if days is not None:
        query = query.where(t.pain.c.day.between(*days))
    with store.reading() as connection:
        for row in connection.execute(query.order_by(t.pain.c.id)).mappings():
            yield {"kind": "pain", **with_text_ids(dict(row))}


def _attachments(
    store: Store, athlete: int, days: tuple[int, int] | None
) -> Iterator[dict[str, Any]]:
    query = (
        sa.select(t.attachment)
        .join(t.entry, t.entry.c.id == t.attachment.c.entry)
        .where(t.entry.c.athlete == athlete)
        .order_by(t.attachment.c.id)
    )
    if days is not None:
        query = query.where(t.entry.c.day.between(*days))
    with store.reading() as connection:
        for row in connection.execute(query).mappings():
            data = {**row, "data": base64.b64encode(row["data"]).decode(), "what": row["kind"]}
            yield {**with_text_ids(data), "kind": "attachment"}


# --- CSV and a person's folder ---------------------------------------------------------------


def day_text(day: int) -> str:
    """A day as 2026-11-27."""
    return date.fromordinal(day).isoformat()


def export_csv(
    store: Store, file: IO[str], athlete: int | None = None, days: tuple[int, int] | None = None
) -> int:
    """Write the log as a table, the corrected sets marked; how many rows."""
    names = {p.id: p.name for p in people(store)}
    writer = csv.writer(file, lineterminator="\n")
    writer.writerow(CSV_COLUMNS)
    count = 0
    for who in [athlete] if athlete is not None else list(names):
        entries = log_of(store, who, days=days, replaced=True)
        replaced = {e.replaces for e in entries if e.replaces is not None}
        for entry in entries:
            writer.writerow(_row(entry, names.get(entry.athlete, ""), entry.id in replaced))
            count += 1
    return count


def _row(entry: Entry, name: str, replaced: bool) -> list[str]:  # noqa: FBT001
    pains = "; ".join(
        f"{p.place} {p.side} {p.score}" + (" numb" if p.numb else "") for p in entry.pains
    )
    faults = "; ".join(f"{f.code} ({f.severity})" for f in entry.faults)
    state = "withdrawn" if entry.withdrawn else "replaced" if replaced else ""
    cells = [
        day_text(entry.day),
        name,
        str(entry.session),
        entry.item,
        entry.number,
        entry.name,
        entry.style,
        entry.side,
        entry.load_kg,
        entry.load_up_kg,
        entry.reps,
        entry.quarters,
        entry.seconds,
        entry.rest_s,
        entry.effort_left,
        faults,
        pains,
        entry.note,
        state,
    ]
    return ["" if c is None else f"{c:g}" if isinstance(c, float) else text_of(c) for c in cells]


def export_person(store: Store, athlete: int, folder: Path) -> list[Path]:
    """A person's records in one folder: JSON lines, CSV, attachments. Returns what was written."""
    folder.mkdir(parents=True, exist_ok=True)
    lines, table = folder / "records.jsonl", folder / "log.csv"
    with replacing(lines) as file:
        export_lines(store, file, athlete)
    with replacing(table) as file:
        export_csv(store, file, athlete)
    made = [lines, table]
    for data in _attachments(store, athlete, None):
        ending = {"picture": "png"}.get(data["what"], "json")
        path = folder / f"attachment-{data['entry']}-{data['id']}.{ending}"
        path.write_bytes(base64.b64decode(data["data"]))
        made.append(path)
    return made


def csv_text(rows: Iterable[Iterable[Any]]) -> str:
    """Rows as CSV text, cells that a spreadsheet would run made plain."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    for row in rows:
        writer.writerow(
            ["" if c is None else f"{c:.6g}" if isinstance(c, float) else text_of(c) for c in row]
        )
    return out.getvalue()
