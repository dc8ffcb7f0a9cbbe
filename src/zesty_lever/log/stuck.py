"""When it does not go on: a choice after sessions without a good one, and a lighter week where much speaks for it."""

from __future__ import annotations

import itertools
from collections.abc import Sequence

from zesty_lever.choosing.loading import TypicalRules
from zesty_lever.log.asked import (
    Advice,
    Asked,
    Instead,
    LighterWeek,
    PastSession,
    Question,
    made_below,
)
from zesty_lever.log.instead import near_kin
from zesty_lever.log.progress import bad_running, why_not_good
from zesty_lever.log.tracks import visits_to
from zesty_lever.messages import Message, Share, message

# A visit counts as lightened from this share below the one before.
LIGHTENED = 0.04


def choices(question: Question, typical: TypicalRules, asked: Asked) -> Advice:
    """Not the same again: less and build up, fewer repetitions at the load, or kin, each with its reason."""
    last, rules = asked.last, asked.rules
    name = question.planned.setup.variation
    found: list[Instead] = []
    less = made_below(asked.loads_kg, (1.0 - rules.lighter_share) * last.load_kg)
    if less is not None and 0.0 < less < last.load_kg:
        share = Share(rules.lighter_share)
        found.append(Instead(name, less, message("instead.build_up", share=share)))
    if not asked.dose.held and asked.dose.reps[0] > 1:
        fewer = max(asked.dose.reps[0] - 2, 1)
        found.append(Instead(name, last.load_kg, message("instead.fewer_reps", reps=fewer)))
    found += near_kin(question, typical)
    why = why_not_good(asked, last)
    says: tuple[Message, ...] = (message("advice.stuck", count=bad_running(asked)),)
    if why is not None:
        says = (*says, why)
    return Advice("choose", None, says, last.keys, instead=tuple(found))


def lighter_week(question: Question, sessions: Sequence[PastSession]) -> LighterWeek | None:
    """A lighter week, and what speaks for it; None where nothing does, or one has just been."""
    rules = question.rules
    if sessions and sessions[-1].deload:
        return None
    why = (
        _rated_hard(question, sessions)
        or _rising(question, sessions)
        or _eased_often(question, sessions)
    )
    return None if why is None else LighterWeek(rules.deload_sets, rules.deload_load, why)


def _rated_hard(question: Question, sessions: Sequence[PastSession]) -> Message | None:
    rules = question.rules
    count = int(rules.hard_sessions)
    ratings = [s.rating for s in sessions if s.rating is not None and not s.deload][-count:]
    hard = len(ratings) == count and all(r >= rules.hard_rating for r in ratings)
    return message("week.hard", count=count, rating=int(rules.hard_rating)) if hard else None


def _rising(question: Question, sessions: Sequence[PastSession]) -> Message | None:
    """Pain or faults rising over four weeks in two lifts: more in the second half than in the first."""
    rules, today = question.rules, question.today
    span = int(rules.rising_days)
    recent = [s for s in sessions if today - s.day < span]
    half = today - span // 2
    trouble: dict[str, list[float]] = {}
    for session in recent:
        for one in session.sets:
            if one.done.setup is None:
                continue
            size = sum(f.score for f in one.felt) + len(one.done.faults)
            trouble.setdefault(one.done.name, [0.0, 0.0])[session.day > half] += size
    lifts = [name for name, (first, second) in trouble.items() if second > first > 0.0]
    return message("week.rising", count=len(lifts)) if len(lifts) >= rules.rising_lifts else None


def _eased_often(question: Question, sessions: Sequence[PastSession]) -> Message | None:
    """So many lightenings of this track within eight weeks."""
    rules, planned = question.rules, question.planned
    visits = visits_to(sessions, planned.setup, planned.dose, rules)
    eased = [
        later
        for before, later in itertools.pairwise(visits)
        if later.load_kg < (1.0 - LIGHTENED) * before.load_kg
        and question.today - later.day <= rules.easing_days
    ]
    if len(eased) < rules.easings:
        return None
    return message("week.eased", count=len(eased), weeks=int(rules.easing_days) // 7)
