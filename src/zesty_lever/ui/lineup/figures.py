"""Set-ups side by side on one ground line and one scale, with their levers; their curves overlaid."""

from __future__ import annotations

from PySide6.QtCore import QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QSizePolicy

from zesty_lever.analysis import Result
from zesty_lever.choosing.compare import Compared, Failed
from zesty_lever.exercises.catalogue import variation
from zesty_lever.ui.kit.screen import Themed
from zesty_lever.ui.kit.theme import Theme, font
from zesty_lever.ui.paint.figure import paint_figure, paint_floor, paint_surfaces
from zesty_lever.ui.paint.levers import lever_marks, paint_joint_dot, paint_lever
from zesty_lever.ui.paint.lines import paint_lines
from zesty_lever.ui.paint.view import View
from zesty_lever.wording.sentences import lined_up_name, load_words
from zesty_lever.wording.units import UNITS

# The names of the table's rows stand left of the figures' columns.
NAMES_WIDE = 132


class Figures(Themed):
    """All set-ups at their decisive moment, on one ground line and one scale, each over its column.

    ``picked``: a figure was pressed.
    """

    picked = Signal(int)

    def __init__(self, theme: Theme) -> None:
        super().__init__(theme)
        self.compared: list[Compared | Failed] = []
        self.chosen = 0
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumHeight(230)
        self.setAccessibleName("Line-up: figures on one scale")

    def sizeHint(self) -> QSize:
        return QSize(800, 280)

    def results(self) -> list[Result | None]:
        """Solved ones, None for the others."""
        return [c.result if isinstance(c, Compared) else None for c in self.compared]

    def mousePressEvent(self, event: QMouseEvent) -> None:
        count = len(self.compared)
        index = int(
            (self.pointed(event).x() - NAMES_WIDE)
            // max((self.canvas().width() - NAMES_WIDE) / max(count, 1), 1.0)
        )
        if 0 <= index < count:
            self.picked.emit(index)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = self.painter()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.canvas(), QColor(self.theme.paper))
        results = self.results()
        if not results:
            painter.setPen(QColor(self.theme.faint))
            painter.drawText(
                self.canvas(),
                Qt.AlignmentFlag.AlignCenter,
                "Add two to six set-ups from the bench.",
            )
            return
        area = QRectF(
            NAMES_WIDE, 8, self.canvas().width() - NAMES_WIDE, self.canvas().height() - 52
        )
        wide = area.width() / len(results)
        spans = [self._span(r) for r in results if r is not None] or [(1.0, 1.8)]
        scale = min(
            wide / (max(s[0] for s in spans) + 0.15),
            area.height() / (max(s[1] for s in spans) + 0.05),
        )
        floor = area.bottom()
        painter.fillRect(
            QRectF(area.left() + self.chosen * wide, 0, wide, self.canvas().height()),
            QColor(self.theme.panel),
        )
        paint_floor(painter, View(scale, area.left() + 20, floor), self.theme, area.right())
        for index, (item, result) in enumerate(zip(self.compared, results, strict=True)):
            middle = area.left() + (index + 0.5) * wide
            self._paint_one(painter, item, result, scale, middle, floor, wide)

    @staticmethod
    def _span(result: Result) -> tuple[float, float]:
        pose, at = result.shown.pose, min(result.timeline.bottom, result.frames - 1)
        x = [float(p[0, at]) for p in pose.points.values()]
        y = [float(p[1, at]) for p in pose.points.values()]
        return max(x) - min(x), max(y) + 0.15

    def describe(self) -> None:
        """Say what the figures show."""
        cases = [item.case for item in self.compared]
        words = [
            f"{lined_up_name(item.case, cases)}: "
            + ("not possible" if isinstance(item, Failed) else load_words(item.result.case))
            for item in self.compared
        ]
        self.setAccessibleDescription("; ".join(words))

    def _paint_one(
        self,
        painter: QPainter,
        item: Compared | Failed,
        result: Result | None,
        scale: float,
        middle: float,
        floor: float,
        wide: float,
    ) -> None:
        name = lined_up_name(item.case, [other.case for other in self.compared])
        load = (
            UNITS.text(item.case.load_kg or 0.0, "kg")
            if variation(item.case.variation).load
            else "no load"
        )
        load = load.replace(" ", "\N{NO-BREAK SPACE}")
        painter.setFont(font(12, bold=True))
        painter.setPen(QColor(self.theme.ink))
        box = QRectF(middle - wide / 2 + 4, floor + 12, wide - 8, 32)
        painter.drawText(
            box, Qt.AlignmentFlag.AlignHCenter | Qt.TextFlag.TextWordWrap, f"{name}, {load}"
        )
        if result is None:
            painter.setFont(font(12))
            painter.setPen(QColor(self.theme.warn))
            words = item.problem.text if isinstance(item, Failed) else "not possible"
            painter.drawText(
                QRectF(middle - wide / 2 + 8, floor - 150, wide - 16, 140),
                Qt.AlignmentFlag.AlignHCenter | Qt.TextFlag.TextWordWrap,
                words,
            )
            return
        at = result.timeline.bottom
        x = [float(p[0, at]) for p in result.shown.pose.points.values()]
        view = View(scale, middle - scale * 0.5 * (min(x) + max(x)), floor)
        paint_surfaces(painter, view, self.theme, result)
        painter.save()
        painter.setClipRect(QRectF(middle - wide / 2, 0, wide, self.canvas().height()))
        paint_lines(painter, view.point, self.theme, result, at)
        painter.restore()
        paint_figure(painter, view, self.theme, result, at)
        for mark in lever_marks(result, at, view):
            if mark.joint != "ankle_right":
                paint_lever(painter, self.theme, mark)
                paint_joint_dot(painter, self.theme, mark.joint, mark.start, 5.0)
