"""Effort on the bench: one sentence under the load, gauges at the tiles, nothing where it would mislead."""

from types import SimpleNamespace

import pytest
from hands import settle

from zesty_lever.bench import edits
from zesty_lever.ui.paint.tiles import difference_text


def told(window):
    return window.bench.panel.loads.effort.text()


def test_how_hard_it_is_stands_under_the_load_and_at_the_tiles(window):
    """The sentence names the joint, the interval and what it rests on; a heavier bar uses more; the board
    speaks it too."""
    settle(window, lambda: told(window) not in ("", "…"))
    words = told(window)
    assert words.startswith("Uses about ")
    assert "of what the knee can hold" in words
    assert words.endswith(("best.", "bests."))
    board = window.bench.demand.board
    assert "use of what the joints can hold: hip " in board.spoken()
    before = board._effort.uses["knee"][0]
    light = board.grab().toImage()
    window.session.do(edits.change_setup, "heavier", load_kg=80.0)
    settle(window, lambda: board._effort is not None and board._effort.uses["knee"][0] > before)
    assert board.grab().toImage() != light
    assert told(window) != words


def test_a_lift_never_tested_has_its_best_expected(window):
    window.session.do(edits.set_variation, "hip-thrust")
    settle(window, lambda: "a best of about" in told(window))
    assert "is expected (" in told(window)
    assert " kg to " in told(window)
    window.switch_units()
    assert " lb to " in told(window)
    assert " kg" not in told(window)
    window.switch_units()


@pytest.mark.parametrize("mode", ["dynamic"])
def test_nothing_is_told_where_it_would_mislead(window, mode):
    settle(window, lambda: told(window) not in ("", "…"))
    window.session.do(edits.change_setup, "moving", mode=mode)
    settle(window, lambda: told(window) == "")
    assert "use of what" not in window.bench.demand.board.spoken()
    window.session.history.undo()
    settle(window, lambda: told(window).startswith("Uses about "))


@pytest.mark.parametrize(
    ("peaks", "says"),
    [
        ((100.0, 80.0), "B: −20 N·m (−20 %)"),
        ((-40.0, -50.0), "B: −10 N·m (−25 %)"),
        ((-31.0, 80.0), "B: +111 N·m"),
        ((4.0, 24.0), "B: +20 N·m"),
        ((50.0, 50.2), "B: same"),
    ],
)
def test_a_per_cent_stands_only_where_it_means_something(peaks, says):
    assert difference_text(tuple(SimpleNamespace(peak_Nm=peak) for peak in peaks)) == says


def test_the_athlete_s_screen_says_what_the_bests_mean_and_asks_about_a_slip(window):
    """Strength of each joint with its interval; a deadlift typed as 60 for 160 is asked about, in the units in use."""
    window.show_screen("Athlete")
    screen, session = window.screen_named("Athlete"), window.session
    settle(window, lambda: screen.said.text().startswith("Estimated strength"))
    assert "knee" in screen.said.text() and "lower back" in screen.said.text()
    assert "right?" not in screen.said.text()
    slip = {"back-squat-high-bar": 130.0, "conventional-deadlift": 60.0}
    session.do(edits.change_athlete, "Best load", best_loads_kg=slip)
    assert screen.said.text() == "…"
    settle(window, lambda: "right?" in screen.said.text())
    assert "Conventional deadlift, 60 kg: less than the others" in screen.said.text()
    window.switch_units()
    assert "Conventional deadlift, 132 lb" in screen.said.text()
    window.switch_units()
    sets = ({"variation": "front-squat", "load_kg": 80.0, "reps": 5, "at_least": True},)
    session.do(edits.change_athlete, "Best load", best_loads_kg={}, bests=sets)
    assert screen.bests.text() == "Front squat: 80.0 kg × 5, more would have gone"
    session.do(edits.change_athlete, "Best load", bests=())
    assert "start light" in screen.bests.text()
    settle(window, lambda: screen.said.text() == "")
