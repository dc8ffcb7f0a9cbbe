"""Shortlist: say what is wanted and what today allows; the catalogue ranked, on a map of knee against hip."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import numpy as np
from PySide6.QtCore import Qt, QTimer
from PySide6.QtGui import QColor
from PySide6.QtWidgets import (
    QAbstractItemView,
    QCheckBox,
    QComboBox,
    QDoubleSpinBox,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QScrollArea,
    QSlider,
    QVBoxLayout,
    QWidget,
)

from zesty_lever.bench import edits
from zesty_lever.cases.model import Athlete
from zesty_lever.choosing.shortlist import (
    Option,
    RuledOut,
    ceiling_Nm,
    shortlist,
    substitutes,
)
from zesty_lever.choosing.week import NEEDS, cover_week, told_by
from zesty_lever.choosing.wishes import WISHES, Ceiling, Wish
from zesty_lever.exercises.catalogue import catalogue, variation
from zesty_lever.exercises.search import SKILLS, kinds_of_equipment
from zesty_lever.ui.kit.controls import heading, note, picker
from zesty_lever.ui.kit.theme import Theme, font
from zesty_lever.ui.kit.waiting import Waiting
from zesty_lever.ui.session import Session
from zesty_lever.ui.shortlist.demand_map import DemandMap
from zesty_lever.wording.sentences import interval_words, settings_words
from zesty_lever.wording.units import UNITS, minus

WAIT_MS = 300
# The list, ceilings in N m by joint, and what of the week none of the list covers.
Listed = tuple[list[Option | RuledOut], dict[str, float], list[str]]
STARTING = {"knee": 50, "back": -50}
MODES = ("Ranked for the wish", "Substitutes for A", "Cover the week")


class ShortlistScreen(QWidget):
    """What is wanted today, and what today allows."""

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__()
        self.setObjectName("bench")
        self.session = session
        self.waiting = Waiting(session.jobs, "shortlist")
        self.options: list[Option | RuledOut] = []
        self.uncovered: list[str] = []
        self.picture = DemandMap(theme)
        row = QHBoxLayout(self)
        row.setContentsMargins(14, 10, 14, 10)
        row.setSpacing(12)
        row.addWidget(self._wishes())
        right = QVBoxLayout()
        right.addLayout(self._modes())
        right.addWidget(self.picture, 1)
        self.list = QListWidget()
        self.list.setFont(font(13))
        self.list.setWordWrap(True)
        self.list.setAccessibleName("Variations, best first")
        self.list.setToolTip("Choose with the arrows; Enter puts the chosen one on the bench.")
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        self.list.currentRowChanged.connect(self._choose)
        self.list.itemActivated.connect(lambda _: self.to_bench())
        right.addWidget(self.list, 1)
        right.addWidget(
            note(
                "90 %: what could be true with things done and read as well as they are; where two places carry the body, the floor may push in more than one way. Loads: common practice, no source. Estimates for choosing, not a diagnosis and no safety limit. Stop at pain; pain goes to a licensed clinician."
            )
        )
        row.addLayout(right, 1)
        self.picture.goal_moved.connect(self._goal)
        self.picture.picked.connect(self._pick)
        self._soon = QTimer(self, singleShot=True, interval=WAIT_MS)
        self._soon.timeout.connect(self.ask)
        self.waiting.answered.connect(self._answer)
        self.waiting.failed.connect(self._fail)
        self.waiting.stopped.connect(self._stopped)
        session.changed.connect(self._follow)
        self._shown_for: object = None

    def _wishes(self) -> QWidget:
        area = QScrollArea(widgetResizable=True)
        area.setFixedWidth(330)
        area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        body = QWidget()
        body.setObjectName("setupBody")
        area.setWidget(body)
        column = QVBoxLayout(body)
        column.setContentsMargins(0, 0, 10, 0)
        column.setSpacing(5)
        column.addWidget(heading("What do you want?"))
        grid = QGridLayout()
        self.want: dict[str, QSlider] = {}
        for number, (key, words) in enumerate(WISHES.items()):
            label = QLabel(words.capitalize())
            label.setFont(font(13))
            slider = QSlider(
                Qt.Orientation.Horizontal, minimum=-100, maximum=100, singleStep=10, pageStep=50
            )
            slider.setValue(STARTING.get(key, 0))
            slider.setAccessibleName(f"{words}: left less, right more")
            slider.setToolTip(
                f"{words.capitalize()}: left for less of it, middle for never mind, right for more."
            )
            slider.valueChanged.connect(self._soon_again)
            grid.addWidget(label, number, 0)
            grid.addWidget(slider, number, 1)
            self.want[key] = slider
        column.addLayout(grid)
        self._today(column)
        column.addStretch(1)
        return area

    def _today(self, column: QVBoxLayout) -> None:
        """Sore joints, skill, direction, spotter, what is missing."""
        column.addWidget(heading("What does today allow?"))
        self._sore_joints(column)
        self._ranges(column)
        self._conditions(column)
        column.addWidget(note("Not at hand today:"))
        self.missing = QLineEdit(placeholderText="rack, bench")
        self.missing.setFont(font(12))
        self.missing.setAccessibleName("Equipment not at hand, separated by commas")
        self.missing.setToolTip("Known: " + ", ".join(kinds_of_equipment()) + ".")
        self.missing.textChanged.connect(self._soon_again)
        column.addWidget(self.missing)

    def _sore_joints(self, column: QVBoxLayout) -> None:
        self.ceilings: dict[str, QDoubleSpinBox] = {}
        for joint, words in (("hip", "Hip"), ("knee", "Knee"), ("back", "Lower back")):
            box = QDoubleSpinBox(minimum=0, maximum=200, singleStep=5, decimals=0, suffix=" %")
            box.setKeyboardTracking(False)
            self._add_limit(
                column,
                box,
                f"{words} at most",
                "no limit",
                "per cent of the known lift",
                "A sore joint's ceiling, as a share of what the known lift asks of it at its best load.",
            )
            self.ceilings[joint] = box
        self.lift = QComboBox()
        self.lift.setFont(font(12))
        self.lift.setAccessibleName("Known lift")
        self.lift.setToolTip("The lift that the ceilings are a share of.")
        self.lift.setSizeAdjustPolicy(
            QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon
        )
        for entry in catalogue().values():
            self.lift.addItem(f"of the {entry.name.lower()}", entry.id)
        self.lift.setCurrentIndex(self.lift.findData("back-squat-high-bar"))
        self.lift.activated.connect(self._soon_again)
        column.addWidget(self.lift)

    def _conditions(self, column: QVBoxLayout) -> None:
        self.skill = picker("Skill", [f"Up to: {SKILLS[n]}" for n in (1, 2, 3)])
        self.skill.setCurrentIndex(2)
        self.skill.activated.connect(self._soon_again)
        self.direction = picker("Direction", ["Any direction", "vertical", "horizontal", "lateral"])
        self.direction.activated.connect(self._soon_again)
        self.shape = QCheckBox("The low back keeps its shape")
        self.shape.setFont(font(13))
        self.shape.setChecked(True)
        self.shape.setToolTip(
            "Nothing goes deeper than this athlete's hips allow without rounding the low back."
        )
        self.shape.toggled.connect(self._soon_again)
        self.spotter = QCheckBox("A spotter is there")
        self.spotter.setFont(font(13))
        self.spotter.setChecked(True)
        self.spotter.setToolTip("Without one, heavy demanding lifts are ruled out.")
        self.spotter.toggled.connect(self._soon_again)
        for widget in (self.skill, self.direction, self.shape, self.spotter):
            column.addWidget(widget)

    def _ranges(self, column: QVBoxLayout) -> None:
        """Ankle and hip range today, where they are not as measured."""
        self.ranges: dict[str, QDoubleSpinBox] = {}
        for key, words, most in (
            ("ankle_dorsiflexion", "Ankle today", 60),
            ("hip_flexion", "Hip today, knee bent", 150),
        ):
            box = QDoubleSpinBox(minimum=0, maximum=most, singleStep=1, decimals=0, suffix=" °")
            box.setKeyboardTracking(False)
            self._add_limit(
                column,
                box,
                words,
                "as measured",
                "degrees",
                "What it has today, where that is not what was "
                "measured for the athlete. The list says what it rules out.",
            )
            self.ranges[key] = box

    def _add_limit(
        self, column: QVBoxLayout, box: QDoubleSpinBox, words: str, none: str, unit: str, tip: str
    ) -> None:
        """A row of a limit of the day; at nothing it says that there is none."""
        row = QHBoxLayout()
        label = QLabel(words)
        label.setFont(font(13))
        box.setSpecialValueText(none)
        box.setFont(font(13))
        box.setAccessibleName(f"{words}, {unit}")
        box.setToolTip(tip)
        box.valueChanged.connect(self._soon_again)
        row.addWidget(label, 1)
        row.addWidget(box)
        column.addLayout(row)

    def athlete_today(self) -> Athlete:
        """The athlete with today's ankle and hip."""
        athlete = self.session.bench.athlete
        today = {key: box.value() for key, box in self.ranges.items() if box.value() > 0}
        # Both sides are as stiff as that today.
        kept = {
            k: v
            for k, v in athlete.limits_deg.items()
            if not any(k.startswith(key) for key in today)
        }
        return athlete.changed(limits_deg={**kept, **today}) if today else athlete

    def _modes(self) -> QHBoxLayout:
        row = QHBoxLayout()
        self.mode = picker("List", list(MODES))
        self.mode.activated.connect(self.ask)
        row.addWidget(self.mode)
        row.addWidget(self.waiting, 1)
        for name, tip, call in (
            ("To the bench", "Put the chosen variation with its load on the bench.", self.to_bench),
            (
                "To the line-up",
                "Add the chosen variation with its load to the line-up.",
                self.to_lineup,
            ),
        ):
            button = QPushButton(name)
            button.setFont(font(12))
            button.setToolTip(tip)
            button.clicked.connect(lambda _=False, c=call: c())
            row.addWidget(button)
        return row

    def showEvent(self, event: Any) -> None:
        super().showEvent(event)
        self._follow()

    def _follow(self) -> None:
        bench = self.session.bench
        mark = (
            bench.athlete,
            self.session.setup.school,
            bench.working_share,
            tuple(bench.lift_shares.items()),
            self.session.setup if self.mode.currentIndex() == 1 else None,
        )
        if self.isVisible() and mark != self._shown_for:
            self._shown_for = mark
            self.ask()

    def _soon_again(self) -> None:
        self._soon.start()

    def wish(self) -> Wish:
        """What the controls say."""
        want = {k: s.value() / 100.0 for k, s in self.want.items() if s.value()}
        lift = str(self.lift.currentData())
        ceilings = tuple(
            Ceiling(j, b.value() / 100.0, lift) for j, b in self.ceilings.items() if b.value() > 0
        )
        gone = {w.strip().lower() for w in self.missing.text().split(",") if w.strip()}
        have = (
            frozenset(k for k in kinds_of_equipment() if not any(word in k for word in gone))
            if gone
            else None
        )
        direction = (
            frozenset()
            if self.direction.currentIndex() == 0
            else frozenset({self.direction.currentText().lower()})
        )
        return Wish(
            want,
            ceilings,
            have,
            self.skill.currentIndex() + 1,
            self.spotter.isChecked(),
            direction,
            self.picture.goal,
            self.shape.isChecked(),
        )

    def ask(self) -> None:
        """Rank anew, beside the window."""
        athlete, school, wish, mode = (
            self.athlete_today(),
            self.session.setup.school,
            self.wish(),
            self.mode.currentIndex(),
        )
        wanted, rules = self.session.results[0], self.session.bench.rules

        def work(tell: Callable[[float], None]) -> Listed:
            limits = {c.joint: ceiling_Nm(athlete, c, school, rules) for c in wish.ceilings}
            if mode == 1:
                return [*substitutes(athlete, wanted, wish, school, tell, rules)], limits, []
            found = shortlist(athlete, wish, school, tell, rules)
            if mode != 2:
                return found, limits, []
            week, missing = cover_week(found)
            return [*map(told_by, week)], limits, missing

        self.waiting.ask(work)

    def _fail(self, why: str) -> None:
        self.list.clear()
        self.list.addItem(why)

    def _stopped(self) -> None:
        self._shown_for = None
        if not self.options:
            self._fail(
                "Stopped before there was a list. Change the wish, or come back to this screen, to rank anew."
            )

    def _answer(self, answer: Listed) -> None:
        self.options, self.picture.limits, self.uncovered = answer
        self.picture.options = self.options
        self._fill_list()

    def _fill_list(self) -> None:
        """The list in words; what was chosen stays chosen where it is still there."""
        kept = self.picture.chosen
        self.list.clear()
        for rank, option in enumerate(self.options, start=1):
            name = variation(option.variation).name
            if isinstance(option, RuledOut):
                item = QListWidgetItem(f"–  {name}: ruled out, {option.why}")
                item.setForeground(QColor(self.picture.theme.faint))
            else:
                takes = variation(option.variation).load
                load = f", {UNITS.text(option.load_kg, 'kg')} ({option.load_rule})" if takes else ""
                words = f"{rank}  {name}{load}{settings_words(option)}"
                item = QListWidgetItem(
                    minus(f"{words}\n     {option.reason}{interval_words(option)}")
                )
            self.list.addItem(item)
        if self.uncovered:
            words = ", ".join(NEEDS[need] for need in self.uncovered)
            self.list.addItem(f"–  Not covered by anything that today allows: {words}.")
        self.list.setCurrentRow(
            next(
                (
                    i
                    for i, o in enumerate(self.options)
                    if o.variation == kept and isinstance(o, Option)
                ),
                0,
            )
        )
        self.picture.update()

    def _choose(self, row: int) -> None:
        self.picture.chosen = self.options[row].variation if 0 <= row < len(self.options) else ""
        self.picture.update()

    def _pick(self, name: str) -> None:
        self.list.setCurrentRow(next(i for i, o in enumerate(self.options) if o.variation == name))

    def _goal(self, knee: float, hip: float) -> None:
        self.picture.goal = None if np.isnan(knee) else (knee, hip)
        self.ask()

    def chosen(self) -> Option | None:
        """The option that is chosen in the list, if it can be done."""
        row = self.list.currentRow()
        option = self.options[row] if 0 <= row < len(self.options) else None
        return option if isinstance(option, Option) else None

    def to_bench(self) -> None:
        """Put the chosen one on the bench."""
        option = self.chosen()
        if option is not None:
            setup = option.case.setup.changed(settings=dict(option.settings))
            self.session.do(edits.put_setup, setup)

    def to_lineup(self) -> None:
        """Add the chosen one to the line-up."""
        option = self.chosen()
        if option is not None:
            setup = option.case.setup.changed(settings=dict(option.settings))
            self.session.do(edits.line_up, 0, setup)

    def show_units(self) -> None:
        """Take over the units in use."""
        if self.options:
            self._fill_list()

    def set_theme(self, theme: Theme) -> None:
        """Repaint in another theme."""
        self.picture.theme = theme
        self.show_units()
        self.picture.update()
