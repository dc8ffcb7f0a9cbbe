"""The command that compares cases with the first one."""

from __future__ import annotations

import argparse
import csv
from collections.abc import Mapping, Sequence
from typing import Any

from zesty_lever.choosing.compare import Failed, FailedRow, compare, shapes_of, table
from zesty_lever.cli.choosing import errors_of, rules_of
from zesty_lever.cli.console import OK, SOME_FAILED
from zesty_lever.io.json_files import read_case, replacing
from zesty_lever.io.tables import COLUMNS, JUDGED, compared_cells, failed_cells, text_of
from zesty_lever.problems import CaseError

DIGITS = {
    "at_progress": 2,
    "lockout_to_peak": 2,
    "impulse_Nms": 0,
    "peak_Nm": 0,
    "difference_Nm": 0,
    "difference_percent": 0,
    **dict.fromkeys(("at_progress_low", "at_progress_high"), 2),
    **dict.fromkeys(("lockout_to_peak_low", "lockout_to_peak_high"), 2),
    **dict.fromkeys(("impulse_low_Nms", "impulse_high_Nms"), 0),
}


def run_compare(arguments: argparse.Namespace) -> int:
    """Print the comparison as a table, and write it as CSV where asked."""
    named, unreadable = [], []
    for path in arguments.cases:
        try:
            named.append((path.stem, read_case(path)))
        except CaseError as error:
            if path is arguments.cases[0]:
                raise
            unreadable.append(FailedRow(path.stem, "", None, error.problem))
    compared = compare(named, arguments.match, rules_of(arguments))
    found = table(compared, arguments.draws, errors_of(arguments.error), undoing=arguments.judge)
    if arguments.judge and arguments.draws:
        found = found.with_shapes(shapes_of(compared, errors_of(arguments.error)))
    header = (*COLUMNS, *JUDGED) if arguments.judge else COLUMNS
    rows = [compared_cells(row, found) for row in found.rows]
    rows += [failed_cells(row) for row in (*found.failed, *unreadable)]
    _print_table(header, rows)
    if arguments.csv:
        with replacing(arguments.csv) as file:
            writer = csv.writer(file)
            writer.writerow(header)
            writer.writerows([text_of(row.get(column)) for column in header] for row in rows)
    failed = bool(unreadable) or any(isinstance(item, Failed) for item in compared)
    return SOME_FAILED if failed else OK


def _print_table(header: Sequence[str], rows: Sequence[Mapping[str, Any]]) -> None:
    shown = [list(header), *([_rounded(c, row.get(c)) for c in header] for row in rows)]
    full = [cells for cells, row in zip(shown[1:], rows, strict=True) if "peak_Nm" in row]
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
    return f"{value:.{DIGITS.get(name, 1)}f}"
