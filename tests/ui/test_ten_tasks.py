"""Ten things that a coach comes for, each done by hand and counted: at most 8 clicks and keys, the week 12.

A click counts one, a key one; a word or a number typed into a field counts one. Demo data: Oda Fenwick on the
bench with a high-bar back squat against a front squat.
"""

import pytest
from hands import settle
from PySide6.QtCore import QPoint, Qt, QTimer
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QMenu, QPushButton

from zesty_lever.choosing.shortlist import Option
from zesty_lever.exercises.catalogue import variation
from zesty_lever.joints import KNEE

MOST, MOST_FOR_A_WEEK = 8, 12


class Hands:
    """Real mouse and keys, counted."""

    def __init__(self, window):
        self.window, self.count = window, 0

    def click(self, widget, at=None):
        QTest.mouseClick(widget, Qt.MouseButton.LeftButton, pos=at or widget.rect().center())
        QApplication.processEvents()
        self.count += 1

    def press(self, words):
        """The visible button that says so."""
        found = self.window.findChildren(QPushButton)
        self.click(next(b for b in found if b.isVisible() and b.text() == words))

    def key(self, key, held=Qt.KeyboardModifier.NoModifier):
        QTest.keyClick(QApplication.focusWidget() or self.window, key, held)
        QApplication.processEvents()
        self.count += 1

    def type(self, text):
        QTest.keyClicks(QApplication.focusWidget(), text)
        QApplication.processEvents()
        self.count += 1

    def tab(self, name):
        rail = self.window.rail
        at = [rail.tabText(i) for i in range(rail.count())].index(name)
        self.click(rail, rail.tabRect(at).center())
        return self.window.screen_named(name)

    def choose(self, box, text):
        """An entry of a combo box: open it, type what it says, Enter."""
        self.click(box)
        view = box.view()
        settle(self.window, view.isVisible)
        QTest.keyClicks(view, text)
        self.count += 1
        QTest.keyClick(view, Qt.Key.Key_Return)
        self.count += 1
        settle(self.window, lambda: not view.isVisible())
        assert box.currentText() == text

    def pick(self, button, text):
        """An entry of a button's menu; the menu has a loop of its own."""

        def choose():
            menu = QApplication.activePopupWidget()
            assert isinstance(menu, QMenu)
            action = next(a for a in menu.actions() if text in a.text())
            QTest.mouseClick(
                menu, Qt.MouseButton.LeftButton, pos=menu.actionGeometry(action).center()
            )

        QTimer.singleShot(50, choose)
        self.click(button)
        self.count += 1

    def find(self, words, held=Qt.KeyboardModifier.NoModifier):
        """Search the catalogue and take what is found first."""
        self.key(Qt.Key.Key_F, Qt.KeyboardModifier.ControlModifier)
        self.type(words)
        self.key(Qt.Key.Key_Return, held)


@pytest.fixture
def hands(window):
    window.activateWindow()
    return Hands(window)


def test_an_alternative_for_a_sore_knee(window, hands):
    """Say what is sore, ask for a list that spares it, take the first to the bench."""
    athlete = hands.tab("Athlete")
    hands.choose(athlete.place, "knee")
    hands.press("Add")
    shortlist = hands.tab("Shortlist")
    hands.press("Spare the sore knee")
    settle(window, lambda: shortlist.options and not shortlist.waiting.busy)
    settle(window, lambda: shortlist.form().ceilings.get("knee"))
    settle(window, lambda: isinstance(shortlist.options[0], Option))
    hands.press("To the bench")
    assert window.session.setup.variation == shortlist.chosen().variation
    assert hands.count <= MOST


def test_a_rear_foot_elevated_split_squat_is_set_up(window, hands):
    hands.find("rfess")
    assert window.session.setup.variation == "rear-foot-elevated-split-squat"
    assert window.session.result.feasible
    assert hands.count <= MOST


def test_a_split_squat_equal_in_knee_demand_to_80_kg(window, hands):
    """80 kg on the bar, a split squat as B, B's load matched at the knee."""
    load = window.bench.panel.load_row.spin
    hands.click(load, QPoint(20, load.height() // 2))
    load.selectAll()
    hands.type("80")
    hands.find("split squat", Qt.KeyboardModifier.ShiftModifier)
    session = window.session
    hands.pick(window.bench.demand.match, "Equal peak at the knee")
    settle(window, lambda: not window.bench.demand.waiting.busy)
    squat, split = session.results
    assert squat.case.load_kg == 80.0
    assert split.case.variation == "split-squat"
    assert split.peak(KNEE) == pytest.approx(squat.peak(KNEE), rel=0.01)
    assert hands.count <= MOST


def test_why_she_leans_and_what_chest_up_costs(window, hands):
    """One look at the findings answers both."""
    hands.key(Qt.Key.Key_5, Qt.KeyboardModifier.AltModifier)
    panel = window.bench.findings
    settle(window, lambda: "leans" in panel.lean_words.text())
    words = panel.lean_words.text()
    assert "thigh" in words.lower()
    assert "10°" in words
    assert "N·m" in words
    assert hands.count <= MOST


def test_bands_on_a_goblet_squat(window, hands):
    hands.find("banded goblet")
    assert window.session.setup.variation == "banded-goblet-squat"
    assert window.session.result.solved.lines.names
    assert hands.count <= MOST


def test_her_box_height(window, hands):
    """The set-up card tells it, rounded to what a gym can set."""
    hands.find("box squat")
    card = hands.tab("Set-up card")
    names = [line.name for line in card.picture.card.lines]
    assert any("Box" in name for name in names)
    assert hands.count <= MOST


def test_two_athletes_side_by_side(window, hands):
    lineup = hands.tab("Line-up")
    hands.press("Add A")
    settle(window, lambda: lineup.table.columnCount() == 1)
    hands.pick(lineup.others, "Brekk")
    settle(window, lambda: lineup.table.columnCount() == 2)
    assert len({item.case.athlete.name for item in lineup.picture.compared}) == 2
    assert hands.count <= MOST


def test_a_sheet_for_the_athlete(window, hands, monkeypatch):
    """The card, and its print preview."""
    shown = []

    def remember(preview):
        shown.append(preview)

    monkeypatch.setattr("zesty_lever.ui.output.PrintPreview.show", remember)
    hands.tab("Set-up card")
    hands.key(Qt.Key.Key_P, Qt.KeyboardModifier.ControlModifier)
    assert len(shown) == 1
    assert hands.count <= MOST


def test_a_week_with_limited_kit(window, hands):
    """No bar, no rack, no hex bar: what covers the week, and what stays uncovered."""
    shortlist = hands.tab("Shortlist")
    button = shortlist.equipment

    def untick():
        for kind in ("bar", "rack", "hex bar"):
            box = button.kinds[kind]
            hands.click(box, QPoint(8, box.height() // 2))
        hands.key(Qt.Key.Key_Escape)
        popup = QApplication.activePopupWidget()
        if popup is not None:
            popup.close()

    QTimer.singleShot(50, untick)
    hands.click(button)
    hands.choose(shortlist.mode, "Cover the week")
    settle(
        window,
        lambda: (
            shortlist.options
            and not shortlist.waiting.busy
            and len([o for o in shortlist.options if isinstance(o, Option)]) < 8
        ),
    )
    chosen = [o for o in shortlist.options if isinstance(o, Option)]
    assert chosen
    for option in chosen:
        assert not {"bar", "rack", "hex bar"} & set(variation(option.variation).equipment)
    assert hands.count <= MOST_FOR_A_WEEK
