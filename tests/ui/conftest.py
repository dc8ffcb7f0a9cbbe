"""The real window on a copy of the demo bench."""

import pytest
from PySide6.QtWidgets import QApplication

from zesty_lever.bench.files import read_bench
from zesty_lever.tables import data_path
from zesty_lever.ui import app as application
from zesty_lever.ui.memory import WindowMemory
from zesty_lever.ui.session import Session
from zesty_lever.ui.window import Window


@pytest.fixture
def window(qtbot, tmp_path):
    """The demo bench in a window of 1280 x 800."""
    application.application()
    own = tmp_path / "bench.json"
    own.write_bytes(data_path("demo", "bench.json").read_bytes())
    memory = WindowMemory(tmp_path / "window.json")
    memory.keep(cautions_seen=True)
    made = Window(Session(read_bench(own), own), memory, "Zesty Lever")
    qtbot.addWidget(made)
    made.resize(1280, 800)
    made.show()
    qtbot.waitExposed(made)
    QApplication.processEvents()
    return made
