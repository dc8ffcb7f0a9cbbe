"""The set-up card: what to set before the first rep, with a sketch as a tape would measure it."""

from __future__ import annotations

import csv
from collections.abc import Iterable
from pathlib import Path

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import (
    QFileDialog,
    QHBoxLayout,
    QLabel,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from zesty_lever.coaching.card import CSV_COLUMNS, Card, card_of
from zesty_lever.io.tables import text_of
from zesty_lever.problems import CaseError
from zesty_lever.ui.kit.controls import push_button
from zesty_lever.ui.kit.screen import Screen, Themed
from zesty_lever.ui.kit.theme import Theme, font
from zesty_lever.ui.paint.card import paint_plan, paint_sketch
from zesty_lever.ui.session import Session
from zesty_lever.wording.sentences import (
    card_value,
    file_name,
    rounding_words,
    setup_title,
    side_words,
)
from zesty_lever.wording.units import UNITS

ROW_PX = 44


class CardPicture(Themed):
    """The card as one sheet: sketch on the left, lines on the right."""

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__(theme)
        self.session = session
        self.card: Card | None = None
        self.why = ""
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumSize(720, 480)
        self.setAccessibleName("Set-up card")
        session.changed.connect(self.refresh)
        self.refresh()

    def sizeHint(self) -> QSize:
        return QSize(1200, 640)

    def refresh(self) -> None:
        """Work the card out anew."""
        try:
            self.card, self.why = card_of(self.session.result, self.session.bench.gym), ""
        except CaseError as error:
            self.card, self.why = None, error.text
        self.setAccessibleDescription(self.spoken())
        self.update()

    def spoken(self) -> str:
        """The card in words."""
        if self.card is None:
            return self.why
        return "; ".join(f"{line.name} {card_value(line)}" for line in self.card.lines)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = self.painter()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme, session = self.theme, self.session
        painter.fillRect(self.canvas(), QColor(theme.panel))
        painter.setPen(QColor(theme.ink))
        painter.setFont(font(20, bold=True))
        athlete = session.bench.athlete
        painter.drawText(
            QPointF(20, 34),
            f"{athlete.name or 'Athlete'}: {setup_title(session.result.case, session.editing)[3:]}",
        )
        painter.setFont(font(13))
        painter.setPen(QColor(theme.faint))
        painter.drawText(
            QPointF(20, 56),
            "Set this up before the first rep. Rounded to what a gym can set; what that changes stands behind.",
        )
        if self.card is None:
            painter.setPen(QColor(theme.warn))
            painter.drawText(
                QRectF(20, 80, self.canvas().width() - 40, 60),
                Qt.TextFlag.TextWordWrap,
                f"No card: {self.why}",
            )
            return
        middle = self.canvas().width() * 0.52
        paint_sketch(
            painter,
            theme,
            session.result,
            self.card,
            QRectF(20, 70, middle - 40, self.canvas().height() - 110),
        )
        self._paint_lines(
            painter,
            QRectF(middle, 72, self.canvas().width() - middle - 20, self.canvas().height() - 110),
        )
        painter.setFont(font(12))
        painter.setPen(QColor(theme.faint))
        painter.drawText(
            QPointF(20, self.canvas().height() - 14),
            "Use racks, safety bars, collars and a spotter. Check every "
            "height with the empty bar first.",
        )

    def _paint_lines(self, painter: QPainter, area: QRectF) -> None:
        assert self.card is not None
        theme, y = self.theme, area.top()
        tall = min(ROW_PX, area.height() / (len(self.card.lines) + 1.6))
        for line in self.card.lines:
            painter.setPen(QPen(QColor(theme.line), 1))
            painter.drawLine(QPointF(area.left(), y), QPointF(area.right(), y))
            painter.setFont(font(14, bold=True))
            painter.setPen(QColor(theme.ink))
            painter.drawText(
                QRectF(area.left(), y + 4, area.width() - 130, 18),
                Qt.AlignmentFlag.AlignLeft,
                line.name,
            )
            painter.setFont(font(18, bold=True))
            painter.drawText(
                QRectF(area.left(), y + 3, area.width(), 22),
                Qt.AlignmentFlag.AlignRight,
                card_value(line),
            )
            painter.setFont(font(12))
            painter.setPen(QColor(theme.faint))
            words = line.why + ("" if abs(line.off) < 5e-4 else f" · {rounding_words(line)}")
            metrics = painter.fontMetrics()
            painter.drawText(
                QRectF(area.left(), y + 24, area.width(), 16),
                Qt.AlignmentFlag.AlignLeft,
                metrics.elidedText(words, Qt.TextElideMode.ElideRight, int(area.width())),
            )
            y += tall
        if self.card.loading is not None:
            loading = self.card.loading
            unit, _, _ = UNITS.shown("kg")
            painter.setFont(font(14, bold=True))
            painter.setPen(QColor(theme.ink))
            words = (
                f"{UNITS.in_words(loading.bar.name)}, discs a side: {side_words(loading)} {unit} "
                f"= {UNITS.text(loading.total_kg, 'kg')}"
            )
            if abs(loading.off_kg) > 0.01:
                words += f" (asked for {UNITS.text(loading.total_kg - loading.off_kg, 'kg')})"
            painter.drawText(
                QRectF(area.left(), y + 8, area.width(), 20), Qt.AlignmentFlag.AlignLeft, words
            )
            y += 30
        paint_plan(
            painter,
            theme,
            self.session.result,
            self.card,
            QRectF(area.left(), y + 10, area.width(), area.bottom() - y - 10),
        )


class CardScreen(Screen):
    """The sheet, with what can be done with it."""

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__(session, theme)
        self.picture = CardPicture(session, theme)
        column = QVBoxLayout(self)
        column.setContentsMargins(14, 10, 14, 10)
        row = QHBoxLayout()
        head = QLabel("Set-up card of the set-up that is edited on the bench")
        head.setFont(font(15, bold=True))
        row.addWidget(head, 1)
        table = push_button(
            "Save as CSV",
            "Save the card's lines as a table. File prints it and saves PDF, PNG or SVG.",
        )
        table.clicked.connect(self._ask_csv)
        row.addWidget(table)
        self.said = QLabel()
        self.said.setTextFormat(Qt.TextFormat.PlainText)
        self.said.setObjectName("faint")
        self.said.setFont(font(12))
        column.addLayout(row)
        column.addWidget(self.picture, 1)
        column.addWidget(self.said)

    def _ask_csv(self) -> None:
        path, _ = QFileDialog.getSaveFileName(
            self,
            "Save the card",
            file_name(
                f"card {setup_title(self.session.result.case, self.session.editing)[3:]}", "csv"
            ),
            "CSV (*.csv)",
        )
        if path:
            self.save_csv(Path(path))

    def save_csv(self, path: Path) -> None:
        """Write the card as a table; what goes wrong is said."""
        from zesty_lever.io.json_files import replacing

        if self.picture.card is None:
            self.said.setText(f"There is no card to save: {self.picture.why}")
            return
        try:
            with replacing(path) as file:
                writer = csv.writer(file)
                writer.writerow(CSV_COLUMNS)
                writer.writerows(
                    [
                        f"{v:.4g}" if isinstance(v := getattr(line, c), float) else text_of(v)
                        for c in CSV_COLUMNS
                    ]
                    for line in self.picture.card.lines
                )
            self.said.setText(f"Saved as {path.name}.")
        except OSError as error:
            self.said.setText(f"Could not save {path.name}: {error.strerror}")

    def show_units(self) -> None:
        """Take over the units in use."""
        self.picture.update()

    def themed(self) -> Iterable[Themed]:
        return (self.picture,)

    def sheet(self) -> QWidget:
        return self.picture
