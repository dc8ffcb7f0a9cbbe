"""The one clock: set by tests, asked by every module, by the local day."""

from __future__ import annotations

import datetime as dt
import os
import re
import subprocess
import sys
import time
from pathlib import Path

import pytest

from zesty_lever import clock

SOURCE = Path(clock.__file__).parent
# What asks the machine for the time by itself, in words of code.
ASKS = re.compile(
    r"date\.today\(|datetime\.now\(|\btime\.time\(|\btime\.time_ns\(|utcnow\(|currentDate|currentDateTime|from time import"
)


def test_nobody_asks_the_machine_past_the_clock():
    past = [
        f"{path.relative_to(SOURCE)}: {line.strip()}"
        for path in SOURCE.rglob("*.py")
        if path.name != "clock.py"
        for line in path.read_text(encoding="utf-8").splitlines()
        if ASKS.search(line)
    ]
    assert past == []


def test_inside_a_block_it_is_the_time_that_was_set_and_it_goes_on():
    before = clock.today()
    with clock.at("2028-02-29T23:59:30"):
        assert dt.date.fromordinal(clock.today()) == dt.date(2028, 2, 29)
        first = clock.now_ms()
        time.sleep(0.01)
        assert 5 <= clock.now_ms() - first < 5000
        assert clock.local("%H:%M") == "23:59"
        assert clock.day_of(clock.now_s() + 60.0) == clock.today() + 1
    assert clock.today() == before


@pytest.mark.parametrize("zone", ["Europe/Oslo", "America/New_York", "Pacific/Auckland"])
@pytest.mark.parametrize("moment", ["2026-12-31T23:30", "2027-03-28T02:30", "2027-10-31T02:30"])
def test_the_day_is_the_local_one_in_every_zone(zone, moment):
    told = subprocess.run(
        [sys.executable, "-c", "from zesty_lever import clock; print(clock.today())"],
        env=os.environ | {"TZ": zone, clock.VARIABLE: moment},
        capture_output=True,
        text=True,
        check=True,
    )
    assert int(told.stdout) == dt.datetime.fromisoformat(moment).toordinal()


def test_the_steady_clock_is_not_moved():
    first = clock.steady_s()
    with clock.at("1999-01-01T00:00"):
        assert 0.0 <= clock.steady_s() - first < 60.0
