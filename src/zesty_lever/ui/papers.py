"""What comes into the window and goes out of it: files opened and saved, pictures, prints, the File menu."""

from __future__ import annotations

from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, Any

from PySide6.QtCore import QObject
from PySide6.QtGui import QAction, QPicture
from PySide6.QtWidgets import (
    QDialog,
    QFileDialog,
    QMainWindow,
    QMenu,
    QStackedWidget,
    QToolButton,
    QWidget,
)

from zesty_lever.bench import edits
from zesty_lever.bench.model import Bench
from zesty_lever.cases.model import Athlete
from zesty_lever.problems import CaseError
from zesty_lever.ui.kit.controls import menu_button
from zesty_lever.ui.kit.screen import Screen
from zesty_lever.ui.kit.theme import LIGHT, Theme
from zesty_lever.ui.memory import WindowMemory
from zesty_lever.ui.session import Session
from zesty_lever.wording.sentences import file_name, setup_title

CASE_FILTER = "Cases and athletes (*.json *.zlcase)"
MOST_RECENT = 8


class Host(QMainWindow):
    """The window as its papers know it."""

    session: Session
    memory: WindowMemory
    screens: QStackedWidget
    theme: Theme

    if TYPE_CHECKING:  # what the window gives

        def action(self, keys: str, call: Any) -> QAction: ...
        def say(self, text: str) -> None: ...
        def show_screen(self, name: str) -> None: ...
        def apply_theme(self, theme: Theme) -> None: ...


class Papers(QObject):
    """The File menu of a window and what it does; every outcome is said in the window."""

    def __init__(self, window: Host) -> None:
        super().__init__(window)
        self._window = window
        self.recent_menu = QMenu("Recent files")
        self.recent_menu.setToolTipsVisible(True)
        self.recent_menu.aboutToShow.connect(self._fill_recent)

    def menu_button(self) -> QToolButton:
        """The button *File* with its menu."""
        window = self._window
        button = menu_button("File ▾", "Open a case or athlete, copy or export the picture, print.")
        menu = QMenu(button)
        for name, keys, call in (
            ("Open a case, an athlete or a line-up …", "Ctrl+O", self._ask_open),
            ("", "", None),
            ("Save the case …", "Ctrl+S", self._ask_save_case),
            ("Copy the picture", "Ctrl+Shift+C", self.copy_picture),
            ("Export the picture (PNG, SVG, PDF) …", "Ctrl+E", self._ask_save_picture),
            ("Print preview, A4 …", "Ctrl+P", lambda: self.print_preview("A4").show()),
            ("Print preview, Letter …", "", lambda: self.print_preview("Letter").show()),
            ("Quit", "Ctrl+Q", window.close),
        ):
            if call is None:
                menu.addMenu(self.recent_menu)
                continue
            action = window.action(keys, call)
            action.setText(name)
            window.addAction(action)
            menu.addAction(action)
        button.setMenu(menu)
        return button

    @property
    def recent(self) -> list[Path]:
        """Files opened or saved last, the newest first; what has gone since is left out."""
        kept = self._window.memory.values.get("recent")
        texts = [text for text in kept if isinstance(text, str)] if isinstance(kept, list) else []
        return [path for path in map(Path, texts[:MOST_RECENT]) if path.is_file()]

    def _remember(self, path: Path) -> None:
        path = path.absolute()
        others = [other for other in self.recent if other != path]
        texts = [str(other) for other in [path, *others]][:MOST_RECENT]
        self._window.memory.keep(recent=texts)

    def _fill_recent(self) -> None:
        self.recent_menu.clear()
        for number, path in enumerate(self.recent, start=1):
            # An ampersand in a name is no shortcut.
            name = path.name.replace("&", "&&")
            action = self.recent_menu.addAction(f"&{number}  {name}", partial(self.open_file, path))
            action.setToolTip(str(path))
        if self.recent_menu.isEmpty():
            self.recent_menu.addAction("None yet").setEnabled(False)

    def pictured(self) -> QWidget:
        """What is copied, saved and printed: the figure on the bench, else the whole screen."""
        current = self._window.screens.currentWidget()
        return current.sheet() if isinstance(current, Screen) else self._window

    def _title(self) -> str:
        session = self._window.session
        who = session.bench.athlete.name or "Athlete"
        return f"{who} · {setup_title(session.result.case, session.editing)}"

    def _recorded(self) -> QPicture:
        """The picture in paper colours, whatever the window wears."""
        from zesty_lever.ui.output import recorded

        worn = self._window.theme
        if worn is not LIGHT:
            self._window.apply_theme(LIGHT)
        try:
            return recorded(self.pictured())
        finally:
            if worn is not LIGHT:
                self._window.apply_theme(worn)

    def copy_picture(self) -> None:
        """Put the picture on the clipboard."""
        from zesty_lever.ui.output import copy_picture

        copy_picture(self._recorded(), self._title())
        self._window.say("The picture is on the clipboard.")

    def save_picture(self, path: Path) -> None:
        """Write the picture to a file; what goes wrong is said."""
        from zesty_lever.ui.output import save_picture

        try:
            save_picture(self._recorded(), self._title(), path)
            self._window.say(f"Saved as {path.name}.")
        except (OSError, ValueError) as error:
            self._window.say(str(error))

    def print_preview(self, paper: str) -> QDialog:
        """The print preview of the picture."""
        from zesty_lever.ui.output import PrintPreview

        return PrintPreview(self._window, self._recorded(), self._title(), paper)

    def open_file(self, path: Path) -> None:
        """Take in a case, athlete or line-up file; what is wrong with it is said and nothing changes."""
        from zesty_lever.bench.files import read_into

        window, session = self._window, self._window.session
        try:
            found = read_into(session.bench, path)
        except (CaseError, OSError, UnicodeDecodeError) as error:
            window.say(f"{path.name} was not opened: {error}")
            return
        if isinstance(found, Bench):
            session.commit("Open line-up", found)
            window.show_screen("Line-up")
        elif isinstance(found, Athlete):
            session.do(edits.take_athlete, found)
        else:
            session.do(edits.take_case, found)
        self._remember(path)
        window.say(f"Opened {path.name}.")

    def save_case(self, path: Path) -> None:
        """Write the set-up being edited as a case file."""
        from zesty_lever.io.json_files import replacing, write_json

        try:
            with replacing(path) as file:
                write_json(self._window.session.result.case.as_json(), file, indent=1)
        except OSError as error:
            self._window.say(f"Could not save {path.name}: {error.strerror}")
            return
        self._remember(path)
        self._window.say(f"Saved as {path.name}.")

    def _ask_open(self) -> None:
        path, _ = QFileDialog.getOpenFileName(
            self._window, "Open a case or athlete", "", CASE_FILTER
        )
        if path:
            self.open_file(Path(path))

    def _ask_save_case(self) -> None:
        path, _ = QFileDialog.getSaveFileName(
            self._window, "Save the case", file_name(self._title(), "json"), CASE_FILTER
        )
        if path:
            self.save_case(Path(path))

    def _ask_save_picture(self) -> None:
        path, _ = QFileDialog.getSaveFileName(
            self._window,
            "Export the picture",
            file_name(self._title(), "png"),
            "PNG, SVG, PDF (*.png *.svg *.pdf)",
        )
        if path:
            self.save_picture(Path(path))
