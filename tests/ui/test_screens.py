"""The athlete screen, the catalogue panel, the front view, rep controls, loads and output."""

import json

import pytest
from PySide6.QtCore import QMimeData, QPointF, Qt, QUrl
from PySide6.QtGui import QDropEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QPushButton

from zesty_lever.bench import edits
from zesty_lever.bench.files import read_any, read_bench
from zesty_lever.exercises.catalogue import catalogue
from zesty_lever.ui.output import print_picture, printer_for, recorded, save_picture
from zesty_lever.wording.units import UNITS, parse_quantity


@pytest.fixture(autouse=True)
def metric():
    UNITS.imperial = False
    yield
    UNITS.imperial = False


def type_into(spin, text):
    spin.setFocus()
    spin.selectAll()
    QTest.keyClicks(spin, text)
    QTest.keyClick(spin, Qt.Key.Key_Return)
    QApplication.processEvents()


def click(widget):
    QTest.mouseClick(widget, Qt.MouseButton.LeftButton)
    QApplication.processEvents()


@pytest.mark.parametrize(
    ("text", "unit", "value"),
    [
        ("40", "m", 0.40),
        ("40,5 cm", "m", 0.405),
        ("16 in", "m", 0.4064),
        ("0.4 m", "m", 0.4),
        ("135 lb", "kg", 61.235),
        ("-3,5", "deg", -3.5),
        ("12 stone", "kg", None),
        ("abc", "m", None),
        ("50 %", "", 0.5),
    ],
)
def test_numbers_are_read_as_people_type_them(text, unit, value):
    """Decimal comma or point, with or without a unit, whatever is shown."""
    found = parse_quantity(text, unit)
    assert found is None if value is None else found == pytest.approx(value, rel=1e-4)


def test_a_coach_sets_up_a_new_athlete(window):
    """Athlete screen by keyboard: new, name, height in inches, a measured shin, ankle by the wall, a best
    load from a set of five, a sore knee. All of it can be undone."""
    QTest.keyClick(window, Qt.Key.Key_1, Qt.KeyboardModifier.ControlModifier)
    screen = window.screen_named("Athlete")
    session = window.session
    click(next(b for b in screen.who.findChildren(QPushButton) if b.text() == "New"))
    screen.who.name.setFocus()
    screen.who.name.selectAll()
    QTest.keyClicks(screen.who.name, "Ilse Marr")
    QTest.keyClick(screen.who.name, Qt.Key.Key_Return)
    type_into(screen.base["height_m"].spin, "66,5 in")
    row, source = screen.lengths["shank"]
    type_into(row.spin, "43")
    type_into(screen.wall, "9")
    type_into(screen.bests.done.spin, "100")
    screen.bests.reps.setValue(5)
    click(next(b for b in screen.findChildren(QPushButton) if b.text() == "Keep"))
    screen.place.setCurrentText("knee")
    QTest.keyClicks(screen.note, "after running")
    click(next(b for b in screen.findChildren(QPushButton) if b.text() == "Add"))
    athlete = session.bench.athlete
    assert athlete.name == "Ilse Marr"
    assert athlete.height_m == pytest.approx(1.689, abs=2e-3)
    assert athlete.lengths_m["shank"] == pytest.approx(0.43)
    assert source.text() == "measured"
    assert athlete.limits_deg["ankle_dorsiflexion"] == pytest.approx(32.4, abs=0.1)
    # The set is kept as it was done; what it is worth is worked out by use, not by the bar.
    (best,) = athlete.bests
    assert (best.variation, best.load_kg, best.reps, best.at_least) == (
        "back-squat-high-bar",
        100.0,
        5,
        False,
    )
    assert (athlete.sore[0].place, athlete.sore[0].note) == ("knee", "after running")
    click(source)
    assert "shank" not in session.bench.athlete.lengths_m
    steps = session.history.index()
    for _ in range(steps):
        session.history.undo()
    assert len(session.bench.athletes) == 2


def test_athletes_travel_as_files(window, tmp_path):
    """Export, remove, import again: the same athlete; a spoilt file is told and changes nothing."""
    screen = window.screen_named("Athlete")
    before = window.session.bench.athlete
    screen.who.save_file(tmp_path / "a.json")
    window.session.do(edits.remove_athlete)
    assert before not in window.session.bench.athletes
    screen.who.open_file(tmp_path / "a.json")
    assert window.session.bench.athlete == before
    (tmp_path / "b.json").write_text(
        '{"format": "zesty-lever-athlete/1", "athlete": {"height_m": 9}}'
    )
    screen.who.open_file(tmp_path / "b.json")
    assert "not taken in" in screen.who.said.text()
    assert window.session.bench.athlete == before


def test_units_switch_everywhere(window):
    """Inches and pounds on every row, the same values underneath; typed pounds are kept as kilograms."""
    panel, session = window.bench.panel, window.session
    QTest.keyClick(window, Qt.Key.Key_U, Qt.KeyboardModifier.ControlModifier)
    assert panel.load_row.spin.suffix() == " lb"
    assert panel.load_row.spin.value() == pytest.approx(55 / 0.45359237, abs=0.06)
    assert session.result.case.load_kg == pytest.approx(55.0)
    type_into(panel.load_row.spin, "135")
    assert session.result.case.load_kg == pytest.approx(61.235, abs=0.01)
    type_into(panel.rows["stance_m"].spin, "16")
    assert session.result.case.settings["stance_m"] == pytest.approx(0.4064, abs=1e-4)
    QTest.keyClick(window, Qt.Key.Key_U, Qt.KeyboardModifier.ControlModifier)
    assert panel.rows["stance_m"].spin.value() == pytest.approx(40.6)


def test_the_catalogue_panel_finds_and_picks(window):
    """Ctrl+F, type two words, arrows, Enter; filters narrow; Esc closes; nothing found is said."""
    QTest.keyClick(window, Qt.Key.Key_F, Qt.KeyboardModifier.ControlModifier)
    finder = window.bench.catalogue
    assert finder.isVisible()
    QTest.keyClicks(finder.search, "band hinge")
    names = [
        finder.found.item(i).data(Qt.ItemDataRole.UserRole) for i in range(finder.found.count())
    ]
    assert names == ["band-hinge", "tall-kneeling-band-hinge"]
    QTest.keyClick(finder.search, Qt.Key.Key_Down)
    QTest.keyClick(finder.search, Qt.Key.Key_Return)
    assert window.session.setup.variation == "tall-kneeling-band-hinge"
    assert not finder.isVisible()
    finder.open()
    finder.direction.setCurrentIndex(finder.direction.findData("lateral"))
    assert {
        finder.found.item(i).data(Qt.ItemDataRole.UserRole) for i in range(finder.found.count())
    } == {v.id for v in catalogue().values() if v.direction == "lateral"}
    QTest.keyClicks(finder.search, "zzz")
    assert finder.found.count() == 0
    assert "Nothing has all of that" in finder.count.text()
    QTest.keyClick(finder, Qt.Key.Key_Escape)
    assert not finder.isVisible()


def pull(view, grip, dx, dy):
    start = grip.at.toPoint()
    QTest.mousePress(view, Qt.MouseButton.LeftButton, pos=start)
    fresh = next(g for g in view.grips() if g.key == grip.key)
    for step in range(1, 5):
        QTest.mouseMove(view, (fresh.at + QPointF(dx, dy) * step / 4).toPoint())
    QTest.mouseRelease(view, Qt.MouseButton.LeftButton, pos=(fresh.at + QPointF(dx, dy)).toPoint())
    QApplication.processEvents()


@pytest.mark.parametrize(
    ("key", "dx", "dy", "more"),
    [
        ("stance_m", -20, 0, True),
        ("toe_out_deg", -25, 0, True),
        ("knee_track_m", 12, 0, False),
    ],
)
def test_foot_and_knee_are_dragged_in_the_front_view(window, key, dx, dy, more):
    """Heel outward: wider; toe outward: more toe-out; knee inward: caving. One undo step each."""
    window.bench.show_side(1)
    QApplication.processEvents()
    view, session = window.bench.front, window.session
    before = session.result.case.settings[key]
    pull(view, next(g for g in view.grips() if g.key == key), dx, dy)
    after = session.result.case.settings[key]
    assert (after > before + 1e-3) == more
    assert (after < before - 1e-3) == (not more)
    session.history.undo()
    assert session.result.case.settings[key] == pytest.approx(before)
    view.setFocus()
    QTest.keyClick(view, Qt.Key.Key_Left)
    assert session.history.index() == 1


def test_rep_controls_change_the_rep(window):
    """Tempo, inertia, quarter reps and partial range through the controls; playing moves on."""
    controls, session = window.bench.controls, window.session
    controls.tempo[0].setValue(3.0)
    assert session.setup.tempo_s[0] == 3.0
    click(controls.dynamic)
    assert session.result.case.mode == "dynamic"
    next(a for a, v in controls._actions["style"] if v == "one-and-a-quarter").trigger()
    assert len(session.result.timeline.moves) == 4
    next(a for a, v in controls._actions["travel"] if v == (0.0, 0.5)).trigger()
    assert session.result.timeline.progress.max() == pytest.approx(0.5)
    session.set_moment(0)
    QTest.keyClick(window, Qt.Key.Key_P)
    QTest.qWait(400)
    assert session.moment > 0
    QTest.keyClick(window, Qt.Key.Key_P)
    stopped = session.moment
    QTest.qWait(80)
    assert session.moment == stopped


def test_loads_are_added_changed_and_removed(window):
    """Another load up, a vest, a partner's push: each shows, counts, can be changed and taken off."""
    editor, session = window.bench.panel.loads, window.session
    assert "15 + 2.5 a side" in editor.discs.text()
    click(editor.differs)
    type_into(editor.up_row.spin, "70")
    assert session.setup.load_up_kg == pytest.approx(70.0)
    before = session.result.summary["knee_right"].peak_Nm
    next(a for a in editor.add.menu().actions() if "Vest" in a.text()).trigger()
    assert session.result.shown.pose.load_names[-1] == "vest"
    assert session.result.summary["knee_right"].peak_Nm > before
    row = editor.rows[0][2]
    type_into(row.spin, "20")
    assert session.setup.loads[0].mass_kg == pytest.approx(20.0)
    next(a for a in editor.add.menu().actions() if "Partner" in a.text()).trigger()
    assert len(session.setup.loads) == 2
    editor._remove(0)
    assert [load.name for load in session.setup.loads] == ["partner"]
    session.history.undo()
    assert len(session.setup.loads) == 2


@pytest.mark.parametrize("ending", ["png", "svg", "pdf"])
def test_pictures_leave_the_window(window, tmp_path, ending):
    """Saved files have content of their kind; a wrong ending or folder is said, nothing is written."""
    target = tmp_path / f"levers.{ending}"
    window.papers.save_picture(target)
    head = target.read_bytes()[:200]
    assert {"png": b"PNG", "svg": b"<?xml", "pdf": b"%PDF"}[ending] in head
    assert target.stat().st_size > 5000
    window.papers.save_picture(tmp_path / "levers.doc")
    assert "ends in .png, .svg or .pdf" in window.message.text()
    with pytest.raises(FileNotFoundError):
        save_picture(recorded(window.papers.pictured()), "Demo", tmp_path / "no" / "x.png")
    window.papers.copy_picture()
    assert not QApplication.clipboard().pixmap().isNull()


@pytest.mark.parametrize("paper", ["A4", "Letter"])
def test_one_page_of_paper(window, tmp_path, paper):
    """Printing makes one landscape page of that paper."""
    printer = printer_for(paper)
    printer.setOutputFileName(str(tmp_path / "page.pdf"))
    print_picture(printer, recorded(window.papers.pictured()), "Demo")
    data = (tmp_path / "page.pdf").read_bytes()
    assert data.count(b"/Type /Page\n") == 1
    wide = {"A4": 842, "Letter": 792}[paper]
    assert f"{wide}".encode() in data


def test_files_are_dropped_and_opened(window, tmp_path):
    """A case dropped on the window comes to the bench; a bad one is told and changes nothing."""
    window.papers.save_case(tmp_path / "case.json")
    case = json.loads((tmp_path / "case.json").read_text())
    case["variation"], case["settings"], case["load_kg"] = "goblet-squat", {}, 16
    case["athlete"]["name"] = "Somebody else"
    (tmp_path / "other.json").write_text(json.dumps(case))
    mime = QMimeData()
    mime.setUrls([QUrl.fromLocalFile(str(tmp_path / "other.json"))])
    event = QDropEvent(
        QPointF(400, 300),
        Qt.DropAction.CopyAction,
        mime,
        Qt.MouseButton.LeftButton,
        Qt.KeyboardModifier.NoModifier,
    )
    window.dropEvent(event)
    assert window.session.setup.variation == "goblet-squat"
    assert window.session.bench.athlete.name == "Somebody else"
    assert read_any(tmp_path / "other.json").variation == "goblet-squat"
    (tmp_path / "bad.json").write_text('{"format": "zesty-lever-case/1"}')
    window.papers.open_file(tmp_path / "bad.json")
    assert "not opened" in window.message.text()
    assert window.session.setup.variation == "goblet-squat"


def test_what_is_drawn_can_be_switched(window):
    """Without levers the figure's picture has no lever colours left in the margin chips."""
    figure = window.bench.figure
    with_levers = figure.grab().toImage()
    figure.show_layer("levers", on=False)
    figure.show_layer("steps", on=True)
    figure.show_layer("forces", on=True)
    without = figure.grab().toImage()
    assert with_levers != without
    assert {"levers"} & figure.layers == set()


def test_bar_and_discs_are_picked_from_what_the_gym_has(window, tmp_path):
    """More discs a side make the load; fewer pairs in the gym make another loading, on the card too; the nearest load
    is taken; all is kept in the file, and undone step by step."""
    session, editor = window.session, window.bench.panel.loads
    pick = editor.pick
    session.do(edits.change_setup, "load", load_kg=60.0)
    pick.show_values()
    assert pick.side[20.0].value() == 1 and "20 kg bar, 20 a side" in editor.discs.text()
    pick.side[5.0].setValue(1)
    assert session.setup.load_kg == 70.0
    pick.pairs[20.0].setValue(0)
    pick.pairs[25.0].setValue(0)
    assert "15 + 10 a side" in editor.discs.text()
    card = window.screen_named("Set-up card").picture.card
    assert card.loading.side == (15.0, 10.0)
    pick.pairs[15.0].setValue(0)
    assert "makes" in editor.discs.text() and "the nearest" in editor.discs.text()
    assert "asked for 70" in pick.makes.text()
    next(b for b in pick.body.findChildren(QPushButton) if "nearest" in b.text()).click()
    assert session.setup.load_kg == pytest.approx(20 + 2 * (10 + 5 + 2.5 + 1.25))
    assert "10 + 5 + 2.5 + 1.25 a side" in editor.discs.text()
    pick.bar.setCurrentIndex(pick.bar.findData("10 kg bar"))
    pick.bar.activated.emit(pick.bar.currentIndex())
    assert "10 kg bar" in editor.discs.text()
    pick.has["10 kg bar"].click()
    QApplication.processEvents()
    assert "10 kg bar" not in editor.discs.text() and session.bench.gym.bar == ""
    session.save()
    kept = read_bench(session._autosave)
    assert kept.gym == session.bench.gym
    while session.history.canUndo():
        session.history.undo()
    assert session.bench.gym.pairs[20.0] == 2
    session.do(edits.set_variation, "goblet-squat")
    assert pick.isHidden()


def test_each_measure_shows_where_its_tape_lies(window):
    """Going to a row says how it is taken, and the tape appears on the body between the places that it names."""
    screen = window.screen_named("Athlete")
    plain = screen.picture.grab().toImage()
    for name, (row, _) in screen.lengths.items():
        row.spin.setFocus(Qt.FocusReason.TabFocusReason)
        QApplication.processEvents()
        assert screen.picture.guided == name
        assert screen.picture.words.split(":")[0] in row.spin.accessibleName()
        assert len(screen.picture.accessibleDescription()) > 20
    screen.lengths["forearm"][0].spin.setFocus()
    assert screen.picture.grab().toImage() != plain
