"""Confirmed sets on their way to the store: written and flushed before anything else is done with them."""

from __future__ import annotations

import errno
import fcntl
import json
import os
from collections.abc import Callable, Iterable, Iterator
from contextlib import contextmanager
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

    What can't be read (a line cut short by a crash: it was never confirmed) is kept aside and named. Lines are
    added and taken away under one lock, which holds between threads and between processes: a set confirmed
    while the file is written anew is never lost.
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
        data = (json.dumps(line, separators=(",", ":"), ensure_ascii=False) + "\n").encode()
        with self._locked():
            handle = os.open(self.path, os.O_RDWR | os.O_APPEND | os.O_CREAT, 0o600)
            try:
                size = os.fstat(handle).st_size
                if size and os.pread(handle, 1, size - 1) != b"\n":
                    # A crash has cut the last line short: it must not take this one with it.
                    data = b"\n" + data
                if os.write(handle, data) < len(data):
                    raise OSError(errno.ENOSPC, os.strerror(errno.ENOSPC), str(self.path))
                os.fsync(handle)
            finally:
                os.close(handle)

    @contextmanager
    def _locked(self) -> Iterator[None]:
        """Nobody else writes while this holds: no other thread, no other process."""
        self.path.parent.mkdir(parents=True, exist_ok=True)
        handle = os.open(self.path.with_suffix(".lock"), os.O_RDWR | os.O_CREAT, 0o600)
        try:
            fcntl.flock(handle, fcntl.LOCK_EX)
            yield
        finally:
            os.close(handle)

    def _read(self) -> list[dict[str, Any]]:
        """The lines, never half of one that is being written."""
        if not self.path.exists() or not os.access(self.path.parent, os.W_OK):
            return self._lines()
        with self._locked():
            return self._lines()

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
        for line in self._read():
            if "set" in line:
                try:
                    entries.append(read(Entry, line["set"]))
                except CaseError as error:
                    self.unread.append(error.text)
        return entries

    def marks(self, session: int) -> dict[str, int]:
        """When things of a running session began, ms since 1970."""
        noted = [line["mark"] for line in self._read() if "mark" in line]
        return {m["key"]: m["at_ms"] for m in noted if m["session"] == session}

    def acknowledged(self, ids: Iterable[int], ended: Iterable[int] = ()) -> None:
        """Take lines of sets that are in the store away, and the marks of sessions that have ended."""
        done, over = set(ids), set(ended)
        self._keep(
            lambda line: (
                not ("set" in line and line["set"]["id"] in done)
                and not ("mark" in line and line["mark"]["session"] in over)
            )
        )

    def forget(self, athlete: int) -> None:
        """Take everything of a person away."""
        self._keep(lambda line: not ("set" in line and line["set"]["athlete"] == athlete))

    def _keep(
        self, wanted: Callable[[dict[str, Any]], bool], refused: Iterable[str] | None = None
    ) -> None:
        """Write the file anew with the lines that are wanted; ``refused``: what to keep aside instead of what is unread."""
        with self._locked():
            kept = [line for line in self._lines() if wanted(line)]
            if refused is not None:
                self.unread = list(refused)
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
            over = set(done)
            refused = self.unread
            self._keep(lambda line: not ("set" in line and line["set"]["id"] in over), refused)
        return len(done)
