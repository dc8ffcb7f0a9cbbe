"""What a coach of a school would remark on: how big it is, what to say, and what saying it changes.

Everything is read off the solved rep. Each finding names the settings that following its cue would
change; `followed` gives that case, so that what the cue does to hip, knee and back is solved, not
guessed. Targets and cues: common practice, no source.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass

import numpy as np

from zesty_lever.analysis import Impossible, Result, analyse
from zesty_lever.cases.model import Case
from zesty_lever.coaching.finding import Found, ReadRep
from zesty_lever.coaching.findings_back import (
    arching,
    bar_away,
    bar_off_mid_foot,
    hips_rise,
    rounding,
)
from zesty_lever.coaching.findings_sides import SIDE_RULES
from zesty_lever.exercises.catalogue import variation
from zesty_lever.joints import COACH_JOINTS
from zesty_lever.physics.body import landmark

# Where along the foot each school wants the pressure.
PRESSURE = {"hips-first": (0.30, 0.50), "even": (0.44, 0.56), "knees-travel": (0.50, 0.70)}
PARALLEL_DEG = 10.0


@dataclass(frozen=True)
class Effect:
    """What following a cue does: peaks before and after (N m) by joint word, and the finding's size."""

    before: Mapping[str, float]
    after: Mapping[str, float]
    size_after: float


def _depth(rep: ReadRep) -> Found | None:
    short = rep.setting("thigh_deg")
    if not rep.entry.is_squat or short <= 3.0:
        return None
    return Found(
        "depth",
        short,
        "deg",
        "note",
        f"The thigh stops {short:.0f}° above parallel, so hip and knee miss their hardest part.",
        "Sit lower, as far as the back keeps its shape.",
        "A box at parallel height.",
        {"thigh_deg": 0.0},
    )


def _knee_past_toe(rep: ReadRep) -> Found | None:
    if not rep.entry.stands_on_feet or "shin_deg" not in rep.case.settings:
        return None
    past = 100.0 * (rep.x_of("knee_right") - rep.x_of("toe_right"))
    if past <= 0.5 or rep.school == "knees-travel":
        return None
    lifts = rep.setting("heel_lift_deg") > 0.0
    crooked = abs(rep.trunk() - rep.setting("shin_deg")) > PARALLEL_DEG
    if rep.school == "even" and not (lifts or crooked):
        return None
    shank = rep.case.athlete.length_m("shank")
    shin = np.radians(rep.setting("shin_deg"))
    held = float(np.degrees(np.arcsin(np.clip(np.sin(shin) - past / 100.0 / shank, -0.17, 1.0))))
    return Found(
        "knee-past-toe",
        past,
        "cm",
        "flag" if rep.school == "hips-first" else "note",
        f"The knee is {past:.0f} cm past the toes: more for the knee, less for the hip.",
        "Hips back first, shins quieter.",
        "A dowel upright in front of the toes.",
        {"shin_deg": round(held, 1), "trunk_deg": None, "heel_lift_deg": 0.0},
    )


def _heel_lift(rep: ReadRep) -> Found | None:
    lift = rep.setting("heel_lift_deg")
    if lift <= 0.0:
        return None
    ankle = rep.case.athlete.limit_deg("ankle_dorsiflexion")
    return Found(
        "heel-lift",
        lift,
        "deg",
        "flag",
        f"The heel comes up {lift:.0f}°: the ankle is out of range and the weight sits on the ball.",
        "Whole foot down: heel, big-toe ball, little-toe ball.",
        "A small wedge under the heels, or less depth.",
        {
            "heel_lift_deg": 0.0,
            "pressure_fraction": 0.5,
            "shin_deg": min(rep.setting("shin_deg"), 0.9 * ankle),
        },
    )


def _knee_track(rep: ReadRep) -> Found | None:
    caved = -100.0 * rep.setting("knee_track_m")
    if caved <= 1.0:
        return None
    return Found(
        "knee-track",
        caved,
        "cm",
        "flag",
        f"The knees cave {caved:.0f} cm inside the toes: the hip's outer side holds more, the knee is turned inward.",
        "Knees over the toes, push the floor apart.",
        "A light band round the knees, and less weight.",
        {"knee_track_m": 0.0},
    )


def _trunk_and_shin(rep: ReadRep) -> Found | None:
    if not rep.entry.is_squat or rep.school != "even":
        return None
    apart = rep.trunk() - rep.setting("shin_deg")
    if abs(apart) <= PARALLEL_DEG:
        return None
    better = rep.setting("shin_deg") + (0.25 if apart > 0 else -0.25) * abs(apart)
    words = (
        "leans more than the shin: the hip and the low back do most"
        if apart > 0
        else "is more upright than the shin: the knee does most"
    )
    return Found(
        "trunk-against-shin",
        abs(apart),
        "deg",
        "note",
        f"Seen from the side the trunk {words}.",
        "Knees and hips together; chest with the shin."
        if apart > 0
        else "Hips back a little more.",
        "A load in front lifts the chest." if apart > 0 else "A box behind to sit towards.",
        {"shin_deg": round(min(better, 48.0), 1), "trunk_deg": None},
    )


def _pressure(rep: ReadRep) -> Found | None:
    if (
        not (rep.entry.stands_level or rep.entry.has_front_leg)
        or rep.setting("heel_lift_deg") > 0.0
    ):
        return None
    low, high = PRESSURE[rep.school]
    fraction = float(rep.solved.pressure_fraction[rep.at])
    off = max(low - fraction, fraction - high)
    if off <= 0.01:
        return None
    foot = rep.foot_m
    way = "heel" if fraction < low else "toes"
    return Found(
        "pressure-point",
        100.0 * off * foot,
        "cm",
        "note",
        f"The weight sits {100 * off * foot:.0f} cm further to the {way} than this school wants.",
        "Feel the whole foot."
        if rep.school == "even"
        else "Weight on the heel."
        if way == "toes"
        else "Weight to mid-foot.",
        "Barefoot or flat shoes, slow reps.",
        {"pressure_fraction": round(min(max(fraction, low + 0.01), high - 0.01), 3)},
    )


def _rear_leg(rep: ReadRep) -> Found | None:
    if "front_share" not in rep.case.settings or rep.case.variation == "straddle-squat":
        return None
    share = float(rep.solved.ground.share[rep.at])
    usual = rep.usual("front_share")
    wanted = min(0.75, (usual or 0.75) - 0.01)
    if share >= wanted:
        return None
    return Found(
        "rear-leg-works",
        100.0 * (wanted - share),
        "%",
        "flag",
        f"The front leg carries only {100 * share:.0f} %: the rear leg and its hip flexor do the rest.",
        "Chest over the front thigh, rear foot light.",
        "Laces down behind instead of toes tucked.",
        {"front_share": 0.80},
    )


def _stance_length(rep: ReadRep) -> Found | None:
    if "step_m" not in rep.case.settings or rep.case.variation == "straddle-squat":
        return None
    behind = 100.0 * (rep.x_of("hip_left") - rep.x_of("knee_left"))
    if -5.0 <= behind <= 20.0:
        return None
    long = behind > 20.0
    off = behind - 20.0 if long else -5.0 - behind
    step = rep.setting("step_m") + (-1.0 if long else 1.0) * 0.8 * off / 100.0
    return Found(
        "stance-too-long" if long else "stance-too-short",
        off,
        "cm",
        "note",
        f"The rear knee ends {abs(behind):.0f} cm {'behind' if long else 'ahead of'} the hip: "
        + ("the rear hip is overstretched." if long else "the front heel wants to lift."),
        "Shorter step." if long else "Longer step.",
        "Tape marks for both feet.",
        {"step_m": round(step, 3)},
    )


def _thrust_shin(rep: ReadRep) -> Found | None:
    if rep.entry.family != "bridge" or "shin_deg" not in rep.case.settings:
        return None
    off = rep.setting("shin_deg")
    if abs(off) <= 5.0 or (rep.school == "knees-travel" and off > 0):
        return None
    return Found(
        "shin-not-vertical",
        abs(off),
        "deg",
        "note",
        f"At lockout the shins lean {abs(off):.0f}°: "
        + ("the knee extensors help." if off > 0 else "the hamstrings help."),
        "Feet so that the shins stand upright at the top.",
        "Tape where the heels go.",
        {"shin_deg": 0.0},
    )


def _limit_reached(rep: ReadRep) -> Found | None:
    pose = rep.pose
    if (
        not (rep.entry.stands_level or rep.entry.has_front_leg)
        or "shin_deg" not in rep.case.settings
    ):
        return None
    limit = rep.case.athlete.limit_deg("ankle_dorsiflexion")
    left = limit - float(np.degrees(pose.dorsiflexion_rad["right"][rep.at]))
    if left >= 2.0 or rep.setting("heel_lift_deg") > 0.0:
        return None
    return Found(
        "ankle-at-its-end",
        2.0 - left,
        "deg",
        "note",
        f"The ankle has {max(left, 0):.0f}° left before the heel lifts.",
        "Shin a little quieter.",
        "Heeled shoe or wedge; ankle work.",
        {"shin_deg": round(rep.setting("shin_deg") - 4.0, 1), "trunk_deg": None},
    )


RULES: tuple[Callable[[ReadRep], Found | None], ...] = (
    rounding,
    _heel_lift,
    _knee_track,
    hips_rise,
    bar_away,
    arching,
    _rear_leg,
    _knee_past_toe,
    _trunk_and_shin,
    _stance_length,
    _thrust_shin,
    _depth,
    _pressure,
    bar_off_mid_foot,
    _limit_reached,
    *SIDE_RULES,
)


def _tipping(result: Result, outcome: Impossible) -> Found:
    """A pose that can't stand: how far the load falls outside the foot, and balance as the way back."""
    size, shown = 0.0, outcome.frames
    if shown.frames:
        fraction = float(shown.pressure_fraction[min(result.timeline.bottom, shown.frames - 1)])
        past = max(fraction - landmark("ball_from_heel"), -fraction, 0.0)
        size = 100.0 * result.case.athlete.length_m("foot") * past
    text = outcome.first.text
    return Found(
        "tipping",
        size,
        "cm",
        "flag",
        text + ("" if text.endswith(".") else "."),
        "Let balance choose the lean.",
        "A hand on a rail, arms forward, or a box behind.",
        {"trunk_deg": None},
    )


def findings(result: Result) -> list[Found]:
    """Findings of a solved rep by its case's school, flags first; none where nothing could be solved."""
    if isinstance(result.outcome, Impossible):
        tips = result.outcome.first.code == "would-tip"
        return [_tipping(result, result.outcome)] if tips else []
    rep = ReadRep(result, result.case.school)
    found = [f for rule in RULES if (f := rule(rep)) is not None]
    return sorted(found, key=lambda f: f.severity != "flag")


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
