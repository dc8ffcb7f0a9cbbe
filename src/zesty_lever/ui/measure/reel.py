"""Frames of a clip for the window: decoded beside it, the newest one asked for first."""

from __future__ import annotations

import threading
from pathlib import Path

from PySide6.QtCore import QObject, Signal
from PySide6.QtGui import QImage
from shiboken6 import isValid

from zesty_lever.measure.clip import Clip
from zesty_lever.problems import CaseError


def as_image(clip: Clip, index: int) -> QImage:
    """One frame as a picture that owns its bytes."""
    colours = clip.picture(index)
    tall, wide = colours.shape[:2]
    return QImage(colours.data, wide, tall, 3 * wide, QImage.Format.Format_RGB888).copy()


class Reel(QObject):
    """Opens a clip and shows its frames from a thread of its own.

    ``opened`` carries the clip and its first frame, ``shown`` a frame's number and picture, ``hashed`` the clip and its hash, ``failed`` why a clip
    or a frame can't be shown. A frame that is asked for while another is decoded waits; of several only the newest.
    """

    opened = Signal(object, QImage)
    shown = Signal(int, QImage)
    hashed = Signal(object, str)
    failed = Signal(str)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._changed = threading.Condition()
        self._wanted: Path | Clip | None = None
        self._frame: int | None = None
        self._thread: threading.Thread | None = None

    def open(self, path: Path) -> None:
        """Open a clip; ``opened`` or ``failed`` follows."""
        self._ask(path, None)

    def show(self, clip: Clip, frame: int) -> None:
        """Show one frame of an opened clip; ``shown`` follows unless a newer one is asked for."""
        self._ask(clip, frame)

    def _ask(self, wanted: Path | Clip, frame: int | None) -> None:
        with self._changed:
            self._wanted, self._frame = wanted, frame
            self._changed.notify()
        if self._thread is None:
            self._thread = threading.Thread(target=self._work, name="reel", daemon=True)
            self._thread.start()

    def _work(self) -> None:
        while True:
            with self._changed:
                self._changed.wait_for(lambda: self._wanted is not None)
                wanted, frame = self._wanted, self._frame
                self._wanted = None
            assert wanted is not None
            try:
                self._answer(wanted, frame)
            except RuntimeError:
                if isValid(self):
                    raise
                return  # the window is gone

    def _hash(self, clip: Clip) -> None:
        """Hash a clip, however large, beside frames and window."""
        try:
            self.hashed.emit(clip, clip.sha256())
        except (OSError, RuntimeError):
            return  # gone meanwhile, or the window is

    def _answer(self, wanted: Path | Clip, frame: int | None) -> None:
        try:
            if isinstance(wanted, Path):
                clip = Clip(wanted)
                self.opened.emit(clip, as_image(clip, 0))
                threading.Thread(target=self._hash, args=(clip,), daemon=True).start()
            else:
                assert frame is not None
                self.shown.emit(frame, as_image(wanted, frame))
        except CaseError as error:
            self.failed.emit(error.text)
        except OSError as error:
            name = wanted.name if isinstance(wanted, Path) else wanted.path.name
            self.failed.emit(f"{name} can't be opened ({error.strerror or error})")
