"""Says in plain words why a pose cannot exist, what would help, and which pose comes nearest.

Three functions apart: `problems_of` words what a solution flags; `advised` looks for what would help
(it tries over a hundred poses); `nearest_drawable` finds settings that can at least be drawn.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from dataclasses import replace

import numpy as np

from zesty_lever.cases.batch import DEEPEST, make_batch
from zesty_lever.cases.model import Case, ResolvedCase
from zesty_lever.cases.resolve import technique_of
from zesty_lever.exercises.catalogue import variation
from zesty_lever.frozen import dataclass
from zesty_lever.physics.body import landmark
from zesty_lever.physics.contacts import MOST_SLIDE_M
from zesty_lever.physics.failing import ABOVE_FLOOR, floor_rows, on_the_floor, under_foot
from zesty_lever.physics.forces import GRAVITY_M_S2
from zesty_lever.physics.solved import Failure, Solved
from zesty_lever.physics.vectors import Array
from zesty_lever.problems import Problem, in_order

SCAN_STEPS = 121
# The setting that an impossible pose is blamed on where a variation lacks the usual one.
STAND_INS = ("bar_height_m", "shin_deg", "start_height_m", "stance_m", "bench_slope_deg")
DEGREE = "\N{DEGREE SIGN}"
# Where an impossible pose is drawn: its lean, and what else balance would have solved.
UNBALANCED_TRUNK_DEG = 45.0
UNBALANCED = {"trunk_deg": UNBALANCED_TRUNK_DEG, "shin_deg": 30.0, "thigh_deg": 20.0}


@dataclass(frozen=True)
class _Scene:
    """One failing case at the first frame at which a failure holds."""

    case: ResolvedCase
    solved: Solved
    failure: Failure
    frame: int

    def largest(self, values: Array) -> float:
        """Largest known value of one case over the frames."""
        known = values[np.isfinite(values)]
        return float(known.max()) if len(known) else 0.0

    @property
    def foot_m(self) -> float:
        """Length of the foot, m."""
        return self.case.athlete.length_m("foot")


def problems_of(case: ResolvedCase, solved: Solved) -> tuple[Problem, ...]:
    """Everything that is impossible about one case, first things first, in words."""
    found = []
    for failure in solved.failures:
        if not failure.flags.any():
            continue
        frame = int(np.argmax(failure.flags))
        scene = _Scene(case, solved, failure, frame)
        problem = _WORDS[failure.code](scene)
        found.append(replace(problem, frame=frame))
    return in_order(found)


def _of_a_setting(words: Callable[[_Scene], str]) -> Callable[[_Scene], Problem]:
    """A problem that is put down to a setting."""

    def problem(scene: _Scene) -> Problem:
        settings = variation(scene.case.variation).settings
        key = next(k for k in (scene.failure.key, *STAND_INS) if k in settings)
        return Problem(
            scene.failure.code,
            f"{words(scene)}.",
            key,
            scene.case.settings.get(key),
            settings[key].unit,
        )

    return problem


def _out_of_reach(scene: _Scene) -> str:
    settings = scene.case.settings
    if "bench_height_m" in settings:
        return "Thigh and shank can't stand that way between the hips and the feet"
    key = "step_m" if settings.get("step_m") is not None else "stance_m"
    word = "step" if key == "step_m" else "stance"
    return f"The legs are too short for a {word} of {100 * (settings[key] or 0.0):.0f} cm"


def _hip_opening(scene: _Scene) -> str:
    limit = scene.case.athlete.limit_deg("hip_opening")
    opened = max(scene.largest(np.abs(a)) for a in scene.solved.pose.hip_opening_rad.values())
    return (
        f"The thigh would open {math.degrees(opened):.0f}{DEGREE} to the side; "
        f"this athlete's hip opens {limit:.0f}{DEGREE}"
    )


def _ankle_limit(scene: _Scene) -> str:
    limit = scene.case.athlete.limit_deg("ankle_dorsiflexion")
    contacts = scene.solved.contacts.names
    flat = [side for side in ("left", "right") if f"foot_{side}" in contacts]
    bent = max(
        scene.largest(scene.solved.pose.dorsiflexion_rad[side]) for side in flat or ["right"]
    )
    return (
        f"The ankle would bend {math.degrees(bent):.0f}{DEGREE}; "
        f"this athlete's ankle bends {limit:.0f}{DEGREE} before the heel lifts"
    )


def _knee_limit(scene: _Scene) -> str:
    limit = scene.case.athlete.limit_deg("knee_flexion")
    bent = max(scene.largest(a) for a in scene.solved.pose.knee_flexion_rad.values())
    return (
        f"The knee would bend {math.degrees(bent):.0f}{DEGREE}; "
        f"this athlete's knee bends {limit:.0f}{DEGREE}"
    )


def _would_tip(scene: _Scene) -> str:
    """Where the pressure would have to be, and the push at shoulder height that would hold it."""
    case, pose, at = scene.case, scene.solved.pose, scene.frame
    if "knee_share" in case.settings:
        fraction = float(scene.solved.pressure_fraction[at])
        where = "ahead of the knees" if fraction > 1.0 else "behind the insteps"
        return f"Would tip: the load falls {where}"
    ball = landmark("ball_from_heel")
    fraction = _worst_fraction(scene)
    forward = fraction > ball
    turned = math.cos(math.radians(case.settings.get("toe_out_deg") or 0.0))
    past = abs(fraction - (ball if forward else 0.0)) * scene.foot_m * turned
    weight = float(pose.system_mass_kg()[at]) * GRAVITY_M_S2
    height = float(np.nan_to_num(pose.points["shoulder_mid"][1][at], nan=1.0))
    way, mark = (
        ("forward", "ahead of the ball of the foot") if forward else ("back", "behind the heel")
    )
    return (
        f"Would tip {way}: the load falls {100 * past:.0f} cm {mark}; a hold of about "
        f"{weight * past / max(height, 0.1):.0f} N at shoulder height would keep it up"
    )


def _worst_fraction(scene: _Scene) -> float:
    """Pressure point of the foot that is furthest off, over the frames that fail."""
    solved, middle = scene.solved, 0.5 * landmark("ball_from_heel")
    names = [n for n in solved.ground.names if n.startswith("foot_")]
    known = [solved.pressure_fraction[scene.failure.flags]]
    if solved.support.kind in ("feet", "foot"):
        sides = [name.removeprefix("foot_") for name in names]
        known += [under_foot(solved.pose, solved.ground, s)[scene.failure.flags] for s in sides]
    values = np.concatenate(known)
    values = values[np.isfinite(values)]
    return float(values[np.argmax(np.abs(values - middle))]) if len(values) else middle


def _cannot_balance(scene: _Scene) -> str:
    free = scene.case.free
    if free is None or free == "trunk_deg":
        return "No trunk lean brings the load over the pressure point"
    if free in ("hold_N", "seat_share", "front_share"):
        return "These angles can't be held together: on the way the load falls outside the foot"
    name = {"shin_deg": "shin", "thigh_deg": "thigh"}[free]
    return f"No {name} angle brings the load over the pressure point with this trunk lean"


def _below_floor(scene: _Scene) -> str:
    points = scene.solved.pose.points
    heights = {name: float(points[name][1][scene.frame]) for name in ABOVE_FLOOR}
    lowest = min(heights, key=lambda name: heights[name])
    part, _, side = lowest.partition("_")
    word = f"{side} {part}" if side in ("left", "right") else "lower back"
    return f"The {word} would be {-100 * heights[lowest]:.0f} cm under the floor"


def _overstretched(scene: _Scene) -> Problem:
    """A band stretched beyond the last row of its measured table."""
    failure = scene.failure
    low, high = failure.allowed or (0.0, 0.0)
    most = scene.largest(np.zeros(1) if failure.size is None else failure.size)
    return Problem(
        "band-too-long",
        f"The {failure.what} would be {100 * most:.0f} cm long; its table ends at "
        f"{100 * high:.0f} cm. Measure it further or move its anchor closer",
        "loads.table",
        round(most, 4),
        "m",
        [low, high],
    )


def _would_pull(scene: _Scene) -> Problem:
    """A contact that would have to pull: the pose can't stand as it is."""
    contacts, at = scene.solved.ground, scene.frame
    upward = contacts.forces[1][:, at]
    if scene.solved.support.kind == "hooked":
        upward = upward.copy()
        upward[:2] = np.inf
    worst = int(np.argmin(upward))
    name = contacts.names[worst].replace("_", " ")
    return Problem(
        "would-pull",
        f"The {name} would have to pull {-float(upward[worst]):.0f} N towards the ground: the load "
        "falls outside what holds the body up",
        "contacts",
        round(float(upward[worst]), 1),
        "N",
        [0, None],
    )


def _would_slip(scene: _Scene) -> Problem:
    """Feet or knees that would need more grip than the floor gives."""
    contacts, at = scene.solved.ground, scene.frame
    sideways, up = (values[:, at] for values in on_the_floor(contacts))
    need = np.minimum(sideways / np.maximum(up, 1e-9), 99.0)
    worst = int(np.argmax(need))
    name = contacts.names[floor_rows(contacts)[worst]].replace("_", " ")
    grip = landmark("friction_coefficient")
    return Problem(
        "would-slip",
        f"The {name} would slip: it would need a grip of {need[worst]:.2f}, a shoe on a gym floor "
        f"gives about {grip:g}",
        "contacts",
        round(float(need[worst]), 3),
        "",
        [0, grip],
    )


def _would_roll(scene: _Scene) -> Problem:
    """A one-sided load whose support would have to lie further aside than there is any."""
    contacts = scene.solved.ground
    moved = abs(float(contacts.moved_m[scene.frame]))
    name = contacts.names[-1].replace("_left", "").replace("_right", "").replace("_", " ")
    return Problem(
        "would-roll",
        f"The one-sided load would roll the body off: the {name} would have to press "
        f"{100 * min(moved, 9.99):.0f} cm to the side, {100 * MOST_SLIDE_M:.0f} cm is what it can",
        "contacts",
        round(min(moved, 9.99), 3),
        "m",
        [0, MOST_SLIDE_M],
    )


def _tempo(scene: _Scene) -> Problem:
    """A tempo whose inertia carries the pressure off the foot, or lifts a contact."""
    tempo = ", ".join(f"{seconds:g}" for seconds in scene.case.tempo_s)
    if (scene.solved.ground.forces[1] < 0.0)[:, scene.failure.flags].any():
        text = "At this tempo the body would leave the ground"
    else:
        fraction, ball = _worst_fraction(scene), landmark("ball_from_heel")
        past = max(fraction - ball, -fraction, 0.0)
        side = "ahead of the ball" if fraction > ball else "behind the heel"
        text = f"At this tempo the pressure would move {100 * scene.foot_m * past:.0f} cm {side} of the foot"
    text += "; take more time on the way down or up"
    return Problem("tempo", text, "tempo_s", tempo, "s")


def _did_not_settle(scene: _Scene) -> Problem:
    return Problem(
        "did-not-settle",
        "No pose was found here: the search for it did not come to rest. Change depth or load a little",
        scene.failure.key,
    )


def _does_not_close(scene: _Scene) -> Problem:
    left = float(np.nan_to_num(scene.solved.moments.closure[scene.frame], nan=0.0))
    return Problem(
        "does-not-close",
        f"The forces leave {left:.3g} N\N{MIDDLE DOT}m over: nothing in this set-up takes them up",
        "contacts",
        round(left, 4),
        "N·m",
        [0, 0.01],
    )


_WORDS: dict[str, Callable[[_Scene], Problem]] = {
    "out-of-reach": _of_a_setting(_out_of_reach),
    "hip-opening": _of_a_setting(_hip_opening),
    "ankle-limit": _of_a_setting(_ankle_limit),
    "knee-limit": _of_a_setting(_knee_limit),
    "would-tip": _of_a_setting(_would_tip),
    "cannot-balance": _of_a_setting(_cannot_balance),
    "knee-on-floor": _of_a_setting(lambda _: "The rear knee would go through the floor"),
    "hips-under-floor": _of_a_setting(lambda _: "The hips would be below the floor"),
    "head-on-floor": _of_a_setting(lambda _: "The head would reach the floor"),
    "below-floor": _of_a_setting(_below_floor),
    "band-too-long": _overstretched,
    "would-pull": _would_pull,
    "would-slip": _would_slip,
    "would-roll": _would_roll,
    "tempo": _tempo,
    "did-not-settle": _did_not_settle,
    "does-not-close": _does_not_close,
}


def advised(case: ResolvedCase, problem: Problem) -> Problem:
    """The problem with the range of its setting that would work, in words and as ``allowed``.

    Problems that are not put down to a setting, or were advised on already, come back as they are.
    """
    setting = variation(case.variation).settings.get(problem.key)
    if setting is None or problem.allowed is not None:
        return problem
    value = case.settings.get(problem.key)
    allowed = None if value is None else allowed_range(case, problem.key)
    if allowed is None or value is None:
        text = f"No {setting.name.lower()} alone helps: change {_others(case, problem.key)}."
        return replace(problem, text=f"{problem.text} {text}")
    bounds = [float(f"{bound:.4g}") for bound in allowed]
    text = _works(setting.name, setting.unit, float(value), allowed)
    return replace(problem, text=f"{problem.text} {text}.", allowed=bounds)


def _others(case: ResolvedCase, key: str) -> str:
    """What else there is to change where one setting alone does not help, in words."""
    chosen = variation(case.variation)
    words = {
        chosen.depth: "depth",
        "shin_deg": "shin",
        "trunk_deg": "trunk",
        "band_N_m": "the band",
        "bench_slope_deg": "the bench",
    }
    first, *more = [
        word for own, word in words.items() if own in chosen.settings and own != key
    ] or ["the load"]
    return f"{', '.join([first, *more[:-1]])} or {more[-1]}" if more else first


def _works(name: str, unit: str, value: float, allowed: tuple[float, float]) -> str:
    low, high = allowed
    target = low if value < low else high
    if unit == "m":
        shift = math.ceil(abs(value - target) * 100)
        return f"{name} works from {100 * low:.0f} to {100 * high:.0f} cm; change it by {shift} cm"
    space = DEGREE if unit == "deg" else ""
    shift = math.ceil(abs(value - target))
    return f"{name} works from {low:.0f}{space} to {high:.0f}{space}; change it by {shift}{space}"


def allowed_range(case: ResolvedCase, key: str) -> tuple[float, float] | None:
    """Range of a setting in which the rep exists, the others held, nearest to the case's value.

    Looked up by trying `SCAN_STEPS` values between the catalogue's bounds in one batch; None
    where no value of this setting alone helps.
    """
    setting = variation(case.variation).settings[key]
    values = np.linspace(setting.low, setting.high, SCAN_STEPS)
    tried = make_batch([case]).varied(settings={key: values[:, None]})
    fits = tried.solve(tried.probe).feasible
    if not fits.any():
        return None
    wanted = case.settings[key]
    nearest = int(np.argmin(np.where(fits, np.abs(values - float(wanted or 0.0)), np.inf)))
    low = high = nearest
    while low > 0 and fits[low - 1]:
        low -= 1
    while high < len(values) - 1 and fits[high + 1]:
        high += 1
    return float(values[low]), float(values[high])


def balanced_angles(case: ResolvedCase) -> dict[str, float] | None:
    """Shin, thigh and trunk (deg) at the bottom of a case, or None where that pose does not exist.

    Only the deepest pose is built, without its forces: for finding an angle while a handle is dragged.
    """
    batch, _ = make_batch([case]).with_share_delivered()
    poses = batch.poses(DEEPEST)
    failed = any(failure.flags[0].any() for failure in poses.failures)
    if failed or not poses.solved[0].all():
        return None
    return {key: float(value[0]) for key, value in poses.bottom_deg.items()}


def nearest_drawable(case: ResolvedCase) -> Case | None:
    """A case near an impossible one that has at least some frames, so that it can be shown as impossible.

    First the trunk is held at a usual lean whatever balance says, then the feet come closer too, then
    all is as usual, last with no angle left to balance. None where not even that can be drawn. Its
    numbers are not for showing.
    """
    usual = technique_of(variation(case.variation), case.athlete, case.school)
    lean = {"trunk_deg": UNBALANCED_TRUNK_DEG} if "trunk_deg" in case.settings else {}
    settings = _all_held(case.settings | lean)
    closer = {k: v for k, v in usual.items() if k == "stance_m"}
    for trial in (settings, settings | closer, usual, _all_held(usual)):
        near = case.changed(settings=trial)
        batch = make_batch([near])
        solved = batch.solve(batch.timeline.instants(moving=batch.moving))
        if solved.drawable[0, 0]:
            return near
    return None


def _all_held(settings: Mapping[str, float | None]) -> dict[str, float | None]:
    """Settings with what balance would solve held where it is drawn unbalanced."""
    return {key: UNBALANCED.get(key) if value is None else value for key, value in settings.items()}
