"""The line-up in the real window."""

import csv
import json

import pytest
from hands import click, settle
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from zesty_lever.analysis import analyse
from zesty_lever.bench import edits
from zesty_lever.bench.files import read_bench
from zesty_lever.choosing.compare import Compared
from zesty_lever.coaching.gym import at_hand_kg
from zesty_lever.joints import KNEE
from zesty_lever.wording.units import UNITS


@pytest.fixture(autouse=True)
def metric():
    UNITS.imperial = False
    yield


@pytest.fixture
def lineup(window):
    """Back squat, front squat and split squat lined up, worked out."""
    session = window.session
    screen = window.screen_named("Line-up")
    click(screen, "Add A")
    click(screen, "Add B")
    session.do(edits.set_variation, "split-squat")
    session.do(edits.line_up, 0)
    settle(window, lambda: len(screen.picture.compared) == 3 and screen.table.columnCount() == 3)
    return screen


def test_three_set_ups_side_by_side_with_intervals(window, lineup, tmp_path):
    """Every number has its interval, every difference its judgement; the same in the CSV and on the
    clipboard; undo takes the last one off."""
    cells = [lineup.table.cell("Hip, N·m", n) for n in range(3)]
    assert all("(" in cell and "\N{NO-BREAK SPACE}to\N{NO-BREAK SPACE}" in cell for cell in cells)
    assert cells[0].splitlines()[-1] == "baseline"
    assert cells[1].splitlines()[1].split(" ")[0].rstrip(",") in {"more", "less", "about", "open"}
    assert cells[1].splitlines()[2].startswith("as done ")
    assert "as done" not in cells[0]
    for name in (
        "Compression, kN",
        "Shear, kN",
        "Knee : hip",
        "Hip in all, N·m",
        "Hip sideways, N·m",
    ):
        assert all("(" in lineup.table.cell(name, n) for n in range(3)), name
        words = lineup.table.cell(name, 1).splitlines()[-1].split(" ")[0].rstrip(",")
        assert words in {"more", "less", "about", "open"}
    over = ("Hip hardest at", "Lockout : peak", "Hip impulse, N·m·s")
    settle(window, lambda: all("(" in lineup.table.cell(over[0], n) for n in range(3)))
    assert all("(" in lineup.table.cell(name, n) for name in over for n in range(3))
    assert all(" % (" in lineup.table.cell("Use", n) for n in range(3))
    first = lineup.picture.compared[0].result
    assert cells[0].startswith(f"{first.summary['hip_right'].peak_Nm:.0f}")
    lineup.save_csv(tmp_path / "l.csv")
    rows = list(csv.DictReader((tmp_path / "l.csv").read_text().splitlines()))
    hip = next(r for r in rows if r["case"] == "1" and r["joint"] == "hip_right")
    assert float(hip["peak_low_Nm"]) < float(hip["peak_Nm"]) < float(hip["peak_high_Nm"])
    lineup.copy_table()
    assert QApplication.clipboard().text().count("\t") > 20
    assert lineup.table.quantities[-3:] == ["Front share", "Athlete", "Note"]
    for kind in ("png", "svg", "pdf"):
        window.papers.save_picture(tmp_path / f"l.{kind}")
        assert (tmp_path / f"l.{kind}").stat().st_size > 10_000
    drawn = (tmp_path / "l.svg").read_text()
    assert "Front squat" in drawn and "as done" in drawn and "over range" in drawn
    window.session.history.undo()
    settle(window, lambda: lineup.table.columnCount() == 2)


def test_equal_demand_is_matched_and_holds_when_solved_again(window, lineup):
    """Equal peak at the knee: every set-up's load is solved with the pose re-balanced."""
    before = [c.case.load_kg for c in lineup.picture.compared]
    lineup.match.setCurrentIndex(lineup.match.findData("equal:knee"))
    lineup.match.activated.emit(lineup.match.currentIndex())
    settle(window, lambda: [c.case.load_kg for c in lineup.picture.compared] != before)
    base = lineup.picture.compared[0].result
    matched = [c for c in lineup.picture.compared[1:] if isinstance(c, Compared)]
    assert matched
    for item in matched:
        assert analyse(item.case).peak(KNEE) == pytest.approx(base.peak(KNEE), abs=0.5)


def test_the_line_up_is_kept_and_moved(window, lineup, tmp_path):
    """Order, taking off, to the bench; saved with the bench and read again."""
    lineup.table.setCurrentCell(0, 2)
    click(lineup, "Move left")
    assert window.session.bench.lineup[1].variation == "split-squat"
    settle(window, lambda: lineup.table.columnCount() == 3)
    lineup.table.setCurrentCell(0, 1)
    click(lineup, "Take off")
    assert [s.variation for s in window.session.bench.lineup] == [
        "back-squat-high-bar",
        "front-squat",
    ]
    window.session.save()
    assert read_bench(tmp_path / "bench.json").lineup == window.session.bench.lineup
    settle(window, lambda: lineup.table.columnCount() == 2)
    lineup.table.setCurrentCell(0, 1)
    click(lineup, "To the bench")
    assert window.session.setup.variation == "front-squat"


def test_the_theorem_is_told_on_the_pair_at_hand(window):
    """Same legs, weight and pressure: told in the line-up."""
    window.session.do(edits.same_legs)
    screen = window.screen_named("Line-up")
    click(screen, "Add A")
    click(screen, "Add B")
    settle(window, lambda: "from the floor up" in screen.said.text())


def test_a_line_up_travels_as_a_file_with_notes_and_two_athletes(window, lineup, tmp_path):
    """A note typed into the table, the same set-up for the other athlete, saved and opened elsewhere."""
    session = window.session
    lineup.table.item(lineup.table.quantities.index("Note"), 0).setText("felt easy")
    assert session.bench.lineup[0].note == "felt easy"
    lineup.table.setCurrentCell(0, 0)
    lineup._fill_others()
    next(a for a in lineup.others.menu().actions() if "Brekk" in a.text()).trigger()
    settle(window, lambda: lineup.table.columnCount() == 4)
    names = {lineup.table.cell("Athlete", n) for n in (0, 3)}
    assert names == {"Oda Fenwick", "Torvald Brekk"}
    masses = [c.result.shown.pose.system_mass_kg()[0] for c in lineup.picture.compared]
    assert masses[3] - masses[0] == pytest.approx(91 - 64, abs=1e-6)
    lineup.save_file(tmp_path / "l.json")
    before = session.bench.lineup
    for _ in range(4):
        session.do(edits.take_off_lineup, 0)
    assert session.bench.lineup == ()
    lineup.open_file(tmp_path / "l.json")
    assert [(e.variation, e.note) for e in session.bench.lineup] == [
        (e.variation, e.note) for e in before
    ]
    (tmp_path / "bad.json").write_text('{"format": "zesty-lever-bench/1"}')
    lineup.open_file(tmp_path / "bad.json")
    assert "not opened" in lineup.said.text()
    session.do(edits.remove_athlete)
    assert len(session.bench.athletes) == 1
    assert all(e.athlete in (None, 0) for e in session.bench.lineup)


def test_better_measured_means_narrower(window, lineup):
    """Half the error of angles: a narrower interval; what to measure better is told."""

    def width():
        rows = lineup.found.rows
        row = next(r for r in rows if r.case == "1" and r.joint == "knee_right")
        return row.judged.peak.high - row.judged.peak.low

    before = width()
    assert "What to measure better first: angles" in lineup.said.text()
    lineup.errors.sizes["angle_deg"].setValue(1.0)
    settle(window, lambda: width() < 0.9 * before)
    assert window.session.bench.errors["angle_deg"] == pytest.approx(1.0)


def test_pinned_set_ups_stay_when_the_line_up_is_cleared(window, lineup, tmp_path):
    """Pin the third: it becomes the baseline, can't be taken off or moved past, and stays; a file keeps it."""
    session = window.session
    lineup.table.setCurrentCell(0, 2)
    click(lineup, "Pin")
    assert session.bench.lineup[0].variation == "split-squat"
    settle(window, lambda: "pinned" in lineup.table.cell("Load", 0))
    lineup.table.setCurrentCell(0, 1)
    click(lineup, "Move left")
    assert session.bench.lineup[0].pinned
    session.do(edits.take_off_lineup, 0)
    assert len(session.bench.lineup) == 3
    lineup.save_file(tmp_path / "pins.json")
    click(lineup, "Clear")
    assert [e.variation for e in session.bench.lineup] == ["split-squat"]
    lineup.open_file(tmp_path / "pins.json")
    assert [e.pinned for e in session.bench.lineup] == [True, False, False]
    settle(window, lambda: lineup.table.columnCount() == 3)
    QTest.mouseClick(
        lineup.picture, Qt.MouseButton.LeftButton, pos=QPoint(lineup.picture.width() - 40, 100)
    )
    assert lineup.table.chosen() == 2


def test_rules_of_thumb_are_shown_and_can_be_changed(window, lineup):
    """Typical loads from the working share and a lift's own share; a set's impulse; undo takes them back."""
    session = window.session
    lineup.match.setCurrentIndex(lineup.match.findData("typical-load"))
    lineup.match.activated.emit(lineup.match.currentIndex())
    settle(window, lambda: "kg expected" in lineup.said.text())
    best = session.bench.athlete.best_loads_kg["back-squat-high-bar"]
    lineup.typical.menu().popup(QPoint(40, 40))
    QApplication.processEvents()
    boxes = (lineup.typical.working, lineup.typical.reps, *lineup.typical.shares.values())
    assert len(boxes) == 5
    assert all(box.isVisible() for box in boxes)
    lineup.typical.menu().hide()
    assert lineup.typical.shares["front-squat"].value() == 84
    lineup.typical.working.setValue(60)
    lineup.typical.shares["front-squat"].setValue(90)
    settle(window, lambda: "60 % of 90 %" in lineup.said.text())
    assert lineup.picture.compared[1].case.load_kg == at_hand_kg(
        "front-squat", ("bar", "discs"), 0.6 * 0.9 * best
    )
    lineup.typical.reps.setValue(3)
    settle(
        window,
        lambda: (
            "a set" in lineup.table.cell("Hip impulse, N·m·s", 0) and session.bench.reps_a_set == 3
        ),
    )
    a_rep = lineup.picture.compared[0].result.summary["hip_right"].impulse_Nms
    settle(window, lambda: f"{3 * a_rep:.0f} a set" in lineup.table.cell("Hip impulse, N·m·s", 0))
    for _ in range(3):
        session.history.undo()
    assert (session.bench.working_share, session.bench.lift_shares, session.bench.reps_a_set) == (
        0.7,
        {},
        8,
    )


def test_a_line_up_file_with_something_wrong_is_refused(window, lineup, tmp_path):
    """Seven entries, an unknown way of matching, a note too long: each is named and nothing changes."""
    lineup.save_file(tmp_path / "good.json")
    before = window.session.bench
    for change, words in (
        (lambda d: d.update(entries=d["entries"] * 3), "0 to 6"),
        (lambda d: d.update(match="same-mood"), "same-mood"),
        (lambda d: d["entries"][0].update(note="n" * 121), "0 to 120"),
        (lambda d: d.update(entries=3), "entries"),
        (lambda d: d["entries"][1].update(case=[]), "case"),
    ):
        data = json.loads((tmp_path / "good.json").read_text())
        change(data)
        (tmp_path / "bad.json").write_text(json.dumps(data))
        lineup.open_file(tmp_path / "bad.json")
        assert "not opened" in lineup.said.text() and words in lineup.said.text()
        assert window.session.bench == before
    window.session.do(edits.note_in_lineup, 0, "n" * 121)
    assert window.session.bench == before


def test_two_athletes_are_told_apart_under_figures_and_in_the_legend(window, lineup):
    """With one athlete the name goes unsaid; with two it stands under every figure, in key and table."""
    alone = lineup.table.horizontalHeaderItem(0).text()
    assert "," not in alone
    lineup.table.setCurrentCell(0, 0)
    lineup._fill_others()
    other = next(a for a in lineup.others.menu().actions() if "Brekk" in a.text())
    other.trigger()
    settle(window, lambda: lineup.table.columnCount() == 4)
    names = [lineup.table.horizontalHeaderItem(c).text() for c in range(4)]
    assert names[0] == f"{alone}, {window.session.bench.athlete.name}"
    assert names[3] == f"{alone}, {other.text()}"
    assert len(set(names)) == 4
