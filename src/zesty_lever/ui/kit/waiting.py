"""A question asked beside the window, with a thin bar and a Stop button while it takes long."""

from __future__ import annotations

from PySide6.QtCore import QTimer, Signal
from PySide6.QtWidgets import QHBoxLayout, QProgressBar, QWidget

from zesty_lever.ui.jobs import Ask, Jobs
from zesty_lever.ui.kit.controls import push_button

SHOWN_AFTER_MS = 200


class Waiting(QWidget):
    """Asks one kind of question of the session's jobs, long ones unless said otherwise. ``answered`` carries the newest answer, ``failed`` why there is none.

    ``stopped``: the coach has given the question up. The bar and the button keep their place while
    they are hidden.
    """

    answered = Signal(object)
    failed = Signal(str)
    stopped = Signal()

    def __init__(self, jobs: Jobs, kind: str, *, long: bool = True) -> None:
        super().__init__()
        self.jobs, self.kind, self._long = jobs, kind, long
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        self.bar = QProgressBar(maximum=100, textVisible=False)
        self.bar.setFixedHeight(4)
        self.bar.setMinimumWidth(60)
        self.bar.setAccessibleName("How far it has been worked out")
        self.stop_button = push_button(
            "Stop", "Give up what is being worked out; what was there before stays."
        )
        self.stop_button.clicked.connect(self.stop)
        for widget in (self.bar, self.stop_button):
            policy = widget.sizePolicy()
            policy.setRetainSizeWhenHidden(True)
            widget.setSizePolicy(policy)
            widget.hide()
        row.addWidget(self.bar, 1)
        row.addWidget(self.stop_button)
        self._soon = QTimer(self, singleShot=True, interval=SHOWN_AFTER_MS)
        self._soon.timeout.connect(self._show)
        self.jobs.answered.connect(self._answer)
        self.jobs.failed.connect(self._fail)
        self.jobs.progressed.connect(self._progress)

    @property
    def busy(self) -> bool:
        """Whether an answer is being waited for."""
        return self._soon.isActive() or not self.bar.isHidden()

    def ask(self, question: Ask) -> None:
        """Ask; an earlier question is given up."""
        self.bar.setValue(0)
        if not self.busy:
            self._soon.start()
        self.jobs.ask(self.kind, question, long=self._long)

    def stop(self) -> None:
        """Give the question up."""
        self.jobs.cancel(self.kind)
        self._hide()
        self.stopped.emit()

    def _show(self) -> None:
        self.bar.show()
        self.stop_button.show()

    def _hide(self) -> None:
        self._soon.stop()
        self.bar.hide()
        self.stop_button.hide()

    def _progress(self, kind: str, number: int, share: float) -> None:
        if kind == self.kind and self.jobs.is_newest(kind, number):
            self.bar.setValue(int(100 * share))

    def _answer(self, kind: str, number: int, answer: object) -> None:
        if kind == self.kind and self.jobs.is_newest(kind, number):
            self._hide()
            self.answered.emit(answer)

    def _fail(self, kind: str, number: int, why: str) -> None:
        if kind == self.kind and self.jobs.is_newest(kind, number):
            self._hide()
            self.failed.emit(why)
