"""Defaults that this athlete can't do at this load, eased until they can: more shin, weight further back, less depth.

A default technique is a choice, not physics: long thighs on stiff ankles reach no parallel without a load in
front. Only defaults are eased; what was asked for stays as it was asked.
"""

from __future__ import annotations

import json
import math
from collections import defaultdict
from collections.abc import Callable, Iterator, Mapping, Sequence
from typing import Any, Generic, TypeVar

import numpy as np

from zesty_lever.cases.batch import Batch, group_key, make_batch
from zesty_lever.cases.model import Case, ResolvedCase
from zesty_lever.cases.parse import case_from
from zesty_lever.cases.resolve import IN_HAND_DEG, most_default_shin_deg, resolve
from zesty_lever.exercises.catalogue import Variation, catalogue, variation
from zesty_lever.physics.body import landmark
from zesty_lever.physics.vectors import Array
from zesty_lever.problems import CaseError

Some = TypeVar("Some")

# Hips whose stiffness rounds the back; so many degrees more than is ordinary are rounding.
HIPS, ROUNDING_DEG = ("hip_flexion", "straight_leg"), 0.45
# What easing may help against.
HELPS = ("cannot-balance", "ankle-limit", "would-tip", "below-floor")
WHO_LEADS = ("hips_lead", "hips_rise_deg")
SHIN_STEP_DEG, PRESSURE_STEP, PRESSURE_MOST = 3.0, 0.03, 0.24
# How far back the weight may go: a light pull sits on the heels.
LEAST_PRESSURE, LEAST_OF_PULLS = 0.32, 0.26
# How many cases are worked out together, and how many steps of each are looked at before the next ones.
MOST_TOGETHER, STEPS_AT_ONCE = 128, 8
DEPTH_STEPS = {"deg": (3.0, 16), "m": (0.03, 8)}


def rounds(case: Case, lumbar_flexion_rad: Array) -> bool:
    """Whether a rep rounds the lower back because of the build: with hips as free as is usual.

    Stiff hips round by themselves; what they round at the default depth is told, not eased away.
    """
    usual = all(case.athlete.limit_deg(k) >= landmark(f"{k}_limit_deg") for k in HIPS)
    most = landmark("ordinary_lumbar_flexion_deg") + ROUNDING_DEG
    return usual and bool(np.degrees(lumbar_flexion_rad.max()) > most)


def eased(case: Case) -> ResolvedCase | None:
    """The case with its defaults eased; see `eased_many`."""
    return eased_many([case])[0]


def eased_many(cases: Sequence[Case]) -> list[ResolvedCase | None]:
    """Cases with their defaults eased, worked out together; None where they can be done or nothing helps.

    Takes them as they were given; a resolved one has no defaults left.
    """
    texts = [None if isinstance(case, ResolvedCase) else _bare(case, settings={}) for case in cases]
    found = _EASED.each(texts)
    return [
        None if changes is None else _with(case, changes)
        for case, changes in zip(cases, found, strict=True)
    ]


def _with(case: Case, changes: Mapping[str, float]) -> ResolvedCase | None:
    """A case with eased defaults where it gives no setting of its own."""
    fresh = {key: value for key, value in changes.items() if key not in case.settings}
    if case.settings.get("heel_lift_deg"):
        # With the heel up only the ball is left to stand on.
        fresh.pop("pressure_fraction", None)
    if not fresh:
        return None
    return resolve(case.changed(settings={**fresh, **case.settings}))


def on_own_paths(cases: Sequence[Case]) -> list[Case]:
    """Cases with a default shin where a shallower depth has it: a point on each athlete's own way down.

    In level stances and step-ups, where the shin is left to its default and the thigh is asked to stop above
    the default's. Deeper than that the default shin stays; a seat keeps its own. The way down is that of the
    same set-up at its default depth, with hips and knees together. Cases that are not valid stay as they are.
    """
    found = _WAYS_DOWN.each([_way_wanted(case) for case in cases])
    return [
        case if way is None else _on_way(case, *way) for case, way in zip(cases, found, strict=True)
    ]


def _way_wanted(case: Case) -> str | None:
    """The set-up whose way down tells a case's shin; None where the shin is no question."""
    thigh = case.settings.get("thigh_deg")
    if thigh is None or isinstance(case, ResolvedCase) or "shin_deg" in case.settings:
        return None
    chosen = catalogue().get(case.variation)
    if chosen is None or chosen.sits or not (chosen.is_squat or chosen.steps_up):
        return None
    whole = {k: v for k, v in case.settings.items() if k not in ("thigh_deg", *WHO_LEADS)}
    text = _bare(case, settings=whole)
    try:
        resolve(case_from(json.loads(text)))
    except CaseError:
        return None
    return text


def _on_way(case: Case, thighs: Sequence[float], shins: Sequence[float]) -> Case:
    thigh = case.settings["thigh_deg"]
    if thigh is None or not thighs or thigh <= thighs[-1]:
        return case
    # From the deepest up, so that the thigh rises.
    shin = float(np.interp(thigh, thighs[::-1], shins[::-1]))
    shin = variation(case.variation).settings["shin_deg"].clamped(round(shin, 3))
    return case.changed(settings={**case.settings, "shin_deg": shin})


def _bare(case: Case, *, settings: Mapping[str, float | None]) -> str:
    """A case at rest over its whole travel with these settings, as text to know it by."""
    base = case.changed(
        settings=dict(settings), frames="none", mode="static", travel=(0.0, 1.0), style="full"
    )
    return json.dumps(base.as_json(), sort_keys=True)


class _Known(Generic[Some]):
    """Answers by the text of their case; those not known yet are found together."""

    MOST = 4096

    def __init__(self, find: Callable[[list[Case]], list[Some]]) -> None:
        self._find = find
        self._known: dict[str, Some] = {}

    def each(self, texts: Sequence[str | None]) -> list[Some | None]:
        """An answer for every text, None for None."""
        new = [t for t in dict.fromkeys(texts) if t is not None and t not in self._known]
        fresh: dict[str, Some] = {}
        if new:
            fresh = dict(zip(new, self._find([case_from(json.loads(t)) for t in new]), strict=True))
        answers = [None if t is None else fresh[t] if t in fresh else self._known[t] for t in texts]
        if len(self._known) + len(fresh) > self.MOST:
            self._known = {}
        if len(fresh) <= self.MOST:
            self._known |= fresh
        return answers


def _batches(cases: Sequence[ResolvedCase]) -> Iterator[tuple[list[int], Batch]]:
    """Resolved cases in groups that are worked out together, each with its places in the list."""
    groups: dict[Any, list[int]] = defaultdict(list)
    for index, case in enumerate(cases):
        groups[case.variation, group_key(case)].append(index)
    for rows in groups.values():
        for start in range(0, len(rows), MOST_TOGETHER):
            part = rows[start : start + MOST_TOGETHER]
            yield part, make_batch([cases[row] for row in part])


def _find_ways(cases: list[Case]) -> list[tuple[tuple[float, ...], tuple[float, ...]]]:
    """Thighs and shins (deg) on the way down of default reps; empty where one can't be done."""
    done = [easier or resolve(case) for case, easier in zip(cases, eased_many(cases), strict=True)]
    found: list[tuple[tuple[float, ...], tuple[float, ...]]] = [((), ())] * len(cases)
    for rows, batch in _batches(done):
        down = batch.timeline.moves[0]
        solved = batch.solve(batch.timeline.instants_at(range(down[0], down[1] + 1), moving=False))
        pose = solved.pose
        thighs = 90.0 + np.degrees(pose.side_view_rad("knee_right", "hip_right"))
        shins = np.degrees(pose.side_view_rad("ankle_right", "knee_right"))
        for at in np.flatnonzero(solved.feasible):
            found[rows[at]] = (tuple(thighs[at].tolist()), tuple(shins[at].tolist()))
    return found


def _find_easings(cases: list[Case]) -> list[Mapping[str, float]]:
    """Settings in which the default that can be done differs from the usual one (empty: in none)."""
    whole = [resolve(case) for case in cases]
    found: list[Mapping[str, float]] = [{}] * len(cases)
    for rows, batch in _batches(whole):
        open_rows = [row for row, able in zip(rows, _stand(batch), strict=True) if not able]
        for row, settings in _ease([whole[row] for row in open_rows], batch.variation).items():
            usual = whole[open_rows[row]].settings
            found[open_rows[row]] = {k: v for k, v in settings.items() if v != usual[k]}
    return found


def _ease(cases: Sequence[ResolvedCase], chosen: Variation) -> dict[int, dict[str, float]]:
    """The first step of each case, by its place in the list, that can be done over the whole rep.

    Steps are looked at in blocks, all cases together: quick looks first, then whole reps of what they let pass.
    """
    steps = [list(_steps(case, chosen)) for case in cases]
    found: dict[int, dict[str, float]] = {}
    for block in range(0, max(map(len, steps), default=0), STEPS_AT_ONCE):
        tried = [
            (row, step)
            for row, own in enumerate(steps)
            if row not in found
            for step in own[block : block + STEPS_AT_ONCE]
        ]
        hopeful: dict[int, list[dict[str, float]]] = defaultdict(list)
        for (row, step), able in zip(tried, _quick_looks(cases, tried), strict=True):
            if able:
                hopeful[row].append(step)
        while hopeful:
            first = [(row, hopeful[row].pop(0)) for row in hopeful]
            for (row, step), able in zip(first, _whole_looks(cases, first), strict=True):
                if able:
                    found[row] = step
            hopeful = {row: left for row, left in hopeful.items() if left and row not in found}
    return found


Trial = tuple[int, dict[str, float]]


def _tried(cases: Sequence[ResolvedCase], trials: Sequence[Trial]) -> Iterator[Batch]:
    """Trials as batches, in their order."""
    for start in range(0, len(trials), MOST_TOGETHER):
        part = trials[start : start + MOST_TOGETHER]
        columns = {key: np.array([[step[key]] for _, step in part]) for key in part[0][1]}
        yield make_batch([cases[row] for row, _ in part]).varied(settings=columns)


def _quick_looks(cases: Sequence[ResolvedCase], trials: Sequence[Trial]) -> list[bool]:
    return [
        able
        for batch in _tried(cases, trials)
        for able in batch.solve(batch.probe).feasible.tolist()
    ]


def _whole_looks(cases: Sequence[ResolvedCase], trials: Sequence[Trial]) -> list[bool]:
    return [able for batch in _tried(cases, trials) for able in _stand(batch)]


def _stand(batch: Batch) -> list[bool]:
    """Whether every moment of each rep can be done, and the lower back keeps its shape."""
    solved = batch.solve(batch.whole)
    lumbar = np.broadcast_to(solved.pose.lumbar_flexion_rad, solved.drawable.shape)
    return [
        bool(able) and not rounds(case, own)
        for able, case, own in zip(solved.feasible, batch.cases, lumbar, strict=True)
    ]


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
    shins_first = case.school != "hips-first" or chosen.shin_below is not None
    if shin is not None and shins_first:
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
    if shin is not None and not shins_first:
        yield from _shins(case, chosen, now)


def _shins(
    case: ResolvedCase, chosen: Variation, now: dict[str, float]
) -> Iterator[dict[str, float]]:
    """Shins from the usual one to the end of the ankle, the last one kept in ``now``."""
    start = now["shin_deg"]
    most = most_default_shin_deg(case, chosen, case.settings) - IN_HAND_DEG
    most = min(most, chosen.settings["shin_deg"].high)
    # One that stays steeper than another lift's goes no further than it has to.
    size = SHIN_STEP_DEG if chosen.shin_below is None else 1.0
    for step in range(1, math.ceil(max(most - start, 0.0) / size) + 1):
        now["shin_deg"] = math.floor(10.0 * min(start + step * size, most)) / 10.0
        yield dict(now)


_EASED = _Known(_find_easings)
_WAYS_DOWN = _Known(_find_ways)
