"""Units as they are shown and typed, and numbers as they are written."""

import pytest

from zesty_lever.wording.units import UNITS, minus, parse_quantity


@pytest.fixture
def imperial():
    UNITS.imperial = True
    yield
    UNITS.imperial = False


@pytest.mark.parametrize(
    ("typed", "unit", "value"),
    [
        ("40", "m", 0.40),
        ("40,5 cm", "m", 0.405),
        ("16 in", "m", 0.4064),
        ("1.2 m", "m", 1.2),
        ("135 lb", "kg", 61.235),
        ("\u22125", "deg", -5.0),
        ("12°", "deg", 12.0),
        ("80 %", "", 0.8),
        ("5 parsec", "m", None),
        ("4 kg", "m", None),
        ("", "kg", None),
    ],
)
def test_what_is_typed(typed, unit, value):
    found = parse_quantity(typed, unit)
    assert found is None if value is None else found == pytest.approx(value, rel=1e-4)


def test_inches_and_pounds_are_shown(imperial):
    assert UNITS.text(0.4064, "m") == "16.00 in"
    assert UNITS.text(61.235, "kg", 0) == "135 lb"
    assert parse_quantity("16", "m") == pytest.approx(0.4064)


def test_minus_signs_are_minus_signs_and_there_is_no_minus_nought():
    assert minus("-5 and self-made and -0.0, 3-4") == "\u22125 and self-made and 0.0, 3-4"
