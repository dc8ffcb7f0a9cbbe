"""Start the window, or one of the commands."""

from __future__ import annotations

import atexit
import gc
import os
import sys
from pathlib import Path
from types import ModuleType

WINDOW_FLAGS = {"--demo", "--exit-after-first-frame"}
# Small arrays gain nothing from threads or from the widest registers: starting the ones costs 40 ms, the others
# make a rep an eighth slower. NumPy passes over names that it does not know.
ARITHMETIC = {
    "OPENBLAS_NUM_THREADS": "1",
    "NPY_DISABLE_CPU_FEATURES": "X86_V3 X86_V4 AVX512_ICL AVX512_SPR",
}


def main(argv: list[str] | None = None) -> int:
    """Dispatch to the command line or to the window; return the exit status."""
    for name, value in ARITHMETIC.items():
        os.environ.setdefault(name, value)
    _leave_out_docs()
    from zesty_lever.memory import keep_freed_memory

    keep_freed_memory()
    given = sys.argv[1:] if argv is None else argv
    if set(given) <= WINDOW_FLAGS:
        # Nothing that is made while the window starts is garbage.
        gc.disable()
        _read_msgspec()
        # The core before Qt, whose hook makes every later import cost more: 7 MB and some milliseconds.
        import zesty_lever.bench.edits
        import zesty_lever.bench.files
        import zesty_lever.wording.sentences  # noqa: F401

        _tell_qt_whose_it_is()
        from zesty_lever.ui.app import start

        return start(
            demo="--demo" in given, exit_after_first_frame="--exit-after-first-frame" in given
        )
    from zesty_lever.cli import main as cli

    if len(given) == 1 and given[0].endswith((".json", ".zlcase")):
        # A file from the desktop or the shell: open it in the window.
        from zesty_lever.ui.app import start

        return start(demo=False, exit_after_first_frame=False, opened=Path(given[0]))
    arguments = cli.build_parser().parse_args(argv)
    if arguments.command == "plan" and arguments.part == "handout":
        # The handout needs the window's painters.
        from zesty_lever.ui.handout_command import run_handout

        return run_handout(arguments)
    return cli.run(arguments)


def _leave_out_docs() -> None:
    """Let NumPy leave out what it would tell about its functions: ten milliseconds and half a megabyte.

    It writes those texts one by one when it is imported; a module in their place has none.
    """
    if "numpy" not in sys.modules:
        for name in ("_add_newdocs", "_add_newdocs_scalars"):
            sys.modules.setdefault(f"numpy._core.{name}", ModuleType(name))


def _read_msgspec() -> None:
    """Import msgspec without a module that the standard library makes needless to it: half a megabyte."""
    needless = "typing_extensions"
    if needless in sys.modules:
        return
    sys.modules[needless] = None  # type: ignore[assignment]
    try:
        import msgspec  # noqa: F401
    finally:
        del sys.modules[needless]


def _tell_qt_whose_it_is() -> None:
    """Spare Qt's import hook the reading of every module's source for its own name: a window's are the only ones with it.

    It takes ten milliseconds at the start and keeps all those texts.
    """
    import PySide6  # noqa: F401 (brings the hook along)

    try:
        from shibokensupport import feature
    except ImportError:
        return
    if hasattr(feature, "_mod_uses_pyside"):
        feature._mod_uses_pyside = lambda module: module.__name__.startswith("zesty_lever.ui")  # noqa: SLF001


def run() -> None:
    """Be the program: `main`, then the end of the process.

    After a window all is written and closed; taking Qt and the interpreter down piece by piece would only keep
    the coach waiting.
    """
    status = main()
    if "PySide6.QtWidgets" in sys.modules:
        atexit._run_exitfuncs()  # noqa: SLF001 (there is no public way to run them before leaving)
        sys.stdout.flush()
        sys.stderr.flush()
        os._exit(status)
    sys.exit(status)


if __name__ == "__main__":
    run()
