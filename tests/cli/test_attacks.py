"""Bad input costs one line, never the batch; output goes where it was sent and harms nothing there."""

import json
import os
import signal
import stat
import subprocess
import sys
import time

import pytest

from builders import case_of
from zesty_lever.__main__ import main
from zesty_lever.io.tables import text_of

GOOD = json.dumps(case_of().as_json())


def spoilt(**changes):
    return json.dumps({**case_of().as_json(), **changes})


BAD = {
    "400 digits": spoilt(load_kg=123.5).replace("123.5", "9" * 400),
    "5000 digits": spoilt(load_kg=123.5).replace("123.5", "9" * 5000),
    "infinite": spoilt(load_kg=123.5).replace("123.5", "1e999"),
    "no number": spoilt(load_kg=123.5).replace("123.5", "NaN"),
    "half a character": spoilt(variation="\ud800bad"),
    "half a character in a name": spoilt(
        athlete={**case_of().as_json()["athlete"], "name": "a\ud83d"}
    ),
    "deep": "[" * 100_000,
    "deep objects": '{"a":' * 5000,
    "null": "null",
    "list": "[]",
    "control characters": "\x00\x01",
    "leaves the ground": spoilt(mode="dynamic", tempo_s=[0.3, 0, 0.3, 0]),
    "moving and impossible": spoilt(mode="dynamic", settings={"stance_m": 1.1}, frames="rep"),
    "long text": spoilt(settings={"thigh_deg": "x" * 3000}),
}


def test_one_bad_line_never_costs_the_batch(tmp_path, capsys):
    """Every bad line gets its own result with a short printable error, the good ones around it are worked out."""
    lines = [GOOD]
    for bad in BAD.values():
        lines += [bad, GOOD]
    source, out = tmp_path / "in.jsonl", tmp_path / "out.jsonl"
    source.write_bytes("\n".join(lines).encode("utf-8", "surrogatepass"))
    assert main(["solve", str(source), "--out", str(out)]) == 1
    found = [json.loads(line) for line in out.read_text().splitlines()]
    assert [d["line"] for d in found] == list(range(1, len(lines) + 1))
    assert all(d.get("feasible") is True for d in found[::2])
    for name, document in zip(BAD, found[1::2], strict=True):
        text = document["error"]["text"]
        assert document.get("feasible") is not True, name
        assert 0 < len(text) < 500
        assert text.isprintable(), name
    assert all(len(line) < 600 for line in capsys.readouterr().err.splitlines())


@pytest.mark.parametrize(
    "junk",
    [
        b"garbage\n",
        b'{"line": "x"}\n',
        b"[]\n",
        b"\xff\xfe\n",
        b'{"line": 2, "feasible": true}\n' * 2,
    ],
)
def test_a_foreign_or_damaged_part_file_is_left_alone(tmp_path, capsys, junk):
    source, part = tmp_path / "in.jsonl", tmp_path / "out.jsonl.part"
    source.write_text(GOOD + "\n")
    part.write_bytes(junk)
    assert main(["solve", str(source), "--out", str(tmp_path / "out.jsonl"), "--resume"]) == 1
    assert "take it away or choose another --out" in capsys.readouterr().err
    assert part.read_bytes() == junk


def test_output_writes_through_a_link_and_keeps_the_mode(tmp_path):
    source, real, link = tmp_path / "c.json", tmp_path / "real.json", tmp_path / "link.json"
    source.write_text(GOOD)
    real.write_text("before")
    real.chmod(0o640)
    link.symlink_to(real.name)
    assert main(["solve", str(source), "--out", str(link)]) == 0
    assert link.is_symlink()
    assert json.loads(real.read_text())["feasible"] is True
    assert stat.S_IMODE(real.stat().st_mode) == 0o640


def test_output_goes_into_a_pipe_instead_of_replacing_it(tmp_path):
    source, pipe = tmp_path / "c.json", tmp_path / "pipe"
    source.write_text(GOOD)
    os.mkfifo(pipe)
    command = [sys.executable, "-m", "zesty_lever", "solve", str(source), "--out", str(pipe)]
    with subprocess.Popen(command) as running:
        text = pipe.read_text()
        assert running.wait(30) == 0
    assert stat.S_ISFIFO(pipe.stat().st_mode)
    assert json.loads(text)["feasible"] is True


def test_a_full_disk_is_one_line(tmp_path, capsys):
    """The full device, opened by a link so that nothing can replace it."""
    source, link = tmp_path / "c.json", tmp_path / "out.json"
    source.write_text(GOOD)
    link.symlink_to("/dev/full")
    assert main(["solve", str(source), "--out", str(link)]) == 2
    said = capsys.readouterr().err
    assert said.count("\n") == 1
    assert "No space left" in said
    assert link.is_symlink()


def test_interrupted_it_says_so_in_one_line(tmp_path):
    source, part = tmp_path / "in.jsonl", tmp_path / "out.jsonl.part"
    source.write_text((GOOD + "\n") * 3000)
    # A suite that runs in a shell's background hands down an interrupt that is ignored.
    listening = (
        "import signal, sys; signal.signal(signal.SIGINT, signal.default_int_handler);"
        "from zesty_lever.__main__ import main; sys.exit(main(sys.argv[1:]))"
    )
    command = [sys.executable, "-c", listening, "solve", str(source)]
    command += ["--out", str(tmp_path / "out.jsonl"), "--resume"]
    with subprocess.Popen(command, stderr=subprocess.PIPE, text=True) as running:
        end = time.monotonic() + 60.0
        while not (part.exists() and part.stat().st_size) and time.monotonic() < end:
            time.sleep(0.02)
        running.send_signal(signal.SIGINT)
        _, said = running.communicate(timeout=60)
    assert running.returncode == 130
    assert "Traceback" not in said
    assert part.exists()


@pytest.mark.parametrize("bad", ["nan", "-1", "1e9"])
def test_ceilings_have_limits(tmp_path, capsys, bad):
    source = tmp_path / "c.json"
    source.write_text(GOOD)
    assert main(["search", str(source), "--lower", "back", "--ceiling", f"knee={bad}"]) == 1
    assert "0 to 10000 N m" in capsys.readouterr().err


def test_cells_that_a_spreadsheet_would_run_are_harmless():
    assert [text_of(v) for v in ("=1+1", "+a", "-a", "@x")] == ["'=1+1", "'+a", "'-a", "'@x"]
    assert [text_of(v) for v in ("-5.0", -5.0, None, "shin_deg=+1.2")] == [
        "-5.0",
        "-5",
        "",
        "shin_deg=+1.2",
    ]
