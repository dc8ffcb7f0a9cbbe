"""The difference table of a line-up as plain text: a column for each set-up, a row for each quantity."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np

from zesty_lever.analysis import JointSummary, Result
from zesty_lever.bench.model import Bench
from zesty_lever.choosing.bests import Effort
from zesty_lever.choosing.compare import Compared, Failed, Judged, Row, Table
from zesty_lever.choosing.rep_shape import FRONT_SHARE, Shapes
from zesty_lever.choosing.uncertainty import OTHERS, nominal_of
from zesty_lever.exercises.catalogue import variation
from zesty_lever.joints import BY_KEY, COACH_JOINTS
from zesty_lever.wording.sentences import judgement_words
from zesty_lever.wording.units import UNITS, minus

MOMENTS = {group.shown: f"{group.word.capitalize()}, N·m" for group in COACH_JOINTS}


TIPS = {
    **dict.fromkeys(
        MOMENTS.values(),
        "Peak with its 90 % interval (\N{MINUS SIGN}: the flexors work), the other direction's where it counts; then the difference to the first "
        "set-up, judged: as set up, then as done.",
    ),
    "Use": "Largest moment over what that joint of this athlete can hold at its angle, on the way up: an estimate "
    "from remembered strength tables and known bests, for loads to try, never a maximum to attempt.",
    "Compression, kN": "Largest push along the spine at the lowest disc, 90 % interval; then against the first set-up.",
    "Shear, kN": "Largest push across the spine at the lowest disc, 90 % interval; then against the first set-up.",
    "Knee : hip": "Ratio of the two peaks.",
    "Hip hardest at": "Where in the range the hip's peak falls: 0 % is the start, 100 % the turn.",
    "Lockout : peak": "Share of the hip's peak that is left at lockout.",
    "Hip impulse, N·m·s": "Moment times time at the tempo chosen: a repetition, and a set of as many as chosen.",
    "Hip in all, N·m": "Largest moment of the hip across the thigh, whatever its direction: in a wide stance extension alone "
    "hides what the adductors do.",
    "Hip sideways, N·m": "Largest moment of the hip about the forward axis (frontal): + where the adductors work, "
    "− where the abductors do.",
    "Front share": "Share of the weight on the front foot at the turn.",
}


# Row, what its draws are called, how many of the unit shown make one of the core's, decimals.
WITH_INTERVALS = (
    ("Compression, kN", "compression_N", 1e-3, 1),
    ("Shear, kN", "shear_N", 1e-3, 1),
    ("Knee : hip", "knee_to_hip", 1.0, 2),
    ("Hip in all, N·m", "work_Nm", 1.0, 0),
    ("Hip sideways, N·m", "frontal_Nm", 1.0, 0),
)


# A moment in the other direction, or sideways, that is smaller than this goes unsaid, N m.
TOLD_NM = 15.0


ORDER = ("Load", *TIPS, "Athlete", "Note")


def table_columns(
    compared: Sequence[Compared | Failed], found: Table, bench: Bench
) -> list[Mapping[str, str]]:
    """Every set-up's cells by quantity; ``found`` carries the judged differences and the intervals."""
    return [_column(number, compared[number], found, bench) for number in range(len(compared))]


def quantities(columns: Sequence[Mapping[str, str]]) -> list[str]:
    """Names of the rows that any column has, in the table's order."""
    return [name for name in ORDER if any(name in column for column in columns)]


def _column(number: int, item: Compared | Failed, found: Table, bench: Bench) -> Mapping[str, str]:
    entry = bench.lineup[number]
    ends = {"Athlete": item.case.athlete.name or "Athlete", "Note": entry.note}
    takes_load = bool(variation(item.case.variation).load)
    load = UNITS.text(item.case.load_kg or 0.0, "kg") if takes_load else "none"
    top = {"Load": f"{load}, pinned" if entry.pinned else load}
    if isinstance(item, Failed):
        return {**top, **dict.fromkeys(MOMENTS.values(), "not possible"), **ends}
    own = {r.joint: r for r in found.rows if r.case == item.name}
    moments = {
        name: _moment(own[joint], item.result.summary[joint], first=number == 0)
        for joint, name in MOMENTS.items()
    }
    judged = {key: found.others.get((item.name, key)) for key in OTHERS}
    beside = _others(item.result, judged, first=number == 0)
    beside |= _over_the_rep(item.result, found.shapes.get(item.name, {}), bench.reps_a_set)
    effort = found.efforts.get(item.name)
    if effort is not None:
        beside["Use"] = _use(effort)
    return {**top, **moments, **beside, **ends}


def _moment(row: Row, own: JointSummary, *, first: bool) -> str:
    """Peak with interval, the other direction's where it counts, and the judged difference, as set up and as done."""
    text = f"{row.peak_Nm:.0f}"
    judged = row.judged
    if judged is not None:
        text += f" ({_span(judged.peak.low, judged.peak.high)})"
    other, who = (
        (own.flexor_peak_Nm, "flexors")
        if row.peak_Nm >= 0.0
        else (own.extensor_peak_Nm, "extensors")
    )
    if other >= TOLD_NM:
        text += f"\n{who} {other:.0f}"
    if first:
        return minus(f"{text}\nbaseline")
    if judged is None:
        return minus(f"{text}\n{row.difference_Nm:+.0f}")
    verdict = judged.verdict
    words = judgement_words(verdict.judgement, verdict.because)
    set_up, done = (_span(i.low, i.high) for i in (verdict.set_up, verdict.done))
    return minus(f"{text}\n{words} {row.difference_Nm:+.0f} ({set_up})\nas done {done}")


def _span(low: float, high: float) -> str:
    """Two ends that stay on one line."""
    return f"{low:.0f} to {high:.0f}".replace(" ", "\N{NO-BREAK SPACE}")


def _beside(
    result: Result, key: str, factor: float, decimals: int, judged: Judged | None, *, first: bool
) -> str:
    """An estimate with its interval, and the judged difference to the first."""
    text = f"{factor * nominal_of(result, key):.{decimals}f}"
    if judged is None:
        return minus(text)
    low, high = (f"{factor * end:.{decimals}f}" for end in (judged.peak.low, judged.peak.high))
    text += f" ({low} to {high})".replace(" to ", "\N{NO-BREAK SPACE}to\N{NO-BREAK SPACE}")
    if not first:
        words = judgement_words(judged.judgement)
        text += f"\n{words} {factor * judged.verdict.set_up.nominal:+.{decimals}f}"
    return minus(text)


def _others(
    result: Result, judged_by_key: Mapping[str, Judged | None], *, first: bool
) -> dict[str, str]:
    """Discs, ratio and sideways part with their intervals."""
    found = {
        name: _beside(result, key, factor, decimals, judged_by_key[key], first=first)
        for name, key, factor, decimals in WITH_INTERVALS
    }
    frontal = nominal_of(result, "frontal_Nm")
    if abs(frontal) >= TOLD_NM:
        first_line, *rest = found["Hip sideways, N·m"].split("\n")
        who = "adductors" if frontal > 0.0 else "abductors"
        found["Hip sideways, N·m"] = "\n".join([f"{first_line} {who}", *rest])
    if not np.isfinite(nominal_of(result, "knee_to_hip")):
        found["Knee : hip"] = "hip near 0"
    return found


def _use(effort: Effort) -> str:
    """How much of what the joints can hold is used, and which joint comes first where one clearly does."""
    low, high = (f"{100 * end:.0f}" for end in (effort.low, effort.high))
    span = f"{low} to {high}".replace(" ", "\N{NO-BREAK SPACE}")
    first = BY_KEY[effort.joint].word if effort.joint else "no joint clearly first"
    return f"{100 * effort.top:.0f} % ({span})\n{first}"


def _over_the_rep(result: Result, shapes: Shapes, reps: int) -> dict[str, str]:
    """Where the hip is hardest, lockout, impulse and front share, with their intervals once they are known."""
    hip = result.summary["hip_right"]

    def told(value: float, key: str, factor: float, decimals: int, joint: str = "hip_right") -> str:
        text, interval = f"{factor * value:.{decimals}f}", shapes.get((joint, key))
        if interval is None:
            return text
        low, high = (f"{factor * end:.{decimals}f}" for end in (interval.low, interval.high))
        return f"{text} ({low} to {high})".replace(" to ", "\N{NO-BREAK SPACE}to\N{NO-BREAK SPACE}")

    impulse = told(hip.impulse_Nms, "impulse_Nms", 1.0, 0)
    found = {
        "Hip hardest at": f"{told(hip.at_progress, 'at_progress', 100.0, 0)} %",
        "Lockout : peak": minus(told(hip.lockout_to_peak, "lockout_to_peak", 1.0, 2)),
        "Hip impulse, N·m·s": minus(f"{impulse} a rep\n{reps * hip.impulse_Nms:.0f} a set"),
    }
    if result.variation.has_front_leg:
        share = float(result.solved.ground.share[result.timeline.bottom])
        found["Front share"] = f"{told(share, FRONT_SHARE, 100.0, 0, '')} %"
    return found
