"""Bar and discs picked from what the gym has; what it has is said here too."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QSignalBlocker, Qt
from PySide6.QtWidgets import QCheckBox, QComboBox, QGridLayout, QLineEdit, QSpinBox, QWidget

from zesty_lever.bench import edits
from zesty_lever.coaching.gym import MOST_PAIRS, Bells, Gym, bars, disc_sizes_m
from zesty_lever.models import read
from zesty_lever.problems import CaseError
from zesty_lever.ui.kit.form_button import FormButton
from zesty_lever.ui.kit.theme import font
from zesty_lever.ui.session import Session
from zesty_lever.wording.units import UNITS

BELLS = {"Dumbbells": "dumbbells_kg", "Kettlebells": "kettlebells_kg"}


class DiscsButton(FormButton):
    """The bar, each disc's number a side, and how many pairs of it there are."""

    def __init__(self, session: Session) -> None:
        super().__init__("Discs", "Pick bar and discs from what the gym has.", session)
        self.bar = QComboBox()
        self.side: dict[float, QSpinBox] = {}
        self.pairs: dict[float, QSpinBox] = {}
        self.has: dict[str, QCheckBox] = {}
        self.bells: dict[str, QLineEdit] = {}
        self._made = False
        # Words with masses, and what shows them: turned at every look.
        self._in_metric: list[tuple[Callable[[str], object], str]] = []

    def _make(self) -> None:
        self._made = True
        self.bar.setFont(font(12))
        self.bar.setAccessibleName("Bar in use")
        self.bar.activated.connect(self._take_gym)
        self.form.addRow("Bar", self.bar)
        grid_in = QWidget()
        grid = QGridLayout(grid_in)
        grid.setContentsMargins(0, 0, 0, 0)
        for column, words in enumerate(("", "a side", "pairs in the gym")):
            grid.addWidget(self.words(words), 0, column)
        for row, mass in enumerate(disc_sizes_m(), start=1):
            disc = self.words("")
            self._in_metric.append((disc.setText, f"{mass:g} kg"))
            grid.addWidget(disc, row, 0)
            for column, (boxes, name, call) in enumerate(
                (
                    (self.side, f"{mass:g} kg discs a side", self._take_discs),
                    (self.pairs, f"Pairs of {mass:g} kg in the gym", self._take_gym),
                ),
                start=1,
            ):
                box = QSpinBox(minimum=0, maximum=MOST_PAIRS)
                box.setKeyboardTracking(False)
                box.setFont(font(12))
                self._in_metric.append((box.setAccessibleName, name))
                box.valueChanged.connect(call)
                grid.addWidget(box, row, column)
                boxes[mass] = box
        self.form.addRow(grid_in)
        for name in bars():
            check = QCheckBox()
            self._in_metric.append((check.setText, name))
            check.setFont(font(12))
            check.setToolTip("Whether the gym has one.")
            check.clicked.connect(self._take_gym)
            self.form.addRow("The gym has" if name == next(iter(bars())) else "", check)
            self.has[name] = check
        for name in BELLS:
            line = QLineEdit()
            line.setFont(font(12))
            line.setAccessibleName(f"{name} of the gym, kg")
            line.setToolTip(f"{name}, kg, one after the other; empty: as usual.")
            line.editingFinished.connect(self._take_bells)
            self.form.addRow(f"{name}, kg", line)
            self.bells[name] = line
        nearest = self.press(
            "Take the nearest load that can be made", "Change the load to what these discs make."
        )
        nearest.clicked.connect(self._take_nearest)
        self.form.addRow(nearest)
        self.makes = self.words("")
        self.makes.setAlignment(Qt.AlignmentFlag.AlignLeft)
        self.form.addRow(self.makes)

    def show_values(self) -> None:
        """Take over what the gym has and what the load is made of."""
        if not self._made:
            self._make()
        for show, words in self._in_metric:
            show(UNITS.in_words(words))
        session = self.session
        gym, load = session.bench.gym, session.result.case.load_kg or 0.0
        loading = gym.loading(session.setup.variation, load)
        with QSignalBlocker(self.bar):
            self.bar.clear()
            self.bar.addItem("by the load", "")
            for name in gym.bars:
                if name != "hex bar":
                    self.bar.addItem(UNITS.in_words(name), name)
            self.bar.setCurrentIndex(max(self.bar.findData(gym.bar), 0))
        for mass in self.side:
            count = gym.pairs.get(mass, 0)
            with QSignalBlocker(self.side[mass]), QSignalBlocker(self.pairs[mass]):
                self.side[mass].setMaximum(count)
                self.side[mass].setValue(loading.side.count(mass) if loading is not None else 0)
                self.side[mass].setEnabled(loading is not None)
                self.pairs[mass].setValue(count)
        for name, check in self.has.items():
            check.setChecked(name in gym.bars)
        self._show_bells(gym)
        words = ""
        if loading is not None:
            words = f"makes {UNITS.text(loading.total_kg, 'kg')}"
            if abs(loading.off_kg) > 0.01:
                words += f", asked for {UNITS.text(load, 'kg')}"
        self.makes.setText(words)

    def _show_bells(self, gym: Gym) -> None:
        for name, key in BELLS.items():
            if not self.bells[name].isModified() or not self.bells[name].hasFocus():
                self.bells[name].setText(" ".join(f"{kg:g}" for kg in getattr(gym.bells, key)))

    def _take_gym(self) -> None:
        have = tuple(name for name, check in self.has.items() if check.isChecked())
        bar = str(self.bar.currentData() or "")
        self.session.do(
            edits.set_gym,
            have,
            {m: b.value() for m, b in self.pairs.items()},
            bar if bar in have else "",
        )
        self.show_values()

    def _take_bells(self) -> None:
        given: dict[str, object] = {}
        for name, key in BELLS.items():
            words = self.bells[name].text().replace(",", ".").split()
            try:
                given |= {key: sorted({float(word) for word in words})} if words else {}
            except ValueError:
                self.session.announced.emit(f"{name}: masses in kg, with spaces between.")
                self.show_values()
                return
        try:
            bells = read(Bells, given, "gym_bells")
        except CaseError as error:
            self.session.announced.emit(error.text)
            return
        self.session.do(edits.set_bells, bells)

    def _take_discs(self) -> None:
        session = self.session
        bar = session.bench.gym.bar_for(session.setup.variation, session.result.case.load_kg or 0.0)
        if bar is not None:
            total = bar.mass_kg + 2.0 * sum(m * box.value() for m, box in self.side.items())
            session.do(edits.change_setup, "Pick discs", load_kg=round(total, 3))
        self.show_values()

    def _take_nearest(self) -> None:
        session = self.session
        loading = session.bench.gym.loading(
            session.setup.variation, session.result.case.load_kg or 0.0
        )
        if loading is not None:
            session.do(edits.change_setup, "Nearest load", load_kg=round(loading.total_kg, 3))
        self.show_values()
