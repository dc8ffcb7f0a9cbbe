"""Prints speeds of the records at 60 athletes x 3 years; nothing is asserted.

The sample is invented, its cached repetitions are made up: it measures the database and the reading, not the mechanics.
"""

from __future__ import annotations

import io
import os
import random
import resource
import subprocess
import sys
import tempfile
import time
from pathlib import Path

import sqlalchemy as sa

from zesty_lever.cases.model import Athlete, Setup
from zesty_lever.log.entry import DoneSet
from zesty_lever.log.exposure import MODEL, case_of, rep_loads, setup_document
from zesty_lever.plan.document import Session
from zesty_lever.records import documents, entries, people, sums
from zesty_lever.records import tables as t
from zesty_lever.records.exporting import export_lines
from zesty_lever.records.ids import new_id
from zesty_lever.records.importing import import_lines
from zesty_lever.records.store import Store, open_store
from zesty_lever.records.views import log_view, roster

ATHLETES, WEEKS, SESSIONS, SETS, CASES = 60, 156, 4, 25, 54_000
LIFTS = ("back-squat-high-bar", "hip-thrust", "romanian-deadlift", "split-squat", "front-squat")
TODAY = 739_947
SOMEONE = Athlete(name="Someone", height_m=1.75, mass_kg=75, sex="male")


def sample(store: Store) -> list[int]:
    """Fill a store; the ids of its athletes."""
    dice = random.Random(1)
    owned = [
        people.add_person(store, SOMEONE.changed(name=f"Athlete {n:02d}"), TODAY - 7 * WEEKS).id
        for n in range(ATHLETES)
    ]
    setups = []
    hashes = [f"{n:024x}" for n in range(CASES)]
    with store.writing() as connection:
        for at, lift in enumerate(LIFTS):
            text = setup_document(Setup(variation=lift))
            row = {"id": new_id(), "hash": f"h{at}", "variation": lift, "document": text}
            connection.execute(sa.insert(t.setup).values(row))
            setups.append(row["id"])
        columns = [f"{j}_{k}" for j in t.JOINT_COLUMNS for k in ("extensor", "flexor", "peak")]
        cached = [
            {"case_hash": h, "model": MODEL, "seconds": 3.0, "problem": ""}
            | {c: dice.uniform(0.0, 300.0) for c in columns}
            for h in hashes
        ]
        connection.execute(sa.insert(t.exposure), cached)
    for who, athlete in enumerate(owned):
        own = hashes[who * CASES // ATHLETES : (who + 1) * CASES // ATHLETES]
        with store.writing() as connection:
            _one_athlete(connection, athlete, setups, own, dice)
    return owned


def _one_athlete(
    connection: sa.Connection,
    athlete: int,
    setups: list[int],
    hashes: list[str],
    dice: random.Random,
) -> None:
    sessions, rows = [], []
    for week in range(WEEKS):
        for number in range(SESSIONS):
            day = TODAY - 7 * (WEEKS - week) + 2 * number
            session = new_id()
            row = documents.SessionRow(session, athlete, day, Session(name="S"), "done")
            sessions.append(documents.session_values(row))
            for n in range(SETS):
                at = 86_400_000 * (day - 719_163) + 1000 * n
                rows.append(
                    {
                        "id": new_id(),
                        "athlete": athlete,
                        "session": session,
                        "withdrawn": False,
                        "at_ms": at,
                        "day": day,
                        "item": f"i{n // 5}",
                        "number": n % 5 + 1,
                        "setup": setups[n // 5],
                        "drill": "",
                        "case_hash": dice.choice(hashes),
                        "uncounted": "",
                        "style": "straight",
                        "side": "both",
                        "load_kg": 60.0,
                        "reps": 5,
                        "quarters": 0,
                        "tempo": "",
                        "note": "",
                        "replaces": None,
                    }
                )
    rows += [{**own, "id": new_id(), "replaces": own["id"], "reps": 4} for own in rows[::100]]
    connection.execute(sa.insert(t.session), sessions)
    connection.execute(sa.insert(t.entry), rows)


def told(what: str, seconds: float, aim: str) -> None:
    """One line."""
    shown = f"{1e3 * seconds:8.1f} ms" if seconds < 2.0 else f"{seconds:8.1f} s "
    print(f"{what:58} {shown}   aim {aim}")


def timed(call, repeats=5):  # noqa: ANN001, ANN201
    """Median and first seconds of a call."""
    seconds = []
    for _ in range(repeats):
        start = time.perf_counter()
        call()
        seconds.append(time.perf_counter() - start)
    return sorted(seconds)[len(seconds) // 2]


def bench_store(folder: Path) -> None:
    """The aims of the records at the sample's size."""
    path = folder / "records.db"
    store = open_store(path)
    start = time.perf_counter()
    owned = sample(store)
    count = sum(1 for _ in owned) * WEEKS * SESSIONS * SETS
    print(
        f"records: {count} sets made in {time.perf_counter() - start:.0f} s, {path.stat().st_size / 1e6:.0f} MB"
    )
    store.close()
    before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
    start = time.perf_counter()
    store = open_store(path, daily=False)
    told("open the store", time.perf_counter() - start, "-")
    one = people.person(store, owned[7])
    week = (TODAY - 84, TODAY)
    told(
        "12 weeks of one athlete by joint, week, lift",
        timed(lambda: sums.sums(store, one.id, week)),
        "50 ms",
    )
    told("3 years of one athlete", timed(lambda: sums.sums(store, one.id), 3), "-")
    told(
        "the same of all athletes, 5 weeks",
        timed(lambda: sums.sums(store, owned, (TODAY - 34, TODAY)), 3),
        "-",
    )
    told(
        f"roster of {ATHLETES}, read", timed(lambda: roster(store, TODAY, weeks=False), 3), "0.3 s"
    )
    told("roster, with the weeks beside it", timed(lambda: roster(store, TODAY), 3), "-")
    told(
        "log of one athlete, 16 weeks, all that the screen shows",
        timed(lambda: log_view(store, one, TODAY), 3),
        "0.1 s",
    )
    row = documents.sessions_of(store, one.id, (TODAY - 14, TODAY))[0]
    told("one session with its sets", timed(lambda: entries.log_of(store, session=row.id)), "20 ms")
    done = DoneSet(setup=Setup(variation="front-squat"), load_kg=47.5, reps=5)
    told(
        "commit of a set",
        timed(lambda: entries.append(store, [entries.entry_of(done, one.id, row.id, TODAY)]), 20),
        "5 ms",
    )
    told("exposure of a new set", timed(lambda: rep_loads([case_of(done, one.body)])), "20 ms")
    out = io.StringIO()
    start = time.perf_counter()
    lines = export_lines(store, out, one.id)
    one_s = time.perf_counter() - start
    told(f"export of one athlete ({lines} lines)", one_s, f"{30.0 / ATHLETES:.2f} s")
    other = open_store(folder / "other.db")
    start = time.perf_counter()
    import_lines(other, io.BytesIO(out.getvalue().encode()))
    rate = lines / (time.perf_counter() - start)
    print(f"{'import':58} {rate:8.0f} rows a second")
    after = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
    print(f"{'memory grown by all of this':58} {(after - before) / 1024:8.0f} MB")
    store.close()
    other.close()


def bench_week(folder: Path) -> None:
    """A week built from a list that is there, and its first session as a handout."""
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    from zesty_lever.choosing.shortlist import shortlist
    from zesty_lever.plan.builder import build_week
    from zesty_lever.plan.wish import read_wish
    from zesty_lever.ui.app import application
    from zesty_lever.ui.handout import Handout, write_handout

    days = [
        {"weekday": 0, "minutes": 60},
        {"weekday": 3, "minutes": 60},
        {"weekday": 5, "minutes": 45},
    ]
    athlete = {"height_m": 1.69, "mass_kg": 64, "sex": "female", "best_loads_kg": {LIFTS[0]: 85}}
    wish = read_wish({"format": "zesty-lever-wish/1", "athlete": athlete, "days": days})
    ranked = shortlist(wish.athlete, wish.wish(), "even", spans=False)
    told("week built after the list", timed(lambda: build_week(wish, ranked=ranked), 3), "0.5 s")
    application()
    session = build_week(wish, ranked=ranked).plan.weeks[0].sessions[0]
    sheet = Handout(wish.athlete, session, TODAY)
    told("handout", timed(lambda: write_handout(sheet, folder / "handout.pdf"), 3), "0.2 s")


def bench_screen() -> None:
    """From pressing a screen of records to its content, first and later."""
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    code = (
        "import sys, time, tempfile; from pathlib import Path;"
        "from zesty_lever.ui import app as a; app = a.application();"
        "w = a.make_window(Path(sys.argv[1]), demo=True);"
        "w.show(); app.processEvents();"
        "import gc; gc.collect(); gc.freeze();"
        "held = lambda: int(Path('/proc/self/statm').read_text().split()[1]) * 4096 / 2**20; m0 = held();\n"
        "def press(name):\n"
        "    s = time.perf_counter(); w.show_screen(name); screen = w.screen_named(name); gap = 0.0\n"
        "    screen.ask()\n"
        "    while (screen.waiting.busy or getattr(getattr(screen, 'desk', screen), 'view', screen) is None) and time.perf_counter() < s + 20:\n"
        "        t = time.perf_counter(); app.processEvents(); gap = max(gap, time.perf_counter() - t); time.sleep(0.001)\n"
        "    took = time.perf_counter() - s\n"
        "    while time.perf_counter() < s + took + 1.5: app.processEvents(); time.sleep(0.005)\n"
        "    return took, gap\n"
        "for name in ('Roster', 'Roster', 'Log', 'Log', 'Plan'):\n"
        "    took, gap = press(name)\n"
        "    print(f'{name} from press to content {1e3 * took:.0f} ms, longest the window was held {1e3 * gap:.0f} ms, '\n"
        "          f'memory {held() - m0:.0f} MB more than before')\n"
    )
    with tempfile.TemporaryDirectory() as folder:
        for what in (
            "the demonstration's first time: its twelve weeks are written",
            "records there",
        ):
            print(f"{what}:")
            subprocess.run([sys.executable, "-c", code, folder], check=True)
    print("   aims: 0.7 s first, 0.1 s later, 100 ms held, +40 MB")


def main() -> None:
    """Everything."""
    with tempfile.TemporaryDirectory() as folder:
        bench_store(Path(folder))
        bench_week(Path(folder))
    bench_screen()


if __name__ == "__main__":
    main()
