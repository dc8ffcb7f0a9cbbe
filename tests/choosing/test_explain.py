"""Why this athlete leans, in degrees, and what a higher chest costs."""

import json

import pytest

from builders import case_of
from zesty_lever.__main__ import main
from zesty_lever.analysis import analyse
from zesty_lever.bench.wish_form import WishForm, sore_joints
from zesty_lever.cases.model import Athlete
from zesty_lever.choosing.explain import explain
from zesty_lever.problems import CaseError
from zesty_lever.wording.sentences import lean_sentences, sparing_words, usual_load_words

LONG = {"lengths_m": {"thigh": 0.47}, "limits_deg": {"ankle_dorsiflexion": 30}}


def test_long_thighs_and_a_stiff_ankle_are_named_with_their_degrees():
    """Each reason is what the lean changes by when that alone is made usual; the largest comes first."""
    case = case_of(load=80, athlete=LONG)
    found = explain(case)
    adds = {r.what: r.adds_deg for r in found.reasons}
    assert adds["thigh"] > 2.0
    assert adds["ankle"] > 1.0
    sizes = [abs(a) for a in adds.values()]
    assert sizes == sorted(sizes, reverse=True)
    average = case_of(load=80, athlete={"limits_deg": LONG["limits_deg"]})
    lean = analyse(average).solved.bottom_deg["trunk_deg"]
    assert found.lean_deg - adds["thigh"] == pytest.approx(lean, abs=0.01)
    words = lean_sentences(found)
    assert "Thigh 47.0 cm (average 43.6 cm) adds" in words
    assert "Ankle 30.0° (usual" in words
    assert "instead of 80.0 kg it would lean" in words


def test_a_higher_chest_takes_more_shin_and_has_its_price():
    """Solved again at that lean: the knee pays, hip and lower back are relieved; as far as the ankle goes."""
    case = case_of(load=60)
    up = explain(case, 6.0).chest_up
    assert up.by_deg == 6.0
    before = analyse(case)
    again = analyse(case_of(load=60, settings={"shin_deg": up.shin_deg}))
    lean = [r.solved.bottom_deg["trunk_deg"] for r in (before, again)]
    assert lean[0] - lean[1] == pytest.approx(6.0, abs=0.05)
    assert up.change_Nm["knee"] > 0.0 > up.change_Nm["lower back"]
    most = explain(case_of(load=60, athlete=LONG), 25.0).chest_up
    assert most.by_deg < 25.0
    words = lean_sentences(explain(case_of(load=60, athlete=LONG), 25.0))
    assert ("the most of 25° asked for" if most.by_deg else "can't come up") in words


def test_what_has_no_lean_says_so(tmp_path, capsys):
    with pytest.raises(CaseError, match="no trunk lean"):
        explain(case_of("hip-thrust"))
    with pytest.raises(CaseError, match="1 to 30 deg"):
        explain(case_of(), 90.0)
    path = tmp_path / "case.json"
    path.write_text(json.dumps(case_of(athlete=LONG).as_json()))
    assert main(["explain", str(path), "--chest-up", "5"]) == 0
    data = json.loads(capsys.readouterr().out)
    assert data["chest_up"]["asked_deg"] == 5.0
    assert {"thigh", "ankle"} <= {r["what"] for r in data["reasons"]}


def test_a_sore_knee_proposes_its_ceiling_and_turns_the_wish():
    sore = [{"place": "knee", "side": "left"}, {"place": "wrist", "side": "both"}]
    athlete = case_of(athlete={"sore": sore}).athlete
    assert sore_joints(athlete) == ("knee",)
    form = WishForm().sparing(athlete)
    assert form.ceilings == {"knee": 60.0}
    assert form.want["knee"] == -50
    assert [c.joint for c in form.wish().ceilings] == ["knee"]
    kept = WishForm(ceilings={"knee": 40.0}, want={"knee": -80}).sparing(athlete)
    assert (kept.ceilings["knee"], kept.want["knee"]) == (40.0, -80)
    assert sparing_words(athlete) == "Spare the sore knee"
    assert sparing_words(Athlete(height_m=1.7, mass_kg=60.0, sex="female")) == ""


def test_the_usual_load_is_said_with_its_rule():
    from zesty_lever.choosing.loading import USUAL

    case = analyse(case_of("goblet-squat", 10)).case
    assert "no best known: start light" in usual_load_words(case, USUAL)
    assert usual_load_words(analyse(case_of("glute-bridge", None)).case, USUAL) == ""
