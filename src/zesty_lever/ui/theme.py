"""Colours, type and shapes of the window, light and dark.

Warm paper and ink; three joint hues that colour-blind eyes part, each with a dot shape of its own.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cache, lru_cache

from PySide6.QtGui import QColor, QFont, QFontDatabase, QFontMetricsF

from zesty_lever.tables import data_path

FAMILY = "B612"


@dataclass(frozen=True)
class Theme:
    """One set of colours, as hex."""

    name: str
    paper: str
    panel: str
    well: str
    line: str
    ink: str
    faint: str
    flesh: str
    flesh_deep: str
    iron: str
    hip: str
    knee: str
    back: str
    ankle: str
    warn: str
    choose: str
    choose_ink: str

    def joint(self, joint: str) -> QColor:
        """Hue of a joint (``hip_left``, ``lumbosacral`` ...)."""
        kind = joint.split("_", maxsplit=1)[0]
        return QColor(
            {"hip": self.hip, "knee": self.knee, "ankle": self.ankle}.get(kind, self.back)
        )


LIGHT = Theme(
    name="light",
    paper="#f4efe4",
    panel="#fcf9f2",
    well="#ebe4d5",
    line="#d3c9b5",
    ink="#26241f",
    faint="#645d50",
    flesh="#d9cbb4",
    flesh_deep="#c3b196",
    iron="#4b4740",
    hip="#a93f14",
    knee="#0b6472",
    back="#6a3288",
    ankle="#56611b",
    warn="#9c2b1d",
    choose="#2f3b2c",
    choose_ink="#fbf8f0",
)
DARK = Theme(
    name="dark",
    paper="#1f1d19",
    panel="#292620",
    well="#343027",
    line="#4d473a",
    ink="#f1eadb",
    faint="#b9ae99",
    flesh="#6d6353",
    flesh_deep="#574e40",
    iron="#c9bfac",
    hip="#f08a5a",
    knee="#5cc3d0",
    back="#c998e6",
    ankle="#b9c56a",
    warn="#ff9c86",
    choose="#d9e0c4",
    choose_ink="#22251b",
)


@cache
def load_fonts() -> None:
    """Register the faces that ship with the application, once."""
    for file in ("B612-Regular.otf", "B612-Bold.otf", "B612Mono-Regular.otf"):
        QFontDatabase.addApplicationFontFromData(data_path("fonts", file).read_bytes())


@cache
def font(pixels: int, *, bold: bool = False) -> QFont:
    """The application's face at a pixel size (shared: not to be changed)."""
    face = QFont(FAMILY)
    face.setPixelSize(pixels)
    face.setBold(bold)
    return face


@lru_cache(maxsize=512)
def text_width(text: str, pixels: int, *, bold: bool = False) -> float:
    """Width of a line of text, px."""
    return QFontMetricsF(font(pixels, bold=bold)).horizontalAdvance(text)


def stylesheet(t: Theme) -> str:
    """Widget styles of the window for one theme."""
    return f"""
    QWidget {{ background: transparent; color: {t.ink}; }}
    QMainWindow, #bench, QScrollArea, #setupBody {{ background: {t.paper}; }}
    QScrollArea {{ border: none; }}
    #card QScrollArea {{ background: {t.panel}; }}
    #strap {{ background: {t.well}; border-bottom: 1px solid {t.line}; }}
    #card {{ background: {t.panel}; border: 1px solid {t.line}; border-radius: 4px; }}
    #floating {{ background: {t.panel}; border: 1px solid {t.ink}; border-radius: 4px; }}
    QListWidget {{ background: {t.panel}; border: 1px solid {t.line}; border-radius: 4px; padding: 3px; }}
    QListWidget::item {{ padding: 5px; }}
    QListWidget::item:selected {{ background: {t.choose}; color: {t.choose_ink}; }}
    #notice {{ background: {t.panel}; border: 2px solid {t.warn}; border-radius: 4px; }}
    #finding {{ background: {t.paper}; border: 1px solid {t.line}; border-radius: 4px; }}
    #flagged {{ background: {t.paper}; border: 1px solid {t.line}; border-left: 4px solid {t.warn}; border-radius: 4px; }}
    QSlider::groove:horizontal {{ height: 4px; background: {t.line}; border-radius: 2px; }}
    QSlider::handle:horizontal {{ width: 14px; margin: -6px 0; background: {t.choose}; border-radius: 4px; }}
    QSlider:focus {{ border: 1px solid {t.ink}; border-radius: 4px; }}
    QPushButton#rail {{ padding: 5px 8px; }}
    QProgressBar {{ background: {t.well}; border: none; }}
    QProgressBar::chunk {{ background: {t.knee}; }}
    #told {{ background: {t.choose}; color: {t.choose_ink}; }}
    #faint {{ color: {t.faint}; }}
    #warn {{ color: {t.warn}; }}
    QToolTip {{ background: {t.ink}; color: {t.paper}; border: none; padding: 5px; }}
    QPushButton, QToolButton {{ background: {t.panel}; border: 1px solid {t.line};
        border-radius: 4px; padding: 5px 10px; min-height: 20px; }}
    QPushButton:hover, QToolButton:hover {{ border-color: {t.ink}; }}
    QPushButton:focus, QToolButton:focus {{ border: 2px solid {t.ink}; padding: 4px 9px; }}
    QPushButton:checked, QToolButton:checked {{ background: {t.choose}; color: {t.choose_ink};
        border-color: {t.choose}; }}
    QPushButton:disabled, QToolButton:disabled {{ color: {t.line}; }}
    QToolButton::menu-indicator {{ image: none; }}
    QDoubleSpinBox, QComboBox, QLineEdit {{ background: {t.panel}; border: 1px solid {t.line};
        border-radius: 4px; padding: 3px 6px; min-height: 22px;
        selection-background-color: {t.choose}; selection-color: {t.choose_ink}; }}
    QDoubleSpinBox:focus, QComboBox:focus, QLineEdit:focus {{ border: 2px solid {t.ink};
        padding: 2px 5px; }}
    QDoubleSpinBox:read-only {{ background: {t.well}; border-style: dashed; }}
    QDoubleSpinBox::up-button, QDoubleSpinBox::down-button {{ width: 0; border: none; }}
    QComboBox::drop-down {{ border: none; width: 16px; }}
    QComboBox QAbstractItemView, QMenu {{ background: {t.panel}; border: 1px solid {t.line};
        selection-background-color: {t.choose}; selection-color: {t.choose_ink}; }}
    QMenu::item {{ padding: 6px 18px; }}
    QMenu::item:selected {{ background: {t.choose}; color: {t.choose_ink}; }}
    QScrollBar:vertical {{ background: transparent; width: 9px; }}
    QScrollBar::handle:vertical {{ background: {t.line}; border-radius: 4px; min-height: 30px; }}
    QScrollBar::add-line, QScrollBar::sub-line {{ height: 0; }}
    QCheckBox::indicator {{ width: 14px; height: 14px; border: 1px solid {t.faint}; border-radius: 3px;
        background: {t.panel}; }}
    QCheckBox::indicator:checked {{ background: {t.choose}; border-color: {t.choose}; }}
    QCheckBox:focus {{ text-decoration: underline; }}
    QTableWidget, QPlainTextEdit {{ background: {t.panel}; border: 1px solid {t.line}; gridline-color: {t.line}; }}
    QTableWidget {{ selection-background-color: {t.well}; selection-color: {t.ink}; }}
    QHeaderView::section {{ background: {t.well}; border: none; padding: 4px 8px; }}
    QDialog {{ background: {t.paper}; }}
    """
