"""Study files: what they mean, and that nothing wrong gets past the start."""

from __future__ import annotations

import json

import numpy as np
import pyarrow as pa
import pyarrow.parquet as pq
import pytest
from studies import BUILDS, MAN, SQUATS, design, toml_of

from zesty_lever.problems import CaseError
from zesty_lever.study.design import Design
from zesty_lever.study.document import read_study, study_as_dict, study_from


def varied(**factors):
    return {**SQUATS, "vary": factors}


def test_rows_go_cell_by_cell_and_every_cell_takes_the_same_samples():
    made = design()
    assert made.rows == 3 * 60 and made.parts == 6
    values = made.inputs.values(np.arange(made.rows))
    assert values["variation"][::60] == BUILDS["vary"]["variation"]["values"]
    heights = np.array(values["athlete.height_m"]).reshape(3, 60)
    assert (heights == heights[0]).all()
    assert heights.min() >= 1.5 and heights.max() <= 2.0
    assert [len(made.rows_of(part)) for part in range(6)] == [32] * 5 + [20]


def test_a_case_is_the_study_s_with_the_row_s_values_in_their_places():
    made = design()
    values = made.inputs.values(made.rows_of(1))
    for index, case in enumerate(made.reader.cases(values, 32)):
        assert case.settings["stance_m"] == values["settings.stance_m"][index]
        assert case.settings["shin_deg"] == 30.0 and case.athlete.mass_kg == 82
        assert case.athlete.lengths_m == {"thigh": values["athlete.lengths_m.thigh"][index]}
        assert case.frames == "none"
        row = {key: column[index] for key, column in values.items()}
        assert case == made.reader.case_of(row)


def test_toml_json_and_what_is_written_again_are_one_study(tmp_path):
    toml = toml_of(tmp_path / "a.toml", BUILDS)
    own = tmp_path / "a.json"
    own.write_text(json.dumps(BUILDS))
    studies = [read_study(toml), read_study(own), study_from(study_as_dict(study_from(BUILDS)))]
    assert len({Design.of(study).id for study in studies}) == 1
    assert Design.of(study_from({**BUILDS, "seed": 12})).id != Design.of(studies[0]).id


@pytest.mark.parametrize(
    ("data", "words"),
    [
        ({**SQUATS, "seed": None}, "seed is missing"),
        ({k: v for k, v in SQUATS.items() if k != "seed"}, "seed is missing"),
        ({**SQUATS, "format": "zesty-lever-study/9"}, "known are: zesty-lever-study/1"),
        ({**SQUATS, "smaples": 3}, "smaples is not a known key"),
        ({**SQUATS, "samples": 0}, "samples is 0; allowed is 1 to"),
        ({**SQUATS, "part_rows": 3}, "part_rows is 3; allowed is 16 to 60000"),
        ({**SQUATS, "sampling": "dice"}, "sampling is dice; known are: lhs, random, sobol"),
        ({**SQUATS, "precision": 16}, "precision is 16"),
        ({**SQUATS, "vary": {}}, "vary is missing"),
        ({**SQUATS, "cases": "a.parquet"}, "vary and samples can't be given"),
        (varied(load_kg={}), "vary.load_kg needs either range or values"),
        (varied(load_kg={"range": [90, 60]}), "the second number must be larger"),
        (varied(load_kg={"range": [60, 600]}), "load_kg is 600 kg; allowed is 0 to 500 kg"),
        (varied(load_kg={"values": [60, 60]}), "has a value twice"),
        (varied(load_kg={"values": ["heavy"]}), "vary.load_kg holds 'heavy'; allowed is a number"),
        (varied(school={"range": [1, 2]}), "vary.school holds 1.0; allowed is text"),
        ({**varied(school={"values": ["own"]}), "samples": 1}, "school is own; known are"),
        (varied(**{"settings.knee": {"range": [1, 2]}}), "settings.knee is not a known key"),
        (varied(**{"athlete.age": {"range": [1, 2]}}), "athlete.age is not a known key"),
        (varied(**{"athlete.lengths_m.tail": {"range": [1, 2]}}), "athlete.lengths_m.tail"),
        (varied(**{"settings.shin_deg": {"range": [10, 95]}}), "settings.shin_deg is 95 deg"),
        (varied(**{"athlete.height_m": {"range": [1.5, 3]}}), "athlete.height_m is 3 m"),
        ({**varied(variation={"values": ["long-jump"]}), "samples": 1}, "long-jump"),
        ({**SQUATS, "case": {"athlete": MAN}}, "variation is missing"),
        (
            {
                **SQUATS,
                "samples": 10**9,
                "vary": {**SQUATS["vary"], "load_kg": {"values": [float(i) for i in range(2000)]}},
            },
            "at most 1000000000000",
        ),
    ],
)
def test_what_is_wrong_is_named_before_anything_is_solved(data, words):
    with pytest.raises(CaseError) as wrong:
        Design.of(study_from(data))
    assert words in wrong.value.text


def test_a_setting_that_only_one_variation_has_is_refused_by_name():
    with pytest.raises(CaseError, match=r"settings\.bench_height_m"):
        design(vary={**BUILDS["vary"], "settings.bench_height_m": {"range": [0.3, 0.4]}})


def test_files_that_are_no_study(tmp_path):
    for name, text, words in (
        ("a.toml", "x = ", "is not TOML"),
        ("a.json", "{", "is not JSON"),
        ("b.toml", "seed = 1", "format is missing"),
        ("c.toml", 'format = "zesty-lever-study/1"\nvary = 3', "vary is 3"),
    ):
        (tmp_path / name).write_text(text)
        with pytest.raises(CaseError, match=words):
            read_study(tmp_path / name)
    (tmp_path / "d.toml").write_bytes(b"\xff\xfe")
    with pytest.raises(CaseError, match="not UTF-8"):
        read_study(tmp_path / "d.toml")


# --- cases from a file -----------------------------------------------------------------------


def file_of_cases(folder, columns):
    pq.write_table(pa.table(columns), folder / "cases.parquet", row_group_size=3)
    study = {
        "format": "zesty-lever-study/1",
        "cases": "cases.parquet",
        "part_rows": 16,
        "case": {"athlete": MAN},
    }
    return read_study(toml_of(folder / "study.toml", study))


def test_a_file_of_cases_is_read_row_by_row_and_an_empty_cell_is_not_given(tmp_path):
    study = file_of_cases(
        tmp_path,
        {
            "variation": ["front-squat", "split-squat", None, "front-squat"],
            "load_kg": [60, None, 40, 80],
            "settings.stance_m": [0.4, None, 0.5, 0.45],
        },
    )
    study = study.changed(case={**study.case, "variation": "goblet-squat"})
    made = Design.of(study)
    cases = made.reader.cases(made.inputs.values(np.array([0, 1, 2, 3])), 4)
    assert [c.variation for c in cases] == [
        "front-squat",
        "split-squat",
        "goblet-squat",
        "front-squat",
    ]
    assert [c.load_kg for c in cases] == [60, None, 40, 80]
    assert [c.settings for c in cases] == [
        {"stance_m": 0.4},
        {},
        {"stance_m": 0.5},
        {"stance_m": 0.45},
    ]
    # Rows in the middle of row groups.
    assert made.inputs.values(np.array([2, 3]))["load_kg"] == [40, 80]


@pytest.mark.parametrize(
    ("columns", "words"),
    [
        ({"weight": [1.0]}, "weight is not a known key"),
        ({"load_kg": [60.0, 700.0, 50.0]}, "load_kg is 700 kg"),
        ({"load_kg": [60.0, float("nan")]}, "load_kg is nan"),
        ({"load_kg": ["much"]}, "load_kg is much"),
        ({"settings.shin_deg": [30.0, 20.0, -40.0]}, "settings.shin_deg is -40 deg"),
        ({"school": ["even", "odd"]}, "school is odd"),
        ({"settings.bench_height_m": [0.4]}, "settings.bench_height_m"),
    ],
)
def test_a_wrong_cell_of_a_file_is_named(tmp_path, columns, words):
    count = len(next(iter(columns.values())))
    study = file_of_cases(tmp_path, {"variation": ["back-squat-high-bar"] * count, **columns})
    with pytest.raises(CaseError) as wrong:
        Design.of(study)
    assert words in wrong.value.text


def test_a_case_that_is_wrong_in_itself_is_a_row_of_its_own(tmp_path):
    study = file_of_cases(
        tmp_path,
        {
            "variation": ["back-squat-high-bar"] * 2,
            "settings.trunk_deg": ["balance", "balance"],
            "settings.shin_deg": ["balance", None],
        },
    )
    made = Design.of(study)
    first, second = made.reader.cases(made.inputs.values(np.array([0, 1])), 2)
    assert second.settings == {"trunk_deg": None}
    assert first.settings == {"trunk_deg": None, "shin_deg": None}


def test_files_that_hold_no_cases(tmp_path):
    (tmp_path / "cases.parquet").write_text("not parquet")
    text = 'format = "zesty-lever-study/1"\ncases = "cases.parquet"\n'
    (tmp_path / "study.toml").write_text(text)
    with pytest.raises(CaseError, match="can't be read as Parquet"):
        Design.of(read_study(tmp_path / "study.toml"))
    pq.write_table(pa.table({"load_kg": pa.array([], pa.float64())}), tmp_path / "cases.parquet")
    with pytest.raises(CaseError, match="no rows"):
        Design.of(read_study(tmp_path / "study.toml"))
    (tmp_path / "cases.parquet").unlink()
    with pytest.raises(CaseError, match="can't be read"):
        Design.of(read_study(tmp_path / "study.toml"))
