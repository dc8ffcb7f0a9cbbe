"""The command `effort` as a script would use it: one case, every lift, bad input."""

import csv
import json

import pytest

from builders import MALE
from zesty_lever.__main__ import main

CASE = {
    "format": "zesty-lever-case/1",
    "athlete": {**MALE, "best_loads_kg": {"back-squat-high-bar": 130}},
    "variation": "back-squat-high-bar",
    "load_kg": 91,
}


def write(path, **changes):
    path.write_text(json.dumps({**CASE, **changes}), encoding="utf-8")
    return str(path)


def run(capsys, *arguments):
    status = main([str(a) for a in arguments])
    captured = capsys.readouterr()
    return status, captured.out, captured.err


def test_one_case_is_told_whole(tmp_path, capsys):
    """Use over the way up, top use with its interval, limit, hard zone, the best and what it rests on."""
    status, out, err = run(capsys, "effort", write(tmp_path / "c.json"))
    assert (status, err) == (0, "")
    told = json.loads(out)
    effort = told["effort"]
    assert told["format"] == "zesty-lever-effort/1"
    top = effort["top_use"]
    assert 0.76 <= top["low"] <= top["median"] <= top["high"] <= 0.86
    assert effort["limit"]["joint"] == top["joint"] == "knee"
    assert effort["hard_zone"][1] == 1.0
    assert effort["best_kg"] == {
        "median": 130.0,
        "low": 130.0,
        "high": 130.0,
        "from": ["back-squat-high-bar"],
        "tested": True,
    }
    assert len(effort["frames"]) >= 16
    assert max(frame["use"]["knee"] for frame in effort["frames"]) == pytest.approx(
        top["median"], abs=0.01
    )


def test_bests_can_be_typed(tmp_path, capsys):
    """A best for repetitions and one of which more would have gone."""
    path = write(tmp_path / "c.json", athlete=MALE)
    plain = json.loads(run(capsys, "effort", path)[1])["effort"]
    assert plain["best_kg"] is None
    told = json.loads(run(capsys, "effort", path, "--best", "front-squat=90x5")[1])["effort"]
    assert told["best_kg"]["tested"] is False
    assert told["basis"] == "from 1 best"
    least = json.loads(run(capsys, "effort", path, "--at-least", "front-squat=90")[1])["effort"]
    assert least["top_use"]["median"] < plain["top_use"]["high"]


def test_every_lift_as_a_table_and_csv(tmp_path, capsys):
    """Loads that a gym makes, with the interval of the best; what else limits stands beside."""
    status, out, _ = run(
        capsys, "effort", write(tmp_path / "c.json"), "--all", "--csv", tmp_path / "e.csv"
    )
    assert status == 0
    assert out.startswith("variation")
    rows = {
        r["variation"]: r for r in csv.DictReader((tmp_path / "e.csv").read_text().splitlines())
    }
    assert len(rows) > 40
    pull = rows["conventional-deadlift"]
    assert float(pull["best_low_kg"]) < float(pull["best_kg"]) < float(pull["best_high_kg"])
    assert float(pull["working_kg"]) % 2.5 == 0.0
    assert rows["step-up"]["other_limit"] == "balance"
    assert rows["side-banded-split-squat"]["note"] == "rough"


@pytest.mark.parametrize(
    ("more", "words"),
    [
        (["--best", "front-squat=90x25"], "25 repetitions; allowed is 1 to 20"),
        (["--best", "front-squat"], "it takes ID=KG"),
        (["--best", "unknown=90"], "not a known key"),
        (["--best", "pull-through=400"], "0 to 45 kg"),
        (["--best", "front-squat=nan"], "nan"),
    ],
)
def test_bad_bests_name_key_value_and_range(tmp_path, capsys, more, words):
    status, out, err = run(capsys, "effort", write(tmp_path / "c.json"), *more)
    assert (status, out) == (1, "")
    assert words in err
    assert len(err.splitlines()) == 1


@pytest.mark.parametrize(
    ("changes", "words"),
    [
        ({"mode": "dynamic"}, "no effort is told of a moving case"),
        ({"settings": {"stance_m": 1.3}}, ""),
    ],
)
def test_no_effort_where_it_would_mislead(tmp_path, capsys, changes, words):
    status, out, err = run(capsys, "effort", write(tmp_path / "c.json", **changes))
    assert (status, out) == (1, "")
    assert words in err
    assert err.strip()


def test_bests_with_repetitions_are_kept_in_files(tmp_path, capsys):
    """The athlete's optional key, echoed and checked like every other."""
    athlete = {**MALE, "bests": [{"variation": "front-squat", "load_kg": 90, "reps": 5}]}
    status, out, _ = run(capsys, "solve", write(tmp_path / "c.json", athlete=athlete))
    assert status == 0
    assert json.loads(out)["case"]["athlete"]["bests"][0]["reps"] == 5
    spoilt = {**MALE, "bests": [{"variation": "front-squat", "load_kg": 90, "reps": 0}]}
    status, _, err = run(capsys, "solve", write(tmp_path / "d.json", athlete=spoilt))
    assert status == 1
    assert "1 to 20" in err


def test_solve_tells_effort_where_it_is_asked_for(tmp_path, capsys):
    """The same object as `effort` tells; absent where it would mislead, and without the option."""
    path = write(tmp_path / "c.json")
    alone = json.loads(run(capsys, "effort", path)[1])["effort"]
    assert json.loads(run(capsys, "solve", "--effort", path)[1])["effort"] == alone
    assert "effort" not in json.loads(run(capsys, "solve", path)[1])
    assert set(alone["also"]) == {"ankle", "knee_flexors", "hip_abductors"}
    moving = write(tmp_path / "m.json", mode="dynamic")
    assert "effort" not in json.loads(run(capsys, "solve", "--effort", moving)[1])
    lines = tmp_path / "c.jsonl"
    lines.write_text("\n".join(json.dumps({**CASE, "load_kg": kg}) for kg in (60, 90)))
    told = [json.loads(line) for line in run(capsys, "solve", "--effort", lines)[1].splitlines()]
    assert told[0]["effort"]["top_use"]["median"] < told[1]["effort"]["top_use"]["median"]


def test_measured_curves_change_what_is_told(tmp_path, capsys):
    """A knee measured at twice the table uses less; a spoilt table is one line."""
    table = tmp_path / "s.csv"
    table.write_text("joint,angle_deg,moment_Nm\nknee,60,520\nknee,110,430\n")
    path = write(tmp_path / "c.json")
    usual = json.loads(run(capsys, "effort", path)[1])["effort"]["uses"]["knee"]
    told = json.loads(run(capsys, "effort", path, "--curves", table)[1])["effort"]["uses"]["knee"]
    assert told < 0.75 * usual
    table.write_text("joint,angle_deg,moment_Nm\nknee,60,-3\n")
    status, _, err = run(capsys, "effort", path, "--curves", table)
    assert status == 1
    assert "moment_Nm is -3 N m; allowed is 5 to 2000 N m" in err
