"""Start the window, or one of the commands."""

from __future__ import annotations

import sys
from pathlib import Path


def main(argv: list[str] | None = None) -> int:
    """Dispatch to the command line or to the window; return the exit status."""
    from zesty_lever.cli import main as cli
    from zesty_lever.memory import keep_freed_memory

    keep_freed_memory()
    given = sys.argv[1:] if argv is None else argv
    if len(given) == 1 and given[0].endswith((".json", ".zlcase")):
        # A file from the desktop or the shell: open it in the window.
        from zesty_lever.ui.app import start

        return start(demo=False, exit_after_first_frame=False, opened=Path(given[0]))
    arguments = cli.build_parser().parse_args(argv)
    if arguments.command == "plan" and arguments.part == "handout":
        # The handout needs the window's painters.
        from zesty_lever.ui.handout_command import run_handout

        return run_handout(arguments)
    if arguments.command:
        return cli.run(arguments)
    from zesty_lever.ui.app import start

    return start(demo=arguments.demo, exit_after_first_frame=arguments.exit_after_first_frame)


if __name__ == "__main__":
    sys.exit(main())
