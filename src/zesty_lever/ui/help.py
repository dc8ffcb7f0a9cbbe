"""Cautions, the help sheet and About."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import Qt
from PySide6.QtGui import QKeyEvent, QShowEvent
from PySide6.QtWidgets import (
    QDialog,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from zesty_lever import __version__
from zesty_lever.ui.kit.popover import Popover
from zesty_lever.ui.kit.theme import font

CAUTIONS = (
    "The numbers are estimates for comparing variations. They are not a diagnosis and no safety "
    "limit.",
    "Stop at pain. Pain, injury, numbness or recent surgery goes to a licensed clinician; their "
    "advice and local rules come first.",
    "Use racks, safety bars, collars and a spotter.",
    "Breath-holding raises blood pressure: not for people told to avoid it.",
    "Beginners, adolescents, pregnant athletes and people back from injury start light, under "
    "supervision.",
    "A smaller moment at one joint is usually a larger one elsewhere.",
)
KEYS = (
    ("Tab, Shift+Tab", "to the next or previous lever; the figure's handles included"),
    (
        "Arrows on a handle",
        "one step (1 degree, 1 cm), both ways on a band's anchor; with Shift five",
    ),
    ("Left, Right on the rep strip", "one frame; with Shift five; Home top, End bottom"),
    ("Up, Down in a number", "one step"),
    ("Alt+1, Alt+2", "edit set-up A, set-up B"),
    ("Alt+4, Alt+5, Alt+6", "demand, findings, what matters"),
    ("Ctrl+Z, Ctrl+Shift+Z", "undo, redo"),
    ("Ctrl+T, Ctrl+1, Ctrl+2 ...", "the team; the screens in the order of the work"),
    ("Ctrl+G, Ctrl+Shift+N", "start the session that is due; type in one that was done"),
    (
        "While a session runs",
        "Space done or next, Enter take the values, Up and Down repetitions, Left and Right load, 0 to 5 left in reserve, F fault, N pain, S side, T tempo, "
        "O note, R 15 s more rest, B back, W next athlete, Esc leave",
    ),
    (
        "On the weeks of a plan",
        "arrows from session to session, with Alt to another day; Enter to its items; Alt with Up, Down moves an item, Delete takes it away",
    ),
    ("Alt+7, Alt+8, Alt+9 in the log", "what comes next, weeks, trends"),
    ("Ctrl+Alt+1, Ctrl+Alt+2", "from the side; from the front, with the feet"),
    ("Enter, arrows in the front view", "take the next grip; move it"),
    (
        "In Measure's picture",
        "arrows move the mark 1 px (Ctrl 0.1, Shift 10), Enter sets it, N next mark, C copy on, H hidden, Delete; , and . frames, PageUp and "
        "PageDown marked frames, J where following is least sure, F follow; Ctrl and wheel, + and - closer",
    ),
    ("P", "play the rep at its tempo, or stop"),
    ("Ctrl+F", "search the catalogue: Enter picks, Shift+Enter for the other set-up"),
    ("Ctrl+O, Ctrl+S", "open a case or athlete; save the case"),
    ("Ctrl+Shift+C, Ctrl+E, Ctrl+P", "copy, save, print the picture"),
    ("Ctrl+U", "centimetres and kilograms, or inches and pounds"),
    ("Ctrl+N", "new athlete"),
    ("Ctrl+D", "light or dark"),
    ("Ctrl++, Ctrl+-, Ctrl+0", "everything larger, smaller, or as the desktop's text is"),
    ("F1", "this sheet"),
    ("Esc while dragging", "give the drag up"),
)
TERMS = (
    (
        "Net joint moment (the load on a joint)",
        "force times lever arm, carried by the muscles around the joint; extensor positive, N·m",
    ),
    (
        "Extensor, flexor",
        "the muscles that straighten a joint, and those that bend it; minus where the flexors work",
    ),
    (
        "Adductors, abductors",
        "the hip's inner and outer side; they work where a moment is told as sideways (frontal)",
    ),
    (
        "Hard repetition",
        "one whose peak at a joint is at least 70 % (or what you set) of the reference lift's at the best load; near the line a range is told",
    ),
    (
        "Exposure",
        "what a joint got: impulse, hard repetitions, kilograms and time, side by side; no claim about injury",
    ),
    ("Left in reserve", "repetitions that would still have gone, in half steps to 5"),
    ("Impulse", "moment times time over a repetition or a set, N·m·s: slower is more"),
    ("Lever arm", "distance from the joint to the line of the force, at right angles to it"),
    ("Solved by balance", "the angle that keeps the load over the chosen point of the foot"),
    ("Pressure point", "where along the foot the weight sits: 0 the heel, 1 the tip of the toes"),
    (
        "Least effort, vertical",
        "what settles how hard two feet push against each other: the push that asks the legs least, or none",
    ),
    (
        "Mark, follow",
        "a place set by hand in the picture; finding it again from frame to frame, both ways",
    ),
    ("Yaw", "how far a camera stands out of square to the athlete"),
    ("School", "hips first, even or knees travel: the default technique, and what is flagged"),
    ("Set-up, setting, handle", "what is done; one number of it; the grip that drags it"),
    ("Frontier", "techniques of which none is better at hip, knee and lower back at once"),
    ("L5/S1", "the lowest joint of the lower back"),
    (
        "Interval, 90 %",
        "what could be true with things measured and done as well as they are",
    ),
    (
        "As set up, as done",
        "as set up: both done exactly as entered, only body and tape off; as done: each done and read "
        "apart, angles and pressure off too",
    ),
    (
        "Room that is left",
        "how far a setting can go with the others held, and which joint or thing stops it",
    ),
    (
        "Side view",
        "levers and tiles count what is seen from the side; the curves turn about the "
        "joint's own axis",
    ),
)


def _lines(pairs: tuple[tuple[str, str], ...]) -> QLabel:
    rows = "".join(
        f"<tr><td style='padding:3px 18px 3px 0'><b>{a}</b></td><td style='padding:3px 0'>{b}</td></tr>"
        for a, b in pairs
    )
    label = QLabel(f"<table>{rows}</table>", wordWrap=True)
    label.setFont(font(13))
    return label


def _sheet(parent: QWidget, title: str, parts: list[QLabel]) -> QDialog:
    """A window of text that does not block the one behind it."""
    sheet = QDialog(parent)
    sheet.setWindowTitle(title)
    sheet.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
    layout = QVBoxLayout(sheet)
    layout.setContentsMargins(24, 20, 24, 16)
    layout.setSpacing(12)
    for part in parts:
        layout.addWidget(part)
    close = QPushButton("Close")
    close.clicked.connect(sheet.close)
    layout.addWidget(close, 0, Qt.AlignmentFlag.AlignRight)
    sheet.setMinimumWidth(640)
    return sheet


def _heading(text: str) -> QLabel:
    label = QLabel(text)
    label.setFont(font(16, bold=True))
    return label


def cautions_label() -> QLabel:
    """The cautions as one block of text."""
    label = QLabel(
        "<ul style='margin-left:-22px'>" + "".join(f"<li>{c}</li>" for c in CAUTIONS) + "</ul>",
        wordWrap=True,
    )
    label.setFont(font(13))
    return label


def help_sheet(parent: QWidget) -> QDialog:
    """All keys and terms on one sheet."""
    return _sheet(
        parent,
        "Keys and terms",
        [
            _heading("Keys"),
            _lines(KEYS),
            _heading("Terms"),
            _lines(TERMS),
        ],
    )


def about_sheet(parent: QWidget) -> QDialog:
    """What this is, its licence, sources and cautions."""
    text = QLabel(
        f"Zesty Lever {__version__}. Estimates hip, knee and lower-back moments from the set-up of "
        "an exercise, for strength coaches. MIT licence; the B612 typeface is under the SIL Open "
        "Font License. Segment data: de Leva 1996; lengths: Drillis and Contini 1966; joint axes: "
        "Wu et al. 2002, Grood and Suntay 1983. All assumptions are in docs/model.md.",
        wordWrap=True,
    )
    text.setFont(font(13))
    return _sheet(
        parent,
        "About Zesty Lever",
        [
            _heading("About"),
            text,
            _heading("Cautions"),
            cautions_label(),
        ],
    )


class FirstRunNotice(Popover):
    """The cautions, shown over the bench until they are put away once."""

    def __init__(self, parent: QWidget, put_away: Callable[[], None]) -> None:
        super().__init__(parent, "notice")
        layout = QVBoxLayout(self)
        layout.setContentsMargins(20, 14, 20, 14)
        layout.addWidget(_heading("Before you use these numbers"))
        layout.addWidget(cautions_label())
        row = QHBoxLayout()
        row.addStretch(1)
        self.button = QPushButton("Understood")
        self.button.setFont(font(13, bold=True))
        self.button.clicked.connect(put_away)
        self.button.clicked.connect(self.hide)
        row.addWidget(self.button)
        layout.addLayout(row)
        self.setAccessibleName("Cautions")
        # Enter on it puts it away as Escape does: it has been seen.
        self.button.setDefault(True)
        self.button.setAutoDefault(True)

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self.button.setFocus(Qt.FocusReason.PopupFocusReason)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Escape, Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.button.click()
        else:
            super().keyPressEvent(event)

    def settle(self) -> None:
        """Take a place in the middle of the parent."""
        parent = self.over
        width = min(620, parent.width() - 40)
        layout = self.layout()
        assert layout is not None
        self.setFixedSize(width, layout.totalHeightForWidth(width))
        self.move((parent.width() - width) // 2, (parent.height() - self.height()) // 2)
