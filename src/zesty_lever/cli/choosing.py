"""The commands that choose: shortlist and search."""

from __future__ import annotations

import argparse
import csv
import json
import sys
from dataclasses import asdict
from pathlib import Path
from typing import TYPE_CHECKING, Any

from zesty_lever.cli.console import OK
from zesty_lever.io.tables import text_of
from zesty_lever.problems import CaseError

if TYPE_CHECKING:
    from zesty_lever.choosing.loading import TypicalRules
    from zesty_lever.choosing.scatter import Errors
    from zesty_lever.choosing.shortlist import Option, RuledOut
    from zesty_lever.choosing.wishes import Wish

COLUMNS = (
    "rank",
    "variation",
    "load_kg",
    "load_rule",
    "score",
    "hip_Nm",
    "knee_Nm",
    "lower_back_Nm",
    "reason",
    "ruled_out",
    *(f"{j}_{end}_Nm" for j in ("hip", "knee", "lower_back") for end in ("low", "high")),
    *(f"{j}_flexor_Nm" for j in ("hip", "knee", "lower_back")),
    "load_words",
    "changed",
    "notes",
)


def add_commands(commands: Any) -> None:
    """Add both to the parser."""
    _add_shortlist(commands)
    _add_search(commands)


def _add_shortlist(commands: Any) -> None:
    listing = commands.add_parser(
        "shortlist", help="the catalogue ranked for a case's athlete and a wish"
    )
    listing.add_argument(
        "case", type=Path, metavar="CASE", help="athlete and school are taken from it"
    )
    listing.add_argument(
        "--want",
        action="append",
        default=[],
        metavar="WHAT=WEIGHT",
        help="hip, knee, back, lockout, long, one-leg, sideways; minus for less",
    )
    listing.add_argument(
        "--ceiling",
        action="append",
        default=[],
        metavar="JOINT=SHARE@LIFT",
        help="a joint's ceiling as a share of a known lift, for instance knee=0.5@back-squat-high-bar",
    )
    listing.add_argument(
        "--have", help="equipment at hand, separated by commas (default: everything)"
    )
    listing.add_argument(
        "--skill", type=int, choices=(1, 2, 3), default=3, help="most demanding skill"
    )
    listing.add_argument("--alone", action="store_true", help="no spotter")
    listing.add_argument(
        "--allow-rounding",
        action="store_true",
        help="also deeper than the lower back keeps its shape",
    )
    listing.add_argument(
        "--direction", action="append", default=[], choices=("vertical", "horizontal", "lateral")
    )
    listing.add_argument(
        "--like", action="store_true", help="substitutes: nearest in demand to the case's own lift"
    )
    listing.add_argument("--week", action="store_true", help="a small set that covers the week")
    listing.add_argument("--csv", type=Path, help="also write the table as CSV")
    add_rules(listing)


def _add_search(commands: Any) -> None:
    seeking = commands.add_parser(
        "search", help="the technique that lowers or raises a joint's moment"
    )
    seeking.add_argument("case", type=Path, metavar="CASE")
    way = seeking.add_mutually_exclusive_group(required=True)
    way.add_argument("--lower", choices=("hip", "knee", "back"))
    way.add_argument("--raise", dest="higher", choices=("hip", "knee", "back"))
    seeking.add_argument(
        "--ceiling",
        action="append",
        default=[],
        metavar="JOINT=NM",
        help="ceiling of another joint, N·m",
    )
    seeking.add_argument("--free-depth", action="store_true", help="the depth may change too")
    seeking.add_argument("--out", type=Path, help="file for the answer instead of standard output")


def add_rules(command: Any) -> None:
    """Options for the rules of thumb behind typical loads."""
    command.add_argument(
        "--working-share",
        type=float,
        default=0.7,
        metavar="SHARE",
        help="share of the best that is worked with (default 0.7)",
    )
    command.add_argument(
        "--lift-share",
        action="append",
        default=[],
        metavar="VARIATION=SHARE",
        help="a variation's best as a share of the best high-bar back squat",
    )


def rules_of(arguments: argparse.Namespace) -> TypicalRules:
    """The rules given. Raises `CaseError` for one that makes no load."""
    from zesty_lever.choosing.loading import TypicalRules

    return TypicalRules(arguments.working_share, pairs(arguments.lift_share, "--lift-share"))


def errors_of(texts: list[str]) -> Errors:
    """The errors of measuring given. Raises `CaseError` for an unknown name or an impossible size."""
    from zesty_lever.choosing.scatter import LARGEST_ERRORS, Errors

    sizes: dict[str, Any] = pairs(texts, "--error")
    unknown = sorted(set(sizes) - set(LARGEST_ERRORS))
    if unknown:
        raise CaseError(
            "bad-option",
            f"--error {unknown[0]}: known are {', '.join(LARGEST_ERRORS)}",
            key="--error",
            value=unknown[0],
            allowed=list(LARGEST_ERRORS),
        )
    return Errors(**sizes)


def pairs(texts: list[str], what: str) -> dict[str, float]:
    """``name=number`` options. Raises `CaseError` naming the one that can't be read."""
    found = {}
    for text in texts:
        name, _, number = text.partition("=")
        try:
            found[name] = float(number)
        except ValueError:
            raise CaseError(
                "bad-option", f"{what} {text}: expected NAME=NUMBER", key=what, value=text
            ) from None
    return found


def run_shortlist(arguments: argparse.Namespace) -> int:
    """Print the ranking, substitutes or the week."""
    from zesty_lever.analysis import analyse
    from zesty_lever.choosing.shortlist import shortlist, substitutes
    from zesty_lever.choosing.week import NEEDS, cover_week, reason_in_words
    from zesty_lever.coaching.who import who_is
    from zesty_lever.io.json_files import read_case, replacing
    from zesty_lever.wording.messages import said

    case, wish, rules = read_case(arguments.case), _wish_of(arguments), rules_of(arguments)
    options: list[Option | RuledOut]
    if arguments.like:
        options = [*substitutes(case.athlete, analyse(case), wish, case.school, rules=rules)]
    else:
        options = shortlist(case.athlete, wish, case.school, rules=rules)
    left: list[str] = []
    if arguments.week:
        chosen, left = cover_week(options)
        options = [*map(reason_in_words, chosen)]
    rows = [_row(number, option) for number, option in enumerate(options, start=1)]
    for row in rows:
        told = "; ".join(text for text in (*row[-2:], row[8]) if text)
        words = f"ruled out: {row[9]}" if row[9] else told
        print(f"{row[0]:>3}  {row[1]:<42} {row[-3]:>14}  {words}")
    for sentence in who_is(case.athlete, rules.standing).says:
        print(said(sentence))
    if left:
        print(f"not covered by any: {', '.join(NEEDS[need] for need in left)}")
    if arguments.csv:
        with replacing(arguments.csv) as file:
            writer = csv.writer(file)
            writer.writerow(COLUMNS)
            writer.writerows([text_of(c) if isinstance(c, str) else c for c in row] for row in rows)
    return OK


def _wish_of(arguments: argparse.Namespace) -> Wish:
    """The wish that the options ask for. Raises `CaseError` for one that can't be read."""
    from zesty_lever.choosing.wishes import Ceiling, Wish

    ceilings = []
    for text in arguments.ceiling:
        share, _, lift = text.partition("@")
        ((joint, number),) = pairs([share], "--ceiling").items()
        ceilings.append(Ceiling(joint, number, lift or "back-squat-high-bar"))
    have = None
    if arguments.have is not None:
        have = frozenset(item.strip() for item in arguments.have.split(","))
    return Wish(
        pairs(arguments.want, "--want"),
        tuple(ceilings),
        have,
        arguments.skill,
        not arguments.alone,
        frozenset(arguments.direction),
        keep_shape=not arguments.allow_rounding,
    )


def _row(number: int, option: Option | RuledOut) -> list[Any]:
    from zesty_lever.choosing.shortlist import RuledOut
    from zesty_lever.joints import BY_KEY
    from zesty_lever.wording.messages import load_words
    from zesty_lever.wording.sentences import notes_words, ruled_out_words, settings_words

    if isinstance(option, RuledOut):
        row: list[Any] = [number, option.variation, *[""] * (len(COLUMNS) - 2)]
        row[COLUMNS.index("ruled_out")] = ruled_out_words(option)
        return row
    changed = "".join(f"; {key} {value:g}" for key, value in option.settings.items())
    ends = [
        f"{option.spans[key][end]:.1f}" if key in option.spans else ""
        for key in BY_KEY
        for end in (0, 1)
    ]
    return [
        number,
        option.variation,
        f"{option.load_kg:.1f}",
        option.load_rule + changed,
        f"{option.score:.3f}",
        *(f"{option.peaks[key]:.1f}" for key in BY_KEY),
        option.reason,
        "",
        *ends,
        *(f"{option.flexors[key]:.1f}" if key in option.flexors else "" for key in BY_KEY),
        load_words(option.variation, option.load_kg),
        settings_words(option).removeprefix(", "),
        notes_words(option).removeprefix("; "),
    ]


def run_search(arguments: argparse.Namespace) -> int:
    """Print the best technique and the frontier as JSON."""
    from zesty_lever.choosing.technique import search
    from zesty_lever.io.json_files import read_case, replacing, write_json

    joint = arguments.lower or arguments.higher
    shown = sys.stderr.isatty()

    def tell(share: float) -> None:
        if shown:
            print(
                f"\r{100 * share:.0f} %",
                end="\n" if share >= 1.0 else "",
                file=sys.stderr,
                flush=True,
            )

    found = search(
        read_case(arguments.case),
        joint,
        most=arguments.higher is not None,
        ceilings=pairs(arguments.ceiling, "--ceiling"),
        keep_depth=not arguments.free_depth,
        tell=tell,
    )
    data = json.loads(json.dumps(asdict(found)))
    if arguments.out is None:
        write_json(data, sys.stdout, indent=1)
    else:
        with replacing(arguments.out) as file:
            write_json(data, file, indent=1)
    return OK
