"""Cases as arrays: bodies, stacks, bands and settings of one kind of variation, solved together."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import replace
from functools import cached_property
from typing import Any

import numpy as np
from numpy.typing import NDArray

from zesty_lever.cases.loads import MassLoad
from zesty_lever.cases.model import LIMITS, ResolvedCase
from zesty_lever.cases.rigging import (
    Carrying,
    bodies_of,
    column,
    kin,
    lines_of,
    stack_of,
    usual_stack,
)
from zesty_lever.exercises import bridge, extension, kneel, level, pull, split
from zesty_lever.exercises.builder import Limits, Rig
from zesty_lever.exercises.catalogue import Variation, variation
from zesty_lever.exercises.level_stance import SIDED
from zesty_lever.frozen import dataclass
from zesty_lever.physics.body import Body
from zesty_lever.physics.forces import GRAVITY_M_S2, External
from zesty_lever.physics.iterate import secant_guess, secant_root
from zesty_lever.physics.lines import Line, Push, line_forces, turning_about
from zesty_lever.physics.solve import ground_under, solve
from zesty_lever.physics.solved import Failure, Poses, Solved
from zesty_lever.physics.tempo import (
    PROBE_PROGRESS,
    Instants,
    Timeline,
    on_the_way_down,
    timeline,
)
from zesty_lever.physics.upper_body import Stack
from zesty_lever.physics.vectors import (
    Array,
    dot,
    each_array,
    summed,
    vector,
    widened,
)

CHUNK_POSES = 8192
LINE_TOLERANCE_M = 1e-12
LINE_ROUNDS = 30
# Settings that hold the body up; one may be left to balance when all angles are given.
AIDS = ("hold_N", "seat_share")
# A support's usual lever about the foot, fractions of stature: only where a search starts.
AID_ARM = {"hold": 0.5, "seat": 0.2}
# A last step below this ends the search for a front leg's share (it then is right to some 1e-4), how far it
# steps, and what the pair usually adds.
SHARE_TOLERANCE, LONGEST_SHARE_STEP, USUAL_PAIR_SHARE = 5e-3, 0.1, 0.03
DEEPEST = Instants(np.ones(1), np.zeros(1), slice(0, 1), ())
LEAST = "least-effort"
# Faults of how a set-up is done, each with the nearest value that is none: caving knees, a shifted pelvis.
FAULTS: dict[str, Callable[[Array], Array]] = {
    "knee_track_m": lambda track: np.maximum(track, 0.0),
    "left_track_m": lambda track: np.maximum(track, 0.0),
    "hip_shift_m": np.zeros_like,
}
BUILDERS: dict[str, Callable[[Rig, str | None, Array], Poses]] = {
    "level": level.build_poses,
    "split": split.build_poses,
    "bridge": bridge.build_poses,
    "pull": pull.build_poses,
    "kneel": kneel.build_poses,
    "extension": extension.build_poses,
}


@dataclass(frozen=True)
class Batch:
    """Resolved cases of one kind of variation, one free angle and one set of extra loads, as arrays.

    ``variation`` is that of the first; the others are its kin (`rigging.kin`).
    """

    cases: tuple[ResolvedCase, ...]
    variation: Variation
    free: str | None
    body: Body
    stack: Stack
    limits: Limits
    settings: Mapping[str, Array]
    carried: Carrying
    lines: tuple[Line, ...]

    @property
    def samples(self) -> int:
        """How many set-ups there are: settings have a row for each, bodies and loads one where all have the same."""
        return len(next(iter(self.settings.values())))

    @property
    def rule(self) -> str:
        """The contact rule of its cases."""
        return self.cases[0].contact_rule

    @property
    def timeline(self) -> Timeline:
        """Frames of the cases' rep."""
        first = self.cases[0]
        return timeline(first.tempo_s, self.variation.rep_order, first.travel, first.style)

    @property
    def moving(self) -> bool:
        """Whether inertia counts."""
        return self.cases[0].mode == "dynamic"

    @cached_property
    def both_ways_differ(self) -> bool:
        """Whether the way up is not the way down run backwards."""
        rising = self.settings.get("hips_rise_deg")
        return (
            self.moving
            or load_changes(self.cases[0])
            or (rising is not None and bool(np.any(rising != 0.0)))
            or any(line.when != "both" for line in self.lines)
        )

    @cached_property
    def balances_lines(self) -> bool:
        """Whether the builder balances bands and the like inside its own searches.

        It does where both legs are alike, and where one angle or the legs' shares are left to balance.
        """
        if self.variation.builder == "kneel":
            return self.free is not None
        if self.variation.builder == "split":
            return self.free is not None or (self.variation.options.rear or "none") != "none"
        sided = any(np.any(self.settings[key] != 0.0) for key in SIDED if key in self.settings)
        return self.variation.builder == "level" and not sided

    @property
    def probe(self) -> Instants:
        """A few moments of the cases' own rep, both ways where they differ: for quick looks at many samples.

        The deepest one is among them. What a probe finds possible is made sure of with `whole`.
        """
        return self.timeline.instants_at(self.probe_frames, moving=self.moving)

    @property
    def probe_frames(self) -> list[int]:
        """Frames of the cases' timeline nearest to the moments of `PROBE_PROGRESS`."""
        times = self.timeline
        moves = times.moves if self.both_ways_differ else times.moves[:1]
        low, high = times.progress.min(), times.progress.max()
        wanted = low + (high - low) * PROBE_PROGRESS
        frames = {times.bottom}
        for start, last in moves:
            course = times.progress[start : last + 1]
            frames |= {start + int(np.argmin(np.abs(course - at))) for at in wanted}
        return sorted(frames)

    @property
    def probe_bottom(self) -> int:
        """Row of the deepest moment in `probe`."""
        return self.probe_frames.index(self.timeline.bottom)

    @property
    def whole(self) -> Instants:
        """Every frame of the cases' own rep; one way only where both are the same."""
        times = self.timeline
        if self.both_ways_differ:
            return times.instants(moving=self.moving)
        return times.instants_at(range(times.moves[0][0], times.moves[0][1] + 1), moving=False)

    def varied(
        self,
        *,
        settings: Mapping[str, Array] | None = None,
        body: Body | None = None,
        carried: Carrying | None = None,
        limits: Limits | None = None,
    ) -> Batch:
        """The batch with other arrays ``(samples, 1)`` for some settings, the bodies or the load."""
        merged = {**self.settings, **(settings or {})}
        body, carried = body or self.body, carried or self.carried
        count = max(len(a) for a in (*merged.values(), body.height_m, carried.down_kg))
        merged = {key: widened(value, (count, 1)) for key, value in merged.items()}
        return replace(
            self,
            settings=merged,
            body=body,
            carried=carried,
            limits=limits or self.limits,
            stack=stack_of(self.cases, self.variation, body, merged, carried, None, None),
            lines=lines_of(self.cases, self.variation, body, merged, carried),
        )

    def taken(self, part: slice | NDArray[np.intp]) -> Batch:
        """Some of the samples, each with its own case where there are several."""

        def some(value: Any) -> Any:
            return each_array(value, lambda a: a[part] if len(a) > 1 else a)

        cases = self.cases
        if len(cases) > 1:
            cases = tuple(cases[at] for at in np.arange(len(cases))[part])
        settings, body, carried = some(self.settings), some(self.body), some(self.carried)
        return replace(
            self,
            cases=cases,
            limits=some(self.limits),
            settings=settings,
            body=body,
            carried=carried,
            stack=self.stack.taken(part, body),
            lines=lines_of(cases, self.variation, body, settings, carried),
        )

    def solve(self, instants: Instants, rule: str = "") -> Solved:
        """Work out every sample at some instants; ``rule`` is that of the cases unless given."""
        batch, amount = self.with_aid()
        batch, share = batch.with_share_delivered()
        poses = batch.poses(instants)
        told = {} if amount is None else {str(self.free): amount[:, 0]}
        if share is not None:
            told["front_share"] = share[:, 0]
        if told:
            poses = replace(poses, bottom_deg={**poses.bottom_deg, **told})
        pair = batch.unfaulted_pair_N(instants)
        return solve(poses, batch.body, batch.lines, instants, rule or self.rule, pair)

    def solve_places(self) -> tuple[Solved, NDArray[np.intp]]:
        """Work out every place of the rep that looks different, and which of them each frame is at."""
        times = self.timeline
        if self.both_ways_differ:
            return self.solve(times.instants(moving=self.moving)), np.arange(len(times.progress))
        places, at = times.once
        return self.solve(places), at

    def in_parts(self, instants: Instants, rule: str = "") -> Iterator[Solved]:
        """The same in parts of bounded size, for what would not fit into memory, or for progress."""
        step = max(CHUNK_POSES // len(instants.progress), 1)
        if self.samples <= step:
            yield self.solve(instants, rule)
            return
        for start in range(0, self.samples, step):
            part = slice(start, min(start + step, self.samples))
            yield self.taken(part).solve(instants, rule)

    def poses(self, instants: Instants) -> Poses:
        """Poses at the instants; what no builder balances by itself goes round until nothing moves.

        A case is done when what its lines turn is off by less than its mass times `LINE_TOLERANCE_M`.
        """
        progress, up = instants.progress, instants.up_share
        nothing = np.zeros_like(self.body.height_m)
        turned, rolled = nothing + self._first_guess(progress, up), nothing
        poses = self._build(progress, up, turned, rolled)
        if not self.lines or self.balances_lines:
            return poses
        tolerance = LINE_TOLERANCE_M * self.body.mass_kg
        shape = poses.pose.pelvis_rad.shape
        turned, rolled = (widened(v, shape) for v in (turned, rolled))
        last: tuple[tuple[Array, Array], ...] = ()
        active = np.ones((shape[0], 1), dtype=bool)
        roots: Mapping[str, Array] = {}
        for _ in range(LINE_ROUNDS):
            pulls = line_forces(self.body, poses.pose, self.lines, progress, up)
            # Where a round finds no pose, the one before is the better guess.
            missed = tuple(
                np.where(np.isfinite(new), new, old) - old
                for new, old in zip(turned_by(poses, pulls), (turned, rolled), strict=True)
            )
            far = np.maximum(*(np.abs(m).max(axis=-1, keepdims=True) for m in missed))
            active &= far > tolerance
            if not active.any():
                return poses
            now = ((turned, missed[0]), (rolled, missed[1]))
            guesses = (secant_guess(*pair) for pair in zip(now, last or now, strict=True))
            turned, rolled = (
                np.where(active, guess, old)
                for guess, old in zip(guesses, (turned, rolled), strict=True)
            )
            last = now
            # A settled case keeps the roots that it was built from, so it is built the same again.
            roots = {
                key: np.where(active, found, roots.get(key, np.nan))
                for key, found in poses.roots.items()
            }
            poses = self._build(progress, up, turned, rolled, roots)
        restless = Failure("did-not-settle", "loads", np.broadcast_to(active, shape))
        return replace(poses, failures=(*poses.failures, restless))

    def _first_guess(self, progress: Array, up: Array) -> Array:
        """Roughly what hands on a support or a box turn forward, kg m: without it no pose may exist."""
        guess = np.zeros((1, 1))
        for line in self.lines:
            if line.aid and isinstance(line.pull, Push):
                force = line.pull.push_N[0 if line.aid == "hold" else 1] * line.share(progress, up)
                guess = guess + AID_ARM[line.aid] * self.body.height_m * force / GRAVITY_M_S2
        return guess

    def _build(
        self,
        progress: Array,
        up: Array,
        turned_kgm: Array,
        rolled_kgm: Array,
        roots: Mapping[str, Array] | None = None,
    ) -> Poses:
        changes = load_changes(self.cases[0])

        def restack(hands_ahead: Array | None, share: Array) -> Stack:
            if hands_ahead is None and not changes:
                return self.stack
            return stack_of(
                self.cases,
                self.variation,
                self.body,
                self.settings,
                self.carried,
                hands_ahead,
                share,
            )

        rig = Rig(
            self.body,
            restack(None, up),
            self.limits,
            self.settings,
            self.variation.options,
            restack,
            turned_kgm,
            rolled_kgm,
            up,
            roots or {},
            self.lines if self.balances_lines else (),
            progress,
        )
        free = None if self.free in AIDS else self.free
        return BUILDERS[self.variation.builder](rig, free, progress)

    def with_aid(self) -> tuple[Batch, Array | None]:
        """The batch with its hold or seat solved, if balance is left to that, and the amount.

        With all angles given the deepest pose is fixed; what the hands or the box must do there
        for the pressure to sit where it is asked for is one division.
        """
        if self.free not in AIDS:
            return self, None
        key, nothing = str(self.free), np.zeros_like(self.body.height_m)
        unaided = self._with_amount(key, nothing)
        deep = on_the_way_down(np.array([0.0, 1.0]))
        poses = unaided.poses(deep)
        length = self.body.lengths["foot"] * np.cos(np.radians(self.settings["toe_out_deg"]))
        off = poses.pressure_fraction[:, -1:] - self.settings["pressure_fraction"]
        mass = poses.pose.system_mass_kg()[:, -1:]
        aids = tuple(line for line in self._with_amount(key, nothing + 1.0).lines if line.aid)
        pulls = line_forces(self.body, poses.pose, aids, deep.progress, deep.up_share)
        # About where the pressure shall be, not where it is without the aid.
        pulled = summed(pulls.forces[1, row] for row in range(len(pulls.segments)))
        lifts = pulled[:, -1:] / GRAVITY_M_S2
        turned = turned_by(poses, pulls)[0][:, -1:] - off * length * lifts
        with np.errstate(divide="ignore", invalid="ignore"):
            amount = -mass * off * length / turned
        amount = np.where(np.isfinite(amount), amount, 0.0)
        return self._with_amount(key, amount), amount

    def with_share_delivered(self) -> tuple[Batch, Array | None]:
        """The batch whose front legs carry the shares asked for, and the share at the bottom.

        With the feet at unequal heights the pair along their line has a part that points up: under the
        rule *least effort* the front foot carries more than the place of the mass centre says, so the
        place is searched that gives what was asked at the deepest point; at the top it is moved as far.
        None where the shares are the mass centre's own.
        """
        front, given = self.variation.has_front_leg, self.settings
        if not front or "front_share" not in given or self.rule != LEAST:
            return self, None
        if not np.any(given["rear_height_m"] != given["front_height_m"]):
            return self, None

        def delivered(share: Array) -> Array:
            batch = replace(self, settings={**given, "front_share": share})
            return ground_under(batch.poses(DEEPEST), self.body, self.lines, DEEPEST, LEAST).share

        asked = given["front_share"]
        if self.free in (None, "front_share"):
            return self, delivered(asked)
        found, settled = secant_root(
            lambda share: delivered(share) - asked,
            asked - USUAL_PAIR_SHARE,
            1.0,
            longest_step=LONGEST_SHARE_STEP,
            tolerance=SHARE_TOLERANCE,
        )
        found = np.where(settled, found, asked)
        top = given["top_share"] + found - asked
        return replace(self, settings={**given, "front_share": found, "top_share": top}), asked

    def unfaulted_pair_N(self, instants: Instants) -> Array | None:
        """The least-effort pair (N, + apart) of the same poses without their fault; None where there is none.

        Knees that cave or a pelvis that shifts are no choice: the floor is pushed as hard as without. Not a
        number for samples that have no fault: theirs is their own.
        """
        given = self.settings
        faulty = np.zeros((self.samples, 1), dtype=bool)
        for key, most in FAULTS.items():
            if key in given and given[key].any():
                faulty |= given[key] != most(given[key])
        rows = np.flatnonzero(faulty)
        if not len(rows):
            return None
        part = self if len(rows) == self.samples else self.taken(rows)
        mended = {key: most(part.settings[key]) for key, most in FAULTS.items() if key in given}
        batch, _ = replace(part, settings={**part.settings, **mended}).with_aid()
        batch, _ = batch.with_share_delivered()
        poses = batch.poses(instants)
        found = ground_under(poses, batch.body, batch.lines, instants, LEAST).pair_N
        if part is self:
            return found
        pairs = np.full((self.samples, found.shape[-1]), np.nan)
        pairs[rows] = found
        return pairs

    def _with_amount(self, key: str, amount: Array) -> Batch:
        return self.varied(settings={key: amount})


def load_changes(case: ResolvedCase) -> bool:
    """Whether masses differ between the way down and the way up."""
    extras = [load for load in case.loads if isinstance(load, MassLoad)]
    return case.up_kg != case.load_kg or any(load.when != "both" for load in extras)


def group_key(case: ResolvedCase) -> tuple[Any, ...]:
    """What must be the same for resolved cases to be worked out together."""
    sided = any(case.settings.get(key) for key in SIDED)
    return (
        kin(variation(case.variation)),
        case.free,
        case.tempo_s,
        case.contact_rule,
        case.mode,
        case.travel,
        case.style,
        sided,
        load_changes(case),
        tuple(_load_key(load) for load in case.loads),
    )


def _load_key(load: Any) -> tuple[Any, ...]:
    """What must be the same for loads of several cases to be worked out together."""
    same = ("name", "start", "end", "push_N", "table", "when", "place")
    return (type(load).__name__, *(getattr(load, key, None) for key in same))


def make_batch(cases: Sequence[ResolvedCase]) -> Batch:
    """Turn resolved cases of one group into arrays with a trailing frame axis of 1."""
    chosen = variation(cases[0].variation)
    athletes = [case.athlete for case in cases]
    given = [[case.settings[key] for key in chosen.settings] for case in cases]
    # What is left to balance is None: not a number.
    table = np.array(given, dtype=float).T[..., None]
    settings = dict(zip(chosen.settings, table, strict=True))
    carried = Carrying.at_usual_place(
        column(case.load_kg for case in cases), column(case.up_kg for case in cases)
    )
    body = bodies_of(athletes)
    return Batch(
        cases=tuple(cases),
        variation=chosen,
        free=cases[0].free,
        body=body,
        stack=usual_stack(cases, chosen, body, settings, carried),
        limits=Limits(*np.radians([[a.limit_deg(n) for a in athletes] for n in LIMITS])[..., None]),
        settings=settings,
        carried=carried,
        lines=lines_of(cases, chosen, body, settings, carried),
    )


def turned_by(poses: Poses, pulls: External) -> tuple[Array, Array]:
    """What forces turn forward about the first pressure point, and roll to the right, kg m.

    The roll is about the line between the pressure points of a split stance (one foot: about the
    forward axis through it), by a metre of that line's forward part.
    """
    places = poses.support.places
    about = places[0].points[-1] if poses.support.kind != "feet" else places[1].points[0]
    moment = turning_about(about, pulls)
    forward: Array = -moment[2]
    along = vector(1.0, 0.0, 0.0).reshape(3, *([1] * (moment.ndim - 1)))
    if poses.support.kind == "places":
        along = about - places[1].points[0]
        ahead = np.where(np.abs(along[0]) > 1e-9, along[0], 1.0)
        along = along / ahead
    roll: Array = dot(along + 0.0 * moment, moment)
    return forward, roll
