"""Where bands and cables are fixed in space: the variation's own and those of the case."""

from __future__ import annotations

from zesty_lever.cases.loads import BandLoad, CableLoad
from zesty_lever.cases.model import Case
from zesty_lever.exercises.catalogue import variation
from zesty_lever.frozen import dataclass
from zesty_lever.physics.lines import ANCHOR_KEYS, anchored


@dataclass(frozen=True)
class Anchor:
    """One place in space that lines are fixed at.

    ``place`` (x, y, z) m; ``names`` of the lines that end there; ``load`` is the index among the
    case's loads, None for the variation's own; ``keys`` are the settings that move the latter.
    """

    place: tuple[float, float, float]
    names: tuple[str, ...]
    load: int | None = None
    keys: tuple[str, ...] = ()


def anchors(case: Case) -> list[Anchor]:
    """Anchors of a filled case, the variation's own first; lines that share a place share an anchor."""
    chosen = variation(case.variation)
    own: dict[tuple[float, float, float], list[str]] = {}
    for line in chosen.lines:
        if line.end is not None and not isinstance(line.end, str):
            x, y, z = (float(part) for part in anchored(line.end, case.settings))
            own.setdefault((x, y, z), []).append(line.name)
    keys = tuple(key for key in ANCHOR_KEYS if key in chosen.settings)
    found = [Anchor(place, tuple(names), keys=keys) for place, names in own.items()]
    for index, load in enumerate(case.loads):
        if isinstance(load, BandLoad | CableLoad) and not isinstance(load.end, str):
            found.append(Anchor(load.end, (load.name,), load=index))
    return found
