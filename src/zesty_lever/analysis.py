"""The one door to the physics: a case goes in, a result comes out.

Cases of one variation are worked out together as arrays; `analyse_many` groups them.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from zesty_lever.batch import Batch, free_setting, group_key, make_batch
from zesty_lever.body import SEGMENTS, landmark
from zesty_lever.case import Case, CaseError
from zesty_lever.exercises.catalogue import fill
from zesty_lever.exercises.rep import Rep
from zesty_lever.failures import fraction_under, problem_of
from zesty_lever.mechanics.contacts import Contacts, solve_contacts
from zesty_lever.mechanics.dynamics import loads_along
from zesty_lever.mechanics.inverse import (
    External,
    JointMoments,
    disc_forces,
    gravity_on,
    joint_moments,
    wrench_of,
)
from zesty_lever.mechanics.lines import line_forces
from zesty_lever.motion.pose import JOINTS, Pose
from zesty_lever.motion.rep import Timeline, timeline
from zesty_lever.vectors import Array


@dataclass(frozen=True)
class JointSummary:
    """One joint over the rep: peak (N m, signed), where it falls, mean, impulse, lockout share."""

    peak_Nm: float
    at_progress: float
    at_time_s: float
    mean_Nm: float
    impulse_Nms: float
    lockout_to_peak: float


@dataclass(frozen=True)
class Result:
    """What one case gives. Arrays end in the frames axis; see `Pose` and `JointMoments`.

    ``case`` is filled in. ``error`` is set where the pose is impossible; the arrays then end at
    the last of the leading ``frames`` that can be drawn, and are None if there is none.
    """

    case: Case
    timeline: Timeline
    assumptions: tuple[str, ...] = ()
    error: CaseError | None = None
    frames: int = 0
    pose: Pose | None = None
    contacts: Contacts | None = None
    moments: JointMoments | None = None
    load_forces: Array | None = None
    load_points: Array | None = None
    load_names: tuple[str, ...] = ()
    load_segments: tuple[str, ...] = ()
    acceleration: Array | None = None
    disc: Mapping[str, Array] | None = None
    pressure_fraction: Array | None = None
    bottom_deg: Mapping[str, float] | None = None
    summary: Mapping[str, JointSummary] | None = None

    @property
    def feasible(self) -> bool:
        """Whether the whole rep exists."""
        return self.error is None


def analyse(case: Case) -> Result:
    """Work out one case. Raises `CaseError` when it is invalid; an impossible pose is a result."""
    outcome = analyse_many([case])[0]
    if isinstance(outcome, CaseError):
        raise outcome
    return outcome


def analyse_many(cases: Sequence[Case]) -> list[Result | CaseError]:
    """Work out many cases, in their order; an invalid one gives its `CaseError`."""
    outcomes: list[Result | CaseError | None] = [None] * len(cases)
    groups: dict[Any, list[int]] = defaultdict(list)
    filled: list[Case | None] = []
    for index, case in enumerate(cases):
        try:
            whole = fill(case)
        except CaseError as error:
            outcomes[index] = error
            filled.append(None)
            continue
        filled.append(whole)
        groups[group_key(whole)].append(index)
    for members in groups.values():
        batch = make_batch([c for i in members if (c := filled[i]) is not None])
        for index, result in zip(members, _analyse_batch(batch), strict=True):
            outcomes[index] = result
    return [o for o in outcomes if o is not None]


def _analyse_batch(batch: Batch) -> list[Result]:
    times = timeline(batch.cases[0].tempo_s, batch.variation.rep_order)
    rep = batch.rep(times.progress, times.rising)
    rule = batch.cases[0].contact_rule or batch.variation.contact_rule
    with np.errstate(invalid="ignore"):
        loads, acceleration = gravity_on(rep.pose), None
        if batch.cases[0].mode == "dynamic":
            loads, acceleration = loads_along(batch.body, rep.pose, times)
        line_names, pulls = line_forces(batch.body, rep.pose, batch.lines)
        if batch.lines:
            loads = loads.joined(pulls)
        contacts = solve_contacts(rep.pose, wrench_of(loads), loads, rep.support, rule)
        moments = joint_moments(rep.pose, loads, contacts.external())
        disc = disc_forces(rep.pose, moments)
        if acceleration is not None or batch.lines:
            rep = replace(rep, pressure_fraction=fraction_under(rep.pose, contacts))
        summaries = _summaries(moments, times, batch.variation.rep_order)
    return [
        _one_result(
            batch, index, times, rep, contacts, moments, disc, summaries, loads, acceleration,
            line_names,
        )
        for index in range(len(batch.cases))
    ]


def _one_result(
    batch: Batch, index: int, times: Timeline, rep: Rep, contacts: Contacts,
    moments: JointMoments, disc: Mapping[str, Array], summaries: Array, loads: External,
    acceleration: Array | None, line_names: tuple[str, ...],
) -> Result:  # fmt: skip
    case = batch.cases[index]
    error = problem_of(batch, index, rep, contacts)
    frames = int(np.argmin(np.append(rep.solved[index], False)))
    bare = Result(case, times, assumptions_of(case), error)
    if frames == 0:
        return bare
    upto = (index, slice(0, frames))
    summary = None
    if error is None:
        summary = {
            joint: JointSummary(*summaries[:, row, index].tolist())
            for row, joint in enumerate(JOINTS)
        }
    return replace(
        bare,
        frames=frames,
        pose=_take_pose(rep.pose, upto),
        contacts=Contacts(
            contacts.names, contacts.segments, contacts.points[:, :, *upto],
            contacts.forces[:, :, *upto], contacts.pair_N[upto], contacts.share[upto],
        ),
        moments=JointMoments(
            **{name: value[..., *upto] for name, value in vars(moments).items()}
        ),
        load_forces=loads.forces[:, len(SEGMENTS) :, *upto],
        load_points=loads.points[:, len(SEGMENTS) :, *upto],
        load_names=(*rep.pose.load_names, *line_names),
        load_segments=loads.segments[len(SEGMENTS) :],
        acceleration=None if acceleration is None else acceleration[:, :, *upto],
        disc={name: value[upto] for name, value in disc.items()},
        pressure_fraction=rep.pressure_fraction[upto],
        bottom_deg={key: float(value[index]) for key, value in rep.bottom_deg.items()},
        summary=summary,
    )  # fmt: skip


def _take_pose(pose: Pose, upto: tuple[int, slice]) -> Pose:
    """One case's frames out of a batch's pose."""
    shape = (3, *pose.pelvis_rad.shape)
    taken: dict[str, Any] = {}
    for name, value in vars(pose).items():
        if isinstance(value, np.ndarray):
            taken[name] = value[..., *upto]
        elif isinstance(value, dict):
            taken[name] = {k: _one_of(v, shape, upto) for k, v in value.items()}
        else:
            taken[name] = value
    return Pose(**taken)


def _one_of(value: Array, shape: tuple[int, ...], upto: tuple[int, slice]) -> Array:
    if value.ndim == 2:
        return value[upto]
    whole = value if value.shape == shape else np.broadcast_to(value, shape)
    return whole[:, *upto]


def _summaries(moments: JointMoments, times: Timeline, order: str) -> Array:
    """`JointSummary` fields of every joint and case, ``(6, joints, cases)``."""
    steps, value = np.diff(times.time_s), moments.extension
    at = np.argmax(np.abs(np.nan_to_num(value)), axis=-1)
    peak = np.take_along_axis(value, at[..., None], axis=-1)[..., 0]
    impulse = 0.5 * ((value[..., 1:] + value[..., :-1]) @ steps)
    locked = int(np.argmax(times.progress) if order == "bridge" else np.argmin(times.progress))
    lockout = value[..., locked] / np.where(peak == 0.0, 1.0, peak)
    return np.stack([
        peak, times.progress[at], times.time_s[at], impulse / times.time_s[-1], impulse, lockout,
    ])  # fmt: skip


def assumptions_of(case: Case) -> tuple[str, ...]:
    """What the result rests on, in words."""
    measured = ", ".join(sorted(case.athlete.lengths_m)) or "none"
    free = free_setting(case)
    solved = f"{free} solved by balance" if free else "all angles given, pressure point reported"
    return (
        f"contact rule: {case.contact_rule}; friction coefficient "
        f"{landmark('friction_coefficient'):g}",
        "statics: no acceleration at any moment of the rep" if case.mode == "static"
        else "dynamics: inertia of segments and loads at the tempo; slender segments",
        f"segment masses: de Leva 1996 ({case.athlete.sex}); measured lengths: {measured}",
        solved,
        f"low back: one extensor at {100 * landmark('extensor_arm_m'):g} cm, disc plane "
        f"{landmark('disc_slope_standing_deg'):g} deg forward-down when the pelvis is upright",
        f"lumbar flexion begins where the hips run out "
        f"({case.athlete.limit_deg('hip_flexion'):g} deg); the first "
        f"{landmark('ordinary_lumbar_flexion_deg'):g} deg are ordinary, more is rounding",
    )
