"""State of screens without a window: the wish's form, the frontier, the table of a line-up."""

import pytest

from builders import case_of
from zesty_lever.analysis import analyse
from zesty_lever.bench import edits
from zesty_lever.bench.frontier import Frontier
from zesty_lever.bench.model import first_bench
from zesty_lever.bench.wish_form import WishForm
from zesty_lever.cases.model import Athlete
from zesty_lever.choosing.compare import compare, table
from zesty_lever.choosing.technique import Point, Search
from zesty_lever.joints import COACH_JOINTS
from zesty_lever.wording.lineup_table import ORDER, TIPS, quantities, table_columns
from zesty_lever.wording.sentences import technique_sentences


def test_the_form_makes_the_wish():
    form = WishForm().changed(
        want={"knee": 100, "back": -50, "hip": 0},
        ceilings={"knee": 60.0, "hip": 0.0},
        lift="front-squat",
        direction="lateral",
        missing=("rack", "bench"),
        goal=(100.0, 150.0),
    )
    wish = form.wish()
    assert wish.want == {"knee": 1.0, "back": -0.5}
    assert [(c.joint, c.share, c.lift) for c in wish.ceilings] == [("knee", 0.6, "front-squat")]
    assert wish.directions == {"lateral"}
    assert wish.goal == (100.0, 150.0)
    assert "kettlebell" in wish.equipment
    assert not {"rack", "bench"} & wish.equipment
    assert WishForm().wish().equipment is None


def test_todays_ankle_is_both_ankles():
    """What was measured side by side gives way to what the ankle has today; the rest stays."""
    athlete = Athlete(
        height_m=1.7,
        mass_kg=66.0,
        sex="female",
        limits_deg={"ankle_dorsiflexion_left": 30.0, "hip_flexion": 110.0},
    )
    today = WishForm(ranges_deg={"ankle_dorsiflexion": 22.0, "hip_flexion": 0.0})
    assert today.athlete_today(athlete).limits_deg == {
        "ankle_dorsiflexion": 22.0,
        "hip_flexion": 110.0,
    }
    assert WishForm().athlete_today(athlete) is athlete


@pytest.fixture(scope="module")
def frontier():
    about = analyse(case_of(frames="none"))
    points = [
        Point({"shin_deg": shin, "stance_m": 0.4, "not_here": 1.0}, dict(about.peaks))
        for shin in (24.0, 26.0, 28.0, 30.0)
    ]
    return Frontier.of(about, Search(points[2], points[3], tuple(points[:2]), 100))


def test_a_frontier_starts_with_the_best_and_goes_round(frontier):
    assert frontier.point is frontier.found.best
    assert frontier.choose(frontier.chosen + 1).point is frontier.found.start
    assert frontier.choose(len(frontier.points)).chosen == 0
    assert frontier.choose(-1).point is frontier.found.start


def test_a_technique_opens_on_its_own_variation(frontier):
    """Only settings that the variation has; what else is set on the bench stays."""
    assert frontier.settings() == {"shin_deg": 28.0, "stance_m": 0.4}
    here = frontier.about.case.setup.changed(settings={"toe_out_deg": 10.0, "shin_deg": 20.0})
    opened = frontier.setup_on(here)
    assert opened.settings == {"toe_out_deg": 10.0, "shin_deg": 28.0, "stance_m": 0.4}
    other = frontier.setup_on(here.changed(variation="hip-thrust", settings={}))
    assert other.variation == frontier.about.case.variation
    words = technique_sentences(frontier, frontier.result())
    assert "Stance width: 40 cm" in words
    assert "solved" in words


def test_a_line_up_s_table_is_plain_text():
    """Baseline first, then judged differences; a set-up that can't be done says so and costs nothing else."""
    bench = first_bench()
    for slot in (0, 1):
        bench = edits.line_up(bench, slot)
    bench = edits.line_up(bench, 0, bench.setups[0].changed(settings={"stance_m": 1.1}))
    bench = edits.note_in_lineup(edits.pin_in_lineup(bench, 0), 1, "felt easy")
    cases = [(str(i + 1), bench.entry_case(e)) for i, e in enumerate(bench.lineup)]
    compared = compare(cases, None, bench.rules)
    joints = [group.shown for group in COACH_JOINTS]
    found = table(compared, 200, bench.sizes, joints, lambda _: None, others=True)
    columns = table_columns(compared, found, bench)
    assert quantities(columns) == [q for q in ORDER if any(q in c for c in columns)]
    first, second, third = columns
    assert first["Load"].endswith("pinned")
    assert first["Knee, N·m"].endswith("baseline")
    assert "as done" in second["Knee, N·m"]
    assert second["Note"] == "felt easy"
    assert third["Knee, N·m"] == "not possible"
    assert "Shear, kN" not in third
    assert set(TIPS) < set(ORDER)
