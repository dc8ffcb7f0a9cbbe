"""What a joint gets: extensor and flexor impulse, hard repetitions, kilograms and time, set by set.

For joint j with extension moment M over one repetition of length T with its pauses: extensor impulse
``I+ = integral of max(M, 0)``, flexor impulse ``I- = integral of max(-M, 0)`` (N m s). A set gives its
repetitions times that. A hold is one repetition with its pause. Left worked alone swaps left and right.
No claim about injury is made anywhere.
"""

from __future__ import annotations

import hashlib
import json
from collections.abc import Mapping, Sequence
from dataclasses import field

import msgspec
import numpy as np

from zesty_lever.analysis import Result, analyse, analyse_many
from zesty_lever.cases.model import Athlete, Case, Setup
from zesty_lever.cases.resolve import resolve
from zesty_lever.choosing.loading import USUAL, TypicalRules, typical_load_kg
from zesty_lever.exercises.catalogue import variation
from zesty_lever.frozen import dataclass
from zesty_lever.joints import COACH_JOINTS, HIP, KNEE, LOWER_BACK
from zesty_lever.log.entry import DoneSet, Side
from zesty_lever.physics.vectors import Array
from zesty_lever.plan.drills import drills
from zesty_lever.problems import CaseError

# Raised by hand whenever the mechanics or a default gives other numbers: kept sums are then made anew.
MODEL = 1
COUNTED = (*HIP.joints, *KNEE.joints, *LOWER_BACK.joints)
DIRECTIONS = ("vertical", "horizontal", "lateral")
# A repetition is hard from this share of the reference lift's peak on; so near the line it may be either.
HARD_SHARE, NEAR = 0.70, 0.05
REFERENCE = "back-squat-high-bar"
# Pauses where a style has one of its own and none is told, s; moving into and out of a hold, s.
USUAL_PAUSE_S, INTO_HOLD_S = 2.0, 1.0
LONGEST_PAUSE_S = 60.0


@dataclass(frozen=True)
class RepLoad:
    """One repetition of one case: arrays in the order of `COUNTED`, N m s and N m; its seconds.

    ``problem``: why it can't be counted (the arrays are then zero and never shown as numbers).
    """

    extensor_Nms: Array
    flexor_Nms: Array
    peak_Nm: Array
    seconds: float
    problem: str = ""


NOTHING = np.zeros(len(COUNTED))


def setup_done(done: DoneSet) -> Setup:
    """The set-up of a set with load, tempo and style as they were done. Raises `CaseError` for a drill without one."""
    setup = done.setup
    if setup is None:
        counted = drills()[done.drill].counts_as if done.drill in drills() else ""
        if not counted:
            raise CaseError(
                "wrong-value", f"{done.drill} is a drill: counted, not measured", key="drill"
            )
        setup = Setup(variation=counted)
    entry = variation(setup.variation)
    down, deep, up, top = done.tempo_s or setup.tempo_s
    ends_up = entry.lies
    if done.style == "constant-tension":
        deep = top = 0.0
    if done.style == "paused" or done.pause_s is not None:
        pause = done.pause_s or USUAL_PAUSE_S
        deep, top = (deep, pause) if ends_up else (pause, top)
    if done.held:
        pause = min(done.seconds or USUAL_PAUSE_S, LONGEST_PAUSE_S)
        down = up = INTO_HOLD_S
        deep, top = (0.0, pause) if ends_up else (pause, 0.0)
    whole = "one-and-a-quarter" if done.style == "one-and-a-quarter" else setup.style
    return setup.changed(
        load_kg=done.load_kg,
        load_up_kg=done.load_up_kg,
        tempo_s=(down, deep, up, top),
        style=whole,
    )


def case_of(done: DoneSet, body: Athlete) -> Case:
    """A set as a case of the body that the athlete had. Raises `CaseError`."""
    plain = body.changed(
        name=None,
        school=None,
        sore=(),
        bests=(),
        best_loads_kg={},
        strength_curves={},
        measurements=(),
        born=None,
        age_years=None,
        training_years=None,
    )
    return setup_done(done).changed(errors=None).case_for(plain).changed(frames="none")


def hash_of(case: Case) -> str:
    """A case's name in the log: 12 bytes of the filled case, in hex. Raises `CaseError` for an invalid case."""
    filled = resolve(case).as_json()
    for key in ("frames", "school", "errors"):
        filled.pop(key, None)
    text = json.dumps(filled, sort_keys=True, separators=(",", ":"))
    return hashlib.blake2b(text.encode(), digest_size=12).hexdigest()


def rep_loads(cases: Sequence[Case]) -> list[RepLoad]:
    """One repetition of each case, worked out together; what can't be done says why."""
    return [_rep_load(outcome) for outcome in analyse_many(cases)]


def _rep_load(outcome: Result | CaseError) -> RepLoad:
    if isinstance(outcome, CaseError):
        return RepLoad(NOTHING, NOTHING, NOTHING, 0.0, outcome.text)
    if outcome.error is not None:
        return RepLoad(NOTHING, NOTHING, NOTHING, 0.0, outcome.error.text)
    rows = [outcome.summary[joint] for joint in COUNTED]
    return RepLoad(
        np.array([row.extensor_impulse_Nms for row in rows]),
        np.array([row.flexor_impulse_Nms for row in rows]),
        np.array([row.extensor_peak_Nm for row in rows]),
        float(outcome.timeline.time_s[-1]),
    )


# Where each joint of `COUNTED` lies once left and right have changed places.
SWAPPED = (1, 0, 3, 2, 4)


def of_side(values: Array, side: Side | str) -> Array:
    """Values ``(5,)`` of a repetition worked on a side: the model works the right leg."""
    return values[list(SWAPPED)] if side == "left" else values


def reps_counted(done: DoneSet) -> float:
    """Repetitions that count: a hold is one; an unfinished last one counts by its quarters."""
    return 1.0 if done.held else done.reps + 0.25 * done.quarters


def lifted_kg(done: DoneSet) -> float:
    """Kilograms moved: repetitions times load (two loads: the mean of both ways); holds and bands move none."""
    if (
        done.held
        or done.setup is None
        or any(own.kind == "band" for own in variation(done.setup.variation).lines)
    ):
        return 0.0
    up = done.load_kg if done.load_up_kg is None else done.load_up_kg
    return reps_counted(done) * 0.5 * (done.load_kg + up)


def direction_of(name: str) -> str:
    """The direction of load of a variation (or of what a drill counts as); empty where it is not known."""
    counted = drills()[name].counts_as if name in drills() else name
    try:
        return variation(counted).direction
    except CaseError:
        return ""


@dataclass(frozen=True)
class Reference:
    """What a hard repetition is measured against: peaks (N m) by joint key in one lift at one load."""

    variation: str
    load_kg: float
    peaks_Nm: Mapping[str, float]
    share: float = HARD_SHARE
    rule: str = ""

    def line_Nm(self) -> Array:
        """Where hard begins, in the order of `COUNTED`."""
        keys = [g.key for g in COACH_JOINTS for _ in g.joints]
        return self.share * np.array([self.peaks_Nm[key] for key in keys])


def reference_of(
    athlete: Athlete,
    lift: str = REFERENCE,
    share: float = HARD_SHARE,
    rules: TypicalRules = USUAL,
) -> Reference:
    """The athlete's reference: the lift at the best load, else at the typical load over its working share.

    Raises `CaseError` where that lift can't be done by this athlete.
    """
    case = Case(athlete=athlete, variation=lift, frames="none")
    best = athlete.best_loads_kg.get(lift)
    known = [b.load_kg for b in athlete.bests if b.variation == lift and b.reps == 1]
    load = max([*([best] if best is not None else []), *known], default=None)
    rule = "the best load"
    if load is None:
        load, rule = (
            typical_load_kg(case, rules)[0] / rules.working,
            "the usual load over the share worked with",
        )
    low, high = variation(lift).load_range_kg()
    load = min(max(load, low), high)
    result = analyse(case.changed(load_kg=load))
    _ = result.solved
    return Reference(lift, load, result.peaks, share, rule)


@dataclass(frozen=True)
class Exposure:
    """What some sets add up to: arrays in the order of `COUNTED`.

    ``hard`` repetitions are surely over the line, ``near`` ones so close to it that they may be either.
    ``uncounted`` names the sets that could not be computed, with how many of each.
    """

    extensor_Nms: Array = field(default_factory=lambda: NOTHING)
    flexor_Nms: Array = field(default_factory=lambda: NOTHING)
    hard: Array = field(default_factory=lambda: NOTHING)
    near: Array = field(default_factory=lambda: NOTHING)
    kg: float = 0.0
    seconds: float = 0.0
    sets: int = 0
    drills: int = 0
    uncounted: Mapping[str, int] = field(default_factory=dict)

    def __add__(self, other: Exposure) -> Exposure:
        """Both together."""
        named = dict(self.uncounted)
        for why, count in other.uncounted.items():
            named[why] = named.get(why, 0) + count
        return Exposure(
            self.extensor_Nms + other.extensor_Nms,
            self.flexor_Nms + other.flexor_Nms,
            self.hard + other.hard,
            self.near + other.near,
            self.kg + other.kg,
            self.seconds + other.seconds,
            self.sets + other.sets,
            self.drills + other.drills,
            named,
        )

    def of(self, key: str, *, flexors: bool = False) -> float:
        """Impulse of one joint group, N m s: mean of both legs for hip and knee, the back's own."""
        values = self.flexor_Nms if flexors else self.extensor_Nms
        return float(values[list(ROWS[key])].mean())

    def hard_of(self, key: str) -> tuple[float, float]:
        """Hard repetitions of one joint group, of the leg that had more: surely, and with those near the line."""
        rows = list(ROWS[key])
        return float(self.hard[rows].max()), float((self.hard + self.near)[rows].max())


ROWS = {g.key: tuple(COUNTED.index(j) for j in g.joints) for g in COACH_JOINTS}


def exposure_of(done: DoneSet, rep: RepLoad | None, reference: Reference | None) -> Exposure:
    """What one set gives. ``rep`` None: the set has no case (a drill, or why is in ``rep.problem``)."""
    if rep is None:
        return Exposure(sets=0, drills=1)
    if rep.problem:
        return Exposure(sets=1, kg=0.0, uncounted={f"{done.name}: {rep.problem}": 1})
    count = reps_counted(done)
    hard, near = NOTHING, NOTHING
    if reference is not None:
        hard, near = hard_reps(
            of_side(rep.peak_Nm, done.side), count if not done.held else 1.0, reference
        )
    return Exposure(
        count * of_side(rep.extensor_Nms, done.side),
        count * of_side(rep.flexor_Nms, done.side),
        hard,
        near,
        lifted_kg(done),
        count * rep.seconds,
        sets=1,
    )


def hard_reps(peak_Nm: Array, reps: float, reference: Reference) -> tuple[Array, Array]:
    """Repetitions surely over the reference's line, and those within `NEAR` of it, by joint."""
    line = reference.line_Nm()
    sure = peak_Nm >= (1.0 + NEAR) * line
    near = (peak_Nm >= (1.0 - NEAR) * line) & ~sure
    return reps * sure.astype(float), reps * near.astype(float)


def setup_document(setup: Setup) -> str:
    """A set-up without its load as text for keeping: equal texts are equal set-ups."""
    plain = msgspec.to_builtins(setup.changed(load_kg=None, load_up_kg=None))
    usual = msgspec.to_builtins(Setup(variation=""))
    kept = {k: v for k, v in plain.items() if k == "variation" or v != usual[k]}
    return json.dumps(kept, sort_keys=True, separators=(",", ":"))
