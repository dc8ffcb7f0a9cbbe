"""Samples of the unit cube, row by row: any row can be made without those before it.

Latin hypercube and random rows come from a keyed permutation and a counter: the same seed, factor and
row give the same number on every machine. Sobol rows come from SciPy (the extra ``study``).
"""

from __future__ import annotations

import hashlib
import math
import warnings
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from zesty_lever.physics.vectors import Array
from zesty_lever.problems import CaseError

Sampling = Literal["lhs", "random", "sobol"]
Rows = NDArray[np.int64]
Words = NDArray[np.uint64]
ROUNDS = 6
# More samples than this can't be told apart by the 30 bits of SciPy's Sobol sequence.
MOST_SOBOL = 2**30
LARGEST = math.nextafter(1.0, 0.0)


def unit_samples(
    sampling: Sampling, seed: int, factors: tuple[str, ...], samples: int, rows: Rows
) -> dict[str, Array]:
    """Numbers in [0, 1) for every factor at some ``rows`` of ``samples``. Raises `CaseError`."""
    if sampling == "sobol":
        return _sobol(seed, factors, samples, rows)
    found = {}
    for factor in factors:
        inside = _uniform(_key(seed, factor, "inside"), rows)
        if sampling == "random":
            found[factor] = inside
            continue
        stratum = permuted(_key(seed, factor, "order"), samples, rows)
        # Never 1, whatever the rounding.
        found[factor] = np.minimum((stratum + inside) / samples, LARGEST)
    return found


def _key(seed: int, factor: str, what: str) -> int:
    """A key of 64 bits for one purpose of one factor: another factor leaves it as it is."""
    text = f"{seed}/{factor}/{what}".encode()
    return int.from_bytes(hashlib.blake2b(text, digest_size=8).digest(), "little")


def _mixed(words: Words) -> Words:
    """Well-mixed 64 bits of 64 bits (the finaliser of splitmix64; Steele et al. 2014, from memory)."""
    words = (words ^ (words >> np.uint64(30))) * np.uint64(0xBF58476D1CE4E5B9)
    words = (words ^ (words >> np.uint64(27))) * np.uint64(0x94D049BB133111EB)
    mixed: Words = words ^ (words >> np.uint64(31))
    return mixed


def _counted(key: int, rows: Words) -> Words:
    """The numbers of a counter under a key, 64 bits each."""
    step = np.uint64(0x9E3779B97F4A7C15)
    return _mixed(_mixed(rows * step + np.uint64(key)) + np.uint64(key))


def _uniform(key: int, rows: Rows) -> Array:
    """Numbers in [0, 1), one a row: 53 bits of a counter."""
    bits = _counted(key, rows.astype(np.uint64)) >> np.uint64(11)
    share: Array = bits.astype(np.float64) * 2.0**-53
    return share


def permuted(key: int, count: int, rows: Rows) -> Rows:
    """Where a keyed permutation of 0 ... count - 1 puts each row.

    A Feistel network over the next power of four, walked on until it falls inside.
    Source: Black & Rogaway 2002 (ciphers with arbitrary domains), from memory.
    """
    half = max(1, ((count - 1).bit_length() + 1) // 2)
    mask, shift = np.uint64(2**half - 1), np.uint64(half)
    now = rows.astype(np.uint64)
    outside = np.ones(now.shape, dtype=bool)
    while outside.any():
        left, right = now[outside] >> shift, now[outside] & mask
        for number in range(ROUNDS):
            turn = _counted(key + number & 0xFFFFFFFFFFFFFFFF, right) & mask
            left, right = right, left ^ turn
        now[outside] = (left << shift) | right
        outside = now >= np.uint64(count)
    return now.astype(np.int64)


def _sobol(seed: int, factors: tuple[str, ...], samples: int, rows: Rows) -> dict[str, Array]:
    """Rows of a scrambled Sobol sequence; they must rise."""
    try:
        from scipy.stats import qmc
    except ImportError:
        raise CaseError(
            "needs-extra",
            "Sobol samples need SciPy: install zesty-lever[study], or take sampling = 'lhs'",
            key="sampling",
        ) from None
    if samples > MOST_SOBOL:
        raise CaseError(
            "out-of-range",
            f"samples is {samples}; Sobol gives at most {MOST_SOBOL}",
            key="samples",
            value=samples,
            allowed=[1, MOST_SOBOL],
        )
    wanted, places = np.unique(rows, return_inverse=True)
    sequence = qmc.Sobol(len(factors), scramble=True, rng=np.random.default_rng(seed))
    points = np.empty((len(wanted), len(factors)))
    at = done = 0
    while done < len(wanted):
        if wanted[done] > at:
            sequence.fast_forward(int(wanted[done] - at))
            at = int(wanted[done])
        # As many rows as follow each other without a gap.
        run = int(np.argmin(np.append(np.diff(wanted[done:]) == 1, False))) + 1
        with warnings.catch_warnings():
            # Rows of one part are no power of two; the study's samples may well be.
            warnings.filterwarnings("ignore", "The balance properties", UserWarning)
            points[done : done + run] = sequence.random(run)
        at, done = at + run, done + run
    return {factor: points[places, column] for column, factor in enumerate(factors)}
