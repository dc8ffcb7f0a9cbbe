"""The commands of studies: run, status, summary, check."""

from __future__ import annotations

import argparse
import csv
import json
import os
import sys
from pathlib import Path
from typing import TYPE_CHECKING, Any

from zesty_lever.cli.console import OK, SOME_FAILED, USAGE, complain
from zesty_lever.problems import CaseError

if TYPE_CHECKING:
    from zesty_lever.study.design import Design
    from zesty_lever.study.part import Pace
    from zesty_lever.study.summary import Group, Status

STOPPED_EARLY = 3
FAILURES_TOLD = 5
SUMMARY_HEADS = ("result", "mean", "5 %", "50 %", "95 %")


def add_study(commands: Any) -> None:
    """Add ``study run | status | summary | check`` to the parser."""
    study = commands.add_parser("study", help="many cases by a design, into Parquet files")
    parts = study.add_subparsers(dest="part", required=True)
    run = parts.add_parser("run", help="work out what is missing of a study")
    run.add_argument("study", type=Path, metavar="STUDY", help="a study in TOML or JSON")
    run.add_argument("--out", type=Path, required=True, metavar="DIR")
    run.add_argument("--workers", type=int, metavar="N", help="processes (default: all cores)")
    run.add_argument("--scheduler", metavar="ADDRESS", help="hand parts to a Dask scheduler")
    run.add_argument(
        "--shard", default="1/1", metavar="I/N", help="every N-th part, from part I on"
    )
    run.add_argument("--limit", type=int, metavar="PARTS", help="at most so many parts")
    run.add_argument(
        "--shared-folder", action="store_true", help="DIR is seen by the workers: they write"
    )
    run.add_argument(
        "--insecure", action="store_true", help="allow a scheduler elsewhere without tls://"
    )
    status = parts.add_parser("status", help="how far a study is")
    status.add_argument("dir", type=Path, metavar="DIR")
    status.add_argument("--json", action="store_true", help="as JSON")
    summary = parts.add_parser("summary", help="results by group")
    summary.add_argument("dir", type=Path, metavar="DIR")
    summary.add_argument("--by", nargs="+", default=[], metavar="COLUMN")
    summary.add_argument("--csv", type=Path, metavar="FILE", help="also write the table as CSV")
    check = parts.add_parser("check", help="what a study will cost; its first problems")
    check.add_argument("study", type=Path, metavar="STUDY")


def run_study_command(arguments: argparse.Namespace) -> int:
    """Carry out one of the study commands."""
    commands = {"run": _run, "status": _status, "summary": _summary, "check": _check}
    try:
        return commands[arguments.part](arguments)
    except CaseError as error:
        complain(error.text)
        return USAGE


def _design(path: Path) -> Design:
    from zesty_lever.study.design import Design
    from zesty_lever.study.document import read_study
    from zesty_lever.study.inputs import parquet

    parquet()
    return Design.of(read_study(path))


def _run(arguments: argparse.Namespace) -> int:
    from zesty_lever.study.run import StoppedError, run_study, shard_from

    shard = shard_from(arguments.shard)
    for name, value in (("--workers", arguments.workers), ("--limit", arguments.limit)):
        if value is not None and value < 1:
            raise CaseError("bad-option", f"{name} is {value}; at least 1 is needed", key=name)
    design = _design(arguments.study)
    try:
        ended = run_study(
            design,
            arguments.out,
            _engine_for(arguments),
            shard=shard,
            limit=arguments.limit,
            tell=_progress if sys.stderr.isatty() else None,
        )
    except StoppedError as error:
        complain(str(error))
        return STOPPED_EARLY
    if sys.stderr.isatty():
        print("\r\033[K", end="", file=sys.stderr)
    of_shard = "" if shard == (1, 1) else f" of shard {arguments.shard}"
    print(
        f"{ended.there} of {ended.own} parts{of_shard} are in {arguments.out} "
        f"({design.rows} cases in {design.parts} parts)"
    )
    for number, why in list(ended.failed.items())[:FAILURES_TOLD]:
        complain(f"part {number} failed: {why}")
    if ended.stopped and ended.missing:
        complain(ended.stopped)
        return STOPPED_EARLY
    return SOME_FAILED if ended.missing else OK


def _engine_for(arguments: argparse.Namespace) -> Any:
    """What makes the engine that was asked for."""

    def engine(design: Design, pace: Pace) -> Any:
        if arguments.scheduler:
            from zesty_lever.study.cluster import DaskEngine

            shared = arguments.out if arguments.shared_folder else None
            return DaskEngine(design, arguments.scheduler, pace, shared)
        from zesty_lever.study.local import LocalEngine

        cores = len(os.sched_getaffinity(0))
        return LocalEngine(design, arguments.workers or cores, pace)

    if arguments.scheduler:
        from zesty_lever.study.cluster import check_address

        check_address(arguments.scheduler, insecure=arguments.insecure)
    return engine


def _progress(done: int, failed: int, count: int, seconds: float) -> None:
    """One line on a terminal."""
    left = seconds / done * (count - done) if done else 0.0
    more = f", {failed} failed" if failed else ""
    words = f"{done} of {count} parts{more}, about {_duration(left)} left"
    print(f"\r\033[K{words}", end="", file=sys.stderr, flush=True)


def _duration(seconds: float) -> str:
    if seconds < 90:
        return f"{seconds:.0f} s"
    return f"{seconds / 60:.0f} min" if seconds < 5400 else f"{seconds / 3600:.1f} h"


def _status(arguments: argparse.Namespace) -> int:
    from zesty_lever.study.folder import StudyFolder
    from zesty_lever.study.summary import part_rows_of, status_of

    folder = StudyFolder(arguments.dir)
    status = status_of(folder)
    left = status.left_s(part_rows_of(folder.told()))
    if arguments.json:
        print(json.dumps(_status_data(status, left)))
        return OK
    print(f"{status.done} of {status.parts} parts there, {status.missing} missing")
    if status.rate:
        print(f"{status.rate:.0f} cases a second, about {_duration(left or 0.0)} left")
    for number, why in list(status.failed.items())[:FAILURES_TOLD]:
        print(f"part {number} failed: {why}")
    if len(status.failed) > FAILURES_TOLD:
        print(f"and {len(status.failed) - FAILURES_TOLD} more parts failed")
    return OK


def _status_data(status: Status, left_s: float | None) -> dict[str, Any]:
    return {
        "rows": status.rows,
        "parts": status.parts,
        "done": status.done,
        "missing": status.missing,
        "failed": {str(number): why for number, why in status.failed.items()},
        "cases_per_s": status.rate,
        "left_s": left_s,
    }


def _summary(arguments: argparse.Namespace) -> int:
    from zesty_lever.study.folder import StudyFolder
    from zesty_lever.study.summary import summary_of

    groups = summary_of(StudyFolder(arguments.dir), arguments.by)
    for group in groups:
        _print_group(group, arguments.by)
    if arguments.csv is not None:
        _write_summary(groups, arguments.by, arguments.csv)
    return OK


def _print_group(group: Group, by: list[str]) -> None:
    named = ", ".join(f"{k} {v}" for k, v in zip(by, group.values, strict=True)) or "all"
    print(f"{named}: {group.cases} cases, {group.feasible} can be done")
    for code, count in group.problems.items():
        print(f"  {count} {code}")
    rows = [(name, *(f"{v:.1f}" for v in told)) for name, told in group.results.items() if told]
    wide = [max(len(row[i]) for row in (SUMMARY_HEADS, *rows)) for i in range(len(SUMMARY_HEADS))]
    for row in (SUMMARY_HEADS, *rows):
        cells = [
            row[0].ljust(wide[0]),
            *(c.rjust(w) for c, w in zip(row[1:], wide[1:], strict=True)),
        ]
        print("  " + "  ".join(cells))


def _write_summary(groups: list[Group], by: list[str], path: Path) -> None:
    from zesty_lever.io.json_files import replacing

    with replacing(path) as file:
        table = csv.writer(file, lineterminator="\n")
        table.writerow([*by, "cases", "feasible", "problems", "result", "mean", "p5", "p50", "p95"])
        for group in groups:
            problems = "; ".join(f"{count} {code}" for code, count in group.problems.items())
            for name, told in group.results.items():
                numbers = told or ("",) * 4
                table.writerow(
                    [*group.values, group.cases, group.feasible, problems, name, *numbers]
                )


def _check(arguments: argparse.Namespace) -> int:
    from zesty_lever.study.check import check_study
    from zesty_lever.study.solver import ChildCantStartError

    design = _design(arguments.study)
    try:
        found = check_study(design)
    except ChildCantStartError as error:
        complain(str(error))
        return SOME_FAILED
    print(f"{found.rows} cases in {found.parts} parts")
    print(f"about {found.bytes_about / 1e6:.1f} MB and {found.core_hours:.2g} core-hours")
    print(f"({found.rate:.0f} cases a second on one core, from {found.sampled} of them)")
    print(f"{found.feasible} of {found.sampled} sampled cases can be done")
    for row, problem, note in found.first:
        print(f"  row {row}: {problem}{': ' + note if note else ''}")
    return OK
