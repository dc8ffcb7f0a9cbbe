"""The catalogue as data, the timing of reps, and the bench file."""

import pickle

import msgspec
import numpy as np
import pytest

from builders import MALE, case_of
from zesty_lever.bench.files import bench_from_json, read_bench, write_bench
from zesty_lever.bench.model import first_bench
from zesty_lever.cases.model import SCHOOLS, Case
from zesty_lever.cases.parse import athlete_from, case_from
from zesty_lever.cases.resolve import resolve, technique_of
from zesty_lever.exercises import catalogue as catalogues
from zesty_lever.exercises.catalogue import COMPILED, catalogue, fingerprint, from_files, variation
from zesty_lever.physics.tempo import ORDERS, minimum_jerk, timeline
from zesty_lever.problems import CaseError
from zesty_lever.tables import data_path

DIRECTIONS = {"vertical", "horizontal", "lateral"}


@pytest.mark.parametrize("name", list(catalogue()))
def test_every_entry_is_complete(name):
    """Names, words, equipment, and defaults inside the ranges for every school; the load likewise."""
    entry = variation(name)
    assert entry.id == name
    assert entry.name
    assert entry.gym
    assert entry.limited_by
    assert entry.skill in {1, 2, 3}
    assert entry.direction in {"vertical", "horizontal", "lateral"}
    low, high = entry.load_range_kg()
    assert low <= entry.default_load_kg() <= high
    athlete = case_of(name, None).athlete
    for school in SCHOOLS:
        technique = technique_of(entry, athlete, school)
        assert set(technique) == set(entry.settings)
        for key, value in technique.items():
            if value is None:
                assert key == entry.free
            else:
                entry.settings[key].check(value)
    for setting in entry.settings.values():
        assert setting.help.endswith(".")
        assert setting.low < setting.high
        assert setting.unit in {"m", "deg", "", "N/m", "N"}
    if entry.load and entry.load.share_of_back_squat:
        assert 0.1 < entry.load.share_of_back_squat < 1.5


def test_schools_change_defaults_only():
    """Hips first sits further back than knees travel; a setting that is given wins over any school."""
    shins = [resolve(case_of(school=school)).settings["shin_deg"] for school in SCHOOLS]
    assert shins == sorted(shins)
    assert shins[0] < shins[2]
    given = [
        resolve(case_of(school=s, settings={"shin_deg": 30})).settings["shin_deg"] for s in SCHOOLS
    ]
    assert given == [30, 30, 30]


def test_default_shin_stays_inside_the_ankle_s_range():
    """A stiff ankle gets the default shin that it allows, less 0.7 degrees for the way down; a given shin outside is
    an error elsewhere."""
    stiff = resolve(case_of(athlete={"limits_deg": {"ankle_dorsiflexion": 22}}))
    shin, toe_out = (np.radians(stiff.settings[k]) for k in ("shin_deg", "toe_out_deg"))
    assert np.degrees(np.arctan(np.tan(shin) / np.cos(toe_out))) == pytest.approx(21.3, abs=0.15)


@pytest.mark.parametrize("order", list(ORDERS))
@pytest.mark.parametrize(
    "tempo", [(2.0, 0.0, 1.0, 0.0), (3.0, 1.0, 0.5, 2.0), (0.3, 0.0, 0.3, 60.0)]
)
def test_timelines(order, tempo):
    """Time runs on, the whole takes the tempo's sum, progress turns where the order says."""
    times = timeline(tempo, order)
    assert len(times.time_s) == len(times.progress) == len(times.phase) >= 61
    assert (np.diff(times.time_s) > 0).all()
    assert times.time_s[-1] == pytest.approx(sum(tempo))
    starts_low = order != "top-first"
    assert times.phase[0] == ("up" if starts_low else "down")
    assert times.progress[0] == (1.0 if order == "floor-first" else 0.0)
    assert times.progress[times.bottom] == 1.0
    assert ((times.progress >= 0.0) & (times.progress <= 1.0)).all()


def test_minimum_jerk_is_at_rest_at_both_ends():
    """Closed form: position 0 and 1, middle one half, speed and acceleration nought at the ends."""
    t = np.array([0.0, 1e-4, 0.5, 1.0 - 1e-4, 1.0])
    course = minimum_jerk(t)
    assert course[[0, 2, 4]] == pytest.approx([0.0, 0.5, 1.0])
    assert course[1] < 1e-10
    assert 1.0 - course[3] < 1e-10


def test_the_bench_file_comes_back_as_written(tmp_path):
    """Write, read: the same bench. The demo ships valid, with two athletes of the rescue team."""
    demo = read_bench(data_path("demo", "bench.json"))
    assert len(demo.athletes) == 2
    for bench in (demo, first_bench()):
        write_bench(bench, tmp_path / "bench.json")
        assert read_bench(tmp_path / "bench.json") == bench


def _without_none(data):
    if isinstance(data, dict):
        return {k: _without_none(v) for k, v in data.items() if v is not None}
    return [_without_none(v) for v in data] if isinstance(data, list | tuple) else data


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ({"format": "zesty-lever-bench/9"}, "newer version"),
        ({"current": 7}, "there are 1, counted from 0"),
        ({"athletes": []}, "athletes"),
        ({"mood": "good"}, "mood"),
        ({"setups": [{"variation": "cartwheel"}, {"variation": "front-squat"}]}, "cartwheel"),
        (
            {
                "setups": [
                    {"variation": "front-squat", "settings": {"stance_m": 9}},
                    {"variation": "front-squat"},
                ]
            },
            "stance_m is 9 m",
        ),
        ({"athletes": [{**MALE, "lengths_m": {"thigh": 2.0}}]}, "thigh is 2 m"),
    ],
)
def test_spoilt_bench_files_say_what_is_wrong(change, words):
    """Each names the key or value; nothing is taken over silently."""
    data = _without_none(msgspec.to_builtins(first_bench())) | change
    with pytest.raises(CaseError) as caught:
        bench_from_json(data, "bench.json")
    assert words in caught.value.text


def test_balance_may_be_written_as_a_word():
    """``"balance"`` and null mean the same."""
    base = {"format": "zesty-lever-case/1", "athlete": MALE, "variation": "front-squat"}
    word, null = (case_from({**base, "settings": {"trunk_deg": v}}) for v in ("balance", None))
    assert word == null


@pytest.mark.parametrize(
    "build",
    [
        {"height_m": 2.3, "mass_kg": 130, "sex": "male"},
        {"height_m": 1.2, "mass_kg": 30, "sex": "female"},
        {
            "height_m": 2.0,
            "mass_kg": 100,
            "sex": "male",
            "lengths_m": {"shank": 0.60, "thigh": 0.60},
        },
    ],
)
def test_defaults_of_unusual_builds_stay_in_range(build):
    """What a build's default technique gives can be filled in again: a tall athlete's step ends where steps end."""
    athlete = athlete_from(build)
    for name, entry in catalogue().items():
        for school in SCHOOLS:
            values = technique_of(entry, athlete, school)
            for key, value in values.items():
                setting = entry.settings[key]
                assert value is None or setting.low <= value <= setting.high, (name, key, value)
            case = resolve(
                Case(format="zesty-lever-case/1", athlete=athlete, variation=name, school=school)
            )
            assert resolve(case) == case


def test_the_compiled_copy_is_of_these_files():
    """Due again after every change of the catalogue: python tools/compile_catalogue.py."""
    copy = data_path("catalogue", COMPILED).read_bytes()
    mark = fingerprint()
    assert copy.startswith(mark)
    assert pickle.loads(copy[len(mark) :]) == from_files()
    assert catalogue() == from_files()


def test_a_copy_that_is_not_of_these_files_is_not_taken(monkeypatch):
    monkeypatch.setattr(catalogues, "fingerprint", lambda: b"another")
    monkeypatch.setattr(catalogues.pickle, "loads", None)
    catalogues.catalogue.cache_clear()
    try:
        assert list(catalogues.catalogue()) == list(from_files())
    finally:
        monkeypatch.undo()
        catalogues.catalogue.cache_clear()
