"""Loads the variations from their data files: typed, merged with their family, checked.

Adding a variation is adding a file under ``data/catalogue/<family>``; settings that several share
stand once in ``data/catalogue/settings.toml``.
"""

from __future__ import annotations

import math
import pickle
import tomllib
import zlib
from collections.abc import Iterator, Mapping
from functools import cache
from pathlib import Path
from typing import Annotated, Any, Literal

import msgspec

from zesty_lever.frozen import dataclass, lazy
from zesty_lever.models import Model, quantity, read
from zesty_lever.problems import CaseError, one_line, out_of_range
from zesty_lever.tables import data_path

# Made by tools/compile_catalogue.py; reading 65 files and checking them takes a tenth of the start.
COMPILED = "compiled.bin"
TECHNIQUES = ("hips-first", "even", "knees-travel")
Builder = Literal["level", "split", "pull", "kneel", "bridge", "extension"]
RepOrder = Literal["top-first", "floor-first", "bridge"]
Rule = Literal["least-effort", "vertical"]
LIFTABLE = quantity("kg", 0.0, 500.0)
SettingTables = dict[str, dict[str, Any]]


class Options(Model, frozen=True, kw_only=True):
    """What kind of stance a builder makes: ``rear`` is how the other foot stands.

    ``hands_stay``: hanging hands stay as far ahead as they are; ``handles``: at the sides;
    ``heels``: heels down, toes up; ``free_follows_trunk``: the free leg swings back with the trunk;
    ``rear_shin_more_deg``: how much further than the front shin a flat rear foot's shin leans.
    """

    rear: Literal["", "toe", "instep", "flat", "none"] = ""
    hands_stay: bool = False
    handles: bool = False
    heels: bool = False
    free_follows_trunk: bool = False
    rear_shin_more_deg: Annotated[float, quantity("deg", 0, 40)] = 0.0


class OwnLoad(Model, frozen=True, kw_only=True):
    """The variation's own load: who carries it, where (fractions of stature), how heavy it may be (kg).

    ``share_of_back_squat`` is a rule of thumb: its best as a share of the best high-bar back squat;
    ``most_per_body_mass`` caps that at what hands hold, kg per kg body mass. ``works_unloaded``: without
    any weight it is still this exercise.
    """

    name: str
    carried_by: tuple[str, ...]
    default_kg: Annotated[float, LIFTABLE]
    range_kg: tuple[Annotated[float, LIFTABLE], Annotated[float, LIFTABLE]]
    share_of_back_squat: Annotated[float, quantity("", 0.05, 3.0)] | None = None
    most_per_body_mass: Annotated[float, quantity("kg per kg", 0.05, 3.0)] | None = None
    works_unloaded: bool = False
    forward: float | None = None
    above: float = 0.0


class ShinBelow(Model, frozen=True, kw_only=True):
    """A default shin that stays at least ``by_deg`` steeper than another lift's own."""

    lift: str
    by_deg: Annotated[float, quantity("deg", 0, 20)]


class OwnLine(Model, frozen=True, kw_only=True):
    """A band, cable or support that belongs to the variation; ``share`` is a cable's part of the load."""

    kind: Literal["band", "cable", "hold", "seat"]
    name: str
    start: str
    end: str | tuple[float, float, float] | None = None
    share: float = 1.0


class Setting(Model, frozen=True, kw_only=True):
    """One lever of a technique: what it is called, its unit and the range it may take."""

    key: str
    name: str
    gym: str
    unit: str
    range: tuple[float, float]
    step: float
    help: str

    @property
    def low(self) -> float:
        """Smallest value."""
        return self.range[0]

    @property
    def high(self) -> float:
        """Largest value."""
        return self.range[1]

    def clamped(self, value: float) -> float:
        """The nearest value inside the range; for defaults only, never for what was given."""
        return min(max(value, self.low), self.high)

    def check(self, value: Any) -> float:
        """Return ``value`` or raise `CaseError` with the range."""
        if isinstance(value, bool) or not isinstance(value, int | float):
            raise CaseError(
                "wrong-type",
                f"settings.{self.key} is {value!r}; allowed is a number from "
                f"{self.low:g} to {self.high:g} {self.unit}".rstrip(),
                key=f"settings.{self.key}",
                value=value,
                unit=self.unit,
                allowed=list(self.range),
            )
        if not math.isfinite(value) or not self.low <= value <= self.high:
            raise out_of_range(f"settings.{self.key}", value, self.unit, self.range)
        return float(value)


class StanceFile(Model, frozen=True, kw_only=True):
    """What a family adds for one kind of stance."""

    settings: SettingTables = msgspec.field(default_factory=dict)
    technique: dict[str, Any] = msgspec.field(default_factory=dict)


class FamilyFile(Model, frozen=True, kw_only=True):
    """A family's data file."""

    id: str
    name: str
    order: int
    builder: Builder = "level"
    rep_order: RepOrder = "top-first"
    contact_rule: Rule = "least-effort"
    direction: str = "vertical"
    skill: int = 1
    solvable: tuple[str, ...]
    free: str
    depth: str = ""
    extends: str = ""
    leaves_out: tuple[str, ...] = ()
    sets_out: dict[str, tuple[str, ...]] = msgspec.field(default_factory=dict)
    settings: SettingTables = msgspec.field(default_factory=dict)
    technique: dict[str, dict[str, Any]]
    one_leg: StanceFile = StanceFile()
    two_feet: StanceFile = StanceFile()


class VariationFile(Model, frozen=True, kw_only=True):
    """A variation's data file; what is left out is its family's."""

    id: str
    name: str
    gym: str
    order: int
    hold: str
    equipment: tuple[str, ...]
    limited_by: str
    takes: str = ""
    uses: tuple[str, ...] = ()
    builder: Builder | None = None
    rep_order: RepOrder | None = None
    contact_rule: Rule | None = None
    direction: str = ""
    skill: int | None = None
    options: Options = Options()
    grip_outward: float = 0.0
    solvable: tuple[str, ...] | None = None
    free: str | None = None
    leaves_out: tuple[str, ...] = ()
    settings: SettingTables = msgspec.field(default_factory=dict)
    technique: dict[str, dict[str, Any]] = msgspec.field(default_factory=dict)
    load: OwnLoad | None = None
    shin_below: ShinBelow | None = None
    lines: tuple[OwnLine, ...] = ()


@dataclass(frozen=True)
class Variation:
    """One catalogue entry: how it is set up by default and what it carries."""

    id: str
    family: str
    name: str
    gym: str
    order: int
    builder: Builder
    rep_order: RepOrder
    contact_rule: Rule
    options: Options
    hold: str
    grip_outward: float
    settings: Mapping[str, Setting]
    techniques: Mapping[str, Mapping[str, Any]]
    solvable: tuple[str, ...]
    free: str
    depth: str
    direction: str
    skill: int
    load: OwnLoad | None
    lines: tuple[OwnLine, ...]
    equipment: tuple[str, ...]
    limited_by: str
    shin_below: ShinBelow | None = None

    @property
    def stands_level(self) -> bool:
        """Both feet side by side, balanced from the feet."""
        return self.builder == "level"

    @property
    def has_front_leg(self) -> bool:
        """One leg in front (or alone) carries most: lunges, steps, one-leg work."""
        return self.builder == "split"

    @property
    def steps_up(self) -> bool:
        """One leg steps up, the other hangs free."""
        return self.family == "lunge" and self.options.rear == "none"

    @property
    def sits(self) -> bool:
        """A seat carries a share of the weight at the bottom."""
        return any(own.kind == "seat" for own in self.lines)

    @property
    def from_floor(self) -> bool:
        """The load is pulled from the floor."""
        return self.builder == "pull"

    @property
    def stands_on_feet(self) -> bool:
        """Feet on the floor carry all, so a pressure point under the foot means something."""
        return self.stands_level or self.has_front_leg or self.from_floor

    @property
    def is_squat(self) -> bool:
        """A squat on both feet."""
        return self.family == "squat" and self.stands_level

    @property
    def lies(self) -> bool:
        """Bridges and thrusts: progress 1 is lockout and the trunk is read against level."""
        return self.rep_order == "bridge"

    def default_load_kg(self) -> float:
        """Load that the variation starts with, kg (0 for bodyweight ones)."""
        return self.load.default_kg if self.load else 0.0

    def load_range_kg(self) -> tuple[float, float]:
        """Lightest and heaviest load accepted, kg."""
        return self.load.range_kg if self.load else (0.0, 0.0)

    def default_technique(
        self, height_m: float, shoe_heel_m: float, school: str
    ) -> dict[str, float | None]:
        """All settings at their defaults for this build and school; the free one is None.

        A default that goes with the build ends where its setting's range ends.
        """
        values: dict[str, float | None] = dict(self._always[school])
        for key, per_stature in self._by_stature[school]:
            values[key] = self.settings[key].clamped(round(per_stature * height_m, 3))
        if values.get("heel_height_m") == 0.0 and shoe_heel_m:
            values["heel_height_m"] = shoe_heel_m
        if self.free:
            values[self.free] = None
        return values

    @lazy
    def _always(self) -> dict[str, dict[str, float]]:
        """Every school's defaults in the order of the settings; nothing yet where they go with the build."""
        return {
            school: {
                key: 0.0 if isinstance(given, Mapping) else self.settings[key].clamped(float(given))
                for key, given in technique.items()
            }
            for school, technique in self.techniques.items()
        }

    @lazy
    def _by_stature(self) -> dict[str, list[tuple[str, float]]]:
        """Settings whose default goes with the build, and how it does, by school."""
        return {
            school: [
                (key, float(given["per_stature"]))
                for key, given in technique.items()
                if isinstance(given, Mapping)
            ]
            for school, technique in self.techniques.items()
        }


@cache
def catalogue() -> dict[str, Variation]:
    """Every variation by id, families together, in their order.

    Taken from the compiled copy beside the files, where that was made of these very files.
    """
    mark = fingerprint()
    copy = data_path("catalogue", COMPILED)
    data = copy.read_bytes() if copy.is_file() else b""
    if data.startswith(mark):
        found: dict[str, Variation] = pickle.loads(data[len(mark) :])  # noqa: S301 (our own file)
        return found
    return from_files()


def fingerprint() -> bytes:
    """Checksum of every file of the catalogue, and of what it is read with."""
    found = 0
    root = data_path("catalogue")
    folders = [f for f in root.iterdir() if f.is_dir()]
    files = [root.joinpath("settings.toml"), *(f for folder in folders for f in folder.iterdir())]
    for file in sorted(files, key=str):
        if file.name.endswith(".toml"):
            found = zlib.crc32(file.read_bytes(), found)
    kinds = (Variation, Setting, Options, OwnLoad, OwnLine, ShinBelow)
    found = zlib.crc32(repr([kind.__annotations__ for kind in kinds]).encode(), found)
    return found.to_bytes(4, "little")


def compiled() -> bytes:
    """The compiled copy of the catalogue as it should be."""
    return fingerprint() + pickle.dumps(from_files(), protocol=5)


def from_files() -> dict[str, Variation]:
    """Every variation, read from its files."""
    root = data_path("catalogue")
    shared = _toml(root.joinpath("settings.toml"))
    families = {f.name: _family(f.name) for f in root.iterdir() if f.is_dir()}
    found: list[Variation] = []
    for name, family in sorted(families.items(), key=lambda pair: pair[1].order):
        members = [
            _variation(read(VariationFile, _toml(file), file.name), family, shared)
            for file in _variation_files(root.joinpath(name))
        ]
        found += sorted(members, key=lambda v: v.order)
    return {variation.id: variation for variation in found}


def _variation_files(folder: Path) -> Iterator[Path]:
    for file in folder.iterdir():
        if file.name.endswith(".toml") and file.name != "family.toml":
            yield file


def _toml(file: Path) -> dict[str, Any]:
    return tomllib.loads(file.read_text(encoding="utf-8"))


@cache
def _family(name: str) -> FamilyFile:
    """A family's file; one that extends another takes over the other's settings."""
    family = read(FamilyFile, _toml(data_path("catalogue", name, "family.toml")), name)
    if not family.extends:
        return family
    base = _family(family.extends)
    taken = {k: v for k, v in base.settings.items() if k not in family.leaves_out}
    return family.changed(settings={**taken, **family.settings})


def variation(name: str) -> Variation:
    """Look up a variation or raise `CaseError` listing the known ones."""
    known = catalogue()
    if name not in known:
        raise CaseError(
            "unknown-variation",
            f"variation {one_line(name, 60)} is not in the catalogue; known are: "
            + ", ".join(known),
            key="variation",
            value=name,
            allowed=list(known),
        )
    return known[name]


def _variation(file: VariationFile, family: FamilyFile, shared: SettingTables) -> Variation:
    """One variation from its file, its family's, and the part of the family for its stance."""
    described = dict(family.settings)
    stances = family
    if file.takes:
        stances = _family(file.takes)
        described = {**stances.settings, **described}
    stance = StanceFile()
    if file.options.rear:
        stance = stances.one_leg if file.options.rear == "none" else stances.two_feet
    described |= stance.settings
    for key in (*file.uses, *file.settings):
        known = described.get(key, {}) if key not in file.uses else shared[key]
        described[key] = {**known, **file.settings.get(key, {})}
    builder = file.builder or family.builder
    gone = {*family.sets_out.get(builder, ()), *file.leaves_out}
    settings = {
        key: read(Setting, {"key": key, **table}, f"{file.id}.{key}")
        for key, table in described.items()
        if key not in gone
    }
    depths = (family.depth, "bar_height_m")
    return Variation(
        id=file.id,
        family=family.id,
        name=file.name,
        gym=file.gym,
        order=file.order,
        builder=builder,
        rep_order=file.rep_order or family.rep_order,
        contact_rule=file.contact_rule or family.contact_rule,
        options=file.options,
        hold=file.hold,
        grip_outward=file.grip_outward,
        settings=settings,
        techniques={s: _technique(s, file, family, stance, settings) for s in TECHNIQUES},
        solvable=tuple(
            key
            for key in (family.solvable if file.solvable is None else file.solvable)
            if key in settings
        ),
        free=family.free if file.free is None else file.free,
        depth=next((key for key in depths if key in settings), ""),
        direction=file.direction or family.direction,
        skill=family.skill if file.skill is None else file.skill,
        load=file.load,
        lines=file.lines,
        equipment=file.equipment,
        limited_by=file.limited_by,
        shin_below=file.shin_below,
    )


def _technique(
    school: str,
    file: VariationFile,
    family: FamilyFile,
    stance: StanceFile,
    settings: Mapping[str, Setting],
) -> dict[str, Any]:
    """Defaults of one school: the even technique, changed by the school's own parts."""
    merged = {**family.technique["even"], **stance.technique, **file.technique.get("even", {})}
    if school != "even":
        merged |= family.technique.get(school, {}) | file.technique.get(school, {})
    return {key: merged.get(key, 0) for key in settings}
