"""The bench file: athletes and the two set-ups on the bench, as open JSON, with its backups."""

from __future__ import annotations

import json
import shutil
import time
from dataclasses import replace
from pathlib import Path
from typing import Any, Literal

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from zesty_lever.anchors import Anchor
from zesty_lever.case import Athlete, Case, CaseError, School, athlete_json, parse_case
from zesty_lever.compare import MATCHES, USUAL, TypicalRules
from zesty_lever.exercises.catalogue import fill, variation
from zesty_lever.gym import Gym, usual_gym
from zesty_lever.loads import ANCHOR_REACH_M, AnyLoad
from zesty_lever.records.files import parse_json, replacing, write_json
from zesty_lever.uncertainty import Errors

BENCH_FORMAT = "zesty-lever-bench/1"
ATHLETE_FORMAT = "zesty-lever-athlete/1"
LINEUP_FORMAT = "zesty-lever-lineup/1"
NEWEST_VERSION = 1
MOST_IN_LINEUP, MOST_NOTE = 6, 120
BACKUPS = 5
BACKUP_EVERY_S = 600.0
# What a set-up shares with a case, besides athlete and variation.
CHOICES = ("load_kg", "load_up_kg", "loads", "tempo_s", "travel", "style", "mode", "contact_rule")


class Setup(BaseModel):
    """One variation set up one way, without the athlete. Only what was chosen is kept."""

    model_config = ConfigDict(extra="forbid", frozen=True, defer_build=True)

    variation: str
    school: School = "even"
    settings: dict[str, float | None] = Field(default_factory=dict)
    load_kg: float | None = None
    load_up_kg: float | None = None
    loads: tuple[AnyLoad, ...] = ()
    tempo_s: tuple[float, float, float, float] = (2.0, 0.0, 1.0, 0.0)
    travel: tuple[float, float] = (0.0, 1.0)
    style: Literal["full", "one-and-a-quarter"] = "full"
    mode: Literal["static", "dynamic"] = "static"
    contact_rule: Literal["least-effort", "vertical"] | None = None

    def case_for(self, athlete: Athlete) -> Case:
        """Return this set-up as a case of an athlete."""
        return Case(
            format="zesty-lever-case/1",
            athlete=athlete,
            variation=self.variation,
            school=self.school,
            settings=dict(self.settings),
            **{key: getattr(self, key) for key in CHOICES},
        )


def setup_of(case: Case) -> Setup:
    """A case's set-up, without its athlete."""
    chosen = {key: getattr(case, key) for key in CHOICES}
    return Setup(
        variation=case.variation, school=case.school, settings=dict(case.settings), **chosen
    )


class Entry(Setup):
    """A set-up in the line-up: of which athlete (None: whoever is on the bench), with a note."""

    athlete: int | None = Field(default=None, ge=0)
    note: str = Field(default="", max_length=MOST_NOTE)
    pinned: bool = False


class Bench(BaseModel):
    """Everything that stands on the bench. Immutable: every change makes a new one."""

    model_config = ConfigDict(extra="forbid", frozen=True, defer_build=True)

    format: Literal["zesty-lever-bench/1"] = "zesty-lever-bench/1"
    athletes: tuple[Athlete, ...] = Field(min_length=1)
    current: int = Field(default=0, ge=0)
    setups: tuple[Setup, Setup]
    editing: int = Field(default=0, ge=0, le=1)
    lineup: tuple[Entry, ...] = Field(default=(), max_length=MOST_IN_LINEUP)
    lineup_match: str | None = None
    errors: dict[Literal["angle_deg", "offset_m", "length", "mass", "pressure"], float] = Field(
        default_factory=dict
    )
    # Typical loads by rule of thumb, where they differ from the usual; repetitions a set.
    working_share: float = USUAL.working
    lift_shares: dict[str, float] = Field(default_factory=dict)
    reps_a_set: int = Field(default=8, ge=1, le=50)
    # What the gym has, where it differs from a small one: bars by name, pairs of discs by mass (kg), the bar in use.
    gym_bars: tuple[str, ...] | None = None
    gym_pairs: dict[float, int] | None = None
    gym_bar: str = ""

    @property
    def rules(self) -> TypicalRules:
        """Rules of thumb for typical loads."""
        return TypicalRules(self.working_share, self.lift_shares)

    @property
    def gym(self) -> Gym:
        """What bars and discs are at hand."""
        usual = usual_gym()
        return Gym(
            usual.bars if self.gym_bars is None else self.gym_bars,
            usual.pairs if self.gym_pairs is None else self.gym_pairs,
            self.gym_bar,
        )

    @property
    def sizes(self) -> Errors:
        """Errors of measuring that intervals rest on."""
        known: dict[str, Any] = {str(k): v for k, v in self.errors.items()}
        return replace(Errors(), **known)

    @property
    def athlete(self) -> Athlete:
        """The athlete on the bench."""
        return self.athletes[self.current]

    def case(self, slot: int) -> Case:
        """The case of one of the two set-ups."""
        return self.setups[slot].case_for(self.athlete)

    def entry_case(self, entry: Entry) -> Case:
        """The case of one entry of the line-up."""
        whose = self.athlete if entry.athlete is None else self.athletes[entry.athlete]
        return entry.case_for(whose)

    def with_athlete(self, athlete: Athlete) -> Bench:
        """Replace the current athlete."""
        athletes = list(self.athletes)
        athletes[self.current] = athlete
        return self.model_copy(update={"athletes": tuple(athletes)})

    def with_setup(self, slot: int, setup: Setup) -> Bench:
        """Replace one set-up."""
        setups = (setup, self.setups[1]) if slot == 0 else (self.setups[0], setup)
        return self.model_copy(update={"setups": setups})


def with_anchor(bench: Bench, slot: int, anchor: Anchor, ahead_m: float, up_m: float) -> Bench:
    """The bench with an anchor of one set-up moved in the side view, held to what it can take."""
    setup = bench.setups[slot]
    if anchor.load is None:
        known, settings = variation(setup.variation).settings, dict(setup.settings)
        for key, value in (("anchor_behind_m", -ahead_m), ("anchor_height_m", up_m)):
            if key in anchor.keys:
                settings[key] = min(max(value, known[key].low), known[key].high)
        return bench.with_setup(slot, setup.model_copy(update={"settings": settings}))
    loads = list(setup.loads)
    place = (
        min(max(ahead_m, -ANCHOR_REACH_M), ANCHOR_REACH_M),
        min(max(up_m, 0.0), ANCHOR_REACH_M),
        anchor.place[2],
    )
    loads[anchor.load] = loads[anchor.load].model_copy(update={"end": place})
    return bench.with_setup(slot, setup.model_copy(update={"loads": tuple(loads)}))


def read_by(bench: Bench, school: School) -> Bench:
    """Both set-ups exactly as they stand, read by another school: what was its default becomes given."""
    setups = tuple(
        s.model_copy(update={"school": school, "settings": dict(fill(bench.case(slot)).settings)})
        for slot, s in enumerate(bench.setups)
    )
    return bench.model_copy(update={"setups": setups})


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


def read_newer_bench(path: Path) -> Bench:
    """Read what this version knows of a newer version's file, which must then not be written over."""
    data = parse_json(path.read_text(encoding="utf-8"), path.name)
    known = _known_part(data, Bench)
    known["format"] = BENCH_FORMAT
    known["athletes"] = [_known_part(a, Athlete) for a in known.get("athletes", [])]
    for key in ("setups", "lineup"):
        known[key] = [
            _known_part(s, Entry if key == "lineup" else Setup) for s in known.get(key, [])
        ]
    return bench_from_json(known, path.name)


def _known_part(data: Any, model: type[BaseModel]) -> dict[str, Any]:
    if not isinstance(data, dict):
        return {}
    return {key: value for key, value in data.items() if key in model.model_fields}


def bench_from_json(data: Any, where: str) -> Bench:
    """Check JSON data against the model, the catalogue and each athlete."""
    if isinstance(data, dict):
        _refuse_newer(str(data.get("format")), where)
    try:
        # Through JSON text: the models are strict and JSON knows lists only.
        bench = Bench.model_validate_json(json.dumps(data))
    except ValidationError as error:
        raise _wrong(error, where) from None
    if bench.current >= len(bench.athletes):
        raise CaseError(
            "out-of-range",
            f"{where}: current is {bench.current}; there are {len(bench.athletes)} athletes",
            key="current",
            value=bench.current,
            allowed=[0, len(bench.athletes) - 1],
        )
    gone = [
        e.athlete
        for e in bench.lineup
        if e.athlete is not None and e.athlete >= len(bench.athletes)
    ]
    if gone:
        raise CaseError(
            "out-of-range",
            f"{where}: lineup names athlete {gone[0]}; there are {len(bench.athletes)}",
            key="lineup",
            value=gone[0],
            allowed=[0, len(bench.athletes) - 1],
        )
    try:
        _ = bench.rules, bench.sizes, bench.gym
    except CaseError as error:
        raise CaseError(error.code, f"{where}: {error.text}", key=error.key) from None
    for case in (
        *(bench.case(slot) for slot in (0, 1)),
        *(bench.entry_case(e) for e in bench.lineup),
    ):
        fill(case)
    return bench


def _refuse_newer(written: str, where: str) -> None:
    name, _, version = written.rpartition("/")
    if (
        name == BENCH_FORMAT.rpartition("/")[0]
        and version.isdigit()
        and int(version) > NEWEST_VERSION
    ):
        raise CaseError(
            "newer-version",
            f"{where} was written by a newer version ({written}); this one reads {BENCH_FORMAT}",
            key="format",
            value=written,
            allowed=[BENCH_FORMAT],
        )


def write_bench(bench: Bench, path: Path) -> None:
    """Write a bench file, whole or not at all."""
    data = bench.model_dump(mode="json", exclude={"athletes"})
    plain = Entry(variation="x").model_dump(mode="json")
    for key in ("setups", "lineup"):
        data[key] = [
            {
                k: v
                for k, v in s.items()
                if k in ("variation", "school", "settings") or v != plain[k]
            }
            for s in data[key]
        ]
    usual = {
        k: Bench.model_fields[k].get_default(call_default_factory=True)
        for k in (
            "lineup_match",
            "errors",
            "working_share",
            "lift_shares",
            "reps_a_set",
            "gym_bars",
            "gym_pairs",
            "gym_bar",
        )
    }
    data = {k: v for k, v in data.items() if k not in usual or v != usual[k]}
    if not data["lineup"]:
        del data["lineup"]
    data["athletes"] = [athlete_json(a) for a in bench.athletes]
    with replacing(path) as file:
        write_json(data, file, indent=1)


def backups_of(path: Path) -> list[Path]:
    """Backups of a bench file, newest first."""
    found = (path.parent / "backups").glob(f"{path.stem}-*.json")
    return sorted(found, reverse=True)


def keep_backup(path: Path, now_s: float | None = None) -> None:
    """Set the file as it stands aside, at most every ten minutes, and keep the five newest."""
    if not path.exists():
        return
    now = time.time() if now_s is None else now_s
    kept = backups_of(path)
    if kept and now - kept[0].stat().st_mtime < BACKUP_EVERY_S:
        return
    folder = path.parent / "backups"
    folder.mkdir(exist_ok=True)
    stamp = time.strftime("%Y%m%d-%H%M%S", time.localtime(now))
    shutil.copy2(path, folder / f"{path.stem}-{stamp}.json")
    for old in backups_of(path)[BACKUPS:]:
        old.unlink()


def write_lineup(bench: Bench, path: Path) -> None:
    """Write the line-up as a file of its own: cases in order, notes, pins, and how loads are matched."""
    entries = [
        {
            "case": bench.entry_case(e).as_json(),
            "note": e.note,
            **({"pinned": True} if e.pinned else {}),
        }
        for e in bench.lineup
    ]
    with replacing(path) as file:
        write_json(
            {"format": LINEUP_FORMAT, "match": bench.lineup_match, "entries": entries},
            file,
            indent=1,
        )


class _LineupEntry(BaseModel):
    """One entry of a line-up file."""

    model_config = ConfigDict(extra="forbid", defer_build=True)

    case: dict[str, Any]
    note: str = Field(default="", max_length=MOST_NOTE)
    pinned: bool = False


class _LineupFile(BaseModel):
    """A line-up file."""

    model_config = ConfigDict(extra="forbid", defer_build=True)

    format: Literal["zesty-lever-lineup/1"]
    match: str | None = None
    entries: list[_LineupEntry] = Field(max_length=MOST_IN_LINEUP)


def read_lineup(bench: Bench, path: Path) -> Bench:
    """The bench with the line-up of a file; its athletes are added where they are not known yet.

    Raises `CaseError` for anything wrong with it, `OSError` if it can't be read.
    """
    data = parse_json(path.read_text(encoding="utf-8-sig"), path.name)
    if not isinstance(data, dict) or data.get("format") != LINEUP_FORMAT:
        raise CaseError(
            "wrong-format",
            f"{path.name} is no line-up; its format should be {LINEUP_FORMAT}",
            key="format",
            allowed=[LINEUP_FORMAT],
        )
    try:
        whole = _LineupFile.model_validate(data)
    except ValidationError as error:
        raise _wrong(error, path.name) from None
    if whole.match not in {None, *MATCHES}:
        raise CaseError(
            "wrong-value",
            f"{path.name}: match is {whole.match}; known are {', '.join(MATCHES)}",
            key="match",
            value=whole.match,
            allowed=list(MATCHES),
        )
    athletes, entries = list(bench.athletes), []
    for item in whole.entries:
        case = parse_case(item.case)
        fill(case)
        if case.athlete not in athletes:
            athletes.append(case.athlete)
        entries.append(
            Entry(
                **setup_of(case).model_dump(),
                athlete=athletes.index(case.athlete),
                note=item.note,
                pinned=item.pinned,
            )
        )
    update = {"athletes": tuple(athletes), "lineup": tuple(entries), "lineup_match": whole.match}
    return bench.model_copy(update=update)


def _wrong(error: ValidationError, where: str) -> CaseError:
    """What is wrong with a file first, in words."""
    problem = error.errors(include_url=False)[0]
    key = ".".join(str(part) for part in problem["loc"])
    return CaseError("wrong-value", f"{where}: {key}: {problem['msg']}", key=key)


def write_athlete(athlete: Athlete, path: Path) -> None:
    """Write one athlete as a file of its own."""
    with replacing(path) as file:
        write_json({"format": ATHLETE_FORMAT, "athlete": athlete_json(athlete)}, file, indent=1)


def read_any(path: Path) -> Athlete | Case:
    """Read an athlete file or a case file. Raises `CaseError` for anything else."""
    from zesty_lever.case import parse_athlete
    from zesty_lever.records.files import read_case

    data = parse_json(path.read_text(encoding="utf-8-sig"), path.name)
    if isinstance(data, dict) and data.get("format") == ATHLETE_FORMAT:
        return parse_athlete(data.get("athlete"))
    case = read_case(path)
    fill(case)
    return case
