"""Rows of numbers are those of `analyse`, alone and among others, bit for bit."""

from __future__ import annotations

import random

import numpy as np
import pytest
from studies import design

from frozen import frozen_cases
from zesty_lever.analysis import analyse, analyse_many
from zesty_lever.joints import JOINTS
from zesty_lever.study import child, solving
from zesty_lever.study.columns import QUANTITIES, RESULTS
from zesty_lever.study.solving import rows_of


def numbers_of(result):
    summary = result.summary
    joints = [getattr(summary[joint], name) for joint in JOINTS for name in QUANTITIES]
    disc = result.solved.disc
    shear = disc.shear_N[np.argmax(np.abs(disc.shear_N))]
    return [*joints, disc.compression_N.max(), shear]


@pytest.mark.slow
@pytest.mark.parametrize("mode", ["static", "dynamic"])
def test_every_variation_gives_the_same_row_alone_together_and_by_the_door(mode, monkeypatch):
    """All variations, builds and stances of one mode, shuffled, in batches of two sizes."""
    cases = [case for names, case in frozen_cases() if names[2] == mode]
    random.Random(mode).shuffle(cases)
    together = rows_of(cases)
    monkeypatch.setattr(solving, "TOGETHER", 3)
    in_threes = rows_of(cases)
    by_the_door = analyse_many(cases)
    for case, row, few, result in zip(cases, together, in_threes, by_the_door, strict=True):
        assert row.problem_code == few.problem_code == result.problem_code, case
        np.testing.assert_array_equal(row.values, few.values)
        assert row.case == result.case
        if result.feasible:
            assert list(row.values) == numbers_of(result), case
            assert (row.note in result.assumptions) == bool(row.note)
    seen = set()
    for case, row in zip(cases, together, strict=True):
        if (case.variation, bool(case.settings)) not in seen:
            seen.add((case.variation, bool(case.settings)))
            np.testing.assert_array_equal(row.values, rows_of([case])[0].values)


def test_builds_of_one_study_are_those_of_single_cases():
    """Random builds, many of whose defaults have to be eased: what a study writes is what solve says."""
    made = design()
    values = made.inputs.values(np.arange(made.rows))
    cases = made.reader.cases(values, made.rows)
    rows = rows_of(cases)
    assert 0 < sum(not row.problem_code for row in rows) < len(rows)
    for case, row in list(zip(cases, rows, strict=True))[::5]:
        result = analyse(case)
        assert row.problem_code == result.problem_code
        if result.feasible:
            assert list(row.values) == numbers_of(result)


def test_a_case_that_raises_stands_alone_and_the_others_are_worked_out(monkeypatch):
    made = design(samples=40)
    cases = made.reader.cases(made.inputs.values(np.arange(40)), 40)
    sound = child.outcomes_of(cases)
    rows = solving.rows_of

    def poisoned(given):
        if cases[17] in given:
            raise ZeroDivisionError("the hip is nowhere")
        return rows(given)

    monkeypatch.setattr(solving, "rows_of", poisoned)
    found = child.outcomes_of(cases)
    assert found.problems[17] == "crashed"
    assert found.notes[17] == "ZeroDivisionError: the hip is nowhere"
    others = [index for index in range(40) if index != 17]
    assert [found.problems[i] for i in others] == [sound.problems[i] for i in others]
    np.testing.assert_array_equal(found.results[others], sound.results[others])
    assert found.results.shape == (40, len(RESULTS)) and np.isnan(found.results[17]).all()
