"""What leaves the window: a picture on the clipboard, PNG, SVG or PDF files, and paper."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QMarginsF, QPoint, QRect, QRectF, QSize, Qt
from PySide6.QtGui import (
    QColor,
    QGuiApplication,
    QPageLayout,
    QPageSize,
    QPainter,
    QPdfWriter,
    QPicture,
    QPixmap,
)
from PySide6.QtPrintSupport import QPrinter, QPrintPreviewDialog
from PySide6.QtSvg import QSvgGenerator
from PySide6.QtWidgets import QWidget

from zesty_lever.ui.kit.theme import LIGHT, font

# Title and caution take this share of the width, see `on_page`.
FRAME = 0.068
PAPERS = {"A4": QPageSize.PageSizeId.A4, "Letter": QPageSize.PageSizeId.Letter}
CAUTION = "Estimates for comparing variations: not a diagnosis and no safety limit. Stop at pain."


def recorded(widget: QWidget) -> QPicture:
    """What a widget looks like now, to be painted at any size."""
    picture = QPicture()
    painter = QPainter(picture)
    widget.render(painter, QPoint())
    painter.end()
    picture.setBoundingRect(widget.rect())
    return picture


def page_size(picture: QPicture) -> QSize:
    """Size of a picture with its title above and the caution below, px."""
    size = picture.boundingRect().size()
    return QSize(size.width(), size.height() + round(FRAME * size.width()))


def copy_picture(picture: QPicture, title: str) -> QPixmap:
    """Put a picture with its title on the clipboard at twice its size, and return it."""
    made = _pixmap(picture, title)
    QGuiApplication.clipboard().setPixmap(made)
    return made


def _pixmap(picture: QPicture, title: str) -> QPixmap:
    size = page_size(picture)
    made = QPixmap(size * 2)
    made.setDevicePixelRatio(2.0)
    made.fill(QColor(LIGHT.paper))
    painter = QPainter(made)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    on_page(painter, QRectF(QPoint(), size.toSizeF()), picture, title)
    painter.end()
    return made


def save_picture(picture: QPicture, title: str, path: Path) -> None:
    """Write a picture with its title as PNG, SVG or PDF by the file's ending.

    Raises `ValueError` for another ending, `OSError` if it can't be written.
    """
    kind = path.suffix.lower()
    if kind not in {".png", ".svg", ".pdf"}:
        raise ValueError(f"{path.name}: a picture's name ends in .png, .svg or .pdf")
    if not path.parent.is_dir():
        raise FileNotFoundError(2, "no such folder", str(path))
    if kind == ".png":
        written = _pixmap(picture, title).save(str(path))
    else:
        written = _draw(picture, title, path, pdf=kind == ".pdf")
    if not written:
        raise PermissionError(13, "can't be written", str(path))


def _draw(picture: QPicture, title: str, path: Path, *, pdf: bool) -> bool:
    device: QPdfWriter | QSvgGenerator
    if pdf:
        device = QPdfWriter(str(path))
        device.setPageSize(QPageSize(PAPERS["A4"]))
        device.setPageOrientation(QPageLayout.Orientation.Landscape)
    else:
        size = page_size(picture)
        device = QSvgGenerator()
        device.setFileName(str(path))
        device.setSize(size)
        device.setViewBox(QRect(QPoint(), size))
        device.setTitle(title)
    painter = QPainter()
    if not painter.begin(device):
        return False
    on_page(painter, QRectF(0, 0, device.width(), device.height()), picture, title)
    return painter.end()


def on_page(painter: QPainter, page: QRectF, picture: QPicture, title: str) -> None:
    """Paint a picture as large as a page takes it, with its title above and the caution below."""
    unit, size = page.width() / 1000.0, picture.boundingRect().size()
    painter.save()
    painter.setPen(QColor(LIGHT.ink))
    painter.setFont(font(max(int(16 * unit), 1), bold=True))
    painter.drawText(QRectF(page.left(), page.top(), page.width(), 30 * unit), 0, title)
    painter.setFont(font(max(int(12 * unit), 1)))
    foot = QRectF(page.left(), page.bottom() - 24 * unit, page.width(), 24 * unit)
    painter.drawText(foot, 0, CAUTION)
    area = page.adjusted(0, 36 * unit, 0, -32 * unit)
    scale = min(area.width() / size.width(), area.height() / size.height())
    painter.translate(area.topLeft())
    painter.scale(scale, scale)
    picture.play(painter)
    painter.restore()


def printer_for(paper: str) -> QPrinter:
    """A printer set to a paper, landscape."""
    printer = QPrinter(QPrinter.PrinterMode.ScreenResolution)
    printer.setPageSize(QPageSize(PAPERS[paper]))
    printer.setPageOrientation(QPageLayout.Orientation.Landscape)
    printer.setPageMargins(QMarginsF(12, 12, 12, 12), QPageLayout.Unit.Millimeter)
    return printer


def print_picture(printer: QPrinter, picture: QPicture, title: str) -> None:
    """Print a picture on one page."""
    painter = QPainter(printer)
    on_page(
        painter,
        QRectF(
            printer.pageLayout()
            .paintRectPixels(printer.resolution())
            .translated(-printer.pageLayout().paintRectPixels(printer.resolution()).topLeft())
        ),
        picture,
        title,
    )
    painter.end()


class PrintPreview(QPrintPreviewDialog):
    """The print preview of a picture; the paper can be changed there.

    It keeps its printer: the dialog's own does not, and a collected printer ends the process.
    """

    def __init__(self, parent: QWidget, picture: QPicture, title: str, paper: str = "A4") -> None:
        self.printer_in_use = printer_for(paper)
        super().__init__(self.printer_in_use, parent)
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.setWindowTitle(f"Print: {title}")
        self.paintRequested.connect(lambda printer: print_picture(printer, picture, title))
        self.resize(QSize(900, 640))
