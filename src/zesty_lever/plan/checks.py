"""Rules of a plan, fulfilled or broken, in words (common practice, no source). Nothing is forced."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence

from zesty_lever.cases.model import Stage
from zesty_lever.choosing.loading import USUAL, TypicalRules
from zesty_lever.exercises.catalogue import Variation, catalogue
from zesty_lever.frozen import dataclass
from zesty_lever.plan.document import WEEKDAYS, Block, Item, Session, Week
from zesty_lever.plan.doses import each_side, on_back
from zesty_lever.plan.drills import drills
from zesty_lever.plan.loads import load_not_made
from zesty_lever.plan.steps import minutes_of

SIMPLE_STYLES = ("straight", "holds", "paired-minutes")
MOST_LIFTS, MOST_OF_A_FAMILY, MOST_A_WEEK = 4, 2, 2
BACK_SETS, BACK_REPS = (3, 4), (3, 10)
DIRECTIONS = {"vertical": 2, "horizontal": 2, "lateral": 1}


@dataclass(frozen=True)
class Checked:
    """One rule: whether it holds, and how it stands in words."""

    holds: bool
    words: str


def _lifts(session: Session) -> list[tuple[Block, Item, Variation]]:
    known = catalogue()
    return [
        (block, item, known[item.setup.variation])
        for block, item in session.listed()
        if item.setup is not None and item.setup.variation in known
    ]


def check_session(
    session: Session,
    stage: Stage = "usual",
    sore: Sequence[str] = (),
    rules: TypicalRules = USUAL,
) -> list[Checked]:
    """The rules of one session."""
    lifts = _lifts(session)
    return [
        *_back_rules(lifts),
        *_size_rules(session, lifts),
        *_side_rules(lifts),
        *_style_rules(lifts, stage),
        *_warm_up_rules(session, lifts, sore),
        *_load_rules(lifts, rules),
        *_unknown(session),
    ]


def _back_rules(lifts: Sequence[tuple[Block, Item, Variation]]) -> list[Checked]:
    places = [at for at, (_, _, entry) in enumerate(lifts) if on_back(entry)]
    if not places:
        return []
    found = []
    if len(places) > 1:
        found.append(Checked(False, f"{len(places)} lifts with a bar on the back; one a session"))
    first = places[0] == 0
    words = "first, as it should be" if first else "not first: put it before the other lifts"
    found.append(Checked(first, f"Bar on the back {words}"))
    for at in places:
        block, item, entry = lifts[at]
        sets, name = item.sets * block.rounds, entry.name.lower()
        fits = BACK_SETS[0] <= sets <= BACK_SETS[1]
        fits &= BACK_REPS[0] <= item.reps[0] and item.reps[1] <= BACK_REPS[1]
        dose = f"{sets} sets of {_range(item.reps)} in the {name}"
        rest = "" if fits else "; 3 to 4 sets of 3 to 10 with a bar on the back"
        found.append(Checked(fits, dose + rest))
    return found


def _range(reps: tuple[int, int]) -> str:
    return str(reps[0]) if reps[0] == reps[1] else f"{reps[0]} to {reps[1]}"


def _size_rules(session: Session, lifts: Sequence[tuple[Block, Item, Variation]]) -> list[Checked]:
    count, found = len(lifts), []
    fits = count <= MOST_LIFTS
    found.append(Checked(fits, f"{count} lifts" + ("" if fits else "; three to four a session")))
    needed = minutes_of(session)
    within = needed <= session.minutes + 0.5
    words = f"takes about {needed:.0f} of {session.minutes} min"
    found.append(Checked(within, words[0].upper() + words[1:]))
    families = Counter(entry.family for _, _, entry in lifts)
    for family, number in families.items():
        if number > MOST_OF_A_FAMILY:
            found.append(Checked(False, f"{number} lifts of the family {family}; two a session"))
    directions = {entry.direction for _, _, entry in lifts}
    if count > 1:
        two = len(directions) > 1
        kinds = " and ".join(sorted(directions))
        found.append(
            Checked(two, f"Loads {kinds}" + ("" if two else " only; two directions a session"))
        )
    return found


def _side_rules(lifts: Sequence[tuple[Block, Item, Variation]]) -> list[Checked]:
    return [
        Checked(False, f"{entry.name} for one side only; each side in turn")
        for _, item, entry in lifts
        if each_side(entry) and item.side != "each"
    ]


def _style_rules(lifts: Sequence[tuple[Block, Item, Variation]], stage: Stage) -> list[Checked]:
    if stage not in ("beginner", "back-from-injury"):
        return []
    other = sorted({block.style for block, _, _ in lifts} - set(SIMPLE_STYLES))
    if other:
        words = f"{', '.join(other)}: beginners and those who come back do straight sets, holds and paired minutes"
        return [Checked(False, words[0].upper() + words[1:])]
    return [Checked(True, "Straight sets, holds and paired minutes only; train under supervision")]


def _warm_up_rules(
    session: Session, lifts: Sequence[tuple[Block, Item, Variation]], sore: Sequence[str]
) -> list[Checked]:
    found = []
    if lifts:
        warm = any(block.kind == "warm-up" and block.items for block in session.blocks)
        found.append(Checked(warm, "Warm-up for the day's joints" if warm else "No warm-up"))
    for _, item in session.listed():
        drill = drills().get(item.drill)
        clash = sorted(set(drill.not_with) & set(sore)) if drill else []
        if drill and clash:
            found.append(Checked(False, f"{drill.name} with a sore {clash[0]}: take another drill"))
    return found


def _load_rules(
    lifts: Sequence[tuple[Block, Item, Variation]], rules: TypicalRules
) -> list[Checked]:
    found = []
    for _, item, _ in lifts:
        if item.load_rule == "kg":
            words = load_not_made(item, item.load_kg, rules)
            if words:
                found.append(Checked(False, words[0].upper() + words[1:]))
    return found


def _unknown(session: Session) -> list[Checked]:
    known, listed = catalogue(), drills()
    return [
        Checked(False, f"{item.name} is not in the catalogue: it is listed, not counted")
        for _, item in session.listed()
        if item.name not in known and item.name not in listed
    ]


def check_week(week: Week) -> list[Checked]:
    """The rules of a week."""
    found: list[Checked] = []
    days = sorted({s.weekday for s in week.sessions if any(on_back(e) for _, _, e in _lifts(s))})
    if days:
        often = len(days) <= MOST_A_WEEK
        names = ", ".join(WEEKDAYS[day] for day in days)
        found.append(
            Checked(
                often, f"Bar on the back on {names}" + ("" if often else "; once or twice a week")
            )
        )
        pairs = [(a, b) for a in days for b in days if (b - a) % 7 == 1]
        for a, b in pairs:
            found.append(
                Checked(
                    False,
                    f"Bar on the back on {WEEKDAYS[a]} and {WEEKDAYS[b]}: not on neighbouring days",
                )
            )
    counts = Counter(e.id for s in week.sessions for _, _, e in _lifts(s))
    for name, number in counts.items():
        if number > MOST_A_WEEK:
            found.append(
                Checked(False, f"{catalogue()[name].name} {number} times; twice a week at most")
            )
    if len(week.sessions) > 1:
        loaded = Counter(e.direction for s in week.sessions for _, _, e in _lifts(s))
        for direction, wanted in DIRECTIONS.items():
            number = loaded.get(direction, 0)
            enough = number >= wanted
            times = f"{number} time{'' if number == 1 else 's'}"
            more = "" if enough else f"; {'twice' if wanted == 2 else 'once'} a week at least"
            found.append(Checked(enough, f"{direction.capitalize()} load {times}{more}"))
    return found
