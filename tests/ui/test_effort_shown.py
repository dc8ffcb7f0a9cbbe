"""Effort on the bench: one sentence under the load, gauges at the tiles, nothing where it would mislead."""

from types import SimpleNamespace

import pytest
from hands import click, settle
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

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
    panel, session = window.screen_named("Athlete").bests, window.session
    settle(window, lambda: panel.said.text().startswith("Estimated strength"))
    assert "knee" in panel.said.text() and "lower back" in panel.said.text()
    assert "right?" not in panel.said.text()
    slip = {"back-squat-high-bar": 130.0, "conventional-deadlift": 60.0}
    session.do(edits.change_athlete, "Best load", best_loads_kg=slip)
    assert panel.said.text() == "…"
    settle(window, lambda: "right?" in panel.said.text())
    assert "Conventional deadlift, 60 kg: less than the others" in panel.said.text()
    window.switch_units()
    assert "Conventional deadlift, 132 lb" in panel.said.text()
    window.switch_units()


def test_sets_are_kept_as_they_were_done_and_taken_off_again(window):
    """Eighty for five with more left; a single beside it; Delete takes one off, undo brings it back."""
    window.show_screen("Athlete")
    panel, session = window.screen_named("Athlete").bests, window.session
    settle(window, lambda: panel.bars.rows)
    assert "knee" in panel.bars.accessibleName()
    assert "Worth testing next: conventional deadlift" in panel.said.text()
    panel.lift.setCurrentIndex(panel.lift.findData("front-squat"))
    panel.done.spin.setValue(60.0)
    panel.reps.setValue(5)
    panel.more.setChecked(True)
    click(panel, "Keep")
    (best,) = session.bench.athlete.bests
    assert (best.load_kg, best.reps, best.at_least) == (60.0, 5, True)
    assert panel.list.item(1).text() == "Front squat: 60.0 kg × 5, more would have gone"
    panel.list.setFocus()
    panel.list.setCurrentRow(0)
    QTest.keyClick(panel.list, Qt.Key.Key_Delete)
    assert session.bench.athlete.best_loads_kg == {}
    session.history.undo()
    assert session.bench.athlete.best_loads_kg == {"back-squat-high-bar": 85.0}
    session.do(edits.change_athlete, "Best load", best_loads_kg={}, bests=())
    settle(window, lambda: "start light" in panel.said.text())
    assert not panel.bars.isVisible()


def test_measured_strength_is_taken_in_and_forgotten(window, tmp_path):
    """A gauge's table replaces the knee's; a spoilt one is said, and nothing changes."""
    window.show_screen("Athlete")
    panel, session = window.screen_named("Athlete").bests, window.session
    table = tmp_path / "knee.csv"
    table.write_text("joint,angle_deg,load_kg,lever_m\nknee,60,60,0.35\nknee,90,57,0.35\n")
    panel.take_curves(table)
    assert panel.curves.text() == "Measured: knee 60 to 90°."
    settle(window, lambda: panel.bars.rows)
    assert panel.bars.rows["knee"][0] > 1.04
    table.write_text("joint,angle_deg,moment_Nm\nelbow,60,200\n")
    panel.take_curves(table)
    assert "joint is elbow" in window.message.text()
    click(panel, "Forget")
    assert session.bench.athlete.strength_curves == {}


def test_the_rep_strip_draws_how_much_is_used_and_the_hard_zone(window):
    """Once known the strip changes and says where it is hard; in motion it is not drawn."""
    strip = window.bench.strip
    plain = strip.grab().toImage()
    settle(window, lambda: strip.told is not None)
    assert strip.grab().toImage() != plain
    assert "hard zone from" in strip.spoken.accessibleName()
    window.session.do(edits.change_setup, "moving", mode="dynamic")
    settle(window, lambda: strip.told is None)
    assert "hard zone" not in strip.spoken.accessibleName()
