"""The bench file: athletes and the two set-ups on the bench, as open JSON."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any, Literal

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from zesty_lever.case import Athlete, Case, CaseError, School
from zesty_lever.exercises.catalogue import fill
from zesty_lever.records.files import parse_json, replacing, write_json

BENCH_FORMAT = "zesty-lever-bench/1"
NEWEST_VERSION = 1


class Setup(BaseModel):
    """One variation set up one way, without the athlete. Only what was chosen is kept."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    variation: str
    school: School = "even"
    settings: dict[str, float | None] = Field(default_factory=dict)
    load_kg: float | None = None

    def case_for(self, athlete: Athlete) -> Case:
        """Return this set-up as a case of an athlete."""
        return Case(
            format="zesty-lever-case/1",
            athlete=athlete,
            variation=self.variation,
            school=self.school,
            settings=dict(self.settings),
            load_kg=self.load_kg,
        )


class Bench(BaseModel):
    """Everything that stands on the bench. Immutable: every change makes a new one."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    format: Literal["zesty-lever-bench/1"] = "zesty-lever-bench/1"
    athletes: tuple[Athlete, ...] = Field(min_length=1)
    current: int = Field(default=0, ge=0)
    setups: tuple[Setup, Setup]
    editing: int = Field(default=0, ge=0, le=1)

    @property
    def athlete(self) -> Athlete:
        """The athlete on the bench."""
        return self.athletes[self.current]

    def case(self, slot: int) -> Case:
        """The case of one of the two set-ups."""
        return self.setups[slot].case_for(self.athlete)

    def with_athlete(self, athlete: Athlete) -> Bench:
        """Replace the current athlete."""
        athletes = list(self.athletes)
        athletes[self.current] = athlete
        return self.model_copy(update={"athletes": tuple(athletes)})

    def with_setup(self, slot: int, setup: Setup) -> Bench:
        """Replace one set-up."""
        setups = (setup, self.setups[1]) if slot == 0 else (self.setups[0], setup)
        return self.model_copy(update={"setups": setups})


def first_bench() -> Bench:
    """What a new user sees: an athlete to be filled in and a comparison already laid out."""
    return Bench(
        athletes=(Athlete(name="New athlete", height_m=1.75, mass_kg=75.0, sex="male"),),
        setups=(Setup(variation="back-squat-high-bar"), Setup(variation="front-squat")),
    )


def read_bench(path: Path) -> Bench:
    """Read a bench file. Raises `CaseError` naming what is wrong, `OSError` if unreadable."""
    data = parse_json(path.read_text(encoding="utf-8"), path.name)
    return bench_from_json(data, path.name)


def bench_from_json(data: Any, where: str) -> Bench:
    """Check JSON data against the model, the catalogue and each athlete."""
    if isinstance(data, dict):
        _refuse_newer(str(data.get("format")), where)
    try:
        # Through JSON text: the models are strict and JSON knows lists only.
        bench = Bench.model_validate_json(json.dumps(data))
    except ValidationError as error:
        problem = error.errors(include_url=False)[0]
        key = ".".join(str(part) for part in problem["loc"])
        raise CaseError("wrong-value", f"{where}: {key}: {problem['msg']}", key=key) from None
    if bench.current >= len(bench.athletes):
        raise CaseError(
            "out-of-range", f"{where}: current is {bench.current}; there are "
            f"{len(bench.athletes)} athletes", key="current", value=bench.current,
            allowed=[0, len(bench.athletes) - 1],
        )  # fmt: skip
    for slot in (0, 1):
        fill(bench.case(slot))
    return bench


def _refuse_newer(written: str, where: str) -> None:
    name, _, version = written.rpartition("/")
    if name == BENCH_FORMAT.rpartition("/")[0] and version.isdigit() and int(version) > NEWEST_VERSION:
        raise CaseError(
            "newer-version",
            f"{where} was written by a newer version ({written}); this one reads {BENCH_FORMAT}",
            key="format", value=written, allowed=[BENCH_FORMAT],
        )  # fmt: skip


def write_bench(bench: Bench, path: Path) -> None:
    """Write a bench file, whole or not at all."""
    data = bench.model_dump(mode="json", exclude={"athletes"})
    data["athletes"] = [a.model_dump(mode="json", exclude_none=True) for a in bench.athletes]
    with replacing(path) as file:
        write_json(data, file, indent=1)
