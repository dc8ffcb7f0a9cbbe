"""The study file: what is held, what varies, how it is sampled. TOML, or JSON of the same shape."""

from __future__ import annotations

import tomllib
from pathlib import Path
from typing import Annotated, Any, Literal

import msgspec
from msgspec import Meta

from zesty_lever.cases.parse import parse_json
from zesty_lever.io.json_files import read_bounded
from zesty_lever.models import Model, at_most, read
from zesty_lever.problems import CaseError, printable
from zesty_lever.study.keys import BALANCE, is_text, wrong_kind

STUDY_FORMAT = "zesty-lever-study/1"
MOST_ROWS = 10**12
PART_ROWS = (16, 60_000)
Number = Annotated[float, Meta(ge=-1e6, le=1e6)]


class Factor(Model, frozen=True, kw_only=True):
    """How one key varies: numbers drawn from a range, or every one of some values."""

    range: tuple[Number, Number] | None = None
    values: Annotated[tuple[float | str, ...], Meta(min_length=1, max_length=10_000)] | None = None


class Study(Model, frozen=True, kw_only=True):
    """A study as it is written. ``samples`` is per cell of the grid that all ``values`` span."""

    format: Literal["zesty-lever-study/1"]
    title: Annotated[str, at_most(200)] = ""
    seed: Annotated[int, Meta(ge=0, le=2**63 - 1)] | None = None
    samples: Annotated[int, Meta(ge=1, le=10**9)] = 1
    sampling: Literal["lhs", "random", "sobol"] = "lhs"
    part_rows: Annotated[int, Meta(ge=PART_ROWS[0], le=PART_ROWS[1])] = 4096
    precision: Literal[32, 64] = 32
    case: dict[str, Any] = msgspec.field(default_factory=dict)
    vary: dict[str, Factor] = msgspec.field(default_factory=dict)
    cases: Annotated[str, at_most(1000)] = ""

    def __post_init__(self) -> None:
        """Check what depends on several keys. Raises `CaseError`."""
        if self.cases and (self.vary or self.samples != 1):
            raise CaseError(
                "wrong-value",
                "cases names a file, so vary and samples can't be given: the file says what varies",
                key="cases",
            )
        if not self.cases and not self.vary:
            raise CaseError(
                "missing-key", "vary is missing; a study varies a key or names a file of cases"
            )
        for key, factor in self.vary.items():
            _check_factor(key, factor)
        if self.drawn and self.seed is None:
            raise CaseError("missing-key", "seed is missing; samples are drawn by it", key="seed")
        if not self.drawn and self.samples != 1:
            raise CaseError(
                "wrong-value",
                f"samples is {self.samples}, but no key has a range to draw from",
                key="samples",
                value=self.samples,
                allowed=[1, 1],
            )

    @property
    def drawn(self) -> tuple[str, ...]:
        """Keys that are drawn from a range, in the order of the file."""
        return tuple(key for key, factor in self.vary.items() if factor.range is not None)

    @property
    def grid(self) -> dict[str, tuple[float | str, ...]]:
        """Keys with values, in the order of the file; the last one changes fastest."""
        return {k: f.values for k, f in self.vary.items() if f.values is not None}


def _check_factor(key: str, factor: Factor) -> None:
    if (factor.range is None) == (factor.values is None):
        raise CaseError(
            "wrong-value", f"vary.{key} needs either range or values", key=f"vary.{key}"
        )
    if factor.range is not None:
        low, high = factor.range
        if is_text(key):
            raise wrong_kind(key, low)
        if not low < high:
            raise CaseError(
                "out-of-range",
                f"vary.{key}.range is {low:g} to {high:g}; the second number must be larger",
                key=f"vary.{key}.range",
                value=high,
            )
        return
    for value in factor.values or ():
        balance = value == BALANCE and key.startswith("settings.")
        if isinstance(value, str) != is_text(key) and not balance:
            raise wrong_kind(key, printable(value))
    if len(set(factor.values or ())) != len(factor.values or ()):
        raise CaseError("wrong-value", f"vary.{key}.values has a value twice", key=f"vary.{key}")


def study_from(data: Any) -> Study:
    """Read a study from plain data. Raises `CaseError`."""
    if isinstance(data, dict) and "format" not in data:
        raise CaseError("missing-key", "format is missing", key="format", allowed=[STUDY_FORMAT])
    return read(Study, data)


def read_study(path: Path) -> Study:
    """Read a study file; a file of cases that it names lies beside it. Raises `CaseError`, `OSError`."""
    text = read_bounded(path, "a study")
    if path.suffix.lower() == ".json":
        study = study_from(parse_json(text, path.name))
    else:
        try:
            data = tomllib.loads(text.decode("utf-8-sig"))
        except UnicodeDecodeError as error:
            raise CaseError(
                "not-text", f"{path.name} is not UTF-8 text (byte {error.start})", key=path.name
            ) from None
        except tomllib.TOMLDecodeError as error:
            raise CaseError(
                "not-toml", f"{path.name} is not TOML: {error}", key=path.name
            ) from None
        study = study_from(data)
    if study.cases:
        study = study.changed(cases=str((path.parent / study.cases).resolve()))
    return study


def study_as_dict(study: Study) -> dict[str, Any]:
    """Plain data of a study, without what was left out."""
    data: dict[str, Any] = msgspec.to_builtins(study)
    data["vary"] = {
        key: {name: value for name, value in factor.items() if value is not None}
        for key, factor in data["vary"].items()
    }
    return {key: value for key, value in data.items() if value not in (None, "", {})}
