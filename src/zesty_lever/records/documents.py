"""The result document: the typed models that results are written and read with.

Names and meanings are those of ``docs/formats.md``; its JSON Schema is made from these models.
"""

from __future__ import annotations

from typing import Any, Literal

import numpy as np
from pydantic import BaseModel, ConfigDict, Field

from zesty_lever.analysis import Result, other_peaks
from zesty_lever.body import SEGMENTS, SIDES
from zesty_lever.case import CaseError
from zesty_lever.exercises.catalogue import variation
from zesty_lever.findings import findings
from zesty_lever.motion.pose import JOINTS
from zesty_lever.vectors import Array

Point = tuple[float, float, float]
POINTS = (
    *(
        f"{name}_{side}"
        for name in ("ankle", "knee", "hip", "shoulder", "elbow", "wrist", "heel", "ball", "toe")
        for side in SIDES
    ),
    "lumbosacral",
)


class _Document(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True)


class SegmentRow(_Document):
    """One segment's mass and mass centre."""

    name: str
    mass_kg: float
    centre_m: Point
    acceleration_m_s2: Point | None = None


class LoadRow(_Document):
    """One load on the body."""

    name: str
    carried_by: str
    mass_kg: float
    force_N: Point
    point_m: Point


class ContactRow(_Document):
    """One contact force on the body."""

    name: str
    force_N: Point
    point_m: Point


class Moment(_Document):
    """Net joint moment, N m, extensor positive; ``vector`` in ISB axes."""

    extension: float
    abduction: float | None = None
    rotation: float | None = None
    vector: Point
    compression_N: float | None = None
    shear_N: float | None = None


class Lever(_Document):
    """Side-view resultant and its arm: force x arm is the side-view moment, extensor positive."""

    force_N: float
    arm_m: float


class Frame(_Document):
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


class SummaryRow(_Document):
    """One joint over the rep."""

    peak_Nm: float
    at_progress: float
    at_time_s: float
    mean_Nm: float
    impulse_Nms: float
    lockout_to_peak: float


class OtherEnd(_Document):
    """Peaks (N m, signed) under the other contact rule, where they differ."""

    rule: Literal["vertical", "least-effort"]
    peaks_Nm: dict[str, float]


class Finding(_Document):
    """Something a school would remark on."""

    code: str
    size: float
    unit: str
    severity: str
    text: str
    cue: str
    drill: str
    follow: dict[str, float | None]


class Problem(_Document):
    """Why a case is invalid or its pose impossible."""

    code: str
    key: str
    value: Any = None
    unit: str
    allowed: Any = None
    text: str


class ResultDocument(_Document):
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
    findings: list[Finding] = Field(default_factory=list)
    error: Problem | None = None

    def as_json(self) -> dict[str, Any]:
        """Plain JSON data with the keys that this kind of result has."""
        data = self.model_dump(mode="json")
        if self.feasible is None:
            kept = {"format": data["format"], "line": self.line, "error": data["error"]}
            return {k: v for k, v in kept.items() if v is not None}
        for key in ("line", "error", "other_contact_rule"):
            if data[key] is None:
                del data[key]
        for frame in data["frames"]:
            for segment in frame["segments"]:
                if segment["acceleration_m_s2"] is None:
                    del segment["acceleration_m_s2"]
            for moment in frame["moments_Nm"].values():
                for key in [k for k, v in moment.items() if v is None]:
                    del moment[key]
        return data


def invalid_document(error: CaseError, line: int | None = None) -> ResultDocument:
    """Document for a case that could not be read or is out of range."""
    return ResultDocument(line=line, error=Problem(**error.as_dict()))


def result_document(result: Result, line: int | None = None) -> ResultDocument:
    """Turn a result into its document, with the frames that the case asked for."""
    summary = None
    if result.summary is not None:
        summary = {joint: SummaryRow(**vars(row)) for joint, row in result.summary.items()}
    return ResultDocument(
        line=line,
        case=result.case.as_json(),
        assumptions=list(result.assumptions),
        feasible=result.feasible,
        frames=[_frame(result, index) for index in _wanted_frames(result)],
        summary=summary,
        front_leg_share=front_leg_share(result),
        other_contact_rule=_other_end(result),
        findings=[
            Finding(
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
        error=Problem(**result.error.as_dict()) if result.error else None,
    )


def _other_end(result: Result) -> OtherEnd | None:
    peaks = other_peaks(result)
    if peaks is None:
        return None
    rule = result.case.contact_rule
    return OtherEnd(rule="vertical" if rule == "least-effort" else "least-effort", peaks_Nm=peaks)


def front_leg_share(result: Result) -> float | None:
    """Part of the upward force on the front foot at the deepest point; None where no foot is in front."""
    contacts, at = result.contacts, result.timeline.bottom
    if contacts is None or at >= result.frames:
        return None
    split = contacts.names[0] == "foot_right" and contacts.names[1:2] != ()
    split = split and contacts.names[1].startswith(("toe_", "instep_", "foot_"))
    return float(contacts.share[at]) if split else None


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


def _frame(result: Result, at: int) -> Frame:
    pose, contacts, moments = result.pose, result.contacts, result.moments
    assert pose is not None and contacts is not None and moments is not None
    assert result.load_forces is not None and result.load_points is not None
    force, arm, moving = moments.lever_force_N(), moments.lever_arm_m(), result.acceleration
    loads = zip(result.load_names, result.load_segments, strict=True)
    return Frame(
        phase=result.timeline.phase[at],
        time_s=float(result.timeline.time_s[at]),
        progress=float(result.timeline.progress[at]),
        angles_deg=angles_deg(result, at),
        joints_m={name: _point(pose.points[name][:, at]) for name in POINTS},
        segments=[
            SegmentRow(
                name=name,
                mass_kg=float(pose.masses[i, at]),
                centre_m=_point(pose.centres[:, i, at]),
                acceleration_m_s2=_point(moving[:, i, at]) if moving is not None else None,
            )
            for i, name in enumerate(SEGMENTS)
        ],
        loads=[
            LoadRow(
                name=name,
                carried_by=segment,
                mass_kg=float(pose.load_masses[i, at]) if i < len(pose.load_masses) else 0.0,
                force_N=_point(result.load_forces[:, i, at]),
                point_m=_point(result.load_points[:, i, at]),
            )
            for i, (name, segment) in enumerate(loads)
        ],
        contacts=[
            ContactRow(
                name=name,
                force_N=_point(contacts.forces[:, i, at]),
                point_m=_point(contacts.points[:, i, at]),
            )
            for i, name in enumerate(contacts.names)
        ],
        moments_Nm={joint: _moment(result, joint, at) for joint in JOINTS},
        levers={
            joint: Lever(force_N=float(force[i, at]), arm_m=float(arm[i, at]))
            for i, joint in enumerate(JOINTS)
        },
        closure_Nm=float(moments.closure[at]),
    )


def _moment(result: Result, joint: str, at: int) -> Moment:
    moments, row = result.moments, JOINTS.index(joint)
    assert moments is not None and result.disc is not None
    more: dict[str, float] = {}
    if joint.startswith(("hip", "knee")):
        more = {
            "abduction": float(moments.abduction[row, at]),
            "rotation": float(moments.rotation[row, at]),
        }
    elif joint == "lumbosacral":
        more = {key: float(value[at]) for key, value in result.disc.items()}
    return Moment(
        extension=float(moments.extension[row, at]),
        vector=_point(moments.vector[:, row, at]),
        **more,
    )


def angles_deg(result: Result, at: int) -> dict[str, float]:
    """The angles that a coach reads, deg, at one frame. ``hip_flexion`` is thigh against pelvis.

    In bridges the trunk is against level, plus with the hips higher.
    """
    pose = result.pose
    assert pose is not None
    lying = variation(result.case.variation).rep_order == "bridge"
    angles: dict[str, Any] = {"trunk": -0.5 * np.pi - pose.line_rad if lying else pose.line_rad}
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
