"""The ``effort`` object of results and of ``zesty-lever effort``."""

from __future__ import annotations

from typing import Any

from zesty_lever.analysis import Result
from zesty_lever.choosing.also import also_uses
from zesty_lever.choosing.bests import effort_of, use_over_the_rep
from zesty_lever.choosing.calibrate import Strength


def effort_object(result: Result, strength: Strength) -> dict[str, Any]:
    """Use over the way up, top use, limit, hard zone, the best expected. Raises `CaseError`."""
    case = result.case
    told = effort_of(case, strength)
    best = None
    if told.best is not None:
        best = {
            "median": round(told.best.median_kg, 1),
            "low": round(told.best.low_kg, 1),
            "high": round(told.best.high_kg, 1),
            "from": list(strength.known),
            "tested": told.best.tested,
        }
    return {
        "frames": use_over_the_rep(case, strength),
        "top_use": {
            "median": round(told.top, 3),
            "low": round(told.low, 3),
            "high": round(told.high, 3),
            "joint": told.joint or None,
        },
        "uses": {joint: round(use[0], 3) for joint, use in told.uses.items()},
        "also": {name: round(use, 3) for name, use in also_uses(result).items()},
        "hard_zone": [round(end, 3) for end in told.hard_zone],
        "limit": {
            "joint": told.joint or None,
            "share_of_draws": round(told.share_of_draws, 3),
            "other": told.other or None,
        },
        "best_kg": best,
        "basis": told.basis,
    }
