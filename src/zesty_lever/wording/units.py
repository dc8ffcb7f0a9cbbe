"""Units as they are shown and typed: 40 cm, 16 in, 12,5, 135 lb."""

from __future__ import annotations

import re
from dataclasses import dataclass

IN_PER_M, LB_PER_KG = 1.0 / 0.0254, 1.0 / 0.45359237


# Shown label, how many of it make one of the file's unit, decimals.
METRIC = {
    "m": ("cm", 100.0, 1),
    "deg": ("°", 1.0, 1),
    "kg": ("kg", 1.0, 1),
    "": ("%", 100.0, 0),
    "N/m": ("N/m", 1.0, 0),
    "N": ("N", 1.0, 0),
    "s": ("s", 1.0, 1),
}


IMPERIAL = {**METRIC, "m": ("in", IN_PER_M, 2), "kg": ("lb", LB_PER_KG, 1)}


# Units that may be typed behind a number, whatever is shown: how many of it make one of the file's.
TYPED = {
    "m": {"cm": 100.0, "mm": 1000.0, "m": 1.0, "in": IN_PER_M, "ft": 1.0 / 0.3048},
    "kg": {"kg": 1.0, "lb": LB_PER_KG, "lbs": LB_PER_KG},
    "deg": {"°": 1.0, "deg": 1.0},
    "": {"%": 100.0},
    "N": {"n": 1.0},
    "N/m": {"n/m": 1.0},
    "s": {"s": 1.0},
}


@dataclass
class Units:
    """Which units are shown: metric, or inches and pounds."""

    imperial: bool = False

    def shown(self, unit: str) -> tuple[str, float, int]:
        """Label, factor from the file's unit, decimals."""
        return (IMPERIAL if self.imperial else METRIC)[unit]

    def step(self, per: str) -> tuple[str, float]:
        """A step as it is said (per cm: per in), and how many of the core's it is."""
        steps = {"per cm": ("per in", 2.54), "per kg": ("per lb", 1.0 / LB_PER_KG)}
        return steps.get(per, (per, 1.0)) if self.imperial else (per, 1.0)

    def text(self, value: float, unit: str, decimals: int | None = None) -> str:
        """A value (in the file's unit) as it is written on screen."""
        label, factor, digits = self.shown(unit)
        space = "" if label in ("°", "%") else " "
        return f"{value * factor:.{digits if decimals is None else decimals}f}{space}{label}"

    def in_words(self, text: str) -> str:
        """Words of the core, which speaks metres and kilograms, in the units shown: 5 cm is 2 in.

        A number or a range before the unit is turned with it; moments (N·m, N·m/kg) stay.
        """
        return IN_METRIC.sub(_turned, text) if self.imperial else text


SPOKEN = {
    "cm": "centimetres",
    "in": "inches",
    "°": "degrees",
    "kg": "kilograms",
    "lb": "pounds",
    "%": "per cent",
    "N": "newtons",
    "N/m": "newtons per metre",
    "s": "seconds",
}


def spoken(value: float, unit: str) -> str:
    """A value (in the file's unit) as it is said: 33 degrees."""
    label, factor, digits = UNITS.shown(unit)
    shown = f"{value * factor:.{min(digits, 1)}f}".removesuffix(".0")
    return f"{minus(shown)} {SPOKEN[label]}"


# A number, or two of a range, with a metric unit behind; "12 N·m" and "2.1 N·m/kg" are none.
IN_METRIC = re.compile(
    r"(?<![\w.,])([-+\u2212±]?\d+(?:\.\d+)?)((?: to | and |\u2013| against )[-+\u2212]?\d+(?:\.\d+)?)?"
    r"([ \u00a0]?)(cm|m|kg)\b(?!\w)"
)


def _turned(found: re.Match[str]) -> str:
    first, second, space, unit = found.groups()
    mass = unit == "kg"
    factor = LB_PER_KG if mass else IN_PER_M / (100.0 if unit == "cm" else 1.0)

    def turned(number: str) -> str:
        sign = number[0] if number[0] in "+-\u2212±" else ""
        size = factor * float(number.lstrip("+-\u2212±"))
        decimals = 0 if mass or size >= 20.0 else 1
        return f"{sign}{size:.{decimals}f}"

    words = turned(first)
    if second:
        joint, number = re.fullmatch(r"(.*?)([-+\u2212]?\d+(?:\.\d+)?)", second).groups()  # type: ignore[union-attr]
        words += joint + turned(number)
    return f"{words}{space or ' '}{'lb' if mass else 'in'}"


UNITS = Units()


FEET_AND_INCHES = re.compile(
    r"\s*([0-9]+)\s*(?:'|ft|\u2032)\s*([0-9]*[.,]?[0-9]*)\s*(?:\"|''|in|\u2033)?\s*"
)


def parse_quantity(
    text: str, unit: str, allowed: tuple[float, float] | None = None
) -> float | None:
    """A typed number, with a decimal comma or point and with or without a unit, in the file's unit.

    Without a unit the one shown is meant; a length that only makes sense in metres (1.68 for a height of
    120 to 230 cm; ``allowed`` is in metres) is in metres. Feet and inches are read together. None where it
    can't be read.
    """
    feet = FEET_AND_INCHES.fullmatch(text) if unit == "m" else None
    if feet is not None:
        inches = float(feet[2].replace(",", ".")) if feet[2].strip(".,") else 0.0
        return (12.0 * float(feet[1]) + inches) / IN_PER_M
    found = re.fullmatch(
        r"\s*([+\-\u2212]?[0-9]*[.,]?[0-9]+|[+\-\u2212]?[0-9]+[.,]?)\s*([^\d\s]*)\s*", text
    )
    if found is None:
        return None
    number = float(found[1].replace(",", ".").replace("\u2212", "-"))
    label, factor, _ = UNITS.shown(unit)
    given = found[2].lower()
    if given and given != label.lower():
        if given not in TYPED[unit]:
            return None
        factor = TYPED[unit][given]
    if not given and unit == "m" and allowed is not None:
        low, high = allowed
        if not low <= number / factor <= high and low <= number <= high:
            return number
    return number / factor


def minus(text: str) -> str:
    """Words as they are shown: in the units in use, with a real minus sign and none before zero; hyphens stay."""
    bare = re.sub(r"(?<!\w)-(?=0(\.0+)?(?![\d.]))", "", UNITS.in_words(text))
    return re.sub(r"(?<!\w)-(?=\d)", "\N{MINUS SIGN}", bare)
