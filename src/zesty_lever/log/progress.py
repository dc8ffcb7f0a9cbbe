"""Advice: the same again, or more, by the styles of sets. Each session is judged by the dose of its day."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import replace

from zesty_lever.log.asked import Action, Advice, Asked, Visit, made_below, reps_wanted
from zesty_lever.messages import Day, Kg, Message, Place, Share, message


def why_not_good(asked: Asked, visit: Visit) -> Message | None:
    """Why a session was no good one; None: it was."""
    day = Day(visit.day)
    pains = [p for p in visit.pains if p.score > 0]
    if pains:
        worst = max(pains, key=lambda p: p.score)
        place = Place(worst.place, worst.side)
        return message("advice.hold_pain", score=worst.score, place=place, day=day)
    if any(one.done.flagged for one in visit.sets):
        return message("advice.hold_fault", day=day)
    return _too_little(asked, visit, day) or _too_hard(asked, visit, day)


def _too_little(asked: Asked, visit: Visit, day: Day) -> Message | None:
    """Whether something of the dose of that day is lacking: sets, seconds, repetitions."""
    dose = visit.dose
    style = asked.dose.style
    least = {
        "constant-tension": int(asked.rules.tension_up),
        "rest-pause": int(asked.rules.rest_pause_least),
    }.get(style, 0)
    if dose is not None:
        if dose.sets is not None and len(visit.sets) < dose.sets and style != "paired-minutes":
            count = len(visit.sets)
            return message("advice.hold_sets", count=count, wanted=dose.sets, day=day)
        if dose.held:
            wanted = dose.seconds or 0.0
            short = any((one.done.seconds or 0.0) < wanted - 1e-9 for one in visit.sets)
            return message("advice.hold_seconds", day=day) if short else None
        least = least or dose.least_reps
    short = any(one.done.reps < least for one in visit.sets)
    return message("advice.hold_reps", day=day) if short else None


def _too_hard(asked: Asked, visit: Visit, day: Day) -> Message | None:
    """Whether too little was left, the rests grew, or the load was not kept."""
    rules, dose, style = asked.rules, visit.dose, asked.dose.style
    left = [one.done.effort_left for one in visit.sets if one.done.effort_left is not None]
    told = None if dose is None else dose.effort_left
    wanted = rules.effort_left if told is None else told
    if left and min(left) < wanted and style not in ("constant-tension", "paired-minutes"):
        return message("advice.hold_effort", day=day, left=min(left), wanted=wanted)
    rests = [one.done.rest_s for one in visit.sets if one.done.rest_s is not None]
    if style == "clusters" and rests and max(rests) > rules.cluster_rest:
        return message("advice.hold_rest", most=rules.cluster_rest, day=day)
    if style != "paired-minutes" and not visit.whole:
        return message("advice.hold_load", day=day)
    return None


def good_running(asked: Asked) -> int:
    """How many of the last sessions running were good, at the load of the last one."""
    count, load = 0, asked.last.load_kg
    for visit in reversed(asked.visits):
        apart = abs(visit.load_kg - load) > asked.rules.same_load * load + 1e-6
        if apart or why_not_good(asked, visit) is not None:
            break
        count += 1
    return count


def bad_running(asked: Asked) -> int:
    """How many of the last sessions running were no good ones."""
    count = 0
    for visit in reversed(asked.visits):
        if why_not_good(asked, visit) is None:
            break
        count += 1
    return count


def good_wanted(asked: Asked) -> int:
    """How many good sessions running before more: one more for who is careful, or came back lately."""
    back = asked.came_back
    # By the day of the last visit: waiting alone earns nothing.
    lately = back is not None and asked.last.day - back < asked.rules.back_days
    rules = asked.rules
    return int(rules.good_sessions_beginner) if lately else asked.who.good_sessions


def held(asked: Asked) -> Advice | None:
    """The same load again, with why; None where it is time for more."""
    if asked.dose.style == "paired-minutes":
        return same_again(asked, "hold", asked.watched) if asked.watched else None
    why = why_not_good(asked, asked.last)
    if why is None:
        count, wanted = good_running(asked), good_wanted(asked)
        if count >= wanted:
            return same_again(asked, "hold", asked.watched) if asked.watched else None
        why = message("advice.hold_good", count=count, wanted=wanted)
    return same_again(asked, "hold", (why, *asked.watched))


def same_again(asked: Asked, action: Action, says: tuple[Message, ...]) -> Advice:
    """The same load and target again."""
    last = asked.last
    minis = asked.dose.minis if asked.dose.style == "clusters" else None
    ups = [s.done.load_up_kg for s in last.sets if s.done.load_up_kg is not None]
    load = made_below(asked.loads_kg, last.load_kg) if asked.loads_kg else last.load_kg
    if action == "hold":
        says = (*says, message("advice.again"))
    return Advice(
        action,
        last.load_kg if load is None else load,
        says,
        last.keys,
        reps_wanted(asked.dose),
        asked.dose.seconds,
        minis,
        load_up_kg=max(ups) if asked.dose.style == "two-load" and ups else None,
        sets=asked.dose.sets,
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
    load = asked.last.load_kg
    return next((kg for kg in asked.loads_kg if kg > load + 1e-9), None)


def _good_ids(asked: Asked) -> tuple[int, ...]:
    count = good_wanted(asked)
    return tuple(key for visit in list(asked.visits)[-count:] for key in visit.keys)


def _more(asked: Asked) -> Advice:
    """Repetitions to the top of the range in every set, then the smallest step, back to the bottom."""
    low, high = asked.dose.reps
    last, count, rules = asked.last, good_running(asked), asked.rules
    least = min(s.done.reps for s in last.sets)
    base = replace(same_again(asked, "up", ()), entries=_good_ids(asked))
    if least < high:
        return replace(
            base, says=(message("advice.up_reps", count=count, high=high),), reps=(least + 1, high)
        )
    higher = _next_load(asked)
    if higher is None:
        return replace(base, action="hold", says=(message("advice.hold_nothing_heavier"),))
    load = last.load_kg
    share = (higher - load) / load if load else 0.0
    top = high + int(rules.reps_above)
    if share > rules.step_waits + 1e-9 and least < top:
        said = message(
            "advice.up_wait", next=Kg(higher), share=Share(share), above=int(rules.reps_above)
        )
        return replace(base, says=(said,), reps=(least + 1, top))
    said = message("advice.up_load", count=count, step=Kg(higher - load), low=low)
    return replace(base, says=(said,), load_kg=higher, reps=(low, high))


def _longer(asked: Asked) -> Advice:
    rules, last = asked.rules, asked.last
    held = min((s.done.seconds or 0.0) for s in last.sets)
    base = replace(same_again(asked, "up", ()), entries=_good_ids(asked), reps=None)
    count = good_running(asked)
    if held + 1e-9 < rules.hold_most:
        longer = min(held + rules.hold_step, rules.hold_most)
        said = message("advice.up_seconds", count=count, step=longer - held)
        return replace(base, says=(said,), seconds=longer)
    shortest = asked.dose.seconds or rules.hold_step
    higher = _next_load(asked)
    said = message("advice.up_hold_load", most=rules.hold_most, low=shortest)
    return replace(base, says=(said,), load_kg=higher or base.load_kg, seconds=shortest)


def _more_minis(asked: Asked) -> Advice:
    rules, last, dose = asked.rules, asked.last, asked.dose
    base = replace(same_again(asked, "up", ()), entries=_good_ids(asked))
    minis = min(s.done.reps for s in last.sets) // dose.mini_reps
    if minis < rules.cluster_most:
        said = message("advice.up_minis", count=good_running(asked), most=int(rules.cluster_most))
        return replace(base, says=(said,), minis=minis + 1)
    higher = _next_load(asked)
    if higher is None:
        return replace(base, action="hold", says=(message("advice.hold_nothing_heavier"),))
    least = int(rules.cluster_least)
    said = message("advice.up_cluster", most=int(rules.cluster_most), least=least)
    return replace(base, says=(said,), load_kg=higher, minis=least)


def _more_tension(asked: Asked) -> Advice:
    base = replace(same_again(asked, "up", ()), entries=_good_ids(asked))
    higher = _next_load(asked)
    if higher is None:
        return replace(base, action="hold", says=(message("advice.hold_nothing_heavier"),))
    said = message("advice.up_tension", reps=int(asked.rules.tension_up))
    return replace(base, says=(said,), load_kg=higher)


def _later_minutes(asked: Asked) -> Advice:
    """Paired minutes: by the last even minute; the load is that of the first one."""
    last = asked.last
    first, end = last.sets[0].done, last.sets[-1].done
    keys = (last.sets[-1].key,)
    base = replace(same_again(asked, "up", ()), load_kg=first.load_kg)
    wanted = (last.dose or asked.dose).reps[0]
    if end.reps < wanted or end.flagged:
        said = message("advice.lighter_pairs", day=Day(last.day))
        return replace(base, action="lighter", says=(said,), entries=keys)
    why = why_not_good(asked, last) if any(p.score > 0 for p in last.pains) else None
    if why is not None:
        return replace(base, action="hold", says=(why, message("advice.again")))
    step = asked.dose.step_kg or 0.0
    higher = next((kg for kg in asked.loads_kg if kg >= first.load_kg + max(step, 1e-6)), None)
    return replace(
        base, says=(message("advice.up_pairs"),), load_kg=higher or first.load_kg, entries=keys
    )


def _base_then_extra(asked: Asked) -> Advice:
    """Two loads: the base goes up first, then the extra."""
    base = replace(same_again(asked, "up", ()), entries=_good_ids(asked))
    last = asked.last
    extra = (base.load_up_kg or last.load_kg) - last.load_kg
    higher, count = _next_load(asked), good_running(asked)
    loads = [visit.load_kg for visit in asked.visits]
    base_rose_last = any(kg < loads[-1] - 1e-9 for kg in loads)
    if base_rose_last or higher is None:
        up = last.load_kg + extra
        above = [kg for kg in asked.loads_kg if kg > up + 1e-9] if extra >= 0 else []
        below = [kg for kg in asked.loads_kg if kg < up - 1e-9] if extra < 0 else []
        wider = above[0] if above else below[-1] if below else up
        said = message("advice.up_extra", count=count, step=Kg(abs(wider - up)))
        return replace(base, says=(said,), load_up_kg=wider)
    said = message("advice.up_base", count=count, step=Kg(higher - last.load_kg))
    return replace(base, says=(said,), load_kg=higher, load_up_kg=higher + extra)
