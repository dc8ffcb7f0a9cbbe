"""The command line as a script would use it: files, streams, errors, exit status."""

import csv
import io
import json
import subprocess
import sys
import time

import jsonschema
import pytest

from builders import MALE
from zesty_lever.__main__ import main
from zesty_lever.choosing.loading import MATCHES

CASE = {
    "format": "zesty-lever-case/1",
    "athlete": MALE,
    "variation": "back-squat-high-bar",
    "load_kg": 60,
}


def write(path, **changes):
    path.write_text(json.dumps({**CASE, **changes}), encoding="utf-8")
    return str(path)


def run(capsys, *arguments):
    status = main([str(a) for a in arguments])
    captured = capsys.readouterr()
    return status, captured.out, captured.err


def schema(capsys, which):
    return json.loads(run(capsys, "schema", which)[1])


def test_solve_one_case(tmp_path, capsys):
    """A result with every part, valid against the printed schema, case filled in."""
    status, out, err = run(capsys, "solve", write(tmp_path / "a.json"))
    assert (status, err) == (0, "")
    result = json.loads(out)
    jsonschema.validate(result, schema(capsys, "result"))
    jsonschema.validate(result["case"], schema(capsys, "case"))
    assert result["feasible"] is True
    assert result["case"]["settings"]["trunk_deg"] is None
    assert len(result["frames"]) >= 61
    frame = max(result["frames"], key=lambda f: f["progress"])
    assert frame["phase"] == "down"
    assert set(frame["moments_Nm"]["lumbosacral"]) == {
        "extension",
        "vector",
        "compression_N",
        "shear_N",
    }
    assert set(frame["moments_Nm"]["ankle_left"]) == {"extension", "vector"}
    assert set(frame["moments_Nm"]["hip_left"]) == {"extension", "abduction", "rotation", "vector"}
    assert len(frame["segments"]) == 15
    assert result["summary"]["knee_left"]["peak_Nm"] > 50
    assert [f["time_s"] for f in result["frames"]] == sorted(f["time_s"] for f in result["frames"])


def test_result_frames_stand_on_their_own(tmp_path, capsys):
    """From the file alone: forces and moments balance, levers give the moments, left equals right."""
    _, out, _ = run(
        capsys, "solve", write(tmp_path / "a.json", variation="goblet-squat", load_kg=24)
    )
    for frame in json.loads(out)["frames"][::10]:
        force = turning = 0.0
        for part in frame["segments"]:
            force -= 9.80665 * part["mass_kg"]
            turning -= 9.80665 * part["mass_kg"] * part["centre_m"][0]
        for row in frame["loads"] + frame["contacts"]:
            point = row["point_m"]
            force += row["force_N"][1]
            turning += point[0] * row["force_N"][1] - point[1] * row["force_N"][0]
        assert force == pytest.approx(0.0, abs=1e-8)
        assert turning == pytest.approx(0.0, abs=1e-8)
        assert sum(r["mass_kg"] for r in frame["loads"]) == pytest.approx(24)
        for joint, sign in (
            ("hip_left", -1),
            ("knee_right", 1),
            ("ankle_left", -1),
            ("lumbosacral", 1),
        ):
            lever = frame["levers"][joint]
            z = frame["moments_Nm"][joint]["vector"][2]
            assert lever["force_N"] * lever["arm_m"] == pytest.approx(sign * z, abs=1e-8)
        for joint in ("hip", "knee", "ankle"):
            left, right = (frame["moments_Nm"][f"{joint}_{s}"] for s in ("left", "right"))
            for part in set(left) - {"vector"}:
                assert left[part] == pytest.approx(right[part], abs=1e-7)


def test_feeding_a_result_s_case_back_gives_the_same_result(tmp_path, capsys):
    """The filled-in case is itself a case."""
    _, out, _ = run(capsys, "solve", write(tmp_path / "a.json", frames="bottom"))
    first = json.loads(out)
    (tmp_path / "b.json").write_text(json.dumps(first["case"]))
    _, out, _ = run(capsys, "solve", tmp_path / "b.json")
    assert json.loads(out) == first
    assert len(first["frames"]) == 1


def test_lines_in_lines_out(tmp_path, capsys):
    """A .jsonl: one result a line in order; a bad line is an error entry, the others are solved."""
    good = {**CASE, "frames": "none"}
    lines = [
        json.dumps(good),
        json.dumps({**good, "load_kg": -1}),
        "",
        "{not json",
        json.dumps({**good, "settings": {"stance_m": 1.0}}),
        json.dumps({**good, "load_kg": 80}),
    ]
    path = tmp_path / "many.jsonl"
    path.write_text("\n".join(lines) + "\n")
    status, out, err = run(capsys, "solve", path)
    assert status == 1
    results = [json.loads(line) for line in out.splitlines()]
    assert [r["line"] for r in results] == [1, 2, 4, 5, 6]
    assert results[0]["feasible"] and results[4]["feasible"]
    assert results[1]["error"]["key"] == "load_kg"
    assert set(results[1]) == {"format", "line", "error"}
    assert results[2]["error"]["code"] == "not-json"
    assert results[3]["feasible"] is False
    assert results[3]["summary"] is None
    assert results[3]["error"]["allowed"][0] < results[3]["error"]["allowed"][1] < 1.0
    assert results[0]["frames"] == []
    assert len(err.splitlines()) == 3


def test_standard_input(tmp_path):
    """``solve -`` reads lines from standard input."""
    done = subprocess.run(
        [sys.executable, "-m", "zesty_lever", "solve", "-"],
        text=True,
        check=False,
        input=json.dumps({**CASE, "frames": "none"}) + "\n",
        capture_output=True,
    )
    assert done.returncode == 0, done.stderr
    assert json.loads(done.stdout)["summary"]["hip_left"]["peak_Nm"] > 50


BAD_CASES = {
    "unknown variation": ({"variation": "cartwheel"}, "cartwheel", "back-squat-high-bar"),
    "misspelt key": ({"settings": {"stanse_m": 0.4}}, "stanse_m", "stance_m"),
    "misspelt athlete key": ({"athlete": {**MALE, "heigth_m": 1.8}}, "heigth_m", "height_m"),
    "negative mass": ({"athlete": {**MALE, "mass_kg": -80}}, "-80", "30 to 250 kg"),
    "thigh of 2 m": (
        {"athlete": {**MALE, "lengths_m": {"thigh": 2.0}}},
        "thigh is 2 m",
        "0.2835 to 0.5887 m",
    ),
    "thigh angle out of reach": ({"settings": {"thigh_deg": -60}}, "-60 deg", "-20 to 100 deg"),
    "not a number": ({"settings": {"thigh_deg": float("nan")}}, "nan", "-20 to 100"),
    "infinite load": ({"load_kg": float("inf")}, "load_kg", "0 to 500"),
    "text for a number": ({"load_kg": "heavy"}, "heavy", "0 to 500 kg"),
    "two free angles": (
        {"settings": {"trunk_deg": None, "shin_deg": None}},
        "one angle",
        "shin_deg",
    ),
    "free angle that can't be": ({"settings": {"stance_m": None}}, "stance_m", "trunk_deg"),
    "load on a bodyweight squat": ({"variation": "bodyweight-squat"}, "load_kg is 60", "0 to 0 kg"),
    "other mode": ({"mode": "elastic"}, "mode is elastic", "static"),
    "other format": ({"format": "zesty-lever-case/9"}, "format is zesty-lever-case/9", "/1"),
    "unknown load kind": ({"loads": [{"kind": "spring"}]}, "spring", "mass"),
    "pressure at the heel with the heel up": (
        {"settings": {"heel_lift_deg": 5, "pressure_fraction": 0.2}},
        "pressure_fraction",
        "0.73",
    ),
}


@pytest.mark.parametrize("name", BAD_CASES)
def test_bad_cases_say_what_is_wrong(name, tmp_path, capsys):
    """One line naming key or value and what is allowed; status 1; the old output stays."""
    changes, *words = BAD_CASES[name]
    out_file = tmp_path / "out.json"
    out_file.write_text("precious")
    status, _, err = run(capsys, "solve", write(tmp_path / "a.json", **changes), "--out", out_file)
    assert status == 1
    assert len(err.strip().splitlines()) == 1
    for word in words:
        assert word in err
    assert out_file.read_text() == "precious"


@pytest.mark.parametrize("suffix", [".json", ".jsonl"])
@pytest.mark.parametrize(
    ("name", "content"),
    [
        ("empty", b""),
        ("blank", b"\n  \n"),
        ("garbage", bytes(range(256)) * 40_000),
        ("one long line", b"x" * 10_000_000),
        ("cut short", b'{"format": "zesty-lever-case/1", '),
        ("a list", b"[1, 2]"),
        ("deep", b"[" * 100_000),
    ],
)
def test_unreadable_files(name, content, suffix, tmp_path, capsys):
    """Empty, garbage and 10 MB files: short errors, status 1, nothing written over."""
    path, out_file = tmp_path / f"bad{suffix}", tmp_path / "out.json"
    path.write_bytes(content)
    out_file.write_text("precious")
    status, _, err = run(capsys, "solve", path, "--out", out_file)
    assert status == 1
    assert err.strip()
    assert len(err.splitlines()) <= 9
    assert all(len(line) < 300 for line in err.splitlines())
    assert out_file.read_text() == "precious"


def test_usage_errors(tmp_path, capsys):
    """Missing file, output over the input, unknown command: status 2."""
    assert run(capsys, "solve", tmp_path / "none.json")[0] == 2
    case = write(tmp_path / "a.json")
    assert run(capsys, "solve", case, "--out", case)[0] == 2
    assert json.loads((tmp_path / "a.json").read_text()) == CASE
    with pytest.raises(SystemExit) as stopped:
        main(["dance"])
    assert stopped.value.code == 2


def test_key_given_twice(tmp_path, capsys):
    """Nothing is silently ignored, not even the first of two equal keys."""
    path = tmp_path / "a.json"
    path.write_text(json.dumps(CASE)[:-1] + ', "load_kg": 80}')
    status, _, err = run(capsys, "solve", path)
    assert status == 1
    assert "load_kg is given twice" in err


def test_list(capsys):
    """Every variation with settings, units, defaults and ranges; text and JSON agree."""
    _, text, _ = run(capsys, "list")
    _, data, _ = run(capsys, "list", "--json")
    entries = json.loads(data)
    names = [e["id"] for e in entries]
    assert {
        "bodyweight-squat",
        "back-squat-high-bar",
        "back-squat-low-bar",
        "front-squat",
        "goblet-squat",
        "dumbbell-squat",
        "box-squat",
        "split-squat",
        "step-up",
        "single-leg-hinge",
        "rear-foot-elevated-split-squat",
        "romanian-deadlift",
        "conventional-deadlift",
        "sumo-deadlift",
        "hex-bar-deadlift",
        "glute-bridge",
        "hip-thrust",
    } <= set(names)
    families = [e["family"] for e in entries]
    assert families == sorted(families, key=families.index)  # each family in one piece
    for entry in entries:
        assert entry["id"] in text
        for setting in entry["settings"]:
            low, high = setting["range"]
            assert setting["key"] in text
            assert setting["default"] is None or low <= setting["default"] <= high


@pytest.mark.parametrize("match", [None, *MATCHES])
def test_compare(match, tmp_path, capsys):
    """Baseline first, one row a case and joint, the same numbers in table and CSV."""
    best = {**MALE, "best_loads_kg": {"back-squat-high-bar": 120}}
    a = write(tmp_path / "a.json", athlete=best)
    b = write(tmp_path / "b.json", athlete=best, variation="front-squat", load_kg=40)
    chosen = [] if match is None else ["--match", match]
    status, out, _ = run(capsys, "compare", a, b, *chosen, "--csv", tmp_path / "t.csv")
    assert status == 0
    rows = list(csv.DictReader(io.StringIO((tmp_path / "t.csv").read_text())))
    assert len(rows) == 14
    assert list(rows[0]) == [
        "case",
        "variation",
        "load_kg",
        "joint",
        "peak_Nm",
        "peak_low_Nm",
        "peak_high_Nm",
        "at_progress",
        "lockout_to_peak",
        "impulse_Nms",
        "difference_Nm",
        "difference_percent",
    ]
    by = {(r["case"], r["joint"]): r for r in rows}
    hip, other = (float(by[c, "hip_left"]["peak_Nm"]) for c in "ab")
    assert float(by["b", "hip_left"]["difference_Nm"]) == pytest.approx(other - hip, abs=2e-3)
    joint = {
        "equal:hip": "hip_left",
        "equal:knee": "knee_left",
        "equal:lower-back": "lumbosacral",
    }.get(match)
    if joint:
        assert float(by["a", joint]["peak_Nm"]) == pytest.approx(
            float(by["b", joint]["peak_Nm"]), rel=1e-5
        )
    loads = {None: 40.0, "same-load": 60.0, "same-system": 60.0}
    if match in loads:
        assert float(by["b", "hip_left"]["load_kg"]) == pytest.approx(loads[match])
    if match == "typical-load":
        # 70 % of the best that is expected of the others, in the gym's discs.
        assert 60.0 <= float(by["b", "hip_left"]["load_kg"]) <= 75.0
        assert float(by["b", "hip_left"]["load_kg"]) % 2.5 == 0.0
    assert len(out.splitlines()) == 15


def test_compare_shows_a_failed_case_in_its_row(tmp_path, capsys):
    """The others are still compared; status 1."""
    a, b = write(tmp_path / "a.json"), write(tmp_path / "b.json", settings={"stance_m": 1.05})
    c = write(tmp_path / "c.json", load_kg=-1)
    status, out, _ = run(capsys, "compare", a, b, c)
    assert status == 1
    assert "hip opens 45" in out or "too short" in out
    assert "load_kg is -1 kg; allowed is 0 to 500 kg" in out


def test_equal_demand_needs_no_load_where_bodyweight_is_already_more(tmp_path, capsys):
    """A light baseline and a heavier athlete: the answer is no load, in words."""
    a = write(tmp_path / "a.json", load_kg=0)
    b = write(tmp_path / "b.json", athlete={**MALE, "mass_kg": 110}, variation="front-squat")
    status, out, _ = run(capsys, "compare", a, b, "--match", "equal:knee")
    assert status == 1
    assert "the answer is no load" in out


@pytest.mark.slow
def test_ten_thousand_cases_in_constant_memory(tmp_path):
    """Peak memory of 4,000 cases is that of 1,000 within 20 MB: batches, never all at once."""
    peaks = []
    for count in (1000, 4000):
        path = tmp_path / f"{count}.jsonl"
        path.write_text((json.dumps({**CASE, "frames": "none"}) + "\n") * count)
        code = (
            "import resource, sys; from zesty_lever.__main__ import main; "
            "s = main(sys.argv[1:]); "
            "print(resource.getrusage(resource.RUSAGE_SELF).ru_maxrss, file=sys.stderr); sys.exit(s)"
        )
        done = subprocess.run(
            [sys.executable, "-c", code, "solve", str(path), "--out", str(tmp_path / "o")],
            capture_output=True,
            text=True,
            check=True,
        )
        peaks.append(int(done.stderr.split()[-1]))
        assert len((tmp_path / "o").read_text().splitlines()) == count
    assert peaks[1] - peaks[0] < 20_000


def test_an_interrupted_run_goes_on(tmp_path, capsys):
    """Kill a run in the middle, cut its last line short, resume: every line once, as in one go."""
    lines = [json.dumps({**CASE, "frames": "none", "load_kg": 20 + i % 100}) for i in range(1500)]
    lines[700] = "broken"
    path, out, whole = tmp_path / "many.jsonl", tmp_path / "out.jsonl", tmp_path / "whole.jsonl"
    path.write_text("\n".join(lines) + "\n")
    running = subprocess.Popen(
        [sys.executable, "-m", "zesty_lever", "solve", str(path), "--out", str(out), "--resume"],
        stderr=subprocess.DEVNULL,
    )
    part = tmp_path / "out.jsonl.part"
    while running.poll() is None and (not part.exists() or part.stat().st_size < 200_000):
        time.sleep(0.01)
    running.kill()
    running.wait()
    assert not out.exists()
    part.write_bytes(part.read_bytes()[:-40])
    assert run(capsys, "solve", path, "--out", out, "--resume")[0] == 1
    assert not part.exists()
    assert run(capsys, "solve", path, "--out", whole)[0] == 1
    resumed, straight = ([json.loads(x) for x in f.read_text().splitlines()] for f in (out, whole))
    assert [r["line"] for r in resumed] == list(range(1, 1501))
    for one, two in zip(resumed, straight, strict=True):
        assert one.get("error") == two.get("error")
        for joint, row in (two.get("summary") or {}).items():
            # Batches begin elsewhere, so sums round elsewhere: equal to 1e-9.
            assert one["summary"][joint] == pytest.approx(row, rel=1e-9, abs=1e-9)
    assert run(capsys, "solve", path, "--resume")[0] == 2
