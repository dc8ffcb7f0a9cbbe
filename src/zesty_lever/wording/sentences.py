"""Sentences for coaches about results: what screens, card, tables and command line say alike.

Every function takes plain results and gives plain text with a real minus sign and the units in use;
none knows a window.
"""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING

import numpy as np

from zesty_lever.analysis import Result
from zesty_lever.bench.model import SLOT_NAMES
from zesty_lever.cases.model import Case, ResolvedCase
from zesty_lever.choosing.compare import theorem_applies
from zesty_lever.exercises.catalogue import variation
from zesty_lever.joints import BY_KEY, COACH_JOINTS
from zesty_lever.wording.messages import load_words as lift_load_words
from zesty_lever.wording.messages import said
from zesty_lever.wording.units import UNITS, minus

# Asked for by name only: the window's first picture needs a few sentences, not what they are about.
if TYPE_CHECKING:
    from zesty_lever.bench.frontier import Frontier
    from zesty_lever.cases.model import Athlete, Best
    from zesty_lever.choosing.bests import Effort, Narrowing
    from zesty_lever.choosing.calibrate import Strength
    from zesty_lever.choosing.explain import Explanation
    from zesty_lever.choosing.loading import TypicalRules
    from zesty_lever.choosing.reach import Furthest, Room
    from zesty_lever.choosing.shortlist import Option, RuledOut
    from zesty_lever.coaching.findings import Effect
    from zesty_lever.coaching.gym import Gym, Loading
    from zesty_lever.coaching.tapes import Line

# Where the floor's push changes the hip by more than this, it is told, N m.
FLOOR_DECIDES_NM = 5.0
# What a judged difference is called (see `choosing.uncertainty.judge`).
JUDGEMENTS = {
    "more": "more, however done",
    "less": "less, however done",
    "more-as-set-up": "more as set up",
    "less-as-set-up": "less as set up",
    "same": "about the same",
    "open": "open",
}
BECAUSE = {"": "", "floor": " (how the feet push)", "measuring": " (measuring)"}


def judgement_words(judgement: str, because: str = "") -> str:
    """A judgement as a coach reads it, with what leaves it open."""
    return f"{JUDGEMENTS[judgement]}{BECAUSE[because]}"


MARGIN_WORDS = {
    "ankle_dorsiflexion": "ankle",
    "hip_flexion": "hip",
    "hip_opening": "hip opening",
    "knee_flexion": "knee",
}


SAID_ABOVE = ("thigh_deg", "stance_m")


REACH_WORDS = {
    "shin_deg": "Shin",
    "trunk_deg": "Trunk",
    "toe_out_deg": "Toes out",
    "step_m": "Step length",
    "rear_height_m": "Rear bench",
    "front_height_m": "Step",
    "bench_height_m": "Bench",
    "feet_height_m": "Under the feet",
    "bar_height_m": "Bar at the start",
    "hands_ahead_m": "Hands ahead",
}


def effect_sentence(found: Effect | None) -> str:
    """What following a cue does to hip, knee and lower back."""
    if found is None:
        return "What it would change can't be solved: the new pose can't be done as it is."
    parts = [f"{word} {found.after[word] - found.before[word]:+.0f}" for word in found.before]
    words = "Following it: " + ", ".join(parts) + " N·m at the peak."
    if found.knee_frontal is not None:
        before, after = found.knee_frontal
        if before < 0.0:
            words += " What bends the knee inward (its frontal moment, own axis): "
            words += f"{-before:.0f} to {max(-after, 0.0):.0f} N·m."
        else:
            words += " The knee's frontal moment (own axis, + bends it outward): "
            words += f"{before:+.0f} to {after:+.0f} N·m."
        words += " The few per cent of extension are the leg's plane turning back over the foot."
    return minus(words)


def room_sentences(left: Room | None) -> str:
    """Room to move in words."""
    if left is None:
        return ""
    parts = []
    for name, furthest in (
        ("Deepest without rounding", left.depth_unrounded),
        ("Deepest at all", left.depth),
        ("Widest stance", left.widest),
    ):
        if furthest is not None:
            parts.append(f"{name}: {_furthest_value(furthest)}{stop_words(furthest)}.")
    if left.depth_best_shin is not None and left.best_shin_deg is not None:
        parts.append(
            f"With the best shin ({left.best_shin_deg:.0f}°): {_furthest_value(left.depth_best_shin)}."
        )
    for key, (low, high) in left.reach.items():
        if key not in SAID_ABOVE:
            ends = " to ".join(UNITS.text(end.value, end.unit, 0) for end in (low, high))
            stops = " and ".join(dict.fromkeys(end.stop for end in (low, high) if end.stop))
            parts.append(f"{REACH_WORDS[key]}: {ends}{f' (stopped by {stops})' if stops else ''}.")
    margins = [
        f"{MARGIN_WORDS[k]} {v:.0f}°" for k, v in left.margins_deg.items() if k in MARGIN_WORDS
    ]
    if margins:
        parts.append("Left at the bottom: " + ", ".join(margins) + ".")
    if left.to_heel_cm is not None and left.to_ball_cm is not None:
        parts.append(
            f"Pressure point: {left.to_heel_cm:.0f} cm to the heel, {left.to_ball_cm:.0f} cm to the ball."
        )
    return minus("<br>".join(parts))


def stop_words(furthest: Furthest) -> str:
    """What stops, or that nothing does."""
    return f" (stopped by {furthest.stop})" if furthest.stop else " (end of the setting's range)"


def _furthest_value(furthest: Furthest) -> str:
    names = {
        "thigh_deg": "thigh ",
        "trunk_deg": "trunk ",
        "bar_height_m": "bar at ",
        "stance_m": "",
    }
    return names.get(furthest.key, "") + UNITS.text(furthest.value, furthest.unit, 0)


def rep_sentences(result: Result) -> str:
    """Where in the range each joint is hardest, where it is idle, and what lockout keeps."""
    if not result.feasible:
        return ""
    way = "of the way to lockout" if result.variation.lies else "of the way down"
    parts = []
    for group in COACH_JOINTS:
        joint, name = group.shown, group.word.capitalize()
        row = result.summary[joint]
        values = result.solved.extension(joint)
        idle = np.abs(values) < 0.15 * abs(row.peak_Nm)
        easy = (
            f", all but idle for {100 * idle.mean():.0f} % of the rep" if idle.mean() > 0.05 else ""
        )
        kind = "" if row.peak_Nm >= 0 else " (as a flexor)"
        parts.append(
            f"{name}: hardest {100 * row.at_progress:.0f} % {way}, {abs(row.peak_Nm):.0f} N·m{kind}; "
            f"{_lockout_words(row.lockout_to_peak, lies=result.variation.lies)}{easy}."
            f"{_aside_words(result, joint)}"
        )
    return minus("<br>".join(parts))


def _lockout_words(share: float, *, lies: bool) -> str:
    """What is left of a joint's hardest moment at the end of the way, as a coach says it."""
    where = "at lockout" if lies else "at the top"
    if abs(share) < 0.005:
        return f"{where} nothing of it"
    # The other way round: what bends the joint holds there, or what straightens it.
    turned = " the other way" if share < 0.0 else ""
    return f"{where} {100 * abs(share):.0f} % of it{turned}"


def _aside_words(result: Result, joint: str) -> str:
    """What a hip does besides extending, where it counts: the whole moment, and who works sideways."""
    hip = result.hips.get(joint)
    if hip is None or abs(hip.frontal_peak_Nm) < LEAST_ASIDE_NM:
        return ""
    who = "adductors" if hip.frontal_peak_Nm > 0.0 else "abductors"
    return (
        f" In all {hip.work_peak_Nm:.0f} N·m; sideways its {who} work, "
        f"{abs(hip.frontal_peak_Nm):.0f} N·m about the forward axis."
    )


# A hip's sideways moment that is smaller than this goes unsaid, N m.
LEAST_ASIDE_NM = 15.0
THEOREM = (
    "Same legs, same weight and same pressure point: hip, knee and ankle follow from the floor up "
    "and carry the same wherever the load sits; only the trunk angle and the lower back change."
)


FRONT_LOAD = (
    "Standing with the load in front, the trunk leans back to bring the weight over the hips. The "
    "hips rest; the lower back moves from under the load and keeps an eighth to a quarter of its peak."
)


def comparison_sentence(first: Result, second: Result, *, front_load: bool = False) -> str:
    """What a pair says, in one or two plain sentences. ``front_load``: it stands with one in front."""
    if first.error or second.error:
        which = "A" if first.error else "B"
        return f"{which} can't be done as set up, so there is nothing to compare yet."
    if front_load:
        return FRONT_LOAD
    if theorem_applies(first, second):
        return THEOREM
    parts = []
    for group in COACH_JOINTS:
        joint, name = group.shown, group.word
        one, two = first.summary[joint].peak_Nm, second.summary[joint].peak_Nm
        if abs(one) < 10.0:
            continue
        change = 100.0 * (two - one) / abs(one)
        if one * two < 0.0 or abs(change) > 300.0:
            parts.append(minus(f"{two:.0f} against {one:.0f} N·m at the {name}"))
        elif abs(change) < 2.0:
            parts.append(f"about the same at the {name}")
        else:
            parts.append(f"{abs(change):.0f} % {'more' if change > 0 else 'less'} at the {name}")
    return "Peak over the rep, B against A: " + ", ".join(parts) + "."


def stands_with_front_load(result: Result, frame: int) -> bool:
    """Whether a frame is standing upright with a load held in front."""
    chosen = result.variation
    standing = result.timeline.progress[frame] < 0.001
    return bool(standing and chosen.is_squat and chosen.hold in ("front-rack", "at-chest"))


def disc_sentence(
    results: Sequence[Result],
    frames: Sequence[int],
    edited: int,
    other_end: Mapping[str, float] | None,
) -> str:
    """Compression and shear of both set-ups, with the occupational line and what it is not.

    ``other_end`` are the ``edited`` set-up's peaks (N m) under the other contact rule, where they differ.
    """
    parts = []
    for letter, result, frame in zip(SLOT_NAMES, results, frames, strict=True):
        if result.feasible:
            press = float(result.solved.disc.compression_N[frame]) / 1000.0
            shear = float(result.solved.disc.shear_N[frame]) / 1000.0
            parts.append(f"{letter} {press:.1f} kN pressing, {shear:.1f} kN shear")
    if not parts:
        return ""
    own = results[edited]
    if (
        other_end is not None
        and abs(other_end["hip_right"] - own.summary["hip_right"].peak_Nm) > FLOOR_DECIDES_NM
    ):
        rule = own.case.contact_rule
        name = (
            "no push between the feet"
            if rule == "least-effort"
            else "feet pushing apart (least effort)"
        )
        return minus(
            f"The answer depends on how the feet push: with {name} the front hip's peak would be "
            f"{other_end['hip_right']:.0f}, the front knee's {other_end['knee_right']:.0f} N·m. L5/S1 disc: "
            + "; ".join(parts)
            + "."
        )
    return (
        "L5/S1 disc: " + "; ".join(parts) + ". NIOSH's action limit for work is 3.4 kN; trained "
        "lifters exceed it and it is no pass mark."
    )


def worth_measuring(widths: dict[str, float]) -> str:
    """What to measure better, from half widths (N m) by kind of error; the floor's own part said apart."""
    from zesty_lever.choosing.uncertainty import CONTACT

    floor = widths.get(CONTACT, 0.0)
    (name, width), *_ = [(n, w) for n, w in widths.items() if n != CONTACT] or [("", 0.0)]
    if max(width, floor) <= 1.0:
        return ""
    words = f"What to measure better first: {name}. Alone it leaves ±{width:.0f} N·m at the first set-up's knee."
    return (
        f"{words} How the floor may push leaves ±{floor:.0f}, which no tape narrows."
        if floor > 1.0
        else words
    )


def interval_words(option: Option) -> str:
    """The intervals on a line of their own."""
    parts = [
        f"{BY_KEY[key].word} {low:.0f} to {high:.0f}" for key, (low, high) in option.spans.items()
    ]
    return f"\n     90 %: {', '.join(parts)} N·m" if parts else ""


def settings_words(option: Option) -> str:
    """What is set otherwise than usual: how deep at most, where the hips decide it, and what balance needs."""
    entry = variation(option.variation)
    words = ""
    for key, value in option.settings.items():
        setting = (
            f"{entry.settings[key].name.lower()} {UNITS.text(value, entry.settings[key].unit, 0)}"
        )
        words += (
            f", only to {setting}: deeper {option.depth_stops}"
            if key == entry.depth
            else f", with {setting}"
        )
    return words


def notes_words(option: Option) -> str:
    """What else was changed in an option, is rough, or puts it behind others."""
    return "".join(f"; {_clause(said(note))}" for note in option.notes)


def _clause(words: str) -> str:
    """A sentence as a part of another one."""
    return (words[:1].lower() + words[1:]).rstrip(".")


def ruled_out_words(out: RuledOut) -> str:
    """Why a variation can't be done today."""
    if out.says is None:
        return out.why
    return _clause(said(out.says))


def option_lines(rank: int, option: Option | RuledOut) -> str:
    """One variation of the shortlist: name, load and settings; reason; intervals. Or why it is ruled out."""
    entry = variation(option.variation)
    from zesty_lever.choosing.shortlist import RuledOut

    if isinstance(option, RuledOut):
        return minus(f"–  {entry.name}: ruled out, {ruled_out_words(option)}")
    load = (
        f", {lift_load_words(entry.id, option.load_kg)} ({option.load_rule})" if entry.load else ""
    )
    first = f"{rank}  {entry.name}{load}{settings_words(option)}{notes_words(option)}"
    return minus(f"{first}\n     {option.reason}{interval_words(option)}")


def card_value(line: Line) -> str:
    """A line's rounded value as it is written."""
    decimals = 0 if line.unit != "m" or not UNITS.imperial else 1
    return UNITS.text(line.rounded, line.unit, decimals)


def rounding_words(line: Line) -> str:
    """What rounding to what a gym can set changed, signed."""
    words = UNITS.text(abs(line.off), line.unit, 1)
    return f"{'+' if line.off > 0 else '−'}{words}"


def discs_words(name: str, load_kg: float, gym: Gym) -> str:
    """Which bar and discs make a load, or the nearest one; empty where there is no bar."""
    load = variation(name).load
    if load is None or load.name != "bar" or load_kg <= 0.0:
        return ""
    loading = gym.loading(name, load_kg)
    if loading is None:
        return "no bar in this gym is so light: use dumbbells or an empty pipe"
    words = UNITS.in_words(f"{loading.bar.name}, {side_words(loading)} a side")
    if abs(loading.off_kg) > 0.01:
        words += f": makes {UNITS.text(loading.total_kg, 'kg')}, the nearest"
    return words


def side_words(loading: Loading) -> str:
    """Discs of one side, in the unit shown: 15 + 1.25; kilograms in full, pounds to a tenth."""
    _, factor, _ = UNITS.shown("kg")
    digits = 2 if factor == 1.0 else 1
    return " + ".join(f"{round(factor * mass, digits):g}" for mass in loading.side) or "no discs"


def load_words(case: ResolvedCase) -> str:
    """A set-up's load, or that there is none."""
    if not variation(case.variation).load:
        return "no load"
    return UNITS.text(case.load_kg or 0.0, "kg").replace(".0 ", " ")


def setup_title(case: ResolvedCase, slot: int) -> str:
    """Short name of a set-up: letter, variation and load."""
    return f"{SLOT_NAMES[slot]}  {variation(case.variation).name}, {load_words(case)}"


def figure_sentence(result: Result, slot: int) -> str:
    """What the figure shows, in one sentence for who can't see it."""
    title = setup_title(result.case, slot)
    if result.error:
        return minus(f"{title}: not possible. {result.error.text}")
    solved = result.solved.bottom_deg
    angles = [
        f"{name} {solved[key]:.0f} degrees"
        for key, name in (("trunk_deg", "trunk"), ("thigh_deg", "thigh"), ("shin_deg", "shin"))
        if key in solved
    ]
    peaks = [f"{g.word} {result.summary[g.shown].peak_Nm:.0f}" for g in COACH_JOINTS]
    return minus(
        f"{title}; {', '.join(angles)}; peaks over the rep: {', '.join(peaks)} newton metres."
    )


def curves_sentence(named: Sequence[tuple[str, Result]], joint: str, word: str) -> str:
    """What curves of one joint show, in one sentence for who can't see them."""
    parts = [
        f"{name} {result.summary[joint].peak_Nm:.0f} newton metres at "
        f"{100 * result.summary[joint].at_progress:.0f} per cent"
        for name, result in named
    ]
    return (
        minus(f"{word.capitalize()}, peak and where it falls: {'; '.join(parts)}.") if parts else ""
    )


def lined_up_name(case: Case, beside: Sequence[Case]) -> str:
    """A set-up's variation in a line-up, with its athlete's name where several are lined up."""
    name = variation(case.variation).name
    if len({(other.athlete.name, other.athlete.height_m) for other in beside}) < 2:
        return name
    return f"{name}, {case.athlete.name or 'Athlete'}"


def technique_sentences(frontier: Frontier, chosen: Result) -> str:
    """The chosen technique: peaks with what they differ from the one at hand, and every searched setting."""
    known, point = variation(frontier.about.case.variation).settings, frontier.point
    start = frontier.found.start.peaks
    peaks = [
        f"<b>{group.word.capitalize()}</b> {point.peaks[key]:.0f} N·m ({point.peaks[key] - start[key]:+.0f})"
        for key, group in BY_KEY.items()
    ]
    settings = [
        f"{known[key].name}: {UNITS.text(value, known[key].unit, 0)}"
        for key, value in point.settings.items()
        if key in known
    ]
    free = frontier.about.case.free
    if chosen.feasible and free is not None:
        solved = chosen.solved.bottom_deg[free]
        settings.append(f"{known[free].name}: {UNITS.text(solved, known[free].unit, 0)}, solved")
    return minus("<br>".join([*peaks, "", *settings]))


def usual_load_words(case: ResolvedCase, rules: TypicalRules) -> str:
    """The working load that is usual for this athlete, and its rule; empty where nothing is carried."""
    from zesty_lever.choosing.loading import proposed_load

    if variation(case.variation).load is None:
        return ""
    found = proposed_load(case, rules)
    why = f" {said(found.says[0])}" if found.says else ""
    if found.load_kg is None:
        return minus(f"no load is proposed here.{why}")
    return minus(
        f"usual here: {lift_load_words(case.variation, found.load_kg)} ({found.rule}).{why}"
    )


def effort_words(told: Effort, *, loaded: bool) -> str:
    """How hard a set-up is against what the athlete can hold, in one sentence; estimates, no maximum to attempt."""
    words = f"Uses about {100 * told.top:.0f} % ({100 * told.low:.0f} to {100 * told.high:.0f}) of what "
    words += f"the {BY_KEY[told.joint].word} can hold" if told.joint else "the joints can hold"
    if not told.joint:
        words += ", hip, knee and lower back about alike" if told.top > 0.3 else ""
    best = told.best
    if loaded and best is not None and not best.tested:
        ends = (UNITS.text(kg, "kg", 0) for kg in (best.median_kg, best.low_kg, best.high_kg))
        median, low, high = ends
        words += f"; a best of about {median} is expected ({low} to {high}{', rough' if best.rough else ''})"
    if told.other:
        comes = "come" if " and " in told.other else "comes"
        words += f"; {told.other} {comes} first"
    return minus(f"{words}. {told.basis.capitalize()}.")


def also_words(told: Effort) -> str:
    """Uses that are shown and never limit; empty where they are not known."""
    names = {"ankle": "ankle", "knee_flexors": "knee flexors", "hip_abductors": "hip abductors"}
    parts = [f"{names[name]} {100 * use:.0f} %" for name, use in told.also.items()]
    return f"Also, never limiting: {', '.join(parts)}." if parts else ""


def best_words(best: Best) -> str:
    """A kept best: the lift, the load, and how it was done."""
    words = f"{variation(best.variation).name}: {UNITS.text(best.load_kg, 'kg')}"
    if best.reps > 1:
        words += f" × {best.reps}"
    if best.at_least:
        words += ", more would have gone"
    return words + (", with settings of its own" if best.settings else "")


def curve_words(athlete: Athlete) -> str:
    """Which joints' strength was measured, and over which angles; empty where none was."""
    parts = []
    for joint, points in athlete.strength_curves.items():
        angles = [point.angle_deg for point in points]
        parts.append(f"{BY_KEY[joint].word} {min(angles):.0f} to {max(angles):.0f}°")
    return f"Measured: {', '.join(parts)}." if parts else ""


def strength_sentences(strength: Strength, next_one: Narrowing | None = None) -> str:
    """What known bests say of the joints' strength against the usual one, with its middle 90 %, and what is asked.

    ``next_one`` is the untested best that would narrow what is expected most.
    """
    from zesty_lever.choosing.bests import against_usual

    parts = []
    if strength.known:
        told = (
            f"{BY_KEY[joint].word} {100 * middle:.0f} % ({100 * low:.0f} to {100 * high:.0f})"
            for joint, (middle, low, high) in against_usual(strength).items()
        )
        count = len(strength.known)
        parts.append(
            "Estimated strength, in per cent of a trained person's of this mass and sex: "
            f"{', '.join(told)}; from {count} best{'s' if count > 1 else ''}."
        )
    if next_one is not None:
        name = variation(next_one.variation).name
        parts.append(
            f"Worth testing next: {name[:1].lower()}{name[1:]}; knowing it would narrow the other expected bests by about "
            f"{100 * next_one.share:.0f} %."
        )
    asked = (*strength.left_out, *strength.odd)
    parts.extend(UNITS.in_words(f"{words[:1].upper()}{words[1:]}") for words in asked)
    return "\n".join(parts)


def sparing_words(athlete: Athlete) -> str:
    """What the button says that spares what is sore; empty where nothing is."""
    from zesty_lever.bench.wish_form import sore_joints

    words = [BY_KEY[joint].word for joint in sore_joints(athlete)]
    return f"Spare the sore {' and '.join(words)}" if words else ""


def lean_sentences(explained: Explanation) -> str:
    """Why the trunk leans, and what a higher chest costs."""
    parts = [f"The trunk leans {explained.lean_deg:.0f}° at the bottom."]
    for reason in explained.reasons:
        value, usual = (UNITS.text(v, reason.unit) for v in (reason.value, reason.usual))
        if reason.unit == "kg":
            without = explained.lean_deg - reason.adds_deg
            parts.append(f"With {usual} instead of {value} it would lean {without:.0f}°.")
            continue
        does = f"{'adds' if reason.adds_deg > 0.0 else 'takes off'} {abs(reason.adds_deg):.0f}°"
        norm = "usual" if reason.unit == "deg" else "average"
        parts.append(f"{reason.what.capitalize()} {value} ({norm} {usual}) {does}.")
    if not any(reason.unit != "kg" for reason in explained.reasons):
        parts.append(
            "Build and ankles are as usual: nothing of them adds to it; balance over the foot asks for it."
        )
    up = explained.chest_up
    if up is not None and up.by_deg == 0.0:
        parts.append("The chest can't come up at this depth and load: no shin balances it.")
    elif up is not None:
        most = "" if up.by_deg == up.asked_deg else f" (the most of {up.asked_deg:.0f}° asked for)"
        change = ", ".join(f"{word} {value:+.0f}" for word, value in up.change_Nm.items())
        parts.append(
            f"Chest up by {up.by_deg:.0f}°{most} takes a shin of {up.shin_deg:.0f}°: {change} N·m."
        )
    return minus(" ".join(parts))


def file_name(words: str, ending: str) -> str:
    """A file name proposed from what is in it: letters, digits and single hyphens only."""
    kept = re.sub(r"[^\w]+", "-", words, flags=re.UNICODE).strip("-")[:60].strip("-")
    return f"{kept or 'zesty-lever'}.{ending}"
