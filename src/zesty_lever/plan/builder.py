"""A week built from the shortlist: hard rules kept, needs met as far as they go, every item with its reasons."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from zesty_lever.choosing.loading import USUAL, TypicalRules
from zesty_lever.choosing.shortlist import Option, RuledOut, shortlist
from zesty_lever.coaching.gym import at_hand_kg, loads_at_hand_kg
from zesty_lever.coaching.who import Standing, pattern_of, who_is
from zesty_lever.exercises.catalogue import Variation, catalogue, variation
from zesty_lever.frozen import dataclass
from zesty_lever.joints import BY_KEY
from zesty_lever.messages import Message
from zesty_lever.plan.document import WEEKDAYS, Block, Item, Plan, Session, Week, keyed
from zesty_lever.plan.doses import dose_of, each_side, kind_of, on_back, role_of, style_of, warm_up
from zesty_lever.plan.search import Choice, Problem, search
from zesty_lever.plan.wish import WeekWish
from zesty_lever.problems import CaseError

# What a week needs, how often, and in words (common practice, no source).
NEEDS = {
    "hip": (2, "hip work"),
    "knee": (2, "knee work"),
    "back": (2, "lower-back work"),
    "lockout": (2, "hard at lockout"),
    "long": (2, "hard when long"),
    "one-leg": (2, "work on one leg"),
    "vertical": (2, "vertical load"),
    "horizontal": (2, "horizontal load"),
    "lateral": (1, "lateral load"),
    "on-back": (1, "a bar on the back"),
    "squat": (1, "a squat"),
    "hinge": (1, "a hinge"),
    "bridge": (1, "a bridge or thrust"),
}
# Heavy work by pattern: at most twice a week, two days between, the second time in another range.
HEAVY = ("floor-pull", "back-squat", "hinge")
SECOND_REPS, SECOND_SHARE = (8, 10), 0.9
# Each so manieth week is a lighter one.
LIGHTER_EVERY, LIGHTER_EVERY_BEGINNER = 4, 6
# A share of the most on the list from which a lift counts as work for a joint, or as hard there.
COUNTS_FROM = 0.6
# An item's worth: all the same, by the wish, by how much it asks, by being trained already; for beginners by ease.
WORTH, BY_WISH, BY_DEMAND, BY_BEST, BY_EASE = 10.0, 20.0, 20.0, 4.0, 6.0
SORE_COSTS = 15.0
# A larger step of load is not planned ahead: repetitions come first.
LARGE_STEP = 0.05
LONG_SESSION_MIN = 50
FAMILIES = ("squat", "lunge", "hinge", "bridge")
SORE_JOINT = {"hip": "hip", "knee": "knee", "lower back": "back"}


@dataclass(frozen=True)
class Built:
    """A plan, how the search stands, what was left out and why; ``says``: what age, training or stage changed."""

    plan: Plan
    choice: Choice
    options: tuple[Option, ...]
    unmet: tuple[str, ...]
    says: tuple[Message, ...] = ()


def slots_of(minutes: int) -> int:
    """How many lifts a session has."""
    if minutes < 30:
        return 2
    return 4 if minutes >= LONG_SESSION_MIN else 3


def does_of(option: Option) -> list[bool]:
    """Which of the needs one option does, in their order."""
    own, entry = option.features, variation(option.variation)
    flags = {
        **{key: own[key] >= COUNTS_FROM for key in ("hip", "knee", "back", "lockout", "long")},
        "one-leg": bool(own["one-leg"]),
        "vertical": entry.direction == "vertical",
        "horizontal": entry.direction == "horizontal",
        "lateral": entry.direction == "lateral",
        "on-back": on_back(entry),
        "squat": entry.family == "squat",
        "hinge": entry.family == "hinge",
        "bridge": entry.lies,
    }
    return [flags[key] for key in NEEDS]


def problem_of(options: Sequence[Option], wish: WeekWish) -> Problem:
    """Options and days as arrays."""
    entries = [variation(option.variation) for option in options]
    scores = np.array([option.score for option in options])
    spread = float(np.ptp(scores)) or 1.0
    ranked = (scores - scores.min()) / spread if wish.want else np.zeros(len(options))
    asks = np.array([max(option.features[key] for key in BY_KEY) for option in options])
    known = {best.variation for best in wish.athlete.known_bests}
    trained = np.array([entry.id in known for entry in entries])
    worth = WORTH + BY_WISH * ranked + BY_DEMAND * asks + BY_BEST * trained
    if _simple(wish):
        worth = worth + BY_EASE * (3 - np.array([entry.skill for entry in entries])) / 2.0
    for sore in wish.athlete.sore:
        joint = SORE_JOINT.get(sore.place)
        if joint is not None:
            worth = worth - SORE_COSTS * np.array([option.features[joint] for option in options])
    directions = {"vertical": 0, "horizontal": 1, "lateral": 2}
    days = sorted(wish.days, key=lambda day: day.weekday)
    weekdays = [day.weekday for day in days]
    places = {option.variation: index for index, option in enumerate(options)}
    locked = [
        (weekdays.index(lock.weekday), places[lock.item.name])
        for lock in wish.locked
        if lock.item.name in places
    ]
    return Problem(
        worth,
        np.array([does_of(option) for option in options], dtype=bool),
        required_of(wish),
        np.array([FAMILIES.index(entry.family) for entry in entries]),
        np.array([directions[entry.direction] for entry in entries]),
        np.array([on_back(entry) for entry in entries]),
        np.array([option.features["back"] for option in options]),
        [
            max(slots_of(day.minutes), sum(at == i for at, _ in locked))
            for i, day in enumerate(days)
        ],
        weekdays,
        locked,
        np.array(
            [
                heavy_of(entry, option.load_kg)
                for entry, option in zip(entries, options, strict=True)
            ]
        ),
        [1 if pattern == "floor-pull" and _one_pull(wish) else 2 for pattern in HEAVY],
    )


def heavy_of(entry: Variation, load_kg: float) -> int:
    """Which pattern's heavy work a lift is, by its place in `HEAVY`; -1: none."""
    if load_kg <= 0.0 or not {"bar", "hex bar"} & set(entry.equipment):
        return -1
    pattern = pattern_of(entry)
    if pattern == "squat":
        return HEAVY.index("back-squat") if on_back(entry) else -1
    return HEAVY.index(pattern) if pattern in HEAVY else -1


def _simple(wish: WeekWish) -> bool:
    who = who_is(wish.athlete, Standing(wish.stage))
    return who.beginner or who.returning


def _one_pull(wish: WeekWish) -> bool:
    """Whether one floor pull a week is enough: a sore lower back, or somebody who begins."""
    return _simple(wish) or any(s.place == "lower back" for s in wish.athlete.sore)


def required_of(wish: WeekWish) -> NDArray[np.intp]:
    """How often each need is asked for: beginners and those who come back need no bar on the back."""
    simple = _simple(wish)
    return np.array([0 if simple and key == "on-back" else n for key, (n, _) in NEEDS.items()])


def build_week(
    wish: WeekWish,
    rules: TypicalRules = USUAL,
    tell: Callable[[float], None] | None = None,
    ranked: Sequence[Option | RuledOut] | None = None,
) -> Built:
    """Build a week (or more, repeated) for a wish. ``ranked``: a shortlist made already for the same wish.

    Raises `CaseError` where nothing at all can be done, or a locked item can't.
    """
    school = wish.school or wish.athlete.school or "even"
    if rules.standing.stage != wish.stage:
        rules = replace(rules, standing=replace(rules.standing, stage=wish.stage))
    listed = (
        ranked
        if ranked is not None
        else shortlist(wish.athlete, wish.wish(), school, _part(tell, 0.0, 0.8), rules, spans=False)
    )
    kept = {lock.item.name for lock in wish.locked}
    options = tuple(
        o
        for o in listed
        if isinstance(o, Option) and (not _asks_too_much(o) or o.variation in kept)
    )
    # What is left out for a sore place first: it is why a need is not met.
    out = [
        RuledOut(o.variation, "asks more of a sore place than half the usual")
        for o in listed
        if isinstance(o, Option) and _asks_too_much(o) and o.variation not in kept
    ]
    out += [o for o in listed if isinstance(o, RuledOut)]
    _check_locked(wish, options, out)
    if not options:
        why = out[0].why if out else "the catalogue is empty"
        raise CaseError("not-feasible", f"no lift can be done this week: {why}", key="equipment")
    problem = problem_of(options, wish)
    choice = search(problem, tell=_part(tell, 0.8, 1.0))
    unmet = unmet_words(choice, options, out)
    sessions = _second_lighter(
        [_session(day, choice, options, wish) for day in range(problem.days)], rules
    )
    weeks = _block_of(Week(sessions=tuple(sessions)), wish, rules)
    bare_weeks = [w.changed(sessions=tuple(s.changed(key="") for s in w.sessions)) for w in weeks]
    plan = Plan(name="Built week", weeks=tuple(bare_weeks), unmet=unmet)
    says = who_is(wish.athlete, rules.standing).says
    return Built(keyed(plan), choice, options, unmet, says)


def _asks_too_much(option: Option) -> bool:
    """Whether an option asks more of a sore place than half the usual."""
    return any(note.id == "list.sore" for note in option.notes)


def _second_lighter(sessions: Sequence[Session], rules: TypicalRules) -> list[Session]:
    """The second heavy day of a pattern in another range of repetitions and a tenth lighter."""
    done: set[int] = set()
    found = []
    for session in sorted(sessions, key=lambda s: s.weekday):
        blocks = []
        for block in session.blocks:
            items = []
            for item in block.items:
                entry = None if item.setup is None else catalogue()[item.setup.variation]
                heavy = -1 if entry is None else heavy_of(entry, item.load_kg or 0.0)
                if entry is not None and heavy in done and not item.locked:
                    load = at_hand_kg(
                        entry.id, entry.equipment, SECOND_SHARE * (item.load_kg or 0.0), rules.gym
                    )
                    why = (*item.why, "second heavy day of its kind: lighter, another range")
                    items.append(item.changed(reps=SECOND_REPS, load_kg=load, why=why))
                else:
                    items.append(item)
                if heavy >= 0:
                    done.add(heavy)
            blocks.append(block.changed(items=tuple(items)))
        found.append(session.changed(blocks=tuple(blocks)))
    return found


def _block_of(week: Week, wish: WeekWish, rules: TypicalRules) -> list[Week]:
    """So many weeks, each a step on as the stage goes, lighter ones among them.

    The loads are what advice would come to if every session is good; each session asks the advice again.
    """
    from zesty_lever.plan.edits import deloaded

    who = who_is(wish.athlete, Standing(wish.stage))
    every = LIGHTER_EVERY_BEGINNER if who.beginner else LIGHTER_EVERY
    weeks, hard = [], 0
    for number in range(wish.weeks):
        own = stepped_on(week, hard, who.good_sessions, rules)
        lighter = (number + 1) % every == 0 or number == wish.event_week
        lighter |= wish.deload_last and wish.weeks > 1 and number == wish.weeks - 1
        if lighter:
            own = deloaded(own, gym=rules.gym)
        else:
            hard += 1
        weeks.append(own)
    return weeks


def stepped_on(week: Week, weeks: int, good_sessions: int, rules: TypicalRules) -> Week:
    """A week so many good weeks later: a step of load after so many good sessions, where it is no large one.

    A lift that is done twice a week in one range gets there twice as fast. What is not loaded stays.
    """

    def step(item: Item) -> Item:
        if item.setup is None or item.load_rule != "advised" or not item.load_kg:
            return item
        entry = catalogue()[item.setup.variation]
        made = loads_at_hand_kg(entry.id, entry.equipment, entry.load_range_kg()[1], rules.gym)
        load = item.load_kg
        for _ in range(weeks // good_sessions):
            higher = next((kg for kg in made if kg > load + 1e-9), load)
            load = higher if higher <= (1.0 + LARGE_STEP) * load + 1e-9 else load
        return item.changed(load_kg=load)

    sessions = tuple(
        s.changed(blocks=tuple(b.changed(items=tuple(step(i) for i in b.items)) for b in s.blocks))
        for s in week.sessions
    )
    return week.changed(sessions=sessions)


def _part(
    tell: Callable[[float], None] | None, start: float, end: float
) -> Callable[[float], None] | None:
    return None if tell is None else lambda share: tell(start + (end - start) * share)


def _check_locked(wish: WeekWish, options: Sequence[Option], out: Sequence[RuledOut]) -> None:
    known = {option.variation for option in options}
    for lock in wish.locked:
        if lock.item.drill or lock.item.name in known:
            continue
        why = next(
            (o.why for o in out if o.variation == lock.item.name), "it is not in the catalogue"
        )
        raise CaseError(
            "not-feasible",
            f"{lock.item.name} is locked on {WEEKDAYS[lock.weekday]}, but {why}",
            key="locked",
            value=lock.item.name,
        )


def _session(day: int, choice: Choice, options: Sequence[Option], wish: WeekWish) -> Session:
    """One day's items in order, each with its dose and reasons."""
    chosen = sorted(
        choice.days[day],
        key=lambda o: (role_of(variation(options[o].variation)), -_demand(options[o])),
    )
    locked = {
        lock.item.name: lock.item
        for lock in wish.locked
        if lock.weekday == choice.problem.weekdays[day]
    }
    blocks: list[Block] = [
        warm_up(
            [options[o].variation for o in chosen],
            [sore.place for sore in wish.athlete.sore],
            wish.equipment,
            day,
        )
    ]
    for number, option in enumerate(chosen):
        name = options[option].variation
        item = locked.get(name) or dose_of(
            name, wish.stage, options[option].load_kg, dict(options[option].settings)
        )
        item = item.changed(why=reasons(day, option, choice, options), locked=name in locked)
        kind, style = kind_of(name, first=number == 0), style_of(name)
        if blocks[-1].kind == kind and blocks[-1].style == style:
            blocks[-1] = blocks[-1].changed(items=(*blocks[-1].items, item))
        else:
            blocks.append(Block(kind=kind, style=style, items=(item,)))
    drills = [
        lock.item
        for lock in wish.locked
        if lock.item.drill and lock.weekday == choice.problem.weekdays[day]
    ]
    if drills:
        blocks[0] = blocks[0].changed(items=(*blocks[0].items, *drills))
    weekday = choice.problem.weekdays[day]
    minutes = sorted(wish.days, key=lambda d: d.weekday)[day].minutes
    return Session(
        name=WEEKDAYS[weekday],
        weekday=weekday,
        minutes=minutes,
        blocks=tuple(b for b in blocks if b.items),
    )


def _demand(option: Option) -> float:
    return sum(option.features[key] for key in BY_KEY)


def reasons(day: int, option: int, choice: Choice, options: Sequence[Option]) -> tuple[str, ...]:
    """Why an item stands there: what it covers, what it beat and by how much, what it does for the joints."""
    p = choice.problem
    covers = [NEEDS[key][1] for key, does in zip(NEEDS, p.does[option], strict=True) if does]
    words = [f"covers {', '.join(covers)}"] if covers else []
    if (day, option) in p.locked:
        words.append("locked by the coach")
    else:
        without = choice.copy()
        without.days[day].remove(option)
        gains = without.gains(day)
        own = float(gains[option])
        gains[option] = -np.inf
        other = int(np.argmax(gains))
        if np.isfinite(gains[other]):
            name = variation(options[other].variation).name.lower()
            ahead = own - float(gains[other])
            words.append(
                f"as good as {name} here"
                if ahead < 0.5
                else f"{ahead:.0f} point{plural(round(ahead))} before {name}"
            )
        else:
            words.append("nothing else may stand here")
    entry = variation(options[option].variation)
    if on_back(entry):
        words.append("bar on the back: first in its session")
    if each_side(entry):
        words.append("both sides one after the other")
    return (*words, options[option].reason)


def plural(count: int) -> str:
    """The ending of a counted word."""
    return "" if count == 1 else "s"


def unmet_words(
    choice: Choice, options: Sequence[Option], out: Sequence[RuledOut]
) -> tuple[str, ...]:
    """Every need that is not met, with the rule or the missing equipment that stops it."""
    found = []
    for (key, (count, words)), short in zip(NEEDS.items(), choice.short(), strict=True):
        if not short:
            continue
        able = [
            o
            for o, does in zip(options, choice.problem.does[:, list(NEEDS).index(key)], strict=True)
            if does
        ]
        have = f"{words}: {count - int(short)} of {count} a week"
        if len(able) == 0:
            stops = _stopped_by(key, out)
            found.append(f"{have}; {stops}")
        elif len(able) == 1:
            name = variation(able[0].variation).name
            found.append(
                f"{have}; only the {name.lower()} does it today, and no day has room for it again"
            )
        else:
            found.append(f"{have}; the days have no room for more beside the other needs and rules")
    return tuple(found)


def _stopped_by(key: str, out: Sequence[RuledOut]) -> str:
    """What would do a need and is ruled out, with why."""
    fitting = [o for o in out if _would_do(key, catalogue()[o.variation])]
    if not fitting:
        return "no lift on today's list does it"
    first = fitting[0]
    return f"{variation(first.variation).name.lower()} would: {first.why}"


def _would_do(key: str, entry: Variation) -> bool:
    """Whether a lift is of the kind that a need asks for, by the catalogue alone."""
    kinds = {
        "one-leg": each_side(entry),
        "vertical": entry.direction == "vertical",
        "horizontal": entry.direction == "horizontal",
        "lateral": entry.direction == "lateral",
        "on-back": on_back(entry),
        "lockout": entry.lies,
        "knee": entry.is_squat,
        "back": entry.from_floor,
        "long": entry.family == "hinge",
        "hip": entry.family in ("hinge", "bridge"),
        "squat": entry.family == "squat",
        "hinge": entry.family == "hinge",
        "bridge": entry.lies,
    }
    return kinds[key]


def items_of(built: Built) -> list[list[Item]]:
    """The lifts of each day, drills left out."""
    return [
        [item for _, item in session.listed() if item.setup is not None]
        for _, session in built.plan.sessions()
    ]
