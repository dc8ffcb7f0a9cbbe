"""The left-hand column: the athlete's build and the levers of the set-up being edited."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial

from PySide6.QtCore import QSignalBlocker, Qt, QTimer
from PySide6.QtGui import QKeySequence, QShortcut
from PySide6.QtWidgets import (
    QComboBox,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QLayout,
    QPushButton,
    QScrollArea,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from zesty_lever.bench import edits
from zesty_lever.bench.model import SLOT_NAMES
from zesty_lever.cases.model import SCHOOLS
from zesty_lever.coaching.schools import schools
from zesty_lever.exercises.catalogue import Setting, catalogue, variation
from zesty_lever.physics.body import estimated_length_m
from zesty_lever.ui.bench.load_editor import LoadEditor
from zesty_lever.ui.kit.athlete_rows import ATHLETE_ROWS, athlete_setter
from zesty_lever.ui.kit.controls import LABEL_WIDTH, NumberRow, described, in_tab_order, push_button
from zesty_lever.ui.kit.theme import font
from zesty_lever.ui.session import Session

# After the window has come to rest, one row now and then.
ROWS_AFTER_MS, ROW_EVERY_MS = 1200, 40


def _settings_of_all() -> Iterator[tuple[Setting, bool]]:
    """Every setting of every variation, and whether balance can solve it there."""
    for chosen in catalogue().values():
        for key, setting in chosen.settings.items():
            yield setting, key in chosen.solvable


class SetupPanel(QScrollArea):
    """All that can be typed: the same levers that the figure's handles drag."""

    def __init__(self, session: Session) -> None:
        super().__init__(widgetResizable=True)
        self.session = session
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setFixedWidth(308)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOn)
        body = QWidget()
        body.setObjectName("setupBody")
        self.setWidget(body)
        self._layout = QVBoxLayout(body)
        self._layout.setContentsMargins(14, 10, 10, 10)
        self._layout.setSpacing(5)
        self._layout.setSizeConstraint(QLayout.SizeConstraint.SetMinimumSize)
        self._build_athlete()
        self._build_setup()
        self.rows: dict[str, NumberRow] = {}
        self._rows_for = ""
        # Every row made so far, by its setting and whether balance can solve it: they are used again.
        self._made: dict[tuple[Setting, bool], NumberRow] = {}
        self._rows_box = QVBoxLayout()
        self._rows_box.setSpacing(5)
        self._layout.addLayout(self._rows_box)
        self.reset = push_button(
            "Back to the default technique",
            "Forget this set-up's own values; stance, angles and load return to "
            "the school's defaults.",
        )
        self.reset.clicked.connect(
            lambda: session.do(
                edits.change_setup,
                "Default technique",
                settings={},
                load_kg=None,
                load_up_kg=None,
                loads=(),
            )
        )
        self._layout.addWidget(self.reset)
        self._layout.addStretch(1)
        # Rows that other variations want are made one by one while nobody waits for them.
        self._to_come = _settings_of_all()
        self._ahead = QTimer(self, interval=ROW_EVERY_MS)
        self._ahead.timeout.connect(self._make_ahead)
        QTimer.singleShot(ROWS_AFTER_MS, self, self._ahead.start)
        session.changed.connect(self.refresh)
        self.refresh()

    def _make_ahead(self) -> None:
        """Make one more row, dressed and put away."""
        if self.session.dragging or not self.isVisible():
            return
        found = next((pair for pair in self._to_come if pair not in self._made), None)
        if found is None:
            self._ahead.stop()
            return
        row = self._row(found[0], solvable=found[1])
        row.setParent(self.widget())
        for widget in (row, *row.findChildren(QWidget)):
            widget.ensurePolished()

    def _heading(self, text: str) -> QLabel:
        label = QLabel(text)
        label.setFont(font(15, bold=True))
        self._layout.addWidget(label)
        return label

    def _build_athlete(self) -> None:
        session = self.session
        self._heading("Athlete")
        picks = QHBoxLayout()
        self.athletes = QComboBox()
        self.athletes.setMinimumWidth(80)
        self.athletes.setFont(font(13))
        self.athletes.setAccessibleName("Athlete on the bench")
        self.athletes.setToolTip(
            "Who stands on the bench. Names are changed on the Athlete screen."
        )
        self.athletes.activated.connect(lambda i: session.do(edits.switch_athlete, i))
        self.new = push_button("New", "Add an athlete (Ctrl+N).")
        self.new.setShortcut("Ctrl+N")
        self.new.clicked.connect(lambda: session.do(edits.add_athlete))
        picks.addWidget(self.athletes, 1)
        picks.addWidget(self.new)
        self._layout.addLayout(picks)
        self.height_row, self.mass_row = (
            NumberRow(s, athlete_setter(session, s)) for s in ATHLETE_ROWS
        )
        self._layout.addWidget(self.height_row)
        self._layout.addWidget(self.mass_row)
        self._build_sex()
        self._build_thigh()
        self._layout.addSpacing(6)

    def _build_thigh(self) -> None:
        thigh = described(
            "thigh",
            "Thigh length",
            "hip to knee",
            "m",
            0.15,
            0.8,
            0.005,
            "Hip joint to knee joint. Estimated from height until measured.",
        )
        self.thigh_row = NumberRow(thigh, self._measure_thigh)
        self.thigh_source = QToolButton()
        self.thigh_source.setText("estimated")
        self.thigh_source.setCheckable(True)
        self.thigh_source.setFont(font(11))
        self.thigh_source.setToolTip("Press to go back to the estimate from height.")
        self.thigh_source.clicked.connect(self._estimate_thigh)
        layout = self.thigh_row.layout()
        assert layout is not None
        layout.addWidget(self.thigh_source)
        self._layout.addWidget(self.thigh_row)

    def _build_sex(self) -> None:
        grid = QGridLayout()
        label = QLabel("Sex")
        label.setFont(font(13))
        label.setFixedWidth(LABEL_WIDTH)
        label.setToolTip("Selects the table of segment masses (de Leva 1996).")
        grid.addWidget(label, 0, 0)
        self.sexes = {}
        for column, sex in enumerate(("female", "male"), start=1):
            button = QPushButton(sex.capitalize())
            button.setCheckable(True)
            button.setAutoExclusive(True)
            button.setFont(font(12))
            button.setToolTip("Selects the table of segment masses (de Leva 1996).")
            button.clicked.connect(
                lambda _=False, s=sex: self.session.do(edits.change_athlete, "Set sex", sex=s)
            )
            grid.addWidget(button, 0, column)
            self.sexes[sex] = button
        self._layout.addLayout(grid)

    def _build_setup(self) -> None:
        session = self.session
        self.setup_heading = self._heading("")
        self.variations = self._pick_variation()
        self.schools = QComboBox()
        self.schools.setFont(font(13))
        self.schools.addItems([f"School: {schools().name(s).lower()}" for s in SCHOOLS])
        self.schools.setAccessibleName("School")
        self.schools.setToolTip(schools().help)
        self.schools.activated.connect(
            lambda i: session.do(edits.change_setup, "Change school", school=SCHOOLS[i])
        )
        load = described(
            "load_kg",
            "Load",
            "on the bar, both dumbbells",
            "kg",
            0,
            500,
            2.5,
            "Bar with discs, the bell, or both dumbbells together.",
        )
        self.load_row = NumberRow(
            load, lambda v: session.do(edits.change_setup, "Set load", load_kg=v)
        )
        self.finder = push_button("Find", "Search the whole catalogue (Ctrl+F).")
        QShortcut(QKeySequence("Ctrl+F"), self).activated.connect(self.finder.click)
        picks = QHBoxLayout()
        picks.addWidget(self.variations, 1)
        picks.addWidget(self.finder)
        self._layout.addLayout(picks)
        self.loads = LoadEditor(session)
        for widget in (self.schools, self.load_row, self.loads):
            self._layout.addWidget(widget)

    def _pick_variation(self) -> QComboBox:
        """The catalogue by family."""
        box = QComboBox()
        box.setFont(font(13))
        box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        box.setMinimumContentsLength(12)
        box.setAccessibleName("Variation: what is carried and where")
        box.setToolTip("The variation: what is carried and where.")
        family = ""
        for entry in catalogue().values():
            if family not in {"", entry.family}:
                box.insertSeparator(box.count())
            family = entry.family
            box.addItem(entry.name, entry.id)
            box.setItemData(
                box.count() - 1,
                f"{entry.gym}; limited by {entry.limited_by}",
                Qt.ItemDataRole.ToolTipRole,
            )
        box.setMaxVisibleItems(24)
        box.activated.connect(lambda i: self.session.do(edits.set_variation, box.itemData(i)))
        return box

    def _measure_thigh(self, value: float) -> None:
        lengths = {**self.session.bench.athlete.lengths_m, "thigh": round(value, 4)}
        self.session.do(edits.change_athlete, "Set thigh length", lengths_m=lengths)

    def _estimate_thigh(self) -> None:
        lengths = {k: v for k, v in self.session.bench.athlete.lengths_m.items() if k != "thigh"}
        self.session.do(edits.change_athlete, "Estimate thigh length", lengths_m=lengths)
        self.refresh()

    def _set(self, key: str, value: float) -> None:
        self.session.do(edits.set_setting, key, round(value, 5))

    def _solve(self, key: str, _checked: bool = False) -> None:  # noqa: FBT001, FBT002
        self.session.do(edits.solve_for, key)
        self.refresh()

    def refresh(self) -> None:
        """Show what the session holds."""
        self._show_athlete()
        session, setup = self.session, self.session.setup
        chosen = variation(setup.variation)
        self.setup_heading.setText(f"Set-up {SLOT_NAMES[session.editing]}")
        with QSignalBlocker(self.variations):
            self.variations.setCurrentIndex(self.variations.findData(setup.variation))
        with QSignalBlocker(self.schools):
            self.schools.setCurrentIndex(SCHOOLS.index(setup.school))
        low, high = chosen.load_range_kg()
        if (self.load_row.spin.minimum(), self.load_row.spin.maximum()) != (
            low * self.load_row.spin.factor,
            high * self.load_row.spin.factor,
        ):
            with QSignalBlocker(self.load_row.spin):
                self.load_row.spin.set_bounds(low, high)
        self.load_row.setEnabled(high > low)
        self.load_row.show_value(session.result.case.load_kg or 0.0)
        self._make_rows(setup.variation)
        case = session.result.case
        bottom = session.result.solved.bottom_deg if session.result.feasible else {}
        for key, row in self.rows.items():
            value = case.settings[key]
            solved = value is None
            row.show_value(bottom.get(key) if solved else value, solved=solved)

    def show_units(self) -> None:
        """Take over the units in use."""
        for row in (
            self.height_row,
            self.mass_row,
            self.thigh_row,
            self.load_row,
            *self._made.values(),
        ):
            row.show_units()
        self.loads.show_units()
        self.refresh()

    def _show_athlete(self) -> None:
        bench = self.session.bench
        names = [a.name or "Athlete" for a in bench.athletes]
        with QSignalBlocker(self.athletes):
            if names != [self.athletes.itemText(i) for i in range(self.athletes.count())]:
                self.athletes.clear()
                self.athletes.addItems(names)
            self.athletes.setCurrentIndex(bench.current)
        athlete = bench.athlete
        self.height_row.show_value(athlete.height_m)
        self.mass_row.show_value(athlete.mass_kg)
        for sex, button in self.sexes.items():
            button.setChecked(athlete.sex == sex)
        measured = "thigh" in athlete.lengths_m
        estimate = float(estimated_length_m("thigh", athlete.height_m))
        self.thigh_row.show_value(athlete.lengths_m.get("thigh", estimate))
        self.thigh_source.setText("measured" if measured else "estimated")
        self.thigh_source.setChecked(measured)

    def _make_rows(self, name: str) -> None:
        """Rows for the settings of a variation; those that it has in common with the last one stay."""
        if self._rows_for == name:
            return
        # First, so that what hiding a field sets off finds the new rows.
        self._rows_for, before = name, list(self.rows.values())
        chosen = variation(name)
        self.rows = {
            key: self._row(setting, solvable=key in chosen.solvable)
            for key, setting in chosen.settings.items()
        }
        now = list(self.rows.values())
        if now == before:
            return
        # Every row that comes or goes would lay the whole column out: once for all of them is enough.
        self._layout.setEnabled(False)
        for row in before:
            if self.rows.get(row.setting.key) is not row:
                self._rows_box.removeWidget(row)
                row.put_away()
        for place, row in enumerate(now):
            if self._rows_box.indexOf(row) != place:
                self._rows_box.removeWidget(row)
                self._rows_box.insertWidget(place, row)
            if row.isHidden():
                row.show()
        self._layout.setEnabled(True)
        self._layout.activate()
        in_tab_order(
            self.loads.up_row.spin,
            *(field for row in self.rows.values() for field in row.fields),
            self.reset,
        )

    def _row(self, setting: Setting, *, solvable: bool) -> NumberRow:
        """The row of a setting, made when it is first needed."""
        made = self._made.get((setting, solvable))
        if made is None:
            key = setting.key
            solve = partial(self._solve, key) if solvable else None
            made = NumberRow(setting, partial(self._set, key), solve)
            self._made[setting, solvable] = made
        return made
