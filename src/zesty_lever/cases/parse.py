"""Reads cases and athletes from JSON text or from data that was JSON."""

from __future__ import annotations

import json
from typing import Any

from zesty_lever.cases.model import CASE_FORMAT, Athlete, Case
from zesty_lever.models import read
from zesty_lever.problems import CaseError


def parse_case(text: str | bytes) -> Case:
    """Read the JSON text of a case. Raises `CaseError` naming key, value, unit and range."""
    return case_from(parse_json(text, "the case"))


def case_from(data: Any, key: str = "") -> Case:
    """Read a case from JSON data (already parsed), the value of ``key`` in a larger file.

    Raises `CaseError`, naming key and range.
    """
    if isinstance(data, dict) and "format" not in data:
        missing = f"{key}.format" if key else "format"
        raise CaseError("missing-key", f"{missing} is missing", key=missing, allowed=[CASE_FORMAT])
    return read(Case, data, key)


def athlete_from(data: Any) -> Athlete:
    """Read an athlete from plain data. Raises `CaseError`, naming key and range."""
    return read(Athlete, data, "athlete")


def parse_json(text: str | bytes, where: str) -> Any:
    """Parse JSON strictly: a key given twice is an error. Raises `CaseError`."""
    if isinstance(text, bytes):
        text = text.removeprefix(b"\xef\xbb\xbf")
    if not text.strip():
        raise CaseError("empty-file", f"{where} is empty; expected a case as JSON", key=where)
    try:
        return json.loads(text, object_pairs_hook=_no_twins)
    except RecursionError:
        raise CaseError("not-json", f"{where} is nested too deeply", key=where) from None
    except UnicodeDecodeError as error:
        raise CaseError(
            "not-text", f"{where} is not UTF-8 text (byte {error.start})", key=where
        ) from None
    except json.JSONDecodeError as error:
        raise CaseError(
            "not-json",
            f"{where} is not JSON: {error.msg} at line {error.lineno}, column {error.colno}",
            key=where,
        ) from None
    except ValueError:
        # Python refuses to turn very long rows of digits into a number.
        raise CaseError(
            "not-json", f"{where} holds a number of too many digits", key=where
        ) from None


def _no_twins(pairs: list[tuple[str, Any]]) -> dict[str, Any]:
    found: dict[str, Any] = {}
    for key, value in pairs:
        if key in found:
            raise CaseError("key-twice", f"{key[:60]} is given twice in one object", key=key[:60])
        found[key] = value
    return found
