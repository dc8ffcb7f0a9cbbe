"""Iterations stop for each sample by itself, below 1e-9; checked against NumPy's and SciPy's roots."""

import numpy as np
import pytest
from scipy.optimize import brentq, fsolve

from zesty_lever.physics.iterate import (
    broyden_pair,
    find_increasing_root,
    secant_root,
)

SIZES = np.linspace(0.2, 4.0, 40)
# A last step below 1e-9 of a method that converges faster than linearly.
CLOSE = pytest.approx


def cube(size):
    return lambda x: x**3 + x - size


def test_the_secant_finds_the_root_of_every_sample():
    """x^3 + x = a, against Brent's method (SciPy)."""
    found, settled = secant_root(cube(SIZES), np.zeros(40), 1.0)
    assert settled.all()
    assert found == CLOSE([brentq(cube(a), 0, 4, xtol=1e-13) for a in SIZES], abs=1e-9)


def test_the_bracketed_root_is_found_and_none_is_nan():
    """As above with a bracket; where the sign does not change there is no root."""
    found = find_increasing_root(cube(SIZES), np.zeros(40), np.full(40, 4.0))
    assert found == CLOSE([brentq(cube(a), 0, 4, xtol=1e-13) for a in SIZES], abs=2e-9)
    assert np.isnan(find_increasing_root(cube(SIZES), np.full(40, 3.0), np.full(40, 4.0))).all()


def test_two_unknowns_of_two_residuals():
    """A coupled pair, against SciPy's fsolve."""

    def pair(a):
        return lambda x, y: (x + 0.3 * np.sin(y) - a, y - 0.2 * x * x - 0.1)

    x, y, settled = broyden_pair(
        pair(0.2 * SIZES),
        (np.zeros(40), np.zeros(40)),
        (np.ones(40), np.ones(40)),
        longest_steps=(0.5, 0.5),
    )
    assert settled.all()
    theirs = [fsolve(lambda v, a=a: pair(a)(*v), (0.0, 0.0), xtol=1e-13) for a in 0.2 * SIZES]
    assert np.stack([x, y], axis=1) == CLOSE(np.array(theirs), abs=1e-8)


@pytest.mark.parametrize("count", [1, 2, 3, 17, 39])
def test_a_sample_is_the_same_alone_and_among_others(count):
    """Bit for bit: easy samples do not stop hard ones, nor do hard ones drag easy ones on."""
    hard = np.concatenate([SIZES[:1] * 0.0, SIZES[1:]])

    def all_three(a):
        start = np.zeros(len(a))
        return (
            secant_root(cube(a), start, 1.0)[0],
            find_increasing_root(cube(a), start, start + 4.0),
            broyden_pair(
                lambda x, y: (x + 0.3 * y - a, y - 0.2 * x * x - 0.1),
                (start, start),
                (1.0 + start, 1.0 + start),
                longest_steps=(0.5, 0.5),
            )[0],
        )

    for whole, part in zip(all_three(hard), all_three(hard[:count]), strict=True):
        assert (whole[:count] == part).all()


def test_what_does_not_come_to_rest_is_told():
    """Residuals without a root, and one that is not a number."""
    assert not secant_root(lambda x: x * x + 1.0, np.zeros(2), 1.0, most_steps=20)[1].any()
    assert not broyden_pair(
        lambda x, y: (x * x + 1.0, y),
        (np.ones(2), np.ones(2)),
        (np.ones(2), np.ones(2)),
        longest_steps=(0.5, 0.5),
        most_steps=20,
    )[2].any()
    assert not secant_root(lambda x: x * np.nan, np.zeros(2), 1.0)[1].any()
