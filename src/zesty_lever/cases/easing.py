"""Defaults that this athlete can't do at this load, eased until they can: more shin, weight further back, less depth.

A default technique is a choice, not physics: long thighs on stiff ankles reach no parallel without a load in
front. Only defaults are eased; what was asked for stays as it was asked.
"""

from __future__ import annotations

import json
import math
from collections.abc import Iterator, Mapping
from functools import lru_cache

import numpy as np

from zesty_lever.cases.batch import Batch, make_batch
from zesty_lever.cases.model import Case, ResolvedCase
from zesty_lever.cases.parse import case_from
from zesty_lever.cases.resolve import IN_HAND_DEG, most_default_shin_deg, resolve
from zesty_lever.exercises.catalogue import Variation, variation
from zesty_lever.physics.body import landmark
from zesty_lever.physics.vectors import Array

# Hips whose stiffness rounds the back; so many degrees more than is ordinary are rounding.
HIPS, ROUNDING_DEG = ("hip_flexion", "straight_leg"), 0.45
# What easing may help against.
HELPS = ("cannot-balance", "ankle-limit", "would-tip", "below-floor")
WHO_LEADS = ("hips_lead", "hips_rise_deg")
SHIN_STEP_DEG, PRESSURE_STEP, PRESSURE_MOST = 3.0, 0.03, 0.24
# How far back the weight may go: a light pull sits on the heels.
LEAST_PRESSURE, LEAST_OF_PULLS = 0.32, 0.26
DEPTH_STEPS = {"deg": (3.0, 16), "m": (0.03, 8)}


def rounds(case: Case, lumbar_flexion_rad: Array) -> bool:
    """Whether a rep rounds the lower back because of the build: with hips as free as is usual.

    Stiff hips round by themselves; what they round at the default depth is told, not eased away.
    """
    usual = all(case.athlete.limit_deg(k) >= landmark(f"{k}_limit_deg") for k in HIPS)
    most = landmark("ordinary_lumbar_flexion_deg") + ROUNDING_DEG
    return usual and bool(np.degrees(lumbar_flexion_rad.max()) > most)


def eased(case: Case) -> ResolvedCase | None:
    """The case with its defaults eased, None where they can be done or nothing helps.

    Takes the case as it was given; a resolved one has no defaults left.
    """
    if isinstance(case, ResolvedCase):
        return None
    base = case.changed(settings={}, frames="none", mode="static", travel=(0.0, 1.0), style="full")
    found = _eased(json.dumps(base.as_json(), sort_keys=True))
    fresh = {key: value for key, value in found.items() if key not in case.settings}
    if case.settings.get("heel_lift_deg"):
        # With the heel up only the ball is left to stand on.
        fresh.pop("pressure_fraction", None)
    if not fresh:
        return None
    return resolve(case.changed(settings={**fresh, **case.settings}))


def on_own_path(case: Case) -> Case:
    """The case with a default shin where a shallower depth has it: a point on this athlete's own way down.

    In level stances and step-ups, where the shin is left to its default and the thigh is asked to stop above
    the default's. Deeper than that the default shin stays; a seat keeps its own. The way down is that of the
    same set-up at its default depth, with hips and knees together.
    """
    thigh = case.settings.get("thigh_deg")
    if thigh is None or isinstance(case, ResolvedCase):
        return case
    chosen = variation(case.variation)
    straight_down = chosen.is_squat or chosen.steps_up
    if "shin_deg" in case.settings or chosen.sits or not straight_down:
        return case
    whole = {k: v for k, v in case.settings.items() if k not in ("thigh_deg", *WHO_LEADS)}
    base = case.changed(
        settings=whole, frames="none", mode="static", travel=(0.0, 1.0), style="full"
    )
    thighs, shins = _way_down(json.dumps(base.as_json(), sort_keys=True))
    if not thighs or thigh <= thighs[-1]:
        return case
    # From the deepest up, so that the thigh rises.
    shin = float(np.interp(thigh, thighs[::-1], shins[::-1]))
    shin = chosen.settings["shin_deg"].clamped(round(shin, 3))
    return case.changed(settings={**case.settings, "shin_deg": shin})


@lru_cache(maxsize=256)
def _way_down(text: str) -> tuple[tuple[float, ...], tuple[float, ...]]:
    """Thigh and shin (deg) on the way down of a default rep; empty where it can't be done."""
    case = case_from(json.loads(text))
    batch = make_batch([eased(case) or resolve(case)])
    down = batch.timeline.moves[0]
    solved = batch.solve(batch.timeline.instants_at(range(down[0], down[1] + 1), moving=False))
    if not solved.feasible[0]:
        return (), ()
    pose = solved.pose
    thigh = 90.0 + np.degrees(pose.side_view_rad("knee_right", "hip_right")[0])
    shin = np.degrees(pose.side_view_rad("ankle_right", "knee_right")[0])
    return tuple(thigh.tolist()), tuple(shin.tolist())


@lru_cache(maxsize=256)
def _eased(text: str) -> Mapping[str, float]:
    """Settings in which the default that can be done differs from the usual one (empty: in none)."""
    case = resolve(case_from(json.loads(text)))
    batch = make_batch([case])
    if _stands(batch, {}):
        return {}
    steps = list(_steps(case, batch.variation))
    if not steps:
        return {}
    keys = list(steps[-1])
    columns = {key: np.array([[step[key]] for step in steps]) for key in keys}
    able = batch.varied(settings=columns).solve(batch.probe).feasible
    for index in np.flatnonzero(able):
        settings = {key: float(columns[key][index, 0]) for key in keys}
        if _stands(batch, settings):
            usual = case.settings
            return {key: value for key, value in settings.items() if value != usual[key]}
    return {}


def _stands(batch: Batch, settings: Mapping[str, float]) -> bool:
    """Whether every moment of the rep can be done, and the lower back keeps its shape."""
    one: dict[str, Array] = {key: np.array([[value]]) for key, value in settings.items()}
    solved = (batch.varied(settings=one) if one else batch).solve(batch.whole)
    return bool(solved.feasible[0]) and not rounds(batch.cases[0], solved.pose.lumbar_flexion_rad)


def _steps(case: ResolvedCase, chosen: Variation) -> Iterator[dict[str, float]]:
    """Techniques from the usual one on, ever easier, each with all settings that are eased."""
    shin, pressure = case.settings.get("shin_deg"), case.settings.get("pressure_fraction")
    depth = case.settings.get(chosen.depth) if chosen.depth else None
    now = {
        key: value
        for key, value in (
            ("shin_deg", shin),
            ("pressure_fraction", pressure),
            (chosen.depth, depth),
        )
        if value is not None
    }
    if shin is not None and case.school != "hips-first":
        yield from _shins(case, chosen, now)
    if pressure is not None:
        least = min(LEAST_OF_PULLS if chosen.from_floor else LEAST_PRESSURE, pressure)
        for step in range(1, round(PRESSURE_MOST / PRESSURE_STEP) + 1):
            now["pressure_fraction"] = round(max(pressure - step * PRESSURE_STEP, least), 3)
            yield dict(now)
    if depth is not None:
        setting = chosen.settings[chosen.depth]
        size, count = DEPTH_STEPS[setting.unit]
        way = 1.0 if chosen.depth in ("thigh_deg", "bar_height_m") else -1.0
        for step in range(1, count + 1):
            now[chosen.depth] = round(setting.clamped(depth + way * step * size), 3)
            yield dict(now)
    if shin is not None and case.school == "hips-first":
        yield from _shins(case, chosen, now)


def _shins(
    case: ResolvedCase, chosen: Variation, now: dict[str, float]
) -> Iterator[dict[str, float]]:
    """Shins from the usual one to the end of the ankle, the last one kept in ``now``."""
    start = now["shin_deg"]
    most = most_default_shin_deg(case, chosen, case.settings) - IN_HAND_DEG
    most = min(most, chosen.settings["shin_deg"].high)
    for step in range(1, math.ceil(max(most - start, 0.0) / SHIN_STEP_DEG) + 1):
        now["shin_deg"] = math.floor(10.0 * min(start + step * SHIN_STEP_DEG, most)) / 10.0
        yield dict(now)
