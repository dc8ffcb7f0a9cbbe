"""The main window: a strap with the product's name and actions over the bench."""

from __future__ import annotations

from functools import partial
from importlib import import_module
from pathlib import Path
from typing import Any

from PySide6.QtCore import QByteArray, QLockFile, Qt, QTimer
from PySide6.QtGui import (
    QAction,
    QCloseEvent,
    QColor,
    QDragEnterEvent,
    QDropEvent,
    QKeySequence,
    QPalette,
)
from PySide6.QtWidgets import (
    QApplication,
    QFrame,
    QHBoxLayout,
    QLabel,
    QMenu,
    QMessageBox,
    QScrollArea,
    QSizePolicy,
    QStackedWidget,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from zesty_lever.ui.bench.screen import BenchScreen
from zesty_lever.ui.help import FirstRunNotice, about_sheet, help_sheet
from zesty_lever.ui.kit.controls import WHEEL, menu_button, unmarked
from zesty_lever.ui.kit.screen import Screen
from zesty_lever.ui.kit.spoken import announce
from zesty_lever.ui.kit.tabs import Tabs
from zesty_lever.ui.kit.theme import DARK, LIGHT, Theme, font, stylesheet
from zesty_lever.ui.kit.zoom import LEAST, MOST, STEP, ZOOM, of_the_desktop
from zesty_lever.ui.memory import WindowMemory
from zesty_lever.ui.paint.mark import mark_icon, mark_pixmap
from zesty_lever.ui.papers import Host, Papers
from zesty_lever.ui.session import Session
from zesty_lever.wording.units import UNITS, minus

# The icon is no part of the first frame.
ICON_AFTER_MS = 50
WINDOW_SIZE, LEAST_SIZE = (1280, 800), (800, 560)
# More moments than any rep has.
MOST_FRAMES = 100_000
# The screens in the order of the work: what each is for, and where it lives (made when first looked at).
SCREENS = {
    "Roster": ("The team: who needs attention first", "roster.screen:RosterScreen"),
    "Athlete": ("Build, reach, loads and sore places", "athlete.screen:AthleteScreen"),
    "Measure": (
        "A clip or photo: what the athlete really does, beside what was meant",
        "measure.screen:MeasureScreen",
    ),
    "Bench": ("One variation, live, against a second one", "bench.screen:BenchScreen"),
    "Line-up": ("Two to six set-ups side by side, with intervals", "lineup.screen:LineupScreen"),
    "Shortlist": (
        "Say what you want; the catalogue ranked for this athlete",
        "shortlist.screen:ShortlistScreen",
    ),
    "Technique": (
        "Search within one variation: the frontier of hip, knee and lower back",
        "technique.screen:TechniqueScreen",
    ),
    "Set-up card": ("What to set before the first rep", "card.screen:CardScreen"),
    "Plan": (
        "Weeks, sessions and doses; what they would give each joint",
        "plan.screen:PlanScreen",
    ),
    "Log": ("What was done, what it added up to, what comes next", "log.screen:LogScreen"),
}
# Opened from another screen, without a tab.
WITHOUT_TAB = {"Run": "run.screen:RunScreen"}
KEYS = {"Roster": "Ctrl+T", "Plan": "Ctrl+8", "Log": "Ctrl+9"}


def _remembered_zoom(memory: WindowMemory) -> float:
    """The size that was chosen last, else the desktop's."""
    kept = memory.values.get("zoom")
    return (
        float(kept) if isinstance(kept, int | float) and LEAST <= kept <= MOST else of_the_desktop()
    )


class _Column(QVBoxLayout):
    """A column that asks for its least height, not for what all its words would like."""

    def hasHeightForWidth(self) -> bool:
        return False


class Window(Host):
    """The application's one window."""

    def __init__(self, session: Session, memory: WindowMemory, title: str) -> None:
        super().__init__()
        self.session, self.memory = session, memory
        self.lock: QLockFile | None = None
        self.theme = DARK if memory.values.get("theme") == "dark" else LIGHT
        self.setWindowTitle(title)
        QTimer.singleShot(ICON_AFTER_MS, self, lambda: self.setWindowIcon(mark_icon()))
        self.resize(*WINDOW_SIZE)
        self.setMinimumSize(*LEAST_SIZE)
        ZOOM.set(_remembered_zoom(memory))
        UNITS.imperial = memory.values.get("units") == "imperial"
        # Dressed before there is anything to dress: every widget is then polished once.
        self._made: dict[str, Screen] = {}
        self.apply_theme(self.theme)
        self.papers = Papers(self)
        self.bench = BenchScreen(session, self.theme)
        WHEEL.watch(self.bench)
        self.screens = QStackedWidget()
        self.screens.addWidget(self.bench)
        self._made["Bench"] = self.bench
        body = QWidget()
        column = _Column(body)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self._strap(title))
        self.message = QLabel(wordWrap=True)
        # What is said may quote a file: it is never taken for marked-up text.
        self.message.setTextFormat(Qt.TextFormat.PlainText)
        self.message.setObjectName("message")
        self.message.setFont(font(13))
        self.message.setContentsMargins(14, 4, 14, 4)
        self.message.hide()
        self._message_fades = QTimer(self, singleShot=True, interval=8000)
        self._message_fades.timeout.connect(self._fade)
        self._listen(session)
        column.addWidget(self.message)
        column.addWidget(self.screens, 1)
        self.setAcceptDrops(True)
        if session.read_only:
            self.message.setText(session.read_only)
            self.message.show()
        # What does not fit at a larger size is scrolled to, never squeezed.
        scrolled = QScrollArea(widgetResizable=True)
        scrolled.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        scrolled.setFrameShape(QFrame.Shape.NoFrame)
        scrolled.setWidget(body)
        self.setCentralWidget(scrolled)
        self.bench.figure.handles[0].setFocus()
        self.notice: FirstRunNotice | None = None
        if not memory.values.get("cautions_seen"):
            self.notice = FirstRunNotice(body, lambda: memory.keep(cautions_seen=True))
        self._recall()

    def _recall(self) -> None:
        """Place, screen and moment of the last run; what can't be used is passed over."""
        place, screen, moment = (
            self.memory.values.get(k) for k in ("geometry", "screen", "moment")
        )
        if isinstance(place, str):
            self.restoreGeometry(QByteArray.fromBase64(place.encode()))
        if isinstance(moment, int) and abs(moment) < MOST_FRAMES:
            self.session.set_moment(moment)
        if isinstance(screen, str) and screen in SCREENS:
            self.show_screen(screen)

    def _strap(self, title: str) -> QWidget:
        strap = QWidget()
        strap.setObjectName("strap")
        strap.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        row = QHBoxLayout(strap)
        row.setContentsMargins(14, 6, 12, 6)
        mark = QLabel()
        mark.setPixmap(mark_pixmap(26))
        name = QLabel(title.removesuffix(" · demo"))
        name.setFont(font(16, bold=True))
        row.addWidget(mark)
        row.addWidget(name)
        row.addSpacing(10)
        self._add_rail(row)
        self._add_tools(row)
        self.output = self.papers.menu_button()
        row.addWidget(self.output)
        return strap

    def _add_rail(self, row: QHBoxLayout) -> None:
        # The roster is today's page (Ctrl+T); the others are numbered in the order of the work.
        entries = {
            name: (tip, KEYS.get(name, f"Ctrl+{n}"))
            for n, (name, (tip, _)) in enumerate(SCREENS.items())
        }
        self.rail = Tabs("Screens", entries, 13, bold=True)
        # On a narrow window the tabs scroll instead of widening it.
        self.rail.setUsesScrollButtons(True)
        self.rail.show_name("Bench")
        self.rail.chosen.connect(self.show_screen)
        row.addWidget(self.rail, 1)

    def _add_tools(self, row: QHBoxLayout) -> None:
        for keys, steps in ((("Ctrl++", "Ctrl+="), 1), (("Ctrl+-",), -1), (("Ctrl+0",), 0)):
            action = self.action("", partial(self.zoom, steps))
            action.setShortcuts([QKeySequence(key) for key in keys])
            self.addAction(action)
        history = self.session.history
        undo = history.createUndoAction(self, "Undo")
        redo = history.createRedoAction(self, "Redo")
        undo.setShortcut(QKeySequence("Ctrl+Z"))
        redo.setShortcuts([QKeySequence("Ctrl+Shift+Z"), QKeySequence("Ctrl+Y")])
        undo.triggered.connect(lambda: self.say(f"Undone: {history.redoText()}."))
        redo.triggered.connect(lambda: self.say(f"Done again: {history.undoText()}."))
        for action, label, tip in (
            (undo, "Undo", "Undo (Ctrl+Z)"),
            (redo, "Redo", "Redo (Ctrl+Shift+Z)"),
        ):
            self.addAction(action)
            tool = QToolButton()
            tool.setText(label)
            tool.setFont(font(12))
            tool.setToolTip(tip)
            tool.setEnabled(action.isEnabled())
            tool.clicked.connect(action.trigger)
            action.enabledChanged.connect(tool.setEnabled)
            row.addWidget(tool)
        row.addWidget(self._window_button())

    def _window_button(self) -> QToolButton:
        """Units, light and dark, keys, about: one menu, so that the strap has room for the screens."""
        button = menu_button("View ▾", "Units, light or dark, keys and terms, about.")
        menu = QMenu(button)
        for keys, words, call in (
            ("Ctrl+U", "Centimetres and kilograms, or inches and pounds", self.switch_units),
            ("Ctrl+D", "Light or dark", self.switch_theme),
            ("F1", "Keys and terms", lambda: help_sheet(self).show()),
            ("", "About and cautions", lambda: about_sheet(self).show()),
        ):
            action = self.action(keys, call)
            action.setText(words)
            self.addAction(action)
            menu.addAction(action)
        button.setMenu(menu)
        return button

    def _show_refusal(self, why: str) -> None:
        """On the bench the figure says it; on every other screen the line on top."""
        if self.screens.currentWidget() is not self.bench:
            self.say(why)

    def _show_saving(self, problem: str) -> None:
        """What keeps the bench from being saved stays on every screen until it is solved."""
        self.say(problem or "Saved again.")

    def _close_unsaved(self) -> bool:
        """Ask whether to close although the bench could not be saved."""
        buttons = QMessageBox.StandardButton
        asked = QMessageBox.question(
            self,
            "Not saved",
            f"{unmarked(self.session.save_problem)}. Close all the same? Changes since the last save are lost.",
            buttons.Discard | buttons.Cancel,
            buttons.Cancel,
        )
        return asked == buttons.Discard

    def _fade(self) -> None:
        """Messages go, but for what is still true."""
        lasting = self.session.save_problem or self.session.read_only
        self.message.setText(lasting)
        self.message.setVisible(bool(lasting))

    def say(self, text: str) -> None:
        """One line to the coach, on whatever screen is in front."""
        self.message.setText(minus(text))
        self.message.setVisible(bool(text))
        if text:
            announce(self, minus(text))
        self._message_fades.start()

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if event.mimeData().hasUrls():
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        for url in event.mimeData().urls():
            if url.isLocalFile():
                self.papers.open_file(Path(url.toLocalFile()))

    def action(self, keys: str, call: Any) -> QAction:
        """An action of the window with its shortcut (none: no keys)."""
        action = QAction(self)
        if keys:
            action.setShortcut(QKeySequence(keys))
        action.triggered.connect(lambda _checked=False: call())
        return action

    def _listen(self, session: Session) -> None:
        session.saved.connect(self._show_saving)
        session.refused.connect(self._show_refusal)
        session.announced.connect(self.say)
        session.screen_asked.connect(self.show_screen)
        session.instead_asked.connect(
            lambda setup, places: self.screen_named("Shortlist").offer_instead(setup, places)
        )

    def show_screen(self, name: str) -> None:
        """Bring a screen to the front, making it the first time."""
        if name not in self._made:
            self._made[name] = self._make(name)
            self.screens.addWidget(self._made[name])
        # Only the screen in front says how much room is needed.
        for other, screen in self._made.items():
            policy = QSizePolicy.Policy.Preferred if other == name else QSizePolicy.Policy.Ignored
            screen.setSizePolicy(policy, policy)
        self.screens.setCurrentWidget(self._made[name])
        if name in SCREENS:
            self.rail.show_name(name)

    def screen_named(self, name: str) -> Any:
        """A screen, made if need be."""
        self.show_screen(name)
        return self._made[name]

    def _make(self, name: str) -> Screen:
        module, kind = (WITHOUT_TAB.get(name) or SCREENS[name][1]).split(":")
        made: type[Screen] = getattr(import_module(f"zesty_lever.ui.{module}"), kind)
        screen = made(self.session, self.theme)
        WHEEL.watch(screen)
        return screen

    def switch_units(self) -> None:
        """Centimetres and kilograms to inches and pounds, and back."""
        UNITS.imperial = not UNITS.imperial
        self.memory.keep(units="imperial" if UNITS.imperial else "metric")
        for screen in self._made.values():
            screen.show_units()
        self.session.changed.emit()

    def zoom(self, steps: int) -> None:
        """Everything larger or smaller by so many steps; none: as the desktop's text is."""
        factor = ZOOM.factor + steps * STEP if steps else of_the_desktop()
        ZOOM.set(factor)
        self.memory.keep(zoom=ZOOM.factor)
        self.apply_theme(self.theme)
        self.say(f"Size {100 * ZOOM.factor:.0f} %.")

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
        for screen in self._made.values():
            screen.set_theme(theme)

    def closeEvent(self, event: QCloseEvent) -> None:
        self.session.save()
        if self.session.save_problem and not self._close_unsaved():
            event.ignore()
            return
        place = bytes(self.saveGeometry().toBase64().data()).decode()
        self.memory.keep(geometry=place, screen=self.rail.name, moment=self.session.moment)
        self.session.close_register()
        super().closeEvent(event)
