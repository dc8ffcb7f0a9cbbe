"""Beside the large face: the figure, discs, tempo, cue, last time, advice, what comes next."""

from __future__ import annotations

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPaintEvent
from PySide6.QtWidgets import QLabel, QVBoxLayout, QWidget

from zesty_lever.analysis import Result, analyse
from zesty_lever.coaching.cues import cues_of
from zesty_lever.exercises.catalogue import catalogue
from zesty_lever.log.exposure import case_of
from zesty_lever.plan.drills import drills
from zesty_lever.plan.steps import Step, tempo_words
from zesty_lever.problems import CaseError
from zesty_lever.ui.kit.controls import Wrapped, scrolled_column
from zesty_lever.ui.kit.screen import Themed
from zesty_lever.ui.kit.theme import Theme, font
from zesty_lever.ui.paint.figure import paint_figure, paint_floor, paint_surfaces
from zesty_lever.ui.paint.lines import paint_lines
from zesty_lever.ui.paint.view import View
from zesty_lever.ui.run.runs import Running, Runs
from zesty_lever.wording.messages import told as sentences
from zesty_lever.wording.records import (
    advice_words,
    exercise_words,
    load_short,
    ramp_words,
    seen_words,
    set_words,
    ways_words,
)
from zesty_lever.wording.sentences import discs_words

WIDE = 350


class Figure(Themed):
    """The athlete in the lift that is due, at its decisive moment."""

    def __init__(self, theme: Theme) -> None:
        super().__init__(theme)
        self.result: Result | None = None
        self.setFixedHeight(196)
        self.setAccessibleName("The lift as this athlete does it")

    def show_result(self, result: Result | None) -> None:
        """Show another lift."""
        self.result = result
        self.setVisible(result is not None)
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        result, area = self.result, self.canvas()
        if result is None or not result.frames:
            return
        painter = self.painter()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        frame = min(result.timeline.bottom, result.frames - 1)
        points = result.shown.pose.points
        tops = [float(points[name][1, frame]) for name in ("head_top", "hand_right", "hip_mid")]
        along = [
            float(points[name][0, frame])
            for name in ("head_top", "toe_right", "toe_left", "heel_left", "hip_mid")
        ]
        scale = min(
            area.height() / (max(tops) + 0.36), area.width() / (max(along) - min(along) + 0.6)
        )
        middle = 0.5 * (max(along) + min(along))
        view = View(scale, area.center().x() - scale * middle, area.bottom() - 10)
        painter.setPen(QColor(self.theme.ink))
        paint_floor(painter, view, self.theme, area.right())
        paint_surfaces(painter, view, self.theme, result)
        paint_lines(painter, view.point, self.theme, result, frame)
        paint_figure(painter, view, self.theme, result, frame)


class Beside(QWidget):
    """Follows the runs."""

    def __init__(self, runs: Runs, theme: Theme) -> None:
        super().__init__()
        self.runs = runs
        self._drawn: tuple[int, str, float] | None = None
        area, column = scrolled_column(WIDE)
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        outer.addWidget(area)
        self.figure = Figure(theme)
        column.addWidget(self.figure)
        self.parts: dict[str, tuple[QLabel, Wrapped]] = {}
        for name in ("Discs", "Ramp", "Tempo", "Cue", "Last time", "Advice", "Instead", "Next"):
            head = QLabel(name)
            head.setFont(font(13, bold=True))
            words = Wrapped(wordWrap=True)
            words.setTextFormat(Qt.TextFormat.PlainText)
            words.setFont(font(16))
            column.addWidget(head)
            column.addWidget(words)
            self.parts[name] = (head, words)
        column.addStretch(1)
        runs.changed.connect(self.refresh)

    def refresh(self) -> None:
        """Show what goes with the step (of a rest: with the set after it)."""
        now = self.runs.now
        if now is None:
            return
        step = now.run.step
        if step is not None and step.kind in ("rest", "mini-rest"):
            step = now.run.next_work or step
        told = {} if step is None else self._told(now, step)
        for name, (head, words) in self.parts.items():
            text = told.get(name, "")
            head.setVisible(bool(text))
            words.setVisible(bool(text))
            words.setText(text)
        self._draw(now, step)

    def _told(self, now: Running, step: Step) -> dict[str, str]:
        run = now.run
        done = run.draft if run.draft is not None and step is run.step else run.planned(step)
        entry = catalogue().get(step.item.name)
        known = drills().get(step.drill or step.item.drill)
        told = {"Cue": step.item.note}
        if entry is not None and step.item.setup is not None and not step.drill:
            gym = self.runs.session.bench.gym
            told["Discs"] = discs_words(entry.id, done.load_kg, gym) or load_short(
                done.load_kg or None, None, entry.id
            )
            told["Tempo"] = tempo_words(step.item.setup, step.item)
            told["Cue"] = step.item.note or " ".join(cues_of(entry))
            told["Last time"] = "\n".join(_last(now, step))
            advice = now.advised.get(step.item.key)
            if advice is not None:
                told["Advice"] = f"{advice_words(advice, entry.id)}. {' '.join(sentences(advice))}"
                ways = ways_words(advice)
                if ways:
                    told["Instead"] = "\n".join(ways)
                if advice.ramp and not any(
                    e.setup is not None and e.item == step.item.key for e in run.done
                ):
                    told["Ramp"] = f"{ramp_words(entry.id, advice.ramp)} (U keeps them)"
        elif known is not None:
            told["Cue"] = step.item.note or known.cue
        after = run.next_work
        if after is not None and after.item.key != step.item.key:
            told["Next"] = exercise_words(after.item.name)
        return told

    def _draw(self, now: Running, step: Step | None) -> None:
        if step is None or step.item.setup is None or step.drill:
            self._drawn = None
            self.figure.show_result(None)
            return
        done = now.run.planned(step)
        key = (now.row.id, step.item.key, done.load_kg)
        if key == self._drawn:
            return
        self._drawn = key
        try:
            result = analyse(case_of(done, now.body))
        except CaseError:
            result = None
        self.figure.show_result(result)


def _last(now: Running, step: Step) -> list[str]:
    """Last time's sets of this lift, this side's where sides are apart."""
    sets = now.last.get(step.item.name, ())
    side = step.side if step.side in ("left", "right") else None
    own = [e for e in sets if side is None or e.side in (side, "both")]
    lines = []
    for entry in own:
        left = "" if entry.effort_left is None else f", {entry.effort_left:g} left"
        seen = seen_words(entry)
        lines.append(f"{entry.number}: {set_words(entry)}{left}" + (f"; {seen}" if seen else ""))
    return lines


def figure_area(area: QRectF) -> QRectF:
    """Room of the figure inside an area."""
    return area.adjusted(8, 8, -8, -8)
