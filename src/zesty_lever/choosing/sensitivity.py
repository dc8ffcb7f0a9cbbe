"""What one degree, one centimetre or one kilogram more does, and a map of two settings."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np
from numpy.typing import NDArray

from zesty_lever.cases.batch import Batch, make_batch
from zesty_lever.cases.model import Case, ResolvedCase
from zesty_lever.cases.resolve import resolve
from zesty_lever.cases.rigging import Carrying
from zesty_lever.exercises.catalogue import variation
from zesty_lever.frozen import dataclass
from zesty_lever.joints import COACH_JOINTS
from zesty_lever.physics.body import landmark
from zesty_lever.physics.vectors import Array
from zesty_lever.problems import CaseError

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


@dataclass(frozen=True)
class Slope:
    """Change of each joint's moment (N m) at the deepest pose for one step of one setting.

    None where neither a step up nor down can be done. ``step`` is how far it was moved (in the setting's unit),
    ``side`` which way: ``both`` (half of it each way), ``up`` or ``down`` at an end of the range or of what can be done.
    """

    key: str
    name: str
    per: str
    change_Nm: dict[str, float] | None
    step: float = 0.0
    side: str = "both"


def slopes(case: Case) -> list[Slope]:
    """Sensitivity of the deepest pose to every setting given and to the load.

    Central differences over half a step each way; a whole step to one side at the end of a setting's range, twice
    half a step at the edge of what can be done.
    Raises `CaseError` where the case itself can't be done.
    """
    resolved = resolve(case)
    chosen = variation(resolved.variation)
    low, high = chosen.load_range_kg()
    steps = [(k, chosen.settings[k].name, chosen.settings[k].unit) for k in resolved.given]
    steps += [("load_kg", "Load", "kg")] if high > low else []
    batch, moved = _stepped(resolved, steps)
    solved = batch.solve(batch.probe)
    able, at = solved.feasible, batch.probe_bottom
    if not able[0]:
        raise CaseError(
            "not-feasible", "this set-up can't be done, so nothing depends on anything yet"
        )
    found = []
    for index, (key, name, unit) in enumerate(steps):
        up, down = 1 + 2 * index, 2 + 2 * index
        ups, downs = (float(moved[row]) if able[row] else 0.0 for row in (up, down))
        side = "both" if ups and downs else "up" if ups else "down" if downs else ""
        step = ups + downs
        known = None
        if side:
            # Told per whole step of the setting, from the side or sides that can be moved to.
            scale = STEP[unit] / step
            rows = {"both": (up, down), "up": (up, 0), "down": (0, down)}[side]
            known = {}
            for group in COACH_JOINTS:
                values = solved.extension(group.shown)[:, at]
                known[group.word] = scale * float(values[rows[0]] - values[rows[1]])
        found.append(Slope(key, name, WORDS[unit], known, step, side or "both"))
    return found


def _stepped(case: ResolvedCase, steps: Sequence[tuple[str, str, str]]) -> tuple[Batch, Array]:
    """The case itself, then each setting half a step up and half a step down; how far each row was moved.

    At an end of its range a setting is not moved there, and a whole step the other way.
    """
    batch = make_batch([case])
    chosen = batch.variation
    count = 1 + 2 * len(steps)
    settings = {k: np.repeat(v, count, axis=0) for k, v in batch.settings.items()}
    down, up = (np.repeat(v, count, axis=0) for v in (batch.carried.down_kg, batch.carried.up_kg))
    moved = np.zeros(count)
    for index, (key, _, unit) in enumerate(steps):
        now = case.load_kg if key == "load_kg" else float(settings[key][0, 0])
        ends = chosen.load_range_kg() if key == "load_kg" else chosen.settings[key].range
        room = (ends[1] - now, now - ends[0])
        half = 0.5 * STEP[unit]
        for row, way, free, other in (
            (1 + 2 * index, 1.0, room[0], room[1]),
            (2 + 2 * index, -1.0, room[1], room[0]),
        ):
            if free < half - 1e-12:
                continue
            size = half if other >= half - 1e-12 else min(2.0 * half, free)
            moved[row] = size
            if key == "load_kg":
                down[row] += way * size
                up[row] += way * size
            else:
                settings[key][row] = now + way * size
                if key == "heel_lift_deg" and now + way * size > 0.0:
                    # Once the heel is up only the ball is left to stand on.
                    settings["pressure_fraction"][row] = landmark("ball_from_heel")
    return batch.varied(settings=settings, carried=Carrying.at_usual_place(down, up)), moved


Place = tuple[float, float]


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


def contour(m: Map, level_Nm: float) -> list[tuple[Place, Place]]:
    """Pieces of the line where a map's value is a level, between feasible corners only (values across, up)."""
    pieces: list[tuple[Place, Place]] = []
    v = m.values_Nm
    for row in range(len(m.up) - 1):
        for column in range(len(m.across) - 1):
            corners = [(row, column), (row, column + 1), (row + 1, column + 1), (row + 1, column)]
            if not all(m.feasible[c] for c in corners):
                continue
            crossed = []
            for one, two in zip(corners, corners[1:] + corners[:1], strict=True):
                a, b = v[one] - level_Nm, v[two] - level_Nm
                if (a < 0) != (b < 0):
                    t = a / (a - b)
                    crossed.append(
                        (
                            float(m.across[one[1]] + t * (m.across[two[1]] - m.across[one[1]])),
                            float(m.up[one[0]] + t * (m.up[two[0]] - m.up[one[0]])),
                        )
                    )
            pieces += [(crossed[i], crossed[i + 1]) for i in range(0, len(crossed) - 1, 2)]
    return pieces


def setting_map(case: Case, across_key: str, up_key: str, joint: str, *, steps: int = 25) -> Map:
    """Map of two settings; see `setting_map_in_parts`."""
    return list(setting_map_in_parts(case, across_key, up_key, joint, steps=steps))[-1][0]


def setting_map_in_parts(
    case: Case, across_key: str, up_key: str, joint: str, *, steps: int = 25
) -> Iterator[tuple[Map, float]]:
    """The map as it fills, with the share done. Raises `CaseError` for settings that can't be mapped."""
    resolved = resolve(case)
    for key in (across_key, up_key):
        if key not in resolved.given:
            known = list(resolved.given)
            raise CaseError(
                "not-a-map-axis",
                f"{key} can't be mapped here; one of {', '.join(known)} can",
                key=key,
                allowed=known,
            )
    across, up = (_axis(resolved, key, steps) for key in (across_key, up_key))
    grid_across, grid_up = (a.reshape(-1, 1) for a in np.meshgrid(across, up))
    batch = make_batch([resolved]).varied(settings={across_key: grid_across, up_key: grid_up})
    moments = np.full(len(grid_up), np.nan)
    able = np.zeros(len(grid_up), dtype=bool)
    done, shape = 0, (len(up), len(across))
    for part in batch.in_parts(batch.probe):
        rows = slice(done, done + len(part.feasible))
        able[rows] = part.feasible
        deepest = part.extension(joint)[:, batch.probe_bottom]
        moments[rows] = np.where(part.feasible, deepest, np.nan)
        done = rows.stop
        grid = Map(
            across_key, up_key, joint, across, up, moments.reshape(shape), able.reshape(shape)
        )
        yield grid, done / len(moments)


def _axis(case: ResolvedCase, key: str, steps: int) -> Array:
    """Values of a setting around its own, as far as a coach would look."""
    setting = variation(case.variation).settings[key]
    now = case.given[key]
    reach = {"deg": 22.0, "m": 0.25 * case.athlete.height_m / 1.75, "": 0.35}.get(
        setting.unit, 0.4 * (setting.high - setting.low)
    )
    return np.linspace(setting.clamped(now - reach), setting.clamped(now + reach), steps)
