"""The command line: parse, call, print."""

from __future__ import annotations

import argparse
import contextlib
import csv
import json
import sys
from collections.abc import Iterator, Sequence
from dataclasses import asdict, astuple, fields
from pathlib import Path
from typing import IO, TYPE_CHECKING, Any

from zesty_lever import __version__
from zesty_lever.case import SCHOOLS, Athlete, Case, CaseError

if TYPE_CHECKING:
    from zesty_lever.exercises.catalogue import Variation

OK, SOME_FAILED, USAGE = 0, 1, 2
COMPLAINTS_SHOWN = 8


def build_parser() -> argparse.ArgumentParser:
    """Parser for the window's own flags and the sub-commands."""
    parser = argparse.ArgumentParser(
        prog="zesty-lever", description="Joint-moment estimates for strength coaches."
    )
    parser.add_argument("--version", action="version", version=f"zesty-lever {__version__}")
    parser.add_argument("--demo", action="store_true", help="start with the demo data")
    parser.add_argument(
        "--exit-after-first-frame", action="store_true", help="close once painted (for timing)"
    )
    commands = parser.add_subparsers(dest="command")
    listing = commands.add_parser("list", help="the catalogue of variations")
    listing.add_argument("--json", action="store_true", help="as JSON")
    solve = commands.add_parser("solve", help="work out one case or a .jsonl of many")
    solve.add_argument("case", help="a .json file, a .jsonl file, or - for standard input")
    solve.add_argument("--out", type=Path, help="file for the result instead of standard output")
    solve.add_argument(
        "--resume",
        action="store_true",
        help="go on with a .jsonl that was interrupted (needs --out)",
    )
    comparing = commands.add_parser("compare", help="compare cases; the first is the baseline")
    comparing.add_argument("cases", nargs="+", type=Path, metavar="CASE")
    from zesty_lever.compare import MATCHES

    comparing.add_argument("--match", choices=MATCHES, help="how loads are matched")
    comparing.add_argument("--csv", type=Path, help="also write the table as CSV")
    roomy = commands.add_parser("room", help="room to move of one case, as JSON")
    roomy.add_argument("case", type=Path, metavar="CASE")
    from zesty_lever.cli_choose import add_commands, add_rules

    comparing.add_argument(
        "--judge",
        action="store_true",
        help="more columns: interval and judgement of each difference, and what measuring alone leaves",
    )
    comparing.add_argument(
        "--draws",
        type=int,
        default=2000,
        metavar="N",
        help="possible truths drawn for the intervals (0: none; default 2000)",
    )
    comparing.add_argument(
        "--error",
        action="append",
        default=[],
        metavar="NAME=SIZE",
        help="how well things are measured: angle_deg, offset_m, length, mass, pressure",
    )
    add_rules(comparing)
    add_commands(commands)
    schema = commands.add_parser("schema", help="print a JSON Schema")
    schema.add_argument("which", choices=("case", "result"))
    return parser


def run(arguments: argparse.Namespace) -> int:
    """Carry out one sub-command and return the exit status."""
    from zesty_lever.cli_choose import run_search, run_shortlist

    commands = {
        "shortlist": run_shortlist,
        "search": run_search,
        "list": _list,
        "solve": _solve,
        "compare": _compare,
        "schema": _schema,
        "room": _room,
    }
    try:
        return commands[arguments.command](arguments)
    except CaseError as error:
        _complain(error.text)
        return SOME_FAILED
    except BrokenPipeError:
        sys.stderr.close()
        return OK
    except OSError as error:
        _complain(f"{error.filename or 'file'}: {error.strerror}")
        return USAGE


def _complain(text: str) -> None:
    print("zesty-lever: " + " ".join(text.split()), file=sys.stderr)


def _list(arguments: argparse.Namespace) -> int:
    from zesty_lever.exercises.catalogue import catalogue

    average = Athlete(height_m=1.75, mass_kg=75.0, sex="male")
    entries = list(catalogue().values())
    if arguments.json:
        json.dump([_entry(e, average) for e in entries], sys.stdout, indent=1, ensure_ascii=False)
        print()
        return OK
    for entry in entries:
        low, high = entry.load_range_kg()
        defaults = entry.default_technique(average, "even")
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
    defaults = {school: entry.default_technique(athlete, school) for school in SCHOOLS}
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


def _room(arguments: argparse.Namespace) -> int:
    from zesty_lever.records.files import read_case, write_json
    from zesty_lever.room import room

    write_json(asdict(room(read_case(arguments.case))), sys.stdout, indent=1)
    return OK


def _schema(arguments: argparse.Namespace) -> int:
    from zesty_lever.records.documents import ResultDocument

    model = Case if arguments.which == "case" else ResultDocument
    json.dump(model.model_json_schema(), sys.stdout, indent=1)
    print()
    return OK


def _solve(arguments: argparse.Namespace) -> int:
    if arguments.out is not None and arguments.case != "-":
        source = Path(arguments.case)
        if arguments.out.exists() and source.exists() and arguments.out.samefile(source):
            _complain(f"--out {arguments.out} is the case file itself; nothing was written")
            return USAGE
    if arguments.resume:
        return _resume(arguments)
    if arguments.case == "-":
        return _solve_stream(sys.stdin.buffer, arguments.out, total=None)
    path = Path(arguments.case)
    if path.suffix == ".jsonl":
        with path.open("rb") as stream:
            return _solve_stream(stream, arguments.out, total=path.stat().st_size)
    return _solve_one(path, arguments.out)


def _solve_one(path: Path, out: Path | None) -> int:
    from zesty_lever.analysis import analyse
    from zesty_lever.records.documents import invalid_document, result_document
    from zesty_lever.records.files import read_case, write_json

    try:
        result = analyse(read_case(path), both_ends=True)
    except CaseError as error:
        _complain(error.text)
        if out is None:
            write_json(invalid_document(error).as_json(), sys.stdout, indent=1)
        return SOME_FAILED
    with _output(out) as file:
        write_json(result_document(result).as_json(), file, indent=1)
    if result.error:
        _complain(result.error.text)
    return OK if result.feasible else SOME_FAILED


@contextlib.contextmanager
def _output(out: Path | None) -> Iterator[IO[str]]:
    from zesty_lever.records.files import replacing

    if out is None:
        yield sys.stdout
    else:
        with replacing(out) as file:
            yield file


def _resume(arguments: argparse.Namespace) -> int:
    """Go on where an earlier ``--resume`` run stopped: finished lines wait in ``OUT.part``."""
    from zesty_lever.records.files import finished_lines

    if arguments.out is None or not arguments.case.endswith(".jsonl"):
        _complain("--resume needs a .jsonl file and --out")
        return USAGE
    part = arguments.out.with_name(arguments.out.name + ".part")
    done, failed = finished_lines(part)
    source = Path(arguments.case)
    with source.open("rb") as stream, part.open("a", encoding="utf-8") as file:
        try:
            failed += _write_results(stream, file, source.stat().st_size, after=done)
        except _NothingSolvedError as nothing:
            failed += int(nothing.args[0])
            if not done:
                part.unlink()
                return SOME_FAILED
    part.replace(arguments.out)
    return SOME_FAILED if failed else OK


class _NothingSolvedError(Exception):
    """Leaves an output file as it was."""


def _solve_stream(stream: IO[bytes], out: Path | None, total: int | None) -> int:
    """Solve one case a line; the output file is left alone when not one line could be read."""
    try:
        with _output(out) as file:
            failed = _write_results(stream, file, total)
    except _NothingSolvedError as nothing:
        if not nothing.args[0]:
            _complain("no case in the input; expected one JSON case a line")
        return SOME_FAILED
    return SOME_FAILED if failed else OK


def _write_results(stream: IO[bytes], file: IO[str], total: int | None, after: int = 0) -> int:
    """Write a result a line for the lines behind ``after``; return how many failed."""
    from zesty_lever.records.files import bounded_lines, solve_lines, write_json

    failed = solved = 0
    for document in solve_lines(_with_progress(bounded_lines(stream), total), after):
        if document.feasible is not True:
            failed += 1
            text = document.error.text if document.error else "infeasible"
            if failed <= COMPLAINTS_SHOWN:
                _complain(f"line {document.line}: {text}")
        solved += document.feasible is not None
        write_json(document.as_json(), file)
    if failed > COMPLAINTS_SHOWN:
        _complain(f"and {failed - COMPLAINTS_SHOWN} more lines failed; each says why in its result")
    if not solved:
        raise _NothingSolvedError(failed)
    return failed


def _with_progress(lines: Iterator[bytes], total: int | None) -> Iterator[bytes]:
    """Pass lines on; on a terminal, keep one line of progress on standard error."""
    shown = sys.stderr.isatty()
    read = 0
    for count, line in enumerate(lines, start=1):
        yield line
        read += len(line)
        if shown and count % 256 == 0:
            share = f" ({100 * read / total:.0f} %)" if total else ""
            print(f"\r{count} cases{share}", end="", file=sys.stderr, flush=True)
    if shown:
        print("\r\033[K", end="", file=sys.stderr)


def _compare(arguments: argparse.Namespace) -> int:
    from zesty_lever.cli_choose import errors_of, rules_of
    from zesty_lever.compare import Row, compare, table
    from zesty_lever.records.files import read_case, replacing

    named, unreadable = [], []
    for path in arguments.cases:
        try:
            named.append((path.stem, read_case(path)))
        except CaseError as error:
            if path is arguments.cases[0]:
                raise
            unreadable.append(Row(path.stem, "", None, error.text))
    compared = compare(named, arguments.match, rules_of(arguments))
    rows = [*table(compared, arguments.draws, errors_of(arguments.error)), *unreadable]
    shown = (
        len(fields(Row))
        if arguments.judge
        else [f.name for f in fields(Row)].index("difference_low_Nm")
    )
    header = tuple(field.name for field in fields(Row))[:shown]
    _print_table(header, rows)
    if arguments.csv:
        with replacing(arguments.csv) as file:
            writer = csv.writer(file)
            writer.writerow(header)
            writer.writerows([_cell(v) for v in astuple(row)[:shown]] for row in rows)
    failed = bool(unreadable) or any(item.error for item in compared)
    return SOME_FAILED if failed else OK


def _cell(value: Any) -> str:
    return "" if value is None else f"{value:.6g}" if isinstance(value, float) else str(value)


def _print_table(header: Sequence[str], rows: Sequence[Any]) -> None:
    shown = [list(header)]
    shown += [
        [_rounded(name, v) for name, v in zip(header, astuple(r), strict=False)] for r in rows
    ]
    full = [r for r, row in zip(shown[1:], rows, strict=True) if row.peak_Nm is not None]
    widths = [max(len(r[i]) for r in [shown[0], *full]) for i in range(len(header))]
    for cells in shown:
        words = [
            c.ljust(w) if i in (0, 1, 3) else c.rjust(w)
            for i, (c, w) in enumerate(zip(cells, widths, strict=True))
        ]
        print("  ".join(words).rstrip())


def _rounded(name: str, value: Any) -> str:
    if not isinstance(value, float):
        return "" if value is None else str(value)
    digits = {
        "at_progress": 2,
        "lockout_to_peak": 2,
        "impulse_Nms": 0,
        "peak_Nm": 0,
        "difference_Nm": 0,
        "difference_percent": 0,
    }.get(name, 1)
    return f"{value:.{digits}f}"
