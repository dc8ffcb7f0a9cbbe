"""A study that has been checked: its rows, parts and columns, and the cases that its rows mean."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Mapping, Sequence
from functools import cached_property
from typing import Any

import numpy as np

from zesty_lever.cases.model import CASE_FORMAT, Case
from zesty_lever.cases.parse import case_from
from zesty_lever.cases.resolve import resolve
from zesty_lever.frozen import dataclass
from zesty_lever.problems import CaseError
from zesty_lever.study.columns import RESULTS
from zesty_lever.study.document import Study, study_as_dict
from zesty_lever.study.inputs import Inputs, Values, at, check_keys, inputs_of
from zesty_lever.study.keys import BALANCE, is_text, merged, placed
from zesty_lever.study.sampling import Rows
from zesty_lever.version import VERSION

# What makes the whole study wrong, in contrast to a row that is a problem of its own.
WRONG = (
    "out-of-range",
    "unknown-key",
    "unknown-variation",
    "wrong-type",
    "wrong-value",
    "not-a-number",
    "missing-key",
    "wrong-format",
)


@dataclass(frozen=True)
class Reader:
    """Turns rows of a study into cases; needs the study and the names of its columns only."""

    study: Study
    keys: tuple[str, ...]

    @cached_property
    def _base(self) -> dict[str, Any]:
        return {"format": CASE_FORMAT, **self.study.case, "frames": "none"}

    def case_of(self, values: Mapping[str, Any]) -> Case:
        """The case of one row, read with all checks. Raises `CaseError`."""
        return case_from(merged(self._base, placed(values)))

    def cases(self, values: Values, count: int) -> list[Case | CaseError]:
        """Cases of some rows; one that can't be is its `CaseError`.

        Rows with the same words share what is read of them; their numbers, whose ends were checked, are put in.
        """
        words = [key for key in self.keys if is_text(key)]
        numbers = [key for key in self.keys if not is_text(key)]
        templates: dict[tuple[Any, ...], Case | CaseError] = {}
        found: list[Case | CaseError] = []
        for index in range(count):
            given = [key for key in numbers if values[key][index] is not None]
            kind = (*(values[key][index] for key in words), *given)
            row = at(values, index)
            if kind not in templates:
                templates[kind] = self._try(row)
            template = templates[kind]
            fresh = (
                template if isinstance(template, CaseError) else _with_numbers(template, row, given)
            )
            # A template that can't be read may be wrong in its numbers only.
            found.append(self._try(row) if isinstance(fresh, CaseError) else fresh)
        return found

    def _try(self, row: Mapping[str, Any]) -> Case | CaseError:
        try:
            return self.case_of(row)
        except CaseError as error:
            return error


@dataclass(frozen=True)
class Design:
    """A study with the source of its rows."""

    study: Study
    inputs: Inputs

    @classmethod
    def of(cls, study: Study) -> Design:
        """A study that is checked from end to end: no key and no value is wrong. Raises `CaseError`."""
        design = cls(study, inputs_of(study))
        design.check()
        return design

    @property
    def rows(self) -> int:
        """Rows of the study."""
        return self.inputs.rows

    @property
    def parts(self) -> int:
        """Parts of the study."""
        return -(-self.rows // self.study.part_rows)

    @property
    def keys(self) -> tuple[str, ...]:
        """Varied keys."""
        return self.inputs.keys

    def rows_of(self, part: int) -> Rows:
        """Rows of one part."""
        size = self.study.part_rows
        return np.arange(part * size, min((part + 1) * size, self.rows), dtype=np.int64)

    @property
    def columns(self) -> tuple[str, ...]:
        """Names of the columns of every part, in order."""
        return ("row", *self.keys, "feasible", "problem", "note", *RESULTS)

    @cached_property
    def id(self) -> str:
        """Hash of the study, the program's version and the columns."""
        told = {
            "study": {k: v for k, v in study_as_dict(self.study).items() if k != "cases"},
            "cases": self.inputs.digest,
            "version": VERSION,
            "columns": self.columns,
        }
        text = json.dumps(told, sort_keys=True, separators=(",", ":"))
        return hashlib.sha256(text.encode()).hexdigest()[:32]

    def as_dict(self) -> dict[str, Any]:
        """What ``study.json`` holds."""
        return {
            "id": self.id,
            "version": VERSION,
            "rows": self.rows,
            "parts": self.parts,
            "columns": list(self.columns),
            "cases_digest": self.inputs.digest,
            "study": study_as_dict(self.study),
        }

    @property
    def reader(self) -> Reader:
        """What turns its rows into cases."""
        return Reader(self.study, self.keys)

    def check(self) -> None:
        """Whether every key is known and every value legal by itself. Raises `CaseError` naming the key."""
        named = {self.study.case.get("variation")} if "variation" in self.study.case else set()
        ends = list(self.inputs.ends())
        named |= {row["variation"] for row in ends if row.get("variation")}
        check_keys([k for k in self.keys if not k.startswith("settings.")], set())
        for row in ends:
            try:
                resolve(self.reader.case_of(row))
            except CaseError as error:
                if error.code in WRONG:
                    raise CaseError(
                        error.code,
                        f"{error.text} (varied: {_in_words(row)})",
                        key=error.key,
                        value=error.problem.value,
                        unit=error.problem.unit,
                        allowed=error.problem.allowed,
                    ) from None
        check_keys(self.keys, {str(name) for name in named})


def _with_numbers(template: Case, row: Mapping[str, Any], given: Sequence[str]) -> Case | CaseError:
    """A case with a row's numbers in their places."""
    body: dict[str, Any] = {}
    own: dict[str, Any] = {}
    for key in given:
        value = row[key]
        *above, name = key.split(".")
        if not above:
            own[name] = value
        elif above == ["settings"]:
            own.setdefault("settings", dict(template.settings))[name] = (
                None if value == BALANCE else value
            )
        elif len(above) == 1:
            body[name] = value
        else:
            holder = body.setdefault(above[1], dict(getattr(template.athlete, above[1])))
            holder[name] = value
    try:
        if body:
            own["athlete"] = template.athlete.changed(**body)
        return template.changed(**own)
    except CaseError as error:
        return error


def _in_words(row: Mapping[str, Any]) -> str:
    """A row's values, for an error."""
    return ", ".join(
        f"{key} {value:g}" if isinstance(value, float) else f"{key} {value}"
        for key, value in row.items()
        if value is not None
    )
