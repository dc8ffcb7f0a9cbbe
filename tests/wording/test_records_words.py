"""Sentences about what joints got."""

import numpy as np
import pytest

from zesty_lever.log.exposure import COUNTED, Exposure
from zesty_lever.wording.records import exposure_words, impulse_words

GAP = "\N{NO-BREAK SPACE}"


@pytest.mark.parametrize(
    ("impulse", "words"),
    [
        (506.2, f"506{GAP}N·m·s"),
        (26_828.0, f"26{GAP}828{GAP}N·m·s"),
        (1_234_567.0, f"1{GAP}234{GAP}567{GAP}N·m·s"),
    ],
)
def test_an_impulse_stays_on_one_line_with_its_unit(impulse, words):
    assert impulse_words(impulse) == words


@pytest.mark.parametrize("hip", [506.0, 26_828.0])
def test_a_sum_tells_every_joint_alike(hip):
    """Small sums had lost their comma."""
    own = np.full(len(COUNTED), hip)
    words = exposure_words(Exposure(extensor_Nms=own))
    assert words.startswith(f"Hip {impulse_words(hip)}, 0 hard; knee ")
