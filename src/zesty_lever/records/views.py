"""What the screens of the records show, read in one go: the roster, an athlete's log, an athlete's plans."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import field, replace

from zesty_lever.cases.model import Athlete
from zesty_lever.choosing.loading import USUAL, TypicalRules
from zesty_lever.coaching.numbers import Rules
from zesty_lever.frozen import dataclass
from zesty_lever.joints import COACH_JOINTS
from zesty_lever.log.asked import Decision
from zesty_lever.log.entry import Entry, Pain
from zesty_lever.log.exposure import HARD_SHARE, REFERENCE, Exposure, Reference, reference_of
from zesty_lever.log.weeks import Against, against_last_four
from zesty_lever.problems import CaseError
from zesty_lever.records import sums
from zesty_lever.records.advising import HISTORY_DAYS, History, Stop, advices
from zesty_lever.records.deciding import decisions_of
from zesty_lever.records.documents import (
    PlanRow,
    SessionRow,
    plans_of,
    sessions_of,
)
from zesty_lever.records.entries import log_of, pains_of
from zesty_lever.records.people import Person, people
from zesty_lever.records.store import Store
from zesty_lever.records.templates import TemplateRow, templates

WEEKS_SHOWN = 5
MISSED_WITHIN, FLAGS_WITHIN = 14, 14


@dataclass(frozen=True)
class Settings:
    """What the coach has set: rules of advice, typical loads with the gym, what counts as hard."""

    rules: Rules | None = None
    typical: TypicalRules = USUAL
    hard_share: float = HARD_SHARE
    reference: str = REFERENCE

    def reference_for(self, body: Athlete) -> Reference | None:
        """The reference of an athlete; None where its lift can't be done."""
        try:
            return reference_of(body, self.reference, self.hard_share, self.typical)
        except CaseError:
            return None


@dataclass(frozen=True)
class RosterRow:
    """One athlete: what is next, what was last, what needs attention; this week against the last four by joint."""

    person: Person
    next: SessionRow | None
    last: SessionRow | None
    stops: tuple[Stop, ...]
    missed: int
    against: Mapping[str, Against]
    attention: tuple[str, ...]

    today: bool = False

    @property
    def urgency(self) -> int:
        """Smaller comes first: stops, what else needs attention, who trains today, the rest; away ones last."""
        if self.person.away:
            return 4
        return 0 if self.stops else 1 if self.attention else 2 if self.today else 3


def roster(
    store: Store, today: int, settings: Settings | None = None, *, weeks: bool = True
) -> list[RosterRow]:
    """Every athlete, who needs attention first. ``weeks``: with this week beside the last four (most of the work)."""
    given = settings or Settings()
    known = people(store)
    lifts = _lifts_of_pains(store)
    rows = sessions_of(store, None, (today - MISSED_WITHIN, today + MISSED_WITHIN))
    rows += _far_sessions(store, today, {p.id for p in known})
    rows.sort(key=lambda row: (row.day, row.order))
    pains = pains_of(store, None, (today - 180, today))
    by_person = _sums_by_person(store, today, [p.id for p in known]) if weeks else {}
    firsts = sums.first_days(store) if weeks else {}
    flagged = _flagged(store, today)
    found = []
    for person in known:
        own = [row for row in rows if row.athlete == person.id]
        history = History.of(
            person, (), [p for p in pains if p[0] == person.id], given.rules, given.typical
        )
        stops = [
            replace(stop, lift=lifts.get((stop.session, stop.pain.place, stop.pain.score), ""))
            for stop in history.stops
        ]
        found.append(
            _roster_row(
                person,
                own,
                tuple(stops),
                _against(by_person.get(person.id, {}), firsts.get(person.id), today),
                flagged.get(person.id, ()),
                today,
            )
        )
    return sorted(found, key=lambda row: (row.urgency, row.person.name.lower()))


def _far_sessions(store: Store, today: int, ids: set[int]) -> list[SessionRow]:
    """The last session done before the near days, and the first one planned after them, of each athlete."""
    import sqlalchemy as sa

    from zesty_lever.records import tables as t
    from zesty_lever.records.documents import session_from

    s = t.session.c
    found: list[SessionRow] = []
    with store.reading() as connection:
        for far, state, pick in (
            (s.day < today - MISSED_WITHIN, "done", sa.func.max),
            (s.day > today + MISSED_WITHIN, "planned", sa.func.min),
        ):
            days = (
                sa.select(s.athlete, pick(s.day).label("day"))
                .where(s.athlete.in_(ids), far, s.state == state)
                .group_by(s.athlete)
                .subquery()
            )
            query = sa.select(t.session).join(
                days, sa.and_(s.athlete == days.c.athlete, s.day == days.c.day)
            )
            found += [session_from(row) for row in connection.execute(query)]
    return found


def _lifts_of_pains(store: Store) -> dict[tuple[int, str, int], str]:
    """The lift of each pain that no coach has cleared, by session, place and score."""
    import sqlalchemy as sa

    from zesty_lever.records import tables as t

    query = (
        sa.select(t.pain.c.session, t.pain.c.place, t.pain.c.score, t.setup.c.variation)
        .join(t.entry, t.entry.c.id == t.pain.c.entry)
        .join(t.setup, t.setup.c.id == t.entry.c.setup)
        .where(t.pain.c.cleared_day.is_(None))
    )
    with store.reading() as connection:
        rows = connection.execute(query).all()
    return {(row.session, row.place, row.score): row.variation for row in rows}


def _sums_by_person(store: Store, today: int, ids: Sequence[int]) -> dict[int, dict[int, Exposure]]:
    """Exposure of the last five weeks by athlete and week, as far as it is worked out."""
    week = sums.week_of(today)
    # Up to today, as the log and the plan count it.
    days = (7 * (week - WEEKS_SHOWN + 1) + 1, today)
    found: dict[int, dict[int, Exposure]] = {}
    for one in sums.sums(store, ids, days):
        own = found.setdefault(one.athlete, {})
        own[one.week] = own.get(one.week, Exposure()) + one.exposure
    return found


def _against(
    by_week: Mapping[int, Exposure], first_day: int | None, today: int
) -> dict[str, Against]:
    week = sums.week_of(today)
    kept = [w for w, e in by_week.items() if e.sets]
    first = None if first_day is None else sums.week_of(first_day)
    return {
        g.key: against_last_four({w: e.of(g.key) for w, e in by_week.items()}, week, first, kept)
        for g in COACH_JOINTS
    }


def _flagged(store: Store, today: int) -> dict[int, tuple[str, ...]]:
    """Faults flagged in the last fortnight by athlete, newest first."""
    import sqlalchemy as sa

    from zesty_lever.records import tables as t
    from zesty_lever.records.entries import COUNTED_FROM, COUNTS

    query = (
        sa.select(t.entry.c.athlete, t.fault.c.code, sa.func.max(t.entry.c.day).label("day"))
        .select_from(COUNTED_FROM.join(t.fault, t.fault.c.entry == t.entry.c.id))
        .where(COUNTS, t.fault.c.severity == "flag", t.entry.c.day >= today - FLAGS_WITHIN)
        .group_by(t.entry.c.athlete, t.fault.c.code)
        .order_by(sa.func.max(t.entry.c.day).desc())
    )
    found: dict[int, tuple[str, ...]] = {}
    with store.reading() as connection:
        for row in connection.execute(query):
            found[row.athlete] = (*found.get(row.athlete, ()), row.code)
    return found


def _roster_row(
    person: Person,
    own: Sequence[SessionRow],
    stops: tuple[Stop, ...],
    against: Mapping[str, Against],
    flagged: Sequence[str],
    today: int,
) -> RosterRow:
    ahead = [r for r in own if r.day >= today and r.state in ("planned", "running")]
    done = [r for r in own if r.state in ("done", "running") and r.day <= today]
    missed = [
        r
        for r in own
        if r.state in ("planned", "missed") and today - MISSED_WITHIN <= r.day < today
    ]
    words = [
        f"Stop: {s.pain.place} {s.pain.score} of 10" + (", numb" if s.pain.numb else "")
        for s in stops
    ]
    if missed:
        words.append(f"{len(missed)} missed in two weeks")
    words += [code.replace("-", " ") for code in flagged[:2]]
    return RosterRow(
        person,
        ahead[0] if ahead else None,
        done[-1] if done else None,
        stops,
        len(missed),
        against,
        tuple(dict.fromkeys(words)),
        today=bool(ahead) and ahead[0].day == today,
    )


@dataclass(frozen=True)
class LogView:
    """An athlete's log: entries (those replaced too), sessions, pains, sums by week, what advice needs, what was decided."""

    person: Person
    entries: tuple[Entry, ...]
    every: tuple[Entry, ...]
    sessions: tuple[SessionRow, ...]
    pains: tuple[tuple[int, Pain], ...]
    weeks: Mapping[int, Mapping[str, Exposure]]
    history: History
    reference: Reference | None
    today: int
    coaches: Mapping[int, str] = field(default_factory=dict)
    decisions: Mapping[str, Decision] = field(default_factory=dict)

    def week_total(self, week: int) -> Exposure:
        """Exposure of a week over all directions."""
        return sum(self.weeks.get(week, {}).values(), start=Exposure())

    def against(self, key: str, week: int | None = None) -> Against:
        """A week (this one unless told) of a joint against the mean of the four before."""
        at = sums.week_of(self.today) if week is None else week
        values = {w: self.week_total(w).of(key) for w in self.weeks}
        kept = [w for w in self.weeks if self.week_total(w).sets]
        first = min(kept) if kept else None
        return against_last_four(values, at, first, kept)


def log_view(
    store: Store,
    person: Person,
    today: int,
    settings: Settings | None = None,
    weeks: int = 16,
    tell: Callable[[float], None] | None = None,
) -> LogView:
    """Everything that the log's screen shows of an athlete; works out what is not known yet first."""
    given = settings or Settings()
    sums.work_out(store, person.id, tell)
    reference = given.reference_for(person.body)
    this = sums.week_of(today)
    days = (7 * (this - weeks + 1) + 1, today)
    whole = log_of(store, person.id, days=(today - HISTORY_DAYS, today), replaced=True)
    gone = {e.replaces for e in whole if e.replaces is not None}
    known = [e for e in whole if e.id not in gone and not e.withdrawn]
    every = [e for e in whole if e.day >= days[0]]
    entries = [e for e in known if e.day >= days[0]]
    pains = pains_of(store, person.id)
    by_week: dict[int, dict[str, Exposure]] = {}
    for one in sums.sums(store, person.id, days, reference):
        own = by_week.setdefault(one.week, {})
        own[one.direction] = own.get(one.direction, Exposure()) + one.exposure
    rows = sessions_of(store, person.id, (today - HISTORY_DAYS, today + 60))
    history = History.of(person, known, pains, given.rules, given.typical, rows)
    return LogView(
        person,
        tuple(entries),
        tuple(every),
        tuple(row for row in rows if row.day >= days[0]),
        tuple((day, pain) for _, day, _, _, pain in pains),
        by_week,
        history,
        reference,
        today,
        _initials(store),
        decisions_of(store, person.id),
    )


def _initials(store: Store) -> dict[int, str]:
    import sqlalchemy as sa

    from zesty_lever.records import tables as t

    with store.reading() as connection:
        rows = connection.execute(sa.select(t.coach.c.id, t.coach.c.initials)).all()
    return {row.id: row.initials for row in rows}


@dataclass(frozen=True)
class PlanView:
    """An athlete's plans, every template, and the log that advice and comparison rest on."""

    person: Person
    plans: tuple[PlanRow, ...]
    templates: tuple[TemplateRow, ...]
    log: LogView


def plan_view(
    store: Store,
    person: Person,
    today: int,
    settings: Settings | None = None,
    tell: Callable[[float], None] | None = None,
) -> PlanView:
    """Everything that the plan's screen shows of an athlete."""
    log = log_view(store, person, today, settings, 8, tell)
    # What the next sessions' advice is worked out from is made here, beside the window.
    for row in [r for r in log.sessions if today <= r.day < today + 7 and r.state == "planned"]:
        advices(row.session, log.history, today)
    return PlanView(person, tuple(plans_of(store, person.id)), tuple(templates(store)), log)
