"""``zesty-lever measure``: the contract's files, and one clear line for each thing that is wrong."""

import csv
import json
from pathlib import Path

import ezc3d
import numpy as np
import pytest

from zesty_lever.__main__ import main
from zesty_lever.measure.clip import Clip
from zesty_lever.tables import data_path

CLIPS = Path(str(data_path("demo", "clips")))
CLIP, MARKS = CLIPS / "squat-side.mp4", CLIPS / "squat-side.marks.json"


def run(capsys, *arguments):
    status = main([str(a) for a in arguments])
    captured = capsys.readouterr()
    return status, captured.out, captured.err


def test_a_clip_is_measured_into_the_files_of_the_contract(tmp_path, capsys):
    """JSON with every key of the contract and no NaN, CSV with a row a frame, C3D that another library reads."""
    out, table, c3d = tmp_path / "m.json", tmp_path / "m.csv", tmp_path / "m.c3d"
    status, _, err = run(
        capsys, "measure", CLIP, "--marks", MARKS, "--out", out, "--csv", table, "--c3d", c3d
    )
    assert status == 0
    assert "disagrees" in err
    found = json.loads(out.read_text(), parse_constant=pytest.fail)
    assert found["format"] == "zesty-lever-motion/1"
    keys = {
        "frames",
        "distances_m",
        "sd_m",
        "findings",
        "reps",
        "warnings",
        "measured_case",
        "assumptions",
    }
    assert keys <= set(found)
    frame = found["frames"][10]
    assert set(frame) == {
        "index", "time_s", "angles_deg", "sd_deg", "marks_px", "disagreement_px", "inferred", "bar_m",
    }  # fmt: skip
    assert set(frame["angles_deg"]) == set(frame["sd_deg"]) == {"shin", "thigh", "trunk"}
    assert set(found["reps"][0]) == {"start_s", "bottom_s", "end_s", "tempo_s", "sd_s"}
    assert found["measured_case"]["format"] == "zesty-lever-case/1"
    assert set(found["measured_case"]["errors"]) >= {
        "shin_deg",
        "thigh_deg",
        "trunk_deg",
        "offset_m",
    }
    rows = list(csv.DictReader(table.read_text().splitlines()))
    assert len(rows) == len(found["frames"]) == Clip(CLIP).frames
    assert float(rows[10]["shin_deg"]) == pytest.approx(frame["angles_deg"]["shin"], abs=0.01)
    file = ezc3d.c3d(str(c3d))
    labels = file["parameters"]["POINT"]["LABELS"]["value"]
    assert labels == ["ankle", "knee", "hip", "bar"]
    points = file["data"]["points"]
    assert points.shape == (4, 4, len(rows))
    assert points[1, 3, 0] == pytest.approx(1000.0 * found["frames"][0]["bar_m"][1], abs=2.0)
    assert not np.isnan(points[:3]).any()


def test_the_measured_case_is_solved_by_the_next_command(tmp_path, capsys):
    """What comes out goes in: measure, then solve."""
    out = tmp_path / "m.json"
    assert run(capsys, "measure", CLIP, "--marks", MARKS, "--out", out)[0] == 0
    case = tmp_path / "case.json"
    case.write_text(json.dumps(json.loads(out.read_text())["measured_case"]))
    status, text, _ = run(capsys, "solve", case)
    assert status == 0
    assert json.loads(text)["feasible"]


def test_the_schema_of_marks_is_printed(capsys):
    """As the other schemas."""
    status, text, _ = run(capsys, "schema", "marks")
    assert status == 0
    assert "MarksFile" in text


@pytest.mark.parametrize(
    ("clip", "marks", "status", "words"),
    [
        ("no-clip.mp4", None, 2, "No such file"),
        ("bad.mp4", None, 1, "bad.mp4 can't be read as a clip or a picture"),
        (CLIP, "{", 1, "not JSON"),
        (CLIP, {"marks": {"hip": {"99999": [1, 1]}}}, 1, "99999"),
        (CLIP, {"marks": {"hip": {"0": [1, 1]}}}, 1, "ankle, knee are missing"),
        (CLIP, {"sha256": "0" * 64}, 1, "has changed since"),
        (CLIP, {"rep": 9}, 1, "rep is 9; the clip has 3"),
        (CLIPS / "split-squat.jpg", None, 1, "the clip has frames 0 to 0"),
    ],
)
def test_each_failure_is_one_line(tmp_path, capsys, clip, marks, status, words):
    """Nothing is written, and the line says what is wrong."""
    (tmp_path / "bad.mp4").write_bytes(b"not a clip")
    path = Path(clip) if Path(str(clip)).is_absolute() else tmp_path / clip
    file = tmp_path / "marks.json"
    text = MARKS.read_text() if marks is None else marks
    file.write_text(
        text if isinstance(text, str) else json.dumps({**json.loads(MARKS.read_text()), **text})
    )
    out = tmp_path / "m.json"
    found, _, err = run(capsys, "measure", path, "--marks", file, "--out", out)
    assert found == status
    assert words in err
    assert err.count("\n") == 1
    assert not out.exists()


def test_c3d_without_its_package_names_the_part(tmp_path, capsys, monkeypatch):
    """The optional part is named, and nothing half-written is left."""
    import sys

    monkeypatch.setitem(sys.modules, "ezc3d", None)
    out = tmp_path / "m.json"
    status, _, err = run(
        capsys, "measure", CLIP, "--marks", MARKS, "--out", out, "--c3d", tmp_path / "m.c3d"
    )
    assert status == 1
    assert "optional part 'c3d'" in err
