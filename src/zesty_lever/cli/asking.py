"""The commands that only tell: the catalogue, room to move, JSON Schemas."""

from __future__ import annotations

import argparse
import json
import sys
from dataclasses import asdict
from typing import Any

import msgspec

from zesty_lever.cases.model import SCHOOLS, Athlete, Case
from zesty_lever.cases.resolve import technique_of
from zesty_lever.cli.console import OK
from zesty_lever.exercises.catalogue import Variation, catalogue
from zesty_lever.io.json_files import read_case, write_json


def run_list(arguments: argparse.Namespace) -> int:
    """Print the catalogue."""
    average = Athlete(height_m=1.75, mass_kg=75.0, sex="male")
    entries = list(catalogue().values())
    if arguments.json:
        json.dump([_entry(e, average) for e in entries], sys.stdout, indent=1, ensure_ascii=False)
        print()
        return OK
    for entry in entries:
        low, high = entry.load_range_kg()
        defaults = technique_of(entry, average, "even")
        print(f"{entry.id}  [{entry.family}]  {entry.name} ({entry.gym})")
        load = entry.default_load_kg()
        print(f"    {'load_kg':<18} default {load:g}, range {low:g} to {high:g} kg")
        for s in entry.settings.values():
            value = defaults[s.key]
            default = "solved by balance" if value is None else f"{value:g}"
            print(
                f"    {s.key:<18} default {default}, range {s.low:g} to {s.high:g} {s.unit}".rstrip()
            )
    print("Defaults are for a height of 1.75 m and the school 'even'.")
    return OK


def _entry(entry: Variation, athlete: Athlete) -> dict[str, Any]:
    """One catalogue entry as JSON data, its defaults for one athlete."""
    defaults = {school: technique_of(entry, athlete, school) for school in SCHOOLS}
    settings = [
        {
            "key": s.key,
            "name": s.name,
            "gym": s.gym,
            "unit": s.unit,
            "default": defaults["even"][s.key],
            "default_by_school": {school: defaults[school][s.key] for school in SCHOOLS},
            "range": [s.low, s.high],
            "help": s.help,
        }
        for s in entry.settings.values()
    ]
    return {
        "id": entry.id,
        "family": entry.family,
        "name": entry.name,
        "gym": entry.gym,
        "equipment": list(entry.equipment),
        "limited_by": entry.limited_by,
        "skill": entry.skill,
        "direction": entry.direction,
        "load_kg": {"default": entry.default_load_kg(), "range": list(entry.load_range_kg())},
        "settings": settings,
    }


def run_room(arguments: argparse.Namespace) -> int:
    """Print the room to move of one case."""
    from zesty_lever.choosing.reach import room

    write_json(asdict(room(read_case(arguments.case))), sys.stdout, indent=1)
    return OK


def run_explain(arguments: argparse.Namespace) -> int:
    """Print why the trunk of one case leans."""
    from zesty_lever.choosing.explain import explain

    write_json(asdict(explain(read_case(arguments.case), arguments.chest_up)), sys.stdout, indent=1)
    return OK


def run_schema(arguments: argparse.Namespace) -> int:
    """Print a JSON Schema."""
    from zesty_lever.io.documents import ResultDocument
    from zesty_lever.log.lines import EntryLine
    from zesty_lever.log.question import QuestionFile
    from zesty_lever.measure.marks import MarksFile
    from zesty_lever.plan.document import Plan

    models = {
        "case": Case,
        "result": ResultDocument,
        "marks": MarksFile,
        "plan": Plan,
        "log": EntryLine,
        "question": QuestionFile,
    }
    json.dump(msgspec.json.schema(models[arguments.which]), sys.stdout, indent=1)
    print()
    return OK
