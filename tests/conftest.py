"""Settings of every test run, and one fixture: an athlete of the spread of builds."""

import os

# Before Qt loads anywhere: without a platform, a machine without a display aborts.
os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

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
