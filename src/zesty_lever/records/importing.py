"""Records in from JSON lines: same ids are passed over, what differs is a conflict, nothing is overwritten."""

from __future__ import annotations

import base64
import gzip
import json
from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path
from typing import IO, Any

import sqlalchemy as sa

from zesty_lever.cases.parse import athlete_from
from zesty_lever.log.entry import Entry, Pain
from zesty_lever.log.lines import (
    KINDS,
    LOG_FORMAT,
    LONGEST_LINE_BYTES,
    Header,
    entry_from_line,
    with_number_ids,
)
from zesty_lever.models import read
from zesty_lever.plan.document import Session, read_plan
from zesty_lever.problems import CaseError, one_line
from zesty_lever.records import tables as t
from zesty_lever.records.entries import append_in, log_of
from zesty_lever.records.erased import is_erased
from zesty_lever.records.exporting import DOCUMENTS, day_text
from zesty_lever.records.store import Store

BATCH = 500


@dataclass
class Report:
    """What an import did, line by line: added, there already, conflicts (nothing is overwritten), refused."""

    added: dict[str, int] = field(default_factory=dict)
    same: int = 0
    conflicts: list[str] = field(default_factory=list)
    refused: list[str] = field(default_factory=list)

    @property
    def words(self) -> str:
        """In one line."""
        added = ", ".join(f"{n} {kind}" for kind, n in self.added.items()) or "nothing"
        parts = [f"added: {added}", f"there already: {self.same}"]
        if self.conflicts:
            parts.append(f"conflicts: {len(self.conflicts)} (nothing was overwritten)")
        if self.refused:
            parts.append(f"refused: {len(self.refused)}")
        return "; ".join(parts)

    def count(self, kind: str, number: int = 1) -> None:
        """Count what was added."""
        self.added[kind] = self.added.get(kind, 0) + number


def opened(path: Path) -> IO[bytes]:
    """A file of lines, gzipped or not. Raises `OSError`."""
    return gzip.open(path, "rb") if path.suffix == ".gz" else path.open("rb")  # type: ignore[return-value]


def import_lines(
    store: Store,
    stream: IO[bytes],
    *,
    dry_run: bool = False,
    tell: Callable[[int], None] | None = None,
) -> Report:
    """Take in JSON lines. Same ids are passed over; what differs becomes a conflict, never an overwriting.

    Raises `CaseError` where the file is no log, or of a newer version.
    """
    report = Report()
    _check_header(stream.readline(LONGEST_LINE_BYTES))
    reader = _Reader(store, report, dry_run=dry_run)
    for number, line in enumerate(stream, start=2):
        reader.take(number, line)
        if tell is not None and number % BATCH == 0:
            tell(number)
    reader.flush()
    return report


def _check_header(line: bytes) -> None:
    try:
        data = json.loads(line)
    except (ValueError, RecursionError):
        data = None
    written_as = str(data.get("format")) if isinstance(data, dict) else ""
    name, _, version = written_as.rpartition("/")
    if name == LOG_FORMAT.rpartition("/")[0] and version.isdigit() and version != "1":
        raise CaseError(
            "newer-version",
            f"the log was written by a newer version ({one_line(written_as, 40)}); this one reads {LOG_FORMAT}",
            key="format",
        )
    if written_as != LOG_FORMAT:
        raise CaseError(
            "wrong-format", f"this is no log; its first line should say {LOG_FORMAT}", key="format"
        )
    read(Header, data)


class _Reader:
    """Takes lines one by one; entries are written in batches."""

    def __init__(self, store: Store, report: Report, *, dry_run: bool) -> None:
        self.store, self.report, self.dry_run = store, report, dry_run
        self.waiting: list[Entry] = []
        self.erased: dict[int, bool] = {}
        self.known = self._ids()
        self.fresh: set[int] = set()

    def _ids(self) -> set[int]:
        with self.store.reading() as connection:
            return {
                own
                for table in (t.athlete, t.session, t.coach, t.plan, t.template)
                for own in connection.execute(sa.select(table.c.id)).scalars()
            }

    def take(self, number: int, line: bytes) -> None:
        """One line; what is wrong with it is refused in words and the rest goes on."""
        if not line.strip():
            return
        try:
            plain = _known_kind(json.loads(line))
            self._refuse_erased(plain)
            self._by_kind(plain["kind"], plain)
        except CaseError as error:
            self.report.refused.append(f"line {number}: {error.text}")
        except (ValueError, RecursionError, KeyError, TypeError) as error:
            self.report.refused.append(
                f"line {number}: it can't be read ({one_line(str(error), 80)})"
            )

    def _refuse_erased(self, plain: dict[str, Any]) -> None:
        who = plain.get("id") if plain["kind"] == "athlete" else plain.get("athlete")
        if not isinstance(who, int):
            return
        if who not in self.erased:
            self.erased[who] = is_erased(self.store, who)
        if self.erased[who]:
            raise CaseError(
                "erased-person", "it is of a person who was erased on request; it is not taken in"
            )

    def _by_kind(self, kind: str, plain: dict[str, Any]) -> None:
        if kind == "entry":
            self._entry(plain)
            return
        self.flush()
        if kind == "pain":
            self._pain(plain)
        elif kind == "attachment":
            self._attachment(plain)
        else:
            self._document(kind, plain)

    def _entry(self, plain: dict[str, Any]) -> None:
        entry = entry_from_line(plain)
        for key, own in (("athlete", entry.athlete), ("session", entry.session)):
            if own not in self.known:
                raise CaseError(
                    f"unknown-{key}", f"its {key} {own} is neither in the file nor in the records"
                )
        if entry.coach is not None and entry.coach not in self.known:
            entry = entry.changed(coach=None)
        self.waiting.append(entry)
        if len(self.waiting) >= BATCH:
            self.flush()

    def flush(self) -> None:
        """Write the entries that wait; those there already are counted, those that contradict are told."""
        waiting, self.waiting = self.waiting, []
        if not waiting:
            return
        there = self._there(waiting)
        fresh = []
        for entry in waiting:
            if entry.id not in there:
                fresh.append(entry)
            elif there[entry.id] == _comparable(entry):
                self.report.same += 1
            else:
                self.report.conflicts.append(
                    f"set {entry.id} of {day_text(entry.day)}: {entry.name} differs from the records"
                )
        self._append(fresh)

    def _there(self, waiting: list[Entry]) -> dict[int, Any]:
        ids = {entry.id for entry in waiting}
        found = {}
        for athlete in {entry.athlete for entry in waiting}:
            days = [e.day for e in waiting if e.athlete == athlete]
            for entry in log_of(self.store, athlete, days=(min(days), max(days)), replaced=True):
                if entry.id in ids:
                    found[entry.id] = _comparable(entry)
        return found

    def _append(self, fresh: list[Entry]) -> None:
        taken = self._replaced(fresh)
        kept = []
        for entry in fresh:
            if entry.replaces in taken:
                self.report.conflicts.append(
                    f"set {entry.id} of {day_text(entry.day)} corrects one that was corrected otherwise already"
                )
            else:
                kept.append(entry)
        if kept and not self.dry_run:
            with self.store.writing() as connection:
                append_in(connection, kept)
        if kept:
            self.fresh |= {entry.id for entry in kept}
            self.report.count("sets", len(kept))

    def _replaced(self, fresh: list[Entry]) -> set[int]:
        wanted = [e.replaces for e in fresh if e.replaces is not None]
        if not wanted:
            return set()
        query = sa.select(t.entry.c.replaces).where(t.entry.c.replaces.in_(wanted))
        with self.store.reading() as connection:
            return set(connection.execute(query).scalars())

    def _document(self, kind: str, plain: dict[str, Any]) -> None:
        table = DOCUMENTS[kind]
        row = {k: v for k, v in plain.items() if k != "kind"}
        unknown = [key for key in row if key not in table.c]
        if unknown:
            raise CaseError(
                "unknown-key", f"{one_line(unknown[0], 40)} is no key of a line of kind {kind}"
            )
        if "document" in row:
            _check_document(kind, row["document"])
            row["document"] = json.dumps(row["document"], separators=(",", ":"), ensure_ascii=False)
        if kind == "body":
            row["document"] = json.dumps(
                json.loads(row["document"]), sort_keys=True, separators=(",", ":")
            )
        missing = [c.name for c in table.c if not c.nullable and c.name not in row]
        if missing:
            raise CaseError("missing-key", f"{missing[0]} is missing")
        with self.store.reading() as connection:
            there = (
                connection.execute(sa.select(table).where(table.c.id == row["id"]))
                .mappings()
                .first()
            )
        if there is not None:
            if _same(dict(there), row):
                self.report.same += 1
            else:
                name = row.get("name") or row.get("day") or row["id"]
                self.report.conflicts.append(f"{kind} {name} differs from the records")
            return
        if not self.dry_run:
            with self.store.writing() as connection:
                connection.execute(sa.insert(table).values(row))
        self.known.add(row["id"])
        self.report.count(kind)

    def _pain(self, plain: dict[str, Any]) -> None:
        row = {k: v for k, v in plain.items() if k in t.pain.c}
        read(Pain, {k: v for k, v in row.items() if k in Pain.__struct_fields__})
        self._plain_row(t.pain, row, "pain")

    def _attachment(self, plain: dict[str, Any]) -> None:
        row = {k: v for k, v in plain.items() if k in t.attachment.c}
        row["kind"] = str(plain["what"])[:20]
        row["data"] = base64.b64decode(row["data"], validate=True)
        wanted = sa.select(t.entry.c.id).where(t.entry.c.id == row["entry"])
        with self.store.reading() as connection:
            known = connection.execute(wanted).first() is not None
        if not known and row["entry"] not in self.fresh:
            words = f"its set {row['entry']} is neither in the file nor in the records"
            raise CaseError("unknown-session", words)
        self._plain_row(t.attachment, row, "attachment")

    def _plain_row(self, table: sa.Table, row: dict[str, Any], kind: str) -> None:
        with self.store.reading() as connection:
            there = connection.execute(sa.select(table.c.id).where(table.c.id == row["id"])).first()
        if there is not None:
            self.report.same += 1
            return
        if not self.dry_run:
            with self.store.writing() as connection:
                connection.execute(sa.insert(table).values(row))
        self.report.count(kind)


def _known_kind(data: Any) -> dict[str, Any]:
    """A line of a kind that is known, its ids as numbers. Raises `CaseError`."""
    kind = data.get("kind") if isinstance(data, dict) else None
    if kind not in KINDS:
        words = f"its kind is {one_line(str(kind), 40)}; known are: {', '.join(KINDS)}"
        raise CaseError("unreadable-line", words)
    return with_number_ids(data)


def _check_document(kind: str, document: Any) -> None:
    """Refuse a document that is none. Raises `CaseError`."""
    if kind in ("plan", "template"):
        read_plan(document)
    elif kind == "session":
        read(Session, document)
    elif kind == "body":
        athlete_from(document)


def _comparable(entry: Entry) -> Any:
    """An entry without what each store works out for itself."""
    return entry.changed(
        case_hash="", uncounted="", faults=tuple(sorted(entry.faults, key=str)), coach=None
    )


def _same(there: dict[str, Any], row: dict[str, Any]) -> bool:
    for key, value in row.items():
        own = there[key]
        if key == "document":
            if json.loads(own) != json.loads(value):
                return False
        elif own != value:
            return False
    return True
