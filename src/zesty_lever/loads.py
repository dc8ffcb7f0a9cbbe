"""What a case may carry besides its variation's own load: masses, bands, cables, pushes."""

from __future__ import annotations

from itertools import pairwise
from typing import Annotated, Literal, Self

from pydantic import BaseModel, ConfigDict, Field, model_validator

from zesty_lever.errors import CaseError, quantity


class StrictModel(BaseModel):
    """Frozen, typed to the letter, no unknown keys."""

    model_config = ConfigDict(extra="forbid", frozen=True, strict=True, defer_build=True)


When = Literal["both", "down", "up"]
Place = Literal[
    "trunk",
    "pelvis",
    "bar-high",
    "bar-low",
    "front-rack",
    "chest",
    "hip-crease",
    "belt",
    "hands",
]


class MassLoad(StrictModel):
    """A second mass: a vest, a plate, a bell.

    ``place`` is where it sits: at offsets (m) from mid-shoulder (``trunk``) or mid-hip
    (``pelvis``), in both hands, or at a named place of `placements.toml` plus the offsets.
    ``when`` it counts: on the way down, up, or both.
    """

    kind: Literal["mass"]
    name: str = Field(default="extra mass", max_length=40)
    mass_kg: float = quantity("kg", 0.0, 200.0)
    place: Place = "trunk"
    forward_m: float = quantity("m", -0.6, 0.6, 0.0)
    above_m: float = quantity("m", -0.8, 0.6, 0.0)
    when: When = "both"


Attachment = Literal[
    "hand_left",
    "hand_right",
    "hip_crease",
    "shoulders",
    "above_knee_left",
    "above_knee_right",
    "shank_left",
    "shank_right",
    "foot_left",
    "foot_right",
]
ANCHOR_REACH_M = 5.0
Coordinate = Annotated[float, quantity("m", -ANCHOR_REACH_M, ANCHOR_REACH_M)]
Anchor = tuple[Coordinate, Coordinate, Coordinate]
Push = Annotated[float, quantity("N", -2000.0, 2000.0)]


BandLength = Annotated[float, quantity("m", 0.0, 6.0)]
BandForce = Annotated[float, quantity("N", 0.0, 3000.0)]


class BandLoad(StrictModel):
    """A rubber band from an attachment to another one or to an anchor in space (m).

    Its force follows a line (slack length and stiffness) or a measured ``table`` of (length m,
    force N) rows, longer and stronger from row to row, the first at zero force.
    """

    kind: Literal["band"]
    name: str = Field(default="band", max_length=40)
    start: Attachment
    end: Attachment | Anchor
    slack_m: float | None = quantity("m", 0.0, 5.0, None)
    stiffness_N_m: float | None = quantity("N/m", 0.0, 5000.0, None)
    table: tuple[tuple[BandLength, BandForce], ...] | None = Field(default=None, max_length=40)
    when: When = "both"

    @model_validator(mode="after")
    def _line_or_table(self) -> Self:
        line = (self.slack_m, self.stiffness_N_m)
        if (self.table is None and None in line) or (self.table and line != (None, None)):
            raise CaseError(
                "band-needs-line-or-table",
                "a band needs either slack_m (0 to 5 m) and stiffness_N_m (0 to 5000 N/m), or a "
                "table of [length_m, force_N] rows",
                key="loads.table",
            )
        if self.table is not None:
            rows = self.table
            rising = all(a[0] < b[0] and a[1] <= b[1] for a, b in pairwise(rows))
            if len(rows) < 2 or rows[0][1] != 0.0 or not rising:
                raise CaseError(
                    "band-table",
                    "a band's table needs at least two [length_m, force_N] rows, each longer and "
                    "no weaker than the one before, the first at 0 N",
                    key="loads.table",
                    value=len(rows),
                    unit="rows",
                    allowed=[2, 40],
                )
        return self


class CableLoad(StrictModel):
    """A cable that pulls an attachment towards an anchor (m) with one force."""

    kind: Literal["cable"]
    name: str = Field(default="cable", max_length=40)
    start: Attachment
    end: Anchor
    force_N: float = quantity("N", 0.0, 3000.0)
    when: When = "both"


class PushLoad(StrictModel):
    """A partner's push (N, axes of the result) on an attachment."""

    kind: Literal["push"]
    name: str = Field(default="push", max_length=40)
    start: Attachment
    push_N: tuple[Push, Push, Push]
    when: When = "both"


AnyLoad = Annotated[MassLoad | BandLoad | CableLoad | PushLoad, Field(discriminator="kind")]
