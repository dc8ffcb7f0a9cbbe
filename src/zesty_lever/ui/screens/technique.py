"""Technique search: lower or raise one joint under limits on the others; any point can be opened."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import (
    QCheckBox,
    QDoubleSpinBox,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from zesty_lever.choose import JOINT_WORDS
from zesty_lever.exercises.catalogue import variation
from zesty_lever.technique import Point, Search, search
from zesty_lever.ui.number import UNITS
from zesty_lever.ui.painters.levers import minus
from zesty_lever.ui.rep_strip import slot_title
from zesty_lever.ui.screens.people import heading, note, picker
from zesty_lever.ui.session import Session
from zesty_lever.ui.theme import Theme, font
from zesty_lever.ui.waiting import Waiting

AIMS = [(joint, most) for joint in JOINT_WORDS for most in (False, True)]


class FrontierView(QWidget):
    """Techniques that no other beats: knee across, hip up, lower back as shade; start and best marked."""

    picked = Signal(int)

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self.theme = theme
        self.found: Search | None = None
        self.chosen = -1
        self.setMinimumSize(360, 320)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Frontier of knee, hip and lower back")
        self.setToolTip("Click a dot, or move with left and right; then open it on the bench.")

    def sizeHint(self) -> QSize:
        return QSize(700, 560)

    def points(self) -> list[Point]:
        """Frontier, then best, then the technique at hand."""
        return [] if self.found is None else [*self.found.frontier, self.found.best, self.found.start]

    def to_screen(self, peaks: Any) -> QPointF:
        """Screen place of a technique's peaks."""
        area = QRectF(self.rect()).adjusted(56, 14, -20, -40)
        points = self.points()
        spans = [[p.peaks[j] for p in points] for j in ("knee", "hip")]
        (x0, x1), (y0, y1) = ((min(s), max(s) + 1e-6) for s in spans)
        return QPointF(area.left() + area.width() * (peaks["knee"] - x0) / (x1 - x0),
                       area.bottom() - area.height() * (peaks["hip"] - y0) / (y1 - y0))  # fmt: skip

    def mousePressEvent(self, event: QMouseEvent) -> None:
        gaps = [float(np.hypot(*(self.to_screen(p.peaks) - event.position()).toTuple())) for p in self.points()]
        if gaps and min(gaps) < 16:
            self.picked.emit(int(np.argmin(gaps)))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        step = {Qt.Key.Key_Right: 1, Qt.Key.Key_Left: -1}.get(Qt.Key(event.key()), 0)
        if step and self.points():
            self.picked.emit((self.chosen + step) % len(self.points()))
        else:
            super().keyPressEvent(event)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme = self.theme
        painter.setPen(QPen(QColor(theme.ink if self.hasFocus() else theme.line), 2 if self.hasFocus() else 1))
        painter.setBrush(QColor(theme.panel))
        painter.drawRect(self.rect().adjusted(1, 1, -2, -2))
        points = self.points()
        painter.setFont(font(12))
        painter.setPen(QColor(theme.faint))
        if not points:
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, "Choose what to lower or raise, then search.")
            return
        backs = [p.peaks["back"] for p in points]
        for index, point in enumerate(points):
            at = self.to_screen(point.peaks)
            share = (point.peaks["back"] - min(backs)) / max(max(backs) - min(backs), 1e-9)
            fill = QColor(theme.back)
            fill.setAlpha(40 + int(190 * share))
            painter.setBrush(fill)
            painter.setPen(QPen(QColor(theme.ink), 3 if index == self.chosen else 0.8))
            size = 9 if index >= len(points) - 2 else 6
            painter.drawEllipse(at, size, size)
            if index >= len(points) - 2:
                painter.setFont(font(13, bold=True))
                painter.setPen(QColor(theme.ink))
                words = "best" if index == len(points) - 2 else "as set up"
                left = at.x() > self.width() - 110
                painter.drawText(at + QPointF(-70 if left else 13, 5), words)
        painter.setFont(font(12))
        painter.setPen(QColor(theme.faint))
        low, high = (f([p.peaks["knee"] for p in points]) for f in (min, max))
        down, up = (f([p.peaks["hip"] for p in points]) for f in (min, max))
        painter.drawText(QPointF(56, self.height() - 12), minus(
            f"knee {low:.0f} to {high:.0f} N·m across, hip {down:.0f} to {up:.0f} N·m up, darker: more lower back"))


class TechniqueScreen(QWidget):
    """Within one variation: what could be different."""

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__(objectName="bench")
        self.session = session
        self.waiting = Waiting("technique")
        self.picture = FrontierView(theme)
        row = QHBoxLayout(self)
        row.setContentsMargins(14, 10, 14, 10)
        row.setSpacing(12)
        row.addWidget(self._controls())
        row.addWidget(self.picture, 1)
        row.addWidget(self._details())
        self.picture.picked.connect(self.choose)
        self.waiting.answered.connect(self._answer)
        self.waiting.failed.connect(self._fail)
        session.changed.connect(self._name)
        self._name()

    def _controls(self) -> QWidget:
        side = QWidget()
        side.setFixedWidth(290)
        column = QVBoxLayout(side)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(heading("Technique search"))
        self.what = QLabel(wordWrap=True)
        self.what.setFont(font(13, bold=True))
        column.addWidget(self.what)
        self.aim = picker("Aim", [f"{'Raise' if most else 'Lower'} the {JOINT_WORDS[j]}'s peak" for j, most in AIMS])
        self.aim.setCurrentIndex(AIMS.index(("back", False)))
        column.addWidget(self.aim)
        self.ceilings: dict[str, QDoubleSpinBox] = {}
        for joint, word in JOINT_WORDS.items():
            line = QHBoxLayout()
            label = QLabel(f"{word.capitalize()} at most")
            label.setFont(font(13))
            box = QDoubleSpinBox(minimum=0, maximum=2000, singleStep=10, decimals=0, suffix=" N·m")
            box.setSpecialValueText("no limit")
            box.setFont(font(13))
            box.setAccessibleName(f"{word} at most, newton metres")
            box.setToolTip(f"Ceiling of the {word}'s peak.")
            line.addWidget(label, 1)
            line.addWidget(box)
            column.addLayout(line)
            self.ceilings[joint] = box
        self.free_depth = QCheckBox("Depth may change too")
        self.free_depth.setFont(font(13))
        self.free_depth.setToolTip("Off: as deep as it is set up.")
        column.addWidget(self.free_depth)
        self.go = QPushButton("Search")
        self.go.setFont(font(13))
        self.go.setToolTip("Search inside this athlete's range.")
        self.go.clicked.connect(self.ask)
        column.addWidget(self.go)
        column.addWidget(self.waiting)
        column.addWidget(note("Stance, toes, shin and the like are tried inside the athlete's ankle, hip and knee range; poses that round "
                              "the low back more than now are left out. A smaller moment at one joint is usually a larger one elsewhere."))
        column.addStretch(1)
        return side

    def _details(self) -> QWidget:
        side = QWidget()
        side.setFixedWidth(300)
        column = QVBoxLayout(side)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(heading("The chosen technique"))
        self.words = QLabel(wordWrap=True)
        self.words.setFont(font(13))
        column.addWidget(self.words)
        self.opener = QPushButton("Open on the bench")
        self.opener.setFont(font(13))
        self.opener.setToolTip("Set the bench to the chosen technique; undo goes back.")
        self.opener.clicked.connect(self.to_bench)
        column.addWidget(self.opener)
        column.addStretch(1)
        return side

    def _name(self) -> None:
        self.what.setText(slot_title(self.session, self.session.editing))

    def ask(self) -> None:
        """Search beside the window."""
        joint, most = AIMS[self.aim.currentIndex()]
        ceilings = {j: b.value() for j, b in self.ceilings.items() if b.value() > 0}
        case, keep = self.session.result.case, not self.free_depth.isChecked()

        def work(tell: Callable[[float], None]) -> Search:
            return search(case, joint, most=most, ceilings=ceilings, keep_depth=keep, tell=tell)

        self.waiting.ask(work)

    def _fail(self, why: str) -> None:
        self.picture.found = None
        self.words.setText(why)
        self.picture.update()

    def _answer(self, found: Search) -> None:
        self.picture.found = found
        self.choose(len(found.frontier))

    def choose(self, index: int) -> None:
        """Show one technique in words."""
        self.picture.chosen = index
        self.picture.update()
        point = self.picture.points()[index]
        start = self.picture.points()[-1]
        known = variation(self.session.setup.variation).settings
        peaks = "<br>".join(
            f"<b>{JOINT_WORDS[j].capitalize()}</b> {point.peaks[j]:.0f} N·m ({point.peaks[j] - start.peaks[j]:+.0f})" for j in JOINT_WORDS
        )
        settings = "<br>".join(f"{known[k].name}: {UNITS.text(v, known[k].unit, 0)}" for k, v in point.settings.items() if k in known)
        self.words.setText(minus(f"{peaks}<br><br>{settings}"))

    def to_bench(self) -> None:
        """Set the bench to the chosen technique."""
        points = self.picture.points()
        if 0 <= self.picture.chosen < len(points):
            known = variation(self.session.setup.variation).settings
            chosen = {k: round(v, 4) for k, v in points[self.picture.chosen].settings.items() if k in known}
            self.session.edit_setup("Technique found", settings={**self.session.setup.settings, **chosen})

    def set_theme(self, theme: Theme) -> None:
        """Repaint in another theme."""
        self.picture.theme = theme
        self.picture.update()
