"""Edits of the line-up: each is one step of the bench's history."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, Signal

from zesty_lever.bench.model import MOST_IN_LINEUP, MOST_NOTE, Bench, Entry
from zesty_lever.cases.model import Setup
from zesty_lever.problems import CaseError


class LineupEdits(QObject):
    """What the line-up can be asked to do; the session gives ``bench`` and ``commit``.

    ``changed``: the bench or its results are new. ``refused``: something could not be done, with
    the reason in words.
    """

    changed = Signal()
    refused = Signal(str)
    bench: Bench

    if TYPE_CHECKING:  # what the session gives

        def commit(self, label: str, bench: Bench) -> None: ...

    def line_up(self, slot: int, setup: Setup | None = None) -> None:
        """Add a set-up of the bench (or another) to the line-up."""
        lineup = self.bench.lineup
        if len(lineup) == MOST_IN_LINEUP:
            self.refused.emit(f"A line-up takes {MOST_IN_LINEUP}: take one off first")
            return
        chosen = setup or self.bench.setups[slot]
        added = (*lineup, Entry(**chosen.as_dict()))
        self.commit("Add to the line-up", self.bench.changed(lineup=added))

    def take_off_lineup(self, index: int) -> None:
        """Take one off the line-up; a pinned one stays."""
        if index < len(self.bench.lineup) and self.bench.lineup[index].pinned:
            self.refused.emit("It is pinned: unpin it first")
            return
        kept = tuple(s for i, s in enumerate(self.bench.lineup) if i != index)
        self.commit("Take off the line-up", self.bench.changed(lineup=kept))

    def line_up_for(self, index: int, athlete: int) -> None:
        """Add a copy of a line-up entry for another athlete."""
        if len(self.bench.lineup) == MOST_IN_LINEUP:
            self.refused.emit(f"A line-up takes {MOST_IN_LINEUP}: take one off first")
            return
        fixed = tuple(
            e if e.athlete is not None else e.changed(athlete=self.bench.current)
            for e in self.bench.lineup
        )
        added = (*fixed, fixed[index].changed(athlete=athlete))
        self._try(lambda: self.commit("Add for another athlete", self.bench.changed(lineup=added)))

    def note_in_lineup(self, index: int, note: str) -> None:
        """Write a note on a line-up entry."""
        if len(note) > MOST_NOTE:
            self.refused.emit(
                f"A note has at most {MOST_NOTE} characters; this one has {len(note)}"
            )
            return
        lineup = list(self.bench.lineup)
        lineup[index] = lineup[index].changed(note=note)
        self.commit("Note", self.bench.changed(lineup=tuple(lineup)))

    def pin_in_lineup(self, index: int) -> None:
        """Pin one: it goes to the left, behind those pinned already, and stays; or let a pinned one go."""
        lineup = list(self.bench.lineup)
        if not 0 <= index < len(lineup):
            return
        entry = lineup.pop(index)
        place = sum(e.pinned for e in lineup)
        lineup.insert(place, entry.changed(pinned=not entry.pinned))
        label = "Unpin" if entry.pinned else "Pin"
        self.commit(label, self.bench.changed(lineup=tuple(lineup)))

    def clear_lineup(self) -> None:
        """Take all off that are not pinned."""
        kept = tuple(e for e in self.bench.lineup if e.pinned)
        self.commit("Clear the line-up", self.bench.changed(lineup=kept))

    def set_typical_rules(self, working: float, shares: dict[str, float]) -> None:
        """Change the rules of thumb for typical loads."""
        self.commit(
            "Typical loads",
            self.bench.changed(working_share=working, lift_shares=shares),
        )

    def set_reps(self, reps: int) -> None:
        """Change how many repetitions a set has."""
        self.commit("Repetitions a set", self.bench.changed(reps_a_set=reps))

    def set_gym(self, bars: tuple[str, ...], pairs: dict[float, int], bar: str) -> None:
        """Say what bars and discs the gym has, and which bar is in use."""
        update = {"gym_bars": bars, "gym_pairs": pairs, "gym_bar": bar}
        self.commit("What the gym has", self.bench.changed(**update))

    def set_errors(self, errors: dict[str, float]) -> None:
        """Change the measurement errors that intervals rest on."""
        self.commit("Measurement errors", self.bench.changed(errors=errors))

    def move_in_lineup(self, index: int) -> None:
        """Move one a place towards the baseline."""
        lineup = list(self.bench.lineup)
        if 0 < index < len(lineup) and lineup[index - 1].pinned and not lineup[index].pinned:
            self.refused.emit("The one to its left is pinned: unpin it, or pin this one too")
            return
        if 0 < index < len(lineup):
            lineup[index - 1], lineup[index] = lineup[index], lineup[index - 1]
            self.commit("Move in the line-up", self.bench.changed(lineup=tuple(lineup)))

    def set_lineup_match(self, match: str | None) -> None:
        """Change how the line-up's loads are matched."""
        self.commit("Match loads", self.bench.changed(lineup_match=match))

    def _try(self, action: Callable[[], None]) -> None:
        try:
            action()
        except CaseError as error:
            self.refused.emit(error.text)
            self.changed.emit()
