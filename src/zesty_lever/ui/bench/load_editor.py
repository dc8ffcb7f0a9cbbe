"""The load of a set-up: discs a side, another load on the way up, bands, pushes and second masses."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING, Any

from PySide6.QtCore import QSignalBlocker, Qt
from PySide6.QtWidgets import (
    QCheckBox,
    QHBoxLayout,
    QLabel,
    QMenu,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from zesty_lever.bench import edits
from zesty_lever.cases.loads import ANCHOR_REACH_M, BandLoad, CableLoad, MassLoad, PushLoad
from zesty_lever.exercises.catalogue import Setting, variation
from zesty_lever.models import read
from zesty_lever.ui.bench.discs_button import DiscsButton
from zesty_lever.ui.kit.controls import (
    NumberRow,
    Wrapped,
    described,
    in_tab_order,
    menu_button,
    plain_tip,
)
from zesty_lever.ui.kit.theme import font
from zesty_lever.ui.session import Session
from zesty_lever.wording.sentences import (
    also_words,
    discs_words,
    effort_words,
    usual_load_words,
)

if TYPE_CHECKING:
    from zesty_lever.choosing.bests import Effort

# What can be added: menu name, the load as it starts.
ADDED: tuple[tuple[str, dict[str, Any]], ...] = (
    (
        "Vest or plate on the trunk",
        {"kind": "mass", "name": "vest", "mass_kg": 10.0, "above_m": -0.15},
    ),
    ("Mass at the hips", {"kind": "mass", "name": "belt mass", "mass_kg": 10.0, "place": "belt"}),
    (
        "Band round the knees",
        {
            "kind": "band",
            "name": "band at the knees",
            "start": "above_knee_left",
            "end": "above_knee_right",
            "slack_m": 0.2,
            "stiffness_N_m": 300.0,
        },
    ),
    (
        "Band, feet to hands (left)",
        {
            "kind": "band",
            "name": "left band",
            "start": "hand_left",
            "end": "foot_left",
            "slack_m": 0.7,
            "stiffness_N_m": 120.0,
        },
    ),
    (
        "Band, feet to hands (right)",
        {
            "kind": "band",
            "name": "right band",
            "start": "hand_right",
            "end": "foot_right",
            "slack_m": 0.7,
            "stiffness_N_m": 120.0,
        },
    ),
    (
        "Band from behind to the hips",
        {
            "kind": "band",
            "name": "band at the hips",
            "start": "hip_crease",
            "end": (-1.8, 0.03, 0.0),
            "slack_m": 1.2,
            "stiffness_N_m": 100.0,
        },
    ),
    (
        "Cable forward to the hands",
        {
            "kind": "cable",
            "name": "cable",
            "start": "hand_right",
            "end": (2.0, 1.0, 0.0),
            "force_N": 60.0,
        },
    ),
    (
        "Partner pushes down on the way down",
        {
            "kind": "push",
            "name": "partner",
            "start": "shoulders",
            "push_N": (0.0, -80.0, 0.0),
            "when": "down",
        },
    ),
)
FIELDS = {
    "mass_kg": ("Mass", "kg", 0.0, 200.0, 1.0),
    "stiffness_N_m": ("Stiffness", "N/m", 0.0, 5000.0, 10.0),
    "slack_m": ("Slack length", "m", 0.0, 5.0, 0.01),
    "force_N": ("Force", "N", 0.0, 3000.0, 5.0),
}
# Which part of an anchor's place, its name and its lowest value (m).
ANCHOR_FIELDS = {
    "end_ahead": (0, "Anchor ahead", -ANCHOR_REACH_M),
    "end_up": (1, "Anchor height", 0.0),
    "end_right": (2, "Anchor to the right", -ANCHOR_REACH_M),
}
MODELS: dict[str, Any] = {"mass": MassLoad, "band": BandLoad, "cable": CableLoad, "push": PushLoad}


USE_TIP = (
    "Use: the moment over what this joint of this athlete can hold at its angle. Estimates from remembered strength "
    "tables, for choosing loads to try, never a maximum to attempt."
)


class LoadEditor(QWidget):
    """Everything that is carried or pulls, below the load's own row."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self._layout = QVBoxLayout(self)
        self._layout.setContentsMargins(0, 0, 0, 0)
        self._layout.setSpacing(4)
        self.discs = Wrapped(wordWrap=True)
        self.discs.setObjectName("faint")
        self.discs.setFont(font(12))
        self.pick = DiscsButton(session)
        made = QHBoxLayout()
        made.addWidget(self.discs, 1)
        made.addWidget(self.pick)
        self._layout.addLayout(made)
        self.usual = Wrapped(wordWrap=True)
        self.usual.setObjectName("faint")
        self.usual.setFont(font(12))
        self.usual.setToolTip("A working load for this athlete; common practice, no source.")
        self._layout.addWidget(self.usual)
        self.effort = Wrapped(wordWrap=True)
        self.effort.setObjectName("faint")
        self.effort.setFont(font(12))
        self.effort.setToolTip(USE_TIP)
        self._layout.addWidget(self.effort)
        both = QHBoxLayout()
        self.differs = QCheckBox("Another load on the way up")
        self.differs.setFont(font(12))
        self.differs.setToolTip(
            "Two loads in one rep: a partner or straps take some off, or add some, at the turn."
        )
        self.differs.clicked.connect(self._let_differ)
        self.add = menu_button("Add ▾", "Add a band, a cable, a push or a second mass.")
        menu = QMenu(self.add)
        for name, data in ADDED:
            menu.addAction(name, partial(self._add, name, data))
        self.add.setMenu(menu)
        both.addWidget(self.differs, 1)
        both.addWidget(self.add)
        self._layout.addLayout(both)
        up = described(
            "load_up_kg", "Load up", "on the way up", "kg", 0, 500, 2.5, "Load on the way up."
        )
        self.up_row = NumberRow(
            up, lambda v: session.do(edits.change_setup, "Set load up", load_up_kg=round(v, 4))
        )
        self._layout.addWidget(self.up_row)
        self._extras = QVBoxLayout()
        self._extras.setSpacing(3)
        self._layout.addLayout(self._extras)
        self._shown: tuple[Any, ...] = ()
        self.rows: list[tuple[int, str, NumberRow]] = []
        session.changed.connect(self.refresh)
        self.refresh()

    def show_effort(self, told: Effort | str | None) -> None:
        """Say how hard the set-up is (None: it is being worked out; a text stands as it is)."""
        loaded = self.session.result.variation.load is not None
        # What was true of another set-up never stays.
        if told is None or isinstance(told, str):
            self.effort.setText("…" if told is None else told)
        else:
            self.effort.setText(effort_words(told, loaded=loaded))
            self.effort.setToolTip(f"{also_words(told)} {USE_TIP}".strip())

    def _let_differ(self, on: bool) -> None:  # noqa: FBT001
        load = self.session.result.case.load_kg if on else None
        self.session.do(edits.change_setup, "Another load on the way up", load_up_kg=load)

    def _add(self, name: str, data: dict[str, Any]) -> None:
        load = read(MODELS[data["kind"]], data, "loads")
        self.session.do(
            edits.change_setup, f"Add {name.lower()}", loads=(*self.session.setup.loads, load)
        )

    def _remove(self, index: int, _checked: bool = False) -> None:  # noqa: FBT001, FBT002
        loads = list(self.session.setup.loads)
        gone = loads.pop(index)
        self.session.do(edits.change_setup, f"Remove {gone.name}", loads=tuple(loads))

    def _change(self, index: int, key: str, value: float) -> None:
        loads = list(self.session.setup.loads)
        changed: Any = round(value, 4)
        if key == "push_N":
            changed = (0.0, -round(value, 4), 0.0)
        elif key in ANCHOR_FIELDS:
            place = list(loads[index].end)  # type: ignore[union-attr]
            place[ANCHOR_FIELDS[key][0]] = changed
            key, changed = "end", tuple(place)
        loads[index] = loads[index].changed(**{key: changed})
        self.session.do(edits.change_setup, f"Change {loads[index].name}", loads=tuple(loads))

    def refresh(self) -> None:
        """Show what the session holds."""
        setup, case = self.session.setup, self.session.result.case
        low, high = variation(setup.variation).load_range_kg()
        self.differs.setEnabled(high > low)
        with QSignalBlocker(self.differs):
            self.differs.setChecked(setup.load_up_kg is not None)
        self.up_row.setVisible(setup.load_up_kg is not None)
        if setup.load_up_kg is not None:
            with QSignalBlocker(self.up_row.spin):
                self.up_row.spin.set_bounds(low, high)
            self.up_row.show_value(setup.load_up_kg)
        words = discs_words(setup.variation, case.load_kg or 0.0, self.session.bench.gym)
        if self.discs.text() != words:
            self.discs.setText(words)
        self.discs.setVisible(bool(words))
        usual = usual_load_words(case, self.session.rules)
        if self.usual.text() != usual:
            self.usual.setText(usual)
        self.usual.setVisible(bool(usual))
        self.pick.setVisible(bool(words))
        kinds = tuple((type(load).__name__, load.name) for load in setup.loads)
        if kinds != self._shown:
            self._rebuild(kinds)
        for index, key, row in self.rows:
            load: Any = setup.loads[index]
            value = load.end[ANCHOR_FIELDS[key][0]] if key in ANCHOR_FIELDS else getattr(load, key)
            row.show_value(abs(value[1]) if key == "push_N" else value)

    def _rebuild(self, kinds: tuple[Any, ...]) -> None:
        # First, so that nothing that hiding a field sets off comes here again.
        self._shown = kinds
        while (item := self._extras.takeAt(0)) is not None:
            widget = item.widget()
            if isinstance(widget, NumberRow):
                widget.put_away()
            if widget is not None:
                widget.hide()
                widget.deleteLater()
        self.rows = []
        fields: list[QWidget] = [self.up_row.spin]
        for index, load in enumerate(self.session.setup.loads):
            head = QWidget()
            row = QHBoxLayout(head)
            row.setContentsMargins(0, 2, 0, 0)
            title = QLabel(f"{load.name}{'' if load.when == 'both' else f', {load.when} only'}")
            title.setFont(font(12, bold=True))
            title.setTextFormat(Qt.TextFormat.PlainText)
            away = QToolButton()
            away.setText("Remove")
            away.setFont(font(11))
            away.setToolTip(plain_tip(f"Take the {load.name} off."))
            away.clicked.connect(partial(self._remove, index))
            row.addWidget(title, 1)
            row.addWidget(away)
            self._extras.addWidget(head)
            fields.append(away)
            for key, setting in _fields_of(load):
                number = NumberRow(setting, partial(self._change, index, key))
                self._extras.addWidget(number)
                self.rows.append((index, key, number))
                fields += number.fields
        in_tab_order(*fields)

    def show_units(self) -> None:
        """Take over the units in use."""
        for row in (self.up_row, *(row for _, _, row in self.rows)):
            row.show_units()
        self.refresh()


def _fields_of(load: Any) -> list[tuple[str, Setting]]:
    if isinstance(load, PushLoad):
        return [
            (
                "push_N",
                described("push_N", "Push down", load.name, "N", 0, 2000, 5, "Downward push."),
            )
        ]
    found = []
    for key, (name, unit, low, high, step) in FIELDS.items():
        if getattr(load, key, None) is not None:
            found.append(
                (
                    key,
                    described(
                        key, name, load.name, unit, low, high, step, f"{name} of the {load.name}."
                    ),
                )
            )
    if isinstance(getattr(load, "end", None), tuple):
        for key, (_, name, low) in ANCHOR_FIELDS.items():
            tip = f"{name} of the {load.name}, from under the ankles; minus is the other way."
            found.append(
                (key, described(key, name, load.name, "m", low, ANCHOR_REACH_M, 0.05, tip))
            )
    return found
