"""The demonstration's log: twelve invented weeks, moved so that they end on the day it is opened.

It is kept a week further than that: whatever lies on that day or after it is planned, not done.
"""

from __future__ import annotations

import gzip
import io
import json
from pathlib import Path
from typing import Any

from zesty_lever.records.importing import Report, import_lines
from zesty_lever.records.store import Store
from zesty_lever.tables import data_path

# The first day that the log as it is kept can be opened on, a Friday: a week of done sessions follows it.
REFERENCE_DAY = 739_947
MORE_DAYS = 7
NAME = "records.jsonl.gz"
OUT = Path(str(data_path("demo"))) / NAME
DAY_MS = 86_400_000
DAY_KEYS = ("day", "first_day", "cleared_day")
DONE_KEYS = ("started_ms", "ended_ms", "rating")
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
    """Whole weeks by which the log is moved: its reference day is the last of its weekday up to a day."""
    return 7 * ((today - REFERENCE_DAY) // 7)


def known_on(lines: list[dict[str, Any]], today: int) -> list[dict[str, Any]]:
    """The lines as they stood in the morning of a day: what was done from then on is still planned."""
    ahead = {
        line["id"]
        for line in lines
        if line.get("kind") == "session" and line["day"] >= today and line["state"] == "done"
    }
    found = []
    for line in lines:
        if line.get("session") in ahead:
            continue
        if line.get("kind") == "session" and line["id"] in ahead:
            kept = {k: v for k, v in line.items() if k not in DONE_KEYS}
            found.append({**kept, "state": "planned"})
        else:
            found.append(line)
    return found


def load_demo(store: Store, today: int) -> Report:
    """Take the demonstration's log into a fresh store."""
    days = shift_for(today)
    lines = gzip.decompress(data_path("demo", NAME).read_bytes()).decode().splitlines()
    all_lines = known_on([moved(json.loads(line), days) for line in lines], today)
    moved_lines = [json.dumps(line) for line in all_lines]
    return import_lines(store, io.BytesIO("\n".join(moved_lines).encode()))
