"""A session while it runs: which step, what the next set is, when a rest ends; pure, with the clock given.

Time is measured by the steady clock (`clock.steady_s`); the wall clock is only noted, and used once: to go on after a crash.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence
from dataclasses import field, replace

from zesty_lever.frozen import dataclass
from zesty_lever.log.entry import DoneSet, Entry
from zesty_lever.log.predicted import set_planned
from zesty_lever.plan.document import Session, Style
from zesty_lever.plan.steps import Step, steps_of

MORE_REST_S = 15.0


@dataclass(frozen=True)
class Countdown:
    """A rest, a hold or a minute that ends at a time of the clock."""

    ends_s: float
    length_s: float

    def left_s(self, now_s: float) -> float:
        """Seconds left; minus once it is over."""
        return self.ends_s - now_s

    def shown(self, now_s: float) -> int:
        """The number on the screen: whole seconds still left, 0 when over."""
        return max(math.ceil(self.left_s(now_s) - 1e-9), 0)

    def next_change_s(self, now_s: float) -> float:
        """How long until the number changes; at least a hundredth."""
        left = self.left_s(now_s)
        if left <= 0.0:
            return 1.0
        part = left - math.floor(left)
        return max(part if part > 1e-3 else 1.0, 0.01)

    def over_words(self, now_s: float) -> str:
        """How long ago it was over, after a sleep; empty while it runs or just over."""
        over = -self.left_s(now_s)
        if over < 5.0:
            return ""
        if over < 90.0:
            return f"rest over, {over:.0f} s ago"
        return f"rest over, {over / 60.0:.0f} min ago"

    def longer(self, by_s: float) -> Countdown:
        """The same, later."""
        return Countdown(self.ends_s + by_s, self.length_s + by_s)


@dataclass(frozen=True)
class Run:
    """A running session of one athlete. ``at`` is the step that is due; ``draft`` the set as it stands to be confirmed.

    ``countdown`` runs in rests, holds and minutes; ``began_s`` when the block of paired minutes began.
    """

    session_id: int
    athlete_id: int
    session: Session
    steps: tuple[Step, ...]
    loads: Mapping[str, float | None]
    at: int = 0
    draft: DoneSet | None = None
    countdown: Countdown | None = None
    began_s: float | None = None
    done: tuple[Entry, ...] = ()
    memory: Mapping[str, DoneSet] = field(default_factory=dict)

    @property
    def step(self) -> Step | None:
        """The step that is due; None when all is done."""
        return self.steps[self.at] if self.at < len(self.steps) else None

    @property
    def over(self) -> bool:
        """Whether every step is done."""
        return self.at >= len(self.steps)

    @property
    def next_work(self) -> Step | None:
        """The next step with work, this one left out."""
        later = self.steps[self.at + 1 :]
        return next((s for s in later if s.kind in ("work", "minute")), None)

    def style_of(self, step: Step) -> Style:
        """The style of a step's block."""
        return self.session.blocks[step.block].style

    def planned(self, step: Step) -> DoneSet:
        """The set that a step asks for; the load that was changed in an earlier set of the item stays."""
        made = set_planned(step, self.loads.get(step.item.key), self.style_of(step))
        earlier = self.memory.get(step.item.key)
        if earlier is None or self.style_of(step) == "paired-minutes":
            return made
        return made.changed(load_kg=earlier.load_kg, load_up_kg=earlier.load_up_kg)


def begin(
    session_id: int,
    athlete_id: int,
    session: Session,
    loads: Mapping[str, float | None],
    done: Sequence[Entry],
    now_s: float,
    wall_ms: int,
    marks: Mapping[str, int] | None = None,
) -> Run:
    """A run at its next step: what was confirmed already is passed over, a rest that still runs goes on.

    ``wall_ms`` and the entries' times work the rest out after a crash; ``marks`` (ms) say when blocks of paired
    minutes began.
    """
    steps = tuple(steps_of(session))
    run = Run(session_id, athlete_id, session, steps, loads, done=tuple(done))
    memory = {e.item: e.done for e in done if e.style != "ramp"}
    at = 0
    for place, step in enumerate(steps):
        if step.logs and of_step(step, done):
            at = place + 1
    run = replace(run, at=at, memory=memory)
    if not done or run.step is None:
        return _arrived(run, now_s)
    mark = (marks or {}).get(f"block-{run.step.block}")
    if run.step.kind == "minute" and mark is not None:
        run = replace(run, began_s=now_s - max(0.001 * (wall_ms - mark), 0.0))
    last = max(done, key=lambda e: e.at_ms)
    since = max(0.001 * (wall_ms - last.at_ms), 0.0)
    run = _arrived(run, now_s)
    if (
        run.countdown is not None
        and run.step is not None
        and run.step.kind in ("rest", "mini-rest")
    ):
        started = now_s - since
        length = run.countdown.length_s
        run = replace(run, countdown=Countdown(started + length, length))
    return run


def of_step(step: Step, done: Sequence[Entry]) -> list[Entry]:
    """The entries that a step made: same item and number, and where sides are apart the same side."""
    return [
        e
        for e in done
        if (e.item, e.number) == (step.item.key, step.number)
        and e.style != "ramp"
        and (step.side not in ("left", "right") or e.side == step.side)
    ]


def _arrived(run: Run, now_s: float) -> Run:
    """The run with what its step needs: a countdown, a draft."""
    step = run.step
    if step is None:
        return replace(run, draft=None, countdown=None)
    if step.kind == "minute":
        began = run.began_s
        if began is None or step.at_s == 0.0:
            began = now_s if step.at_s == 0.0 else now_s - (step.at_s or 0.0)
        ends = began + (step.at_s or 0.0) + (step.seconds or 60.0)
        draft = run.planned(step) if step.logs else None
        return replace(
            run, began_s=began, draft=draft, countdown=Countdown(ends, step.seconds or 60.0)
        )
    if step.kind in ("rest", "mini-rest"):
        length = step.seconds or 0.0
        return replace(run, draft=None, countdown=Countdown(now_s + length, length))
    return replace(run, draft=run.planned(step), countdown=None, began_s=None)


def forward(run: Run, now_s: float) -> Run:
    """To the next step, nothing logged."""
    return _arrived(replace(run, at=min(run.at + 1, len(run.steps))), now_s)


def back(run: Run, now_s: float) -> Run:
    """To the work step before."""
    at = run.at - 1
    while at > 0 and run.steps[at].kind not in ("work", "minute"):
        at -= 1
    return _arrived(replace(run, at=max(at, 0), began_s=None), now_s)


def confirmed(run: Run, entry: Entry, now_s: float) -> Run:
    """After a set was confirmed: it is remembered and the next step is due."""
    kept = replace(
        run,
        done=(*run.done, entry),
        memory={**run.memory, entry.item: entry.done},
    )
    return forward(kept, now_s)


def hold_begun(run: Run, now_s: float) -> Run:
    """A hold's own countdown begins."""
    step = run.step
    if step is None or step.seconds is None or step.kind != "work":
        return run
    return replace(run, countdown=Countdown(now_s + step.seconds, step.seconds))


def rested_more(run: Run, by_s: float = MORE_REST_S) -> Run:
    """So much more rest."""
    if run.countdown is None or run.step is None or run.step.kind not in ("rest", "mini-rest"):
        return run
    return replace(run, countdown=run.countdown.longer(by_s))


def tick(run: Run, now_s: float) -> Run:
    """What the clock alone moves on: minutes that are over (several after a sleep are passed in one go)."""
    step = run.step
    if step is None or step.kind != "minute" or run.countdown is None:
        return run
    moved = run
    while moved.step is not None and moved.step.kind == "minute" and moved.countdown is not None:
        if moved.countdown.left_s(now_s) > 0.0 or moved.step.logs:
            break
        moved = forward(moved, now_s)
    return moved


def changed(run: Run, change: Callable[[DoneSet], DoneSet]) -> Run:
    """The draft changed by hand."""
    return run if run.draft is None else replace(run, draft=change(run.draft))
