"""Advice from the records: what was done of a lift, open stops, loads of the gym, put together for the rules."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import field, replace

from zesty_lever.choosing.loading import USUAL, TypicalRules
from zesty_lever.coaching.gym import at_hand_kg, loads_at_hand_kg
from zesty_lever.exercises.catalogue import catalogue, variation
from zesty_lever.frozen import dataclass
from zesty_lever.log.advice import advise
from zesty_lever.log.asked import Advice, Asked, Dose, OpenStop, visits_of
from zesty_lever.log.entry import Entry, Pain
from zesty_lever.log.exposure import COUNTED, case_of, rep_loads
from zesty_lever.log.rules import Rules, say, usual_rules
from zesty_lever.log.stopping import is_stop
from zesty_lever.plan.document import Item, Session, Style
from zesty_lever.plan.loads import working_load
from zesty_lever.problems import CaseError
from zesty_lever.records.people import Person

JOINT_OF = {"hip": "hip", "knee": "knee", "lower back": "lumbosacral"}


@dataclass(frozen=True)
class Stop:
    """A stop that no coach has cleared: where, when, in which lift (empty: of a whole session), which session."""

    pain: Pain
    day: int
    lift: str
    session: int


@dataclass(frozen=True)
class History:
    """What is known of an athlete when advice is asked: entries, pains before sessions, open stops."""

    person: Person
    entries: Sequence[Entry]
    before: Mapping[int, Mapping[str, int]] = field(default_factory=dict)
    stops: Sequence[Stop] = ()
    rules: Rules = field(default_factory=usual_rules)
    typical: TypicalRules = USUAL

    @classmethod
    def of(
        cls,
        person: Person,
        entries: Sequence[Entry],
        pains: Sequence[tuple[int, int, int, int | None, Pain]],
        rules: Rules | None = None,
        typical: TypicalRules = USUAL,
    ) -> History:
        """Put together from rows of the log; ``pains`` as `entries.pains_of` gives them."""
        own = rules or usual_rules()
        before: dict[int, dict[str, int]] = {}
        for _, _, session, _, pain in pains:
            if pain.moment == "before":
                before.setdefault(session, {})[pain.place] = pain.score
        names = {entry.id: entry.name for entry in entries}
        stops = [
            Stop(pain, day, names.get(entry or 0, ""), session)
            for _, day, session, entry, pain in pains
            if pain.cleared_day is None
            and is_stop(
                pain,
                None if pain.moment == "before" else before.get(session, {}).get(pain.place),
                own,
            )
        ]
        return cls(person, entries, before, stops, own, typical)


def advice_for(
    item: Item, style: Style, history: History, today: int, ceiling_kg: float | None = None
) -> Advice:
    """Advice for a planned item. Raises `CaseError` for a drill or an unknown variation."""
    if item.setup is None:
        raise CaseError("wrong-value", "a drill has no load to advise", key="drill")
    name = item.setup.variation
    entry = variation(name)
    high = entry.load_range_kg()[1]
    loads = loads_at_hand_kg(entry.id, entry.equipment, high, history.typical.gym) if high else ()
    visits = visits_of([e for e in history.entries if e.day <= today], name, history.before)
    start, rule = working_load(
        item.changed(load_rule="typical" if item.load_rule == "advised" else item.load_rule),
        history.person.body,
        history.typical,
    )
    asked = Asked(
        Dose.of(item, style),
        visits,
        today,
        loads,
        history.person.stage,
        _stops_for(name, visits[-1].load_kg if visits else start or 0.0, history),
        ceiling_kg,
        start,
        rule,
        history.rules,
    )
    return advise(asked)


def _stops_for(name: str, load_kg: float, history: History) -> list[OpenStop]:
    """Stops in other lifts, each with whether this lift loads the place as much or more."""
    found = []
    # Of several stops of one place in one lift the newest is told.
    newest = {(s.pain.place, s.lift): s for s in history.stops if s.lift != name}
    for stop in newest.values():
        here = True
        lift = variation_name(stop.lift) if stop.lift else ""
        if stop.lift and not stop.pain.numb:
            here = _loads_as_much(name, load_kg, stop, history)
        found.append(OpenStop(stop.pain.place, lift, stop.day, here))
    return found


def variation_name(name: str) -> str:
    """A lift's name in a sentence."""
    known = catalogue().get(name)
    return name if known is None else known.name.lower()


def _loads_as_much(name: str, load_kg: float, stop: Stop, history: History) -> bool:
    """Whether a lift's peak at the sore joint is at least that of the stopped one; unknown counts as yes."""
    joint = JOINT_OF.get(stop.pain.place)
    if joint is None:
        return False
    done = next((e for e in reversed(history.entries) if e.name == stop.lift), None)
    own = next((e for e in reversed(history.entries) if e.name == name), None)
    if done is None:
        return True
    from zesty_lever.cases.model import Setup
    from zesty_lever.log.entry import DoneSet

    asked = own.done if own is not None else DoneSet(setup=Setup(variation=name), reps=1)
    try:
        cases = [
            case_of(one, history.person.body) for one in (asked.changed(load_kg=load_kg), done.done)
        ]
    except CaseError:
        return True
    mine, theirs = rep_loads(cases)
    if mine.problem or theirs.problem:
        return True
    rows = [i for i, j in enumerate(COUNTED) if j.startswith(joint)]
    return bool(mine.peak_Nm[rows].max() >= theirs.peak_Nm[rows].max())


def advices(
    session: Session, history: History, today: int, ceilings: Mapping[str, float] | None = None
) -> dict[str, Advice]:
    """Advice for every lift of a session by item key; lifts that are unknown here have none."""
    found = {}
    for block, item in session.listed():
        if item.setup is None or item.setup.variation not in catalogue():
            continue
        most = (ceilings or {}).get(item.key)
        advice = advice_for(item, block.style, history, today, most)
        found[item.key] = _lightened(advice, item, history) if session.deload else advice
    return found


def _lightened(advice: Advice, item: Item, history: History) -> Advice:
    """Advice of a week that is planned lighter: its share of the load, made by the gym."""
    if advice.load_kg is None or item.setup is None or advice.action == "stop":
        return advice
    entry, share = variation(item.setup.variation), history.rules.deload_load
    load = at_hand_kg(entry.id, entry.equipment, share * advice.load_kg, history.typical.gym)
    words = say("deload", share=100 * share)
    return replace(
        advice,
        action="lighter",
        load_kg=min(load, advice.load_kg),
        reps=item.reps,
        words=(words, *advice.words),
    )


def with_advice(session: Session, advised: Mapping[str, Advice]) -> Session:
    """A session with advised loads and targets written into its items (rule ``advised`` only)."""
    blocks = []
    for block in session.blocks:
        items = []
        for item in block.items:
            advice = advised.get(item.key)
            if advice is None or item.load_rule != "advised" or advice.action == "stop":
                items.append(item)
                continue
            items.append(
                item.changed(
                    load_kg=advice.load_kg if advice.load_kg is not None else item.load_kg,
                    reps=advice.reps or item.reps,
                    seconds=advice.seconds or item.seconds,
                    minis=advice.minis or item.minis,
                    load_up_kg=advice.load_up_kg or item.load_up_kg,
                )
            )
        blocks.append(block.changed(items=tuple(items)))
    return session.changed(blocks=tuple(blocks))
