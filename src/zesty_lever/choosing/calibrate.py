"""What known bests say of an athlete's strength: draws of people who could have lifted them.

The most likely person by Gauss-Newton, then importance sampling about them. Fixed seed and one set of draws
for all lifts, so that differences between lifts are judged draw by draw.
"""

from __future__ import annotations

from collections.abc import Sequence
from functools import cached_property
from typing import Any

import numpy as np

from zesty_lever.cases.model import Athlete
from zesty_lever.choosing.effort import Demand, about, at_frames, at_load, top_use, uses
from zesty_lever.choosing.strength import UNKNOWNS, People, people, repetition_share
from zesty_lever.exercises.catalogue import variation
from zesty_lever.frozen import dataclass
from zesty_lever.physics.vectors import Array

SEED, DRAWS, KEPT = 20261127, 1000, 400
# Step of the slopes and rounds of the search for the most likely person; rounds of sampling.
STEP, SEARCH_ROUNDS, SAMPLE_ROUNDS, ENOUGH = 0.15, 6, 4, 150
# Shapes and terms count half here: what is common to all people has been taken up by the lifts' own use.
SHAPE_WIDTH = 0.5
DEGREES, WIDENED, REFITTED, FROM_PRIOR = 5.0, 1.3, 1.15, 0.1
DIAGONAL = 0.15
# Where a best is looked at: frames with at least so much of the most use, of anybody (mass, kg, does not matter).
WELL_BELOW, USUAL_KG = 0.55, 80.0
# A best that is further off than this is asked about, SDs.
ODD_BEST, ODD_LEVEL, ODD_APART = 2.5, 2.5, 1.2


@dataclass(frozen=True)
class Known:
    """One best as evidence: its lift's demand, load (kg), repetitions, and the use that its lift takes at a best.

    ``sd`` is the log SD of that use; ``at_least``: more could have been lifted.
    """

    name: str
    demand: Demand
    load_kg: float
    use: float
    sd: float
    reps: int = 1
    at_least: bool = False

    @cached_property
    def near(self) -> Demand:
        """The demand at the loads about its own, where it may be hardest.

        Frames at which a usual person uses less than `WELL_BELOW` of the most are nobody's hardest.
        """
        demand = about(self.demand, self.load_kg)
        usual = People(np.zeros((1, len(UNKNOWNS))), USUAL_KG, woman=False, spread=0.0)
        most = uses(demand, usual).max(axis=(0, 1, 2))
        return at_frames(demand, most >= WELL_BELOW * most.max())

    @property
    def aim(self) -> tuple[float, float]:
        """Log of the top use that this best should take, and its log SD."""
        share, spread = repetition_share(self.reps)
        return float(np.log(self.use * share)), float(np.hypot(self.sd, spread))


@dataclass(frozen=True)
class Strength:
    """Draws of an athlete's strength ``(draws, unknowns)`` (independent normals), from how many effective ones.

    ``odd`` are notes on bests that do not fit, to be asked about, ``left_out`` on those that can't stand.
    """

    athlete: Athlete
    normals: Array
    effective: float
    known: tuple[str, ...]
    odd: tuple[str, ...] = ()
    left_out: tuple[str, ...] = ()

    @cached_property
    def expected(self) -> dict[tuple[str, str], Any]:
        """Bests expected already, by lift and school."""
        return {}

    @property
    def calibrated(self) -> bool:
        """Whether any best was known."""
        return bool(self.known)


def unknown_strength(athlete: Athlete) -> Strength:
    """Strength of somebody of whom no best is known."""
    normals = np.random.default_rng(SEED).standard_normal((KEPT, len(UNKNOWNS)))
    return Strength(athlete, normals, float(KEPT), ())


def calibrated(athlete: Athlete, bests: Sequence[Known]) -> Strength:
    """Strength of an athlete whose bests are known; that of anybody where none is."""
    if not bests:
        return unknown_strength(athlete)
    chance = np.random.default_rng(SEED)
    count = len(UNKNOWNS)
    middle, spread = _most_likely(athlete, bests)
    cover = WIDENED * spread
    for number in range(SAMPLE_ROUNDS):
        draws = _propose(chance, middle, cover)
        logs = (
            _log_prior(draws)
            + _log_fit(athlete, bests, draws)
            - _log_proposal(draws, middle, cover)
        )
        weights = np.exp(logs - logs.max())
        weights /= weights.sum()
        effective = float(1.0 / (weights**2).sum())
        middle = weights @ draws
        off = draws - middle
        cover = REFITTED * (weights[:, None] * off).T @ off
        cover = (1.0 - DIAGONAL) * cover + DIAGONAL * np.diag(np.diag(cover)) + 1e-6 * np.eye(count)
        if effective >= ENOUGH and number > 0:
            break
    places = (chance.random() + np.arange(KEPT)) / KEPT
    rows = np.searchsorted(np.cumsum(weights), places).clip(0, len(draws) - 1)
    odd = _odd_ones(athlete, bests, middle)
    return Strength(athlete, draws[rows], effective, tuple(b.name for b in bests), odd)


def _misfits(
    athlete: Athlete, bests: Sequence[Known], draws: Array, *, soft: bool = False
) -> Array:
    """How far every best is off, in its SDs, ``(draws, bests)``; 0 for an *at least* that is met."""
    person = people(athlete, draws, known=True, width=SHAPE_WIDTH)
    found = []
    for best in bests:
        aim, sd = best.aim
        near = best.near
        use = at_load(near, top_use(near, person, soft=soft), best.load_kg)
        miss = (np.log(np.maximum(use, 1e-6)) - aim) / sd
        found.append(np.maximum(miss, 0.0) if best.at_least else miss)
    return np.stack(found, axis=1)


def _log_fit(athlete: Athlete, bests: Sequence[Known], draws: Array) -> Array:
    found: Array = -0.5 * (_misfits(athlete, bests, draws) ** 2).sum(axis=1)
    return found


def _log_prior(draws: Array) -> Array:
    found: Array = -0.5 * (draws**2).sum(axis=1)
    return found


def _most_likely(athlete: Athlete, bests: Sequence[Known]) -> tuple[Array, Array]:
    """Mode ``(unknowns,)`` and covariance about it, by Gauss-Newton with a smooth maximum."""
    count = len(UNKNOWNS)
    at = np.zeros(count)
    steps = STEP * np.concatenate([np.zeros((1, count)), np.eye(count), -np.eye(count)])
    hessian: Array = np.eye(count)
    for _ in range(SEARCH_ROUNDS):
        misses = _misfits(athlete, bests, at + steps, soft=True)
        slopes = (misses[1 : count + 1] - misses[count + 1 :]).T / (2.0 * STEP)
        hessian = np.asarray(slopes.T @ slopes + np.eye(count), dtype=float)
        move = np.linalg.solve(hessian, slopes.T @ misses[0] + at)
        at = at - move
        if float(np.abs(move).max()) < 0.01:
            break
    covariance: Array = np.asarray(np.linalg.inv(hessian), dtype=float)
    return at, covariance


def _propose(chance: np.random.Generator, middle: Array, cover: Array) -> Array:
    """Draws of a wide-tailed bell about a middle, one in ten from anybody."""
    count = len(UNKNOWNS)
    normal = chance.standard_normal((DRAWS, count))
    wide = np.sqrt(DEGREES / chance.chisquare(DEGREES, DRAWS))[:, None]
    draws: Array = middle + wide * (normal @ np.linalg.cholesky(cover).T)
    anybody = round(FROM_PRIOR * DRAWS)
    draws[:anybody] = normal[:anybody]
    return draws


def _log_proposal(draws: Array, middle: Array, cover: Array) -> Array:
    """Log density of `_propose`, but for a constant that both parts share."""
    count = len(UNKNOWNS)
    root = np.linalg.cholesky(cover)
    away = np.linalg.solve(root, (draws - middle).T)
    apart = (away**2).sum(axis=0)
    log_det = float(np.log(np.diag(root)).sum())
    bell = -0.5 * (DEGREES + count) * np.log1p(apart / DEGREES) - log_det + _tail_constant(count)
    anybody = _log_prior(draws)
    found: Array = np.logaddexp(np.log(1.0 - FROM_PRIOR) + bell, np.log(FROM_PRIOR) + anybody)
    return found


def _tail_constant(count: int) -> float:
    """What a bell with wide tails has over a normal one at its middle, as a log (both without pi)."""
    from math import lgamma, log

    half = 0.5 * (DEGREES + count)
    return (
        lgamma(half) - lgamma(0.5 * DEGREES) - 0.5 * count * log(DEGREES) + 0.5 * count * log(2.0)
    )


def odd_words(best: Known, *, less: bool) -> str:
    """The question about a best that does not fit the others."""
    return (
        f"{variation(best.name).name}, {best.load_kg:g} kg: {'less' if less else 'more'} than the others lead one "
        "to expect; is it right?"
    )


def _odd_ones(athlete: Athlete, bests: Sequence[Known], middle: Array) -> tuple[str, ...]:
    """Bests that do not fit what is usual, in words of a question."""
    misses = _misfits(athlete, bests, middle[None])[0]
    notes = [
        odd_words(best, less=miss < 0)
        for best, miss in zip(bests, misses, strict=True)
        if abs(miss) > ODD_BEST
    ]
    from zesty_lever.choosing.strength import LEVELS, correlated

    levels = correlated(middle[None])[0, : len(LEVELS)]
    if not notes and abs(levels[0] - levels[1]) > ODD_APART:
        notes.append("these bests say hips and knees of very different strength; are they right?")
    if not notes and float(levels.max()) > ODD_LEVEL:
        notes.append("these bests say far more strength than nearly everybody has; are they right?")
    return tuple(notes)
