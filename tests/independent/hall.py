"""An independent model of one small group, request by request, in SimPy.

It shares no code with the engine. Customers come at random, wait in one line for a free clerk of any open desk, and give
up after a while. A manager looks at the busy share of the clerks once a minute, a little late, and opens or closes desks;
a new desk takes time to open, a closing one finishes whom it serves.
"""

import math
import random
from collections.abc import Callable
from dataclasses import dataclass, field

import simpy


@dataclass
class Terms:
    """How the group works; times in seconds, rates in 1/s, shares of one."""

    rate: Callable[[float], float]
    top_rate: float
    until: float
    clerks: int = 2
    service_rate: float = 10.0
    patience: float = 20.0
    opening: float = 150.0
    first: int = 1
    least: int = 1
    most: int = 10
    add_above: float = 0.7
    remove_below: float = 0.3
    window: int = 3
    add_wait: float = 300.0
    remove_wait: float = 300.0
    look: float = 60.0
    late: float = 30.0


@dataclass
class Course:
    """What came of it: the number of open desks and the length of the line at each look, and totals."""

    times: list[float] = field(default_factory=list)
    desks: list[int] = field(default_factory=list)
    line: list[int] = field(default_factory=list)
    came: int = 0
    served: int = 0
    gave_up: int = 0
    opened: int = 0
    closed: int = 0


class Hall:
    def __init__(self, terms: Terms, seed: int) -> None:
        self.terms, self.chance = terms, random.Random(seed)
        self.env = simpy.Environment()
        self.course = Course()
        self.line: list[simpy.Event] = []
        self.busy = 0
        self.desks = self.wanted = terms.first
        self.busy_time = self.open_time = 0.0
        self.since = 0.0
        self.readings: list[tuple[float, float]] = []
        self.may_add_at = self.may_remove_at = 0.0

    def run(self) -> Course:
        for work in (self.customers(), self.meter(), self.manager()):
            self.env.process(work)
        self.env.run(until=self.terms.until)
        return self.course

    def tally(self) -> None:
        """Bring the sums of busy and open clerk time up to now."""
        passed = self.env.now - self.since
        self.busy_time += min(self.busy, self.desks * self.terms.clerks) * passed
        self.open_time += self.desks * self.terms.clerks * passed
        self.since = self.env.now

    def customers(self):
        """Arrivals of a changing rate, by thinning (Lewis and Shedler, 1979)."""
        terms = self.terms
        while True:
            yield self.env.timeout(self.chance.expovariate(terms.top_rate))
            if self.chance.random() * terms.top_rate < terms.rate(self.env.now):
                self.course.came += 1
                self.env.process(self.customer())

    def customer(self):
        if self.line or self.busy >= self.desks * self.terms.clerks:
            called = self.env.event()
            self.line.append(called)
            yield called | self.env.timeout(self.terms.patience)
            if not called.triggered:
                self.line.remove(called)
                self.course.gave_up += 1
                return
        else:
            self.tally()
            self.busy += 1
        yield self.env.timeout(self.chance.expovariate(self.terms.service_rate))
        self.course.served += 1
        self.tally()
        self.busy -= 1
        self.call()

    def call(self) -> None:
        """Whoever is first in line goes to a free clerk."""
        while self.line and self.busy < self.desks * self.terms.clerks:
            self.tally()
            self.busy += 1
            self.line.pop(0).succeed()

    def meter(self):
        while True:
            yield self.env.timeout(self.terms.look)
            self.tally()
            self.readings.append((self.env.now, self.busy_time / self.open_time if self.open_time else 0.0))
            self.busy_time = self.open_time = 0.0

    def manager(self):
        terms, course = self.terms, self.course
        while True:
            yield self.env.timeout(terms.look)
            now = self.env.now
            course.times.append(now)
            course.desks.append(self.desks)
            course.line.append(len(self.line))
            known = [share for time, share in self.readings if time <= now - terms.late][-terms.window :]
            if 2 * len(known) < terms.window:
                continue
            mean = sum(known) / len(known)
            if mean > terms.add_above and now >= self.may_add_at and self.wanted < terms.most:
                self.wanted += 1
                self.may_add_at = now + terms.add_wait
                course.opened += 1
                self.env.process(self.opening())
            elif mean < terms.remove_below and now >= self.may_remove_at and self.wanted > terms.least:
                self.wanted -= 1
                self.may_remove_at = now + terms.remove_wait
                course.closed += 1
                self.tally()
                self.desks -= 1

    def opening(self):
        """A desk that was asked for opens, some time later."""
        yield self.env.timeout(self.terms.opening)
        self.tally()
        self.desks += 1
        self.call()


class SteadyHall(Hall):
    """The same with a manager who wants the clerks busy for a given share of their time, and after each change waits a while."""

    share, wait = 0.6, 180.0

    def __init__(self, terms: Terms, seed: int) -> None:
        super().__init__(terms, seed)
        self.desk_time = 0.0
        self.open: list[float] = []

    def tally(self) -> None:
        self.desk_time += self.desks * (self.env.now - self.since)
        super().tally()

    def meter(self):
        terms = self.terms
        while True:
            yield self.env.timeout(terms.look)
            self.tally()
            self.readings.append((self.env.now, self.busy_time / self.open_time))
            self.open.append(self.open_time / (terms.look * terms.clerks))
            self.busy_time = self.open_time = 0.0

    def manager(self):
        terms = self.terms
        while True:
            yield self.env.timeout(terms.look)
            known = [share for time, share in self.readings if time <= self.env.now - terms.late]
            if not known or self.env.now < self.may_add_at:
                continue
            want = math.ceil(known[-1] * self.open[len(known) - 1] / self.share - 1e-9)
            want = min(terms.most, max(terms.least, want))
            if want == self.wanted:
                continue
            self.may_add_at = self.env.now + self.wait
            for _ in range(want - self.wanted):
                self.env.process(self.opening())
            if want < self.wanted:
                self.tally()
                self.desks -= self.wanted - want
                self.course.closed += 1
            else:
                self.course.opened += 1
            self.wanted = want
