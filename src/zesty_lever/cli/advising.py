"""``zesty-lever advise``: a question file answered by the same function that the window asks."""

from __future__ import annotations

import argparse
import sys
from pathlib import Path
from typing import Any

from zesty_lever.cli.console import OK


def add_advise(commands: Any) -> None:
    """The command's arguments."""
    advising = commands.add_parser("advise", help="the next load of a lift, from what was done")
    advising.add_argument(
        "question", type=Path, metavar="QUESTION", help="a zesty-lever-question/1 file"
    )
    advising.add_argument("--out", type=Path, help="file for the answer instead of standard output")


def run_advise(arguments: argparse.Namespace) -> int:
    """Answer one question. Raises `CaseError`, `OSError`."""
    from zesty_lever.cases.parse import parse_json
    from zesty_lever.io.json_files import read_bounded, replacing, write_json
    from zesty_lever.log.advice import advise
    from zesty_lever.log.question import answer_json, read_question
    from zesty_lever.wording.messages import load_words, said

    path: Path = arguments.question
    question, numbers = read_question(
        parse_json(read_bounded(path, "a question", 20_000_000), path.name)
    )
    found = advise(question)
    name = question.planned.setup.variation
    answer = answer_json(found, numbers, said, load_words, name)
    if arguments.out is None:
        write_json(answer, sys.stdout, indent=1)
        return OK
    with replacing(arguments.out) as stream:
        write_json(answer, stream, indent=1)
    return OK
