"""Finding a variation by words, family, direction and equipment."""

from __future__ import annotations

import re

from zesty_lever.exercises.catalogue import Variation, catalogue
from zesty_lever.tables import toml_values

# How much practice a variation takes, by its skill.
SKILLS = {1: "easy to learn", 2: "needs practice", 3: "demanding"}

DIRECTIONS = ("vertical", "horizontal", "lateral")


def kinds_of_equipment() -> list[str]:
    """Single pieces of equipment named in the catalogue, without their alternatives."""
    names = {
        part for v in catalogue().values() for item in v.equipment for part in item.split(" or ")
    }
    return sorted(names)


def meanings(words: str) -> list[str]:
    """What typed words may mean: as they stand, and with what coaches say put in the catalogue's words."""
    plain = " ".join(words.lower().split())
    meant = f" {plain} "
    for said, means in sorted(toml_values("synonyms").items(), key=lambda pair: -len(pair[0])):
        meant = re.sub(rf"(?<=\s){re.escape(said)}s?(?=\s)", str(means), meant)
    return [plain, meant.strip()] if meant.strip() != plain else [plain]


def fits(entry: Variation, words: str, family: str, direction: str, equipment: str) -> bool:
    """Whether a variation has all the words typed and passes the filters (empty: any)."""
    text = " ".join(
        (
            entry.name,
            entry.gym,
            entry.id,
            entry.family,
            *entry.equipment,
            entry.limited_by,
            SKILLS[entry.skill],
        )
    ).lower()
    has = equipment == "" or any(equipment in item for item in entry.equipment)
    if equipment == "none":
        has = not entry.equipment
    return (
        any(all(word in text for word in meant.split()) for meant in meanings(words))
        and family in {"", entry.family}
        and direction in {"", entry.direction}
        and has
    )
