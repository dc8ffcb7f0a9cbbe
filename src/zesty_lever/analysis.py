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
from zesty_lever.exercises.catalogue import fill, variation
from zesty_lever.exercises.rep import Rep
from zesty_lever.failures import fraction_under, problem_of
from zesty_lever.mechanics.contacts import OTHER_RULE, Contacts, solve_contacts
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

# Both ends of the contact rule are shown from this share of the largest peak on.
ENDS_DIFFER = 0.03
# Builders whose pressure point lies along a foot that stands on the floor.
ON_FEET = ("level", "split", "pull")


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
    ``other_extension`` ``(joints, frames)`` N m is what the other contact rule gives, where asked.
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
    other_extension: Array | None = None

    @property
    def feasible(self) -> bool:
        """Whether the whole rep exists."""
        return self.error is None


def analyse(case: Case, *, both_ends: bool = False, advise: bool = True) -> Result:
    """Work out one case. Raises `CaseError` when it is invalid; an impossible pose is a result."""
    outcome = analyse_many([case], both_ends=both_ends, advise=advise)[0]
    if isinstance(outcome, CaseError):
        raise outcome
    return outcome


def analyse_many(
    cases: Sequence[Case], *, both_ends: bool = False, advise: bool = True
) -> list[Result | CaseError]:
    """Work out many cases, in their order; an invalid one gives its `CaseError`.

    With ``both_ends`` the moments under the other contact rule are worked out as well. Without
    ``advise`` an impossible pose is not searched for what would help, which takes long.
    """
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
        for index, result in zip(
            members, _analyse_batch(batch, both_ends=both_ends, advise=advise), strict=True
        ):
            outcomes[index] = result
    return [o for o in outcomes if o is not None]


@dataclass(frozen=True)
class _Solved:
    """A batch worked out: everything that `_one_result` takes one case from."""

    batch: Batch
    times: Timeline
    rep: Rep
    contacts: Contacts
    moments: JointMoments
    loads: External
    line_names: tuple[str, ...]
    acceleration: Array | None
    disc: Mapping[str, Array]
    summaries: Array
    amount: Array | None
    other: Array | None


def _analyse_batch(batch: Batch, *, both_ends: bool, advise: bool) -> list[Result]:
    first = batch.cases[0]
    times = timeline(first.tempo_s, batch.variation.rep_order, first.travel, first.style)
    progress, up_share = times.progress, times.up_share
    if first.travel != (0.0, 1.0):
        # Top and deepest point of the full rep are worked out too, behind the frames shown.
        progress = np.append(progress, [0.0, 1.0])
        up_share = np.append(up_share, [0.0, 0.0])
    batch, amount = batch.with_aid()
    rep = batch.rep(progress, up_share)
    rule = first.contact_rule or batch.variation.contact_rule
    with np.errstate(invalid="ignore"):
        loads, acceleration = gravity_on(rep.pose), None
        if first.mode == "dynamic":
            loads, acceleration = loads_along(batch.body, rep.pose, times)
        aids = tuple(line for line in batch.lines if line.aid)
        pulling = tuple(line for line in batch.lines if not line.aid)
        names, pulls = line_forces(batch.body, rep.pose, pulling, progress, up_share)
        loads = loads.joined(pulls) if pulling else loads
        held_names, held = line_forces(batch.body, rep.pose, aids, progress, up_share)
        carried = loads.joined(held) if aids else loads
        contacts = solve_contacts(rep.pose, wrench_of(carried), carried, rep.support, rule)
        other = None
        if both_ends and len(contacts.names) > 1:
            end = OTHER_RULE[rule]
            far = solve_contacts(rep.pose, wrench_of(carried), carried, rep.support, end)
            other = joint_moments(rep.pose, carried, far.external()).extension
        moments = joint_moments(rep.pose, carried, contacts.external())
        if (acceleration is not None or batch.lines) and batch.variation.builder in ON_FEET:
            rep = replace(rep, pressure_fraction=fraction_under(rep.pose, contacts))
        contacts = contacts.with_supports(held_names, held)
    solved = _Solved(
        batch,
        times,
        rep,
        contacts,
        moments,
        loads,
        names,
        acceleration,
        disc_forces(rep.pose, moments),
        _summaries(moments, times, batch.variation.rep_order),
        amount,
        other,
    )
    return [_one_result(solved, index, advise=advise) for index in range(len(batch.cases))]


def _one_result(all_of: _Solved, index: int, *, advise: bool) -> Result:
    batch, rep, contacts, moments = all_of.batch, all_of.rep, all_of.contacts, all_of.moments
    case, times = batch.cases[index], all_of.times
    error = problem_of(batch, index, rep, contacts, advise=advise)
    shown = rep.solved[index][: len(times.progress)]
    frames = int(np.argmin(np.append(shown, False)))
    bare = Result(case, times, assumptions_of(case), error)
    if frames == 0:
        return bare
    upto = (index, slice(0, frames))
    summary = None
    if error is None:
        summary = {
            joint: JointSummary(*all_of.summaries[:, row, index].tolist())
            for row, joint in enumerate(JOINTS)
        }
    bottom_deg = {key: float(value[index]) for key, value in rep.bottom_deg.items()}
    if all_of.amount is not None:
        bottom_deg[str(batch.free)] = float(all_of.amount[index, 0])
    loads, moving = all_of.loads, all_of.acceleration
    return replace(
        bare,
        frames=frames,
        pose=_take_pose(rep.pose, upto),
        contacts=Contacts(
            contacts.names,
            contacts.segments,
            contacts.points[:, :, *upto],
            contacts.forces[:, :, *upto],
            contacts.pair_N[upto],
            contacts.share[upto],
        ),
        moments=JointMoments(**{name: value[..., *upto] for name, value in vars(moments).items()}),
        load_forces=loads.forces[:, len(SEGMENTS) :, *upto],
        load_points=loads.points[:, len(SEGMENTS) :, *upto],
        load_names=(*rep.pose.load_names, *all_of.line_names),
        load_segments=loads.segments[len(SEGMENTS) :],
        acceleration=None if moving is None else moving[:, :, *upto],
        disc={name: value[upto] for name, value in all_of.disc.items()},
        pressure_fraction=rep.pressure_fraction[upto],
        bottom_deg=bottom_deg,
        summary=summary,
        other_extension=None if all_of.other is None else all_of.other[:, *upto],
    )


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
    steps = np.diff(times.time_s)
    value = moments.extension[..., : len(times.time_s)]
    at = np.argmax(np.abs(np.nan_to_num(value)), axis=-1)
    peak = np.take_along_axis(value, at[..., None], axis=-1)[..., 0]
    impulse = 0.5 * ((value[..., 1:] + value[..., :-1]) @ steps)
    locked = int(np.argmax(times.progress) if order == "bridge" else np.argmin(times.progress))
    lockout = value[..., locked] / np.where(peak == 0.0, 1.0, peak)
    return np.stack(
        [
            peak,
            times.progress[at],
            times.time_s[at],
            impulse / times.time_s[-1],
            impulse,
            lockout,
        ]
    )


def other_peaks(result: Result) -> dict[str, float] | None:
    """Signed peaks (N m) under the other contact rule, by joint, or None.

    None where only one rule was worked out, or where no joint differs by more than
    `ENDS_DIFFER` of the largest peak.
    """
    if result.other_extension is None or result.summary is None:
        return None
    values = result.other_extension
    at = np.argmax(np.abs(values), axis=1)
    peaks = values[np.arange(len(JOINTS)), at].tolist()
    largest = max(abs(row.peak_Nm) for row in result.summary.values())
    gaps = [abs(p - result.summary[j].peak_Nm) for j, p in zip(JOINTS, peaks, strict=True)]
    return dict(zip(JOINTS, peaks, strict=True)) if max(gaps) > ENDS_DIFFER * largest else None


def assumptions_of(case: Case) -> tuple[str, ...]:
    """What the result rests on, in words."""
    measured = ", ".join(sorted(case.athlete.lengths_m)) or "none"
    free = free_setting(case)
    solved = f"{free} solved by balance" if free else "all angles given, pressure point reported"
    lines = [
        f"contact rule: {case.contact_rule}; friction coefficient "
        f"{landmark('friction_coefficient'):g}",
        "statics: no acceleration at any moment of the rep"
        if case.mode == "static"
        else "dynamics: inertia of segments and loads at the tempo; slender segments",
        f"segment masses: de Leva 1996 ({case.athlete.sex}); measured lengths: {measured}",
        solved,
        f"low back: one extensor at {100 * landmark('extensor_arm_m'):g} cm, disc plane "
        f"{landmark('disc_slope_standing_deg'):g} deg forward-down when the pelvis is upright",
        f"lumbar flexion begins where the hips run out "
        f"({case.athlete.limit_deg('hip_flexion'):g} deg); the first "
        f"{landmark('ordinary_lumbar_flexion_deg'):g} deg are ordinary, more is rounding",
    ]
    kinds = {own["kind"] for own in variation(case.variation).lines}
    if "hold" in kinds:
        lines.append("the support's hold is level and grows with the depth")
    if "seat" in kinds:
        lines.append("the box takes its share over the last three tenths of the way down")
    if case.load_up_kg not in {None, case.load_kg}:
        lines.append("the load changes over the first tenth of the way back")
    if case.style != "full":
        lines.append("the extra quarter takes half the time of its phase")
    if case.travel != (0.0, 1.0):
        lines.append(f"only {case.travel[0]:g} to {case.travel[1]:g} of the full travel is done")
    return tuple(lines)
