"""The dose of one item: sets, repetitions, load and its rule, rest, side, style, what should be left."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PySide6.QtCore import QSignalBlocker, Signal
from PySide6.QtWidgets import QDoubleSpinBox, QGridLayout, QLabel, QLineEdit, QSpinBox, QWidget

from zesty_lever.exercises.catalogue import catalogue
from zesty_lever.models import read
from zesty_lever.plan.document import LOAD_RULES, STYLES, Block, Item, bare
from zesty_lever.problems import CaseError
from zesty_lever.ui.kit.controls import Quantity, picker
from zesty_lever.ui.kit.theme import font
from zesty_lever.wording.records import STYLE_WORDS

SIDES = {"both": "both legs", "each": "each side", "left": "left", "right": "right"}
RULE_WORDS = {
    "kg": "this load",
    "share-of-best": "share of best",
    "typical": "usual load",
    "advised": "as advised",
    "by-feel": "by feel",
}


class ItemForm(QWidget):
    """``changed`` (item, merges); ``styled`` (style); ``refused`` (why)."""

    changed = Signal(object, bool)
    styled = Signal(str)
    refused = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self.item: Item | None = None
        self.grid = QGridLayout(self)
        self.grid.setContentsMargins(0, 4, 0, 0)
        self.grid.setHorizontalSpacing(6)
        self.sets = self._count("Sets", 1, 20)
        self.low = self._count("Repetitions, from", 1, 100)
        self.high = self._count("Repetitions, to", 1, 100)
        self.seconds = self._number("Seconds held", 0, 600, " s")
        self.rest = self._number("Rest", 0, 900, " s")
        self.left = self._number("Left in reserve", -0.5, 5, "", 0.5)
        self.left.setSpecialValueText("open")
        self.seconds.setSpecialValueText("\N{EN DASH}")
        self.load = Quantity("kg", 0.0, 500.0, 2.5)
        self.load.setAccessibleName("Load")
        self.load.setToolTip("Load.")
        self.share = self._number("Share of the best", 20, 110, " %")
        self.rule = picker("How the load is chosen", [RULE_WORDS[r] for r in LOAD_RULES])
        self.side = picker("Side", list(SIDES.values()))
        self.style_of = picker("Style of the sets", [STYLE_WORDS[s] for s in STYLES])
        self.note = QLineEdit()
        self.note.setFont(font(12))
        self.note.setMaxLength(300)
        self.note.setAccessibleName("Cue or note for the athlete")
        self.note.setToolTip("Stands on the handout and beside the running set.")
        self.note.setPlaceholderText("cue or note for the athlete")
        self._lay_out()
        self._connect()

    def _count(self, name: str, low: int, high: int) -> QSpinBox:
        box = QSpinBox(minimum=low, maximum=high)
        box.setKeyboardTracking(False)
        box.setFont(font(12))
        box.setAccessibleName(name)
        box.setToolTip(f"{name}.")
        return box

    def _number(
        self, name: str, low: float, high: float, suffix: str, step: float = 5.0
    ) -> QDoubleSpinBox:
        box = QDoubleSpinBox(minimum=low, maximum=high, singleStep=step, suffix=suffix)
        box.setDecimals(1 if step < 1 else 0)
        box.setKeyboardTracking(False)
        box.setFont(font(12))
        box.setAccessibleName(name)
        box.setToolTip(f"{name}.")
        return box

    def _lay_out(self) -> None:
        rows: tuple[tuple[tuple[str, QWidget], ...], ...] = (
            (("Sets", self.sets), ("Reps", self.low), ("to", self.high), ("Held", self.seconds)),
            (("Load", self.rule), ("", self.load), ("", self.share), ("Left", self.left)),
            (("Style", self.style_of), ("Side", self.side), ("Rest", self.rest)),
        )
        for line, row in enumerate(rows):
            for column, (words, widget) in enumerate(row):
                if words:
                    label = QLabel(words)
                    label.setFont(font(12))
                    label.setBuddy(widget)
                    self.grid.addWidget(label, line, 2 * column)
                self.grid.addWidget(widget, line, 2 * column + 1)
        self.grid.addWidget(self.note, 3, 0, 1, 8)
        for column in (1, 3, 5, 7):
            self.grid.setColumnStretch(column, 1)

    def _connect(self) -> None:
        changes: tuple[tuple[Any, Callable[[Any], dict[str, Any]]], ...] = (
            (self.sets, lambda v: {"sets": int(v)}),
            (self.low, lambda v: {"reps": [int(v), max(int(v), self.high.value())]}),
            (self.high, lambda v: {"reps": [min(int(v), self.low.value()), int(v)]}),
            (self.seconds, lambda v: {"seconds": v or None}),
            (self.rest, lambda v: {"rest_s": v}),
            (self.left, lambda v: {"effort_left": None if v < 0 else v}),
            (self.load, lambda v: {"load_kg": round(v / self.load.factor, 3), "load_rule": "kg"}),
            (self.share, lambda v: {"share": v / 100.0, "load_rule": "share-of-best"}),
        )
        for box, change in changes:
            box.valueChanged.connect(lambda v, c=change: self._give(c(v), merges=True))
        self.rule.activated.connect(self._take_rule)
        self.side.activated.connect(lambda at: self._give({"side": list(SIDES)[at]}))
        self.style_of.activated.connect(lambda at: self.styled.emit(STYLES[at]))
        self.note.editingFinished.connect(lambda: self._give({"note": self.note.text().strip()}))

    def _take_rule(self, at: int) -> None:
        rule = LOAD_RULES[at]
        more: dict[str, Any] = {"load_rule": rule}
        if rule == "share-of-best" and self.item is not None and self.item.share is None:
            more["share"] = 0.7
        if rule == "kg" and self.item is not None and self.item.load_kg is None:
            more["load_kg"] = 20.0
        self._give(more)

    def _give(self, changes: dict[str, Any], *, merges: bool = False) -> None:
        if self.item is None:
            return
        try:
            made = read(Item, {**bare(self.item), **changes}, "item")
        except CaseError as error:
            self.refused.emit(error.text)
            return
        if made != self.item:
            self.changed.emit(made, merges)

    def show_item(self, block: Block | None, item: Item | None, *, locked: bool) -> None:
        """Show an item's dose; None: nothing is chosen. ``locked``: it is shown, not changed."""
        self.item = item
        self.setEnabled(item is not None and not locked)
        if item is None or block is None:
            return
        boxes = (
            self.sets,
            self.low,
            self.high,
            self.seconds,
            self.rest,
            self.left,
            self.load,
            self.share,
        )
        blockers = [QSignalBlocker(box) for box in boxes]
        self.sets.setValue(item.sets)
        self.low.setValue(item.reps[0])
        self.high.setValue(item.reps[1])
        self.seconds.setValue(item.seconds or 0.0)
        self.rest.setValue(item.rest_s)
        self.left.setValue(-0.5 if item.effort_left is None else item.effort_left)
        self.share.setValue(100.0 * (item.share or 0.7))
        known = catalogue().get(item.name)
        loaded = known is not None and known.load_range_kg()[1] > 0.0
        if known is not None and loaded:
            self.load.set_bounds(0.0, known.load_range_kg()[1])
        self.load.setValue((item.load_kg or 0.0) * self.load.factor)
        self.rule.setCurrentIndex(LOAD_RULES.index(item.load_rule))
        self.side.setCurrentIndex(list(SIDES).index(item.side))
        self.style_of.setCurrentIndex(STYLES.index(block.style))
        if not self.note.hasFocus():
            self.note.setText(item.note)
        del blockers
        self._fit(item, block, loaded=loaded)

    def _fit(self, item: Item, block: Block, *, loaded: bool) -> None:
        """Only what means something here can be set."""
        held = block.style == "holds" or (item.setup is None and item.seconds is not None)
        for box in (self.low, self.high):
            box.setEnabled(not held)
        self.seconds.setEnabled(held or item.setup is None)
        self.rule.setEnabled(loaded)
        shared = item.load_rule == "share-of-best"
        # A load that a rule gives is not typed: it stands with the advice.
        self.load.setVisible(not shared and (item.load_rule == "kg" or item.load_kg is not None))
        self.share.setVisible(shared)
        self.load.setEnabled(loaded and item.load_rule != "typical")
        self.share.setEnabled(loaded)
        self.style_of.setEnabled(item.setup is not None)
