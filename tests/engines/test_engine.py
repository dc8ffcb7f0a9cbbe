"""Static joint moments against Pinocchio, a general-purpose rigid-body engine."""

import numpy as np
import pytest
from engine_cases import random_cases
from engine_chain import build_chain

from zesty_lever.analysis import analyse
from zesty_lever.exercises.catalogue import catalogue
from zesty_lever.joints import JOINTS

POSES_A_VARIATION = 16


@pytest.mark.parametrize("name", list(catalogue()))
def test_moments_agree_with_pinocchio(name):
    """Every joint to 1e-6 of the largest moment, at the bottom and at a random moment.

    The engine's own root force must vanish too: the pose is in balance by its reckoning.
    """
    compared = 0
    for number, case in enumerate(random_cases(name, POSES_A_VARIATION, seed=len(name))):
        result = analyse(case)
        if result.error:
            continue
        for frame in (result.timeline.bottom, (7 * number) % result.frames):
            chain, place = build_chain(result, frame)
            theirs, root_force = chain.torques(place)
            size = max(np.linalg.norm(m) for m in theirs.values())
            for joint, moment in theirs.items():
                ours = result.shown.moments.vector[:, JOINTS.index(joint), frame]
                assert ours == pytest.approx(moment, abs=1e-6 * size), (joint, case.settings)
            assert np.abs(root_force).max() < 1e-6 * size
            compared += 1
    assert compared >= POSES_A_VARIATION // 2  # a quarter of the random poses exist at least
