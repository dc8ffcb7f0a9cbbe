"""The command line: parse, call, print."""

from __future__ import annotations

import argparse
import sys
from pathlib import Path
from typing import Any

from zesty_lever.cli.advising import add_advise
from zesty_lever.cli.choosing import add_commands, add_rules
from zesty_lever.cli.console import OK, SOME_FAILED, STOPPED, USAGE, complain
from zesty_lever.cli.effort import add_effort
from zesty_lever.cli.log import add_log
from zesty_lever.cli.measuring import add_measure
from zesty_lever.cli.study import add_study
from zesty_lever.problems import CaseError
from zesty_lever.version import VERSION

MATCHES = (
    "same-load",
    "typical-load",
    "same-system",
    "equal:hip",
    "equal:knee",
    "equal:lower-back",
    "equal-effort",
)


def build_parser() -> argparse.ArgumentParser:
    """Parser for the window's own flags and the sub-commands."""
    parser = argparse.ArgumentParser(
        prog="zesty-lever", description="Joint-moment estimates for strength coaches."
    )
    parser.add_argument("--version", action="version", version=f"zesty-lever {VERSION}")
    parser.add_argument("--demo", action="store_true", help="start with the demo data")
    parser.add_argument(
        "--exit-after-first-frame", action="store_true", help="close once painted (for timing)"
    )
    commands = parser.add_subparsers(dest="command")
    listing = commands.add_parser("list", help="the catalogue of variations")
    listing.add_argument("--json", action="store_true", help="as JSON")
    solve = commands.add_parser("solve", help="work out one case or a .jsonl of many")
    solve.add_argument("case", help="a .json file, a .jsonl file, or - for standard input")
    solve.add_argument("--out", type=Path, help="file for the result instead of standard output")
    solve.add_argument(
        "--resume",
        action="store_true",
        help="go on with a .jsonl that was interrupted (needs --out)",
    )
    solve.add_argument(
        "--effort", action="store_true", help="also what of hip, knee and back each case uses"
    )
    _add_compare(commands)
    why = commands.add_parser(
        "explain", help="why the trunk leans, and what a higher chest costs, as JSON"
    )
    why.add_argument("case", type=Path, metavar="CASE")
    why.add_argument(
        "--chest-up", type=float, default=10.0, metavar="DEG", help="how much higher, 1 to 30"
    )
    roomy = commands.add_parser("room", help="room to move of one case, as JSON")
    roomy.add_argument("case", type=Path, metavar="CASE")
    add_commands(commands)
    add_effort(commands)
    add_advise(commands)
    add_measure(commands)
    add_log(commands)
    add_study(commands)
    schema = commands.add_parser("schema", help="print a JSON Schema")
    schema.add_argument("which", choices=("case", "result", "marks", "plan", "log", "question"))
    return parser


def _add_compare(commands: Any) -> None:
    comparing = commands.add_parser("compare", help="compare cases; the first is the baseline")
    comparing.add_argument("cases", nargs="+", type=Path, metavar="CASE")
    comparing.add_argument("--match", choices=MATCHES, help="how loads are matched")
    comparing.add_argument("--csv", type=Path, help="also write the table as CSV")
    comparing.add_argument(
        "--judge",
        action="store_true",
        help="more columns: difference as set up and as done, its judgement, and what undoes it",
    )
    comparing.add_argument(
        "--draws",
        type=int,
        default=1000,
        metavar="N",
        help="possible truths drawn for the intervals (0: none, at most 100 000; default 1000)",
    )
    comparing.add_argument(
        "--error",
        action="append",
        default=[],
        metavar="NAME=SIZE",
        help="how well things are measured: angle_deg, offset_m, length, mass, pressure",
    )
    add_rules(comparing)


def run(arguments: argparse.Namespace) -> int:
    """Carry out one sub-command and return the exit status."""
    from zesty_lever.cli import (
        advising,
        asking,
        choosing,
        comparing,
        effort,
        log,
        measuring,
        solving,
        study,
    )

    commands = {
        "list": asking.run_list,
        "explain": asking.run_explain,
        "room": asking.run_room,
        "schema": asking.run_schema,
        "solve": solving.run_solve,
        "compare": comparing.run_compare,
        "shortlist": choosing.run_shortlist,
        "search": choosing.run_search,
        "effort": effort.run_effort,
        "advise": advising.run_advise,
        "measure": measuring.run_measure,
        "log": log.run_log,
        "exposure": log.run_exposure,
        "plan": log.run_plan,
        "study": study.run_study_command,
    }
    try:
        return commands[arguments.command](arguments)
    except CaseError as error:
        complain(error.text)
        return SOME_FAILED
    except KeyboardInterrupt:
        complain("stopped; what was written whole stays")
        return STOPPED
    except BrokenPipeError:
        sys.stderr.close()
        return OK
    except OSError as error:
        complain(f"{error.filename or 'file'}: {error.strerror}")
        return USAGE
    finally:
        log.let_go(arguments)
