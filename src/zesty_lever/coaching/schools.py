"""The schools, and the questions on which practitioners disagree: data/coaching/schools.toml."""

from __future__ import annotations

import tomllib
from functools import cache

import msgspec

from zesty_lever.cases.model import School
from zesty_lever.models import Model, read
from zesty_lever.tables import data_path


class SchoolWords(Model, frozen=True, kw_only=True):
    """A school as coaches know it, and where along the foot it wants the weight (0 heel, 1 toe)."""

    name: str
    pressure: tuple[float, float]


class Disputed(Model, frozen=True, kw_only=True):
    """A question on which coaches differ: both sides, and what the model can and can't say."""

    question: str
    views: str
    model: str


class Schools(Model, frozen=True, kw_only=True):
    """The whole file."""

    help: str
    schools: dict[School, SchoolWords]
    disputed: tuple[Disputed, ...] = msgspec.field(default_factory=tuple)

    def name(self, school: str) -> str:
        """A school's name; raises `KeyError`."""
        return next(words.name for known, words in self.schools.items() if known == school)

    def question(self, words: str) -> Disputed:
        """A disputed question by its words; raises `KeyError`."""
        for entry in self.disputed:
            if entry.question == words:
                return entry
        raise KeyError(words)


@cache
def schools() -> Schools:
    """Schools as the data file has them; raises `CaseError` for a file that is not right."""
    file = data_path("coaching", "schools.toml")
    return read(Schools, tomllib.loads(file.read_text(encoding="utf-8")), file.name)
