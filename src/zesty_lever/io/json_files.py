"""Reads cases from .json and .jsonl, writes results; files are replaced whole or not at all."""

from __future__ import annotations

import json
import os
import tempfile
from collections.abc import Iterable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import IO, TYPE_CHECKING, Any

from zesty_lever.analysis import analyse_many
from zesty_lever.cases.model import Case
from zesty_lever.cases.parse import case_from, parse_json
from zesty_lever.problems import CaseError

if TYPE_CHECKING:
    from zesty_lever.io.documents import ResultDocument

BATCH = 256
LONGEST_LINE_BYTES = 4_000_000


def _decode(data: bytes, where: str) -> str:
    if len(data) > LONGEST_LINE_BYTES:
        raise CaseError(
            "too-large",
            f"{where} is {len(data)} bytes long; a case is at most {LONGEST_LINE_BYTES} bytes",
            key=where,
            value=len(data),
            unit="bytes",
            allowed=[1, LONGEST_LINE_BYTES],
        )
    try:
        return data.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        raise CaseError(
            "not-text", f"{where} is not UTF-8 text (byte {error.start})", key=where
        ) from None


def read_case(path: Path) -> Case:
    """Read one case from a .json file. Raises `CaseError`; `OSError` if it can't be opened."""
    with path.open("rb") as file:
        data = file.read(LONGEST_LINE_BYTES + 1)
    if len(data) > LONGEST_LINE_BYTES:
        size = path.stat().st_size
        raise CaseError(
            "too-large",
            f"{path.name} is {size} bytes long; a case is at most {LONGEST_LINE_BYTES} bytes",
            key=path.name,
            value=size,
            unit="bytes",
            allowed=[1, LONGEST_LINE_BYTES],
        )
    return case_from(parse_json(_decode(data, path.name), path.name))


def solve_lines(lines: Iterable[bytes], after: int = 0) -> Iterator[ResultDocument]:
    """Solve a .jsonl stream in batches, in order and in constant memory.

    Blank lines are skipped, and so are the first ``after`` lines.
    """
    waiting: list[tuple[int, Case | CaseError]] = []
    for number, line in enumerate(lines, start=1):
        if number <= after or not line.strip():
            continue
        waiting.append((number, _read_line(line, number)))
        if len(waiting) == BATCH:
            yield from _solve_batch(waiting)
            waiting = []
    yield from _solve_batch(waiting)


def bounded_lines(stream: IO[bytes]) -> Iterator[bytes]:
    """Lines of a binary stream; of an over-long line only the start is kept in memory."""
    while line := stream.readline(LONGEST_LINE_BYTES + 1):
        if len(line) > LONGEST_LINE_BYTES and not line.endswith(b"\n"):
            while (rest := stream.readline(LONGEST_LINE_BYTES)) and not rest.endswith(b"\n"):
                pass
        yield line


def _read_line(line: bytes, number: int) -> Case | CaseError:
    where = f"line {number}"
    try:
        return case_from(parse_json(_decode(line, where), where))
    except CaseError as error:
        return error


def _solve_batch(waiting: list[tuple[int, Case | CaseError]]) -> Iterator[ResultDocument]:
    # Imported late: the window reads and writes files too, and never needs the result models.
    from zesty_lever.io.documents import invalid_document, result_document

    outcomes = iter(analyse_many([case for _, case in waiting if isinstance(case, Case)]))
    for number, case in waiting:
        outcome = next(outcomes) if isinstance(case, Case) else case
        if isinstance(outcome, CaseError):
            yield invalid_document(outcome, number)
        else:
            yield result_document(outcome, number)


def finished_lines(part: Path) -> tuple[int, int]:
    """Number of the last input line whose result is whole in ``part``, and how many failed so far.

    A last line that was cut short is taken off.
    """
    if not part.exists():
        return 0, 0
    done = failed = whole = 0
    with part.open("rb") as file:
        for line in file:
            if not line.endswith(b"\n"):
                break
            result = json.loads(line)
            done = int(result["line"])
            failed += result.get("feasible") is not True
            whole += len(line)
    with part.open("rb+") as file:
        file.truncate(whole)
    return done, failed


@contextmanager
def replacing(path: Path) -> Iterator[IO[str]]:
    """Open a text file that takes ``path``'s place only if the block ends well."""
    handle, name = tempfile.mkstemp(dir=path.parent, prefix=f".{path.name}.")
    try:
        with os.fdopen(handle, "w", encoding="utf-8") as file:
            yield file
            file.flush()
            os.fsync(file.fileno())
        umask = os.umask(0)
        os.umask(umask)
        Path(name).chmod(0o666 & ~umask)
        Path(name).replace(path)
    except BaseException:
        Path(name).unlink(missing_ok=True)
        raise


def write_json(data: Any, file: IO[str], *, indent: int | None = None) -> None:
    """Write plain JSON data; NaN is refused rather than written."""
    # Whole texts are encoded ten times as fast as streamed ones.
    file.write(json.dumps(data, indent=indent, allow_nan=False, ensure_ascii=False) + "\n")
