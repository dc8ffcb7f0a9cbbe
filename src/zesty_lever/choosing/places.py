"""What a lift asks of a place that hurts, measured, and whether another lift stays below all of it.

Hip, knee, lower back, ankle, groin and hamstring are compared by the mechanics; shoulder, elbow, wrist, neck and upper
back by how the load is held (``data/plan/places.toml``). Left and right are two places. For anything else nothing is
computed, so nothing is claimed.
"""

from __future__ import annotations

import json
import tomllib
from collections.abc import Mapping, Sequence
from functools import cache
from typing import Any

import numpy as np

from zesty_lever.analysis import Result, analyse
from zesty_lever.cases.model import Athlete, Case, Setup
from zesty_lever.cases.parse import case_from
from zesty_lever.coaching.numbers import Rules
from zesty_lever.coaching.who import Hurt
from zesty_lever.exercises.catalogue import Variation, variation
from zesty_lever.joints import SIDES
from zesty_lever.messages import Measured
from zesty_lever.physics.vectors import Array
from zesty_lever.problems import CaseError
from zesty_lever.tables import data_path

# Places that have no left and right.
MIDDLE = ("neck", "upper back", "lower back")
# An angle counts from here on, deg; a moment that is nothing beside the others, N m.
NO_ANGLE_DEG, NO_MOMENT_NM, NO_IMPULSE_NMS = 5.0, 5.0, 5.0
ANGLES = frozenset({"bend", "dorsiflexion", "opening", "stretch"})
UNITS = {
    "extension": "N m",
    "flexion": "N m",
    "impulse": "N m s",
    "moment": "N m",
    "adduction": "N m",
    "long": "N m",
    "carried": "kg",
    **dict.fromkeys(ANGLES, "deg"),
}
NOTHING_OF = {"N m": NO_MOMENT_NM, "N m s": NO_IMPULSE_NMS, "kg": 0.0, "deg": NO_ANGLE_DEG}
# How bent a knee counts no more as straight for the hamstrings, deg.
BENT_KNEE_DEG = 90.0
# A joint works from this share of its largest moment on.
WORKS_FROM = 0.5
Loads = Mapping[str, float]


@cache
def _table() -> dict[str, Any]:
    return tomllib.loads(data_path("plan", "places.toml").read_text(encoding="utf-8"))


def known_places() -> tuple[str, ...]:
    """Places that something can be computed for."""
    return (*_table()["joints"], *_table()["holds"])


def sides_of(place: str, side: str) -> tuple[str, ...]:
    """A place's sides: ``both`` alone for what has none, left and right for both of what has two."""
    if place in MIDDLE or place not in known_places():
        return ("both",)
    return (side,) if side in SIDES else SIDES


def hurt_sides(hurt: Hurt) -> tuple[str, ...]:
    """The sides that a hurt stands for."""
    return sides_of(hurt.place, hurt.side)


def same_place(one: tuple[str, str], other: tuple[str, str]) -> bool:
    """Whether two places (place, side) are, or hold, the same."""
    return one[0] == other[0] and bool(set(sides_of(*one)) & set(sides_of(*other)))


def hold_of(entry: Variation) -> str:
    """How a load is held, in the table's words."""
    if entry.hold == "bar-on-back":
        return "bar-low" if entry.id == "back-squat-low-bar" else "bar-high"
    return "belt" if entry.hold == "reaching" else entry.hold


def loads_on(
    case: Case, place: str, side: str, reps: float = 1.0, worked: str = "both"
) -> Loads | None:
    """What a set of a case asks of one side of a place, by measure; None where nothing is computed.

    ``worked``: the side that a one-leg lift is done with (both: each in turn). Raises `CaseError` where the lift
    can't be done.
    """
    table = _table()
    if place in table["holds"]:
        entry = variation(case.variation)
        share = table["holds"][place].get(hold_of(entry))
        return None if share is None else {"carried": share * (case.load_kg or 0.0)}
    if place not in table["joints"]:
        return None
    found = _of_rep(_text_of(case))
    if place in MIDDLE:
        own = found[place, "both"]
    else:
        other = "left" if side == "right" else "right"
        entry = variation(case.variation)
        if not entry.has_front_leg or worked == "right":
            own = found[place, side]
        elif worked == "left":
            own = found[place, other]
        else:
            own = {k: max(v, found[place, other][k]) for k, v in found[place, side].items()}
    return {k: v * (reps if k == "impulse" else 1.0) for k, v in own.items()}


_KEPT: dict[str, Mapping[tuple[str, str], Loads]] = {}
MOST_KEPT = 600


def _text_of(case: Case) -> str:
    plain = case.athlete.changed(
        name=None,
        sore=(),
        bests=(),
        best_loads_kg={},
        strength_curves={},
        measurements=(),
        born=None,
        age_years=None,
        training_years=None,
    )
    return json.dumps(case.changed(athlete=plain, frames="none").as_json(), sort_keys=True)


def _of_rep(text: str) -> Mapping[tuple[str, str], Loads]:
    """What one repetition asks of every place that the mechanics knows; kept."""
    if text not in _KEPT:
        if len(_KEPT) >= MOST_KEPT:
            _KEPT.clear()
        _KEPT[text] = of_result(analyse(case_from(json.loads(text))))
    return _KEPT[text]


def of_result(result: Result) -> Mapping[tuple[str, str], Loads]:
    """What one repetition asks of every place that the mechanics knows. Raises `CaseError` if impossible."""
    solved, summary = result.solved, result.summary
    pose = solved.pose
    found: dict[tuple[str, str], Loads] = {}

    def joint(name: str, bend: Array) -> Loads:
        row, size = summary[name], np.abs(solved.extension(name))
        # How bent the joint is where it works: a knee folded on the floor before a bridge carries nothing.
        working = np.broadcast_to(bend, size.shape)[size >= WORKS_FROM * size.max()]
        return {
            "extension": row.extensor_peak_Nm,
            "flexion": row.flexor_peak_Nm,
            "impulse": row.extensor_impulse_Nms + row.flexor_impulse_Nms,
            "bend": max(float(np.degrees(working.max())), 0.0),
        }

    found["lower back", "both"] = joint("lumbosacral", np.abs(pose.lumbar_flexion_rad))
    for side in SIDES:
        knee = pose.knee_flexion_rad[side]
        hip = pose.pelvis_rad - pose.side_view_rad(f"knee_{side}", f"hip_{side}")
        found["hip", side] = joint(f"hip_{side}", hip)
        found["knee", side] = joint(f"knee_{side}", knee)
        found["ankle", side] = {
            "moment": float(np.abs(solved.extension(f"ankle_{side}")).max()),
            "dorsiflexion": max(float(np.degrees(pose.dorsiflexion_rad[side].max())), 0.0),
        }
        found["groin", side] = {
            "opening": max(float(np.degrees(pose.hip_opening_rad[side].max())), 0.0),
            "adduction": max(result.hips[f"hip_{side}"].frontal_peak_Nm, 0.0),
        }
        straight = np.clip(1.0 - np.degrees(knee) / BENT_KNEE_DEG, 0.0, 1.0)
        extends = np.maximum(solved.extension(f"hip_{side}"), 0.0)
        bent = np.clip(hip / np.radians(90.0), 0.0, 1.0)
        found["hamstring", side] = {
            "stretch": max(float(np.degrees((hip * straight).max())), 0.0),
            "long": float((extends * straight * bent).max()),
        }
    return found


def place_loaded(loads: Loads | None, mass_kg: float, rules: Rules) -> bool:
    """Whether a lift loads a place at all; what is not computed counts as yes."""
    if loads is None:
        return True
    least = {"N m": rules.loads_from * mass_kg, "N m s": np.inf, "kg": 0.0, "deg": np.inf}
    return any(value > least[UNITS[key]] for key, value in loads.items())


def beside(own: Loads | None, other: Loads | None) -> tuple[Measured, ...]:
    """Both numbers of every measure that says something, the largest first; empty where nothing was computed."""
    if own is None or other is None:
        return ()
    pairs = [
        Measured(key, own[key], _most(other, key), UNITS[key])
        for key in own
        if key in other and own[key] > NOTHING_OF[UNITS[key]]
    ]
    order = {"N m": 0, "kg": 0, "deg": 1, "N m s": 2}
    return tuple(sorted(pairs, key=lambda m: (order[m.unit], -m.other)))


def _most(other: Loads, key: str) -> float:
    """What a measure is held against: extensors and flexors both against the joint's larger moment."""
    if key in ("extension", "flexion"):
        return max(other.get("extension", 0.0), other.get("flexion", 0.0))
    return other.get(key, 0.0)


def spares(own: Loads | None, other: Loads | None, rules: Rules) -> bool:
    """Whether one lift is below all that another asks of a place: sizes at most half, angles below.

    Where nothing was computed, no.
    """
    if own is None or other is None:
        return False
    for key, value in own.items():
        if value <= NOTHING_OF[UNITS[key]]:
            continue
        most = _most(other, key)
        below = value < most - 1e-9 if key in ANGLES else value <= rules.spare_share * most + 1e-9
        if not below:
            return False
    return True


def case_at(athlete: Athlete, setup: Setup, load_kg: float, school: str | None = None) -> Case:
    """A set-up of an athlete at a load, as a case for measuring."""
    plain = setup.changed(load_kg=load_kg, load_up_kg=None, errors=None)
    if school is not None:
        plain = plain.changed(school=school)
    return plain.case_for(athlete).changed(frames="none")


def most_of(places: Sequence[Loads | None]) -> Loads | None:
    """The largest of each measure; None where any was not computed."""
    known = [loads for loads in places if loads is not None]
    if not known or len(known) < len(places):
        return None
    return {key: max(loads.get(key, 0.0) for loads in known) for key in known[0]}


def allowed_beside(
    case: Case, hurts: Sequence[Hurt], rules: Rules, reps: float = 1.0, worked: str = "both"
) -> tuple[Hurt | None, tuple[tuple[Hurt, Measured], ...]]:
    """Whether a case may be done beside what hurts: the first hurt that forbids it (None: none), and what was compared.

    A clinician's place forbids whatever loads it; a stopped one whatever is not far below all that the stopped lift
    asked. What can't be worked out is forbidden.
    """
    told: list[tuple[Hurt, Measured]] = []
    forbids: Hurt | None = None
    for hurt in hurts:
        if hurt.level == "sore":
            continue
        for side in hurt_sides(hurt):
            try:
                own = loads_on(case, hurt.place, side, reps, worked)
            except CaseError:
                forbids = forbids or hurt
                continue
            if not place_loaded(own, case.athlete.mass_kg, rules):
                continue
            other = None if hurt.asked is None else dict(hurt.asked)
            told += [(hurt, measured) for measured in beside(own, other)]
            if hurt.level == "clinician" or not spares(own, other, rules):
                forbids = forbids or hurt
    return forbids, tuple(told)


def looked_at_instead(place: str) -> tuple[str, ...]:
    """Lifts that are looked at first where a place is stopped; none where nothing is known of it."""
    return tuple(_table()["instead"].get(place, ()))
