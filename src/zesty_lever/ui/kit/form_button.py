"""A button with a small form behind it."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtWidgets import (
    QDoubleSpinBox,
    QFormLayout,
    QLabel,
    QMenu,
    QPushButton,
    QToolButton,
    QWidget,
    QWidgetAction,
)

from zesty_lever.ui.kit.controls import push_button
from zesty_lever.ui.kit.theme import font
from zesty_lever.ui.session import Session


class FormButton(QToolButton):
    """Shows what the bench holds whenever it is opened."""

    def __init__(self, name: str, tip: str, session: Session) -> None:
        super().__init__()
        self.setText(f"{name} ▾")
        self.session = session
        self.setFont(font(12))
        self.setToolTip(tip)
        self.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        menu = QMenu(self)
        self.body = QWidget()
        self.form = QFormLayout(self.body)
        action = QWidgetAction(menu)
        action.setDefaultWidget(self.body)
        menu.addAction(action)
        menu.aboutToShow.connect(self.show_values)
        self.setMenu(menu)

    if TYPE_CHECKING:  # what each button gives: it takes over what the bench holds

        def show_values(self) -> None: ...

    def number(
        self, name: str, low: float, high: float, suffix: str, decimals: int = 0
    ) -> QDoubleSpinBox:
        """A number to type, named for screen readers."""
        box = QDoubleSpinBox(decimals=decimals, minimum=low, maximum=high, suffix=suffix)
        box.setKeyboardTracking(False)
        box.setSingleStep(0.5 if decimals else 5.0)
        box.setFont(font(12))
        box.setAccessibleName(name)
        return box

    def press(self, name: str, tip: str) -> QPushButton:
        """A button in the form."""
        return push_button(name, tip)

    def words(self, text: str) -> QLabel:
        """Plain words."""
        label = QLabel(text)
        label.setFont(font(12))
        return label
