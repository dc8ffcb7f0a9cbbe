"""The house rules: who may import what, and that the window's toolkit is sound."""

import shutil
import subprocess
import sys
import venv
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[1]
SOURCE = ROOT / "src" / "zesty_lever"


def modules():
    for path in sorted(SOURCE.rglob("*.py")):
        name = ".".join(path.relative_to(SOURCE.parent).with_suffix("").parts)
        if ".ui" not in name:
            yield name.removesuffix(".__init__")


def test_nothing_but_the_window_imports_qt():
    """Every module outside ui in one fresh process: no Qt came along, nor scipy."""
    code = (
        f"import importlib, sys\nfor name in {list(modules())!r}:\n    importlib.import_module(name)\n"
        "found = [m for m in sys.modules if m.startswith(('PySide6', 'shiboken6', 'scipy'))]\n"
        "assert not found, found\n"
    )
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stderr


def test_import_contracts():
    """import-linter's layers, as pyproject.toml states them."""
    linter = Path(sys.executable).with_name("lint-imports")
    done = subprocess.run(
        [linter, "--no-cache"], cwd=ROOT, capture_output=True, text=True, check=False
    )
    assert done.returncode == 0, done.stdout


def test_qt_binding_leaves_none_alone():
    """PySide6 6.12.0 on Python 3.11 takes a reference from None at every call that returns
    nothing, and the process dies after some thousand paints. The pinned version must not."""
    from PySide6.QtGui import QImage, QPainter

    image = QImage(20, 20, QImage.Format.Format_ARGB32)
    painter = QPainter(image)
    before = sys.getrefcount(None)
    for _ in range(2000):
        painter.setOpacity(1.0)
    after = sys.getrefcount(None)
    painter.end()
    assert abs(after - before) < 500


@pytest.mark.parametrize("name", ["runtime.txt", "dev.txt"])
def test_requirements_are_pinned_hashed_and_placeless(name):
    """Every requirement has a version and hashes; no address and no path of a machine."""
    text = (ROOT / "requirements" / name).read_text()
    wanted = [line for line in text.splitlines() if line and not line.startswith((" ", "#"))]
    assert wanted
    assert all("==" in line for line in wanted)
    assert text.count("--hash=sha256:") >= len(wanted)
    assert "://" not in text
    assert "index" not in text.replace("indexed", "")


def test_catalogue_is_data():
    """Adding a variation is adding a file: each file is one entry under its own name."""
    from zesty_lever.exercises.catalogue import catalogue

    files = [p.stem for p in (SOURCE / "data" / "catalogue").glob("*/*.toml") if p.stem != "family"]
    assert sorted(files) == sorted(catalogue())


def test_every_problem_code_is_in_the_formats_document():
    """A reader of results finds every code that one can carry."""
    from zesty_lever.problems import CODES

    told = (ROOT / "docs" / "formats.md").read_text(encoding="utf-8")
    questions = list(CODES).index("not-feasible")
    missing = [code for code in list(CODES)[:questions] if f"`{code}`" not in told]
    assert not missing


def test_the_environment_may_be_moved_and_have_spaces_in_its_path(tmp_path):
    """What `make setup` links is relative: an environment made in a folder with spaces works, and goes on
    working after the whole folder has moved."""
    first, second = tmp_path / "a first place", tmp_path / "another place"
    (first / "tools").mkdir(parents=True)
    shutil.copy(ROOT / "tools" / "link_source.py", first / "tools")
    (first / "src" / "zesty_lever").mkdir(parents=True)
    (first / "src" / "zesty_lever" / "__init__.py").write_text("")
    main = "def run():\n    print(__file__)\n"
    (first / "src" / "zesty_lever" / "__main__.py").write_text(main)
    venv.create(first / ".venv", with_pip=False)
    python = first / ".venv" / "bin" / "python"
    subprocess.run([python, first / "tools" / "link_source.py"], check=True)
    for place in (first, second):
        if not place.exists():
            shutil.move(first, place)
        said = subprocess.run(
            [place / ".venv" / "bin" / "zesty-lever"], check=True, capture_output=True, text=True
        )
        assert said.stdout.strip() == str(place / "src" / "zesty_lever" / "__main__.py")
