"""Numbers move only on purpose; and a case is the same alone and among others."""

import csv
import random

import pytest

from frozen import TABLE, frozen_cases, row_of
from zesty_lever.analysis import analyse, analyse_many
from zesty_lever.cases import batch
from zesty_lever.exercises import pull, split_bottom
from zesty_lever.exercises.catalogue import catalogue
from zesty_lever.io.documents import result_document
from zesty_lever.physics import iterate, legs

# At rest; in motion the last digit of an angle is felt a million times: a step of a few hundredths of a second, squared.
TOLERANCE_NM = {"static": 1e-9, "dynamic": 1e-8}


def gap_of(row, other):
    """The largest difference of two rows' peaks, N m."""
    return max(abs(float(a) - float(b)) for a, b in zip(row, other, strict=True))


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
        elif not error and (gap := gap_of(peaks, before[5:])) > TOLERANCE_NM[before[2]]:
            moved.append((before[:4], gap))
    assert not moved


def test_searches_go_on_until_nothing_moves(monkeypatch):
    """With every search run down to rounding the same peaks come out."""
    names, cases = zip(*frozen_cases(), strict=True)
    usual = [row_of(result) for result in analyse_many(cases)]
    for search in (iterate.secant_root, iterate.broyden_pair, iterate.find_increasing_root):
        monkeypatch.setitem(search.__kwdefaults__, "tolerance", 1e-13)
    monkeypatch.setitem(iterate.root_by_looks.__kwdefaults__, "tolerance", 1e-13)
    monkeypatch.setattr(legs, "TOLERANCE", 1e-13)
    monkeypatch.setattr(split_bottom, "PATH_TOLERANCE", 1e-13)
    monkeypatch.setattr(pull, "CHAIN_TOLERANCE", 1e-13)
    monkeypatch.setattr(batch, "LINE_TOLERANCE_M", 1e-13)
    short = []
    for name, before, result in zip(names, usual, analyse_many(cases), strict=True):
        error, *peaks = row_of(result)
        assert error == before[0]
        if not error and (gap := gap_of(peaks, before[1:])) > TOLERANCE_NM[name[2]]:
            short.append((name, gap))
    assert not short


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
