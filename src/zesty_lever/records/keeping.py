"""Backups of a store on this machine: made, checked, thinned out, taken back; a damaged file put aside."""

from __future__ import annotations

import re
import sqlite3
import time
from collections.abc import Callable
from pathlib import Path

from zesty_lever import clock
from zesty_lever.problems import CaseError

KEPT_DAILY, KEPT_WEEKLY = 7, 4
FOLDER = "backups"
DAY_S = 86_400.0


def backups_of(path: Path) -> list[Path]:
    """Backups of a store, newest first by the time in their names."""
    found = (path.parent / FOLDER).glob(f"{path.stem}-*.db")
    return sorted(found, key=_stamp, reverse=True)


def _stamp(backup: Path) -> str:
    found = re.search(r"-(\d{8}-\d{6})", backup.name)
    return found[1] if found else ""


def backup(path: Path, word: str = "daily", now: Callable[[], float] | None = None) -> Path:
    """Copy a store through the database's own backup, check the copy, and return where it lies.

    Raises `CaseError` where the copy is not sound, `OSError` where it can't be written.
    """
    folder = path.parent / FOLDER
    folder.mkdir(exist_ok=True)
    stamp = clock.local("%Y%m%d-%H%M%S", (now or clock.now_s)())
    made = folder / f"{path.stem}-{stamp}-{word}.db"
    part = made.with_suffix(".part")
    source = sqlite3.connect(path)
    target = sqlite3.connect(part)
    try:
        source.backup(target)
        target.execute("PRAGMA journal_mode=DELETE")
        sound = target.execute("PRAGMA quick_check(1)").fetchone()[0]
    finally:
        target.close()
        source.close()
    if sound != "ok":
        part.unlink(missing_ok=True)
        raise CaseError(
            "records-damaged", f"the backup of {path} is not sound: {sound}", key="store"
        )
    part.replace(made)
    return made


def backed_up_today(path: Path, now: Callable[[], float] | None = None) -> bool:
    """Whether the day's backup is there."""
    today = clock.local("%Y%m%d", (now or clock.now_s)())
    dailies = [b for b in backups_of(path) if b.stem.endswith("-daily")]
    return any(_stamp(b).startswith(today) for b in dailies)


def daily_backup(path: Path, now: Callable[[], float] | None = None) -> Path | None:
    """A backup where today has none yet; keeps seven days and one a week for four weeks."""
    if backed_up_today(path, now):
        return None
    made = backup(path, "daily", now)
    _thin(path)
    return made


def _thin(path: Path) -> None:
    dailies = [b for b in backups_of(path) if b.stem.endswith("-daily")]
    kept = set(dailies[:KEPT_DAILY])
    weeks: set[str] = set()
    for one in dailies:
        week = time.strftime("%G-%V", time.strptime(_stamp(one), "%Y%m%d-%H%M%S"))
        if week not in weeks and len(weeks) < KEPT_WEEKLY:
            weeks.add(week)
            kept.add(one)
    for one in dailies:
        if one not in kept:
            one.unlink(missing_ok=True)


def sound(path: Path) -> bool:
    """Whether a file is a database that passes its own check."""
    try:
        connection = sqlite3.connect(f"file:{path}?mode=ro", uri=True)
        try:
            return bool(connection.execute("PRAGMA quick_check(1)").fetchone()[0] == "ok")
        finally:
            connection.close()
    except sqlite3.Error:
        return False


def put_damaged_aside(path: Path) -> str:
    """Rename a damaged store and put the newest sound backup in its place; returns what was done, in words."""
    number = 1
    while (aside := path.with_name(f"{path.stem}.damaged{number}.db")).exists():
        number += 1
    for ending in ("", "-wal", "-shm"):
        part = path.with_name(path.name + ending)
        if part.exists():
            part.rename(aside.with_name(aside.name + ending))
    for one in backups_of(path):
        if sound(one):
            restore(path, one)
            return (
                f"The records were damaged: the file is kept as {aside.name}, and the backup of "
                f"{_in_words(one)} has taken its place. Sets confirmed since are in the journal as far as it holds them."
            )
    return (
        f"The records were damaged and there is no sound backup: the file is kept as {aside.name}, "
        "and new records have begun."
    )


def _in_words(one: Path) -> str:
    stamp = _stamp(one)
    return f"{stamp[:4]}-{stamp[4:6]}-{stamp[6:8]} {stamp[9:11]}:{stamp[11:13]}"


def restore(path: Path, one: Path) -> None:
    """Put a backup in the store's place. Nobody else may have it open. Raises `CaseError`, `OSError`."""
    if not sound(one):
        raise CaseError("records-damaged", f"the backup {one.name} is not sound", key="backup")
    part = path.with_suffix(".part")
    source, target = sqlite3.connect(f"file:{one}?mode=ro", uri=True), sqlite3.connect(part)
    try:
        source.backup(target)
    finally:
        target.close()
        source.close()
    for ending in ("-wal", "-shm"):
        path.with_name(path.name + ending).unlink(missing_ok=True)
    part.replace(path)
