"""Hands to work the real window with."""

import time

from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QImage
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QPushButton


def handle(window, joint):
    return next(h for h in window.bench.figure.handles if h.kind.joint == joint)


def drag(widget, dx, dy, steps=6, at=None):
    """Press the middle of a handle (or a point in a widget), move the pointer in steps, let go."""
    first = widget.rect().center() if at is None else at.toPoint()
    start = QPointF(widget.mapToParent(first))
    parent = widget.parentWidget()
    QTest.mousePress(widget, Qt.MouseButton.LeftButton, pos=first)
    for step in range(1, steps + 1):
        target = start + QPointF(dx, dy) * step / steps
        QTest.mouseMove(widget, widget.mapFrom(parent, target.toPoint()))
        QApplication.processEvents()
    end = widget.mapFrom(parent, (start + QPointF(dx, dy)).toPoint())
    QTest.mouseRelease(widget, Qt.MouseButton.LeftButton, pos=end)
    QApplication.processEvents()


def painted(window):
    image = window.bench.figure.grab().toImage().convertToFormat(QImage.Format.Format_RGB32)
    image.setDevicePixelRatio(1)
    return image


def near(one, two):
    return (
        abs(one.red() - two.red()) + abs(one.green() - two.green()) + abs(one.blue() - two.blue())
    )


def settle(window, until, seconds=90.0):
    """Let timers and the worker do their part until something holds.

    The time only ends a wait that would never end; it measures nothing. One list takes 3 s alone, and over
    20 s were seen on two loaded cores.
    """
    end = time.monotonic() + seconds
    while time.monotonic() < end:
        QApplication.processEvents()
        if until():
            return
        time.sleep(0.01)
    raise AssertionError("waited too long")


def click(where, words):
    """Press the button that says so."""
    QTest.mouseClick(
        next(b for b in where.findChildren(QPushButton) if b.text() == words),
        Qt.MouseButton.LeftButton,
    )
    QApplication.processEvents()
