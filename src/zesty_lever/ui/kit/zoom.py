"""How large the interface is: text, controls and what is painted grow together, from 100 to 200 %.

Widgets keep the sizes that they were made with; at another size fonts and fixed sizes are multiplied,
once for what is there and, while it is not 100 %, for every widget before it is first shown.
"""

from __future__ import annotations

from PySide6.QtCore import QEvent, QObject, Qt
from PySide6.QtGui import QFont, QFontDatabase
from PySide6.QtWidgets import QApplication, QWidget

LEAST, MOST, STEP = 1.0, 2.0, 0.25
# Qt's own "as large as it likes".
UNBOUNDED = 16777215
# What a widget was made with, kept on the widget: font (px), least and greatest width and height.
MADE_WITH = "made_with"
# A desktop whose text is this tall shows the interface as it was drawn.
USUAL_TEXT_PX = 14.0


class Zoom(QObject):
    """The one size of the interface."""

    def __init__(self) -> None:
        super().__init__()
        self.factor = 1.0
        self._watching = False

    def set(self, factor: float) -> None:
        """Make everything so large (kept inside 1 to 2)."""
        factor = min(max(factor, LEAST), MOST)
        if factor == self.factor:
            return
        self.factor = factor
        app = QApplication.instance()
        if app is not None and (factor != 1.0) != self._watching:
            self._watching = factor != 1.0
            (app.installEventFilter if self._watching else app.removeEventFilter)(self)
        for widget in QApplication.allWidgets():
            self.fit(widget)

    def px(self, pixels: float) -> int:
        """A length of the drawing as it is on the screen, px."""
        return round(self.factor * pixels)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """Fit what is about to be shown for the first time."""
        if event.type() == QEvent.Type.Polish and isinstance(watched, QWidget):
            self.fit(watched)
        return False

    def fit(self, widget: QWidget) -> None:
        """Give a widget the font and the bounds that go with the size."""
        made = widget.property(MADE_WITH)
        if made is None:
            if self.factor == 1.0:
                return
            low, high = widget.minimumSize(), widget.maximumSize()
            has_own = widget.testAttribute(Qt.WidgetAttribute.WA_SetFont)
            own = widget.font().pixelSize() if has_own else -1
            made = [own, low.width(), low.height(), high.width(), high.height()]
            widget.setProperty(MADE_WITH, made)
        pixels, *bounds = (int(value) for value in made)
        if pixels > 0:
            face = QFont(widget.font())
            face.setPixelSize(self.px(pixels))
            widget.setFont(face)
        if widget.isWindow():
            return
        wide, tall, widest, tallest = (
            bound if bound >= UNBOUNDED else self.px(bound) for bound in bounds
        )
        widget.setMinimumSize(wide, tall)
        widget.setMaximumSize(widest, tallest)


def of_the_desktop() -> float:
    """The size that the desktop's own text asks for: 1 for usual text, at most 2."""
    # The platform's own font: the application's is set in pixels.
    text_px = QFontDatabase.systemFont(QFontDatabase.SystemFont.GeneralFont).pointSizeF() / 72.0
    screen = QApplication.primaryScreen()
    text_px *= screen.logicalDotsPerInchY() if screen is not None else 96.0
    steps = round((text_px / USUAL_TEXT_PX - 1.0) / STEP)
    return min(max(1.0 + STEP * steps, LEAST), MOST)


ZOOM = Zoom()
