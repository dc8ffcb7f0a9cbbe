"""Zesty Lever: joint-moment estimates for strength coaches.

The core in a few names; nothing here needs a window::

    from zesty_lever import analyse, parse_case

    case = parse_case('''{"format": "zesty-lever-case/1", "variation": "back-squat-high-bar",
        "athlete": {"height_m": 1.78, "mass_kg": 82, "sex": "male"}, "load_kg": 60}''')
    result = analyse(case)
    if result.feasible:
        print(result.summary["knee_right"].extensor_peak_Nm)  # N m, per leg

`analyse` gives a `Result`; its ``outcome`` is the solved rep (every array) or what makes it
impossible. `CaseError` is raised for a case that can't be taken. Units, signs and axes: docs/model.md.
"""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from zesty_lever.version import VERSION

if TYPE_CHECKING:
    from zesty_lever.analysis import Result, analyse, analyse_many
    from zesty_lever.cases.model import Athlete, Case, Setup
    from zesty_lever.cases.parse import parse_case
    from zesty_lever.problems import CaseError

__version__ = VERSION
__all__ = (
    "Athlete",
    "Case",
    "CaseError",
    "Result",
    "Setup",
    "__version__",
    "analyse",
    "analyse_many",
    "parse_case",
)
_HOMES = {
    "Athlete": "zesty_lever.cases.model",
    "Case": "zesty_lever.cases.model",
    "Setup": "zesty_lever.cases.model",
    "parse_case": "zesty_lever.cases.parse",
    "Result": "zesty_lever.analysis",
    "analyse": "zesty_lever.analysis",
    "analyse_many": "zesty_lever.analysis",
    "CaseError": "zesty_lever.problems",
}


def __getattr__(name: str) -> Any:
    """Load a public name when it is first asked for: the window's start needs few of them."""
    if name not in _HOMES:
        raise AttributeError(f"module 'zesty_lever' has no attribute {name!r}")
    from importlib import import_module

    return getattr(import_module(_HOMES[name]), name)
