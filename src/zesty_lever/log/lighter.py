"""Advice: what speaks for less. The lightest load wins, and every reason is said."""

from __future__ import annotations

from dataclasses import replace

from zesty_lever.choosing.places import sides_of
from zesty_lever.log.asked import Advice, Asked, Visit, for_dose, made_below
from zesty_lever.messages import Day, Fault, Kg, Message, Place, Share, message

Reason = tuple[float, Message, tuple[int, ...]]


def lighter(asked: Asked) -> Advice | None:
    """The lightest of what speaks for less, with every reason."""
    found: list[Reason] = []
    for rule in (_by_fault, _by_shortfall, _by_pain, _by_absence, _by_style):
        found += rule(asked)
    if asked.cleared_pains:
        share = asked.rules.lighter_share
        found += [(share, said, asked.last.keys) for said in asked.cleared_pains]
    if not found:
        return None
    share = min(max(share for share, _, _ in found), 1.0 - asked.rules.least_share)
    says = tuple({repr(said): said for _, said, _ in found}.values())
    keys = tuple(dict.fromkeys(key for _, _, own in found for key in own))
    # What goes on for weeks is said beside the smaller load.
    return eased(asked, share, (*says, *asked.watched), keys)


def eased(asked: Asked, share: float, says: tuple[Message, ...], keys: tuple[int, ...]) -> Advice:
    """The last load so much lighter, made by the gym; an unloaded lift has no share to lose."""
    base, dose = asked.last.load_kg, asked.dose
    if base <= 0.0:
        said = (*says, message("advice.lighter_unloaded"))
        return replace(for_dose("lighter", 0.0, said, dose, keys), lighter_variation=True)
    lowered = made_below(asked.loads_kg, base * (1.0 - share))
    if lowered is None or lowered >= base - 1e-9:
        said = (*says, message("advice.nothing_lighter", load=Kg(base)))
        return replace(for_dose("lighter", None, said, dose, keys), lighter_variation=True)
    return for_dose(
        "lighter", lowered, (*says, message("advice.lighter_by", share=Share(share))), dose, keys
    )


def _by_fault(asked: Asked) -> list[Reason]:
    flagged: dict[str, list[int]] = {}
    for one in asked.last.sets:
        for code in one.done.flagged:
            flagged.setdefault(code, []).append(one.key)
    day = Day(asked.last.day)
    return [
        (
            asked.rules.lighter_share,
            message("advice.fault", fault=Fault(code), day=day),
            tuple(keys),
        )
        for code, keys in flagged.items()
    ]


def fell_short(asked: Asked, visit: Visit) -> tuple[int, ...]:
    """Sets that fell so many repetitions short of what was asked of them that day; empty where too few did."""
    dose, rules = visit.dose, asked.rules
    if (
        dose is None
        or dose.held
        or dose.style in ("constant-tension", "rest-pause", "paired-minutes")
    ):
        return ()
    short = [s.key for s in visit.sets if s.done.reps <= dose.least_reps - rules.short_reps]
    return tuple(short) if short and len(short) >= rules.short_sets * len(visit.sets) else ()


def _by_shortfall(asked: Asked) -> list[Reason]:
    short = fell_short(asked, asked.last)
    if not short:
        return []
    said = message(
        "advice.short",
        count=len(short),
        sets=len(asked.last.sets),
        reps=int(asked.rules.short_reps),
        day=Day(asked.last.day),
    )
    return [(asked.rules.lighter_share, said, short)]


def _by_pain(asked: Asked) -> list[Reason]:
    if len(asked.visits) < 2:
        return []
    one, two = (_hurting(visit) for visit in asked.visits[-2:])
    keys = (*asked.visits[-2].keys, *asked.last.keys)
    return [
        (asked.rules.lighter_share, message("advice.pain_twice", place=Place(*place)), keys)
        for place in two
        if place in one
    ]


def _hurting(visit: Visit) -> list[tuple[str, str]]:
    """Places that hurt in a visit, each side by itself."""
    return list(
        dict.fromkeys(
            (felt.place, side)
            for felt in visit.pains
            if felt.score > 0
            for side in sides_of(felt.place, felt.side)
        )
    )


def _by_absence(asked: Asked) -> list[Reason]:
    share = asked.rules.away_share(asked.away_days)
    if not share:
        return []
    said = message("advice.away", days=asked.away_days)
    return [(share, said, asked.last.keys)]


def _by_style(asked: Asked) -> list[Reason]:
    last, rules = asked.last, asked.rules
    share, day = rules.lighter_share, Day(last.day)
    if asked.dose.style == "rest-pause":
        broke = [s for s in last.sets if s.done.reps < rules.rest_pause_least]
        return [
            (share, message("advice.rest_pause", reps=s.done.reps, day=day), (s.key,))
            for s in broke[:1]
        ]
    if asked.dose.style == "constant-tension":
        low = [s for s in last.sets if s.done.reps < rules.tension_low]
        return [
            (
                share,
                message("advice.tension", reps=s.done.reps, low=int(rules.tension_low)),
                (s.key,),
            )
            for s in low[:1]
        ]
    return []
