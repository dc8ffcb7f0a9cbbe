"""The map of two settings that can be dragged in: peak by colour, contours, the set-up as a point."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QPainter, QPen

from zesty_lever.choosing.sensitivity import Map, contour
from zesty_lever.exercises.catalogue import variation
from zesty_lever.ui.kit.plot import Axes, Axis, Plot, nice_step
from zesty_lever.ui.kit.spoken import Spoken
from zesty_lever.ui.kit.theme import Theme, font
from zesty_lever.ui.session import Session
from zesty_lever.wording.units import UNITS, minus, spoken

BANDS, CONTOURS = 8, 5.0


class SettingMap(Plot):
    """Two settings against each other: shaded by a joint's moment, contours, the point at hand.

    ``moved`` (two values): the point is dragged there. ``let_go``: a drag ends. ``nudged``: an arrow key.
    """

    moved = Signal(float, float)
    let_go = Signal()
    nudged = Signal(int, int)
    margins = (64, 8, 12, 38)

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__(
            "Map of two settings",
            "Drag the ring: both settings follow. Arrow keys move it a step. Blank: can't be done.",
            theme,
        )
        self.session = session
        self.map: Map | None = None
        self._told = 0
        self.spoken = Spoken(self)
        self.spoken.wanted.connect(lambda value: self.nudged.emit(value - self._told, 0))
        session.changed.connect(self._speak)
        self.setMinimumHeight(230)

    def sizeHint(self) -> QSize:
        return QSize(320, 270)

    def show_map(self, found: Map | None) -> None:
        """Show another map (None: it is being worked out)."""
        self.map = found
        self._speak()
        self.update()

    def _speak(self) -> None:
        """Have the map say where the set-up stands on it."""
        m, result = self.map, self.session.result
        if m is None:
            return
        known = variation(self.session.setup.variation).settings
        values = {key: result.case.settings.get(key) for key in (m.across_key, m.up_key)}
        told = [
            f"{known[key].name} {spoken(value, known[key].unit)}"
            for key, value in values.items()
            if key in known and value is not None
        ]
        across = values[m.across_key]
        if across is None or m.across_key not in known:
            return
        step = known[m.across_key].step
        self._told = round(across / step)
        ends = (round(float(end) / step) for end in (m.across[0], m.across[-1]))
        self.spoken.tell("Map: " + ", ".join(told), self._told, *ends)

    @property
    def empty(self) -> str:  # type: ignore[override]
        """What is said while there is no map."""
        return "working it out" if self.map is None else "nothing here can be done"

    def _factors(self, m: Map) -> tuple[float, float]:
        """How many of the units shown make one of the settings' own."""
        known = variation(self.session.setup.variation).settings
        across, up = (UNITS.shown(known[key].unit)[1] for key in (m.across_key, m.up_key))
        return across, up

    def axes(self) -> Axes | None:
        """The map's ends, in the units shown."""
        m = self.map
        if m is None or not m.feasible.any():
            return None
        ends = (
            Axis(factor * float(values[0]), factor * float(values[-1]))
            for factor, values in zip(self._factors(m), (m.across, m.up), strict=True)
        )
        return Axes(self.plot, *ends)

    def spot(self, axes: Axes, across: float, up: float) -> QPointF:
        """Screen place of two values in the settings' own units."""
        assert self.map is not None
        one, two = self._factors(self.map)
        return axes.at(one * across, two * up)

    def point(self) -> QPointF | None:
        """Where the set-up at hand is."""
        axes, m = self.axes(), self.map
        if axes is None or m is None:
            return None
        settings = self.session.result.case.settings
        across, up = settings.get(m.across_key), settings.get(m.up_key)
        return None if across is None or up is None else self.spot(axes, across, up)

    def pressed(self, axes: Axes, at: QPointF) -> bool:
        self.session.begin_drag()
        return True

    def dragged(self, across: float, up: float) -> None:
        assert self.map is not None
        one, two = self._factors(self.map)
        self.moved.emit(across / one, up / two)

    def dropped(self) -> None:
        self.let_go.emit()

    def stepped(self, across: int, up: int) -> bool:
        if self.map is None:
            return False
        self.nudged.emit(across, up)
        return True

    def paint_marks(self, painter: QPainter, axes: Axes) -> None:
        m, theme = self.map, self.theme
        assert m is not None
        low, high = float(np.nanmin(m.values_Nm)), float(np.nanmax(m.values_Nm))
        axes.paint_ticks(painter, theme)
        self._paint_cells(painter, axes, m, (low, high))
        self._paint_contours(painter, axes, m, (low, high))
        known = variation(self.session.setup.variation).settings
        one, two = (known[key] for key in (m.across_key, m.up_key))
        units = (UNITS.shown(setting.unit)[0] for setting in (one, two))
        painter.setFont(font(11))
        painter.setPen(QColor(theme.faint))
        painter.drawText(
            QRectF(0, axes.area.bottom() + 20, self.canvas().width(), 14),
            Qt.AlignmentFlag.AlignHCenter,
            f"{one.name} ({next(units)}) across, {two.name.lower()} ({next(units)}) up; N·m, deepest",
        )
        at = self.point()
        if at is not None:
            painter.setPen(QPen(QColor(theme.ink), 2.5))
            painter.setBrush(QColor(theme.paper))
            painter.drawEllipse(at, 8, 8)

    def _paint_cells(
        self, painter: QPainter, axes: Axes, m: Map, ends: tuple[float, float]
    ) -> None:
        area, (low, high) = axes.area, ends
        wide, tall = area.width() / (len(m.across) - 1), area.height() / (len(m.up) - 1)
        painter.save()
        painter.setClipRect(area)
        for row, up in enumerate(m.up):
            for column, across in enumerate(m.across):
                cell = QRectF(-wide / 2, -tall / 2, wide + 0.6, tall + 0.6)
                cell.translate(self.spot(axes, float(across), float(up)))
                if not m.feasible[row, column]:
                    painter.fillRect(cell, QColor(self.theme.well))
                    continue
                share = (m.values_Nm[row, column] - low) / max(high - low, 1e-9)
                shade = QColor(self.theme.joint(m.joint))
                shade.setAlpha(20 + int(150 * (int(share * BANDS) / BANDS)))
                painter.fillRect(cell, QColor(self.theme.panel))
                painter.fillRect(cell, shade)
        painter.restore()

    def _paint_contours(
        self, painter: QPainter, axes: Axes, m: Map, ends: tuple[float, float]
    ) -> None:
        low, high = ends
        painter.setPen(QPen(self.theme.joint(m.joint), 1.2))
        painter.setFont(font(11, bold=True))
        for level in Axis(low, high).ticks((high - low) / nice_step((high - low) / CONTOURS)):
            pieces = contour(m, level)
            for one, two in pieces:
                painter.drawLine(self.spot(axes, *one), self.spot(axes, *two))
            if pieces:
                start = self.spot(axes, *pieces[len(pieces) // 2][0])
                painter.drawText(start + QPointF(3, -3), minus(f"{level:.0f}"))
