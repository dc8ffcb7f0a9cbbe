"""Reads cases from .json and .jsonl, writes results; files are replaced whole or not at all."""

from __future__ import annotations

import json
import os
import stat
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


def read_bounded(path: Path, what: str = "a case", most: int = LONGEST_LINE_BYTES) -> bytes:
    """A file's bytes, refused before it is read where it is too large. Raises `CaseError`, `OSError`."""
    with path.open("rb") as file:
        data = file.read(most + 1)
    if len(data) > most:
        raise CaseError(
            "too-large",
            f"{path.name} is more than {most} bytes long; {what} is at most that",
            key=path.name,
            unit="bytes",
            allowed=[1, most],
        )
    return data


def read_case(path: Path) -> Case:
    """Read one case from a .json file. Raises `CaseError`; `OSError` if it can't be opened."""
    return case_from(parse_json(_decode(read_bounded(path), path.name), path.name))


def solve_lines(
    lines: Iterable[bytes], after: int = 0, *, effort: bool = False
) -> Iterator[ResultDocument]:
    """Solve a .jsonl stream in batches, in order and in constant memory.

    Blank lines are skipped, and so are the first ``after`` lines; ``effort``: with what each uses.
    """
    waiting: list[tuple[int, Case | CaseError]] = []
    for number, line in enumerate(lines, start=1):
        if number <= after or not line.strip():
            continue
        waiting.append((number, _read_line(line, number)))
        if len(waiting) == BATCH:
            yield from _solve_batch(waiting, effort=effort)
            waiting = []
    yield from _solve_batch(waiting, effort=effort)


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


def _solve_batch(
    waiting: list[tuple[int, Case | CaseError]], *, effort: bool
) -> Iterator[ResultDocument]:
    # Imported late: the window reads and writes files too, and never needs the result models.
    from zesty_lever.io.documents import invalid_document, result_document

    outcomes = iter(analyse_many([case for _, case in waiting if isinstance(case, Case)]))
    for number, case in waiting:
        outcome = next(outcomes) if isinstance(case, Case) else case
        if isinstance(outcome, CaseError):
            yield invalid_document(outcome, number)
        else:
            yield result_document(outcome, number, effort=effort)


def finished_lines(part: Path) -> tuple[int, int]:
    """Number of the last input line whose result is whole in ``part``, and how many failed so far.

    A last line that was cut short is taken off. Raises `CaseError` for a file that is not of such a run.
    """
    if not part.exists():
        return 0, 0
    done = failed = whole = 0
    with part.open("rb") as file:
        for line in file:
            if not line.endswith(b"\n"):
                break
            number, feasible = _finished(line, part.name)
            if number <= done:
                raise _foreign(part.name)
            done = number
            failed += not feasible
            whole += len(line)
    with part.open("rb+") as file:
        file.truncate(whole)
    return done, failed


def _finished(line: bytes, where: str) -> tuple[int, bool]:
    """Number and success of one finished line."""
    try:
        result = json.loads(line.decode("utf-8"))
    except (ValueError, RecursionError):
        raise _foreign(where) from None
    number = result.get("line") if isinstance(result, dict) else None
    if not isinstance(number, int) or number < 1 or "feasible" not in result:
        raise _foreign(where)
    return number, result["feasible"] is True


def _foreign(where: str) -> CaseError:
    return CaseError(
        "wrong-format",
        f"{where} is not what an interrupted run left behind, or is damaged: take it away or choose another --out",
        key=where,
    )


@contextmanager
def replacing(path: Path) -> Iterator[IO[str]]:
    """Open a text file that takes ``path``'s place only if the block ends well.

    A link stays and what it points to is written, a file keeps its mode; a device or a pipe is written into.
    Raises `OSError` that names ``path``.
    """
    target = Path(os.path.realpath(path))
    try:
        if path.exists() and not path.is_file():
            # A device or a pipe, which may have no other name than the link to it.
            with path.open("w", encoding="utf-8") as file:
                yield file
            return
        with _in_its_place(target) as file:
            yield file
    except OSError as error:
        if error.filename is not None and Path(str(error.filename)).parent != target.parent:
            raise
        raise OSError(error.errno, error.strerror, str(path)) from error


@contextmanager
def _in_its_place(target: Path) -> Iterator[IO[str]]:
    """A file beside the target that replaces it at the end."""
    handle, name = tempfile.mkstemp(dir=target.parent, prefix=f".{target.name[:40]}.")
    try:
        with os.fdopen(handle, "w", encoding="utf-8") as file:
            yield file
            file.flush()
            os.fsync(file.fileno())
        Path(name).chmod(_mode_of(target))
        Path(name).replace(target)
    except BaseException:
        Path(name).unlink(missing_ok=True)
        raise


def _mode_of(target: Path) -> int:
    """The target's own mode, or that of a new file."""
    if target.exists():
        return stat.S_IMODE(target.stat().st_mode)
    umask = os.umask(0)
    os.umask(umask)
    return 0o666 & ~umask


def write_json(data: Any, file: IO[str], *, indent: int | None = None) -> None:
    """Write plain JSON data; NaN is refused rather than written."""
    # Whole texts are encoded ten times as fast as streamed ones.
    file.write(json.dumps(data, indent=indent, allow_nan=False, ensure_ascii=False) + "\n")
