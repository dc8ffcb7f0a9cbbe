"""Stops: of this lift, and beside those in other lifts."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from zesty_lever.choosing.places import allowed_beside, hurt_sides, loads_on
from zesty_lever.coaching.who import Hurt
from zesty_lever.log.asked import Advice, Felt, made_below, once, reps_wanted
from zesty_lever.log.instead import kin_instead, spared_instead
from zesty_lever.log.known import Known, usual_kg
from zesty_lever.log.pains import all_felt, before_in, level_of
from zesty_lever.messages import Day, Lift, Message, Place, Share, message
from zesty_lever.problems import CaseError

SIZES = ("extension", "flexion", "moment", "adduction", "long", "carried")


def stopped(known: Known) -> Advice | None:
    """The stop that stands over this lift, with every reason; None where there is none."""
    name, question = known.entry.id, known.question
    says: list[Message] = []
    keys: list[int] = []
    over: list[Hurt] = []
    for hurt, own in known.hurts:
        if hurt.lift and hurt.lift != name and hurt.level != "clinician":
            continue
        if hurt.lift != name and not known.touched(usual_kg(known), [hurt]):
            continue
        over.append(hurt)
        keys += own
        kind = _stop_kind(known, hurt)
        where = {"place": Place(hurt.place, hurt.side), "day": Day(hurt.day)}
        says.append(
            message(f"pain.stop_{kind}", score=hurt.score, lift=Lift(hurt.lift or name), **where)
        )
    if not over:
        return None
    clinician = any(hurt.level == "clinician" for hurt in over)
    # For a place that a clinician has to see nothing is offered.
    instead = () if clinician else spared_instead(question, known.typical, over)
    return Advice(
        "stop",
        None,
        tuple(once(says)),
        tuple(dict.fromkeys(keys)),
        places=tuple(dict.fromkeys(hurt.place for hurt in over)),
        see_clinician=True,
        instead=instead,
    )


def _stop_kind(known: Known, hurt: Hurt) -> str:
    if hurt.level == "clinician":
        return "clinician"
    return "pain" if hurt.score >= known.question.rules.stop_pain else "rise"


def _elsewhere(known: Known) -> list[Hurt]:
    """Open stops in other lifts at places that this one loads too."""
    hurts = [hurt for hurt, _ in known.hurts if hurt.lift != known.entry.id]
    return known.touched(usual_kg(known), hurts) if hurts else []


def beside_hurts(known: Known, found: Advice) -> Advice:
    """Advice beside stops in other lifts: half of its usual load at most, where that stays far below; else none."""
    hurts = _elsewhere(known) if found.load_kg is not None else []
    if not hurts or found.load_kg is None:
        return found
    rules, dose = known.question.rules, known.planned.dose
    since = max(hurt.day for hurt in hurts)
    # Once it was done that light without pain it goes on from there, as long as it stays far below.
    went_on = any(v.day > since and not any(p.score for p in v.pains) for v in known.visits)
    most = found.load_kg
    if not went_on:
        most = min(most, rules.spare_start * _usual_before(known, since))
    load = made_below(known.loads_kg, most) if known.loads_kg else 0.0
    lightest = known.loads_kg[0] if known.loads_kg else 0.0
    reps = 1.0 if dose.held else float((found.reps or dose.reps)[1])
    case = known.case_at(lightest if load is None else load)
    forbids, told = allowed_beside(case, hurts, rules, reps, known.planned.worked)
    worst = forbids or hurts[0]
    numbers = tuple(m for h, m in told if h is worst)[:2]
    place, share = Place(worst.place, worst.side), Share(rules.spare_start)
    keys = tuple(key for hurt, own in known.hurts if hurt in hurts for key in own)
    if forbids is None and load is not None:
        kind = "spared" if load > 0.0 else "spared_bare"
        said = message(f"pain.{kind}", place=place, numbers=numbers, share=share)
        eased = load < found.load_kg - 1e-9 and found.action != "start"
        more = found.action == "up" and not (went_on and load > 0.0)
        if more:
            # Beside a stop nothing goes up by itself: the target is the planned one again.
            found = replace(found, action="hold", reps=reps_wanted(dose), seconds=dose.seconds)
        return replace(
            found,
            action="lighter" if eased else found.action,
            load_kg=load,
            says=(said,) if eased or more else (said, *found.says),
            computed=told,
            entries=(*found.entries, *keys),
            see_clinician=True,
        )
    kind = "loads" if numbers else "unknown"
    said = message(
        f"pain.{kind}", place=place, numbers=numbers, lift=Lift(worst.lift), day=Day(worst.day)
    )
    return Advice(
        "stop",
        None,
        (said,),
        keys,
        places=tuple(dict.fromkeys(hurt.place for hurt in hurts)),
        see_clinician=True,
        computed=told,
        instead=spared_instead(known.question, known.typical, hurts),
    )


def _usual_before(known: Known, day: int) -> float:
    """The usual load of this lift before a stop: of the last visit until then, else of a first time."""
    before = [v for v in known.visits if v.day <= day]
    return before[-1].load_kg if before else usual_kg(known)


def cleared_in(known: Known, days: int | None = None) -> list[tuple[Felt, int]]:
    """Stops of the past that a clinician's word let pass, with their days; of the last so many ``days`` only."""
    today, rules = known.question.today, known.question.rules
    return [
        (felt, session.day)
        for session in known.sessions
        for felt, _ in all_felt(session)
        if felt.cleared
        and level_of(felt, before_in(session, felt), rules) in ("clinician", "stop", "rise")
        and (days is None or _cleared_day(known, felt, session.day) > today - days)
    ]


def _cleared_day(known: Known, felt: Felt, day: int) -> int:
    """When a pain was cleared; its own day where only that it was is known."""
    days = [c.day for c in known.question.cleared if c.place == felt.place and c.day >= day]
    return max(min(days, default=day), day)


def spared_on_return(known: Known, found: Advice) -> Advice:
    """Back from injury: in the first two weeks what was hurt gets at most half of its usual use."""
    rules = known.question.rules
    if not known.who.returning or not found.load_kg or not known.visits:
        return found
    places = [(f.place, f.side) for f, _ in cleared_in(known, int(rules.return_days))]
    places += [(sore.place, sore.side) for sore in known.question.athlete.sore]
    base = _usual_before(known, known.question.today - int(rules.return_days))
    for place, side in dict.fromkeys(places):
        hurt = Hurt(place, side, "sore", 0, known.question.today)
        most = _most_for(known, hurt, base, found.load_kg)
        if most is None:
            said = message(
                "who.return_place", place=Place(place, side), share=Share(rules.return_use)
            )
            instead = kin_instead(known.question, known.typical)
            return Advice("choose", None, (said,), found.entries, instead=instead)
        if found.load_kg is not None and most < found.load_kg - 1e-9:
            said = message(
                "who.return_place", place=Place(place, side), share=Share(rules.return_use)
            )
            found = replace(found, load_kg=most, says=(*found.says, said))
    return found


def _most_for(known: Known, hurt: Hurt, base_kg: float, load_kg: float) -> float | None:
    """The heaviest load up to one at which a place gets at most its share of what ``base_kg`` gives it; None: none."""
    rules = known.question.rules
    most = _sizes(known, hurt, base_kg)
    fits = [kg for kg in (known.loads_kg or (0.0,)) if kg <= load_kg + 1e-9]
    low, high = -1, len(fits) - 1
    # What a lift asks grows with its load: the last that fits, by halves.
    while low < high:
        middle = (low + high + 1) // 2
        own = _sizes(known, hurt, fits[middle])
        below = all(own[key] <= rules.return_use * most.get(key, 0.0) + 1e-9 for key in own)
        low, high = (middle, high) if below else (low, middle - 1)
    return fits[low] if low >= 0 else None


def _sizes(known: Known, hurt: Hurt, load_kg: float) -> dict[str, float]:
    """The moments at a place at a load, the larger side; empty where nothing is computed or loaded."""
    found: dict[str, float] = {}
    for side in hurt_sides(hurt):
        try:
            own = loads_on(known.case_at(load_kg), hurt.place, side) or {}
        except CaseError:
            continue
        for key, value in own.items():
            if key in SIZES:
                found[key] = max(found.get(key, 0.0), value)
    return found


def cleared_here(known: Known) -> tuple[Message, ...]:
    """The first time since a stop of the last visit was cleared."""
    last = known.visits[-1]
    session = next(s for s in known.sessions if s.key == last.session)
    own: Sequence[Felt] = [
        p for one in session.sets if one.done.name == known.entry.id for p in one.felt
    ]
    return tuple(
        once(
            [
                message("pain.cleared", place=Place(felt.place, felt.side))
                for felt in (*own, *session.felt)
                if felt.cleared
                and level_of(felt, before_in(session, felt), known.question.rules)
                in ("clinician", "stop", "rise")
            ]
        )
    )
