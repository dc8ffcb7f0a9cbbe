"""Keys of a case that a study can vary, as flat names: ``athlete.height_m``, ``settings.shin_deg``, ``load_kg``."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from zesty_lever.cases.model import LIMITS
from zesty_lever.exercises.catalogue import variation
from zesty_lever.joints import SIDES
from zesty_lever.physics.body import LENGTHS
from zesty_lever.problems import CaseError, unknown_key

TEXTS = ("variation", "athlete.sex", "school", "mode", "contact_rule", "style")
NUMBERS = ("load_kg", "load_up_kg", "athlete.height_m", "athlete.mass_kg", "athlete.shoe_heel_m")
# Objects in a case whose own keys are varied one by one.
OBJECTS = ("athlete.lengths_m", "athlete.limits_deg", "settings")
BALANCE = "balance"
SIDED_LIMITS = (*LIMITS, *(f"{limit}_{side}" for limit in LIMITS for side in SIDES))


def is_text(key: str) -> bool:
    """Whether a key holds words rather than numbers."""
    return key in TEXTS


def check_key(key: str, variations: set[str]) -> None:
    """Whether a study can vary a key. Raises `CaseError` naming it."""
    known = (*TEXTS, *NUMBERS)
    holder, _, name = key.rpartition(".")
    inside = {"athlete.lengths_m": LENGTHS, "athlete.limits_deg": SIDED_LIMITS}
    if key in known:
        return
    if holder in inside:
        if name not in inside[holder]:
            raise unknown_key(key, [f"{holder}.{one}" for one in inside[holder]])
        return
    if holder != "settings":
        raise unknown_key(key, (*known, *(f"{one}.*" for one in OBJECTS)))
    for one in sorted(variations):
        if name not in variation(one).settings:
            raise unknown_key(f"{key} ({one})", tuple(variation(one).settings))


def placed(values: Mapping[str, Any]) -> dict[str, Any]:
    """Flat names as the nested objects of a case; what is None is left out, `BALANCE` becomes None."""
    data: dict[str, Any] = {}
    for key, value in values.items():
        if value is None:
            continue
        *above, name = key.split(".")
        inside = data
        for one in above:
            inside = inside.setdefault(one, {})
        inside[name] = None if value == BALANCE and key.startswith("settings.") else value
    return data


def merged(base: Mapping[str, Any], over: Mapping[str, Any]) -> dict[str, Any]:
    """Nested objects with those of another laid over them."""
    data = dict(base)
    for key, value in over.items():
        below = data.get(key)
        if isinstance(value, Mapping):
            data[key] = merged(below if isinstance(below, Mapping) else {}, value)
        else:
            data[key] = value
    return data


def wrong_kind(key: str, value: Any) -> CaseError:
    """Error for a word where a number belongs, or the other way round."""
    wanted = "text" if is_text(key) else "a number"
    return CaseError(
        "wrong-type", f"vary.{key} holds {value!r}; allowed is {wanted}", key=f"vary.{key}"
    )
