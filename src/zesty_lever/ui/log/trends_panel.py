"""Trends: which one, of which lift; as a plot, as a table, as a sentence."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QAbstractItemView,
    QComboBox,
    QHBoxLayout,
    QHeaderView,
    QStackedWidget,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from zesty_lever.joints import COACH_JOINTS
from zesty_lever.log.trends import LIFT_TRENDS, Trend, lift_days, lifts_of, pains, weekly
from zesty_lever.records.views import LogView
from zesty_lever.ui.kit.controls import Wrapped, picker, push_button
from zesty_lever.ui.kit.theme import Theme, font
from zesty_lever.ui.log.trend_plot import TrendPlot
from zesty_lever.wording.records import day_short, exercise_words

OF_LIFTS = {
    "Best set": "best set",
    "Load": "load",
    "Longest hold": "hold",
    "Sides": "sides",
}
WEEKLY = ("Impulse by week", "Hard repetitions by week", "Kilograms by week")
PAIN = "Pain"


class TrendsPanel(QWidget):
    """Shows one trend at a time of an athlete's log."""

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self.view: LogView | None = None
        self.trend: Trend | None = None
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        row = QHBoxLayout()
        self.which = picker("Which trend", [*OF_LIFTS, *WEEKLY, PAIN])
        self.which.activated.connect(lambda _at: self._fill_subjects())
        self.subject = picker("Of what", [])
        self.subject.activated.connect(lambda _at: self._show())
        self.as_table = push_button(
            "As a table", "The same numbers as a table, or back to the plot."
        )
        self.as_table.setCheckable(True)
        self.as_table.clicked.connect(self._turn)
        for box in (self.which, self.subject):
            box.setSizeAdjustPolicy(
                QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon
            )
            box.setMinimumContentsLength(6)
        row.addWidget(self.which, 1)
        row.addWidget(self.subject, 1)
        row.addWidget(self.as_table)
        column.addLayout(row)
        self.plot = TrendPlot(theme)
        self.table = QTableWidget(0, 2)
        self.table.setObjectName("roomy")
        self.table.setFont(font(12))
        self.table.setAccessibleName("Trend as a table")
        self.table.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.table.setTabKeyNavigation(False)
        self.table.verticalHeader().hide()
        self.table.horizontalHeader().setSectionResizeMode(QHeaderView.ResizeMode.Stretch)
        self.stack = QStackedWidget()
        self.stack.addWidget(self.plot)
        self.stack.addWidget(self.table)
        column.addWidget(self.stack, 1)
        self.told = Wrapped(wordWrap=True)
        self.told.setTextFormat(Qt.TextFormat.PlainText)
        self.told.setFont(font(12))
        self.told.setObjectName("faint")
        column.addWidget(self.told)

    def _turn(self, on: bool) -> None:  # noqa: FBT001 (Qt's own signal)
        self.stack.setCurrentIndex(int(on))

    def show_view(self, view: LogView | None) -> None:
        """Show an athlete's trends; the one that was chosen stays."""
        self.view = view
        self._fill_subjects()

    def _subjects(self) -> list[tuple[str, str]]:
        """What a trend can be of: words and key."""
        if self.view is None:
            return []
        which = self.which.currentText()
        if which in OF_LIFTS:
            return [(exercise_words(name), name) for name in lifts_of(self.view.entries)]
        if which == PAIN:
            places = dict.fromkeys(pain.place for _, pain in self.view.pains)
            return [(place, place) for place in places]
        if which == WEEKLY[2]:
            return [("all lifts", "kg")]
        return [(group.word, group.key) for group in COACH_JOINTS]

    def _fill_subjects(self) -> None:
        before = self.subject.currentData()
        self.subject.clear()
        for words, key in self._subjects():
            self.subject.addItem(words, key)
        self.subject.setCurrentIndex(max(self.subject.findData(before), 0))
        self._show()

    def _trend(self) -> Trend | None:
        view, key, which = self.view, self.subject.currentData(), self.which.currentText()
        if view is None or key is None:
            return None
        if which in OF_LIFTS:
            return LIFT_TRENDS[OF_LIFTS[which]](lift_days(view.entries, key))
        if which == PAIN:
            return pains(view.pains, key)
        totals = {week: view.week_total(week) for week in view.weeks}
        if which == WEEKLY[0]:
            return weekly(
                f"Impulse, {self.subject.currentText()}",
                "N·m·s",
                {w: e.of(key) for w, e in totals.items()},
            )
        if which == WEEKLY[1]:
            return weekly(
                f"Hard repetitions, {self.subject.currentText()}",
                "reps",
                {w: e.hard_of(key)[0] for w, e in totals.items()},
            )
        return weekly("Kilograms moved", "kg", {w: e.kg for w, e in totals.items()})

    def _show(self) -> None:
        self.trend = self._trend()
        self.plot.show_trend(self.trend)
        self.told.setText("" if self.trend is None else self.trend.spoken)
        points = () if self.trend is None else self.trend.points
        unit = "" if self.trend is None else self.trend.unit
        self.table.setRowCount(len(points))
        self.table.setHorizontalHeaderLabels(["Day", unit])
        for line, point in enumerate(reversed(points)):
            value = f"{point.value:.3g}"
            if point.high - point.low > 1e-9:
                value += f" ({point.low:.3g} to {point.high:.3g})"
            self.table.setItem(line, 0, QTableWidgetItem(day_short(point.day)))
            self.table.setItem(line, 1, QTableWidgetItem(value))
