"""What the shortlist is asked: wishes and what today allows, as plain data from which a `Wish` is made."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import field, replace
from typing import Any, Self

from zesty_lever.cases.model import Athlete
from zesty_lever.choosing.wishes import Ceiling, Wish
from zesty_lever.exercises.search import kinds_of_equipment
from zesty_lever.frozen import dataclass

STARTING_WISHES = {"knee": 50, "back": -50}
KNOWN_LIFT = "back-squat-high-bar"
# A sore place's joint; what it may take of the known lift, per cent, and how much less of it is wished for.
SORE_JOINTS = {"hip": "hip", "knee": "knee", "lower back": "back"}
SORE_CEILING, SORE_WISH = 60.0, -50


@dataclass(frozen=True)
class WishForm:
    """The form as it is filled in.

    ``want`` per cent by wish (-100 to 100, 0: never mind); ``ceilings`` per cent of what ``lift`` asks of a
    joint (0: no limit); ``ranges_deg`` what ankle and hip have today (0: as measured); ``missing`` kinds
    of equipment that are not at hand; ``direction`` one of the catalogue's (empty: any);
    ``goal`` knee and hip, N m.
    """

    want: Mapping[str, int] = field(default_factory=lambda: dict(STARTING_WISHES))
    ceilings: Mapping[str, float] = field(default_factory=dict)
    lift: str = KNOWN_LIFT
    ranges_deg: Mapping[str, float] = field(default_factory=dict)
    skill: int = 3
    direction: str = ""
    keep_shape: bool = True
    spotter: bool = True
    missing: tuple[str, ...] = ()
    goal: tuple[float, float] | None = None

    def changed(self, **changes: Any) -> Self:
        """The form with other entries."""
        return replace(self, **changes)

    def athlete_today(self, athlete: Athlete) -> Athlete:
        """The athlete with today's ankle and hip: both sides are as stiff as that today."""
        today = {key: deg for key, deg in self.ranges_deg.items() if deg > 0}
        kept = {
            key: deg
            for key, deg in athlete.limits_deg.items()
            if not any(key.startswith(start) for start in today)
        }
        return athlete.changed(limits_deg={**kept, **today}) if today else athlete

    def sparing(self, athlete: Athlete) -> Self:
        """The form with a ceiling on every sore joint that has none, and the wish turned away from it."""
        ceilings, want = dict(self.ceilings), dict(self.want)
        for joint in sore_joints(athlete):
            ceilings[joint] = ceilings.get(joint) or SORE_CEILING
            want[joint] = min(want.get(joint, 0), SORE_WISH)
        return self.changed(ceilings=ceilings, want=want)

    def at_hand(self) -> frozenset[str] | None:
        """Equipment that is at hand; None: all of it."""
        return frozenset(kinds_of_equipment()) - set(self.missing) if self.missing else None

    def wish(self) -> Wish:
        """The wish that the form says."""
        return Wish(
            {key: share / 100.0 for key, share in self.want.items() if share},
            tuple(
                Ceiling(joint, share / 100.0, self.lift)
                for joint, share in self.ceilings.items()
                if share > 0
            ),
            self.at_hand(),
            self.skill,
            self.spotter,
            frozenset({self.direction}) if self.direction else frozenset(),
            self.goal,
            self.keep_shape,
        )


def sore_joints(athlete: Athlete) -> tuple[str, ...]:
    """Joints of the shortlist that are sore today."""
    return sore_joints_of(sore.place for sore in athlete.sore)


def sore_joints_of(places: Iterable[str]) -> tuple[str, ...]:
    """Joints of the shortlist at sore places, each once."""
    return tuple(dict.fromkeys(SORE_JOINTS[p] for p in places if p in SORE_JOINTS))
