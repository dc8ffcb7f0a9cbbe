"""Strength apart from mobility: what a best says where the athlete's own range forces the model off the usual set-up.

A pose that stiff ankles or hips force is a guess of ours, and its smaller moment at the knee is no weak knee. So a best
without settings of its own is read by the same lift with usual range; one whose settings were measured or typed, by
its own.
"""

from __future__ import annotations

from collections.abc import Mapping

from zesty_lever.cases.model import Athlete, Best, Case, SettingValue
from zesty_lever.cases.resolve import IN_HAND_DEG, most_default_shin_deg, technique_of
from zesty_lever.exercises.catalogue import variation
from zesty_lever.joints import SIDES
from zesty_lever.physics.body import landmark

# A typed angle so near the end of the athlete's range was forced by it, deg.
AT_THE_END_DEG = 1.0


def with_usual_range(athlete: Athlete) -> Athlete:
    """The athlete with no limit below the usual one; the same where none is."""
    kept = {}
    for name, limit in athlete.limits_deg.items():
        whole = name
        for side in SIDES:
            whole = whole.removesuffix(f"_{side}")
        if limit >= landmark(f"{whole}_limit_deg"):
            kept[name] = limit
    return athlete if kept == athlete.limits_deg else athlete.changed(limits_deg=kept)


def stiff(athlete: Athlete) -> bool:
    """Whether any range of the athlete is below the usual one."""
    return with_usual_range(athlete) != athlete


def own_settings(athlete: Athlete, best: Best, school: str) -> Mapping[str, SettingValue]:
    """How a best was done, where that says something: settings at the end of the athlete's own range count as none."""
    shin = best.settings.get("shin_deg")
    if shin is None or not stiff(athlete):
        return best.settings
    entry = variation(best.variation)
    case = Case(athlete=athlete, variation=best.variation)
    technique = technique_of(entry, athlete, school)
    most = most_default_shin_deg(case, entry, technique) - IN_HAND_DEG
    usual = technique["shin_deg"]
    forced = shin >= most - AT_THE_END_DEG and usual is not None and usual > most
    return {} if forced else best.settings
