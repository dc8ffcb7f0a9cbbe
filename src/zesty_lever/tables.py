"""Reads the cited tables and data files that ship with the package."""

from __future__ import annotations

import csv
import tomllib
from functools import cache
from pathlib import Path
from typing import Any

DATA = Path(__file__).parent / "data"


def data_path(*parts: str) -> Path:
    """Return the packaged data file or folder ``data/<parts>``."""
    return DATA.joinpath(*parts)


@cache
def csv_rows(name: str) -> tuple[dict[str, str], ...]:
    """Rows of ``data/tables/<name>.csv``; lines that start with ``#`` hold its source."""
    text = data_path("tables", f"{name}.csv").read_text(encoding="utf-8")
    lines = [line for line in text.splitlines() if not line.startswith("#")]
    return tuple(csv.DictReader(lines))


@cache
def full_disc_radius_m() -> float:
    """Half the diameter of a full-sized disc, m: how high a bar on the floor lies."""
    return max(float(row["diameter_mm"]) for row in csv_rows("discs")) / 2000.0


@cache
def toml_values(name: str) -> dict[str, Any]:
    """Content of ``data/tables/<name>.toml``."""
    return tomllib.loads(data_path("tables", f"{name}.toml").read_text(encoding="utf-8"))
