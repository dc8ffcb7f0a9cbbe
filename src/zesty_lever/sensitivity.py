"""What one degree, one centimetre or one kilogram more does, and a map of two settings."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from zesty_lever.batch import Carrying, make_batch
from zesty_lever.case import Case, CaseError
from zesty_lever.exercises.catalogue import fill, variation
from zesty_lever.motion.pose import JOINTS
from zesty_lever.motion.rep import PROBE_PROGRESS
from zesty_lever.sweep import Sweep, sweep, sweep_in_parts
from zesty_lever.vectors import Array

# The step that a coach thinks in, by unit: a degree, a centimetre, five per cent, ten newtons.
STEP = {"deg": 1.0, "m": 0.01, "": 0.05, "N": 10.0, "N/m": 10.0, "kg": 1.0}
WORDS = {
    "deg": "per degree",
    "m": "per cm",
    "": "per 5 %",
    "N": "per 10 N",
    "N/m": "per 10 N/m",
    "kg": "per kg",
}
TOLD = {"hip": "hip_right", "knee": "knee_right", "lower back": "lumbosacral"}


@dataclass(frozen=True)
class Slope:
    """Change of each joint's moment (N m) at the deepest pose for one step of one setting.

    None where neither a step up nor down can be done.
    """

    key: str
    name: str
    per: str
    change_Nm: dict[str, float] | None


def slopes(case: Case) -> list[Slope]:
    """Sensitivity of the deepest pose to every setting given and to the load.

    Central differences over half a step each way; one-sided at the edge of what can be done.
    Raises `CaseError` where the case itself can't be done.
    """
    case = fill(case)
    chosen = variation(case.variation)
    keys = [k for k in chosen.settings if case.settings[k] is not None]
    low, high = chosen.load_range_kg()
    steps = [(k, chosen.settings[k].name, chosen.settings[k].unit) for k in keys]
    steps += [("load_kg", "Load", "kg")] if high > low else []
    found = _stepped(case, steps)
    if not found.feasible[0]:
        raise CaseError(
            "not-feasible", "this set-up can't be done, so nothing depends on anything yet"
        )
    slopes_found = []
    for index, (key, name, unit) in enumerate(steps):
        changes: dict[str, float] | None = {}
        for word, joint in TOLD.items():
            values = found.extension[JOINTS.index(joint), :, -1]
            change = _slope(values, found.feasible, 1 + 2 * index)
            if change is None:
                changes = None
                break
            assert changes is not None
            changes[word] = change
        slopes_found.append(Slope(key, name, WORDS[unit], changes))
    return slopes_found


def _slope(values: Array, able: NDArray[np.bool_], at: int) -> float | None:
    up, down = at, at + 1
    if able[up] and able[down]:
        return float(values[up] - values[down])
    if able[up]:
        return float(2.0 * (values[up] - values[0]))
    if able[down]:
        return float(2.0 * (values[0] - values[down]))
    return None


def _stepped(case: Case, steps: list[tuple[str, str, str]]) -> Sweep:
    """The case itself, then each setting half a step up and half a step down."""
    batch = make_batch([case])
    chosen = variation(case.variation)
    count = 1 + 2 * len(steps)
    settings = {k: np.repeat(v, count, axis=0) for k, v in batch.settings.items()}
    load = np.repeat(batch.carried.down_kg, count, axis=0)
    for index, (key, _, unit) in enumerate(steps):
        for row, way in ((1 + 2 * index, 0.5), (2 + 2 * index, -0.5)):
            if key == "load_kg":
                load[row] += way * STEP[unit]
            else:
                setting = chosen.settings[key]
                settings[key][row] = np.clip(
                    settings[key][row] + way * STEP[unit], setting.low, setting.high
                )
    carried = Carrying(load, load, 0.0 * load, 0.0 * load)
    rule = case.contact_rule or chosen.contact_rule
    return sweep(batch.varied(settings=settings, carried=carried), PROBE_PROGRESS, rule)


@dataclass(frozen=True)
class Map:
    """A grid of two settings: ``values_Nm`` ``(rows, columns)`` of a joint at the deepest pose.

    NaN where the pose can't be done (``feasible`` says where); ``across`` and ``up`` are the settings'
    values along columns and rows.
    """

    across_key: str
    up_key: str
    joint: str
    across: Array
    up: Array
    values_Nm: Array
    feasible: NDArray[np.bool_]


def setting_map(case: Case, across_key: str, up_key: str, joint: str, *, steps: int = 25) -> Map:
    """Map of two settings; see `setting_map_in_parts`."""
    return list(setting_map_in_parts(case, across_key, up_key, joint, steps=steps))[-1][0]


def setting_map_in_parts(
    case: Case, across_key: str, up_key: str, joint: str, *, steps: int = 25
) -> Iterator[tuple[Map, float]]:
    """The map as it fills, with the share done. Raises `CaseError` for settings that can't be mapped."""
    case = fill(case)
    chosen = variation(case.variation)
    for key in (across_key, up_key):
        if key not in chosen.settings or case.settings[key] is None:
            known = [k for k, v in case.settings.items() if v is not None]
            raise CaseError(
                "not-a-map-axis",
                f"{key} can't be mapped here; one of {', '.join(known)} can",
                key=key,
                allowed=known,
            )
    across, up = (_axis(case, key, steps) for key in (across_key, up_key))
    grid_across, grid_up = (a.reshape(-1, 1) for a in np.meshgrid(across, up))
    batch = make_batch([case]).varied(settings={across_key: grid_across, up_key: grid_up})
    rule = case.contact_rule or chosen.contact_rule
    values = np.full(len(grid_up), np.nan)
    able = np.zeros(len(grid_up), dtype=bool)
    done = 0
    for part in sweep_in_parts(batch, PROBE_PROGRESS, rule):
        rows = slice(done, done + len(part.feasible))
        able[rows] = part.feasible
        values[rows] = np.where(part.feasible, part.extension[JOINTS.index(joint), :, -1], np.nan)
        done = rows.stop
        shape = (len(up), len(across))
        yield (
            Map(across_key, up_key, joint, across, up, values.reshape(shape), able.reshape(shape)),
            done / len(values),
        )


def _axis(case: Case, key: str, steps: int) -> Array:
    """Values of a setting around its own, as far as a coach would look."""
    setting = variation(case.variation).settings[key]
    now = float(case.settings[key] or 0.0)
    reach = {"deg": 22.0, "m": 0.25 * case.athlete.height_m / 1.75, "": 0.35}.get(
        setting.unit, 0.4 * (setting.high - setting.low)
    )
    return np.linspace(max(now - reach, setting.low), min(now + reach, setting.high), steps)
