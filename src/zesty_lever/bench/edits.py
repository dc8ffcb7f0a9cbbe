"""Edits of a bench: pure functions from one bench to the next."""

from __future__ import annotations

from zesty_lever.bench.model import Bench
from zesty_lever.cases.anchors import Anchor
from zesty_lever.cases.loads import ANCHOR_REACH_M
from zesty_lever.cases.model import School
from zesty_lever.cases.resolve import resolve
from zesty_lever.exercises.catalogue import variation


def with_anchor(bench: Bench, slot: int, anchor: Anchor, ahead_m: float, up_m: float) -> Bench:
    """The bench with an anchor of one set-up moved in the side view, held to what it can take."""
    setup = bench.setups[slot]
    if anchor.load is None:
        known, settings = variation(setup.variation).settings, dict(setup.settings)
        for key, value in (("anchor_behind_m", -ahead_m), ("anchor_height_m", up_m)):
            if key in anchor.keys:
                settings[key] = known[key].clamped(value)
        return bench.with_setup(slot, setup.changed(settings=settings))
    loads = list(setup.loads)
    place = (
        min(max(ahead_m, -ANCHOR_REACH_M), ANCHOR_REACH_M),
        min(max(up_m, 0.0), ANCHOR_REACH_M),
        anchor.place[2],
    )
    loads[anchor.load] = loads[anchor.load].changed(end=place)
    return bench.with_setup(slot, setup.changed(loads=tuple(loads)))


def read_by(bench: Bench, school: School) -> Bench:
    """Both set-ups exactly as they stand, read by another school: what was its default becomes given."""
    setups = tuple(
        s.changed(school=school, settings=dict(resolve(bench.case(slot)).settings))
        for slot, s in enumerate(bench.setups)
    )
    return bench.changed(setups=setups)
