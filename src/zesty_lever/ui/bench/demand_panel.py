"""Beside the figure: moment tiles of both set-ups, what the difference says, and the cautions."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from functools import cached_property, partial
from typing import TYPE_CHECKING

from PySide6.QtCore import QRectF, QSize, Qt
from PySide6.QtGui import QColor, QFontMetricsF, QKeySequence, QPainter, QPaintEvent, QShortcut
from PySide6.QtWidgets import (
    QFrame,
    QHBoxLayout,
    QLabel,
    QMenu,
    QPushButton,
    QSizePolicy,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from zesty_lever.bench import edits
from zesty_lever.choosing.loading import matched
from zesty_lever.joints import BY_KEY, COACH_JOINTS
from zesty_lever.ui.kit.controls import Wrapped, push_button
from zesty_lever.ui.kit.screen import Themed
from zesty_lever.ui.kit.theme import Theme, font
from zesty_lever.ui.kit.zoom import ZOOM
from zesty_lever.ui.paint.tiles import GAUGE_WIDE, Scale, paint_gauge, paint_tile_row, product_at
from zesty_lever.ui.session import Session
from zesty_lever.wording.sentences import (
    comparison_sentence,
    disc_sentence,
    setup_title,
    stands_with_front_load,
)

if TYPE_CHECKING:
    from zesty_lever.choosing.bests import Effort
    from zesty_lever.ui.kit.waiting import Waiting

WORDS = {group.shown: group.word for group in COACH_JOINTS}
ROWS = tuple(WORDS)
CAUTION = "Estimates for comparing, not a diagnosis and no safety limit. Stop at pain."


class TileBoard(Themed):
    """Hip, knee and lower back as moment tiles at the moment shown, A filled and B dashed."""

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__(theme)
        self.session = session
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.setMinimumHeight(330)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setAccessibleName("Demand: peak over the rep, and this moment in the side view")
        self.setToolTip(
            "Large: the peak over the rep about the joint's own axis, as in the sentences and the line-up. Each tile "
            "is this moment's part in the side view: as wide as the lever arm, as tall as the force, its area the moment. Extensors straighten a joint, "
            "flexors bend it (minus). L5/S1 is the lowest joint of the lower back. "
            "The gauge at the edge fills to the use of what the joint can hold at its angle (1 marked); its end is soft over "
            "the 90 % interval."
        )
        self._effort: Effort | None = None
        session.tiles_due.connect(self._refresh)
        session.moment_changed.connect(self._refresh)

    def sizeHint(self) -> QSize:
        return QSize(330, 360)

    def _refresh(self) -> None:
        self.setAccessibleDescription(self.spoken())
        self.update()

    def show_effort(self, told: Effort | str | None) -> None:
        """Fill the gauges at the tiles' edge (None or a text: empty)."""
        self._effort = None if isinstance(told, str) else told
        self._refresh()

    def spoken(self) -> str:
        """The board in words, for screen readers."""
        words = []
        for joint, word in WORDS.items():
            for letter, result in zip("AB", self.session.results, strict=True):
                product = product_at(result, joint, self.session.frame_of("AB".index(letter)))
                value = (
                    f"peak {product.peak_Nm:.0f} newton metres, now {product.moment_Nm:.0f} in the side view"
                    if product
                    else "not possible"
                )
                words.append(f"{word} {letter} {value}")
        if self._effort is not None:
            shares = (
                f"{BY_KEY[key].word} {100 * use[0]:.0f} per cent"
                for key, use in self._effort.uses.items()
            )
            words.append(f"use of what the joints can hold: {', '.join(shares)}")
        return "; ".join(words)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = self.painter()
        painter.fillRect(self.canvas(), QColor(self.theme.panel))
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        results, session = self.session.results, self.session
        frames = session.frame_of(0), session.frame_of(1)
        pairs = {
            joint: (
                product_at(results[0], joint, frames[0]),
                product_at(results[1], joint, frames[1]),
            )
            for joint in ROWS
        }
        shown = [p for pair in pairs.values() for p in pair if p is not None]
        height = self.canvas().height() / len(ROWS)
        room = GAUGE_WIDE if self._effort is not None else 0.0
        scale = Scale.fit(shown, self.canvas().width() - 132.0 - room, height - 80.0)
        for row, joint in enumerate(ROWS):
            area = QRectF(0, row * height, self.canvas().width(), height - 4)
            if row:
                painter.setPen(QColor(self.theme.line))
                painter.drawLine(area.topLeft(), area.topRight())
            paint_tile_row(
                painter,
                self.theme,
                area.adjusted(0, 6, 0, 0),
                joint,
                scale,
                pairs[joint],
                self.session.editing,
            )
            if self._effort is not None:
                key = next(g.key for g in COACH_JOINTS if g.shown == joint)
                paint_gauge(painter, self.theme, area, joint, self._effort.uses[key])


class Words(Themed):
    """Wrapped text in a place of fixed height: new words never make the window lay itself out."""

    def __init__(self, name: str, theme: Theme, pixels: int, lines: int, *, faint: bool) -> None:
        super().__init__(theme)
        self._faint, self._face = faint, font(pixels)
        self._text = ""
        self.setAccessibleName(name)
        self.setFixedHeight(int(QFontMetricsF(self._face).lineSpacing() * lines) + 2)

    def text(self) -> str:
        """The words shown."""
        return self._text

    def setText(self, text: str) -> None:
        """Show other words."""
        if text != self._text:
            self._text = text
            self.setAccessibleDescription(text)
            self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = self.painter()
        painter.setFont(self._face)
        painter.setPen(QColor(self.theme.faint if self._faint else self.theme.ink))
        flags = Qt.AlignmentFlag.AlignVCenter | Qt.TextFlag.TextWordWrap
        painter.drawText(self.canvas(), flags, self._text)


class DemandPanel(QFrame):
    """The right-hand column."""

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__()
        self.setObjectName("card")
        self.session = session
        self.board = TileBoard(session, theme)
        self.said = Words("What the comparison says", theme, 13, 5, faint=False)
        self.back = Words("Forces on the lowest disc", theme, 12, 4, faint=True)
        caution = Wrapped(CAUTION, wordWrap=True)
        caution.setObjectName("faint")
        caution.setFont(font(12))
        heading = QLabel("Demand, peak over the rep")
        heading.setFont(font(15, bold=True))
        note = Wrapped(
            "about the joint's own axis · tile: now, side view, arm wide, force tall", wordWrap=True
        )
        note.setObjectName("faint")
        note.setFont(font(12))
        layout = QVBoxLayout(self)
        layout.setContentsMargins(14, 10, 14, 10)
        layout.setSpacing(6)
        layout.addWidget(heading)
        layout.addWidget(note)
        layout.addWidget(self.board, 1)
        layout.addWidget(self.said)
        layout.addLayout(self._actions())
        layout.addWidget(self.back)
        layout.addWidget(caution)
        session.changed.connect(self.refresh)
        session.moment_changed.connect(self.refresh)
        self.refresh()

    def _actions(self) -> QHBoxLayout:
        row = QHBoxLayout()
        self.legs = QPushButton("Same legs and load in B")
        self.legs.setToolTip(
            "Give B the stance, shin, depth, pressure point and load of A, so "
            "that only the load's place differs."
        )
        self.legs.clicked.connect(lambda: self.session.do(edits.same_legs))
        self.match = QToolButton()
        self.match.setText("Match B's load ▾")
        self.match.setToolTip("Set B's load by the same load or by equal demand at a joint.")
        self.match.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        menu = QMenu(self.match)
        for label, match in (
            ("Same load as A", "same-load"),
            ("Equal peak at the hip", "equal:hip"),
            ("Equal peak at the knee", "equal:knee"),
            ("Equal peak at the lower back", "equal:lower-back"),
            ("Equal effort", "equal-effort"),
        ):
            menu.addAction(label, partial(self.match_load, match))
        self.match.setMenu(menu)
        for button in (self.legs, self.match):
            button.setFont(font(12))
            row.addWidget(button)
        return row

    def match_load(self, match: str) -> None:
        """Set B's load against A; the search runs beside the window."""
        bench, first = self.session.bench, self.session.results[0]

        def work(_: Callable[[float], None]) -> float:
            return matched(bench.case(1), first, match, self.session.rules).load_kg or 0.0

        self.said.setText("Looking for the load at which B asks the same …")
        self.waiting.ask(work)

    @cached_property
    def waiting(self) -> Waiting:
        """Looks for loads; made when the first one is looked for."""
        from zesty_lever.ui.kit.waiting import Waiting

        made = Waiting(self.session.jobs, "match", long=False)
        made.answered.connect(self._matched)
        made.failed.connect(self._unmatched)
        made.stopped.connect(self.refresh)
        layout = self.layout()
        assert isinstance(layout, QVBoxLayout)
        layout.insertWidget(layout.indexOf(self.back), made)
        return made

    def _matched(self, load: float) -> None:
        self.session.do(edits.set_load_of, 1, load)
        self.refresh()

    def _unmatched(self, why: str) -> None:
        self.session.refused.emit(why)
        self.refresh()

    def refresh(self) -> None:
        """Rewrite the sentences."""
        session = self.session
        front_load = stands_with_front_load(session.result, session.moment)
        self.said.setText(comparison_sentence(*session.results, front_load=front_load))
        frames = [session.frame_of(slot) for slot in (0, 1)]
        other_end = session.other_end(session.editing)
        self.back.setText(disc_sentence(session.results, frames, session.editing, other_end))

    def themed(self) -> Iterable[Themed]:
        """The parts that paint themselves."""
        return (self.board, self.said, self.back)


def slot_bar(session: Session) -> QWidget:
    """Two plates naming A and B; pressing one makes it the one that is edited."""
    bar = QWidget()
    row = QHBoxLayout(bar)
    row.setContentsMargins(0, 0, 0, 0)
    buttons = [QPushButton(checkable=True, autoExclusive=True) for _ in range(2)]
    swap = push_button("Swap", "Exchange A and B.")
    swap.clicked.connect(lambda: session.do(edits.swap))
    copy = push_button(
        "Copy over",
        "Give the other set-up everything of this one, then change one thing: who leads, tempo, a band.",
    )
    copy.clicked.connect(lambda: session.do(edits.copy_to_other))

    def refresh() -> None:
        for slot, button in enumerate(buttons):
            room = max(button.width() - ZOOM.px(24), ZOOM.px(120))
            metrics = QFontMetricsF(button.font())
            title = setup_title(session.results[slot].case, slot)
            button.setText(metrics.elidedText(title, Qt.TextElideMode.ElideRight, room))
            button.setToolTip(f"{title}: press to edit it (Alt+{slot + 1}).")
            button.setChecked(slot == session.editing)

    def edit(slot: int) -> None:
        session.do(edits.edit_slot, slot)
        refresh()

    for slot, button in enumerate(buttons):
        button.setFont(font(13, bold=True))
        # A button's own shortcut is lost whenever its text changes.
        keys = QShortcut(QKeySequence(f"Alt+{slot + 1}"), bar)
        keys.activated.connect(lambda s=slot: edit(s))
        button.clicked.connect(lambda _=False, s=slot: edit(s))
        button.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
        row.addWidget(button, 1)
    row.addWidget(copy)
    row.addWidget(swap, 0, Qt.AlignmentFlag.AlignRight)
    session.changed.connect(refresh)
    refresh()
    return bar
