"""Numbers move only on purpose; and a case is the same alone and among others."""

import csv
import random

import pytest

from frozen import TABLE, frozen_cases, row_of
from zesty_lever.analysis import analyse, analyse_many
from zesty_lever.exercises.catalogue import catalogue
from zesty_lever.io.documents import result_document

# A last step of 1e-9 rad under the largest leverage there is, about 1000 N m a radian.
TOLERANCE_NM = 1e-6


def test_peaks_are_those_that_were_frozen():
    """Own earlier results (no outside source), see frozen.py: all variations, modes, stances."""
    with TABLE.open(newline="", encoding="utf-8") as file:
        frozen = list(csv.reader(file))[1:]
    names, cases = zip(*frozen_cases(), strict=True)
    assert [tuple(row[:4]) for row in frozen] == list(names)
    moved = []
    for before, result in zip(frozen, analyse_many(cases), strict=True):
        error, *peaks = row_of(result)
        if error != before[4]:
            moved.append((before[:5], error))
        elif not error:
            gap = max(abs(float(a) - float(b)) for a, b in zip(peaks, before[5:], strict=True))
            if gap > TOLERANCE_NM:
                moved.append((before[:4], gap))
    assert not moved


@pytest.mark.parametrize("part", range(4))
def test_a_case_is_the_same_alone_and_among_others(part):
    """Bit for bit, every number and word of its document: at rest and moving, even and uneven."""
    everybody = [case.changed(frames="bottom") for _, case in frozen_cases()]
    random.Random(part).shuffle(everybody)
    many = analyse_many(everybody)
    seen = set()
    for case, among in zip(everybody, many, strict=True):
        kind = (case.variation, case.mode, bool(case.settings))
        if kind in seen or _part_of(case.variation) != part:
            continue
        seen.add(kind)
        alone = analyse(case)
        assert result_document(alone).as_json() == result_document(among).as_json(), kind
        assert (alone.shown.moments.vector == among.shown.moments.vector).all(), kind
    assert len(seen) >= 2 * (len(catalogue()) // 4)


def _part_of(name):
    return list(catalogue()).index(name) % 4
