"""What a coach of a school would remark on: how big it is, what to say, and what saying it changes.

Everything is read off the solved rep by the measures; what is said is data/coaching/findings.toml.
Each finding names the settings that following its cue would change; `followed` gives that case, so
that what the cue does to hip, knee and back is solved, not guessed.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from zesty_lever.analysis import Impossible, Result, analyse
from zesty_lever.cases.model import Case, School
from zesty_lever.coaching.measures import back, legs, sides
from zesty_lever.coaching.measures.reading import MEASURES, ReadRep, Sized
from zesty_lever.coaching.rules import Rule, rules
from zesty_lever.coaching.schools import Disputed, schools
from zesty_lever.exercises.catalogue import variation
from zesty_lever.joints import COACH_JOINTS
from zesty_lever.physics.body import landmark

__all__ = ("Effect", "Found", "effect", "findings", "followed")

# Importing them enters their measures.
_ENTERED = (back, legs, sides)


@dataclass(frozen=True)
class Found:
    """One finding: ``settings`` is what following the cue would set (empty: nothing to set here).

    ``severity`` is ``note`` (worth knowing) or ``flag`` (the school would stop it).
    """

    code: str
    size: float
    unit: str
    severity: str
    text: str
    cue: str
    drill: str
    settings: Mapping[str, float | None]

    @property
    def disputed(self) -> Disputed | None:
        """The question that it touches on which coaches differ, if any."""
        question = rules()[self.code].disputed
        return schools().question(question) if question else None


@dataclass(frozen=True)
class Effect:
    """What following a cue does: peaks before and after (N m) by joint word, and the finding's size."""

    before: Mapping[str, float]
    after: Mapping[str, float]
    size_after: float


def _in_words(code: str, rule: Rule, sized: Sized | None, school: School) -> Found | None:
    """A measured finding in words; None where it is too small or the school does not tell it."""
    severity = rule.severity_for(school)
    if sized is None or severity is None or not sized.size > rule.over:
        return None
    places = {"size": sized.size, **sized.places}
    text, cue, drill = rule.words(sized.reading, places)
    return Found(code, sized.size, rule.unit, severity, text, cue, drill, sized.settings)


def _tipping(result: Result, outcome: Impossible) -> Sized:
    """A pose that can't stand: how far the load falls outside the foot, and balance as the way back."""
    size, shown = 0.0, outcome.frames
    if shown.frames:
        fraction = float(shown.pressure_fraction[min(result.timeline.bottom, shown.frames - 1)])
        past = max(fraction - landmark("ball_from_heel"), -fraction, 0.0)
        size = 100.0 * result.case.athlete.length_m("foot") * past
    text = outcome.first.text
    why = text + ("" if text.endswith(".") else ".")
    return Sized(size, {"trunk_deg": None}, places={"why": why})


def findings(result: Result) -> list[Found]:
    """Findings of a solved rep by its case's school, flags first; none where nothing could be solved."""
    school, known = result.case.school, rules()
    if isinstance(result.outcome, Impossible):
        if result.outcome.first.code != "would-tip":
            return []
        tips = _in_words("tipping", known["tipping"], _tipping(result, result.outcome), school)
        return [tips] if tips is not None else []
    rep = ReadRep(result, school)
    found = (
        _in_words(code, rule, MEASURES[code](rep), school)
        for code, rule in known.items()
        if code in MEASURES
    )
    return sorted((f for f in found if f is not None), key=lambda f: f.severity != "flag")


def followed(case: Case, found: Found) -> Case | None:
    """The case with the cue followed; None where the cue is not about this set-up's settings."""
    known = variation(case.variation).settings
    changed = {k: v for k, v in found.settings.items() if k in known}
    if not changed:
        return None
    settings = dict(case.settings)
    settings.update(changed)
    free = [k for k, v in settings.items() if v is None]
    if len(free) > 1:
        settings = {k: v for k, v in settings.items() if v is not None or k == "trunk_deg"}
    return case.changed(settings=settings)


def effect(result: Result, found: Found) -> Effect | None:
    """What following a cue does, solved again; None where either pose can't be done."""
    case = followed(result.case, found)
    if case is None or not result.feasible:
        return None
    after = analyse(case)
    if not after.feasible:
        return None
    left = next((f.size for f in findings(after) if f.code == found.code), 0.0)
    before_Nm, after_Nm = (
        {g.word: r.summary[g.shown].peak_Nm for g in COACH_JOINTS} for r in (result, after)
    )
    return Effect(before_Nm, after_Nm, left)
