"""The command that tells how hard a case is for its athlete, and what loads to try in other lifts."""

from __future__ import annotations

import argparse
import csv
import sys
from pathlib import Path
from typing import Any

from zesty_lever.cli.console import OK, SOME_FAILED
from zesty_lever.problems import CaseError

COLUMNS = (
    "variation",
    "best_kg",
    "best_low_kg",
    "best_high_kg",
    "tested",
    "working_kg",
    "equal_effort_kg",
    "use_at_best",
    "other_limit",
    "note",
)
MOST_REPS = 20


def add_effort(commands: Any) -> None:
    """Add the command to the parser."""
    asking = commands.add_parser(
        "effort", help="use of what hip, knee and back can hold; expected bests and loads to try"
    )
    asking.add_argument("case", type=Path, metavar="CASE")
    asking.add_argument("--all", action="store_true", help="every variation's best and loads")
    asking.add_argument("--csv", type=Path, help="also write --all as CSV")
    asking.add_argument(
        "--curves",
        type=Path,
        metavar="F.csv",
        help="peak moments measured by angle: joint, angle_deg, moment_Nm (or load_kg, lever_m), sd_Nm",
    )
    for name, meaning in (("--best", "a best lift"), ("--at-least", "more would have gone")):
        asking.add_argument(
            name,
            action="append",
            default=[],
            metavar="ID=KG[xREPS]",
            help=f"{meaning}, again for more",
        )


def run_effort(arguments: argparse.Namespace) -> int:
    """Print one case's effort as JSON, or every variation's bests as a table."""
    from zesty_lever.cases.resolve import resolve
    from zesty_lever.choosing.bests import strength_of
    from zesty_lever.io.json_files import read_case, write_json

    case = read_case(arguments.case)
    typed = [_best(text, "--best", at_least=False) for text in arguments.best]
    typed += [_best(text, "--at-least", at_least=True) for text in arguments.at_least]
    if typed:
        athlete = case.athlete.changed(bests=(*case.athlete.bests, *typed))
        case = case.changed(athlete=athlete)
    if arguments.curves is not None:
        from zesty_lever.io.strength_curves import read_curves

        curves: dict[str, Any] = {str(k): v for k, v in case.athlete.strength_curves.items()}
        curves |= read_curves(arguments.curves)
        case = case.changed(athlete=case.athlete.changed(strength_curves=curves))
    whole = resolve(case)
    result = None if arguments.all else _refuse_misleading(case)
    strength = strength_of(whole.athlete, whole.school)
    for note in (*strength.left_out, *strength.odd):
        print(note, file=sys.stderr)
    if result is None:
        return _print_all(whole, strength, arguments.csv)
    write_json(_document(result, strength), sys.stdout, indent=1)
    return OK


def _refuse_misleading(case: Any) -> Any:
    """The case's result; effort is not told where it would mislead. Raises `CaseError`."""
    from zesty_lever.analysis import analyse
    from zesty_lever.choosing.bests import misleads

    result = analyse(case)
    _ = result.solved
    if misleads(result):
        raise CaseError(
            "effort-misleads",
            "no effort is told of a moving case, nor of a floor pull that rounds the lower back by more than "
            "15 degrees",
            key="case",
        )
    return result


def _best(text: str, option: str, *, at_least: bool) -> Any:
    """A best as it is typed: ``back-squat-high-bar=100x5``."""
    from zesty_lever.cases.model import Best
    from zesty_lever.models import read

    name, equals, rest = text.partition("=")
    load, _, reps = rest.partition("x")
    try:
        values = {"load_kg": float(load), "reps": int(reps or 1)}
    except ValueError:
        equals = ""
    if not equals:
        raise CaseError(
            "bad-option",
            f"{option} {text[:60]}: it takes ID=KG or ID=KGxREPS, for instance back-squat-high-bar=100x5",
            key=option,
            value=text[:60],
        )
    return read(Best, {"variation": name, "at_least": at_least, **values}, option)


def _document(result: Any, strength: Any) -> dict[str, Any]:
    from zesty_lever.io.effort_object import effort_object

    return {
        "format": "zesty-lever-effort/1",
        "case": result.case.as_json(),
        "effort": effort_object(result, strength),
        "notes": [*strength.left_out, *strength.odd],
    }


def _print_all(case: Any, strength: Any, target: Path | None) -> int:
    """Every loaded variation's row; those that can't stand say why."""
    from zesty_lever.cases.model import Case
    from zesty_lever.choosing.bests import equal_effort_kg, expected_best, lift_use
    from zesty_lever.choosing.loading import proposed_load
    from zesty_lever.coaching.gym import at_hand_kg
    from zesty_lever.coaching.who import tells_bests
    from zesty_lever.exercises.catalogue import catalogue
    from zesty_lever.io.json_files import replacing
    from zesty_lever.io.tables import text_of

    rows: list[list[Any]] = []
    failed = False
    bests_told = tells_bests(case.athlete)
    for entry in catalogue().values():
        if entry.load is None or entry.load_range_kg()[1] <= 0.0:
            continue
        lift = lift_use(entry.id)
        try:
            best = expected_best(strength, entry.id, case.school) if bests_told else None
            other = Case(athlete=case.athlete, variation=entry.id, school=case.school)
            equal = equal_effort_kg(case, other) if bests_told else None
            proposed = proposed_load(other)
        except CaseError as error:
            failed = True
            rows.append([entry.id, *[None] * (len(COLUMNS) - 2), error.text])
            continue
        kilograms = (best.median_kg, best.low_kg, best.high_kg) if best else (None, None, None)
        working = proposed.load_kg if best or not bests_told else None
        if equal is not None:
            equal = at_hand_kg(entry.id, entry.equipment, equal)
        tested = best.tested if best else None
        notes = (lift.other or None, "rough" if lift.rough else None)
        rows.append([entry.id, *kilograms, tested, working, equal, lift.use, *notes])
    for row in [list(COLUMNS), *rows]:
        cells = [f"{c:.1f}" if isinstance(c, float) else "" if c is None else str(c) for c in row]
        print(
            f"{cells[0]:44}"
            + "  ".join(f"{cell:>12}" for cell in cells[1:8])
            + "  "
            + "  ".join(cells[8:])
        )
    if target is not None:
        with replacing(target) as file:
            writer = csv.writer(file)
            writer.writerow(COLUMNS)
            writer.writerows([text_of(cell) for cell in row] for row in rows)
    return SOME_FAILED if failed else OK
