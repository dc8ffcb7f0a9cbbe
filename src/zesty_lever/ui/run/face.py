"""What is read at arm's length: the exercise, the dose, the number; a bar that runs down; one turn of the colours."""

from __future__ import annotations

from dataclasses import replace

from PySide6.QtCore import QRectF, Qt, QTimer
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QPen

from zesty_lever.log.running import Run
from zesty_lever.plan.steps import Step
from zesty_lever.ui.kit.screen import Themed
from zesty_lever.ui.kit.theme import Theme, font
from zesty_lever.ui.run.runs import Running, Runs
from zesty_lever.wording.records import STYLE_WORDS, exercise_words, load_short, range_words

DIGITS_PX, TURNED_MS = 250, 700


class RunFace(Themed):
    """Paints the step in front of the coach; speaks it too."""

    def __init__(self, runs: Runs, theme: Theme) -> None:
        super().__init__(theme)
        self.runs = runs
        self.turned = False
        self.setMinimumSize(420, 380)
        self.setAccessibleName("The step that is due")
        runs.changed.connect(self.refresh)
        runs.ticked.connect(self.update)
        runs.rang.connect(self._ring)
        self._turn_back = QTimer(self, singleShot=True, interval=TURNED_MS)
        self._turn_back.timeout.connect(self._calm)

    def refresh(self) -> None:
        """Another step."""
        self.setAccessibleDescription(self.spoken())
        self.update()

    def _ring(self) -> None:
        """A rest is over: the colours turn once."""
        self.turned = True
        self._turn_back.start()
        self.update()

    def _calm(self) -> None:
        self.turned = False
        self.update()

    def spoken(self) -> str:
        """The step in words."""
        now = self.runs.now
        if now is None:
            return "No session runs."
        head, under = head_words(now)
        return f"{now.name}: {head}. {under}. {number_words(now.run, self.runs.clock())}"

    def paintEvent(self, event: QPaintEvent) -> None:
        painter, theme, area = self.painter(), self.theme, self.canvas()
        if self.turned:
            theme = replace(theme, panel=theme.ink, ink=theme.panel, faint=theme.well)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(theme.panel))
        painter.drawRoundedRect(area.adjusted(1, 1, -1, -1), 6, 6)
        now = self.runs.now
        if now is None:
            return
        clock = self.runs.clock()
        head, under = head_words(now)
        painter.setPen(QColor(theme.ink))
        painter.setFont(font(34, bold=True))
        painter.drawText(area.adjusted(24, 16, -24, 0), Qt.TextFlag.TextSingleLine, head)
        painter.setFont(font(24))
        painter.drawText(area.adjusted(24, 62, -24, 0), Qt.TextFlag.TextWordWrap, under)
        middle = QRectF(
            area.left() + 16, area.top() + 118, area.width() - 32, area.height() - 118 - 96
        )
        self._paint_number(painter, theme, now, middle, clock)
        self._paint_bar(painter, theme, now.run, area, clock)

    def _paint_number(
        self, painter: QPainter, theme: Theme, now: Running, area: QRectF, clock: float
    ) -> None:
        number, unit = number_parts(now, clock)
        size = DIGITS_PX
        painter.setFont(font(size, bold=True))
        wide = painter.fontMetrics().horizontalAdvance(number)
        room = area.width() - 10
        if wide > room:
            size = int(size * room / wide)
            painter.setFont(font(size, bold=True))
        painter.setPen(QColor(theme.ink))
        painter.drawText(area, Qt.AlignmentFlag.AlignCenter, number)
        painter.setFont(font(26))
        painter.setPen(QColor(theme.faint))
        below = QRectF(area.left(), area.bottom() - 4, area.width(), 38)
        painter.drawText(below, Qt.AlignmentFlag.AlignHCenter, unit)

    def _paint_bar(
        self, painter: QPainter, theme: Theme, run: Run, area: QRectF, clock: float
    ) -> None:
        count = run.countdown
        bar = QRectF(area.left() + 24, area.bottom() - 46, area.width() - 48, 22)
        if count is None:
            return
        painter.setPen(QPen(QColor(theme.faint), 1.5))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(bar)
        share = min(max(count.left_s(clock) / max(count.length_s, 1e-6), 0.0), 1.0)
        painter.fillRect(
            QRectF(bar.left(), bar.top(), bar.width() * share, bar.height()), QColor(theme.ink)
        )


def head_words(now: Running) -> tuple[str, str]:
    """The step's name and what is under it."""
    run, step = now.run, now.run.step
    if step is None:
        return "Done", f"{len(run.done)} sets confirmed. How hard was it? 0 to 9, then Enter."
    name = exercise_words(step.drill or step.item.name)
    if not now.begun:
        return name, "Space begins. N: pain before the session."
    if step.kind in ("rest", "mini-rest"):
        after = run.next_work
        what = "Rest" if step.kind == "rest" else "Short rest"
        then = (
            ""
            if after is None
            else f"then {exercise_words(after.item.name)}, {place_words(run, after)}"
        )
        return what, then
    return name, place_words(run, step)


def place_words(run: Run, step: Step) -> str:
    """Which set it is, of how many, which side, in which style."""
    if step.kind == "minute":
        odd = "move" if step.drill else "lift"
        return f"minute {int((step.at_s or 0) // 60) + 1} of {step.of * 2}: {odd}"
    words = [f"set {step.number} of {step.of}"]
    if step.minis > 1:
        words.append(f"mini-set {step.mini} of {step.minis}")
    if step.side in ("left", "right"):
        words.append(f"{step.side} side")
    style = run.style_of(step)
    if style not in ("straight", "holds"):
        words.append(STYLE_WORDS[style])
    return ", ".join(words)


def number_parts(now: Running, clock: float) -> tuple[str, str]:
    """The large number and what it counts."""
    run, step = now.run, now.run.step
    if step is None:
        return "\N{CHECK MARK}", ""
    count = run.countdown
    if now.begun and count is not None:
        over = count.over_words(clock) if step.kind in ("rest", "mini-rest") else ""
        number = count.shown(clock)
        words = f"{number // 60}:{number % 60:02d}" if number >= 100 else str(number)
        return words, over or ("s of rest" if step.kind not in {"work", "minute"} else "s")
    draft = run.draft
    if draft is None:
        return "", ""
    if draft.held:
        return f"{draft.seconds or 0:g}", "s to hold, Space starts the clock"
    load = load_short(draft.load_kg, draft.load_up_kg, draft.name) if draft.load_kg else ""
    if step.minis > 1:
        return str(step.item.mini_reps or draft.reps), f"reps {load}".strip()
    low, high = step.item.reps
    aim = "" if draft.reps == low == high else f" (aim {range_words(low, high)})"
    return str(draft.reps), f"reps{aim}" + (f" with {load}" if load else "")


def number_words(run: Run, clock: float) -> str:
    """The number in words, for a screen reader."""
    if run.countdown is not None:
        return f"{run.countdown.shown(clock)} s left"
    draft = run.draft
    if draft is None:
        return ""
    amount = f"{draft.seconds or 0:g} s" if draft.held else f"{draft.reps} repetitions"
    return (
        f"{amount} {load_short(draft.load_kg, None, draft.name) if draft.load_kg else ''}".strip()
    )
