"""The records' window tests on other days: each weekday, 29 February, a year's last day, both changes of summer time."""

from __future__ import annotations

import os
import subprocess
import sys
from pathlib import Path

import pytest

# A local moment and what is special about it; the changes of summer time are those of the zone.
DAYS = {
    "Europe/Oslo": (
        "2026-11-30T12:00",  # Monday
        "2028-02-29T12:00",  # Tuesday, the leap day
        "2026-12-02T23:30",  # Wednesday, late
        "2026-12-31T12:00",  # Thursday, a year's last day
        "2026-12-04T00:10",  # Friday, early
        "2026-12-05T12:00",  # Saturday
        "2027-03-28T01:50",  # Sunday, an hour is left out
        "2027-10-31T01:50",  # Sunday, an hour comes twice
    ),
    "America/New_York": (
        "2026-11-30T21:00",
        "2028-02-29T12:00",
        "2026-12-02T12:00",
        "2026-12-31T22:00",
        "2026-12-04T12:00",
        "2026-12-05T12:00",
        "2027-03-14T01:50",
        "2027-11-07T01:50",
    ),
}
CASES = [(zone, moment) for zone, moments in DAYS.items() for moment in moments]


@pytest.mark.slow
@pytest.mark.parametrize(("zone", "moment"), CASES)
def test_the_records_window_on_any_day(zone, moment):
    tests = Path(__file__).with_name("test_records.py")
    ran = subprocess.run(
        [
            sys.executable,
            "-m",
            "pytest",
            "-q",
            "-x",
            "-p",
            "no:xdist",
            "-p",
            "no:cacheprovider",
            str(tests),
        ],
        env=os.environ | {"TZ": zone, "ZESTY_LEVER_CLOCK": moment},
        check=False,
        capture_output=True,
        text=True,
        timeout=900,
    )
    assert ran.returncode == 0, ran.stdout[-4000:]
