"""Technique search: lower or raise one joint under limits on the others; any point can be opened."""

from __future__ import annotations

from collections.abc import Callable, Iterable

from PySide6.QtWidgets import (
    QCheckBox,
    QDoubleSpinBox,
    QHBoxLayout,
    QLabel,
    QWidget,
)

from zesty_lever.analysis import Result
from zesty_lever.bench import edits
from zesty_lever.bench.frontier import Frontier
from zesty_lever.choosing.technique import Search, search
from zesty_lever.joints import BY_KEY, COACH_JOINTS
from zesty_lever.ui.kit.controls import Wrapped, heading, note, picker, push_button, side_column
from zesty_lever.ui.kit.screen import Screen, Themed
from zesty_lever.ui.kit.theme import Theme, font
from zesty_lever.ui.kit.waiting import Waiting
from zesty_lever.ui.session import Session
from zesty_lever.ui.technique.frontier import FrontierView
from zesty_lever.ui.technique.preview import Preview
from zesty_lever.wording.sentences import setup_title, technique_sentences

AIMS = [(group.key, most) for group in COACH_JOINTS for most in (False, True)]


class TechniqueScreen(Screen):
    """Within one variation: what could be different."""

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__(session, theme)
        # What was found and which of it is chosen, once there has been a search.
        self.frontier: Frontier | None = None
        self.waiting = Waiting(session.jobs, "technique")
        self.picture = FrontierView(theme)
        row = QHBoxLayout(self)
        row.setContentsMargins(14, 10, 14, 10)
        row.setSpacing(12)
        row.addWidget(self._controls())
        row.addWidget(self.picture, 1)
        row.addWidget(self._details())
        self.picture.picked.connect(self.choose)
        self.waiting.answered.connect(self._answer)
        self.waiting.failed.connect(self._fail)
        session.changed.connect(self._name)
        self._name()

    def _controls(self) -> QWidget:
        side, column = side_column(290)
        column.addWidget(heading("Technique search"))
        self.what = Wrapped(wordWrap=True)
        self.what.setFont(font(13, bold=True))
        column.addWidget(self.what)
        self.aim = picker(
            "Aim",
            [f"{'Raise' if most else 'Lower'} the {BY_KEY[j].word}'s peak" for j, most in AIMS],
        )
        self.aim.setCurrentIndex(AIMS.index(("back", False)))
        column.addWidget(self.aim)
        self.ceilings: dict[str, QDoubleSpinBox] = {}
        for joint, word in ((g.key, g.word) for g in COACH_JOINTS):
            line = QHBoxLayout()
            label = QLabel(f"{word.capitalize()} at most")
            label.setFont(font(13))
            box = QDoubleSpinBox(minimum=0, maximum=2000, singleStep=10, decimals=0, suffix=" N·m")
            label.setBuddy(box)
            box.setSpecialValueText("no limit")
            box.setFont(font(13))
            box.setAccessibleName(f"{word} at most, newton metres")
            box.setToolTip(f"Ceiling of the {word}'s peak.")
            line.addWidget(label, 1)
            line.addWidget(box)
            column.addLayout(line)
            self.ceilings[joint] = box
        self.free_depth = QCheckBox("Depth may change too")
        self.free_depth.setFont(font(13))
        self.free_depth.setToolTip("Off: as deep as it is set up.")
        column.addWidget(self.free_depth)
        self.go = push_button("Search", "Search inside this athlete's range.", pixels=13)
        self.go.clicked.connect(self.ask)
        column.addWidget(self.go)
        column.addWidget(self.waiting)
        column.addWidget(
            note(
                "Stance, toes, shin and the like are tried about the school's default, as far as is coached, inside the athlete's "
                "range, with the knees over the feet. Poses that round the lower back more than now, or that the school would flag, "
                "are left out. A smaller moment at one joint is usually a larger one elsewhere."
            )
        )
        column.addStretch(1)
        return side

    def _details(self) -> QWidget:
        side, column = side_column(300)
        column.addWidget(heading("The chosen technique"))
        self.words = Wrapped(wordWrap=True)
        self.words.setFont(font(13))
        column.addWidget(self.words)
        self.preview = Preview(self.theme)
        column.addWidget(self.preview, 1)
        self.opener = push_button(
            "Open on the bench", "Set the bench to the chosen technique; undo goes back.", pixels=13
        )
        self.opener.clicked.connect(self.to_bench)
        column.addWidget(self.opener)
        return side

    def _name(self) -> None:
        self.what.setText(setup_title(self.session.result.case, self.session.editing))

    def ask(self) -> None:
        """Search beside the window."""
        joint, most = AIMS[self.aim.currentIndex()]
        ceilings = {j: b.value() for j, b in self.ceilings.items() if b.value() > 0}
        about, keep = self.session.result, not self.free_depth.isChecked()

        def work(tell: Callable[[float], None]) -> tuple[Result, Search]:
            return about, search(
                about.case, joint, most=most, ceilings=ceilings, keep_depth=keep, tell=tell
            )

        self.waiting.ask(work)

    def _fail(self, why: str) -> None:
        self.frontier = None
        self.preview.show_results(None, None)
        self.words.setText(why)
        self.picture.show_frontier(None)

    def _answer(self, answer: tuple[Result, Search]) -> None:
        self.frontier = Frontier.of(*answer)
        self._show()

    def choose(self, index: int) -> None:
        """Choose one technique."""
        if self.frontier is not None:
            self.frontier = self.frontier.choose(index)
            self._show()

    def _show(self) -> None:
        frontier = self.frontier
        if frontier is None:
            return
        chosen = frontier.result()
        self.picture.show_frontier(frontier)
        self.preview.show_results(chosen, frontier.about)
        self.words.setText(technique_sentences(frontier, chosen))

    def to_bench(self) -> None:
        """Set the bench to the chosen technique of what has been searched about."""
        if self.frontier is not None:
            self.session.do(edits.put_setup, self.frontier.setup_on(self.session.setup))
            self.session.announced.emit(
                f"{setup_title(self.session.result.case, 1)} is on the bench with that technique."
            )

    def themed(self) -> Iterable[Themed]:
        return (self.picture, self.preview)

    def sheet(self) -> QWidget:
        return self.picture
