"""Advice: what speaks for less. The lightest load wins, and every reason is said."""

from __future__ import annotations

from zesty_lever.log.asked import Advice, Asked, day_words, made_below, reps_wanted, wanted_reps
from zesty_lever.log.rules import say
from zesty_lever.log.stopping import is_stop


def lighter(asked: Asked) -> Advice | None:
    """The lightest of what speaks for less, with every reason."""
    last = asked.visits[-1]
    found: list[tuple[float, str, tuple[int, ...]]] = []
    for rule in (_by_fault, _by_shortfall, _by_pain, _by_absence, _by_cleared_stop, _by_style):
        found += rule(asked)
    if not found:
        return None
    share = max(share for share, _, _ in found)
    base = last.load_kg
    words = tuple(dict.fromkeys(text for _, text, _ in found))
    ids = tuple(dict.fromkeys(i for _, _, own in found for i in own))
    lowered = made_below(asked.loads_kg, base * (1.0 - share))
    none_lighter = base > 0.0 and (lowered is None or lowered >= base - 1e-9)
    if none_lighter or base == 0.0:
        return Advice(
            "lighter",
            made_below(asked.loads_kg, base) if base else None,
            (*words, say("nothing_lighter")),
            ids,
            reps_wanted(asked),
            asked.dose.seconds,
            lighter_variation=True,
        )
    minis = asked.dose.minis if asked.dose.style == "clusters" else None
    return Advice(
        "lighter", lowered, words, ids, reps_wanted(asked), asked.dose.seconds, minis=minis
    )


Reason = tuple[float, str, tuple[int, ...]]


def _by_fault(asked: Asked) -> list[Reason]:
    last, share = asked.visits[-1], asked.rules.lighter_share
    flagged: dict[str, list[int]] = {}
    for entry in last.sets:
        for code in entry.flagged:
            flagged.setdefault(code, []).append(entry.id)
    return [
        (
            share,
            say(
                "lighter_fault",
                fault=code.replace("-", " ").capitalize(),
                day=day_words(last.day),
                share=100 * share,
            ),
            tuple(ids),
        )
        for code, ids in flagged.items()
    ]


def _by_shortfall(asked: Asked) -> list[Reason]:
    if asked.dose.style in ("constant-tension", "rest-pause", "paired-minutes", "holds"):
        return []
    last, rules = asked.visits[-1], asked.rules
    wanted = wanted_reps(asked)
    short = [e for e in last.sets if e.reps <= wanted - rules.short_reps]
    if not short or len(short) < rules.short_sets * len(last.sets):
        return []
    text = say(
        "lighter_short",
        count=len(short),
        sets=len(last.sets),
        reps=int(rules.short_reps),
        day=day_words(last.day),
        share=100 * rules.lighter_share,
    )
    return [(rules.lighter_share, text, tuple(e.id for e in short))]


def _by_pain(asked: Asked) -> list[Reason]:
    if len(asked.visits) < 2:
        return []
    one, two = (
        {p.place: e.id for e, p in visit.pains if p.score > 0} for visit in asked.visits[-2:]
    )
    share = asked.rules.lighter_share
    return [
        (share, say("lighter_pain", place=place, share=100 * share), (one[place], two[place]))
        for place in two
        if place in one
    ]


def _by_absence(asked: Asked) -> list[Reason]:
    last = asked.visits[-1]
    days = asked.today - last.day
    share = asked.rules.away_share(days)
    if not share:
        return []
    text = say("lighter_away", days=days, share=100 * share)
    return [(share, text, tuple(e.id for e in last.sets))]


def _by_cleared_stop(asked: Asked) -> list[Reason]:
    """The first time since a stop was cleared."""
    last, share = asked.visits[-1], asked.rules.lighter_share
    found = {
        p.place: e.id
        for e in last.sets
        for p in e.pains
        if p.cleared_day is not None
        and is_stop(p.changed(cleared_day=None), last.before.get(p.place), asked.rules)
    }
    return [
        (share, say("lighter_stop", place=place, share=100 * share), (entry,))
        for place, entry in found.items()
    ]


def _by_style(asked: Asked) -> list[Reason]:
    last, rules = asked.visits[-1], asked.rules
    share, day = rules.lighter_share, day_words(last.day)
    if asked.dose.style == "rest-pause":
        broke = [e for e in last.sets if e.reps < rules.rest_pause_least]
        return [
            (share, say("lighter_rest_pause", reps=e.reps, day=day, share=100 * share), (e.id,))
            for e in broke[:1]
        ]
    if asked.dose.style == "constant-tension":
        low = [e for e in last.sets if e.reps < rules.tension_low]
        words = {"low": int(rules.tension_low), "share": 100 * share}
        return [(share, say("lighter_tension", reps=e.reps, **words), (e.id,)) for e in low[:1]]
    return []
