"""The demonstration's log: twelve invented weeks, moved so that they end on the day it is opened."""

from __future__ import annotations

import gzip
import io
import json
from pathlib import Path
from typing import Any

from zesty_lever.records.importing import Report, import_lines
from zesty_lever.records.store import Store
from zesty_lever.tables import data_path

# Friday of the last week of the log as it is kept.
REFERENCE_DAY = 739_947
NAME = "records.jsonl.gz"
OUT = Path(str(data_path("demo"))) / NAME
DAY_MS = 86_400_000
DAY_KEYS = ("day", "first_day", "cleared_day")
TIME_KEYS = ("at_ms", "started_ms", "ended_ms", "changed_ms")


def write_demo(text: str) -> None:
    """Keep the demonstration's lines, the same bytes for the same lines."""
    OUT.write_bytes(gzip.compress(text.encode(), 9, mtime=0))


def moved(line: dict[str, Any], days: int) -> dict[str, Any]:
    """A line so many days later."""
    found = dict(line)
    for key in DAY_KEYS:
        if isinstance(found.get(key), int):
            found[key] += days
    for key in TIME_KEYS:
        if isinstance(found.get(key), int):
            found[key] += days * DAY_MS
    return found


def shift_for(today: int) -> int:
    """Whole weeks by which the log is moved, so that it ends in the week of a day and weekdays stay."""
    return 7 * ((today - 1) // 7 - (REFERENCE_DAY - 1) // 7)


def load_demo(store: Store, today: int) -> Report:
    """Take the demonstration's log into a fresh store."""
    days = shift_for(today)
    lines = gzip.decompress(data_path("demo", NAME).read_bytes()).decode().splitlines()
    moved_lines = [json.dumps(moved(json.loads(line), days)) for line in lines]
    return import_lines(store, io.BytesIO("\n".join(moved_lines).encode()))
