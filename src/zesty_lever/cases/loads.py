"""What a case may carry besides its variation's own load: masses, bands, cables, pushes."""

from itertools import pairwise
from typing import Annotated, Literal

from zesty_lever.models import Model, at_most, quantity
from zesty_lever.problems import CaseError

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
PushPart = Annotated[float, quantity("N", -2000.0, 2000.0)]
Name = Annotated[str, at_most(40)]
Slack = Annotated[float, quantity("m", 0.0, 5.0)]
Stiffness = Annotated[float, quantity("N/m", 0.0, 5000.0)]
BandLength = Annotated[float, quantity("m", 0.0, 6.0)]
BandForce = Annotated[float, quantity("N", 0.0, 3000.0)]
MOST_ROWS = 40


class MassLoad(Model, frozen=True, kw_only=True, tag_field="kind", tag="mass"):
    """A second mass: a vest, a plate, a bell.

    ``place`` is where it sits: at offsets (m) from mid-shoulder (``trunk``) or mid-hip
    (``pelvis``), in both hands, or at a named place of `placements.toml` plus the offsets.
    ``when`` it counts: on the way down, up, or both.
    """

    name: Name = "extra mass"
    mass_kg: Annotated[float, quantity("kg", 0.0, 200.0)]
    place: Place = "trunk"
    forward_m: Annotated[float, quantity("m", -0.6, 0.6)] = 0.0
    above_m: Annotated[float, quantity("m", -0.8, 0.6)] = 0.0
    when: When = "both"


class BandLoad(Model, frozen=True, kw_only=True, tag_field="kind", tag="band"):
    """A rubber band from an attachment to another one or to an anchor in space (m).

    Its force follows a line (slack length and stiffness) or a measured ``table`` of (length m,
    force N) rows, longer and stronger from row to row, the first at zero force.
    """

    name: Name = "band"
    start: Attachment
    end: Attachment | Anchor
    slack_m: Slack | None = None
    stiffness_N_m: Stiffness | None = None
    table: Annotated[tuple[tuple[BandLength, BandForce], ...], at_most(MOST_ROWS)] | None = None
    when: When = "both"

    def __post_init__(self) -> None:
        """Refuse a band with no force line or two, and a table that does not rise."""
        line = (self.slack_m, self.stiffness_N_m)
        if (self.table is None and None in line) or (self.table and line != (None, None)):
            raise CaseError(
                "band-needs-line-or-table",
                "a band needs either slack_m (0 to 5 m) and stiffness_N_m (0 to 5000 N/m), or a "
                "table of [length_m, force_N] rows",
                key="loads.table",
            )
        if self.table is None:
            return
        rising = all(a[0] < b[0] and a[1] <= b[1] for a, b in pairwise(self.table))
        if len(self.table) < 2 or self.table[0][1] != 0.0 or not rising:
            raise CaseError(
                "band-table",
                "a band's table needs at least two [length_m, force_N] rows, each longer and "
                "no weaker than the one before, the first at 0 N",
                key="loads.table",
                value=len(self.table),
                unit="rows",
                allowed=[2, MOST_ROWS],
            )

    @property
    def force_line(self) -> tuple[float, float]:
        """Stiffness (N/m) and slack (m) of a band without a table."""
        return self.stiffness_N_m or 0.0, self.slack_m or 0.0


class CableLoad(Model, frozen=True, kw_only=True, tag_field="kind", tag="cable"):
    """A cable that pulls an attachment towards an anchor (m) with one force."""

    name: Name = "cable"
    start: Attachment
    end: Anchor
    force_N: Annotated[float, quantity("N", 0.0, 3000.0)]
    when: When = "both"


class PushLoad(Model, frozen=True, kw_only=True, tag_field="kind", tag="push"):
    """A partner's push (N, axes of the result) on an attachment."""

    name: Name = "push"
    start: Attachment
    push_N: tuple[PushPart, PushPart, PushPart]
    when: When = "both"


AnyLoad = MassLoad | BandLoad | CableLoad | PushLoad
