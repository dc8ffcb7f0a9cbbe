"""The moment tile: as wide as the lever arm, as tall as the force; its area is the moment."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen

from zesty_lever.analysis import Result
from zesty_lever.frozen import dataclass
from zesty_lever.joints import JOINTS
from zesty_lever.ui.kit.theme import Theme, font, text_width
from zesty_lever.ui.paint.levers import paint_joint_dot
from zesty_lever.wording.units import UNITS, minus

TITLES = {
    "hip_right": ("Hip", "front or each leg"),
    "knee_right": ("Knee", "front or each leg"),
    "lumbosacral": ("Lower back", "L5/S1"),
    "ankle_right": ("Ankle", "each leg"),
}


@dataclass(frozen=True)
class Product:
    """Force, arm and their product at one joint and moment (side view, extensor positive), and the rep's peak.

    ``peak_Nm`` is the signed peak about the joint's own axis: the number that sentences and line-up tell too.
    """

    force_N: float
    arm_m: float
    peak_Nm: float
    mass_kg: float = 0.0
    frontal_Nm: float = 0.0

    @property
    def moment_Nm(self) -> float:
        """Side-view moment."""
        return self.force_N * self.arm_m


@dataclass(frozen=True)
class Scale:
    """Pixels per metre of arm and per newton of force, common to all tiles shown."""

    px_per_m: float
    px_per_N: float

    @classmethod
    def fit(cls, products: list[Product], width: float, height: float) -> Scale:
        """Scale at which the longest arm and the largest force just fit."""
        arm = max([abs(p.arm_m) for p in products] + [0.05])
        force = max([p.force_N for p in products] + [100.0])
        return cls(width / arm, height / force)

    def tile(self, product: Product, corner: QPointF) -> QRectF:
        """The tile's rectangle, standing on ``corner`` (bottom left)."""
        width, height = abs(product.arm_m) * self.px_per_m, product.force_N * self.px_per_N
        return QRectF(corner.x(), corner.y() - height, width, height)


def product_at(result: Result, joint: str, frame: int) -> Product | None:
    """Force and arm of one joint at one frame, or None where nothing is solved."""
    if not result.feasible:
        return None
    row, frame = JOINTS.index(joint), min(frame, result.frames - 1)
    moments = result.shown.moments
    return Product(
        float(moments.lever_force_N()[row, frame]),
        float(moments.lever_arm_m()[row, frame]),
        result.summary[joint].peak_Nm,
        result.case.athlete.mass_kg,
        float(moments.abduction[row, frame]),
    )


def paint_tile_row(
    painter: QPainter,
    theme: Theme,
    area: QRectF,
    joint: str,
    scale: Scale,
    products: tuple[Product | None, Product | None],
    editing: int,
) -> None:
    """One joint: both peaks in figures, both tiles of the moment laid over each other, the peaks' difference.

    The set-up being edited is drawn solid, the other dashed, as everywhere on the bench.
    """
    colour = theme.joint(joint)
    title, which = TITLES[joint]
    dot = QPointF(area.left() + 8, area.top() + 12)
    paint_joint_dot(painter, theme, joint, dot, 6.0)
    painter.setFont(font(15, bold=True))
    painter.setPen(QColor(theme.ink))
    painter.drawText(QPointF(area.left() + 24, area.top() + 17), title)
    advance = text_width(title, 15, bold=True)
    painter.setFont(font(12))
    painter.setPen(QColor(theme.faint))
    painter.drawText(QPointF(area.left() + 32 + advance, area.top() + 17), which)
    _paint_numbers(painter, theme, area, colour, products, editing)
    corner = QPointF(area.left() + 126, area.bottom() - 10)
    solid, dashed = products[editing], products[1 - editing]
    if solid is not None:
        box = scale.tile(solid, corner)
        fill = QColor(colour)
        fill.setAlpha(56)
        painter.setPen(QPen(colour, 1))
        painter.setBrush(fill)
        painter.drawRect(box)
        painter.setPen(QPen(colour, 4, c=Qt.PenCapStyle.FlatCap))
        painter.drawLine(box.bottomLeft(), box.bottomRight())
    if dashed is not None:
        pen = QPen(QColor(theme.ink), 1.6)
        pen.setDashPattern([4, 3])
        painter.setPen(pen)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(scale.tile(dashed, corner))


def _paint_numbers(
    painter: QPainter,
    theme: Theme,
    area: QRectF,
    colour: QColor,
    products: tuple[Product | None, Product | None],
    editing: int,
) -> None:
    left, top = area.left(), area.top()
    for row, (letter, product) in enumerate(zip("AB", products, strict=True)):
        y = top + 46 + 26 * row
        painter.setFont(font(12, bold=True))
        painter.setPen(QColor(theme.faint))
        painter.drawText(QPointF(left, y), letter)
        if product is None:
            painter.setFont(font(12))
            painter.drawText(QPointF(left + 18, y), "not possible")
            continue
        size = 24 if row == editing else 18
        painter.setFont(font(size, bold=True))
        painter.setPen(colour if row == editing else QColor(theme.ink))
        number = minus(f"{product.peak_Nm:.0f}")
        painter.drawText(QPointF(left + 18, y), number)
        wide = text_width(number, size, bold=True)
        painter.setFont(font(12))
        painter.setPen(QColor(theme.faint))
        painter.drawText(QPointF(left + 23 + wide, y), "N·m")
        if row == editing and product.mass_kg:
            per = minus(f"{product.peak_Nm / product.mass_kg:.1f} N·m/kg")
            painter.drawText(QPointF(left, top + 46 + 26 * 2 - 4), per)
            if abs(product.frontal_Nm) > 0.1 * abs(product.peak_Nm) + 2.0:
                # The side view can't show it: told where the stance opens.
                painter.drawText(
                    QPointF(left, top + 46 + 26 * 2 + 11),
                    minus(f"{product.frontal_Nm:.0f} N·m sideways"),
                )
    _paint_products(painter, theme, area, products, editing)


def _paint_products(
    painter: QPainter,
    theme: Theme,
    area: QRectF,
    products: tuple[Product | None, Product | None],
    editing: int,
) -> None:
    """Force times arm of both set-ups at this moment, and how far their peaks are apart."""
    left, top = area.left(), area.top()
    painter.setFont(font(12))
    for row, (letter, product) in enumerate(zip("AB", products, strict=True)):
        if product is not None:
            painter.setPen(QColor(theme.ink if row == editing else theme.faint))
            words = minus(
                f"{letter} now {product.force_N:.0f} N × {UNITS.text(product.arm_m, 'm', 1)} "
                f"= {product.moment_Nm:.0f}"
            )
            painter.drawText(
                QRectF(left + 126, top + 22 + 15 * row, area.width() - 126, 15),
                Qt.AlignmentFlag.AlignLeft,
                words,
            )
    painter.setFont(font(12, bold=True))
    painter.setPen(QColor(theme.ink))
    painter.drawText(
        QRectF(left, top + 3, area.width(), 18),
        Qt.AlignmentFlag.AlignRight,
        difference_text(products),
    )


def difference_text(products: tuple[Product | None, Product | None]) -> str:
    """B's peak against A's in words: N m and per cent of A; no per cent where A is about nothing or the sign turns."""
    first, second = products
    if first is None or second is None:
        return ""
    difference = second.peak_Nm - first.peak_Nm
    if abs(difference) < 0.5:
        return "B: same"
    sign = "+" if difference > 0 else "−"
    text = f"B: {sign}{abs(difference):.0f} N·m"
    if abs(first.peak_Nm) >= 10.0 and first.peak_Nm * second.peak_Nm >= 0.0:
        text += f" ({sign}{100 * abs(difference) / abs(first.peak_Nm):.0f} %)"
    return text


# What a gauge needs at a tile's right edge, and the use at its upper end.
GAUGE_WIDE, GAUGE_MOST = 62.0, 1.2


def paint_gauge(
    painter: QPainter, theme: Theme, area: QRectF, joint: str, use: tuple[float, float, float]
) -> None:
    """How much of what the joint can hold is used: filled to the median, its end soft over the interval, 1 marked."""
    median, low, high = use
    colour = theme.joint(joint)
    well = QRectF(area.right() - 10.0, area.top() + 56.0, 8.0, area.height() - 66.0)

    def at(share: float) -> float:
        return well.bottom() - well.height() * min(share, GAUGE_MOST) / GAUGE_MOST

    painter.setPen(QPen(QColor(theme.edge), 1))
    painter.setBrush(QColor(theme.well))
    painter.drawRect(well)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(colour)
    painter.drawRect(QRectF(well.left(), at(low), well.width(), well.bottom() - at(low)))
    soft = QColor(colour)
    soft.setAlpha(90)
    painter.setBrush(soft)
    painter.drawRect(QRectF(well.left(), at(high), well.width(), at(low) - at(high)))
    painter.setPen(QPen(QColor(theme.ink), 1.5))
    for share, out in ((1.0, 4.0), (median, 0.0)):
        painter.drawLine(
            QPointF(well.left() - out, at(share)), QPointF(well.right() + out / 2, at(share))
        )
    painter.setFont(font(12, bold=True))
    painter.setPen(colour)
    label = QRectF(well.left() - 44.0, well.bottom() - 14.0, 38.0, 15.0)
    painter.drawText(label, Qt.AlignmentFlag.AlignRight, f"{100 * median:.0f} %")
