"""Makes `src` importable in this environment and adds the `zesty-lever` command. No network."""

from __future__ import annotations

import sys
import sysconfig
from pathlib import Path

SOURCE = Path(__file__).resolve().parent.parent / "src"
COMMAND = "#!{python}\nimport sys\nfrom zesty_lever.__main__ import main\nsys.exit(main())\n"

Path(sysconfig.get_paths()["purelib"], "zesty_lever.pth").write_text(
    f"{SOURCE}\n", encoding="utf-8"
)
command = Path(sysconfig.get_paths()["scripts"], "zesty-lever")
command.write_text(COMMAND.format(python=sys.executable), encoding="utf-8")
command.chmod(0o755)
