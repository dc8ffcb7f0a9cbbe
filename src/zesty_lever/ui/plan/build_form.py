"""What a week is built for: which days, how long, what for, how many weeks."""

from __future__ import annotations

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QGridLayout,
    QLabel,
    QSpinBox,
    QVBoxLayout,
    QWidget,
)

from zesty_lever.cases.model import Stage
from zesty_lever.choosing.wishes import WISHES
from zesty_lever.exercises.search import kinds_of_equipment
from zesty_lever.joints import COACH_JOINTS
from zesty_lever.models import read
from zesty_lever.plan.document import WEEKDAYS, Session
from zesty_lever.plan.wish import Day, DayCeiling, Locked, WeekWish
from zesty_lever.problems import CaseError
from zesty_lever.ui.kit.controls import heading, note, picker, push_button
from zesty_lever.ui.kit.popover import Popover
from zesty_lever.ui.kit.theme import font
from zesty_lever.ui.session import Session as Bench
from zesty_lever.wording.records import day_short

WEIGHTS = {"as it comes": 0.0, "some": 1.0, "much": 2.0, "less": -1.0}
# How many Mondays ahead may be begun on.
WEEKS_AHEAD = 8
WIDE, FIRST_DAYS = 560, (0, 2, 4)


class BuildForm(Popover):
    """Lies over the plan; ``wished`` (WeekWish): build it."""

    wished = Signal(object)
    refused = Signal(str)

    def __init__(self, over: QWidget, bench: Bench) -> None:
        super().__init__(over, "floating")
        self.bench = bench
        self.stage: Stage = "usual"
        self.locked: tuple[Locked, ...] = ()
        self.setAccessibleName("Build a week")
        column = QVBoxLayout(self)
        column.addWidget(heading("Build a week"))
        column.addWidget(
            note(
                "From the shortlist for this athlete: hard rules kept, needs met as far as they go. Locked items stay."
            )
        )
        self.days: list[QCheckBox] = []
        self.minutes: list[QSpinBox] = []
        column.addWidget(self._days())
        self.weights: dict[str, QComboBox] = {}
        self.limits: dict[str, QSpinBox] = {}
        column.addWidget(self._wishes())
        self.weeks = QSpinBox(minimum=1, maximum=12, value=4, suffix=" weeks")
        self.weeks.setFont(font(12))
        self.weeks.setAccessibleName("How many weeks")
        # The Mondays that a plan may begin in; this week begins today.
        self.begins: list[int] = []
        self.begin = picker("Begin", ["this week, from today"])
        self.begin.setToolTip(
            "The week that it begins in; nothing is planned for a day that is past."
        )
        self.deload = QCheckBox("the last week lighter")
        self.deload.setFont(font(12))
        self.deload.setChecked(True)
        column.addWidget(self.weeks)
        column.addWidget(self.begin)
        column.addWidget(self.deload)
        self.build = push_button("Build it", "Works out the shortlist, then the week.", pixels=13)
        self.build.clicked.connect(self._build)
        close = push_button("Not now (Esc)", "Close without building.")
        close.clicked.connect(self.hide)
        column.addWidget(self.build)
        column.addWidget(close)
        self.hide()

    def _days(self) -> QWidget:
        box = QWidget()
        grid = QGridLayout(box)
        grid.setContentsMargins(0, 0, 0, 0)
        for day, name in enumerate(WEEKDAYS):
            check = QCheckBox(name[:3])
            check.setFont(font(12))
            check.setAccessibleName(f"Train on {name}")
            check.setChecked(day in FIRST_DAYS)
            minutes = QSpinBox(minimum=20, maximum=240, singleStep=5, value=60, suffix=" min")
            minutes.setFont(font(12))
            minutes.setAccessibleName(f"Minutes on {name}")
            grid.addWidget(check, 0, day)
            grid.addWidget(minutes, 1, day)
            self.days.append(check)
            self.minutes.append(minutes)
        return box

    def _wishes(self) -> QWidget:
        box = QWidget()
        grid = QGridLayout(box)
        grid.setContentsMargins(0, 0, 0, 0)
        for at, (key, words) in enumerate(WISHES.items()):
            label = QLabel(words)
            label.setFont(font(12))
            weight = picker(f"How much: {words}", list(WEIGHTS))
            label.setBuddy(weight)
            grid.addWidget(label, at // 2, 2 * (at % 2))
            grid.addWidget(weight, at // 2, 2 * (at % 2) + 1)
            self.weights[key] = weight
        line = (len(WISHES) + 1) // 2
        for at, group in enumerate(COACH_JOINTS):
            label = QLabel(f"{group.word} at most")
            label.setFont(font(12))
            limit = QSpinBox(minimum=0, maximum=150, singleStep=5, suffix=" %")
            limit.setSpecialValueText("no limit")
            limit.setFont(font(12))
            limit.setAccessibleName(f"{group.word} at most, share of the best high-bar squat")
            limit.setToolTip(
                "Share of what the high-bar back squat asks at its best load; 0: no limit."
            )
            label.setBuddy(limit)
            grid.addWidget(label, line + at // 2, 2 * (at % 2))
            grid.addWidget(limit, line + at // 2, 2 * (at % 2) + 1)
            self.limits[group.key] = limit
        return box

    @property
    def first_day(self) -> int | None:
        """The day that the plan begins on; None before the form was opened."""
        return self.begins[self.begin.currentIndex()] if self.begins else None

    def _offer_days(self, today: int) -> None:
        """The week at hand from today, then the next Mondays."""
        monday = today - (today - 1) % 7
        later = [monday + 7 * number for number in range(1, WEEKS_AHEAD + 1)]
        self.begins = [today, *later]
        self.begin.clear()
        self.begin.addItem("this week, from today")
        self.begin.addItems([f"from {day_short(day)}" for day in later])

    def open(self, stage: Stage, kept: list[Session], today: int) -> None:
        """Show the form; locked items of the week on the desk stay."""
        self.stage = stage
        self._offer_days(today)
        self.locked = tuple(
            Locked(weekday=s.weekday, item=item)
            for s in kept
            for _, item in s.listed()
            if item.locked
        )
        for lock in self.locked:
            self.days[lock.weekday].setChecked(True)
        self.settle()
        self.show()
        self.raise_()
        self.days[0].setFocus()

    def wish(self) -> WeekWish:
        """What is wished. Raises `CaseError` where no day is ticked or a lock contradicts."""
        days = tuple(
            Day(weekday=day, minutes=self.minutes[day].value())
            for day, check in enumerate(self.days)
            if check.isChecked()
        )
        if not days:
            raise CaseError("wrong-value", "tick at least one day", key="days")
        bench = self.bench.bench
        want = {
            k: WEIGHTS[box.currentText()] for k, box in self.weights.items() if box.currentIndex()
        }
        ceilings = tuple(
            read(DayCeiling, {"joint": key, "share": box.value() / 100.0})
            for key, box in self.limits.items()
            if box.value() >= 5
        )
        missing = set(bench.gym_missing)
        equipment = (
            None
            if not missing
            else tuple(kind for kind in kinds_of_equipment() if kind not in missing)
        )
        return WeekWish(
            athlete=bench.athlete.changed(measurements=()),
            days=days,
            stage=self.stage,
            school=bench.athlete.school,
            want=want,
            ceilings=ceilings,
            equipment=equipment,
            locked=self.locked,
            weeks=self.weeks.value(),
            deload_last=self.deload.isChecked(),
        )

    def _build(self) -> None:
        try:
            wish = self.wish()
        except CaseError as error:
            self.refused.emit(error.text)
            return
        self.hide()
        self.wished.emit(wish)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape:
            self.hide()
            return
        super().keyPressEvent(event)

    def settle(self) -> None:
        """Take a place in the middle of the plan."""
        over = self.over
        layout = self.layout()
        wide = min(WIDE, over.width() - 20)
        tall = (
            layout.totalHeightForWidth(wide)
            if layout is not None and layout.hasHeightForWidth()
            else self.sizeHint().height()
        )
        self.setFixedSize(wide, min(max(tall, self.sizeHint().height()), over.height() - 10))
        self.move((over.width() - wide) // 2, 10)
