"""What leaves the window: a picture on the clipboard, PNG, SVG or PDF files, and paper."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QMarginsF, QPoint, QRectF, QSize, Qt
from PySide6.QtGui import QGuiApplication, QPageLayout, QPageSize, QPainter, QPdfWriter, QPixmap
from PySide6.QtPrintSupport import QPrinter, QPrintPreviewDialog
from PySide6.QtSvg import QSvgGenerator
from PySide6.QtWidgets import QWidget

from zesty_lever.ui.kit.theme import font

PAPERS = {"A4": QPageSize.PageSizeId.A4, "Letter": QPageSize.PageSizeId.Letter}
CAUTION = "Estimates for comparing variations: not a diagnosis and no safety limit. Stop at pain."


def copy_picture(widget: QWidget) -> QPixmap:
    """Put a widget's picture on the clipboard at twice its size, and return it."""
    picture = QPixmap(widget.size() * 2)
    picture.setDevicePixelRatio(2.0)
    widget.render(picture)
    QGuiApplication.clipboard().setPixmap(picture)
    return picture


def save_picture(widget: QWidget, path: Path) -> None:
    """Write a widget as PNG, SVG or PDF by the file's ending.

    Raises `ValueError` for another ending, `OSError` if it can't be written.
    """
    kind = path.suffix.lower()
    if kind not in {".png", ".svg", ".pdf"}:
        raise ValueError(f"{path.name}: a picture's name ends in .png, .svg or .pdf")
    if not path.parent.is_dir():
        raise FileNotFoundError(2, "no such folder", str(path))
    if kind == ".png":
        picture = QPixmap(widget.size() * 2)
        picture.setDevicePixelRatio(2.0)
        widget.render(picture)
        written = picture.save(str(path))
    else:
        written = _draw(widget, path, pdf=kind == ".pdf")
    if not written:
        raise PermissionError(13, "can't be written", str(path))


def _draw(widget: QWidget, path: Path, *, pdf: bool) -> bool:
    device: QPdfWriter | QSvgGenerator
    if pdf:
        device = QPdfWriter(str(path))
        device.setPageSize(QPageSize(PAPERS["A4"]))
        device.setPageOrientation(QPageLayout.Orientation.Landscape)
    else:
        device = QSvgGenerator()
        device.setFileName(str(path))
        device.setSize(widget.size())
        device.setViewBox(widget.rect())
        device.setTitle("Zesty Lever")
    painter = QPainter()
    if not painter.begin(device):
        return False
    if pdf:
        on_page(painter, QRectF(0, 0, device.width(), device.height()), widget, "")
    else:
        widget.render(painter, QPoint())
    return painter.end()


def on_page(painter: QPainter, page: QRectF, widget: QWidget, title: str) -> None:
    """Draw a widget as large as a page takes it, with its title above and the caution below."""
    unit = page.width() / 1000.0
    painter.save()
    face = font(max(int(16 * unit), 1), bold=True)
    painter.setFont(face)
    painter.drawText(QRectF(page.left(), page.top(), page.width(), 30 * unit), 0, title)
    painter.setFont(font(max(int(12 * unit), 1)))
    painter.drawText(
        QRectF(page.left(), page.bottom() - 24 * unit, page.width(), 24 * unit), 0, CAUTION
    )
    area = page.adjusted(0, 36 * unit, 0, -32 * unit)
    scale = min(area.width() / widget.width(), area.height() / widget.height())
    painter.translate(area.topLeft())
    painter.scale(scale, scale)
    widget.render(painter, QPoint())
    painter.restore()


def printer_for(paper: str) -> QPrinter:
    """A printer set to a paper, landscape."""
    printer = QPrinter(QPrinter.PrinterMode.ScreenResolution)
    printer.setPageSize(QPageSize(PAPERS[paper]))
    printer.setPageOrientation(QPageLayout.Orientation.Landscape)
    printer.setPageMargins(QMarginsF(12, 12, 12, 12), QPageLayout.Unit.Millimeter)
    return printer


def print_widget(printer: QPrinter, widget: QWidget, title: str) -> None:
    """Print a widget on one page."""
    painter = QPainter(printer)
    on_page(
        painter,
        QRectF(
            printer.pageLayout()
            .paintRectPixels(printer.resolution())
            .translated(-printer.pageLayout().paintRectPixels(printer.resolution()).topLeft())
        ),
        widget,
        title,
    )
    painter.end()


class PrintPreview(QPrintPreviewDialog):
    """The print preview of a widget; the paper can be changed there.

    It keeps its printer: the dialog's own does not, and a collected printer ends the process.
    """

    def __init__(self, parent: QWidget, widget: QWidget, title: str, paper: str = "A4") -> None:
        self.printer_in_use = printer_for(paper)
        super().__init__(self.printer_in_use, parent)
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.setWindowTitle(f"Print: {title}")
        self.paintRequested.connect(lambda printer: print_widget(printer, widget, title))
        self.resize(QSize(900, 640))
