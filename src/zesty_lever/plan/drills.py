"""Warm-up, activation and mobility drills: data/plan/drills.toml, read and checked."""

from __future__ import annotations

import tomllib
from functools import cache
from typing import Annotated, Literal

from msgspec import Meta

from zesty_lever.cases.model import SorePlace
from zesty_lever.models import Model, quantity, read
from zesty_lever.problems import CaseError
from zesty_lever.tables import data_path


class Drill(Model, frozen=True, kw_only=True):
    """One drill with its usual dose (common practice, no source).

    ``joints`` are what it gets ready; ``not_with`` sore places at which another is chosen; ``counts_as`` the
    variation whose exposure counts, where there is one (drills are counted, not measured, otherwise).
    """

    id: str
    name: str
    kind: Literal["activation", "mobility", "pattern"]
    sets: Annotated[int, Meta(ge=1, le=10)] = 1
    reps: tuple[int, int] | None = None
    seconds: (
        tuple[Annotated[float, quantity("s", 1, 600)], Annotated[float, quantity("s", 1, 600)]]
        | None
    ) = None
    each: bool = False
    joints: tuple[Literal["hip", "knee", "back", "ankle", "shoulder"], ...]
    place: Literal["floor", "standing", "kneeling", "wall", "bench"]
    equipment: tuple[str, ...] = ()
    cue: str
    not_with: tuple[SorePlace, ...] = ()
    counts_as: str = ""


@cache
def drills() -> dict[str, Drill]:
    """Every drill by id, in the file's order."""
    file = data_path("plan", "drills.toml")
    tables = tomllib.loads(file.read_text(encoding="utf-8"))
    return {
        name: read(Drill, {"id": name, **t}, f"{file.name}.{name}") for name, t in tables.items()
    }


def drill(name: str) -> Drill:
    """A drill by its id. Raises `CaseError` listing the known ones."""
    known = drills()
    if name not in known:
        raise CaseError(
            "unknown-drill",
            f"drill {name[:60]} is not in the list; known are: {', '.join(known)}",
            key="drill",
            value=name,
            allowed=list(known),
        )
    return known[name]
