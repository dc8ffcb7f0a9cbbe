"""What the gym has: bars, discs, and which of them make a load."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from functools import cache, lru_cache
from typing import Annotated

from zesty_lever.frozen import dataclass
from zesty_lever.models import Model, at_most, quantity
from zesty_lever.problems import CaseError
from zesty_lever.tables import csv_rows

STEP_KG = 0.25


@dataclass(frozen=True)
class Bar:
    """A bar: mass kg, grip diameter m."""

    name: str
    mass_kg: float
    shaft_m: float


@dataclass(frozen=True)
class Loading:
    """A loaded bar: ``side`` lists the discs (kg) on each end, heaviest first.

    ``off_kg`` is how far it is from what was asked; ``bar_height_m`` the bar's height over the floor
    on its largest disc (half the shaft where there is none).
    """

    bar: Bar
    side: tuple[float, ...]
    total_kg: float
    off_kg: float
    bar_height_m: float


# What a bar's path is learnt with; every gym has one.
STICK = Bar("stick", 1.0, 0.025)


@cache
def bars() -> dict[str, Bar]:
    """Known bars by name."""
    rows = csv_rows("bars")
    found = (Bar(r["name"], float(r["mass_kg"]), float(r["shaft_mm"]) / 1000) for r in rows)
    return {bar.name: bar for bar in found}


@cache
def disc_sizes_m() -> dict[float, float]:
    """Diameter (m) of each disc by its mass (kg)."""
    return {float(r["mass_kg"]): float(r["diameter_mm"]) / 1000 for r in csv_rows("discs")}


MOST_PAIRS = 20
BellMass = Annotated[float, quantity("kg", 0.5, 100.0)]
KETTLEBELLS_KG = (4.0, 6.0, 8.0, 10.0, 12.0, 16.0, 20.0, 24.0, 28.0, 32.0, 36.0, 40.0, 48.0)
DUMBBELLS_KG = tuple(2.0 * number for number in range(1, 31))


class Bells(Model, frozen=True, kw_only=True):
    """Dumbbells (there are two of each) and kettlebells of a gym, by mass (kg). Usual: common, no source."""

    dumbbells_kg: Annotated[tuple[BellMass, ...], at_most(80)] = DUMBBELLS_KG
    kettlebells_kg: Annotated[tuple[BellMass, ...], at_most(80)] = KETTLEBELLS_KG


USUAL_BELLS = Bells()


@dataclass(frozen=True)
class Gym:
    """What is at hand: names of bars, pairs of each disc by mass (kg), the bar to be used, and bells.

    ``bar`` empty: the heaviest straight bar that is not heavier than the load; the stick, which every gym has, for its
    own mass. Raises `CaseError` for
    bars and discs that are not known and for a number of pairs outside 0 to `MOST_PAIRS`.
    """

    bars: tuple[str, ...]
    pairs: Mapping[float, int]
    bar: str = ""
    bells: Bells = USUAL_BELLS

    def __post_init__(self) -> None:
        """Refuse what no gym has."""
        unknown = [
            name for name in (*self.bars, *([self.bar] if self.bar else [])) if name not in bars()
        ]
        if unknown:
            raise CaseError(
                "unknown-bar",
                f"{unknown[0]} is not a known bar; known are: {', '.join(bars())}",
                key="gym.bars",
                value=unknown[0],
                allowed=list(bars()),
            )
        _only_known_discs(self.pairs)
        for mass, count in self.pairs.items():
            if not 0 <= count <= MOST_PAIRS:
                raise CaseError(
                    "out-of-range",
                    f"{count} pairs of {mass:g} kg; allowed is 0 to {MOST_PAIRS}",
                    key="gym.pairs",
                    value=count,
                    unit="pairs",
                    allowed=[0, MOST_PAIRS],
                )

    def bar_for(self, name: str, load_kg: float) -> Bar | None:
        """The bar that a variation's load is made with, None where the gym has none."""
        if "hex" in name:
            return (
                bars()["hex bar"]
                if "hex bar" in self.bars and bars()["hex bar"].mass_kg <= load_kg
                else None
            )
        straight = [bars()[n] for n in self.bars if n != "hex bar" and bars()[n].mass_kg <= load_kg]
        chosen = [bar for bar in straight if bar.name == self.bar]
        stick = STICK if abs(load_kg - STICK.mass_kg) < 1e-6 else None
        return chosen[0] if chosen else max(straight, key=lambda bar: bar.mass_kg, default=stick)

    def loading(self, name: str, load_kg: float) -> Loading | None:
        """Bar and discs that come nearest to a load, None where no bar does."""
        bar = self.bar_for(name, load_kg)
        # Nothing is put on a stick.
        pairs = {} if bar is STICK else self.pairs
        return None if bar is None else load_bar(load_kg, bar, pairs)


def usual_gym() -> Gym:
    """A small gym."""
    return Gym(tuple(bars()), usual_discs())


def usual_discs() -> dict[float, int]:
    """Pairs at hand in a small gym, by mass (kg)."""
    return {float(r["mass_kg"]): int(r["pairs"]) for r in csv_rows("discs")}


def load_bar(total_kg: float, bar: Bar, pairs: Mapping[float, int]) -> Loading:
    """The discs that come nearest to a total, the lighter one of two as near, with the fewest discs.

    ``pairs`` is how many pairs of each disc there are. Raises `CaseError` for a disc whose size is not
    known or a total below the bar alone.
    """
    return _load_bar(total_kg, bar, tuple(sorted(pairs.items())))


@lru_cache(maxsize=512)
def _load_bar(total_kg: float, bar: Bar, at_hand: tuple[tuple[float, int], ...]) -> Loading:
    pairs = dict(at_hand)
    _only_known_discs(pairs)
    if total_kg < bar.mass_kg - 1e-9:
        most = bar.mass_kg + 2 * sum(m * n for m, n in pairs.items())
        raise CaseError(
            "lighter-than-the-bar",
            f"{total_kg:g} kg is less than the {bar.name} alone",
            key="load_kg",
            value=total_kg,
            unit="kg",
            allowed=[bar.mass_kg, most],
        )
    wanted = (total_kg - bar.mass_kg) / 2
    side = min(_sides(pairs).items(), key=lambda item: (abs(item[0] * STEP_KG - wanted), item[0]))[
        1
    ]
    total = bar.mass_kg + 2 * sum(side)
    largest = max((disc_sizes_m()[mass] for mass in side), default=bar.shaft_m)
    return Loading(bar, side, total, total - total_kg, largest / 2)


def _only_known_discs(pairs: Mapping[float, int]) -> None:
    unknown = [mass for mass in pairs if mass not in disc_sizes_m()]
    if unknown:
        raise CaseError(
            "unknown-disc",
            f"{unknown[0]:g} kg is not a known disc; known are: "
            f"{', '.join(f'{m:g}' for m in disc_sizes_m())} kg",
            key="discs",
            value=unknown[0],
            unit="kg",
            allowed=list(disc_sizes_m()),
        )


def _sides(pairs: Mapping[float, int]) -> dict[int, tuple[float, ...]]:
    """Every mass that one side can have (in steps of `STEP_KG`), each with its fewest discs."""
    reachable: dict[int, tuple[float, ...]] = {0: ()}
    for mass in sorted(pairs, reverse=True):
        for _ in range(pairs[mass]):
            for step, discs in list(reachable.items()):
                more = step + round(mass / STEP_KG)
                if more not in reachable or len(discs) + 1 < len(reachable[more]):
                    reachable[more] = (*discs, mass)
    return reachable


# Steps of what is hung on: bands, cables, discs on a belt, kg.
OTHER_STEP_KG = 2.5


def at_hand_kg(
    name: str, equipment: Sequence[str], load_kg: float, gym: Gym | None = None
) -> float:
    """The heaviest load (kg) not above ``load_kg`` that the gym makes for a variation.

    Bars with discs, bells of the gym (two of a kind where two are held), anything else in steps of 2.5 kg.
    A load lighter than the lightest there is gives that; none gives none.
    """
    gym = gym or usual_gym()
    if load_kg <= 0.0:
        return 0.0
    if "bar" in equipment or "hex bar" in equipment:
        return _bar_at_hand_kg(name, load_kg, gym)
    bells = _bells_kg(equipment, gym)
    if bells:
        return max((kg for kg in bells if kg <= load_kg + 1e-9), default=bells[0])
    return OTHER_STEP_KG * max(math.floor(load_kg / OTHER_STEP_KG + 1e-9), 1)


def loads_at_hand_kg(
    name: str,
    equipment: Sequence[str],
    most_kg: float,
    gym: Gym | None = None,
    *,
    stick: bool = False,
) -> tuple[float, ...]:
    """Every load (kg) up to ``most_kg`` that the gym makes for a variation, lightest first; empty: none.

    ``stick``: where a bar is held, a stick too (for those who begin).
    """
    gym = gym or usual_gym()
    if "bar" in equipment or "hex bar" in equipment:
        made = _bar_loads_kg(name, gym)
        if stick and "hex" not in name:
            made = (STICK.mass_kg, *made)
    else:
        steps = range(1, math.floor(most_kg / OTHER_STEP_KG + 1e-9) + 1)
        made = _bells_kg(equipment, gym) or tuple(OTHER_STEP_KG * n for n in steps)
    return tuple(kg for kg in made if kg <= most_kg + 1e-9)


def _bells_kg(equipment: Sequence[str], gym: Gym) -> tuple[float, ...]:
    """Loads that bells make, lightest first; empty where nothing of the kind is held, or the gym has none."""
    items, bells = " ".join(equipment), gym.bells
    if "two dumbbells" in equipment:
        return tuple(sorted({2.0 * kg for kg in bells.dumbbells_kg}))
    if "two kettlebells" in equipment:
        return tuple(sorted({2.0 * kg for kg in bells.kettlebells_kg}))
    if "kettlebell" in equipment:
        return tuple(sorted(set(bells.kettlebells_kg)))
    if "kettlebell or" in items:
        return tuple(sorted({*bells.dumbbells_kg, *bells.kettlebells_kg}))
    return ()


def _bar_loads_kg(name: str, gym: Gym) -> tuple[float, ...]:
    """Loads of the bar that the gym would take for each."""
    sides = _sides(gym.pairs)
    fitting = [bars()[n] for n in gym.bars if ("hex" in n) == ("hex" in name)]
    made = {bar.mass_kg + 2.0 * STEP_KG * step for bar in fitting for step in sides}
    found = []
    for total in sorted(made):
        bar = gym.bar_for(name, total)
        if bar is not None and round((total - bar.mass_kg) / 2.0 / STEP_KG) in sides:
            found.append(total)
    return tuple(found)


def _bar_at_hand_kg(name: str, load_kg: float, gym: Gym) -> float:
    fitting = [bars()[n] for n in gym.bars if ("hex" in n) == ("hex" in name)]
    lightest = min((bar.mass_kg for bar in fitting), default=0.0)
    if load_kg <= lightest:
        return lightest
    made = gym.loading(name, load_kg)
    if made is None:
        return lightest
    # The nearest may lie above what was asked: half a step less, then.
    lighter = gym.loading(name, max(load_kg - 1.25, lightest)) if made.off_kg > 1e-9 else made
    return made.total_kg if lighter is None else lighter.total_kg


def rep_max_kg(load_kg: float, reps: int) -> tuple[float, float]:
    """Estimate the one-rep maximum (kg) from a set to the limit: Epley 1985 and Brzycki 1993.

    w (1 + r / 30) and 36 w / (37 - r); both give 4/3 of the load at ten reps. One rep is itself.
    Raises `CaseError` outside 1 to 12 reps, where neither is believed.
    """
    if not 1 <= reps <= 12:
        raise CaseError(
            "out-of-range",
            f"{reps} reps; allowed is 1 to 12: beyond that the estimate is worth little",
            key="reps",
            value=reps,
            allowed=[1, 12],
        )
    if reps == 1:
        return load_kg, load_kg
    return load_kg * (1.0 + reps / 30.0), load_kg * 36.0 / (37.0 - reps)
