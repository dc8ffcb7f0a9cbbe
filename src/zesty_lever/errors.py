"""The error that names what is wrong with a case, and the fields that carry unit and range."""

from __future__ import annotations

import math
from typing import Any

from pydantic import Field


class CaseError(Exception):
    """Something in a case is wrong. Carries the key, the value, its unit and the allowed range.

    ``infeasible`` tells a legal case whose pose cannot exist from an invalid one.
    """

    def __init__(
        self,
        code: str,
        text: str,
        *,
        key: str = "",
        value: Any = None,
        unit: str = "",
        allowed: Any = None,
        infeasible: bool = False,
    ) -> None:
        super().__init__(text)
        self.code, self.text, self.key = code, text, key
        self.value, self.unit, self.allowed = printable(value), unit, allowed
        self.infeasible = infeasible

    def as_dict(self) -> dict[str, Any]:
        """Return the ``error`` object of a result file."""
        return {
            "code": self.code,
            "key": self.key,
            "value": self.value,
            "unit": self.unit,
            "allowed": self.allowed,
            "text": self.text,
        }


def printable(value: Any) -> Any:
    """Make a value safe for JSON and for one line: no NaN, no bulk."""
    if isinstance(value, float) and not math.isfinite(value):
        return str(value)
    if isinstance(value, bool | int | float) or value is None:
        return value
    text = value if isinstance(value, str) else repr(value)
    return text if len(text) <= 60 else text[:57] + "..."


def out_of_range(
    key: str, value: float, unit: str, allowed: tuple[float, float], why: str = ""
) -> CaseError:
    """Error for a number outside its range, worded the same everywhere."""
    low, high = (float(f"{bound:.4g}") for bound in allowed)
    shown = f"{value:.6g}" if isinstance(value, int | float) else str(value)
    space = f" {unit}" if unit else ""
    text = f"{key} is {shown}{space}; allowed is {low:g} to {high:g}{space}{why}"
    return CaseError("out-of-range", text, key=key, value=value, unit=unit, allowed=[low, high])


def quantity(unit: str, low: float, high: float, default: Any = ...) -> Any:
    """Field for a number with a unit and a closed range, for the models and for their schema."""
    extra: dict[str, Any] = {"unit": unit}
    return Field(default, ge=low, le=high, allow_inf_nan=False, json_schema_extra=extra)


def unknown_key(key: str, known: tuple[str, ...]) -> CaseError:
    """Error for a key that does not exist, with those that do."""
    return CaseError(
        "unknown-key",
        f"{key} is not a known key; known are: {', '.join(known)}",
        key=key,
        allowed=list(known),
    )
