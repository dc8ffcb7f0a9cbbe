"""What a coach of a school would remark on: how big it is, what to say, and what saying it changes.

Everything is read off the solved rep by the measures; what is said is data/coaching/findings.toml.
Each finding names the settings that following its cue would change; `followed` gives that case, so
that what the cue does to hip, knee and back is solved, not guessed.
"""

from __future__ import annotations

import json
from collections.abc import Mapping
from dataclasses import replace
from functools import lru_cache

from zesty_lever.analysis import Impossible, Result, analyse
from zesty_lever.cases.model import Case, ResolvedCase, School
from zesty_lever.cases.parse import case_from
from zesty_lever.coaching.measures import back, bridges, legs, sides
from zesty_lever.coaching.measures.reading import MEASURES, ReadRep, Sized
from zesty_lever.coaching.rules import Rule, rules
from zesty_lever.coaching.schools import Disputed, schools
from zesty_lever.exercises.catalogue import variation
from zesty_lever.frozen import dataclass
from zesty_lever.joints import COACH_JOINTS, ROW, SIDES
from zesty_lever.physics.body import landmark

__all__ = ("Effect", "Found", "effect", "findings", "followed")

# Importing them enters their measures.
_ENTERED = (back, bridges, legs, sides)


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
    """What following a cue does: peaks before and after (N m) by joint word, and the finding's size.

    ``knee_frontal`` are the knee's moments about its own floating axis at the deepest point (N m, the
    front leg's or the worse side's; minus: bent inward), before and after, where the finding is about that.
    """

    before: Mapping[str, float]
    after: Mapping[str, float]
    size_after: float
    knee_frontal: tuple[float, float] | None = None


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
    told = []
    for code, rule in known.items():
        sized = MEASURES[code](rep) if code in MEASURES else None
        if sized is not None and rule.counts_from_default and sized.size > rule.over:
            sized = _beyond_default(code, sized, result)
        told.append(_in_words(code, rule, sized, school))
    return sorted((f for f in told if f is not None), key=lambda f: f.severity != "flag")


def _beyond_default(code: str, sized: Sized, result: Result) -> Sized:
    """What a finding has beyond the school's own default for this athlete at this load.

    Where the default has some of it, the cue goes back to the default.
    """
    usual = None if sized.own_limit else _default_of(result.case)
    if usual is None or isinstance(usual.outcome, Impossible):
        return sized
    own = MEASURES[code](ReadRep(usual, result.case.school))
    if own is None or own.size <= 0.0 or own.reading != sized.reading:
        return sized
    settings = {
        key: usual.case.settings[key] for key in sized.settings if key in usual.case.settings
    }
    return replace(sized, size=sized.size - own.size, settings=settings)


def _default_of(case: ResolvedCase) -> Result:
    """The school's default for the same athlete, variation and load, as a rep at rest."""
    bare = Case(
        athlete=case.athlete,
        variation=case.variation,
        school=case.school,
        load_kg=case.load_kg,
        frames="none",
    )
    return _solved_default(json.dumps(bare.as_json(), sort_keys=True))


@lru_cache(maxsize=32)
def _solved_default(text: str) -> Result:
    return analyse(case_from(json.loads(text)))


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
    frontal = None
    if rules()[found.code].bends_knee_inward:
        frontal = (_knee_frontal_Nm(result), _knee_frontal_Nm(after))
    return Effect(before_Nm, after_Nm, left, frontal)


def _knee_frontal_Nm(result: Result) -> float:
    """The moment about the knee's own floating axis at the deepest point, N m: the front leg's, else the worse."""
    sides = ("right",) if variation(result.case.variation).has_front_leg else SIDES
    rows = [ROW[f"knee_{side}"] for side in sides]
    return float(result.solved.moments.abduction[rows, result.timeline.bottom].min())
