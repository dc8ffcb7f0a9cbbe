"""Adds the launcher, icon and file association for this user, or takes them off; data stays.

The application itself stays where it is: the launcher starts it from this folder's .venv.
"""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
DATA = ROOT / "src" / "zesty_lever" / "data" / "desktop"


def places() -> dict[str, Path]:
    """Where each file goes, under the user's own data folder."""
    home = Path(os.environ.get("XDG_DATA_HOME") or Path.home() / ".local" / "share")
    return {
        "zesty-lever.desktop": home / "applications" / "zesty-lever.desktop",
        "zesty-lever.metainfo.xml": home / "metainfo" / "zesty-lever.metainfo.xml",
        "zesty-lever-mime.xml": home / "mime" / "packages" / "zesty-lever-mime.xml",
        "icon": home / "icons" / "hicolor" / "128x128" / "apps" / "zesty-lever.png",
    }


def install() -> None:
    """Write all files."""
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    from zesty_lever.ui.app import application
    from zesty_lever.ui.paint.mark import mark_pixmap

    start = ROOT / ".venv" / "bin" / "zesty-lever"
    application()
    for name, target in places().items():
        target.parent.mkdir(parents=True, exist_ok=True)
        if name == "icon":
            mark_pixmap(64).save(str(target))
        else:
            text = (DATA / name).read_text(encoding="utf-8")
            target.write_text(text.replace("@EXEC@", f'"{start}"'), encoding="utf-8")
        print(f"wrote {target}")


def uninstall() -> None:
    """Take all files off; athletes, benches and settings stay."""
    for target in places().values():
        target.unlink(missing_ok=True)
        print(f"removed {target}")


def refresh() -> None:
    """Tell the desktop, where its tools are there."""
    home = places()["zesty-lever.desktop"].parents[1]
    for command in (
        ["update-desktop-database", str(home / "applications")],
        ["update-mime-database", str(home / "mime")],
    ):
        if shutil.which(command[0]):
            subprocess.run(command, check=False, capture_output=True)


if __name__ == "__main__":
    uninstall() if sys.argv[1:] == ["--remove"] else install()
    refresh()
