"""The command ``plan handout``: a session of the records or of a plan file as PDF, without a display."""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import TYPE_CHECKING

from zesty_lever import clock
from zesty_lever.cli.console import OK, SOME_FAILED, USAGE, complain
from zesty_lever.cli.log import let_go, opened_store
from zesty_lever.plan.document import read_plan_file
from zesty_lever.problems import CaseError
from zesty_lever.ui.app import application, has_display, use_offscreen
from zesty_lever.ui.handout import Handout, write_handout

if TYPE_CHECKING:
    from zesty_lever.records.store import Store


def run_handout(arguments: argparse.Namespace) -> int:
    """Write the handout of a session; a plan file gives one PDF for each of its first week's sessions."""
    if not has_display():
        use_offscreen()
    application()
    try:
        sheets = _sheets(arguments)
    except CaseError as error:
        complain(error.text)
        return USAGE if error.key == "store" else SOME_FAILED
    except OSError as error:
        complain(f"{error.filename or 'file'}: {error.strerror}")
        return USAGE
    finally:
        let_go(arguments)
    out: Path = arguments.out
    for number, sheet in enumerate(sheets):
        path = out if number == 0 else out.with_name(f"{out.stem}-{number + 1}{out.suffix}")
        try:
            write_handout(sheet, path)
        except OSError as error:
            complain(f"{path}: {error.strerror}")
            return USAGE
        print(path)
    return OK


def _sheets(arguments: argparse.Namespace) -> list[Handout]:
    from zesty_lever.records.people import find_person

    store = opened_store(arguments)
    today = clock.today()
    if not arguments.session.isdigit():
        if arguments.athlete is None:
            raise CaseError("missing-key", "a plan file needs --athlete", key="--athlete")
        person = find_person(store, arguments.athlete)
        plan = read_plan_file(Path(arguments.session))
        sessions = [s for week, s in plan.sessions() if week == 0]
        return [Handout(person.body, s, today, stage=person.stage) for s in sessions]
    return [_of_session(store, int(arguments.session), today)]


def _of_session(store: Store, session: int, today: int) -> Handout:
    from zesty_lever.records.advising import HISTORY_DAYS, History, advices, with_advice
    from zesty_lever.records.documents import session_row, sessions_of
    from zesty_lever.records.entries import log_of, pains_of
    from zesty_lever.records.people import person

    row = session_row(store, session)
    if row is None:
        raise CaseError("unknown-session", f"the records have no session {session}", key="session")
    who = person(store, row.athlete)
    days = (today - HISTORY_DAYS, today)
    history = History.of(
        who,
        log_of(store, row.athlete, days=days),
        pains_of(store, row.athlete),
        rows=sessions_of(store, row.athlete, days),
    )
    ready = with_advice(row.session, advices(row.session, history, today))
    return Handout(who.body, ready, row.day, stage=who.stage)
