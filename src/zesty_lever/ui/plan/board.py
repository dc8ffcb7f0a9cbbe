"""The weeks of a plan as a board: a row a week, a column a day, a slip a session; dragged or moved by keys."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen

from zesty_lever.plan.document import WEEKDAYS, Session
from zesty_lever.ui.kit.screen import Themed
from zesty_lever.ui.kit.theme import Theme, font
from zesty_lever.ui.kit.zoom import ZOOM
from zesty_lever.ui.plan.desk import PlanDesk
from zesty_lever.wording.records import STATE_WORDS, day_short

HEAD_PX, ROW_PX, NAME_PX = 22.0, 46.0, 74.0
MOVES = {
    Qt.Key.Key_Left: (0, -1),
    Qt.Key.Key_Right: (0, 1),
    Qt.Key.Key_Up: (-1, 0),
    Qt.Key.Key_Down: (1, 0),
}


class Board(Themed):
    """``moved`` (key, week, weekday): a session is put on another day. ``entered``: Enter on a session."""

    moved = Signal(str, int, int)
    entered = Signal()

    def __init__(self, desk: PlanDesk, theme: Theme) -> None:
        super().__init__(theme)
        self.desk = desk
        self.carried: tuple[str, QPointF] | None = None
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Weeks of the plan")
        self.setToolTip(
            "Arrows go from session to session, with Alt they move it to another day; drag does the same."
        )
        desk.changed.connect(self.refresh)

    def refresh(self) -> None:
        """Take over what is on the desk."""
        weeks = max(len(self.desk.plan.weeks), 1)
        self.setFixedHeight(ZOOM.px(HEAD_PX + weeks * ROW_PX + 4.0))
        self.setAccessibleDescription(self.spoken())
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(ZOOM.px(520), ZOOM.px(HEAD_PX + ROW_PX))

    def spoken(self) -> str:
        """The chosen session in words."""
        chosen = self.desk.chosen
        if chosen is None:
            return "No session chosen."
        return f"Week {self.desk.week + 1}, {WEEKDAYS[chosen.weekday]}: {chosen.name or 'Session'}"

    # --- places ------------------------------------------------------------------------------

    def _cell(self, week: int, weekday: int) -> QRectF:
        wide = (self.canvas().width() - NAME_PX - 4.0) / 7.0
        return QRectF(NAME_PX + weekday * wide, HEAD_PX + week * ROW_PX, wide, ROW_PX)

    def slips(self) -> list[tuple[str, QRectF, Session, int]]:
        """Key, place, session and week of every slip."""
        found = []
        for number, week in enumerate(self.desk.plan.weeks):
            for weekday in range(7):
                own = [s for s in week.sessions if s.weekday == weekday]
                for at, session in enumerate(own):
                    cell = self._cell(number, weekday).adjusted(2, 3, -2, -3)
                    tall = cell.height() / len(own)
                    place = QRectF(cell.left(), cell.top() + at * tall, cell.width(), tall - 1)
                    found.append((session.key, place, session, number))
        return found

    def day_at(self, at: QPointF) -> tuple[int, int] | None:
        """Week and weekday of a place; None beside the board."""
        for week in range(len(self.desk.plan.weeks)):
            for weekday in range(7):
                if self._cell(week, weekday).contains(at):
                    return week, weekday
        return None

    # --- painting ----------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent) -> None:
        painter, theme = self.painter(), self.theme
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setFont(font(12))
        for weekday, name in enumerate(WEEKDAYS):
            painter.setPen(QColor(theme.faint))
            place = self._cell(0, weekday)
            painter.drawText(
                QRectF(place.left(), 2, place.width(), 18), Qt.AlignmentFlag.AlignHCenter, name[:3]
            )
        row, today = self.desk.row, self.desk.register.today()
        for number, week in enumerate(self.desk.plan.weeks):
            line = QRectF(0, HEAD_PX + number * ROW_PX, self.canvas().width() - 4, ROW_PX)
            if number % 2 == 0:
                painter.fillRect(line, QColor(theme.panel))
            painter.setPen(QColor(theme.ink))
            painter.setFont(font(12, bold=True))
            painter.drawText(QPointF(4, line.top() + 18), f"Week {number + 1}")
            painter.setFont(font(11))
            painter.setPen(QColor(theme.faint))
            words = "lighter" if week.deload else week.note
            if row is not None:
                monday = row.first_day + 7 * number
                words = words or day_short(monday)[4:]
                if 0 <= today - monday < 7:
                    cell = self._cell(number, today - monday)
                    painter.setPen(QPen(QColor(theme.ink), 1.5, Qt.PenStyle.DotLine))
                    painter.setBrush(Qt.BrushStyle.NoBrush)
                    painter.drawRect(cell.adjusted(1, 1, -1, -1))
                    painter.setPen(QColor(theme.faint))
            painter.drawText(
                QPointF(4, line.top() + 36),
                painter.fontMetrics().elidedText(
                    words, Qt.TextElideMode.ElideRight, int(NAME_PX - 8)
                ),
            )
        for key, place, session, _ in self.slips():
            if self.carried is None or self.carried[0] != key:
                self._paint_slip(painter, key, place, session)
        if self.carried is not None:
            self._paint_carried(painter)

    def _paint_carried(self, painter: QPainter) -> None:
        assert self.carried is not None
        key, at = self.carried
        found = next((s for s in self.slips() if s[0] == key), None)
        if found is not None:
            place = QRectF(found[1])
            place.moveCenter(at)
            self._paint_slip(painter, key, place, found[2])

    def _paint_slip(self, painter: QPainter, key: str, place: QRectF, session: Session) -> None:
        theme = self.theme
        state = self.desk.state_of(key)
        chosen = key == self.desk.key
        done = state is not None and state.state == "done"
        ground = theme.choose if chosen else theme.well if done else theme.panel
        painter.setPen(
            QPen(
                QColor(theme.ink if chosen and self.hasFocus() else theme.edge),
                2 if chosen and self.hasFocus() else 1,
            )
        )
        painter.setBrush(QColor(ground))
        painter.drawRoundedRect(place, 4, 4)
        painter.setPen(QColor(theme.choose_ink if chosen else theme.ink))
        painter.setFont(font(12))
        inner = place.adjusted(5, 2, -3, -2)
        name = painter.fontMetrics().elidedText(
            session.name or "Session", Qt.TextElideMode.ElideRight, int(inner.width())
        )
        painter.drawText(inner, 0, name)
        if place.height() > 30:
            lifts = sum(item.setup is not None for _, item in session.listed())
            words = f"{lifts} lifts"
            if state is not None and state.state != "planned":
                words = STATE_WORDS[state.state]
            elif state is not None and state.day < self.desk.register.today():
                words = "not done"
            painter.setFont(font(11))
            painter.setPen(QColor(theme.choose_ink if chosen else theme.faint))
            painter.drawText(inner.adjusted(0, 17, 0, 0), 0, words)

    # --- hands -------------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent) -> None:
        at = self.pointed(event)
        key = next((k for k, place, *_ in self.slips() if place.contains(at)), None)
        if key is not None:
            self.desk.choose(key)
            self.carried = (key, at)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self.carried is not None:
            self.carried = (self.carried[0], self.pointed(event))
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self.carried is None:
            return
        key, at = self.carried[0], self.pointed(event)
        self.carried = None
        self.update()
        day, here = self.day_at(at), next((s for s in self.slips() if s[0] == key), None)
        if day is not None and here is not None and day != (here[3], here[2].weekday):
            self.moved.emit(key, *day)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        way = MOVES.get(Qt.Key(event.key()))
        chosen = self.desk.chosen
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.entered.emit()
        elif way is None or chosen is None:
            super().keyPressEvent(event)
        elif event.modifiers() & Qt.KeyboardModifier.AltModifier:
            week, weekday = self.desk.week + way[0], chosen.weekday + way[1]
            if 0 <= week < len(self.desk.plan.weeks) and 0 <= weekday <= 6:
                self.moved.emit(chosen.key, week, weekday)
        else:
            keys = [key for key, *_ in self.slips()]
            step = way[0] + way[1]
            self.desk.choose(keys[min(max(keys.index(chosen.key) + step, 0), len(keys) - 1)])
