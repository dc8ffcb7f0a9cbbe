"""Makes data/demo/records.jsonl.gz: twelve invented weeks of the mountain-rescue team, seeded.

Progress by the program's own advice, one fault that comes and goes, one sore knee, one missed fortnight. Days are
moved to the day of the demonstration when it is opened.
"""

from __future__ import annotations

import io
import itertools
import random
import tempfile
from pathlib import Path
from types import SimpleNamespace
from typing import Any

from zesty_lever import clock
from zesty_lever.bench.files import read_bench
from zesty_lever.cases.model import Athlete, Setup
from zesty_lever.choosing.loading import USUAL
from zesty_lever.log.entry import DoneSet, Fault, Pain
from zesty_lever.log.predicted import sets_planned
from zesty_lever.plan.document import Block, Item, Plan, Session, Week, keyed
from zesty_lever.plan.doses import drill_item
from zesty_lever.plan.drills import drill
from zesty_lever.plan.edits import as_template, deloaded
from zesty_lever.records import documents, entries, ids, people
from zesty_lever.records.advising import History, advices, with_advice
from zesty_lever.records.demo import MORE_DAYS, OUT, REFERENCE_DAY, write_demo
from zesty_lever.records.exporting import export_lines
from zesty_lever.records.store import Store, open_store
from zesty_lever.records.templates import save_template
from zesty_lever.tables import data_path

SEED, WEEKS = 20260927, 12
DAY_MS = 86_400_000
Story = dict[str, Any]
TEAM_MORE = (
    ("Liv Hestad", "female", 1.74, 71.0, {"back-squat-high-bar": 70}, "beginner"),
    ("Arne Skog", "male", 1.78, 82.0, {"back-squat-high-bar": 120}, "back-from-injury"),
)


def lift(name: str, sets: int, reps: tuple[int, int], **more: Any) -> Item:
    """A lift whose load the program's own advice gives."""
    return Item(setup=Setup(variation=name), sets=sets, reps=reps, load_rule="advised", **more)


def warm(*names: str) -> Block:
    """A warm-up of some drills."""
    return Block(kind="warm-up", items=tuple(drill_item(drill(name)) for name in names))


def programme(kind: str) -> Plan:
    """Two or three sessions a week; the last of every four weeks lighter."""
    strong = [
        Session(
            name="Squat day",
            weekday=0,
            blocks=(
                warm("knee-to-wall", "side-lying-clam", "hips-to-wall"),
                Block(
                    items=(lift("back-squat-high-bar", 4, (4, 6), rest_s=150.0, effort_left=2.0),)
                ),
                Block(
                    kind="assistance",
                    items=(
                        lift("romanian-deadlift", 3, (6, 8), effort_left=2.0),
                        lift("split-squat", 3, (6, 8), side="each", rest_s=90.0, effort_left=2.0),
                    ),
                ),
            ),
        ),
        Session(
            name="Thrust day",
            weekday=3,
            blocks=(
                warm("leg-swings-front-back", "bridge-knees-out"),
                Block(items=(lift("hip-thrust", 3, (8, 10), rest_s=120.0, effort_left=2.0),)),
                Block(
                    kind="assistance",
                    items=(
                        lift("front-squat", 3, (5, 6), rest_s=120.0, effort_left=2.0),
                        lift("curtsy-lunge", 2, (8, 10), side="each", rest_s=90.0, effort_left=2.0),
                    ),
                ),
                Block(
                    kind="finisher",
                    style="holds",
                    items=(lift("straight-leg-heel-elevated-hold", 2, (1, 1), seconds=15.0),),
                ),
            ),
        ),
    ]
    gentle = [
        Session(
            name="First day",
            weekday=1,
            blocks=(
                warm("hip-circles", "side-lying-leg-raise", "hips-to-wall"),
                Block(items=(lift("goblet-squat", 3, (8, 10), effort_left=3.0),)),
                Block(
                    kind="assistance",
                    items=(
                        lift("kettlebell-behind-back-hinge", 3, (8, 10), effort_left=3.0),
                        lift("glute-bridge", 3, (10, 15), effort_left=3.0),
                    ),
                ),
            ),
        ),
        Session(
            name="Second day",
            weekday=4,
            blocks=(
                warm("leg-swings-side", "balance-and-reach"),
                Block(items=(lift("dumbbell-deadlift", 3, (8, 10), effort_left=3.0),)),
                Block(
                    kind="assistance",
                    items=(lift("reverse-lunge", 3, (6, 8), side="each", effort_left=3.0),),
                ),
            ),
        ),
    ]
    week = Week(sessions=tuple(strong if kind == "strong" else gentle))
    weeks = [deloaded(week) if kind == "strong" and n % 4 == 3 else week for n in range(WEEKS + 2)]
    name = "Winter strength" if kind == "strong" else "First winter"
    return keyed(Plan(name=name, weeks=tuple(weeks)))


class Season:
    """One athlete's twelve weeks."""

    def __init__(
        self,
        store: Store,
        person: people.Person,
        plan: documents.PlanRow,
        coach: people.Coach,
        dice: random.Random,
    ) -> None:
        self.store, self.person, self.plan, self.coach, self.dice = store, person, plan, coach, dice
        self.log: list[entries.Entry] = []
        self.pains: list[tuple[int, int, int, int | None, Pain]] = []

    def run(self, story: Story) -> None:
        """Every session that the log holds as done."""
        for row in documents.sessions_of(self.store, self.person.id):
            week = (row.day - self.plan.first_day) // 7
            if row.day >= REFERENCE_DAY + MORE_DAYS:
                continue
            if story.get("missed") and week in story["missed"]:
                documents.save_session(self.store, row, "KB", state="missed")
                continue
            self.session(row, week, story)

    def session(self, row: documents.SessionRow, week: int, story: Story) -> None:
        """One session as it went."""
        rows = documents.sessions_of(self.store, self.person.id, (0, row.day - 1))
        history = History.of(self.person, self.log, self.pains, rows=rows)
        advised = advices(row.session, history, row.day)
        ready = with_advice(row.session, advised)
        stopped = {key for key, advice in advised.items() if advice.action == "stop"}
        began = (row.day - 719_163) * DAY_MS + 17 * 3_600_000
        at = began
        made = []
        for done in sets_planned(ready, self.person.body, USUAL):
            if done.item in stopped:
                continue
            at += 150_000 + self.dice.randrange(30_000)
            one = self.varied(done, week, story)
            made.append(
                entries.entry_of(one, self.person.id, row.id, row.day, self.coach.id, at_ms=at)
            )
        entries.append(self.store, made)
        self.log += made
        self.pains += [(self.person.id, row.day, row.id, e.id, p) for e in made for p in e.pains]
        documents.save_session(
            self.store,
            row,
            "KB",
            state="done",
            started_ms=began,
            ended_ms=at,
            rating=self.dice.choice([5, 6, 6, 7, 7, 8]),
            session=ready,
        )

    def varied(self, done: DoneSet, week: int, story: Story) -> DoneSet:
        """As it went: mostly as planned, with the story's fault and pain in its weeks."""
        if done.setup is None:
            return done
        short = self.dice.random() < story["tired"] and done.reps > 3
        top = done.reps + (1 if self.dice.random() < 0.85 else 0)
        reps = 0 if done.held else (done.reps - 1 if short else top)
        wanted = 2.0 if self.person.stage == "usual" else 3.0
        left = wanted - 1.0 if short else wanted + self.dice.choice([0.0, 0.0, 0.5, 1.0])
        faults: tuple[Fault, ...] = ()
        pains: tuple[Pain, ...] = ()
        if done.name == story.get("fault") and week in story["fault_weeks"] and done.number >= 3:
            flagged = week == story["fault_weeks"][0]
            faults = (Fault(code="hips-rise-first", severity="flag" if flagged else "note"),)
        if done.name in story.get("sore", ()) and week in story["sore_weeks"] and done.number == 2:
            pains = (Pain(place="knee", side="left", score=story["sore_weeks"][week]),)
        return done.changed(
            reps=reps,
            effort_left=None if done.held else left,
            faults=faults,
            pains=pains,
            note="knee warm, stopped early" if pains and pains[0].score > 2 else "",
        )


STORIES = {
    "Oda Fenwick": {"tired": 0.015, "fault": "back-squat-high-bar", "fault_weeks": (4, 5, 9)},
    "Torvald Brekk": {
        "tired": 0.02,
        "sore": ("split-squat", "front-squat"),
        "sore_weeks": {6: 1, 7: 2, 10: 2, 11: 4},
    },
    "Liv Hestad": {"tired": 0.02, "missed": (5, 6)},
    "Arne Skog": {"tired": 0.02},
}


def main() -> None:
    """Make the file."""
    ids.secrets = SimpleNamespace(randbits=random.Random(SEED).getrandbits)
    ticks = itertools.count(1_790_000_000_000, 1000)
    clock.now_ms = lambda: next(ticks)
    bench = read_bench(Path(str(data_path("demo", "bench.json"))))
    first = documents.monday_of(REFERENCE_DAY) - 7 * (WEEKS - 1)
    with tempfile.TemporaryDirectory() as folder:
        store = open_store(Path(folder) / "records.db")
        coach = people.coach_named(store, "Kari Bakken")
        stages = {name: stage for name, *_, stage in TEAM_MORE}
        more = [
            Athlete(name=name, sex=sex, height_m=tall, mass_kg=heavy, best_loads_kg=bests)
            for name, sex, tall, heavy, bests, _ in TEAM_MORE
        ]
        for body in (*bench.athletes, *more):
            person = people.add_person(store, body, first, stages.get(body.name, "usual"))
            plan = programme("gentle" if stages.get(body.name) else "strong")
            row = documents.add_plan(store, person.id, first, plan, "KB")
            season = Season(store, person, row, coach, random.Random(f"{SEED} {person.name}"))
            season.run(STORIES[person.name])
        for kind, name in (("strong", "Winter strength"), ("gentle", "First winter")):
            save_template(store, as_template(programme(kind), name), "KB")
        out = io.StringIO()
        count = export_lines(store, out)
        store.close()
    write_demo(out.getvalue())
    print(f"{count} lines, {OUT.stat().st_size / 1024:.0f} kB")


if __name__ == "__main__":
    main()
