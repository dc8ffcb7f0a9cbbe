"""Why this athlete leans as they do, in degrees for each reason, and what a chest held higher would cost."""

from __future__ import annotations

from collections.abc import Iterator

from zesty_lever.analysis import Result, analyse
from zesty_lever.cases.model import Athlete, Case
from zesty_lever.exercises.catalogue import variation
from zesty_lever.frozen import dataclass
from zesty_lever.joints import COACH_JOINTS
from zesty_lever.physics.body import estimated_length_m, landmark
from zesty_lever.problems import CaseError, out_of_range

# How much higher the chest is asked to be, deg; reasons below the last figure are not told.
CHEST_UP_DEG, MOST_UP_DEG, LEAST_DEG = 10.0, 30.0, 0.5
LENGTHS_TRIED = {"thigh": "thigh", "hip_to_shoulder": "trunk", "shank": "shin"}


@dataclass(frozen=True)
class Reason:
    """One reason: what this athlete has, what is usual (in ``unit``), and the lean it adds, deg."""

    what: str
    value: float
    usual: float
    unit: str
    adds_deg: float


@dataclass(frozen=True)
class ChestUp:
    """The chest higher by ``by_deg``: the shin that it takes (deg) and the change of each peak (N m).

    ``asked_deg`` is what was asked for; less is the most that can be done, 0 is none at all.
    """

    asked_deg: float
    by_deg: float
    shin_deg: float | None
    change_Nm: dict[str, float]


@dataclass(frozen=True)
class Explanation:
    """The trunk's lean at the bottom (deg), its reasons, the largest first, and the price of less of it."""

    lean_deg: float
    reasons: tuple[Reason, ...]
    chest_up: ChestUp | None


def explain(case: Case, by_deg: float = CHEST_UP_DEG) -> Explanation:
    """Explain the lean of a case. Raises `CaseError` where it can't be done, or ``by_deg`` is not 1 to 30."""
    if not 1.0 <= by_deg <= MOST_UP_DEG:
        raise out_of_range("chest_up", by_deg, "deg", (1.0, MOST_UP_DEG))
    result = analyse(case)
    lean = result.solved.bottom_deg.get("trunk_deg")
    if lean is None or result.variation.lies:
        raise CaseError(
            "no-lean",
            f"{result.variation.name} has no trunk lean of its own to explain",
            key="variation",
            value=case.variation,
        )
    reasons = tuple(sorted(_reasons(case, lean), key=lambda r: -abs(r.adds_deg)))
    return Explanation(lean, reasons, _chest_up(result, lean, by_deg))


def _lean_of(case: Case) -> float | None:
    result = analyse(case)
    return None if result.error else result.solved.bottom_deg.get("trunk_deg")


def _reasons(case: Case, lean: float) -> Iterator[Reason]:
    """Each thing made usual by itself: what it had added."""
    athlete = case.athlete
    for key, word in LENGTHS_TRIED.items():
        own, usual = athlete.length_m(key), float(estimated_length_m(key, athlete.height_m))
        if key in athlete.lengths_m and abs(own - usual) > 1e-3:
            lengths = {k: v for k, v in athlete.lengths_m.items() if k != key}
            yield from _reason(
                case, lean, athlete.changed(lengths_m=lengths), (word, own, usual, "m")
            )
    ankle, usual_ankle = (
        athlete.limit_deg("ankle_dorsiflexion"),
        landmark("ankle_dorsiflexion_limit_deg"),
    )
    if ankle < usual_ankle:
        kept = {k: v for k, v in athlete.limits_deg.items() if "ankle" not in k}
        freer = athlete.changed(limits_deg=kept)
        yield from _reason(case, lean, freer, ("ankle", ankle, usual_ankle, "deg"))
    load = analyse(case).case.load_kg
    low = variation(case.variation).load_range_kg()[0]
    if load > low:
        light = _lean_of(case.changed(load_kg=low, load_up_kg=None))
        if light is not None and abs(lean - light) >= LEAST_DEG:
            yield Reason("load", load, low, "kg", lean - light)


def _reason(
    case: Case, lean: float, athlete: Athlete, what: tuple[str, float, float, str]
) -> Iterator[Reason]:
    other = _lean_of(case.changed(athlete=athlete))
    if other is not None and abs(lean - other) >= LEAST_DEG:
        yield Reason(*what, lean - other)


def _chest_up(result: Result, lean: float, by_deg: float) -> ChestUp | None:
    """The chest higher with the shin that balances it, as far as that can be done; None without a shin."""
    case = result.case
    if "shin_deg" not in case.settings or "trunk_deg" not in case.settings:
        return None
    for step in range(round(by_deg), 0, -1):
        settings = {**case.settings, "trunk_deg": lean - step, "shin_deg": None}
        after = analyse(case.changed(settings=settings))
        if after.error is None:
            change = {
                g.word: after.summary[g.shown].peak_Nm - result.summary[g.shown].peak_Nm
                for g in COACH_JOINTS
            }
            return ChestUp(by_deg, float(step), after.solved.bottom_deg["shin_deg"], change)
    return ChestUp(by_deg, 0.0, None, {})
