"""Choosing: the catalogue ranked for an athlete and a wish, substitutes, a week covered."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace

import numpy as np

from zesty_lever.analysis import Result, analyse_many
from zesty_lever.batch import Carrying, make_batch
from zesty_lever.body import landmark
from zesty_lever.case import Athlete, Case, CaseError, School
from zesty_lever.compare import USUAL, TypicalRules, typical_load_kg, with_load
from zesty_lever.exercises.catalogue import Variation, catalogue, fill, variation
from zesty_lever.exercises.rep import Flags
from zesty_lever.motion.pose import JOINTS
from zesty_lever.motion.rep import PROBE_PROGRESS
from zesty_lever.room import deeper_way, deepest_unrounded
from zesty_lever.sweep import sweep
from zesty_lever.uncertainty import draw
from zesty_lever.vectors import Array

# What can be wished for, in words; each is a share between 0 and 1 (see `features_of`).
WISHES = {
    "hip": "more hip",
    "knee": "more knee",
    "back": "more lower back",
    "lockout": "hard at lockout",
    "long": "hard when long",
    "one-leg": "one leg",
    "sideways": "sideways",
}
JOINT_OF = {
    "hip": ("hip_left", "hip_right"),
    "knee": ("knee_left", "knee_right"),
    "back": ("lumbosacral",),
}
JOINT_WORDS = {"hip": "hip", "knee": "knee", "back": "lower back"}
LOADS_TRIED, MOST_WEIGHT = 9, 100.0
SPAN_DRAWS = 300
# How much of the work the ranking is; the intervals are the rest.
RANKING_SHARE = 0.4


@dataclass(frozen=True)
class Ceiling:
    """A joint that may take at most ``share`` of what a known lift asks of it at its best load."""

    joint: str
    share: float
    lift: str


@dataclass(frozen=True)
class Wish:
    """What the coach wants today. ``want`` maps `WISHES` to weights (minus: less of it).

    ``keep_shape``: nothing goes deeper than the low back keeps its shape.
    ``equipment`` None: everything is there. ``goal`` is an optional (knee, hip) point, N m, that the
    list should come close to. ``directions`` empty: any.
    """

    want: Mapping[str, float] = field(default_factory=dict)
    ceilings: tuple[Ceiling, ...] = ()
    equipment: frozenset[str] | None = None
    skill: int = 3
    spotter: bool = True
    directions: frozenset[str] = frozenset()
    goal: tuple[float, float] | None = None
    keep_shape: bool = True


@dataclass(frozen=True)
class Option:
    """One variation for this athlete: load, peaks (N m), how well it fits, and why.

    ``ruled_out`` says why it can't be done today; its numbers are then None. ``spans`` are 90 %
    intervals of the peaks (N m), ``held`` what measuring alone leaves open of them, with the contacts
    settled by the rule; both are empty where too few draws can stand. ``settings`` are those that differ
    from the default technique: a depth that the hips allow, a setting without which the load can't be held.
    """

    variation: str
    load_kg: float | None
    load_rule: str
    peaks: Mapping[str, float] | None
    features: Mapping[str, float] | None
    score: float
    reason: str
    ruled_out: str = ""
    case: Case | None = None
    spans: Mapping[str, tuple[float, float]] = field(default_factory=dict)
    held: Mapping[str, tuple[float, float]] = field(default_factory=dict)
    settings: Mapping[str, float] = field(default_factory=dict)


def kinds_needed(entry: Variation) -> list[frozenset[str]]:
    """Equipment of a variation, each item with its alternatives."""
    return [frozenset(item.split(" or ")) for item in entry.equipment]


def shortlist(
    athlete: Athlete,
    wish: Wish,
    school: School = "even",
    tell: Callable[[float], None] | None = None,
    rules: TypicalRules = USUAL,
) -> list[Option]:
    """The whole catalogue, best first, then what is ruled out. Raises `CaseError` for a bad wish."""
    _check(wish)
    limits = {c.joint: ceiling_Nm(athlete, c, school, rules) for c in wish.ceilings}
    entries = list(catalogue().values())
    options: list[Option] = []
    solved: list[tuple[Variation, Result, str, dict[str, float]]] = []
    for number, entry in enumerate(entries):
        why = _out(entry, wish)
        if why:
            options.append(_ruled_out(entry, why))
            continue
        outcome = _loaded(entry, athlete, school, limits, rules, keep_shape=wish.keep_shape)
        if isinstance(outcome, str):
            options.append(_ruled_out(entry, outcome))
        else:
            solved.append((entry, *outcome))
        if tell is not None:
            tell(RANKING_SHARE * (number + 1) / len(entries))
    features = {entry.id: features_of(result) for entry, result, *_ in solved}
    most = {j: max((peaks_of(r)[j] for _, r, *_ in solved), default=1.0) or 1.0 for j in JOINT_OF}
    for entry, result, rule, settings in solved:
        own = features[entry.id] | {j: max(peaks_of(result)[j], 0.0) / most[j] for j in JOINT_OF}
        score = sum(weight * own[key] for key, weight in wish.want.items())
        if wish.goal is not None:
            score -= _away(peaks_of(result), wish.goal, most)
        options.append(
            Option(
                entry.id,
                result.case.load_kg,
                rule,
                peaks_of(result),
                own,
                score,
                _reason(wish, own, peaks_of(result)),
                case=result.case,
                settings=settings,
            )
        )
    ranked = sorted(options, key=lambda o: (bool(o.ruled_out), -o.score))
    results = {entry.id: result for entry, result, *_ in solved}
    for number, option in enumerate(ranked[: len(solved)]):
        ranked[number] = _with_spans(option, results[option.variation])
        if tell is not None:
            tell(RANKING_SHARE + (1.0 - RANKING_SHARE) * (number + 1) / len(solved))
    return ranked


def _with_spans(option: Option, result: Result) -> Option:
    """The option with its intervals; without where too few draws can stand."""
    assert result.moments is not None
    curves = result.moments.extension.max(axis=-1)
    joints = {
        word: max(two, key=lambda j: float(curves[JOINTS.index(j)]))
        for word, two in JOINT_OF.items()
    }
    drawn = draw(result, draws=SPAN_DRAWS, joints=list(joints.values()))
    found: tuple[dict[str, tuple[float, float]], ...] = ({}, {})
    for word, joint in joints.items():
        for kept, held in zip(found, (False, True), strict=True):
            try:
                interval = drawn.interval(joint, held=held)
            except CaseError:
                return option
            kept[word] = (interval.low, interval.high)
    return replace(option, spans=found[0], held=found[1])


def _away(
    peaks: Mapping[str, float], goal: tuple[float, float], most: Mapping[str, float]
) -> float:
    return float(
        np.hypot((peaks["knee"] - goal[0]) / most["knee"], (peaks["hip"] - goal[1]) / most["hip"])
    )


def _check(wish: Wish) -> None:
    for key, weight in wish.want.items():
        if key not in WISHES:
            raise CaseError(
                "unknown-wish",
                f"{key} can't be wished for; known are: {', '.join(WISHES)}",
                key=key,
                allowed=list(WISHES),
            )
        if not -MOST_WEIGHT <= weight <= MOST_WEIGHT:
            raise CaseError(
                "bad-wish",
                f"{key}: a weight of {weight:g} is outside {-MOST_WEIGHT:g} to {MOST_WEIGHT:g}",
                key=key,
                value=weight,
                allowed=[-MOST_WEIGHT, MOST_WEIGHT],
            )
    for ceiling in wish.ceilings:
        if ceiling.joint not in JOINT_OF or not 0.0 < ceiling.share <= 2.0:
            raise CaseError(
                "bad-ceiling",
                f"{ceiling.joint} {ceiling.share:g}: a ceiling is for {', '.join(JOINT_OF)}, "
                "above 0 and at most 2 of the known lift",
                key="ceilings",
                value=ceiling.share,
                allowed=[0, 2],
            )


def ceiling_Nm(
    athlete: Athlete, ceiling: Ceiling, school: School = "even", rules: TypicalRules = USUAL
) -> float:
    """A ceiling in N m: the share of what the known lift asks at the athlete's best load (else its typical)."""
    case = fill(
        Case(
            format="zesty-lever-case/1",
            athlete=athlete,
            variation=ceiling.lift,
            school=school,
            frames="none",
        )
    )
    best = athlete.best_loads_kg.get(ceiling.lift)
    case = with_load(case, best if best is not None else typical_load_kg(case, rules)[0])
    outcome = analyse_many([case])[0]
    if isinstance(outcome, CaseError):
        raise outcome
    if outcome.error:
        raise outcome.error
    return ceiling.share * peaks_of(outcome)[ceiling.joint]


def _out(entry: Variation, wish: Wish) -> str:
    if wish.equipment is not None:
        missing = [" or ".join(sorted(n)) for n in kinds_needed(entry) if not n & wish.equipment]
        if missing:
            return f"needs {', '.join(missing)}"
    if entry.skill > wish.skill:
        return "more demanding than today allows"
    if not wish.spotter and "safety bars" in entry.equipment and entry.skill > 2:
        return "wants a spotter"
    if wish.directions and entry.direction not in wish.directions:
        return f"loads {entry.direction}ly"
    return ""


def _ruled_out(entry: Variation, why: str) -> Option:
    return Option(entry.id, None, "", None, None, float("-inf"), "", why)


def _loaded(
    entry: Variation,
    athlete: Athlete,
    school: School,
    limits: Mapping[str, float],
    rules: TypicalRules,
    *,
    keep_shape: bool,
) -> tuple[Result, str, dict[str, float]] | str:
    """The variation at its working load, lowered until every ceiling holds; or why that can't be.

    With ``keep_shape`` it goes no deeper than the low back keeps its shape; the settings changed for it
    come last.
    """
    case = fill(
        Case(
            format="zesty-lever-case/1",
            athlete=athlete,
            variation=entry.id,
            school=school,
            frames="none",
        )
    )
    load, rule = typical_load_kg(case, rules)
    settings: dict[str, float] = {}
    outcome = analyse_many([with_load(case, load)])[0]
    if keep_shape and isinstance(outcome, Result) and outcome.pose is not None and _rounds(outcome):
        furthest = deepest_unrounded(with_load(case, load))
        if furthest is None:
            return "rounds the low back at any depth"
        # A little short of the edge: what is lighter leans more.
        back = 0.02 if furthest.unit == "m" else 2.0
        known = entry.settings[entry.depth]
        deep = furthest.value - back * deeper_way(entry.depth)
        settings = {entry.depth: round(min(max(deep, known.low), known.high), 3)}
        case = case.model_copy(update={"settings": {**case.settings, **settings}})
        outcome = analyse_many([with_load(case, load)])[0]
    if isinstance(outcome, CaseError):
        return outcome.text
    if outcome.error:
        helped = _helped(entry, case, load, outcome.error, keep_shape=keep_shape)
        if helped is None:
            return outcome.error.text
        case, outcome, changed = helped
        settings |= changed
    over = [j for j, most in limits.items() if peaks_of(outcome)[j] > most + 0.5]
    if not over:
        return outcome, rule, settings
    low = entry.load_range_kg()[0]
    loads = np.linspace(low, load, LOADS_TRIED)[:, None]
    peaks, able = peaks_at_loads(case, loads)
    fits = able & np.all([peaks[j] <= limits[j] + 1e-9 for j in limits], axis=0)
    if not fits.any():
        words = JOINT_WORDS[over[0]]
        least = (
            float(np.nanmin(np.where(able, peaks[over[0]], np.nan))) if able.any() else float("nan")
        )
        more = (
            f": {least:.0f} against {limits[over[0]]:.0f} N·m even at its lightest"
            if np.isfinite(least)
            else ""
        )
        return f"too much for the {words}{more}"
    best = int(np.flatnonzero(fits)[-1])
    # Between the last load that fits and the next, the peaks are as good as straight.
    lighter = _edge(loads[:, 0], peaks, limits, best)
    again = analyse_many([with_load(case, lighter)])[0]
    if isinstance(again, CaseError) or again.error:
        again = analyse_many([with_load(case, float(loads[best, 0]))])[0]
    assert isinstance(again, Result)
    return again, f"lowered for the {JOINT_WORDS[over[0]]}", settings


def _helped(
    entry: Variation, case: Case, load_kg: float, error: CaseError, *, keep_shape: bool
) -> tuple[Case, Result, dict[str, float]] | None:
    """A default that this athlete can't do at this load, with the setting that its error says would help."""
    key = str(error.key)
    if key not in entry.settings or key == entry.depth or not error.allowed or error.value is None:
        return None
    low, high = (float(end) for end in error.allowed)
    inside = 0.25 * (high - low)
    value = round(min(max(float(error.value), low + inside), high - inside), 3)
    case = case.model_copy(update={"settings": {**case.settings, key: value}})
    outcome = analyse_many([with_load(case, load_kg)])[0]
    if isinstance(outcome, CaseError) or outcome.error or (keep_shape and _rounds(outcome)):
        return None
    return case, outcome, {key: value}


def _rounds(result: Result) -> bool:
    """Whether the low back flexes more than is ordinary."""
    assert result.pose is not None
    return (
        float(np.degrees(result.pose.lumbar_flexion_rad.max()))
        > landmark("ordinary_lumbar_flexion_deg") + 1e-6
    )


def _edge(
    loads: Array, peaks: Mapping[str, Array], limits: Mapping[str, float], best: int
) -> float:
    if best + 1 >= len(loads):
        return float(loads[best])
    edges = [float(loads[best + 1])]
    for joint, most in limits.items():
        low, high = peaks[joint][best], peaks[joint][best + 1]
        if high > most and high > low:
            edges.append(
                float(loads[best] + (loads[best + 1] - loads[best]) * (most - low) / (high - low))
            )
    return float(np.floor(10.0 * min(edges))) / 10.0


def peaks_at_loads(case: Case, loads: Array) -> tuple[dict[str, Array], Flags]:
    """Peaks (N m) of hip, knee and back at many loads ``(samples, 1)`` kg, and which can be done."""
    batch = make_batch([case])
    carried = Carrying(loads, loads, 0.0 * loads, 0.0 * loads)
    rule = case.contact_rule or variation(case.variation).contact_rule
    found = sweep(batch.varied(carried=carried), PROBE_PROGRESS, rule)
    peaks = {
        word: np.nanmax([highest(found.extension[JOINTS.index(j)]) for j in joints], axis=0)
        for word, joints in JOINT_OF.items()
    }
    return peaks, found.feasible


def highest(values: Array) -> Array:
    """Largest value over the frames; nothing where no frame is known."""
    most: Array = np.nan_to_num(values, nan=-np.inf).max(axis=-1)
    return np.where(np.isfinite(most), most, 0.0)


def peaks_of(result: Result) -> dict[str, float]:
    """Largest extension peaks of hip, knee and back, N m (both legs' larger one; 0 where only flexors work)."""
    assert result.moments is not None
    return {
        word: max(float(result.moments.extension[JOINTS.index(j)].max()) for j in joints)
        for word, joints in JOINT_OF.items()
    }


def features_of(result: Result) -> dict[str, float]:
    """Shares 0-1: hard at lockout, hard when long, one leg, sideways."""
    moments, times = result.moments, result.timeline
    assert moments is not None and result.summary is not None
    entry = variation(result.case.variation)
    side = max(
        ("left", "right"), key=lambda s: float(moments.extension[JOINTS.index(f"hip_{s}")].max())
    )
    hip = moments.extension[JOINTS.index(f"hip_{side}")]
    most = max(float(hip.max()), 1e-9)
    top = int(
        np.argmax(times.progress) if entry.rep_order == "bridge" else np.argmin(times.progress)
    )
    deep = int(
        np.argmin(times.progress) if entry.rep_order == "bridge" else np.argmax(times.progress)
    )
    # Deepest hip flexion counts as long only if the hip is really bent there.
    assert result.pose is not None
    bent = float(
        result.pose.pelvis_rad[deep]
        - result.pose.side_view_rad(f"knee_{side}", f"hip_{side}")[deep]
    )
    aside = float(np.abs(moments.abduction[JOINTS.index(f"hip_{side}")]).max())
    return {
        "lockout": float(np.clip(hip[top] / most, 0.0, 1.0)),
        "long": float(
            np.clip(hip[deep] / most, 0.0, 1.0) * np.clip(bent / np.radians(90.0), 0.0, 1.0)
        ),
        "one-leg": float(entry.options.get("rear") not in {None, "flat"}),
        "sideways": float(np.clip(aside / most, 0.0, 1.0)),
    }


def _reason(wish: Wish, own: Mapping[str, float], peaks: Mapping[str, float]) -> str:
    """One sentence: what speaks for it most, in numbers."""
    numbers = (
        f"hip {peaks['hip']:.0f}, knee {peaks['knee']:.0f}, lower back {peaks['back']:.0f} N·m"
    )
    if not wish.want:
        return numbers
    key = max(
        wish.want,
        key=lambda k: wish.want[k] * own[k] if wish.want[k] > 0 else wish.want[k] * (own[k] - 1.0),
    )
    share = 100.0 * own[key]
    words = {
        "hip": f"{share:.0f} % of the most that any does for the hip",
        "knee": f"{share:.0f} % of the most that any does for the knee",
        "back": f"{share:.0f} % of the most that any asks of the lower back",
        "lockout": f"keeps {share:.0f} % of the hip's peak at lockout",
        "long": f"{share:.0f} % of the hip's peak with the hip bent deep",
        "one-leg": "one leg does the work" if own[key] else "both legs share the work",
        "sideways": f"sideways part {share:.0f} % of the hip's peak",
    }[key]
    return f"{words}; {numbers}"


def substitutes(
    athlete: Athlete,
    wanted: Result,
    wish: Wish,
    school: School = "even",
    tell: Callable[[float], None] | None = None,
    rules: TypicalRules = USUAL,
) -> list[Option]:
    """Variations nearest in demand to a solved lift, each at the load that comes nearest, under limits."""
    goal = peaks_of(wanted)
    size = {j: max(abs(v), 20.0) for j, v in goal.items()}
    options = []
    for option in shortlist(athlete, replace(wish, goal=None), school, tell, rules):
        if option.ruled_out or option.case is None or option.variation == wanted.case.variation:
            continue
        entry = variation(option.variation)
        low, high = entry.load_range_kg()
        most = (
            min(high, 1.6 * (option.load_kg or 0.0) + 20.0)
            if not wish.ceilings
            else option.load_kg or 0.0
        )
        loads = np.linspace(low, max(most, low), LOADS_TRIED)[:, None]
        peaks, able = peaks_at_loads(option.case, loads)
        gap = np.sqrt(sum(((peaks[j] - goal[j]) / size[j]) ** 2 for j in goal))
        gap = np.where(able, gap, np.inf)
        best = int(np.argmin(gap))
        if not np.isfinite(gap[best]):
            continue
        found = {j: float(peaks[j][best]) for j in goal}
        words = ", ".join(
            f"{JOINT_WORDS[j]} {100 * (found[j] - goal[j]) / size[j]:+.0f} %" for j in goal
        )
        options.append(
            replace(
                option,
                load_kg=round(float(loads[best, 0]), 1),
                load_rule="nearest in demand",
                peaks=found,
                score=-float(gap[best]),
                reason=f"against {variation(wanted.case.variation).name}: {words}",
                case=with_load(option.case, round(float(loads[best, 0]), 1)),
            )
        )
    return sorted(options, key=lambda o: -o.score)
