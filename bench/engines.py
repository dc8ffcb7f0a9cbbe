"""Prints our statics and dynamics against a general-purpose engine's loop, and how they scale."""

from __future__ import annotations

import resource
import sys
import time
from collections import deque
from pathlib import Path

import numpy as np
import pinocchio as pin

ROOT = Path(__file__).parents[1]
sys.path[:0] = [str(ROOT / "tests"), str(ROOT / "tests" / "engines")]

from engine_chain import build_chain, joint_of  # noqa: E402

from zesty_lever.analysis import analyse  # noqa: E402
from zesty_lever.cases.batch import make_batch  # noqa: E402
from zesty_lever.cases.parse import case_from  # noqa: E402
from zesty_lever.cases.resolve import resolve  # noqa: E402
from zesty_lever.memory import keep_freed_memory  # noqa: E402
from zesty_lever.physics.contacts import solve_contacts  # noqa: E402
from zesty_lever.physics.forces import gravity_on, on_pieces  # noqa: E402
from zesty_lever.physics.inertia import moving_loads, transverse_inertia  # noqa: E402
from zesty_lever.physics.moments import balancing  # noqa: E402
from zesty_lever.physics.tempo import on_the_way_down  # noqa: E402

CASE = {
    "format": "zesty-lever-case/1",
    "variation": "back-squat-high-bar",
    "load_kg": 60,
    "athlete": {"height_m": 1.78, "mass_kg": 82, "sex": "male"},
    "frames": "none",
}
# Poses worked out at once: what keeps the arrays in the processor's cache.
STATIC_POSES, DYNAMIC_POSES = 2048, 512


def best(call, repeats=7):  # noqa: ANN001, ANN201
    """Shortest seconds of a call: the least disturbed one."""
    seconds = []
    for _ in range(repeats):
        start = time.perf_counter()
        call()
        seconds.append(time.perf_counter() - start)
    return min(seconds)


def engine_call():  # noqa: ANN201
    """One static and one dynamic call of the engine, with two foot forces, as closures."""
    result = analyse(case_from({**CASE, "frames": "rep"}))
    chain, place = build_chain(result, result.timeline.bottom)
    model, data = chain.model, chain.model.createData()
    q = np.concatenate([place, *chain.q])
    zero = np.zeros(model.nv)
    speed, acceleration = np.full(model.nv, 0.1), np.full(model.nv, 0.2)
    contacts = result.solved.ground
    forces = contacts.forces[:, :, result.timeline.bottom].T
    points = contacts.points[:, :, result.timeline.bottom].T
    joints = [model.getJointId(joint_of(s)) for s in contacts.segments]
    worlds = [pin.Force(f, np.cross(p, f)) for f, p in zip(forces, points, strict=True)]
    outside = pin.StdVec_Force()
    for _ in range(model.njoints):
        outside.append(pin.Force.Zero())

    def call(v, a):  # noqa: ANN001, ANN202
        pin.forwardKinematics(model, data, q)
        for joint, world in zip(joints, worlds, strict=True):
            outside[joint] = data.oMi[joint].actInv(world)
        return pin.rnea(model, data, q, v, a, outside)

    def loop(v, a):  # noqa: ANN001, ANN202
        for _ in range(1000):
            call(v, a)

    return lambda: loop(zero, zero), lambda: loop(speed, acceleration)


def for_each(parts) -> None:  # noqa: ANN001
    """Work out every part and keep none."""
    deque(parts, maxlen=0)


def posed(count, frames=1):  # noqa: ANN001, ANN201
    """A batch of squats with settings scattered about the default."""
    random = np.random.default_rng(7)
    batch = make_batch([resolve(case_from(CASE))])
    scattered = {
        key: value + random.normal(0.0, 1.0, (count, 1))
        for key, value in batch.settings.items()
        if key in ("shin_deg", "thigh_deg", "toe_out_deg")
    }
    return batch.varied(settings=scattered), on_the_way_down(np.linspace(1.0, 0.0, frames))


def bench_engines() -> None:
    """Static and dynamic moments of given positions, per pose, against the engine's Python call."""
    still, moving = engine_call()
    random = np.random.default_rng(3)

    def given(count):  # noqa: ANN001, ANN202
        batch, at = posed(count)
        poses = batch.poses(at)
        pose, shape = poses.pose, poses.pose.pelvis_rad.shape
        loads = gravity_on(pose)
        held = solve_contacts(pose, on_pieces(loads, shape), poses.support, "vertical").external()
        return batch.body, pose, loads, held, pose.joints

    def net(joints, loads, contacts):  # noqa: ANN001, ANN202
        shape = joints.shape[2:]
        cuts, _ = on_pieces(loads, shape).answered(contacts)
        return balancing(joints, cuts)

    _, _, loads, contacts, joints = given(STATIC_POSES)
    body, pose, _, pushes, places = given(DYNAMIC_POSES)
    inertia, axes = transverse_inertia(body, pose), np.zeros_like(pose.centres)
    axes[1] = 1.0
    moved = random.normal(0.0, 1.0, pose.centres.shape)
    lifted = random.normal(0.0, 1.0, pose.load_points.shape)

    def dynamic() -> None:
        net(places, moving_loads(pose, inertia, moved, lifted, axes, moved), pushes)

    rows = (
        ("static moments", lambda: net(joints, loads, contacts), STATIC_POSES, still, 40),
        ("dynamic moments", dynamic, DYNAMIC_POSES, moving, 5),
    )
    for name, ours, count, theirs, aim in rows:
        mine, engine = best(ours, 30) / count, best(theirs) / 1000
        print(
            f"{name:<22} {1e6 * mine:6.2f} us a pose   engine call {1e6 * engine:5.2f} us   "
            f"{engine / mine:5.1f} times as fast   aim >= {aim}"
        )
    many, at = posed(100_000)
    engine = best(still) / 1000
    whole = best(lambda: for_each(many.in_parts(at)), 3) / 100_000
    print(
        f"settings to moments    {1e6 * whole:6.2f} us a pose   engine call {1e6 * engine:5.2f} us   "
        f"{engine / whole:5.2f} times as fast   bar 2.5, aim 4"
    )
    one, along = posed(1, 121)
    print(
        f"one rep of 121 frames  {1e3 * best(lambda: for_each(one.in_parts(along)), 20):6.2f} ms   aim < 5 ms"
    )
    reps, along = posed(10_000, 31)
    seconds = best(lambda: for_each(reps.in_parts(along)), 1)
    print(f"10,000 reps of 31 frames {seconds:4.1f} s   ({1e6 * seconds / 310_000:.1f} us a pose)")


def bench_growth() -> None:
    """Time and peak memory from one to a million poses."""
    for count in (1, 100, 10_000, 1_000_000):
        batch, at = posed(count)
        start = time.perf_counter()
        feasible = sum(int(part.feasible.sum()) for part in batch.in_parts(at))
        assert feasible > 0.9 * count
        seconds = time.perf_counter() - start
        peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
        print(
            f"{count:>9} poses         {seconds:8.3f} s   {1e6 * seconds / count:9.2f} us a pose   "
            f"peak memory {peak:5.0f} MB"
        )


if __name__ == "__main__":
    keep_freed_memory()
    bench_engines()
    bench_growth()
