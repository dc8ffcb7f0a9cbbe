"""The program ends without taking Qt down piece by piece: nothing that it held or made is left behind."""

from __future__ import annotations

import os
import subprocess
import sys
import time

from zesty_lever.ui.register import LAST_WRITES_S


def started(folder, *words):
    home = {f"XDG_{name}_HOME": str(folder / name.lower()) for name in ("DATA", "CONFIG", "CACHE")}
    environment = {**os.environ, **home, "HOME": str(folder), "TMPDIR": str(folder / "tmp")}
    (folder / "tmp").mkdir(exist_ok=True)
    return subprocess.run(
        [sys.executable, "-m", "zesty_lever", *words],
        env={**environment, "QT_QPA_PLATFORM": "offscreen"},
        capture_output=True,
        text=True,
        timeout=60,
        check=False,
    )


def test_a_window_of_one_s_own_lets_go_of_its_bench_and_keeps_it(tmp_path):
    ran = started(tmp_path, "--exit-after-first-frame")
    assert ran.returncode == 0, ran.stderr
    own = tmp_path / "data" / "zesty-lever"
    assert not list(own.rglob("*.lock"))
    assert (tmp_path / "config" / "zesty-lever" / "window.json").exists()
    again = started(tmp_path, "--exit-after-first-frame")
    assert again.returncode == 0 and "Another window" not in again.stderr


def test_a_demonstration_leaves_no_folder_behind(tmp_path):
    ran = started(tmp_path, "--demo", "--exit-after-first-frame")
    assert ran.returncode == 0, ran.stderr
    assert not [p for p in (tmp_path / "tmp").iterdir() if p.name.startswith("zesty-lever")]


def test_the_start_reads_no_module_s_text(tmp_path):
    """Qt's hook would read them all, to see which of them name it."""
    told = (
        "import linecache, zesty_lever.__main__ as program\n"
        "program.main(['--demo', '--exit-after-first-frame'])\n"
        "import numpy\n"
        "print([name for name in linecache.cache if 'zesty_lever' in name], float(numpy.sin(0.5)))\n"
    )
    ran = subprocess.run(
        [sys.executable, "-c", told],
        env={**os.environ, "QT_QPA_PLATFORM": "offscreen", "HOME": str(tmp_path)},
        capture_output=True,
        text=True,
        timeout=60,
        check=False,
    )
    assert ran.returncode == 0, ran.stderr
    assert ran.stdout.split("\n")[-2] == "[] 0.479425538604203"


def test_what_was_to_be_written_is_written_before_the_window_ends(window):
    """The program ends at once after its window: a write still on its way would be lost."""
    register, done = window.session.register, []

    def slow(store, _tell):
        time.sleep(0.2)
        done.append(bool(store.read_only))

    register.write(slow)
    window.close()
    assert done == [False] and register.store is None
    # Nothing opens the records again.
    register.write(lambda *_: done.append(True))
    began = time.monotonic()
    register.close()
    assert time.monotonic() - began < LAST_WRITES_S and done == [False]
