"""The shortlist in the real window."""

import numpy as np
import pytest
from hands import click, settle
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest

from zesty_lever.cases.model import Setup
from zesty_lever.choosing import shortlist as shortlists
from zesty_lever.choosing.shortlist import Option, RuledOut
from zesty_lever.ui.kit.plot import nearest
from zesty_lever.ui.shortlist.demand_map import PICK_PX
from zesty_lever.wording.units import UNITS


@pytest.fixture(autouse=True)
def metric():
    UNITS.imperial = False
    yield


def test_the_shortlist_follows_the_wish(window):
    """Sliders, a ceiling and missing equipment re-rank; map and list choose together; the choice goes to
    the bench with its load."""
    screen = window.screen_named("Shortlist")
    settle(window, lambda: screen.options)
    first = screen.options[0].variation
    for slider in screen.want.values():
        slider.setValue(0)
    screen.want["lockout"].setValue(100)
    settle(window, lambda: screen.options[0].variation != first)
    assert "lockout" in screen.options[0].reason
    screen.equipment.menu().popup(
        screen.equipment.mapToGlobal(screen.equipment.rect().bottomLeft())
    )
    for kind in ("bench", "rack"):
        box = screen.equipment.kinds[kind]
        QTest.mouseClick(box, Qt.MouseButton.LeftButton, pos=QPoint(8, box.height() // 2))
    screen.equipment.menu().close()
    assert window.session.bench.gym_missing == ("bench", "rack")
    assert screen.equipment.text() == "Equipment: without bench, rack ▾"
    settle(
        window,
        lambda: any(
            isinstance(o, RuledOut) and "needs" in o.why and "bench" in o.why
            for o in screen.options
        ),
    )
    able = [o for o in screen.options if isinstance(o, Option)]
    spot = screen.picture.axes().at(able[2].peaks["knee"], able[2].peaks["hip"]).toPoint()
    QTest.mouseClick(screen.picture, Qt.MouseButton.LeftButton, pos=spot)
    chosen = screen.chosen()
    gap = np.hypot(
        chosen.peaks["knee"] - able[2].peaks["knee"], chosen.peaks["hip"] - able[2].peaks["hip"]
    )
    assert gap < 8.0  # dots may lie over each other
    click(screen, "To the bench")
    assert window.session.setup.variation == chosen.variation
    assert window.session.setup.load_kg == pytest.approx(chosen.load_kg)
    assert window.session.result.peaks["hip"] == pytest.approx(chosen.peaks["hip"], abs=0.1)


def test_a_goal_is_dragged_on_the_map(window):
    """The cross dragged to a demand orders the list by nearness; Delete takes it away."""
    screen = window.screen_named("Shortlist")
    settle(window, lambda: screen.options)
    for slider in screen.want.values():
        slider.setValue(0)
    view = screen.picture
    spot = view.axes().at(20.0, 195.0).toPoint()
    for _ in range(40):
        dots = [view.axes().at(o.peaks["knee"], o.peaks["hip"]) for o in view.able]
        if nearest(dots, spot.toPointF(), PICK_PX) is None:
            break
        spot += QPoint(3, 2)
    QTest.mousePress(view, Qt.MouseButton.LeftButton, pos=spot)
    QTest.mouseRelease(view, Qt.MouseButton.LeftButton, pos=spot)
    goal = view.goal
    settle(
        window,
        lambda: (
            screen.options
            and screen.options[0].score <= 0
            and screen.form().goal == goal
            and screen.options[0].score > screen.options[5].score
        ),
    )
    able = [o for o in screen.options if isinstance(o, Option)]
    away = [np.hypot(o.peaks["knee"] - goal[0], o.peaks["hip"] - goal[1]) for o in able]
    assert away[0] < away[8]
    view.setFocus()
    QTest.keyClick(view, Qt.Key.Key_Delete)
    assert screen.form().goal is None


def test_substitutes_and_the_week(window):
    """Both lists come through the same screen."""
    screen = window.screen_named("Shortlist")
    settle(window, lambda: screen.options)
    screen.mode.setCurrentIndex(1)
    screen.mode.activated.emit(1)
    settle(
        window,
        lambda: screen.options and "against the high-bar back squat" in screen.options[0].reason,
    )
    screen.mode.setCurrentIndex(2)
    screen.mode.activated.emit(2)
    settle(window, lambda: screen.options and len(screen.options) <= 7)


def test_slow_work_can_be_stopped(window):
    """The bar and the Stop button come after a moment; stopping keeps what is there and asks nothing more."""
    screen = window.screen_named("Shortlist")
    settle(window, lambda: screen.options and not screen.waiting.busy)
    before = list(screen.options)
    # What is kept of the lifts would make the next list a matter of a moment.
    shortlists._READY.clear()
    shortlists._SPANS.clear()
    screen.want["hip"].setValue(100)
    settle(window, screen.waiting.stop_button.isVisible)
    click(screen, "Stop")
    assert not screen.waiting.busy
    QTest.qWait(2500)
    assert screen.options == before


def test_a_stiff_hip_today_holds_the_depth_back(window):
    """Typed for today only: the list says how deep, the bench gets that depth, and the athlete stays as measured."""
    screen = window.screen_named("Shortlist")
    settle(window, lambda: screen.options)
    before = sum(bool(o.settings) for o in screen.options if isinstance(o, Option))
    screen.ranges["hip_flexion"].setValue(105)
    settle(
        window,
        lambda: sum(bool(o.settings) for o in screen.options if isinstance(o, Option)) > before + 5,
    )
    row = next(
        i
        for i, o in enumerate(screen.options)
        if isinstance(o, Option) and "thigh_deg" in o.settings
    )
    assert "only to thigh" in screen.list.item(row).text()
    screen.list.setCurrentRow(row)
    screen.to_bench()
    setup = window.session.setup
    assert setup.settings == dict(screen.options[row].settings)
    assert setup.variation == screen.options[row].variation
    assert "hip_flexion" not in window.session.bench.athlete.limits_deg or (
        window.session.bench.athlete.limits_deg["hip_flexion"] != 105
    )


def test_ceilings_are_shaded_on_the_map(window):
    """A knee limit: known in N m, and the map is painted differently."""
    screen = window.screen_named("Shortlist")
    settle(window, lambda: screen.options)
    plain = screen.picture.grab().toImage()
    screen.ceilings["knee"].setValue(50)
    settle(window, lambda: "knee" in screen.picture.limits)
    assert all(
        o.peaks["knee"] <= screen.picture.limits["knee"] + 1
        for o in screen.options
        if isinstance(o, Option)
    )
    assert screen.picture.grab().toImage() != plain


def test_instead_of_a_pose_that_can_t_be_done_there_is_a_sentence(window):
    said = []
    window.session.announced.connect(said.append)
    impossible = Setup(
        variation="back-squat-high-bar",
        load_kg=60.0,
        settings={"shin_deg": 0.0, "thigh_deg": -20.0},
    )
    screen = window.screen_named("Shortlist")
    window.session.instead_asked.emit(impossible, ("knee",))
    assert window.session.results[0].error is not None
    assert said[-1].startswith("No substitutes: ")
    assert screen.mode.currentIndex() == 0 and screen.ceilings["knee"].value() == 0
