"""What goes in: the typed case, and the errors that name what is wrong with it.

The JSON names, units and ranges are those of ``docs/formats.md``. Ranges that depend on the
variation or on the athlete's height are checked where those are known (`exercises`, `limits`).
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from typing import Annotated, Any, Literal, Self

from pydantic import (
    BeforeValidator,
    Field,
    ValidationError,
    WithJsonSchema,
    model_validator,
)
from pydantic.fields import FieldInfo

from zesty_lever.body import LENGTHS, SIDES, estimated_length_m, landmark
from zesty_lever.errors import CaseError, out_of_range, printable, quantity, unknown_key
from zesty_lever.loads import (
    AnyLoad,
    BandLoad,
    CableLoad,
    MassLoad,
    PushLoad,
    StrictModel,
)

__all__ = (
    "LIMITS",
    "SCHOOLS",
    "Athlete",
    "BandLoad",
    "CableLoad",
    "Case",
    "CaseError",
    "MassLoad",
    "PushLoad",
    "School",
    "Sore",
    "athlete_json",
    "out_of_range",
    "parse_athlete",
    "parse_case",
    "unknown_key",
)

SCHOOLS = ("hips-first", "even", "knees-travel")
School = Literal["hips-first", "even", "knees-travel"]
LIMITS = ("ankle_dorsiflexion", "hip_flexion", "straight_leg", "hip_opening", "knee_flexion")
MEASURED_LENGTH_SPREAD = 0.35


# A length's range depends on the height: `Athlete` checks it.
Length = Annotated[float, Field(allow_inf_nan=False, json_schema_extra={"unit": "m"})]
Limit = Annotated[float, quantity("deg", 0.0, 180.0)]
BestLoad = Annotated[float, quantity("kg", 0.0, 600.0)]
Moving = Annotated[float, quantity("s", 0.3, 30.0)]
Waiting = Annotated[float, quantity("s", 0.0, 60.0)]
Share = Annotated[float, quantity("", 0.0, 1.0)]
LEAST_TRAVEL = 0.2


def _balance_is_none(value: Any) -> Any:
    return None if value == "balance" else value


_SETTING_SCHEMA = {"anyOf": [{"type": "number"}, {"type": "null"}, {"const": "balance"}]}
SettingValue = Annotated[
    float | None, BeforeValidator(_balance_is_none), WithJsonSchema(_SETTING_SCHEMA)
]


SORE_PLACES = (
    "neck",
    "shoulder",
    "elbow",
    "wrist",
    "upper back",
    "lower back",
    "hip",
    "knee",
    "ankle",
    "foot",
)


class Sore(StrictModel):
    """A sore place, with the coach's note. Changes no mechanics."""

    place: Literal[
        "neck",
        "shoulder",
        "elbow",
        "wrist",
        "upper back",
        "lower back",
        "hip",
        "knee",
        "ankle",
        "foot",
    ]
    side: Literal["left", "right", "both"] = "both"
    note: str = Field(default="", max_length=200)


class Athlete(StrictModel):
    """One athlete: build, reach limits (deg), best loads (kg), and what the coach noted."""

    name: str | None = Field(default=None, max_length=80)
    height_m: float = quantity("m", 1.2, 2.3)
    mass_kg: float = quantity("kg", 30.0, 250.0)
    sex: Literal["male", "female"]
    lengths_m: dict[str, Length] = Field(default_factory=dict)
    limits_deg: dict[str, Limit] = Field(default_factory=dict)
    best_loads_kg: dict[str, BestLoad] = Field(default_factory=dict)
    sore: tuple[Sore, ...] = Field(default=(), max_length=20)
    shoe_heel_m: float = quantity("m", 0.0, 0.06, 0.0)
    school: School | None = None

    @model_validator(mode="after")
    def _known_names_in_range(self) -> Self:
        _only_known("athlete.lengths_m", self.lengths_m, LENGTHS)
        sided = (*LIMITS, *(f"{limit}_{side}" for limit in LIMITS for side in SIDES))
        _only_known("athlete.limits_deg", self.limits_deg, sided)
        for name, value in self.lengths_m.items():
            allowed = self.length_range_m(name)
            if not allowed[0] <= value <= allowed[1]:
                why = f" at a height of {self.height_m:g} m"
                raise out_of_range(f"athlete.lengths_m.{name}", value, "m", allowed, why)
        return self

    def length_range_m(self, name: str) -> tuple[float, float]:
        """Range in which a measured length is believed, m: the estimate and a third around it."""
        estimate = float(estimated_length_m(name, self.height_m))
        return estimate * (1 - MEASURED_LENGTH_SPREAD), estimate * (1 + MEASURED_LENGTH_SPREAD)

    def limit_deg(self, name: str) -> float:
        """Limit ``name`` in degrees: the stiffer side where both are given, else the default."""
        default = landmark(f"{name}_limit_deg")
        given = self.limits_deg.get(name, default)
        return min(self.limits_deg.get(f"{name}_{side}", given) for side in SIDES)


class Case(StrictModel):
    """One athlete doing one variation, set up one way. What is left out takes its default."""

    format: Literal["zesty-lever-case/1"]
    athlete: Athlete
    variation: str
    school: School = "even"
    settings: dict[str, SettingValue] = Field(default_factory=dict)
    load_kg: float | None = quantity("kg", 0.0, 500.0, None)
    load_up_kg: float | None = quantity("kg", 0.0, 500.0, None)
    loads: tuple[AnyLoad, ...] = Field(default=(), max_length=12)
    tempo_s: tuple[Moving, Waiting, Moving, Waiting] = (2.0, 0.0, 1.0, 0.0)
    travel: tuple[Share, Share] = (0.0, 1.0)
    style: Literal["full", "one-and-a-quarter"] = "full"
    mode: Literal["static", "dynamic"] = "static"
    contact_rule: Literal["least-effort", "vertical"] | None = None
    frames: Literal["rep", "bottom", "none"] = "rep"

    @model_validator(mode="before")
    @classmethod
    def _tuples_from_lists(cls, data: Any) -> Any:
        """JSON has lists only; strict models want tuples."""
        return _tuples(data) if isinstance(data, dict) else data

    @model_validator(mode="after")
    def _some_travel(self) -> Self:
        low, high = self.travel
        if high - low < LEAST_TRAVEL:
            raise CaseError(
                "out-of-range",
                f"travel is {low:g} to {high:g}; the second number must be at least "
                f"{LEAST_TRAVEL:g} more than the first",
                key="travel",
                value=round(high - low, 6),
                allowed=[LEAST_TRAVEL, 1.0],
            )
        return self

    def as_json(self) -> dict[str, Any]:
        """Return the case as plain JSON data, without the keys that were never given."""
        return self.model_dump(mode="json", exclude_none=False, exclude={"athlete"}) | {
            "athlete": athlete_json(self.athlete)
        }


def athlete_json(athlete: Athlete) -> dict[str, Any]:
    """An athlete as plain JSON data, without what was never noted."""
    data = athlete.model_dump(mode="json", exclude_none=True)
    return {k: v for k, v in data.items() if k not in ("sore", "shoe_heel_m") or v}


def _tuples(data: Any) -> Any:
    if isinstance(data, dict):
        return {k: _tuples(v) for k, v in data.items()}
    if isinstance(data, list):
        return tuple(_tuples(v) for v in data)
    return data


def parse_case(data: Any) -> Case:
    """Read a case from JSON data (already parsed). Raises `CaseError`, naming key and range."""
    if not isinstance(data, dict):
        raise CaseError(
            "wrong-type", f"a case is a JSON object, this is {_kind(data)}", value=printable(data)
        )
    try:
        return Case.model_validate(data)
    except ValidationError as error:
        raise _first_problem(error) from None


def parse_athlete(data: Any) -> Athlete:
    """Read an athlete from plain data. Raises `CaseError`, naming key and range."""
    try:
        return Athlete.model_validate(_tuples(data))
    except ValidationError as error:
        raise _first_problem(error, prefix=("athlete",)) from None


def _only_known(key: str, given: Mapping[str, Any], known: tuple[str, ...]) -> None:
    for name in given:
        if name not in known:
            raise unknown_key(f"{key}.{name}", known)


def _kind(value: Any) -> str:
    names = {dict: "an object", list: "a list", str: "text", bool: "true or false"}
    if value is None:
        return "null"
    return names.get(type(value), "a number" if isinstance(value, int | float) else "unreadable")


def _first_problem(error: ValidationError, prefix: tuple[str, ...] = ()) -> CaseError:
    """Turn pydantic's first complaint into ours; the most specific (deepest) one wins."""
    problems = error.errors(include_url=False)
    problem = next((p for p in problems if p["type"] == "extra_forbidden"), problems[0])
    path = (*prefix, *(part for part in problem["loc"] if part not in _NOISE))
    key = ".".join(str(part) for part in path)
    value = problem["input"]
    if problem["type"] == "extra_forbidden":
        return unknown_key(key, _siblings(path))
    if problem["type"] == "missing":
        return CaseError("missing-key", f"{key} is missing", key=key)
    unit, bounds = _unit_and_range(path)
    number = isinstance(value, int | float) and not isinstance(value, bool)
    if number and bounds is not None:
        if math.isfinite(value):
            return out_of_range(key, value, unit, bounds)
        text = f"{key} is {value}; allowed is a number from {bounds[0]:g} to {bounds[1]:g} {unit}"
        return CaseError(
            "not-a-number", text, key=key, value=value, unit=unit, allowed=list(bounds)
        )
    shown = printable(value) if isinstance(value, str | int | float) else _kind(value)
    text = f"{key} is {shown}: {problem['msg'][0].lower()}{problem['msg'][1:]}"
    if bounds is not None:
        text = f"{key} is {shown}; allowed is a number from {bounds[0]:g} to {bounds[1]:g} {unit}"
    return CaseError(
        "wrong-type" if "type" in problem["type"] else "wrong-value",
        text,
        key=key,
        value=value,
        unit=unit,
        allowed=list(bounds) if bounds else None,
    )


_NOISE = ("[key]", "function-after", "mass", "band", "cable", "push", "float", "constrained-float")


def _siblings(path: tuple[Any, ...]) -> tuple[str, ...]:
    owners: dict[Any, Any] = {"athlete": Athlete, "loads": BandLoad}
    model = owners.get(path[0], Case) if len(path) > 1 else Case
    return tuple(model.model_fields)


def _unit_and_range(path: tuple[Any, ...]) -> tuple[str, tuple[float, float] | None]:
    """Unit and range of the field at ``path``, looked up in the models themselves."""
    if not path:
        return "", None
    owner: Any = Case
    if len(path) > 1 and path[0] in ("athlete", "loads"):
        every = (MassLoad, BandLoad, CableLoad, PushLoad)
        having = [m for m in every if path[-1] in m.model_fields]
        owner = Athlete if path[0] == "athlete" else (having or [MassLoad])[0]
    name = next((p for p in reversed(path) if p in owner.model_fields), None)
    if name is None:
        return "", None
    return _find_bounds(owner.model_fields[name], path[-1])


def _find_bounds(field: FieldInfo, last: Any) -> tuple[str, tuple[float, float] | None]:
    found = _field_bounds(field)
    if found is not None:
        return found
    arguments = getattr(field.annotation, "__args__", ())
    chosen = [arguments[last]] if isinstance(last, int) and last < len(arguments) else arguments
    for argument in chosen:
        for meta in getattr(argument, "__metadata__", ()):
            if isinstance(meta, FieldInfo) and (inner := _field_bounds(meta)):
                return inner
    return "", None


def _field_bounds(field: FieldInfo) -> tuple[str, tuple[float, float]] | None:
    low = next((m.ge for m in field.metadata if hasattr(m, "ge")), None)
    high = next((m.le for m in field.metadata if hasattr(m, "le")), None)
    if low is None or high is None:
        return None
    extra = field.json_schema_extra
    unit = str(extra.get("unit", "")) if isinstance(extra, dict) else ""
    return unit, (float(low), float(high))
