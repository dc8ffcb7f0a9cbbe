"""What a variation does for a wish, by use: how much of what hip, knee and back can hold, and where.

Ranking by newton metres takes a straight hip for as strong as a bent one, and finds bare bridges hard at lockout.
Sideways and one leg stay as they are: the model has no strength for them.
"""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from zesty_lever.choosing.bests import told_share
from zesty_lever.choosing.effort import Demand, uses
from zesty_lever.choosing.strength import People
from zesty_lever.physics.vectors import Array

# Length of the hamstrings against standing: 6.5 cm a radian of hip flexion, less 3.2 cm a radian of knee flexion;
# long from 5 cm on, wholly at 9. Common practice, no source.
HIP_CM_RAD, KNEE_CM_RAD, LONG_FROM_CM, LONG_OVER_CM = 6.5, 3.2, 5.0, 4.0
RANKED_BY_USE = ("hip", "knee", "back", "lockout", "long")


def use_features(name: str, demand: Demand, person: People) -> Mapping[str, float]:
    """Use by wish of a variation's rep: hip, knee, back at their hardest on the way up; the hip's at lockout; the hip's while long.

    ``demand`` is the rep's (`demand_at`). ``long`` counts less the more the knee works, which then shares the
    load. Medians of the draws.
    """
    times = told_share(name)
    hip, knee, back = times * np.median(uses(demand, person)[:, :, 0], axis=1)
    stretched = hip * _long(demand) * np.maximum(1.0 - knee, 0.0)
    return {
        "hip": float(hip.max()),
        "knee": float(knee.max()),
        "back": float(back.max()),
        "lockout": float(hip[-1] * _extending(demand)),
        "long": float(stretched.max()),
    }


def _extending(demand: Demand) -> float:
    """How much of the hip's work at the top extends it, 0 to 1: on one leg the rest holds it sideways."""
    whole = float(demand.hip_Nm[0, -1])
    return min(max(float(demand.hip_extends_Nm[0, -1]), 0.0) / whole, 1.0) if whole > 0.0 else 0.0


def _long(demand: Demand) -> Array:
    """How long the hamstrings are at each frame, 0 to 1."""
    length = HIP_CM_RAD * np.radians(demand.hip_deg[0]) - KNEE_CM_RAD * np.radians(
        demand.knee_deg[0]
    )
    share: Array = np.clip((length - LONG_FROM_CM) / LONG_OVER_CM, 0.0, 1.0)
    return share
