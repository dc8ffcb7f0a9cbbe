"""Fills a case in: every setting, load and rule that was left out, checked against the catalogue."""

from __future__ import annotations

import math
from collections.abc import Mapping
from typing import Any

from zesty_lever.cases.model import Athlete, Case, ResolvedCase
from zesty_lever.exercises.catalogue import Variation, catalogue, variation
from zesty_lever.physics.body import landmark
from zesty_lever.problems import CaseError, out_of_range, unknown_key

MID_FOOT = 0.5
# A default shin keeps so much of the ankle in hand: the way down leans it up to 0.45 degrees further than the bottom.
IN_HAND_DEG = 0.7


def resolve(case: Case) -> ResolvedCase:
    """Return the case with every setting and load filled in.

    Exactly one or none of the solvable angles is None afterwards. Raises `CaseError`.
    """
    chosen = variation(case.variation)
    settings = _fill_settings(case, chosen)
    low, high = chosen.load_range_kg()
    load = chosen.default_load_kg() if case.load_kg is None else case.load_kg
    for key, value in (("load_kg", load), ("load_up_kg", case.load_up_kg)):
        if value is not None and not low <= value <= high:
            raise out_of_range(key, value, "kg", (low, high), f" for {chosen.id}")
    check_athlete(case.athlete)
    rule = case.contact_rule or chosen.contact_rule
    given = {name: getattr(case, name) for name in Case.__struct_fields__}
    return ResolvedCase(**{**given, "settings": settings, "load_kg": load, "contact_rule": rule})


def check_athlete(athlete: Athlete) -> None:
    """An athlete's bests are of known variations, inside their ranges. Raises `CaseError`."""
    known = catalogue()
    for best in athlete.best_loads_kg:
        if best not in known:
            raise unknown_key(f"athlete.best_loads_kg.{best}", tuple(known))
    _check_bests(athlete)


def _check_bests(athlete: Athlete) -> None:
    """Bests with repetitions are of known variations, inside their loads and settings."""
    for number, best in enumerate(athlete.bests):
        key = f"athlete.bests.{number}"
        if best.variation not in catalogue():
            raise unknown_key(f"{key}.variation.{best.variation}", tuple(catalogue()))
        chosen = variation(best.variation)
        low, high = chosen.load_range_kg()
        if not low <= best.load_kg <= high:
            raise out_of_range(
                f"{key}.load_kg", best.load_kg, "kg", (low, high), f" for {chosen.id}"
            )
        for setting, value in best.settings.items():
            if setting not in chosen.settings:
                raise unknown_key(f"{key}.settings.{setting}", tuple(chosen.settings))
            if value is not None:
                chosen.settings[setting].check(value)


def technique_of(chosen: Variation, athlete: Athlete, school: str) -> dict[str, float | None]:
    """A variation's default technique for an athlete and a school; what balance solves is None."""
    return chosen.default_technique(athlete.height_m, athlete.shoe_heel_m, school)


def _fill_settings(case: Case, chosen: Variation) -> dict[str, float | None]:
    given = case.settings
    for key in given:
        if key not in chosen.settings:
            raise unknown_key(f"settings.{key}", tuple(chosen.settings))
    values = technique_of(chosen, case.athlete, case.school)
    for key, value in given.items():
        if value is None and key not in chosen.solvable:
            raise CaseError(
                "not-solvable",
                f"settings.{key} can't be left to balance; one of {', '.join(chosen.solvable)} can",
                key=f"settings.{key}",
                allowed=list(chosen.solvable),
            )
        values[key] = None if value is None else chosen.settings[key].check(value)
    _check_one_free(given, values, chosen)
    _rise_with_heel(values, given, chosen)
    _limit_default_shin(case, chosen, values, given)
    _check_pressure(values, given)
    return values


def _check_one_free(
    given: Mapping[str, Any], values: Mapping[str, float | None], chosen: Variation
) -> None:
    """At most one angle is left to balance."""
    asked = [k for k, v in given.items() if v is None]
    free = [k for k, v in values.items() if v is None]
    if len(free) < 2:
        return
    if asked and chosen.free not in given:
        raise CaseError(
            "needs-value",
            f"settings.{asked[0]} is left to balance, so settings.{chosen.free} needs a value",
            key=f"settings.{chosen.free}",
            allowed=list(chosen.settings[chosen.free].range),
        )
    raise CaseError(
        "two-free",
        f"only one angle can be left to balance, these are: {', '.join(free)}",
        key=f"settings.{free[1]}",
        allowed=list(chosen.solvable),
    )


def most_default_shin_deg(
    case: Case, chosen: Variation, values: Mapping[str, float | None]
) -> float:
    """How far a default shin may lean before the athlete's ankle (the rear one of a flat rear foot) ends."""
    toe_out, lift = (math.radians(values.get(k) or 0.0) for k in ("toe_out_deg", "heel_lift_deg"))
    most = math.radians(case.athlete.limit_deg("ankle_dorsiflexion")) + lift
    allowed = math.degrees(math.atan(math.tan(min(most, 1.2)) * math.cos(toe_out)))
    return allowed - chosen.options.rear_shin_more_deg


def _rise_with_heel(
    values: dict[str, float | None], given: Mapping[str, Any], chosen: Variation
) -> None:
    """A default shin leans as many degrees further as the heel comes up: they rise together."""
    shin, lift = values.get("shin_deg"), values.get("heel_lift_deg")
    if shin is not None and lift and "shin_deg" not in given:
        values["shin_deg"] = chosen.settings["shin_deg"].clamped(shin + lift)


def _limit_default_shin(
    case: Case, chosen: Variation, values: dict[str, float | None], given: Mapping[str, Any]
) -> None:
    """A default (never a given) shin stays inside the athlete's ankle range, on the way down too.

    Whom the ankle holds back keeps the weight no further forward than mid-foot, unless it is asked for.
    """
    shin = values.get("shin_deg")
    if "shin_deg" in given or shin is None:
        return
    shin = _below_another(case, chosen, values, shin)
    kept = most_default_shin_deg(case, chosen, values) - IN_HAND_DEG
    if shin <= kept:
        return
    values["shin_deg"] = math.floor(kept * 10) / 10
    pressure = values.get("pressure_fraction")
    if pressure is not None and "pressure_fraction" not in given:
        values["pressure_fraction"] = min(pressure, MID_FOOT)


def _below_another(
    case: Case, chosen: Variation, values: dict[str, float | None], shin: float
) -> float:
    """A default shin that goes with another lift's stays steeper than that lift's own."""
    if chosen.shin_below is None:
        return shin
    other = variation(chosen.shin_below.lift)
    technique = technique_of(other, case.athlete, case.school)
    ankle = most_default_shin_deg(case, other, technique) - IN_HAND_DEG
    own = min(technique["shin_deg"] or 0.0, ankle)
    steeper = min(shin, math.floor(10.0 * (own - chosen.shin_below.by_deg)) / 10.0)
    kept = chosen.settings["shin_deg"].clamped(steeper)
    values["shin_deg"] = kept
    return kept


def _check_pressure(values: dict[str, float | None], given: Mapping[str, Any]) -> None:
    """With the heel up only the ball is left to stand on."""
    if not values.get("heel_lift_deg"):
        return
    ball = landmark("ball_from_heel")
    if "pressure_fraction" in given and given["pressure_fraction"] != ball:
        raise CaseError(
            "out-of-range",
            f"settings.pressure_fraction is {given['pressure_fraction']:g}; with the heel lifted "
            f"the pressure can only sit at the ball, {ball:g}",
            key="settings.pressure_fraction",
            value=given["pressure_fraction"],
            allowed=[ball, ball],
        )
    values["pressure_fraction"] = ball
