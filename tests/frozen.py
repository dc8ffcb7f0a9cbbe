"""Peaks of every variation for three builds, at rest and moving, even and uneven, as they were once looked at.

A change that moves any of them says so: run this file (`python tests/frozen.py` with ``tests`` on the
path) and explain every difference in the change that commits the new table.
"""

import csv
from pathlib import Path

from zesty_lever.cases.parse import case_from
from zesty_lever.exercises.catalogue import catalogue
from zesty_lever.joints import JOINTS

TABLE = Path(__file__).parent / "reference" / "frozen_peaks.csv"
BUILDS = (
    {"height_m": 1.78, "mass_kg": 82, "sex": "male"},
    {"height_m": 1.60, "mass_kg": 58, "sex": "female", "lengths_m": {"thigh": 0.41}},
    {"height_m": 1.95, "mass_kg": 104, "sex": "male", "lengths_m": {"thigh": 0.45}},
)
UNEVEN = {"left_ahead_m": 0.04, "hip_shift_m": 0.02, "left_track_m": -0.02}
COLUMNS = ("variation", "build", "mode", "stance", "error", *(f"{joint}_Nm" for joint in JOINTS))


def frozen_cases():
    """Every case with the first four columns of its row."""
    for entry in catalogue().values():
        uneven = {key: size for key, size in UNEVEN.items() if key in entry.settings}
        stances = {"even": {}} | ({"uneven": uneven} if uneven else {})
        for number, athlete in enumerate(BUILDS):
            for mode in ("static", "dynamic"):
                for stance, settings in stances.items():
                    yield (
                        (entry.id, str(number), mode, stance),
                        case_from(
                            {
                                "format": "zesty-lever-case/1",
                                "athlete": athlete,
                                "variation": entry.id,
                                "settings": settings,
                                "mode": mode,
                            }
                        ),
                    )


def row_of(result):
    """The last columns of a result's row: its error's code, or the signed peaks."""
    if not result.feasible:
        return (result.error.code, *("" for _ in JOINTS))
    return ("", *(f"{result.summary[joint].peak_Nm:.9f}" for joint in JOINTS))


def write():
    """Freeze what is worked out now."""
    from zesty_lever.analysis import analyse_many

    names, cases = zip(*frozen_cases(), strict=True)
    with TABLE.open("w", newline="", encoding="utf-8") as file:
        table = csv.writer(file, lineterminator="\n")
        table.writerow(COLUMNS)
        for name, result in zip(names, analyse_many(cases), strict=True):
            table.writerow([*name, *row_of(result)])


if __name__ == "__main__":
    write()
