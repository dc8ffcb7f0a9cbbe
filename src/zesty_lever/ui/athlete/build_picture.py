"""The athlete's build as a standing figure beside the average one, with its lengths as a tape would."""

from __future__ import annotations

import json
from functools import lru_cache

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy

from zesty_lever.analysis import Result, analyse
from zesty_lever.cases.model import Athlete, Case
from zesty_lever.cases.parse import athlete_from
from zesty_lever.physics.body import estimated_length_m
from zesty_lever.ui.kit.screen import Themed
from zesty_lever.ui.kit.theme import Theme, font
from zesty_lever.ui.paint.figure import paint_figure, paint_floor
from zesty_lever.ui.paint.view import View
from zesty_lever.ui.session import Session
from zesty_lever.wording.units import UNITS

AVERAGE = {"male": (1.77, 80.0), "female": (1.64, 65.0)}
TAPES = (
    ("shank", "shin", "ankle_right", "knee_right"),
    ("thigh", "thigh", "knee_right", "hip_right"),
    ("hip_to_shoulder", "trunk", "hip_mid", "shoulder_mid"),
    ("head_and_neck", "head", "shoulder_mid", "head_top"),
)
# Where the tape lies for each measure that the side view can show.
GUIDES = {
    "thigh": ("hip_right", "knee_right"),
    "shank": ("knee_right", "ankle_right"),
    "ankle_height": ("ankle_right", "sole"),
    "foot": ("heel_right", "toe_right"),
    "hip_to_shoulder": ("hip_mid", "shoulder_mid"),
    "upper_arm": ("shoulder_right", "elbow_right"),
    "forearm": ("elbow_right", "wrist_right"),
    "head_and_neck": ("shoulder_mid", "head_top"),
}


@lru_cache(maxsize=8)
def _standing_text(text: str) -> Result:
    athlete = athlete_from(json.loads(text))
    return analyse(Case(athlete=athlete, variation="bodyweight-squat-arms-crossed"))


def standing(athlete: Athlete) -> Result:
    """The athlete standing, arms crossed."""
    bare = athlete.changed(limits_deg={}, name=None, sore=(), best_loads_kg={}, school=None)
    return _standing_text(json.dumps(bare.as_json()))


class BuildPicture(Themed):
    """Two standing figures on one floor and one scale."""

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__(theme)
        self.session = session
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumSize(360, 400)
        self.setAccessibleName("The athlete's build beside an average one")
        self.guided, self.words = "", ""
        session.changed.connect(self.update)

    def guide(self, key: str, words: str) -> None:
        """Show where a measure's tape lies, with how it is taken in words."""
        self.guided, self.words = key, words
        self.setAccessibleDescription(words)
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(560, 700)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = self.painter()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        athlete = self.session.bench.athlete
        height, mass = AVERAGE[athlete.sex]
        average = Athlete(height_m=height, mass_kg=mass, sex=athlete.sex)
        tall = max(athlete.height_m, height) + 0.12
        scale = min((self.canvas().height() - 60) / (tall + 0.08), self.canvas().width() / 1.75)
        floor = self.canvas().height() - 34.0
        places = (
            (self.canvas().width() * 0.34, athlete, True),
            (self.canvas().width() * 0.82, average, False),
        )
        own_view = View(scale, places[0][0], floor)
        paint_floor(painter, own_view, self.theme, self.canvas().width())
        for middle, person, own in places:
            result = standing(person)
            view = View(scale, middle, floor)
            if not result.frames:
                continue
            if not own:
                painter.setOpacity(0.45)
            paint_figure(painter, view, self.theme, result, 0)
            painter.setOpacity(1.0)
            self._paint_tapes(painter, view, result, person, own=own)
            if own:
                self._paint_guide(painter, view, result)
            name = (person.name or "Athlete") if own else "average build"
            words = (
                f"{name}, {UNITS.text(person.height_m, 'm')}, {UNITS.text(person.mass_kg, 'kg', 0)}"
            )
            painter.setFont(font(13, bold=own))
            painter.setPen(QColor(self.theme.ink if own else self.theme.faint))
            painter.drawText(
                QRectF(middle - 150, floor + 10, 300, 20), Qt.AlignmentFlag.AlignHCenter, words
            )
        painter.setFont(font(12))
        painter.setPen(QColor(self.theme.faint))
        painter.drawText(
            QPointF(8, 18),
            "full line: measured · dashed: estimated from height (Drillis & Contini 1966)",
        )

    def _paint_guide(self, painter: QPainter, view: View, result: Result) -> None:
        """The tape of the measure at hand on the body, and how it is taken."""
        pose = result.shown.pose
        if not self.words:
            return
        painter.setFont(font(13))
        painter.setPen(QColor(self.theme.ink))
        painter.drawText(
            QRectF(8, 26, self.canvas().width() - 16, 36), Qt.TextFlag.TextWordWrap, self.words
        )
        if self.guided not in GUIDES:
            return
        places = {name: pose.points[name][:, 0] for name in GUIDES[self.guided] if name != "sole"}
        if "sole" in GUIDES[self.guided]:
            places["sole"] = places["ankle_right"] * (1.0, 0.0, 1.0)
        one, two = (view.point(places[name]) for name in GUIDES[self.guided])
        painter.setPen(QPen(self.theme.joint("knee"), 4, c=Qt.PenCapStyle.RoundCap))
        painter.drawLine(one, two)
        painter.setBrush(QColor(self.theme.panel))
        painter.setPen(QPen(self.theme.joint("knee"), 2))
        for end in (one, two):
            painter.drawEllipse(end, 4.5, 4.5)

    def _paint_tapes(
        self, painter: QPainter, view: View, result: Result, person: Athlete, *, own: bool
    ) -> None:
        pose = result.shown.pose
        x = max(view.at(-0.18 * person.height_m, 0.0).x(), 136.0)
        for key, word, low, high in TAPES:
            measured = key in person.lengths_m
            start, end = (view.point(pose.points[n][:, 0]) for n in (low, high))
            pen = QPen(QColor(self.theme.ink if own else self.theme.faint), 2 if measured else 1.2)
            if not measured:
                pen.setDashPattern([4, 3])
            painter.setPen(pen)
            painter.drawLine(QPointF(x, start.y()), QPointF(x, end.y()))
            for y in (start.y(), end.y()):
                painter.drawLine(QPointF(x - 5, y), QPointF(x + 5, y))
            length = person.lengths_m.get(key, float(estimated_length_m(key, person.height_m)))
            painter.setFont(font(12, bold=measured))
            middle = 0.5 * (start.y() + end.y())
            painter.drawText(
                QRectF(x - 130, middle - 9, 120, 18),
                Qt.AlignmentFlag.AlignRight,
                f"{word} {UNITS.text(length, 'm')}",
            )
