"""Numbers with units that can be typed as people type them: 40 cm, 16 in, 12,5, 135 lb."""

from __future__ import annotations

from collections.abc import Callable
from itertools import pairwise

from PySide6.QtCore import QEvent, QObject, QSignalBlocker, Qt, Signal
from PySide6.QtGui import QEnterEvent, QResizeEvent, QValidator
from PySide6.QtWidgets import (
    QAbstractSpinBox,
    QComboBox,
    QDoubleSpinBox,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QScrollArea,
    QSlider,
    QToolButton,
    QToolTip,
    QVBoxLayout,
    QWidget,
)

from zesty_lever.exercises.catalogue import Setting
from zesty_lever.ui.kit.theme import font
from zesty_lever.wording.units import UNITS, parse_quantity

LABEL_WIDTH = 104
# A typed value this little past an end is the end.
SLACK = 1e-9


def plain_tip(text: str) -> str:
    """A tip that may quote a file: shown as it is written, whatever it holds."""
    return f"<span>{unmarked(text)}</span>"


def unmarked(text: str) -> str:
    """A text in which nothing is taken for marked-up text."""
    return text.replace("&", "&amp;").replace("<", "&lt;").replace(">", "&gt;")


class WheelGuard(QObject):
    """Keeps the wheel from changing a control that nobody is in: it scrolls the panel instead."""

    def watch(self, root: QWidget) -> None:
        """Watch all controls below (and at) a widget."""
        kinds = (QAbstractSpinBox, QComboBox, QSlider)
        found: list[QWidget] = [root]
        if not isinstance(root, kinds):
            found = [control for kind in kinds for control in root.findChildren(kind)]
        for control in found:
            # A wheel must not bring the focus either.
            control.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
            control.installEventFilter(self)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() == QEvent.Type.Wheel and isinstance(watched, QWidget):
            if watched.hasFocus():
                return False
            event.ignore()
            return True
        return super().eventFilter(watched, event)


WHEEL = WheelGuard()


class Quantity(QDoubleSpinBox):
    """A spin box over a value in the file's unit that shows and reads other units.

    ``refused``: something typed was not taken, with what may be typed.
    """

    refused = Signal(str)

    def __init__(self, unit: str, low: float, high: float, step: float) -> None:
        super().__init__()
        self.setKeyboardTracking(False)
        self.unit = unit
        self._low, self._high, self._step = low, high, step
        self.setFont(font(13, bold=True))
        self.setMinimumWidth(60)
        self.setAlignment(Qt.AlignmentFlag.AlignRight)
        self.show_units()

    def show_units(self) -> None:
        """Take over the units in use, keeping the value."""
        value = self.value() / getattr(self, "factor", 1.0)
        label, self.factor, decimals = UNITS.shown(self.unit)
        with QSignalBlocker(self):
            self.setDecimals(decimals)
            self.setSuffix(f" {label}")
            self.set_bounds(self._low, self._high)
            # Steps stay round in the unit shown.
            self.setSingleStep(
                max(round(self._step * self.factor * 2) / 2, 0.5)
                if UNITS.imperial and self.unit in ("m", "kg")
                else self._step * self.factor
            )
            self.setValue(value * self.factor)

    def set_bounds(self, low: float, high: float) -> None:
        """Range in the file's unit."""
        self._low, self._high = low, high
        self.setRange(low * self.factor, high * self.factor)

    def range_words(self) -> str:
        """What may be typed."""
        low, high = (UNITS.text(end, self.unit) for end in (self._low, self._high))
        return f"{low} to {high}"

    def _read(self, text: str) -> float | None:
        """The value typed in front of the suffix that the box itself writes."""
        typed = text.removesuffix(self.suffix())
        return parse_quantity(typed, self.unit, (self._low, self._high))

    def validate(self, text: str, position: int) -> tuple[QValidator.State, str, int]:
        value = self._read(text)
        if text == self.specialValueText() or (
            value is not None and self._low - SLACK <= value <= self._high + SLACK
        ):
            return QValidator.State.Acceptable, text, position
        return QValidator.State.Intermediate, text, position

    def fixup(self, text: str) -> str:
        """What can't be taken goes back to what it was, and the field says what it takes."""
        typed = text.removesuffix(self.suffix()).strip()
        if typed:
            words = f"{typed[:20]} is not taken; it may be {self.range_words()}"
            self.refused.emit(words)
            QToolTip.showText(self.mapToGlobal(self.rect().bottomLeft()), plain_tip(words), self)
        return self.textFromValue(self.value()) + self.suffix()

    def valueFromText(self, text: str) -> float:
        value = self._read(text)
        if value is None or not self._low - SLACK <= value <= self._high + SLACK:
            return self.value()
        return value * self.factor

    def textFromValue(self, value: float) -> str:
        return f"{value:.{self.decimals()}f}"


def described(
    key: str,
    name: str,
    gym: str,
    unit: str,
    low: float,
    high: float,
    step: float,
    words: str,
) -> Setting:
    """What a number to type is called, its unit and its range, where no data file says so."""
    return Setting(key=key, name=name, gym=gym, unit=unit, range=(low, high), step=step, help=words)


class NumberRow(QWidget):
    """One lever as a row: its name, a number with its unit, and for angles a balance switch.

    ``noticed``: the pointer or the keyboard has come to it.
    """

    noticed = Signal(str)

    def __init__(
        self,
        setting: Setting,
        changed: Callable[[float], None],
        solve: Callable[[], None] | None = None,
    ) -> None:
        super().__init__()
        self.setting = setting
        label = QLabel(setting.name)
        label.setFont(font(13))
        label.setFixedWidth(LABEL_WIDTH)
        label.setWordWrap(True)
        self.setMinimumHeight(32)
        self.spin = Quantity(setting.unit, setting.low, setting.high, setting.step)
        self.spin.setAccessibleName(f"{setting.name}, {setting.gym}")
        label.setBuddy(self.spin)
        self._label = label
        self._show_tip()
        # A row that is put away sets nothing, whatever still reaches it.
        self.spin.valueChanged.connect(
            lambda v: None if self.is_away else changed(v / self.spin.factor)
        )
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.addWidget(label)
        row.addWidget(self.spin, 1)
        self.spin.installEventFilter(self)
        WHEEL.watch(self.spin)
        self.switch: QToolButton | None = None
        if solve is not None:
            self.switch = QToolButton()
            self.switch.setText("solve")
            self.switch.setCheckable(True)
            self.switch.setFont(font(11))
            self.switch.setAccessibleName(f"Let balance solve the {setting.name.lower()}")
            self.switch.setToolTip(f"Let balance solve the {setting.name.lower()}.")
            self.switch.clicked.connect(solve)
            row.addWidget(self.switch)

    @property
    def fields(self) -> tuple[QWidget, ...]:
        """What takes the keyboard's focus, in order."""
        return (self.spin,) if self.switch is None else (self.spin, self.switch)

    @property
    def is_away(self) -> bool:
        """Whether the row has been put away (one that has not been shown yet has not)."""
        return self.isHidden() and self.testAttribute(Qt.WidgetAttribute.WA_WState_ExplicitShowHide)

    def put_away(self) -> None:
        """Hide the row; what was typed but not yet entered is not set, it was meant for something else."""
        with QSignalBlocker(self.spin):
            # Taken over in silence: left as it is it would be taken over whenever the focus moves.
            self.spin.interpretText()
            self.hide()

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() == QEvent.Type.FocusIn:
            self.noticed.emit(self.setting.key)
        return super().eventFilter(watched, event)

    def enterEvent(self, event: QEnterEvent) -> None:
        super().enterEvent(event)
        self.noticed.emit(self.setting.key)

    def _show_tip(self) -> None:
        setting = self.setting
        unit, factor, _ = UNITS.shown(setting.unit)
        low, high = setting.low * factor, setting.high * factor
        tip = f"{setting.name} ({setting.gym}): {setting.help} {low:.4g} to {high:.4g} {unit}."
        for widget in (self._label, self.spin):
            widget.setToolTip(plain_tip(tip))

    def show_units(self) -> None:
        """Take over the units in use."""
        self.spin.show_units()
        self._show_tip()

    def show_value(self, value: float | None, *, solved: bool = False) -> None:
        """Show a value without emitting; None where balance finds none."""
        words = "no balance" if value is None else ""
        if self.spin.specialValueText() != words:
            self.spin.setSpecialValueText(words)
        value = self.setting.low if value is None else value
        # Only what differs is set: every set call asks the whole column to lay itself out.
        if self.spin.value() != round(value * self.spin.factor, self.spin.decimals()):
            with QSignalBlocker(self.spin):
                self.spin.setValue(value * self.spin.factor)
        if self.switch is not None:
            # A click has already turned the switch; what it means is decided here.
            self.switch.setChecked(solved)
            if self.spin.isReadOnly() != solved:
                self.spin.setReadOnly(solved)
                self.switch.setText("solved" if solved else "solve")


def in_tab_order(*fields: QWidget) -> None:
    """Let the tab key go through fields in this order, whenever they were made."""
    for before, after in pairwise(fields):
        QWidget.setTabOrder(before, after)


def push_button(text: str, tip: str, *, pixels: int = 12) -> QPushButton:
    """A button with what it does on hover."""
    made = QPushButton(text)
    made.setFont(font(pixels))
    made.setToolTip(tip)
    return made


def menu_button(text: str, tip: str) -> QToolButton:
    """A button that opens a menu (to be set)."""
    made = QToolButton()
    made.setText(text)
    made.setFont(font(12))
    made.setToolTip(tip)
    made.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
    return made


def side_column(pixels: int) -> tuple[QWidget, QVBoxLayout]:
    """A column of fixed width beside a picture, and its layout."""
    side = QWidget()
    side.setFixedWidth(pixels)
    column = QVBoxLayout(side)
    column.setContentsMargins(0, 0, 0, 0)
    return side, column


def scrolled_column(pixels: int) -> tuple[QScrollArea, QVBoxLayout]:
    """A column of fixed width that scrolls up and down, and its layout."""
    area = QScrollArea(widgetResizable=True)
    area.setFixedWidth(pixels)
    # Its controls take the keyboard and bring themselves into sight.
    area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
    area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
    body = QWidget()
    body.setObjectName("setupBody")
    area.setWidget(body)
    return area, QVBoxLayout(body)


def heading(text: str) -> QLabel:
    """A section's name."""
    label = QLabel(text)
    label.setFont(font(15, bold=True))
    return label


def note(text: str) -> QLabel:
    """A quiet remark."""
    label: QLabel = Wrapped(text, wordWrap=True)
    label.setObjectName("faint")
    label.setFont(font(12))
    return label


def picker(name: str, items: list[str]) -> QComboBox:
    """A small choice with an accessible name."""
    box = QComboBox()
    box.setFont(font(12))
    box.setAccessibleName(name)
    box.setToolTip(f"{name}.")
    box.addItems(items)
    return box


class Wrapped(QLabel):
    """Words that are never squeezed: as tall as they need to be at the width there is."""

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._fit()

    def setText(self, text: str) -> None:
        super().setText(UNITS.in_words(text))
        self._fit()

    def _fit(self) -> None:
        self.setMinimumHeight(max(self.heightForWidth(self.width()), 0))
