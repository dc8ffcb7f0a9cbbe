"""Possible truths about a set-up: what measuring and doing may be off by, as a batch of samples.

Every kind of measurement has a stream of draws of its own, named by what is measured: the same for
every set-up that shares it, whoever asks.
"""

from __future__ import annotations

import json
from dataclasses import replace
from functools import lru_cache

import numpy as np

from zesty_lever.cases.batch import Batch, make_batch
from zesty_lever.cases.model import Athlete, ReadErrors, ResolvedCase
from zesty_lever.cases.rigging import Carrying
from zesty_lever.exercises.builder import Limits
from zesty_lever.frozen import dataclass
from zesty_lever.physics.body import LENGTHS, PAIRED, Body
from zesty_lever.physics.lines import ANCHOR_KEYS
from zesty_lever.physics.vectors import Array
from zesty_lever.problems import CaseError

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
    """Standard errors of measurement. Defaults: docs/model.md, common practice, no source.

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


def pair_share(draws: int, seed: int) -> Array:
    """How far the contact pair is from the rule (0) towards the other one (1): density 2 (1 - s).

    The same for every set-up and both readings, ``(draws, 1)``.
    """
    uniform = np.random.default_rng([seed, *b"pair"]).uniform(0.0, 1.0, (draws, 1))
    share: Array = 1.0 - np.sqrt(1.0 - uniform)
    return share


@lru_cache(maxsize=1024)
def _normal(name: str, draws: int, seed: int) -> Array:
    """Standard normal draws ``(draws, 1)`` that depend on what is measured only, not on who asks."""
    import hashlib

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
        size = _size_of(key, errors, case.errors)
        setting = batch.variation.settings[key]
        values = nominal + size * _normal(f"{key} {pose}", draws, seed)
        settings[key] = np.clip(values, setting.low, setting.high) if size else nominal
    measured = case.errors.offset_m if case.errors else None
    offset = errors.offset_m if measured is None or not errors.offset_m else measured
    forward, above = (
        offset * _normal(f"load {way} {pose}", draws, seed) for way in ("forward", "above")
    )
    down, up = (np.repeat(v, draws, axis=0) for v in (batch.carried.down_kg, batch.carried.up_kg))
    body = scattered_body(batch.body, errors, draws, seed, _build_of(case.athlete))
    return batch.varied(
        settings=settings,
        body=body,
        carried=Carrying(down, up, forward, above),
        limits=_roomy(batch),
    )


def _size_of(key: str, errors: Errors, measured: ReadErrors | None) -> float:
    """Standard error of a setting, in its own unit: as measured, where it was and angles are off at all."""
    if key in READ_ANGLES:
        own = getattr(measured, key, None)
        return errors.angle_deg if own is None or not errors.angle_deg else float(own)
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
