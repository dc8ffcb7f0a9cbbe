"""The command that works cases out, one or many, and goes on where it was interrupted."""

from __future__ import annotations

import argparse
import contextlib
import sys
from collections.abc import Iterator
from pathlib import Path
from typing import IO

from zesty_lever.analysis import analyse
from zesty_lever.cli.console import OK, SOME_FAILED, USAGE, complain
from zesty_lever.io.documents import invalid_document, result_document
from zesty_lever.io.json_files import (
    bounded_lines,
    finished_lines,
    read_case,
    replacing,
    solve_lines,
    write_json,
)
from zesty_lever.problems import CaseError

COMPLAINTS_SHOWN = 8


def run_solve(arguments: argparse.Namespace) -> int:
    """Work out one case or a file of many."""
    if arguments.out is not None and arguments.case != "-":
        source = Path(arguments.case)
        if arguments.out.exists() and source.exists() and arguments.out.samefile(source):
            complain(f"--out {arguments.out} is the case file itself; nothing was written")
            return USAGE
    if arguments.resume:
        return _resume(arguments)
    if arguments.case == "-":
        return _solve_stream(sys.stdin.buffer, arguments.out, None, effort=arguments.effort)
    path = Path(arguments.case)
    if path.suffix == ".jsonl":
        with path.open("rb") as stream:
            return _solve_stream(
                stream, arguments.out, path.stat().st_size, effort=arguments.effort
            )
    return _solve_one(path, arguments.out, effort=arguments.effort)


def _solve_one(path: Path, out: Path | None, *, effort: bool) -> int:
    try:
        result = analyse(read_case(path))
    except CaseError as error:
        complain(error.text)
        if out is None:
            write_json(invalid_document(error).as_json(), sys.stdout, indent=1)
        return SOME_FAILED
    document = result_document(result, effort=effort)
    with _output(out) as file:
        write_json(document.as_json(), file, indent=1)
    if document.error:
        complain(document.error.text)
    return OK if result.feasible else SOME_FAILED


@contextlib.contextmanager
def _output(out: Path | None) -> Iterator[IO[str]]:
    if out is None:
        yield sys.stdout
    else:
        with replacing(out) as file:
            yield file


def _resume(arguments: argparse.Namespace) -> int:
    """Go on where an earlier ``--resume`` run stopped: finished lines wait in ``OUT.part``."""
    if arguments.out is None or not arguments.case.endswith(".jsonl"):
        complain("--resume needs a .jsonl file and --out")
        return USAGE
    part = arguments.out.with_name(arguments.out.name + ".part")
    done, failed = finished_lines(part)
    source = Path(arguments.case)
    with source.open("rb") as stream, part.open("a", encoding="utf-8") as file:
        try:
            failed += _write_results(
                stream, file, source.stat().st_size, effort=arguments.effort, after=done
            )
        except _NothingSolvedError as nothing:
            failed += int(nothing.args[0])
            if not done:
                part.unlink()
                return SOME_FAILED
    part.replace(arguments.out)
    return SOME_FAILED if failed else OK


class _NothingSolvedError(Exception):
    """Leaves an output file as it was."""


def _solve_stream(stream: IO[bytes], out: Path | None, total: int | None, *, effort: bool) -> int:
    """Solve one case a line; the output file is left alone when not one line could be read."""
    try:
        with _output(out) as file:
            failed = _write_results(stream, file, total, effort=effort)
    except _NothingSolvedError as nothing:
        if not nothing.args[0]:
            complain("no case in the input; expected one JSON case a line")
        return SOME_FAILED
    return SOME_FAILED if failed else OK


def _write_results(
    stream: IO[bytes], file: IO[str], total: int | None, *, effort: bool, after: int = 0
) -> int:
    """Write a result a line for the lines behind ``after``; return how many failed."""
    failed = solved = 0
    for document in solve_lines(_with_progress(bounded_lines(stream), total), after, effort=effort):
        if document.feasible is not True:
            failed += 1
            text = document.error.text if document.error else "infeasible"
            if failed <= COMPLAINTS_SHOWN:
                complain(f"line {document.line}: {text}")
        solved += document.feasible is not None
        write_json(document.as_json(), file)
    if failed > COMPLAINTS_SHOWN:
        complain(f"and {failed - COMPLAINTS_SHOWN} more lines failed; each says why in its result")
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
