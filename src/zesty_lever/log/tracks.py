"""What counts as the same work: tracks, and which visits belong to one.

A track is a variation with settings that change demand within tolerance, a style, a direction of the load and a range
of repetitions; the school is set aside. Only what is of one track is compared with itself.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import cast

from zesty_lever.cases.model import Setup
from zesty_lever.choosing.reach import deeper_way
from zesty_lever.coaching.numbers import Rules
from zesty_lever.coaching.who import pattern_of
from zesty_lever.exercises.catalogue import catalogue, variation
from zesty_lever.log.asked import Dose, Felt, PastSession, SetDone, Visit
from zesty_lever.plan.document import Style

# Settings that change demand, by the tolerance within which they are the same work.
ANGLES = ("thigh_deg", "trunk_deg", "shin_deg", "free_thigh_deg")
HEIGHTS = (
    "bench_height_m",
    "front_height_m",
    "rear_height_m",
    "feet_height_m",
    "heel_height_m",
    "start_height_m",
    "bar_height_m",
)
STANCES = ("stance_m", "step_m")
FEET = ("left_ahead_m", "hands_ahead_m")
# Share by which a band's stiffness or a hold may differ; what a partial rep may.
SAME_LINE, SAME_TRAVEL = 0.10, 0.05
LINES = ("band_N_m", "hold_N", "seat_share")
# Any build's: tolerances compare what was chosen with the default, and a default that goes with stature is the same.
STATURE_M = 1.75
RAMP = "ramp"


def tolerances(rules: Rules) -> dict[str, float]:
    """By setting, how far two may differ and be the same work."""
    return {
        **dict.fromkeys(ANGLES, rules.same_angle),
        **dict.fromkeys(HEIGHTS, rules.same_height),
        **dict.fromkeys(STANCES, rules.same_stance),
        **dict.fromkeys(FEET, rules.same_foot),
    }


def _value(setup: Setup, key: str) -> float | None:
    """A setting as it was chosen, else its default; None where balance solves it or the lift has none."""
    if key in setup.settings:
        return setup.settings[key]
    return variation(setup.variation).default_technique(STATURE_M, 0.0, "even").get(key)


def same_setup(one: Setup, other: Setup, rules: Rules) -> bool:
    """Whether two set-ups are the same work, load and repetitions aside."""
    if one.variation != other.variation or one.style != other.style:
        return False
    if one.variation not in catalogue():
        return True
    chosen = {*one.settings, *other.settings}
    for key, most in tolerances(rules).items():
        if key in chosen and _apart(_value(one, key), _value(other, key)) > most + 1e-9:
            return False
    for key in LINES:
        a, b = _value(one, key), _value(other, key)
        if key in chosen and _apart(a, b) > SAME_LINE * max(abs(a or 0.0), abs(b or 0.0)) + 1e-9:
            return False
    far = max(abs(a - b) for a, b in zip(one.travel, other.travel, strict=True))
    return far <= SAME_TRAVEL + 1e-9 and _direction(one) == _direction(other)


def _apart(one: float | None, other: float | None) -> float:
    """How far two settings differ; what balance solves differs from nothing."""
    return 0.0 if one is None or other is None else abs(one - other)


def _direction(setup: Setup) -> tuple[str, ...]:
    """Which other loads act, by kind: bands and cables up or down, partners, second masses."""
    return tuple(sorted(str(type(load).__name__) for load in setup.loads))


def helped(source: Setup, target: Setup, rules: Rules) -> bool:
    """Whether a set-up is a shallower, shortened or helped one of another: it never raises that one."""
    entry = variation(target.variation)
    if source.variation != target.variation:
        return _reaches_less(source, target)
    depth = entry.depth
    a, b = _value(source, depth), _value(target, depth)
    most = tolerances(rules).get(depth, 0.0)
    way = deeper_way(depth) if depth else 0.0
    shallower = a is not None and b is not None and way * a < way * b - most - 1e-9
    start, floor = (_value(one, "bar_height_m") for one in (source, target))
    higher = start is not None and floor is not None and start > floor + rules.same_height
    span = (source.travel[1] - source.travel[0], target.travel[1] - target.travel[0])
    return shallower or higher or span[0] < span[1] - SAME_TRAVEL or _reaches_less(source, target)


def _reaches_less(source: Setup, target: Setup) -> bool:
    """Whether hands, a seat or a band help in one and not in the other."""
    return bool(source.loads) and not target.loads


def ranges_meet(one: Dose, other: Dose) -> bool:
    """Whether two ranges share a repetition; holds are one track."""
    if one.held or other.held:
        return one.held == other.held
    return one.range[0] <= other.range[1] and other.range[0] <= one.range[1]


def dose_done(one: SetDone) -> Dose:
    """What was asked of a set, else what it was: its own repetitions or seconds."""
    if one.asked is not None:
        return one.asked
    done = one.done
    if done.held:
        return Dose((1, 1), seconds=done.seconds or 1.0, style=plain_style(done.style))
    reps = max(done.reps, 1)
    return Dose((reps, reps), style=plain_style(done.style))


def plain_style(style: str) -> Style:
    """A style of sets; ramp sets are straight ones."""
    return "straight" if style == RAMP else cast(Style, style)


def of_track(one: SetDone, setup: Setup, dose: Dose, rules: Rules) -> bool:
    """Whether a set belongs to the track of a set-up and dose."""
    done = one.done
    if done.setup is None or done.style == RAMP or done.style != dose.style:
        return False
    if one.asked is None and not dose.held and not done.held:
        # Of what was asked nothing is kept: repetitions above the range, before a large step, belong to it.
        low, high = dose.range
        fits = low <= done.reps <= high + rules.reps_above
        return fits and same_setup(done.setup, setup, rules)
    return same_setup(done.setup, setup, rules) and ranges_meet(dose_done(one), dose)


def visits_to(
    sessions: Sequence[PastSession],
    setup: Setup,
    dose: Dose,
    rules: Rules,
    pains: Sequence[tuple[int, Felt]] = (),
) -> list[Visit]:
    """Visits of a track, oldest first; weeks planned lighter are left out. ``pains``: by session, of no one set."""
    found = []
    for session in sessions:
        own = [one for one in session.sets if of_track(one, setup, dose, rules)]
        if not own or session.deload:
            continue
        group, whole = _group(own, dose, rules)
        if not group:
            continue
        felt = [p for one in group for p in one.felt if not p.cleared]
        felt += [p for key, p in pains if key == session.key and not p.cleared]
        found.append(Visit(session.key, session.day, tuple(group), tuple(felt), whole))
    return found


def _group(own: Sequence[SetDone], dose: Dose, rules: Rules) -> tuple[list[SetDone], bool]:
    """The sets of a visit that belong to a dose, and whether they are all that were done of it.

    Sets within two per cent of a load belong together. A top set counts only what was planned as one; what comes
    after it is a track of its own.
    """
    if dose.style in ("paired-minutes", "two-load"):
        return list(own), True
    sides = [[one for one in own if one.done.side == side] for side in ("left", "right")]
    if all(sides):
        parts = [_group(side, dose, rules) for side in sides]
        together = [one for part, _ in parts for one in part]
        level = len(_by_load(together, rules)) <= 1
        return [one for one in own if one in together], level and all(w for _, w in parts)
    groups = _by_load(own, rules)
    if dose.top_set:
        tops = [one for one in own if one.asked is not None and one.asked.top_set]
        if tops:
            return tops, True
        untold = [one for one in own if one.asked is None or one.asked.top_set is None]
        groups = _by_load(untold, rules)
        alone = len(groups) == 1 and len(groups[0]) > (dose.sets or 1)
        return (groups[0], True) if groups and not alone else ([], True)
    rest = [[one for one in g if one.asked is None or not one.asked.top_set] for g in groups]
    rest = [g for g in rest if g]
    if not rest:
        return [], True
    # Most sets; of as many the heaviest.
    best = max(rest, key=lambda g: (len(g), g[0].done.load_kg))
    heavier = [g for g in rest if g is not best and g[0].done.load_kg > best[0].done.load_kg]
    lighter = [g for g in rest if g is not best and g[0].done.load_kg < best[0].done.load_kg]
    return best, not lighter and not any(len(g) >= len(best) for g in heavier)


def _by_load(own: Sequence[SetDone], rules: Rules) -> list[list[SetDone]]:
    """Sets in groups of about one load, the heaviest group first, each in the order in which it was done."""
    groups: list[list[SetDone]] = []
    for one in sorted(own, key=lambda s: -s.done.load_kg):
        top = groups[-1][0].done.load_kg if groups else None
        if top is not None and top - one.done.load_kg <= rules.same_load * top + 1e-9:
            groups[-1].append(one)
        else:
            groups.append([one])
    order = {id(one): at for at, one in enumerate(own)}
    return [sorted(group, key=lambda s: order[id(s)]) for group in groups]


def days_since_pattern(sessions: Sequence[PastSession], setup: Setup, today: int) -> int | None:
    """Days since anything of a lift's pattern was done; None: never."""
    pattern = pattern_of(variation(setup.variation))
    days = [
        session.day
        for session in sessions
        if any(
            one.done.setup is not None
            and one.done.setup.variation in catalogue()
            and pattern_of(variation(one.done.setup.variation)) == pattern
            for one in session.sets
        )
    ]
    return today - max(days) if days else None
