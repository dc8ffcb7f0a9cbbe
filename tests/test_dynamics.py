"""Dynamics: the same pass with inertia, against Pinocchio at random speeds and accelerations."""

import numpy as np
import pinocchio as pin
import pytest

from builders import case_of, extension, solve
from zesty_lever.analysis import analyse
from zesty_lever.body import SEGMENTS, build_body
from zesty_lever.exercises.catalogue import catalogue
from zesty_lever.mechanics.dynamics import (
    long_axes,
    moving_loads,
    second_derivative,
    transverse_inertia,
)
from zesty_lever.mechanics.inverse import BEYOND, net_moments
from zesty_lever.motion.pose import JOINTS
from zesty_lever.motion.rep import timeline


def at(pose, frame):
    """One frame of a pose, with a frame axis of one."""
    taken = {}
    for name, value in vars(pose).items():
        if isinstance(value, np.ndarray):
            taken[name] = value[..., frame : frame + 1]
        elif isinstance(value, dict):
            taken[name] = {k: v[..., frame : frame + 1] for k, v in value.items()}
        else:
            taken[name] = value
    return type(pose)(**taken)


PARENTS = {"pelvis": None, "lumbosacral": "pelvis",
           **{f"hip_{s}": "pelvis" for s in ("left", "right")},
           **{f"knee_{s}": f"hip_{s}" for s in ("left", "right")},
           **{f"ankle_{s}": f"knee_{s}" for s in ("left", "right")}}  # fmt: skip


def joint_of(segment):
    """The joint whose far side a segment first belongs to."""
    near = {"pelvis": "pelvis"}
    for side in ("left", "right"):
        near |= {f"thigh_{side}": f"hip_{side}", f"shank_{side}": f"knee_{side}",
                 f"foot_{side}": f"ankle_{side}"}  # fmt: skip
    return near.get(segment, "lumbosacral")


def engine(pose, inertia, axes):
    """Pinocchio tree of spherical joints, all frames parallel to the world, one body a segment."""
    model = pin.Model()
    model.gravity.linear = np.array([0.0, -9.80665, 0.0])
    place = {"pelvis": pose.points["hip_mid"][:, 0], **{j: pose.points[j][:, 0] for j in JOINTS}}
    index = {}
    for name, parent in PARENTS.items():
        kind = pin.JointModelFreeFlyer() if parent is None else pin.JointModelSpherical()
        where = place[name] - place[parent] if parent else np.zeros(3)
        index[name] = model.addJoint(index[parent] if parent else 0, kind,
                                     pin.SE3(np.eye(3), where), name)  # fmt: skip
    for i, segment in enumerate(SEGMENTS):
        joint = joint_of(segment)
        u = axes[:, i, 0]
        turning = inertia[i, 0] * (np.eye(3) - np.outer(u, u))
        centre = pose.centres[:, i, 0] - place[joint]
        body = pin.Inertia(float(pose.masses[i, 0]), centre, turning)
        model.appendBodyToJoint(index[joint], body, pin.SE3.Identity())
    for i, segment in enumerate(pose.load_segments):
        joint = joint_of(segment)
        mass = pin.Inertia(float(pose.load_masses[i, 0]), pose.load_points[:, i, 0] - place[joint],
                           np.zeros((3, 3)))  # fmt: skip
        model.appendBodyToJoint(index[joint], mass, pin.SE3.Identity())
    return model, index, place


@pytest.mark.parametrize("name", ["back-squat-high-bar", "goblet-squat", "split-squat", "step-up",
                                  "romanian-deadlift", "sumo-deadlift", "hip-thrust",
                                  "single-leg-glute-bridge"])  # fmt: skip
def test_moving_loads_agree_with_pinocchio(name):
    """Random speeds (rad/s) and accelerations (rad/s^2) of every joint: net moments to 1e-6 relative.

    The engine's own kinematics give each segment's acceleration, so the check is of the pass itself:
    forces m (g - a), couples - m r^2 u x u'', sums and cuts.
    """
    random = np.random.default_rng(5)
    result = analyse(case_of(name, None))
    body = build_body(np.array([["male"]]), np.array([[1.78]]), np.array([[82.0]]))
    for frame in (0, 11, 22, 30):
        pose = at(result.pose, frame)
        axes, inertia = long_axes(pose), transverse_inertia(body, pose)
        model, index, place = engine(pose, inertia, axes)
        data, q = model.createData(), pin.neutral(model)
        q[:3] = place["pelvis"]
        v, a = random.normal(0, 2.0, model.nv), random.normal(0, 8.0, model.nv)
        pin.forwardKinematics(model, data, q, v, a)

        def moved(point, joint, model=model, data=data, index=index, place=place):
            jid = index[joint]
            speed = data.oMi[jid].rotation @ data.v[jid].angular
            spin = data.oMi[jid].rotation @ data.a[jid].angular
            base = pin.getClassicalAcceleration(model, data, jid, pin.LOCAL_WORLD_ALIGNED).linear
            arm = point - place[joint]
            return base + np.cross(spin, arm) + np.cross(speed, np.cross(speed, arm)), speed, spin

        moving, bending = np.zeros_like(pose.centres), np.zeros_like(pose.centres)
        for i, segment in enumerate(SEGMENTS):
            moving[:, i, 0], speed, spin = moved(pose.centres[:, i, 0], joint_of(segment))
            u = axes[:, i, 0]
            bending[:, i, 0] = np.cross(spin, u) + np.cross(speed, np.cross(speed, u))
        carried = np.zeros_like(pose.load_points)
        for i, segment in enumerate(pose.load_segments):
            carried[:, i, 0] = moved(pose.load_points[:, i, 0], joint_of(segment))[0]
        ours = net_moments(pose, moving_loads(pose, inertia, moving, carried, axes, bending))
        tau = pin.rnea(model, data, q, v, a)
        size = np.abs(tau).max()
        for row, joint in enumerate(JOINTS):
            first = model.idx_vs[index[joint]]
            theirs = tau[first : first + 3]
            # u'' along the engine's angular inertia: I a + w x I w = m r^2 u x u'' for a slender body.
            assert ours[:, row, 0] == pytest.approx(theirs, abs=1e-6 * size), (name, joint)
    assert set(BEYOND) == set(JOINTS)


def test_second_derivative_of_a_minimum_jerk_course():
    """Against the closed form 60 t - 180 t^2 + 120 t^3 (over the duration squared), to 1 % of its peak
    (fourth-order differences on 31 frames); zero in pauses and at the ends."""
    times = timeline((2.0, 1.0, 1.0, 0.5))
    found = second_derivative(times.progress, times)
    down = np.array([p == "down" for p in times.phase])
    t = times.time_s[down] / 2.0
    exact = (60 * t - 180 * t**2 + 120 * t**3) / 4.0
    assert found[down] == pytest.approx(exact, abs=0.01 * np.abs(exact).max())
    for name in ("pause-bottom", "pause-top"):
        assert found[np.array([p == name for p in times.phase])] == pytest.approx(0.0)


@pytest.mark.parametrize("name", list(catalogue()))
def test_slow_reps_tend_to_statics(name):
    """At twelve seconds a phase inertia is next to nothing: peaks within 1 % of the largest one."""
    slow = [12.0, 0.0, 12.0, 0.0]
    still, moving = (solve(name, None, tempo_s=slow, mode=mode) for mode in ("static", "dynamic"))
    most = np.abs(still.moments.extension).max()
    assert moving.moments.extension == pytest.approx(still.moments.extension, abs=0.01 * most)


@pytest.mark.parametrize("name", list(catalogue()))
def test_the_whole_is_balanced_while_moving(name):
    """Closure to rounding in motion too, and the contacts carry weight and inertia together.

    One foot is a point contact without free moment: the small twist about the vertical that a moving
    body has, and that a real foot takes by friction, stays in the closure there (below 1.5 N m).
    Settling onto a box takes time: the trunk stops leaning as the box takes its share.
    """
    tempo = [5.0, 0.5, 5.0, 0.0] if name == "box-squat" else [2.5, 0.5, 2.0, 0.0]
    result = solve(name, None, tempo_s=tempo, mode="dynamic")
    one_foot = len(result.contacts.names) == 1
    assert result.moments.closure.max() < (1.5 if one_foot else 1e-9 * 82 * 9.80665 * 1.78)
    held = result.contacts.forces[1].sum(axis=0)
    masses = np.concatenate([result.pose.masses, result.pose.load_masses])
    pulled = result.load_forces[1, len(result.pose.load_names) :].sum(axis=0)
    # Over a rep that starts and ends at rest, inertia averages to next to nothing.
    assert held.mean() == pytest.approx(9.80665 * masses[:, 0].sum() - pulled.mean(), rel=0.03)


def test_faster_is_harder_and_too_fast_is_refused():
    """A quicker turn at the bottom costs more; half a second down and up takes the feet off the floor."""
    peaks = [
        extension(solve(tempo_s=[t, 0, t, 0], mode="dynamic"), "hip_right", 30) for t in (3.0, 1.5, 0.9)
    ]
    static = extension(solve(tempo_s=[3, 0, 3, 0]), "hip_right", 30)
    assert peaks[0] == pytest.approx(static, rel=0.01)  # at rest in the turn itself
    whole = [np.abs(solve(tempo_s=[t, 0, t, 0], mode="dynamic").moments.extension).max()
             for t in (3.0, 1.5, 0.9)]  # fmt: skip
    assert whole[0] < whole[1] < whole[2]
    error = analyse(case_of(tempo_s=[0.5, 0, 0.5, 0], mode="dynamic")).error
    assert error.code == "tempo"
    assert error.key == "tempo_s"
