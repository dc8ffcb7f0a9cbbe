"""Confirmed sets on their way to the store: written and flushed before anything else is done with them."""

from __future__ import annotations

import json
import os
from collections.abc import Iterable
from pathlib import Path
from typing import Any

import msgspec

from zesty_lever.log.entry import Entry
from zesty_lever.models import read
from zesty_lever.problems import CaseError
from zesty_lever.records.entries import append
from zesty_lever.records.store import Store


class Journal:
    """The file ``running.jsonl``: a line a set, gone once the store has acknowledged it.

    What can't be read (a line cut short by a crash: it was never confirmed) is kept aside and named.
    """

    def __init__(self, path: Path) -> None:
        self.path = path
        self.unread: list[str] = []

    def add(self, entry: Entry) -> None:
        """Write one set; when this returns it survives a crash. Raises `OSError`."""
        self._write({"set": msgspec.to_builtins(entry)})

    def mark(self, session: int, key: str, at_ms: int) -> None:
        """Note when something of a running session began (a block of paired minutes)."""
        self._write({"mark": {"session": session, "key": key, "at_ms": at_ms}})

    def _write(self, line: dict[str, Any]) -> None:
        self.path.parent.mkdir(parents=True, exist_ok=True)
        data = (json.dumps(line, separators=(",", ":"), ensure_ascii=False) + "\n").encode()
        handle = os.open(self.path, os.O_WRONLY | os.O_APPEND | os.O_CREAT, 0o600)
        try:
            os.write(handle, data)
            os.fsync(handle)
        finally:
            os.close(handle)

    def _lines(self) -> list[dict[str, Any]]:
        self.unread = []
        if not self.path.exists():
            return []
        found = []
        for line in self.path.read_bytes().splitlines():
            try:
                data = json.loads(line.decode())
            except ValueError:
                self.unread.append(line[:200].decode(errors="replace"))
                continue
            if isinstance(data, dict):
                found.append(data)
        return found

    def waiting(self) -> list[Entry]:
        """Sets that the store has not acknowledged, in order."""
        entries = []
        for line in self._lines():
            if "set" in line:
                try:
                    entries.append(read(Entry, line["set"]))
                except CaseError as error:
                    self.unread.append(error.text)
        return entries

    def marks(self, session: int) -> dict[str, int]:
        """When things of a running session began, ms since 1970."""
        noted = [line["mark"] for line in self._lines() if "mark" in line]
        return {m["key"]: m["at_ms"] for m in noted if m["session"] == session}

    def acknowledged(self, ids: Iterable[int], ended: Iterable[int] = ()) -> None:
        """Take lines of sets that are in the store away, and the marks of sessions that have ended."""
        done, over = set(ids), set(ended)
        kept = [
            line
            for line in self._lines()
            if not ("set" in line and line["set"]["id"] in done)
            and not ("mark" in line and line["mark"]["session"] in over)
        ]
        self._replace(kept)

    def forget(self, athlete: int) -> None:
        """Take everything of a person away."""
        kept = [
            line
            for line in self._lines()
            if not ("set" in line and line["set"]["athlete"] == athlete)
        ]
        self._replace(kept)

    def _replace(self, lines: list[dict[str, Any]]) -> None:
        if not lines and not self.unread:
            self.path.unlink(missing_ok=True)
            return
        if self.unread:
            aside = self.path.with_suffix(".unread")
            with aside.open("a", encoding="utf-8") as file:
                file.write("\n".join(self.unread) + "\n")
        part = self.path.with_suffix(".part")
        with part.open("w", encoding="utf-8") as file:
            file.writelines(
                json.dumps(line, separators=(",", ":"), ensure_ascii=False) + "\n" for line in lines
            )
            file.flush()
            os.fsync(file.fileno())
        part.replace(self.path)

    def replay(self, store: Store) -> int:
        """Bring what waits into the store; sets that are there already add nothing. Returns how many waited.

        Raises `CaseError` where the store still can't be written: everything then waits on. A set that the store
        refuses for good (its session is gone) is kept aside.
        """
        waiting = self.waiting()
        done: list[int] = []
        for entry in waiting:
            try:
                append(store, [entry])
            except CaseError as error:
                if error.code in (
                    "records-full",
                    "records-busy",
                    "records-gone",
                    "records-read-only",
                ):
                    self.acknowledged(done)
                    raise
                self.unread.append(json.dumps(msgspec.to_builtins(entry), ensure_ascii=False))
            done.append(entry.id)
        if done:
            refused = list(self.unread)
            over = set(done)
            lines = [x for x in self._lines() if not ("set" in x and x["set"]["id"] in over)]
            self.unread = refused
            self._replace(lines)
        return len(done)
