"""What matters: one step of each lever, and a map of two of them with the set-up's own point to drag."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt, QTimer, Signal
from PySide6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import (
    QComboBox,
    QFrame,
    QHBoxLayout,
    QLabel,
    QVBoxLayout,
    QWidget,
)

from zesty_lever.choosing.sensitivity import Map, Slope, setting_map_in_parts, slopes
from zesty_lever.exercises.catalogue import variation
from zesty_lever.joints import COACH_JOINTS
from zesty_lever.ui.number import UNITS
from zesty_lever.ui.painters.levers import minus, paint_joint_dot
from zesty_lever.ui.session import Session
from zesty_lever.ui.theme import Theme, font
from zesty_lever.ui.waiting import Waiting

WAIT_MS = 250
BANDS = 8
ROW_PX = 22


class SlopeBoard(QWidget):
    """Each setting as three bars: what one step does to hip, knee and lower back."""

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self.theme, self.slopes = theme, list[Slope]()
        self.setAccessibleName("What one step of each lever does")
        self.setMinimumHeight(200)

    def show_slopes(self, found: list[Slope]) -> None:
        """Show other slopes, the largest first."""
        size = lambda s: -max((abs(v) for v in (s.change_Nm or {}).values()), default=0.0)  # noqa: E731
        self.slopes = sorted(found, key=size)
        self.setAccessibleDescription("; ".join(_spoken(s) for s in self.slopes))
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(320, 240)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        rows = max(int((self.height() - 20) / ROW_PX), 1)
        shown = self.slopes[:rows]
        most = (
            max((abs(v) for s in shown for v in (s.change_Nm or {}).values()), default=1.0) or 1.0
        )
        wide = (self.width() - 132.0) / 3.0
        painter.setFont(font(11))
        for column, group in enumerate(COACH_JOINTS):
            joint, word = group.shown, group.word
            x = 132.0 + column * wide
            paint_joint_dot(painter, self.theme, joint, QPointF(x + 6, 8), 4.0)
            painter.setPen(QColor(self.theme.faint))
            painter.drawText(QPointF(x + 14, 12), word.removeprefix("lower "))
        for row, slope in enumerate(shown):
            y = 20.0 + row * ROW_PX
            painter.setFont(font(12))
            painter.setPen(QColor(self.theme.ink))
            painter.drawText(
                QRectF(0, y, 128, ROW_PX),
                Qt.AlignmentFlag.AlignVCenter,
                f"{slope.name}, {slope.per}",
            )
            if slope.change_Nm is None:
                painter.setPen(QColor(self.theme.faint))
                painter.drawText(
                    QRectF(132, y, 200, ROW_PX), Qt.AlignmentFlag.AlignVCenter, "no room either way"
                )
                continue
            for column, group in enumerate(COACH_JOINTS):
                joint, word = group.shown, group.word
                value = slope.change_Nm[word]
                middle = 132.0 + (column + 0.5) * wide
                length = 0.42 * wide * value / most
                colour = self.theme.joint(joint)
                painter.fillRect(
                    QRectF(min(middle, middle + length), y + 12, abs(length), 6), colour
                )
                painter.setPen(QPen(QColor(self.theme.line), 1))
                painter.drawLine(QPointF(middle, y + 9), QPointF(middle, y + 20))
                painter.setPen(colour)
                painter.setFont(font(11, bold=True))
                painter.drawText(
                    QRectF(middle - wide / 2, y - 2, wide, 14),
                    Qt.AlignmentFlag.AlignHCenter,
                    minus(f"{value:+.1f}"),
                )


def _spoken(slope: Slope) -> str:
    if slope.change_Nm is None:
        return f"{slope.name}: no room"
    return f"{slope.name} {slope.per}: " + ", ".join(
        f"{w} {v:+.1f} newton metres" for w, v in slope.change_Nm.items()
    )


class MapView(QWidget):
    """Two settings against each other: shaded by a joint's moment, contours, the point at hand."""

    dragged = Signal(float, float)
    dropped = Signal()
    nudged = Signal(int, int)

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__()
        self.session, self.theme = session, theme
        self.map: Map | None = None
        self._held = False
        self.setMinimumHeight(230)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Map of two settings")
        self.setToolTip(
            "Drag the ring: both settings follow. Arrow keys move it a step. Hatched: can't be done."
        )

    def sizeHint(self) -> QSize:
        return QSize(320, 270)

    @property
    def plot(self) -> QRectF:
        """Area of the map."""
        return QRectF(self.rect()).adjusted(44, 8, -10, -34)

    def to_screen(self, across: float, up: float) -> QPointF:
        """Screen place of two values."""
        assert self.map is not None
        area, m = self.plot, self.map
        x = (across - m.across[0]) / (m.across[-1] - m.across[0])
        y = (up - m.up[0]) / (m.up[-1] - m.up[0])
        return QPointF(area.left() + x * area.width(), area.bottom() - y * area.height())

    def from_screen(self, at: QPointF) -> tuple[float, float]:
        """Two values of a screen place, held inside the map."""
        assert self.map is not None
        area, m = self.plot, self.map
        x = min(max((at.x() - area.left()) / area.width(), 0.0), 1.0)
        y = min(max((area.bottom() - at.y()) / area.height(), 0.0), 1.0)
        return float(m.across[0] + x * (m.across[-1] - m.across[0])), float(
            m.up[0] + y * (m.up[-1] - m.up[0])
        )

    def point(self) -> QPointF | None:
        """Where the set-up at hand is."""
        if self.map is None:
            return None
        settings = self.session.result.case.settings
        across, up = settings.get(self.map.across_key), settings.get(self.map.up_key)
        return None if across is None or up is None else self.to_screen(across, up)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if self.map is not None and event.button() == Qt.MouseButton.LeftButton:
            self._held = True
            self.session.begin_drag()
            self.dragged.emit(*self.from_screen(event.position()))

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._held:
            self.dragged.emit(*self.from_screen(event.position()))

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._held:
            self._held = False
            self.dropped.emit()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        ways = {
            Qt.Key.Key_Right: (1, 0),
            Qt.Key.Key_Left: (-1, 0),
            Qt.Key.Key_Up: (0, 1),
            Qt.Key.Key_Down: (0, -1),
        }
        way = ways.get(Qt.Key(event.key()))
        if way is None or self.map is None:
            super().keyPressEvent(event)
        else:
            self.nudged.emit(*way)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        m, area, theme = self.map, self.plot, self.theme
        painter.setPen(
            QPen(QColor(theme.ink if self.hasFocus() else theme.line), 2 if self.hasFocus() else 1)
        )
        painter.setBrush(QColor(theme.well))
        painter.drawRect(area)
        if m is None or not m.feasible.any():
            painter.setPen(QColor(theme.faint))
            painter.drawText(
                area,
                Qt.AlignmentFlag.AlignCenter,
                "working it out" if m is None else "nothing here can be done",
            )
            return
        low, high = float(np.nanmin(m.values_Nm)), float(np.nanmax(m.values_Nm))
        self._paint_cells(painter, m, low, high)
        self._paint_contours(painter, m, low, high)
        self._paint_axes(painter, m)
        at = self.point()
        if at is not None:
            painter.setPen(QPen(QColor(theme.ink), 2.5))
            painter.setBrush(QColor(theme.paper))
            painter.drawEllipse(at, 8, 8)

    def _paint_cells(self, painter: QPainter, m: Map, low: float, high: float) -> None:
        area = self.plot
        wide, tall = area.width() / (len(m.across) - 1), area.height() / (len(m.up) - 1)
        colour = self.theme.joint(m.joint)
        painter.save()
        painter.setClipRect(area)
        painter.setPen(Qt.PenStyle.NoPen)
        for row, up in enumerate(m.up):
            for column, across in enumerate(m.across):
                cell = QRectF(-wide / 2, -tall / 2, wide + 0.6, tall + 0.6).translated(
                    self.to_screen(across, up)
                )
                if not m.feasible[row, column]:
                    painter.fillRect(cell, QColor(self.theme.well))
                    continue
                share = (m.values_Nm[row, column] - low) / max(high - low, 1e-9)
                shade = QColor(colour)
                shade.setAlpha(20 + int(150 * (int(share * BANDS) / BANDS)))
                painter.fillRect(cell, QColor(self.theme.panel))
                painter.fillRect(cell, shade)
        painter.restore()

    def _paint_contours(self, painter: QPainter, m: Map, low: float, high: float) -> None:
        painter.setPen(QPen(self.theme.joint(m.joint), 1.2))
        painter.setFont(font(11, bold=True))
        step = nice_step((high - low) / 5.0)
        level = np.ceil(low / step) * step
        while level < high:
            ends = contour(m, float(level))
            for one, two in ends:
                painter.drawLine(self.to_screen(*one), self.to_screen(*two))
            if ends:
                painter.drawText(
                    self.to_screen(*ends[len(ends) // 2][0]) + QPointF(3, -3), minus(f"{level:.0f}")
                )
            level += step

    def _paint_axes(self, painter: QPainter, m: Map) -> None:
        area, known = self.plot, variation(self.session.setup.variation).settings
        painter.setFont(font(11))
        painter.setPen(QColor(self.theme.faint))
        for value, edge in ((m.across[0], area.left()), (m.across[-1], area.right())):
            painter.drawText(
                QRectF(edge - 40, area.bottom() + 3, 80, 14),
                Qt.AlignmentFlag.AlignHCenter,
                minus(UNITS.text(float(value), known[m.across_key].unit, 0)),
            )
        for value, edge in ((m.up[0], area.bottom()), (m.up[-1], area.top() + 8)):
            painter.drawText(
                QRectF(0, edge - 8, 40, 14),
                Qt.AlignmentFlag.AlignRight,
                minus(UNITS.text(float(value), known[m.up_key].unit, 0)),
            )
        painter.drawText(
            QRectF(area.left(), area.bottom() + 17, area.width(), 14),
            Qt.AlignmentFlag.AlignHCenter,
            f"{known[m.across_key].name} across, {known[m.up_key].name.lower()} up; N·m, at the deepest point",
        )


def nice_step(about: float) -> float:
    """A round step near a size: 1, 2, 5 times a power of ten."""
    power = 10.0 ** np.floor(np.log10(max(about, 1e-6)))
    return float(next(f for f in (1.0, 2.0, 5.0, 10.0) if f * power >= about) * power)


def contour(m: Map, level: float) -> list[tuple[tuple[float, float], tuple[float, float]]]:
    """Pieces of the line where the map's value is ``level``, between feasible corners only."""
    pieces = []
    v = m.values_Nm
    for row in range(len(m.up) - 1):
        for column in range(len(m.across) - 1):
            corners = [(row, column), (row, column + 1), (row + 1, column + 1), (row + 1, column)]
            if not all(m.feasible[c] for c in corners):
                continue
            crossed = []
            for one, two in zip(corners, corners[1:] + corners[:1], strict=True):
                a, b = v[one] - level, v[two] - level
                if (a < 0) != (b < 0):
                    t = a / (a - b)
                    crossed.append(
                        (
                            float(m.across[one[1]] + t * (m.across[two[1]] - m.across[one[1]])),
                            float(m.up[one[0]] + t * (m.up[two[0]] - m.up[one[0]])),
                        )
                    )
            pieces += [(crossed[i], crossed[i + 1]) for i in range(0, len(crossed) - 1, 2)]
    return pieces


class SensePanel(QFrame):
    """Right-hand column, third face."""

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__()
        self.setObjectName("card")
        self.session = session
        self.waiting = Waiting("map")
        self.board, self.view = SlopeBoard(theme), MapView(session, theme)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(14, 10, 14, 10)
        head = QLabel("What one step does, N·m at the bottom")
        head.setFont(font(15, bold=True))
        layout.addWidget(head)
        layout.addWidget(self.board, 1)
        row = QHBoxLayout()
        self.across, self.up, self.joint = QComboBox(), QComboBox(), QComboBox()
        for box, name in (
            (self.across, "Map: across"),
            (self.up, "Map: up"),
            (self.joint, "Map: joint"),
        ):
            box.setFont(font(12))
            box.setAccessibleName(name)
            box.setToolTip(f"{name}.")
            box.setSizeAdjustPolicy(
                QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon
            )
            box.setMinimumContentsLength(6)
            box.activated.connect(self._restart)
            row.addWidget(box, 1)
        for group in COACH_JOINTS:
            self.joint.addItem(group.word.capitalize(), group.shown)
        layout.addLayout(row)
        layout.addWidget(self.view, 1)
        layout.addWidget(self.waiting)
        self.view.dragged.connect(self._drag)
        self.view.dropped.connect(lambda: session.finish_drag("Drag on the map"))
        self.view.nudged.connect(self._nudge)
        self._soon = QTimer(self, singleShot=True, interval=WAIT_MS)
        self._soon.timeout.connect(self._ask)
        self.waiting.answered.connect(self._answer)
        session.changed.connect(self.refresh)
        session.posed.connect(self.view.update)
        self._choices_for = ""
        self._shown_for: object = None

    def showEvent(self, event: Any) -> None:
        super().showEvent(event)
        self.refresh()

    def set_theme(self, theme: Theme) -> None:
        """Repaint in another theme."""
        self.board.theme = self.view.theme = theme
        self.board.update()
        self.view.update()

    def refresh(self) -> None:
        """Follow the set-up; slopes and map are worked out when the hand rests."""
        m, settings = self.view.map, self.session.result.case.settings
        if m is not None and not {m.across_key, m.up_key} <= set(settings):
            # Of another variation: its settings mean nothing here.
            self.view.map = None
        if not self.isVisible():
            return
        self._fill_choices()
        self.view.update()
        if self._shown_for is not self.session.result:
            self._soon.start()

    def _fill_choices(self) -> None:
        settings = self.session.result.case.settings
        keys = [k for k, v in settings.items() if v is not None]
        mark = ",".join([self.session.setup.variation, *keys])
        if mark == self._choices_for:
            return
        known = variation(self.session.setup.variation).settings
        for box, wanted in (
            (self.across, ("shin_deg", "stance_m")),
            (self.up, ("thigh_deg", "trunk_deg", "bar_height_m")),
        ):
            box.clear()
            for key in keys:
                box.addItem(known[key].name, key)
            # Two different ones, where there are two.
            free = [k for k in keys if box is self.across or k != self.across.currentData()] or keys
            box.setCurrentIndex(box.findData(next((k for k in wanted if k in free), free[0])))
        self._choices_for = mark

    def _restart(self) -> None:
        self._shown_for, self.view.map = None, None
        self.refresh()

    def _ask(self) -> None:
        result = self.session.result
        self._shown_for = result
        across, up, joint = (
            self.across.currentData(),
            self.up.currentData(),
            self.joint.currentData(),
        )

        def work(tell: Callable[[float], None]) -> tuple[object, list[Slope], Map | None]:
            found = [] if result.error else slopes(result.case)
            parts: list[Map | None] = [None]
            if across != up:
                for filling, share in setting_map_in_parts(result.case, across, up, joint):
                    parts = [filling]
                    tell(share)
            return result, found, parts[0]

        self.waiting.ask(work)

    def _answer(self, answer: tuple[object, list[Slope], Map | None]) -> None:
        result, found, filled = answer
        if result is not self.session.result:
            return  # of a set-up that is no longer there; the next question is on its way
        self.view.map = filled
        self.board.show_slopes(found)
        self.view.update()

    def _drag(self, across: float, up: float) -> None:
        m = self.view.map
        if m is None:
            return
        known = variation(self.session.setup.variation).settings
        # A dragged point lands on the steps that a coach would set.
        one, two = (
            round(v / known[k].step) * known[k].step
            for v, k in ((across, m.across_key), (up, m.up_key))
        )
        self.session.drag_pair(m.across_key, round(one, 5), m.up_key, round(two, 5))
        self.view.update()

    def _nudge(self, across: int, up: int) -> None:
        m = self.view.map
        if m is None:
            return
        key = m.across_key if across else m.up_key
        setting = variation(self.session.setup.variation).settings[key]
        now = self.session.result.case.settings[key] or 0.0
        value = min(max(now + (across or up) * setting.step, setting.low), setting.high)
        self.session.set_setting(key, round(value, 5))
