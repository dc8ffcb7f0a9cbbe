"""Other ways: lighter or simpler kin of a lift, and lifts that spare what hurts. Each asked like any other lift."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import replace

from zesty_lever.cases.model import Case
from zesty_lever.choosing.loading import TypicalRules, proposed_load
from zesty_lever.choosing.places import looked_at_instead
from zesty_lever.coaching.who import Hurt, pattern_of
from zesty_lever.exercises.catalogue import catalogue, variation
from zesty_lever.log.asked import MOST_INSTEAD, Instead, Question
from zesty_lever.messages import Message, Place, message
from zesty_lever.problems import CaseError

# Patterns that stand in for one another where a lift is too heavy or too demanding.
KIN = {
    "squat": ("squat", "one-leg"),
    "one-leg": ("one-leg", "squat"),
    "floor-pull": ("hinge", "floor-pull"),
    "hinge": ("hinge", "bridge"),
    "bridge": ("bridge", "hinge"),
}


def kin_instead(
    question: Question, typical: TypicalRules, *, simpler: bool = False
) -> tuple[Instead, ...]:
    """Lighter kin of what is planned: simple ones first, in the catalogue's order."""
    own = variation(question.planned.setup.variation)
    patterns = KIN[pattern_of(own)]
    able = [
        entry
        for entry in catalogue().values()
        if entry.id != own.id
        and pattern_of(entry) in patterns
        and entry.skill <= (own.skill - 1 if simpler else max(own.skill, 1))
    ]
    able.sort(key=lambda e: (e.skill, patterns.index(pattern_of(e)), e.order))
    why = message("instead.simpler") if simpler else message("instead.lighter")
    return _asked(question, typical, ((entry.id, why) for entry in able))


def near_kin(question: Question, typical: TypicalRules) -> tuple[Instead, ...]:
    """Lifts of the same pattern that take about as much: another way when a lift does not go on."""
    own = variation(question.planned.setup.variation)
    share = None if own.load is None else own.load.share_of_back_squat
    able = [
        (abs((entry.load.share_of_back_squat or 0.0) - (share or 0.0)), entry.order, entry.id)
        for entry in catalogue().values()
        if entry.id != own.id
        and pattern_of(entry) == pattern_of(own)
        and entry.skill <= own.skill
        and entry.load is not None
    ]
    why = message("instead.kin")
    return _asked(question, typical, ((name, why) for _, _, name in sorted(able)))[:1]


def spared_instead(
    question: Question, typical: TypicalRules, hurts: Sequence[Hurt]
) -> tuple[Instead, ...]:
    """Lifts that stay far below all that the stopped lift asked of the place."""
    own = question.planned.setup.variation
    hurt = hurts[0]
    why = message("instead.spares", place=Place(hurt.place, hurt.side))
    names = (name for name in looked_at_instead(hurt.place) if name != own)
    standing = replace(typical.standing, hurts=tuple({*typical.standing.hurts, *hurts}))
    return _asked(question, replace(typical, standing=standing), ((name, why) for name in names))


def _asked(
    question: Question, typical: TypicalRules, candidates: Iterable[tuple[str, Message]]
) -> tuple[Instead, ...]:
    """The first few of the candidates that may be proposed, each with its load."""
    found: list[Instead] = []
    school = question.planned.setup.school
    for name, why in candidates:
        case = Case(athlete=question.athlete, variation=name, school=school, frames="none")
        try:
            load = proposed_load(case, typical).load_kg
        except CaseError:
            continue
        if load is not None:
            found.append(Instead(name, load, why))
        if len(found) == MOST_INSTEAD:
            break
    return tuple(found)
