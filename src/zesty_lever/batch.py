"""Cases as arrays: bodies, stacks, bands and settings of one variation, and the poses they give."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any, cast

import numpy as np

from zesty_lever.body import LENGTHS, Body, build_body
from zesty_lever.case import LIMITS, Athlete, BandLoad, CableLoad, Case, MassLoad, PushLoad
from zesty_lever.exercises import bridge, extension, kneel, pull, split, squat
from zesty_lever.exercises.catalogue import Variation, variation
from zesty_lever.exercises.rep import Limits, Rep, Rig
from zesty_lever.mechanics.inverse import GRAVITY_M_S2, External
from zesty_lever.mechanics.lines import Line, anchored, line_forces
from zesty_lever.motion.rep import PROBE_PROGRESS
from zesty_lever.motion.upper_body import Carried, Stack, build_arm, build_stack
from zesty_lever.tables import toml_values
from zesty_lever.vectors import Array, cross, dot, secant_guess, vector, widened

SCAN_STEPS = 121
LINE_ROUNDS = 9
LINE_SETTLED_KGM = 1e-5
# Settings that hold the body up; one may be left to balance when all angles are given.
AIDS = ("hold_N", "seat_share")
# A support's usual lever about the foot, fractions of stature: only where a search starts.
AID_ARM = {"hold": 0.5, "seat": 0.2}
BUILDERS: dict[str, Callable[[Rig, str | None, Array], Rep]] = {
    "level": squat.build_rep,
    "split": split.build_rep,
    "bridge": bridge.build_rep,
    "pull": pull.build_rep,
    "kneel": kneel.build_rep,
    "extension": extension.build_rep,
}


@dataclass(frozen=True)
class Carrying:
    """The variation's own load, ``(cases, 1)``.

    Mass on the way down and up, kg, and how far (m) it sits from its usual place.
    """

    down_kg: Array
    up_kg: Array
    forward_m: Array
    above_m: Array


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
    carried: Carrying
    lines: tuple[Line, ...] = ()

    def varied(
        self,
        *,
        settings: Mapping[str, Array] | None = None,
        body: Body | None = None,
        carried: Carrying | None = None,
    ) -> Batch:
        """The batch with other arrays ``(samples, 1)`` for some settings, the bodies or the load."""
        merged = {**self.settings, **(settings or {})}
        count = max(
            len(a)
            for a in (
                *merged.values(),
                (body or self.body).height_m,
                (carried or self.carried).down_kg,
            )
        )
        merged = {key: widened(value, (count, 1)) for key, value in merged.items()}
        other = replace(
            self, settings=merged, body=body or self.body, carried=carried or self.carried
        )
        return replace(other, stack=other.make_stack(None, None), lines=_lines(other))

    def taken(self, part: slice) -> Batch:
        """Some of the samples of a varied batch."""

        def some(value: Any) -> Any:
            if isinstance(value, Mapping):
                return {key: some(item) for key, item in value.items()}
            if isinstance(value, np.ndarray):
                return value[part] if len(value) > 1 else value
            return type(value)(**{name: some(item) for name, item in vars(value).items()})

        fewer = replace(self, limits=some(self.limits), settings=some(self.settings))
        return fewer.varied(body=some(self.body), carried=some(self.carried))

    def make_stack(self, hands_ahead: Array | None, up_share: Array | None) -> Stack:
        """All above the hips, at a share of the load on the way up (None: none of it).

        ``hands_ahead`` is how far (m) hanging hands are ahead of the shoulders (None: as set).
        """
        return _stack(self, hands_ahead, up_share)

    def rep(self, progress: Array, up_share: Array | None = None) -> Rep:
        """Poses along a progress; bands and the like are balanced by going round a few times.

        ``up_share`` is the timeline's (default: all on the way down).
        """
        up = np.zeros_like(progress) if up_share is None else up_share
        nothing = np.zeros_like(self.body.height_m)
        turned, rolled = nothing + self._first_guess(progress, up), nothing
        rep = self._build(progress, up, turned, rolled)
        if self.lines:
            last: tuple[tuple[Array, Array], ...] = ()
            for _ in range(LINE_ROUNDS):
                pulls = line_forces(self.body, rep.pose, self.lines, progress, up)[1]
                # Where a round finds no pose, the one before is the better guess.
                missed = tuple(
                    np.where(np.isfinite(new), new, old) - old
                    for new, old in zip(turned_by(rep, pulls), (turned, rolled), strict=True)
                )
                if max(np.abs(missed[0]).max(), np.abs(missed[1]).max()) < LINE_SETTLED_KGM:
                    break
                now = ((turned, missed[0]), (rolled, missed[1]))
                turned, rolled = (
                    secant_guess(*pair) for pair in zip(now, last or now, strict=True)
                )
                last = now
                rep = self._build(progress, up, turned, rolled)
        return rep

    def _first_guess(self, progress: Array, up: Array) -> Array:
        """Roughly what hands on a support or a box turn forward, kg m: without it no pose may exist."""
        guess = np.zeros((1, 1))
        for line in self.lines:
            if line.aid and line.push_N is not None:
                force = line.push_N[0 if line.aid == "hold" else 1] * line.share(progress, up)
                guess = guess + AID_ARM[line.aid] * self.body.height_m * force / GRAVITY_M_S2
        return guess

    def _build(self, progress: Array, up: Array, turned_kgm: Array, rolled_kgm: Array) -> Rep:
        stack, changes = self.stack, self.changes

        def restack(hands_ahead: Array | None, share: Array) -> Stack:
            if hands_ahead is None and not changes:
                return stack
            return self.make_stack(hands_ahead, share)

        whole = restack(None, up)
        rig = Rig(
            self.body,
            whole,
            self.limits,
            self.settings,
            self.variation.options,
            restack,
            turned_kgm,
            rolled_kgm,
            up,
        )
        free = None if self.free in AIDS else self.free
        return BUILDERS[self.variation.builder](rig, free, progress)

    @property
    def changes(self) -> bool:
        """Whether masses differ between the way down and the way up."""
        extras = [e for case in self.cases for e in case.loads if isinstance(e, MassLoad)]
        own = bool(np.any(self.carried.up_kg != self.carried.down_kg))
        return own or any(e.when != "both" for e in extras)

    def with_aid(self) -> tuple[Batch, Array | None]:
        """The batch with its hold or seat solved, if balance is left to that, and the amount.

        With all angles given the deepest pose is fixed; what the hands or the box must do there
        for the pressure to sit where it is asked for is one division.
        """
        if self.free not in AIDS:
            return self, None
        key, nothing = str(self.free), np.zeros_like(self.body.height_m)
        unaided = self._with_amount(key, nothing)
        deep = np.array([0.0, 1.0])
        rep = unaided.rep(deep)
        length = self.body.lengths["foot"] * np.cos(np.radians(self.settings["toe_out_deg"]))
        off = rep.pressure_fraction[:, -1:] - self.settings["pressure_fraction"]
        mass = rep.pose.system_mass_kg()[:, -1:]
        unit_aid = self._with_amount(key, nothing + 1.0)
        aids = tuple(line for line in unit_aid.lines if line.aid)
        pulls = line_forces(self.body, rep.pose, aids, deep, 0.0 * deep)[1]
        # About where the pressure shall be, not where it is without the aid.
        lifts = pulls.forces[1].sum(axis=0)[:, -1:] / GRAVITY_M_S2
        turned = turned_by(rep, pulls)[0][:, -1:] - off * length * lifts
        amount = -mass * off * length / turned
        amount = np.where(np.isfinite(amount), amount, 0.0)
        return self._with_amount(key, amount), amount

    def _with_amount(self, key: str, amount: Array) -> Batch:
        aided = replace(self, settings={**self.settings, key: amount})
        return replace(aided, lines=_lines(aided))


def balanced_angles(case: Case) -> dict[str, float] | None:
    """Shin, thigh and trunk (deg) at the bottom of a filled case, or None where it can't be done.

    Only a few moments of the rep are worked out: for finding an angle while a handle is dragged.
    """
    batch, amount = make_batch([case]).with_aid()
    rep = batch.rep(PROBE_PROGRESS)
    if any(flags[0] for _, _, flags in rep.failures):
        return None
    angles = {key: float(value[0]) for key, value in rep.bottom_deg.items()}
    return angles if amount is None else {**angles, str(batch.free): float(amount[0, 0])}


def group_key(case: Case) -> tuple[Any, ...]:
    """What must be the same for filled cases to be worked out together."""
    return (
        case.variation,
        free_setting(case),
        case.tempo_s,
        case.contact_rule,
        case.mode,
        case.travel,
        case.style,
        tuple(_load_key(load) for load in case.loads),
    )


def _load_key(load: Any) -> tuple[Any, ...]:
    """What must be the same for loads of several cases to be worked out together."""
    return tuple(
        getattr(load, k, None)
        for k in ("kind", "name", "start", "end", "push_N", "table", "when", "place")
    )


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
    down = _column(case.load_kg or 0.0 for case in cases)
    up = _column(
        case.load_kg or 0.0 if case.load_up_kg is None else case.load_up_kg for case in cases
    )
    body = _bodies(athletes)
    bare = Batch(
        cases=tuple(cases),
        variation=chosen,
        free=free_setting(cases[0]),
        body=body,
        stack=cast("Stack", None),
        limits=Limits(*(np.radians(_column(a.limit_deg(n) for a in athletes)) for n in LIMITS)),
        settings=settings,
        carried=Carrying(down, up, 0.0 * down, 0.0 * down),
    )
    return bare.varied()


def _lines(batch: Batch) -> tuple[Line, ...]:
    """The variation's own bands, cables and supports, and the lines of the cases."""
    chosen, cases, settings, body = batch.variation, batch.cases, batch.settings, batch.body
    lines: list[Line] = []
    down = batch.carried.down_kg
    nothing = np.zeros_like(down)
    for own in chosen.lines:
        name, start, kind = own["name"], own["start"], own["kind"]
        if kind == "hold":
            force = 0.5 * settings["hold_N"]
            lines += [
                Line(hand, hand, None, push_N=(force, nothing, nothing), aid="hold")
                for hand in ("hand_left", "hand_right")
            ]
            continue
        if kind == "seat":
            weight = (body.mass_kg + down) * GRAVITY_M_S2
            up = settings["seat_share"] * weight
            lines.append(Line(name, start, None, push_N=(nothing, up, nothing), aid="seat"))
            continue
        end = own["end"] if isinstance(own["end"], str) else anchored(own["end"], settings)
        if kind == "band":
            lines.append(
                Line(
                    name,
                    start,
                    end,
                    stiffness_N_m=settings["band_N_m"],
                    slack_m=settings["band_slack_m"],
                )
            )
        else:
            lines.append(Line(name, start, end, force_N=down * own["share"] * GRAVITY_M_S2))
    for index, extra in enumerate(cases[0].loads):
        same: list[Any] = [case.loads[index] for case in cases]
        if isinstance(extra, BandLoad):
            table = extra.table
            lines.append(
                Line(
                    extra.name,
                    extra.start,
                    extra.end,
                    when=extra.when,
                    table=table,
                    stiffness_N_m=None if table else _column(e.stiffness_N_m for e in same),
                    slack_m=None if table else _column(e.slack_m for e in same),
                )
            )
        elif isinstance(extra, CableLoad):
            force = _column(e.force_N for e in same)
            lines.append(Line(extra.name, extra.start, extra.end, force_N=force, when=extra.when))
        elif isinstance(extra, PushLoad):
            x, y, z = (nothing + part for part in extra.push_N)
            lines.append(Line(extra.name, extra.start, None, push_N=(x, y, z), when=extra.when))
    return tuple(lines)


def turned_by(rep: Rep, pulls: External) -> tuple[Array, Array]:
    """What forces turn forward about the first pressure point, and roll to the right, kg m.

    The roll is about the line between the pressure points of a split stance (one foot: about the
    forward axis through it), by a metre of that line's forward part.
    """
    points = rep.support.points
    about = points[0][-1]
    out = pulls.points - about[:, None]
    moment = cross(out, pulls.forces).sum(axis=1)
    forward: Array = -moment[2] / GRAVITY_M_S2
    along = vector(1.0, 0.0, 0.0).reshape(3, *([1] * (moment.ndim - 1)))
    if len(points) > 1:
        along = about - points[1][0]
        ahead = np.where(np.abs(along[0]) > 1e-9, along[0], 1.0)
        along = along / ahead
    roll: Array = dot(along + 0.0 * moment, moment) / GRAVITY_M_S2
    return forward, roll


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


def _stack(batch: Batch, hands_ahead: Array | None, up_share: Array | None) -> Stack:
    body, chosen, settings, carried = batch.body, batch.variation, batch.settings, batch.carried
    loads: list[Carried] = []
    nothing = np.zeros_like(body.height_m)
    up = 0.0 if up_share is None else up_share
    aside = nothing + chosen.grip_outward * body.height_m
    if hands_ahead is None:
        hands_ahead = settings.get("hands_ahead_m", nothing)
    grip = (hands_ahead, nothing, aside)
    if chosen.load is not None and chosen.load["carried_by"]:
        mass = carried.down_kg + up * (carried.up_kg - carried.down_kg)
        offset = None
        if "forward" in chosen.load:
            offset = (
                chosen.load["forward"] * body.height_m + carried.forward_m,
                chosen.load["above"] * body.height_m + carried.above_m,
            )
            grip = (*offset, _grip_outward(chosen.hold, body))
        loads.append(Carried(chosen.load["name"], tuple(chosen.load["carried_by"]), mass, offset))
    cases = batch.cases
    for index, extra in enumerate(cases[0].loads):
        if not isinstance(extra, MassLoad):
            continue
        same = [e for case in cases if isinstance(e := case.loads[index], MassLoad)]
        mass = (
            _column(e.mass_kg for e in same) * {"both": 1.0, "down": 1.0 - up, "up": up}[extra.when]
        )
        loads.append(_placed(extra.name, extra.place, mass, same, body))
    reach = np.radians(settings.get("reach_deg", nothing))
    arm = build_arm(body, chosen.hold, grip, reach)
    return build_stack(body, arm, tuple(loads))


def _placed(name: str, place: str, mass: Array, same: Sequence[MassLoad], body: Body) -> Carried:
    """A second mass where it sits: a place's own offsets (by stature) and the load's."""
    if place == "hands":
        return Carried(name, ("hand_left", "hand_right"), mass, None)
    named = {"trunk": {"carried_by": ["trunk"]}, "pelvis": {"carried_by": ["pelvis"]}}
    known = {**toml_values("placements"), **named}[place]
    ahead = _column(e.forward_m for e in same) + known.get("forward", 0.0) * body.height_m
    above = _column(e.above_m for e in same) + known.get("above", 0.0) * body.height_m
    return Carried(name, tuple(known["carried_by"]), mass, (ahead, above))


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
    rep = batch.varied(settings=settings).with_aid()[0].rep(PROBE_PROGRESS)
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
