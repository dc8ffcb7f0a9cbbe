"""The main window: a strap with the product's name and actions over the bench."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

from PySide6.QtCore import QByteArray, QEvent, QObject, QPointF, Qt
from PySide6.QtGui import (
    QAction,
    QCloseEvent,
    QColor,
    QIcon,
    QKeySequence,
    QPainter,
    QPalette,
    QPen,
    QPixmap,
    QPolygonF,
    QResizeEvent,
)
from PySide6.QtWidgets import (
    QApplication,
    QHBoxLayout,
    QLabel,
    QMainWindow,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from zesty_lever.ui.help import FirstRunNotice, about_sheet, help_sheet
from zesty_lever.ui.screens.bench import BenchScreen
from zesty_lever.ui.session import Session
from zesty_lever.ui.theme import DARK, LIGHT, Theme, font, stylesheet

WINDOW_SIZE = (1280, 800)


class WindowMemory:
    """What the window remembers between runs: place, theme, cautions seen. None: forgets."""

    def __init__(self, path: Path | None) -> None:
        self._path = path
        self.values: dict[str, Any] = {}
        if path is not None and path.exists():
            try:
                read = json.loads(path.read_text(encoding="utf-8"))
                self.values = read if isinstance(read, dict) else {}
            except (OSError, ValueError):
                # A spoilt memory costs the window's place, nothing else.
                self.values = {}

    def keep(self, **values: Any) -> None:
        """Remember values."""
        from zesty_lever.records.files import replacing, write_json

        self.values.update(values)
        if self._path is not None:
            try:
                self._path.parent.mkdir(parents=True, exist_ok=True)
                with replacing(self._path) as file:
                    write_json(self.values, file)
            except OSError:
                # Remembering is a convenience; a full or read-only disk must not stop work.
                return


class Window(QMainWindow):
    """The application's one window."""

    def __init__(self, session: Session, memory: WindowMemory, title: str) -> None:
        super().__init__()
        self.session, self.memory = session, memory
        self.theme = DARK if memory.values.get("theme") == "dark" else LIGHT
        self.setWindowTitle(title)
        self.setWindowIcon(mark_icon())
        self.resize(*WINDOW_SIZE)
        self.setMinimumSize(1100, 660)
        self.bench = BenchScreen(session, self.theme)
        body = QWidget()
        column = QVBoxLayout(body)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self._strap(title))
        column.addWidget(self.bench, 1)
        self.setCentralWidget(body)
        self.bench.figure.handles[0].setFocus()
        self.notice: FirstRunNotice | None = None
        if not memory.values.get("cautions_seen"):
            self.notice = FirstRunNotice(body, lambda: memory.keep(cautions_seen=True))
            body.installEventFilter(self)
        self.apply_theme(self.theme)
        place = memory.values.get("geometry")
        if isinstance(place, str):
            self.restoreGeometry(QByteArray.fromBase64(place.encode()))

    def _strap(self, title: str) -> QWidget:
        strap = QWidget(objectName="strap")
        strap.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        row = QHBoxLayout(strap)
        row.setContentsMargins(14, 6, 12, 6)
        mark = QLabel()
        mark.setPixmap(mark_pixmap(26))
        name = QLabel(title)
        name.setFont(font(16, bold=True))
        row.addWidget(mark)
        row.addWidget(name)
        row.addStretch(1)
        history = self.session.history
        undo = history.createUndoAction(self, "Undo")
        redo = history.createRedoAction(self, "Redo")
        undo.setShortcut(QKeySequence("Ctrl+Z"))
        redo.setShortcuts([QKeySequence("Ctrl+Shift+Z"), QKeySequence("Ctrl+Y")])
        for action, label, tip in (
            (undo, "Undo", "Undo (Ctrl+Z)"),
            (redo, "Redo", "Redo (Ctrl+Shift+Z)"),
            (self._action("Ctrl+D", self.switch_theme), "Light / dark", "Light or dark (Ctrl+D)"),
            (self._action("F1", lambda: help_sheet(self).show()), "Keys", "Keys and terms (F1)"),
            (self._action("", lambda: about_sheet(self).show()), "About", "About and cautions"),
        ):
            self.addAction(action)
            button = QToolButton(text=label)
            button.setFont(font(12))
            button.setToolTip(tip)
            button.setEnabled(action.isEnabled())
            button.clicked.connect(action.trigger)
            action.enabledChanged.connect(button.setEnabled)
            row.addWidget(button)
        return strap

    def _action(self, keys: str, call: Any) -> QAction:
        action = QAction(self)
        if keys:
            action.setShortcut(QKeySequence(keys))
        action.triggered.connect(lambda _checked=False: call())
        return action

    def switch_theme(self) -> None:
        """Light to dark and back."""
        self.apply_theme(LIGHT if self.theme is DARK else DARK)
        self.memory.keep(theme=self.theme.name)

    def apply_theme(self, theme: Theme) -> None:
        """Dress the whole window."""
        self.theme = theme
        palette = QPalette()
        palette.setColor(QPalette.ColorRole.WindowText, QColor(theme.ink))
        palette.setColor(QPalette.ColorRole.Text, QColor(theme.ink))
        palette.setColor(QPalette.ColorRole.PlaceholderText, QColor(theme.faint))
        palette.setColor(QPalette.ColorRole.Window, QColor(theme.paper))
        QApplication.setPalette(palette)
        self.setStyleSheet(stylesheet(theme))
        self.bench.set_theme(theme)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() == QEvent.Type.Resize and self.notice is not None:
            self.notice.settle()
        return super().eventFilter(watched, event)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        if self.notice is not None:
            self.notice.settle()

    def closeEvent(self, event: QCloseEvent) -> None:
        self.session.save()
        place = bytes(self.saveGeometry().toBase64().data()).decode()
        self.memory.keep(geometry=place)
        super().closeEvent(event)


def mark_pixmap(size: int) -> QPixmap:
    """The product's mark: a beam from a joint to its line of force, and the tile it spans."""
    pixmap = QPixmap(size * 2, size * 2)
    pixmap.setDevicePixelRatio(2)
    pixmap.fill(Qt.GlobalColor.transparent)
    painter = QPainter(pixmap)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    rust, ink = QColor(LIGHT.hip), QColor("#8a7f6a")
    veil = QColor(rust)
    veil.setAlpha(70)
    unit = size / 26
    painter.fillRect(int(5 * unit), int(5 * unit), int(15 * unit), int(13 * unit), veil)
    painter.setPen(QPen(ink, 2.2 * unit))
    painter.drawLine(QPointF(20 * unit, 3 * unit), QPointF(20 * unit, 24 * unit))
    painter.setPen(QPen(rust, 4 * unit))
    painter.drawLine(QPointF(5 * unit, 18 * unit), QPointF(20 * unit, 18 * unit))
    painter.setBrush(rust)
    painter.drawPolygon(QPolygonF([QPointF(20 * unit, 1 * unit), QPointF(16.5 * unit, 7 * unit),
                                   QPointF(23.5 * unit, 7 * unit)]))  # fmt: skip
    painter.end()
    return pixmap


def mark_icon() -> QIcon:
    """The window's icon."""
    return QIcon(mark_pixmap(64))
