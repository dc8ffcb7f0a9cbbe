"""Starts the window, with or without a display."""

from __future__ import annotations

import atexit
import gc
import os
import shutil
import sys
import tempfile
from pathlib import Path
from typing import Any

from PySide6.QtCore import QLockFile, QTimer
from PySide6.QtWidgets import QApplication

from zesty_lever.bench.files import backups_of, read_bench, read_newer_bench
from zesty_lever.bench.model import Bench, first_bench
from zesty_lever.problems import CaseError, one_line
from zesty_lever.tables import data_path
from zesty_lever.ui.kit.theme import font, load_fonts
from zesty_lever.ui.memory import WindowMemory
from zesty_lever.ui.session import Session
from zesty_lever.ui.window import WINDOW_SIZE, Window

# What is worked out beside the window gives way to it this quickly, s.
GIVES_WAY_S = 2e-4
# When the window has come to rest after its start.
SECOND_CORE_AFTER_MS = 2500

PICTURE = "zesty-lever-window.png"

# The launcher's name, so that the desktop knows whose window it is.
APP_ID = "org.zestylever.ZestyLever"


def has_display() -> bool:
    """Whether a window can be put on a screen."""
    named = os.environ.get("QT_QPA_PLATFORM", "")
    if named:
        return not named.startswith(("offscreen", "minimal", "vnc"))
    return bool(os.environ.get("DISPLAY") or os.environ.get("WAYLAND_DISPLAY"))


def use_offscreen() -> None:
    """Run without a display, on an imaginary screen large enough for the window."""
    handle, name = tempfile.mkstemp(prefix="zesty-lever-screen-", suffix=".json")
    with os.fdopen(handle, "w", encoding="utf-8") as config:
        config.write(
            '{"screens": [{"name": "bench", "x": 0, "y": 0, "width": 1920, "height": 1080, '
            '"logicalDpi": 96, "logicalBaseDpi": 96, "dpr": 1}]}'
        )
    atexit.register(lambda: Path(name).unlink(missing_ok=True))
    os.environ["QT_QPA_PLATFORM"] = f"offscreen:configfile={name}"


def start(*, demo: bool, exit_after_first_frame: bool, opened: Path | None = None) -> int:
    """Open the window and run until it is closed; return the exit status.

    Without a display the picture of the window is saved in the working folder instead.
    """
    shown = has_display()
    if not shown and not os.environ.get("QT_QPA_PLATFORM"):
        use_offscreen()
    app = application()
    scratch = Path(tempfile.mkdtemp(prefix="zesty-lever-demo-")) if demo else None
    lock: QLockFile | None = None
    try:
        window = make_window(scratch, demo=demo)
        lock = window.lock
        window.show()
        QTimer.singleShot(0, _collect_garbage_again)
        QTimer.singleShot(SECOND_CORE_AFTER_MS, lambda: _start_second_core(window.session))
        if opened is not None:
            window.papers.open_file(opened)
        if exit_after_first_frame:
            QTimer.singleShot(0, app.quit)
            return app.exec()
        if not shown:
            return _save_picture(window)
        return app.exec()
    finally:
        if lock is not None:
            # The process ends without taking its objects down: what it holds is let go here.
            lock.unlock()
        if scratch is not None:
            shutil.rmtree(scratch, ignore_errors=True)


def _collect_garbage_again() -> None:
    """What the start has made stays: it is not looked through again and again."""
    gc.freeze()
    gc.enable()


def _start_second_core(session: Session) -> None:
    """Have the process that shares the work of long lists ready before it is asked for, and this one too."""
    from zesty_lever.choosing.second_core import SECOND_CORE, warm_up

    SECOND_CORE.start()
    session.jobs.ask("warm-up", lambda _tell: warm_up(), long=True)


def application() -> QApplication:
    """The one QApplication, with our own face."""
    existing = QApplication.instance()
    app = existing if isinstance(existing, QApplication) else QApplication(sys.argv[:1])
    if app.applicationName() == "Zesty Lever":
        return app
    app.setApplicationName("Zesty Lever")
    app.setDesktopFileName(APP_ID)
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
        session = Session(read_bench(own), own)
        session.demo = True
        return Window(session, memory, "Zesty Lever · demo")
    from platformdirs import user_config_path, user_data_path

    own = user_data_path("zesty-lever") / "bench.json"
    bench, complaint, read_only = open_own_bench(own)
    lock, held_by = lock_for(own)
    if lock is None and not read_only:
        read_only = f"{held_by}: changes made here are not saved."
    session = Session(bench, own, read_only)
    memory = WindowMemory(user_config_path("zesty-lever") / "window.json")
    window = Window(session, memory, "Zesty Lever")
    window.lock = lock
    if complaint:
        session.refused.emit(complaint)
        window.say(complaint)
    return window


def lock_for(path: Path) -> tuple[QLockFile | None, str]:
    """Hold a bench file for this process; None where that can't be, with who or what is in the way."""
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        return None, f"The folder {path.parent} can't be made ({error.strerror})"
    lock = QLockFile(str(path.with_suffix(".lock")))
    lock.setStaleLockTime(0)
    if lock.tryLock(100):
        return lock, ""
    if lock.error() != QLockFile.LockError.LockFailedError:
        return None, f"The folder {path.parent} can't be written"
    info: tuple[Any, ...] = lock.getLockInfo()
    process, host, program = info[-3:]
    who = f" ({program} on {host}, process {process})" if program else ""
    return None, f"Another window has this bench open{who}"


def open_own_bench(path: Path) -> tuple[Bench, str, str]:
    """The bench as it was left, what to say about it, and why it is read-only (or empty).

    A file that can't be read is put aside, never written over; one of a newer version is shown as far
    as this version knows it, and left alone.
    """
    try:
        if not path.exists():
            return first_bench(), "", ""
    except OSError as error:
        return (
            first_bench(),
            "",
            f"{path} can't be reached ({error.strerror}); nothing here is saved.",
        )
    try:
        return read_bench(path), "", ""
    except (CaseError, OSError, UnicodeDecodeError, ValueError, RecursionError) as error:
        if isinstance(error, CaseError) and error.code == "newer-version":
            return _open_newer(path, error)
        return first_bench(), *_keep_unread(path, error)


def _keep_unread(path: Path, error: Exception) -> tuple[str, str]:
    """Put a bench that can't be read aside: what to say, and why nothing is saved where that can't be done."""
    aside = path.with_suffix(".unread.json")
    number = 1
    while aside.exists():
        number += 1
        aside = path.with_suffix(f".unread{number}.json")
    what = f"The last bench could not be read ({one_line(str(error), 300)})"
    try:
        path.rename(aside)
    except OSError as stuck:
        why = f"{what}, nor put aside ({stuck.strerror}): it stays as it is, and nothing here is saved."
        return "", why
    kept = [backup.name for backup in backups_of(path)]
    more = f"; backups: {', '.join(kept)}" if kept else ""
    return f"{what}; it is kept as {aside.name}{more}", ""


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
