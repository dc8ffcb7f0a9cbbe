"""Advice from the records: what was done of every lift, what hurt, what was asked, put together for the rules."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import field, replace
from functools import cached_property

from zesty_lever.cases.model import Setup
from zesty_lever.choosing.loading import USUAL, TypicalRules
from zesty_lever.coaching.gym import at_hand_kg
from zesty_lever.coaching.numbers import Rules, usual_rules
from zesty_lever.coaching.who import Standing, pattern_of
from zesty_lever.exercises.catalogue import catalogue, variation
from zesty_lever.frozen import dataclass
from zesty_lever.log.advice import advise
from zesty_lever.log.asked import Advice, Dose, Felt, PastSession, Planned, Question, SetDone
from zesty_lever.log.entry import Entry, Pain
from zesty_lever.log.known import standing_of
from zesty_lever.log.pains import level_of, open_hurts
from zesty_lever.messages import Share, message
from zesty_lever.plan.document import Item, Session, Style
from zesty_lever.plan.loads import working_load
from zesty_lever.problems import CaseError
from zesty_lever.records.documents import SessionRow, sessions_of
from zesty_lever.records.entries import log_of, pains_of
from zesty_lever.records.people import Person, person
from zesty_lever.records.store import Store

# So far back advice looks, the same wherever it is asked.
HISTORY_DAYS = 182
PainRow = tuple[int, int, int, int | None, Pain]


@dataclass(frozen=True)
class Stop:
    """A stop that no coach has cleared: where, when, in which lift (empty: of a whole session), which session."""

    pain: Pain
    day: int
    lift: str
    session: int


@dataclass(frozen=True)
class History:
    """What is known of an athlete when advice is asked: entries, sessions with what was asked, pains, open stops."""

    person: Person
    entries: Sequence[Entry]
    pains: Sequence[PainRow] = ()
    stops: Sequence[Stop] = ()
    rules: Rules = field(default_factory=usual_rules)
    typical: TypicalRules = USUAL
    rows: Sequence[SessionRow] = ()

    @classmethod
    def of(
        cls,
        person: Person,
        entries: Sequence[Entry],
        pains: Sequence[PainRow],
        rules: Rules | None = None,
        typical: TypicalRules = USUAL,
        rows: Sequence[SessionRow] = (),
    ) -> History:
        """Put together from rows of the log; ``pains`` as `entries.pains_of` gives them, ``rows`` the sessions."""
        own = rules or usual_rules()
        names = {entry.id: entry.name for entry in entries}
        stops = [
            Stop(pain, day, names.get(entry or 0, ""), session)
            for _, day, session, entry, pain in pains
            if pain.cleared_day is None
            and level_of(felt_of(pain), _before(pains, session, pain), own)
            in ("clinician", "stop", "rise")
        ]
        return cls(person, entries, pains, stops, own, typical, rows)

    @cached_property
    def sessions(self) -> tuple[PastSession, ...]:
        """Every session of the past in order, with what was asked of each set that day."""
        by_id = {row.id: row for row in self.rows}
        sets: dict[int, list[Entry]] = {}
        for entry in self.entries:
            sets.setdefault(entry.session, []).append(entry)
        felt: dict[int, list[Felt]] = {}
        days: dict[int, int] = {}
        for _, day, session, entry_id, pain in self.pains:
            days.setdefault(session, day)
            if entry_id is None:
                felt.setdefault(session, []).append(felt_of(pain))
        for session, own in sets.items():
            days[session] = own[0].day
        order = {row.id: (row.day, row.order) for row in self.rows}
        found = [
            _past(session, day, by_id.get(session), sets.get(session, ()), felt.get(session, ()))
            for session, day in days.items()
        ]
        return tuple(sorted(found, key=lambda s: (s.day, order.get(s.key, (0, 0)), s.key)))

    def standing(self, today: int) -> Standing:
        """How the athlete stands on a day, for every list and every load that is chosen outside a plan."""
        past = [s for s in self.sessions if s.day <= today]
        hurts = [hurt for hurt, _ in open_hurts(past, self.person.body, self.rules)]
        return standing_of(self.person.stage, past, hurts, today, self.rules)


def standing_on(
    store: Store, athlete: int, today: int, rules: Rules | None, typical: TypicalRules
) -> Standing:
    """How an athlete stands on a day, from the records. Raises `CaseError` where there is none of that id."""
    days = (today - HISTORY_DAYS, today)
    history = History.of(
        person(store, athlete),
        log_of(store, athlete, days=days),
        pains_of(store, athlete),
        rules,
        typical,
        sessions_of(store, athlete, days),
    )
    return history.standing(today)


def felt_of(pain: Pain) -> Felt:
    """A pain of the records as it was felt."""
    cleared = pain.cleared_day is not None
    return Felt(pain.place, pain.side, pain.score, pain.moment, pain.numb, cleared)


def _before(pains: Sequence[PainRow], session: int, pain: Pain) -> int | None:
    """The score of a place before a session; None where it was not told."""
    scores = [
        p.score
        for _, _, own, _, p in pains
        if own == session
        and p.moment == "before"
        and p.place == pain.place
        and (p.side == pain.side or "both" in (p.side, pain.side))
    ]
    return min(scores, default=None)


def _past(
    session: int,
    day: int,
    row: SessionRow | None,
    own: Sequence[Entry],
    felt: Sequence[Felt],
) -> PastSession:
    asked: dict[str, Dose] = {}
    if row is not None:
        for block, item in row.session.listed():
            if item.setup is not None:
                asked[item.key] = Dose.of(item, block.style, block.rounds)
    sets = tuple(
        SetDone(entry.id, entry.done, asked.get(entry.item), tuple(felt_of(p) for p in entry.pains))
        for entry in own
    )
    # Nothing is judged by a session that still runs; what hurt in it counts.
    rating, deload = (None, False)
    if row is not None:
        rating, deload = row.rating, row.session.deload or row.state == "running"
    return PastSession(session, day, sets, tuple(felt), rating, deload)


def question_for(
    item: Item,
    style: Style,
    history: History,
    today: int,
    ceiling_kg: float | None = None,
    rounds: int = 1,
) -> Question:
    """The question that a planned item is. Raises `CaseError` for a drill or an unknown variation."""
    if item.setup is None:
        raise CaseError("wrong-value", "a drill has no load to advise", key="drill")
    variation(item.setup.variation)
    start = None
    if item.load_rule in ("kg", "share-of-best"):
        load, rule = working_load(item, history.person.body, history.typical)
        start = None if load is None else (load, rule)
    worked = item.side if item.side in ("left", "right") else "both"
    item = item.changed(reps=item.planned_reps or item.reps, planned_reps=None)
    assert item.setup is not None
    setup = Setup(
        variation=item.setup.variation,
        school=item.setup.school,
        settings=item.setup.settings,
        loads=item.setup.loads,
        travel=item.setup.travel,
        style=item.setup.style,
    )
    return Question(
        history.person.body,
        Planned(setup, Dose.of(item, style, rounds), worked, start),
        history.sessions,
        today,
        history.person.stage,
        (),
        history.typical,
        history.rules,
        ceiling_kg,
    )


def advice_for(
    item: Item,
    style: Style,
    history: History,
    today: int,
    ceiling_kg: float | None = None,
    rounds: int = 1,
) -> Advice:
    """Advice for a planned item. Raises `CaseError` for a drill or an unknown variation."""
    return advise(question_for(item, style, history, today, ceiling_kg, rounds))


def advices(
    session: Session, history: History, today: int, ceilings: Mapping[str, float] | None = None
) -> dict[str, Advice]:
    """Advice for every lift of a session by item key; lifts that are unknown here have none."""
    found = {}
    warm: set[str] = set()
    for block, item in session.listed():
        if item.setup is None or item.setup.variation not in catalogue():
            continue
        most = (ceilings or {}).get(item.key)
        advice = advice_for(item, block.style, history, today, most, block.rounds)
        if session.deload:
            advice = _lightened(advice, item, history)
        # Ramp sets stand before the first heavy lift of a pattern alone.
        pattern = pattern_of(variation(item.setup.variation))
        if advice.ramp and pattern in warm:
            advice = replace(advice, ramp=())
        elif advice.ramp:
            warm.add(pattern)
        found[item.key] = advice
    return found


def _lightened(advice: Advice, item: Item, history: History) -> Advice:
    """Advice of a week that is planned lighter: its share of the load, made by the gym."""
    if advice.load_kg is None or item.setup is None or advice.action == "stop":
        return advice
    entry, share = variation(item.setup.variation), history.rules.deload_load
    load = at_hand_kg(entry.id, entry.equipment, share * advice.load_kg, history.typical.gym)
    said = message("advice.deload", share=Share(share))
    return replace(
        advice,
        action="lighter",
        load_kg=min(load, advice.load_kg),
        reps=item.reps,
        says=(said, *advice.says),
    )


def _planned_reps(item: Item, advice: Advice) -> tuple[int, int] | None:
    """The planned range where the target differs from it."""
    planned = item.planned_reps or item.reps
    return None if (advice.reps or planned) == planned else planned


def with_advice(session: Session, advised: Mapping[str, Advice]) -> Session:
    """A session with advised loads and targets written into its items (rule ``advised`` only)."""
    blocks = []
    for block in session.blocks:
        items = []
        for item in block.items:
            advice = advised.get(item.key)
            if advice is None or item.load_rule != "advised" or advice.action in ("stop", "choose"):
                items.append(item)
                continue
            items.append(
                item.changed(
                    load_kg=advice.load_kg if advice.load_kg is not None else item.load_kg,
                    reps=advice.reps or item.reps,
                    planned_reps=_planned_reps(item, advice),
                    seconds=advice.seconds or item.seconds,
                    minis=advice.minis or item.minis,
                    load_up_kg=advice.load_up_kg or item.load_up_kg,
                )
            )
        blocks.append(block.changed(items=tuple(items)))
    return session.changed(blocks=tuple(blocks))
