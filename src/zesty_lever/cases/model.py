"""What goes in: an athlete, a set-up, a case; typed, with unit and range at every number.

The JSON names, units and ranges are those of ``docs/formats.md``. Ranges that depend on the
variation are checked where those are known (`resolve`).
"""

import datetime as dt
from collections.abc import Mapping
from typing import Annotated, Any, Literal, get_args

import msgspec
from msgspec import Meta

from zesty_lever.cases.loads import AnyLoad
from zesty_lever.joints import SIDES
from zesty_lever.models import Model, at_most, none_as, quantity
from zesty_lever.physics.body import LENGTHS, estimated_length_m, landmark
from zesty_lever.problems import CaseError, out_of_range, unknown_key

CASE_FORMAT = "zesty-lever-case/1"
SCHOOLS = ("hips-first", "even", "knees-travel")
School = Literal["hips-first", "even", "knees-travel"]
Rule = Literal["least-effort", "vertical"]
LIMITS = ("ankle_dorsiflexion", "hip_flexion", "straight_leg", "hip_opening", "knee_flexion")
MEASURED_LENGTH_SPREAD = 0.35
LEAST_TRAVEL = 0.2
DAYS_A_YEAR = 365.2425

Limit = Annotated[float, quantity("deg", 0.0, 180.0)]
# A length's range depends on the height: `Athlete` checks it.
Length = Annotated[float, quantity("m", 0.0, 3.0)]
BestLoad = Annotated[float, quantity("kg", 0.0, 600.0)]
Load = Annotated[float, quantity("kg", 0.0, 500.0)]
Moving = Annotated[float, quantity("s", 0.3, 30.0)]
Waiting = Annotated[float, quantity("s", 0.0, 60.0)]
Share = Annotated[float, quantity("", 0.0, 1.0)]
# None is solved by balance.
SettingValue = Annotated[float | None, none_as("balance")]
SorePlace = Literal[
    "neck",
    "shoulder",
    "elbow",
    "wrist",
    "upper back",
    "lower back",
    "hip",
    "groin",
    "hamstring",
    "knee",
    "ankle",
    "foot",
]
SORE_PLACES: tuple[str, ...] = get_args(SorePlace)


class Sore(Model, frozen=True, kw_only=True):
    """A sore place, with the coach's note. Changes no mechanics."""

    place: SorePlace
    side: Literal["left", "right", "both"] = "both"
    note: Annotated[str, at_most(200)] = ""


class StrengthPoint(Model, frozen=True, kw_only=True):
    """A peak moment that was measured at an angle, with its standard error where it is known."""

    angle_deg: Annotated[float, quantity("deg", -40.0, 160.0)]
    moment_Nm: Annotated[float, quantity("N m", 5.0, 2000.0)]
    sd_Nm: Annotated[float, quantity("N m", 0.0, 500.0)] | None = None


MOST_BESTS, MOST_MEASUREMENTS = 60, 300


class Best(Model, frozen=True, kw_only=True):
    """A best lift: so many repetitions with a load; ``at_least``: more would have gone. Settings: how it was done."""

    variation: Annotated[str, at_most(80)]
    load_kg: Load
    reps: Annotated[int, Meta(ge=1, le=20, extra={"unit": "repetitions"})] = 1
    at_least: bool = False
    settings: dict[str, SettingValue] = msgspec.field(default_factory=dict)


# Keys of an athlete that are only written where something is known.
WRITTEN_WHERE_KNOWN = (
    "sore",
    "shoe_heel_m",
    "bests",
    "strength_curves",
    "measurements",
    "born",
    "age_years",
    "training_years",
)
# What of an athlete says who they are, for advice; no mechanics and no strength rest on it.
WHO_THEY_ARE = ("born", "age_years", "training_years")
Stage = Literal["beginner", "usual", "advanced", "back-from-injury"]
YOUNGEST_YEARS, OLDEST_YEARS = 5.0, 110.0


class Athlete(Model, frozen=True, kw_only=True):
    """One athlete: build, reach limits (deg), best loads (kg), and what the coach noted.

    ``born`` (a day, ``2014-05-31``) or ``age_years``, one of them; ``training_years``: regular lifting under
    guidance. Raises `CaseError` for an unknown length or limit, for a length that no body of this height has, and
    for a day of birth that is none.
    """

    name: Annotated[str, at_most(80)] | None = None
    height_m: Annotated[float, quantity("m", 1.2, 2.3)]
    mass_kg: Annotated[float, quantity("kg", 30.0, 250.0)]
    sex: Literal["male", "female"]
    lengths_m: dict[str, Length] = msgspec.field(default_factory=dict)
    limits_deg: dict[str, Limit] = msgspec.field(default_factory=dict)
    best_loads_kg: dict[str, BestLoad] = msgspec.field(default_factory=dict)
    sore: Annotated[tuple[Sore, ...], at_most(20)] = ()
    shoe_heel_m: Annotated[float, quantity("m", 0.0, 0.06)] = 0.0
    school: School | None = None
    bests: Annotated[tuple[Best, ...], at_most(MOST_BESTS)] = ()
    # Peak moments measured by a coach, by joint; they replace the table's level and shape.
    strength_curves: dict[
        Literal["hip", "knee", "back"],
        Annotated[tuple[StrengthPoint, ...], Meta(min_length=1, max_length=40)],
    ] = msgspec.field(default_factory=dict)
    # Numbers of the measurements that are kept of this athlete; no part of a case.
    measurements: Annotated[
        tuple[Annotated[str, at_most(80)], ...], at_most(MOST_MEASUREMENTS)
    ] = ()

    born: Annotated[str, at_most(10)] | None = None
    age_years: Annotated[float, quantity("years", YOUNGEST_YEARS, OLDEST_YEARS)] | None = None
    training_years: Annotated[float, quantity("years", 0.0, 90.0)] | None = None

    def age_on(self, day: int) -> float | None:
        """Age in years on a day (proleptic ordinal); None where it is not known."""
        if self.born is None:
            return self.age_years
        return (day - dt.date.fromisoformat(self.born).toordinal()) / DAYS_A_YEAR

    @property
    def known_bests(self) -> tuple[Best, ...]:
        """Every best: those for one repetition, then those with repetitions."""
        single = (Best(variation=name, load_kg=load) for name, load in self.best_loads_kg.items())
        return (*single, *self.bests)

    def __post_init__(self) -> None:
        """Check what depends on other fields."""
        if self.born is not None:
            _check_born(self.born, self.age_years)
        _only_known("athlete.lengths_m", self.lengths_m, LENGTHS)
        sided = (*LIMITS, *(f"{limit}_{side}" for limit in LIMITS for side in SIDES))
        _only_known("athlete.limits_deg", self.limits_deg, sided)
        for name, value in self.lengths_m.items():
            allowed = self.length_range_m(name)
            if not allowed[0] <= value <= allowed[1]:
                why = f" at a height of {self.height_m:g} m"
                raise out_of_range(f"athlete.lengths_m.{name}", value, "m", allowed, why)

    def length_range_m(self, name: str) -> tuple[float, float]:
        """Range in which a measured length is believed, m: the estimate and a third around it."""
        estimate = float(estimated_length_m(name, self.height_m))
        return estimate * (1 - MEASURED_LENGTH_SPREAD), estimate * (1 + MEASURED_LENGTH_SPREAD)

    def length_m(self, name: str) -> float:
        """A length, m: as measured, else estimated from the height."""
        return self.lengths_m.get(name, float(estimated_length_m(name, self.height_m)))

    def limit_deg(self, name: str) -> float:
        """Limit ``name`` in degrees: the stiffer side where both are given, else the default."""
        default = landmark(f"{name}_limit_deg")
        given = self.limits_deg.get(name, default)
        return min(self.limits_deg.get(f"{name}_{side}", given) for side in SIDES)

    def as_json(self) -> dict[str, Any]:
        """Plain JSON data, without what was never noted."""
        data: dict[str, Any] = msgspec.to_builtins(self)
        kept = {key: value for key, value in data.items() if value is not None}
        # No training at all is something known; no soreness is nothing noted.
        return {
            k: v for k, v in kept.items() if k not in WRITTEN_WHERE_KNOWN or v or k in WHO_THEY_ARE
        }


class ReadErrors(Model, frozen=True, kw_only=True):
    """How well one set-up was measured: standard errors that replace the usual ones in its intervals."""

    shin_deg: Annotated[float, quantity("deg", 0.0, 15.0)] | None = None
    thigh_deg: Annotated[float, quantity("deg", 0.0, 15.0)] | None = None
    trunk_deg: Annotated[float, quantity("deg", 0.0, 15.0)] | None = None
    offset_m: Annotated[float, quantity("m", 0.0, 0.10)] | None = None


class Setup(Model, frozen=True, kw_only=True):
    """One variation set up one way, without the athlete. Only what was chosen is kept.

    A setting of None (``"balance"`` in files) is solved by balance; what is left out takes its default.
    ``tempo_s`` is down, pause, up, pause; ``travel`` the part of the full way that is done.
    """

    variation: str
    school: School = "even"
    settings: dict[str, SettingValue] = msgspec.field(default_factory=dict)
    load_kg: Load | None = None
    load_up_kg: Load | None = None
    loads: Annotated[tuple[AnyLoad, ...], at_most(12)] = ()
    tempo_s: tuple[Moving, Waiting, Moving, Waiting] = (2.0, 0.0, 1.0, 0.0)
    travel: tuple[Share, Share] = (0.0, 1.0)
    style: Literal["full", "one-and-a-quarter"] = "full"
    mode: Literal["static", "dynamic"] = "static"
    contact_rule: Rule | None = None
    # How well it was measured, where it was.
    errors: ReadErrors | None = None

    def __post_init__(self) -> None:
        """Refuse a rep that hardly moves."""
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

    def case_for(self, athlete: Athlete) -> "Case":
        """Return this set-up as a case of an athlete."""
        # What is kept of a person is no part of a case.
        bare = athlete.changed(measurements=()) if athlete.measurements else athlete
        return Case(athlete=bare, **{name: getattr(self, name) for name in SETUP_FIELDS})


class Case(Setup, frozen=True, kw_only=True):
    """One athlete doing one variation, set up one way. What is left out takes its default."""

    format: Literal["zesty-lever-case/1"] = "zesty-lever-case/1"
    athlete: Athlete
    frames: Literal["rep", "bottom", "none"] = "rep"

    @property
    def setup(self) -> Setup:
        """The set-up, without its athlete."""
        return Setup(**{name: getattr(self, name) for name in SETUP_FIELDS})

    def as_json(self) -> dict[str, Any]:
        """Plain JSON data with every key, in the order of the format."""
        data: dict[str, Any] = msgspec.to_builtins(self)
        if self.errors is None:
            del data["errors"]
        athlete = self.athlete.changed(measurements=()).as_json()
        return {"format": data.pop("format"), "athlete": athlete, **_rest(data)}


SETUP_FIELDS = Setup.__struct_fields__


class ResolvedCase(Case, frozen=True, kw_only=True):
    """A case with everything filled in and checked against the catalogue; made by `resolve` only.

    Every setting has a value but the one that balance solves, which is None.
    """

    load_kg: Load
    contact_rule: Rule

    @property
    def up_kg(self) -> float:
        """Load on the way up, kg."""
        return self.load_kg if self.load_up_kg is None else self.load_up_kg

    @property
    def free(self) -> str | None:
        """The setting that balance solves, or None."""
        return next((key for key, value in self.settings.items() if value is None), None)

    @property
    def given(self) -> dict[str, float]:
        """The settings that have a value."""
        return {key: value for key, value in self.settings.items() if value is not None}


def _check_born(born: str, age_years: float | None) -> None:
    """Refuse a day of birth that is none, and two answers to one question."""
    first, last = "1900-01-01", "2100-01-01"
    try:
        fits = first <= dt.date.fromisoformat(born).isoformat() <= last
    except ValueError:
        fits = False
    if not fits:
        raise CaseError(
            "out-of-range",
            f"athlete.born is {born}; allowed is a day from {first} to {last}, as 2014-05-31",
            key="athlete.born",
            value=born,
            unit="day",
            allowed=[first, last],
        )
    if age_years is not None:
        raise CaseError(
            "wrong-value",
            "athlete.age_years and athlete.born are both given; one of them is enough",
            key="athlete.age_years",
            value=age_years,
        )


def _rest(data: dict[str, Any]) -> dict[str, Any]:
    return {key: value for key, value in data.items() if key != "athlete"}


def _only_known(key: str, given: Mapping[str, Any], known: tuple[str, ...]) -> None:
    for name in given:
        if name not in known:
            raise unknown_key(f"{key}.{name}", known)
