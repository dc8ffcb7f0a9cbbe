"""A person's sets as JSON lines, straight from the rows: a long log has a million of them."""

from __future__ import annotations

import json
from collections import defaultdict
from collections.abc import Iterator
from typing import Any

import msgspec
import sqlalchemy as sa

from zesty_lever.cases.model import Setup
from zesty_lever.log.entry import Entry
from zesty_lever.log.lines import ID_KEYS
from zesty_lever.models import read
from zesty_lever.plan.document import bare
from zesty_lever.problems import CaseError
from zesty_lever.records import tables as t
from zesty_lever.records.entries import pain_from
from zesty_lever.records.store import Store

# What every store works out for itself, and what stands in tables of its own.
NOT_WRITTEN, APART = ("case_hash", "uncounted"), ("faults", "pains")
_FIELDS = [f for f in msgspec.structs.fields(Entry) if f.name not in (*NOT_WRITTEN, *APART)]
_NEEDED = [f.name for f in _FIELDS if f.required]
# What is needed first, then what is told only where it is not as usual; a column of the same name or another.
_NAMES = (*_NEEDED, *(f.name for f in _FIELDS if not f.required))
_USUAL = (*(object() for _ in _NEEDED), *(f.default for f in _FIELDS if not f.required))
_COLUMNS = {"setup": t.setup.c.document, "tempo_s": t.entry.c.tempo}
_text = msgspec.json.Encoder().encode


def entry_texts(store: Store, athlete: int, days: tuple[int, int] | None) -> Iterator[str]:
    """Every set of a person as a line of text, each behind the one that it replaces; corrected ones too."""
    own = t.entry.c.athlete == athlete
    if days is not None:
        own = sa.and_(own, t.entry.c.day.between(*days))
    columns = [_COLUMNS[n] if n in _COLUMNS else t.entry.c[n] for n in _NAMES]
    query = (
        sa.select(*columns)
        .select_from(t.entry.outerjoin(t.setup, t.setup.c.id == t.entry.c.setup))
        .where(own)
        .order_by(t.entry.c.day, t.entry.c.at_ms, t.entry.c.number, t.entry.c.id)
    )
    wanted = sa.select(t.entry.c.id).where(own)
    faults: dict[int, list[Any]] = defaultdict(list)
    pains: dict[int, list[Any]] = defaultdict(list)
    with store.reading() as connection:
        rows = connection.execute(query).all()
        for row in connection.execute(sa.select(t.fault).where(t.fault.c.entry.in_(wanted))):
            known = {"code": row.code}
            faults[row.entry].append(
                known if row.severity == "note" else {**known, "severity": row.severity}
            )
        for row in connection.execute(sa.select(t.pain).where(t.pain.c.entry.in_(wanted))):
            pains[row.entry].append(bare(pain_from(row)))
    texts = _Texts(faults, pains)
    yield from _parents_first(texts.of(tuple(row)) for row in rows)


class _Texts:
    """Rows as texts; set-ups and tempos are written once each."""

    def __init__(self, faults: dict[int, list[Any]], pains: dict[int, list[Any]]) -> None:
        self._faults, self._pains = faults, pains
        self._parts: dict[str, Any] = {}

    def of(self, values: tuple[Any, ...]) -> tuple[int, int | None, str]:
        """A row's id, the id that it replaces, and its line. Raises `CaseError` for what is not a number."""
        told = zip(_NAMES, values, _USUAL, strict=True)
        data = {"kind": "entry", **{n: v for n, v, usual in told if v not in (usual, "")}}
        own, replaces = data["id"], data.get("replaces")
        for name in ID_KEYS:
            if name in data:
                data[name] = str(data[name])
        if "setup" in data:
            data["setup"] = self._part(data["setup"], _setup)
        if "tempo_s" in data:
            data["tempo_s"] = self._part(data["tempo_s"], _tempo)
        for name, kept in (("faults", self._faults), ("pains", self._pains)):
            if own in kept:
                data[name] = kept[own]
        text = _text(data).decode()
        if "null" in text and any(v != v for v in values):  # noqa: PLR0124 (what is no number is not itself)
            raise CaseError("not-a-number", f"set {own} holds what is no number", key="entry")
        return own, replaces, text + "\n"

    def _part(self, text: str, written: Any) -> Any:
        if text not in self._parts:
            self._parts[text] = msgspec.Raw(_text(written(text)))
        return self._parts[text]


def _setup(text: str) -> dict[str, Any]:
    return bare(read(Setup, json.loads(text)))


def _tempo(text: str) -> list[float]:
    return [float(value) for value in text.split()]


def _parents_first(lines: Iterator[tuple[int, int | None, str]]) -> Iterator[str]:
    waiting = list(lines)
    out: set[int] = set()
    there = {own for own, _, _ in waiting}
    while waiting:
        later = []
        for line in waiting:
            own, replaces, text = line
            if replaces is not None and replaces in there and replaces not in out:
                later.append(line)
            else:
                out.add(own)
                yield text
        if len(later) == len(waiting):
            return
        waiting = later
