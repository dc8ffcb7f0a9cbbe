"""The week builder's problem as an integer programme, solved to proof by SciPy's milp (HiGHS)."""

from __future__ import annotations

from itertools import product

import numpy as np
import pytest
from scipy.optimize import Bounds, LinearConstraint, milp

from zesty_lever.plan.search import (
    MOST_A_WEEK,
    MOST_OF_A_FAMILY,
    MOST_ON_BACK,
    ONE_DIRECTION,
    REPEAT,
    SAME_FAMILY,
    UNEVEN,
    UNMET,
    Choice,
)


class Programme:
    """Columns: what stands where; needs unmet; days of one direction; options used; families twice; least, most."""

    def __init__(self, problem):
        p = self.p = problem
        self.n, self.d, self.k = len(p.worth), p.days, len(p.required)
        self.fams = int(p.family.max()) + 1
        self.base = self.d * self.n
        self.least = self.base + self.k + self.d + self.n + self.d * self.fams
        self.most = self.least + 1
        self.rows, self.low, self.high = [], [], []

    def x(self, day, option):
        return day * self.n + option

    def unmet(self, need):
        return self.base + need

    def single(self, day):
        return self.base + self.k + day

    def used(self, option):
        return self.base + self.k + self.d + option

    def twice(self, day, family):
        return self.base + self.k + self.d + self.n + day * self.fams + family

    def add(self, entries, low, high):
        row = np.zeros(self.most + 1)
        for column, value in entries:
            row[column] += value
        self.rows.append(row)
        self.low.append(low)
        self.high.append(high)

    def of_day(self, day, flags):
        return [(self.x(day, o), 1.0) for o in np.flatnonzero(flags)]

    def costs(self):
        cost = np.zeros(self.most + 1)
        for day, o in product(range(self.d), range(self.n)):
            cost[self.x(day, o)] = REPEAT - self.p.worth[o]
        for day, f in product(range(self.d), range(self.fams)):
            cost[self.twice(day, f)] = SAME_FAMILY
        cost[[self.single(day) for day in range(self.d)]] = ONE_DIRECTION
        cost[[self.used(o) for o in range(self.n)]] = -REPEAT
        cost[[self.unmet(need) for need in range(self.k)]] = UNMET
        cost[self.most], cost[self.least] = UNEVEN, -UNEVEN
        return cost

    def week_rules(self):
        p, days = self.p, range(self.d)
        for need in range(self.k):
            does = [e for day in days for e in self.of_day(day, p.does[:, need])]
            self.add([*does, (self.unmet(need), 1.0)], float(p.required[need]), np.inf)
        for o in range(self.n):
            own = [(self.x(day, o), 1.0) for day in days]
            self.add(own, 0, MOST_A_WEEK)
            self.add([(self.used(o), 1.0), *((c, -1.0) for c, _ in own)], -np.inf, 0.0)
        self.add([e for day in days for e in self.of_day(day, p.on_back)], 0, MOST_ON_BACK)
        for day, o in p.locked:
            self.add([(self.x(day, o), 1.0)], 1, 1)

    def day_rules(self, day):
        p = self.p
        self.add(self.of_day(day, np.ones(self.n, dtype=bool)), 0, p.slots[day])
        self.add(self.of_day(day, p.on_back), 0, 1)
        for f in range(self.fams):
            own = self.of_day(day, p.family == f)
            self.add(own, 0, MOST_OF_A_FAMILY)
            self.add([*own, (self.twice(day, f), -1.0)], -np.inf, 1.0)
        for other in p.neighbours(day):
            self.add([*self.of_day(day, p.on_back), *self.of_day(other, p.on_back)], 0, 1)
        for direction in range(3):
            others = self.of_day(day, p.direction != direction)
            self.add([*others, (self.single(day), 1.0)], 1.0, np.inf)
        back = [(self.x(day, o), float(p.back[o])) for o in range(self.n)]
        self.add([*back, (self.most, -1.0)], -np.inf, 0.0)
        self.add([*back, (self.least, -1.0)], 0.0, np.inf)


def proven_best(problem):
    """The best choice, proven; its score is what the programme says."""
    whole = Programme(problem)
    whole.week_rules()
    for day in range(whole.d):
        whole.day_rules(day)
    high, integers = np.ones(whole.most + 1), np.ones(whole.most + 1)
    high[whole.base : whole.base + whole.k] = 10
    high[[whole.least, whole.most]], integers[[whole.least, whole.most]] = 50, 0
    found = milp(
        whole.costs(),
        integrality=integers,
        bounds=Bounds(0, high),
        constraints=LinearConstraint(np.array(whole.rows), whole.low, whole.high),
        options={"time_limit": 60},
    )
    assert found.status == 0, found.message
    days = [[o for o in range(whole.n) if found.x[whole.x(day, o)] > 0.5] for day in range(whole.d)]
    choice = Choice(problem, days)
    assert -found.fun == pytest.approx(choice.score(), abs=1e-3)
    return choice
