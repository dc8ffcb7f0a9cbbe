"""What was measured: angles with errors over the frames, reps, faults, warnings, and a case of the deepest moment."""

from __future__ import annotations

import csv
import io
from collections.abc import Mapping
from dataclasses import field
from typing import Any

import numpy as np
from numpy.typing import NDArray

from zesty_lever.cases.model import Case
from zesty_lever.frozen import dataclass
from zesty_lever.measure.camera import Camera
from zesty_lever.measure.faults import Fault
from zesty_lever.measure.marks import MarksFile
from zesty_lever.measure.reps import Rep
from zesty_lever.physics.vectors import Array

MOTION_FORMAT = "zesty-lever-motion/1"


@dataclass(frozen=True)
class Warned:
    """Something about camera or marks that makes a measurement worse than it has to be."""

    code: str
    size: float
    unit: str
    text: str

    def as_dict(self) -> dict[str, Any]:
        """The object of a motion file."""
        return {
            "code": self.code,
            "size": round(self.size, 2),
            "unit": self.unit,
            "text": self.text,
        }


@dataclass(frozen=True)
class Motion:
    """A measured clip or picture. Frames run from ``first`` on; arrays end in the frames, NaN where unknown.

    ``angles`` and ``sd`` in deg; ``px`` ``(frames, 2)`` by mark; ``apart_px`` how far the two ways of tracking
    disagree; ``inferred`` what was carried, not seen; ``bar_m`` ``(frames, 2)``: ahead of mid-foot and above the
    floor. ``low`` is the frame (from ``first``) that the case is made of, ``rep`` its rep from 1, 0 in a still.
    ``distances_m``, ``distances_sd_m`` come from the front.
    """

    marks: MarksFile
    first: int
    times_s: Array
    px: Mapping[str, Array]
    apart_px: Mapping[str, Array]
    inferred: Mapping[str, NDArray[np.bool_]]
    angles: Mapping[str, Array] = field(default_factory=dict)
    sd: Mapping[str, Array] = field(default_factory=dict)
    sd_parts: Mapping[str, Mapping[str, Array]] = field(default_factory=dict)
    bar_m: Array | None = None
    joints_m: Mapping[str, Array] = field(default_factory=dict)
    height_m: Array | None = None
    distances_m: Mapping[str, float] = field(default_factory=dict)
    distances_sd_m: Mapping[str, float] = field(default_factory=dict)
    # The front's distances over the frames, m.
    tracks_m: Mapping[str, Array] = field(default_factory=dict)
    reps: tuple[Rep, ...] = ()
    faults: tuple[Fault, ...] = ()
    warnings: tuple[Warned, ...] = ()
    case: Case | None = None
    rep: int = 0
    low: int = 0
    assumptions: tuple[str, ...] = ()
    # Segments' measured lengths with their standard errors, m.
    lengths_m: Mapping[str, tuple[float, float]] = field(default_factory=dict)
    # How much one standard error of each thing that the geometry rests on turns the angles, deg.
    geometry_deg: Mapping[str, float] = field(default_factory=dict)
    camera: Camera | None = None
    base_m: Array | None = None

    @property
    def frames(self) -> int:
        """How many frames were measured."""
        return len(self.times_s)

    @property
    def findings(self) -> tuple[Fault, ...]:
        """Faults that the error does not leave open."""
        return tuple(f for f in self.faults if not f.open)

    def as_json(self) -> dict[str, Any]:
        """The whole as plain data; null where unknown."""
        return {
            "format": MOTION_FORMAT,
            "clip": self.marks.clip,
            "sha256": self.marks.sha256,
            "view": self.marks.view,
            "frames": [self._frame(at) for at in range(self.frames)],
            "distances_m": {k: number(v, 4) for k, v in self.distances_m.items()},
            "sd_m": {k: number(v, 4) for k, v in self.distances_sd_m.items()},
            "reps": [rep.as_dict() for rep in self.reps],
            "rep": self.rep,
            "deepest_frame": self.first + self.low,
            "findings": [f.as_dict() for f in self.findings],
            "open": [f.as_dict() for f in self.faults if f.open],
            "warnings": [w.as_dict() for w in self.warnings],
            "measured_case": None if self.case is None else self.case.as_json(),
            "lengths_m": {
                k: [number(v, 3), number(sd, 3)] for k, (v, sd) in self.lengths_m.items()
            },
            "assumptions": list(self.assumptions),
        }

    def _frame(self, at: int) -> dict[str, Any]:
        bar = None if self.bar_m is None else [number(v, 4) for v in self.bar_m[at]]
        return {
            "index": self.first + at,
            "time_s": round(float(self.times_s[at]), 5),
            "angles_deg": {k: number(v[at], 2) for k, v in self.angles.items()},
            "sd_deg": {k: number(v[at], 2) for k, v in self.sd.items()},
            "marks_px": {k: _place(v[at]) for k, v in self.px.items()},
            "disagreement_px": {k: number(v[at], 2) for k, v in self.apart_px.items()},
            "inferred": [k for k, v in self.inferred.items() if v[at]],
            "bar_m": None if bar is None or None in bar else bar,
        }

    def csv_text(self) -> str:
        """One row a frame: time, angles with errors, bar; empty where unknown."""
        out = io.StringIO()
        writer = csv.writer(out, lineterminator="\n")
        names = list(self.angles)
        head = ["frame", "time_s", *(c for n in names for c in (f"{n}_deg", f"{n}_sd_deg"))]
        writer.writerow([*head, "bar_ahead_m", "bar_height_m"])
        for at in range(self.frames):
            cells: list[Any] = [self.first + at, f"{self.times_s[at]:.4f}"]
            for name in names:
                cells += [_cell(self.angles[name][at], 2), _cell(self.sd[name][at], 2)]
            bar = (np.nan, np.nan) if self.bar_m is None else self.bar_m[at]
            writer.writerow([*cells, _cell(bar[0], 4), _cell(bar[1], 4)])
        return out.getvalue()


def number(value: float, digits: int) -> float | None:
    """A number for a file: rounded, None where unknown."""
    return round(float(value), digits) + 0.0 if np.isfinite(value) else None


def _place(place: Array) -> list[float] | None:
    return [round(float(v), 2) for v in place] if np.isfinite(place).all() else None


def _cell(value: float, digits: int) -> str:
    return f"{value:.{digits}f}" if np.isfinite(value) else ""
