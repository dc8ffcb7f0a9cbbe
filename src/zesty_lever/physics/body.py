"""The athlete's body: fifteen rigid segments, their lengths, masses and inertia.

Everything is batched: each attribute is an array (or a 0-d array) that broadcasts against the
pose axes. Masses, centres and radii of gyration come from de Leva 1996, default lengths from
Drillis & Contini 1966; the tables themselves lie in ``data/tables`` with their sources.
"""

from __future__ import annotations

from collections.abc import Mapping
from functools import cache

import numpy as np
from numpy.typing import ArrayLike

from zesty_lever.frozen import dataclass
from zesty_lever.joints import SIDES
from zesty_lever.physics.vectors import Array
from zesty_lever.tables import csv_rows, toml_values

PAIRED = ("foot", "shank", "thigh", "upper_arm", "forearm", "hand")
SEGMENTS = (
    *(f"{part}_{side}" for part in PAIRED[:3] for side in SIDES),
    "pelvis",
    "trunk",
    "head",
    *(f"{part}_{side}" for part in PAIRED[3:] for side in SIDES),
)
LENGTHS = (*(row["name"] for row in csv_rows("lengths_drillis_contini_1966")), "hip_width")
SEXES = ("male", "female")


@dataclass(frozen=True)
class Segment:
    """One segment's inertia, per kilogram of body mass and per metre of its own length.

    ``mass`` is a fraction of body mass; ``centre`` the mass centre as a fraction of the segment's
    length from its proximal end (pelvis and trunk: of the hip-shoulder line from the hips; head:
    of the head-and-neck length from the shoulders; foot: from the heel); ``gyration`` the
    (sagittal, transverse, longitudinal) radii of gyration in the same length unit.
    """

    mass: float
    centre: float
    gyration: tuple[float, float, float]


def _raw(sex: str) -> dict[str, dict[str, float]]:
    rows = (row for row in csv_rows("segments_de_leva_1996") if row["sex"] == sex)
    numbers = (
        "mass_percent",
        "length_mm",
        "centre_percent",
        "r_sagittal",
        "r_transverse",
        "r_longitudinal",
    )
    return {row["segment"]: {n: float(row[n]) for n in numbers} for row in rows}


def _marks(sex: str) -> dict[str, float]:
    rows = {row["sex"]: row for row in csv_rows("trunk_landmarks_de_leva_1996")}
    return {name: float(value) for name, value in rows[sex].items() if name != "sex"}


def _gyration(row: Mapping[str, float], unit_mm: float) -> tuple[float, float, float]:
    scale = row["length_mm"] / 100.0 / unit_mm
    return (row["r_sagittal"] * scale, row["r_transverse"] * scale, row["r_longitudinal"] * scale)


def _merge_trunk(raw: dict[str, dict[str, float]], line_mm: float) -> tuple[Segment, Segment]:
    """Pelvis (the source's lower trunk) and trunk (its middle and upper parts made one).

    The parts stand on each other along the hip-shoulder line; parallel axes give the radii.
    """
    lower, middle, upper = (raw[f"{part}_trunk"] for part in ("lower", "middle", "upper"))
    from_above = [1.0 - part["centre_percent"] / 100.0 for part in (lower, middle, upper)]
    heights = [
        from_above[0] * lower["length_mm"],
        lower["length_mm"] + from_above[1] * middle["length_mm"],
        lower["length_mm"] + middle["length_mm"] + from_above[2] * upper["length_mm"],
    ]
    masses = [middle["mass_percent"], upper["mass_percent"]]
    mass = sum(masses)
    centre = (masses[0] * heights[1] + masses[1] * heights[2]) / mass
    radii = []
    for axis, name in enumerate(("r_sagittal", "r_transverse", "r_longitudinal")):
        total = 0.0
        for part, part_mass, height in zip((middle, upper), masses, heights[1:], strict=True):
            own = part[name] / 100.0 * part["length_mm"]
            shift = 0.0 if axis == 2 else height - centre
            total += part_mass * (own**2 + shift**2)
        radii.append(float(np.sqrt(total / mass)) / line_mm)
    pelvis = Segment(lower["mass_percent"] / 100.0, heights[0] / line_mm, _gyration(lower, line_mm))
    trunk = Segment(mass / 100.0, centre / line_mm, (radii[0], radii[1], radii[2]))
    return pelvis, trunk


@cache
def segment_table(sex: str) -> dict[str, Segment]:
    """Segment inertia for ``male`` or ``female``, masses scaled so that the body sums to one.

    Source: de Leva 1996 (values from memory); the female column sums to 99.99 % as printed.
    """
    raw = _raw(sex)
    marks = _marks(sex)
    line_mm, neck_mm = marks["hips_to_shoulders_mm"], marks["hips_to_cervicale_mm"]
    head = raw["head"]
    head_mm = neck_mm - line_mm + head["length_mm"]
    head_above = neck_mm - line_mm + (1.0 - head["centre_percent"] / 100.0) * head["length_mm"]
    pelvis, trunk = _merge_trunk(raw, line_mm)
    parts = {
        "pelvis": pelvis,
        "trunk": trunk,
        "head": Segment(
            head["mass_percent"] / 100.0, head_above / head_mm, _gyration(head, head_mm)
        ),
    }
    for name in PAIRED:
        row = raw[name]
        parts[name] = Segment(
            row["mass_percent"] / 100.0,
            row["centre_percent"] / 100.0,
            _gyration(row, row["length_mm"]),
        )
    total = sum(part.mass * (2 if name in PAIRED else 1) for name, part in parts.items())
    return {n: Segment(p.mass / total, p.centre, p.gyration) for n, p in parts.items()}


def landmark(name: str) -> float:
    """One of the model's own landmark assumptions (``data/tables/landmarks.toml``)."""
    return float(toml_values("landmarks")[name])


def estimated_length_m(name: str, height_m: ArrayLike) -> Array:
    """Length ``name`` estimated from stature, m. Source: Drillis & Contini 1966."""
    if name == "hip_width":
        fraction = landmark("hip_width")
    else:
        table = {r["name"]: float(r["fraction"]) for r in csv_rows("lengths_drillis_contini_1966")}
        fraction = table[name]
    length: Array = fraction * np.asarray(height_m, dtype=float)
    return length


WALL_DEG_PER_CM = 3.6


def dorsiflexion_from_wall_deg(knee_to_wall_cm: float) -> float:
    """Ankle dorsiflexion from the knee-to-wall test: about 3.6 degrees a centimetre.

    Source: Bennell et al. 1998, value from memory.
    """
    return WALL_DEG_PER_CM * knee_to_wall_cm


@dataclass(frozen=True)
class Body:
    """Athletes as arrays: lengths in m, masses in kg, fractions as described by `Segment`.

    ``lengths`` maps every name of ``LENGTHS`` to an array; ``mass``, ``centre`` map segment kinds
    (without the side) to arrays; ``hand_m`` is wrist to knuckle. All share one batch shape or
    broadcast to it.
    """

    height_m: Array
    mass_kg: Array
    lengths: Mapping[str, Array]
    mass: Mapping[str, Array]
    centre: Mapping[str, Array]
    gyration: Mapping[str, Array]
    hand_m: Array

    def scaled_m(self, metres_at_175: float) -> Array:
        """Scale a depth or offset given for a stature of 1.75 m to these athletes, m."""
        scaled: Array = metres_at_175 * self.height_m / 1.75
        return scaled


def build_body(
    sex: ArrayLike,
    height_m: ArrayLike,
    mass_kg: ArrayLike,
    lengths_m: Mapping[str, ArrayLike] | None = None,
) -> Body:
    """Build bodies from sex (``male``/``female``), stature (m), mass (kg) and measured lengths.

    ``lengths_m`` overrides estimated lengths (m); NaN entries keep the estimate. A measured
    length leaves the segment's mass alone and scales its mass centre and radius of gyration.
    """
    height = np.asarray(height_m, dtype=float)
    mass = np.asarray(mass_kg, dtype=float)
    female = np.asarray(sex) == "female"
    lengths: dict[str, Array] = {}
    for name in LENGTHS:
        estimate = estimated_length_m(name, height)
        given = None if lengths_m is None else lengths_m.get(name)
        if given is not None:
            measured = np.asarray(given, dtype=float)
            estimate = np.where(np.isnan(measured), estimate, measured)
        lengths[name] = estimate
    men, women = segment_table("male"), segment_table("female")
    hands = {s: _raw(s)["hand"]["length_mm"] / _marks(s)["stature_mm"] for s in SEXES}
    return Body(
        height_m=height,
        mass_kg=mass,
        lengths=lengths,
        mass={n: np.where(female, women[n].mass, men[n].mass) * mass for n in men},
        centre={n: np.where(female, women[n].centre, men[n].centre) for n in men},
        gyration={
            n: np.where(female[..., None], np.array(women[n].gyration), np.array(men[n].gyration))
            for n in men
        },
        hand_m=np.where(female, hands["female"], hands["male"]) * height,
    )
