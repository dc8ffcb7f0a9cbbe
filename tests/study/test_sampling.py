"""Samples: any row by itself, each stratum once, evenly spread."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.stats import kstest, qmc

from zesty_lever.problems import CaseError
from zesty_lever.study.sampling import permuted, unit_samples

TWO = ("settings.shin_deg", "athlete.height_m")


@settings(deadline=None, max_examples=60)
@given(st.integers(0, 2**63), st.integers(1, 3000))
def test_a_keyed_permutation_takes_every_place_once(key, count):
    assert sorted(permuted(key, count, np.arange(count))) == list(range(count))


@settings(deadline=None, max_examples=40)
@given(
    st.sampled_from(["lhs", "random", "sobol"]),
    st.integers(0, 2**40),
    st.integers(1, 400),
    st.data(),
)
def test_a_row_is_the_same_alone_and_in_any_part(sampling, seed, samples, data):
    rows = data.draw(st.lists(st.integers(0, samples - 1), min_size=1, max_size=20, unique=True))
    rows = np.array(sorted(rows))
    whole = unit_samples(sampling, seed, TWO, samples, np.arange(samples))
    some = unit_samples(sampling, seed, TWO, samples, rows)
    for factor in TWO:
        assert (whole[factor][rows] == some[factor]).all()
        assert (whole[factor] >= 0).all() and (whole[factor] < 1).all()


@pytest.mark.parametrize("samples", [1, 7, 1000])
def test_a_latin_hypercube_has_one_sample_in_every_stratum(samples):
    cube = unit_samples("lhs", 5, TWO, samples, np.arange(samples))
    for values in cube.values():
        assert sorted((values * samples).astype(int)) == list(range(samples))


@pytest.mark.parametrize("sampling", ["lhs", "random", "sobol"])
def test_samples_are_even_and_factors_go_their_own_ways(sampling):
    """Kolmogorov and Smirnov's test against the even distribution (SciPy), and no correlation."""
    cube = unit_samples(sampling, 3, TWO, 4096, np.arange(4096))
    for values in cube.values():
        assert kstest(values, "uniform").pvalue > 0.001
    assert abs(np.corrcoef(*cube.values())[0, 1]) < 0.05


def test_a_latin_hypercube_is_as_even_as_scipy_s():
    """Centred discrepancy beside that of SciPy's own hypercube and of plain random numbers."""
    ours = np.column_stack(list(unit_samples("lhs", 3, TWO, 512, np.arange(512)).values()))
    theirs = qmc.LatinHypercube(2, rng=np.random.default_rng(1)).random(512)
    plain = np.random.default_rng(1).random((512, 2))
    assert qmc.discrepancy(ours) < 3.0 * qmc.discrepancy(theirs)
    assert qmc.discrepancy(ours) < qmc.discrepancy(plain)


def test_another_seed_gives_other_samples_and_another_factor_leaves_them():
    rows = np.arange(50)
    one = unit_samples("lhs", 1, TWO, 50, rows)
    other = unit_samples("lhs", 2, TWO, 50, rows)
    more = unit_samples("lhs", 1, (*TWO, "load_kg"), 50, rows)
    assert not (one[TWO[0]] == other[TWO[0]]).all()
    assert (one[TWO[0]] == more[TWO[0]]).all()


def test_sobol_rows_are_scipy_s_and_have_an_end():
    rows = np.arange(64)
    cube = unit_samples("sobol", 9, TWO, 64, rows)
    theirs = qmc.Sobol(2, scramble=True, rng=np.random.default_rng(9)).random(64)
    assert (np.column_stack(list(cube.values())) == theirs).all()
    with pytest.raises(CaseError, match="Sobol gives at most 1073741824"):
        unit_samples("sobol", 9, TWO, 2**31, rows)
