"""Bars and discs. Sizes: weightlifting technical rules, value from memory."""

from itertools import product

import pytest

from zesty_lever.coaching.gym import Gym, bars, load_bar, usual_discs, usual_gym
from zesty_lever.problems import CaseError

BAR = bars()["20 kg bar"]


def test_a_hundred_kilograms():
    """20 kg bar, 100 kg: 40 kg a side from the fewest discs; on 450 mm discs the bar is at 22.5 cm."""
    loading = load_bar(100, BAR, usual_discs())
    assert sum(loading.side) == 40
    assert len(loading.side) == 2
    assert loading.off_kg == 0
    assert loading.bar_height_m == pytest.approx(0.225)
    assert load_bar(30, BAR, {5: 1}).bar_height_m == pytest.approx(0.115)


def test_the_nearest_load_is_found():
    """Against trying every combination of a few pairs by hand."""
    pairs = {20.0: 1, 10.0: 1, 5.0: 1, 2.5: 2}
    every = {
        20 + 2 * sum(m * n for m, n in zip(pairs, use, strict=True))
        for use in product(*(range(n + 1) for n in pairs.values()))
    }
    for wanted in (20, 21, 33.3, 47, 61, 99, 100, 140):
        nearest = min(every, key=lambda kg: (abs(kg - wanted), kg))
        assert load_bar(wanted, BAR, pairs).total_kg == pytest.approx(nearest)


def test_what_can_t_be_loaded_is_refused():
    """Less than the bar, or a disc of unknown size: an error that names value and unit."""
    with pytest.raises(CaseError, match="20 kg bar alone"):
        load_bar(15, BAR, usual_discs())
    with pytest.raises(CaseError, match="7 kg"):
        load_bar(60, BAR, {7.0: 1})


def test_the_bar_follows_the_load_and_what_there_is():
    """The heaviest straight bar that is not too heavy; the one in use if it can be; the hex bar for its own lifts."""
    gym = usual_gym()
    assert [gym.bar_for("back-squat-high-bar", kg).name for kg in (60, 18, 12)] == [
        "20 kg bar",
        "15 kg bar",
        "10 kg bar",
    ]
    assert gym.bar_for("back-squat-high-bar", 8) is None
    assert Gym(gym.bars, gym.pairs, "15 kg bar").loading("front-squat", 60).side == (20.0, 2.5)
    assert Gym(gym.bars, gym.pairs, "20 kg bar").bar_for("front-squat", 17).name == "15 kg bar"
    assert gym.bar_for("hex-bar-deadlift", 60).name == "hex bar"
    assert Gym(("20 kg bar",), gym.pairs).loading("hex-bar-deadlift", 60) is None


@pytest.mark.parametrize(
    ("make", "words"),
    [
        (lambda: Gym(("golden bar",), {}), "golden bar"),
        (lambda: Gym((), {20.0: 30}), "0 to 20"),
        (lambda: Gym((), {7.0: 1}), "7 kg"),
        (lambda: Gym((), {}, "none such"), "none such"),
    ],
)
def test_a_gym_with_what_no_gym_has_is_refused(make, words):
    """The bar, the disc or the number is named."""
    with pytest.raises(CaseError, match=words):
        make()
