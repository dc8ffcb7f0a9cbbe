"""A small form over a screen: pain of a session, before, after or the next day."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QCheckBox, QHBoxLayout, QLabel, QWidget

from zesty_lever.cases.model import SORE_PLACES
from zesty_lever.log.entry import Pain
from zesty_lever.models import read
from zesty_lever.ui.kit.controls import picker, push_button
from zesty_lever.ui.kit.popover import Popover

# A place that nothing is computed for: its pain stops every lift.
ELSEWHERE = "elsewhere"


class PainPopover(Popover):
    """Pain of a session: where, how much, when. ``moments`` are those that can be told."""

    def __init__(self, over: QWidget, moments: Sequence[str]) -> None:
        super().__init__(over, "floating")
        self.setAccessibleName("Pain of the session")
        row = QHBoxLayout(self)
        row.addWidget(QLabel("Pain"))
        self.moment = picker("When", [moment.replace("-", " ") for moment in moments])
        self.moments = tuple(moments)
        self.moment.setVisible(len(self.moments) > 1)
        self.place = picker("Place", [*SORE_PLACES, ELSEWHERE])
        self.side = picker("Side", ["both", "left", "right"])
        self.score = picker("Score, 0 to 10", [str(n) for n in range(11)])
        self.numb = QCheckBox("numb, gives way")
        self.keep = push_button("Keep", "Write it to the log.")
        for widget in (self.moment, self.place, self.side, self.score, self.numb, self.keep):
            row.addWidget(widget)
        self.hide()

    def pain(self) -> Pain:
        """The pain as chosen."""
        return read(
            Pain,
            {
                "place": self.place.currentText(),
                "side": self.side.currentText(),
                "score": self.score.currentIndex(),
                "numb": self.numb.isChecked(),
                "moment": self.moments[self.moment.currentIndex()],
            },
        )

    def tell(self, moment: str) -> None:
        """Ask about one moment alone."""
        self.moments = (moment,)
        self.moment.clear()
        self.moment.addItem(moment)
        self.moment.setVisible(False)

    def settle(self) -> None:
        """Along the bottom of the face."""
        over, hint = self.over, self.sizeHint()
        self.setFixedSize(min(hint.width() + 20, over.width() - 12), hint.height())
        self.move((over.width() - self.width()) // 2, over.height() - self.height() - 6)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape:
            self.hide()
            self.over.setFocus()
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.keep.click()
        else:
            super().keyPressEvent(event)
