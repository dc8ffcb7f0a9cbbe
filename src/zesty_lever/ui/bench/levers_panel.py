"""What matters: one step of each lever, and a map of two of them with the set-up's own point to drag."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import replace
from typing import Any

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, QTimer
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import (
    QComboBox,
    QFrame,
    QHBoxLayout,
    QLabel,
    QVBoxLayout,
)

from zesty_lever.bench import edits
from zesty_lever.choosing.sensitivity import Map, Slope, setting_map_in_parts, slopes
from zesty_lever.exercises.catalogue import variation
from zesty_lever.joints import COACH_JOINTS
from zesty_lever.ui.bench.setting_map import SettingMap
from zesty_lever.ui.kit.screen import Themed
from zesty_lever.ui.kit.theme import Theme, font, text_width
from zesty_lever.ui.kit.waiting import Waiting
from zesty_lever.ui.paint.levers import paint_joint_dot
from zesty_lever.ui.session import Session
from zesty_lever.wording.units import UNITS, minus

WAIT_MS = 250
ROW_PX = 22


class SlopeBoard(Themed):
    """Each setting as three bars: what one step does to hip, knee and lower back."""

    def __init__(self, theme: Theme) -> None:
        super().__init__(theme)
        self._found = list[Slope]()
        self.setAccessibleName("What one step of each setting does")
        self.setMinimumHeight(200)

    def show_slopes(self, found: list[Slope]) -> None:
        """Show other slopes, the largest first."""
        size = lambda s: -max((abs(v) for v in (s.change_Nm or {}).values()), default=0.0)  # noqa: E731
        self._found = sorted(found, key=size)
        self.show_units()

    @property
    def slopes(self) -> list[Slope]:
        """The slopes by the steps of the units in use."""
        return [_in_units(slope) for slope in self._found]

    def show_units(self) -> None:
        """Take over the units in use."""
        self.setAccessibleDescription("; ".join(_spoken(s) for s in self.slopes))
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(320, 240)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = self.painter()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        rows = max(int((self.canvas().height() - 20) / ROW_PX), 1)
        shown = self.slopes[:rows]
        most = (
            max((abs(v) for s in shown for v in (s.change_Nm or {}).values()), default=1.0) or 1.0
        )
        # As wide as the longest name that is shown, so that none is cut.
        named = max((text_width(f"{s.name}, {_per(s)}", 12) for s in shown), default=0.0) + 6.0
        wide = (self.canvas().width() - named) / 3.0
        painter.setFont(font(11))
        for column, group in enumerate(COACH_JOINTS):
            joint, word = group.shown, group.word
            x = named + column * wide
            paint_joint_dot(painter, self.theme, joint, QPointF(x + 6, 8), 4.0)
            painter.setPen(QColor(self.theme.faint))
            painter.drawText(QPointF(x + 14, 12), word.removeprefix("lower "))
        for row, slope in enumerate(shown):
            y = 20.0 + row * ROW_PX
            painter.setFont(font(12))
            painter.setPen(QColor(self.theme.ink))
            painter.drawText(
                QRectF(0, y, named, ROW_PX),
                Qt.AlignmentFlag.AlignVCenter,
                f"{slope.name}, {_per(slope)}",
            )
            if slope.change_Nm is None:
                painter.setPen(QColor(self.theme.faint))
                painter.drawText(
                    QRectF(named, y, 200, ROW_PX),
                    Qt.AlignmentFlag.AlignVCenter,
                    "no room either way",
                )
                continue
            for column, group in enumerate(COACH_JOINTS):
                joint, word = group.shown, group.word
                value = slope.change_Nm[word]
                middle = named + (column + 0.5) * wide
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


def _in_units(slope: Slope) -> Slope:
    """A slope by the step of the units in use."""
    per, factor = UNITS.step(slope.per)
    changes = slope.change_Nm
    turned = None if changes is None else {word: factor * nm for word, nm in changes.items()}
    return replace(slope, per=per, change_Nm=turned)


def _per(slope: Slope) -> str:
    """The step that a slope is told by, and to which side where there is only one."""
    return slope.per if slope.side == "both" else f"{slope.per} {slope.side}"


def _spoken(slope: Slope) -> str:
    if slope.change_Nm is None:
        return f"{slope.name}: no room"
    return f"{slope.name} {_per(slope)}: " + ", ".join(
        f"{w} {v:+.1f} newton metres" for w, v in slope.change_Nm.items()
    )


class LeversPanel(QFrame):
    """Right-hand column, third face."""

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__()
        self.setObjectName("card")
        self.session = session
        self.waiting = Waiting(session.jobs, "map", long=False)
        self.board, self.view = SlopeBoard(theme), SettingMap(session, theme)
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
        self.view.moved.connect(self._drag)
        self.view.let_go.connect(lambda: session.finish_drag("Drag on the map"))
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

    def themed(self) -> Iterable[Themed]:
        """The parts that paint themselves."""
        return (self.board, self.view)

    def refresh(self) -> None:
        """Follow the set-up; slopes and map are worked out when the hand rests."""
        m, settings = self.view.map, self.session.result.case.settings
        if m is not None and not {m.across_key, m.up_key} <= set(settings):
            # Of another variation: its settings mean nothing here.
            self.view.map = None
        if not self.isVisible():
            return
        self._fill_choices()
        self.board.show_units()
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
        self.view.show_map(filled)
        self.board.show_slopes(found)

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
        self.session.preview(edits.drag_pair, m.across_key, round(one, 5), m.up_key, round(two, 5))
        self.view.update()

    def _nudge(self, across: int, up: int) -> None:
        m = self.view.map
        if m is None:
            return
        key = m.across_key if across else m.up_key
        setting = variation(self.session.setup.variation).settings[key]
        now = self.session.result.case.settings[key] or 0.0
        value = min(max(now + (across or up) * setting.step, setting.low), setting.high)
        self.session.do(edits.set_setting, key, round(value, 5))
