"""Writes data/tables/effort.toml: what a best of each lift takes of the joints: `python tools/effort_table.py`.

``use`` is derived: the median log of the top use at the lift's usual best (its share of the best high-bar back
squat) over the draws of a reference man of whom only a 130 kg squat is known, so that tables and trade shares
cannot drift apart. Shares, spreads and other limits: common practice, no source.
"""

from __future__ import annotations

from pathlib import Path

import numpy as np

from zesty_lever.cases.model import Athlete, Case
from zesty_lever.choosing.bests import demand_for, person_of
from zesty_lever.choosing.calibrate import Known, calibrated
from zesty_lever.choosing.effort import at_load, top_use
from zesty_lever.exercises.catalogue import variation

TABLE = Path(__file__).parents[1] / "src" / "zesty_lever" / "data" / "tables" / "effort.toml"
SQUAT, BEST_KG = "back-squat-high-bar", 130.0
MAN = Athlete(height_m=1.78, mass_kg=82.0, sex="male", best_loads_kg={SQUAT: BEST_KG})
RFESS = "rear-foot-elevated-split-squat"
# Lift: log SD of the use at a best, and what else limits.
LIFTS: dict[str, tuple[float, str]] = {
    SQUAT: (0.03, ""),
    "back-squat-low-bar": (0.03, ""),
    "narrow-squat": (0.04, ""),
    "front-squat": (0.045, "upper back and rack"),
    "belt-squat": (0.09, ""),
    "wide-squat": (0.07, "the hips' range"),
    "box-squat": (0.09, "the stop"),
    "conventional-deadlift": (0.045, ""),
    "sumo-deadlift": (0.055, "the hips' range"),
    "hex-bar-deadlift": (0.06, ""),
    "romanian-deadlift": (0.10, "seldom tested"),
    "stiff-leg-deadlift": (0.10, "seldom tested"),
    "romanian-deadlift-wide-grip": (0.10, "seldom tested"),
    "good-morning": (0.13, "seldom tested"),
    "straddle-squat": (0.12, "grip"),
    f"barbell-{RFESS}": (0.08, "balance"),
    RFESS: (0.08, "balance and grip"),
    f"{RFESS}-hips": (0.08, "balance and grip"),
    f"{RFESS}-knees": (0.08, "balance and grip"),
    "barbell-split-squat": (0.09, "balance"),
    "split-squat": (0.09, "balance and grip"),
    "reverse-lunge": (0.09, "balance and grip"),
    "forward-lunge": (0.10, "the braking step"),
    "step-up": (0.09, "balance"),
    "step-up-high": (0.09, "balance"),
    "single-leg-hinge": (0.10, "balance"),
    "single-leg-hip-thrust": (0.10, ""),
    "hip-thrust": (0.12, "the pad"),
    "banded-hip-thrust": (0.12, "the pad"),
    "barbell-floor-bridge": (0.14, "the pad"),
    "back-extension": (0.15, "endurance"),
}
HEAD = """\
# What a best of a lift takes of the joints: top use (1: all there is), its log SD, and what else limits.
# Written by tools/effort_table.py from the usual shares of the best high-bar back squat (common practice, no
# source) and the strength tables (from memory): not to be edited by hand.
"""


def main() -> None:
    """Derive every row and write the table."""
    demand = demand_for(Case(athlete=MAN, variation=SQUAT))
    person = person_of(calibrated(MAN, [Known(SQUAT, demand, BEST_KG, 1.0, LIFTS[SQUAT][0])]))
    rows = [HEAD]
    for name, (sd, other) in LIFTS.items():
        load = variation(name).load
        share = load.share_of_back_squat if load is not None else None
        assert share is not None, name
        lift = demand_for(Case(athlete=MAN, variation=name))
        tops = at_load(lift, top_use(lift, person), share * BEST_KG)
        use = 1.0 if name == SQUAT else float(np.exp(np.median(np.log(tops))))
        rows.append(f'\n[{name}]\nuse = {use:.2f}\nsd = {sd:g}\nother = "{other}"\n')
        print(f"{name:45} {share:5.2f} {use:5.2f}")
    TABLE.write_text("".join(rows), encoding="utf-8")


if __name__ == "__main__":
    main()
