"""Refreshes docs/screenshots from the demo data, without a display."""

from __future__ import annotations

import os
import tempfile
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

os.environ.pop("QT_QPA_PLATFORM", None)
# The pictures are of one day, whenever they are taken.
os.environ.setdefault("ZESTY_LEVER_CLOCK", "2026-11-27T12:00")

from PySide6.QtCore import Qt
from PySide6.QtGui import QColor, QImage, QPainter
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from zesty_lever.bench import edits
from zesty_lever.bench.model import first_bench
from zesty_lever.cases.model import Setup
from zesty_lever.ui import app as application
from zesty_lever.ui.memory import WindowMemory
from zesty_lever.ui.session import Session
from zesty_lever.ui.window import WINDOW_SIZE, Window

OUT = Path(__file__).parents[1] / "docs" / "screenshots"


Keep = Callable[..., None]
Settle = Callable[[Callable[[], bool]], None]


def camera(app: QApplication, window: Window) -> tuple[Keep, Settle]:
    """What saves a picture, and what waits for an answer."""

    def keep(name: str, shown: Window = window) -> None:
        for _ in range(5):  # a text that grew is laid out a turn later
            app.processEvents()
        shown.grab().save(str(OUT / f"{name}.png"))
        print(name)

    def settle(done: Callable[[], bool]) -> None:
        end = time.monotonic() + 30.0
        while not done() and time.monotonic() < end:
            app.processEvents()
            time.sleep(0.01)

    return keep, settle


def bench_views(window: Window, keep: Keep, settle: Settle) -> None:
    """The bench in its main states."""
    session = window.session

    def told() -> bool:
        return window.bench.room.room is not None and window.bench.effort.found is not None

    settle(told)
    keep("bench")
    session.do(edits.same_legs)
    keep("comparison")
    session.history.undo()
    session.do(edits.set_setting, "stance_m", 0.95)
    settle(lambda: session.result.error is not None and "works from" in session.result.error.text)
    keep("impossible")
    session.history.undo()
    window.bench.show_side(1)
    window.bench.show_face(1)
    settle(lambda: window.bench.findings.room is not None)
    keep("front-view")
    window.bench.show_side(0)
    window.bench.show_face(0)
    session.do(edits.set_setting, "knee_track_m", -0.04)
    window.bench.show_face(1)
    settle(lambda: window.bench.findings.room is not None and bool(window.bench.findings.effects))
    keep("findings")
    session.history.undo()
    window.bench.show_face(0)


def other_screens(window: Window, keep: Keep, settle: Settle) -> None:
    """Dark, families, and the other screens."""
    session = window.session
    session.do(edits.switch_athlete, 1)
    session.do(edits.edit_slot, 1)
    session.do(edits.set_variation, "goblet-squat")
    window.switch_theme()
    settle(lambda: window.bench.effort.found is not None)
    keep("dark")
    window.switch_theme()
    session.do(edits.edit_slot, 0)
    session.do(edits.switch_athlete, 0)
    window.show_screen("Athlete")
    strength = window.screen_named("Athlete").bests.keeper
    settle(lambda: strength.found is not None)
    keep("athlete")
    measure = window.screen_named("Measure")
    measure.open_example("Squat, from the side (marked)")
    settle(lambda: measure.desk.motion is not None and measure.result.found is not None)
    measure.result.overlay.click()
    settle(lambda: measure.desk.at == measure.desk.motion.low and not measure.result.waiting.busy)
    keep("measure")
    window.show_screen("Bench")
    session.do(edits.set_variation, "back-squat-high-bar")
    window.show_screen("Set-up card")
    keep("card")
    for variation in ("back-squat-high-bar", "front-squat", "split-squat", "hip-thrust"):
        session.do(edits.line_up, 0, Setup(variation=variation))
    lineup = window.screen_named("Line-up")
    settle(lambda: lineup.table.columnCount() == 4 and bool(lineup.found.shapes))
    keep("line-up")
    shortlist = window.screen_named("Shortlist")
    settle(lambda: bool(shortlist.options) and not shortlist.waiting.busy)
    keep("shortlist")
    technique = window.screen_named("Technique")
    technique.ask()
    settle(lambda: technique.frontier is not None)
    keep("technique")


def records(window: Window, keep: Keep, settle: Settle) -> None:
    """The team, a plan, a session that runs, the log, a handout."""
    roster = window.screen_named("Roster")
    settle(lambda: bool(roster.rows) and roster.rows[0].against["hip"].ratio is not None)
    roster.table.selectRow(0)
    keep("roster")
    plan = window.screen_named("Plan")
    settle(lambda: plan.desk.view is not None and plan.side.predicted.week.sets > 0)
    plan.items.setCurrentRow(5)
    keep("plan")
    with tempfile.TemporaryDirectory() as folder:
        plan.papers.save_handout(Path(folder) / "handout.pdf")
    handout(plan)
    plan.start.click()
    run = window.screen_named("Run")
    settle(lambda: run.runs.now is not None)
    for _ in range(40):
        step = run.runs.run.step
        if run.runs.now.begun and step.kind == "work" and step.item.setup is not None:
            break
        QTest.keyClick(run.face, Qt.Key.Key_Space)
    keep("run")
    log = window.screen_named("Log")
    settle(lambda: log.view is not None and not log.waiting.busy and bool(log.next.advised))
    log.list.setCurrentRow(1)
    log.table.selectRow(4)
    keep("log")
    log.tabs.setCurrentIndex(1)
    keep("weeks")


def handout(plan: Any) -> None:
    """The first page of the chosen session's handout as a picture."""
    from zesty_lever.records.advising import with_advice
    from zesty_lever.ui import handout as paper

    view, desk = plan.desk.view, plan.desk
    ready = with_advice(desk.chosen, plan.advised)
    sheet = paper.Handout(view.person.body, ready, desk.row.day_of(desk.week, desk.chosen))
    tall = paper.page_tall()
    picture = QImage(800, int(0.8 * tall), QImage.Format.Format_RGB32)
    picture.fill(QColor("white"))
    painter = QPainter(picture)
    painter.scale(0.8, 0.8)
    paper.paint_page(painter, sheet, paper.pages_of(sheet, tall)[0], tall, 0)
    painter.end()
    picture.save(str(OUT / "handout.png"))
    print("handout")


def main() -> None:
    """Walk through the main views and save one picture of each."""
    application.use_offscreen()
    app = application.application()
    with tempfile.TemporaryDirectory() as scratch:
        window = application.make_window(Path(scratch), demo=True)
        window.resize(*WINDOW_SIZE)
        window.show()
        keep, settle = camera(app, window)
        bench_views(window, keep, settle)
        other_screens(window, keep, settle)
        records(window, keep, settle)
        first = Window(Session(first_bench()), WindowMemory(None), "Zesty Lever")
        first.resize(*WINDOW_SIZE)
        first.show()
        keep("first-run", first)


if __name__ == "__main__":
    main()
