"""Sentences of the records: days, doses, sets, advice, exposure."""

from __future__ import annotations

import datetime as dt
from collections.abc import Mapping, Sequence

from zesty_lever.exercises.catalogue import catalogue
from zesty_lever.joints import BY_KEY, COACH_JOINTS, JointGroup
from zesty_lever.log.asked import Advice, Decision
from zesty_lever.log.entry import DoneSet, Entry, Pain
from zesty_lever.log.exposure import DIRECTIONS, Exposure
from zesty_lever.log.weeks import Against
from zesty_lever.plan.document import Block, Item, Style
from zesty_lever.plan.drills import drills
from zesty_lever.wording.messages import in_two_hands, load_words, said
from zesty_lever.wording.units import UNITS

STYLE_WORDS: dict[Style, str] = {
    "straight": "straight sets",
    "paired-minutes": "paired minutes",
    "clusters": "clusters",
    "rest-pause": "rest-pause",
    "constant-tension": "constant tension",
    "paused": "paused",
    "one-and-a-quarter": "one and a quarter",
    "holds": "holds",
    "two-load": "two loads",
}
STAGE_WORDS = {
    "beginner": "Beginner",
    "usual": "Usual",
    "advanced": "Advanced",
    "back-from-injury": "Back from injury",
}
STATE_WORDS = {
    "planned": "planned",
    "running": "running",
    "done": "done",
    "missed": "missed",
    "called-off": "called off",
}
BLOCK_WORDS = {
    "warm-up": "Warm-up",
    "main": "Main",
    "assistance": "Assistance",
    "finisher": "Finisher",
    "cool-down": "Cool-down",
}
ACTION_WORDS = {
    "stop": "Stop",
    "lighter": "Lighter",
    "hold": "Same again",
    "up": "More",
    "start": "Start",
    "choose": "A choice",
}
IMPULSE_WORDS = (
    "Impulse is moment times time: slow sets and pauses give more of it at the same load. "
    "Read it with hard repetitions, kilograms and time."
)


def exercise_words(name: str) -> str:
    """A variation or drill as a coach reads it; an unknown one as it is written."""
    known = catalogue().get(name)
    if known is not None:
        return known.name
    drill = drills().get(name)
    return name if drill is None else drill.name


def day_short(day: int, today: int | None = None) -> str:
    """A day as Thu 26 Nov; today and its neighbours by name."""
    if today is not None and -1 <= day - today <= 1:
        return ("Yesterday", "Today", "Tomorrow")[day - today + 1]
    date = dt.date.fromordinal(day)
    year = "" if today is None or abs(day - today) < 300 else f" {date.year}"
    return f"{date:%a} {date.day} {date:%b}{year}"


def clock_words(at_ms: int) -> str:
    """A moment on the wall clock, as 18:40."""
    return f"{dt.datetime.fromtimestamp(at_ms / 1e3):%H:%M}"  # noqa: DTZ006 (the coach's own clock)


def range_words(low: int, high: int) -> str:
    """A range of repetitions."""
    return str(low) if low == high else f"{low}\N{EN DASH}{high}"


def mass_words(mass_kg: float) -> str:
    """A mass in the units in use, without a decimal that says nothing."""
    return UNITS.text(mass_kg, "kg").replace(".0 ", " ")


def load_short(load_kg: float | None, up_kg: float | None = None, name: str = "") -> str:
    """A load as a lift's is picked up, with the other one on the way up where there is one."""
    if load_kg is None:
        return ""
    words = load_words(name, load_kg) if in_two_hands(name) else mass_words(load_kg)
    return words if up_kg is None or up_kg == load_kg else f"{words} down, {mass_words(up_kg)} up"


def dose_words(block: Block, item: Item) -> str:
    """A dose in one line: sets, repetitions or seconds, load, side, style, rest."""
    if block.style == "paired-minutes":
        odd = exercise_words(item.odd_drill) if item.odd_drill else "rest"
        count = range_words(*item.reps)
        parts = [f"{item.minutes or 10} min: odd {odd.lower()}, even {count}"]
    elif item.seconds is not None and (block.style == "holds" or item.setup is None):
        parts = [f"{item.sets} \N{MULTIPLICATION SIGN} {item.seconds:g} s"]
    elif block.style == "clusters":
        minis = f"{item.minis or 4} \N{MULTIPLICATION SIGN} {item.mini_reps or 3}"
        parts = [f"{item.sets} clusters of {minis}"]
    else:
        parts = [f"{item.sets} \N{MULTIPLICATION SIGN} {range_words(*item.reps)}"]
    if item.side == "each":
        parts[0] += " each side"
    elif item.side != "both":
        parts[0] += f", {item.side} side"
    loaded = load_rule_words(item)
    if loaded:
        parts.append(loaded)
    if block.style not in ("straight", "holds"):
        parts.append(STYLE_WORDS.get(block.style, block.style))
    if block.rounds > 1:
        parts.append(f"{block.rounds} rounds")
    return ", ".join(parts)


def load_rule_words(item: Item) -> str:
    """The load of an item, or the rule that gives it."""
    if item.setup is None:
        return ""
    known = catalogue().get(item.setup.variation)
    if known is not None and known.load_range_kg()[1] <= 0.0:
        return ""
    if item.load_rule == "share-of-best" and item.share is not None:
        return f"{100 * item.share:.0f} % of the best"
    if item.load_kg is not None and item.load_rule != "typical":
        return load_short(item.load_kg, item.load_up_kg, item.name)
    return {
        "kg": "load to be set",
        "typical": "usual load",
        "advised": "load as advised",
        "by-feel": "by feel",
    }.get(item.load_rule, "")


def set_words(done: DoneSet) -> str:
    """A set as it was done: 5 x 60 kg, left; 30 s."""
    amount = f"{done.seconds:g} s" if done.held and done.seconds else f"{done.reps}"
    if done.quarters:
        amount += f" and {('', '1/4', '1/2', '3/4')[done.quarters]}"
    if done.load_kg:
        amount += f" \N{MULTIPLICATION SIGN} {load_short(done.load_kg, done.load_up_kg, done.name)}"
    elif not done.held:
        amount += " reps"
    return amount if done.side == "both" else f"{amount}, {done.side}"


def fault_words(code: str) -> str:
    """A fault's code as words."""
    return code.replace("-", " ")


def pain_words(pain: Pain) -> str:
    """A pain in short: knee left 3 of 10."""
    side = "" if pain.side == "both" else f" {pain.side}"
    numb = ", numb" if pain.numb else ""
    return f"{pain.place}{side} {pain.score} of 10{numb}"


def seen_words(entry: Entry) -> str:
    """Faults, pain and the note of a set."""
    parts = [
        fault_words(f.code) + (" (flag)" if f.severity == "flag" else "") for f in entry.faults
    ]
    parts += [pain_words(p) for p in entry.pains]
    if entry.note:
        parts.append(entry.note)
    if entry.uncounted:
        parts.append(f"not counted: {entry.uncounted}")
    return "; ".join(parts)


def corrected_words(was: Entry, by: Entry, initials: Mapping[int, str]) -> str:
    """What a correction replaced: was 5 reps, corrected 18:40 by KB."""
    who = initials.get(by.coach or 0, "")
    done = "taken back" if by.withdrawn else "corrected"
    return f"was {set_words(was)}, {done} {clock_words(by.at_ms)}" + (f" by {who}" if who else "")


def advice_words(advice: Advice, name: str = "") -> str:
    """Advice in one line: More: 62.5 kg, 4 to 6."""
    parts = []
    if advice.load_kg is not None and advice.load_kg > 0.0:
        parts.append(load_short(advice.load_kg, advice.load_up_kg, name))
    if advice.minis is not None:
        parts.append(f"{advice.minis} mini-sets")
    elif advice.seconds is not None:
        parts.append(f"{advice.seconds:g} s")
    elif advice.reps is not None:
        parts.append(f"{range_words(*advice.reps)} reps")
    if advice.side_first:
        parts.append(f"{advice.side_first} first")
    head = ACTION_WORDS[advice.action]
    return (
        f"{head}: {', '.join(parts)}" if parts and advice.action not in ("stop", "choose") else head
    )


def ramp_words(name: str, ramp: Sequence[tuple[float, int]]) -> str:
    """Ramp sets in one line, as they are picked up: 20 kg × 8, 40 kg × 5."""
    times = "\N{MULTIPLICATION SIGN}"
    return ", ".join(f"{load_short(kg, None, name)} {times} {reps}" for kg, reps in ramp)


def ways_words(advice: Advice) -> list[str]:
    """Other ways that an advice names, each with its load and why."""
    found = []
    for one in advice.instead:
        load = load_short(one.load_kg, None, one.variation) if one.load_kg else ""
        name = exercise_words(one.variation)
        found.append(f"{name}{f', {load}' if load else ''}: {said(one.why)}")
    return found


def against_words(group: JointGroup, against: Against) -> str:
    """One joint's week beside the four before."""
    return f"{group.word}: {against.words}"


def impulse_words(impulse_Nms: float) -> str:
    """An impulse with its unit, its thousands apart, on one line."""
    return f"{impulse_Nms:,.0f} N·m·s".replace(",", "\N{NO-BREAK SPACE}").replace(
        " ", "\N{NO-BREAK SPACE}"
    )


def exposure_words(total: Exposure) -> str:
    """A sum in one sentence, what was not counted named."""
    parts = []
    for group in COACH_JOINTS:
        sure, most = total.hard_of(group.key)
        hard = f"{sure:g}" if sure == most else f"{sure:g} to {most:g}"
        parts.append(f"{group.word} {impulse_words(total.of(group.key))}, {hard} hard")
    words = "; ".join(parts)
    words = words[0].upper() + words[1:]
    more = f"{mass_words(round(total.kg))} moved, {total.seconds / 60:.0f} min under load"
    text = f"{words}; {more}."
    if total.uncounted:
        named = "; ".join(f"{why} ({n})" for why, n in total.uncounted.items())
        text += f" Not counted: {named}."
    return text


def direction_words(by_direction: Mapping[str, Exposure]) -> str:
    """Sets and kilograms by direction; one without any is said."""
    parts = []
    for direction in DIRECTIONS:
        found = by_direction.get(direction)
        sets = 0 if found is None else found.sets
        kg = "" if found is None or not found.kg else f", {mass_words(round(found.kg))}"
        parts.append(f"{direction} {sets} sets{kg}" if sets else f"{direction} none")
    return "; ".join(parts)


def instead_words(lift: str, shares: Mapping[str, float], places: Sequence[str]) -> str:
    """What the list of substitutes rests on: ceilings in per cent of what the lift asks at its best load."""
    name = exercise_words(lift)
    if shares:
        limits = " and ".join(
            f"{share:.0f} % of what it asks of the {BY_KEY[joint].word}"
            for joint, share in shares.items()
        )
        return (
            f"Lifts in place of the {name.lower()}, under {limits} at its best load. "
            "Pain goes to a licensed clinician."
        )
    if places:
        where = " and ".join(places)
        return (
            f"Lifts in place of the {name.lower()}. The list knows no ceiling for the {where}: "
            "judge each by eye. Pain goes to a licensed clinician."
        )
    return f"Lifts in place of the {name.lower()}."


def decision_words(decided: Decision, today: int) -> str:
    """What a coach decided against the advice, and when."""
    advised = (
        "a stop was advised"
        if decided.advised_kg is None
        else f"{mass_words(decided.advised_kg)} was advised"
    )
    who = f" ({decided.by})" if decided.by else ""
    taken = f"{mass_words(decided.taken_kg)} taken"
    return f"{day_short(decided.day, today)}: {advised}, {taken}{who}."
