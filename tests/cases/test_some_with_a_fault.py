"""Cases with a fault among cases without: the pair without the fault is worked out for the first alone."""

import pytest

from builders import case_of
from zesty_lever.analysis import analyse, analyse_many

TRACKS = (-0.03, 0.0, 0.02, -0.01, 0.0)


@pytest.mark.parametrize("name", ["split-squat", "back-squat-high-bar", "reverse-lunge"])
def test_those_with_a_fault_are_the_same_alone_and_among_others(name):
    cases = [
        case_of(
            name,
            20.0 + 5.0 * at,
            settings={"knee_track_m": track},
            loads=[{"kind": "mass", "place": "trunk", "name": "vest", "mass_kg": 2.0 + at}],
        )
        for at, track in enumerate(TRACKS)
    ]
    for case, among in zip(cases, analyse_many(cases), strict=True):
        alone = analyse(case)
        assert alone.feasible and among.feasible
        for part in ("extension", "vector"):
            ours, theirs = (getattr(r.solved.moments, part) for r in (alone, among))
            assert (ours == theirs).all()
        assert (alone.solved.other_end.extension == among.solved.other_end.extension).all()
