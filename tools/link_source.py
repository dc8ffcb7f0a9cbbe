"""Makes `src` importable in this environment and adds the `zesty-lever` command. No network.

Both are told relative to the environment, so the folder may have spaces in its path and may be moved.
"""

from __future__ import annotations

import os
import sysconfig
from pathlib import Path

SOURCE = Path(__file__).resolve().parent.parent / "src"
# A shell finds the interpreter beside the script (a first line with a path would not bear spaces), Python skips
# what is for the shell.
COMMAND = """#!/bin/sh
'''exec' "$(dirname -- "$(readlink -f -- "$0")")/python" "$0" "$@"
' '''
import sys
from zesty_lever.__main__ import run
if __name__ == "__main__":
    run()
"""

packages = Path(sysconfig.get_paths()["purelib"])
relative = os.path.relpath(SOURCE, packages)
Path(packages, "zesty_lever.pth").write_text(f"{relative}\n", encoding="utf-8")
command = Path(sysconfig.get_paths()["scripts"], "zesty-lever")
command.write_text(COMMAND, encoding="utf-8")
command.chmod(0o755)
