"""First run, keeping work, help, names for all controls, and no NaN on any screen."""

import json
import os
import subprocess
import sys

import numpy as np
import pytest
from hands import painted, settle
from PySide6.QtCore import Qt
from PySide6.QtGui import QImage
from PySide6.QtTest import QTest
from PySide6.QtWidgets import (
    QAbstractButton,
    QAbstractSlider,
    QAbstractSpinBox,
    QApplication,
    QComboBox,
    QLineEdit,
    QListWidget,
    QPushButton,
    QScrollBar,
    QToolButton,
    QWidget,
)

from zesty_lever.bench import edits
from zesty_lever.bench.model import first_bench
from zesty_lever.exercises.catalogue import catalogue
from zesty_lever.ui import app as application
from zesty_lever.ui.kit.theme import DARK, LIGHT
from zesty_lever.ui.memory import WindowMemory
from zesty_lever.ui.session import Session
from zesty_lever.ui.window import SCREENS, Window
from zesty_lever.wording.units import UNITS


def test_work_is_kept_and_a_spoilt_file_is_put_aside(window, tmp_path):
    """Autosave writes what is on the bench; an unreadable file is renamed, never written over."""
    window.session.do(edits.set_setting, "stance_m", 0.44)
    window.close()
    again, complaint, _ = application.open_own_bench(tmp_path / "bench.json")
    assert complaint == ""
    assert again == window.session.bench
    own = tmp_path / "spoilt" / "bench.json"
    own.parent.mkdir()
    for content in (b"{", b"\xff\xfe", b'{"format": 1}'):
        own.write_bytes(content)
        bench, complaint, _ = application.open_own_bench(own)
        assert bench == first_bench()
        assert "could not be read" in complaint
        assert not own.exists()
    kept = sorted(p.read_bytes() for p in own.parent.iterdir())
    assert len(kept) == 3


def test_everything_can_be_reached_and_named(window):
    """All controls take focus and have a name or words; handles are at least 32 px; tips are there."""
    for knob in window.bench.figure.handles:
        assert min(knob.width(), knob.height()) >= 32
        assert knob.focusPolicy() == Qt.FocusPolicy.StrongFocus
        assert knob.accessibleName()
    for kind in (QAbstractSpinBox, QComboBox, QPushButton, QToolButton):
        for widget in window.findChildren(kind):
            if widget.isVisible():
                words = getattr(widget, "text", str)() if kind in (QPushButton, QToolButton) else ""
                assert widget.accessibleName() or words, widget
                assert (
                    widget.toolTip() or widget.parentWidget().toolTip() or kind is QAbstractSpinBox
                )
                assert widget.focusPolicy() != Qt.FocusPolicy.NoFocus


def test_help_about_and_theme(window):
    """F1 and About open sheets that do not block; About holds the cautions; Ctrl+D turns dark."""
    QTest.keyClick(window, Qt.Key.Key_F1)
    view = next(b for b in window.findChildren(QToolButton) if b.text() == "View ▾")
    about = next(a for a in view.menu().actions() if a.text().startswith("About"))
    about.trigger()
    sheets = [w for w in QApplication.topLevelWidgets() if w.isVisible() and w is not window]
    assert {s.windowTitle() for s in sheets} >= {"Keys and terms", "About Zesty Lever"}
    text = " ".join(
        label.text() for s in sheets for label in s.findChildren(QWidget) if hasattr(label, "text")
    )
    assert "Stop at pain" in text
    for sheet in sheets:
        sheet.close()
    light = painted(window).pixelColor(5, 60)
    QTest.keyClick(window, Qt.Key.Key_D, Qt.KeyboardModifier.ControlModifier)
    assert window.theme.name == "dark"
    assert painted(window).pixelColor(5, 60).lightness() < light.lightness() - 100


def test_no_number_on_screen_is_nan(window):
    """Through odd places of the settings: whatever comes, no NaN reaches the words."""
    session = window.session
    random = np.random.default_rng(3)
    settings = catalogue()["back-squat-high-bar"].settings
    for _ in range(60):
        key = random.choice(list(settings))
        setting = settings[key]
        session.do(edits.set_setting, str(key), float(random.uniform(setting.low, setting.high)))
        QApplication.processEvents()
        words = window.bench.demand.board.spoken() + window.bench.demand.said.text()
        words += window.bench.demand.back.text() + (
            session.result.error.text if session.result.error else ""
        )
        assert "nan" not in words.lower()
        for row in window.bench.panel.rows.values():
            assert "nan" not in row.spin.text().lower()


def test_demo_without_a_display_saves_a_picture(tmp_path):
    """As a new user on a machine without a screen: says so, saves, says where, exits 0."""
    hidden = ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM")
    environment = {k: v for k, v in os.environ.items() if k not in hidden}
    done = subprocess.run(
        [sys.executable, "-m", "zesty_lever", "--demo"],
        cwd=tmp_path,
        env=environment,
        capture_output=True,
        text=True,
        check=False,
    )
    assert done.returncode == 0, done.stderr
    picture = tmp_path / "zesty-lever-window.png"
    assert "No display" in done.stdout
    assert str(picture) in done.stdout
    image = QImage(str(picture))
    assert (image.width(), image.height()) == (1280, 800)


@pytest.mark.parametrize("key", [Qt.Key.Key_Space, Qt.Key.Key_Return, Qt.Key.Key_Escape])
def test_a_new_user_has_a_comparison_in_a_few_keys(qtbot, tmp_path, key):
    """No demo, no mouse: cautions put away, height, mass and sex typed, a comparison stands."""
    application.application()
    memory = WindowMemory(tmp_path / "window.json")
    made = Window(Session(first_bench(), tmp_path / "bench.json"), memory, "Zesty Lever")
    qtbot.addWidget(made)
    made.show()
    qtbot.waitExposed(made)
    assert made.notice.isVisible()
    assert made.notice.button.hasFocus() or not made.isActiveWindow()
    made.notice.button.setFocus()
    QTest.keyClick(made.notice.button, key)
    assert not made.notice.isVisible()
    assert json.loads((tmp_path / "window.json").read_text())["cautions_seen"] is True
    panel = made.bench.panel
    before = made.bench.demand.said.text()
    for row, typed in ((panel.height_row, "162"), (panel.mass_row, "58")):
        row.spin.setFocus()
        row.spin.selectAll()
        QTest.keyClicks(row.spin, typed)
        QTest.keyClick(row.spin, Qt.Key.Key_Return)
    QTest.keyClick(panel.sexes["female"], Qt.Key.Key_Space)
    athlete = made.session.bench.athlete
    assert (athlete.height_m, athlete.mass_kg, athlete.sex) == (1.62, 58.0, "female")
    assert panel.thigh_source.text() == "estimated"
    assert "B against A" in made.bench.demand.said.text()
    assert "%" in made.bench.demand.said.text()
    assert before
    assert all(r.feasible for r in made.session.results)


def test_the_screen_and_the_moment_are_remembered(qtbot, tmp_path, window):
    """Closed on the line-up with another moment shown; the next window opens there. A spoilt memory is
    passed over."""
    window.session.set_moment(9)
    tab = [window.rail.tabText(i) for i in range(window.rail.count())].index("Line-up")
    spot = window.rail.tabRect(tab).center()
    QTest.mouseClick(window.rail, Qt.MouseButton.LeftButton, pos=spot)
    window.close()
    kept = json.loads((tmp_path / "window.json").read_text())
    again = Window(
        Session(window.session.bench), WindowMemory(tmp_path / "window.json"), "Zesty Lever"
    )
    qtbot.addWidget(again)
    assert again.screens.currentWidget() is again.screen_named("Line-up")
    assert again.session.moment == 9
    spoilt = {**kept, "screen": "Nowhere", "moment": "late", "geometry": 5}
    (tmp_path / "window.json").write_text(json.dumps(spoilt))
    plain = Window(
        Session(window.session.bench), WindowMemory(tmp_path / "window.json"), "Zesty Lever"
    )
    qtbot.addWidget(plain)
    assert plain.screens.currentWidget() is plain.screen_named("Bench")
    assert plain.session.moment == plain.session.result.timeline.bottom


@pytest.mark.parametrize("name", list(SCREENS))
def test_every_screen_can_be_worked_by_keys_and_read_out(window, name):
    """Whatever can be pressed, typed or moved takes the focus and has a name or words and a tip; every
    screen has its caution or is a place of entry."""
    screen = window.screen_named(name)
    QApplication.processEvents()
    kinds = (QAbstractButton, QComboBox, QAbstractSpinBox, QLineEdit, QAbstractSlider, QListWidget)
    checked = 0
    for kind in kinds:
        for widget in screen.findChildren(kind):
            inner = (
                isinstance(widget.parentWidget(), (QComboBox, QAbstractSpinBox))
                or "qt_" in widget.objectName()
            )
            if not widget.isVisible() or inner or isinstance(widget, QScrollBar):
                continue
            assert widget.focusPolicy() != Qt.FocusPolicy.NoFocus, widget
            words = widget.accessibleName() or getattr(widget, "text", lambda: "")()
            assert words, (name, widget, widget.toolTip())
            assert widget.toolTip(), (name, words)
            checked += 1
    assert checked >= 1


@pytest.mark.slow
def test_all_screens_in_both_themes_and_units(window):
    """Each is painted, light and dark, metric and not, without an exception and not empty."""
    for name in SCREENS:
        window.screen_named(name)
        for _ in range(2):
            window.switch_theme()
            window.switch_units()
            QApplication.processEvents()
            image = window.grab().toImage()
            colours = {
                image.pixel(x, y)
                for x in range(0, image.width(), 40)
                for y in range(0, image.height(), 40)
            }
            assert len(colours) > 3, name
    assert not UNITS.imperial


def _luminance(colour):
    """Relative luminance (WCAG 2, value from memory)."""
    parts = [int(colour[i : i + 2], 16) / 255.0 for i in (1, 3, 5)]
    linear = [c / 12.92 if c <= 0.03928 else ((c + 0.055) / 1.055) ** 2.4 for c in parts]
    return 0.2126 * linear[0] + 0.7152 * linear[1] + 0.0722 * linear[2]


def _contrast(one, two):
    dark, light = sorted((_luminance(one), _luminance(two)))
    return (light + 0.05) / (dark + 0.05)


@pytest.mark.parametrize("theme", [LIGHT, DARK], ids=lambda t: t.name)
def test_contrast_of_text_and_of_controls(theme):
    """Text at least 4.5 to 1 on every ground, edges of controls 3 to 1, in both themes."""
    for ground in (theme.paper, theme.panel, theme.well):
        for text in (
            theme.ink,
            theme.faint,
            theme.hip,
            theme.knee,
            theme.back,
            theme.ankle,
            theme.warn,
        ):
            assert _contrast(text, ground) >= 4.5
        assert _contrast(theme.edge, ground) >= 3.0
    assert _contrast(theme.choose, theme.choose_ink) >= 4.5


def test_tab_leaves_the_table_of_the_line_up(window):
    """No keyboard trap: from the table Tab goes on to the next control."""
    screen = window.screen_named("Line-up")
    window.session.do(edits.line_up, 0)
    settle(window, lambda: screen.table.columnCount() == 1)
    screen.table.setFocus()
    QTest.keyClick(screen.table, Qt.Key.Key_Tab)
    assert not screen.table.hasFocus()
