"""The file of a coach's marks: what was set by hand on a clip, and what is known about the camera."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Annotated, Any, Literal

import msgspec
from msgspec import Meta

from zesty_lever.cases.model import Athlete, School, SettingValue
from zesty_lever.cases.parse import parse_json
from zesty_lever.exercises.catalogue import variation
from zesty_lever.io.json_files import read_bounded
from zesty_lever.measure.clip import Clip
from zesty_lever.models import Model, at_most, quantity, read
from zesty_lever.problems import CaseError, one_line, out_of_range, unknown_key

MARKS_FORMAT = "zesty-lever-marks/1"
MOST_BYTES = 20_000_000
SIDE_MARKS = ("ankle", "knee", "hip", "shoulder", "bar", "heel", "ball", "toe")
FRONT_MARKS = tuple(
    f"{name}_{side}"
    for name in ("ankle", "knee", "hip", "heel", "toe")
    for side in ("left", "right")
)
# Two ends of a line are at least so far apart, px.
LEAST_LINE_PX = 5.0

Pixel = Annotated[float, quantity("px", -10_000.0, 20_000.0)]
Place = tuple[Pixel, Pixel]
Frame = Annotated[int, Meta(ge=0, le=36_000)]
Angle = Annotated[float, quantity("deg", -180.0, 180.0)]


class Disc(Model, frozen=True, kw_only=True):
    """The near disc's outline: an ellipse (px) of a known diameter (m), its outer face off the middle plane (m)."""

    frame: Frame = 0
    centre_px: Place
    half_axes_px: tuple[
        Annotated[float, quantity("px", 2.0, 10_000.0)],
        Annotated[float, quantity("px", 2.0, 10_000.0)],
    ]
    angle_deg: Angle = 0.0
    diameter_m: Annotated[float, quantity("m", 0.05, 1.0)] = 0.45
    face_z_m: Annotated[float, quantity("m", 0.0, 1.5)] = 0.75


class Length(Model, frozen=True, kw_only=True):
    """A length that was taped (m) between two places (px), so far from the middle plane towards the camera."""

    frame: Frame = 0
    from_px: Place
    to_px: Place
    length_m: Annotated[float, quantity("m", 0.05, 5.0)]
    z_m: Annotated[float, quantity("m", -2.0, 2.0)] = 0.0


class Calibration(Model, frozen=True, kw_only=True):
    """What of known size is in the picture: a disc or a taped length."""

    disc: Disc | None = None
    length: Length | None = None


class CameraTape(Model, frozen=True, kw_only=True):
    """What was taped of the camera, with standard errors. ``distance_m``: lens to the athlete's middle."""

    distance_m: Annotated[float, quantity("m", 0.8, 30.0)] | None = None
    distance_sd_m: Annotated[float, quantity("m", 0.0, 5.0)] | None = None
    height_m: Annotated[float, quantity("m", 0.0, 5.0)] | None = None
    yaw_deg: Annotated[float, quantity("deg", -60.0, 60.0)] | None = None
    yaw_sd_deg: Annotated[float, quantity("deg", 0.0, 30.0)] | None = None


class Sleeve(Model, frozen=True, kw_only=True):
    """The near sleeve: the hub on the disc's face and the sleeve's end (px), so far apart (m)."""

    frame: Frame = 0
    hub_px: Place
    end_px: Place
    length_m: Annotated[float, quantity("m", 0.05, 1.0)] = 0.35


class MarksFile(Model, frozen=True, kw_only=True):
    """Everything that was set by hand: pixels of the upright picture, centres at whole numbers, x right, y down.

    ``settings`` (optional) is what is known of the set-up beside this view: stance, toe-out, what another
    view has measured. ``path`` (optional) is where the clip lies on this machine. ``rep`` chooses the rep that becomes a case, from 1; none: the deepest.
    """

    format: Literal["zesty-lever-marks/1"] = "zesty-lever-marks/1"
    clip: Annotated[str, at_most(255)] = ""
    sha256: Annotated[str, at_most(64)] | None = None
    view: Literal["side", "front"] = "side"
    near_side: Literal["right", "left"] = "right"
    athlete: Athlete
    variation: str | None = None
    school: School | None = None
    load_kg: Annotated[float, quantity("kg", 0.0, 500.0)] | None = None
    settings: dict[str, SettingValue] = msgspec.field(default_factory=dict)
    stickers: bool = False
    calibration: Calibration = Calibration()
    plumb_px: tuple[Place, Place] | None = None
    roll_deg: Annotated[float, quantity("deg", -45.0, 45.0)] | None = None
    camera: CameraTape = CameraTape()
    sleeve: Sleeve | None = None
    marks: Annotated[dict[str, dict[Frame, Place]], at_most(20)] = msgspec.field(
        default_factory=dict
    )
    hidden: Annotated[dict[str, tuple[tuple[Frame, Frame], ...]], at_most(20)] = msgspec.field(
        default_factory=dict
    )
    rep: Annotated[int, Meta(ge=1, le=200)] | None = None
    # Where the clip lay when it was measured.
    path: Annotated[str, at_most(2000)] | None = None

    def __post_init__(self) -> None:
        """Check what depends on other fields."""
        known = SIDE_MARKS if self.view == "side" else FRONT_MARKS
        for key, names in (("marks", self.marks), ("hidden", self.hidden)):
            for name in names:
                if name not in known:
                    raise unknown_key(f"{key}.{name}", known)
        for name, spans in self.hidden.items():
            for start, end in spans:
                if end < start:
                    raise out_of_range(f"hidden.{name}", end, "", (start, 36_000))
        self._check_settings()
        self._check_lines()

    def _check_settings(self) -> None:
        if self.variation is None:
            return
        known = variation(self.variation).settings
        for key, value in self.settings.items():
            if key not in known:
                raise unknown_key(f"settings.{key}", tuple(known))
            if value is not None:
                known[key].check(value)

    def _check_lines(self) -> None:
        """The two ends of a line are two places."""
        lines = {"plumb_px": self.plumb_px}
        if self.calibration.length:
            lines["calibration.length"] = (
                self.calibration.length.from_px,
                self.calibration.length.to_px,
            )
        for key, ends in lines.items():
            if ends is not None:
                _check_apart(key, *ends)

    @property
    def placed(self) -> int:
        """How many marks were set by hand."""
        return sum(len(frames) for frames in self.marks.values())

    def check_against(self, clip: Clip) -> None:
        """Every mark lies in a frame of the clip and in its picture, and no two on one spot.

        Raises `CaseError`.
        """
        for name, places in self.marks.items():
            for frame, place in places.items():
                self._check_place(clip, f"marks.{name}.{frame}", frame, place)
        singles: list[tuple[str, int, Place]] = []
        if self.calibration.disc:
            singles.append(
                ("calibration.disc", self.calibration.disc.frame, self.calibration.disc.centre_px)
            )
        if self.calibration.length:
            length = self.calibration.length
            singles += [
                ("calibration.length", length.frame, p) for p in (length.from_px, length.to_px)
            ]
        if self.sleeve:
            singles += [
                ("sleeve", self.sleeve.frame, p) for p in (self.sleeve.hub_px, self.sleeve.end_px)
            ]
        for key, frame, place in singles:
            self._check_place(clip, key, frame, place)
        for end in self.plumb_px or ():
            self._check_place(clip, "plumb_px", 0, end)
        self._check_twins()

    @staticmethod
    def _check_place(clip: Clip, key: str, frame: int, place: Place) -> None:
        if frame >= clip.frames:
            raise CaseError(
                "mark-outside",
                f"{key} is in frame {frame}; the clip has frames 0 to {clip.frames - 1}",
                key=key,
                value=frame,
                allowed=[0, clip.frames - 1],
            )
        for value, size, way in zip(place, (clip.width, clip.height), ("x", "y"), strict=True):
            if not -0.5 <= value <= size - 0.5:
                raise CaseError(
                    "mark-outside",
                    f"{key}: {way} is {value:g} px; the picture has 0 to {size - 1} px",
                    key=key,
                    value=value,
                    unit="px",
                    allowed=[0, size - 1],
                )

    def _check_twins(self) -> None:
        """No two body marks of one frame lie on one spot: a line needs two places."""
        for name, places in self.marks.items():
            for other, theirs in self.marks.items():
                if other <= name:
                    continue
                for frame in places.keys() & theirs.keys():
                    _check_apart(
                        f"marks.{name} and marks.{other} in frame {frame}",
                        places[frame],
                        theirs[frame],
                        1.0,
                    )

    def as_json(self) -> dict[str, Any]:
        """Plain data, without what was never set."""
        data: dict[str, Any] = msgspec.to_builtins(self, str_keys=True)
        data["athlete"] = self.athlete.as_json()
        usual = msgspec.to_builtins(MarksFile(athlete=self.athlete), str_keys=True)
        return {
            k: v
            for k, v in data.items()
            if k in ("format", "athlete", "view", "marks") or v != usual[k]
        }


def _check_apart(key: str, one: Place, other: Place, least_px: float = LEAST_LINE_PX) -> None:
    gap = float(((one[0] - other[0]) ** 2 + (one[1] - other[1]) ** 2) ** 0.5)
    if gap < least_px:
        raise CaseError(
            "marks-coincide",
            f"{key}: the two places are {gap:.1f} px apart; a line needs at least {least_px:g} px",
            key=key,
            value=gap,
            unit="px",
            allowed=[least_px, 20_000],
        )


def marks_from(data: Any) -> MarksFile:
    """Read marks from plain data. Raises `CaseError` naming key, value, unit and range."""
    if isinstance(data, dict) and "format" not in data:
        raise CaseError("missing-key", "format is missing", key="format", allowed=[MARKS_FORMAT])
    return read(MarksFile, data)


def read_marks(path: Path) -> MarksFile:
    """Read a file of marks. Raises `CaseError` naming what is wrong, `OSError` if unreadable."""
    return marks_from(parse_json(read_bounded(path, "marks", MOST_BYTES), one_line(path.name, 80)))


def marks_text(marks: MarksFile) -> str:
    """The file's text."""
    return json.dumps(marks.as_json(), indent=1, ensure_ascii=False, allow_nan=False) + "\n"
