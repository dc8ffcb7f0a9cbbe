"""Rules of advice: the numbers that a coach may change; data/plan/rules.toml, read and checked."""

from __future__ import annotations

import tomllib
from collections.abc import Mapping
from functools import cache
from typing import Annotated, Any, get_args

import msgspec

from zesty_lever.models import Model, field_names, quantity, read
from zesty_lever.problems import CaseError
from zesty_lever.tables import data_path

Share = Annotated[float, quantity("", 0.0, 0.9)]
Days = Annotated[float, quantity("days", 1, 400)]
Count = Annotated[float, quantity("", 1, 60)]
Years = Annotated[float, quantity("years", 0, 110)]
OwnShare = Annotated[float, quantity("", 0.05, 1.0)]
Near = Annotated[float, quantity("m", 0.0, 0.5)]
Seconds = Annotated[float, quantity("s", 1, 600)]


class Rules(Model, frozen=True, kw_only=True):
    """Every number of the rules, with its range. Meanings stand in the data file."""

    stop_pain: Annotated[float, quantity("of 10", 1, 10)]
    stop_rise: Annotated[float, quantity("of 10", 1, 10)]
    lighter_share: Share
    short_reps: Count
    short_sets: Annotated[float, quantity("", 0.1, 1.0)]
    away_days_1: Days
    away_share_1: Share
    away_days_2: Days
    away_share_2: Share
    away_days_3: Days
    away_share_3: Share
    back_days: Days
    good_sessions: Count
    good_sessions_beginner: Count
    effort_left: Annotated[float, quantity("repetitions in reserve", 0, 5)]
    step_waits: Annotated[float, quantity("", 0.0, 1.0)]
    reps_above: Count
    seconds_above: Seconds
    cluster_rest: Seconds
    cluster_most: Count
    cluster_least: Count
    rest_pause_least: Count
    tension_up: Count
    tension_low: Count
    hold_step: Seconds
    hold_most: Seconds
    side_gap: Share
    side_sessions: Count
    deload_sets: Annotated[float, quantity("", 0.1, 1.0)]
    deload_load: Annotated[float, quantity("", 0.3, 1.0)]
    young_years: Years
    small_height: Annotated[float, quantity("m", 1.0, 2.0)]
    small_mass: Annotated[float, quantity("kg", 20, 80)]
    young_in_hands: Annotated[float, quantity("", 0.0, 0.5)]
    young_reps: Count
    careful_left: Annotated[float, quantity("repetitions in reserve", 0, 5)]
    young_sessions: Count
    new_years: Years
    beginner_share: OwnShare
    return_share: OwnShare
    return_days: Days
    return_use: OwnShare
    older_years: Years
    older_training: Years
    older_share: OwnShare
    same_angle: Annotated[float, quantity("deg", 0, 30)]
    same_height: Near
    same_stance: Near
    same_foot: Near
    same_load: Annotated[float, quantity("", 0.0, 0.2)]
    recent_days: Days
    clear_pain: Annotated[float, quantity("of 10", 1, 10)]
    spare_share: OwnShare
    spare_start: OwnShare
    sore_score: Annotated[float, quantity("of 10", 1, 10)]
    pain_sessions: Count
    loads_from: Annotated[float, quantity("N m/kg", 0.0, 1.0)]
    stuck_sessions: Count
    easings: Count
    easing_days: Days
    rising_days: Days
    rising_lifts: Count
    hard_rating: Annotated[float, quantity("of 10", 1, 10)]
    hard_sessions: Count
    least_share: OwnShare

    def away_share(self, days: int) -> float:
        """How much lighter after so many days away."""
        steps = (
            (self.away_days_3, self.away_share_3),
            (self.away_days_2, self.away_share_2),
            (self.away_days_1, self.away_share_1),
        )
        return next((share for after, share in steps if days >= after), 0.0)


@cache
def _file() -> dict[str, Any]:
    return tomllib.loads(data_path("plan", "rules.toml").read_text(encoding="utf-8"))


@cache
def usual_rules() -> Rules:
    """The rules as they ship."""
    return read(Rules, _file()["numbers"], "rules")


def rules_with(changes: Mapping[str, float]) -> Rules:
    """The usual rules with a coach's own numbers. Raises `CaseError` naming key, value and range."""
    unknown = [key for key in changes if key not in field_names(Rules)]
    if unknown:
        known = ", ".join(field_names(Rules))
        raise CaseError(
            "unknown-key", f"rules.{unknown[0]} is no rule; known are: {known}", key=unknown[0]
        )
    return read(Rules, {**_file()["numbers"], **changes}, "rules")


def rule_names() -> dict[str, str]:
    """What each number is called on the screen."""
    names: dict[str, str] = _file()["names"]
    return names


def rule_range(key: str) -> tuple[float, float]:
    """Least and most of a number."""
    field = next(f for f in msgspec.structs.fields(Rules) if f.name == key)
    meta = next(m for m in get_args(field.type) if isinstance(m, msgspec.Meta))
    return float(meta.ge or 0.0), float(meta.le or 0.0)
