"""Keep what is worked out of the set-up being edited once the hand rests: the room that is left, its effort."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING, Any

from zesty_lever.analysis import Result
from zesty_lever.problems import CaseError
from zesty_lever.ui.kit.keeper import NOTHING_TO_SAY, Keeper

if TYPE_CHECKING:
    from zesty_lever.choosing.reach import Room


class RoomKeeper(Keeper):
    """The room that is left."""

    kind = "room"

    @property
    def room(self) -> Room | None:
        """The room, once it is known."""
        found: Any = self.found
        room: Room | None = found
        return room

    def work(self, result: Result) -> object:
        from zesty_lever.choosing.reach import room

        return room(result.case)


class EffortKeeper(Keeper):
    """How hard the set-up is for this athlete; nothing where that would mislead."""

    kind = "effort"

    def work(self, result: Result) -> object:
        from zesty_lever.choosing.also import also_uses
        from zesty_lever.choosing.bests import effort_of, misleads, strength_of

        if misleads(result):
            return NOTHING_TO_SAY
        try:
            told = effort_of(result.case, strength_of(result.case.athlete, result.case.school))
            return replace(told, also=also_uses(result))
        except CaseError:
            return NOTHING_TO_SAY
