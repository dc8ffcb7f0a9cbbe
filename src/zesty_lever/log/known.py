"""A question with what follows from it, worked out once: who, tracks, open stops, the load that would be usual."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from zesty_lever.cases.model import Case, Stage
from zesty_lever.choosing.loading import Proposed, TypicalRules, proposed_load, touches
from zesty_lever.choosing.places import case_at
from zesty_lever.coaching.gym import loads_at_hand_kg
from zesty_lever.coaching.numbers import Rules
from zesty_lever.coaching.who import Hurt, Standing, Who, who_is
from zesty_lever.exercises.catalogue import Variation, variation
from zesty_lever.frozen import dataclass
from zesty_lever.log.asked import Felt, PastSession, Planned, Question, Visit
from zesty_lever.log.pains import open_hurts, set_loads, sore_hurts, watched_hurts, with_clearings
from zesty_lever.log.tracks import days_since_pattern, visits_to
from zesty_lever.messages import Message, Place, message


@dataclass(frozen=True)
class Known:
    """A question with what follows from it, worked out once."""

    question: Question
    who: Who
    entry: Variation
    loads_kg: tuple[float, ...]
    sessions: tuple[PastSession, ...]
    visits: tuple[Visit, ...]
    hurts: tuple[tuple[Hurt, tuple[int, ...]], ...]
    typical: TypicalRules

    @property
    def planned(self) -> Planned:
        """What is planned, with the dose that is for this athlete."""
        return self.question.planned

    @property
    def away_days(self) -> int:
        """Days since anything of the lift's pattern was done; 0 where nothing was."""
        found = days_since_pattern(self.sessions, self.planned.setup, self.question.today)
        return found or 0

    def case_at(self, load_kg: float) -> Case:
        """What is planned, at a load, for measuring."""
        return case_at(self.question.athlete, self.planned.setup, load_kg)

    def touched(self, load_kg: float, hurts: Sequence[Hurt]) -> list[Hurt]:
        """Those of some hurts whose place the lift loads at a load."""
        case = self.case_at(load_kg)
        return [hurt for hurt in hurts if touches(case, hurt, self.question.rules)]


def known_of(question: Question) -> Known:
    """A question with what follows from it. Raises `CaseError` for an unknown variation."""
    planned, rules = question.planned, question.rules
    entry = variation(planned.setup.variation)
    sessions = with_clearings(
        sorted((s for s in question.sessions if s.day <= question.today), key=lambda s: s.day),
        question.cleared,
    )
    hurts = open_hurts(sessions, question.athlete, rules)
    standing = standing_of(
        question.stage, sessions, [hurt for hurt, _ in hurts], question.today, rules
    )
    who = who_is(question.athlete, standing)
    dose = replace(
        planned.dose,
        reps=planned.dose.reps if planned.dose.held else who.reps(planned.dose.reps),
        effort_left=who.left(planned.dose.effort_left),
    )
    question = replace(question, planned=replace(planned, dose=dose))
    high = entry.load_range_kg()[1]
    gym = question.typical.gym
    loads = loads_at_hand_kg(entry.id, entry.equipment, high, gym, stick=who.careful)
    low = entry.load_range_kg()[0]
    loads = tuple(kg for kg in loads if kg >= low - 1e-9)
    if entry.load is not None and entry.load.works_unloaded:
        loads = (0.0, *loads)
    visits = visits_to(
        sessions, planned.setup, dose, rules, _of_no_set(sessions, question, entry.id)
    )
    typical = replace(question.typical, standing=standing)
    return Known(question, who, entry, loads, tuple(sessions), tuple(visits), tuple(hurts), typical)


def standing_of(
    stage: Stage,
    sessions: Sequence[PastSession],
    hurts: Sequence[Hurt],
    today: int,
    rules: Rules,
) -> Standing:
    """How an athlete stands on a day, by the sessions until then."""
    done: dict[str, int] = {}
    own: dict[str, float] = {}
    for session in sessions:
        names = {one.done.name: one.done.load_kg for one in session.sets if one.done.setup}
        for name, load in names.items():
            done[name] = done.get(name, 0) + 1
            own[name] = load
    return Standing(stage, tuple(hurts), tuple(done.items()), tuple(own.items()), today, rules)


def _of_no_set(
    sessions: Sequence[PastSession], question: Question, name: str
) -> list[tuple[int, Felt]]:
    """Pains of no one set, by session, at places that this lift loaded there; what hurt before a session counts too."""
    found: list[tuple[int, Felt]] = []
    for session in sessions:
        own = [one for one in session.sets if one.done.name == name] if session.felt else []
        found += [
            (session.key, felt)
            for felt in session.felt
            if own and felt.score > 0 and set_loads(own[-1], question.athlete, felt, question.rules)
        ]
    return found


def usual_kg(known: Known) -> float:
    """The load that the lift would have without any pain: of the last time, else of a first time."""
    if known.visits:
        return known.visits[-1].load_kg
    healthy = replace(known.typical, standing=replace(known.typical.standing, hurts=()))
    found = first_time(known, healthy)
    return known.entry.load_range_kg()[0] if found.load_kg is None else found.load_kg


def first_time(known: Known, typical: TypicalRules) -> Proposed:
    """What the rule gives at a first time."""
    planned, question = known.planned, known.question
    case = Case(
        athlete=question.athlete,
        variation=known.entry.id,
        school=planned.setup.school,
        settings=planned.setup.settings,
        frames="none",
    )
    found = proposed_load(case, typical)
    if planned.start is None or found.load_kg is None:
        return found
    load, rule = planned.start
    if not known.who.careful:
        return Proposed(load, rule, found.says)
    return Proposed(min(load * known.who.first_share, found.load_kg), found.rule, found.says)


def watched(known: Known) -> tuple[Message, ...]:
    """Why no more load is given here: sore places, and pain in so many sessions."""
    question, rules = known.question, known.question.rules
    sore = sore_hurts(question.athlete, question.today, rules)
    counted = watched_hurts(known.sessions, question.athlete, question.today, rules)
    if not sore and not counted:
        return ()
    load = usual_kg(known)
    says = [
        message("pain.sore", place=Place(hurt.place, hurt.side))
        for hurt in known.touched(load, sore)
    ]
    here = known.touched(load, [hurt for hurt, _ in counted])
    says += [
        message("pain.watched", place=Place(hurt.place, hurt.side), count=count)
        for hurt, count in counted
        if hurt in here
    ]
    return tuple(says)
