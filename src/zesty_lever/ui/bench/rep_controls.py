"""Under the rep strip: play at tempo, the tempo, and how the rep is done and worked out."""

from __future__ import annotations

from typing import Any

import numpy as np
from PySide6.QtCore import QElapsedTimer, QSignalBlocker, QTimer
from PySide6.QtGui import QAction, QActionGroup, QKeySequence, QShortcut
from PySide6.QtWidgets import (
    QDoubleSpinBox,
    QHBoxLayout,
    QLabel,
    QMenu,
    QPushButton,
    QWidget,
)

from zesty_lever.bench import edits
from zesty_lever.ui.kit.controls import menu_button
from zesty_lever.ui.kit.theme import font
from zesty_lever.ui.session import Session

FRAME_MS = 16
# What a choice of how the feet push means.
MEANT: dict[object, str] = {
    "least-effort": "The feet push against each other as asks the legs least, within the grip of a shoe.",
    "vertical": "The feet push straight down: nothing sideways or fore and aft between them.",
}
PARTS = (
    ("down", 0.3, 30.0),
    ("pause at the bottom", 0.0, 60.0),
    ("up", 0.3, 30.0),
    ("pause at the top", 0.0, 60.0),
)
RANGES = (
    ("Full range", (0.0, 1.0)),
    ("Upper half", (0.0, 0.5)),
    ("Lower half", (0.5, 1.0)),
    ("Upper three quarters", (0.0, 0.75)),
)


class RepControls(QWidget):
    """Play, tempo, statics or dynamics, contact rule, range and style of the rep."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(6)
        self.play = QPushButton("Play")
        self.play.setCheckable(True)
        self.play.setFont(font(12))
        # A button's own shortcut is lost whenever its text changes.
        QShortcut(QKeySequence("P"), self).activated.connect(self.play.toggle)
        self.play.setToolTip("Play the rep at its tempo (P).")
        self.play.toggled.connect(self._toggle)
        row.addWidget(self.play)
        label = QLabel("Tempo")
        label.setFont(font(12))
        label.setToolTip("Seconds down, pause at the bottom, up, pause at the top.")
        row.addWidget(label)
        self.tempo = [self._tempo_box(name, low, high) for name, low, high in PARTS]
        label.setBuddy(self.tempo[0])
        for box in self.tempo:
            row.addWidget(box)
        self.dynamic = QPushButton("With inertia")
        self.dynamic.setCheckable(True)
        self.dynamic.setFont(font(12))
        self.dynamic.setToolTip(
            "Off: statics, every moment as if held still. On: dynamics, what the tempo adds."
        )
        self.dynamic.clicked.connect(
            lambda on: session.do(edits.change_setup, "Inertia", mode="dynamic" if on else "static")
        )
        row.addWidget(self.dynamic)
        self.more = menu_button(
            "Rep and floor ▾",
            "Partial range, one and a quarter reps, and how feet push against each other.",
        )
        self.more.setMenu(self._menu())
        row.addWidget(self.more)
        row.addStretch(1)
        self._clock, self._timer = QElapsedTimer(), QTimer(self, interval=FRAME_MS)
        self._timer.timeout.connect(self._tick)
        session.changed.connect(self.refresh)
        self.refresh()

    def _tempo_box(self, name: str, low: float, high: float) -> QDoubleSpinBox:
        box = QDoubleSpinBox(decimals=1, minimum=low, maximum=high, singleStep=0.5)
        box.setKeyboardTracking(False)
        box.setFont(font(12))
        box.setFixedWidth(58)
        box.setAccessibleName(f"Tempo: {name}, seconds")
        box.setToolTip(f"Tempo: {name}, seconds.")
        box.valueChanged.connect(self._set_tempo)
        return box

    def _menu(self) -> QMenu:
        menu = QMenu(self)
        menu.setToolTipsVisible(True)
        self._actions: dict[str, list[tuple[QAction, Any]]] = {}
        for title, key, choices in (
            ("Range", "travel", RANGES),
            ("Style", "style", (("Full reps", "full"), ("One and a quarter", "one-and-a-quarter"))),
            (
                "Feet against the floor",
                "contact_rule",
                (
                    ("As the variation has it", None),
                    ("Least effort: feet push apart a little", "least-effort"),
                    ("Vertical: no sideways push", "vertical"),
                ),
            ),
        ):
            menu.addSection(title)
            group = QActionGroup(menu)
            for name, value in choices:
                action = menu.addAction(name)
                action.setToolTip(MEANT.get(value, name))
                action.setCheckable(True)
                group.addAction(action)
                action.triggered.connect(
                    lambda _=False, k=key, v=value, n=name: self.session.do(
                        edits.change_setup, n, **{k: v}
                    )
                )
                self._actions.setdefault(key, []).append((action, value))
        return menu

    def _set_tempo(self) -> None:
        tempo = tuple(round(box.value(), 2) for box in self.tempo)
        self.session.do(edits.change_setup, "Set tempo", tempo_s=tempo)

    def refresh(self) -> None:
        """Show what the session holds."""
        setup = self.session.setup
        for box, seconds in zip(self.tempo, setup.tempo_s, strict=True):
            with QSignalBlocker(box):
                box.setValue(seconds)
        self.dynamic.setChecked(setup.mode == "dynamic")
        for key, actions in self._actions.items():
            for action, value in actions:
                action.setChecked(getattr(setup, key) == value)

    def _toggle(self, on: bool) -> None:  # noqa: FBT001
        self.play.setText("Stop" if on else "Play")
        if on:
            times = self.session.result.timeline.time_s
            self._started = float(times[self.session.moment % len(times)])
            self._clock.start()
            self._timer.start()
        else:
            self._timer.stop()

    def _tick(self) -> None:
        times = self.session.result.timeline.time_s
        now = (self._started + self._clock.elapsed() / 1000.0) % float(times[-1])
        self.session.set_moment(int(np.searchsorted(times, now)))
