"""Refreshes docs/screenshots from the demo data, without a display."""

from __future__ import annotations

import os
import tempfile
from pathlib import Path

os.environ.pop("QT_QPA_PLATFORM", None)

from zesty_lever.records.bench import first_bench
from zesty_lever.ui import app as application
from zesty_lever.ui.session import Session
from zesty_lever.ui.window import WINDOW_SIZE, Window, WindowMemory

OUT = Path(__file__).parents[1] / "docs" / "screenshots"


def main() -> None:
    """Walk through the main views and save one picture of each."""
    application.use_offscreen()
    app = application.application()
    with tempfile.TemporaryDirectory() as scratch:
        window = application.make_window(Path(scratch), demo=True)
        window.resize(*WINDOW_SIZE)
        window.show()
        session = window.session

        def keep(name: str, shown: Window = window) -> None:
            app.processEvents()
            shown.grab().save(str(OUT / f"{name}.png"))
            print(name)

        keep("bench")
        session.same_legs()
        keep("comparison")
        session.history.undo()
        session.set_moment(0)
        keep("top")
        session.set_moment(session.result.timeline.bottom)
        session.set_setting("stance_m", 0.95)
        keep("impossible")
        session.history.undo()
        session.switch_athlete(1)
        session.edit_slot(1)
        session.set_variation("goblet-squat")
        window.switch_theme()
        keep("dark")
        window.switch_theme()
        session.edit_slot(0)
        session.switch_athlete(0)
        for variation, name in (("split-squat", "split-squat"), ("conventional-deadlift", "deadlift"),
                                ("hip-thrust", "hip-thrust")):  # fmt: skip
            session.set_variation(variation)
            keep(name)
        first = Window(Session(first_bench()), WindowMemory(None), "Zesty Lever")
        first.resize(*WINDOW_SIZE)
        first.show()
        keep("first-run", first)


if __name__ == "__main__":
    main()
