"""Compares cases with a baseline: same load, typical loads, same system mass, equal demand."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from contextlib import suppress
from dataclasses import dataclass, field, replace

import numpy as np

from zesty_lever.analysis import Result, analyse, analyse_many
from zesty_lever.case import Case, CaseError, MassLoad
from zesty_lever.exercises.catalogue import fill, variation
from zesty_lever.motion.pose import JOINTS
from zesty_lever.uncertainty import (
    OTHERS,
    Drawn,
    Errors,
    Interval,
    Verdict,
    draw,
    judge,
    nominal_of,
)
from zesty_lever.vectors import Array, find_increasing_root

MATCHES = (
    "same-load",
    "typical-load",
    "same-system",
    "equal:hip",
    "equal:knee",
    "equal:lower-back",
)
EQUAL_JOINTS = {
    "equal:hip": ("hip_left", "hip_right"),
    "equal:knee": ("knee_left", "knee_right"),
    "equal:lower-back": ("lumbosacral",),
}
LOAD_TOLERANCE_KG = 1e-4
LOADS_TRIED = 26


@dataclass(frozen=True)
class Compared:
    """One case of a comparison: its result, or the error that keeps it out."""

    name: str
    case: Case
    result: Result | None
    error: CaseError | None


@dataclass(frozen=True)
class Row:
    """One case and joint; differences are to the baseline's same joint. None where unknown.

    ``held`` is the interval that measuring alone leaves, with the contacts settled by the rule.
    """

    case: str
    variation: str
    load_kg: float | None
    joint: str
    peak_Nm: float | None = None
    peak_low_Nm: float | None = None
    peak_high_Nm: float | None = None
    at_progress: float | None = None
    lockout_to_peak: float | None = None
    impulse_Nms: float | None = None
    difference_Nm: float | None = None
    difference_percent: float | None = None
    difference_low_Nm: float | None = None
    difference_high_Nm: float | None = None
    judgement: str | None = None
    held_low_Nm: float | None = None
    held_high_Nm: float | None = None


@dataclass(frozen=True)
class TypicalRules:
    """Rules of thumb for a working load (common practice, no source); a coach may change them.

    ``working`` is the share of a best lift that is worked with; ``shares`` gives a variation's best as
    a share of the best high-bar back squat, where it differs from the catalogue's. Raises `CaseError` for a
    share outside its range or an unknown variation.
    """

    working: float = 0.7
    shares: Mapping[str, float] = field(default_factory=dict)

    def __post_init__(self) -> None:
        """Refuse shares that make no working load."""
        ranges = {"working share": (self.working, 0.3, 1.0)}
        ranges |= {f"share of {name}": (share, 0.05, 3.0) for name, share in self.shares.items()}
        for what, (value, low, high) in ranges.items():
            if not low <= value <= high:
                raise CaseError(
                    "out-of-range",
                    f"the {what} is {value:g}; it has to be {low:g} to {high:g}",
                    key=what,
                    value=value,
                    allowed=[low, high],
                )
        for name in self.shares:
            variation(name)

    def share_of(self, name: str) -> float | None:
        """Share of the best high-bar back squat, None where the catalogue knows none."""
        own = (variation(name).load or {}).get("share_of_back_squat")
        return self.shares.get(name, None if own is None else float(own))


USUAL = TypicalRules()


def peak(result: Result, joints: Sequence[str]) -> float:
    """Largest extension peak over some joints, N m."""
    assert result.summary is not None
    return max(result.summary[joint].peak_Nm for joint in joints)


def typical_load_kg(case: Case, rules: TypicalRules = USUAL) -> tuple[float, str]:
    """A working load and the rule behind it.

    The working share of the athlete's best in this variation; else of what the share of the best
    high-bar back squat gives; else the catalogue's default.
    """
    chosen = variation(case.variation)
    best = case.athlete.best_loads_kg
    low, high = chosen.load_range_kg()
    share, working = rules.share_of(chosen.id), f"{100 * rules.working:.0f} %"
    if chosen.id in best:
        load, rule = rules.working * best[chosen.id], f"{working} of the best in this variation"
    elif "back-squat-high-bar" in best and chosen.load and share is not None:
        load = rules.working * share * best["back-squat-high-bar"]
        rule = f"{working} of {100 * share:.0f} % of the best high-bar back squat"
    else:
        load, rule = chosen.default_load_kg(), "the catalogue's default"
    return min(max(load, low), high), rule


def compare(
    named: Sequence[tuple[str, Case]], match: str | None = None, rules: TypicalRules = USUAL
) -> list[Compared]:
    """Work out all cases against the first one, after matching their loads.

    ``match`` is one of `MATCHES` or None (loads as they stand); ``rules`` give typical loads. Raises `CaseError` when the
    baseline itself can't serve.
    """
    cases = [_or_error(case) for _, case in named]
    base = cases[0]
    if isinstance(base, CaseError):
        raise base
    if match == "typical-load":
        base = with_load(base, typical_load_kg(base, rules)[0])
    first = analyse(base)
    if first.error:
        raise first.error
    matched: list[Case | CaseError] = [base]
    matched += [
        c if isinstance(c, CaseError) else _match(c, first, match, rules) for c in cases[1:]
    ]
    solved = iter(analyse_many([c for c in matched if isinstance(c, Case)]))
    found = []
    for (name, original), case in zip(named, matched, strict=True):
        outcome = next(solved) if isinstance(case, Case) else case
        if isinstance(outcome, CaseError):
            shown = case if isinstance(case, Case) else original
            found.append(Compared(name, shown, None, outcome))
        else:
            found.append(Compared(name, outcome.case, outcome, outcome.error))
    return found


def _or_error(case: Case) -> Case | CaseError:
    try:
        return fill(case)
    except CaseError as error:
        return error


def _match(case: Case, base: Result, match: str | None, rules: TypicalRules) -> Case | CaseError:
    if match is None:
        return case
    try:
        load = _matched_load_kg(case, base, match, rules)
        low, high = variation(case.variation).load_range_kg()
        _check_load(case.variation, load, low, high)
    except CaseError as error:
        return error
    return with_load(case, float(load))


def with_load(case: Case, load_kg: float) -> Case:
    """The case with another load; one that differs on the way up keeps its difference."""
    up, down = case.load_up_kg, case.load_kg or 0.0
    lifted = None if up is None else max(up + load_kg - down, 0.0)
    return case.model_copy(update={"load_kg": load_kg, "load_up_kg": lifted})


def _matched_load_kg(case: Case, base: Result, match: str, rules: TypicalRules) -> float:
    if match in EQUAL_JOINTS:
        joints = EQUAL_JOINTS[match]
        return equal_demand_load_kg(case, joints, peak(base, joints))
    if match == "typical-load":
        return typical_load_kg(case, rules)[0]
    if match == "same-load":
        return base.case.load_kg or 0.0
    system = base.case.athlete.mass_kg + (base.case.load_kg or 0.0)
    extra = _extra_kg(base.case) - _extra_kg(case)
    return system + extra - case.athlete.mass_kg


def _extra_kg(case: Case) -> float:
    return sum(e.mass_kg for e in case.loads if isinstance(e, MassLoad))


def _check_load(name: str, load: float, low: float, high: float) -> None:
    if not low <= load <= high:
        raise CaseError(
            "no-such-load",
            f"load_kg would have to be {load:.1f} kg; {name} takes {low:g} to {high:g} kg",
            key="load_kg",
            value=load,
            unit="kg",
            allowed=[low, high],
        )


def equal_demand_load_kg(case: Case, joints: Sequence[str], target_Nm: float) -> float:
    """Load at which the peak of ``joints`` reaches ``target_Nm``, re-solved at every trial.

    Raises `CaseError` where even no load is more, or the heaviest load is less, or no load in
    between can be balanced.
    """
    low, high = variation(case.variation).load_range_kg()
    name = joints[0].split("_", maxsplit=1)[0].replace("lumbosacral", "lower back")

    def outcomes(loads: Array) -> list[Result]:
        trials = [with_load(case, float(v)) for v in loads]
        found = []
        for outcome in analyse_many(trials):
            if isinstance(outcome, CaseError):
                raise outcome
            found.append(outcome)
        return found

    def excess(loads: Array) -> Array:
        solved = outcomes(loads)
        failed = next((r.error for r in solved if r.error), None)
        if failed:
            raise failed
        return np.array([peak(r, joints) - target_Nm for r in solved])

    loads = np.linspace(low, high, LOADS_TRIED) if high > low else np.array([low])
    tried = outcomes(loads)
    # Some poses need a load to balance at all: only what can be done counts.
    able = [
        (kg, peak(r, joints) - target_Nm) for kg, r in zip(loads, tried, strict=True) if not r.error
    ]
    if not able:
        assert tried[0].error is not None
        raise tried[0].error
    if able[0][1] > 0.0:
        lightest = able[0][0]
        answer = "the answer is no load" if lightest == low else "no lighter load balances"
        raise CaseError(
            "no-load-needed",
            f"at {lightest:g} kg the {name} peak is already {able[0][1] + target_Nm:.0f} N·m, above "
            f"the baseline's {target_Nm:.0f} N·m: {answer}",
            key="load_kg",
            value=lightest,
            unit="kg",
            allowed=[low, high],
        )
    if able[-1][1] < 0.0:
        raise CaseError(
            "not-enough-load",
            f"at its heaviest possible load of {able[-1][0]:g} kg the {name} peak is "
            f"{able[-1][1] + target_Nm:.0f} N·m, below the baseline's {target_Nm:.0f} N·m",
            key="load_kg",
            value=able[-1][0],
            unit="kg",
            allowed=[low, high],
        )
    above = next(i for i, (_, gap) in enumerate(able) if gap >= 0.0)
    ends = [np.array([able[i][0]]) for i in (max(above - 1, 0), above)]
    return float(find_increasing_root(excess, *ends, tolerance=LOAD_TOLERANCE_KG)[0])


def table(
    compared: Sequence[Compared],
    draws: int = 0,
    errors: Errors | None = None,
    joints: Sequence[str] = JOINTS,
    tell: Callable[[float], None] | None = None,
    others: dict[tuple[str, str], tuple[Interval, Verdict]] | None = None,
) -> list[Row]:
    """Rows of the comparison: one a case and joint, or one for a failed case.

    With ``draws`` every peak and every difference has its 90 % interval and the difference its judgement;
    where too few draws can stand they stay empty. ``joints`` are those that get intervals. ``others`` is
    filled by (case, one of `OTHERS`) with the interval and the judged difference to the baseline.
    """
    base = compared[0].result
    assert base is not None and base.summary is not None
    rows: list[Row] = []
    first: Drawn | None = None
    for number, item in enumerate(compared):
        if tell is not None:
            tell(number / len(compared))
        if item.result is None or item.result.summary is None:
            text = item.error.text if item.error else ""
            rows.append(Row(item.name, item.case.variation, item.case.load_kg, text))
            continue
        own_draws = (
            draw(item.result, errors, draws, joints=joints, others=others is not None)
            if draws
            else None
        )
        first = own_draws if first is None else first
        if others is not None and own_draws is not None and first is not None:
            for key in OTHERS:
                if not all(np.isfinite(nominal_of(d.result, key)) for d in (own_draws, first)):
                    continue
                with suppress(CaseError):
                    others[item.name, key] = own_draws.interval(key), judge(own_draws, first, key)
        for joint in JOINTS:
            own, other = item.result.summary[joint], base.summary[joint]
            difference = own.peak_Nm - other.peak_Nm
            percent = 100.0 * difference / abs(other.peak_Nm) if other.peak_Nm else None
            row = Row(
                item.name,
                item.case.variation,
                item.case.load_kg,
                joint,
                peak_Nm=own.peak_Nm,
                at_progress=own.at_progress,
                lockout_to_peak=own.lockout_to_peak,
                impulse_Nms=own.impulse_Nms,
                difference_Nm=difference,
                difference_percent=percent,
            )
            rows.append(_with_intervals(row, own_draws, first, joint))
    return rows


def _with_intervals(row: Row, own: Drawn | None, base: Drawn | None, joint: str) -> Row:
    if own is None or base is None or joint not in own.peaks or joint not in base.peaks:
        return row
    try:
        interval, held, verdict = (
            own.interval(joint),
            own.interval(joint, held=True),
            judge(own, base, joint),
        )
    except CaseError:
        return row
    gap = verdict.difference
    return replace(
        row,
        peak_low_Nm=interval.low,
        peak_high_Nm=interval.high,
        difference_low_Nm=gap.low,
        difference_high_Nm=gap.high,
        judgement=verdict.words,
        held_low_Nm=held.low,
        held_high_Nm=held.high,
    )


def theorem_applies(a: Result, b: Result) -> bool:
    """Whether two results differ only in where the load sits: same legs, weight and pressure."""
    if a.error or b.error or a.pressure_fraction is None or b.pressure_fraction is None:
        return False
    if any(variation(r.case.variation).builder != "level" for r in (a, b)):
        return False
    if any(variation(r.case.variation).lines or r.case.loads for r in (a, b)):
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
    at_a, at_b = a.timeline.bottom, b.timeline.bottom
    assert a.pose is not None and b.pose is not None
    assert a.bottom_deg is not None and b.bottom_deg is not None
    same_weight = abs(a.pose.system_mass_kg()[at_a] - b.pose.system_mass_kg()[at_b]) < 0.05
    same_legs = all(_leg_value(a, key) == _leg_value(b, key) for key in legs)
    same_pressure = abs(a.pressure_fraction[at_a] - b.pressure_fraction[at_b]) < 0.005
    same_build = all(getattr(a.case.athlete, k) == getattr(b.case.athlete, k) for k in build)
    moved = abs(a.pose.trunk_rad[at_a] - b.pose.trunk_rad[at_b]) > np.radians(0.2)
    return bool(same_weight and same_legs and same_pressure and same_build and moved)


def _leg_value(result: Result, key: str) -> float:
    assert result.bottom_deg is not None
    value = result.bottom_deg.get(key, result.case.settings.get(key))
    return round(float(value or 0.0), 2)
