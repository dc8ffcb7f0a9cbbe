"""Statics and dynamics against MuJoCo, a second general-purpose engine. Slow: `make test-slow`.

The engine's model is built from the raw tables and the angles (`engine_chain`), never from our positions.
"""

import mujoco
import numpy as np
import pytest
from engine_cases import random_cases
from engine_chain import bare_chain, build_chain
from engine_motion import our_moments

from builders import case_of
from zesty_lever.analysis import analyse
from zesty_lever.exercises.catalogue import catalogue
from zesty_lever.joints import JOINTS

pytestmark = pytest.mark.slow
# A body of this engine may not be without inertia: so much (kg m^2) is added about every axis.
LEAST_INERTIA = 1e-9


def xml_of(chain):
    """The chain as an MJCF text, bodies nested as the joints are, all frames unturned at rest."""
    model = chain.model
    children = {
        i: [k for k in range(1, model.njoints) if model.parents[k] == i]
        for i in range(model.njoints)
    }

    def numbers(values):
        return " ".join(f"{v:.17g}" for v in np.ravel(values))

    def body(index):
        place, own = model.jointPlacements[index].translation, model.inertias[index]
        turning = own.inertia + LEAST_INERTIA * np.eye(3)
        full = [
            turning[0, 0],
            turning[1, 1],
            turning[2, 2],
            turning[0, 1],
            turning[0, 2],
            turning[1, 2],
        ]
        name = model.names[index]
        kind = (
            f'<freejoint name="{name}"/>' if index == 1 else f'<joint name="{name}" type="ball"/>'
        )
        inside = "".join(body(k) for k in children[index])
        return (
            f'<body name="{name}" pos="{numbers(place)}">{kind}<inertial pos="{numbers(own.lever)}" '
            f'mass="{own.mass:.17g}" fullinertia="{numbers(full)}"/>{inside}</body>'
        )

    return (
        f'<mujoco><compiler angle="radian" boundmass="0" boundinertia="0"/>'
        f'<option gravity="0 -9.80665 0"/><worldbody>{body(1)}</worldbody></mujoco>'
    )


def engine_moments(chain, place, v, a):
    """Moments (N m, world axes) that each joint's parent exerts on its child, root force included."""
    model = mujoco.MjModel.from_xml_string(xml_of(chain))
    data = mujoco.MjData(model)
    quaternions = [np.roll(q, 1) for q in chain.q]  # x y z w here, w x y z there
    data.qpos[:] = np.concatenate([place, *quaternions])
    turned = chain.turned[1]
    # The root's speed is local here and along the world's axes there; its acceleration classical there.
    linear = turned @ (a[:3] + np.cross(v[3:6], v[:3]))
    data.qvel[:] = np.concatenate([turned @ v[:3], v[3:]])
    data.qacc[:] = np.concatenate([linear, a[3:]])
    mujoco.mj_inverse(model, data)
    force = data.qfrc_inverse.copy()
    for joint, push, point in chain.pushes:
        applied = np.zeros(model.nv)
        name = mujoco.mj_name2id(model, mujoco.mjtObj.mjOBJ_BODY, chain.model.names[joint])
        mujoco.mj_applyFT(model, data, push, np.zeros(3), point, name, applied)
        force -= applied
    moments = {}
    for index in range(2, chain.model.njoints):
        name = chain.model.names[index]
        first = model.jnt_dofadr[mujoco.mj_name2id(model, mujoco.mjtObj.mjOBJ_JOINT, name)]
        moments[name] = chain.turned[index] @ force[first : first + 3]
    return moments, force[:6]


@pytest.mark.parametrize("name", list(catalogue()))
def test_statics_agree_with_mujoco(name):
    """Random athletes and settings of every variation, every tenth frame: 1e-6 of the largest moment."""
    compared = 0
    for case in random_cases(name, 24, seed=100 + len(name)):
        result = analyse(case)
        if result.error:
            continue
        for frame in range(0, result.frames, 10):
            chain, place = build_chain(result, frame)
            nothing = np.zeros(chain.model.nv)
            theirs, root = engine_moments(chain, place, nothing, nothing)
            size = max(np.linalg.norm(m) for m in theirs.values())
            for joint, moment in theirs.items():
                ours = result.shown.moments.vector[:, JOINTS.index(joint), frame]
                assert ours == pytest.approx(moment, abs=1e-6 * size), (joint, case.settings)
            assert np.abs(root).max() < 1e-6 * size
            compared += 1
    assert compared >= 12


@pytest.mark.parametrize("name", list(catalogue()))
def test_dynamics_agree_with_mujoco(name):
    """Random speeds and accelerations of every joint at six moments of every variation: 1e-6 relative."""
    random = np.random.default_rng(11)
    result = analyse(case_of(name, None))
    for frame in (0, 9, 19, 30, 41, 60):
        chain, place = bare_chain(result, frame)
        v, a = random.normal(0, 2.0, chain.model.nv), random.normal(0, 8.0, chain.model.nv)
        ours = our_moments(result, frame, chain, place, v, a)
        theirs, _ = engine_moments(chain, place, v, a)
        size = max(np.abs(m).max() for m in theirs.values())
        for row, joint in enumerate(JOINTS):
            assert ours[:, row, 0] == pytest.approx(theirs[joint], abs=1e-6 * size), (name, joint)


def test_the_engines_agree_with_each_other():
    """The reading of one chain by both engines: moments to 1e-9 of the largest."""
    result = analyse(case_of("split-squat", None))
    chain, place = build_chain(result, result.timeline.bottom)
    nothing = np.zeros(chain.model.nv)
    one, _ = chain.torques(place)
    two, _ = engine_moments(chain, place, nothing, nothing)
    size = max(np.linalg.norm(m) for m in one.values())
    for joint, moment in one.items():
        assert two[joint] == pytest.approx(moment, abs=1e-9 * size)
