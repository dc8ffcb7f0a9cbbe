"""The folder of a study: what it is, whole parts, and what is wrong with those that failed."""

from __future__ import annotations

import fcntl
import json
import os
import re
import secrets
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import Any

from zesty_lever.problems import CaseError
from zesty_lever.study.design import Design

PART = re.compile(r"part-(\d{6,})\.parquet")
LEFT_OVER = re.compile(r"\.part-(\d{6,})\.[0-9a-f]+\.tmp")


class StudyFolder:
    """A folder with ``study.json``, ``parts`` and ``failed``."""

    def __init__(self, path: Path) -> None:
        self.path = path
        self.parts, self.failed = path / "parts", path / "failed"

    # --- what it is --------------------------------------------------------------------------

    def told(self) -> dict[str, Any]:
        """What ``study.json`` says. Raises `CaseError` where there is none."""
        try:
            data: dict[str, Any] = json.loads((self.path / "study.json").read_text("utf-8"))
        except (OSError, ValueError) as error:
            raise CaseError(
                "not-a-study", f"{self.path} holds no study that can be read", key="DIR"
            ) from error
        if not isinstance(data, dict) or not {"id", "rows", "parts"} <= set(data):
            raise CaseError("not-a-study", f"{self.path / 'study.json'} is no study", key="DIR")
        return data

    def open_for(self, design: Design) -> None:
        """Make the folder, or make sure it is this study's. Raises `CaseError`; another's is left untouched."""
        own = self.path / "study.json"
        if not own.exists():
            if self.path.exists() and any(p.name != ".lock" for p in self.path.iterdir()):
                raise CaseError(
                    "other-study",
                    f"{self.path} is not empty and holds no study; nothing was written",
                    key="--out",
                )
            self.path.mkdir(parents=True, exist_ok=True)
            self._put(own, json.dumps(design.as_dict(), indent=1).encode() + b"\n")
        told = self.told()
        if told["id"] != design.id:
            version = told.get("version", "unknown")
            raise CaseError(
                "other-study",
                f"{self.path} holds another study (id {told['id']}, made with version {version}); "
                "nothing was written",
                key="--out",
            )
        self.parts.mkdir(exist_ok=True)

    @contextmanager
    def held(self, *, shared: bool) -> Iterator[None]:
        """Keep other runs out; shards of one run share. Raises `CaseError`."""
        self.path.mkdir(parents=True, exist_ok=True)
        handle = os.open(self.path / ".lock", os.O_RDWR | os.O_CREAT, 0o644)
        try:
            with suppress_unsupported():
                fcntl.flock(handle, (fcntl.LOCK_SH if shared else fcntl.LOCK_EX) | fcntl.LOCK_NB)
            yield
        except BlockingIOError:
            raise CaseError(
                "study-busy", f"another run is at work in {self.path}", key="--out"
            ) from None
        finally:
            os.close(handle)

    # --- parts -------------------------------------------------------------------------------

    def part_path(self, number: int) -> Path:
        """Where a part lies once it is whole."""
        return self.parts / f"part-{number:06d}.parquet"

    def done(self) -> set[int]:
        """Numbers of the parts that are there, counted on disk."""
        if not self.parts.is_dir():
            return set()
        names = (PART.fullmatch(name) for name in os.listdir(self.parts))  # noqa: PTH208 (many names, no objects)
        return {int(found[1]) for found in names if found}

    def done_paths(self) -> list[Path]:
        """Parts that are there, in order."""
        return [self.part_path(number) for number in sorted(self.done())]

    def write(self, number: int, data: bytes) -> None:
        """Write one part, whole or not at all. Raises `OSError`."""
        self._put(self.part_path(number), data)
        with suppress(FileNotFoundError):
            self._note(number).unlink()

    def _put(self, path: Path, data: bytes) -> None:
        part = path.with_name(f".{path.stem}.{secrets.token_hex(6)}.tmp")
        try:
            handle = os.open(part, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o644)
            try:
                written = 0
                while written < len(data):
                    written += os.write(handle, data[written:])
                os.fsync(handle)
            finally:
                os.close(handle)
            part.replace(path)
        except OSError:
            part.unlink(missing_ok=True)
            raise
        with suppress(OSError):
            above = os.open(path.parent, os.O_RDONLY)
            try:
                os.fsync(above)
            finally:
                os.close(above)

    def clear_left_overs(self, own: Callable[[int], bool]) -> None:
        """Take away what a run that was stopped has left of its own parts."""
        for path in self.parts.glob(".part-*.tmp"):
            found = LEFT_OVER.fullmatch(path.name)
            if found and own(int(found[1])):
                path.unlink(missing_ok=True)

    # --- failures ----------------------------------------------------------------------------

    def _note(self, number: int) -> Path:
        return self.failed / f"part-{number:06d}.txt"

    def note_failed(self, number: int, why: str) -> None:
        """Keep why a part could not be made. Raises `OSError`."""
        self.failed.mkdir(exist_ok=True)
        self._put(self._note(number), why.encode() + b"\n")

    def failures(self) -> dict[int, str]:
        """Parts that could not be made, with why."""
        if not self.failed.is_dir():
            return {}
        done = self.done()
        found = {}
        for path in sorted(self.failed.glob("part-*.txt")):
            number = int(path.stem.removeprefix("part-"))
            if number not in done:
                found[number] = path.read_text("utf-8").strip()
        return found


@contextmanager
def suppress_unsupported() -> Iterator[None]:
    """Pass over a file system without locks; that someone else holds one is told."""
    try:
        yield
    except BlockingIOError:
        raise
    except OSError:
        return
