"""The joints whose moments are worked out, and the three that a coach reads: one table for all."""

from __future__ import annotations

from zesty_lever.frozen import dataclass

SIDES = ("left", "right")
LEG_JOINTS = ("ankle", "knee", "hip")
# The order of every array with a joints axis.
JOINTS = (*(f"{joint}_{side}" for joint in LEG_JOINTS for side in SIDES), "lumbosacral")
ROW = {joint: row for row, joint in enumerate(JOINTS)}


@dataclass(frozen=True)
class JointGroup:
    """What a coach calls one joint: ``key`` in options and wishes, ``word`` in sentences.

    ``joints`` are its sides in the order of `JOINTS`; ``shown`` is the one that stands for it where
    one is drawn (the right or front side).
    """

    key: str
    word: str
    joints: tuple[str, ...]

    @property
    def shown(self) -> str:
        """The side that stands for the group."""
        return self.joints[-1]

    @property
    def rows(self) -> tuple[int, ...]:
        """Rows of its joints in arrays with a joints axis."""
        return tuple(ROW[joint] for joint in self.joints)


HIP = JointGroup("hip", "hip", ("hip_left", "hip_right"))
KNEE = JointGroup("knee", "knee", ("knee_left", "knee_right"))
LOWER_BACK = JointGroup("back", "lower back", ("lumbosacral",))
COACH_JOINTS = (HIP, KNEE, LOWER_BACK)
BY_KEY = {group.key: group for group in COACH_JOINTS}


def group_of(joint: str) -> JointGroup | None:
    """The group that a joint belongs to, None for ankles."""
    return next((group for group in COACH_JOINTS if joint in group.joints), None)
