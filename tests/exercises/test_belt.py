"""The belt squat: what hangs from the hips is held up with the hands, at every load."""

import pytest

from builders import case_of
from zesty_lever.analysis import analyse_many

BUILDS = [
    (1.55, 52.0, "female"),
    (1.70, 90.0, "female"),
    (1.78, 82.0, "male"),
    (1.98, 130.0, "male"),
]


@pytest.mark.parametrize("school", ["even", "hips-first", "knees-travel"])
def test_every_load_of_its_range_can_be_done_and_the_rail_is_pulled_harder_the_heavier_it_is(
    school,
):
    """All builds, 0 to 250 kg, through the whole rep; nobody pushes the rail away, nobody hangs from it."""
    for height, mass, sex in BUILDS:
        build = {"height_m": height, "mass_kg": mass, "sex": sex}
        cases = [
            case_of("belt-squat", kg, build).changed(school=school)
            for kg in (0.0, 20.0, 65.0, 130.0, 250.0)
        ]
        pulls = []
        for result in analyse_many(cases):
            assert result.feasible, result.error
            pulls.append(float(result.solved.supports.forces[0].sum(axis=0).max()))
        assert pulls == sorted(pulls)
        assert 0.0 < pulls[0] < 60.0
        assert pulls[-1] < 0.35 * 250.0 * 9.81


def test_at_the_top_the_trunk_stands_as_it_would_without_the_belt():
    """The hips carry what hangs from them: 0 and 100 kg differ by less than 5 degrees of trunk."""
    empty, loaded = analyse_many([case_of("belt-squat", kg) for kg in (0.0, 100.0)])
    lean = [float(r.solved.pose.trunk_rad.min()) for r in (empty, loaded)]
    assert abs(lean[0] - lean[1]) < 0.09
    assert loaded.solved.extension("hip_right")[0] > empty.solved.extension("hip_right")[0] + 10.0
