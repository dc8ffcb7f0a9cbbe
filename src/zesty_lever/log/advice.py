"""What to load next time: stop, lighter, hold, up, in that order, with words and the entries they rest on.

It proposes; the coach decides. Rules are data (`rules`). Loads are those that the gym can make.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from zesty_lever.log.asked import Advice, Asked, day_words, made_below, reps_wanted
from zesty_lever.log.entry import Entry
from zesty_lever.log.lighter import lighter
from zesty_lever.log.progress import held, up
from zesty_lever.log.rules import say
from zesty_lever.log.stopping import stopped

# What beginners and those who come back do.
SIMPLE_STYLES = ("straight", "holds", "paired-minutes")


def advise(asked: Asked) -> Advice:
    """Advice for the next time. Never empty of words."""
    stop = stopped(asked)
    if stop is not None:
        return stop
    cares = tuple(
        say("care_elsewhere", place=s.place, lift=s.lift, day=day_words(s.day)) for s in asked.stops
    )
    if not asked.visits:
        return _capped(asked, _with(_start(asked), cares))
    last = asked.visits[-1]
    found = lighter(asked) or held(asked) or up(asked)
    found = replace(found, words=found.words + cares)
    if found.action != "lighter":
        found = _sides(asked, found)
    if asked.stage in ("beginner", "back-from-injury") and asked.dose.style not in SIMPLE_STYLES:
        found = _with(found, (say("beginner"),))
    if not found.entries:
        found = replace(found, entries=tuple(e.id for e in last.sets))
    return _capped(asked, found)


def _with(advice: Advice, words: Sequence[str]) -> Advice:
    return replace(advice, words=(*advice.words, *words))


def side_gap(sets: Sequence[Entry]) -> tuple[float, str] | None:
    """How far the weaker side is behind, as a share, and which it is: by kilograms times repetitions.

    None where not both sides were worked.
    """
    work = {
        side: sum((e.load_kg or 1.0) * (e.reps or e.seconds or 0.0) for e in sets if e.side == side)
        for side in ("left", "right")
    }
    if not all(work.values()):
        return None
    weak = min(work, key=lambda side: work[side])
    strong = max(work.values())
    return 1.0 - work[weak] / strong, weak


def _sides(asked: Asked, found: Advice) -> Advice:
    count = int(asked.rules.side_sessions)
    gaps = [side_gap(visit.sets) for visit in list(asked.visits)[-count:]]
    known = [gap for gap in gaps if gap is not None and gap[0] > asked.rules.side_gap]
    if len(known) < count or len({weak for _, weak in known}) != 1:
        return found
    weak = known[-1][1]
    strong = "right" if weak == "left" else "left"
    last = asked.visits[-1]
    own = [e for e in last.sets if e.side == weak]
    words = say("sides", weak=weak, strong=strong, gap=100 * known[-1][0])
    load = min(max(e.load_kg for e in own), found.load_kg or 0.0)
    reps = min(e.reps for e in own)
    return replace(
        found,
        action="hold",
        words=(words, *(w for w in found.words if found.action == "hold")),
        load_kg=load,
        reps=(reps, max(reps, asked.dose.reps[1])) if reps else found.reps,
        entries=tuple(e.id for visit in list(asked.visits)[-count:] for e in visit.sets),
        side_first=weak,
    )


def _start(asked: Asked) -> Advice:
    load = asked.start_kg
    made = None if load is None else made_below(asked.loads_kg, load)
    rule = asked.start_rule or "by feel, light"
    return Advice(
        "start",
        made if made is not None else load,
        (say("start_known", rule=rule),),
        reps=reps_wanted(asked),
        seconds=asked.dose.seconds,
    )


def _capped(asked: Asked, found: Advice) -> Advice:
    """Kept under the day's ceiling, whatever else speaks for more."""
    most = asked.ceiling_kg
    if most is None or found.load_kg is None or found.load_kg <= most + 1e-9:
        return found
    made = made_below(asked.loads_kg, most)
    words = (*found.words, say("ceiling", kg=most))
    if made is None:
        return replace(
            found,
            action="lighter",
            load_kg=None,
            words=(*words, say("nothing_lighter")),
            lighter_variation=True,
        )
    return replace(found, load_kg=made, words=words)
