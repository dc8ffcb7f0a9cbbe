"""How it went over time: best set, load, hard repetitions, impulse, pain by place, sides."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence

from zesty_lever.coaching.gym import rep_max_kg
from zesty_lever.frozen import dataclass
from zesty_lever.log.entry import Entry, Pain
from zesty_lever.log.sides import side_gap
from zesty_lever.log.tracks import RAMP

MOST_REPS = 12


@dataclass(frozen=True)
class Point:
    """One day (or Monday of a week) of a trend: value with its band (equal where there is none)."""

    day: int
    value: float
    low: float
    high: float


@dataclass(frozen=True)
class Trend:
    """A series over days: ``name``, ``unit``, points oldest first."""

    name: str
    unit: str
    points: tuple[Point, ...]

    @property
    def spoken(self) -> str:
        """One sentence for a screen reader."""
        if not self.points:
            return f"{self.name}: nothing yet."
        first, last = self.points[0], self.points[-1]
        if len(self.points) == 1:
            return f"{self.name}: {last.value:.3g} {self.unit}, once."
        best = max(p.value for p in self.points)
        return (
            f"{self.name}: from {first.value:.3g} to {last.value:.3g} {self.unit} over "
            f"{len(self.points)} points; the most is {best:.3g} {self.unit}."
        )


@dataclass(frozen=True)
class LiftDay:
    """One session's sets of one lift, ramp sets left out."""

    day: int
    sets: tuple[Entry, ...]

    @property
    def load_kg(self) -> float:
        """The heaviest load of the session."""
        return max(entry.load_kg for entry in self.sets)


def lift_days(entries: Sequence[Entry], name: str) -> list[LiftDay]:
    """An athlete's entries of one lift by session, oldest first; ramp sets count in no progress."""
    found: dict[int, list[Entry]] = {}
    for entry in entries:
        if entry.name == name and not entry.withdrawn and entry.style != RAMP:
            found.setdefault(entry.session, []).append(entry)
    days = [LiftDay(own[0].day, tuple(own)) for own in found.values()]
    return sorted(days, key=lambda one: one.day)


def best_sets(visits: Sequence[LiftDay]) -> Trend:
    """The best set of each session as an estimated one-repetition maximum: both formulas as a band (kg)."""
    points = []
    for visit in visits:
        bands = [
            rep_max_kg(e.load_kg, e.reps)
            for e in visit.sets
            if 1 <= e.reps <= MOST_REPS and e.load_kg > 0.0
        ]
        if bands:
            low, high = max((sorted(band) for band in bands), key=sum)
            points.append(Point(visit.day, 0.5 * (low + high), low, high))
    return Trend("Best set, as an estimated maximum", "kg", tuple(points))


def loads(visits: Sequence[LiftDay]) -> Trend:
    """The heaviest and the lightest load of each session, kg."""
    points = [Point(v.day, v.load_kg, min(e.load_kg for e in v.sets), v.load_kg) for v in visits]
    return Trend("Load", "kg", tuple(points))


def seconds_held(visits: Sequence[LiftDay]) -> Trend:
    """The longest hold of each session, s."""
    points = [
        Point(v.day, most, most, most)
        for v in visits
        if (most := max((e.seconds or 0.0) for e in v.sets)) > 0.0
    ]
    return Trend("Longest hold", "s", tuple(points))


def pains(found: Iterable[tuple[int, Pain]], place: str) -> Trend:
    """The worst pain of each day at a place, of 10."""
    worst: dict[int, int] = {}
    for day, pain in found:
        if pain.place == place:
            worst[day] = max(worst.get(day, 0), pain.score)
    points = [Point(day, score, score, score) for day, score in sorted(worst.items())]
    return Trend(f"Pain, {place}", "of 10", tuple(points))


def gaps(visits: Sequence[LiftDay]) -> Trend:
    """How far the weaker side is behind, %; plus: the left one is weaker."""
    points = []
    for visit in visits:
        gap = side_gap(visit.sets)
        if gap is not None:
            value = 100.0 * gap[0] * (1.0 if gap[1] == "left" else -1.0)
            points.append(Point(visit.day, value, value, value))
    return Trend("Sides: left behind right", "%", tuple(points))


def weekly(name: str, unit: str, by_week: Mapping[int, float]) -> Trend:
    """A sum by week, at its Monday."""
    points = [Point(7 * week + 1, value, value, value) for week, value in sorted(by_week.items())]
    return Trend(name, unit, tuple(points))


def lifts_of(entries: Sequence[Entry]) -> list[str]:
    """Lifts in the log, the most often done first."""
    count: dict[str, set[int]] = {}
    for entry in entries:
        if entry.setup is not None:
            count.setdefault(entry.name, set()).add(entry.session)
    return sorted(count, key=lambda name: (-len(count[name]), name))


LIFT_TRENDS: Mapping[str, Callable[[Sequence[LiftDay]], Trend]] = {
    "best set": best_sets,
    "load": loads,
    "hold": seconds_held,
    "sides": gaps,
}


@dataclass(frozen=True)
class Compared:
    """A set beside the same item of last time, in words that are empty where nothing differs."""

    now: Entry
    then: Entry | None

    @property
    def words(self) -> str:
        """What differs: load, repetitions, what was left, faults, pain."""
        then, now = self.then, self.now
        if then is None:
            return "first time"
        parts = []
        if abs(now.load_kg - then.load_kg) > 1e-6:
            parts.append(f"{now.load_kg - then.load_kg:+g} kg")
        if now.reps != then.reps:
            change = now.reps - then.reps
            parts.append(f"{change:+d} rep{'' if abs(change) == 1 else 's'}")
        if (now.seconds or 0) != (then.seconds or 0):
            parts.append(f"{(now.seconds or 0) - (then.seconds or 0):+g} s")
        if now.effort_left is not None and then.effort_left is not None:
            more = now.effort_left - then.effort_left
            if more:
                parts.append(f"{more:+g} left")
        gone = {f.code for f in then.faults} - {f.code for f in now.faults}
        new = {f.code for f in now.faults} - {f.code for f in then.faults}
        parts += [f"no longer {code}" for code in sorted(gone)] + [f"new: {c}" for c in sorted(new)]
        worst = [max((p.score for p in e.pains), default=0) for e in (now, then)]
        if worst[0] != worst[1]:
            parts.append(f"pain {worst[1]} to {worst[0]}")
        return ", ".join(parts) or "as last time"


def against_last(entries: Sequence[Entry], session: int) -> list[Compared]:
    """Each set of a session beside the same set of the lift's session before."""
    own = [e for e in entries if e.session == session]
    found = []
    for entry in own:
        visits = [v for v in lift_days(entries, entry.name) if v.sets[0].session != session]
        earlier = [v for v in visits if v.day <= entry.day]
        then = None
        if earlier:
            last = earlier[-1]
            same = [e for e in last.sets if e.side == entry.side]
            at = [e for e in own if e.name == entry.name and e.side == entry.side].index(entry)
            then = same[min(at, len(same) - 1)] if same else None
        found.append(Compared(entry, then))
    return found
