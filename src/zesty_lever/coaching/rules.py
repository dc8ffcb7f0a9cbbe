"""What is said about each finding: data/coaching/findings.toml, read and checked."""

from __future__ import annotations

import tomllib
from collections.abc import Mapping
from functools import cache
from typing import Any, Literal

import msgspec

from zesty_lever.cases.model import School
from zesty_lever.models import Model, read
from zesty_lever.tables import data_path

Severity = Literal["note", "flag"]


class Reading(Model, frozen=True, kw_only=True):
    """Words of a finding; empty ones are the rule's own."""

    text: str = ""
    cue: str = ""
    drill: str = ""


class Rule(Model, frozen=True, kw_only=True):
    """One finding: its unit, from what size on it is told, how severe, and its words.

    ``counts_from_default``: its size is what it has beyond the school's own default for this athlete.
    ``severity`` is one word, or one for each school that tells it at all. ``readings`` are other words
    for what its measure tells apart. ``bends_knee_inward``: what its cue does shows at the knee's own
    floating axis.
    """

    unit: str
    severity: Severity | dict[School, Severity]
    over: float = 0.0
    text: str = ""
    cue: str = ""
    drill: str = ""
    disputed: str = ""
    counts_from_default: bool = False
    bends_knee_inward: bool = False
    readings: dict[str, Reading] = msgspec.field(default_factory=dict)

    def severity_for(self, school: School) -> Severity | None:
        """How severe it is for a school; None where the school does not tell it."""
        return self.severity.get(school) if isinstance(self.severity, dict) else self.severity

    def words(self, reading: str, places: Mapping[str, Any]) -> tuple[str, str, str]:
        """Text, cue and drill with their places filled; raises `KeyError` for a place without a word."""
        other = self.readings[reading] if reading else Reading()
        text, cue, drill = (
            (getattr(other, part) or getattr(self, part)).format_map(places)
            for part in ("text", "cue", "drill")
        )
        return text, cue, drill


@cache
def rules() -> dict[str, Rule]:
    """Every rule by its code, in the order in which they are told; raises `CaseError` for a bad file."""
    file = data_path("coaching", "findings.toml")
    tables = tomllib.loads(file.read_text(encoding="utf-8"))
    return {
        code: read(Rule, _with_readings(table), f"{file.name}.{code}")
        for code, table in tables.items()
    }


def _with_readings(table: Mapping[str, Any]) -> dict[str, Any]:
    """A table with the tables below it as its readings."""
    below = {k: v for k, v in table.items() if isinstance(v, dict) and k != "severity"}
    return {**{k: v for k, v in table.items() if k not in below}, "readings": below}
