"""A table that is read row by row: one row chosen, nothing typed into it, words wrapped."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QAbstractItemView, QTableWidget

from zesty_lever.ui.kit.theme import font


class RowTable(QTableWidget):
    """``name`` is what a screen reader says; ``points`` the size of the words."""

    def __init__(self, name: str, columns: Sequence[str], points: int) -> None:
        super().__init__(0, len(columns))
        self.setObjectName("roomy")
        self.setFont(font(points))
        self.setAccessibleName(name)
        self.setHorizontalHeaderLabels(list(columns))
        self.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        self.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.setTabKeyNavigation(False)
        self.setWordWrap(True)
        self.setShowGrid(False)
        self.verticalHeader().hide()
        head = self.horizontalHeader()
        head.setFont(font(12))
        head.setDefaultAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
