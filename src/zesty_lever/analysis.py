"""The one door to the physics: a case goes in, a result comes out.

Cases of one variation are worked out together as arrays; `analyse_many` groups them.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from zesty_lever.body import LENGTHS, SEGMENTS, Body, build_body, landmark
from zesty_lever.case import (
    LIMITS,
    Athlete,
    BandLoad,
    CableLoad,
    Case,
    CaseError,
    MassLoad,
    PushLoad,
)
from zesty_lever.exercises import bridge, pull, split, squat
from zesty_lever.exercises.catalogue import Variation, fill, variation
from zesty_lever.exercises.rep import Limits, Rep, Rig
from zesty_lever.explain import explain_failure
from zesty_lever.mechanics.contacts import Contacts, solve_contacts
from zesty_lever.mechanics.dynamics import loads_along
from zesty_lever.mechanics.inverse import (
    GRAVITY_M_S2,
    External,
    JointMoments,
    disc_forces,
    gravity_on,
    joint_moments,
    wrench_of,
)
from zesty_lever.mechanics.lines import Line, line_forces
from zesty_lever.motion.pose import JOINTS, Pose
from zesty_lever.motion.rep import PROBE_PROGRESS, Timeline, timeline
from zesty_lever.motion.upper_body import Carried, Stack, build_arm, build_stack
from zesty_lever.vectors import Array

SCAN_STEPS = 121
LINE_ROUNDS = 9
# The setting that an impossible pose is blamed on where a variation lacks the usual one.
STAND_INS = ("bar_height_m", "shin_deg", "start_height_m", "stance_m")
BUILDERS: dict[str, Callable[[Rig, str | None, Array], Rep]] = {
    "level": squat.build_rep, "split": split.build_rep, "bridge": bridge.build_rep,
    "pull": pull.build_rep,
}  # fmt: skip


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


@dataclass(frozen=True)
class _Batch:
    """Filled cases of one variation, one free angle and one set of extra loads, as arrays."""

    cases: tuple[Case, ...]
    variation: Variation
    free: str | None
    body: Body
    stack: Stack
    limits: Limits
    settings: Mapping[str, Array]
    lines: tuple[Line, ...] = ()

    def rep(self, progress: Array) -> Rep:
        """Poses along a progress; bands and the like are balanced by going round a few times."""
        turned = np.zeros_like(self.body.height_m)
        rep = self._build(progress, turned)
        if self.lines:
            for _ in range(LINE_ROUNDS):
                turned = turned_forward(self.body, rep, self.lines)
                rep = self._build(progress, turned)
        return rep

    def _build(self, progress: Array, turned_kgm: Array) -> Rep:
        def restack(hands_ahead: Array) -> Stack:
            return _stack(self.body, self.variation, self.cases, self.settings, hands_ahead)

        rig = Rig(
            self.body, self.stack, self.limits, self.settings, self.variation.options, restack,
            turned_kgm,
        )  # fmt: skip
        return BUILDERS[self.variation.builder](rig, self.free, progress)


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
        groups[_group_key(whole)].append(index)
    for members in groups.values():
        batch = make_batch([c for i in members if (c := filled[i]) is not None])
        for index, result in zip(members, _analyse_batch(batch), strict=True):
            outcomes[index] = result
    return [o for o in outcomes if o is not None]


def balanced_angles(case: Case) -> dict[str, float] | None:
    """Shin, thigh and trunk (deg) at the bottom of a filled case, or None where it can't be done.

    Only a few moments of the rep are worked out: for finding an angle while a handle is dragged.
    """
    rep = make_batch([case]).rep(PROBE_PROGRESS)
    if any(flags[0] for _, _, flags in rep.failures):
        return None
    return {key: float(value[0]) for key, value in rep.bottom_deg.items()}


def _group_key(case: Case) -> tuple[Any, ...]:
    return (
        case.variation,
        free_setting(case),
        case.tempo_s,
        case.contact_rule,
        case.mode,
        tuple(_load_key(load) for load in case.loads),
    )


def _load_key(load: Any) -> tuple[Any, ...]:
    """What must be the same for loads of several cases to be worked out together."""
    return tuple(getattr(load, k, None) for k in ("kind", "name", "start", "end", "push_N"))


def free_setting(case: Case) -> str | None:
    """The angle of a filled case that balance solves, or None."""
    return next((key for key, value in case.settings.items() if value is None), None)


def make_batch(cases: Sequence[Case]) -> _Batch:
    """Turn filled cases of one group into arrays with a trailing frame axis of 1."""
    chosen = variation(cases[0].variation)
    athletes = [case.athlete for case in cases]
    settings = {
        key: _column(np.nan if (v := case.settings[key]) is None else v for case in cases)
        for key in chosen.settings
    }
    body = _bodies(athletes)
    return _Batch(
        cases=tuple(cases),
        variation=chosen,
        free=free_setting(cases[0]),
        body=body,
        stack=_stack(body, chosen, cases, settings),
        limits=Limits(*(np.radians(_column(a.limit_deg(n) for a in athletes)) for n in LIMITS)),
        settings=settings,
        lines=_lines(chosen, cases, settings),
    )


def _lines(
    chosen: Variation, cases: Sequence[Case], settings: Mapping[str, Array]
) -> tuple[Line, ...]:
    """The variation's own bands and cables, and those of the cases."""
    lines = []
    for own in chosen.lines:
        end = own["end"] if isinstance(own["end"], str) else tuple(own["end"])
        if own["kind"] == "band":
            lines.append(Line(own["name"], own["start"], end,
                              stiffness_N_m=settings["band_N_m"], slack_m=settings["band_slack_m"]))  # fmt: skip
        else:
            half = np.array([[(case.load_kg or 0.0) * own["share"]] for case in cases])
            lines.append(Line(own["name"], own["start"], end, force_N=half * GRAVITY_M_S2))
    for index, extra in enumerate(cases[0].loads):
        same = [case.loads[index] for case in cases]
        if isinstance(extra, BandLoad):
            lines.append(Line(
                extra.name, extra.start, extra.end,
                stiffness_N_m=_column(e.stiffness_N_m for e in same if isinstance(e, BandLoad)),
                slack_m=_column(e.slack_m for e in same if isinstance(e, BandLoad)),
            ))  # fmt: skip
        elif isinstance(extra, CableLoad):
            force = _column(e.force_N for e in same if isinstance(e, CableLoad))
            lines.append(Line(extra.name, extra.start, extra.end, force_N=force))
        elif isinstance(extra, PushLoad):
            lines.append(Line(extra.name, extra.start, None, push_N=extra.push_N))
    return tuple(lines)


def turned_forward(body: Body, rep: Rep, lines: tuple[Line, ...]) -> Array:
    """What lines turn forward about the first pressure point, as a first moment of mass, kg m."""
    _, pulls = line_forces(body, rep.pose, lines)
    about = rep.support.points[0][-1]
    x, y = pulls.points[0] - about[0], pulls.points[1] - about[1]
    turning = (x * pulls.forces[1] - y * pulls.forces[0]).sum(axis=0)
    forward: Array = -turning / GRAVITY_M_S2
    return np.where(np.isfinite(forward), forward, 0.0)


def _column(values: Iterable[Any]) -> Array:
    return np.array([float(v) for v in values])[:, None]


def _bodies(athletes: Sequence[Athlete]) -> Body:
    lengths = {
        name: _column(a.lengths_m.get(name, np.nan) for a in athletes)
        for name in LENGTHS
        if any(name in a.lengths_m for a in athletes)
    }
    sexes = np.array([a.sex for a in athletes])[:, None]
    heights = _column(a.height_m for a in athletes)
    return build_body(sexes, heights, _column(a.mass_kg for a in athletes), lengths)


def _stack(
    body: Body, chosen: Variation, cases: Sequence[Case], settings: Mapping[str, Array],
    hands_ahead: Array | None = None,
) -> Stack:  # fmt: skip
    loads: list[Carried] = []
    nothing = np.zeros_like(body.height_m)
    aside = nothing + chosen.grip_outward * body.height_m
    if hands_ahead is None:
        hands_ahead = settings.get("hands_ahead_m", nothing)
    grip = (hands_ahead, nothing, aside)
    if chosen.load is not None and chosen.load["carried_by"]:
        mass = _column(case.load_kg or 0.0 for case in cases)
        offset = None
        if "forward" in chosen.load:
            offset = (
                chosen.load["forward"] * body.height_m, chosen.load["above"] * body.height_m
            )  # fmt: skip
            grip = (*offset, _grip_outward(chosen.hold, body))
        loads.append(
            Carried(chosen.load["name"], tuple(chosen.load["carried_by"]), mass, offset)
        )
    for index, extra in enumerate(cases[0].loads):
        if not isinstance(extra, MassLoad):
            continue
        same = [e for case in cases if isinstance(e := case.loads[index], MassLoad)]
        offsets = (_column(e.forward_m for e in same), _column(e.above_m for e in same))
        loads.append(Carried(extra.name, ("trunk",), _column(e.mass_kg for e in same), offsets))
    reach = np.radians(settings.get("reach_deg", nothing))
    arm = build_arm(body, chosen.hold, grip, reach)
    return build_stack(body, arm, tuple(loads))


def _grip_outward(hold: str, body: Body) -> Array:
    """Sideways place of the right hand from its shoulder, m: outside it on a bar, else inside."""
    half = 0.5 * body.lengths["shoulder_width"]
    shares = {"bar-on-back": 0.55, "front-rack": 0.10, "at-chest": -0.75}
    outward: Array = shares.get(hold, 0.0) * half
    return outward


def _analyse_batch(batch: _Batch) -> list[Result]:
    times = timeline(batch.cases[0].tempo_s, batch.variation.rep_order)
    rep = batch.rep(times.progress)
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
    batch: _Batch, index: int, times: Timeline, rep: Rep, contacts: Contacts,
    moments: JointMoments, disc: Mapping[str, Array], summaries: Array, loads: External,
    acceleration: Array | None, line_names: tuple[str, ...],
) -> Result:  # fmt: skip
    case = batch.cases[index]
    error = _failure(batch, index, rep) or _too_fast(batch, index, rep, contacts)
    error = error or _lifted(index, contacts)
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
            taken[name] = {
                k: v[upto] if v.ndim == 2 else np.broadcast_to(v, shape)[:, *upto]
                for k, v in value.items()
            }
        else:
            taken[name] = value
    return Pose(**taken)


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


def _failure(batch: _Batch, index: int, rep: Rep) -> CaseError | None:
    for code, key, flags in rep.failures:
        if flags[index]:
            case = batch.cases[index]
            blamed = next(k for k in (key, *STAND_INS) if k in batch.variation.settings)
            known = case.settings.get(blamed) is not None
            allowed = allowed_range(case, blamed) if known else None
            return explain_failure(case, batch.variation, code, blamed, allowed, _facts(index, rep))
    return None


def _lifted(index: int, contacts: Contacts) -> CaseError | None:
    """A contact that would have to pull: the pose can't stand as it is."""
    upward = contacts.forces[1, :, index]
    if not (upward < -1e-6).any():
        return None
    worst, frame = np.unravel_index(int(np.argmin(upward)), upward.shape)
    pull = -float(upward[worst, frame])
    name = contacts.names[int(worst)].replace("_", " ")
    return CaseError(
        "would-pull",
        f"The {name} would have to pull {pull:.0f} N towards the ground: the load falls outside "
        "what holds the body up",
        key="contacts", value=round(-pull, 1), unit="N", allowed=[0, None], infeasible=True,
    )  # fmt: skip


def fraction_under(pose: Pose, contacts: Contacts) -> Array:
    """Where along the right foot the pressure sits, from its contact point."""
    row = contacts.segments.index("foot_right")
    toe, ball = pose.points["toe_right"], pose.points["ball_right"]
    way = toe - ball
    share = landmark("ball_from_heel")
    length_squared = way[0] ** 2 + way[2] ** 2
    ahead = contacts.points[:, row] - ball
    along = (ahead[0] * way[0] + ahead[2] * way[2]) / length_squared
    fraction: Array = share + (1.0 - share) * along
    return fraction


def _too_fast(batch: _Batch, index: int, rep: Rep, contacts: Contacts) -> CaseError | None:
    """A tempo whose inertia carries the pressure off the foot, or lifts a contact."""
    case = batch.cases[index]
    if case.mode != "dynamic":
        return None
    tempo = list(case.tempo_s)
    if (contacts.forces[1, :, index] < -1e-6).any():
        text = "At this tempo the body would leave the ground; take more time on the way down or up"
        return CaseError("tempo", text, key="tempo_s", value=tempo, unit="s", infeasible=True)
    if batch.variation.builder == "bridge":
        return None
    fraction, most = rep.pressure_fraction[index], landmark("ball_from_heel")
    past = np.maximum(fraction - most, -fraction)
    worst = int(np.argmax(past))
    if past[worst] <= 1e-6:
        return None
    side = "ahead of the ball" if fraction[worst] > most else "behind the heel"
    foot = case.athlete.lengths_m.get("foot", 0.152 * case.athlete.height_m)
    text = (
        f"At this tempo the pressure would move {100 * foot * past[worst]:.0f} cm {side} of the foot; "
        "take more time on the way down or up"
    )
    return CaseError("tempo", text, key="tempo_s", value=tempo, unit="s", infeasible=True)


def _facts(index: int, rep: Rep) -> dict[str, float]:
    """Numbers of one failing case that the explanation quotes."""
    pose, fraction = rep.pose, rep.pressure_fraction[index]
    worst = int(np.argmax(np.abs(fraction - 0.365)))
    column = (index, worst)
    return {
        "fraction": float(fraction[worst]),
        "dorsiflexion_deg": float(np.degrees(pose.dorsiflexion_rad["right"][index].max())),
        "opening_deg": float(np.degrees(np.abs(pose.hip_opening_rad["right"][index]).max())),
        "weight_N": float(pose.system_mass_kg()[column]) * GRAVITY_M_S2,
        "shoulder_height_m": float(pose.points["shoulder_mid"][1][column]),
    }


def allowed_range(case: Case, key: str) -> tuple[float, float] | None:
    """Range of a setting in which the rep exists, the others held, nearest to the case's value.

    Looked up by trying `SCAN_STEPS` values between the catalogue's bounds in one batch; None
    where no value of this setting alone helps. ``case`` is filled in.
    """
    setting = variation(case.variation).settings[key]
    values = np.linspace(setting.low, setting.high, SCAN_STEPS)
    batch = make_batch([case])
    column = np.zeros((SCAN_STEPS, 1))
    settings = {name: given + column for name, given in batch.settings.items()}
    settings[key] = values[:, None]
    rep = replace(batch, settings=settings).rep(PROBE_PROGRESS)
    fits = ~np.any([flags for _, _, flags in rep.failures], axis=0)
    if not fits.any():
        return None
    wanted = case.settings[key]
    nearest = int(np.argmin(np.where(fits, np.abs(values - float(wanted or 0.0)), np.inf)))
    low = high = nearest
    while low > 0 and fits[low - 1]:
        low -= 1
    while high < len(values) - 1 and fits[high + 1]:
        high += 1
    return float(values[low]), float(values[high])


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
