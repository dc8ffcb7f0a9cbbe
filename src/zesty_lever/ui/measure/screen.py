"""Measure: what does this athlete really do. A clip or a picture, marked, followed, and laid beside what was meant."""

from __future__ import annotations

from collections.abc import Iterable
from functools import partial
from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtGui import (
    QDragEnterEvent,
    QDropEvent,
    QGuiApplication,
    QKeySequence,
    QShortcut,
    QShowEvent,
)
from PySide6.QtWidgets import (
    QFileDialog,
    QHBoxLayout,
    QMenu,
    QScrollArea,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from zesty_lever.exercises.catalogue import catalogue
from zesty_lever.measure import edits
from zesty_lever.measure.marks import read_marks
from zesty_lever.problems import CaseError
from zesty_lever.tables import data_path
from zesty_lever.ui.kit.controls import menu_button, picker, push_button
from zesty_lever.ui.kit.screen import Screen, Themed
from zesty_lever.ui.kit.tabs import Tabs
from zesty_lever.ui.kit.theme import Theme
from zesty_lever.ui.measure.desk import Desk
from zesty_lever.ui.measure.panels import CameraPanel, MarksPanel
from zesty_lever.ui.measure.picture import Picture
from zesty_lever.ui.measure.result import ResultPanel
from zesty_lever.ui.measure.strip import Strip
from zesty_lever.ui.session import Session

CLIPS = "Clips and pictures (*.mp4 *.mov *.m4v *.mkv *.avi *.webm *.3gp *.jpg *.jpeg *.png *.webp *.bmp *.tif *.tiff *.heic *.heif)"
EXAMPLES = {
    "Squat, from the side (marked)": ("squat-side.mp4", "squat-side.marks.json"),
    "Squat, from the front (marked)": ("squat-front.mp4", "squat-front.marks.json"),
    "Split squat, a photo": ("split-squat.jpg", "split-squat.marks.json"),
}
VIEWS = {"From the side": "side", "From the front": "front"}
SIDES = {"Right side near": "right", "Left side near": "left"}


class MeasureScreen(Screen):
    """The clip, its marks and its result."""

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__(session, theme)
        self.desk = Desk(session, self)
        self.picture = Picture(self.desk, theme)
        self.strip = Strip(self.desk, theme)
        self.marks = MarksPanel(self.desk, self.picture, theme)
        self.camera = CameraPanel(self.desk, self.picture)
        self.result = ResultPanel(self.desk, theme)
        self.desk.told.connect(session.announced)
        self.result.overlaid.connect(self.picture.show_meant)
        self.picture.tool_changed.connect(self.marks.refresh)
        row = QHBoxLayout(self)
        row.setContentsMargins(14, 8, 12, 10)
        row.setSpacing(12)
        left = QVBoxLayout()
        left.addLayout(self._top())
        left.addWidget(self.picture, 1)
        left.addWidget(self.strip)
        row.addLayout(left, 1)
        row.addWidget(self._side())
        self.setAcceptDrops(True)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        paste = QShortcut(QKeySequence("Ctrl+V"), self)
        paste.setContext(Qt.ShortcutContext.WidgetWithChildrenShortcut)
        paste.activated.connect(self.paste)
        follow = QShortcut(QKeySequence("F"), self.picture)
        follow.setContext(Qt.ShortcutContext.WidgetShortcut)
        follow.activated.connect(self.desk.follow)
        self.desk.changed.connect(self._refresh)
        self._refresh()

    def _top(self) -> QHBoxLayout:
        row = QHBoxLayout()
        self.opener = push_button(
            "Open a clip or photo …", "Or drop it here, or paste it (Ctrl+V).", pixels=13
        )
        self.opener.clicked.connect(self._ask_open)
        row.addWidget(self.opener)
        self.earlier = menu_button("Earlier ▾", "Measurements that are kept, and examples.")
        menu = QMenu(self.earlier)
        menu.aboutToShow.connect(self._fill_earlier)
        self.earlier.setMenu(menu)
        row.addWidget(self.earlier)
        self.view = picker("View", list(VIEWS))
        self.view.activated.connect(
            lambda _at: self.desk.attempt(
                "View", lambda: edits.for_view(self.desk.marks, VIEWS[self.view.currentText()])
            )
        )
        row.addWidget(self.view)
        self.near = picker("Side near the camera", list(SIDES))
        self.near.activated.connect(
            lambda _at: self.desk.attempt(
                "Side near the camera",
                lambda: self.desk.marks.changed(near_side=SIDES[self.near.currentText()]),
            )
        )
        row.addWidget(self.near)
        self.variation = picker(
            "Variation that was done", [entry.name for entry in catalogue().values()]
        )
        self.variation.activated.connect(self._choose_variation)
        row.addWidget(self.variation, 1)
        return row

    def _side(self) -> QWidget:
        side = QWidget()
        side.setFixedWidth(400)
        column = QVBoxLayout(side)
        column.setContentsMargins(0, 0, 0, 0)
        self.tabs = Tabs(
            "Measure",
            {
                "Marks": ("Which mark is next", "Alt+4"),
                "Scale and camera": ("What is known of the picture", "Alt+5"),
                "Result": ("What was measured", "Alt+6"),
            },
            13,
            bold=True,
        )
        self.pages = QStackedWidget()
        for page in (self.marks, self.camera, self.result):
            area = QScrollArea(widgetResizable=True)
            area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
            area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
            page.setObjectName("setupBody")
            area.setWidget(page)
            self.pages.addWidget(area)
        self.tabs.chosen.connect(lambda _name: self.pages.setCurrentIndex(self.tabs.currentIndex()))
        column.addWidget(self.tabs)
        column.addWidget(self.pages, 1)
        return side

    # --- opening -----------------------------------------------------------------------------

    def _ask_open(self) -> None:
        path, _ = QFileDialog.getOpenFileName(self, "Open a clip or photo", "", CLIPS)
        if path:
            self.open(Path(path))

    def open(self, path: Path) -> None:
        """Open a clip or picture."""
        self.desk.open(path)
        self.tabs.setCurrentIndex(0)
        self.picture.setFocus()

    def open_example(self, name: str) -> None:
        """Open one of the pieces that ship with the application."""
        clip, marks = EXAMPLES[name]
        folder = data_path("demo", "clips")
        try:
            known = read_marks(Path(str(folder.joinpath(marks))))
        except (CaseError, OSError) as error:
            self.desk.told.emit(str(error))
            return
        self.desk.open(Path(str(folder.joinpath(clip))), known)
        self.tabs.setCurrentIndex(2 if known.placed else 0)
        self.picture.setFocus()

    def _fill_earlier(self) -> None:
        menu = self.earlier.menu()
        assert menu is not None
        menu.clear()
        store, own = self.desk.store, self.session.bench.athlete
        kept = (
            []
            if store is None
            else [
                k
                for k in store.kept()
                if k.number in own.measurements or (own.name and k.athlete == own.name)
            ]
        )
        for one in kept[:12]:
            text = f"{one.day}  {one.clip.replace('&', '&&')}, {one.view}"
            menu.addAction(text, partial(self._reopen, one.number))
        if kept:
            menu.addSeparator()
        for name in EXAMPLES:
            menu.addAction(f"Example: {name}", partial(self.open_example, name))

    def _reopen(self, number: str) -> None:
        self.desk.reopen(number)
        self.tabs.setCurrentIndex(2)

    def paste(self) -> None:
        """Open what is on the clipboard: a file, or a picture."""
        data = QGuiApplication.clipboard().mimeData()
        for url in data.urls():
            if url.isLocalFile():
                self.open(Path(url.toLocalFile()))
                return
        image = QGuiApplication.clipboard().image()
        if image.isNull():
            self.desk.told.emit("There is no picture or clip on the clipboard.")
            return
        folder = self.session.folder
        if folder is None:
            self.desk.told.emit("A pasted picture can't be kept here.")
            return
        pasted = folder / "measurements" / "pasted"
        pasted.mkdir(parents=True, exist_ok=True)
        number = sum(1 for _ in pasted.glob("*.png")) + 1
        target = pasted / f"pasted-{number}.png"
        if image.save(str(target)):
            self.open(target)
        else:
            self.desk.told.emit(f"The pasted picture could not be kept as {target.name}.")

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if _clips_of(event):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        for path in _clips_of(event)[:1]:
            self.open(path)
            event.acceptProposedAction()

    # --- showing -----------------------------------------------------------------------------

    def _choose_variation(self, at: int) -> None:
        name = list(catalogue())[at]
        marks = self.desk.marks
        kept = {k: v for k, v in marks.settings.items() if k in catalogue()[name].settings}
        self.desk.attempt("Variation", lambda: marks.changed(variation=name, settings=kept))

    def _refresh(self) -> None:
        marks = self.desk.marks
        self.view.setCurrentIndex(list(VIEWS.values()).index(marks.view))
        self.near.setCurrentIndex(list(SIDES.values()).index(marks.near_side))
        self.near.setVisible(marks.view == "side")
        name = marks.variation or self.session.setup.variation
        self.variation.setCurrentIndex(list(catalogue()).index(name))
        clip = self.desk.clip
        self.strip.setVisible(clip is None or not clip.is_still)

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self.result.refresh()

    def show_units(self) -> None:
        self.camera.show_units()
        self.result.refresh()

    def themed(self) -> Iterable[Themed]:
        return (self.picture, self.strip, self.marks.guide, self.result.curves)

    def sheet(self) -> QWidget:
        return self


def _clips_of(event: QDragEnterEvent | QDropEvent) -> list[Path]:
    """Local files of a drop that may be clips or pictures; cases and athletes are the window's."""
    paths = [Path(url.toLocalFile()) for url in event.mimeData().urls() if url.isLocalFile()]
    return [p for p in paths if p.suffix.lower() not in (".json", ".jsonl", ".zlcase")]
