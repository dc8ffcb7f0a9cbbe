"""Writes the table of all variations into docs/model.md: `python tools/variation_table.py`."""

from __future__ import annotations

from pathlib import Path

from zesty_lever.analysis import analyse
from zesty_lever.cases.model import Athlete, Case
from zesty_lever.choosing.loading import typical_load_kg
from zesty_lever.exercises.catalogue import catalogue
from zesty_lever.joints import COACH_JOINTS

MODEL = Path(__file__).parents[1] / "docs" / "model.md"
START, END = "<!-- variations: start -->", "<!-- variations: end -->"
BEST = "back-squat-high-bar"
PEOPLE = (
    Athlete(height_m=1.78, mass_kg=82.0, sex="male", best_loads_kg={BEST: 130.0}),
    Athlete(height_m=1.66, mass_kg=62.0, sex="female", best_loads_kg={BEST: 75.0}),
)
# What was published about a variation against another one, as remembered, and why the model differs.
PUBLISHED = {
    "front-squat": "knee like the back squat's although less is lifted (Gullett 2009); here 142 against 148 N·m with 75 against 90 kg",
    "back-squat-low-bar": "the hip's share of hip and knee up against high-bar (Glassbrook 2017, review); the same here: 0.54 against 0.53",
    "sumo-deadlift": "lower back about 0.9 of conventional (Cholewicki 1991); here 0.90",
    "hex-bar-deadlift": "lower back about 0.9, knee about twice the straight bar's (Swinton 2011); here 0.87 and 1.7",
    "wide-squat": "hip moment up, knee about the same or less (Escamilla 2001); the same here, more of it sideways",
    "hip-thrust": "hip moment high at lockout, squats near none there (Contreras 2015, by muscle activity); the same here",
    "box-squat": "knee moment below the free squat's (Swinton 2012); the same here",
    "forward-lunge": "knee moment above the reverse lunge's at the same load (Comfort 2015, by peaks); close here: rest only, no landing",
    "step-up": "hip moment above the squat's at the same load in one leg (Simenz 2012, by activity); the same here",
}


def rows() -> list[str]:
    """One row a variation: loads and peaks of both people, what was published."""
    found = []
    for name, entry in catalogue().items():
        cells = [entry.name]
        for person in PEOPLE:
            case = Case(athlete=person, variation=name, frames="none")
            load = typical_load_kg(case)[0]
            result = analyse(case.changed(load_kg=load))
            peaks = " / ".join(f"{result.peaks[g.key]:.0f}" for g in COACH_JOINTS)
            cells += [f"{load:g}" if entry.load else "-", peaks]
        found.append(f"| {' | '.join([*cells, PUBLISHED.get(name, '')])} |")
    return found


def table() -> str:
    """The whole table."""
    head = "| variation | kg | hip / knee / lower back | kg | hip / knee / lower back | published, value from memory |"
    return "\n".join([START, head, "|---|---|---|---|---|---|", *rows(), END])


def main() -> None:
    """Put the table between its marks."""
    text = MODEL.read_text(encoding="utf-8")
    before, _, rest = text.partition(START)
    after = rest.partition(END)[2]
    MODEL.write_text(before + table() + after, encoding="utf-8")


if __name__ == "__main__":
    main()
