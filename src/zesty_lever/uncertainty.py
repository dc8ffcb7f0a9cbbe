"""Intervals: how far off the moments may be, given how well a coach can measure.

True values are scattered about the measured ones: angles, lengths along the floor, load place,
segment lengths, segment masses. All samples of a variation are one array call, and every variation
compared gets the *same* draws of what they share (common random numbers), so that the interval of a
difference is honest. The contact pair is sampled between its two ends. Moments are evaluated at the
frames where the nominal rep has its peaks.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, fields, replace
from functools import lru_cache

import numpy as np

from zesty_lever.analysis import Result, analyse
from zesty_lever.batch import Batch, Carrying, make_batch
from zesty_lever.body import LENGTHS, Body
from zesty_lever.case import Case, CaseError
from zesty_lever.exercises.catalogue import fill, variation
from zesty_lever.exercises.rep import Limits
from zesty_lever.mechanics.lines import ANCHOR_KEYS
from zesty_lever.motion.pose import JOINTS
from zesty_lever.sweep import Sweep, sweep_in_parts
from zesty_lever.vectors import Array

DRAWS = 2000
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
# A peak that the deepest frame comes this near to is taken there: the fewer frames, the faster.
AS_GOOD = 0.995
FRONT_HIP = JOINTS.index("hip_right")
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


@dataclass(frozen=True)
class Errors:
    """Standard errors of measurement. Defaults: model.md section 7, common practice, no source.

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


@dataclass(frozen=True)
class Interval:
    """Nominal value and the middle 90 % of the draws, N m (or what the quantity has)."""

    nominal: float
    low: float
    high: float


@dataclass(frozen=True)
class Drawn:
    """One case's draws: ``peaks`` (signed, N m) by joint ``(draws,)``; NaN where a draw can't stand.

    ``held`` are the same draws with the contacts settled by the rule: what measuring alone leaves open.
    `OTHERS` are drawn as well: compression and shear (N), the front hip's frontal moment (N m), the ratio
    of knee to hip.
    """

    result: Result
    peaks: Mapping[str, Array]
    held: Mapping[str, Array]
    able: Array

    def interval(self, key: str, level: float = 0.90, *, held: bool = False) -> Interval:
        """Middle share of a joint's peak or of one of `OTHERS`. Raises `CaseError` where too few draws can stand."""
        values = self.held if held else self.peaks
        return _middle(nominal_of(self.result, key), values[key], level)


# What is drawn besides the joints' peaks.
OTHERS = ("compression_N", "shear_N", "frontal_Nm", "knee_to_hip")
# A ratio to a hip that hardly works means nothing, N m.
LEAST_HIP_NM = 5.0


def nominal_of(result: Result, key: str) -> float:
    """The estimate itself: a joint's signed peak (N m) or one of `OTHERS` (NaN: a ratio to nothing)."""
    assert result.summary is not None and result.moments is not None and result.disc is not None
    if key in result.disc:
        return float(result.disc[key].max())
    if key == "frontal_Nm":
        return float(np.abs(result.moments.abduction[FRONT_HIP]).max())
    if key == "knee_to_hip":
        hip = result.summary["hip_right"].peak_Nm
        return (
            result.summary["knee_right"].peak_Nm / hip if abs(hip) > LEAST_HIP_NM else float("nan")
        )
    return result.summary[key].peak_Nm


@dataclass(frozen=True)
class Verdict:
    """A difference to a baseline: interval and the words for it."""

    difference: Interval
    words: str


def draw_many(
    cases: Sequence[Case],
    errors: Errors | None = None,
    draws: int = DRAWS,
    seed: int = SEED,
    tell: Callable[[float], None] | None = None,
    joints: Sequence[str] = JOINTS,
) -> list[Drawn | CaseError]:
    """Draws of several cases with common random numbers. Impossible cases give their error.

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


@lru_cache(maxsize=256)
def _common(name: str, draws: int, seed: int) -> Array:
    """Standard normal draws that depend on what is measured only, not on who asks.

    ``(1 + draws, 1)``: the first is none at all, the measured truth.
    """
    stream = np.random.default_rng([seed, *name.encode()])
    normal: Array = np.concatenate([np.zeros((1, 1)), stream.standard_normal((draws, 1))])
    normal.setflags(write=False)
    return normal


def draw(
    result: Result,
    errors: Errors | None = None,
    draws: int = DRAWS,
    seed: int = SEED,
    joints: Sequence[str] = JOINTS,
    *,
    others: bool = False,
) -> Drawn:
    """Draws about one solved case; see `draw_many`. With ``others`` those are drawn too. Raises its `CaseError` if it is impossible, or for too few draws."""
    if result.error:
        raise result.error
    if draws < FEWEST:
        raise CaseError(
            "out-of-range",
            f"{draws} draws are too few for an interval; at least {FEWEST} are needed",
            key="draws",
            value=draws,
            allowed=[FEWEST, None],
        )
    errors, case, summary = errors or Errors(), result.case, result.summary
    assert summary is not None
    batch = scattered(case, errors, draws, seed)
    rows = {j: _peak_frame(result, j) for j in joints}
    rows |= _frames_of_others(result) if others else {}
    frames = sorted({*rows.values(), result.timeline.bottom})
    progress = result.timeline.progress[frames]
    if progress.max() < 1.0:
        progress = np.append(progress, 1.0)  # the full rep's deepest pose is solved from this one
    rule = case.contact_rule or variation(case.variation).contact_rule
    share = None
    if errors.pair:
        drawn = np.random.default_rng([seed, *b"pair"]).uniform(0.0, 1.0, (draws, 1))
        share = np.concatenate([[[0.0 if rule == "vertical" else 1.0]], drawn])
    parts = list(sweep_in_parts(batch, progress, rule, pair_share=share))
    able = np.concatenate([p.feasible for p in parts])[1:]
    peaks: dict[str, Array] = {}
    held: dict[str, Array] = {}
    for joint in joints:
        row, at = JOINTS.index(joint), frames.index(rows[joint])
        for kept, of in ((peaks, "extension"), (held, "held")):
            values = np.concatenate([getattr(p, of)[row, :, at] for p in parts])
            # The draws scatter about the nominal rep's own peak: the sweep's path differs from the
            # rep's by rounding only.
            shift = summary[joint].peak_Nm - float(values[0])
            kept[joint] = np.where(able, values[1:] + shift, np.nan)
    if others:
        for key in ("compression_N", "shear_N", "frontal_Nm"):
            at = frames.index(rows[key])
            values = np.concatenate([_other(p, key)[:, at] for p in parts])
            peaks[key] = np.where(
                able, values[1:] + nominal_of(result, key) - float(values[0]), np.nan
            )
        hip, knee = (peaks.get(f"{j}_right", np.full(draws, np.nan)) for j in ("hip", "knee"))
        peaks["knee_to_hip"] = np.divide(
            knee, hip, out=np.full(draws, np.nan), where=np.abs(hip) > LEAST_HIP_NM
        )
    return Drawn(result, peaks, held, able)


def _other(part: Sweep, key: str) -> Array:
    found: Array = {
        "compression_N": part.compression,
        "shear_N": part.shear,
        "frontal_Nm": np.abs(part.abduction[FRONT_HIP]),
    }[key]
    return found


def _frames_of_others(result: Result) -> dict[str, int]:
    """Frame of the estimate's own largest value of each."""
    assert result.moments is not None and result.disc is not None
    found = {key: int(np.argmax(result.disc[key])) for key in ("compression_N", "shear_N")}
    return found | {"frontal_Nm": int(np.argmax(np.abs(result.moments.abduction[FRONT_HIP])))}


def _peak_frame(result: Result, joint: str) -> int:
    """Where a joint's peak is looked for: its frame, or the deepest one where it is as good as that."""
    size = np.abs(_extension(result, joint))
    at, deep = int(np.argmax(size)), result.timeline.bottom
    return deep if size[deep] >= AS_GOOD * size[at] else at


def _extension(result: Result, joint: str) -> Array:
    assert result.moments is not None
    curve: Array = result.moments.extension[JOINTS.index(joint)]
    return curve


def scattered(case: Case, errors: Errors, draws: int, seed: int) -> Batch:
    """The case as a batch of possible truths, ``(1 + draws, 1)`` arrays; the first is as measured."""
    case = fill(case)
    batch = make_batch([case])
    chosen = variation(case.variation)
    settings = {}
    for key, nominal in batch.settings.items():
        size = (
            errors.angle_deg
            if key in READ_ANGLES
            else errors.offset_m
            if key in READ_TAPES
            else errors.pressure
            if key == "pressure_fraction"
            else 0.0
        )
        values = nominal + size * _common(key, draws, seed)
        setting = chosen.settings[key]
        settings[key] = (
            np.clip(values, setting.low, setting.high) if size else nominal + 0.0 * values
        )
    forward, above = (
        errors.offset_m * _common(f"load {way}", draws, seed) for way in ("forward", "above")
    )
    down = np.repeat(batch.carried.down_kg, 1 + draws, axis=0)
    up = np.repeat(batch.carried.up_kg, 1 + draws, axis=0)
    body = scattered_body(batch.body, errors, draws, seed)
    wide = replace(batch, limits=_unlimited(batch))
    return wide.varied(settings=settings, body=body, carried=Carrying(down, up, forward, above))


def _unlimited(batch: Batch) -> Limits:
    """Limits out of the way: a truth a degree past a limit is still a truth that was seen standing."""
    roomy = {f.name: getattr(batch.limits, f.name) for f in fields(batch.limits)}
    for name in ("ankle_dorsiflexion", "hip_opening", "knee_flexion"):
        roomy[name] = roomy[name] + np.radians(20.0)
    return Limits(**roomy)


def scattered_body(body: Body, errors: Errors, draws: int, seed: int) -> Body:
    """Bodies whose segment lengths and mass shares are off by the errors; the whole mass is known.

    A scale weighs the athlete well: shares are scaled so that they still sum to the body mass.
    """
    lengths = {
        name: body.lengths[name] * np.exp(errors.length * _common(f"length {name}", draws, seed))
        for name in LENGTHS
    }
    paired = {"foot", "shank", "thigh", "upper_arm", "forearm", "hand"}
    raw = {
        name: mass * np.exp(errors.mass * _common(f"mass {name}", draws, seed))
        for name, mass in body.mass.items()
    }
    total = sum((2.0 if name in paired else 1.0) * mass for name, mass in raw.items())
    scale = body.mass_kg / total
    return replace(body, lengths=lengths, mass={name: mass * scale for name, mass in raw.items()})


def _middle(nominal: float, values: Array, level: float = 0.90) -> Interval:
    known = values[np.isfinite(values)]
    if len(known) < FEWEST:
        raise CaseError(
            "too-few-draws",
            f"only {len(known)} of {len(values)} possible truths can stand; the set-up is at the edge of what can "
            "be done, so no interval is given",
            key="draws",
            value=len(known),
            allowed=[FEWEST, len(values)],
        )
    low, high = np.quantile(known, [0.5 - level / 2, 0.5 + level / 2])
    return Interval(nominal, float(low), float(high))


def judge(one: Drawn, base: Drawn, key: str, *, same_within: float = 0.05) -> Verdict:
    """Judge one case against a baseline at a joint or by one of `OTHERS`, draw by draw.

    *Clearly more* or *less*: the middle 90 % of the differences lies on one side of nothing. *About
    the same*: it lies within ``same_within`` of the baseline's peak. Else *can't tell*.
    """
    own, reference = nominal_of(one.result, key), nominal_of(base.result, key)
    found = _middle(own - reference, one.peaks[key] - base.peaks[key])
    # More is what goes the baseline's way: a flexor moment that grows is more, too.
    way = 1.0 if reference >= 0.0 else -1.0
    if max(abs(found.low), abs(found.high)) <= same_within * abs(reference):
        words = "about the same"
    elif found.low > 0.0 or found.high < 0.0:
        words = "clearly more" if way * found.nominal > 0.0 else "clearly less"
    else:
        words = "can't tell"
    return Verdict(found, words)


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
    widths = {}
    for name, keys in SOURCES.items():
        off = {f.name: 0.0 for f in fields(Errors) if f.name not in keys and f.name != "pair"}
        alone = replace(whole, **off, pair=whole.pair and "pair" in keys)
        drawn = draw_many([case], alone, draws, joints=[joint])[0]
        if isinstance(drawn, CaseError):
            raise drawn
        interval = drawn.interval(joint)
        widths[name] = 0.5 * (interval.high - interval.low)
    return dict(sorted(widths.items(), key=lambda item: -item[1]))
