"""Adds the launcher, icon and file association for this user, or takes them off; data stays.

The application itself stays where it is: the launcher starts it from this folder's .venv.
"""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
from collections.abc import Iterable
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
DATA = ROOT / "src" / "zesty_lever" / "data" / "desktop"


APP_ID = "org.zestylever.ZestyLever"
ICON_SIZES = (16, 22, 24, 32, 48, 64, 128, 256)


def places() -> dict[str, Path]:
    """Where each file goes, under the user's own data folder; icons by size."""
    home = Path(os.environ.get("XDG_DATA_HOME") or Path.home() / ".local" / "share")
    icons = home / "icons" / "hicolor"
    return {
        f"{APP_ID}.desktop": home / "applications" / f"{APP_ID}.desktop",
        f"{APP_ID}.metainfo.xml": home / "metainfo" / f"{APP_ID}.metainfo.xml",
        f"{APP_ID}-mime.xml": home / "mime" / "packages" / f"{APP_ID}-mime.xml",
        "zesty-lever.1": home / "man" / "man1" / "zesty-lever.1",
        **{str(size): icons / f"{size}x{size}" / "apps" / f"{APP_ID}.png" for size in ICON_SIZES},
    }


def install() -> None:
    """Write all files; those of an earlier name go."""
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    from PySide6.QtCore import Qt

    from zesty_lever.ui.app import application
    from zesty_lever.ui.paint.mark import mark_pixmap

    start = ROOT / ".venv" / "bin" / "zesty-lever"
    application()
    for name, target in places().items():
        target.parent.mkdir(parents=True, exist_ok=True)
        if name.isdigit():
            picture = mark_pixmap(int(name))
            picture.setDevicePixelRatio(1.0)
            picture.toImage().scaledToWidth(
                int(name), Qt.TransformationMode.SmoothTransformation
            ).save(str(target))
        else:
            text = (DATA / name).read_text(encoding="utf-8")
            target.write_text(text.replace("@EXEC@", f'"{start}"'), encoding="utf-8")
        print(f"wrote {target}")
    remove(earlier())


def earlier() -> list[Path]:
    """What an earlier version wrote under other names."""
    home = places()[f"{APP_ID}.desktop"].parents[1]
    return [
        home / "applications" / "zesty-lever.desktop",
        home / "metainfo" / "zesty-lever.metainfo.xml",
        home / "mime" / "packages" / "zesty-lever-mime.xml",
        home / "icons" / "hicolor" / "128x128" / "apps" / "zesty-lever.png",
    ]


def remove(paths: Iterable[Path]) -> None:
    """Take files off, those that are there."""
    for path in paths:
        if path.exists():
            path.unlink()
            print(f"removed {path}")


def uninstall() -> None:
    """Take all files off; athletes, benches and settings stay."""
    remove([*places().values(), *earlier()])


def refresh() -> None:
    """Tell the desktop, where its tools are there."""
    home = places()[f"{APP_ID}.desktop"].parents[1]
    for command in (
        ["update-desktop-database", str(home / "applications")],
        ["update-mime-database", str(home / "mime")],
    ):
        if shutil.which(command[0]):
            subprocess.run(command, check=False, capture_output=True)


if __name__ == "__main__":
    uninstall() if sys.argv[1:] == ["--remove"] else install()
    refresh()
