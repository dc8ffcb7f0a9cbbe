"""Tables as rows of cells: what CSV files and printed tables are made of."""

from __future__ import annotations

import csv
import io
from typing import Any

from zesty_lever.choosing.compare import FailedRow, Row, Table

# What a cell begins with that a spreadsheet takes for a formula.
RUN_BY_SPREADSHEETS = ("=", "+", "-", "@", "\t", "\r")
COLUMNS = (
    "case",
    "variation",
    "load_kg",
    "joint",
    "peak_Nm",
    "peak_low_Nm",
    "peak_high_Nm",
    "at_progress",
    "lockout_to_peak",
    "impulse_Nms",
    "difference_Nm",
    "difference_percent",
)
JUDGED = (
    "difference_low_Nm",
    "difference_high_Nm",
    "difference_done_low_Nm",
    "difference_done_high_Nm",
    "judgement",
    "undone_by",
    "open_because",
    "at_progress_low",
    "at_progress_high",
    "lockout_to_peak_low",
    "lockout_to_peak_high",
    "impulse_low_Nms",
    "impulse_high_Nms",
)
# The ends of a whole rep's intervals by the quantity that they are about.
OVER_THE_REP = {
    "at_progress": ("at_progress_low", "at_progress_high"),
    "lockout_to_peak": ("lockout_to_peak_low", "lockout_to_peak_high"),
    "impulse_Nms": ("impulse_low_Nms", "impulse_high_Nms"),
}


def compared_cells(row: Row, found: Table) -> dict[str, Any]:
    """A row of a comparison by column."""
    cells: dict[str, Any] = {c: getattr(row, c) for c in COLUMNS if hasattr(row, c)}
    shapes = found.shapes.get(row.case, {})
    for quantity, (low, high) in OVER_THE_REP.items():
        interval = shapes.get((row.joint, quantity))
        if interval is not None:
            cells |= {low: interval.low, high: interval.high}
    if row.judged is None:
        return cells
    verdict, undone = row.judged.verdict, row.judged.undone_by
    return cells | {
        "peak_low_Nm": row.judged.peak.low,
        "peak_high_Nm": row.judged.peak.high,
        "difference_low_Nm": verdict.set_up.low,
        "difference_high_Nm": verdict.set_up.high,
        "difference_done_low_Nm": verdict.done.low,
        "difference_done_high_Nm": verdict.done.high,
        "judgement": verdict.judgement,
        "undone_by": None if undone is None else f"{undone[0]}={undone[1]:+.1f}",
        "open_because": verdict.because,
    }


def failed_cells(row: FailedRow) -> dict[str, Any]:
    """A failed case's row: its error stands where the joint would."""
    return {
        "case": row.case,
        "variation": row.variation,
        "load_kg": row.load_kg,
        "joint": row.problem.text,
    }


def text_of(value: Any) -> str:
    """A cell as text: numbers to six digits, nothing for None; words that a spreadsheet would run made harmless."""
    if isinstance(value, str):
        return (
            f"'{value}"
            if value.startswith(RUN_BY_SPREADSHEETS) and not _is_number(value)
            else value
        )
    return "" if value is None else f"{value:.6g}" if isinstance(value, float) else str(value)


def _is_number(text: str) -> bool:
    try:
        float(text)
    except ValueError:
        return False
    return True


def csv_text(found: Table) -> str:
    """A whole comparison as CSV text: one row a set-up and joint, units in the header."""
    text = io.StringIO()
    writer = csv.writer(text)
    header = (*COLUMNS, *JUDGED)
    rows = [compared_cells(row, found) for row in found.rows]
    rows += map(failed_cells, found.failed)
    writer.writerow(header)
    writer.writerows([text_of(row.get(column)) for column in header] for row in rows)
    return text.getvalue()
