"""What goes in: the typed case, and the errors that name what is wrong with it.

The JSON names, units and ranges are those of ``docs/formats.md``. Ranges that depend on the
variation or on the athlete's height are checked where those are known (`exercises`, `limits`).
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from typing import Annotated, Any, Literal, Self

from pydantic import (
    BaseModel,
    BeforeValidator,
    ConfigDict,
    Field,
    ValidationError,
    WithJsonSchema,
    model_validator,
)
from pydantic.fields import FieldInfo

from zesty_lever.body import LENGTHS, SIDES, estimated_length_m, landmark

SCHOOLS = ("hips-first", "even", "knees-travel")
School = Literal["hips-first", "even", "knees-travel"]
LIMITS = ("ankle_dorsiflexion", "hip_flexion", "straight_leg", "hip_opening")
MEASURED_LENGTH_SPREAD = 0.35


class CaseError(Exception):
    """Something in a case is wrong. Carries the key, the value, its unit and the allowed range.

    ``infeasible`` tells a legal case whose pose cannot exist from an invalid one.
    """

    def __init__(
        self,
        code: str,
        text: str,
        *,
        key: str = "",
        value: Any = None,
        unit: str = "",
        allowed: Any = None,
        infeasible: bool = False,
    ) -> None:
        super().__init__(text)
        self.code, self.text, self.key = code, text, key
        self.value, self.unit, self.allowed = _printable(value), unit, allowed
        self.infeasible = infeasible

    def as_dict(self) -> dict[str, Any]:
        """Return the ``error`` object of a result file."""
        return {
            "code": self.code,
            "key": self.key,
            "value": self.value,
            "unit": self.unit,
            "allowed": self.allowed,
            "text": self.text,
        }


def _printable(value: Any) -> Any:
    """Make a value safe for JSON and for one line: no NaN, no bulk."""
    if isinstance(value, float) and not math.isfinite(value):
        return str(value)
    if isinstance(value, bool | int | float) or value is None:
        return value
    text = value if isinstance(value, str) else repr(value)
    return text if len(text) <= 60 else text[:57] + "..."


def out_of_range(
    key: str, value: float, unit: str, allowed: tuple[float, float], why: str = ""
) -> CaseError:
    """Error for a number outside its range, worded the same everywhere."""
    low, high = (float(f"{bound:.4g}") for bound in allowed)
    shown = f"{value:.6g}" if isinstance(value, int | float) else str(value)
    space = f" {unit}" if unit else ""
    text = f"{key} is {shown}{space}; allowed is {low:g} to {high:g}{space}{why}"
    return CaseError(
        "out-of-range", text, key=key, value=value, unit=unit, allowed=[low, high]
    )


def quantity(unit: str, low: float, high: float, default: Any = ...) -> Any:
    """Field for a number with a unit and a closed range, for the models and for their schema."""
    extra: dict[str, Any] = {"unit": unit}
    return Field(default, ge=low, le=high, allow_inf_nan=False, json_schema_extra=extra)


# A length's range depends on the height: `Athlete` checks it.
Length = Annotated[float, Field(allow_inf_nan=False, json_schema_extra={"unit": "m"})]
Limit = Annotated[float, quantity("deg", 0.0, 180.0)]
BestLoad = Annotated[float, quantity("kg", 0.0, 600.0)]
Moving = Annotated[float, quantity("s", 0.3, 30.0)]
Waiting = Annotated[float, quantity("s", 0.0, 60.0)]


def _balance_is_none(value: Any) -> Any:
    return None if value == "balance" else value


_SETTING_SCHEMA = {"anyOf": [{"type": "number"}, {"type": "null"}, {"const": "balance"}]}
SettingValue = Annotated[
    float | None, BeforeValidator(_balance_is_none), WithJsonSchema(_SETTING_SCHEMA)
]


class _Model(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True, strict=True)


class Athlete(_Model):
    """One athlete: build, reach limits (deg) and best loads (kg)."""

    name: str | None = Field(default=None, max_length=80)
    height_m: float = quantity("m", 1.2, 2.3)
    mass_kg: float = quantity("kg", 30.0, 250.0)
    sex: Literal["male", "female"]
    lengths_m: dict[str, Length] = Field(default_factory=dict)
    limits_deg: dict[str, Limit] = Field(default_factory=dict)
    best_loads_kg: dict[str, BestLoad] = Field(default_factory=dict)

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


class MassLoad(_Model):
    """A second mass fixed to the trunk (a vest, a plate): offsets from mid-shoulder, m."""

    kind: Literal["mass"]
    name: str = Field(default="extra mass", max_length=40)
    mass_kg: float = quantity("kg", 0.0, 200.0)
    forward_m: float = quantity("m", -0.6, 0.6, 0.0)
    above_m: float = quantity("m", -0.8, 0.6, 0.0)


Attachment = Literal[
    "hand_left", "hand_right", "hip_crease", "shoulders", "above_knee_left", "above_knee_right",
    "shank_left", "shank_right", "foot_left", "foot_right",
]  # fmt: skip
Coordinate = Annotated[float, quantity("m", -5.0, 5.0)]
Anchor = tuple[Coordinate, Coordinate, Coordinate]
Push = Annotated[float, quantity("N", -2000.0, 2000.0)]


class BandLoad(_Model):
    """A rubber band from an attachment to another one or to an anchor in space (m)."""

    kind: Literal["band"]
    name: str = Field(default="band", max_length=40)
    start: Attachment
    end: Attachment | Anchor
    slack_m: float = quantity("m", 0.0, 5.0)
    stiffness_N_m: float = quantity("N/m", 0.0, 5000.0)


class CableLoad(_Model):
    """A cable that pulls an attachment towards an anchor (m) with one force."""

    kind: Literal["cable"]
    name: str = Field(default="cable", max_length=40)
    start: Attachment
    end: Anchor
    force_N: float = quantity("N", 0.0, 3000.0)


class PushLoad(_Model):
    """A partner's push (N, axes of the result) on an attachment."""

    kind: Literal["push"]
    name: str = Field(default="push", max_length=40)
    start: Attachment
    push_N: tuple[Push, Push, Push]


AnyLoad = Annotated[
    MassLoad | BandLoad | CableLoad | PushLoad, Field(discriminator="kind")
]


class Case(_Model):
    """One athlete doing one variation, set up one way. What is left out takes its default."""

    format: Literal["zesty-lever-case/1"]
    athlete: Athlete
    variation: str
    school: School = "even"
    settings: dict[str, SettingValue] = Field(default_factory=dict)
    load_kg: float | None = quantity("kg", 0.0, 500.0, None)
    loads: tuple[AnyLoad, ...] = Field(default=(), max_length=12)
    tempo_s: tuple[Moving, Waiting, Moving, Waiting] = (2.0, 0.0, 1.0, 0.0)
    mode: Literal["static", "dynamic"] = "static"
    contact_rule: Literal["least-effort", "vertical"] | None = None
    frames: Literal["rep", "bottom", "none"] = "rep"

    @model_validator(mode="before")
    @classmethod
    def _tuples_from_lists(cls, data: Any) -> Any:
        """JSON has lists only; strict models want tuples."""
        return _tuples(data) if isinstance(data, Mapping) else data

    def as_json(self) -> dict[str, Any]:
        """Return the case as plain JSON data, without the keys that were never given."""
        return self.model_dump(mode="json", exclude_none=False, exclude={"athlete"}) | {
            "athlete": self.athlete.model_dump(mode="json", exclude_none=True)
        }


def _tuples(data: Any) -> Any:
    if isinstance(data, Mapping):
        return {k: _tuples(v) for k, v in data.items()}
    if isinstance(data, list):
        return tuple(_tuples(v) for v in data)
    return data


def parse_case(data: Any) -> Case:
    """Read a case from JSON data (already parsed). Raises `CaseError`, naming key and range."""
    if not isinstance(data, dict):
        raise CaseError(
            "wrong-type", f"a case is a JSON object, this is {_kind(data)}", value=_printable(data)
        )
    try:
        return Case.model_validate(data)
    except ValidationError as error:
        raise _first_problem(error) from None


def parse_athlete(data: Any) -> Athlete:
    """Read an athlete from plain data. Raises `CaseError`, naming key and range."""
    try:
        return Athlete.model_validate(data)
    except ValidationError as error:
        raise _first_problem(error, prefix=("athlete",)) from None


def _only_known(key: str, given: Mapping[str, Any], known: tuple[str, ...]) -> None:
    for name in given:
        if name not in known:
            raise unknown_key(f"{key}.{name}", known)


def unknown_key(key: str, known: tuple[str, ...]) -> CaseError:
    """Error for a key that does not exist, with those that do."""
    return CaseError(
        "unknown-key",
        f"{key} is not a known key; known are: {', '.join(known)}",
        key=key,
        allowed=list(known),
    )


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
    shown = _printable(value) if isinstance(value, str | int | float) else _kind(value)
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
