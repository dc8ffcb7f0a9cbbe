"""Files of the bench: the bench itself with its backups, a line-up, an athlete; open JSON."""

from __future__ import annotations

import os
import re
import shutil
from pathlib import Path
from typing import Annotated, Any, Literal, Self

import msgspec

from zesty_lever import clock
from zesty_lever.bench.model import BENCH_FORMAT, MOST_IN_LINEUP, MOST_NOTE, Bench, Entry
from zesty_lever.cases.model import Athlete, Case, Setup
from zesty_lever.cases.parse import athlete_from, case_from, parse_json
from zesty_lever.cases.resolve import resolve
from zesty_lever.choosing.loading import MATCHES
from zesty_lever.coaching.numbers import rules_with
from zesty_lever.exercises.catalogue import variation
from zesty_lever.frozen import dataclass
from zesty_lever.io.json_files import read_bounded, read_case, replacing, write_json
from zesty_lever.models import Model, at_most, field_names, read
from zesty_lever.problems import CaseError

ATHLETE_FORMAT = "zesty-lever-athlete/1"
LINEUP_FORMAT = "zesty-lever-lineup/1"
NEWEST_VERSION = 1
BACKUPS = 5
BACKUP_EVERY_S = 600.0
MOST_BYTES = 20_000_000
# Other keys of a bench file are only written where they differ from the usual.
ALWAYS_WRITTEN = ("format", "athletes", "current", "setups", "editing")


def read_bench(path: Path) -> Bench:
    """Read a bench file. Raises `CaseError` naming what is wrong, `OSError` if unreadable."""
    data = parse_json(read_bounded(path, "a bench", MOST_BYTES), path.name)
    return bench_from_json(data, path.name)


def read_newer_bench(path: Path) -> Bench:
    """Read what this version knows of a newer version's file, which must then not be written over."""
    known = _known_part(parse_json(read_bounded(path, "a bench", MOST_BYTES), path.name), Bench)
    known["format"] = BENCH_FORMAT
    known["athletes"] = [_known_part(a, Athlete) for a in known.get("athletes", [])]
    for key, model in (("setups", Setup), ("lineup", Entry)):
        known[key] = [_known_part(s, model) for s in known.get(key, [])]
    return bench_from_json(known, path.name)


def _known_part(data: Any, model: type[Model]) -> dict[str, Any]:
    if not isinstance(data, dict):
        return {}
    return {key: value for key, value in data.items() if key in field_names(model)}


def bench_from_json(data: Any, where: str) -> Bench:
    """Check JSON data against the model, the catalogue and each athlete."""
    if isinstance(data, dict):
        _refuse_newer(str(data.get("format")), where)
    try:
        bench = read(Bench, data)
        _check_indices(bench)
        _ = bench.rules, bench.sizes, bench.gym
        # The usual rules are read for nothing else at the start.
        _ = rules_with(bench.advice_rules) if bench.advice_rules else None
        _ = variation(bench.reference_lift)
        cases = [bench.case(slot) for slot in (0, 1)]
        for case in (*cases, *(bench.entry_case(e) for e in bench.lineup)):
            resolve(case)
    except CaseError as error:
        raise CaseError(
            error.code,
            f"{where}: {error.text}",
            key=error.key,
            value=error.problem.value,
            unit=error.problem.unit,
            allowed=error.problem.allowed,
        ) from None
    return bench


def _check_indices(bench: Bench) -> None:
    """Every athlete that is named is there."""
    count = len(bench.athletes)
    named = [("current", bench.current)]
    named += [("lineup", e.athlete) for e in bench.lineup if e.athlete is not None]
    for key, index in named:
        if index >= count:
            raise CaseError(
                "out-of-range",
                f"{key} names athlete {index}; there are {count}, counted from 0",
                key=key,
                value=index,
                allowed=[0, count - 1],
            )


def _refuse_newer(written: str, where: str) -> None:
    name, _, version = written.rpartition("/")
    newer = version.isdigit() and len(version) < 9 and int(version) > NEWEST_VERSION
    if name == BENCH_FORMAT.rpartition("/")[0] and newer:
        raise CaseError(
            "newer-version",
            f"{where} was written by a newer version ({written}); this one reads {BENCH_FORMAT}",
            key="format",
            value=written,
            allowed=[BENCH_FORMAT],
        )


def write_bench(bench: Bench, path: Path) -> None:
    """Write a bench file, whole or not at all."""
    data: dict[str, Any] = msgspec.to_builtins(bench)
    plain = msgspec.to_builtins(Entry(variation="x"))
    for key in ("setups", "lineup"):
        data[key] = [
            {
                k: v
                for k, v in s.items()
                if k in ("variation", "school", "settings") or v != plain[k]
            }
            for s in data[key]
        ]
    usual = msgspec.to_builtins(Bench(athletes=bench.athletes, setups=bench.setups))
    data = {k: v for k, v in data.items() if k in ALWAYS_WRITTEN or v != usual[k]}
    data["athletes"] = [athlete.as_json() for athlete in bench.athletes]
    with replacing(path) as file:
        write_json(data, file, indent=1)


def backups_of(path: Path) -> list[Path]:
    """Backups of a bench file, newest first: by their number, which no clock turns back."""
    found = (path.parent / "backups").glob(f"{path.stem}-*.json")
    return sorted(found, key=lambda file: (_number_of(file, path.stem), file.name), reverse=True)


def _number_of(backup: Path, stem: str) -> int:
    """A backup's number; 0 for one of a version that had none."""
    found = re.fullmatch(r"n(\d{1,9})", backup.stem.removeprefix(f"{stem}-").partition("-")[0])
    return int(found[1]) if found else 0


def keep_backup(path: Path, now_s: float | None = None) -> None:
    """Set the file as it stands aside, at most every ten minutes, and keep the five newest."""
    if not path.exists():
        return
    now = clock.now_s() if now_s is None else now_s
    kept = backups_of(path)
    # A clock that has been turned back must not stop backups.
    if kept and 0.0 <= now - kept[0].stat().st_mtime < BACKUP_EVERY_S:
        return
    folder = path.parent / "backups"
    folder.mkdir(exist_ok=True)
    number = _number_of(kept[0], path.stem) + 1 if kept else 1
    stamp = clock.local("%Y%m%d-%H%M%S", now)
    made = folder / f"{path.stem}-n{number:06d}-{stamp}.json"
    shutil.copyfile(path, made)
    os.utime(made, (now, now))
    for old in backups_of(path)[BACKUPS:]:
        old.unlink()


@dataclass(frozen=True)
class OnDisk:
    """What a bench file was when it was last read or written: changed by nobody else since."""

    size: int
    changed_ns: int
    inode: int

    @classmethod
    def of(cls, path: Path) -> Self | None:
        """The file as it is now, None where there is none."""
        try:
            found = path.stat()
        except OSError:
            return None
        return cls(found.st_size, found.st_mtime_ns, found.st_ino)


def put_aside(path: Path, word: str) -> Path:
    """Copy a file that is about to be replaced to a name of its own beside it, and return that."""
    number = 1
    while (aside := path.with_name(f"{path.stem}.{word}{number}.json")).exists():
        number += 1
    shutil.copy2(path, aside)
    return aside


class LineupEntry(Model, frozen=True, kw_only=True):
    """One entry of a line-up file."""

    case: Any
    note: Annotated[str, at_most(MOST_NOTE)] = ""
    pinned: bool = False


class LineupFile(Model, frozen=True, kw_only=True):
    """A line-up file: cases in order, notes, pins, and how loads are matched."""

    format: Literal["zesty-lever-lineup/1"]
    match: str | None = None
    entries: Annotated[tuple[LineupEntry, ...], at_most(MOST_IN_LINEUP)]


def write_lineup(bench: Bench, path: Path) -> None:
    """Write the line-up as a file of its own."""
    entries = [
        {
            "case": bench.entry_case(e).as_json(),
            "note": e.note,
            **({"pinned": True} if e.pinned else {}),
        }
        for e in bench.lineup
    ]
    data = {"format": LINEUP_FORMAT, "match": bench.lineup_match, "entries": entries}
    with replacing(path) as file:
        write_json(data, file, indent=1)


def read_lineup(bench: Bench, path: Path) -> Bench:
    """The bench with the line-up of a file; its athletes are added where they are not known yet.

    Raises `CaseError` for anything wrong with it, `OSError` if it can't be read.
    """
    data = parse_json(read_bounded(path, "a line-up"), path.name)
    if not isinstance(data, dict) or data.get("format") != LINEUP_FORMAT:
        raise CaseError(
            "wrong-format",
            f"{path.name} is no line-up; its format should be {LINEUP_FORMAT}",
            key="format",
            allowed=[LINEUP_FORMAT],
        )
    whole = read(LineupFile, data)
    if whole.match not in {None, *MATCHES}:
        raise CaseError(
            "wrong-value",
            f"{path.name}: match is {whole.match}; known are {', '.join(MATCHES)}",
            key="match",
            value=whole.match,
            allowed=list(MATCHES),
        )
    athletes, entries = list(bench.athletes), []
    for number, item in enumerate(whole.entries):
        case = case_from(item.case, f"entries.{number}.case")
        resolve(case)
        if case.athlete not in athletes:
            athletes.append(case.athlete)
        index = athletes.index(case.athlete)
        chosen = case.setup.as_dict()
        entries.append(Entry(**chosen, athlete=index, note=item.note, pinned=item.pinned))
    return bench.changed(athletes=tuple(athletes), lineup=tuple(entries), lineup_match=whole.match)


def write_athlete(athlete: Athlete, path: Path) -> None:
    """Write one athlete as a file of its own."""
    with replacing(path) as file:
        write_json({"format": ATHLETE_FORMAT, "athlete": athlete.as_json()}, file, indent=1)


def read_any(path: Path) -> Athlete | Case:
    """Read an athlete file or a case file. Raises `CaseError` for anything else."""
    data = parse_json(read_bounded(path, "an athlete or a case"), path.name)
    if isinstance(data, dict) and data.get("format") == ATHLETE_FORMAT:
        return athlete_from(data.get("athlete"))
    case = read_case(path)
    resolve(case)
    return case


def read_into(bench: Bench, path: Path) -> Bench | Athlete | Case:
    """Read an athlete, a case, or a line-up (then the bench with it). Raises `CaseError`, `OSError`."""
    data = parse_json(read_bounded(path, "a case, an athlete or a line-up"), path.name)
    if isinstance(data, dict) and data.get("format") == LINEUP_FORMAT:
        return read_lineup(bench, path)
    return read_any(path)
