"""Colours, type and shapes of the window, light and dark.

Warm paper and ink; three joint hues that colour-blind eyes part, each with a dot shape of its own.
"""

from __future__ import annotations

import re
from functools import cache, lru_cache
from string import Template

from PySide6.QtGui import QColor, QFont, QFontDatabase, QFontMetricsF

from zesty_lever.frozen import dataclass
from zesty_lever.tables import data_path
from zesty_lever.ui.kit.zoom import ZOOM

FAMILY = "B612"


@dataclass(frozen=True)
class Theme:
    """One set of colours, as hex."""

    name: str
    paper: str
    panel: str
    well: str
    line: str
    edge: str
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
    edge="#857c69",
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
    edge="#8d8471",
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
    """Widget styles of the window for one theme, from data/style.qss and its icons."""
    icons = {kind: str(data_path("icons", f"{kind}-{t.name}.svg")) for kind in ("down", "tick")}
    text = data_path("style.qss").read_text(encoding="utf-8")
    sized = re.sub(r"(\d+)px", lambda found: f"{ZOOM.px(int(found[1]))}px", text)
    return Template(sized).substitute(vars(t) | icons)
