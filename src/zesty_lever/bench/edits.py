"""Edits of a bench: pure functions from one bench to the next, each with a name for the history.

An edit raises `Refused` where the bench does not take it and `CaseError` where a value is wrong; both
carry the reason in words. Nothing here knows a window.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from zesty_lever.analysis import analyse, analysed
from zesty_lever.bench.edit import Refused, edit
from zesty_lever.bench.model import MOST_IN_LINEUP, MOST_NOTE, SLOT_NAMES, Bench, Entry
from zesty_lever.cases.anchors import Anchor
from zesty_lever.cases.loads import ANCHOR_REACH_M
from zesty_lever.cases.model import MOST_MEASUREMENTS, Athlete, Case, School, Setup
from zesty_lever.cases.parse import athlete_from
from zesty_lever.cases.resolve import resolve
from zesty_lever.choosing.loading import typical_load_kg
from zesty_lever.coaching.gym import USUAL_BELLS, Bells
from zesty_lever.coaching.numbers import rules_with, usual_rules
from zesty_lever.coaching.schools import schools
from zesty_lever.exercises.catalogue import Setting, variation
from zesty_lever.feasibility import balanced_angles

# What "same legs" gives to the other set-up.
LEG_SETTINGS = (
    "stance_m",
    "toe_out_deg",
    "thigh_deg",
    "shin_deg",
    "knee_track_m",
    "heel_lift_deg",
    "heel_height_m",
    "pressure_fraction",
)


def _known(bench: Bench) -> Mapping[str, Setting]:
    """Settings of the variation that is edited."""
    return variation(bench.setup.variation).settings


def _with(bench: Bench, setup: Setup) -> Bench:
    """The bench with another set-up in the place that is edited."""
    return bench.with_setup(bench.editing, _still_measured(bench.setup, setup))


def _still_measured(before: Setup, after: Setup) -> Setup:
    """A set-up whose changed angles no longer count as measured."""
    errors = after.errors
    if errors is None or errors != before.errors:
        return after
    if after.variation != before.variation:
        return after.changed(errors=None)
    changed = {
        key: None
        for key in ("shin_deg", "thigh_deg", "trunk_deg")
        if after.settings.get(key) != before.settings.get(key)
    }
    left = errors.changed(**changed)
    measured = any(getattr(left, key) is not None for key in ("shin_deg", "thigh_deg", "trunk_deg"))
    return after.changed(errors=left if measured or errors == left else None)


def _with_settings(bench: Bench, settings: Mapping[str, float | None]) -> Bench:
    return _with(bench, bench.setup.changed(settings=dict(settings)))


# --- the set-up that is edited ---------------------------------------------------------------


@edit(lambda _bench, label, **_changes: str(label))
def change_setup(bench: Bench, /, label: str, **changes: Any) -> Bench:  # noqa: ARG001 (the label's)
    """Change fields of the set-up; ``label`` is what the history calls it."""
    return _with(bench, bench.setup.changed(**changes))


@edit(lambda bench, key, _value: f"Set {_known(bench)[key].name.lower()}", merges=True)
def set_setting(bench: Bench, key: str, value: float) -> Bench:
    """Give one setting a value, keeping the solved angle solved.

    When ``key`` is the angle that balance solves, another angle is found that brings it there: the
    shin for the trunk, the trunk for the others. Refused where there is none.
    """
    case = resolve(bench.case(bench.editing))
    settings = dict(bench.setup.settings)
    if key != case.free:
        return _with_settings(bench, {**settings, key: value})
    partner = "shin_deg" if key == "trunk_deg" else "trunk_deg"
    angles = balanced_angles(case.changed(settings={**case.settings, key: value, partner: None}))
    known = _known(bench)
    found = None if angles is None else round(angles[partner], 3)
    if found is None or not known[partner].low <= found <= known[partner].high:
        name, kept = (known[k].name.lower() for k in (partner, key))
        raise Refused(f"No {name} angle balances that; the {kept} stays solved")
    return _with_settings(bench, {**settings, partner: found})


@edit(lambda bench, key, _value: f"Drag {_known(bench)[key].name.lower()}")
def drag_setting(bench: Bench, key: str, value: float) -> Bench:
    """Give one setting a dragged value, held to the setting's own range."""
    return set_setting(bench, key, _known(bench)[key].clamped(value))


@edit("Drag on the map")
def drag_pair(bench: Bench, one: str, first: float, two: str, second: float) -> Bench:
    """Give two settings dragged values, held to their own ranges."""
    known, settings = _known(bench), dict(bench.setup.settings)
    settings |= {key: known[key].clamped(value) for key, value in ((one, first), (two, second))}
    return _with_settings(bench, settings)


@edit(lambda bench, key: f"Solve {_known(bench)[key].name.lower()} by balance")
def solve_for(bench: Bench, key: str) -> Bench:
    """Let balance solve another angle; the one solved so far keeps its value.

    Nothing changes where the pose can't be done: there is no value to keep.
    """
    result = analyse(bench.case(bench.editing))
    free = result.case.free
    if key == free or not result.feasible:
        return bench
    settings = dict(bench.setup.settings)
    if free:
        settings[free] = round(result.solved.bottom_deg[free], 3)
    return _with_settings(bench, {**settings, key: None})


@edit("Move anchor")
def move_anchor(bench: Bench, anchor: Anchor, ahead_m: float, up_m: float) -> Bench:
    """Move an anchor of a band or cable in the side view, held to what it can take."""
    setup = bench.setup
    if anchor.load is None:
        known, settings = _known(bench), dict(setup.settings)
        for key, value in (("anchor_behind_m", -ahead_m), ("anchor_height_m", up_m)):
            if key in anchor.keys:
                settings[key] = known[key].clamped(value)
        return _with_settings(bench, settings)
    loads = list(setup.loads)
    place = (
        min(max(ahead_m, -ANCHOR_REACH_M), ANCHOR_REACH_M),
        min(max(up_m, 0.0), ANCHOR_REACH_M),
        anchor.place[2],
    )
    loads[anchor.load] = loads[anchor.load].changed(end=place)
    return _with(bench, setup.changed(loads=tuple(loads)))


@edit(lambda _bench, name: f"Change to {variation(name).name}")
def set_variation(bench: Bench, name: str) -> Bench:
    """Change the variation: default settings, a working load for this athlete."""
    if name == bench.setup.variation:
        return bench
    school = bench.athlete.school or bench.setup.school
    bare = Case(athlete=bench.athlete, variation=name, school=school)
    changes: dict[str, Any] = {
        "variation": name,
        "settings": {},
        "load_kg": typical_load_kg(bare, bench.rules)[0],
        "load_up_kg": None,
    }
    fresh = bench.setup.changed(**changes, loads=(), contact_rule=None, school=school)
    if not analysed(fresh.case_for(bench.athlete)).feasible:
        fresh = fresh.changed(load_kg=None)
    return _with(bench, fresh)


@edit("Change the other set-up")
def set_other_variation(bench: Bench, name: str) -> Bench:
    """Change the variation of the set-up that is not edited, and go on with the one that is."""
    other = bench.changed(editing=1 - bench.editing)
    return set_variation(other, name).changed(editing=bench.editing)


@edit("To the bench as B")
def put_setup(bench: Bench, setup: Setup) -> Bench:
    """Put a set-up on the bench as B, beside A, and edit it there."""
    plain = setup.setup if isinstance(setup, Entry | Case) else setup
    return bench.with_setup(1, plain).changed(editing=1)


@edit("What instead")
def put_alone(bench: Bench, setup: Setup) -> Bench:
    """Put a set-up on the bench as A, the one that others stand in for."""
    return bench.with_setup(0, setup).changed(editing=0)


@edit(lambda _bench, slot, _setup: f"Measured rep as {SLOT_NAMES[slot]}")
def put_measured(bench: Bench, slot: int, setup: Setup) -> Bench:
    """Put a measured rep on the bench, with its own errors, and edit it."""
    return bench.with_setup(slot, setup).changed(editing=slot)


@edit("Measurement kept")
def link_measurement(bench: Bench, number: str) -> Bench:
    """Note at the athlete that a measurement is kept."""
    athlete = bench.athlete
    if number in athlete.measurements:
        return bench
    kept = (*athlete.measurements, number)[-MOST_MEASUREMENTS:]
    return bench.with_athlete(athlete.changed(measurements=kept))


@edit("Measured lengths")
def measured_lengths(bench: Bench, lengths: Mapping[str, float]) -> Bench:
    """Take lengths measured in a clip over to the athlete. Raises `CaseError` where no body has them."""
    athlete = bench.athlete
    return bench.with_athlete(athlete.changed(lengths_m={**athlete.lengths_m, **lengths}))


# --- A and B ---------------------------------------------------------------------------------


@edit(lambda _bench, slot: f"Edit {SLOT_NAMES[slot]}")
def edit_slot(bench: Bench, slot: int) -> Bench:
    """Choose which set-up is edited."""
    return bench.changed(editing=slot)


@edit(lambda bench: f"Copy to {SLOT_NAMES[1 - bench.editing]}")
def copy_to_other(bench: Bench) -> Bench:
    """Give the other set-up everything of this one, to change a single thing there."""
    return bench.with_setup(1 - bench.editing, bench.setup)


@edit("Swap A and B")
def swap(bench: Bench) -> Bench:
    """Exchange A and B."""
    first, second = bench.setups
    return bench.changed(setups=(second, first))


@edit("Same legs and load")
def same_legs(bench: Bench) -> Bench:
    """Give B the legs, pressure point and load of A, so that only the load's place differs."""
    one, two = (variation(setup.variation) for setup in bench.setups)
    if not (one.stands_level and two.stands_level) or one.family != two.family:
        raise Refused("Legs can be shared between two squats, or two hinges, on level feet")
    first = analyse(bench.case(0))
    case = first.case
    shared = {k: v for k in LEG_SETTINGS if (v := case.settings.get(k)) is not None}
    for key, value in first.shown.bottom_deg.items():
        if key in LEG_SETTINGS and key != two.free:
            shared[key] = round(value, 3)
    low, high = two.load_range_kg()
    load = min(max(case.load_kg, low), high)
    return bench.with_setup(1, bench.setups[1].changed(settings=shared, load_kg=load))


@edit(lambda _bench, slot, _load_kg: f"Match {SLOT_NAMES[slot]}'s load")
def set_load_of(bench: Bench, slot: int, load_kg: float) -> Bench:
    """Give one of the two set-ups a load."""
    return bench.with_setup(slot, bench.setups[slot].changed(load_kg=round(load_kg, 1)))


@edit(lambda _bench, school: f"Read by: {schools().name(school).lower()}")
def read_by(bench: Bench, school: School) -> Bench:
    """Both set-ups exactly as they stand, read by another school: what was its default becomes given."""
    setups = tuple(
        s.changed(school=school, settings=dict(resolve(bench.case(slot)).settings))
        for slot, s in enumerate(bench.setups)
    )
    return bench.changed(setups=setups)


# --- athletes --------------------------------------------------------------------------------


@edit(lambda _bench, label, **_changes: str(label))
def change_athlete(bench: Bench, /, label: str, **changes: Any) -> Bench:  # noqa: ARG001 (the label's)
    """Change the athlete's data; ``label`` is what the history calls it."""
    return bench.with_athlete(athlete_from(bench.athlete.as_json() | changes))


@edit(lambda bench, index: f"Switch to {bench.athletes[index].name}")
def switch_athlete(bench: Bench, index: int) -> Bench:
    """Put another athlete on the bench, with their school where they have one."""
    bench = bench.changed(current=index)
    school = bench.athlete.school
    if school is None:
        return bench
    return bench.changed(setups=tuple(s.changed(school=school) for s in bench.setups))


@edit("New athlete")
def add_athlete(bench: Bench) -> Bench:
    """Add an athlete of average build and put them on the bench."""
    names = {a.name for a in bench.athletes}
    number = next(n for n in range(1, 1000) if f"Athlete {n}" not in names)
    fresh = Athlete(name=f"Athlete {number}", height_m=1.75, mass_kg=75.0, sex="male")
    return take_athlete(bench, fresh)


@edit(lambda _bench, _athlete, label="Import athlete": str(label))
def take_athlete(bench: Bench, athlete: Athlete, label: str = "Import athlete") -> Bench:  # noqa: ARG001
    """Add an athlete from elsewhere and put them on the bench."""
    athletes = (*bench.athletes, athlete)
    return bench.changed(athletes=athletes, current=len(athletes) - 1)


@edit(lambda bench: f"Remove {bench.athlete.name}")
def remove_athlete(bench: Bench) -> Bench:
    """Take the current athlete off the list, and their entries off the line-up; the last one stays."""
    if len(bench.athletes) == 1:
        raise Refused("The last athlete stays: change their data or add another first")
    gone = bench.current
    athletes = tuple(a for i, a in enumerate(bench.athletes) if i != gone)
    ids = tuple(own for i, own in enumerate(bench.athlete_ids) if i != gone)
    lineup = tuple(
        e.changed(athlete=None if e.athlete is None else e.athlete - (e.athlete > gone))
        for e in bench.lineup
        if e.athlete != gone
    )
    return bench.changed(
        athletes=athletes, athlete_ids=ids, current=max(gone - 1, 0), lineup=lineup
    )


@edit("Open case")
def take_case(bench: Bench, case: Case) -> Bench:
    """Put a case on the bench: its athlete (added if not there yet) and its set-up."""
    known = [i for i, a in enumerate(bench.athletes) if a == case.athlete]
    athletes = bench.athletes if known else (*bench.athletes, case.athlete)
    current = known[0] if known else len(athletes) - 1
    return _with(bench.changed(athletes=athletes, current=current), case.setup)


# --- the line-up -----------------------------------------------------------------------------


def _room_in_lineup(bench: Bench) -> None:
    if len(bench.lineup) == MOST_IN_LINEUP:
        raise Refused(f"A line-up takes {MOST_IN_LINEUP}: take one off first")


def _with_lineup(bench: Bench, entries: list[Entry] | tuple[Entry, ...]) -> Bench:
    return bench.changed(lineup=tuple(entries))


@edit("Add to the line-up")
def line_up(bench: Bench, slot: int, setup: Setup | None = None) -> Bench:
    """Add a set-up of the bench (or another) to the line-up."""
    _room_in_lineup(bench)
    chosen = setup or bench.setups[slot]
    return _with_lineup(bench, (*bench.lineup, Entry(**chosen.as_dict())))


@edit("Add for another athlete")
def line_up_for(bench: Bench, index: int, athlete: int) -> Bench:
    """Add a copy of a line-up entry for another athlete."""
    _room_in_lineup(bench)
    fixed = tuple(
        e if e.athlete is not None else e.changed(athlete=bench.current) for e in bench.lineup
    )
    return _with_lineup(bench, (*fixed, fixed[index].changed(athlete=athlete)))


@edit("Take off the line-up")
def take_off_lineup(bench: Bench, index: int) -> Bench:
    """Take one off the line-up; a pinned one stays."""
    if index < len(bench.lineup) and bench.lineup[index].pinned:
        raise Refused("It is pinned: unpin it first")
    return _with_lineup(bench, [e for i, e in enumerate(bench.lineup) if i != index])


@edit("Clear the line-up")
def clear_lineup(bench: Bench) -> Bench:
    """Take all off that are not pinned."""
    return _with_lineup(bench, [e for e in bench.lineup if e.pinned])


@edit("Note")
def note_in_lineup(bench: Bench, index: int, note: str) -> Bench:
    """Write a note on a line-up entry."""
    if len(note) > MOST_NOTE:
        raise Refused(f"A note has at most {MOST_NOTE} characters; this one has {len(note)}")
    lineup = list(bench.lineup)
    lineup[index] = lineup[index].changed(note=note)
    return _with_lineup(bench, lineup)


def _pin_label(bench: Bench, index: int) -> str:
    return "Unpin" if any(e.pinned for e in bench.lineup[index : index + 1]) else "Pin"


@edit(_pin_label)
def pin_in_lineup(bench: Bench, index: int) -> Bench:
    """Pin one: it goes to the left, behind those pinned already, and stays; or let a pinned one go."""
    if not 0 <= index < len(bench.lineup):
        return bench
    lineup = list(bench.lineup)
    entry = lineup.pop(index)
    lineup.insert(sum(e.pinned for e in lineup), entry.changed(pinned=not entry.pinned))
    return _with_lineup(bench, lineup)


@edit("Move in the line-up")
def move_in_lineup(bench: Bench, index: int) -> Bench:
    """Move one a place towards the baseline."""
    if not 0 < index < len(bench.lineup):
        return bench
    lineup = list(bench.lineup)
    if lineup[index - 1].pinned and not lineup[index].pinned:
        raise Refused("The one to its left is pinned: unpin it, or pin this one too")
    lineup[index - 1], lineup[index] = lineup[index], lineup[index - 1]
    return _with_lineup(bench, lineup)


@edit("Match loads")
def set_lineup_match(bench: Bench, match: str | None) -> Bench:
    """Change how the line-up's loads are matched."""
    return bench.changed(lineup_match=match)


# --- records ---------------------------------------------------------------------------------


@edit("Athletes of the records")
def know_athletes(bench: Bench, ids: Sequence[int]) -> Bench:
    """Note which athletes of the records these are."""
    return bench.changed(athlete_ids=tuple(str(own) if own else "" for own in ids))


@edit("Take over from the records")
def settle_athlete(bench: Bench, index: int, athlete: Athlete) -> Bench:
    """Replace an athlete by what the records say; measurements stay."""
    own = bench.athletes[index]
    athletes = list(bench.athletes)
    athletes[index] = athlete.changed(measurements=own.measurements)
    return bench.changed(athletes=tuple(athletes))


@edit("Name the coach")
def set_coach(bench: Bench, name: str) -> Bench:
    """Say who writes in the records."""
    return bench.changed(coach=name.strip())


@edit("Rules of advice")
def set_advice_rules(bench: Bench, rules: Mapping[str, float]) -> Bench:
    """Change numbers of the rules of advice; only those that differ from the usual are kept."""
    usual = usual_rules()
    kept = {k: v for k, v in rules.items() if v != getattr(usual, k, None)}
    _ = rules_with(kept)
    return bench.changed(advice_rules=kept)


@edit("What counts as hard")
def set_hard(bench: Bench, share: float, lift: str) -> Bench:
    """Change the share and the lift that hard repetitions are counted by."""
    _ = variation(lift)
    return bench.changed(hard_share=share, reference_lift=lift)


# --- what numbers rest on --------------------------------------------------------------------


@edit("Typical loads")
def set_typical_rules(bench: Bench, working: float, shares: Mapping[str, float]) -> Bench:
    """Change the rules of thumb for typical loads."""
    return bench.changed(working_share=working, lift_shares=dict(shares))


@edit("Repetitions a set")
def set_reps(bench: Bench, reps: int) -> Bench:
    """Change how many repetitions a set has."""
    return bench.changed(reps_a_set=reps)


@edit("What the gym has")
def set_gym(bench: Bench, bars: tuple[str, ...], pairs: Mapping[float, int], bar: str) -> Bench:
    """Say what bars and discs the gym has, and which bar is in use."""
    return bench.changed(gym_bars=bars, gym_pairs=dict(pairs), gym_bar=bar)


@edit("Dumbbells and kettlebells")
def set_bells(bench: Bench, bells: Bells) -> Bench:
    """Say what dumbbells and kettlebells the gym has."""
    return bench.changed(gym_bells=None if bells == USUAL_BELLS else bells)


@edit("Equipment")
def set_equipment(bench: Bench, missing: tuple[str, ...]) -> Bench:
    """Say what kinds of equipment the gym lacks."""
    return bench.changed(gym_missing=missing)


@edit("Measurement errors")
def set_errors(bench: Bench, errors: Mapping[str, float]) -> Bench:
    """Change the measurement errors that intervals rest on."""
    return bench.changed(errors=dict(errors))
