"""Beside a session: what it and its week would give each joint, rules fulfilled or broken, why an item stands there."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QLabel, QVBoxLayout, QWidget

from zesty_lever.joints import COACH_JOINTS
from zesty_lever.log.exposure import Exposure
from zesty_lever.plan.checks import Checked
from zesty_lever.ui.kit.controls import Wrapped, scrolled_column
from zesty_lever.ui.kit.screen import Themed
from zesty_lever.ui.kit.theme import Theme, font
from zesty_lever.wording.records import direction_words, impulse_words

WIDE = 318
HOLDS, BROKEN = "\N{CHECK MARK}", "\N{MULTIPLICATION SIGN}"


class Predicted(Themed):
    """The planned week by joint: this session's part darker, beside the mean of the last four done."""

    def __init__(self, theme: Theme) -> None:
        super().__init__(theme)
        self.session, self.week = Exposure(), Exposure()
        self.mean: Mapping[str, float] = {}
        self.setFixedHeight(118)
        self.setAccessibleName("Predicted exposure")
        self.setToolTip(
            "Impulse of the planned week; the solid part is this session; the line is the mean of the last four weeks done."
        )

    def show_sums(self, session: Exposure, week: Exposure, mean: Mapping[str, float]) -> None:
        """Show what a session and its week would give."""
        self.session, self.week, self.mean = session, week, mean
        parts = []
        for group in COACH_JOINTS:
            line = self.mean.get(group.key, 0.0)
            ratio = (
                f", {week.of(group.key) / line:.1f} of the mean of the last four" if line else ""
            )
            parts.append(f"{group.word} {impulse_words(week.of(group.key))} in the week{ratio}")
        self.setAccessibleDescription("; ".join(parts))
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter, theme, area = self.painter(), self.theme, self.canvas()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        tall = area.height() / len(COACH_JOINTS)
        for number, group in enumerate(COACH_JOINTS):
            top, hue = number * tall, theme.joint(group.shown)
            line = self.mean.get(group.key, 0.0)
            week, own = self.week.of(group.key), self.session.of(group.key)
            most = max(2.0 * line, week, 1.0)
            bar = QRectF(84, top + 6, area.width() - 84 - 106, tall - 16)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(QColor(theme.well))
            painter.drawRect(bar)
            pale = QColor(hue)
            pale.setAlpha(110)
            painter.setBrush(pale)
            painter.drawRect(QRectF(bar.left(), bar.top(), bar.width() * week / most, bar.height()))
            painter.setBrush(hue)
            painter.drawRect(QRectF(bar.left(), bar.top(), bar.width() * own / most, bar.height()))
            if line:
                x = bar.left() + bar.width() * line / most
                painter.setPen(QPen(QColor(theme.ink), 1.5))
                painter.drawLine(QPointF(x, bar.top() - 2), QPointF(x, bar.bottom() + 2))
            painter.setPen(QColor(theme.ink))
            painter.setFont(font(12))
            flag = Qt.AlignmentFlag.AlignVCenter
            painter.drawText(QRectF(2, top, 80, tall - 4), flag, group.word)
            words = impulse_words(week) + (f"\n{week / line:.1f} of the mean" if line else "")
            painter.drawText(QRectF(bar.right() + 8, top, 100, tall - 2), flag, words)


# A week that adds up to more than this of the last full one is said to.
MOST_STEP = 1.2


class SidePanel(QWidget):
    """Predicted exposure, rules, and reasons of the item that is chosen."""

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        area, column = scrolled_column(WIDE)
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        outer.addWidget(area)
        self.predicted = Predicted(theme)
        self.sums = self._words()
        self.rules = self._words()
        self.why = self._words()
        self.unmet = self._words()
        for name, widget in (
            ("The week as planned", self.predicted),
            ("", self.sums),
            ("Rules", self.rules),
            ("Why", self.why),
            ("Not met", self.unmet),
        ):
            if name:
                head = QLabel(name)
                head.setFont(font(13, bold=True))
                column.addWidget(head)
                widget.setProperty("head", name)
                self.heads[name] = head
            column.addWidget(widget)
        column.addStretch(1)

    @property
    def heads(self) -> dict[str, QLabel]:
        """The headings by name."""
        if not hasattr(self, "_heads"):
            self._heads: dict[str, QLabel] = {}
        return self._heads

    @staticmethod
    def _words() -> Wrapped:
        label = Wrapped(wordWrap=True)
        label.setTextFormat(Qt.TextFormat.PlainText)
        label.setFont(font(12))
        return label

    def show_sums(
        self,
        session: Mapping[str, Exposure],
        week: Mapping[str, Exposure],
        mean: Mapping[str, float],
    ) -> None:
        """Show what a session and its week would give, by direction."""
        whole = sum(week.values(), start=Exposure())
        self.predicted.show_sums(sum(session.values(), start=Exposure()), whole, mean)
        hard = [f"{g.word} {whole.hard_of(g.key)[0]:g}" for g in COACH_JOINTS]
        words = f"Hard repetitions: {', '.join(hard)}. {direction_words(week).capitalize()}."
        if whole.uncounted:
            named = "; ".join(f"{why} ({n} sets)" for why, n in whole.uncounted.items())
            words += f" Not counted: {named}."
        self.sums.setText(words)

    def show_steps(self, steps: Mapping[str, float]) -> None:
        """What the week adds up to beside the last full week before it in the plan."""
        if not steps:
            return
        parts = [f"{g.word} {steps[g.key]:.2f}" for g in COACH_JOINTS if g.key in steps]
        more = any(ratio > MOST_STEP + 1e-9 for ratio in steps.values())
        warn = " More than a fifth above it: keep it only if you mean it." if more else ""
        self.sums.setText(
            f"{self.sums.text()} Beside the last full week: {', '.join(parts)} of it.{warn}"
        )

    def show_rules(self, checked: Sequence[Checked]) -> None:
        """Rules, the broken ones first."""
        ordered = sorted(checked, key=lambda one: one.holds)
        lines = [f"{HOLDS if one.holds else BROKEN} {one.words}" for one in ordered]
        self.rules.setText("\n".join(lines))

    def show_why(self, reasons: Sequence[str], unmet: Sequence[str]) -> None:
        """Reasons of the chosen item, and what the builder could not give."""
        self.why.setText("\n".join(f"\N{BULLET} {words}" for words in reasons))
        self.unmet.setText("\n".join(f"\N{BULLET} {words}" for words in unmet))
        for name, kept in (("Why", reasons), ("Not met", unmet)):
            self.heads[name].setVisible(bool(kept))
        self.why.setVisible(bool(reasons))
        self.unmet.setVisible(bool(unmet))
