"""The bench: set-up on the left, figure and rep in the middle, demand on the right."""

from __future__ import annotations

from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from zesty_lever.ui.demand_panel import DemandPanel, slot_bar
from zesty_lever.ui.figure_view import FigureView
from zesty_lever.ui.rep_strip import RepStrip
from zesty_lever.ui.session import Session
from zesty_lever.ui.setup_panel import SetupPanel
from zesty_lever.ui.theme import Theme


class BenchScreen(QWidget):
    """One athlete, two set-ups, live."""

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__(objectName="bench")
        self.panel = SetupPanel(session)
        self.figure = FigureView(session, theme)
        self.strip = RepStrip(session, theme)
        self.demand = DemandPanel(session, theme)
        self.slots = slot_bar(session)
        self.demand.setFixedWidth(352)
        middle = QVBoxLayout()
        middle.setSpacing(6)
        middle.addWidget(self.slots)
        middle.addWidget(self.figure, 1)
        middle.addWidget(self.strip)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 8, 12, 10)
        row.setSpacing(10)
        row.addWidget(self.panel)
        row.addLayout(middle, 1)
        row.addWidget(self.demand)

    def set_theme(self, theme: Theme) -> None:
        """Repaint all painted parts in another theme."""
        for part in (self.figure, self.strip, self.demand):
            part.set_theme(theme)
