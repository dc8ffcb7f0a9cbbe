"""Settings given and dragged: a drag is previewed without history; letting go makes one step of it."""

from __future__ import annotations

import time
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, QTimer, Signal

from zesty_lever.analysis import Result
from zesty_lever.bench.edits import with_anchor
from zesty_lever.bench.model import Bench
from zesty_lever.cases.anchors import Anchor
from zesty_lever.cases.model import Setup
from zesty_lever.cases.resolve import resolve
from zesty_lever.exercises.catalogue import variation
from zesty_lever.feasibility import balanced_angles
from zesty_lever.ui.lineup_edits import LineupEdits

# While something is dragged the figure follows every step, curves and numbers at most this often.
NUMBERS_EVERY_MS = 40


class DragEdits(LineupEdits):
    """Everything that is dragged. ``posed``: a step of a drag, for what has to follow at once."""

    posed = Signal()
    results: list[Result]

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._drag_from: Bench | None = None
        self._told_s = 0.0
        self._tell_soon = QTimer(self, singleShot=True, interval=NUMBERS_EVERY_MS)
        self._tell_soon.timeout.connect(self._tell_all)

    @property
    def editing(self) -> int:
        """Which set-up the controls and the handles change, 0 or 1."""
        return self.bench.editing

    @property
    def setup(self) -> Setup:
        """The set-up being edited."""
        return self.bench.setups[self.editing]

    @property
    def result(self) -> Result:
        """Result of the set-up being edited."""
        return self.results[self.editing]

    if TYPE_CHECKING:  # what the session gives

        def show_bench(self, bench: Bench) -> None: ...
        def push_step(self, label: str, before: Bench) -> None: ...
        def set_moment(self, frame: int) -> None: ...

    @property
    def dragging(self) -> bool:
        """Whether something is being dragged."""
        return self._drag_from is not None

    def tell(self) -> None:
        """Emit ``changed``; in a quick drag ``posed`` now and ``changed`` a little later."""
        late = time.monotonic() - self._told_s > 1e-3 * NUMBERS_EVERY_MS
        if not self.dragging or late:
            self._tell_all()
            return
        self.posed.emit()
        if not self._tell_soon.isActive():
            self._tell_soon.start()

    def _tell_all(self) -> None:
        self._tell_soon.stop()
        self._told_s = time.monotonic()
        self.changed.emit()

    def with_value(self, key: str, value: float) -> Bench | None:
        """Bench with one setting changed.

        When ``key`` is the angle that balance solves, another angle is found that brings it
        there: the shin for the trunk, the trunk for the others.
        """
        free = self.free
        settings = dict(self.setup.settings)
        if key != free:
            settings[key] = value
            return self.with_settings(settings)
        partner = "shin_deg" if free == "trunk_deg" else "trunk_deg"
        found = self._partner_value(key, value, partner)
        if found is None:
            settings_known = variation(self.setup.variation).settings
            name, kept = (settings_known[k].name.lower() for k in (partner, free))
            self.refused.emit(f"No {name} angle balances that; the {kept} stays solved")
            return None
        settings[partner] = found
        return self.with_settings(settings)

    def with_settings(self, settings: dict[str, float | None]) -> Bench:
        """Bench with other settings of the set-up being edited."""
        setup = self.setup.changed(settings=settings)
        return self.bench.with_setup(self.editing, setup)

    def _partner_value(self, key: str, value: float, partner: str) -> float | None:
        case = resolve(self.bench.case(self.editing))
        trial = case.changed(settings={**case.settings, key: value, partner: None})
        angles = balanced_angles(trial)
        if angles is None:
            return None
        limits, value = variation(self.setup.variation).settings[partner], round(angles[partner], 3)
        return value if limits.low <= value <= limits.high else None

    @property
    def free(self) -> str:
        """The angle that balance solves in the set-up being edited ('' when all are given)."""
        return self.result.case.free or ""

    def begin_drag(self) -> None:
        """Start a drag: moves preview until `finish_drag`."""
        self._drag_from = self.bench
        self.set_moment(self.result.timeline.bottom)

    def drag_to(self, key: str, value: float) -> None:
        """Preview a dragged value, held to the setting's own range."""
        setting = variation(self.setup.variation).settings[key]
        bench = self.with_value(key, min(max(value, setting.low), setting.high))
        if bench is not None:
            self._preview(bench)

    def drag_pair(self, one: str, first: float, two: str, second: float) -> None:
        """Preview two settings dragged together on a map, held to their own ranges."""
        known = variation(self.setup.variation).settings
        settings = dict(self.setup.settings)
        for key, value in ((one, first), (two, second)):
            settings[key] = min(max(value, known[key].low), known[key].high)
        self._preview(self.with_settings(settings))

    def drag_anchor(self, anchor: Anchor, ahead_m: float, up_m: float) -> None:
        """Preview a dragged anchor of a band or cable."""
        self._preview(with_anchor(self.bench, self.editing, anchor, ahead_m, up_m))

    def _preview(self, bench: Bench) -> None:
        """Show a step of a drag; one that can't be set up is refused and the last one stays."""
        if bench != self.bench:
            self._try(lambda: self.show_bench(bench))

    def finish_drag(self, label: str) -> None:
        """End a drag: one undo step from where it began."""
        start, self._drag_from = self._drag_from, None
        if start is not None and start != self.bench:
            self.push_step(label, start)

    def cancel_drag(self) -> None:
        """Give up a drag: back to where it began."""
        start, self._drag_from = self._drag_from, None
        if start is not None:
            self.show_bench(start)
