"""Intervals: how far off the moments may be, given how well a coach can measure.

True values are scattered about the measured ones: angles, lengths along the floor, load place,
segment lengths, segment masses, and the part of the contact pair that no rule knows. Two questions are
answered. *As done*: everything is off, and two set-ups are done and read apart. *As set up*: both are
done exactly as entered; body, tape and load place are off alike. All samples of a variation are one
array call; peaks of draws are found over the rep.
"""

from __future__ import annotations

import hashlib
import json
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, fields, replace
from functools import lru_cache
from itertools import pairwise
from typing import Literal

import numpy as np

from zesty_lever.analysis import Result, analyse
from zesty_lever.cases.batch import Batch, make_batch
from zesty_lever.cases.model import Athlete, Case, ResolvedCase
from zesty_lever.cases.rigging import Carrying
from zesty_lever.exercises.builder import Limits
from zesty_lever.joints import JOINTS
from zesty_lever.physics.body import LENGTHS, PAIRED, Body
from zesty_lever.physics.lines import ANCHOR_KEYS
from zesty_lever.physics.moments import JointMoments, disc_forces, out_of_sagittal
from zesty_lever.physics.pose import Pose
from zesty_lever.physics.vectors import Array
from zesty_lever.problems import CaseError

DRAWS = 1000
SEED = 20261125
# Settings in degrees that a coach reads off the athlete; the others are read off a tape or a scale.
READ_ANGLES = ("shin_deg", "thigh_deg", "trunk_deg", "toe_out_deg", "lockout_trunk_deg")
READ_TAPES = (
    "stance_m",
    "step_m",
    "hands_ahead_m",
    "knee_track_m",
    "bench_height_m",
    "rear_height_m",
    "front_height_m",
    "bar_height_m",
    *ANCHOR_KEYS,
)
FEWEST = 100
LEVEL = 0.90
# A difference inside this share of the larger peak is none that a coach could use.
SAME_WITHIN = 0.05
# A ratio to a hip that hardly works means nothing, N m.
LEAST_HIP_NM = 5.0
# How far (deg) a change of one angle is looked for that undoes a difference, and in how many steps.
UNDO_REACH_DEG, UNDO_STEPS = 15.0, 61
LARGEST_ERRORS = {
    "angle_deg": 15.0,
    "offset_m": 0.10,
    "length": 0.15,
    "mass": 0.30,
    "pressure": 0.20,
}
ERROR_UNITS = {
    "angle_deg": "deg",
    "offset_m": "m",
    "length": "(share)",
    "mass": "(share)",
    "pressure": "(share of the foot)",
}
# Frames (of 121) about each peak of the estimate where draws are looked at.
BESIDE_PEAK = (-4, 0, 4)
# What is drawn besides the joints' peaks.
OTHERS = ("compression_N", "shear_N", "frontal_Nm", "knee_to_hip")
Judgement = Literal["more", "less", "more-as-set-up", "less-as-set-up", "same", "open"]


@dataclass(frozen=True)
class Errors:
    """Standard errors of measurement. Defaults: model.md, common practice, no source.

    ``angle_deg``, ``offset_m`` (tape on the floor, place of the load), ``length`` and ``mass``
    (relative), ``pressure`` (fraction of the foot); ``pair`` whether the contact pair is sampled.
    The model's figures (3 degrees, 2 cm, 3 %, 10 %) are taken as standard errors. Raises `CaseError`
    for a size outside `LARGEST_ERRORS`.
    """

    angle_deg: float = 3.0
    offset_m: float = 0.02
    length: float = 0.03
    mass: float = 0.10
    pressure: float = 0.04
    pair: bool = True

    def __post_init__(self) -> None:
        """Refuse sizes that no measuring has."""
        for key, most in LARGEST_ERRORS.items():
            value = getattr(self, key)
            if not 0.0 <= value <= most:
                unit = ERROR_UNITS[key]
                raise CaseError(
                    "out-of-range",
                    f"error of {key} is {value:g} {unit}; it has to be 0 to {most:g} {unit}",
                    key=key,
                    value=value,
                    unit=unit,
                    allowed=[0.0, most],
                )

    @property
    def exactly_done(self) -> Errors:
        """The errors that are left when a set-up is done exactly as entered."""
        return replace(self, angle_deg=0.0, pressure=0.0)


@dataclass(frozen=True)
class Interval:
    """The estimate and the shortest 90 % of the draws that holds it, N m (or what the quantity has)."""

    nominal: float
    low: float
    high: float

    @property
    def half_width(self) -> float:
        """Half of what lies between the ends."""
        return 0.5 * (self.high - self.low)

    @property
    def excludes_none(self) -> bool:
        """Whether nothing (0) lies outside."""
        return self.low > 0.0 or self.high < 0.0


@dataclass(frozen=True)
class Draws:
    """One set-up's draws in one reading: values by key ``(draws,)``, NaN where a draw can't stand.

    ``at_rule`` are the same with the contact pair settled by the variation's rule.
    """

    values: Mapping[str, Array]
    at_rule: Mapping[str, Array]


@dataclass(frozen=True)
class Drawn:
    """One case's draws: joints' peaks (N m, in the estimate's direction) and `OTHERS`.

    ``done`` has every error, ``set_up`` those that are left when it is done exactly as entered.
    """

    result: Result
    done: Draws
    set_up: Draws

    def interval(self, key: str, level: float = LEVEL) -> Interval:
        """Interval of a joint's peak or of one of `OTHERS`, as done.

        Raises `CaseError` where too few draws can stand.
        """
        return shortest(nominal_of(self.result, key), self.done.values[key], level)


@dataclass(frozen=True)
class Verdict:
    """A difference to a baseline in both readings and what can be said of it.

    ``because`` tells what leaves it open: the ``floor`` (the contact pair) or ``measuring``.
    """

    set_up: Interval
    done: Interval
    judgement: Judgement
    because: Literal["", "floor", "measuring"]


def nominal_of(result: Result, key: str) -> float:
    """The estimate itself: a joint's signed peak (N m) or one of `OTHERS` (NaN: a ratio to nothing)."""
    if key in result.summary:
        return result.summary[key].peak_Nm
    solved = result.solved
    return float(_others(solved.pose, solved.moments)[key])


def _others(pose: Pose, moments: JointMoments) -> dict[str, Array]:
    """`OTHERS` over the frames (last axis): largest compression and shear, frontal moment, knee to hip."""
    disc = disc_forces(pose, moments)
    frontal = out_of_sagittal(pose, moments, "right")[1]
    hip, knee = (
        _extreme(moments.extension[JOINTS.index(f"{j}_right")], 1.0) for j in ("hip", "knee")
    )
    ratio = np.divide(knee, hip, out=np.full(np.shape(hip), np.nan), where=hip > LEAST_HIP_NM)
    return {
        "compression_N": disc.compression_N.max(axis=-1),
        "shear_N": disc.shear_N.max(axis=-1),
        "frontal_Nm": _largest(frontal),
        "knee_to_hip": ratio,
    }


def _extreme(curve: Array, way: float) -> Array:
    """The furthest value of a curve in one direction."""
    found: Array = curve.max(axis=-1) if way >= 0.0 else curve.min(axis=-1)
    return found


def _largest(curve: Array) -> Array:
    """The value of largest size over the last axis, with its sign."""
    at = np.argmax(np.abs(curve), axis=-1)
    return np.take_along_axis(curve, at[..., None], axis=-1)[..., 0]


def draw_many(
    cases: Sequence[Case],
    errors: Errors | None = None,
    draws: int = DRAWS,
    seed: int = SEED,
    tell: Callable[[float], None] | None = None,
    joints: Sequence[str] = JOINTS,
) -> list[Drawn | CaseError]:
    """Draws of several cases. Impossible cases give their error.

    ``joints`` are those whose peaks are wanted: fewer are worked out faster.
    """
    found: list[Drawn | CaseError] = []
    for number, case in enumerate(cases):
        try:
            found.append(draw(analyse(case), errors, draws, seed, joints))
        except CaseError as error:
            found.append(error)
        if tell is not None:
            tell((number + 1) / len(cases))
    return found


def draw(
    result: Result,
    errors: Errors | None = None,
    draws: int = DRAWS,
    seed: int = SEED,
    joints: Sequence[str] = JOINTS,
    *,
    others: bool = False,
    compared: bool = True,
) -> Drawn:
    """Draws about one solved case. With ``others`` those are drawn too.

    Without ``compared`` only the reading *as done* is worked out (and stands for both).
    Raises the case's `CaseError` if it is impossible, and for too few draws.
    """
    if draws < FEWEST:
        raise CaseError(
            "out-of-range",
            f"{draws} draws are too few for an interval; at least {FEWEST} are needed",
            key="draws",
            value=draws,
            allowed=[FEWEST, None],
        )
    _ = result.solved
    errors = errors or Errors()
    done = _draw(result, errors, draws, seed, joints, others=others, apart=True)
    if not compared:
        return Drawn(result, done, done)
    exact = errors.exactly_done
    return Drawn(
        result, done, _draw(result, exact, draws, seed, joints, others=others, apart=False)
    )


def _draw(
    result: Result,
    errors: Errors,
    draws: int,
    seed: int,
    joints: Sequence[str],
    *,
    others: bool,
    apart: bool,
) -> Draws:
    """Draws in one reading: ``apart``, or with what is off shared between set-ups."""
    case = result.case
    batch = scattered(case, errors, draws, seed, apart=apart)
    instants = result.timeline.instants_at(
        _frames(result, joints, others=others), moving=batch.moving
    )
    share = _pair_share(draws, seed) if errors.pair else None
    rows = [(joint, JOINTS.index(joint)) for joint in joints]
    ways = {joint: 1.0 if result.summary[joint].peak_Nm >= 0.0 else -1.0 for joint in joints}
    found: list[list[dict[str, Array]]] = []
    done = 0
    for part in batch.in_parts(instants):
        count = len(part.feasible)
        readings = [part.moments, part.moments]
        if share is not None and part.support.kind in ("feet", "places"):
            readings[0] = part.moments.between(part.other_end, share[done : done + count])
        done += count
        able = part.feasible
        found.append([])
        for moments in readings:
            values = {j: _extreme(moments.extension[row], ways[j]) for j, row in rows}
            values |= _others(part.pose, moments) if others else {}
            found[-1].append({k: np.where(able, v, np.nan) for k, v in values.items()})
    whole = [
        {key: np.concatenate([part[number][key] for part in found]) for key in found[0][number]}
        for number in (0, 1)
    ]
    return Draws(*whole)


def _frames(result: Result, joints: Sequence[str], *, others: bool = False) -> list[int]:
    """Where draws are looked at: about each peak of the estimate, top and bottom."""
    times, solved = result.timeline, result.solved
    frames = {times.top, times.bottom}
    curves = [solved.extension(joint) for joint in joints]
    if others:
        frontal = out_of_sagittal(solved.pose, solved.moments, "right")[1]
        curves += [solved.disc.compression_N, solved.disc.shear_N, frontal]
        curves += [solved.extension(f"{joint}_right") for joint in ("hip", "knee")]
    for curve in curves:
        at = int(np.argmax(np.abs(curve)))
        frames |= {min(max(at + step, 0), len(times.progress) - 1) for step in BESIDE_PEAK}
    one_way = {int(np.argmax(np.isclose(times.progress, times.progress[f]))) for f in frames}
    batch = make_batch([result.case])
    return sorted(frames if batch.both_ways_differ else one_way)


def _pair_share(draws: int, seed: int) -> Array:
    """How far the contact pair is from the rule (0) towards the other one (1): density 2 (1 - s).

    The same for every set-up and both readings, ``(draws, 1)``.
    """
    uniform = np.random.default_rng([seed, *b"pair"]).uniform(0.0, 1.0, (draws, 1))
    share: Array = 1.0 - np.sqrt(1.0 - uniform)
    return share


@lru_cache(maxsize=1024)
def _normal(name: str, draws: int, seed: int) -> Array:
    """Standard normal draws ``(draws, 1)`` that depend on what is measured only, not on who asks."""
    stream = np.random.default_rng([seed, *hashlib.blake2s(name.encode(), digest_size=8).digest()])
    normal: Array = stream.standard_normal((draws, 1))
    normal.setflags(write=False)
    return normal


def _build_of(athlete: Athlete) -> str:
    """What makes two athletes the same body."""
    build = {
        k: v
        for k, v in athlete.as_json().items()
        if k in ("height_m", "mass_kg", "sex", "lengths_m")
    }
    return json.dumps(build, sort_keys=True)


def _pose_of(case: ResolvedCase) -> str:
    """What makes two set-ups the same pose, whatever they carry."""
    return json.dumps([case.variation, sorted(case.given.items()), _build_of(case.athlete)])


def scattered(
    case: ResolvedCase, errors: Errors, draws: int, seed: int, *, apart: bool = True
) -> Batch:
    """The case as a batch of possible truths, ``(draws, 1)`` arrays.

    ``apart``: angles, tape and load place are off by draws of this pose's own, else by draws that every
    set-up shares.
    """
    batch = make_batch([case])
    pose = _pose_of(case) if apart else ""
    settings = {}
    for key, nominal in batch.settings.items():
        size = _size_of(key, errors)
        setting = batch.variation.settings[key]
        values = nominal + size * _normal(f"{key} {pose}", draws, seed)
        settings[key] = np.clip(values, setting.low, setting.high) if size else nominal
    forward, above = (
        errors.offset_m * _normal(f"load {way} {pose}", draws, seed) for way in ("forward", "above")
    )
    down, up = (np.repeat(v, draws, axis=0) for v in (batch.carried.down_kg, batch.carried.up_kg))
    body = scattered_body(batch.body, errors, draws, seed, _build_of(case.athlete))
    return batch.varied(
        settings=settings,
        body=body,
        carried=Carrying(down, up, forward, above),
        limits=_roomy(batch),
    )


def _size_of(key: str, errors: Errors) -> float:
    """Standard error of a setting, in its own unit."""
    if key in READ_ANGLES:
        return errors.angle_deg
    if key in READ_TAPES:
        return errors.offset_m
    return errors.pressure if key == "pressure_fraction" else 0.0


def _roomy(batch: Batch) -> Limits:
    """Limits out of the way: a truth a degree past a limit is still a truth that was seen standing."""
    wider = {
        name: getattr(batch.limits, name) + np.radians(20.0)
        for name in ("ankle_dorsiflexion", "hip_opening", "knee_flexion")
    }
    return replace(batch.limits, **wider)


def scattered_body(body: Body, errors: Errors, draws: int, seed: int, build: str = "") -> Body:
    """Bodies whose segment lengths and mass shares are off by the errors; the whole mass is known.

    A scale weighs the athlete well: shares are scaled so that they still sum to the body mass.
    ``build`` keeps two bodies' errors apart.
    """
    lengths = {
        name: body.lengths[name]
        * np.exp(errors.length * _normal(f"length {name} {build}", draws, seed))
        for name in LENGTHS
    }
    raw = {
        name: mass * np.exp(errors.mass * _normal(f"mass {name} {build}", draws, seed))
        for name, mass in body.mass.items()
    }
    total = sum((2.0 if name in PAIRED else 1.0) * mass for name, mass in raw.items())
    scale = body.mass_kg / total
    return replace(body, lengths=lengths, mass={name: mass * scale for name, mass in raw.items()})


def shortest(nominal: float, values: Array, level: float = LEVEL) -> Interval:
    """The shortest window of ordered draws that holds its share and the estimate.

    An estimate outside all draws: from it to the share's quantile. Raises `CaseError` where fewer than
    `FEWEST` draws can stand.
    """
    known = np.sort(values[np.isfinite(values)])
    count = len(known)
    if count < FEWEST:
        raise CaseError(
            "too-few-draws",
            f"only {count} of {len(values)} possible truths can stand; the set-up is at the edge "
            "of what can be done, so no interval is given",
            key="draws",
            value=count,
            allowed=[FEWEST, len(values)],
        )
    held = int(np.ceil(level * count))
    if nominal < known[0]:
        return Interval(nominal, nominal, float(known[held - 1]))
    if nominal > known[-1]:
        return Interval(nominal, float(known[count - held]), nominal)
    lows, highs = known[: count - held + 1], known[held - 1 :]
    widths = np.where((lows <= nominal) & (nominal <= highs), highs - lows, np.inf)
    best = int(np.argmin(widths))
    return Interval(nominal, float(lows[best]), float(highs[best]))


def judge(one: Drawn, base: Drawn, key: str) -> Verdict:
    """Judge one case against a baseline at a joint or by one of `OTHERS`, draw by draw.

    *Same*: as set up the difference lies within 5 % of the larger peak. *More* or *less*: as done it
    lies on one side of nothing. *More* or *less as set up*: only as set up it does. *Open*: all else.
    Raises `CaseError` where too few draws can stand.
    """
    own, reference = nominal_of(one.result, key), nominal_of(base.result, key)
    gap = own - reference
    set_up = shortest(gap, one.set_up.values[key] - base.set_up.values[key])
    done = shortest(gap, one.done.values[key] - base.done.values[key])
    # More is what goes the baseline's way: a flexor moment that grows is more, too.
    more = gap > 0.0 if reference >= 0.0 else gap < 0.0
    larger = max(abs(own), abs(reference))
    if max(abs(set_up.low), abs(set_up.high)) <= SAME_WITHIN * larger:
        return Verdict(set_up, done, "same", "")
    if done.excludes_none:
        return Verdict(set_up, done, "more" if more else "less", "")
    if set_up.excludes_none:
        return Verdict(set_up, done, "more-as-set-up" if more else "less-as-set-up", "")
    at_rule = shortest(gap, one.set_up.at_rule[key] - base.set_up.at_rule[key])
    return Verdict(set_up, done, "open", "floor" if at_rule.excludes_none else "measuring")


def undone_by(one: Result, base: Result, joint: str) -> tuple[str, float] | None:
    """The change of one angle (settings key, deg) of a set-up that takes its difference to a baseline away.

    Solved, not guessed: the smallest one; None where none within `UNDO_REACH_DEG` can be done.
    """
    target = nominal_of(base, joint)
    way = 1.0 if nominal_of(one, joint) >= 0.0 else -1.0
    batch = make_batch([one.case])
    frames = _frames(one, [joint])
    found: list[tuple[str, float]] = []
    for key in READ_ANGLES:
        if key not in one.case.given:
            continue
        setting, at = batch.variation.settings[key], one.case.given[key]
        low, high = setting.clamped(at - UNDO_REACH_DEG), setting.clamped(at + UNDO_REACH_DEG)
        steps = np.unique(np.append(np.linspace(low, high, UNDO_STEPS), at))
        tried = batch.varied(settings={key: steps[:, None]})
        solved = tried.solve(one.timeline.instants_at(frames, moving=tried.moving))
        gaps = _extreme(solved.extension(joint), way) - target
        crossing = _nearest_crossing(steps - at, np.where(solved.feasible, gaps, np.nan))
        if crossing is not None:
            found.append((key, crossing))
    return min(found, key=lambda pair: abs(pair[1]), default=None)


def _nearest_crossing(changes: Array, gaps: Array) -> float | None:
    """The change nearest to none at which a gap crosses nothing."""
    crossings = []
    for (a, gap_a), (b, gap_b) in pairwise(zip(changes, gaps, strict=True)):
        if gap_a * gap_b <= 0.0 and gap_a != gap_b:
            crossings.append(float(a - gap_a * (b - a) / (gap_b - gap_a)))
    return min(crossings, key=abs, default=None)


CONTACT = "contact rule"
SOURCES = {
    "angles": {"angle_deg"},
    "tape and load place": {"offset_m"},
    "segment lengths": {"length"},
    "segment masses": {"mass"},
    "pressure point": {"pressure"},
    CONTACT: {"pair"},
}


def what_matters(
    case: Case, joint: str, errors: Errors | None = None, draws: int = 500
) -> dict[str, float]:
    """Half the width (N m) of a joint's 90 % interval from each kind of error alone, widest first.

    This is what to measure better. Raises `CaseError` where the case can't be done.
    """
    whole = errors or Errors()
    result = analyse(case)
    widths = {}
    for name, keys in SOURCES.items():
        off = {f.name: 0.0 for f in fields(Errors) if f.name not in keys and f.name != "pair"}
        alone = replace(whole, **off, pair=whole.pair and "pair" in keys)
        drawn = draw(result, alone, draws, joints=[joint], compared=False)
        widths[name] = drawn.interval(joint).half_width
    return dict(sorted(widths.items(), key=lambda item: -item[1]))
