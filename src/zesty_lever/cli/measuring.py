"""The command that measures a clip or a picture by its marks."""

from __future__ import annotations

import argparse
import sys
from collections.abc import Callable
from pathlib import Path
from typing import Any

from zesty_lever.cli.console import OK


def add_measure(commands: Any) -> None:
    """Add the command to the parser."""
    asking = commands.add_parser(
        "measure", help="angles, tempo and faults of a clip or a picture, by its marks"
    )
    asking.add_argument("clip", type=Path, metavar="CLIP")
    asking.add_argument(
        "--marks", type=Path, required=True, metavar="MARKS.json", help="what was set by hand"
    )
    asking.add_argument(
        "--out", type=Path, required=True, metavar="MOTION.json", help="file for the result"
    )
    asking.add_argument("--csv", type=Path, help="also write the angles, one row a frame")
    asking.add_argument(
        "--c3d",
        type=Path,
        help="also write joints and marks as C3D (needs the optional part 'c3d')",
    )


def run_measure(arguments: argparse.Namespace) -> int:
    """Measure, write, and say on standard error what makes it worse than it has to be."""
    from zesty_lever.io.json_files import replacing, write_json
    from zesty_lever.measure.clip import Clip
    from zesty_lever.measure.marks import read_marks
    from zesty_lever.measure.measuring import measure

    marks = read_marks(arguments.marks)
    clip = Clip(arguments.clip)
    try:
        motion = measure(clip, marks, _progress())
    finally:
        clip.close()
    if arguments.c3d is not None:
        from zesty_lever.measure.c3d import write_c3d

        write_c3d(motion, arguments.c3d)
    with replacing(arguments.out) as file:
        write_json(motion.as_json(), file, indent=1)
    if arguments.csv is not None:
        with replacing(arguments.csv) as file:
            file.write(motion.csv_text())
    for warned in motion.warnings:
        print(warned.text, file=sys.stderr)
    return OK


def _progress() -> Callable[[float], None] | None:
    """Progress on a terminal; none elsewhere."""
    if not sys.stderr.isatty():
        return None

    def tell(share: float) -> None:
        end = "\n" if share >= 1.0 else ""
        print(f"\rfollowing the marks: {100 * share:3.0f} %", end=end, file=sys.stderr, flush=True)

    return tell
