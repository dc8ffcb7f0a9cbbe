"""The real window on a copy of the demo bench."""

import gc

import pytest
from PySide6.QtWidgets import QApplication
from shiboken6 import delete, isValid

from zesty_lever.bench.files import read_bench
from zesty_lever.tables import data_path
from zesty_lever.ui import app as application
from zesty_lever.ui.memory import WindowMemory
from zesty_lever.ui.session import Session
from zesty_lever.ui.window import Window


@pytest.fixture(autouse=True)
def swept():
    """Garbage of a test is collected on this thread: objects of Qt must not be deleted on the jobs' thread."""
    yield
    gc.collect()


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


@pytest.fixture
def kept(qapp):
    """Keeps objects of Qt until the test ends and deletes them then, on this thread.

    Left to the garbage collector they would be deleted on whatever thread happens to run it: the jobs' too.
    """
    found = []

    def keep(made):
        found.append(made)
        return made

    yield keep
    for made in reversed(found):
        if isValid(made):
            delete(made)
