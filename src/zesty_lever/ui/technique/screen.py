"""Technique search: lower or raise one joint under limits on the others; any point can be opened."""

from __future__ import annotations

from collections.abc import Callable, Mapping
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

from zesty_lever.analysis import Result, analyse
from zesty_lever.bench import edits
from zesty_lever.choosing.technique import Point, Search, search
from zesty_lever.exercises.catalogue import variation
from zesty_lever.joints import BY_KEY, COACH_JOINTS
from zesty_lever.ui.kit.controls import heading, note, picker
from zesty_lever.ui.kit.theme import Theme, font
from zesty_lever.ui.kit.waiting import Waiting
from zesty_lever.ui.paint.figure import paint_figure, paint_floor, paint_ghost, paint_surfaces
from zesty_lever.ui.paint.levers import lever_marks, paint_joint_dot, paint_lever
from zesty_lever.ui.paint.view import View
from zesty_lever.ui.session import Session
from zesty_lever.wording.sentences import setup_title
from zesty_lever.wording.units import UNITS, minus

AIMS = [(group.key, most) for group in COACH_JOINTS for most in (False, True)]


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
        return (
            [] if self.found is None else [*self.found.frontier, self.found.best, self.found.start]
        )

    @property
    def plot(self) -> QRectF:
        """Where the dots are."""
        return QRectF(self.rect()).adjusted(56, 18, -24, -46)

    def spans(self) -> tuple[tuple[float, float], tuple[float, float]]:
        """Least and most of knee and hip, N m."""
        knee, hip = ([p.peaks[j] for p in self.points()] for j in ("knee", "hip"))
        return (min(knee), max(knee) + 1e-6), (min(hip), max(hip) + 1e-6)

    def to_screen(self, peaks: Any) -> QPointF:
        """Screen place of a technique's peaks."""
        area, ((x0, x1), (y0, y1)) = self.plot, self.spans()
        return QPointF(
            area.left() + area.width() * (peaks["knee"] - x0) / (x1 - x0),
            area.bottom() - area.height() * (peaks["hip"] - y0) / (y1 - y0),
        )

    def mousePressEvent(self, event: QMouseEvent) -> None:
        gaps = [
            float(np.hypot(*(self.to_screen(p.peaks) - event.position()).toTuple()))
            for p in self.points()
        ]
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
        painter.setPen(
            QPen(QColor(theme.ink if self.hasFocus() else theme.line), 2 if self.hasFocus() else 1)
        )
        painter.setBrush(QColor(theme.panel))
        painter.drawRect(self.rect().adjusted(1, 1, -2, -2))
        points = self.points()
        painter.setFont(font(12))
        painter.setPen(QColor(theme.faint))
        if not points:
            painter.drawText(
                self.rect(),
                Qt.AlignmentFlag.AlignCenter,
                "Choose what to lower or raise, then search.",
            )
            return
        self._paint_scales(painter)
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
        painter.drawText(
            QPointF(56, self.height() - 10),
            minus(
                f"knee peak, N·m, across; hip peak, N·m, up; darker: more lower back ({min(backs):.0f} to {max(backs):.0f} N·m)"
            ),
        )

    def _paint_scales(self, painter: QPainter) -> None:
        """Round numbers along both edges."""
        across, up = self.spans()
        area = self.plot
        for value in round_numbers(*across):
            x = self.to_screen({"knee": value, "hip": up[0]}).x()
            painter.setPen(QPen(QColor(self.theme.line), 1))
            painter.drawLine(QPointF(x, area.top()), QPointF(x, area.bottom() + 10))
            painter.setPen(QColor(self.theme.faint))
            painter.drawText(
                QRectF(x - 25, area.bottom() + 11, 50, 15),
                Qt.AlignmentFlag.AlignHCenter,
                minus(f"{value:.0f}"),
            )
        for value in round_numbers(*up):
            y = self.to_screen({"knee": across[0], "hip": value}).y()
            painter.setPen(QPen(QColor(self.theme.line), 1))
            painter.drawLine(QPointF(area.left() - 10, y), QPointF(area.right(), y))
            painter.setPen(QColor(self.theme.faint))
            painter.drawText(
                QRectF(2, y - 8, 40, 16), Qt.AlignmentFlag.AlignRight, minus(f"{value:.0f}")
            )


def round_numbers(low: float, high: float) -> list[float]:
    """Four to ten multiples of 1, 2 or 5 times a power of ten between two ends (fewer where they are close)."""
    span = max(high - low, 1e-9)
    step = next(
        s
        for s in (1.0, 2.0, 5.0, 10.0, 20.0, 50.0, 100.0, 200.0, 500.0, 1000.0, 1e9)
        if span / s <= 9.0
    )
    return [float(v) for v in np.arange(np.ceil(low / step), np.floor(high / step) + 1.0) * step]


class Preview(QWidget):
    """The chosen technique at its decisive moment, the one at hand dashed behind it."""

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__()
        self.session, self.theme = session, theme
        self.result: Result | None = None
        self.own: Result | None = None
        self.setMinimumHeight(260)
        self.setAccessibleName("The chosen technique, the one at hand dashed")

    def show_settings(self, own: Result, settings: Mapping[str, float] | None) -> None:
        """Solve a technique of a set-up and draw it over that; None: nothing is chosen."""
        self.own, self.result = own, None
        if settings is not None:
            given = {k: round(v, 4) for k, v in settings.items() if k in own.case.settings}
            self.result = analyse(own.case.changed(settings={**own.case.settings, **given}))
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        shown, own = self.result, self.own
        if shown is None or not shown.frames or own is None or not own.frames:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        frames = [min(r.timeline.bottom, r.frames - 1) for r in (shown, own)]
        points = [
            p[:, f]
            for r, f in zip((shown, own), frames, strict=True)
            if r.shown.pose
            for p in r.shown.pose.points.values()
        ]
        places = np.array(points)
        view = View.fit(
            QRectF(self.rect()).adjusted(4, 4, -4, -4),
            float(places[:, 1].max()) + 0.15,
            own.case.athlete.height_m,
            (float(places[:, 0].min()), float(places[:, 0].max())),
        )
        paint_floor(painter, view, self.theme, self.width())
        paint_ghost(painter, view, own, frames[1], QColor(self.theme.faint))
        paint_surfaces(painter, view, self.theme, shown)
        paint_figure(painter, view, self.theme, shown, frames[0])
        for mark in lever_marks(shown, frames[0], view):
            if not mark.joint.startswith("ankle"):
                paint_lever(painter, self.theme, mark)
                paint_joint_dot(painter, self.theme, mark.joint, mark.start, 6.0)


class TechniqueScreen(QWidget):
    """Within one variation: what could be different."""

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__()
        self.setObjectName("bench")
        self.session = session
        # The set-up that has been searched about.
        self.searched: Result = session.result
        self.waiting = Waiting(session.jobs, "technique")
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
        self.aim = picker(
            "Aim",
            [f"{'Raise' if most else 'Lower'} the {BY_KEY[j].word}'s peak" for j, most in AIMS],
        )
        self.aim.setCurrentIndex(AIMS.index(("back", False)))
        column.addWidget(self.aim)
        self.ceilings: dict[str, QDoubleSpinBox] = {}
        for joint, word in ((g.key, g.word) for g in COACH_JOINTS):
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
        column.addWidget(
            note(
                "Stance, toes, shin and the like are tried about the school's default, as far as is coached, inside the athlete's "
                "range, with the knees over the feet. Poses that round the low back more than now, or that the school would flag, "
                "are left out. A smaller moment at one joint is usually a larger one elsewhere."
            )
        )
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
        self.preview = Preview(self.session, self.picture.theme)
        column.addWidget(self.preview, 1)
        self.opener = QPushButton("Open on the bench")
        self.opener.setFont(font(13))
        self.opener.setToolTip("Set the bench to the chosen technique; undo goes back.")
        self.opener.clicked.connect(self.to_bench)
        column.addWidget(self.opener)
        return side

    def _name(self) -> None:
        self.what.setText(setup_title(self.session.result.case, self.session.editing))

    def ask(self) -> None:
        """Search beside the window."""
        joint, most = AIMS[self.aim.currentIndex()]
        ceilings = {j: b.value() for j, b in self.ceilings.items() if b.value() > 0}
        about, keep = self.session.result, not self.free_depth.isChecked()

        def work(tell: Callable[[float], None]) -> tuple[Result, Search]:
            return about, search(
                about.case, joint, most=most, ceilings=ceilings, keep_depth=keep, tell=tell
            )

        self.waiting.ask(work)

    def _fail(self, why: str) -> None:
        self.picture.found = None
        self.preview.show_settings(self.searched, None)
        self.words.setText(why)
        self.picture.update()

    def _answer(self, answer: tuple[Result, Search]) -> None:
        self.searched, self.picture.found = answer
        self.choose(len(answer[1].frontier))

    def choose(self, index: int) -> None:
        """Show one technique in words."""
        self.picture.chosen = index
        self.picture.update()
        point = self.picture.points()[index]
        start = self.picture.points()[-1]
        known = variation(self.searched.case.variation).settings
        peaks = "<br>".join(
            f"<b>{BY_KEY[j].word.capitalize()}</b> {point.peaks[j]:.0f} N·m ({point.peaks[j] - start.peaks[j]:+.0f})"
            for j in BY_KEY
        )
        settings = "<br>".join(
            f"{known[k].name}: {UNITS.text(v, known[k].unit, 0)}"
            for k, v in point.settings.items()
            if k in known
        )
        self.preview.show_settings(self.searched, point.settings)
        shown, free = self.preview.result, self.searched.case.free
        if shown is not None and shown.feasible and free is not None:
            solved = shown.solved.bottom_deg
            settings += (
                f"<br>{known[free].name}: {UNITS.text(solved[free], known[free].unit, 0)}, solved"
            )
        self.words.setText(minus(f"{peaks}<br><br>{settings}"))

    def to_bench(self) -> None:
        """Set the bench to the chosen technique of what has been searched about."""
        points = self.picture.points()
        if 0 <= self.picture.chosen < len(points):
            case = self.searched.case
            chosen = {
                k: round(v, 4)
                for k, v in points[self.picture.chosen].settings.items()
                if k in case.settings
            }
            setup = case.setup
            if setup.variation == self.session.setup.variation:
                setup = self.session.setup
            self.session.do(edits.put_setup, setup.changed(settings={**setup.settings, **chosen}))

    def set_theme(self, theme: Theme) -> None:
        """Repaint in another theme."""
        for picture in (self.picture, self.preview):
            picture.theme = theme
            picture.update()
