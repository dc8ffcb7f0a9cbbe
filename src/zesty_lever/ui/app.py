"""Starts the window, with or without a display."""

from __future__ import annotations

import os
import shutil
import sys
import tempfile
from pathlib import Path

from PySide6.QtCore import QLockFile, QTimer
from PySide6.QtWidgets import QApplication

from zesty_lever.bench.files import backups_of, read_bench, read_newer_bench
from zesty_lever.bench.model import Bench, first_bench
from zesty_lever.problems import CaseError
from zesty_lever.tables import data_path
from zesty_lever.ui.kit.theme import font, load_fonts
from zesty_lever.ui.memory import WindowMemory
from zesty_lever.ui.session import Session
from zesty_lever.ui.window import WINDOW_SIZE, Window

# What is worked out beside the window gives way to it this quickly, s.
GIVES_WAY_S = 2e-4

PICTURE = "zesty-lever-window.png"


def has_display() -> bool:
    """Whether a window can be put on a screen."""
    named = os.environ.get("QT_QPA_PLATFORM", "")
    if named:
        return not named.startswith(("offscreen", "minimal", "vnc"))
    return bool(os.environ.get("DISPLAY") or os.environ.get("WAYLAND_DISPLAY"))


def use_offscreen() -> None:
    """Run without a display, on an imaginary screen large enough for the window."""
    config = Path(tempfile.gettempdir()) / f"zesty-lever-screen-{os.getuid()}.json"
    config.write_text(
        '{"screens": [{"name": "bench", "x": 0, "y": 0, "width": 1920, "height": 1080, '
        '"logicalDpi": 96, "logicalBaseDpi": 96, "dpr": 1}]}',
        encoding="utf-8",
    )
    os.environ["QT_QPA_PLATFORM"] = f"offscreen:configfile={config}"


def start(*, demo: bool, exit_after_first_frame: bool, opened: Path | None = None) -> int:
    """Open the window and run until it is closed; return the exit status.

    Without a display the picture of the window is saved in the working folder instead.
    """
    shown = has_display()
    if not shown and not os.environ.get("QT_QPA_PLATFORM"):
        use_offscreen()
    app = application()
    scratch = Path(tempfile.mkdtemp(prefix="zesty-lever-demo-")) if demo else None
    try:
        window = make_window(scratch, demo=demo)
        window.show()
        if opened is not None:
            window.open_file(opened)
        if exit_after_first_frame:
            QTimer.singleShot(0, app.quit)
            return app.exec()
        if not shown:
            return _save_picture(window)
        return app.exec()
    finally:
        if scratch is not None:
            shutil.rmtree(scratch, ignore_errors=True)


def application() -> QApplication:
    """The one QApplication, with our own face."""
    existing = QApplication.instance()
    app = existing if isinstance(existing, QApplication) else QApplication(sys.argv[:1])
    if app.applicationName() == "Zesty Lever":
        return app
    app.setApplicationName("Zesty Lever")
    sys.setswitchinterval(GIVES_WAY_S)
    app.setStyle("Fusion")
    load_fonts()
    app.setFont(font(13))
    return app


def make_window(scratch: Path | None, *, demo: bool) -> Window:
    """Window on the user's own bench, or on a scratch copy of the demo."""
    if demo and scratch is not None:
        own = scratch / "bench.json"
        own.write_bytes(data_path("demo", "bench.json").read_bytes())
        memory = WindowMemory(None)
        memory.values["cautions_seen"] = True
        return Window(Session(read_bench(own), own), memory, "Zesty Lever · demo")
    from platformdirs import user_config_path, user_data_path

    own = user_data_path("zesty-lever") / "bench.json"
    bench, complaint, read_only = open_own_bench(own)
    lock = lock_for(own)
    if lock is None and not read_only:
        read_only = "Another window has this bench open: changes made here are not saved."
    session = Session(bench, own, read_only)
    memory = WindowMemory(user_config_path("zesty-lever") / "window.json")
    window = Window(session, memory, "Zesty Lever")
    window.lock = lock
    if complaint:
        session.refused.emit(complaint)
        window.say(complaint)
    return window


def lock_for(path: Path) -> QLockFile | None:
    """Hold a bench file for this process; None where another living one holds it."""
    path.parent.mkdir(parents=True, exist_ok=True)
    lock = QLockFile(str(path.with_suffix(".lock")))
    lock.setStaleLockTime(0)
    return lock if lock.tryLock(100) else None


def open_own_bench(path: Path) -> tuple[Bench, str, str]:
    """The bench as it was left, what to say about it, and why it is read-only (or empty).

    A file that can't be read is put aside, never written over; one of a newer version is shown as far
    as this version knows it, and left alone.
    """
    if not path.exists():
        return first_bench(), "", ""
    try:
        return read_bench(path), "", ""
    except (CaseError, OSError, UnicodeDecodeError) as error:
        if isinstance(error, CaseError) and error.code == "newer-version":
            return _open_newer(path, error)
        aside = path.with_suffix(".unread.json")
        number = 1
        while aside.exists():
            number += 1
            aside = path.with_suffix(f".unread{number}.json")
        path.rename(aside)
        kept = [backup.name for backup in backups_of(path)]
        more = f"; backups: {', '.join(kept)}" if kept else ""
        return (
            first_bench(),
            f"The last bench could not be read ({error}); it is kept as {aside.name}{more}",
            "",
        )


def _open_newer(path: Path, error: CaseError) -> tuple[Bench, str, str]:
    why = f"{error.text}. It is open for reading only; nothing here is saved."
    try:
        return read_newer_bench(path), "", why
    except (CaseError, ValueError, TypeError):
        return first_bench(), "", f"{why} What it holds could not be shown."


def _save_picture(window: Window) -> int:
    window.resize(*WINDOW_SIZE)
    QApplication.processEvents()
    target = Path.cwd() / PICTURE
    saved = window.grab().save(str(target))
    print("No display found: ran without one.")
    if not saved:
        print(f"The picture of the window could not be saved as {target}.", file=sys.stderr)
        return 1
    print(f"A picture of the window is in {target}")
    return 0
