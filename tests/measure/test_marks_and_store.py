"""Files of marks: what is wrong is named; edits; measurements that are kept."""

import json

import msgspec
import pytest
from jsonschema import Draft202012Validator
from measured import CLIPS, marked, measured, opened

from zesty_lever.bench import edits as bench_edits
from zesty_lever.bench.files import bench_from_json, write_bench
from zesty_lever.bench.model import first_bench
from zesty_lever.cases.model import Case
from zesty_lever.cases.parse import case_from, parse_json
from zesty_lever.measure import edits
from zesty_lever.measure.marks import MarksFile, marks_from, marks_text
from zesty_lever.measure.measuring import check
from zesty_lever.measure.store import Measurements
from zesty_lever.measure.warn import largest_error
from zesty_lever.problems import CaseError


def data(**changes):
    return {**json.loads(marks_text(marked("squat-side"))), **changes}


@pytest.mark.parametrize(
    ("changes", "key", "words"),
    [
        ({"format": "zesty-lever-marks/2"}, "format", "zesty-lever-marks/1"),
        ({"view": "above"}, "view", "front, side"),
        ({"marks": {"elbow": {"0": [1, 2]}}}, "marks.elbow", "not a known key"),
        ({"marks": {"hip": {"first": [1, 2]}}}, "marks.hip.first", "whole number"),
        ({"marks": {"hip": {"0": [float("nan"), 2]}}}, "marks.hip.0.0", "nan"),
        ({"marks": {"hip": {"0": [1]}}}, "marks.hip.0", "1 items"),
        ({"hidden": {"hip": [[9, 4]]}}, "hidden.hip", "9 to 36000"),
        ({"plumb_px": [[100, 100], [101, 101]]}, "plumb_px", "at least 5 px"),
        ({"camera": {"distance_m": -4}}, "camera.distance_m", "0.8 to 30 m"),
        ({"settings": {"grip_m": 1}}, "settings.grip_m", "not a known key"),
        ({"settings": {"stance_m": 9}}, "settings.stance_m", "0.08 to 1.1 m"),
        ({"variation": "moon-squat"}, "variation", "not in the catalogue"),
        ({"load_kg": 9000}, "load_kg", "0 to 500 kg"),
    ],
)
def test_what_is_wrong_with_marks_is_named_in_one_line(changes, key, words):
    """Key, value, unit and range."""
    with pytest.raises(CaseError) as caught:
        marks_from(data(**changes))
    assert caught.value.key == key
    assert words in caught.value.text
    assert "\n" not in caught.value.text


def test_a_disc_of_no_size_is_refused():
    """0 m is no disc."""
    disc = {**data()["calibration"]["disc"], "diameter_m": 0}
    with pytest.raises(
        CaseError, match=r"calibration\.disc\.diameter_m is 0 m; allowed is 0\.05 to 1 m"
    ):
        marks_from(data(calibration={"disc": disc}))


@pytest.mark.parametrize(
    ("change", "code", "words"),
    [
        (
            lambda m: edits.place(m, "hip", 4, (1300.0, 20.0)),
            "mark-outside",
            "x is 1300 px; the picture has 0 to 1279 px",
        ),
        (
            lambda m: edits.place(m, "hip", 9000, (30.0, 20.0)),
            "mark-outside",
            "the clip has frames 0 to",
        ),
        (lambda m: edits.place(m, "hip", 0, m.marks["knee"][0]), "marks-coincide", "0.0 px apart"),
        (lambda m: m.changed(sha256="0" * 64), "clip-changed", "has changed since"),
        (lambda m: m.changed(marks={}), "needs-marks", "ankle, knee and hip"),
    ],
)
def test_marks_that_do_not_fit_the_clip_are_refused(change, code, words):
    """Outside the picture, outside the clip, two on one spot, another clip, none at all."""
    with pytest.raises(CaseError) as caught:
        check(opened("squat-side"), change(marked("squat-side")))
    assert caught.value.code == code
    assert words in caught.value.text


def test_marks_are_read_back_as_they_were_written_and_fit_their_schema():
    """JSON and back; the schema that is printed takes the shipped files."""
    for name in ("squat-side", "squat-front"):
        marks = marked(name)
        assert marks_from(json.loads(marks_text(marks))) == marks
        schema = msgspec.json.schema(MarksFile)
        Draft202012Validator(schema).validate(
            json.loads((CLIPS / f"{name}.marks.json").read_text())
        )


def test_edits_of_marks():
    """Place, move, hide, join hidden spans, see again, remove; each makes new marks."""
    marks = MarksFile(athlete=marked("squat-side").athlete)
    one = edits.place(marks, "hip", 3, (10.123, 20.0))
    assert one.marks["hip"][3] == (10.12, 20.0)
    assert marks.marks == {}
    assert edits.moved(one, "hip", 3, (0.1, -1.0)).marks["hip"][3] == (10.22, 19.0)
    spans = edits.hidden(edits.hidden(one, "hip", 9, 5), "hip", 10, 12)
    assert spans.hidden["hip"] == ((5, 12),)
    assert edits.is_hidden(spans, "hip", 7)
    assert edits.seen_again(spans, "hip", 7).hidden == {}
    assert edits.removed(one, "hip", 3).marks == {}
    assert edits.for_view(one, "front").marks == {}
    with pytest.raises(CaseError, match=r"camera\.distance_m is 99 m; allowed is 0\.8 to 30 m"):
        edits.with_tape(marks, distance_m=99.0)


def test_the_guide_names_what_is_next():
    """Ankle first, the bar where one is carried, then the next moment, then following."""
    marks = marked("squat-side").changed(marks={})
    step = edits.next_step(marks, 0, 300, bar=True)
    assert step.name == "ankle"
    assert step.words.startswith("Start of the set: Mark the outer ankle bone")
    for name in ("ankle", "knee", "hip", "bar"):
        marks = edits.place(marks, name, 0, (100.0, 10.0 + 40.0 * len(name)))
    assert edits.next_step(marks, 0, 300, bar=True).words.startswith("Deepest moment: Go there")
    assert edits.next_step(marks, 60, 300, bar=True).words.startswith("Deepest moment: Mark the")
    assert edits.next_step(marked("squat-side"), 0, 300, bar=True).words.startswith(
        "Follow the marks"
    )


def test_measurements_are_kept_as_open_files(tmp_path):
    """Marks and result in a folder of their own, listed newest first; a broken one is passed over."""
    store = Measurements(tmp_path / "measurements")
    number = store.new_number("Squat side.MP4")
    assert number.endswith("-squat-side")
    motion = measured("squat-side")
    store.save(number, motion.marks, motion)
    kept = json.loads((tmp_path / "measurements" / number / "motion.json").read_text())
    assert kept["format"] == "zesty-lever-motion/1"
    assert store.marks(number) == motion.marks
    broken = tmp_path / "measurements" / "99990101-000000-broken"
    broken.mkdir()
    (broken / "marks.json").write_text("{")
    assert [k.number for k in store.kept()] == [number]
    assert store.kept()[0].athlete == motion.marks.athlete.name
    assert store.new_number("squat side.mp4") != number


def test_the_largest_error_is_named_with_what_helps():
    """With all known: the bar's place on the back. With nothing known of the camera: the camera."""
    assert "mark the shoulder" in largest_error(measured("squat-side"))
    from zesty_lever.measure.marks import CameraTape

    bare = measured("squat-side", camera=CameraTape(), sleeve=None)
    assert "how square the camera stands" in largest_error(bare)


def test_a_measured_set_up_travels_with_its_errors_and_loses_those_of_angles_that_change(tmp_path):
    """Case file, bench file and back; a shin changed by hand is no longer measured; another variation neither."""
    case = measured("squat-side").case
    again = case_from(parse_json(json.dumps(case.as_json()), "case"))
    assert again == case
    bench = bench_edits.put_measured(first_bench(), 1, case.setup)
    write_bench(bench, tmp_path / "bench.json")
    read = bench_from_json(json.loads((tmp_path / "bench.json").read_text()), "bench")
    assert read.setups[1].errors == case.errors
    changed = bench_edits.set_setting(bench, "shin_deg", 25.0)
    assert changed.setup.errors.shin_deg is None
    assert changed.setup.errors.thigh_deg == case.errors.thigh_deg
    assert bench_edits.set_variation(bench, "front-squat").setup.errors is None


def test_what_is_kept_of_a_person_is_no_part_of_a_case():
    """Numbers of measurements stay at the athlete and out of every case."""
    bench = bench_edits.link_measurement(first_bench(), "20260101-120000-a")
    bench = bench_edits.link_measurement(bench, "20260101-120000-a")
    assert bench.athlete.measurements == ("20260101-120000-a",)
    assert bench.case(0).athlete.measurements == ()
    whole = Case(athlete=bench.athlete, variation="front-squat")
    assert "measurements" not in whole.as_json()["athlete"]
    longer = bench_edits.measured_lengths(bench, {"thigh": 0.44})
    assert longer.athlete.lengths_m["thigh"] == 0.44
    with pytest.raises(CaseError):
        bench_edits.measured_lengths(bench, {"thigh": 0.9})
