"""Advice: when to stop. Pain, its rise, numbness; open until a coach clears it."""

from __future__ import annotations

from zesty_lever.log.asked import Advice, Asked, day_words
from zesty_lever.log.entry import Pain
from zesty_lever.log.rules import Rules, say


def is_stop(pain: Pain, before: int | None, rules: Rules) -> str:
    """Which rule of stopping a pain meets: ``numb``, ``pain``, ``rise``; empty: none."""
    if pain.numb:
        return "numb"
    if pain.score >= rules.stop_pain:
        return "pain"
    if before is not None and pain.score - before >= rules.stop_rise:
        return "rise"
    return ""


def stopped(asked: Asked) -> Advice | None:
    """The stop that stands over this lift, with every reason; None where there is none."""
    words, rests_on = [], []
    hurt: list[str] = []
    for visit in asked.visits:
        for entry, pain in visit.pains:
            before = visit.before.get(pain.place)
            kind = is_stop(pain, before, asked.rules)
            if kind:
                places = {
                    "place": pain.place,
                    "score": pain.score,
                    "before": before,
                    "day": day_words(visit.day),
                }
                sentence = say(f"stop_{kind}", **places)
                if sentence not in words:
                    words.append(sentence)
                rests_on.append(entry.id)
                hurt.append(pain.place)
    words += [
        say(
            "stop_elsewhere" if stop.lift else "stop_of_session",
            place=stop.place,
            lift=stop.lift,
            day=day_words(stop.day),
        )
        for stop in asked.stops
        if stop.here
    ]
    hurt += [stop.place for stop in asked.stops if stop.here]
    if not words:
        return None
    return Advice(
        "stop",
        None,
        tuple(words),
        tuple(dict.fromkeys(rests_on)),
        places=tuple(dict.fromkeys(hurt)),
    )
