"""Names the system packages that are missing; installs nothing and never needs root."""

from __future__ import annotations

import importlib.util
import os
import subprocess
import sys

# Library that Qt loads, and the Debian 12 package that has it.
OFFSCREEN = {
    "libGL.so.1": "libgl1",
    "libEGL.so.1": "libegl1",
    "libglib-2.0.so.0": "libglib2.0-0",
    "libfontconfig.so.1": "libfontconfig1",
    "libfreetype.so.6": "libfreetype6",
    "libX11.so.6": "libx11-6",
    "libdbus-1.so.3": "libdbus-1-3",
    "libxkbcommon.so.0": "libxkbcommon0",
    "libbrotlidec.so.1": "libbrotli1",
    "libgssapi_krb5.so.2": "libgssapi-krb5-2",
    "libz.so.1": "zlib1g",
    "libzstd.so.1": "libzstd1",
}
XCB = {
    "libxcb-cursor.so.0": "libxcb-cursor0",
    "libxcb-icccm.so.4": "libxcb-icccm4",
    "libxcb-keysyms.so.1": "libxcb-keysyms1",
    "libxcb-image.so.0": "libxcb-image0",
    "libxcb-randr.so.0": "libxcb-randr0",
    "libxcb-render.so.0": "libxcb-render0",
    "libxcb-render-util.so.0": "libxcb-render-util0",
    "libxcb-shape.so.0": "libxcb-shape0",
    "libxcb-shm.so.0": "libxcb-shm0",
    "libxcb-sync.so.1": "libxcb-sync1",
    "libxcb-util.so.1": "libxcb-util1",
    "libxcb-xfixes.so.0": "libxcb-xfixes0",
    "libxcb-xkb.so.1": "libxcb-xkb1",
    "libxcb-glx.so.0": "libxcb-glx0",
    "libX11-xcb.so.1": "libx11-xcb1",
    "libxkbcommon-x11.so.0": "libxkbcommon-x11-0",
}


def missing(libraries: dict[str, str]) -> list[str]:
    """Packages whose library can't be loaded."""
    import ctypes

    lacking = []
    for library, package in libraries.items():
        try:
            ctypes.CDLL(library)
        except OSError:
            lacking.append(package)
    return lacking


def main() -> int:
    """Check Python, venv and (with --qt) Qt's libraries; 1 if something is missing."""
    if sys.version_info[:2] != (3, 11):
        print(
            f"Zesty Lever needs Python 3.11; this is {sys.version.split()[0]}. "
            "Call make with PYTHON=python3.11.",
            file=sys.stderr,
        )
        return 1
    if importlib.util.find_spec("ensurepip") is None:
        print("Python's venv module is missing. Install: python3-venv", file=sys.stderr)
        return 1
    if "--qt" not in sys.argv:
        return 0
    shown = bool(os.environ.get("DISPLAY"))
    lacking = missing(OFFSCREEN) + (missing(XCB) if shown else [])
    if lacking:
        print(
            "These system packages are missing (Debian names). As root:\n  apt-get install "
            + " ".join(lacking),
            file=sys.stderr,
        )
        return 1
    probe = "from PySide6.QtGui import QGuiApplication; QGuiApplication([])"
    environment = {**os.environ, "QT_QPA_PLATFORM": os.environ.get("QT_QPA_PLATFORM", "offscreen")}
    tried = subprocess.run(
        [sys.executable, "-c", probe], env=environment, capture_output=True, text=True, check=False
    )
    if tried.returncode:
        print(f"Qt does not start here:\n{tried.stderr.strip()}", file=sys.stderr)
    return tried.returncode


if __name__ == "__main__":
    sys.exit(main())
