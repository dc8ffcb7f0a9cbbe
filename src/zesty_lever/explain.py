"""Says in plain words why a pose cannot exist, and what would help."""

from __future__ import annotations

import math
from collections.abc import Mapping

from zesty_lever.body import landmark
from zesty_lever.case import Case, CaseError
from zesty_lever.exercises.catalogue import Variation


def explain_failure(
    case: Case,
    chosen: Variation,
    code: str,
    key: str,
    allowed: tuple[float, float] | None,
    facts: Mapping[str, float],
    *,
    advise: bool = True,
) -> CaseError:
    """Build the error of an infeasible case.

    ``allowed`` is the range of ``key`` that works with everything else held (None: no value of it
    alone does); ``facts`` are figures of the failing pose. Without ``advise`` nothing is said of what
    would help.
    """
    setting = chosen.settings[key]
    value = case.settings.get(key)
    words = {
        "out-of-reach": _out_of_reach,
        "hip-opening": _hip_opening,
        "ankle-limit": _ankle_limit,
        "would-tip": _would_tip,
        "cannot-balance": _cannot_balance,
        "knee-on-floor": lambda *_: "The rear knee would go through the floor",
        "knee-limit": _knee_limit,
        "hips-under-floor": lambda *_: "The hips would be below the floor",
        "head-on-floor": lambda *_: "The head would reach the floor",
    }[code]
    text = f"{words(case, facts)}."
    if advise:
        text += f" {_advice(setting.name, setting.unit, value, allowed)}."
    bounds = [float(f"{b:.4g}") for b in allowed] if allowed else None
    return CaseError(
        code, text, key=key, value=value, unit=setting.unit, allowed=bounds, infeasible=True
    )


def _advice(name: str, unit: str, value: float | None, allowed: tuple[float, float] | None) -> str:
    if allowed is None or value is None:
        return f"No {name.lower()} alone helps: change depth, shin or trunk"
    low, high = allowed
    target = low if value < low else high
    if unit == "m":
        shift = math.ceil(abs(value - target) * 100)
        return f"{name} works from {100 * low:.0f} to {100 * high:.0f} cm; change it by {shift} cm"
    space = "\N{DEGREE SIGN}" if unit == "deg" else ""
    shift = math.ceil(abs(value - target))
    return f"{name} works from {low:.0f}{space} to {high:.0f}{space}; change it by {shift}{space}"


def _out_of_reach(case: Case, _: Mapping[str, float]) -> str:
    if "bench_height_m" in case.settings:
        return "Thigh and shank can't stand that way between the hips and the feet"
    key = "step_m" if case.settings.get("step_m") is not None else "stance_m"
    reach_cm = 100 * (case.settings[key] or 0.0)
    return f"The legs are too short for a {'step' if key == 'step_m' else 'stance'} of {reach_cm:.0f} cm"


def _hip_opening(case: Case, facts: Mapping[str, float]) -> str:
    limit = case.athlete.limit_deg("hip_opening")
    return (
        f"The thigh would open {facts['opening_deg']:.0f}\N{DEGREE SIGN} to the side; "
        f"this athlete's hip opens {limit:.0f}\N{DEGREE SIGN}"
    )


def _ankle_limit(case: Case, facts: Mapping[str, float]) -> str:
    limit = case.athlete.limit_deg("ankle_dorsiflexion")
    return (
        f"The ankle would bend {facts['dorsiflexion_deg']:.0f}\N{DEGREE SIGN}; "
        f"this athlete's ankle bends {limit:.0f}\N{DEGREE SIGN} before the heel lifts"
    )


def _knee_limit(case: Case, facts: Mapping[str, float]) -> str:
    limit = case.athlete.limit_deg("knee_flexion")
    return (
        f"The knee would bend {facts['knee_deg']:.0f}\N{DEGREE SIGN}; "
        f"this athlete's knee bends {limit:.0f}\N{DEGREE SIGN}"
    )


def _would_tip(case: Case, facts: Mapping[str, float]) -> str:
    """Where the pressure would have to be, and the push at shoulder height that would hold it."""
    fraction, ball = facts["fraction"], landmark("ball_from_heel")
    if "knee_share" in case.settings:
        where = "ahead of the knees" if fraction > 1.0 else "behind the insteps"
        return f"Would tip: the load falls {where}"
    forward = fraction > ball
    edge = ball if forward else 0.0
    foot = case.athlete.lengths_m.get("foot", 0.152 * case.athlete.height_m)
    turned = math.cos(math.radians(case.settings["toe_out_deg"] or 0.0))
    past = abs(fraction - edge) * foot * turned
    push = facts["weight_N"] * past / facts["shoulder_height_m"]
    way, mark = (
        ("forward", "ahead of the ball of the foot") if forward else ("back", "behind the heel")
    )
    return (
        f"Would tip {way}: the load falls {100 * past:.0f} cm {mark}; a hold of about "
        f"{push:.0f} N at shoulder height would keep it up"
    )


def _cannot_balance(case: Case, _: Mapping[str, float]) -> str:
    free = next((k for k, v in case.settings.items() if v is None), None)
    if free is None or free == "trunk_deg":
        return "No trunk lean brings the load over the pressure point"
    if free in ("hold_N", "seat_share", "front_share"):
        return "These angles can't be held together: on the way the load falls outside the foot"
    name = {"shin_deg": "shin", "thigh_deg": "thigh"}[free]
    return f"No {name} angle brings the load over the pressure point with this trunk lean"
