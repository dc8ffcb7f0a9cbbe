"""Measured peak moments by angle from a CSV file: a dynamometer's, or a hand-held gauge's at a lever."""

from __future__ import annotations

import csv
from pathlib import Path

from zesty_lever.cases.model import StrengthPoint
from zesty_lever.io.json_files import read_bounded
from zesty_lever.models import read
from zesty_lever.problems import CaseError, one_line

G_M_S2 = 9.80665
MOST_BYTES = 200_000
COLUMNS = ("joint", "angle_deg", "moment_Nm", "load_kg", "lever_m", "sd_Nm")
JOINTS = ("hip", "knee", "back")

Curves = dict[str, tuple[StrengthPoint, ...]]


def read_curves(path: Path) -> Curves:
    """Curves by joint, from a CSV file.

    Columns: joint (hip, knee, back), angle_deg, and moment_Nm, or load_kg (what the gauge reads) with lever_m;
    sd_Nm is optional. Hip: flexion of thigh against pelvis, one leg. Knee: flexion, one leg. Back: lumbar flexion. Raises `CaseError`
    naming line, column, value and range; `OSError` if it can't be read.
    """
    name = one_line(path.name, 80)
    try:
        text = read_bounded(path, "a table of strength", MOST_BYTES).decode("utf-8-sig")
    except UnicodeDecodeError as error:
        raise CaseError(
            "not-text", f"{name} is not UTF-8 text (byte {error.start})", key=name
        ) from None
    rows = csv.DictReader(text.splitlines())
    unknown = [c for c in rows.fieldnames or () if c not in COLUMNS]
    if unknown or "joint" not in (rows.fieldnames or ()):
        raise CaseError(
            "unknown-key",
            f"{name}: the columns are joint, angle_deg, and moment_Nm or load_kg with lever_m, and sd_Nm where known"
            + (
                f"; not known: {', '.join(one_line(str(c), 30) for c in unknown)}"
                if unknown
                else ""
            ),
            key=name,
            allowed=list(COLUMNS),
        )
    found: dict[str, list[StrengthPoint]] = {}
    for number, row in enumerate(rows, start=2):
        joint = (row["joint"] or "").strip().lower()
        where = f"{name}, line {number}"
        if joint not in JOINTS:
            raise CaseError(
                "wrong-value",
                f"{where}: joint is {one_line(joint, 30) or 'empty'}; known are: {', '.join(JOINTS)}",
                key="joint",
                value=joint,
                allowed=list(JOINTS),
            )
        found.setdefault(joint, []).append(_point(row, where))
    if not found:
        raise CaseError("empty-file", f"{name} holds no row", key=name)
    return {joint: tuple(points) for joint, points in found.items()}


def _point(row: dict[str, str], where: str) -> StrengthPoint:
    """One row as a point."""
    moment = _number(row, "moment_Nm", where)
    if moment is None:
        load, lever = _number(row, "load_kg", where), _number(row, "lever_m", where)
        if load is None or lever is None:
            raise CaseError(
                "missing-key",
                f"{where}: moment_Nm is missing, and load_kg with lever_m too",
                key="moment_Nm",
            )
        moment = load * G_M_S2 * lever
    data = {"angle_deg": _number(row, "angle_deg", where), "moment_Nm": moment}
    sd = _number(row, "sd_Nm", where)
    if sd is not None:
        data["sd_Nm"] = sd
    return read(StrengthPoint, data, where)


def _number(row: dict[str, str], column: str, where: str) -> float | None:
    """A number of a row; None where the cell is empty or the column is not there."""
    cell = (row.get(column) or "").strip()
    if not cell:
        return None
    try:
        return float(cell)
    except ValueError:
        raise CaseError(
            "wrong-type",
            f"{where}: {column} is {one_line(cell, 30)}; allowed is a number",
            key=column,
            value=cell,
        ) from None
