"""The one plot: round ticks, values to pixels and back, the nearest mark."""

from itertools import pairwise

import numpy as np
import pytest
from PySide6.QtCore import QPointF, QRectF

from zesty_lever.ui.kit.plot import Axes, Axis, nearest, nice_step


@pytest.mark.parametrize(("low", "high"), [(0.0, 7.0), (73.2, 124.0), (-40.0, 310.0), (98.0, 99.5)])
@pytest.mark.parametrize("most", [4.0, 9.0])
def test_ticks_are_round_even_and_inside(low, high, most):
    found = Axis(low, high).ticks(most)
    assert 1 <= len(found) <= most + 1
    assert all(low - 1e-9 <= v <= high + 1e-9 for v in found)
    steps = {round(b - a, 9) for a, b in pairwise(found)}
    assert len(steps) <= 1
    for step in steps:
        mantissa = step / 10.0 ** np.floor(np.log10(step) + 1e-9)
        assert round(mantissa, 6) in {1.0, 2.0, 5.0}
    assert nice_step(0.3) == 0.5


def test_values_to_pixels_and_back():
    axes = Axes(QRectF(50, 10, 200, 100), Axis(-1.0, 3.0), Axis(0.0, 50.0))
    assert axes.at(-1.0, 0.0) == QPointF(50, 110)
    assert axes.at(3.0, 50.0) == QPointF(250, 10)
    assert axes.values(axes.at(0.7, 12.0)) == pytest.approx((0.7, 12.0))
    assert axes.values(QPointF(-500, 500)) == (-1.0, 0.0)
    line = axes.curve(np.array([-1.0, 3.0]), np.array([0.0, 50.0]))
    assert [line.at(0), line.at(1)] == [QPointF(50, 110), QPointF(250, 10)]


def test_the_nearest_mark_within_reach():
    spots = [QPointF(0, 0), QPointF(10, 0)]
    assert nearest(spots, QPointF(8, 1), 5.0) == 1
    assert nearest(spots, QPointF(100, 0), 5.0) is None
    assert nearest([], QPointF(0, 0), 5.0) is None
