"""Loads the variations from their data files and fills a case's settings.

Adding a variation is adding a file under ``data/catalogue/<family>``.
"""

from __future__ import annotations

import math
import tomllib
from collections.abc import Mapping
from dataclasses import dataclass
from functools import cache
from importlib.resources.abc import Traversable
from typing import Any

from zesty_lever.case import (
    SCHOOLS,
    Athlete,
    Case,
    CaseError,
    out_of_range,
    unknown_key,
)
from zesty_lever.tables import data_path


@dataclass(frozen=True)
class Setting:
    """One lever of a technique: what it is called, its unit and the range it may take."""

    key: str
    name: str
    gym: str
    unit: str
    low: float
    high: float
    step: float
    help: str

    def check(self, value: float) -> float:
        """Return ``value`` or raise `CaseError` with the range."""
        if isinstance(value, bool) or not isinstance(value, int | float):
            raise CaseError(
                "wrong-type",
                f"settings.{self.key} is {value!r}; allowed is a number from "
                f"{self.low:g} to {self.high:g} {self.unit}".rstrip(),
                key=f"settings.{self.key}",
                value=value,
                unit=self.unit,
                allowed=[self.low, self.high],
            )
        if not math.isfinite(value) or not self.low <= value <= self.high:
            raise out_of_range(f"settings.{self.key}", value, self.unit, (self.low, self.high))
        return float(value)


@dataclass(frozen=True)
class Variation:
    """One catalogue entry: how it is set up by default and what it carries."""

    id: str
    family: str
    name: str
    gym: str
    order: int
    builder: str
    rep_order: str
    contact_rule: str
    options: Mapping[str, Any]
    hold: str
    grip_outward: float
    settings: Mapping[str, Setting]
    techniques: Mapping[str, Mapping[str, Any]]
    solvable: tuple[str, ...]
    free: str
    depth: str
    direction: str
    skill: int
    load: Mapping[str, Any] | None
    lines: tuple[Mapping[str, Any], ...]
    equipment: tuple[str, ...]
    limited_by: str

    def default_load_kg(self) -> float:
        """Load that the variation starts with, kg (0 for bodyweight ones)."""
        return float(self.load["default_kg"]) if self.load else 0.0

    def load_range_kg(self) -> tuple[float, float]:
        """Lightest and heaviest load accepted, kg."""
        if self.load is None:
            return (0.0, 0.0)
        low, high = self.load["range_kg"]
        return float(low), float(high)

    def default_technique(self, athlete: Athlete, school: str) -> dict[str, float | None]:
        """All settings at their defaults for this athlete and school; the free one is None.

        A default that goes with the build ends where its setting's range ends.
        """
        values: dict[str, float | None] = {}
        for key, given in self.techniques[school].items():
            setting = self.settings[key]
            values[key] = min(max(_resolve_default(given, athlete), setting.low), setting.high)
        if values.get("heel_height_m") == 0.0 and athlete.shoe_heel_m:
            values["heel_height_m"] = athlete.shoe_heel_m
        if self.free:
            values[self.free] = None
        return values


def _resolve_default(given: Any, athlete: Athlete) -> float:
    if isinstance(given, Mapping):
        return round(float(given["per_stature"]) * athlete.height_m, 3)
    return float(given)


@cache
def catalogue() -> dict[str, Variation]:
    """Every variation by id, families together, in their order."""
    found: list[Variation] = []
    folders = [f for f in data_path("catalogue").iterdir() if f.joinpath("family.toml").is_file()]
    for family, folder in sorted(
        ((_family(f), f) for f in folders), key=lambda pair: int(pair[0]["order"])
    ):
        members = []
        for file in folder.iterdir():
            if file.name.endswith(".toml") and file.name != "family.toml":
                data = tomllib.loads(file.read_text(encoding="utf-8"))
                members.append(_variation(data, family))
        found += sorted(members, key=lambda v: v.order)
    return {variation.id: variation for variation in found}


def _family(folder: Traversable) -> dict[str, Any]:
    """A family's file; one that extends another takes over the other's settings."""
    family = tomllib.loads(folder.joinpath("family.toml").read_text(encoding="utf-8"))
    if "extends" in family:
        base = _family(data_path("catalogue", family["extends"]))
        taken = {k: v for k, v in base["settings"].items() if k not in family.get("leaves_out", ())}
        family["settings"] = {**taken, **family["settings"]}
    return family


def variation(name: str) -> Variation:
    """Look up a variation or raise `CaseError` listing the known ones."""
    known = catalogue()
    if name not in known:
        raise CaseError(
            "unknown-variation",
            f"variation {_short(name)} is not in the catalogue; known are: {', '.join(known)}",
            key="variation",
            value=name,
            allowed=list(known),
        )
    return known[name]


def _short(name: str) -> str:
    return name if len(name) <= 60 else name[:57] + "..."


def _variation(data: dict[str, Any], family: dict[str, Any]) -> Variation:
    """One variation from its file, its family's, and the part of the family for its stance."""
    if "takes" in data:
        other = _family(data_path("catalogue", data["takes"]))
        family = {
            **family,
            "settings": {**other["settings"], **family["settings"]},
            **{k: other[k] for k in ("one_leg", "two_feet") if k in other},
        }
    rear = data.get("options", {}).get("rear")
    stance = {} if rear is None else family["one_leg" if rear == "none" else "two_feet"]
    described = {
        **family["settings"],
        **stance.get("settings", {}),
        **data.get("settings", {}),
    }
    for key in (
        *family.get("sets_out", {}).get(data.get("builder", ""), ()),
        *data.get("leaves_out", ()),
    ):
        described.pop(key, None)
    own = data.get("technique", {})
    techniques = {}
    for school in SCHOOLS:
        merged = {
            **family["technique"]["even"],
            **stance.get("technique", {}),
            **own.get("even", {}),
            **(family["technique"][school] if school != "even" else {}),
            **(own.get(school, {}) if school != "even" else {}),
        }
        techniques[school] = {key: merged.get(key, 0) for key in described}
    settings = {
        key: Setting(
            key,
            s["name"],
            s["gym"],
            s["unit"],
            float(s["range"][0]),
            float(s["range"][1]),
            float(s["step"]),
            s["help"],
        )
        for key, s in described.items()
    }
    return Variation(
        id=data["id"],
        family=family["id"],
        name=data["name"],
        gym=data["gym"],
        order=data["order"],
        builder=data.get("builder", family.get("builder", "level")),
        rep_order=data.get("rep_order", family.get("rep_order", "top-first")),
        contact_rule=data.get("contact_rule", family.get("contact_rule", "least-effort")),
        options=data.get("options", {}),
        hold=data["hold"],
        grip_outward=float(data.get("grip_outward", 0.0)),
        settings=settings,
        techniques=techniques,
        solvable=tuple(k for k in data.get("solvable", family["solvable"]) if k in described),
        free=data.get("free", family["free"]),
        depth=next((k for k in (family.get("depth", ""), "bar_height_m") if k in described), ""),
        direction=data.get("direction", family.get("direction", "vertical")),
        skill=int(data.get("skill", family.get("skill", 1))),
        load=data.get("load"),
        lines=tuple(data.get("lines", ())),
        equipment=tuple(data["equipment"]),
        limited_by=data["limited_by"],
    )


def fill(case: Case) -> Case:
    """Return the case with every setting and load filled in, checked against the catalogue.

    Exactly one or none of the solvable angles is None afterwards. Raises `CaseError`.
    """
    chosen = variation(case.variation)
    settings = _fill_settings(case, chosen)
    low, high = chosen.load_range_kg()
    load = chosen.default_load_kg() if case.load_kg is None else case.load_kg
    if not low <= load <= high:
        raise out_of_range("load_kg", load, "kg", (low, high), f" for {chosen.id}")
    if case.load_up_kg is not None and not low <= case.load_up_kg <= high:
        raise out_of_range("load_up_kg", case.load_up_kg, "kg", (low, high), f" for {chosen.id}")
    for best in case.athlete.best_loads_kg:
        if best not in catalogue():
            raise unknown_key(f"athlete.best_loads_kg.{best}", tuple(catalogue()))
    rule = case.contact_rule or chosen.contact_rule
    return case.model_copy(update={"settings": settings, "load_kg": load, "contact_rule": rule})


def _fill_settings(case: Case, chosen: Variation) -> dict[str, float | None]:
    for key in case.settings:
        if key not in chosen.settings:
            raise unknown_key(f"settings.{key}", tuple(chosen.settings))
    values = chosen.default_technique(case.athlete, case.school)
    given = case.settings
    for key, value in given.items():
        if value is None:
            if key not in chosen.solvable:
                raise CaseError(
                    "not-solvable",
                    f"settings.{key} can't be left to balance; one of "
                    f"{', '.join(chosen.solvable)} can",
                    key=f"settings.{key}",
                    allowed=list(chosen.solvable),
                )
            values[key] = None
        else:
            values[key] = chosen.settings[key].check(value)
    asked = [k for k, v in given.items() if v is None]
    free = [k for k, v in values.items() if v is None]
    if len(free) > 1 and asked and chosen.free not in given:
        raise CaseError(
            "needs-value",
            f"settings.{asked[0]} is left to balance, so settings.{chosen.free} needs a value",
            key=f"settings.{chosen.free}",
            allowed=[chosen.settings[chosen.free].low, chosen.settings[chosen.free].high],
        )
    if len(free) > 1:
        raise CaseError(
            "two-free",
            f"only one angle can be left to balance, these are: {', '.join(free)}",
            key=f"settings.{free[1]}",
            allowed=list(chosen.solvable),
        )
    _limit_default_shin(case, values, given)
    _check_pressure(values, given)
    return values


def _limit_default_shin(
    case: Case, values: dict[str, float | None], given: Mapping[str, Any]
) -> None:
    """A default (never a given) shin stays inside the athlete's ankle range."""
    shin = values.get("shin_deg")
    if "shin_deg" in given or shin is None:
        return
    toe_out, lift = (math.radians(values.get(k) or 0.0) for k in ("toe_out_deg", "heel_lift_deg"))
    most = math.radians(case.athlete.limit_deg("ankle_dorsiflexion")) + lift
    allowed = math.degrees(math.atan(math.tan(min(most, 1.2)) * math.cos(toe_out)))
    values["shin_deg"] = min(shin, math.floor(allowed * 10) / 10)


def _check_pressure(values: dict[str, float | None], given: Mapping[str, Any]) -> None:
    """With the heel up only the ball is left to stand on."""
    if not values.get("heel_lift_deg"):
        return
    if "pressure_fraction" in given and given["pressure_fraction"] != 0.73:
        raise CaseError(
            "out-of-range",
            f"settings.pressure_fraction is {given['pressure_fraction']:g}; with the heel lifted "
            "the pressure can only sit at the ball, 0.73",
            key="settings.pressure_fraction",
            value=given["pressure_fraction"],
            allowed=[0.73, 0.73],
        )
    values["pressure_fraction"] = 0.73
