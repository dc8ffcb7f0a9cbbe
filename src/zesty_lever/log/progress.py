"""Advice: the same again, or more, by the styles of sets."""

from __future__ import annotations

import itertools
from collections.abc import Callable, Mapping
from dataclasses import replace

from zesty_lever.log.asked import (
    Action,
    Advice,
    Asked,
    Visit,
    day_words,
    made_below,
    reps_wanted,
    wanted_reps,
)
from zesty_lever.log.rules import say


def why_not_good(asked: Asked, visit: Visit) -> str:
    """Why a session was no good one, in words; empty: it was."""
    day = day_words(visit.day)
    pains = [p for _, p in visit.pains if p.score > 0]
    if pains:
        worst = max(pains, key=lambda p: p.score)
        return say("hold_pain", score=worst.score, place=worst.place, day=day)
    if any(e.flagged for e in visit.sets):
        return say("hold_reps", day=day)
    return _too_little(asked, visit, day) or _too_hard(asked, visit, day)


def _too_little(asked: Asked, visit: Visit, day: str) -> str:
    """Whether something of the dose is lacking."""
    dose = asked.dose
    if dose.style == "holds" or dose.seconds is not None:
        wanted = _wanted_seconds(asked)
        short = any((e.seconds or 0.0) < wanted - 1e-9 for e in visit.sets)
        return say("hold_seconds", day=day) if short else ""
    least = wanted_reps(asked)
    if dose.style == "constant-tension":
        least = int(asked.rules.tension_up)
    elif dose.style == "rest-pause":
        least = int(asked.rules.rest_pause_least)
    return say("hold_reps", day=day) if any(e.reps < least for e in visit.sets) else ""


def _too_hard(asked: Asked, visit: Visit, day: str) -> str:
    """Whether too little was left, the rests grew, or the load was not kept."""
    rules, dose = asked.rules, asked.dose
    left = [e.effort_left for e in visit.sets if e.effort_left is not None]
    wanted = rules.effort_left if dose.effort_left is None else dose.effort_left
    if left and min(left) < wanted and dose.style not in ("constant-tension", "paired-minutes"):
        return say("hold_effort", day=day, left=min(left), wanted=wanted)
    rests = [e.rest_s for e in visit.sets if e.rest_s is not None]
    if dose.style == "clusters" and rests and max(rests) > rules.cluster_rest:
        return say("hold_rest", most=rules.cluster_rest, day=day)
    level = dose.style != "paired-minutes"
    if level and any(abs(e.load_kg - visit.load_kg) > 1e-6 for e in visit.sets):
        return say("hold_load", day=day)
    return ""


def _wanted_seconds(asked: Asked) -> float:
    """What a hold should last: what was held last (the shortest set), at least what the dose says."""
    return asked.dose.seconds or 0.0


def _good_running(asked: Asked) -> int:
    """How many of the last sessions running were good, at the load of the last one."""
    count, load = 0, asked.visits[-1].load_kg
    for visit in reversed(asked.visits):
        if why_not_good(asked, visit) or abs(visit.load_kg - load) > 1e-6:
            break
        count += 1
    return count


def _good_wanted(asked: Asked) -> int:
    rules = asked.rules
    slow = asked.stage in ("beginner", "back-from-injury") or _back_lately(asked)
    return int(rules.good_sessions_beginner if slow else rules.good_sessions)


def _back_lately(asked: Asked) -> bool:
    """Whether a break ended within the last two weeks: one counts as a beginner then."""
    days = [visit.day for visit in asked.visits]
    return any(
        later - earlier >= asked.rules.away_days_1 and asked.today - later < asked.rules.back_days
        for earlier, later in itertools.pairwise(days)
    )


def held(asked: Asked) -> Advice | None:
    """The same load again, with why; None where it is time for more."""
    last = asked.visits[-1]
    if asked.dose.style == "paired-minutes":
        return None
    why = why_not_good(asked, last)
    if not why:
        count, wanted = _good_running(asked), _good_wanted(asked)
        if count >= wanted:
            return None
        why = say("hold_good", count=count, wanted=wanted)
    return same_again(asked, "hold", (why,))


def same_again(asked: Asked, action: Action, words: tuple[str, ...]) -> Advice:
    """The same load and target again."""
    last = asked.visits[-1]
    minis = asked.dose.minis if asked.dose.style == "clusters" else None
    ups = [e.load_up_kg for e in last.sets if e.load_up_kg is not None]
    load = made_below(asked.loads_kg, last.load_kg) if asked.loads_kg else last.load_kg
    return Advice(
        action,
        last.load_kg if load is None else load,
        words,
        tuple(e.id for e in last.sets),
        reps_wanted(asked),
        asked.dose.seconds,
        minis,
        load_up_kg=max(ups) if asked.dose.style == "two-load" and ups else None,
    )


def up(asked: Asked) -> Advice:
    """More: repetitions, seconds, mini-sets or load, as the style goes."""
    styles: Mapping[str, Callable[[Asked], Advice]] = {
        "holds": _longer,
        "clusters": _more_minis,
        "constant-tension": _more_tension,
        "paired-minutes": _later_minutes,
        "two-load": _base_then_extra,
    }
    if asked.dose.seconds is not None:
        return _longer(asked)
    return styles.get(asked.dose.style, _more)(asked)


def _next_load(asked: Asked) -> float | None:
    load = asked.visits[-1].load_kg
    return next((kg for kg in asked.loads_kg if kg > load + 1e-9), None)


def _good_ids(asked: Asked) -> tuple[int, ...]:
    count = _good_wanted(asked)
    return tuple(e.id for visit in list(asked.visits)[-count:] for e in visit.sets)


def _more(asked: Asked) -> Advice:
    """Repetitions to the top of the range in every set, then the smallest step, back to the bottom."""
    low, high = asked.dose.reps
    last, count, rules = asked.visits[-1], _good_running(asked), asked.rules
    least = min(e.reps for e in last.sets)
    base = replace(same_again(asked, "up", ()), entries=_good_ids(asked))
    if least < high:
        return replace(
            base, words=(say("up_reps", count=count, high=high),), reps=(least + 1, high)
        )
    higher = _next_load(asked)
    if higher is None:
        return replace(base, action="hold", words=(say("hold_nothing_heavier"),))
    load = last.load_kg
    share = (higher - load) / load if load else 0.0
    top = high + int(rules.reps_above)
    if share > rules.step_waits + 1e-9 and least < top:
        words = say("up_wait", next=higher, share=100 * share, above=int(rules.reps_above))
        return replace(base, words=(words,), reps=(least + 1, top))
    words = say("up_load", count=count, step=higher - load, low=low)
    return replace(base, words=(words,), load_kg=higher, reps=(low, high))


def _longer(asked: Asked) -> Advice:
    rules, last = asked.rules, asked.visits[-1]
    held = min((e.seconds or 0.0) for e in last.sets)
    base = replace(same_again(asked, "up", ()), entries=_good_ids(asked), reps=None)
    count = _good_running(asked)
    if held + 1e-9 < rules.hold_most:
        longer = min(held + rules.hold_step, rules.hold_most)
        words = say("up_seconds", count=count, step=longer - held)
        return replace(base, words=(words,), seconds=longer)
    shortest = asked.dose.seconds or rules.hold_step
    higher = _next_load(asked)
    words = say("up_hold_load", most=rules.hold_most, low=shortest)
    return replace(base, words=(words,), load_kg=higher or base.load_kg, seconds=shortest)


def _more_minis(asked: Asked) -> Advice:
    rules, last, dose = asked.rules, asked.visits[-1], asked.dose
    base = replace(same_again(asked, "up", ()), entries=_good_ids(asked))
    minis = min(e.reps for e in last.sets) // dose.mini_reps
    if minis < rules.cluster_most:
        words = say("up_minis", count=_good_running(asked), most=int(rules.cluster_most))
        return replace(base, words=(words,), minis=minis + 1)
    higher = _next_load(asked)
    if higher is None:
        return replace(base, action="hold", words=(say("hold_nothing_heavier"),))
    least = int(rules.cluster_least)
    words = say("up_cluster", most=int(rules.cluster_most), least=least)
    return replace(base, words=(words,), load_kg=higher, minis=least)


def _more_tension(asked: Asked) -> Advice:
    base = replace(same_again(asked, "up", ()), entries=_good_ids(asked))
    higher = _next_load(asked)
    if higher is None:
        return replace(base, action="hold", words=(say("hold_nothing_heavier"),))
    words = say("up_tension", reps=int(asked.rules.tension_up))
    return replace(base, words=(words,), load_kg=higher)


def _later_minutes(asked: Asked) -> Advice:
    """Paired minutes: by the last even minute; the load is that of the first one."""
    last = asked.visits[-1]
    first, end = last.sets[0], last.sets[-1]
    base = replace(same_again(asked, "up", ()), load_kg=first.load_kg)
    if end.reps < asked.dose.reps[0] or end.flagged:
        words = say("lighter_pairs", day=day_words(last.day))
        return replace(base, action="lighter", words=(words,), entries=(end.id,))
    pained = [p for _, p in last.pains if p.score > 0]
    if pained:
        return replace(base, action="hold", words=(why_not_good(asked, last),))
    step = asked.dose.step_kg or 0.0
    higher = next((kg for kg in asked.loads_kg if kg >= first.load_kg + max(step, 1e-6)), None)
    return replace(
        base, words=(say("up_pairs"),), load_kg=higher or first.load_kg, entries=(end.id,)
    )


def _base_then_extra(asked: Asked) -> Advice:
    """Two loads: the base goes up first, then the extra."""
    base = replace(same_again(asked, "up", ()), entries=_good_ids(asked))
    last = asked.visits[-1]
    extra = (base.load_up_kg or last.load_kg) - last.load_kg
    higher, count = _next_load(asked), _good_running(asked)
    loads = [visit.load_kg for visit in asked.visits]
    base_rose_last = any(kg < loads[-1] - 1e-9 for kg in loads)
    if base_rose_last or higher is None:
        up = last.load_kg + extra
        above = [kg for kg in asked.loads_kg if kg > up + 1e-9] if extra >= 0 else []
        below = [kg for kg in asked.loads_kg if kg < up - 1e-9] if extra < 0 else []
        wider = above[0] if above else below[-1] if below else up
        words = say("up_extra", count=count, step=abs(wider - up))
        return replace(base, words=(words,), load_up_kg=wider)
    words = say("up_base", count=count, step=higher - last.load_kg)
    return replace(base, words=(words,), load_kg=higher, load_up_kg=higher + extra)
