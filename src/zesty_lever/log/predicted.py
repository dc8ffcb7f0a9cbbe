"""What a planned session would give each joint, set by set, from the same mechanics as the log."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field

from zesty_lever.cases.model import Athlete, Case
from zesty_lever.choosing.loading import USUAL, TypicalRules
from zesty_lever.joints import COACH_JOINTS
from zesty_lever.log.entry import DoneSet, Side
from zesty_lever.log.exposure import (
    Exposure,
    Reference,
    RepLoad,
    case_of,
    direction_of,
    exposure_of,
    hash_of,
    rep_loads,
)
from zesty_lever.plan.document import Session, Style, Week
from zesty_lever.plan.loads import working_load
from zesty_lever.plan.steps import Step, steps_of
from zesty_lever.problems import CaseError

SIDES: Mapping[str, Side] = {"left": "left", "right": "right"}


def set_planned(step: Step, load_kg: float | None, style: Style) -> DoneSet:
    """The set that a step asks for: the middle of its range, its tempo, its side."""
    item = step.item
    low, high = item.reps
    reps = (low + high) // 2
    if step.minis > 1:
        reps = (item.mini_reps or low) * step.minis
    held = item.seconds is not None and (style == "holds" or item.setup is None)
    return DoneSet(
        setup=item.setup,
        drill=item.drill,
        item=item.key,
        number=step.number,
        style=style,
        side=SIDES.get(step.side, "both"),
        load_kg=(load_kg or 0.0) + step.add_kg,
        load_up_kg=item.load_up_kg if style == "two-load" else None,
        reps=0 if held else reps,
        seconds=item.seconds if held else None,
        tempo_s=item.tempo_s,
        pause_s=item.pause_s,
        rest_s=item.rest_s,
    )


def sets_planned(
    session: Session,
    athlete: Athlete,
    rules: TypicalRules = USUAL,
    advised: Mapping[str, float] | None = None,
) -> Iterator[DoneSet]:
    """Every set of a session as it is planned; ``advised`` loads (kg) by item key."""
    loads: dict[str, float | None] = {}
    for step in steps_of(session):
        if not step.logs:
            continue
        key = step.item.key
        if key not in loads:
            try:
                loads[key] = working_load(step.item, athlete, rules, (advised or {}).get(key))[0]
            except CaseError:
                loads[key] = step.item.load_kg
        yield set_planned(step, loads[key], session.blocks[step.block].style)


@dataclass
class Prediction:
    """Works planned exposure out and keeps repetitions by case, so that a changed dose costs nothing new."""

    athlete: Athlete
    rules: TypicalRules = USUAL
    known: dict[str, RepLoad] = field(default_factory=dict)

    def of_session(
        self, session: Session, reference: Reference | None = None
    ) -> dict[str, Exposure]:
        """Exposure by direction of load; what has no case is under the empty direction."""
        sets = list(sets_planned(session, self.athlete, self.rules))
        cases: dict[str, Case] = {}
        names: list[tuple[DoneSet, str, str]] = []
        for done in sets:
            try:
                case = case_of(done, self.athlete)
                name = hash_of(case)
            except CaseError as error:
                names.append((done, "", "" if done.setup is None else error.text))
                continue
            names.append((done, name, ""))
            if name not in self.known:
                cases[name] = case
        found = rep_loads(list(cases.values()))
        self.known.update(zip(cases, found, strict=True))
        total: dict[str, Exposure] = {}
        for done, name, why in names:
            rep = self.known.get(name)
            if why:
                one = Exposure(sets=1, uncounted={f"{done.name}: {why}": 1})
            else:
                one = exposure_of(done, rep, reference)
            direction = direction_of(done.name) if rep is not None else ""
            total[direction] = total.get(direction, Exposure()) + one
        return total

    def steps(
        self, weeks: Sequence[Week], reference: Reference | None = None
    ) -> list[Mapping[str, float]]:
        """What each week adds up to for hip, knee and lower back beside the last full week before it, as ratios.

        The first week, and one after nothing, has none. A lighter week is held against the one before and holds
        nothing against the next.
        """
        found: list[Mapping[str, float]] = []
        before: Exposure | None = None
        for week in weeks:
            total = sum(self.of_week(week, reference).values(), start=Exposure())
            ratios = {}
            if before is not None:
                for group in COACH_JOINTS:
                    was = before.of(group.key)
                    if was > 0.0:
                        ratios[group.key] = total.of(group.key) / was
            found.append(ratios)
            if not week.deload:
                before = total
        return found

    def of_week(self, week: Week, reference: Reference | None = None) -> dict[str, Exposure]:
        """The same for a week."""
        total: dict[str, Exposure] = {}
        for session in week.sessions:
            for direction, one in self.of_session(session, reference).items():
                total[direction] = total.get(direction, Exposure()) + one
        return total
