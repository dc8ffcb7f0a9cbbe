"""Intervals: how far off the moments may be, given how well a coach can measure.

True values are scattered about the measured ones: angles, lengths along the floor, load place,
segment lengths, segment masses, and the part of the contact pair that no rule knows. Two questions are
answered. *As done*: everything is off, and two set-ups are done and read apart. *As set up*: both are
done exactly as entered; body, tape and load place are off alike. All samples of a variation are one
array call; peaks of draws are found over the rep.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import fields, replace

import numpy as np

from zesty_lever.analysis import Result, analyse
from zesty_lever.cases.batch import make_batch
from zesty_lever.cases.model import Case
from zesty_lever.choosing.scatter import SEED, Errors, pair_share, scattered
from zesty_lever.frozen import dataclass
from zesty_lever.joints import JOINTS
from zesty_lever.physics.body import landmark
from zesty_lever.physics.moments import JointMoments, disc_forces, out_of_sagittal
from zesty_lever.physics.pose import Pose
from zesty_lever.physics.solved import Solved
from zesty_lever.physics.vectors import Array
from zesty_lever.problems import CaseError

DRAWS = 1000
FEWEST, MOST = 100, 100_000
LEVEL = 0.90
# A ratio to a hip that hardly works means nothing, N m.
LEAST_HIP_NM = 5.0
# Frames (of 121) about each peak of the estimate where draws are looked at.
BESIDE_PEAK = (-4, 0, 4)
# What is drawn besides the joints' peaks.
# What the literature leaves open of the lowest disc and its muscles (assumptions, no source).
DISC_SLOPE_SD_DEG, EXTENSOR_ARM_SD_M = 6.0, 0.006
OTHERS = ("compression_N", "shear_N", "work_Nm", "frontal_Nm", "knee_to_hip")


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


def nominal_of(result: Result, key: str) -> float:
    """The estimate itself: a joint's signed peak (N m) or one of `OTHERS` (NaN: a ratio to nothing)."""
    if key in result.summary:
        return result.summary[key].peak_Nm
    solved = result.solved
    return float(_others(solved.pose, solved.moments)[key])


def _others(
    pose: Pose, moments: JointMoments, off: tuple[Array, Array] | None = None
) -> dict[str, Array]:
    """`OTHERS` over the frames (last axis): largest compression and shear, hip's work and frontal moment, knee to hip."""
    disc = disc_forces(pose, moments, *(off or ()))
    work, frontal = out_of_sagittal(pose, moments, "right")
    hip, knee = (
        extreme(moments.extension[JOINTS.index(f"{j}_right")], 1.0) for j in ("hip", "knee")
    )
    ratio = np.divide(knee, hip, out=np.full(np.shape(hip), np.nan), where=hip > LEAST_HIP_NM)
    return {
        "compression_N": disc.compression_N.max(axis=-1),
        "shear_N": disc.shear_N.max(axis=-1),
        "work_Nm": work.max(axis=-1),
        "frontal_Nm": _largest(frontal),
        "knee_to_hip": ratio,
    }


def extreme(curve: Array, way: float) -> Array:
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
    if not FEWEST <= draws <= MOST:
        few = draws < FEWEST
        raise CaseError(
            "out-of-range",
            f"{draws} draws are too {'few' if few else 'many'} for an interval; it takes {FEWEST} to {MOST}",
            key="draws",
            value=draws,
            allowed=[FEWEST, MOST],
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
        frames_of(result, joints, others=others), moving=batch.moving
    )
    share = pair_share(draws, seed) if errors.pair else None
    discs = disc_off(draws, seed) if errors.length or errors.mass else None
    rows = [(joint, JOINTS.index(joint)) for joint in joints]
    ways = {joint: 1.0 if result.summary[joint].peak_Nm >= 0.0 else -1.0 for joint in joints}
    found: list[list[dict[str, Array]]] = []
    done = 0
    for part in batch.in_parts(instants):
        count = len(part.feasible)
        drawn = None
        if share is not None and part.support.kind in ("feet", "places"):
            drawn = share[done : done + count]
            _ = part.other_end if others else None
        off = None
        if discs is not None:
            slope, arm = discs
            off = slope[done : done + count, None], arm[done : done + count, None]
        done += count
        able = part.feasible
        found.append([])
        for towards in (drawn, None):
            curves = {j: _between(part, row, towards) for j, row in rows}
            values = {j: extreme(curve, ways[j]) for j, curve in curves.items()}
            if others:
                moments = part.moments
                if towards is not None:
                    moments = moments.between(part.other_end, towards)
                values |= _others(part.pose, moments, off)
            found[-1].append({k: np.where(able, v, np.nan) for k, v in values.items()})
    whole = [
        {key: np.concatenate([part[number][key] for part in found]) for key in found[0][number]}
        for number in (0, 1)
    ]
    return Draws(*whole)


def disc_off(draws: int, seed: int) -> tuple[Array, Array]:
    """How far bodies are off the assumed slope of the lowest disc (deg) and the muscles' arm (m): one body, all set-ups.

    SD 6 degrees and 0.6 cm (assumptions, no source); an arm is never below half of the assumed one.
    """
    normal = np.random.default_rng([seed, 5]).standard_normal((2, draws))
    least = -0.5 * landmark("extensor_arm_m")
    return DISC_SLOPE_SD_DEG * normal[0], np.maximum(EXTENSOR_ARM_SD_M * normal[1], least)


def _between(part: Solved, row: int, share: Array | None) -> Array:
    """A joint's extension so far (0-1) from the rule's to the other's, N m; None: the rule's own."""
    own: Array = part.moments.extension[row]
    if share is None:
        return own
    mixed: Array = own + share * (part.other_extension[row] - own)
    return mixed


def frames_of(result: Result, joints: Sequence[str], *, others: bool = False) -> list[int]:
    """Where draws are looked at: about each peak of the estimate, top and bottom."""
    times, solved = result.timeline, result.solved
    frames = {times.top, times.bottom}
    curves = [solved.extension(joint) for joint in joints]
    if others:
        curves += [solved.disc.compression_N, solved.disc.shear_N]
        curves += out_of_sagittal(solved.pose, solved.moments, "right")
        curves += [solved.extension(f"{joint}_right") for joint in ("hip", "knee")]
    for curve in curves:
        at = int(np.argmax(np.abs(curve)))
        frames |= {min(max(at + step, 0), len(times.progress) - 1) for step in BESIDE_PEAK}
    one_way = {int(np.argmax(np.isclose(times.progress, times.progress[f]))) for f in frames}
    batch = make_batch([result.case])
    return sorted(frames if batch.both_ways_differ else one_way)


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
    inside = int(np.ceil(level * count))
    if nominal < known[0]:
        return Interval(nominal, nominal, float(known[inside - 1]))
    if nominal > known[-1]:
        return Interval(nominal, float(known[count - inside]), nominal)
    lows, highs = known[: count - inside + 1], known[inside - 1 :]
    widths = np.where((lows <= nominal) & (nominal <= highs), highs - lows, np.inf)
    best = int(np.argmin(widths))
    return Interval(nominal, float(lows[best]), float(highs[best]))


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
