"""Caps on a load that is advised: nothing else may lift it over them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from zesty_lever.log.asked import Advice, Question, Visit, made_below
from zesty_lever.log.convert import reps_to_limit, share_of_best_kg
from zesty_lever.messages import Kg, Message, message
from zesty_lever.problems import CaseError


def capped(
    question: Question, loads_kg: Sequence[float], visits: Sequence[Visit], found: Advice
) -> Advice:
    """Advice under every cap: what was done in the track and one step; in an unknown one the best's share; the day's ceiling."""
    if found.load_kg is None or found.load_kg <= 0.0:
        return found
    limits: list[tuple[float, Message]] = []
    if visits:
        done = _done_in_track(question, visits)
        if done is not None:
            step = next((kg for kg in loads_kg if kg > done + 1e-9), done)
            limits.append((step, message("advice.cap_done", load=Kg(done))))
    else:
        best = _share_of_best(question)
        if best is not None:
            limits.append((best, message("advice.cap_best", load=Kg(best))))
    if question.ceiling_kg is not None:
        limits.append(
            (question.ceiling_kg, message("advice.ceiling", load=Kg(question.ceiling_kg)))
        )
    for most, said in limits:
        if found.load_kg is None or found.load_kg <= most + 1e-9:
            continue
        made = made_below(loads_kg, most) if loads_kg else most
        says = (*found.says, said)
        if made is None:
            says = (*says, message("advice.nothing_lighter", load=Kg(found.load_kg)))
            found = replace(
                found, action="lighter", load_kg=None, says=says, lighter_variation=True
            )
        else:
            found = replace(found, load_kg=made, says=says)
    return found


def _done_in_track(question: Question, visits: Sequence[Visit]) -> float | None:
    """The heaviest load done in a track for at least the fewest repetitions that are asked, kg."""
    dose = question.planned.dose
    least = 0 if dose.held else dose.reps[0]
    if dose.style in ("clusters", "rest-pause", "constant-tension"):
        least = 0
    loads = [
        max(one.done.load_kg, one.done.load_up_kg or 0.0)
        for visit in visits
        for one in visit.sets
        if dose.held or one.done.reps >= least
    ]
    return max(loads, default=max(visit.load_kg for visit in visits))


def _share_of_best(question: Question) -> float | None:
    """The dose's share of the best in this lift, kg; None where none is known or can be told."""
    planned = question.planned
    if planned.dose.held:
        return None
    try:
        found = share_of_best_kg(
            question.athlete, planned.setup, reps_to_limit(planned.dose), planned.setup.school
        )
    except CaseError:
        return None
    return None if found is None else found[0]
