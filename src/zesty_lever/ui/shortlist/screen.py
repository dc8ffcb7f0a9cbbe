"""Shortlist: say what is wanted and what today allows; the catalogue ranked, on a map of knee against hip."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from math import floor
from typing import Any

from PySide6.QtCore import Qt, QTimer, Signal
from PySide6.QtGui import QColor
from PySide6.QtWidgets import (
    QAbstractItemView,
    QCheckBox,
    QComboBox,
    QDoubleSpinBox,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QListWidget,
    QListWidgetItem,
    QSlider,
    QVBoxLayout,
    QWidget,
)

from zesty_lever.bench import edits
from zesty_lever.bench.wish_form import (
    KNOWN_LIFT,
    SORE_CEILING,
    STARTING_WISHES,
    WishForm,
    sore_joints_of,
)
from zesty_lever.cases.model import Setup
from zesty_lever.choosing.shortlist import (
    Option,
    RuledOut,
    ceiling_Nm,
    shortlist,
    substitutes,
)
from zesty_lever.choosing.week import NEEDS, cover_week, reason_in_words
from zesty_lever.choosing.wishes import WISHES, Ceiling
from zesty_lever.coaching.who import who_is
from zesty_lever.exercises.catalogue import catalogue
from zesty_lever.exercises.search import DIRECTIONS, SKILLS
from zesty_lever.problems import CaseError
from zesty_lever.ui.kit.controls import heading, note, picker, push_button, scrolled_column
from zesty_lever.ui.kit.screen import Screen, Themed
from zesty_lever.ui.kit.theme import Theme, font
from zesty_lever.ui.kit.waiting import Waiting
from zesty_lever.ui.session import Session
from zesty_lever.ui.shortlist.demand_map import DemandMap
from zesty_lever.ui.shortlist.equipment import EquipmentButton
from zesty_lever.wording.messages import said
from zesty_lever.wording.records import instead_words
from zesty_lever.wording.sentences import option_lines, setup_title, sparing_words

WAIT_MS = 300
# The list, ceilings in N m by joint, and what of the week none of the list covers.
Listed = tuple[list[Option | RuledOut], dict[str, float], list[str]]
MODES = ("Ranked for the wish", "Substitutes for A", "Cover the week")


class ShortlistScreen(Screen):
    """What is wanted today, and what today allows. ``ranked``: the ranking, before its intervals are there."""

    ranked = Signal(object)

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__(session, theme)
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
        # Of whom the list is, where that changed it.
        self.for_whom = note("")
        self.for_whom.hide()
        right.addWidget(self.for_whom)
        right.addWidget(
            note(
                "90 %: what could be true with things done and read as well as they are; where two places carry the body, the floor may push in more than one way. Loads: common practice, no source. Estimates for choosing, not a diagnosis and no safety limit. Stop at pain; pain goes to a licensed clinician."
            )
        )
        row.addLayout(right, 1)
        self.picture.goal_moved.connect(self.ask)
        self.picture.picked.connect(self._pick)
        self._soon = QTimer(self, singleShot=True, interval=WAIT_MS)
        self._soon.timeout.connect(self.ask)
        self.waiting.answered.connect(self._answer)
        self.ranked.connect(self._show_ranking)
        self.waiting.failed.connect(self._fail)
        self.waiting.stopped.connect(self._stopped)
        session.changed.connect(self._follow)
        self._shown_for: object = None

    def _wishes(self) -> QWidget:
        area, column = scrolled_column(330)
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
            label.setBuddy(slider)
            slider.setValue(STARTING_WISHES.get(key, 0))
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
        self.spare = push_button(
            "",
            "Puts a ceiling on what is sore and turns the wish away from it; both can be changed.",
        )
        self.spare.clicked.connect(self.spare_what_is_sore)
        column.addWidget(self.spare)
        self._sore_joints(column)
        self._ranges(column)
        self._conditions(column)
        self.equipment = EquipmentButton(self.session)
        column.addWidget(self.equipment)

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
        self.lift.setCurrentIndex(self.lift.findData(KNOWN_LIFT))
        self.lift.activated.connect(self._soon_again)
        column.addWidget(self.lift)

    def _conditions(self, column: QVBoxLayout) -> None:
        self.skill = picker("Skill", [f"Up to: {SKILLS[n]}" for n in (1, 2, 3)])
        self.skill.setCurrentIndex(2)
        self.skill.activated.connect(self._soon_again)
        self.direction = picker("Direction", [])
        for words, direction in (("Any direction", ""), *((d, d) for d in DIRECTIONS)):
            self.direction.addItem(words, direction)
        self.direction.activated.connect(self._soon_again)
        self.shape = QCheckBox("The lower back keeps its shape")
        self.shape.setFont(font(13))
        self.shape.setChecked(True)
        self.shape.setToolTip(
            "Nothing goes deeper than this athlete's hips allow without rounding the lower back."
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
        label.setBuddy(box)
        box.setSpecialValueText(none)
        box.setFont(font(13))
        box.setAccessibleName(f"{words}, {unit}")
        box.setToolTip(tip)
        box.valueChanged.connect(self._soon_again)
        row.addWidget(label, 1)
        row.addWidget(box)
        column.addLayout(row)

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
            button = push_button(name, tip)
            button.clicked.connect(lambda _=False, c=call: c())
            row.addWidget(button)
        return row

    def showEvent(self, event: Any) -> None:
        super().showEvent(event)
        self.session.ask_how_they_stand()
        self._follow()

    def spare_what_is_sore(self) -> None:
        """Take over the form that spares this athlete's sore joints."""
        form = self.form().sparing(self.session.bench.athlete)
        for joint, share in form.ceilings.items():
            self.ceilings[joint].setValue(share)
        for key, share in form.want.items():
            self.want[key].setValue(share)

    def offer_instead(self, setup: Setup | None, places: Sequence[str]) -> None:
        """Look for substitutes for a lift as it was done: none that loads a place that hurts as much.

        A place's joint may take 60 % of what the lift asks at its best load, and never what it asked
        as it was done.
        """
        joints = sore_joints_of(places)
        if setup is None:
            self.session.announced.emit(
                "A drill has no substitutes; the wishes stand as they were."
            )
            return
        self.session.do(edits.put_alone, setup)
        try:
            shares = {joint: self._spared_share(joint, setup) for joint in joints}
        except CaseError as why:
            # Nothing stands in for what can't be worked out; the wishes stay as they were.
            self.session.announced.emit(f"No substitutes: {why.text}")
            return
        self.lift.setCurrentIndex(self.lift.findData(setup.variation))
        for joint, box in self.ceilings.items():
            box.setValue(shares.get(joint, 0.0))
        self.mode.setCurrentIndex(1)
        self._shown_for = None
        self._follow()
        self.session.announced.emit(instead_words(setup.variation, shares, places))

    def _spared_share(self, joint: str, setup: Setup) -> float:
        """The ceiling of a joint, per cent. Raises `CaseError` where A or the lift can't be worked out."""
        bench, done = self.session.bench, self.session.results[0]
        if done.error is not None:
            raise CaseError(done.error.code, done.error.text)
        known = Ceiling(joint, 1.0, setup.variation)
        best_Nm = ceiling_Nm(bench.athlete, known, self.session.setup.school, self.session.rules)
        asked = 100.0 * done.sizes[joint] / best_Nm if best_Nm > 0 else 100.0
        return float(max(1, min(SORE_CEILING, floor(asked) - 1)))

    def _follow(self) -> None:
        bench = self.session.bench
        words = sparing_words(bench.athlete)
        self.spare.setText(words)
        self.spare.setVisible(bool(words))
        says = [said(one) for one in who_is(bench.athlete, self.session.rules.standing).says]
        self.for_whom.setText(" ".join(says))
        self.for_whom.setVisible(bool(says))
        mark = (
            bench.athlete,
            bench.gym_missing,
            self.session.setup.school,
            bench.working_share,
            tuple(bench.lift_shares.items()),
            self.session.setup if self.mode.currentIndex() == 1 else None,
            self.session.rules.standing,
        )
        if self.isVisible() and mark != self._shown_for:
            self._shown_for = mark
            self.ask()

    def _soon_again(self) -> None:
        self._soon.start()

    def form(self) -> WishForm:
        """What the controls say."""
        return WishForm(
            {key: slider.value() for key, slider in self.want.items()},
            {joint: box.value() for joint, box in self.ceilings.items()},
            str(self.lift.currentData()),
            {key: box.value() for key, box in self.ranges.items()},
            self.skill.currentIndex() + 1,
            str(self.direction.currentData() or ""),
            self.shape.isChecked(),
            self.spotter.isChecked(),
            self.session.bench.gym_missing,
            self.picture.goal,
        )

    def ask(self) -> None:
        """Rank anew, beside the window."""
        form, school, mode = self.form(), self.session.setup.school, self.mode.currentIndex()
        athlete, wish = form.athlete_today(self.session.bench.athlete), form.wish()
        wanted, rules = self.session.results[0], self.session.rules

        def work(tell: Callable[[float], None]) -> Listed:
            limits = {c.joint: ceiling_Nm(athlete, c, school, rules) for c in wish.ceilings}
            if mode == 1:
                return [*substitutes(athlete, wanted, wish, school, tell, rules)], limits, []
            first = None if mode else lambda ranking: self.ranked.emit((ranking, limits, []))
            found = shortlist(athlete, wish, school, tell, rules, ranked_first=first)
            if mode != 2:
                return found, limits, []
            week, missing = cover_week(found)
            return [*map(reason_in_words, week)], limits, missing

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

    def _show_ranking(self, ranking: Listed) -> None:
        """The ranking before its intervals, where it is still asked for."""
        if self.waiting.busy:
            self._answer(ranking)

    def _answer(self, answer: Listed) -> None:
        self.options, self.picture.limits, self.uncovered = answer
        self.picture.options = self.options
        self._fill_list()

    def _fill_list(self) -> None:
        """The list in words; what was chosen stays chosen where it is still there."""
        kept = self.picture.chosen
        self.list.clear()
        for rank, option in enumerate(self.options, start=1):
            item = QListWidgetItem(option_lines(rank, option))
            if isinstance(option, RuledOut):
                item.setForeground(QColor(self.theme.faint))
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
        self.picture.choose(self.options[row].variation if 0 <= row < len(self.options) else "")
        self.picture.update()

    def _pick(self, name: str) -> None:
        self.list.setCurrentRow(next(i for i, o in enumerate(self.options) if o.variation == name))

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
            self.session.announced.emit(
                f"{setup_title(self.session.result.case, 1)} is on the bench."
            )

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

    def themed(self) -> Iterable[Themed]:
        return (self.picture,)

    def set_theme(self, theme: Theme) -> None:
        super().set_theme(theme)
        self.show_units()

    def sheet(self) -> QWidget:
        return self.picture
