"""What to load next time: stop, lighter, choose, hold, up, start, with why and the sets it rests on.

It proposes; the coach decides. One function for every screen and command. Rules are data (`coaching.numbers`). Loads
are those that the gym can make.
"""

from __future__ import annotations

import itertools
from dataclasses import replace

from zesty_lever.coaching.who import BALANCE, NOT_FOR_THE_YOUNG, pattern_of
from zesty_lever.exercises.catalogue import catalogue, variation
from zesty_lever.log.asked import Advice, Asked, Question
from zesty_lever.log.caps import capped
from zesty_lever.log.firsts import first_back, unknown_track
from zesty_lever.log.instead import kin_instead
from zesty_lever.log.known import Known, known_of, watched
from zesty_lever.log.lighter import lighter
from zesty_lever.log.progress import bad_running, held, up
from zesty_lever.log.ramp import ramp_for
from zesty_lever.log.sides import by_sides
from zesty_lever.log.stopping import beside_hurts, cleared_here, spared_on_return, stopped
from zesty_lever.log.stuck import choices, lighter_week
from zesty_lever.messages import Style, message


def advise(question: Question) -> Advice:
    """Advice for what is planned. Never without a reason. Raises `CaseError` for an unknown variation."""
    known = known_of(question)
    found = stopped(known) or _not_yet(known) or _of_track(known)
    if found.action in ("stop", "choose") and found.load_kg is None:
        return _with_week(known, found)
    found = capped(question, known.loads_kg, known.visits, found)
    found = beside_hurts(known, spared_on_return(known, found))
    found = _said_who(known, found)
    ramp = (
        () if found.load_kg is None else ramp_for(known.entry, found.load_kg, question.typical.gym)
    )
    seen = found.see_clinician or any(said.id == "pain.watched" for said in found.says)
    return _with_week(known, replace(found, ramp=ramp, see_clinician=seen))


def _not_yet(known: Known) -> Advice | None:
    """A lift or a style that is not for them yet: a choice of simpler kin."""
    why = known.who.why_not(known.entry, known.typical.standing)
    if why is None:
        return None
    instead = kin_instead(known.question, known.typical, simpler=True)
    return Advice("choose", None, (why, *known.who.says), instead=instead)


def _said_who(known: Known, found: Advice) -> Advice:
    """One sentence for each thing of who lifts that changed the answer."""
    style = known.planned.dose.style
    if known.who.young and style in NOT_FOR_THE_YOUNG:
        found = replace(found, says=(*found.says, message("who.young_style", style=Style(style))))
    elif not known.who.may_style(style):
        found = replace(found, says=(*found.says, message("who.simple_style", style=Style(style))))
    if known.who.late and known.entry.id in BALANCE:
        found = replace(found, says=(*found.says, message("who.balance_planned")))
    own = known.who.says if found.action in ("start", "choose") else known.who.slowly
    missing = [said for said in own if said not in found.says]
    return replace(found, says=(*found.says, *missing)) if known.who.careful else found


def _of_track(known: Known) -> Advice:
    """What the rules of this track say; another track converted, or a first load, where it was never done."""
    if not known.visits:
        return unknown_track(known)
    asked = _asked(known)
    back = first_back(known, asked)
    if back is not None:
        return back
    less = lighter(asked)
    if less is not None:
        return less
    if bad_running(asked) >= _stuck_after(known):
        return choices(known.question, known.typical, asked)
    found = held(asked) or up(asked)
    found = by_sides(asked, found)
    if not found.entries:
        found = replace(found, entries=asked.last.keys)
    return found


def _stuck_after(known: Known) -> int:
    """So many sessions running without a good one are enough."""
    return int(known.question.rules.stuck_sessions)


def _asked(known: Known) -> Asked:
    question, rules = known.question, known.question.rules
    return Asked(
        known.planned.dose,
        known.visits,
        question.today,
        known.who,
        known.loads_kg,
        known.away_days,
        _came_back(known),
        watched(known),
        cleared_here(known),
        rules,
    )


def _came_back(known: Known) -> int | None:
    """The day on which the newest break of this pattern ended; None where there was none."""
    own = pattern_of(known.entry)
    days = sorted(
        {
            s.day
            for s in known.sessions
            for one in s.sets
            if one.done.setup is not None
            and one.done.name in catalogue()
            and pattern_of(variation(one.done.name)) == own
        }
    )
    ends = [
        later
        for earlier, later in itertools.pairwise(days)
        if later - earlier >= known.question.rules.away_days_1
    ]
    return ends[-1] if ends else None


def _with_week(known: Known, found: Advice) -> Advice:
    week = lighter_week(known.question, known.sessions)
    return found if week is None else replace(found, lighter_week=week)
