"""Room, shortlist and search on the command line: the same numbers as the core gives."""

import csv
import json

import pytest

from builders import MALE, case_of
from zesty_lever.__main__ import main
from zesty_lever.cases.parse import athlete_from
from zesty_lever.choosing.reach import room
from zesty_lever.choosing.shortlist import Option, shortlist
from zesty_lever.choosing.technique import search
from zesty_lever.choosing.wishes import Wish

BEST = {"best_loads_kg": {"back-squat-high-bar": 120}}


@pytest.fixture
def case_file(tmp_path):
    path = tmp_path / "case.json"
    path.write_text(json.dumps(case_of(athlete=BEST).as_json()))
    return path


def test_room(case_file, capsys):
    """Deepest, widest and what is left, as JSON."""
    assert main(["room", str(case_file)]) == 0
    data = json.loads(capsys.readouterr().out)
    found = room(case_of(athlete=BEST))
    assert data["depth_unrounded"]["value"] == pytest.approx(found.depth_unrounded.value)
    assert data["margins_deg"] == pytest.approx(found.margins_deg)


def test_shortlist(case_file, tmp_path, capsys):
    """The same order and loads as the core; CSV with units in the header."""
    out = tmp_path / "s.csv"
    assert (
        main(
            [
                "shortlist",
                str(case_file),
                "--want",
                "knee=1",
                "--want",
                "back=-1",
                "--skill",
                "2",
                "--csv",
                str(out),
            ]
        )
        == 0
    )
    rows = list(csv.DictReader(out.read_text().splitlines()))
    options = shortlist(athlete_from({**MALE, **BEST}), Wish({"knee": 1.0, "back": -1.0}, skill=2))
    assert [r["variation"] for r in rows[:10]] == [o.variation for o in options[:10]]
    able = [o for o in options if isinstance(o, Option)]
    assert all(o.spans for o in able)
    assert float(rows[len(able) - 1]["knee_high_Nm"]) == pytest.approx(
        able[-1].spans["knee"][1], abs=0.06
    )
    assert float(rows[0]["knee_Nm"]) == pytest.approx(options[0].peaks["knee"], abs=0.06)
    assert "front-squat" in {r["variation"] for r in rows if r["ruled_out"]}
    assert capsys.readouterr().out.splitlines()[0].split()[1] == options[0].variation


@pytest.mark.parametrize(
    "more",
    [
        ["--like"],
        ["--week"],
        ["--direction", "lateral"],
        ["--ceiling", "back=0.5@back-squat-high-bar", "--want", "hip=1"],
        ["--have", "mat,kettlebell", "--alone"],
    ],
)
def test_shortlist_options(case_file, capsys, more):
    """Each option gives a list."""
    assert main(["shortlist", str(case_file), *more]) == 0
    assert capsys.readouterr().out.strip()


@pytest.mark.parametrize(
    "bad", [["--want", "knee=much"], ["--want", "glory=1"], ["--ceiling", "knee=9@front-squat"]]
)
def test_bad_options_say_what_is_wrong(case_file, capsys, bad):
    """One line that names it; status 1."""
    assert main(["shortlist", str(case_file), *bad]) == 1
    assert bad[1].split("=")[0] in capsys.readouterr().err


def test_search(case_file, tmp_path, capsys):
    """The core's answer as JSON; a ceiling that nothing keeps is told."""
    out = tmp_path / "f.json"
    assert (
        main(
            [
                "search",
                str(case_file),
                "--lower",
                "back",
                "--ceiling",
                "knee=140",
                "--out",
                str(out),
            ]
        )
        == 0
    )
    data = json.loads(out.read_text())
    found = search(case_of(athlete=BEST), "back", ceilings={"knee": 140.0})
    assert data["best"]["peaks"] == pytest.approx(dict(found.best.peaks))
    assert len(data["frontier"]) == len(found.frontier)
    assert main(["search", str(case_file), "--lower", "back", "--ceiling", "knee=1"]) == 1
    assert "ceilings" in capsys.readouterr().err


def test_compare_has_intervals(case_file, tmp_path, capsys):
    """Peaks with their interval in the CSV's own columns; --judge adds the difference's; --draws 0 none."""
    out = tmp_path / "c.csv"
    other = tmp_path / "other.json"
    other.write_text(json.dumps(case_of("front-squat", 50).as_json()))
    assert main(["compare", str(case_file), str(other), "--csv", str(out), "--judge"]) == 0
    rows = list(csv.DictReader(out.read_text().splitlines()))
    hip = next(r for r in rows if r["case"] == "other" and r["joint"] == "hip_left")
    assert float(hip["peak_low_Nm"]) < float(hip["peak_Nm"]) < float(hip["peak_high_Nm"])
    assert float(hip["difference_low_Nm"]) <= float(hip["difference_high_Nm"])
    assert float(hip["difference_done_low_Nm"]) <= float(hip["difference_low_Nm"])
    assert float(hip["difference_done_high_Nm"]) >= float(hip["difference_high_Nm"])
    assert hip["judgement"] == "less-as-set-up"
    key, change = hip["undone_by"].split("=")
    assert key == "shin_deg" and abs(float(change)) < 15
    assert hip["open_because"] == ""
    assert main(["compare", str(case_file), str(other), "--csv", str(out), "--draws", "0"]) == 0
    rows = list(csv.DictReader(out.read_text().splitlines()))
    assert rows[0]["peak_low_Nm"] == ""
    assert "judgement" not in rows[0]
    capsys.readouterr()


def test_compare_takes_rules_and_errors(case_file, tmp_path, capsys):
    """Half of the best instead of seven tenths; finer angles, a narrower interval."""
    other = tmp_path / "lunge.json"
    other.write_text(json.dumps(case_of("forward-lunge", 20, athlete=BEST).as_json()))
    out = tmp_path / "c.csv"

    def rows(*more):
        assert (
            main(["compare", str(case_file), str(other), "--csv", str(out), "--judge", *more]) == 0
        )
        capsys.readouterr()
        return {(r["case"], r["joint"]): r for r in csv.DictReader(out.read_text().splitlines())}

    usual = rows()
    typical = rows(
        "--match", "typical-load", "--working-share", "0.5", "--lift-share", "forward-lunge=0.4"
    )
    assert float(typical["case", "hip_right"]["load_kg"]) == pytest.approx(60)
    assert float(typical["lunge", "hip_right"]["load_kg"]) == pytest.approx(0.5 * 0.4 * 120)
    fine = rows("--error", "angle_deg=1", "--error", "offset_m=0.005")

    def width(row):
        return float(row["peak_high_Nm"]) - float(row["peak_low_Nm"])

    assert width(fine["case", "knee_right"]) < 0.7 * width(usual["case", "knee_right"])


@pytest.mark.parametrize(
    ("bad", "words"),
    [
        (["--draws", "-5"], "takes 100 to 100000"),
        (["--error", "angle_deg=nan"], "0 to 15 deg"),
        (["--error", "mood=1"], "known are angle_deg"),
        (["--working-share", "0.1"], "0.3 to 1"),
        (["--lift-share", "front-squat=9"], "0.05 to 3"),
        (["--lift-share", "nothing=0.5"], "not in the catalogue"),
    ],
)
def test_compare_names_what_is_wrong(case_file, capsys, bad, words):
    """The value, its unit and the range."""
    assert main(["compare", str(case_file), str(case_file), "--match", "typical-load", *bad]) == 1
    assert words in capsys.readouterr().err
