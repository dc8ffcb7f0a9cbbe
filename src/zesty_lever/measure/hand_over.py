"""From what was seen to a case: only settings that the view saw are changed, and their errors travel along."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from zesty_lever.analysis import analyse
from zesty_lever.cases.model import Case, ReadErrors, SettingValue
from zesty_lever.exercises.catalogue import Variation
from zesty_lever.measure.marks import MarksFile
from zesty_lever.measure.motion import Warned
from zesty_lever.measure.reps import Rep
from zesty_lever.physics.vectors import Array
from zesty_lever.problems import CaseError

SHORTEST_S, LONGEST_MOVE_S, LONGEST_PAUSE_S = 0.3, 30.0, 60.0
OFFSET_SD_M = 0.02
MOST_SD_DEG = 15.0
# A heel that surely lifts by this much is handed over, deg.
LEAST_LIFT_DEG = 2.0


def side_case(
    marks: MarksFile,
    entry: Variation | None,
    angles: Mapping[str, Array],
    sd: Mapping[str, Array],
    low: int,
    rep: Rep | None,
) -> tuple[Case | None, list[Warned]]:
    """The case of the deepest moment, and what could not be handed over; no case without a variation."""
    if entry is None:
        return None, []
    seen: dict[str, float] = {}
    sizes: dict[str, float] = {}
    warned = []
    for name in ("shin", "thigh", "trunk"):
        key = f"{name}_deg"
        if name not in angles or key not in entry.settings or entry.lies:
            continue
        value, error = float(angles[name][low]), float(sd[name][low])
        low_end, high_end = entry.settings[key].range
        if not np.isfinite([value, error]).all() or error > MOST_SD_DEG:
            continue
        if not low_end <= value <= high_end:
            warned.append(
                Warned(
                    "not-settable",
                    value,
                    "deg",
                    f"The {name} measures {value:.0f}°; {entry.name} takes {low_end:g} to {high_end:g}°, so it is left out.",
                )
            )
            continue
        seen[key], sizes[key] = round(value, 1), round(error, 2)
    lift = angles.get("heel_lift")
    if lift is not None and "heel_lift_deg" in entry.settings and np.isfinite(lift[low]):
        sure = float(lift[low]) - 1.64 * float(sd["heel_lift"][low])
        if sure > 0.0 and LEAST_LIFT_DEG < lift[low] <= entry.settings["heel_lift_deg"].high:
            seen["heel_lift_deg"] = round(float(lift[low]), 1)
    return _checked(marks, entry, seen, ReadErrors(**sizes, offset_m=OFFSET_SD_M), rep, warned)


def _checked(
    marks: MarksFile,
    entry: Variation,
    seen: Mapping[str, float],
    errors: ReadErrors,
    rep: Rep | None,
    warned: list[Warned],
) -> tuple[Case | None, list[Warned]]:
    """The case, and a word where it does not stand as measured."""
    if not seen:
        return None, warned
    settings: dict[str, SettingValue] = {**marks.settings, **seen}
    case = Case(
        athlete=marks.athlete,
        variation=entry.id,
        school=marks.school or marks.athlete.school or "even",
        settings=settings,
        load_kg=marks.load_kg,
        errors=errors,
    )
    tempo = None if rep is None else _tempo(rep)
    if tempo is not None:
        case = case.changed(tempo_s=tempo)
    try:
        result = analyse(case)
    except CaseError as error:
        warned.append(
            Warned(
                "not-settable", 0.0, "", f"The measured set-up can't be handed over: {error.text}"
            )
        )
        return None, warned
    if result.error is not None:
        balanced = _balanced(case, result.error.code)
        if balanced is not None:
            warned.append(
                Warned(
                    "trunk-by-balance",
                    float(case.settings["trunk_deg"] or 0.0),
                    "deg",
                    "As measured the load falls just outside the foot; inside the trunk's error it stands, so balance "
                    "finds the trunk of the set-up.",
                )
            )
            return balanced, warned
        warned.append(
            Warned(
                "does-not-stand",
                0.0,
                "",
                f"As measured this pose does not stand ({result.error.text}) An angle is off by more than its error, or the "
                "load sits elsewhere: let balance find the trunk on the bench.",
            )
        )
    return case, warned


def _balanced(case: Case, code: str) -> Case | None:
    """The case with its trunk left to balance, where that stays inside the trunk's own error."""
    trunk = case.settings.get("trunk_deg")
    errors = case.errors
    if code != "would-tip" or trunk is None or errors is None or errors.trunk_deg is None:
        return None
    free = case.changed(
        settings={**case.settings, "trunk_deg": None}, errors=errors.changed(trunk_deg=None)
    )
    result = analyse(free)
    if result.error is not None:
        return None
    found = float(np.degrees(result.solved.pose.line_rad[result.timeline.bottom]))
    return free if abs(found - trunk) <= 2.0 * errors.trunk_deg else None


def _tempo(rep: Rep) -> tuple[float, float, float, float] | None:
    """A rep's tempo to 0.1 s inside what a case takes."""
    down, low, up, top = (round(t, 1) for t in rep.tempo_s)
    if not (SHORTEST_S <= down <= LONGEST_MOVE_S and SHORTEST_S <= up <= LONGEST_MOVE_S):
        return None
    return down, min(low, LONGEST_PAUSE_S), up, min(top, LONGEST_PAUSE_S)
