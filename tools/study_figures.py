"""Runs the worked studies of docs/studies and draws their figures from the Parquet that they write.

python tools/study_figures.py [DIR]     (parts go to DIR, else to a temporary folder)
"""

from __future__ import annotations

import subprocess
import sys
import tempfile
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
import pyarrow.parquet as pq
from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QBrush, QColor, QGuiApplication, QPainter, QPen, QPolygonF
from PySide6.QtSvg import QSvgGenerator

from zesty_lever.ui.kit.theme import LIGHT, font, load_fonts

STUDIES = Path(__file__).resolve().parent.parent / "docs" / "studies"
SIZE = QSize(720, 380)
PLOT = QRectF(70, 46, 620, 270)
# As in the window: a colour and a dash for each joint.
LOOKS = {
    "hip": (LIGHT.hip, []),
    "knee": (LIGHT.knee, [6.0, 3.0]),
    "lower back": (LIGHT.back, [2.0, 3.0]),
}
BINS = 12


@dataclass
class Band:
    """A line with the range that holds 90 in 100 around it."""

    name: str
    x: Sequence[float]
    middle: Sequence[float]
    low: Sequence[float]
    high: Sequence[float]


def binned(name: str, x: np.ndarray, y: np.ndarray) -> Band:
    """Median, 5th and 95th percentile of ``y`` in bins of ``x`` of equal count."""
    order = np.argsort(x)
    parts = [part for part in np.array_split(order, BINS) if len(part)]
    quantiles = [np.percentile(y[part], [5, 50, 95]) for part in parts]
    low, middle, high = np.array(quantiles).T
    return Band(name, [float(np.median(x[part])) for part in parts], middle, low, high)


def draw(path: Path, title: str, axes: tuple[str, str], bands: Sequence[Band]) -> None:
    """One figure as SVG."""
    made = QSvgGenerator()
    made.setFileName(str(path))
    made.setSize(SIZE)
    made.setViewBox(QRectF(0, 0, SIZE.width(), SIZE.height()))
    made.setTitle(title)
    painter = QPainter(made)
    painter.fillRect(QRectF(0, 0, SIZE.width(), SIZE.height()), QColor(LIGHT.paper))
    ends_x = _ends([v for band in bands for v in band.x])
    ends_y = _ends([v for band in bands for part in (band.low, band.high) for v in part])

    def at(x: float, y: float) -> QPointF:
        across = (x - ends_x[0]) / (ends_x[1] - ends_x[0])
        up = (y - ends_y[0]) / (ends_y[1] - ends_y[0])
        return QPointF(PLOT.left() + across * PLOT.width(), PLOT.bottom() - up * PLOT.height())

    painter.setPen(QColor(LIGHT.ink))
    painter.setFont(font(15, bold=True))
    painter.drawText(QPointF(16, 28), title)
    painter.setFont(font(12))
    for value in _ticks(ends_y):
        painter.setPen(QPen(QColor(LIGHT.faint), 0.6))
        painter.drawLine(at(ends_x[0], value), at(ends_x[1], value))
        painter.setPen(QColor(LIGHT.ink))
        box = QRectF(0, at(0, value).y() - 9, PLOT.left() - 8, 18)
        painter.drawText(box, Qt.AlignmentFlag.AlignRight, f"{value:g}")
    for value in _ticks(ends_x):
        box = QRectF(at(value, 0).x() - 40, PLOT.bottom() + 4, 80, 18)
        painter.drawText(box, Qt.AlignmentFlag.AlignHCenter, f"{value:g}")
    painter.drawText(
        QRectF(PLOT.left(), PLOT.bottom() + 22, PLOT.width(), 18),
        Qt.AlignmentFlag.AlignHCenter,
        axes[0],
    )
    painter.drawText(QPointF(PLOT.left(), PLOT.top() - 4), axes[1])
    for number, band in enumerate(bands):
        _draw_band(painter, at, band, number)
    painter.end()


def _draw_band(painter: QPainter, at: Any, band: Band, number: int) -> None:
    shade, dashes = LOOKS[band.name]
    colour = QColor(shade)
    veil = QColor(colour)
    veil.setAlpha(45)
    around = [at(x, y) for x, y in zip(band.x, band.low, strict=True)]
    around += [at(x, y) for x, y in zip(reversed(band.x), reversed(list(band.high)), strict=True)]
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(QBrush(veil))
    painter.drawPolygon(QPolygonF(around))
    pen = QPen(colour, 2.2)
    if dashes:
        pen.setDashPattern(dashes)
    painter.setPen(pen)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    line = [at(x, y) for x, y in zip(band.x, band.middle, strict=True)]
    painter.drawPolyline(QPolygonF(line))
    key = PLOT.left() + 8 + number * 155
    painter.drawLine(QPointF(key, 362), QPointF(key + 26, 362))
    painter.setPen(QColor(LIGHT.ink))
    painter.drawText(QPointF(key + 32, 366), band.name)


def _ends(values: Sequence[float]) -> tuple[float, float]:
    low, high = min(values), max(values)
    room = 0.06 * (high - low or 1.0)
    return low - room, high + room


def _ticks(ends: tuple[float, float]) -> list[float]:
    step = 10.0 ** np.floor(np.log10((ends[1] - ends[0]) / 2))
    step *= next(m for m in (1, 2, 5, 10) if (ends[1] - ends[0]) / (m * step) <= 7)
    first = np.ceil(ends[0] / step) * step
    return [float(round(v, 6)) for v in np.arange(first, ends[1], step)]


# --- the studies -----------------------------------------------------------------------------


def front_squat(table: dict[str, np.ndarray]) -> None:
    """Lower back of the front squat against the back squat's, by thigh over trunk."""
    back, front = (table["variation"] == n for n in ("back-squat-high-bar", "front-squat"))
    both = table["feasible"][back] & table["feasible"][front]
    name = "lumbosacral_extensor_peak_Nm"
    change = 100.0 * (table[name][front] / table[name][back] - 1.0)[both]
    thigh, trunk = (
        table[f"athlete.lengths_m.{part}"][back][both] for part in ("thigh", "hip_to_shoulder")
    )
    hip = "hip_right_extensor_peak_Nm"
    hips = 100.0 * (table[hip][front] / table[hip][back] - 1.0)[both]
    draw(
        STUDIES / "front_squat.svg",
        "Front squat against high-bar back squat, 60 kg each",
        ("thigh length over hip-to-shoulder length", "difference of the peak, %"),
        [binned("hip", thigh / trunk, hips), binned("lower back", thigh / trunk, change)],
    )
    less = 100.0 * (change < 0).mean()
    print(
        f"front squat: lower back {np.percentile(change, [5, 50, 95]).round(1)} %, less in {less:.0f} %"
    )
    print(f"  hip {np.percentile(hips, [5, 50, 95]).round(1)} %")
    for part, values in (("thigh", thigh), ("trunk", trunk), ("thigh/trunk", thigh / trunk)):
        print(f"  correlation with {part}: {np.corrcoef(values, change)[0, 1]:.2f}")


def stance(table: dict[str, np.ndarray]) -> None:
    """Hip and knee peaks over stance, for what each limit lets be done."""
    limit, width = table["athlete.limits_deg.hip_opening"], table["settings.stance_m"]
    able = table["feasible"]
    hip, knee = (table[f"{joint}_right_extensor_peak_Nm"] for joint in ("hip", "knee"))
    draw(
        STUDIES / "stance.svg",
        "High-bar back squat at 80 kg: peaks by stance, hips opening 50°",
        ("stance width between heels, m", "peak extension moment, N·m a leg"),
        [
            binned("hip", width[able & (limit == 50)], hip[able & (limit == 50)]),
            binned("knee", width[able & (limit == 50)], knee[able & (limit == 50)]),
        ],
    )
    for value in np.unique(limit):
        own = able & (limit == value)
        print(
            f"stance: hips open {value:.0f} deg: {100 * own.sum() / (limit == value).sum():.0f} % can be done, "
            f"widest {width[own].max():.2f} m, hip there {hip[own][np.argmax(width[own])]:.0f} N m"
        )


def intervals(table: dict[str, np.ndarray]) -> None:
    """Spread of the peaks by build."""
    length, able = table["athlete.lengths_m.thigh"], table["feasible"]
    bands = []
    for joint, name in (
        ("hip_right", "hip"),
        ("knee_right", "knee"),
        ("lumbosacral", "lower back"),
    ):
        peak = table[f"{joint}_extensor_peak_Nm"]
        builds = np.unique(length)
        low, middle, high = np.array(
            [np.percentile(peak[able & (length == h)], [5, 50, 95]) for h in builds]
        ).T
        bands.append(Band(name, [float(h) for h in builds], middle, low, high))
        print(
            f"intervals: {name} +- {(0.5 * (high - low) / middle * 100).round(1)} % at {builds} m"
        )
    draw(
        STUDIES / "intervals.svg",
        "Back squat at 60 kg: what 2° of shin and thigh and 4 % of the foot do",
        ("thigh length at a height of 1.70 m, m", "peak extension moment, N·m"),
        bands,
    )


def columns_of(folder: Path) -> dict[str, np.ndarray]:
    """Every column of a study, in the order of its rows; what is empty is not a number."""
    table = pq.read_table(folder / "parts").sort_by("row")
    return {name: table[name].to_numpy() for name in table.schema.names if name != "note"}


def main() -> None:
    """Run the studies that are missing, and draw."""
    app = QGuiApplication([*sys.argv[:1], "-platform", "offscreen"])
    load_fonts()
    where = Path(sys.argv[1]) if len(sys.argv) > 1 else Path(tempfile.mkdtemp())
    for drawn in (front_squat, stance, intervals):
        name = drawn.__name__
        study, out = STUDIES / f"{name}.toml", where / name
        command = [
            sys.executable,
            "-m",
            "zesty_lever",
            "study",
            "run",
            str(study),
            "--out",
            str(out),
        ]
        subprocess.run(command, check=True)
        drawn(columns_of(out))
    app.quit()


if __name__ == "__main__":
    main()
