"""Compares cases with a baseline: matched loads, peaks side by side, differences judged."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from contextlib import suppress
from dataclasses import field, replace

import numpy as np

from zesty_lever.analysis import Result, analyse, analyse_many
from zesty_lever.cases.model import Case
from zesty_lever.choosing.bests import Effort, effort_of, misleads, strength_of
from zesty_lever.choosing.loading import USUAL, TypicalRules, matched, typical_load_kg, with_load
from zesty_lever.choosing.rep_shape import Shapes, rep_intervals
from zesty_lever.choosing.scatter import Errors
from zesty_lever.choosing.uncertainty import DRAWS, OTHERS, Drawn, Interval, draw, nominal_of
from zesty_lever.choosing.verdict import Judgement, Verdict, judge, undone_by
from zesty_lever.frozen import dataclass
from zesty_lever.joints import JOINTS
from zesty_lever.problems import CaseError, Problem


@dataclass(frozen=True)
class Compared:
    """One case of a comparison that can be done."""

    name: str
    result: Result

    @property
    def case(self) -> Case:
        """The case as it was compared, filled in and matched."""
        return self.result.case


@dataclass(frozen=True)
class Failed:
    """One case of a comparison that can't be compared, and why."""

    name: str
    case: Case
    problem: Problem


@dataclass(frozen=True)
class Judged:
    """What intervals add to a row: peak as done, difference as set up and as done, and its judgement.

    ``undone_by`` names a setting and the change (deg) that takes the difference away.
    """

    peak: Interval
    verdict: Verdict
    undone_by: tuple[str, float] | None = None

    @property
    def judgement(self) -> Judgement:
        """What can be said of the difference."""
        return self.verdict.judgement


@dataclass(frozen=True)
class Row:
    """One case and joint; differences are to the baseline's same joint, N m."""

    case: str
    variation: str
    load_kg: float
    joint: str
    peak_Nm: float
    at_progress: float
    lockout_to_peak: float
    impulse_Nms: float
    difference_Nm: float
    difference_percent: float | None
    judged: Judged | None = None


@dataclass(frozen=True)
class FailedRow:
    """A case that has no numbers, and why."""

    case: str
    variation: str
    load_kg: float | None
    problem: Problem


@dataclass(frozen=True)
class Table:
    """A comparison: its rows, and by (case, one of `OTHERS`) interval and judged difference.

    ``shapes`` are by case the intervals of what the whole rep says (`rep_shape`), ``efforts`` how hard it is for
    its athlete (none where that would mislead), where they were asked for.
    """

    rows: tuple[Row, ...]
    failed: tuple[FailedRow, ...]
    others: Mapping[tuple[str, str], Judged] = field(default_factory=dict)
    shapes: Mapping[str, Shapes] = field(default_factory=dict)
    efforts: Mapping[str, Effort] = field(default_factory=dict)

    def with_shapes(
        self, shapes: Mapping[str, Shapes], efforts: Mapping[str, Effort] | None = None
    ) -> Table:
        """The same with the intervals of whole reps, and efforts."""
        return replace(self, shapes=shapes, efforts=efforts or {})


def compare(
    named: Sequence[tuple[str, Case]], match: str | None = None, rules: TypicalRules = USUAL
) -> list[Compared | Failed]:
    """Work out all cases against the first one, after matching their loads.

    ``match`` is one of `loading.MATCHES` or None (loads as they stand); ``rules`` give typical loads.
    Raises `CaseError` when the baseline itself can't serve.
    """
    (name, base), *others = named
    if match == "typical-load":
        base = with_load(base, typical_load_kg(base, rules)[0])
    first = analyse(base)
    _ = first.solved
    ready: list[tuple[str, Case] | Failed] = []
    for other, case in others:
        try:
            ready.append((other, matched(case, first, match, rules)))
        except CaseError as error:
            ready.append(Failed(other, case, error.problem))
    outcomes = iter(analyse_many([item[1] for item in ready if not isinstance(item, Failed)]))
    return [
        Compared(name, first),
        *(i if isinstance(i, Failed) else _compared(*i, next(outcomes)) for i in ready),
    ]


def _compared(name: str, case: Case, outcome: Result | CaseError) -> Compared | Failed:
    if isinstance(outcome, CaseError):
        return Failed(name, case, outcome.problem)
    if outcome.error:
        return Failed(name, outcome.case, outcome.error)
    return Compared(name, outcome)


def table(
    compared: Sequence[Compared | Failed],
    draws: int = 0,
    errors: Errors | None = None,
    joints: Sequence[str] = JOINTS,
    tell: Callable[[float], None] | None = None,
    *,
    others: bool = False,
    undoing: bool = False,
) -> Table:
    """Rows of the comparison, one a case and joint.

    With ``draws`` every peak and every difference has its 90 % interval and the difference its judgement;
    where too few draws can stand they stay without. ``joints`` are those that get intervals, ``others``
    asks for `OTHERS` too, ``undoing`` for what undoes a difference that only holds as set up.
    """
    able = [item for item in compared if isinstance(item, Compared)]
    base = able[0].result
    rows: list[Row] = []
    beside: dict[tuple[str, str], Judged] = {}
    first: Drawn | None = None
    for number, item in enumerate(able):
        if tell is not None:
            tell(number / len(able))
        rows += (row := _plain_rows(item, base))
        if not draws:
            continue
        own = draw(item.result, errors, draws, joints=joints, others=others)
        first = first or own
        judged = {j: _judged(own, first, j, undoing=undoing) for j in joints}
        rows[-len(row) :] = [replace(r, judged=judged.get(r.joint)) for r in row]
        for key in OTHERS if others else ():
            known = all(np.isfinite(nominal_of(d.result, key)) for d in (own, first))
            found = _judged(own, first, key, undoing=False) if known else None
            if found is not None:
                beside[item.name, key] = found
    failed = [
        FailedRow(item.name, item.case.variation, item.case.load_kg, item.problem)
        for item in compared
        if isinstance(item, Failed)
    ]
    return Table(tuple(rows), tuple(failed), beside)


def shapes_of(
    compared: Sequence[Compared | Failed],
    errors: Errors | None = None,
    tell: Callable[[float], None] | None = None,
) -> dict[str, Shapes]:
    """By case what its whole rep says, with 90 % intervals."""
    found: dict[str, Shapes] = {}
    for number, item in enumerate(compared):
        if tell is not None:
            tell(number / len(compared))
        if isinstance(item, Compared):
            found[item.name] = rep_intervals(item.result, errors)
    return found


def efforts_of(compared: Sequence[Compared | Failed]) -> dict[str, Effort]:
    """By case how hard it is for its athlete; without those where that would mislead or can't be told."""
    found = {}
    for item in compared:
        if isinstance(item, Compared) and not misleads(item.result):
            with suppress(CaseError):
                case = item.result.case
                found[item.name] = effort_of(case, strength_of(case.athlete, case.school))
    return found


def _plain_rows(item: Compared, base: Result) -> list[Row]:
    rows = []
    for joint in JOINTS:
        own, other = item.result.summary[joint], base.summary[joint]
        difference = own.peak_Nm - other.peak_Nm
        rows.append(
            Row(
                item.name,
                item.result.case.variation,
                item.result.case.load_kg,
                joint,
                peak_Nm=own.peak_Nm,
                at_progress=own.at_progress,
                lockout_to_peak=own.lockout_to_peak,
                impulse_Nms=own.impulse_Nms,
                difference_Nm=difference,
                difference_percent=100.0 * difference / abs(other.peak_Nm)
                if other.peak_Nm
                else None,
            )
        )
    return rows


def _judged(own: Drawn, base: Drawn, key: str, *, undoing: bool) -> Judged | None:
    """Interval and verdict of one case's joint or other quantity; None where too few draws can stand."""
    with suppress(CaseError):
        peak, verdict = own.interval(key), judge(own, base, key)
        undone = None
        if undoing and verdict.judgement.endswith("as-set-up"):
            undone = undone_by(own.result, base.result, key)
        return Judged(peak, verdict, undone)
    return None


def judged_pair(one: Result, base: Result, joint: str, draws: int = DRAWS) -> Judged | None:
    """One result judged against another at a joint; None where too few draws can stand."""
    own, first = (draw(r, draws=draws, joints=[joint]) for r in (one, base))
    return _judged(own, first, joint, undoing=True)


def theorem_applies(a: Result, b: Result) -> bool:
    """Whether two results differ only in where the load sits: same legs, weight and pressure."""
    if not (a.feasible and b.feasible):
        return False
    if any(not r.variation.stands_level or r.variation.lines or r.case.loads for r in (a, b)):
        return False
    legs = (
        "stance_m",
        "toe_out_deg",
        "thigh_deg",
        "shin_deg",
        "knee_track_m",
        "heel_height_m",
        "heel_lift_deg",
    )
    build = ("height_m", "mass_kg", "sex", "lengths_m")
    one, two = a.solved, b.solved
    at_a, at_b = a.timeline.bottom, b.timeline.bottom
    weights = one.pose.system_mass_kg()[at_a], two.pose.system_mass_kg()[at_b]
    same_legs = all(_leg_value(a, key) == _leg_value(b, key) for key in legs)
    pressures = one.pressure_fraction[at_a], two.pressure_fraction[at_b]
    same_build = all(getattr(a.case.athlete, k) == getattr(b.case.athlete, k) for k in build)
    moved = abs(one.pose.trunk_rad[at_a] - two.pose.trunk_rad[at_b]) > np.radians(0.2)
    same = abs(weights[0] - weights[1]) < 0.05 and abs(pressures[0] - pressures[1]) < 0.005
    return bool(same and same_legs and same_build and moved)


def _leg_value(result: Result, key: str) -> float:
    value = result.solved.bottom_deg.get(key, result.case.settings.get(key))
    return round(float(value or 0.0), 2)
