"""The athlete: build, reach tests, loads, sore places, school; the figure grows with the numbers."""

from __future__ import annotations

from collections.abc import Iterable
from functools import partial

from PySide6.QtCore import QSignalBlocker, QSize
from PySide6.QtGui import QShowEvent
from PySide6.QtWidgets import (
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QListWidget,
    QPushButton,
    QToolButton,
    QWidget,
)

from zesty_lever.bench import edits
from zesty_lever.cases.model import SORE_PLACES
from zesty_lever.messages import message
from zesty_lever.physics.body import LENGTHS, WALL_DEG_PER_CM, estimated_length_m
from zesty_lever.tables import toml_values
from zesty_lever.ui.athlete.bests import BestsPanel
from zesty_lever.ui.athlete.build_picture import BuildPicture
from zesty_lever.ui.athlete.people import People
from zesty_lever.ui.kit.athlete_rows import ATHLETE_ROWS, athlete_setter
from zesty_lever.ui.kit.controls import (
    NumberRow,
    Quantity,
    described,
    heading,
    note,
    picker,
    push_button,
    scrolled_column,
)
from zesty_lever.ui.kit.screen import Screen, Themed
from zesty_lever.ui.kit.theme import Theme, font
from zesty_lever.ui.session import Session
from zesty_lever.wording.messages import said

LENGTH_NAMES = {
    "thigh": "Thigh",
    "shank": "Shin",
    "hip_to_shoulder": "Trunk",
    "upper_arm": "Upper arm",
    "forearm": "Forearm",
    "foot": "Foot",
    "ankle_height": "Ankle height",
    "shoulder_width": "Shoulder width",
    "head_and_neck": "Head and neck",
    "hip_width": "Hip width",
}
TESTS = (
    (
        "ankle_dorsiflexion",
        "Ankle",
        "shin over foot",
        "How far the shin leans before the heel lifts.",
    ),
    ("hip_flexion", "Hip, knee bent", "knee to chest", "Hip flexion before the lower back rounds."),
    ("straight_leg", "Straight-leg raise", "leg up, lying", "Hip flexion with the knee straight."),
    ("hip_opening", "Hip opening", "thigh out", "How far the thigh opens to the side."),
    ("knee_flexion", "Knee bend", "heel to buttock", "How far the knee bends."),
)


class AthleteScreen(Screen):
    """Everything about the person; every change shows at once on the figure and on the bench."""

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__(session, theme)
        self.picture = BuildPicture(session, theme)
        row = QHBoxLayout(self)
        row.setContentsMargins(14, 10, 12, 10)
        row.setSpacing(12)
        self.who = People(session)
        row.addWidget(self.who, 0)
        row.addWidget(self.picture, 1)
        row.addWidget(self._numbers(), 0)
        session.changed.connect(self.refresh)
        self.refresh()

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self.bests.keeper.refresh()

    def sizeHint(self) -> QSize:
        return QSize(1200, 720)

    # --- right: numbers --------------------------------------------------------------------

    def _numbers(self) -> QWidget:
        area, self._column = scrolled_column(398)
        self._column.setContentsMargins(4, 0, 10, 0)
        self._column.setSpacing(4)
        self._build_rows()
        self._test_rows()
        self.bests = BestsPanel(self.session, self.theme)
        self._column.addWidget(self.bests)
        self._sore_rows()
        self._column.addStretch(1)
        return area

    def _build_rows(self) -> None:
        session = self.session
        self._column.addWidget(heading("Build"))
        self.base = {s.key: NumberRow(s, athlete_setter(session, s)) for s in ATHLETE_ROWS}
        shoe = described(
            "shoe_heel_m",
            "Shoe heel",
            "heeled shoe",
            "m",
            0.0,
            0.06,
            0.005,
            "Heel of the shoe they lift in; new set-ups start with it.",
        )
        self.base["shoe_heel_m"] = NumberRow(
            shoe, lambda v: session.do(edits.change_athlete, "Set shoe", shoe_heel_m=round(v, 4))
        )
        for row in self.base.values():
            self._column.addWidget(row)
        self._who_rows()
        sexes = QHBoxLayout()
        self.sexes = {}
        for sex in ("female", "male"):
            button = QPushButton(f"{sex.capitalize()} tables")
            button.setCheckable(True)
            button.setAutoExclusive(True)
            button.setFont(font(12))
            button.setToolTip("Selects the table of segment masses (de Leva 1996).")
            button.clicked.connect(
                lambda _=False, s=sex: session.do(edits.change_athlete, "Set sex", sex=s)
            )
            sexes.addWidget(button)
            self.sexes[sex] = button
        self._column.addLayout(sexes)
        self._build_lengths()

    def _who_rows(self) -> None:
        """Age and training: they change loads and lists, nothing of the mechanics; never on a handout."""
        grid = QGridLayout()
        self.age = QLineEdit(maxLength=10, placeholderText="2001-05-31 or 25")
        self.years = QLineEdit(maxLength=5, placeholderText="not told")
        fields = (
            (
                self.age,
                "Born or age",
                "Day of birth as 2001-05-31, or age in years; empty: not known.",
            ),
            (
                self.years,
                "Years trained",
                "Years of regular lifting under guidance; empty: not known.",
            ),
        )
        for line, (field, name, tip) in enumerate(fields):
            label = QLabel(name)
            label.setFont(font(13))
            label.setFixedWidth(104)
            label.setBuddy(field)
            field.setFont(font(13))
            field.setAccessibleName(name)
            for widget in (label, field):
                widget.setToolTip(f"{tip} First loads and lists go by it; it is printed nowhere.")
            grid.addWidget(label, line, 0)
            grid.addWidget(field, line, 1)
        self.age.editingFinished.connect(self._take_age)
        self.years.editingFinished.connect(self._take_years)
        self._column.addLayout(grid)
        self.asks_age = note("")
        self._column.addWidget(self.asks_age)

    def _take_age(self) -> None:
        text = self.age.text().strip().replace(",", ".")
        number = text.replace(".", "", 1).isdigit()
        born = None if number or not text else text
        age = float(text) if number else None
        athlete = self.session.bench.athlete
        if (athlete.born, athlete.age_years) != (born, age):
            self.session.do(edits.change_athlete, "Set age", born=born, age_years=age)
            self.refresh()

    def _take_years(self) -> None:
        text = self.years.text().strip().replace(",", ".")
        years = float(text) if text.replace(".", "", 1).isdigit() else None
        if self.session.bench.athlete.training_years != years:
            self.session.do(edits.change_athlete, "Set training years", training_years=years)
        self.refresh()

    def _build_lengths(self) -> None:
        self._column.addWidget(note("Lengths are estimated from height until you measure them."))
        guide = toml_values("tape")
        self.lengths: dict[str, tuple[NumberRow, QToolButton]] = {}
        for name in LENGTHS:
            if name not in LENGTH_NAMES:
                continue
            setting = described(
                name, LENGTH_NAMES[name], "tape", "m", 0.02, 1.2, 0.005, guide[name]
            )
            row = NumberRow(setting, partial(self._measure, name))
            row.noticed.connect(
                lambda key, words=f"{LENGTH_NAMES[name]}: {guide[name]}": self.picture.guide(
                    key, words
                )
            )
            source = QToolButton()
            source.setText("estimated")
            source.setCheckable(True)
            source.setFont(font(11))
            source.setFixedWidth(84)
            source.setAccessibleName(f"{LENGTH_NAMES[name]}: measured or estimated")
            source.setToolTip(f"{guide[name]} Press to measure or to go back to the estimate.")
            source.clicked.connect(lambda on, n=name: self._source(n, on=on))
            layout = row.layout()
            assert layout is not None
            layout.addWidget(source)
            self._column.addWidget(row)
            self.lengths[name] = (row, source)

    def _measure(self, name: str, value: float) -> None:
        lengths = {**self.session.bench.athlete.lengths_m, name: round(value, 4)}
        self.session.do(
            edits.change_athlete, f"Measure {LENGTH_NAMES[name].lower()}", lengths_m=lengths
        )

    def _source(self, name: str, *, on: bool) -> None:
        athlete = self.session.bench.athlete
        if on:
            self._measure(name, float(estimated_length_m(name, athlete.height_m)))
        else:
            lengths = {k: v for k, v in athlete.lengths_m.items() if k != name}
            self.session.do(
                edits.change_athlete, f"Estimate {LENGTH_NAMES[name].lower()}", lengths_m=lengths
            )

    def _test_rows(self) -> None:
        self._column.addWidget(heading("Reach tests"))
        wall = QHBoxLayout()
        label = QLabel("Knee to wall")
        label.setFont(font(13))
        label.setFixedWidth(104)
        self.wall = Quantity("m", 0.0, 0.20, 0.005)
        label.setBuddy(self.wall)
        self.wall.setAccessibleName("Knee to wall")
        tip = (
            "Toes from the wall, knee still touches it and the heel stays down: about 3.6° of "
            "dorsiflexion a centimetre (Bennell et al. 1998)."
        )
        for widget in (label, self.wall):
            widget.setToolTip(tip)
        self.wall.valueChanged.connect(
            lambda shown: self._limit(
                "ankle_dorsiflexion", 100.0 * WALL_DEG_PER_CM * shown / self.wall.factor
            )
        )
        wall.addWidget(label)
        wall.addWidget(self.wall, 1)
        self._column.addLayout(wall)
        self.tests: dict[str, NumberRow] = {}
        for key, name, gym, words in TESTS:
            row = NumberRow(
                described(key, name, gym, "deg", 0.0, 180.0, 1.0, words),
                partial(self._limit, key),
            )
            row.noticed.connect(lambda _, tip=f"{name}: {words}": self.picture.guide("", tip))
            self._column.addWidget(row)
            self.tests[key] = row
        self._column.addWidget(note("Sides apart, where they differ (0: as above):"))
        self.sided: dict[str, NumberRow] = {}
        for side in ("left", "right"):
            key = f"ankle_dorsiflexion_{side}"
            setting = described(
                key,
                f"Ankle, {side}",
                "one side",
                "deg",
                0.0,
                180.0,
                1.0,
                "The stiffer side decides in level stances.",
            )
            self.sided[key] = NumberRow(setting, partial(self._limit, key))
            self._column.addWidget(self.sided[key])

    def _limit(self, key: str, value: float) -> None:
        limits = {**self.session.bench.athlete.limits_deg, key: round(value, 1)}
        if key in self.sided and value == 0.0:
            del limits[key]
        self.session.do(edits.change_athlete, f"Set {key.replace('_', ' ')}", limits_deg=limits)

    def _sore_rows(self) -> None:
        self._column.addWidget(heading("Sore places"))
        row = QHBoxLayout()
        self.place = picker("Sore place", list(SORE_PLACES))
        self.side = picker("Side", ["both", "left", "right"])
        self.note = QLineEdit(placeholderText="note", maxLength=200)
        self.note.setFont(font(12))
        self.note.setAccessibleName("Note on the sore place")
        self.note.setToolTip("What it feels like, when, since when.")
        add = push_button("Add", "Add the sore place. Pain goes to a licensed clinician.")
        add.clicked.connect(self._add_sore)
        for widget in (self.place, self.side, self.note, add):
            row.addWidget(widget)
        self._column.addLayout(row)
        self.sores = QListWidget()
        self.sores.setFont(font(12))
        self.sores.setMaximumHeight(84)
        self.sores.setAccessibleName("Sore places")
        self.sores.setToolTip("Press Enter or double-click to take one off.")
        self.sores.itemActivated.connect(lambda _: self._drop_sore(self.sores.currentRow()))
        self._column.addWidget(self.sores)

    def _add_sore(self) -> None:
        sore = {
            "place": self.place.currentText(),
            "side": self.side.currentText(),
            "note": self.note.text().strip(),
        }
        known = [s.as_dict() for s in self.session.bench.athlete.sore]
        self.note.clear()
        self.session.do(edits.change_athlete, "Add sore place", sore=[*known, sore])

    def _drop_sore(self, index: int) -> None:
        known = [s.as_dict() for i, s in enumerate(self.session.bench.athlete.sore) if i != index]
        self.session.do(edits.change_athlete, "Remove sore place", sore=known)

    # --- showing ---------------------------------------------------------------------------

    def refresh(self) -> None:
        """Show what the session holds."""
        athlete = self.session.bench.athlete
        for key, row in self.base.items():
            row.show_value(getattr(athlete, key))
        age = "" if athlete.age_years is None else f"{athlete.age_years:g}"
        years = athlete.training_years
        self.age.setText(athlete.born or age)
        self.years.setText("" if years is None else f"{years:g}")
        unknown = athlete.born is None and athlete.age_years is None
        self.asks_age.setText(said(message("who.age")) if unknown else "")
        self.asks_age.setVisible(unknown)
        for sex, button in self.sexes.items():
            button.setChecked(athlete.sex == sex)
        for name, (row, source) in self.lengths.items():
            low, high = athlete.length_range_m(name)
            with QSignalBlocker(row.spin):
                row.spin.set_bounds(low, high)
            measured = athlete.lengths_m.get(name)
            row.show_value(
                float(estimated_length_m(name, athlete.height_m)) if measured is None else measured
            )
            source.setChecked(measured is not None)
            source.setText("estimated" if measured is None else "measured")
        with QSignalBlocker(self.wall):
            reached_m = athlete.limit_deg("ankle_dorsiflexion") / WALL_DEG_PER_CM / 100.0
            self.wall.setValue(reached_m * self.wall.factor)
        for key, row in self.tests.items():
            row.show_value(athlete.limit_deg(key))
        for key, row in self.sided.items():
            row.show_value(athlete.limits_deg.get(key, 0.0))
        self.bests.refresh()
        self.sores.clear()
        for sore in athlete.sore:
            self.sores.addItem(
                f"{sore.place}, {sore.side}" + (f": {sore.note}" if sore.note else "")
            )

    def show_units(self) -> None:
        """Take over the units in use."""
        rows = [*self.base.values(), *(r for r, _ in self.lengths.values())]
        for row in rows:
            row.show_units()
        self.wall.show_units()
        self.refresh()
        self.bests.show_units()

    def themed(self) -> Iterable[Themed]:
        return (self.picture, self.bests.bars)

    def sheet(self) -> QWidget:
        return self.picture
