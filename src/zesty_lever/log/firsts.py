"""First loads: of a track never done, by conversion or by the rule, and the first one back from injury."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from zesty_lever.coaching.gym import at_hand_kg
from zesty_lever.coaching.who import pattern_of
from zesty_lever.exercises.catalogue import catalogue, variation
from zesty_lever.frozen import dataclass
from zesty_lever.log.asked import Advice, Asked, Dose, PastSession, for_dose, made_below
from zesty_lever.log.convert import Converted, converted, effort_done, reps_to_limit
from zesty_lever.log.entry import DoneSet
from zesty_lever.log.exposure import setup_document
from zesty_lever.log.instead import kin_instead
from zesty_lever.log.known import Known, first_time, watched
from zesty_lever.log.tracks import RAMP, dose_done, helped, same_setup
from zesty_lever.messages import Kg, KgSpan, Lift, Message, Range, Share, Style, message
from zesty_lever.problems import CaseError


def first_back(known: Known, asked: Asked) -> Advice | None:
    """The first load of a lift back from injury: half of its last own one, after a break."""
    rules = known.question.rules
    own_days = known.question.today - asked.last.day
    if not known.who.returning or own_days < rules.away_days_1:
        return None
    base = asked.last.load_kg
    load = made_below(known.loads_kg, rules.return_share * base)
    said = message("who.first_back", load=Kg(base), share=Share(rules.return_share))
    if base > 0.0 and load is None:
        instead = kin_instead(known.question, known.typical)
        return Advice("choose", None, (said,), asked.last.keys, instead=instead)
    return for_dose("start", load or 0.0, (said, *asked.watched), asked.dose, asked.last.keys)


def unknown_track(known: Known) -> Advice:
    """A first time in this track: from another track where there is a recent one, else by the rule."""
    question, dose = known.question, known.planned.dose
    healthy = replace(known.typical, standing=replace(known.typical.standing, hurts=()))
    first = first_time(known, healthy)
    if first.load_kg is None:
        instead = kin_instead(question, healthy)
        return Advice("choose", None, first.says, instead=instead)
    why_no_more = watched(known)
    found = _from_other_track(known)
    if found is None:
        rule = first.rule if known.entry.load_range_kg()[1] > 0.0 else "body weight, by feel"
        said = message("advice.start", rule=rule or "by feel, light")
        return for_dose("start", _made(known, first.load_kg), (said, *why_no_more), dose)
    one, other = found
    load = min(one.quarter_kg, one.median_kg)
    if other.old:
        share = question.rules.away_share(known.away_days)
        load = min((1.0 - share) * load, first.load_kg)
    offered = _made(known, load)
    says = [_converted_words(other.done, one, dose, load if offered is None else offered)]
    if known.who.careful or not other.raises:
        load = min(load, first.load_kg)
        if not other.raises:
            says.append(message("advice.not_raised"))
    return for_dose("start", _made(known, load), (*says, *why_no_more), dose, (other.key,))


def _made(known: Known, load_kg: float) -> float | None:
    """A load as the gym makes it, never heavier."""
    if not known.loads_kg:
        return 0.0 if known.entry.load_range_kg()[1] <= 0.0 else load_kg
    made = made_below(known.loads_kg, load_kg + NEAR_KG)
    if made is not None:
        return made
    gym = known.question.typical.gym
    return at_hand_kg(known.entry.id, known.entry.equipment, load_kg, gym) if load_kg > 0 else 0.0


# A load so little above what was worked out is that load, kg: half of the smallest disc.
NEAR_KG = 0.25


@dataclass(frozen=True)
class _Other:
    """A set of another track: what was done, its key, how near it is, whether it may raise.

    ``share``: what is left of its load after what went wrong; ``old``: no recent visit is there.
    """

    done: DoneSet
    key: int
    near: int
    share: float
    raises: bool
    minis: int = 1
    old: bool = False

    @property
    def worth_kg(self) -> float:
        """About the single that it stands for, kg: to choose among sets of one set-up (Epley 1985)."""
        effort = effort_done(self.done, self.minis)
        return self.share * self.done.load_kg * (1.0 + effort.reps / 30.0)


def _from_other_track(known: Known) -> tuple[Converted, _Other] | None:
    """The best recent visit of the nearest other track, converted.

    Nearest: the same set-up in other repetitions or styles, then the same lift set up otherwise, then a lift of the
    same pattern. None where there is none, or where nothing can be told.
    """
    planned = known.planned
    if known.who.young or planned.dose.held or known.entry.load is None:
        return None
    others = _others(known)
    for near in sorted({other.near for other in others}):
        own = [other for other in others if other.near == near]
        # What may raise this track goes before what may not.
        own = [other for other in own if other.raises] or own
        best: dict[str, _Other] = {}
        for other in own:
            text = setup_document(other.done.setup) if other.done.setup is not None else ""
            if text not in best or other.worth_kg > best[text].worth_kg:
                best[text] = other
        found = [
            (one, other)
            for other in best.values()
            if (one := _converted(known, other)) is not None and one.median_kg > 0.0
        ]
        if found:
            return max(found, key=lambda pair: pair[0].median_kg)
    return None


def _converted(known: Known, other: _Other) -> Converted | None:
    planned = known.planned
    try:
        found = converted(
            known.question.athlete,
            effort_done(other.done, other.minis),
            planned.setup,
            reps_to_limit(planned.dose),
            planned.setup.school,
        )
    except CaseError:
        return None
    return None if found is None else found.times(other.share)


def _others(known: Known) -> list[_Other]:
    """Loaded sets of this lift or its pattern in other tracks: recent ones, else of the newest session that has any."""
    question, rules = known.question, known.question.rules
    judged = [session for session in known.sessions if not session.deload]
    recent = [s for s in judged if question.today - s.day <= rules.recent_days]
    found = _of_sessions(known, recent, old=False)
    for session in reversed(judged):
        if found:
            break
        # Of older ones the newest alone: waiting must not bring a better one back.
        found = _of_sessions(known, [session], old=True)
    return found


def _of_sessions(known: Known, sessions: Sequence[PastSession], *, old: bool) -> list[_Other]:
    rules, pattern = known.question.rules, pattern_of(known.entry)
    found = []
    for session in sessions:
        # What went wrong in one set speaks against the lift's others that day.
        wrong = {
            one.done.name
            for one in session.sets
            if one.done.flagged or any(p.score > 0 for p in one.felt)
        }
        for one in session.sets:
            done = one.done
            if done.setup is None or done.held or done.reps < 1 or done.load_kg <= 0.0:
                continue
            if done.name not in catalogue() or done.style == RAMP:
                continue
            same_lift = done.name == known.entry.id
            if not same_lift and pattern_of(variation(done.name)) != pattern:
                continue
            near = 2
            if same_lift:
                near = 0 if same_setup(done.setup, known.planned.setup, rules) else 1
            share = 1.0 - rules.lighter_share if done.name in wrong else 1.0
            raises = not helped(done.setup, known.planned.setup, rules)
            minis = dose_done(one).minis if done.style == "clusters" else 1
            found.append(_Other(done, one.key, near, share, raises, minis, old))
    return found


def _converted_words(source: DoneSet, found: Converted, dose: Dose, offered_kg: float) -> Message:
    """The conversion with both numbers and its interval."""
    left = source.effort_left or 0.0
    return message(
        "advice.converted",
        source=Lift(source.name),
        style=Style(source.style),
        reps=source.reps,
        left=left,
        load=Kg(source.load_kg),
        range=Range(*dose.reps),
        offered=Kg(offered_kg),
        between=KgSpan(found.low_kg, found.high_kg),
    )
