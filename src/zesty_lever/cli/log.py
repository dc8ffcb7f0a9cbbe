"""The commands of the records: log, exposure, plan."""

from __future__ import annotations

import argparse
import datetime as dt
import os
import sys
from pathlib import Path
from typing import TYPE_CHECKING, Any

from zesty_lever import clock
from zesty_lever.cli.console import OK, SOME_FAILED, USAGE, complain
from zesty_lever.problems import CaseError

if TYPE_CHECKING:
    from zesty_lever.records.people import Person
    from zesty_lever.records.store import Store

VARIABLE = "ZESTY_LEVER_RECORDS"
EXPOSURE_BY = ("joint", "direction", "side")


def add_log(commands: Any) -> None:
    """Add ``log``, ``exposure`` and ``plan`` to the parser."""
    whole = commands.add_parser("log", help="records in and out: export, import, erase, backup")
    parts = whole.add_subparsers(dest="part", required=True)
    out = parts.add_parser(
        "export", help="write the log as JSON lines, as CSV, or a person's folder"
    )
    out.add_argument("--athlete", metavar="NAME|ID")
    _add_days(out)
    out.add_argument("--kind", choices=("json", "csv", "folder"), default="json")
    out.add_argument("--out", type=Path, required=True, metavar="F", help=".gz by suffix")
    back = parts.add_parser("import", help="take in JSON lines; nothing is overwritten")
    back.add_argument("file", type=Path)
    back.add_argument("--dry-run", action="store_true", help="only say what would be done")
    gone = parts.add_parser("erase", help="take a person out of everything")
    gone.add_argument("athlete", metavar="ATHLETE")
    gone.add_argument("--yes", action="store_true", help="needed: this can't be undone")
    parts.add_parser("backup", help="copy the records, checked, into the folder backups")
    restore = parts.add_parser("restore", help="put a backup in place; without a name: list them")
    restore.add_argument("backup", nargs="?", metavar="BACKUP")
    parts.add_parser("check", help="check the records and say what is in them")
    given = commands.add_parser("exposure", help="what joints got, by week, from the log")
    given.add_argument("--athlete", metavar="NAME|ID")
    given.add_argument("--weeks", type=int, default=5, metavar="N", help="1 to 520; default 5")
    given.add_argument("--by", choices=EXPOSURE_BY, default="joint")
    given.add_argument("--csv", type=Path, metavar="F", help="also write the table as CSV")
    planned = commands.add_parser("plan", help="build a week, calendar, handout")
    plans = planned.add_subparsers(dest="part", required=True)
    build = plans.add_parser("build", help="a week from a wish (zesty-lever-wish/1)")
    build.add_argument("wish", type=Path, metavar="WISH.json")
    build.add_argument("--out", type=Path, required=True, metavar="PLAN.json")
    calendar = plans.add_parser("calendar", help="planned sessions as iCalendar")
    calendar.add_argument("--athlete", required=True, metavar="NAME|ID")
    calendar.add_argument("--out", type=Path, required=True, metavar="F.ics")
    handout = plans.add_parser("handout", help="a session as PDF for the athlete")
    handout.add_argument("session", metavar="SESSION", help="id of a session, or a plan file")
    handout.add_argument("--athlete", metavar="NAME|ID", help="needed with a plan file")
    handout.add_argument("--out", type=Path, required=True, metavar="F.pdf")
    for one in (*parts.choices.values(), given, calendar, handout):
        one.add_argument(
            "--store",
            metavar="ADDRESS",
            help=f"path or postgresql://…; default ${VARIABLE}, else the user's own records",
        )


def _add_days(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("--from", dest="first", metavar="DAY", help="as 2026-11-27")
    parser.add_argument("--to", dest="last", metavar="DAY", help="as 2026-11-27")


def data_folder() -> Path:
    """The user's data folder."""
    from platformdirs import user_data_path

    return user_data_path("zesty-lever")


def address_given(arguments: argparse.Namespace) -> str | Path:
    """Where the records are: as given, by the variable, else the user's own."""
    found = arguments.store or os.environ.get(VARIABLE)
    return found or data_folder() / "records.db"


def opened_store(arguments: argparse.Namespace) -> Store:
    """The records that are named, held until `let_go`. Raises `CaseError`."""
    try:
        from zesty_lever.records.store import open_store
    except ImportError:
        raise CaseError(
            "needs-extra", "records need the optional part 'app': pip install zesty-lever[app]"
        ) from None
    store = arguments.held = open_store(address_given(arguments))
    for words in (store.said, store.read_only):
        if words:
            complain(words)
    return store


def let_go(arguments: argparse.Namespace) -> None:
    """Close the records, where a command has opened them."""
    held: Store | None = getattr(arguments, "held", None)
    if held is not None:
        held.close()


def day_given(text: str | None, key: str) -> int | None:
    """A day as 2026-11-27. Raises `CaseError`."""
    if text is None:
        return None
    try:
        return dt.date.fromisoformat(text).toordinal()
    except ValueError:
        raise CaseError(
            "wrong-value", f"{key} is {text[:20]}; allowed is a day as 2026-11-27", key=key
        ) from None


def days_given(arguments: argparse.Namespace) -> tuple[int, int] | None:
    """The days asked for. Raises `CaseError` where the last comes before the first."""
    first, last = day_given(arguments.first, "--from"), day_given(arguments.last, "--to")
    if first is None and last is None:
        return None
    low, high = first or 693_596, last or 767_010
    if high < low:
        raise CaseError(
            "days-out-of-order",
            f"--to {arguments.last} comes before --from {arguments.first}",
            key="--to",
        )
    return low, high


def _person(store: Store, named: str | None) -> Person | None:
    from zesty_lever.records.people import find_person

    return None if named is None else find_person(store, named)


def run_log(arguments: argparse.Namespace) -> int:
    """Carry out one part of ``log``."""
    parts = {
        "export": _export,
        "import": _import,
        "erase": _erase,
        "backup": _backup,
        "restore": _restore,
        "check": _check,
    }
    try:
        return parts[arguments.part](arguments)
    except CaseError as error:
        complain(error.text)
        return USAGE if error.key == "store" else SOME_FAILED


def _export(arguments: argparse.Namespace) -> int:
    from zesty_lever.records.exporting import export_csv, export_lines, export_person, written

    days = days_given(arguments)
    store = opened_store(arguments)
    person = _person(store, arguments.athlete)
    own = None if person is None else person.id
    if arguments.kind == "folder":
        if own is None:
            complain("--kind folder needs --athlete")
            return USAGE
        made = export_person(store, own, arguments.out)
        print(f"{len(made)} files in {arguments.out}")
        return OK
    with written(arguments.out) as file:
        if arguments.kind == "csv":
            count = export_csv(store, file, own, days)
        else:
            count = export_lines(store, file, own, days, _progress())
    print(f"{count} lines in {arguments.out}")
    return OK


def _progress() -> Any:
    if not sys.stderr.isatty():
        return None

    def tell(share: float) -> None:
        end = "\n" if share >= 1.0 else ""
        print(f"\rwriting: {100 * share:3.0f} %", end=end, file=sys.stderr, flush=True)

    return tell


def _import(arguments: argparse.Namespace) -> int:
    from zesty_lever.records.importing import import_lines, opened

    store = opened_store(arguments)
    with opened(arguments.file) as stream:
        report = import_lines(store, stream, dry_run=arguments.dry_run)
    print(("would be " if arguments.dry_run else "") + report.words)
    for text in (*report.conflicts, *report.refused)[:50]:
        complain(text)
    return SOME_FAILED if report.refused or report.conflicts else OK


def _erase(arguments: argparse.Namespace) -> int:
    from zesty_lever.bench.erasing import erase_everywhere

    store = opened_store(arguments)
    person = _person(store, arguments.athlete)
    assert person is not None
    if not arguments.yes:
        complain(f"{person.name} would be erased for good; say --yes")
        return USAGE
    own = store.path is not None and store.path.parent == data_folder()
    folder = data_folder() if own else None
    memory = None
    if own:
        from platformdirs import user_config_path

        memory = user_config_path("zesty-lever") / "window.json"
    today = clock.today()
    beyond = erase_everywhere(store, person, today, folder, memory)
    print(f"Erased. Out of reach: {'; '.join(beyond)}.")
    return OK


def _own_path(store: Store) -> Path:
    if store.path is None:
        raise CaseError(
            "wrong-value", "a server's records are backed up by the server", key="store"
        )
    return store.path


def _backup(arguments: argparse.Namespace) -> int:
    from zesty_lever.records.keeping import backup

    print(backup(_own_path(opened_store(arguments)), "asked"))
    return OK


def _restore(arguments: argparse.Namespace) -> int:
    from zesty_lever.records.engine import address_of
    from zesty_lever.records.keeping import backup, backups_of, restore, sound

    url = address_of(address_given(arguments))
    path = Path(str(url.database))
    if arguments.backup is None:
        for one in backups_of(path):
            print(f"{one.name}  {'sound' if sound(one) else 'not sound'}")
        return OK
    named = [one for one in backups_of(path) if one.name == arguments.backup]
    if not named:
        complain(f"there is no backup {arguments.backup}; without a name they are listed")
        return USAGE
    if path.exists() and sound(path):
        backup(path, "before-restore")
    restore(path, named[0])
    print(f"{named[0].name} has taken the place of {path.name}")
    return OK


def _check(arguments: argparse.Namespace) -> int:
    from zesty_lever.records.keeping import sound
    from zesty_lever.records.summary import counts

    store = opened_store(arguments)
    print(f"records at {store.where}, schema {store.revision()}")
    for name, count in counts(store).items():
        print(f"{count:9d} {name}")
    if store.path is not None and not sound(store.path):
        complain("the file is damaged: restore a backup")
        return SOME_FAILED
    return OK


def run_exposure(arguments: argparse.Namespace) -> int:
    """Print exposure by week."""
    from zesty_lever.records.summary import exposure_rows

    if not 1 <= arguments.weeks <= 520:
        complain(f"--weeks is {arguments.weeks}; allowed is 1 to 520")
        return USAGE
    try:
        store = opened_store(arguments)
        person = _person(store, arguments.athlete)
        today = clock.today()
        rows = exposure_rows(
            store, None if person is None else person.id, today, arguments.weeks, arguments.by
        )
    except CaseError as error:
        complain(error.text)
        return USAGE if error.key == "store" else SOME_FAILED
    widths = [max(len(row[at]) for row in rows) for at in range(len(rows[0]))]
    for row in rows:
        print(
            "  ".join(cell.ljust(width) for cell, width in zip(row, widths, strict=True)).rstrip()
        )
    if arguments.csv is not None:
        from zesty_lever.io.json_files import replacing
        from zesty_lever.records.exporting import csv_text

        with replacing(arguments.csv) as file:
            file.write(csv_text(rows))
    return OK


def run_plan(arguments: argparse.Namespace) -> int:
    """Carry out one part of ``plan`` (the handout is the window's: it needs its painters)."""
    parts = {"build": _build, "calendar": _calendar}
    try:
        return parts[arguments.part](arguments)
    except CaseError as error:
        complain(error.text)
        return USAGE if error.key == "store" else SOME_FAILED


def _build(arguments: argparse.Namespace) -> int:
    from zesty_lever.cases.parse import parse_json
    from zesty_lever.io.json_files import read_bounded, replacing, write_json
    from zesty_lever.joints import BY_KEY
    from zesty_lever.log.predicted import Prediction
    from zesty_lever.plan.builder import build_week
    from zesty_lever.plan.document import plan_json
    from zesty_lever.plan.wish import read_wish
    from zesty_lever.wording.messages import said

    wish = read_wish(parse_json(read_bounded(arguments.wish, "a wish"), arguments.wish.name))
    built = build_week(wish)
    with replacing(arguments.out) as file:
        write_json(plan_json(built.plan), file, indent=1)
    for _, session in built.plan.sessions():
        names = ", ".join(i.name for _, i in session.listed() if i.setup is not None)
        print(f"{session.name}: {names}")
    for words in built.unmet:
        print(f"not met: {words}")
    for one in built.says:
        print(said(one))
    steps = Prediction(wish.athlete).steps(built.plan.weeks) if wish.weeks > 1 else []
    for number, ratios in enumerate(steps[1:], start=2):
        parts = ", ".join(f"{BY_KEY[key].word} {ratio:.2f}" for key, ratio in ratios.items())
        lighter = " (lighter)" if built.plan.weeks[number - 1].deload else ""
        print(f"week {number}{lighter}: {parts} of the last full week before it")
    return OK


def _calendar(arguments: argparse.Namespace) -> int:
    from zesty_lever.io.json_files import replacing
    from zesty_lever.plan.calendar import calendar_text
    from zesty_lever.records.summary import appointments

    store = opened_store(arguments)
    person = _person(store, arguments.athlete)
    assert person is not None
    found = appointments(store, person.id)
    with replacing(arguments.out) as file:
        # newline: the lines carry their own endings.
        file.write(calendar_text(found, f"Training {person.name}"))
    print(f"{len(found)} sessions in {arguments.out}")
    return OK
