"""Moves the product's segments as an engine moves its bodies, and gives the product's net moments for it."""

from collections.abc import Mapping
from dataclasses import fields

import numpy as np
import pinocchio as pin
from engine_chain import joint_of

from zesty_lever.physics.body import SEGMENTS, build_body
from zesty_lever.physics.forces import on_pieces
from zesty_lever.physics.inertia import long_axes, moving_loads, transverse_inertia
from zesty_lever.physics.moments import balancing


def at(pose, frame):
    """One frame of a pose, with a frame axis of one."""
    taken = {}
    for name in (field.name for field in fields(pose)):
        value = getattr(pose, name)
        if isinstance(value, np.ndarray):
            taken[name] = value[..., frame : frame + 1]
        elif isinstance(value, Mapping):
            taken[name] = {k: v[..., frame : frame + 1] for k, v in value.items()}
        else:
            taken[name] = value
    return type(pose)(**taken)


def joint_moves(chain, data, joint, point):
    """Acceleration (m/s^2) of a point that moves with a joint's child, its turning speed and spin."""
    at = data.oMi[joint]
    speed, spin = at.rotation @ data.v[joint].angular, at.rotation @ data.a[joint].angular
    base = pin.getClassicalAcceleration(chain.model, data, joint, pin.LOCAL_WORLD_ALIGNED).linear
    arm = point - at.translation
    return base + np.cross(spin, arm) + np.cross(speed, np.cross(speed, arm)), speed, spin


def moved_like(chain, place, pose, axes, v, a):
    """What the engine's kinematics make of our segments: accelerations of centres, axes and loads."""
    data = chain.model.createData()
    pin.forwardKinematics(chain.model, data, np.concatenate([place, *chain.q]), v, a)
    moving, bending = np.zeros_like(pose.centres), np.zeros_like(pose.centres)
    for i, segment in enumerate(SEGMENTS):
        joint = chain.model.getJointId(joint_of(segment))
        moving[:, i, 0], speed, spin = joint_moves(chain, data, joint, pose.centres[:, i, 0])
        u = axes[:, i, 0]
        bending[:, i, 0] = np.cross(spin, u) + np.cross(speed, np.cross(speed, u))
    carried = np.zeros_like(pose.load_points)
    for i, segment in enumerate(pose.load_segments):
        joint = chain.model.getJointId(joint_of(segment))
        carried[:, i, 0] = joint_moves(chain, data, joint, pose.load_points[:, i, 0])[0]
    return moving, carried, bending


def our_moments(result, frame, chain, place, v, a):
    """Net moments of the product at one frame moved as the engine moves, contacts left out."""
    athlete = result.case.athlete
    body = build_body(
        np.array([[athlete.sex]]), np.array([[athlete.height_m]]), np.array([[athlete.mass_kg]])
    )
    pose = at(result.shown.pose, frame)
    axes, inertia = long_axes(pose), transverse_inertia(body, pose)
    moving, carried, bending = moved_like(chain, place, pose, axes, v, a)
    loads = moving_loads(pose, inertia, moving, carried, axes, bending)
    return balancing(pose.joints, on_pieces(loads, pose.pelvis_rad.shape).beyond_cuts)
