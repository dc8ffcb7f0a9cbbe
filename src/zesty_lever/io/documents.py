"""The result document: the typed models that results are written with.

Names and meanings are those of ``docs/formats.md``; its JSON Schema is made from these models.
"""

from __future__ import annotations

from typing import Any, Literal

import msgspec
import numpy as np

from zesty_lever.analysis import Impossible, Result, other_peaks
from zesty_lever.choosing.bests import misleads, strength_of
from zesty_lever.coaching.findings import findings
from zesty_lever.feasibility import advised
from zesty_lever.io.effort_object import effort_object
from zesty_lever.joints import JOINTS, ROW, SIDES
from zesty_lever.models import Model
from zesty_lever.physics.body import SEGMENTS
from zesty_lever.physics.failing import ABOVE_FLOOR
from zesty_lever.physics.solved import Solved
from zesty_lever.physics.vectors import Array
from zesty_lever.problems import CaseError, Problem

RESULT_FORMAT = "zesty-lever-result/1"
Point = tuple[float, float, float]


class SegmentRow(Model, frozen=True, kw_only=True, omit_defaults=True):
    """One segment's mass and mass centre; in motion its acceleration."""

    name: str
    mass_kg: float
    centre_m: Point
    acceleration_m_s2: Point | None = None


class LoadRow(Model, frozen=True, kw_only=True):
    """One load on the body."""

    name: str
    carried_by: str
    mass_kg: float
    force_N: Point
    point_m: Point


class ContactRow(Model, frozen=True, kw_only=True, omit_defaults=True):
    """One contact force on the body; one foot alone also takes a twist about the vertical."""

    name: str
    force_N: Point
    point_m: Point
    free_moment_Nm: float | None = None


class Moment(Model, frozen=True, kw_only=True, omit_defaults=True):
    """Net joint moment, N m, extensor positive; ``vector`` in ISB axes."""

    extension: float
    abduction: float | None = None
    rotation: float | None = None
    vector: Point
    compression_N: float | None = None
    shear_N: float | None = None


class Lever(Model, frozen=True, kw_only=True):
    """Side-view resultant and its arm: force x arm is the side-view moment, extensor positive."""

    force_N: float
    arm_m: float


class Frame(Model, frozen=True, kw_only=True):
    """One moment of the rep."""

    phase: Literal["down", "pause-bottom", "up", "pause-top"]
    time_s: float
    progress: float
    angles_deg: dict[str, float]
    joints_m: dict[str, Point]
    segments: list[SegmentRow]
    loads: list[LoadRow]
    contacts: list[ContactRow]
    moments_Nm: dict[str, Moment]
    levers: dict[str, Lever]
    closure_Nm: float


class SummaryRow(Model, frozen=True, kw_only=True, omit_defaults=True):
    """One joint over the rep, extensors and flexors apart; the hip also out of the side view."""

    peak_Nm: float
    at_progress: float
    at_time_s: float
    mean_Nm: float
    impulse_Nms: float
    lockout_to_peak: float
    extensor_peak_Nm: float
    extensor_at_progress: float
    flexor_peak_Nm: float
    flexor_at_progress: float
    extensor_impulse_Nms: float
    flexor_impulse_Nms: float
    work_peak_Nm: float | None = None
    frontal_peak_Nm: float | None = None


class OtherEnd(Model, frozen=True, kw_only=True):
    """Peaks (N m, signed) under the other contact rule, where they differ."""

    rule: Literal["vertical", "least-effort"]
    peaks_Nm: dict[str, float]


class FindingRow(Model, frozen=True, kw_only=True):
    """Something a school would remark on."""

    code: str
    size: float
    unit: str
    severity: str
    text: str
    cue: str
    drill: str
    follow: dict[str, float | None]


class ProblemRow(Model, frozen=True, kw_only=True):
    """Why a case is invalid or its pose impossible."""

    code: str
    key: str
    value: Any = None
    unit: str
    allowed: Any = None
    text: str


class ResultDocument(Model, frozen=True, kw_only=True):
    """A result file. Invalid cases carry only ``format``, ``line`` (in .jsonl) and ``error``."""

    format: Literal["zesty-lever-result/1"] = "zesty-lever-result/1"
    line: int | None = None
    case: dict[str, Any] | None = None
    assumptions: list[str] | None = None
    feasible: bool | None = None
    frames: list[Frame] | None = None
    summary: dict[str, SummaryRow] | None = None
    front_leg_share: float | None = None
    other_contact_rule: OtherEnd | None = None
    findings: list[FindingRow] = msgspec.field(default_factory=list)
    error: ProblemRow | None = None
    problems: list[ProblemRow] = msgspec.field(default_factory=list)
    # Only where it was asked for: what of hip, knee and back is used.
    effort: dict[str, Any] | None = None

    def as_json(self) -> dict[str, Any]:
        """Plain JSON data with the keys that this kind of result has."""
        data: dict[str, Any] = msgspec.to_builtins(self)
        if self.feasible is None:
            kept = {"format": self.format, "line": self.line, "error": data["error"]}
            return {k: v for k, v in kept.items() if v is not None}
        for key in ("line", "error", "other_contact_rule", "problems", "effort"):
            if not data[key]:
                del data[key]
        return data


def invalid_document(error: CaseError, line: int | None = None) -> ResultDocument:
    """Document for a case that could not be read or is out of range."""
    return ResultDocument(line=line, error=_problem(error.problem))


def _problem(problem: Problem) -> ProblemRow:
    return ProblemRow(**problem.as_dict())


def result_document(
    result: Result, line: int | None = None, *, effort: bool = False
) -> ResultDocument:
    """Turn a result into its document, with the frames that the case asked for; ``effort``: with what it uses.

    The first problem of an impossible case is told with what would help.
    """
    problems: list[ProblemRow] = []
    if isinstance(result.outcome, Impossible):
        first, *others = result.outcome.problems
        problems = [_problem(p) for p in (advised(result.case, first), *others)]
    solved = result.shown
    return ResultDocument(
        line=line,
        case=result.case.as_json(),
        assumptions=list(result.assumptions),
        feasible=result.feasible,
        frames=[_frame(result, solved, index) for index in _wanted_frames(result)],
        summary=_summary(result) if result.feasible else None,
        front_leg_share=front_leg_share(result),
        other_contact_rule=_other_end(result),
        findings=[
            FindingRow(
                code=f.code,
                size=f.size,
                unit=f.unit,
                severity=f.severity,
                text=f.text,
                cue=f.cue,
                drill=f.drill,
                follow=dict(f.settings),
            )
            for f in findings(result)
        ],
        error=problems[0] if problems else None,
        problems=problems,
        effort=_effort(result) if effort else None,
    )


def _effort(result: Result) -> dict[str, Any] | None:
    """The ``effort`` object; None where it would mislead: impossible, moving, one frame, a rounded floor pull."""
    if result.case.frames == "bottom" or misleads(result):
        return None
    try:
        strength = strength_of(result.case.athlete, result.case.school)
        return effort_object(result, strength)
    except CaseError:
        return None


def _summary(result: Result) -> dict[str, SummaryRow]:
    rows = {}
    for joint, row in result.summary.items():
        hip = vars(result.hips[joint]) if joint in result.hips else {}
        rows[joint] = SummaryRow(**vars(row), **hip)
    return rows


def _other_end(result: Result) -> OtherEnd | None:
    peaks = other_peaks(result)
    if peaks is None:
        return None
    rule = result.case.contact_rule
    return OtherEnd(rule="vertical" if rule == "least-effort" else "least-effort", peaks_Nm=peaks)


def front_leg_share(result: Result) -> float | None:
    """Part of the upward force on the front foot at the deepest point; None where no foot is in front."""
    solved, at = result.shown, result.timeline.bottom
    names = solved.ground.names
    apart = result.variation.has_front_leg and len(names) > 1
    return float(solved.ground.share[at]) if apart and at < solved.frames else None


def _wanted_frames(result: Result) -> list[int]:
    if result.case.frames == "none":
        return []
    if result.case.frames == "rep":
        return list(range(result.frames))
    bottom = result.timeline.bottom
    return [bottom] if bottom < result.frames else []


def _point(values: Array) -> Point:
    x, y, z = values.tolist()
    return (x, y, z)


def _frame(result: Result, solved: Solved, at: int) -> Frame:
    pose, contacts, moments, times = solved.pose, solved.contacts, solved.moments, result.timeline
    force, arm = moments.lever_force_N(), moments.lever_arm_m()
    return Frame(
        phase=times.phase[at],
        time_s=float(times.time_s[at]),
        progress=float(times.progress[at]),
        angles_deg=angles_deg(result, at),
        joints_m={name: _point(pose.points[name][:, at]) for name in ABOVE_FLOOR},
        segments=_segments(solved, at, moving=result.case.mode == "dynamic"),
        loads=_loads(solved, at),
        contacts=[
            ContactRow(
                name=name,
                force_N=_point(contacts.forces[:, i, at]),
                point_m=_point(contacts.points[:, i, at]),
                free_moment_Nm=float(contacts.free_moment_Nm[at])
                if solved.support.kind == "foot" and i == 0
                else None,
            )
            for i, name in enumerate(contacts.names)
        ],
        moments_Nm={joint: _moment(solved, joint, at) for joint in JOINTS},
        levers={
            joint: Lever(force_N=float(force[i, at]), arm_m=float(arm[i, at]))
            for i, joint in enumerate(JOINTS)
        },
        closure_Nm=float(moments.closure[at]),
    )


def _segments(solved: Solved, at: int, *, moving: bool) -> list[SegmentRow]:
    pose, acceleration = solved.pose, solved.acceleration_m_s2
    return [
        SegmentRow(
            name=name,
            mass_kg=float(pose.masses[i, at]),
            centre_m=_point(pose.centres[:, i, at]),
            acceleration_m_s2=_point(acceleration[:, i, at]) if moving else None,
        )
        for i, name in enumerate(SEGMENTS)
    ]


def _loads(solved: Solved, at: int) -> list[LoadRow]:
    masses, carried = solved.pose.load_masses, solved.carried
    return [
        LoadRow(
            name=name,
            carried_by=segment,
            mass_kg=float(masses[i, at]) if i < len(masses) else 0.0,
            force_N=_point(carried.forces[:, i, at]),
            point_m=_point(carried.points[:, i, at]),
        )
        for i, (name, segment) in enumerate(zip(carried.names, carried.segments, strict=True))
    ]


def _moment(solved: Solved, joint: str, at: int) -> Moment:
    moments, row = solved.moments, ROW[joint]
    more: dict[str, float] = {}
    if joint.startswith(("hip", "knee")):
        more = {
            "abduction": float(moments.abduction[row, at]),
            "rotation": float(moments.rotation[row, at]),
        }
    elif joint == "lumbosacral":
        disc = solved.disc
        more = {
            "compression_N": float(disc.compression_N[at]),
            "shear_N": float(disc.shear_N[at]),
        }
    return Moment(
        extension=float(moments.extension[row, at]),
        vector=_point(moments.vector[:, row, at]),
        **more,
    )


def angles_deg(result: Result, at: int) -> dict[str, float]:
    """The angles that a coach reads, deg, at one frame. ``hip_flexion`` is thigh against pelvis.

    In bridges the trunk is against level, plus with the hips higher.
    """
    pose = result.shown.pose
    lying = result.variation.lies
    angles: dict[str, Array] = {"trunk": -0.5 * np.pi - pose.line_rad if lying else pose.line_rad}
    for side in SIDES:
        shin = pose.side_view_rad(f"ankle_{side}", f"knee_{side}")
        thigh = 0.5 * np.pi + pose.side_view_rad(f"knee_{side}", f"hip_{side}")
        angles[f"shin_{side}"] = shin
        angles[f"thigh_{side}"] = thigh
        angles[f"hip_flexion_{side}"] = pose.pelvis_rad + 0.5 * np.pi - thigh
        angles[f"knee_flexion_{side}"] = pose.knee_flexion_rad[side]
        angles[f"ankle_dorsiflexion_{side}"] = pose.dorsiflexion_rad[side]
    angles["lumbar_flexion"] = pose.lumbar_flexion_rad
    return {name: float(np.degrees(value[at])) for name, value in angles.items()}
