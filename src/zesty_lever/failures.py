"""What is impossible about a case, and the facts that its explanation quotes."""

from __future__ import annotations

import numpy as np

from zesty_lever.batch import Batch, allowed_range
from zesty_lever.body import landmark
from zesty_lever.case import CaseError
from zesty_lever.exercises.rep import Rep
from zesty_lever.explain import explain_failure
from zesty_lever.mechanics.contacts import Contacts
from zesty_lever.mechanics.inverse import GRAVITY_M_S2
from zesty_lever.mechanics.lines import longest_m
from zesty_lever.motion.pose import Pose
from zesty_lever.vectors import Array

# Contacts that stand on the floor, a box or a bench by friction.
GROUND = ("foot", "toe", "heel", "instep", "knee")
# The setting that an impossible pose is blamed on where a variation lacks the usual one.
STAND_INS = ("bar_height_m", "shin_deg", "start_height_m", "stance_m")


def problem_of(
    batch: Batch, index: int, rep: Rep, contacts: Contacts, *, advise: bool = True
) -> CaseError | None:
    """The first thing that makes a case impossible: its pose, its tempo, or a contact that pulls."""
    return (
        failure_of(batch, index, rep, advise=advise)
        or _overstretched(batch, index, rep)
        or _too_fast(batch, index, rep, contacts)
        or (None if rep.support.hooked else _lifted(index, contacts) or _slips(index, contacts))
    )


def _slips(index: int, contacts: Contacts) -> CaseError | None:
    """Feet or knees that would need more grip than the floor gives."""
    ground = [i for i, n in enumerate(contacts.names) if n.rpartition("_")[0] in GROUND]
    forces = contacts.forces[:, ground, index]
    sideways, grip = np.hypot(forces[0], forces[2]), landmark("friction_coefficient")
    past = sideways - grip * forces[1]
    if not (past > 1e-6).any():
        return None
    worst, frame = np.unravel_index(int(np.argmax(past)), past.shape)
    need = float(sideways[worst, frame] / max(forces[1, worst, frame], 1e-9))
    name = contacts.names[ground[int(worst)]].replace("_", " ")
    return CaseError(
        "would-slip",
        f"The {name} would slip: it would need a grip of {min(need, 99.0):.2f}, a shoe on a gym floor "
        f"gives about {grip:g}",
        key="contacts",
        value=round(min(need, 99.0), 3),
        allowed=[0, grip],
        infeasible=True,
    )


def failure_of(batch: Batch, index: int, rep: Rep, *, advise: bool = True) -> CaseError | None:
    """The first impossible thing about a pose, explained; with ``advise`` also with the range that would work."""
    for code, key, flags in rep.failures:
        if flags[index]:
            case = batch.cases[index]
            blamed = next(k for k in (key, *STAND_INS) if k in batch.variation.settings)
            known = advise and case.settings.get(blamed) is not None
            allowed = allowed_range(case, blamed) if known else None
            return explain_failure(
                case, batch.variation, code, blamed, allowed, _facts(index, rep), advise=advise
            )
    return None


def _overstretched(batch: Batch, index: int, rep: Rep) -> CaseError | None:
    """A band stretched beyond the last row of its measured table."""
    for line in batch.lines:
        if line.table is None:
            continue
        most, known = float(longest_m(batch.body, rep.pose, line)[index]), line.table[-1][0]
        if most > known + 1e-9:
            return CaseError(
                "band-too-long",
                f"The {line.name} would be {100 * most:.0f} cm long; its table ends at "
                f"{100 * known:.0f} cm. Measure it further or move its anchor closer",
                key="loads.table",
                value=round(most, 4),
                unit="m",
                allowed=[line.table[0][0], known],
                infeasible=True,
            )
    return None


def _lifted(index: int, contacts: Contacts) -> CaseError | None:
    """A contact that would have to pull: the pose can't stand as it is."""
    upward = contacts.forces[1, :, index]
    if not (upward < -1e-6).any():
        return None
    worst, frame = np.unravel_index(int(np.argmin(upward)), upward.shape)
    pull = -float(upward[worst, frame])
    name = contacts.names[int(worst)].replace("_", " ")
    return CaseError(
        "would-pull",
        f"The {name} would have to pull {pull:.0f} N towards the ground: the load falls outside "
        "what holds the body up",
        key="contacts",
        value=round(-pull, 1),
        unit="N",
        allowed=[0, None],
        infeasible=True,
    )


def fraction_under(pose: Pose, contacts: Contacts) -> Array:
    """Where along the right foot the pressure sits, from its contact point."""
    row = contacts.segments.index("foot_right")
    toe, ball = pose.points["toe_right"], pose.points["ball_right"]
    way = toe - ball
    share = landmark("ball_from_heel")
    length_squared = way[0] ** 2 + way[2] ** 2
    ahead = contacts.points[:, row] - ball
    along = (ahead[0] * way[0] + ahead[2] * way[2]) / length_squared
    fraction: Array = share + (1.0 - share) * along
    return fraction


def _too_fast(batch: Batch, index: int, rep: Rep, contacts: Contacts) -> CaseError | None:
    """A tempo whose inertia carries the pressure off the foot, or lifts a contact."""
    case = batch.cases[index]
    if case.mode != "dynamic":
        return None
    tempo = list(case.tempo_s)
    if (contacts.forces[1, :, index] < -1e-6).any():
        text = "At this tempo the body would leave the ground; take more time on the way down or up"
        return CaseError("tempo", text, key="tempo_s", value=tempo, unit="s", infeasible=True)
    if batch.variation.builder in ("bridge", "extension", "kneel"):
        return None
    fraction, most = rep.pressure_fraction[index], landmark("ball_from_heel")
    past = np.maximum(fraction - most, -fraction)
    worst = int(np.argmax(past))
    if past[worst] <= 1e-6:
        return None
    side = "ahead of the ball" if fraction[worst] > most else "behind the heel"
    foot = case.athlete.lengths_m.get("foot", 0.152 * case.athlete.height_m)
    text = (
        f"At this tempo the pressure would move {100 * foot * past[worst]:.0f} cm {side} of the foot; "
        "take more time on the way down or up"
    )
    return CaseError("tempo", text, key="tempo_s", value=tempo, unit="s", infeasible=True)


def _most_bent(rep: Rep, index: int) -> float:
    """Greatest dorsiflexion of a foot that stands flat, rad."""
    flat = [
        n.removeprefix("foot_")
        for place in rep.support.names
        for n in place
        if n.startswith("foot_")
    ]
    return max(_largest(rep.pose.dorsiflexion_rad[side][index]) for side in flat or ["right"])


def _facts(index: int, rep: Rep) -> dict[str, float]:
    """Numbers of one failing case that the explanation quotes; frames that have no pose do not count."""
    pose, fraction = rep.pose, np.nan_to_num(rep.pressure_fraction[index], nan=0.365)
    worst = int(np.argmax(np.abs(fraction - 0.365)))
    column = (index, worst)
    opened = max(_largest(np.abs(pose.hip_opening_rad[s][index])) for s in ("left", "right"))
    return {
        "fraction": float(fraction[worst]),
        "dorsiflexion_deg": float(np.degrees(_most_bent(rep, index))),
        "knee_deg": float(
            np.degrees(max(_largest(a[index]) for a in pose.knee_flexion_rad.values()))
        ),
        "opening_deg": float(np.degrees(opened)),
        "weight_N": float(pose.system_mass_kg()[column]) * GRAVITY_M_S2,
        "shoulder_height_m": float(np.nan_to_num(pose.points["shoulder_mid"][1][column], nan=1.0)),
    }


def _largest(values: Array) -> float:
    """Largest known value."""
    return float(np.nan_to_num(values).max())
