"""Settings of every test run, and one fixture: an athlete of the spread of builds."""

import os

# Before Qt loads anywhere: without a platform, a machine without a display aborts.
os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
# The suite's day, whatever the machine's: a Friday at noon. Programs that a test starts have it too.
os.environ.setdefault("ZESTY_LEVER_CLOCK", "2026-11-27T12:00")

import pytest
from hypothesis import settings as hypothesis_settings

from builders import builds

# The same examples on every machine: a finding can then be looked at where it was found.
hypothesis_settings.register_profile("steady", derandomize=True)
hypothesis_settings.load_profile("steady")


@pytest.fixture(
    params=list(builds()), ids=lambda b: f"{b['height_m']}-{b['sex']}-{b['lengths_m']['thigh']}"
)
def build(request):
    """One athlete of the spread."""
    return request.param
