"""A private PostgreSQL server for the tests: a folder of its own, a unix socket, no network."""

from __future__ import annotations

import os
import shutil
import subprocess
import tempfile
from pathlib import Path

UNPRIVILEGED = "postgres"


def programs() -> Path | None:
    """The folder of the server's programs; None where there are none."""
    found = shutil.which("initdb")
    folders = [Path(found).resolve().parent] if found else []
    folders += sorted(Path("/usr/lib/postgresql").glob("*/bin"), reverse=True)
    return next((f for f in folders if (f / "initdb").exists() and (f / "pg_ctl").exists()), None)


class Cluster:
    """Started as an unprivileged user; `stop` takes everything away."""

    def __init__(self) -> None:
        folder = programs()
        assert folder is not None
        self.programs = folder
        self.root = Path(tempfile.mkdtemp(prefix="zlpg-", dir="/tmp"))
        self.user = UNPRIVILEGED if os.geteuid() == 0 else None
        if self.user:
            shutil.chown(self.root, self.user)
        self._run("initdb", "-D", str(self.data), "-A", "trust", "-U", "zesty", "--no-sync")
        self.start()
        self.made = 0

    @property
    def data(self) -> Path:
        return self.root / "data"

    def start(self) -> None:
        options = f"-k {self.root} -c listen_addresses='' -c fsync=off -c max_connections=40"
        log = str(self.root / "log")
        self._run("pg_ctl", "-D", str(self.data), "-w", "-l", log, "-o", options, "start")

    def stop(self, mode: str = "immediate") -> None:
        self._run("pg_ctl", "-D", str(self.data), "-m", mode, "stop")

    def remove(self) -> None:
        self.stop()
        shutil.rmtree(self.root, ignore_errors=True)

    def _run(self, program: str, *arguments: str) -> None:
        subprocess.run(
            [str(self.programs / program), *arguments],
            check=True,
            stdout=subprocess.DEVNULL,
            user=self.user,
            cwd=self.root,
        )

    def fresh(self) -> str:
        """The address of a new, empty database."""
        self.made += 1
        name = f"records{self.made}"
        self._run("createdb", "-h", str(self.root), "-U", "zesty", name)
        return f"postgresql://zesty@/{name}?host={self.root}"
