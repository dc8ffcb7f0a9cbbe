"""Effort on the bench: one sentence under the load, gauges at the tiles, nothing where it would mislead."""

import pytest
from hands import settle
from PySide6.QtWidgets import QApplication

from zesty_lever.bench import edits


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
    assert "the pad comes first" not in told(window) or "pad" in told(window)


@pytest.mark.parametrize("mode", ["dynamic"])
def test_nothing_is_told_where_it_would_mislead(window, mode):
    settle(window, lambda: told(window) not in ("", "…"))
    window.session.do(edits.change_setup, "moving", mode=mode)
    settle(window, lambda: window.bench.demand.board._effort is None)
    QApplication.processEvents()
    assert "use of what" not in window.bench.demand.board.spoken()
    assert told(window) == "…"
