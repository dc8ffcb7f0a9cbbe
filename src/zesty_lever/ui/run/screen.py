"""Run: a session on the screen, read at arm's length, all by keys; several athletes at once."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

from PySide6.QtCore import Qt
from PySide6.QtGui import QKeyEvent, QShowEvent
from PySide6.QtWidgets import QApplication, QCheckBox, QHBoxLayout, QLabel, QVBoxLayout, QWidget

from zesty_lever.log.entry import DoneSet
from zesty_lever.ui.kit.controls import Wrapped, note, push_button
from zesty_lever.ui.kit.pain_popover import PainPopover
from zesty_lever.ui.kit.popover import Popover
from zesty_lever.ui.kit.screen import Screen, Themed
from zesty_lever.ui.kit.set_form import SetForm
from zesty_lever.ui.kit.theme import Theme, font
from zesty_lever.ui.kit.waiting import Waiting
from zesty_lever.ui.run.beside import Beside
from zesty_lever.ui.run.face import RunFace
from zesty_lever.ui.run.runs import Runs
from zesty_lever.ui.session import Session
from zesty_lever.wording.records import pain_words, set_words

HINTS = (
    "Space done or next \N{MIDDLE DOT} Enter take the values \N{MIDDLE DOT} \N{UPWARDS ARROW}\N{DOWNWARDS ARROW} reps "
    "\N{MIDDLE DOT} \N{LEFTWARDS ARROW}\N{RIGHTWARDS ARROW} load \N{MIDDLE DOT} 0\N{EN DASH}5 left in reserve "
    "\N{MIDDLE DOT} U ramp sets \N{MIDDLE DOT} F fault \N{MIDDLE DOT} N pain \N{MIDDLE DOT} S side \N{MIDDLE DOT} T tempo \N{MIDDLE DOT} O note "
    "\N{MIDDLE DOT} R 15 s more rest \N{MIDDLE DOT} B back \N{MIDDLE DOT} W next athlete \N{MIDDLE DOT} Esc leave"
)
FORM_WIDE = 640
TURNS = {"both": "left", "left": "right", "right": "both"}


class SetPopover(Popover):
    """The form of the set in front, over the face."""

    def __init__(self, over: QWidget) -> None:
        super().__init__(over, "floating")
        self.setAccessibleName("More about this set")
        column = QVBoxLayout(self)
        self.form = SetForm()
        column.addWidget(self.form)
        column.addWidget(note("Enter keeps, Esc gives it up."))
        self.hide()

    def settle(self) -> None:
        """Along the bottom of the face."""
        over = self.over
        wide = min(FORM_WIDE, over.width() - 12)
        self.setFixedSize(wide, min(self.sizeHint().height(), over.height()))
        self.move((over.width() - wide) // 2, over.height() - self.height() - 6)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape:
            self.hide()
            self.over.setFocus()
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.form.give()
        else:
            super().keyPressEvent(event)


class RunScreen(Screen):
    """All keys are the face's; the widgets around it only show."""

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__(session, theme)
        self.register = session.register
        self.runs = Runs(session, self)
        self.rating: int | None = None
        row = QHBoxLayout(self)
        row.setContentsMargins(14, 8, 12, 10)
        row.setSpacing(12)
        left = QVBoxLayout()
        left.addLayout(self._top())
        self.said = Wrapped(wordWrap=True)
        self.said.setTextFormat(Qt.TextFormat.PlainText)
        self.said.setFont(font(14))
        self.said.setObjectName("warn")
        self.said.hide()
        left.addWidget(self.said)
        self.face = RunFace(self.runs, theme)
        self.face.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.face.installEventFilter(self)
        left.addWidget(self.face, 1)
        self.values = QLabel()
        self.values.setFont(font(18, bold=True))
        self.values.setTextFormat(Qt.TextFormat.PlainText)
        left.addWidget(self.values)
        hints = note(HINTS)
        left.addWidget(hints)
        row.addLayout(left, 1)
        self.beside = Beside(self.runs, theme)
        row.addWidget(self.beside)
        self.more = SetPopover(self.face)
        self.more.form.given.connect(self._take_set)
        self.more.form.refused.connect(self._say)
        self.pain = PainPopover(self.face, ("before",))
        self.pain.keep.clicked.connect(self._take_pain)
        self.waiting.answered.connect(self._take)
        self.waiting.failed.connect(self._say)
        self.runs.changed.connect(self._refresh)
        self.runs.refused.connect(self._say)
        self.runs.rang.connect(self._ring)
        self.register.waiting.connect(self._say)
        self.register.failed.connect(self._say)

    def _top(self) -> QHBoxLayout:
        row = QHBoxLayout()
        self.who = QLabel()
        self.who.setFont(font(16, bold=True))
        self.who.setTextFormat(Qt.TextFormat.PlainText)
        row.addWidget(self.who, 1)
        self.waiting = Waiting(self.session.jobs, "records-run", long=False)
        row.addWidget(self.waiting, 1)
        self.beep = QCheckBox("Beep")
        self.beep.setFont(font(12))
        self.beep.setToolTip("A sound at the end of a rest, where the desktop has one.")
        self.beep.setFocusPolicy(Qt.FocusPolicy.ClickFocus)
        row.addWidget(self.beep)
        self.over = push_button("Finish now", "End this session; what is left of it stays undone.")
        self.over.setFocusPolicy(Qt.FocusPolicy.ClickFocus)
        self.over.clicked.connect(self._finish_now)
        row.addWidget(self.over)
        self.leave = push_button("Leave (Esc)", "Leave the screen; the session stays open.")
        self.leave.setFocusPolicy(Qt.FocusPolicy.ClickFocus)
        self.leave.clicked.connect(self._leave)
        row.addWidget(self.leave)
        return row

    # --- showing -----------------------------------------------------------------------------

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self.face.setFocus()
        self.ask()

    def ask(self) -> None:
        """Open the session that is wanted, or what is due for the athlete on the bench."""
        wanted, self.register.wanted_session = self.register.wanted_session, None
        if wanted is None and self.runs.now is not None:
            self._refresh()
            return
        if self.register.store is None:
            self._say("Opening the records …")
        self.waiting.ask(self.runs.question(wanted))

    def _take(self, found: Any) -> None:
        self._say("")
        if not self.runs.take(found):
            self.who.setText(self.session.bench.athlete.name or "Athlete")
            self._say(
                "Nothing is planned for today or the next days: build or plan a session first."
            )
        self.face.setFocus()

    def _say(self, words: str) -> None:
        self.said.setText(words)
        self.said.setVisible(bool(words))

    def _ring(self) -> None:
        if self.beep.isChecked():
            QApplication.beep()

    def _refresh(self) -> None:
        now = self.runs.now
        if now is None:
            self.who.setText("No session runs")
            self.values.setText("")
            return
        others = (
            "" if len(self.runs.all) == 1 else f"  ({self.runs.at + 1} of {len(self.runs.all)}, W)"
        )
        self.who.setText(f"{now.name}: {now.row.session.name or 'Session'}{others}")
        draft, run = now.run.draft, now.run
        if run.over:
            felt = "not told" if self.rating is None else f"{self.rating} of 10"
            self.values.setText(f"Felt: {felt}. Enter finishes the session.")
        elif draft is None:
            last = run.done[-1] if run.done else None
            self.values.setText("" if last is None else f"Confirmed: {self._words(last)}")
        else:
            self.values.setText(f"To confirm: {self._words(draft)}")

    @staticmethod
    def _words(done: DoneSet) -> str:
        left = "" if done.effort_left is None else f", {done.effort_left:g} left"
        faults = "".join(f", {f.code.replace('-', ' ')}" for f in done.faults)
        pains = "".join(f", {pain_words(p)}" for p in done.pains)
        return f"{set_words(done)}{left}{faults}{pains}"

    # --- hands -------------------------------------------------------------------------------

    def eventFilter(self, watched: Any, event: Any) -> bool:
        if (
            watched is self.face
            and isinstance(event, QKeyEvent)
            and event.type() == QKeyEvent.Type.KeyPress
        ):
            return self.key(event)
        return super().eventFilter(watched, event)

    def key(self, event: QKeyEvent) -> bool:
        """One key; whether it means anything here."""
        if event.modifiers() & (
            Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.AltModifier
        ):
            return False
        key, runs = Qt.Key(event.key()), self.runs
        plain = {
            Qt.Key.Key_Space: self._space,
            Qt.Key.Key_Return: self._enter,
            Qt.Key.Key_Enter: self._enter,
            Qt.Key.Key_Up: lambda: self._more_reps(1),
            Qt.Key.Key_Down: lambda: self._more_reps(-1),
            Qt.Key.Key_Right: lambda: runs.step_load(True),
            Qt.Key.Key_Left: lambda: runs.step_load(False),
            Qt.Key.Key_F: lambda: self._open_form("fault"),
            Qt.Key.Key_T: lambda: self._open_form("tempo"),
            Qt.Key.Key_O: lambda: self._open_form("note"),
            Qt.Key.Key_N: self._pain,
            Qt.Key.Key_U: runs.keep_ramp,
            Qt.Key.Key_S: lambda: runs.change(lambda d: d.changed(side=TURNS[d.side])),
            Qt.Key.Key_R: runs.rest_more,
            Qt.Key.Key_B: runs.back,
            Qt.Key.Key_W: runs.turn,
            Qt.Key.Key_Escape: self._leave,
        }
        if Qt.Key.Key_0 <= key <= Qt.Key.Key_9:
            self._digit(int(key) - int(Qt.Key.Key_0))
            return True
        if key not in plain:
            return False
        plain[key]()
        return True

    def _space(self) -> None:
        if self.runs.run is not None and self.runs.run.over:
            return
        self.runs.next()

    def _enter(self) -> None:
        """Take the values as they stand; at the end finish."""
        run = self.runs.run
        if run is None:
            return
        if run.over:
            self.finish()
        elif self.runs.now is not None and not self.runs.now.begun:
            self.runs.begin()
        elif run.step is not None and run.step.logs:
            self.runs.confirm()
        else:
            self.runs.next()

    def _more_reps(self, by: int) -> None:
        def change(draft: DoneSet) -> DoneSet:
            if draft.held:
                return draft.changed(seconds=min(max((draft.seconds or 0.0) + 5 * by, 1.0), 600.0))
            return draft.changed(reps=min(max(draft.reps + by, 0), 200))

        self.runs.change(change)

    def _digit(self, number: int) -> None:
        run = self.runs.run
        if run is not None and run.over:
            self.rating = number
            self._refresh()
        elif number <= 5:
            self.runs.change(lambda draft: draft.changed(effort_left=float(number)))

    def _open_form(self, what: str) -> None:
        run = self.runs.run
        if run is None or run.draft is None:
            return
        form = self.more.form
        form.show_set(run.draft)
        self.more.settle()
        self.more.show()
        self.more.raise_()
        {"fault": form.fault, "tempo": form.tempo, "note": form.note, "pain": form.place}[
            what
        ].setFocus()

    def _pain(self) -> None:
        now = self.runs.now
        if now is None:
            return
        # One that comes in the middle is one of "during", and stops what it must there and then.
        self.pain.tell("during" if now.begun else "before")
        self.pain.settle()
        self.pain.show()
        self.pain.raise_()
        self.pain.place.setFocus()

    def _take_set(self, done: DoneSet) -> None:
        self.more.hide()
        self.face.setFocus()
        self.runs.change(lambda _draft: done)

    def _take_pain(self) -> None:
        pain = self.pain.pain()
        self.pain.hide()
        self.face.setFocus()
        self.runs.tell_pain(pain)
        when = "Now" if pain.moment == "during" else "Before the session"
        self.session.announced.emit(f"{when}: {pain_words(pain)}.")

    def _finish_now(self) -> None:
        self.finish()

    def finish(self) -> None:
        """End the session in front."""
        if self.runs.now is None:
            return
        self.runs.finish(self.rating)
        self.rating = None
        if not self.runs.all:
            self.session.screen_asked.emit("Log")

    def _leave(self) -> None:
        self.session.screen_asked.emit("Plan")

    def themed(self) -> Iterable[Themed]:
        return (self.face, self.beside.figure)
