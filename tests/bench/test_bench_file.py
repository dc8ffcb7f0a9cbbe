"""The bench file: backups, newer versions, and a process killed in the middle of saving."""

import json
import os
import signal
import struct
import subprocess
import sys
import time
from itertools import pairwise
from pathlib import Path
from xml.etree import ElementTree as ET

import pytest

from zesty_lever.bench.files import (
    backups_of,
    keep_backup,
    read_bench,
    read_newer_bench,
    write_bench,
)
from zesty_lever.bench.model import first_bench
from zesty_lever.cli.main import build_parser
from zesty_lever.problems import CaseError
from zesty_lever.tables import data_path
from zesty_lever.ui.app import APP_ID, lock_for, open_own_bench
from zesty_lever.version import VERSION

SAVER = """
import sys
from pathlib import Path
from zesty_lever.bench.files import write_bench
from zesty_lever.bench.model import first_bench
bench = first_bench()
athletes = tuple(bench.athletes[0].changed(name=f"athlete {i}") for i in range(200))
path = Path(sys.argv[1])
write_bench(bench.changed(athletes=athletes[:100]), path)
print("ready", flush=True)
n = 0
while True:
    n += 1
    write_bench(bench.changed(athletes=athletes[: 100 + n % 100]), path)
"""


def test_killed_while_saving_nothing_is_lost(tmp_path):
    """Fifteen times: a process that saves without pause is killed; the file is whole every time."""
    path = tmp_path / "bench.json"
    write_bench(first_bench(), path)
    for number in range(15):
        saver = subprocess.Popen([sys.executable, "-c", SAVER, str(path)], stdout=subprocess.PIPE)
        assert saver.stdout.readline() == b"ready\n"
        time.sleep(0.02 + 0.013 * number)
        os.kill(saver.pid, signal.SIGKILL)
        saver.wait()
        saver.stdout.close()
        assert len(read_bench(path).athletes) >= 100


def test_five_backups_ten_minutes_apart(tmp_path):
    """Saving every minute for two hours keeps the five newest states, ten minutes apart."""
    path = tmp_path / "bench.json"
    write_bench(first_bench(), path)
    start = time.time()
    for minute in range(120):
        os.utime(path, (start + 60 * minute, start + 60 * minute))
        keep_backup(path, start + 60 * minute)
    kept = backups_of(path)
    assert len(kept) == 5
    ages = [k.stat().st_mtime for k in kept]
    assert all(a - b == pytest.approx(600.0, abs=61) for a, b in pairwise(ages))


def test_a_newer_version_s_file_is_read_only(tmp_path):
    """What is known of it is shown, why is said, and the file stays byte for byte as it was."""
    path = tmp_path / "bench.json"
    write_bench(first_bench(), path)
    data = json.loads(path.read_text())
    data["format"], data["holograms"] = "zesty-lever-bench/7", True
    data["athletes"][0]["aura"] = 3
    path.write_text(json.dumps(data))
    before = path.read_bytes()
    bench, _, why = open_own_bench(path)
    assert bench.setups == read_newer_bench(path).setups == first_bench().setups
    assert "newer version" in why
    assert path.read_bytes() == before


def test_a_second_window_does_not_save(tmp_path):
    """The lock of a bench is held once, and names its holder; when let go it can be taken again."""
    first, _ = lock_for(tmp_path / "bench.json")
    assert first is not None
    second, holder = lock_for(tmp_path / "bench.json")
    assert second is None
    assert f"process {os.getpid()}" in holder
    first.unlock()
    assert lock_for(tmp_path / "bench.json")[0] is not None


def test_launcher_icon_and_association_come_and_go(tmp_path):
    """`make install`'s script writes launcher, metadata, icons of the usual sizes and the manual page under
    the user's folder, takes off what an earlier version called otherwise, and takes all off again."""
    environment = {**os.environ, "XDG_DATA_HOME": str(tmp_path), "QT_QPA_PLATFORM": "offscreen"}
    script = str(Path(__file__).parents[2] / "tools" / "install.py")
    old = tmp_path / "applications" / "zesty-lever.desktop"
    old.parent.mkdir()
    old.write_text("")
    subprocess.run([sys.executable, script], check=True, env=environment, capture_output=True)
    assert not old.exists()
    entry = (tmp_path / "applications" / f"{APP_ID}.desktop").read_text()
    assert "Exec=" in entry
    assert "@EXEC@" not in entry
    assert f"Icon={APP_ID}" in entry
    for size in (16, 32, 48, 128, 256):
        icon = tmp_path / "icons" / "hicolor" / f"{size}x{size}" / "apps" / f"{APP_ID}.png"
        # Width and height stand big-endian in a PNG's first chunk.
        assert struct.unpack(">II", icon.read_bytes()[16:24]) == (size, size)
    assert (tmp_path / "man" / "man1" / "zesty-lever.1").exists()
    mine = tmp_path / "zesty-lever" / "bench.json"
    mine.parent.mkdir()
    mine.write_text("{}")
    subprocess.run(
        [sys.executable, script, "--remove"], check=True, env=environment, capture_output=True
    )
    assert mine.read_text() == "{}"
    left = [p.name for p in tmp_path.rglob("*[Zz]esty*ever*") if p.is_file()]
    assert left == []  # what the desktop's own tools wrote beside is theirs


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ({"errors": {"angle_deg": -3.0}}, "0 to 15 deg"),
        ({"working_share": 4.0}, "0.3 to 1"),
        ({"lift_shares": {"front-squat": 0.0}}, "share of front-squat"),
        ({"reps_a_set": 0}, "reps_a_set"),
    ],
)
def test_rules_and_errors_of_a_file_are_checked(tmp_path, change, words):
    """A file's rules of thumb and errors of measuring are refused outside their ranges, by name."""
    path = tmp_path / "bench.json"
    write_bench(first_bench(), path)
    path.write_text(json.dumps({**json.loads(path.read_text()), **change}))
    with pytest.raises(CaseError, match=words):
        read_bench(path)


def test_metadata_names_the_same_application_everywhere():
    """Reverse-DNS id, launcher, licence and release; the version is the package's."""
    folder = data_path("desktop")
    parts = ET.parse(folder / f"{APP_ID}.metainfo.xml").getroot()
    assert parts.findtext("id") == APP_ID
    assert parts.findtext("launchable") == f"{APP_ID}.desktop"
    assert parts.find("releases/release").get("version") == VERSION
    assert parts.findtext("metadata_license")
    assert (folder / f"{APP_ID}.desktop").exists()


def test_the_manual_page_knows_every_command():
    """Each command of the parser, and each exit status."""
    page = data_path("desktop", "zesty-lever.1").read_text(encoding="utf-8")
    commands = next(a for a in build_parser()._actions if a.dest == "command").choices
    for command in commands:
        assert f".B {command}\n" in page
    for status in (0, 1, 2, 130):
        assert f".B {status}\n" in page
