"""The bench: set-up on the left, figure and rep in the middle, demand on the right."""

from __future__ import annotations

from collections.abc import Iterable
from functools import cached_property
from typing import TYPE_CHECKING, Any

from PySide6.QtGui import QShowEvent
from PySide6.QtWidgets import (
    QHBoxLayout,
    QMenu,
    QPushButton,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from zesty_lever.bench import edits
from zesty_lever.ui.bench.demand_panel import DemandPanel, slot_bar
from zesty_lever.ui.bench.figure_view import FigureView
from zesty_lever.ui.bench.front_view import FrontView
from zesty_lever.ui.bench.keepers import EffortKeeper, RoomKeeper
from zesty_lever.ui.bench.rep_controls import RepControls
from zesty_lever.ui.bench.rep_strip import RepStrip
from zesty_lever.ui.bench.setup_panel import SetupPanel
from zesty_lever.ui.kit.controls import menu_button
from zesty_lever.ui.kit.screen import Screen, Themed
from zesty_lever.ui.kit.tabs import Tabs
from zesty_lever.ui.kit.theme import Theme, font
from zesty_lever.ui.session import Session

if TYPE_CHECKING:
    from zesty_lever.ui.bench.catalogue_panel import CataloguePanel
    from zesty_lever.ui.bench.findings_panel import FindingsPanel
    from zesty_lever.ui.bench.levers_panel import LeversPanel

SIDES = (("From the side", "1"), ("From the front, and the feet", "2"))


# What the right column shows: its faces and what each is for.
FACES = {
    "Demand": "Moment tiles of both set-ups",
    "Findings": "What this school would say, the room that is left, the rep in words",
    "What matters": "What one step of each setting does, and a map of two",
}


class BenchScreen(Screen):
    """One athlete, two set-ups, live."""

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__(session, theme)
        self.panel = SetupPanel(session)
        self.figure = FigureView(session, theme)
        self.front = FrontView(session, theme)
        self.strip = RepStrip(session, theme)
        self.controls = RepControls(session)
        self.demand = DemandPanel(session, theme)
        self.slots = slot_bar(session)
        self.room = RoomKeeper(session, self)
        self.room.known.connect(self.figure.show_room)
        self.room.known.connect(self.front.show_room)
        self.effort = EffortKeeper(session, self)
        self.effort.known.connect(self.panel.loads.show_effort)
        self.effort.known.connect(self.demand.board.show_effort)
        self.effort.known.connect(self.strip.show_effort)
        self.views = QStackedWidget()
        self.views.addWidget(self.figure)
        self.views.addWidget(self.front)
        middle = QVBoxLayout()
        middle.setSpacing(6)
        middle.addWidget(self.slots)
        middle.addLayout(self._view_bar())
        middle.addWidget(self.views, 1)
        middle.addWidget(self.strip)
        middle.addWidget(self.controls)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 8, 12, 10)
        row.setSpacing(10)
        row.addWidget(self.panel)
        row.addLayout(middle, 1)
        row.addLayout(self._right())
        self.panel.finder.clicked.connect(self._find)

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self.room.refresh()
        self.effort.refresh()

    def _find(self) -> None:
        self.catalogue.open()

    # What the first picture does not need is made when it is first looked at.

    @cached_property
    def findings(self) -> FindingsPanel:
        """What this school would say."""
        from zesty_lever.ui.bench.findings_panel import FindingsPanel

        panel = FindingsPanel(self.session, self.room)
        self.faces.addWidget(panel)
        return panel

    @cached_property
    def levers(self) -> LeversPanel:
        """What one step of each setting does."""
        from zesty_lever.ui.bench.levers_panel import LeversPanel

        panel = LeversPanel(self.session, self.theme)
        self.faces.addWidget(panel)
        return panel

    @cached_property
    def catalogue(self) -> CataloguePanel:
        """The catalogue over the bench."""
        from zesty_lever.ui.bench.catalogue_panel import CataloguePanel

        panel = CataloguePanel(self)
        panel.picked.connect(self._pick)
        panel.picked_other.connect(lambda name: self.session.do(edits.set_other_variation, name))
        return panel

    def _pick(self, name: str) -> None:
        self.session.do(edits.set_variation, name)

    def _right(self) -> QVBoxLayout:
        """Demand, findings, or what matters."""
        column = QVBoxLayout()
        bar = QHBoxLayout()
        self.faces = QStackedWidget()
        self.faces.setFixedWidth(352)
        self.faces.addWidget(self.demand)
        entries = {name: (tip, f"Alt+{n}") for n, (name, tip) in enumerate(FACES.items(), 4)}
        self.face_tabs = Tabs("What is told", entries, 12)
        self.face_tabs.setExpanding(True)
        self.face_tabs.chosen.connect(lambda name: self.show_face(list(FACES).index(name)))
        bar.addWidget(self.face_tabs, 1)
        column.addLayout(bar)
        column.addWidget(self.faces, 1)
        self.show_face(0)
        return column

    def show_face(self, index: int) -> None:
        """Show demand (0), findings (1) or what matters (2)."""
        face = (lambda: self.demand, lambda: self.findings, lambda: self.levers)[index]()
        self.faces.setCurrentWidget(face)
        self.face_tabs.show_name(list(FACES)[index])

    def _view_bar(self) -> QHBoxLayout:
        """Side or front, and what is drawn on the figure."""
        bar = QHBoxLayout()
        self.sides = []
        for index, (name, key) in enumerate(SIDES):
            button = QPushButton(name)
            button.setCheckable(True)
            button.setAutoExclusive(True)
            button.setFont(font(12))
            button.setShortcut(f"Ctrl+Alt+{key}")
            button.setToolTip(f"{name} (Ctrl+Alt+{key}).")
            button.clicked.connect(lambda _=False, i=index: self.show_side(i))
            bar.addWidget(button)
            self.sides.append(button)
        bar.addStretch(1)
        self.layers_button = menu_button("Drawn ▾", "What is drawn on the figure.")
        menu = QMenu(self.layers_button)
        for key, name in self.figure.layers_known:
            action = menu.addAction(name)
            action.setCheckable(True)
            action.setChecked(key in self.figure.layers)
            action.toggled.connect(lambda on, k=key: self.figure.show_layer(k, on=on))
        self.layers_button.setMenu(menu)
        bar.addWidget(self.layers_button)
        self.show_side(0)
        return bar

    def show_side(self, index: int) -> None:
        """Show the figure from the side (0) or the front (1)."""
        self.views.setCurrentIndex(index)
        for number, button in enumerate(self.sides):
            button.setChecked(number == index)

    def themed(self) -> Iterable[Themed]:
        yield from (self.figure, self.front, self.strip, *self.demand.themed())
        if "levers" in self.__dict__:
            yield from self.levers.themed()

    def show_units(self) -> None:
        self.panel.show_units()
        super().show_units()
        found: Any = self.effort.found
        self.panel.loads.show_effort(found)

    def sheet(self) -> QWidget:
        """The figure from the side or the front, whichever is shown."""
        return self.views.currentWidget() or self
