"""Pain, by place and side: which rule it meets, what stays open until a clinician's word, what it asked of the place."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import replace

from zesty_lever.cases.model import Athlete, Setup
from zesty_lever.choosing.places import (
    Loads,
    case_at,
    hurt_sides,
    known_places,
    loads_on,
    most_of,
    place_loaded,
    same_place,
    sides_of,
)
from zesty_lever.coaching.numbers import Rules
from zesty_lever.coaching.who import Hurt, Level
from zesty_lever.log.asked import Cleared, Felt, PastSession, SetDone
from zesty_lever.log.exposure import reps_counted, setup_done
from zesty_lever.problems import CaseError

AT_REST = ("at-rest", "at-night")
WORST = ("sore", "stop", "clinician")


def level_of(felt: Felt, before: int | None, rules: Rules) -> str:
    """Which rule a pain meets: ``clinician``, ``stop``, ``rise`` (a stop too), ``sore``; empty: none.

    ``before``: the score in the same place before the session, where it was told.
    """
    if felt.numb or felt.score >= rules.clear_pain or (felt.moment in AT_REST and felt.score > 0):
        return "clinician"
    if felt.score >= rules.stop_pain:
        return "stop"
    rose = before is not None and felt.score - before >= rules.stop_rise
    if rose and felt.moment != "before":
        return "rise"
    return "sore" if felt.score > 0 else ""


def before_in(session: PastSession, felt: Felt) -> int | None:
    """The score of a place before a session; None where it was not told. Of two sides the lower one, to be cautious."""
    own = [
        p.score
        for p in session.felt
        if p.moment == "before" and same_place((p.place, p.side), (felt.place, felt.side))
    ]
    return min(own, default=None)


def all_felt(session: PastSession) -> Iterator[tuple[Felt, SetDone | None]]:
    """Every pain of a session with the set that it was told of."""
    for one in session.sets:
        for felt in one.felt:
            yield felt, one
    for felt in session.felt:
        yield felt, None


def with_clearings(
    sessions: Sequence[PastSession], cleared: Sequence[Cleared]
) -> list[PastSession]:
    """The sessions with every pain marked that a clinician's word on that day or later lets pass."""

    def marked(felt: Felt, day: int) -> Felt:
        passed = any(
            c.day >= day
            and c.by.strip()
            and set(sides_of(felt.place, felt.side)) <= set(sides_of(c.place, c.side))
            and c.place == felt.place
            for c in cleared
        )
        return replace(felt, cleared=True) if passed and not felt.cleared else felt

    return [
        replace(
            session,
            felt=tuple(marked(p, session.day) for p in session.felt),
            sets=tuple(
                replace(one, felt=tuple(marked(p, session.day) for p in one.felt))
                if one.felt
                else one
                for one in session.sets
            ),
        )
        for session in sessions
    ]


def loads_of_set(one: SetDone, athlete: Athlete, place: str, side: str) -> Loads | None:
    """What a set asked of one side of a place; None where nothing is computed. Raises `CaseError`."""
    done = one.done
    setup = setup_done(done)
    case = setup.changed(errors=None).case_for(athlete).changed(frames="none")
    return loads_on(case, place, side, max(reps_counted(done), 1.0), done.side)


def set_loads(one: SetDone, athlete: Athlete, felt: Felt, rules: Rules) -> bool:
    """Whether a set loaded a place that hurts; unknown counts as yes."""
    if one.done.setup is None:
        return False
    for side in sides_of(felt.place, felt.side):
        try:
            own = loads_of_set(one, athlete, felt.place, side)
        except CaseError:
            return True
        if place_loaded(own, athlete.mass_kg, rules):
            return True
    return False


def open_hurts(
    sessions: Sequence[PastSession], athlete: Athlete, rules: Rules
) -> list[tuple[Hurt, tuple[int, ...]]]:
    """Every stop that nobody has cleared, newest first, each with the keys of the sets that it rests on.

    A pain of no one set stops every lift of its session that loads the place; next-day pain counts for the session
    before. ``lift`` is empty where no lift of the session is known.
    """
    found: dict[tuple[str, str, str], tuple[Hurt, tuple[int, ...]]] = {}
    for session in sessions:
        for felt, one in all_felt(session):
            if felt.cleared:
                continue
            level = level_of(felt, before_in(session, felt), rules)
            if level in ("", "sore"):
                continue
            for hurt, keys in _hurts_of(felt, level, one, session, athlete, rules):
                name = (hurt.place, hurt.side, hurt.lift)
                known = found.get(name)
                if known is None or WORST.index(known[0].level) <= WORST.index(hurt.level):
                    found[name] = hurt, keys
    return sorted(found.values(), key=lambda pair: -pair[0].day)


def _hurts_of(
    felt: Felt,
    level: str,
    one: SetDone | None,
    session: PastSession,
    athlete: Athlete,
    rules: Rules,
) -> Iterator[tuple[Hurt, tuple[int, ...]]]:
    told: Level = "clinician" if level == "clinician" else "stop"
    base = Hurt(felt.place, felt.side, told, felt.score, session.day)
    if one is not None and one.done.setup is not None:
        asked = _asked(one, athlete, felt)
        yield replace(base, lift=one.done.setup.variation, asked=asked), (one.key,)
        return
    loaded: dict[str, SetDone] = {}
    for done in session.sets:
        if done.done.setup is not None and set_loads(done, athlete, felt, rules):
            loaded[done.done.setup.variation] = done
    if not loaded:
        yield base, ()
    measured = [_asked(done, athlete, felt) for done in loaded.values()]
    # Which of them hurt is not known: each is stopped, and the rest is held against the largest.
    most = most_of([None if asked is None else dict(asked) for asked in measured])
    for name, done in loaded.items():
        asked = None if most is None else tuple(most.items())
        yield replace(base, lift=name, asked=asked), (done.key,)


def _asked(one: SetDone, athlete: Athlete, felt: Felt) -> tuple[tuple[str, float], ...] | None:
    """What a set asked of a place, the larger of both sides where both hurt; None where nothing is computed."""
    if felt.place not in known_places():
        return None
    try:
        sides = [
            loads_of_set(one, athlete, felt.place, side) for side in sides_of(felt.place, felt.side)
        ]
    except CaseError:
        return None
    most = most_of(sides)
    return None if most is None else tuple(most.items())


def sore_hurts(athlete: Athlete, day: int, rules: Rules) -> list[Hurt]:
    """The athlete's sore places as pains of their own standing."""
    score = int(rules.sore_score)
    return [Hurt(sore.place, sore.side, "sore", score, day) for sore in athlete.sore]


def watched_hurts(
    sessions: Sequence[PastSession], athlete: Athlete, today: int, rules: Rules
) -> list[tuple[Hurt, int]]:
    """Places with pain in so many sessions of the last weeks, until one without it, each with how many."""
    since = today - int(rules.recent_days)
    recent = [s for s in sessions if s.day >= since]
    places = {
        (felt.place, side)
        for session in recent
        for felt, _ in all_felt(session)
        if felt.score > 0 and not felt.cleared
        for side in sides_of(felt.place, felt.side)
    }
    found = []
    for place, side in sorted(places):
        with_pain = [s for s in recent if _felt_at(s, place, side)]
        if len(with_pain) < rules.pain_sessions:
            continue
        probe = Felt(place, side, 1)
        last = next(
            (
                s
                for s in reversed(recent)
                if _felt_at(s, place, side) or _loads(s, athlete, probe, rules)
            ),
            None,
        )
        if last is not None and _felt_at(last, place, side):
            score = max(
                f.score for f, _ in all_felt(last) if same_place((f.place, f.side), (place, side))
            )
            found.append((Hurt(place, side, "sore", score, last.day), len(with_pain)))
    return found


def _felt_at(session: PastSession, place: str, side: str) -> bool:
    return any(
        felt.score > 0 and not felt.cleared and same_place((felt.place, felt.side), (place, side))
        for felt, _ in all_felt(session)
    )


def _loads(session: PastSession, athlete: Athlete, felt: Felt, rules: Rules) -> bool:
    return any(set_loads(one, athlete, felt, rules) for one in session.sets)


def loads_here(
    athlete: Athlete, setup: Setup, load_kg: float, hurt: Hurt, rules: Rules, worked: str = "both"
) -> bool:
    """Whether a planned lift at a load loads a place that hurts; unknown counts as yes."""
    for side in hurt_sides(hurt):
        try:
            own = loads_on(case_at(athlete, setup, load_kg), hurt.place, side, 1.0, worked)
        except CaseError:
            return True
        if place_loaded(own, athlete.mass_kg, rules):
            return True
    return False
