"""A person taken out of everything of ours: records, bench and its backups, measurements, what the window remembers."""

from __future__ import annotations

import json
import shutil
from pathlib import Path
from typing import Any

from zesty_lever.bench.files import backups_of
from zesty_lever.io.json_files import replacing, write_json
from zesty_lever.records.erasing import erase
from zesty_lever.records.journal import Journal
from zesty_lever.records.people import Person
from zesty_lever.records.store import Store


def erase_everywhere(
    store: Store,
    person: Person,
    day: int,
    folder: Path | None,
    memory: Path | None = None,
    tried_for_s: float = 10.0,
) -> list[str]:
    """Erase a person; what lies out of reach, in words. Raises `CaseError`, `OSError`.

    ``folder`` is the user's data folder (None: there is none), ``memory`` what the window remembers between runs.
    """
    journal = None if folder is None else Journal(folder / "running.jsonl")
    beyond = erase(store, person.id, day, journal, tried_for_s)
    if folder is not None:
        forget_in_benches(folder, person)
        _measurements(folder / "measurements", person.name)
    if memory is not None and memory.exists():
        _forget_recent(memory, person.name)
    return beyond


def forget_in_benches(folder: Path, person: Person) -> None:
    """Take a person out of every bench file of a data folder."""
    for bench in _benches(folder):
        forget_in_bench(bench, person)


def _benches(folder: Path) -> list[Path]:
    """The bench, its backups and what was put aside of it."""
    own = folder / "bench.json"
    asides = list(folder.glob("bench.*.json"))
    return [path for path in (own, *backups_of(own), *asides) if path.exists()]


def forget_in_bench(path: Path, person: Person) -> None:
    """Take a person out of a bench file; one that can't be read as one is deleted: it might name them."""
    try:
        data = json.loads(path.read_text(encoding="utf-8"))
        athletes = data["athletes"]
        ids = list(data.get("athlete_ids", []))
        gone = [i for i, a in enumerate(athletes) if _is(a, ids[i] if i < len(ids) else "", person)]
    except (OSError, ValueError, KeyError, TypeError):
        path.unlink(missing_ok=True)
        return
    if not gone:
        return
    kept = [a for i, a in enumerate(athletes) if i not in gone]
    if not kept:
        kept = [{"name": "New athlete", "height_m": 1.75, "mass_kg": 75.0, "sex": "male"}]
        data["lineup"] = []
    places = {old: new for new, old in enumerate(i for i in range(len(athletes)) if i not in gone)}
    lineup = [_moved(e, places) for e in data.get("lineup", []) if e.get("athlete") not in gone]
    data |= {"athletes": kept, "current": places.get(data.get("current", 0), 0), "lineup": lineup}
    if ids:
        data["athlete_ids"] = [own for i, own in enumerate(ids) if i not in gone]
    with replacing(path) as file:
        write_json(data, file, indent=1)


def _is(athlete: dict[str, Any], own: str, person: Person) -> bool:
    return own == str(person.id) or (not own and athlete.get("name") == person.name)


def _moved(entry: dict[str, Any], places: dict[int, int]) -> dict[str, Any]:
    if entry.get("athlete") is None:
        return entry
    return {**entry, "athlete": places[entry["athlete"]]}


def _measurements(folder: Path, name: str) -> None:
    """Measurements whose marks name the person."""
    if not folder.is_dir():
        return
    for own in folder.iterdir():
        try:
            marks = json.loads((own / "marks.json").read_text(encoding="utf-8"))
            named = marks["athlete"].get("name")
        except (OSError, ValueError, KeyError, AttributeError, TypeError):
            continue
        if named == name:
            shutil.rmtree(own)


def _forget_recent(memory: Path, name: str) -> None:
    """Recent files whose name holds the person's."""
    try:
        data = json.loads(memory.read_text(encoding="utf-8"))
        recent = data["recent"]
    except (OSError, ValueError, KeyError, TypeError):
        return
    data["recent"] = [text for text in recent if name.lower() not in str(text).lower()]
    with replacing(memory) as file:
        write_json(data, file)
