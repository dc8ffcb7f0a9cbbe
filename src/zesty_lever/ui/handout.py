"""The handout: a session on paper for the athlete; figures by our painters, doses, cues, boxes to fill in, cautions.

No pain, faults or notes of the log stand on it.
"""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

from PySide6.QtCore import QMarginsF, QPointF, QRectF, QSizeF, Qt
from PySide6.QtGui import QColor, QPageLayout, QPageSize, QPainter, QPdfWriter, QPen

from zesty_lever.analysis import Result, analyse
from zesty_lever.cases.model import Athlete, Stage
from zesty_lever.choosing.loading import USUAL, TypicalRules
from zesty_lever.coaching.cues import cues_of
from zesty_lever.coaching.gym import usual_gym
from zesty_lever.coaching.who import pattern_of
from zesty_lever.exercises.catalogue import catalogue
from zesty_lever.frozen import dataclass
from zesty_lever.log.exposure import case_of
from zesty_lever.log.predicted import set_planned
from zesty_lever.log.ramp import ramp_for
from zesty_lever.plan.document import Block, Item, Session
from zesty_lever.plan.drills import drills
from zesty_lever.plan.loads import working_load
from zesty_lever.plan.steps import Step, steps_of, tempo_words
from zesty_lever.problems import CaseError
from zesty_lever.ui.kit.theme import LIGHT, font
from zesty_lever.ui.paint.figure import paint_figure, paint_surfaces
from zesty_lever.ui.paint.lines import paint_lines
from zesty_lever.ui.paint.view import View
from zesty_lever.wording.records import (
    BLOCK_WORDS,
    day_short,
    dose_words,
    exercise_words,
    load_short,
    ramp_words,
)
from zesty_lever.wording.sentences import discs_words

# The page in lengths of the drawing: 1000 wide, as tall as the paper then is.
WIDE, MARGIN = 1000.0, 46.0
LIFT_TALL, DRILL_TALL, FIGURE = 158.0, 30.0, 132.0
# A line of ramp sets.
RAMP_TALL = 20.0
BOX_WIDE, BOX_TALL, MOST_BOXES = 58.0, 30.0, 6
CAUTIONS = (
    "Stop at pain; pain, injury, numbness or recent surgery goes to a licensed clinician. "
    "Use racks, safety bars, collars and a spotter. "
    "Do not hold your breath if you were told to avoid it."
)
SUPERVISED = "Train under supervision; start light."


@dataclass(frozen=True)
class Handout:
    """A session for one athlete on one day."""

    athlete: Athlete
    session: Session
    day: int
    rules: TypicalRules = USUAL
    stage: Stage = "usual"


@dataclass(frozen=True)
class _Part:
    """A strip of the page: a heading, a drill or a lift, and how tall it is."""

    tall: float
    block: Block
    item: Item | None = None
    boxes: int = 0
    result: Result | None = None
    load_kg: float | None = None
    ramp: str = ""


def write_handout(sheet: Handout, path: Path) -> None:
    """Write the PDF, as many A4 pages as needed. Raises `OSError`."""
    if not path.parent.is_dir():
        raise FileNotFoundError(2, "no such folder", str(path))
    writer = QPdfWriter(str(path))
    writer.setPageSize(QPageSize(QPageSize.PageSizeId.A4))
    writer.setPageOrientation(QPageLayout.Orientation.Portrait)
    writer.setPageMargins(QMarginsF(0, 0, 0, 0))
    writer.setTitle(sheet.session.name or "Session")
    painter = QPainter()
    if not painter.begin(writer):
        raise PermissionError(13, "can't be written", str(path))
    scale = writer.width() / WIDE
    painter.scale(scale, scale)
    for number, page in enumerate(pages_of(sheet, writer.height() / scale)):
        if number:
            writer.newPage()
        paint_page(painter, sheet, page, writer.height() / scale, number)
    if not painter.end():
        raise OSError(28, "can't be written whole", str(path))


def pages_of(sheet: Handout, tall: float) -> list[list[_Part]]:
    """Strips by page; nothing is clipped, what does not fit goes on to the next page."""
    room = tall - 2 * MARGIN - 150.0
    pages: list[list[_Part]] = [[]]
    used = 0.0
    for part in _parts(sheet):
        if used + part.tall > room and pages[-1]:
            pages.append([])
            used = 0.0
        pages[-1].append(part)
        used += part.tall
    return pages


def _parts(sheet: Handout) -> Iterator[_Part]:
    counts: dict[str, int] = {}
    warm: set[str] = set()
    for step in steps_of(sheet.session):
        counts[step.item.key] = counts.get(step.item.key, 0) + step.logs
    for at, block in enumerate(sheet.session.blocks):
        yield _Part(34.0, block)
        for item in block.items:
            boxes = counts.get(item.key, 0)
            if item.setup is None:
                yield _Part(DRILL_TALL, block, item, boxes)
                continue
            lines = 1 + (boxes - 1) // MOST_BOXES
            tall = LIFT_TALL + (lines - 1) * (BOX_TALL + 6.0)
            result, load = _solved(sheet, at, block, item)
            ramp = _ramp(sheet, item, load, warm)
            if ramp:
                tall += RAMP_TALL
            yield _Part(tall, block, item, boxes, result, load, ramp)


def _ramp(sheet: Handout, item: Item, load_kg: float | None, warm: set[str]) -> str:
    """The ramp sets before the first heavy lift of a pattern, in words; empty for the others."""
    entry = catalogue().get(item.name)
    if entry is None or not load_kg or pattern_of(entry) in warm:
        return ""
    ramp = ramp_for(entry, load_kg, sheet.rules.gym)
    if not ramp:
        return ""
    warm.add(pattern_of(entry))
    return f"Ramp: {ramp_words(entry.id, ramp)}"


def _solved(
    sheet: Handout, at: int, block: Block, item: Item
) -> tuple[Result | None, float | None]:
    """The lift as this athlete does it, and its load; None where it can't be drawn."""
    try:
        load = working_load(item, sheet.athlete, sheet.rules)[0]
        done = set_planned(Step("work", at, item, logs=True), load, block.style)
        result = analyse(case_of(done, sheet.athlete))
    except CaseError:
        return None, item.load_kg
    return (result if result.frames else None), load


def paint_page(
    painter: QPainter, sheet: Handout, parts: list[_Part], tall: float, number: int
) -> None:
    """One page: head, strips, cautions."""
    theme = LIGHT
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setPen(QColor(theme.ink))
    painter.setFont(font(26, bold=True))
    left, right = MARGIN, WIDE - MARGIN
    painter.drawText(QRectF(left, MARGIN, right - left, 36), 0, sheet.session.name or "Session")
    painter.setFont(font(17))
    who = f"{sheet.athlete.name or 'Athlete'} \N{MIDDLE DOT} {day_short(sheet.day)}"
    painter.drawText(QRectF(left, MARGIN + 4, right - left, 30), Qt.AlignmentFlag.AlignRight, who)
    painter.setFont(font(14))
    painter.setPen(QColor(theme.faint))
    under = f"About {sheet.session.minutes} min" + (
        f" \N{MIDDLE DOT} page {number + 1}" if number else ""
    )
    if sheet.stage in ("beginner", "back-from-injury"):
        under += f" \N{MIDDLE DOT} {SUPERVISED}"
    painter.drawText(QRectF(left, MARGIN + 38, right - left, 22), 0, under)
    y = MARGIN + 72.0
    for part in parts:
        area = QRectF(left, y, right - left, part.tall)
        if part.item is None:
            _paint_head(painter, part, area)
        elif part.item.setup is None:
            _paint_drill(painter, part, area)
        else:
            _paint_lift(painter, sheet, part, area)
        y += part.tall
    painter.setFont(font(13))
    painter.setPen(QColor(theme.faint))
    foot = QRectF(left, tall - MARGIN - 40, right - left, 40)
    painter.drawText(foot, Qt.TextFlag.TextWordWrap, CAUTIONS)


def _paint_head(painter: QPainter, part: _Part, area: QRectF) -> None:
    painter.setFont(font(17, bold=True))
    painter.setPen(QColor(LIGHT.ink))
    words = BLOCK_WORDS[part.block.kind]
    if part.block.rounds > 1:
        words += f", {part.block.rounds} rounds"
    painter.drawText(QPointF(area.left(), area.top() + 24), words)
    painter.setPen(QPen(QColor(LIGHT.line), 1.5))
    painter.drawLine(
        QPointF(area.left(), area.bottom() - 2), QPointF(area.right(), area.bottom() - 2)
    )


def _paint_drill(painter: QPainter, part: _Part, area: QRectF) -> None:
    assert part.item is not None
    painter.setPen(QColor(LIGHT.ink))
    painter.setFont(font(15, bold=True))
    flag = Qt.AlignmentFlag.AlignVCenter
    painter.drawText(
        QRectF(area.left(), area.top(), 290, area.height()), flag, exercise_words(part.item.name)
    )
    painter.setFont(font(15))
    painter.drawText(
        QRectF(area.left() + 300, area.top(), 180, area.height()),
        flag,
        dose_words(part.block, part.item),
    )
    known = drills().get(part.item.drill)
    painter.setFont(font(13))
    painter.setPen(QColor(LIGHT.faint))
    cue = part.item.note or ("" if known is None else known.cue)
    wide = area.width() - 490 - 34 * min(part.boxes, 4)
    painter.drawText(
        QRectF(area.left() + 486, area.top(), wide, area.height()),
        flag | Qt.TextFlag.TextWordWrap,
        cue,
    )
    for at in range(min(part.boxes, 4)):
        box = QRectF(area.right() - 26 - 34 * at, area.top() + 4, 22, 22)
        painter.setPen(QPen(QColor(LIGHT.edge), 1.5))
        painter.drawRect(box)


def _paint_lift(painter: QPainter, sheet: Handout, part: _Part, area: QRectF) -> None:
    item = part.item
    assert item is not None and item.setup is not None
    if part.result is not None:
        figure = QRectF(area.left(), area.top() + 8, FIGURE, LIFT_TALL - 18)
        _paint_figure(painter, part.result, figure)
    left, wide = area.left() + FIGURE + 18, area.width() - FIGURE - 18
    painter.setPen(QColor(LIGHT.ink))
    painter.setFont(font(18, bold=True))
    painter.drawText(QPointF(left, area.top() + 24), exercise_words(item.name))
    painter.setFont(font(16))
    shown = item.changed(load_kg=part.load_kg, load_rule="kg") if part.load_kg else item
    painter.drawText(QPointF(left, area.top() + 46), dose_words(part.block, shown))
    painter.setFont(font(13))
    painter.setPen(QColor(LIGHT.faint))
    entry = catalogue().get(item.name)
    words = [tempo_words(item.setup, item)]
    if item.rest_s:
        words.append(f"rest {item.rest_s:g} s")
    if item.effort_left is not None:
        words.append(f"leave {item.effort_left:g} in reserve")
    if entry is not None and part.load_kg:
        discs = discs_words(entry.id, part.load_kg, sheet.rules.gym or usual_gym())
        words += [discs] if discs else []
    painter.drawText(QRectF(left, area.top() + 52, wide, 20), 0, " \N{MIDDLE DOT} ".join(words))
    cues = [item.note] if item.note else []
    cues += [] if entry is None else list(cues_of(entry))
    painter.setPen(QColor(LIGHT.ink))
    painter.drawText(QRectF(left, area.top() + 71, wide, 20), 0, "  ".join(cues[:2]))
    under = 98.0
    if part.ramp:
        painter.drawText(QRectF(left, area.top() + 90, wide, 20), 0, part.ramp)
        under += RAMP_TALL
    _paint_boxes(painter, part, QPointF(left, area.top() + under))


def _paint_boxes(painter: QPainter, part: _Part, at: QPointF) -> None:
    """A pair of boxes for every set: kilograms and repetitions (or seconds)."""
    held = part.item is not None and part.block.style == "holds"
    each = part.item is not None and part.item.side == "each"
    for number in range(part.boxes):
        line, column = divmod(number, MOST_BOXES)
        x = at.x() + column * (2 * BOX_WIDE + 8)
        y = at.y() + line * (BOX_TALL + 6)
        side = "" if not each else ("L" if number % 2 == 0 else "R")
        for half, words in enumerate((f"kg {side}".strip(), "s" if held else "reps")):
            box = QRectF(x + half * BOX_WIDE, y, BOX_WIDE, BOX_TALL)
            painter.setPen(QPen(QColor(LIGHT.edge), 1.5))
            painter.drawRect(box)
            painter.setFont(font(10))
            painter.setPen(QColor(LIGHT.faint))
            inner = box.adjusted(3, 1, -4, -2)
            painter.drawText(
                inner, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignBottom, words
            )


def _paint_figure(painter: QPainter, result: Result, area: QRectF) -> None:
    """The athlete at the decisive moment: the deepest, or a bridge's lockout."""
    frame = min(result.timeline.bottom, result.frames - 1)
    points = result.shown.pose.points
    named = (
        "head_top",
        "toe_right",
        "toe_left",
        "heel_left",
        "heel_right",
        "hand_right",
        "hip_mid",
    )
    along = [float(points[name][0, frame]) for name in named if name in points]
    high = [float(points[name][1, frame]) for name in named if name in points]
    scale = min(area.width() / (max(along) - min(along) + 0.45), area.height() / (max(high) + 0.35))
    middle = 0.5 * (max(along) + min(along))
    view = View(scale, area.center().x() - scale * middle, area.bottom() - 4)
    painter.save()
    painter.setClipRect(area)
    painter.setPen(QPen(QColor(LIGHT.ink), 1.5))
    painter.drawLine(QPointF(area.left(), view.floor_y), QPointF(area.right(), view.floor_y))
    paint_surfaces(painter, view, LIGHT, result)
    paint_lines(painter, view.point, LIGHT, result, frame)
    paint_figure(painter, view, LIGHT, result, frame)
    painter.restore()


def page_tall(wide: float = WIDE) -> float:
    """How tall an A4 page is where it is so wide."""
    size: QSizeF = QPageSize(QPageSize.PageSizeId.A4).size(QPageSize.Unit.Millimeter)
    return wide * size.height() / size.width()


def load_line(item: Item, load_kg: float | None) -> str:
    """The load of an item in words."""
    return "" if not load_kg or item.setup is None else load_short(load_kg, None, item.name)
