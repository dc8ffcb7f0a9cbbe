"""The one door to the physics: a case goes in, a result comes out.

Cases of one variation are worked out together as arrays; `analyse_many` groups them.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace
from functools import cached_property
from typing import Any, Protocol, Self, TypeVar

import msgspec
import numpy as np
from numpy.typing import NDArray

from zesty_lever.cases.batch import Batch, group_key, make_batch
from zesty_lever.cases.easing import HELPS, eased_many, on_own_paths, rounds
from zesty_lever.cases.model import Case, ResolvedCase
from zesty_lever.cases.resolve import resolve
from zesty_lever.exercises.catalogue import Variation, variation
from zesty_lever.feasibility import problems_of
from zesty_lever.frozen import dataclass
from zesty_lever.joints import COACH_JOINTS, JOINTS, ROW, SIDES, JointGroup
from zesty_lever.physics.body import landmark
from zesty_lever.physics.moments import JointMoments, out_of_sagittal
from zesty_lever.physics.solved import Solved
from zesty_lever.physics.tempo import Timeline
from zesty_lever.physics.vectors import Array
from zesty_lever.problems import CaseError, Problem

# Both ends of the contact rule are shown from this share of the largest peak on.
ENDS_DIFFER = 0.03


@dataclass(frozen=True)
class JointSummary:
    """One joint over the rep, extensors and flexors apart, N m.

    ``peak_Nm`` is the signed extension of largest size, with where and when it falls; mean and impulse
    (N m s) are signed; ``lockout_to_peak`` is the top's extension over the peak. Extensor and flexor
    peaks and impulses are all at least 0.
    """

    peak_Nm: float
    at_progress: float
    at_time_s: float
    mean_Nm: float
    impulse_Nms: float
    lockout_to_peak: float
    extensor_peak_Nm: float
    extensor_at_progress: float
    flexor_peak_Nm: float
    flexor_at_progress: float
    extensor_impulse_Nms: float
    flexor_impulse_Nms: float


@dataclass(frozen=True)
class HipSummary:
    """What a hip does beside extension: largest ``work`` moment, and largest frontal moment by size, N m.

    The frontal one is + where adductors work. See `moments.out_of_sagittal`.
    """

    work_peak_Nm: float
    frontal_peak_Nm: float


@dataclass(frozen=True)
class Impossible:
    """A pose that can't exist: every reason, first things first, and the leading frames that do solve."""

    problems: tuple[Problem, ...]
    frames: Solved

    @property
    def first(self) -> Problem:
        """The first reason by time, then by the order of the codes."""
        return self.problems[0]


@dataclass(frozen=True)
class Result:
    """What one case gives: ``outcome`` is the solved rep or why it is impossible.

    ``case`` is filled in; ``timeline`` has the frames of the whole rep.
    """

    case: ResolvedCase
    timeline: Timeline
    assumptions: tuple[str, ...]
    outcome: Solved | Impossible

    @property
    def feasible(self) -> bool:
        """Whether the whole rep exists."""
        return isinstance(self.outcome, Solved)

    @property
    def error(self) -> Problem | None:
        """The first thing that makes the case impossible, or None."""
        return self.outcome.first if isinstance(self.outcome, Impossible) else None

    @property
    def problem_code(self) -> str:
        """Code of the first thing that makes the case impossible, or empty."""
        return self.outcome.first.code if isinstance(self.outcome, Impossible) else ""

    @property
    def lumbar_flexion_rad(self) -> Array:
        """Lumbar flexion over the rep, rad. Raises `CaseError` if the case is impossible."""
        return self.solved.pose.lumbar_flexion_rad

    def eased_from(self, words: str) -> Result:
        """The same, with the words of what was eased among its assumptions."""
        return replace(self, assumptions=(*self.assumptions, words))

    @property
    def solved(self) -> Solved:
        """The solved rep. Raises `CaseError` with the first problem if the case is impossible."""
        if isinstance(self.outcome, Impossible):
            raise CaseError.of(self.outcome.first)
        return self.outcome

    @property
    def shown(self) -> Solved:
        """All frames that can be drawn: the whole rep, or those before an impossible one stops."""
        return self.outcome.frames if isinstance(self.outcome, Impossible) else self.outcome

    @property
    def frames(self) -> int:
        """How many frames can be drawn."""
        return self.shown.frames

    @property
    def variation(self) -> Variation:
        """The case's catalogue entry."""
        return variation(self.case.variation)

    @cached_property
    def summary(self) -> Mapping[str, JointSummary]:
        """Every joint over the rep. Raises `CaseError` if the case is impossible."""
        return summaries(self.solved.moments, self.timeline, lockout_frame(self))

    @cached_property
    def hips(self) -> Mapping[str, HipSummary]:
        """What both hips do beside extension. Raises `CaseError` if the case is impossible."""
        found = {}
        for side in SIDES:
            work, frontal = out_of_sagittal(self.solved.pose, self.solved.moments, side)
            at = int(np.argmax(np.abs(frontal)))
            found[f"hip_{side}"] = HipSummary(float(work.max()), float(frontal[at]))
        return found

    def peak(self, group: JointGroup) -> float:
        """Largest extensor moment of a joint group, N m; negative where only flexors work."""
        return float(self.solved.peak(group))

    @property
    def peaks(self) -> dict[str, float]:
        """Largest extensor moments by the keys of `COACH_JOINTS`, N m, at least 0."""
        return {group.key: max(self.peak(group), 0.0) for group in COACH_JOINTS}

    @property
    def flexors(self) -> dict[str, float]:
        """Largest flexor moments by the keys of `COACH_JOINTS`, N m, at least 0."""
        return {group.key: float(self.solved.flexor_peak(group)) for group in COACH_JOINTS}

    @property
    def sizes(self) -> dict[str, float]:
        """Largest moments either way, extensors or flexors, by the keys of `COACH_JOINTS`, N m."""
        return {group.key: float(self.solved.size(group)) for group in COACH_JOINTS}


def analyse(case: Case) -> Result:
    """Work out one case. Raises `CaseError` when it is invalid; an impossible pose is a result."""
    outcome = analyse_many([case])[0]
    if isinstance(outcome, CaseError):
        raise outcome
    return outcome


class Outcome(Protocol):
    """What comes of one case, as far as easing its defaults asks."""

    @property
    def case(self) -> ResolvedCase:
        """The case, filled in."""

    @property
    def problem_code(self) -> str:
        """Code of the first problem, empty where the whole rep exists."""

    @property
    def lumbar_flexion_rad(self) -> Array:
        """Lumbar flexion over the frames of a rep that exists, rad."""

    def eased_from(self, words: str) -> Self:
        """The same, saying what was eased."""


SomeOutcome = TypeVar("SomeOutcome", bound=Outcome)


_RECENT: dict[tuple[type, bytes], Result] = {}
RECENT_KEPT = 4


def analysed(case: Case) -> Result:
    """`analyse`, or what it gave for the very same case a moment ago: an edit looks before the window does."""
    key = (type(case), msgspec.json.encode(case))
    found = _RECENT.pop(key, None) or analyse(case)
    _RECENT[key] = found
    while len(_RECENT) > RECENT_KEPT:
        _RECENT.pop(next(iter(_RECENT)), None)
    return found


def analyse_many(cases: Sequence[Case]) -> list[Result | CaseError]:
    """Work out many cases, in their order; an invalid one gives its `CaseError`.

    A case gives the same numbers alone and among others, bit for bit. Defaults that the athlete can't do at
    this load are eased first (`cases.easing`); the result's case has what was done.
    """
    return worked_out(cases, _analyse_batch)


def worked_out(
    cases: Sequence[Case], take: Callable[[Batch], Sequence[SomeOutcome]], most: int | None = None
) -> list[SomeOutcome | CaseError]:
    """What comes of many cases, in their order: ``take`` turns a batch of at most ``most`` into outcomes.

    An invalid case gives its `CaseError`. Defaults that can't be done are eased, whoever asks.
    """
    found = _each_taken(on_own_paths(cases), take, most)
    wanting = [
        index
        for index, (case, outcome) in enumerate(zip(cases, found, strict=True))
        if not isinstance(outcome, CaseError) and _wants_easing(case, outcome)
    ]
    easier = dict(zip(wanting, eased_many([cases[index] for index in wanting]), strict=True))
    again = {index: case for index, case in easier.items() if case is not None}
    for index, done in zip(again, _each_taken(list(again.values()), take, most), strict=True):
        usual = found[index]
        if isinstance(done, CaseError) or isinstance(usual, CaseError):
            raise done if isinstance(done, CaseError) else RuntimeError(index)
        found[index] = done.eased_from(_eased_words(usual.case, done.case))
    return found


def _wants_easing(case: Case, outcome: Outcome) -> bool:
    """Whether a default may be what makes a case impossible, or what rounds its lower back."""
    if isinstance(case, ResolvedCase):
        return False
    if outcome.problem_code:
        return outcome.problem_code in HELPS
    return rounds(case, outcome.lumbar_flexion_rad)


def _eased_words(usual: ResolvedCase, done: ResolvedCase) -> str:
    """What was eased, in words."""
    changed = [
        f"{key} {value:g} instead of {usual.settings[key]:g}"
        for key, value in done.settings.items()
        if value is not None and value != usual.settings[key]
    ]
    return f"default eased so that this athlete can do it at this load: {', '.join(changed)}"


def _each_taken(
    cases: Sequence[Case], take: Callable[[Batch], Sequence[SomeOutcome]], most: int | None
) -> list[SomeOutcome | CaseError]:
    """Work out many cases as they are."""
    outcomes: dict[int, SomeOutcome | CaseError] = {}
    groups: dict[Any, list[tuple[int, ResolvedCase]]] = defaultdict(list)
    for index, case in enumerate(cases):
        try:
            whole = resolve(case)
        except CaseError as error:
            outcomes[index] = error
        else:
            groups[group_key(whole)].append((index, whole))
    for members in groups.values():
        size = most or len(members)
        for start in range(0, len(members), size):
            part = members[start : start + size]
            taken = take(make_batch([case for _, case in part]))
            outcomes |= {index: one for (index, _), one in zip(part, taken, strict=True)}
    return [outcomes[index] for index in range(len(cases))]


def _analyse_batch(batch: Batch) -> list[Result]:
    times = batch.timeline
    solved, at = batch.solve_places()
    able = solved.feasible
    if len(batch.cases) > 1:
        # Every document tells the other end: for all at once, and each case takes its own.
        _ = solved.other_end
    return [
        Result(
            case,
            times,
            assumptions_of(case),
            solved.case(index, at) if able[index] else _impossible(case, solved, index, at),
        )
        for index, case in enumerate(batch.cases)
    ]


def _impossible(case: ResolvedCase, solved: Solved, index: int, at: NDArray[np.intp]) -> Impossible:
    frames = int(np.argmin(np.append(solved.drawable[index][at], False)))
    problems = problems_of(case, solved.case(index, at))
    return Impossible(problems, solved.case(index, at[:frames]))


def lockout_frame(result: Result) -> int:
    """The frame at the top of the rep: standing, or a bridge's lockout."""
    times = result.timeline
    return times.bottom if result.variation.lies else times.top


def summaries(moments: JointMoments, times: Timeline, lockout: int) -> dict[str, JointSummary]:
    """`JointSummary` of every joint of one case."""
    curves = moments.extension
    halves = np.stack([curves, np.maximum(curves, 0.0), np.maximum(-curves, 0.0)])
    areas = impulses(halves, times)
    return {
        joint: _summary(curves[ROW[joint]], areas[:, ROW[joint]], times, lockout)
        for joint in JOINTS
    }


def _summary(curve: Array, areas: Array, times: Timeline, lockout: int) -> JointSummary:
    """One joint's row; ``areas`` ``(3,)`` are its impulse and those of its extensors and flexors, N m s."""
    at, high, low = (int(np.argmax(values)) for values in (np.abs(curve), curve, -curve))
    peak, whole_s = float(curve[at]), float(times.time_s[-1])
    impulse, extensor, flexor = (float(area) for area in areas)
    return JointSummary(
        peak_Nm=peak,
        at_progress=float(times.progress[at]),
        at_time_s=float(times.time_s[at]),
        mean_Nm=impulse / whole_s,
        impulse_Nms=impulse,
        lockout_to_peak=float(curve[lockout]) / peak if peak else 0.0,
        extensor_peak_Nm=max(float(curve[high]), 0.0),
        extensor_at_progress=float(times.progress[high]),
        flexor_peak_Nm=max(-float(curve[low]), 0.0),
        flexor_at_progress=float(times.progress[low]),
        extensor_impulse_Nms=extensor,
        flexor_impulse_Nms=flexor,
    )


def impulses(curves: Array, times: Timeline) -> Array:
    """Areas under curves ``(..., frames)`` over time (trapezia), added in the order of the frames."""
    areas = 0.5 * (curves[..., 1:] + curves[..., :-1]) * np.diff(times.time_s)
    total: Array = np.cumsum(areas, axis=-1)[..., -1]
    return total


def other_peaks(result: Result) -> dict[str, float] | None:
    """Signed peaks (N m) under the other contact rule, by joint.

    None for an impossible case and where no joint differs by more than `ENDS_DIFFER` of the largest
    peak.
    """
    if not result.feasible:
        return None
    values = result.solved.other_end.extension
    at = np.argmax(np.abs(values), axis=1)
    peaks = {joint: float(values[row, at[row]]) for row, joint in enumerate(JOINTS)}
    largest = max(abs(row.peak_Nm) for row in result.summary.values())
    gap = max(abs(peaks[joint] - result.summary[joint].peak_Nm) for joint in JOINTS)
    return peaks if gap > ENDS_DIFFER * largest else None


def assumptions_of(case: ResolvedCase) -> tuple[str, ...]:
    """What the result rests on, in words."""
    measured = ", ".join(sorted(case.athlete.lengths_m)) or "none"
    solved = (
        f"{case.free} solved by balance"
        if case.free
        else "all angles given, pressure point reported"
    )
    lines = [
        f"contact rule: {case.contact_rule}; friction coefficient "
        f"{landmark('friction_coefficient'):g}",
        "statics: no acceleration at any moment of the rep"
        if case.mode == "static"
        else "dynamics: inertia of segments and loads at the tempo; slender segments",
        f"segment masses: de Leva 1996 ({case.athlete.sex}); measured lengths: {measured}",
        solved,
        f"lower back: one extensor at {100 * landmark('extensor_arm_m'):g} cm, disc plane "
        f"{landmark('disc_slope_standing_deg'):g} deg forward-down when the pelvis is upright",
        f"lumbar flexion begins where the hips run out "
        f"({case.athlete.limit_deg('hip_flexion'):g} deg); the first "
        f"{landmark('ordinary_lumbar_flexion_deg'):g} deg are ordinary, more is rounding",
    ]
    kinds = {own.kind for own in variation(case.variation).lines}
    if "hold" in kinds:
        slope = case.given.get("hold_slope_deg", 0.0)
        lines.append(
            f"the support's hold pulls {slope:g} deg above level and grows with the depth"
            if slope
            else "the support's hold is level and grows with the depth"
        )
    if "seat" in kinds:
        lines.append("the box takes its share over the last three tenths of the way down")
    if case.up_kg != case.load_kg:
        lines.append("the load changes over the first tenth of the way back")
    if case.style != "full":
        lines.append("the extra quarter takes half the time of its phase")
    if case.travel != (0.0, 1.0):
        lines.append(f"only {case.travel[0]:g} to {case.travel[1]:g} of the full travel is done")
    return tuple(lines)
