"""Cases as arrays: bodies, stacks, bands and settings of one variation, and the poses they give."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from zesty_lever.body import LENGTHS, Body, build_body
from zesty_lever.case import LIMITS, Athlete, BandLoad, CableLoad, Case, MassLoad, PushLoad
from zesty_lever.exercises import bridge, pull, split, squat
from zesty_lever.exercises.catalogue import Variation, variation
from zesty_lever.exercises.rep import Limits, Rep, Rig
from zesty_lever.mechanics.inverse import GRAVITY_M_S2
from zesty_lever.mechanics.lines import Line, line_forces
from zesty_lever.motion.rep import PROBE_PROGRESS
from zesty_lever.motion.upper_body import Carried, Stack, build_arm, build_stack
from zesty_lever.vectors import Array

SCAN_STEPS = 121
LINE_ROUNDS = 9
LINE_SETTLED_KGM = 1e-5
BUILDERS: dict[str, Callable[[Rig, str | None, Array], Rep]] = {
    "level": squat.build_rep, "split": split.build_rep, "bridge": bridge.build_rep,
    "pull": pull.build_rep,
}  # fmt: skip


@dataclass(frozen=True)
class Batch:
    """Filled cases of one variation, one free angle and one set of extra loads, as arrays."""

    cases: tuple[Case, ...]
    variation: Variation
    free: str | None
    body: Body
    stack: Stack
    limits: Limits
    settings: Mapping[str, Array]
    lines: tuple[Line, ...] = ()

    def rep(self, progress: Array, rising: Array | None = None) -> Rep:
        """Poses along a progress; bands and the like are balanced by going round a few times.

        ``rising`` is 1 where the frame is on the way up (default: nowhere).
        """
        turned = np.zeros_like(self.body.height_m)
        rising = np.zeros_like(progress) if rising is None else rising
        rep = self._build(progress, turned, rising)
        if self.lines:
            for _ in range(LINE_ROUNDS):
                before, turned = turned, turned_forward(self.body, rep, self.lines)
                if np.abs(turned - before).max() < LINE_SETTLED_KGM:
                    break
                rep = self._build(progress, turned, rising)
        return rep

    def _build(self, progress: Array, turned_kgm: Array, rising: Array) -> Rep:
        def restack(hands_ahead: Array) -> Stack:
            return _stack(self.body, self.variation, self.cases, self.settings, hands_ahead)

        rig = Rig(
            self.body, self.stack, self.limits, self.settings, self.variation.options, restack,
            turned_kgm, rising,
        )  # fmt: skip
        return BUILDERS[self.variation.builder](rig, self.free, progress)


def balanced_angles(case: Case) -> dict[str, float] | None:
    """Shin, thigh and trunk (deg) at the bottom of a filled case, or None where it can't be done.

    Only a few moments of the rep are worked out: for finding an angle while a handle is dragged.
    """
    rep = make_batch([case]).rep(PROBE_PROGRESS)
    if any(flags[0] for _, _, flags in rep.failures):
        return None
    return {key: float(value[0]) for key, value in rep.bottom_deg.items()}


def group_key(case: Case) -> tuple[Any, ...]:
    """What must be the same for filled cases to be worked out together."""
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


def make_batch(cases: Sequence[Case]) -> Batch:
    """Turn filled cases of one group into arrays with a trailing frame axis of 1."""
    chosen = variation(cases[0].variation)
    athletes = [case.athlete for case in cases]
    settings = {
        key: _column(np.nan if (v := case.settings[key]) is None else v for case in cases)
        for key in chosen.settings
    }
    body = _bodies(athletes)
    return Batch(
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
