"""The question file of advice: read with clear errors, answered as documented."""

from __future__ import annotations

import json

import pytest

from zesty_lever.__main__ import main

BASE = {
    "format": "zesty-lever-question/1",
    "today": "2026-12-02",
    "athlete": {
        "height_m": 1.78,
        "mass_kg": 82,
        "sex": "male",
        "best_loads_kg": {"back-squat-high-bar": 130},
    },
    "planned": {"variation": "back-squat-high-bar", "sets": 4, "reps": [3, 5]},
}
ASKED = {"sets": 4, "reps": [3, 5]}
SET = {"variation": "back-squat-high-bar", "load_kg": 60, "reps": 5, "asked": ASKED}
KEYS = {
    "format", "action", "load_kg", "load_up_kg", "load_words", "reps", "sets", "seconds", "minis", "ramp", "words",
    "rests_on", "see_clinician", "places", "side_first", "computed", "instead", "lighter_week",
}  # fmt: skip


def asked(tmp_path, capsys, **more):
    path = tmp_path / "question.json"
    path.write_text(json.dumps(BASE | more))
    status = main(["advise", str(path)])
    told = capsys.readouterr()
    return status, json.loads(told.out) if told.out else None, told.err


def days(*texts, sets=4):
    return [{"day": text, "sets": [SET] * sets} for text in texts]


def test_two_good_sessions_go_up_and_name_what_they_rest_on(tmp_path, capsys):
    status, answer, _ = asked(tmp_path, capsys, sessions=days("2026-11-29", "2026-11-25"))
    assert status == 0 and set(answer) == KEYS
    assert (answer["action"], answer["load_kg"], answer["load_words"]) == ("up", 62.5, "62.5 kg")
    assert {"session": 1, "set": 4} in answer["rests_on"] and {"session": 2, "set": 1} in answer[
        "rests_on"
    ]
    assert answer["ramp"][0] == {"load_kg": 20.0, "reps": 8}
    assert answer["reps"] == [3, 5] and answer["sets"] == 4


def test_a_sore_knee_is_computed_with_both_numbers_and_cleared_by_a_word(tmp_path, capsys):
    hurt = {**SET, "load_kg": 100, "pains": [{"place": "knee", "side": "left", "score": 5}]}
    sessions = [{"day": "2026-11-29", "sets": [hurt]}]
    planned = {"variation": "romanian-deadlift", "sets": 3, "reps": [6, 8]}
    _, answer, _ = asked(tmp_path, capsys, sessions=sessions, planned=planned)
    assert answer["see_clinician"] and answer["computed"]
    for row in answer["computed"]:
        assert (row["place"], row["side"], row["lift"]) == ("knee", "left", "back-squat-high-bar")
        assert row["own"] <= row["other"]
    _, stopped, _ = asked(tmp_path, capsys, sessions=sessions)
    assert stopped["action"] == "stop" and stopped["load_kg"] is None and stopped["instead"]
    word = [{"place": "knee", "side": "left", "day": "2026-11-30", "by": "KB"}]
    _, cleared, _ = asked(tmp_path, capsys, sessions=sessions, cleared=word)
    assert cleared["action"] == "lighter"


def test_two_dumbbells_are_told_as_they_are_picked_up(tmp_path, capsys):
    planned = {"variation": "split-squat", "sets": 3, "reps": [6, 8]}
    _, answer, _ = asked(tmp_path, capsys, planned=planned)
    half = answer["load_kg"] / 2
    assert answer["load_words"] == f"2 \N{MULTIPLICATION SIGN} {half:g} kg ({answer['load_kg']:g})"


def test_a_gym_of_its_own_makes_the_loads(tmp_path, capsys):
    gym = {"bars": ["20 kg bar"], "pairs": {"10": 2, "5": 1}}
    _, answer, _ = asked(tmp_path, capsys, gym=gym, sessions=days("2026-11-29", "2026-11-25"))
    assert answer["load_kg"] in (60.0, 70.0)


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ({"today": "2026-02-30"}, "today is 2026-02-30"),
        ({"today": "1899-12-31"}, "1900-01-01"),
        ({"planned": {"variation": "moon-squat", "reps": [3, 5]}}, "moon-squat"),
        (
            {"planned": {"variation": "front-squat", "reps": [5, 3]}},
            "the second can't be the smaller",
        ),
        ({"planned": {"variation": "front-squat"}}, "either reps or seconds"),
        (
            {"planned": {"variation": "front-squat", "reps": [3, 5], "seconds": 20}},
            "either reps or seconds",
        ),
        ({"sessions": [{"day": "2026-11-29", "sets": [{**SET, "load_kg": -1}]}]}, "load_kg is -1"),
        (
            {
                "sessions": [
                    {
                        "day": "2026-11-29",
                        "sets": [{**SET, "pains": [{"place": "knee", "score": 11}]}],
                    }
                ]
            },
            "score is 11",
        ),
        ({"cleared": [{"place": "knee", "day": "2026-11-29", "by": ""}]}, "by"),
        ({"gym": {"bars": ["rope"]}}, "rope"),
        ({"gym": {"pairs": {"ten": 1}}}, "disc's mass"),
        ({"magic": 1}, "magic"),
    ],
)
def test_what_can_t_be_asked_is_said(tmp_path, capsys, change, words):
    status, answer, said = asked(tmp_path, capsys, **change)
    assert status == 1 and answer is None and words in said


def test_the_answer_goes_to_a_file_and_the_schema_is_there(tmp_path, capsys):
    path, out = tmp_path / "q.json", tmp_path / "a.json"
    path.write_text(json.dumps(BASE))
    assert main(["advise", str(path), "--out", str(out)]) == 0
    assert json.loads(out.read_text())["format"] == "zesty-lever-answer/1"
    assert main(["schema", "question"]) == 0
    assert "planned" in capsys.readouterr().out
    assert main(["advise", str(tmp_path / "none.json")]) == 2
